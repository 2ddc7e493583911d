package cli

import (
	"errors"
	"fmt"
	"math"
	"strconv"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/figure"
)

func newTook(e *environment) *cobra.Command {
	var q questionFlags
	var k keeper
	var over, atLeast float64
	cmd := &cobra.Command{
		Use:   "took",
		Short: "How long a leg took",
		Long: `How long a leg took: mean, median, 90th percentile, shortest and longest, over the
orders whose leg is complete. All other orders stand in the line below, by kind.`,
		Example: `  prairie-dusk took --period 2026-Q3 --by site
  prairie-dusk took --from shipped --to delivered --in working-days --calendar destination
  prairie-dusk took --in working-hours --by site
  prairie-dusk took --over 10 --by site
  prairie-dusk took --with-running --period 2026-10
  prairie-dusk took --basis shipped --period 2026-02,2026-04
  prairie-dusk took --by month,site --format csv > months.csv`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			if cmd.Flags().Changed("over") {
				q.Over = &over
			}
			if cmd.Flags().Changed("at-least") {
				q.AtLeast = &atLeast
			}
			answer, err := c.Took(cmd.Context(), q.Question)
			if err != nil {
				return err
			}
			return errors.Join(e.printTook(cmd, answer), k.keep(e, cmd, c, howLongPage, q.Words(), answer.Sentence))
		},
	}
	q.add(cmd.Flags())
	cmd.Flags().Float64Var(&over, "over", 0, "also how many took over this `length`, finished or still waiting")
	cmd.Flags().Float64Var(&atLeast, "at-least", 0, "also how many took at least this `length`")
	cmd.Flags().BoolVar(&q.WithRunning, "with-running", false, "also an estimate with the orders that still run")
	k.add(cmd)
	addFormat(cmd)
	e.completeQuestion(cmd)
	return cmd
}

func (e *environment) printTook(cmd *cobra.Command, answer *api.Took) error {
	csv := e.settings.GetString("format") == asCSV
	var sheets []sheet
	for _, part := range answer.Parts {
		sheets = append(sheets, tookSheet(answer, part, csv))
		if csv {
			continue // a file has it all in one table
		}
		if answer.Limit != "" {
			sheets = append(sheets, limitSheet(answer, part))
		}
		if part.Total.Estimate != nil {
			sheets = append(sheets, estimateSheet(answer, part))
		}
	}
	if answer.NoCurve != "" {
		last := &sheets[len(sheets)-1]
		last.below = append(last.below, notePrefix+"there is no estimate with running orders: "+answer.NoCurve)
	}
	return e.print(cmd, sheets...)
}

// tookSheet is the table of one period. For reading, kinds of orders that do not occur are left out; a file
// has all of them, so that its columns are always the same.
func tookSheet(a *api.Took, part api.TookPart, whole bool) sheet {
	s := sheet{title: a.Sentence, answer: a, columns: groupColumns(a, part)}
	s.columns = append(s.columns, numbers("asked", "n")...)
	for _, name := range []string{"mean", "median", "p90", "min", "max"} {
		s.columns = append(s.columns, column{name: name, over: a.Heading, numeric: true})
	}
	var kinds []int // of the reconciliation, after "counted"
	for i, r := range part.Total.Reconciliation {
		if i > 0 && (whole || r.Orders > 0) {
			kinds = append(kinds, i)
			s.columns = append(s.columns, column{name: r.Label, numeric: true})
		}
	}
	unknown := whole || part.Total.HolidaysUnknown > 0
	if unknown {
		s.columns = append(s.columns, column{name: "holidays unknown", numeric: true})
	}
	row := func(g api.Group, keys []string) []string {
		cells := append(labelled(a, part, keys), count(g.Asked, whole), count(g.N, whole), decimal(g.Mean, 2), decimal(g.Median, 1), decimal(g.P90, 1), length(g.Min), length(g.Max))
		for _, i := range kinds {
			cells = append(cells, count(g.Reconciliation[i].Orders, whole))
		}
		if unknown {
			cells = append(cells, count(g.HolidaysUnknown, whole))
		}
		if whole {
			cells = append(append(cells, limitCells(g, true)...), estimateCells(g, true)...)
		}
		return cells
	}
	if whole && a.Limit != "" {
		s.columns = append(s.columns, limitColumns(a)...)
	}
	if whole && part.Total.Estimate != nil {
		s.columns = append(s.columns, estimateColumns(a)...)
	}
	s.addGroups(a, part, row)
	s.below = append(s.below, part.Total.ReconciliationLine)
	if part.PlacementLine != "" {
		s.below = append(s.below, part.PlacementLine)
	}
	for _, n := range part.Notes {
		s.below = append(s.below, notePrefix+n.Text)
	}
	s.below = append(s.below, fmt.Sprintf("p90 is the 90th percentile. Records from %s to %s.", a.FirstDay, a.DataDate))
	return s
}

