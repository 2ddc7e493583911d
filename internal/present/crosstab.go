package present

import (
	"cmp"
	"fmt"
	"math"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/crosstab"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/filter"
)

// countingQuestions understands a question of each of its figures, against a book that it gives with the dates that they name.
func countingQuestions(b *book.Book, in api.Counting, r crosstab.Request) (questions []crosstab.Question, _ *book.Book, err error) {
	if b, err = standIns(b, map[string]string{"from": in.From, "to": in.To}); err != nil {
		return nil, b, err
	}
	if b, err = b.WithStandIns(r.Bases...); err != nil {
		return nil, b, request.Invalid("basis", strings.Join(r.Bases, ","), err.Error())
	}
	where, err := Condition(b, "where", in.Where.Where)
	if err != nil {
		return nil, b, err
	}
	if r.Meets, err = Condition(b, "meets", in.Meets); err != nil {
		return nil, b, err
	}
	if in.Lines != "" || query.CutsLines(r.Rows) || query.CutsLines(r.Columns) {
		b = crosstab.WithLineDays(b)
	}
	r.Parts = map[book.Part]query.Where{}
	for part, text := range map[book.Part]string{book.Lines: in.Lines, book.Shipments: in.Shipments, book.Payments: in.Payments} {
		if text == "" {
			continue
		}
		parsed, err := filter.ParseParts(b, part, part.Noun(), text)
		if err != nil {
			return nil, b, request.Invalid(part.String(), text, err.Error())
		}
		r.Parts[part] = query.Where{Text: parsed.Text, Condition: parsed.Predicate, Decimals: Decimals}
	}
	r.From, r.To, r.In, r.Count, r.Side, r.CutOff, r.Period = in.From, in.To, in.In, in.Count, in.Calendar, in.CutOff, in.Period
	shows := in.Show
	if len(shows) == 0 {
		shows = []string{crosstab.Orders.String()}
	}
	for i, show := range shows {
		if slices.Contains(shows[:i], show) {
			return nil, b, request.Invalid("show", show, "named twice")
		}
		r.Show = show
		q, err := crosstab.Parse(b, r)
		if err != nil {
			return nil, b, err
		}
		q.Where = where
		questions = append(questions, q)
	}
	if len(questions) > 1 && r.Top > 0 {
		return nil, b, request.Invalid("top", fmt.Sprint(r.Top), "the first rows differ between figures; want one figure")
	}
	return questions, b, nil
}

// CrosstabQuestions understands a question with rows and columns, as one for each figure, against a book, which it gives with the dates
// that the question names. The error is a *request.Error.
func CrosstabQuestions(b *book.Book, in *api.CrosstabQuestion) ([]crosstab.Question, *book.Book, error) {
	r := crosstab.Request{Bases: in.Basis, Rows: in.Rows, Columns: in.Columns, Top: in.Top, Sort: in.Sort}
	if in.Rows == "" && in.Columns == "" {
		r.Rows = "site"
	}
	return countingQuestions(b, in.Counting, r)
}

// CompareQuestions does so for a question with several dates beside each other.
func CompareQuestions(b *book.Book, in *api.CompareQuestion) ([]crosstab.Question, *book.Book, error) {
	r := crosstab.Request{Bases: in.Basis, Each: cmp.Or(in.Each, "month")}
	if len(in.Basis) == 0 {
		r.Bases = []string{"ordered", "shipped"}
	}
	return countingQuestions(b, in.Counting, r)
}

// Crosstab counts by rows and columns.
func Crosstab(b *book.Book, in *api.CrosstabQuestion, size Size) (*answer.Document, error) {
	questions, b, err := CrosstabQuestions(b, in)
	if err != nil {
		return nil, err
	}
	to := func(show string) behind {
		one := *in
		one.Show, one.Blank = []string{show}, false
		return size.behindOf("crosstab", &one)
	}
	return counted(b, "crosstab", questions, countingLooks{blank: in.Blank, word: "rows", to: to, size: size})
}

// Compare counts by several dates beside each other.
func Compare(b *book.Book, in *api.CompareQuestion, size Size) (*answer.Document, error) {
	questions, b, err := CompareQuestions(b, in)
	if err != nil {
		return nil, err
	}
	to := func(show string) behind {
		one := *in
		one.Show, one.Empty = []string{show}, ""
		return size.behindOf("compare", &one)
	}
	return counted(b, "compare", questions, countingLooks{empty: in.Empty, word: "each", to: to, size: size})
}

