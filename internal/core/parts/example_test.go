package parts_test

import (
	"fmt"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/parts"
)

// An order is shipped on the day on which its last units left.
func ExampleDerive() {
	units := func(n int64) parts.Quantity { return parts.Quantity{Thousandths: n * 1000, Known: true} }
	shipped := func(of int) parts.Day { return parts.Day{Day: day.Of(2026, 7, of)} }
	order := parts.Order{
		Lines: []parts.Line{{Number: "1", Units: units(3)}},
		Shipments: []parts.Shipment{{Number: "a", Line: "1", Units: units(2), Shipped: shipped(2)},
			{Number: "b", Line: "1", Units: units(1), Shipped: shipped(6)}},
	}
	for _, dataDate := range []day.Day{day.Of(2026, 7, 5), day.Of(2026, 7, 6)} {
		m := parts.Derive(order, dataDate)
		fmt.Println(m.Shipped.First.Day, m.Shipped.Day.Day, m.Findings.Words())
	}
	// Output:
	// 2026-07-02  [part shipped]
	// 2026-07-02 2026-07-06 []
}
