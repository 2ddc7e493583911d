package test

import (
	"bytes"
	"cmp"
	"encoding/csv"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/numfmt"
)

// cells are those of rows by columns, of the first figure.
func (s service) cells(t *testing.T, words ...string) grid {
	t.Helper()
	return gridOf(t, s.ask(t, "/crosstab", words...).Parts[0], "cells")
}

// behind is how many orders stand behind a cell.
func (s service) behind(t *testing.T, c answer.Cell) int {
	t.Helper()
	return s.opens(t, question{}, selection{Behind: string(c.Behind)})
}

// keys are the columns of cells, by their codes.
func (g grid) keys() (keys []string) {
	for _, c := range g.Columns {
		if strings.HasPrefix(c.Code, "key:") && !c.Folded {
			keys = append(keys, c.Code)
		}
	}
	return keys
}

// Units and values by product, site and month, added up from the demo's files: what was ordered by the order's day, what was
// shipped by the day of each shipment.
func TestUnitsAndValuesAgreeWithTheFiles(t *testing.T) {
	s, _ := demoService(t)
	files := demoFiles(t)
	orders := map[string]map[string]string{}
	numbers := map[string]bool{} // as the book has them: bad rows are set aside
	for _, number := range s.everyNumber(t) {
		numbers[number] = true
	}
	for _, row := range files["orders.csv"] {
		if numbers[row["number"]] && orders[row["number"]] == nil {
			orders[row["number"]] = row
		}
	}
	month := func(day string) string { return day[:min(len(day), 7)] }
	known := func(day string) bool { return day != "" && day[:min(len(day), 10)] <= "2026-10-31" }
	units := func(text string) float64 {
		n, err := strconv.ParseFloat(text, 64)
		require.NoError(t, err)
		return n
	}
	ordered, shipped, whole := map[[2]string]float64{}, map[string]float64{}, map[string]float64{}
	for _, l := range files["lines.csv"] {
		o := orders[l["order"]]
		if o == nil {
			continue
		}
		whole[l["order"]] += units(l["units"])
		if known(o["ordered"]) {
			ordered[[2]string{l["product"], month(o["ordered"])}] += units(l["units"])
		}
		if l["cancelled units"] != "" {
			whole[l["order"]] -= units(l["cancelled units"])
		}
	}
	sent, last, untold := map[string]float64{}, map[string]string{}, 0
	for _, row := range files["shipments.csv"] {
		if orders[row["order"]] == nil {
			continue
		}
		last[row["order"]] = max(last[row["order"]], row["shipped"])
		if row["units"] == "" {
			untold++
			continue
		}
		sent[row["order"]] += units(row["units"])
		if known(row["shipped"]) {
			shipped[month(row["shipped"])] += units(row["units"])
		}
	}
	for number, o := range orders {
		if left := whole[number] - sent[number]; last[number] == "" && known(o["shipped"]) {
			shipped[month(o["shipped"])] += left
		} else if untold > 0 && sent[number] == 0 && known(last[number]) { // a shipment that does not say how much takes all
			shipped[month(last[number])] += left
		}
	}

	table, cells := s.cells(t, "show", "units", "rows", "product", "columns", "month"), 0
	for _, row := range table.Rows {
		for _, key := range table.keys() {
			require.Equal(t, ordered[[2]string{row.Cells[0].Text, strings.TrimPrefix(key, "key:")}], table.number(row, key), "%s in %s",
				row.Cells[0].Text, key)
			cells++
		}
	}
	require.Greater(t, cells, 500)
	row, key := table.Rows[3], table.keys()[7]
	want := map[string]bool{}
	for _, l := range files["lines.csv"] {
		if o := orders[l["order"]]; o != nil && l["product"] == row.Cells[0].Text && "key:"+month(o["ordered"]) == key {
			want[l["order"]] = true
		}
	}
	assert.Equal(t, len(want), s.behind(t, table.cell(row, key)), "a cell opens its orders")

	dates, sum := gridOf(t, s.ask(t, "/compare", "show", "units", "basis", "shipped,ordered").Parts[0], "dates"), 0.0
	for _, row := range dates.Rows {
		require.Equal(t, shipped[row.Cells[0].Text], dates.number(row, "shipped"), row.Cells[0].Text)
		sum += dates.number(row, "shipped")
	}
	assert.Greater(t, sum, 10000.0)

	for _, part := range s.ask(t, "/crosstab", "show", "value", "basis", "delivered", "rows", "product", "columns", "quarter").Parts {
		want, got := 0.0, 0.0
		for _, o := range orders {
			if cmp.Or(o["currency"], "no currency") == part.Title && o["value"] != "" {
				want += units(o["value"])
			}
		}
		for _, term := range part.Lines[0].Terms[1:] {
			got += units(strings.ReplaceAll(term.Amount, ",", ""))
		}
		assert.InDelta(t, want, got, 0.005, "all of %s, once", part.Title)
	}
}

