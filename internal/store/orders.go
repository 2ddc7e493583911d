package store

import (
	"context"
	"encoding/binary"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
)

// orderColumns are the columns of table orders that a file can bring, in the order in which they are
// copied: number, the fields, the milestones, value.
var orderColumns = func() []string {
	columns := append([]string{"number"}, book.FieldNames()...)
	for _, m := range milestone.BuiltIn() {
		columns = append(columns, m.Name)
	}
	return append(columns, "value")
}()

// given lists the columns among orderColumns[1:] that a file has.
func given(c book.Columns) []string {
	var names []string
	for f, has := range c.Fields {
		if has {
			names = append(names, book.Field(f).String())
		}
	}
	for m, has := range c.Milestones {
		if has {
			names = append(names, milestone.BuiltIn()[m].Name)
		}
	}
	if c.Value {
		names = append(names, "value")
	}
	return names
}

// An orderRow is one order in the form that COPY takes, used again for each row.
type orderRow struct {
	number text
	fields [book.Fields]text
	days   []date
	value  number
	load   number
	cells  []any // pointers to the above, in the order of orderColumns, then load
}

func newOrderRow(load int64) *orderRow {
	r := &orderRow{days: make([]date, len(milestone.BuiltIn())), load: number{load, true}}
	r.cells = append(r.cells, &r.number)
	for f := range r.fields {
		r.cells = append(r.cells, &r.fields[f])
	}
	for m := range r.days {
		r.cells = append(r.cells, &r.days[m])
	}
	r.cells = append(r.cells, &r.value, &r.load)
	return r
}

func (r *orderRow) set(o book.Order) []any {
	r.number.value = o.Number
	for f := range r.fields {
		r.fields[f].value = o.Fields[f]
	}
	for m := range r.days {
		r.days[m].value = o.Days[m]
	}
	r.value = number{o.Value, o.Valued}
	return r.cells
}

// Orders gives every order that a load after the given one has brought or changed, by ascending identity;
// after load 0 that is every order.
func (s *Store) Orders(ctx context.Context, after int64, take func(book.Order)) error {
	query := fmt.Sprintf("SELECT id, %s FROM orders WHERE load_id > $1 ORDER BY id", strings.Join(orderColumns, ", "))
	if after == 0 {
		query = strings.Replace(query, "WHERE load_id > $1", "WHERE $1::bigint = 0", 1) // no index, by order of identity
	}
	// Rows are decoded from their binary form: of each million there are some twenty million values.
	rows, err := s.pool.Query(ctx, query, pgx.QueryResultFormats{pgx.BinaryFormatCode}, after)
	if err != nil {
		return err
	}
	defer rows.Close()
	days := milestone.BuiltIn()
	known := make(map[string]string) // texts repeat
	for rows.Next() {
		raw := rows.RawValues()
		o := book.Order{ID: int64(binary.BigEndian.Uint64(raw[0])), Number: string(raw[1]), Days: make([]day.Day, len(days))}
		for f := range book.Fields {
			cell := raw[2+int(f)]
			value, seen := known[string(cell)]
			if !seen {
				value = string(cell)
				known[value] = value
			}
			o.Fields[f] = value
		}
		for m := range days {
			o.Days[m] = decodeDate(raw[2+int(book.Fields)+m])
		}
		if cell := raw[len(raw)-1]; cell != nil {
			o.Value, o.Valued = int64(binary.BigEndian.Uint64(cell)), true
		}
		take(o)
	}
	return rows.Err()
}

// dateEpoch is day 0 of the database's binary dates, which count days from 2000-01-01.
var dateEpoch = day.Of(2000, 1, 1)

func decodeDate(cell []byte) day.Day {
	if cell == nil {
		return 0
	}
	return dateEpoch + day.Day(int32(binary.BigEndian.Uint32(cell)))
}
