package test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Checks as somebody makes them in a terminal: a figure, a list and a table, what explains a difference, and all of them again.
func TestTheCheckCommand(t *testing.T) {
	p := newProgram(t)
	cmd, _ := p.up("--demo")
	defer p.down(cmd)
	check := func(want int, args ...string) string {
		status, out, messages := p.run(args...)
		require.Equal(t, want, status, "%v: %s%s", args, out, messages)
		return out + messages
	}
	figure := func(args ...string) string {
		_, out, _ := p.run(append(args, "--format", "csv")...)
		lines := strings.Split(strings.TrimSpace(out), "\n")
		return strings.Split(lines[len(lines)-1], ",")[2]
	}
	byOrder, byShip := figure("took", "--period", "2026-Q3"), figure("took", "--period", "2026-Q3", "--basis", "shipped")
	require.NotEqual(t, byOrder, byShip)
	assert.Contains(t, check(0, "check", "took", "--period", "2026-Q3", "--figure", byOrder, "--save", "By order date"), "the same")
	assert.Contains(t, check(1, "check", "took", "--period", "2026-Q3", "--figure", byShip),
		"Your "+byShip+" is what comes out placed by ship date")
	list := filepath.Join(t.TempDir(), "list.csv")
	_, text, _ := p.run("orders", "--period", "2026-Q3", "--basis", "shipped", "--state", "counted", "--columns", "site, number", "--format", "csv")
	require.NoError(t, os.WriteFile(list, []byte(text), 0o600))
	out := check(1, "check", "took", "--period", "2026-Q3", "--order-list", list, "--save", "The list")
	for _, words := range []string{"Your list is what comes out placed by ship date", "missing", "with order date outside 2026-Q3: order date 2026-0",
		"extra", "the day after the period"} {
		assert.Contains(t, out, words)
	}
	assert.Contains(t, check(2, "check", "took", "--figure", "1", "--number", "maen"), "did you mean mean?")
	assert.Contains(t, check(2, "check", "took", "--figure", "1", "--order-list", list), "want one of")
	_, text, _ = p.run("status", "latest", "--format", "csv")
	require.NoError(t, os.WriteFile(list, []byte(text[strings.Index(text, "\n")+1:]), 0o600))
	assert.NotContains(t, check(0, "check", "status-latest", "--table", list), "differs")

	_, text, _ = p.run("took", "--by", "site", "--format", "csv")
	require.NoError(t, os.WriteFile(list, []byte(text), 0o600))
	assert.NotContains(t, check(0, "check", "took", "--by", "site", "--table", list), "differs", "a file of ours, with its title")
	assert.Contains(t, check(2, "check", "took", "--figure", "1", "--as-of-load", "1", "--save", "Then"), "of the records as they stand")

	assert.Contains(t, check(1, "check", "run", "--all"), "2 checks: 1 as expected, 1 not")
	assert.Contains(t, check(0, "check", "run", "by order date"), "1 check: 1 as expected, 0 not")
	saved := filepath.Join(t.TempDir(), "checks.json")
	require.NoError(t, os.WriteFile(saved, []byte(check(0, "check", "list", "--format", "json")), 0o600))
	check(0, "check", "delete", "The list")
	assert.Contains(t, check(1, "check", "run", saved), "2 checks: 1 as expected, 1 not", "a file of checks is run as it stands")
	check(0, "check", "run", "--all")

	// Lists, and answers whose totals count an order several times.
	_, text, _ = p.run("orders", "--where", "shipped > promised", "--columns", "number", "--format", "csv")
	require.NoError(t, os.WriteFile(list, []byte(text), 0o600))
	assert.Contains(t, check(0, "check", "orders", "--where", "shipped > promised", "--order-list", list), "the same orders")
	assert.Contains(t, check(1, "check", "orders", "--where", "shipped >= promised", "--order-list", list), "; promised date 2026")
	assert.Contains(t, check(1, "check", "forecast", "--row", "2026-08", "--order-list", list), "later: order date")
	assert.Contains(t, check(2, "check", "forecast", "--row", "2026-08", "--order-list", write(t, "empty.csv", "")), "this is an empty file")
	assert.Contains(t, check(0, "two-ways", "forecast", "--but", "period=2026-Q3"), "no orders are told apart")
	assert.Contains(t, check(0, "two-ways", "orders", "--period", "2026-Q3", "--but", "basis=shipped"), "counted")
	assert.Contains(t, check(0, "orders", "--where", "forecast > promised", "--sort", "-length", "--second-opinion"), "PostgreSQL finds the same")
	several := "site != \"\"\"\nx; SELECT 1; --\"\"\" &&\nsite != null" // which would end a comment
	assert.Contains(t, check(0, "took", "--where", several, "--second-opinion"), "PostgreSQL finds the same")
	assert.Contains(t, check(0, "two-ways", "status-periods", "--but", "in=days"), "no orders are told apart")
	assert.Contains(t, check(2, "immediate", "customers", "--period", "2026-Q2,2026-Q3"), "want one period")
	assert.Contains(t, check(0, "check", "quality", "--row", "orders: no site", "--figure", "2"), "the same")

	out = check(0, "two-ways", "open", "--period", "2026-08", "--but", "closing-day=out")
	assert.Contains(t, out, "open at some time, by closing day in or out")
	assert.Contains(t, out, "the first day of the period")
	assert.Contains(t, check(2, "two-ways", "open", "--but", "closing-dya=out"), "no option --closing-dya")

	assert.Contains(t, check(0, "took", "--by", "site", "--second-opinion"), "PostgreSQL finds the same 84 figures")
	assert.Contains(t, check(0, "open", "--period", "2026-08", "--sql"), "-- At the start is at the end of the day before.")
	assert.Contains(t, check(0, "took", "--as-of-load", "1"), "As the records were after load 1 of ")
	assert.Contains(t, check(2, "took", "--as-of-load", "99"), "no load that stands has this number")
	check(0, "took", "--as-of-load", "1", "--save-view", "As it was")
	assert.Contains(t, check(0, "view", "run", "As it was"), "As the records were after load 1 of ")
	assert.Contains(t, check(2, "took", "--in", "working-hours", "--sql"), "there is no SQL for this yet: the clocks of calendars")
}

