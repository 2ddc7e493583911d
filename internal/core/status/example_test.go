package status_test

import (
	"fmt"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/status"
	"prairiedusk/internal/demo/demobook"
)

// Where orders stood at the end of a day, by their status records.
func ExampleLatest() {
	b := demobook.New(3, func(o *book.Order) {
		at := func(d day.Day, name string) parts.StatusRecord {
			return parts.StatusRecord{Status: name, At: parts.Day{Day: d}, Source: parts.Event}
		}
		o.Statuses = []parts.StatusRecord{at(day.Of(2026, 3, 2), "picking"), at(day.Of(2026, 3, 3+int(o.ID)), "packed")}
	})
	q, err := status.Parse(b, status.Request{At: "2026-03-05"})
	if err != nil {
		fmt.Println(err)
		return
	}
	h := q.History(b)
	for code, c := range status.Latest(h, q).Total.Cells {
		if c.Count > 0 {
			fmt.Println(h.Statuses[code].Name, c.Count)
		}
	}
	// Output:
	// picking 1
	// packed 2
}
