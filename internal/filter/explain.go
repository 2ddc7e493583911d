package filter

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/spelling"
)

// looksLike is a condition for those who have not written one.
const looksLike = `a condition looks like site == "Galway" && paid == null`

// An explanation says in words about the condition what the language's parser or checker says in words of its own.
type explanation struct {
	of *regexp.Regexp // of the message
	in *regexp.Regexp // of the condition; nil is any
	// says is the explanation, with what both have found: first in the message, then in the condition.
	says func(found []string) string
}

// as is an explanation with what was found in place of its %s.
func as(format string) func([]string) string {
	return func(found []string) string {
		values := make([]any, strings.Count(format, "%"))
		for i := range values {
			values[i] = found[i]
		}
		return fmt.Sprintf(format, values...)
	}
}

// wordsFor are what people write for the signs of the language.
var wordsFor = map[string]string{"and": "&&", "or": "||", "not": "!", "is": "==", "equals": "==", "=>": ">=", "=<": "<=", "<>": "!="}

func misplaced(found []string) string {
	switch word := strings.Trim(found[0], "'"); {
	case wordsFor[strings.ToLower(word)] != "":
		return fmt.Sprintf("write %s for %q", wordsFor[strings.ToLower(word)], word)
	case strings.EqualFold(word, "like"), strings.EqualFold(word, "contains"):
		return fmt.Sprintf(`%q is not a comparison; write customer.contains("Ridge")`, word)
	default:
		return fmt.Sprintf("%s does not belong here; %s", word, looksLike)
	}
}

// explanations are tried one after another.
var explanations = []explanation{
	{regexp.MustCompile(`token recognition error at: '=`), nil, as(`"=" is not a comparison; write ==`)},
	{regexp.MustCompile(`token recognition error at: '(["'].*)'$`), nil, as("the text %s has no closing quote")},
	{regexp.MustCompile(`token recognition error at: '(.)'?`), nil, as("%s does not belong here; " + looksLike)},
	{regexp.MustCompile(`missing '(.)' at`), nil, as("a closing %s is missing")},
	{regexp.MustCompile(`(?:mismatched|extraneous|viable alternative at) input '<EOF>'`), nil,
		as("the condition stops too early; " + looksLike)},
	{regexp.MustCompile(`(?:mismatched|extraneous) input '([^']+)'`), nil, misplaced},
	{regexp.MustCompile(`no viable alternative at input '.*?(\S+)'$`), nil, misplaced},
	{regexp.MustCompile(`overload for '_(?:[=!]=|[<>]=?)_'`), regexp.MustCompile(`[^"'\d](\d{4}-\d\d-\d\d)(?:[^"'\d]|$)`), as(`a day needs quotes: "%s"`)},
	{regexp.MustCompile(`overload for '_([=!<>]+)_' applied to '\((.*), (.*)\)'`), nil, func(found []string) string {
		return fmt.Sprintf("%s cannot be compared with %s", kindOf(found[1]), kindOf(found[2]))
	}},
	{regexp.MustCompile(`overload for '_(.+)_'`), nil, as("%s stands between two conditions, or two numbers")},
	{regexp.MustCompile(`overload for '(\w+)' applied`), nil, func(found []string) string {
		if _, is := lengths[found[0]]; is {
			return fmt.Sprintf("%[1]s takes two dates, such as %[1]s(ordered, shipped)", found[0])
		}
		return found[0] + " does not take these values"
	}},
}

// kindOf is what a type of the language is called.
func kindOf(of string) string {
	switch {
	case strings.Contains(of, "string"):
		return "a text or a day"
	case strings.Contains(of, "int"), strings.Contains(of, "double"):
		return "a number"
	case strings.Contains(of, "bool"):
		return "a condition"
	}
	return "this"
}

var undeclared = regexp.MustCompile(`^undeclared reference to '([^']+)'`)

// explained says what is wrong with a condition, whose parser or checker gave a message.
func (all names) explained(text, message string) string {
	if match := undeclared.FindStringSubmatch(message); match != nil {
		return all.unknown(text, match[1])
	}
	for _, e := range explanations {
		found := e.of.FindStringSubmatch(message)
		if found == nil {
			continue
		}
		found = found[1:]
		if e.in != nil {
			in := e.in.FindStringSubmatch(text)
			if in == nil {
				continue
			}
			found = append(found, in[1:]...)
		}
		return e.says(found)
	}
	return "this is not understood; " + looksLike
}

// unknown says that there is no such name, and what may have been meant.
func (all names) unknown(text, name string) string {
	known := append(append(Functions(), stateFunction), book.PartNames()...)
	for word := range found {
		known = append(known, word)
	}
	for name := range all {
		known = append(known, name)
	}
	slices.Sort(known)
	if near := spelling.Nearest(name, known); near != "" {
		return fmt.Sprintf("there is no %q here; did you mean %s?", name, near)
	}
	compared := regexp.MustCompile(`(\w+)\s*(==|!=)\s*` + regexp.QuoteMeta(name) + `\b`).FindStringSubmatch(text)
	if compared != nil {
		return fmt.Sprintf("text needs quotes: %s %s %q", compared[1], compared[2], name)
	}
	return fmt.Sprintf("there is no field, date or number %q; prairie-dusk book lists them", name)
}
