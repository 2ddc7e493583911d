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
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/status"
	"prairiedusk/internal/core/statuses"
	"prairiedusk/internal/filter"
)

// The four questions about statuses, as addresses name them.
const (
	statusLatest      = "status-latest"
	statusTimes       = "status-times"
	statusTransitions = "status-transitions"
	statusPeriods     = "status-periods"
)

// statusQuestion understands the words of any of the four questions.
func statusQuestion(b *book.Book, history api.History, r status.Request, where string) (status.Question, error) {
	r.In, r.Calendar, r.Source, r.MaxGap = history.In, history.Calendar, history.Source, history.MaxGap
	q, err := status.Parse(b, r)
	if err != nil {
		return q, err
	}
	q.Where, err = Condition(b, "where", where)
	return q, err
}

// picking is a question of which a condition on status periods picks what it counts.
func picking(b *book.Book, q status.Question, text string, err error) (status.Question, error) {
	if err != nil || text == "" {
		return q, err
	}
	parsed, err := filter.ParseParts(status.WithPeriods(b), book.Statuses, "period", text)
	if err != nil {
		return q, request.Invalid("status_periods", text, err.Error())
	}
	q.Picks = query.Where{Text: parsed.Text, Condition: parsed.Predicate, Decimals: Decimals}
	return q, nil
}

// LatestQuestion understands a question about where orders stand.
func LatestQuestion(b *book.Book, in *api.StatusLatestQuestion) (status.Question, error) {
	return statusQuestion(b, in.History, status.Request{By: in.By, At: in.At}, in.Where.Where)
}

// TimesQuestion understands a question about the time in each status.
func TimesQuestion(b *book.Book, in *api.StatusTimesQuestion) (status.Question, error) {
	q, err := statusQuestion(b, in.History, status.Request{By: in.By, Period: in.Period, Each: in.Each}, in.Where.Where)
	return picking(b, q, in.StatusPeriods, err)
}

// TransitionsQuestion understands a question about transitions.
func TransitionsQuestion(b *book.Book, in *api.StatusTransitionsQuestion) (status.Question, error) {
	return statusQuestion(b, in.History, status.Request{Period: in.Period}, in.Where.Where)
}

// PeriodsQuestion understands a question about single status periods.
func PeriodsQuestion(b *book.Book, in *api.StatusPeriodsQuestion) (status.Question, error) {
	q, err := statusQuestion(b, in.History, status.Request{Period: in.Period}, in.Where.Where)
	return picking(b, q, in.StatusPeriods, err)
}

// A statusPresenter lays answers about statuses out.
type statusPresenter struct {
	history  *statuses.History
	question status.Question
	to       behind
	size     Size
}

// present makes the document of a question, with what all four have alike.
func (p *statusPresenter) present(analysis string, asked status.Asked, part answer.Part, a status.Answer) *answer.Document {
	b, q := p.history.Book(), p.question
	d := newDocument(b, analysis, q.Sentence(asked))
	d.Heading = p.heading()
	if left := leftOut(a.Population, q.Question, p.to); left != nil {
		part.Lines = append(part.Lines, answer.NewLine(numfmt.Counted(a.Population.InBook, "order")+" in the book",
			answer.Term{Label: "in the book", Orders: a.Population.InBook},
			append([]answer.Term{{Label: "selected", Orders: a.Population.Asked, Behind: p.to.of()}}, left...)...))
	}
	if q.Picks.Condition != nil {
		part.Lines = append(part.Lines, decidedLine("status period", "that began in the period", a.Decided))
	}
	part.Notes = slices.Concat([]answer.Note{}, p.notes(a), part.Notes)
	if a.Ambiguous == 0 {
		part.Untested = append(part.Untested, "two statuses recorded for one moment")
	}
	if a.Disagreeing == 0 && q.Source == statuses.Either {
		part.Untested = append(part.Untested, "a daily list that says something else than the events")
	}
	d.Parts = append(d.Parts, part)
	return d
}

// heading says what lengths are of.
func (p *statusPresenter) heading() string { return p.question.UnitWords() + ", start day not counted" }

// orders is a cell of orders that a pick names.
func (p *statusPresenter) orders(n int, to behind, pick string) answer.Cell {
	return answer.Orders(n, to.of("list", pick))
}

