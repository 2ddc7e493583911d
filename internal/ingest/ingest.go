// Package ingest brings files into the records: what they hold, what is set aside of them, what they leave open, and how far that has
// come. A load is all or nothing, and can be undone.
package ingest

import (
	"errors"
	"fmt"
	"io"

	"prairiedusk/internal/intake"
	"prairiedusk/internal/store"
)

// How says how files are loaded.
type How struct {
	CheckOnly bool
	Reading   intake.Reading
	Sheets    []string // of workbooks, that are to be read; all where empty
	// CalendarOf says whose published holidays are: a name for those of a file that has one calendar, or NAME IN THE FILE=NAME.
	CalendarOf []string
	// Observances says what days are that a file of holidays calls so: left-out or days-off; empty where nobody has said.
	Observances string
	// AcceptSetAside is the yes without which a load does not set many rows aside.
	AcceptSetAside bool
}

// Loaded is what became of a load, with the first of the rows that were set aside.
type Loaded struct {
	Record   store.LoadRecord
	SetAside []store.SetAsideRow
	Tables   []TableReport
	// MustAccept says, where files were only checked, why a load would want a yes.
	MustAccept []string
}

// A TableReport says what the columns of a table were taken for, and which rows were no records.
type TableReport struct {
	File        string
	Layout      intake.Remembered // by which it was read
	Columns     []intake.Column
	Skipped     []intake.Skipped // the first
	SkippedRows int64            // all
	Notes       []string         // what its rows were, and on its cells
	Preview     intake.Preview   // its first records
}

// A Phase is what a load is doing.
type Phase string

const (
	Receiving  Phase = "receiving"
	Reading    Phase = "reading"
	Merging    Phase = "merging"
	Rebuilding Phase = "reading the book"
)

// Progress is how far a load has come.
type Progress struct {
	File     string
	Phase    Phase
	Rows     int64 // of all files so far
	SetAside int   // of this file
	Bytes    int64 // of all files so far
}

// Files gives the files of a load one after the other, and io.EOF after the last. A file's content is read
// before the next file is asked for.
type Files func() (name string, content io.Reader, err error)

// ErrBadFile is wrapped by Load where a file cannot be used.
var ErrBadFile = errors.New("nothing was loaded")

// A StaleError says that a load stands, though the order book could not be read anew with it.
type StaleError struct {
	Load int64
	Err  error
}

func (e *StaleError) Error() string {
	return fmt.Sprintf("the files are in, as load %d, but answers do not show them yet: the records could not be read. They are being read again until that succeeds; there is nothing to do", e.Load)
}

func (e *StaleError) Unwrap() error { return e.Err }
