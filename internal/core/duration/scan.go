package duration

import (
	"math/bits"
	"sync"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/work"
)

const (
	// The table of counts per group and length has at most denseCells, and room for lengths of denseWidth, or of fewer where
	// there are many groups. Longer lengths, and all lengths where there would be room for less than leastWidth, are listed one
	// by one instead.
	denseWidth = 1 << 8
	leastWidth = 1 << 5
	denseCells = 1 << 22
	// One of up to nearCells stays near the processor: beyond that there is room for lengths of usualWidth alone.
	usualWidth = 1 << 6
	nearCells  = 1 << 20
	// wholeTurns and wholeCells are for the book as one group; see countWhole.
	wholeTurns = 4
	wholeCells = 1 << 17
)

// A plan is how one leg is counted over a scope: indexes and tables instead of names.
type plan struct {
	*Reader
	question  Question
	scope     *query.Scope
	tabulated bool // lengths are differences of the length table's entries
	table     lengthTable
	promise   *promisePlan // nil where none is asked about
	every     *everyPlan   // nil without a chain
	// The table of counts: group × plane × length × turn, for lengths of low to low+width−1. Without a
	// table, width is 0. Lengths in other planes than these have no cell either.
	low, width, turns, planes int
}

func newPlan(scope *query.Scope, q Question) *plan {
	p := &plan{Reader: NewReader(scope.Book, q.Question, q.Through...), question: q, scope: scope}
	gaps := mostGaps(p.book, q.Measure, q.Calendar, p.start, p.end)
	p.tabulated = tabulated(q.Measure.Unit) && gaps <= outsideCoverage
	p.planes = planesOf(p.Reader, gaps)
	p.promise, p.every = p.newPromise(), p.newEvery()
	shift := p.chooseTable()
	p.table = newLengthTable(p.Reader, p.low, shift)
	return p
}

// chooseTable places the table by the lengths that can occur, and says where reckoned numbers have their plane.
func (p *plan) chooseTable() (shift int) {
	p.turns = 1
	if p.question.Measure.Unit.Ticks() > leg.Weeks.Ticks() {
		return planeShift // hardly two lengths are alike: all are listed
	}
	firstStart, lastStart := p.book.Range(p.start)
	firstEnd, lastEnd := p.book.Range(p.end)
	room, tables := denseWidth, p.planes
	if p.question.Waiting { // legs without an end have tables as wide
		tables = max(tables, asUntold)
	}
	cells := p.scope.Groups * tables
	for room > usualWidth && cells*room > nearCells {
		room /= 2
	}
	for room >= leastWidth && cells*room > denseCells {
		room /= 2
	}
	if p.decider.TwoWay() {
		p.low = -min(room/2, max(0, int(lastStart-firstEnd)+1))
	}
	// Both days counted, a length is one more than the days lie apart.
	longest := max(0, int(lastEnd-firstStart)+1)
	if shift := bits.Len(uint(longest - p.low)); p.tabulated && p.scope.Groups == 1 && p.scope.All() &&
		wholeTurns*p.planes<<shift <= wholeCells {
		p.width, p.turns = 1<<shift, wholeTurns
		return shift
	}
	if room >= leastWidth {
		p.width = room
	}
	return planeShift
}

// cell is the place in the table of the first turn of a length, which has one.
func (p *plan) cell(group, plane, length int) int {
	return ((group*p.planes+plane)*p.width + length - p.low) * p.turns
}

// hasCell says whether the table counts a length.
func (p *plan) hasCell(length int) bool { return length >= p.low && length < p.low+p.width }

// A tally is what one worker has counted of one leg.
type tally struct {
	plan   *plan
	cells  []uint32          // the table of the plan: orders by length
	states []uint32          // groups × leg.States: orders that are not complete
	listed distribution.List // lengths without a cell
	// Where there is no table of lengths, there is none of states either: they are listed, each as if it were a length.
	listedStates distribution.List
	// Legs without an end, where the question asks for them: counted as group × asRunning or asCancelled × width where
	// lengths have a table, and else listed.
	waitingCells   []uint32
	waiting        distribution.List
	kept           *kept
	every          *every
	moved, untimed int // lengths that a cut-off moves, and those that it would need a time of day for
	stoodIn        int // lengths that take a day that stands in for another
}