// name is that of a status.
func (p *statusPresenter) name(code int) string { return p.history.Statuses[code].Name }

// shown are the statuses that an answer speaks of, in their order; the silence is among them where there is one.
func (p *statusPresenter) shown(total status.Group) (codes []int) {
	for code := range p.history.Statuses {
		if code > int(statuses.NotSeen) || total.Cells[code].Count > 0 {
			codes = append(codes, code)
		}
	}
	return codes
}

// lengthColumns are those of statistics of lengths, under a head that they share.
func (p *statusPresenter) lengthColumns(of string) (columns []answer.Column) {
	for _, c := range [][2]string{{"mean", "mean"}, {"median", "median"}, {"p90", "p90"}, {"longest", "longest"}} {
		columns = append(columns, answer.Column{Code: c[0], Heading: c[1], Shared: of + ", " + p.heading(), Kind: answer.Number,
			Unit: p.question.UnitWords()})
	}
	return columns
}

// lengths are their cells.
func (p *statusPresenter) lengths(d distribution.Distribution) []answer.Cell {
	unit := p.question.Measure.Unit
	if len(d) == 0 {
		return make([]answer.Cell, 4)
	}
	ticks := float64(unit.Ticks())
	return []answer.Cell{answer.Measured(d.Mean()/ticks, 2), answer.Measured(d.Quantile(0.5)/ticks, 1),
		answer.Measured(d.Quantile(0.9)/ticks, 1), lengthCell(float64(d.Max()), unit)}
}

// orderDays is a cell of all lengths together.
func orderDays(days float64) answer.Cell {
	return answer.Written(numfmt.Count(int(math.Round(days))), days)
}

// fits refuses an answer that is too long.
func (p *statusPresenter) fits(a status.Answer) error {
	word, value := "by", p.question.ByNames()
	if p.question.Each != query.NoCut {
		word, value = "each", p.question.Each.String()
	}
	return p.size.fits(min(len(a.Groups), p.size.Rows)*len(a.Total.Cells), word, value)
}

// StatusLatest says where orders stood at the end of a day, and for how long.
func StatusLatest(b *book.Book, in *api.StatusLatestQuestion, size Size) (*answer.Document, error) {
	q, err := LatestQuestion(b, in)
	if err != nil {
		return nil, err
	}
	p := &statusPresenter{q.History(b), q, size.behindOf(statusLatest, in), size}
	a := status.Latest(p.history, q)
	if err := p.fits(a); err != nil {
		return nil, err
	}
	part := newPart("")
	if len(q.By) > 0 {
		part.Tables = append(part.Tables, p.groupsTable(a))
	}
	part.Tables = append(part.Tables, p.latestTable(a))
	var terms []answer.Term
	for _, code := range p.shown(a.Total) {
		if n := a.Total.Cells[code].Count; n > 0 {
			terms = append(terms, answer.Term{Label: p.name(code), Orders: n, Behind: p.to.of("list", status.PickLatest+":"+p.name(code))})
		}
	}
	if a.Total.NoStatus > 0 || terms == nil {
		terms = append(terms, answer.Term{Label: "without a status record by then", Orders: a.Total.NoStatus,
			Behind: p.to.of("list", status.PickNone)})
	}
	part.Lines = append(part.Lines, p.asked(a, terms))
	return p.present(statusLatest, status.AskLatest, part, a), nil
}

// asked is the line of the orders that a question is about.
func (p *statusPresenter) asked(a status.Answer, terms []answer.Term) answer.Line {
	return answer.NewLine(numfmt.Counted(a.Population.Asked, "order")+" selected",
		answer.Term{Label: "selected", Orders: a.Population.Asked, Behind: p.to.of()}, terms...)
}

