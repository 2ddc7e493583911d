package test

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"image"
	"image/png"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/app"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/demo"
	"prairiedusk/internal/pgcluster/clustertest"
)

// A tab is one of headless Chromium, of 1280 × 800.
type tab struct {
	t   testing.TB
	ctx context.Context
	// faults is what went wrong on its pages.
	mutex  sync.Mutex
	faults []string
}

func newTab(t testing.TB) *tab {
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath("/usr/bin/chromium"), chromedp.NoSandbox,
		chromedp.WindowSize(1280, 800), chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true))
	allocator, cancel := chromedp.NewExecAllocator(t.Context(), options...)
	t.Cleanup(cancel)
	b := &tab{t: t}
	b.ctx, cancel = chromedp.NewContext(allocator, chromedp.WithListener(func(event any) {
		b.mutex.Lock()
		defer b.mutex.Unlock()
		switch e := event.(type) {
		case *log.EventEntryAdded:
			if e.Entry.Level == "error" && !strings.Contains(e.Entry.Text, "401") {
				b.faults = append(b.faults, e.Entry.Text)
			}
		case *runtime.EventExceptionThrown:
			b.faults = append(b.faults, e.ExceptionDetails.Text)
		}
	}))
	t.Cleanup(cancel)
	b.ctx, cancel = context.WithTimeout(b.ctx, 8*time.Minute) // on a slow machine too
	t.Cleanup(cancel)
	return b
}

func (b *tab) do(steps ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	require.NoError(b.t, chromedp.Do(b.ctx, steps...))
}

func (b *tab) wentWrong() []string {
	b.mutex.Lock()
	defer b.mutex.Unlock()
	return b.faults
}

// evaluate gives the value of a script.
func evaluate[T any](b *tab, script string) T {
	b.t.Helper()
	value, err := chromedp.Run(b.ctx, chromedp.Evaluate[T](script, chromedp.EvalAwaitPromise))
	require.NoError(b.t, err)
	return value
}

// text waits until an element holds a text and gives all of it, with its white space folded.
func (b *tab) text(selector, holds string) (all string) {
	b.t.Helper()
	script := fmt.Sprintf("document.querySelector(%q)?.innerText ?? ''", selector)
	for until := time.Now().Add(20 * time.Second); time.Now().Before(until); time.Sleep(50 * time.Millisecond) {
		var err error
		all, err = chromedp.Run(b.ctx, chromedp.Evaluate[string](script))
		all = strings.Join(strings.Fields(all), " ")
		if err == nil && strings.Contains(all, holds) {
			return all
		}
	}
	require.Failf(b.t, "not on the page", "%s never held %q; it holds %q", selector, holds, all)
	return all
}

// comes waits until a condition on the page holds. A machine with much to do may take seconds for one look.
func (b *tab) comes(what string, holds func() bool) {
	b.t.Helper()
	for until := time.Now().Add(20 * time.Second); !holds(); time.Sleep(50 * time.Millisecond) {
		if time.Now().After(until) {
			require.Fail(b.t, "did not come: "+what)
		}
	}
}

// settle waits until what moves on the page has come to rest.
func (b *tab) settle() {
	b.t.Helper()
	evaluate[any](b, `new Promise(r => requestAnimationFrame(() => requestAnimationFrame(r))).then(() => Promise.all(document.getAnimations().filter(a => a.effect.getTiming().iterations !== Infinity).map(a => a.finished.catch(() => 0))))`)
}

// focused waits until the focus is where an expression says it is.
func (b *tab) focused(script, want string) {
	b.t.Helper()
	b.comes("the focus on "+want, func() bool { return evaluate[string](b, "document.activeElement."+script) == want })
}

// run is a step that runs a script.
func run(script string) chromedp.Action[chromedp.Void] {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		_, err := chromedp.Run(ctx, chromedp.Evaluate[any](script))
		return err
	})
}

// field is what can be typed into, of a field that has a name.
func field(name string) string {
	of := test(name)
	return fmt.Sprintf("%[1]s:is(input, textarea), %[1]s :is(input:not([type=hidden]), textarea)", of)
}

// enter replaces what stands in a field.
func enter(name, text string) chromedp.Action[chromedp.Void] {
	return waits(name, fmt.Sprintf(`(e => {
		if (!e) return false
		e.focus()
		Object.getOwnPropertyDescriptor(Object.getPrototypeOf(e), 'value').set.call(e, %q)
		for (const kind of ['input', 'change']) e.dispatchEvent(new Event(kind, { bubbles: true }))
		return true
	})(document.querySelector(%q))`, text, field(name)))
}

