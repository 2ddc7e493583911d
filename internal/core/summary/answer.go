package summary

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/work"
)

// An Answer is what a question comes to, one part for each of its periods.
type Answer struct {
	Question Question
	Bounds   period.Bounds
	Version  int64
	Parts    []Part
}

// A Part is the answer for one period.
type Part struct {
	Period    period.Period
	Placement Placement
	Lacking   Lacks // what the undecided lack
	// Groups are in time order for a cut; else the longest mean comes first and groups that count nothing
	// come last. Nil where the question has no grouping.
	Groups []Group
	// Rows and Columns are what the groups of one key of the first, or of the second, of two groupings come to together.
	Rows, Columns []Group
	Total         Group
	Legs          []LegPart // of a chain, in its order
	// BeginsUntil is the day before which orders begun before the book are missing, where the basis is later than the
	// leg's start; zero where none are.
	BeginsUntil day.Day
	Notes       []Note
}

// Placement says how the period and the condition divide the book: InBook = Asked + Outside + Undated + Unmet +
// Undecided.
type Placement struct {
	InBook    int
	Asked     int
	Outside   int // basis day outside the period
	Undated   int // no known basis day
	Unmet     int // in the period, and not as the condition asks
	Undecided int // in the period, and without what the condition asks about
}

// A Lack is how many orders lack one thing that the condition asks about.
type Lack struct {
	Name   string
	Orders int
}

// Lacks are what undecided orders lack, the most first.
type Lacks []Lack

// LacksOf sorts counts of what orders lack.
func LacksOf(counts map[string]int) (lacks Lacks) {
	for name, orders := range counts {
		lacks = append(lacks, Lack{name, orders})
	}
	slices.SortFunc(lacks, func(a, b Lack) int { return cmp.Or(cmp.Compare(b.Orders, a.Orders), cmp.Compare(a.Name, b.Name)) })
	return lacks
}

// Orders is how many are undecided.
func (l Lacks) Orders() (orders int) {
	for _, lack := range l {
		orders += lack.Orders
	}
	return orders
}

// Words say that orders are undecided, and what they lack.
func (l Lacks) Words() string {
	terms := make([]string, len(l))
	for i, lack := range l {
		terms[i] = fmt.Sprintf("%s without `%s`", numfmt.Count(lack.Orders), lack.Name)
	}
	return "undecided (" + strings.Join(terms, ", ") + ")"
}

// A Group is a set of orders and the lengths of those that count.
type Group struct {
	Keys            []string // by grouping; empty text is "none"
	Orders          int      // asked about
	States          StateCounts
	Lengths         Distribution
	HolidaysUnknown int            // lengths that leave the coverage of their calendar
	ByDefault       int            // lengths counted by the default calendar, as a stand-in
	Waiting         *Waiting       // nil where the question does not ask for it
	Kept            *Kept          // nil where the question does not ask for it
	Every           CompletedChain // of a chain
	// Step are the days of the step of time in which the group's orders are placed; zero where no grouping cuts time.
	Step day.Span
}

// Stepped is the milestone whose days a group's step of time is of: that which a grouping cuts, or else the basis.
func (q Question) Stepped() milestone.Milestone {
	m := q.Basis
	for _, g := range q.By {
		if g.Cut != NoCut && g.of != nil {
			m = *g.of
		}
	}
	return m
}

// InBook says whether the records can hold something of a group's step of time: by a fact, nothing after the data date is in
// the book.
func (p Part) InBook(g Group, q Question, bounds period.Bounds) bool {
	bounds = bounds.By(q.Stepped())
	return g.Step.From == 0 || g.Step.LastDay() >= bounds.FirstDay && g.Step.From <= bounds.DataDate
}

// Cut says that the records, or the period that was asked about, do not cover a group's step of time whole.
func (p Part) Cut(g Group, q Question, bounds period.Bounds) bool {
	bounds = bounds.By(q.Stepped())
	first, last := bounds.FirstDay, bounds.DataDate
	if !p.Period.Unbounded() {
		first, last = max(first, p.Period.Span.From), min(last, p.Period.Span.LastDay())
	}
	return g.Step.From != 0 && (g.Step.From < first || g.Step.LastDay() > last)
}

// Begins says that orders begun before the book are missing from a group's step of time.
func (p Part) Begins(g Group) bool { return g.Step.From != 0 && g.Step.From < p.BeginsUntil }