// latestTable has a row for each status.
func (p *statusPresenter) latestTable(a status.Answer) answer.Table {
	t := answer.Table{Code: "statuses", Rows: []answer.Row{},
		Columns: append([]answer.Column{{Code: "status", Heading: "status", Kind: answer.Text},
			{Code: "orders", Heading: "orders", Kind: answer.Count}, {Code: "share", Heading: "%", Kind: answer.Percent}},
			append(p.lengthColumns("time in status"), answer.Column{Code: "running", Heading: "not at their end", Kind: answer.Count,
				Folded: true})...)}
	if len(p.question.By) > 0 {
		t.Folded, t.Title = true, "All groups together, with the time in status"
	}
	for _, code := range p.shown(a.Total) {
		c := a.Total.Cells[code]
		row := append([]answer.Cell{answer.Words(p.name(code)), p.orders(c.Count, p.to, status.PickLatest+":"+p.name(code)),
			percent(c.Count, a.Total.Orders)}, p.lengths(c.Lengths)...)
		t.Rows = append(t.Rows, answer.Row{Cells: append(row, answer.Whole(c.Running))})
	}
	without := func(name string, n int, pick string) answer.Row {
		return answer.Row{Cells: append([]answer.Cell{answer.Words(name), p.orders(n, p.to, pick), percent(n, a.Total.Orders)},
			make([]answer.Cell, 5)...)}
	}
	t.Rows, t.Totals = append(t.Rows, without("no status", a.Total.NoStatus, status.PickNone)),
		[]answer.Row{without("all", a.Total.Orders, status.PickAll)}
	t.All = len(t.Rows)
	return t
}

// groupsTable has a row for each group, and a column for each status.
func (p *statusPresenter) groupsTable(a status.Answer) answer.Table {
	t := answer.Table{Code: "groups", Rows: []answer.Row{}, All: len(a.Groups), Columns: keyColumns(p.question.By, "")}
	shown := p.shown(a.Total)
	for _, code := range shown {
		t.Columns = append(t.Columns, answer.Column{Code: p.name(code), Heading: p.name(code), Shared: "orders", Kind: answer.Count})
	}
	t.Columns = append(t.Columns, answer.Column{Code: "none", Heading: "no status", Shared: "orders", Kind: answer.Count},
		answer.Column{Code: "all", Heading: "all", Shared: "orders", Kind: answer.Count})
	row := func(name answer.Cell, g status.Group, to behind) answer.Row {
		cells := []answer.Cell{name}
		for _, code := range shown {
			cells = append(cells, p.orders(g.Cells[code].Count, to, status.PickLatest+":"+p.name(code)))
		}
		return answer.Row{Cells: append(cells, p.orders(g.NoStatus, to, status.PickNone), p.orders(g.Orders, to, status.PickAll))}
	}
	for _, g := range first(a.Groups, p.size) {
		t.Rows = append(t.Rows, row(named(g.Keys)[0], g, p.to.group(g.Keys)))
	}
	t.Totals = []answer.Row{row(answer.Words("all"), a.Total, p.to)}
	return t
}

// StatusTimes says how long orders were in each status.
func StatusTimes(b *book.Book, in *api.StatusTimesQuestion, size Size) (*answer.Document, error) {
	q, err := TimesQuestion(b, in)
	if err != nil {
		return nil, err
	}
	asked := *in
	asked.Each = ""
	p := &statusPresenter{q.History(b), q, size.behindOf(statusTimes, &asked), size}
	a := status.Times(p.history, q)
	if err := p.fits(a); err != nil {
		return nil, err
	}
	part := newPart("")
	if q.Each != query.NoCut {
		part.Tables = append(part.Tables, p.meansTable(a))
	}
	part.Tables = append(part.Tables, p.timesTable(a))
	all, running, unmeasured := 0, 0, 0
	for _, c := range a.Total.Cells {
		all, running, unmeasured = all+c.Count, running+c.Running, unmeasured+c.Unmeasured
	}
	words := numfmt.Counted(all, "status period")
	terms := []answer.Term{{Label: "with a length", Orders: all - unmeasured}}
	if unmeasured > 0 {
		terms = append(terms, answer.Term{Label: "without one (at the order's end, or without a time of day)", Orders: unmeasured})
	}
	part.Lines = append(part.Lines, answer.NewLine(words, answer.Term{Label: "status periods", Orders: all}, terms...))
	if all > 0 {
		part.Notes = append(part.Notes, answer.Note{Code: "lengths",
			Text: fmt.Sprintf("lengths run from the first record of a status period to where the next one begins; %s %s to %v", numfmt.Counted(running, "ongoing one"), numfmt.Agreeing(running, "runs", "run"), q.At)},
			answer.Note{Code: "order-days", Text: "order-days are all lengths together, in " + q.UnitWords() +
				": never the length of one order"})
	}
	return p.present(statusTimes, status.AskTimes, part, a), nil
}

