package present

import (
	"fmt"
	"net/url"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/due"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/query"
)

// everyStanding lists the orders of all standings.
const everyStanding = "all"

// DueQuestion understands a question about what is due, and which standings are listed. The error is a *request.Error.
func DueQuestion(b *book.Book, in *api.DueQuestion) (q due.Question, standings []due.Standing, err error) {
	if q, err = due.Parse(b, due.Request{To: in.To, By: in.Plan, After: in.After, CutOff: in.CutOff, Within: in.Within,
		Period: in.Period}); err != nil {
		return q, nil, err
	}
	if q.Where, err = Condition(b, "where", in.Where.Where); err != nil {
		return q, nil, err
	}
	for _, name := range in.Standing {
		if name == everyStanding {
			return q, nil, nil
		}
		named, err := due.ParseStandings(name)
		if err != nil {
			return q, nil, err
		}
		standings = append(standings, named...)
	}
	return q, standings, nil
}

// Due says which orders are due, late and at risk.
func Due(b *book.Book, in *api.DueQuestion, size Size) (*answer.Document, error) {
	q, standings, err := DueQuestion(b, in)
	if err != nil {
		return nil, err
	}
	a := due.Ask(b, q, standings...)
	d, part := newDocument(b, "due", q.Sentence(b)), newPart("")
	asked := *in
	asked.Page, asked.Standing = api.Page{}, nil
	to := size.behindOf("due", &asked)
	list, err := dueTable(b, q, a, in, size)
	if err != nil {
		return nil, err
	}
	tally := answer.Table{Code: "standings", Picture: true, Rows: []answer.Row{}, Totals: []answer.Row{}, All: int(due.Standings),
		Columns: []answer.Column{
			{Code: "standing", Heading: "standing", Kind: answer.Text}, {Code: "label", Heading: "in words", Kind: answer.Text},
			{Code: "orders", Heading: "orders", Kind: answer.Count}}}
	var terms []answer.Term
	for _, s := range due.InOrder() {
		n, behind := a.Counts[s], to.of("standing", s.String())
		tally.Rows = append(tally.Rows, answer.Row{Cells: []answer.Cell{answer.Words(s.String()), answer.Words(q.Label(s)),
			answer.Orders(n, behind)}})
		if n > 0 {
			terms = append(terms, answer.Term{Label: q.Label(s), Orders: n, Behind: behind})
		}
	}
	if terms == nil {
		terms = []answer.Term{{Label: "due"}}
	}
	part.Tables = append(part.Tables, list, tally)
	sum := answer.Term{Label: "selected", Orders: a.Asked, Behind: to.of("standing", everyStanding)}
	part.Lines = append(part.Lines, answer.NewLine(numfmt.Counted(a.Asked, "order")+" selected", sum, terms...))
	if placed := duePlacement(q, a, sum); len(placed) > 1 {
		part.Lines = append(part.Lines, answer.NewLine(numfmt.Counted(a.Population.InBook, "order")+" in the book",
			answer.Term{Label: "in the book", Orders: a.Population.InBook}, placed...))
	}
	part.Notes = append(part.Notes, dueNotes(b, q, a, standings)...)
	d.Parts = append(d.Parts, part)
	return d, nil
}

// duePlacement are the selected orders, and what the period and the condition leave out.
func duePlacement(q due.Question, a due.Answer, asked answer.Term) []answer.Term {
	terms := []answer.Term{asked}
	if !q.Period.Unbounded() {
		terms[0].Label = "due in " + q.Period.Text
		terms = append(terms, answer.Term{Label: "due at another time", Orders: a.Outside})
		if a.Undue > 0 {
			terms = append(terms, answer.Term{Label: q.Label(due.Standing(promise.NoPromise)), Orders: a.Undue})
		}
	}
	for _, t := range a.Population.Terms(milestone.Milestone{}) {
		if t.Code != string(query.Asked) && t.Orders > 0 {
			terms = append(terms, answer.Term{Label: t.Label, Orders: t.Orders})
		}
	}
	return terms
}

