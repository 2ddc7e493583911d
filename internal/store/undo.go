package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"

	"prairiedusk/internal/money"
	"prairiedusk/internal/record"
)

// ErrNotLast is returned, wrapped, by Undo for a load that is not the last one that stands.
var ErrNotLast = errors.New("only the last load can be undone")

// Undo takes the last load back: what it brought goes, and what it changed is as before. The load stays in the
// list, as undone.
func (s *Store) Undo(ctx context.Context, load int64, at time.Time) error {
	return s.records.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := lockLoads(tx); err != nil {
			return err
		}
		var last int64
		if err := tx.Raw("SELECT coalesce(max(id), 0) FROM loads WHERE undone_at IS NULL").Scan(&last).Error; err != nil {
			return err
		}
		if load != last || last == 0 {
			return fmt.Errorf("%w, and that is %d", ErrNotLast, last)
		}
		if err := run(tx, undoing(load)); err != nil {
			return err
		}
		return tx.Model(&LoadRecord{ID: load}).Update("undone_at", at).Error
	})
}

// ErrNotUndone is returned, wrapped, by Redo for a load that cannot come back.
var ErrNotUndone = errors.New("only the load that was undone last comes back, as long as nothing was loaded since")

// Redo brings back a load that Undo took, with all that it changed. The next load ends that.
func (s *Store) Redo(ctx context.Context, load int64) error {
	return s.records.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := lockLoads(tx); err != nil {
			return err
		}
		next, err := redoable(tx)
		if err != nil {
			return err
		}
		switch {
		case next == 0:
			return fmt.Errorf("%w: there is none", ErrNotUndone)
		case next != load:
			return fmt.Errorf("%w, and that is %d", ErrNotUndone, next)
		}
		if err := run(tx, redoing(load)); err != nil {
			return err
		}
		return tx.Model(&LoadRecord{ID: load}).Update("undone_at", nil).Error
	})
}

// redoable is the load that Redo can bring back; 0 where there is none.
func redoable(tx *gorm.DB) (load int64, err error) {
	err = tx.Raw(`SELECT coalesce(min(id), 0) FROM loads WHERE undone_at IS NOT NULL AND id > (SELECT coalesce(max(id), 0) FROM loads WHERE undone_at IS NULL)
		AND EXISTS (SELECT FROM pg_namespace WHERE nspname = 'undone_' || id)`).Scan(&load).Error
	return load, err
}

func run(tx *gorm.DB, statements []string) error {
	for _, sql := range statements {
		if err := tx.Exec(sql).Error; err != nil {
			return err
		}
	}
	return nil
}

// unlimited takes the limit off how long the statements of a transaction may take.
const unlimited = "SET LOCAL statement_timeout = 0"

// lockLoads lets one load or undoing run at a time, which may take as long as it takes.
func lockLoads(tx *gorm.DB) error {
	if err := tx.Exec(unlimited).Error; err != nil {
		return err
	}
	var free bool
	if err := tx.Raw("SELECT pg_try_advisory_xact_lock(?)", int64(loadLock)).Scan(&free).Error; err != nil {
		return err
	}
	if !free {
		return ErrLoadRunning
	}
	return nil
}

// A brought table holds what loads have brought.
type broughtTable struct {
	name, kind    string   // of the table, and under which its changes stand
	keys, columns []string // none of a table whose rows are never changed, but come and go
	of            string   // the condition of what a load brought, with %d for its number
}

// brought lists the tables in which a load leaves something, by what refers to what.
func brought() (tables []broughtTable) {
	const own = "load_id = %d"
	for _, k := range record.Kinds() {
		var columns []string
		for _, c := range k.Columns {
			columns = append(columns, column(c.Name))
		}
		keys := slices.Clone(columns[:k.Keys])
		if k.Extras || k.HasDays() {
			columns = append(columns, "extra")
		}
		tables = append(tables, broughtTable{tableOf(k), k.Name, keys, append(columns, "load_id"), own})
	}
	return append(tables,
		broughtTable{"calendars", "calendars", []string{"id"}, []string{"name", "definition", "load_id"}, own},
		broughtTable{"extra_columns", "", nil, nil, own},
		broughtTable{"set_aside_rows", "", nil, nil, "file_id IN (SELECT id FROM load_files WHERE load_id = %d)"},
		broughtTable{"changes", "", nil, nil, own})
}

// undone is the schema in which an undone load is kept.
func undone(load int64) string { return fmt.Sprintf("undone_%d", load) }

// undoing lists the statements that take a load back, and keep it aside. Of the changes that one load made to a record, the
// first holds what was before it; a record that the load itself brought has gone by then.
func undoing(load int64) []string {
	statements := []string{
		"CREATE SCHEMA " + undone(load),
		fmt.Sprintf("CREATE TABLE %s.cleared AS SELECT id FROM set_aside_rows WHERE cleared_by = %d", undone(load), load),
		fmt.Sprintf("UPDATE set_aside_rows SET cleared_by = NULL WHERE cleared_by = %d", load),
	}
	for _, t := range brought() {
		of := fmt.Sprintf(t.of, load)
		statements = append(statements, fmt.Sprintf("CREATE TABLE %s.%s AS SELECT * FROM %[2]s WHERE %s", undone(load), t.name, of))
		if t.keys != nil {
			firsts := fmt.Sprintf("(SELECT DISTINCT ON (record_key) before FROM changes WHERE load_id = %d AND kind = '%s' ORDER BY record_key, id) c, jsonb_populate_record(NULL::%s, c.before) r", load, t.kind, t.name)
			theirs := make([]string, len(t.columns))
			for i, c := range t.columns {
				theirs[i] = "r." + c
			}
			statements = append(statements, fmt.Sprintf("UPDATE %s t SET (%s) = ROW(%s) FROM %s WHERE %s AND r.load_id <> %d", t.name,
				strings.Join(t.columns, ", "), strings.Join(theirs, ", "), firsts, t.same("r"), load))
		}
		statements = append(statements, fmt.Sprintf("DELETE FROM %s WHERE %s", t.name, of))
	}
	return statements
}

