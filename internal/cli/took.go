package cli

import (
	"fmt"
	"io"
	"math"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/promise"
)

func newTook(e *environment) *cobra.Command {
	var q questionFlags
	var k viewSaver
	var over, atLeast float64
	var explain bool
	cmd := &cobra.Command{
		Use:   "took",
		Short: "How long a leg took",
		Long: `How long a leg took: mean, median, 90th percentile, shortest and longest, over the
orders whose leg is complete. All other orders stand in the line below, by kind.`,
		Example: `  prairie-dusk took --period 2026-Q3 --by site
  prairie-dusk took --from shipped --to delivered --in working-days --calendar destination
  prairie-dusk took --in working-hours --by site
  prairie-dusk took --over 10 --by site
  prairie-dusk took --promise promised --by site
  prairie-dusk took --promise 5 --by month
  prairie-dusk took --to paid --through shipped,delivered,invoiced-or-shipped
  prairie-dusk took --with-running --period 2026-10
  prairie-dusk took --show median --by month,site
  prairie-dusk took --period 2026-10 --explain
  prairie-dusk took --by month,site --output months.xlsx`,
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
			if err := e.took(cmd, c, q.Words(), explain); err != nil || k.name == "" {
				return err
			}
			answer, err := c.Took(cmd.Context(), q.Question)
			if err != nil {
				return err
			}
			return k.keep(e, cmd, c, howLongPage, q.Words(), answer.Sentence)
		},
	}
	q.add(cmd.Flags())
	cmd.Flags().Float64Var(&over, "over", 0, "also how many took over this `length`, finished or still waiting")
	cmd.Flags().Float64Var(&atLeast, "at-least", 0, "also how many took at least this `length`")
	cmd.Flags().StringVar(&q.Promise, "promise", "", "also how many came early, on the day or late: by a `plan` such as promised,\nor within a number of working days after the start")
	cmd.Flags().StringSliceVar(&q.Through, "through", nil, "`milestones` between the two ends, with commas: each leg of the chain, and the whole")
	cmd.Flags().StringSliceVar(&q.Show, "show", nil, "`statistics`, with commas: mean, median, min, max, standard-deviation, or percentiles\nsuch as p75; default mean,median,p90,min,max; one alone lays two groupings out as rows and columns")
	cmd.Flags().BoolVar(&q.WithRunning, "with-running", false, "also an estimate with the orders that still run")
	cmd.Flags().BoolVar(&explain, "explain", false, "also the working: what each step leaves of the orders in the book")
	k.add(cmd)
	addOutput(cmd)
	e.completeQuestion(cmd)
	milestones := func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
		return e.complete(cmd, known.milestones), cobra.ShellCompDirectiveNoFileComp
	}
	_ = cmd.RegisterFlagCompletionFunc("through", milestones)
	_ = cmd.RegisterFlagCompletionFunc("promise", func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
		return e.complete(cmd, known.plans), cobra.ShellCompDirectiveNoFileComp
	})
	_ = cmd.RegisterFlagCompletionFunc("show", cobra.FixedCompletions([]string{"mean", "median", "min", "max", "standard-deviation", "p75", "p90", "p95"}, cobra.ShellCompDirectiveNoFileComp))
	return cmd
}

// took prints the answer, or takes it away as a file. As JSON it is printed as the service says it.
func (e *environment) took(cmd *cobra.Command, c *client.Client, words url.Values, explain bool) error {
	format, err := e.fileFormat(cmd)
	if err != nil {
		return err
	}
	if format != asTable && (format != asJSON || e.settings.GetString("output") != "") {
		return e.writeFile(cmd, format, func(to io.Writer) error { return c.TookFile(cmd.Context(), words, format, to) })
	}
	answer, err := c.TookAt(cmd.Context(), words)
	if err != nil {
		return err
	}
	return e.print(cmd, tookSheets(answer, explain)...)
}

// tookSheets are the answer for reading: the statistics of each period, and below them whatever else was asked.
func tookSheets(answer *api.Took, explain bool) (sheets []sheet) {
	for _, part := range answer.Parts {
		if explain {
			sheets = append(sheets, workingSheet(answer, part))
		}
		switch {
		case len(part.Legs) > 0:
			sheets = append(sheets, chainSheet(answer, part))
		case len(answer.By) == 2 && len(answer.Show) == 1:
			sheets = append(sheets, crossSheet(answer, part))
		default:
			sheets = append(sheets, tookSheet(answer, part))
		}
		if answer.Limit != "" {
			sheets = append(sheets, limitSheet(answer, part))
		}
		if answer.Promise != "" {
			sheets = append(sheets, promiseSheet(answer, part))
		}
		if part.Total.Estimate != nil {
			sheets = append(sheets, estimateSheet(answer, part))
		}
	}
	if answer.NoCurve != "" {
		last := &sheets[len(sheets)-1]
		last.below = append(last.below, notePrefix+"there is no estimate with running orders: "+answer.NoCurve)
	}
	sheets[0].answer = answer
	return sheets
}

