package due_test

import (
	"fmt"

	"prairiedusk/internal/core/due"
	"prairiedusk/internal/demo/demobook"
)

// Which open orders are late by the day that was promised, and which are at risk.
func ExampleAsk() {
	b := demobook.New(300)
	q, err := due.Parse(b, due.Request{Within: "5"})
	if err != nil {
		fmt.Println(err)
		return
	}
	answer := due.Ask(b, q)
	for _, s := range due.InOrder() {
		if n := answer.Counts[s]; n > 0 {
			fmt.Println(s, n)
		}
	}
	// Output:
	// overdue 5
	// at-risk 2
	// on-the-day 19
	// early 172
	// reached-late 76
	// cancelled 9
	// no-promise 15
	// not-begun 2
}
