package present

import (
	"fmt"
	"math"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/estimate"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// legRequest is a leg in the words of the core.
func legRequest(l api.Leg) query.Request {
	return query.Request{From: l.From, To: l.To, In: l.In, Count: l.Count, Calendar: l.Calendar, CutOff: l.CutOff}
}

// placed is a leg with the words that say which orders a question is about.
func placed(l api.Leg, p api.Placing) query.Request {
	r := legRequest(l)
	r.Basis, r.Period, r.By = p.Basis, p.Period, p.By
	return r
}

// TookQuestion understands a question about lengths against a book, which it gives with the dates that the question names. The
// error is a *request.Error.
func TookQuestion(b *book.Book, in *api.TookQuestion) (duration.Question, *book.Book, error) {
	b, err := standIns(b, map[string]string{"from": in.From, "to": in.To, "basis": in.Basis, "promise": in.Promise})
	if err != nil {
		return duration.Question{}, b, err
	}
	if b, err = b.WithStandIns(in.Through...); err != nil {
		return duration.Question{}, b, request.Invalid("through", strings.Join(in.Through, ","), err.Error())
	}
	q, err := duration.Parse(b, duration.Request{Request: placed(in.Leg, in.Placing), Through: in.Through, Promise: in.Promise,
		Show: in.Show})
	if err != nil {
		return q, b, err
	}
	switch u := q.Measure.Unit; {
	case in.Over.Given && in.AtLeast.Given:
		return q, b, request.Invalid("at_least", fmt.Sprint(in.AtLeast.Value), "over and at least are two limits; want one")
	case in.Over.Given:
		q.Limit = &duration.Limit{Ticks: *in.Over.In(u.TicksAtMost)}
	case in.AtLeast.Given:
		q.Limit = &duration.Limit{Ticks: *in.AtLeast.In(u.TicksAtLeast), Least: true}
	}
	for _, text := range in.Keep {
		if share, fault := strconv.ParseFloat(text, 64); fault != nil || !(share > 0 && share < 100) {
			return q, b, request.Invalid("keep", text, "want shares in percent, such as 80,90,95")
		}
	}
	q.Waiting = in.WithRunning || q.Limit != nil || len(in.Keep) > 0
	q.Where, err = Condition(b, "where", in.Where.Where)
	return q, b, err
}

// Took says how long a leg took.
func Took(b *book.Book, in *api.TookQuestion, size Size) (*answer.Document, error) {
	q, b, err := TookQuestion(b, in)
	if err != nil {
		return nil, err
	}
	a := duration.Ask(b, q)
	d := newDocument(b, "took", q.Sentence())
	d.Heading = q.Heading()
	rows := 0
	for _, p := range a.Parts {
		rows += (1 + len(p.Legs)) * (min(size.Rows, len(p.Groups)) + min(size.Rows, len(p.Rows)) + min(size.Rows, len(p.Columns)) + 1)
	}
	word, value := "by", q.ByNames()
	if len(a.Parts) > 1 {
		word, value = "period", fmt.Sprintf("%d periods", len(a.Parts))
	}
	if err := size.fits(rows*(len(q.Show)+1), word, value); err != nil {
		return nil, err
	}
	for _, p := range a.Parts {
		asked := *in
		made := tookPresenter{Answer: a, part: p, in: asked, size: size, estimates: in.WithRunning && q.NoCurve() == ""}
		if len(a.Parts) > 1 {
			made.in.Period = p.Period.Text
		}
		made.to = size.behindOf("took", &made.in)
		part := made.present()
		if len(a.Parts) > 1 {
			part.Title = p.Period.Text
		}
		part.Untested = made.untested(b)
		if (in.WithRunning || len(in.Keep) > 0) && q.NoCurve() != "" {
			part.Notes = append(part.Notes, answer.Note{Code: "no-curve", Text: "there is no estimate with running orders: " + q.NoCurve()})
		}
		d.Parts = append(d.Parts, part)
	}
	if len(a.Parts) > 1 && len(q.Through) == 0 {
		d.Parts = append(d.Parts, periodsBeside(a, d.Parts))
	}
	return d, nil
}

// A tookPresenter lays one part of an answer out.
type tookPresenter struct {
	duration.Answer
	part      duration.Part
	in        api.TookQuestion // about this part alone
	to        behind
	size      Size
	estimates bool
}

func (p *tookPresenter) present() answer.Part {
	q, made := p.Question, newPart("")
	made.Tables = append(made.Tables, p.groupsTable())
	if p.crossed() {
		made.Tables = append(made.Tables, p.crossTable())
		made.Tables[0].Folded = len(q.Show) == 1
		made.Tables[1].Picture = len(q.Show) > 1
	}
	if q.Limit != nil {
		made.Tables = append(made.Tables, p.keyedTable("limit", fmt.Sprintf("How many took %s, finished or still running?",
			q.Limit.Words(q.Measure.Unit)), p.limitColumns(), p.limitCells))
	}
	if q.Promise != nil {
		made.Tables = append(made.Tables, p.keyedTable("promise", "Was the promise kept?", p.promiseColumns(),
			p.promiseCells))
	}
	if p.estimates {
		made.Tables = append(made.Tables, p.keyedTable("estimate", "With the orders that are still running", p.estimateColumns(),
			p.estimateCells))
	}
	if len(p.in.Keep) > 0 && q.NoCurve() == "" {
		made.Tables = append(made.Tables, p.keyedTable("keep", "The shortest promise that can be kept, in "+q.UnitWords(), p.keepColumns(), p.keepCells))
	}
	made.Tables = append(made.Tables, p.workingTable())
	if !p.size.keeps() {
		made.Tables = append(made.Tables, p.spreadTable(), p.distributionTable())
		if p.estimates {
			made.Tables = append(made.Tables, p.curveTable())
		}
	}
	made.Lines = p.lines()
	made.Notes = p.notes()
	return made
}

// untested are kinds of orders that no table counts and that do not occur: on the edges of the period and of the count rule.
func (p *tookPresenter) untested(b *book.Book) (kinds []string) {
	q := p.Question
	kinds = untestedEdges(b, q.Question, p.part.Period)
	least := 0
	if q.Measure.Rule == leg.BothEnds {
		least = q.Measure.Unit.Ticks()
	}
	if lengths := p.part.Total.Lengths; len(lengths) > 0 && lengths.Min() > least && q.Measure.Unit == leg.Days {
		kinds = append(kinds, q.Leg.To.Date()+" on the "+q.Leg.From.Date()+" itself")
	}
	late := func(n answer.Note) bool { return n.Code == duration.NoteCutOff }
	if strings.HasPrefix(q.CutOffWords(), "after") && !slices.ContainsFunc(p.notes(), late) {
		kinds = append(kinds, "after the site's cut-off, or on a day off")
	}
	return kinds
}

// untestedEdges are the edges of a period on which no order lies.
func untestedEdges(b *book.Book, q query.Question, of period.Period) (kinds []string) {
	if of.Unbounded() {
		return nil
	}
	first, last := query.NewScope(b, q, of).OnEdges()
	if !first {
		kinds = append(kinds, q.Basis.Date()+" on the first day of the period")
	}
	if !last && of.Span.LastDay() <= b.Bounds().DataDate {
		kinds = append(kinds, q.Basis.Date()+" on the last day of the period")
	}
	return kinds
}

// counted is a cell of orders by state, of a group.
func (p *tookPresenter) state(n int, to behind, state string) answer.Cell {
	return answer.Orders(n, to.of("state", state))
}

// length is a cell of a length in the unit, with some decimals; −1 is as many as it needs, at most two.
func (p *tookPresenter) length(ticks float64, decimals int) answer.Cell {
	unit := p.Question.Measure.Unit
	if decimals < 0 {
		return lengthCell(ticks, unit)
	}
	return answer.Measured(ticks/float64(unit.Ticks()), decimals)
}

// statistic is a cell of a statistic of lengths.
func (p *tookPresenter) statistic(s distribution.Statistic, d distribution.Distribution) answer.Cell {
	decimals := 1
	switch s.String() {
	case "mean", "standard-deviation":
		decimals = 2
	case "min", "max":
		decimals = -1
	}
	return p.length(s.Of(d), decimals)
}

// keys are the cells that name a group, of all where there are none.
func (p *tookPresenter) keys(keys []string) []answer.Cell {
	if keys == nil {
		return named(slices.Repeat([]string{"all"}, max(1, len(p.Question.By))))
	}
	if len(p.Question.By) == 0 {
		return named([]string{"all"})
	}
	return named(keys)
}

// remarked fills in what has to be known to read a group's row.
func (p *tookPresenter) remarked(r answer.Row, g, whole duration.Group) answer.Row {
	if g.Small() {
		r.Remarks = append(r.Remarks, "few")
	}
	if whole.Step.From == 0 {
		return r
	}
	r.From, r.To = whole.Step.From.String(), whole.Step.LastDay().String()
	known := p.part.Known(whole, p.Question, p.Bounds)
	if known && p.part.Cut(whole, p.Question, p.Bounds) {
		r.Remarks = append(r.Remarks, "part")
	}
	if !known {
		r.Remarks = append(r.Remarks, "not in the book")
	}
	if p.part.Begins(whole) {
		r.Remarks = append(r.Remarks, "book begins")
	}
	return r
}

// heading is what the columns of lengths share; of a chain each leg has its own name.
func (p *tookPresenter) heading() string {
	heading := p.Question.Heading()
	if len(p.Question.Through) > 0 {
		heading = strings.TrimPrefix(heading, p.Question.Leg.From.Date()+" → "+p.Question.Leg.To.Date()+", ")
	}
	return heading
}

// legAddress is the address of one leg of the chain alone, its orders placed as the whole's are.
func (p *tookPresenter) legAddress(l leg.Leg) behind {
	one := p.in
	one.From, one.To, one.Through, one.Promise, one.Over, one.AtLeast, one.Basis = l.From.Name, l.To.Name, nil, "", api.Number{},
		api.Number{}, p.Question.Basis.Name
	return p.size.behindOf("took", &one)
}

// groupsTable has a row for each group, and of a chain one for each of its legs.
func (p *tookPresenter) groupsTable() answer.Table {
	q, chain := p.Question, len(p.Question.Through) > 0
	t := answer.Table{Code: "groups", Columns: keyColumns(q.By, "group"), Rows: []answer.Row{}, Totals: []answer.Row{},
		All: len(p.part.Groups)}
	if chain {
		t.Columns = append(t.Columns, answer.Column{Code: "leg", Heading: "leg", Kind: answer.Text})
		t.All *= 1 + len(p.part.Legs)
	}
	t.Columns = append(t.Columns, answer.Column{Code: "asked", Heading: "selected", Kind: answer.Count},
		answer.Column{Code: "n", Heading: "n", Kind: answer.Count})
	for _, s := range q.Show {
		t.Columns = append(t.Columns, answer.Column{Code: s.String(), Heading: s.String(), Shared: p.heading(), Kind: answer.Number,
			Unit: q.UnitWords()})
	}
	left := p.part.Total.Reconciliation(q.Leg)[1:]
	for _, r := range left {
		heading := r.Label
		if chain {
			heading = strings.ReplaceAll(r.Code, "-", " ")
		}
		t.Columns = append(t.Columns, answer.Column{Code: r.Code, Heading: heading, Kind: answer.Count, Folded: r.Orders == 0 &&
			!(chain && (r.Code == leg.Running.String() || r.Code == leg.Cancelled.String()))})
	}
	inTime := slices.ContainsFunc(p.part.Groups, func(g duration.Group) bool {
		return g.Step.From != 0 &&
			runningShare(g) != runningShare(p.part.Total)
	})
	t.Columns = append(t.Columns, answer.Column{Code: "running_share", Heading: "still running %", Kind: answer.Percent, Folded: !inTime},
		answer.Column{Code: "holidays_unknown", Heading: "holidays unknown", Kind: answer.Count, Folded: p.part.Total.HolidaysUnknown == 0})
	if chain {
		t.Columns = append(t.Columns, answer.Column{Code: "every_leg", Heading: "n, every leg complete", Kind: answer.Count},
			answer.Column{Code: "every_leg_mean", Heading: "mean, every leg complete", Kind: answer.Number, Unit: q.UnitWords()})
	}
	var more []func(g duration.Group, to behind) []answer.Cell
	fold := func(code, shared string, columns []answer.Column, cells func(g duration.Group, to behind) []answer.Cell) {
		for _, c := range columns {
			if c.Shared != "" && c.Shared != shared {
				c.Heading += " " + c.Shared // of what it is
			}
			c.Folded, c.Shared = true, shared
			c.Code = code + "_" + c.Code
			t.Columns = append(t.Columns, c)
		}
		more = append(more, cells)
	}
	if q.Limit != nil {
		fold("limit", q.Limit.Words(q.Measure.Unit), p.limitColumns(), p.limitCells)
	}
	if q.Promise != nil {
		fold("promise", "promise", p.promiseColumns()[1:], func(g duration.Group, to behind) []answer.Cell {
			return p.promiseCells(g,
				to)[1:]
		})
	}
	if p.estimates {
		fold("estimate", "estimate", p.estimateColumns()[1:], func(g duration.Group,
			to behind) []answer.Cell {
			return p.estimateCells(g, to)[1:]
		})
	}
	row := func(g, whole duration.Group, keys []string, l *leg.Leg) answer.Row {
		to := p.to
		r := answer.Row{Cells: p.keys(keys)}
		if chain {
			of := q.Leg
			if l != nil {
				of, to = *l, p.legAddress(*l)
			}
			r.Cells = append(r.Cells, answer.Words(of.From.Date()+" → "+of.To.Date()))
		}
		to = to.group(keys)
		r.Cells = append(r.Cells, answer.Orders(g.Orders, to.of()), p.state(g.Lengths.Orders(), to, duration.Counted))
		for _, s := range q.Show {
			r.Cells = append(r.Cells, p.statistic(s, g.Lengths))
		}
		for _, term := range g.Reconciliation(q.Leg)[1:] {
			r.Cells = append(r.Cells, p.state(term.Orders, to, term.Code))
		}
		r.Cells = append(r.Cells, percent(int(g.States[leg.Running]), g.Orders), answer.Orders(g.HolidaysUnknown,
			to.of("note", duration.NoteHolidaysUnknown)))
		if chain {
			every := p.to.group(keys)
			r.Cells = append(r.Cells, answer.Orders(g.Every.Orders, every.of("state", duration.EveryLeg)), p.length(g.Every.Mean(), 2))
		}
		for _, cells := range more {
			if l != nil {
				r.Cells = append(r.Cells, make([]answer.Cell, len(cells(whole, to)))...)
			} else {
				r.Cells = append(r.Cells, cells(g, to)...)
			}
		}
		return p.remarked(r, g, whole)
	}
	for i, g := range first(p.part.Groups, p.size) {
		for _, l := range p.part.Legs {
			t.Rows = append(t.Rows, row(l.Groups[i], g, g.Keys, &l.Leg))
		}
		t.Rows = append(t.Rows, row(g, g, g.Keys, nil))
	}
	for _, l := range p.part.Legs {
		t.Totals = append(t.Totals, row(l.Total, p.part.Total, nil, &l.Leg))
	}
	t.Totals = append(t.Totals, row(p.part.Total, p.part.Total, nil, nil))
	return t
}

func runningShare(g duration.Group) string {
	return numfmt.Percent(int(g.States[leg.Running]), g.Orders)
}

// percent is a cell of how much some are of all; no value of nothing.
func percent(some, all int) answer.Cell {
	if all == 0 {
		return answer.Cell{}
	}
	return answer.Written(numfmt.Percent(some, all), 100*float64(some)/float64(all))
}

// keyedTable has a row for each group, with cells of its own.
func (p *tookPresenter) keyedTable(code, title string, columns []answer.Column, cells func(g duration.Group,
	to behind) []answer.Cell) answer.Table {
	t := answer.Table{Code: code, Title: title, Columns: append(keyColumns(p.Question.By, "group"), columns...), Rows: []answer.Row{},
		Totals: []answer.Row{}, All: len(p.part.Groups)}
	for _, g := range first(p.part.Groups, p.size) {
		t.Rows = append(t.Rows, p.remarked(answer.Row{Cells: append(p.keys(g.Keys), cells(g, p.to.group(g.Keys))...)}, duration.Group{}, g))
	}
	t.Totals = append(t.Totals, answer.Row{Cells: append(p.keys(nil), cells(p.part.Total, p.to)...)})
	return t
}

func (p *tookPresenter) limitColumns() []answer.Column {
	shared := p.Question.Limit.Words(p.Question.Measure.Unit)
	return []answer.Column{
		{Code: "finished", Heading: "finished", Shared: shared, Kind: answer.Count}, {Code: "waiting", Heading: "still waiting",
			Shared: shared, Kind: answer.Count},
		{Code: "within", Heading: "finished within", Kind: answer.Count}, {Code: "undecided", Heading: "undecided", Kind: answer.Count},
		{Code: "share", Heading: "share %", Kind: answer.Percent}, {Code: "low", Heading: "at least %", Kind: answer.Percent},
		{Code: "high", Heading: "at most %", Kind: answer.Percent},
		{Code: "cancelled", Heading: "cancelled over it", Kind: answer.Count}}
}

// limitCells say how many of a group went over the limit, with those that still wait and the bounds that the undecided allow.
func (p *tookPresenter) limitCells(g duration.Group, to behind) []answer.Cell {
	o := g.Over(*p.Question.Limit)
	share, low, high := o.Share()
	of := func(n int, outcome string) answer.Cell { return answer.Orders(n, to.of("beyond", outcome)) }
	return []answer.Cell{of(o.Finished, duration.Finished), of(o.Waiting, duration.StillWaiting), of(o.Within, duration.Within),
		of(o.Undecided, duration.NotOver),
		percent(share[0], share[1]), percent(low[0], low[1]), percent(high[0], high[1]), of(o.Cancelled, duration.CancelledOver)}
}

// outcomes are those of a promise that some order has; hardly any book has orders that have not begun.
func (p *tookPresenter) outcomes() (outcomes []promise.Outcome) {
	for o := range promise.Outcomes {
		if o != promise.NotBegun || p.part.Total.Kept.Orders[o] > 0 {
			outcomes = append(outcomes, o)
		}
	}
	return outcomes
}

func (p *tookPresenter) promiseColumns() (columns []answer.Column) {
	columns = append(columns, answer.Column{Code: "asked", Heading: "selected", Kind: answer.Count})
	for _, o := range p.outcomes() {
		columns = append(columns, answer.Column{Code: o.String(), Heading: o.Label(p.Question.Leg.To), Kind: answer.Count})
	}
	const shared = "working days late"
	return append(columns, answer.Column{Code: "late", Heading: "late", Kind: answer.Count, Folded: true},
		answer.Column{Code: "late_of", Heading: "of", Kind: answer.Count, Folded: true},
		answer.Column{Code: "late_share", Heading: "late %", Kind: answer.Percent},
		answer.Column{Code: "late_median", Heading: "median", Shared: shared, Kind: answer.Number, Unit: "working days"},
		answer.Column{Code: "late_p90", Heading: "p90", Shared: shared, Kind: answer.Number, Unit: "working days"},
		answer.Column{Code: "late_max", Heading: "max", Shared: shared, Kind: answer.Number, Unit: "working days"})
}

// promiseCells say how many of a group came early, on the day or late.
func (p *tookPresenter) promiseCells(g duration.Group, to behind) []answer.Cell {
	cells := []answer.Cell{answer.Orders(g.Orders, to.of())}
	for _, o := range p.outcomes() {
		cells = append(cells, answer.Orders(g.Kept.Orders[o], to.of("standing", o.String())))
	}
	late, told := g.Kept.LateShare()
	sizes := g.Kept.Sizes[promise.ReachedLate]
	longest := answer.Cell{}
	if len(sizes) > 0 {
		longest = answer.Measured(float64(sizes.Max()), 0)
	}
	return append(cells, answer.Orders(late, to.of("standing", duration.LateOutcomes)), answer.Whole(told), percent(late, told),
		answer.Measured(sizes.Quantile(0.5), 1), answer.Measured(sizes.Quantile(0.9), 1), longest)
}

func (p *tookPresenter) estimateColumns() []answer.Column {
	unit := p.Question.UnitWords()
	return []answer.Column{{Code: "median", Heading: "median", Shared: p.heading(), Kind: answer.Number, Unit: unit},
		{Code: "running", Heading: "still running", Kind: answer.Count}, {Code: "cancelled", Heading: "cancelled", Kind: answer.Count,
			Folded: true},
		{Code: "with_running", Heading: "median with running", Shared: p.heading(), Kind: answer.Number, Unit: unit}}
}

func (p *tookPresenter) keepColumns() []answer.Column {
	unit := p.Question.UnitWords()
	columns := []answer.Column{{Code: "n", Heading: "n", Kind: answer.Count}, {Code: "running", Heading: "still running", Kind: answer.Count}}
	for _, share := range p.in.Keep {
		shared := share + "% keep"
		columns = append(columns, answer.Column{Code: "keep_" + share, Heading: "within", Shared: shared, Kind: answer.Number, Unit: unit},
			answer.Column{Code: "keep_" + share + "_low", Heading: "95% from", Shared: shared, Kind: answer.Number, Unit: unit},
			answer.Column{Code: "keep_" + share + "_high", Heading: "to", Shared: shared, Kind: answer.Number, Unit: unit})
	}
	return columns
}

// keepCells are the shortest lengths within which shares of a group end, whatever becomes of those that still run.
func (p *tookPresenter) keepCells(g duration.Group, to behind) []answer.Cell {
	cells := []answer.Cell{p.state(g.Lengths.Orders(), to, duration.Counted),
		answer.Orders(g.Waiting.Running.Orders()+g.Waiting.Untold, to.of("state", leg.Running.String()))}
	curve := g.Curve()
	for _, text := range p.in.Keep {
		share, _ := strconv.ParseFloat(text, 64) // TookQuestion has checked it
		length, low, high := curve.Kept(share / 100)
		for i, ticks := range []int{length, low, high} {
			switch {
			case ticks != estimate.Never:
				cells = append(cells, p.length(float64(ticks), -1))
			case i == 0 && g.Orders > 0:
				cells = append(cells, answer.Cell{Text: "not reached"})
			default:
				cells = append(cells, answer.Cell{})
			}
		}
	}
	return cells
}

// estimateCells put the plain median beside the one that counts what is known of running orders.
func (p *tookPresenter) estimateCells(g duration.Group, to behind) []answer.Cell {
	median, reached := g.Curve().Median()
	with := p.length(median, -1)
	if !reached {
		with = answer.Cell{Text: numfmt.Either(g.Orders > 0, "not reached", "")}
	}
	return []answer.Cell{p.length(g.Lengths.Quantile(0.5), 1), answer.Orders(g.Waiting.Running.Orders()+g.Waiting.Untold,
		to.of("state", leg.Running.String())), answer.Whole(g.Waiting.Cancelled.Orders()), with}
}

// along is the address of the question by one of its two groupings alone.
func (p *tookPresenter) along(axis int) behind {
	one := p.in
	one.By, one.Basis = []string{p.Question.By[axis].String()}, p.Question.Basis.Name
	return p.size.behindOf("took", &one)
}

// crossed says whether rows by columns can be laid out: many groups of few pairs would be a table of mostly nothing.
func (p *tookPresenter) crossed() bool {
	rows, columns := len(p.part.Rows), len(p.part.Columns)
	return len(p.Question.By) == 2 && len(p.Question.Through) == 0 && columns <= mostCrossColumns && (rows+1)*(columns+1) <= ToRead.Cells
}

// mostCrossColumns bounds the columns of rows by columns; the list has every pair.
const mostCrossColumns = 1000

// crossTable lays one statistic out by two groupings, with the number of lengths in brackets.
func (p *tookPresenter) crossTable() answer.Table {
	q, show := p.Question, p.Question.Show[0]
	shared := fmt.Sprintf("%v: %v (n), %s", q.By[1], show, q.Heading())
	t := answer.Table{Code: "cross", Columns: keyColumns(q.By[:1], ""), Rows: []answer.Row{}, Totals: []answer.Row{}, All: len(p.part.Rows)}
	columns, places := first(p.part.Columns, p.size), map[[2]string]*duration.Group{}
	for i := range p.part.Groups {
		g := &p.part.Groups[i]
		places[[2]string(g.Keys)] = g
	}
	name := func(g duration.Group) string {
		r := p.remarked(answer.Row{}, duration.Group{}, g)
		return named(g.Keys)[0].Text + numfmt.Either(r.Remarks != nil, " ("+strings.Join(r.Remarks, ", ")+")", "")
	}
	for _, c := range columns {
		t.Columns = append(t.Columns, answer.Column{Code: c.Keys[0], Heading: name(c), Shared: shared, Kind: answer.Number,
			Unit: q.UnitWords()})
	}
	t.Columns = append(t.Columns, answer.Column{Code: "all", Heading: "all", Shared: shared, Kind: answer.Number, Unit: q.UnitWords()})
	cell := func(g *duration.Group, to behind) answer.Cell {
		if g == nil || len(g.Lengths) == 0 {
			return answer.Cell{}
		}
		c := p.statistic(show, g.Lengths)
		c.Text += " (" + numfmt.Count(g.Lengths.Orders()) + numfmt.Either(g.Small(), "†", "") + ")"
		c.Behind = to.of("state", duration.Counted)
		return c
	}
	alongRows, alongColumns := p.along(0), p.along(1)
	for _, r := range first(p.part.Rows, p.size) {
		row := p.remarked(answer.Row{Cells: named(r.Keys)}, duration.Group{}, r)
		for _, c := range columns {
			keys := []string{r.Keys[0], c.Keys[0]}
			row.Cells = append(row.Cells, cell(places[[2]string(keys)], p.to.group(keys)))
		}
		row.Cells = append(row.Cells, cell(&r, alongRows.group(r.Keys)))
		t.Rows = append(t.Rows, row)
	}
	total := answer.Row{Cells: []answer.Cell{answer.Words("all")}}
	for _, c := range columns {
		total.Cells = append(total.Cells, cell(&c, alongColumns.group(c.Keys)))
	}
	t.Totals = append(t.Totals, answer.Row{Cells: append(total.Cells, cell(&p.part.Total, p.to))})
	return t
}

// workingTable shows what each step leaves of the orders in the book, and what it leaves out.
func (p *tookPresenter) workingTable() answer.Table {
	t := answer.Table{Code: "working", Title: "The working, step by step", Folded: true, Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: []answer.Column{
			{Code: "step", Heading: "step", Kind: answer.Text}, {Code: "orders", Heading: "orders", Kind: answer.Count},
			{Code: "left_out", Heading: "left out by it", Kind: answer.Text}, {Code: "left_orders", Heading: "orders left out",
				Kind: answer.Count}}}
	left := map[string]behind{duration.StepBook: p.inBook(), duration.StepPeriod: p.inPeriod()}
	for _, step := range p.part.Steps(p.Question) {
		to, known := left[step.Code]
		address := to.of()
		switch {
		case step.Code == duration.StepCondition:
			address = p.to.of()
		case !known:
			address = p.to.of("state", step.Code)
		}
		t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{answer.Words(step.Label), answer.Orders(step.Orders, address), {}, {}}})
		for _, r := range step.Left {
			word := "state"
			if step.Code == duration.StepPeriod || step.Code == duration.StepCondition {
				word = "placed"
			}
			t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{{}, {}, answer.Words(r.Label),
				answer.Orders(r.Orders, p.to.of(word, r.Code))}})
		}
	}
	t.All = len(t.Rows)
	return t
}

