package cli

import (
	"cmp"
	"fmt"
	"io"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
)

// The pages of the console, and the commands, that count by rows and columns.
const (
	comparePage = "/compare"
	acrossPage  = "/across"
)

func newCompare(e *environment) *cobra.Command {
	var q client.AcrossQuestion
	var k viewSaver
	cmd := &cobra.Command{
		Use:   "compare",
		Short: "The same figure by several dates",
		Long: `Orders, lines, units, value or a mean in each step of time, by two or more dates beside each
other: by which date a figure is placed is half of what it says. Units and lines that were
shipped or delivered are placed by their own days. What has no day, or one outside the period,
stands in the line below, so that every date reconciles to the same whole; and a bridge leads
from what one date places in the period to what another does.`,
		Example: `  prairie-dusk compare --basis ordered,shipped,delivered --each month --show value
  prairie-dusk compare --basis ordered,shipped --each month --period 2026 --show orders,units
  prairie-dusk compare --basis ordered,invoiced --each quarter --show units
  prairie-dusk compare --basis ordered --each day --period 2026-04 --empty alone
  prairie-dusk compare --basis ordered,shipped --each week --period 2026-Q3 --empty hidden --output weeks.xlsx`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if len(q.Basis) == 0 {
				q.Basis = []string{"ordered", "shipped"}
			}
			return e.askAcross(cmd, comparePage, q.Words(), &k)
		},
	}
	flags := cmd.Flags()
	flags.StringVar(&q.Each, "each", "month", "each `step` of the period: day, week, month, quarter or year")
	flags.StringVar(&q.Empty, "empty", "shown", "steps in which nothing lies: `shown` with the reason, hidden, or alone")
	e.addAcross(cmd, &q, &k)
	_ = cmd.RegisterFlagCompletionFunc("each", cobra.FixedCompletions([]string{"day", "week", "month", "quarter", "year"}, cobra.ShellCompDirectiveNoFileComp))
	_ = cmd.RegisterFlagCompletionFunc("empty", cobra.FixedCompletions([]string{"shown", "hidden", "alone"}, cobra.ShellCompDirectiveNoFileComp))
	return cmd
}

func newAcross(e *environment) *cobra.Command {
	var q client.AcrossQuestion
	var k viewSaver
	var blank bool
	cmd := &cobra.Command{
		Use:   "across",
		Short: "Rows by columns: seasons, products, sites",
		Long: `Orders, lines, units, value, a statistic of a leg or a share, by the groups of rows and of
columns: fields, columns of lines such as product, steps of the date, months of the year and
weekdays, or steps of another date, as month(shipped). An order that has lines in several rows
is under each, and once in the sums.`,
		Example: `  prairie-dusk across --rows product --columns month-of-year --show units --basis shipped
  prairie-dusk across --rows site --columns weekday
  prairie-dusk across --rows category --columns quarter --show value --basis delivered
  prairie-dusk across --rows product --columns site --show median --top 5
  prairie-dusk across --rows 'month(ordered)' --columns 'month(shipped)' --basis ordered --period 2026
  prairie-dusk across --rows site --columns month --show share --meets 'shipped == ordered'`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if q.Rows == "" && q.Columns == "" {
				q.Rows = "site"
			}
			words := q.Words()
			if blank {
				words.Set("blank", "true")
			}
			return e.askAcross(cmd, acrossPage, words, &k)
		},
	}
	flags := cmd.Flags()
	flags.StringVar(&q.Rows, "rows", "", "`grouping` of the rows")
	flags.StringVar(&q.Columns, "columns", "", "`grouping` of the columns")
	flags.IntVar(&q.Top, "top", 0, "only so many `rows`, and all others as one")
	flags.StringVar(&q.Sort, "sort", "", "rows by total, name or the `column` of this name; default by time, else total")
	flags.BoolVar(&blank, "blank", false, "leave zeros blank")
	e.addAcross(cmd, &q, &k)
	for _, flag := range []string{"rows", "columns"} {
		_ = cmd.RegisterFlagCompletionFunc(flag, func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
			return e.complete(cmd, func(k known) []string { return append(slices.Clone(k.Groupings), k.LineGroupings...) }), cobra.ShellCompDirectiveNoFileComp
		})
	}
	return cmd
}

