package crosstab_test

import (
	"fmt"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/crosstab"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
)

// Three orders by two dates: one of March went in March, one in April, and one of February went in March.
func ExampleAsk() {
	builder := book.NewBuilder(book.BuiltIn())
	for i, days := range [][2]string{{"2025-03-10", "2025-03-12"}, {"2025-03-28", "2025-04-02"}, {"2025-02-27", "2025-03-03"}} {
		o := book.Order{ID: int64(i), Number: fmt.Sprint("N", i), Days: make([]day.Day, len(milestone.BuiltIn()))}
		for k, name := range []string{milestone.Ordered, milestone.Shipped} {
			o.Days[milestone.Index(milestone.BuiltIn(), name)], _ = day.Parse(days[k])
		}
		builder.Put(o)
	}
	calendars, _ := book.NewCalendars(nil)
	first, _ := day.Parse("2025-01-01")
	b := builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: first, DataDate: first + 180}})

	q, err := crosstab.Parse(b, crosstab.Request{Bases: []string{milestone.Ordered, milestone.Shipped}, Period: "2025-03"})
	if err != nil {
		fmt.Println(err)
		return
	}
	answer, _ := crosstab.Ask(b, q)
	fmt.Println(q.Sentence())
	for _, table := range answer.Parts[0].Tables {
		fmt.Println(table.Basis.Name, table.Total.Total.Amount)
	}
	for _, step := range answer.Parts[0].Bridges[0].Steps {
		if step.Amount > 0 {
			fmt.Println(step.From, "→", step.To, step.Amount)
		}
	}
	// Output:
	// How many orders were ordered, and shipped, in 2025-03?
	// ordered 2
	// shipped 2
	// inside → inside 1
	// inside → after 1
	// before → inside 1
}
