package test

import (
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
)

// What was open adds up in every group and currency, and each of its numbers opens its orders.
func TestWhatWasOpenOpensItsOrders(t *testing.T) {
	s, m := demoService(t)
	for _, closing := range []string{"in", "out"} {
		q := client.OpenQuestion{Question: client.Question{Period: "2026-07", By: []string{"site"}}, ClosingDay: closing}
		answer, err := s.Open(t.Context(), q)
		require.NoError(t, err)
		part := answer.Parts[0]
		assert.Contains(t, answer.Sentence, "What was open in 2026-07, the closing day "+map[string]string{"in": "counted", "out": "not counted"}[closing]+", ordered and not yet shipped, by site?")
		rows := map[string]api.OpenRow{"all": part.Rows[0]}
		for _, g := range part.Groups {
			rows[g.Keys[0]] = g.Rows[0]
		}
		for site, row := range rows {
			list := client.Question{Period: q.Period, By: q.By}
			var group []string
			if site != "all" {
				group = []string{site}
			}
			require.Equal(t, row.AtEnd.Orders, row.AtStart.Orders+row.Opened.Orders-row.Closed.Orders)
			require.Equal(t, row.SomeTime.Orders, row.AtStart.Orders+row.Opened.Orders-row.NotOpen.Orders)
			for what, n := range map[string]int{"at-start": row.AtStart.Orders, "opened-in": row.Opened.Orders, "closed-in": row.Closed.Orders, "at-end": row.AtEnd.Orders, "some-time": row.SomeTime.Orders} {
				require.Equal(t, n, s.opens(t, list, client.Selection{Open: what, ClosingDay: closing, Group: group}), "%s of %q", what, site)
			}
			held := map[string]float64{}
			for sign, amount := range map[float64]api.Amount{1: row.AtStart, 2: row.Opened, -1: row.Closed, -2: row.AtEnd} {
				for _, v := range amount.Values {
					value, err := strconv.ParseFloat(v.Value, 64)
					require.NoError(t, err)
					held[v.Currency] += map[bool]float64{true: 1, false: -1}[sign > 0] * value
				}
			}
			for currency, left := range held {
				require.InDelta(t, 0, left, 1e-6, currency)
			}
		}
		if closing == "in" {
			assert.Zero(t, part.Rows[0].NotOpen.Orders)
		}
		lanes, err := s.Lanes(t.Context(), q)
		require.NoError(t, err)
		assert.Equal(t, part.Rows[0].SomeTime.Orders, lanes.All, "orders in the lanes = list = count")
	}

	whole, err := s.Open(t.Context(), client.OpenQuestion{})
	require.NoError(t, err)
	for state, kind := range map[string]string{"end-before-start": "shipped before ordered", "no-start": "no ordered day", "not-yet-begun": "ordered after the data date", "cancelled-before-start": "cancelled before ordered"} {
		for _, u := range whole.Parts[0].Unplaced {
			if u.State == state {
				assert.Len(t, m.Planted[kind], u.Orders, kind)
				assert.Equal(t, u.Orders, s.opens(t, client.Question{}, client.Selection{Open: state}))
			}
		}
	}

	unsure, err := s.Open(t.Context(), client.OpenQuestion{Question: client.Question{Where: `paid > "2026-01-01"`}})
	require.NoError(t, err)
	assert.Regexp(t, "undecided \\([0-9,]+ without `paid`\\)$", unsure.Parts[0].ReconciliationLine, "what the undecided lack is named")

	// Over time each step begins as the one before it ended; the ages of what is open at its end are as many.
	q := client.OpenQuestion{Question: client.Question{Period: "2026-Q2", By: []string{"site"}}, Each: "week", Holdings: true}
	weeks, err := s.Open(t.Context(), q)
	require.NoError(t, err)
	rows := weeks.Parts[0].Rows
	ages, err := s.Ages(t.Context(), client.OpenQuestion{Question: client.Question{Period: "2026-Q2"}, Each: "week", Buckets: "1,3,30"})
	require.NoError(t, err)
	require.Len(t, ages.Mix, len(rows))
	for i, row := range rows {
		if i > 0 {
			require.Equal(t, rows[i-1].AtEnd, row.AtStart)
		}
		open := 0
		for _, n := range ages.Mix[i].Buckets {
			open += n
		}
		require.Equal(t, row.AtEnd.Orders, open, row.Name)
		groups := 0
		for _, g := range weeks.Parts[0].Groups {
			groups += g.Rows[i].AtEnd.Orders
		}
		require.Equal(t, row.AtEnd.Orders, groups)
	}
	at, err := s.Ages(t.Context(), client.OpenQuestion{Question: client.Question{By: []string{"site"}}, At: "2026-03-16"})
	require.NoError(t, err)
	day := client.Question{Period: "2026-03-16"}
	for i, bucket := range at.Buckets {
		require.Equal(t, at.Total.Buckets[i], s.opens(t, day, client.Selection{Open: "at-end", Youngest: bucket.Youngest, Oldest: bucket.Oldest}), bucket.Label)
	}
	assert.Equal(t, at.Total.Orders, s.opens(t, day, client.Selection{Open: "at-end"}))

	two := client.Question{Period: "2026-02,2026-04"}
	months, err := s.Open(t.Context(), client.OpenQuestion{Question: two})
	require.NoError(t, err)
	require.NotNil(t, months.Together)
	assert.Equal(t, months.Together.Orders, s.opens(t, two, client.Selection{Open: "some-time"}), "several periods count an order once")
	assert.Less(t, months.Together.Orders, months.Parts[0].Rows[0].SomeTime.Orders+months.Parts[1].Rows[0].SomeTime.Orders)

	for _, wrong := range []struct {
		question client.OpenQuestion
		want     string
	}{
		{client.OpenQuestion{Question: client.Question{Period: "2027"}}, "nothing is known of it; a period looks like"},
		{client.OpenQuestion{Question: client.Question{To: "promised"}}, "a plan is no fact"},
		{client.OpenQuestion{ClosingDay: "maybe"}, "want in or out"},
		{client.OpenQuestion{Each: "fortnight"}, "want one of day, week"},
		{client.OpenQuestion{Question: client.Question{By: []string{"customer", "week"}}, Each: "day"}, "too many groups"},
	} {
		_, err := s.Open(t.Context(), wrong.question)
		assert.ErrorContains(t, err, wrong.want)
	}
	_, err = s.Ages(t.Context(), client.OpenQuestion{At: "2027-01-01"})
	assert.ErrorContains(t, err, "want a day up to 2026-10-31")
	_, err = s.Ages(t.Context(), client.OpenQuestion{Question: client.Question{In: "hours"}})
	assert.ErrorContains(t, err, "an age ends with a day")
}

