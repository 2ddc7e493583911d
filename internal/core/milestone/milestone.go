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
	// Of and StandIn are set where one milestone stands in for another that is missing: the day of Of or, where an order
	// has none, of StandIn.
	Of, StandIn string
}

// standsIn stands between the two names of a milestone with a stand-in: invoiced-or-shipped.
const standsIn = "-or-"

// WithStandIn is a milestone with another of its kind in its place where it is missing.
func WithStandIn(of, standIn Milestone) Milestone {
	return Milestone{Name: of.Name + standsIn + standIn.Name, Plan: of.Plan, Of: of.Name, StandIn: standIn.Name}
}

// Base is the name of the milestone whatever stands in for it.
func (m Milestone) Base() string {
	if m.Of != "" {
		return m.Of
	}
	return m.Name
}

// Words are the name for a sentence, which says what stands in.
func (m Milestone) Words() string {
	if m.Of != "" {
		return m.Of + " (or " + m.StandIn + " where that is missing)"
	}
	return m.Name
}

// dateNames are what people call the days of the milestones that every book has.
var dateNames = map[string]string{Ordered: "order date", Requested: "requested date", Promised: "promised date", Shipped: "ship date",
	Expected: "expected date", Delivered: "delivery date", Invoiced: "invoice date", Paid: "payment date", Cancelled: "cancellation date"}

// DateName is what people call the day of a milestone: order date, ship date; one of the user's own by its heading.
func DateName(name string) string {
	if known, is := dateNames[name]; is {
		return known
	}
	if first, is := strings.CutPrefix(name, "first-"); is && dateNames[first] != "" {
		return "first " + dateNames[first]
	}
	return strings.ReplaceAll(name, "-", " ") + " date"
}

// Date is what people call the day of the milestone; it says what stands in.
func (m Milestone) Date() string {
	if m.Of != "" {
		return DateName(m.Of) + " (or " + DateName(m.StandIn) + " where that is missing)"
	}
	return DateName(m.Name)
}

// Pair gives the places of the two milestones in a name such as invoiced-or-shipped; false where it is none.
func Pair(all []Milestone, name string) (of, standIn int, is bool) {
	for i, m := range all {
		if other, found := strings.CutPrefix(name, m.Name+standsIn); found {
			if j := Index(all, other); j >= 0 && j != i {
				return i, j, true
			}
		}
	}
	return 0, 0, false
}

// The milestones that every book has. Ordered and Cancelled have a meaning of their own in the rules of
// legs; the rest differ only in their names and in being plans.
const (
	Ordered   = "ordered"
	Requested = "requested"
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
		{Name: Requested, Plan: true},
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

// Names are the names of milestones.
func Names(all []Milestone) []string {
	names := make([]string, len(all))
	for i, m := range all {
		names[i] = m.Name
	}
	return names
}
