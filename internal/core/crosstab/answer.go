package crosstab

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// A Cell is what was counted: an amount (units in thousandths, values in minor units), a share of some of all, or lengths.
type Cell struct {
	Amount  int64
	Of      int64 // of a share
	Lengths distribution.Distribution
	// Uncounted are orders that lie there without such a figure: no length, or nothing to tell a share by.
	Uncounted int64
	// Outside says that nothing can be known there: the step lies outside the book by the date.
	Outside bool
}

// Empty says that nothing lies there.
func (c Cell) Empty() bool {
	return c.Amount == 0 && c.Of == 0 && len(c.Lengths) == 0 && c.Uncounted == 0
}

// A Head names a row or a column.
type Head struct {
	Key  string   // empty is none
	Step day.Span // of a step of time
	// Others is how many rows are gathered here, where the first ones alone are shown.
	Others int
	// Of a month of the year: the years in which all of it lies in the days asked about and known, and those in which only
	// some does. Of a weekday, how many of them do.
	Whole, InPart []int
	Days          int
	// Why says why nothing lies in a step, where that can be told.
	Why   string
	codes []int
}

// A Row is a row of a table.
type Row struct {
	Head
	Cells []Cell // by column
	Total Cell
}

// A Table is what one date makes of the question.
type Table struct {
	Basis milestone.Milestone
	Rows  []Row
	Total Row // by column, and of all
	// Places divide all that is asked about, and Orders says of how many orders they have something.
	Places    []Place
	Uncounted int // orders of the days asked about that have no such figure
	// PerWhole is, by column or, where the rows come round, by row, what one of the years or days behind it has in the mean;
	// NaN where there is none.
	PerWhole []float64
	With     int // days with something
	// CalendarDays and WorkingDays are those of the answer's Days that are in the book by the date; the second is worked at
	// some site.
	CalendarDays, WorkingDays int
}

// A Place is what lies inside, before or after the days asked about, or in none of them for some reason.
type Place struct {
	Name   string
	Label  string
	Orders int // with something there
	Cell
}

// A Part is the answer in one currency, or the answer.
type Part struct {
	Currency string // of a value
	Columns  []Head
	Tables   []Table // by basis; the same rows and columns in all
	Bridges  []Bridge
	lane     int
}

// A Bridge leads from what one date places in the days asked about to what another does.
type Bridge struct {
	From, To milestone.Milestone
	Steps    []BridgeStep // seven, which sum to both
}

// A BridgeStep is what lies in one place by the first date and in another by the second.
type BridgeStep struct {
	From, To string // before, inside, after or none
	Amount   int64
}

// An Answer is what a question comes to.
type Answer struct {
	Question   Question
	Bounds     period.Bounds // of what is known by any of the dates
	Book       period.Bounds
	Version    int64
	Days       day.Span // on which the dates are placed
	Population query.Population
	// MetByMissing are the selected orders, with a share those that also meet its condition, that lack one of two values which
	// a condition compares with !=.
	MetByMissing int
	Parts        []Part
	// Lines whose units, and orders whose value, are not known; and orders without a part: they count in no such amount.
	WithoutUnits, WithoutValue, WithoutParts int
	// Differing orders have another value than the sum of their lines; the difference lies under no line.
	Differing int
	Several   int // orders that lie in several cells, and once in the sums
	Decided   PartCounts
}

