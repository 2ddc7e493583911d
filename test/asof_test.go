package test

import (
	"fmt"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
)

// An answer as of an earlier load is, figure by figure, the one that was given then: through loads that change and add records of every
// kind, other calendars, a label and another data date, and when loads were undone since.
func TestAnswersAsOfAnEarlierLoad(t *testing.T) {
	s := startService(t)
	questions := []string{"/took?by=site", "/took?by=speed&to=paid", "/took?calendar=destination&by=month&period=2025-05", "/open?period=2025-05&by=site",
		"/immediate?by=customer", "/crosstab?rows=lines.product&columns=month&show=units", "/compare?basis=shipped,delivered&show=value",
		"/orders?columns=number,value,shipped,paid,lines&sort=number&limit=500", "/due", "/status/latest"}
	ask := func(extra url.Values) (given []answer.Document) {
		for _, question := range questions {
			path, text, _ := strings.Cut(question, "?")
			words, err := url.ParseQuery(text)
			require.NoError(t, err)
			for word, values := range extra {
				words[word] = values
			}
			d, err := s.Answer(t.Context(), path, words)
			if err != nil && strings.Contains(question, "speed") { // not every load has the label
				given = append(given, answer.Document{Analysis: "none"})
				continue
			}
			require.NoError(t, err, question)
			d.Version = 0
			for i := range d.Parts {
				d.Parts[i].Notes = slices.DeleteFunc(d.Parts[i].Notes, func(n answer.Note) bool { return n.Code == "as-of" })
			}
			given = append(given, *d)
		}
		return given
	}
	bring := func(seed uint64, orders int, without ...string) int64 {
		folder := t.TempDir()
		var paths []string
		for name, text := range drawWildBook(seed, orders) {
			if !slices.Contains(without, name) {
				paths = append(paths, filepath.Join(folder, name))
				require.NoError(t, os.WriteFile(paths[len(paths)-1], []byte(text), 0o600))
			}
		}
		load, err := s.Load(t.Context(), paths)
		require.NoError(t, err)
		return load.Number
	}
	label := func(where string) {
		_, err := s.SaveLabel(t.Context(), "speed", api.LabelDefinition{Rules: []api.LabelRule{{Where: where, Text: "as said"}}}, true)
		require.NoError(t, err)
	}
	dataDate := func(day string) {
		_, err := s.SaveSettings(t.Context(), api.Settings{DataDate: day})
		require.NoError(t, err)
	}
	var loads []int64
	var given [][]answer.Document
	stands := func(load int64) {
		loads, given = append(loads, load), append(given, ask(nil))
	}
	first := bring(1, 60, "vell.ics")
	dataDate("2025-05-20")
	label("shipped != null")
	stands(first)
	second := bring(2, 90, "sites.csv") // the same numbers, other records, and a calendar more
	dataDate("2025-06-01")
	label("paid != null")
	stands(second)
	third := bring(3, 120)
	_, err := s.SaveSettings(t.Context(), api.Settings{})
	require.NoError(t, err)
	_, err = s.DeleteLabel(t.Context(), "speed")
	require.NoError(t, err)
	stands(third)

	same := func(when string) {
		for i, load := range loads {
			then := ask(url.Values{"as_of_load": {fmt.Sprint(load)}})
			for q := range questions {
				assert.Equal(t, given[i][q], then[q], "%s: %s, as of load %d", when, questions[q], load)
			}
		}
	}
	for q := range questions {
		assert.NotEqual(t, given[0][q], given[1][q], questions[q])
		assert.NotEqual(t, given[1][q], given[2][q], questions[q])
	}
	same("after three loads")
	_, err = s.Undo(t.Context(), third)
	require.NoError(t, err)
	loads, given = loads[:2], given[:2]
	// The label was deleted after the third load, and what comes after a load belongs to it until the next: the second is as it was.
	same("after the third was undone")
	fourth := bring(4, 30, "sites.csv", "north.ics", "vell.ics")
	dataDate(wildDate)
	stands(fourth)
	same("after a fourth")

	for words, want := range map[string]string{"as_of_load=3": "no load that stands has this number", "as_of_load=x": "no load that stands",
		"as_known_on=2020-01-01": "no load had come by then", "as_known_on=soon": "want a day such as", "as_of_load=1&as_known_on=2030-01-01": "not both"} {
		status, problem := s.get(t, "/api/v1/took?"+words)
		assert.Equal(t, http.StatusUnprocessableEntity, status, words)
		assert.Contains(t, fmt.Sprint(problem["detail"]), want)
	}
	d, err := s.Answer(t.Context(), "/took", url.Values{"as_known_on": {"2199-01-01"}})
	require.NoError(t, err)
	assert.Contains(t, d.Parts[0].Notes[0].Text, "As the records were after load 4 of ")
}
