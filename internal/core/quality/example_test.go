package quality_test

import (
	"fmt"

	"prairiedusk/internal/core/quality"
	"prairiedusk/internal/demo/demobook"
)

// What looks wrong in a book, with how many orders each concerns.
func ExampleCount() {
	b := demobook.New(300)
	counts := quality.Count(b)
	for i, d := range quality.All() {
		if counts[i] > 0 {
			fmt.Println(counts[i], d.Code)
		}
	}
	// Output:
	// 2 no-ordered-day
	// 4 shipped-before-ordered
	// 2 cancelled-before-ordered
	// 2 shipped-after-cancelled
	// 5 fact-ahead
	// 2 no-site
	// 1 no-currency
}
