// Package day holds the smallest value of the order book: a civil day without a time of day or a zone.
//
// Everything that the product counts is counted between days, so a Day is a plain integer: two of them
// subtract, index a calendar's running total and lie in columns of four bytes.
package day

import (
	"fmt"
	"time"
)

// A Day counts civil days from 1900-01-01, which is Day(1). The zero Day means "not known".
type Day int32

// First and Last bound the days that the book can hold: 1900-01-01 and 2199-12-31.
const (
	First Day = 1
	Last  Day = 109573
)

// layout is the one text form of a day, the calendar date of ISO 8601.
const layout = "2006-01-02"

// unixOfZero is the number of days from the Unix epoch to Day(0), 1899-12-31.
const unixOfZero = -25568

// A ParseError says which text was no day, and why.
type ParseError struct {
	Value  string
	Reason string
}

func (e *ParseError) Error() string { return fmt.Sprintf("%q is %s", e.Value, e.Explanation()) }

// Explanation is the error without the value, for where that stands beside it.
func (e *ParseError) Explanation() string {
	return fmt.Sprintf("not a day: %s; want YYYY-MM-DD from %v to %v", e.Reason, First, Last)
}

// Parse reads YYYY-MM-DD and nothing else: no time of day, no other order of its parts, no white space.
// The error is a *ParseError.
func Parse(text string) (Day, error) {
	if len(text) != len(layout) || text[4] != '-' || text[7] != '-' {
		return 0, &ParseError{text, "it is not written as year-month-day"}
	}
	year, okYear := number(text[0:4])
	month, okMonth := number(text[5:7])
	dayOfMonth, okDay := number(text[8:10])
	switch {
	case !okYear || !okMonth || !okDay:
		return 0, &ParseError{text, "it is not written as year-month-day"}
	case month < 1 || month > 12:
		return 0, &ParseError{text, fmt.Sprintf("there is no month %d", month)}
	case dayOfMonth < 1 || dayOfMonth > DaysIn(year, time.Month(month)):
		return 0, &ParseError{text, fmt.Sprintf("%s %d has no day %d", time.Month(month), year, dayOfMonth)}
	}
	d := Of(year, time.Month(month), dayOfMonth)
	if !d.Known() {
		return 0, &ParseError{text, "it lies outside the days that the book can hold"}
	}
	return d, nil
}

// number reads ASCII digits; it allocates nothing because a load parses millions of days.
func number(digits string) (n int, ok bool) {
	for i := range len(digits) {
		c := digits[i] - '0'
		if c > 9 {
			return 0, false
		}
		n = n*10 + int(c)
	}
	return n, true
}

// Of is the day of a year, month and day of the month, normalised as time.Date does it. Outside First to
// Last it is the zero Day.
func Of(year int, month time.Month, dayOfMonth int) Day {
	n := time.Date(year, month, dayOfMonth, 0, 0, 0, 0, time.UTC).Unix()/86400 - unixOfZero
	if n < int64(First) || n > int64(Last) {
		return 0
	}
	return Day(n)
}

// FromTime is the civil day that t shows in its own location; outside First to Last it is the zero Day.
func FromTime(t time.Time) Day {
	return Of(t.Date())
}

// Time is midnight UTC of the day, for formatting and for the database's driver.
func (d Day) Time() time.Time {
	return time.Unix((int64(d)+unixOfZero)*86400, 0).UTC()
}

// Known tells a day of the supported range from the zero Day and from arithmetic that left the range.
func (d Day) Known() bool { return d >= First && d <= Last }

// Weekday is the day of the week.
func (d Day) Weekday() time.Weekday { return d.Time().Weekday() }

// Date is the year, month and day of the month.
func (d Day) Date() (year int, month time.Month, dayOfMonth int) { return d.Time().Date() }

// String is YYYY-MM-DD; the zero Day is "" and any other day outside the range shows its number.
func (d Day) String() string {
	switch {
	case d == 0:
		return ""
	case !d.Known():
		return fmt.Sprintf("Day(%d)", int32(d))
	}
	return d.Time().Format(layout)
}

// WithWeekday is the form for people: "Mon 2026-07-06".
func (d Day) WithWeekday() string {
	if !d.Known() {
		return d.String()
	}
	return d.Time().Format("Mon 2006-01-02")
}

// MarshalText and UnmarshalText use the form of String and Parse; empty text is the zero Day.
func (d Day) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads what MarshalText writes.
func (d *Day) UnmarshalText(text []byte) (err error) {
	if len(text) == 0 {
		*d = 0
		return nil
	}
	*d, err = Parse(string(text))
	return err
}

// DaysIn is the number of days of a month.
func DaysIn(year int, month time.Month) int {
	switch month {
	case time.February:
		if year%4 == 0 && (year%100 != 0 || year%400 == 0) {
			return 29
		}
		return 28
	case time.April, time.June, time.September, time.November:
		return 30
	}
	return 31
}

// AddMonths keeps the day of the month, or takes the last day of a month that is too short:
// 2026-01-31 plus one month is 2026-02-28. Leaving the supported days gives the zero Day.
func (d Day) AddMonths(n int) Day {
	year, month, dayOfMonth := d.Date()
	first := time.Date(year, month+time.Month(n), 1, 0, 0, 0, 0, time.UTC)
	return Of(first.Year(), first.Month(), min(dayOfMonth, DaysIn(first.Year(), first.Month())))
}

// A Span is the half-open range of days [From, To); adjoining spans share no day. People see and type
// both ends: see Through and LastDay.
type Span struct {
	From, To Day
}

// Through is the span that holds both of its ends.
func Through(first, last Day) Span { return Span{first, last + 1} }

// Days is the number of days in the span.
func (s Span) Days() int { return max(0, int(s.To)-int(s.From)) }

// LastDay is the last day inside a span that is not empty.
func (s Span) LastDay() Day { return s.To - 1 }

// Holds says whether d lies in the span; the zero Day lies in none.
func (s Span) Holds(d Day) bool { return d != 0 && s.From <= d && d < s.To }
