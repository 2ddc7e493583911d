package test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
)

func (s service) across(t *testing.T, q client.AcrossQuestion) *api.Across {
	t.Helper()
	a, err := s.AcrossAt(t.Context(), q.Words())
	require.NoError(t, err)
	return a
}

// listed is how many orders stand behind a number.
func (s service) listed(t *testing.T, words url.Values) int {
	t.Helper()
	words.Set("limit", "1")
	list, err := s.OrdersAt(t.Context(), words)
	require.NoError(t, err)
	return list.All
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

	q := client.AcrossQuestion{Show: []string{"units"}, Rows: "product", Columns: "month"}
	a := s.across(t, q)
	part := a.Figures[0].Parts[0]
	cells := 0
	for _, row := range part.Tables[0].Rows {
		for j, column := range part.Columns {
			require.Equal(t, ordered[[2]string{row.Key, column.Key}], *row.Cells[j].Value, "%s in %s", row.Key, column.Key)
			cells++
		}
	}
	require.Greater(t, cells, 500)
	row, column := part.Tables[0].Rows[3], part.Columns[7]
	behind := q.Behind("units", map[string]string{"row": row.Key, "column": column.Key})
	want := map[string]bool{}
	for _, l := range files["lines.csv"] {
		if o := orders[l["order"]]; o != nil && l["product"] == row.Key && month(o["ordered"]) == column.Key {
			want[l["order"]] = true
		}
	}
	assert.Equal(t, len(want), s.listed(t, behind), "a cell opens its orders")

	dates := client.AcrossQuestion{Show: []string{"units"}, Basis: []string{"shipped", "ordered"}, Each: "month"}
	table := s.across(t, dates).Figures[0].Parts[0].Tables[0]
	sum := 0.0
	for _, row := range table.Rows {
		require.Equal(t, shipped[row.Key], *row.Total.Value, row.Key)
		sum += *row.Total.Value
	}
	assert.Greater(t, sum, 10000.0)

	values := s.across(t, client.AcrossQuestion{Show: []string{"value"}, Basis: []string{"delivered"}, Rows: "product", Columns: "quarter"})
	for _, part := range values.Figures[0].Parts {
		want := 0.0
		for _, o := range orders {
			if o["currency"] == part.Currency && o["value"] != "" {
				want += units(o["value"])
			}
		}
		got := 0.0
		for _, p := range part.Tables[0].Places {
			got += *p.Amount.Value
		}
		assert.InDelta(t, want, got, 0.005, "all of %s, once", part.Currency)
	}
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
	_, err = s.SetEnds(t.Context(), api.Ends{FirstDay: "2025-01-01", DataDate: "2025-12-31"})
	require.NoError(t, err)
	q := client.AcrossQuestion{Show: []string{"value", "orders"}, Basis: []string{"ordered", "shipped"}, Each: "month", Period: "2025-03"}
	a := s.across(t, q)
	for i, show := range q.Show {
		part := a.Figures[i].Parts[0]
		require.Len(t, part.Bridges, 1)
		first, second := 0.0, 0.0
		require.Len(t, part.Bridges[0].Steps, 7)
		for _, step := range part.Bridges[0].Steps {
			want := worth[[2]string{step.From, step.To}]
			if show == "orders" {
				want = 1
			}
			require.Equal(t, want, *step.Amount.Value, "%s: %s, %s", show, step.From, step.To)
			sign, label := 0, "Ordered and shipped in 2025-03"
			switch {
			case step.To != "inside":
				sign, label = -1, "Ordered in it, shipped "
			case step.From != "inside":
				sign, label = 1, "Shipped in it, ordered "
			}
			require.Equal(t, sign, step.Sign, "%s: %s, %s", show, step.From, step.To)
			require.True(t, strings.HasPrefix(strings.ToLower(step.Label), strings.ToLower(label)), step.Label)
			if step.From == "inside" {
				first += want
			}
			if step.To == "inside" {
				second += want
			}
			list, err := s.OrdersAt(t.Context(), q.Behind(show, map[string]string{"by_date": "shipped", "place": step.From, "other_place": step.To}))
			require.NoError(t, err)
			require.Len(t, list.List, 1)
			require.Equal(t, "B/"+step.From+"-"+step.To, list.List[0].Number)
		}
		require.Equal(t, []float64{first, second}, []float64{*part.Bridges[0].Total.Value, *part.Bridges[0].Other.Value})
		require.Equal(t, []float64{first, second}, []float64{*part.Tables[0].Total.Total.Value, *part.Tables[1].Total.Total.Value})
		grand := [2]float64{}
		for k, table := range part.Tables {
			for _, p := range table.Places {
				grand[k] += *p.Amount.Value
			}
		}
		assert.Equal(t, map[string][2]float64{"value": {65535, 65535}, "orders": {16, 16}}[show], grand, "both dates reconcile to the same whole")
	}
}

