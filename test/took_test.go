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

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
)

// Limits count those that wait, with their bounds; each number opens as many orders. Running orders shift the median only
// where they are among those that are asked about.
func TestLimitsAndRunningOrders(t *testing.T) {
	s, _ := demoService(t)
	ten := 10.0
	q := client.Question{Period: "2026-10", By: []string{"site"}, Over: &ten, WithRunning: true}
	answer, err := s.Took(t.Context(), q)
	require.NoError(t, err)
	assert.Contains(t, answer.Sentence, "by site, and how many took over 10 working days?")
	assert.Equal(t, "over 10 working days", answer.Limit)
	part := answer.Parts[0]
	for _, g := range append(slices.Clone(part.Groups), part.Total) {
		states := map[string]int{}
		for _, r := range g.Reconciliation {
			states[r.State] = r.Orders
		}
		require.Equal(t, []int{g.N, states["running"]}, []int{g.Over.Finished + g.Over.Within, g.Over.Waiting + g.Over.Undecided})
		require.Equal(t, states["running"], g.Estimate.Running)
		over, decided := g.Over.Finished+g.Over.Waiting, g.N+g.Over.Waiting
		require.Equal(t, []string{numfmt.Percent(over, decided), numfmt.Percent(over, decided+g.Over.Undecided), numfmt.Percent(over+g.Over.Undecided, decided+g.Over.Undecided)}, []string{g.Over.Share, g.Over.Low, g.Over.High})
		last := api.EstimatePoint{Beyond: 1}
		for _, p := range g.Estimate.Points {
			require.LessOrEqual(t, p.Beyond, last.Beyond)
			require.GreaterOrEqual(t, p.Done, last.Done)
			require.LessOrEqual(t, p.Done+p.Cancelled, 1+1e-9)
			last = p
		}
	}
	require.Positive(t, part.Total.Over.Waiting)
	waiting, err := s.Orders(t.Context(), client.Question{Period: "2026-10", Where: "working_days_so_far(ordered, shipped) > 10"}, client.Selection{})
	require.NoError(t, err)
	assert.Equal(t, []int{part.Total.Over.Finished, part.Total.Over.Waiting}, []int{waiting.Finished, waiting.Waiting}, "the list behind the numbers")
	assert.Contains(t, part.Total.Estimate.Words, "cancelled; if no order were cancelled, half would be shipped within")

	least, err := s.Took(t.Context(), client.Question{Period: "2026-10", AtLeast: &ten})
	require.NoError(t, err)
	assert.GreaterOrEqual(t, least.Parts[0].Total.Over.Finished, part.Total.Over.Finished, "at least is not over")
	assert.Nil(t, least.Parts[0].Total.Estimate)
	shipped, err := s.Took(t.Context(), client.Question{Basis: "shipped", WithRunning: true})
	require.NoError(t, err)
	assert.Contains(t, shipped.NoCurve, "those that still run are not among them")
	assert.Nil(t, shipped.Parts[0].Total.Estimate)
	_, err = s.Took(t.Context(), client.Question{Over: &ten, AtLeast: &ten})
	assert.ErrorContains(t, err, "over and at least are two limits")
}

// opens asks for the orders behind a number.
func (s service) opens(t *testing.T, q client.Question, behind client.Selection) int {
	t.Helper()
	behind.Limit = 1
	list, err := s.Orders(t.Context(), q, behind)
	require.NoError(t, err)
	return list.All
}

// A promise divides all orders of each group, and each of its numbers opens as many.
func TestPromisesOpenTheirOrders(t *testing.T) {
	s, _ := demoService(t)
	for promise, words := range map[string]string{"promised": "by promised?", "5": "within 5 working days after ordered?"} {
		q := client.Question{Period: "2026-10", By: []string{"site"}, Promise: promise}
		answer, err := s.Took(t.Context(), q)
		require.NoError(t, err)
		assert.True(t, strings.HasSuffix(answer.Sentence, "by site, and how many were shipped "+words), answer.Sentence)
		part := answer.Parts[0]
		for _, g := range append(slices.Clone(part.Groups), part.Total) {
			sum := 0
			for _, standing := range g.Kept.Standings {
				sum += standing.Orders
				require.Equal(t, standing.Orders, s.opens(t, q, client.Selection{Group: g.Keys, Standing: standing.Code}), "%v %s", g.Keys, standing.Label)
			}
			require.Equal(t, g.Asked, sum)
			require.Equal(t, numfmt.Percent(g.Kept.Late, g.Kept.Told), g.Kept.LateShare)
		}
		require.Positive(t, part.Total.Kept.Standings[4].Orders, "open and late")
	}
}