// A ReconciliationPart is one number of the line that adds up to the orders asked about.
type ReconciliationPart struct {
	State  string // leg.State's name, or "counted"
	Label  string
	Orders int
}

// Counted is the state name that stands for all states that are counted.
const Counted = "counted"

// Reconciliation divides the group's orders: counted, then each kind left out, kinds without orders too.
func (g Group) Reconciliation(l leg.Leg) []ReconciliationPart {
	parts := []ReconciliationPart{{Counted, l.Label(leg.Complete), int(g.States[leg.Complete] + g.States[leg.Negative])}}
	for s := leg.State(0); s < leg.States; s++ {
		if !s.Counted() {
			parts = append(parts, ReconciliationPart{s.String(), l.Label(s), int(g.States[s])})
		}
	}
	return parts
}

// ReconciliationLine is the reconciliation in words; kinds without orders are folded.
func (g Group) ReconciliationLine(l leg.Leg) string {
	var terms []string
	for i, p := range g.Reconciliation(l) {
		if i == 0 || p.Orders > 0 {
			terms = append(terms, numfmt.Count(p.Orders)+" "+p.Label)
		}
	}
	return numfmt.Counted(g.Orders, "order") + " asked about = " + strings.Join(terms, " + ")
}

// PlacementParts are the terms of the line that says how the period and the condition divide the book; none where all
// orders are asked about. The State of each is what a Selection calls Placed.
func (p Part) PlacementParts(basis milestone.Milestone) []ReconciliationPart {
	if p.Period.Unbounded() && p.Placement.Asked == p.Placement.InBook {
		return nil
	}
	parts := []ReconciliationPart{{"", "asked about", p.Placement.Asked}}
	add := func(placed string, orders int, format string, values ...any) {
		parts = append(parts, ReconciliationPart{placed, fmt.Sprintf(format, values...), orders})
	}
	if !p.Period.Unbounded() {
		add(Outside, p.Placement.Outside, "with `%s` outside %s", basis.Name, p.Period.Text)
	}
	if p.Placement.Undated > 0 {
		add(Undated, p.Placement.Undated, "undated (no `%s` day known)", basis.Name)
	}
	if p.Placement.Unmet > 0 {
		add(Unmet, p.Placement.Unmet, "not as the condition asks")
	}
	if p.Placement.Undecided > 0 {
		add(Undecided, p.Placement.Undecided, "%s", p.Lacking.Words())
	}
	return parts
}

// PlacementLine says in words how the period divides the book; empty where all orders are asked about.
func (p Part) PlacementLine(basis milestone.Milestone) string {
	var terms []string
	for _, part := range p.PlacementParts(basis) {
		terms = append(terms, numfmt.Count(part.Orders)+" "+part.Label)
	}
	if terms == nil {
		return ""
	}
	return numfmt.Counted(p.Placement.InBook, "order") + " in the book = " + strings.Join(terms, " + ")
}

// A Note is something that a reader of the answer has to know. Code names its kind; Orders is how many
// orders it concerns, 0 where it concerns the answer as a whole.
type Note struct {
	Code   string
	Orders int
	Text   string
}

// The codes of notes that concern some of the orders; a Selection can name them.
const (
	NoteNegative        = "negative"
	NoteHolidaysUnknown = "holidays-unknown"
	NoteDefaultCalendar = "default-calendar"
	NoteCutOff          = "cut-off"
	NoteCutOffUntimed   = "cut-off-untimed"
	NoteStandIn         = "stand-in"
	NoteUnequalMissing  = "unequal-missing"
)

// UnequalMissingText is the note on how many orders lack one of two values that the condition compares with !=.
const UnequalMissingText = "%s without one of the two values that the condition compares with !=: a missing value differs from every other"

// MetByMissing counts the orders that a question asks about in a period although they lack one of two values that its
// condition compares with !=.
func MetByMissing(b *book.Book, q Question, p period.Period) int {
	lacking := predicate.UnequalToMissing(q.Where.Condition)
	if lacking == nil {
		return 0
	}
	only := q.alone(q.Leg)
	only.Where = Where{Condition: predicate.And{X: q.Where.Condition, Y: lacking}, Decimals: q.Where.Decimals}
	return newPlan(b, only, p).answerGroup().Orders
}

// Ask computes the answer: one pass over the orders for each period, and for each leg of a chain.
func Ask(b *book.Book, q Question) Answer {
	a := Answer{Question: q, Bounds: b.Bounds(), Version: b.Version()}
	for _, p := range q.Periods {
		a.Parts = append(a.Parts, newPlan(b, q, p).answer(p))
	}
	return a
}

