package intake

import (
	"encoding/binary"
	"errors"
	"fmt"
	"hash/maphash"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/escape"
	"prairiedusk/internal/record"
	"prairiedusk/internal/source"
)

const (
	// maxText bounds a cell of text, in bytes.
	maxText = 500
	// maxColumns bounds a header.
	maxColumns = 500
	// lookAhead is the number of rows by which a column of the user's own is told to hold days or text.
	lookAhead = 1000
)

// A TableReader reads a table, whatever the form of its file. Its header names the columns, in any order, in capitals or not, with
// spaces, underscores or hyphens; what they are tells what
// kinds of records the file brings. Days are YYYY-MM-DD, numbers plain decimals; an empty cell is none. A title may stand
// in the first cell of a row before the header; in a file that has one, as those that are taken away do, an apostrophe
// before a text that would be run as a formula is not part of it.
type TableReader struct {
	file        string
	source      source.Rows
	row         source.Row
	before      int  // rows before the header
	titled      bool // one of them, a title, stands there
	header      []string
	titles      []string  // the header as it stands in the file
	twice       []int     // by position: the first column of the same heading, where it is another
	use         []cellUse // by position in the row
	forms       []columnForm
	parts       []record.Part
	unused      []string
	open        Questions
	layout      *Layout  // by which the file is read
	said        []said   // of the columns
	why         []string // by position: why a column means what it does
	glances     []glance
	marks       marks
	currencies  currencies
	preview     Preview
	valued      bool              // lines have the currency of their order beside their values
	daily       bool              // status records are of a list of every day, by the heading of their time
	latest      map[digest]uint32 // the row of each order that is of its latest day, in such a list
	meant       []string          // by position: the names of columns, whatever the file brings
	meantBy     []string          // by position: why they do
	names       []string          // by position: the names of columns as the file brings them
	rowsSaid    string            // what rows are, as somebody has said
	own         []string          // by position: what the heading itself names
	plans       []bool            // by position
	numbering   numbering         // of lines that have no number
	lines       map[digest]uint32 // how many of an order there were so far, where their appearance numbers them
	line        string            // number of that of the row, where the file has none
	used        int               // rows that have brought something
	fresh       []int             // records by part
	keyAt       int               // where the first key stands
	skipped     []Skipped
	skippedRows int64
	rowsSeen    int64   // by the glances
	faults      []int64 // rows set aside for a cell of the column, so far
	ahead       []line
	rows        []record.Row   // given out again for each row
	decimals    map[string]int // of the currencies seen so far
	seen        []map[digest]firstSeen
	variants    map[digest]firstSeen // records whose keys differ from those of others by case alone
	split       map[int]bool         // numbers of rows that are pieces of one, cut by a line end
	tidied      tidied
	keys        []string
	scratch     []byte
	repeated    int
	ended       func() error // see Reading
	form        string       // of the file, in words
	hiddenAt    []int        // columns
	hidden      int          // rows
}

// A cellUse says what a cell of a row is for: a column of a part, or one of its extra columns.
type cellUse struct {
	part, column int
	kind         use
}

type use uint8

const (
	unused use = iota
	asColumn
	asExtra
)

// A line is a row as it was read, before it is checked.
type line struct {
	cells []string
	row   int
	has   int // cells in the file; those that it lacks are empty
	err   error
	ahead bool   // other rows were read since
	raw   string // of one that was read ahead
}

// A digest stands for a record's keys; its 96 bits leave no two alike by chance. Millions of them are held at a
// time, so every byte counts.
type digest [3]uint32

type firstSeen struct{ content, row, written uint32 }

func digestOf(text string) digest {
	a, b := maphash.String(seeds[0], text), maphash.String(seeds[1], text)
	return digest{uint32(a), uint32(a >> 32), uint32(b)}
}

var seeds = [2]maphash.Seed{maphash.MakeSeed(), maphash.MakeSeed()}

