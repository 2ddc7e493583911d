package test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
)

// Limits count those that wait, with their bounds. Running orders shift the median only where they are among those that are
// asked about.
func TestLimitsAndRunningOrders(t *testing.T) {
	s, _ := demoService(t)
	ten := 10.0
	d := s.took(t, question{Period: "2026-10", By: []string{"site"}, Over: &ten, WithRunning: true})
	assert.Contains(t, d.Asked(), "by site, and how many took over 10 working days?")
	part := d.Parts[0]
	groups, limit, estimate, curve := gridOf(t, part, "groups"), gridOf(t, part, "limit"), gridOf(t, part, "estimate"),
		gridOf(t, part, "curve")
	for i, r := range groups.rows() {
		over := limit.rows()[i]
		finished, waiting, within, undecided := limit.count(over, "finished"), limit.count(over, "waiting"), limit.count(over, "within"),
			limit.count(over, "undecided")
		n, running := groups.count(r, "n"), groups.count(r, "running")
		require.Equal(t, []int{n, running}, []int{finished + within, waiting + undecided})
		require.Equal(t, running, estimate.count(estimate.rows()[i], "running"))
		all, decided := finished+waiting, n+waiting
		for code, want := range map[string]string{"share": numfmt.Percent(all, decided), "low": numfmt.Percent(all, decided+undecided),
			"high": numfmt.Percent(all+undecided, decided+undecided)} {
			require.Equal(t, want, limit.cell(over, code).Text)
		}
	}
	beyond, done := 100.0, 0.0
	for _, p := range curve.Rows {
		require.LessOrEqual(t, curve.number(p, "beyond"), beyond)
		require.GreaterOrEqual(t, curve.number(p, "done"), done)
		beyond, done = curve.number(p, "beyond"), curve.number(p, "done")
		require.LessOrEqual(t, done+curve.number(p, "cancelled"), 100+1e-5)
	}
	require.Positive(t, limit.count(limit.total(), "waiting"))
	list, err := s.list(t, question{Period: "2026-10", Where: "working_days_so_far(ordered, shipped) > 10"}, selection{})
	require.NoError(t, err)
	finished := limit.count(limit.total(), "finished")
	assert.Contains(t, said(list.document.Parts[0], "apart"), fmt.Sprintf("%s finished, %d still waiting",
		numfmt.Counted(finished, "order"), limit.count(limit.total(), "waiting")), "the list behind the numbers")
	assert.Contains(t, said(part, "estimate"), "cancelled; if no order were cancelled, half would be shipped within")

	least := s.took(t, question{Period: "2026-10", AtLeast: &ten}).Parts[0]
	limit = gridOf(t, least, "limit")
	assert.GreaterOrEqual(t, limit.count(limit.total(), "finished"), finished, "at least is not over")
	assert.Nil(t, least.Table("estimate"))
	shipped := s.took(t, question{Basis: "shipped", WithRunning: true}).Parts[0]
	assert.Contains(t, said(shipped, "no-curve"), "those that still run are not among them")
	assert.Nil(t, shipped.Table("estimate"))
	assert.ErrorContains(t, s.tookNot(t, question{Over: &ten, AtLeast: &ten}), "over and at least are two limits")
}

// Two periods stand side by side with the change from the earlier to the later, in whatever order they are named; one that the
// records cover in part says so.
func TestPeriodsSideBySide(t *testing.T) {
	s, _ := demoService(t)
	for _, named := range []string{"2026-Q3,2026-Q2", "2026-Q2,2026-Q3"} {
		d := s.took(t, question{Period: named, Show: []string{"mean"}})
		beside := gridOf(t, d.Parts[2], "periods")
		assert.Equal(t, "change from 2026-Q2 to 2026-Q3", beside.total().Cells[0].Text)
		mean := map[string]float64{}
		for _, row := range beside.Rows {
			mean[row.Cells[0].Text] = beside.number(row, "mean")
			assert.Empty(t, row.Remarks)
		}
		assert.InDelta(t, mean["2026-Q3"]-mean["2026-Q2"], beside.number(beside.total(), "mean"), 0.011)
		assert.Equal(t, s.took(t, question{Period: "2026-Q3", Show: []string{"mean"}}).Parts[0].Table("groups").Totals[0].Cells[1].Text,
			beside.cell(beside.Rows[strings.Index(named, "2026-Q3")/8], "asked").Text)
	}
	part := gridOf(t, s.took(t, question{Period: "2026-Q4,2026-Q3"}).Parts[2], "periods")
	assert.Equal(t, []string{"part"}, part.Rows[0].Remarks)
}