func (p *plan) answer(asked period.Period) Part {
	t := p.scan()
	part := Part{Period: asked, Placement: Placement{InBook: p.book.Orders(), Outside: t.outside, Undated: t.undated, Unmet: t.unmet}}
	part.Lacking = LacksOf(t.lacking)
	part.Placement.Undecided = part.Lacking.Orders()
	part.Placement.Asked = part.Placement.InBook - t.outside - t.undated - t.unmet - part.Placement.Undecided
	counts := p.gather(t)
	places := p.arrange(counts)
	groups := p.groupsAt(places, t, counts)
	if part.Total = total(groups); len(groups) == 0 {
		part.Total = p.groupsAt([]int{0}, t, counts)[0] // that of none, which is empty
		part.Total.Keys = nil
	}
	if len(p.axes) > 0 {
		part.Groups = groups
	}
	if len(p.axes) == 2 {
		part.Rows, part.Columns = p.along(0, groups, places), p.along(1, groups, places)
	}
	for i, l := range p.question.Chain() {
		one := p.question
		one.Leg, one.Through, one.Promise = l, nil, nil
		legs := newPlan(p.book, one, asked)
		own := legs.scan()
		of := legs.groupsAt(places, own, legs.gather(own))
		for j, place := range places {
			of[j].Every = t.every.of(place, i)
		}
		leg := LegPart{Leg: l, Total: total(of)}
		if len(p.axes) > 0 {
			leg.Groups = of
		}
		part.Legs = append(part.Legs, leg)
	}
	part.BeginsUntil = p.beginsUntil(asked)
	part.Notes = p.notes(asked, part)
	return part
}

// groupsAt turns what was counted into the groups with some numbers.
func (p *plan) groupsAt(places []int, t *tally, counts []groupCount) []Group {
	groups, keys := make([]Group, len(places)), make([]string, len(places)*len(p.axes))
	position := make([]int32, p.groups) // from 1
	for i, place := range places {
		position[place] = int32(i) + 1
	}
	// Where there are very many groups, reading what was counted from front to back is much faster.
	work.Split(p.groups, func(from, to int) {
		for place := from; place < to; place++ {
			if i := int(position[place]) - 1; i >= 0 {
				p.fill(&groups[i], place, &counts[place], keys[i*len(p.axes):][:len(p.axes):len(p.axes)])
			}
		}
	})
	if p.question.Waiting {
		waiting := p.gatherWaiting(t)
		for i, place := range places {
			groups[i].Waiting = &waiting[place]
		}
	}
	if p.promise != nil {
		kept := p.gatherKept(t.kept)
		for i, place := range places {
			groups[i].Kept = &kept[place]
		}
	}
	if p.every != nil {
		for i, place := range places {
			groups[i].Every = t.every.of(place, len(p.every.legs)-1)
		}
	}
	return groups
}

// along adds up groups, whose numbers are places, that have one key of the first, or of the second, of two groupings.
func (p *plan) along(axis int, groups []Group, places []int) []Group {
	along := p.axes[axis]
	by := make([][]Group, len(along.labels))
	for i, place := range places {
		code := p.codes(place)[axis]
		by[code] = append(by[code], groups[i])
	}
	sums := make([]Group, len(by))
	var shown []int
	for code, own := range by {
		if len(own) > 0 {
			sums[code] = total(own)
			sums[code].Keys, sums[code].Step = []string{along.labels[code]}, along.span(code)
			shown = append(shown, code)
		}
	}
	sortPlaces(shown, p.question.first(), func(code int) (order day.Day, lengths Distribution, rank int64) {
		return along.order(code), sums[code].Lengths, along.rank(code)
	})
	sorted := make([]Group, len(shown))
	for i, code := range shown {
		sorted[i] = sums[code]
	}
	return sorted
}

// codes are those of the groupings of the group at a place.
func (p *plan) codes(place int) (codes [maxGroupings]int) {
	for i := len(p.axes) - 1; i >= 0; i-- {
		codes[i] = place % len(p.axes[i].labels)
		place /= len(p.axes[i].labels)
	}
	return codes
}

