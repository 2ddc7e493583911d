// Package backlog says what was open: which orders had begun a leg and not closed it, in a period, over time and at a day,
// and for how long. A period is never a filter on the day of the start: what was carried in counts.
package backlog

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// A Question asks what was open of a leg. Its periods are those in which, and not those in which orders started.
type Question struct {
	query.Question
	// Out says that an order is not open any more on the day on which it closes.
	Out bool
}

// The words for whether the closing day counts.
const (
	ClosingDayIn  = "in"
	ClosingDayOut = "out"
)

// Parse understands a request, whose basis plays no part, and whether the closing day counts. Periods are cut at the data
// date, beyond which nothing is known; one that begins after it is refused. The error is a *request.Error.
func Parse(b *book.Book, r query.Request, closingDay string) (q Question, err error) {
	r.Basis = ""
	if q.Question, err = query.Parse(b, r); err != nil {
		return q, err
	}
	q.Measure.NoCutOff = true // an age begins on the day as it is
	if q.Leg.From.Plan || q.Leg.To.Plan {
		return q, request.Invalid("to", r.To, "an order is open between two facts, such as ordered and shipped; a plan is no fact")
	}
	switch closingDay {
	case "", ClosingDayIn:
	case ClosingDayOut:
		q.Out = true
	default:
		return q, request.Invalid("closing_day", closingDay,
			"want in or out: whether an order still counts as open on the day on which it closes")
	}
	for _, p := range q.Periods {
		if _, err := Cut(p, b.Bounds()); err != nil {
			return q, err
		}
	}
	return q, nil
}

// Cut is the part of a period of which something is known. The error is a *request.Error.
func Cut(p period.Period, bounds period.Bounds) (day.Span, error) {
	if p.Span.From > bounds.DataDate {
		return day.Span{}, request.Invalid("period", p.Text,
			fmt.Sprintf("the records end on %v; there is no data for this period; a period looks like %s", bounds.DataDate, period.Examples))
	}
	return day.Through(p.Span.From, min(p.Span.LastDay(), bounds.DataDate)), nil
}

// A PeriodState is where an order stands towards a period.
type PeriodState uint8

// The states. The first four are open at some time in the period; the last ones cannot be placed.
const (
	CarriedIn      PeriodState = iota // started before, closed inside
	CarriedThrough                    // started before, open at the end
	Opened                            // started inside, open at the end
	OpenedAndClosed
	ClosedBefore
	OpenedAfter
	NoStart
	NotYetBegun // its start lies after the data date
	EndBeforeStart
	CancelledBeforeStart
	PeriodStates // how many there are
)

var periodStateNames = [PeriodStates]string{"carried-in", "carried-through", "opened", "opened-and-closed", "closed-before", "opened-after",
	"no-start", "not-yet-begun", "end-before-start", "cancelled-before-start"}

// String is the state's name in the API and on the command line.
func (f PeriodState) String() string { return periodStateNames[f] }

// Placed says whether the order has a start and no end before it.
func (f PeriodState) Placed() bool { return f < NoStart }

// Label is the state in words.
func (f PeriodState) Label(l leg.Leg) string {
	switch f {
	case CarriedIn:
		return "carried in, closed inside"
	case CarriedThrough:
		return "carried through"
	case Opened:
		return "opened inside"
	case OpenedAndClosed:
		return "opened and closed inside"
	case ClosedBefore:
		return "closed before"
	case OpenedAfter:
		return "opened after"
	case NoStart:
		return "without " + l.From.Date()
	case NotYetBegun:
		return "not yet begun"
	case EndBeforeStart:
		return l.To.Date() + " before " + l.From.Date()
	}
	return "cancelled before the " + l.From.Date()
}

// Reason says in words why an order counts as it does: its state, and whether it is still open at the data date.
func (f PeriodState) Reason(l leg.Leg, life OpenInterval) string {
	if f.Placed() && life.Close == 0 && f != OpenedAfter {
		return f.Label(l) + ", still open"
	}
	return f.Label(l)
}

// A OpenInterval is from when to when an order was open; Close is zero while it is. An order that cannot be placed has no Start.
type OpenInterval struct {
	Start, Close day.Day
	Cancelled    bool        // it was closed by being cancelled
	lost         PeriodState // why it cannot be placed
}

