package predicate_test

import (
	"fmt"

	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/demo/demobook"
)

// Of an order that lacks what is asked about, a condition is undecided.
func ExampleBound_One() {
	b := demobook.New(300)
	late := predicate.Compare{Operator: predicate.Greater, X: predicate.Day("shipped"), Y: predicate.Day("promised")}
	bound := predicate.Bind(b, late, func(string) int { return 2 })
	counts := map[predicate.Truth]int{}
	for _, block := range b.Blocks() {
		for row := range block.IDs {
			counts[bound.One(block, row)]++
		}
	}
	fmt.Println(counts[predicate.True], "late,", counts[predicate.False], "not,", counts[predicate.Undecided], "undecided")
	// Output:
	// 76 late, 191 not, 33 undecided
}