// fill gives a group what was counted under its number, and its keys a place of their own.
func (p *plan) fill(group *Group, g int, count *groupCount, keys []string) {
	group.Lengths, group.HolidaysUnknown, group.ByDefault, group.Keys = count.lengths, count.outsideCoverage, count.byDefault, keys
	// The scan counts negative legs as a state and as a length; complete ones only as a length.
	group.States = count.states
	group.States[leg.Complete] = uint32(count.orders) - group.States[leg.Negative]
	for _, n := range group.States {
		group.Orders += int(n)
	}
	codes := p.codes(g)
	for i := range p.axes {
		keys[i] = p.axes[i].labels[codes[i]]
	}
	group.Step = p.step(codes)
}

// orderOf is the place of a group in time, zero for none, and that of its keys in their natural order.
func (p *plan) orderOf(place int) (order day.Day, rank int64) {
	codes := p.codes(place)
	for i, axis := range p.axes {
		order, rank = max(order, axis.order(codes[i])), rank<<31|axis.rank(codes[i])
	}
	return order, rank
}

// step are the days of the step of time of the group with these codes; zero where no grouping cuts time.
func (p *plan) step(codes [maxGroupings]int) (step day.Span) {
	for i := range p.axes {
		if axis := &p.axes[i]; axis.spans != nil {
			step = axis.span(codes[i])
		}
	}
	return step
}

// total adds the groups' orders up; each order lies in exactly one group.
func total(groups []Group) Group {
	if half := len(groups) / 2; half > work.Fewest {
		halves := [][]Group{groups[:half], groups[half:]}
		sums := make([]Group, 2)
		work.Each(2, func(i int) { sums[i] = total(halves[i]) })
		return total(sums)
	}
	var sum Group
	for i := range groups {
		g := &groups[i]
		sum.Orders += g.Orders
		sum.HolidaysUnknown += g.HolidaysUnknown
		sum.ByDefault += g.ByDefault
		for s, n := range g.States {
			sum.States[s] += n
		}
		sum.Every.Orders += g.Every.Orders
		sum.Every.Ticks += g.Every.Ticks
	}
	all := func(of func(g *Group) Distribution) Distribution {
		each := make([]Distribution, len(groups))
		for i := range groups {
			each[i] = of(&groups[i])
		}
		return merged(each...)
	}
	sum.Lengths = all(func(g *Group) Distribution { return g.Lengths })
	if len(groups) == 0 {
		return sum
	}
	if groups[0].Waiting != nil {
		sum.Waiting = &Waiting{
			Running:   all(func(g *Group) Distribution { return g.Waiting.Running }),
			Cancelled: all(func(g *Group) Distribution { return g.Waiting.Cancelled }),
		}
		for i := range groups {
			sum.Waiting.Untold += groups[i].Waiting.Untold
		}
	}
	if groups[0].Kept == nil {
		return sum
	}
	sum.Kept = &Kept{}
	for s := range promise.Outcomes {
		for _, g := range groups {
			sum.Kept.Orders[s] += g.Kept.Orders[s]
		}
		sum.Kept.Sizes[s] = all(func(g *Group) Distribution { return g.Kept.Sizes[s] })
	}
	for _, g := range groups {
		sum.Kept.HolidaysUnknown += g.Kept.HolidaysUnknown
	}
	return sum
}

// widest is the range of lengths that are merged by counting; wider ones are sorted.
const widest = 1 << 20

// merged adds distributions up.
func merged(each ...Distribution) (all Distribution) {
	each = slices.DeleteFunc(each, func(d Distribution) bool { return len(d) == 0 })
	if len(each) == 0 {
		return nil
	}
	lowest, highest := math.MaxInt, math.MinInt
	for _, d := range each {
		lowest, highest = min(lowest, d.Min()), max(highest, d.Max())
	}
	if highest-lowest < widest {
		orders := make([]int, highest-lowest+1)
		for _, d := range each {
			for _, bar := range d {
				orders[bar.Length-lowest] += bar.Orders
			}
		}
		for i, n := range orders {
			if n > 0 {
				all = append(all, Bar{lowest + i, n})
			}
		}
		return all
	}
	bars := slices.Concat(each...)
	slices.SortFunc(bars, func(a, b Bar) int { return cmp.Compare(a.Length, b.Length) })
	for _, bar := range bars {
		all = all.with(bar.Length, bar.Orders)
	}
	return all
}