// countingLooks are what of an answer is shown.
type countingLooks struct {
	blank bool   // zeros are
	empty string // shown, hidden or alone: the steps in which nothing lies
	word  string // the parameter that makes an answer long
	size  Size
	to    func(show string) behind // the orders behind the numbers of a figure
}

// counted makes the document of some figures.
func counted(b *book.Book, analysis string, questions []crosstab.Question, looks countingLooks) (*answer.Document, error) {
	d := newDocument(b, analysis, questions[0].Sentence())
	answers, numbers := make([]crosstab.Answer, len(questions)), 0
	for i, q := range questions {
		a, err := crosstab.Ask(b, q)
		if err != nil {
			return nil, err
		}
		answers[i] = a
		for _, part := range a.Parts {
			for _, table := range part.Tables {
				numbers += min(looks.size.Rows, len(table.Rows)) * (1 + min(looks.size.Rows, len(part.Columns)))
			}
		}
		if err := looks.size.fits(numbers, looks.word, fmt.Sprint(q.Rows)); err != nil {
			return nil, err
		}
		if i > 0 {
			d.Sentence = append(d.Sentence, answer.Word{Text: " " + q.Sentence().String()})
		}
	}
	why := emptySteps(answers)
	several := len(answers) > 1
	for _, a := range answers {
		for _, part := range a.Parts {
			p := &countingPresenter{Answer: a, part: part, to: looks.to(a.Question.Show.String()), looks: looks, why: why, size: looks.size}
			var titles []string
			if several {
				titles = append(titles, a.Question.Words(a.Question.Bases[0]))
			}
			if len(a.Parts) > 1 {
				titles = append(titles, p.unit())
			}
			d.Parts = append(d.Parts, p.present(strings.Join(titles, ", ")))
		}
	}
	first, last := answers[0], &d.Parts[len(d.Parts)-1]
	population, whole := first.Population, looks.to(questions[0].Show.String())
	last.Lines = append(last.Lines, answer.NewLine(numfmt.Counted(population.InBook, "order")+" in the book",
		answer.Term{Label: "in the book", Orders: population.InBook},
		append([]answer.Term{{Label: "selected", Orders: population.Asked, Behind: whole.of("placed", "")}},
			leftOut(population, first.Question.Question, whole)...)...))
	return d, nil
}

// emptySteps are the steps in which nothing lies by any date and of any figure, with the reason; nil where rows are no steps.
func emptySteps(answers []crosstab.Answer) map[string]string {
	rows := answers[0].Parts[0].Tables[0].Rows
	if len(rows) == 0 || rows[0].Step.From == 0 {
		return nil
	}
	reasons := map[string]string{}
	for _, row := range rows {
		if row.Why != "" {
			reasons[row.Key] = row.Why
		}
	}
	for _, a := range answers {
		for _, part := range a.Parts {
			for _, row := range part.Tables[0].Rows {
				if row.Why == "" {
					delete(reasons, row.Key)
				}
			}
		}
	}
	return reasons
}

// A countingPresenter lays one figure, in one currency, out.
type countingPresenter struct {
	crosstab.Answer
	part  crosstab.Part
	to    behind
	looks countingLooks
	why   map[string]string
	size  Size
}

func (p *countingPresenter) present(title string) answer.Part {
	part := newPart(title)
	q := p.Question
	if q.Columns == nil && (q.Each != query.NoCut || len(q.Bases) > 1) {
		part.Tables = append(part.Tables, p.datesTable())
	} else {
		for k := range p.part.Tables {
			part.Tables = append(part.Tables, p.cellsTable(k))
		}
		if t := p.coveredTable(); t != nil {
			part.Tables = append(part.Tables, *t)
		}
	}
	for _, bridge := range p.part.Bridges {
		part.Tables = append(part.Tables, p.bridgeTable(bridge))
	}
	for _, table := range p.part.Tables {
		part.Lines = append(part.Lines, p.line(table))
	}
	if q.Parts.Condition != nil {
		part.Lines = append(part.Lines, p.picked())
	}
	part.Notes = append(part.Notes, p.notes()...)
	part.Untested = p.untested()
	return part
}

// untested are the places outside the days asked about in which nothing lies by a date.
func (p *countingPresenter) untested() (kinds []string) {
	for k, table := range p.part.Tables {
		comes := []string{"not-yet", "cancelled", "after-data-date"} // of a fact
		if m := p.Question.Bases[k]; m.Plan || m.Name == milestone.Ordered || m.Name == milestone.Cancelled {
			comes = []string{"no-day"}
		}
		if p.Question.Show.Kind == crosstab.Units {
			comes = append(comes, "beyond-ordered")
		}
		for _, at := range table.Places {
			if at.Orders == 0 && slices.Contains(comes, at.Name) && !slices.Contains(kinds, at.Label) {
				kinds = append(kinds, at.Label)
			}
		}
	}
	return kinds
}