// inPeriod is the address of the question without its condition.
func (p *tookPresenter) inPeriod() behind {
	one := p.in
	one.Where.Where = ""
	return p.size.behindOf("took", &one)
}

// inBook is the address of the question without its condition and its period.
func (p *tookPresenter) inBook() behind { return p.inPeriod().within("") }

// spreadTable is what pictures of groups are drawn from: every set of groups, with what lies between the shortest and the longest.
func (p *tookPresenter) spreadTable() answer.Table {
	q := p.Question
	t := answer.Table{Code: "spread", Picture: true, Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "set", Heading: "set", Kind: answer.Text}, {Code: "name", Heading: "name", Kind: answer.Text},
		{Code: "other", Heading: "second key", Kind: answer.Text}, {Code: "asked", Heading: "selected", Kind: answer.Count},
		{Code: "n", Heading: "n", Kind: answer.Count}, {Code: "running", Heading: "still running", Kind: answer.Count}}}
	quantiles := []float64{0, 0.1, 0.25, 0.5, 0.75, 0.9, 1}
	for _, code := range []string{"min", "p10", "p25", "median", "p75", "p90", "max"} {
		t.Columns = append(t.Columns, answer.Column{Code: code, Heading: code, Kind: answer.Number, Unit: q.UnitWords()})
	}
	t.Columns = append(t.Columns, answer.Column{Code: "mean", Heading: "mean", Kind: answer.Number, Unit: q.UnitWords()})
	add := func(set, name, other string, g, whole duration.Group, to behind) {
		cells := []answer.Cell{answer.Words(set), answer.Words(name), answer.Words(other), answer.Orders(g.Orders, to.of()),
			p.state(g.Lengths.Orders(), to, duration.Counted), p.state(int(g.States[leg.Running]), to, leg.Running.String())}
		for _, quantile := range quantiles {
			cells = append(cells, p.length(g.Lengths.Quantile(quantile), -1))
		}
		cells = append(cells, p.length(g.Lengths.Mean(), 2))
		t.Rows = append(t.Rows, p.remarked(answer.Row{Cells: cells}, g, whole))
	}
	for _, g := range first(p.part.Groups, p.size) {
		keys := named(g.Keys)
		other := ""
		if len(keys) == 2 {
			other = keys[1].Text
		}
		if len(keys) > 0 {
			add("groups", keys[0].Text, other, g, g, p.to.group(g.Keys))
		}
	}
	for axis, sums := range [][]duration.Group{p.part.Rows, p.part.Columns} {
		if len(sums) == 0 {
			continue
		}
		to := p.along(axis)
		for _, g := range first(sums, p.size) {
			add([]string{"rows", "columns"}[axis], named(g.Keys)[0].Text, "", g, g, to.group(g.Keys))
		}
	}
	for _, l := range p.part.Legs {
		add("legs", l.Leg.From.Date()+" → "+l.Leg.To.Date(), "", l.Total, l.Total, p.legAddress(l.Leg))
	}
	add("all", numfmt.Either(len(p.part.Legs) > 0, q.Leg.From.Date()+" → "+q.Leg.To.Date(), "all"), "", p.part.Total, p.part.Total, p.to)
	t.All = len(t.Rows)
	return t
}

