// Package leg decides the state of the way from one milestone to another, counts its length and shows the
// length day by day.
package leg

import (
	"fmt"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
)

// A Leg goes from one milestone to another.
type Leg struct {
	From, To milestone.Milestone
}

// TwoWay says whether the end may properly come before the start: one of the two is a plan, or the end is
// the payment or the invoice. A leg from ordered on is always one-way.
func (l Leg) TwoWay() bool {
	if l.From.Name == milestone.Ordered {
		return false
	}
	return l.From.Plan || l.To.Plan || l.To.Base() == milestone.Paid || l.To.Base() == milestone.Invoiced
}

// A State is what the known days of an order make of a leg.
type State uint8

// The states, in the order in which a reconciliation names them. Complete and Negative are counted, the rest is
// left out under its name.
const (
	Complete State = iota
	Negative
	Running
	NoEnd // the end is a plan, which is missing: nothing waits for it
	Cancelled
	EndBeforeStart
	CancelledBeforeStart
	NoStart
	NotYetBegun
	// NoTime and NoHours are for lengths between instants alone; see Measure.Length.
	NoTime
	NoHours
	States // how many there are
)

var stateNames = [States]string{
	Complete:             "complete",
	Negative:             "negative",
	Running:              "running",
	NoEnd:                "no-end",
	Cancelled:            "cancelled",
	EndBeforeStart:       "end-before-start",
	CancelledBeforeStart: "cancelled-before-start",
	NoStart:              "no-start",
	NotYetBegun:          "not-yet-begun",
	NoTime:               "no-time-of-day",
	NoHours:              "no-daily-hours",
}

// String is the state's name in the API and on the command line.
func (s State) String() string {
	if s < States {
		return stateNames[s]
	}
	return fmt.Sprintf("State(%d)", s)
}

// ParseState reads what String writes.
func ParseState(text string) (State, error) {
	for s, name := range stateNames {
		if name == text {
			return State(s), nil
		}
	}
	return 0, fmt.Errorf("%q is not a state of a leg; want one of %v", text, stateNames)
}

// Counted says whether a leg in this state has a length that statistics count.
func (s State) Counted() bool { return s == Complete || s == Negative }

// Label says the state in the words of this leg: "ship date before order date".
func (l Leg) Label(s State) string {
	switch s {
	case Complete, Negative:
		return "counted"
	case Running:
		return "still running"
	case NoEnd:
		return "without " + l.To.Date()
	case Cancelled:
		return "cancelled"
	case EndBeforeStart:
		return l.To.Date() + " before " + l.From.Date()
	case CancelledBeforeStart:
		return "cancelled before the " + l.From.Date()
	case NoStart:
		return "without " + l.From.Date()
	case NotYetBegun:
		return "not yet begun"
	case NoTime:
		return "no time of day"
	case NoHours:
		return "no daily hours, or no zone, at the site"
	}
	return s.String()
}

// Dates are the days of one order that decide the state of a leg. Start, End and Cancelled are as known at
// the data date: a fact after it is the zero Day. RawStart is the start as recorded, whenever it lies.
type Dates struct {
	Start, End, Cancelled day.Day
	RawStart              day.Day
}

// A Decider decides the state of a leg, of one order after the other, at one data date.
type Decider struct {
	twoWay, planned bool // planned: the end is a plan
	dataDate        day.Day
}

// Decider decides the states of the leg at a data date.
func (l Leg) Decider(dataDate day.Day) Decider {
	return Decider{l.TwoWay(), l.To.Plan, dataDate}
}

// TwoWay says whether the end may come before the start.
func (of Decider) TwoWay() bool { return of.twoWay }

// State applies the table of the product's rules to one order.
func (of Decider) State(d Dates) State {
	switch {
	case d.Start == 0 && d.RawStart != 0:
		return NotYetBegun
	case d.Start == 0:
		return NoStart
	case d.End >= d.Start:
		return Complete
	case d.End != 0 && of.twoWay:
		return Negative
	case d.End != 0:
		return EndBeforeStart
	case of.planned:
		return NoEnd
	case d.Cancelled == 0 && d.Start > of.dataDate: // a plan for a day that has not come
		return NotYetBegun
	case d.Cancelled == 0:
		return Running
	case d.Cancelled >= d.Start:
		return Cancelled
	}
	return CancelledBeforeStart
}