// NewTableReader reads the header. Known are the extra columns that earlier files have brought, by kind. The
// error is a *FileError; one of Questions where the file leaves something open.
func NewTableReader(file string, table source.Table, known func(*record.Kind) []record.Extra, reading Reading) (_ *TableReader, err error) {
	t := &TableReader{file: file, ended: reading.Ended, form: table.Form, hiddenAt: table.HiddenColumns, decimals: map[string]int{},
		variants: map[digest]firstSeen{}, split: map[int]bool{}, lines: map[digest]uint32{},
		currencies: currencies{cells: map[string]int{}, part: -1}}
	if err := t.learn(""); err != nil { // a value without a currency
		return nil, err
	}
	if t.source, err = table.Rows(); err != nil {
		return nil, &FileError{File: file, Err: err}
	}
	defer func() {
		if err != nil {
			_ = t.source.Close() // what went wrong first counts
		}
	}()
	if !table.Plain {
		if t.before, err = rowsBeforeHeader(table, reading); err != nil {
			return nil, &FileError{File: file, Err: err}
		}
	}
	header, row, err := t.readHeader()
	for range t.before {
		if err != nil {
			break
		}
		if t.titled = t.before == 1 && isTitle(header); filled(header) > 0 {
			t.skip(whyTitle)
		}
		if header, row, err = t.readHeader(); err != nil {
			return nil, &FileError{file, row, fmt.Errorf("after its title the file has no header: %w", err)}
		}
	}
	if err != nil {
		return nil, &FileError{file, row, err}
	}
	t.header = header
	t.nameTwice()
	if err := t.mapHeader(known, reading); err != nil {
		return nil, &FileError{file, row, err}
	}
	t.marks.learn(reading, t.layout)
	if err := t.recognise(table, known, reading); err != nil {
		return nil, &FileError{File: file, Err: err}
	}
	for _, part := range t.parts {
		t.rows = append(t.rows, record.Row{Values: make([]record.Value, len(part.Kind.Columns)), Extra: make([]string, len(part.Extras))})
		t.seen = append(t.seen, map[digest]firstSeen{})
	}
	t.keys, t.fresh = make([]string, len(t.parts)), make([]int, len(t.parts))
	if len(t.open) > 0 {
		return nil, &FileError{File: file, Err: t.open}
	}
	t.decideExtras()
	return t, nil
}

// readHeader is a row that may be the header, with its number.
func (t *TableReader) readHeader() (header []string, row int, err error) {
	err = t.source.Next(&t.row)
	var fault *source.RowError
	switch {
	case errors.Is(err, io.EOF):
		return nil, 0, errEmpty
	case errors.As(err, &fault):
		return nil, fault.At.Number(), fmt.Errorf("the header cannot be read: %w", fault.Err)
	case err != nil:
		return nil, 0, err
	}
	return slices.Clone(t.row.Cells), max(1, t.row.At.Number()), nil
}

// back is a cell as it was before it was made harmless.
func (t *TableReader) back(cell string) string {
	if t.titled {
		return escape.Back(cell)
	}
	return cell
}

// isTitle says whether a row before the header says what the file is: it has text in its first cell alone.
func isTitle(row []string) bool {
	return len(row) > 1 && strings.TrimSpace(row[0]) != "" && strings.TrimSpace(strings.Join(row[1:], "")) == ""
}

// Parts says what the file brings, kind by kind.
func (t *TableReader) Parts() []record.Part { return t.parts }

// Unused are the headers that mean nothing here.
func (t *TableReader) Unused() []string { return t.unused }

// Header is the file's header, for giving set-aside rows back in the shape of the file; with a column line where the file has none and
// its lines were numbered as they came, since among fewer rows they would get other numbers.
func (t *TableReader) Header() []string {
	if t.numbering == byAppearance {
		return append(slices.Clone(t.header), "line")
	}
	return t.header
}

// Repeated is the number of rows so far that brought nothing: the same records stood in the file before.
func (t *TableReader) Repeated() int { return t.repeated }

// Offset is how many bytes of the file have been read.
func (t *TableReader) Offset() int64 { return t.source.Offset() }

// Close lets go of the file.
func (t *TableReader) Close() error { return t.source.Close() }

