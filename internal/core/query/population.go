package query

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
)

// A Placement says whether a question is about an order, or why it is not. Its text is what a list of orders calls it; that of
// Asked is empty.
type Placement string

// The placements.
const (
	Asked     Placement = ""
	Outside   Placement = "outside"   // its basis day lies outside the period
	Undated   Placement = "undated"   // it has no basis day that is known
	Unmet     Placement = "unmet"     // it lies in the period, and does not meet the condition
	Undecided Placement = "undecided" // it lies in the period, and lacks what the condition asks about
)

// A Population divides a book by what a question is about: InBook = Asked + Outside + Undated + Unmet + Undecided. Run counts
// it, and nobody else does.
type Population struct {
	Period  period.Period
	InBook  int
	Asked   int
	Outside int // basis day outside the period
	Undated int // no known basis day, where there is a period
	Unmet   int // in the period, and do not meet the condition
	// Undecided lie in the period and lack what the condition asks about; Lacking says what, the most first.
	Undecided int
	Lacking   Lacks
	// MetByMissing are those selected that lack one of two values which the condition compares with !=.
	MetByMissing int
}

// A Term is one number of a line that adds up.
type Term struct {
	Code   string // what a selection of orders calls it
	Label  string
	Orders int
}

// Terms are those of the line that says how the period and the condition divide the book; none where the question is about all
// orders. The code of each is its Placement.
func (p Population) Terms(basis milestone.Milestone) []Term {
	if p.Period.Unbounded() && p.Asked == p.InBook {
		return nil
	}
	terms := []Term{{string(Asked), "selected", p.Asked}}
	add := func(placed Placement, orders int, label string) {
		terms = append(terms, Term{string(placed), label, orders})
	}
	if !p.Period.Unbounded() {
		add(Outside, p.Outside, fmt.Sprintf("with %s outside %s", basis.Date(), p.Period.Text))
	}
	if p.Undated > 0 {
		add(Undated, p.Undated, fmt.Sprintf("undated (no %s)", basis.Date()))
	}
	if p.Unmet > 0 {
		add(Unmet, p.Unmet, "do not meet the condition")
	}
	if p.Undecided > 0 {
		add(Undecided, p.Undecided, p.Lacking.Words())
	}
	return terms
}

// MetByMissingText is the note on how many orders lack one of two values that the condition compares with !=.
const MetByMissingText = "%s without one of the two values that the condition compares with !=: a missing value differs from every other"

// A Lack is how many orders lack one thing that the condition asks about.
type Lack struct {
	Name   string
	Orders int
}

// Lacks are what undecided orders lack, the most first.
type Lacks []Lack

// lacksOf sorts counts of what orders lack.
func lacksOf(counts map[string]int) (lacks Lacks) {
	for name, orders := range counts {
		lacks = append(lacks, Lack{name, orders})
	}
	slices.SortFunc(lacks, func(a, b Lack) int { return cmp.Or(cmp.Compare(b.Orders, a.Orders), cmp.Compare(a.Name, b.Name)) })
	return lacks
}

// words name it: a date as people call it.
func (l Lack) words() string {
	if milestone.Index(milestone.BuiltIn(), l.Name) >= 0 {
		return milestone.DateName(l.Name)
	}
	return l.Name
}

// Words say that orders are undecided, and what they lack.
func (l Lacks) Words() string {
	terms := make([]string, len(l))
	for i, lack := range l {
		terms[i] = fmt.Sprintf("%s without %s", numfmt.Count(lack.Orders), lack.words())
	}
	return "cannot be decided yet (" + strings.Join(terms, ", ") + ")"
}
