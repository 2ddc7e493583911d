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

	"github.com/chromedp/chromedp"
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
	var sheets []*api.Order
	sheet := func(words url.Values) *api.Order {
		o, err := s.Order(t.Context(), "W-100", words)
		require.NoError(t, err)
		return o
	}
	stands := func(load int64) {
		loads, given, sheets = append(loads, load), append(given, ask(nil)), append(sheets, sheet(nil))
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
			assert.Equal(t, sheets[i], sheet(url.Values{"as_of_load": {fmt.Sprint(load)}}), "%s: the sheet of an order, as of load %d", when, load)
		}
	}
	for q := range questions {
		assert.NotEqual(t, given[0][q], given[1][q], questions[q])
		assert.NotEqual(t, given[1][q], given[2][q], questions[q])
	}
	assert.NotEmpty(t, sheets[2].Changes)
	assert.NotEqual(t, sheets[1].Parts, sheets[2].Parts)
	same("after three loads")
	_, err = s.Undo(t.Context(), third)
	require.NoError(t, err)
	loads, given, sheets = loads[:2], given[:2], sheets[:2]
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
	// What is not of the records as they were says so, or does not claim to be.
	_, err = s.Answer(t.Context(), "/second-opinion", url.Values{"question": {"took?"}, "as_of_load": {"1"}})
	assert.ErrorContains(t, err, "a statement reads the records as they are now")
	audit, err := s.Answer(t.Context(), "/audit", url.Values{"as_of_load": {"1"}})
	require.NoError(t, err)
	assert.Empty(t, audit.Parts[0].Notes)
	var file strings.Builder
	require.NoError(t, s.TakeAway(t.Context(), url.Values{"as_of_load": {"1"}}, "csv", false, &file))
	assert.Contains(t, file.String(), "As the records were after load 1 of ")
	d, err := s.Answer(t.Context(), "/took", url.Values{"as_known_on": {"2199-01-01"}})
	require.NoError(t, err)
	assert.Contains(t, d.Parts[0].Notes[0].Text, "As the records were after load 4 of ")
}

// What became of orders between two loads, and what that did to an answer.
func TestChangesBetweenLoads(t *testing.T) {
	s := startService(t)
	_, err := s.Answer(t.Context(), "/changes", url.Values{})
	assert.ErrorContains(t, err, "there is no load before the last")
	for _, text := range []string{
		"number,site,ordered,promised,shipped\nA-1,Quay,2026-01-05,2026-01-09,2026-01-07\nA-2,Quay,2026-01-05,2026-01-20,\nA-3,Quay,2026-01-06,2026-01-08,\nA-4,Quay,2026-01-07,2026-01-30,2026-01-08\nA-5,Quay,2026-01-08,,\n",
		"number,site,ordered,promised,shipped\nA-1,Pier,2026-01-05,2026-01-09,2026-01-12\nA-2,Quay,2026-01-05,2026-01-09,\nA-3,Quay,2026-01-06,2026-01-08,2026-01-13\nA-4,Quay,2026-01-07,2026-01-30,\nA-6,Quay,2026-01-12,,\n",
	} {
		_, err := s.Load(t.Context(), []string{write(t, "orders.csv", text)})
		require.NoError(t, err)
	}
	d, err := s.Answer(t.Context(), "/changes", url.Values{"since": {"1"}})
	require.NoError(t, err)
	rows := func(table string) (texts []string) {
		for _, r := range d.Parts[0].Table(table).Rows {
			texts = append(texts, r.Cells[0].Text+": "+r.Cells[1].Text)
		}
		return texts
	}
	assert.ElementsMatch(t, []string{"ship date moved later: 1", "site corrected: 1", "promised date moved earlier: 1", "newly late to ship: 1",
		"new ship date: 1", "ship date taken back: 1", "new orders: 1"}, rows("changes"))
	assert.Equal(t, []string{"A-1: ship date 2026-01-07 → 2026-01-12, 5 days later; site Quay → Pier",
		"A-2: promised date 2026-01-20 → 2026-01-09, 11 days earlier; newly late: promised 2026-01-09", "A-3: ship date 2026-01-13, which had none",
		"A-4: ship date 2026-01-08 taken back", "A-6: new"}, rows("orders"))
	assert.Contains(t, d.Parts[0].Lines[0].Text, "5 orders changed, were added or are gone; 5 orders then, 6 now")

	d, err = s.Answer(t.Context(), "/two-ways", url.Values{"first": {"took?as_of_load=1"}, "second": {"took?"}})
	require.NoError(t, err)
	assert.Contains(t, d.Asked(), "Two ways, by load 1 or now")
	assert.Equal(t, []string{"A-1: 2 working days", "A-3: still running", "A-4: 1 working day"}, rows("orders"), "as many orders, and others")
	for _, r := range d.Parts[0].Table("numbers").Totals {
		assert.Empty(t, r.Cells[1].Behind, "the orders of an earlier book are not those of today")
		assert.NotEmpty(t, r.Cells[2].Behind)
	}
	_, err = s.Answer(t.Context(), "/two-ways", url.Values{"first": {"took?as_of_load=9"}, "second": {"took?"}})
	assert.ErrorContains(t, err, "no load that stands has this number")

	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/changes"))
	b.text(test("sentence"), "What changed in the orders since load 1 of")
	b.text(test("changes"), "newly late to ship")
	b.do(chromedp.Click(test("fold-orders")+" tbody button", chromedp.NodeVisible), chromedp.WaitVisible(test("order-sheet")))
	b.text(".sheet", "Order A-1")
	assert.Empty(t, b.wentWrong())
	overview, err := s.Overview(t.Context())
	require.NoError(t, err, "the records have no full month yet")
	assert.Equal(t, "How did 2026-01 go so far, beside 2025-12?", overview.Sentence)
}