// Ask computes the answer: one pass over the orders, and another where rows that are gathered must count an order once.
func Ask(b *book.Book, q Question) (Answer, error) {
	p := newPlan(b, q)
	t, population := p.scan()
	a := Answer{Question: q, Bounds: p.bounds(), Book: b.Bounds(), Version: b.Version(), Days: day.Through(p.first, p.last),
		Population: population, MetByMissing: t.metByMissing,
		WithoutUnits: t.withoutUnits, WithoutValue: t.withoutValue, WithoutParts: t.withoutParts, Differing: t.differing,
		Several: t.several, Decided: t.decided}
	if q.Show.Kind != Meeting {
		a.MetByMissing = population.MetByMissing
	}
	sites := p.sitesOf(t)
	for lane := range p.lanes {
		if q.Show.Kind != Value && lane > 0 {
			break
		}
		part, err := p.part(t, lane)
		if err != nil {
			return a, err
		}
		if q.Show.Kind == Value {
			if part.Currency = b.Values(book.Currency)[lane]; !part.counts() {
				continue
			}
		}
		p.explain(&part, t, sites)
		p.markOutside(&part)
		a.Parts = append(a.Parts, part)
	}
	// Most orders first; those of no currency last.
	slices.SortStableFunc(a.Parts, func(x, y Part) int {
		return cmp.Or(cmp.Compare(min(1, len(y.Currency)), min(1, len(x.Currency))), cmp.Compare(t.inCurrency[y.lane],
			t.inCurrency[x.lane]))
	})
	if len(a.Parts) == 0 { // no order has a value
		part, err := p.part(t, 0)
		if err != nil {
			return a, err
		}
		a.Parts = append(a.Parts, part)
	}
	days := p.daysOf(sites)
	for _, part := range a.Parts {
		for k := range part.Tables {
			part.Tables[k].CalendarDays, part.Tables[k].WorkingDays = days[k][0], days[k][1]
		}
	}
	return a, nil
}

// counts says that something is counted in some place.
func (p Part) counts() bool {
	return slices.ContainsFunc(p.Tables, func(t Table) bool {
		return slices.ContainsFunc(t.Places, func(p Place) bool { return !p.Empty() })
	})
}

// counted are the numbers of a tally, with the lengths made into distributions.
type counted struct {
	*tally
	p       *plan
	lane    int
	lengths [4][]distribution.Distribution
}

func (p *plan) counted(t *tally, lane int) *counted {
	c := &counted{tally: t, p: p, lane: lane}
	if p.question.Show.Kind == Length {
		bases := len(p.bases)
		for i, groups := range []int{bases * p.rows * p.columns, bases * p.rows, bases * p.columns, bases} {
			c.lengths[i] = t.lengths[i].Distributions(groups)
		}
	}
	return c
}

// sum adds up some groups of a list of numbers and of lengths.
func (c *counted) sum(numbers []int64, list int, groups []int) (cell Cell) {
	if c.p.question.Show.Kind == Length {
		each := make([]distribution.Distribution, len(groups))
		for i, g := range groups {
			each[i] = c.lengths[list][g]
		}
		cell.Lengths = distribution.Merged(each...)
	}
	if missing := c.missing[list]; missing != nil {
		for _, g := range groups {
			cell.Uncounted += missing[g]
		}
	}
	if c.p.question.Show.Kind == Length {
		return cell
	}
	for _, g := range groups {
		cell.Amount += numbers[g*c.p.lanes+c.lane]
		if c.p.share() {
			cell.Of += numbers[g*c.p.lanes+1]
		}
	}
	return cell
}

func (p *plan) share() bool {
	return p.question.Show.Kind.Share()
}

// cell, row, column and all are what lies in cells of a basis; rows and columns count an order once.
func (c *counted) cell(k int, rows, columns []int) Cell {
	groups := make([]int, 0, len(rows)*len(columns))
	for _, row := range rows {
		for _, column := range columns {
			groups = append(groups, (k*c.p.rows+row)*c.p.columns+column)
		}
	}
	return c.sum(c.cells, 0, groups)
}

// any says whether goods lie in some of the cells of a basis, though they may sum to nothing.
func (c *counted) any(k int, rows, columns []int) bool {
	if !c.p.question.Show.Kind.OfParts() {
		return false
	}
	for _, row := range rows {
		for _, column := range columns {
			if c.cells[((k*c.p.rows+row)*c.p.columns+column)*c.p.lanes+c.lane] != 0 {
				return true
			}
		}
	}
	return false
}

func (c *counted) row(k int, rows []int) Cell {
	if c.p.question.Show.Kind.OfParts() {
		return c.cell(k, rows, c.p.every(1))
	}
	return c.sum(c.rows, 1, shifted(rows, k*c.p.rows))
}

func (c *counted) column(k int, columns []int) Cell {
	if c.p.question.Show.Kind.OfParts() {
		return c.cell(k, c.p.every(0), columns)
	}
	return c.sum(c.columns, 2, shifted(columns, k*c.p.columns))
}