// Units dispatched from Galway in a quarter, by product group and channel, on lines delivered after the requested date: one question,
// over a book in which one can see what comes out.
func TestUnitsOfLateLines(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{
		write(t, "orders.csv", "number,site,channel,ordered,requested,shipped,delivered\n"+
			"U/1,Galway,web,2026-03-20,2026-04-10,2026-04-08,2026-04-13\n"+ // both lines late
			"U/2,Galway,web,2026-04-01,2026-05-20,,\n"+ // its first line in two shipments, of which the second is late
			"U/3,Galway,phone,2026-06-01,2026-06-08,2026-06-30,2026-07-02\n"+ // shipped on the quarter's last day
			"U/4,Galway,phone,2026-06-02,2026-06-08,2026-07-01,2026-07-03\n"+ // and on the day after
			"U/5,Muscat,web,2026-04-01,2026-04-02,2026-04-05,2026-04-09\n"+ // late elsewhere
			"U/6,Galway,web,2026-04-01,,2026-04-06,2026-04-09\n"+ // nothing was requested
			"U/7,Galway,phone,2026-04-01,2026-04-10,2026-04-07,2026-04-10\n"), // on the day
		write(t, "lines.csv", "order,line,product,units\nU/1,1,Hive,5\nU/1,2,Veil,2\nU/2,1,Hive,10\nU/2,2,Veil,3\nU/3,1,Veil,7\nU/4,1,Hive,1\nU/5,1,Hive,9\nU/6,1,Hive,4\nU/7,1,Veil,8\n"),
		write(t, "shipments.csv", "order,shipment,line,units,shipped,delivered\nU/2,a,1,6,2026-05-10,2026-05-12\nU/2,b,1,4,2026-06-01,2026-06-04\nU/2,c,2,3,2026-05-11,2026-05-13\n"),
		write(t, "products.csv", "product,category\nHive,hives\nVeil,clothing\n"),
	})
	require.NoError(t, err)
	q := []string{"show", "units", "basis", "shipped", "period", "2026-Q2", "rows", "category", "columns", "channel", "where",
		`site == "Galway"`, "lines", "line.delivered > requested"}
	d := s.ask(t, "/crosstab", q...)
	assert.Equal(t, `How many units were shipped in 2026-Q2, by category and channel, of lines with line.delivered > requested, where site == "Galway"?`, d.Asked())
	table := gridOf(t, d.Parts[0], "cells")
	got := map[string]float64{}
	for _, row := range table.Rows {
		for _, key := range table.keys() {
			if n := table.number(row, key); n != 0 {
				got[row.Cells[0].Text+" "+strings.TrimPrefix(key, "key:")] = n
			}
		}
	}
	// Of the hives of U/2 all ten are of a late line, though six came in time.
	assert.Equal(t, map[string]float64{"hives web": 15, "clothing web": 2, "clothing phone": 7}, got)
	assert.ElementsMatch(t, []string{"U/1", "U/2"}, s.numbersOf(t, question{},
		selection{Behind: string(table.cell(table.Rows[0], "key:web").Behind)}))
	assert.Equal(t, "Units shipped: 25 units of the lines counted = 24 shipped in 2026-Q2 + 1 shipped after it", d.Parts[0].Lines[0].Text)
	assert.Equal(t, "8 lines of the selected orders = 5 counted + 2 do not meet the condition on lines + 1 lack what it asks about",
		d.Parts[0].Lines[1].Text)
	assert.Contains(t, s.refuses(t, "/crosstab", "lines", "line.units > 1"), "orders are picked by where")
	assert.Contains(t, s.refuses(t, "/compare", "show", "units", "lines", "line.unts > 1"), "did you mean units?")
}

