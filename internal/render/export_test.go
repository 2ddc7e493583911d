package render

import (
	"bytes"
	"cmp"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/parquet-go/parquet-go"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/escape"
)

// listed is a list of one table without its rows, of which a column is of days with times.
func listed(columns ...answer.Column) *answer.Document {
	return &answer.Document{Analysis: "orders", Sentence: []answer.Word{{Text: "How long from order date to ship date?"}},
		FirstDay: "2026-07-01", DataDate: "2026-07-31", Parts: []answer.Part{{Lines: []answer.Line{{Text: "3 orders selected = 3 counted"}},
			Tables: []answer.Table{{Code: "orders", Columns: columns, Rows: []answer.Row{}, Totals: []answer.Row{}, Highlights: []answer.Highlight{
				{Style: "amber", Column: -1, Where: "unpaid"}, {Style: "teal", Column: 2, Where: "value > 3"}}}}}}}
}

var document = listed(answer.Column{Code: "number", Heading: "number", Kind: answer.Order},
	answer.Column{Code: "shipped", Heading: "=shipped", Kind: answer.Day, Timed: true},
	answer.Column{Code: "value", Heading: "value", Kind: answer.Number}, answer.Column{Code: "unpaid", Heading: "unpaid", Kind: answer.YesNo},
	answer.Column{Code: "products", Heading: "lines.product", Kind: answer.Text})

func drawRow(t *rapid.T) answer.Row {
	text := rapid.SampledFrom([]string{"", "007", "=1+1", "'=1", "+1 555", "a, \"b\"\nc", "Mānuka <b>& \"rows\":[]", "2: =A1, -3"})
	row := answer.Row{Order: "N", Highlight: rapid.IntRange(0, 1).Draw(t, "highlight"), Cells: make([]answer.Cell, 5)}
	row.Cells[0].Text, row.Cells[4].Text = text.Draw(t, "number"), text.Draw(t, "products")
	if rapid.Bool().Draw(t, "shipped") {
		at := day.Day(rapid.Int32Range(40000, 60000).Draw(t, "day")).String()
		row.Cells[1].Text = at
		if clock := rapid.SampledFrom([]string{"", "14:05", "23:59:30", "14:05:00+02:00"}).Draw(t, "clock"); clock != "" {
			row.Cells[1] = answer.Cell{Text: at + " " + clock[:min(8, len(clock))], Exact: at + "T" + clock}
		}
	}
	if rapid.Bool().Draw(t, "valued") {
		n := rapid.SampledFrom([]string{"1234.50", "-3", "0.125"}).Draw(t, "value")
		value, _ := strconv.ParseFloat(n, 64)
		row.Cells[2] = answer.Cell{Text: numfmt.Grouped(n), Exact: n, Number: &value}
	}
	row.Cells[2].Highlight = rapid.SampledFrom([]int{0, 2}).Draw(t, "cell highlight")
	row.Cells[3] = rapid.SampledFrom([]answer.Cell{{Text: "yes", Number: new(1.0)}, {Text: "no", Number: new(0.0)}, {Text: "undecided"}}).Draw(t,
		"unpaid")
	return row
}

func highlightsOf(r answer.Row) string {
	var words []string
	if r.Highlight == 1 {
		words = append(words, "amber")
	}
	if r.Cells[2].Highlight == 2 {
		words = append(words, "teal value")
	}
	return strings.Join(words, ", ")
}

// Whatever a list holds, every form gives it back: texts with their zeros and never run, days as days, numbers as numbers.
func TestEveryFormGivesBackWhatItHolds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		rows := rapid.SliceOfN(rapid.Custom(drawRow), 0, 4).Draw(t, "rows")
		write := func(f Format) []byte {
			var out bytes.Buffer
			require.NoError(t, List(&out, f, document, slices.Values(rows)))
			return out.Bytes()
		}
		requireCSV(t, write(CSV), rows)
		requireJSON(t, write(JSON), write(NDJSON), rows)
		requireXLSX(t, write(XLSX), rows)
		requireParquet(t, write(Parquet), rows)
	})
}

