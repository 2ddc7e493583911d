package numfmt_test

import (
	"fmt"

	"prairiedusk/internal/core/numfmt"
)

func ExampleCounted() {
	fmt.Println(numfmt.Counted(1, "order"), numfmt.Counted(1204, "order"))
	fmt.Println(numfmt.Counted(2, "row") + numfmt.Agreeing(2, " is", " are") + " set aside")
	// Output:
	// 1 order 1,204 orders
	// 2 rows are set aside
}
