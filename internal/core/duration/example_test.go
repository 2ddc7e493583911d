package duration_test

import (
	"fmt"

	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/demo/demobook"
)

// How long orders took from ordered to shipped, by site: the line of each adds up.
func ExampleAsk() {
	b := demobook.New(300)
	q, err := duration.Parse(b, duration.Request{Request: query.Request{By: []string{"site"}, Period: "2026"}})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(q.Sentence())
	part := duration.Ask(b, q).Parts[0]
	for _, g := range part.Groups {
		fmt.Printf("%q: median %.1f of %d\n", g.Keys[0], g.Lengths.Quantile(0.5)/float64(q.Measure.Unit.Ticks()), g.Lengths.Orders())
	}
	for _, t := range part.Total.Reconciliation(q.Leg) {
		if t.Orders > 0 {
			fmt.Println(t.Orders, t.Label)
		}
	}
	// Output:
	// How long from order date to ship date, in working days, start day not counted, for orders ordered in 2026, by site?
	// "": median 21.0 of 2
	// "Muscat": median 5.0 of 17
	// "Galway": median 4.0 of 41
	// "Saskatoon": median 4.0 of 47
	// "Hamilton": median 2.0 of 30
	// 137 counted
	// 4 still running
	// 4 cancelled
	// 1 cancelled before the order date
}
