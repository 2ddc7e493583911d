package duration_test

import (
	"runtime"
	"slices"
	"sync"
	"testing"
	"time"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/demo"
	"prairiedusk/internal/demo/demobook"
)

// benchOrders is the size of book that the product's speed is stated for; short tests run each benchmark once, on fewer.
func benchOrders() int {
	if testing.Short() {
		return 15_000
	}
	return 1_500_000
}

// benchBook is generated once for all benchmarks of a run.
var benchBook = sync.OnceValue(func() *book.Book { return demobook.New(benchOrders()) })

// flat is the same data as plain columns, for the bare loops.
type flat struct {
	ordered, shipped []day.Day
	site             []uint32
	totals           [][]int32 // by site
}

var benchFlat = sync.OnceValue(func() flat {
	b := benchBook()
	var f flat
	ordered := milestone.Index(b.Milestones(), milestone.Ordered)
	shipped := milestone.Index(b.Milestones(), milestone.Shipped)
	for _, block := range b.Blocks() {
		f.ordered = append(f.ordered, block.Columns[ordered].Known...)
		f.shipped = append(f.shipped, block.Columns[shipped].Known...)
		f.site = append(f.site, block.Codes[book.Site]...)
	}
	for _, c := range b.Locals(book.AtSite) {
		f.totals = append(f.totals, c.Totals())
	}
	return f
})

// inParts runs a loop over equal parts of the orders, one goroutine for each processor.
func inParts(orders int, loop func(part, from, to int)) {
	parts := runtime.GOMAXPROCS(0)
	var done sync.WaitGroup
	for part := range parts {
		done.Go(func() { loop(part, part*orders/parts, (part+1)*orders/parts) })
	}
	done.Wait()
}

// beside runs a computation and its bare twin by turns, so that a noisy machine slows both alike, and
// reports the median time of each per order and the ratio of the medians.
func beside(b *testing.B, ours, bare func()) {
	var times, bareTimes []float64
	timed := func(f func()) float64 {
		begin := time.Now()
		f()
		return float64(time.Since(begin).Nanoseconds()) / float64(benchOrders())
	}
	for b.Loop() {
		times = append(times, timed(ours))
		bareTimes = append(bareTimes, timed(bare))
	}
	slices.Sort(times)
	slices.Sort(bareTimes)
	median, bareMedian := times[len(times)/2], bareTimes[len(bareTimes)/2]
	b.ReportMetric(median, "ns/order")
	b.ReportMetric(bareMedian, "bare-ns/order")
	b.ReportMetric(median/bareMedian, "ratio")
	b.ReportMetric(0, "ns/op") // the time of a pair says nothing
}

func ask(b *testing.B, r duration.Request) func() {
	snapshot := benchBook()
	q, err := duration.Parse(snapshot, r)
	if err != nil {
		b.Fatal(err)
	}
	return func() {
		if a := duration.Ask(snapshot, q); a.Parts[0].Total.Lengths.Mean() == 0 {
			b.Fatal("nothing counted")
		}
	}
}

// BenchmarkMean is the mean of the working days of all orders, beside a bare loop.
func BenchmarkMean(b *testing.B) {
	beside(b, ask(b, duration.Request{}), func() { bareMean(benchFlat()) })
}

// BenchmarkMonthSite is month × site with median and p90, beside a bare loop.
func BenchmarkMonthSite(b *testing.B) {
	beside(b, ask(b, duration.Request{Request: query.Request{By: []string{"month", "site"}}}), func() { bareMonthSite(benchFlat()) })
}

// BenchmarkCustomer has more groups than a table of counts can hold: medians of each, longest mean first, beside a bare
// counting sort.
func BenchmarkCustomer(b *testing.B) {
	snapshot := benchBook()
	var customers []uint32
	for _, block := range snapshot.Blocks() {
		customers = append(customers, block.Codes[book.Customer]...)
	}
	beside(b, ask(b, duration.Request{Request: query.Request{By: []string{"customer"}}}),
		func() { bareCustomer(benchFlat(), customers, len(snapshot.Values(book.Customer))) })
}