func (c *counted) whole(k int) Cell {
	if c.p.question.Show.Kind.OfParts() {
		return c.place(k, inside)
	}
	return c.sum(c.all, 3, []int{k})
}

func (c *counted) place(k int, at place) (cell Cell) {
	cell.Amount = c.off[c.p.placeAt(k, at, c.lane)]
	if c.p.share() {
		cell.Of = c.off[c.p.placeAt(k, at, 1)]
	}
	if c.p.question.Show.Kind == Length && at == inside {
		return c.whole(k)
	}
	return cell
}

func shifted(codes []int, by int) []int {
	moved := make([]int, len(codes))
	for i, code := range codes {
		moved[i] = code + by
	}
	return moved
}

// every are all codes of an axis.
func (p *plan) every(axis int) []int {
	all := make([]int, []int{p.rows, p.columns}[axis])
	for code := range all {
		all[code] = code
	}
	return all
}

// part makes the answer of one lane.
func (p *plan) part(t *tally, lane int) (Part, error) {
	c := p.counted(t, lane)
	columns := p.heads(1, func(codes []int) bool {
		return slices.ContainsFunc(p.basesAt(), func(k int) bool { return !c.column(k, codes).Empty() || c.any(k, p.every(0), codes) })
	}, func(codes []int) Cell { return c.column(0, codes) })
	rows := p.heads(0, func(codes []int) bool {
		return slices.ContainsFunc(p.basesAt(), func(k int) bool { return !c.row(k, codes).Empty() || c.any(k, codes, p.every(1)) })
	}, func(codes []int) Cell { return c.row(0, codes) })
	if err := p.sort(rows, columns, c); err != nil {
		return Part{}, err
	}
	if top := p.question.Top; top > 0 && top < len(rows) {
		others := Head{Others: len(rows) - top}
		for _, head := range rows[top:] {
			others.codes = append(others.codes, head.codes...)
		}
		if p.byPart && !p.question.Show.Kind.OfParts() {
			// An order can lie in several of the rows that are gathered: they are counted again as one.
			again := *p
			again.rowOf = make([]uint32, p.rows)
			for _, head := range rows[:top] {
				for _, code := range head.codes {
					again.rowOf[code] = uint32(code)
				}
			}
			for _, code := range others.codes {
				again.rowOf[code] = uint32(others.codes[0])
			}
			recounted, _ := again.scan()
			c, others.codes = again.counted(recounted, lane), others.codes[:1]
		}
		rows = append(rows[:top:top], others)
	}
	part := Part{Columns: columns, lane: lane}
	for k := range p.bases {
		part.Tables = append(part.Tables, p.table(c, k, rows, columns))
	}
	part.Bridges = p.bridges(c)
	return part, nil
}

func (p *plan) basesAt() []int {
	all := make([]int, len(p.bases))
	for k := range all {
		all[k] = k
	}
	return all
}

// heads are the rows or the columns that are shown: every step of a cut, and else those with something; by time, else the
// greatest first, then by name. Without a grouping it is one of all.
func (p *plan) heads(at int, holds func(codes []int) bool, size func(codes []int) Cell) (heads []Head) {
	axis := p.axes[at]
	if axis == nil {
		return []Head{{codes: []int{0}}}
	}
	asked := []*query.Grouping{p.question.Rows, p.question.Columns}[at]
	labels := axis.Labels
	if asked.Cut == query.MonthOfYear {
		heads = p.monthsOfYear(axis)
	} else {
		for code := 1; code < len(labels); code++ {
			heads = append(heads, Head{Key: labels[code], Step: axis.Span(code), codes: []int{code}})
		}
	}
	if asked.Cut == query.Weekday && axis.OfBasis() {
		for d := max(p.first, p.bounds().FirstDay); d <= min(p.last, p.bounds().DataDate); d++ {
			heads[asked.Cut.Place(d)].Days++
		}
	}
	heads = append(heads, Head{codes: []int{0}})
	every := asked.Cut != query.NoCut && (axis.OfBasis() || asked.Cut.Cycles())
	heads = slices.DeleteFunc(heads, func(h Head) bool { return !(every && h.codes[0] != 0) && !holds(h.codes) })
	if asked.Cut == query.NoCut {
		slices.SortStableFunc(heads, func(a, b Head) int { return cmp.Compare(axis.Rank(a.codes[0]), axis.Rank(b.codes[0])) })
		p.greatestFirst(heads, size)
	}
	return heads
}

