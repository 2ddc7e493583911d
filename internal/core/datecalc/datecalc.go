// Package datecalc answers what is asked about days alone, without an order: how long between two, which day so many
// days away, when to begin at the latest.
package datecalc

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/request"
)

// A Request asks by what it gives: From and To for a length, From and N for a day, Wanted and N for the latest start.
type Request struct {
	From, To, Wanted string // days; for hours with a local time of day
	N                string // a whole number of days; negative is before
	In               string // unit; default working-days
	Count            string // count rule; default elapsed
	Roll             string // keep, next or previous: what becomes of a day that is not worked; default keep
}

// An Answer says what was reckoned, and shows it day by day.
type Answer struct {
	Sentence string // what was asked
	Words    string // the answer
	Measure  leg.Measure
	Length   *int    // in ticks of the unit; of two days
	Day      day.Day // so many days away, or the latest start
	// Working is the latest working day on which to begin; zero where that was not asked.
	Working day.Day
	Strip   leg.Strip
	// HolidaysUnknown says that the calendar was asked about a day for which it knows no holidays.
	HolidaysUnknown bool
}

// RollNames lists what can become of a day that is not worked.
func RollNames() []string { return []string{"keep", "next", "previous"} }

var rollWords = [...]string{calendar.Next: ", moved to the next working day", calendar.Previous: ", moved to the working day before"}

// Do reckons on a calendar. The error is a *request.Error.
func Do(on calendar.Local, r Request) (Answer, error) {
	var a Answer
	var err error
	if a.Measure.Unit, err = leg.ParseUnit(cmp.Or(r.In, leg.WorkingDays.String())); err != nil {
		return a, request.Invalid("in", r.In, err.Error())
	}
	if a.Measure.Rule, err = leg.ParseRule(cmp.Or(r.Count, leg.Elapsed.String())); err != nil {
		return a, request.Invalid("count", r.Count, err.Error())
	}
	if err := a.Measure.Check(); err != nil {
		return a, request.Invalid("count", r.Count, err.Error())
	}
	switch {
	case r.From != "" && r.To != "" && r.N == "" && r.Wanted == "":
		a, err = between(on, r, a)
	case r.From != "" && r.N != "" && r.To == "" && r.Wanted == "":
		a, err = away(on, r, a)
	case r.Wanted != "" && r.N != "" && r.From == "" && r.To == "":
		a, err = latest(on, r, a)
	default:
		return a, unclear(r)
	}
	// Days that are only added are moved by the calendar in the end.
	moved := a.Working != 0 && !on.Covers(a.Working, a.Day) || r.N != "" && cmp.Or(r.Roll, "keep") != "keep" && !on.Covers(a.Day, a.Day)
	a.HolidaysUnknown = a.Strip.HolidaysUnknown || moved
	return a, err
}

func unclear(r Request) error {
	return request.Invalid("from", r.From, "want two days (from, to), a day and a number (from, n), or a wanted day and a number (wanted, n)")
}

// between is the length from one day to another.
func between(on calendar.Local, r Request, a Answer) (Answer, error) {
	var s leg.Stretch
	var err error
	if s.Start, s.StartAt, err = moment(on, "from", r.From); err != nil {
		return a, err
	}
	if s.End, s.EndAt, err = moment(on, "to", r.To); err != nil {
		return a, err
	}
	a.Sentence = fmt.Sprintf("How long from %s to %s, in %s, %s, by the calendar %s?", written(s.Start, r.From), written(s.End, r.To),
		a.Measure.Unit.Words(), a.Measure.RuleWords(), on.Name()+inZone(on, a.Measure.Unit))
	length, lacking := a.Measure.Length(on, s)
	switch lacking {
	case leg.NoTime:
		reason := "hours want a time of day on both days, such as 2026-07-06T14:30"
		if on.Zone == nil {
			reason = "hours want the zone of a site; none of those counted by the calendar " + on.Name() + " has one"
		}
		return a, request.Invalid("in", r.In, reason)
	case leg.NoHours:
		return a, request.Invalid("in", r.In, "the calendar "+on.Name()+" has no daily hours, or its site no zone")
	}
	a.Length, a.Strip = &length, a.Measure.Strip(on, s)
	a.Words = a.Measure.Unit.Length(length)
	return a, nil
}

// inZone names the zone in which times of day are read, where they play a part.
func inZone(on calendar.Local, unit leg.Unit) string {
	if !unit.Timed() || on.Zone == nil {
		return ""
	}
	return ", times in " + on.Zone.String()
}

