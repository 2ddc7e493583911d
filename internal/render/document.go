package render

import (
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/list"
)

// partColumn is the column in which a file says of which part of a document a row is.
const partColumn = "part"

// Document writes a document. JSON is the document itself; XLSX has a worksheet for each table that is no picture's, with the
// rows of all parts, and every other form the first of them. A format that is none of Formats panics.
func Document(w io.Writer, f Format, d *answer.Document) error {
	if f == JSON {
		out := json.NewEncoder(w)
		out.SetEscapeHTML(false)
		return out.Encode(d)
	}
	var sheets []sheetOfRows
	for _, t := range d.Parts[0].Tables {
		if !t.Picture {
			name := t.Code
			if len(sheets) == 0 {
				name = d.Analysis
			}
			sheets = append(sheets, sheetOf(d, t.Code, strings.ToUpper(name[:1])+name[1:]))
		}
	}
	if f == XLSX {
		return writeXLSX(w, sheets...)
	}
	return Write(w, f, sheets[0].Head, sheets[0].rows)
}

// mostColumns is how many columns a worksheet holds.
const mostColumns = 1 << 14

// CheckDocument says whether a format can hold a document. The error says what does not fit.
func (f Format) CheckDocument(d *answer.Document) error {
	rows := map[string]int{} // by table
	for _, p := range d.Parts {
		for _, t := range p.Tables {
			if t.Picture {
				continue
			}
			if f == XLSX && len(t.Columns) > mostColumns-2 {
				return fmt.Errorf("an XLSX worksheet holds %d columns, and the table %s has %d; want another form, or a coarser grouping",
					mostColumns, t.Code, len(t.Columns))
			}
			if rows[t.Code] += len(t.Rows) + len(t.Totals); f.Check(rows[t.Code]) != nil {
				return f.Check(rows[t.Code])
			}
		}
	}
	return nil
}

// sheetOf lays a table of a document out as a file has it.
func sheetOf(d *answer.Document, code, name string) sheetOfRows {
	head := Head{Sheet: name, Sentence: d.Asked()}
	parted, remarked := len(d.Parts) > 1, false
	var columns []answer.Column // those of all parts, each once
	for _, p := range d.Parts {
		t := p.Table(code)
		if t == nil {
			continue
		}
		for _, c := range t.Columns {
			if !slices.ContainsFunc(columns, func(other answer.Column) bool { return other.Code == c.Code }) {
				columns = append(columns, c)
			}
		}
		remarked = remarked || slices.ContainsFunc(slices.Concat(t.Rows, t.Totals), func(r answer.Row) bool { return r.Remarks != nil })
		for _, l := range p.Lines {
			head.Lines = append(head.Lines, strings.TrimSpace(p.Title+" "+l.Text)+".")
		}
		for _, n := range p.Notes {
			head.Lines = append(head.Lines, strings.TrimSpace(p.Title+" "+n.Text)+".")
		}
	}
	head.Lines = append(head.Lines, "Records from "+d.FirstDay+" to "+d.DataDate+".")
	if parted {
		head.Columns = append(head.Columns, Column{Heading: partColumn, Kind: list.Text})
	}
	for _, c := range columns {
		kind := list.Text
		switch {
		case c.Kind.Numeric():
			kind = list.Number
		case c.Kind == answer.Day:
			kind = list.OnDay
		}
		heading := c.Title()
		for slices.ContainsFunc(head.Columns, func(other Column) bool { return other.Heading == heading }) {
			heading += ", " + c.Code
		}
		head.Columns = append(head.Columns, Column{Heading: heading, Kind: kind})
	}
	if remarked {
		head.Columns = append(head.Columns, Column{Heading: remarksColumn, Kind: list.Text})
	}
	return sheetOfRows{head, func(yield func(list.Row) bool) {
		for _, p := range d.Parts {
			t := p.Table(code)
			if t == nil {
				continue
			}
			for _, r := range slices.Concat(t.Rows, t.Totals) {
				row := list.Row{Highlight: -1, Highlights: slices.Repeat([]int{-1}, len(head.Columns))}
				if parted {
					row.Cells = append(row.Cells, list.Cell{Text: p.Title})
				}
				for _, c := range columns {
					row.Cells = append(row.Cells, cellOf(t, c, r))
				}
				if remarked {
					row.Cells = append(row.Cells, list.Cell{Text: strings.Join(r.Remarks, ", ")})
				}
				if !yield(row) {
					return
				}
			}
		}
	}}
}

// cellOf is what a row has in a column; empty where its part has no such column.
func cellOf(t *answer.Table, c answer.Column, r answer.Row) (cell list.Cell) {
	at := t.At(c.Code)
	if at < 0 {
		return cell
	}
	of := r.Cells[at]
	if cell.Text = of.Text; of.Number != nil {
		cell.Number = *of.Number
		cell.Text = strconv.FormatFloat(cell.Number, 'f', -1, 64)
	} else if c.Kind.Numeric() {
		cell.Text = ""
	}
	if c.Kind == answer.Day {
		cell.Day, _ = day.Parse(of.Text) // an empty text is no day
	}
	return cell
}
