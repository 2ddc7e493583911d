package present_test

import (
	"io"
	"os"
	"runtime/debug"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/demo/demobook"
	"prairiedusk/internal/present"
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
	asked, err := present.ListOf(orders, &api.OrdersQuestion{Columns: "number, customer, site, place, ordered, promised, shipped, value, length",
		Sort: "number"})
	if err != nil {
		b.Fatal(err)
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
				found, err := list.Ask(asked.Book, asked.Request)
				if err != nil {
					b.Fatal(err)
				}
				b.ReportMetric(float64(max(most, resident(b))-before)/1e6, "MB-asked")
				document, rows := asked.File(found)
				err = render.List(io.Discard, render.Format(format), document, rows)
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