// greatestFirst sorts heads by what lies in them; those alike stay as they stand.
func (p *plan) greatestFirst(heads []Head, size func(codes []int) Cell) {
	type sized struct {
		head Head
		size float64
	}
	all := make([]sized, len(heads))
	for i, h := range heads {
		all[i] = sized{h, p.value(size(h.codes))}
	}
	slices.SortStableFunc(all, func(a, b sized) int { return cmp.Compare(b.size, a.size) })
	for i, one := range all {
		heads[i] = one.head
	}
}

// monthsOfYear gathers the months of an axis by their names, with the years behind each.
func (p *plan) monthsOfYear(axis *query.Axis) []Head {
	heads := make([]Head, query.MonthOfYear.Round())
	first, last := max(p.first, p.bounds().FirstDay), min(p.last, p.bounds().DataDate)
	for m := range heads {
		heads[m].Key = query.MonthOfYear.Name(m)
	}
	for code := 1; code < len(axis.Labels); code++ {
		span := axis.Span(code)
		year, _, _ := span.From.Date()
		h := &heads[query.MonthOfYear.Place(span.From)]
		h.codes = append(h.codes, code)
		switch {
		case !axis.OfBasis() || span.LastDay() < first || span.From > last:
		case span.From >= first && span.LastDay() <= last:
			h.Whole = append(h.Whole, year)
		default:
			h.InPart = append(h.InPart, year)
		}
	}
	for m := range heads {
		if heads[m].codes == nil {
			heads[m].codes = []int{} // the days asked about have no such month
		}
	}
	return slices.DeleteFunc(heads, func(h Head) bool { return len(h.codes) == 0 })
}

// value is the number by which cells are compared; nothing is the least.
func (p *plan) value(c Cell) float64 {
	switch {
	case p.share() && c.Of == 0, p.question.Show.Kind == Length && len(c.Lengths) == 0:
		return math.Inf(-1)
	case p.share():
		return float64(c.Amount) / float64(c.Of)
	case p.question.Show.Kind == Length:
		return p.question.Show.Statistic.Of(c.Lengths)
	}
	return float64(c.Amount)
}

// sort sorts rows as the question says. The error is a *request.Error.
func (p *plan) sort(rows, columns []Head, c *counted) error {
	switch sort := p.question.Sort; sort {
	case "":
	case "total":
		p.greatestFirst(rows, func(codes []int) Cell { return c.row(0, codes) })
	case "name":
		if axis := p.axes[0]; axis != nil {
			slices.SortStableFunc(rows, func(a, b Head) int {
				return cmp.Or(noneLast(a.codes[0], b.codes[0]), cmp.Compare(axis.Time(a.codes[0]), axis.Time(b.codes[0])),
					cmp.Compare(axis.Rank(a.codes[0]), axis.Rank(b.codes[0])))
			})
		}
	default:
		at := slices.IndexFunc(columns, func(h Head) bool { return h.Key == sort })
		if axis := p.axes[1]; at < 0 && axis != nil && slices.Contains(axis.Labels, sort) {
			return nil // nothing of this currency lies there
		}
		if at < 0 {
			var known []string
			for _, h := range columns {
				known = append(known, h.Key)
			}
			return request.Invalid("sort", sort, "want total, name or a column: "+strings.Join(known, ", "))
		}
		p.greatestFirst(rows, func(codes []int) Cell { return c.cell(0, codes, columns[at].codes) })
	}
	return nil
}

// noneLast puts the code of none after all others.
func noneLast(a, b int) int {
	switch {
	case a == 0 && b != 0:
		return 1
	case a != 0 && b == 0:
		return -1
	}
	return 0
}

