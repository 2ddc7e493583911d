// Package querytest checks accumulators: whoever counts, the stretches that orders come in and the order in which the counts are
// merged must not matter.
package querytest

import (
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/query"
)

// Check deals the orders of a scope, in stretches of drawn lengths, to several accumulators, merges them as drawn, and goes on
// counting in what was merged. The figures, which are read from an accumulator at the end, must be those that Run gives.
func Check[A query.Accumulator[A]](t *rapid.T, scope *query.Scope, fresh func() A, figures func(A) any) {
	want, _ := query.Run(scope, fresh)
	workers := []A{fresh()}
	for range rapid.IntRange(0, 3).Draw(t, "more workers") {
		workers = append(workers, fresh())
	}
	pick := func(label string) int { return rapid.IntRange(0, len(workers)-1).Draw(t, label) }
	merge := func(into, from int) {
		workers[into].Merge(workers[from])
		workers[from] = workers[len(workers)-1]
		workers = workers[:len(workers)-1]
	}
	for _, whole := range scope.Book.Stretches(query.StretchRows) {
		for from := whole.From; from < whole.To; {
			to := min(whole.To, from+rapid.IntRange(1, 9).Draw(t, "rows"))
			query.Show(scope, book.Stretch{Block: whole.Block, From: from, To: to, Row: whole.Row + from - whole.From},
				workers[pick("worker")])
			if from = to; len(workers) > 1 && rapid.IntRange(0, 9).Draw(t, "merge early") == 0 {
				if a, b := pick("into"), pick("from"); a != b {
					merge(a, b)
				}
			}
		}
	}
	if rapid.Bool().Draw(t, "one that has seen nothing") {
		workers = append(workers, fresh())
	}
	for len(workers) > 1 {
		from := 1 + rapid.IntRange(0, len(workers)-2).Draw(t, "next")
		merge(0, from)
	}
	require.Equal(t, figures(want), figures(workers[0]))
}
