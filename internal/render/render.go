// Package render writes lists of orders, and tables of answers, to files that people take away: CSV (RFC 4180), Office
// Open XML, NDJSON, JSON and Parquet. Rows are written as they come, so that a file can be larger than what is held of it.
// The first thing in every file is the sentence that says what it is.
package render

import (
	"fmt"
	"io"
	"iter"
	"slices"
	"strings"

	"prairiedusk/internal/core/list"
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

// A Head is what stands in a file besides its rows.
type Head struct {
	Sheet      string   // the name of the worksheet, for XLSX
	Sentence   string   // exactly what was asked
	Lines      []string // what was selected, and the reconciliation
	Columns    []Column
	Highlights []Highlight
}

// A Column is a column of the file.
type Column struct {
	Heading string
	Kind    list.Kind
	Timed   bool // its days can have a time of day
	// Remarked says that its cells can have remarks: those of lengths and of milestones.
	Remarked bool
}

// A Highlight makes rows or cells stand out.
type Highlight struct {
	Style  string
	Words  string // what is highlighted, and where
	Colour string // RRGGBB, of the ground
}

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

// Write writes a file. A format that is none of Formats panics.
func Write(w io.Writer, f Format, head Head, rows iter.Seq[list.Row]) error {
	switch f {
	case CSV:
		return writeCSV(w, head, rows)
	case XLSX:
		return writeXLSX(w, sheetOfRows{head, rows})
	case NDJSON:
		return writeNDJSON(w, head, rows)
	case JSON:
		return writeJSON(w, head, rows)
	case Parquet:
		return writeParquet(w, head, rows)
	}
	panic(fmt.Sprintf("render: no format %q", f))
}

// highlightColumn is the heading of a column that says how rows are highlighted, since colour alone says nothing.
const highlightColumn = "highlight"

// remarksColumn is the heading of a column that says of a row's cells what the table highlights with signs: that a length still
// runs, say. It stands where a column can have such remarks.
const remarksColumn = "remarks"

// headings are the names of the columns; of two alike none is left.
func (h Head) headings() []string {
	var names []string
	for _, c := range h.Columns {
		names = append(names, c.Heading)
	}
	add := func(name string) {
		for slices.Contains(names, name) {
			name += " of the row"
		}
		names = append(names, name)
	}
	if len(h.Highlights) > 0 {
		add(highlightColumn)
	}
	if h.remarked() {
		add(remarksColumn)
	}
	return names
}

// remarked says whether rows can have remarks.
func (h Head) remarked() bool {
	return slices.ContainsFunc(h.Columns, func(c Column) bool { return c.Remarked })
}

// besides are the cells of a row after those of its columns: its highlights and remarks, where the file has such columns.
func (h Head) besides(r list.Row) (cells []string) {
	if len(h.Highlights) > 0 {
		cells = append(cells, h.highlights(r))
	}
	if h.remarked() {
		cells = append(cells, h.remarks(r))
	}
	return cells
}

// remarks says in words what the table highlights with signs.
func (h Head) remarks(r list.Row) string {
	var words []string
	for i, c := range r.Cells {
		if remarks := c.Words(); len(remarks) > 0 {
			words = append(words, h.Columns[i].Heading+": "+strings.Join(remarks, ", "))
		}
	}
	return strings.Join(words, "; ")
}

// highlights says in words how a row is highlighted.
func (h Head) highlights(r list.Row) string {
	var words []string
	if r.Highlight >= 0 {
		words = append(words, h.Highlights[r.Highlight].Style)
	}
	for c, m := range r.Highlights {
		if m >= 0 {
			words = append(words, h.Highlights[m].Style+" "+h.Columns[c].Heading)
		}
	}
	return strings.Join(words, ", ")
}

// clock is the time of day in the text of a day.
func clock(c list.Cell) string {
	if c.Moment.Timed {
		return c.Moment.Clock()
	}
	_, clock, _ := strings.Cut(c.Text, " ")
	return clock
}
