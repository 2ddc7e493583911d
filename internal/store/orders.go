package store

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/record"
)

// An extraColumn is a column that a file has brought.
type extraColumn struct {
	ID          int64
	Kind, Name  string
	IsMilestone bool
	IsPlan      bool
	LoadID      int64
}

func (extraColumn) TableName() string { return "extra_columns" }

// Extras lists the columns of their own that files have brought for a kind, those of this load before.
func (l *Load) Extras(ctx context.Context) (func(*record.Kind) []record.Extra, error) {
	var columns []extraColumn
	if err := l.tx.WithContext(ctx).Order("id").Find(&columns).Error; err != nil {
		return nil, err
	}
	return func(k *record.Kind) (extras []record.Extra) {
		for _, c := range columns {
			if c.Kind == k.Name {
				extras = append(extras, record.Extra{Name: c.Name, Known: true, Milestone: c.IsMilestone, Plan: c.IsPlan})
			}
		}
		return extras
	}, nil
}

// FirstDays are the milestones of the first part that reached one, beside that of the last.
const (
	FirstShipped   = "first-shipped"
	FirstDelivered = "first-delivered"
	FirstPaid      = "first-paid"
)

func layout(extras []extraColumn, parts bool) book.Layout {
	l := book.BuiltIn()
	for _, e := range extras {
		switch {
		case e.Kind == record.Lines.Name:
			l.LineExtra = append(l.LineExtra, e.Name)
		case e.IsMilestone:
			l.Milestones = append(l.Milestones, milestone.Milestone{Name: e.Name, Plan: e.IsPlan})
		default:
			l.Extra = append(l.Extra, e.Name)
		}
	}
	if parts {
		for _, name := range []string{FirstShipped, FirstDelivered, FirstPaid} {
			l.Milestones = append(l.Milestones, milestone.Milestone{Name: name})
		}
	}
	return l
}

func isPlan(name string) bool {
	i := milestone.Index(milestone.BuiltIn(), name)
	return i >= 0 && milestone.BuiltIn()[i].Plan
}

// A Since says which orders are wanted: those that loads after Load have touched, themselves or their parts,
// and those with facts after the day Beyond, where that is not zero. Load 0 wants every order.
type Since struct {
	Load   int64
	Beyond day.Day
	// Known says what is known of them already, so that no table has to be read through for it: Touched are the numbers of those
	// that were touched, and Facts the identities of those whose parts have facts after Beyond.
	Known   bool
	Touched []string
	Facts   []int64
}

