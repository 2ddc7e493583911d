package check

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/intake"
	"prairiedusk/internal/recognise"
	"prairiedusk/internal/source"
)

// A figure is a number that somebody expects, with as many decimals as it was written with.
type figure struct {
	text     string // as a plain decimal
	value    float64
	decimals int
}

// parseFigure reads a number as people write it, in a form of numbers.
func parseFigure(text string, form recognise.NumberForm) (f figure, ok bool) {
	plain := form.Decimal(strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(text), "%")))
	value, err := strconv.ParseFloat(plain, 64)
	if err != nil {
		return f, false
	}
	_, fraction, _ := strings.Cut(plain, ".")
	return figure{plain, value, len(fraction)}, true
}

// typedFigure reads the number of a request. One that could be read in two ways is read as this product writes numbers.
func typedFigure(e api.Expected) (figure, error) {
	forms := []recognise.NumberForm{recognise.Point, recognise.Comma}
	if form, named := recognise.ParseNumberForm(e.Decimals); named {
		forms = forms[form : form+1]
	}
	for _, form := range forms {
		if f, ok := parseFigure(e.Figure, form); ok {
			return f, nil
		}
	}
	return figure{}, request.Invalid("figure", e.Figure, "no number; want one such as 1,245 or 4.8")
}

// A rounding says how a number found lies to one that is expected.
type rounding uint8

const (
	different rounding = iota
	equal
	rounded // the number found, rounded to the decimals of the one expected
	cutOff  // the same, its further decimals cut off
)

// against says how a number found lies to the figure.
func (f figure) against(found float64) rounding {
	const noise = 5e-7 // numbers of answers are given to a millionth
	scale := math.Pow10(f.decimals)
	switch {
	case math.Abs(found-f.value) <= noise:
		return equal
	case math.Abs(math.Round(found*scale)/scale-f.value) <= noise, math.Abs(math.RoundToEven(found*scale)/scale-f.value) <= noise:
		return rounded
	case math.Abs(math.Trunc(found*scale)/scale-f.value) <= noise:
		return cutOff
	}
	return different
}

// words say whether a number found is the one expected.
func (r rounding) words(decimals int) string {
	switch r {
	case equal:
		return "the same"
	case rounded:
		return "the same, rounded to " + numfmt.Counted(decimals, "decimal")
	case cutOff:
		return "the same, cut off after " + numfmt.Counted(decimals, "decimal")
	}
	return "differs"
}

// A sheet is a file as it was read: a header, if it has one, and rows of as many cells.
type sheet struct {
	name   string
	header []string
	rows   [][]string
	lines  []int // of the rows, in the file
}

// mostCells bounds what a file of expected numbers holds.
const mostCells = 4_000_000

// readSheet reads a file. The error is a *request.Error.
func readSheet(word string, f *api.ExpectedFile) (s sheet, err error) {
	s.name = cmp.Or(f.Name, "the text")
	wrong := func(err error) error { return request.Invalid(word, s.name, err.Error()) }
	spool, err := source.Keep(bytes.NewReader(f.Content))
	if err != nil {
		return s, wrong(err)
	}
	defer spool.Close()
	opened, err := source.Open(spool)
	if err != nil {
		return s, wrong(err)
	}
	defer opened.Close()
	tables := slices.DeleteFunc(slices.Clone(opened.Tables), func(t source.Table) bool { return t.Hidden })
	if len(tables) != 1 {
		return s, wrong(fmt.Errorf("it has %d tables; want a file with one", len(tables)))
	}
	rows, err := tables[0].Rows()
	if err != nil {
		return s, wrong(err)
	}
	defer rows.Close()
	cells := 0
	for {
		var row source.Row
		switch err := rows.Next(&row); {
		case errors.Is(err, io.EOF):
			return s, nil
		case err != nil:
			return s, wrong(err)
		}
		if cells += len(row.Cells); cells > mostCells {
			return s, wrong(fmt.Errorf("more than %s cells; want fewer rows or columns", numfmt.Count(mostCells)))
		}
		if slices.ContainsFunc(row.Cells, func(c string) bool { return strings.TrimSpace(c) != "" }) {
			cells := make([]string, len(row.Cells))
			for i, c := range row.Cells {
				cells[i] = strings.TrimSpace(c)
			}
			s.rows, s.lines = append(s.rows, cells), append(s.lines, row.At.Number())
		}
	}
}

// cell is a cell of a row; empty where the row is too short.
func (s sheet) cell(row, column int) string {
	if column < len(s.rows[row]) {
		return s.rows[row][column]
	}
	return ""
}

