package server

import (
	"context"
	"io"
	"time"

	"prairiedusk/internal/store"
)

// Records looks up what is not in the book, and keeps views and layouts. The store has it; tests have one of their own.
type Records interface {
	Loads(ctx context.Context) ([]store.LoadRecord, error)
	SetAsideRows(ctx context.Context, load int64, f store.SetAsideFilter, offset, limit int) (rows []store.SetAsideRow, all int64,
		err error)
	WaitingFile(ctx context.Context, load int64, name string) (store.LoadFile, error)
	WriteWaiting(ctx context.Context, file store.LoadFile, w io.Writer) error
	RecordDoubts(ctx context.Context) ([]store.RecordDoubt, error)

	ChangedDates(ctx context.Context, load int64) ([]store.ChangedDate, error)

	Parts(ctx context.Context, order string) ([]store.PartTable, error)
	History(ctx context.Context, order string) ([]store.Change, error)

	SaveCalendarDays(ctx context.Context, next func() (store.CalendarDay, bool)) error
	Ask(ctx context.Context, statement string) ([][]*string, time.Duration, error)
	Audit(ctx context.Context, offset, limit int) ([]store.AuditEntry, int64, error)
	Checks(ctx context.Context) ([]store.KeptCheck, error)
	SaveCheck(ctx context.Context, c store.KeptCheck) error
	DeleteCheck(ctx context.Context, name string) error
	Views(ctx context.Context) ([]store.View, error)
	SaveView(ctx context.Context, v store.View, replace bool) error
	RenameView(ctx context.Context, name, to string) error
	DeleteView(ctx context.Context, name string) error

	Layouts(ctx context.Context) ([]store.KeptLayout, error)
	SaveLayout(ctx context.Context, l store.KeptLayout, replace bool) error
	RenameLayout(ctx context.Context, name, to string) error
	DeleteLayout(ctx context.Context, name string) error
}
