package distribution_test

import (
	"fmt"

	"prairiedusk/internal/core/distribution"
)

// Percentiles come from counts, and interpolate between neighbours.
func ExampleDistribution() {
	lengths := distribution.Of(map[int]int{1: 3, 2: 4, 9: 1})
	fmt.Printf("%d orders, mean %.1f, median %.1f, p90 %.1f, longest %d\n", lengths.Orders(), lengths.Mean(), lengths.Quantile(0.5),
		lengths.Quantile(0.9), lengths.Max())
	// Output:
	// 8 orders, mean 2.5, median 2.0, p90 4.1, longest 9
}
