package cli

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"
	"time"

	"github.com/jedib0t/go-pretty/v6/text"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
)

// The worked example of the rules, day by day: the last running number is the length.
func TestStripRunsByWeeks(t *testing.T) {
	var days []api.StripDay
	for _, d := range []struct{ days, part, name string }{
		{"2026-06-29", "start", ""}, {"2026-06-30", "counted", ""}, {"2026-07-01", "holiday", "Canada Day"},
		{"2026-07-02", "counted", ""}, {"2026-07-03", "counted", ""}, {"2026-07-04", "weekend", ""}, {"2026-07-05", "weekend", ""},
		{"2026-07-06", "counted", ""}, {"2026-07-07", "counted", ""}, {"2026-07-08", "counted", ""}, {"2026-07-09", "counted", ""},
		{"2026-07-10", "counted", ""},
		{"2026-07-11", "extra working day", "Stocktake"},
	} {
		days = append(days, api.StripDay{Day: d.days, Part: d.part, Name: d.name})
	}
	want := strings.Join([]string{
		"             Mon Tue Wed Thu Fri Sat Sun",
		"2026-06-29     ·   1   H   2   3   –   –  Wed 07-01 Canada Day",
		"2026-07-06     4   5   6   7   8  +9      Sat 07-11 Stocktake",
		"· start, not counted   1 2 3 counted   +1 extra working day, counted   H holiday   – weekend",
	}, "\n")
	assert.Equal(t, want, strip(days))
	assert.Equal(t, "             Mon Tue Wed Thu Fri Sat Sun\n2026-06-29             1\n1 2 3 counted",
		strip([]api.StripDay{{Day: "2026-07-01", Part: "counted"}}))
}

// Hours stand in the place of the running numbers, and days that are worked by an entry of their own bear a sign.
func TestStripOfHoursAndOfDaysThatStandOut(t *testing.T) {
	hours := func(h float64) *float64 { return &h }
	assert.Equal(t, "               Mon   Tue   Wed   Thu   Fri   Sat   Sun\n"+
		"2026-12-21             2  7.75    ~4     H    +6        Thu 12-24 Eve · Fri 12-25 Christmas Day\n"+
		"1 2 3 counted   ~1 half day, counted   +1 extra working day, counted   H holiday   the numbers are hours",
		strip([]api.StripDay{{Day: "2026-12-22", Part: "counted", Hours: hours(2)}, {Day: "2026-12-23", Part: "counted",
			Hours: hours(7.75)},
			{Day: "2026-12-24", Part: "half day", Name: "Eve", Hours: hours(4)}, {Day: "2026-12-25", Part: "holiday",
				Name: "Christmas Day", Hours: hours(0)},
			{Day: "2026-12-26", Part: "extra working day", Hours: hours(6)}}))
	assert.Equal(t, "             Mon Tue Wed Thu Fri Sat Sun\n"+
		"2026-06-29                     ›   ›   –\n"+
		"2026-07-06     ·   1\n"+
		"› after cut-off, not counted   · start, not counted   1 2 3 counted   – weekend",
		strip([]api.StripDay{{Day: "2026-07-03", Part: "after cut-off"}, {Day: "2026-07-04", Part: "after cut-off"},
			{Day: "2026-07-05", Part: "weekend"},
			{Day: "2026-07-06", Part: "start"}, {Day: "2026-07-07", Part: "counted"}}))
}

func someOrders() sheet {
	return sheet{
		title: "How long from order date to ship date, in working days, start day not counted, for orders ordered in 2026-Q3, by customer?",
		columns: append(texts("customer", "place"), column{name: "n", numeric: true},
			column{name: "mean", over: "order date → ship date, days, start day not counted", numeric: true}),
		rows: [][]string{
			{"Mānuka Terrace Beekeepers' Co-operative", "Whakatāne, New Zealand", "1,204", "4.25"},
			{"Sidr \"Wadi\", Queens", "Nizwa, Oman", "7", ""},
		},
		total: []string{"all", "all", "1,211", "4.25"},
		below: []string{"1,211 orders selected = 1,211 counted"},
	}
}

