package milestone_test

import (
	"fmt"

	"prairiedusk/internal/core/milestone"
)

// A plan never stands in for a fact.
func ExampleWithStandIn() {
	all := milestone.BuiltIn()
	invoiced, shipped := all[milestone.Index(all, milestone.Invoiced)], all[milestone.Index(all, milestone.Shipped)]
	m := milestone.WithStandIn(invoiced, shipped)
	fmt.Println(m.Name)
	fmt.Println(m.Words())
	// Output:
	// invoiced-or-shipped
	// invoiced (or shipped where that is missing)
}