// mostBars bounds the bars of a distribution; lengths in days stay below it but for wild data.
const mostBars = 400

// distributionTable has the lengths that occur, shortest first; with very many, gathered in stretches.
func (p *tookPresenter) distributionTable() answer.Table {
	unit := p.Question.Measure.Unit
	bars, width := p.part.Total.Lengths, 1
	if unit.Ticks() > 1 || len(bars) > mostBars {
		bars, width = bars.Gathered(unit.Stretch(), mostBars)
	}
	t := answer.Table{Code: "distribution", Picture: true, All: len(bars), Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: []answer.Column{
			{Code: "length", Heading: "from", Kind: answer.Number, Unit: p.Question.UnitWords()},
			{Code: "longest", Heading: "to", Kind: answer.Number, Unit: p.Question.UnitWords()},
			{Code: "width", Heading: "width", Kind: answer.Number, Unit: p.Question.UnitWords()},
			{Code: "orders", Heading: "orders", Kind: answer.Count}}}
	for _, bar := range bars {
		from, to := unit.Number(bar.Length), unit.Number(bar.Length+width-1)
		written := func(x float64) string { return strconv.FormatFloat(x, 'g', -1, 64) }
		t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{answer.Measured(from, 2), answer.Measured(to, 2),
			answer.Measured(unit.Number(width), 2), answer.Orders(bar.Orders, p.to.of("shortest", written(from), "longest", written(to)))}})
	}
	return t
}

