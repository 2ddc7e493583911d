// Package escape keeps text from being run. A terminal is shown its control characters as escapes. Of spreadsheets, which
// run text as formulas: what leaves in a CSV file gets an apostrophe before
// it where it would be run, and loses it again when the file comes back.
package escape

import "strings"

// runs says whether a program may run a text as a formula, or whether it would be taken for one that was made harmless.
func runs(text string) bool {
	bare := strings.TrimLeft(text, "'")
	return bare != "" && strings.IndexByte("=+-@\t\r", bare[0]) >= 0
}

// Out is a text as it can leave.
func Out(text string) string {
	if runs(text) {
		return "'" + text
	}
	return text
}

// Back is the text that Out was given.
func Back(text string) string {
	if strings.HasPrefix(text, "'") && runs(text) {
		return text[1:]
	}
	return text
}
