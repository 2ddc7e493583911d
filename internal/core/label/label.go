// Package label decides what stands beside an order: an ordered list of conditions, each with a text, and a text for the
// rest. The first condition that holds counts. A label becomes a field of the book.
package label

import (
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/predicate"
)

// A Label is a field that is decided by rule.
type Label struct {
	Name  string
	Rules []Rule
	Rest  string // the text where no condition holds; empty leaves the field missing
	// Missing is the text where it cannot be told: a condition is undecided before one holds. Empty leaves the field
	// missing, which is not the same as the rest.
	Missing string
}

// A Rule gives a text where its condition holds.
type Rule struct {
	When predicate.Condition
	Text string
}

// Texts are those that the label can give, each once, in the order of its rules, then that of the rest and that for what
// is missing; empty ones are left out.
func (l Label) Texts() (texts []string) {
	add := func(text string) {
		if text != "" && !slices.Contains(texts, text) {
			texts = append(texts, text)
		}
	}
	for _, r := range l.Rules {
		add(r.Text)
	}
	add(l.Rest)
	add(l.Missing)
	return texts
}

// Apply is the book with the label as one more field. The decimals of a currency say how many minor units its unit has.
func Apply(b *book.Book, l Label, decimals func(currency string) int) *book.Book {
	values := append([]string{""}, l.Texts()...)
	code := func(text string) uint32 { return uint32(slices.Index(values, text)) }
	rest, missing := code(l.Rest), code(l.Missing)
	var rules []predicate.Bound
	var codes []uint32
	for _, r := range l.Rules {
		rules, codes = append(rules, predicate.Bind(b, r.When, decimals)), append(codes, code(r.Text))
	}
	return b.With(l.Name, values, func(of book.Stretch, told []uint32) {
		var truths [predicate.Chunk]predicate.Truth
		var settled [predicate.Chunk]bool
		for from := 0; from < len(told); from += predicate.Chunk {
			chunk := told[from:min(from+predicate.Chunk, len(told))]
			clear(settled[:])
			for r, rule := range rules {
				rule.Decide(of.Block, from, truths[:len(chunk)])
				for i, truth := range truths[:len(chunk)] {
					switch {
					case settled[i] || truth == predicate.False:
					case truth == predicate.True:
						chunk[i], settled[i] = codes[r], true
					default:
						chunk[i], settled[i] = missing, true
					}
				}
			}
			for i := range chunk {
				if !settled[i] {
					chunk[i] = rest
				}
			}
		}
	})
}

// A Count is how many orders have a text; an empty text is the field missing.
type Count struct {
	Text   string
	Orders int
}

// Counts counts a label's texts in a book that has it, those that no order has with 0, and last what is missing.
func Counts(b *book.Book, l Label) []Count {
	field, _ := b.ParseField(l.Name)
	orders := make([]int, len(b.Values(field)))
	for _, block := range b.Scan() {
		for _, code := range block.Codes[field] {
			orders[code]++
		}
	}
	var counts []Count
	for _, text := range append(l.Texts(), "") {
		counts = append(counts, Count{text, orders[slices.Index(b.Values(field), text)]})
	}
	return counts
}