// timesKey is the column that names groups or steps; none where there are none.
func (p *statusPresenter) timesKey() []answer.Column {
	if p.question.Each != query.NoCut {
		each := p.question.Each.String()
		return []answer.Column{{Code: each, Heading: each, Kind: answer.Text}}
	}
	if len(p.question.By) > 0 {
		return keyColumns(p.question.By, "")
	}
	return nil
}

// within is the address of the status periods of a group: of a step of time, those that began in it.
func (p *statusPresenter) within(g status.Group) behind {
	if p.question.Each == query.NoCut {
		return p.to.group(g.Keys)
	}
	days := g.Step
	if asked := p.question.Periods[0]; !asked.Unbounded() {
		days = day.Through(max(days.From, asked.Span.From), min(days.LastDay(), asked.Span.LastDay()))
	}
	return p.to.within(days.From.String() + "/" + days.LastDay().String())
}

// row gives the days of a row that is a step of time, and says where they are not whole.
func (p *statusPresenter) row(g status.Group, cells []answer.Cell) answer.Row {
	row := answer.Row{Cells: cells}
	if g.Step.From == 0 {
		return row
	}
	row.From, row.To = g.Step.From.String(), g.Step.LastDay().String()
	bounds, asked := p.history.Book().Bounds(), p.question.Periods[0]
	if p.question.Each == query.NoCut {
		asked = period.All(bounds) // the period places status periods, and not the orders of a group
	}
	if partOf(bounds, asked, g.Step) {
		row.Remarks = []string{"part"}
	}
	return row
}

// partOf says that the records or the period do not cover a step whole.
func partOf(bounds period.Bounds, p period.Period, step day.Span) bool {
	first, last := bounds.FirstDay, bounds.DataDate
	if !p.Unbounded() {
		first, last = max(first, p.Span.From), min(last, p.Span.LastDay())
	}
	return step.From < first || step.LastDay() > last
}

// timesTable has a row for each group and status.
func (p *statusPresenter) timesTable(a status.Answer) answer.Table {
	key := p.timesKey()
	t := answer.Table{Code: "times", Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: append(slices.Clone(key),
		answer.Column{Code: "status", Heading: "status", Kind: answer.Text},
		answer.Column{Code: "periods", Heading: "status periods", Kind: answer.Count, Unit: "status periods"},
		answer.Column{Code: "orders", Heading: "orders", Kind: answer.Count}, answer.Column{Code: "running", Heading: "still in it",
			Kind: answer.Count})}
	t.Columns = append(t.Columns, p.lengthColumns("time in status")...)
	t.Columns = append(t.Columns, answer.Column{Code: "share", Heading: "% of all time", Kind: answer.Percent},
		answer.Column{Code: "order_days", Heading: "order-days", Kind: answer.Number, Unit: p.question.UnitWords()})
	shown := p.shown(a.Total)
	rows := func(g status.Group, name []answer.Cell, to behind, empty bool) (rows []answer.Row) {
		all := 0
		for _, code := range shown {
			all += g.Cells[code].Ticks
		}
		for _, code := range shown {
			c := g.Cells[code]
			if c.Count == 0 && !empty {
				continue
			}
			share := answer.Cell{}
			if all > 0 {
				share = answer.Measured(100*float64(c.Ticks)/float64(all), 1)
			}
			visited := status.PickVisited + ":" + p.name(code)
			cells := append(slices.Clone(name), answer.Words(p.name(code)), p.orders(c.Count, to, visited),
				p.orders(c.Orders, to, visited), p.orders(c.Running, to, status.PickRunning+":"+p.name(code)))
			days := p.question.Measure.Unit.Number(c.Ticks)
			rows = append(rows, p.row(g, append(append(cells, p.lengths(c.Lengths)...), share, orderDays(days))))
		}
		return rows
	}
	if key == nil {
		t.Rows = rows(a.Total, nil, p.to, true)
		t.All = len(t.Rows)
		return t
	}
	for i, g := range a.Groups {
		if i < p.size.Rows {
			t.Rows = append(t.Rows, rows(g, named(g.Keys[:1]), p.within(g), false)...)
		}
		for _, code := range shown {
			if g.Cells[code].Count > 0 {
				t.All++
			}
		}
	}
	t.Totals = rows(a.Total, []answer.Cell{answer.Words("all")}, p.to, false)
	return t
}

