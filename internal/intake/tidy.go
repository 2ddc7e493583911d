package intake

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/record"
)

// tidied counts what was not kept of cells as they stand, and what looks like a slip and was left alone.
type tidied struct {
	unseen     int    // cells with characters that nobody sees
	unseenAt   string // the first of them
	cut        []int  // by column: cells that are too long
	byCase     int    // records whose keys differ from those of others by case alone
	byCaseLike string // the first of them
}

// tidy is what is kept of a text, and counts what is not.
func (t *TableReader) tidy(text string, key bool) string {
	tidy := withoutUnseen(text, key)
	if tidy != text {
		if t.tidied.unseen++; t.tidied.unseen == 1 {
			t.tidied.unseenAt = strings.Clone(tidy)
		}
	}
	return tidy
}

// withoutUnseen is a text without the characters that nobody sees, of which two texts that look equal can differ; spaces of any
// width are one
// kind of space. Joiners, which scripts and pictures need, stay in texts that are no keys.
func withoutUnseen(text string, key bool) string {
	ascii := true
	for i := range len(text) {
		if text[i] >= utf8.RuneSelf {
			ascii = false
			break
		}
	}
	if ascii {
		return text
	}
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		switch r {
		case '\u200b', '\u200e', '\u200f', '\u2060', '\ufeff', '\u00ad', '\u061c':
			return -1
		case '\u200c', '\u200d':
			if key {
				return -1
			}
		case '\u00a0', '\u202f', '\u2007':
			return ' '
		}
		return r
	}, text))
}

// cut is a text at its longest; a note never costs an order.
func (t *TableReader) cut(text string, column int) string {
	if t.tidied.cut == nil {
		t.tidied.cut = make([]int, len(t.header))
	}
	t.tidied.cut[column]++
	const dots = "…"
	return strings.ToValidUTF8(text[:maxText-len(dots)], "") + dots
}

var withoutDigits = regexp.MustCompile(`^\d([.,]\d+)?[Ee]\+\d+$`)

// spoiled says whether a key is a long number as a spreadsheet shows it, which has lost its digits: 1.02E+05.
func spoiled(key string) bool {
	return strings.Contains(key, "+") && withoutDigits.MatchString(key)
}

func (t *TableReader) differByCase(keys string, row, earlier int) {
	if t.tidied.byCase++; t.tidied.byCase == 1 {
		t.tidied.byCaseLike = fmt.Sprintf("%q of row %d", strings.Join(strings.Split(keys, record.KeySeparator), " "), row) +
			fmt.Sprintf(" from that of row %d", earlier)
	}
}

// plainForms are those of which nothing had to be told: of CSV, neither separators nor an encoding of its own.
var plainForms = []string{"", "CSV", "XLSX", "JSON", "NDJSON", "Parquet"}

// Notes say what the file was found to be, what of it nobody sees, what was not kept of the cells of the file as they stand, and
// what looks like a slip and was left alone, when all of it has
// been read.
func (t *TableReader) Notes() (notes []string) {
	if !slices.Contains(plainForms, t.form) {
		notes = append(notes, "read as "+t.form)
	}
	if t.hidden > 0 {
		notes = append(notes, fmt.Sprintf("%s hidden in the workbook, and %s read like all others",
			numfmt.Count(t.hidden)+numfmt.Agreeing(t.hidden, " row is", " rows are"), numfmt.Agreeing(t.hidden, "is", "are")))
	}
	var columns []string
	for _, i := range t.hiddenAt {
		if i < len(t.header) && t.header[i] != "" {
			columns = append(columns, t.header[i])
		}
	}
	if len(columns) > 0 {
		notes = append(notes, fmt.Sprintf("hidden in the workbook, and read like all others: %s", quoteAll(columns)))
	}
	if n := t.tidied.unseen; n > 0 {
		notes = append(notes, fmt.Sprintf("characters that nobody sees were left out of %s, the first %q", numfmt.Counted(n, "cell"),
			t.tidied.unseenAt))
	}
	for i, n := range t.tidied.cut {
		if n > 0 {
			notes = append(notes, fmt.Sprintf("%s of column %q %s longer than %d bytes, and %s there", numfmt.Counted(n, "cell"),
				t.header[i], numfmt.Agreeing(n, "is", "are"), maxText, numfmt.Agreeing(n, "ends", "end")))
		}
	}
	if n := t.tidied.byCase; n > 0 {
		notes = append(notes, fmt.Sprintf("%s %s from another by the case of letters alone, such as %s; they are kept apart",
			numfmt.Counted(n, t.parts[0].Kind.Noun), numfmt.Agreeing(n, "differs", "differ"), t.tidied.byCaseLike))
	}
	return notes
}
