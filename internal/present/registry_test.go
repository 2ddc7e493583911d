package present

import (
	"maps"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The page about the architecture lists the analyses whose numbers have addresses.
func TestTheAnalysesAreAsListed(t *testing.T) {
	page, err := os.ReadFile("../../docs/architecture.md")
	require.NoError(t, err)
	_, text, found := strings.Cut(string(page), "compares with this list:")
	require.True(t, found)
	text, _, _ = strings.Cut(text, ". ")
	var listed []string
	for _, name := range regexp.MustCompile("`([a-z-]+)`").FindAllStringSubmatch(text, -1) {
		listed = append(listed, name[1])
	}
	assert.Equal(t, slices.Sorted(maps.Keys(analyses)), listed)
}