// unit is that of the numbers, in words.
func (p *countingPresenter) unit() string {
	return cmp.Or(p.Question.Unit(), p.part.Currency, "no currency")
}

// columns are those of one number: the number, and what it is of, which a text in brackets says as well.
func (p *countingPresenter) columns(code, heading, shared string) []answer.Column {
	head := answer.Column{Code: code, Heading: heading, Shared: shared, Kind: answer.Number, Unit: p.unit()}
	of := func(name, words string) answer.Column {
		return answer.Column{Code: code + " " + name, Heading: heading + ", " + words, Shared: shared, Kind: answer.Count, Folded: true}
	}
	switch kind := p.Question.Show.Kind; {
	case kind == crosstab.Orders:
		head.Kind, head.Unit = answer.Count, ""
	case kind == crosstab.Lines, kind == crosstab.Shipments, kind == crosstab.Payments:
		head.Kind = answer.Count
	case kind == crosstab.Length:
		head.Unit = p.Question.UnitWords()
		return []answer.Column{head, of("n", "n")}
	case kind.Share():
		head.Kind, head.Unit = answer.Percent, ""
		return []answer.Column{head, of("some", "orders"), of("n", "of")}
	}
	return []answer.Column{head}
}

// cells are those of one number, in the columns of columns.
func (p *countingPresenter) cells(c crosstab.Cell, to behind) []answer.Cell {
	none := func(n int) []answer.Cell {
		cell := answer.Cell{}
		if c.Uncounted > 0 {
			cell = answer.Cell{Text: "none of " + numfmt.Count(int(c.Uncounted)), Behind: to.of("without", "true")}
		}
		return append([]answer.Cell{cell}, slices.Repeat([]answer.Cell{answer.Whole(0)}, n)...)
	}
	switch q := p.Question; {
	case q.Show.Kind == crosstab.Length:
		if len(c.Lengths) == 0 {
			return none(1)
		}
		n, value := c.Lengths.Orders(), q.Show.Statistic.Of(c.Lengths)/float64(q.Measure.Unit.Ticks())
		cell := answer.Measured(value, 2)
		cell.Text, cell.Behind = strings.TrimSpace(cell.Text+" ("+numfmt.Count(n)+")"), to.of()
		return []answer.Cell{cell, answer.Whole(n)}
	case q.Show.Kind.Share():
		if c.Of == 0 {
			return none(2)
		}
		some, all := int(c.Amount), int(c.Of)
		cell := answer.Written(fmt.Sprintf("%s%% (%s of %s)", numfmt.Percent(some, all), numfmt.Count(some), numfmt.Count(all)),
			100*float64(some)/float64(all))
		cell.Behind = to.of()
		return []answer.Cell{cell, answer.Whole(some), answer.Whole(all)}
	}
	if c.Outside {
		return []answer.Cell{{}}
	}
	cell := p.amount(float64(c.Amount))
	if c.Amount != 0 {
		cell.Behind = to.of()
	} else if p.looks.blank {
		cell.Text = ""
	}
	return []answer.Cell{cell}
}

// amount is a cell of an amount that adds up.
func (p *countingPresenter) amount(n float64) answer.Cell {
	switch p.Question.Show.Kind {
	case crosstab.Units:
		return answer.Written(numfmt.Decimal(int64(math.Round(n)), 3, 0), n/1000)
	case crosstab.Value:
		decimals := Decimals(p.part.Currency)
		return answer.Written(numfmt.Decimal(int64(math.Round(n)), decimals, decimals), n/math.Pow10(decimals))
	}
	return answer.Written(numfmt.Count(int(n)), n)
}

// mean is a cell of an amount that was divided: it has decimals.
func (p *countingPresenter) mean(n float64) answer.Cell {
	switch p.Question.Show.Kind {
	case crosstab.Value:
		if !math.IsNaN(n) {
			return p.amount(n)
		}
	case crosstab.Units:
		n /= 1000
	}
	if math.IsNaN(n) {
		return answer.Cell{}
	}
	return answer.Written(numfmt.Decimal(int64(math.Round(n*100)), 2, 2), n)
}

