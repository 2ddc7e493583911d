package immediate

import (
	"maps"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
)

// A Group is what the orders of one group were asked for, and what was got.
type Group struct {
	Keys []string
	Step day.Span // of a cut of time
	// Cross counts the orders by what was asked and what was got.
	Cross [AskedKinds][GotKinds]int
	// Days and WorkingDays are how far ahead orders were booked.
	Days, WorkingDays distribution.Distribution
	days, working     map[int]int
}

// Orders are those of the group.
func (g *Group) Orders() (n int) {
	for _, row := range g.Cross {
		for _, orders := range row {
			n += orders
		}
	}
	return n
}

// Asked is how many were asked for so.
func (g *Group) Asked(a Asked) (n int) {
	for _, orders := range g.Cross[a] {
		n += orders
	}
	return n
}

// Got is how many were got so.
func (g *Group) Got(got Got) (n int) {
	for _, row := range g.Cross {
		n += row[got]
	}
	return n
}

// AskedShare is immediate of immediate and booked ahead, with orders without a requested date where the question counts them.
func (g *Group) AskedShare(q Question) Share {
	s := Share{g.Asked(Immediate), g.Asked(Immediate) + g.Asked(BookedAhead)}
	if q.WithoutDay {
		s.All += g.Asked(NoRequestedDate)
	}
	return s
}

// GotShare is what was got on the day of what was, and was not, whatever was asked.
func (g *Group) GotShare() Share {
	return Share{g.Got(OnTheDay), g.Got(OnTheDay) + g.Got(NotOnTheDay)}
}

func (g *Group) add(other *Group) {
	for a := range g.Cross {
		for got := range g.Cross[a] {
			g.Cross[a][got] += other.Cross[a][got]
		}
	}
	for ticks, n := range other.days {
		g.count(&g.days, ticks, n)
	}
	for ticks, n := range other.working {
		g.count(&g.working, ticks, n)
	}
}

func (g *Group) count(into *map[int]int, ticks, orders int) {
	if *into == nil {
		*into = map[int]int{}
	}
	(*into)[ticks] += orders
}

// settle makes the distributions from what was counted.
func (g *Group) settle() {
	made := func(counts map[int]int) (d distribution.Distribution) {
		for _, ticks := range slices.Sorted(maps.Keys(counts)) {
			d = append(d, distribution.Bar{Length: ticks, Orders: counts[ticks]})
		}
		return d
	}
	g.Days, g.WorkingDays = made(g.days), made(g.working)
}

// A Part is the answer for one period. Population.Asked = the orders of Total + all that is left out, each under its name.
type Part struct {
	Population    query.Population
	NoOrdered     int // no day of the order that is known
	NoCustomer    int // of first orders: no customer is known
	NotFirst      int // of first orders: later ones
	CancelledLeft int // left out, since the question says so; of first orders, so many customers
	Groups        []Group
	Total         Group
	// Of first orders: customers with another order on the day of the first; first orders near the book's beginning, which may
	// have had earlier ones; and customers whose first order within the selection is not their first in the book.
	Tied, NearBeginning, Elsewhere int
}

// What becomes of an order that the question is about, by which it is counted or left out.
type outcome uint8

const (
	counted outcome = iota
	noOrdered
	noCustomer
	notFirst
	cancelledLeft
	outcomes
)

// Ask answers the question, a part for each of its periods.
func Ask(b *book.Book, q Question) (parts []Part) {
	for _, p := range q.Periods {
		parts = append(parts, newPlan(b, q, p).part())
	}
	return parts
}

func newPlan(b *book.Book, q Question, p period.Period) *plan {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	pl := &plan{book: b, question: q, scope: query.NewScope(b, q.Question, p), ordered: index(milestone.Ordered),
		requested: index(milestone.Requested),
		end:       index(q.Leg.To.Name), cancelled: index(milestone.Cancelled)}
	switch q.Which {
	case FirstOrders:
		pl.firsts = FirstsOf(b)
	case FirstWithin:
		chosen, _ := query.Run(pl.scope, func() marks { return make(marks, b.Orders()) })
		pl.firsts = find(b, func(row int) bool { return chosen[row] })
	}
	return pl
}

// marks says of each row of a book, or of each customer, whether the question is about it.
type marks []bool

// Visit marks the orders of a stretch.
func (m marks) Visit(s *query.Stretch) {
	for _, i := range s.Chosen() {
		m[s.Row+int(i)] = true
	}
}

// Merge adds the marks of another worker.
func (m marks) Merge(other marks) {
	for i, is := range other {
		m[i] = m[i] || is
	}
}

// outcome says whether an order that the question is about counts, or why not; row is that of the block, and at that of the book.
func (p *plan) outcome(block *book.Block, row, at int) outcome {
	if block.Columns[p.ordered].Known[row] == 0 {
		return noOrdered
	}
	if p.question.Which != AllOrders {
		customer := block.Codes[book.Customer][row]
		switch {
		case customer == 0:
			return noCustomer
		case !p.firsts.Is(customer, at):
			return notFirst
		}
	}
	if p.question.LeaveCancelled && block.Columns[p.cancelled].Known[row] != 0 {
		return cancelledLeft
	}
	return counted
}