// A promise divides all orders of each group.
func TestPromisesDivideTheirOrders(t *testing.T) {
	s, _ := demoService(t)
	for promise, words := range map[string]string{"promised": "by the promised date?", "5": "within 5 working days after the order date?"} {
		d := s.took(t, question{Period: "2026-10", By: []string{"site"}, Promise: promise})
		assert.True(t, strings.HasSuffix(d.Asked(), "by site, and how many were shipped "+words), d.Asked())
		kept := gridOf(t, d.Parts[0], "promise")
		groups := gridOf(t, d.Parts[0], "groups")
		for i, r := range kept.rows() {
			sum := 0
			for _, code := range []string{"early", "on-the-day", "reached-late", "overdue", "not-due", "cancelled", "no-promise"} {
				sum += kept.count(r, code)
			}
			require.Equal(t, groups.count(groups.rows()[i], "asked"), sum)
			require.Equal(t, kept.count(r, "reached-late")+kept.count(r, "overdue"), kept.count(r, "late"))
			require.Equal(t, numfmt.Percent(kept.count(r, "late"), kept.count(r, "late_of")), kept.cell(r, "late_share").Text)
		}
		require.Positive(t, kept.count(kept.total(), "overdue"))
	}
}

// A chain's legs add up over the orders that have completed all of them; a milestone that is missing can be stood in for,
// which the sentence says, and the working ends with what is counted.
func TestChainsStandInsAndTheWorking(t *testing.T) {
	s, m := demoService(t)
	q := question{To: "paid", Through: []string{"shipped", "delivered", "invoiced"}, Period: "2026-Q2", By: []string{"site"}}
	plain := s.took(t, q)
	assert.Contains(t, plain.Asked(), "from order date through ship date, delivery date and invoice date to payment date,")
	assert.Contains(t, said(plain.Parts[0], "chain"), "add up to that of the whole")
	groups := gridOf(t, plain.Parts[0], "groups")
	sum, whole := 0.0, groups.Totals[4]
	for _, l := range groups.Totals[:4] {
		sum += groups.number(l, "every_leg_mean")
	}
	assert.InDelta(t, groups.number(whole, "every_leg_mean"), sum, 1e-5)
	every := groups.count(whole, "every_leg")

	q.Through[2] = "invoiced-or-delivered"
	q.By = nil
	stoodIn := s.took(t, q)
	assert.Contains(t, stoodIn.Asked(), "invoice date (or delivery date where that is missing) to payment date")
	assert.NotEmpty(t, m.Planted["delivered and not invoiced"])
	groups = gridOf(t, stoodIn.Parts[0], "groups")
	require.Positive(t, note(stoodIn.Parts[0], "stand-in"))
	assert.Equal(t, note(stoodIn.Parts[0], "stand-in")+every, groups.count(groups.Totals[4], "every_leg"), "they complete the chain")
	number, err := s.list(t, question{}, selection{Behind: "took?" + q.Words().Encode() + "&note=stand-in", Limit: 1})
	require.NoError(t, err)
	order, err := s.Order(t.Context(), number.Rows[0].Order, question{From: "shipped", To: "invoiced-or-delivered"}.Words())
	require.NoError(t, err)
	assert.Equal(t, "complete", order.Order.State)
	assert.NotContains(t, order.Order.Milestones, "invoiced-or-delivered", "it is a way of asking, not a milestone of the order")

	filtered := question{In: "hours", Period: "2026-Q2", Where: `promised != null && value > 100`}
	working := gridOf(t, s.took(t, filtered).Parts[0], "working")
	var steps, left []int
	for _, r := range working.Rows {
		if r.Cells[0].Text == "" {
			left[len(left)-1] += working.count(r, "left_orders")
			continue
		}
		steps, left = append(steps, working.count(r, "orders")), append(left, 0)
	}
	require.Len(t, steps, 5, "the book, the period, the condition, the leg and its times of day")
	for i := range steps[1:] {
		assert.Equal(t, steps[i], steps[i+1]+left[i+1], "a step leaves out what it says")
	}

	for _, wrong := range []question{{Through: []string{"ordered"}}, {To: "invoiced-or-promised"}, {Promise: "paid"},
		{Show: []string{"average"}}} {
		var problem *client.Problem
		require.ErrorAs(t, s.tookNot(t, wrong), &problem)
		assert.Equal(t, 422, problem.Status)
	}
	for behind, want := range map[string]string{"took?standing=reached-late": "the question asks about no promise",
		"took?beyond=finished": "the question has no limit"} {
		_, err = s.list(t, question{}, selection{Behind: behind})
		assert.ErrorContains(t, err, want)
	}
}

