package status

import (
	"cmp"
	"maps"
	"slices"
	"sort"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/stays"
	"prairiedusk/internal/core/summary"
)

// A Cell is what stays of one kind come to.
type Cell struct {
	Count      int // stays, moves or returns; of where orders stand, orders
	Orders     int // that have some
	Running    int // stays that are their orders' last, and have not ended
	Unmeasured int // without a length: at their end, or without a time of day where the unit wants one
	Ticks      int // all lengths together
	Lengths    summary.Distribution
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
	c.Count, c.Orders, c.Running, c.Unmeasured, c.Ticks = c.Count+other.Count, c.Orders+other.Orders, c.Running+other.Running, c.Unmeasured+other.Unmeasured, c.Ticks+other.Ticks
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
		c.Lengths = append(c.Lengths, summary.Bar{Length: ticks, Orders: n})
	}
	slices.SortFunc(c.Lengths, func(a, b summary.Bar) int { return a.Length - b.Length })
}

// A Group is what the orders, or the stays, of one group come to.
type Group struct {
	Keys     []string
	Step     day.Span // of a cut of time
	Orders   int      // asked about; of steps of time, those with a stay that begins in it
	NoStatus int      // without a record
	Cells    []Cell   // by status
}

// Placement says how the condition divides the book: InBook = Asked + Unmet + Undecided.
type Placement struct {
	InBook, Asked, Unmet, Undecided int
	Lacking                         summary.Lacks
}

// An Answer says for each group and status how many there are, and for how long.
type Answer struct {
	Placement Placement
	Groups    []Group // nil where nothing is grouped
	Total     Group
	// Ambiguous and Disagreeing are orders whose records clash, and whose two sources do.
	Ambiguous, Disagreeing, ByDaily int
}

// An asked order is one that the question asks about, while it is looked at.
type asked struct {
	block *book.Block
	row   int // of the block
	group int
	local book.SiteCalendar
	own   []stays.Stay // its stays
	flags stays.Flag
}

// length is that of a stay of an order; false where it has none.
func (q Question) length(h *stays.History, o asked, at int) (ticks int, told bool) {
	if h.Rules.Ends(o.own[at]) {
		return 0, false
	}
	return q.between(o, stays.Stretch(o.own, at, h.Rules.DataDate))
}

// between is the length of a stretch of an order's days; false where the unit asks for what is not known.
func (q Question) between(o asked, s leg.Stretch) (ticks int, told bool) {
	ticks, state := q.Measure.Length(o.local.Local, s)
	return ticks, state == leg.Complete
}

// begun says whether a stay begins in the period that is asked about.
func (q Question) begun(s stays.Stay) bool {
	return q.Periods[0].Unbounded() || q.Periods[0].Span.Holds(s.From)
}

// A tally is what one worker has counted.
type tally struct {
	Placement
	cells                           map[int]*Cell
	orders, none                    map[int]int // by group
	ambiguous, disagreeing, byDaily int
	paths                           map[string]*Path
}

func newTally() *tally {
	return &tally{cells: map[int]*Cell{}, orders: map[int]int{}, none: map[int]int{}, paths: map[string]*Path{}}
}

func (t *tally) cell(at int) *Cell {
	c := t.cells[at]
	if c == nil {
		c = &Cell{}
		t.cells[at] = c
	}
	return c
}

func (t *tally) add(other *tally) {
	t.Placement.add(other.Placement)
	for at, c := range other.cells {
		t.cell(at).add(c)
	}
	for g, n := range other.orders {
		t.orders[g] += n
	}
	for g, n := range other.none {
		t.none[g] += n
	}
	t.ambiguous, t.disagreeing, t.byDaily = t.ambiguous+other.ambiguous, t.disagreeing+other.disagreeing, t.byDaily+other.byDaily
	for key, path := range other.paths {
		t.path(key, path.Statuses).add(path)
	}
}

// count shows the orders that the question asks about, split over the processors, and adds up what is counted.
func count(h *stays.History, g *summary.Grouper, q Question, visit func(t *tally, o asked)) *tally {
	tallies := walk(h, g, q, newTally, func(t *tally, o asked) {
		if o.flags&stays.Ambiguous != 0 {
			t.ambiguous++
		}
		if o.flags&stays.FromDaily != 0 {
			t.byDaily++
		}
		if o.flags&stays.BothSources != 0 && len(h.Disagreements(o.block, o.row)) > 0 {
			t.disagreeing++
		}
		visit(t, o)
	})
	for _, t := range tallies[1:] {
		tallies[0].add(t)
	}
	tallies[0].Placement = tallies[0].Placement.settled()
	return tallies[0]
}

