package intake

import (
	"encoding/csv"
	"errors"
	"fmt"
	"hash/maphash"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/money"
)

const (
	// maxText bounds a cell of text, in bytes.
	maxText = 500
	// maxRow bounds a row, in bytes: a quote that is never closed must not swallow the file.
	maxRow = 1 << 20
)

// The columns of an order file that are neither a milestone nor a field.
const (
	numberColumn = "number"
	valueColumn  = "value"
)

// An OrderReader reads the orders of a CSV file (RFC 4180, comma, UTF-8, with or without a byte order mark).
// The header names the columns, in any order, in capitals or not: number, the built-in milestones, the
// fields, value. Only number is required. Days are YYYY-MM-DD, values plain decimals; an empty cell is none.
type OrderReader struct {
	file     string
	csv      *csv.Reader
	tape     *tape
	header   []string
	use      []cellUse // by position in the row
	columns  book.Columns
	unused   []string
	decimals map[string]int // of the currencies seen so far
	numbers  map[digest]firstSeen
	repeated int
	offset   int64 // where the row just read began
}

// A cellUse says what a cell of a row is for.
type cellUse struct {
	kind  use
	index int // milestone or field
}

type use uint8

const (
	unused use = iota
	asNumber
	asMilestone
	asField
	asValue
)

// A digest stands for an order number or a row; 128 bits leave no two alike by chance.
type digest [2]uint64

type firstSeen struct {
	row     int
	content digest
}

func digestOf(text string) digest {
	return digest{maphash.String(seeds[0], text), maphash.String(seeds[1], text)}
}

var seeds = [2]maphash.Seed{maphash.MakeSeed(), maphash.MakeSeed()}

// NewOrderReader reads the header. The error is a *FileError.
func NewOrderReader(file string, r io.Reader) (*OrderReader, error) {
	t := &tape{source: r}
	o := &OrderReader{file: file, tape: t, csv: csv.NewReader(t), numbers: map[digest]firstSeen{}, decimals: map[string]int{}}
	if err := o.learn(""); err != nil { // a value without a currency
		return nil, err
	}
	o.csv.FieldsPerRecord = -1
	o.csv.ReuseRecord = true
	header, err := o.csv.Read()
	switch {
	case errors.Is(err, io.EOF):
		return nil, &FileError{File: file, Err: errEmpty}
	case err != nil:
		return nil, &FileError{file, 1, fmt.Errorf("the header cannot be read: %w", err)}
	}
	o.offset = o.csv.InputOffset()
	o.header = slices.Clone(header)
	o.header[0] = strings.TrimPrefix(o.header[0], string(byteOrderMark))
	if err := o.mapHeader(); err != nil {
		return nil, &FileError{file, 1, err}
	}
	return o, nil
}

// mapHeader finds what each column is for.
func (o *OrderReader) mapHeader() error {
	all := milestone.BuiltIn()
	o.columns.Milestones = make([]bool, len(all))
	o.use = make([]cellUse, len(o.header))
	seen := map[string]bool{}
	for i, title := range o.header {
		title = strings.TrimSpace(title)
		if !storable(title) {
			return fmt.Errorf("column %d of the header, %q, is not UTF-8 text; want the file saved as UTF-8", i+1, title)
		}
		o.header[i] = title
		name := strings.ToLower(title)
		field, isField := book.ParseField(name)
		m := milestone.Index(all, name)
		switch {
		case name == numberColumn:
			o.use[i] = cellUse{kind: asNumber}
		case name == valueColumn:
			o.use[i], o.columns.Value = cellUse{kind: asValue}, true
		case m >= 0:
			o.use[i], o.columns.Milestones[m] = cellUse{asMilestone, m}, true
		case isField:
			o.use[i], o.columns.Fields[field] = cellUse{asField, int(field)}, true
		default:
			o.unused = append(o.unused, title)
			continue
		}
		if seen[name] {
			return fmt.Errorf("column %q stands twice in the header; want it once", title)
		}
		seen[name] = true
	}
	if !seen[numberColumn] {
		return fmt.Errorf("the header has no column %q; it has %s; want %s and any of %s, %s, %s",
			numberColumn, quoteAll(o.header), numberColumn, milestone.Names(all), strings.Join(book.FieldNames(), ", "), valueColumn)
	}
	return nil
}

// storable says whether a text can be kept: UTF-8, and without the one character that PostgreSQL refuses.
func storable(text string) bool {
	return utf8.ValidString(text) && !strings.Contains(text, "\x00")
}

func quoteAll(texts []string) string {
	quoted := make([]string, len(texts))
	for i, t := range texts {
		quoted[i] = fmt.Sprintf("%q", t)
	}
	return strings.Join(quoted, ", ")
}

// Columns says which parts of an order the file has. What it does not have, its load leaves as it is.
func (o *OrderReader) Columns() book.Columns { return o.columns }

// Unused are the headers that mean nothing here.
func (o *OrderReader) Unused() []string { return o.unused }

// Header is the file's header, for giving set-aside rows back in the shape of the file.
func (o *OrderReader) Header() []string { return o.header }

// Repeated is the number of rows so far that were the same, to the letter, as an earlier row of the file.
func (o *OrderReader) Repeated() int { return o.repeated }

// Next is the next order; its ID is zero. A row that cannot be used comes as a SetAside error, and reading
// can go on; io.EOF ends the file; a *FileError means that the file as a whole cannot be used.
func (o *OrderReader) Next() (book.Order, error) {
	for {
		order, err := o.next()
		if err != errRepeated {
			return order, err
		}
		o.repeated++
	}
}

