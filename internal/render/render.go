// Package render writes lists of orders, and tables of answers, to files that people take away: CSV (RFC 4180), Office
// Open XML, NDJSON, JSON and Parquet. Rows are written as they come, so that a file can be larger than what is held of it.
// The first thing in every file is the sentence that says what it is.
package render

import (
	"fmt"
	"io"
	"iter"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/answer"
)

// A Format is the form of a file, which is also its ending.
type Format string

// The formats.
const (
	CSV     Format = "csv"
	XLSX    Format = "xlsx"
	NDJSON  Format = "ndjson"
	JSON    Format = "json"
	Parquet Format = "parquet"
)

// Formats lists the formats.
func Formats() []string {
	return []string{string(CSV), string(XLSX), string(NDJSON), string(JSON), string(Parquet)}
}

var mediaTypes = map[Format]string{
	CSV: "text/csv; charset=utf-8", XLSX: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
	NDJSON: "application/x-ndjson", JSON: "application/json", Parquet: "application/vnd.apache.parquet",
}

// MediaType is the format's media type.
func (f Format) MediaType() string { return mediaTypes[f] }

// mostRows is how many rows a worksheet holds below its head.
const mostRows = 1<<20 - 1

// A TooManyError says that a format cannot hold so many rows.
type TooManyError struct{ Rows int }

func (e *TooManyError) Error() string {
	return fmt.Sprintf("an XLSX worksheet holds %d rows below its head, and these are %d; take them away as CSV or Parquet, or narrow the list", mostRows, e.Rows)
}

// Check says whether a format can hold so many rows. The error is a *TooManyError.
func (f Format) Check(rows int) error {
	if f == XLSX && rows > mostRows {
		return &TooManyError{rows}
	}
	return nil
}

// write writes sheets: an XLSX file has a worksheet for each, every other form has the first. A format that is none of Formats
// panics.
func write(w io.Writer, f Format, sheets []sheet) error {
	switch f {
	case CSV:
		return writeCSV(w, sheets[0])
	case XLSX:
		return writeXLSX(w, sheets)
	case NDJSON:
		return writeNDJSON(w, sheets[0])
	case Parquet:
		return writeParquet(w, sheets[0])
	}
	panic(fmt.Sprintf("render: no format %q", f))
}

// A sheet is a table as a file has it: what it is, its columns, and its rows, each with a cell for every column.
type sheet struct {
	name       string // of the worksheet, for XLSX
	sentence   string // exactly what was asked
	lines      []string
	columns    []answer.Column // with headings of which no two are alike
	highlights []answer.Highlight
	marks      []answer.Mark
	remarked   bool // rows have remarks
	rows       iter.Seq[answer.Row]
}

// Columns that a file has besides those of its table: highlightColumn says how rows are highlighted, since colour alone says nothing,
// and remarksColumn what the table shows with signs, that a length still runs, say.
const (
	highlightColumn = "highlight"
	remarksColumn   = "remarks"
)

// headings are the names of the columns; of two alike none is left.
func (s sheet) headings() []string {
	var names []string
	for _, c := range s.columns {
		names = append(names, c.Heading)
	}
	add := func(name string) {
		for slices.Contains(names, name) {
			name += " of the row"
		}
		names = append(names, name)
	}
	if len(s.highlights) > 0 {
		add(highlightColumn)
	}
	if s.remarked {
		add(remarksColumn)
	}
	return names
}

// besides are the cells of a row after those of its columns: its highlights and remarks, where the file has such columns.
func (s sheet) besides(r answer.Row) (cells []string) {
	if len(s.highlights) > 0 {
		cells = append(cells, s.highlighted(r))
	}
	if s.remarked {
		cells = append(cells, s.remarks(r))
	}
	return cells
}

// remarks are those of a row, and in words what its cells are marked with.
func (s sheet) remarks(r answer.Row) string {
	words := slices.Clone(r.Remarks)
	for i, c := range r.Cells {
		var names []string
		for _, m := range c.Marks {
			names = append(names, s.marks[m].Name)
		}
		if names != nil {
			words = append(words, s.columns[i].Heading+": "+strings.Join(names, ", "))
		}
	}
	if s.marks == nil {
		return strings.Join(words, ", ")
	}
	return strings.Join(words, "; ")
}

// highlighted says in words how a row is highlighted.
func (s sheet) highlighted(r answer.Row) string {
	var words []string
	if r.Highlight > 0 {
		words = append(words, s.highlights[r.Highlight-1].Style)
	}
	for i, c := range r.Cells {
		if c.Highlight > 0 {
			words = append(words, s.highlights[c.Highlight-1].Style+" "+s.columns[i].Heading)
		}
	}
	return strings.Join(words, ", ")
}

// text is a cell as files of text have it: numbers with all their digits and nothing between them, days with their time.
func text(c answer.Column, cell answer.Cell) string {
	switch {
	case cell.Exact != "":
		return cell.Exact
	case c.Kind.Numeric() && cell.Number != nil:
		return strconv.FormatFloat(*cell.Number, 'f', -1, 64)
	case c.Kind.Numeric():
		return ""
	}
	return cell.Text
}

// timeOf is the time of day, and the distance from UTC where it is known, of a day that has one: "14:30", "14:30:00+02:00".
func timeOf(cell answer.Cell) string {
	_, time, _ := strings.Cut(cell.Exact, "T")
	return time
}
