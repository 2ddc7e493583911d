// Package immediate says how much was asked for at once: requested on the day on which it was ordered. What was asked for and
// what was got are two things, and never share a name.
package immediate

import (
	"math"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// An Asked is for when an order was requested.
type Asked uint8

// Every order that is placed has one of them.
const (
	Immediate       Asked = iota // requested for the day of the order
	BookedAhead                  // requested later
	NoRequestedDate              // nothing is known of when it was requested
	RequestedBefore              // requested before it was ordered: an error in the records
	AskedKinds                   // how many there are
)

var askedNames = [AskedKinds]string{"immediate", "booked-ahead", "no-requested-date", "requested-before-ordered"}

// String is the name in the API and on the command line.
func (a Asked) String() string { return askedNames[a] }

// Label is it in words.
func (a Asked) Label() string {
	return [AskedKinds]string{"immediate", "booked ahead", "no requested date", "requested date before order date"}[a]
}

// AskedOf says for when an order was requested that was ordered on a day that is known.
func AskedOf(ordered, requested day.Day) Asked {
	switch {
	case requested == 0:
		return NoRequestedDate
	case requested == ordered:
		return Immediate
	case requested > ordered:
		return BookedAhead
	}
	return RequestedBefore
}

// A Got is whether an order was shipped, or delivered, on the day on which it was ordered.
type Got uint8

// An order that still waits after the day of its order was not got at once.
const (
	OnTheDay Got = iota
	NotOnTheDay
	UndecidedGot // ordered on the data date: the day is not over
	CancelledGot // cancelled, and not shipped or delivered
	GotBefore    // shipped or delivered before it was ordered: an error in the records
	GotKinds     // how many there are
)

var gotNames = [GotKinds]string{"on-the-day", "not-on-the-day", "undecided", "cancelled", "before-ordered"}

// String is the name in the API and on the command line.
func (g Got) String() string { return gotNames[g] }

// Label is it in words, of a milestone.
func (g Got) Label(m milestone.Milestone) string {
	return [GotKinds]string{m.Words() + " on the day", "not " + m.Words() + " on the day", "cannot be decided yet (ordered on the data date)",
		"cancelled", m.Date() + " before order date"}[g]
}

func gotOf(ordered, end, cancelled, dataDate day.Day) Got {
	switch {
	case end == ordered:
		return OnTheDay
	case end != 0 && end < ordered:
		return GotBefore
	case end != 0:
		return NotOnTheDay
	case cancelled != 0:
		return CancelledGot
	case ordered == dataDate:
		return UndecidedGot
	}
	return NotOnTheDay
}

// Which orders are asked about.
type Which uint8

// First orders are those of the whole book, whatever the period and the condition, which apply afterwards; the first within
// the selection are found among what the two leave.
const (
	AllOrders Which = iota
	FirstOrders
	FirstWithin
)

var whichNames = []string{"all", "first", "first-within"}

// String is the name in the API and on the command line.
func (w Which) String() string { return whichNames[w] }

// A Request is a question in words. Empty words take their defaults.
type Request struct {
	Which           string   // all, first or first-within; default all
	By              []string // at most two groupings
	Basis           string   // milestone; default ordered
	Period          string
	Achieved        string // shipped or delivered; default shipped
	NoRequestedDate string // out or in: whether orders without a requested date are in the denominator; default out
	Cancelled       string // in or out: whether cancelled orders count; default in
}

// A Question is a Request that has been understood against a book.
type Question struct {
	query.Question
	Which Which
	// WithoutDay counts orders without a requested date in the denominator.
	WithoutDay bool
	// LeaveCancelled leaves cancelled orders out, after the first ones are found.
	LeaveCancelled bool
}

// Parse understands a request. The error is a *request.Error.
func Parse(b *book.Book, r Request) (q Question, err error) {
	got := r.Achieved
	if got == "" {
		got = milestone.Shipped
	}
	if got != milestone.Shipped && got != milestone.Delivered {
		return q, request.Invalid("achieved", r.Achieved, "want shipped or delivered: which of them is to come on the day of the order")
	}
	basis := r.Basis
	if basis == "" {
		basis = milestone.Ordered
	}
	if q.Question, err = query.Parse(b, query.Request{From: milestone.Ordered, To: got, Basis: basis, Period: r.Period,
		By: r.By}); err != nil {
		return q, err
	}
	which := slices.Index(whichNames, r.Which)
	if r.Which == "" {
		which = 0
	}
	if which < 0 {
		return q, request.Invalid("orders", r.Which, "want one of "+strings.Join(whichNames, ", "))
	}
	q.Which = Which(which)
	if q.WithoutDay, err = choice("no_requested_date", r.NoRequestedDate, "in"); err != nil {
		return q, err
	}
	q.LeaveCancelled, err = choice("cancelled", r.Cancelled, "out")
	return q, err
}

// choice reads in, out or nothing; chosen is the one that is not the default.
func choice(word, text, chosen string) (bool, error) {
	if text != "" && text != "in" && text != "out" {
		return false, request.Invalid(word, text, "want in or out")
	}
	return text == chosen, nil
}

// Sentence says exactly what is computed in one of its periods.
func (q Question) Sentence() query.Sentence {
	part := query.Part
	words := make([]string, len(q.Periods))
	for i, p := range q.Periods {
		if words[i] = p.Text; p.Unbounded() {
			words[i] = p.Days()
		}
	}
	s := query.Sentence{part("", "What share of "), part("orders", [...]string{"all orders", "customers' first orders",
		"the first orders within the selection"}[q.Which]),
		part("", " "), part("basis", q.Basis.Words()), part("", " in "), part("period", strings.Join(words, " and ")),
		part("", " was requested for the day of the order, "), part("no_requested_date",
			"orders without a requested date "+numfmt.Either(q.WithoutDay, "counted as a no", "left out")),
		part("", ", "), part("cancelled", "cancelled orders "+numfmt.Either(q.LeaveCancelled, "left out", "counted")),
		part("", ", and what share was "), part("achieved", q.Leg.To.Words()), part("", " on that day")}
	s = append(append(s, q.GroupWords()...), q.Where.Words()...)
	return append(s, part("", "?"))
}

// A Share is some of all, both whole numbers.
type Share struct{ Some, All int }

// Interval is the Wilson score interval without continuity correction at 95%, in percent: Wilson, "Probable Inference, the Law of
// Succession, and Statistical Inference", JASA 22(158), 1927. NaN where there is nothing.
func (s Share) Interval() (low, high float64) {
	const z = 1.959963984540054
	n := float64(s.All)
	if s.All == 0 {
		return math.NaN(), math.NaN()
	}
	p := float64(s.Some) / n
	centre := (p + z*z/(2*n)) / (1 + z*z/n)
	half := z / (1 + z*z/n) * math.Sqrt(p*(1-p)/n+z*z/(4*n*n))
	return 100 * max(0, centre-half), 100 * min(1, centre+half)
}

// A plan is a question about one period, resolved against a book.
type plan struct {
	book                               *book.Book
	scope                              *query.Scope
	question                           Question
	ordered, requested, end, cancelled int     // milestones' indexes
	firsts                             *Firsts // nil where all orders are asked about
}

// named is the place of a name among others; −1 where there is none to look for. The error is a *request.Error.
func named(word, name string, names []string) (int, error) {
	if name == "" {
		return -1, nil
	}
	if i := slices.Index(names, name); i >= 0 {
		return i, nil
	}
	return 0, request.Invalid(word, name, "want one of "+strings.Join(names, ", "))
}
