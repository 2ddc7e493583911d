package promise_test

import (
	"fmt"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/promise"
)

// An order that is still open on its due day is not late yet.
func ExampleOf() {
	dataDate := day.Of(2026, 10, 31)
	for _, d := range []promise.Days{
		{Due: day.Of(2026, 10, 20), Reached: day.Of(2026, 10, 20)},
		{Due: day.Of(2026, 10, 20), Reached: day.Of(2026, 10, 21)},
		{Due: dataDate},
		{Due: dataDate - 1},
		{},
	} {
		outcome := promise.Of(d, dataDate)
		fmt.Println(outcome, outcome.Late())
	}
	// Output:
	// on-the-day false
	// reached-late true
	// not-due false
	// overdue true
	// no-promise false
}
