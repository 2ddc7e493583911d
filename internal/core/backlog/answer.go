package backlog

import (
	"cmp"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
)

// A Group is what was open of the orders of a group, in each stretch of days that was asked about.
type Group struct {
	Keys []string
	Step day.Span // where the group is a step of time
	Rows []Row
}

// An Answer says what was open in stretches of days that follow each other, or in the one that was asked about.
type Answer struct {
	Question   Question
	Bounds     period.Bounds
	Names      []string // of the stretches
	Spans      []day.Span
	Groups     []Group
	Total      Group
	Population query.Population
	Unplaced   [PeriodStates]int // by state, of those selected; those that are placed are 0
	// Orders whose units, or whose value, are not known; they count in neither.
	WithoutUnits, WithoutValue int
}

// Placed is how many orders have a life.
func (a Answer) Placed() int {
	placed := a.Population.Asked
	for _, n := range a.Unplaced {
		placed -= n
	}
	return placed
}

// During says what was open in one of the question's periods or, with a cut, in each of its steps, every one there: in
// orders and, with holdings, in units and values too. It is one pass over the orders, and one over the steps. The error is a
// *request.Error.
func During(b *book.Book, q Question, of period.Period, each query.TimeBucket, holdings bool) (Answer, error) {
	names, spans := steps(of, b.Bounds(), each)
	return newPlan(b, q).answer(names, spans, holdings)
}

// steps are those of a period, cut to it and to what is known; without a cut the period is one.
func steps(of period.Period, bounds period.Bounds, each query.TimeBucket) (names []string, spans []day.Span) {
	days, _ := Cut(of, bounds) // Parse has refused what cannot be cut
	if each == query.NoCut {
		return []string{of.Text}, []day.Span{days}
	}
	names, spans = each.Steps(days)
	for i, s := range spans {
		spans[i] = day.Span{From: max(s.From, days.From), To: min(s.To, days.To)}
	}
	return names, spans
}

func (p *plan) answer(names []string, spans []day.Span, holdings bool) (Answer, error) {
	days := day.Span{From: spans[0].From, To: spans[len(spans)-1].To}
	low, high := p.bounds(days)
	t, population, err := p.scan(newTimeAxis(low, high, spans), holdings)
	if err != nil {
		return Answer{}, err
	}
	answer := Answer{Question: p.question, Bounds: p.book.Bounds(), Names: names, Spans: spans, Population: population,
		WithoutUnits: t.withoutUnits, WithoutValue: t.withoutValue}
	answer.Total.Rows = make([]Row, len(spans))
	for i, s := range spans {
		answer.Total.Rows[i].Days = s
	}
	rows, sizes, shown := map[int][]Row{}, map[int]int{}, []int(nil)
	for g := range p.scope.Groups {
		own := t.rows(g, spans)
		lost := t.lost[g*int(PeriodStates):][:PeriodStates]
		for f, n := range lost {
			answer.Unplaced[f] += n
		}
		for i, row := range own {
			answer.Total.Rows[i].add(row)
			sizes[g] = max(sizes[g], row.SomeTime.Orders, row.NotOpen.Orders)
		}
		if sizes[g] > 0 {
			rows[g], shown = own, append(shown, g)
		}
	}
	if len(p.question.By) == 0 {
		return answer, nil
	}
	last := len(spans) - 1
	for _, g := range p.scope.Arrange(shown, func(g int) int { return rows[g][last].AtEnd.Orders }) {
		keys, step := p.scope.Keys(g)
		answer.Groups = append(answer.Groups, Group{keys, step, rows[g]})
	}
	return answer, nil
}

// add adds the row of another group in the same days.
func (r *Row) add(other Row) {
	r.SameDay, r.OnFirst = r.SameDay+other.SameDay, r.OnFirst+other.OnFirst
	for _, pair := range [][2]*Amount{{&r.AtStart, &other.AtStart}, {&r.Opened, &other.Opened}, {&r.Closed, &other.Closed},
		{&r.AtEnd, &other.AtEnd}, {&r.SomeTime, &other.SomeTime}, {&r.NotOpen, &other.NotOpen}} {
		pair[0].add(*pair[1], 1)
	}
}

// A CumulativeFlow is what flowed on each day up to it, over all orders of a book: any days of it are a few look-ups.
type CumulativeFlow struct {
	axis   timeAxis
	dims   int
	before []int64 // step × kind × dimension: what flowed in the step and in all before it
	all    Answer  // what does not depend on the days
}

