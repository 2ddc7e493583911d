package present

import (
	"fmt"
	"net/url"
	"slices"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/forecast"
	"prairiedusk/internal/core/immediate"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// mostMonths bounds how many months are looked back at: each takes two passes over the orders.
const mostMonths = 60

// forecastOrders are those behind a number of a month.
func forecastOrders(b *book.Book, words url.Values) (*Orders, picks, error) {
	in := &api.ForecastQuestion{}
	pick, err := read("forecast", in, words)
	if err != nil {
		return nil, pick, err
	}
	where, err := Condition(b, "where", in.Where.Where)
	if err != nil {
		return nil, pick, err
	}
	end, list := pick.take("end"), forecast.Outcome(pick.take("list"))
	at, err := day.Parse(end)
	if err != nil || at > b.Bounds().DataDate {
		return nil, pick, request.Invalid("end", end, fmt.Sprintf("want a day up to %v, at whose end it was asked", b.Bounds().DataDate))
	}
	if list != forecast.NotOpen && !slices.Contains(forecast.Outcomes, list) {
		return nil, pick, request.Invalid("list", string(list), fmt.Sprintf("want one of %v, or nothing for all that was open", forecast.Outcomes))
	}
	q, err := duration.Parse(b, duration.Request{})
	if err != nil {
		return nil, pick, err
	}
	q.Where = where
	m := forecast.At(b, at)
	o := &Orders{Book: b, Question: q, Words: fmt.Sprintf("open at the end of %v", at)}
	o.Selection.Only = append(o.Selection.Only, func(o book.Offset) bool {
		of, _ := m.Outcome(o.Block, o.At)
		if list == forecast.NotOpen {
			return of != forecast.NotOpen && of != forecast.Unclear
		}
		return of == list
	})
	switch list {
	case forecast.NotOpen:
	case forecast.Unclear:
		o.Words = fmt.Sprintf("ordered by the end of %v, of which nobody knows now what was known then", at)
	default:
		o.Words += ", " + map[forecast.Outcome]string{forecast.Untold: "without a forecast", forecast.Kept: "shipped by the forecast",
			forecast.Late: "later than the forecast", forecast.Cancelled: "cancelled since", forecast.Undecided: "not known yet"}[list]
	}
	return o, pick, nil
}

// A MonthsBack is a question about the forecasts that could be told at the ends of months.
type MonthsBack struct {
	Period period.Period
	Where  query.Where
	Ends   []MonthEnd
}

// A MonthEnd is the last day of a month.
type MonthEnd struct {
	Month string
	Day   day.Day
}

// ForecastQuestion understands a question about forecasts. The error is a *request.Error.
func ForecastQuestion(b *book.Book, in *api.ForecastQuestion) (q MonthsBack, err error) {
	periods, err := period.Parse(in.Period, b.Bounds())
	if err == nil && len(periods) > 1 {
		err = fmt.Errorf("want one period")
	}
	if err != nil {
		return q, request.Invalid("period", in.Period, err.Error())
	}
	q.Period = periods[0]
	if q.Where, err = Condition(b, "where", in.Where.Where); err != nil {
		return q, err
	}
	days := q.Period.Span
	if q.Period.Unbounded() {
		days = day.Through(b.Bounds().FirstDay, b.Bounds().DataDate)
	}
	names, months := query.Month.Steps(days)
	if len(months) > mostMonths {
		return q, request.Invalid("period", in.Period, fmt.Sprintf("it has %d months; want at most %d", len(months), mostMonths))
	}
	for i, month := range months {
		// Of a month that has not ended, or of which nothing is known, nothing can be told.
		if at := month.LastDay(); at <= b.Bounds().DataDate && at >= b.Bounds().FirstDay {
			q.Ends = append(q.Ends, MonthEnd{names[i], at})
		}
	}
	return q, nil
}

// Sentence says what is asked.
func (q MonthsBack) Sentence() query.Sentence {
	words := query.Sentence{query.Part("", "How well would forecasts of the ship date have held, at the end of each month of "),
		query.Part("period", q.Period.Text)}
	if q.Period.Unbounded() {
		words[1].Text = q.Period.Days()
	}
	return append(append(words, q.Where.Words()...), query.Part("", "?"))
}

// Forecast says what became of the forecasts that could be told at the end of each month.
func Forecast(b *book.Book, in *api.ForecastQuestion, size Size) (*answer.Document, error) {
	q, err := ForecastQuestion(b, in)
	if err != nil {
		return nil, err
	}
	var bound *predicate.Bound
	if q.Where.Condition != nil {
		bound = q.Where.Bind(b, q.Where.Condition)
	}
	d := newDocument(b, "forecast", q.Sentence())
	d.Heading = "order date → ship date, working days, start day not counted, after cut-offs"
	t := answer.Table{Code: "months", Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "month", Heading: "end of", Kind: answer.Text}, {Code: "open", Heading: "open", Kind: answer.Count},
		{Code: "kept", Heading: "shipped by the forecast", Kind: answer.Count}, {Code: "late", Heading: "later", Kind: answer.Count},
		{Code: "share", Heading: "% kept", Kind: answer.Percent}, {Code: "low", Heading: "95% from", Kind: answer.Percent},
		{Code: "high", Heading: "to", Kind: answer.Percent}, {Code: "off", Heading: "median days off", Kind: answer.Number, Unit: "working days"},
		{Code: "off_p90", Heading: "p90 days off", Kind: answer.Number, Unit: "working days"},
		{Code: "cancelled", Heading: "cancelled since", Kind: answer.Count}, {Code: "undecided", Heading: "not known yet", Kind: answer.Count},
		{Code: "none", Heading: "without a forecast", Kind: answer.Count},
		{Code: "unclear", Heading: "left out, unclear", Kind: answer.Count}}}
	row := func(name string, tested forecast.Tested, to behind) answer.Row {
		share := immediate.Share{Some: tested.Kept, All: tested.Kept + tested.Late}
		low, high := share.Interval()
		off := distribution.Of(tested.Off)
		orders := func(n int, of forecast.Outcome) answer.Cell {
			if to == "" { // all months together count an order several times
				return answer.Whole(n)
			}
			return answer.Orders(n, to.of("end", tested.At.String(), "list", string(of)))
		}
		return answer.Row{Cells: []answer.Cell{answer.Words(name), orders(tested.Open, forecast.NotOpen), orders(tested.Kept, forecast.Kept),
			orders(tested.Late, forecast.Late), rate(share), answer.Measured(low, 2), answer.Measured(high, 2),
			answer.Measured(off.Quantile(0.5), 1), answer.Measured(off.Quantile(0.9), 1), orders(tested.Cancelled, forecast.Cancelled),
			orders(tested.Undecided, forecast.Undecided), orders(tested.None, forecast.Untold),
			orders(tested.Unclear, forecast.Unclear)}}
	}
	all := forecast.Tested{Off: map[int]int{}}
	for _, end := range q.Ends {
		tested := forecast.Test(b, end.Day, bound)
		t.Rows = append(t.Rows, row(end.Month, tested, size.behindOf("forecast", in)))
		all.Add(tested)
	}
	t.All = len(t.Rows)
	t.Totals = append(t.Totals, row("all", all, ""))
	part := newPart("")
	part.Tables = append(part.Tables, t)
	told := all.Open - all.None
	part.Lines = append(part.Lines, answer.NewLine(numfmt.Counted(all.Open, "open order")+" at the ends of the months",
		answer.Term{Label: "open at the ends of the months", Orders: all.Open}, answer.Term{Label: "shipped by the forecast", Orders: all.Kept},
		answer.Term{Label: "later", Orders: all.Late}, answer.Term{Label: "cancelled since", Orders: all.Cancelled},
		answer.Term{Label: "not known yet", Orders: all.Undecided}, answer.Term{Label: "without a forecast", Orders: all.Open - told}))
	part.Notes = append(part.Notes, answer.Note{Code: "median", Text: "a forecast is the median of what remains: about half of the orders ship by it; much more or less than 50% kept says that the past was no guide"},
		answer.Note{Code: "future", Text: "each is made only from what was known at the end of its month; orders of which nobody knows now what was known then are left out: units were cancelled since, or shipments came since to an order that does not say whether it is complete"},
		answer.Note{Code: "forecast", Text: fmt.Sprintf("made from the orders of the same site and place where at least %d have shipped, else of the site, else from all; those of today are the columns forecast and forecast-by of open orders", forecast.Enough)},
		answer.Note{Code: "off", Text: "days off are working days from the forecast to the ship date; negative where it shipped before"})
	if cut := q.Period.Part(b.Bounds()); cut != "" {
		part.Notes = append([]answer.Note{{Code: "part-period", Text: q.Period.Text + " is " + cut}}, part.Notes...)
	}
	d.Parts = append(d.Parts, part)
	return d, nil
}
