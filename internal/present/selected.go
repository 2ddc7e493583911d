package present

import (
	"cmp"
	"fmt"

	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/query"
)

// Selected says which of the selected orders are listed.
func Selected(q duration.Question, s duration.Selection) string {
	words := "all selected orders"
	switch s.Placed {
	case query.Outside:
		words = fmt.Sprintf("orders with %s outside %s", q.Basis.Date(), q.Periods[0].Text)
	case query.Undated:
		words = fmt.Sprintf("undated orders (no %s)", q.Basis.Date())
	case query.Unmet:
		words = "orders that do not meet the condition"
	case query.Undecided:
		words = "orders that lack what the condition asks about"
	}
	if parsed, err := leg.ParseState(s.State); err == nil {
		words = q.Leg.Label(parsed)
	} else if known, is := stateWords[s.State]; is {
		words = known
	} else if s.State != "" {
		words = s.State
	}
	if q.Limit != nil && s.LimitOutcome != "" {
		words += ", " + fmt.Sprintf(beyondWords[s.LimitOutcome], q.Limit.Words(q.Measure.Unit))
	}
	if s.Standing == duration.LateOutcomes {
		words += ", late, open or not"
	} else if standing, err := promise.Parse(s.Standing); err == nil {
		words += ", " + standing.Label(q.Leg.To)
	}
	for i, key := range s.Keys {
		words += fmt.Sprintf(", %v %s", q.By[i], cmp.Or(key, "(none)"))
	}
	if s.Note != "" {
		words += ", " + noteWords[s.Note]
	}
	unit := q.Measure.Unit
	switch shortest, longest := s.Shortest, s.Longest; {
	case shortest != nil && longest != nil && *shortest == *longest:
		words += ", " + unit.Length(*shortest)
	case shortest != nil && longest != nil:
		words += fmt.Sprintf(", %s to %s", unit.Text(*shortest), unit.Length(*longest))
	case shortest != nil:
		words += ", at least " + unit.Length(*shortest)
	case longest != nil:
		words += ", at most " + unit.Length(*longest)
	}
	return words
}

var stateWords = map[string]string{
	duration.Ended:    "with the leg complete",
	duration.EveryLeg: "with every leg of the chain complete",
}

// beyondWords say what a limit makes of orders, around its own words.
var beyondWords = map[string]string{
	duration.Finished:      "finished, took %s",
	duration.StillWaiting:  "still running, %s so far",
	duration.Within:        "finished, not %s",
	duration.NotOver:       "still running, not %s so far",
	duration.CancelledOver: "cancelled, %s by then",
}

var noteWords = map[string]string{
	duration.NoteNegative:        "negative lengths",
	duration.NoteHolidaysUnknown: "holidays unknown on some day",
	duration.NoteDefaultCalendar: "counted by the default calendar",
	duration.NoteCutOff:          "ordered after the cut-off",
	duration.NoteCutOffUntimed:   "without a known time of day, at a site with a cut-off",
	duration.NoteStandIn:         "with a day that stands in for a missing one",
	duration.NoteUnequalMissing:  "without one of the two values that the condition compares with !=",
}
