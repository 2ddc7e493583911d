package render

import (
	"fmt"
	"io"
	"iter"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/numfmt"
)

// partColumn is the column in which a file says of which part of a document a row is.
const partColumn = "part"

// Document writes a document. JSON is the document itself; XLSX has a worksheet for each table that is no picture's, with the
// rows of all parts, and every other form the first of them. A format that is none of Formats panics.
func Document(w io.Writer, f Format, d *answer.Document) error {
	if f == JSON {
		_, err := w.Write(append(marshalled(d), '\n'))
		return err
	}
	var sheets []sheet
	for _, t := range d.Parts[0].Tables {
		if !t.Picture {
			name := t.Code
			if len(sheets) == 0 {
				name = d.Analysis
			}
			sheets = append(sheets, sheetOf(d, t.Code, strings.ToUpper(name[:1])+name[1:]))
		}
	}
	return write(w, f, sheets)
}

// List writes a document of one table whose rows come one by one, each good until the next.
func List(w io.Writer, f Format, d *answer.Document, rows iter.Seq[answer.Row]) error {
	if f == JSON {
		return writeJSON(w, d, rows)
	}
	s := sheetOf(d, d.Parts[0].Tables[0].Code, strings.ToUpper(d.Analysis[:1])+d.Analysis[1:])
	s.rows = rows
	return write(w, f, []sheet{s})
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
func sheetOf(d *answer.Document, code, name string) sheet {
	s := sheet{name: name, sentence: d.Asked()}
	parted := len(d.Parts) > 1
	var columns []answer.Column // those of all parts, each once
	for _, p := range d.Parts {
		t := p.Table(code)
		if t == nil {
			continue
		}
		if t.Sort != "" {
			s.lines = append(s.lines, fmt.Sprintf("%s: %s in %s, by %s.", t.Title, numfmt.Counted(t.Orders, "order"),
				numfmt.Counted(t.All, "row"), t.Sort))
		}
		s.highlights, s.marks = t.Highlights, t.Marks
		for _, c := range t.Columns {
			if t.Sort != "" || !slices.ContainsFunc(columns, func(other answer.Column) bool { return other.Code == c.Code }) {
				columns = append(columns, c)
			}
		}
		s.remarked = s.remarked || t.Marks != nil ||
			slices.ContainsFunc(slices.Concat(t.Rows, t.Totals), func(r answer.Row) bool { return r.Remarks != nil })
		for _, l := range p.Lines {
			s.lines = append(s.lines, strings.TrimSpace(p.Title+" "+l.Text)+".")
		}
		for _, n := range p.Notes {
			s.lines = append(s.lines, strings.TrimSpace(p.Title+" "+n.Text)+".")
		}
	}
	s.lines = append(s.lines, d.Records())
	if parted {
		s.columns = append(s.columns, answer.Column{Heading: partColumn, Kind: answer.Text})
	}
	for _, c := range columns {
		c.Heading = c.Title()
		for slices.ContainsFunc(s.columns, func(other answer.Column) bool { return other.Heading == c.Heading }) {
			c.Heading += ", " + c.Code
		}
		s.columns = append(s.columns, c)
	}
	s.rows = func(yield func(answer.Row) bool) {
		for _, p := range d.Parts {
			t := p.Table(code)
			if t == nil {
				continue
			}
			for _, r := range slices.Concat(t.Rows, t.Totals) {
				row := answer.Row{Remarks: r.Remarks}
				if parted {
					row.Cells = append(row.Cells, answer.Words(p.Title))
				}
				for _, c := range columns {
					var cell answer.Cell // empty where its part has no such column
					if at := t.At(c.Code); at >= 0 {
						cell = r.Cells[at]
					}
					row.Cells = append(row.Cells, cell)
				}
				if !yield(row) {
					return
				}
			}
		}
	}
	return s
}
