package test

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// gone reads the words that no text says from the glossary.
func gone(t *testing.T) *regexp.Regexp {
	text, err := os.ReadFile("../docs/glossary.md")
	require.NoError(t, err)
	_, words, found := strings.Cut(string(text), "## Words")
	require.True(t, found)
	words, _, _ = strings.Cut(words, "## Rules")
	var all []string
	for _, line := range strings.Split(words, "\n") {
		cells := strings.Split(line, "|")
		if len(cells) != 5 || strings.Contains(line, "---") || strings.TrimSpace(cells[3]) == "never" {
			continue
		}
		for _, word := range strings.Split(cells[3], ";") {
			if word = strings.TrimSpace(word); word != "" {
				all = append(all, regexp.QuoteMeta(word))
			}
		}
	}
	require.Greater(t, len(all), 20)
	return regexp.MustCompile(`(?i)\b(` + strings.Join(all, "|") + `)\b`)
}

// said collects the texts of a document for people: all but codes and addresses.
func saidBy(of any, into *[]string) {
	switch of := of.(type) {
	case map[string]any:
		for name, value := range of {
			switch name {
			case "behind", "code", "analysis", "slot", "kind", "order", "sort", "where", "address":
			default:
				saidBy(value, into)
			}
		}
	case []any:
		for _, value := range of {
			saidBy(value, into)
		}
	case string:
		*into = append(*into, of)
	}
}

var (
	oneOfMany   = regexp.MustCompile(`(?:^|[^\d.,])1 (orders|lines|rows|days|customers|shipments|payments|lengths) `)
	ungrouped   = regexp.MustCompile(`(?:^|[ (])\d{5,}(?:$|[ ,.)])`)
	codeMarks   = regexp.MustCompile("`|\\w_\\w|,[a-z]")
	grouping    = regexp.MustCompile(`\d,\d{3}`)
	ofCondition = regexp.MustCompile(`(where|met|with) .*[=!<>(].*`)
)

// Help, the OpenAPI document, the sentences and notes of some two hundred questions and the texts of the built pages say the words of
// the glossary, and no words that are gone.
func TestWordsForPeople(t *testing.T) {
	s, _ := demoService(t)
	none := gone(t)
	check := func(where, text string) {
		t.Helper()
		assert.Emptyf(t, none.FindString(text), "%s: %s", where, text)
		assert.Emptyf(t, oneOfMany.FindString(text), "%s: %s", where, text)
	}
	questions := 0
	ask := func(path string, words ...string) {
		t.Helper()
		questions++
		var texts []string
		d := s.ask(t, path, words...)
		raw, err := json.Marshal(d)
		require.NoError(t, err)
		var tree any
		require.NoError(t, json.Unmarshal(raw, &tree))
		saidBy(tree, &texts)
		for _, text := range texts {
			check(path+" "+strings.Join(words, " "), text)
			plain := grouping.ReplaceAllString(ofCondition.ReplaceAllString(text, ""), "")
			assert.Emptyf(t, ungrouped.FindString(plain), "%s %v: %s", path, words, text)
		}
		for _, sentence := range []string{d.Asked(), d.Heading} {
			assert.Emptyf(t, codeMarks.FindString(ofCondition.ReplaceAllString(sentence, "")), "%s %v: %s", path, words, sentence)
		}
	}
	for _, period := range []string{"", "2026-Q3", "2026-Q3,2026-Q2", "2026-07"} {
		for _, by := range []string{"", "site", "month", "month,site"} {
			for _, in := range []string{"working-days", "days", "weeks", "working-hours"} {
				ask("/took", "period", period, "by", by, "in", in, "with_running", "true")
			}
			ask("/took", "period", period, "by", by, "over", "10", "promise", "promised")
			ask("/immediate", "period", period, "by", by, "orders", "first")
			ask("/open", "period", strings.Split(period, ",")[0], "each", "month", "where", `site == "Galway"`)
		}
		one := strings.Split(period, ",")[0]
		for _, show := range []string{"orders", "units", "value", "shipments", "share", "immediate", "one-shipment", "median"} {
			meets := map[string]string{"share": "shipped == ordered"}[show]
			ask("/crosstab", "period", one, "rows", "site", "columns", "month", "show", show, "meets", meets)
			ask("/compare", "period", one, "basis", "ordered,shipped", "each", "month", "show", show, "meets", meets)
			ask("/crosstab", "period", one, "rows", "weekday", "show", show, "basis", "shipped", "top", "3", "meets", meets)
		}
		for _, status := range []string{"times", "transitions", "periods"} {
			ask("/status/"+status, "period", one)
		}
	}
	ask("/status/latest", "by", "site")
	ask("/due")
	ask("/quality")
	ask("/immediate/customers")
	require.Greater(t, questions, 200)

	document, err := os.ReadFile("../docs/openapi.json")
	require.NoError(t, err)
	check("openapi.json", "")
	for _, text := range regexp.MustCompile(`"(?:description|summary)": ?"((?:[^"\\]|\\.)*)"`).FindAllStringSubmatch(string(document), -1) {
		check("openapi.json", text[1])
	}
	for _, file := range builtTexts(t) {
		check("a page", file)
	}
	p := newProgram(t)
	commands := []string{""}
	for len(commands) > 0 {
		words := strings.Fields(commands[0])
		_, out, _ := p.run(append(words, "--help")...)
		check("--help of "+commands[0], regexp.MustCompile(`(?m)^  prairie-dusk .*$`).ReplaceAllString(out, ""))
		for _, sub := range regexp.MustCompile(`(?m)^  ([a-z-]+) {2,}\S`).FindAllStringSubmatch(section(out, "Available Commands:"), -1) {
			if sub[1] != "help" && sub[1] != "completion" {
				commands = append(commands, strings.TrimSpace(commands[0]+" "+sub[1]))
			}
		}
		commands = commands[1:]
	}
}

// section is what stands under a heading of help, up to the next empty line.
func section(help, heading string) string {
	_, after, _ := strings.Cut(help, heading)
	text, _, _ := strings.Cut(after, "\n\n")
	return text
}

// builtTexts are the texts of the built pages: all that stands between quotes or tags and has two words.
func builtTexts(t *testing.T) (texts []string) {
	files, err := filepath.Glob("../console/dist/site/assets/*.js")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	quoted := regexp.MustCompile("\"((?:[^\"\\\\\\n]|\\\\.){6,400})\"|`((?:[^`\\\\]|\\\\.){6,400})`")
	prose := regexp.MustCompile(`^[A-Za-z][a-z]+,? [a-z]`)
	for _, name := range files {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		for _, found := range quoted.FindAllStringSubmatch(string(text), -1) {
			if one := strings.TrimSpace(found[1] + found[2]); prose.MatchString(one) {
				texts = append(texts, one)
			}
		}
	}
	return texts
}

// The glossary's dates are those of the service.
func TestTheGlossaryHasTheDates(t *testing.T) {
	s, _ := demoService(t)
	text, err := os.ReadFile("../docs/glossary.md")
	require.NoError(t, err)
	book, err := s.Book(t.Context())
	require.NoError(t, err)
	for _, m := range book.Milestones[:9] {
		assert.Contains(t, string(text), fmt.Sprintf("| %s | `%s` |", m.Date, m.Name))
	}
}
