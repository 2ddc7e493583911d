// Package predicate decides conditions on orders. A condition is true, false, or undecided for want of something that
// an order lacks. It is bound to a book once, and then decides stretches of orders column by column.
package predicate

import (
	"regexp"
	"slices"

	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
)

// A Truth is what a condition makes of an order.
type Truth uint8

// Undecided is neither: the order lacks what the condition asks for.
const (
	False Truth = iota
	True
	Undecided
)

// A Condition is one of And, Or, Not, Always, Compare, In and Text. Of two sides, one that decides makes the other's
// want of something not matter: false and undecided is false, true or undecided is true.
type Condition interface{ bind(*binder) bound }

// And, Or and Not combine conditions.
type (
	And struct{ X, Y Condition }
	Or  struct{ X, Y Condition }
	Not struct{ X Condition }
	// Always decides every order alike.
	Always bool
)

// An Operator compares two operands.
type Operator uint8

// Against what is missing, Equal is false and Unequal true; the others are undecided.
const (
	Equal Operator = iota
	Unequal
	Less
	LessOrEqual
	Greater
	GreaterOrEqual
)

// Compare compares two operands of one type.
type Compare struct {
	Operator Operator
	X, Y     Operand
}

// In says whether an operand equals one of some values; a missing one equals only Missing.
type In struct {
	X    Operand
	List []Literal
}

// A Text function looks at an operand that is text.
type Text struct {
	X       Operand
	Decides func(text string) bool
}

// StartsWith, EndsWith and so on are given by what they decide; Matches is a regular expression.
func Matches(x Operand, pattern *regexp.Regexp) Text { return Text{x, pattern.MatchString} }

// An Operand is one of Number, Field, Day, Value, Length and Literal.
type Operand interface {
	bindOperand(*binder) operand
}

type (
	// Number is the order's number; it is never missing.
	Number struct{}
	// Field is a field by its name.
	Field string
	// Day is a milestone by its name, as known at the data date; it compares as the text of its day.
	Day string
	// Value is the order's value, in units of its currency.
	Value struct{}
	// A Length is that of a leg. It is undecided where none is counted; SoFar counts a leg that still runs up to the
	// data date.
	Length struct {
		Leg     leg.Leg
		Measure leg.Measure
		SoFar   bool
	}
	// A Literal is a text or a number, or Missing.
	Literal struct {
		Text   string
		Number float64
		Kind   Kind
	}
)

// A Kind is the type of a value.
type Kind uint8

const (
	Missing Kind = iota
	OfText
	OfNumber
	// unknown is the value of a length that is not counted: whatever is asked of it is undecided.
	unknown
)

// Uses lists the names of the fields and milestones that a condition asks for, each once, by its first use.
func Uses(c Condition) (names []string) {
	add := func(o Operand) {
		var found []string
		switch o := o.(type) {
		case Number:
			found = []string{"number"}
		case Field:
			found = []string{string(o)}
		case Day:
			found = []string{string(o)}
		case Value:
			found = []string{"value"}
		case Length:
			found = []string{o.Leg.From.Name, o.Leg.To.Name}
		}
		for _, name := range found {
			if !slices.Contains(names, name) {
				names = append(names, name)
			}
		}
	}
	var walk func(Condition)
	walk = func(c Condition) {
		switch c := c.(type) {
		case And:
			walk(c.X)
			walk(c.Y)
		case Or:
			walk(c.X)
			walk(c.Y)
		case Not:
			walk(c.X)
		case Compare:
			add(c.X)
			add(c.Y)
		case In:
			add(c.X)
		case Text:
			add(c.X)
		}
	}
	walk(c)
	return names
}

// LegOf is the leg from one milestone of a book to another; false where one of them is none.
func LegOf(all []milestone.Milestone, from, to string) (leg.Leg, bool) {
	x, y := milestone.Index(all, from), milestone.Index(all, to)
	if x < 0 || y < 0 || x == y {
		return leg.Leg{}, false
	}
	return leg.Leg{From: all[x], To: all[y]}, true
}
