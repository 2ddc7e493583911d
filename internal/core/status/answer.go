package status

import (
	"maps"
	"slices"
	"sort"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/statuses"
)

// A Cell is what status periods of one kind come to.
type Cell struct {
	Count      int // status periods, transitions or returns; of where orders stand, orders
	Orders     int // that have some
	Running    int // status periods that are their orders' last, and have not ended
	Unmeasured int // without a length: at their end, or without a time of day where the unit wants one
	Ticks      int // all lengths together
	Lengths    distribution.Distribution
	counts     map[int]int
}

// measure adds a length.
func (c *Cell) measure(ticks int, told bool) {
	if !told {
		c.Unmeasured++
		return
	}
	if c.counts == nil {
		c.counts = map[int]int{}
	}
	c.counts[ticks]++
	c.Ticks += ticks
}

func (c *Cell) add(other *Cell) {
	if other == nil {
		return
	}
	c.Count, c.Orders, c.Running, c.Unmeasured, c.Ticks = c.Count+other.Count, c.Orders+other.Orders, c.Running+other.Running,
		c.Unmeasured+other.Unmeasured, c.Ticks+other.Ticks
	if c.counts == nil && len(other.counts) > 0 {
		c.counts = map[int]int{}
	}
	for ticks, n := range other.counts {
		c.counts[ticks] += n
	}
}

// settle makes the distribution from what was counted.
func (c *Cell) settle() {
	c.Lengths = nil
	for ticks, n := range c.counts {
		c.Lengths = append(c.Lengths, distribution.Bar{Length: ticks, Orders: n})
	}
	slices.SortFunc(c.Lengths, func(a, b distribution.Bar) int { return a.Length - b.Length })
}

// A Group is what the orders, or the status periods, of one group come to.
type Group struct {
	Keys     []string
	Step     day.Span // of a cut of time
	Orders   int      // asked about; of steps of time, those with a status period that begins in it
	NoStatus int      // without a record
	Cells    []Cell   // by status
}

// RecordCounts are orders whose records clash, whose two sources do, and which have a daily list only.
type RecordCounts struct{ Ambiguous, Disagreeing, ByDaily int }

// count counts what is to be known of the records of an order.
func (c *RecordCounts) count(h *statuses.History, o asked) {
	if o.flags&statuses.Ambiguous != 0 {
		c.Ambiguous++
	}
	if o.flags&statuses.FromDaily != 0 {
		c.ByDaily++
	}
	if o.flags&statuses.BothSources != 0 && len(h.Disagreements(o.Block, o.At)) > 0 {
		c.Disagreeing++
	}
}

func (c *RecordCounts) add(o RecordCounts) {
	c.Ambiguous, c.Disagreeing, c.ByDaily = c.Ambiguous+o.Ambiguous, c.Disagreeing+o.Disagreeing, c.ByDaily+o.ByDaily
}

// An Answer says for each group and status how many there are, and for how long.
type Answer struct {
	Population query.Population
	Groups     []Group // nil where nothing is grouped
	Total      Group
	RecordCounts
	// Decided divides the status periods that began in the question's period by its condition on them.
	Decided query.PartCounts
}

// An asked order is one that the question asks about, while it is looked at.
type asked struct {
	book.Offset
	group    int
	calendar book.SiteCalendar
	own      []statuses.Period // its status periods
	flags    statuses.Flag
	met      []predicate.Truth // of its status periods; nil where no condition picks some
}

// length is that of a status period of an order; false where it has none.
func (q Question) length(h *statuses.History, o asked, at int) (ticks int, told bool) {
	if h.Rules.Ends(o.own[at]) {
		return 0, false
	}
	return q.between(o, statuses.Stretch(o.own, at, h.Rules.DataDate))
}

// between is the length of a stretch of an order's days; false where the unit asks for what is not known.
func (q Question) between(o asked, s leg.Stretch) (ticks int, told bool) {
	ticks, state := q.Measure.Length(o.calendar.Local, s)
	return ticks, state == leg.Complete
}

