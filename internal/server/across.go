package server

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/across"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/present"
)

// AcrossInput counts by rows and columns, or in each step of time by several dates; exported for huma.
type AcrossInput struct {
	LegInput
	Show    []string `query:"show" doc:"orders (default), lines, units, value; a statistic of the leg such as median or p90; share, of orders that meet a condition; immediate. Several with commas."`
	Basis   []string `query:"basis" doc:"Milestones that place orders, or goods, in time, with commas; default ordered. Goods shipped or delivered are placed by their own days."`
	Period  string   `query:"period" doc:"One, in which all dates are placed; default from the first day to the data date."`
	Rows    string   `query:"rows" doc:"A grouping: a field, a column of lines such as product, day to year, month-of-year or weekday of the date, or month(shipped)."`
	Columns string   `query:"columns" doc:"Another grouping."`
	Each    string   `query:"each" doc:"day, week, month, quarter or year of each date, in the place of rows."`
	Top     int      `query:"top" minimum:"0" maximum:"100000" doc:"Only so many rows, and all others as one."`
	Sort    string   `query:"sort" doc:"Rows by total, by name, or by the column with this key. Default by time, else by total."`
	Empty   string   `query:"empty" enum:"shown,hidden,alone" default:"shown" doc:"Steps of time in which nothing lies by any date and of any figure."`
	Meets   string   `query:"meets" maxLength:"10000" doc:"With show=share: the condition, in CEL."`
	Where   string   `query:"where" maxLength:"10000" doc:"A condition on orders in CEL."`
}

// questions are understood against a book, one for each figure; the book has the stand-ins that they name.
func (in AcrossInput) questions(b *book.Book) (questions []across.Question, _ *book.Book, err error) {
	if _, b, err = (QuestionInput{LegInput: in.LegInput}).question(b); err != nil {
		return nil, b, err
	}
	for _, name := range in.Basis {
		if b, err = b.WithStandIns(name); err != nil {
			return nil, b, request.Invalid("basis", name, err.Error())
		}
	}
	where, err := present.Condition(b, "where", in.Where)
	if err != nil {
		return nil, b, err
	}
	meets, err := present.Condition(b, "meets", in.Meets)
	if err != nil {
		return nil, b, err
	}
	shows := in.Show
	if len(shows) == 0 {
		shows = []string{"orders"}
	}
	for i, show := range shows {
		if slices.Contains(shows[:i], show) {
			return nil, b, request.Invalid("show", show, "named twice")
		}
		q, err := across.Parse(b, across.Request{Show: show, From: in.From, To: in.To, In: in.In, Count: in.Count, Side: in.Calendar, CutOff: in.CutOff, Bases: in.Basis, Period: in.Period,
			Rows: in.Rows, Columns: in.Columns, Each: in.Each, Top: in.Top, Sort: in.Sort, Meets: meets})
		if err != nil {
			return nil, b, err
		}
		q.Where = where
		questions = append(questions, q)
	}
	if len(questions) > 1 && in.Top > 0 {
		return nil, b, request.Invalid("top", fmt.Sprint(in.Top), "the first rows differ between figures; want one figure")
	}
	return questions, b, nil
}

func (s *server) registerAcross(to huma.API) {
	huma.Register(to, get("across", "/across", "Counts by rows and columns"), s.across)
	huma.Register(to, get("across-file", "/across-file", "Counts by rows and columns as a file"), s.acrossFile)
}

func (s *server) across(ctx context.Context, in *AcrossInput) (*answered[api.Across], error) {
	body, err := s.acrossAnswer(ctx, in, mostGroups)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return &answered[api.Across]{*body}, nil
}

