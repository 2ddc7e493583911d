package cli

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
)

func newDue(e *environment) *cobra.Command {
	var r client.Reckoning
	var q client.DueQuestion
	var before bool
	var k viewSaver
	cmd := &cobra.Command{
		Use:   "due [DAY DAY | DAY N]",
		Short: "Reckon two days, or a day and a number; which orders are due, late, at risk",
		Long: `With two days: how long from one to the other. With a day and a number: which day is
so many days after it, or before it with --before; with --wanted DAY and a number: when
to begin at the latest.

Without: which orders are due to be shipped, by the day that was promised or so many
working days after they were ordered; those that are late come first, then those at risk.`,
		Example: `  prairie-dusk due 2026-06-29 2026-07-10 --on Saskatoon
  prairie-dusk due 2026-07-03T15:30 2026-07-06T09:00 --in working-hours
  prairie-dusk due 2026-06-30 10
  prairie-dusk due 2026-07-02 2 --in days --roll next
  prairie-dusk due --wanted 2026-12-18 8
  prairie-dusk due --period 2026-11
  prairie-dusk due --after 10 --within 3 --standing overdue`,
		Args: cobra.MaximumNArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			if len(args) == 0 && r.Wanted == "" {
				answer, err := c.Due(cmd.Context(), q)
				if err != nil {
					return err
				}
				return errors.Join(e.print(cmd, dueSheet(answer)), k.keep(e, cmd, c, duePage, q.Words(), answer.Sentence))
			}
			if err := reckonArguments(&r, args, before); err != nil {
				return err
			}
			if !cmd.Flags().Changed("count") {
				r.Count = ""
			}
			answer, err := c.Reckon(cmd.Context(), r)
			if err != nil {
				return err
			}
			return e.print(cmd, reckoningSheet(answer))
		},
	}
	flags := cmd.Flags()
	flags.StringVar(&r.Calendar, "on", "", "`calendar` to reckon with; default the one that counts the most orders")
	flags.StringVar(&r.In, "in", "working-days", unitUsage)
	flags.StringVar(&r.Count, "count", "elapsed", "count `rule` of two days: elapsed (start day not counted) or both-ends")
	flags.StringVar(&r.Roll, "roll", "keep", "what becomes of a day that is not worked: `keep`, next or previous")
	flags.StringVar(&r.Zone, "zone", "", "for hours, IANA time `zone` of the times of day; default that of the sites that the calendar counts")
	flags.BoolVar(&before, "before", false, "the day so many days before")
	flags.StringVar(&r.Wanted, "wanted", "", "`day` by which it has to be done: when to begin at the latest")
	flags.StringVar(&q.To, "to", "shipped", "`milestone` that is due")
	flags.StringVar(&q.Plan, "plan", "", "`plan` that says when; default promised, for delivered expected")
	flags.StringVar(&q.After, "after", "", "due so many working `days` after ordered, instead of by a plan")
	flags.StringVar(&q.CutOff, "cut-off", "on", "with --after: `on` or off, whether an order after the site's cut-off counts as one of the next working day")
	flags.StringVar(&q.Within, "within", "5", "at risk when due within so many working `days`")
	flags.StringVar(&q.Period, "period", "", "`period` of due days: 2026-11, 2026-W47, …; default all orders")
	flags.StringSliceVar(&q.Standing, "standing", []string{"overdue", "at-risk"}, "list orders of these `standings`: overdue, at-risk, due-later, on-the-day, early,\nreached-late, cancelled, no-promise, not-begun; late for overdue and reached-late")
	flags.IntVar(&q.Limit, "limit", 50, "at most so many `orders`")
	flags.IntVar(&q.Offset, "offset", 0, "leave out the first so many `orders`")
	k.add(cmd)
	addFormat(cmd)
	for flag, words := range map[string]func(known) []string{
		"on": func(k known) []string { return k.Calendars }, "in": known.units, "count": func(k known) []string { return k.CountRules },
		"to": known.milestones, "plan": known.plans, "period": func(k known) []string { return k.Periods },
		"roll": func(known) []string { return []string{"keep", "next", "previous"} },
	} {
		_ = cmd.RegisterFlagCompletionFunc(flag, func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
			return e.complete(cmd, words), cobra.ShellCompDirectiveNoFileComp
		})
	}
	return cmd
}

// reckonArguments takes the arguments into a reckoning: two days, or a number after a day.
func reckonArguments(r *client.Reckoning, args []string, before bool) error {
	last := ""
	if len(args) > 0 {
		last = args[len(args)-1]
	}
	isDay := strings.Count(strings.TrimPrefix(last, "-"), "-") > 0
	switch {
	case r.Wanted != "" && len(args) == 1 && !isDay:
		r.N = last
	case r.Wanted == "" && len(args) == 2 && isDay:
		r.From, r.To = args[0], last
	case r.Wanted == "" && len(args) == 2:
		r.From, r.N = args[0], last
		if before {
			r.N = "-" + strings.TrimPrefix(last, "+")
		}
		return nil
	default:
		return usageError{fmt.Errorf("want two days, a day and a number, or --wanted DAY and a number; see prairie-dusk due --help")}
	}
	if before {
		return usageError{fmt.Errorf("--before goes with a day and a number")}
	}
	return nil
}

func reckoningSheet(a *api.Reckoning) sheet {
	s := sheet{title: a.Sentence, answer: a, columns: texts("day", "part", "name")}
	for _, d := range a.Strip {
		s.rows = append(s.rows, []string{d.Day, d.Part, d.Name})
	}
	s.drawn = a.Words
	if len(a.Strip) > 0 {
		s.drawn += "\n\n" + strip(a.Strip)
	}
	s.below = append(s.below, a.SumLine)
	for _, n := range a.Notes {
		s.below = append(s.below, notePrefix+n)
	}
	return s
}

func dueSheet(a *api.Due) sheet {
	s := sheet{title: a.Sentence, answer: a, columns: append(texts("number", "customer", "site", "ordered", "due", a.To), column{name: "working days over", numeric: true}, column{name: "standing"})}
	for _, o := range a.Orders {
		s.rows = append(s.rows, []string{o.Number, o.Fields["customer"], o.Fields["site"], o.Milestones["ordered"], o.Due, o.Milestones[a.To], integer(o.Over) + unknownMark(o.HolidaysUnknown), o.Label})
	}
	shown := "none"
	if len(a.Orders) > 0 {
		shown = fmt.Sprintf("%s to %s", numfmt.Count(a.Offset+1), numfmt.Count(a.Offset+len(a.Orders)))
	}
	s.below = []string{a.Line}
	if a.PlacementLine != "" {
		s.below = append(s.below, a.PlacementLine)
	}
	s.below = append(s.below, fmt.Sprintf("Listed: %s, %s; shown: %s, by due day. Working days over are those from the due day to the day it was %s, or to the data date while it is open; a minus is how many are left.",
		a.Selected, numfmt.Counted(a.All, "order"), shown, a.To))
	for _, n := range a.Notes {
		s.below = append(s.below, notePrefix+n)
	}
	if slices.ContainsFunc(a.Orders, func(o api.DueOrder) bool { return o.HolidaysUnknown }) {
		s.below = append(s.below, unknownLegend)
	}
	return s
}