// figureColumns are those of the statistics that are shown.
func figureColumns(a *api.Took) (columns []column) {
	heading := a.Heading
	if len(a.Through) > 0 { // each leg has its own name
		heading = strings.TrimPrefix(heading, a.From+" → "+a.To+", ")
	}
	for _, name := range a.Show {
		columns = append(columns, column{name: name, over: heading, numeric: true})
	}
	return columns
}

// figureText writes a statistic; the shortest and the longest are lengths.
func figureText(name string, x *float64) string {
	switch name {
	case "mean", "standard-deviation":
		return decimal(x, 2)
	case "min", "max":
		return length(x)
	}
	return decimal(x, 1)
}

func figureCells(a *api.Took, g api.Group) (cells []string) {
	for i, x := range g.Figures {
		cells = append(cells, figureText(a.Show[i], x))
	}
	return cells
}

// fewMark stands behind the number of lengths of a small group.
const fewMark = "†"

func lengths(g api.Group) string {
	if g.Small {
		return numfmt.Count(g.N) + fewMark
	}
	return numfmt.Count(g.N)
}

// tookSheet is the table of one period. Kinds of orders that do not occur are left out.
func tookSheet(a *api.Took, part api.TookPart) sheet {
	s := sheet{title: a.Sentence, columns: groupColumns(a, part)}
	s.columns = append(append(s.columns, numbers("asked", "n")...), figureColumns(a)...)
	var kinds []int // of the reconciliation, after "counted"
	for i, r := range part.Total.Reconciliation {
		if i > 0 && r.Orders > 0 {
			kinds = append(kinds, i)
			s.columns = append(s.columns, column{name: r.Label, numeric: true})
		}
	}
	inTime := slices.ContainsFunc(part.Groups, func(g api.Group) bool { return g.Step != nil && g.Running != part.Total.Running })
	if inTime {
		s.columns = append(s.columns, numbers("still running %")...)
	}
	unknown := part.Total.HolidaysUnknown > 0
	if unknown {
		s.columns = append(s.columns, column{name: "holidays unknown", numeric: true})
	}
	s.addGroups(a, part, func(g api.Group, keys []string) []string {
		cells := append(append(labelled(a, part, keys), numfmt.Count(g.Asked), lengths(g)), figureCells(a, g)...)
		for _, i := range kinds {
			cells = append(cells, numfmt.Count(g.Reconciliation[i].Orders))
		}
		if inTime {
			cells = append(cells, g.Running)
		}
		if unknown {
			cells = append(cells, numfmt.Count(g.HolidaysUnknown))
		}
		return cells
	})
	s.below = below(a, part)
	return s
}

// below is what has to be said under the table of a period.
func below(a *api.Took, part api.TookPart) []string {
	all := []string{part.Total.ReconciliationLine}
	for _, line := range []string{part.PlacementLine, numfmt.Sentence(part.ChainLine)} {
		if line != "" {
			all = append(all, line)
		}
	}
	if shown := len(part.Groups); shown < part.AllGroups {
		all = append(all, notePrefix+fmt.Sprintf("the first %s of %s groups are shown; a file has all: --output FILE", numfmt.Count(shown), numfmt.Count(part.AllGroups)))
	}
	for _, n := range part.Notes {
		all = append(all, notePrefix+n.Text)
	}
	end := fmt.Sprintf("Records from %s to %s.", a.FirstDay, a.DataDate)
	if slices.ContainsFunc(a.Show, func(name string) bool { return strings.HasPrefix(name, "p") }) {
		end = "p90 is the 90th percentile. " + end
	}
	if slices.ContainsFunc(part.Groups, func(g api.Group) bool { return g.Small }) || part.Total.Small {
		end = fmt.Sprintf("%s fewer than %d lengths, whose percentiles say little. ", fewMark, a.Few) + end
	}
	return append(all, end)
}