// An expectedList is a list of orders that somebody expects.
type expectedList struct {
	rows     []uint32 // of the book, in its order, each once
	unknown  []string // numbers that no order has
	repeated int      // cells that name an order that was named before
	notes    []string // what was made of the file
}

// readOrders reads a list of order numbers. The error is a *request.Error.
func readOrders(b *book.Book, e api.Expected) (l expectedList, err error) {
	s, err := readSheet("orders", e.Orders)
	if err != nil {
		return l, err
	}
	rows := s.orders(b)
	column, err := s.numbersColumn(rows, e.Column)
	if err != nil {
		return l, err
	}
	seen := map[uint32]bool{}
	for i := range s.rows {
		number := s.cell(i, column)
		if number == "" {
			continue
		}
		if intake.IsTotal(s.cell(i, 0)) || intake.IsTotal(number) {
			l.notes = append(l.notes, fmt.Sprintf("line %d of %s is a row of totals and no order", s.lines[i], s.name))
			continue
		}
		row, known := rows[number]
		switch {
		case !known:
			l.unknown = append(l.unknown, number)
		case seen[uint32(row)]:
			l.repeated++
		default:
			seen[uint32(row)] = true
			l.rows = append(l.rows, uint32(row))
		}
	}
	slices.Sort(l.rows)
	return l, nil
}

// orders are the rows of the book's orders whose numbers stand in some cell.
func (s *sheet) orders(b *book.Book) map[string]int {
	wanted := map[string]bool{}
	for _, r := range s.rows {
		for _, cell := range r {
			if cell != "" {
				wanted[cell] = true
			}
		}
	}
	return b.FindAll(wanted)
}

// numbersColumn is the column that holds the order numbers: the one so named, or the only one in which there are any. A row above
// them that names no order is the header. One row alone is a list that was written across.
func (s *sheet) numbersColumn(orders map[string]int, named string) (int, error) {
	if len(s.rows) == 0 {
		return 0, request.Invalid("orders", s.name, "no order numbers in it")
	}
	if len(s.rows) == 1 {
		across := s.rows[0]
		s.rows, s.lines = nil, slices.Repeat(s.lines, len(across))
		for _, cell := range across {
			s.rows = append(s.rows, []string{cell})
		}
	}
	isOrder := func(cell string) bool { _, is := orders[cell]; return is }
	// What stands above the orders is a header, and above that a title. A cell alone in its row that has a digit is neither, unless it
	// has words.
	for len(s.rows) > 1 && !slices.ContainsFunc(s.rows[0], isOrder) {
		first := s.rows[0]
		if len(first) == 1 && strings.ContainsAny(first[0], "0123456789") && !strings.Contains(first[0], " ") {
			break
		}
		s.header, s.rows, s.lines = first, s.rows[1:], s.lines[1:]
	}
	if named != "" {
		if at := slices.IndexFunc(s.header, func(h string) bool { return strings.EqualFold(h, named) }); at >= 0 {
			return at, nil
		}
		return 0, request.Invalid("column", named, "no column of "+s.name+" has this heading; want one of "+strings.Join(s.header, ", "))
	}
	var candidates []int
	widest := 0
	for _, r := range s.rows {
		for c, cell := range r {
			if widest = max(widest, len(r)); isOrder(cell) && !slices.Contains(candidates, c) {
				candidates = append(candidates, c)
			}
		}
	}
	slices.Sort(candidates)
	switch {
	case len(candidates) == 1:
		return candidates[0], nil
	case widest <= 1:
		return 0, nil
	case len(candidates) == 0:
		return 0, request.Invalid("orders", s.name, "no column of it holds numbers of orders in the book; name it with column")
	}
	var headings []string
	for _, c := range candidates {
		headings = append(headings, s.heading(c))
	}
	return 0, request.Invalid("column", "", fmt.Sprintf("several columns of %s hold numbers of orders: %s; which is meant?", s.name,
		strings.Join(headings, ", ")))
}

// heading is that of a column, or its place.
func (s sheet) heading(column int) string {
	if column < len(s.header) && s.header[column] != "" {
		return s.header[column]
	}
	return fmt.Sprintf("column %d", column+1)
}

// An expectedTable is a table of numbers by group that somebody expects.
type expectedTable struct {
	columns, headings []string // codes of the answer's columns, and headings of the file, for each of its columns of numbers
	rows              []expectedRow
	notes             []string
}

// An expectedRow is one of its rows.
type expectedRow struct {
	names   []string
	figures []figure // by columns
	given   []bool   // the cell is filled
	total   bool
}

