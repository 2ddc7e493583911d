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
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// A Request is a question in words; empty words take their defaults.
type Request struct {
	To     string // the milestone that is due; default shipped
	By     string // the plan that says when; default promised, and for delivered expected
	After  string // instead of By: a number of working days after ordered
	CutOff string // on or off: whether an order after the cut-off counts as one of the next working day; default on
	Within string // working days after the data date within which an open order is at risk; default 5
	Period string // of due days; default all
}

// A Question is a Request that has been understood against a book.
type Question struct {
	To    milestone.Milestone
	By    milestone.Milestone // without a name: After says when
	After int
	// NoCutOff counts After from the day of the order as it is.
	NoCutOff bool
	Within   int
	Period   period.Period
	Where    query.Where
}

// defaultWithin is a working week.
const defaultWithin = "5"

// Parse understands a request. The error is a *request.Error.
func Parse(b *book.Book, r Request) (q Question, err error) {
	if q.To, err = query.FindMilestone(b, "to", cmp.Or(r.To, milestone.Shipped)); err != nil {
		return q, err
	}
	if q.To.Plan || q.To.Name == milestone.Ordered || q.To.Name == milestone.Cancelled {
		return q, request.Invalid("to", q.To.Name, "want a milestone that an order reaches, such as shipped or delivered")
	}
	if r.After != "" {
		if r.By != "" {
			return q, request.Invalid("after", r.After, "want a plan or a number of working days, not both")
		}
		if q.After, err = whole("after", r.After); err != nil {
			return q, err
		}
		if q.NoCutOff, err = query.ParseCutOff(r.CutOff); err != nil {
			return q, err
		}
	} else {
		standard := milestone.Promised
		if q.To.Name == milestone.Delivered {
			standard = milestone.Expected
		}
		if q.By, err = query.FindMilestone(b, "plan", cmp.Or(r.By, standard)); err != nil {
			return q, err
		}
		if !q.By.Plan {
			return q, request.Invalid("plan", r.By, "want a plan such as promised, requested or expected")
		}
	}
	if q.Within, err = whole("within", cmp.Or(r.Within, defaultWithin)); err != nil {
		return q, err
	}
	periods, err := period.Parse(r.Period, b.Bounds())
	if err != nil {
		return q, request.Invalid("period", r.Period, err.Error())
	}
	if len(periods) > 1 {
		return q, request.Invalid("period", r.Period, "want one period")
	}
	q.Period = periods[0]
	return q, nil
}

// mostDays bounds what can be asked for in working days.
const mostDays = 10_000

func whole(word, text string) (int, error) {
	n, err := strconv.Atoi(text)
	if err != nil || n < 0 || n > mostDays {
		return 0, request.Invalid(word, text, fmt.Sprintf("want a number of working days from 0 to %d", mostDays))
	}
	return n, nil
}

// Rule says in words when an order is due.
func (q Question) Rule(b *book.Book) string {
	if q.By.Name != "" {
		return "by the " + q.By.Date()
	}
	rule := "by " + numfmt.Counted(q.After, "working day") + " after the order date"
	switch {
	case !b.MovesAny():
		return rule
	case q.NoCutOff:
		return rule + ", without cut-offs"
	}
	return rule + ", after cut-offs"
}

// Leg is from the order to what is due.
func (q Question) Leg(b *book.Book) leg.Leg {
	return leg.Leg{From: b.Milestones()[milestone.Index(b.Milestones(), milestone.Ordered)], To: q.To}
}

// Sentence says exactly what is listed.
func (q Question) Sentence(b *book.Book) query.Sentence {
	asked := "at any time"
	if !q.Period.Unbounded() {
		asked = fmt.Sprintf("in %s (%s)", q.Period.Text, q.Period.Days())
	}
	s := query.Sentence{query.Part("", "Which orders are due to be "), query.Part("to", q.To.Words()), query.Part("", " "),
		query.Part("period", asked), query.Part("", " "), query.Part("rule", q.Rule(b)),
		query.Part("", ", as of "+b.Bounds().DataDate.WithWeekday()+", at risk when due within "),
		query.Part("within", numfmt.Counted(q.Within, "working day"))}
	return append(append(s, q.Where.Words()...), query.Part("", "?"))
}

