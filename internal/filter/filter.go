// Package filter reads conditions on orders from text in the Common Expression Language (CEL) and turns them into
// predicates of the core. Parsing and checking are the language's own.
package filter

import (
	"errors"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"
	"golang.org/x/text/unicode/norm"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/spelling"
)

// Longest is the most characters of a condition.
const Longest = 10_000

// An Error says where a condition was not understood, and why.
type Error struct {
	Line, Column int // from 1
	Reason       string
}

func (e *Error) Error() string {
	return fmt.Sprintf("line %d, column %d: %s", e.Line, e.Column, e.Reason)
}

// lengths are the functions that count a leg, by name: every unit, and with _so_far every unit of whole days, which counts
// a leg that still runs up to the data date.
var lengths = lengthFunctions()

type lengthFunction struct {
	unit  leg.Unit
	soFar bool
}

func lengthFunctions() map[string]lengthFunction {
	all := map[string]lengthFunction{}
	for i, name := range leg.UnitNames() {
		unit := leg.Unit(i)
		all[underscored(name)] = lengthFunction{unit, false}
		if !unit.Timed() {
			all[underscored(name)+SoFar] = lengthFunction{unit, true}
		}
	}
	return all
}

// SoFar ends the names of functions that count a leg that still runs up to the data date.
const SoFar = "_so_far"

// stateFunction tells the state of a leg.
const stateFunction = "state"

// found are the words for what an order's parts show.
var found = map[string]predicate.Has{
	"part_shipped": predicate.Has(parts.PartShipped), "part_delivered": predicate.Has(parts.PartDelivered),
	"part_paid": predicate.Has(parts.PartPaid),
}

// Functions lists what can be asked of a leg, in order.
func Functions() []string {
	return slices.Sorted(func(yield func(string) bool) {
		for name := range lengths {
			if !yield(name) {
				return
			}
		}
	})
}

// A Condition is a text that was understood against a book.
type Condition struct {
	Text      string
	Predicate predicate.Condition
}

// names are the words of a condition that stand for something of an order, by how they are written.
type names map[string]predicate.Operand

// namesOf are the fields and milestones of a book, hyphens as underscores. A name that a function has already can only
// be written as field("…").
func namesOf(b *book.Book) names {
	all := names{"number": predicate.Number{}, "value": predicate.Value{}}
	for _, f := range b.FieldNames() {
		all[underscored(f)] = predicate.Field(f)
	}
	for _, m := range b.Milestones() {
		all[underscored(m.Name)] = predicate.Day(m.Name)
	}
	for _, name := range b.NumberNames() {
		if _, taken := all[underscored(name)]; !taken {
			all[underscored(name)] = predicate.Told(name)
		}
	}
	for word, on := range map[string]day.Day{"data_date": b.Bounds().DataDate, "first_day": b.Bounds().FirstDay} {
		if _, taken := all[word]; !taken {
			all[word] = predicate.Literal{Kind: predicate.OfText, Text: on.String()}
		}
	}
	return all
}

var identifier = regexp.MustCompile(`^[_a-zA-Z][_a-zA-Z0-9]*$`)

// Written is the name of a field or milestone as a condition has it.
func Written(name string) string {
	if word := underscored(name); identifier.MatchString(word) {
		return word
	}
	return fmt.Sprintf("field(%q)", name)
}

func underscored(name string) string { return strings.ReplaceAll(name, "-", "_") }

// number is the type of values and lengths: the language knows whole numbers and others, and lets only like ones equal
// each other where it is told of types. That a number is compared with one is checked afterwards.
var number = cel.DynType

func typeOf(o predicate.Operand) *cel.Type {
	switch o.(type) {
	case predicate.Value, predicate.Told:
		return number
	}
	return cel.NullableType(cel.StringType)
}