// A bridge with an order in every cell: ordered before, in, after the period or on no known day, and shipped likewise.
func TestABridgeWithEveryCellPlanted(t *testing.T) {
	s := startService(t)
	days := map[string]string{"before": "2025-02-20", "inside": "2025-03-10", "after": "2025-04-15", "none": ""}
	text, worth, n := "number,site,ordered,shipped,value,currency\n", map[[2]string]float64{}, 1.0
	for from, ordered := range days {
		for to, shipped := range days {
			worth[[2]string{from, to}] = n
			text += fmt.Sprintf("B/%s-%s,Quay,%s,%s,%.2f,EUR\n", from, to, ordered, shipped, n)
			n *= 2
		}
	}
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv", text)})
	require.NoError(t, err)
	_, err = s.SaveSettings(t.Context(), api.Settings{FirstDay: "2025-01-01", DataDate: "2025-12-31"})
	require.NoError(t, err)
	d := s.ask(t, "/compare", "show", "value,orders", "period", "2025-03")
	for i, show := range []string{"value", "orders"} {
		part := d.Parts[i]
		bridge, dates := gridOf(t, part, "bridge-shipped"), gridOf(t, part, "dates")
		of := func(from, to string) float64 {
			if show == "orders" {
				return 1
			}
			return worth[[2]string{from, to}]
		}
		first, second := 0.0, 0.0
		for from := range days {
			first += of("inside", from)
			second += of(from, "inside")
		}
		require.Len(t, bridge.Rows, 7)
		for r, step := range [][2]string{{"inside", "before"}, {"inside", "after"}, {"inside", "none"}, {"before", "inside"},
			{"after", "inside"}, {"none", "inside"}} {
			row := bridge.Rows[1+r]
			want, label := -of(step[0], step[1]), "ordered in the period, "
			if step[1] == "inside" {
				want, label = -want, "shipped in the period, "
			}
			require.Equal(t, want, bridge.number(row, "amount"), "%s: %v", show, step)
			require.True(t, strings.HasPrefix(row.Cells[0].Text, label), row.Cells[0].Text)
			require.Equal(t, []string{"B/" + step[0] + "-" + step[1]}, s.numbersOf(t, question{},
				selection{Behind: string(bridge.cell(row, "amount").Behind)}))
		}
		require.Equal(t, []float64{first, second}, []float64{bridge.number(bridge.Rows[0], "amount"),
			bridge.number(bridge.total(), "amount")})
		require.Equal(t, []float64{first, second}, []float64{dates.number(dates.total(), "ordered"),
			dates.number(dates.total(), "shipped")})
		assert.Contains(t, said(part, "both-shipped"), "in both: ordered and shipped in 2025-03")
		for _, line := range part.Lines[:2] {
			assert.Contains(t, line.Text, map[string]string{"value": ": 65,535.00 EUR of the selected orders = ",
				"orders": ": 16 orders selected = "}[show], "both dates reconcile to the same whole")
		}
	}
}

