package book

import (
	"slices"
	"sync"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/work"
)

// A StandInError says why one milestone cannot stand in for another.
type StandInError struct{ Of, StandIn milestone.Milestone }

func (e *StandInError) Error() string {
	return e.StandIn.Name + " cannot stand in for " + e.Of.Name + ": one is a plan and the other a fact"
}

// WithStandIns is the book with one more milestone for each of the names that asks for a stand-in, such as
// invoiced-or-shipped: the day of the first or, where an order has none that is known, of the second. Names of other forms
// are passed over. It is for asking, and not for building on. The error is a *StandInError.
func (b *Book) WithStandIns(names ...string) (*Book, error) {
	next := b
	for _, name := range names {
		if milestone.Index(next.layout.Milestones, name) >= 0 {
			continue
		}
		of, standIn, is := milestone.Pair(b.layout.Milestones, name)
		if !is {
			continue
		}
		first, second := b.layout.Milestones[of], b.layout.Milestones[standIn]
		if first.Plan != second.Plan {
			return b, &StandInError{first, second}
		}
		if next == b {
			copied := *b
			copied.blocks = slices.Clone(b.blocks)
			next = &copied
		}
		next.layout.Milestones = append(slices.Clip(next.layout.Milestones), milestone.WithStandIn(first, second))
		columns := b.standIn(of, standIn)
		for i, block := range next.blocks {
			wider := *block
			wider.Columns = append(slices.Clip(block.Columns), columns[i])
			next.blocks[i] = &wider
		}
	}
	return next, nil
}

// standIn gives the columns of a milestone with its stand-in, by block. They are made once for a book.
func (b *Book) standIn(of, standIn int) []Column {
	return b.Memoize(standInKey{of, standIn}, func(b *Book) any {
		columns := make([]Column, len(b.blocks))
		work.Each(len(b.blocks), func(i int) { columns[i] = b.blocks[i].Columns[of].or(b.blocks[i].Columns[standIn]) })
		return columns
	}).([]Column)
}

type standInKey struct{ of, standIn int }

// Memoize gives what is made once for a snapshot, whatever labels it has, by a key of a type of its own. It is made to its end,
// whoever asked for it; of a make that fails nothing is remembered.
func (b *Book) Memoize(key any, make func(*Book) any) any {
	kept, _ := b.cache.LoadOrStore(key, &remembered{})
	r := kept.(*remembered)
	r.making.Lock()
	defer r.making.Unlock()
	if !r.made {
		r.value, r.made = make(b.Unbound()), true
	}
	return r.value
}

type remembered struct {
	making sync.Mutex
	made   bool
	value  any
}

// or is a column with the days of another where it has none that is known.
func (c Column) or(other Column) Column {
	all := Column{Raw: slices.Clone(c.Raw), Known: slices.Clone(c.Known)}
	if c.Instants != nil || other.Instants != nil {
		all.Instants = make([]day.Instant, len(c.Raw))
	}
	if c.Clocks != nil || other.Clocks != nil {
		all.Clocks = make([]int32, len(c.Raw))
	}
	for row := range all.Known {
		from := c
		if c.Known[row] == 0 && other.Known[row] != 0 || c.Raw[row] == 0 {
			from = other
		}
		all.Raw[row], all.Known[row] = from.Raw[row], from.Known[row]
		if all.Instants != nil {
			all.Instants[row] = from.InstantAt(row)
		}
		if all.Clocks != nil {
			all.Clocks[row] = from.ClockAt(row)
		}
	}
	all.RawHigh = slices.Max(all.Raw)
	all.bound()
	return all
}