// headName is how a row or a column reads, and what has to be known of it.
func (p *countingPresenter) headName(h crosstab.Head) (name string, remarks []string) {
	if h.Others > 0 {
		return "all others (" + numfmt.Count(h.Others) + ")", nil
	}
	if h.Step.From != 0 {
		bounds := period.Bounds{FirstDay: max(p.Days.From, p.Bounds.FirstDay), DataDate: min(p.Days.LastDay(), p.Bounds.DataDate)}
		if !bounds.Outside(h.Step) && partOf(bounds, period.All(bounds), h.Step) {
			remarks = []string{"part"}
		}
	}
	return cmp.Or(h.Key, "(none)"), remarks
}

// row begins a row with its name.
func (p *countingPresenter) row(h crosstab.Head) answer.Row {
	name, remarks := p.headName(h)
	row := answer.Row{Cells: []answer.Cell{answer.Words(name)}, Remarks: remarks}
	if h.Step.From != 0 {
		row.From, row.To = h.Step.From.String(), h.Step.LastDay().String()
	}
	return row
}

// ofRow is the address of a row.
func (p *countingPresenter) ofRow(to behind, h crosstab.Head) behind {
	if h.Others > 0 {
		return behind(to.of("others", "true"))
	}
	return behind(to.of("row", h.Key))
}

// by is the address of what lies by a date.
func (p *countingPresenter) by(table crosstab.Table) behind {
	to := p.to
	if len(p.Question.Bases) > 1 {
		to = behind(to.of("date", table.Basis.Name))
	}
	if p.Question.Show.Kind == crosstab.Value {
		to = behind(to.of("currency", p.part.Currency))
	}
	return to
}

// shown are the rows of a table, by their place in it.
func (p *countingPresenter) shown(table crosstab.Table) (places []int) {
	if p.Question.Rows == nil {
		return nil // there is one, which is all
	}
	for i, row := range table.Rows {
		if _, empty := p.why[row.Key]; empty && p.looks.empty == "hidden" || !empty && p.looks.empty == "alone" {
			continue
		}
		if i < p.size.Rows || row.Step.From != 0 { // steps are told to be empty or not
			places = append(places, i)
		}
	}
	return places
}

// keyed begins a table whose rows are those of a table.
func (p *countingPresenter) keyed(code string, table crosstab.Table) answer.Table {
	column, all := answer.Column{Code: "name", Heading: "orders", Kind: answer.Text}, len(table.Rows)
	if rows := p.Question.Rows; rows == nil {
		all = 0
	} else if column.Heading = rows.Heading(); p.Question.Each == query.Day {
		column.Kind = answer.Day
	}
	return answer.Table{Code: code, Columns: []answer.Column{column}, Rows: []answer.Row{}, Totals: []answer.Row{}, All: all}
}

// datesTable has a row for each step and a column for each date, with the difference to the first one.
func (p *countingPresenter) datesTable() answer.Table {
	first := p.part.Tables[0]
	t := p.keyed("dates", first)
	add := p.Question.Show.Kind.AddsUp()
	for k, table := range p.part.Tables {
		t.Columns = append(t.Columns, p.columns(table.Basis.Name, table.Basis.Words(), p.unit())...)
		if k > 0 && add {
			less := p.columns("less "+table.Basis.Name, "less "+first.Basis.Words(), p.unit())[0]
			t.Columns = append(t.Columns, less)
		}
	}
	withWhy := slices.ContainsFunc(first.Rows, func(r crosstab.Row) bool { return p.why[r.Key] != "" })
	if withWhy {
		t.Columns = append(t.Columns, answer.Column{Code: "why", Heading: "why empty", Kind: answer.Text})
	}
	line := func(row answer.Row, of func(crosstab.Table) crosstab.Cell, to func(behind) behind, why string) answer.Row {
		for k, table := range p.part.Tables {
			c := of(table)
			row.Cells = append(row.Cells, p.cells(c, to(p.by(table)))...)
			switch {
			case k == 0 || !add:
			case c.Outside || of(first).Outside:
				row.Cells = append(row.Cells, answer.Cell{})
			default:
				row.Cells = append(row.Cells, p.signed(c.Amount-of(first).Amount))
			}
		}
		if withWhy {
			row.Cells = append(row.Cells, answer.Words(why))
		}
		return row
	}
	for _, i := range p.shown(first) {
		head := first.Rows[i].Head
		t.Rows = append(t.Rows, line(p.row(head), func(table crosstab.Table) crosstab.Cell { return table.Rows[i].Total },
			func(to behind) behind { return p.ofRow(to, head) }, p.why[head.Key]))
	}
	t.All = max(len(t.Rows), t.All*min(1, len(t.Rows)))
	t.Totals = append(t.Totals, line(answer.Row{Cells: []answer.Cell{answer.Words("all")}},
		func(table crosstab.Table) crosstab.Cell { return table.Total.Total }, func(to behind) behind { return to }, ""))
	return t
}