// BenchmarkPromise says for each month and site how orders stand towards their promise.
func BenchmarkPromise(b *testing.B) {
	snapshot := benchBook()
	q, err := duration.Parse(snapshot, duration.Request{Request: query.Request{By: []string{"month", "site"}}, Promise: milestone.Promised})
	if err != nil {
		b.Fatal(err)
	}
	promised := milestone.Index(snapshot.Milestones(), milestone.Promised)
	var due []day.Day
	for _, block := range snapshot.Blocks() {
		due = append(due, block.Columns[promised].Known...)
	}
	beside(b, func() { duration.Ask(snapshot, q) }, func() {
		bareMonthSite(benchFlat())
		barePromise(benchFlat(), due)
	})
}

// BenchmarkLimit is the share over a limit, finished and still waiting, by site.
func BenchmarkLimit(b *testing.B) {
	snapshot := benchBook()
	q, err := duration.Parse(snapshot, duration.Request{Request: query.Request{By: []string{"month", "site"}}})
	if err != nil {
		b.Fatal(err)
	}
	q.Limit, q.Waiting = &duration.Limit{Ticks: 10}, true
	beside(b, func() { duration.Ask(snapshot, q) }, func() {
		bareMonthSite(benchFlat())
		bareWaiting(benchFlat())
	})
}

// BenchmarkWhere is month × site of the orders that a condition picks, beside a bare loop that picks them.
func BenchmarkWhere(b *testing.B) {
	snapshot := benchBook()
	q, err := duration.Parse(snapshot, duration.Request{Request: query.Request{By: []string{"month", "site"}}})
	if err != nil {
		b.Fatal(err)
	}
	q.Where = query.Where{Text: "site and promise", Condition: predicate.And{
		X: predicate.Compare{Operator: predicate.Unequal, X: predicate.Field("site"),
			Y: predicate.Literal{Kind: predicate.OfText, Text: "Muscat"}},
		Y: predicate.Compare{Operator: predicate.GreaterOrEqual, X: predicate.Day(milestone.Promised),
			Y: predicate.Literal{Kind: predicate.OfText, Text: "2025-06-01"}},
	}}
	promised := milestone.Index(snapshot.Milestones(), milestone.Promised)
	var days []day.Day
	for _, block := range snapshot.Blocks() {
		days = append(days, block.Columns[promised].Known...)
	}
	muscat, from := uint32(slices.Index(snapshot.Values(book.Site), "Muscat")), day.Of(2025, 6, 1)
	beside(b, func() { duration.Ask(snapshot, q) }, func() {
		picked := benchFlat()
		start := make([]day.Day, len(picked.ordered))
		inParts(len(start), func(_, first, to int) {
			for i := first; i < to; i++ {
				if picked.site[i] != muscat && days[i] >= from {
					start[i] = picked.ordered[i]
				}
			}
		})
		picked.ordered = start
		bareMonthSite(picked)
	})
}

func bareMean(f flat) float64 {
	sums, counts := make([]int64, runtime.GOMAXPROCS(0)), make([]int64, runtime.GOMAXPROCS(0))
	inParts(len(f.ordered), func(part, from, to int) {
		start, end, site, totals := f.ordered[from:to], f.shipped[from:to], f.site[from:to], f.totals
		end, site = end[:len(start)], site[:len(start)]
		sum, n := int64(0), int64(0)
		for i, s := range start {
			if e := end[i]; s != 0 && e >= s {
				t := totals[site[i]]
				sum += int64(t[e+1] - t[s+1])
				n++
			}
		}
		sums[part], counts[part] = sum, n
	})
	sum, n := int64(0), int64(0)
	for part := range sums {
		sum, n = sum+sums[part], n+counts[part]
	}
	return float64(sum) / float64(n)
}

// bareMonthSite gives the sum of all medians and 90th percentiles, so that none can be left out.
func bareMonthSite(f flat) float64 {
	const width = 1024
	months := make([]uint32, demo.DataDate-demo.FirstDay+1)
	for i := range months {
		y, m, _ := (demo.FirstDay + day.Day(i)).Date()
		months[i] = uint32(12*(y-2025)) + uint32(m-1)
	}
	sites := uint32(len(f.totals))
	cells := make([][]uint32, runtime.GOMAXPROCS(0))
	inParts(len(f.ordered), func(part, from, to int) {
		start, end, site, totals := f.ordered[from:to], f.shipped[from:to], f.site[from:to], f.totals
		end, site = end[:len(start)], site[:len(start)]
		own := make([]uint32, 24*sites*width)
		for i, s := range start {
			if e := end[i]; s != 0 && e >= s {
				t := totals[site[i]]
				length := t[e+1] - t[s+1]
				own[(months[s-demo.FirstDay]*sites+site[i])*width+uint32(length)]++
			}
		}
		cells[part] = own
	})
	sum := 0.0
	for g := range int(24 * sites) {
		n := uint32(0)
		for l := range width {
			for _, other := range cells[1:] {
				cells[0][g*width+l] += other[g*width+l]
			}
			n += cells[0][g*width+l]
		}
		for _, p := range []float64{0.5, 0.9} {
			rank := int64(p * float64(n))
			for l := range width {
				if rank -= int64(cells[0][g*width+l]); rank < 0 {
					sum += float64(l)
					break
				}
			}
		}
	}
	return sum
}

