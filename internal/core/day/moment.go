package day

import (
	"fmt"
	"time"
)

// An Instant is a moment of time in whole seconds since the beginning of Day(0) in UTC, so that the zero Instant
// means "not known", as the zero Day does.
type Instant int64

const secondsOfDay = 24 * 60 * 60

// InstantOf is the instant of t, cut to the second.
func InstantOf(t time.Time) Instant { return Instant(t.Unix() - unixOfZero*secondsOfDay) }

// In is the instant as the clocks of a zone show it; a nil zone is UTC.
func (i Instant) In(zone *time.Location) time.Time {
	if zone == nil {
		zone = time.UTC
	}
	return time.Unix(int64(i)+unixOfZero*secondsOfDay, 0).In(zone)
}

// A Moment is a day as people write it down: alone, with a local time of day, or with a time of day and its
// distance from UTC.
type Moment struct {
	Day     Day // as written
	Timed   bool
	Seconds int  // of the time of day, since midnight as a clock shows it
	Offset  *int // seconds east of UTC; nil where the time is local
}

// momentForms are those of ISO 8601 and RFC 3339; a fraction of a second may follow the seconds.
var momentForms = []struct {
	layout string
	local  bool
}{{"2006-01-02T15:04:05Z07:00", false}, {"2006-01-02T15:04Z07:00", false}, {"2006-01-02T15:04:05", true}, {"2006-01-02T15:04", true}}

// ParseMoment reads a day, an instant of RFC 3339 (with "T" or a space), or a local time; seconds can be left out,
// and parts of a second are. The error is a *ParseError.
func ParseMoment(text string) (Moment, error) {
	if len(text) <= len(layout) {
		d, err := Parse(text)
		return Moment{Day: d}, err
	}
	m := Moment{Timed: true}
	var err error
	if m.Day, err = Parse(text[:len(layout)]); err != nil {
		return Moment{}, &ParseError{text, err.(*ParseError).Reason}
	}
	if text[len(layout)] != 'T' && text[len(layout)] != ' ' {
		return Moment{}, &ParseError{text, "what follows the day is no time of day"}
	}
	if seconds, err := ClockSeconds(text[len(layout)+1:]); err == nil && seconds < secondsOfDay {
		m.Seconds = seconds
		return m, nil // the form of most files; millions come at a time
	}
	whole := text[:len(layout)] + "T" + text[len(layout)+1:]
	for _, form := range momentForms {
		at, err := time.Parse(form.layout, whole)
		if err != nil {
			continue
		}
		m.Seconds = at.Hour()*3600 + at.Minute()*60 + at.Second()
		if !form.local {
			_, offset := at.Zone()
			m.Offset = &offset
		}
		return m, nil
	}
	return Moment{}, &ParseError{text, "what follows the day is no time of day such as T14:30 or T14:30:00+02:00"}
}

// In is the day on which the moment falls in a zone, and its instant. Without a zone, nil, the day is as written,
// and only a moment that says how far it is from UTC has an instant. A moment whose instant falls on no supported
// day keeps the day as written.
func (m Moment) In(zone *time.Location) (Day, Instant) {
	switch {
	case !m.Timed:
		return m.Day, 0
	case m.Offset != nil:
		at := Instant(int64(m.Day)*secondsOfDay + int64(m.Seconds) - int64(*m.Offset))
		if zone == nil {
			return m.Day, at
		}
		if d := FromTime(at.In(zone)); d != 0 {
			return d, at
		}
		return m.Day, at
	case zone == nil:
		return m.Day, 0
	}
	return m.Day, m.Day.At(m.Seconds, zone)
}

