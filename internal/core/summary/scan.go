package summary

import (
	"math"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
)

const (
	// workRows is the stretch of orders that a worker takes at a time.
	workRows = 1 << 14
	// chunkRows is the stretch whose group codes are made at a time; they stay in the nearest cache.
	chunkRows = 1 << 11
	// denseWidth and denseCells bound the table of counts per group and length. Longer lengths, and all
	// lengths where there are very many groups, are listed one by one instead.
	denseWidth = 1 << 10
	denseCells = 1 << 22
)

// A plan is a question about one period, resolved against a book: indexes and tables instead of names.
type plan struct {
	book                            *book.Book
	question                        Question
	start, end, cancelled, basisRow int // milestones' indexes
	twoWay                          bool
	// An order is asked about where uint32(basis − basisFrom) < basisWidth. Without a period that holds
	// for every order, undated ones too.
	basisFrom  day.Day
	basisWidth uint32
	axes       []axis
	groups     int
	low, width int // lengths low to low+width−1 have a cell in the dense table
	// calendars are by code of site; startShift is 1 under Elapsed and 0 under BothEnds.
	calendars  []reckoning
	startShift int
}

// A reckoning is a site's calendar in the form that the scan reads.
type reckoning struct {
	totals   []int32
	from, to day.Day // a leg inside them needs no remark
	calendar int     // index into the book's calendars
	named    bool
	known    day.Span
}

func newPlan(b *book.Book, q Question, p period.Period) *plan {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	pl := &plan{
		book: b, question: q,
		start: index(q.Leg.From.Name), end: index(q.Leg.To.Name),
		cancelled: index(milestone.Cancelled), basisRow: index(q.Basis.Name),
		twoWay:     q.Leg.TwoWay(),
		basisWidth: math.MaxUint32,
		groups:     1,
		startShift: 1,
	}
	if !p.Unbounded() {
		pl.basisFrom, pl.basisWidth = p.Span.From, uint32(p.Span.Days())
	}
	if q.Measure.Rule == leg.BothEnds {
		pl.startShift = 0
	}
	for _, g := range q.By {
		a := newAxis(b, g, pl.basisRow, p)
		pl.axes = append(pl.axes, a)
		pl.groups *= len(a.labels)
	}
	for code := range b.Values(book.Site) {
		pl.calendars = append(pl.calendars, pl.reckoningFor(uint32(code)))
	}
	pl.chooseWidth()
	return pl
}

func (p *plan) reckoningFor(site uint32) reckoning {
	own, named := p.book.SiteCalendar(site)
	c := p.question.Measure.Calendar(own)
	r := reckoning{totals: c.Totals(), from: day.First, to: day.Last, named: true, known: c.Coverage()}
	if c == own {
		r.calendar = slices.Index(p.book.Calendars().All(), own)
		r.named = named
		r.from, r.to = r.known.From, r.known.LastDay()
		if !named {
			r.from, r.to = day.Last+1, 0 // every leg gets the remark that the default stood in
		}
	}
	return r
}

// chooseWidth sizes the dense table by the lengths that can occur.
func (p *plan) chooseWidth() {
	startLow, startHigh := p.book.Range(p.start)
	endLow, endHigh := p.book.Range(p.end)
	longest := max(0, int(endHigh-startLow)+1)
	if p.twoWay {
		p.low = -min(denseWidth/2, max(0, int(startHigh-endLow)+1))
	}
	p.width = min(denseWidth, longest-p.low+1)
	if p.groups*p.width > denseCells {
		p.width = 0
	}
}

// A tally is what one worker has counted.
type tally struct {
	cells   []uint32 // groups × width: orders by length
	states  []uint32 // groups × leg.States: orders that are not complete
	unknown []uint32 // groups: lengths that leave the coverage of their calendar
	// leaving and byDefault count, over all groups, by calendar and in sum.
	leaving   []int
	byDefault int
	listed    []listedLength // lengths without a cell
	undated   int            // without a basis day, where a period is asked about
	outside   int            // with a basis day outside the period
}

type listedLength struct {
	group  uint32
	length int32
}

func (p *plan) newTally() *tally {
	return &tally{
		cells:   make([]uint32, p.groups*p.width),
		states:  make([]uint32, p.groups*int(leg.States)),
		unknown: make([]uint32, p.groups),
		leaving: make([]int, len(p.book.Calendars().All())),
	}
}

func (t *tally) add(other *tally) {
	for i, n := range other.cells {
		t.cells[i] += n
	}
	for i, n := range other.states {
		t.states[i] += n
	}
	for i, n := range other.unknown {
		t.unknown[i] += n
	}
	for i, n := range other.leaving {
		t.leaving[i] += n
	}
	t.byDefault += other.byDefault
	t.listed = append(t.listed, other.listed...)
	t.undated += other.undated
	t.outside += other.outside
}

// scan counts all orders, split over the processors.
func (p *plan) scan() *tally {
	type stretch struct {
		block    *book.Block
		from, to int
	}
	var work []stretch
	for _, block := range p.book.Blocks() {
		for from := 0; from < len(block.IDs); from += workRows {
			work = append(work, stretch{block, from, min(from+workRows, len(block.IDs))})
		}
	}
	workers := max(1, min(runtime.GOMAXPROCS(0), len(work)))
	tallies := make([]*tally, workers)
	var next atomic.Int64
	var done sync.WaitGroup
	for w := range workers {
		done.Go(func() {
			t := p.newTally()
			var codes scratch
			for {
				i := int(next.Add(1)) - 1
				if i >= len(work) {
					break
				}
				for from := work[i].from; from < work[i].to; from += chunkRows {
					p.scanChunk(work[i].block, from, min(from+chunkRows, work[i].to), &codes, t)
				}
			}
			tallies[w] = t
		})
	}
	done.Wait()
	for _, t := range tallies[1:] {
		tallies[0].add(t)
	}
	return tallies[0]
}

