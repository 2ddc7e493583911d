package calendar

import (
	"fmt"
	"testing"
	"time"

	"prairiedusk/internal/core/day"
)

// A length by calendar is two look-ups, in working days and in working hours, whatever its span.
func BenchmarkSpan(b *testing.B) {
	c, err := New(Definition{Name: "Galway", Hours: []DailyHours{{day.First, Hours{{8 * 3600, 16 * 3600}}}}})
	if err != nil {
		b.Fatal(err)
	}
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		b.Fatal(err)
	}
	local, sum := Local{c, zone}, 0
	local.WorkedSeconds(0, 1) // makes the running total
	for _, span := range []day.Day{1, 10, 100, 1000, 10_000, 100_000} {
		start := day.Day(5000)
		b.Run(fmt.Sprintf("working-days/%d-days", span), func(b *testing.B) {
			for b.Loop() {
				sum += c.Elapsed(start, start+span)
			}
		})
		from, to := start.At(9*3600, zone), (start+span).At(15*3600, zone)
		b.Run(fmt.Sprintf("working-hours/%d-days", span), func(b *testing.B) {
			for b.Loop() {
				sum += local.WorkedSeconds(from, to)
			}
		})
	}
}
