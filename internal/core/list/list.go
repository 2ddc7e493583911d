package list

import (
	"cmp"
	"iter"
	"math"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
)

// A Key sorts by a column.
type Key struct {
	Column     Column
	Descending bool
}

// A Highlight makes rows, or cells of one column, stand out where a condition holds. Of several that hold the first counts.
type Highlight struct {
	Column    int // of the list; −1 highlights the row
	Condition predicate.Condition
}

// A Request says what a list shows.
type Request struct {
	Question  duration.Question
	Selection duration.Selection
	Columns   []Column
	// Sort: orders that are alike in all keys go by number, parts of one order as they were recorded. Whatever the
	// direction, what is lacked comes last.
	Sort []Key
	// Per makes a row for each of an order's parts, one for an order that has none; nil: a row for each order.
	Per *book.Part
	// Apart puts orders whose leg is finished before those still waiting; all other states come between.
	Apart      bool
	Highlights []Highlight
	// Most is how many rows are wanted at the most; 0 wants all.
	Most     int
	Decimals func(currency string) int
}

// An Answer is a list as far as it was asked for.
type Answer struct {
	Population query.Population
	Rows       int // on all pages
	Orders     int // distinct ones
	// Finished and Waiting are how many orders have reached the leg's end, and how many still run; the rows of these are WaitingRows.
	Finished, Waiting, WaitingRows int
	Foot                           []Foot // by column
	Kinds                          []Kind // by column

	book        *book.Book
	reader      *duration.Reader
	columns     []boundColumn
	highlights  []predicate.Bound
	highlighted []Highlight
	kept        []chosen
}

// A Row is one row of a list.
type Row struct {
	duration.Listed
	Number string // of the order
	Cells  []Cell
	// Highlight is that of the row, Highlights are those of cells, by column; −1 is none.
	Highlight  int
	Highlights []int
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

// Ask makes a list. The error is a *request.Error, or the context's.
func Ask(b *book.Book, r Request) (*Answer, error) {
	selected, err := duration.Select(b, r.Question, r.Selection)
	if err != nil {
		return nil, err
	}
	a := &Answer{book: b.Unbound(), highlighted: r.Highlights} // it outlives its request
	a.reader = duration.NewReader(a.book, r.Question.Question)
	for _, c := range r.Columns {
		bound := bind(a.book, c, r)
		a.columns, a.Kinds = append(a.columns, bound), append(a.Kinds, bound.kind)
	}
	for _, m := range r.Highlights {
		a.highlights = append(a.highlights, predicate.Bind(a.book, m.Condition, r.Decimals))
	}
	all, population := query.Run(selected.Scope(), workers(b, r, selected, a.columns))
	a.Population = population
	a.Rows, a.Orders, a.Finished, a.Waiting, a.WaitingRows = all.rows, all.orders, all.finished, all.waiting, all.waitingRows
	kept := all.page.sorted()
	all.page = page{}
	for i, r := range kept {
		a.kept = append(slices.Grow(a.kept, len(kept)-i), r.chosen)
	}
	a.Foot = all.sums.feet(r.Decimals)
	return a, nil
}

// workers gives what makes a worker that has seen nothing.
func workers(b *book.Book, r Request, selected *duration.Selected, columns []boundColumn) func() *worker {
	order := newOrdering(b, r)
	return func() *worker {
		return &worker{selected: selected, request: r, order: order, page: page{most: r.Most, order: order}, sums: newSums(columns),
			book: b}
	}
}

// A worker collects the rows of its stretches.
type worker struct {
	selected                        *duration.Selected
	request                         Request
	order                           *ordering
	book                            *book.Book
	page                            page
	sums                            *sums
	keys                            []key
	place                           predicate.Place // of the order at hand
	rows, orders, finished, waiting int
	waitingRows                     int
}

// Visit collects the rows of a stretch.
func (w *worker) Visit(s *query.Stretch) { w.selected.Visit(s, w.take) }

// Merge takes in the rows of another worker.
func (w *worker) Merge(other *worker) {
	w.rows, w.orders, w.finished, w.waiting = w.rows+other.rows, w.orders+other.orders, w.finished+other.finished, w.waiting+other.waiting
	w.waitingRows += other.waitingRows
	w.sums.add(other.sums)
	w.page.join(&other.page)
}

func (w *worker) take(l duration.Listed) {
	p := &w.place
	p.Block, p.Row = w.book.Locate(l.Row)
	block := p.Block
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
	if l.State == leg.Running {
		w.waitingRows += to - from
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
		r.Cells, r.Highlights = make([]Cell, len(a.columns)), make([]int, len(a.columns))
	}
	chosen := a.kept[i]
	row := int(chosen.row)
	block, at := a.book.Locate(row)
	p := predicate.Place{Block: block, Row: at}
	r.Listed = a.reader.At(row)
	r.Number, r.Highlight = block.Numbers[p.Row], -1
	for c := range a.columns {
		r.Cells[c], r.Highlights[c] = a.columns[c].cell(&p, int(chosen.part)), -1
	}
	for m, condition := range a.highlights {
		at := &r.Highlight
		if column := a.highlighted[m].Column; column >= 0 {
			at = &r.Highlights[column]
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
func (o *ordering) keys(p *predicate.Place, l duration.Listed, part int, seen, keys []key) []key {
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

// join takes in what another page keeps.
func (p *page) join(other *page) {
	p.whole = append(append(p.whole, other.whole...), other.kept)
	if p.most > 0 { // at most twice the size of the page
		p.kept, p.whole = slices.Concat(append(p.whole, p.kept)...), nil
		p.sorted()
	}
}

// sorted sorts what is kept and cuts it to the size of the page.
func (p *page) sorted() []ref {
	if p.whole != nil {
		p.kept, p.whole = slices.Concat(append(p.whole, p.kept)...), nil
	}
	slices.SortFunc(p.kept, p.order.compare)
	if p.most > 0 {
		p.kept = p.kept[:min(len(p.kept), p.most)]
		p.full = len(p.kept) == p.most
	}
	return p.kept
}
