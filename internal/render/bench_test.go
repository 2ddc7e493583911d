package render_test

import (
	"io"
	"os"
	"runtime/debug"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/demo/demobook"
	"prairiedusk/internal/render"
)

// million is a book of a million orders; short tests run each benchmark once, on fewer.
var million = sync.OnceValue(func() *book.Book {
	if testing.Short() {
		return demobook.New(10_000)
	}
	return demobook.New(1_000_000)
})

// resident is the memory that the process holds, in bytes.
func resident(b *testing.B) int64 {
	text, err := os.ReadFile("/proc/self/statm")
	if err != nil {
		b.Skip("there is no /proc")
	}
	pages, _ := strconv.ParseInt(strings.Fields(string(text))[1], 10, 64)
	return pages * int64(os.Getpagesize())
}

// A million orders of nine columns, sorted and written: how far the process grows at the most, in megabytes, and how many
// rows go in a second.
func BenchmarkTakeAway(b *testing.B) {
	orders := million()
	orders.NumberRanks()
	q, err := duration.Parse(orders, duration.Request{})
	if err != nil {
		b.Fatal(err)
	}
	shipped := leg.Leg{From: milestone.BuiltIn()[0], To: milestone.BuiltIn()[3]}
	var columns []list.Column
	head := render.Head{Sheet: "Orders", Sentence: q.Sentence().String()}
	for name, operand := range map[string]predicate.Operand{"number": predicate.Number{}, "customer": predicate.Field("customer"),
		"site": predicate.Field("site"), "place": predicate.Field("place"),
		"ordered": predicate.Day("ordered"), "promised": predicate.Day("promised"), "shipped": predicate.Day("shipped"),
		"value": predicate.Value{}, "length": predicate.Length{Leg: shipped, Measure: q.Measure}} {
		columns = append(columns, list.Column{Text: name, Heading: name, Operand: operand})
	}
	for _, format := range render.Formats() {
		b.Run(format, func(b *testing.B) {
			for b.Loop() {
				debug.FreeOSMemory()
				before, most := resident(b), int64(0)
				done, sampled := make(chan struct{}), make(chan struct{})
				go func() {
					defer close(sampled)
					for tick := time.NewTicker(10 * time.Millisecond); ; {
						select {
						case <-done:
							return
						case <-tick.C:
							most = max(most, resident(b))
						}
					}
				}()
				a, err := list.Ask(orders, list.Request{Question: q, Columns: columns, Sort: []list.Key{{Column: columns[0]}},
					Decimals: func(string) int { return 2 }})
				if err != nil {
					b.Fatal(err)
				}
				b.ReportMetric(float64(max(most, resident(b))-before)/1e6, "MB-asked")
				head.Columns = nil
				for i, c := range columns {
					head.Columns = append(head.Columns, render.Column{Heading: c.Heading, Kind: a.Kinds[i]})
				}
				err = render.Write(io.Discard, render.Format(format), head, a.All())
				close(done)
				<-sampled
				if err != nil {
					b.Fatal(err)
				}
				b.ReportMetric(float64(max(most, resident(b))-before)/1e6, "MB-grown")
			}
			b.ReportMetric(1e6*float64(b.N)/b.Elapsed().Seconds(), "rows/s")
		})
	}
}