func TestTablesFitTheTerminal(t *testing.T) {
	for _, width := range []int{200, 100, 60, 44} {
		var out bytes.Buffer
		someOrders().writeTable(&out, width)
		for line := range strings.SplitSeq(out.String(), "\n") {
			assert.LessOrEqualf(t, text.StringWidthWithoutEscSequences(line), width, "at %d: %q", width, line)
		}
		assert.Contains(t, out.String(), "1,204", "a number never gives way")
	}
	var drawn bytes.Buffer
	sheet{below: []string{"Mon Tue\n  ·   1"}}.writeTable(&drawn, 80)
	assert.Contains(t, drawn.String(), "Mon Tue\n  ·   1\n", "what is drawn keeps its lines")
	var out bytes.Buffer
	someOrders().writeTable(&out, 0)
	assert.Contains(t, out.String(), "Mānuka Terrace Beekeepers' Co-operative", "a file has no width")
	assert.Contains(t, out.String(), "order date → ship date, days, start day not counted\ncustomer ", "what columns share stands above them")
}

func TestCSVOpensWithTheSentence(t *testing.T) {
	var out bytes.Buffer
	s := someOrders()
	require.NoError(t, s.writeCSV(&out))
	rows, err := csv.NewReader(&out).ReadAll() // as many cells in each row, as RFC 4180 asks
	require.NoError(t, err)
	assert.Equal(t, []string{s.title, "", "", ""}, rows[0])
	assert.Equal(t, []string{"customer", "place", "n", "mean, order date → ship date, days, start day not counted"}, rows[1])
	assert.Equal(t, s.rows[1], rows[3])
	assert.Equal(t, s.total, rows[4])
}

func someList() *answer.Document {
	const heading = "order date → ship date, days, start day not counted"
	return &answer.Document{Sentence: []answer.Word{{Text: "How long?"}}, Heading: heading, Parts: []answer.Part{{Tables: []answer.Table{{
		Code: "orders", Title: "All selected orders", Orders: 3, All: 3, Sort: "number",
		Columns: []answer.Column{{Code: "number", Heading: "number", Kind: answer.Order},
			{Code: "length", Heading: heading, Kind: answer.Number}, {Code: "shipped", Heading: "Gone", Own: true, Kind: answer.Day}},
		Highlights: []answer.Highlight{{Style: "amber", Column: -1, Where: "shipped == null"},
			{Style: "teal", Column: 1, Where: "days(ordered, shipped) > 4"}},
		Marks: []answer.Mark{{Sign: "?", Text: "holidays are not known"}, {Sign: "+", Text: "still running"}, {Sign: "*", Text: "not known yet"}},
		Rows: []answer.Row{
			{Order: "N1", Cells: []answer.Cell{{Text: "N1"}, {Text: "3", Marks: []int{0}}, {Text: "2026-07-03"}}},
			{Order: "N2", Cells: []answer.Cell{{Text: "N2"}, {Text: "5", Highlight: 2}, {Text: "2026-07-06"}}},
			{Order: "N3", Highlight: 1, Cells: []answer.Cell{{Text: "N3"}, {}, {Text: "2026-12-01", Marks: []int{2}}}},
		},
		Totals: []answer.Row{{Cells: []answer.Cell{{}, {Text: "4.00 of 2", Basis: "mean per order"}, {}}}},
	}}}}}
}

