package test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/heapprofiler"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"

	"prairiedusk/internal/core/day"
)

// BenchmarkConsole opens the console on a book of 300,000 orders of 8,000 customers, in Chromium on loopback, and tells: in how many
// milliseconds a page first paints, with nothing in the cache; when its answer stands there, then and over a line of 50 kB a second
// that takes 400 ms to reply; how long the longest task of each page was; the time of a frame that 95 in 100 keep while tables are
// scrolled; and by how much memory grows over 100 pages.
func BenchmarkConsole(b *testing.B) {
	orders, customers, visits := 300_000, 8_000, 100
	if testing.Short() {
		orders, customers, visits = 3_000, 200, 4
	}
	random := rand.New(rand.NewPCG(1, 1))
	var text strings.Builder
	fmt.Fprintln(&text, "number,customer,site,ordered,requested,shipped")
	for i := range orders {
		ordered := day.Of(2025, 1, 1) + day.Day(random.IntN(660))
		shipped := ""
		if random.IntN(10) > 0 {
			shipped = (ordered + day.Day(random.IntN(30))).String()
		}
		fmt.Fprintf(&text, "N-%d,Customer %d,%s,%v,%v,%s\n", i, random.IntN(customers), []string{"Quay", "Mill", "Bridge"}[random.IntN(3)],
			ordered, ordered+day.Day(random.IntN(20)), shipped)
	}
	file := filepath.Join(b.TempDir(), "orders.csv")
	if err := os.WriteFile(file, []byte(text.String()), 0o600); err != nil {
		b.Fatal(err)
	}
	s := startService(b)
	if _, err := s.Load(b.Context(), []string{file}); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		tab := newTab(b)
		tab.do(letIn(s.entry(b)))
		visit := func(path, ready, holds string) {
			tab.do(chromedp.Navigate("about:blank"), chromedp.Navigate(s.address+path))
			tab.text(ready, holds)
		}
		cold := func(line string) {
			for _, of := range [][4]string{{"overview", "/overview", test("overview-today"), "at risk"},
				{"how-long", "/how-long?by=site", test("groups"), "Quay"}} {
				clearCache(tab)
				atOnce(tab, fmt.Sprintf(`{
					const look = () => document.querySelector(%q)?.innerText.includes(%q)
						? (window.stood = performance.now()) : requestAnimationFrame(look)
					requestAnimationFrame(look)
				}`, of[2], of[3]))
				tab.do(chromedp.Navigate("about:blank"), run("null"), chromedp.Navigate(s.address+of[1]))
				tab.text(of[2], of[3])
				b.ReportMetric(evaluate[float64](tab, "stood"), of[0]+line)
				b.ReportMetric(evaluate[float64](tab, `performance.getEntriesByName('first-contentful-paint')[0].startTime`), "first-paint"+line)
			}
		}
		cold("-ms")
		narrow(tab, 50_000, 400)
		cold("-on-50kB/s-ms")
		narrow(tab, -1, 0)

		longest, frames := 0.0, 0.0
		for _, of := range [][3]string{{"/overview", test("overview-today"), "at risk"}, {"/how-long?by=customer", test("groups"), "Customer"},
			{"/crosstab?rows=customer&columns=month", test("cells"), "Customer"}, {"/orders", test("orders"), "N-"},
			{"/open?period=2026&each=day", test("rows"), "2026"}, {"/compare?basis=ordered,shipped&each=day", test("dates"), "2025"},
			{"/immediate?by=customer", test("groups"), "Customer"}} {
			visit(of[0], of[1], of[2])
			tasks := evaluate[float64](tab, `new Promise(found => { let most = 0; new PerformanceObserver(l => l.getEntries().forEach(e => most = Math.max(most, e.duration))).observe({ type: 'longtask', buffered: true }); setTimeout(() => found(most), 500) })`)
			scrolled := evaluate[float64](tab, fmt.Sprintf(`(async () => {
				let box = document.querySelector(%q)
				while (box && box.scrollHeight <= box.clientHeight + 1) box = box.parentElement
				box ??= document.scrollingElement
				const times = []
				let last = await new Promise(requestAnimationFrame)
				for (let i = 0; i < 60; i++) {
					box.scrollTop += 120 // as a wheel that is turned fast
					const now = await new Promise(requestAnimationFrame)
					times.push(now - last)
					last = now
				}
				return times.sort((a, b) => a - b)[57]
			})()`, of[1]))
			b.Logf("%s: longest task %.0f ms, frames while scrolling %.0f ms", of[0], tasks, scrolled)
			longest, frames = max(longest, tasks), max(frames, scrolled)
		}
		b.ReportMetric(longest, "longest-task-ms")
		b.ReportMetric(frames, "p95-frame-ms")

		pages := [][2]string{{"/open", "table" + test("rows")}, {"/compare", test("dates")}, {"/immediate", test("groups")},
			{"/crosstab", test("cells")}, {"/how-long", test("groups")}}
		through := func(n int) float64 {
			for i := range n {
				to := pages[i%len(pages)]
				tab.do(chromedp.Click(fmt.Sprintf(`.pages a[href^=%q]`, to[0]), chromedp.NodeVisible), chromedp.WaitVisible(to[1]))
			}
			return heap(tab)
		}
		visit("/how-long?by=site&period=2026", test("groups"), "Quay")
		before := through(visits / 4) // what is made once is there
		b.ReportMetric((through(visits)-before)/1e6, "MB-over-100-pages")
	}
	b.ReportMetric(0, "ns/op")
}

// narrow makes the line to the service one of so many bytes a second, and milliseconds to the first; −1 and 0 are as it is.
func narrow(b *tab, bytes, wait float64) {
	b.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, network.EmulateNetworkConditionsByRule, network.EmulateNetworkConditionsByRuleParams{
			MatchedNetworkConditions: []*network.Conditions{{Latency: wait, DownloadThroughput: bytes, UploadThroughput: bytes}}})
		return err
	}))
}

// atOnce runs a script in each page that is opened from now on, before its own.
func atOnce(b *tab, script string) {
	b.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: script})
		return err
	}))
}

// heap is the memory that a tab holds, in bytes, when all that can be forgotten is.
func heap(b *tab) (bytes float64) {
	b.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		if _, err := cdp.Call(ctx, target, heapprofiler.CollectGarbage, cdp.Empty{}); err != nil {
			return err
		}
		used, err := cdp.Call(ctx, target, runtime.GetHeapUsage, cdp.Empty{})
		bytes = used.UsedSize
		return err
	}))
	return bytes
}
