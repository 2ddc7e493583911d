package source

import (
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/xuri/excelize/v2"
	"github.com/xuri/nfp"
)

// mostWorkbook bounds a workbook, which is read from memory, and what its parts unpack to.
const (
	mostWorkbook         = 512 << 20
	mostWorkbookUnpacked = 8 << 30
	mostPartInMemory     = 16 << 20
)

// dayMark stands before the days of a workbook as long as this package has them.
const dayMark = "\uE001"

// openWorkbook lists the sheets of a workbook that hold something.
func (o *Opened) openWorkbook(file *Spool, member string) error {
	if file.size > mostWorkbook {
		return &Refusal{fmt.Sprintf("a workbook of more than %d MiB", mostWorkbook>>20), "save its sheets as CSV"}
	}
	workbook, err := openWorkbook(file)
	if err != nil {
		return err
	}
	defer workbook.Close()
	before := len(o.Tables)
	for _, sheet := range workbook.GetSheetList() {
		visible, err := workbook.GetSheetVisible(sheet)
		if err != nil {
			return brokenWorkbook(err)
		}
		holds, err := holdsSomething(workbook, sheet)
		if err != nil {
			return err
		}
		if !holds {
			continue
		}
		o.Tables = append(o.Tables, Table{Member: member, Sheet: sheet, Hidden: !visible, HiddenColumns: hiddenColumns(file, sheet),
			Form: "XLSX", file: file, rows: func() (Rows, error) { return newSheetRows(file, sheet) }})
	}
	if len(o.Tables) == before {
		return &Refusal{"a workbook whose sheets are empty", "want one with a header and a row for each record"}
	}
	return nil
}

// holdsSomething says whether a sheet has any cell with something in it.
func holdsSomething(workbook *excelize.File, sheet string) (bool, error) {
	rows, err := workbook.Rows(sheet)
	if err != nil {
		return false, brokenWorkbook(err)
	}
	defer rows.Close()
	for rows.Next() {
		cells, err := rows.Columns()
		if err != nil {
			return false, brokenWorkbook(err)
		}
		if strings.Join(cells, "") != "" {
			return true, nil
		}
	}
	return false, rows.Error()
}

func brokenWorkbook(err error) error {
	return fmt.Errorf("the workbook is cut short or broken: %w; want it whole", err)
}

func openWorkbook(file *Spool) (*excelize.File, error) {
	workbook, err := excelize.OpenReader(file.Open(), excelize.Options{UnzipSizeLimit: mostWorkbookUnpacked,
		UnzipXMLSizeLimit: mostPartInMemory})
	if err != nil {
		return nil, brokenWorkbook(err)
	}
	if err := plainFormats(workbook); err != nil {
		return nil, errors.Join(brokenWorkbook(err), workbook.Close())
	}
	return workbook, nil
}

// plainFormats changes in which forms cells are shown: days as ISO 8601, behind a mark, and numbers as they are. So a day comes
// as the day that it is, whatever form its cell gives it.
func plainFormats(workbook *excelize.File) error {
	if _, err := workbook.GetStyle(0); err != nil { // it reads the styles
		return err
	}
	styles := workbook.Styles
	own := map[int]string{}
	if styles.NumFmts != nil {
		for _, f := range styles.NumFmts.NumFmt {
			own[f.NumFmtID] = f.FormatCode
		}
	}
	form := `[$-409]` + dayMark + `yyyy-mm-dd hh:mm:ss` // the language is found sooner where it is named
	day, err := workbook.NewStyle(&excelize.Style{CustomNumFmt: &form})
	if err != nil {
		return err
	}
	dayFormat := *styles.CellXfs.Xf[day].NumFmtID
	for i := range styles.CellXfs.Xf {
		format := &styles.CellXfs.Xf[i]
		if format.NumFmtID == nil {
			continue
		}
		shown := 0 // General
		if id := *format.NumFmtID; id == dayFormat || showsDay(id, own[id]) {
			shown = dayFormat
		}
		format.NumFmtID = &shown
	}
	return nil
}

// showsDay says whether a format shows a day. A format of elapsed time or of a time of day alone shows none.
func showsDay(id int, code string) bool {
	switch {
	case id >= 14 && id <= 17, id == 22, id >= 27 && id <= 36, id >= 50 && id <= 58: // those that the standard defines
		return code == "" || codeShowsDay(code)
	case code == "":
		return false
	}
	return codeShowsDay(code)
}

func codeShowsDay(code string) bool {
	parser := nfp.NumberFormatParser()
	for _, section := range parser.Parse(code) {
		for _, token := range section.Items {
			if token.TType == nfp.TokenTypeDateTimes && strings.ContainsAny(strings.ToLower(token.TValue), "yd") {
				return true
			}
		}
	}
	return false
}

// sheetRows reads a sheet row by row.
type sheetRows struct {
	workbook *excelize.File
	rows     *excelize.Rows
	sheet    string
	at       int
	size     int64
	cells    []string
}

func newSheetRows(file *Spool, sheet string) (Rows, error) {
	workbook, err := openWorkbook(file)
	if err != nil {
		return nil, err
	}
	rows, err := workbook.Rows(sheet)
	if err != nil {
		return nil, errors.Join(brokenWorkbook(err), workbook.Close())
	}
	return &sheetRows{workbook: workbook, rows: rows, sheet: sheet, size: file.size}, nil
}

func (s *sheetRows) Next(row *Row) error {
	for {
		if !s.rows.Next() {
			if err := s.rows.Error(); err != nil {
				return brokenWorkbook(err)
			}
			return io.EOF
		}
		s.at++
		hidden := s.rows.GetRowOpts().Hidden
		cells, err := s.rows.Columns()
		if err != nil {
			return &RowError{At: Place{Sheet: s.sheet, Row: s.at}, Err: err}
		}
		if strings.Join(cells, "") == "" {
			continue
		}
		for i, cell := range cells {
			cells[i] = shownCell(cell)
		}
		s.cells = cells
		row.At, row.Cells, row.Hidden = Place{Sheet: s.sheet, Row: s.at}, cells, hidden
		row.place = func(column int) Place { return Place{Sheet: s.sheet, Row: s.at, Column: column + 1} }
		row.raw = func() string { return Line(s.cells) }
		return nil
	}
}

// shownCell is a cell without the mark of a day, and without midnight where it is a day alone.
func shownCell(cell string) string {
	day, is := strings.CutPrefix(cell, dayMark)
	if !is {
		return plain(cell)
	}
	if date, alone := strings.CutSuffix(day, " 00:00:00"); alone {
		return date
	}
	return strings.Replace(day, " ", "T", 1)
}

func (s *sheetRows) Offset() int64 { return min(s.size, int64(s.at)*64) }

func (s *sheetRows) Close() error { return errors.Join(s.rows.Close(), s.workbook.Close()) }
