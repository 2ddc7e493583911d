// Package internal keeps the page about the architecture true: the drawing on it is what is tested.
package internal

import (
	"os"
	"os/exec"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const module = "prairiedusk/internal/"

func TestImportsAreAsDrawn(t *testing.T) {
	page, err := os.ReadFile("../docs/architecture.md")
	require.NoError(t, err)
	drawing := regexp.MustCompile("(?s)```layers\n(.*?)```").FindSubmatch(page)
	require.NotNil(t, drawing)
	layers, seen := map[string]int{}, map[string]bool{}
	for i, line := range strings.Split(strings.TrimSpace(string(drawing[1])), "\n") {
		for _, name := range strings.Fields(line) {
			layers[name] = i + 1
		}
	}
	list, err := exec.CommandContext(t.Context(), "go", "list", "-f", "{{.ImportPath}}{{range .Imports}} {{.}}{{end}}", "./...").Output()
	require.NoError(t, err)
	for line := range strings.Lines(string(list)) {
		words := strings.Fields(line)
		from := strings.TrimPrefix(words[0], module)
		if from == strings.TrimSuffix(module, "/") {
			continue
		}
		seen[from] = true
		assert.NotZero(t, layers[from], "%s is not on the page", from)
		for _, path := range words[1:] {
			if to, ours := strings.CutPrefix(path, module); ours {
				assert.Less(t, layers[to], layers[from], "%s imports %s, which the page does not draw", from, to)
			}
		}
	}
	for name := range layers {
		assert.True(t, seen[name], "the page draws %s, which is not there", name)
	}
}
