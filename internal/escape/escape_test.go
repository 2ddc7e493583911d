package escape

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestTextsComeBackAndNoneIsRun(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`'{0,2}[=+\-@\t\ra1 ]{0,3}`).Draw(t, "text")
		out := Out(text)
		require.Equal(t, text, Back(out))
		require.False(t, out != "" && strings.ContainsRune("=+-@\t\r", rune(out[0])), out)
	})
	for text, want := range map[string]string{"=1+1": "'=1+1", "+1 555": "'+1 555", "it's": "it's", "'=x": "''=x", "'twas": "'twas",
		"": ""} {
		require.Equal(t, want, Out(text))
	}
	require.Equal(t, "'twas", Back("'twas"))
}