// meansTable has a row for each step of time, and the mean time in each status: a picture is drawn from it.
func (p *statusPresenter) meansTable(a status.Answer) answer.Table {
	t := answer.Table{Code: "means", Picture: true, Rows: []answer.Row{}, Totals: []answer.Row{}, All: len(a.Groups), Columns: p.timesKey()}
	shown := slices.DeleteFunc(p.shown(a.Total), func(code int) bool { return len(a.Total.Cells[code].Lengths) == 0 })
	for _, code := range shown {
		name := p.name(code)
		t.Columns = append(t.Columns, answer.Column{Code: name, Heading: "mean", Shared: name, Kind: answer.Number,
			Unit: p.question.UnitWords()},
			answer.Column{Code: name + " periods", Heading: "status periods", Shared: name, Kind: answer.Count, Unit: "status periods"},
			answer.Column{Code: name + " running", Heading: "still in it", Shared: name, Kind: answer.Count})
	}
	for _, g := range first(a.Groups, p.size) {
		cells, to := named(g.Keys[:1]), p.within(g)
		for _, code := range shown {
			c := g.Cells[code]
			cells = append(cells, answer.Measured(c.Lengths.Mean()/float64(p.question.Measure.Unit.Ticks()), 2),
				p.orders(c.Count, to, status.PickVisited+":"+p.name(code)), answer.Whole(c.Running))
		}
		t.Rows = append(t.Rows, p.row(g, cells))
	}
	return t
}

// mostPaths bounds the paths that people read; a file has all.
const mostPaths = 100

// StatusTransitions says from which status to which orders went, to which they came back, and on which paths.
func StatusTransitions(b *book.Book, in *api.StatusTransitionsQuestion, size Size) (*answer.Document, error) {
	q, err := TransitionsQuestion(b, in)
	if err != nil {
		return nil, err
	}
	p := &statusPresenter{q.History(b), q, size.behindOf(statusTransitions, in), size}
	m := status.TransitionsOf(p.history, q)
	part := newPart("")
	recorded := m.Population.Asked - m.Total.NoStatus
	part.Tables = append(part.Tables, p.transitionsTable(m), p.matrixTable(m), p.returnsTable(m), p.pathsTable(m, recorded), p.endsTable(m))
	part.Lines = append(part.Lines, p.asked(m.Answer, []answer.Term{{Label: "on " + numfmt.Counted(len(m.Paths), "path"),
		Orders: recorded, Behind: p.to.of("list", status.PickRecorded)}, {Label: "without a status record", Orders: m.Total.NoStatus,
		Behind: p.to.of("list", status.PickUnrecorded)}}))
	if !slices.ContainsFunc(m.Returns, func(c status.Cell) bool { return c.Count > 0 }) {
		part.Untested = append(part.Untested, "back in an earlier status")
	}
	part.Notes = append(part.Notes, answer.Note{Code: "transitions",
		Text: "an order can make a transition more than once, so that there can be more transitions than orders; the time before one is that in the status it leaves"})
	return p.present(statusTransitions, status.AskTransitions, part, m.Answer), nil
}

// transition names the orders that went from one status to another.
func (p *statusPresenter) transition(from, to int) string {
	return status.PickWent + ":" + p.name(from) + status.Arrow + p.name(to)
}

