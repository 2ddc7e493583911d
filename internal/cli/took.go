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
	cmd := &cobra.Command{
		Use:   "took",
		Short: "How long a leg took",
		Long: `How long a leg took: mean, median, 90th percentile, shortest and longest, over the
orders whose leg is complete. All other orders stand in the line below, by kind.`,
		Example: `  prairie-dusk took --period 2026-Q3 --by site
  prairie-dusk took --from shipped --to delivered --in working-days --calendar destination
  prairie-dusk took --in working-hours --by site
  prairie-dusk took --basis shipped --period 2026-02,2026-04
  prairie-dusk took --by month,site --format csv > months.csv`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			answer, err := c.Took(cmd.Context(), q.Question)
			if err != nil {
				return err
			}
			return errors.Join(e.printTook(cmd, answer), k.keep(e, cmd, c, howLongPage, q.Words(), answer.Sentence))
		},
	}
	q.add(cmd.Flags())
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
	}
	return e.print(cmd, sheets...)
}

// tookSheet is the table of one period. For reading, kinds of orders that do not occur are left out; a file
// has all of them, so that its columns are always the same.
func tookSheet(a *api.Took, part api.TookPart, whole bool) sheet {
	s := sheet{title: a.Sentence, answer: a, columns: texts(a.By...)}
	if len(a.Parts) > 1 {
		s.columns = append([]column{{name: "period"}}, s.columns...)
	}
	if len(s.columns) == 0 {
		s.columns = texts("orders")
	}
	labels := len(s.columns)
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
		if len(a.Parts) > 1 {
			keys = append([]string{part.Period.Text}, keys...)
		}
		if len(keys) < labels {
			keys = append(keys, "all")
		}
		cells := append(keys, count(g.Asked, whole), count(g.N, whole), decimal(g.Mean, 2), decimal(g.Median, 1), decimal(g.P90, 1), length(g.Min), length(g.Max))
		for _, i := range kinds {
			cells = append(cells, count(g.Reconciliation[i].Orders, whole))
		}
		if unknown {
			cells = append(cells, count(g.HolidaysUnknown, whole))
		}
		return cells
	}
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
