package summary

import (
	"fmt"
	"slices"
	"strings"
	"sync"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/quality"
	"prairiedusk/internal/core/request"
)

// A Selection names orders behind a number of an answer. The zero Selection names all that were asked about.
type Selection struct {
	// Placed is Outside, Undated, Unmet or Undecided for the orders that the period or the condition leaves out; empty
	// for those asked about.
	Placed string
	State  string // a state of the leg, Counted, Ended or EveryLeg; empty for all
	// Keys picks a group: one key for each grouping of the question. Nil for all groups.
	Keys []string
	// Note is the code of a note that concerns some of the orders; empty for all.
	Note string
	// Doubt is the code of a doubt that holds of the orders; empty for all.
	Doubt string
	// LimitOutcome is Finished, StillWaiting, Within, NotOver or CancelledOver, by the question's limit; empty for all.
	LimitOutcome string
	// Standing is an outcome of the question's promise, or LateOutcomes; empty for all.
	Standing string
	// Only are tests of other analyses.
	Only []func(block *book.Block, row int) bool
	// Shortest and Longest bound the length, in ticks of its unit; with either, only counted orders are left.
	Shortest, Longest *int
}

// How an order is left out; see Placement.
const (
	Outside = "outside"
	Undated = "undated"
	// Unmet orders lie in the period and are not as the condition asks; Undecided ones lack what it asks about.
	Unmet     = "unmet"
	Undecided = "undecided"
)

// What a limit makes of orders: over it and finished, over it and still running, finished at or under it, and still running
// and not over it yet; or over it already when it was cancelled.
const (
	Finished      = "finished"
	StillWaiting  = "waiting"
	Within        = "within"
	NotOver       = "undecided"
	CancelledOver = "cancelled"
)

// LateOutcomes are those that are late, open or not.
const LateOutcomes = "late"

// States that are not of one leg's days alone.
const (
	// Ended orders have both days of the leg in order, whether the unit can count them or not.
	Ended = "ended"
	// EveryLeg orders have completed every leg of the chain.
	EveryLeg = "every-leg"
)

// A Listed is an order of a list, with the state and length of the question's leg.
type Listed struct {
	Row             int // in the book
	State           leg.State
	Length          int // in ticks of the unit, where the state is counted
	HolidaysUnknown bool
}

// Selected are the orders that a question's first period asks about and a selection names.
type Selected struct {
	plan   *plan
	keep   tests
	placed string
}

// Select understands a selection. The error is a *request.Error.
func Select(b *book.Book, q Question, s Selection) (*Selected, error) {
	p := newPlan(b, q, q.Periods[0])
	keep, err := p.selects(s)
	return &Selected{p, keep, s.Placed}, err
}

// WalkRows is the most rows of a book that Walk takes at a time.
const WalkRows = chunkRows

// Walk shows those of the orders in rows from up to before to, which lie in one block. Several can walk at once.
func (s *Selected) Walk(from, to int, show func(Listed)) {
	n := from / book.BlockSize
	block, first := s.plan.book.Blocks()[n], n*book.BlockSize
	space := spaces.Get().(*scratch)
	defer spaces.Put(space)
	from, to = from-first, to-first
	basis := block.Columns[s.plan.basisRow].Known
	s.plan.decide(block, from, space.truths[:to-from])
	for i, group := range s.plan.groupCodes(block, from, to, space) {
		row := from + i
		switch {
		case s.plan.placed(basis[row], space.truths[i]) != s.placed,
			s.keep.group != nil && !s.keep.group(group),
			slices.ContainsFunc(s.keep.orders, func(keep orderTest) bool { return !keep(block, row) }):
			continue
		}
		l := s.plan.entry(block, row, first+row)
		if (s.keep.state == nil || s.keep.state(l.State)) && (s.keep.listed == nil || s.keep.listed(l)) {
			show(l)
		}
	}
}

var spaces = sync.Pool{New: func() any { return new(scratch) }}

