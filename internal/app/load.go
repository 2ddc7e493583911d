package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"time"

	"prairiedusk/internal/intake"
	"prairiedusk/internal/record"
	"prairiedusk/internal/server"
	"prairiedusk/internal/store"
)

// maxSetAside bounds the rows of a file that are set aside. A file with more is the wrong file, or is
// written in another way throughout; nothing of it is taken.
const maxSetAside = 100_000

// Load brings files in, all or none, and makes the next snapshot.
func (a *App) Load(ctx context.Context, files server.Files) (store.LoadRecord, error) {
	record, err := a.store.Load(ctx, a.user, time.Now(), func(l *store.Load) error {
		for {
			name, content, err := files()
			if errors.Is(err, io.EOF) {
				return nil
			}
			if err != nil {
				return err
			}
			if err := a.loadFile(ctx, l, name, content); err != nil {
				return err
			}
		}
	})
	var refused *intake.FileError
	if errors.As(err, &refused) {
		return record, fmt.Errorf("%w: %w", server.ErrBadFile, refused)
	}
	if err != nil {
		return record, err
	}
	// The load stands, whether or not its client still listens.
	if err := a.Refresh(context.WithoutCancel(ctx)); err != nil {
		return record, &server.StaleError{Load: record.ID, Err: err}
	}
	return record, nil
}

// loadFile brings one file in, whatever it holds.
func (a *App) loadFile(ctx context.Context, l *store.Load, name string, content io.Reader) error {
	hash := sha256.New()
	format, whole, err := intake.Sniff(name, io.TeeReader(content, hash))
	if err != nil {
		return err
	}
	var files []store.LoadFile // one for each kind that the file brings
	var aside []store.SetAsideRow
	switch format {
	case intake.Calendar:
		def, err := intake.ReadCalendar(name, whole)
		if err != nil {
			return err
		}
		counts, err := l.Calendar(def)
		if err != nil {
			return err
		}
		files = append(files, fileOf(name, "calendar", counts))
	case intake.Table:
		extras, err := l.Extras(ctx)
		if err != nil {
			return err
		}
		reader, err := intake.NewTableReader(name, whole, extras)
		if err != nil {
			return err
		}
		counts, err := l.Records(reader.Parts(), func() ([]record.Row, error) { return nextRow(reader, name, &aside) })
		if err != nil {
			return err
		}
		counts[0].Same += int64(reader.Repeated())
		for p, part := range reader.Parts() {
			files = append(files, fileOf(name, part.Kind.Name, counts[p]))
		}
		files[0].UnusedColumns, files[0].Header = reader.Unused(), reader.Header()
	}
	if _, err := io.Copy(io.Discard, whole); err != nil { // what follows an iCalendar object counts in the hash
		return &intake.FileError{File: name, Err: err}
	}
	for i, file := range files {
		file.SHA256 = hex.EncodeToString(hash.Sum(nil))
		if i > 0 {
			aside = nil // they stand with the first
		}
		if err := l.AddFile(file, aside); err != nil {
			return err
		}
	}
	return nil
}

func fileOf(name, kind string, counts store.RowCounts) store.LoadFile {
	return store.LoadFile{Name: name, Kind: kind, RowsNew: counts.New, RowsChanged: counts.Changed, RowsSame: counts.Same}
}

// nextRow is the next row that can be used; rows that cannot are set aside on the way.
func nextRow(reader *intake.TableReader, file string, aside *[]store.SetAsideRow) ([]record.Row, error) {
	for {
		rows, err := reader.Next()
		var row intake.SetAside
		if !errors.As(err, &row) {
			return rows, err
		}
		kept := store.SetAsideRow{RowNumber: int64(row.Row), ColumnName: row.Column, Value: row.Value, Reason: row.Reason, Raw: row.Raw, Kind: reader.Parts()[0].Kind.Name}
		if len(row.Keys) > 0 {
			kept.RecordKey = row.Keys[0]
		}
		*aside = append(*aside, kept)
		if len(*aside) > maxSetAside {
			return nil, &intake.FileError{File: file, Row: row.Row,
				Err: fmt.Errorf("more than %d rows cannot be used, the last because %s; is this the right file?", maxSetAside, row.Reason)}
		}
	}
}