// begun says whether a status period begins in the period that is asked about.
func (q Question) begun(s statuses.Period) bool {
	return q.Periods[0].Unbounded() || q.Periods[0].Span.Holds(s.From)
}

// A tally is what one worker has counted.
type tally struct {
	*run
	visit        func(t *tally, o asked)
	cells        map[int]*Cell
	orders, none map[int]int // by group
	records      RecordCounts
	paths        map[string]*Path
	decided      query.PartCounts
}

func (t *tally) cell(at int) *Cell {
	c := t.cells[at]
	if c == nil {
		c = &Cell{}
		t.cells[at] = c
	}
	return c
}

// Merge adds what another worker has counted.
func (t *tally) Merge(other *tally) {
	for at, c := range other.cells {
		t.cell(at).add(c)
	}
	for g, n := range other.orders {
		t.orders[g] += n
	}
	for g, n := range other.none {
		t.none[g] += n
	}
	t.records.add(other.records)
	t.decided.Add(other.decided)
	for key, path := range other.paths {
		t.path(key, path.Statuses).add(path)
	}
}

// A run is a question that is asked of a history: its period places status periods, and not orders.
type run struct {
	history  *statuses.History
	scope    *query.Scope
	question Question
	picked   picked
}

func newRun(h *statuses.History, q Question) *run {
	return &run{h, query.WholeBook(h.Book(), q.Question), q, q.picked(h)}
}

// each shows the orders of a stretch.
func (r *run) each(s *query.Stretch, show func(o asked)) {
	calendars, h := r.history.Book().Locals(r.question.Calendar), r.history
	for _, i := range s.Chosen() {
		o := s.Offset(int(i))
		show(asked{o, int(s.Groups[i]), calendars[s.Calendars[i]], h.Periods(o.Block, o.At), h.Flags(o.Block, o.At),
			r.picked.of(h, o.Block, o.At)})
	}
}

// Visit counts a stretch.
func (t *tally) Visit(s *query.Stretch) {
	t.each(s, func(o asked) {
		t.records.count(t.history, o)
		t.visit(t, o)
	})
}

// count shows the orders that the question is about, and adds up what is counted.
func (r *run) count(visit func(t *tally, o asked)) (*tally, query.Population) {
	return query.Run(r.scope, func() *tally { return r.newTally(visit) })
}

func (r *run) newTally(visit func(t *tally, o asked)) *tally {
	return &tally{run: r, visit: visit, cells: map[int]*Cell{}, orders: map[int]int{}, none: map[int]int{}, paths: map[string]*Path{}}
}

// Latest says where orders stood at the end of the question's day, and for how long by then.
func Latest(h *statuses.History, q Question) Answer {
	r := newRun(h, q)
	return r.answer(r.count(r.latest))
}

func (r *run) latest(t *tally, o asked) {
	t.orders[o.group]++
	at := statuses.Holding(o.own, r.question.At)
	if at < 0 {
		t.none[o.group]++
		return
	}
	stood := o.own[at]
	stood.Until = 0 // what follows is not known by then
	c := t.cell(o.group*len(r.history.Statuses) + int(stood.Status))
	c.Count++
	c.Orders++
	if !r.history.Rules.Ends(stood) {
		c.Running++
		c.measure(r.question.between(o, leg.Stretch{Start: stood.From, StartAt: stood.FromAt, End: r.question.At}))
	} else {
		c.Unmeasured++
	}
}

// Times says how long orders were in each status, by the status periods that began in the question's period.
func Times(h *statuses.History, q Question) Answer {
	if q.Each != query.NoCut {
		return timesEach(h, q)
	}
	r := newRun(h, q)
	return r.answer(r.count(r.times))
}

