package leg_test

import (
	"fmt"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
)

// From a Friday to the Tuesday after it: two working days by the default rule, three with both ends.
func ExampleMeasure_Length() {
	own, _ := calendar.New(calendar.Definition{Name: "Galway"})
	friday := day.Of(2026, 3, 6)
	for _, rule := range []leg.Rule{leg.Elapsed, leg.BothEnds} {
		measure := leg.Measure{Unit: leg.WorkingDays, Rule: rule}
		ticks, state := measure.Length(calendar.Local{Calendar: own}, leg.Stretch{Start: friday, End: friday + 4})
		fmt.Println(measure, measure.Unit.Length(ticks), state)
	}
	// Output:
	// working days, start day not counted 2 working days complete
	// working days, both ends counted 3 working days complete
}
