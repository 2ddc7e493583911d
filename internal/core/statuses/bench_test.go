package statuses

import (
	"fmt"
	"math/rand/v2"
	"runtime"
	"slices"
	"sync"
	"testing"
	"time"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
)

// BenchmarkPeriods folds ten million daily and event records of a million orders into status periods, beside a bare pass that finds where
// runs of one code begin and writes them down.
func BenchmarkPeriods(b *testing.B) {
	orders, each := 1_000_000, 10
	if testing.Short() {
		orders = 10_000
	}
	random, builder := rand.New(rand.NewPCG(1, 2)), book.NewBuilder(book.BuiltIn())
	for id := range int64(orders) {
		o := book.Order{ID: id + 1, Number: fmt.Sprint(id), Days: make([]day.Day, len(milestone.BuiltIn()))}
		at := begin + day.Day(random.IntN(300))
		o.Days[0] = at
		for range each {
			o.Statuses = append(o.Statuses, parts.StatusRecord{Status: names[random.IntN(len(names))], At: parts.Day{Day: at},
				Source: parts.Event})
			at += day.Day(1 + random.IntN(3))
		}
		builder.Put(o)
	}
	calendars, _ := book.NewCalendars(nil)
	snapshot := builder.Finish(book.Settings{Bounds: period.Bounds{FirstDay: begin, DataDate: begin + 340}, Calendars: calendars,
		Statuses: settings})
	type run struct {
		status         uint32
		from, seen, to day.Day
	}
	bare := func() {
		var done sync.WaitGroup
		work := make(chan *book.Block, len(snapshot.Blocks()))
		for _, block := range snapshot.Blocks() {
			work <- block
		}
		close(work)
		for range runtime.GOMAXPROCS(0) {
			done.Go(func() {
				for block := range work {
					records := &block.Parts[book.Statuses]
					names, days := records.Columns[book.StatusName].Codes, records.Columns[book.StatusAt].Numbers
					runs, starts := make([]run, 0, len(names)), make([]int, len(block.IDs))
					for row := range block.IDs {
						from, to := records.Of(row)
						starts[row] = len(runs)
						for i := from; i < to; i++ {
							switch d := day.Day(days[i]); {
							case i > from && runs[len(runs)-1].status == names[i]:
								runs[len(runs)-1].seen = d
							default:
								if i > from {
									runs[len(runs)-1].to = d
								}
								runs = append(runs, run{names[i], d, d, 0})
							}
						}
					}
				}
			})
		}
		done.Wait()
	}
	var ours, theirs []float64
	timed := func(f func()) float64 {
		begin := time.Now()
		f()
		return float64(time.Since(begin).Nanoseconds()) / float64(orders*each)
	}
	for b.Loop() {
		ours = append(ours, timed(func() { NewHistory(snapshot, Either, 0) }))
		theirs = append(theirs, timed(bare))
	}
	slices.Sort(ours)
	slices.Sort(theirs)
	b.ReportMetric(ours[len(ours)/2], "ns/record")
	b.ReportMetric(theirs[len(theirs)/2], "bare-ns/record")
	b.ReportMetric(ours[len(ours)/2]/theirs[len(theirs)/2], "ratio")
	b.ReportMetric(0, "ns/op")
}
