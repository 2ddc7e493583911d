package cli

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
)

func newImmediate(e *environment) *cobra.Command {
	var q client.ImmediateQuestion
	var first, within, customers bool
	var limit int
	var k viewSaver
	cmd := &cobra.Command{
		Use:   "immediate",
		Short: "How much was requested for the day of the order, and how much was got on it",
		Long: `How much was requested for the day of the order (immediate), of all that was requested then or later
(booked ahead); and beside it what was shipped, or delivered, on that day. What was asked for
and what was got are two rates.`,
		Example: `  prairie-dusk immediate
  prairie-dusk immediate --first-orders --by month
  prairie-dusk immediate --period 2026-Q3 --by site --got delivered
  prairie-dusk immediate --customers --change ahead-then-immediate`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			switch {
			case first && within:
				return usageError{fmt.Errorf("--first-orders and --first-within are two things; want one")}
			case first:
				q.Orders = "first"
			case within:
				q.Orders = "first-within"
			}
			words := q.Words()
			if customers {
				words.Set("show", "customers")
			}
			sentence, err := e.immediate(cmd, c, words, limit)
			if err != nil || k.name == "" {
				return err
			}
			return k.keep(e, cmd, c, immediatePage, words, sentence)
		},
	}
	flags := cmd.Flags()
	flags.BoolVar(&first, "first-orders", false, "only customers' first orders, in the whole book")
	flags.BoolVar(&within, "first-within", false, "only the first orders within the period and the condition")
	flags.StringSliceVar(&q.By, "by", nil, "one or two `groupings`: a field; day, week, month, quarter, year, month-of-year or weekday of the basis")
	flags.StringVar(&q.Basis, "basis", "", "`milestone` that places orders in the period; default ordered")
	flags.StringVar(&q.Period, "period", "", "`period`; several with commas; default all orders")
	flags.StringVar(&q.Got, "got", "shipped", "what is to come on the day of the order: `shipped` or delivered")
	flags.StringVar(&q.NoRequestedDate, "no-requested-date", "out", "whether orders without a requested date are in the denominator: `out` or in")
	flags.StringVar(&q.Cancelled, "cancelled", "in", "whether cancelled orders count: `in` or out; left out after the first ones are found")
	flags.StringVar(&q.Where, "where", "", "only orders that meet this `condition`, in CEL")
	flags.BoolVar(&customers, "customers", false, "customers instead, by how they asked first and later")
	flags.StringVar(&q.Change, "change", "", "of customers: only `ahead-then-immediate`, immediate-then-ahead or none")
	flags.IntVar(&limit, "limit", 100, "at most so many `customers`")
	k.add(cmd)
	addFormat(cmd)
	for flag, words := range map[string][]string{"got": {"shipped", "delivered"}, "no-requested-date": {"out", "in"}, "cancelled": {"in", "out"}, "change": {"ahead-then-immediate", "immediate-then-ahead", "none"}} {
		_ = cmd.RegisterFlagCompletionFunc(flag, cobra.FixedCompletions(words, cobra.ShellCompDirectiveNoFileComp))
	}
	for flag, words := range map[string]func(known) []string{"by": func(k known) []string { return k.Groupings }, "period": func(k known) []string { return k.Periods }, "basis": known.milestones} {
		_ = cmd.RegisterFlagCompletionFunc(flag, func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
			return e.complete(cmd, words), cobra.ShellCompDirectiveNoFileComp
		})
	}
	return cmd
}

// immediate prints the answer, by the words of an address of the console, and gives its sentence.
func (e *environment) immediate(cmd *cobra.Command, c *client.Client, words url.Values, limit int) (sentence string, err error) {
	if words.Get("show") == "customers" {
		a, err := c.ImmediateCustomersAt(cmd.Context(), words, 0, max(1, limit))
		if err != nil {
			return "", err
		}
		return a.Sentence, e.print(cmd, askingSheet(a))
	}
	a, err := c.ImmediateAt(cmd.Context(), words)
	if err != nil {
		return "", err
	}
	return a.Sentence, e.print(cmd, immediateSheets(a)...)
}