// environment declares the words of a book; options may bind what functions do, for the language's own evaluation.
func environment(all names, within map[string]book.Part, options ...cel.EnvOption) (*cel.Env, error) {
	text := cel.NullableType(cel.StringType)
	declared := []cel.EnvOption{
		cel.CrossTypeNumericComparisons(true),
		cel.ParserExpressionSizeLimit(Longest),
		cel.ParserRecursionLimit(200),
		cel.ClearMacros(),
		cel.Macros(cel.ExistsMacro, cel.AllMacro),
	}
	for _, part := range book.PartNames() {
		if _, taken := all[part]; !taken {
			declared = append(declared, cel.Variable(part, cel.ListType(cel.MapType(cel.StringType, cel.DynType))))
		}
	}
	for word := range within {
		declared = append(declared, cel.Variable(word, cel.MapType(cel.StringType, cel.DynType)))
	}
	for word := range found {
		if _, taken := all[word]; !taken {
			declared = append(declared, cel.Variable(word, cel.BoolType))
		}
	}
	for name, operand := range all {
		if identifier.MatchString(name) {
			declared = append(declared, cel.Variable(name, typeOf(operand)))
		}
	}
	if len(options) > 0 {
		return cel.NewEnv(append(declared, options...)...)
	}
	for name := range lengths {
		declared = append(declared, cel.Function(name,
			cel.Overload(name+"_leg", []*cel.Type{text, text}, number),
			cel.Overload(name+"_leg_rule", []*cel.Type{text, text, cel.StringType}, number),
			cel.Overload(name+"_leg_rule_side", []*cel.Type{text, text, cel.StringType, cel.StringType}, number)))
	}
	declared = append(declared, cel.Function(stateFunction, cel.Overload("state_leg", []*cel.Type{text, text}, cel.StringType)))
	declared = append(declared, cel.Function("field", cel.Overload("field_name", []*cel.Type{cel.StringType}, text)))
	return cel.NewEnv(declared...)
}

// Parse understands a condition against a book. The error is an *Error.
func Parse(b *book.Book, text string) (Condition, error) {
	return parse(b, text, nil)
}

// ParseParts understands a condition on parts of orders, which it names by a word in the singular, such as line.delivered >
// requested. The error is an *Error.
func ParseParts(b *book.Book, of book.Part, word, text string) (Condition, error) {
	return parse(b, text, map[string]book.Part{word: of})
}

func parse(b *book.Book, text string, within map[string]book.Part) (Condition, error) {
	c, e, err := check(b, text, within)
	if err != nil {
		return Condition{}, err
	}
	p, err := c.condition(e)
	return Condition{text, p}, err
}

// ParseOperand understands a text that names something of an order: a field, a milestone, a length. One that is a
// condition instead comes back as such. The error is an *Error.
func ParseOperand(b *book.Book, text string) (predicate.Operand, predicate.Condition, error) {
	c, e, err := check(b, text, nil)
	if err != nil {
		return nil, nil, err
	}
	if c.isCondition(e) {
		p, err := c.condition(e)
		return nil, p, err
	}
	o, err := c.operand(e)
	if _, fixed := o.(predicate.Literal); fixed && err == nil {
		err = c.refuse(e, "this is the same for every order")
	}
	return o, nil, err
}

// check parses and checks a text with the language; within are the words for a part that is looked at already.
func check(b *book.Book, text string, within map[string]book.Part) (*compiler, ast.Expr, error) {
	if n := utf8.RuneCountInString(text); n > Longest {
		return nil, nil, &Error{1, 1, fmt.Sprintf("the condition has %d characters; want at most %d", n, Longest)}
	}
	all := namesOf(b)
	for word := range within {
		delete(all, word) // a field of this name is written field("line")
	}
	env, err := environment(all, within)
	if err != nil {
		return nil, nil, err
	}
	checked, issues := env.Compile(text)
	if issues.Err() != nil {
		first := issues.Errors()[0]
		return nil, nil, &Error{max(1, first.Location.Line()), max(0, first.Location.Column()) + 1, all.explained(text, first.Message)}
	}
	c := &compiler{book: b, names: all, source: checked.NativeRep().SourceInfo(), within: map[string]book.Part{}}
	maps.Copy(c.within, within)
	return c, checked.NativeRep().Expr(), nil
}

// A compiler turns a checked expression into a predicate.
type compiler struct {
	book   *book.Book
	names  names
	source *ast.SourceInfo
	within map[string]book.Part // what the words of exists and all stand for
}

func (c *compiler) refuse(e ast.Expr, format string, values ...any) error {
	at := c.source.GetStartLocation(e.ID())
	return &Error{max(1, at.Line()), max(0, at.Column()) + 1, fmt.Sprintf(format, values...)}
}

var comparisons = map[string]predicate.Operator{
	operators.Equals: predicate.Equal, operators.NotEquals: predicate.Unequal,
	operators.Less: predicate.Less, operators.LessEquals: predicate.LessOrEqual,
	operators.Greater: predicate.Greater, operators.GreaterEquals: predicate.GreaterOrEqual,
}