// redoing lists the statements that bring an undone load back.
func redoing(load int64) (statements []string) {
	for _, t := range brought() {
		kept := undone(load) + "." + t.name
		if t.keys != nil {
			statements = append(statements, fmt.Sprintf("DELETE FROM %s t USING %s u WHERE %s", t.name, kept, t.same("u")))
		}
		statements = append(statements, fmt.Sprintf("INSERT INTO %s OVERRIDING SYSTEM VALUE SELECT * FROM %s", t.name, kept))
	}
	return append(statements,
		fmt.Sprintf("UPDATE set_aside_rows SET cleared_by = %d WHERE id IN (SELECT id FROM %s.cleared)", load, undone(load)),
		"DROP SCHEMA "+undone(load)+" CASCADE",
		// A version of the book never comes twice: one undone load fewer counts less.
		"UPDATE book_settings SET changes = changes + 2")
}

// same is the condition that a row of the table has the keys of one of another.
func (t broughtTable) same(other string) string {
	same := make([]string, len(t.keys))
	for i, k := range t.keys {
		same[i] = fmt.Sprintf("t.%[1]s = %[2]s.%[1]s", k, other)
	}
	return strings.Join(same, " AND ")
}

// forgetUndone lets go of what undone loads brought: another load has come.
func forgetUndone(tx *gorm.DB) error {
	var schemas []string
	if err := tx.Raw(`SELECT quote_ident(nspname) FROM pg_namespace WHERE nspname ~ '^undone_[0-9]+$'`).Scan(&schemas).Error; err != nil {
		return err
	}
	for i, schema := range schemas {
		schemas[i] = "DROP SCHEMA " + schema + " CASCADE"
	}
	return run(tx, schemas)
}

// A Change is one cell of a record of an order as a load found and left it.
type Change struct {
	Load     int64
	Kind     string
	Key      []string // the record's, without the order
	Column   string
	Old, New string
}

// History lists what loads have changed of an order and its parts, the latest first.
func (s *Store) History(ctx context.Context, order string) (changes []Change, err error) {
	tx := s.records.WithContext(ctx)
	type version struct {
		ID, LoadID      int64
		Kind, RecordKey string
		Before          string
	}
	var versions []version
	if err := tx.Raw(`SELECT id, load_id, kind, record_key, before::text FROM changes WHERE "order" = ? AND (load_id <= ? OR ? = 0)
		ORDER BY id DESC`, order, s.last, s.last).Scan(&versions).Error; err != nil || len(versions) == 0 {
		return nil, err
	}
	after := map[string]map[string]any{} // by kind and key
	for _, k := range record.Kinds() {
		if !k.OfOrder() {
			continue
		}
		var now []struct{ RecordKey, Row string }
		if err := tx.Raw(fmt.Sprintf(`SELECT %s AS record_key, to_jsonb(t)::text AS row FROM %s t WHERE "order" = ?`, keyText(k, "t"),
			tableOf(k)), order).Scan(&now).Error; err != nil {
			return nil, err
		}
		for _, n := range now {
			if after[k.Name+n.RecordKey], err = cellsOf(n.Row); err != nil {
				return nil, err
			}
		}
	}
	for _, v := range versions {
		before, err := cellsOf(v.Before)
		if err != nil {
			return nil, err
		}
		later := after[v.Kind+v.RecordKey]
		names := make([]string, 0, len(before))
		for name := range before {
			names = append(names, name)
		}
		for name := range later {
			if _, both := before[name]; !both {
				names = append(names, name)
			}
		}
		slices.Sort(names)
		for _, name := range names {
			old, now := writtenCell(v.Kind, name, before), writtenCell(v.Kind, name, later)
			if old != now && name != "load_id" && name != "id" {
				changes = append(changes, Change{v.LoadID, v.Kind, strings.Split(v.RecordKey, record.KeySeparator)[1:],
					strings.ReplaceAll(name, "_", "-"), old, now})
			}
		}
		after[v.Kind+v.RecordKey] = before
	}
	return changes, nil
}

// cellsOf reads a row of a table as JSON, its extra columns among the others.
func cellsOf(row string) (map[string]any, error) {
	decoder := json.NewDecoder(strings.NewReader(row))
	decoder.UseNumber()
	cells := map[string]any{}
	if err := decoder.Decode(&cells); err != nil {
		return nil, err
	}
	if extra, ok := cells["extra"].(map[string]any); ok {
		for name, value := range extra {
			cells[name] = value
		}
	}
	delete(cells, "extra")
	return cells, nil
}

// writtenCell writes a cell of a row of a kind as a file would: numbers as decimals, a value in its currency.
func writtenCell(kind, name string, cells map[string]any) string {
	text := cellText(cells[name])
	for _, k := range record.Kinds() {
		c := k.Column(strings.ReplaceAll(name, "_", "-"))
		if k.Name != kind || c < 0 || text == "" {
			continue
		}
		if k.Columns[c].Type != record.Money {
			return written(k.Columns[c].Type, text)
		}
		if units, err := strconv.ParseInt(text, 10, 64); err == nil {
			return money.Format(units, cellText(cells["currency"]))
		}
	}
	return text
}

func cellText(value any) string {
	if value == nil {
		return ""
	}
	return fmt.Sprint(value)
}