// A chain's legs add up over the orders that have completed all of them; a milestone that is missing can be stood in for,
// which the sentence says, and the working ends with what is counted.
func TestChainsStandInsAndTheWorking(t *testing.T) {
	s, m := demoService(t)
	q := client.Question{To: "paid", Through: []string{"shipped", "delivered", "invoiced"}, Period: "2026-Q2", By: []string{"site"}}
	plain, err := s.Took(t.Context(), q)
	require.NoError(t, err)
	part := plain.Parts[0]
	assert.Contains(t, plain.Sentence, "from ordered through shipped, delivered and invoiced to paid,")
	assert.Contains(t, part.ChainLine, "add up to that of the whole")
	sum := 0.0
	for _, l := range part.Legs {
		sum += *l.Total.EveryLeg.Mean
		require.Equal(t, l.Total.N, s.opens(t, client.Question{From: l.From, To: l.To, Basis: "ordered", Period: q.Period}, client.Selection{State: "counted"}))
	}
	assert.InDelta(t, *part.Total.EveryLeg.Mean, sum, 1e-9)
	every := s.opens(t, q, client.Selection{State: "every-leg"})
	assert.Equal(t, part.Total.EveryLeg.N, every)

	q.Through[2] = "invoiced-or-delivered"
	q.By = nil
	whole, err := s.Took(t.Context(), q)
	require.NoError(t, err)
	assert.Contains(t, whole.Sentence, "invoiced (or delivered where that is missing) to paid")
	var note api.Note
	for _, n := range whole.Parts[0].Notes {
		if n.Code == "stand-in" {
			note = n
		}
	}
	assert.NotEmpty(t, m.Planted["delivered and not invoiced"])
	require.Positive(t, note.Orders)
	assert.Equal(t, note.Orders, s.opens(t, q, client.Selection{Note: "stand-in"}))
	assert.Equal(t, note.Orders+every, whole.Parts[0].Total.EveryLeg.N, "they complete the chain")
	number, err := s.Orders(t.Context(), q, client.Selection{Note: "stand-in", Limit: 1})
	require.NoError(t, err)
	order, err := s.Order(t.Context(), number.List[0].Number, client.Question{From: "shipped", To: "invoiced-or-delivered"})
	require.NoError(t, err)
	assert.Equal(t, "complete", order.Order.State)
	assert.NotContains(t, order.Order.Milestones, "invoiced-or-delivered", "it is a way of asking, not a milestone of the order")

	filtered := client.Question{In: "hours", Period: "2026-Q2", Where: `promised != null && value > 100`}
	timed, err := s.Took(t.Context(), filtered)
	require.NoError(t, err)
	steps := timed.Parts[0].Steps
	assert.Equal(t, []string{"book", "period", "condition", "ended", "counted"}, []string{steps[0].Code, steps[1].Code, steps[2].Code, steps[3].Code, steps[4].Code})
	assert.Equal(t, []int{steps[1].Orders, steps[2].Orders, steps[3].Orders, timed.Parts[0].Total.N}, []int{
		s.opens(t, client.Question{In: "hours", Period: "2026-Q2"}, client.Selection{}), s.opens(t, filtered, client.Selection{}),
		s.opens(t, filtered, client.Selection{State: "ended"}), steps[4].Orders,
	})

	for _, wrong := range []client.Question{{Through: []string{"ordered"}}, {To: "invoiced-or-promised"}, {Promise: "paid"}, {Show: []string{"average"}}} {
		_, err := s.Took(t.Context(), wrong)
		var problem *client.Problem
		require.ErrorAs(t, err, &problem)
		assert.Equal(t, 422, problem.Status)
	}
	_, err = s.Orders(t.Context(), client.Question{}, client.Selection{Standing: "reached-late"})
	assert.ErrorContains(t, err, "the question asks about no promise")
	_, err = s.Orders(t.Context(), client.Question{}, client.Selection{Beyond: "finished"})
	assert.ErrorContains(t, err, "the question has no limit")
}