// Days without orders and why; hiding them survives another figure; what is taken away holds what the answer says.
func TestEmptyStepsAndFiles(t *testing.T) {
	s, _ := demoService(t)
	q := client.AcrossQuestion{Basis: []string{"shipped"}, Each: "day", Period: "2026-03"}
	all := s.across(t, q)
	q.Empty = "alone"
	alone := s.across(t, q)
	q.Empty, q.Show = "hidden", []string{"orders", "units"}
	hidden := s.across(t, q)
	empty := func(a *api.Across) (n int) {
		for _, reason := range a.EmptySteps {
			n += reason.Steps
		}
		require.Positive(t, n)
		return n
	}
	rows := func(a *api.Across, f int) int { return len(a.Figures[f].Parts[0].Tables[0].Rows) }
	assert.Equal(t, []int{31, empty(all)}, []int{rows(all, 0), rows(alone, 0)})
	assert.Equal(t, []int{31 - empty(hidden), 31 - empty(hidden)}, []int{rows(hidden, 0), rows(hidden, 1)}, "a step is empty where no figure has anything")
	assert.Less(t, empty(hidden), empty(all), "on some days a part of an order was shipped, and none as a whole")
	for _, row := range alone.Figures[0].Parts[0].Tables[0].Rows {
		require.NotEmpty(t, row.Why)
		require.Zero(t, s.opens(t, client.Question{Basis: "shipped", Period: row.From}, client.Selection{}))
	}

	q = client.AcrossQuestion{Show: []string{"units"}, Basis: []string{"shipped"}, Rows: "product", Columns: "month-of-year", Top: 3}
	a := s.across(t, q)
	part := a.Figures[0].Parts[0]
	assert.Equal(t, []int{2025, 2026}, part.Columns[0].Whole)
	assert.Equal(t, []int{2025}, part.Columns[11].Whole, "December has one year behind it")
	others := part.Tables[0].Rows[3]
	assert.Positive(t, others.Others)
	var out bytes.Buffer
	require.NoError(t, s.AcrossFile(t.Context(), q.Words(), "csv", &out))
	records, err := csv.NewReader(&out).ReadAll()
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(records[0][0], a.Sentence))
	require.Len(t, records, 2+4+1)
	assert.Equal(t, []string{"date", "product", "January"}, records[1][:3])
	assert.Equal(t, fmt.Sprintf("all others (%d)", others.Others), records[5][1])
	for r, row := range append(part.Tables[0].Rows, part.Tables[0].Total) {
		for j, c := range row.Cells {
			require.Equal(t, strconv.FormatFloat(*c.Value, 'f', -1, 64), records[2+r][2+j])
		}
	}
	out.Reset()
	require.NoError(t, s.AcrossFile(t.Context(), client.AcrossQuestion{Show: []string{"value", "orders"}, Basis: []string{"ordered", "paid"}, Each: "quarter"}.Words(), "xlsx", &out))
	book, err := excelize.OpenReader(&out)
	require.NoError(t, err)
	sheet, err := book.GetRows("Across")
	require.NoError(t, err)
	assert.Greater(t, len(sheet), 8*4, "each currency has its rows")
	share := client.AcrossQuestion{Show: []string{"share"}, Meets: "shipped == ordered", Rows: "site", Columns: "quarter"}
	part = s.across(t, share).Figures[0].Parts[0]
	out.Reset()
	require.NoError(t, s.AcrossFile(t.Context(), share.Words(), "csv", &out))
	records, err = csv.NewReader(&out).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"2025-Q1", "2025-Q1, of"}, records[1][2:4])
	assert.Equal(t, part.Tables[0].Rows[0].Cells[0].Of, records[2][3], "a share goes away with both its numbers")
	assert.Regexp(t, `^\d+ of \d+$`, records[2][3])
	for _, wrong := range []struct {
		q    client.AcrossQuestion
		want string
	}{
		{client.AcrossQuestion{Rows: "colour"}, "not a grouping"},
		{client.AcrossQuestion{Show: []string{"units", "units"}}, "named twice"},
		{client.AcrossQuestion{Where: "site ="}, "where"},
		{client.AcrossQuestion{Show: []string{"share"}, Meets: "sites == 1"}, "meets"},
		{client.AcrossQuestion{Show: []string{"units", "value"}, Top: 2, Rows: "site"}, "want one figure"},
	} {
		_, err := s.AcrossAt(t.Context(), wrong.q.Words())
		assert.ErrorContains(t, err, wrong.want)
	}
	assert.ErrorContains(t, s.tookNot(t, client.Question{By: []string{"product"}}), "ask across")
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
		took := s.took(t, client.Question{Period: month, Promise: "promised"}).Parts[0]
		open := gridOf(t, s.ask(t, "/open", "period", month).Parts[0], "rows")
		immediate := gridOf(t, s.ask(t, "/immediate", "period", month).Parts[0], "groups")
		groups, kept := gridOf(t, took, "groups"), gridOf(t, took, "promise")
		for code, want := range map[string]string{
			"orders": groups.cell(groups.total(), "asked").Text, "median": groups.cell(groups.total(), "median").Text, "late": kept.cell(kept.total(), "late_share").Text + "%",
			"open": open.cell(open.total(), "at_end").Text, "immediate": immediate.cell(immediate.total(), "asked_rate").Text + "%",
		} {
			got := []string{figures[code].Text, figures[code].Before}[i]
			assert.Equal(t, want, got, "%s of %s", code, month)
		}
	}
	assert.Equal(t, "+", figures["open"].Change[:1])
}

