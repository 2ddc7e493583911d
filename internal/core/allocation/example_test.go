package allocation_test

import (
	"fmt"

	"prairiedusk/internal/core/allocation"
	"prairiedusk/internal/core/day"
)

// An order of 100.00 with one line of 10 units, of which 5 are cancelled and 2 were shipped.
func ExampleAllocate() {
	const thousandths = 1000
	order := allocation.Order{
		Lines: []allocation.Line{{Units: 10 * thousandths, Cancelled: 5 * thousandths, Value: allocation.None,
			CancelledOn: day.Of(2026, 7, 3)}},
		Shipments: []allocation.Shipment{{Line: 0, Units: 2 * thousandths, Days: [allocation.Goals]day.Day{day.Of(2026, 7, 2)}}},
		Value:     100_00,
		Decimals:  2,
		DataDate:  day.Of(2026, 7, 10),
	}
	var space allocation.Space
	for _, piece := range allocation.Allocate(&order, &space) {
		what := [...]string{allocation.Gone: "shipped", allocation.Left: "not shipped yet", allocation.Cancelled: "cancelled"}[piece.Kind]
		fmt.Printf("%s: %d units, %d.%02d\n", what, piece.Units/thousandths, piece.Value/100, piece.Value%100)
	}
	// Unordered output:
	// shipped: 2 units, 20.00
	// not shipped yet: 3 units, 30.00
	// cancelled: 5 units, 50.00
}