// addAcross adds the flags that both commands have.
func (e *environment) addAcross(cmd *cobra.Command, q *client.AcrossQuestion, k *viewSaver) {
	flags := cmd.Flags()
	flags.StringSliceVar(&q.Show, "show", nil, "`figures`, with commas: orders (default), lines, units, value, mean, median or p90 of a leg,\nimmediate, or share with --meets")
	flags.StringSliceVar(&q.Basis, "basis", nil, "`milestones` that place orders and goods in time, with commas")
	flags.StringVar(&q.Period, "period", "", "one `period`; default from the first day to the data date")
	flags.StringVar(&q.From, "from", "", "of a statistic: the `milestone` at which the leg starts; default ordered")
	flags.StringVar(&q.To, "to", "", "of a statistic: the `milestone` at which it ends; default shipped")
	flags.StringVar(&q.In, "in", "", "of a statistic: its `unit`; default working-days")
	flags.StringVar(&q.Count, "count", "", "of a statistic: its count `rule`, elapsed or both-ends")
	flags.StringVar(&q.Meets, "meets", "", "of a share: the `condition`, in CEL")
	flags.StringVar(&q.Where, "where", "", "only orders that meet this `condition`, in CEL")
	k.add(cmd)
	addOutput(cmd)
	_ = cmd.RegisterFlagCompletionFunc("show", cobra.FixedCompletions([]string{"orders", "lines", "units", "value", "mean", "median", "p90", "immediate", "share"}, cobra.ShellCompDirectiveNoFileComp))
	for flag, words := range map[string]func(known) []string{"period": func(k known) []string { return k.Periods }, "basis": known.milestones, "from": known.milestones, "to": known.milestones} {
		_ = cmd.RegisterFlagCompletionFunc(flag, func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
			return e.complete(cmd, words), cobra.ShellCompDirectiveNoFileComp
		})
	}
}

// askAcross prints the answer, or takes it away as a file, and keeps the question under a name.
func (e *environment) askAcross(cmd *cobra.Command, page string, words url.Values, k *viewSaver) error {
	c, err := e.client()
	if err != nil {
		return err
	}
	sentence, err := e.across(cmd, c, words)
	if err != nil || k.name == "" {
		return err
	}
	return k.keep(e, cmd, c, page, words, sentence)
}

// across prints the answer by the words of an address of the console, and gives its sentence.
func (e *environment) across(cmd *cobra.Command, c *client.Client, words url.Values) (sentence string, err error) {
	format, err := e.fileFormat(cmd)
	if err != nil {
		return "", err
	}
	a, err := c.AcrossAt(cmd.Context(), words)
	if err != nil {
		return "", err
	}
	if format != asTable && (format != asJSON || e.settings.GetString("output") != "") {
		return a.Sentence, e.writeFile(cmd, format, func(to io.Writer) error { return c.AcrossFile(cmd.Context(), words, format, to) })
	}
	return a.Sentence, e.print(cmd, acrossSheets(a, words.Get("blank") == "true")...)
}

// acrossSheets are a table for each currency and, with columns, for each date; below, where everything lies.
func acrossSheets(a *api.Across, blank bool) (sheets []sheet) {
	if a.Each != "" || a.Columns == "" && len(a.Bases) > 1 {
		sheets = datesSheets(a)
	} else {
		for _, f := range a.Figures {
			for _, part := range f.Parts {
				for _, table := range part.Tables {
					sheets = append(sheets, crossedFigure(a, f, part, table, blank))
				}
			}
		}
	}
	sheets[0].answer = a
	last := &sheets[len(sheets)-1]
	if len(a.EmptySteps) == 0 && a.Empty == "alone" {
		last.below = append(last.below, "No step is empty.")
	}
	if len(a.EmptySteps) > 0 {
		var reasons []string
		for _, r := range a.EmptySteps {
			reasons = append(reasons, r.Why+" ("+numfmt.Count(r.Steps)+")")
		}
		last.below = append(last.below, "Steps with nothing: "+strings.Join(reasons, "; ")+".")
	}
	last.below = append(last.below, a.ReconciliationLine)
	return sheets
}

// rowName names a row; steps that are cut say so.
func rowName(h api.AcrossHead) string {
	switch {
	case h.Others > 0:
		return fmt.Sprintf("all others (%s)", numfmt.Count(h.Others))
	case h.Cut:
		return h.Key + " (part)"
	}
	return cmp.Or(h.Key, "(none)")
}

