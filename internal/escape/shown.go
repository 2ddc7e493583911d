package escape

import (
	"fmt"
	"io"
	"strings"
	"unicode"
	"unicode/utf8"
)

// commands says whether a character is one that a terminal obeys rather than shows: a control character, or one that changes in
// which direction what follows is written.
func commands(r rune) bool { return unicode.IsControl(r) || unicode.Is(unicode.Bidi_Control, r) }

// Plain says whether a text has only characters that a terminal shows: names that people give have no others.
func Plain(text string) bool { return strings.IndexFunc(text, commands) < 0 && utf8.ValidString(text) }

// Shown is a text as a terminal can show it: characters that it would obey are written as escapes, such as \x1b.
func Shown(text string) string { return shown(text, "") }

// ShownLines is the same for a text of several lines.
func ShownLines(text string) string { return shown(text, "\n") }

func shown(text, kept string) string {
	if Plain(text) {
		return text
	}
	var out strings.Builder
	for i, r := range text {
		switch {
		case r == utf8.RuneError && !strings.HasPrefix(text[i:], "\uFFFD"):
			fmt.Fprintf(&out, `\x%02x`, text[i])
		case !commands(r) || strings.ContainsRune(kept, r):
			out.WriteRune(r)
		case r == '\n':
			out.WriteString(`\n`)
		case r == '\t':
			out.WriteString(`\t`)
		case r < 0x100:
			fmt.Fprintf(&out, `\x%02x`, r)
		default:
			fmt.Fprintf(&out, `\u%04x`, r)
		}
	}
	return out.String()
}

// Terminal writes to a terminal what was meant for a file: its lines and tabs stay, whatever else a terminal would obey is
// written as escapes.
func Terminal(w io.Writer) io.Writer { return &terminal{to: w} }

type terminal struct {
	to   io.Writer
	rest []byte // the beginning of a character whose end is still to come
}

func (t *terminal) Write(p []byte) (int, error) {
	text := append(t.rest, p...)
	whole := len(text)
	for cut := 1; cut < utf8.UTFMax && cut <= len(text); cut++ {
		if last := text[len(text)-cut:]; utf8.RuneStart(last[0]) {
			if !utf8.FullRune(last) {
				whole = len(text) - cut
			}
			break
		}
	}
	t.rest = append([]byte(nil), text[whole:]...)
	if _, err := io.WriteString(t.to, shown(string(text[:whole]), "\r\n\t")); err != nil {
		return 0, err
	}
	return len(p), nil
}
