package test

import (
	"encoding/csv"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
)

// Every picture goes away with the numbers that it draws, under the sentence that the service gives it.
func TestConsolePicturesHoldTheirNumbers(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	folder := t.TempDir()
	b.do(letIn(s.entry(t)), downloadsTo(folder))
	// taken is what the picture on a page has to take away, without the sentence above and the lines below.
	taken := func(path string, rows int) (sentence string, head []string, body [][]string) {
		t.Helper()
		old, _ := filepath.Glob(filepath.Join(folder, "*.csv"))
		for _, name := range old {
			require.NoError(t, os.Remove(name))
		}
		b.do(chromedp.Navigate(s.address+path), chromedp.WaitVisible(test("chart")+" svg"),
			chromedp.Click("button"+test("export-picture-csv"), chromedp.NodeVisible))
		var records [][]string
		require.Eventually(t, func() bool {
			found, _ := filepath.Glob(filepath.Join(folder, "*.csv"))
			if len(found) != 1 {
				return false
			}
			text, _ := os.ReadFile(found[0])
			var err error
			records, err = csv.NewReader(strings.NewReader(string(text))).ReadAll()
			return err == nil && len(records) >= 2+rows
		}, 20*time.Second, 50*time.Millisecond, path)
		return records[0][0], records[1], records[2 : 2+rows]
	}
	number := func(text string) float64 {
		t.Helper()
		x, err := strconv.ParseFloat(text, 64)
		require.NoError(t, err)
		return x
	}
	near := func(want answer.Cell, got string, what ...any) {
		t.Helper()
		if want.Number == nil {
			require.Equal(t, want.Text, got, what...)
			return
		}
		require.InDelta(t, *want.Number, number(got), 1e-6, what...)
	}

	months := s.took(t, question{By: []string{"month"}, Period: "2026", Promise: "promised", WithRunning: true})
	part := months.Parts[0]
	groups, spread, kept, curve := gridOf(t, part, "groups"), gridOf(t, part, "spread"), gridOf(t, part, "promise"),
		gridOf(t, part, "curve")
	const asked = "/how-long?by=month&period=2026&promise=promised&with_running=true&picture="
	sentence, head, body := taken(asked+"trend", len(groups.Rows))
	assert.Equal(t, months.Asked(), sentence)
	// held compares what was taken away with the rows of a table.
	held := func(of grid, rows []answer.Row) {
		t.Helper()
		for k, c := range of.Columns {
			require.Equal(t, c.Title(), head[k])
			for i, r := range rows {
				near(r.Cells[k], body[i][k], c.Code)
			}
		}
	}
	held(spread, spread.Rows[:len(groups.Rows)])
	_, head, body = taken(asked+"groups", len(groups.Rows))
	held(spread, spread.Rows[:len(groups.Rows)])
	_, head, body = taken(asked+"promise", len(kept.rows()))
	held(kept, kept.rows())
	_, head, body = taken(asked+"running", len(curve.Rows))
	held(curve, curve.Rows)
	legs := gridOf(t, s.took(t, question{To: "paid", Through: []string{"shipped", "delivered"}}).Parts[0], "spread")
	require.Len(t, legs.Rows, 4)
	_, head, body = taken("/how-long?to=paid&through=shipped,delivered", 4)
	held(legs, legs.Rows)

	// A period as one is a bridge from what was open at its start to what was open at its end.
	july := gridOf(t, s.ask(t, "/open", "period", "2026-07").Parts[0], "rows")
	_, head, body = taken("/open?period=2026-07", 1)
	held(july, july.rows())
	open := s.ask(t, "/open", "period", "2026", "by", "site", "each", "month")
	steps := gridOf(t, open.Parts[0], "steps")
	sentence, head, body = taken("/open?each=month&period=2026&by=site", len(steps.Rows))
	assert.Equal(t, open.Asked(), sentence)
	held(steps, steps.Rows)
	mix := gridOf(t, s.ask(t, "/open", "period", "2026", "ages", "true", "each", "month").Parts[0], "mix")
	_, head, body = taken("/open?ages=true&each=month&period=2026", len(mix.Rows))
	held(mix, mix.Rows)
	assert.Empty(t, b.wentWrong())

	// Statuses, and what was immediate.
	for address, of := range map[string][]string{"/statuses?by=site": {"/status/latest", "groups", "by", "site"},
		"/statuses?show=times&each=quarter": {"/status/times", "means", "each", "quarter"},
		"/statuses?show=transitions":        {"/status/transitions", "transitions"}} {
		d := s.ask(t, of[0], of[2:]...)
		table := gridOf(t, d.Parts[0], of[1])
		sentence, head, body = taken(address, len(table.rows()))
		assert.Equal(t, d.Asked(), sentence)
		held(table, table.rows())
	}
	// Dates beside each other, the bridge between them, and rows over columns.
	compared := s.ask(t, "/compare", "show", "units", "each", "week", "period", "2026-Q3")
	weeks, bridge := gridOf(t, compared.Parts[0], "dates"), gridOf(t, compared.Parts[0], "bridge-shipped")
	sentence, head, body = taken("/compare?show=units&each=week&period=2026-Q3", len(weeks.rows()))
	assert.Equal(t, compared.Asked(), sentence)
	held(weeks, weeks.rows())
	b.do(chromedp.Click(test("bridge-shipped")+" button"+test("export-picture-csv"), chromedp.NodeVisible))
	var text []byte
	require.Eventually(t, func() bool {
		found, _ := filepath.Glob(filepath.Join(folder, "from-what-was-ordered*.csv"))
		if len(found) == 1 {
			text, _ = os.ReadFile(found[0])
		}
		return len(text) > 0
	}, 20*time.Second, 50*time.Millisecond)
	records, err := csv.NewReader(strings.NewReader(string(text))).ReadAll()
	require.NoError(t, err)
	level := 0.0
	for i, row := range bridge.rows() {
		near(row.Cells[1], records[2+i][1])
		if i < len(bridge.Rows) {
			level += bridge.number(row, "amount")
		}
	}
	assert.InDelta(t, bridge.number(bridge.total(), "amount"), level, 1e-6, "the bridge leads from one date to the other")

	seasons := s.cells(t, "show", "median", "rows", "site", "columns", "month-of-year")
	_, head, body = taken("/crosstab?show=median&rows=site&columns=month-of-year", len(seasons.rows()))
	held(seasons, seasons.rows())
	assert.Empty(t, b.wentWrong())
}
