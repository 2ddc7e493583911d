package ingest

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"sync/atomic"
	"time"

	"prairiedusk/internal/calendarfile"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/intake"
	"prairiedusk/internal/record"
	"prairiedusk/internal/source"
	"prairiedusk/internal/store"
)

// maxSetAside bounds the rows of a file that are set aside. A file with more is the wrong file, or is
// written in another way throughout; nothing of it is taken.
const maxSetAside = 100_000

// maxShown is how much of a cell a sentence shows, in bytes.
const maxShown = 60

// errCheckOnly takes a load back that was only to show what would become of it.
var errCheckOnly = errors.New("only checked")

// A Loader brings files in.
type Loader struct {
	Store *store.Store
	User  string // who loads
	// Follow lets the answers follow a load that ended in some way; it gives the error of one that failed, or why they cannot.
	Follow   func(ctx context.Context, record store.LoadRecord, err error) error
	progress atomic.Pointer[Progress] // of the running load
}

// Load brings files in, all or none. One that only checks does all of it and takes
// it back; its record has no number.
func (l *Loader) Load(ctx context.Context, files Files, how How) (Loaded, error) {
	progress := &tracker{of: l}
	defer progress.end()
	var in intaking
	record, err := l.Store.Load(ctx, l.User, time.Now(), func(l *store.Load) error {
		progress.phase(Reading)
		how.Reading.Today = day.FromTime(time.Now())
		in = intaking{load: l, how: how, reading: how.Reading, sheets: how.Sheets, unmet: how.Reading.Headings(), progress: progress}
		for {
			name, content, err := files()
			if errors.Is(err, io.EOF) {
				break
			}
			if err != nil {
				return err
			}
			progress.file(name)
			if err := in.file(ctx, name, content); err != nil && !in.asks(err) {
				return err
			}
		}
		if len(in.open) > 0 {
			return fmt.Errorf("%w: %w", ErrBadFile, in.open)
		}
		if err := errors.Join(in.unmet.Fault(), in.unmetSheets()); err != nil {
			return fmt.Errorf("%w: %w", ErrBadFile, err)
		}
		if how.CheckOnly {
			return errCheckOnly
		}
		if len(in.mustAccept) > 0 && !how.AcceptSetAside {
			return fmt.Errorf("%w: %w", ErrBadFile, in.mustAccept)
		}
		return nil
	})
	loaded := Loaded{Record: record, SetAside: in.aside[:min(len(in.aside), shownAside)], Tables: in.tables}
	for _, q := range in.mustAccept {
		loaded.MustAccept = append(loaded.MustAccept, q.Error())
	}
	var refused *intake.FileError
	switch {
	case errors.Is(err, errCheckOnly):
		loaded.Record.ID = 0
		return loaded, nil
	case errors.As(err, &refused):
		return loaded, fmt.Errorf("%w: %w", ErrBadFile, refused)
	case err == nil:
		progress.phase(Rebuilding)
	}
	return loaded, l.follow(ctx, record, err)
}

// follow lets the answers follow a load that ended in some way.
func (l *Loader) follow(ctx context.Context, record store.LoadRecord, err error) error {
	shown := l.Follow(ctx, record, err)
	if err == nil && shown != nil {
		return &StaleError{Load: record.ID, Err: shown}
	}
	return shown
}

// publishEvery is how many rows go by between two reports, and publishBytes how many bytes of a file that comes in.
const (
	publishEvery = 2048
	publishBytes = 1 << 15
)

// A tracker tells how far the running load has come.
type tracker struct {
	of     *Loader
	now    Progress
	before int64 // bytes of the files before this one
	offset int64 // bytes of this one
	told   *Progress
}

func (t *tracker) publish() {
	now := t.now
	t.told = &now
	t.of.progress.Store(t.told)
}

// end forgets what was told; a load that was turned away, because another runs, has told nothing.
func (t *tracker) end() {
	if t.told != nil {
		t.of.progress.CompareAndSwap(t.told, nil)
	}
}

func (t *tracker) phase(p Phase) {
	t.now.Phase = p
	t.publish()
}

func (t *tracker) file(name string) {
	t.before, t.offset = t.before+t.offset, 0
	t.now.File, t.now.Phase, t.now.Bytes = name, Receiving, t.before
	t.publish()
}

// received counts bytes of the file that is coming in.
func (t *tracker) received(bytes int) {
	t.offset += int64(bytes)
	if t.now.Bytes = t.before + t.offset; t.now.Bytes-t.told.Bytes >= publishBytes {
		t.publish()
	}
}

func (t *tracker) row(offset int64, aside int) {
	t.offset = offset
	t.now.Rows, t.now.Bytes, t.now.SetAside = t.now.Rows+1, t.before+offset, aside
	if t.now.Rows%publishEvery == 0 {
		t.publish()
	}
}

// Progress is how far the running load has come; nil where none runs.
func (l *Loader) Progress() *Progress { return l.progress.Load() }