func requireCSV(t *rapid.T, file []byte, rows []answer.Row) {
	records, err := csv.NewReader(bytes.NewReader(file)).ReadAll()
	require.NoError(t, err)
	require.Len(t, records, len(rows)+2)
	require.Equal(t, []string{"How long from order date to ship date? 3 orders selected = 3 counted. Records from 2026-07-01 to 2026-07-31.", "", "", "", "", ""}, records[0])
	require.Equal(t, []string{"number", "'=shipped", "value", "unpaid", "lines.product", "highlight"}, records[1])
	for i, r := range rows {
		for c, cell := range r.Cells {
			got := records[i+2][c]
			require.Equal(t, cmp.Or(cell.Exact, cell.Text), escape.Back(got))
			if c == 0 || c == 4 {
				require.NotContains(t, "=+-@", (got + "x")[:1], "a spreadsheet runs %q", got)
			}
		}
		require.Equal(t, highlightsOf(r), records[i+2][5])
	}
}

func requireJSON(t *rapid.T, whole, lines []byte, rows []answer.Row) {
	var all answer.Document
	require.NoError(t, json.Unmarshal(whole, &all))
	require.Equal(t, document.Asked(), all.Asked())
	require.Equal(t, rows, all.Parts[0].Tables[0].Rows)
	decoder := json.NewDecoder(bytes.NewReader(lines))
	var first map[string]any
	require.NoError(t, decoder.Decode(&first))
	require.Equal(t, document.Asked(), first["sentence"])
	for _, r := range rows {
		var line map[string]any
		require.NoError(t, decoder.Decode(&line))
		orNull := func(text string) any {
			if text == "" {
				return nil
			}
			return text
		}
		want := map[string]any{"number": orNull(r.Cells[0].Text), "=shipped": orNull(cmp.Or(r.Cells[1].Exact, r.Cells[1].Text)),
			"value": nil, "unpaid": nil, "lines.product": orNull(r.Cells[4].Text), "highlight": highlightsOf(r)}
		if r.Cells[2].Number != nil {
			want["value"] = *r.Cells[2].Number
		}
		if r.Cells[3].Number != nil {
			want["unpaid"] = r.Cells[3].Text == "yes"
		}
		require.Equal(t, want, line)
	}
	require.False(t, decoder.More())
}

func requireXLSX(t *rapid.T, file []byte, rows []answer.Row) {
	book, err := excelize.OpenReader(bytes.NewReader(file))
	require.NoError(t, err)
	defer book.Close()
	about, err := book.GetCellValue(aboutSheet, "A1")
	require.NoError(t, err)
	require.Equal(t, document.Asked(), about)
	panes, err := book.GetPanes("Orders")
	require.NoError(t, err)
	require.True(t, panes.Freeze && panes.YSplit == 1 && panes.XSplit == 1)
	for i, r := range rows {
		for c, cell := range r.Cells {
			at, _ := excelize.CoordinatesToCellName(c+1, i+2)
			raw, err := book.GetCellValue("Orders", at, excelize.Options{RawCellValue: true})
			require.NoError(t, err)
			formula, err := book.GetCellFormula("Orders", at)
			require.NoError(t, err)
			require.Empty(t, formula)
			kind, err := book.GetCellType("Orders", at)
			require.NoError(t, err)
			if cell.Text == "" {
				require.Empty(t, raw)
				continue
			}
			switch c {
			case 1: // a number of days, and their fractions
				serial, err := strconv.ParseFloat(raw, 64)
				require.NoError(t, err)
				moment, err := excelize.ExcelDateToTime(serial, false)
				require.NoError(t, err)
				require.Equal(t, (cell.Text + " 00:00:00")[:10], moment.Round(time.Second).Format(time.DateOnly))
				shown, err := book.GetCellValue("Orders", at)
				require.NoError(t, err)
				require.Equal(t, cell.Text[:min(len(cell.Text), 16)], shown)
			case 2:
				require.Equal(t, *cell.Number, must(strconv.ParseFloat(raw, 64)))
				require.NotEqual(t, excelize.CellTypeInlineString, kind)
			default:
				require.Equal(t, cell.Text, raw)
				require.Equal(t, excelize.CellTypeInlineString, kind)
			}
			id, err := book.GetCellStyle("Orders", at)
			require.NoError(t, err)
			style, err := book.GetStyle(id)
			require.NoError(t, err)
			ground := []string(nil)
			if r.Highlight == 1 {
				ground = []string{"F6D9A0"}
			}
			if c == 2 && cell.Highlight == 2 {
				ground = []string{"BFE3DE"}
			}
			require.Equal(t, ground, style.Fill.Color, at)
		}
	}
}

