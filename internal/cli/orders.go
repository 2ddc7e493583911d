package cli

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/figure"
)

func newOrders(e *environment) *cobra.Command {
	var q questionFlags
	var s client.Selection
	var shortest, longest float64
	cmd := &cobra.Command{
		Use:   "orders",
		Short: "The orders behind an answer, with the length of a leg",
		Example: `  prairie-dusk orders --period 2026-10 --state running --sort ordered
  prairie-dusk orders --by site --group Muscat --state counted --sort -length
  prairie-dusk orders --shortest 20 --sort -length
  prairie-dusk orders --doubt no-site
  prairie-dusk orders --state end-before-start`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			if !cmd.Flags().Changed("group") {
				s.Group = nil
			}
			if cmd.Flags().Changed("shortest") {
				s.Shortest = &shortest
			}
			if cmd.Flags().Changed("longest") {
				s.Longest = &longest
			}
			answer, err := c.Orders(cmd.Context(), q.Question, s)
			if err != nil {
				return err
			}
			return e.print(cmd, ordersSheet(answer, q.From, q.To))
		},
	}
	q.add(cmd.Flags())
	flags := cmd.Flags()
	flags.StringVar(&s.State, "state", "", "only orders whose leg is in this `state`: counted, running, cancelled,\nend-before-start, cancelled-before-start, no-start, not-yet-begun, …")
	flags.StringArrayVar(&s.Group, "group", nil, "only orders of this `group`; once for each grouping of --by, empty for none")
	flags.StringVar(&s.Note, "note", "", "only counted orders that this `note` of the answer concerns: negative,\nholidays-unknown, default-calendar, cut-off, cut-off-untimed")
	flags.StringVar(&s.Doubt, "doubt", "", "only orders of which this `doubt` holds; see prairie-dusk doubts")
	flags.Float64Var(&shortest, "shortest", 0, "only counted orders of at least this `length`")
	flags.Float64Var(&longest, "longest", 0, "only counted orders of at most this `length`")
	flags.StringVar(&s.Placed, "placed", "", "the orders that the period leaves out: `outside` or undated")
	flags.StringVar(&s.Sort, "sort", "number", "`keys`, with commas: number, length, value, a milestone or a field; with a leading minus descending")
	flags.IntVar(&s.Limit, "limit", 50, "at most so many `orders`")
	flags.IntVar(&s.Offset, "offset", 0, "leave out the first so many `orders`")
	addFormat(cmd)
	e.completeQuestion(cmd)
	_ = cmd.RegisterFlagCompletionFunc("state", func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
		return e.complete(cmd, func(k known) []string { return k.States }), cobra.ShellCompDirectiveNoFileComp
	})
	_ = cmd.RegisterFlagCompletionFunc("sort", func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
		return e.complete(cmd, func(k known) []string { return k.SortKeys }), cobra.ShellCompDirectiveNoFileComp
	})
	return cmd
}

func ordersSheet(a *api.Orders, from, to string) sheet {
	s := sheet{title: a.Sentence, answer: a, columns: texts("number", "customer", "site")}
	milestones := []string{from}
	for _, name := range []string{"promised", to, "cancelled"} {
		if name != from && (name == to || anyHas(a.Orders, name)) {
			milestones = append(milestones, name)
		}
	}
	s.columns = append(s.columns, texts(milestones...)...)
	s.columns = append(s.columns, column{name: "length", over: a.Heading, numeric: true}, column{name: "state"})
	for _, o := range a.Orders {
		row := []string{o.Number, o.Fields["customer"], o.Fields["site"]}
		for _, name := range milestones {
			row = append(row, o.Milestones[name])
		}
		s.rows = append(s.rows, append(row, length(o.Length)+unknownMark(o.HolidaysUnknown), o.StateLabel))
	}
	shown := "none"
	if len(a.Orders) > 0 {
		shown = fmt.Sprintf("%s to %s", figure.Count(a.Offset+1), figure.Count(a.Offset+len(a.Orders)))
	}
	s.below = []string{fmt.Sprintf("%s: %s orders; shown: %s, by %s.", strings.ToUpper(a.Selected[:1])+a.Selected[1:], figure.Count(a.All), shown, cmp.Or(a.Sort, "number"))}
	for _, o := range a.Orders {
		if o.HolidaysUnknown {
			s.below = append(s.below, unknownLegend)
			break
		}
	}
	return s
}

const unknownLegend = "? holidays are not known for all days of this length, which follows the weekly pattern there"

func anyHas(orders []api.OrderEntry, milestone string) bool {
	for _, o := range orders {
		if o.Milestones[milestone] != "" {
			return true
		}
	}
	return false
}