// crossSheet lays one statistic out by two groupings, with the number of lengths in brackets.
func crossSheet(a *api.Took, part api.TookPart) sheet {
	s := sheet{title: a.Sentence, columns: texts(a.By[0])}
	for _, c := range append(slices.Clone(part.Columns), part.Total) {
		name := "all"
		if len(c.Keys) > 0 {
			name = stepName(c, c.Keys[0])
		}
		s.columns = append(s.columns, column{name: name, over: a.By[1] + ": " + a.Show[0] + " (n), " + a.Heading, numeric: true})
	}
	cell := func(g api.Group) string {
		if g.N == 0 {
			return ""
		}
		return figureText(a.Show[0], g.Figures[0]) + " (" + lengths(g) + ")"
	}
	line := func(name string, along api.Group, of func(g api.Group, column string) bool) []string {
		cells := []string{name}
		for _, c := range part.Columns {
			i := slices.IndexFunc(part.Groups, func(g api.Group) bool { return of(g, c.Keys[0]) })
			if i < 0 {
				cells = append(cells, "")
				continue
			}
			cells = append(cells, cell(part.Groups[i]))
		}
		return append(cells, cell(along))
	}
	for _, r := range part.Rows {
		s.rows = append(s.rows, line(stepName(r, r.Keys[0]), r, func(g api.Group, column string) bool { return g.Keys[0] == r.Keys[0] && g.Keys[1] == column }))
	}
	s.total = []string{"all"}
	for _, c := range append(slices.Clone(part.Columns), part.Total) {
		s.total = append(s.total, cell(c))
	}
	s.below = below(a, part)
	if len(a.Parts) > 1 {
		s.title += " (" + part.Period.Text + ")"
	}
	return s
}

// chainSheet has a row for each leg of a chain and for the whole, in each group.
func chainSheet(a *api.Took, part api.TookPart) sheet {
	s := sheet{title: a.Sentence, columns: texts("leg")}
	if len(a.By) > 0 || len(a.Parts) > 1 {
		s.columns = append(groupColumns(a, part), s.columns...)
	}
	s.columns = append(append(s.columns, numbers("asked", "n")...), figureColumns(a)...)
	s.columns = append(s.columns, numbers("still running", "cancelled", "otherwise left out", "n, every leg complete")...)
	s.columns = append(s.columns, column{name: "mean, every leg complete", numeric: true})
	row := func(g api.Group, keys []string, leg string) []string {
		cells := []string{leg}
		if len(a.By) > 0 || len(a.Parts) > 1 {
			cells = append(labelled(a, part, keys), cells...)
		}
		cells = append(append(cells, numfmt.Count(g.Asked), lengths(g)), figureCells(a, g)...)
		kinds := [3]int{}
		for _, r := range g.Reconciliation[1:] {
			switch r.State {
			case "running":
				kinds[0] += r.Orders
			case "cancelled":
				kinds[1] += r.Orders
			default:
				kinds[2] += r.Orders
			}
		}
		for _, n := range append(kinds[:], g.EveryLeg.N) {
			cells = append(cells, numfmt.Count(n))
		}
		return append(cells, decimal(g.EveryLeg.Mean, 2))
	}
	whole := a.From + " → " + a.To
	for i, g := range part.Groups {
		for _, l := range part.Legs {
			s.rows = append(s.rows, row(l.Groups[i], keysOf(g), l.From+" → "+l.To))
		}
		s.rows = append(s.rows, row(g, keysOf(g), whole))
	}
	for _, l := range part.Legs {
		s.rows = append(s.rows, row(l.Total, allOf(a), l.From+" → "+l.To))
	}
	s.total = row(part.Total, allOf(a), whole)
	s.below = below(a, part)
	return s
}

// workingSheet shows what each step leaves of the orders in the book.
func workingSheet(a *api.Took, part api.TookPart) sheet {
	s := sheet{title: "The working, step by step", columns: []column{{name: "step", wraps: true}, {name: "orders", numeric: true}, {name: "left out by it", wraps: true}}}
	if len(a.Parts) > 1 {
		s.title += " (" + part.Period.Text + ")"
	}
	for _, step := range part.Steps {
		var left []string
		for _, r := range step.Left {
			left = append(left, numfmt.Count(r.Orders)+" "+r.Label)
		}
		s.rows = append(s.rows, []string{step.Label, numfmt.Count(step.Orders), strings.Join(left, ", ")})
	}
	return s
}

// promiseSheet says how many came early, on the day or late.
func promiseSheet(a *api.Took, part api.TookPart) sheet {
	s := sheet{title: "And was the promise kept, by the days themselves?", columns: append(groupColumns(a, part), numbers("asked")...)}
	for _, standing := range part.Total.Kept.Standings {
		s.columns = append(s.columns, numbers(standing.Label)...)
	}
	s.columns = append(s.columns, numbers("late %")...)
	for _, name := range []string{"median", "p90", "max"} {
		s.columns = append(s.columns, column{name: name, over: "working days late", numeric: true})
	}
	s.addGroups(a, part, func(g api.Group, keys []string) []string {
		cells := append(labelled(a, part, keys), numfmt.Count(g.Asked))
		var late api.Standing
		for _, standing := range g.Kept.Standings {
			cells = append(cells, numfmt.Count(standing.Orders))
			if standing.Code == promise.ReachedLate.String() {
				late = standing
			}
		}
		return append(cells, g.Kept.LateShare, decimal(late.Median, 1), decimal(late.P90, 1), length(late.Max))
	})
	kept := part.Total.Kept
	s.below = []string{fmt.Sprintf("Late %%: %s late, open or not, of %s that can be told, since they have come or were due before %s. What is due on that day is not late.", numfmt.Count(kept.Late), numfmt.Count(kept.Told), a.DataDate)}
	return s
}

