package present

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
)

// trendMonths is how many months a trend has: a year, and the same month of the year before.
const trendMonths = 13

// monthTrend is a column of a table with a row for each month, the oldest first; what the book does not have is left out.
func monthTrend(table *answer.Table, column, after string) (trend []api.OverviewMonth) {
	for _, row := range table.Rows {
		cell := row.Cells[table.At(column)]
		m := api.OverviewMonth{Month: row.Cells[0].Text, Value: cell.Number}
		if cell.Number != nil {
			m.Text = cell.Text + after
		}
		trend = append(trend, m)
	}
	return trend
}

// addTrends gives each figure what it was in the last months.
func (o overview) addTrends(figures []api.OverviewFigure) error {
	crosstab, err := Crosstab(o.book, &api.CrosstabQuestion{Counting: api.Counting{Period: o.trend}, Rows: "month"}, ToRead)
	if err != nil {
		return err
	}
	open, err := o.backlog.Open(o.book, &api.OpenQuestion{Period: o.trend, Each: "month"}, ToRead)
	if err != nil {
		return err
	}
	took, err := Took(o.book, &api.TookQuestion{Placing: api.Placing{Period: o.trend, By: []string{"month"}}, Promise: milestone.Promised,
		Show: []string{"median"}}, ToRead)
	if err != nil {
		return err
	}
	immediate, err := Immediate(o.book, &api.ImmediateQuestion{Period: o.trend, By: []string{"month"}}, ToRead)
	if err != nil {
		return err
	}
	trends := map[string][]api.OverviewMonth{
		"orders":    monthTrend(crosstab.Parts[0].Table("cells"), "total", ""),
		"open":      monthTrend(open.Parts[0].Table("rows"), "at_end", ""),
		"median":    monthTrend(took.Parts[0].Table("groups"), "median", ""),
		"late":      monthTrend(took.Parts[0].Table("promise"), "late_share", "%"),
		"immediate": monthTrend(immediate.Parts[0].Table("groups"), "asked_rate", "%"),
	}
	for i := range figures {
		figures[i].Trend = trends[figures[i].Code]
	}
	return nil
}

// late says what is overdue and at risk today.
func (o overview) late() (api.OverviewList, error) {
	l := api.OverviewList{Code: "today", Title: "Late and at risk on " + o.book.Bounds().DataDate.String(), Rows: []api.OverviewRow{},
		None: "No order with a promised date is late or at risk."}
	d, err := Due(o.book, &api.DueQuestion{}, ToRead)
	if err != nil {
		return l, err
	}
	standings := d.Parts[0].Table("standings")
	for _, row := range standings.Rows {
		code := row.Cells[standings.At("standing")].Text
		if n := row.Cells[standings.At("orders")]; (code == "overdue" || code == "at-risk") && *n.Number > 0 {
			l.Rows = append(l.Rows, api.OverviewRow{Text: row.Cells[standings.At("label")].Text, Number: n.Text,
				Address: consoleAddress("/due", map[string]string{"standing": code})})
		}
	}
	return l, nil
}

// oldestShown is how many of the orders that are open longest are named.
const oldestShown = 5

// oldest are the orders that are open longest.
func (o overview) oldest() (api.OverviewList, error) {
	l := api.OverviewList{Code: "oldest", Title: "Open longest", Rows: []api.OverviewRow{}, None: "No order is open."}
	asked, err := ListOf(o.book, &api.OrdersQuestion{State: leg.Running.String(), Columns: "number, customer, length", Sort: "-length"})
	if err != nil {
		return l, err
	}
	found, err := list.Ask(asked.Book, asked.Request)
	if err != nil {
		return l, err
	}
	page, err := asked.Page(found, api.Page{Limit: oldestShown})
	if err != nil {
		return l, err
	}
	for _, row := range page.Parts[0].Table("orders").Rows {
		l.Rows = append(l.Rows, api.OverviewRow{Order: row.Order, Text: row.Cells[1].Text,
			Number: row.Cells[2].Text + " working days"})
	}
	return l, nil
}

// attention are the issues in the records that touch the most orders.
func attention(quality *answer.Document) api.OverviewList {
	l := api.OverviewList{Code: "attention", Title: "Data that needs attention", Rows: []api.OverviewRow{}, None: "Nothing looks wrong."}
	issues := quality.Parts[0].Table("issues")
	count, what := issues.At("count"), issues.At("what")
	rows := slices.DeleteFunc(slices.Clone(issues.Rows), func(r answer.Row) bool { return !strings.HasPrefix(r.Cells[what].Text, ofOrders) })
	slices.SortStableFunc(rows, func(x, y answer.Row) int { return cmp.Compare(*y.Cells[count].Number, *x.Cells[count].Number) })
	for _, row := range rows[:min(len(rows), oldestShown)] {
		l.Rows = append(l.Rows, api.OverviewRow{Text: row.Cells[what].Text, Number: row.Cells[count].Text, Address: "/quality"})
	}
	return l
}

// A ChangedDate says of how many orders that were there before a load changed one of their dates.
type ChangedDate struct {
	Name         string // of the milestone
	Added, Moved int    // which had none before, and which had another
}

// A LastLoad is the last load that was not undone, and what it changed.
type LastLoad struct {
	Number int64          // 0 is none
	New    map[string]int // records that it brought, by kind
	Dates  []ChangedDate
}

// changed says what the last load changed.
func (load LastLoad) changed() api.OverviewList {
	l := api.OverviewList{Code: "load", Title: "What the last load changed", Rows: []api.OverviewRow{}, None: "It changed no order."}
	if load.Number == 0 {
		l.None = "Nothing was imported yet."
		return l
	}
	l.Title = fmt.Sprintf("What load %d changed", load.Number)
	add := func(n int, words string) {
		if n > 0 {
			l.Rows = append(l.Rows, api.OverviewRow{Text: words, Number: numfmt.Count(n), Address: "/import"})
		}
	}
	for _, kind := range []string{"orders", "shipments", "payments"} {
		n := load.New[kind]
		add(n, "new "+numfmt.Agreeing(n, strings.TrimSuffix(kind, "s"), kind))
	}
	for _, d := range load.Dates {
		date := milestone.DateName(d.Name)
		add(d.Added, numfmt.Agreeing(d.Added, "order has", "orders have")+" a "+date+" now")
		add(d.Moved, date+numfmt.Agreeing(d.Moved, " of one order", "s")+" moved")
	}
	return l
}
