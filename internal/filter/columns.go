package filter

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/request"
)

// mostColumns bounds a list.
const mostColumns = 80

// Length and State are columns that show the leg of the question; Number is that of the order.
const (
	Length = "length"
	State  = "state"
	Number = "number"
)

// DefaultColumns are those of a list of which no columns are asked for: who, when, how long, and what became of it.
func DefaultColumns(b *book.Book, q duration.Question) string {
	columns := []string{Number, "customer", "site"}
	add := func(name string) {
		if !slices.Contains(columns, name) {
			columns = append(columns, name)
		}
	}
	add(q.Leg.From.Name)
	if promised := milestone.Index(b.Milestones(), milestone.Promised); promised >= 0 {
		if first, _ := b.Range(promised); first != 0 {
			add(milestone.Promised)
		}
	}
	add(q.Leg.To.Name)
	return strings.Join(append(columns, Length, State), ", ")
}

// ParseColumns reads the columns of a list, with commas between them: each a field, a milestone, "length", "state", a
// column of an order's parts such as lines.product, or anything that a condition can ask about, conditions among them.
// A heading of one's own follows with as "…", a width in pixels with wide N. The error is a *request.Error.
func ParseColumns(b *book.Book, q duration.Question, text string) ([]list.Column, error) {
	if strings.TrimSpace(text) == "" {
		text = DefaultColumns(b, q)
	}
	refuse := func(format string, values ...any) error {
		return request.Invalid("columns", text, fmt.Sprintf(format, values...))
	}
	var columns []list.Column
	for _, piece := range split(text) {
		column, err := parseColumn(b, q, piece)
		if err != nil {
			return nil, refuse("%v", err)
		}
		if slices.ContainsFunc(columns, func(c list.Column) bool { return c.Heading == column.Heading }) {
			return nil, refuse("two columns are headed %q; give one another heading with as \"…\"", column.Heading)
		}
		columns = append(columns, column)
	}
	if len(columns) > mostColumns {
		return nil, refuse("%d columns; want at most %d", len(columns), mostColumns)
	}
	return columns, nil
}

var (
	headed = regexp.MustCompile(`^(.*\S)\s+as\s+("(?:[^"\\]|\\.)*")$`)
	wide   = regexp.MustCompile(`^(.*\S)\s+wide\s+(\d{1,4})$`)
)

func parseColumn(b *book.Book, q duration.Question, text string) (c list.Column, err error) {
	text = strings.TrimSpace(text)
	if match := wide.FindStringSubmatch(text); match != nil {
		text = match[1]
		c.Width, _ = strconv.Atoi(match[2])
	}
	if match := headed.FindStringSubmatch(text); match != nil {
		text = match[1]
		if c.Heading, err = strconv.Unquote(match[2]); err != nil || strings.TrimSpace(c.Heading) == "" {
			return c, fmt.Errorf("%s is no heading", match[2])
		}
		c.Own = true
	}
	if c.Text = text; text == "" {
		return c, errors.New("a column is empty")
	}
	heading := ""
	switch {
	case text == Length:
		c.Operand, heading = predicate.Length{Leg: q.Leg, Measure: q.Measure, Side: q.Calendar}, q.Heading()
	case text == State:
		c.Operand = predicate.State{Leg: q.Leg}
	default:
		var found bool
		if c.Operand, found = named(b, text); found {
			break
		}
		if c.Operand, found, err = ofPart(b, text); err != nil || found {
			break
		}
		var notUnderstood *Error
		c.Operand, c.Condition, err = ParseOperand(b, text)
		if errors.As(err, &notUnderstood) {
			return c, fmt.Errorf("%q is no column: %w", text, err)
		}
	}
	switch {
	case err != nil || c.Heading != "":
	case heading != "":
		c.Heading = heading
	default:
		c.Heading = headingOf(b, c)
	}
	return c, err
}

// named is a field, milestone or part by its plain name, hyphens and all.
func named(b *book.Book, text string) (predicate.Operand, bool) {
	if i := slices.Index(book.PartNames(), text); i >= 0 {
		return predicate.Count{Of: book.Part(i)}, true
	}
	if _, known := b.ParseField(text); known {
		return predicate.Field(text), true
	}
	if milestone.Index(b.Milestones(), text) >= 0 {
		return predicate.Day(text), true
	}
	if slices.Contains(b.NumberNames(), text) {
		return predicate.Told(text), true
	}
	return nil, false
}

// ofPart is lines.product; hyphens or underscores.
func ofPart(b *book.Book, text string) (predicate.Operand, bool, error) {
	part, name, dotted := strings.Cut(text, ".")
	of := slices.Index(book.PartNames(), part)
	if !dotted || of < 0 || !identifier.MatchString(underscored(name)) {
		return nil, false, nil
	}
	var names []string
	for _, column := range b.PartColumns(book.Part(of)) {
		if underscored(column.Name) == underscored(name) {
			return predicate.PartColumn{Of: book.Part(of), Name: column.Name}, true, nil
		}
		names = append(names, column.Name)
	}
	return nil, false, fmt.Errorf("%s have no %q; want one of %s", part, name, strings.Join(names, ", "))
}

