package list

import (
	"cmp"
	"context"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/summary"
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

	book    *book.Book
	columns []boundColumn
	marks   []predicate.Bound
	marked  []Mark
	kept    []ref
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

// A ref is a row that has been chosen.
type ref struct {
	listed summary.Listed
	part   int32 // place in the block; −1 where the order has none
	keys   []key
}

// workRows is the stretch of orders that a worker takes at a time.
const workRows = summary.WalkRows

// Ask makes a list. The error is a *request.Error, or the context's.
func Ask(ctx context.Context, b *book.Book, r Request) (*Answer, error) {
	selected, err := summary.Select(b, r.Question, r.Selection)
	if err != nil {
		return nil, err
	}
	a := &Answer{book: b, marked: r.Marks}
	for _, c := range r.Columns {
		bound := bind(b, c, r)
		a.columns, a.Kinds = append(a.columns, bound), append(a.Kinds, bound.kind)
	}
	for _, m := range r.Marks {
		a.marks = append(a.marks, predicate.Bind(b, m.Condition, r.Decimals))
	}
	order := newOrdering(b, r)
	stretches := (b.Orders() + workRows - 1) / workRows
	var next atomic.Int64
	var together sync.Mutex
	var workers sync.WaitGroup
	whole, sums := page{most: r.Most, order: order}, newSums(a.columns)
	for range runtime.GOMAXPROCS(0) {
		workers.Go(func() {
			w := worker{request: r, order: order, page: page{most: r.Most, order: order}, sums: newSums(a.columns), book: b}
			for ctx.Err() == nil {
				nth := int(next.Add(1)) - 1
				if nth >= stretches {
					break
				}
				from := scattered(nth, stretches) * workRows
				selected.Walk(from, min(from+workRows, b.Orders()), w.take)
			}
			together.Lock()
			defer together.Unlock()
			a.Rows, a.Orders, a.Finished, a.Waiting = a.Rows+w.rows, a.Orders+w.orders, a.Finished+w.finished, a.Waiting+w.waiting
			sums.add(w.sums)
			whole.kept = append(whole.kept, w.page.kept...)
		})
	}
	workers.Wait()
	a.kept, a.Foot = whole.sorted(), sums.feet(r.Decimals)
	return a, ctx.Err()
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
		w.keys = w.order.keys(p, l, part, w.keys[:0])
		w.page.add(ref{l, int32(part), w.keys})
	}
}

// Len is how many rows can be had.
func (a *Answer) Len() int { return len(a.kept) }

// Row is a row, counted from 0.
func (a *Answer) Row(i int) Row {
	r := a.kept[i]
	block := a.book.Blocks()[r.listed.Row/book.BlockSize]
	p := predicate.Place{Block: block, Row: r.listed.Row % book.BlockSize}
	row := Row{Listed: r.listed, Number: block.Numbers[p.Row], Cells: make([]Cell, len(a.columns)), Mark: -1, Marks: make([]int, len(a.columns))}
	for c := range a.columns {
		row.Cells[c], row.Marks[c] = a.columns[c].cell(&p, int(r.part)), -1
	}
	for m, condition := range a.marks {
		at := &row.Mark
		if column := a.marked[m].Column; column >= 0 {
			at = &row.Marks[column]
		}
		if *at < 0 && condition.OneAt(&p) == predicate.True {
			*at = m
		}
	}
	return row
}

// An ordering compares rows.
type ordering struct {
	columns    []boundColumn
	descending []bool
	apart      bool
	numbers    []uint32 // ranks of the orders' numbers, by row
}

func newOrdering(b *book.Book, r Request) *ordering {
	o := &ordering{apart: r.Apart, numbers: b.NumberRanks()}
	for _, k := range r.Sort {
		o.columns = append(o.columns, bind(b, k.Column, r))
		o.descending = append(o.descending, k.Descending)
	}
	return o
}

// keys are what a row is compared by.
func (o *ordering) keys(p *predicate.Place, l summary.Listed, part int, keys []key) []key {
	if o.apart {
		group := 1
		switch {
		case l.State.Counted():
			group = 0
		case l.State == leg.Running:
			group = 2
		}
		keys = append(keys, key{has: true, number: float64(group)})
	}
	for i := range o.columns {
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
	if x.listed.Row == y.listed.Row {
		return cmp.Compare(x.part, y.part)
	}
	return cmp.Compare(o.numbers[x.listed.Row], o.numbers[y.listed.Row])
}

func compareKeys(x, y *key, descending bool) int {
	if x.has != y.has {
		if x.has {
			return -1
		}
		return 1
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
	full  bool // kept[most-1] is the last that can still be of use
}

func (p *page) add(r ref) {
	if p.full && p.order.compare(r, p.kept[p.most-1]) > 0 {
		return
	}
	r.keys = slices.Clone(r.keys)
	p.kept = append(p.kept, r)
	if p.most > 0 && len(p.kept) >= 2*p.most {
		p.sorted()
	}
}

// sorted sorts what is kept and cuts it to the size of the page.
func (p *page) sorted() []ref {
	slices.SortFunc(p.kept, p.order.compare)
	if p.most > 0 {
		p.kept = p.kept[:min(len(p.kept), p.most)]
		p.full = len(p.kept) == p.most
	}
	return p.kept
}
