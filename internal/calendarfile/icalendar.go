package calendarfile

import (
	"bytes"
	"cmp"
	"context"
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
	categoryHoliday  = "HOLIDAY"
	categoryWorking  = "WORKING DAY"
	categoryHalf     = "HALF DAY"
	categoryWeekend  = "WEEKEND"
	categoryWeek     = "WORKING WEEK"
	categoryHours    = "WORKING HOURS"
	categoryCoverage = "COVERAGE"
	// categoryByRule stands beside HOLIDAY for days that came from a rule without an end.
	categoryByRule = "RULE WITHOUT END"
)

var categories = []string{categoryHoliday, categoryWorking, categoryHalf, categoryWeekend, categoryWeek, categoryHours, categoryCoverage}

// wholeDay and floating are the DATE form and the local DATE-TIME form of RFC 5545, sections 3.3.4 and 3.3.5.
const (
	wholeDay = "20060102"
	floating = "20060102T150405"
)

// A Published is a working calendar as a file has it.
type Published struct {
	calendar.Definition
	// Named says who gave it its name.
	Named Naming
	// Observances are the names of days that the file calls so, in their order; they were left out, unless wanted.
	Observances []string
	// Categories are those of its days off that mean nothing here, in their order.
	Categories []string
}

// A Naming is what has given a calendar its name.
type Naming uint8

const (
	ByCaller Naming = iota // the file has none
	ByFile                 // as RFC 7986 has it
	ByTitle                // X-WR-CALNAME, which says what people see: "Holidays in Ireland"
)

// ReadICalendar reads a working calendar from iCalendar (RFC 5545). Its name is its NAME (RFC 7986), else its X-WR-CALNAME, else the one
// given. Midnights, in whatever zone, stand for whole days. Days that are called observances in their category, summary or description
// are read only where they are wanted. What an event is, its category says:
//
//   - HOLIDAY, none, or any other than these: whole days that are not worked; with RULE WITHOUT END beside it they extend no coverage, as
//     those of an RRULE without an end never do
//   - WORKING DAY: whole days that are worked
//   - HALF DAY: a stretch of local time in which the day is worked; several of one day add up
//   - WEEKEND, or WORKING WEEK: weekly, names the rest days, or the worked days, of the week from its start on, up to
//     UNTIL; without any the week is Monday to Friday
//   - WORKING HOURS: daily, a stretch of local time that is worked on working days from its start on
//   - COVERAGE: the whole days for which holidays are known
//
// The error is that of the context where it ends meanwhile, and a *TooMuchError past the bounds of a file.
func ReadICalendar(ctx context.Context, name string, r io.Reader, observances bool) (read Published, err error) {
	text, err := readText(r)
	if err != nil {
		return read, err
	}
	decoded, err := decodeCalendar(bytes.NewReader(text))
	if err != nil {
		if errors.Is(err, io.EOF) {
			err = errors.New("it ends before END:VCALENDAR")
		}
		return read, fmt.Errorf("this is no iCalendar file: %w", err)
	}
	reading := reading{definition: calendar.Definition{Name: name}, halves: map[day.Day]*calendar.HalfDay{},
		hours: map[day.Day]calendar.Hours{}}
	for _, by := range []struct {
		property string
		naming   Naming
	}{{"X-WR-CALNAME", ByTitle}, {"NAME", ByFile}} {
		if name, err := decoded.Props.Text(by.property); err == nil && oneLine(name) != "" {
			reading.definition.Name, read.Named = oneLine(name), by.naming
		}
	}
	for i, event := range decoded.Events() {
		if isObservance(event) {
			name, _ := nameOf(event)
			read.Observances = append(read.Observances, name)
			if !observances {
				continue
			}
		}
		if err := cmp.Or(ctx.Err(), reading.add(event)); err != nil {
			summary, _ := event.Props.Text(ical.PropSummary)
			return read, fmt.Errorf("event %d, %q: %w", i+1, summary, err)
		}
	}
	if read.Definition, err = reading.end(); err != nil {
		return read, err
	}
	read.Categories = reading.categories
	_, err = calendar.New(read.Definition)
	return read, err
}

