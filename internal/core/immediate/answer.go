package immediate

import (
	"maps"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/summary"
)

// A Group is what the orders of one group were asked for, and what was got.
type Group struct {
	Keys []string
	Step day.Span // of a cut of time
	// Cross counts the orders by what was asked and what was got.
	Cross [AskedKinds][GotKinds]int
	// Days and WorkingDays are how far ahead orders were booked.
	Days, WorkingDays summary.Distribution
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
	made := func(counts map[int]int) (d summary.Distribution) {
		for _, ticks := range slices.Sorted(maps.Keys(counts)) {
			d = append(d, summary.Bar{Length: ticks, Orders: counts[ticks]})
		}
		return d
	}
	g.Days, g.WorkingDays = made(g.days), made(g.working)
}

// A Part is the answer for one period. InBook = the orders of Total + all that is left out, each under its name.
type Part struct {
	Period                             period.Period
	InBook                             int
	Outside, Undated, Unmet, Undecided int
	Lacking                            summary.Lacks
	NoOrdered                          int // no day of the order that is known
	NoCustomer                         int // of first orders: no customer is known
	NotFirst                           int // of first orders: later ones
	CancelledLeft                      int // left out, since the question says so; of first orders, so many customers
	Groups                             []Group
	Total                              Group
	// Of first orders: customers with another order on the day of the first; first orders near the book's beginning, which may
	// have had earlier ones; and customers whose first order within the selection is not their first in the book.
	Tied, NearBeginning, Elsewhere int
}

// What becomes of an order, by which it is counted or left out.
type outcome uint8

const (
	counted outcome = iota
	outside
	undated
	unmet
	undecided
	noOrdered
	noCustomer
	notFirst
	cancelledLeft
	outcomes
)

// Ask answers the question, a part for each of its periods.
func Ask(b *book.Book, q Question) (parts []Part) {
	for _, p := range q.Periods {
		parts = append(parts, newPlan(b, q, p).part(p))
	}
	return parts
}

func newPlan(b *book.Book, q Question, p period.Period) *plan {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	pl := &plan{book: b, question: q, grouper: summary.NewGrouper(b, q.Question), ordered: index(milestone.Ordered), requested: index(milestone.Requested),
		end: index(q.Leg.To.Name), cancelled: index(milestone.Cancelled), basis: index(q.Basis.Name), period: p}
	switch q.Which {
	case FirstOrders:
		pl.firsts = FirstsOf(b)
	case FirstWithin:
		pl.firsts = pl.within()
	}
	return pl
}

// within finds the first orders among those that the period and the condition leave.
func (p *plan) within() *Firsts {
	chosen := make([]bool, p.book.Orders())
	places := p.places()
	summary.Walk(p.grouper, func() *struct{} { return nil }, func(_ *struct{}, c summary.Chunk) {
		for i, truth := range c.Truths {
			chosen[places[c.Block.IDs[0]]+c.From+i] = truth == predicate.True && p.placed(c.Block, c.From+i) == counted
		}
	})
	return find(p.book, func(block *book.Block, row int) bool { return chosen[places[block.IDs[0]]+row] })
}

// places are the rows of the book at which blocks begin, by the identity of their first order.
func (p *plan) places() map[int64]int {
	places := map[int64]int{}
	for i, block := range p.book.Blocks() {
		places[block.IDs[0]] = i * book.BlockSize
	}
	return places
}

// placed says whether the period holds an order.
func (p *plan) placed(block *book.Block, row int) outcome {
	if p.period.Unbounded() {
		return counted
	}
	switch d := block.Columns[p.basis].Known[row]; {
	case d == 0:
		return undated
	case !p.period.Span.Holds(d):
		return outside
	}
	return counted
}

