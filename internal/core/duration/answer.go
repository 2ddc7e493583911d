package duration

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/query"
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
	Period     period.Period
	Population query.Population
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

// A Group is a set of orders and the lengths of those that count.
type Group struct {
	Keys            []string // by grouping; empty text is "none"
	Orders          int      // asked about
	States          StateCounts
	Lengths         distribution.Distribution
	HolidaysUnknown int            // lengths that leave the coverage of their calendar
	ByDefault       int            // lengths counted by the default calendar, as a stand-in
	Waiting         *Waiting       // nil where the question does not ask for it
	Kept            *Kept          // nil where the question does not ask for it
	Every           CompletedChain // of a chain
	// Step are the days of the step of time in which the group's orders are placed; zero where no grouping cuts time.
	Step day.Span
}

// Known says whether the records can hold something of a group's step of time: by a fact, nothing after the data date is in
// the book.
func (p Part) Known(g Group, q Question, bounds period.Bounds) bool {
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

// Counted is the state name that stands for all states that are counted.
const Counted = "counted"

// Reconciliation divides the group's orders: counted, then each kind left out, kinds without orders too. The code of each is a
// leg.State's name, or Counted.
func (g Group) Reconciliation(l leg.Leg) []query.Term {
	terms := []query.Term{{Code: Counted, Label: l.Label(leg.Complete), Orders: int(g.States[leg.Complete] + g.States[leg.Negative])}}
	for s := leg.State(0); s < leg.States; s++ {
		if !s.Counted() {
			terms = append(terms, query.Term{Code: s.String(), Label: l.Label(s), Orders: int(g.States[s])})
		}
	}
	return terms
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

// Ask computes the answer: one pass over the orders for each period.
func Ask(b *book.Book, q Question) Answer {
	a := Answer{Question: q, Bounds: b.Bounds(), Version: b.Version()}
	for _, p := range q.Periods {
		a.Parts = append(a.Parts, newPlan(query.NewScope(b, q.Question, p), q).answer(p))
	}
	return a
}

// counts is what one worker has counted of a leg, and of each leg of a chain.
type counts []*tally

// Visit counts a stretch.
func (c counts) Visit(s *query.Stretch) {
	for _, t := range c {
		t.Visit(s)
	}
}

// Merge adds what another worker has counted.
func (c counts) Merge(other counts) {
	for i, t := range c {
		t.Merge(other[i])
	}
}

func (p *plan) answer(asked period.Period) Part {
	chain, plans := p.question.Chain(), []*plan{p}
	for _, l := range chain {
		one := p.question
		one.Leg, one.Through, one.Promise = l, nil, nil
		plans = append(plans, newPlan(p.scope, one))
	}
	all, population := query.Run(p.scope, func() counts {
		made := make(counts, len(plans))
		for i, one := range plans {
			made[i] = one.newTally()
		}
		return made
	})
	t := all[0]
	part := Part{Period: asked, Population: population}
	counted := p.gather(t)
	places := p.arrange(counted)
	groups := p.groupsAt(places, t, counted)
	if part.Total = total(groups); len(groups) == 0 {
		part.Total = p.groupsAt([]int{0}, t, counted)[0] // that of none, which is empty
		part.Total.Keys = nil
	}
	if len(p.scope.Axes) > 0 {
		part.Groups = groups
	}
	if len(p.scope.Axes) == 2 {
		part.Rows, part.Columns = p.along(0, groups, places), p.along(1, groups, places)
	}
	for i, l := range chain {
		legs := plans[i+1]
		of := legs.groupsAt(places, all[i+1], legs.gather(all[i+1]))
		for j, place := range places {
			of[j].Every = t.every.of(place, i)
		}
		leg := LegPart{Leg: l, Total: total(of)}
		if len(p.scope.Axes) > 0 {
			leg.Groups = of
		}
		part.Legs = append(part.Legs, leg)
	}
	part.BeginsUntil = p.beginsUntil(asked)
	part.Notes = p.notes(asked, part, t)
	return part
}

// groupsAt turns what was counted into the groups with some numbers.
func (p *plan) groupsAt(places []int, t *tally, counted []groupCount) []Group {
	groups, keys := make([]Group, len(places)), make([]string, len(places)*len(p.scope.Axes))
	position := make([]int32, p.scope.Groups) // from 1
	for i, place := range places {
		position[place] = int32(i) + 1
	}
	// Where there are very many groups, reading what was counted from front to back is much faster.
	work.Split(p.scope.Groups, func(from, to int) {
		for place := from; place < to; place++ {
			if i := int(position[place]) - 1; i >= 0 {
				p.fill(&groups[i], place, &counted[place], keys[i*len(p.scope.Axes):][:len(p.scope.Axes):len(p.scope.Axes)])
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
	along := p.scope.Axes[axis]
	by := make([][]Group, len(along.Labels))
	for i, place := range places {
		code := p.scope.Codes(place)[axis]
		by[code] = append(by[code], groups[i])
	}
	sums := make([]Group, len(by))
	var shown []int
	for code, own := range by {
		if len(own) > 0 {
			sums[code] = total(own)
			sums[code].Keys, sums[code].Step = []string{along.Labels[code]}, along.Span(code)
			shown = append(shown, code)
		}
	}
	sortPlaces(shown, p.question.first(), func(code int) (order day.Day, lengths distribution.Distribution, rank int64) {
		return along.Time(code), sums[code].Lengths, along.Rank(code)
	})
	sorted := make([]Group, len(shown))
	for i, code := range shown {
		sorted[i] = sums[code]
	}
	return sorted
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
	codes := p.scope.Codes(g)
	for i, axis := range p.scope.Axes {
		keys[i] = axis.Labels[codes[i]]
	}
	group.Step = p.scope.Step(g)
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
	all := func(of func(g *Group) distribution.Distribution) distribution.Distribution {
		each := make([]distribution.Distribution, len(groups))
		for i := range groups {
			each[i] = of(&groups[i])
		}
		return distribution.Merged(each...)
	}
	sum.Lengths = all(func(g *Group) distribution.Distribution { return g.Lengths })
	if len(groups) == 0 {
		return sum
	}
	if groups[0].Waiting != nil {
		sum.Waiting = &Waiting{
			Running:   all(func(g *Group) distribution.Distribution { return g.Waiting.Running }),
			Cancelled: all(func(g *Group) distribution.Distribution { return g.Waiting.Cancelled }),
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
		sum.Kept.Sizes[s] = all(func(g *Group) distribution.Distribution { return g.Kept.Sizes[s] })
	}
	for _, g := range groups {
		sum.Kept.HolidaysUnknown += g.Kept.HolidaysUnknown
	}
	return sum
}

// arrange gives the numbers of the groups that are shown, in their order: those without an order are left out, but for the
// steps of a cut that stands alone. Without a grouping it is the one group.
func (p *plan) arrange(counted []groupCount) []int {
	if len(p.scope.Axes) == 0 {
		return []int{0}
	}
	cutAlone := len(p.scope.Axes) == 1 && p.scope.Axes[0].Grouping.Cut != query.NoCut
	var places []int
	for g := range counted {
		if cutAlone && g > 0 || len(counted[g].lengths) > 0 || counted[g].states != (StateCounts{}) {
			places = append(places, g)
		}
	}
	sortPlaces(places, p.question.first(), func(place int) (order day.Day, lengths distribution.Distribution, rank int64) {
		order, rank = p.scope.Order(place)
		return order, counted[place].lengths, rank
	})
	return places
}

// first is the statistic that groups are sorted by.
func (q Question) first() distribution.Statistic {
	if len(q.Show) > 0 {
		return q.Show[0]
	}
	return distribution.First
}

// sortPlaces sorts the places of groups by time, then with the longest first by a statistic, then by the ranks of their keys;
// of says what each is.
func sortPlaces(places []int, by distribution.Statistic, of func(place int) (order day.Day, lengths distribution.Distribution,
	rank int64)) {
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
func (p *plan) notes(asked period.Period, part Part, t *tally) []Note {
	var notes []Note
	note := func(code string, orders int, format string, values ...any) {
		notes = append(notes, Note{code, orders, fmt.Sprintf(format, values...)})
	}
	q, bounds := p.question, p.book.Bounds()
	if cut := asked.Part(bounds.By(q.Basis)); cut != "" {
		note("part-period", 0, "%s is %s", asked.Text, cut)
	}
	if n := part.Total.negative(q.Measure.Unit); n > 0 {
		note(NoteNegative, n, "%s of the counted have %s before %s and count with a negative length", numfmt.Count(n), q.Leg.To.Date(),
			q.Leg.From.Date())
	}
	if n := part.Total.HolidaysUnknown; n > 0 {
		note(NoteHolidaysUnknown, n, "holidays unknown on some day, which then follows the weekly pattern: %s of %s lengths (%s)",
			numfmt.Count(n), numfmt.Count(part.Total.Lengths.Orders()), p.coverages())
	}
	if n := part.Total.ByDefault; n > 0 {
		note(NoteDefaultCalendar, n, "counted by the default calendar, because no calendar is named after the %s: %s of %s lengths",
			[]string{"site, its region or its country", "place, its region or its country"}[q.Calendar], numfmt.Count(n),
			numfmt.Count(part.Total.Lengths.Orders()))
	}
	if t.moved > 0 {
		note(NoteCutOff, t.moved, "%s of %s came after the site's cut-off or on a day off, and count from the next working day",
			numfmt.Count(t.moved), numfmt.Counted(part.Total.Lengths.Orders(), "order"))
	}
	if t.untimed > 0 {
		note(NoteCutOffUntimed, t.untimed, "%s of %s have no time of day, so the site's cut-off could not be applied",
			numfmt.Count(t.untimed), numfmt.Counted(part.Total.Lengths.Orders(), "order"))
	}
	if _, latest := p.book.Range(p.end); latest != 0 && !q.Leg.To.Plan && latest < bounds.DataDate {
		note("source-stops", 0, "%s is known to %v, the data date is %v", q.Leg.To.Date(), latest, bounds.DataDate)
	}
	if n := part.Population.MetByMissing; n > 0 {
		note(NoteUnequalMissing, n, query.MetByMissingText, numfmt.Counted(n, "selected order"))
	}
	if until := part.BeginsUntil; until != 0 {
		note("book-begins", 0, "the book begins here: its first day is %v, and 95%% of these legs take up to %d days, so orders begun before it are missing until %v",
			bounds.FirstDay, until-bounds.FirstDay, until)
	}
	if n := t.stoodIn; n > 0 {
		note(NoteStandIn, n, "use the date that stands in for a missing one: %s of %s lengths", numfmt.Count(n),
			numfmt.Count(part.Total.Lengths.Orders()))
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
	for _, c := range p.calendars {
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
	placed := !asked.Unbounded() || slices.ContainsFunc(q.By, func(g query.Grouping) bool { return g.Cut != query.NoCut })
	if q.Basis == q.Leg.From || !placed {
		return 0
	}
	longest := p.book.Memoize(longestKey{q.Leg.From.Name, q.Leg.To.Name}, func(b *book.Book) any {
		all := query.Question{Leg: q.Leg}
		scope := query.WholeBook(b, all)
		one := newPlan(scope, Question{Question: all})
		t, _ := query.Run(scope, one.newTally)
		return one.groupsAt([]int{0}, t, one.gather(t))[0].Lengths.Quantile(0.95)
	}).(float64)
	if math.IsNaN(longest) {
		return 0
	}
	first := p.book.Bounds().FirstDay
	until := first + day.Day(math.Ceil(longest))
	if asked.Span.From >= until || asked.Span.LastDay() < first {
		return 0
	}
	return until
}

// longestKey is that under which a book remembers how long most orders take for a leg.
type longestKey struct{ from, to string }

// A Step is how many orders are left after a step of the working, and what it leaves out.
type Step struct {
	Code   string // StepBook, StepPeriod, StepCondition, StepEnded or StepCounted
	Label  string
	Orders int
	Left   []query.Term // that do occur; placed by the period or the condition, or by the state of the leg
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
	orders := p.Population.InBook
	steps := []Step{{Code: StepBook, Label: "orders in the book", Orders: orders}}
	step := func(code, label string, left []query.Term) {
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
	placed := func(placements ...query.Placement) []query.Term {
		return slices.DeleteFunc(p.Population.Terms(q.Basis),
			func(t query.Term) bool { return !slices.Contains(placements, query.Placement(t.Code)) })
	}
	if !p.Period.Unbounded() {
		step(StepPeriod, fmt.Sprintf("with %s in %s", q.Basis.Date(), p.Period.Text), placed(query.Outside, query.Undated))
	}
	if q.Where.Condition != nil {
		step(StepCondition, "as the condition asks", placed(query.Unmet, query.Undecided))
	}
	var incomplete, uncounted []query.Term
	for _, r := range p.Total.Reconciliation(q.Leg)[1:] {
		if r.Code == leg.NoTime.String() || r.Code == leg.NoHours.String() {
			uncounted = append(uncounted, r)
		} else {
			incomplete = append(incomplete, r)
		}
	}
	ended := fmt.Sprintf("with the leg complete: %s and %s known", q.Leg.From.Date(), q.Leg.To.Date())
	if !q.Leg.TwoWay() {
		ended += ", in this order"
	}
	step(StepEnded, ended, incomplete)
	if q.Measure.Unit.Timed() {
		step(StepCounted, "counted: with what "+q.Measure.Unit.Words()+" are read from", uncounted)
	}
	return steps
}
