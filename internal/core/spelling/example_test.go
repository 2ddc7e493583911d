package spelling_test

import (
	"fmt"

	"prairiedusk/internal/core/spelling"
)

func ExampleWant() {
	fmt.Println(spelling.Want("shiped", []string{"ordered", "shipped", "delivered"}))
	fmt.Println(spelling.Want("colour", []string{"ordered", "shipped"}))
	// Output:
	// did you mean shipped?
	// want one of ordered, shipped
}
