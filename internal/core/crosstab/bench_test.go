package crosstab_test

import (
	"fmt"
	"math/rand/v2"
	"runtime"
	"slices"
	"sync"
	"testing"
	"time"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/crosstab"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/demo"
	"prairiedusk/internal/demo/demobook"
)

// benchOrders is the size of book that the product's speed is stated for, with four lines an order in the mean; short tests run
// each benchmark once, on fewer.
func benchOrders() int {
	if testing.Short() {
		return 15_000
	}
	return 1_500_000
}

const benchProducts = 24

var benchBook = sync.OnceValue(func() *book.Book {
	random := rand.New(rand.NewPCG(1, 2))
	var names []string
	for p := range benchProducts {
		names = append(names, fmt.Sprint("product ", p))
	}
	shipped, requested := milestone.Index(milestone.BuiltIn(), milestone.Shipped), milestone.Index(milestone.BuiltIn(), milestone.Requested)
	return demobook.New(benchOrders(), func(o *book.Order) {
		all := int64(0)
		for l := range 1 + random.IntN(7) {
			units := 1000 * (1 + random.Int64N(9))
			all += units
			o.Lines = append(o.Lines, parts.Line{Number: fmt.Sprint(l + 1), Product: names[random.IntN(benchProducts)],
				Units: parts.Quantity{Thousandths: units, Known: true}})
		}
		o.Days[requested] = o.Days[milestone.Index(milestone.BuiltIn(), milestone.Ordered)] + day.Day(random.IntN(20))
		if d := o.Days[shipped]; d != 0 {
			o.Shipments = []parts.Shipment{{Number: "1", Units: parts.Quantity{Thousandths: all, Known: true}, Shipped: parts.Day{Day: d}}}
		}
	})
})

// flat is the same data as plain columns, for the bare loops.
type flat struct {
	placed  []day.Day // by order
	starts  []uint32
	product []uint32
	units   []int64
	// Of shipments, one for an order at most; nil where the order's own day places it.
	sentFrom   []uint32
	sent, left []int64
	// Of lines, with the days of which the question about late lines asks.
	requested []day.Day
	came      []int64
}

func flatBy(b *book.Book, name string) flat {
	m := milestone.Index(b.Milestones(), name)
	f := flat{starts: []uint32{0}}
	for _, block := range b.Blocks() {
		lines := &block.Parts[book.Lines]
		before := f.starts[len(f.starts)-1]
		for _, start := range lines.Starts[1:] {
			f.starts = append(f.starts, before+start)
		}
		f.placed = append(f.placed, block.Columns[m].Known...)
		f.requested = append(f.requested, block.Columns[milestone.Index(b.Milestones(), milestone.Requested)].Known...)
		f.product = append(f.product, lines.Columns[book.LineProduct].Codes...)
		f.units = append(f.units, lines.Columns[book.LineUnits].Numbers...)
		if name != milestone.Shipped {
			continue
		}
		shipments := &block.Parts[book.Shipments]
		first := uint32(len(f.sent))
		for _, start := range shipments.Starts[:len(block.IDs)] {
			f.sentFrom = append(f.sentFrom, first+start)
		}
		f.sent = append(f.sent, shipments.Columns[book.ShipmentUnits].Numbers...)
		f.left = append(f.left, shipments.Columns[book.ShipmentShipped].Numbers...)
	}
	f.sentFrom = append(f.sentFrom, uint32(len(f.sent)))
	return f
}

// bareProductMonth sums units by product and month in one loop over the orders' lines.
func bareProductMonth(f flat, months []uint32) (all int64) {
	workers := runtime.GOMAXPROCS(0)
	cells := make([][]int64, workers)
	var done sync.WaitGroup
	for w := range workers {
		done.Go(func() {
			own := make([]int64, (benchProducts+1)*24)
			for i := w * len(f.placed) / workers; i < (w+1)*len(f.placed)/workers; i++ {
				d := f.placed[i]
				if f.sent != nil && f.sentFrom[i] < f.sentFrom[i+1] {
					open := int64(0)
					for l := f.starts[i]; l < f.starts[i+1]; l++ {
						open += f.units[l]
					}
					if s := f.sentFrom[i]; f.sent[s] == open && f.left[s] <= int64(demo.DataDate) {
						d = day.Day(f.left[s])
					}
				}
				if d == 0 {
					continue
				}
				month := months[d-demo.FirstDay]
				for l := f.starts[i]; l < f.starts[i+1]; l++ {
					own[f.product[l]*24+month] += f.units[l]
				}
			}
			cells[w] = own
		})
	}
	done.Wait()
	for _, own := range cells {
		for _, n := range own {
			all += n
		}
	}
	return all
}

