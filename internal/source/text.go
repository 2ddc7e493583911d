package source

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// openText tells what a file of text is.
func (o *Opened) openText(file *Spool, member string, head []byte) error {
	text, err := textOf(file, head)
	if err != nil {
		return err
	}
	sample, err := text.sample()
	if err != nil {
		return err
	}
	table := Table{Member: member, file: file}
	begin := strings.ToLower(strings.TrimSpace(sample))
	switch {
	case begin == "":
		return &Refusal{"an empty file", "want one with a header and a row for each record"}
	case strings.HasPrefix(begin, "begin:vcalendar"):
		table.Form, table.Calendar = "iCalendar", true
		o.Tables = append(o.Tables, table)
		return nil
	case strings.HasPrefix(begin, "<"):
		if strings.Contains(begin, "<html") || strings.Contains(begin, "<table") || strings.HasPrefix(begin, "<!doctype html") {
			return &Refusal{"a web page, whatever it is called", "open it in a spreadsheet program and save it as XLSX or CSV"}
		}
		return &Refusal{"an XML file", "want CSV, XLSX or JSON"}
	case strings.HasPrefix(begin, "{"), strings.HasPrefix(begin, "["):
		return o.openJSON(text, table, begin[0] == '[')
	}
	dialect, err := dialectOf(sample)
	if err != nil {
		return err
	}
	table.Form = "CSV" + dialect.words()
	if text.words != "UTF-8" {
		table.Form += ", " + text.words
	}
	table.Comma = dialect.comma == ',' && text.words == "UTF-8" && !dialect.returns && dialect.skip == 0
	table.rows = func() (Rows, error) { return newCSVRows(text, dialect), nil }
	o.Tables = append(o.Tables, table)
	return nil
}

// A text is a file of text with its encoding.
type text struct {
	file     *Spool
	encoding encoding.Encoding // nil of UTF-8
	mark     int64             // bytes of the byte order mark
	broken   bool              // some bytes are no text in this encoding
	words    string
}

// open reads the text as UTF-8. The count of bytes is that of the file.
func (t text) open() (r io.Reader, count *counter) {
	section := t.file.Open()
	_, _ = section.Seek(t.mark, io.SeekStart) // it fails for a negative place alone
	count = &counter{r: section, read: t.mark}
	buffered := bufio.NewReaderSize(count, 1<<18)
	if t.encoding == nil {
		return buffered, count
	}
	return t.encoding.NewDecoder().Reader(buffered), count
}

// A counter counts what was read.
type counter struct {
	r    io.Reader
	read int64
}

func (c *counter) Read(p []byte) (int, error) {
	n, err := c.r.Read(p)
	c.read += int64(n)
	return n, err
}

// sample is the beginning of the text, up to the last whole character.
func (t text) sample() (string, error) {
	r, _ := t.open()
	head := make([]byte, headSize)
	n, err := io.ReadFull(r, head)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return "", err
	}
	head = head[:n]
	for cut := 0; cut < utf8.UTFMax && len(head) > 0 && !utf8.FullRune(head[max(0, len(head)-utf8.UTFMax):]); cut++ {
		head = head[:len(head)-1]
	}
	return string(head), nil
}

// textOf tells the encoding of a file: by its mark, by the zeros of UTF-16, or by all its bytes.
func textOf(file *Spool, head []byte) (text, error) {
	t := text{file: file, words: "UTF-8"}
	utf16 := func(order unicode.Endianness, mark int64) text {
		t.encoding, t.mark, t.words = unicode.UTF16(order, unicode.IgnoreBOM), mark, "UTF-16"
		return t
	}
	switch {
	case bytes.HasPrefix(head, []byte("\xff\xfe")):
		return utf16(unicode.LittleEndian, 2), nil
	case bytes.HasPrefix(head, []byte("\xfe\xff")):
		return utf16(unicode.BigEndian, 2), nil
	case bytes.HasPrefix(head, []byte("\xef\xbb\xbf")):
		t.mark = 3
	}
	zeros := [2]int{}
	for i, b := range head {
		if b == 0 {
			zeros[i%2]++
		}
	}
	switch half := len(head) / 2; {
	case zeros[0] == 0 && zeros[1] > half/2:
		return utf16(unicode.LittleEndian, 0), nil
	case zeros[1] == 0 && zeros[0] > half/2:
		return utf16(unicode.BigEndian, 0), nil
	}
	found, err := look(file)
	switch {
	case err != nil:
		return t, err
	case 20*(zeros[0]+zeros[1]) > len(head): // a stray one belongs to its row
		return t, &Refusal{"no file of text", "want CSV, XLSX, JSON, Parquet or iCalendar"}
	case found.invalid <= found.wide:
		t.broken = found.invalid > 0 // the rows of those bytes say so
	case found.undefined == 0:
		t.encoding, t.words = charmap.Windows1252, "Windows-1252"
	default:
		t.encoding, t.words = charmap.ISO8859_1, "ISO 8859-1"
	}
	return t, nil
}