// acrossAnswer sends at most so many rows of each table, and as many columns.
func (s *server) acrossAnswer(ctx context.Context, in *AcrossInput, most int) (*api.Across, error) {
	questions, b, err := in.questions(s.snapshot(ctx))
	if err != nil {
		return nil, err
	}
	end, err := s.acquireSlot(ctx)
	if err != nil {
		return nil, err
	}
	defer end()
	first := questions[0]
	body := &api.Across{Version: b.Version(), FirstDay: b.Bounds().FirstDay.String(), DataDate: b.Bounds().DataDate.String(), Rows: in.Rows, Columns: in.Columns, Each: in.Each,
		Where: first.Where.Text, Empty: cmp.Or(in.Empty, "shown"), Figures: []api.AcrossFigure{}, EmptySteps: []api.AcrossNothing{}}
	for _, m := range first.Bases {
		body.Bases = append(body.Bases, m.Name)
	}
	var sentences []string
	numbers := 0
	for i, q := range questions {
		a, err := across.Ask(b, q)
		if err != nil {
			return nil, err
		}
		if i == 0 {
			body.Period = api.Period{Text: q.Period.Text, From: a.Days.From.String(), To: a.Days.LastDay().String()}
			body.ReconciliationLine = bookLine(a.Population, q.Bases[0])
			body.SentenceParts = sentenceBody(q.Sentence())
		}
		if numbers += acrossNumbers(a, most); most == mostGroups {
			err = fits(numbers, mostCells, "rows", in.Rows)
		} else {
			err = fits(numbers, mostFileCells, "rows", in.Rows)
		}
		if err != nil {
			return nil, err
		}
		f := acrossFigure(a, most)
		f.Notes = append(f.Notes, unequalNotes(a.MetByMissing)...)
		sentences = append(sentences, f.Sentence)
		body.Figures = append(body.Figures, f)
	}
	body.Sentence = strings.Join(sentences, " ")
	emptySteps(body)
	return body, nil
}

// cut leaves at most so many rows and columns of a part; steps of time, which are told to be empty or not, stay.
func cut(part across.Part, most int) across.Part {
	columns := min(most, len(part.Columns))
	part.Columns = part.Columns[:columns]
	part.Tables = slices.Clone(part.Tables)
	for t := range part.Tables {
		table := &part.Tables[t]
		if len(table.Rows) > most && table.Rows[0].Step.From == 0 {
			table.Rows = table.Rows[:most]
		}
		for r := range table.Rows {
			table.Rows[r].Cells = table.Rows[r].Cells[:columns]
		}
		table.Total.Cells = table.Total.Cells[:columns]
	}
	return part
}

// emptySteps counts the steps in which nothing lies by any date and of any figure, and hides them or all others.
func emptySteps(body *api.Across) {
	rows := body.Figures[0].Parts[0].Tables[0].Rows
	if len(rows) == 0 || rows[0].From == "" {
		return
	}
	reasons := map[string]string{} // by step; one that is missing holds something
	for _, row := range rows {
		if row.Why != "" {
			reasons[row.Key] = row.Why
		}
	}
	for _, f := range body.Figures {
		for _, part := range f.Parts {
			for _, row := range part.Tables[0].Rows {
				if row.Why == "" {
					delete(reasons, row.Key)
				}
			}
		}
	}
	counts := map[string]int{}
	for _, why := range reasons {
		counts[why]++
	}
	for why, n := range counts {
		body.EmptySteps = append(body.EmptySteps, api.AcrossNothing{Why: why, Steps: n})
	}
	slices.SortFunc(body.EmptySteps, func(a, b api.AcrossNothing) int {
		return cmp.Or(cmp.Compare(b.Steps, a.Steps), cmp.Compare(a.Why, b.Why))
	})
	for f := range body.Figures {
		for p := range body.Figures[f].Parts {
			for t := range body.Figures[f].Parts[p].Tables {
				table := &body.Figures[f].Parts[p].Tables[t]
				table.Rows = slices.DeleteFunc(table.Rows, func(row api.AcrossRow) bool {
					_, empty := reasons[row.Key]
					return empty && body.Empty == "hidden" || !empty && body.Empty == "alone"
				})
				for r := range table.Rows {
					table.Rows[r].Why = reasons[table.Rows[r].Key]
				}
			}
		}
	}
}

func acrossFigure(a across.Answer, most int) api.AcrossFigure {
	q := a.Question
	f := api.AcrossFigure{Show: q.Show.String(), Words: q.Words(q.Bases[0]), AddsUp: q.Show.Kind.AddsUp(), Sentence: q.Sentence().String(), Parts: []api.AcrossPart{}, Notes: acrossNotes(a)}
	for _, part := range a.Parts {
		body := acrossPart(a, cut(part, most))
		body.AllRows, body.AllColumns = len(part.Tables[0].Rows), len(part.Columns)
		f.Parts = append(f.Parts, body)
	}
	return f
}

// acrossNumbers is how many numbers are sent of an answer.
func acrossNumbers(a across.Answer, most int) (numbers int) {
	for _, part := range a.Parts {
		for _, table := range part.Tables {
			numbers += min(most, len(table.Rows)) * (1 + min(most, len(part.Columns)))
		}
	}
	return numbers
}

