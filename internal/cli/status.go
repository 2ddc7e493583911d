package cli

import (
	"fmt"
	"math"
	"net/url"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
)

func newStatus(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "status",
		Short: "Where each order stands, and how it got there",
		Long: `Where each order stands, and how it got there, from its status records: of every change, or
one for every day. They fold into stays, from which everything else is told.`,
		Example: `  prairie-dusk status latest --by site
  prairie-dusk status latest --at 2026-03-16
  prairie-dusk status times --each month --period 2026
  prairie-dusk status moves --where 'site == "Galway"'
  prairie-dusk status stays --status "on hold" --sort length
  prairie-dusk status set On-Hold --spelling-of "on hold"`,
	}
	cmd.AddCommand(
		newStatusAsk(e, client.ShowLatest, "Where orders stand, or stood at the end of a day"),
		newStatusAsk(e, client.ShowTimes, "How long orders were in each status"),
		newStatusAsk(e, client.ShowMoves, "From which status to which orders went; returns and paths"),
		newStatusAsk(e, client.ShowStays, "In which status orders were, from when to when"),
		newStatusList(e), newStatusSet(e))
	return cmd
}

// newStatusAsk is one of the four questions, with the words that it takes.
func newStatusAsk(e *environment, show, short string) *cobra.Command {
	var q client.StatusQuestion
	var k viewSaver
	var offset, limit int
	cmd := &cobra.Command{
		Use:   show,
		Short: short,
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			words := q.Words(show)
			sentence, err := e.status(cmd, c, words, offset, limit)
			if err != nil || k.name == "" {
				return err
			}
			return k.keep(e, cmd, c, statusesPage, words, sentence)
		},
	}
	flags := cmd.Flags()
	flags.StringVar(&q.In, "in", "working-days", "`unit` of lengths: working-days, days, weeks, hours or working-hours")
	flags.StringVar(&q.Calendar, "calendar", "site", "whose calendar counts: that of the `site` or of the destination")
	flags.StringVar(&q.Source, "source", "either", "which `records` count: event, daily, or either: events where an order has any")
	flags.StringVar(&q.MaxGap, "max-gap", "", "how many `days` a daily list may be silent about an order before its stay ends; default any")
	flags.StringVar(&q.Where, "where", "", "only orders that meet this `condition`, in CEL")
	switch show {
	case client.ShowLatest:
		flags.StringVar(&q.At, "at", "", "the `day` at whose end; default the data date")
	case client.ShowStays:
		flags.StringVar(&q.Status, "status", "", "only stays of this `status`; \"not seen\" for silences")
		flags.StringVar(&q.Sort, "sort", "order", "by `order`, length (the longest first) or from (the latest first)")
		flags.IntVar(&offset, "offset", 0, "leave out the first `stays`")
		flags.IntVar(&limit, "limit", 100, "at most so many `stays`")
	}
	if show == client.ShowLatest || show == client.ShowTimes {
		flags.StringVar(&q.By, "by", "", "one `grouping` of orders")
	}
	if show != client.ShowLatest {
		flags.StringVar(&q.Period, "period", "", "only stays that began in this `period`")
	}
	if show == client.ShowTimes {
		flags.StringVar(&q.Each, "each", "", "for each `step` of time in which stays began: day, week, month, quarter or year")
	}
	k.add(cmd)
	addFormat(cmd)
	complete := func(flag string, words func(known) []string) {
		if flags.Lookup(flag) != nil {
			_ = cmd.RegisterFlagCompletionFunc(flag, func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
				return e.complete(cmd, words), cobra.ShellCompDirectiveNoFileComp
			})
		}
	}
	complete("by", func(k known) []string { return k.Groupings })
	complete("period", func(k known) []string { return k.Periods })
	if flags.Lookup("status") != nil {
		_ = cmd.RegisterFlagCompletionFunc("status", e.completeStatus)
	}
	for flag, words := range map[string][]string{"in": {"working-days", "days", "weeks", "hours", "working-hours"}, "source": {"either", "event", "daily"}, "each": {"day", "week", "month", "quarter", "year"}, "sort": {"order", "length", "from"}} {
		if flags.Lookup(flag) != nil {
			_ = cmd.RegisterFlagCompletionFunc(flag, cobra.FixedCompletions(words, cobra.ShellCompDirectiveNoFileComp))
		}
	}
	return cmd
}

