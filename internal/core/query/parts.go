package query

import "prairiedusk/internal/core/predicate"

// PartCounts divide parts of orders, such as lines or status periods, by a condition that picks those which are counted.
type PartCounts struct{ Met, Unmet, Undecided int }

// Count counts a part by what was decided about it.
func (c *PartCounts) Count(decided predicate.Truth) {
	*[...]*int{predicate.False: &c.Unmet, predicate.True: &c.Met, predicate.Undecided: &c.Undecided}[decided]++
}

// Add adds what is counted elsewhere.
func (c *PartCounts) Add(o PartCounts) {
	c.Met, c.Unmet, c.Undecided = c.Met+o.Met, c.Unmet+o.Unmet, c.Undecided+o.Undecided
}
