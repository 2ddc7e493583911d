package escape

import (
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestATerminalObeysNothing(t *testing.T) {
	for text, want := range map[string]string{
		"Hive, Kö 蜂 🐝": "Hive, Kö 蜂 🐝", "\x1b]0;gone\a": `\x1b]0;gone\x07`, "a\u009b2J": `a\x9b2J`, "a\nb\tc\r": `a\nb\tc\x0d`,
		"\u202eabc\u2069": `\u202eabc\u2069`, "\x7f\x00": `\x7f\x00`, "a\xffb\uFFFD": `a\xffb` + "\uFFFD", "": "",
	} {
		require.Equal(t, want, Shown(text))
	}
	require.Equal(t, "a\nb\\x1b", ShownLines("a\nb\x1b"))
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOf(rapid.SampledFrom([]rune("a\x1b\u009b\u202e\n\r\t蜂🐝'\x00"))).Draw(t, "text")
		require.Equal(t, -1, strings.IndexFunc(Shown(text), commands))
		var whole strings.Builder
		out := Terminal(&whole)
		for rest := []byte(text); len(rest) > 0; {
			n := rapid.IntRange(1, len(rest)).Draw(t, "bytes at a time")
			written, err := out.Write(rest[:n])
			require.NoError(t, err)
			require.Equal(t, n, written)
			rest = rest[n:]
		}
		require.Equal(t, shown(text, "\r\n\t"), whole.String())
		require.Equal(t, -1, strings.IndexFunc(whole.String(), func(r rune) bool {
			return unicode.IsControl(r) && !strings.ContainsRune("\r\n\t", r) || unicode.Is(unicode.Bidi_Control, r)
		}))
	})
}
