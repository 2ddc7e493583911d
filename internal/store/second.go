package store

import (
	"context"
	"errors"
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

// Ask runs statements that change nothing, one after the other at one moment, and gives the rows of each as texts; nil is null. It may
// take as long as the context lets it.
func (s *Store) Ask(ctx context.Context, statements ...string) (answers [][][]*string, took time.Duration, err error) {
	tx, err := s.pool.BeginTx(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly})
	if err != nil {
		return nil, 0, err
	}
	defer tx.Rollback(context.WithoutCancel(ctx))
	if _, err := tx.Exec(ctx, "SET LOCAL work_mem = '256MB'; SET LOCAL jit = off; "+unlimited); err != nil {
		return nil, 0, err
	}
	for _, statement := range statements {
		began := time.Now()
		rows, err := tx.Query(ctx, statement, pgx.QueryExecModeSimpleProtocol)
		if err != nil {
			return nil, 0, err
		}
		answer := [][]*string{}
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
		if err := errors.Join(rows.Err()); err != nil {
			return nil, 0, err
		}
		answers, took = append(answers, answer), time.Since(began)
	}
	return answers, took, nil
}