// Orders gives orders with their parts, as they were loaded, by ascending identity, all of one moment. Their days go by
// the layout; those that only parts tell are zero.
// Days that came with a time of day are those of the zone of their order's site, which is nil where it is not known.
func (s *Store) Orders(ctx context.Context, l book.Layout, since Since, zone func(site string) *time.Location,
	take func(book.Order)) (err error) {
	reading, err := s.read(ctx)
	if err != nil {
		return err
	}
	defer reading.close()
	var ids []int64
	where := "true"
	if since.Load > 0 {
		if ids, err = reading.touched(since); err != nil || len(ids) == 0 {
			return err
		}
		where = "o.id = ANY($1)"
	}
	orders := &orderStream{layout: l, zone: zone, known: map[string]string{}}
	columns := make([]string, len(record.Orders.Columns))
	for i, c := range record.Orders.Columns {
		columns[i] = "o." + column(c.Name)
	}
	if orders.rows, err = reading.query(fmt.Sprintf("SELECT o.id, %s, o.extra FROM orders o WHERE %s ORDER BY o.id",
		strings.Join(columns, ", "), where), ids); err != nil {
		return err
	}
	of := func(table, columns, by string) (pgx.Rows, error) {
		return reading.query(fmt.Sprintf(`SELECT o.id, %s FROM %s p JOIN orders o ON o."order" = p."order" WHERE %s ORDER BY o.id, %s`,
			columns, table, where, by), ids)
	}
	// The shorter number first: 9 before 10.
	lineRows, err1 := of("order_lines", "p.line, p.product, p.units, p.cancelled_units, p.line_value, p.line_shipped, p.line_delivered, p.line_cancelled, p.extra", "length(p.line), p.line")
	shipmentRows, err2 := of("shipments", "p.shipment, p.carrier, p.line, p.units, p.shipped, p.delivered, p.extra",
		"p.shipment, length(p.line), p.line")
	paymentRows, err3 := of("payments", "p.receipt, p.paid, p.amount, p.currency, p.extra", "p.receipt")
	// In the order in which they came, which is that of records of one moment.
	statusRows, err4 := of("status_records", "p.status, p.at, p.sequence, p.source", "p.load_id, p.place")
	if err := errors.Join(err1, err2, err3, err4); err != nil {
		return err
	}
	lines := stream(lineRows, func(raw [][]byte, zone *time.Location) parts.Line {
		times, value := timesIn(raw[8], zone), quantity(raw[4])
		line := parts.Line{Number: orders.text(raw[0]), Product: orders.text(raw[1]), Units: quantity(raw[2]),
			Cancelled: quantity(raw[3]), Value: value.Thousandths, Valued: value.Known,
			Shipped: times.of("line_shipped", raw[5]), Delivered: times.of("line_delivered", raw[6]),
			CancelledOn: times.of("line_cancelled", raw[7])}
		for _, name := range l.LineExtra {
			line.Extra = append(line.Extra, orders.text([]byte(times.cells[name])))
		}
		return line
	})
	shipments := stream(shipmentRows, func(raw [][]byte, zone *time.Location) parts.Shipment {
		times := timesIn(raw[6], zone)
		return parts.Shipment{Number: string(raw[0]), Carrier: orders.text(raw[1]), Line: orders.text(raw[2]), Units: quantity(raw[3]),
			Shipped: times.of("shipped", raw[4]), Delivered: times.of("delivered", raw[5])}
	})
	payments := stream(paymentRows, func(raw [][]byte, zone *time.Location) parts.Payment {
		amount := quantity(raw[2])
		return parts.Payment{Receipt: string(raw[0]), Paid: timesIn(raw[4], zone).of("paid", raw[1]), Amount: amount.Thousandths,
			Known: amount.Known, Currency: orders.text(raw[3])}
	})
	statuses := stream(statusRows, func(raw [][]byte, zone *time.Location) parts.StatusRecord {
		m, _ := day.ParseMoment(string(raw[1])) // intake has checked it
		s := parts.StatusRecord{Status: orders.text(raw[0]), Source: orders.text(raw[3])}
		if s.At.Day, s.At.At = m.In(zone); m.Timed && s.At.At == 0 {
			s.Clock = int32(m.Seconds) + 1
		}
		if sequence, err := strconv.ParseInt(string(raw[2]), 10, 64); err == nil {
			s.Sequence = parts.Quantity{Thousandths: sequence * 1000, Known: true}
		}
		return s
	})
	for orders.rows.Next() {
		o := orders.order()
		at := zone(o.Fields[book.Site])
		o.Lines, o.Shipments, o.Payments, o.Statuses = lines.of(o.ID, at), shipments.of(o.ID, at), payments.of(o.ID, at),
			statuses.of(o.ID, at)
		take(o)
	}
	return errors.Join(orders.rows.Err(), lineRows.Err(), shipmentRows.Err(), paymentRows.Err(), statusRows.Err())
}

// An orderStream decodes orders from their binary form: of each million there are some twenty million values.
type orderStream struct {
	rows   pgx.Rows
	layout book.Layout
	zone   func(site string) *time.Location
	known  map[string]string // texts repeat
}

