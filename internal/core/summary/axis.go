package summary

import (
	"fmt"
	"time"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
)

// An axis is a grouping resolved against a book: every order has one of its codes, and code 0 is "none".
type axis struct {
	grouping Grouping
	labels   []string // by code; labels[0] is empty
	ranks    []uint32 // by code, of a field
	// For a cut, steps gives the code for each day from low on.
	basis int
	low   day.Day
	steps []uint32
	spans []day.Span // the days of each step, by code
}

// newAxis resolves a grouping. A cut has every step of the period, also those without an order; without a
// period it runs over the days on which the basis is known.
func newAxis(b *book.Book, g Grouping, basis int, p period.Period) axis {
	a := axis{grouping: g, basis: basis}
	if g.Cut == NoCut {
		a.labels, a.ranks = b.Values(g.Field), b.Ranks(g.Field)
		return a
	}
	if g.Of != "" {
		a.basis = milestone.Index(b.Milestones(), g.Of)
	}
	a.labels, a.spans = []string{""}, []day.Span{{}}
	low, high := b.Range(a.basis)
	if !p.Unbounded() && a.basis == basis {
		low, high = p.Span.From, p.Span.LastDay()
	}
	if low == 0 {
		return a
	}
	a.low = low
	if g.Cut.Cycles() {
		a.spans = nil
		for place := range g.Cut.Round() {
			a.labels = append(a.labels, g.Cut.Name(place))
		}
		for d := low; d <= high; d++ {
			a.steps = append(a.steps, uint32(g.Cut.Place(d)+1))
		}
		return a
	}
	for d := low; d <= high; d++ {
		if label := g.Cut.label(d); label != a.labels[len(a.labels)-1] {
			a.labels, a.spans = append(a.labels, label), append(a.spans, g.Cut.span(d))
		}
		a.steps = append(a.steps, uint32(len(a.labels)-1))
	}
	return a
}

// Round is how many steps come round: 12 months, 7 weekdays.
func (c TimeBucket) Round() int {
	if c == Weekday {
		return 7
	}
	return 12
}

// Place is which of the steps that come round a day lies in, from 0: January, or Monday.
func (c TimeBucket) Place(d day.Day) int {
	if c == Weekday {
		return (int(d.Weekday()) + 6) % 7
	}
	_, month, _ := d.Date()
	return int(month) - 1
}

// Name is that of a step that comes round, by its place.
func (c TimeBucket) Name(place int) string {
	if c == Weekday {
		return time.Weekday((place + 1) % 7).String()
	}
	return time.Month(place + 1).String()
}

// label names the step of a day in the form in which it can be asked for as a period.
func (c TimeBucket) label(d day.Day) string {
	year, month, _ := d.Date()
	switch c {
	case Day:
		return d.String()
	case Week:
		isoYear, week := d.Time().ISOWeek()
		return fmt.Sprintf("%d-W%02d", isoYear, week)
	case Month:
		return fmt.Sprintf("%d-%02d", year, month)
	case Quarter:
		return fmt.Sprintf("%d-Q%d", year, (month+2)/3)
	}
	return fmt.Sprint(year)
}

// span are the days of the step of a day.
func (c TimeBucket) span(d day.Day) day.Span {
	year, month, _ := d.Date()
	switch c {
	case Day:
		return day.Through(d, d)
	case Week:
		monday := d - day.Day((int(d.Weekday())+6)%7)
		return day.Through(monday, monday+6)
	case Month:
		return day.Through(day.Of(year, month, 1), day.Of(year, month+1, 0))
	case Quarter:
		first := (month-1)/3*3 + 1
		return day.Through(day.Of(year, first, 1), day.Of(year, first+3, 0))
	}
	return day.Through(day.Of(year, 1, 1), day.Of(year, 12, 31))
}

// span are the days of the step with a code; zero where the grouping cuts no time.
func (a axis) span(code int) day.Span {
	if a.spans == nil {
		return day.Span{}
	}
	return a.spans[code]
}

// rank is the place of a code among the axis's names in their natural order.
func (a axis) rank(code int) int64 {
	if a.ranks == nil {
		return int64(code)
	}
	return int64(a.ranks[code])
}

// order is the place of a code in time, for steps that follow each other or come round; zero where the grouping cuts no time,
// or for the code of none.
func (a axis) order(code int) day.Day {
	if a.grouping.Cut.Cycles() {
		return day.Day(code)
	}
	return a.span(code).From
}

// codes gives the codes of a stretch of orders; scratch is used where they are not a column of the block.
func (a axis) codes(block *book.Block, from, to int, scratch []uint32) []uint32 {
	if a.grouping.Cut == NoCut {
		return block.Codes[a.grouping.Field][from:to]
	}
	days := block.Columns[a.basis].Known[from:to]
	scratch = scratch[:len(days)]
	for i, d := range days {
		// An undated order, or one outside the period, has a step number that lies outside as well.
		code := uint32(0)
		if step := uint32(d - a.low); step < uint32(len(a.steps)) {
			code = a.steps[step]
		}
		scratch[i] = code
	}
	return scratch
}

// code is the code of a label.
func (a axis) code(label string) (uint32, bool) {
	for code, l := range a.labels {
		if l == label {
			return uint32(code), true
		}
	}
	return 0, false
}
