package cli

import (
	"fmt"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/numfmt"
)

func newOpen(e *environment) *cobra.Command {
	return e.asks(&cobra.Command{
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
  prairie-dusk open --timeline --period 2026-10-12/2026-10-31 --sort age
  prairie-dusk open --period 2026-07 --list at-end`,
	}, asking{path: "/open", page: openPage, in: &api.OpenQuestion{}, draw: timelineSheets,
		lists: []string{"at-start", "opened-in", "closed-in", "at-end", "some-time", "not-open"}})
}

// A timeline is the orders of an answer, each over its days.
type timeline struct {
	*answer.Document
	rows                         *answer.Table
	shownFrom, shownTo, from, to string
	off                          map[string][]string // by calendar, the days that are not worked
}

// timelineOf reads the timeline in a document; false where there is none.
func timelineOf(d *answer.Document) (t timeline, is bool) {
	p := &d.Parts[0]
	if t.rows = p.Table("timeline"); t.rows == nil {
		return t, false
	}
	t.Document, t.off = d, map[string][]string{}
	days := p.Table("days").Rows
	t.from, t.to, t.shownFrom, t.shownTo = days[0].Cells[1].Text, days[0].Cells[2].Text, days[1].Cells[1].Text, days[1].Cells[2].Text
	for _, r := range p.Table("off").Rows {
		t.off[r.Cells[0].Text] = append(t.off[r.Cells[0].Text], r.Cells[1].Text)
	}
	return t, true
}

// text is that of a cell of a row.
func (t timeline) text(r answer.Row, code string) string { return r.Cells[t.rows.At(code)].Text }

// timelineSheets draw a timeline; none where the answer is of another kind.
func timelineSheets(d *answer.Document, width int) []sheet {
	t, is := timelineOf(d)
	if !is {
		return nil
	}
	s := sheet{title: d.Asked(), answer: d}
	n := len(t.rows.Rows)
	if n == 0 {
		s.below = []string{"No order was open."}
		return []sheet{s}
	}
	s.drawn = strings.Join(t.draw(width), "\n")
	s.below = []string{
		fmt.Sprintf("%s to %s of %s that were open at some time.", numfmt.Count(t.rows.Offset+1), numfmt.Count(t.rows.Offset+n),
			numfmt.Counted(t.rows.All, "order")),
		"█ open on a working day, ▒ on a day that is not worked, ■ opened and closed on one day, › still open on " + d.DataDate +
			", × cancelled, ‹ opened earlier. The line above the orders is the period."}
	return []sheet{s}
}

// draw gives a line for each order, below one for the days.
func (t timeline) draw(width int) []string {
	parse := func(text string) time.Time { d, _ := time.Parse(time.DateOnly, text); return d }
	first := parse(t.shownFrom)
	place := func(text string) int { return int(parse(text).Sub(first).Hours() / 24) }
	days := place(t.shownTo) + 1
	numberWidth, reasonWidth := 0, 0
	for _, r := range t.rows.Rows {
		numberWidth, reasonWidth = max(numberWidth, len(t.text(r, "number"))), max(reasonWidth, len(t.text(r, "reason")))
	}
	if width == 0 {
		width = 140
	}
	room := max(20, width-numberWidth-reasonWidth-6)
	per := (days + room - 1) / room // days a character
	cells := (days + per - 1) / per
	from, to, end := place(t.from)/per, place(t.to)/per, place(t.DataDate)/per
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
	for _, r := range t.rows.Rows {
		off := map[int]bool{}
		for _, day := range t.off[t.text(r, "calendar")] {
			off[place(day)] = per == 1
		}
		bar := []rune(strings.Repeat(" ", cells))
		closed := t.text(r, "close")
		start, last := place(t.text(r, "start"))/per, end
		if closed != "" {
			last = min(place(closed)/per, cells-1)
		}
		for at := max(0, start); at <= min(last, cells-1); at++ {
			if bar[at] = '█'; off[at] {
				bar[at] = '▒'
			}
		}
		switch at := max(0, min(last, cells-1)); {
		case closed == "":
			bar[at] = '›'
		case t.text(r, "cancelled") == "yes":
			bar[at] = '×'
		case start == last:
			bar[at] = '■'
		}
		if start < 0 {
			bar[0] = '‹'
		}
		lines = append(lines, fmt.Sprintf("%-*s  %s  %s", numberWidth, t.text(r, "number"), string(bar), t.text(r, "reason")))
	}
	return lines
}
