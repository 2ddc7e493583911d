package summary

import (
	"cmp"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
)

// A Grouper puts the orders of a book into the groups of a question, for analyses whose measures are not lengths: there is
// one way of grouping. The period of the question plays no part in it.
type Grouper struct{ p *plan }

// NewGrouper resolves the groupings and the condition of a question.
func NewGrouper(b *book.Book, q Question) *Grouper {
	q.Through, q.Promise, q.Limit, q.Waiting = nil, nil, nil, false
	return &Grouper{newPlan(b, q, period.All(b.Bounds()))}
}

// Groups is how many groups there can be.
func (g *Grouper) Groups() int { return g.p.groups }

// A Chunk is a stretch of the orders of a block, with what a Grouper says of each.
type Chunk struct {
	Block    *book.Block
	From, To int // rows of the block
	Groups   []uint32
	Locals   []uint32          // codes of the calendars by which the orders are counted
	Truths   []predicate.Truth // of the condition
}

// Walk shows all orders, split over the processors, each with an accumulator of its own, which it gives back. What a chunk
// holds is only there while it is looked at.
func Walk[A any](g *Grouper, fresh func() A, visit func(a A, c Chunk)) []A {
	p := g.p
	return walk(p.book, fresh, func(block *book.Block, from, to int, space *scratch, a A) {
		p.decide(block, from, space.truths[:to-from])
		visit(a, Chunk{block, from, to, p.groupCodes(block, from, to, space), p.book.LocalCodes(p.question.Side, block, from, to, space.locals[:]), space.truths[:to-from]})
	})
}

// Lacks names what the condition asks about and an undecided order does not have.
func (g *Grouper) Lacks(block *book.Block, row int) string { return g.p.where.Lacks(block, row) }

// Dates are the days of an order that decide the state of the question's leg.
func (g *Grouper) Dates(block *book.Block, row int) leg.Dates {
	return g.p.dates(block, row)
}

// Until is how long an order's leg has run up to a day, in ticks; false where the unit asks for an instant.
func (g *Grouper) Until(block *book.Block, row int, local uint32, d leg.Dates, end day.Day) (ticks int, told bool) {
	return g.p.lengthUntil(block, row, local, d, end, 0)
}

// Keys are those of a group, and the step of time that it is, if it is one.
func (g *Grouper) Keys(group int) (keys []string, step day.Span) {
	codes := g.p.codes(group)
	keys = make([]string, len(g.p.axes))
	for i, axis := range g.p.axes {
		keys[i] = axis.labels[codes[i]]
		if axis.spans != nil {
			step = axis.span(codes[i])
		}
	}
	return keys, step
}

// Arrange gives groups by time, then with the greatest first, then by their names.
func (g *Grouper) Arrange(groups []int, size func(group int) int) []int {
	groups = slices.Clone(groups)
	slices.SortStableFunc(groups, func(a, b int) int {
		x, rankX := g.p.orderOf(a)
		y, rankY := g.p.orderOf(b)
		return cmp.Or(cmp.Compare(uint32(x-1), uint32(y-1)), cmp.Compare(size(b), size(a)), cmp.Compare(rankX, rankY))
	})
	return groups
}

// NumberOf is the group with these keys. The error is a *request.Error.
func (g *Grouper) NumberOf(keys []string) (uint32, error) { return g.p.number(keys) }

// Steps are those of a stretch of days: every one, each with its name, as wide as the calendar has it.
func (c TimeBucket) Steps(s day.Span) (names []string, spans []day.Span) {
	for d := s.From; d <= s.LastDay(); {
		span := c.span(d)
		names, spans = append(names, c.label(d)), append(spans, span)
		d = span.LastDay() + 1
	}
	return names, spans
}