func (s *orderStream) order() book.Order {
	raw := s.rows.RawValues()
	o := book.Order{ID: int64(binary.BigEndian.Uint64(raw[0])), Number: string(raw[1]), Days: make([]day.Day, len(s.layout.Milestones))}
	for f := range book.Fields {
		o.Fields[f] = s.text(raw[2+int(f)])
	}
	builtIn := len(milestone.BuiltIn())
	for m := range builtIn {
		o.Days[m] = decodeDate(raw[2+int(book.Fields)+m])
	}
	if cell := raw[len(raw)-2]; cell != nil {
		o.Value, o.Valued = int64(binary.BigEndian.Uint64(cell)), true
	}
	if len(s.layout.Extra) > 0 {
		o.Extra = make([]string, len(s.layout.Extra))
	}
	if cell := raw[len(raw)-1]; cell != nil {
		var extra map[string]string
		_ = json.Unmarshal(cell[1:], &extra) // after the form's version; the database has checked it
		for i, name := range s.layout.Extra {
			o.Extra[i] = s.text([]byte(extra[name]))
		}
		times := times{extra, s.zone(o.Fields[book.Site])}
		for m, milestone := range s.layout.Milestones {
			at := parts.Day{Day: o.Days[m]}
			if times.has(milestone.Name) {
				at = times.of(milestone.Name, nil)
			}
			o.Set(m, at)
		}
	}
	return o
}

func (s *orderStream) text(cell []byte) string {
	value, seen := s.known[string(cell)]
	if !seen {
		value = string(cell)
		s.known[value] = value
	}
	return value
}

// times are the cells of an extra column that can be days with a time of day.
type times struct {
	cells map[string]string
	zone  *time.Location
}

func timesIn(cell []byte, zone *time.Location) times {
	t := times{zone: zone}
	if cell != nil {
		_ = json.Unmarshal(cell[1:], &t.cells) // after the form's version; the database has checked it
	}
	return t
}

func (t times) has(name string) bool { return t.cells[name] != "" }

// of is the day of a column: by its time of day where it has one, else its date.
func (t times) of(name string, date []byte) parts.Day {
	if !t.has(name) {
		return parts.Day{Day: decodeDate(date)}
	}
	m, _ := day.ParseMoment(t.cells[name]) // intake has checked it
	d, at := m.In(t.zone)
	made := parts.Day{Day: d, At: at}
	if m.Timed && t.zone == nil {
		made.Clock = int32(m.Seconds) + 1
	}
	return made
}

// A partStream decodes parts, which come in the order of their orders' identities.
type partStream[T any] struct {
	rows   pgx.Rows
	decode func([][]byte, *time.Location) T
	id     int64    // of the order of head
	head   [][]byte // until the next row
	more   bool
}

func stream[T any](rows pgx.Rows, decode func([][]byte, *time.Location) T) *partStream[T] {
	s := &partStream[T]{rows: rows, decode: decode}
	s.next()
	return s
}

func (s *partStream[T]) next() {
	if s.more = s.rows.Next(); s.more {
		raw := s.rows.RawValues()
		s.id, s.head = int64(binary.BigEndian.Uint64(raw[0])), raw[1:]
	}
}

// of gives the parts of an order, whose site is in a zone.
func (s *partStream[T]) of(id int64, zone *time.Location) (all []T) {
	for s.more && s.id <= id {
		all = append(all, s.decode(s.head, zone))
		s.next()
	}
	return all
}

// A reading sees one moment of the database over several connections.
type reading struct {
	ctx      context.Context
	pool     *pgxpool.Pool
	snapshot string
	open     []*pgxpool.Conn
	rows     []pgx.Rows
}

func (s *Store) read(ctx context.Context) (*reading, error) {
	r := &reading{ctx: ctx, pool: s.pool}
	conn, err := r.begin()
	if err != nil {
		r.close()
		return nil, err
	}
	if err := conn.QueryRow(ctx, "SELECT pg_export_snapshot()").Scan(&r.snapshot); err != nil {
		r.close()
		return nil, err
	}
	return r, nil
}