// The pages: dates beside each other and the bridge, rows by columns, the words of the sentence, and the orders behind numbers.
func TestConsoleCompareAndAcross(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	b.do(letIn(s.entry(t)))
	b.text(test("sentence"), "How did 2026-10 go, beside 2026-09?")
	b.do(chromedp.Click(test("overview-late")+" a", chromedp.NodeVisible))
	b.text(test("sentence"), "by promised?")

	b.do(chromedp.Navigate(s.address+"/compare?show=units&period=2026-10&each=week"), chromedp.WaitVisible(test("chart")+" svg"))
	b.text(test("sentence"), "How many units were ordered, and shipped, in each week of 2026-10?")
	q := client.AcrossQuestion{Show: []string{"units"}, Basis: []string{"ordered", "shipped"}, Each: "week", Period: "2026-10"}
	part := s.across(t, q).Figures[0].Parts[0]
	week := part.Tables[1].Rows[1]
	b.text(test("dates-units"), week.Key)
	b.text(test("dates-units"), week.Total.Text)
	b.do(chromedp.Click(test("dates-units")+" tbody tr:nth-child(2) "+test("of-shipped"), chromedp.NodeVisible))
	n := s.listed(t, q.Behind("units", map[string]string{"by_date": "shipped", "row": week.Key}))
	b.text(test("selected"), fmt.Sprintf("with units shipped in 2026-10, week %s: %s in", week.Key, numfmt.Counted(n, "order")))
	b.do(chromedp.NavigateBack(), chromedp.Click(test("pick-basis-1"), chromedp.NodeVisible), chromedp.Click(test("choice-delivered"), chromedp.NodeVisible))
	b.text(test("sentence"), "ordered, and delivered,")
	b.do(run(`const s = document.querySelector('[data-test="add-figure"]'); s.value = 'orders'; s.dispatchEvent(new Event('change'))`))
	b.text(test("dates-orders"), "orders delivered")
	b.do(chromedp.Click(test("place-not-yet"), chromedp.NodeVisible))
	b.text(test("selected"), "not yet delivered")
	b.do(chromedp.Navigate(s.address+"/compare?basis=shipped&each=day&period=2026-03&empty=alone"), chromedp.WaitVisible(test("empty-steps")))
	b.text(test("dates-orders"), "weekend")

	b.do(chromedp.Navigate(s.address+"/across?rows=product&columns=month-of-year&show=units&basis=shipped"), chromedp.WaitVisible(test("chart")+" svg"))
	b.text(test("sentence"), "How many units were shipped in 2025-01-01 to 2026-10-31, by product and month of the year of shipped?")
	b.text(test("behind"), "2025, 2026")
	b.do(run(`const s = document.querySelector('[data-test="top"]'); s.value = '3'; s.dispatchEvent(new Event('change'))`))
	b.text(test("cells-units"), "all others (")
	b.do(chromedp.Click(test("cells-units")+" "+test("cell"), chromedp.NodeVisible))
	b.text(test("selected"), "with units shipped in")
	b.do(chromedp.Navigate(s.address+"/across?rows=site&columns=weekday"), chromedp.Click(test("pick-show"), chromedp.NodeVisible), chromedp.Click(test("choice-share"), chromedp.NodeVisible))
	b.text(test("sentence"), "What share met shipped == ordered, of orders ordered")
	b.text(test("cells-share"), "%")
	b.do(chromedp.Navigate(s.address+"/across?rows=site&columns=month&show=orders&period=2026"), chromedp.Click(test("sort-name"), chromedp.NodeVisible))
	byName := `[...document.querySelectorAll('[data-test="cells-orders"] tbody th')].map(h => h.innerText).filter(name => name !== '(none)')`
	require.Eventually(t, func() bool {
		return slices.Equal(evaluate[[]string](b, byName), []string{"Galway", "Hamilton", "Muscat", "Saskatoon"})
	}, 20*time.Second, 100*time.Millisecond, "rows are sorted by name")
	zeros := `[...document.querySelectorAll('[data-test="cells-orders"] tbody td')].filter(c => c.innerText === '0').length`
	require.Positive(t, evaluate[int](b, zeros), "months after the data date have none")
	b.do(chromedp.Click(test("blank"), chromedp.NodeVisible))
	require.Eventually(t, func() bool { return evaluate[int](b, zeros) == 0 }, 20*time.Second, 100*time.Millisecond, "zeros are blank")
	b.do(chromedp.Navigate(s.address+"/across?rows=site&columns=&show=value"), chromedp.WaitVisible(test("currency")))
	b.do(run(`const s = document.querySelector('[data-test="currency"]'); s.value = 'OMR'; s.dispatchEvent(new Event('change'))`))
	b.text(test("cells-value-OMR"), "Muscat")
	assert.Empty(t, b.wentWrong())
}