func (r *run) times(t *tally, o asked) {
	t.orders[o.group]++
	if len(o.own) == 0 {
		t.none[o.group]++
	}
	measure(r.history, t, r.question, o, func(statuses.Period) int { return o.group })
}

// timesEach is Times by the step of time in which status periods began. An order that has some in several steps counts in each,
// and once in the total.
func timesEach(h *statuses.History, q Question) Answer {
	whole := q
	whole.Each = query.NoCut
	a := Times(h, whole)
	names, spans := q.Each.Steps(axis(h, q))
	t, _ := newRun(h, q).count(func(t *tally, o asked) {
		last := -1
		measure(h, t, q, o, func(s statuses.Period) int {
			step := sort.Search(len(spans), func(i int) bool { return spans[i].To > s.From })
			if step != last {
				t.orders[step]++ // status periods come in the order of their days
			}
			last = step
			return step
		})
	})
	cells := settled(h, t)
	for step, name := range names {
		a.Groups = append(a.Groups, Group{Keys: []string{name}, Step: spans[step], Orders: t.orders[step], Cells: cells(step)})
	}
	return a
}

// measure counts the status periods of an order that began in the period, each under the group that it belongs to.
func measure(h *statuses.History, t *tally, q Question, o asked, groupOf func(statuses.Period) int) {
	var space [8]int
	visited := space[:0]
	for i, s := range o.own {
		if !q.begun(s) || !counts(&t.decided, o.met, i) {
			continue
		}
		at := groupOf(s)*len(h.Statuses) + int(s.Status)
		c := t.cell(at)
		c.Count++
		if !slices.Contains(visited, at) {
			c.Orders++
			visited = append(visited, at)
		}
		if s.Until == 0 && !h.Rules.Ends(s) {
			c.Running++
		}
		c.measure(q.length(h, o, i))
	}
}

// axis are the days over which status periods are shown by time: those of the period, or from the first one to the data date.
func axis(h *statuses.History, q Question) day.Span {
	bounds := h.Book().Bounds()
	if !q.Periods[0].Unbounded() {
		return day.Through(q.Periods[0].Span.From, min(q.Periods[0].Span.LastDay(), bounds.DataDate))
	}
	first := bounds.FirstDay
	if low, _ := h.Range(); low != 0 {
		first = min(first, low)
	}
	return day.Through(first, bounds.DataDate)
}

// settled gives the cells of each group with their distributions.
func settled(h *statuses.History, t *tally) func(group int) []Cell {
	byGroup := map[int][]Cell{}
	for at, c := range t.cells {
		group, status := at/len(h.Statuses), at%len(h.Statuses)
		if byGroup[group] == nil {
			byGroup[group] = make([]Cell, len(h.Statuses))
		}
		c.settle()
		byGroup[group][status] = *c
	}
	return func(group int) []Cell {
		if byGroup[group] == nil {
			return make([]Cell, len(h.Statuses))
		}
		return byGroup[group]
	}
}

// answer arranges what was counted by the groups of the question; each order lies in one of them.
func (r *run) answer(t *tally, population query.Population) Answer {
	h := r.history
	a := Answer{Population: population, RecordCounts: t.records, Decided: t.decided}
	a.Total = Group{Orders: population.Asked, Cells: make([]Cell, len(h.Statuses))}
	for _, n := range t.none {
		a.Total.NoStatus += n
	}
	for at, c := range t.cells {
		a.Total.Cells[at%len(h.Statuses)].add(c)
	}
	for i := range a.Total.Cells {
		a.Total.Cells[i].settle()
	}
	if len(r.question.By) == 0 {
		return a
	}
	cells := settled(h, t)
	shown := slices.Collect(maps.Keys(t.orders))
	for _, group := range r.scope.Arrange(shown, func(group int) int { return t.orders[group] }) {
		keys, step := r.scope.Keys(group)
		a.Groups = append(a.Groups, Group{keys, step, t.orders[group], t.none[group], cells(group)})
	}
	return a
}