// NewDaily counts the orders of a leg day by day; groups and conditions play no part.
func NewDaily(b *book.Book, q Question) (*CumulativeFlow, error) {
	q.By, q.Where = nil, query.Where{}
	p := newPlan(b, q)
	low, high := p.bounds(day.Through(b.Bounds().FirstDay, b.Bounds().DataDate))
	_, spans := query.Day.Steps(day.Through(low, high))
	d := &CumulativeFlow{axis: newTimeAxis(low, high, spans), dims: p.dimensions(true)}
	t, population, err := p.scan(d.axis, true)
	if err != nil {
		return nil, err
	}
	d.before = t.cells
	for i := kinds * d.dims; i < len(d.before); i++ {
		d.before[i] += d.before[i-kinds*d.dims]
	}
	d.all = Answer{Bounds: b.Bounds(), Population: population, WithoutUnits: t.withoutUnits, WithoutValue: t.withoutValue}
	copy(d.all.Unplaced[:], t.lost)
	return d, nil
}

// Answer says what was open in one of a question's periods, or in each of its steps, with holdings in units and values too.
// The question has neither groups nor a condition.
func (d *CumulativeFlow) Answer(q Question, of period.Period, each query.TimeBucket, holdings bool) Answer {
	a := d.all
	a.Question = q
	a.Names, a.Spans = steps(of, a.Bounds, each)
	dims := 1
	if holdings {
		dims = d.dims
	} else {
		a.WithoutUnits, a.WithoutValue = 0, 0
	}
	for _, s := range a.Spans {
		a.Total.Rows = append(a.Total.Rows, d.during(s, q.Out, dims))
	}
	return a
}

// during is the row of days, of so many dimensions.
func (d *CumulativeFlow) during(days day.Span, out bool, dims int) Row {
	upTo := func(at day.Day, kind int) Amount {
		step := max(0, min(int(at-d.axis.low)+1, d.axis.steps-1)) // each day is a step of its own
		return amount(d.before[(step*kinds+kind)*d.dims:], dims)
	}
	less := func(a, b Amount) Amount { a.add(b, -1); return a }
	and := func(a, b Amount) Amount { a.add(b, 1); return a }
	stock := func(at day.Day) Amount { return less(upTo(at, opened), upTo(at, closed)) }
	first, last := days.From, days.LastDay()
	in := func(kind int) Amount { return less(upTo(last, kind), upTo(first-1, kind)) }
	row := Row{Days: days, AtStart: stock(first - 1), Opened: in(opened), Closed: in(closed), AtEnd: stock(last)}
	row.SomeTime = and(stock(first-1), row.Opened)
	// On a step of one day, all that was carried in and closed on it closed on its first day.
	onFirstDay := less(upTo(first, onFirst), upTo(first-1, onFirst))
	row.SameDay, row.OnFirst = in(sameDay).Orders, onFirstDay.Orders
	if out {
		row.NotOpen = and(in(sameDay), onFirstDay)
		row.SomeTime.add(row.NotOpen, -1)
	}
	return row
}

// Ages are how old what was open at the end of a day was.
type Ages struct {
	Keys   []string
	Step   day.Span
	Ages   distribution.Distribution // in ticks of the unit
	Untold int                       // the unit asks for an instant
}

// Buckets counts the ages up to each limit, and those over the last.
func (a Ages) Buckets(limits []int) []int {
	buckets := make([]int, len(limits)+1)
	for _, bar := range a.Ages {
		i, _ := slices.BinarySearch(limits, bar.Length)
		buckets[i] += bar.Orders
	}
	return buckets
}

// An ageTally is what one worker has counted of ages at the end of a day.
type ageTally struct {
	*plan
	at     day.Day
	by     []map[int]int // by group
	untold []int
}

// Visit counts a stretch.
func (t *ageTally) Visit(s *query.Stretch) {
	for _, i := range s.Chosen() {
		row, group := s.From+int(i), s.Groups[i]
		if !t.life(s.Block, row).OpenAt(t.at) {
			continue
		}
		if age, told := t.reader.Until(s.Block, row, t.at); told {
			t.count(int(group), age, 1)
		} else {
			t.untold[group]++
		}
	}
}

func (t *ageTally) count(group, age, orders int) {
	if t.by[group] == nil {
		t.by[group] = map[int]int{}
	}
	t.by[group][age] += orders
}

// Merge adds what another worker has counted.
func (t *ageTally) Merge(other *ageTally) {
	for g, ages := range other.by {
		for age, orders := range ages {
			t.count(g, age, orders)
		}
		t.untold[g] += other.untold[g]
	}
}

