package render

import (
	"fmt"
	"io"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/day"
)

const (
	aboutSheet = "About"
	// mostCharacters is how many a cell of a worksheet holds.
	mostCharacters = 32767
)

// A LongCellError says that a worksheet cannot hold a text.
type LongCellError struct {
	Number, Heading string
	Characters      int
}

func (e *LongCellError) Error() string {
	return fmt.Sprintf("order %s, column %q: a text of %d characters; a cell of an XLSX worksheet holds %d: export the list in another format, or with a row for each line", e.Number, e.Heading, e.Characters, mostCharacters)
}

// serial is the number of a day in a worksheet, which counts a 29 February 1900 that never was.
func serial(d day.Day) float64 {
	if d < day.Of(1900, 3, 1) {
		return float64(d)
	}
	return float64(d) + 1
}

// grounds are the colours of highlights, light enough for black text.
var grounds = map[string]string{"amber": "F6D9A0", "teal": "BFE3DE", "plum": "E3CBE0", "faint": "E8E4DE"}

// number forms of a worksheet.
const (
	dayForm   = "yyyy-mm-dd"
	clockForm = "yyyy-mm-dd hh:mm"
)

// writeXLSX puts the rows of each sheet into a worksheet of its own, below a frozen head, and what they are into another: so that
// all rows of a worksheet can be those of the table. The first sheet says what was asked.
func writeXLSX(w io.Writer, sheets []sheet) (err error) {
	file := excelize.NewFile()
	defer func() {
		if e := file.Close(); err == nil {
			err = e
		}
	}()
	styles, err := newStyles(file, sheets[0].highlights)
	if err != nil {
		return err
	}
	for i, s := range sheets {
		if i == 0 {
			err = file.SetSheetName("Sheet1", s.name)
		} else {
			_, err = file.NewSheet(s.name)
		}
		if err != nil {
			return err
		}
		if err := writeSheet(file, s, styles); err != nil {
			return err
		}
	}
	if err := writeAbout(file, sheets[0], styles); err != nil {
		return err
	}
	return file.Write(w)
}

// writeSheet streams the rows of a worksheet.
func writeSheet(file *excelize.File, s sheet, styles styles) error {
	out, err := file.NewStreamWriter(s.name)
	if err != nil {
		return err
	}
	if err := out.SetPanes(&excelize.Panes{Freeze: true, XSplit: 1, YSplit: 1, TopLeftCell: "B2", ActivePane: "bottomRight"}); err != nil {
		return err
	}
	headings := s.headings()
	cells := make([]any, len(headings))
	for i, heading := range headings {
		if err := out.SetColWidth(i+1, i+1, float64(min(40, max(12, utf8.RuneCountInString(heading)+2)))); err != nil {
			return err
		}
		cells[i] = excelize.Cell{StyleID: styles.heading, Value: heading}
	}
	if err := out.SetRow("A1", cells); err != nil {
		return err
	}
	at := 1
	for r := range s.rows {
		at++
		for i, c := range s.columns {
			if cells[i], err = styles.cell(r, i, c); err != nil {
				return err
			}
		}
		for i, besides := range s.besides(r) {
			cells[len(s.columns)+i] = besides
		}
		if err := out.SetRow(fmt.Sprintf("A%d", at), cells); err != nil {
			return err
		}
	}
	return out.Flush()
}

// styles are those of cells by what they hold, plain and on the ground of each highlight.
type styles struct {
	heading int
	by      map[string][]int // by number form; the plain one, then one for each highlight
}

func newStyles(file *excelize.File, highlights []answer.Highlight) (s styles, err error) {
	s.by = map[string][]int{}
	if s.heading, err = file.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true},
		Alignment: &excelize.Alignment{WrapText: true, Vertical: "top"}}); err != nil {
		return s, err
	}
	for _, form := range []string{"General", dayForm, clockForm} {
		for m := -1; m < len(highlights); m++ {
			style := &excelize.Style{CustomNumFmt: &form}
			if m >= 0 {
				style.Fill = excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{grounds[highlights[m].Style]}}
			}
			id, err := file.NewStyle(style)
			if err != nil {
				return s, err
			}
			s.by[form] = append(s.by[form], id)
		}
	}
	return s, nil
}

// cell is a cell with its type: days are dates, numbers numbers, all else is text, which no program runs.
func (s styles) cell(r answer.Row, i int, c answer.Column) (excelize.Cell, error) {
	cell, form, value := r.Cells[i], "General", any(nil)
	switch {
	case cell.Text == "":
	case c.Kind == answer.Day:
		form = dayForm
		d, _ := day.Parse(cell.Text[:min(len(cell.Text), len(time.DateOnly))])
		at := serial(d)
		if clock := timeOf(cell); clock != "" {
			form = clockForm
			if of, err := time.Parse(time.TimeOnly, (clock + ":00")[:8]); err == nil {
				at += float64(of.Hour()*3600+of.Minute()*60+of.Second()) / (24 * 60 * 60)
			}
		}
		value = at
	case c.Kind.Numeric():
		if cell.Number != nil {
			value = *cell.Number
		}
	default:
		if n := utf8.RuneCountInString(cell.Text); n > mostCharacters {
			return excelize.Cell{}, &LongCellError{r.Order, c.Heading, n}
		}
		value = cell.Text
	}
	highlight := r.Highlight
	if cell.Highlight > 0 {
		highlight = cell.Highlight
	}
	return excelize.Cell{StyleID: s.by[form][highlight], Value: value}, nil
}

// writeAbout says on a worksheet of its own what was asked, and what highlights mean.
func writeAbout(file *excelize.File, s sheet, styles styles) error {
	if _, err := file.NewSheet(aboutSheet); err != nil {
		return err
	}
	lines := append([]string{s.sentence}, s.lines...)
	for i, line := range lines {
		if err := file.SetCellStr(aboutSheet, fmt.Sprintf("A%d", i+1), line); err != nil {
			return err
		}
	}
	for i, m := range s.highlights {
		words := m.Style + ": " + m.Where
		if m.Column >= 0 {
			words += ", on " + s.columns[m.Column].Heading
		}
		at := fmt.Sprintf("A%d", len(lines)+2+i)
		if err := file.SetCellStr(aboutSheet, at, words); err != nil {
			return err
		}
		if err := file.SetCellStyle(aboutSheet, at, at, styles.by["General"][i+1]); err != nil {
			return err
		}
	}
	return file.SetColWidth(aboutSheet, "A", "A", 120)
}