func rateWords(r api.Rate) string {
	if r.All == 0 {
		return "no orders"
	}
	return fmt.Sprintf("%s of %s", numfmt.Count(r.Some), numfmt.Count(r.All))
}

func percentOf(r api.Rate) string {
	if r.All == 0 {
		return ""
	}
	return r.Percent
}

func intervalOf(r api.Rate) string {
	if r.Low == nil {
		return ""
	}
	return decimal(r.Low, 2) + " to " + decimal(r.High, 2)
}

// immediateSheets are a table of each period's groups, and what was asked beside what was got.
func immediateSheets(a *api.Immediate) (sheets []sheet) {
	for _, part := range a.Parts {
		s := sheet{title: a.Sentence, answer: a, columns: texts(a.By...)}
		if len(a.Parts) > 1 {
			s.title += " (" + part.Period.Text + ")"
		}
		if len(a.By) == 0 {
			s.columns = texts("orders")
		}
		s.columns = append(s.columns, numbers("asked: for that day", "%", "95% interval", "got: "+a.Got+" that day", "%", "no requested date", "median days ahead", "working days ahead")...)
		row := func(keys []string, g api.ImmediateGroup) []string {
			return append(slices.Clone(keys), rateWords(g.Asked), percentOf(g.Asked), intervalOf(g.Asked), rateWords(g.Got), percentOf(g.Got), numfmt.Count(g.Kinds[2].Orders), decimal(g.Ahead.MedianDays, 1), decimal(g.Ahead.MedianWorkingDays, 1))
		}
		for _, g := range part.Groups {
			s.rows = append(s.rows, row(named(g.Keys), g))
		}
		all := row(slices.Repeat([]string{"all"}, max(1, len(a.By))), part.Total)
		if len(a.By) > 0 {
			s.total = all
		} else {
			s.rows = append(s.rows, all)
		}
		s.below = append(statusBelow(part.ReconciliationLine, part.PlacementLine, part.Notes), firstGroups(len(part.Groups), part.AllGroups)...)
		sheets = append(sheets, s, crossedSheet(part.Total))
	}
	return sheets
}

// crossedSheet is what was asked beside what was got.
func crossedSheet(g api.ImmediateGroup) sheet {
	s := sheet{title: "Asked, and got", columns: texts("asked")}
	for _, k := range g.GotBy {
		s.columns = append(s.columns, column{name: k.Label, numeric: true})
	}
	s.columns = append(s.columns, numbers("all")...)
	for i, k := range g.Kinds {
		cells := []string{k.Label}
		for _, n := range g.Cross[i] {
			cells = append(cells, numfmt.Count(n))
		}
		s.rows = append(s.rows, append(cells, numfmt.Count(k.Orders)))
	}
	s.total = []string{"all"}
	for _, k := range g.GotBy {
		s.total = append(s.total, numfmt.Count(k.Orders))
	}
	s.total = append(s.total, numfmt.Count(g.Orders))
	return s
}

func askingSheet(a *api.AskingCustomers) sheet {
	s := sheet{title: a.Sentence, answer: a, columns: append(texts("customer", "first order", "on", "asked then"), numbers("later orders", "later immediate", "%")...)}
	s.columns = append(s.columns, texts("")...)
	for _, c := range a.Customers {
		var remarks []string
		if c.Tied {
			remarks = append(remarks, "another order that day")
		}
		if c.Change != "none" {
			remarks = append(remarks, strings.ReplaceAll(c.Change, "-", " "))
		}
		s.rows = append(s.rows, []string{c.Customer, c.Number, withWeekday(c.First), c.Asked, numfmt.Count(c.Orders), rateWords(c.Later), percentOf(c.Later), strings.Join(remarks, "; ")})
	}
	line := fmt.Sprintf("%s to %s of %s.", numfmt.Count(a.Offset+min(1, len(a.Customers))), numfmt.Count(a.Offset+len(a.Customers)), numfmt.Counted(a.All, "customer"))
	for _, k := range a.Changes[1:] {
		line += fmt.Sprintf(" %s: %s.", numfmt.Sentence(k.Label), numfmt.Count(k.Orders))
	}
	s.below = []string{line}
	return s
}