func (p *plan) table(c *counted, k int, rows, columns []Head) Table {
	t := Table{Basis: p.question.Bases[k], Uncounted: c.uncounted[k]}
	lane := c.lane
	for at := range places {
		t.Places = append(t.Places, Place{placeNames[at], at.label(p.question.Bases[k], p.question.Period),
			c.orders[p.placeAt(k, at, lane)], c.place(k, at)})
	}
	for _, is := range c.withDay[p.dayAt(k, lane, p.first):][:p.days] {
		if is {
			t.With++
		}
	}
	for _, head := range rows {
		row := Row{Head: head, Total: c.row(k, head.codes)}
		for _, column := range columns {
			row.Cells = append(row.Cells, c.cell(k, head.codes, column.codes))
		}
		t.Rows = append(t.Rows, row)
	}
	t.Total.Total = c.whole(k)
	for _, column := range columns {
		t.Total.Cells = append(t.Total.Cells, c.column(k, column.codes))
	}
	t.PerWhole = p.perWhole(c, k, rows, columns)
	return t
}

// perWhole is what one year behind a month of the year, or one day behind a weekday, has in the mean; years in which only
// some of the month is known are left out of it.
func (p *plan) perWhole(c *counted, k int, rows, columns []Head) (means []float64) {
	if !p.question.Show.Kind.AddsUp() {
		return nil
	}
	for i, heads := range [][]Head{columns, rows} {
		axis := p.axes[1-i]
		asked := []*query.Grouping{p.question.Columns, p.question.Rows}[i]
		if axis == nil || !axis.OfBasis() || !asked.Cut.Cycles() {
			continue
		}
		of := c.column
		if i == 1 {
			of = c.row
		}
		for _, h := range heads {
			behind, codes := h.Days, h.codes
			if asked.Cut == query.MonthOfYear {
				behind, codes = len(h.Whole), nil
				for _, code := range h.codes {
					if year, _, _ := axis.Span(code).From.Date(); slices.Contains(h.Whole, year) {
						codes = append(codes, code)
					}
				}
			}
			if means = append(means, math.NaN()); behind > 0 {
				means[len(means)-1] = float64(of(k, codes).Amount) / float64(behind)
			}
		}
		return means
	}
	return nil
}

var bridgeNames = [bridgePlaces]string{"before", "inside", "after", "none"}

// bridges lead from the first basis to each other one: the cells of the table of places in which one of the two is inside.
func (p *plan) bridges(c *counted) (bridges []Bridge) {
	if !p.question.Show.Kind.AddsUp() {
		return nil
	}
	for k := 1; k < len(p.bases); k++ {
		b := Bridge{From: p.question.Bases[0], To: p.question.Bases[k]}
		for _, step := range [][2]int{{1, 1}, {1, 0}, {1, 2}, {1, 3}, {0, 1}, {2, 1}, {3, 1}} {
			b.Steps = append(b.Steps, BridgeStep{bridgeNames[step[0]], bridgeNames[step[1]],
				c.bridge[((k*bridgePlaces+step[0])*bridgePlaces+step[1])*p.lanes+c.lane]})
		}
		bridges = append(bridges, b)
	}
	return bridges
}

// A site is one whose orders are asked about, with its calendar.
type site struct {
	name     string
	calendar *calendar.Calendar
}

// sitesOf are those of the orders that are asked about; of the whole book where none is.
func (p *plan) sitesOf(t *tally) (sites []site) {
	any := slices.Contains(t.calendars, true)
	for code, own := range p.book.Locals(book.AtSite) {
		if t.calendars[code] || !any {
			sites = append(sites, site{cmp.Or(p.book.Values(book.Site)[code], "orders without a site"), own.Calendar})
		}
	}
	return sites
}

// daysOf counts, for each date, the days that are in the book by it, and those of them that some site works.
func (p *plan) daysOf(sites []site) (days [][2]int) {
	var calendars []*calendar.Calendar
	for _, s := range sites {
		if !slices.Contains(calendars, s.calendar) {
			calendars = append(calendars, s.calendar)
		}
	}
	for _, basis := range p.question.Bases {
		counts, bounds := [2]int{}, p.book.Bounds().By(basis)
		for d := max(p.first, bounds.FirstDay); d <= min(p.last, bounds.DataDate); d++ {
			counts[0]++
			if slices.ContainsFunc(calendars, func(c *calendar.Calendar) bool { return c.Works(d) }) {
				counts[1]++
			}
		}
		days = append(days, counts)
	}
	return days
}

