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
		for _, sql := range undoing(load) {
			if err := tx.Exec(sql).Error; err != nil {
				return err
			}
		}
		return tx.Model(&LoadRecord{ID: load}).Update("undone_at", at).Error
	})
}

// lockLoads lets one load or undoing run at a time.
func lockLoads(tx *gorm.DB) error {
	var free bool
	if err := tx.Raw("SELECT pg_try_advisory_xact_lock(?)", int64(loadLock)).Scan(&free).Error; err != nil {
		return err
	}
	if !free {
		return ErrLoadRunning
	}
	return nil
}

// undoing lists the statements that take a load back. Of the changes that one load made to a record, the first
// holds what was before it; a record that the load itself brought has gone by then.
func undoing(load int64) (statements []string) {
	restore := func(kind, table string, keys, columns []string) {
		same := make([]string, len(keys))
		for i, k := range keys {
			same[i] = fmt.Sprintf("t.%[1]s = r.%[1]s", k)
		}
		firsts := fmt.Sprintf("(SELECT DISTINCT ON (record_key) before FROM changes WHERE load_id = %d AND kind = '%s' ORDER BY record_key, id) c, jsonb_populate_record(NULL::%s, c.before) r", load, kind, table)
		theirs := make([]string, len(columns))
		for i, c := range columns {
			theirs[i] = "r." + c
		}
		statements = append(statements,
			fmt.Sprintf("UPDATE %s t SET (%s) = ROW(%s) FROM %s WHERE %s AND r.load_id <> %d", table, strings.Join(columns, ", "), strings.Join(theirs, ", "), firsts, strings.Join(same, " AND "), load),
			fmt.Sprintf("DELETE FROM %s WHERE load_id = %d", table, load))
	}
	for _, k := range record.Kinds() {
		var columns []string
		for _, c := range k.Columns {
			columns = append(columns, column(c.Name))
		}
		keys := slices.Clone(columns[:k.Keys])
		if k.Extras || k.HasDays() {
			columns = append(columns, "extra")
		}
		restore(k.Name, tableOf(k), keys, append(columns, "load_id"))
	}
	restore("calendars", "calendars", []string{"id"}, []string{"name", "definition", "load_id"})
	return append(statements,
		fmt.Sprintf("DELETE FROM extra_columns WHERE load_id = %d", load),
		fmt.Sprintf("UPDATE set_aside_rows SET cleared_by = NULL WHERE cleared_by = %d", load),
		fmt.Sprintf("DELETE FROM set_aside_rows WHERE file_id IN (SELECT id FROM load_files WHERE load_id = %d)", load),
		fmt.Sprintf("DELETE FROM changes WHERE load_id = %d", load),
	)
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
	if err := tx.Raw(`SELECT id, load_id, kind, record_key, before::text FROM changes WHERE "order" = ? ORDER BY id DESC`, order).Scan(&versions).Error; err != nil || len(versions) == 0 {
		return nil, err
	}
	after := map[string]map[string]any{} // by kind and key
	for _, k := range record.Kinds() {
		if !k.OfOrder() {
			continue
		}
		var now []struct{ RecordKey, Row string }
		if err := tx.Raw(fmt.Sprintf(`SELECT %s AS record_key, to_jsonb(t)::text AS row FROM %s t WHERE "order" = ?`, keyText(k, "t"), tableOf(k)), order).Scan(&now).Error; err != nil {
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
				changes = append(changes, Change{v.LoadID, v.Kind, strings.Split(v.RecordKey, record.KeySeparator)[1:], strings.ReplaceAll(name, "_", "-"), old, now})
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
