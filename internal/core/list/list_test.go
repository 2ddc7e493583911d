package list

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/query/querytest"
	"prairiedusk/internal/core/work"
)

const dataDate = day.Day(46030)

func decimals(currency string) int { return map[string]int{"OMR": 3, "": 2}[currency] }

// drawBook has orders with and without lines, days, values; some days after the data date.
func drawBook(t *rapid.T) (*book.Book, []book.Order) {
	builder := book.NewBuilder(book.BuiltIn())
	var orders []book.Order
	text := rapid.SampledFrom([]string{"", "A9", "A10", "B"})
	for id := range rapid.IntRange(0, 12).Draw(t, "orders") {
		o := book.Order{ID: int64(id), Number: fmt.Sprint("N", (id*7)%13), Days: make([]day.Day, len(milestone.BuiltIn()))}
		o.Days[0] = day.Day(rapid.Int32Range(46000, 46010).Draw(t, "ordered"))
		o.Days[3] = rapid.SampledFrom([]day.Day{0, 46003, 46012, 46020, 46031}).Draw(t, "shipped")
		o.Fields[book.Site], o.Fields[book.Currency] = text.Draw(t, "site"), rapid.SampledFrom([]string{"", "OMR"}).Draw(t, "currency")
		if o.Valued = rapid.Bool().Draw(t, "valued"); o.Valued {
			o.Value = rapid.Int64Range(-5, 2000).Draw(t, "value")
		}
		for range rapid.IntRange(0, 3).Draw(t, "lines") {
			o.Lines = append(o.Lines, parts.Line{Product: text.Draw(t, "product"),
				Units: parts.Quantity{Thousandths: 500 * rapid.Int64Range(0, 9).Draw(t, "units"), Known: rapid.Bool().Draw(t, "known")}})
		}
		builder.Put(o)
		orders = append(orders, o)
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	return builder.Finish(book.Settings{Bounds: period.Bounds{FirstDay: 46000, DataDate: dataDate}, Calendars: calendars}), orders
}

var (
	orderedToShipped = leg.Leg{From: milestone.BuiltIn()[0], To: milestone.BuiltIn()[3]}
	waiting          = predicate.Compare{Operator: predicate.Equal, X: predicate.Day("shipped"), Y: predicate.Literal{}}
	soFar            = predicate.Length{Leg: orderedToShipped, Measure: leg.Measure{Unit: leg.Days}, SoFar: true}
)

var columns = []Column{
	{Text: "site", Operand: predicate.Field("site")},
	{Text: "shipped", Operand: predicate.Day("shipped")},
	{Text: "value", Operand: predicate.Value{}},
	{Text: "length", Operand: soFar},
	{Text: "product", Operand: predicate.PartColumn{Of: book.Lines, Name: "product"}},
	{Text: "units", Operand: predicate.PartColumn{Of: book.Lines, Name: "units"}},
	{Text: "lines", Operand: predicate.Count{Of: book.Lines}},
	{Text: "waiting", Condition: waiting},
	{Text: "number", Operand: predicate.Number{}},
	{Text: "asked", Operand: predicate.Length{Leg: soFar.Leg, Measure: soFar.Measure}}, // of the list's own leg: so far while it runs
}

// slowCell is what a column shows, told from the order as a record, and what it is sorted by. Line is negative where the
// row is not of a line.
func slowCell(o book.Order, line int, column string) (text, sorted string) {
	wide := func(n int64) string { return fmt.Sprintf("%012d", n+1_000_000) }
	natural := func(text string) string { return strings.NewReplacer("A9", "A09").Replace(text) }
	of := func(show func(parts.Line) string) (string, string) {
		if line >= 0 {
			return show(o.Lines[line]), natural(show(o.Lines[line]))
		}
		var all []string
		for _, l := range o.Lines {
			all = append(all, show(l))
		}
		if len(all) == 0 {
			return "", ""
		}
		joined := fmt.Sprintf("%d: %s", len(all), strings.Join(all, ", "))
		return joined, joined
	}
	switch column {
	case "site":
		return o.Fields[book.Site], natural(o.Fields[book.Site])
	case "number":
		return o.Number, fmt.Sprintf("N%02s", o.Number[1:])
	case "shipped":
		return o.Days[3].String(), o.Days[3].String()
	case "value":
		if !o.Valued {
			return "", ""
		}
		d := decimals(o.Fields[book.Currency])
		return strings.ReplaceAll(numfmt.Decimal(o.Value, d, d), ",", ""), wide(o.Value * map[int]int64{2: 10, 3: 1}[d])
	case "length", "asked":
		end := o.Days[3]
		if end == 0 || end > dataDate {
			end = dataDate
		}
		if end < o.Days[0] {
			return "", ""
		}
		return fmt.Sprint(int(end - o.Days[0])), wide(int64(end - o.Days[0]))
	case "product":
		return of(func(l parts.Line) string { return l.Product })
	case "units":
		text, _ := of(func(l parts.Line) string {
			if !l.Units.Known {
				return ""
			}
			return strings.TrimSuffix(strings.TrimSuffix(fmt.Sprintf("%.1f", float64(l.Units.Thousandths)/1000), "0"), ".")
		})
		if line >= 0 && text != "" {
			return text, wide(o.Lines[line].Units.Thousandths)
		}
		return text, text
	case "lines":
		return fmt.Sprint(len(o.Lines)), wide(int64(len(o.Lines)))
	}
	if o.Days[3] == 0 || o.Days[3] > dataDate {
		return Yes, "1"
	}
	return No, "0"
}

// A list is what writing out every row, sorting them all and cutting them gives; its feet count every order once.
func TestListsAgreeWithWritingThemOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b, orders := drawBook(t)
		q, err := duration.Parse(b, duration.Request{Request: query.Request{In: "days"}})
		require.NoError(t, err)
		r := Request{Question: q, Columns: columns, Decimals: decimals, Most: rapid.IntRange(0, 9).Draw(t, "most"),
			Apart: rapid.Bool().Draw(t, "apart")}
		r.Highlights = []Highlight{{Column: 1, Condition: predicate.Always(true)}, {Column: -1, Condition: waiting},
			{Column: -1, Condition: predicate.Always(true)}}
		type written struct {
			order, line int
		}
		var rows []written
		perLine := rapid.Bool().Draw(t, "per line")
		if perLine {
			lines := book.Lines
			r.Per = &lines
		}
		for i, o := range orders {
			if !perLine || len(o.Lines) == 0 {
				rows = append(rows, written{i, -1})
				continue
			}
			for line := range o.Lines {
				rows = append(rows, written{i, line})
			}
		}
		cell := func(w written, column string) (text, sorted string) {
			if perLine && w.line < 0 && (column == "product" || column == "units") {
				return "", ""
			}
			return slowCell(orders[w.order], w.line, column)
		}
		for _, c := range rapid.SliceOfNDistinct(rapid.SampledFrom(columns), 0, 3, func(c Column) string { return c.Text }).Draw(t,
			"keys") {
			if (c.Text == "product" || c.Text == "units") && !perLine {
				continue // several in one cell sort by the cell's text, which the natural order tests
			}
			r.Sort = append(r.Sort, Key{c, rapid.Bool().Draw(t, "descending")})
		}
		sort.SliceStable(rows, func(i, j int) bool {
			_, x := cell(rows[i], "number")
			_, y := cell(rows[j], "number")
			return x < y
		})
		for _, k := range slices.Backward(r.Sort) {
			sort.SliceStable(rows, func(i, j int) bool {
				_, x := cell(rows[i], k.Column.Text)
				_, y := cell(rows[j], k.Column.Text)
				if x == "" || y == "" {
					return x != "" && y == ""
				}
				return x != y && (x < y) != k.Descending
			})
		}
		if r.Apart {
			group := func(w written) int {
				switch o := orders[w.order]; {
				case o.Days[3] == 0 || o.Days[3] > dataDate:
					return 2
				case o.Days[3] < o.Days[0]:
					return 1
				}
				return 0
			}
			sort.SliceStable(rows, func(i, j int) bool { return group(rows[i]) < group(rows[j]) })
		}
		a, err := Ask(b, r)
		selected, err2 := duration.Select(b, q, r.Selection)
		require.NoError(t, err2)
		querytest.Check(t, selected.Scope(), workers(b, r, selected, a.columns), func(w *worker) any {
			return []any{w.rows, w.orders, w.finished, w.waiting, w.sums.feet(r.Decimals), len(w.page.sorted()),
				fmt.Sprint(w.page.sorted())}
		})
		require.NoError(t, err)
		require.Equal(t, []int{len(rows), len(orders)}, []int{a.Rows, a.Orders})
		if r.Most > 0 {
			rows = rows[:min(len(rows), r.Most)]
		}
		require.Equal(t, len(rows), a.Len())
		for i, w := range rows {
			row := a.Row(i)
			for c, column := range columns {
				want, _ := cell(w, column.Text)
				require.Equal(t, want, row.Cells[c].Text, "%s of row %d, sorted by %+v", column.Text, i, r.Sort)
			}
			late := row.Cells[1].Text > dataDate.String()
			require.Equal(t, late, row.Cells[1].Ahead)
			shipped := orders[w.order].Days[3]
			runs := row.Cells[9].Text != "" && (shipped == 0 || shipped > dataDate)
			require.Equal(t, []bool{runs, runs}, []bool{row.Cells[9].SoFar, row.Cells[3].SoFar}, "highlighted as so far")
			isWaiting, _ := cell(w, "waiting")
			require.Equal(t, map[string]int{Yes: 1, No: 2}[isWaiting], row.Highlight)
			require.Equal(t, 0, row.Highlights[1])
		}
		requireFeet(t, a, orders)
	})
}

