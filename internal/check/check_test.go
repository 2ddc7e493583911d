package check

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/demo/demobook"
	"prairiedusk/internal/present"
	"prairiedusk/internal/recognise"
)

// questions are some of every analysis that can be checked.
var questions = []string{"took?period=2026-Q3", "took?by=site&period=2026-Q3", "took?where=site+%3D%3D+%22Galway%22&to=delivered",
	"took?by=month&period=2026-Q2&count=both-ends", "open?period=2026-08", "open?period=2026-Q3&by=site&closing_day=out", "due",
	"immediate?period=2026-Q2&by=site", "crosstab?rows=site&columns=month&period=2026-Q1",
	"compare?period=2026-Q1&basis=shipped,ordered", "orders?period=2026-Q3&state=counted&where=site+%3D%3D+%22Galway%22", "quality?"}

func asker(t testing.TB) Asker {
	return Asker{Backlog: &present.Backlog{}, Book: demobook.New(1200), Size: present.ToRead}
}

// column are the texts of a column of a document's table, by row.
func column(t *testing.T, d *answer.Document, table, code string) (texts []string) {
	of := d.Parts[0].Table(table)
	if of == nil {
		return nil
	}
	require.GreaterOrEqual(t, of.At(code), 0, code)
	for _, r := range of.Rows {
		texts = append(texts, r.Cells[of.At(code)].Text)
	}
	return texts
}

func notes(d *answer.Document) (texts []string) {
	for _, n := range d.Parts[0].Notes {
		texts = append(texts, n.Code+": "+n.Text)
	}
	return texts
}

// first is the check of a question's usual number, of its first row where the answer has no total.
func (a Asker) first(t *testing.T, question string) (api.Check, number) {
	c := api.Check{Question: question}
	d, err := a.ask(answer.Address(question))
	require.NoError(t, err, question)
	n, err := asked(d, &c)
	if err != nil {
		c.Row = names(tableOf(d, &d.Parts[0]), tableOf(d, &d.Parts[0]).Rows[0])
		n, err = asked(d, &c)
	}
	require.NoError(t, err, question)
	require.NotEmpty(t, n.counts, question)
	return c, n
}

// A list from which orders were taken, and to which others were added, is told apart order by order, each with a reason; the same
// list, whatever its order and form, is the same.
func TestAListIsHeldAgainstAnAnswerOrderByOrder(t *testing.T) {
	a := asker(t)
	for _, question := range questions {
		c, n := a.first(t, question)
		rows, err := rowsBehind(a.Book, n.counts, nil)
		require.NoError(t, err, question)
		require.Greater(t, len(rows), 2, question)
		var list, dropped, added []string
		for i, row := range rows {
			if number := a.Book.At(int(row)).Number; i%7 == 0 {
				dropped = append(dropped, number)
			} else {
				list = append(list, number)
			}
		}
		for row := range a.Book.Orders() {
			if !slices.Contains(rows, uint32(row)) && len(added) < 5 {
				added = append(added, a.Book.At(row).Number)
			}
		}
		slices.Reverse(list)
		c.Orders = &api.ExpectedFile{Content: []byte("order;remark\n" + strings.Join(slices.Concat(list, added), ";x\n") +
			";x\nSD-9999999;x\nTotal;" + fmt.Sprint(len(list)) + "\n")}
		d, err := a.Against(&c)
		require.NoError(t, err, question)
		is := map[string][]string{}
		numbers, kinds, why := column(t, d, "orders", "number"), column(t, d, "orders", "is"), column(t, d, "orders", "why")
		for i := range numbers {
			is[kinds[i]] = append(is[kinds[i]], numbers[i])
			assert.NotEmpty(t, why[i], question)
			if kinds[i] == "missing" {
				assert.False(t, strings.HasPrefix(why[i], "counted:"), "%s: %s is not in the answer", question, numbers[i])
			}
		}
		assert.ElementsMatch(t, dropped, is["extra"], question)
		assert.ElementsMatch(t, added, is["missing"], question)
		assert.Equal(t, []string{"SD-9999999"}, is["not in the book"], question)
		for _, l := range d.Parts[0].Lines {
			sum := 0
			for _, term := range l.Terms[1:] {
				sum += term.Orders
			}
			assert.Equal(t, l.Terms[0].Orders, sum, "%s: %s", question, l.Text)
		}
		assert.Contains(t, strings.Join(notes(d), "\n"), "a row of totals", question)

		c.Orders.Content = []byte(strings.Join(slices.Concat(list, dropped), "\n"))
		d, err = a.Against(&c)
		require.NoError(t, err, question)
		assert.Equal(t, []string{"the same orders"}, column(t, d, "check", "verdict"), question)
		assert.Nil(t, d.Parts[0].Table("orders"), question)

		c.Orders.Content = []byte(strings.Join(slices.Concat(list, dropped[1:], added[:min(1, len(added))]), "\n"))
		if d, err = a.Against(&c); assert.NoError(t, err, question) && len(added) > 0 {
			assert.Contains(t, column(t, d, "check", "verdict")[0], "the same count, other orders", question)
			assert.Equal(t, []string{"no"}, column(t, d, "check", "holds"), question)
		}
	}
}

