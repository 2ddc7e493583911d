package cli

import (
	"cmp"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
)

// mostLanes is how many lanes a terminal shows unless more are asked for.
const mostLanes = 30

func newOpen(e *environment) *cobra.Command {
	var q struct {
		questionFlags
		client.OpenQuestion
	}
	var ages, lanes bool
	var k viewSaver
	cmd := &cobra.Command{
		Use:   "open",
		Short: "What was open in a period, over time, or at a day",
		Long: `What was open: orders that had begun a leg and not closed it. The period is that in which
they were open, and never a filter on when they were ordered: what was carried in counts.`,
		Example: `  prairie-dusk open --period 2026-07
  prairie-dusk open --period 2026-07 --by site --closing-day out
  prairie-dusk open --each month --by site
  prairie-dusk open --from delivered --to paid --each quarter --holdings
  prairie-dusk open --ages --at 2026-03-16 --by site
  prairie-dusk open --ages --each month --period 2026
  prairie-dusk open --lanes --period 2026-10-12/2026-10-31 --sort age`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			q.OpenQuestion.Question = q.questionFlags.Question
			show := ""
			switch {
			case lanes && ages:
				return usageError{fmt.Errorf("--lanes and --ages are two tables; want one")}
			case lanes:
				show = client.ShowLanes
			case ages || q.At != "":
				show = client.ShowAges
			case q.Each != "":
				show = client.ShowTime
			}
			words := q.OpenQuestion.Words(show)
			sentence, err := e.open(cmd, c, words, q.Offset, q.Limit)
			if err != nil || k.name == "" {
				return err
			}
			return k.keep(e, cmd, c, openPage, words, sentence)
		},
	}
	flags := cmd.Flags()
	q.questionFlags.add(flags)
	_ = flags.MarkHidden("basis")
	_ = flags.MarkHidden("cut-off") // ages run from the day as it was recorded
	flags.Lookup("period").Usage = "`period` in which something was open: 2026, 2026-Q3, 2026-07, 2026-07-06/2026-08-02, last-month, …;\nseveral with commas; default from the first day to the data date"
	flags.StringVar(&q.ClosingDay, "closing-day", "in", "whether an order counts as open on the day on which it closes: `in` or out")
	flags.StringVar(&q.Each, "each", "", "each `step` of the period: day, week, month, quarter or year")
	flags.BoolVar(&q.Holdings, "holdings", false, "with --each, units and values too")
	flags.BoolVar(&ages, "ages", false, "how old what was open is; with --each also how the mix of ages developed")
	flags.StringVar(&q.At, "at", "", "ages at the end of this `day`; default the data date")
	flags.StringVar(&q.Buckets, "buckets", "2,5,10,20", "the greatest `ages` of all buckets but the last, in the unit")
	flags.BoolVar(&lanes, "lanes", false, "the orders themselves, each over its days, with the reason why it counts")
	flags.StringVar(&q.Sort, "sort", "start", "of lanes: by `start`, age (what is open at the end first, the oldest before all) or length (the longest first)")
	flags.IntVar(&q.Limit, "limit", mostLanes, "at most so many `lanes`")
	flags.IntVar(&q.Offset, "offset", 0, "leave out the first so many `lanes`")
	k.add(cmd)
	addFormat(cmd)
	e.completeQuestion(cmd)
	for flag, words := range map[string][]string{"closing-day": {"in", "out"}, "each": {"day", "week", "month", "quarter", "year"}, "sort": {"start", "age", "length"}} {
		_ = cmd.RegisterFlagCompletionFunc(flag, cobra.FixedCompletions(words, cobra.ShellCompDirectiveNoFileComp))
	}
	return cmd
}

