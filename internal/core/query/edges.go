package query

import (
	"slices"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/work"
)

// OnEdges says whether some order that the question is about has its basis day on the first day of the period, and on its last: there it
// matters whether a period holds its own ends. Without a period nothing is on an edge.
func (s *Scope) OnEdges() (first, last bool) {
	if s.period.Unbounded() {
		return false, false
	}
	work.Each(2, func(edge int) {
		if edge == 0 {
			first = s.anyOn(s.period.Span.From)
		} else {
			last = s.anyOn(s.period.Span.LastDay())
		}
	})
	return first, last
}

// anyOn says whether an order that meets the condition has its basis day on a day; it stops at the first.
func (s *Scope) anyOn(on day.Day) bool {
	for _, block := range s.Book.Scan() {
		days := block.Columns[s.basis].Known
		for row := slices.Index(days, on); row >= 0; {
			if s.where == nil || s.where.One(block, row) == predicate.True {
				return true
			}
			next := slices.Index(days[row+1:], on)
			if next < 0 {
				break
			}
			row += 1 + next
		}
	}
	return false
}
