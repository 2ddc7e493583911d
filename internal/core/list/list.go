package list

import (
	"cmp"
	"iter"
	"math"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/summary"
	"prairiedusk/internal/core/work"
)

// A Key sorts by a column.
type Key struct {
	Column     Column
	Descending bool
}

// A Mark makes rows, or cells of one column, stand out where a condition holds. Of several that hold the first counts.
type Mark struct {
	Column    int // of the list; −1 marks the row
	Condition predicate.Condition
}

// A Request says what a list shows.
type Request struct {
	Question  summary.Question
	Selection summary.Selection
	Columns   []Column
	// Sort: orders that are alike in all keys go by number, parts of one order as they were recorded. Whatever the
	// direction, what is lacked comes last.
	Sort []Key
	// Per makes a row for each of an order's parts, one for an order that has none; nil: a row for each order.
	Per *book.Part
	// Apart puts orders whose leg is finished before those still waiting; all other states come between.
	Apart bool
	Marks []Mark
	// Most is how many rows are wanted at the most; 0 wants all.
	Most     int
	Decimals func(currency string) int
}

// An Answer is a list as far as it was asked for.
type Answer struct {
	Rows   int // on all pages
	Orders int // distinct ones
	// Finished and Waiting are how many orders have reached the leg's end, and how many still run.
	Finished, Waiting int
	Foot              []Foot // by column
	Kinds             []Kind // by column

	book     *book.Book
	question summary.Question
	columns  []boundColumn
	marks    []predicate.Bound
	marked   []Mark
	kept     []chosen
}

// A Row is one row of a list.
type Row struct {
	summary.Listed
	Number string // of the order
	Cells  []Cell
	// Mark is that of the row, Marks are those of cells, by column; −1 is none.
	Mark  int
	Marks []int
}

// A chosen row is one of the list. Lists can be of millions, so that every byte counts.
type chosen struct {
	row  uint32 // of the order, in the book
	part int32  // place in the block; −1 where the order has none
}

// A ref is a row that may be chosen, with what it is sorted by.
type ref struct {
	chosen
	keys []key
}

// workRows is the stretch of orders that a worker takes at a time.
const workRows = summary.WalkRows

// Ask makes a list. The error is a *request.Error, or the context's.
func Ask(b *book.Book, r Request) (*Answer, error) {
	selected, err := summary.Select(b, r.Question, r.Selection)
	if err != nil {
		return nil, err
	}
	a := &Answer{book: b.Unbound(), question: r.Question, marked: r.Marks} // it outlives its request
	for _, c := range r.Columns {
		bound := bind(a.book, c, r)
		a.columns, a.Kinds = append(a.columns, bound), append(a.Kinds, bound.kind)
	}
	for _, m := range r.Marks {
		a.marks = append(a.marks, predicate.Bind(a.book, m.Condition, r.Decimals))
	}
	order := newOrdering(b, r)
	stretches := (b.Orders() + workRows - 1) / workRows
	var next atomic.Int64
	var together sync.Mutex
	var found [][]ref
	whole, sums := page{most: r.Most, order: order}, newSums(a.columns)
	work.Each(runtime.GOMAXPROCS(0), func(int) {
		w := worker{request: r, order: order, page: page{most: r.Most, order: order}, sums: newSums(a.columns), book: b}
		for {
			nth := int(next.Add(1)) - 1
			if nth >= stretches {
				break
			}
			b.Pause()
			from := scattered(nth, stretches) * workRows
			selected.Walk(from, min(from+workRows, b.Orders()), w.take)
		}
		together.Lock()
		defer together.Unlock()
		a.Rows, a.Orders, a.Finished, a.Waiting = a.Rows+w.rows, a.Orders+w.orders, a.Finished+w.finished, a.Waiting+w.waiting
		sums.add(w.sums)
		found = append(found, w.page.all()...)
	})
	whole.kept = slices.Concat(found...)
	found = nil
	for _, r := range whole.sorted() {
		a.kept = append(slices.Grow(a.kept, len(whole.kept)-len(a.kept)), r.chosen)
	}
	a.Foot = sums.feet(r.Decimals)
	return a, nil
}

// scattered visits the stretches in an order of its own, so that a page soon holds rows from all over: in their own
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

// A worker collects the rows of its stretches.
type worker struct {
	request                         Request
	order                           *ordering
	book                            *book.Book
	page                            page
	sums                            *sums
	keys                            []key
	place                           predicate.Place // of the order at hand
	rows, orders, finished, waiting int
}

func (w *worker) take(l summary.Listed) {
	block := w.book.Blocks()[l.Row/book.BlockSize]
	p := &w.place
	p.Block, p.Row = block, l.Row%book.BlockSize
	w.orders++
	switch {
	case l.State.Counted():
		w.finished++
	case l.State == leg.Running:
		w.waiting++
	}
	w.sums.take(p, l)
	from, to := -1, 0
	if w.request.Per != nil {
		if first, last := block.Parts[*w.request.Per].Of(p.Row); first < last {
			from, to = first, last
		}
	}
	for part := from; part < to; part++ {
		w.rows++
		w.keys = w.order.keys(p, l, part, w.sums.seen, w.keys[:0])
		w.page.add(ref{chosen{uint32(l.Row), int32(part)}, w.keys})
	}
}

// Len is how many rows can be had.
func (a *Answer) Len() int { return len(a.kept) }

