package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"time"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/intake"
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
			if err := loadFile(l, name, content); err != nil {
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

// loadFile brings one file in, whatever its kind.
func loadFile(l *store.Load, name string, content io.Reader) error {
	hash := sha256.New()
	kind, whole, err := intake.Sniff(name, io.TeeReader(content, hash))
	if err != nil {
		return err
	}
	file := store.LoadFile{Name: name, Kind: string(kind)}
	var counts store.RowCounts
	var aside []store.SetAsideRow
	switch kind {
	case intake.Calendar:
		def, err := intake.ReadCalendar(name, whole)
		if err != nil {
			return err
		}
		if counts, err = l.Calendar(def); err != nil {
			return err
		}
	case intake.Orders:
		reader, err := intake.NewOrderReader(name, whole)
		if err != nil {
			return err
		}
		counts, err = l.Orders(reader.Columns(), func() (book.Order, error) { return nextOrder(reader, name, &aside) })
		if err != nil {
			return err
		}
		counts.Same += int64(reader.Repeated())
		file.UnusedColumns = reader.Unused()
	}
	if _, err := io.Copy(io.Discard, whole); err != nil { // what follows an iCalendar object counts in the hash
		return &intake.FileError{File: name, Err: err}
	}
	file.SHA256 = hex.EncodeToString(hash.Sum(nil))
	file.RowsNew, file.RowsChanged, file.RowsSame = counts.New, counts.Changed, counts.Same
	return l.AddFile(file, aside)
}

// nextOrder is the next order that can be used; rows that cannot are set aside on the way.
func nextOrder(reader *intake.OrderReader, file string, aside *[]store.SetAsideRow) (book.Order, error) {
	for {
		order, err := reader.Next()
		var row intake.SetAside
		if !errors.As(err, &row) {
			return order, err
		}
		*aside = append(*aside, store.SetAsideRow{RowNumber: int64(row.Row), ColumnName: row.Column, Value: row.Value, Reason: row.Reason, Raw: row.Raw})
		if len(*aside) > maxSetAside {
			return order, &intake.FileError{File: file, Row: row.Row,
				Err: fmt.Errorf("more than %d rows cannot be used, the last because %s; is this the right file?", maxSetAside, row.Reason)}
		}
	}
}
