package leg

import (
	"fmt"
	"strings"
	"time"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/numfmt"
)

// A Part is what one day contributes to a length.
type Part uint8

// StartNotCounted is the first day under the rule Elapsed, AfterCutOff a day before the one as which the start
// counts; neither is counted. Extra and Half are days that are worked by an entry of their own, and counted.
const (
	AfterCutOff Part = iota
	StartNotCounted
	Counted
	Half
	Extra
	Holiday
	Weekend
	parts
)

var partNames = [parts]string{
	AfterCutOff: "after cut-off", StartNotCounted: "start", Counted: "counted", Half: "half day",
	Extra: "extra working day", Holiday: "holiday", Weekend: "weekend",
}

func (p Part) String() string {
	if p < parts {
		return partNames[p]
	}
	return fmt.Sprintf("Part(%d)", p)
}

// Counts says whether a day of this part adds to the length.
func (p Part) Counts() bool { return p == Counted || p == Half || p == Extra }

// A Cell is one day of a strip. Name is the holiday, half day or extra working day that falls on it; a start that
// is not counted keeps the name too. Seconds are what the day adds to a length in hours.
type Cell struct {
	Day     day.Day
	Part    Part
	Name    string
	Seconds int
}

// A Strip is a length shown day by day: the proof of the number.
type Strip struct {
	Measure Measure
	Cells   []Cell
	Length  int // in ticks, as Measure.Length counts it
	// Reversed says that the end came before the start: the cells run from end to start, and the length is
	// the negative of what they count.
	Reversed bool
	// HolidaysUnknown says that a day lies outside the days for which the calendar knows holidays.
	HolidaysUnknown bool
}

// Strip shows a length on a calendar; without cells where there is none, since a time of day or the daily hours
// are not known.
func (m Measure) Strip(on calendar.Local, stretch Stretch) Strip {
	s := Strip{Measure: m, Reversed: stretch.End < stretch.Start}
	var state State
	if s.Length, state = m.Length(on, stretch); state != Complete {
		return s
	}
	c := m.Calendar(on.Calendar)
	first, last := min(stretch.Start, stretch.End), max(stretch.Start, stretch.End)
	from, to := stretch.StartAt, stretch.EndAt
	if m.Unit.Timed() {
		if s.Reversed = to < from; s.Reversed {
			from, to = to, from
		}
		first, last = day.FromTime(from.In(on.Zone)), day.FromTime(to.In(on.Zone))
	}
	s.HolidaysUnknown = m.HolidaysUnknown(on.Calendar, stretch)
	start, _ := stretch.counted()
	for d := first; d <= last; d++ {
		kind, name := c.Kind(d)
		cell := Cell{Day: d, Name: name, Part: partOf[kind]}
		switch {
		case m.Unit == Hours:
			cell.Seconds = int(min(to, d.At(24*3600, zone(on))) - max(from, d.At(0, zone(on))))
		case m.Unit == WorkingHours:
			cell.Seconds = on.WorkedSeconds(max(from, d.At(0, on.Zone)), min(to, d.At(24*3600, on.Zone)))
		case d < start && !s.Reversed && m.Unit == WorkingDays:
			cell.Part = AfterCutOff
		case m.Rule == Elapsed && (d == start && !s.Reversed || d == first && s.Reversed):
			cell.Part = StartNotCounted
		}
		s.Cells = append(s.Cells, cell)
	}
	return s
}

var partOf = [...]Part{calendar.Working: Counted, calendar.Weekend: Weekend, calendar.Holiday: Holiday, calendar.ExtraWorking: Extra,
	calendar.HalfWorking: Half}

func zone(on calendar.Local) *time.Location {
	if on.Zone == nil {
		return time.UTC
	}
	return on.Zone
}

// String is the sum line: "06-29 to 07-10: 12 days = 1 start + 8 counted + 1 holiday + 2 weekend". The
// years stand in it where they differ, and so does the order of the days where the end came first.
func (s Strip) String() string {
	if len(s.Cells) == 0 {
		return ""
	}
	first, last := s.Cells[0].Day, s.Cells[len(s.Cells)-1].Day
	line := fmt.Sprintf("%s: %s = %s", span(first, last), numfmt.Counted(len(s.Cells), "day"), s.sum())
	switch u := s.Measure.Unit; {
	case u == Weeks:
		days := max(s.Length, -s.Length)
		line += fmt.Sprintf("; %d / 7 = %s weeks", days, u.Text(days))
	case u.Timed():
		line += "; " + s.hours()
	case u != Days && u != WorkingDays:
		line += "; " + s.steps(first, last)
	}
	if s.Reversed {
		line += ", counted backwards"
	}
	return line
}

// sum adds the cells up by their parts.
func (s Strip) sum() string {
	var counts [parts]int
	for _, c := range s.Cells {
		counts[c.Part]++
	}
	var terms []string
	for part, n := range counts {
		name := Part(part).String()
		if s.Measure.Unit == WorkingHours && Part(part) == Counted {
			name = "worked"
		}
		if n > 0 {
			terms = append(terms, fmt.Sprintf("%d %s", n, name))
		}
	}
	return strings.Join(terms, " + ")
}

// mostHours is the number of days whose hours the sum line names one by one.
const mostHours = 5

// hours adds up the hours of the days.
func (s Strip) hours() string {
	var terms []string
	total := 0
	for _, c := range s.Cells {
		total += c.Seconds
		if c.Seconds > 0 {
			terms = append(terms, s.Measure.Unit.Text(c.Seconds))
		}
	}
	words := s.Measure.Unit.Text(total) + " " + s.Measure.Unit.Words()
	if len(terms) > mostHours {
		return fmt.Sprintf("%s over %d days", words, len(terms))
	}
	if len(terms) > 1 {
		words += " = " + strings.Join(terms, " + ")
	}
	return words
}

// steps says how months and years lead from the first day to the last.
func (s Strip) steps(first, last day.Day) string {
	switch s.Measure.Unit {
	case MonthsCrossed:
		return numfmt.Counted(day.MonthsCrossed(first, last), "end") + " of a month in between"
	case YearsCrossed:
		return numfmt.Counted(day.YearsCrossed(first, last), "end") + " of a year in between"
	case Years:
		n := day.MonthsCompleted(first, last) / 12
		return fmt.Sprintf("%s to %v, and the next is complete on %v", numfmt.Counted(n, "year"), first.AddMonths(12*n),
			first.AddMonths(12*(n+1)))
	case Months:
		n := day.MonthsCompleted(first, last)
		return fmt.Sprintf("%s to %v, and the next is complete on %v", numfmt.Counted(n, "month"), first.AddMonths(n), first.AddMonths(n+1))
	}
	n, part, of := day.MonthsFraction(first, last)
	return fmt.Sprintf("%s to %v, then %d of %d days", numfmt.Counted(n, "month"), first.AddMonths(n), part, of)
}

// span names two days; the years stand in it where they differ.
func span(first, last day.Day) string {
	a, b := first.String(), last.String()
	if a[:4] == b[:4] {
		a, b = a[5:], b[5:]
	}
	return a + " to " + b
}