func TestTheCompareAndAcrossCommands(t *testing.T) {
	p := newProgram(t)
	cmd, _ := p.up("--demo")
	defer p.down(cmd)
	for args, want := range map[string][]string{
		"compare --basis ordered,shipped,delivered --each quarter --show value":       {"less", "From what was ordered in the period to what was delivered in it", "not yet shipped"},
		"compare --basis shipped --each day --period 2026-03 --empty alone":           {"weekend", "Steps with nothing"},
		"across --rows product --columns month-of-year --show units --top 4":          {"all others (20)", "behind it", "mean of each", "2025, 2026"},
		"across --rows site --columns weekday --show median,share --meets paid!=null": {"What share met paid!=null", "96 days"},
	} {
		name := "Asked " + strings.Join(strings.Fields(args)[:3], " ")
		status, asked, messages := p.run(append(strings.Fields(args), "--keep", name)...)
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
	status, _, messages = p.run("across", "--rows", "colour")
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
	for _, q := range []client.AcrossQuestion{{Each: "day", Basis: []string{"ordered", "shipped"}}, {Rows: "product", Columns: "month-of-year", Show: []string{"value", "median"}}, {Rows: "weekday", Show: []string{"units"}, Basis: []string{"delivered"}}} {
		a := s.across(t, q)
		assert.Equal(t, "0 orders in the book = 0 asked about", a.ReconciliationLine, "an empty book can be asked too")
	}
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
		status, _ := s.get(t, "/api/v1"+map[string]string{"/compare": "/across", "/how-long": "/took"}[page]+map[bool]string{true: page}[page != "/compare" && page != "/how-long"]+"?"+words)
		assert.Equal(t, 200, status, "%s leads somewhere", f.Address)
	}
	for code, want := range map[string]string{
		"orders": "3|ordered in it|0|+3|", "open": "1|ordered and not yet shipped|0|+1|", "median": "3.0|of 2 orders|||1 is still running, and in no median.",
		"late": "66.67%|2 of 3 whose outcome is known|||", "immediate": "50.00%|1 of 2|||",
	} {
		assert.Equal(t, want, lines[code], code)
	}
}

