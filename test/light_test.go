package test

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// The first page and the first picture cost little to fetch, and nothing jumps while they come.
func TestConsoleIsLight(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	b.do(letIn(s.entry(t)))
	for _, page := range []struct {
		path, ready, holds string
		kilobytes          int
	}{{"/overview", test("overview-today"), "at risk", 200}, {"/how-long?period=2026-Q3", test("chart"), "median", 450}} {
		// Another tab has an empty cache, and is let in by what the first one has stored.
		b.do(chromedp.Navigate("about:blank"), run("null"))
		clearCache(b)
		b.do(chromedp.Navigate(s.address + page.path))
		b.text(page.ready, page.holds)
		fetched := evaluate[int](b, `Math.round(performance.getEntriesByType('resource').filter(e => !e.name.includes('/api/') && !/TargetMenu|VTextField|VMenu/.test(e.name)).reduce((sum, e) => sum + e.encodedBodySize, 0) / 1000)`)
		assert.Less(t, fetched, page.kilobytes, "kilobytes of %s", page.path)
		assert.Greater(t, fetched, 50, "nothing came from a cache")
		shift := evaluate[float64](b, `new Promise(found => { let sum = 0; const o = new PerformanceObserver(l => l.getEntries().forEach(e => sum += e.hadRecentInput ? 0 : e.value)); o.observe({ type: 'layout-shift', buffered: true }); setTimeout(() => found(sum), 300) })`)
		assert.Less(t, shift, 0.05, "layout shift of %s", page.path)
		t.Log(evaluate[string](b, `performance.getEntriesByType('resource').map(e => e.name.split('/').pop() + ' ' + e.encodedBodySize).join('\n')`))
		t.Logf("%s: %d kB, layout shift %.3f", page.path, fetched, shift)
	}
}
