package test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// BenchmarkMap moves and zooms a map of 5,000 places in Chromium, and tells in milliseconds how long the longest task was that kept the
// page from anything else, and how long the page took to draw the map.
func BenchmarkMap(b *testing.B) {
	places := 5_000
	if testing.Short() {
		places = 200
	}
	random := rand.New(rand.NewPCG(1, 1))
	list, orders := &strings.Builder{}, &strings.Builder{}
	fmt.Fprintln(list, "place,country,latitude,longitude")
	fmt.Fprintln(orders, "number,site,country,place,ordered,shipped")
	for i := range places {
		fmt.Fprintf(list, "P%d,Canada,%.3f,%.3f\n", i, 45+20*random.Float64(), -130+70*random.Float64())
		for n := range 1 + random.IntN(20) {
			ordered := time.Date(2026, 1, 1+random.IntN(300), 0, 0, 0, 0, time.UTC)
			fmt.Fprintf(orders, "N%d-%d,Quay,Canada,P%d,%s,%s\n", i, n, i, ordered.Format(time.DateOnly),
				ordered.AddDate(0, 0, random.IntN(30)).Format(time.DateOnly))
		}
	}
	folder := b.TempDir()
	for name, text := range map[string]string{"places.csv": list.String(), "orders.csv": orders.String()} {
		if err := os.WriteFile(filepath.Join(folder, name), []byte(text), 0o600); err != nil {
			b.Fatal(err)
		}
	}
	s := startService(b)
	if _, err := s.Load(b.Context(), []string{filepath.Join(folder, "places.csv"), filepath.Join(folder, "orders.csv")}); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		tab := newTab(b)
		began := time.Now()
		tab.do(letIn(s.entry(b)), chromedp.Navigate(s.address+"/places"))
		tab.comes("the map", func() bool {
			return evaluate[int](tab, `document.querySelectorAll('[data-test=chart] svg path').length`) > 50
		})
		b.ReportMetric(float64(time.Since(began).Milliseconds()), "drawn-ms")
		time.Sleep(time.Second) // what draws it has come to rest
		before := evaluate[string](tab, `document.querySelector('[data-test=map]').dataset.zoom`)
		evaluate[any](tab, `window.tasks = []; new PerformanceObserver(l => l.getEntries().forEach(e => tasks.push(e.duration))).observe({ type: 'longtask' }); null`)
		evaluate[any](tab, `(async () => {
			const on = document.querySelector('[data-test=chart] svg').parentElement, box = on.getBoundingClientRect()
			const at = { clientX: box.x + box.width / 2, clientY: box.y + box.height / 3, bubbles: true, cancelable: true }
			const rest = () => new Promise(r => requestAnimationFrame(() => setTimeout(r, 30)))
			for (let i = 0; i < 12; i++) { on.dispatchEvent(new WheelEvent('wheel', { ...at, deltaY: i < 8 ? -120 : 120 })); await rest() }
			on.dispatchEvent(new MouseEvent('mousedown', { ...at, button: 0, which: 1 }))
			for (let i = 0; i < 12; i++) { on.dispatchEvent(new MouseEvent('mousemove', { ...at, clientX: at.clientX + 10 * i })); await rest() }
			on.dispatchEvent(new MouseEvent('mouseup', at))
			await new Promise(r => setTimeout(r, 700)) // it is drawn anew where it has come to rest
		})()`)
		if zoomed := evaluate[string](tab, `document.querySelector('[data-test=map]').dataset.zoom`); zoomed == before {
			b.Fatal("the map was not zoomed")
		}
		b.ReportMetric(evaluate[float64](tab, `Math.max(0, ...tasks)`), "longest-task-ms")
		b.ReportMetric(float64(evaluate[int](tab, `tasks.length`)), "tasks-over-50-ms")
	}
	b.ReportMetric(0, "ns/op")
}