// At says how old what was open at the end of a day was, by group, the largest first.
func At(b *book.Book, q Question, at day.Day) (groups []Ages, total Ages) {
	p := newPlan(b, q)
	n := p.scope.Groups
	t, _ := query.Run(p.scope, func() *ageTally { return &ageTally{p, at, make([]map[int]int, n), make([]int, n)} })
	by, sizes, shown, all := map[int]Ages{}, map[int]int{}, []int(nil), []distribution.Distribution(nil)
	for g := range n {
		total.Untold += t.untold[g]
		if ages := distribution.Of(t.by[g]); len(ages) > 0 || t.untold[g] > 0 {
			keys, step := p.scope.Keys(g)
			by[g], sizes[g], shown, all = Ages{keys, step, ages, t.untold[g]}, ages.Orders()+t.untold[g], append(shown, g),
				append(all, ages)
		}
	}
	total.Ages = distribution.Merged(all...)
	if len(q.By) > 0 {
		for _, g := range p.scope.Arrange(shown, func(g int) int { return sizes[g] }) {
			groups = append(groups, by[g])
		}
	}
	return groups, total
}

// A AgeMix is how many of those open at the end of a step are of each bucket of ages.
type AgeMix struct {
	Days    day.Span
	Buckets []int
}

// AgesOverTime says how the mix of ages developed over the steps of a period: one pass over the orders, each of which
// changes its bucket a few times in its life.
func AgesOverTime(b *book.Book, q Question, of period.Period, each query.TimeBucket, limits []int) []AgeMix {
	q.By = nil
	p := newPlan(b, q)
	_, spans := steps(of, b.Bounds(), each)
	low, high := p.bounds(day.Span{From: spans[0].From, To: spans[len(spans)-1].To})
	axis := newTimeAxis(low, high+1, spans)
	buckets := len(limits) + 1
	older := newOlder(p, limits, low, high)
	t, _ := query.Run(p.scope, func() *mixTally {
		return &mixTally{plan: p, axis: axis, older: older, buckets: buckets, changes: make([]int, axis.steps*buckets)}
	})
	stock := make([]int, buckets)
	mixes := make([]AgeMix, len(spans))
	for step := range len(spans) + 1 {
		for k := range stock {
			stock[k] += t.changes[step*buckets+k]
		}
		if step > 0 {
			mixes[step-1] = AgeMix{spans[step-1], slices.Clone(stock)}
		}
	}
	return mixes
}

// A mixTally is what one worker has counted of how orders change their buckets of ages.
type mixTally struct {
	*plan
	axis    timeAxis
	older   *older
	buckets int
	changes []int // step × bucket
}

// Visit counts a stretch.
func (t *mixTally) Visit(s *query.Stretch) {
	for _, i := range s.Chosen() {
		life := t.life(s.Block, s.From+int(i))
		if life.Start == 0 {
			continue
		}
		close := life.Close
		if close == 0 {
			close = t.older.high + 1
		}
		for k, from := 0, life.Start; k < t.buckets && from < close; k++ {
			to := close
			if k < t.buckets-1 {
				to = min(close, t.older.day(s.Calendars[i], life.Start, k))
			}
			if from < to {
				t.changes[t.axis.step(from)*t.buckets+k]++
				t.changes[t.axis.step(to)*t.buckets+k]--
			}
			from = max(from, to)
		}
	}
}

// Merge adds what another worker has counted.
func (t *mixTally) Merge(other *mixTally) {
	for i, n := range other.changes {
		t.changes[i] += n
	}
}

// older says from which day on an order is older than a limit: it depends on its start and its calendar alone.
type older struct {
	p      *plan
	limits []int
	low    day.Day
	high   day.Day
	tables [][]day.Day // by local code: start × limit; shared by those of one calendar
}

func newOlder(p *plan, limits []int, low, high day.Day) *older {
	o := &older{p: p, limits: limits, low: low, high: high}
	tables := map[any][]day.Day{}
	measure := p.question.Measure
	locals := p.book.Locals(p.question.Calendar)
	for _, own := range locals {
		c := measure.Calendar(own.Calendar)
		table, made := tables[c]
		if !made {
			for start := low; start <= high; start++ {
				for _, limit := range limits {
					table = append(table, firstOver(measure, own, start, limit, high))
				}
			}
			tables[c] = table
		}
		o.tables = append(o.tables, table)
	}
	return o
}