// kinds are what was asked and got of an order that counts.
func (p *plan) kinds(block *book.Block, row int) (Asked, Got) {
	ordered := block.Columns[p.ordered].Known[row]
	return AskedOf(ordered, block.Columns[p.requested].Known[row]),
		gotOf(ordered, block.Columns[p.end].Known[row], block.Columns[p.cancelled].Known[row], p.book.Bounds().DataDate)
}

// A tally is what one worker has counted.
type tally struct {
	*plan
	inBook                         *Firsts
	outcomes                       [outcomes]int
	groups                         map[int]*Group
	tied, nearBeginning, elsewhere int
}

// Visit counts a stretch.
func (t *tally) Visit(s *query.Stretch) {
	calendars, bounds := t.book.Locals(t.question.Calendar), t.book.Bounds()
	working := leg.Measure{Unit: leg.WorkingDays}
	for _, i := range s.Chosen() {
		row, at := s.From+int(i), s.Row+int(i)
		o := t.outcome(s.Block, row, at)
		if t.outcomes[o]++; o != counted {
			continue
		}
		g := t.group(int(s.Groups[i]))
		a, got := t.kinds(s.Block, row)
		g.Cross[a][got]++
		ordered := s.Block.Columns[t.ordered].Known[row]
		if a == BookedAhead {
			stretch := leg.Stretch{Start: ordered, End: s.Block.Columns[t.requested].Known[row]}
			ticks, _ := working.Length(calendars[s.Calendars[i]].Local, stretch)
			g.count(&g.working, ticks, 1)
			g.count(&g.days, int(stretch.End-stretch.Start), 1)
		}
		if t.question.Which == AllOrders {
			continue
		}
		customer := s.Block.Codes[book.Customer][row]
		if t.firsts.Tied[customer] {
			t.tied++
		}
		if ordered < bounds.FirstDay+Beginning {
			t.nearBeginning++
		}
		if !t.inBook.Is(customer, at) {
			t.elsewhere++
		}
	}
}

func (t *tally) group(number int) *Group {
	g := t.groups[number]
	if g == nil {
		g = &Group{}
		t.groups[number] = g
	}
	return g
}

// Merge adds what another worker has counted.
func (t *tally) Merge(other *tally) {
	for o, n := range other.outcomes {
		t.outcomes[o] += n
	}
	t.tied, t.nearBeginning, t.elsewhere = t.tied+other.tied, t.nearBeginning+other.nearBeginning, t.elsewhere+other.elsewhere
	for number, g := range other.groups {
		t.group(number).add(g)
	}
}

func (p *plan) newTally() *tally {
	return &tally{plan: p, inBook: FirstsOf(p.book), groups: map[int]*Group{}}
}

func (p *plan) part() Part {
	t, population := query.Run(p.scope, p.newTally)
	part := Part{Population: population,
		NoOrdered: t.outcomes[noOrdered], NoCustomer: t.outcomes[noCustomer], NotFirst: t.outcomes[notFirst],
		CancelledLeft: t.outcomes[cancelledLeft],
		Tied:          t.tied, NearBeginning: t.nearBeginning, Elsewhere: t.elsewhere}
	for _, g := range t.groups {
		part.Total.add(g)
		g.settle()
	}
	part.Total.settle()
	if len(p.question.By) == 0 {
		return part
	}
	for _, number := range p.scope.Arrange(slices.Collect(maps.Keys(t.groups)), func(number int) int { return t.groups[number].Orders() }) {
		g := *t.groups[number]
		g.Keys, g.Step = p.scope.Keys(number)
		part.Groups = append(part.Groups, g)
	}
	return part
}

// A Pick names orders behind a number: what was asked, what was got, or both.
type Pick struct {
	Asked string // a name of Asked; empty is any
	Got   string // a name of Got; empty is any
	// Left names what is left out instead: no-ordered-day, no-customer, not-first or cancelled.
	Left string
}

var leftNames = map[string]outcome{"no-ordered-day": noOrdered, "no-customer": noCustomer, "not-first": notFirst,
	"cancelled": cancelledLeft}

// Test says which orders a pick names in the question's first period; the period places nothing else. The error is a
// *request.Error.
func Test(b *book.Book, q Question, pick Pick) (query.Test, error) {
	asked, err := named("asked", pick.Asked, askedNames[:])
	if err != nil {
		return nil, err
	}
	got, err := named("achieved_as", pick.Got, gotNames[:])
	if err != nil {
		return nil, err
	}
	want := counted
	if pick.Left != "" {
		if _, err := named("left", pick.Left, slices.Sorted(maps.Keys(leftNames))); err != nil {
			return nil, err
		}
		want = leftNames[pick.Left]
	}
	p := newPlan(b, q, q.Periods[0])
	return func(o book.Offset) bool {
		if !p.scope.Holds(o) || p.outcome(o.Block, o.At, o.Row) != want { // the list sees to the condition
			return false
		}
		if want != counted {
			return true
		}
		a, g := p.kinds(o.Block, o.At)
		return (asked < 0 || int(a) == asked) && (got < 0 || int(g) == got)
	}, nil
}
