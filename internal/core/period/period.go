// Package period reads the periods that people ask about: whole days, both ends in, absolute or relative
// to the data date. A list of periods stays a list; it never becomes one stretch.
package period

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
)

// A Period is a stretch of whole days under the text by which it was asked for.
type Period struct {
	Text string
	Span day.Span
}

// Bounds are the two ends of the book between which its records are complete.
type Bounds struct {
	FirstDay, DataDate day.Day
}

// By are the bounds of what is known by a milestone: a plan is known whatever its day, and so has no last one.
func (b Bounds) By(m milestone.Milestone) Bounds {
	if m.Plan {
		b.DataDate = day.Last
	}
	return b
}

// Outside says that no day of a stretch lies within the bounds.
func (b Bounds) Outside(days day.Span) bool {
	return days.LastDay() < b.FirstDay || days.From > b.DataDate
}

// An Error says which text was no period, and why.
type Error struct {
	Text   string
	Reason string
}

// Examples shows one period of each kind; it ends every Error and the help of every client.
const Examples = "2026, 2026-Q3, 2026-07, 2026-W31, 2026-07-20, 2026-07-06/2026-08-02, this-month, last-quarter or last-90-days; several with commas"

func (e *Error) Error() string {
	return fmt.Sprintf("%q is not a period: %s; a period looks like %s", e.Text, e.Reason, Examples)
}

// All is the period of an answer that was asked without one: the whole book.
func All(b Bounds) Period {
	return Period{Text: "", Span: day.Through(b.FirstDay, b.DataDate)}
}

// Unbounded says that the period places nothing: every order is asked about, undated ones too.
func (p Period) Unbounded() bool { return p.Text == "" }

// Days is the period as "2026-07-01 to 2026-09-30"; a book without a day has none.
func (p Period) Days() string {
	if p.Span == day.Through(day.First, day.First) {
		return "no day yet"
	}
	return fmt.Sprintf("%v to %v", p.Span.From, p.Span.LastDay())
}

// Part says how the book cuts the period: empty when the records cover it whole.
func (p Period) Part(b Bounds) string {
	switch {
	case p.Unbounded():
		return ""
	case b.Outside(p.Span):
		if b.DataDate == day.Last {
			return fmt.Sprintf("not in the book: the records begin on %v", b.FirstDay)
		}
		return fmt.Sprintf("not in the book: the records run from %v to %v", b.FirstDay, b.DataDate)
	case p.Span.From < b.FirstDay && p.Span.LastDay() > b.DataDate:
		return fmt.Sprintf("part of a period: the records run from %v to %v", b.FirstDay, b.DataDate)
	case p.Span.From < b.FirstDay:
		return fmt.Sprintf("part of a period: the records begin on %v", b.FirstDay)
	case p.Span.LastDay() > b.DataDate:
		return fmt.Sprintf("part of a period: the records end on %v", b.DataDate)
	}
	return ""
}

// Offered lists periods to pick from: the relative ones, then the years, quarters and months that the book
// touches, each kind with the latest first.
func Offered(b Bounds) []string {
	offered := []string{"this-week", "last-week", "this-month", "last-month", "this-quarter", "last-quarter", "this-year", "last-year",
		"last-30-days", "last-90-days"}
	if b.FirstDay == 0 || b.DataDate == 0 {
		return offered
	}
	firstYear, firstMonth, _ := b.FirstDay.Date()
	lastYear, lastMonth, _ := b.DataDate.Date()
	var years, quarters, months []string
	for year := lastYear; year >= firstYear; year-- {
		years = append(years, fmt.Sprint(year))
		for month := time.December; month >= time.January; month-- {
			if day.Of(year, month, 1) > day.Of(lastYear, lastMonth, 1) || day.Of(year, month, 1) < day.Of(firstYear, firstMonth, 1) {
				continue
			}
			if quarter := fmt.Sprintf("%d-Q%d", year, (month+2)/3); len(quarters) == 0 || quarters[len(quarters)-1] != quarter {
				quarters = append(quarters, quarter)
			}
			months = append(months, fmt.Sprintf("%d-%02d", year, month))
		}
	}
	return slices.Concat(offered, years, quarters, months)
}

// mostPeriods bounds how many periods are asked about at once: each is a pass over the orders. What is asked of every day or month
// of a long stretch is grouped by it.
const mostPeriods = 120

// Parse reads one period or several with commas between them, in the order given. Empty text is All. The
// error is an *Error.
func Parse(text string, b Bounds) ([]Period, error) {
	if strings.TrimSpace(text) == "" {
		return []Period{All(b)}, nil
	}
	var periods []Period
	texts := strings.Split(text, ",")
	if len(texts) > mostPeriods {
		return nil, &Error{texts[0] + ", …", fmt.Sprintf("these are %d periods, and at most %d fit one question", len(texts),
			mostPeriods)}
	}
	for _, one := range texts {
		one = strings.TrimSpace(one)
		span, reason := parseOne(one, b)
		if reason != "" {
			return nil, &Error{one, reason}
		}
		periods = append(periods, Period{one, span})
	}
	return periods, nil
}