// datesSheets have a row for each step and a column for each figure and date, with the difference to the first date.
func datesSheets(a *api.Across) (sheets []sheet) {
	for _, f := range a.Figures {
		for _, part := range f.Parts {
			s := sheet{title: f.Sentence, columns: texts(cmp.Or(a.Each, a.Rows))}
			over := f.Show
			if f.Show == "value" {
				over = cmp.Or(part.Currency, "no currency")
				s.title += " (" + over + ")"
			}
			for j, table := range part.Tables {
				s.columns = append(s.columns, column{name: table.Basis, numeric: true, over: over})
				if j > 0 && f.AddsUp {
					s.columns = append(s.columns, column{name: "less " + part.Tables[0].Basis, numeric: true, over: over})
				}
			}
			withWhy := slices.ContainsFunc(part.Tables[0].Rows, func(r api.AcrossRow) bool { return r.Why != "" })
			if withWhy {
				s.columns = append(s.columns, column{name: "nothing, because", wraps: true})
			}
			line := func(name string, of func(table api.AcrossTable) api.AcrossCell) []string {
				cells := []string{name}
				first := of(part.Tables[0])
				for j, table := range part.Tables {
					c := of(table)
					cells = append(cells, cellText(c))
					if j > 0 && f.AddsUp {
						cells = append(cells, signed(c, first))
					}
				}
				return cells
			}
			for r, row := range part.Tables[0].Rows {
				name := rowName(row.AcrossHead)
				if a.Each == "day" {
					name = withWeekday(row.From)
				}
				cells := line(name, func(t api.AcrossTable) api.AcrossCell { return t.Rows[r].Total })
				if withWhy {
					cells = append(cells, row.Why)
				}
				s.rows = append(s.rows, cells)
			}
			s.total = line("all", func(t api.AcrossTable) api.AcrossCell { return t.Total.Total })
			if withWhy {
				s.total = append(s.total, "")
			}
			s.below = acrossBelow(f, part)
			sheets = append(sheets, s)
			for _, b := range part.Bridges {
				sheets = append(sheets, bridgeSheet(b))
			}
		}
	}
	return sheets
}

// cellText is a cell with what it is of.
func cellText(c api.AcrossCell) string {
	if c.Of == "" {
		return c.Text
	}
	if c.Text == "" {
		return "(" + c.Of + ")"
	}
	return c.Text + " (" + strings.TrimPrefix(c.Of, "of ") + ")"
}

// signed is a difference, with its sign, in the decimals of its terms.
func signed(c, first api.AcrossCell) string {
	if c.Value == nil || first.Value == nil {
		return ""
	}
	decimals := 0
	for _, text := range []string{c.Text, first.Text} {
		if _, fraction, found := strings.Cut(text, "."); found {
			decimals = max(decimals, len(fraction))
		}
	}
	text := strconv.FormatFloat(*c.Value-*first.Value, 'f', decimals, 64)
	whole, fraction, _ := strings.Cut(text, ".")
	n, _ := strconv.Atoi(whole)
	if written := numfmt.Count(n); n != 0 {
		whole = written
	}
	if fraction != "" {
		whole += "." + fraction
	}
	if *c.Value > *first.Value {
		whole = "+" + whole
	}
	return whole
}

// acrossBelow says where everything lies by each date, the means, and what has to be known.
func acrossBelow(f api.AcrossFigure, part api.AcrossPart) (lines []string) {
	for _, table := range part.Tables {
		line := numfmt.Sentence(table.Words) + ": " + table.Line
		lines = append(lines, line)
	}
	for _, table := range part.Tables {
		if m := table.Means; m != nil && m.DaysWith > 0 {
			lines = append(lines, fmt.Sprintf("%s per calendar day (%s): %s; per working day (%s): %s; per day with any (%s): %s", numfmt.Sentence(table.Words),
				numfmt.Count(m.CalendarDays), m.PerCalendarDay.Text, numfmt.Count(m.WorkingDays), cmp.Or(m.PerWorkingDay.Text, "none"), numfmt.Count(m.DaysWith), m.PerDayWith.Text))
		}
	}
	for _, n := range f.Notes {
		lines = append(lines, notePrefix+n.Text)
	}
	return lines
}