func must(n float64, err error) float64 {
	if err != nil {
		panic(err)
	}
	return n
}

func requireParquet(t *rapid.T, file []byte, rows []answer.Row) {
	opened, err := parquet.OpenFile(bytes.NewReader(file), int64(len(file)))
	require.NoError(t, err)
	sentence, _ := opened.Lookup("sentence")
	require.Equal(t, document.Asked(), sentence)
	var names []string
	for _, f := range opened.Schema().Fields() {
		names = append(names, f.Name())
	}
	require.Equal(t, []string{"number", "=shipped", "=shipped, time of day", "value", "unpaid", "lines.product", "highlight"}, names)
	reader := parquet.NewGenericReader[any](opened)
	defer reader.Close()
	read := make([]parquet.Row, len(rows))
	n, _ := reader.ReadRows(read)
	require.Equal(t, len(rows), n)
	for i, r := range rows {
		texts := []string{}
		for _, v := range read[i] {
			text := ""
			if !v.IsNull() {
				text = v.String()
			}
			texts = append(texts, text)
		}
		d, value, unpaid := "", "", ""
		if at, err := day.Parse((r.Cells[1].Text + strings.Repeat(" ", 10))[:10]); err == nil {
			d = fmt.Sprint(int(at - day.Of(1970, 1, 1)))
		}
		_, clock, _ := strings.Cut(r.Cells[1].Exact, "T")
		if r.Cells[2].Number != nil {
			value = parquet.DoubleValue(*r.Cells[2].Number).String()
		}
		if r.Cells[3].Number != nil {
			unpaid = strconv.FormatBool(r.Cells[3].Text == "yes")
		}
		require.Equal(t, []string{r.Cells[0].Text, d, clock, value, unpaid, r.Cells[4].Text, highlightsOf(r)}, texts)
	}
}

func TestWhatAWorksheetCannotHoldIsRefused(t *testing.T) {
	assert.NoError(t, XLSX.Check(1_048_575))
	assert.EqualError(t, XLSX.Check(1_048_576),
		"an XLSX worksheet holds 1048575 rows below its head, and these are 1048576; take them away as CSV or Parquet, or narrow the list")
	assert.NoError(t, CSV.Check(5_000_000))
	row := answer.Row{Order: "N-1", Cells: []answer.Cell{{Text: strings.Repeat("ü", mostCharacters+1)}}}
	var out bytes.Buffer
	err := List(&out, XLSX, listed(answer.Column{Heading: "products", Kind: answer.Text}), slices.Values([]answer.Row{row}))
	assert.ErrorContains(t, err, `order N-1, column "products": a text of 32768 characters`)
	assert.Zero(t, out.Len(), "nothing is sent of a file that cannot be made")
}

// A worksheet that cannot hold a table is refused before anything is sent.
func TestDocumentsThatDoNotFit(t *testing.T) {
	wide := answer.Table{Code: "cross", Columns: make([]answer.Column, mostColumns-1)}
	d := &answer.Document{Parts: []answer.Part{{Tables: []answer.Table{wide}}}}
	assert.ErrorContains(t, XLSX.CheckDocument(d), "16384 columns")
	assert.NoError(t, CSV.CheckDocument(d))
	d.Parts[0].Tables[0] = answer.Table{Code: "groups", Rows: make([]answer.Row, mostRows/2+1)}
	assert.NoError(t, XLSX.CheckDocument(d))
	d.Parts = append(d.Parts, d.Parts[0]) // the parts stand in one worksheet
	var many *TooManyError
	assert.ErrorAs(t, XLSX.CheckDocument(d), &many)
	assert.NoError(t, Parquet.CheckDocument(d))
}