// Days without orders and why; hiding them survives another figure; what is taken away holds what the answer says.
func TestEmptyStepsAndFiles(t *testing.T) {
	s, _ := demoService(t)
	days := func(words ...string) (rows []grid, why string) {
		d := s.ask(t, "/compare", append(words, "basis", "shipped", "each", "day", "period", "2026-03")...)
		for _, p := range d.Parts {
			rows = append(rows, gridOf(t, p, "dates"))
		}
		return rows, said(d.Parts[len(d.Parts)-1], "empty-steps")
	}
	all, why := days()
	alone, same := days("empty", "alone")
	hidden, fewer := days("empty", "hidden", "show", "orders,units")
	assert.Equal(t, why, same)
	assert.Contains(t, why, "steps with nothing: ")
	assert.Contains(t, why, "weekend (")
	steps := func(why string) (n int) {
		for _, in := range regexp.MustCompile(`\((\d+)\)`).FindAllStringSubmatch(why, -1) {
			of, _ := strconv.Atoi(in[1])
			n += of
		}
		return n
	}
	assert.Equal(t, []int{31, steps(why)}, []int{len(all[0].Rows), len(alone[0].Rows)})
	assert.Equal(t, []int{31 - steps(fewer), 31 - steps(fewer)}, []int{len(hidden[0].Rows), len(hidden[1].Rows)},
		"a step is empty where no figure has anything")
	assert.Less(t, steps(fewer), steps(why), "on some days a part of an order was shipped, and none as a whole")
	for _, row := range alone[0].Rows {
		require.NotEmpty(t, alone[0].cell(row, "why").Text)
		require.Zero(t, s.opens(t, question{Basis: "shipped", Period: row.From}, selection{}))
	}

	first := []string{"show", "units", "basis", "shipped", "rows", "product", "columns", "month-of-year", "top", "3"}
	d := s.ask(t, "/crosstab", first...)
	cells, covered := gridOf(t, d.Parts[0], "cells"), gridOf(t, d.Parts[0], "covered")
	assert.Equal(t, []string{"2025, 2026", "2025"}, []string{covered.cell(covered.Rows[0], "covered").Text,
		covered.cell(covered.Rows[11], "covered").Text}, "December has one year behind it")
	assert.Regexp(t, `^all others \(\d+\)$`, cells.Rows[3].Cells[0].Text)
	query := url.Values{}
	for i := 0; i < len(first); i += 2 {
		query.Set(first[i], first[i+1])
	}
	var out bytes.Buffer
	require.NoError(t, s.AnswerFile(t.Context(), "/crosstab", query, "csv", &out))
	records, err := csv.NewReader(&out).ReadAll()
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(records[0][0], d.Asked()))
	at := slices.IndexFunc(records, func(r []string) bool { return r[0] == "product" })
	assert.Equal(t, "January, month-of-year: units shipped", records[at][1])
	for r, row := range cells.rows() {
		for i, c := range row.Cells[1:] {
			require.Equal(t, strconv.FormatFloat(*c.Number, 'f', -1, 64), records[at+1+r][1+i])
		}
	}
	blank := s.cells(t, append(first, "blank", "true", "rows", "site", "columns", "month(cancelled)")...)
	assert.NotContains(t, fmt.Sprint(blank.Rows), "{0 ", "zeros can be blank")
	share := s.cells(t, "show", "share", "meets", "shipped == ordered", "rows", "site", "columns", "quarter")
	row, key := share.Rows[0], share.keys()[0]
	assert.Equal(t, fmt.Sprintf("%s%% (%d of %d)", numfmt.Percent(share.count(row, key+" some"), share.count(row, key+" n")),
		share.count(row, key+" some"), share.count(row, key+" n")), share.cell(row, key).Text, "a share goes away with both its numbers")
	for want, words := range map[string][]string{
		"not a grouping":  {"rows", "colour"},
		"named twice":     {"show", "units,units"},
		"where":           {"where", "site ="},
		"meets":           {"show", "share", "meets", "sites == 1"},
		"want one figure": {"show", "units,value", "top", "2", "rows", "site"},
	} {
		assert.Contains(t, s.refuses(t, "/crosstab", words...), want)
	}
	assert.ErrorContains(t, s.tookNot(t, question{By: []string{"product"}}), "ask crosstab")
}

