package cli

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"

	"github.com/jedib0t/go-pretty/v6/text"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
)

// The worked example of the rules, day by day: the last running number is the length.
func TestStripRunsByWeeks(t *testing.T) {
	var days []api.StripDay
	for _, d := range []struct{ days, part, name string }{
		{"2026-06-29", "start", ""}, {"2026-06-30", "counted", ""}, {"2026-07-01", "holiday", "Canada Day"},
		{"2026-07-02", "counted", ""}, {"2026-07-03", "counted", ""}, {"2026-07-04", "weekend", ""}, {"2026-07-05", "weekend", ""},
		{"2026-07-06", "counted", ""}, {"2026-07-07", "counted", ""}, {"2026-07-08", "counted", ""}, {"2026-07-09", "counted", ""}, {"2026-07-10", "counted", ""},
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
	assert.Equal(t, "             Mon Tue Wed Thu Fri Sat Sun\n2026-06-29             1\n1 2 3 counted", strip([]api.StripDay{{Day: "2026-07-01", Part: "counted"}}))
}

// Hours stand in the place of the running numbers, and days that are worked by an entry of their own bear a sign.
func TestStripOfHoursAndOfDaysThatStandOut(t *testing.T) {
	hours := func(h float64) *float64 { return &h }
	assert.Equal(t, "               Mon   Tue   Wed   Thu   Fri   Sat   Sun\n"+
		"2026-12-21             2  7.75    ~4     H    +6        Thu 12-24 Eve · Fri 12-25 Christmas Day\n"+
		"1 2 3 counted   ~1 half day, counted   +1 extra working day, counted   H holiday   the numbers are hours",
		strip([]api.StripDay{{Day: "2026-12-22", Part: "counted", Hours: hours(2)}, {Day: "2026-12-23", Part: "counted", Hours: hours(7.75)},
			{Day: "2026-12-24", Part: "half day", Name: "Eve", Hours: hours(4)}, {Day: "2026-12-25", Part: "holiday", Name: "Christmas Day", Hours: hours(0)},
			{Day: "2026-12-26", Part: "extra working day", Hours: hours(6)}}))
	assert.Equal(t, "             Mon Tue Wed Thu Fri Sat Sun\n"+
		"2026-06-29                     ›   ›   –\n"+
		"2026-07-06     ·   1\n"+
		"› after cut-off, not counted   · start, not counted   1 2 3 counted   – weekend",
		strip([]api.StripDay{{Day: "2026-07-03", Part: "after cut-off"}, {Day: "2026-07-04", Part: "after cut-off"}, {Day: "2026-07-05", Part: "weekend"},
			{Day: "2026-07-06", Part: "start"}, {Day: "2026-07-07", Part: "counted"}}))
}

func someOrders() sheet {
	return sheet{
		title:   "How long from ordered to shipped, in working days, start day not counted, for orders ordered in 2026-Q3, by customer?",
		columns: append(texts("customer", "place"), column{name: "n", numeric: true}, column{name: "mean", over: "ordered → shipped, days, elapsed", numeric: true}),
		rows: [][]string{
			{"Mānuka Terrace Beekeepers' Co-operative", "Whakatāne, New Zealand", "1,204", "4.25"},
			{"Sidr \"Wadi\", Queens", "Nizwa, Oman", "7", ""},
		},
		total: []string{"all", "all", "1,211", "4.25"},
		below: []string{"1,211 orders asked about = 1,211 counted"},
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
	assert.Contains(t, out.String(), "ordered → shipped, days, elapsed\ncustomer ", "what columns share stands above them")
}

func TestCSVOpensWithTheSentence(t *testing.T) {
	var out bytes.Buffer
	s := someOrders()
	require.NoError(t, s.writeCSV(&out))
	rows, err := csv.NewReader(&out).ReadAll() // as many cells in each row, as RFC 4180 asks
	require.NoError(t, err)
	assert.Equal(t, []string{s.title, "", "", ""}, rows[0])
	assert.Equal(t, []string{"customer", "place", "n", "mean, ordered → shipped, days, elapsed"}, rows[1])
	assert.Equal(t, s.rows[1], rows[3])
	assert.Equal(t, s.total, rows[4])
}