// mirrored are the operators with their sides changed.
var mirrored = map[predicate.Operator]predicate.Operator{
	predicate.Equal: predicate.Equal, predicate.Unequal: predicate.Unequal,
	predicate.Less: predicate.Greater, predicate.LessOrEqual: predicate.GreaterOrEqual,
	predicate.Greater: predicate.Less, predicate.GreaterOrEqual: predicate.LessOrEqual,
}

// isCondition says whether an expression decides rather than names something.
func (c *compiler) isCondition(e ast.Expr) bool {
	switch e.Kind() {
	case ast.ComprehensionKind:
		return true
	case ast.LiteralKind:
		_, is := e.AsLiteral().(types.Bool)
		return is
	case ast.IdentKind:
		_, is := c.has(e)
		return is
	case ast.CallKind:
		call := e.AsCall()
		_, counts := lengths[call.FunctionName()]
		return !counts && !slices.Contains([]string{"field", "size", stateFunction, operators.Negate}, call.FunctionName())
	}
	return false
}

// has is a word for what an order's parts show.
func (c *compiler) has(e ast.Expr) (predicate.Has, bool) {
	if e.Kind() != ast.IdentKind {
		return 0, false
	}
	_, taken := c.names[e.AsIdent()]
	has, is := found[e.AsIdent()]
	return has, is && !taken
}

func (c *compiler) condition(e ast.Expr) (predicate.Condition, error) {
	if e.Kind() == ast.LiteralKind {
		if b, ok := e.AsLiteral().(types.Bool); ok {
			return predicate.Always(b), nil
		}
	}
	if has, is := c.has(e); is {
		return has, nil
	}
	if e.Kind() == ast.ComprehensionKind {
		return c.some(e, e.AsComprehension())
	}
	if e.Kind() != ast.CallKind {
		return nil, c.refuse(e, "this is no condition; want a comparison such as shipped == null or customer == \"Clover\"")
	}
	call := e.AsCall()
	operator, compares := comparisons[call.FunctionName()]
	switch name := call.FunctionName(); {
	case name == operators.LogicalAnd, name == operators.LogicalOr:
		return c.both(name, call.Args())
	case name == operators.LogicalNot:
		x, err := c.condition(call.Args()[0])
		return predicate.Not{X: x}, err
	case name == operators.Conditional:
		return nil, c.refuse(e, "a choice (?:) is no condition here; write it with && and ||")
	case compares:
		return c.compare(e, operator, call.Args())
	case name == operators.In:
		return c.in(call.Args())
	case call.IsMemberFunction():
		return c.text(e, call)
	}
	return nil, c.refuse(e, "%s is no condition by itself; compare it with something", call.FunctionName())
}

// some is lines.exists(l, …) or lines.all(l, …), which the language has written out: what it collects, step by step.
func (c *compiler) some(e ast.Expr, loop ast.ComprehensionExpr) (predicate.Condition, error) {
	part, known := c.part(loop.IterRange())
	if !known {
		return nil, c.refuse(loop.IterRange(), "want one of %s", strings.Join(book.PartNames(), ", "))
	}
	word := loop.IterVar()
	for _, outer := range c.within {
		if outer == part {
			return nil, c.refuse(e, "%v are being looked at already", part)
		}
	}
	if _, taken := c.names[word]; taken {
		return nil, c.refuse(e, "%q is something of the order; use another word for one of its %v", word, part)
	}
	c.within[word] = part
	defer delete(c.within, word)
	step := loop.LoopStep().AsCall()
	condition, err := c.condition(step.Args()[1])
	if step.FunctionName() == operators.LogicalAnd {
		return predicate.Every{Of: part, Condition: condition}, err
	}
	return predicate.Some{Of: part, Condition: condition}, err
}

// part is the part of an order that a word names.
func (c *compiler) part(e ast.Expr) (book.Part, bool) {
	if e.Kind() != ast.IdentKind {
		return 0, false
	}
	_, taken := c.names[e.AsIdent()]
	i := slices.Index(book.PartNames(), e.AsIdent())
	return book.Part(i), i >= 0 && !taken
}

