package summary

import (
	"math"
	"math/bits"
	"runtime"
	"sync/atomic"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/work"
)

const (
	// workRows is the stretch of orders that a worker takes at a time.
	workRows = 1 << 14
	// chunkRows is the stretch whose group codes are made at a time; they stay in the nearest cache.
	chunkRows = predicate.Chunk
	// denseWidth and denseCells bound the table of counts per group and length. Longer lengths, and all
	// lengths where there are very many groups, are listed one by one instead.
	denseWidth = 1 << 8
	denseCells = 1 << 22
	// wholeTurns and wholeCells are for the book as one group; see countWhole.
	wholeTurns = 4
	wholeCells = 1 << 17
)

// A plan is a question about one period, resolved against a book: indexes and tables instead of names.
type plan struct {
	book                            *book.Book
	question                        Question
	start, end, cancelled, basisRow int // milestones' indexes
	decider                         leg.Decider
	moves                           bool // starts count as cut-offs move them
	// An order is asked about where uint32(basis − basisFrom) < basisWidth. Without a period that holds
	// for every order, undated ones too.
	basisFrom  day.Day
	basisWidth uint32
	where      *predicate.Bound // nil where no condition picks the orders
	axes       []axis
	groups     int
	tabulated  bool // lengths are differences of the length table's entries
	reckoner   lengthTable
	promise    *promisePlan // nil where none is asked about
	every      *everyPlan   // nil without a chain
	// The table of counts: group × plane × length × turn, for lengths of low to low+width−1. Without a
	// table, width is 0.
	low, width, turns int
}

func newPlan(b *book.Book, q Question, p period.Period) *plan {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	pl := &plan{
		book: b, question: q,
		start: index(q.Leg.From.Name), end: index(q.Leg.To.Name),
		cancelled: index(milestone.Cancelled), basisRow: index(q.Basis.Name),
		decider:    q.Leg.Decider(b.Bounds().DataDate),
		moves:      q.Measure.CutOffMoves(q.Leg),
		basisWidth: math.MaxUint32,
		groups:     1,
	}
	if !p.Unbounded() {
		pl.basisFrom, pl.basisWidth = p.Span.From, uint32(p.Span.Days())
	}
	if q.Where.Condition != nil {
		where := predicate.Bind(b, q.Where.Condition, q.Where.Decimals)
		pl.where = &where
	}
	for _, g := range q.By {
		a := newAxis(b, g, pl.basisRow, p)
		pl.axes = append(pl.axes, a)
		pl.groups *= len(a.labels)
	}
	pl.tabulated = tabulated(q.Measure.Unit) && fewGaps(b, q.Measure, q.Side, pl.start, pl.end)
	pl.promise, pl.every = pl.newPromise(), pl.newEvery()
	shift := pl.chooseTable()
	pl.reckoner = newReckoner(b, q.Measure, q.Side, pl.start, pl.end, pl.low, shift)
	return pl
}

// starts are the days from which a block's lengths are counted, where that is a difference of totals.
func (p *plan) starts(block *book.Block) []day.Day {
	if p.moves && block.EffectiveStarts != nil {
		return block.EffectiveStarts
	}
	return block.Columns[p.start].Known
}

// chooseTable places the table by the lengths that can occur, and says where reckoned numbers have their plane.
func (p *plan) chooseTable() (shift int) {
	p.turns = 1
	if p.question.Measure.Unit.Ticks() > leg.Weeks.Ticks() {
		return planeShift // hardly two lengths are alike: all are listed
	}
	firstStart, lastStart := p.book.Range(p.start)
	firstEnd, lastEnd := p.book.Range(p.end)
	if p.decider.TwoWay() {
		p.low = -min(denseWidth/2, max(0, int(lastStart-firstEnd)+1))
	}
	// Both days counted, a length is one more than the days lie apart.
	longest := max(0, int(lastEnd-firstStart)+1)
	if shift := bits.Len(uint(longest - p.low)); p.tabulated && p.groups == 1 && p.unbounded() && p.where == nil && wholeTurns*planes<<shift <= wholeCells {
		p.width, p.turns = 1<<shift, wholeTurns
		return shift
	}
	if p.groups*planes*denseWidth <= denseCells {
		p.width = denseWidth
	}
	return planeShift
}