// readTable reads a table of expected numbers, to be held against the table of an answer whose rows have some names. The error is a
// *request.Error.
func (n number) readTable(d *answer.Document, e api.Expected) (t expectedTable, err error) {
	s, err := readSheet("table", e.Table)
	if err != nil {
		return t, err
	}
	named := 0
	for named < len(n.table.Columns) && !n.table.Columns[named].Kind.Numeric() {
		named++
	}
	for len(s.rows) > 2 && filled(s.rows[0]) == 1 && filled(s.rows[1]) > 1 { // titles stand alone in their rows, as in files of answers
		s.rows, s.lines = s.rows[1:], s.lines[1:]
	}
	if len(s.rows) < 2 || len(s.rows[0]) <= named {
		return t, request.Invalid("table", s.name, fmt.Sprintf("want a header, and in each row %s and then numbers",
			numfmt.Counted(named, "name")))
	}
	s.header, s.rows, s.lines = s.rows[0], s.rows[1:], s.lines[1:]
	forms, compared := make([]recognise.NumberForm, len(s.header)), []int{}
	for c := named; c < len(s.header); c++ {
		at, err := n.expectedColumn(d, s, c, named)
		if err != nil && !s.hasNumbers(c) { // remarks, in words
			t.notes = append(t.notes, fmt.Sprintf("The column %s of %s holds no numbers, and is not compared.", s.heading(c), s.name))
			continue
		} else if err != nil {
			return t, err
		}
		compared = append(compared, c)
		t.columns, t.headings = append(t.columns, n.table.Columns[at].Code), append(t.headings, s.heading(c))
		if forms[c], err = s.form(c, e.Decimals); err != nil {
			return t, err
		}
	}
	for i := range s.rows {
		row := expectedRow{total: intake.IsTotal(s.cell(i, 0)) || strings.EqualFold(s.cell(i, 0), "all")}
		for c := range named {
			row.names = append(row.names, s.cell(i, c))
		}
		for _, c := range compared {
			text := s.cell(i, c)
			f, ok := parseFigure(text, forms[c])
			if text != "" && !ok {
				return t, request.Invalid("table", text, fmt.Sprintf("no number, in line %d of %s, column %s", s.lines[i], s.name,
					s.heading(c)))
			}
			row.figures, row.given = append(row.figures, f), append(row.given, ok)
		}
		t.rows = append(t.rows, row)
	}
	if !slices.ContainsFunc(t.rows, func(r expectedRow) bool { return slices.Contains(r.given, true) }) {
		return t, request.Invalid("table", s.name, "it holds no number to be compared")
	}
	return t, nil
}

// hasNumbers says that some cell of a column is a number in some form.
func (s sheet) hasNumbers(column int) bool {
	for i := range s.rows {
		for _, form := range []recognise.NumberForm{recognise.Point, recognise.Comma} {
			if _, is := parseFigure(s.cell(i, column), form); is {
				return true
			}
		}
	}
	return false
}

// filled is how many cells of a row are.
func filled(row []string) (n int) {
	for _, cell := range row {
		if cell != "" {
			n++
		}
	}
	return n
}

// expectedColumn is the column of the answer that a column of the file is about: that of its heading, with or without what it shares
// with its neighbours. Where there is one column of numbers, it is about the number that was asked for.
func (n number) expectedColumn(d *answer.Document, s sheet, column, named int) (int, error) {
	heading := s.header[column]
	at, err := columnOf(d, n.table, heading)
	if err != nil {
		own, _, _ := strings.Cut(heading, ", ")
		at, err = columnOf(d, n.table, own)
	}
	if heading != "" && err == nil {
		return at, nil
	}
	if len(s.header) == named+1 && n.column >= 0 {
		return n.column, nil
	}
	return 0, err
}

// form is that of the numbers of a column. The error is a *request.Error.
func (s sheet) form(column int, said string) (recognise.NumberForm, error) {
	if form, named := recognise.ParseNumberForm(said); named {
		return form, nil
	}
	numbers := recognise.NewNumbers()
	for i := range s.rows {
		if cell := s.cell(i, column); cell != "" {
			numbers.Look(s.lines[i], strings.TrimSuffix(cell, "%"))
		}
	}
	switch v := numbers.Verdict(); v.Answer {
	case recognise.Sure:
		return v.Form, nil
	case recognise.Ask:
		return 0, request.Invalid("decimals", "", fmt.Sprintf("column %s of %s can be read in two ways: %s; want point or comma",
			s.heading(column), s.name, v.Example))
	default:
		words := make([]string, len(v.Because))
		for i, b := range v.Because {
			words[i] = b.String()
		}
		return 0, request.Invalid("table", s.heading(column), "its numbers contradict each other: "+strings.Join(words, "; "))
	}
}