func TestListsSayWhatTheirSignsMean(t *testing.T) {
	d := someList()
	sheets := documentSheets(d, nil, false)
	require.Len(t, sheets, 1)
	assert.Equal(t, [][]string{{"", "N1", "3?", "2026-07-03"}, {"", "N2", "● 5", "2026-07-06"}, {"◆", "N3", "", "2026-12-01*"}},
		sheets[0].rows)
	assert.Equal(t, []column{{}, {name: "number"}, {name: "length", over: "order date → ship date, days, start day not counted", numeric: true},
		{name: "Gone"}}, sheets[0].columns)
	assert.Equal(t, []string{
		"All selected orders: 3 orders in 3 rows; shown: 1 to 3, by number.",
		"Over all pages: order date → ship date, days, start day not counted (mean per order) 4.00 of 2.",
		"◆ amber: shipped == null", "● teal on order date → ship date, days, start day not counted: days(ordered, shipped) > 4",
		"? holidays are not known", "* not known yet",
	}, sheets[0].below[:6])

	// Two sections: those still waiting stand by themselves, or are said to follow.
	t0 := &d.Parts[0].Tables[0]
	t0.Sections = []answer.Section{{Title: "Finished: 2 orders", Rows: 2, Orders: 2}, {Title: "Still waiting: 1 order", Rows: 1, Orders: 1}}
	d.Parts[0].Lines = []answer.Line{{Text: "4 orders in the book = 3 selected + 1 do not meet the condition"}}
	sheets = documentSheets(d, nil, false)
	require.Len(t, sheets, 2)
	assert.Equal(t, []int{2, 1}, []int{len(sheets[0].rows), len(sheets[1].rows)})
	assert.Equal(t, "How long?\nFinished: 2 orders", sheets[0].title)
	assert.Equal(t, "Still waiting: 1 order", sheets[1].title)
	assert.Contains(t, sheets[1].below, d.Parts[0].Lines[0].Text)
	whole := t0.Rows
	t0.Rows = whole[:2]
	sheets = documentSheets(d, nil, false)
	assert.Equal(t, "Still waiting: 1 order; they follow, from --offset 2 on", sheets[1].title)
	assert.Empty(t, sheets[1].columns)
	t0.Rows, t0.Offset = whole[2:], 2
	sheets = documentSheets(d, nil, false)
	assert.Equal(t, "Still waiting: 1 order", sheets[1].title)
	assert.Equal(t, [][]string{{"◆", "N3", "", "2026-12-01*"}}, sheets[1].rows)
	t0.Rows, t0.Offset = nil, 9
	assert.Contains(t, documentSheets(d, nil, false)[1].below[0], "shown: none")
}

func TestAnOrderInTime(t *testing.T) {
	days := []api.CalendarDay{}
	for i := range 72 {
		kind := []string{"working", "working", "half day", "working", "working", "weekend", "holiday"}[i%7]
		days = append(days, api.CalendarDay{Day: time.Date(2026, 6, 29+i, 0, 0, 0, 0, time.UTC).Format(time.DateOnly), Kind: kind})
	}
	drawn := life(days, []api.MilestoneOn{{Name: "ordered", Day: "2026-06-29"}, {Name: "promised", Day: "2026-07-03"},
		{Name: "shipped", Day: "2026-07-03"}, {Name: "paid", Day: "2026-09-07"}})
	lines := strings.Split(drawn, "\n")
	assert.Equal(t, "2026-06-29  "+strings.Repeat("··~··–H", 10), lines[0])
	assert.Equal(t, "            1   *", lines[1])
	assert.Equal(t, "2026-09-07  ··", lines[2])
	assert.Equal(t, "            4", lines[3])
	assert.Equal(t, "1 2 3 milestones, * several   · working   – weekend   H holiday   ~ half day", lines[4])
}

// Whatever stands in records: a terminal obeys nothing of it, and a spreadsheet runs none.
func TestTextsOfRecordsAreShownAndNeverRun(t *testing.T) {
	s := sheet{
		title: "About \x1b[2J", columns: append(texts("cus\x1btomer"), numbers("n")...), below: []string{"Of \u202ecustomers"},
		rows: [][]string{{"=HYPERLINK(1)\x1b]0;x\a", "-3"}, {"two\nlines", "4"}}, total: []string{"@all\u009b", "+1"},
	}
	var drawn, file bytes.Buffer
	s.writeTable(&drawn, 60)
	assert.NotContains(t, strings.NewReplacer("\x1b[1m", "", "\x1b[33m", "", "\x1b[0m", "").Replace(drawn.String()), "\x1b",
		"but for our own colours")
	for _, want := range []string{`About \x1b[2J`, `cus\x1btomer`, `=HYPERLINK(1)\x1b]0;x\x07`, `two\nlines`, `@all\x9b`,
		`Of \u202ecustomers`} {
		assert.Contains(t, drawn.String(), want)
	}
	require.NoError(t, s.writeCSV(&file))
	rows, err := csv.NewReader(&file).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"'=HYPERLINK(1)\x1b]0;x\a", "-3"}, {"two\nlines", "4"}, {"'@all\u009b", "+1"}}, rows[2:],
		"numbers stay numbers")
}