// scanChunk counts a stretch of at most chunkRows orders. The common case, a complete leg of ordinary
// length, takes one branch-free difference of two running totals; all else is left to rare.
func (p *plan) scanChunk(block *book.Block, from, to int, space *scratch, t *tally) {
	start := block.Columns[p.start].Known[from:to]
	end := block.Columns[p.end].Known[from:to][:len(start)]
	basis := block.Columns[p.basisRow].Known[from:to][:len(start)]
	sites := block.Codes[book.Site][from:to][:len(start)]
	codes := p.groupCodes(block, from, to, space)[:len(start)]
	calendars, cells := p.calendars, t.cells
	low, width, shift := p.low, p.width, p.startShift
	basisFrom, basisWidth := p.basisFrom, p.basisWidth

	for i, s := range start {
		if uint32(basis[i]-basisFrom) >= basisWidth {
			t.notAsked(basis[i])
			continue
		}
		e, group := end[i], codes[i]
		if s != 0 && e >= s {
			c := &calendars[sites[i]]
			length := int(c.totals[e+1] - c.totals[int(s)+shift])
			if cell := length - low; cell < width {
				cells[int(group)*width+cell]++
			} else {
				t.listed = append(t.listed, listedLength{group, int32(length)})
			}
			if s < c.from || e > c.to {
				t.remark(group, c, s, e)
			}
			continue
		}
		p.rare(block, from+i, group, t)
	}
}

func (t *tally) notAsked(basis day.Day) {
	if basis == 0 {
		t.undated++
	} else {
		t.outside++
	}
}

// remark counts a length that leaves the coverage of its calendar, or whose calendar is a stand-in.
func (t *tally) remark(group uint32, c *reckoning, start, end day.Day) {
	if !c.named {
		t.byDefault++
	}
	if !c.known.Holds(start) || !c.known.Holds(end) {
		t.unknown[group]++
		t.leaving[c.calendar]++
	}
}

// rare counts an order whose leg is not complete.
func (p *plan) rare(block *book.Block, row int, group uint32, t *tally) {
	d := p.dates(block, row)
	state := p.question.Leg.State(d)
	t.states[int(group)*int(leg.States)+int(state)]++
	if state != leg.Negative {
		return
	}
	c := &p.calendars[block.Codes[book.Site][row]]
	length := p.length(block, row, d)
	if cell := length - p.low; cell >= 0 && cell < p.width {
		t.cells[int(group)*p.width+cell]++
	} else {
		t.listed = append(t.listed, listedLength{group, int32(length)})
	}
	if d.End < c.from || d.Start > c.to {
		t.remark(group, c, d.Start, d.End)
	}
}

// dates are the days of one order that decide the state of its leg.
func (p *plan) dates(block *book.Block, row int) leg.Dates {
	return leg.Dates{
		Start:     block.Columns[p.start].Known[row],
		End:       block.Columns[p.end].Known[row],
		Cancelled: block.Columns[p.cancelled].Known[row],
		RawStart:  block.Columns[p.start].Raw[row],
	}
}

// length is the length of one order's leg that is complete or negative.
func (p *plan) length(block *book.Block, row int, d leg.Dates) int {
	own, _ := p.book.SiteCalendar(block.Codes[book.Site][row])
	return p.question.Measure.Length(own, d.Start, d.End)
}

// scratch is a worker's space for the group codes of a chunk, one array per axis.
type scratch [maxGroupings][chunkRows]uint32

// groupCodes gives each order of a stretch the number of its group.
func (p *plan) groupCodes(block *book.Block, from, to int, space *scratch) []uint32 {
	switch len(p.axes) {
	case 0:
		return space[0][:to-from] // all zero: nothing ever writes to it
	case 1:
		return p.axes[0].codes(block, from, to, space[0][:])
	}
	rows, columns := p.axes[0], p.axes[1]
	by := uint32(len(columns.labels))
	column := columns.codes(block, from, to, space[1][:])
	both := space[0][:len(column)]
	for i, row := range rows.codes(block, from, to, both)[:len(column)] {
		both[i] = row*by + column[i]
	}
	return both
}

// distributions turns the counts into one distribution per group.
func (p *plan) distributions(t *tally) []Distribution {
	slices.SortFunc(t.listed, func(a, b listedLength) int {
		if a.group != b.group {
			return int(a.group) - int(b.group)
		}
		return int(a.length) - int(b.length)
	})
	all := make([]Distribution, p.groups)
	listed := t.listed
	for g := range all {
		var d Distribution
		n := 0
		for n < len(listed) && int(listed[n].group) == g {
			n++
		}
		own := listed[:n]
		listed = listed[n:]
		// Lengths without a cell lie below or above all that have one.
		for len(own) > 0 && int(own[0].length) < p.low {
			d, own = d.with(int(own[0].length), 1), own[1:]
		}
		for i, orders := range t.cells[g*p.width : (g+1)*p.width] {
			if orders > 0 {
				d = append(d, Bar{p.low + i, int(orders)})
			}
		}
		for _, l := range own {
			d = d.with(int(l.length), 1)
		}
		all[g] = d
	}
	return all
}

// with adds orders of a length that is not shorter than any before.
func (d Distribution) with(length, orders int) Distribution {
	if n := len(d); n > 0 && d[n-1].Length == length {
		d[n-1].Orders += orders
		return d
	}
	return append(d, Bar{length, orders})
}