// transitionsTable has a row for each transition.
func (p *statusPresenter) transitionsTable(m status.Transitions) answer.Table {
	t := answer.Table{Code: "transitions", Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: append([]answer.Column{{Code: "from", Heading: "from", Kind: answer.Text}, {Code: "to", Heading: "to", Kind: answer.Text},
			{Code: "transitions", Heading: "transitions", Kind: answer.Count, Unit: "transitions"},
			{Code: "orders", Heading: "orders", Kind: answer.Count}}, p.lengthColumns("time before")...)}
	for from, row := range m.Matrix {
		for to, c := range row {
			if c.Count > 0 {
				pick := p.transition(from, to)
				t.Rows = append(t.Rows, answer.Row{Cells: append([]answer.Cell{answer.Words(p.name(from)), answer.Words(p.name(to)),
					p.orders(c.Count, p.to, pick), p.orders(c.Orders, p.to, pick)}, p.lengths(c.Lengths)...)})
			}
		}
	}
	t.All = len(t.Rows)
	return t
}

// matrixTable has a row for each status that orders left, and a column for each that they went to.
func (p *statusPresenter) matrixTable(m status.Transitions) answer.Table {
	t := answer.Table{Code: "matrix", Title: "From which to which, as a matrix", Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: []answer.Column{{Code: "from", Heading: "from", Kind: answer.Text}}}
	var entered []int
	for to := range m.Matrix {
		if slices.ContainsFunc(m.Matrix, func(row []status.Cell) bool { return row[to].Count > 0 }) {
			entered = append(entered, to)
			t.Columns = append(t.Columns, answer.Column{Code: p.name(to), Heading: p.name(to), Shared: "transitions to",
				Kind: answer.Count, Unit: "transitions"})
		}
	}
	t.Columns = append(t.Columns, answer.Column{Code: "all", Heading: "all", Shared: "transitions to", Kind: answer.Count,
		Unit: "transitions"})
	for from, row := range m.Matrix {
		cells, all := []answer.Cell{answer.Words(p.name(from))}, 0
		for _, to := range entered {
			n := row[to].Count
			cells, all = append(cells, p.orders(n, p.to, p.transition(from, to))), all+n
		}
		if all > 0 {
			t.Rows = append(t.Rows, answer.Row{Cells: append(cells, answer.Whole(all))})
		}
	}
	t.All = len(t.Rows)
	return t
}

// returnsTable has a row for each status that orders came back to.
func (p *statusPresenter) returnsTable(m status.Transitions) answer.Table {
	t := answer.Table{Code: "returns", Title: "Returns to a status, and the time away", Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: append(append([]answer.Column{{Code: "to", Heading: "back to", Kind: answer.Text},
			{Code: "returns", Heading: "returns", Kind: answer.Count, Unit: "returns"}, {Code: "orders", Heading: "orders",
				Kind: answer.Count}}, p.lengthColumns("time away")...),
			answer.Column{Code: "order_days", Heading: "order-days away", Kind: answer.Number, Unit: p.question.UnitWords()})}
	for code, c := range m.Returns {
		if c.Count > 0 {
			pick, days := status.PickReturned+":"+p.name(code), p.question.Measure.Unit.Number(c.Ticks)
			cells := append([]answer.Cell{answer.Words(p.name(code)), p.orders(c.Count, p.to, pick), p.orders(c.Orders, p.to, pick)},
				p.lengths(c.Lengths)...)
			t.Rows = append(t.Rows, answer.Row{Cells: append(cells, orderDays(days))})
		}
	}
	t.All = len(t.Rows)
	return t
}

// pathsTable has a row for each way that orders took, the most frequent first.
func (p *statusPresenter) pathsTable(m status.Transitions, recorded int) answer.Table {
	t := answer.Table{Code: "paths", Title: "Paths, the most frequent first", Rows: []answer.Row{}, Totals: []answer.Row{},
		All: len(m.Paths), Columns: []answer.Column{{Code: "orders", Heading: "orders", Kind: answer.Count},
			{Code: "share", Heading: "%", Kind: answer.Percent}, {Code: "ended", Heading: "ended", Kind: answer.Count},
			{Code: "median", Heading: "median to the end, or to the data date", Shared: p.heading(), Kind: answer.Number,
				Unit: p.question.UnitWords()}, {Code: "path", Heading: "path", Kind: answer.Text}}}
	paths := m.Paths
	if !p.size.keeps() {
		paths = paths[:min(len(paths), mostPaths)]
	}
	for _, way := range paths {
		text := status.PathText(p.history, way.Statuses)
		t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{p.orders(way.Orders, p.to, status.PickPath+":"+text),
			percent(way.Orders, recorded), answer.Whole(way.Ended), p.lengths(way.Lengths)[1], answer.Words(text)}})
	}
	return t
}