// choose picks a choice of a list by its words, which are typed where the list can be narrowed.
func choose(name, words string) chromedp.Action[chromedp.Void] {
	return waits(name, fmt.Sprintf(`(f => {
		const typed = f?.closest('.v-autocomplete')?.querySelector('[role=combobox]:is(input)')
		if (typed && typed.value !== %[1]q) {
			typed.focus()
			Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(typed, %[1]q)
			typed.dispatchEvent(new Event('input', { bubbles: true }))
		}
		const found = [...document.querySelectorAll('.v-overlay--active [role=option]')].find(o => o.innerText.trim() === %[1]q)
		if (found) { found.click(); return true }
		if (f && !f.closest('.v-input').querySelector('[aria-expanded=true]'))
			f.dispatchEvent(new MouseEvent('mousedown', { bubbles: true }))
		return false
	})(document.querySelector(%[2]q))`, words, test(name)+" .v-field"))
}

// waits runs a script until it says that it has done its work.
func waits(name, script string) chromedp.Action[chromedp.Void] {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		for begin := time.Now(); ; time.Sleep(50 * time.Millisecond) {
			done, err := chromedp.Run(ctx, chromedp.Evaluate[bool](script))
			switch {
			case err != nil || done:
				return err
			case time.Since(begin) > 20*time.Second:
				return fmt.Errorf("%s is not on the page, or not as it should be", name)
			}
		}
	})
}

// press clicks something that may still be on its way to its place, or gone for as long as an answer is on its way.
func press(name string) chromedp.Action[chromedp.Void] {
	return waits(name, fmt.Sprintf("(found => { (found?.querySelector('[type=checkbox], [type=radio]') ?? found)?.click(); return !!found })(document.querySelector(%q))", test(name)))
}

// prefers emulates the system's choice of light or dark, and that nothing is to move.
func prefers(scheme string) chromedp.Action[chromedp.Void] {
	return chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
			Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: scheme}, {Name: "prefers-reduced-motion", Value: "reduce"}}})
		return err
	})
}

// prints shows a page as it is on paper.
func prints() chromedp.Action[chromedp.Void] {
	return chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Media: "print"})
		return err
	})
}

// downloadsTo puts what pages save into a folder.
func downloadsTo(folder string) chromedp.Action[chromedp.Void] {
	return chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, browser.SetDownloadBehavior, browser.SetDownloadBehaviorParams{
			Behavior: browser.SetDownloadBehaviorBehaviorAllow, DownloadPath: folder})
		return err
	})
}

// clearCache forgets what the browser has fetched.
func clearCache(b *tab) {
	b.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, network.ClearBrowserCache, cdp.Empty{})
		return err
	}))
}

// letIn opens the address that lets a browser in, and waits until it has.
func letIn(entry string) chromedp.Action[chromedp.Void] {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		return chromedp.Do(ctx, chromedp.Navigate(entry), chromedp.WaitReady("#main"))
	})
}

// downloaded waits for a file that the tab saves, and gives its text.
func (b *tab) downloaded(path string) (text string) {
	require.Eventually(b.t, func() bool {
		all, err := os.ReadFile(path)
		text = string(all)
		return err == nil && text != ""
	}, 20*time.Second, 50*time.Millisecond, path)
	return text
}

func test(name string) string { return fmt.Sprintf("[data-test=%q]", name) }

// demoService has the demo book.
func demoService(t *testing.T) (service, demo.Manifest) {
	runBeside(t)
	demoLoaded.Do(func() { loadDemo(t) })
	require.NotEmpty(t, demoDatabase, "the demo was not loaded")
	return startOn(t, clustertest.CopyOf(t, demoDatabase)), demoManifest
}

// The demo is loaded once; each test has a copy of its records.
var (
	demoLoaded   sync.Once
	demoDatabase string
	demoManifest demo.Manifest
)

func loadDemo(t *testing.T) {
	folder, data, database := t.TempDir(), t.TempDir(), clustertest.Database(t)
	m, err := demo.Write(folder, demo.Options{Orders: 3000, Seed: 1})
	require.NoError(t, err)
	var paths []string
	for _, name := range m.Files {
		paths = append(paths, filepath.Join(folder, name))
	}
	running, err := app.Start(t.Context(), app.Settings{Folder: data, Listen: "127.0.0.1:0", DatabaseURL: database,
		UploadLimit: 1 << 30, Log: slog.New(slog.DiscardHandler)})
	require.NoError(t, err)
	token, err := app.Token(data)
	require.NoError(t, err)
	c := client.New(running.Address(), token)
	_, err = c.Load(t.Context(), paths)
	require.NoError(t, err)
	_, err = c.SaveSettings(t.Context(), api.Settings{FirstDay: m.FirstDay.String(), DataDate: m.DataDate.String()})
	require.NoError(t, err)
	require.NoError(t, running.Stop())
	demoDatabase, demoManifest = database, m
}