// completeStatus completes the names of statuses.
func (e *environment) completeStatus(cmd *cobra.Command, _ []string, _ string) (names []string, _ cobra.ShellCompDirective) {
	if e.readSettings(cmd, nil) == nil {
		if c, err := e.client(); err == nil {
			if list, err := c.Statuses(cmd.Context()); err == nil {
				for _, s := range list.Statuses {
					names = append(names, s.Name)
				}
			}
		}
	}
	return names, cobra.ShellCompDirectiveNoFileComp
}

// status prints the answer to a question about statuses, by the words of an address of the console, and gives its sentence.
func (e *environment) status(cmd *cobra.Command, c *client.Client, words url.Values, offset, limit int) (sentence string, err error) {
	ctx := cmd.Context()
	switch words.Get("show") {
	case client.ShowTimes:
		a, err := c.StatusTimesAt(ctx, words)
		if err != nil {
			return "", err
		}
		return a.Sentence, e.print(cmd, timesSheet(a))
	case client.ShowMoves:
		a, err := c.StatusMovesAt(ctx, words)
		if err != nil {
			return "", err
		}
		return a.Sentence, e.print(cmd, movesSheets(a)...)
	case client.ShowStays:
		a, err := c.StatusStaysAt(ctx, words, offset, max(1, limit))
		if err != nil {
			return "", err
		}
		return a.Sentence, e.print(cmd, staysSheet(a))
	}
	a, err := c.StatusLatestAt(ctx, words)
	if err != nil {
		return "", err
	}
	return a.Sentence, e.print(cmd, latestSheet(a))
}

// statusBelow are the lines that reconcile an answer, and its notes.
func statusBelow(line, placement string, notes []api.Note) (below []string) {
	for _, text := range []string{line, placement} {
		if text != "" {
			below = append(below, text)
		}
	}
	for _, n := range notes {
		below = append(below, notePrefix+n.Text)
	}
	return below
}

// latestSheet has a row for each status or, with groups, for each group.
func latestSheet(a *api.StatusAnswer) sheet {
	s := sheet{title: a.Sentence, answer: a, below: append(statusBelow(a.ReconciliationLine, a.PlacementLine, a.Notes), firstGroups(len(a.Groups), a.AllGroups)...)}
	if len(a.By) > 0 {
		s.columns = texts(a.By...)
		for _, c := range a.Total.Cells {
			s.columns = append(s.columns, column{name: c.Status, over: "orders", numeric: true})
		}
		s.columns = append(s.columns, numbers("no status", "all")...)
		row := func(key string, g api.StatusGroup) []string {
			cells := []string{key}
			for _, c := range g.Cells {
				cells = append(cells, numfmt.Count(c.Count))
			}
			return append(cells, numfmt.Count(g.NoStatus), numfmt.Count(g.Orders))
		}
		for _, g := range a.Groups {
			s.rows = append(s.rows, row(orNone(g.Keys[0]), g))
		}
		s.total = row("all", a.Total)
		return s
	}
	s.columns = append(texts("status"), numbers("orders", "%")...)
	for _, name := range []string{"mean", "median", "p90", "longest"} {
		s.columns = append(s.columns, column{name: name, over: "has stood, " + a.Heading, numeric: true})
	}
	percent := func(n int) string {
		share := 100 * float64(n) / float64(max(1, a.Total.Orders))
		return decimal(&share, 1)
	}
	for _, c := range a.Total.Cells {
		s.rows = append(s.rows, []string{c.Status, numfmt.Count(c.Count), percent(c.Count), decimal(c.Mean, 1), decimal(c.Median, 1), decimal(c.P90, 1), length(c.Longest)})
	}
	s.rows = append(s.rows, []string{"no status", numfmt.Count(a.Total.NoStatus), percent(a.Total.NoStatus), "", "", "", ""})
	s.total = []string{"all", numfmt.Count(a.Total.Orders), percent(a.Total.Orders), "", "", "", ""}
	return s
}