// Rows and columns have their sums from the orders; every form of file holds what the answer says.
func TestTablesOfLengthsAreTakenAway(t *testing.T) {
	s, _ := demoService(t)
	five := 5.0
	q := question{By: []string{"month", "site"}, Basis: "shipped", Show: []string{"p95", "mean"}, Promise: "promised", Over: &five}
	d := s.took(t, q)
	part := d.Parts[0]
	groups, spread := gridOf(t, part, "groups"), gridOf(t, part, "spread")
	var months []answer.Row
	for axis, set := range []string{"rows", "columns"} {
		orders := map[string]int{}
		for _, r := range groups.Rows {
			orders[r.Cells[axis].Text] += groups.count(r, "n")
		}
		n := 0
		for _, r := range spread.Rows {
			if r.Cells[0].Text == set {
				require.Equal(t, orders[r.Cells[1].Text], spread.count(r, "n"))
				n += spread.count(r, "n")
				months = append(months, r)
			}
		}
		require.Equal(t, groups.count(groups.total(), "n"), n)
	}
	assert.Contains(t, months[0].Remarks, "book begins", "in the first month by ship day")
	assert.NotContains(t, months[3].Remarks, "book begins")
	assert.NotEmpty(t, said(part, "book-begins"))

	file := func(form string) *bytes.Buffer {
		var out bytes.Buffer
		require.NoError(t, s.AnswerFile(t.Context(), "/took", q.Words(), form, &out))
		return &out
	}
	rows, err := csv.NewReader(file("csv")).ReadAll()
	require.NoError(t, err)
	head := slices.IndexFunc(rows, func(row []string) bool { return row[0] == "month" || row[0] == "month of ship date" })
	assert.True(t, strings.HasPrefix(rows[0][0], d.Asked()))
	last := rows[head+len(groups.Rows)+1]
	at := func(heading string) string { return last[slices.Index(rows[head], heading)] }
	limit, kept, total := gridOf(t, part, "limit"), gridOf(t, part, "promise"), groups.total()
	assert.Equal(t, strconv.Itoa(groups.count(total, "n")), at("n"))
	p95, err := strconv.ParseFloat(at("p95, "+d.Heading), 64)
	require.NoError(t, err)
	assert.InDelta(t, groups.number(total, "p95"), p95, 1e-6)
	assert.Equal(t, strconv.Itoa(limit.count(limit.total(), "waiting")), at("still waiting, over 5 working days"))
	assert.Equal(t, strconv.Itoa(kept.count(kept.total(), "reached-late")), at("shipped late, promise"))
	assert.Contains(t, rows[head+1][len(last)-1], "book begins")

	book, err := excelize.OpenReader(file("xlsx"))
	require.NoError(t, err)
	assert.Equal(t, []string{"Took", "Limit", "Promise", "Working", "About"}, book.GetSheetList(), "a worksheet for each table")
	promised, err := book.GetRows("Promise")
	require.NoError(t, err)
	assert.Len(t, promised, 1+len(kept.rows()))
	sheet, err := book.GetRows(book.GetSheetName(0))
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(sheet), len(groups.Rows)+2)
	lines := strings.Split(strings.TrimSpace(file("ndjson").String()), "\n")
	assert.GreaterOrEqual(t, len(lines), len(groups.Rows)+1)
}