// signed is a difference, with its sign.
func (p *countingPresenter) signed(n int64) answer.Cell {
	cell := p.amount(float64(n))
	if n > 0 {
		cell.Text = "+" + cell.Text
	}
	return cell
}

// cellsTable has the rows and the columns by one date.
func (p *countingPresenter) cellsTable(k int) answer.Table {
	q, table := p.Question, p.part.Tables[k]
	t := p.keyed("cells", table)
	if k > 0 {
		t.Code += "-" + table.Basis.Name
	}
	if len(p.part.Tables) > 1 {
		t.Title = numfmt.Sentence(q.Words(table.Basis))
	}
	var columns []crosstab.Head
	shared := p.unit()
	if q.Columns != nil {
		columns, shared = first(p.part.Columns, p.size), q.Columns.String()+": "+q.Words(table.Basis)
	}
	for _, c := range columns {
		name, remarks := p.headName(c)
		t.Columns = append(t.Columns, p.columns("key:"+c.Key, name+numfmt.Either(remarks != nil, " (part)", ""), shared)...)
	}
	t.Columns = append(t.Columns, p.columns("total", "all", numfmt.Either(q.Columns != nil, "", shared))...)
	covers := slices.ContainsFunc(table.Rows, func(r crosstab.Row) bool { return covered(r.Head) != "" })
	per := covers && q.Show.Kind.AddsUp() && (q.Columns == nil || !q.Columns.Cut.Cycles())
	withWhy := slices.ContainsFunc(table.Rows, func(r crosstab.Row) bool { return p.why[r.Key] != "" })
	if covers {
		t.Columns = append(t.Columns, answer.Column{Code: "covered", Heading: "years covered", Kind: answer.Text})
		if q.Rows.Cut != query.MonthOfYear {
			t.Columns[len(t.Columns)-1].Heading = "days covered"
		}
	}
	if per {
		t.Columns = append(t.Columns, answer.Column{Code: "per", Heading: perStep(q.Rows.Cut), Kind: answer.Number, Unit: p.unit()})
	}
	if withWhy {
		t.Columns = append(t.Columns, answer.Column{Code: "why", Heading: "why empty", Kind: answer.Text})
	}
	line := func(row answer.Row, r crosstab.Row, to behind, mean float64) answer.Row {
		for j, c := range columns {
			row.Cells = append(row.Cells, p.cells(r.Cells[j], behind(to.of("column", c.Key)))...)
		}
		row.Cells = append(row.Cells, p.cells(r.Total, to)...)
		if covers {
			row.Cells = append(row.Cells, answer.Words(covered(r.Head)))
		}
		if per {
			row.Cells = append(row.Cells, p.mean(mean))
		}
		if withWhy {
			row.Cells = append(row.Cells, answer.Words(p.why[r.Key]))
		}
		return row
	}
	to := p.by(table)
	for _, i := range p.shown(table) {
		r, mean := table.Rows[i], math.NaN()
		if per && i < len(table.PerWhole) {
			mean = table.PerWhole[i]
		}
		t.Rows = append(t.Rows, line(p.row(r.Head), r, p.ofRow(to, r.Head), mean))
	}
	total := table.Total
	total.Head = crosstab.Head{}
	all := line(answer.Row{Cells: []answer.Cell{answer.Words("all")}}, total, to, math.NaN())
	if withWhy {
		all.Cells[len(all.Cells)-1] = answer.Cell{}
	}
	t.Totals = append(t.Totals, all)
	return t
}

// covered are the years that a month of the year covers, or how many days a weekday does.
func covered(h crosstab.Head) string {
	var words []string
	if h.Days > 0 {
		words = append(words, numfmt.Counted(h.Days, "day"))
	}
	for _, year := range h.Whole {
		words = append(words, strconv.Itoa(year))
	}
	for _, year := range h.InPart {
		words = append(words, strconv.Itoa(year)+" (part)")
	}
	return strings.Join(words, ", ")
}