// The page: the row that adds up, its pickers, the steps, the lanes with their reasons, and the ages.
func TestConsoleOpen(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	july, err := s.Open(t.Context(), client.OpenQuestion{Question: client.Question{Period: "2026-07"}})
	require.NoError(t, err)
	row := july.Parts[0].Rows[0]
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/open?period=2026-07"))
	b.text(test("sentence"), "What was open in 2026-07, the closing day counted, ordered and not yet shipped")
	b.text(test("open-rows"), fmt.Sprint(row.SomeTime.Orders))
	b.text(test("chart"), "= open at its end")
	b.do(chromedp.Focus(test("walk")), chromedp.KeyEvent(kb.ArrowRight))
	b.text(test("point"), fmt.Sprintf("open at its start: %d orders", row.AtStart.Orders))
	b.do(chromedp.Click(test("pick-closing_day")), chromedp.Click(test("choice-out"), chromedp.NodeVisible))
	b.text(test("open-rows"), "not open on closing day")
	b.text(test("sentence"), "the closing day not counted")
	b.text(test("reconciliation"), "in the book =") // the new answer is there as a whole
	b.do(chromedp.Click(test("open-rows")+" "+test("open-at-end"), chromedp.NodeVisible))
	b.text(test("selected"), fmt.Sprintf("rders open at the end of 2026-07-31: %s in", numfmt.Counted(row.AtEnd.Orders, "order")))
	b.do(chromedp.Navigate(s.address + "/open?period=2026-07"))
	b.text(test("unplaced"), "Never open:")
	b.do(chromedp.Click(test("unplaced-no-start")))
	b.text(test("selected"), "no `ordered` day, in 2026-07: 2 orders")

	b.do(chromedp.Navigate(s.address+"/open?period=2026"), chromedp.Click(test("tab-time"), chromedp.NodeVisible))
	b.text(test("sentence"), "in each month of 2026")
	b.text(test("chart"), "data date")
	b.do(chromedp.Click(test("pick-each")), chromedp.Click(test("choice-quarter"), chromedp.NodeVisible))
	b.text(test("open-rows")+" tbody tr:nth-child(4)", "2026-Q4")

	b.do(chromedp.Click(test("tab-lanes")))
	lanes, err := s.Lanes(t.Context(), client.OpenQuestion{Question: client.Question{Period: "2026"}})
	require.NoError(t, err)
	b.text(test("lanes-all"), numfmt.Counted(lanes.All, "order")+" open at some time")
	assert.Less(t, evaluate[int](b, `document.querySelectorAll('[data-test="lane"]').length`), 80, "only what is looked at is in the page")
	b.do(chromedp.Focus(test("lane")))
	first := lanes.Lanes[0]
	b.text(test("lane-words"), first.Number+" "+first.Reason+": from ")
	b.do(run(`document.querySelector('[data-test="lanes"]').scrollTop = 1e9`))
	b.do(chromedp.WaitReady(`[data-test="lane"][aria-label*=" opened inside, still open: from "]`))
	drawn := `(() => { const c = document.querySelector('[data-test="lanes"] canvas')
		return c.height == c.parentElement.clientHeight ? new Set(new Uint32Array(c.getContext('2d').getImageData(0, 0, c.width, c.height).data.buffer)).size : 0 })()`
	require.Eventually(t, func() bool { return evaluate[int](b, drawn) > 20 }, 10*time.Second, 100*time.Millisecond, "lanes are drawn")
	b.do(run(`document.querySelector('[data-test="lane"]').click()`))
	b.text("[role=dialog], aside", "shipped")
	assert.Contains(t, evaluate[string](b, "location.search"), "order=SD-")

	ages, err := s.Ages(t.Context(), client.OpenQuestion{At: "2026-03-16", Buckets: "4,40"})
	require.NoError(t, err)
	b.do(chromedp.Navigate(s.address + "/open?show=ages&at=2026-03-16&buckets=4,40"))
	b.text(test("sentence"), "How old was what was open at the end of 2026-03-16, in working days")
	b.text(test("ages"), fmt.Sprintf("all %d %d %d %d", ages.Total.Orders, ages.Total.Buckets[0], ages.Total.Buckets[1], ages.Total.Buckets[2]))
	b.do(chromedp.Click(test("ages") + " " + test("bucket-1")))
	b.text(test("selected"), fmt.Sprintf("open at the end of 2026-03-16, at least 5 working days old, at most 40 working days old: %s in", numfmt.Counted(ages.Total.Buckets[1], "order")))
	b.do(chromedp.Navigate(s.address + "/open?period=2027"))
	b.text("[role=alert]", "it begins after 2026-10-31")
	for _, fault := range b.wentWrong() {
		assert.Contains(t, fault, "responded with a status of 4")
	}
}