// arrange gives the numbers of the groups that are shown, in their order: those without an order are left out, but for the
// steps of a cut that stands alone. Without a grouping it is the one group.
func (p *plan) arrange(counts []groupCount) []int {
	if len(p.axes) == 0 {
		return []int{0}
	}
	cutAlone := len(p.axes) == 1 && p.axes[0].grouping.Cut != NoCut
	var places []int
	for g := range counts {
		if cutAlone && g > 0 || len(counts[g].lengths) > 0 || counts[g].states != (StateCounts{}) {
			places = append(places, g)
		}
	}
	sortPlaces(places, p.question.first(), func(place int) (order day.Day, lengths Distribution, rank int64) {
		order, rank = p.orderOf(place)
		return order, counts[place].lengths, rank
	})
	return places
}

// first is the statistic that groups are sorted by.
func (q Question) first() Statistic {
	if len(q.Show) > 0 {
		return q.Show[0]
	}
	return statistics[0]
}

// sortPlaces sorts the places of groups by time, then with the longest first by a statistic, then by the ranks of their keys;
// of says what each is.
func sortPlaces(places []int, by Statistic, of func(place int) (order day.Day, lengths Distribution, rank int64)) {
	type ranked struct {
		longest float64 // −∞ where nothing is counted
		rank    int64
		step    day.Day // of a cut; those without one come last
		place   int32
	}
	ranking := make([]ranked, len(places))
	work.Split(len(places), func(from, to int) {
		for i := from; i < to; i++ {
			order, lengths, rank := of(places[i])
			r := ranked{math.Inf(-1), rank, order, int32(places[i])}
			if value := by.Of(lengths); !math.IsNaN(value) {
				r.longest = value
			}
			if r.step == 0 {
				r.step = math.MaxInt32
			}
			ranking[i] = r
		}
	})
	work.Sort(ranking, func(a, b ranked) int {
		switch {
		case a.step != b.step:
			return cmp.Compare(a.step, b.step)
		case a.longest > b.longest:
			return -1
		case a.longest < b.longest:
			return 1
		}
		return cmp.Compare(a.rank, b.rank)
	})
	for i, r := range ranking {
		places[i] = int(r.place)
	}
}

// notes gathers what a reader has to know besides the reconciliation.
func (p *plan) notes(asked period.Period, part Part) []Note {
	var notes []Note
	note := func(code string, orders int, format string, values ...any) {
		notes = append(notes, Note{code, orders, fmt.Sprintf(format, values...)})
	}
	q, bounds := p.question, p.book.Bounds()
	if cut := asked.Part(bounds.By(q.Basis)); cut != "" {
		note("part-period", 0, "%s is %s", asked.Text, cut)
	}
	if n := part.Total.negative(q.Measure.Unit); n > 0 {
		note(NoteNegative, n, "%s of the counted have `%s` before `%s` and count with a negative length", numfmt.Count(n), q.Leg.To.Name, q.Leg.From.Name)
	}
	if n := part.Total.HolidaysUnknown; n > 0 {
		note(NoteHolidaysUnknown, n, "holidays unknown on some day, which then follows the weekly pattern: %s of %s lengths (%s)",
			numfmt.Count(n), numfmt.Count(part.Total.Lengths.Orders()), p.coverages())
	}
	if n := part.Total.ByDefault; n > 0 {
		note(NoteDefaultCalendar, n, "counted by the default calendar, since no calendar has the name of the %s: %s of %s lengths", []string{"site, its region or its country", "place, its region or its country"}[q.Side], numfmt.Count(n), numfmt.Count(part.Total.Lengths.Orders()))
	}
	if moved, untimed := p.cutOffs(); moved+untimed > 0 {
		if moved > 0 {
			note(NoteCutOff, moved, "came at or after the cut-off of the site, or on a day that is not worked there, and count as ordered on the next working day: %s of %s lengths",
				numfmt.Count(moved), numfmt.Count(part.Total.Lengths.Orders()))
		}
		if untimed > 0 {
			note(NoteCutOffUntimed, untimed, "have no time of day that is known at the site, so that its cut-off does not move them: %s of %s lengths",
				numfmt.Count(untimed), numfmt.Count(part.Total.Lengths.Orders()))
		}
	}
	if _, latest := p.book.Range(p.end); latest != 0 && !q.Leg.To.Plan && latest < bounds.DataDate {
		note("source-stops", 0, "`%s` is known to %v, the data date is %v", q.Leg.To.Name, latest, bounds.DataDate)
	}
	if n := MetByMissing(p.book, q, asked); n > 0 {
		note(NoteUnequalMissing, n, UnequalMissingText, numfmt.Counted(n, "selected order"))
	}
	if until := part.BeginsUntil; until != 0 {
		note("book-begins", 0, "the book begins here: its first day is %v, and 95%% of these legs take up to %d days, so that orders begun before it are missing until %v",
			bounds.FirstDay, until-bounds.FirstDay, until)
	}
	if n := p.stoodIn(); n > 0 {
		note(NoteStandIn, n, "take a day that stands in for one that is missing: %s of %s lengths", numfmt.Count(n), numfmt.Count(part.Total.Lengths.Orders()))
	}
	if kept := part.Total.Kept; kept != nil && kept.HolidaysUnknown > 0 {
		n := kept.HolidaysUnknown
		note("promise-holidays-unknown", 0, "holidays unknown on some day up to the due day, or between it and the end, which then follows the weekly pattern: %s", numfmt.Counted(n, "order"))
	}
	return notes
}