// Next is the next row, one record for each part; it is overwritten by the next call. A row that cannot be
// used comes as a SetAside error, and reading can go on; io.EOF ends the file; a *FileError means that the file
// as a whole cannot be used.
func (t *TableReader) Next() ([]record.Row, error) {
	for {
		l := t.nextLine()
		if l.err != nil {
			return nil, l.err
		}
		fault := t.check(l.cells)
		if fault == nil {
			fault = t.first(l.row)
		}
		if fault != nil {
			if i := slices.Index(t.header, fault.Column); i >= 0 && fault.Column != "" {
				t.faults[i]++
			}
			fault.Row, fault.Raw, fault.Keys = l.row, l.raw, slices.Clone(t.keys)
			if !l.ahead {
				fault.Raw = t.row.Raw()
			}
			if t.numbering == byAppearance {
				fault.Raw += strings.Repeat(",", len(t.use)-l.has) + "," + t.line
			}
			return nil, *fault
		}
		if slices.ContainsFunc(t.rows, func(r record.Row) bool { return r.Fresh }) {
			t.used++
			t.show()
			return t.rows, nil
		}
		t.repeated++
	}
}

func (t *TableReader) nextLine() line {
	if len(t.ahead) > 0 {
		l := t.ahead[0]
		t.ahead = t.ahead[1:]
		return l
	}
	return t.read()
}

// read takes the next row that may be a record from the file, as it stands.
func (t *TableReader) read() line {
	err := t.source.Next(&t.row)
	for ; err == nil; err = t.source.Next(&t.row) {
		why := t.noRecord(t.row.Cells)
		if why == "" {
			break
		}
		t.skip(why)
	}
	var fault *source.RowError
	switch {
	case errors.Is(err, io.EOF):
		return line{err: io.EOF}
	case errors.As(err, &fault):
		return line{err: SetAside{Row: fault.At.Number(), Reason: fault.Err.Error(), Raw: storableText(fault.Raw)}}
	case err != nil:
		return line{err: &FileError{File: t.file, Err: err}}
	}
	if t.row.Hidden {
		t.hidden++
	}
	cells, row := t.row.Cells, t.row.At.Number()
	has := len(cells)
	for len(cells) < len(t.use) {
		cells = append(cells, "") // what is missing is at the end
	}
	for len(cells) > len(t.use) && strings.TrimSpace(cells[len(cells)-1]) == "" {
		cells = cells[:len(cells)-1]
	}
	switch {
	case t.split[row]:
		err = SetAside{Row: row, Reason: fmt.Sprintf("the row has %d cells, and is a whole one of %d with the short one beside it: there is a line end in a cell without quotes", has, len(t.use)), Raw: storableText(t.row.Raw())}
	case len(cells) != len(t.use), t.lone(t.row.Cells):
		err = SetAside{Row: row, Reason: fmt.Sprintf("the row has %s; want %d, as in the header", numfmt.Counted(has, "cell"),
			len(t.use)), Raw: storableText(t.row.Raw())}
	case slices.ContainsFunc(cells, func(cell string) bool { return strings.IndexByte(cell, 0) >= 0 }):
		err = SetAside{Row: row, Reason: "the row holds the character NUL, which no text has", Raw: storableText(t.row.Raw())}
	}
	return line{cells: cells, row: row, has: min(has, len(cells)), err: err}
}

// lone says whether a row that lacks cells has but one that is filled: nobody can tell whether it is a record or was written below them.
func (t *TableReader) lone(cells []string) bool {
	return len(cells) < len(t.use) && len(t.use) > 2 && filled(cells) == 1
}

// storableText is a text as it can be kept.
func storableText(text string) string {
	return strings.ToValidUTF8(strings.ReplaceAll(text, "\x00", "\uFFFD"), "\uFFFD")
}

// decideExtras tells which columns of the user's own hold days, by the first rows. A column that is empty there
// is decided by its first filled cell.
func (t *TableReader) decideExtras() {
	open := false
	for _, part := range t.parts {
		for _, extra := range part.Extras {
			open = open || !extra.Known
		}
	}
	for open && len(t.ahead) < lookAhead {
		l := t.read()
		l.cells, l.ahead = slices.Clone(l.cells), true
		if l.err == nil {
			l.raw = t.row.Raw()
		}
		t.ahead = append(t.ahead, l)
		var row SetAside
		if l.err != nil && !errors.As(l.err, &row) {
			break // it comes again, in its turn
		}
	}
	for i, u := range t.use {
		if u.kind != asExtra {
			continue
		}
		extra := t.parts[u.part].Extras[u.column]
		if extra.Known {
			continue
		}
		filled, days := 0, 0
		for _, l := range t.ahead {
			if l.err != nil {
				continue
			}
			if cell := t.cell(l.cells, i); cell != "" {
				filled++
				if _, err := day.ParseMoment(t.forms[i].date(cell)); err == nil {
					days++
				}
			}
		}
		if filled > 0 {
			extra.Known, extra.Milestone = true, days == filled
		}
	}
}

