package status

import (
	"sync"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/statuses"
)

// What a condition on status periods can name, as columns of a part that stands in the place of status records.
const (
	periodStatus = iota
	periodFrom
	periodLastSeen
	periodUntil
	periodLength // in the unit of the question
)

var periodColumns = []book.PartColumn{{Name: "status", Holds: book.Coded}, {Name: "from", Holds: book.OnDay},
	{Name: "last-seen", Holds: book.OnDay}, {Name: "until", Holds: book.OnDay}, {Name: "length", Holds: book.Quantity}}

// WithPeriods is the book as a condition on status periods sees it: with them in the place of status records. It has no orders.
func WithPeriods(b *book.Book) *book.Book {
	names := []string{""} // code 0 is none, which no status period has
	for _, s := range statuses.CatalogueOf(b).Statuses {
		names = append(names, s.Name)
	}
	values := make([][]string, len(periodColumns))
	values[periodStatus] = names
	return b.WithColumnsOf(book.Statuses, periodColumns, values)
}

// picked says which status periods a condition picks, by the identity of the first order of a block: those of each block are decided
// once, when they are first asked for. Nil picks all.
type picked map[int64]func() []predicate.Truth

func (q Question) picked(h *statuses.History) picked {
	if q.Picks.Condition == nil {
		return nil
	}
	p, bound := picked{}, q.Picks.Bind(WithPeriods(h.Book()), q.Picks.Condition)
	for _, block := range h.Book().Blocks() {
		p[block.IDs[0]] = sync.OnceValue(func() []predicate.Truth { return q.decide(h, bound, block) })
	}
	return p
}

// decide decides about the status periods of a block.
func (q Question) decide(h *statuses.History, bound *predicate.Bound, block *book.Block) []predicate.Truth {
	codes := make([]uint32, len(block.IDs))
	calendars, local := h.Book().Locals(q.Calendar), h.Book().LocalCodes(q.Calendar, block, 0, len(block.IDs), codes)
	rows := book.ChildRows{Starts: make([]uint32, 1, len(block.IDs)+1), Columns: make([]book.Cells, len(periodColumns))}
	put := func(column int, n int64) {
		c := &rows.Columns[column]
		if n == 0 && column != periodLength {
			n = book.None
		}
		c.Numbers = append(c.Numbers, n)
	}
	for row := range block.IDs {
		o := asked{own: h.Periods(block, row), calendar: calendars[local[row]]}
		for i, s := range o.own {
			length := int64(book.None)
			if ticks, told := q.length(h, o, i); told {
				length = int64(ticks) * 1000 / int64(q.Measure.Unit.Ticks())
			}
			rows.Columns[periodStatus].Codes = append(rows.Columns[periodStatus].Codes, s.Status+1)
			put(periodFrom, int64(s.From))
			put(periodLastSeen, int64(s.LastSeen))
			put(periodUntil, int64(s.Until))
			put(periodLength, length)
		}
		rows.Starts = append(rows.Starts, rows.Starts[row]+uint32(len(o.own)))
	}
	own := *block
	own.Parts[book.Statuses] = rows
	out := make([]predicate.Truth, rows.Starts[len(block.IDs)])
	for from := 0; from < len(block.IDs); from += predicate.Chunk {
		h.Book().Pause()
		to := min(from+predicate.Chunk, len(block.IDs))
		bound.Parts(book.Statuses, &own, from, to, out[rows.Starts[from]:rows.Starts[to]])
	}
	return out
}

// of are the decisions about the status periods of an order; nil where all are picked.
func (p picked) of(h *statuses.History, block *book.Block, row int) []predicate.Truth {
	if p == nil {
		return nil
	}
	from, to := h.Places(block, row)
	return p[block.IDs[0]]()[from:to]
}

// counts counts a status period, and says whether it is picked.
func counts(c *query.PartCounts, met []predicate.Truth, i int) bool {
	if met == nil {
		c.Met++
		return true
	}
	c.Count(met[i])
	return met[i] == predicate.True
}
