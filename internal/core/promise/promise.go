// Package promise says how orders stand towards the day by which something of them was to come: there is one way of telling
// the due day, and one of comparing it, whoever asks.
package promise

import (
	"cmp"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/request"
)

// An Outcome is how an order stands towards its due day, by the days themselves: promised on a Friday and shipped on the
// Saturday is late, though no working day lies between.
type Outcome uint8

// The outcomes; every order has one.
const (
	Early Outcome = iota
	OnTheDay
	ReachedLate
	NotDue  // open, and due on the data date or later
	Overdue // open, and due before the data date
	Cancelled
	NoPromise // nothing says when
	NotBegun  // its start is a fact after the data date
	Outcomes  // how many there are
)

var names = [Outcomes]string{"early", "on-the-day", "reached-late", "not-due", "overdue", "cancelled", "no-promise", "not-begun"}

// String is the outcome's name in the API and on the command line.
func (o Outcome) String() string { return names[o] }

// Parse reads what String writes. The error is a *request.Error.
func Parse(text string) (Outcome, error) {
	i := slices.Index(names[:], text)
	if i < 0 {
		return 0, request.Invalid("standing", text, "want one of "+strings.Join(names[:], ", "))
	}
	return Outcome(i), nil
}

// Label is the outcome in words, of a milestone such as shipped.
func (o Outcome) Label(to milestone.Milestone) string {
	switch o {
	case Early:
		return to.Name + " early"
	case OnTheDay:
		return to.Name + " on the day"
	case ReachedLate:
		return to.Name + " late"
	case NotDue:
		return "open, not due"
	case Overdue:
		return "open and overdue"
	case Cancelled:
		return "cancelled"
	case NoPromise:
		return "no promise"
	}
	return "not yet begun"
}

// Late says whether an outcome is a late one, open or not.
func (o Outcome) Late() bool { return o == ReachedLate || o == Overdue }

// Sized says whether an outcome has a distance to the due day: the day on which the order got there, or the data date
// where it is overdue, less the due day.
func (o Outcome) Sized() bool { return o == Early || o.Late() }

// Days are those of an order that decide its outcome, as known at the data date; zero where there is none.
type Days struct {
	Due, Reached, Cancelled day.Day
	// NotBegun says that its start is recorded for a day after the data date.
	NotBegun bool
}

// Of compares the days of an order.
func Of(d Days, dataDate day.Day) Outcome {
	switch {
	case d.Reached == 0 && d.Cancelled != 0:
		return Cancelled
	case d.NotBegun:
		return NotBegun
	case d.Due == 0:
		return NoPromise
	case d.Reached != 0:
		return [...]Outcome{Early, OnTheDay, ReachedLate}[cmp.Compare(d.Reached, d.Due)+1]
	case d.Due >= dataDate:
		return NotDue
	}
	return Overdue
}

// A When says by which day an order is due: by a plan, or so many working days after a milestone.
type When struct {
	Plan  milestone.Milestone
	After int                 // where Plan has no name
	From  milestone.Milestone // where Plan has no name
	// NoCutOff counts from the day as it is, whatever the cut-off of the site makes of it.
	NoCutOff bool
}

// Dues gives the due days of the orders of a book.
type Dues struct {
	plan, from int // the milestones' columns; plan is −1 where tables say when
	moved      bool
	first      day.Day
	tables     [][]due // by local code: the day that is due, by start from first on
}

// A due is a due day; far says that it lies beyond the days for which the calendar knows holidays.
type due struct {
	day day.Day
	far bool
}

// NewDues resolves when orders are due, by the calendars of a side.
func NewDues(b *book.Book, when When, side book.CalendarSource) *Dues {
	d := &Dues{plan: milestone.Index(b.Milestones(), when.Plan.Name), from: milestone.Index(b.Milestones(), when.From.Name)}
	if d.plan >= 0 {
		return d
	}
	d.moved = when.From.Name == milestone.Ordered && !when.NoCutOff
	var last day.Day
	d.first, last = b.Range(d.from)
	for _, block := range b.Blocks() { // a cut-off moves the latest start by no more than to the next day that is worked
		if d.moved && block.EffectiveStarts != nil {
			last = max(last, slices.Max(block.EffectiveStarts))
		}
	}
	by := map[*calendar.Calendar][]due{}
	for _, own := range b.Locals(side) {
		table, made := by[own.Calendar]
		if !made && d.first != 0 {
			for start := d.first; start <= last; start++ {
				// On a day that is not worked nothing is due: no days after it is the next working day. Days beyond the
				// supported ones are zero.
				at, _ := own.Add(start, when.After, calendar.Next)
				table = append(table, due{at, at != 0 && !own.Covers(start, at)})
			}
			by[own.Calendar] = table
		}
		d.tables = append(d.tables, table)
	}
	return d
}

// Planned are the due days of a block's orders where a plan says them; else nil.
func (d *Dues) Planned(block *book.Block) []day.Day {
	if d.plan < 0 {
		return nil
	}
	return block.Columns[d.plan].Known
}

// Of is the day on which the order in a row of a block, of a local code, is due; zero where nothing says. Far says that it was
// counted over days for which the calendar knows no holidays.
func (d *Dues) Of(block *book.Block, row int, local uint32) (at day.Day, far bool) {
	if d.plan >= 0 {
		return block.Columns[d.plan].Known[row], false
	}
	start := block.Columns[d.from].Known[row]
	if start == 0 {
		return 0, false
	}
	if d.moved && block.EffectiveStarts != nil {
		start = block.EffectiveStarts[row]
	}
	found := d.tables[local][start-d.first]
	return found.day, found.far
}