// column is l.product, of what exists or all look at.
func (c *compiler) column(e ast.Expr) (predicate.Operand, error) {
	chosen := e.AsSelect()
	if chosen.Operand().Kind() != ast.IdentKind {
		return nil, c.refuse(e, "want a column such as l.product within lines.exists(l, …)")
	}
	part, known := c.within[chosen.Operand().AsIdent()]
	if !known {
		return nil, c.refuse(e, "want a column such as l.product within lines.exists(l, …)")
	}
	var names []string
	for _, column := range c.book.PartColumns(part) {
		if underscored(column.Name) == chosen.FieldName() {
			return predicate.PartColumn{Of: part, Name: column.Name}, nil
		}
		names = append(names, underscored(column.Name))
	}
	if near := spelling.Nearest(chosen.FieldName(), names); near != "" {
		return nil, c.refuse(e, "%v have no %q; did you mean %s?", part, chosen.FieldName(), near)
	}
	return nil, c.refuse(e, "%v have no %q; they have %s", part, chosen.FieldName(), strings.Join(names, ", "))
}

// holds is what a column of a part holds.
func (c *compiler) holds(column predicate.PartColumn) book.Holding {
	for _, known := range c.book.PartColumns(column.Of) {
		if known.Name == column.Name {
			return known.Holds
		}
	}
	return book.Plain
}

func (c *compiler) both(name string, sides []ast.Expr) (predicate.Condition, error) {
	x, err := c.condition(sides[0])
	if err != nil {
		return nil, err
	}
	y, err := c.condition(sides[1])
	if name == operators.LogicalAnd {
		return predicate.And{X: x, Y: y}, err
	}
	return predicate.Or{X: x, Y: y}, err
}

func (c *compiler) compare(e ast.Expr, o predicate.Operator, sides []ast.Expr) (predicate.Condition, error) {
	x, err := c.operand(sides[0])
	if err != nil {
		return nil, err
	}
	y, err := c.operand(sides[1])
	if err != nil {
		return nil, err
	}
	// A literal stands on the right, where one side is one.
	if _, literal := x.(predicate.Literal); literal {
		x, y, o = y, x, mirrored[o]
		sides = []ast.Expr{sides[1], sides[0]}
	}
	if _, literal := x.(predicate.Literal); literal {
		return nil, c.refuse(e, "both sides are fixed; compare something of the order")
	}
	if err := errors.Join(c.dayAgainst(x, y, sides[1]), c.alike(e, x, y)); err != nil {
		return nil, err
	}
	return predicate.Compare{Operator: o, X: x, Y: y}, nil
}

// alike refuses a number beside a text.
func (c *compiler) alike(e ast.Expr, x, y predicate.Operand) error {
	a, b := c.kindOf(x), c.kindOf(y)
	if a != b && a != predicate.Missing && b != predicate.Missing {
		return c.refuse(e, "a number cannot be compared with a text")
	}
	return nil
}

func (c *compiler) kindOf(o predicate.Operand) predicate.Kind {
	switch o := o.(type) {
	case predicate.Literal:
		return o.Kind
	case predicate.Value, predicate.Told, predicate.Length, predicate.Count, predicate.Size:
		return predicate.OfNumber
	case predicate.PartColumn:
		if c.holds(o) > book.OnDay {
			return predicate.OfNumber
		}
	}
	return predicate.OfText
}

// dayAgainst refuses a text beside a milestone that is no day: it would compare letter by letter.
func (c *compiler) dayAgainst(x, y predicate.Operand, at ast.Expr) error {
	m, isDay := x.(predicate.Day)
	if column, ok := x.(predicate.PartColumn); ok && c.holds(column) == book.OnDay {
		m, isDay = predicate.Day(column.Name), true
	}
	literal, isLiteral := y.(predicate.Literal)
	if !isDay || !isLiteral || literal.Kind != predicate.OfText {
		return nil
	}
	if _, err := day.Parse(literal.Text); err != nil {
		hint := ""
		if literal.Text == "" {
			hint = fmt.Sprintf("; a missing day is %s == null", underscored(string(m)))
		}
		return c.refuse(at, "%s is a day: %v%s", m, err, hint)
	}
	return nil
}

func (c *compiler) in(sides []ast.Expr) (predicate.Condition, error) {
	x, err := c.operand(sides[0])
	if err != nil {
		return nil, err
	}
	if sides[1].Kind() != ast.ListKind {
		return nil, c.refuse(sides[1], "want a list such as [\"Galway\", \"Muscat\"]")
	}
	in := predicate.In{X: x}
	for _, element := range sides[1].AsList().Elements() {
		o, err := c.operand(element)
		if err != nil {
			return nil, err
		}
		literal, fixed := o.(predicate.Literal)
		if !fixed {
			return nil, c.refuse(element, "want a fixed value in the list")
		}
		if err := errors.Join(c.dayAgainst(x, literal, element), c.alike(element, x, literal)); err != nil {
			return nil, err
		}
		in.List = append(in.List, literal)
	}
	return in, nil
}