// begin takes a connection that sees the reading's moment, or sets it.
func (r *reading) begin() (*pgxpool.Conn, error) {
	conn, err := r.pool.Acquire(r.ctx)
	if err != nil {
		return nil, err
	}
	r.open = append(r.open, conn)
	if _, err := conn.Exec(r.ctx, "BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY"); err != nil {
		return nil, err
	}
	if r.snapshot != "" {
		if _, err := conn.Exec(r.ctx, "SET TRANSACTION SNAPSHOT '"+r.snapshot+"'"); err != nil {
			return nil, err
		}
	}
	// The parts of a whole book are sorted once.
	_, err = conn.Exec(r.ctx, "SET LOCAL work_mem = '256MB'; "+unlimited)
	return conn, err
}

// query runs a query on a connection of its own.
func (r *reading) query(sql string, ids []int64) (pgx.Rows, error) {
	conn, err := r.begin()
	if err != nil {
		return nil, err
	}
	arguments := []any{pgx.QueryResultFormats{pgx.BinaryFormatCode}}
	if ids != nil {
		arguments = append(arguments, ids)
	}
	rows, err := conn.Query(r.ctx, sql, arguments...)
	if err == nil {
		r.rows = append(r.rows, rows)
	}
	return rows, err
}

// touched lists the identities of the orders that are wanted.
func (r *reading) touched(since Since) ([]int64, error) {
	// Days that were or become known count in what parts tell, and in what the order says against them.
	beyond := func(k *record.Kind) string {
		conditions := []string{"false"}
		for _, c := range k.Columns {
			if c.Type == record.Day && !isPlan(c.Name) && since.Beyond != 0 {
				conditions = append(conditions, fmt.Sprintf("%s > '%v'", column(c.Name), since.Beyond))
			}
		}
		return strings.Join(conditions, " OR ")
	}
	if since.Known {
		sql, arguments := `SELECT id FROM orders WHERE "order" = ANY($1)`, []any{since.Touched}
		if since.Beyond != 0 {
			sql, arguments = sql+" UNION SELECT id FROM orders WHERE "+beyond(record.Orders)+" UNION SELECT unnest($2::bigint[])",
				append(arguments, since.Facts)
		}
		return r.identities(sql, arguments...)
	}
	var of []string
	for _, part := range []*record.Kind{record.Lines, record.Shipments, record.Payments, record.Statuses} {
		of = append(of, fmt.Sprintf(`SELECT "order" FROM %s WHERE load_id > $1 OR %s`, tableOf(part), beyond(part)))
	}
	return r.identities(fmt.Sprintf(`SELECT id FROM orders WHERE load_id > $1 OR %s UNION SELECT id FROM orders WHERE "order" IN (%s)`,
		beyond(record.Orders), strings.Join(of, " UNION ALL ")), since.Load)
}

// identities are those that a query gives, in their order.
func (r *reading) identities(sql string, arguments ...any) ([]int64, error) {
	rows, err := r.open[0].Query(r.ctx, sql, arguments...)
	if err != nil {
		return nil, err
	}
	ids, err := pgx.CollectRows(rows, pgx.RowTo[int64])
	slices.Sort(ids)
	return ids, err
}

func (r *reading) close() {
	for _, rows := range r.rows {
		rows.Close()
	}
	for _, conn := range r.open {
		// A connection whose transaction does not end is of no more use.
		if _, err := conn.Exec(context.WithoutCancel(r.ctx), "ROLLBACK"); err != nil {
			conn.Conn().Close(context.WithoutCancel(r.ctx))
		}
		conn.Release()
	}
}

// dateEpoch is day 0 of the database's binary dates, which count days from 2000-01-01.
var dateEpoch = day.Of(2000, 1, 1)

func decodeDate(cell []byte) day.Day {
	if cell == nil {
		return 0
	}
	return dateEpoch + day.Day(int32(binary.BigEndian.Uint32(cell)))
}

func quantity(cell []byte) parts.Quantity {
	if cell == nil {
		return parts.Quantity{}
	}
	return parts.Quantity{Thousandths: int64(binary.BigEndian.Uint64(cell)), Known: true}
}
