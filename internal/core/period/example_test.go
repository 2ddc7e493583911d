package period_test

import (
	"fmt"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/period"
)

// Relative periods are whole ones that end at the data date or before it.
func ExampleParse() {
	bounds := period.Bounds{FirstDay: day.Of(2025, 1, 1), DataDate: day.Of(2026, 10, 31)}
	periods, _ := period.Parse("2026-Q3, last-month, last-90-days", bounds)
	for _, p := range periods {
		fmt.Println(p.Text, p.Days())
	}
	// Output:
	// 2026-Q3 2026-07-01 to 2026-09-30
	// last-month 2026-09-01 to 2026-09-30
	// last-90-days 2026-08-03 to 2026-10-31
}