// One is a single order of a list by the question's leg, measure and calendars, and what its length is counted from.
func One(b *book.Book, row int, q Question) (Listed, leg.Stretch) {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	p := plan{book: b, question: q, start: index(q.Leg.From.Name), end: index(q.Leg.To.Name), cancelled: index(milestone.Cancelled), decider: q.Leg.Decider(b.Bounds().DataDate), moves: q.Measure.CutOffMoves(q.Leg)}
	block, i := b.Blocks()[row/book.BlockSize], row%book.BlockSize
	return p.entryAt(row), p.stretch(block, i, p.dates(block, i))
}

// entryAt looks at one order of the book.
func (p *plan) entryAt(row int) Listed {
	return p.entry(p.book.Blocks()[row/book.BlockSize], row%book.BlockSize, row)
}

// entry looks at the order in row i of a block.
func (p *plan) entry(block *book.Block, i, row int) Listed {
	d := p.dates(block, i)
	l := Listed{Row: row, State: p.decider.State(d)}
	if !l.State.Counted() {
		return l
	}
	own := &p.book.Locals(p.question.Side)[p.local(block, i)]
	stretch := p.stretch(block, i, d)
	length, lacking := p.question.Measure.Length(own.Local, stretch)
	if lacking != leg.Complete {
		l.State = lacking
		return l
	}
	l.Length = length
	l.HolidaysUnknown = p.question.Measure.HolidaysUnknown(own.Calendar, stretch)
	return l
}

// placed says how an order of this basis and truth is left out; empty where it is asked about.
func (p *plan) placed(basis day.Day, truth predicate.Truth) string {
	switch {
	case uint32(basis-p.basisFrom) >= p.basisWidth && basis == 0:
		return Undated
	case uint32(basis-p.basisFrom) >= p.basisWidth:
		return Outside
	}
	return [...]string{predicate.True: "", predicate.False: Unmet, predicate.Undecided: Undecided}[truth]
}

// decide says of a stretch of orders whether they meet the condition; all do where there is none.
func (p *plan) decide(block *book.Block, from int, truths []predicate.Truth) {
	if p.where != nil {
		p.where.Decide(block, from, truths)
		return
	}
	for i := range truths {
		truths[i] = predicate.True
	}
}

// tests are what an order has to pass to be listed; nil passes all.
type tests struct {
	state  func(leg.State) bool
	group  func(number uint32) bool
	orders []orderTest
	listed func(Listed) bool
}

