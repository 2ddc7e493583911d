package backlog

import (
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// An Amount is how many orders, and what they hold.
type Amount struct {
	Orders int
	Units  int64   // thousandths
	Told   int     // orders of which the units of some line are known
	Values []int64 // minor units, by the code of the currency; nil where they were not asked for
}

func (a *Amount) add(other Amount, sign int64) {
	a.Orders += int(sign) * other.Orders
	a.Units += sign * other.Units
	a.Told += int(sign) * other.Told
	if a.Values == nil && other.Values != nil {
		a.Values = make([]int64, len(other.Values))
	}
	for c, v := range other.Values {
		a.Values[c] += sign * v
	}
}

// A Row is what was open in a stretch of days. At its start + opened − closed is at its end, in orders, units and values.
type Row struct {
	Days                           day.Span
	AtStart, Opened, Closed, AtEnd Amount
	// SomeTime is open at some time: at the start + opened, less NotOpen, which is empty where the closing day counts. Rows
	// of several stretches overlap in it, and are not added up.
	SomeTime, NotOpen Amount
	// SameDay are orders that closed on the day on which they started, and OnFirst those carried in that closed on the first of the days.
	SameDay, OnFirst int
}

// kinds of what flows, in a step of the axis.
const (
	opened  = iota
	closed  // what left before the order closed counts as well, in units and values
	sameDay // closed on the day it started
	onFirst // closed on the first day of the step, carried in
	kinds
)

// A timeAxis divides the days into steps; step 0 is before them, and the last one after them.
type timeAxis struct {
	low    day.Day
	stepOf []int32   // by day from low on
	firsts []day.Day // of each step but the outer ones; firsts[0] is that of step 1
	steps  int
}

// newTimeAxis makes steps of spans that follow each other, each cut to the first and last of the days asked about.
func newTimeAxis(low, high day.Day, spans []day.Span) timeAxis {
	a := timeAxis{low: min(low, spans[0].From), steps: len(spans) + 2}
	for d := a.low; d < spans[0].From; d++ {
		a.stepOf = append(a.stepOf, 0)
	}
	for i, s := range spans {
		a.firsts = append(a.firsts, s.From)
		for d := s.From; d < s.To; d++ {
			a.stepOf = append(a.stepOf, int32(i+1))
		}
	}
	for d := spans[len(spans)-1].To; d <= high; d++ {
		a.stepOf = append(a.stepOf, int32(len(spans)+1))
	}
	return a
}

func (a *timeAxis) step(d day.Day) int { return int(a.stepOf[d-a.low]) }

// first is the first day of a step but the outer ones; zero for them.
func (a *timeAxis) first(step int) day.Day {
	if step == 0 || step > len(a.firsts) {
		return 0
	}
	return a.firsts[step-1]
}

// A tally is what a worker has counted.
type tally struct {
	*plan
	axis         timeAxis
	dims         int
	parts        *parted // nil where orders alone are counted
	cells        []int64 // group × step × kind × dimension
	lost         []int   // group × Fates
	withoutUnits int
	withoutValue int
	leaves       []leave // of one order
	space        book.GoodsSpace
}

// What lies in the cells beyond orders: units, orders that tell them, then the value of each currency.
const (
	ofUnits = iota + 1
	ofTold
	ofValues
)

// dimensions are orders, then units, orders that tell them, and the value of each currency.
func (p *plan) dimensions(holdings bool) int {
	if !holdings {
		return 1
	}
	return ofValues + len(p.book.Values(book.Currency))
}

// mostCells bounds the table of what flows.
const mostCells = 1 << 23

// tooMany is the error where groups and steps are more than can be counted at once. Without groups it is the days of the
// records that lie too far apart.
func (p *plan) tooMany() error {
	return request.Invalid("by", p.question.ByNames(),
		"there are too many groups for so many steps; want wider steps, a shorter period, or fewer groups")
}

// scan counts what flows in each step, of each group; with holdings in units and values too.
func (p *plan) scan(a timeAxis, holdings bool) (*tally, query.Population, error) {
	if p.scope.Groups*a.steps*kinds*p.dimensions(holdings) > mostCells {
		return nil, query.Population{}, p.tooMany()
	}
	t, population := query.Run(p.scope, p.newTally(a, holdings))
	return t, population, nil
}

// newTally gives what makes an empty tally.
func (p *plan) newTally(a timeAxis, holdings bool) func() *tally {
	var parts *parted
	if holdings {
		parts = newParted(p)
	}
	dims := p.dimensions(holdings)
	return func() *tally {
		return &tally{plan: p, axis: a, dims: dims, parts: parts, cells: make([]int64, p.scope.Groups*a.steps*kinds*dims),
			lost: make([]int, p.scope.Groups*int(PeriodStates))}
	}
}

// Merge adds what another worker has counted.
func (t *tally) Merge(other *tally) {
	for i, n := range other.cells {
		t.cells[i] += n
	}
	for i, n := range other.lost {
		t.lost[i] += n
	}
	t.withoutUnits, t.withoutValue = t.withoutUnits+other.withoutUnits, t.withoutValue+other.withoutValue
}

// Visit counts a stretch.
func (t *tally) Visit(s *query.Stretch) {
	p, a, dims := t.plan, &t.axis, t.dims
	starts, ends, cancelled := s.Block.Columns[p.start].Known[s.From:s.To], s.Block.Columns[p.end].Known[s.From:s.To],
		s.Block.Columns[p.cancelled].Known[s.From:s.To]
	for _, i := range s.Chosen() {
		group, start, close := s.Groups[i], starts[i], ends[i]
		if gone := cancelled[i]; gone != 0 && (close == 0 || gone < close) {
			close = gone
		}
		if start == 0 || close != 0 && close < start || ends[i] != 0 && ends[i] < start {
			t.lost[int(group)*int(PeriodStates)+int(p.life(s.Block, s.From+int(i)).lost)]++
			continue
		}
		cells := t.cells[int(group)*a.steps*kinds*dims:][:a.steps*kinds*dims]
		opening := a.step(start) * kinds * dims
		cells[opening+opened*dims]++
		if close != 0 {
			step := a.step(close)
			closing := step * kinds * dims
			cells[closing+closed*dims]++
			switch {
			case close == start:
				cells[closing+sameDay*dims]++
			case close == a.first(step):
				cells[closing+onFirst*dims]++
			}
		}
		if t.parts != nil {
			t.hold(s.Block, s.From+int(i), OpenInterval{Start: start, Close: close}, cells)
		}
	}
}

// hold counts the units and the value of an order where it opens, where parts of it leave, and where it closes.
func (t *tally) hold(block *book.Block, row int, life OpenInterval, cells []int64) {
	a, dims, parts := &t.axis, t.dims, t.parts
	whole := parts.whole(block, row)
	if !whole.counted {
		t.withoutUnits++
	}
	if !block.Valued[row] {
		t.withoutValue++
	}
	currency := ofValues + int(block.Codes[book.Currency][row])
	add := func(d day.Day, kind int, units, told, value int64) {
		at := (a.step(d)*kinds + kind) * dims
		cells[at+ofUnits] += units
		cells[at+ofTold] += told
		cells[at+currency] += value
	}
	add(life.Start, opened, whole.units, whole.told, whole.value)
	left := leave{}
	t.leaves = parts.leaves(block, row, life, t.leaves, &t.space)
	for _, l := range t.leaves {
		add(l.day, closed, l.units, 0, l.value)
		left.units, left.value = left.units+l.units, left.value+l.value
	}
	if life.Close == 0 {
		return
	}
	add(life.Close, closed, whole.units-left.units, whole.told, whole.value-left.value)
	// What is not open at all on its closing day counts with what it still held.
	switch step := a.step(life.Close); {
	case life.Close == life.Start:
		add(life.Close, sameDay, whole.units-left.units, whole.told, whole.value-left.value)
	case life.Close == a.first(step):
		add(life.Close, onFirst, whole.units-left.units, whole.told, whole.value-left.value)
	}
}

// amount reads cells of one kind.
func amount(cells []int64, dims int) Amount {
	a := Amount{Orders: int(cells[0])}
	if dims > 1 {
		a.Units, a.Told, a.Values = cells[ofUnits], int(cells[ofTold]), slices.Clone(cells[ofValues:dims])
	}
	return a
}

// rows reads the rows of a group: one for each step between the outer ones.
func (t *tally) rows(group int, spans []day.Span) []Row {
	a, dims := &t.axis, t.dims
	cells := t.cells[group*a.steps*kinds*dims:][:a.steps*kinds*dims]
	flow := func(step, kind int) Amount { return amount(cells[(step*kinds+kind)*dims:], dims) }
	stock := flow(0, opened)
	stock.add(flow(0, closed), -1)
	rows := make([]Row, len(spans))
	for i, days := range spans {
		row := Row{Days: days, AtStart: stock, Opened: flow(i+1, opened), Closed: flow(i+1, closed)}
		row.AtStart.Values = slices.Clone(stock.Values)
		stock.add(row.Opened, 1)
		row.SomeTime = stock
		row.SomeTime.Values = slices.Clone(stock.Values)
		if t.question.Out {
			row.NotOpen = flow(i+1, sameDay)
			row.NotOpen.add(flow(i+1, onFirst), 1)
			row.SomeTime.add(row.NotOpen, -1)
		}
		row.SameDay, row.OnFirst = flow(i+1, sameDay).Orders, flow(i+1, onFirst).Orders
		stock.add(row.Closed, -1)
		row.AtEnd = stock
		row.AtEnd.Values = slices.Clone(stock.Values)
		rows[i] = row
	}
	return rows
}

// bounds are the days between which anything of the leg happens, and those that are asked about.
func (p *plan) bounds(days day.Span) (low, high day.Day) {
	low, high = days.From, max(days.LastDay(), p.book.Bounds().DataDate)
	for _, m := range []int{p.start, p.end, p.cancelled} {
		if first, last := p.book.Range(m); first != 0 {
			low, high = min(low, first), max(high, last)
		}
	}
	return low, high
}
