package estimate

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func counts(lengths ...int) (all []Count) {
	for _, length := range lengths {
		all = append(all, Count{length, 1})
	}
	return merged(all)
}

// merged has each length once.
func merged(all []Count) (one []Count) {
	for _, c := range sorted(all) {
		if last := len(one) - 1; last >= 0 && one[last].Length == c.Length {
			one[last].Orders += c.Orders
			continue
		}
		one = append(one, c)
	}
	return one
}

// The remission times of Freireich et al., 1963, with the figures that are published for them.
func TestPublishedRemissionTimes(t *testing.T) {
	curve := ProductLimit(counts(6, 6, 6, 7, 10, 13, 16, 22, 23), counts(6, 9, 10, 11, 17, 19, 20, 25, 32, 32, 34, 35))
	at := map[int]Point{}
	for _, p := range curve {
		at[p.Length] = p
	}
	for length, want := range map[int]string{6: "0.8571 0.0764", 10: "0.7529 0.0963", 23: "0.4482 0.1346"} {
		assert.Equal(t, want, fmt.Sprintf("%.4f %.4f", at[length].Beyond, at[length].StandardError), "at %d", length)
	}
	assert.Equal(t, "0.5032 0.8894", fmt.Sprintf("%.4f %.4f", at[10].Low, at[10].High))
	assert.Equal(t, []int{21, 3}, []int{at[6].AtRisk, at[6].Ended}, "at equal lengths ends come first")
	median, reached := curve.Median()
	assert.True(t, reached)
	assert.Equal(t, 23.0, median)
	_, reached = ProductLimit(counts(6), counts(7, 8)).Median()
	assert.False(t, reached, "more than half still run")
	last := ProductLimit(counts(3, 5), nil)[1]
	assert.Zero(t, last.Beyond)
	assert.True(t, math.IsNaN(last.Low) && math.IsNaN(last.High), "no bounds at 0")
	assert.Empty(t, ProductLimit(nil, counts(1)))
}

// The published data with others that were cancelled, some on the lengths of ends: they count as known to have taken longer, as
// going through the lengths one by one has it.
func TestPublishedRemissionTimesWithCancelledOnes(t *testing.T) {
	ended := []int{6, 6, 6, 7, 10, 13, 16, 22, 23}
	censored := []int{6, 9, 10, 11, 17, 19, 20, 25, 32, 32, 34, 35, 3, 6, 7, 8, 22, 23, 40} // from 3 on those that were cancelled
	curve := ProductLimit(counts(ended...), counts(censored...))
	beyond, sum := 1.0, 0.0
	for i, length := range []int{6, 7, 10, 13, 16, 22, 23} {
		atRisk, ends := 0, 0
		for _, l := range append(slices.Clone(ended), censored...) {
			if l >= length {
				atRisk++
			}
		}
		for _, l := range ended {
			if l == length {
				ends++
			}
		}
		beyond *= 1 - float64(ends)/float64(atRisk)
		sum += float64(ends) / float64(atRisk*(atRisk-ends))
		assert.Equal(t, []int{length, atRisk, ends}, []int{curve[i].Length, curve[i].AtRisk, curve[i].Ended})
		assert.InDelta(t, beyond, curve[i].Beyond, 1e-12)
		assert.InDelta(t, beyond*math.Sqrt(sum), curve[i].StandardError, 1e-12)
	}
	assert.Len(t, curve, 7)
}