// monthsOfDemo are the months of the demo's days, by their place.
func monthsOfDemo() []uint32 {
	months := make([]uint32, demo.DataDate-demo.FirstDay+1)
	for i := range months {
		year, month, _ := (demo.FirstDay + day.Day(i)).Date()
		months[i] = uint32(12*(year-2025)) + uint32(month-1)
	}
	return months
}

// BenchmarkProductMonth is units by product and month: by the order's day, and by the days of shipments, beside a bare loop over
// the lines, which looks at the shipment where there is one.
func BenchmarkProductMonth(b *testing.B) {
	months := monthsOfDemo()
	for _, basis := range []string{milestone.Ordered, milestone.Shipped} {
		b.Run(basis, func(b *testing.B) {
			snapshot := benchBook()
			bare := flatBy(snapshot, basis)
			q, err := crosstab.Parse(snapshot, crosstab.Request{Show: "units", Rows: "product", Columns: "month", Bases: []string{basis}})
			if err != nil {
				b.Fatal(err)
			}
			compared(b, snapshot, q, func() int64 { return bareProductMonth(bare, months) })
		})
	}
}

// compared times our answer beside a bare loop, whose sum is the same, and reports both for each order.
func compared(b *testing.B, snapshot *book.Book, q crosstab.Question, bare func() int64) {
	var ours, theirs []float64
	timed := func(f func() int64) (float64, int64) {
		begin := time.Now()
		n := f()
		return float64(time.Since(begin).Nanoseconds()) / float64(benchOrders()), n
	}
	for b.Loop() {
		own, n := timed(func() int64 {
			a, err := crosstab.Ask(snapshot, q)
			if err != nil {
				b.Fatal(err)
			}
			return a.Parts[0].Tables[0].Total.Total.Amount
		})
		plain, m := timed(bare)
		if n != m {
			b.Fatalf("ours %d, the bare loop %d", n, m)
		}
		ours, theirs = append(ours, own), append(theirs, plain)
	}
	slices.Sort(ours)
	slices.Sort(theirs)
	median, bareMedian := ours[len(ours)/2], theirs[len(theirs)/2]
	b.ReportMetric(median, "ns/order")
	b.ReportMetric(bareMedian, "bare-ns/order")
	b.ReportMetric(median/bareMedian, "ratio")
	b.ReportMetric(0, "ns/op")
}

// BenchmarkLateLines is units by product and month of the order of lines that were delivered after the requested day, beside a bare
// loop over the lines.
func BenchmarkLateLines(b *testing.B) {
	snapshot := crosstab.WithLineDays(benchBook())
	late := predicate.Compare{Operator: predicate.Greater, X: predicate.PartColumn{Of: book.Lines, Name: book.AllDelivered},
		Y: predicate.Day(milestone.Requested)}
	q, err := crosstab.Parse(snapshot, crosstab.Request{Show: "units", Rows: "product", Columns: "month",
		Parts: map[book.Part]query.Where{book.Lines: {Text: "late", Condition: late}}})
	if err != nil {
		b.Fatal(err)
	}
	bare, months := flatBy(snapshot, milestone.Ordered), monthsOfDemo()
	for _, block := range snapshot.Blocks() {
		bare.came = append(bare.came, block.Parts[book.Lines].Columns[len(snapshot.PartColumns(book.Lines))-1].Numbers...)
	}
	compared(b, snapshot, q, func() int64 { return bareLateLines(bare, months) })
}

// bareLateLines sums units of late lines by product and month in one loop.
func bareLateLines(f flat, months []uint32) (all int64) {
	workers := runtime.GOMAXPROCS(0)
	sums := make([]int64, workers)
	var done sync.WaitGroup
	for w := range workers {
		done.Go(func() {
			own := make([]int64, (benchProducts+1)*24)
			for i := w * len(f.placed) / workers; i < (w+1)*len(f.placed)/workers; i++ {
				d, requested := f.placed[i], int64(f.requested[i])
				if d == 0 || requested == 0 {
					continue
				}
				month := months[d-demo.FirstDay]
				for l := f.starts[i]; l < f.starts[i+1]; l++ {
					if came := f.came[l]; came != book.None && came > requested {
						own[f.product[l]*24+month] += f.units[l]
					}
				}
			}
			for _, n := range own {
				sums[w] += n
			}
		})
	}
	done.Wait()
	for _, n := range sums {
		all += n
	}
	return all
}