// From the printed address through a question, a number and an order, all of which an address restores.
func TestConsoleFromAQuestionToItsProof(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	b.do(chromedp.Navigate(s.address + "/how-long"))
	b.text("[role=alert]", "This page is locked")

	b.do(letIn(s.entry(t)))
	b.text(test("sentence"), "How did October 2026 go, beside September 2026?")
	b.do(chromedp.Navigate(s.address + "/how-long"))
	b.text(test("sentence"), "How long from order date to ship date, in working days")
	b.text(test("data-date"), "2026-10-31")
	b.text(test("first-day"), "2025-01-01")

	pick := func(slot, choice string) {
		b.do(chromedp.Click(test("pick-"+slot), chromedp.NodeVisible), chromedp.WaitVisible(test("choice-"+choice)),
			chromedp.Click(test("choice-"+choice)))
	}
	pick("by", "site")
	b.text(test("sentence"), "by site?")
	pick("period", "2026-Q3")
	b.text(test("sentence"), "for orders ordered in 2026-Q3, by site?")
	pick("in", "days")
	sentence := b.text(test("sentence"), "in days, start day not counted")

	want := s.took(t, question{In: "days", Period: "2026-Q3", By: []string{"site"}})
	assert.Equal(t, want.Asked(), sentence)
	assert.Equal(t, want.Parts[0].Lines[0].Text, b.text(test("reconciliation"), "counted"))
	groups := gridOf(t, want.Parts[0], "groups")
	for _, g := range groups.rows() {
		b.text("table"+test("groups"), texts(answer.Row{Cells: g.Cells[1:7]}))
	}
	b.do(chromedp.WaitVisible(test("chart") + " svg"))

	// What is typed becomes the period; a second grouping joins the first; any bar and any note opens its orders.
	b.do(chromedp.Click(test("pick-period"), chromedp.NodeVisible), chromedp.WaitVisible(test("type-period")),
		chromedp.Sleep(200*time.Millisecond),
		chromedp.KeyEvent("2026-07-06/2026-08-02"+kb.Enter))
	b.text(test("sentence"), "in 2026-07-06/2026-08-02, by site?")
	pick("and-by", "month")
	b.text(test("sentence"), "by site and month of order date?")
	b.text("table"+test("groups")+" thead", "site month selected")
	pick("and-by", "nothing else")
	b.text(test("sentence"), "in 2026-07-06/2026-08-02, by site?")
	july := question{In: "days", Period: "2026-07-06/2026-08-02", By: []string{"site"}}
	some := s.took(t, july).Parts[0]
	b.do(chromedp.Click(test("picture-lengths"), chromedp.NodeVisible))
	b.text(test("chart"), "p90")
	b.do(chromedp.Focus(test("walk")), chromedp.KeyEvent(kb.ArrowRight), chromedp.KeyEvent(kb.ArrowRight))
	bars := gridOf(t, some, "distribution")
	second := bars.Rows[1] // every length is there so early in the distribution
	b.text(test("point"), fmt.Sprintf("%g days: %d orders", bars.number(second, "length"), bars.count(second, "orders")))
	b.do(chromedp.KeyEvent(kb.Enter))
	b.text(test("selected"), fmt.Sprintf("%d orders", bars.count(second, "orders")))
	b.do(run("history.back()"), chromedp.Click(test("placement")+" a:nth-of-type(2)", chromedp.NodeVisible))
	b.text(test("selected"), fmt.Sprintf("rders with order date outside 2026-07-06/2026-08-02: %s",
		numfmt.Counted(some.Lines[1].Terms[2].Orders, "order")))
	b.do(chromedp.Navigate(s.address + "/how-long?period=2026-Q3&by=site"))
	unknown := note(s.took(t, question{Period: "2026-Q3"}).Parts[0], "holidays-unknown")
	b.do(chromedp.Click(test("note-holidays-unknown"), chromedp.NodeVisible))
	b.text(test("selected"), fmt.Sprintf("olidays unknown on some day: %d orders", unknown))
	b.do(chromedp.Navigate(s.address + "/how-long?period=2026-Q3&by=site&in=days"))
	b.text(test("reconciliation"), "counted")

	// The number of counted orders opens as many orders; one of them opens its days.
	b.do(chromedp.Click(test("reconciliation") + " a:nth-of-type(1)"))
	b.text(test("selected"), fmt.Sprintf("ounted: %d orders", groups.count(groups.total(), "n")))
	longest := test("orders") + " th.number"
	b.do(chromedp.Click(longest+" button"), chromedp.WaitVisible(longest+`[aria-sort="ascending"]`), chromedp.Click(longest+" button"),
		chromedp.WaitVisible(longest+`[aria-sort="descending"]`))
	b.text(test("orders")+" tbody td.number", fmt.Sprint(groups.number(groups.total(), "max")))
	b.do(chromedp.Click(test("orders")+" tbody a"), chromedp.WaitVisible(test("length")))
	number, address := evaluate[string](b, `document.querySelector('[data-test="orders"] tbody a').textContent`),
		evaluate[string](b, "location.href")
	b.text(test("sum-line"), "days")
	counted := evaluate[int](b, `document.querySelectorAll('[data-part="counted"], [data-part="extra working day"]').length`)
	order, err := s.Order(t.Context(), number, question{In: "days"}.Words())
	require.NoError(t, err)
	assert.Equal(t, int(*order.Order.Length), counted, "the strip adds up to the length")
	b.text(test("sum-line"), order.SumLine)

	// The address alone brings all of it back.
	b.do(chromedp.Navigate("about:blank"), chromedp.Navigate(address))
	b.text(".sheet", "Order "+number)
	b.text(test("selected"), fmt.Sprintf("%d orders", groups.count(groups.total(), "n")))
	assert.Empty(t, b.wentWrong())
}