// PartColumn is lines.product, hyphens or underscores.
func PartColumn(b *book.Book, text string) (predicate.PartColumn, bool) {
	o, found, err := ofPart(b, text)
	if !found || err != nil {
		return predicate.PartColumn{}, false
	}
	return o.(predicate.PartColumn), true
}

// PartValues are the values of a column of parts that repeat; nothing for others.
func PartValues(b *book.Book, c predicate.PartColumn) []string {
	for at, column := range b.PartColumns(c.Of) {
		if column.Name == c.Name && column.Holds == book.Coded {
			return b.PartValues(c.Of, at)[1:]
		}
	}
	return nil
}

// ParseSort reads what a list is sorted by, with commas in between: headings or texts of its columns, or anything that
// could be a column, each with a leading minus for descending. Empty text is by number. The error is a *request.Error.
func ParseSort(b *book.Book, q duration.Question, columns []list.Column, text string) ([]list.Key, error) {
	if strings.TrimSpace(text) == "" {
		text = Number
	}
	var keys []list.Key
	for _, piece := range split(text) {
		name, descending := strings.CutPrefix(strings.TrimSpace(piece), "-")
		key := list.Key{Descending: descending}
		i := slices.IndexFunc(columns, func(c list.Column) bool { return c.Heading == name || c.Text == name })
		if i >= 0 {
			key.Column = columns[i]
		} else {
			var err error
			if key.Column, err = parseColumn(b, q, name); err != nil {
				return nil, request.Invalid("sort", text, fmt.Sprintf("%q is not a key to sort by: %v", name, err))
			}
		}
		if slices.ContainsFunc(keys, func(k list.Key) bool { return k.Column.Text == key.Column.Text }) {
			return nil, request.Invalid("sort", text, fmt.Sprintf("%q stands twice", name))
		}
		keys = append(keys, key)
	}
	return keys, nil
}

// Styles are what highlights look like; each has a sign and words besides its colour.
var Styles = []string{"amber", "teal", "plum", "faint"}

// A Highlight is a highlight as it was written.
type Highlight struct {
	Style string
	Where string // the condition
	list.Highlight
}

var highlight = regexp.MustCompile(`(?s)^([a-z]+)\s*(?::\s|on\s+)`)

// ParseHighlights reads highlights: "amber: CONDITION" for rows, "amber on COLUMN: CONDITION" for the cells of a column by its
// heading or text. The error is a *request.Error.
func ParseHighlights(b *book.Book, columns []list.Column, texts []string) ([]Highlight, error) {
	var all []Highlight
	for _, text := range texts {
		text = strings.TrimSpace(text)
		match := highlight.FindStringSubmatch(text)
		if match == nil || !slices.Contains(Styles, match[1]) {
			return nil, request.Invalid("highlight", text,
				fmt.Sprintf("want one of %s, perhaps \"on\" a column, then a colon and a condition: amber: promised < data_date && shipped == null", strings.Join(Styles, ", ")))
		}
		h := Highlight{Style: match[1], Where: text[len(match[0]):], Highlight: list.Highlight{Column: -1}}
		if !strings.HasSuffix(strings.TrimSpace(match[0]), ":") {
			if h.Column, h.Where = onColumn(columns, h.Where); h.Column < 0 {
				return nil, request.Invalid("highlight", text,
					fmt.Sprintf("the list has no column %q; want its heading or what it shows, then a colon and a condition", h.Where))
			}
		}
		condition, err := Parse(b, h.Where)
		if err != nil {
			return nil, request.Invalid("highlight", text, err.Error())
		}
		h.Condition = condition.Predicate
		all = append(all, h)
	}
	return all, nil
}

// onColumn takes the column off what follows "on"; of several that could be meant, the longest. Where none is meant, it
// gives what stands in its place.
func onColumn(columns []list.Column, text string) (column int, rest string) {
	column, longest := -1, -1
	for i, c := range columns {
		for _, name := range []string{c.Heading, c.Text} {
			if after, found := strings.CutPrefix(text, name); found && len(name) > longest {
				if where, colon := strings.CutPrefix(strings.TrimSpace(after), ":"); colon {
					column, rest, longest = i, strings.TrimSpace(where), len(name)
				}
			}
		}
	}
	if column < 0 {
		rest, _, _ = strings.Cut(text, ":")
	}
	return column, rest
}

// split cuts a text at its commas, but for those in quotes and brackets.
func split(text string) (pieces []string) {
	depth, quote, from := 0, byte(0), 0
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case quote != 0 && c == '\\':
			i++
		case quote != 0:
			if c == quote {
				quote = 0
			}
		case c == '"' || c == '\'':
			quote = c
		case strings.IndexByte("([{", c) >= 0:
			depth++
		case strings.IndexByte(")]}", c) >= 0:
			depth--
		case c == ',' && depth <= 0:
			pieces = append(pieces, text[from:i])
			from = i + 1
		}
	}
	return append(pieces, text[from:])
}
