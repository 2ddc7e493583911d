package present

import (
	"cmp"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/numfmt"
)

// rules say in a sentence how the figures of an analysis come about; took shows its own working.
var rules = map[string]string{
	"compare":   counts,
	"crosstab":  counts,
	"due":       "An order is late if its due day has passed by the data date and it is not there; due on the data date itself is not late.",
	"forecast":  "A forecast is the first working day by which half of the orders ship that have waited as long, by the estimate that counts running orders too. An order ships by it, or later, or is cancelled first; one that is open at several ends of months counts at each.",
	"immediate": "Immediate is requested for the day of the order, achieved is shipped or delivered on that day. The rate is immediate out of all that have a requested date on the day of the order or later.",
	"open":      "An order is open from its start until it closes: at the end of the leg, or when it is cancelled, if that comes first. Open at the start is open at the end of the day before.",

	"immediate-customers": "A customer's first order is the earliest by day, then by time of day, then by number, in the whole book; what came later is counted whenever it came.",

	"orders":  "A list has the orders that lie in the period by the date that places them, that meet the condition, and whose leg, group or place among those left out is the one that was asked for.",
	"quality": "Each kind of what looks wrong counts its own orders or records, so that one can count in several.",

	"places": "Each place has the lengths of its own orders, as took has them, and one figure of these; never a sum. Places with few lengths have no rank. The row all is worked out from the orders, not from the places.",

	statusLatest:      "The latest status is that of the last record by the day in question; time in status runs from the first record of its unbroken run.",
	statusPeriods:     periods,
	statusTimes:       periods,
	statusTransitions: periods,
}

const (
	counts  = "An order counts once in each step, on the day of the date that places it; what was shipped or delivered counts on its own day."
	periods = "A status period is an unbroken run of one status. It lasts from its first record to the first of the next, or to the data date; a final status has no length while it is the last."
)

// notOrders are what analyses count whose lines are not of orders alone.
var notOrders = map[string]string{"immediate-customers": "customers", "quality": "kinds", statusPeriods: "count"}

// Explain adds the working to the parts of an answer that have none: the rule, and of what each sum of orders is made up, from the
// book down, each with its orders.
func Explain(d *answer.Document) {
	rule, known := rules[d.Analysis]
	if !known {
		return
	}
	for i := range d.Parts {
		p := &d.Parts[i]
		if p.Table("working") != nil || len(p.Lines) == 0 || len(p.Tables) == 0 {
			continue
		}
		t := answer.Table{Code: "working", Title: "The working: " + rule, Folded: true, Rows: []answer.Row{}, Totals: []answer.Row{},
			Columns: []answer.Column{
				{Code: "step", Heading: "step", Kind: answer.Text}, {Code: "orders", Heading: cmp.Or(notOrders[d.Analysis], "orders"), Kind: answer.Count},
				{Code: "of_which", Heading: "of which", Kind: answer.Text},
				{Code: "of_which_orders", Heading: cmp.Or(notOrders[d.Analysis], "orders") + " of these", Kind: answer.Count}}}
		for _, l := range fromTheBookDown(p.Lines) {
			sum := l.Terms[0]
			t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{answer.Words(numfmt.Sentence(sum.Label)),
				answer.Orders(sum.Orders, sum.Behind), {}, {}}})
			for _, term := range l.Terms[1:] {
				t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{{}, {}, answer.Words(term.Label), answer.Orders(term.Orders, term.Behind)}})
			}
		}
		if t.All = len(t.Rows); t.All > 0 {
			p.Tables = append(p.Tables, t)
		}
	}
}

// fromTheBookDown are the lines that add orders up, that of the whole book first.
func fromTheBookDown(lines []answer.Line) (ordered []answer.Line) {
	for _, l := range lines {
		switch {
		case len(l.Terms) < 2 || l.Terms[0].Amount != "":
		case strings.HasPrefix(l.Terms[0].Label, "in the book"):
			ordered = append([]answer.Line{l}, ordered...)
		default:
			ordered = append(ordered, l)
		}
	}
	return ordered
}

// A lookFor says where an answer counts cases that could change it.
type lookFor struct {
	table  string
	byRows bool // each row is a case, with its words in the second cell and its count in the last; else columns of the total are
	but    []string
}

// cases are where answers count the cases that could change them, by analysis.
var cases = map[string][]lookFor{
	"took":      {{"groups", false, []string{"asked", "n", "every_leg", "no-end", "no-time-of-day", "no-daily-hours"}}},
	"immediate": {{"groups", false, []string{"orders", "asked_all", "achieved_all"}}, {"cross", false, []string{"all"}}},
	"due":       {{"standings", true, nil}},
	"forecast":  {{"months", false, []string{"open"}}},
}

// SayUntested notes the cases that could change an answer and do not occur among its orders: nothing that it says has been tried by them.
func SayUntested(d *answer.Document) {
	for i := range d.Parts {
		p := &d.Parts[i]
		var none []string
		elsewhere := func(words string) bool { // it is among the orders that the answer leaves out
			return slices.ContainsFunc(p.Lines, func(l answer.Line) bool {
				return slices.ContainsFunc(l.Terms, func(t answer.Term) bool { return t.Label == words && t.Orders > 0 })
			})
		}
		say := func(c answer.Cell, words string) {
			if c.Number != nil && *c.Number == 0 && words != "" && !slices.Contains(none, words) && !elsewhere(words) {
				none = append(none, words)
			}
		}
		for _, words := range p.Untested {
			say(answer.Whole(0), words)
		}
		for _, look := range cases[d.Analysis] {
			t := p.Table(look.table)
			switch {
			case t == nil:
			case look.byRows:
				for _, r := range t.Rows {
					say(r.Cells[len(r.Cells)-1], r.Cells[1].Text)
				}
			case len(t.Totals) > 0:
				total := t.Totals[len(t.Totals)-1]
				for at, c := range t.Columns {
					if c.Kind == answer.Count && !slices.Contains(look.but, c.Code) && !strings.Contains(c.Code, "_promise") {
						say(total.Cells[at], c.Heading)
					}
				}
			}
		}
		if none != nil {
			p.Notes = append(p.Notes, answer.Note{Code: "untested", Text: "What these orders do not test, because none of them is so: " +
				strings.Join(none, "; ")})
		}
	}
}