// Each main task, from the keyboard alone: the tabulator reaches what it needs, Enter and the arrows do it.
func TestConsoleByKeyboard(t *testing.T) {
	s, _ := demoService(t)
	b, folder := newTab(t), t.TempDir()
	b.do(letIn(s.entry(t)), downloadsTo(folder), chromedp.Navigate(s.address+"/how-long?by=site"))
	b.text(test("groups"), "Galway")
	within := func(where string) bool {
		return evaluate[bool](b, fmt.Sprintf(`!!document.activeElement?.closest(%q)`, where))
	}
	reach := func(where string) {
		t.Helper()
		for range 150 {
			if within(where) {
				return
			}
			b.do(chromedp.KeyEvent(kb.Tab))
		}
		t.Fatalf("the tabulator does not reach %s; it is at %s", where, evaluate[string](b, `document.activeElement.outerHTML.slice(0, 300)`))
	}
	press := func(where string) {
		t.Helper()
		reach(where)
		b.do(chromedp.KeyEvent(kb.Enter), chromedp.Sleep(200*time.Millisecond))
	}

	// A word of the question, the orders behind a number, one of them, and back.
	press(test("pick-count"))
	for range 5 {
		if within(test("choice-both-ends")) {
			break
		}
		b.do(chromedp.KeyEvent(kb.ArrowDown), chromedp.Sleep(50*time.Millisecond))
	}
	b.do(chromedp.KeyEvent(kb.Enter))
	b.text(test("sentence"), "both ends counted")
	press(test("groups") + " tbody td")
	b.text(test("orders"), "SD-10")
	press(test("orders") + " tbody a")
	b.text(".sheet", "Order SD-10")
	b.do(chromedp.KeyEvent(kb.Escape), chromedp.WaitNotPresent(test("order-sheet")))

	// A condition, a saved view, an export.
	b.do(chromedp.Navigate(s.address + "/how-long?by=site"))
	b.text(test("groups"), "Galway")
	press(test("pick-where"))
	reach(test("condition-text"))
	b.do(chromedp.KeyEvent(`value > 900`))
	b.text(test("picks"), "value")
	press(test("ask-where"))
	b.text(test("sentence"), "value > 900")
	press(test("save-view"))
	reach(test("view-name"))
	b.do(chromedp.KeyEvent("Large ones" + kb.Enter))
	b.text(test("view-saved"), "Saved as Large ones")
	b.do(chromedp.KeyEvent(kb.Escape), chromedp.WaitNotPresent(test("view-saved")))
	b.focused("textContent", "Save view")
	press(test("export"))
	press(test("export-csv"))
	require.Eventually(t, func() bool {
		found, _ := filepath.Glob(filepath.Join(folder, "*.csv"))
		return len(found) == 1
	}, 20*time.Second, 50*time.Millisecond)

	// An answer is checked.
	b.do(chromedp.Navigate(s.address + "/how-long?period=2026-Q3"))
	b.text(test("reconciliation"), "counted")
	press(test("check-this"))
	b.text(test("asks"), "2026-Q3")
	reach(test("figure"))
	b.do(chromedp.KeyEvent("1" + kb.Enter))
	b.text(test("result"), "expected")

	// A label, a holiday, and files.
	b.do(chromedp.Navigate(s.address+"/labels"), chromedp.WaitVisible(test("label-form")))
	for _, field := range [][2]string{{"label-name", "payment"}, {"rule-text-0", "paid"}, {"rule-where-0", "paid != null"}, {"rule-rest", "not paid"}} {
		reach(test(field[0]))
		b.do(chromedp.KeyEvent(field[1]))
	}
	b.text(test("tried"), "not paid")
	press(test("save-label"))
	b.text(test("label-payment"), "paid != null")
	b.do(chromedp.Navigate(s.address + "/calendars?name=Galway"))
	b.text(test("facts"), "working days")
	reach("[data-day]")
	b.do(chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.Enter))
	reach(test("kind-week"))
	b.do(chromedp.KeyEvent(kb.ArrowDown)) // the arrows choose among the kinds of a day
	reach(test("day-name"))
	b.do(chromedp.KeyEvent("Stocktaking"))
	press(test("save"))
	require.Eventually(t, func() bool {
		c, err := s.Calendar(t.Context(), "Galway", 2026)
		return err == nil && slices.ContainsFunc(c.Definition.Holidays, func(h api.DatedName) bool { return h.Name == "Stocktaking" })
	}, 10*time.Second, 50*time.Millisecond)
	b.do(chromedp.Navigate(s.address+"/import"), chromedp.SetUploadFiles("input[type=file]",
		[]string{write(t, "orders.csv", "number,ordered\nN-1,2026-07-01\n")}))
	b.text(test("looks"), "1 new")
	press(test("import"))
	b.text(test("loaded"), "is in")

	// Rows of a cross-tab, places, tabs of statuses.
	b.do(chromedp.Navigate(s.address + "/crosstab"))
	b.text(test("cells"), "Galway")
	press(test("pick-rows"))
	b.do(chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.Enter))
	b.comes("other rows", func() bool { return !strings.Contains(b.text(test("sentence"), "by"), "by site") })
	b.do(chromedp.Navigate(s.address + "/places"))
	b.text("table"+test("places"), "Salalah")
	reach(test("picture-circles"))
	b.do(chromedp.KeyEvent(kb.ArrowRight), chromedp.KeyEvent(kb.Enter))
	reach(test("walk"))
	b.comes("a bar", func() bool { // once it is drawn
		b.do(chromedp.KeyEvent(kb.ArrowRight))
		return strings.Contains(evaluate[string](b, `document.querySelector('[data-test=point]').innerText`), "working days")
	})
	b.do(chromedp.KeyEvent(kb.Enter))
	b.text(test("orders"), "SD-")
	b.do(chromedp.Navigate(s.address + "/statuses"))
	b.text(test("sentence"), "Where did orders stand")
	reach(test("tab-latest"))
	b.do(chromedp.KeyEvent(kb.ArrowRight), chromedp.KeyEvent(kb.Enter))
	b.text(test("sentence"), "How long were orders in each status")
	assert.Empty(t, b.wentWrong())
}

