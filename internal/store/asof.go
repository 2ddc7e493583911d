package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// ErrNoLoad is returned, wrapped, where no load that stands has a number.
var ErrNoLoad = errors.New("no load that stands has this number")

// asOfPrefix begins the names of the schemas in which earlier states lie.
const asOfPrefix = "as_of_"

// AsOf is the store as it was while a load was the last one, up to when the next one came: records are those that were there, as
// they were, and so are calendars, statuses, labels and the two ends of the book. It only reads, and is closed by who asked for it. The
// error wraps ErrNoLoad where the load was undone or never was.
func (s *Store) AsOf(ctx context.Context, load int64) (_ *Store, err error) {
	var stands bool
	var next *time.Time
	if err := s.pool.QueryRow(ctx, "SELECT EXISTS (SELECT FROM loads WHERE id = $1 AND undone_at IS NULL), (SELECT min(loaded_at) FROM loads WHERE id > $1)",
		load).Scan(&stands, &next); err != nil {
		return nil, err
	}
	if !stands {
		return nil, fmt.Errorf("%w: %d", ErrNoLoad, load)
	}
	until := "infinity"
	if next != nil {
		until = next.UTC().Format(time.RFC3339Nano)
	}
	schema := fmt.Sprintf("%s%d_%d", asOfPrefix, load, time.Now().UnixNano())
	tx, err := s.pool.Begin(ctx)
	if err != nil {
		return nil, err
	}
	defer tx.Rollback(context.WithoutCancel(ctx))
	for _, statement := range asOf(schema, load, until) {
		if _, err := tx.Exec(ctx, statement); err != nil {
			return nil, err
		}
	}
	if err := tx.Commit(ctx); err != nil {
		return nil, err
	}
	past := &Store{link: s.link, probing: s.probing, schema: schema, last: load, of: s}
	config := s.pool.Config()
	config.ConnConfig.RuntimeParams["search_path"] = schema + ", public"
	config.MinConns, config.MaxConns = 0, asOfConnections
	if past.pool, err = pgxpool.NewWithConfig(ctx, config); err != nil {
		return nil, errors.Join(err, s.drop(ctx, schema))
	}
	past.db = stdlib.OpenDBFromPool(past.pool)
	past.records, err = gorm.Open(postgres.New(postgres.Config{Conn: past.db}), &gorm.Config{TranslateError: true, Logger: logger.Discard})
	if err != nil {
		past.Close()
		return nil, err
	}
	return past, nil
}

// asOfConnections is how many connections an earlier state takes: a reading of the book takes five.
const asOfConnections = 6

// asOf are the statements that make an earlier state: for each table of records a view of the rows that no later load has changed, and of
// the others as they were. What was there before a load lies in changes; of several, the first after the load holds it.
func asOf(schema string, load int64, until string) []string {
	statements := []string{"CREATE SCHEMA " + schema}
	for _, t := range brought() {
		if t.keys == nil {
			continue
		}
		statements = append(statements, fmt.Sprintf(`CREATE VIEW %[1]s.%[2]s AS
SELECT t.* FROM public.%[2]s t WHERE t.load_id <= %[3]d
UNION ALL
SELECT r.* FROM (SELECT DISTINCT ON (record_key) before FROM public.changes WHERE kind = '%[4]s' AND load_id > %[3]d ORDER BY record_key, id) c,
    jsonb_populate_record(NULL::public.%[2]s, c.before) r
  WHERE r.load_id <= %[3]d`, schema, t.name, load, t.kind))
	}
	later := func(of string) string {
		return fmt.Sprintf("SELECT DISTINCT ON (name) * FROM public.audit WHERE of = '%s' AND at > '%s' ORDER BY name, id", of, until)
	}
	return append(statements,
		fmt.Sprintf("CREATE VIEW %s.extra_columns AS SELECT * FROM public.extra_columns WHERE load_id <= %d", schema, load),
		fmt.Sprintf("CREATE VIEW %s.loads AS SELECT * FROM public.loads WHERE id <= %d", schema, load),
		fmt.Sprintf(`CREATE VIEW %[1]s.labels AS
SELECT l.* FROM public.labels l WHERE NOT EXISTS (SELECT FROM (%[2]s) a WHERE a.name = l.name)
UNION ALL
SELECT a.name, a.before -> 'definition', a.at FROM (%[2]s) a WHERE a.before ? 'definition'`, schema, later("labels")),
		fmt.Sprintf(`CREATE VIEW %s.book_settings AS
SELECT s.one, CASE WHEN a.id IS NULL THEN s.first_day ELSE (a.before ->> 'first_day')::date END AS first_day,
  CASE WHEN a.id IS NULL THEN s.data_date ELSE (a.before ->> 'data_date')::date END AS data_date, s.changes
FROM public.book_settings s LEFT JOIN (%s) a ON true`, schema, later("book_settings")))
}

// drop lets go of an earlier state.
func (s *Store) drop(ctx context.Context, schema string) error {
	_, err := s.pool.Exec(context.WithoutCancel(ctx), "DROP SCHEMA IF EXISTS "+schema+" CASCADE")
	return err
}

// dropAsOf lets go of the earlier states that a program left that did not end well.
func (s *Store) dropAsOf(ctx context.Context) error {
	rows, err := s.pool.Query(ctx, `SELECT quote_ident(nspname) FROM pg_namespace WHERE nspname ~ '^`+asOfPrefix+`[0-9]+_[0-9]+$'`)
	if err != nil {
		return err
	}
	var schemas []string
	for rows.Next() {
		var schema string
		if err := rows.Scan(&schema); err != nil {
			return err
		}
		schemas = append(schemas, schema)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for _, schema := range schemas {
		if err := s.drop(ctx, schema); err != nil {
			return err
		}
	}
	return nil
}
