package cli

import (
	"bytes"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
)

func some(x float64) *float64 { return &x }

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
	table := answer.Table{Code: "groups", All: 3, Columns: []answer.Column{{Code: "group", Heading: "month", Kind: answer.Text}, {Code: "n", Heading: "n", Kind: answer.Count}, {Code: "mean", Heading: "mean", Shared: "ordered → shipped, days", Kind: answer.Number, Unit: "days"}, {Code: "due", Heading: "due", Kind: answer.Day}, {Code: "late", Heading: "late", Kind: answer.Count, Folded: true}},
		Rows: []answer.Row{
			{Cells: []answer.Cell{answer.Words("2026-01"), answer.Orders(1204, "took?group=2026-01"), answer.Measured(3.25, 2), answer.Words("2026-01-05"), answer.Whole(77)}, Remarks: []string{"part", "few"}},
			{Cells: []answer.Cell{answer.Words("2026-02"), answer.Orders(0, "took?group=2026-02"), {}, {}, answer.Whole(77)}},
		},
		Totals: []answer.Row{{Cells: []answer.Cell{answer.Words("all"), answer.Whole(1204), answer.Measured(3.25, 2), {}, answer.Whole(77)}}}}
	working := answer.Table{Code: "working", Title: "The working", Folded: true, Columns: table.Columns[:1], Rows: []answer.Row{{Cells: []answer.Cell{answer.Words("a step")}}}, All: 1}
	picture := answer.Table{Code: "bars", Picture: true, Columns: table.Columns[:1], Rows: working.Rows, All: 1}
	d := &answer.Document{Sentence: []answer.Word{{Text: "How "}, {Text: "long", Slot: "in"}, {Text: "?"}}, FirstDay: "2025-01-01", DataDate: "2026-02-10",
		Parts: []answer.Part{{Title: "2026", Tables: []answer.Table{table, working, picture}, Lines: []answer.Line{{Text: "all = some"}}, Notes: []answer.Note{{Text: "something to know"}}}}}
	sheets := documentSheets(d, nil, true)
	require.Len(t, sheets, 1)
	text := drawnAt(sheets[0], 0)
	assert.Contains(t, text, "How long? (2026)")
	assert.Contains(t, text, "ordered → shipped, days")
	assert.Regexp(t, `2026-01 \(part, few\) +1,204 +3\.25 +Mon 2026-01-05`, text)
	assert.Regexp(t, `2026-02 +0\n`, text)
	assert.NotContains(t, text, "77")
	for _, want := range []string{"all = some", "Note: something to know", "1 to 2 of 3 rows; a file has all", "1,204 orders behind", "took?group=2026-01", "Records from 2025-01-01 to 2026-02-10."} {
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
			table("off", []string{"calendar", "day"}, []string{"Galway", "2026-10-10"}, []string{"Galway", "2026-10-11"}, []string{"Muscat", "2026-10-09"}, []string{"Muscat", "2026-10-10"}),
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

func cellOf(x float64, text string) api.AcrossCell { return api.AcrossCell{Value: some(x), Text: text} }

// Dates stand beside each other with the difference in the decimals of both; what is empty says why; the bridge leads from one to
// the other, and folds what holds nothing.
func TestDatesBesideEachOther(t *testing.T) {
	table := func(basis string, cells ...api.AcrossCell) api.AcrossTable {
		t := api.AcrossTable{Basis: basis, Words: "value " + basis, Total: api.AcrossRow{Total: cells[2]}, Line: "all of it = here + there",
			Means: &api.AcrossMeans{CalendarDays: 10, WorkingDays: 7, DaysWith: 3, PerCalendarDay: cellOf(1, "1.00"), PerWorkingDay: cellOf(2, "2.00"), PerDayWith: cellOf(3, "3.00")}}
		for i, c := range cells[:2] {
			row := api.AcrossRow{AcrossHead: api.AcrossHead{Key: []string{"2026-01", "2026-02"}[i], Cut: i == 1}, Total: c}
			if *c.Value == 0 {
				row.Why = "not in the book"
			}
			t.Rows = append(t.Rows, row)
		}
		return t
	}
	part := api.AcrossPart{Currency: "EUR", Tables: []api.AcrossTable{table("ordered", cellOf(1200, "1,200.00"), cellOf(0, "0.00"), cellOf(1200, "1,200.00")), table("shipped", cellOf(99.5, "99.50"), cellOf(0, "0.00"), cellOf(99.5, "99.50"))},
		Bridges: []api.AcrossBridge{{From: "ordered", To: "shipped", Total: cellOf(1200, "1,200.00"), Other: cellOf(99.5, "99.50"), Steps: []api.BridgeStep{
			{Label: "in both", Amount: cellOf(90, "90.00")}, {Label: "not yet", Sign: -1, Amount: cellOf(1110, "1,110.00")}, {Label: "from before", Sign: 1, Amount: cellOf(9.5, "9.50")}, {Label: "from after", Sign: 1, Amount: cellOf(0, "0.00")}}}}}
	a := &api.Across{Each: "month", Bases: []string{"ordered", "shipped"}, ReconciliationLine: "5 orders in the book = 5 asked about", Empty: "shown",
		EmptySteps: []api.AcrossNothing{{Why: "not in the book", Steps: 1}},
		Figures:    []api.AcrossFigure{{Show: "value", AddsUp: true, Sentence: "What value?", Parts: []api.AcrossPart{part}, Notes: []api.Note{{Text: "something to know"}}}}}
	sheets := acrossSheets(a, false)
	require.Len(t, sheets, 2)
	text := drawnAt(sheets[0], 0)
	assert.Contains(t, text, "What value? (EUR)")
	assert.Regexp(t, `2026-01 +1,200\.00 +99\.50 +-1,100\.50`, text)
	assert.Regexp(t, `2026-02 \(part\) +0\.00 +0\.00 +0\.00 +not in the book`, text)
	assert.Contains(t, text, "Value shipped per calendar day (10): 1.00; per working day (7): 2.00; per day with any (3): 3.00")
	assert.Contains(t, text, "Note: something to know")
	text = drawnAt(sheets[1], 0)
	assert.Regexp(t, `− not yet +1,110\.00`, text)
	assert.Regexp(t, `\+ from before +9\.50`, text)
	assert.Contains(t, text, "90.00 are in both: in both.")
	assert.Contains(t, text, "1 step that holds nothing is left out.")
	assert.Contains(t, text, "Steps with nothing: not in the book (1).")
	assert.Contains(t, text, "5 orders in the book = 5 asked about")
	for _, tt := range []struct{ then, now, want string }{{"1.25", "-0.25", "-1.50"}, {"2", "2", "0"}, {"0.5", "10", "+9.5"}, {"1,000", "999", "-1"}, {"", "3", ""}} {
		cell := func(text string) api.AcrossCell {
			if text == "" {
				return api.AcrossCell{}
			}
			x, err := strconv.ParseFloat(strings.ReplaceAll(text, ",", ""), 64)
			require.NoError(t, err)
			return cellOf(x, text)
		}
		assert.Equal(t, tt.want, signed(cell(tt.now), cell(tt.then)), "%s less %s", tt.now, tt.then)
	}
}

// Rows and columns with what stands behind them; zeros can be blank, shares show both their numbers, and long tables say so.
func TestRowsByColumns(t *testing.T) {
	share := api.AcrossCell{Value: some(50), Text: "50.00%", N: 8, Of: "4 of 8"}
	part := api.AcrossPart{AllRows: 9, Columns: []api.AcrossHead{{Key: "January", Whole: []int{2025}, InPart: []int{2026}, PerAs: "3.50"}, {Key: "", Days: 2}},
		Tables: []api.AcrossTable{{Basis: "ordered", Words: "orders ordered", Line: "all = all",
			Rows: []api.AcrossRow{
				{AcrossHead: api.AcrossHead{Key: "Hive"}, Cells: []api.AcrossCell{cellOf(7, "7"), cellOf(0, "0")}, Total: cellOf(7, "7")},
				{AcrossHead: api.AcrossHead{Others: 1200}, Cells: []api.AcrossCell{share, {}}, Total: share},
			}, Total: api.AcrossRow{Cells: []api.AcrossCell{cellOf(8, "8"), cellOf(0, "0")}, Total: cellOf(8, "8")}}}}
	a := &api.Across{Rows: "product", Columns: "month-of-year", Bases: []string{"ordered"}, Figures: []api.AcrossFigure{{Show: "orders", AddsUp: true, Sentence: "How many?", Parts: []api.AcrossPart{part}}}}
	text := drawnAt(acrossSheets(a, false)[0], 0)
	assert.Regexp(t, `Hive +7 +0 +7`, text)
	assert.Regexp(t, `all others \(1,200\) +50\.00% \(4 of 8\) +50\.00% \(4 of 8\)`, text)
	assert.Regexp(t, `behind it +2025, 2026 \(part\) +2 days`, text)
	assert.Regexp(t, `mean of each +3\.50`, text)
	assert.Contains(t, text, "The first 2 of 9 rows; --output has all.")
	assert.Regexp(t, `Hive +7 +7`, drawnAt(acrossSheets(a, true)[0], 0), "zeros can be blank")
}