// coveredTable says what each column of months of the year, or of weekdays, covers; nil where columns are no such.
func (p *countingPresenter) coveredTable() *answer.Table {
	q, table := p.Question, p.part.Tables[0]
	if q.Columns == nil || !slices.ContainsFunc(p.part.Columns, func(h crosstab.Head) bool { return covered(h) != "" }) {
		return nil
	}
	t := &answer.Table{Code: "covered", Title: "What each column covers", Rows: []answer.Row{}, Totals: []answer.Row{},
		All: len(p.part.Columns), Columns: []answer.Column{
			{Code: "column", Heading: q.Columns.Heading(), Kind: answer.Text}, {Code: "covered",
				Heading: numfmt.Either(q.Columns.Cut == query.MonthOfYear, "years", "days"), Kind: answer.Text}}}
	if q.Show.Kind.AddsUp() {
		t.Columns = append(t.Columns, answer.Column{Code: "per", Heading: perStep(q.Columns.Cut), Shared: q.Words(table.Basis),
			Kind: answer.Number, Unit: p.unit()})
	}
	for i, h := range first(p.part.Columns, p.size) {
		name, remarks := p.headName(h)
		row := answer.Row{Cells: []answer.Cell{answer.Words(name), answer.Words(covered(h))}, Remarks: remarks}
		if q.Show.Kind.AddsUp() {
			mean := math.NaN()
			if i < len(table.PerWhole) {
				mean = table.PerWhole[i]
			}
			row.Cells = append(row.Cells, p.mean(mean))
		}
		t.Rows = append(t.Rows, row)
	}
	return t
}

// bridgeTable leads from what one date places in the period to what another does.
func (p *countingPresenter) bridgeTable(b crosstab.Bridge) answer.Table {
	t := answer.Table{Code: "bridge-" + b.To.Name, Title: fmt.Sprintf("From what was %s in the period to what was %s in the period",
		b.From.Words(), b.To.Words()), Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: append([]answer.Column{{Code: "step", Heading: "step", Kind: answer.Text}}, p.columns("amount", p.unit(), "")...)}
	// lies says where the other date lies.
	lies := func(m milestone.Milestone, at string) string {
		switch {
		case at != "none":
			return m.Words() + " " + at + " it"
		case m.Plan || m.Name == milestone.Ordered:
			return "without " + m.Date()
		}
		return "not " + m.Words() + " yet"
	}
	var from, end int64
	for _, step := range b.Steps {
		sign, label := int64(0), ""
		switch {
		case step.From == "inside" && step.To != "inside":
			sign, label, from = -1, fmt.Sprintf("%s in the period, %s", b.From.Words(), lies(b.To, step.To)), from+step.Amount
		case step.From != "inside":
			sign, label, end = 1, fmt.Sprintf("%s in the period, %s", b.To.Words(), lies(b.From, step.From)), end+step.Amount
		default:
			from, end = from+step.Amount, end+step.Amount
			continue
		}
		cell := p.signed(sign * step.Amount)
		if step.Amount != 0 {
			cell.Behind = p.step(b, step.From, step.To)
		}
		t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{answer.Words(label), cell}})
	}
	ends := func(table crosstab.Table, n int64) answer.Row {
		cell := p.amount(float64(n))
		if n != 0 {
			cell.Behind = p.by(table).of()
		}
		return answer.Row{Cells: []answer.Cell{answer.Words(table.Basis.Words() + " in the period"), cell}}
	}
	at := slices.IndexFunc(p.part.Tables, func(table crosstab.Table) bool { return table.Basis.Name == b.To.Name })
	t.Rows = slices.Insert(t.Rows, 0, ends(p.part.Tables[0], from))
	t.Totals, t.All = append(t.Totals, ends(p.part.Tables[at], end)), len(t.Rows)
	return t
}

// step is the address of what lies in one place by the first date of a bridge, and in another by its second.
func (p *countingPresenter) step(b crosstab.Bridge, from, to string) answer.Address {
	words := []string{"date", b.To.Name, "place", from, "other_place", to}
	if p.Question.Show.Kind == crosstab.Value {
		words = append(words, "currency", p.part.Currency)
	}
	return p.to.of(words...)
}