// bareCustomer gives the sum of all medians; customers are sorted by their mean.
func bareCustomer(f flat, customers []uint32, groups int) float64 {
	type listed struct{ group, length uint32 }
	ends := make([]uint32, groups+1)
	parts := make([][]listed, runtime.GOMAXPROCS(0))
	inParts(len(f.ordered), func(part, from, to int) {
		own := make([]listed, 0, to-from)
		for i := from; i < to; i++ {
			if s, e := f.ordered[i], f.shipped[i]; s != 0 && e >= s {
				t := f.totals[f.site[i]]
				own = append(own, listed{customers[i], uint32(t[e+1] - t[s+1])})
			}
		}
		parts[part] = own
	})
	n := 0
	for _, own := range parts {
		n += len(own)
		for _, l := range own {
			ends[l.group+1]++
		}
	}
	for g := range groups {
		ends[g+1] += ends[g]
	}
	starts, sorted := slices.Clone(ends), make([]uint32, n)
	for _, own := range parts {
		for _, l := range own {
			sorted[ends[l.group]] = l.length
			ends[l.group]++
		}
	}
	sum, means := 0.0, make([]float64, groups)
	for g := range groups {
		lengths := sorted[starts[g]:starts[g+1]]
		if len(lengths) == 0 {
			continue
		}
		slices.Sort(lengths)
		total := uint32(0)
		for _, l := range lengths {
			total += l
		}
		means[g] = float64(total) / float64(len(lengths))
		sum += float64(lengths[len(lengths)/2])
	}
	slices.Sort(means)
	return sum + means[0]
}

// barePromise counts early, on the day, late and all else by month and site, with the sum of their sizes.
func barePromise(f flat, due []day.Day) int64 {
	sites := uint32(len(f.totals))
	sums := make([]int64, runtime.GOMAXPROCS(0))
	inParts(len(f.ordered), func(part, from, to int) {
		counts := make([]uint32, 32*sites*4*64)
		for i := from; i < to; i++ {
			reached, by, standing, size := f.shipped[i], due[i], uint32(3), int32(0)
			if reached != 0 && by != 0 {
				t := f.totals[f.site[i]]
				size = t[reached+1] - t[by+1]
				switch {
				case reached < by:
					standing = 0
				case reached == by:
					standing = 1
				default:
					standing = 2
				}
			}
			month := uint32(f.ordered[i]-demo.FirstDay) / 31 % 32
			counts[((month*sites+f.site[i])*4+standing)*64+uint32(size+32)%64]++
		}
		for _, n := range counts {
			sums[part] += int64(n)
		}
	})
	return sums[0]
}

// bareWaiting counts how long orders that have not shipped have run, by month and site.
func bareWaiting(f flat) (all uint32) {
	sites := uint32(len(f.totals))
	counts := make([][]uint32, runtime.GOMAXPROCS(0))
	inParts(len(f.ordered), func(part, from, to int) {
		own := make([]uint32, 32*sites*1024)
		start, end, site := f.ordered[from:to], f.shipped[from:to], f.site[from:to]
		end, site = end[:len(start)], site[:len(start)]
		for i, s := range start {
			if s != 0 && end[i] == 0 {
				t := f.totals[site[i]]
				month := uint32(s-demo.FirstDay) / 31 % 32
				own[(month*sites+site[i])*1024+uint32(t[demo.DataDate+1]-t[s+1])%1024]++
			}
		}
		counts[part] = own
	})
	for _, own := range counts {
		for _, n := range own {
			all += n
		}
	}
	return all
}
