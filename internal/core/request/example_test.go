package request_test

import (
	"fmt"

	"prairiedusk/internal/core/request"
)

func ExampleInvalid() {
	fmt.Println(request.Invalid("from", "orderd", "want one of ordered, shipped"))
	// Output: from "orderd": want one of ordered, shipped
}
