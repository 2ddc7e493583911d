package duration

import (
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// A Selection names orders behind a number of an answer. The zero Selection names all that were asked about.
type Selection struct {
	// Placed is how the orders are placed; those that the period or the condition leaves out can be listed, too.
	Placed query.Placement
	State  string // a state of the leg, Counted, Ended or EveryLeg; empty for all
	// Keys picks a group: one key for each grouping of the question. Nil for all groups.
	Keys []string
	// Note is the code of a note that concerns some of the orders; empty for all.
	Note string
	// LimitOutcome is Finished, StillWaiting, Within, NotOver, CancelledOver or Decided, by the question's limit; empty for all.
	LimitOutcome string
	// Standing is an outcome of the question's promise, LateOutcomes or KnownOutcomes; empty for all.
	Standing string
	// Only are tests of other analyses.
	Only []query.Test
	// Shortest and Longest bound the length, in ticks of its unit; with either, only counted orders are left.
	Shortest, Longest *int
}

// What a limit makes of orders: over it and finished, over it and still running, finished at or under it, and still running
// and not over it yet; or over it already when it was cancelled.
const (
	Finished      = "finished"
	StillWaiting  = "waiting"
	Within        = "within"
	NotOver       = "undecided"
	CancelledOver = "cancelled"
	Decided       = "decided" // the first three: those of which a share is told
)

// LateOutcomes are those that are late, open or not.
const LateOutcomes = "late"

// KnownOutcomes are those of which it is known whether they are late: of them a share is told.
const KnownOutcomes = "known"

// States that are not of one leg's days alone.
const (
	// Ended orders have both days of the leg in order, whether the unit can count them or not.
	Ended = "ended"
	// EveryLeg orders have completed every leg of the chain.
	EveryLeg = "every-leg"
)

// Selected are the orders that a question's first period is about and a selection names.
type Selected struct {
	plan *plan
	keep tests
}

// Select understands a selection. The error is a *request.Error.
func Select(b *book.Book, q Question, s Selection) (*Selected, error) {
	if !slices.Contains(placements, s.Placed) {
		return nil, request.Invalid("placed", string(s.Placed),
			"want outside, undated, unmet or undecided, or nothing for the selected orders")
	}
	p := newPlan(query.NewScope(b, q.Question, q.Periods[0]), q)
	keep, err := p.selects(s)
	p.scope = p.scope.Of(s.Placed)
	return &Selected{p, keep}, err
}

var placements = []query.Placement{query.Asked, query.Outside, query.Undated, query.Unmet, query.Undecided}

// Scope is who can be selected; see Visit.
func (s *Selected) Scope() *query.Scope { return s.plan.scope }

// Visit shows those of the orders of a stretch of the scope that are selected. Several can visit at once.
func (s *Selected) Visit(st *query.Stretch, show func(Listed)) {
	for _, i := range st.Chosen() {
		o := st.Offset(int(i))
		if s.keep.group != nil && !s.keep.group(st.Groups[i]) ||
			slices.ContainsFunc(s.keep.orders, func(keep query.Test) bool { return !keep(o) }) {
			continue
		}
		l := s.plan.read(o.Block, o.At, o.Row)
		if (s.keep.state == nil || s.keep.state(l.State)) && (s.keep.listed == nil || s.keep.listed(l)) {
			show(l)
		}
	}
}

// Rows are the rows of a book's orders that a selection names, in the book's order. The error is a *request.Error.
func Rows(b *book.Book, q Question, s Selection) ([]uint32, error) {
	selected, err := Select(b, q, s)
	if err != nil {
		return nil, err
	}
	all, _ := query.Run(selected.Scope(), func() *rows { return &rows{selected: selected} })
	slices.Sort(all.found)
	return all.found, nil
}

// Among are those of some rows of a book that a selection names, in the order in which they are given. The error is a *request.Error.
func Among(b *book.Book, q Question, s Selection, some []uint32) ([]uint32, error) {
	selected, err := Select(b, q, s)
	if err != nil {
		return nil, err
	}
	found := &rows{selected: selected}
	for _, row := range some {
		block, at := b.Locate(int(row))
		query.Show(selected.Scope(), book.Stretch{Block: block, From: at, To: at + 1, Row: int(row)}, found)
	}
	return found.found, nil
}

// rows collects those of its stretches.
type rows struct {
	selected *Selected
	found    []uint32
}

func (r *rows) Visit(s *query.Stretch) {
	r.selected.Visit(s, func(l Listed) { r.found = append(r.found, uint32(l.Row)) })
}

func (r *rows) Merge(other *rows) { r.found = append(r.found, other.found...) }

// tests are what an order has to pass to be listed; nil passes all.
type tests struct {
	state  func(leg.State) bool
	group  func(number uint32) bool
	orders []query.Test
	listed func(Listed) bool
}

// selects turns a selection into tests.
func (p *plan) selects(s Selection) (tests, error) {
	var t tests
	switch s.State {
	case "":
	case Counted:
		t.state = leg.State.Counted
	case Ended:
		t.state = func(state leg.State) bool { return state.Counted() || state == leg.NoTime || state == leg.NoHours }
	case EveryLeg:
		if p.every == nil {
			return t, request.Invalid("state", s.State, "the question has no chain of legs; name the milestones between with through")
		}
		t.orders = append(t.orders, func(o book.Offset) bool {
			calendar := p.calendar(o.Block, o.At)
			return !slices.ContainsFunc(p.every.legs, func(l *plan) bool {
				_, complete := l.complete(o.Block, o.At, calendar, notReckoned)
				return !complete
			})
		})
	default:
		only, err := leg.ParseState(s.State)
		if err != nil {
			return t, request.Invalid("state", s.State, err.Error()+", or "+strings.Join([]string{Counted, Ended, EveryLeg}, ", "))
		}
		t.state = func(state leg.State) bool { return state == only }
	}
	if s.Keys != nil {
		number, err := p.scope.GroupOf(s.Keys)
		if err != nil {
			return t, err
		}
		t.group = func(group uint32) bool { return group == number }
	}
	t.orders = append(t.orders, s.Only...)
	if s.LimitOutcome != "" {
		test, err := p.beyond(s.LimitOutcome)
		if err != nil {
			return t, err
		}
		t.orders = append(t.orders, test)
	}
	if s.Standing != "" {
		standing, err := promise.Parse(s.Standing)
		several := s.Standing == LateOutcomes || s.Standing == KnownOutcomes
		if err != nil && !several {
			return t, err
		}
		if p.promise == nil {
			return t, request.Invalid("standing", s.Standing, "the question asks about no promise")
		}
		t.orders = append(t.orders, func(o book.Offset) bool {
			is, _, _ := p.promise.outcome(p, o.Block, o.At, p.calendar(o.Block, o.At))
			if several {
				return is.Late() || s.Standing == KnownOutcomes && (is == promise.Early || is == promise.OnTheDay)
			}
			return is == standing
		})
	}
	if s.Note == NoteUnequalMissing && p.scope.Compares() {
		t.orders = append(t.orders, p.scope.ByMissing)
		s.Note = "" // it concerns orders that are not counted, too
	}
	noted, err := p.noted(s.Note)
	if err != nil {
		return t, err
	}
	if s.Note != "" || s.Shortest != nil || s.Longest != nil {
		t.listed = func(l Listed) bool {
			return l.State.Counted() && (s.Shortest == nil || l.Length >= *s.Shortest) && (s.Longest == nil || l.Length <= *s.Longest) &&
				noted(l)
		}
	}
	return t, nil
}

// beyond picks orders by what the question's limit makes of them.
func (p *plan) beyond(word string) (query.Test, error) {
	if all := []string{Finished, StillWaiting, Within, NotOver, CancelledOver, Decided}; !slices.Contains(all, word) {
		return nil, request.Invalid("beyond", word, "want one of "+strings.Join(all, ", "))
	}
	if p.question.Limit == nil {
		return nil, request.Invalid("beyond", word, "the question has no limit")
	}
	limit := *p.question.Limit
	return func(o book.Offset) bool {
		d := p.dates(o.Block, o.At)
		if state := p.decider.State(d); state == leg.Running || state == leg.Cancelled {
			length, told := p.waited(o.Block, o.At, d, state)
			over := told && limit.exceeds(length)
			if state == leg.Cancelled {
				return word == CancelledOver && over
			}
			return (word == StillWaiting || word == Decided) && over || word == NotOver && !over
		}
		length, complete := p.complete(o.Block, o.At, p.calendar(o.Block, o.At), notReckoned)
		over := limit.exceeds(length)
		return complete && (word == Finished && over || word == Within && !over || word == Decided)
	}, nil
}

// notesOfOrders are the notes that concern single orders.
var notesOfOrders = []string{NoteNegative, NoteHolidaysUnknown, NoteDefaultCalendar, NoteCutOff, NoteCutOffUntimed, NoteStandIn,
	NoteUnequalMissing}

// noted says which counted orders a note concerns.
func (p *plan) noted(code string) (func(Listed) bool, error) {
	switch code {
	case "":
		return func(Listed) bool { return true }, nil
	case NoteNegative:
		if p.question.Measure.Unit.Timed() {
			return func(l Listed) bool { return l.Length < 0 }, nil
		}
		return func(l Listed) bool { return l.State == leg.Negative }, nil
	case NoteHolidaysUnknown:
		return func(l Listed) bool { return l.HolidaysUnknown }, nil
	case NoteDefaultCalendar:
		return func(l Listed) bool {
			return p.question.Measure.Unit.ByCalendar() && p.book.SiteCalendarAt(p.question.Calendar, l.Row).StandsIn
		}, nil
	case NoteCutOff, NoteCutOffUntimed:
		return func(l Listed) bool {
			return p.cutOff(p.book.Locate(l.Row)) == code
		}, nil
	}
	if code == NoteStandIn {
		return func(l Listed) bool {
			return p.takesStandIn(p.book.Locate(l.Row))
		}, nil
	}
	return nil, request.Invalid("note", code, "no note that concerns single orders; want one of "+strings.Join(notesOfOrders, ", "))
}
