package present

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/demo/demobook"
)

// Every answer that can be checked shows its working, whose steps add up and open their orders.
func TestEveryAnswerShowsItsWorking(t *testing.T) {
	b := demobook.New(400)
	for _, analysis := range Checked() {
		d, err := new(Backlog).Ask(b, answer.Address(analysis+"?"), ToRead)
		require.NoError(t, err, analysis)
		Explain(d)
		if analysis == "took" {
			assert.NotContains(t, d.Parts[0].Table("working").Title, ":", "it has its own")
			continue
		}
		working := d.Parts[0].Table("working")
		if !assert.NotNil(t, working, analysis) {
			continue
		}
		assert.Greater(t, len(working.Title), 60, "%s has a rule", analysis)
		sum, steps := -1.0, 0
		for _, r := range working.Rows {
			if r.Cells[1].Number != nil {
				assert.LessOrEqual(t, sum, 0.0, "%s: what a step is made of adds up", analysis)
				sum, steps = *r.Cells[1].Number, steps+1
			} else {
				sum -= *r.Cells[3].Number
			}
		}
		assert.Zero(t, sum, analysis)
		assert.Positive(t, steps, analysis)
	}
}

// Of the kinds of orders that could change an answer those are named that do not occur, and no others.
func TestWhatOrdersDoNotTestIsSaid(t *testing.T) {
	b := demobook.New(400)
	for _, analysis := range Checked() {
		for _, period := range []string{"", "2026-07", "2026-10-31"} {
			words := "?period=" + period
			if _, has := Takes(analysis)["period"]; !has {
				words = ""
			}
			d, err := new(Backlog).Ask(b, answer.Address(analysis+words), ToRead)
			require.NoError(t, err, analysis)
			SayUntested(d)
			said := ""
			for _, n := range d.Parts[0].Notes {
				if n.Code == "untested" {
					said = n.Text + ";"
				}
			}
			for _, l := range d.Parts[0].Lines {
				for _, term := range l.Terms[1:] {
					if term.Orders > 0 {
						assert.NotContains(t, said, ": "+term.Label+";", "%s in %s", analysis, period)
						assert.NotContains(t, said, "; "+term.Label+";", "%s in %s", analysis, period)
					}
				}
			}
			if _, counted := cases[analysis]; counted && period == "2026-10-31" { // one day holds few kinds of orders
				assert.Greater(t, strings.Count(said, ";"), 1, analysis)
			}
		}
	}
}

// A kind of order on an edge of a question is said not to occur until one is planted, and then no more.
func TestAnOrderOnAnEdgeIsTested(t *testing.T) {
	order := func(number, customer string, days map[string]string, statuses ...string) book.Order {
		o := book.Order{Number: number, Days: make([]day.Day, len(milestone.BuiltIn()))}
		o.Fields[book.Customer] = customer
		for name, text := range days {
			d, err := day.Parse(text)
			require.NoError(t, err)
			o.Days[milestone.Index(milestone.BuiltIn(), name)] = d
		}
		for _, s := range statuses {
			status, on, _ := strings.Cut(s, " ")
			d, err := day.Parse(on)
			require.NoError(t, err)
			o.Statuses = append(o.Statuses, parts.StatusRecord{Status: status, At: parts.Day{Day: d}, Source: parts.Event})
		}
		return o
	}
	plain := order("N1", "Clover", map[string]string{"ordered": "2026-07-10", "shipped": "2026-07-13"}, "new 2026-07-10", "gone 2026-07-13")
	for _, tt := range []struct {
		question answer.Address
		kind     string
		planted  book.Order
	}{
		{"took?in=days&period=2026-07", "order date on the first day of the period", order("N2", "", map[string]string{"ordered": "2026-07-01"})},
		{"took?in=days&period=2026-07", "order date on the last day of the period", order("N2", "", map[string]string{"ordered": "2026-07-31"})},
		{"took?in=days", "ship date on the order date itself", order("N2", "", map[string]string{"ordered": "2026-07-11", "shipped": "2026-07-11"})},
		{"took?in=days&count=both-ends", "ship date on the order date itself", order("N2", "", map[string]string{"ordered": "2026-07-11", "shipped": "2026-07-11"})},
		{"open?period=2026-07", "closed on the first day of the period", order("N2", "", map[string]string{"ordered": "2026-06-30", "shipped": "2026-07-01"})},
		{"open?period=2026-07&where=number!%3Dnull", "closed on the first day of the period", order("N2", "", map[string]string{"ordered": "2026-06-30", "shipped": "2026-07-01"})},
		{"open?period=2026-07", "closed on the day of its start", order("N2", "", map[string]string{"ordered": "2026-07-02", "shipped": "2026-07-02"})},
		{"open?period=2026-07", "ship date before order date", order("N2", "", map[string]string{"ordered": "2026-07-02", "shipped": "2026-07-01"})},
		{"immediate?orders=first", "two orders of a customer on the day of the first", order("N2", "Clover", map[string]string{"ordered": "2026-07-10"})},
		{"immediate?period=2026-07", "order date on the last day of the period", order("N2", "Clover", map[string]string{"ordered": "2026-07-31"})},
		{"status-transitions", "back in an earlier status", order("N2", "", nil, "new 2026-07-01", "held 2026-07-02", "new 2026-07-03")},
		{"status-latest", "two statuses recorded for one moment", order("N2", "", nil, "new 2026-07-01", "held 2026-07-01")},
		{"forecast", "without a forecast", order("N2", "", map[string]string{"ordered": "2026-07-11"})},
		{"crosstab?basis=shipped", "not yet shipped", order("N2", "", map[string]string{"ordered": "2026-07-11"})},
		{"crosstab?basis=promised", "without promised date", order("N2", "", map[string]string{"ordered": "2026-07-11"})},
	} {
		said := func(orders ...book.Order) string {
			builder := book.NewBuilder(book.BuiltIn())
			for i, o := range orders {
				o.ID = int64(i + 1)
				builder.Put(o)
			}
			calendars, err := book.NewCalendars(nil)
			require.NoError(t, err)
			first, _ := day.Parse("2026-06-01")
			last, _ := day.Parse("2026-08-31")
			b := builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: first, DataDate: last}})
			d, err := new(Backlog).Ask(b, tt.question, ToRead)
			require.NoError(t, err, tt.question)
			SayUntested(d)
			for _, n := range d.Parts[0].Notes {
				if n.Code == "untested" {
					return n.Text
				}
			}
			return ""
		}
		without := plain
		if tt.kind == "without promised date" {
			without = order("N1", "", map[string]string{"promised": "2026-07-10"})
		}
		assert.Contains(t, said(without), tt.kind, tt.question)
		assert.NotContains(t, said(without, tt.planted), tt.kind, tt.question)
	}
}