// Fifty people at once get the answers that each would get alone.
func TestFiftyAtOnce(t *testing.T) {
	s, _ := demoService(t)
	questions := []question{{By: []string{"customer"}}, {By: []string{"month", "site"}, Promise: "3"},
		{Where: `value > 200`, WithRunning: true}, {To: "paid", Through: []string{"shipped"}}}
	var want []string
	for _, q := range questions {
		text, err := json.Marshal(s.took(t, q))
		require.NoError(t, err)
		want = append(want, string(text))
	}
	var all sync.WaitGroup
	got := make([]string, 50)
	for i := range got {
		all.Go(func() {
			answer, err := s.Answer(t.Context(), "/took", questions[i%len(questions)].Words())
			if assert.NoError(t, err) {
				text, _ := json.Marshal(answer)
				got[i] = string(text)
			}
		})
	}
	all.Wait()
	for i, text := range got {
		require.Equal(t, want[i%len(want)], text)
	}
}

// A limit and running orders in the console; what they count opens as many orders.
func TestConsoleLimits(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	ten := 10.0
	part := s.took(t, question{Period: "2026-10", By: []string{"site"}, Over: &ten, WithRunning: true}).Parts[0]
	limit := gridOf(t, part, "limit")
	waiting := limit.count(limit.total(), "waiting")
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/how-long?period=2026-10&by=site"), chromedp.WaitVisible(test("limit")),
		chromedp.Focus(field("limit")), chromedp.KeyEvent("10"+kb.Enter))
	b.text("table"+test("limit")+" thead", "over 10 working days")
	assert.Contains(t, evaluate[string](b, "location.search"), "over=10")
	b.text("table"+test("limit")+" tr.all", texts(limit.total()))
	b.do(chromedp.Click(test("with-running")))
	b.do(press("more-notes"))
	b.text(test("says-estimate"), said(part, "estimate"))
	b.text(test("sentence"), "and how many took over 10 working days?")
	b.do(chromedp.Click("table" + test("limit") + " tr.all " + test("waiting")))
	b.text(test("selected"), fmt.Sprintf("still running, over 10 working days so far: %s in", numfmt.Counted(waiting, "order")))
	b.do(chromedp.Navigate(s.address + "/how-long?basis=shipped&with_running=true"))
	b.text(test("says-no-curve"), "those that still run are not among them")
	b.do(chromedp.Click(test("with-running"), chromedp.NodeVisible), chromedp.WaitNotPresent(test("says-no-curve")))
	assert.Empty(t, b.wentWrong())
}