// curveTable is the product-limit estimate with the orders that still run, and the shares of all by each length.
func (p *tookPresenter) curveTable() answer.Table {
	g := p.part.Total
	t := answer.Table{Code: "curve", Picture: true, Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "length", Heading: "length", Kind: answer.Number, Unit: p.Question.UnitWords()},
		{Code: "at_risk", Heading: "at risk", Kind: answer.Count}, {Code: "ended", Heading: "ended", Kind: answer.Count}}}
	for _, code := range []string{"beyond", "low", "high", "done", "cancelled"} {
		t.Columns = append(t.Columns, answer.Column{Code: code, Heading: code + " %", Kind: answer.Percent})
	}
	curve, at := g.Curve(), 0
	last := estimate.Point{Beyond: 1, Low: math.NaN(), High: math.NaN()}
	share := func(x float64) answer.Cell { return answer.Measured(100*x, 2) }
	for _, s := range g.Shares() {
		risk, ended := 0, 0
		if at < len(curve) && curve[at].Length == s.Length {
			last = curve[at]
			risk, ended = last.AtRisk, last.Ended
			at++
		}
		t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{p.length(float64(s.Length), -1), answer.Whole(risk), answer.Whole(ended),
			share(last.Beyond), share(last.Low), share(last.High), share(s.Ended), share(s.Cancelled)}})
	}
	t.All = len(t.Rows)
	return t
}

