// Package milestone names the days in an order's life and says which of them are facts and which are plans.
package milestone

import (
	"slices"
	"strings"
)

// A Milestone is a named day in an order's life. A fact after the data date is not known yet; a plan is
// known whatever its day.
type Milestone struct {
	Name string
	Plan bool
}

// The milestones that every book has. Ordered and Cancelled have a meaning of their own in the rules of
// legs; the rest differ only in their names and in being plans.
const (
	Ordered   = "ordered"
	Wanted    = "wanted"
	Promised  = "promised"
	Shipped   = "shipped"
	Expected  = "expected"
	Delivered = "delivered"
	Invoiced  = "invoiced"
	Paid      = "paid"
	Cancelled = "cancelled"
)

// BuiltIn lists the milestones that every book has, in the order of an order's life.
func BuiltIn() []Milestone {
	return []Milestone{
		{Name: Ordered},
		{Name: Wanted, Plan: true},
		{Name: Promised, Plan: true},
		{Name: Shipped},
		{Name: Expected, Plan: true},
		{Name: Delivered},
		{Name: Invoiced},
		{Name: Paid},
		{Name: Cancelled},
	}
}

// Index is the place of the milestone with this name, or -1.
func Index(all []Milestone, name string) int {
	return slices.IndexFunc(all, func(m Milestone) bool { return m.Name == name })
}

// Names joins the names for people: "ordered, wanted, …".
func Names(all []Milestone) string {
	names := make([]string, len(all))
	for i, m := range all {
		names[i] = m.Name
	}
	return strings.Join(names, ", ")
}
