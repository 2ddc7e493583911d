package forecast

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/work"
)

// A Tested is what became of the forecasts that could be told at the end of an earlier day.
type Tested struct {
	At   day.Day
	Open int // orders that were open then
	// Of these: without a forecast, shipped by it, later, cancelled instead, and not known yet.
	None, Kept, Late, Cancelled, Undecided int
	// Unclear had been ordered by then, open or not.
	Unclear int
	// Off is by how many working days orders shipped after their forecast, by how many did; negative before it.
	Off map[int]int
}

// Test tells what became of the forecasts of a day's end, for the orders that meet a condition; nil is all of them.
func Test(b *book.Book, at day.Day, where *predicate.Bound) Tested {
	m := At(b, at)
	parts := make([]Tested, len(b.Blocks()))
	work.Each(len(parts), func(i int) { parts[i] = m.tested(b.Blocks()[i], where) })
	all := Tested{At: at, Off: map[int]int{}}
	for _, t := range parts {
		all.Add(t)
	}
	return all
}

// Add adds what became of other forecasts.
func (t *Tested) Add(other Tested) {
	t.Open, t.None, t.Kept, t.Late = t.Open+other.Open, t.None+other.None, t.Kept+other.Kept, t.Late+other.Late
	t.Cancelled, t.Undecided, t.Unclear = t.Cancelled+other.Cancelled, t.Undecided+other.Undecided, t.Unclear+other.Unclear
	for off, n := range other.Off {
		t.Off[off] += n
	}
}

// An Outcome is what became of an order that was open at the end of an earlier day, and of its forecast.
type Outcome string

// The outcomes.
const (
	NotOpen   Outcome = ""
	Untold    Outcome = "none" // it had no forecast
	Kept      Outcome = "kept"
	Late      Outcome = "late"
	Cancelled Outcome = "cancelled"
	Undecided Outcome = "undecided" // not known yet
	Unclear   Outcome = "unclear"   // left out: nobody knows now what was known of it then
)

// Outcomes are those of open orders, by name, and of those that were left out.
var Outcomes = []Outcome{Untold, Kept, Late, Cancelled, Undecided, Unclear}

// Outcome is what became of an order, and of a shipped one by how many working days it shipped after its forecast; negative before
// it. What happened since is read here, and nowhere else.
func (m *Model) Outcome(block *book.Block, row int) (of Outcome, off int) {
	o := m.order(block, row)
	switch {
	case o.unclear:
		return Unclear, 0
	case !o.known || o.closed != 0:
		return NotOpen, 0
	}
	on, by := m.Of(block, row)
	shipped, cancelled := block.Columns[m.shipped].Known[row], block.Columns[m.cancelled].Known[row]
	switch {
	case by == None:
		return Untold, 0
	case shipped != 0 && (cancelled == 0 || shipped <= cancelled):
		local := m.book.Locals(book.AtSite)[block.Codes[book.Site][row]]
		if shipped <= on {
			return Kept, -local.Elapsed(shipped, on)
		}
		return Late, local.Elapsed(on, shipped)
	case cancelled != 0:
		return Cancelled, 0
	case on < m.book.Bounds().DataDate:
		return Late, 0
	}
	return Undecided, 0
}

// tested looks at the orders of a block.
func (m *Model) tested(block *book.Block, where *predicate.Bound) Tested {
	m.book.Pause()
	t := Tested{Off: map[int]int{}}
	counts := map[Outcome]*int{Untold: &t.None, Kept: &t.Kept, Late: &t.Late, Cancelled: &t.Cancelled, Undecided: &t.Undecided}
	for row := range block.IDs {
		if where != nil && where.One(block, row) != predicate.True {
			continue
		}
		of, off := m.Outcome(block, row)
		switch of {
		case NotOpen:
			continue
		case Unclear:
			t.Unclear++
			continue
		}
		t.Open++
		*counts[of]++
		if shipped := block.Columns[m.shipped].Known[row]; of == Kept || of == Late && shipped != 0 {
			t.Off[off]++
		}
	}
	return t
}