// At is the instant at which the clocks of a zone show so many seconds since midnight on the day. As RFC 5545,
// section 3.3.5, has it: a time that comes twice, as clocks are put back, is the first; one that never comes, as
// they are put forward, is read as if they had not been.
func (d Day) At(seconds int, zone *time.Location) Instant {
	local := time.Unix((int64(d)+unixOfZero)*secondsOfDay+int64(seconds), 0).UTC()
	as := func(offset int) time.Time { return local.Add(-time.Duration(offset) * time.Second) }
	// No zone is farther than a day from UTC, and none has changed its clocks twice within two.
	_, before := local.Add(-secondsOfDay * time.Second).In(zone).Zone()
	_, after := local.Add(secondsOfDay * time.Second).In(zone).Zone()
	if before == after {
		return InstantOf(as(before))
	}
	if _, then := as(before).In(zone).Zone(); then != before {
		if _, then := as(after).In(zone).Zone(); then == after {
			return InstantOf(as(after))
		}
	}
	return InstantOf(as(before))
}

// MomentOf is an instant as the clocks of a zone show it, with its distance from UTC.
func MomentOf(i Instant, zone *time.Location) Moment {
	at := i.In(zone)
	hour, minute, second := at.Clock()
	_, offset := at.Zone()
	return Moment{Day: FromTime(at), Timed: true, Seconds: hour*3600 + minute*60 + second, Offset: &offset}
}

// OffsetTo is how many seconds east of UTC the day and time of day are, if they are those of an instant.
func (m Moment) OffsetTo(at Instant) int {
	return int(int64(m.Day)*secondsOfDay + int64(m.Seconds) - int64(at))
}

// Clock is the time of day, "14:30", with seconds where there are any; empty where there is none.
func (m Moment) Clock() string {
	switch {
	case !m.Timed:
		return ""
	case m.Seconds%60 != 0:
		return fmt.Sprintf("%02d:%02d:%02d", m.Seconds/3600, m.Seconds/60%60, m.Seconds%60)
	}
	return fmt.Sprintf("%02d:%02d", m.Seconds/3600, m.Seconds/60%60)
}

// Shown is the time of day for people: as the clocks of the site's zone show it or, where that is not known, as it was written,
// distance from UTC included.
func (m Moment) Shown(zone *time.Location) string {
	if zone == nil {
		return m.Clock() + m.OffsetText()
	}
	return m.Clock()
}

// String is what ParseMoment reads: "2026-07-06", "2026-07-06T14:30" or, with the distance from UTC, the same instant again.
func (m Moment) String() string {
	text := m.Day.String()
	if m.Timed {
		text += "T" + m.Clock()
	}
	if m.Offset == nil {
		return text
	}
	if m.Seconds%60 == 0 {
		text += ":00" // RFC 3339 wants seconds
	}
	return text + m.OffsetText()
}

// OffsetText is the distance from UTC, "+02:00"; empty where it is not known.
func (m Moment) OffsetText() string {
	if m.Offset == nil {
		return ""
	}
	sign, minutes := '+', *m.Offset/60
	if minutes < 0 {
		sign, minutes = '-', -minutes
	}
	return fmt.Sprintf("%c%02d:%02d", sign, minutes/60, minutes%60)
}

// Clock is the time of day that the clocks of a zone show, "14:30", with seconds where there are any.
func (i Instant) Clock(zone *time.Location) string {
	at := i.In(zone)
	if at.Second() != 0 {
		return at.Format("15:04:05")
	}
	return at.Format("15:04")
}

// String is the instant in UTC, RFC 3339; the zero Instant is "".
func (i Instant) String() string {
	if i == 0 {
		return ""
	}
	return i.In(nil).Format(time.RFC3339)
}

// ClockSeconds reads HH:MM, up to 24:00, as seconds since midnight.
func ClockSeconds(text string) (int, error) {
	if len(text) == 5 && text[2] == ':' {
		hours, okHours := number(text[:2])
		minutes, okMinutes := number(text[3:])
		if seconds := hours*3600 + minutes*60; okHours && okMinutes && minutes < 60 && seconds <= secondsOfDay {
			return seconds, nil
		}
	}
	return 0, fmt.Errorf("%q is no time of day; want HH:MM such as 14:30", text)
}
