package leg

import (
	"fmt"
	"strings"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
)

// A Part is what one day contributes to a length.
type Part uint8

// StartNotCounted is the first day under the rule Elapsed; Extra is an extra working day, and counted.
const (
	StartNotCounted Part = iota
	Counted
	Extra
	Holiday
	Weekend
	parts
)

var partNames = [parts]string{StartNotCounted: "start", Counted: "counted", Extra: "extra working day", Holiday: "holiday", Weekend: "weekend"}

func (p Part) String() string {
	if p < parts {
		return partNames[p]
	}
	return fmt.Sprintf("Part(%d)", p)
}

// A Cell is one day of a strip. Name is the holiday or extra working day that falls on it; a start that is
// not counted keeps the name too.
type Cell struct {
	Day  day.Day
	Part Part
	Name string
}

// A Strip is a length shown day by day: the proof of the number.
type Strip struct {
	Cells []Cell
	// Reversed says that the end came before the start: the cells run from end to start, and the length is
	// the negative of what they count.
	Reversed bool
	// HolidaysUnknown says that a day lies outside the days for which the calendar knows holidays.
	HolidaysUnknown bool
}

// Strip shows the length from start to end on a calendar.
func (m Measure) Strip(own *calendar.Calendar, start, end day.Day) Strip {
	c := m.Calendar(own)
	s := Strip{Reversed: end < start, HolidaysUnknown: !c.Covers(start, end)}
	first, last := min(start, end), max(start, end)
	for d := first; d <= last; d++ {
		kind, name := c.Kind(d)
		part := [...]Part{calendar.Working: Counted, calendar.Weekend: Weekend, calendar.Holiday: Holiday, calendar.ExtraWorking: Extra}[kind]
		if d == first && m.Rule == Elapsed {
			part = StartNotCounted
		}
		s.Cells = append(s.Cells, Cell{d, part, name})
	}
	return s
}

// Length is what the cells add up to; it equals Measure.Length.
func (s Strip) Length() int {
	n := 0
	for _, c := range s.Cells {
		if c.Part == Counted || c.Part == Extra {
			n++
		}
	}
	if s.Reversed {
		return -n
	}
	return n
}

// String is the sum line: "06-29 to 07-10: 12 days = 1 start + 8 counted + 1 holiday + 2 weekend". The
// years stand in it where they differ, and so does the order of the days where the end came first.
func (s Strip) String() string {
	if len(s.Cells) == 0 {
		return ""
	}
	var counts [parts]int
	for _, c := range s.Cells {
		counts[c.Part]++
	}
	var sum []string
	for part, n := range counts {
		if n > 0 {
			sum = append(sum, fmt.Sprintf("%d %v", n, Part(part)))
		}
	}
	first, last := s.Cells[0].Day.String(), s.Cells[len(s.Cells)-1].Day.String()
	if first[:4] == last[:4] {
		first, last = first[5:], last[5:]
	}
	days := "days"
	if len(s.Cells) == 1 {
		days = "day"
	}
	line := fmt.Sprintf("%s to %s: %d %s = %s", first, last, len(s.Cells), days, strings.Join(sum, " + "))
	if s.Reversed {
		line += ", counted backwards"
	}
	return line
}
