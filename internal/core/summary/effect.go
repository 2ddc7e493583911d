package summary

import (
	"maps"
	"slices"

	"prairiedusk/internal/core/book"
)

// An Effect is what other calendars make of the lengths of a question.
type Effect struct {
	Counted         int // lengths, before and after alike but for those whose unit wants daily hours
	Moved           int // of which so many change
	Longer, Shorter int
	// Unknown is how many leave the days for which holidays are known, before and after.
	UnknownBefore, UnknownAfter int
	Before, After               Distribution
	Examples                    []Change // the first orders that move
}

// A Change is one length before and after.
type Change struct {
	Row           int // in the book
	Before, After Listed
}

// mostExamples is how many changes an Effect shows.
const mostExamples = 10

// Compare counts a question's lengths in two books that differ in their calendars alone, order by order, over all
// orders.
func Compare(before, after *book.Book, q Question) Effect {
	var e Effect
	plans := [2]*plan{newPlan(before, q, q.Periods[0]), newPlan(after, q, q.Periods[0])}
	counts := [2]map[int]int{{}, {}}
	for row := range before.Orders() {
		x, y := plans[0].entryAt(row), plans[1].entryAt(row)
		if !x.State.Counted() && !y.State.Counted() {
			continue
		}
		e.Counted++
		for side, l := range []Listed{x, y} {
			if l.State.Counted() {
				counts[side][l.Length]++
			}
		}
		if x.HolidaysUnknown {
			e.UnknownBefore++
		}
		if y.HolidaysUnknown {
			e.UnknownAfter++
		}
		if x.Length == y.Length && x.State == y.State {
			continue
		}
		e.Moved++
		switch {
		case y.Length > x.Length:
			e.Longer++
		case y.Length < x.Length:
			e.Shorter++
		}
		if len(e.Examples) < mostExamples {
			e.Examples = append(e.Examples, Change{row, x, y})
		}
	}
	e.Before, e.After = DistributionOf(counts[0]), DistributionOf(counts[1])
	return e
}

// DistributionOf sorts counts of lengths.
func DistributionOf(counts map[int]int) (d Distribution) {
	for _, length := range slices.Sorted(maps.Keys(counts)) {
		d = append(d, Bar{length, counts[length]})
	}
	return d
}
