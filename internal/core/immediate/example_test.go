package immediate_test

import (
	"fmt"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/immediate"
)

// Whether an order was immediate is told by two of its days.
func ExampleAskedOf() {
	ordered := day.Of(2026, 3, 2)
	for _, requested := range []day.Day{ordered, ordered + 1, ordered - 1, 0} {
		fmt.Println(immediate.AskedOf(ordered, requested))
	}
	// Output:
	// immediate
	// booked-ahead
	// requested-before-ordered
	// no-requested-date
}
