package query

import (
	"runtime"
	"sync"
	"sync/atomic"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/work"
)

// StretchRows is the most orders of a Stretch: what is made of them stays in the nearest cache.
const StretchRows = predicate.Chunk

// A Stretch is what an accumulator is shown: orders of one block that follow each other, and which of them the question is
// about. It is overwritten by the next one.
type Stretch struct {
	book.Stretch
	// Rows are the offsets from From of the orders that the question is about; nil where it is about all of them.
	Rows      []int32
	Groups    []uint32 // of all orders, by offset
	Calendars []uint32 // codes of the calendars by which the orders are counted, by offset; see book.Locals
}

// Chosen are the offsets of the orders that the question is about, where it is about all of them too.
func (s *Stretch) Chosen() []int32 {
	if s.Rows == nil {
		return everyRow[:s.To-s.From]
	}
	return s.Rows
}

// everyRow are all offsets of a stretch; nothing ever writes to it.
var everyRow = func() (rows [StretchRows]int32) {
	for i := range rows {
		rows[i] = int32(i)
	}
	return rows
}()

// An Accumulator is what one worker counts of the orders that a question is about. Merge takes in what another of its kind has
// counted, and may keep it; the order of visits and of merges must not matter.
type Accumulator[A any] interface {
	Visit(*Stretch)
	Merge(A)
}

// Run shows the orders that a scope is about to accumulators, one for each processor, and gives what they have counted together,
// with what became of the other orders. It panics with a *work.Stop where the book's request has ended, and with a *work.Fault
// where an accumulator panics.
func Run[A Accumulator[A]](s *Scope, fresh func() A) (A, Population) {
	type part struct {
		counted    A
		population Population
		lacking    map[string]int
	}
	stretches := s.Book.Stretches(StretchRows)
	parts := make([]part, max(1, min(runtime.GOMAXPROCS(0), len(stretches))))
	var next atomic.Int64
	work.Each(len(parts), func(w int) {
		own := part{counted: fresh()}
		sel := selectors.Get().(*selector)
		defer selectors.Put(sel)
		sel.scope, sel.lacking = s, nil
		for {
			n := int(next.Add(1)) - 1
			if n >= len(stretches) {
				break
			}
			s.Book.Pause()
			if sel.stretch.Stretch = stretches[scattered(n, len(stretches))]; sel.choose(&own.population) {
				own.counted.Visit(&sel.stretch)
			}
		}
		own.lacking = sel.lacking
		parts[w] = own
	})
	sum, lacking := parts[0], map[string]int{}
	for w, p := range parts {
		if w > 0 {
			sum.counted.Merge(p.counted)
			sum.population.add(p.population)
		}
		for name, n := range p.lacking {
			lacking[name] += n
		}
	}
	sum.population.Period, sum.population.InBook, sum.population.Lacking = s.period, s.Book.Orders(), lacksOf(lacking)
	return sum.counted, sum.population
}

// Show shows one stretch, of at most StretchRows orders, to an accumulator, and says how it is divided.
func Show[A Accumulator[A]](s *Scope, of book.Stretch, to A) (p Population) {
	sel := selectors.Get().(*selector)
	defer selectors.Put(sel)
	sel.scope, sel.lacking, sel.stretch.Stretch = s, nil, of
	if sel.choose(&p) {
		to.Visit(&sel.stretch)
	}
	p.Period, p.InBook, p.Lacking = s.period, of.To-of.From, lacksOf(sel.lacking)
	return p
}

func (p *Population) add(o Population) {
	p.Asked, p.Outside, p.Undated = p.Asked+o.Asked, p.Outside+o.Outside, p.Undated+o.Undated
	p.Unmet, p.Undecided, p.MetByMissing = p.Unmet+o.Unmet, p.Undecided+o.Undecided, p.MetByMissing+o.MetByMissing
}

// scattered gives stretches in an order of its own, so that the first rows of a list soon come from all over: in the book's
// order, rows that come ever higher would each take a place for a while.
func scattered(nth, stretches int) int {
	step := stretches*5/8 | 1
	for gcd(step, stretches) != 1 {
		step += 2
	}
	return nth * step % stretches
}

