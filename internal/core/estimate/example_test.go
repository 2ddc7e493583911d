package estimate_test

import (
	"fmt"

	"prairiedusk/internal/core/estimate"
)

// Of four orders two were shipped, after 2 and 4 days; one still waits after 3 days, and one after 5.
func ExampleProductLimit() {
	shipped := []estimate.Count{{Length: 2, Orders: 1}, {Length: 4, Orders: 1}}
	waiting := []estimate.Count{{Length: 3, Orders: 1}, {Length: 5, Orders: 1}}
	for _, p := range estimate.ProductLimit(shipped, waiting) {
		fmt.Printf("%d days: %d at risk, %.3f take longer\n", p.Length, p.AtRisk, p.Beyond)
	}
	// Output:
	// 2 days: 4 at risk, 0.750 take longer
	// 4 days: 2 at risk, 0.375 take longer
}
