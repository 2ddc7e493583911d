package duration

import (
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/query"
)

// Remarks about a length put it in one of the planes of the table of counts. A reckoned number holds the
// length, less the lowest one of the table, in its low bits, and the plane above them.
const (
	planeShift      = 20 // no length reaches it: there are fewer than 2^17 days
	lengthMask      = 1<<planeShift - 1
	notReckoned     = lengthMask // stands for an order whose leg is not complete
	outsideCoverage = 3          // 1 for a start before the coverage, 1 for an end after it
	byDefault       = 4          // the default calendar stood in for the site's own
	planes          = 8
)

// A lengthTable turns the scan's inner step, the length of a leg and all remarks about it, into the difference
// of two table entries: entries[offset+end].end − entries[offset+start].start, with the offset of the order's
// calendar. Units whose lengths are no such differences have no entries.
type lengthTable struct {
	shift      int // the number of low bits: planeShift, or for countWhole as few as hold every length
	entries    []entry
	offsets    []int32 // by local code
	reckonings []reckoning
}

// An entry is what a day adds as the end of a leg, and what it takes away as its start.
type entry struct{ end, start uint32 }

// A reckoning is how the orders of one local code are counted.
type reckoning struct {
	calendar *calendar.Calendar
	stand    bool // as a stand-in
}

// newLengthTable makes the tables for the days on which the legs of the book lie, one part for each calendar.
func newLengthTable(of *Reader, low, shift int) lengthTable {
	first, last := legDays(of.book, of.start, of.end)
	r, m := lengthTable{shift: shift}, of.question.Measure
	made := map[reckoning]int32{}
	for _, own := range of.calendars {
		how := reckoning{m.Calendar(own.Calendar), m.Unit.ByCalendar() && own.StandsIn}
		offset, done := made[how]
		if !done {
			offset = int32(len(r.entries)) - int32(first)
			made[how] = offset
			if tabulated(m.Unit) {
				r.tabulate(how, m, first, last, low)
			}
		}
		r.offsets = append(r.offsets, offset)
		r.reckonings = append(r.reckonings, how)
	}
	return r
}

// mostGaps is how often a leg of the book can leave the known holidays at most: the most stretches of days without them that a
// calendar has.
func mostGaps(b *book.Book, m leg.Measure, side book.CalendarSource, start, end int) (most int) {
	first, last := legDays(b, start, end)
	for _, own := range b.Locals(side) {
		gaps, from := 0, first
		for _, known := range m.Calendar(own.Calendar).Coverage() {
			if known.From > last || known.To <= first {
				continue
			}
			if known.From > from {
				gaps++
			}
			from = known.To
		}
		if from <= last {
			gaps++
		}
		most = max(most, gaps)
	}
	return most
}

// planesOf is how many planes lengths can lie in, as a power of two: those for the days without known holidays only where there
// are such, and those for calendars that stand in only where one does.
func planesOf(of *Reader, gaps int) int {
	m := of.question.Measure
	switch {
	case slices.ContainsFunc(of.calendars, func(own book.SiteCalendar) bool { return m.Unit.ByCalendar() && own.StandsIn }):
		return planes
	case gaps > 0:
		return outsideCoverage + 1
	}
	return 1
}

// tabulated says whether a unit's lengths are differences of running totals.
func tabulated(u leg.Unit) bool {
	switch u {
	case leg.Days, leg.WorkingDays, leg.Weeks, leg.MonthsCrossed, leg.YearsCrossed:
		return true
	}
	return false
}

// legDays bound the known starts and ends of a leg over the book; both are zero where there is none.
func legDays(b *book.Book, start, end int) (first, last day.Day) {
	firstStart, lastStart := b.Range(start)
	firstEnd, lastEnd := b.Range(end)
	if firstStart == 0 || firstEnd == 0 {
		return max(firstStart, firstEnd), max(lastStart, lastEnd)
	}
	return min(firstStart, firstEnd), max(lastStart, lastEnd)
}