func requireFeet(t *rapid.T, a *Answer, orders []book.Order) {
	values, valued, units, known, lines, lengths, counted, yes, finished, ended := map[string]int64{}, 0, int64(0), 0, 0, 0, 0, 0, 0, 0
	for _, o := range orders {
		if o.Valued {
			values[o.Fields[book.Currency]] += o.Value
			valued++
		}
		for _, l := range o.Lines {
			if l.Units.Known {
				units += l.Units.Thousandths
				known++
			}
		}
		lines += len(o.Lines)
		if text, _ := slowCell(o, -1, "length"); text != "" {
			n := 0
			_, _ = fmt.Sscan(text, &n)
			lengths += n
			counted++
			if o.Days[3] != 0 && o.Days[3] <= dataDate {
				finished, ended = finished+1, ended+n
			}
		}
		if text, _ := slowCell(o, -1, "waiting"); text == Yes {
			yes++
		}
	}
	money := []string{}
	for _, currency := range []string{"", "OMR"} {
		if total := values[currency]; total != 0 {
			money = append(money, numfmt.Decimal(total, decimals(currency), decimals(currency))+" "+cmp.Or(currency, "without a currency"))
		}
	}
	want := make([]Foot, len(columns))
	if valued > 0 {
		if len(money) == 0 {
			money = []string{"0"}
		}
		want[2] = Foot{strings.Join(money, " + "), "sum"}
	}
	if counted > 0 {
		want[3] = Foot{fmt.Sprintf("%.2f of %d", float64(lengths)/float64(counted), counted), "mean per order"}
	}
	if known > 0 {
		want[5] = Foot{numfmt.Decimal(units, 3, 0), "sum"}
	}
	if len(orders) > 0 {
		want[6] = Foot{numfmt.Count(lines), "sum"}
	}
	if yes > 0 {
		want[7] = Foot{numfmt.Count(yes), "orders"}
	}
	if finished > 0 { // those that still run are in no mean
		want[9] = Foot{fmt.Sprintf("%.2f of %d", float64(ended)/float64(finished), finished), "mean per order"}
	}
	require.Equal(t, want, a.Foot)
}

func TestAListEndsWithItsRequest(t *testing.T) {
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	builder := book.NewBuilder(book.BuiltIn())
	builder.Put(book.Order{ID: 1, Number: "SD-1", Days: make([]day.Day, len(book.BuiltIn().Milestones))})
	b := builder.Finish(book.Settings{Calendars: calendars})
	q, err := duration.Parse(b, duration.Request{})
	require.NoError(t, err)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	err = work.Do(func() { _, _ = Ask(b.Within(ctx), Request{Question: q}) })
	assert.ErrorIs(t, err, context.Canceled)
	_, err = Ask(b, Request{Question: q, Selection: duration.Selection{State: "lost"}})
	assert.ErrorContains(t, err, "lost")
}