// line says where all that is asked about lies by a date.
func (p *countingPresenter) line(table crosstab.Table) answer.Line {
	q, to := p.Question, p.by(table)
	adds, goods := q.Show.Kind.AddsUp(), q.Show.Kind.OfParts()
	all, terms := int64(0), []answer.Term{}
	for i, at := range table.Places {
		all += at.Amount
		if i > 0 && at.Empty() && at.Orders == 0 {
			continue
		}
		term := answer.Term{Label: at.Label, Orders: at.Orders}
		if goods {
			term.Amount = p.amount(float64(at.Amount)).Text
		}
		if at.Orders > 0 {
			term.Behind = to.of("place", at.Name)
		}
		terms = append(terms, term)
	}
	sum := answer.Term{Label: "orders selected", Orders: p.Population.Asked}
	words := numfmt.Counted(p.Population.Asked, "order") + " selected"
	if adds {
		amount := p.amount(float64(all)).Text
		of := numfmt.Either(q.Parts.Condition == nil, " of the selected orders", " of the "+q.Show.Kind.Part().String()+" counted")
		what := map[crosstab.Kind]string{crosstab.Orders: "orders selected", crosstab.Value: cmp.Or(p.part.Currency,
			"without a currency") + of}[q.Show.Kind]
		words = amount + " " + cmp.Or(what, q.Show.String()+of)
		if q.Show.String() == q.Show.Kind.Part().String() && q.Parts.Condition != nil {
			words = amount + " " + q.Show.String() + " counted"
		}
		if goods {
			sum.Amount = amount
		} else {
			sum.Orders = int(all)
		}
	}
	return answer.NewLine(numfmt.Sentence(q.Words(table.Basis))+": "+words, sum, terms...)
}

// perStep heads the mean of the weekdays, or of the months, that come round.
func perStep(c query.TimeBucket) string {
	return numfmt.Either(c == query.MonthOfYear, "mean per month", "mean per day")
}

// picked says which lines, shipments or payments of the selected orders are counted.
func (p *countingPresenter) picked() answer.Line {
	return decidedLine(p.Question.Show.Kind.Part().Noun(), "of the selected orders", p.Decided.PartCounts)
}

// decidedLine says how a condition on parts, which are those of something, divides them.
func decidedLine(noun, of string, c query.PartCounts) answer.Line {
	term := func(label string, n int) answer.Term { return answer.Term{Label: label, Amount: numfmt.Count(n)} }
	terms := []answer.Term{term("counted", c.Met), term("do not meet the condition on "+noun+"s", c.Unmet)}
	if c.Undecided > 0 {
		terms = append(terms, term("lack what it asks about", c.Undecided))
	}
	all := c.Met + c.Unmet + c.Undecided
	return answer.NewLine(numfmt.Counted(all, noun)+" "+of, term(noun+"s", all), terms...)
}

func (p *countingPresenter) notes() (notes []answer.Note) {
	note := func(code string, orders int, to answer.Address, format string, values ...any) {
		notes = append(notes, answer.Note{Code: code, Orders: orders, Behind: to, Text: fmt.Sprintf(format, values...)})
	}
	q := p.Question
	for _, table := range p.part.Tables {
		if table.Uncounted > 0 {
			note("without-"+table.Basis.Name, table.Uncounted, p.by(table).of("without", "true"),
				"%s %s in the period %s not count, since the figure is not known for %s", numfmt.Counted(table.Uncounted, "order"),
				table.Basis.Words(), numfmt.Agreeing(table.Uncounted, "does", "do"), numfmt.Agreeing(table.Uncounted, "it", "them"))
		}
	}
	for _, table := range p.part.Tables {
		if q.Show.Kind.AddsUp() && table.With > 0 {
			note("means-"+table.Basis.Name, 0, "", "%s", p.means(table))
		}
	}
	for _, b := range p.part.Bridges {
		for _, step := range b.Steps {
			if step.From == "inside" && step.To == "inside" {
				note("both-"+b.To.Name, 0, "", "%s in both: %s and %s in %s", p.amount(float64(step.Amount)).Text, b.From.Words(),
					b.To.Words(), cmp.Or(q.Period.Text, q.Period.Days()))
			}
		}
	}
	if reasons := p.reasons(); reasons != "" {
		note("empty-steps", 0, "", "%s", reasons)
	}
	whole := q.Period.Part(p.Bounds)
	if whole != "" {
		note("part-period", 0, "", "%s is %s", q.Period.Text, whole)
	}
	for _, basis := range q.Bases { // a fact is not known beyond the data date, where a plan beside it is
		if cut := q.Period.Part(p.Book.By(basis)); cut != "" && cut != whole {
			note("part-period-"+basis.Name, 0, "", "by %s, %s is %s", basis.Name, q.Period.Text, cut)
		}
	}
	if p.Several > 0 {
		note("several", p.Several, "", "%s in several rows or columns: it counts in each, and once in the totals, which are less than the cells together", numfmt.Agreeing(p.Several, "1 order lies", numfmt.Count(p.Several)+" orders lie"))
	}
	if n := p.Decided.MetByMissing; n > 0 {
		parts := q.Show.Kind.Part()
		note(parts.String()+"-unequal-missing", 0, "", "%s without one of the two values that the condition on %v compares with !=",
			numfmt.Counted(n, "counted "+parts.Noun()), parts)
	}
	if p.WithoutUnits > 0 {
		note("without-units", 0, "", "the units of %s are not known: they are not in the units",
			numfmt.Counted(p.WithoutUnits, "line"))
	}
	if parts := q.Show.Kind.Part(); p.WithoutParts > 0 && q.Show.Kind != crosstab.Value {
		note("without-"+parts.String(), p.WithoutParts, "", "%s no %s", numfmt.Has(p.WithoutParts, "order"), parts.Noun())
	}
	if p.Differing > 0 {
		note("difference", p.Differing, "", "the value of %s differs from the sum of the lines: the difference counts with the order, and under no line", numfmt.Counted(p.Differing, "order"))
	}
	if p.WithoutValue > 0 {
		note("without-value", p.WithoutValue, "", "the value of %s is not known: they are not in the values",
			numfmt.Counted(p.WithoutValue, "order"))
	}
	to := p.to
	if q.Show.Kind == crosstab.Meeting {
		to = "" // two conditions
	}
	return append(notes, metByMissing(p.MetByMissing, to)...)
}