func (p *plan) newTally() *tally {
	cells := p.scope.Groups * p.planes * p.width * p.turns
	if p.turns == wholeTurns {
		cells = wholeCells
	}
	t := &tally{plan: p, cells: make([]uint32, cells), kept: p.newKept(), every: p.newEveryCount()}
	if p.width > 0 {
		t.states = make([]uint32, p.scope.Groups*int(leg.States))
	}
	if p.question.Waiting && p.width > 0 {
		t.waitingCells = make([]uint32, p.scope.Groups*asUntold*p.width)
	}
	return t
}

// Merge adds what another worker has counted.
func (t *tally) Merge(other *tally) {
	for i, n := range other.cells {
		t.cells[i] += n
	}
	for i, n := range other.states {
		t.states[i] += n
	}
	t.listed.Join(other.listed)
	t.listedStates.Join(other.listedStates)
	t.waiting.Join(other.waiting)
	for i, n := range other.waitingCells {
		t.waitingCells[i] += n
	}
	t.kept.add(other.kept)
	t.every.add(other.every)
	t.moved, t.untimed, t.stoodIn = t.moved+other.moved, t.untimed+other.untimed, t.stoodIn+other.stoodIn
}

// Visit counts a stretch of orders in small steps, each a loop of few enough values to keep them in registers. The common case,
// a complete leg of ordinary length, is one difference of two table entries and one addition to a cell; all other orders are
// listed on the way and looked at afterwards.
func (t *tally) Visit(s *query.Stretch) {
	p, space := t.plan, spaces.Get().(*scratch)
	defer spaces.Put(space)
	start, end := p.starts(s.Block)[s.From:s.To], s.Block.Columns[p.end].Known[s.From:s.To]
	others := 0
	switch {
	case p.turns == wholeTurns:
		others = p.table.countWhole((*[wholeCells]uint32)(t.cells), start, end, s.Calendars, &space.others)
	case !p.tabulated:
		others = copy(space.others[:], s.Chosen())
	default:
		reckoned := space.reckoned[:len(start)]
		if s.Rows == nil {
			p.table.reckon(reckoned, start, end, s.Calendars)
		} else {
			p.table.reckonRows(reckoned, s.Rows, start, end, s.Calendars)
		}
		switch {
		case p.width == 0:
			others = t.list(reckoned, s, &space.others)
		case s.Rows == nil:
			others = t.countGroups(reckoned, s.Groups, &space.others)
		default:
			others = t.countRows(reckoned, s, &space.others)
		}
	}
	t.countOthers(s, space, others)
	t.countNoted(s)
	if p.promise != nil {
		t.countPromises(s)
	}
	if p.every != nil {
		t.countEvery(s)
	}
}

// countOthers counts the orders of a stretch that have no cell: those whose leg is not complete, or whose length is out of the
// ordinary.
func (t *tally) countOthers(s *query.Stretch, space *scratch, n int) {
	p, others, dates := t.plan, space.others[:n], &space.dates
	start, end := s.Block.Columns[p.start].Known[s.From:], s.Block.Columns[p.end].Known[s.From:]
	cancelled, raw := s.Block.Columns[p.cancelled].Known[s.From:], s.Block.Columns[p.start].Raw[s.From:]
	// The days lie far apart in memory. Fetched before anything depends on them, they are waited for together.
	for k, i := range others {
		dates[k] = leg.Dates{Start: start[i], End: end[i], Cancelled: cancelled[i]}
	}
	for k, i := range others {
		d := dates[k]
		if d.Start == 0 {
			d.RawStart = raw[i]
		}
		state := p.decider.State(d)
		if state.Counted() {
			if lacking := t.countLength(s, int(i), d); lacking != leg.Complete {
				state = lacking
			}
		}
		if p.question.Waiting && (state == leg.Running || state == leg.Cancelled) {
			t.countWaiting(s, int(i), d, state)
		}
		switch {
		case state == leg.Complete:
		case p.width > 0:
			t.states[int(s.Groups[i])*int(leg.States)+int(state)]++
		default:
			t.listedStates.Add(distribution.NewItem(s.Groups[i], int(state), 0))
		}
	}
}