// The overview says of each number what the page says that it leads to.
func TestTheOverviewAgreesWithItsPages(t *testing.T) {
	s, _ := demoService(t)
	o, err := s.Overview(t.Context())
	require.NoError(t, err)
	assert.Equal(t, []string{"2026-10", "2026-09"}, []string{o.Month, o.Before})
	figures := map[string]api.OverviewFigure{}
	for _, f := range o.Figures {
		figures[f.Code] = f
	}
	for i, month := range []string{o.Month, o.Before} {
		took := s.took(t, question{Period: month, Promise: "promised"}).Parts[0]
		open := gridOf(t, s.ask(t, "/open", "period", month).Parts[0], "rows")
		immediate := gridOf(t, s.ask(t, "/immediate", "period", month).Parts[0], "groups")
		groups, kept := gridOf(t, took, "groups"), gridOf(t, took, "promise")
		for code, want := range map[string]string{
			"orders": groups.cell(groups.total(), "asked").Text, "median": groups.cell(groups.total(), "median").Text,
			"late": kept.cell(kept.total(), "late_share").Text + "%",
			"open": open.cell(open.total(), "at_end").Text, "immediate": immediate.cell(immediate.total(), "asked_rate").Text + "%",
		} {
			got := []string{figures[code].Text, figures[code].Before}[i]
			assert.Equal(t, want, got, "%s of %s", code, month)
		}
	}
	assert.Contains(t, figures["open"].Change, " more than in 2026-09")
	for code, f := range figures {
		if code == "quality" {
			continue
		}
		require.Len(t, f.Trend, 13, code)
		assert.Equal(t, []string{"2026-09", "2026-10"}, []string{f.Trend[11].Month, f.Trend[12].Month})
		assert.Equal(t, []string{f.Before, f.Text}, []string{f.Trend[11].Text, f.Trend[12].Text}, "the trend of %s ends with its months", code)
	}
	lists := map[string]api.OverviewList{}
	for _, l := range o.Lists {
		lists[l.Code] = l
	}
	due := gridOf(t, s.ask(t, "/due").Parts[0], "standings")
	assert.Equal(t, texts(due.Rows[0])[len(texts(due.Rows[0]))-2:], lists["today"].Rows[0].Number)
	require.Len(t, lists["oldest"].Rows, 5)
	oldest, err := s.list(t, question{}, selection{State: "running", Sort: "-length", Limit: 5})
	require.NoError(t, err)
	for i, row := range lists["oldest"].Rows {
		assert.Equal(t, oldest.Rows[i].Order, row.Order)
	}
	assert.Equal(t, "3,000", lists["load"].Rows[0].Number, "the demo is one load of new orders")
}

// The pages: dates beside each other and the bridge, rows by columns, the words of the sentence, and the orders behind numbers.
func TestConsoleCompareAndCrosstab(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	b.do(letIn(s.entry(t)))
	b.text(test("sentence"), "How did October 2026 go, beside September 2026?")
	b.do(chromedp.Click(test("overview-late")+" a", chromedp.NodeVisible))
	b.text(test("sentence"), "by the promised date?")

	b.do(chromedp.Navigate(s.address+"/compare?show=units&period=2026-10&each=week"), chromedp.WaitVisible(test("chart")+" svg"))
	b.text(test("sentence"), "How many units were ordered, and shipped, in each week of 2026-10?")
	weeks := gridOf(t, s.ask(t, "/compare", "show", "units", "each", "week", "period", "2026-10").Parts[0], "dates")
	week := weeks.Rows[1]
	b.text(test("dates"), week.Cells[0].Text)
	b.text(test("dates"), weeks.cell(week, "shipped").Text)
	b.do(chromedp.Click(test("dates")+" tbody tr:nth-child(2) "+test("shipped"), chromedp.NodeVisible))
	n := s.behind(t, weeks.cell(week, "shipped"))
	b.text(test("selected"), fmt.Sprintf("with units shipped in 2026-10, week %s: %s in", week.Cells[0].Text, numfmt.Counted(n, "order")))
	b.do(chromedp.NavigateBack(), chromedp.Click(test("pick-basis-1"), chromedp.NodeVisible),
		chromedp.Click(test("choice-delivered"), chromedp.NodeVisible))
	b.text(test("sentence"), "ordered, and delivered,")
	b.do(choose("add-figure", "orders"))
	b.text("section:nth-of-type(2) h2", "orders ordered")
	b.do(run(`[...document.querySelectorAll('[data-test^="term-"]')].find(a => a.nextSibling.textContent.includes('not yet delivered')).click()`))
	b.text(test("selected"), "not yet delivered")
	b.do(chromedp.Navigate(s.address+"/compare?basis=shipped&each=day&period=2026-03&empty=alone"),
		chromedp.WaitVisible(test("says-empty-steps")))
	b.text(test("dates"), "weekend")

	b.do(chromedp.Navigate(s.address+"/crosstab?rows=product&columns=month-of-year&show=units&basis=shipped"),
		chromedp.WaitVisible(test("chart")+" svg"))
	b.text(test("sentence"), "How many units were shipped in 2025-01-01 to 2026-10-31, by product and month of the year of ship date?")
	b.text(test("covered"), "2025, 2026")
	b.do(chromedp.Click(test("pick-some-lines"), chromedp.NodeVisible))
	b.text(test("sentence"), "of lines with line.delivered > requested")
	b.text("main", "do not meet the condition on lines")
	b.do(choose("top", "the first 3, and all others"))
	b.text(test("cells"), "all others (")
	b.do(chromedp.Click(test("cells")+" td a", chromedp.NodeVisible))
	b.text(test("selected"), "with units shipped in")
	b.do(chromedp.Navigate(s.address+"/crosstab?rows=site&columns=weekday"), chromedp.Click(test("pick-show"), chromedp.NodeVisible),
		chromedp.Click(test("choice-share"), chromedp.NodeVisible))
	b.text(test("sentence"), "What share met shipped == ordered, of orders ordered")
	b.text(test("cells"), "%")
	b.do(chromedp.Navigate(s.address+"/crosstab?rows=site&columns=month&show=orders&period=2026"),
		chromedp.Click(test("sort-name"), chromedp.NodeVisible))
	byName := `[...document.querySelectorAll('[data-test="cells"] tbody th')].map(h => h.innerText).filter(name => !['(none)', 'all'].includes(name))`
	b.comes("rows sorted by name", func() bool {
		return slices.Equal(evaluate[[]string](b, byName), []string{"Galway", "Hamilton", "Muscat", "Saskatoon"})
	})
	zeros := `[...document.querySelectorAll('[data-test="cells"] tbody td')].filter(c => c.innerText === '0').length`
	require.Positive(t, evaluate[int](b, zeros), "months after the data date have none")
	b.do(chromedp.Click(test("blank"), chromedp.NodeVisible))
	b.comes("blanks for zeros", func() bool { return evaluate[int](b, zeros) == 0 })
	b.do(chromedp.Navigate(s.address + "/crosstab?rows=site&columns=&show=value"))
	b.text("section:nth-of-type(2) h2", "EUR") // each currency by itself
	assert.Empty(t, b.wentWrong())
}

