// Package spelling finds what somebody who mistyped a word is likely to have meant.
package spelling

import (
	"fmt"
	"strings"
)

// far is the number of letters from which on two words have nothing to do with each other.
const far = 3

// Nearest is the known word that is fewest letters away, and at most two; empty where there is none. Capitals play no part.
func Nearest(word string, known []string) string {
	best, least := "", far
	for _, k := range known {
		if d := Distance(strings.ToLower(word), strings.ToLower(k)); d < least {
			best, least = k, d
		}
	}
	return best
}

// most is how many words one reads.
const most = 20

// Want says what was expected in place of a word: the nearest known one, else all that there are, or the first of very many.
func Want(word string, known []string) string {
	if near := Nearest(word, known); near != "" {
		return "did you mean " + near + "?"
	}
	if len(known) > most {
		return fmt.Sprintf("want one of %s, … (%d in all)", strings.Join(known[:most], ", "), len(known))
	}
	return "want one of " + strings.Join(known, ", ")
}

// Distance is the number of letters that differ between two words: Levenshtein, "Binary codes capable of correcting deletions,
// insertions and reversals", 1966.
func Distance(a, b string) int {
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := range len(a) {
		last := row[0]
		row[0] = i + 1
		for j := range len(b) {
			cost := last
			if a[i] != b[j] {
				cost++
			}
			last = row[j+1]
			row[j+1] = min(cost, row[j]+1, last+1)
		}
	}
	return row[len(b)]
}
