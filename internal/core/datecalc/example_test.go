package datecalc_test

import (
	"fmt"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/datecalc"
)

// Monday to Friday of the next week are nine working days; the start is not counted.
func ExampleDo() {
	weekdays, _ := calendar.New(calendar.Definition{Name: "weekdays"})
	answer, _ := datecalc.Do(calendar.Local{Calendar: weekdays}, datecalc.Request{From: "2026-06-29", To: "2026-07-10"})
	fmt.Println(answer.Words)
	// Output: 9 working days
}