// endsTable says in which status orders begin, and in which they stand last.
func (p *statusPresenter) endsTable(m status.Transitions) answer.Table {
	t := answer.Table{Code: "ends", Picture: true, Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: []answer.Column{{Code: "status", Heading: "status", Kind: answer.Text},
			{Code: "first", Heading: "begin here", Kind: answer.Count}, {Code: "last", Heading: "stand here last", Kind: answer.Count}}}
	for code := range p.history.Statuses {
		if m.First[code]+m.Last[code] > 0 {
			t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{answer.Words(p.name(code)), answer.Whole(m.First[code]),
				answer.Whole(m.Last[code])}})
		}
	}
	t.All = len(t.Rows)
	return t
}

// StatusPeriods lists the status periods of orders.
func StatusPeriods(b *book.Book, in *api.StatusPeriodsQuestion, size Size) (*answer.Document, error) {
	q, err := PeriodsQuestion(b, in)
	if err != nil {
		return nil, err
	}
	asked := *in
	asked.Page, asked.Sort = api.Page{}, ""
	p := &statusPresenter{q.History(b), q, size.behindOf(statusPeriods, &asked), size}
	places, a, err := status.List(p.history, q, in.Status, in.Sort)
	if err != nil {
		return nil, err
	}
	t := answer.Table{Code: "periods", All: len(places), Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: []answer.Column{{Code: "number", Heading: "number", Kind: answer.Order},
			{Code: "sequence", Heading: "sequence", Kind: answer.Count, Unit: "status periods"},
			{Code: "status", Heading: "status", Kind: answer.Text},
			{Code: "from", Heading: "from", Kind: answer.Day}, {Code: "last_seen", Heading: "last seen", Kind: answer.Day},
			{Code: "until", Heading: "until", Kind: answer.Day}, {Code: "length", Heading: p.heading(), Kind: answer.Number,
				Unit: q.UnitWords()}, {Code: "remarks", Heading: "remarks", Kind: answer.Text}}}
	shown, offset, err := page(places, in.Page, len(t.Columns), size, cause{"period", in.Period})
	if err != nil {
		return nil, err
	}
	t.Offset = offset
	for _, place := range shown {
		t.Rows = append(t.Rows, answer.Row{Cells: p.periodCells(place)})
	}
	part := newPart("")
	part.Tables = append(part.Tables, t)
	d := p.present(statusPeriods, status.AskPeriods, part, a)
	if last := len(d.Sentence) - 1; in.Status != "" {
		d.Sentence[last].Text = fmt.Sprintf(", of the status %s alone", in.Status) + d.Sentence[last].Text
	}
	return d, nil
}

func (p *statusPresenter) periodCells(place status.Place) []answer.Cell {
	block, row := p.history.Book().Locate(place.Row)
	length := answer.Cell{}
	if place.Told {
		length = lengthCell(float64(place.Ticks), p.question.Measure.Unit)
	}
	var remarks []string
	if place.Until == 0 {
		remarks = append(remarks, numfmt.Either(p.history.Rules.Ends(place.Period), "the end", "still in it"))
	}
	if place.Status != statuses.NotSeen && statuses.Returned(p.history.Periods(block, row), place.Sequence-1) >= 0 {
		remarks = append(remarks, "came back")
	}
	if place.Flags&statuses.Ambiguous != 0 {
		remarks = append(remarks, "two records at one moment")
	}
	return []answer.Cell{answer.Words(block.Numbers[row]), answer.Written(strconv.Itoa(place.Sequence), float64(place.Sequence)),
		answer.Words(p.name(int(place.Status))),
		answer.Words(place.From.String()), answer.Words(place.LastSeen.String()), answer.Words(place.Until.String()), length,
		answer.Words(strings.Join(remarks, "; "))}
}

