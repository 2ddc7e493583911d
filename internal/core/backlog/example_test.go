package backlog_test

import (
	"fmt"

	"prairiedusk/internal/core/backlog"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/demo/demobook"
)

// What was open in July: what was open at its start, plus what was opened, less what was closed, is what was open at its end.
func ExampleDuring() {
	b := demobook.New(300)
	q, err := backlog.Parse(b, query.Request{Period: "2026-07"}, backlog.ClosingDayIn)
	if err != nil {
		fmt.Println(err)
		return
	}
	answer, _ := backlog.During(b, q, q.Periods[0], query.NoCut, false)
	row := answer.Total.Rows[0]
	fmt.Println(row.AtStart.Orders, "+", row.Opened.Orders, "−", row.Closed.Orders, "=", row.AtEnd.Orders)
	// Output:
	// 9 + 14 − 19 = 4
}