// Row is a row, counted from 0.
func (a *Answer) Row(i int) Row {
	var r Row
	a.fill(&r, i)
	return r
}

// All gives every row; each is good until the next.
func (a *Answer) All() iter.Seq[Row] {
	return func(yield func(Row) bool) {
		var r Row
		for i := range a.kept {
			if a.fill(&r, i); !yield(r) {
				return
			}
		}
	}
}

// fill makes a row, in the slices of an earlier one where there are any.
func (a *Answer) fill(r *Row, i int) {
	if r.Cells == nil {
		r.Cells, r.Marks = make([]Cell, len(a.columns)), make([]int, len(a.columns))
	}
	chosen := a.kept[i]
	row := int(chosen.row)
	block := a.book.Blocks()[row/book.BlockSize]
	p := predicate.Place{Block: block, Row: row % book.BlockSize}
	r.Listed, _ = summary.One(a.book, row, a.question)
	r.Number, r.Mark = block.Numbers[p.Row], -1
	for c := range a.columns {
		r.Cells[c], r.Marks[c] = a.columns[c].cell(&p, int(chosen.part)), -1
	}
	for m, condition := range a.marks {
		at := &r.Mark
		if column := a.marked[m].Column; column >= 0 {
			at = &r.Marks[column]
		}
		if *at < 0 && condition.OneAt(&p) == predicate.True {
			*at = m
		}
	}
}

// An ordering compares rows.
type ordering struct {
	columns    []boundColumn
	descending []bool
	apart      bool
	numbers    []uint32 // ranks of the orders' numbers, by row
	shown      []int    // the place in the list of keys that are lengths it shows, which are reckoned once; else −1
}

func newOrdering(b *book.Book, r Request) *ordering {
	o := &ordering{apart: r.Apart, numbers: b.NumberRanks()}
	for _, k := range r.Sort {
		o.columns = append(o.columns, bind(b, k.Column, r))
		o.descending = append(o.descending, k.Descending)
		o.shown = append(o.shown, slices.IndexFunc(r.Columns, func(c Column) bool {
			_, isLength := c.Operand.(predicate.Length)
			return isLength && c.Operand == k.Column.Operand
		}))
	}
	return o
}

// keys are what a row is compared by.
func (o *ordering) keys(p *predicate.Place, l summary.Listed, part int, seen, keys []key) []key {
	if o.apart {
		group := 1
		switch {
		case l.State.Counted():
			group = 0
		case l.State == leg.Running:
			group = 2
		}
		keys = append(keys, key{number: float64(group)})
	}
	for i := range o.columns {
		if at := o.shown[i]; at >= 0 && !o.columns[i].asked {
			keys = append(keys, seen[at])
			continue
		}
		keys = append(keys, o.columns[i].key(p, l, part))
	}
	return keys
}

func (o *ordering) compare(x, y ref) int {
	by := o.descending
	for i := range x.keys {
		descending := false
		if at := i - (len(x.keys) - len(by)); at >= 0 {
			descending = by[at]
		}
		if c := compareKeys(&x.keys[i], &y.keys[i], descending); c != 0 {
			return c
		}
	}
	if x.row == y.row {
		return cmp.Compare(x.part, y.part)
	}
	return cmp.Compare(o.numbers[x.row], o.numbers[y.row])
}

func compareKeys(x, y *key, descending bool) int {
	if lacksX, lacksY := math.IsNaN(x.number), math.IsNaN(y.number); lacksX || lacksY {
		switch {
		case lacksX && lacksY:
			return 0
		case lacksX:
			return 1
		}
		return -1
	}
	c := cmp.Compare(x.number, y.number)
	if c == 0 && x.text != y.text {
		c = book.CompareNumbers(x.text, y.text)
	}
	if descending {
		return -c
	}
	return c
}

// A page keeps the first so many rows of a list, whatever the order in which they come: it sorts when it holds twice as
// many, and forgets the rest. With most 0 it keeps all.
type page struct {
	most  int
	order *ordering
	kept  []ref
	full  bool    // kept[most-1] is the last that can still be of use
	whole [][]ref // with most 0, what was kept before: growing one piece would take several times as much
	// arena holds keys together: of a million rows, a million small pieces would take more than they hold.
	arena []key
}

// arenaKeys is how many keys an arena has room for.
const arenaKeys = 1 << 12

func (p *page) add(r ref) {
	if p.full && p.order.compare(r, p.kept[p.most-1]) > 0 {
		return
	}
	if len(p.arena)+len(r.keys) > cap(p.arena) {
		p.arena = make([]key, 0, arenaKeys)
	}
	first := len(p.arena)
	p.arena = append(p.arena, r.keys...)
	r.keys = p.arena[first:len(p.arena):len(p.arena)]
	if p.most == 0 && len(p.kept) == cap(p.kept) {
		p.whole = append(p.whole, p.kept)
		p.kept = make([]ref, 0, arenaKeys)
	}
	p.kept = append(p.kept, r)
	if p.most > 0 && len(p.kept) >= 2*p.most {
		p.sorted()
	}
}

// all is what the page keeps, in pieces.
func (p *page) all() [][]ref { return append(p.whole, p.kept) }

// sorted sorts what is kept and cuts it to the size of the page.
func (p *page) sorted() []ref {
	slices.SortFunc(p.kept, p.order.compare)
	if p.most > 0 {
		p.kept = p.kept[:min(len(p.kept), p.most)]
		p.full = len(p.kept) == p.most
	}
	return p.kept
}
