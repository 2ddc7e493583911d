package test

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/numfmt"
)

// What was open adds up in every group and currency, and over time each step begins as the one before it ended.
func TestWhatWasOpenAddsUp(t *testing.T) {
	s, m := demoService(t)
	for _, closing := range []string{"in", "out"} {
		words := []string{"period", "2026-07", "by", "site", "closing_day", closing}
		d := s.ask(t, "/open", words...)
		assert.Contains(t, d.Asked(), "What was open in 2026-07, the closing day "+map[string]string{"in": "counted",
			"out": "not counted"}[closing]+", ordered and not yet shipped, by site?")
		rows, holdings := gridOf(t, d.Parts[0], "rows"), gridOf(t, d.Parts[0], "holdings")
		for _, r := range rows.rows() {
			start, opened := rows.count(r, "at_start"), rows.count(r, "opened")
			require.Equal(t, rows.count(r, "at_end"), start+opened-rows.count(r, "closed"))
			require.Equal(t, rows.count(r, "some_time"), start+opened-rows.count(r, "not_open"))
			if closing == "in" {
				assert.Zero(t, rows.count(r, "not_open"))
			}
		}
		for _, r := range holdings.rows() {
			require.InDelta(t, holdings.number(r, "at_end"), holdings.number(r, "at_start")+holdings.number(r,
				"opened")-holdings.number(r, "closed"), 1e-6, holdings.names(r))
		}
		timeline := gridOf(t, s.ask(t, "/open", append(words[2:], "period", "2026-07", "timeline", "true")...).Parts[0], "timeline")
		assert.Equal(t, rows.count(rows.total(), "some_time"), timeline.All, "orders in the timeline = count")
	}

	whole := s.ask(t, "/open").Parts[0]
	for state, kind := range map[string]string{"end-before-start": "shipped before ordered", "no-start": "no ordered day",
		"not-yet-begun": "ordered after the data date", "cancelled-before-start": "cancelled before ordered"} {
		assert.Len(t, m.Planted[kind], listed(whole, state), kind)
	}
	unsure := s.ask(t, "/open", "where", `paid > "2026-01-01"`).Parts[0]
	assert.Regexp(t, "cannot be decided yet \\([0-9,]+ without payment date\\)$", unsure.Lines[0].Text, "what the undecided lack is named")

	// The ages of what is open at the end of a step are as many.
	part := s.ask(t, "/open", "period", "2026-Q2", "by", "site", "each", "week", "holdings", "true").Parts[0]
	weeks, steps := gridOf(t, part, "rows"), gridOf(t, part, "steps")
	mix := gridOf(t, s.ask(t, "/open", "period", "2026-Q2", "ages", "true", "each", "week", "buckets", "1,3,30").Parts[0], "mix")
	require.Len(t, mix.Rows, len(weeks.Totals))
	for i, r := range weeks.Totals {
		if i > 0 {
			require.Equal(t, weeks.count(weeks.Totals[i-1], "at_end"), weeks.count(r, "at_start"))
		}
		require.Equal(t, weeks.count(r, "at_end"), mix.count(mix.Rows[i], "open"))
		groups := 0
		for _, c := range steps.Columns[1 : len(steps.Columns)-3] {
			groups += steps.count(steps.Rows[i], c.Code)
		}
		require.Equal(t, weeks.count(r, "at_end"), groups)
	}

	months := s.ask(t, "/open", "period", "2026-02,2026-04")
	together, sum := note(months.Parts[1], "together"), 0
	for _, p := range months.Parts {
		rows := gridOf(t, p, "rows")
		sum += rows.count(rows.total(), "some_time")
	}
	require.Positive(t, together, "several periods count an order once")
	assert.Less(t, together, sum)

	for _, wrong := range []struct {
		words []string
		want  string
	}{
		{[]string{"period", "2027"}, "there is no data for this period; a period looks like"},
		{[]string{"to", "promised"}, "a plan is no fact"},
		{[]string{"closing_day", "maybe"}, "want in or out"},
		{[]string{"each", "fortnight"}, "want one of day, week"},
		{[]string{"by", "customer,week", "each", "day"}, "too many groups"},
		{[]string{"at", "2027-01-01"}, "want a day up to 2026-10-31"},
		{[]string{"in", "hours", "ages", "true"}, "an age ends with a day"},
		{[]string{"timeline", "true", "ages", "true"}, "two answers"},
		{[]string{"timeline", "true", "sort", "size"}, "want start, age or length"},
		{[]string{"timeline", "true", "period", "2026-07,2026-08"}, "takes one period"},
	} {
		assert.Contains(t, s.refuses(t, "/open", wrong.words...), wrong.want)
	}
}