func acrossPart(a across.Answer, part across.Part) api.AcrossPart {
	q := a.Question
	write := cellWriter{q, part.Currency}
	body := api.AcrossPart{Currency: part.Currency, Columns: []api.AcrossHead{}, Tables: []api.AcrossTable{}, Bridges: []api.AcrossBridge{}}
	for i, head := range part.Columns {
		made := write.head(a, head)
		if per := part.Tables[0].PerWhole; q.Columns != nil && q.Columns.Cut.Cycles() && i < len(per) {
			write.per(&made, per[i])
		}
		body.Columns = append(body.Columns, made)
	}
	for _, table := range part.Tables {
		made := api.AcrossTable{Basis: table.Basis.Name, Words: q.Words(table.Basis), Rows: []api.AcrossRow{}, Uncounted: table.Uncounted, Places: []api.AcrossPlace{}}
		for i, row := range table.Rows {
			r := write.row(a, row)
			if q.Rows != nil && q.Rows.Cut.Cycles() && (q.Columns == nil || !q.Columns.Cut.Cycles()) && i < len(table.PerWhole) {
				write.per(&r.AcrossHead, table.PerWhole[i])
			}
			made.Rows = append(made.Rows, r)
		}
		made.Total = write.row(a, table.Total)
		all, terms := across.Cell{}, []string{}
		for i, at := range table.Places {
			all.Amount += at.Amount
			if i > 0 && at.Empty() && at.Orders == 0 {
				continue
			}
			amount := write.cell(at.Cell)
			made.Places = append(made.Places, api.AcrossPlace{Name: at.Name, Label: at.Label, Orders: at.Orders, Amount: amount})
			if q.Show.Kind.AddsUp() {
				terms = append(terms, amount.Text+" "+at.Label)
			} else {
				terms = append(terms, numfmt.Count(at.Orders)+" "+at.Label)
			}
		}
		made.Line = acrossTerms(a, write, all, terms, table)
		if q.Show.Kind.AddsUp() {
			made.Means = write.means(a, table)
		}
		body.Tables = append(body.Tables, made)
	}
	for _, bridge := range part.Bridges {
		body.Bridges = append(body.Bridges, write.bridge(a, bridge))
	}
	return body
}

// acrossTerms is the line of places, which add up to what is asked about.
func acrossTerms(a across.Answer, write cellWriter, all across.Cell, terms []string, table across.Table) string {
	line := strings.Join(terms, " + ")
	if write.q.Show.Kind.AddsUp() {
		what := map[across.Kind]string{across.Orders: "orders asked about", across.Value: cmp.Or(write.currency, "without a currency") + " of the orders asked about"}[write.q.Show.Kind]
		return write.cell(all).Text + " " + cmp.Or(what, write.q.Show.String()+" of the orders asked about") + " = " + strings.ReplaceAll(line, "+ -", "− ")
	}
	line = numfmt.Counted(a.Population.Asked, "order") + " asked about = " + line
	if table.Uncounted > 0 {
		line += fmt.Sprintf("; of those in the period %s no such figure", numfmt.Has(table.Uncounted, "order"))
	}
	return line
}

func acrossNotes(a across.Answer) []api.Note {
	notes := []api.Note{}
	note := func(code string, orders int, format string, values ...any) {
		notes = append(notes, api.Note{Code: code, Orders: orders, Text: fmt.Sprintf(format, values...)})
	}
	q := a.Question
	whole := q.Period.Part(a.Bounds)
	if whole != "" {
		note("part-period", 0, "%s is %s", q.Period.Text, whole)
	}
	for _, basis := range q.Bases { // a fact is not known beyond the data date, where a plan beside it is
		if cut := q.Period.Part(a.Book.By(basis)); cut != "" && cut != whole {
			note("part-period", 0, "by `%s`, %s is %s", basis.Name, q.Period.Text, cut)
		}
	}
	if a.Several > 0 {
		note("several", a.Several, "%s in several rows or columns: under each, and once in the sums, which are less than the cells together", numfmt.Agreeing(a.Several, "1 order lies", numfmt.Count(a.Several)+" orders lie"))
	}
	if a.WithoutUnits > 0 {
		note("without-units", 0, "the units of %s are not known: they count in no number of units", numfmt.Counted(a.WithoutUnits, "line"))
	}
	if a.WithoutLines > 0 && q.Show.Kind != across.Value {
		note("without-lines", a.WithoutLines, "%s no line", numfmt.Has(a.WithoutLines, "order"))
	}
	if a.Differing > 0 {
		note("difference", a.Differing, "the value of %s is another than the sum of its lines: the difference goes with the order, and lies under no line", numfmt.Counted(a.Differing, "order"))
	}
	if a.WithoutValue > 0 {
		note("without-value", a.WithoutValue, "the value of %s is not known: they count in no value", numfmt.Counted(a.WithoutValue, "order"))
	}
	return notes
}