// countNoted counts the lengths that notes are about.
func (t *tally) countNoted(s *query.Stretch) {
	p := t.plan
	if p.cutOffs != nil {
		starts, ends := s.Block.Columns[p.start].Known[s.From:s.To], s.Block.Columns[p.end].Known[s.From:s.To]
		sites, effective := s.Block.Codes[book.Site][s.From:s.To], s.Block.EffectiveStarts[s.From:s.To]
		for _, i := range s.Chosen() {
			switch start := starts[i]; {
			case start == 0 || ends[i] < start || !p.cutOffs[sites[i]]:
			case effective[i] != start:
				t.moved++
			case p.cutOff(s.Block, s.From+int(i)) == NoteCutOffUntimed:
				t.untimed++
			}
		}
	}
	if p.standIns == nil {
		return
	}
	for _, i := range s.Chosen() {
		if row := s.From + int(i); p.takesStandIn(s.Block, row) {
			if _, complete := p.complete(s.Block, row, s.Calendars[i], notReckoned); complete {
				t.stoodIn++
			}
		}
	}
}

// countGroups adds each reckoned length to its cell, and lists it where it has none. It lists the orders without a length that
// is reckoned, and returns their number.
//
//go:noinline
func (t *tally) countGroups(reckoned, codes []uint32, others *[query.StretchRows]int32) int {
	cells, width, ofGroup, ofPlane := t.cells, uint32(t.plan.width), t.plan.shift(t.plan.planes), t.plan.shift(1)
	codes = codes[:len(reckoned)]
	n := uint(0)
	for i, r := range reckoned {
		length := r & lengthMask
		if length < width {
			cells[uint(codes[i])<<(ofGroup&63)+uint(r>>planeShift)<<(ofPlane&63)+uint(length)]++
			continue
		}
		if length != notReckoned {
			t.listReckoned(codes[i], r)
			continue
		}
		others[n%query.StretchRows] = int32(i)
		n++
	}
	return int(n)
}

// countRows is countGroups for the chosen orders of a stretch.
//
//go:noinline
func (t *tally) countRows(reckoned []uint32, s *query.Stretch, others *[query.StretchRows]int32) int {
	cells, width, ofGroup, ofPlane := t.cells, uint32(t.plan.width), t.plan.shift(t.plan.planes), t.plan.shift(1)
	codes := s.Groups[:len(reckoned)]
	n := uint(0)
	for _, i := range s.Rows {
		r := reckoned[i]
		length := r & lengthMask
		if length < width {
			cells[uint(codes[i])<<(ofGroup&63)+uint(r>>planeShift)<<(ofPlane&63)+uint(length)]++
			continue
		}
		if length != notReckoned {
			t.listReckoned(codes[i], r)
			continue
		}
		others[n%query.StretchRows] = i
		n++
	}
	return int(n)
}

// shift is the width of some planes of the table, as a power of two.
func (p *plan) shift(planes int) uint { return uint(bits.TrailingZeros(uint(planes * p.width))) }

// listReckoned lists a reckoned length of a group.
//
//go:noinline
func (t *tally) listReckoned(group, r uint32) {
	t.listed.Add(distribution.NewItem(group, int(r&lengthMask)+t.plan.low, r>>planeShift))
}

// list lists each reckoned length, where there are too many groups for a table. It lists the orders without one and returns
// their number.
func (t *tally) list(reckoned []uint32, s *query.Stretch, others *[query.StretchRows]int32) int {
	n, low, codes := 0, t.plan.low, s.Groups[:len(reckoned)]
	for _, i := range s.Chosen() {
		if r := reckoned[i]; r&lengthMask != notReckoned {
			t.listed.Add(distribution.NewItem(codes[i], int(r&lengthMask)+low, r>>planeShift))
		} else {
			others[n] = i
			n++
		}
	}
	return n
}

// countLength counts the length of order i of a stretch that the common case leaves out: a negative or a very long one, or one in
// a unit that has no table. The state is not Complete where the unit asks for what is not known.
func (t *tally) countLength(s *query.Stretch, i int, d leg.Dates) leg.State {
	p, group, calendar := t.plan, s.Groups[i], s.Calendars[i]
	own, stretch := &p.calendars[calendar], p.stretch(s.Block, s.From+i, d)
	length, state := p.question.Measure.Length(own.Local, stretch)
	if state != leg.Complete {
		return state
	}
	plane := uint32(0)
	if p.question.Measure.HolidaysUnknown(own.Calendar, stretch) {
		plane = 1
	}
	if p.table.reckonings[calendar].stand {
		plane |= byDefault
	}
	if p.hasCell(length) && int(plane) < p.planes {
		t.cells[p.cell(int(group), int(plane), length)]++
	} else {
		t.listed.Add(distribution.NewItem(group, length, plane))
	}
	return state
}

