package list_test

import (
	"fmt"

	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/demo/demobook"
)

// The orders of a selection, with columns of one's own.
func ExampleAsk() {
	b := demobook.New(300)
	q, err := duration.Parse(b, duration.Request{Request: query.Request{Period: "2026-10"}})
	if err != nil {
		fmt.Println(err)
		return
	}
	answer, _ := list.Ask(b, list.Request{Question: q, Most: 2, Decimals: func(string) int { return 2 }, Columns: []list.Column{
		{Heading: "site", Operand: predicate.Field("site")}, {Heading: "shipped", Operand: predicate.Day("shipped")}}})
	fmt.Println(answer.Orders, "orders")
	for i := range answer.Len() {
		fmt.Println(answer.Row(i).Number, answer.Row(i).Cells[0].Text, answer.Row(i).Cells[1].Text)
	}
	// Output:
	// 13 orders
	// SD-100288 Saskatoon 2026-10-13
	// SD-100289 Muscat 2026-10-07
}
