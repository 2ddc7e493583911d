package distribution

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The statistics of the rules by hand, and what there is none of.
func TestStatisticsByName(t *testing.T) {
	shown, err := ParseStatistics([]string{"p0", "p100", "p62.5", "median", "mean", "standard-deviation", "min", "max"})
	require.NoError(t, err)
	d := Of(map[int]int{1: 2, 4: 1, 10: 1, 12: 1})
	var got []float64
	for _, s := range shown {
		got = append(got, math.Round(s.Of(d)*1e6)/1e6)
	}
	// 1 1 4 10 12: rank 2.5 lies between 4 and 10; the squares of the differences from 5.6 sum to 105.2.
	assert.Equal(t, []float64{1, 12, 7, 4, 5.6, 5.128353, 1, 12}, got)
	for _, s := range shown {
		assert.True(t, math.IsNaN(s.Of(nil)), "%v of nothing", s)
	}
	one := Of(map[int]int{7: 1})
	assert.True(t, math.IsNaN(shown[5].Of(one)), "one length has no deviation")
	standard, err := ParseStatistics(nil)
	require.NoError(t, err)
	assert.Len(t, standard, len(DefaultStatistics))
	for _, wrong := range [][]string{{"p-1"}, {"p"}, {"pNaN"}, {"p1e3"}, {"average"}, {"mean", "mean"}, {""}} {
		_, err := ParseStatistics(wrong)
		assert.Error(t, err, "%q", wrong)
	}
}

// A picture's stretches hold every order, are of one of the widths 1, 2, 5, 10, … and no more than asked for.
func TestDistributionsAreGatheredInStretches(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var d Distribution
		for length := rapid.IntRange(-5000, 0).Draw(t, "first"); length < rapid.IntRange(0, 90_000).Draw(t,
			"last"); length += rapid.IntRange(1, 9000).Draw(t, "gap") {
			d = d.With(length, rapid.IntRange(1, 5).Draw(t, "orders"))
		}
		finest, most := rapid.SampledFrom([]int{1, 7, 3600}).Draw(t, "finest"), rapid.IntRange(2, 40).Draw(t, "most")
		gathered, width := d.Gathered(finest, most)
		require.Equal(t, d.Orders(), gathered.Orders())
		require.Zero(t, width%finest)
		steps := width / finest
		for steps%10 == 0 {
			steps /= 10
		}
		require.Contains(t, []int{1, 2, 5}, steps)
		at := 0
		for _, bar := range gathered {
			require.Zero(t, bar.Length%width)
			orders := 0
			for ; at < len(d) && d[at].Length < bar.Length+width; at++ {
				require.GreaterOrEqual(t, d[at].Length, bar.Length)
				orders += d[at].Orders
			}
			require.Equal(t, orders, bar.Orders)
		}
		require.Equal(t, len(d), at)
		if len(d) > 0 {
			require.LessOrEqual(t, d.span(width), most)
		}
	})
}

// The ranks between which a median and a percentile lie with at least 95%, from tables of the binomial distribution; and of the mean.
func TestIntervals(t *testing.T) {
	for _, tt := range []struct {
		n, from, to int // ranks from 1; 0 where it is not known
		p           float64
	}{
		{5, 0, 0, 0.5}, {6, 1, 6, 0.5}, {8, 1, 8, 0.5}, {9, 2, 8, 0.5}, {10, 2, 9, 0.5}, {20, 6, 15, 0.5}, {100, 40, 61, 0.5}, {20, 0, 0, 0.9},
		{100, 84, 96, 0.9}, {1_000_000, 499_020, 500_981, 0.5},
	} {
		var d Distribution
		for i := range tt.n {
			d = append(d, Bar{i + 1, 1})
		}
		ranks := QuantileRanks(tt.n, tt.p)
		assert.Equal(t, Ranks{tt.from, tt.to}, ranks, "%d at %v", tt.n, tt.p)
		if ranks.Low > 0 {
			low, high := d.Between(ranks)
			assert.Equal(t, []int{tt.from, tt.to}, []int{low, high}, "%d at %v", tt.n, tt.p)
		}
	}
	low, high, known := Distribution{{2, 1}, {4, 1}, {9, 1}}.MeanInterval()
	assert.True(t, known)
	assert.InDelta(t, 5-4.302653*3.605551/math.Sqrt(3), low, 1e-5)
	assert.InDelta(t, 5+4.302653*3.605551/math.Sqrt(3), high, 1e-5)
	_, _, known = Distribution{{2, 1}}.MeanInterval()
	assert.False(t, known)
}
