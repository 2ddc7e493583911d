package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

func newStatus(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "status",
		Short: "Where each order stands, and how it got there",
		Long: `Where each order stands, and how it got there, from its status records: of every change, or
one for every day. They fold into status periods, from which everything else is told.`,
		Example: `  prairie-dusk status latest --by site
  prairie-dusk status latest --at 2026-03-16
  prairie-dusk status times --each month --period 2026
  prairie-dusk status transitions --where 'site == "Galway"'
  prairie-dusk status periods --status "on hold" --sort length
  prairie-dusk status set On-Hold --spelling-of "on hold"`,
	}
	for _, of := range statusQuestions {
		cmd.AddCommand(e.asks(&cobra.Command{Use: of.name, Short: of.short}, asking{path: "/status/" + of.name, page: statusesPage,
			show: of.show, in: of.question()}))
	}
	cmd.AddCommand(newStatusList(e), newStatusSet(e))
	return cmd
}

// The questions about statuses, each with the word by which their page shows its answer.
var statusQuestions = []struct {
	name, show, short string
	question          func() any
}{
	{"latest", "", "Where orders stand, or stood at the end of a day", func() any { return &api.StatusLatestQuestion{} }},
	{"times", "times", "How long orders were in each status", func() any { return &api.StatusTimesQuestion{} }},
	{"transitions", "transitions", "From which status to which orders went; returns and paths",
		func() any { return &api.StatusTransitionsQuestion{} }},
	{"periods", "periods", "In which status orders were, from when to when", func() any { return &api.StatusPeriodsQuestion{} }},
}

// completeStatus completes an argument that is a status.
func (e *environment) completeStatus(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
	return e.statusNames(cmd), cobra.ShellCompDirectiveNoFileComp
}

// statusNames are the names of statuses, as far as the service answers.
func (e *environment) statusNames(cmd *cobra.Command) (names []string) {
	if e.readSettings(cmd, nil) != nil {
		return nil
	}
	c, err := e.client()
	if err != nil {
		return nil
	}
	list, err := c.Statuses(cmd.Context())
	if err != nil {
		return nil
	}
	for _, s := range list.Statuses {
		names = append(names, s.Name)
	}
	return names
}

func untilWords(st api.StatusPeriod) string {
	switch {
	case st.Until != "":
		return withWeekday(st.Until)
	case st.Running:
		return "still there"
	}
	return "the end"
}

func periodRemark(st api.StatusPeriod) string {
	var remarks []string
	if st.Returned {
		remarks = append(remarks, "came back")
	}
	if st.Ambiguous {
		remarks = append(remarks, "two records of one moment")
	}
	return strings.Join(remarks, "; ")
}

// orderPeriodsSheet is what one order went through.
func orderPeriodsSheet(a *api.Order) sheet {
	s := sheet{title: "Its statuses, from " + map[string]string{"event": "events", "daily": "a daily list"}[a.Statuses.Source],
		answer: a.Statuses, columns: append(numbers(""), texts("status", "from", "last seen", "until")...)}
	s.columns = append(append(s.columns, numbers(strings.ReplaceAll(a.Unit, "-", " ")+", start day not counted")...), texts("")...)
	s.below = append(s.below, statusBand(a.InTime, a.Statuses.Periods))
	for _, st := range a.Statuses.Periods {
		s.rows = append(s.rows, []string{fmt.Sprint(st.Sequence), st.Status, withWeekday(st.From), st.LastSeen, untilWords(st),
			length(st.Length), periodRemark(st)})
	}
	for _, d := range a.Statuses.Disagreements {
		s.below = append(s.below, notePrefix+fmt.Sprintf("at the end of %s the daily list says %s, the events say %s", d.Day, d.Daily,
			d.Events))
	}
	return s
}

// statusBand draws the status periods of an order over its days: below each day as its calendar has it, the number of the status
// period that holds
// its end.
func statusBand(days []api.CalendarDay, periods []api.StatusPeriod) string {
	var out strings.Builder
	for from := 0; from < len(days); from += lifeWide {
		line := days[from:min(from+lifeWide, len(days))]
		marks, below := "", ""
		for _, d := range line {
			held := " "
			for _, st := range periods {
				if st.From <= d.Day && (st.Until != "" || st.Running || d.Day == st.From) {
					held = fmt.Sprint(st.Sequence % 10)
				} else if st.From <= d.Day {
					held = " "
				}
			}
			marks += lifeMarks[d.Kind]
			below += held
		}
		fmt.Fprintf(&out, "%-12s%s\n%12s%s\n", line[0].Day, marks, "", strings.TrimRight(below, " "))
	}
	return out.String() + "Below each day the number of the status period that holds its end."
}

func statusListSheet(a *api.StatusList) sheet {
	s := sheet{title: "Statuses, in their order.", answer: a, columns: append(numbers("step"),
		texts("status", "final", "colour", "other spellings", "")...)}
	for _, st := range a.Statuses {
		step, final, remark := "", "", ""
		if st.Step != 0 {
			step = fmt.Sprint(st.Step)
		}
		if st.Final {
			final = "final"
		}
		if !st.Listed {
			remark = "in the records alone, not in the list"
		}
		s.rows = append(s.rows, []string{step, st.Name, final, st.Colour, strings.Join(st.Spellings, ", "), remark})
	}
	if len(a.Statuses) == 0 {
		s.below = []string{"There are none: no status records have been loaded."}
	}
	return s
}

func newStatusList(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "list",
		Short: "The list of statuses: their order, which are final, and their spellings",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			list, err := c.Statuses(cmd.Context())
			if err != nil {
				return err
			}
			return e.print(cmd, statusListSheet(list))
		},
	}
	addFormat(cmd)
	return cmd
}

func newStatusSet(e *environment) *cobra.Command {
	var setting api.StatusSetting
	cmd := &cobra.Command{
		Use:   "set STATUS",
		Short: "Say what a status is: its place, its end, its colour, or of which it is a spelling",
		Long:  "Say what a status is. It is a load of its own, which prairie-dusk loads undo takes back.",
		Example: `  prairie-dusk status set delivered --step 7 --final
  prairie-dusk status set On-Hold --spelling-of "on hold"`,
		Args:              cobra.ExactArgs(1),
		ValidArgsFunction: e.completeStatus,
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			setting.Name = args[0]
			list, err := c.Statuses(cmd.Context())
			if err != nil {
				return err
			}
			// What is not said stays as it is.
			for _, s := range list.Statuses {
				if s.Name != setting.Name || setting.SpellingOf != "" {
					continue
				}
				if !cmd.Flags().Changed("step") {
					setting.Step = s.Step
				}
				if !cmd.Flags().Changed("final") {
					setting.Final = s.Final
				}
				if !cmd.Flags().Changed("colour") {
					setting.Colour = s.Colour
				}
			}
			saved, err := c.SaveStatuses(cmd.Context(), setting)
			if err != nil {
				return err
			}
			return e.print(cmd, statusListSheet(saved))
		},
	}
	flags := cmd.Flags()
	flags.IntVar(&setting.Step, "step", 0, "its `place` among the others, the smallest first")
	flags.BoolVar(&setting.Final, "final", false, "orders end in it: as the last one it has no length")
	flags.StringVar(&setting.Colour, "colour", "", "of the palette: teal, plum, amber, clay, sage, slate, rose or sand")
	flags.StringVar(&setting.SpellingOf, "spelling-of", "", "the `status` of which it is another spelling; it counts as that one")
	addFormat(cmd)
	_ = cmd.RegisterFlagCompletionFunc("spelling-of", e.completeStatus)
	return cmd
}
