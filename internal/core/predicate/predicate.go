// Package predicate decides conditions on orders. A condition is true, false, or undecided for want of something that
// an order lacks. It is bound to a book once, and then decides stretches of orders column by column.
package predicate

import (
	"regexp"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
)

// A Truth is what a condition makes of an order.
type Truth uint8

// Undecided is neither: the order lacks what the condition asks for.
const (
	False Truth = iota
	True
	Undecided
)

// A Condition is one of And, Or, Not, Always, Has, Some, Every, Compare, In and Text. Of two sides, one that decides makes the other's
// want of something not matter: false and undecided is false, true or undecided is true.
type Condition interface{ bind(*binder) bound }

// And, Or and Not combine conditions.
type (
	And struct{ X, Y Condition }
	Or  struct{ X, Y Condition }
	Not struct{ X Condition }
	// Always decides every order alike.
	Always bool
	// Has says whether an order's parts show something, such as parts.PartPaid.
	Has parts.Finding
	// Some asks whether a condition holds of at least one of an order's lines, shipments or payments; Every whether it
	// holds of each. One that decides makes another's want not matter.
	Some struct {
		Of        book.Part
		Condition Condition
	}
	Every Some
)

// An Operator compares two operands.
type Operator uint8

// Between two values of which one or both are missing, Equal is false and Unequal true: two missing days are never the same
// day. The others are undecided. Against the Literal Missing, Equal and Unequal ask whether a value is missing.
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

// A Text function looks at an operand that is text. Function and Pattern say which one to whoever writes it in another language.
type Text struct {
	X                 Operand
	Decides           func(text string) bool
	Function, Pattern string
}

// StartsWith, EndsWith and so on are given by what they decide; Matches is a regular expression.
func Matches(x Operand, pattern *regexp.Regexp) Text {
	return Text{X: x, Decides: pattern.MatchString, Function: "matches", Pattern: pattern.String()}
}

// An Operand is one of Number, Field, Day, Value, Told, Length, State, PartColumn, Count, Size and Literal.
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
	// Told is a whole number that is told of an order, by its name.
	Told string
	// A Length is that of a leg. It is undecided where none is counted; SoFar counts a leg that still runs up to the
	// data date.
	Length struct {
		Leg     leg.Leg
		Measure leg.Measure
		SoFar   bool
		Side    book.CalendarSource // whose calendar counts
	}
	// State is the name of the state of a leg; it is never missing.
	State struct{ Leg leg.Leg }
	// PartColumn is a column of the line, shipment or payment that Some or Every looks at. Its days compare as text, its
	// quantities and amounts in units.
	PartColumn struct {
		Of   book.Part
		Name string
	}
	// Count is how many lines, shipments or payments an order has.
	Count struct{ Of book.Part }
	// Size is the length of a text, as Measure tells it.
	Size struct {
		X       Operand
		Measure func(text string) int
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
	Walk(c, func(o Operand) {
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
		case Told:
			found = []string{string(o)}
		case Length:
			found = []string{o.Leg.From.Name, o.Leg.To.Name}
		case State:
			found = []string{o.Leg.From.Name, o.Leg.To.Name}
		}
		for _, name := range found {
			if !slices.Contains(names, name) {
				names = append(names, name)
			}
		}
	})
	return names
}

// UnequalToMissing picks the orders of a condition that it may hold of because something is missing: an Unequal in it stands
// between two operands, and an order lacks one of them. Nil where no Unequal does.
func UnequalToMissing(c Condition) Condition {
	either := func(x, y Condition) Condition {
		switch {
		case x == nil:
			return y
		case y == nil:
			return x
		}
		return Or{x, y}
	}
	switch c := c.(type) {
	case And:
		return either(UnequalToMissing(c.X), UnequalToMissing(c.Y))
	case Or:
		return either(UnequalToMissing(c.X), UnequalToMissing(c.Y))
	case Not:
		return UnequalToMissing(c.X)
	case Some:
		if lacking := UnequalToMissing(c.Condition); lacking != nil {
			return Some{c.Of, lacking}
		}
	case Every:
		return UnequalToMissing(Some(c))
	case Compare:
		_, fixedX := c.X.(Literal)
		_, fixedY := c.Y.(Literal)
		if c.Operator == Unequal && !fixedX && !fixedY {
			return Or{Compare{Equal, c.X, Literal{}}, Compare{Equal, c.Y, Literal{}}}
		}
	}
	return nil
}

// Walk shows every operand of a condition, from left to right; those within others after them.
func Walk(c Condition, show func(Operand)) {
	operand := func(o Operand) {
		show(o)
		if size, ok := o.(Size); ok {
			show(size.X)
		}
	}
	switch c := c.(type) {
	case And:
		Walk(c.X, show)
		Walk(c.Y, show)
	case Or:
		Walk(c.X, show)
		Walk(c.Y, show)
	case Not:
		Walk(c.X, show)
	case Some:
		Walk(c.Condition, show)
	case Every:
		Walk(c.Condition, show)
	case Compare:
		operand(c.X)
		operand(c.Y)
	case In:
		operand(c.X)
	case Text:
		operand(c.X)
	}
}

// LegOf is the leg from one milestone of a book to another; false where one of them is none.
func LegOf(all []milestone.Milestone, from, to string) (leg.Leg, bool) {
	x, y := milestone.Index(all, from), milestone.Index(all, to)
	if x < 0 || y < 0 || x == y {
		return leg.Leg{}, false
	}
	return leg.Leg{From: all[x], To: all[y]}, true
}
