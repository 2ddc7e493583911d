package crosstab

import (
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/work"
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

// chosenParts are those of an order that a condition picks.
type chosenParts struct {
	stretch []predicate.Truth // of all parts of a stretch of orders
	first   int               // of these, its place in the block
	met     []predicate.Truth // of the order that is looked at
	all     bool              // all its parts are picked
}

// decide decides about the parts of a stretch of orders, from one row up to before another.
func (c *chosenParts) decide(p *plan, block *book.Block, from, to int) {
	starts := block.Parts[p.of].Starts
	c.first = int(starts[from])
	count := int(starts[to]) - c.first
	c.stretch = slices.Grow(c.stretch[:0], count)[:count]
	p.picks.Parts(p.of, block, from, to, c.stretch)
}

// unitsOf are those of the lines of an order that are picked, by line, in space of its own, and in all; 0 of any other, and where
// they are not known. Unknown is how many of these lines have none that are known.
func (c *chosenParts) unitsOf(lines, space []int64) (units []int64, sum int64, unknown int) {
	units = slices.Grow(space[:0], len(lines))[:len(lines)]
	for i, truth := range c.met {
		n := lines[i] & -int64(truth&predicate.True) // without a branch
		if n == book.None {
			n, unknown = 0, unknown+1
		}
		units[i], sum = n, sum+n
	}
	return units, sum, unknown
}

// order turns to an order, by its parts; it says how many are picked, and how many are undecided.
func (c *chosenParts) order(from, to int) (met, undecided int) {
	c.met = c.stretch[from-c.first : to-c.first]
	for _, truth := range c.met {
		met, undecided = met+int(truth&predicate.True), undecided+int(truth>>1)
	}
	c.all = met == len(c.met)
	return met, undecided
}

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
	query.PartCounts
	MetByMissing int // those that meet it and lack one of two values which it compares with !=
}

func (c *PartCounts) add(o PartCounts) {
	c.Add(o.PartCounts)
	c.MetByMissing += o.MetByMissing
}

// choose turns to the parts of an order, and counts them; of an order that has some, and none is picked, nothing is counted.
func (p *plan) choose(t *tally, at *cursor) (skip bool) {
	from, to := at.block.Parts[p.of].Of(at.row)
	met, undecided := t.chosen.order(from, to)
	c := &t.decided
	c.Met, c.Unmet, c.Undecided = c.Met+met, c.Unmet+to-from-met-undecided, c.Undecided+undecided
	if p.picksByMissing != nil {
		p.countByMissing(t, at, from)
	}
	return met == 0 && from < to
}

// countUnits is countAlike of units, in one loop over the lines, where one date places them, each line has its row, and the order its
// column.
func (p *plan) countUnits(t *tally, at *cursor) bool {
	var whole piece
	if p.anyOwned && !p.goods.alike(at.block, at.row, &p.asksOwned, &whole) {
		return false
	}
	lines := &at.block.Parts[book.Lines]
	from, to := lines.Of(at.row)
	d, where := p.pieceDay(at, 0, &whole)
	cells := t.outside
	if where == inside {
		cells = t.cells[p.code(1, at, -1, d):]
	}
	rows, units, all, unknown := at.codes[0][from:to], lines.Columns[book.LineUnits].Numbers[from:to], int64(0), 0
	stride := p.columns // of p, it would be read again after each cell is written
	if p.picks == nil {
		rows = rows[:len(units)]
		for i, n := range units {
			if n == book.None {
				n, unknown = 0, unknown+1
			}
			cells[int(rows[i])*stride] += n
			all += n
		}
	} else {
		met := t.chosen.met
		rows, units = rows[:len(met)], units[:len(met)]
		for i, truth := range met {
			n := units[i] & -int64(truth&predicate.True) // without a branch
			if n == book.None {
				n, unknown = 0, unknown+1
			}
			cells[int(rows[i])*stride] += n
			all += n
		}
	}
	t.withoutUnits += unknown
	t.bridge[p.crossAt(0, 0, where, where)] += all
	if from == to {
		t.withoutParts++
	}
	if all == 0 {
		return true
	}
	t.orders[p.placeAt(0, where, 0)]++
	t.off[p.placeAt(0, where, 0)] += all
	if where == inside {
		t.withDay[p.dayAt(0, 0, d)] = true
	}
	return true
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
