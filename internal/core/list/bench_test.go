package list_test

import (
	"fmt"
	"sync"
	"testing"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/summary"
	"prairiedusk/internal/demo/demobook"
)

var million = sync.OnceValue(func() *book.Book { return demobook.New(1_000_000) })

// The first page of a million orders, by what they can be sorted and picked by; milliseconds a page. Ranks of fields
// are made once a book, before the clock runs.
func BenchmarkFirstPage(b *testing.B) {
	orders := million()
	shipped := leg.Leg{From: milestone.BuiltIn()[0], To: milestone.BuiltIn()[3]}
	length := predicate.Length{Leg: shipped, Measure: leg.Measure{Unit: leg.WorkingDays}}
	soFar := predicate.Length{Leg: shipped, Measure: leg.Measure{Unit: leg.WorkingDays}, SoFar: true}
	slow := predicate.Compare{Operator: predicate.Greater, X: soFar, Y: predicate.Literal{Kind: predicate.OfNumber, Number: 10}}
	decimals := func(string) int { return 2 }
	q, err := summary.Parse(orders, summary.Request{})
	if err != nil {
		b.Fatal(err)
	}
	show := []list.Column{{Operand: predicate.Number{}}, {Operand: predicate.Field("customer")}, {Operand: predicate.Day("ordered")}, {Operand: length}}
	for _, by := range []struct {
		name    string
		operand predicate.Operand
		where   predicate.Condition
	}{
		{"number", predicate.Number{}, nil}, {"customer", predicate.Field("customer"), nil}, {"shipped", predicate.Day("shipped"), nil},
		{"value", predicate.Value{}, nil}, {"length", length, nil}, {"so-far", soFar, slow},
	} {
		b.Run(fmt.Sprintf("by=%s", by.name), func(b *testing.B) {
			q := q
			if by.where != nil {
				q.Where = summary.Where{Text: "slow", Condition: by.where, Decimals: decimals}
			}
			r := list.Request{Question: q, Columns: show, Sort: []list.Key{{Column: list.Column{Operand: by.operand}, Descending: true}}, Most: 100, Decimals: decimals}
			for b.Loop() {
				if _, err := list.Ask(b.Context(), orders, r); err != nil {
					b.Fatal(err)
				}
			}
			b.ReportMetric(float64(b.Elapsed().Milliseconds())/float64(b.N), "ms/page")
		})
	}
}