// A Standing is an outcome, of which what is open and not due is divided: is it at risk?
type Standing uint8

// The standings besides the outcomes of promise.Outcome, which come first and keep their values. NotDue stands for none of
// them: AtRisk and DueLater do.
const (
	AtRisk   Standing = Standing(promise.Outcomes) + iota // due within the next working days, or on the data date
	DueLater                                              // after those
	Standings
)

// order is that in which a reconciliation names standings: what needs a hand comes first.
var order = []Standing{Standing(promise.Overdue), AtRisk, DueLater, Standing(promise.OnTheDay), Standing(promise.Early),
	Standing(promise.ReachedLate), Standing(promise.Cancelled), Standing(promise.NoPromise), Standing(promise.NotBegun)}

// InOrder lists the standings in the order in which a reconciliation names them.
func InOrder() []Standing { return order }

// String is the standing's name in the API and on the command line.
func (s Standing) String() string {
	switch s {
	case AtRisk:
		return "at-risk"
	case DueLater:
		return "due-later"
	}
	return promise.Outcome(s).String()
}

// StandingNames lists the names, in the order of a reconciliation.
func StandingNames() (names []string) {
	for _, s := range order {
		names = append(names, s.String())
	}
	return names
}

// ParseStandings reads what String writes; late is what is late, open or not, and not-due what is open and not due.
func ParseStandings(text string) ([]Standing, error) {
	switch text {
	case "late":
		return []Standing{Standing(promise.Overdue), Standing(promise.ReachedLate)}, nil
	case promise.NotDue.String():
		return []Standing{AtRisk, DueLater}, nil
	}
	i := slices.Index(StandingNames(), text)
	if i < 0 {
		return nil, request.Invalid("standing", text, "want one of "+strings.Join(append(StandingNames(), "late",
			promise.NotDue.String()), ", "))
	}
	return []Standing{order[i]}, nil
}

// Label is the standing in words.
func (q Question) Label(s Standing) string {
	switch s {
	case AtRisk:
		return "open and at risk"
	case DueLater:
		return "open and due later"
	case Standing(promise.NoPromise):
		if q.By.Name != "" {
			return "without " + q.By.Date()
		}
		return "without order date"
	case Standing(promise.NotBegun):
		return "not ordered by the data date"
	}
	return promise.Outcome(s).Label(q.To)
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
	Population query.Population // what the condition leaves
	Asked      int              // orders that are due in the period; without a period all
	Outside    int              // orders that are due at another time
	Undue      int              // orders without a due day, where a period is asked about
	Counts     [Standings]int
	// HolidaysUnknown is how many of those selected have it.
	HolidaysUnknown int
	// ByDefault is how many due days were reckoned by the default calendar as a stand-in.
	ByDefault int
	Listed    []Entry // those of the standings that were asked for, as they stand in the book
}

// Ask divides the book, and lists the orders of the standings named; all where none is.
func Ask(b *book.Book, q Question, standings ...Standing) Answer {
	p := newPlan(b, q)
	t, population := query.Run(p.scope, func() *tally { return &tally{plan: p, standings: standings} })
	a := t.answer()
	a.Population = population
	return a
}

// A tally is what one worker has counted.
type tally struct {
	*plan
	standings []Standing // those that are listed; all where there is none
	Answer
}

// Visit divides a stretch.
func (t *tally) Visit(s *query.Stretch) {
	for _, i := range s.Chosen() {
		o := s.Offset(int(i))
		e := t.entry(o)
		if !t.Period.Unbounded() && !t.Period.Span.Holds(e.Due) {
			if e.Due == 0 {
				t.Undue++
			} else {
				t.Outside++
			}
			continue
		}
		t.Asked++
		t.Counts[e.Standing]++
		if e.HolidaysUnknown {
			t.Answer.HolidaysUnknown++
		}
		if t.By.Name == "" && e.Due != 0 && t.book.Locals(book.AtSite)[s.Calendars[i]].StandsIn {
			t.ByDefault++
		}
		if len(t.standings) == 0 || slices.Contains(t.standings, e.Standing) {
			t.Listed = append(t.Listed, e)
		}
	}
}