func (p *statusPresenter) notes(a status.Answer) (notes []answer.Note) {
	q := p.question
	note := func(code string, orders int, to answer.Address, format string, values ...any) {
		notes = append(notes, answer.Note{Code: code, Orders: orders, Behind: to, Text: fmt.Sprintf(format, values...)})
	}
	notes = metByMissing(a.Population.MetByMissing, p.to)
	if cut := q.Periods[0].Part(p.history.Book().Bounds()); cut != "" && !q.Periods[0].Unbounded() {
		note("part-period", 0, "", "%s is %s", q.Periods[0].Text, cut)
	}
	if a.Ambiguous > 0 {
		note(status.PickAmbiguous, a.Ambiguous, p.to.of("list", status.PickAmbiguous),
			"%s two records at one moment that name different statuses, and which came first is not known: the later row counts",
			numfmt.Has(a.Ambiguous, "order"))
	}
	if a.Disagreeing > 0 {
		note(status.PickDisagreeing, a.Disagreeing, p.to.of("list", status.PickDisagreeing),
			"for %s the daily list names on some day another status than the events do; one source counts for an order, and they are never mixed", numfmt.Counted(a.Disagreeing, "order"))
	}
	if a.ByDaily > 0 {
		note(status.PickDaily, a.ByDaily, p.to.of("list", status.PickDaily),
			"%s only a daily list: a status that came and went between two days is not in it", numfmt.Has(a.ByDaily, "order"))
	}
	if len(p.history.Statuses) > 1 && !slices.Contains(p.history.Rules.Final, true) {
		note("no-final", 0, "", "no status is marked final, so every last status still counts as running; mark in the list of statuses those that end an order")
	}
	var spelled []string
	for _, st := range p.history.Statuses[1:] {
		if len(st.Spellings) > 0 {
			spelled = append(spelled, strings.Join(st.Spellings, ", ")+" counts as "+st.Name)
		}
	}
	if unlisted := p.history.Unlisted(); unlisted != nil {
		note("unlisted", 0, "", "not in the list of statuses: %s", strings.Join(unlisted, ", "))
	}
	if spelled != nil {
		note("spellings", 0, "", "%s", strings.Join(spelled, "; "))
	}
	return notes
}

// statusOrders makes the orders behind the numbers of a question about statuses from how its words are understood.
func statusOrders[Q any](analysis string, question func(*book.Book, *Q) (status.Question, error)) func(*book.Book, url.Values) (*Orders,
	picks, error) {
	return func(b *book.Book, words url.Values) (*Orders, picks, error) {
		in := new(Q)
		pick, err := read(analysis, in, words)
		if err != nil {
			return nil, pick, err
		}
		q, err := question(b, in)
		if err != nil {
			return nil, pick, err
		}
		asked := q.Question
		asked.Periods = []period.Period{period.All(b.Bounds())} // the period places status periods
		o := &Orders{Book: b, Question: duration.Question{Question: asked}}
		o.Selection.Keys, o.Selection.Note = pick.keys(), pick.take("note")
		if o.Selection.Placed, err = pick.placement(); err != nil {
			return nil, pick, err
		}
		if list := pick.take("list"); list != "" {
			test, err := status.Test(q.History(b), q, list)
			if err != nil {
				return nil, pick, err
			}
			o.Selection.Only, o.Words = append(o.Selection.Only, test), statusWords(q, list)
		}
		return o, pick, nil
	}
}

// statusWords say which orders are listed by their statuses.
func statusWords(q status.Question, list string) string {
	what, of, _ := strings.Cut(list, ":")
	begun := ""
	if asked := q.Periods[0]; !asked.Unbounded() {
		begun = ", begun in " + asked.Text
	}
	return map[string]string{
		status.PickLatest:  fmt.Sprintf("that stood in “%s” at the end of %v", of, q.At),
		status.PickNone:    fmt.Sprintf("without a status record by %v", q.At),
		status.PickVisited: "with a status period of “" + of + "”" + begun, status.PickRunning: "still in “" + of + "”" + begun,
		status.PickReturned: "that came back to “" + of + "”" + begun,
		status.PickWent:     "that went " + of + begun, status.PickPath: "on the path " + of, status.PickRecorded: "with a status record",
		status.PickUnrecorded: "without a status record",
		status.PickAmbiguous:  "with two statuses at one moment", status.PickDisagreeing: "whose two sources of statuses differ",
		status.PickDaily: "with only a daily list of statuses",
	}[what]
}