// open prints what was open, by the words of an address of the console, and gives its sentence.
func (e *environment) open(cmd *cobra.Command, c *client.Client, words url.Values, offset, limit int) (sentence string, err error) {
	switch words.Get("show") {
	case client.ShowLanes:
		answer, err := c.LanesAt(cmd.Context(), words, offset, limit)
		if err != nil {
			return "", err
		}
		return answer.Sentence, e.print(cmd, lanesSheet(answer, width(cmd.OutOrStdout())))
	case client.ShowAges:
		answer, err := c.AgesAt(cmd.Context(), words)
		if err != nil {
			return "", err
		}
		return answer.Sentence, e.print(cmd, ageSheets(answer)...)
	case client.ShowTime:
		if words.Get("each") == "" { // as the page has it
			words = maps.Clone(words)
			words.Set("each", "month")
		}
	}
	answer, err := c.OpenAt(cmd.Context(), words)
	if err != nil {
		return "", err
	}
	return answer.Sentence, e.print(cmd, openSheets(answer)...)
}

// firstGroups says that an answer has only the first of its groups.
func firstGroups(shown, all int) []string {
	if shown == all {
		return nil
	}
	return []string{notePrefix + fmt.Sprintf("the first %s of %s groups are shown; a condition (--where) picks the orders of others", numfmt.Count(shown), numfmt.Count(all))}
}

// openSheets are a row for each period or step, of all orders or of each group, and what they hold.
func openSheets(a *api.Open) (sheets []sheet) {
	for _, part := range a.Parts {
		s := sheet{title: a.Sentence, answer: a}
		if len(a.Parts) > 1 {
			s.title += " (" + part.Period.Text + ")"
		}
		if a.Each != "" && len(part.Groups) > 0 {
			s.openByGroup(a, part)
		} else {
			s.openRows(a, part)
		}
		s.below = append([]string{part.ReconciliationLine}, firstGroups(len(part.Groups), part.AllGroups)...)
		for _, n := range part.Notes {
			s.below = append(s.below, notePrefix+n.Text)
		}
		if a.Each == "" {
			row := part.Rows[0]
			line := fmt.Sprintf("At its start %s + opened %s − closed %s = at its end %s", numfmt.Count(row.AtStart.Orders), numfmt.Count(row.Opened.Orders), numfmt.Count(row.Closed.Orders), numfmt.Count(row.AtEnd.Orders))
			s.below = slices.Insert(s.below, 0, line)
		} else {
			s.below = append(s.below, "Open at some time overlaps between steps and is never added up.")
		}
		sheets = append(sheets, s)
		if part.Rows[0].AtEnd.Units != nil {
			sheets = append(sheets, holdingsSheet(a, part))
		}
	}
	if a.Together != nil {
		last := &sheets[len(sheets)-1]
		last.below = append(last.below, a.Together.Line)
	}
	return sheets
}

// openRows has a row for each group and stretch of days.
func (s *sheet) openRows(a *api.Open, part api.OpenPart) {
	step := "period"
	if a.Each != "" {
		step = a.Each
	}
	s.columns = append(texts(append(slices.Clone(a.By), step)...), numbers("at start", "opened", "closed", "open at end", "open at some time")...)
	if a.ClosingDay == "out" {
		s.columns = append(s.columns, numbers("not open on closing day")...)
	}
	row := func(keys []string, r api.OpenRow) []string {
		name := r.Name
		if name == "" {
			name = r.From + " to " + r.To
		}
		cells := append(slices.Clone(keys), name, numfmt.Count(r.AtStart.Orders), numfmt.Count(r.Opened.Orders), numfmt.Count(r.Closed.Orders), numfmt.Count(r.AtEnd.Orders), numfmt.Count(r.SomeTime.Orders))
		if a.ClosingDay == "out" {
			cells = append(cells, numfmt.Count(r.NotOpen.Orders))
		}
		return cells
	}
	for _, g := range part.Groups {
		s.rows = append(s.rows, row(named(g.Keys), g.Rows[0]))
	}
	all := slices.Repeat([]string{"all"}, len(a.By))
	for _, r := range part.Rows {
		if a.Each == "" {
			s.total = row(all, r)
		} else {
			s.rows = append(s.rows, row(all, r))
		}
	}
}