// LifeOf places an order by its days. It closes on the earlier of the leg's end and its cancelling.
func LifeOf(d leg.Dates, cancelled day.Day) OpenInterval {
	life := OpenInterval{Start: d.Start, Close: d.End}
	if cancelled != 0 && (d.End == 0 || cancelled < d.End) {
		life.Close, life.Cancelled = cancelled, true
	}
	switch {
	case d.Start == 0 && d.RawStart != 0:
		return OpenInterval{lost: NotYetBegun}
	case d.Start == 0:
		return OpenInterval{lost: NoStart}
	case d.End != 0 && d.End < d.Start:
		return OpenInterval{lost: EndBeforeStart}
	case life.Close != 0 && life.Close < life.Start:
		return OpenInterval{lost: CancelledBeforeStart}
	}
	return life
}

// State is where the order stands towards days.
func (l OpenInterval) State(days day.Span) PeriodState {
	closed := l.Close != 0 && l.Close < days.To
	switch {
	case l.Start == 0:
		return l.lost
	case l.Start >= days.To:
		return OpenedAfter
	case l.Close != 0 && l.Close < days.From:
		return ClosedBefore
	case l.Start < days.From && closed:
		return CarriedIn
	case l.Start < days.From:
		return CarriedThrough
	case closed:
		return OpenedAndClosed
	}
	return Opened
}

// OpenAt says whether the order is open at the end of a day.
func (l OpenInterval) OpenAt(d day.Day) bool {
	return l.Start != 0 && l.Start <= d && (l.Close == 0 || l.Close > d)
}

// OpenIn says whether the order is open at some time in days. With out, it is not on its closing day, and never was if that
// is the day on which it started.
func (l OpenInterval) OpenIn(days day.Span, out bool) bool {
	switch {
	case l.Start == 0 || l.Start >= days.To:
		return false
	case l.Close == 0:
		return true
	case out:
		return l.Close > days.From && l.Close > l.Start
	}
	return l.Close >= days.From
}

// A plan is a question resolved against a book.
type plan struct {
	question  Question
	book      *book.Book
	scope     *query.Scope // the period places intervals, and not orders
	reader    *duration.Reader
	cancelled int // the milestone
	start     int
	end       int
}

func newPlan(b *book.Book, q Question) *plan {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	return &plan{q, b, query.WholeBook(b, q.Question), duration.NewReader(b, q.Question), index(milestone.Cancelled),
		index(q.Leg.From.Name), index(q.Leg.To.Name)}
}

// life places the order in a row of a block.
func (p *plan) life(block *book.Block, row int) OpenInterval {
	d := leg.Dates{Start: block.Columns[p.start].Known[row], End: block.Columns[p.end].Known[row]}
	if d.Start == 0 {
		d.RawStart = block.Columns[p.start].Raw[row]
	}
	return LifeOf(d, block.Columns[p.cancelled].Known[row])
}

// A Pick names orders behind a number.
type Pick struct {
	// What is AtStart, OpenedIn, ClosedIn, AtEnd, SomeTime, NotOpen (in the row of the closing day, with out), or the name of
	// a state.
	What string
	// Youngest and Oldest bound the age at the end of the last day, in ticks, for what is open then.
	Youngest, Oldest *int
}

// What a Pick can name besides states.
const (
	AtStart  = "at-start"
	OpenedIn = "opened-in"
	ClosedIn = "closed-in"
	AtEnd    = "at-end"
	SomeTime = "some-time"
	NotOpen  = "not-open"
	EverOpen = "ever-open" // at any time, in or out of the period
)

var picks = slices.Concat([]string{AtStart, OpenedIn, ClosedIn, AtEnd, SomeTime, NotOpen, EverOpen}, periodStateNames[:])

// Test says which orders a Pick names, in the question's first period; at some time, in any of them. The error is a
// *request.Error.
func Test(b *book.Book, q Question, pick Pick) (query.Test, error) {
	if !slices.Contains(picks, pick.What) {
		return nil, request.Invalid("open", pick.What, "want one of "+strings.Join(picks, ", "))
	}
	days, err := Cut(q.Periods[0], b.Bounds())
	if err != nil {
		return nil, err
	}
	p := newPlan(b, q)
	before, someTime := days.From-1, p.someTime()
	return func(o book.Offset) bool {
		life := p.life(o.Block, o.At)
		switch pick.What {
		case AtStart:
			return life.OpenAt(before)
		case OpenedIn:
			return days.Holds(life.Start)
		case ClosedIn:
			return life.Start != 0 && days.Holds(life.Close)
		case AtEnd:
			return life.OpenAt(days.LastDay()) && p.aged(o, days.LastDay(), pick)
		case SomeTime:
			return someTime(life)
		case NotOpen:
			return life.OpenIn(days, false) && !life.OpenIn(days, true)
		case EverOpen:
			return life.State(days).Placed()
		}
		return life.State(days).String() == pick.What
	}, nil
}