func (p *tookPresenter) lines() []answer.Line {
	return append([]answer.Line{reconciled(p.part.Total, p.Question.Leg, p.to)},
		inBook(p.part.Population, p.Question.Question, p.to, p.inBook())...)
}

// reconciled is what the legs of the selected orders are; what is of no order is folded.
func reconciled(g duration.Group, l leg.Leg, to behind) answer.Line {
	var terms []answer.Term
	for i, t := range g.Reconciliation(l) {
		if i == 0 || t.Orders > 0 {
			terms = append(terms, answer.Term{Label: t.Label, Orders: t.Orders, Behind: to.of("state", t.Code)})
		}
	}
	return answer.NewLine(numfmt.Counted(g.Orders, "order")+" selected",
		answer.Term{Label: "selected", Orders: g.Orders, Behind: to.of()}, terms...)
}

// inBook is what the period and the condition make of the orders in the book, of which whole is the address; none where all are
// asked about.
func inBook(p query.Population, q query.Question, to, whole behind) []answer.Line {
	if p.Terms(q.Basis) == nil {
		return nil
	}
	return []answer.Line{answer.NewLine(numfmt.Counted(p.InBook, "order")+" in the book",
		answer.Term{Label: "in the book", Orders: p.InBook, Behind: whole.of()},
		append([]answer.Term{{Label: "selected", Orders: p.Asked, Behind: to.of()}}, leftOut(p, q, to)...)...)}
}

