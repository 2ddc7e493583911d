// Package source reads files as other systems write them. Whatever a file is, which its content tells and never its name, it
// comes as tables of rows of cells; what the cells mean is for others. It never guesses: a file that it does not read is refused
// by what it is, with what to do instead.
package source

import (
	"fmt"

	"github.com/xuri/excelize/v2"
)

// A Place is where something stands in a file, in the words of people who have it open. Column 0 is the row as a whole.
type Place struct {
	Sheet       string // of a workbook
	Row, Column int    // from 1; of a text file, Row is the line on which the record begins
	Record      int    // from 1, of a file that has no rows
	Key         string // of its values, which have names
}

func (p Place) String() string {
	switch {
	case p.Sheet != "" && p.Column > 0:
		cell, _ := excelize.CoordinatesToCellName(p.Column, p.Row)
		return fmt.Sprintf("sheet %q, cell %s", p.Sheet, cell)
	case p.Sheet != "":
		return fmt.Sprintf("sheet %q, row %d", p.Sheet, p.Row)
	case p.Key != "":
		return fmt.Sprintf("record %d, %q", p.Record, p.Key)
	case p.Record > 0:
		return fmt.Sprintf("record %d", p.Record)
	case p.Column > 0:
		return fmt.Sprintf("line %d, column %d", p.Row, p.Column)
	}
	return fmt.Sprintf("line %d", p.Row)
}

// Number is that of the row, or of the record where there are no rows; 0 for the names of values, which no row has.
func (p Place) Number() int { return max(p.Row, p.Record) }

// A Row is what was read last; the next call overwrites it.
type Row struct {
	At Place
	// Cells are texts. What the file itself says to be a number or a day is written as a plain decimal or as ISO 8601.
	Cells []string
	// Hidden says that whoever has the file open does not see the row.
	Hidden bool
	place  func(column int) Place
	raw    func() string
}

// Place is where a cell stands, by its place in Cells. It is only worked out where somebody asks.
func (r *Row) Place(column int) Place { return r.place(column) }

// Raw is the row as it stands in a CSV file, or as one would have it.
func (r *Row) Raw() string { return r.raw() }

// Rows reads the rows of a table, the header among them. Next fills the row, and gives io.EOF after the last, a *RowError for a
// row that cannot be read (the next one can be), and any other error where nothing more can be.
type Rows interface {
	Next(*Row) error
	// Offset is how many bytes of the file have been read.
	Offset() int64
	Close() error
}

// A RowError says which row could not be read, and why.
type RowError struct {
	At  Place
	Raw string // as far as it could be told
	Err error
}

func (e *RowError) Error() string { return fmt.Sprintf("%v: %v", e.At, e.Err) }

func (e *RowError) Unwrap() error { return e.Err }

// A Refusal says what a file is that is not read, and what to do instead.
type Refusal struct{ Is, Instead string }

func (r *Refusal) Error() string { return "this is " + r.Is + "; " + r.Instead }

// A Table is one table of a file: of a workbook a sheet, of an archive one of its files.
type Table struct {
	// Member is the name of the file within an archive; empty where the file is none.
	Member string
	Sheet  string // of a workbook
	Hidden bool   // of a sheet that nobody sees
	// HiddenColumns are those of a sheet, from 0, that nobody sees. They are read like all others.
	HiddenColumns []int
	// Form says in words what the file was found to be: "CSV with semicolons, Windows-1252".
	Form string
	// Calendar says that it is iCalendar, which has no rows.
	Calendar bool
	// Comma says that it is CSV as RFC 4180 has it: with commas, in UTF-8.
	Comma bool
	// Plain says that the file itself tells numbers from texts, so that all its numbers are plain decimals.
	Plain bool

	file *Spool
	rows func() (Rows, error)
}

// Name is the table's own beside that of its file: "orders.csv", "sheet Orders"; empty where the file has one table alone.
func (t Table) Name() string {
	switch {
	case t.Member != "" && t.Sheet != "":
		return t.Member + ", sheet " + t.Sheet
	case t.Sheet != "":
		return "sheet " + t.Sheet
	}
	return t.Member
}

// Rows begins to read the table. The caller closes it.
func (t Table) Rows() (Rows, error) { return t.rows() }

// File is the file that holds the table, as it was before it was packed into an archive.
func (t Table) File() *Spool { return t.file }
