package cli

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
)

// drawn is a sheet as a terminal of a width shows it, its lines without what hangs over.
func drawnAt(s sheet, width int) string {
	var out bytes.Buffer
	s.writeTable(&out, width)
	lines := strings.Split(out.String(), "\n")
	for i := range lines {
		lines[i] = strings.TrimRight(lines[i], " ")
	}
	return strings.Join(lines, "\n")
}

// A document stands as its columns say: folded ones and pictures are left out, what is shared stands above, what has to be known
// of a row behind its name; lines and notes stand below the first table, and what is cut says so.
func TestDocumentsInTheTerminal(t *testing.T) {
	table := answer.Table{Code: "groups", All: 3, Columns: []answer.Column{{Code: "group", Heading: "month", Kind: answer.Text},
		{Code: "n", Heading: "n", Kind: answer.Count}, {Code: "mean", Heading: "mean", Shared: "ordered → shipped, days",
			Kind: answer.Number, Unit: "days"}, {Code: "due", Heading: "due", Kind: answer.Day},
		{Code: "late", Heading: "late", Kind: answer.Count, Folded: true}},
		Rows: []answer.Row{
			{Cells: []answer.Cell{answer.Words("2026-01"), answer.Orders(1204, "took?group=2026-01"), answer.Measured(3.25, 2),
				answer.Words("2026-01-05"), answer.Whole(77)}, Remarks: []string{"part", "few"}},
			{Cells: []answer.Cell{answer.Words("2026-02"), answer.Orders(0, "took?group=2026-02"), {}, {}, answer.Whole(77)}},
		},
		Totals: []answer.Row{{Cells: []answer.Cell{answer.Words("all"), answer.Whole(1204), answer.Measured(3.25, 2), {},
			answer.Whole(77)}}}}
	working := answer.Table{Code: "working", Title: "The working", Folded: true, Columns: table.Columns[:1],
		Rows: []answer.Row{{Cells: []answer.Cell{answer.Words("a step")}}}, All: 1}
	picture := answer.Table{Code: "bars", Picture: true, Columns: table.Columns[:1], Rows: working.Rows, All: 1}
	d := &answer.Document{Sentence: []answer.Word{{Text: "How "}, {Text: "long", Slot: "in"}, {Text: "?"}}, FirstDay: "2025-01-01",
		DataDate: "2026-02-10",
		Parts: []answer.Part{{Title: "2026", Tables: []answer.Table{table, working, picture}, Lines: []answer.Line{{Text: "all = some"}},
			Notes: []answer.Note{{Text: "something to know"}}}}}
	sheets := documentSheets(d, nil, true)
	require.Len(t, sheets, 1)
	text := drawnAt(sheets[0], 0)
	assert.Contains(t, text, "How long? (2026)")
	assert.Contains(t, text, "ordered → shipped, days")
	assert.Regexp(t, `2026-01 \(part, few\) +1,204 +3\.25 +Mon 2026-01-05`, text)
	assert.Regexp(t, `2026-02 +0\n`, text)
	assert.NotContains(t, text, "77")
	for _, want := range []string{"all = some", "Note: something to know", "1 to 2 of 3 rows; a file has all", "1,204 orders behind",
		"took?group=2026-01", "Records from 2025-01-01 to 2026-02-10."} {
		assert.Contains(t, text, want)
	}
	assert.NotContains(t, text, "took?group=2026-02", "nothing stands behind 0")
	sheets = documentSheets(d, []string{"working"}, false)
	require.Len(t, sheets, 2)
	assert.Contains(t, drawnAt(sheets[1], 0), "The working\n")
}

// A timeline is drawn on the days of each order's own calendar: rest days shaded, running ends open, same-day orders visible.
func TestTimelinesInTheTerminal(t *testing.T) {
	table := func(code string, columns []string, rows ...[]string) answer.Table {
		made := answer.Table{Code: code, All: len(rows)}
		for _, c := range columns {
			made.Columns = append(made.Columns, answer.Column{Code: c})
		}
		for _, r := range rows {
			var cells []answer.Cell
			for _, text := range r {
				cells = append(cells, answer.Words(text))
			}
			made.Rows = append(made.Rows, answer.Row{Cells: cells})
		}
		return made
	}
	document := func(days [][]string, rows ...[]string) *answer.Document {
		return &answer.Document{DataDate: "2026-10-12", Parts: []answer.Part{{Tables: []answer.Table{
			table("timeline", []string{"number", "start", "close", "reason", "cancelled", "calendar"}, rows...),
			table("off", []string{"calendar", "day"}, []string{"Galway", "2026-10-10"}, []string{"Galway", "2026-10-11"},
				[]string{"Muscat", "2026-10-09"}, []string{"Muscat", "2026-10-10"}),
			table("days", []string{"what", "from", "to"}, days...)}}}}
	}
	week := [][]string{{"period", "2026-10-08", "2026-10-12"}, {"shown", "2026-10-05", "2026-10-12"}}
	orders := [][]string{
		{"A", "2026-10-06", "", "carried through, still open", "no", "Galway"},
		{"B", "2026-10-08", "2026-10-11", "opened and closed inside", "no", "Muscat"},
		{"C", "2026-10-09", "2026-10-09", "opened and closed inside", "no", "Galway"},
		{"D", "2026-10-07", "2026-10-10", "carried in, closed inside", "yes", "Galway"},
		{"E", "2026-09-01", "2026-10-08", "carried in, closed inside", "no", "Galway"},
	}
	s := timelineSheets(document(week, orders...), 100)[0]
	assert.Equal(t, []string{
		"   2026-10-05",
		"      ─────",
		"A   ████▒▒›  carried through, still open",
		"B     █▒▒█   opened and closed inside",
		"C      ■     opened and closed inside",
		"D    ███×    carried in, closed inside",
		"E  ‹███      carried in, closed inside",
	}, strings.Split(s.drawn, "\n"))
	assert.Contains(t, s.below[0], "1 to 5 of 5 orders")
	assert.Equal(t, []string{"No order was open."}, timelineSheets(document(week), 100)[0].below)
	// Where the days are more than the terminal is wide, a character stands for several.
	long := [][]string{{"period", "2025-01-01", "2026-10-31"}, {"shown", "2025-01-01", "2026-10-31"}}
	for line := range strings.SplitSeq(timelineSheets(document(long, orders...), 80)[0].drawn, "\n") {
		assert.LessOrEqual(t, len([]rune(line)), 80)
	}
}