var errRepeated = errors.New("the same row again")

func (o *OrderReader) next() (book.Order, error) {
	record, err := o.csv.Read()
	if errors.Is(err, io.EOF) {
		return book.Order{}, io.EOF
	}
	// Blank lines before a row belong to no row.
	raw := strings.Trim(o.tape.cut(o.offset, o.csv.InputOffset()), "\r\n")
	o.offset = o.csv.InputOffset()
	isText := storable(raw)
	if !isText {
		raw = strings.ToValidUTF8(strings.ReplaceAll(raw, "\x00", "\uFFFD"), "\uFFFD")
	}

	var parse *csv.ParseError
	switch {
	case errors.As(err, &parse):
		return book.Order{}, SetAside{Row: parse.StartLine, Reason: fmt.Sprintf("%v; want cells with commas between them, and quotes doubled inside quotes", parse.Err), Raw: raw}
	case err != nil:
		return book.Order{}, &FileError{File: o.file, Err: err}
	}
	row, _ := o.csv.FieldPos(0)
	if len(record) != len(o.use) {
		return book.Order{}, SetAside{Row: row, Reason: fmt.Sprintf("the row has %d cells; want %d, as in the header", len(record), len(o.use)), Raw: raw}
	}
	if !isText {
		return book.Order{}, SetAside{Row: row, Reason: "the row is not UTF-8 text; want the file saved as UTF-8", Raw: raw}
	}
	order, fault := o.order(record)
	if fault == nil {
		fault, err = o.first(order.Number, row, raw)
		if err != nil {
			return book.Order{}, err
		}
	}
	if fault != nil {
		fault.Row, fault.Raw = row, raw
		return book.Order{}, *fault
	}
	return order, nil
}

// order checks the cells of a row one by one and names the first that is wrong.
func (o *OrderReader) order(record []string) (book.Order, *SetAside) {
	order := book.Order{Days: make([]day.Day, len(o.columns.Milestones))}
	value := -1
	for i, cell := range record {
		cell = strings.TrimSpace(cell)
		u := o.use[i]
		if cell == "" || u.kind == unused {
			continue
		}
		found := cell
		fault := func(reason string) (book.Order, *SetAside) {
			return order, &SetAside{Column: o.header[i], Value: found, Reason: reason}
		}
		if u.kind != asMilestone && len(cell) > maxText {
			return fault(fmt.Sprintf("the cell is %d bytes long; want at most %d", len(cell), maxText))
		}
		switch u.kind {
		case asNumber:
			order.Number = strings.Clone(cell)
		case asMilestone:
			d, err := day.Parse(cell)
			var parse *day.ParseError
			if errors.As(err, &parse) {
				return fault(parse.Explanation())
			}
			order.Days[u.index] = d
		case asField:
			if book.Field(u.index) == book.Currency {
				if err := o.learn(cell); err != nil {
					return fault(err.Error())
				}
				cell = strings.ToUpper(cell)
			}
			order.Fields[u.index] = strings.Clone(cell)
		case asValue:
			value = i
		}
	}
	if order.Number == "" {
		return order, &SetAside{Column: numberColumn, Reason: "the order has no number; want one"}
	}
	if value >= 0 {
		var err error
		order.Value, err = money.Parse(strings.TrimSpace(record[value]), o.decimals[order.Fields[book.Currency]])
		if err != nil {
			return order, &SetAside{Column: o.header[value], Value: record[value], Reason: err.Error()}
		}
		order.Valued = true
	}
	return order, nil
}

// learn looks a currency up once.
func (o *OrderReader) learn(code string) error {
	if _, known := o.decimals[strings.ToUpper(code)]; known {
		return nil
	}
	decimals, err := money.Decimals(code)
	if err == nil {
		o.decimals[strings.ToUpper(code)] = decimals
	}
	return err
}

// first remembers an order number; the same number again is errRepeated for the same row, else a fault.
func (o *OrderReader) first(number string, row int, raw string) (*SetAside, error) {
	key, content := digestOf(number), digestOf(raw)
	earlier, seen := o.numbers[key]
	switch {
	case !seen:
		o.numbers[key] = firstSeen{row, content}
		return nil, nil
	case earlier.content == content:
		return nil, errRepeated
	}
	return &SetAside{Column: numberColumn, Value: number, Reason: fmt.Sprintf("this order already stands in row %d with other cells; want one row per order", earlier.row)}, nil
}

// A tape keeps what the CSV reader has read since the last cut, so that a row can be kept as it stood.
type tape struct {
	source io.Reader
	kept   []byte
	base   int64 // offset of kept[0] in the file
}

var errRowTooLong = fmt.Errorf("a row is longer than %d bytes; is a quote missing its end?", maxRow)

func (t *tape) Read(p []byte) (int, error) {
	if len(t.kept) > maxRow {
		return 0, errRowTooLong
	}
	n, err := t.source.Read(p)
	t.kept = append(t.kept, p[:n]...)
	return n, err
}

// cut gives the bytes between two offsets and forgets all before the second.
func (t *tape) cut(from, to int64) string {
	text := string(t.kept[from-t.base : to-t.base])
	rest := copy(t.kept, t.kept[to-t.base:])
	t.kept, t.base = t.kept[:rest], to
	return text
}