// At the size to design for, on a wide screen and on telephones: axe finds nothing against WCAG 2.2 AA, nor against the colours of the dark
// look, and no page runs over its side, not on the narrowest screen either.
func TestConsoleIsFitForAll(t *testing.T) {
	axe, err := os.ReadFile("../console/node_modules/axe-core/axe.min.js")
	require.NoError(t, err)
	s, _ := demoService(t)
	_, err = s.SaveLabel(t.Context(), "payment", api.LabelDefinition{Rules: []api.LabelRule{{Where: "paid != null", Text: "paid"},
		{Where: "part_paid", Text: "part paid"}}}, false)
	require.NoError(t, err)
	_, err = s.SaveView(t.Context(), "By site", api.ViewContent{Address: "/how-long?by=site",
		Sentence: "How long from order date to ship date, by site?"}, false)
	require.NoError(t, err)
	_, err = s.SaveCheck(t.Context(), "Third quarter", api.Check{Question: "took?period=2026-Q3", Expected: api.Expected{Figure: "1"}})
	require.NoError(t, err)
	pages := []struct{ path, ready, holds string }{
		{"/how-long?by=site&period=2026-Q3", test("chart"), "working days"},
		{"/orders?by=site&group=Galway&state=counted&sort=-length", test("orders"), "Galway"},
		{"/places?to=delivered&show=over&over=10&target=20", "table" + test("places"), "Salalah"},
		{"/places?by=country&show=late&picture=bars&rank=lower-end", "table" + test("places"), "Oman"},
		{"/orders?where=days_so_far(ordered,shipped)%3E40&highlight=amber:%20shipped==null&highlight=plum%20on%20site:%20site==%22Galway%22&highlight=faint:%20cancelled!=null&columns=number,site,value,shipped==null,lines.product", test("legend"), "cancelled"},
		{"/how-long?by=site&at_least=10&with_running=true", "table" + test("limit"), "at least 10 working days"},
		{"/how-long?by=month,site&period=2026&promise=promised&show=median", test("cross"), "2026-03"},
		{"/open?period=2026-07&by=site&closing_day=out", "table" + test("rows"), "Galway"},
		{"/open?timeline=true&period=2026-10", test("says-some-time"), "open at some time"},
		{"/open?ages=true&each=month", "table" + test("ages"), "over 20"},
		{"/statuses?by=site", test("groups"), "Galway"},
		{"/statuses?show=times&each=quarter", test("times"), "2026-Q1"},
		{"/statuses?show=transitions", test("paths"), "received → checked"},
		{"/statuses?show=periods&sort=length", test("periods"), "SD-10"},
		{"/statuses?show=list", test("status-list"), "On-Hold"},
		{"/immediate?orders=first&by=month&period=2025", test("groups"), "2025-02"},
		{"/immediate?show=customers", test("customers"), "SD-10"},
		{"/overview", test("overview-open"), "not yet shipped"},
		{"/compare?show=value&basis=ordered,shipped,delivered&period=2026", test("dates"), "2026-03"},
		{"/compare?basis=shipped&each=day&period=2026-03&empty=alone", test("says-empty-steps"), "weekend"},
		{"/crosstab?rows=site&columns=weekday&show=share&meets=shipped==ordered", test("cells"), "%"},
		{"/crosstab?rows=product&columns=month-of-year&show=units&basis=shipped", test("covered"), "2025, 2026"},
		{"/forecast?period=2026", test("months"), "2026-09"},
		{"/labels", test("label-payment"), "part paid"},
		{"/views", test("views"), "By site"},
		{"/check", test("checks"), "Third quarter"},
		{"/check?question=took%3Fby%3Dsite&kind=sql", test("result"), "PostgreSQL finds the same"},
		{"/audit", test("audit"), "label payment"},
		{"/changes", test("sentence"), "What changed in the orders?"},
		{"/check?question=took%3Fby%3Dsite&kind=whatif&what_if=cut-off%20Galway%3D16:00", test("result"), "differ"},
		{"/check?question=took%3Fby%3Dsite", test("asks"), "by site?"},
		{"/check?question=took%3Fby%3Dsite&kind=orders", test("asks"), "by site?"},
		{"/check?question=took%3Fby%3Dsite&kind=ways&second=took%3Fby%3Dsite%26count%3Dboth-ends", test("result"), "differ"},
		{"/import", test("loads"), "16 files"},
		{"/quality", test("issues"), "what to do"},
		{"/calendars?name=Galway&beside=Muscat", test("comparison"), "On which days of 2026"},
		{"/calendars?name=Ennis", test("effect"), "lengths change"},
		{"/due", test("due"), "open and overdue"},
		{"/orders?order=SD-100001&in=working-hours", test("order-sheet"), "working hours"},
		{"/orders?order=SD-100001", test("order-sheet"), "Dates"},
		{"/how-long?period=July", "[role=alert]", "does not say of which year"},
	}
	const rules = `['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'], rules: { 'target-size': { enabled: true } }`
	const ofColours = `{ type: 'rule', values: ['color-contrast', 'link-in-text-block'] }` // what the dark look can break, at one of the widths
	for half := range 2 {
		t.Run(fmt.Sprint(half+1), func(t *testing.T) {
			t.Parallel()
			b := newTab(t)
			b.do(prefers("light"), letIn(s.entry(t)))
			b.text(test("sentence"), "How did October 2026 go")
			for i, page := range pages {
				if i%2 != half {
					continue
				}
				b.do(chromedp.EmulateViewport(1280, 800), chromedp.Navigate(s.address+page.path))
				b.text(page.ready, page.holds)
				evaluate[any](b, string(axe)+"; null")
				within := `{ exclude: ['.v-app-bar', '.v-navigation-drawer'] }` // which are those of the first page
				if i == half {
					within = "document"
				}
				check := func(scheme, rules string, width int64) {
					b.do(chromedp.EmulateViewport(width, 800))
					b.settle()
					over := evaluate[int](b, "document.documentElement.scrollWidth - innerWidth")
					assert.LessOrEqual(t, over, 0, "%s runs over its side at %d px", page.path, width)
					if width == 320 || width == 1920 && i/2%3 != 0 { // beside 1280 a wide window shows little that is new
						return
					}
					found := evaluate[[]string](b, `axe.run(`+within+`, { resultTypes: ['violations'], preload: false, runOnly: `+rules+` }).then(r => r.violations.map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.html).join(' ')))`)
					assert.Empty(t, found, "%s, %s, at %d px", page.path, scheme, width)
				}
				for _, width := range []int64{1280, 1920, 320, 390} {
					check("light", rules, width)
				}
				b.do(prefers("dark"))
				b.comes("the dark look", func() bool {
					return evaluate[string](b, `getComputedStyle(document.querySelector('.v-application')).backgroundColor`) == "rgb(28, 22, 34)"
				})
				check("dark", ofColours, []int64{390, 1280, 1920}[i/2%3])
				b.do(prefers("light"))
			}
			for _, fault := range b.wentWrong() {
				assert.Contains(t, fault, "422", "only the question that cannot be asked is refused")
			}
		})
	}
}

