package server

import (
	"fmt"

	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/request"
)

const (
	// mostGroups is how many groups an answer sends, and how many rows and columns; a file has all.
	mostGroups = 2000
	// mostCells and mostFileCells bound the numbers of an answer and of a file of one: nobody reads more, and a few words can ask
	// for any number of them.
	mostCells     = 200_000
	mostFileCells = 4_000_000
)

// fits refuses an answer of too many numbers; the word and its value are those that make it long.
func fits(cells, most int, word, value string) error {
	if cells <= most {
		return nil
	}
	return request.Invalid(word, value, fmt.Sprintf("the answer would hold %s numbers, and one holds at most %s; want fewer periods, wider steps, a coarser grouping, or a condition that picks fewer orders",
		numfmt.Count(cells), numfmt.Count(most)))
}