// What comes out of another reading of a question is found to come of it, by its figure and by its orders.
func TestAnotherReadingExplainsTheDifference(t *testing.T) {
	a := asker(t)
	explained := 0
	for _, question := range questions {
		c, own := a.first(t, question)
		all, err := readings(a.Book, answer.Address(question))
		require.NoError(t, err)
		for _, r := range all {
			d, err := a.ask(r.address)
			if err != nil {
				continue
			}
			n, err := asked(d, &c)
			if err != nil || n.counts == "" || n.cell.Text == own.cell.Text {
				continue
			}
			explained++
			c := c
			c.Figure = n.cell.Text
			d, err = a.Against(&c)
			require.NoError(t, err)
			assert.Contains(t, strings.Join(notes(d), "\n"), r.words, "%s, %s", question, r.address)
			assert.Equal(t, []string{"no"}, column(t, d, "check", "holds"))
			rows, err := rowsBehind(a.Book, n.counts, nil)
			require.NoError(t, err)
			var list strings.Builder
			for _, row := range rows {
				list.WriteString(a.Book.At(int(row)).Number + "\n")
			}
			c.Figure, c.Orders = "", &api.ExpectedFile{Content: []byte("order\n" + list.String())}
			if len(rows) > 0 {
				d, err = a.Against(&c)
				require.NoError(t, err)
				assert.Contains(t, strings.Join(notes(d), "\n"), r.words, "%s, %s", question, r.address)
			}
		}
	}
	assert.Greater(t, explained, 80)
}

// The ends of a period are named in the reasons.
func TestReasonsNameTheEndsOfThePeriod(t *testing.T) {
	a := asker(t)
	c, n := a.first(t, "took?period=2026-Q3&basis=shipped")
	told, err := factsFor(a.Book, answer.Address(c.Question), n.counts)
	require.NoError(t, err)
	for days, words := range map[int]string{-2: "", -1: ", the day before the period", 0: ", the first day of the period", 1: "",
		90: "", 91: ", the last day of the period", 92: ", the day after the period", 93: ""} {
		assert.Equal(t, words, told.edge(told.span.From+day.Day(days)))
	}
	rows, err := rowsBehind(a.Book, n.counts, nil)
	require.NoError(t, err)
	assert.Contains(t, told.of(int(rows[0])), "ship date 2026-")
	assert.Contains(t, told.of(int(rows[0])), " working day")
}

