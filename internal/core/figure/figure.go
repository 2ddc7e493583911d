// Package figure writes numbers as people read them, the same in every sentence, table and note.
package figure

import "strconv"

// Count writes a whole number with commas between thousands: "1,204".
func Count(n int) string {
	digits, sign := strconv.Itoa(n), ""
	if n < 0 {
		digits, sign = digits[1:], "-"
	}
	for i := len(digits) - 3; i > 0; i -= 3 {
		digits = digits[:i] + "," + digits[i:]
	}
	return sign + digits
}

// Counted writes a count with its noun, which takes an s for any number but one: "1 order", "1,204 orders".
func Counted(n int, noun string) string {
	if n != 1 {
		noun += "s"
	}
	return Count(n) + " " + noun
}
