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
	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
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
		b.do(chromedp.Navigate(s.address+path), chromedp.WaitVisible(test("chart")+" svg"), chromedp.Click("button"+test("take-csv"), chromedp.NodeVisible))
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

	months := s.took(t, client.Question{By: []string{"month"}, Period: "2026", Promise: "promised", WithRunning: true})
	part := months.Parts[0]
	groups, spread, kept, curve := gridOf(t, part, "groups"), gridOf(t, part, "spread"), gridOf(t, part, "promise"), gridOf(t, part, "curve")
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
	legs := gridOf(t, s.took(t, client.Question{To: "paid", Through: []string{"shipped", "delivered"}}).Parts[0], "spread")
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
	for address, of := range map[string][]string{"/statuses?by=site": {"/status/latest", "groups", "by", "site"}, "/statuses?show=times&each=quarter": {"/status/times", "means", "each", "quarter"}, "/statuses?show=transitions": {"/status/transitions", "transitions"}} {
		d := s.ask(t, of[0], of[2:]...)
		table := gridOf(t, d.Parts[0], of[1])
		sentence, head, body = taken(address, len(table.rows()))
		assert.Equal(t, d.Asked(), sentence)
		held(table, table.rows())
	}
	// Dates beside each other, the bridge between them, and rows over columns.
	dates := client.AcrossQuestion{Show: []string{"units"}, Basis: []string{"ordered", "shipped"}, Each: "week", Period: "2026-Q3"}
	compared := s.across(t, dates).Figures[0].Parts[0]
	value := func(c api.AcrossCell) string {
		if c.Value == nil {
			return ""
		}
		return strconv.FormatFloat(*c.Value, 'f', -1, 64)
	}
	sentence, head, body = taken("/compare?show=units&each=week&period=2026-Q3", len(compared.Tables[0].Rows))
	assert.Equal(t, "How many units were ordered, and shipped, in each week of 2026-Q3?", sentence)
	assert.Equal(t, []string{"week", "units ordered", "units shipped", "nothing, because"}, head)
	for i, row := range compared.Tables[0].Rows {
		require.Equal(t, []string{value(row.Total), value(compared.Tables[1].Rows[i].Total)}, body[i][1:3], row.Key)
	}
	bridge := compared.Bridges[0]
	stepsDrawn := 2
	for _, step := range bridge.Steps {
		if step.Sign != 0 && *step.Amount.Value != 0 {
			stepsDrawn++
		}
	}
	level := *bridge.Total.Value
	b.do(chromedp.Click(test("bridge-shipped")+" button"+test("take-csv"), chromedp.NodeVisible))
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
	require.Equal(t, "= shipped in it", records[1+stepsDrawn][0])
	for _, record := range records[3 : 1+stepsDrawn] {
		amount := number(record[1])
		if strings.HasPrefix(record[0], "−") {
			amount = -amount
		}
		level += amount
	}
	assert.InDelta(t, number(records[1+stepsDrawn][1]), level, 1e-6, "the bridge leads from one date to the other")

	seasons := client.AcrossQuestion{Show: []string{"median"}, Rows: "site", Columns: "month-of-year"}
	table := s.across(t, seasons).Figures[0].Parts[0].Tables[0]
	_, _, body = taken("/across?show=median&rows=site&columns=month-of-year", len(table.Rows)+1)
	for i, row := range append(table.Rows, table.Total) {
		for j, c := range row.Cells {
			require.Equal(t, value(c), body[i][1+j])
		}
		require.Equal(t, value(row.Total), body[i][1+len(row.Cells)])
	}
	assert.Empty(t, b.wentWrong())
}
