package leg

import (
	"fmt"
	"math"
	"slices"
	"strconv"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/spelling"
)

// A Unit is what a length is counted in. The zero Unit is days.
type Unit uint8

// Of months and years there are three ways of counting, which never share a heading.
const (
	Days Unit = iota
	WorkingDays
	Weeks
	Months // completed
	Years  // completed
	MonthsCrossed
	YearsCrossed
	MonthsFraction
	Hours
	WorkingHours
	units
)

// stepsOfMonth divides into the days of a month of any length, so that a fraction of a month is a whole number
// of steps.
const stepsOfMonth = 28 * 15 * 29 * 31

// facts are what there is to know about a unit.
var unitFacts = [units]struct {
	name, words, one string // one of it
	ticks            int    // of which a unit has so many; lengths are whole numbers of ticks
	stretch          int    // ticks that are too fine to tell apart in a picture
	refused          string // why both ends cannot be counted; empty where they can
}{
	Days:        {"days", "days", "day", 1, 1, ""},
	WorkingDays: {"working-days", "working days", "working day", 1, 1, ""},
	Weeks:       {"weeks", "weeks", "week", 7, 7, ""},
	Months: {"months", "months completed", "month completed", 1, 1,
		"a month is completed on the day of the month on which it began, so that no first day is left to count"},
	Years: {"years", "years completed", "year completed", 1, 1,
		"a year is completed on the day on which it began, so that no first day is left to count"},
	MonthsCrossed: {"months-crossed", "months crossed", "month crossed", 1, 1,
		"what is counted is the ends of months in between, and neither end is one"},
	YearsCrossed: {"years-crossed", "years crossed", "year crossed", 1, 1,
		"what is counted is the ends of years in between, and neither end is one"},
	MonthsFraction: {"months-fraction", "months with fractions", "month", stepsOfMonth, stepsOfMonth / 10,
		"the fraction is of the month step that begins on the first day, so that no first day is left to count"},
	Hours: {"hours", "hours", "hour", 3600, 3600, "hours pass between two instants, and an instant has no length to count"},
	WorkingHours: {"working-hours", "working hours", "working hour", 3600, 3600,
		"hours pass between two instants, and an instant has no length to count"},
}

// String is the unit's name in the API and on the command line.
func (u Unit) String() string {
	if u < units {
		return unitFacts[u].name
	}
	return fmt.Sprintf("Unit(%d)", u)
}

// Words is the unit for people.
func (u Unit) Words() string { return unitFacts[u].words }

// Ticks is how many ticks a unit has. Lengths are whole numbers of ticks, so that none is rounded: a week has 7,
// an hour 3,600, a month with fractions as many as every length of a month divides into.
func (u Unit) Ticks() int { return unitFacts[u].ticks }

// Number is a length in units.
func (u Unit) Number(ticks int) float64 { return float64(ticks) / float64(u.Ticks()) }

// Text is a length in units for people: whole where it is, else with two decimals.
func (u Unit) Text(ticks int) string {
	if ticks%u.Ticks() == 0 {
		return strconv.Itoa(ticks / u.Ticks())
	}
	return strconv.FormatFloat(u.Number(ticks), 'f', 2, 64)
}

// Length is a length with its unit: "1 working day", "1.57 weeks".
func (u Unit) Length(ticks int) string {
	words := u.Words()
	if ticks == u.Ticks() {
		words = unitFacts[u].one
	}
	return u.Text(ticks) + " " + words
}

// Stretch is how many ticks a picture of lengths gathers at least.
func (u Unit) Stretch() int { return unitFacts[u].stretch }

// Timed says whether the unit is counted between instants, not days.
func (u Unit) Timed() bool { return u == Hours || u == WorkingHours }

// ByCalendar says whether the unit asks which days are worked.
func (u Unit) ByCalendar() bool { return u == WorkingDays || u == WorkingHours }

// ParseUnit reads what String writes.
func ParseUnit(text string) (Unit, error) {
	if u := slices.Index(UnitNames(), text); u >= 0 {
		return Unit(u), nil
	}
	return 0, fmt.Errorf("%q is not a unit; %s", text, spelling.Want(text, UnitNames()))
}

// UnitNames lists the units that lengths are counted in.
func UnitNames() []string {
	names := make([]string, units)
	for u, facts := range unitFacts {
		names[u] = facts.name
	}
	return names
}

// A Rule says whether the first day counts. The zero Rule is Elapsed.
type Rule uint8

const (
	Elapsed Rule = iota
	BothEnds
	rules
)

var ruleNames = [rules]string{Elapsed: "elapsed", BothEnds: "both-ends"}

// String is the rule's name in the API and on the command line.
func (r Rule) String() string {
	if r < rules {
		return ruleNames[r]
	}
	return fmt.Sprintf("Rule(%d)", r)
}

// ParseRule reads what String writes.
func ParseRule(text string) (Rule, error) {
	for r, name := range ruleNames {
		if name == text {
			return Rule(r), nil
		}
	}
	return 0, fmt.Errorf("%q is not a count rule; want one of %v", text, ruleNames)
}

// RuleNames lists the count rules.
func RuleNames() []string { return ruleNames[:] }

