package present

import (
	"testing"
	"time"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/demo/demobook"
)

// BenchmarkUntested answers questions of which no order lies on an edge of the period, so that all are looked through for one, and tells
// how much longer that takes with the notes on what is not tested than without, in percent.
func BenchmarkUntested(b *testing.B) {
	orders := 1_000_000
	if testing.Short() {
		orders = 3_000
	}
	made := demobook.New(orders)
	for _, by := range [][]string{nil, {"site"}} {
		name := "all"
		if by != nil {
			name = "by site"
		}
		b.Run(name, func(b *testing.B) {
			in := &api.TookQuestion{Leg: api.Leg{Measured: api.Measured{From: "ordered", To: "shipped", Lengths: api.Lengths{In: "working-days", Count: "elapsed",
				Calendar: "site"}}, CutOffs: api.CutOffs{CutOff: "on"}}, Placing: api.Placing{By: by, Period: "2025-01-04/2026-08-30", Basis: "shipped"}}
			in.Where.Where = `shipped > "2025-01-04" && shipped < "2026-08-30"`
			var notes time.Duration
			for b.Loop() {
				d, err := Took(made, in, ToRead)
				if err != nil {
					b.Fatal(err)
				}
				q, of, err := TookQuestion(made, in)
				if err != nil {
					b.Fatal(err)
				}
				began := time.Now()
				SayUntested(d)
				first, last := query.NewScope(of, q.Question, q.Periods[0]).OnEdges()
				if notes += time.Since(began); first || last {
					b.Fatal("an order lies on an edge")
				}
			}
			// An answer has looked at the edges itself.
			b.ReportMetric(100*notes.Seconds()/(b.Elapsed()-2*notes).Seconds(), "%-more-with-notes")
		})
	}
}
