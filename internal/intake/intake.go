// Package intake turns the rows of files into records: it maps their columns, checks every cell and says of each row that
// cannot be used what was found, where, and what was expected.
package intake

import (
	"errors"
	"fmt"
	"path/filepath"
	"strings"
)

// A SetAside is a row that cannot be used, kept whole with the reason.
type SetAside struct {
	Row    int    // the line of the file on which the row begins; the header is line 1
	Column string // empty where the row as a whole is at fault
	Value  string
	Reason string
	Raw    string   // the row as it stands in the file
	Keys   []string // of the record that the row would have been, by part; empty where they cannot be told
}

func (s SetAside) Error() string {
	if s.Column == "" {
		return fmt.Sprintf("row %d: %s", s.Row, s.Reason)
	}
	return fmt.Sprintf("row %d, column %q: %s", s.Row, s.Column, s.Reason)
}

// A FileError says why a file cannot be used at all. Nothing of it is taken in.
type FileError struct {
	File string
	Row  int // 0 where no row is to blame
	Err  error
}

func (e *FileError) Error() string {
	if e.Row > 0 {
		return fmt.Sprintf("%s, row %d: %v", e.File, e.Row, e.Err)
	}
	return fmt.Sprintf("%s: %v", e.File, e.Err)
}

func (e *FileError) Unwrap() error { return e.Err }

var errEmpty = errors.New("the table is empty; want a header row and a row per record")

// Stem is the file's name without folder and ending.
func Stem(file string) string {
	base := filepath.Base(file)
	return strings.TrimSuffix(base, filepath.Ext(base))
}