func (p *tookPresenter) notes() (notes []answer.Note) {
	notes = []answer.Note{}
	for _, n := range p.part.Notes {
		note := answer.Note{Code: n.Code, Text: n.Text, Orders: n.Orders}
		if n.Orders > 0 {
			note.Behind = p.to.of("note", n.Code)
		}
		notes = append(notes, note)
	}
	add := func(code, text string) { notes = append(notes, answer.Note{Code: code, Text: text}) }
	if line := p.part.ChainLine(p.Question); line != "" {
		add("chain", line)
	}
	if q := p.Question; len(q.Show) == 1 && len(q.By) == 2 && len(q.Through) == 0 && !p.crossed() {
		add("cross", fmt.Sprintf("a table of %s rows by %s columns would be mostly empty, so each pair that occurs has a row",
			numfmt.Count(len(p.part.Rows)), numfmt.Count(len(p.part.Columns))))
	}
	if p.Question.Limit != nil {
		add("limit", "the share over the limit is of the orders whose outcome is known; undecided orders are still running and not over it yet: at least and at most are the shares if none or all of them go over; orders that were over it when they were cancelled are shown beside the share and are not in it")
	}
	if kept := p.part.Total.Kept; kept != nil {
		late, told := kept.LateShare()
		add("promise", fmt.Sprintf("late %%: %s late, open or not, of %s whose outcome is known: they have come, or were due before %v; what is due on that day is not late", numfmt.Count(late), numfmt.Count(told), p.Bounds.DataDate))
	}
	if p.estimates {
		add("estimate", p.estimateWords()+"; the product-limit estimate, if no order were cancelled: an order that still runs counts as longer than it has run so far, a cancelled one as longer than it had run when it was cancelled")
	}
	if slices.ContainsFunc(p.part.Groups, duration.Group.Small) || p.part.Total.Small() {
		add("few", fmt.Sprintf("few: fewer than %d lengths, whose percentiles say little", duration.SmallGroup))
	}
	if slices.ContainsFunc(p.Question.Show, func(s distribution.Statistic) bool { return strings.HasPrefix(s.String(), "p") }) {
		add("percentile", "p90 is the 90th percentile")
	}
	return notes
}

