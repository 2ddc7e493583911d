package store

import (
	"database/sql/driver"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5/pgtype"

	"prairiedusk/internal/core/day"
)

// A date is a day as the database's driver takes and gives it; the zero day is NULL.
type date struct{ value day.Day }

// day is the day of a date that may be missing as a whole.
func (d *date) day() day.Day {
	if d == nil {
		return 0
	}
	return d.value
}

// DateValue serves COPY, which asks for the binary form.
func (d *date) DateValue() (pgtype.Date, error) {
	if d.value == 0 {
		return pgtype.Date{}, nil
	}
	return pgtype.Date{Time: d.value.Time(), Valid: true}, nil
}

// Value and Scan serve GORM.
func (d date) Value() (driver.Value, error) {
	if d.value == 0 {
		return nil, nil
	}
	return d.value.Time(), nil
}

// Scan reads what Value writes.
func (d *date) Scan(from any) error {
	switch from := from.(type) {
	case nil:
		d.value = 0
	case time.Time:
		d.value = day.FromTime(from)
	default:
		return fmt.Errorf("store: a date came as %T", from)
	}
	return nil
}

// A text is a cell of text for COPY; the empty text is NULL.
type text struct{ value string }

// TextValue serves COPY.
func (t *text) TextValue() (pgtype.Text, error) {
	return pgtype.Text{String: t.value, Valid: t.value != ""}, nil
}

// A key is a cell of text for COPY that is never NULL.
type key struct{ value string }

// TextValue serves COPY.
func (k *key) TextValue() (pgtype.Text, error) { return pgtype.Text{String: k.value, Valid: true}, nil }

// A number is a number for COPY that may be missing.
type number struct {
	value int64
	known bool
}

// Int64Value serves COPY.
func (n *number) Int64Value() (pgtype.Int8, error) {
	return pgtype.Int8{Int64: n.value, Valid: n.known}, nil
}
