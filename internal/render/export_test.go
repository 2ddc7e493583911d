package render

import (
	"bytes"
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
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/escape"
)

var head = Head{
	Sheet:    "Orders",
	Sentence: "How long from ordered to shipped?", Lines: []string{"3 orders selected = 3 counted."},
	Columns: []Column{{Heading: "number", Kind: list.Text}, {Heading: "=shipped", Kind: list.OnDay, Timed: true},
		{Heading: "value", Kind: list.Number}, {Heading: "unpaid", Kind: list.YesNo}, {Heading: "lines.product", Kind: list.Joined}},
	Highlights: []Highlight{{"amber", "unpaid", "F6D9A0"}, {"teal", "value > 3, on value", "BFE3DE"}},
}

func drawRow(t *rapid.T) list.Row {
	text := rapid.SampledFrom([]string{"", "007", "=1+1", "'=1", "+1 555", "a, \"b\"\nc", "Mānuka <b>&", "2: =A1, -3"})
	row := list.Row{Number: "N", Highlight: rapid.IntRange(-1, 0).Draw(t, "highlight"), Highlights: []int{-1, -1, -1, -1, -1},
		Cells: make([]list.Cell, 5)}
	row.Highlights[2] = rapid.SampledFrom([]int{-1, 1}).Draw(t, "cell highlight")
	row.Cells[0].Text, row.Cells[4].Text = text.Draw(t, "number"), text.Draw(t, "products")
	if rapid.Bool().Draw(t, "shipped") {
		d := day.Day(rapid.Int32Range(40000, 60000).Draw(t, "day"))
		row.Cells[1] = list.Cell{Text: d.String() + rapid.SampledFrom([]string{"", " 14:05", " 23:59:30"}).Draw(t, "clock"), Day: d}
	}
	if rapid.Bool().Draw(t, "valued") {
		n := rapid.SampledFrom([]string{"12.50", "-3", "0.125"}).Draw(t, "value")
		row.Cells[2].Text = n
		row.Cells[2].Number, _ = strconv.ParseFloat(n, 64)
	}
	row.Cells[3].Text = rapid.SampledFrom([]string{list.Yes, list.No, list.Undecided}).Draw(t, "unpaid")
	return row
}

func highlightsOf(r list.Row) string {
	var words []string
	if r.Highlight == 0 {
		words = append(words, "amber")
	}
	if r.Highlights[2] == 1 {
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
			require.NoError(t, Write(&out, f, head, slices.Values(rows)))
			return out.Bytes()
		}
		requireCSV(t, write(CSV), rows)
		requireJSON(t, write(JSON), write(NDJSON), rows)
		requireXLSX(t, write(XLSX), rows)
		requireParquet(t, write(Parquet), rows)
	})
}

func requireCSV(t *rapid.T, file []byte, rows []list.Row) {
	records, err := csv.NewReader(bytes.NewReader(file)).ReadAll()
	require.NoError(t, err)
	require.Len(t, records, len(rows)+2)
	require.Equal(t, []string{"How long from ordered to shipped? 3 orders selected = 3 counted.", "", "", "", "", ""}, records[0])
	require.Equal(t, []string{"number", "'=shipped", "value", "unpaid", "lines.product", "highlight"}, records[1])
	for i, r := range rows {
		for c, cell := range r.Cells {
			got := records[i+2][c]
			require.Equal(t, cell.Text, escape.Back(got))
			if c == 0 || c == 4 {
				require.NotContains(t, "=+-@", (got + "x")[:1], "a spreadsheet runs %q", got)
			}
		}
		require.Equal(t, highlightsOf(r), records[i+2][5])
	}
}

