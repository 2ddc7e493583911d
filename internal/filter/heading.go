package filter

import (
	"fmt"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
)

// headingOf is what people call what a column shows; a condition of several levels stands as it is written.
func headingOf(b *book.Book, c list.Column) string {
	switch o := c.Operand.(type) {
	case predicate.Day:
		return milestone.DateName(string(o))
	case predicate.Field:
		return spaced(string(o))
	case predicate.PartColumn:
		noun := o.Of.Noun()
		return noun + " " + spaced(strings.TrimPrefix(o.Name, noun+"-"))
	case predicate.Length:
		heading := fmt.Sprintf("%s → %s, %v", o.Leg.From.Date(), o.Leg.To.Date(), o.Measure)
		if o.SoFar {
			heading += ", so far"
		}
		return heading
	}
	if c.Condition == nil {
		return spaced(c.Text)
	}
	picks, joined, err := Picks(b, c.Text)
	if err != nil || len(picks) == 0 {
		return c.Text
	}
	words := make([]string, len(picks))
	for i, p := range picks {
		words[i] = p.words()
	}
	return strings.Join(words, map[string]string{"&&": " and ", "||": " or ", "": ""}[joined])
}

// spaced is a name for people.
func spaced(name string) string { return strings.NewReplacer("-", " ", "_", " ").Replace(name) }

// comparisonWords say how days, and whatever else, are compared.
var comparisonWords = map[string]struct{ days, others string }{
	"==": {"is", "is"}, "!=": {"is not", "is not"}, "<": {"is before", "is under"}, "<=": {"is at the latest", "is at most"},
	">": {"is after", "is over"}, ">=": {"is at the earliest", "is at least"}, "startsWith": {others: "starts with"},
	"endsWith": {others: "ends with"}, "contains": {others: "contains"}, "matches": {others: "matches"},
	Missing: {"is missing", "is missing"}, NotMissing: {"is not missing", "is not missing"},
}

// words are the pick for people.
func (p Pick) words() string {
	subject, compared := spaced(p.Subject), comparisonWords[p.Comparison].others
	if p.Kind == "day" {
		subject, compared = milestone.DateName(p.Subject), comparisonWords[p.Comparison].days
	}
	return strings.TrimSpace(subject + " " + compared + " " + p.Value)
}