// answer has what is listed as it stands in the book.
func (t *tally) answer() Answer {
	slices.SortFunc(t.Listed, func(x, y Entry) int { return cmp.Compare(x.Row, y.Row) })
	return t.Answer
}

// Merge adds what another worker has counted.
func (t *tally) Merge(other *tally) {
	t.Asked, t.Outside, t.Undue = t.Asked+other.Asked, t.Outside+other.Outside, t.Undue+other.Undue
	for s, n := range other.Counts {
		t.Counts[s] += n
	}
	t.Answer.HolidaysUnknown += other.Answer.HolidaysUnknown
	t.ByDefault += other.ByDefault
	t.Listed = append(t.Listed, other.Listed...)
}

// Page gives at most limit of the listed orders from offset on: by due day, those without one last, then by number. Only
// the orders of the days that the page touches are sorted.
func (a Answer) Page(b *book.Book, offset, limit int) []Entry {
	by := map[day.Day][]Entry{}
	for _, e := range a.Listed {
		by[e.Due] = append(by[e.Due], e)
	}
	days := slices.SortedFunc(maps.Keys(by), func(x, y day.Day) int { return cmp.Compare(uint32(x-1), uint32(y-1)) })
	number := func(e Entry) string {
		block, at := b.Locate(e.Row)
		return block.Numbers[at]
	}
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

// Test says which orders that meet the condition are due in the period and have one of some standings; all have where there is none.
func Test(b *book.Book, q Question, standings []Standing) query.Test {
	p := newPlan(b, q)
	return func(o book.Offset) bool {
		e := p.entry(o)
		return (q.Period.Unbounded() || q.Period.Span.Holds(e.Due)) && (len(standings) == 0 || slices.Contains(standings, e.Standing))
	}
}

type plan struct {
	Question
	book                   *book.Book
	scope                  *query.Scope
	dues                   *promise.Dues
	dataDate               day.Day
	ordered, to, cancelled int // milestones' indexes
}

func newPlan(b *book.Book, q Question) *plan {
	p := &plan{Question: q, book: b, scope: query.WholeBook(b, query.Question{Where: q.Where}), dataDate: b.Bounds().DataDate}
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	p.ordered, p.to, p.cancelled = index(milestone.Ordered), index(p.To.Name), index(milestone.Cancelled)
	p.dues = promise.NewDues(p.book, promise.When{Plan: p.By, After: p.After, From: p.book.Milestones()[p.ordered], NoCutOff: p.NoCutOff},
		book.AtSite)
	return p
}

func (p *plan) entry(o book.Offset) Entry {
	block, i := o.Block, o.At
	known := func(m int) day.Day { return block.Columns[m].Known[i] }
	e := Entry{Row: o.Row}
	var far bool
	e.Due, far = p.dues.Of(block, i, block.Codes[book.Site][i])
	outcome := promise.Of(promise.Days{Due: e.Due, Reached: known(p.to), Cancelled: known(p.cancelled), NotBegun: known(p.ordered) == 0 &&
		block.Columns[p.ordered].Raw[i] != 0}, p.dataDate)
	if e.Standing = Standing(outcome); outcome >= promise.Cancelled {
		return e
	}
	own, reached := p.book.Locals(book.AtSite)[block.Codes[book.Site][i]], known(p.to)
	if reached == 0 {
		reached = p.dataDate
	}
	if outcome == promise.NotDue {
		if e.Standing = DueLater; own.Elapsed(p.dataDate, e.Due) <= p.Within {
			e.Standing = AtRisk
		}
	}
	e.Over = own.Elapsed(e.Due, reached)
	e.HolidaysUnknown = far || !own.Covers(min(e.Due, reached), max(e.Due, reached))
	return e
}
