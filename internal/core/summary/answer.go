package summary

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/figure"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
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
	Lacking   []Lack // what the undecided lack, the most first
	// Groups are in time order for a cut; else the longest mean comes first and groups that count nothing
	// come last. Nil where the question has no grouping.
	Groups []Group
	Total  Group
	Notes  []Note
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

// A Group is a set of orders and the lengths of those that count.
type Group struct {
	Keys            []string // by grouping; empty text is "none"
	Orders          int      // asked about
	States          [leg.States]int
	Lengths         Distribution
	HolidaysUnknown int     // lengths that leave the coverage of their calendar
	ByDefault       int     // lengths counted by the default calendar, as a stand-in
	Waiting         Waiting // where the question asks for it
}

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
	parts := []ReconciliationPart{{Counted, l.Label(leg.Complete), g.States[leg.Complete] + g.States[leg.Negative]}}
	for s := leg.State(0); s < leg.States; s++ {
		if !s.Counted() {
			parts = append(parts, ReconciliationPart{s.String(), l.Label(s), g.States[s]})
		}
	}
	return parts
}

// ReconciliationLine is the reconciliation in words; kinds without orders are folded.
func (g Group) ReconciliationLine(l leg.Leg) string {
	var terms []string
	for i, p := range g.Reconciliation(l) {
		if i == 0 || p.Orders > 0 {
			terms = append(terms, figure.Count(p.Orders)+" "+p.Label)
		}
	}
	return figure.Counted(g.Orders, "order") + " asked about = " + strings.Join(terms, " + ")
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
		lacks := make([]string, len(p.Lacking))
		for i, lack := range p.Lacking {
			lacks[i] = fmt.Sprintf("%s without `%s`", figure.Count(lack.Orders), lack.Name)
		}
		add(Undecided, p.Placement.Undecided, "undecided (%s)", strings.Join(lacks, ", "))
	}
	return parts
}

// PlacementLine says in words how the period divides the book; empty where all orders are asked about.
func (p Part) PlacementLine(basis milestone.Milestone) string {
	var terms []string
	for _, part := range p.PlacementParts(basis) {
		terms = append(terms, figure.Count(part.Orders)+" "+part.Label)
	}
	if terms == nil {
		return ""
	}
	return figure.Counted(p.Placement.InBook, "order") + " in the book = " + strings.Join(terms, " + ")
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
)

// Ask computes the answer: one pass over the orders for each period.
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
	for lacked, orders := range t.lacking {
		part.Lacking = append(part.Lacking, Lack{lacked, orders})
		part.Placement.Undecided += orders
	}
	slices.SortFunc(part.Lacking, func(a, b Lack) int { return cmp.Or(cmp.Compare(b.Orders, a.Orders), cmp.Compare(a.Name, b.Name)) })
	part.Placement.Asked = part.Placement.InBook - t.outside - t.undated - t.unmet - part.Placement.Undecided
	groups := make([]Group, p.groups)
	for g, count := range p.gather(t) {
		groups[g] = p.group(g, count, t)
	}
	if p.question.Waiting {
		for g, waiting := range p.gatherWaiting() {
			groups[g].Waiting = waiting
		}
	}
	part.Total = total(groups)
	part.Total.Waiting = totalWaiting(groups)
	if len(p.axes) > 0 {
		part.Groups = p.arrange(groups)
	}
	part.Notes = p.notes(asked, part)
	return part
}

// group gathers what was counted under one group's number.
func (p *plan) group(g int, count groupCount, t *tally) Group {
	group := Group{Lengths: count.lengths, HolidaysUnknown: count.outsideCoverage, ByDefault: count.byDefault, Keys: make([]string, len(p.axes))}
	for s := range leg.States {
		group.States[s] = int(t.states[g*int(leg.States)+int(s)])
	}
	// The scan counts negative legs as a state and as a length; complete ones only as a length.
	group.States[leg.Complete] = count.lengths.Orders() - group.States[leg.Negative]
	for _, n := range group.States {
		group.Orders += n
	}
	rest := g
	for i := len(p.axes) - 1; i >= 0; i-- {
		size := len(p.axes[i].labels)
		group.Keys[i] = p.axes[i].labels[rest%size]
		rest /= size
	}
	return group
}

