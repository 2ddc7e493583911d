// Package labels turns labels as people write them into fields of the book. Labels can build on each other, in any order,
// but not in a circle.
package labels

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/label"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/filter"
)

// A Definition is a label as it is written and kept.
type Definition struct {
	Name    string `json:"name"`
	Rules   []Rule `json:"rules"`
	Rest    string `json:"rest"`
	Missing string `json:"missing"`
}

// Texts are those that orders can get.
func (d Definition) Texts() []string {
	texts := []string{d.Rest, d.Missing}
	for _, rule := range d.Rules {
		texts = append(texts, rule.Text)
	}
	return texts
}

// A Rule gives a text to orders that meet a condition in CEL.
type Rule struct {
	Where string `json:"where"`
	Text  string `json:"text"`
}

// An Error says which label cannot be, and why.
type Error struct {
	Label string
	Err   error
}

func (e *Error) Error() string { return fmt.Sprintf("label %q: %v", e.Label, e.Err) }

func (e *Error) Unwrap() error { return e.Err }

const (
	mostRules = 50
	mostText  = 200
)

var (
	named = regexp.MustCompile(`^[a-z][a-z0-9-]{0,59}$`)
	// reserved words mean something else in a list or a question.
	reserved = []string{"number", "value", "length", "state", "week", "month", "quarter", "year", "lines", "shipments", "payments",
		"data-date", "first-day"}
)

// Name is the name of a label as fields have them: "Payment state" is payment-state.
func Name(text string) string {
	words := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return r == ' ' || r == '_' || r == '-' })
	return strings.Join(words, "-")
}

// check looks at a definition by itself: its name, its texts and how many rules it has.
func (d Definition) check() error {
	switch {
	case !named.MatchString(d.Name):
		return errors.New("want a name of small letters, digits and hyphens that begins with a letter, such as payment-state")
	case slices.Contains(reserved, d.Name):
		return errors.New("this word means something else; want another name")
	case len(d.Rules) == 0:
		return errors.New("it has no condition; want at least one")
	case len(d.Rules) > mostRules:
		return fmt.Errorf("it has %d conditions; want at most %d", len(d.Rules), mostRules)
	}
	texts := []string{d.Rest, d.Missing}
	for i, r := range d.Rules {
		if strings.TrimSpace(r.Text) == "" {
			return fmt.Errorf("condition %d has no text; want one", i+1)
		}
		texts = append(texts, r.Text)
	}
	for _, text := range texts {
		if len(text) > mostText {
			return fmt.Errorf("the text %.20q… has %d bytes; want at most %d", text, len(text), mostText)
		}
	}
	return nil
}

// Apply is the book with all labels as fields, and the labels that cannot be, each an *Error: one that refers to itself,
// directly or through others, to a field that is gone, or that bears the name of a field.
func Apply(b *book.Book, all []Definition, decimals func(currency string) int) (*book.Book, []error) {
	var refused []error
	waiting := slices.Clone(all)
	for len(waiting) > 0 {
		var later []Definition
		for _, d := range waiting {
			if refersTo(d, waiting) {
				later = append(later, d)
				continue
			}
			l, err := Parse(b, d)
			if err != nil {
				refused = append(refused, err)
				continue
			}
			b = label.Apply(b, l, decimals)
		}
		if len(later) == len(waiting) { // each waits for another
			for _, d := range later {
				refused = append(refused, &Error{d.Name, circle(d, later)})
			}
			break
		}
		waiting = later
	}
	return b, refused
}

// refersTo says whether a label asks about one of some labels.
func refersTo(d Definition, some []Definition) bool {
	return slices.ContainsFunc(some, func(other Definition) bool { return asks(d, other.Name) })
}

// asks says whether a label asks about a field.
func asks(d Definition, field string) bool {
	return slices.ContainsFunc(d.Rules, func(r Rule) bool { return slices.Contains(filter.Names(r.Where), field) })
}

// circle says how a label comes to refer to itself.
func circle(d Definition, among []Definition) error {
	if asks(d, d.Name) {
		return errors.New("it refers to itself")
	}
	for _, other := range among {
		if asks(d, other.Name) {
			return fmt.Errorf("it refers to the label %q, which refers to itself or back to this one", other.Name)
		}
	}
	return errors.New("it refers to itself")
}

// Parse understands a label against a book that has the fields it asks about. The error is an *Error.
func Parse(b *book.Book, d Definition) (label.Label, error) {
	l := label.Label{Name: d.Name, Rest: d.Rest, Missing: d.Missing}
	if err := d.check(); err != nil {
		return l, &Error{d.Name, err}
	}
	if _, taken := b.ParseField(d.Name); taken || milestone.Index(b.Milestones(), d.Name) >= 0 {
		return l, &Error{d.Name, errors.New("orders have a field or milestone of this name already; want another name")}
	}
	for i, r := range d.Rules {
		c, err := filter.Parse(b, r.Where)
		if err != nil {
			return l, &Error{d.Name, fmt.Errorf("condition %d, %w", i+1, err)}
		}
		l.Rules = append(l.Rules, label.Rule{When: c.Predicate, Text: r.Text})
	}
	return l, nil
}

// Users are the labels that ask about this one.
func Users(name string, all []Definition) (names []string) {
	for _, d := range all {
		if d.Name != name && asks(d, name) {
			names = append(names, d.Name)
		}
	}
	return names
}

// With is the definitions with one more, or with another in the place of the one of its name.
func With(all []Definition, d Definition) []Definition {
	all = slices.DeleteFunc(slices.Clone(all), func(other Definition) bool { return other.Name == d.Name })
	return append(all, d)
}