func TestFiguresAreReadAsPeopleWriteThem(t *testing.T) {
	for _, c := range []struct {
		text    string
		found   float64
		verdict rounding
	}{
		{"1,245", 1245, equal}, {"1245", 1245, equal}, {" 1 245 ", 1245, equal}, {"1,246", 1245, different}, {"4.77", 4.766, rounded},
		{"4.8", 4.766, rounded}, {"4.7", 4.766, cutOff}, {"4.9", 4.766, different}, {"5", 4.766, rounded}, {"4", 4.766, cutOff},
		{"65.27%", 65.273, rounded}, {"-2", -2, equal}, {"−2.5", -2.54, rounded}, {"0.5", 0.45, rounded}, {"12,5", 12.5, equal},
	} {
		f, err := typedFigure(api.Expected{Figure: c.text})
		require.NoError(t, err, c.text)
		assert.Equal(t, c.verdict, f.against(c.found), "%s against %v", c.text, c.found)
	}
	f, err := typedFigure(api.Expected{Figure: "1,245", Decimals: recognise.Comma.String()})
	require.NoError(t, err)
	assert.Equal(t, equal, f.against(1.245))
	_, err = typedFigure(api.Expected{Figure: "many"})
	assert.ErrorContains(t, err, "no number")
}

// A table is held against an answer number by number, in whatever order its rows and columns stand.
func TestATableIsHeldAgainstAnAnswer(t *testing.T) {
	a := asker(t)
	d, err := a.ask("took?by=site&period=2026-Q3")
	require.NoError(t, err)
	groups := d.Parts[0].Table("groups")
	var text strings.Builder
	text.WriteString("Site\tmean\tn\n")
	for _, r := range slices.Backward(groups.Rows) {
		fmt.Fprintf(&text, "%s\t%s\t%s\n", r.Cells[0].Text, r.Cells[groups.At("mean")].Text, r.Cells[groups.At("n")].Text)
	}
	fmt.Fprintf(&text, "Grand total\t\t%s\n", groups.Totals[0].Cells[groups.At("n")].Text)
	check := func(text, decimals string) (*answer.Document, error) {
		return a.Against(&api.Check{Question: "took?by=site&period=2026-Q3", Expected: api.Expected{Decimals: decimals,
			Table: &api.ExpectedFile{Name: "expected.tsv", Content: []byte(text)}}})
	}
	d, err = check(text.String(), "")
	require.NoError(t, err)
	assert.NotContains(t, column(t, d, "check", "holds"), "no", text.String())
	assert.Len(t, column(t, d, "check", "holds"), 2*len(groups.Rows)+1)

	d, err = check("site\tn\nGalwey\t3\nGalway\t"+fmt.Sprint(1)+"\n", "")
	require.NoError(t, err)
	verdicts := strings.Join(column(t, d, "check", "verdict"), "\n")
	for _, words := range []string{"did you mean Galway?", "differs", "not in the table that is expected"} {
		assert.Contains(t, verdicts, words)
	}
	for text, words := range map[string]string{
		"site\tmean\nGalway\t1,234\nMuscat\t2,345\n":  "can be read in two ways",
		"site\tmean\nGalway\t1,5\nMuscat\t2.5\n":      "contradict each other",
		"site\tmean\nGalway\tsome\nMuscat\t2.5\n":     `"some": no number, in line 2 of expected.tsv, column mean`,
		"site\tmaen\tn\nGalway\t1\t2\nMuscat\t2\t3\n": "did you mean mean?",
		"Galway\n": "want a header",
		"site\tremarks\tmore\nGalway\tfew\tx\nMuscat\tnone\ty\n": "no number to be compared", "site\tmean\nGalway\t\nMuscat\t\n": "no number to be compared",
	} {
		_, err := check(text, "")
		var wrong *request.Error
		assert.ErrorAs(t, err, &wrong, text)
		assert.ErrorContains(t, err, words, text)
	}
	d, err = check("site\tmean\nGalway\t1,234\nMuscat\t2,345\n", "comma")
	require.NoError(t, err)
	assert.Contains(t, column(t, d, "check", "expected"), "1.234")
}