// In the terminal, lanes are drawn over the days that each order's calendar has.
func TestTheOpenCommand(t *testing.T) {
	p := newProgram(t)
	cmd, _ := p.up("--demo")
	defer p.down(cmd)
	status, out, messages := p.run("open", "--lanes", "--period", "2026-10-12/2026-10-31", "--sort", "age", "--limit", "5")
	require.Zero(t, status, messages)
	assert.Contains(t, out, "SD-102161")
	assert.Contains(t, out, "▒▒")
	assert.Contains(t, out, "› ")
	assert.Contains(t, out, "carried through, still open")
	status, out, _ = p.run("open", "--period", "2026-07", "--by", "site")
	require.Zero(t, status)
	assert.Contains(t, out, "At its start 103 + opened 274 − closed 303 = at its end 74")
	assert.Contains(t, out, "And what they hold")
	status, out, _ = p.run("open", "--ages", "--each", "month", "--period", "2026", "--format", "csv")
	require.Zero(t, status)
	assert.Equal(t, 1+1+1+1+1+10, strings.Count(out, "\r\n"), "two tables: titles, heads, all, ten months")
	for name, args := range map[string][]string{"Old ones": {"--ages", "--at", "2026-03-16", "--buckets", "7"}, "By month": {"--each", "month", "--by", "site"}, "In October": {"--lanes", "--period", "2026-10", "--sort", "age"}, "July": {"--period", "2026-07", "--closing-day", "out"}} {
		status, asked, messages := p.run(append([]string{"open", "--keep", name}, args...)...)
		require.Zero(t, status, messages)
		status, again, messages := p.run("view", "run", name)
		require.Zero(t, status, messages)
		assert.Equal(t, asked, again, "a view asks the same again")
	}
	status, _, messages = p.run("open", "--lanes", "--ages")
	assert.Equal(t, 2, status)
	assert.Contains(t, messages, "two tables")
}