// unbounded says that all orders are asked about.
func (p *plan) unbounded() bool { return p.basisWidth == math.MaxUint32 }

// cell is the place in the table of the first turn of a length, which has one.
func (p *plan) cell(group, plane, length int) int {
	return ((group*planes+plane)*p.width + length - p.low) * p.turns
}

// hasCell says whether the table counts a length.
func (p *plan) hasCell(length int) bool { return length >= p.low && length < p.low+p.width }

// A tally is what one worker has counted.
type tally struct {
	cells  []uint32   // the table of the plan: orders by length
	states []uint32   // groups × leg.States: orders that are not complete
	listed lengthList // lengths without a cell
	// Where there is no table of lengths, there is none of states either: they are listed, each as if it were a length.
	listedStates lengthList
	// Legs without an end, where the question asks for them: counted as group × asRunning or asCancelled × denseWidth where
	// lengths have a table, and else listed.
	waitingCells []uint32
	waiting      lengthList
	kept         *kept
	every        *every
	undated      int            // without a basis day, where a period is asked about
	outside      int            // with a basis day outside the period
	unmet        int            // that do not meet the condition
	lacking      map[string]int // undecided, by what they lack
}

func (p *plan) newTally() *tally {
	cells := p.groups * planes * p.width * p.turns
	if p.turns == wholeTurns {
		cells = wholeCells
	}
	t := &tally{
		cells:   make([]uint32, cells),
		lacking: map[string]int{},
		kept:    p.newKept(),
		every:   p.newEveryCount(),
	}
	if p.width > 0 {
		t.states = make([]uint32, p.groups*int(leg.States))
	}
	if p.question.Waiting && p.width > 0 {
		t.waitingCells = make([]uint32, p.groups*asUntold*denseWidth)
	}
	return t
}

func (t *tally) add(other *tally) {
	for i, n := range other.cells {
		t.cells[i] += n
	}
	for i, n := range other.states {
		t.states[i] += n
	}
	t.listed.join(other.listed)
	t.listedStates.join(other.listedStates)
	t.waiting.join(other.waiting)
	for i, n := range other.waitingCells {
		t.waitingCells[i] += n
	}
	t.kept.add(other.kept)
	t.every.add(other.every)
	t.undated += other.undated
	t.outside += other.outside
	t.unmet += other.unmet
	for lacked, orders := range other.lacking {
		t.lacking[lacked] += orders
	}
}

// scan counts all orders, split over the processors.
func (p *plan) scan() *tally {
	tallies := walk(p.book, p.newTally, p.scanChunk)
	for _, t := range tallies[1:] {
		tallies[0].add(t)
	}
	return tallies[0]
}

// walk shows all orders of a book in chunks, split over the processors, each with an accumulator and a scratch of its own.
// It gives the accumulators, at least one.
func walk[A any](b *book.Book, fresh func() A, visit func(block *book.Block, from, to int, space *scratch, a A)) []A {
	type stretch struct {
		block    *book.Block
		from, to int
	}
	var stretches []stretch
	for _, block := range b.Blocks() {
		for from := 0; from < len(block.IDs); from += workRows {
			stretches = append(stretches, stretch{block, from, min(from+workRows, len(block.IDs))})
		}
	}
	accumulators := make([]A, max(1, min(runtime.GOMAXPROCS(0), len(stretches))))
	var next atomic.Int64
	work.Each(len(accumulators), func(w int) {
		a := fresh()
		space := spaces.Get().(*scratch)
		defer spaces.Put(space)
		for {
			i := int(next.Add(1)) - 1
			if i >= len(stretches) {
				break
			}
			b.Pause()
			for from := stretches[i].from; from < stretches[i].to; from += chunkRows {
				visit(stretches[i].block, from, min(from+chunkRows, stretches[i].to), space, a)
			}
		}
		accumulators[w] = a
	})
	return accumulators
}