func TestTheColumnOfOrderNumbersIsFound(t *testing.T) {
	b := demobook.New(50)
	one, two := b.At(3).Number, b.At(4).Number
	read := func(text, named string) (expectedList, error) {
		return readOrders(b, api.Expected{Column: named, Orders: &api.ExpectedFile{Name: "list.csv", Content: []byte(text)}})
	}
	for text, rows := range map[string][]uint32{
		one + "\n" + two + "\n": {3, 4},
		one + ", " + two:        {3, 4},
		"Orders of 2026, as agreed\nOrder\n" + two + "\n" + one:    {3, 4},
		"site,Order\nGalway," + one + "\nGalway," + one + "\n":     {3},
		"Order no.\n" + one + "\n\n" + two + "\n" + one + "\n":     {3, 4},
		"value\tOrder\n12\t" + one + "\nTotal\t2\n13\t" + two + "": {3, 4},
	} {
		l, err := read(text, "")
		require.NoError(t, err, text)
		assert.Equal(t, rows, l.rows, text)
		assert.Empty(t, l.unknown, text)
	}
	both := "first,second\n" + one + "," + two + "\n" + two + "," + one + "\n"
	_, err := read(both, "")
	assert.ErrorContains(t, err, "several columns of list.csv hold numbers of orders: first, second")
	l, err := read(both, "Second")
	require.NoError(t, err)
	assert.Equal(t, []uint32{3, 4}, l.rows)
	l, err = read("SD-1\n"+one, "")
	require.NoError(t, err)
	assert.Equal(t, []string{"SD-1"}, l.unknown, "a number that no order has is no header")
}

// Two ways differ by exactly the orders that one of them counts alone, puts elsewhere, or gives another length.
func TestTwoWaysDifferByTheirOrders(t *testing.T) {
	a := asker(t)
	for first, change := range map[string]string{
		"took?period=2026-Q3": "basis=shipped", "took?period=2026-Q2": "count=both-ends", "took?period=2026-Q1&in=days": "in=working-days",
		"took?to=delivered&period=2026-Q1": "calendar=destination", "took?period=2026-Q4": "cut_off=off",
		"open?period=2026-08": "closing_day=out", "immediate?period=2026-Q2": "cancelled=out", "immediate?": "orders=first",
		"crosstab?period=2026-Q1": "basis=shipped", "due?": "to=delivered",
	} {
		in := &api.TwoWays{First: first, Second: first + "&" + change}
		if strings.HasSuffix(first, "in=days") {
			in.Second = "took?period=2026-Q1"
		}
		d, err := a.TwoWays(in)
		require.NoError(t, err, first)
		in.Number, _, _ = strings.Cut(strings.TrimPrefix(d.Parts[0].Table("orders").Title, "Orders that differ in "), ", ")
		listed := column(t, d, "orders", "number")
		assert.Len(t, listed, d.Parts[0].Table("orders").All)
		assert.Equal(t, a.differ(t, in), listed, "%s, %s", first, change)
		if len(listed) == 0 {
			assert.Contains(t, strings.Join(notes(d), "\n"), "none-differ", first)
		}
	}
	_, err := a.TwoWays(&api.TwoWays{First: "took?", Second: "took?count=elapsed"})
	assert.ErrorContains(t, err, "the two ways are one")
	_, err = a.TwoWays(&api.TwoWays{First: "took?", Second: "due"})
	assert.ErrorContains(t, err, "two ways are of one analysis")
}

// differ are the orders that two ways count differently, each looked at by itself.
func (a Asker) differ(t *testing.T, in *api.TwoWays) (differ []string) {
	var counted [2]map[uint32]bool
	var of [2]*present.Orders
	for i, address := range []string{in.First, in.Second} {
		d, err := a.ask(answer.Address(address))
		require.NoError(t, err)
		n, err := asked(d, &api.Check{Number: in.Number})
		require.NoError(t, err, address)
		rows, err := n.rows(a.Book)
		require.NoError(t, err)
		counted[i] = map[uint32]bool{}
		for _, row := range rows {
			counted[i][row] = true
		}
		of[i], err = present.Behind(a.Book, n.some())
		require.NoError(t, err)
	}
	length := func(i, row int) string {
		q := of[i].Question
		listed := duration.NewReader(of[i].Book, q.Question).At(row)
		return q.Measure.Unit.Length(listed.Length)
	}
	for row := range a.Book.Orders() {
		x, y := counted[0][uint32(row)], counted[1][uint32(row)]
		if x != y || x && strings.HasPrefix(in.First, "took") && length(0, row) != length(1, row) {
			differ = append(differ, a.Book.At(row).Number)
		}
	}
	return differ
}
