package cli

import (
	"fmt"
	"strings"
	"time"

	"prairiedusk/internal/api"
)

// withWeekday puts the weekday before a day.
func withWeekday(day string) string {
	at, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return day
	}
	return at.Format("Mon ") + day
}

// strip draws a length day by day, a week to a line: counted days bear their running number, so that the
// last number is the length.
//
//	             Mon Tue Wed Thu Fri Sat Sun
//	2026-06-29     ·   1   H   2   3   –   –  Wed 07-01 Canada Day
//	2026-07-06     4   5   6   7   8
func strip(days []api.StripDay) string {
	const cell = "    "
	var out, names strings.Builder
	fmt.Fprintf(&out, "%-12s Mon Tue Wed Thu Fri Sat Sun\n", "")
	counted, used := 0, map[string]bool{}
	endLine := func(column int) {
		if names.Len() > 0 {
			out.WriteString(strings.Repeat(cell, 7-column) + "  " + names.String())
			names.Reset()
		}
		out.WriteByte('\n')
	}
	column := 0
	for i, d := range days {
		at, err := time.Parse(time.DateOnly, d.Day)
		if err != nil {
			return err.Error()
		}
		column = (int(at.Weekday()) + 6) % 7
		if i == 0 || column == 0 {
			monday := at.AddDate(0, 0, -column)
			fmt.Fprintf(&out, "%-12s%s", monday.Format(time.DateOnly), strings.Repeat(cell, column))
		}
		used[d.Part] = true
		mark := map[string]string{"start": "·", "holiday": "H", "weekend": "–"}[d.Part]
		switch d.Part {
		case "counted":
			counted++
			mark = fmt.Sprint(counted)
		case "extra working day":
			counted++
			mark = fmt.Sprintf("+%d", counted)
		}
		fmt.Fprintf(&out, "%4s", mark)
		if d.Name != "" {
			if names.Len() > 0 {
				names.WriteString(" · ")
			}
			names.WriteString(at.Format("Mon 01-02 ") + d.Name)
		}
		if column == 6 {
			endLine(7)
		}
	}
	if column != 6 {
		endLine(column + 1)
	}
	var legend []string
	for _, l := range []struct{ part, words string }{
		{"start", "· start, not counted"}, {"counted", "1 2 3 counted"}, {"extra working day", "+1 extra working day, counted"},
		{"holiday", "H holiday"}, {"weekend", "– weekend"},
	} {
		if used[l.part] {
			legend = append(legend, l.words)
		}
	}
	return out.String() + strings.Join(legend, "   ")
}