func dueTable(b *book.Book, q due.Question, a due.Answer, in *api.DueQuestion, size Size) (answer.Table, error) {
	t := answer.Table{Code: "due", All: len(a.Listed), Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "number", Heading: "number", Kind: answer.Order},
		{Code: "customer", Heading: "customer", Kind: answer.Text},
		{Code: "site", Heading: "site", Kind: answer.Text},
		{Code: "ordered", Heading: "ordered", Kind: answer.Day},
		{Code: "due", Heading: "due", Kind: answer.Day},
		{Code: "reached", Heading: q.To.Name, Kind: answer.Day},
		{Code: "over", Heading: "working days over", Kind: answer.Number, Unit: "working days"},
		{Code: "standing", Heading: "standing", Kind: answer.Text},
		{Code: "code", Heading: "standing's code", Kind: answer.Text, Folded: true},
	}}
	shown, offset, err := page(a.Listed, in.Page, len(t.Columns), size, cause{"standing", strings.Join(in.Standing, ",")})
	if err != nil {
		return t, err
	}
	t.Offset = offset
	ordered, reached := milestone.Index(b.Milestones(), milestone.Ordered), milestone.Index(b.Milestones(), q.To.Name)
	for _, e := range a.Page(b, offset, len(shown)) {
		block, at := b.Locate(e.Row)
		known := b.KnownAt(e.Row) // an order that ships after the data date is open
		over := answer.Cell{}
		if e.Standing >= due.AtRisk || promise.Outcome(e.Standing) < promise.Cancelled {
			over = answer.Measured(float64(e.Over), 0)
		}
		row := answer.Row{Cells: []answer.Cell{
			answer.Words(block.Numbers[at]), answer.Words(b.Text(book.Customer, e.Row)), answer.Words(b.Text(book.Site, e.Row)),
			answer.Words(known[ordered].String()), answer.Words(e.Due.String()), answer.Words(known[reached].String()), over,
			answer.Words(q.Label(e.Standing)), answer.Words(e.Standing.String())}}
		if e.HolidaysUnknown {
			row.Remarks = []string{"holidays unknown"}
		}
		t.Rows = append(t.Rows, row)
	}
	return t, nil
}

func dueNotes(b *book.Book, q due.Question, a due.Answer, standings []due.Standing) (notes []answer.Note) {
	note := func(code string, orders int, format string, values ...any) {
		notes = append(notes, answer.Note{Code: code, Orders: orders, Text: fmt.Sprintf(format, values...)})
	}
	selected := "all selected orders"
	if len(standings) > 0 {
		labels := make([]string, len(standings))
		for i, s := range standings {
			labels[i] = q.Label(s)
		}
		selected = strings.Join(labels, ", ")
	}
	note("listed", 0, "listed: %s, %s, by due day; working days over are those from the due day to the day it was %s, or to the data date while it is open, and a minus is how many are left", selected, numfmt.Counted(len(a.Listed), "order"), q.To.Name)
	if cut := q.Period.Part(b.Bounds()); cut != "" && q.Period.Span.From < b.Bounds().FirstDay {
		note("part-period", 0, "%s is %s", q.Period.Text, cut)
	}
	if a.HolidaysUnknown > 0 {
		note("holidays-unknown", 0, "holidays unknown on some day up to the due day, or between it and the end, which then follows the weekly pattern: %s", numfmt.Counted(a.HolidaysUnknown, "order"))
	}
	if a.ByDefault > 0 {
		note("default-calendar", 0, "%s: due days follow the default calendar, because no calendar is named after the site, its region or its country", numfmt.Counted(a.ByDefault, "order"))
	}
	return append(notes, metByMissing(a.Population.MetByMissing, "")...)
}

// dueOrders are those of some standings.
func dueOrders(b *book.Book, words url.Values) (*Orders, picks, error) {
	in := &api.DueQuestion{}
	pick, err := read("due", in, words)
	if err != nil {
		return nil, pick, err
	}
	q, standings, err := DueQuestion(b, in)
	if err != nil {
		return nil, pick, err
	}
	o := &Orders{Book: b, Question: duration.Question{Question: query.Question{Leg: q.Leg(b), Basis: q.Leg(b).From,
		Periods: []period.Period{period.All(b.Bounds())}, Where: q.Where}}}
	o.Selection.Only = append(o.Selection.Only, due.Test(b, q, standings))
	labels := make([]string, len(standings))
	for i, s := range standings {
		labels[i] = q.Label(s)
	}
	if o.Words = strings.Join(labels, ", "); len(standings) == 0 {
		o.Words = "due " + q.Rule(b)
	}
	if !q.Period.Unbounded() {
		o.Words += ", due in " + q.Period.Text
	}
	return o, pick, nil
}