// What can be asked of dates can be asked of one with another in its place, of places, of labels and of parts alike, and the
// sentence says so; each number opens as many orders as it counts.
func TestWhatCanStandInRowsAndColumns(t *testing.T) {
	s, _ := demoService(t)
	_, err := s.SaveLabel(t.Context(), "payment", api.LabelDefinition{Rules: []api.LabelRule{{Where: "paid != null", Text: "paid"}, {Where: "part_paid", Text: "part paid"}}, Rest: "not paid"}, false)
	require.NoError(t, err)
	for sentence, q := range map[string]client.AcrossQuestion{
		"invoiced (or shipped where that is missing)":        {Basis: []string{"invoiced-or-shipped"}, Rows: "payment", Columns: "quarter"},
		"by place and month of promised":                     {Rows: "place", Columns: "month(promised)", Period: "2026-Q2"},
		"by category and site":                               {Rows: "category", Columns: "site", Where: `site != "Galway"`},
		"by lines.product and weekday of delivered":          {Basis: []string{"delivered"}, Rows: "lines.product", Columns: "weekday", Top: 4},
		"month of the year of ordered and year of cancelled": {Rows: "month-of-year", Columns: "year(cancelled)"},
	} {
		a := s.across(t, q)
		assert.Contains(t, a.Sentence, sentence)
		part := a.Figures[0].Parts[0]
		table := part.Tables[0]
		assert.Equal(t, *table.Total.Total.Value, float64(s.listed(t, q.Behind("orders", nil))), "%s: all", sentence)
		opened := 0
		for i, row := range append(table.Rows, table.Total) {
			for j, c := range row.Cells {
				if *c.Value == 0 || (i*len(row.Cells)+j)%5 > 0 {
					continue
				}
				pick := map[string]string{"column": part.Columns[j].Key}
				switch {
				case i == len(table.Rows):
				case row.Others > 0:
					pick["others"] = "true"
				default:
					pick["row"] = row.Key
				}
				require.Equal(t, *c.Value, float64(s.listed(t, q.Behind("orders", pick))), "%s: %v", sentence, pick)
				opened++
			}
		}
		assert.Positive(t, opened, sentence)
		for _, p := range table.Places {
			require.Equal(t, p.Orders, s.listed(t, q.Behind("orders", map[string]string{"place": p.Name})), "%s: %s", sentence, p.Label)
		}
	}
}