// Text from files stays text, wherever it is shown.
func TestConsoleShowsMarkupAsText(t *testing.T) {
	s := startService(t)
	attack := `<img src=x onerror=document.title='taken'><script>document.title='taken'</script>`
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv",
		"number,site,customer,ordered,shipped\n\""+attack+"\",\""+attack+"\",\""+attack+"\",2026-07-01,2026-07-03\n")})
	require.NoError(t, err)
	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/how-long"))
	b.text(test("sentence"), "How long")
	for _, page := range []struct{ path, ready string }{{"/how-long?by=site", test("groups")}, {"/orders", test("orders")}} {
		b.do(chromedp.Navigate(s.address + page.path))
		b.text(page.ready, "<img src=x")
	}
	b.do(chromedp.Click(test("orders") + " tbody a"))
	b.text(test("order-sheet"), "<img src=x")
	assert.Equal(t, "Orders – Prairie Dusk", evaluate[string](b, "document.title"))

	// The policy stops script that gets into a page all the same.
	assert.Equal(t, "Orders – Prairie Dusk", evaluate[string](b,
		`{const s = document.createElement('script'); s.textContent = "document.title='taken'"; document.body.append(s)}; document.title`))
	b.comes("the browser's complaint", func() bool { return len(b.wentWrong()) == 1 })
	assert.Contains(t, b.wentWrong()[0], "Content Security Policy")
}