// scanChunk counts a stretch of at most chunkRows orders in small steps, each a loop of few enough values to
// keep them in registers. The common case, a complete leg of ordinary length, is one difference of two table
// entries and one addition to a cell; all other orders are listed on the way and looked at afterwards.
func (p *plan) scanChunk(block *book.Block, from, to int, space *scratch, t *tally) {
	start, end := p.starts(block)[from:to], block.Columns[p.end].Known[from:to]
	locals := p.book.LocalCodes(p.question.Side, block, from, to, space.locals[:])
	codes := p.groupCodes(block, from, to, space)
	if p.where != nil {
		p.where.Decide(block, from, space.truths[:to-from])
	}
	others := 0
	switch {
	case p.turns == wholeTurns:
		others = p.reckoner.countWhole((*[wholeCells]uint32)(t.cells), start, end, locals, &space.others)
	case !p.tabulated:
		reckoned := space.reckoned[:to-from]
		clear(reckoned)
		if p.where != nil {
			p.pick(reckoned, block, from, space, t)
		}
		for i, r := range reckoned {
			if space.others[others] = int32(i); r>>31 == 0 {
				others++
			}
		}
	default:
		reckoned := space.reckoned[:to-from]
		p.reckoner.reckon(reckoned, start, end, locals)
		if !p.unbounded() {
			p.leaveOut(reckoned, block.Columns[p.basisRow].Known[from:to])
		}
		if p.where != nil {
			p.pick(reckoned, block, from, space, t)
		}
		if p.width == 0 {
			others = t.list(reckoned, codes, p.low, &space.others)
		} else {
			others = p.countGroups(t.cells, reckoned, codes, &space.others)
		}
	}
	p.countOthers(block, from, space.others[:others], codes, locals, space, t)
	if p.promise == nil && p.every == nil {
		return
	}
	if p.where == nil {
		p.decide(block, from, space.truths[:to-from])
	}
	if p.promise != nil {
		p.countPromises(block, from, to, codes, locals, space, t.kept)
	}
	if p.every != nil {
		p.countEvery(block, from, to, codes, locals, space, t.every)
	}
}

// countOthers counts the orders of a stretch that have no cell: those that are not asked about, whose leg is
// not complete, or whose length is out of the ordinary.
func (p *plan) countOthers(block *book.Block, from int, others []int32, codes, locals []uint32, space *scratch, t *tally) {
	start, end := block.Columns[p.start].Known[from:], block.Columns[p.end].Known[from:]
	cancelled, raw := block.Columns[p.cancelled].Known[from:], block.Columns[p.start].Raw[from:]
	basis, dates := block.Columns[p.basisRow].Known[from:], &space.dates
	// The days lie far apart in memory. Fetched before anything depends on them, they are waited for together.
	for k, i := range others {
		dates[k] = leg.Dates{Start: start[i], End: end[i], Cancelled: cancelled[i]}
	}
	for k, i := range others {
		if uint32(basis[i]-p.basisFrom) >= p.basisWidth {
			if basis[i] == 0 {
				t.undated++
			} else {
				t.outside++
			}
			continue
		}
		d := dates[k]
		if d.Start == 0 {
			d.RawStart = raw[i]
		}
		state := p.decider.State(d)
		if state.Counted() {
			if lacking := p.countLength(block, from+int(i), codes[i], locals[i], d, t); lacking != leg.Complete {
				state = lacking
			}
		}
		if p.question.Waiting && (state == leg.Running || state == leg.Cancelled) {
			p.countWaiting(block, from+int(i), codes[i], locals[i], d, state, t)
		}
		switch {
		case state == leg.Complete:
		case p.width > 0:
			t.states[int(codes[i])*int(leg.States)+int(state)]++
		default:
			t.listedStates.add(listed(codes[i], int(state), 0))
		}
	}
}

// leaveOut marks the orders whose basis lies outside the period.
func (p *plan) leaveOut(reckoned []uint32, basis []day.Day) {
	from, width := p.basisFrom, p.basisWidth
	for i, d := range basis[:len(reckoned)] {
		if uint32(d-from) >= width {
			reckoned[i] = notReckoned
		}
	}
}