// aged says whether an order's age lies within the bounds of a pick.
func (p *plan) aged(o book.Offset, at day.Day, pick Pick) bool {
	if pick.Youngest == nil && pick.Oldest == nil {
		return true
	}
	age, told := p.reader.Until(o.Block, o.At, at)
	return told && (pick.Youngest == nil || age >= *pick.Youngest) && (pick.Oldest == nil || age <= *pick.Oldest)
}

// Sentence says what is counted in the question's periods, each by itself or, with a cut, in each of its steps.
func (q Question) Sentence(each query.TimeBucket) query.Sentence {
	words := make([]string, len(q.Periods))
	for i, p := range q.Periods {
		if words[i] = p.Text; p.Unbounded() {
			words[i] = p.Days()
		}
	}
	s := query.Sentence{{Text: "What was open in "}}
	if each != query.NoCut {
		s = append(s, query.SentencePart{Text: "each "}, query.SentencePart{Slot: "each", Text: each.String()},
			query.SentencePart{Text: " of "})
	}
	s = append(s, query.SentencePart{Slot: "period", Text: strings.Join(words, " and ")}, query.SentencePart{Text: ", "},
		query.SentencePart{Slot: "closing_day", Text: q.closingWords()})
	return q.ended(s)
}

// AgeSentence says what is counted at the end of a day.
func (q Question) AgeSentence(at day.Day) query.Sentence {
	return q.ended(query.Sentence{{Text: "How old was what was open at the end of "}, {Slot: "at", Text: at.String()},
		{Text: ", in "}, {Slot: "in", Text: q.UnitWords()}, {Text: ", "}, {Slot: "count", Text: q.Measure.RuleWords()}})
}

// ended ends a sentence with the leg, the groups and the condition.
func (q Question) ended(s query.Sentence) query.Sentence {
	s = append(s, query.SentencePart{Text: ", "}, query.SentencePart{Slot: "from", Text: q.Leg.From.Words()},
		query.SentencePart{Text: " and not yet "}, query.SentencePart{Slot: "to", Text: q.Leg.To.Words()})
	s = append(append(s, q.GroupWords()...), q.Where.Words()...)
	return append(s, query.SentencePart{Text: "?"})
}

// closingWords say whether the closing day counts.
func (q Question) closingWords() string {
	if q.Out {
		return "the closing day not counted"
	}
	return "the closing day counted"
}

// ParseBuckets reads the upper ends of ages, ascending, in a unit; empty is 2, 5, 10 and 20. The error is a *request.Error.
func ParseBuckets(text string, unit leg.Unit) (limits []int, err error) {
	if strings.TrimSpace(text) == "" {
		text = "2,5,10,20"
	}
	for _, one := range strings.Split(text, ",") {
		limit, err := strconv.ParseFloat(strings.TrimSpace(one), 64)
		ticks := unit.TicksAtMost(limit)
		if err != nil || limit < 0 || limit > 1e6 || len(limits) > 0 && ticks <= limits[len(limits)-1] {
			return nil, request.Invalid("buckets", text, "want the greatest age of each bucket but the last, ascending, such as 2,5,10,20")
		}
		limits = append(limits, ticks)
	}
	if len(limits) > mostBuckets {
		return nil, request.Invalid("buckets", text, fmt.Sprintf("want at most %d", mostBuckets))
	}
	return limits, nil
}

const mostBuckets = 12

// BucketLabels name the buckets of ages: "at most 2", "over 2 to 5", "over 20".
func BucketLabels(limits []int, unit leg.Unit) (labels []string) {
	labels = append(labels, "at most "+unit.Text(limits[0]))
	for i := 1; i < len(limits); i++ {
		labels = append(labels, "over "+unit.Text(limits[i-1])+" to "+unit.Text(limits[i]))
	}
	return append(labels, "over "+unit.Text(limits[len(limits)-1]))
}