// check reads the cells of a row into the records of its parts and names the first that is wrong.
func (t *TableReader) check(cells []string) *SetAside {
	for p := range t.rows {
		clear(t.rows[p].Values)
		clear(t.rows[p].Extra)
		t.keys[p] = ""
	}
	var fault *SetAside
	blame := func(i int, value, reason string) {
		if fault == nil {
			fault = &SetAside{Column: t.header[i], Value: value, Reason: reason}
		}
	}
	for i := range cells {
		u, cell := t.use[i], t.cell(cells, i)
		if cell == "" || u.kind == unused {
			continue
		}
		if u.kind == asExtra {
			if reason := t.extra(i, cell); reason != "" {
				blame(i, cell, reason)
			}
			continue
		}
		c := t.parts[u.part].Kind.Columns[u.column]
		if c.Type == record.Money {
			continue // its currency may come later in the row
		}
		written := cell
		switch c.Type {
		case record.Day, record.Moment:
			cell = t.forms[i].date(cell)
		case record.Amount, record.Units:
			cell = t.forms[i].number(cell)
		}
		if c.Type.InText() {
			cell = t.tidy(cell, u.column < t.parts[u.part].Kind.Keys)
			written = cell
		}
		value, reason := t.value(c.Type, cell)
		if reason == "" && c.Type == record.Text && u.column < t.parts[u.part].Kind.Keys && spoiled(cell) {
			reason = "a number of which a spreadsheet has lost digits; want it as text, with all of them"
		}
		if cell = written; reason != "" {
			blame(i, cell, reason)
		}
		t.rows[u.part].Values[u.column] = value
	}
	// An order's number stands once in the row, and belongs to the order beside the first part too.
	for p := range t.rows[1:] {
		t.rows[1+p].Values[0] = t.rows[0].Values[0]
	}
	if t.currencies.part >= 0 || len(t.currencies.cells) > 0 {
		if at, reason := t.setCurrencies(cells); at >= 0 {
			blame(at, t.cell(cells, at), reason)
		}
	}
	for i, u := range t.use {
		if u.kind != asColumn || t.parts[u.part].Kind.Columns[u.column].Type != record.Money {
			continue
		}
		if cell := t.cell(cells, i); cell != "" {
			value, reason := t.money(u.part, t.forms[i].number(cell))
			if reason != "" {
				blame(i, cell, reason)
			}
			t.rows[u.part].Values[u.column] = value
		}
	}
	if t.numbering != numbered {
		t.numberLine()
	}
	if t.daily {
		t.rows[0].Values[record.Statuses.Column("source")] = record.Value{Text: "daily", Known: true}
	}
	for p, part := range t.parts {
		t.keys[p] = recordKey(part.Kind, t.rows[p].Values)
		if missing := missingKey(part.Kind, t.rows[p].Values); missing >= 0 && fault == nil {
			name := part.Kind.Columns[missing].Name
			fault = &SetAside{Column: t.titleOf(name), Reason: fmt.Sprintf("the %s has no %s; want one", part.Kind.Noun, name)}
		}
	}
	return fault
}

// cell is what a cell of a row holds; empty where it says that nothing is known.
func (t *TableReader) cell(cells []string, i int) string {
	cell := t.back(strings.TrimSpace(cells[i]))
	if t.marks.is(cell) {
		return ""
	}
	return cell
}

// titleOf is the header under which a column stands in this file.
func (t *TableReader) titleOf(name string) string {
	for i, title := range t.header {
		if u := t.use[i]; u.kind == asColumn && t.parts[u.part].Kind.Columns[u.column].Name == name {
			return title
		}
	}
	return name
}

// missingKey is the first key that a record cannot do without and lacks, or -1.
func missingKey(k *record.Kind, values []record.Value) int {
	return slices.IndexFunc(values[:k.Required], func(v record.Value) bool { return !v.Known })
}

