package backlog

import (
	"runtime"
	"slices"
	"sync"
	"testing"
	"time"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/demo/demobook"
)

// benchOrders is the size of book that the product's speed is stated for; short tests run each benchmark once, on fewer.
func benchOrders() int {
	if testing.Short() {
		return 15_000
	}
	return 1_500_000
}

var benchBook = sync.OnceValue(func() *book.Book { return demobook.New(benchOrders()) })

// beside runs ours and the bare twin by turns and reports the ratio of their medians.
func beside(b *testing.B, ours, bare func()) {
	var times, bareTimes []float64
	timed := func(f func()) float64 {
		begin := time.Now()
		f()
		return float64(time.Since(begin).Nanoseconds()) / float64(benchOrders())
	}
	for b.Loop() {
		times, bareTimes = append(times, timed(ours)), append(bareTimes, timed(bare))
	}
	slices.Sort(times)
	slices.Sort(bareTimes)
	b.ReportMetric(times[len(times)/2], "ns/order")
	b.ReportMetric(bareTimes[len(times)/2], "bare-ns/order")
	b.ReportMetric(times[len(times)/2]/bareTimes[len(times)/2], "ratio")
	b.ReportMetric(0, "ns/op")
}

// bareOpen counts how many orders that pass are open at the end of each day, one goroutine for each processor.
func bareOpen(start, end, cancelled []day.Day, pass func(i int) bool) (open [1024]int) {
	low := slices.Min(start)
	var flows [16][1024]int32
	var done sync.WaitGroup
	parts := min(16, runtime.GOMAXPROCS(0))
	for part := range parts {
		done.Go(func() {
			flow := &flows[part]
			for i := part * len(start) / parts; i < (part+1)*len(start)/parts; i++ {
				s, e := start[i], end[i]
				if c := cancelled[i]; c != 0 && (e == 0 || c < e) {
					e = c
				}
				if s == 0 || e != 0 && e < s || pass != nil && !pass(i) {
					continue
				}
				flow[(s-low)&1023]++
				if e != 0 {
					flow[(e-low)&1023]--
				}
			}
		})
	}
	done.Wait()
	stock := 0
	for d := range open {
		for part := range parts {
			stock += int(flows[part][d])
		}
		open[d] = stock
	}
	return open
}

func columns(b *book.Book) (start, end, cancelled []day.Day, site []uint32) {
	column := func(name string) (days []day.Day) {
		at := milestone.Index(b.Milestones(), name)
		for _, block := range b.Blocks() {
			days = append(days, block.Columns[at].Known...)
		}
		return days
	}
	for _, block := range b.Blocks() {
		site = append(site, block.Codes[book.Site]...)
	}
	return column("ordered"), column("shipped"), column("cancelled"), site
}

func benchmarkDays(b *testing.B, condition predicate.Condition, pass func(site []uint32) func(i int) bool) {
	snapshot := benchBook()
	q, err := Parse(snapshot, query.Request{}, "")
	if err != nil {
		b.Fatal(err)
	}
	var passes func(int) bool
	start, end, cancelled, site := columns(snapshot)
	if condition != nil {
		q.Where, passes = query.Where{Condition: condition}, pass(site)
	}
	beside(b, func() {
		if a, err := During(snapshot, q, q.Periods[0], query.Day, false); err != nil || len(a.Total.Rows) < 600 {
			b.Fatal(err)
		}
	}, func() { bareOpen(start, end, cancelled, passes) })
}

// BenchmarkEachDay is what was open at the end of each day of nearly two years.
func BenchmarkEachDay(b *testing.B) { benchmarkDays(b, nil, nil) }

// BenchmarkEachDayWhere is the same of one site.
func BenchmarkEachDayWhere(b *testing.B) {
	galway := uint32(slices.Index(benchBook().Values(book.Site), "Galway"))
	benchmarkDays(b, predicate.Compare{Operator: predicate.Equal, X: predicate.Field("site"),
		Y: predicate.Literal{Kind: predicate.OfText, Text: "Galway"}},
		func(site []uint32) func(int) bool { return func(i int) bool { return site[i] == galway } })
}

// BenchmarkOnePeriod is a period from the daily index, in orders, units and values.
func BenchmarkOnePeriod(b *testing.B) {
	q, err := Parse(benchBook(), query.Request{Period: "2026-07"}, "out")
	if err != nil {
		b.Fatal(err)
	}
	daily, err := NewDaily(benchBook(), q)
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		daily.Answer(q, q.Periods[0], query.NoCut, true)
	}
}