// An orderTest is about the order in a row of a block.
type orderTest func(block *book.Block, row int) bool

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
		t.orders = append(t.orders, func(block *book.Block, row int) bool {
			local := p.local(block, row)
			return !slices.ContainsFunc(p.every.legs, func(l *plan) bool {
				_, complete := l.complete(block, row, local, notReckoned)
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
		number, err := p.number(s.Keys)
		if err != nil {
			return t, err
		}
		t.group = func(group uint32) bool { return group == number }
	}
	if !slices.Contains([]string{"", Outside, Undated, Unmet, Undecided}, s.Placed) {
		return t, request.Invalid("placed", s.Placed, "want outside, undated, unmet or undecided, or nothing for the orders asked about")
	}
	if s.Doubt != "" {
		test, known := quality.Test(p.book, s.Doubt)
		if !known {
			return t, request.Invalid("doubt", s.Doubt, "no doubt about orders; `prairie-dusk doubts` lists them")
		}
		t.orders = append(t.orders, test)
	}
	for _, test := range s.Only {
		t.orders = append(t.orders, test)
	}
	if s.LimitOutcome != "" {
		test, err := p.beyond(s.LimitOutcome)
		if err != nil {
			return t, err
		}
		t.orders = append(t.orders, test)
	}
	if s.Standing != "" {
		standing, err := promise.Parse(s.Standing)
		if err != nil && s.Standing != LateOutcomes {
			return t, err
		}
		if p.promise == nil {
			return t, request.Invalid("standing", s.Standing, "the question asks about no promise")
		}
		t.orders = append(t.orders, func(block *book.Block, row int) bool {
			is, _, _ := p.promise.outcome(p, block, row, p.local(block, row))
			return is == standing && s.Standing != LateOutcomes || is.Late() && s.Standing == LateOutcomes
		})
	}
	if lacking := predicate.UnequalToMissing(p.question.Where.Condition); s.Note == NoteUnequalMissing && lacking != nil {
		bound := predicate.Bind(p.book, lacking, p.question.Where.Decimals)
		t.orders = append(t.orders, func(block *book.Block, row int) bool { return bound.One(block, row) == predicate.True })
		s.Note = "" // it concerns orders that are not counted, too
	}
	noted, err := p.noted(s.Note)
	if err != nil {
		return t, err
	}
	if s.Note != "" || s.Shortest != nil || s.Longest != nil {
		t.listed = func(l Listed) bool {
			return l.State.Counted() && (s.Shortest == nil || l.Length >= *s.Shortest) && (s.Longest == nil || l.Length <= *s.Longest) && noted(l)
		}
	}
	return t, nil
}

// beyond picks orders by what the question's limit makes of them.
func (p *plan) beyond(word string) (orderTest, error) {
	if all := []string{Finished, StillWaiting, Within, NotOver, CancelledOver}; !slices.Contains(all, word) {
		return nil, request.Invalid("beyond", word, "want one of "+strings.Join(all, ", "))
	}
	if p.question.Limit == nil {
		return nil, request.Invalid("beyond", word, "the question has no limit")
	}
	limit := *p.question.Limit
	return func(block *book.Block, row int) bool {
		d, local := p.dates(block, row), p.local(block, row)
		if state := p.decider.State(d); state == leg.Running || state == leg.Cancelled {
			length, told := p.waited(block, row, local, d, state)
			over := told && limit.exceeds(length)
			if state == leg.Cancelled {
				return word == CancelledOver && over
			}
			return word == StillWaiting && over || word == NotOver && !over
		}
		length, complete := p.complete(block, row, local, notReckoned)
		over := limit.exceeds(length)
		return complete && (word == Finished && over || word == Within && !over)
	}, nil
}

// local is the local code of an order.
func (p *plan) local(block *book.Block, row int) uint32 {
	var scratch [1]uint32
	return p.book.LocalCodes(p.question.Side, block, row, row+1, scratch[:])[0]
}

// number is that of the group with these keys.
func (p *plan) number(keys []string) (uint32, error) {
	if len(keys) != len(p.axes) {
		return 0, request.Invalid("group", strings.Join(keys, ","), fmt.Sprintf("want one key for each grouping, %d", len(p.axes)))
	}
	number := uint32(0)
	for i, key := range keys {
		code, known := p.axes[i].code(key)
		if !known {
			return 0, request.Invalid("group", key, "no group of this answer by "+p.axes[i].grouping.String())
		}
		number = number*uint32(len(p.axes[i].labels)) + code
	}
	return number, nil
}

// notesOfOrders are the notes that concern single orders.
var notesOfOrders = []string{NoteNegative, NoteHolidaysUnknown, NoteDefaultCalendar, NoteCutOff, NoteCutOffUntimed, NoteStandIn, NoteUnequalMissing}

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
			return p.question.Measure.Unit.ByCalendar() && p.book.LocalAt(p.question.Side, l.Row).StandsIn
		}, nil
	case NoteCutOff, NoteCutOffUntimed:
		return func(l Listed) bool {
			return p.cutOff(p.book.Blocks()[l.Row/book.BlockSize], l.Row%book.BlockSize) == code
		}, nil
	}
	if code == NoteStandIn {
		return func(l Listed) bool {
			return p.takesStandIn(p.book.Blocks()[l.Row/book.BlockSize], l.Row%book.BlockSize)
		}, nil
	}
	return nil, request.Invalid("note", code, "no note that concerns single orders; want one of "+strings.Join(notesOfOrders, ", "))
}