// An intaking brings the files of one load in.
type intaking struct {
	load     *store.Load
	how      How
	reading  intake.Reading
	sheets   []string // of workbooks, that are to be read; all where empty
	met      []string // of those
	unmet    intake.Headings
	progress *tracker
	aside    []store.SetAsideRow // the first that were set aside
	tables   []TableReport
	open     intake.Questions // what files leave open: all of it is asked at once
	// mustAccept are the tables of which so many rows are set aside that they may be read in the wrong way.
	mustAccept intake.Questions
}

// file brings one file in, whatever it holds.
func (in *intaking) file(ctx context.Context, name string, content io.Reader) (err error) {
	received, err := source.Keep(&receiver{content, in.progress})
	if err != nil {
		return &intake.FileError{File: name, Err: err}
	}
	defer received.Close()
	opened, err := source.Open(received)
	if err != nil {
		return &intake.FileError{File: name, Err: err}
	}
	defer func() { err = errors.Join(err, opened.Close()) }()
	in.progress.phase(Reading)
	for _, table := range opened.Tables {
		if !in.wants(table) {
			continue
		}
		whole := name
		if own := table.Name(); own != "" {
			whole += ", " + own
		}
		if err := in.table(ctx, whole, table); err != nil {
			return err
		}
	}
	return nil
}

// asks takes in what a file leaves open; false of any other error.
func (in *intaking) asks(err error) bool {
	var file *intake.FileError
	var questions intake.Questions
	if !errors.As(err, &questions) || !errors.As(err, &file) {
		return false
	}
	for _, q := range questions {
		q.File = file.File
	}
	in.open = append(in.open, questions...)
	return true
}

// A receiver tells how much of a file has come.
type receiver struct {
	content  io.Reader
	progress *tracker
}

func (r *receiver) Read(p []byte) (int, error) {
	n, err := r.content.Read(p)
	r.progress.received(n)
	return n, err
}

// table brings one table of a file in.
func (in *intaking) table(ctx context.Context, name string, table source.Table) error {
	var files []store.LoadFile // one for each kind that the table brings
	aside := &asideRows{}
	defer aside.close()
	counts, calendars := store.RowCounts{}, false
	if !table.Hidden {
		var err error
		if counts, calendars, err = in.calendars(ctx, name, intake.Stem(cmp.Or(table.Member, name)), table); err != nil {
			return err
		}
	}
	switch {
	case table.Hidden:
		files = append(files, store.LoadFile{Name: name, Kind: "hidden sheet, not read"})
	case calendars:
		files = append(files, fileOf(name, "calendar", counts))
	default:
		extras, err := in.load.Extras(ctx)
		if err != nil {
			return err
		}
		reading := in.reading
		reading.Ended = ctx.Err
		if reading.Saved, err = in.layouts(ctx); err != nil {
			return err
		}
		reader, err := intake.NewTableReader(name, table, extras, reading)
		if err != nil {
			return err
		}
		defer reader.Close()
		in.unmet.Meet(reader.Header())
		counts, err := in.load.Records(reader.Parts(), func() ([]record.Row, error) {
			rows, err := nextRow(reader, name, aside)
			switch {
			case err == nil:
				in.progress.row(reader.Offset(), aside.count)
			case errors.Is(err, io.EOF):
				in.progress.phase(Merging)
			}
			return rows, err
		})
		if err != nil {
			return err
		}
		report := TableReport{File: name, Layout: reader.Remembered(), Columns: reader.Columns()}
		if err := in.keepLayout(ctx, reader); err != nil {
			return err
		}
		if why := reader.TooMany(aside.count); why != "" {
			first := aside.first[0]
			at := fmt.Sprintf("row %d", first.RowNumber)
			if first.Value != "" {
				at += ", " + numfmt.Clipped(first.Value, maxShown)
			}
			asks := fmt.Sprintf("%s would be set aside, the first of them %s: %s", why, at, first.Reason)
			in.mustAccept = append(in.mustAccept, &intake.Question{Word: "accept_set_aside", File: name, Asks: asks,
				Answers: []string{"yes"}})
		}
		report.Skipped, report.SkippedRows = reader.Skipped()
		report.Preview = reader.Preview()
		if grain := reader.Grain(); grain != "" {
			report.Notes = append(report.Notes, grain)
		}
		report.Notes = append(report.Notes, reader.Notes()...)
		in.tables = append(in.tables, report)
		counts[0].Same += int64(reader.Repeated())
		for p, part := range reader.Parts() {
			files = append(files, fileOf(name, part.Kind.Name, counts[p]))
		}
		files[0].UnusedColumns, files[0].Header = reader.Unused(), reader.Header()
	}
	for i, file := range files {
		file.SHA256 = hex.EncodeToString(table.File().SHA256())
		rows := aside.all()
		if i > 0 {
			rows = nil // they stand with the first
		}
		if err := in.load.AddFile(file, rows); err != nil {
			return err
		}
	}
	if len(in.aside) < shownAside {
		in.aside = append(in.aside, aside.first...)
	}
	return nil
}

