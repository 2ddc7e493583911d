package crosstab

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/work"
	"slices"
)

// lineDays are the columns of both, by block.
type lineDays [2][][]int64

type lineDaysKey struct{}

// WithLineDays is the book with the days of its lines, shipped and delivered: a line's own day, else that of its shipments, else
// the order's; a line has come when the last of it has. They are made at the first use of a snapshot.
func WithLineDays(b *book.Book) *book.Book {
	days := b.Memoize(lineDaysKey{}, func(b *book.Book) any { return newLineDays(b) }).(*lineDays)
	return b.WithLineDays(book.AllShipped, days[byShipment]).WithLineDays(book.AllDelivered, days[byDelivery])
}

func newLineDays(b *book.Book) *lineDays {
	all := &lineDays{}
	for i := range all {
		all[i] = make([][]int64, len(b.Blocks()))
	}
	goods := newGoods(b)
	work.Each(len(b.Blocks()), func(i int) {
		block, s := b.Blocks()[i], spool{}
		lines := &block.Parts[book.Lines]
		_, count := lines.Of(len(block.IDs) - 1)
		for k := range all {
			all[k][i] = make([]int64, count)
		}
		for row := range block.IDs {
			if row%1024 == 0 {
				b.Pause()
			}
			from, to := lines.Of(row)
			if from == to {
				continue
			}
			for _, line := range linesOf(goods.pieces(block, row, &s), from, to) {
				for k, d := range line.days[:len(all)] {
					if all[k][i][line.part] = int64(d); d == 0 {
						all[k][i][line.part] = book.None
					}
				}
			}
		}
	})
	return all
}

// chosenParts are those of an order that a condition picks. What it needs of an order is a difference of two places, since a short
// loop over the parts of each order costs more than the parts.
type chosenParts struct {
	stretch []predicate.Truth // of all parts of a stretch of orders
	first   int               // of these, its place in the block
	counts  []uint64          // before each part, and after the last: how many are picked, and in the upper half undecided
	units   []int64           // of the lines that are picked; 0 of any other, and where they are not known
	sums    []int64           // of units, as counts
	unknown bool              // units of some line are not known
	met     []predicate.Truth // of the order that is looked at
	all     bool              // all its parts are picked
}

// decide decides about the parts of a stretch of orders, from one row up to before another.
func (c *chosenParts) decide(p *plan, block *book.Block, from, to int) {
	starts := block.Parts[p.of].Starts
	c.first = int(starts[from])
	count := int(starts[to]) - c.first
	c.stretch, c.counts = slices.Grow(c.stretch[:0], count)[:count], slices.Grow(c.counts[:0], count+1)[:count+1]
	p.picks.Parts(p.of, block, from, to, c.stretch)
	before := uint64(0)
	for i, truth := range c.stretch {
		c.counts[i] = before
		before += uint64(truth&predicate.True) | uint64(truth&predicate.Undecided)<<31
	}
	c.counts[count] = before
	if p.question.Show.Kind == Units {
		c.sumUnits(block.Parts[p.of].Columns[book.LineUnits].Numbers[c.first:][:count])
	}
}

// sumUnits sums the units of lines that are picked.
func (c *chosenParts) sumUnits(all []int64) {
	count := len(all)
	c.units, c.sums = slices.Grow(c.units[:0], count)[:count], slices.Grow(c.sums[:0], count+1)[:count+1]
	before := int64(0)
	c.unknown = false
	for i, n := range all {
		if n == book.None {
			n, c.unknown = 0, true
		}
		n &= -int64(c.stretch[i] & predicate.True) // without a branch
		c.units[i], c.sums[i] = n, before
		before += n
	}
	c.sums[count] = before
}

// unitsOf are those of the lines of an order that are picked, by line and in all; unknown is how many of these lines have none that
// are known.
func (c *chosenParts) unitsOf(lines []int64, from int) (units []int64, sum int64, unknown int) {
	at, end := from-c.first, from-c.first+len(lines)
	if c.unknown {
		for i, n := range lines {
			if n == book.None && c.met[i] == predicate.True {
				unknown++
			}
		}
	}
	return c.units[at:end], c.sums[end] - c.sums[at], unknown
}

// order turns to an order, by its parts.
func (c *chosenParts) order(from, to int) { c.met = c.stretch[from-c.first : to-c.first] }

// only keeps the amounts of lines that are picked, in space of its own, and gives their sum.
func (c *chosenParts) only(amounts, space []int64) (kept []int64, sum int64) {
	kept = slices.Grow(space[:0], len(amounts))[:len(amounts)]
	for i, truth := range c.met {
		n := amounts[i] & -int64(truth&predicate.True) // without a branch
		kept[i], sum = n, sum+n
	}
	return kept, sum
}

// pieces keeps the pieces of parts that are picked; what goes with an order as a whole is of no line.
func (c *chosenParts) pieces(all []piece, from int) []piece {
	kept := all[:0]
	for _, p := range all {
		if p.part >= 0 && c.met[p.part-from] == predicate.True {
			kept = append(kept, p)
		}
	}
	return kept
}

// PartCounts divide the parts of the orders that a question is about by its condition on them.
type PartCounts struct {
	Met, Unmet, Undecided int
	// MetByMissing are those that meet it and lack one of two values which it compares with !=.
	MetByMissing int
}

func (c *PartCounts) add(o PartCounts) {
	c.Met, c.Unmet, c.Undecided, c.MetByMissing = c.Met+o.Met, c.Unmet+o.Unmet, c.Undecided+o.Undecided, c.MetByMissing+o.MetByMissing
}

// choose turns to the parts of an order, and counts them; it says whether some are picked.
func (p *plan) choose(t *tally, at *cursor) (some bool) {
	from, to := at.block.Parts[p.of].Of(at.row)
	t.chosen.order(from, to)
	if from == to {
		return false
	}
	both := t.chosen.counts[to-t.chosen.first] - t.chosen.counts[from-t.chosen.first]
	c, met, undecided := &t.decided, int(uint32(both)), int(both>>32)
	c.Met, c.Unmet, c.Undecided = c.Met+met, c.Unmet+to-from-met-undecided, c.Undecided+undecided
	if p.picksByMissing != nil {
		p.countByMissing(t, at, from)
	}
	t.chosen.all = met == to-from
	return met > 0
}

// countByMissing counts the parts that meet the condition and lack one of two values which it compares with !=.
func (p *plan) countByMissing(t *tally, at *cursor, from int) {
	place := predicate.Place{Block: at.block, Row: at.row}
	for i, truth := range t.chosen.met {
		if place.Part[p.of] = from + i; truth == predicate.True && p.picksByMissing.OneAt(&place) == predicate.True {
			t.decided.MetByMissing++
		}
	}
}