var (
	yearForm     = regexp.MustCompile(`^(\d{4})$`)
	quarterForm  = regexp.MustCompile(`^(\d{4})-Q(\d)$`)
	monthForm    = regexp.MustCompile(`^(\d{4})-(\d{2})$`)
	weekForm     = regexp.MustCompile(`^(\d{4})-W(\d{2})$`)
	relativeForm = regexp.MustCompile(`^(this|last)-(week|month|quarter|year)$`)
	lastDaysForm = regexp.MustCompile(`^last-(\d{1,5})-days$`)
	bareMonth    = regexp.MustCompile(`(?i)^(jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*$|^\d{1,2}$|^Q\d$|^W\d+$`)
)

// parseOne gives the span of a single period, or the reason why the text is none.
func parseOne(text string, b Bounds) (day.Span, string) {
	if text == "" {
		return day.Span{}, "there is nothing between two commas"
	}
	if from, to, isRange := strings.Cut(text, "/"); isRange {
		first, err := day.Parse(from)
		if err != nil {
			return day.Span{}, err.Error()
		}
		last, err := day.Parse(to)
		if err != nil {
			return day.Span{}, err.Error()
		}
		if last < first {
			return day.Span{}, fmt.Sprintf("it ends on %v, before it starts on %v", last, first)
		}
		return day.Through(first, last), ""
	}
	if m := yearForm.FindStringSubmatch(text); m != nil {
		return months(atoi(m[1]), 1, 12)
	}
	if m := quarterForm.FindStringSubmatch(text); m != nil {
		quarter := atoi(m[2])
		if quarter < 1 || quarter > 4 {
			return day.Span{}, "a year has the quarters Q1 to Q4"
		}
		return months(atoi(m[1]), time.Month(3*quarter-2), 3)
	}
	if m := monthForm.FindStringSubmatch(text); m != nil {
		month := atoi(m[2])
		if month < 1 || month > 12 {
			return day.Span{}, fmt.Sprintf("there is no month %d", month)
		}
		return months(atoi(m[1]), time.Month(month), 1)
	}
	if m := weekForm.FindStringSubmatch(text); m != nil {
		return week(atoi(m[1]), atoi(m[2]))
	}
	if m := lastDaysForm.FindStringSubmatch(text); m != nil {
		n := atoi(m[1])
		if n == 0 || day.Day(n) > b.DataDate {
			return day.Span{}, "the number of days must be at least 1 and stay within the supported days"
		}
		return day.Through(b.DataDate-day.Day(n)+1, b.DataDate), ""
	}
	if m := relativeForm.FindStringSubmatch(text); m != nil {
		return relative(m[1] == "last", m[2], b.DataDate)
	}
	if bareMonth.MatchString(text) {
		return day.Span{}, "it does not say of which year"
	}
	d, err := day.Parse(text)
	if err != nil {
		return day.Span{}, "it has none of the known forms"
	}
	return day.Through(d, d), ""
}

// months is the span of n months from the first of a month on.
func months(year int, month time.Month, n int) (day.Span, string) {
	return within(day.Of(year, month, 1), day.Of(year, month+time.Month(n), 0))
}

// week is the ISO 8601 week of a year: Monday first, and week 1 holds 4 January.
func week(year, number int) (day.Span, string) {
	fourth := time.Date(year, 1, 4, 0, 0, 0, 0, time.UTC)
	monday := fourth.AddDate(0, 0, -(int(fourth.Weekday())+6)%7+7*(number-1))
	if y, w := monday.ISOWeek(); y != year || w != number {
		return day.Span{}, fmt.Sprintf("%d has no week %d", year, number)
	}
	return within(day.FromTime(monday), day.FromTime(monday.AddDate(0, 0, 6)))
}

func relative(last bool, unit string, dataDate day.Day) (day.Span, string) {
	back := 0
	if last {
		back = 1
	}
	year, month, _ := dataDate.Date()
	switch unit {
	case "week":
		monday := dataDate - day.Day((int(dataDate.Weekday())+6)%7) - day.Day(7*back)
		return within(monday, monday+6)
	case "month":
		return months(year, month-time.Month(back), 1)
	case "quarter":
		return months(year, (month-1)/3*3+1-time.Month(3*back), 3)
	}
	return months(year-back, 1, 12)
}

func within(first, last day.Day) (day.Span, string) {
	if !first.Known() || !last.Known() {
		return day.Span{}, fmt.Sprintf("it leaves the supported days, %v to %v", day.First, day.Last)
	}
	return day.Through(first, last), ""
}

// atoi reads digits that a regular expression has matched.
func atoi(digits string) int {
	n, _ := strconv.Atoi(digits)
	return n
}
