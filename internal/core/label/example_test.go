package label_test

import (
	"fmt"

	"prairiedusk/internal/core/label"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/demo/demobook"
)

// A label puts each order under the first rule that it meets.
func ExampleCounts() {
	b := demobook.New(300)
	missing := func(milestone string) predicate.Condition {
		return predicate.Compare{Operator: predicate.Equal, X: predicate.Day(milestone), Y: predicate.Literal{}}
	}
	l := label.Label{Name: "stage", Rules: []label.Rule{{When: missing("shipped"), Text: "open"},
		{When: missing("delivered"), Text: "on its way"}}, Rest: "there"}
	b = label.Apply(b, l, func(string) int { return 2 })
	for _, c := range label.Counts(b, l) {
		if c.Orders > 0 {
			fmt.Println(c.Text, c.Orders)
		}
	}
	// Output:
	// open 18
	// on its way 16
	// there 266
}