// text is a function of a text: site.startsWith("Gal").
func (c *compiler) text(e ast.Expr, call ast.CallExpr) (predicate.Condition, error) {
	x, err := c.operand(call.Target())
	if err != nil {
		return nil, err
	}
	if c.kindOf(x) != predicate.OfText {
		return nil, c.refuse(e, "%s asks about a text", call.FunctionName())
	}
	pattern := ""
	if len(call.Args()) == 1 && call.Args()[0].Kind() == ast.LiteralKind {
		text, isText := call.Args()[0].AsLiteral().(types.String)
		if !isText {
			return nil, c.refuse(e, "want a fixed text in brackets")
		}
		pattern = string(text)
	} else {
		return nil, c.refuse(e, "want a fixed text in brackets")
	}
	decide := func(decides func(text, pattern string) bool) (predicate.Condition, error) {
		return predicate.Text{X: x, Function: call.FunctionName(), Pattern: pattern,
			Decides: func(text string) bool { return decides(text, pattern) }}, nil
	}
	switch call.FunctionName() {
	case "startsWith":
		return decide(strings.HasPrefix)
	case "endsWith":
		return decide(strings.HasSuffix)
	case "contains":
		return decide(strings.Contains)
	case "matches":
		compiled, err := regexp.Compile(pattern)
		if err != nil {
			return nil, c.refuse(call.Args()[0], "%v", err)
		}
		return predicate.Matches(x, compiled), nil
	}
	return nil, c.refuse(e, "%s cannot be asked here; want startsWith, endsWith, contains or matches", call.FunctionName())
}

func (c *compiler) operand(e ast.Expr) (predicate.Operand, error) {
	switch e.Kind() {
	case ast.IdentKind:
		if o, known := c.names[e.AsIdent()]; known {
			return o, nil
		}
	case ast.LiteralKind:
		switch v := e.AsLiteral().(type) {
		case types.String:
			return predicate.Literal{Kind: predicate.OfText, Text: string(v)}, nil
		case types.Int:
			return predicate.Literal{Kind: predicate.OfNumber, Number: float64(v)}, nil
		case types.Uint:
			return predicate.Literal{Kind: predicate.OfNumber, Number: float64(v)}, nil
		case types.Double:
			return predicate.Literal{Kind: predicate.OfNumber, Number: float64(v)}, nil
		case types.Null:
			return predicate.Literal{Kind: predicate.Missing}, nil
		}
	case ast.SelectKind:
		return c.column(e)
	case ast.CallKind:
		call := e.AsCall()
		if call.FunctionName() == operators.Negate && len(call.Args()) == 1 {
			if o, err := c.operand(call.Args()[0]); err == nil {
				if literal, ok := o.(predicate.Literal); ok && literal.Kind == predicate.OfNumber {
					literal.Number = -literal.Number
					return literal, nil
				}
			}
		}
		if call.FunctionName() == "field" {
			return c.named(call.Args()[0])
		}
		if _, counts := lengths[call.FunctionName()]; counts {
			return c.length(e, call)
		}
		switch call.FunctionName() {
		case "size":
			return c.size(e, call)
		case stateFunction:
			l, err := c.leg(e, call)
			return predicate.State{Leg: l}, err
		}
		return nil, c.refuse(e, "%s cannot be asked of an order; want a field, a milestone, a length or a fixed value", call.FunctionName())
	}
	return nil, c.refuse(e, "want a field, a milestone, a length or a fixed value")
}

// named is field("…"), for names that cannot be written by themselves.
func (c *compiler) named(e ast.Expr) (predicate.Operand, error) {
	name, isText := types.String(""), false
	if e.Kind() == ast.LiteralKind {
		name, isText = e.AsLiteral().(types.String)
	}
	if !isText {
		return nil, c.refuse(e, "want the name of a field in quotes")
	}
	if _, known := c.book.ParseField(string(name)); known {
		return predicate.Field(name), nil
	}
	if milestone.Index(c.book.Milestones(), string(name)) >= 0 {
		return predicate.Day(name), nil
	}
	return nil, c.refuse(e, "there is no field and no milestone %q", string(name))
}