func gcd(a, b int) int {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// A selector finds who a question is about, with the space that it takes for one stretch.
type selector struct {
	scope     *Scope
	stretch   Stretch
	lacking   map[string]int
	rows      [StretchRows]int32
	truths    [StretchRows]predicate.Truth
	second    [StretchRows]predicate.Truth
	codes     [MostGroupings][StretchRows]uint32
	calendars [StretchRows]uint32
}

var selectors = sync.Pool{New: func() any { return new(selector) }}

// choose finds who is asked about in a stretch, and counts everybody else; false where nobody is to be shown.
func (sel *selector) choose(p *Population) bool {
	s, st := sel.scope, &sel.stretch
	if st.Rows = nil; s.All() {
		p.Asked += st.To - st.From
	} else if !sel.divide(p) {
		return false
	}
	st.Groups = sel.groups()
	st.Calendars = s.Book.LocalCodes(s.calendar, st.Block, st.From, st.To, sel.calendars[:])
	return true
}

// divide puts the rows that are to be shown into the stretch, and says whether there are any.
func (sel *selector) divide(p *Population) bool {
	s, st := sel.scope, &sel.stretch
	basis := st.Block.Columns[s.basis].Known[st.From:st.To]
	from, width, rows := s.from, s.width, &sel.rows
	kept, inside, undecided := uint(0), uint(0), uint(0)
	if s.where == nil {
		for i, d := range basis {
			rows[kept%StretchRows] = int32(i) // kept, or overwritten: there is no branch to mispredict
			if uint32(d-from) < width {
				kept++
			}
		}
		inside = kept
	} else {
		truths := sel.truths[:len(basis)]
		s.where.Decide(st.Block, st.From, truths)
		for i, d := range basis {
			in := uint(0)
			if uint32(d-from) < width {
				in = 1
			}
			rows[kept%StretchRows] = int32(i)
			kept += in & uint(truths[i])
			undecided += in & uint(truths[i]>>1)
			inside += in
		}
	}
	p.Asked, p.Undecided, p.Unmet = p.Asked+int(kept), p.Undecided+int(undecided), p.Unmet+int(inside-kept-undecided)
	if out := len(basis) - int(inside); out > 0 {
		undated := 0
		for _, d := range basis {
			if d == 0 {
				undated++
			}
		}
		p.Undated, p.Outside = p.Undated+undated, p.Outside+out-undated
	}
	if undecided > 0 {
		sel.countLacking()
	}
	if st.Rows = rows[:kept]; s.byMissing != nil && kept > 0 {
		second := sel.second[:len(basis)]
		s.byMissing.Decide(st.Block, st.From, second)
		for _, i := range st.Rows {
			p.MetByMissing += int(second[i] & 1)
		}
	}
	if s.shown != Asked {
		st.Rows = rows[:0]
		for i, d := range basis {
			truth := predicate.True
			if s.where != nil {
				truth = sel.truths[i]
			}
			if s.place(d, truth) == s.shown {
				st.Rows = append(st.Rows, int32(i))
			}
		}
	}
	return len(st.Rows) > 0
}

// countLacking counts what the undecided orders of a stretch lack. Neighbours often lack the same.
func (sel *selector) countLacking() {
	s, st := sel.scope, &sel.stretch
	if sel.lacking == nil {
		sel.lacking = map[string]int{}
	}
	place, lacked, alike := predicate.Place{Block: st.Block}, "", 0
	basis := st.Block.Columns[s.basis].Known[st.From:st.To]
	for i, truth := range sel.truths[:len(basis)] {
		if truth != predicate.Undecided || uint32(basis[i]-s.from) >= s.width {
			continue
		}
		place.Row = st.From + i
		next := s.where.LacksAt(&place)
		if next != lacked && alike > 0 {
			sel.lacking[lacked] += alike
			alike = 0
		}
		lacked, alike = next, alike+1
	}
	sel.lacking[lacked] += alike
}

// groups gives each order of a stretch the number of its group.
func (sel *selector) groups() []uint32 {
	st, axes := &sel.stretch, sel.scope.Axes
	switch len(axes) {
	case 0:
		return oneGroup[:st.To-st.From]
	case 1:
		return axes[0].Codes(st.Block, st.From, st.To, sel.codes[0][:])
	}
	by := uint32(len(axes[1].Labels))
	columns := axes[1].Codes(st.Block, st.From, st.To, sel.codes[1][:])
	both := sel.codes[0][:len(columns)]
	for i, row := range axes[0].Codes(st.Block, st.From, st.To, both)[:len(columns)] {
		both[i] = row*by + columns[i]
	}
	return both
}

// oneGroup are the codes where nothing is grouped; nothing ever writes to it.
var oneGroup [StretchRows]uint32

// A Test says whether an order is one of some.
type Test func(book.Offset) bool