// Rows and columns have their sums from the orders; every form of file holds what the answer says.
func TestTablesOfLengthsAreTakenAway(t *testing.T) {
	s, _ := demoService(t)
	five := 5.0
	q := client.Question{By: []string{"month", "site"}, Basis: "shipped", Show: []string{"p95", "mean"}, Promise: "promised", Over: &five}
	answer, err := s.Took(t.Context(), q)
	require.NoError(t, err)
	part := answer.Parts[0]
	for axis, sums := range [][]api.Group{part.Rows, part.Columns} {
		orders := map[string]int{}
		for _, g := range part.Groups {
			orders[g.Keys[axis]] += g.N
		}
		n := 0
		for _, sum := range sums {
			require.Equal(t, orders[sum.Keys[0]], sum.N)
			n += sum.N
		}
		require.Equal(t, part.Total.N, n)
	}
	assert.True(t, part.Rows[0].Step.Begins, "the book begins in the first month by ship day")
	assert.False(t, part.Rows[3].Step.Begins || part.Rows[3].Step.Cut)
	assert.NotEmpty(t, part.BeginsUntil)

	var out bytes.Buffer
	require.NoError(t, s.TookFile(t.Context(), q.Words(), "csv", &out))
	rows, err := csv.NewReader(&out).ReadAll()
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(rows[0][0], answer.Sentence))
	assert.Len(t, rows, 2+len(part.Groups)+1)
	last := rows[len(rows)-1]
	at := func(heading string) string { return last[slices.Index(rows[1], heading)] }
	assert.Equal(t, strconv.Itoa(part.Total.N), at("n"))
	p95, err := strconv.ParseFloat(at("p95, "+answer.Heading), 64)
	require.NoError(t, err)
	assert.InDelta(t, *part.Total.Figures[0], p95, 1e-6)
	assert.Equal(t, strconv.Itoa(part.Total.Over.Waiting), at("still waiting, over 5 working days"))
	assert.Equal(t, strconv.Itoa(part.Total.Kept.Standings[2].Orders), at("promise: shipped late"))
	assert.Contains(t, rows[2], "book begins")

	out.Reset()
	require.NoError(t, s.TookFile(t.Context(), q.Words(), "xlsx", &out))
	book, err := excelize.OpenReader(&out)
	require.NoError(t, err)
	sheet, err := book.GetRows("How long")
	require.NoError(t, err)
	assert.Len(t, sheet, len(rows)-1)
	out.Reset()
	require.NoError(t, s.TookFile(t.Context(), q.Words(), "ndjson", &out))
	var total map[string]any
	lines := strings.Split(strings.TrimSpace(out.String()), "\n")
	require.NoError(t, json.Unmarshal([]byte(lines[len(lines)-1]), &total))
	assert.EqualValues(t, part.Total.N, total["n"])
}