// openByGroup has a row for each step and a column for each group.
func (s *sheet) openByGroup(a *api.Open, part api.OpenPart) {
	s.columns = texts(a.Each)
	for _, g := range part.Groups {
		s.columns = append(s.columns, column{name: strings.Join(named(g.Keys), ", "), over: "open at the end", numeric: true})
	}
	s.columns = append(s.columns, column{name: "all", over: "open at the end", numeric: true})
	s.columns = append(s.columns, numbers("opened", "closed")...)
	for i, r := range part.Rows {
		cells := []string{r.Name}
		for _, g := range part.Groups {
			cells = append(cells, numfmt.Count(g.Rows[i].AtEnd.Orders))
		}
		s.rows = append(s.rows, append(cells, numfmt.Count(r.AtEnd.Orders), numfmt.Count(r.Opened.Orders), numfmt.Count(r.Closed.Orders)))
	}
}

func named(keys []string) []string {
	names := make([]string, len(keys))
	for i, key := range keys {
		names[i] = orNone(key)
	}
	return names
}

// holdingsSheet says what the orders hold, in units and in each currency by itself.
func holdingsSheet(a *api.Open, part api.OpenPart) sheet {
	s := sheet{title: "And what they hold", columns: append(texts(append(slices.Clone(a.By), "days", "in")...), numbers("at start", "opened", "left or closed", "open at end")...)}
	add := func(keys []string, r api.OpenRow) {
		name := r.Name
		if name == "" {
			name = r.From + " to " + r.To
		}
		units := func(a api.Amount) string { return cmp.Or(*a.Units, "not known") }
		s.rows = append(s.rows, append(append(slices.Clone(keys), name, "units"), units(r.AtStart), units(r.Opened), units(r.Closed), units(r.AtEnd)))
		var currencies []string
		for _, amount := range []api.Amount{r.AtStart, r.Opened, r.Closed, r.AtEnd} {
			for _, v := range amount.Values {
				if !slices.Contains(currencies, v.Currency) {
					currencies = append(currencies, v.Currency)
				}
			}
		}
		slices.Sort(currencies)
		for _, currency := range currencies {
			cells := append(slices.Clone(keys), name, orNone(currency))
			for _, amount := range []api.Amount{r.AtStart, r.Opened, r.Closed, r.AtEnd} {
				value := ""
				for _, v := range amount.Values {
					if v.Currency == currency {
						value = v.Value
					}
				}
				cells = append(cells, value)
			}
			s.rows = append(s.rows, cells)
		}
	}
	for _, g := range part.Groups {
		for _, r := range g.Rows {
			add(named(g.Keys), r)
		}
	}
	for _, r := range part.Rows {
		add(slices.Repeat([]string{"all"}, len(a.By)), r)
	}
	s.below = []string{"Units and values are those that have not left, where lines and shipments say; else those of whole orders. Currencies are never added."}
	return s
}

// ageSheets are the ages by bucket, and how their mix developed.
func ageSheets(a *api.Ages) []sheet {
	s := sheet{title: a.Sentence, answer: a, columns: append(texts(a.By...), numbers("open")...)}
	if len(a.By) == 0 {
		s.columns = append(texts("orders"), numbers("open")...)
	}
	var buckets []column
	for _, b := range a.Buckets {
		buckets = append(buckets, column{name: b.Label, numeric: true})
	}
	s.columns = append(append(s.columns, buckets...), numbers("median", "p90", "oldest")...)
	row := func(keys []string, g api.AgeGroup) []string {
		cells := append(slices.Clone(keys), numfmt.Count(g.Orders))
		for _, n := range g.Buckets {
			cells = append(cells, numfmt.Count(n))
		}
		return append(cells, decimal(g.Median, 1), decimal(g.P90, 1), length(g.Oldest))
	}
	for _, g := range a.Groups {
		s.rows = append(s.rows, row(named(g.Keys), g))
	}
	all := slices.Repeat([]string{"all"}, max(1, len(a.By)))
	s.total = row(all, a.Total)
	s.below = []string{"An age runs from the start to the day asked about: " + a.Heading + ". p90 is the 90th percentile."}
	if len(a.Mix) == 0 {
		return []sheet{s}
	}
	mix := sheet{title: "How the mix of ages developed: open at the end of each step", columns: append(append(texts("from", "to"), numbers("open")...), buckets...)}
	for _, m := range a.Mix {
		open := 0
		cells := []string{}
		for _, n := range m.Buckets {
			open += n
			cells = append(cells, numfmt.Count(n))
		}
		mix.rows = append(mix.rows, append([]string{m.From, m.To, numfmt.Count(open)}, cells...))
	}
	return []sheet{s, mix}
}