// size is the number of a text's characters, as code points after NFC, or of an order's lines, shipments or payments.
func (c *compiler) size(e ast.Expr, call ast.CallExpr) (predicate.Operand, error) {
	sized := call.Target()
	if !call.IsMemberFunction() {
		sized = call.Args()[0]
	}
	if part, is := c.part(sized); is {
		return predicate.Count{Of: part}, nil
	}
	x, err := c.operand(sized)
	if err != nil {
		return nil, err
	}
	if _, fixed := x.(predicate.Literal); fixed || c.kindOf(x) != predicate.OfText {
		return nil, c.refuse(e, "size asks about a text of the order, or about its lines, shipments or payments")
	}
	return predicate.Size{X: x, Measure: func(text string) int { return utf8.RuneCountInString(norm.NFC.String(text)) }}, nil
}

// leg is what the first two words of a function name.
func (c *compiler) leg(e ast.Expr, call ast.CallExpr) (leg.Leg, error) {
	var ends [2]string
	for i := range ends {
		o, err := c.operand(call.Args()[i])
		if err != nil {
			return leg.Leg{}, err
		}
		m, isDay := o.(predicate.Day)
		if !isDay {
			return leg.Leg{}, c.refuse(call.Args()[i], "%s counts from one milestone to another; want one of %s", call.FunctionName(),
				strings.Join(milestone.Names(c.book.Milestones()), ", "))
		}
		ends[i] = string(m)
	}
	l, isLeg := predicate.LegOf(c.book.Milestones(), ends[0], ends[1])
	if !isLeg {
		return leg.Leg{}, c.refuse(e, "a leg goes from one milestone to another; these are the same")
	}
	return l, nil
}

// length is the length of a leg: working_days(ordered, shipped), or with a count rule as its third word and the side
// whose calendar counts as its fourth.
func (c *compiler) length(e ast.Expr, call ast.CallExpr) (predicate.Operand, error) {
	l, err := c.leg(e, call)
	if err != nil {
		return nil, err
	}
	how := lengths[call.FunctionName()]
	length := predicate.Length{Leg: l, Measure: leg.Measure{Unit: how.unit}, SoFar: how.soFar}
	fixed := func(i int) string {
		if call.Args()[i].Kind() != ast.LiteralKind {
			return ""
		}
		text, _ := call.Args()[i].AsLiteral().(types.String)
		return string(text)
	}
	if len(call.Args()) > 2 {
		if length.Measure.Rule, err = leg.ParseRule(fixed(2)); err != nil {
			return nil, c.refuse(call.Args()[2], "want a count rule, %q or %q", leg.RuleNames()[0], leg.RuleNames()[1])
		}
	}
	if len(call.Args()) > 3 {
		side := slices.Index(book.CalendarSourceNames(), fixed(3))
		if side < 0 || book.CalendarSource(side) == book.AtDestination && how.unit == leg.WorkingHours {
			return nil, c.refuse(call.Args()[3], "want whose calendar counts, %q, or but for working hours %q",
				book.CalendarSourceNames()[0], book.CalendarSourceNames()[1])
		}
		length.Side = book.CalendarSource(side)
	}
	if err := length.Measure.Check(); err != nil {
		return nil, c.refuse(e, "%v", err)
	}
	return length, nil
}

// Names lists the names that a condition asks for, with hyphens, whether or not a book has them; nothing where the text
// cannot be read.
func Names(text string) (names []string) {
	env, err := cel.NewEnv(cel.ParserExpressionSizeLimit(Longest), cel.ParserRecursionLimit(200))
	if err != nil {
		return nil
	}
	parsed, issues := env.Parse(text)
	if issues.Err() != nil {
		return nil
	}
	add := func(name string) {
		if name = strings.ReplaceAll(name, "_", "-"); !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	ast.PreOrderVisit(parsed.NativeRep().Expr(), ast.NewExprVisitor(func(e ast.Expr) {
		switch {
		case e.Kind() == ast.IdentKind:
			add(e.AsIdent())
		case e.Kind() == ast.CallKind && e.AsCall().FunctionName() == "field" && len(e.AsCall().Args()) == 1 &&
			e.AsCall().Args()[0].Kind() == ast.LiteralKind:
			if name, isText := e.AsCall().Args()[0].AsLiteral().(types.String); isText {
				add(string(name))
			}
		}
	}))
	return names
}