// away is the day so many days after another, or before it.
func away(on calendar.Local, r Request, a Answer) (Answer, error) {
	start, n, err := dayAndNumber("from", r.From, r.N, &a)
	if err != nil {
		return a, err
	}
	roll := max(0, slices.Index(RollNames(), cmp.Or(r.Roll, "keep")))
	if r.Roll != "" && roll == 0 && r.Roll != "keep" {
		return a, request.Invalid("roll", r.Roll, "want keep, next or previous")
	}
	direction := "after"
	if n < 0 {
		direction = "before"
	}
	a.Sentence = fmt.Sprintf("Which day is %s %s %s%s, by the calendar %s?", number(n, a.Measure.Unit), direction, start.WithWeekday(),
		rollWords[roll], on.Name())
	if a.Measure.Unit == leg.WorkingDays {
		a.Day, err = on.Add(start, n, calendar.Roll(roll))
	} else if a.Day = start + day.Day(n); !a.Day.Known() {
		err = calendar.ErrOutsideDays
	} else {
		a.Day, err = on.Rolled(a.Day, calendar.Roll(roll))
	}
	if err != nil {
		return a, request.Invalid("n", r.N, err.Error())
	}
	a.Words = a.Day.WithWeekday()
	a.Strip = a.Measure.Strip(on, leg.Stretch{Start: start, End: a.Day})
	if a.Day < start {
		a.Strip = before(on, a.Measure, a.Day, start)
	}
	return a, nil
}

// before shows the way back from a day that is not counted itself.
func before(on calendar.Local, m leg.Measure, earlier, start day.Day) leg.Strip {
	s := leg.Measure{Unit: m.Unit, Rule: leg.BothEnds}.Strip(on, leg.Stretch{Start: earlier, End: start})
	last := &s.Cells[len(s.Cells)-1]
	if last.Part.Counts() {
		s.Length--
	}
	last.Part = leg.StartNotCounted
	return s
}

// latest is the latest day on which to begin what takes so many days and is wanted by a day.
func latest(on calendar.Local, r Request, a Answer) (Answer, error) {
	wanted, n, err := dayAndNumber("wanted", r.Wanted, r.N, &a)
	if err != nil {
		return a, err
	}
	if n < 0 {
		return a, request.Invalid("n", r.N, "want 0 or more days")
	}
	a.Sentence = fmt.Sprintf("When must it begin at the latest, to take %s and be done by %s, by the calendar %s?",
		number(n, a.Measure.Unit), wanted.WithWeekday(), on.Name())
	if a.Measure.Unit == leg.WorkingDays {
		a.Day, a.Working, err = on.LatestStart(wanted, n)
	} else if a.Day = wanted - day.Day(n); !a.Day.Known() {
		err = calendar.ErrOutsideDays
	} else {
		a.Working, err = on.Rolled(a.Day, calendar.Previous)
	}
	if err != nil {
		return a, request.Invalid("n", r.N, err.Error())
	}
	a.Words = a.Day.WithWeekday()
	if a.Working != a.Day {
		a.Words += ", not a working day; the latest that is: " + a.Working.WithWeekday()
	}
	a.Strip = a.Measure.Strip(on, leg.Stretch{Start: a.Day, End: wanted})
	return a, nil
}

// dayAndNumber reads what a day is reckoned from. Only days and working days can be added.
func dayAndNumber(word, text, n string, a *Answer) (day.Day, int, error) {
	if a.Measure.Unit != leg.Days && a.Measure.Unit != leg.WorkingDays {
		return 0, 0, request.Invalid("in", a.Measure.Unit.String(), "only days and working-days can be added to a day")
	}
	a.Measure.Rule = leg.Elapsed
	d, err := day.Parse(text)
	if err != nil {
		return 0, 0, request.Invalid(word, text, err.Error())
	}
	days, err := strconv.Atoi(n)
	if err != nil || days < -int(day.Last) || days > int(day.Last) {
		return 0, 0, request.Invalid("n", n, "want a whole number of days that stays within the supported ones")
	}
	return d, days, nil
}

func moment(on calendar.Local, word, text string) (day.Day, day.Instant, error) {
	m, err := day.ParseMoment(text)
	if err != nil {
		return 0, 0, request.Invalid(word, text, err.Error())
	}
	d, at := m.In(on.Zone)
	return d, at, nil
}

// written is a day with its weekday, and the time of day where one was given.
func written(d day.Day, text string) string {
	if len(text) > len("2026-07-06") {
		return d.WithWeekday() + " (" + text + ")"
	}
	return d.WithWeekday()
}

// number is a number of days without its sign.
func number(n int, u leg.Unit) string {
	return numfmt.Counted(max(n, -n), strings.TrimSuffix(u.Words(), "s"))
}