// A Measure is a unit and a rule: together they turn two days, or two instants, into a length.
type Measure struct {
	Unit Unit
	Rule Rule
	// NoCutOff counts from the days as they are, whatever the cut-off of a site makes of them.
	NoCutOff bool
}

// A RefusedError says why a unit cannot be counted by a rule.
type RefusedError struct {
	Measure Measure
	Reason  string
}

func (e *RefusedError) Error() string {
	return fmt.Sprintf("%v cannot be counted %v: %s; want %v", e.Measure.Unit, e.Measure.Rule, e.Reason, Elapsed)
}

// Check says whether the unit can be counted by the rule. The error is a *RefusedError.
func (m Measure) Check() error {
	if reason := unitFacts[m.Unit].refused; m.Rule == BothEnds && reason != "" {
		return &RefusedError{m, reason}
	}
	return nil
}

// RuleWords says for people how the measure counts.
func (m Measure) RuleWords() string {
	switch {
	case m.Rule == BothEnds:
		return "both ends counted"
	case m.Unit.Timed():
		return "between the instants"
	}
	return "start day not counted"
}

// String is the unit and rule as they stand in a heading: "working days, start day not counted".
func (m Measure) String() string { return m.Unit.Words() + ", " + m.RuleWords() }

// Calendar is the calendar of which the measure counts the days: the order's own for working days, and else one
// on which each day counts.
func (m Measure) Calendar(own *calendar.Calendar) *calendar.Calendar {
	if m.Unit.ByCalendar() {
		return own
	}
	return everyDay
}

var everyDay = calendar.EveryDay()

// CutOffMoves says whether a cut-off moves the starts of a leg's lengths: those from ordered on, in working days. A length in
// days is always the difference of the two days that stand beside it.
func (m Measure) CutOffMoves(l Leg) bool {
	return l.From.Name == milestone.Ordered && m.Unit == WorkingDays && !m.NoCutOff
}

// A Stretch is the way of one order along a leg: two known days, and the instants where they are known.
type Stretch struct {
	Start, End     day.Day
	StartAt, EndAt day.Instant
	// Moved is the working day as which the start counts after a cut-off; zero where it counts as itself.
	Moved day.Day
}

// counted are the two days between which working days are counted. A start that is moved beyond the end
// makes a length of nothing.
func (s Stretch) counted() (start day.Day, nothing bool) {
	if s.Moved == 0 || s.End < s.Start {
		return s.Start, false
	}
	return s.Moved, s.Moved > s.End
}

// Length counts a stretch in ticks of the unit; an end before the start gives the negative of the length from end
// to start. The state is Complete, or NoTime or NoHours where the unit asks for what is not known.
func (m Measure) Length(on calendar.Local, s Stretch) (ticks int, state State) {
	switch m.Unit {
	case WorkingDays:
		start, nothing := s.counted()
		if nothing {
			return 0, Complete
		}
		return m.between(on.Calendar, start, s.End), Complete
	case Days, Weeks:
		return m.between(nil, s.Start, s.End), Complete
	case Hours, WorkingHours:
		switch {
		case s.StartAt == 0 || s.EndAt == 0:
			return 0, NoTime
		case m.Unit == Hours:
			return int(s.EndAt - s.StartAt), Complete
		case !on.Timed():
			return 0, NoHours
		}
		return on.WorkedSeconds(s.StartAt, s.EndAt), Complete
	}
	if s.End < s.Start {
		return -m.steps(s.End, s.Start), Complete
	}
	return m.steps(s.Start, s.End), Complete
}

// HolidaysUnknown says whether a length leaves the days for which the calendar knows holidays.
func (m Measure) HolidaysUnknown(own *calendar.Calendar, s Stretch) bool {
	start, nothing := s.counted()
	if nothing {
		start = s.End
	}
	return !m.Calendar(own).Covers(start, s.End)
}

// between counts days.
func (m Measure) between(own *calendar.Calendar, start, end day.Day) int {
	c := m.Calendar(own)
	if m.Rule == BothEnds {
		return c.BothEnds(start, end)
	}
	return c.Elapsed(start, end)
}

// steps counts months and years from start to an end on or after it.
func (m Measure) steps(start, end day.Day) int {
	switch m.Unit {
	case Months:
		return day.MonthsCompleted(start, end)
	case Years:
		return day.MonthsCompleted(start, end) / 12
	case MonthsCrossed:
		return day.MonthsCrossed(start, end)
	case YearsCrossed:
		return day.YearsCrossed(start, end)
	}
	whole, part, of := day.MonthsFraction(start, end)
	return whole*stepsOfMonth + part*(stepsOfMonth/of)
}

// TicksAtLeast and TicksAtMost turn a bound in units into ticks; a bound that was written with few digits means
// the tick beside it.
func (u Unit) TicksAtLeast(bound float64) int { return int(math.Ceil(bound*float64(u.Ticks()) - 1e-3)) }

// TicksAtMost is the other side of TicksAtLeast.
func (u Unit) TicksAtMost(bound float64) int { return int(math.Floor(bound*float64(u.Ticks()) + 1e-3)) }