// explain says of each empty step why nothing lies in it.
func (p *plan) explain(part *Part, t *tally, sites []site) {
	if p.axes[0] == nil || !p.axes[0].OfBasis() || p.axes[0].OfParts() {
		return
	}
	for i := range part.Tables[0].Rows {
		head := part.Tables[0].Rows[i].Head
		if head.Step.From == 0 || slices.ContainsFunc(p.basesAt(), func(k int) bool { return p.holds(t, k, part.lane, head.Step) }) {
			continue
		}
		why := p.why(head.Step, sites)
		for _, basis := range p.question.Bases {
			if why != notInTheBook && p.book.Bounds().By(basis).Outside(head.Step) {
				why = notInTheBook + " by " + basis.Date() + "; " + why
			}
		}
		for k := range part.Tables {
			part.Tables[k].Rows[i].Why = why
		}
	}
}

// markOutside marks the cells without anything in steps outside the book by their date, where nothing can be known.
func (p *plan) markOutside(part *Part) {
	outside := func(axis int, head Head, basis milestone.Milestone) bool {
		if a := p.axes[axis]; a == nil || !a.OfBasis() || a.OfParts() || head.Step.From == 0 {
			return false
		}
		return p.book.Bounds().By(basis).Outside(head.Step)
	}
	for k := range part.Tables {
		table := &part.Tables[k]
		mark := func(row *Row, all bool) {
			for j := range row.Cells {
				row.Cells[j].Outside = row.Cells[j].Empty() && (all || outside(1, part.Columns[j], table.Basis))
			}
			row.Total.Outside = all && row.Total.Empty()
		}
		for i := range table.Rows {
			mark(&table.Rows[i], outside(0, table.Rows[i].Head, table.Basis))
		}
		mark(&table.Total, false)
	}
}

// holds says whether something lies in some days by a basis: an order whose leg still runs too, though it has no length.
func (p *plan) holds(t *tally, k, lane int, days day.Span) bool {
	first, last := max(days.From, p.first), min(days.LastDay(), p.last)
	return first <= last && slices.Contains(t.withDay[p.dayAt(k, lane, first):p.dayAt(k, lane, last)+1], true)
}

// bounds are those of what is known by the dates: with a plan among them there is no last day.
func (p *plan) bounds() period.Bounds {
	bounds := p.book.Bounds()
	for _, m := range p.question.Bases {
		bounds = bounds.By(m)
	}
	return bounds
}

const notInTheBook = "not in the book"

// why says why nothing lies in some days: outside the book, not worked, or worked and without anything. Over several
// calendars days are not worked only where all rest.
func (p *plan) why(days day.Span, sites []site) string {
	bounds := p.bounds()
	if bounds.Outside(days) {
		return notInTheBook
	}
	if days.Days() > 1 {
		worked := 0
		for d := max(days.From, p.first, bounds.FirstDay); d <= min(days.LastDay(), p.last, bounds.DataDate); d++ {
			if slices.ContainsFunc(sites, func(s site) bool { return s.calendar.Works(d) }) {
				worked++
			}
		}
		if worked == 0 {
			return "no working day"
		}
		return numfmt.Counted(worked, "working day") + " with nothing"
	}
	var open, rest []string
	weekends := 0
	for _, s := range sites {
		kind, name := s.calendar.Kind(days.From)
		switch kind {
		case calendar.Holiday:
			if name = cmp.Or(name, "holiday"); !slices.Contains(rest, name) {
				rest = append(rest, name)
			}
		case calendar.Weekend:
			weekends++
		default:
			open = append(open, s.name)
		}
	}
	switch {
	case len(open) == len(sites):
		return "a working day with nothing"
	case len(open) > 3:
		return "worked at " + numfmt.Count(len(open)) + " of " + numfmt.Counted(len(sites), "site") + " only"
	case len(open) > 0:
		return "worked at " + strings.Join(open, " and ") + " only"
	case len(rest) == 0:
		return "weekend"
	case weekends > 0:
		return "weekend or holiday (" + strings.Join(rest, ", ") + ")"
	}
	return "holiday (" + strings.Join(rest, ", ") + ")"
}