// The pictures of how long it took, its tables and its working in the console; what they show opens as many orders.
func TestConsolePicturesAndTables(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	folder := t.TempDir()
	q := question{Period: "2026-10", By: []string{"site"}, Promise: "promised"}
	kept := gridOf(t, s.took(t, q).Parts[0], "promise")
	b.do(letIn(s.entry(t)), downloadsTo(folder), chromedp.Navigate(s.address+"/how-long?period=2026-10&by=site"),
		chromedp.Click(test("ask-promise"), chromedp.NodeVisible))
	b.text(test("sentence"), "how many were shipped by the promised date?")
	b.text("table"+test("promise")+" tr.all", fmt.Sprintf("all %d %d %d %d", kept.count(kept.total(), "asked"),
		kept.count(kept.total(), "early"), kept.count(kept.total(), "on-the-day"), kept.count(kept.total(), "reached-late")))
	drawn := func(holds ...string) {
		t.Helper()
		for _, text := range holds {
			b.text(test("chart"), text)
		}
	}
	drawn("open and overdue", "no promise", "% of the selected orders")
	b.do(chromedp.Focus(test("walk")), chromedp.KeyEvent(kb.ArrowRight+kb.ArrowRight))
	b.text(test("point"), ", shipped on the day:")
	b.do(chromedp.Click(test("picture-groups")))
	drawn("Galway n ")
	assert.Contains(t, evaluate[string](b, "location.search"), "picture=groups")
	b.do(chromedp.Click(test("pick-promise")), chromedp.WaitVisible(test("type-promise")), chromedp.Focus(field("type-promise")),
		chromedp.KeyEvent("4"+kb.Enter))
	b.text(test("sentence"), "within 4 working days after the order date?")
	q.Promise = "4"
	kept = gridOf(t, s.took(t, q).Parts[0], "promise")
	late := kept.count(kept.total(), "reached-late")
	b.text("table"+test("promise")+" tr.all", fmt.Sprint(late))
	b.do(chromedp.Click("table" + test("promise") + " tr.all " + test("reached-late")))
	b.text(test("selected"), fmt.Sprintf("late: %s in", numfmt.Counted(late, "order")))

	// Statistics, rows and columns, and the trend.
	b.do(chromedp.Navigate(s.address+"/how-long?by=month,site&basis=shipped"), chromedp.Click(test("statistics"), chromedp.NodeVisible),
		chromedp.Focus(field("type-percentile")), chromedp.KeyEvent("97.5"+kb.Enter))
	b.text("table"+test("groups")+" thead", "p97.5")
	b.do(chromedp.Navigate(s.address + "/how-long?by=month,site&basis=shipped&show=median"))
	drawn("Saskatoon", "% running", "book begins")
	crossed := s.took(t, question{By: []string{"month", "site"}, Basis: "shipped", Show: []string{"median"}}).Parts[0]
	cross := gridOf(t, crossed, "cross")
	b.text("table"+test("cross")+" tr.all", texts(cross.total()))
	b.text("table"+test("cross")+" tbody tr", "(book begins)")
	b.do(chromedp.Click("table" + test("cross") + " tbody tr:nth-child(5) td:nth-child(3) a"))
	b.text(test("selected"), ", month ")
	b.do(chromedp.NavigateBack(), chromedp.Click(test("export"), chromedp.NodeVisible),
		chromedp.Click(test("export-csv"), chromedp.NodeVisible))
	require.Eventually(t, func() bool {
		text, _ := os.ReadFile(filepath.Join(folder, "took.csv"))
		return strings.Count(string(text), "\r\n") == len(crossed.Table("groups").Rows)+3
	}, 20*time.Second, 50*time.Millisecond)

	// Each leg on the way, the curve, and the working.
	b.do(chromedp.Navigate(s.address+"/how-long?to=paid&period=2026-10"), chromedp.Click(test("ask-legs"), chromedp.NodeVisible))
	b.text(test("sentence"), "through ship date, delivery date and invoice date to payment date")
	b.do(press("more-notes"))
	b.text(test("says-chain"), "every leg complete")
	drawn("ship date → delivery date n ")
	b.do(chromedp.Click(test("pick-through")), chromedp.Click(test("choice-leave it out"), chromedp.NodeVisible))
	b.text(test("sentence"), "through delivery date and invoice date to payment date")
	b.do(chromedp.Navigate(s.address + "/how-long?period=2026-10&with_running=true"))
	drawn("not shipped yet", "cancelled, of all", "half by")
	b.do(chromedp.Click(test("fold-working")+" button", chromedp.NodeVisible), waits("working",
		`(a => { a?.click(); return !!a })(document.querySelector('table[data-test=working] tbody tr:last-child a'))`))
	b.text(test("selected"), "orders in")
	assert.Empty(t, b.wentWrong())
}