// What is exported says by itself what it shows.
func TestConsoleExports(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	folder := t.TempDir()
	b.do(letIn(s.entry(t)), downloadsTo(folder), chromedp.Navigate(s.address+"/how-long?period=2026-Q3,2026-Q2"))
	b.do(chromedp.WaitVisible(test("chart") + " svg"))
	want := s.took(t, question{Period: "2026-Q3,2026-Q2"})
	part := want.Parts[0]
	bars := gridOf(t, part, "distribution")
	taken := func(kind string) []byte {
		b.do(chromedp.Click(test("export-"+strings.Replace(kind, "csv", "picture-csv", 1)), chromedp.NodeVisible)) // of the first of the two pictures
		var content []byte
		require.Eventually(t, func() bool {
			found, _ := filepath.Glob(filepath.Join(folder, "how-long-from-order-date-to-ship-date-*."+kind))
			if len(found) == 1 {
				content, _ = os.ReadFile(found[0])
			}
			return len(content) > 0
		}, 20*time.Second, 50*time.Millisecond)
		return content
	}
	records, err := csv.NewReader(bytes.NewReader(taken("csv"))).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, want.Asked()+" (2026-Q3)", records[0][0])
	assert.Equal(t, []string{"from", "to", "width", "orders"}, records[1])
	require.Len(t, records, 2+len(bars.Rows)+2)
	for i, bar := range bars.Rows {
		assert.Equal(t, []string{fmt.Sprint(bars.number(bar, "length")), fmt.Sprint(bars.count(bar, "orders"))},
			[]string{records[2+i][0], records[2+i][3]})
	}
	assert.Equal(t, part.Lines[0].Text, records[len(records)-2][0])

	var text strings.Builder
	drawing := xml.NewDecoder(bytes.NewReader(taken("svg")))
	for token, err := drawing.Token(); err != io.EOF; token, err = drawing.Token() {
		require.NoError(t, err)
		if letters, ok := token.(xml.CharData); ok {
			text.Write(letters)
		}
	}
	drawn := strings.Join(strings.Fields(text.String()), "")
	for _, said := range []string{want.Asked(), part.Lines[0].Text, "median", "p90", "working days"} {
		assert.Contains(t, drawn, strings.ReplaceAll(said, " ", ""))
	}

	picture, err := png.Decode(bytes.NewReader(taken("png")))
	require.NoError(t, err)
	assert.Equal(t, image.Pt(2400, 1280), picture.Bounds().Size())
	inked := 0 // pixels of the strip in which the sentence stands
	for x := range 2400 {
		for y := 30; y < 80; y++ {
			if r, _, _, _ := picture.At(x, y).RGBA(); r < 0x8000 {
				inked++
			}
		}
	}
	assert.Greater(t, inked, 1000, "the sentence is drawn")
	assert.Empty(t, b.wentWrong())
}

// A page that is open while a load comes says so, and shows it when asked to.
func TestConsoleNoticesANewerLoad(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/how-long"))
	b.text(test("reconciliation"), "3,000 orders selected")
	_, err := s.Load(t.Context(), []string{write(t, "more.csv", "number,ordered,shipped\nN-1,2026-07-01,2026-07-03\n")})
	require.NoError(t, err)
	b.do(run("document.dispatchEvent(new Event('visibilitychange'))")) // as when one comes back to the tab
	b.text(test("newer"), "Newer records were imported")
	b.text(test("reconciliation"), "3,000 orders selected")
	b.do(chromedp.Click(test("newer") + " button"))
	b.text(test("reconciliation"), "3,001 orders selected")
}