// firstOver is the first day on which a length from a start is over a limit; the day after the last one where none is. A
// length never shrinks from day to day.
func firstOver(m leg.Measure, own book.SiteCalendar, start day.Day, limit int, high day.Day) day.Day {
	first, last := start, high+1
	for first < last {
		middle := first + (last-first)/2
		length, _ := m.Length(own.Local, leg.Stretch{Start: start, End: middle})
		if length > limit {
			last = middle
		} else {
			first = middle + 1
		}
	}
	return first
}

// day is that on which an order becomes older than limit k.
func (o *older) day(local uint32, start day.Day, k int) day.Day {
	return min(o.high+1, o.tables[local][int(start-o.low)*len(o.limits)+k])
}

// A TimelineRow is one order over the days.
type TimelineRow struct {
	Row  int // in the book
	Life OpenInterval
	Fate PeriodState
	// Age is its length up to its close or to the data date, in ticks; false in Told where the unit asks for an instant.
	Age  int
	Told bool
}

// The ways in which lanes can be sorted: the earliest start first; what is open at the end of the period first, the oldest of
// it before all; the longest first.
const (
	ByStart  = "start"
	ByAge    = "age"
	ByLength = "length"
)

// A laneTally is what one worker has listed.
type laneTally struct {
	*plan
	days  day.Span
	lanes []agedRow
}

type agedRow struct {
	TimelineRow
	age int // at the end of the period; −1 of what is not open then
}

// Visit lists the orders of a stretch that were open in the period.
func (t *laneTally) Visit(s *query.Stretch) {
	for _, i := range s.Chosen() {
		o := s.Offset(int(i))
		life := t.life(o.Block, o.At)
		if !life.OpenIn(t.days, t.question.Out) {
			continue
		}
		l := agedRow{TimelineRow{Row: o.Row, Life: life, Fate: life.State(t.days)}, -1}
		l.Age, l.Told = t.reader.Until(o.Block, o.At, cmp.Or(life.Close, t.book.Bounds().DataDate))
		if life.OpenAt(t.days.LastDay()) {
			l.age, _ = t.reader.Until(o.Block, o.At, t.days.LastDay())
		}
		t.lanes = append(t.lanes, l)
	}
}

// Merge takes in what another worker has listed.
func (t *laneTally) Merge(other *laneTally) { t.lanes = append(t.lanes, other.lanes...) }

// Lanes lists the orders that were open at some time in the question's first period, sorted in one of the ways, then by
// start, then as they stand in the book.
func Lanes(b *book.Book, q Question, by string) []TimelineRow {
	p := newPlan(b, q)
	days, _ := Cut(q.Periods[0], b.Bounds())
	t, _ := query.Run(p.scope, func() *laneTally { return &laneTally{plan: p, days: days} })
	slices.SortFunc(t.lanes, func(x, y agedRow) (order int) {
		switch by {
		case ByAge:
			order = cmp.Compare(y.age, x.age)
		case ByLength:
			order = cmp.Compare(y.Age, x.Age)
		}
		return cmp.Or(order, cmp.Compare(x.Life.Start, y.Life.Start), cmp.Compare(x.Row, y.Row))
	})
	sorted := make([]TimelineRow, len(t.lanes))
	for i, l := range t.lanes {
		sorted[i] = l.TimelineRow
	}
	return sorted
}

// An anyTally counts the orders for which something holds.
type anyTally struct {
	*plan
	holds  func(OpenInterval) bool
	orders int
}

// Visit counts a stretch.
func (t *anyTally) Visit(s *query.Stretch) {
	for _, i := range s.Chosen() {
		if t.holds(t.life(s.Block, s.From+int(i))) {
			t.orders++
		}
	}
}

// Merge adds what another worker has counted.
func (t *anyTally) Merge(other *anyTally) { t.orders += other.orders }

// Together is how many orders were open at some time in any of the question's periods, each counted once: the periods' own
// numbers overlap, and never add up to it.
func Together(b *book.Book, q Question) (orders int) {
	p := newPlan(b, q)
	t, _ := query.Run(p.scope, func() *anyTally { return &anyTally{plan: p, holds: p.someTime()} })
	return t.orders
}

// someTime says whether an order was open at some time in any of the question's periods.
func (p *plan) someTime() func(l OpenInterval) bool {
	spans := make([]day.Span, len(p.question.Periods))
	for i, of := range p.question.Periods {
		spans[i], _ = Cut(of, p.book.Bounds()) // Parse has refused what cannot be cut
	}
	return func(l OpenInterval) bool {
		return slices.ContainsFunc(spans, func(days day.Span) bool { return l.OpenIn(days, p.question.Out) })
	}
}