// walk shows the orders that the question asks about, split over the processors, and places all others.
func walk[A interface{ placement() *Placement }](h *stays.History, g *summary.Grouper, q Question, fresh func() A, visit func(a A, o asked)) []A {
	locals := h.Book().Locals(q.Side)
	return summary.Walk(g, fresh, func(a A, c summary.Chunk) {
		p := a.placement()
		for i, truth := range c.Truths {
			row := c.From + i
			switch truth {
			case predicate.True:
				p.Asked++
				visit(a, asked{c.Block, row, int(c.Groups[i]), locals[c.Locals[i]], h.Stays(c.Block, row), h.Flags(c.Block, row)})
			case predicate.False:
				p.Unmet++
			default:
				p.Undecided++
				p.lack(g.Lacks(c.Block, row), 1)
			}
		}
	})
}

func (t *tally) placement() *Placement { return &t.Placement }

// settled adds the placement up and sorts what the undecided lack.
func (p Placement) settled() Placement {
	p.InBook = p.Asked + p.Unmet + p.Undecided
	slices.SortFunc(p.Lacking, func(a, b summary.Lack) int {
		return cmp.Or(cmp.Compare(b.Orders, a.Orders), cmp.Compare(a.Name, b.Name))
	})
	return p
}

func (p *Placement) lack(name string, orders int) {
	for i := range p.Lacking {
		if p.Lacking[i].Name == name {
			p.Lacking[i].Orders += orders
			return
		}
	}
	p.Lacking = append(p.Lacking, summary.Lack{Name: name, Orders: orders})
}

func (p *Placement) add(other Placement) {
	p.Asked, p.Unmet, p.Undecided = p.Asked+other.Asked, p.Unmet+other.Unmet, p.Undecided+other.Undecided
	for _, l := range other.Lacking {
		p.lack(l.Name, l.Orders)
	}
}

// Latest says where orders stood at the end of the question's day, and for how long by then.
func Latest(h *stays.History, q Question) Answer {
	g := summary.NewGrouper(h.Book(), q.Question)
	t := count(h, g, q, func(t *tally, o asked) {
		t.orders[o.group]++
		at := stays.Holding(o.own, q.At)
		if at < 0 {
			t.none[o.group]++
			return
		}
		stay := o.own[at]
		stay.Until = 0 // what follows is not known by then
		c := t.cell(o.group*len(h.Statuses) + int(stay.Status))
		c.Count++
		c.Orders++
		if !h.Rules.Ends(stay) {
			c.Running++
			c.measure(q.between(o, leg.Stretch{Start: stay.From, StartAt: stay.FromAt, End: q.At}))
		} else {
			c.Unmeasured++
		}
	})
	return answer(h, g, q, t)
}

// Times says how long orders were in each status, by the stays that began in the question's period.
func Times(h *stays.History, q Question) Answer {
	if q.Each != summary.NoCut {
		return timesEach(h, q)
	}
	g := summary.NewGrouper(h.Book(), q.Question)
	return answer(h, g, q, count(h, g, q, func(t *tally, o asked) {
		t.orders[o.group]++
		if len(o.own) == 0 {
			t.none[o.group]++
		}
		measure(h, t, q, o, func(stays.Stay) int { return o.group })
	}))
}

// timesEach is Times by the step of time in which stays began. An order that has stays in several steps counts in each, and
// once in the total.
func timesEach(h *stays.History, q Question) Answer {
	whole := q
	whole.Each = summary.NoCut
	a := Times(h, whole)
	names, spans := q.Each.Steps(axis(h, q))
	t := count(h, summary.NewGrouper(h.Book(), whole.Question), q, func(t *tally, o asked) {
		last := -1
		measure(h, t, q, o, func(s stays.Stay) int {
			step := sort.Search(len(spans), func(i int) bool { return spans[i].To > s.From })
			if step != last {
				t.orders[step]++ // stays come in the order of their days
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

// measure counts the stays of an order that began in the period, each under the group that it belongs to.
func measure(h *stays.History, t *tally, q Question, o asked, groupOf func(stays.Stay) int) {
	var space [8]int
	visited := space[:0]
	for i, s := range o.own {
		if !q.begun(s) {
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

// axis are the days over which stays are shown by time: those of the period, or from the first stay to the data date.
func axis(h *stays.History, q Question) day.Span {
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
func settled(h *stays.History, t *tally) func(group int) []Cell {
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
func answer(h *stays.History, g *summary.Grouper, q Question, t *tally) Answer {
	a := Answer{Placement: t.Placement, Ambiguous: t.ambiguous, Disagreeing: t.disagreeing, ByDaily: t.byDaily}
	a.Total = Group{Orders: t.Asked, Cells: make([]Cell, len(h.Statuses))}
	for _, n := range t.none {
		a.Total.NoStatus += n
	}
	for at, c := range t.cells {
		a.Total.Cells[at%len(h.Statuses)].add(c)
	}
	for i := range a.Total.Cells {
		a.Total.Cells[i].settle()
	}
	if len(q.By) == 0 {
		return a
	}
	cells := settled(h, t)
	shown := slices.Collect(maps.Keys(t.orders))
	for _, group := range g.Arrange(shown, func(group int) int { return t.orders[group] }) {
		keys, step := g.Keys(group)
		a.Groups = append(a.Groups, Group{keys, step, t.orders[group], t.none[group], cells(group)})
	}
	return a
}
