// Package due says which orders are due to reach a milestone, and which of them are late or at risk: by the day that
// was promised, or so many working days after they were ordered.
package due

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/figure"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/request"
)

// A Request is a question in words; empty words take their defaults.
type Request struct {
	To     string // the milestone that is due; default shipped
	By     string // the plan that says when; default promised, and for delivered expected
	After  string // instead of By: a number of working days after ordered
	Within string // working days after the data date within which an open order is at risk; default 5
	Period string // of due days; default all
}

// A Question is a Request that has been understood against a book.
type Question struct {
	To     milestone.Milestone
	By     milestone.Milestone // without a name: After says when
	After  int
	Within int
	Period period.Period
}

// defaultWithin is a working week.
const defaultWithin = "5"

// Parse understands a request. The error is a *request.Error.
func Parse(b *book.Book, r Request) (q Question, err error) {
	find := func(word, name string) (milestone.Milestone, error) {
		i := milestone.Index(b.Milestones(), name)
		if i < 0 {
			return milestone.Milestone{}, request.Refuse(word, name, "not a milestone of this book; want one of "+milestone.Names(b.Milestones()))
		}
		return b.Milestones()[i], nil
	}
	if q.To, err = find("to", cmp.Or(r.To, milestone.Shipped)); err != nil {
		return q, err
	}
	if q.To.Plan || q.To.Name == milestone.Ordered || q.To.Name == milestone.Cancelled {
		return q, request.Refuse("to", q.To.Name, "want a milestone that an order reaches, such as shipped or delivered")
	}
	if r.After != "" {
		if r.By != "" {
			return q, request.Refuse("after", r.After, "want a plan or a number of working days, not both")
		}
		if q.After, err = whole("after", r.After); err != nil {
			return q, err
		}
	} else {
		standard := milestone.Promised
		if q.To.Name == milestone.Delivered {
			standard = milestone.Expected
		}
		if q.By, err = find("plan", cmp.Or(r.By, standard)); err != nil {
			return q, err
		}
		if !q.By.Plan {
			return q, request.Refuse("plan", r.By, "want a plan such as promised, wanted or expected")
		}
	}
	if q.Within, err = whole("within", cmp.Or(r.Within, defaultWithin)); err != nil {
		return q, err
	}
	periods, err := period.Parse(r.Period, b.Bounds())
	if err != nil {
		return q, request.Refuse("period", r.Period, err.Error())
	}
	if len(periods) > 1 {
		return q, request.Refuse("period", r.Period, "want one period")
	}
	q.Period = periods[0]
	return q, nil
}

// mostDays bounds what can be asked for in working days.
const mostDays = 10_000

func whole(word, text string) (int, error) {
	n, err := strconv.Atoi(text)
	if err != nil || n < 0 || n > mostDays {
		return 0, request.Refuse(word, text, fmt.Sprintf("want a number of working days from 0 to %d", mostDays))
	}
	return n, nil
}

// Rule says in words when an order is due.
func (q Question) Rule() string {
	if q.By.Name != "" {
		return "by `" + q.By.Name + "`"
	}
	return "by " + figure.Counted(q.After, "working day") + " after `ordered`"
}

// Sentence says exactly what is listed.
func (q Question) Sentence(b *book.Book) string {
	asked := "at any time"
	if !q.Period.Unbounded() {
		asked = fmt.Sprintf("in %s (%s)", q.Period.Text, q.Period.Days())
	}
	return fmt.Sprintf("Which orders are due to be %s %s %s, as of %s, at risk when due within %s?",
		q.To.Name, asked, q.Rule(), b.Bounds().DataDate.WithWeekday(), figure.Counted(q.Within, "working day"))
}

// A Standing is where an order stands towards its due day.
type Standing uint8

// The standings, in the order in which a reconciliation names them.
const (
	Late     Standing = iota // open, due before the data date
	AtRisk                   // open, due within the next working days, or on the data date
	Later                    // open, due after those
	OnTheDay                 // reached it on the due day
	Early                    // before it
	Tardy                    // after it
	Cancelled
	NoDueDay // open or not, nothing says when
	NotBegun // not ordered by the data date
	Standings
)

var standingNames = [Standings]string{"late", "at-risk", "later", "on-the-day", "early", "reached-late", "cancelled", "no-due-day", "not-begun"}

// String is the standing's name in the API and on the command line.
func (s Standing) String() string { return standingNames[s] }

// ParseStanding reads what String writes.
func ParseStanding(text string) (Standing, error) {
	i := slices.Index(standingNames[:], text)
	if i < 0 {
		return 0, request.Refuse("standing", text, "want one of "+strings.Join(standingNames[:], ", "))
	}
	return Standing(i), nil
}

// Label is the standing in words.
func (q Question) Label(s Standing) string {
	switch s {
	case Late:
		return "open and late"
	case AtRisk:
		return "open and at risk"
	case Later:
		return "open and due later"
	case OnTheDay:
		return q.To.Name + " on the day"
	case Early:
		return q.To.Name + " early"
	case Tardy:
		return q.To.Name + " late"
	case Cancelled:
		return "cancelled"
	case NoDueDay:
		if q.By.Name != "" {
			return "without a `" + q.By.Name + "` day"
		}
		return "without an `ordered` day"
	}
	return "not ordered by the data date"
}

// An Entry is an order with its due day.
type Entry struct {
	Row      int // in the book
	Due      day.Day
	Standing Standing
	// Over is how many working days lie between the due day and the day on which the order reached it, or the data
	// date while it is open; negative before it.
	Over int
	// HolidaysUnknown says that those leave the days for which the calendar knows holidays.
	HolidaysUnknown bool
}