// The page: the row that adds up, its pickers, the steps, the timeline with their reasons, and the ages.
func TestConsoleOpen(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	july := gridOf(t, s.ask(t, "/open", "period", "2026-07").Parts[0], "rows")
	row := july.total()
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/open?period=2026-07"))
	b.text(test("sentence"), "What was open in 2026-07, the closing day counted, ordered and not yet shipped")
	b.text("table"+test("rows"), july.cell(row, "some_time").Text)
	b.text(test("chart"), "= open at its end")
	b.do(chromedp.Focus(test("walk")), chromedp.KeyEvent(kb.ArrowRight))
	b.text(test("point"), fmt.Sprintf("open at its start: %d orders", july.count(row, "at_start")))
	b.do(chromedp.Click(test("pick-closing_day")), chromedp.Click(test("choice-out"), chromedp.NodeVisible))
	b.text("table"+test("rows"), "not open on closing day")
	b.text(test("sentence"), "the closing day not counted")
	b.text(test("reconciliation"), "in the book =") // the new answer is there as a whole
	b.do(chromedp.Click("table"+test("rows")+" "+test("at_end"), chromedp.NodeVisible))
	b.text(test("selected"), fmt.Sprintf("rders open at the end of 2026-07-31: %s in", numfmt.Counted(july.count(row, "at_end"), "order")))
	b.do(chromedp.Navigate(s.address + "/open?period=2026-07"))
	b.do(chromedp.Click(`a[href*="no-start"]`, chromedp.NodeVisible))
	b.text(test("selected"), "without order date, in 2026-07: 2 orders")

	b.do(chromedp.Navigate(s.address+"/open?period=2026"), chromedp.Click(test("tab-time"), chromedp.NodeVisible))
	b.text(test("sentence"), "in each month of 2026")
	b.text(test("chart"), "data date")
	b.do(chromedp.Click(test("pick-each")), chromedp.Click(test("choice-quarter"), chromedp.NodeVisible))
	b.text("table"+test("rows")+" tbody tr:nth-child(4)", "2026-Q4")

	b.do(chromedp.Click(test("tab-timeline")))
	timeline := gridOf(t, s.ask(t, "/open", "period", "2026", "timeline", "true").Parts[0], "timeline")
	b.text(test("says-some-time"), numfmt.Counted(timeline.All, "order")+" open at some time")
	assert.Less(t, evaluate[int](b, `document.querySelectorAll('[data-test="bar"]').length`), 80, "only what is looked at is in the page")
	b.do(chromedp.Focus(test("bar")))
	first := timeline.Rows[0]
	b.text(test("bar-words"), timeline.cell(first, "number").Text+" "+timeline.cell(first, "reason").Text+": from ")
	b.do(run(`document.querySelector('[data-test="timeline"]').scrollTop = 1e9`))
	b.do(chromedp.WaitReady(`[data-test="bar"][aria-label*=" opened inside, still open: from "]`))
	drawn := `(() => { const c = document.querySelector('[data-test="timeline"] canvas')
		return c.height == c.parentElement.clientHeight ? new Set(new Uint32Array(c.getContext('2d').getImageData(0, 0, c.width, c.height).data.buffer)).size : 0 })()`
	b.comes("bars", func() bool { return evaluate[int](b, drawn) > 20 })
	b.do(run(`document.querySelector('[data-test="bar"]').click()`))
	b.text(test("order-sheet"), "Dates")
	assert.Contains(t, evaluate[string](b, "location.search"), "order=SD-")

	ages := gridOf(t, s.ask(t, "/open", "at", "2026-03-16", "buckets", "4,40").Parts[0], "ages")
	b.do(chromedp.Navigate(s.address + "/open?ages=true&at=2026-03-16&buckets=4,40"))
	b.text(test("sentence"), "How old was what was open at the end of 2026-03-16, in working days")
	b.text("table"+test("ages"), texts(ages.total()))
	b.do(chromedp.Click("table" + test("ages") + " " + test("bucket_1")))
	b.text(test("selected"), fmt.Sprintf("open at the end of 2026-03-16, at least 5 working days old, at most 40 working days old: %s in",
		numfmt.Counted(ages.count(ages.total(), "bucket_1"), "order")))
	b.do(chromedp.Navigate(s.address + "/open?period=2027"))
	b.text("[role=alert]", "the records end on 2026-10-31")
	for _, fault := range b.wentWrong() {
		assert.Contains(t, fault, "responded with a status of 4")
	}
}

// In the terminal, orders are drawn over the days that each order's calendar has.
func TestTheOpenCommand(t *testing.T) {
	p := newProgram(t)
	cmd, _ := p.up("--demo")
	defer p.down(cmd)
	status, out, messages := p.run("open", "--timeline", "--period", "2026-10-12/2026-10-31", "--sort", "age", "--limit", "5")
	require.Zero(t, status, messages)
	assert.Contains(t, out, "SD-102161")
	assert.Contains(t, out, "▒▒")
	assert.Contains(t, out, "› ")
	assert.Contains(t, out, "carried through, still open")
	status, out, _ = p.run("open", "--period", "2026-07", "--by", "site")
	require.Zero(t, status)
	assert.Contains(t, out, "at its start 103 + opened 274 − closed 303 = at its end 74")
	assert.Contains(t, out, "Open units and value")
	status, out, _ = p.run("open", "--period", "2026-07", "--list", "at-end", "--limit", "3")
	require.Zero(t, status)
	assert.Contains(t, out, "Orders open at the end of 2026-07-31: 74 orders in 74 rows; shown: 1 to 3")
	for name, args := range map[string][]string{"Old ones": {"--ages", "--at", "2026-03-16", "--buckets", "7"},
		"By month": {"--each", "month", "--by", "site"}, "In October": {"--timeline", "--period", "2026-10", "--sort", "age"},
		"July": {"--period", "2026-07", "--closing-day", "out"}} {
		status, asked, messages := p.run(append([]string{"open", "--save-view", name}, args...)...)
		require.Zero(t, status, messages)
		status, again, messages := p.run("view", "run", name)
		require.Zero(t, status, messages)
		assert.Equal(t, asked, again, "a view asks the same again")
	}
	status, _, messages = p.run("open", "--timeline", "--ages")
	assert.Equal(t, 2, status)
	assert.Contains(t, messages, "two answers")
}
