package present

import (
	"slices"
	"strings"

	"prairiedusk/internal/answer"
)

// The weights of notes: what changes the whole answer comes first, then what concerns some of its orders, then how its words are
// meant.
const (
	ofAll = iota
	ofSome
	ofWords
)

// ofAllCodes begin the codes of notes that concern the whole answer.
var ofAllCodes = []string{"as-of", "what-if", "part-period", "source-stops", "book-begins", "no-final", "apart", "empty-steps", "no-curve",
	"nothing", "reading", "other-number", "no-reading", "differ"}

// WeighNotes puts the notes of a document into the order of their weight. One that several parts have in the same words, and that
// opens no orders, stands once, in the last of them.
func WeighNotes(d *answer.Document) {
	weight := func(n answer.Note) int {
		switch {
		case slices.ContainsFunc(ofAllCodes, func(code string) bool { return strings.HasPrefix(n.Code, code) }):
			return ofAll
		case n.Orders > 0:
			return ofSome
		}
		return ofWords
	}
	seen := map[string]bool{}
	for i := range slices.Backward(d.Parts) {
		notes := &d.Parts[i].Notes
		*notes = slices.DeleteFunc(*notes, func(n answer.Note) bool {
			again := n.Orders == 0 && seen[n.Text]
			seen[n.Text] = true
			return again
		})
		slices.SortStableFunc(*notes, func(a, b answer.Note) int { return weight(a) - weight(b) })
	}
}