// coverages names the calendars of the book's sites that do not know the holidays of all days on which the
// legs lie, each with the days for which it does.
func (p *plan) coverages() string {
	first, last := legDays(p.book, p.start, p.end)
	var names []string
	for _, c := range p.book.Locals(p.question.Side) {
		name := c.Name() + " knows " + cmp.Or(c.CoverageWords(), "none")
		if !c.Covers(first, last) && !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	if len(names) > mostCoverages {
		names = append(names[:mostCoverages], fmt.Sprintf("and %d more calendars", len(names)-mostCoverages))
	}
	return strings.Join(names, "; ")
}

const mostCoverages = 6

// cutOffs counts the complete legs of the period whose start a cut-off moves, and those that none can move since
// they have no time of day.
func (p *plan) cutOffs() (moved, untimed int) {
	if !p.moves || !slices.ContainsFunc(p.book.Locals(book.AtSite), func(l book.SiteCalendar) bool { return l.CutOff >= 0 }) {
		return 0, 0
	}
	type counts struct{ moved, untimed int }
	for _, n := range walk(p.book, func() *counts { return new(counts) }, func(block *book.Block, from, to int, space *scratch, n *counts) {
		p.decide(block, from, space.truths[:to-from])
		starts, ends, basis := block.Columns[p.start].Known, block.Columns[p.end].Known, block.Columns[p.basisRow].Known
		for row := from; row < to; row++ {
			if start := starts[row]; start == 0 || ends[row] < start || p.placed(basis[row], space.truths[row-from]) != "" {
				continue
			}
			switch p.cutOff(block, row) {
			case NoteCutOff:
				n.moved++
			case NoteCutOffUntimed:
				n.untimed++
			}
		}
	}) {
		moved, untimed = moved+n.moved, untimed+n.untimed
	}
	return moved, untimed
}

// cutOff is the code of the note on cut-offs that concerns an order; empty where none does.
func (p *plan) cutOff(block *book.Block, row int) string {
	site := p.book.Locals(book.AtSite)[block.Codes[book.Site][row]]
	switch {
	case !p.moves || site.CutOff < 0:
		return ""
	case block.EffectiveStarts[row] != block.Columns[p.start].Known[row]:
		return NoteCutOff
	case !site.Reads(block.Columns[p.start].InstantAt(row)):
		return NoteCutOffUntimed
	}
	return ""
}

// negative is the number of lengths that count backwards; between instants also those within a day.
func (g Group) negative(u leg.Unit) int {
	if !u.Timed() {
		return int(g.States[leg.Negative])
	}
	n := 0
	for _, bar := range g.Lengths {
		if bar.Length < 0 {
			n += bar.Orders
		}
	}
	return n
}

// beginsUntil says until when orders begun before the book are missing: a basis later than the leg's start places orders
// that were begun before the first day in the days after it, up to the leg's 95th percentile, in days. Zero where that does
// not touch the period.
func (p *plan) beginsUntil(asked period.Period) day.Day {
	q := p.question
	placed := !asked.Unbounded() || slices.ContainsFunc(q.By, func(g Grouping) bool { return g.Cut != NoCut })
	if q.Basis == q.Leg.From || !placed {
		return 0
	}
	all := q.alone(q.Leg)
	all.Measure, all.Side, all.Periods = leg.Measure{}, book.AtSite, []period.Period{period.All(p.book.Bounds())}
	lengths := total([]Group{newPlan(p.book, all, all.Periods[0]).answerGroup()}).Lengths
	if len(lengths) == 0 {
		return 0
	}
	first := p.book.Bounds().FirstDay
	until := first + day.Day(math.Ceil(lengths.Quantile(0.95)))
	if asked.Span.From >= until || asked.Span.LastDay() < first {
		return 0
	}
	return until
}

// stoodIn counts the lengths that take a day that stands in for another.
func (p *plan) stoodIn() (orders int) {
	if len(p.standIns()) == 0 {
		return 0
	}
	for _, n := range walk(p.book, func() *int { return new(int) }, func(block *book.Block, from, to int, space *scratch, n *int) {
		p.decide(block, from, space.truths[:to-from])
		for row := from; row < to; row++ {
			if p.placed(block.Columns[p.basisRow].Known[row], space.truths[row-from]) == "" && p.takesStandIn(block, row) {
				if _, complete := p.complete(block, row, p.local(block, row), notReckoned); complete {
					*n++
				}
			}
		}
	}) {
		orders += *n
	}
	return orders
}

// standIns are the places of the milestones for which others stand in, and that of each with its stand-in.
func (p *plan) standIns() (pairs [][2]int) {
	for _, m := range append([]milestone.Milestone{p.question.Leg.From, p.question.Leg.To}, p.question.Through...) {
		if m.Of != "" {
			pairs = append(pairs, [2]int{milestone.Index(p.book.Milestones(), m.Of), milestone.Index(p.book.Milestones(), m.Name)})
		}
	}
	return pairs
}

// takesStandIn says whether the start or the end of an order's leg, or of a leg of the chain, is a day that stands in for another.
func (p *plan) takesStandIn(block *book.Block, row int) bool {
	for _, pair := range p.standIns() {
		if block.Columns[pair[0]].Known[row] == 0 && block.Columns[pair[1]].Known[row] != 0 {
			return true
		}
	}
	return false
}

// answerGroup counts all orders as one group, without notes.
func (p *plan) answerGroup() Group {
	t := p.scan()
	return p.groupsAt([]int{0}, t, p.gather(t))[0]
}

// A Step is how many orders are left after a step of the working, and what it leaves out.
type Step struct {
	Code   string // StepBook, StepPeriod, StepCondition, StepEnded or StepCounted
	Label  string
	Orders int
	Left   []ReconciliationPart // that do occur; placed by the period or the condition, or by the state of the leg
}

// The steps, in their order; those that leave nothing to decide are not taken.
const (
	StepBook      = "book"
	StepPeriod    = "period"
	StepCondition = "condition"
	StepEnded     = "ended"
	StepCounted   = "counted"
)

// Steps show the working: from the orders in the book to those that are counted.
func (p Part) Steps(q Question) []Step {
	orders := p.Placement.InBook
	steps := []Step{{Code: StepBook, Label: "orders in the book", Orders: orders}}
	step := func(code, label string, left []ReconciliationPart) {
		s := Step{Code: code, Label: label}
		for _, l := range left {
			if l.Orders > 0 {
				s.Left = append(s.Left, l)
				orders -= l.Orders
			}
		}
		s.Orders = orders
		steps = append(steps, s)
	}
	placed := func(words ...string) []ReconciliationPart {
		return slices.DeleteFunc(p.PlacementParts(q.Basis), func(r ReconciliationPart) bool { return !slices.Contains(words, r.State) })
	}
	if !p.Period.Unbounded() {
		step(StepPeriod, fmt.Sprintf("with `%s` in %s", q.Basis.Name, p.Period.Text), placed(Outside, Undated))
	}
	if q.Where.Condition != nil {
		step(StepCondition, "as the condition asks", placed(Unmet, Undecided))
	}
	var incomplete, uncounted []ReconciliationPart
	for _, r := range p.Total.Reconciliation(q.Leg)[1:] {
		if r.State == leg.NoTime.String() || r.State == leg.NoHours.String() {
			uncounted = append(uncounted, r)
		} else {
			incomplete = append(incomplete, r)
		}
	}
	ended := fmt.Sprintf("with the leg complete: `%s` and `%s` known", q.Leg.From.Name, q.Leg.To.Name)
	if !q.Leg.TwoWay() {
		ended += ", in this order"
	}
	step(StepEnded, ended, incomplete)
	if q.Measure.Unit.Timed() {
		step(StepCounted, "counted: with what "+q.Measure.Unit.Words()+" are read from", uncounted)
	}
	return steps
}