// When nothing runs the curve is the plain share, and its median the plain median; with running legs it agrees with going
// through every length by itself, and the shares leave the rest to what waits.
func TestCurvesAgreeWithThePlainFigures(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		lengths := rapid.SliceOfN(rapid.IntRange(-3, 12), 1, 30)
		ended := lengths.Draw(t, "ended")
		slices.Sort(ended)
		curve := ProductLimit(counts(ended...), nil)
		for _, p := range curve {
			longer := 0
			for _, length := range ended {
				if length > p.Length {
					longer++
				}
			}
			require.InDelta(t, float64(longer)/float64(len(ended)), p.Beyond, 1e-9)
		}
		median, reached := curve.Median()
		require.True(t, reached)
		require.Equal(t, float64(ended[(len(ended)-1)/2]+ended[len(ended)/2])/2, median)

		running, cancelled := rapid.SliceOfN(rapid.IntRange(-3, 14), 0, 30).Draw(t, "running"),
			rapid.SliceOfN(rapid.IntRange(0, 12), 0, 10).Draw(t, "cancelled")
		beyond, at := 1.0, 0
		curve = ProductLimit(counts(ended...), counts(running...))
		for length := -3; length <= 12; length++ {
			atRisk, ends := 0, 0
			for _, l := range ended {
				if l >= length {
					atRisk++
				}
				if l == length {
					ends++
				}
			}
			for _, l := range running {
				if l >= length {
					atRisk++
				}
			}
			if ends == 0 {
				continue
			}
			beyond *= 1 - float64(ends)/float64(atRisk)
			require.Equal(t, []int{length, atRisk, ends}, []int{curve[at].Length, curve[at].AtRisk, curve[at].Ended})
			require.InDelta(t, beyond, curve[at].Beyond, 1e-9)
			if !math.IsNaN(curve[at].Low) {
				require.True(t, curve[at].Low <= beyond+1e-9 && beyond <= curve[at].High+1e-9)
			}
			at++
		}
		require.Equal(t, at, len(curve))

		shares := Shares(counts(ended...), counts(cancelled...), counts(running...))
		all := ProductLimit(counts(append(slices.Clone(ended), cancelled...)...), counts(running...))
		require.Equal(t, len(all), len(shares))
		for i, s := range shares {
			require.InDelta(t, 1-all[i].Beyond, s.Ended+s.Cancelled, 1e-9, "what has become of all, and what waits, make 1")
		}
		if len(cancelled) == 0 {
			for i, s := range shares {
				require.InDelta(t, 1-curve[i].Beyond, s.Ended, 1e-9)
			}
		}
	})
}

// Where nothing still runs, the median of those that have waited is told by counting them.
func TestMedianOfThoseThatWaited(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		lengths := rapid.SliceOfN(rapid.IntRange(0, 12), 1, 60).Draw(t, "lengths")
		waited := rapid.IntRange(-1, 13).Draw(t, "waited")
		counts := map[int]int{}
		longer := 0
		for _, l := range lengths {
			counts[l]++
			if l > waited {
				longer++
			}
		}
		var ended []Count
		for l, n := range counts {
			ended = append(ended, Count{l, n})
		}
		got, reached := ProductLimit(ended, nil).MedianAfter(waited)
		if reached != (longer > 0) {
			t.Fatalf("%d waited longer, reached %v", longer, reached)
		}
		for l, by := waited+1, 0; reached; l++ {
			if by += counts[l]; 2*by >= longer {
				if l != got {
					t.Fatalf("want %d, got %d", l, got)
				}
				return
			}
		}
	})
}

// The promises that the remission times of Freireich et al., 1963, show: see the package's other tests.
func TestKept(t *testing.T) {
	ended := []Count{{6, 3}, {7, 1}, {10, 1}, {13, 1}, {16, 1}, {22, 1}, {23, 1}}
	censored := []Count{{6, 1}, {9, 1}, {10, 1}, {11, 1}, {17, 1}, {19, 1}, {20, 1}, {25, 1}, {32, 2}, {34, 1}, {35, 1}}
	c := ProductLimit(ended, censored)
	length, low, high := c.Kept(0.25)                           // S(10) is .7529, S(13) .6902
	assert.Equal(t, []int{13, 6, 22}, []int{length, low, high}) // the lower bound at 6 is .6197, the upper one at 22 .7468
	length, low, high = c.Kept(0.5)
	assert.Equal(t, []int{23, 13, Never}, []int{length, low, high})
	length, _, _ = c.Kept(0.9)
	assert.Equal(t, Never, length)
}