// isObservance says whether an event is a day that people keep and work on.
func isObservance(event ical.Event) bool {
	for _, name := range []string{ical.PropCategories, ical.PropSummary, ical.PropDescription} {
		for _, prop := range event.Props[name] {
			if IsObservance(prop.Value) {
				return true
			}
		}
	}
	return false
}

// IsObservance says whether a text calls a day an observance.
func IsObservance(text string) bool { return strings.Contains(strings.ToLower(text), "observance") }

// asDays rewrites the midnights of an event as whole days, whatever their zone; an end in the last minute of a day is that of the next.
func asDays(event ical.Event) {
	for _, name := range []string{ical.PropDateTimeStart, ical.PropDateTimeEnd, ical.PropRecurrenceDates, ical.PropExceptionDates} {
		for i := range event.Props[name] {
			prop := &event.Props[name][i]
			days := strings.Split(prop.Value, ",")
			for j, text := range days {
				at, err := time.Parse(floating, strings.TrimSuffix(text, "Z"))
				if err == nil && name == ical.PropDateTimeEnd && at.Hour() == 23 && at.Minute() == 59 {
					at = at.Add(time.Minute).Truncate(time.Minute)
				}
				if err != nil || at.Hour()+at.Minute()+at.Second() > 0 {
					days = nil
					break
				}
				days[j] = at.Format(wholeDay)
			}
			if days == nil {
				continue
			}
			prop.Value = strings.Join(days, ",")
			prop.Params.Del(ical.PropTimezoneID)
			prop.SetValueType(ical.ValueDate)
		}
	}
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

// A reading gathers the events of a file.
type reading struct {
	definition calendar.Definition
	weekends   []week // their rest days
	weeks      []week // their worked days
	halves     map[day.Day]*calendar.HalfDay
	hours      map[day.Day]calendar.Hours
	hoursEnd   []day.Day // last days of daily hours that end
	bounds     bounds
	categories []string // that mean nothing here
}

// A week names days of the week over a span of days.
type week struct {
	span day.Span
	days calendar.Week
}

func (r *reading) add(event ical.Event) error {
	start := event.Props.Get(ical.PropDateTimeStart)
	if start == nil {
		return errors.New("it has no DTSTART; want the first day")
	}
	category, byRule, others, err := categoryOf(event)
	if err != nil {
		return err
	}
	if category == categoryHoliday {
		for _, other := range others {
			if !slices.Contains(r.categories, other) {
				r.categories = append(r.categories, other)
			}
		}
	}
	form, want := wholeDay, "a whole day; want VALUE=DATE and YYYYMMDD, or midnight"
	if category != categoryHalf && category != categoryHours {
		asDays(event)
	}
	if category == categoryHalf || category == categoryHours {
		form, want = floating, "a local time; want YYYYMMDDTHHMMSS without a zone"
	}
	if _, err := time.Parse(form, start.Value); err != nil || start.Params.Get(ical.PropTimezoneID) != "" {
		return fmt.Errorf("DTSTART %q is not %s", start.Value, want)
	}
	rule, err := recurrence(event)
	if err != nil {
		return err
	}
	def := &r.definition
	switch category {
	case categoryWeekend, categoryWeek:
		w, err := readWeek(event, rule)
		if category == categoryWeekend {
			r.weekends = append(r.weekends, w)
		} else {
			r.weeks = append(r.weeks, w)
		}
		return err
	case categoryHours:
		return r.addHours(event, rule)
	case categoryHalf:
		return r.addHalf(event, rule)
	case categoryCoverage:
		return r.addCoverage(event)
	case categoryWorking:
		days, err := r.expand(event, rule)
		def.Extra = append(def.Extra, days...)
		return err
	}
	days, err := r.expand(event, rule)
	for i := range days {
		days[i].Unbounded = days[i].Unbounded || byRule
	}
	def.Holidays = append(def.Holidays, days...)
	return err
}

// categoryOf is what an event is by its categories, with those that mean nothing here.
func categoryOf(event ical.Event) (category string, byRule bool, others []string, err error) {
	category = categoryHoliday
	for _, prop := range event.Props[ical.PropCategories] {
		list, err := prop.TextList()
		if err != nil {
			return "", false, nil, err
		}
		for _, text := range list {
			written := oneLine(text)
			switch text = strings.ToUpper(strings.TrimSpace(text)); {
			case text == categoryByRule:
				byRule = true
			case slices.Contains(categories, text):
				category = text
			case text != "":
				others = append(others, written)
			}
		}
	}
	return category, byRule, others, nil
}

// nameOf is the event's summary on one line.
func nameOf(event ical.Event) (string, error) {
	name, err := event.Props.Text(ical.PropSummary)
	return oneLine(name), err
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

func readWeek(event ical.Event, rule *rrule.ROption) (week, error) {
	start, err := event.DateTimeStart(time.UTC)
	if err != nil {
		return week{}, err
	}
	if rule == nil || rule.Freq != rrule.WEEKLY || rule.Interval > 1 || rule.Count > 0 || len(rule.Byweekday) == 0 {
		return week{}, errors.New("a WEEKEND or WORKING WEEK names its days by RRULE:FREQ=WEEKLY;BYDAY=…, every week, with or without UNTIL")
	}
	w := week{span: day.Through(day.FromTime(start), day.Last)}
	if !rule.Until.IsZero() {
		w.span.To = day.FromTime(rule.Until) + 1
	}
	if !w.span.From.Known() || w.span.To <= 1 {
		return week{}, calendar.ErrOutsideDays
	}
	for _, weekday := range rule.Byweekday {
		w.days |= 1 << ((weekday.Day() + 1) % 7) // the rule counts from Monday
	}
	return w, nil
}

// stretch is the day and the local time of an event that lasts a part of a day.
func stretch(event ical.Event) (day.Day, calendar.Shift, error) {
	start, err := event.DateTimeStart(time.UTC)
	if err != nil {
		return 0, calendar.Shift{}, err
	}
	end, err := event.DateTimeEnd(time.UTC)
	if err != nil {
		return 0, calendar.Shift{}, err
	}
	d := day.FromTime(start)
	if !d.Known() {
		return 0, calendar.Shift{}, calendar.ErrOutsideDays
	}
	from, to := int(start.Sub(d.Time()).Seconds()), int(end.Sub(d.Time()).Seconds())
	if from >= to || to > 24*3600 {
		return 0, calendar.Shift{}, errors.New("it does not end later on the same day; want a DTEND on it, and hours across midnight as two events")
	}
	return d, calendar.Shift{From: from, To: to}, nil
}

func (r *reading) addHours(event ical.Event, rule *rrule.ROption) error {
	d, shift, err := stretch(event)
	if err != nil {
		return err
	}
	if rule == nil || rule.Freq != rrule.DAILY || rule.Interval > 1 || rule.Count > 0 {
		return errors.New("WORKING HOURS repeat by RRULE:FREQ=DAILY, with or without UNTIL")
	}
	r.hours[d] = append(r.hours[d], shift)
	if !rule.Until.IsZero() {
		r.hoursEnd = append(r.hoursEnd, day.FromTime(rule.Until))
	}
	return nil
}

func (r *reading) addHalf(event ical.Event, rule *rrule.ROption) error {
	_, shift, err := stretch(event)
	if err != nil {
		return err
	}
	name, err := nameOf(event)
	if err != nil {
		return err
	}
	start, err := event.DateTimeStart(time.UTC)
	if err != nil {
		return err
	}
	starts, err := r.occurrences(event, start, floating, rule, 1)
	if err != nil {
		return err
	}
	for _, s := range starts {
		d := day.FromTime(s)
		if r.halves[d] == nil {
			r.halves[d] = &calendar.HalfDay{NamedDay: calendar.NamedDay{Day: d, Name: name}}
		}
		if half := r.halves[d]; !slices.Contains(half.Hours, shift) { // a day given twice is one
			half.Hours = append(half.Hours, shift)
		}
	}
	return nil
}

func (r *reading) addCoverage(event ical.Event) error {
	start, err := event.DateTimeStart(time.UTC)
	if err != nil {
		return err
	}
	end, err := event.DateTimeEnd(time.UTC)
	if err != nil {
		return err
	}
	from, last := day.FromTime(start), day.FromTime(end.AddDate(0, 0, -1))
	if !from.Known() || !last.Known() {
		return calendar.ErrOutsideDays
	}
	r.definition.Coverage = day.Through(from, max(from, last))
	return nil
}

// end puts together what several events say.
func (r *reading) end() (calendar.Definition, error) {
	def := r.definition
	sorted := func(h calendar.Hours) calendar.Hours {
		slices.SortFunc(h, func(a, b calendar.Shift) int { return cmp.Compare(a.From, b.From) })
		return h
	}
	for d, hours := range r.hours {
		def.Hours = append(def.Hours, calendar.DailyHours{From: d, Hours: sorted(hours)})
	}
	for _, last := range r.hoursEnd {
		if !slices.ContainsFunc(def.Hours, func(h calendar.DailyHours) bool { return h.From > last }) {
			return def, fmt.Errorf("its WORKING HOURS end on %v, and no others follow; want hours without UNTIL at the end", last)
		}
	}
	for _, half := range r.halves {
		half.Hours = sorted(half.Hours)
		def.HalfDays = append(def.HalfDays, *half)
	}
	if len(r.weeks) > 0 && len(r.weekends) > 0 {
		return def, errors.New("it has both WEEKEND and WORKING WEEK; want one of them")
	}
	def.Patterns = patterns(r.weekends)
	if len(r.weeks) > 0 {
		def.Patterns = workingWeeks(r.weeks)
	}
	return def, nil
}

// patterns turns spans of rest days into weeks that each hold from a day on.
func patterns(weekends []week) []calendar.Pattern {
	var starts []day.Day
	for _, w := range weekends {
		starts = append(starts, w.span.From, w.span.To)
	}
	slices.Sort(starts)
	var all []calendar.Pattern
	for _, from := range slices.Compact(starts) {
		worked := calendar.Week(0x7f)
		for _, w := range weekends {
			if w.span.Holds(from) {
				worked &^= w.days
			}
		}
		if from.Known() && (len(all) == 0 || all[len(all)-1].Week != worked) {
			all = append(all, calendar.Pattern{From: from, Week: worked})
		}
	}
	return all
}

// workingWeeks follow each other. A rule begins on the first day that it names, which may be some days after the week
// before it has ended; a week holds from that end on.
func workingWeeks(weeks []week) []calendar.Pattern {
	slices.SortStableFunc(weeks, func(a, b week) int { return cmp.Compare(a.span.From, b.span.From) })
	var all []calendar.Pattern
	for i, w := range weeks {
		from := w.span.From
		if i > 0 && weeks[i-1].span.To < from {
			from = weeks[i-1].span.To
		}
		all = append(all, calendar.Pattern{From: from, Week: w.days})
	}
	return all
}

// expand lists the days of an event, each repetition with all its days.
func (r *reading) expand(event ical.Event, rule *rrule.ROption) ([]calendar.NamedDay, error) {
	name, err := nameOf(event)
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
	starts, err := r.occurrences(event, start, wholeDay, rule, length)
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

// occurrences are the starts of an event by its RRULE, RDATE and EXDATE, up to the last supported day; each stands for so many
// days.
func (r *reading) occurrences(event ical.Event, start time.Time, form string, rule *rrule.ROption, length int) ([]time.Time, error) {
	var set rrule.Set
	if rule != nil {
		last := day.Last.Time().AddDate(0, 0, 1).Add(-time.Second)
		if rule.Count == 0 && (rule.Until.IsZero() || rule.Until.After(last)) {
			rule.Until = last
		}
		if err := r.bounds.follow(*rule, start); err != nil {
			return nil, err
		}
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
				at, err := time.Parse(form, text)
				if err != nil {
					return nil, fmt.Errorf("%s %q is not written as DTSTART is, %s", name, text, start.Format(form))
				}
				add(at)
			}
		}
	}
	var starts []time.Time
	next := set.Iterator()
	for at, more := next(); more && !at.After(day.Last.Time().AddDate(0, 0, 1).Add(-time.Second)); at, more = next() {
		if err := r.bounds.name(length); err != nil {
			return nil, err
		}
		if !at.Before(day.First.Time()) {
			starts = append(starts, at)
		}
	}
	return starts, nil
}

// WriteICalendar writes a calendar so that ReadICalendar reads the same one. The stamp is the DTSTAMP of all events.
func WriteICalendar(w io.Writer, c *calendar.Calendar, stamp time.Time) error {
	def := c.Definition()
	file := ical.NewCalendar()
	file.Props.SetText(ical.PropVersion, "2.0")
	file.Props.SetText(ical.PropProductID, "-//Prairie Dusk//Working calendars//EN")
	file.Props.SetText("NAME", def.Name)
	add := func(category, name, start, end string, more ...*ical.Prop) {
		event := ical.NewEvent()
		event.Props.SetText(ical.PropUID, fmt.Sprintf("%d@prairie-dusk.example", len(file.Children)+1))
		event.Props.SetDateTime(ical.PropDateTimeStamp, stamp.UTC())
		for property, value := range map[string]string{ical.PropDateTimeStart: start, ical.PropDateTimeEnd: end} {
			prop := ical.NewProp(property)
			prop.Value = value
			if len(value) == len(wholeDay) {
				prop.SetValueType(ical.ValueDate)
			}
			event.Props.Set(prop)
		}
		if name != "" {
			event.Props.SetText(ical.PropSummary, name)
		}
		prop := ical.NewProp(ical.PropCategories)
		prop.SetTextList(strings.Split(category, ","))
		event.Props.Set(prop)
		event.Props.SetText(ical.PropTransparency, "TRANSPARENT")
		for _, prop := range more {
			event.Props.Set(prop)
		}
		file.Children = append(file.Children, event.Component)
	}
	plain := func(name, value string) *ical.Prop {
		prop := ical.NewProp(name)
		prop.Value = value
		return prop
	}
	until := func(next day.Day, form string) string {
		if next == 0 {
			return ""
		}
		return ";UNTIL=" + next.Time().Add(-time.Second).Format(form)
	}
	for i, p := range def.Patterns {
		first := p.From
		for !p.Week.Works(first.Weekday()) {
			first++
		}
		next := day.Day(0)
		if i+1 < len(def.Patterns) {
			next = def.Patterns[i+1].From
		}
		if next != 0 && first >= next || !first.Known() {
			first = p.From // it is over before the first day that it names
		}
		var worked []string
		for name := range strings.FieldsSeq(strings.ToUpper(p.Week.String())) {
			worked = append(worked, name[:2])
		}
		add(categoryWeek, "Working week", date(first), date(first+1), plain(ical.PropRecurrenceRule,
			"FREQ=WEEKLY;BYDAY="+strings.Join(worked, ",")+until(next, wholeDay)))
	}
	for i, h := range def.Hours {
		next := day.Day(0)
		if i+1 < len(def.Hours) {
			next = def.Hours[i+1].From
		}
		for _, s := range h.Hours {
			add(categoryHours, "Working hours", local(h.From, s.From), local(h.From, s.To),
				plain(ical.PropRecurrenceRule, "FREQ=DAILY"+until(next, floating)))
		}
	}
	if c.CoverageStated() {
		add(categoryCoverage, "Holidays are known", date(def.Coverage.From), date(def.Coverage.To))
	}
	for _, h := range def.Holidays {
		category := categoryHoliday
		if h.Unbounded {
			category += "," + categoryByRule
		}
		add(category, h.Name, date(h.Day), date(h.Day+1))
	}
	for _, h := range def.HalfDays {
		for _, s := range h.Hours {
			add(categoryHalf, h.Name, local(h.Day, s.From), local(h.Day, s.To))
		}
	}
	for _, e := range def.Extra {
		add(categoryWorking, e.Name, date(e.Day), date(e.Day+1))
	}
	return ical.NewEncoder(w).Encode(file)
}

func date(d day.Day) string { return d.Time().Format(wholeDay) }

func local(d day.Day, seconds int) string {
	return d.Time().Add(time.Duration(seconds) * time.Second).Format(floating)
}