// calendarForm is the form of a table that is a calendar; empty of any other.
func calendarForm(table source.Table) calendarfile.Form {
	if table.Calendar {
		return calendarfile.ICalendar
	}
	head := make([]byte, 512)
	n, _ := io.ReadFull(table.File().Open(), head) // a shorter file is whole
	if table.Comma && calendarfile.IsCSV(bytes.TrimSpace(bytes.TrimPrefix(head[:n], []byte("\uFEFF")))) {
		return calendarfile.CSV
	}
	return ""
}

// SaveCalendar brings in a calendar that was edited, as a load of its own, so that it can be undone like any other.
func (l *Loader) SaveCalendar(ctx context.Context, def calendar.Definition) error {
	record, err := l.Store.Load(ctx, l.User, time.Now(), func(l *store.Load) error {
		counts, err := l.Calendar(def)
		if err != nil {
			return err
		}
		text, err := json.Marshal(def)
		if err != nil {
			return err
		}
		hash := sha256.Sum256(text)
		file := fileOf(def.Name+" (edited)", "calendar", counts)
		file.SHA256 = hex.EncodeToString(hash[:])
		return l.AddFile(file, nil)
	})
	return l.follow(ctx, record, err)
}

// SaveStatuses says of statuses what they are, as a load of its own, so that it can be undone like any other.
func (l *Loader) SaveStatuses(ctx context.Context, settings []book.StatusSetting) error {
	rows := make([][]record.Value, len(settings))
	for i, s := range settings {
		step, final := "", "no"
		if s.Step != 0 {
			step = strconv.Itoa(s.Step)
		}
		if s.Final {
			final = "yes"
		}
		rows[i] = []record.Value{typed(s.Name), typed(step), typed(final), typed(s.Colour), typed(s.SpellingOf)}
	}
	return l.save(ctx, record.StatusList, "statuses (edited)", rows)
}

// SavePlaces says where places are, as a load of its own, so that it can be undone like any other.
func (l *Loader) SavePlaces(ctx context.Context, places []book.PlaceRecord) error {
	rows := make([][]record.Value, len(places))
	for i, p := range places {
		degrees := func(of float64) record.Value { return record.Value{Number: int64(math.Round(of * 1e6)), Known: true} }
		rows[i] = []record.Value{typed(p.Place), typed(p.Country), typed(p.Region), degrees(p.At.Latitude), degrees(p.At.Longitude)}
	}
	return l.save(ctx, record.Places, "places (edited)", rows)
}

// typed is a cell with a text; none where that is empty.
func typed(text string) record.Value { return record.Value{Text: text, Known: text != ""} }

// save saves records of a kind with all its columns, which came in no file, under a name for the history.
func (l *Loader) save(ctx context.Context, kind *record.Kind, name string, rows [][]record.Value) error {
	part := record.Part{Kind: kind}
	for i := range kind.Columns {
		part.Given = append(part.Given, i)
	}
	next := 0
	saved, err := l.Store.Load(ctx, l.User, time.Now(), func(l *store.Load) error {
		counts, err := l.Records([]record.Part{part}, func() ([]record.Row, error) {
			if next == len(rows) {
				return nil, io.EOF
			}
			next++
			return []record.Row{{Fresh: true, Values: rows[next-1]}}, nil
		})
		if err != nil {
			return err
		}
		text, err := json.Marshal(rows)
		if err != nil {
			return err
		}
		hash := sha256.Sum256(text)
		file := fileOf(name, kind.Name, counts[0])
		file.SHA256 = hex.EncodeToString(hash[:])
		return l.AddFile(file, nil)
	})
	return l.follow(ctx, saved, err)
}

func fileOf(name, kind string, counts store.RowCounts) store.LoadFile {
	return store.LoadFile{Name: name, Kind: kind, RowsNew: counts.New, RowsChanged: counts.Changed, RowsSame: counts.Same}
}

// nextRow is the next row that can be used; rows that cannot are set aside on the way.
func nextRow(reader *intake.TableReader, file string, aside *asideRows) ([]record.Row, error) {
	for {
		rows, err := reader.Next()
		var row intake.SetAside
		if !errors.As(err, &row) {
			return rows, err
		}
		kept := store.SetAsideRow{File: file, RowNumber: int64(row.Row), ColumnName: row.Column, Value: row.Value, Reason: row.Reason,
			Raw: row.Raw, Kind: reader.Parts()[0].Kind.Name}
		if len(row.Keys) > 0 {
			kept.RecordKey = row.Keys[0]
		}
		if err := aside.add(kept); err != nil {
			return nil, err
		}
		if aside.count > maxSetAside {
			return nil, &intake.FileError{File: file, Row: row.Row,
				Err: fmt.Errorf("more than %d rows cannot be used, the last because %s; is this the right file?", maxSetAside, row.Reason)}
		}
	}
}