// extra takes a cell of one of the user's own columns.
func (t *TableReader) extra(i int, cell string) (reason string) {
	u, form := t.use[i], t.forms[i]
	extra := t.parts[u.part].Extras[u.column]
	if !extra.Known || extra.Milestone {
		cell = form.date(cell)
	}
	_, err := day.ParseMoment(cell)
	if !extra.Known {
		extra.Known, extra.Milestone = true, err == nil
	}
	switch {
	case extra.Milestone && err != nil:
		return fmt.Sprintf("the column holds days, and this is none: %v", err)
	case len(cell) > maxText:
		cell = t.cut(cell, i)
	}
	t.rows[u.part].Extra[u.column] = t.tidy(cell, false)
	return ""
}

func tooLong(cell string) string {
	return fmt.Sprintf("the cell is %d bytes long; want at most %d", len(cell), maxText)
}

// first remembers the records of a row and says which of them are fresh. A record that differs from an earlier
// one of its keys is at fault, and with it the row.
func (t *TableReader) first(row int) *SetAside {
	var marks [maxParts]struct {
		key     digest
		seen    firstSeen
		variant bool // beside another whose keys differ by case alone
	}
	for p := range t.rows {
		if p > 0 && t.latest != nil {
			t.rows[p].Fresh = t.latest[digestOf(t.rows[0].Values[0].Text)] == uint32(row)
			continue
		}
		mark := &marks[p]
		mark.key, mark.seen = t.fold(t.keys[p]), firstSeen{t.content(p), uint32(row), uint32(maphash.String(seeds[1], t.keys[p]))}
		earlier, seen := t.seen[p][mark.key]
		if seen && earlier.written != mark.seen.written {
			t.differByCase(t.keys[p], row, int(earlier.row))
			mark.variant, mark.key = true, digestOf(t.keys[p])
			mark.key[0] ^= uint32(p) // the parts share what is rare
			earlier, seen = t.variants[mark.key]
		}
		if seen && earlier.content != mark.seen.content {
			kind := t.parts[p].Kind
			return &SetAside{Column: t.titleOf(kind.Columns[0].Name), Value: t.rows[p].Values[0].Text,
				Reason: fmt.Sprintf("this %s already stands in row %d with other cells; want each %s once", kind.Noun, earlier.row,
					kind.Noun)}
		}
		t.rows[p].Fresh = !seen
	}
	for p, r := range t.rows {
		if r.Fresh {
			t.fresh[p]++
		}
		switch mark := marks[p]; {
		case !r.Fresh, p > 0 && t.latest != nil:
		case mark.variant:
			t.variants[mark.key] = mark.seen
		default:
			t.seen[p][mark.key] = mark.seen
		}
	}
	return nil
}

// fold stands for keys whatever the case of their letters; those that no ASCII has count as they stand.
func (t *TableReader) fold(keys string) digest {
	t.scratch = inSmallLetters(append(t.scratch[:0], keys...))
	a, b := maphash.Bytes(seeds[0], t.scratch), maphash.Bytes(seeds[1], t.scratch)
	return digest{uint32(a), uint32(a >> 32), uint32(b)}
}

// inSmallLetters changes the capitals of ASCII in a text.
func inSmallLetters(text []byte) []byte {
	for i, c := range text {
		if c >= 'A' && c <= 'Z' {
			text[i] = c + 'a' - 'A'
		}
	}
	return text
}

// content stands for all cells of a record.
func (t *TableReader) content(p int) uint32 {
	t.scratch = t.scratch[:0]
	for _, v := range t.rows[p].Values {
		t.scratch = append(append(t.scratch, v.Text...), 0)
		t.scratch = binary.LittleEndian.AppendUint64(t.scratch, uint64(v.Number))
	}
	for _, cell := range t.rows[p].Extra {
		t.scratch = append(append(t.scratch, cell...), 0)
	}
	return uint32(maphash.Bytes(seeds[0], t.scratch))
}

// recordKey joins the keys of a record to one text, in the form in which the store tells records apart.
func recordKey(k *record.Kind, values []record.Value) string {
	if k.Keys == 1 {
		return values[0].Text
	}
	keys := make([]string, k.Keys)
	for i := range keys {
		keys[i] = values[i].Text
	}
	return strings.Join(keys, record.KeySeparator)
}

// storable says whether a text can be kept: UTF-8, and without the one character that PostgreSQL refuses.
func storable(text string) bool {
	return utf8.ValidString(text) && !strings.Contains(text, "\x00")
}
