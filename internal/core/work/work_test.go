package work

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestAFaultOfAPartIsThatOfTheWhole(t *testing.T) {
	for part := range 3 {
		err := Do(func() {
			Each(3, func(at int) {
				Each(2, func(within int) {
					if at == part && within == 0 {
						panic("no such field")
					}
				})
			})
		})
		var fault *Fault
		require.ErrorAs(t, err, &fault)
		require.Equal(t, "no such field", fault.Value)
		require.Contains(t, string(fault.Stack), "TestAFaultOfAPartIsThatOfTheWhole.func1.1", "where it happened")
	}
	require.NoError(t, Do(func() { Each(0, nil) }))
}

func TestAComputationEndsWithItsContext(t *testing.T) {
	ctx, cancel := context.WithCancelCause(t.Context())
	gone := errors.New("the client has gone")
	ran := 0
	err := Do(func() {
		Each(1, func(int) {
			for {
				Check(ctx)
				ran++
				cancel(gone)
			}
		})
	})
	var stop *Stop
	require.ErrorAs(t, err, &stop)
	require.ErrorIs(t, err, gone)
	require.Equal(t, 1, ran)
}

func TestSplitRunsEveryItemOnceAndSortSorts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.SampledFrom([]int{0, 1, Fewest - 1, Fewest, 2*Fewest - 1, 2 * Fewest, 5*Fewest + 3}).Draw(t, "n")
		items := make([]int, n)
		Split(n, func(from, to int) {
			for i := from; i < to; i++ {
				items[i] += i * 7919 % 1009
			}
		})
		want := slices.Clone(items)
		slices.Sort(want)
		Sort(items, cmp.Compare[int])
		require.Equal(t, want, items)
	})
}
