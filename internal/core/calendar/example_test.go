package calendar_test

import (
	"fmt"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
)

// A week of four days, with a holiday.
func ExampleNew() {
	week, _ := calendar.ParseWeek("Mon Tue Wed Thu")
	c, _ := calendar.New(calendar.Definition{
		Name:     "Galway",
		Patterns: []calendar.Pattern{{From: day.Of(2026, 1, 1), Week: week}},
		Holidays: []calendar.NamedDay{{Day: day.Of(2026, 7, 1), Name: "Fair day"}},
	})
	for d := day.Of(2026, 6, 29); d < day.Of(2026, 7, 4); d++ {
		if _, name := c.Kind(d); name != "" {
			fmt.Println(d, "not worked:", name)
			continue
		}
		fmt.Println(d, c.Works(d))
	}
	// Output:
	// 2026-06-29 true
	// 2026-06-30 true
	// 2026-07-01 not worked: Fair day
	// 2026-07-02 true
	// 2026-07-03 false
}