// An Answer divides the orders that a question asks about.
type Answer struct {
	Asked   int // orders that are due in the period; without a period all
	Outside int // orders that are due at another time
	Undue   int // orders without a due day, where a period is asked about
	Counts  [Standings]int
	// HolidaysUnknown is how many of those asked about have it.
	HolidaysUnknown int
	// ByDefault is how many due days were reckoned by the default calendar as a stand-in.
	ByDefault int
	Listed    []Entry // those of the standings that were asked for, as they stand in the book
}

// Ask divides the book, and lists the orders of the standings named; all where none is.
func Ask(b *book.Book, q Question, standings ...Standing) Answer {
	p := plan{Question: q, book: b, dataDate: b.Bounds().DataDate}
	p.index()
	var a Answer
	for row := range b.Orders() {
		e := p.entry(row)
		if !q.Period.Unbounded() && !q.Period.Span.Holds(e.Due) {
			if e.Due == 0 {
				a.Undue++
			} else {
				a.Outside++
			}
			continue
		}
		a.Asked++
		a.Counts[e.Standing]++
		if e.HolidaysUnknown {
			a.HolidaysUnknown++
		}
		if q.By.Name == "" && e.Due != 0 && b.LocalAt(book.AtSite, row).StandsIn {
			a.ByDefault++
		}
		if len(standings) == 0 || slices.Contains(standings, e.Standing) {
			a.Listed = append(a.Listed, e)
		}
	}
	return a
}

// Page gives at most limit of the listed orders from offset on: by due day, those without one last, then by number. Only
// the orders of the days that the page touches are sorted.
func (a Answer) Page(b *book.Book, offset, limit int) []Entry {
	by := map[day.Day][]Entry{}
	for _, e := range a.Listed {
		by[e.Due] = append(by[e.Due], e)
	}
	days := slices.SortedFunc(maps.Keys(by), func(x, y day.Day) int { return cmp.Compare(uint32(x-1), uint32(y-1)) })
	number := func(e Entry) string { return b.Blocks()[e.Row/book.BlockSize].Numbers[e.Row%book.BlockSize] }
	var page []Entry
	for _, d := range days {
		entries := by[d]
		if offset >= len(entries) {
			offset -= len(entries)
			continue
		}
		slices.SortFunc(entries, func(x, y Entry) int { return book.CompareNumbers(number(x), number(y)) })
		page = append(page, entries[offset:min(len(entries), offset+limit-len(page))]...)
		if offset = 0; len(page) == limit {
			break
		}
	}
	return page
}

// Line is the reconciliation in words: what the orders asked about come to.
func (q Question) Line(a Answer) string {
	var terms []string
	for s, n := range a.Counts {
		if n > 0 {
			terms = append(terms, figure.Count(n)+" "+q.Label(Standing(s)))
		}
	}
	if len(terms) == 0 {
		terms = []string{"0 due"}
	}
	return figure.Counted(a.Asked, "order") + " asked about = " + strings.Join(terms, " + ")
}

// PlacementLine says how the period divides the book; empty where all orders are asked about.
func (q Question) PlacementLine(a Answer) string {
	if q.Period.Unbounded() {
		return ""
	}
	line := fmt.Sprintf("%s in the book = %s due in %s + %s due at another time", figure.Counted(a.Asked+a.Outside+a.Undue, "order"), figure.Count(a.Asked), q.Period.Text, figure.Count(a.Outside))
	if a.Undue > 0 {
		line += " + " + figure.Count(a.Undue) + " " + q.Label(NoDueDay)
	}
	return line
}

type plan struct {
	Question
	book                       *book.Book
	dataDate                   day.Day
	ordered, to, by, cancelled int // milestones' indexes
}

func (p *plan) index() {
	index := func(name string) int { return milestone.Index(p.book.Milestones(), name) }
	p.ordered, p.to, p.by, p.cancelled = index(milestone.Ordered), index(p.To.Name), index(p.By.Name), index(milestone.Cancelled)
}

func (p *plan) entry(row int) Entry {
	block, i := p.book.Blocks()[row/book.BlockSize], row%book.BlockSize
	known := func(m int) day.Day { return block.Columns[m].Known[i] }
	own := p.book.LocalAt(book.AtSite, row)
	e := Entry{Row: row, Due: p.due(own, block, i)}
	reached := known(p.to)
	switch {
	case known(p.ordered) == 0 && block.Columns[p.ordered].Raw[i] != 0:
		e.Standing = NotBegun
		return e
	case e.Due == 0:
		e.Standing = NoDueDay
		return e
	case reached == 0 && known(p.cancelled) != 0:
		e.Standing = Cancelled
		return e
	case reached != 0:
		e.Standing = [...]Standing{Early, OnTheDay, Tardy}[cmp.Compare(reached, e.Due)+1]
	case e.Due < p.dataDate:
		e.Standing = Late
	case own.Elapsed(p.dataDate, e.Due) <= p.Within:
		e.Standing = AtRisk
	default:
		e.Standing = Later
	}
	if reached == 0 {
		reached = p.dataDate
	}
	e.Over = own.Elapsed(e.Due, reached)
	e.HolidaysUnknown = !own.Covers(e.Due, reached)
	return e
}

// due is the day on which an order is due; zero where nothing says.
func (p *plan) due(own book.Local, block *book.Block, i int) day.Day {
	if p.by >= 0 {
		return block.Columns[p.by].Known[i]
	}
	start := block.Columns[p.ordered].Known[i]
	if block.Moved != nil {
		start = block.Moved[i] // as the cut-off of the site has it
	}
	if start == 0 {
		return 0
	}
	// On a day that is not worked nothing is due: no days after it is the next working day.
	due, err := own.Add(start, p.After, calendar.Next)
	if err != nil {
		return 0
	}
	return due
}
