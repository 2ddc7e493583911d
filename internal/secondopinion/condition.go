package secondopinion

import (
	"fmt"
	"strconv"
	"strings"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
)

// condition is a condition as SQL: true, false, or null where it cannot be decided.
func (w *writer) condition(c predicate.Condition) (string, error) {
	both := func(x, y predicate.Condition, word string) (string, error) {
		a, err := w.condition(x)
		if err != nil {
			return "", err
		}
		b, err := w.condition(y)
		return "(" + a + " " + word + " " + b + ")", err
	}
	switch c := c.(type) {
	case predicate.And:
		return both(c.X, c.Y, "AND")
	case predicate.Or:
		return both(c.X, c.Y, "OR")
	case predicate.Not:
		of, err := w.condition(c.X)
		return "NOT (" + of + ")", err
	case predicate.Always:
		return strconv.FormatBool(bool(c)), nil
	case predicate.Compare:
		return w.compare(c)
	case predicate.In:
		return w.in(c)
	case predicate.Text:
		return w.text(c)
	case predicate.Has:
		return w.shows(c)
	case predicate.Some:
		return w.some(c.Of, c.Condition, false)
	case predicate.Every:
		return w.some(c.Of, c.Condition, true)
	}
	return "", refused("where", "", "a condition on parts is not written as SQL")
}

// operand is a value of an order as SQL, and whether it is a day.
func (w *writer) operand(o predicate.Operand) (sql string, isDay bool, err error) {
	if column, is := o.(predicate.PartColumn); is {
		of, known := w.parts[column.Name]
		if !known {
			return "", false, refused("where", column.Name, "this column of parts is not written as SQL")
		}
		return of.sql, of.isDay, nil
	}
	if _, fixed := o.(predicate.Literal); w.partsAlone && !fixed {
		return "", false, refused("where", fmt.Sprintf("%T", o), "this part of the condition on status periods is not written as SQL")
	}
	switch o := o.(type) {
	case predicate.Number:
		return `"order" COLLATE "C"`, false, nil
	case predicate.Field:
		field, err := w.field(string(o))
		return field + ` COLLATE "C"`, false, err
	case predicate.Day:
		if milestone.Index(w.book.Milestones(), string(o)) >= 0 {
			return w.known(string(o)), true, nil
		}
	case predicate.Value:
		return "(worth / 10000)", false, nil
	case predicate.Told:
		number, err := w.number(o)
		return number, false, err
	case predicate.Length:
		_, length, err := w.length(o)
		return length, false, err
	case predicate.State:
		state, _, err := w.length(predicate.Length{Leg: o.Leg})
		return state, false, err
	case predicate.Count:
		count, err := w.count(o.Of)
		return count, false, err
	case predicate.Size:
		of, isDay, err := w.operand(o.X)
		if isDay {
			of = fmt.Sprintf("to_char(%s, 'YYYY-MM-DD')", of)
		}
		return fmt.Sprintf("length(normalize(%s, NFC))", of), false, err
	case predicate.Literal:
		if o.Kind == predicate.OfNumber {
			return strconv.FormatFloat(o.Number, 'f', -1, 64), false, nil
		}
		if d, err := day.Parse(o.Text); err == nil && d.String() == o.Text {
			return date(d), true, nil
		}
		return text(o.Text), false, nil
	}
	return "", false, refused("where", fmt.Sprintf("%T", o), "this part of the condition is not written as SQL")
}

// pair are two operands as SQL, both days or neither.
func (w *writer) pair(x, y predicate.Operand) (a, b string, err error) {
	a, aDay, err := w.operand(x)
	if err != nil {
		return "", "", err
	}
	b, bDay, err := w.operand(y)
	switch {
	case aDay && !bDay:
		a = fmt.Sprintf(`to_char(%s, 'YYYY-MM-DD') COLLATE "C"`, a)
	case bDay && !aDay:
		b = fmt.Sprintf(`to_char(%s, 'YYYY-MM-DD') COLLATE "C"`, b)
	}
	return a, b, err
}

func missing(o predicate.Operand) bool {
	l, is := o.(predicate.Literal)
	return is && l.Kind == predicate.Missing
}

// undecided says that nothing can be said of a value that is not there: of a length that is not counted, and of that of a text.
func undecided(o predicate.Operand) bool {
	switch o.(type) {
	case predicate.Length, predicate.Size:
		return true
	}
	return false
}

// compare compares two values. Two of which one or both are missing are never equal; what comes first of them cannot be said.
func (w *writer) compare(c predicate.Compare) (string, error) {
	if missing(c.X) {
		c.X, c.Y = c.Y, c.X
	}
	if missing(c.Y) {
		of, _, err := w.operand(c.X)
		switch {
		case undecided(c.X) && c.Operator == predicate.Equal:
			return "CASE WHEN " + of + " IS NOT NULL THEN false END", err
		case undecided(c.X) && c.Operator == predicate.Unequal:
			return "CASE WHEN " + of + " IS NOT NULL THEN true END", err
		case c.Operator == predicate.Equal:
			return of + " IS NULL", err
		case c.Operator == predicate.Unequal:
			return of + " IS NOT NULL", err
		}
		return "NULL::boolean", err
	}
	a, b, err := w.pair(c.X, c.Y)
	if err != nil {
		return "", err
	}
	either := undecided(c.X) || undecided(c.Y)
	switch c.Operator {
	case predicate.Equal:
		if either {
			return fmt.Sprintf("(%s = %s)", a, b), nil
		}
		return fmt.Sprintf("((%s = %s) IS TRUE)", a, b), nil
	case predicate.Unequal:
		if either {
			return fmt.Sprintf("(%s <> %s)", a, b), nil
		}
		return fmt.Sprintf("((%s = %s) IS NOT TRUE)", a, b), nil
	}
	sign := map[predicate.Operator]string{predicate.Less: "<", predicate.LessOrEqual: "<=", predicate.Greater: ">",
		predicate.GreaterOrEqual: ">="}[c.Operator]
	return fmt.Sprintf("(%s %s %s)", a, sign, b), nil
}

// text is a function of a text; it is null where that is missing.
func (w *writer) text(c predicate.Text) (string, error) {
	of, isDay, err := w.operand(c.X)
	if isDay {
		of = fmt.Sprintf("to_char(%s, 'YYYY-MM-DD')", of)
	}
	format := map[string]string{"startsWith": "starts_with(%s, %s)", "endsWith": "(right(%[1]s, length(%[2]s)) = %[2]s)",
		"contains": "(strpos(%s, %s) > 0)"}[c.Function]
	if format == "" {
		return "", refused("where", c.Function, "regular expressions of PostgreSQL are others")
	}
	return fmt.Sprintf(format, of, text(c.Pattern)), err
}

// in says whether a value is one of several; a missing one is only where the list says so.
func (w *writer) in(c predicate.In) (string, error) {
	var any []string
	for _, l := range c.List {
		one, err := w.compare(predicate.Compare{Operator: predicate.Equal, X: c.X, Y: l})
		if err != nil {
			return "", err
		}
		any = append(any, one)
	}
	if any == nil {
		return "false", nil
	}
	return "(" + strings.Join(any, " OR ") + ")", nil
}
