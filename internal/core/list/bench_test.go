package list_test

import (
	"fmt"
	"slices"
	"sync"
	"testing"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/demo/demobook"
)

// million is a book of a million orders; short tests run each benchmark once, on fewer.
var million = sync.OnceValue(func() *book.Book {
	if testing.Short() {
		return demobook.New(10_000)
	}
	return demobook.New(1_000_000)
})

// The first page of a million orders, by what they can be sorted and picked by; milliseconds a page. Ranks of fields
// are made once a book, before the clock runs.
func BenchmarkFirstPage(b *testing.B) {
	orders := million()
	shipped := leg.Leg{From: milestone.BuiltIn()[0], To: milestone.BuiltIn()[3]}
	length := predicate.Length{Leg: shipped, Measure: leg.Measure{Unit: leg.WorkingDays}}
	soFar := predicate.Length{Leg: shipped, Measure: leg.Measure{Unit: leg.WorkingDays}, SoFar: true}
	days := predicate.Length{Leg: leg.Leg{From: milestone.BuiltIn()[0], To: milestone.BuiltIn()[5]}, Measure: leg.Measure{Unit: leg.Days}}
	unpaid := predicate.Compare{Operator: predicate.Equal, X: predicate.Day("paid"), Y: predicate.Literal{}}
	slow := predicate.Compare{Operator: predicate.Greater, X: soFar, Y: predicate.Literal{Kind: predicate.OfNumber, Number: 10}}
	decimals := func(string) int { return 2 }
	q, err := duration.Parse(orders, duration.Request{})
	if err != nil {
		b.Fatal(err)
	}
	show := []list.Column{{Operand: predicate.Number{}}, {Operand: predicate.Field("customer")}, {Operand: predicate.Day("ordered")},
		{Operand: length}}
	for _, by := range []struct {
		name    string
		operand predicate.Operand
		where   predicate.Condition
		more    []list.Column
	}{
		{"number", predicate.Number{}, nil, nil}, {"customer", predicate.Field("customer"), nil, nil},
		{"shipped", predicate.Day("shipped"), nil, nil},
		{"value", predicate.Value{}, nil, nil}, {"length", length, nil, nil}, {"so-far", soFar, slow, nil},
		{"much", days, nil, []list.Column{{Operand: days}, {Operand: predicate.Value{}}, {Operand: soFar}, {Condition: unpaid}}},
	} {
		b.Run(fmt.Sprintf("by=%s", by.name), func(b *testing.B) {
			q := q
			if by.where != nil {
				q.Where = query.Where{Text: "slow", Condition: by.where, Decimals: decimals}
			}
			r := list.Request{Question: q, Columns: append(slices.Clip(show), by.more...),
				Sort: []list.Key{{Column: list.Column{Operand: by.operand}, Descending: true}}, Most: 100, Decimals: decimals}
			for b.Loop() {
				if _, err := list.Ask(orders, r); err != nil {
					b.Fatal(err)
				}
			}
			b.ReportMetric(float64(b.Elapsed().Milliseconds())/float64(b.N), "ms/page")
		})
	}
}