// addGroups gives a sheet its rows, one for each group, and the total.
func (s *sheet) addGroups(a *api.Took, part api.TookPart, row func(g api.Group, keys []string) []string) {
	for _, g := range part.Groups {
		keys := make([]string, len(g.Keys))
		for i, key := range g.Keys {
			keys[i] = orNone(key)
		}
		s.rows = append(s.rows, row(g, keys))
	}
	all := make([]string, len(a.By))
	for i := range all {
		all[i] = "all"
	}
	s.total = row(part.Total, all)
}

func limitColumns(a *api.Took) []column {
	columns := numbers("finished", "still waiting")
	for i := range columns {
		columns[i].over = a.Limit
	}
	return append(columns, numbers("finished within", "undecided", "share %", "at least %", "at most %")...)
}

// limitCells say how many of a group went over the limit; nothing where none was asked for.
func limitCells(g api.Group, plain bool) []string {
	if g.Over == nil {
		return nil
	}
	o := *g.Over
	return []string{count(o.Finished, plain), count(o.Waiting, plain), count(o.Within, plain), count(o.Undecided, plain), o.Share, o.Low, o.High}
}

// limitSheet says how many went over the limit, with those that still wait and the bounds that the undecided allow.
func limitSheet(a *api.Took, part api.TookPart) sheet {
	s := sheet{title: fmt.Sprintf("How many took %s, finished or still waiting?", a.Limit), columns: append(groupColumns(a, part), limitColumns(a)...)}
	s.addGroups(a, part, func(g api.Group, keys []string) []string {
		return append(labelled(a, part, keys), limitCells(g, false)...)
	})
	s.below = []string{"The share is of all that are decided. Undecided still run and are not over yet: at least and at most are the shares should none or all of them go over."}
	return s
}

func estimateColumns(a *api.Took) []column {
	return append(numbers("still running"), column{name: "median with running", over: a.Heading, numeric: true})
}

func estimateCells(g api.Group, plain bool) []string {
	if g.Estimate == nil {
		return nil
	}
	median := length(g.Estimate.Median)
	if g.Estimate.Median == nil && g.Asked > 0 {
		median = "not reached"
	}
	return []string{count(g.Estimate.Running, plain), median}
}

// estimateSheet puts the plain median beside the one that counts what is known of running orders.
func estimateSheet(a *api.Took, part api.TookPart) sheet {
	s := sheet{title: "And with the orders that still run?", columns: groupColumns(a, part)}
	s.columns = append(append(s.columns, column{name: "median", over: a.Heading, numeric: true}), estimateColumns(a)...)
	s.addGroups(a, part, func(g api.Group, keys []string) []string {
		return append(append(labelled(a, part, keys), decimal(g.Median, 1)), estimateCells(g, false)...)
	})
	words := part.Total.Estimate.Words
	s.below = []string{figure.Sentence(words) + ".", "The product-limit estimate: an order that still runs counts as longer than it has run so far. Cancelled orders are left out of it."}
	return s
}

// groupColumns are the columns that say of which group a row is.
func groupColumns(a *api.Took, part api.TookPart) []column {
	columns := texts(a.By...)
	if len(a.Parts) > 1 {
		columns = append([]column{{name: "period"}}, columns...)
	}
	if len(columns) == 0 {
		columns = texts("orders")
	}
	return columns
}

// labelled are the cells below groupColumns.
func labelled(a *api.Took, part api.TookPart, keys []string) []string {
	if len(a.Parts) > 1 {
		keys = append([]string{part.Period.Text}, keys...)
	}
	if len(keys) == 0 {
		keys = []string{"all"}
	}
	return keys
}

func orNone(key string) string {
	if key == "" {
		return "(none)"
	}
	return key
}

// count writes a count, plainly for a file.
func count(n int, plain bool) string {
	if plain {
		return strconv.Itoa(n)
	}
	return figure.Count(n)
}

func decimal(x *float64, places int) string {
	if x == nil {
		return ""
	}
	return strconv.FormatFloat(*x, 'f', places, 64)
}

func integer(n *int) string {
	if n == nil {
		return ""
	}
	return strconv.Itoa(*n)
}

// length is whole where it is, else with two decimals.
func length(x *float64) string {
	if x != nil && *x == math.Trunc(*x) {
		return decimal(x, 0)
	}
	return decimal(x, 2)
}