// timesSheet has a row for each group and status.
func timesSheet(a *api.StatusAnswer) sheet {
	s := sheet{title: a.Sentence, answer: a, below: append(statusBelow(a.ReconciliationLine, a.PlacementLine, a.Notes), firstGroups(len(a.Groups), a.AllGroups)...)}
	keys := slices.Clone(a.By)
	if a.Each != "" {
		keys = []string{a.Each}
	}
	s.columns = append(texts(append(keys, "status")...), numbers("stays", "orders", "still there")...)
	for _, name := range []string{"mean", "median", "p90", "longest"} {
		s.columns = append(s.columns, column{name: name, over: a.Heading, numeric: true})
	}
	s.columns = append(s.columns, numbers("% of all time", "order-days")...)
	add := func(key []string, g api.StatusGroup) {
		for _, c := range g.Cells {
			if c.Count > 0 || len(key) == 0 {
				all := c.OrderDays
				s.rows = append(s.rows, append(slices.Clone(key), c.Status, numfmt.Count(c.Count), numfmt.Count(c.Orders), numfmt.Count(c.Running), decimal(c.Mean, 2), decimal(c.Median, 1), decimal(c.P90, 1), length(c.Longest), decimal(c.Share, 1), numfmt.Count(int(math.Round(all)))))
			}
		}
	}
	if len(a.Groups) == 0 {
		add(nil, a.Total)
	} else {
		for _, g := range a.Groups {
			name := orNone(g.Keys[0])
			if g.Cut {
				name += " (part)"
			}
			add([]string{name}, g)
		}
		add([]string{"all"}, a.Total)
	}
	s.below = append(s.below, "Lengths run from a stay's first record to where the next one begins; those that still last run to "+a.At+". Order-days are all lengths together, in "+strings.TrimSuffix(a.Heading, ", elapsed")+".")
	return s
}

// movesSheets are the matrix, the returns and the most frequent paths.
func movesSheets(a *api.StatusMoves) []sheet {
	matrix := sheet{title: a.Sentence, answer: a, columns: texts("from")}
	counts := map[[2]string]int{}
	from, to := map[string]int{}, map[string]int{}
	for _, m := range a.Moves {
		counts[[2]string{m.From, m.To}] = m.Count
		from[m.From], to[m.To] = from[m.From]+m.Count, to[m.To]+m.Count
	}
	for _, s := range a.Statuses {
		if to[s.Name] > 0 {
			matrix.columns = append(matrix.columns, column{name: s.Name, over: "moves to", numeric: true})
		}
	}
	matrix.columns = append(matrix.columns, numbers("all", "median before")...)
	for _, s := range a.Statuses {
		if from[s.Name] == 0 {
			continue
		}
		cells := []string{s.Name}
		for _, t := range a.Statuses {
			if n := counts[[2]string{s.Name, t.Name}]; to[t.Name] > 0 {
				cells = append(cells, numfmt.Either(n > 0, numfmt.Count(n), "·"))
			}
		}
		medians := []string{}
		for _, m := range a.Moves {
			if m.From == s.Name {
				medians = append(medians, fmt.Sprintf("%s %s", m.To, decimal(m.Median, 1)))
			}
		}
		matrix.rows = append(matrix.rows, append(cells, numfmt.Count(from[s.Name]), strings.Join(medians, ", ")))
	}
	matrix.columns[len(matrix.columns)-1] = column{name: "median before moving to …", wraps: true}
	matrix.below = statusBelow(a.ReconciliationLine, a.PlacementLine, a.Notes)
	returns := sheet{title: "Statuses that orders came back to, and how long they were away", columns: append(texts("back to"), numbers("returns", "orders")...)}
	for _, name := range []string{"mean", "median", "p90", "order-days"} {
		returns.columns = append(returns.columns, column{name: name, over: "away, " + a.Heading, numeric: true})
	}
	for _, r := range a.Returns {
		all := r.All
		returns.rows = append(returns.rows, []string{r.To, numfmt.Count(r.Count), numfmt.Count(r.Orders), decimal(r.Mean, 2), decimal(r.Median, 1), decimal(r.P90, 1), numfmt.Count(int(math.Round(all)))})
	}
	if len(a.Returns) == 0 {
		returns.below = []string{"No order came back to a status."}
	}
	paths := sheet{title: fmt.Sprintf("The paths that orders took, the most frequent first (%s in all)", numfmt.Count(a.AllPaths)),
		columns: append(numbers("orders", "%", "ended", "median"), column{name: "path", wraps: true})}
	for _, p := range a.Paths[:min(len(a.Paths), mostLanes)] {
		percent := p.Percent
		paths.rows = append(paths.rows, []string{numfmt.Count(p.Orders), decimal(&percent, 1), numfmt.Count(p.Ended), decimal(p.Median, 1), p.Text})
	}
	paths.below = []string{"The median runs from the first record to where the order ended, or to the data date: " + a.Heading + "."}
	return []sheet{matrix, returns, paths}
}

