package filter

import (
	"strings"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/predicate"
)

// A Pick is one comparison of a condition, as it can be picked from lists.
type Pick struct {
	Subject    string // a field or milestone by its name, "number", "value", or a length as it is written
	Kind       string // text, day or number
	Comparison string // ==, !=, <, <=, >, >=, startsWith, endsWith, contains, matches; with null as a value: missing, not missing
	Value      string
}

// Missing and NotMissing compare with null.
const (
	Missing    = "missing"
	NotMissing = "not missing"
)

// Picks takes a condition apart into comparisons joined by one operator, && or ||. One that is more than a level of those
// gives none, and has to stay text. The error is an *Error.
func Picks(b *book.Book, text string) (picks []Pick, joined string, err error) {
	if _, err := Parse(b, text); err != nil {
		return nil, "", err
	}
	c, e, err := check(b, text, nil)
	if err != nil {
		return nil, "", err
	}
	joined = logicalOf(e)
	for _, side := range sides(e, joined) {
		pick, simple := c.pick(side, text)
		if !simple {
			return nil, "", nil
		}
		picks = append(picks, pick)
	}
	return picks, strings.Trim(joined, "_"), nil
}

// logicalOf is the operator that joins an expression; empty for a single comparison.
func logicalOf(e ast.Expr) string {
	if e.Kind() == ast.CallKind {
		if name := e.AsCall().FunctionName(); name == operators.LogicalAnd || name == operators.LogicalOr {
			return name
		}
	}
	return ""
}

// sides are what an operator joins, from left to right.
func sides(e ast.Expr, joined string) (all []ast.Expr) {
	if joined == "" || logicalOf(e) != joined {
		return []ast.Expr{e}
	}
	for _, side := range e.AsCall().Args() {
		all = append(all, sides(side, joined)...)
	}
	return all
}

// pick is a comparison of something of the order with a fixed value.
func (c *compiler) pick(e ast.Expr, text string) (Pick, bool) {
	if e.Kind() != ast.CallKind {
		return Pick{}, false
	}
	call := e.AsCall()
	if call.IsMemberFunction() {
		pick, simple := c.subject(call.Target(), text)
		pick.Comparison, pick.Value = call.FunctionName(), ""
		if value, isText := call.Args()[0].AsLiteral().(types.String); isText {
			pick.Value = string(value)
		}
		return pick, simple
	}
	operator, compares := comparisons[call.FunctionName()]
	if !compares {
		return Pick{}, false
	}
	left, right := call.Args()[0], call.Args()[1]
	if left.Kind() == ast.LiteralKind {
		left, right, operator = right, left, mirrored[operator]
	}
	value, err := c.operand(right)
	literal, fixed := value.(predicate.Literal)
	// The ends of the book are fixed, and mean more than the day they stand for.
	if err != nil || !fixed || right.Kind() == ast.IdentKind {
		return Pick{}, false
	}
	pick, simple := c.subject(left, text)
	symbols := map[predicate.Operator]string{predicate.Equal: "==", predicate.Unequal: "!=", predicate.Less: "<",
		predicate.LessOrEqual: "<=", predicate.Greater: ">", predicate.GreaterOrEqual: ">="}
	pick.Comparison = symbols[operator]
	switch literal.Kind {
	case predicate.Missing:
		pick.Comparison = map[predicate.Operator]string{predicate.Equal: Missing, predicate.Unequal: NotMissing}[operator]
	case predicate.OfText:
		pick.Value = literal.Text
	default:
		pick.Value = written(right, text, c)
	}
	return pick, simple && pick.Comparison != ""
}

// subject is what a comparison asks about.
func (c *compiler) subject(e ast.Expr, text string) (Pick, bool) {
	o, err := c.operand(e)
	if err != nil {
		return Pick{}, false
	}
	switch o := o.(type) {
	case predicate.Number:
		return Pick{Subject: Number, Kind: "text"}, true
	case predicate.Field:
		return Pick{Subject: string(o), Kind: "text"}, true
	case predicate.Day:
		return Pick{Subject: string(o), Kind: "day"}, milestone.Index(c.book.Milestones(), string(o)) >= 0
	case predicate.Value:
		return Pick{Subject: "value", Kind: "number"}, true
	case predicate.Told:
		return Pick{Subject: string(o), Kind: "number"}, true
	case predicate.Length:
		words := numfmt.Either(o.SoFar, SoFar, "")
		return Pick{Subject: underscored(o.Measure.Unit.String()) + words + "(" + Written(o.Leg.From.Name) + ", " +
			Written(o.Leg.To.Name) + ")", Kind: "number"}, o.Measure.Rule == 0 && o.Side == book.AtSite
	}
	return Pick{}, false
}

// written is a number as it stands in the text.
func written(e ast.Expr, text string, c *compiler) string {
	from := 0
	at := c.source.GetStartLocation(e.ID())
	for line := 1; line < at.Line(); line++ {
		from += strings.IndexByte(text[from:], '\n') + 1
	}
	runes := []rune(text[from:])
	end := at.Column()
	for end < len(runes) && strings.ContainsRune("-+.0123456789eE", runes[end]) {
		end++
	}
	return string(runes[at.Column():end])
}