// pick leaves out the orders of the period that do not meet the condition, and counts them.
func (p *plan) pick(reckoned []uint32, block *book.Block, from int, space *scratch, t *tally) {
	truths, basis := space.truths[:len(reckoned)], block.Columns[p.basisRow].Known[from:][:len(reckoned)]
	if !p.unbounded() {
		for i, d := range basis {
			if uint32(d-p.basisFrom) >= p.basisWidth {
				truths[i] = notAsked
			}
		}
	}
	// The bits of a truth are counted, not branched on: conditions are hard to foresee.
	var bits [2]int
	unasked := 0
	for i, truth := range truths {
		met, undecided := truth&1, truth>>1&1
		bits[0] += int(met)
		bits[1] += int(undecided)
		unasked += int(truth >> 2)
		reckoned[i] |= leftOut & -uint32(1-met) & (uint32(truth>>2) - 1)
	}
	t.unmet += len(truths) - unasked - bits[0] - bits[1]
	if bits[1] == 0 {
		return
	}
	place := predicate.Place{Block: block}
	lacked, alike := "", 0
	for i, truth := range truths {
		if truth != predicate.Undecided {
			continue
		}
		place.Row = from + i
		next := p.where.LacksAt(&place)
		if next != lacked && alike > 0 {
			t.lacking[lacked] += alike
			alike = 0
		}
		lacked, alike = next, alike+1
	}
	t.lacking[lacked] += alike
}

// notAsked is the truth of an order outside the period, whatever the condition says of it.
const notAsked predicate.Truth = 1 << 2

// countGroups adds each reckoned length to its cell. It lists the orders without a cell and returns their
// number.
//
//go:noinline
func (p *plan) countGroups(cells, reckoned, codes []uint32, others *[chunkRows]int32) int {
	width := uint32(p.width)
	codes = codes[:len(reckoned)]
	n := uint(0)
	for i, r := range reckoned {
		length := r & lengthMask
		if length >= width {
			others[n%chunkRows] = int32(i)
			n += uint(1 - r>>31) // one that a condition left out is counted already
			continue
		}
		cells[(uint(codes[i])*planes+uint(r>>planeShift))*denseWidth+uint(length)]++
	}
	return int(n)
}

// list lists each reckoned length, where there are too many groups for a table. It lists the orders without one and returns
// their number.
func (t *tally) list(reckoned, codes []uint32, low int, others *[chunkRows]int32) int {
	n := 0
	codes = codes[:len(reckoned)]
	for i, r := range reckoned {
		if r&lengthMask != notReckoned {
			t.listed.add(listed(codes[i], int(r&lengthMask)+low, r>>planeShift))
		} else if r>>31 == 0 { // one that a condition left out is counted already
			others[n] = int32(i)
			n++
		}
	}
	return n
}

// countLength counts a length that the common case leaves out: a negative or a very long one, or one in a unit that
// has no table. The state is not Complete where the unit asks for what is not known.
func (p *plan) countLength(block *book.Block, row int, group, local uint32, d leg.Dates, t *tally) leg.State {
	own, stretch := p.book.Locals(p.question.Side)[local], p.stretch(block, row, d)
	length, state := p.question.Measure.Length(own.Local, stretch)
	if state != leg.Complete {
		return state
	}
	plane := uint32(0)
	if p.question.Measure.HolidaysUnknown(own.Calendar, stretch) {
		plane = 1
	}
	if p.reckoner.reckonings[local].stand {
		plane |= byDefault
	}
	if p.hasCell(length) {
		t.cells[p.cell(int(group), int(plane), length)]++
	} else {
		t.listed.add(listed(group, length, plane))
	}
	return state
}

// stretch is what a leg of these dates is counted from.
func (p *plan) stretch(block *book.Block, row int, d leg.Dates) leg.Stretch {
	s := leg.Stretch{
		Start: d.Start, End: d.End,
		StartAt: block.Columns[p.start].InstantAt(row), EndAt: block.Columns[p.end].InstantAt(row),
	}
	if p.moves && block.EffectiveStarts != nil && block.EffectiveStarts[row] != d.Start {
		s.Moved = block.EffectiveStarts[row]
	}
	return s
}

// dates are the days of one order that decide the state of its leg.
func (p *plan) dates(block *book.Block, row int) leg.Dates {
	d := leg.Dates{Start: block.Columns[p.start].Known[row], End: block.Columns[p.end].Known[row]}
	if d.Start == 0 {
		d.RawStart = block.Columns[p.start].Raw[row]
	}
	if d.End == 0 {
		d.Cancelled = block.Columns[p.cancelled].Known[row]
	}
	return d
}

// scratch is a worker's space for one chunk.
type scratch struct {
	codes    [maxGroupings][chunkRows]uint32 // group codes by axis
	locals   [chunkRows]uint32
	reckoned [chunkRows]uint32 // lengths with their planes, or notReckoned
	others   [chunkRows]int32  // the orders that have no cell
	dates    [chunkRows]leg.Dates
	truths   [predicate.Chunk]predicate.Truth
}