// From an answer to its check: a figure that another reading explains, pasted orders, another way with both strips, and a saved check.
func TestConsoleChecksAnAnswer(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	took := s.ask(t, "/took?period=2026-Q3&by=site&basis=shipped")
	groups := took.Parts[0].Table("groups")
	byShip := groups.Totals[0].Cells[groups.At("n")].Text
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/how-long?period=2026-Q3&by=site"), press("check-this"))
	b.text(test("asks"), "for orders ordered in 2026-Q3, by site?")
	b.do(enter("figure", byShip), press("run-check"))
	b.text(test("result"), "Your "+byShip+" is what comes out placed by ship date")
	b.do(enter("check-name", "By ship date"), press("save-check"), chromedp.Click(`[role=status] a[href="/check"]`, chromedp.NodeVisible))
	b.text(test("checks"), "By ship date took?period=2026-Q3&by=site "+byShip)
	b.do(press("run-checks"))
	b.text(test("checks-result"), "1 check: 0 as expected, 1 not")
	b.do(chromedp.Click(test("checks") + " a"))
	b.text(test("asks"), "for orders ordered in 2026-Q3, by site?")

	b.do(press("tab-orders"), enter("pasted", "order\nSD-100001\nSD-1O0002\n"), press("run-check"))
	b.text(test("result"), "did you mean SD-100002?")

	b.do(press("tab-ways"))
	b.comes("the readings", func() bool { return evaluate[bool](b, "!!document.querySelector('[data-test=second-way]')") })
	b.do(chromedp.Navigate(s.address + "/check?question=took%3Fperiod%3D2026-Q3&kind=ways&second=took%3Fperiod%3D2026-Q3%26count%3Dboth-ends"))
	b.text(test("result"), "differ between the two ways in n, by count elapsed or both-ends")
	b.do(chromedp.Click(test("orders")+" button", chromedp.NodeVisible), chromedp.WaitVisible(test("way")+" ~ "+test("way")))
	assert.Equal(t, 2, evaluate[int](b, `document.querySelectorAll('.strip').length`))

	// The records as they were are asked for on every page, until that is ended.
	b.do(chromedp.Navigate(s.address+"/import"), chromedp.Click(test("as-of-1"), chromedp.NodeVisible))
	b.text(test("as-of"), "as they were after load 1")
	b.do(chromedp.Click(`.pages a[href^="/how-long"]`))
	b.text(test("says-as-of"), "As the records were after load 1 of")
	b.do(press("as-it-is"), chromedp.WaitNotPresent(test("as-of")))
	b.text(test("reconciliation"), "counted")
	assert.NotContains(t, evaluate[string](b, "location.search"), "as_of_load")
	assert.Empty(t, b.wentWrong())
}