func TestTheCompareAndCrosstabCommands(t *testing.T) {
	p := newProgram(t)
	cmd, _ := p.up("--demo")
	defer p.down(cmd)
	for args, want := range map[string][]string{
		"compare --basis ordered,shipped,delivered --each quarter --show value": {"less",
			"From what was ordered in the period to what was delivered in the period", "not yet shipped"},
		"compare --basis shipped --each day --period 2026-03 --empty alone": {"weekend", "steps with nothing"},
		"crosstab --rows product --columns month-of-year --show units --top 4": {"all others (20)", "What each column covers",
			"mean per", "2025, 2026"},
		"crosstab --rows site --columns weekday --show median,share --meets paid!=null": {"What share met paid!=null", "96 days"},
	} {
		name := "Asked " + strings.Join(strings.Fields(args)[:3], " ")
		status, asked, messages := p.run(append(strings.Fields(args), "--save-view", name)...)
		require.Zero(t, status, messages)
		for _, text := range want {
			assert.Contains(t, asked, text, args)
		}
		_, again, messages := p.run("view", "run", name)
		assert.Equal(t, asked, again, "a view asks the same again: %s", messages)
		_, _, _ = p.run("view", "delete", name)
	}
	status, out, messages := p.run("overview")
	require.Zero(t, status, messages)
	assert.Contains(t, out, "How did 2026-10 go, beside 2026-09?")
	status, _, messages = p.run("crosstab", "--rows", "colour")
	assert.Equal(t, 2, status)
	assert.Contains(t, messages, "not a grouping")
}

