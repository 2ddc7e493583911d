package intake

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-ical"
	"github.com/teambition/rrule-go"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
)

// The categories that say what an event of a working calendar is. An event without one is a holiday.
const (
	categoryHoliday = "HOLIDAY"
	categoryWorking = "WORKING DAY"
	categoryWeekend = "WEEKEND"
)

// wholeDay is the DATE form of RFC 5545, section 3.3.4.
const wholeDay = "20060102"

// ReadCalendar reads a working calendar from iCalendar (RFC 5545). All its events last whole days. An event
// of the category WEEKEND repeats weekly and names the rest days of the week from its start on; several,
// with an end (UNTIL) or later starts, make a week that changes; without any the week is Monday to Friday.
// WORKING DAY is an extra working day, HOLIDAY or no category a holiday. The calendar's name is its NAME
// (RFC 7986), else that of the file. The error is a *FileError.
func ReadCalendar(file string, r io.Reader) (calendar.Definition, error) {
	decoded, err := decodeCalendar(r)
	if err != nil {
		if errors.Is(err, io.EOF) {
			err = errors.New("it ends before END:VCALENDAR")
		}
		return calendar.Definition{}, &FileError{File: file, Err: fmt.Errorf("this is no iCalendar file: %w", err)}
	}
	def := calendar.Definition{Name: stem(file)}
	if name, err := decoded.Props.Text("NAME"); err == nil && strings.TrimSpace(name) != "" {
		def.Name = strings.TrimSpace(name)
	}
	var weekends []weekend
	for i, event := range decoded.Events() {
		if err := addEvent(&def, &weekends, event); err != nil {
			summary, _ := event.Props.Text(ical.PropSummary)
			return calendar.Definition{}, &FileError{File: file, Err: fmt.Errorf("event %d, %q: %w", i+1, summary, err)}
		}
	}
	def.Patterns = patterns(weekends)
	if _, err := calendar.New(def); err != nil {
		return calendar.Definition{}, &FileError{File: file, Err: err}
	}
	return def, nil
}

// decodeCalendar reads the file's properties. The decoder panics on some lines that are none.
func decodeCalendar(r io.Reader) (decoded *ical.Calendar, err error) {
	defer func() {
		if recover() != nil {
			err = errors.New("a line has no property")
		}
	}()
	return ical.NewDecoder(r).Decode()
}

// A weekend names the rest days of the week over a span of days.
type weekend struct {
	span day.Span
	rest calendar.Week
}

func addEvent(def *calendar.Definition, weekends *[]weekend, event ical.Event) error {
	start := event.Props.Get(ical.PropDateTimeStart)
	if start == nil {
		return errors.New("it has no DTSTART; want the first day")
	}
	if _, err := time.Parse(wholeDay, start.Value); err != nil {
		return fmt.Errorf("DTSTART %q is not a whole day; want VALUE=DATE and YYYYMMDD", start.Value)
	}
	rule, err := recurrence(event)
	if err != nil {
		return err
	}
	switch category := category(event); category {
	case categoryWeekend:
		w, err := readWeekend(event, rule)
		*weekends = append(*weekends, w)
		return err
	case categoryWorking, categoryHoliday:
		days, err := expand(event, rule)
		if category == categoryWorking {
			def.Extra = append(def.Extra, days...)
		} else {
			def.Holidays = append(def.Holidays, days...)
		}
		return err
	default:
		return fmt.Errorf("CATEGORIES %q is unknown; want %s, %s or %s", category, categoryHoliday, categoryWorking, categoryWeekend)
	}
}

func category(event ical.Event) string {
	text, err := event.Props.Text(ical.PropCategories)
	if err != nil || text == "" {
		return categoryHoliday
	}
	return strings.ToUpper(strings.TrimSpace(text))
}

// recurrence is the event's rule, or nil where it has none.
func recurrence(event ical.Event) (*rrule.ROption, error) {
	prop := event.Props.Get(ical.PropRecurrenceRule)
	if prop == nil {
		return nil, nil
	}
	rule, err := rrule.StrToROption(prop.Value)
	if err != nil {
		return nil, fmt.Errorf("RRULE %q: %w", prop.Value, err)
	}
	if rule.Freq > rrule.DAILY {
		return nil, fmt.Errorf("RRULE %q repeats within a day; want DAILY, WEEKLY, MONTHLY or YEARLY", prop.Value)
	}
	return rule, nil
}