// addGroups gives a sheet its rows, one for each group, and the total.
func (s *sheet) addGroups(a *api.Took, part api.TookPart, row func(g api.Group, keys []string) []string) {
	for _, g := range part.Groups {
		s.rows = append(s.rows, row(g, keysOf(g)))
	}
	s.total = row(part.Total, allOf(a))
}

// keysOf name a group.
func keysOf(g api.Group) []string {
	keys := make([]string, len(g.Keys))
	for i, key := range g.Keys {
		keys[i] = orNone(key)
		if g.Step != nil && g.Step.Key == i {
			keys[i] = stepName(g, key)
		}
	}
	return keys
}

// stepName is a key, with what a reader has to know of its step of time.
func stepName(g api.Group, key string) string {
	name := orNone(key)
	if g.Step != nil && g.Step.Cut {
		name += " (part)"
	}
	if g.Step != nil && g.Step.Outside {
		name += " (not in the book)"
	}
	if g.Step != nil && g.Step.Begins {
		name += " (book begins)"
	}
	return name
}

// allOf are the keys of all groups together.
func allOf(a *api.Took) []string { return slices.Repeat([]string{"all"}, len(a.By)) }

func limitColumns(a *api.Took) []column {
	columns := numbers("finished", "still waiting")
	for i := range columns {
		columns[i].over = a.Limit
	}
	return append(columns, numbers("finished within", "undecided", "share %", "at least %", "at most %", "cancelled over it")...)
}

// limitCells say how many of a group went over the limit.
func limitCells(o api.Over) []string {
	return []string{numfmt.Count(o.Finished), numfmt.Count(o.Waiting), numfmt.Count(o.Within), numfmt.Count(o.Undecided), o.Share, o.Low, o.High, numfmt.Count(o.Cancelled)}
}

// limitSheet says how many went over the limit, with those that still wait and the bounds that the undecided allow.
func limitSheet(a *api.Took, part api.TookPart) sheet {
	s := sheet{title: fmt.Sprintf("How many took %s, finished or still waiting?", a.Limit), columns: append(groupColumns(a, part), limitColumns(a)...)}
	s.addGroups(a, part, func(g api.Group, keys []string) []string {
		return append(labelled(a, part, keys), limitCells(*g.Over)...)
	})
	s.below = []string{"The share is of all that are decided. Undecided still run and are not over yet: at least and at most are the shares should none or all of them go over. Orders that were over it when they were cancelled stand beside the share, and outside it."}
	return s
}

func estimateColumns(a *api.Took) []column {
	return append(numbers("still running"), column{name: "median with running", over: a.Heading, numeric: true})
}

func estimateCells(g api.Group) []string {
	median := length(g.Estimate.Median)
	if g.Estimate.Median == nil && g.Asked > 0 {
		median = "not reached"
	}
	return []string{numfmt.Count(g.Estimate.Running), median}
}

// estimateSheet puts the plain median beside the one that counts what is known of running orders.
func estimateSheet(a *api.Took, part api.TookPart) sheet {
	s := sheet{title: "And with the orders that still run?", columns: groupColumns(a, part)}
	s.columns = append(append(s.columns, column{name: "median", over: a.Heading, numeric: true}), estimateColumns(a)...)
	s.addGroups(a, part, func(g api.Group, keys []string) []string {
		return append(append(labelled(a, part, keys), decimal(g.Median, 1)), estimateCells(g)...)
	})
	words := part.Total.Estimate.Words
	s.below = []string{numfmt.Sentence(words) + ".", "The product-limit estimate, if no order were cancelled: an order that still runs counts as longer than it has run so far, a cancelled one as longer than it had run when it was cancelled."}
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

func decimal(x *float64, places int) string {
	if x == nil {
		return ""
	}
	return strconv.FormatFloat(*x, 'f', places, 64)
}

// length is whole where it is, else with two decimals.
func length(x *float64) string {
	if x != nil && *x == math.Trunc(*x) {
		return decimal(x, 0)
	}
	return decimal(x, 2)
}
