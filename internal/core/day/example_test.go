package day_test

import (
	"fmt"

	"prairiedusk/internal/core/day"
)

// Days are whole and compare as numbers.
func ExampleParse() {
	first, _ := day.Parse("2026-06-29")
	last, _ := day.Parse("2026-07-10")
	fmt.Println(int(last-first), first.Weekday(), first+11 == last)
	_, err := day.Parse("2026-02-30")
	fmt.Println(err)
	// Output:
	// 11 Monday true
	// "2026-02-30" is not a day: February 2026 has no day 30; want YYYY-MM-DD from 1900-01-01 to 2199-12-31
}

// From the last day of a month to that of a shorter one a whole month has passed.
func ExampleMonthsCompleted() {
	fmt.Println(day.MonthsCompleted(day.Of(2026, 1, 31), day.Of(2026, 2, 28)), day.MonthsCrossed(day.Of(2026, 1, 31), day.Of(2026, 2, 1)))
	// Output: 1 1
}