// Fifty people at once get the answers that each would get alone.
func TestFiftyAtOnce(t *testing.T) {
	s, _ := demoService(t)
	questions := []client.Question{{By: []string{"customer"}}, {By: []string{"month", "site"}, Promise: "3"}, {Where: `value > 200`, WithRunning: true}, {To: "paid", Through: []string{"shipped"}}}
	var want []string
	for _, q := range questions {
		answer, err := s.Took(t.Context(), q)
		require.NoError(t, err)
		text, err := json.Marshal(answer)
		require.NoError(t, err)
		want = append(want, string(text))
	}
	var all sync.WaitGroup
	got := make([]string, 50)
	for i := range got {
		all.Go(func() {
			answer, err := s.Took(t.Context(), questions[i%len(questions)])
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
	want, err := s.Took(t.Context(), client.Question{Period: "2026-10", By: []string{"site"}, Over: &ten, WithRunning: true})
	require.NoError(t, err)
	total := want.Parts[0].Total
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/how-long?period=2026-10&by=site"), chromedp.WaitVisible(test("limit")),
		chromedp.Focus(test("limit")), chromedp.KeyEvent("10"+kb.Enter))
	b.text(test("waiting")+" thead", "over 10 working days")
	assert.Contains(t, evaluate[string](b, "location.search"), "over=10")
	b.text(test("waiting")+" tr.all", fmt.Sprintf("all %d %d %d %d %s %s to %s", total.Over.Finished, total.Over.Waiting, total.Over.Within, total.Over.Undecided, total.Over.Share, total.Over.Low, total.Over.High))
	b.do(chromedp.Click(test("with-running")))
	b.text(test("estimate"), total.Estimate.Words)
	b.text(test("sentence"), "and how many took over 10 working days?")
	b.do(chromedp.Click(test("waiting") + " tr.all " + test("over-waiting")))
	b.text(test("selected"), fmt.Sprintf("still running, over 10 working days so far: %s in", numfmt.Counted(total.Over.Waiting, "order")))
	b.do(chromedp.Navigate(s.address + "/how-long?basis=shipped&with_running=true"))
	b.text(test("no-curve"), "those that still run are not among them")
	b.do(chromedp.Click(test("with-running"), chromedp.NodeVisible), chromedp.WaitNotPresent(test("no-curve")))
	assert.Empty(t, b.wentWrong())
}

// The pictures of how long it took, its tables and its working in the console; what they show opens as many orders.
func TestConsolePicturesAndTables(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	folder := t.TempDir()
	q := client.Question{Period: "2026-10", By: []string{"site"}, Promise: "promised"}
	want, err := s.Took(t.Context(), q)
	require.NoError(t, err)
	total := want.Parts[0].Total
	b.do(letIn(s.entry(t)), downloadsTo(folder), chromedp.Navigate(s.address+"/how-long?period=2026-10&by=site"), chromedp.Click(test("ask-promise"), chromedp.NodeVisible))
	b.text(test("sentence"), "how many were shipped by promised?")
	b.text(test("promise")+" tr.all", fmt.Sprintf("all %d %d %d %d", total.Asked, total.Kept.Standings[0].Orders, total.Kept.Standings[1].Orders, total.Kept.Standings[2].Orders))
	drawn := func(holds ...string) {
		t.Helper()
		for _, text := range holds {
			b.text(test("chart"), text)
		}
	}
	drawn("open and overdue", "no promise", "% of the orders asked about")
	b.do(chromedp.Focus(test("walk")), chromedp.KeyEvent(kb.ArrowRight+kb.ArrowRight))
	b.text(test("point"), ", shipped on the day:")
	b.do(chromedp.Click(test("picture-groups")))
	drawn("Galway n ")
	assert.Contains(t, evaluate[string](b, "location.search"), "picture=groups")
	b.do(chromedp.Click(test("pick-promise")), chromedp.WaitVisible(test("type-promise")), chromedp.Focus(test("type-promise")), chromedp.KeyEvent("4"+kb.Enter))
	b.text(test("sentence"), "within 4 working days after ordered?")
	q.Promise = "4"
	four, err := s.Took(t.Context(), q)
	require.NoError(t, err)
	late := four.Parts[0].Total.Kept.Standings[2].Orders
	b.text(test("promise")+" tr.all", fmt.Sprint(late))
	b.do(chromedp.Click(test("promise") + " tr.all " + test("standing-reached-late")))
	b.text(test("selected"), fmt.Sprintf("late: %s in", numfmt.Counted(late, "order")))

	// Statistics, rows and columns, and the trend.
	b.do(chromedp.Navigate(s.address+"/how-long?by=month,site&basis=shipped"), chromedp.Click(test("statistics"), chromedp.NodeVisible), chromedp.Focus(test("type-percentile")), chromedp.KeyEvent("97.5"+kb.Enter))
	b.text(test("cross-statistic"), "p97.5")
	b.do(chromedp.SetValue(test("cross-statistic"), "median"))
	drawn("Saskatoon", "% running", "book begins")
	crossed, err := s.Took(t.Context(), client.Question{By: []string{"month", "site"}, Basis: "shipped"})
	require.NoError(t, err)
	all := crossed.Parts[0]
	b.text(test("cross")+" tfoot", fmt.Sprintf("%.1f %s", *all.Total.Median, numfmt.Count(all.Total.N)))
	b.text(test("cross")+" tbody tr", "(book begins)")
	b.do(chromedp.Click(test("cross") + " tbody tr:nth-child(5) td:nth-child(3) a"))
	b.text(test("selected"), ", month ")
	b.do(chromedp.NavigateBack(), chromedp.Click(test("take-away"), chromedp.NodeVisible), chromedp.Click(".list "+test("take-csv"), chromedp.NodeVisible))
	require.Eventually(t, func() bool {
		text, _ := os.ReadFile(filepath.Join(folder, "took.csv"))
		return strings.Count(string(text), "\r\n") == len(all.Groups)+3
	}, 20*time.Second, 50*time.Millisecond)

	// Each leg on the way, the curve, and the working.
	b.do(chromedp.Navigate(s.address+"/how-long?to=paid&period=2026-10"), chromedp.Click(test("ask-legs"), chromedp.NodeVisible))
	b.text(test("sentence"), "through shipped, delivered and invoiced to paid")
	b.text(test("chain-line"), "every leg complete")
	drawn("shipped → delivered n ")
	b.do(chromedp.Click(test("pick-through")), chromedp.Click(test("choice-leave it out"), chromedp.NodeVisible))
	b.text(test("sentence"), "through delivered and invoiced to paid")
	b.do(chromedp.Navigate(s.address + "/how-long?period=2026-10&with_running=true"))
	drawn("not shipped yet", "cancelled, of all", "half by")
	b.do(chromedp.Click(test("working")+" summary", chromedp.NodeVisible), chromedp.Click(test("step-ended"), chromedp.NodeVisible))
	b.text(test("selected"), fmt.Sprintf("ith the leg complete: %s", numfmt.Counted(total.N, "order")))
	assert.Empty(t, b.wentWrong())
}