// Files are dropped, looked at, brought in, mended and undone.
func TestConsoleBringsFilesIn(t *testing.T) {
	s := startService(t)
	b := newTab(t)
	orders := write(t, "orders.csv", "number,ordered,shipped,hive colour\nN-1,2026-07-01,2026-07-03,white\nN-2,2026-07-32,,\n")
	lines := write(t, "lines.csv", "order,line,product,units\nN-1,1,HIVE,2\n")
	good := write(t, "good.csv", "number,ordered\nN-1,2026-07-01\n")
	bad := write(t, "bad.csv", "name;age\n")
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/import"))
	b.text(test("sentence"), "Import files")
	b.do(chromedp.SetUploadFiles("input[type=file]", []string{orders, lines, bad}))
	looks := b.text(test("looks"), "cannot tell what the rows are")
	assert.Contains(t, looks, "orders.csv 1 kB, taken for orders")
	assert.Contains(t, looks, "lines.csv 1 kB, taken for order lines")
	assert.Contains(t, looks, "1 new, 0 changed, 0 the same, 0 rows left out, 1 set aside")
	assert.Contains(t, looks, "Set aside, such as row 3: ordered 2026-07-32")
	assert.Contains(t, looks, "the book begins on 2026-07-01, and its data go through 2026-07-03")
	assert.True(t, evaluate[bool](b, `document.querySelector('[data-test="import"]').disabled`), "all or none")
	book, err := s.Book(t.Context())
	require.NoError(t, err)
	assert.Zero(t, book.Orders, "looking changes nothing")

	b.do(chromedp.Click(`[aria-label="Leave bad.csv out"]`), chromedp.WaitVisible(test("import")+":enabled"), press("import"))
	assert.Contains(t, b.text(test("accept-dialog"), "would be set aside"), "orders.csv: 1 of 2 rows",
		"many rows are set aside only with a yes")
	b.do(chromedp.WaitReady(test("accept")), press("accept"))
	assert.Contains(t, b.text(test("loaded"), "Load 1 is in"), "orders.csv orders 1 0 0 1")
	assert.Contains(t, b.text(test("loaded")+" "+test("set-aside"), "2026-07-32"), "July 2026 has no day 32")
	folder := t.TempDir()
	b.do(downloadsTo(folder), chromedp.WaitVisible(test("fix")), press("fix"))
	waiting := b.downloaded(filepath.Join(folder, "set-aside-orders.csv"))
	assert.Contains(t, waiting, "N-2,2026-07-32,,,\"not a day")
	b.do(chromedp.SetUploadFiles("input[type=file]", []string{write(t, "mended.csv", strings.Replace(waiting, "07-32", "07-31", 1))}))
	b.text(test("looks"), "mended.csv")
	b.do(chromedp.WaitVisible(test("import")+":enabled"), press("import"))
	b.text(test("loaded"), "Load 2 is in")
	b.do(chromedp.WaitVisible(test("undo-2")), press("undo-2"))
	b.text(test("undo-dialog"), "Undo load 2?")
	b.do(chromedp.WaitReady(test("undo-sure")), press("undo-sure"), chromedp.WaitNotPresent(test("undo-dialog")))
	b.do(chromedp.WaitVisible(test("redo-2")), press("redo-2"), chromedp.WaitNotPresent(test("redo-2")))
	b.text(test("shown"), "as of load 2")
	b.do(chromedp.WaitVisible(test("undo-2")), press("undo-2"), chromedp.WaitReady(test("undo-sure")), press("undo-sure"))
	b.text(test("undo-1"), "Undo")
	book, err = s.Book(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 1, book.Orders)
	b.do(chromedp.Navigate(s.address + "/orders?order=N-1"))
	assert.Contains(t, b.text(test("order-sheet"), "HIVE"), "hive colour white", "columns of one's own stand among the fields")

	// Dates of one's own can be said to be plans.
	slots := write(t, "slots.csv", "number,ordered,Slot\nN-1,2026-07-01,2026-07-02\n")
	b.do(chromedp.Navigate(s.address+"/import"), chromedp.SetUploadFiles("input[type=file]", []string{slots}))
	b.text(test("look-slots.csv"), "Slot")
	b.do(run(`document.querySelector('[data-test="plan-Slot"] input').click()`), chromedp.WaitVisible(test("plan-Slot")+" input:checked"),
		chromedp.WaitVisible(test("import")+":enabled"), press("import"))
	b.text(test("loaded"), "is in")
	book, err = s.Book(t.Context())
	require.NoError(t, err)
	assert.Contains(t, fmt.Sprint(book.Milestones), "slot")

	// What a heading does not tell is asked, and the answer goes with the file.
	open := write(t, "export.csv", "Auftrag;Bestelldatum;Lieferdatum\nN-3;14.07.2026;19.07.2026\n")
	b.do(chromedp.Navigate(s.address+"/import"), chromedp.SetUploadFiles("input[type=file]", []string{open, good}))
	b.text(test("looks"), "It can be delivered, promised or requested")
	b.do(chromedp.Click(test("ask-map")+" .v-field"), chromedp.WaitVisible(".v-overlay .v-list-item"),
		run(`[...document.querySelectorAll(".v-overlay .v-list-item")].find((item) => item.textContent.includes("promised")).click()`))
	b.text(test("looks"), "export.csv 1 kB, taken for orders")
	b.text(test("apart"), "it is imported as a load of its own")
	assert.Contains(t, b.text(test("columns"), "Lieferdatum"), "Auftrag", "every column is shown, with what it is taken for")
	b.do(chromedp.WaitVisible(test("import")+":enabled"), press("import"))
	b.text(test("loaded"), "is in")
	b.do(chromedp.WaitVisible(test("layout-export")), press("layout-export"))
	assert.Contains(t, b.text(test("layout-dialog"), "Lieferdatum"), "promised")
	b.do(chromedp.WaitReady(test("layout-forget")), press("layout-forget"), chromedp.WaitNotPresent(test("layout-export")))
	list, err := s.list(t, question{}, selection{Columns: "number, ordered, promised", Sort: "number"})
	require.NoError(t, err)
	assert.Equal(t, []string{"N-3", "2026-07-14", "2026-07-19"}, cellTexts(list.Rows[len(list.Rows)-1]))
	for _, fault := range b.wentWrong() {
		assert.Contains(t, fault, "422", "only the bad file is refused")
	}
}
