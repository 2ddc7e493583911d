package cli

import (
	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

func newCompare(e *environment) *cobra.Command {
	return e.asks(&cobra.Command{
		Use:   "compare",
		Short: "The same figure by several dates, in each step of time",
		Long: `How many orders, lines, units or how much value by several dates beside each other: what was
ordered, and shipped, and delivered in each month; and the bridge from one date to another.
Steps in which nothing lies are there, with the reason.`,
		Example: `  prairie-dusk compare --show units --each month
  prairie-dusk compare --basis ordered,shipped,delivered,invoiced --each quarter --show units
  prairie-dusk compare --basis ordered --each day --period 2026-04 --empty alone
  prairie-dusk compare --basis ordered,shipped --each week --period 2026-Q3 --empty hidden --output weeks.xlsx`,
	}, asking{path: "/compare", page: comparePage, in: &api.CompareQuestion{}})
}

func newCrosstab(e *environment) *cobra.Command {
	return e.asks(&cobra.Command{
		Use:   "crosstab",
		Short: "Rows by columns: seasons, products, sites",
		Long: `Orders, lines, units, value, a statistic of a leg or a share, by the groups of rows and of
columns: fields, columns of lines such as product, steps of the date, months of the year and
weekdays, or steps of another date, as month(shipped). An order that has lines in several rows
is under each, and once in the sums.`,
		Example: `  prairie-dusk crosstab --rows product --columns month-of-year --show units --basis shipped
  prairie-dusk crosstab --rows site --columns weekday
  prairie-dusk crosstab --rows category --columns quarter --show value --basis delivered
  prairie-dusk crosstab --rows product --columns site --show median --top 5
  prairie-dusk crosstab --rows 'month(ordered)' --columns 'month(shipped)' --basis ordered --period 2026
  prairie-dusk crosstab --rows site --columns month --show share --meets 'shipped == ordered'`,
	}, asking{path: "/crosstab", page: crosstabPage, in: &api.CrosstabQuestion{}})
}