// found are the bytes of a file, as UTF-8 has them.
type found struct {
	wide      int // characters of several bytes
	invalid   int // bytes that are none
	undefined int // of those, bytes that Windows-1252 does not have
}

func look(file *Spool) (f found, err error) {
	r := bufio.NewReaderSize(file.Open(), 1<<18)
	for {
		chunk, err := r.Peek(1 << 18)
		if len(chunk) == 0 {
			if errors.Is(err, io.EOF) {
				return f, nil
			}
			return f, err
		}
		at := 0
		for at < len(chunk) {
			if chunk[at] < utf8.RuneSelf {
				at++
				continue
			}
			if !utf8.FullRune(chunk[at:]) && err == nil {
				break // its end is in the next chunk
			}
			character, size := utf8.DecodeRune(chunk[at:])
			if character == utf8.RuneError && size == 1 {
				f.invalid++
				switch chunk[at] {
				case 0x81, 0x8d, 0x8f, 0x90, 0x9d:
					f.undefined++
				}
			} else {
				f.wide++
			}
			at += size
		}
		if _, err := r.Discard(at); err != nil {
			return f, err
		}
	}
}

// A dialect is how the cells of a CSV file are told apart.
type dialect struct {
	comma   rune
	skip    int  // lines before the first row: that which names the separator
	returns bool // lines end in CR alone
}

func (d dialect) words() string {
	words := map[rune]string{',': "", ';': " with semicolons", '\t': " with tabs", '|': " with vertical bars"}[d.comma]
	if d.returns {
		words += ", lines that end in CR"
	}
	return words
}

// dialectOf tells the dialect by the beginning of a file: the separator that gives the most rows the same number of cells.
func dialectOf(sample string) (d dialect, err error) {
	d.comma = ','
	if strings.Contains(sample, "\r") && !strings.Contains(sample, "\n") {
		d.returns = true
		sample = strings.ReplaceAll(sample, "\r", "\n")
	}
	if first, rest, _ := strings.Cut(sample, "\n"); strings.HasPrefix(strings.ToLower(first), "sep=") {
		if separator := strings.TrimSuffix(first[len("sep="):], "\r"); len(separator) == 1 && strings.Contains(",;\t|", separator) {
			d.comma, d.skip = rune(separator[0]), 1
			return d, nil
		}
		sample, d.skip = rest, 1
	}
	most, widest := 0, 0
	for _, comma := range []rune{',', ';', '\t', '|'} {
		rows, cells, all := split(sample, comma)
		if cells > 1 && 2*rows >= all && (rows > most || rows == most && cells > widest) {
			most, widest, d.comma = rows, cells, comma
		}
	}
	if most == 0 && isFixedWidth(sample) {
		return d, &Refusal{"a file whose columns have fixed widths", "want a separator between them: CSV or XLSX"}
	}
	return d, nil
}

// split says how many of the first rows have the number of cells that most have.
func split(sample string, comma rune) (rows, cells, all int) {
	const most = 200
	r := newReader(strings.NewReader(sample), comma)
	counts := map[int]int{}
	for all < most {
		record, err := r.Read()
		if err != nil && !errors.As(err, new(*csv.ParseError)) {
			break
		}
		if all++; err == nil { // with another separator, quotes stand in the middle of cells
			counts[len(record)]++
		}
	}
	if len(sample) >= headSize-utf8.UTFMax && all < most && all > 1 {
		all-- // the last row is cut short
	}
	for n, rowsOf := range counts {
		if n > 1 && (rowsOf > rows || rowsOf == rows && n > cells) {
			rows, cells = rowsOf, n
		}
	}
	return rows, cells, max(all, rows)
}

// isFixedWidth says whether all lines have gaps of spaces at the same places.
func isFixedWidth(sample string) bool {
	lines := strings.Split(strings.ReplaceAll(strings.TrimRight(sample, "\r\n"), "\r", ""), "\n")
	if len(lines) < 3 {
		return false
	}
	if len(sample) >= headSize-utf8.UTFMax {
		lines = lines[:len(lines)-1]
	}
	gaps := map[int]int{} // by the place of what follows the gap
	for _, line := range lines {
		runes := []rune(line)
		for i := 2; i < len(runes); i++ {
			if runes[i] != ' ' && runes[i-1] == ' ' && runes[i-2] == ' ' {
				gaps[i]++
			}
		}
	}
	for _, n := range gaps {
		if n*10 >= len(lines)*9 {
			return true
		}
	}
	return false
}

// returnsToLines reads CR as LF.
type returnsToLines struct{ r io.Reader }

func (r returnsToLines) Read(p []byte) (int, error) {
	n, err := r.r.Read(p)
	for i, b := range p[:n] {
		if b == '\r' {
			p[i] = '\n'
		}
	}
	return n, err
}

var errQuote = errors.New("a quote is missing its end")

// swallowed says what an open quote would take with it.
func swallowed(line, rows int) error {
	return fmt.Errorf("%w: it opens on line %d, and would swallow %d of the lines after it; want quotes doubled inside quotes", errQuote,
		line, rows)
}