func readWeekend(event ical.Event, rule *rrule.ROption) (weekend, error) {
	start, err := event.DateTimeStart(time.UTC)
	if err != nil {
		return weekend{}, err
	}
	if rule == nil || rule.Freq != rrule.WEEKLY || rule.Interval > 1 || rule.Count > 0 || len(rule.Byweekday) == 0 {
		return weekend{}, errors.New("a WEEKEND names its rest days by RRULE:FREQ=WEEKLY;BYDAY=…, every week, with or without UNTIL")
	}
	w := weekend{span: day.Through(day.FromTime(start), day.Last)}
	if !rule.Until.IsZero() {
		w.span.To = day.FromTime(rule.Until) + 1
	}
	if !w.span.From.Known() || w.span.To <= 1 {
		return weekend{}, calendar.ErrOutsideDays
	}
	for _, weekday := range rule.Byweekday {
		w.rest |= 1 << ((weekday.Day() + 1) % 7) // the rule counts from Monday
	}
	return w, nil
}

// patterns turns spans of rest days into weeks that each hold from a day on.
func patterns(weekends []weekend) []calendar.Pattern {
	var starts []day.Day
	for _, w := range weekends {
		starts = append(starts, w.span.From, w.span.To)
	}
	slices.Sort(starts)
	var all []calendar.Pattern
	for _, from := range slices.Compact(starts) {
		week := calendar.Week(0x7f)
		for _, w := range weekends {
			if w.span.Holds(from) {
				week &^= w.rest
			}
		}
		if from.Known() && (len(all) == 0 || all[len(all)-1].Week != week) {
			all = append(all, calendar.Pattern{From: from, Week: week})
		}
	}
	return all
}

// expand lists the days of an event, each repetition with all its days.
func expand(event ical.Event, rule *rrule.ROption) ([]calendar.NamedDay, error) {
	name, err := event.Props.Text(ical.PropSummary)
	if err != nil {
		return nil, err
	}
	start, err := event.DateTimeStart(time.UTC)
	if err != nil {
		return nil, err
	}
	end, err := event.DateTimeEnd(time.UTC)
	if err != nil {
		return nil, err
	}
	length := max(1, int(end.Sub(start).Hours()/24))
	unbounded := rule != nil && rule.Count == 0 && rule.Until.IsZero()
	starts, err := occurrences(event, start, rule)
	if err != nil {
		return nil, err
	}
	var days []calendar.NamedDay
	for _, s := range starts {
		for i := range length {
			d := day.FromTime(s.AddDate(0, 0, i))
			if !d.Known() {
				return nil, fmt.Errorf("%s: %w", s.Format(time.DateOnly), calendar.ErrOutsideDays)
			}
			days = append(days, calendar.NamedDay{Day: d, Name: name, Unbounded: unbounded})
		}
	}
	return days, nil
}

// occurrences are the first days of an event by its RRULE, RDATE and EXDATE, up to the last supported day.
func occurrences(event ical.Event, start time.Time, rule *rrule.ROption) ([]time.Time, error) {
	var set rrule.Set
	if rule != nil {
		rule.Dtstart = start
		repeats, err := rrule.NewRRule(*rule)
		if err != nil {
			return nil, fmt.Errorf("RRULE: %w", err)
		}
		set.RRule(repeats)
	} else {
		set.RDate(start) // DTSTART counts as the first occurrence
	}
	for name, add := range map[string]func(time.Time){ical.PropRecurrenceDates: set.RDate, ical.PropExceptionDates: set.ExDate} {
		for _, prop := range event.Props[name] {
			for text := range strings.SplitSeq(prop.Value, ",") {
				at, err := time.Parse(wholeDay, text)
				if err != nil {
					return nil, fmt.Errorf("%s %q is not a whole day; want YYYYMMDD", name, text)
				}
				add(at)
			}
		}
	}
	return set.Between(day.First.Time(), day.Last.Time(), true), nil
}
