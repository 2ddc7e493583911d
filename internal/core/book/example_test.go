package book_test

import (
	"fmt"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
)

// A book never changes: the next one is built from it, and the first stays as it was.
func ExampleBuilder() {
	layout := book.BuiltIn()
	calendars, _ := book.NewCalendars(nil)
	settings := book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: day.Of(2026, 1, 1), DataDate: day.Of(2026, 6, 30)}}
	put := func(to *book.Builder, number string) {
		o := book.Order{ID: int64(len(number)), Number: number, Days: make([]day.Day, len(layout.Milestones))}
		o.Days[milestone.Index(layout.Milestones, milestone.Ordered)] = day.Of(2026, 3, 2)
		to.Put(o)
	}
	builder := book.NewBuilder(layout)
	put(builder, "A")
	first := builder.Finish(settings)
	next := first.Next()
	put(next, "BB")
	second := next.Finish(settings)
	row, found := second.Find("BB")
	fmt.Println(first.Orders(), second.Orders(), row, found)
	// Output:
	// 1 2 1 true
}