// A cellWriter writes cells as numbers and as text.
type cellWriter struct {
	q        across.Question
	currency string
}

func (w cellWriter) amount(n float64) api.AcrossCell {
	switch w.q.Show.Kind {
	case across.Units:
		return api.AcrossCell{Value: number(n / 1000), Text: numfmt.Decimal(int64(math.Round(n)), 3, 0)}
	case across.Value:
		decimals := present.Decimals(w.currency)
		return api.AcrossCell{Value: number(n / math.Pow10(decimals)), Text: numfmt.Decimal(int64(math.Round(n)), decimals, decimals)}
	}
	if n == math.Trunc(n) {
		return api.AcrossCell{Value: number(n), Text: numfmt.Count(int(n))}
	}
	return api.AcrossCell{Value: number(n), Text: numfmt.Decimal(int64(math.Round(n*100)), 2, 2)}
}

// mean is an amount that was divided: it has decimals.
func (w cellWriter) mean(n float64) api.AcrossCell {
	if w.q.Show.Kind == across.Value {
		return w.amount(n)
	}
	if w.q.Show.Kind == across.Units {
		n /= 1000
	}
	return api.AcrossCell{Value: number(n), Text: numfmt.Decimal(int64(math.Round(n*100)), 2, 2)}
}

func (w cellWriter) cell(c across.Cell) api.AcrossCell {
	switch w.q.Show.Kind {
	case across.Length:
		if len(c.Lengths) == 0 {
			return api.AcrossCell{Of: unfinished(c), Orders: int(c.Uncounted)}
		}
		value := w.q.Show.Statistic.Of(c.Lengths) / float64(w.q.Measure.Unit.Ticks())
		if math.IsNaN(value) {
			return api.AcrossCell{N: c.Lengths.Orders(), Orders: c.Lengths.Orders() + int(c.Uncounted)}
		}
		return api.AcrossCell{Value: number(value), Text: fmt.Sprintf("%.2f", value), N: c.Lengths.Orders(), Of: "of " + numfmt.Count(c.Lengths.Orders()), Orders: c.Lengths.Orders() + int(c.Uncounted)}
	case across.Meeting, across.Immediate:
		if c.Of == 0 {
			return api.AcrossCell{Of: unfinished(c), Orders: int(c.Uncounted)}
		}
		return api.AcrossCell{Value: number(100 * float64(c.Amount) / float64(c.Of)), Text: numfmt.Percent(int(c.Amount), int(c.Of)) + "%", N: int(c.Of),
			Of: numfmt.Count(int(c.Amount)) + " of " + numfmt.Count(int(c.Of)), Orders: int(c.Of + c.Uncounted)}
	}
	return w.amount(float64(c.Amount))
}

// unfinished says how many orders lie where none has the figure.
func unfinished(c across.Cell) string {
	if c.Uncounted == 0 {
		return ""
	}
	return "none of " + numfmt.Count(int(c.Uncounted))
}

func (w cellWriter) head(a across.Answer, h across.Head) api.AcrossHead {
	made := api.AcrossHead{Key: h.Key, Others: h.Others, Whole: h.Whole, InPart: h.InPart, Days: h.Days, Why: h.Why}
	if h.Step.From != 0 {
		made.From, made.To = h.Step.From.String(), h.Step.LastDay().String()
		first, last := max(a.Days.From, a.Bounds.FirstDay), min(a.Days.LastDay(), a.Bounds.DataDate)
		outside := h.Step.LastDay() < first || h.Step.From > last
		made.Cut = !outside && (h.Step.From < first || h.Step.LastDay() > last)
	}
	return made
}

func (w cellWriter) per(head *api.AcrossHead, mean float64) {
	if !math.IsNaN(mean) {
		cell := w.mean(mean)
		head.Per, head.PerAs = cell.Value, cell.Text
	}
}

func (w cellWriter) row(a across.Answer, row across.Row) api.AcrossRow {
	made := api.AcrossRow{AcrossHead: w.head(a, row.Head), Cells: []api.AcrossCell{}, Total: w.cell(row.Total)}
	for _, c := range row.Cells {
		made.Cells = append(made.Cells, w.cell(c))
	}
	return made
}

func (w cellWriter) means(a across.Answer, t across.Table) *api.AcrossMeans {
	total := float64(t.Total.Total.Amount)
	of := func(days int) api.AcrossCell {
		if days == 0 {
			return api.AcrossCell{}
		}
		return w.mean(total / float64(days))
	}
	return &api.AcrossMeans{CalendarDays: t.CalendarDays, WorkingDays: t.WorkingDays, DaysWith: t.With, PerCalendarDay: of(t.CalendarDays), PerWorkingDay: of(t.WorkingDays), PerDayWith: of(t.With)}
}