func staysSheet(a *api.StatusStays) sheet {
	s := sheet{title: a.Sentence, answer: a, columns: append(texts("number"), numbers("stay")...)}
	s.columns = append(s.columns, texts("status", "from", "last seen", "until")...)
	s.columns = append(s.columns, numbers(a.Heading)...)
	s.columns = append(s.columns, texts("")...)
	for _, st := range a.Stays {
		s.rows = append(s.rows, []string{st.Number, fmt.Sprint(st.Sequence), st.Status, withWeekday(st.From), st.LastSeen, untilWords(st), length(st.Length), stayRemark(st)})
	}
	s.below = statusBelow(fmt.Sprintf("%s to %s of %s.", numfmt.Count(a.Offset+min(1, len(a.Stays))), numfmt.Count(a.Offset+len(a.Stays)), numfmt.Counted(a.All, "stay")), a.PlacementLine, a.Notes)
	return s
}

func untilWords(st api.StatusStay) string {
	switch {
	case st.Until != "":
		return withWeekday(st.Until)
	case st.Running:
		return "still there"
	}
	return "the end"
}

func stayRemark(st api.StatusStay) string {
	var remarks []string
	if st.Returned {
		remarks = append(remarks, "came back")
	}
	if st.Ambiguous {
		remarks = append(remarks, "two records of one moment")
	}
	return strings.Join(remarks, "; ")
}

// orderStaysSheet is what one order went through.
func orderStaysSheet(a *api.Order) sheet {
	s := sheet{title: "Its statuses, from " + map[string]string{"event": "events", "daily": "a daily list"}[a.Statuses.Source], answer: a.Statuses, columns: append(numbers(""), texts("status", "from", "last seen", "until")...)}
	s.columns = append(append(s.columns, numbers(strings.ReplaceAll(a.Unit, "-", " ")+", elapsed")...), texts("")...)
	s.below = append(s.below, statusBand(a.InTime, a.Statuses.Stays))
	for _, st := range a.Statuses.Stays {
		s.rows = append(s.rows, []string{fmt.Sprint(st.Sequence), st.Status, withWeekday(st.From), st.LastSeen, untilWords(st), length(st.Length), stayRemark(st)})
	}
	for _, d := range a.Statuses.Disagreements {
		s.below = append(s.below, notePrefix+fmt.Sprintf("at the end of %s the daily list says %s, the events say %s", d.Day, d.Daily, d.Events))
	}
	return s
}

// statusBand draws the stays of an order over its days: below each day as its calendar has it, the number of the stay that holds
// its end.
func statusBand(days []api.CalendarDay, stays []api.StatusStay) string {
	var out strings.Builder
	for from := 0; from < len(days); from += lifeWide {
		line := days[from:min(from+lifeWide, len(days))]
		marks, below := "", ""
		for _, d := range line {
			held := " "
			for _, st := range stays {
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
	return out.String() + "Below each day the number of the stay that holds its end."
}

func statusListSheet(a *api.StatusList) sheet {
	s := sheet{title: "Statuses, in their order.", answer: a, columns: append(numbers("step"), texts("status", "final", "colour", "other spellings", "")...)}
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

// mostLanes is how many bands a terminal shows unless more are asked for.
const mostLanes = 30

// firstGroups says that an answer has only the first of its groups.
func firstGroups(shown, all int) []string {
	if shown == all {
		return nil
	}
	return []string{notePrefix + fmt.Sprintf("the first %s of %s groups are shown; a condition (--where) picks the orders of others", numfmt.Count(shown), numfmt.Count(all))}
}