// estimateWords say what running orders change, in words of the trade.
func (p *tookPresenter) estimateWords() string {
	g, q := p.part.Total, p.Question
	running, cancelled := g.Waiting.Running.Orders(), g.Waiting.Cancelled.Orders()
	left := numfmt.Count(running) + " still running"
	if cancelled > 0 {
		left += " and " + numfmt.Count(cancelled) + " cancelled"
	}
	median, reached := g.Curve().Median()
	plain, with := p.length(g.Lengths.Quantile(0.5), -1).Text, p.length(median, -1).Text
	switch {
	case g.Lengths.Orders() == 0:
		return "no order has a " + q.Leg.To.Date() + " yet"
	case running+cancelled == 0:
		return "no order is still running or cancelled, so the plain figures hold"
	case !reached:
		return left + ": the records do not show half " + q.Leg.To.Name
	}
	words := fmt.Sprintf("%s; if no order were cancelled, half would be %s within %s %s", left, q.Leg.To.Name, with, q.Measure.Unit.Words())
	return words + numfmt.Either(with != plain, ", not "+plain, "")
}

// tookOrders are those behind a number of the answer.
func tookOrders(b *book.Book, words url.Values) (*Orders, picks, error) {
	in := &api.TookQuestion{}
	pick, err := read("took", in, words)
	if err != nil {
		return nil, pick, err
	}
	q, b, err := TookQuestion(b, in)
	switch {
	case err != nil:
		return nil, pick, err
	case len(q.Periods) > 1:
		return nil, pick, request.Invalid("period", in.Period, "a list of orders takes one period")
	}
	o := &Orders{Book: b, Question: q}
	o.Selection = duration.Selection{Keys: pick.keys(), State: pick.take("state"), Note: pick.take("note"),
		LimitOutcome: pick.take("beyond"), Standing: pick.take("standing")}
	if o.Selection.Placed, err = pick.placement(); err != nil {
		return nil, pick, err
	}
	for _, bound := range []struct {
		word  string
		ticks func(float64) int
		into  **int
	}{{"shortest", q.Measure.Unit.TicksAtLeast, &o.Selection.Shortest}, {"longest", q.Measure.Unit.TicksAtMost, &o.Selection.Longest}} {
		n, err := pick.number(bound.word)
		if err != nil {
			return nil, pick, err
		}
		*bound.into = n.In(bound.ticks)
	}
	return o, pick, nil
}