func (w cellWriter) bridge(a across.Answer, b across.Bridge) api.AcrossBridge {
	made := api.AcrossBridge{From: b.From.Name, To: b.To.Name, Steps: []api.BridgeStep{}}
	days := cmp.Or(a.Question.Period.Text, a.Question.Period.Days())
	var total, other int64
	for _, step := range b.Steps {
		from, to := step.From == "inside", step.To == "inside"
		sign := map[[2]bool]int{{true, false}: -1, {false, true}: 1}[[2]bool{from, to}]
		if from {
			total += step.Amount
		}
		if to {
			other += step.Amount
		}
		where := map[string]string{"before": "before it", "after": "after it", "none": "on no day that is known"}
		label := fmt.Sprintf("%s and %s in %s", b.From.Words(), b.To.Words(), days)
		switch sign {
		case -1:
			label = fmt.Sprintf("%s in it, %s %s", b.From.Words(), b.To.Words(), where[step.To])
		case 1:
			label = fmt.Sprintf("%s in it, %s %s", b.To.Words(), b.From.Words(), where[step.From])
		}
		made.Steps = append(made.Steps, api.BridgeStep{From: step.From, To: step.To, Label: label, Sign: sign, Amount: w.amount(float64(step.Amount))})
	}
	made.Total, made.Other = w.amount(float64(total)), w.amount(float64(other))
	return made
}

// CellInput names the orders behind a number of an answer across; exported for huma.
type CellInput struct {
	Figure      string   `query:"figure" doc:"The orders behind a number of /across: the figure, with basis, period, where and the words of the leg as there."`
	AcrossRows  string   `query:"across_rows" doc:"With figure: the grouping of the rows."`
	AcrossCols  string   `query:"across_columns" doc:"With figure: the grouping of the columns."`
	Each        string   `query:"each" doc:"With figure: the step of the rows."`
	Top         int      `query:"top" minimum:"0" doc:"With figure: so many rows."`
	Meets       string   `query:"meets" maxLength:"10000" doc:"With figure=share: its condition."`
	ByDate      string   `query:"by_date" doc:"With figure: the milestone, of those of basis, that places the orders; default the first."`
	Place       string   `query:"place" doc:"With figure: inside (default), before, after, no-day, not-yet, cancelled, after-data-date or beyond-ordered."`
	OtherPlace  string   `query:"other_place" doc:"With figure: of a bridge, where by_date lies, and place is where the first date does: before, inside, after or none."`
	Row         []string `query:"row,explode" doc:"With figure: the key of a row; empty is none."`
	Column      []string `query:"column,explode" doc:"With figure: the key of a column."`
	Others      bool     `query:"others" doc:"With figure: the rows after the first ones."`
	InCurrency  string   `query:"in_currency" doc:"With figure=value: the currency."`
	WithoutThat bool     `query:"without_figure" doc:"With figure: orders of the period that have no such figure."`
}

// onlyFigure narrows the list to the orders behind a number.
func (a *askedList) onlyFigure(in *OrdersInput) error {
	asks := AcrossInput{LegInput: in.LegInput, Show: []string{in.Figure}, Basis: strings.FieldsFunc(in.Basis, func(r rune) bool { return r == ',' }), Period: in.Period, Rows: in.AcrossRows, Columns: in.AcrossCols, Each: in.Each, Top: in.Top, Meets: in.Meets, Where: in.Where}
	questions, b, err := asks.questions(a.book)
	if err != nil {
		return err
	}
	pick := across.Pick{Basis: in.ByDate, Place: in.Place, Other: in.OtherPlace, Others: in.Others, Currency: in.InCurrency, Uncounted: in.WithoutThat}
	if len(in.Row) > 0 {
		pick.Row = &in.Row[0]
	}
	if len(in.Column) > 0 {
		pick.Column = &in.Column[0]
	}
	test, err := across.Test(b, questions[0], pick)
	if err != nil {
		return err
	}
	a.book = b // the list is of the book that has the stand-ins
	a.Selection.Only = append(a.Selection.Only, test)
	a.open = questions[0].PickWords(pick)
	return nil
}

// bookLine says how the condition divides the book, also where it picks all.
func bookLine(p query.Population, basis milestone.Milestone) string {
	return cmp.Or(p.Line(basis), numfmt.Counted(p.InBook, "order")+" in the book = "+numfmt.Count(p.Asked)+" asked about")
}