// total adds the groups' orders up; each order lies in exactly one group.
func total(groups []Group) Group {
	var sum Group
	lowest, highest := math.MaxInt, math.MinInt
	for _, g := range groups {
		sum.Orders += g.Orders
		sum.HolidaysUnknown += g.HolidaysUnknown
		sum.ByDefault += g.ByDefault
		for s, n := range g.States {
			sum.States[s] += n
		}
		if len(g.Lengths) > 0 {
			lowest, highest = min(lowest, g.Lengths.Min()), max(highest, g.Lengths.Max())
		}
	}
	if lowest <= highest {
		sum.Lengths = merged(groups, lowest, highest)
	}
	return sum
}

// widest is the range of lengths that are merged by counting; wider ones are sorted.
const widest = 1 << 20

// merged adds the groups' lengths up.
func merged(groups []Group, lowest, highest int) (all Distribution) {
	if highest-lowest < widest {
		orders := make([]int, highest-lowest+1)
		for _, g := range groups {
			for _, bar := range g.Lengths {
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
	var bars []Bar
	for _, g := range groups {
		bars = append(bars, g.Lengths...)
	}
	slices.SortFunc(bars, func(a, b Bar) int { return cmp.Compare(a.Length, b.Length) })
	for _, bar := range bars {
		all = all.with(bar.Length, bar.Orders)
	}
	return all
}

// arrange leaves out groups without an order, but for the steps of a cut that stands alone, and sorts.
func (p *plan) arrange(groups []Group) []Group {
	cutAlone := len(p.axes) == 1 && p.axes[0].grouping.Cut != NoCut
	groups = slices.DeleteFunc(groups, func(g Group) bool {
		return g.Orders == 0 && (!cutAlone || g.Keys[0] == "")
	})
	type ranked struct {
		Group
		mean float64 // −∞ where nothing is counted
	}
	ranking := make([]*ranked, len(groups))
	for i, g := range groups {
		ranking[i] = &ranked{g, math.Inf(-1)}
		if len(g.Lengths) > 0 {
			ranking[i].mean = g.Lengths.Mean()
		}
	}
	slices.SortFunc(ranking, func(a, b *ranked) int {
		for i, axis := range p.axes {
			if axis.grouping.Cut == NoCut {
				continue
			}
			if c := compareNoneLast(a.Keys[i], b.Keys[i]); c != 0 {
				return c
			}
		}
		return cmp.Or(cmp.Compare(b.mean, a.mean), slices.Compare(a.Keys, b.Keys))
	})
	for i, r := range ranking {
		groups[i] = r.Group
	}
	return groups
}

func compareNoneLast(a, b string) int {
	if (a == "") != (b == "") {
		return strings.Compare(b, a)
	}
	return strings.Compare(a, b)
}

// notes gathers what a reader has to know besides the reconciliation.
func (p *plan) notes(asked period.Period, part Part) []Note {
	var notes []Note
	note := func(code string, orders int, format string, values ...any) {
		notes = append(notes, Note{code, orders, fmt.Sprintf(format, values...)})
	}
	q, bounds := p.question, p.book.Bounds()
	if cut := asked.Part(bounds); cut != "" {
		note("part-period", 0, "%s is %s", asked.Text, cut)
	}
	if n := part.Total.negative(q.Measure.Unit); n > 0 {
		note(NoteNegative, n, "%s of the counted have `%s` before `%s` and count with a negative length", figure.Count(n), q.Leg.To.Name, q.Leg.From.Name)
	}
	if n := part.Total.HolidaysUnknown; n > 0 {
		note(NoteHolidaysUnknown, n, "holidays unknown on some day, which then follows the weekly pattern: %s of %s lengths (%s)",
			figure.Count(n), figure.Count(part.Total.Lengths.Orders()), p.coverages())
	}
	if n := part.Total.ByDefault; n > 0 {
		note(NoteDefaultCalendar, n, "counted by the default calendar, since no calendar has the name of the %s: %s of %s lengths", []string{"site, its region or its country", "place, its region or its country"}[q.Side], figure.Count(n), figure.Count(part.Total.Lengths.Orders()))
	}
	if moved, untimed := p.cutOffs(); moved+untimed > 0 {
		if moved > 0 {
			note(NoteCutOff, moved, "came at or after the cut-off of the site, or on a day that is not worked there, and count as ordered on the next working day: %s of %s lengths",
				figure.Count(moved), figure.Count(part.Total.Lengths.Orders()))
		}
		if untimed > 0 {
			note(NoteCutOffUntimed, untimed, "have no time of day, so that the cut-off of the site does not move them: %s of %s lengths",
				figure.Count(untimed), figure.Count(part.Total.Lengths.Orders()))
		}
	}
	if _, latest := p.book.Range(p.end); latest != 0 && !q.Leg.To.Plan && latest < bounds.DataDate {
		note("source-stops", 0, "`%s` is known to %v, the data date is %v", q.Leg.To.Name, latest, bounds.DataDate)
	}
	if edge := p.beginning(asked); edge != "" {
		note("book-begins", 0, "%s", edge)
	}
	return notes
}

// coverages names the calendars of the book's sites that do not know the holidays of all days on which the
// legs lie, each with the days for which it does.
func (p *plan) coverages() string {
	first, last := legDays(p.book, p.start, p.end)
	var names []string
	for _, c := range p.book.Locals(p.question.Side) {
		name := c.Name() + " knows none"
		if c.Coverage().Days() > 0 {
			name = fmt.Sprintf("%s knows %v to %v", c.Name(), c.Coverage().From, c.Coverage().LastDay())
		}
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
	for _, block := range p.cutBlocks() {
		basis := block.Columns[p.basisRow].Known
		for row, end := range block.Columns[p.end].Known {
			start := block.Columns[p.start].Known[row]
			if start == 0 || end < start || uint32(basis[row]-p.basisFrom) >= p.basisWidth || p.truth(block, row) != predicate.True {
				continue
			}
			switch p.cutOff(block, row) {
			case NoteCutOff:
				moved++
			case NoteCutOffUntimed:
				untimed++
			}
		}
	}
	return moved, untimed
}

// cutBlocks are the blocks in which cut-offs count.
func (p *plan) cutBlocks() []*book.Block {
	if !p.moves || !slices.ContainsFunc(p.book.Locals(book.AtSite), func(l book.Local) bool { return l.CutOff >= 0 }) {
		return nil
	}
	return p.book.Blocks()
}

// cutOff is the code of the note on cut-offs that concerns an order; empty where none does.
func (p *plan) cutOff(block *book.Block, row int) string {
	site := p.book.Locals(book.AtSite)[block.Codes[book.Site][row]]
	switch {
	case !p.moves || site.CutOff < 0:
		return ""
	case !site.CutsOff() || block.Columns[p.start].InstantAt(row) == 0:
		return NoteCutOffUntimed
	case block.Moved[row] != block.Columns[p.start].Known[row]:
		return NoteCutOff
	}
	return ""
}

// negative is the number of lengths that count backwards; between instants also those within a day.
func (g Group) negative(u leg.Unit) int {
	if !u.Timed() {
		return g.States[leg.Negative]
	}
	n := 0
	for _, bar := range g.Lengths {
		if bar.Length < 0 {
			n += bar.Orders
		}
	}
	return n
}

// beginning says where a period on a basis later than the leg's start lies so near the first day that
// orders begun before the book are missing from it: within the leg's 95th percentile, in days.
func (p *plan) beginning(asked period.Period) string {
	q := p.question
	placed := !asked.Unbounded() || slices.ContainsFunc(q.By, func(g Grouping) bool { return g.Cut != NoCut })
	if q.Basis == q.Leg.From || !placed {
		return ""
	}
	all := q
	all.Measure, all.Side, all.By, all.Periods = leg.Measure{}, book.AtSite, nil, []period.Period{period.All(p.book.Bounds())}
	all.Where = Where{}
	lengths := total([]Group{newPlan(p.book, all, all.Periods[0]).answerGroup()}).Lengths
	if len(lengths) == 0 {
		return ""
	}
	reach := lengths.Quantile(0.95)
	first := p.book.Bounds().FirstDay
	if float64(asked.Span.From-first) >= reach || asked.Span.LastDay() < first {
		return ""
	}
	return fmt.Sprintf("the book begins here: its first day is %v, and 95%% of these legs take up to %.4g days, so that orders begun before it are missing until %v",
		first, reach, first+day.Day(math.Ceil(reach)))
}

// answerGroup counts all orders as one group, without notes.
func (p *plan) answerGroup() Group {
	t := p.scan()
	return p.group(0, p.gather(t)[0], t)
}
