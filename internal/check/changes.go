package check

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/forecast"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
)

// A change is one thing that became of an order between two books.
type orderChange struct {
	what  string // as it is counted: "new ship date"
	words string // as it reads: "ship date 2026-10-02, which had none"
}

// A comparer finds what became of orders between two books, which may have other columns.
type comparer struct {
	then, now  *book.Book
	milestones [][2]int // places of those that either book has; −1 in one that has not
	names      []milestone.Milestone
	fields     [][2]int
	fieldNames []string
	promised   [2]int
	shipped    [2]int
	cancelled  [2]int
}

func newComparer(then, now *book.Book) *comparer {
	c := &comparer{then: then, now: now}
	for _, m := range now.Milestones() {
		c.milestones, c.names = append(c.milestones, c.place(m.Name)), append(c.names, m)
	}
	for _, m := range then.Milestones() {
		if milestone.Index(now.Milestones(), m.Name) < 0 {
			c.milestones, c.names = append(c.milestones, c.place(m.Name)), append(c.names, m)
		}
	}
	for f, name := range now.FieldNames() {
		if name == forecast.FieldForecast || name == forecast.FieldBy {
			continue // other orders tell it: nothing of this one was corrected
		}
		if was, known := then.ParseField(name); known {
			c.fields, c.fieldNames = append(c.fields, [2]int{int(was), f}), append(c.fieldNames, name)
		}
	}
	c.promised, c.shipped, c.cancelled = c.place(milestone.Promised), c.place(milestone.Shipped), c.place(milestone.Cancelled)
	return c
}

// place is that of a milestone in either book.
func (c *comparer) place(name string) [2]int {
	return [2]int{milestone.Index(c.then.Milestones(), name), milestone.Index(c.now.Milestones(), name)}
}

// dayOf is a day of an order; zero in a book that has not the milestone.
func dayOf(days []day.Day, at int) day.Day {
	if at < 0 {
		return 0
	}
	return days[at]
}

// late says that an order was to be shipped by then, and is neither shipped nor cancelled.
func (c *comparer) late(side int, days []day.Day, dataDate day.Day) bool {
	by := dayOf(days, c.promised[side])
	known := func(at [2]int) bool { d := dayOf(days, at[side]); return d != 0 && d <= dataDate }
	return by != 0 && by < dataDate && !known(c.shipped) && !known(c.cancelled)
}

// of is what became of an order that is in both books.
func (c *comparer) of(was, is int) (changes []orderChange) {
	before, after := c.then.At(was), c.now.At(is)
	for i, at := range c.milestones {
		date, x, y := c.names[i].Date(), dayOf(before.Days, at[0]), dayOf(after.Days, at[1])
		switch {
		case x == y:
		case x == 0:
			changes = append(changes, orderChange{"new " + date, fmt.Sprintf("%s %v, which had none", date, y)})
		case y == 0:
			changes = append(changes, orderChange{date + " taken back", fmt.Sprintf("%s %v taken back", date, x)})
		case y > x:
			changes = append(changes, orderChange{date + " moved later", fmt.Sprintf("%s %v → %v, %s later", date, x, y,
				numfmt.Counted(int(y-x), "day"))})
		default:
			changes = append(changes, orderChange{date + " moved earlier", fmt.Sprintf("%s %v → %v, %s earlier", date, x, y,
				numfmt.Counted(int(x-y), "day"))})
		}
	}
	for i, at := range c.fields {
		x, y := c.then.Text(book.Field(at[0]), was), c.now.Text(book.Field(at[1]), is)
		if x != y {
			changes = append(changes, orderChange{c.fieldNames[i] + " corrected", fmt.Sprintf("%s %s → %s", c.fieldNames[i], orNone(x), orNone(y))})
		}
	}
	if before.Value != after.Value || before.Valued != after.Valued {
		changes = append(changes, orderChange{"value corrected", "value corrected"})
	}
	if c.late(1, after.Days, c.now.Bounds().DataDate) && !c.late(0, before.Days, c.then.Bounds().DataDate) {
		changes = append(changes, orderChange{"newly late to ship", "newly late: promised " + dayOf(after.Days, c.promised[1]).String()})
	}
	return changes
}

func orNone(text string) string {
	if text == "" {
		return "none"
	}
	return text
}

// Changes says what became of orders between an earlier book and the one that stands: those that are new or gone, whose dates are new
// or have moved, and whose fields were corrected. Since says in words which the earlier one is.
func (a Asker) Changes(then *book.Book, since string) *answer.Document {
	now, c := a.Book, newComparer(then, a.Book)
	bounds := now.Bounds()
	d := &answer.Document{Analysis: "changes", Version: now.Version(), FirstDay: bounds.FirstDay.String(), DataDate: bounds.DataDate.String()}
	orders := answer.Table{Code: "orders", Title: "The orders", Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "number", Heading: "order", Kind: answer.Order}, {Code: "what", Heading: "what changed", Kind: answer.Text}}}
	counts := map[string]int{}
	add := func(number string, changes ...orderChange) {
		if len(changes) == 0 {
			return
		}
		words := make([]string, len(changes))
		for i, change := range changes {
			counts[change.what]++
			words[i] = change.words
		}
		if orders.All++; orders.All <= a.Size.Rows {
			orders.Rows = append(orders.Rows, answer.Row{Order: number, Cells: []answer.Cell{answer.Words(number),
				answer.Words(strings.Join(words, "; "))}})
		}
	}
	met := 0
	for row := range now.Orders() {
		if row%pauseRows == 0 {
			now.Pause()
		}
		order := now.At(row)
		if was, known := then.RowOf(order.ID); known {
			met++
			add(order.Number, c.of(was, row)...)
		} else {
			add(order.Number, orderChange{"new orders", "new"})
		}
	}
	if met < then.Orders() {
		for row := range then.Orders() {
			order := then.At(row)
			if _, stands := now.RowOf(order.ID); !stands {
				add(order.Number, orderChange{"orders that are gone", "gone"})
			}
		}
	}
	t := answer.Table{Code: "changes", Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "what", Heading: "what changed", Kind: answer.Text}, {Code: "orders", Heading: "orders", Kind: answer.Count}}}
	var whats []string
	for what := range counts {
		whats = append(whats, what)
	}
	slices.SortFunc(whats, func(x, y string) int {
		if n := counts[y] - counts[x]; n != 0 {
			return n
		}
		return strings.Compare(x, y)
	})
	for _, what := range whats {
		t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{answer.Words(what), answer.Whole(counts[what])}})
	}
	t.All = len(t.Rows)
	part := answer.Part{Tables: []answer.Table{t, orders}, Lines: []answer.Line{{Terms: []answer.Term{}, Text: fmt.Sprintf(
		"%s changed, were added or are gone; %s orders then, %s now", numfmt.Counted(orders.All, "order"), numfmt.Count(then.Orders()),
		numfmt.Count(now.Orders()))}}, Notes: []answer.Note{}}
	d.Sentence = []answer.Word{{Text: "What changed in the orders " + since + "?"}}
	d.Parts = []answer.Part{part}
	return d
}