// outcome says whether an order counts, or why not; row is that of the block, and at that of the book.
func (p *plan) outcome(block *book.Block, row, at int, truth predicate.Truth) outcome {
	if placed := p.placed(block, row); placed != counted {
		return placed
	}
	switch {
	case truth == predicate.False:
		return unmet
	case truth == predicate.Undecided:
		return undecided
	case block.Columns[p.ordered].Known[row] == 0:
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
	outcomes                       [outcomes]int
	lacking                        map[string]int
	groups                         map[int]*Group
	tied, nearBeginning, elsewhere int
}

func (p *plan) part(asked period.Period) Part {
	places, locals, bounds := p.places(), p.book.Locals(p.question.Side), p.book.Bounds()
	working := leg.Measure{Unit: leg.WorkingDays}
	inBook := FirstsOf(p.book)
	tallies := summary.Walk(p.grouper, func() *tally { return &tally{lacking: map[string]int{}, groups: map[int]*Group{}} }, func(t *tally, c summary.Chunk) {
		for i, truth := range c.Truths {
			row := c.From + i
			at := places[c.Block.IDs[0]] + row
			o := p.outcome(c.Block, row, at, truth)
			t.outcomes[o]++
			if o == undecided {
				t.lacking[p.grouper.Lacks(c.Block, row)]++
			}
			if o != counted {
				continue
			}
			g := t.groups[int(c.Groups[i])]
			if g == nil {
				g = &Group{}
				t.groups[int(c.Groups[i])] = g
			}
			a, got := p.kinds(c.Block, row)
			g.Cross[a][got]++
			ordered := c.Block.Columns[p.ordered].Known[row]
			if a == BookedAhead {
				stretch := leg.Stretch{Start: ordered, End: c.Block.Columns[p.requested].Known[row]}
				ticks, _ := working.Length(locals[c.Locals[i]].Local, stretch)
				g.count(&g.working, ticks, 1)
				g.count(&g.days, int(stretch.End-stretch.Start), 1)
			}
			if p.question.Which == AllOrders {
				continue
			}
			customer := c.Block.Codes[book.Customer][row]
			if p.firsts.Tied[customer] {
				t.tied++
			}
			if ordered < bounds.FirstDay+Beginning {
				t.nearBeginning++
			}
			if !inBook.Is(customer, at) {
				t.elsewhere++
			}
		}
	})
	part, groups := Part{Period: asked, InBook: p.book.Orders()}, map[int]*Group{}
	lacking := map[string]int{}
	for _, t := range tallies {
		part.Outside, part.Undated, part.Unmet, part.Undecided = part.Outside+t.outcomes[outside], part.Undated+t.outcomes[undated], part.Unmet+t.outcomes[unmet], part.Undecided+t.outcomes[undecided]
		part.NoOrdered, part.NoCustomer, part.NotFirst, part.CancelledLeft = part.NoOrdered+t.outcomes[noOrdered], part.NoCustomer+t.outcomes[noCustomer], part.NotFirst+t.outcomes[notFirst], part.CancelledLeft+t.outcomes[cancelledLeft]
		part.Tied, part.NearBeginning, part.Elsewhere = part.Tied+t.tied, part.NearBeginning+t.nearBeginning, part.Elsewhere+t.elsewhere
		for name, n := range t.lacking {
			lacking[name] += n
		}
		for number, g := range t.groups {
			if groups[number] == nil {
				groups[number] = &Group{}
			}
			groups[number].add(g)
		}
	}
	part.Lacking = summary.LacksOf(lacking)
	for _, g := range groups {
		part.Total.add(g)
		g.settle()
	}
	part.Total.settle()
	if len(p.question.By) == 0 {
		return part
	}
	for _, number := range p.grouper.Arrange(slices.Collect(maps.Keys(groups)), func(number int) int { return groups[number].Orders() }) {
		g := *groups[number]
		g.Keys, g.Step = p.grouper.Keys(number)
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

var leftNames = map[string]outcome{"no-ordered-day": noOrdered, "no-customer": noCustomer, "not-first": notFirst, "cancelled": cancelledLeft}

// Test says which orders a pick names in the question's first period; the period places nothing else. The error is a
// *request.Error.
func Test(b *book.Book, q Question, pick Pick) (func(block *book.Block, row int) bool, error) {
	asked, err := named("asked", pick.Asked, askedNames[:])
	if err != nil {
		return nil, err
	}
	got, err := named("got_as", pick.Got, gotNames[:])
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
	places := p.places()
	return func(block *book.Block, row int) bool {
		// The list decides the condition.
		if p.outcome(block, row, places[block.IDs[0]]+row, predicate.True) != want {
			return false
		}
		if want != counted {
			return true
		}
		a, g := p.kinds(block, row)
		return (asked < 0 || int(a) == asked) && (got < 0 || int(g) == got)
	}, nil
}
