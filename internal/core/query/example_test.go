package query_test

import (
	"fmt"

	"prairiedusk/internal/core/query"
	"prairiedusk/internal/demo/demobook"
)

// A counter counts orders.
type counter struct{ orders int }

func (c *counter) Visit(s *query.Stretch) { c.orders += len(s.Chosen()) }

func (c *counter) Merge(other *counter) { c.orders += other.orders }

// An accumulator counts the orders that a question is about; the scan says what became of all others.
func ExampleRun() {
	b := demobook.New(300)
	q, err := query.Parse(b, query.Request{Period: "2026-Q3"})
	if err != nil {
		fmt.Println(err)
		return
	}
	counted, population := query.Run(query.NewScope(b, q, q.Periods[0]), func() *counter { return &counter{} })
	fmt.Println(counted.orders == population.Asked)
	for _, t := range population.Terms(q.Basis) {
		fmt.Println(t.Orders, t.Label)
	}
	// Output:
	// true
	// 41 selected
	// 255 with order date outside 2026-Q3
	// 4 undated (no order date)
}