// means are three means that have three names.
func (p *countingPresenter) means(t crosstab.Table) string {
	mean := func(days int) string {
		if days == 0 {
			return "none"
		}
		return p.mean(float64(t.Total.Total.Amount) / float64(days)).Text
	}
	return fmt.Sprintf("%s per calendar day (%s): %s; per working day (%s): %s; per day that had some (%s): %s", p.Question.Words(t.Basis),
		numfmt.Count(t.CalendarDays), mean(t.CalendarDays), numfmt.Count(t.WorkingDays), mean(t.WorkingDays), numfmt.Count(t.With),
		mean(t.With))
}

// reasons say how many steps hold nothing, and why; empty where rows are no steps, or all hold something.
func (p *countingPresenter) reasons() string {
	if len(p.why) == 0 {
		return numfmt.Either(p.why != nil && p.looks.empty == "alone", "no step is empty", "")
	}
	counts := map[string]int{}
	for _, why := range p.why {
		counts[why]++
	}
	reasons := make([]string, 0, len(counts))
	for why := range counts {
		reasons = append(reasons, why)
	}
	slices.SortFunc(reasons, func(a, b string) int { return cmp.Or(cmp.Compare(counts[b], counts[a]), cmp.Compare(a, b)) })
	for i, why := range reasons {
		reasons[i] = why + " (" + numfmt.Count(counts[why]) + ")"
	}
	return "steps with nothing: " + strings.Join(reasons, "; ")
}

// countedOrders makes the orders behind the numbers of a question that counts from how its words are understood.
func countedOrders[Q any](analysis string, questions func(*book.Book, *Q) ([]crosstab.Question, *book.Book, error)) func(*book.Book,
	url.Values) (*Orders, picks, error) {
	return func(b *book.Book, words url.Values) (*Orders, picks, error) {
		in := new(Q)
		pick, err := read(analysis, in, words)
		if err != nil {
			return nil, pick, err
		}
		asked, b, err := questions(b, in)
		if err != nil {
			return nil, pick, err
		}
		q := asked[0]
		o := &Orders{Book: b, Question: duration.Question{Question: q.Question}}
		o.Question.Basis, o.Question.Periods = q.Leg.From, []period.Period{period.All(b.Bounds())} // the period places what is counted
		if o.Selection.Note = pick.take("note"); o.Selection.Note != "" {
			return o, pick, nil
		}
		if pick.Has("placed") {
			o.Selection.Placed, err = pick.placement()
			return o, pick, err
		}
		of := crosstab.Pick{Basis: pick.take("date"), Place: pick.take("place"), Other: pick.take("other_place"),
			Others: pick.take("others") == "true", Uncounted: pick.take("without") == "true"}
		for word, key := range map[string]**string{"row": &of.Row, "column": &of.Column, "currency": &of.Currency} {
			if pick.Has(word) {
				value := pick.take(word)
				*key = &value
			}
		}
		test, err := crosstab.Test(b, q, of)
		if err != nil {
			return nil, pick, err
		}
		o.Selection.Only, o.Words = append(o.Selection.Only, test), q.PickWords(of)
		return o, pick, nil
	}
}
