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

// stripMarks are what the parts of a strip look like; a 1 stands for the number of a counted day.
var stripMarks = map[string]string{"after cut-off": "›", "start": "·", "counted": "1", "half day": "~1", "extra working day": "+1",
	"holiday": "H", "weekend": "–"}

// strip draws a length day by day, a week to a line: counted days bear their running number, so that the last number
// is the length; in hours each day bears its own.
//
//	             Mon Tue Wed Thu Fri Sat Sun
//	2026-06-29     ·   1   H   2   3   –   –  Wed 07-01 Canada Day
//	2026-07-06     4   5   6   7   8
func strip(days []api.StripDay) string {
	wide := 4
	if len(days) > 0 && days[0].Hours != nil {
		wide = 6
	}
	cell := strings.Repeat(" ", wide)
	var out, names strings.Builder
	out.WriteString(strings.Repeat(" ", 12))
	for _, weekday := range []string{"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"} {
		fmt.Fprintf(&out, "%*s", wide, weekday)
	}
	out.WriteByte('\n')
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
		mark := stripMarks[d.Part]
		if sign, counts := strings.CutSuffix(mark, "1"); counts {
			if counted++; d.Hours != nil {
				mark = sign + length(d.Hours)
			} else {
				mark = sign + fmt.Sprint(counted)
			}
		}
		fmt.Fprintf(&out, "%*s", wide, mark)
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
		{"after cut-off", "after cut-off, not counted"}, {"start", "start, not counted"}, {"counted", "counted"},
		{"half day", "half day, counted"}, {"extra working day", "extra working day, counted"}, {"holiday", "holiday"},
		{"weekend", "weekend"},
	} {
		if used[l.part] {
			mark := stripMarks[l.part]
			if l.part == "counted" {
				mark = "1 2 3"
			}
			legend = append(legend, mark+" "+l.words)
		}
	}
	if wide > 4 {
		legend = append(legend, "the numbers are hours")
	}
	return out.String() + strings.Join(legend, "   ")
}

// lifeMarks are what the days between milestones look like.
var lifeMarks = map[string]string{"working": "·", "weekend": "–", "holiday": "H", "half day": "~", "extra working day": "+"}

// lifeWide is how many days of an order's life stand in one line.
const lifeWide = 70

// life draws the days from an order's first milestone to its last, with the numbers of the milestones below their days.
//
//	2026-06-29  ··H··––·····––··
//	            1  2       3
func life(days []api.CalendarDay, milestones []api.MilestoneOn) string {
	numbers := map[string]string{}
	for i, m := range milestones {
		if numbers[m.Day] != "" {
			numbers[m.Day] = "*" // several on one day; the table has them
			continue
		}
		numbers[m.Day] = fmt.Sprint((i + 1) % 10)
	}
	var out strings.Builder
	used := map[string]bool{}
	for from := 0; from < len(days); from += lifeWide {
		line := days[from:min(from+lifeWide, len(days))]
		marks, below := "", ""
		for _, d := range line {
			marks += lifeMarks[d.Kind]
			used[d.Kind] = true
			if number := numbers[d.Day]; number != "" {
				below += number
			} else {
				below += " "
			}
		}
		fmt.Fprintf(&out, "%-12s%s\n%12s%s\n", line[0].Day, marks, "", strings.TrimRight(below, " "))
	}
	legend := []string{"1 2 3 milestones, * several"}
	for _, kind := range []string{"working", "weekend", "holiday", "half day", "extra working day"} {
		if used[kind] {
			legend = append(legend, lifeMarks[kind]+" "+kind)
		}
	}
	return out.String() + strings.Join(legend, "   ")
}