func requireJSON(t *rapid.T, whole, lines []byte, rows []list.Row) {
	var all struct {
		Sentence string
		Columns  []string
		Rows     []map[string]any
	}
	require.NoError(t, json.Unmarshal(whole, &all))
	require.Equal(t, head.Sentence, all.Sentence)
	require.Len(t, all.Rows, len(rows))
	decoder := json.NewDecoder(bytes.NewReader(lines))
	var first map[string]any
	require.NoError(t, decoder.Decode(&first))
	require.Equal(t, head.Sentence, first["sentence"])
	for i, r := range rows {
		var line map[string]any
		require.NoError(t, decoder.Decode(&line))
		orNull := func(text string) any {
			if text == "" {
				return nil
			}
			return text
		}
		want := map[string]any{"number": orNull(r.Cells[0].Text), "=shipped": orNull(strings.Replace(r.Cells[1].Text, " ", "T", 1)),
			"value":  nil,
			"unpaid": map[string]any{list.Yes: true, list.No: false}[r.Cells[3].Text], "lines.product": orNull(r.Cells[4].Text),
			"highlight": highlightsOf(r)}
		if r.Cells[2].Text != "" {
			want["value"] = r.Cells[2].Number
		}
		require.Equal(t, want, all.Rows[i])
		require.Equal(t, want, line)
	}
	require.False(t, decoder.More())
}

func requireXLSX(t *rapid.T, file []byte, rows []list.Row) {
	book, err := excelize.OpenReader(bytes.NewReader(file))
	require.NoError(t, err)
	defer book.Close()
	about, err := book.GetCellValue(aboutSheet, "A1")
	require.NoError(t, err)
	require.Equal(t, head.Sentence, about)
	panes, err := book.GetPanes(head.Sheet)
	require.NoError(t, err)
	require.True(t, panes.Freeze && panes.YSplit == 1 && panes.XSplit == 1)
	for i, r := range rows {
		for c, cell := range r.Cells {
			at, _ := excelize.CoordinatesToCellName(c+1, i+2)
			raw, err := book.GetCellValue(head.Sheet, at, excelize.Options{RawCellValue: true})
			require.NoError(t, err)
			formula, err := book.GetCellFormula(head.Sheet, at)
			require.NoError(t, err)
			require.Empty(t, formula)
			kind, err := book.GetCellType(head.Sheet, at)
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
				shown, err := book.GetCellValue(head.Sheet, at)
				require.NoError(t, err)
				require.Equal(t, cell.Text[:min(len(cell.Text), 16)], shown)
			case 2:
				require.Equal(t, cell.Number, must(strconv.ParseFloat(raw, 64)))
				require.NotEqual(t, excelize.CellTypeInlineString, kind)
			default:
				require.Equal(t, cell.Text, raw)
				require.Equal(t, excelize.CellTypeInlineString, kind)
			}
			id, err := book.GetCellStyle(head.Sheet, at)
			require.NoError(t, err)
			style, err := book.GetStyle(id)
			require.NoError(t, err)
			ground := []string(nil)
			if r.Highlight == 0 {
				ground = []string{"F6D9A0"}
			}
			if c == 2 && r.Highlights[2] == 1 {
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

func requireParquet(t *rapid.T, file []byte, rows []list.Row) {
	opened, err := parquet.OpenFile(bytes.NewReader(file), int64(len(file)))
	require.NoError(t, err)
	sentence, _ := opened.Lookup("sentence")
	require.Equal(t, head.Sentence, sentence)
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
		d, clock, _ := strings.Cut(r.Cells[1].Text, " ")
		if d != "" {
			d = fmt.Sprint(int(r.Cells[1].Day - day.Of(1970, 1, 1)))
		}
		value := ""
		if r.Cells[2].Text != "" {
			value = parquet.DoubleValue(r.Cells[2].Number).String()
		}
		require.Equal(t, []string{r.Cells[0].Text, d, clock, value, map[string]string{list.Yes: "true",
			list.No: "false"}[r.Cells[3].Text], r.Cells[4].Text, highlightsOf(r)}, texts)
	}
}

func TestWhatAWorksheetCannotHoldIsRefused(t *testing.T) {
	assert.NoError(t, XLSX.Check(1_048_575))
	assert.EqualError(t, XLSX.Check(1_048_576),
		"an XLSX worksheet holds 1048575 rows below its head, and these are 1048576; take them away as CSV or Parquet, or narrow the list")
	assert.NoError(t, CSV.Check(5_000_000))
	row := list.Row{Number: "N-1", Highlight: -1, Highlights: []int{-1}, Cells: []list.Cell{{Text: strings.Repeat("ü", mostCharacters+1)}}}
	var out bytes.Buffer
	err := Write(&out, XLSX, Head{Sheet: "Orders", Columns: []Column{{Heading: "products", Kind: list.Joined}}},
		slices.Values([]list.Row{row}))
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