// scratch is a worker's space for one stretch.
type scratch struct {
	reckoned [query.StretchRows]uint32 // lengths with their planes, or notReckoned
	others   [query.StretchRows]int32  // the orders that have no cell
	dates    [query.StretchRows]leg.Dates
}

var spaces = sync.Pool{New: func() any { return new(scratch) }}

// A groupCount is what a tally comes to for one group.
type groupCount struct {
	orders          int
	states          StateCounts // but for complete ones
	lengths         distribution.Distribution
	outsideCoverage int
	byDefault       int
}

// StateCounts are a group's orders by the state of their leg. They are small numbers: there can be very many groups.
type StateCounts [leg.States]uint32

func (g *groupCount) add(length int, plane uint32, orders int) {
	g.orders += orders
	g.lengths = g.lengths.With(length, orders)
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
	all := make([]groupCount, p.scope.Groups)
	if p.width == 0 {
		p.gatherListed(t, all)
		return all
	}
	by := t.listed.ByGroup(p.scope.Groups)
	work.Split(p.scope.Groups, func(first, beyond int) {
		counted := make([]uint32, p.width)
		for g := first; g < beyond; g++ {
			all[g].states = StateCounts(t.states[g*int(leg.States):])
			p.gatherCells(t, g, &all[g], counted)
			own := by.Of(g)
			if len(own) == 0 {
				continue
			}
			listed := groupCount{orders: all[g].orders}
			for _, l := range own {
				listed.add(l.Length(), l.Plane(), 1)
			}
			all[g].orders, all[g].lengths = listed.orders, distribution.Merged(all[g].lengths, listed.lengths)
			all[g].outsideCoverage += listed.outsideCoverage
			all[g].byDefault += listed.byDefault
		}
	})
	return all
}

// sharing is how many groups share the memory of their distributions.
const sharing = 1 << 10

// gatherListed is gather where all lengths are listed: there can be very many groups, which share the memory of their
// distributions.
func (p *plan) gatherListed(t *tally, all []groupCount) {
	by, states := t.listed.ByGroup(p.scope.Groups), t.listedStates.ByGroup(p.scope.Groups)
	work.Split(p.scope.Groups, func(first, beyond int) {
		for ; first < beyond; first += sharing {
			last, room := min(first+sharing, beyond), 0
			for g := first; g < last; g++ {
				room += distribution.Bars(by.Of(g))
			}
			shared := make(distribution.Distribution, 0, room)
			for g := first; g < last; g++ {
				for _, l := range states.At(g) {
					all[g].states[l.Length()]++
				}
				own, begin := by.At(g), len(shared)
				if len(own) == 0 {
					continue
				}
				for i, l := range own {
					if length := l.Length(); i == 0 || length != own[i-1].Length() {
						shared = append(shared, distribution.Bar{Length: length})
					}
					shared[len(shared)-1].Orders++
					all[g].remark(l.Plane(), 1)
				}
				all[g].orders, all[g].lengths = len(own), shared[begin:len(shared):len(shared)]
			}
		}
	})
}

// gatherCells gathers what the table has of a group; counted is room for its lengths.
func (p *plan) gatherCells(t *tally, g int, count *groupCount, counted []uint32) {
	if p.turns == 1 && p.planes == 1 {
		count.lengths = distribution.Counted(t.cells[p.cell(g, 0, p.low):][:p.width], p.low)
		count.orders = count.lengths.Orders()
		return
	}
	clear(counted)
	for plane := range p.planes {
		of := 0
		for length, cells := 0, t.cells[p.cell(g, plane, p.low):]; length < p.width; length++ {
			for _, n := range cells[length*p.turns:][:p.turns] {
				counted[length] += n
				of += int(n)
			}
		}
		count.orders += of
		count.remark(uint32(plane), of)
	}
	count.lengths = distribution.Counted(counted, p.low)
}
