package duration

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/distribution"
)

// An Effect is what other calendars make of the lengths of a question.
type Effect struct {
	Counted         int // lengths, before and after alike but for those whose unit wants daily hours
	Moved           int // of which so many change
	Longer, Shorter int
	// Unknown is how many leave the days for which holidays are known, before and after.
	UnknownBefore, UnknownAfter int
	Before, After               distribution.Distribution
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
	readers := [2]*Reader{NewReader(before, q.Question), NewReader(after, q.Question)}
	counts := [2]map[int]int{{}, {}}
	for row := range before.Orders() {
		x, y := readers[0].At(row), readers[1].At(row)
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
	e.Before, e.After = distribution.Of(counts[0]), distribution.Of(counts[1])
	return e
}