// lanesSheet draws the orders over the days, one character for each day or, where they are many, for several.
func lanesSheet(a *api.Lanes, width int) sheet {
	s := sheet{title: a.Sentence, answer: a, columns: append(texts("number", "start", "close"), numbers("age")...)}
	s.columns = append(s.columns, texts("reason")...)
	var drawn []string
	for _, l := range a.Lanes {
		closed := l.Close
		if closed == "" {
			closed = "open"
		} else if l.Cancelled {
			closed += " ×"
		}
		s.rows = append(s.rows, []string{l.Number, l.Start, closed, length(l.Age), l.Reason})
	}
	drawn = drawLanes(a, width)
	s.below = []string{fmt.Sprintf("%s to %s of %s that were open at some time.", numfmt.Count(a.Offset+min(1, len(a.Lanes))), numfmt.Count(a.Offset+len(a.Lanes)), numfmt.Counted(a.All, "order"))}
	if len(a.Lanes) == 0 {
		s.below = []string{"No order was open."}
		return s
	}
	s.drawn = strings.Join(drawn, "\n")
	s.below = append(s.below, "█ open on a working day, ▒ on a day that is not worked, ■ opened and closed on one day, › still open on "+a.DataDate+", × cancelled, ‹ opened earlier. The line above the lanes is the period.")
	return s
}

// drawLanes gives a line for each lane, below one for the days.
func drawLanes(a *api.Lanes, width int) []string {
	parse := func(text string) time.Time { d, _ := time.Parse(time.DateOnly, text); return d }
	first := parse(a.Shown.From)
	place := func(text string) int { return int(parse(text).Sub(first).Hours() / 24) }
	days := place(a.Shown.To) + 1
	numberWidth, reasonWidth := 0, 0
	for _, l := range a.Lanes {
		numberWidth, reasonWidth = max(numberWidth, len(l.Number)), max(reasonWidth, len(l.Reason))
	}
	if width == 0 {
		width = 140
	}
	room := max(20, width-numberWidth-reasonWidth-6)
	per := (days + room - 1) / room // days a character
	cells := (days + per - 1) / per
	from, to, end := place(a.From)/per, place(a.To)/per, place(a.DataDate)/per
	head := []rune(strings.Repeat(" ", cells+12))
	for at := 0; at+10 <= cells+10; at += 14 {
		copy(head[at:], []rune(first.AddDate(0, 0, at*per).Format(time.DateOnly)))
	}
	period := []rune(strings.Repeat(" ", cells))
	for at := max(0, from); at <= min(to, cells-1); at++ {
		period[at] = '─'
	}
	margin := strings.Repeat(" ", numberWidth+2)
	lines := []string{strings.TrimRight(margin+string(head), " "), strings.TrimRight(margin+string(period), " ")}
	for _, l := range a.Lanes {
		off := map[int]bool{}
		for _, d := range a.Calendars[l.Calendar].Off {
			off[d] = per == 1
		}
		bar := []rune(strings.Repeat(" ", cells))
		start, close := place(l.Start)/per, end
		if l.Close != "" {
			close = min(place(l.Close)/per, cells-1)
		}
		for at := max(0, start); at <= min(close, cells-1); at++ {
			if bar[at] = '█'; off[at] {
				bar[at] = '▒'
			}
		}
		switch last := max(0, min(close, cells-1)); {
		case l.Close == "":
			bar[last] = '›'
		case l.Cancelled:
			bar[last] = '×'
		case start == close:
			bar[last] = '■'
		}
		if start < 0 {
			bar[0] = '‹'
		}
		lines = append(lines, fmt.Sprintf("%-*s  %s  %s", numberWidth, l.Number, string(bar), l.Reason))
	}
	return lines
}