// A month that has not ended is not the last one; a month without orders has nothing to tell, and says so; and an empty book
// has no month.
func TestTheOverviewOfASmallBook(t *testing.T) {
	s := startService(t)
	empty, err := s.Overview(t.Context())
	require.NoError(t, err)
	assert.Empty(t, empty.Figures)
	assert.Contains(t, empty.Sentence, "There is no order yet")
	_, err = s.Load(t.Context(), []string{write(t, "orders.csv", "number,site,ordered,requested,promised,shipped\n"+
		"O/1,Quay,2025-04-01,2025-04-01,2025-04-03,2025-04-03\nO/2,Quay,2025-04-02,2025-04-09,2025-04-03,2025-04-08\nO/3,Quay,2025-04-30,,2025-05-02,\nO/4,Quay,2025-05-06,2025-05-06,2025-05-08,2025-05-14\n")})
	require.NoError(t, err)
	o, err := s.Overview(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "How did 2025-04 go, beside 2025-03?", o.Sentence, "May has not ended by the data date, the 14th")
	lines := map[string]string{}
	for _, f := range o.Figures {
		lines[f.Code] = strings.Join([]string{f.Text, f.Behind, f.Before, f.Change, f.Remark}, "|")
		assert.NotEmpty(t, f.Sentence, f.Code)
		page, words, _ := strings.Cut(f.Address, "?")
		status, _ := s.get(t, "/api/v1"+strings.Replace(page, "/how-long", "/took", 1)+"?"+words)
		assert.Equal(t, 200, status, "%s leads somewhere", f.Address)
	}
	for code, want := range map[string]string{
		"orders": "3|ordered in the month|0|3 more than in 2025-03|", "open": "1|ordered and not yet shipped|0|1 more than in 2025-03|",
		"median": "3.0|of 2 orders|||1 is still running and not counted.",
		"late":   "66.67%|2 of 3 whose outcome is known|||", "immediate": "50.00%|1 of 2|||",
	} {
		assert.Equal(t, want, lines[code], code)
	}

	// The next load says what it changed: an order shipped, a ship date moved, and one that came; the same row again is no change.
	_, err = s.Load(t.Context(), []string{write(t, "more.csv", "number,site,ordered,requested,promised,shipped\n"+
		"O/2,Quay,2025-04-02,2025-04-09,2025-04-03,2025-04-09\nO/3,Quay,2025-04-30,,2025-05-02,2025-05-13\n"+
		"O/4,Quay,2025-05-06,2025-05-06,2025-05-08,2025-05-14\nO/5,Quay,2025-05-13,,2025-05-16,\n")})
	require.NoError(t, err)
	o, err = s.Overview(t.Context())
	require.NoError(t, err)
	at := slices.IndexFunc(o.Lists, func(l api.OverviewList) bool { return l.Code == "load" })
	assert.Equal(t, "What load 2 changed", o.Lists[at].Title)
	var rows []string
	for _, r := range o.Lists[at].Rows {
		rows = append(rows, r.Number+" "+r.Text)
	}
	assert.Equal(t, []string{"1 new order", "1 order has a ship date now", "1 ship date of one order moved"}, rows)
}

// What can be asked of dates can be asked of one with another in its place, of places, of labels and of parts alike, and the
// sentence says so; each number opens as many orders as it counts.
func TestWhatCanStandInRowsAndColumns(t *testing.T) {
	s, _ := demoService(t)
	_, err := s.SaveLabel(t.Context(), "payment", api.LabelDefinition{Rules: []api.LabelRule{{Where: "paid != null", Text: "paid"},
		{Where: "part_paid", Text: "part paid"}}, Rest: "not paid"}, false)
	require.NoError(t, err)
	for sentence, q := range map[string]string{
		"invoiced (or shipped where that is missing)":                   "basis=invoiced-or-shipped&rows=payment&columns=quarter",
		"by place and month of promised date":                           "rows=place&columns=month(promised)&period=2026-Q2",
		"by category and site":                                          "rows=category&columns=site&where=site+!%3D+%22Galway%22",
		"by line product and weekday of delivery date":                  "basis=delivered&rows=lines.product&columns=weekday&top=4",
		"month of the year of order date and year of cancellation date": "rows=month-of-year&columns=year(cancelled)",
	} {
		words, err := url.ParseQuery(q)
		require.NoError(t, err)
		d, err := s.Answer(t.Context(), "/crosstab", words)
		require.NoError(t, err)
		assert.Contains(t, d.Asked(), sentence)
		table, opened := gridOf(t, d.Parts[0], "cells"), 0
		assert.Equal(t, table.count(table.total(), "total"), s.behind(t, table.cell(table.total(), "total")), "%s: all", sentence)
		for i, row := range table.rows() {
			for j, key := range table.keys() {
				if n := table.count(row, key); n > 0 && (i*len(table.keys())+j)%5 == 0 {
					require.Equal(t, n, s.behind(t, table.cell(row, key)), "%s: %s", sentence, table.cell(row, key).Behind)
					opened++
				}
			}
		}
		assert.Positive(t, opened, sentence)
	}
}
