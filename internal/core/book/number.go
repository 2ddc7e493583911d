package book

import (
	"cmp"
	"slices"
	"strings"
)

// CompareNumbers is the natural order of order numbers: runs of digits compare by their value, so that
// "9" comes before "10", all else by its bytes. Numbers that differ only in leading zeros go by length.
func CompareNumbers(a, b string) int {
	whole := cmp.Compare(len(a), len(b))
	for a != "" && b != "" {
		if isDigit(a[0]) && isDigit(b[0]) {
			runA, runB := digits(a), digits(b)
			a, b = a[len(runA):], b[len(runB):]
			runA, runB = strings.TrimLeft(runA, "0"), strings.TrimLeft(runB, "0")
			if c := cmp.Or(cmp.Compare(len(runA), len(runB)), strings.Compare(runA, runB)); c != 0 {
				return c
			}
			continue
		}
		if a[0] != b[0] {
			return cmp.Compare(a[0], b[0])
		}
		a, b = a[1:], b[1:]
	}
	return cmp.Or(cmp.Compare(len(a), len(b)), whole)
}

// ranked gives the places of texts in natural order.
func ranked(texts []string) []uint32 {
	order := make([]uint32, len(texts))
	for i := range order {
		order[i] = uint32(i)
	}
	slices.SortFunc(order, func(x, y uint32) int { return CompareNumbers(texts[x], texts[y]) })
	ranks := make([]uint32, len(texts))
	for rank, i := range order {
		ranks[i] = uint32(rank)
	}
	return ranks
}

func isDigit(c byte) bool { return '0' <= c && c <= '9' }

// digits is the run of digits at the beginning of the text.
func digits(text string) string {
	end := 0
	for end < len(text) && isDigit(text[end]) {
		end++
	}
	return text[:end]
}
