// Package present turns the words of a question into the core's question, and its figures into a document: all wording of answers
// is here. It also knows which orders stand behind each number of each document.
package present

import (
	"fmt"
	"net/url"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/filter"
	"prairiedusk/internal/money"
	"prairiedusk/internal/params"
)

// A Size bounds a document: a few words can ask for any number of figures.
type Size struct {
	Rows  int // of a table; the first are there
	Cells int // of all tables
}

// The sizes of what people read, of a file, and of what is compared, which has addresses and all rows.
var (
	ToRead    = Size{2000, 200_000}
	ToKeep    = Size{1 << 30, 4_000_000}
	ToCompare = Size{1 << 20, 4_000_000}
)

// fits refuses a document of too many cells; the word and its value are those that make it long.
func (s Size) fits(cells int, word, value string) error {
	if cells <= s.Cells {
		return nil
	}
	return request.Invalid(word, value, fmt.Sprintf("the answer would hold %s numbers, and one holds at most %s; want fewer periods, wider steps, a coarser grouping, or a condition that picks fewer orders",
		numfmt.Count(cells), numfmt.Count(s.Cells)))
}

// keeps says that a file is made, which has no addresses and nothing that only a picture is drawn from.
func (s Size) keeps() bool { return s == ToKeep }

// newDocument begins a document.
func newDocument(b *book.Book, analysis string, sentence query.Sentence) *answer.Document {
	d := &answer.Document{Analysis: analysis, Version: b.Version(), FirstDay: b.Bounds().FirstDay.String(),
		DataDate: b.Bounds().DataDate.String(), Parts: []answer.Part{}}
	say(d, sentence)
	return d
}

// say gives a document its sentence.
func say(d *answer.Document, sentence query.Sentence) {
	for _, p := range sentence {
		d.Sentence = append(d.Sentence, answer.Word{Text: p.Text, Slot: p.Slot})
	}
}

func newPart(title string) answer.Part {
	return answer.Part{Title: title, Tables: []answer.Table{}, Lines: []answer.Line{}, Notes: []answer.Note{}}
}

// A behind makes the addresses of the orders behind an answer's numbers.
type behind string

// behindOf begins the addresses of an analysis with its question; how an answer is written plays no part. A file has none.
func (s Size) behindOf(analysis string, in any) behind {
	if s.keeps() {
		return ""
	}
	words := params.Values(in)
	words.Del("format")
	return behind(analysis + "?" + words.Encode())
}

// of is the address with further words, as names and values by turns.
func (b behind) of(words ...string) answer.Address {
	if b == "" {
		return ""
	}
	var address strings.Builder
	address.WriteString(string(b))
	for i := 0; i < len(words); i += 2 {
		if last := address.String(); last[len(last)-1] != '?' {
			address.WriteByte('&')
		}
		address.WriteString(words[i] + "=" + url.QueryEscape(words[i+1]))
	}
	return answer.Address(address.String())
}

// within is the same about one of several periods.
func (b behind) within(period string) behind {
	if b == "" {
		return ""
	}
	name, text, _ := strings.Cut(string(b), "?")
	words, _ := url.ParseQuery(text) // made above
	if period == "" {
		words.Del("period")
	} else {
		words.Set("period", period)
	}
	return behind(name + "?" + words.Encode())
}

// group adds the keys of a group.
func (b behind) group(keys []string) behind {
	words := make([]string, 0, 2*len(keys))
	for _, key := range keys {
		words = append(words, "group", key)
	}
	return behind(b.of(words...))
}

// named are the keys of a group as people read them.
func named(keys []string) (cells []answer.Cell) {
	for _, key := range keys {
		if key == "" {
			key = "(none)"
		}
		cells = append(cells, answer.Words(key))
	}
	return cells
}

// keyColumns are those of the groupings of a question; one of all orders where it has none.
func keyColumns(by []query.Grouping, none string) (columns []answer.Column) {
	for _, g := range by {
		columns = append(columns, answer.Column{Code: g.String(), Heading: g.Heading(), Kind: answer.Text})
	}
	if len(by) == 0 {
		columns = []answer.Column{{Code: "all", Heading: none, Kind: answer.Text}}
	}
	return columns
}

// leftOut are the orders that the period and the condition leave out, by reason; codes are picks of placed.
func leftOut(p query.Population, basis query.Question, to behind) (terms []answer.Term) {
	for _, t := range p.Terms(basis.Basis) {
		if t.Code != string(query.Asked) && t.Orders > 0 {
			terms = append(terms, answer.Term{Label: t.Label, Orders: t.Orders, Behind: to.of("placed", t.Code)})
		}
	}
	return terms
}

// metByMissing is the note on orders that lack one of two values that a condition compares with !=; none where there are none.
func metByMissing(n int, to behind) []answer.Note {
	if n == 0 {
		return nil
	}
	return []answer.Note{{Code: "unequal-missing", Orders: n, Text: fmt.Sprintf(query.MetByMissingText,
		numfmt.Counted(n, "selected order")), Behind: to.of("note", "unequal-missing")}}
}

// Condition understands a condition, which stands under a word of the request; an empty one picks all orders. The error is a
// *request.Error.
func Condition(b *book.Book, word, text string) (query.Where, error) {
	if text == "" {
		return query.Where{}, nil
	}
	parsed, err := filter.Parse(b, text)
	if err != nil {
		return query.Where{}, request.Invalid(word, text, err.Error())
	}
	return query.Where{Text: parsed.Text, Condition: parsed.Predicate, Decimals: Decimals}, nil
}

// Decimals is how many minor units a currency's unit has; whoever read its code has checked it.
func Decimals(currency string) int {
	decimals, _ := money.Decimals(currency)
	return decimals
}

// A cause is a parameter that makes an answer long.
type cause struct{ word, value string }

// page are the rows of a page of a long list, and how many come before them; a file, and what is compared, has the whole list, which
// fits refuses where it would not fit. The cause is what makes it long.
func page[T any](all []T, p api.Page, columns int, size Size, by cause) (rows []T, offset int, err error) {
	if size != ToRead {
		return all, 0, size.fits(len(all)*columns, by.word, by.value)
	}
	from := min(p.Offset, len(all))
	return all[from:min(from+p.Limit, len(all))], p.Offset, nil
}

// first are the first rows of a table.
func first[T any](all []T, size Size) []T { return all[:min(len(all), size.Rows)] }

// standIns is the book with the dates that words name, such as invoiced-or-shipped.
func standIns(b *book.Book, words map[string]string) (*book.Book, error) {
	for word, name := range words {
		next, err := b.WithStandIns(name)
		if err != nil {
			return b, request.Invalid(word, name, err.Error())
		}
		b = next
	}
	return b, nil
}
