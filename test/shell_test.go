package test

import (
	"fmt"
	"io/fs"
	"net/http"
	"strings"
	"testing"
	"time"

	"prairiedusk/console"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// From the keyboard alone: the palette goes to an order and to a page, a sheet takes the focus and gives it back, and the page's name
// is said.
func TestConsoleGoesAnywhereFromTheKeyboard(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/labels"), chromedp.WaitVisible(test("label-form")))
	assert.Equal(t, "Labels – Prairie Dusk", evaluate[string](b, "document.title"))
	palette := func(typed, first string) {
		b.do(chromedp.WaitVisible(test("palette-search")), chromedp.Sleep(200*time.Millisecond), chromedp.KeyEvent(typed))
		b.text(".v-command-palette", first)
	}
	b.do(run("document.activeElement.blur()"), chromedp.KeyEvent("/"))
	palette("102", "SD-100102")
	b.do(chromedp.KeyEvent(kb.Enter), chromedp.WaitVisible(test("order-sheet")))
	b.text(".sheet", "Order SD-100102")
	b.focused("textContent", "Order SD-100102")
	b.do(chromedp.KeyEvent(kb.Escape), chromedp.WaitNotPresent(test("order-sheet")))
	b.do(chromedp.Click(test("go")))
	palette("cross", "Cross-tab")
	b.do(chromedp.KeyEvent(kb.Enter))
	b.text(test("sentence"), "How many orders were ordered in 2025-10-01/2026-10-31, by site and month of order date?")
	b.focused("id", "main")

	// A row of a list opens its sheet, and has the focus again when it closes; the sheet is one step of the history.
	b.do(chromedp.Navigate(s.address+"/orders"), chromedp.WaitVisible(test("orders")+" tbody a"),
		chromedp.Focus(test("orders")+" tbody a"), chromedp.KeyEvent(kb.Enter), chromedp.WaitVisible(test("length")),
		chromedp.Sleep(400*time.Millisecond), chromedp.KeyEvent(kb.Escape), chromedp.WaitNotPresent(test("order-sheet")))
	b.focused("textContent", "SD-100001")
	assert.Empty(t, b.wentWrong())
}

// The period and the condition stay from page to page, as chips, until they are cleared.
func TestConsoleKeepsPeriodAndCondition(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/how-long?period=2026-07&where=site%20%3D%3D%20%22Galway%22"))
	b.text(test("chip-where"), `Only site == "Galway"`)
	b.do(chromedp.Click(`.pages a[href^="/open"]`))
	b.text(test("sentence"), `What was open in 2026-07, the closing day counted, ordered and not yet shipped, in total, where site == "Galway"?`)
	b.do(chromedp.Click(`.pages a[href^="/labels"]`), chromedp.WaitVisible(test("label-form")), chromedp.Click(`.pages a[href^="/immediate"]`))
	b.text(test("sentence"), `in 2026-07`)
	b.do(chromedp.Click(test("chip-where")+" button"), chromedp.WaitNotPresent(test("chip-where")))
	b.comes("every site", func() bool { return !strings.Contains(b.text(test("sentence"), "in 2026-07"), "Galway") })
	b.do(chromedp.Click(test("chip-period")+" button"), chromedp.WaitNotPresent(test("chip-period")))
	b.text(test("sentence"), "2025-01-01 to 2026-10-31")
	b.do(chromedp.WaitReady(`.pages a[href^="/how-long?period=2026-Q3"]`), chromedp.Click(`.pages a[href^="/how-long"]`))
	b.text(test("sentence"), "in 2026-Q3 and 2026-Q2, each by itself")
	b.text("table"+test("periods"), "change")
	assert.Empty(t, b.wentWrong())
}

// A question that is refused keeps its sentence with the word at fault, says why, and can be put right there.
func TestConsoleKeepsTheSentenceOfARefusedQuestion(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/how-long?period=2026-Q3"))
	b.text(test("reconciliation"), "counted")
	b.do(chromedp.Click(test("pick-period"), chromedp.NodeVisible), chromedp.WaitVisible(test("type-period")),
		chromedp.Sleep(200*time.Millisecond), chromedp.KeyEvent("2026-13"+kb.Enter))
	b.text("[role=alert]", "there is no month 13")
	b.text(test("sentence"), "for orders ordered in 2026-13")
	assert.Equal(t, "2026-13", evaluate[string](b, `document.querySelector('h1 [aria-invalid=true]').innerText`))
	b.do(chromedp.Click(test("pick-period"), chromedp.NodeVisible), chromedp.WaitVisible(test("choice-2026-Q2")),
		chromedp.Click(test("choice-2026-Q2")))
	b.text(test("reconciliation"), "counted")
	b.text(test("sentence"), "for orders ordered in 2026-Q2")
	assert.Zero(t, evaluate[int](b, `document.querySelectorAll('[aria-invalid=true]').length`))
}

// A service that is gone is said to be, asked again, and its answers come by themselves once it is back.
func TestConsoleComesBackWithItsService(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/how-long?period=2026-Q3"))
	b.text(test("reconciliation"), "counted")
	b.do(run(`const real = window.fetch; window.fetch = () => Promise.reject(new TypeError('gone')); window.back = () => { window.fetch = real }`),
		run("document.dispatchEvent(new Event('visibilitychange'))"))
	b.text(test("gone"), "The service does not answer. Trying again")
	b.text(test("reconciliation"), "counted")
	b.do(chromedp.Click(test("chip-period") + " button"))
	b.text("[role=alert]", "Is it still up?")
	b.do(run("window.back()"), chromedp.WaitNotPresent(test("gone")))
	b.text(test("sentence"), "for all orders, by order date")
	b.text(test("reconciliation"), "3,000 orders selected")
}

// Pages and answers go over the line compressed, files and progress as they are.
func TestAnswersAreCompressed(t *testing.T) {
	s, _ := demoService(t)
	scripts, err := fs.Glob(console.Site(), "assets/index-*.js")
	require.NoError(t, err)
	require.NotEmpty(t, scripts)
	for _, tt := range []struct{ path, accepts, want string }{{"/api/v1/took?by=site", "gzip", "gzip"}, {"/api/v1/took?by=site&format=csv", "gzip", ""},
		{"/api/v1/orders-file?format=csv", "gzip", ""}, {"/api/v1/orders", "gzip", "gzip"}, {"/" + scripts[0], "gzip, br", "br"},
		{"/" + scripts[0], "gzip, br;q=0.0", "gzip"}, {"/" + scripts[0], "identity", ""}} {
		request, err := http.NewRequestWithContext(t.Context(), http.MethodGet, s.address+tt.path, nil)
		require.NoError(t, err)
		request.Header.Set("Authorization", "Bearer "+s.token)
		request.Header.Set("Accept-Encoding", tt.accepts)
		response, err := http.DefaultTransport.RoundTrip(request)
		require.NoError(t, err)
		response.Body.Close()
		assert.Equal(t, tt.want, response.Header.Get("Content-Encoding"), "%s for %s", tt.path, tt.accepts)
	}
}

// A list prints all its rows, and an answer is a report on paper, without what can only be pressed.
func TestConsolePrints(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/orders?period=2026-Q3"), chromedp.WaitVisible(test("orders")))
	b.do(run(`window.print = () => { window.printed = document.querySelectorAll('[data-test=orders] tbody td a').length }`), press("print"))
	all, err := s.list(t, question{Period: "2026-Q3"}, selection{Limit: 1})
	require.NoError(t, err)
	require.Greater(t, all.All, 200, "more than are looked at")
	b.comes("the whole list, printed", func() bool { return evaluate[int](b, "window.printed ?? 0") == all.All })

	b.do(chromedp.Navigate(s.address+"/how-long?period=2026-Q3&by=site"), chromedp.WaitVisible(test("chart")+" svg"), prints())
	shown := func(selector string) bool {
		return evaluate[bool](b, fmt.Sprintf(`!!document.querySelector(%q)?.checkVisibility()`, selector))
	}
	for _, kept := range []string{test("sentence"), test("chart"), test("groups"), test("reconciliation"), test("records")} {
		assert.True(t, shown(kept), kept)
	}
	assert.Equal(t, "true 0", evaluate[string](b, `{ const notes = [...document.querySelectorAll('[data-test^="says-"]')]; (notes.length > 3) + ' ' + notes.filter(n => !n.checkVisibility()).length }`),
		"all notes stand on paper")
	for _, left := range []string{test("export"), test("menu"), "nav.v-navigation-drawer", ".also"} {
		assert.False(t, shown(left), left)
	}
}