func unknownMark(unknown bool) string {
	if unknown {
		return "?"
	}
	return ""
}

func newOrder(e *environment) *cobra.Command {
	var q questionFlags
	cmd := &cobra.Command{
		Use:   "order NUMBER",
		Short: "One order: its milestones, and a length day by day",
		Example: `  prairie-dusk order SD-102345
  prairie-dusk order SD-102345 --from shipped --to delivered --in days
  prairie-dusk order SD-102345 --in working-hours`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			answer, err := c.Order(cmd.Context(), args[0], q.Question)
			if err != nil {
				return err
			}
			return e.print(cmd, orderSheets(answer, e.settings.GetString("format"))...)
		},
	}
	q.addLeg(cmd.Flags())
	addFormat(cmd)
	e.completeQuestion(cmd)
	return cmd
}

// orderSheets are the milestones and the strip for reading; a CSV file has the strip, a row for each day.
func orderSheets(a *api.Order, format string) []sheet {
	title := "Order " + a.Order.Number + ", " + a.Leg + ": " + a.Words
	if format == asCSV {
		s := sheet{title: title, columns: texts("day", "part", "name")}
		timed := len(a.Strip) > 0 && a.Strip[0].Hours != nil
		if timed {
			s.columns = append(s.columns, column{name: strings.ReplaceAll(a.Unit, "-", " "), numeric: true})
		}
		for _, d := range a.Strip {
			cells := []string{d.Day, d.Part, d.Name}
			if timed {
				cells = append(cells, decimal(d.Hours, 4))
			}
			s.rows = append(s.rows, cells)
		}
		return []sheet{s}
	}
	days := sheet{title: title, answer: a, columns: texts("milestone", "day", "")}
	for _, d := range a.Days {
		remark := ""
		switch {
		case d.Plan:
			remark = "plan"
		case !d.Known:
			remark = "after the data date: not known yet"
		}
		days.rows = append(days.rows, []string{d.Name, strings.TrimSpace(withWeekday(d.Day) + " " + d.Time), remark})
	}
	var fields []string
	// The currency stands with the value, the country with the place; columns of the user's own come last.
	first := []string{"customer", "site", "place", "channel"}
	names := slices.DeleteFunc(slices.Sorted(maps.Keys(a.Order.Fields)), func(name string) bool {
		return slices.Contains(first, name) || name == "currency" || name == "country"
	})
	for _, name := range append(first, names...) {
		if value := a.Order.Fields[name]; value != "" {
			fields = append(fields, name+" "+value)
		}
	}
	if a.Order.Value != "" {
		fields = append(fields, "value "+strings.TrimSpace(a.Order.Value+" "+a.Order.Fields["currency"]))
	}
	days.below = []string{strings.Join(fields, " · ")}
	if len(a.Strip) > 0 {
		days.below = append(days.below, strip(a.Strip), a.SumLine, "Counted by the calendar "+a.Calendar+zoneWords(a.Zone)+".")
	}
	if a.Order.HolidaysUnknown {
		days.below = append(days.below, notePrefix+"holidays are not known for all of these days; the length follows the weekly pattern there.")
	}
	if len(a.Findings) > 0 {
		days.below = append(days.below, notePrefix+strings.Join(a.Findings, "; "))
	}
	sheets := []sheet{days}
	for _, t := range a.Parts {
		if format != asTable {
			break
		}
		s := sheet{title: strings.ToUpper(t.Kind[:1]) + strings.ReplaceAll(t.Kind[1:], "-", " "), answer: t, columns: texts(t.Columns...), rows: t.Rows}
		for i, name := range t.Columns {
			s.columns[i].numeric = slices.Contains([]string{"units", "cancelled-units", "amount", "line-value"}, name)
		}
		sheets = append(sheets, s)
	}
	if len(a.Changes) > 0 && format == asTable {
		changes := sheet{title: "What loads have changed of it, the latest first", answer: a.Changes, columns: append(numbers("load"), texts("of", "column", "was", "became")...)}
		for _, c := range a.Changes {
			of := strings.TrimSuffix(c.Kind, "s")
			if len(c.Key) > 0 {
				of += " " + strings.TrimSpace(strings.Join(c.Key, " "))
			}
			changes.rows = append(changes.rows, []string{fmt.Sprint(c.Load), of, c.Column, c.Old, c.New})
		}
		sheets = append(sheets, changes)
	}
	return sheets
}

// zoneWords say by which clocks times are told; nothing where none is known.
func zoneWords(zone string) string {
	if zone == "" {
		return ""
	}
	return ", times in " + zone
}
