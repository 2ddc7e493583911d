package present_test

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/present"
)

// BenchmarkPlaces ranks 5,000 places by the median days of 1.5 million orders, beside a bare loop that counts the lengths of each place
// and reads its median: how many times as long the figures take, and the whole answer.
func BenchmarkPlaces(b *testing.B) {
	orders, places := 1_500_000, 5_000
	if testing.Short() {
		orders, places = 3_000, 100
	}
	const first, last = day.Day(46000), day.Day(46600)
	random := rand.New(rand.NewPCG(1, 1))
	builder := book.NewBuilder(book.BuiltIn())
	ordered, shipped := milestone.Index(milestone.BuiltIn(), milestone.Ordered), milestone.Index(milestone.BuiltIn(), milestone.Shipped)
	var known []book.PlaceRecord
	for i := range places {
		known = append(known, book.PlaceRecord{Place: fmt.Sprint("P", i), Country: "Canada", At: &book.Coordinates{Latitude: 50, Longitude: float64(i % 90)}})
	}
	for i := range orders {
		o := book.Order{ID: int64(i + 1), Number: fmt.Sprint("N", i), Days: make([]day.Day, len(milestone.BuiltIn()))}
		o.Fields[book.Place], o.Fields[book.Country] = known[random.IntN(places)].Place, "Canada"
		o.Days[ordered] = first + day.Day(random.IntN(550))
		o.Days[shipped] = o.Days[ordered] + day.Day(random.IntN(50))
		builder.Put(o)
	}
	calendars, err := book.NewCalendars(nil)
	if err != nil {
		b.Fatal(err)
	}
	made := builder.Finish(book.Settings{Calendars: calendars, Places: known, Bounds: period.Bounds{FirstDay: first, DataDate: last}})
	in := &api.PlacesQuestion{By: "place", Show: "median", Few: 10, Rank: "figure"}
	in.From, in.To, in.In, in.Count, in.Calendar, in.CutOff = "ordered", "shipped", "days", "elapsed", "site", "on"
	bare := func() (medians []int) {
		counts := make([]uint32, (places+1)*64)
		for _, block := range made.Blocks() {
			from, to, codes := block.Columns[ordered].Known, block.Columns[shipped].Known, block.Codes[book.Place]
			for row, code := range codes {
				counts[code<<6|uint32(to[row]-from[row])&63]++
			}
		}
		for place := range places {
			all, sum := uint32(0), uint32(0)
			own := counts[(place+1)*64:][:64]
			for _, n := range own {
				all += n
			}
			for length, n := range own {
				if sum += n; 2*sum >= all {
					medians = append(medians, length)
					break
				}
			}
		}
		return medians
	}
	_, q, asked, err := present.PlacesQuestion(made, in)
	if err != nil {
		b.Fatal(err)
	}
	var figures, ours, theirs time.Duration
	for b.Loop() {
		began := time.Now()
		duration.Ask(asked, q)
		figures += time.Since(began)
		began = time.Now()
		if _, err := present.Places(made, in, present.ToRead); err != nil {
			b.Fatal(err)
		}
		ours += time.Since(began)
		began = time.Now()
		if len(bare()) != places {
			b.Fatal("places are missing")
		}
		theirs += time.Since(began)
	}
	b.ReportMetric(float64(figures)/float64(theirs), "figures-of-bare-loop")
	b.ReportMetric(float64(ours)/float64(theirs), "of-bare-loop")
	b.ReportMetric(float64(ours.Milliseconds())/float64(b.N), "ms")
	b.ReportMetric(0, "ns/op")
}
