package leg

import (
	"fmt"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
)

// A Unit is what a length is counted in. The zero Unit is days.
type Unit uint8

const (
	Days Unit = iota
	WorkingDays
	units
)

var unitNames = [units]string{Days: "days", WorkingDays: "working-days"}

// String is the unit's name in the API and on the command line.
func (u Unit) String() string {
	if u < units {
		return unitNames[u]
	}
	return fmt.Sprintf("Unit(%d)", u)
}

// Words is the unit for people.
func (u Unit) Words() string {
	if u == WorkingDays {
		return "working days"
	}
	return u.String()
}

// ParseUnit reads what String writes.
func ParseUnit(text string) (Unit, error) {
	for u, name := range unitNames {
		if name == text {
			return Unit(u), nil
		}
	}
	return 0, fmt.Errorf("%q is not a unit; want one of %v", text, unitNames)
}

// UnitNames lists the units that lengths are counted in.
func UnitNames() []string { return unitNames[:] }

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

// Words is the rule for people.
func (r Rule) Words() string {
	if r == BothEnds {
		return "both ends counted"
	}
	return "start day not counted"
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

// A Measure is a unit and a rule: together they turn two days into a length.
type Measure struct {
	Unit Unit
	Rule Rule
}

// Calendar is the calendar that the measure reckons with: the order's own for working days, and one on
// which each day counts for days.
func (m Measure) Calendar(own *calendar.Calendar) *calendar.Calendar {
	if m.Unit == WorkingDays {
		return own
	}
	return everyDay
}

var everyDay = calendar.EveryDay()

// Length counts from start to end, two known days; an end before the start gives the negative of the
// length from end to start.
func (m Measure) Length(own *calendar.Calendar, start, end day.Day) int {
	c := m.Calendar(own)
	if m.Rule == BothEnds {
		return c.BothEnds(start, end)
	}
	return c.Elapsed(start, end)
}
