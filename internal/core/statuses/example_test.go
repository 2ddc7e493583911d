package statuses_test

import (
	"fmt"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/statuses"
)

// Records of every day fold into unbroken runs of one status.
func ExampleCollapse() {
	const picking, packed = 1, 2
	monday := day.Of(2026, 3, 2)
	var records []statuses.Record
	for i, code := range []uint32{picking, picking, packed, picking} {
		records = append(records, statuses.Record{Status: code, Day: monday + day.Day(i), Sequence: book.None})
	}
	periods, _ := statuses.Collapse(records, &statuses.Rules{Final: make([]bool, 3), DataDate: monday + 30}, nil)
	for _, p := range periods {
		fmt.Println(p.Status, p.From, p.LastSeen)
	}
	// Output:
	// 1 2026-03-02 2026-03-03
	// 2 2026-03-04 2026-03-04
	// 1 2026-03-05 2026-03-05
}