func (r *lengthTable) tabulate(how reckoning, m leg.Measure, first, last day.Day, low int) {
	total, coverage := runningTotal(how.calendar, m.Unit), how.calendar.Coverage()
	gaps, next := uint32(0), 0 // stretches of days without known holidays that have begun, and the next span with them
	always, plane := uint32(-low), uint32(1)<<r.shift
	if how.stand {
		always += byDefault * plane
	}
	for d := first; d <= last; d++ {
		for next < len(coverage) && d >= coverage[next].To {
			next++
		}
		known := next < len(coverage) && d >= coverage[next].From
		if !known && (d == first || next > 0 && d == coverage[next-1].To) {
			gaps++
		}
		// What the start takes away and the end adds is at least what lies before the start, so that no
		// entry and no difference is negative.
		end := total(d) + plane
		start := end
		if m.Rule == leg.BothEnds {
			start = total(d-1) + plane
		}
		// A leg leaves what is known where a gap begins on its way, or where it starts in one.
		end += gaps * plane
		if start += gaps * plane; !known {
			start -= plane
		}
		r.entries = append(r.entries, entry{end + always, start})
	}
}

// runningTotal gives what lies on or before a day: of the days that a calendar counts, or of the ends of months or
// years before it.
func runningTotal(c *calendar.Calendar, u leg.Unit) func(day.Day) uint32 {
	switch u {
	case leg.MonthsCrossed:
		return func(d day.Day) uint32 { return uint32(day.MonthsCrossed(day.First, d)) }
	case leg.YearsCrossed:
		return func(d day.Day) uint32 { return uint32(day.YearsCrossed(day.First, d)) }
	}
	totals := c.Totals()
	return func(d day.Day) uint32 { return uint32(totals[d+1]) }
}

// reckon fills in the lengths of complete legs.
func (r *lengthTable) reckon(reckoned []uint32, start, end []day.Day, locals []uint32) {
	entries, offsets := r.entries, r.offsets
	start, end, locals = start[:len(reckoned)], end[:len(reckoned)], locals[:len(reckoned)]
	for i, s := range start {
		e := end[i]
		if s == 0 || e < s {
			reckoned[i] = notReckoned
			continue
		}
		offset := offsets[locals[i]]
		reckoned[i] = entries[offset+int32(e)].end - entries[offset+int32(s)].start
	}
}

// reckonRows is reckon for some of the orders.
func (r *lengthTable) reckonRows(reckoned []uint32, rows []int32, start, end []day.Day, locals []uint32) {
	entries, offsets := r.entries, r.offsets
	start, end, locals = start[:len(reckoned)], end[:len(reckoned)], locals[:len(reckoned)]
	for _, i := range rows {
		s, e := start[i], end[i]
		if s == 0 || e < s {
			reckoned[i] = notReckoned
			continue
		}
		offset := offsets[locals[i]]
		reckoned[i] = entries[offset+int32(e)].end - entries[offset+int32(s)].start
	}
}

// countWhole adds the length of each complete leg to its cell, where the book is one group and every length
// has a cell: a reckoned number is then the place of its cell. It counts by turns in several cells, since
// orders that follow each other are often of one length, and adding to one cell again at once has to wait for
// the first addition. It lists the other orders and returns their number.
//
//go:noinline
func (r *lengthTable) countWhole(cells *[wholeCells]uint32, start, end []day.Day, locals []uint32, others *[query.StretchRows]int32) int {
	entries, offsets := r.entries, r.offsets
	end, locals = end[:len(start)], locals[:len(start)]
	n := uint(0)
	for i, s := range start {
		e := end[i]
		if uint32(s-1) >= uint32(e) { // no start, no end, or the end before the start
			others[n%query.StretchRows] = int32(i)
			n++
			continue
		}
		offset := offsets[locals[i]]
		reckoned := entries[uint32(offset+int32(e))].end - entries[uint32(offset+int32(s))].start
		cells[(reckoned*wholeTurns+uint32(i)%wholeTurns)%wholeCells]++
	}
	return int(n)
}
