package cli

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
)

func newDue(e *environment) *cobra.Command {
	return e.asks(&cobra.Command{
		Use:   "due",
		Short: "Which orders are due, late and at risk",
		Long: `Which orders are due to be shipped, by the day that was promised or so many working days after
they were ordered; those that are late come first, then those at risk.`,
		Example: `  prairie-dusk due
  prairie-dusk due --period 2026-11
  prairie-dusk due --after 10 --within 3 --standing overdue --where 'site == "Galway"'
  prairie-dusk due --to delivered --plan requested --standing all --output due.xlsx`,
	}, asking{path: "/due", page: duePage, in: &api.DueQuestion{}})
}

func newDays(e *environment) *cobra.Command {
	var r client.DaysQuestion
	var before bool
	cmd := &cobra.Command{
		Use:   "days DAY DAY | DAY N | --wanted DAY N",
		Short: "The day calculator: two days, or a day and a number",
		Long: `With two days: how long from one to the other. With a day and a number: which day is
so many days after it, or before it where the number is negative or with --before; with
--wanted DAY and a number: when to begin at the latest. today is a day, too.`,
		Example: `  prairie-dusk days 2026-06-29 2026-07-10 --on Saskatoon
  prairie-dusk days 2026-07-03T15:30 2026-07-06T09:00 --in working-hours
  prairie-dusk days today 5
  prairie-dusk days today -3
  prairie-dusk days 2026-07-02 2 --in days --roll next
  prairie-dusk days --wanted 2026-12-18 8`,
		// A negative number is no option.
		DisableFlagParsing: true,
		RunE: func(cmd *cobra.Command, args []string) error {
			args, err := e.withNumbers(cmd, args)
			if err != nil || args == nil {
				return err
			}
			c, err := e.client()
			if err != nil {
				return err
			}
			if err := dayArguments(&r, args, before); err != nil {
				return err
			}
			if !cmd.Flags().Changed("count") {
				r.Count = ""
			}
			answer, err := c.Days(cmd.Context(), r)
			if err != nil {
				return err
			}
			return e.print(cmd, daysSheet(answer))
		},
	}
	flags := cmd.Flags()
	flags.StringVar(&r.Calendar, "on", "", "`calendar` to count with; default the one that counts the most orders")
	flags.StringVar(&r.In, "in", "working-days", unitUsage)
	flags.StringVar(&r.Count, "count", "elapsed", "count `rule` of two days: elapsed (start day not counted) or both-ends")
	flags.StringVar(&r.Roll, "roll", "keep", "what becomes of a day that is not worked: `keep`, next or previous")
	flags.StringVar(&r.Zone, "zone", "", "for hours, IANA time `zone` of the times of day; default that of the sites that the calendar counts")
	flags.BoolVar(&before, "before", false, "the day so many days before")
	flags.StringVar(&r.Wanted, "wanted", "", "`day` by which it has to be done: when to begin at the latest")
	addFormat(cmd)
	for flag, words := range map[string]func(known) []string{
		"on": func(k known) []string { return k.Calendars }, "in": known.units, "count": func(k known) []string { return k.CountRules },
		"roll": func(known) []string { return []string{"keep", "next", "previous"} },
	} {
		_ = cmd.RegisterFlagCompletionFunc(flag, func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
			return e.complete(cmd, words), cobra.ShellCompDirectiveNoFileComp
		})
	}
	return cmd
}

// withNumbers reads the options of a command of which a negative number is an argument, and gives its arguments; nil where help was
// asked for.
func (e *environment) withNumbers(cmd *cobra.Command, args []string) ([]string, error) {
	var options, numbers []string
	for _, arg := range args {
		if _, err := strconv.Atoi(arg); err == nil {
			numbers = append(numbers, arg)
			continue
		}
		options = append(options, arg)
	}
	cmd.InheritedFlags() // which takes those of all commands in
	if err := cmd.Flags().Parse(options); err != nil {
		return nil, usageError{err}
	}
	if help, _ := cmd.Flags().GetBool("help"); help {
		return nil, cmd.Help()
	}
	words := append(cmd.Flags().Args(), numbers...)
	for i, word := range words {
		if word == "today" {
			words[i] = time.Now().Format(time.DateOnly)
		}
	}
	if len(words) > 2 {
		return nil, usageError{fmt.Errorf("want two days, a day and a number, or --wanted DAY and a number; see prairie-dusk days --help")}
	}
	return words, e.readSettings(cmd, nil)
}

// dayArguments takes the arguments into a question: two days, or a number after a day.
func dayArguments(r *client.DaysQuestion, args []string, before bool) error {
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
		return usageError{fmt.Errorf("want two days, a day and a number, or --wanted DAY and a number; see prairie-dusk days --help")}
	}
	if before {
		return usageError{fmt.Errorf("--before goes with a day and a number")}
	}
	return nil
}

func daysSheet(a *api.DaysAnswer) sheet {
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
