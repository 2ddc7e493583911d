package cli

import (
	"bytes"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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

func lengthsOf(keys []string, n int, figure float64, step *api.TimeStep) api.Group {
	return api.Group{Keys: keys, Asked: n + 1, N: n, Small: n < 10, Figures: []*float64{some(figure)}, Step: step, Running: "50.00",
		Reconciliation: []api.Reconciliation{{State: "counted", Label: "counted", Orders: n}, {State: "running", Label: "still running", Orders: 1}}}
}

// Two groupings with one statistic stand as rows and columns, each cell with its number of lengths; small groups, steps that
// are cut and the book's beginning are marked, and no cell is made up.
func TestRowsAndColumns(t *testing.T) {
	january, february := &api.TimeStep{From: "2026-01-01", To: "2026-01-31", Begins: true}, &api.TimeStep{From: "2026-02-01", To: "2026-02-28", Cut: true}
	a := &api.Took{Asked: api.Asked{Sentence: "How long?", Heading: "ordered → shipped, days, elapsed", By: []string{"month", "site"}}, Show: []string{"median"}, Few: 10, FirstDay: "2026-01-01", DataDate: "2026-02-10",
		Parts: []api.TookPart{{
			Groups:    []api.Group{lengthsOf([]string{"2026-01", "Galway"}, 12, 3, january), lengthsOf([]string{"2026-02", ""}, 4, 5.5, february)},
			AllGroups: 2,
			Rows:      []api.Group{lengthsOf([]string{"2026-01"}, 12, 3, january), lengthsOf([]string{"2026-02"}, 4, 5.5, february)},
			Columns:   []api.Group{lengthsOf([]string{"Galway"}, 12, 3, nil), lengthsOf([]string{""}, 4, 5.5, nil)},
			Total:     lengthsOf(nil, 16, 4, nil),
			Notes:     []api.Note{{Text: "something to know"}},
		}}}
	sheets := tookSheets(a, false)
	require.Len(t, sheets, 1)
	text := drawnAt(sheets[0], 0)
	assert.Contains(t, text, "2026-01 (book begins)  3.0 (12)")
	assert.Regexp(t, `2026-02 \(part\) +5\.5 \(4†\) +5\.5 \(4†\)`, text)
	assert.Regexp(t, `all +3\.0 \(12\) +5\.5 \(4†\) +4\.0 \(16\)`, text)
	assert.Contains(t, text, "† fewer than 10 lengths, whose percentiles say little. Records from 2026-01-01 to 2026-02-10.")
	assert.Contains(t, text, "Note: something to know")

	// With more statistics each pair of groups has a row, and what still runs stands beside the steps.
	a.Show = []string{"median", "p90"}
	for _, groups := range []*[]api.Group{&a.Parts[0].Groups, {a.Parts[0].Total}} {
		for i := range *groups {
			(*groups)[i].Figures = append((*groups)[i].Figures, some(9))
		}
	}
	a.Parts[0].Total.Figures = append(a.Parts[0].Total.Figures, some(9))
	a.Parts[0].Groups[1].Running = "60.00"
	a.Parts[0].AllGroups = 3
	text = drawnAt(tookSheets(a, false)[0], 0)
	assert.Contains(t, text, "(none)")
	assert.Contains(t, text, "60.00")
	assert.Contains(t, text, "p90 is the 90th percentile.")
	assert.Contains(t, text, "Note: the first 2 of 3 groups are shown; a file has all: --output FILE")
}

// A chain has a row for each leg and one for the whole; what is left out for other reasons is one number.
func TestChainsStandLegByLeg(t *testing.T) {
	leg := func(n int, mean float64) api.Group {
		g := lengthsOf(nil, n, mean, nil)
		g.Reconciliation = append(g.Reconciliation, api.Reconciliation{State: "cancelled", Label: "cancelled", Orders: 2}, api.Reconciliation{State: "no-start", Label: "no day", Orders: 3}, api.Reconciliation{State: "end-before-start", Label: "before", Orders: 4})
		g.EveryLeg = &api.EveryLeg{N: 5, Mean: some(mean)}
		return g
	}
	a := &api.Took{Asked: api.Asked{Sentence: "How long?", Heading: "ordered → paid, days, elapsed", From: "ordered", To: "paid", Through: []string{"shipped"}}, Show: []string{"mean"},
		Parts: []api.TookPart{{Legs: []api.TookLeg{{From: "ordered", To: "shipped", Total: leg(20, 1.25)}, {From: "shipped", To: "paid", Total: leg(15, 2.5)}}, Total: leg(14, 3.75), ChainLine: "they add up",
			Steps: []api.Step{{Label: "orders in the book", Orders: 40}, {Label: "with the leg complete", Orders: 14, Left: []api.Reconciliation{{Label: "still running", Orders: 1_000}, {Label: "cancelled", Orders: 2}}}}}}}
	sheets := tookSheets(a, true)
	require.Len(t, sheets, 2)
	working := drawnAt(sheets[0], 0)
	assert.Contains(t, working, "The working, step by step")
	assert.Contains(t, working, "with the leg complete      14  1,000 still running, 2 cancelled")
	text := drawnAt(sheets[1], 0)
	assert.Contains(t, text, "days, elapsed")
	assert.NotContains(t, text, "ordered → paid, days", "each leg has its own name")
	assert.Regexp(t, `ordered → shipped +21 +20 +1\.25 +1 +2 +7 +5 +1\.25`, text)
	assert.Regexp(t, `ordered → paid +15 +14 +3\.75 +1 +2 +7 +5 +3\.75`, text)
	assert.Contains(t, text, "They add up")
}

// The promise: every standing has a column, and the late share its two numbers in words.
func TestPromisesInWords(t *testing.T) {
	g := lengthsOf(nil, 9, 2, nil)
	g.Kept = &api.Kept{Late: 3, Told: 8, LateShare: "37.50", Standings: []api.Standing{{Code: "early", Label: "early", Orders: 4}, {Code: "reached-late", Label: "shipped late", Orders: 2, Median: some(1.5), P90: some(2.8), Max: some(3)}, {Code: "overdue", Label: "open and overdue", Orders: 1}}}
	a := &api.Took{Asked: api.Asked{Sentence: "How long?", Promise: "promised"}, Show: []string{"mean"}, DataDate: "2026-10-31", NoCurve: "they come later", Parts: []api.TookPart{{Total: g}}}
	sheets := tookSheets(a, false)
	require.Len(t, sheets, 2)
	text := drawnAt(sheets[1], 0)
	assert.Regexp(t, `all +10 +4 +2 +1 +37\.50 +1\.5 +2\.8 +3`, text)
	assert.Contains(t, text, "3 late, open or not, of 8 that can be told")
	assert.Contains(t, text, "What is due on that day is not late.")
	assert.Contains(t, text, "Note: there is no estimate with running orders: they come later")
}

// Lanes are drawn on the days of each order's own calendar: rest days shaded, running ends open, same-day orders visible.
func TestLanesInTheTerminal(t *testing.T) {
	a := &api.Lanes{Asked: api.Asked{Sentence: "What was open?"}, From: "2026-10-08", To: "2026-10-12", DataDate: "2026-10-12", All: 5,
		Shown:     api.DaysShown{From: "2026-10-05", To: "2026-10-12"},
		Calendars: []api.LaneCalendar{{Name: "Galway", Off: []int{5, 6}}, {Name: "Muscat", Off: []int{4, 5}}},
		Lanes: []api.Lane{
			{Number: "A", Start: "2026-10-06", Reason: "carried through, still open", Calendar: 0},
			{Number: "B", Start: "2026-10-08", Close: "2026-10-11", Reason: "opened and closed inside", Calendar: 1},
			{Number: "C", Start: "2026-10-09", Close: "2026-10-09", Reason: "opened and closed inside", Calendar: 0},
			{Number: "D", Start: "2026-10-07", Close: "2026-10-10", Cancelled: true, Reason: "carried in, closed inside", Calendar: 0},
			{Number: "E", Start: "2026-09-01", Close: "2026-10-08", Reason: "carried in, closed inside", Calendar: 0},
		}}
	s := lanesSheet(a, 100)
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
	assert.Equal(t, []string{"No order was open."}, lanesSheet(&api.Lanes{}, 100).below)
	// Where the days are more than the terminal is wide, a character stands for several.
	for _, line := range drawLanes(&api.Lanes{Shown: api.DaysShown{From: "2025-01-01", To: "2026-10-31"}, From: "2025-01-01", To: "2026-10-31", DataDate: "2026-10-31", Calendars: a.Calendars, Lanes: a.Lanes}, 80) {
		assert.LessOrEqual(t, len([]rune(line)), 80)
	}
}

// What orders hold stands in units and in each currency by itself; with groups over time each group is a column.
func TestWhatWasOpenInTables(t *testing.T) {
	units := "12"
	amount := func(n int, values ...api.Value) api.Amount {
		return api.Amount{Orders: n, Units: &units, Values: values}
	}
	row := api.OpenRow{Name: "2026-07", AtStart: amount(3, api.Value{Currency: "EUR", Value: "5.00"}), Opened: amount(4, api.Value{Currency: "OMR", Value: "1.250"}), Closed: amount(2), AtEnd: amount(5, api.Value{Currency: "EUR", Value: "5.00"}, api.Value{Currency: "OMR", Value: "1.250"}), SomeTime: amount(6), NotOpen: amount(1)}
	a := &api.Open{Asked: api.Asked{Sentence: "What was open?", By: []string{"site"}}, ClosingDay: "out", Parts: []api.OpenPart{{Rows: []api.OpenRow{row}, Groups: []api.OpenGroup{{Keys: []string{""}, Rows: []api.OpenRow{row}}}, ReconciliationLine: "all add up"}}}
	sheets := openSheets(a)
	require.Len(t, sheets, 2)
	text := drawnAt(sheets[0], 0)
	assert.Regexp(t, `\(none\) +2026-07 +3 +4 +2 +5 +6 +1\n`, text)
	assert.Contains(t, text, "At its start 3 + opened 4 − closed 2 = at its end 5")
	holds := drawnAt(sheets[1], 0)
	assert.Regexp(t, `all +2026-07 +units +12 +12 +12 +12`, holds)
	assert.Regexp(t, `all +2026-07 +OMR +1\.250 +1\.250`, holds)
	a.Each = "month"
	text = drawnAt(openSheets(a)[0], 0)
	assert.Regexp(t, `month +\(none\) +all +opened +closed`, text)
	assert.Regexp(t, `2026-07 +5 +5 +4 +2`, text)
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