// bridgeSheet leads from one date to another in seven steps; empty ones are folded.
func bridgeSheet(b api.AcrossBridge) sheet {
	s := sheet{title: fmt.Sprintf("From what was %s in the period to what was %s in it", b.From, b.To), columns: append(texts("step"), numbers("amount")...)}
	s.rows = append(s.rows, []string{b.From + " in it", b.Total.Text})
	folded := 0
	for _, step := range b.Steps {
		if step.Sign == 0 {
			continue
		}
		if step.Amount.Value != nil && *step.Amount.Value == 0 {
			folded++
			continue
		}
		s.rows = append(s.rows, []string{map[int]string{-1: "− ", 1: "+ "}[step.Sign] + step.Label, step.Amount.Text})
	}
	s.total = []string{"= " + b.To + " in it", b.Other.Text}
	for _, step := range b.Steps {
		if step.Sign == 0 {
			s.below = append(s.below, step.Amount.Text+" are in both: "+step.Label+".")
		}
	}
	if folded > 0 {
		s.below = append(s.below, fmt.Sprintf("%s left out.", numfmt.Agreeing(folded, "1 step that holds nothing is", numfmt.Count(folded)+" steps that hold nothing are")))
	}
	return s
}

// crossedFigure is a table of rows and columns by one date.
func crossedFigure(a *api.Across, f api.AcrossFigure, part api.AcrossPart, table api.AcrossTable, blank bool) sheet {
	s := sheet{title: f.Sentence, columns: texts(cmp.Or(a.Rows, "orders"))}
	if f.Show == "value" {
		s.title += " (" + cmp.Or(part.Currency, "no currency") + ")"
	}
	if len(part.Tables) > 1 {
		s.title += " By " + table.Basis + "."
	}
	if a.Columns != "" {
		for _, c := range part.Columns {
			s.columns = append(s.columns, column{name: rowName(c), over: a.Columns + ": " + table.Words, numeric: true})
		}
	}
	s.columns = append(s.columns, column{name: "all", numeric: true})
	years := slices.ContainsFunc(table.Rows, func(r api.AcrossRow) bool { return r.PerAs != "" })
	behind := slices.ContainsFunc(table.Rows, func(r api.AcrossRow) bool { return len(r.Whole)+len(r.InPart)+r.Days > 0 })
	if behind {
		s.columns = append(s.columns, texts("behind it")...)
	}
	withWhy := slices.ContainsFunc(table.Rows, func(r api.AcrossRow) bool { return r.Why != "" })
	if years {
		s.columns = append(s.columns, numbers("mean of each")...)
	}
	if withWhy {
		s.columns = append(s.columns, column{name: "nothing, because", wraps: true})
	}
	text := func(c api.AcrossCell) string {
		switch {
		case blank && c.Value != nil && *c.Value == 0:
			return ""
		}
		return cellText(c)
	}
	line := func(name string, r api.AcrossRow) []string {
		cells := []string{name}
		if a.Columns != "" {
			for _, c := range r.Cells {
				cells = append(cells, text(c))
			}
		}
		cells = append(cells, text(r.Total))
		if behind {
			cells = append(cells, behindWords(r.AcrossHead))
		}
		if years {
			cells = append(cells, r.PerAs)
		}
		if withWhy {
			cells = append(cells, r.Why)
		}
		return cells
	}
	for _, r := range table.Rows {
		s.rows = append(s.rows, line(rowName(r.AcrossHead), r))
	}
	s.total = line("all", table.Total)
	if slices.ContainsFunc(part.Columns, func(h api.AcrossHead) bool { return len(h.Whole)+len(h.InPart)+h.Days > 0 }) {
		means, under := []string{"mean of each"}, []string{"behind it"}
		for _, c := range part.Columns {
			means, under = append(means, c.PerAs), append(under, behindWords(c))
		}
		pad := make([]string, len(s.columns)-len(means))
		s.under = append(s.under, append(under, pad...))
		if f.AddsUp {
			s.under = append(s.under, append(means, pad...))
		}
	}
	if n := len(table.Rows); n < part.AllRows {
		s.below = append(s.below, fmt.Sprintf("The first %s of %s; --output has all.", numfmt.Count(n), numfmt.Counted(part.AllRows, "row")))
	}
	s.below = append(s.below, acrossBelow(f, api.AcrossPart{Tables: []api.AcrossTable{table}})...)
	return s
}

// behindWords are the years behind a month of the year, or the number of weekdays.
func behindWords(h api.AcrossHead) string {
	var words []string
	if h.Days > 0 {
		words = append(words, numfmt.Counted(h.Days, "day"))
	}
	for _, year := range h.Whole {
		words = append(words, strconv.Itoa(year))
	}
	for _, year := range h.InPart {
		words = append(words, strconv.Itoa(year)+" (part)")
	}
	return strings.Join(words, ", ")
}