// groupCodes gives each order of a stretch the number of its group.
func (p *plan) groupCodes(block *book.Block, from, to int, space *scratch) []uint32 {
	switch len(p.axes) {
	case 0:
		return oneGroup[:to-from]
	case 1:
		return p.axes[0].codes(block, from, to, space.codes[0][:])
	}
	rows, columns := p.axes[0], p.axes[1]
	by := uint32(len(columns.labels))
	column := columns.codes(block, from, to, space.codes[1][:])
	both := space.codes[0][:len(column)]
	for i, row := range rows.codes(block, from, to, both)[:len(column)] {
		both[i] = row*by + column[i]
	}
	return both
}

// oneGroup are the codes where nothing is grouped; nothing ever writes to it.
var oneGroup [chunkRows]uint32

// A groupCount is what a tally comes to for one group.
type groupCount struct {
	orders          int
	states          StateCounts // but for complete ones
	lengths         Distribution
	outsideCoverage int
	byDefault       int
}

// StateCounts are a group's orders by the state of their leg. They are small numbers: there can be very many groups.
type StateCounts [leg.States]uint32

func (g *groupCount) add(length int, plane uint32, orders int) {
	g.orders += orders
	g.lengths = g.lengths.with(length, orders)
	g.remark(plane, orders)
}

// remark counts what the plane of some lengths says of them.
func (g *groupCount) remark(plane uint32, orders int) {
	if plane&outsideCoverage != 0 {
		g.outsideCoverage += orders
	}
	if plane&byDefault != 0 {
		g.byDefault += orders
	}
}

// gather turns the counts into one groupCount per group.
func (p *plan) gather(t *tally) []groupCount {
	all := make([]groupCount, p.groups)
	if p.width == 0 {
		p.gatherListed(t, all)
		return all
	}
	by := byGroup(t.listed, p.groups)
	for g := range all {
		all[g].states = StateCounts(t.states[g*int(leg.States):])
		own := by.of(g)
		// Lengths without a cell lie below or above all that have one.
		for len(own) > 0 && own[0].length() < p.low {
			all[g].add(own[0].length(), own[0].plane(), 1)
			own = own[1:]
		}
		p.gatherCells(t, g, &all[g])
		for _, l := range own {
			all[g].add(l.length(), l.plane(), 1)
		}
	}
	return all
}

// sharing is how many groups share the memory of their distributions.
const sharing = 1 << 10

// gatherListed is gather where all lengths are listed: there can be very many groups, which share the memory of their
// distributions.
func (p *plan) gatherListed(t *tally, all []groupCount) {
	by, states := byGroup(t.listed, p.groups), byGroup(t.listedStates, p.groups)
	work.Split(p.groups, func(first, beyond int) {
		for ; first < beyond; first += sharing {
			last, room := min(first+sharing, beyond), 0
			for g := first; g < last; g++ {
				room += bars(by.of(g))
			}
			shared := make(Distribution, 0, room)
			for g := first; g < last; g++ {
				for _, l := range states.at(g) {
					all[g].states[l.length()]++
				}
				own, begin := by.at(g), len(shared)
				if len(own) == 0 {
					continue
				}
				for i, l := range own {
					if length := l.length(); i == 0 || length != own[i-1].length() {
						shared = append(shared, Bar{Length: length})
					}
					shared[len(shared)-1].Orders++
					all[g].remark(l.plane(), 1)
				}
				all[g].orders, all[g].lengths = len(own), shared[begin:len(shared):len(shared)]
			}
		}
	})
}

func (p *plan) gatherCells(t *tally, g int, count *groupCount) {
	for length := p.low; length < p.low+p.width; length++ {
		for plane := range planes {
			orders := 0
			for _, n := range t.cells[p.cell(g, plane, length):][:p.turns] {
				orders += int(n)
			}
			if orders > 0 {
				count.add(length, uint32(plane), orders)
			}
		}
	}
}

// with adds orders of a length that is not shorter than any before.
func (d Distribution) with(length, orders int) Distribution {
	if n := len(d); n > 0 && d[n-1].Length == length {
		d[n-1].Orders += orders
		return d
	}
	return append(d, Bar{length, orders})
}
