package source

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"
)

// maxRow bounds a row, in bytes: a quote that is never closed must not swallow the file.
const maxRow = 1 << 20

// newReader reads rows of any number of cells.
func newReader(r io.Reader, comma rune) *csv.Reader {
	c := csv.NewReader(r)
	c.Comma, c.FieldsPerRecord, c.ReuseRecord = comma, -1, true
	return c
}

// csvRows reads CSV.
type csvRows struct {
	text    text
	dialect dialect
	count   *counter
	csv     *csv.Reader
	tape    *tape
	lines   int   // before what csv reads
	begin   int64 // of the row at hand, in bytes of what csv reads
	end     int64 // of that row
	cells   []string
	opened  int // how often it was opened anew
}

// mostOpened bounds how often reading begins anew after a quote without an end, each time from the beginning of the file.
const mostOpened = 50

func newCSVRows(t text, d dialect) *csvRows {
	s := &csvRows{text: t, dialect: d}
	s.open(d.skip)
	return s
}

// open begins to read after some lines.
func (s *csvRows) open(lines int) {
	r, count := s.text.open()
	if s.dialect.returns {
		r = returnsToLines{r}
	}
	s.count, s.tape, s.lines, s.begin, s.end = count, &tape{source: r}, lines, 0, 0
	s.tape.skip(lines)
	s.csv = newReader(s.tape, s.dialect.comma)
}

func (s *csvRows) Next(row *Row) error {
	s.begin = s.end
	s.tape.forget(s.begin)
	cells, err := s.csv.Read()
	if err == io.EOF { // csv gives no other
		return io.EOF
	}
	if err != nil {
		return s.fault(err)
	}
	s.end = s.csv.InputOffset()
	line, _ := s.csv.FieldPos(0)
	row.At, row.Cells, row.Hidden = Place{Row: s.lines + line}, cells, false
	s.cells = cells
	if row.place == nil {
		row.place = func(column int) Place {
			line, _ := s.csv.FieldPos(column)
			return Place{Row: s.lines + line, Column: column + 1}
		}
		row.raw = func() string {
			if s.dialect.comma == ',' {
				return string(s.raw())
			}
			return Line(s.cells)
		}
	}
	if s.text.broken && !utf8.Valid(s.raw()) {
		return &RowError{row.At, strings.ToValidUTF8(row.Raw(), "\uFFFD"),
			errors.New("the row is not UTF-8 text, as the rest of the file is; want the file saved as UTF-8")}
	}
	return nil
}

// raw is the row at hand as it stands. Blank lines before a row belong to no row.
func (s *csvRows) raw() []byte { return bytes.Trim(s.tape.between(s.begin, s.end), "\r\n") }

// fault is what is wrong with a row. Of one with an open quote its first line is taken, and reading goes on with the next.
func (s *csvRows) fault(err error) error {
	var parse *csv.ParseError
	long := errors.Is(err, errRowTooLong)
	if !errors.As(err, &parse) && !long {
		return err
	}
	kept := s.tape.kept[s.begin-s.tape.base:]
	if !long {
		end := s.csv.InputOffset()
		if kept = s.tape.between(s.begin, end); bytes.Count(bytes.Trim(kept, "\r\n"), []byte("\n")) == 0 ||
			!errors.Is(parse.Err, csv.ErrQuote) {
			s.end = end
			raw := strings.ToValidUTF8(string(bytes.Trim(kept, "\r\n")), "\uFFFD")
			return &RowError{Place{Row: s.lines + parse.StartLine}, raw,
				fmt.Errorf("%w; want cells with a separator between them, and quotes doubled inside quotes", parse.Err)}
		}
	}
	if bytes.Count(bytes.TrimLeft(kept, "\r\n"), []byte("\n")) == 0 {
		return fmt.Errorf("line %d: %w; is a quote missing its end?", s.lines+s.tape.lines+1, errRowTooLong)
	}
	blank := len(kept) - len(bytes.TrimLeft(kept, "\r\n"))
	first, rest, _ := bytes.Cut(kept[blank:], []byte("\n"))
	line := s.lines + s.tape.lines + bytes.Count(kept[:blank], []byte("\n")) + 1
	failure := &RowError{Place{Row: line}, strings.ToValidUTF8(string(bytes.TrimRight(first, "\r")), "\uFFFD"),
		swallowed(line, bytes.Count(bytes.TrimRight(rest, "\r\n"), []byte("\n"))+1)}
	if s.opened++; s.opened > mostOpened {
		return fmt.Errorf("line %d: %w; so have %d rows before it", line, errQuote, mostOpened)
	}
	s.open(line)
	return failure
}

func (s *csvRows) Offset() int64 { return s.count.read }

func (s *csvRows) Close() error { return nil }

// Line writes cells as one row of CSV as RFC 4180 has it, without the end of the line.
func Line(cells []string) string {
	var text strings.Builder
	out := csv.NewWriter(&text)
	_ = out.Write(cells) // into memory
	out.Flush()
	return strings.TrimSuffix(text.String(), "\n")
}

// A tape keeps what the CSV reader has read since it was last told to forget, so that a row can be kept as it stood.
type tape struct {
	source io.Reader
	kept   []byte
	base   int64 // offset of kept[0] in what is read
	lines  int   // before that
}

var errRowTooLong = fmt.Errorf("a row is longer than %d bytes", maxRow)

func (t *tape) Read(p []byte) (int, error) {
	if len(t.kept) > maxRow {
		return 0, errRowTooLong
	}
	n, err := t.source.Read(p)
	t.kept = append(t.kept, p[:n]...)
	return n, err
}

// between gives the bytes between two offsets.
func (t *tape) between(from, to int64) []byte { return t.kept[from-t.base : to-t.base] }

// forget lets go of all before an offset.
func (t *tape) forget(to int64) {
	gone := t.kept[:to-t.base]
	t.lines += bytes.Count(gone, []byte("\n"))
	rest := copy(t.kept, t.kept[to-t.base:])
	t.kept, t.base = t.kept[:rest], to
}

// skip reads some lines that nobody sees.
func (t *tape) skip(lines int) {
	if lines == 0 {
		return
	}
	buffer := make([]byte, 1<<16)
	for {
		n, err := t.source.Read(buffer)
		for at := range n {
			if buffer[at] == '\n' {
				if lines--; lines == 0 {
					t.source = io.MultiReader(bytes.NewReader(bytes.Clone(buffer[at+1:n])), t.source)
					return
				}
			}
		}
		if err != nil {
			t.source = bytes.NewReader(nil)
			return
		}
	}
}
