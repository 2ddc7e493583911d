package store

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"prairiedusk/internal/core/day"
)

// A CalendarDay is a day of a calendar with the running count of its working days.
type CalendarDay struct {
	Calendar string
	Day      day.Day
	Works    bool
	Worked   int
}

// SaveCalendarDays puts days of calendars in the place of those that are there. Next gives one after the other, and false after the last.
func (s *Store) SaveCalendarDays(ctx context.Context, next func() (CalendarDay, bool)) error {
	tx, err := s.pool.Begin(ctx)
	if err != nil {
		return err
	}
	defer tx.Rollback(context.WithoutCancel(ctx))
	if _, err := tx.Exec(ctx, "DELETE FROM calendar_days"); err != nil {
		return err
	}
	_, err = tx.CopyFrom(ctx, pgx.Identifier{"calendar_days"}, []string{"calendar", "day", "works", "worked"},
		pgx.CopyFromFunc(func() ([]any, error) {
			d, more := next()
			if !more {
				return nil, nil
			}
			return []any{d.Calendar, d.Day.Time(), d.Works, d.Worked}, nil
		}))
	if err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, "ANALYZE calendar_days"); err != nil {
		return err
	}
	return tx.Commit(ctx)
}

// askSettings are those of PostgreSQL for statements that go over all records: it takes what a step picks for a row or two, and would look
// for the others' rows once for each.
const askSettings = "SET LOCAL work_mem = '256MB'; SET LOCAL jit = off; SET LOCAL enable_nestloop = off; "

// Ask runs a statement that changes nothing, and gives its rows as texts; nil is null. It may take as long as the context lets it.
func (s *Store) Ask(ctx context.Context, statement string) (answer [][]*string, took time.Duration, err error) {
	tx, err := s.pool.BeginTx(ctx, pgx.TxOptions{AccessMode: pgx.ReadOnly})
	if err != nil {
		return nil, 0, err
	}
	defer tx.Rollback(context.WithoutCancel(ctx))
	if _, err := tx.Exec(ctx, askSettings+unlimited); err != nil {
		return nil, 0, err
	}
	began := time.Now()
	// Not by the simple protocol, which would run several statements.
	rows, err := tx.Query(ctx, statement, pgx.QueryExecModeExec)
	if err != nil {
		return nil, 0, err
	}
	for rows.Next() {
		var row []*string
		for _, cell := range rows.RawValues() {
			var text *string
			if cell != nil {
				text = new(string(cell))
			}
			row = append(row, text)
		}
		answer = append(answer, row)
	}
	return answer, time.Since(began), rows.Err()
}
