package summary_test

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
	"prairiedusk/internal/core/summary"
	"prairiedusk/internal/demo"
	"prairiedusk/internal/demo/demobook"
)

// benchOrders is the size of book that the product's speed is stated for.
const benchOrders = 1_500_000

// benchBook is generated once for all benchmarks of a run.
var benchBook = sync.OnceValue(func() *book.Book { return demobook.New(benchOrders) })

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
		return float64(time.Since(begin).Nanoseconds()) / benchOrders
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

func ask(b *testing.B, r summary.Request) func() {
	snapshot := benchBook()
	q, err := summary.Parse(snapshot, r)
	if err != nil {
		b.Fatal(err)
	}
	return func() {
		if a := summary.Ask(snapshot, q); a.Parts[0].Total.Lengths.Mean() == 0 {
			b.Fatal("nothing counted")
		}
	}
}

// BenchmarkMean is the mean of the working days of all orders, beside a bare loop.
func BenchmarkMean(b *testing.B) {
	beside(b, ask(b, summary.Request{}), func() { bareMean(benchFlat()) })
}

// BenchmarkMonthSite is month × site with median and p90, beside a bare loop.
func BenchmarkMonthSite(b *testing.B) {
	beside(b, ask(b, summary.Request{By: []string{"month", "site"}}), func() { bareMonthSite(benchFlat()) })
}

// BenchmarkCustomer has more groups than a table of counts can hold. It has no twin.
func BenchmarkCustomer(b *testing.B) {
	answer := ask(b, summary.Request{By: []string{"customer"}})
	for b.Loop() {
		answer()
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/benchOrders, "ns/order")
}

// BenchmarkWhere is month × site of the orders that a condition picks, beside a bare loop that picks them.
func BenchmarkWhere(b *testing.B) {
	snapshot := benchBook()
	q, err := summary.Parse(snapshot, summary.Request{By: []string{"month", "site"}})
	if err != nil {
		b.Fatal(err)
	}
	q.Where = summary.Where{Text: "site and promise", Condition: predicate.And{
		X: predicate.Compare{Operator: predicate.Unequal, X: predicate.Field("site"), Y: predicate.Literal{Kind: predicate.OfText, Text: "Muscat"}},
		Y: predicate.Compare{Operator: predicate.GreaterOrEqual, X: predicate.Day(milestone.Promised), Y: predicate.Literal{Kind: predicate.OfText, Text: "2025-06-01"}},
	}}
	promised := milestone.Index(snapshot.Milestones(), milestone.Promised)
	var days []day.Day
	for _, block := range snapshot.Blocks() {
		days = append(days, block.Columns[promised].Known...)
	}
	muscat, from := uint32(slices.Index(snapshot.Values(book.Site), "Muscat")), day.Of(2025, 6, 1)
	beside(b, func() { summary.Ask(snapshot, q) }, func() {
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
