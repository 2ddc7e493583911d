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
		return of != forecast.NotOpen && (list == forecast.NotOpen || of == list)
	})
	if list != forecast.NotOpen {
		o.Words += ", " + map[forecast.Outcome]string{forecast.Untold: "without a forecast", forecast.Kept: "shipped by the forecast",
			forecast.Late: "later than the forecast", forecast.Cancelled: "cancelled since", forecast.Undecided: "not known yet"}[list]
	}
	return o, pick, nil
}

// Forecast says what became of the forecasts that could be told at the end of each month.
func Forecast(b *book.Book, in *api.ForecastQuestion, size Size) (*answer.Document, error) {
	periods, err := period.Parse(in.Period, b.Bounds())
	if err == nil && len(periods) > 1 {
		err = fmt.Errorf("want one period")
	}
	if err != nil {
		return nil, request.Invalid("period", in.Period, err.Error())
	}
	where, err := Condition(b, "where", in.Where.Where)
	if err != nil {
		return nil, err
	}
	days := periods[0].Span
	if periods[0].Unbounded() {
		days = day.Through(b.Bounds().FirstDay, b.Bounds().DataDate)
	}
	var bound *predicate.Bound
	if where.Condition != nil {
		bound = where.Bind(b, where.Condition)
	}
	names, months := query.Month.Steps(days)
	if len(months) > mostMonths {
		return nil, request.Invalid("period", in.Period, fmt.Sprintf("it has %d months; want at most %d", len(months), mostMonths))
	}
	words := query.Sentence{query.Part("", "How well would forecasts of the ship date have held, at the end of each month of "),
		query.Part("period", periods[0].Text)}
	if periods[0].Unbounded() {
		words[1].Text = periods[0].Days()
	}
	d := newDocument(b, "forecast", append(append(words, where.Words()...), query.Part("", "?")))
	d.Heading = "order date → ship date, working days, start day not counted, after cut-offs"
	t := answer.Table{Code: "months", Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "month", Heading: "end of", Kind: answer.Text}, {Code: "open", Heading: "open", Kind: answer.Count},
		{Code: "kept", Heading: "shipped by the forecast", Kind: answer.Count}, {Code: "late", Heading: "later", Kind: answer.Count},
		{Code: "share", Heading: "% kept", Kind: answer.Percent}, {Code: "low", Heading: "95% from", Kind: answer.Percent},
		{Code: "high", Heading: "to", Kind: answer.Percent}, {Code: "off", Heading: "median days off", Kind: answer.Number, Unit: "working days"},
		{Code: "off_p90", Heading: "p90 days off", Kind: answer.Number, Unit: "working days"},
		{Code: "cancelled", Heading: "cancelled since", Kind: answer.Count}, {Code: "undecided", Heading: "not known yet", Kind: answer.Count},
		{Code: "none", Heading: "without a forecast", Kind: answer.Count}}}
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
			orders(tested.Undecided, forecast.Undecided), orders(tested.None, forecast.Untold)}}
	}
	all := forecast.Tested{Off: map[int]int{}}
	for i, month := range months {
		at := month.LastDay()
		if at > b.Bounds().DataDate || at < b.Bounds().FirstDay {
			continue // it has not ended, or nothing is known of it
		}
		tested := forecast.Test(b, at, bound)
		t.Rows = append(t.Rows, row(names[i], tested, size.behindOf("forecast", in)))
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
		answer.Note{Code: "future", Text: "each is made only from what was known at the end of its month; orders whose later cancelled units or shipments contradict what was open on that day are left out"},
		answer.Note{Code: "forecast", Text: fmt.Sprintf("made from the orders of the same site and place where at least %d have shipped, else of the site, else from all; those of today are the columns forecast and forecast-by of open orders", forecast.Enough)},
		answer.Note{Code: "off", Text: "days off are working days from the forecast to the ship date; negative where it shipped before"})
	if cut := periods[0].Part(b.Bounds()); cut != "" {
		part.Notes = append([]answer.Note{{Code: "part-period", Text: periods[0].Text + " is " + cut}}, part.Notes...)
	}
	d.Parts = append(d.Parts, part)
	return d, nil
}
