package store

import (
	"context"
	"database/sql"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"iter"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/record"
)

// ErrLoadRunning is returned by Load while another load runs, in this process or another.
var ErrLoadRunning = errors.New("another load is running; try again when it has ended")

// loadLock is the advisory lock that lets one load run at a time.
const loadLock = 0x7072_6475_736b

// A LoadRecord is one bringing-in of files.
type LoadRecord struct {
	ID       int64      `gorm:"primaryKey"`
	LoadedAt time.Time  // when it began
	LoadedOn date       // the day of that where it was made
	LoadedBy string     // operating-system user
	DataDate *date      // see DataDay
	UndoneAt *time.Time // null: it stands
	Redoable bool       `gorm:"-"` // see Redo
	Earliest day.Day    `gorm:"-"` // order date that it brought, of a load that was just made; zero where it brought none
	// Touched are the numbers of the orders that the load has brought or changed, themselves or their parts; of one that was just
	// made alone. AllTouched says that they are too many to name.
	Touched    []string   `gorm:"-"`
	AllTouched bool       `gorm:"-"`
	Files      []LoadFile `gorm:"foreignKey:LoadID"`
}

// TableName is the table's name, for GORM.
func (LoadRecord) TableName() string { return "loads" }

// DataDay is the latest day of any fact that the load brought and that is not after its own day; zero where
// it brought none.
func (r LoadRecord) DataDay() day.Day { return r.DataDate.day() }

// A LoadFile is one file of a load, with what became of its rows.
type LoadFile struct {
	ID            int64 `gorm:"primaryKey"`
	LoadID        int64
	Name          string
	Kind          string
	SHA256        string `gorm:"column:sha256"`
	RowsNew       int64
	RowsChanged   int64
	RowsSame      int64
	RowsSetAside  int64
	Waiting       int64    `gorm:"->"` // of those set aside, not yet brought by a later load
	UnusedColumns []string `gorm:"serializer:json"`
	Header        []string `gorm:"serializer:json"`
}

// TableName is the table's name, for GORM.
func (LoadFile) TableName() string { return "load_files" }

// A SetAsideRow is a row that could not be used, kept whole with the reason.
type SetAsideRow struct {
	ID         int64 `gorm:"primaryKey"`
	FileID     int64
	File       string `gorm:"->"` // the file's name
	RowNumber  int64
	ColumnName string
	Value      string
	Reason     string
	Raw        string
	Kind       string // of the record that it would have been
	RecordKey  string // its keys, joined; empty where they cannot be told
	ClearedBy  *int64 // the load that brought the fixed row
}

// TableName is the table's name, for GORM.
func (SetAsideRow) TableName() string { return "set_aside_rows" }

// A Load is a transaction that brings files in. Nothing of it is seen until it ends well.
type Load struct {
	tx      *gorm.DB
	record  LoadRecord
	latest  day.Day // of the facts that it brought
	touched map[string]bool
	written map[string]int64 // rows by table
	// calendars are those that files of this load have brought, by name in small letters.
	calendars map[string]calendar.Definition
}

// Load runs fill in one transaction: all of it is kept when fill returns nil, and nothing otherwise or when
// the context ends. The day of the load is that of at, in its location.
func (s *Store) Load(ctx context.Context, by string, at time.Time, fill func(*Load) error) (LoadRecord, error) {
	conn, err := s.db.Conn(ctx)
	if err != nil {
		return LoadRecord{}, err
	}
	defer conn.Close()
	ctx = context.WithValue(ctx, connectionKey{}, conn)
	session := s.records.Session(&gorm.Session{Context: ctx, NewDB: true})
	session.Statement.ConnPool = conn
	l := &Load{touched: map[string]bool{}, written: map[string]int64{}, record: LoadRecord{LoadedAt: at, LoadedOn: date{day.FromTime(at)},
		LoadedBy: by}}
	err = session.Transaction(func(tx *gorm.DB) error {
		l.tx = tx
		if err := lockLoads(tx); err != nil {
			return err
		}
		if err := tx.Raw("SELECT coalesce(max(id), 0) + 1 FROM loads").Scan(&l.record.ID).Error; err != nil {
			return err
		}
		if err := tx.Omit("Files").Create(&l.record).Error; err != nil {
			return err
		}
		err := fill(l)
		if l.latest != 0 {
			l.record.DataDate = &date{l.latest} // of one that only checks as well
		}
		if err != nil {
			return err
		}
		if err := forgetUndone(tx); err != nil {
			return err
		}
		if err := l.analyze(); err != nil {
			return err
		}
		if l.record.DataDate == nil {
			return nil
		}
		return tx.Model(&l.record).Omit("Files").Update("data_date", l.record.DataDate).Error
	}, &sql.TxOptions{})
	l.record.Touched = slices.Collect(maps.Keys(l.touched))
	return l.record, err
}

// analyze looks at what the tables hold where they have changed much, so that what is asked of them next is planned well.
func (l *Load) analyze() error {
	for table, rows := range l.written {
		var known float64
		if err := l.tx.Raw("SELECT greatest(reltuples, 0) FROM pg_class WHERE oid = ?::regclass", table).Scan(&known).Error; err != nil {
			return err
		}
		if float64(rows) > known/10 {
			if err := l.tx.Exec("ANALYZE " + table).Error; err != nil {
				return err
			}
		}
	}
	return nil
}

// mostTouched is how many orders a load names as touched.
const mostTouched = 20_000

// touch notes the orders whose numbers a query gives, and that their rows of a table were written.
func (l *Load) touch(k *record.Kind, rows int64, numbers string) error {
	l.written[tableOf(k)] += rows
	if k != record.Orders && !k.OfOrder() || l.record.AllTouched {
		return nil
	}
	var touched []string
	if rows <= mostTouched {
		if err := l.tx.Raw(numbers).Scan(&touched).Error; err != nil {
			return err
		}
	}
	for _, number := range touched {
		l.touched[number] = true
	}
	if rows > mostTouched || len(l.touched) > mostTouched {
		l.touched, l.record.AllTouched = map[string]bool{}, true
	}
	return nil
}

// AddFile records a file with what became of its rows, and keeps its set-aside rows; nil is none.
func (l *Load) AddFile(file LoadFile, aside iter.Seq2[SetAsideRow, error]) error {
	file.LoadID = l.record.ID
	file.UnusedColumns = append([]string{}, file.UnusedColumns...)
	file.Header = append([]string{}, file.Header...)
	if err := l.tx.Create(&file).Error; err != nil {
		return err
	}
	if aside != nil {
		next, stop := iter.Pull2(aside)
		defer stop()
		err := onConnection(l.tx, func(conn *pgx.Conn) (err error) {
			file.RowsSetAside, err = conn.CopyFrom(l.tx.Statement.Context, pgx.Identifier{"set_aside_rows"},
				[]string{"file_id", "row_number", "column_name", "value", "reason", "raw", "kind", "record_key"},
				pgx.CopyFromFunc(func() ([]any, error) {
					a, err, more := next()
					if !more || err != nil {
						return nil, err
					}
					return []any{file.ID, a.RowNumber, a.ColumnName, a.Value, a.Reason, a.Raw, a.Kind, a.RecordKey}, nil
				}))
			return err
		})
		if err != nil {
			return err
		}
		if err := l.tx.Model(&file).Update("rows_set_aside", file.RowsSetAside).Error; err != nil {
			return err
		}
		file.Waiting = file.RowsSetAside
	}
	l.record.Files = append(l.record.Files, file)
	return nil
}

// AddCalendar brings in a calendar of a file, together with what earlier files of the load say of it. The error says where they
// contradict. A file of days alone leaves the week as it is.
func (l *Load) AddCalendar(def calendar.Definition) (change RowCounts, err error) {
	name := strings.ToLower(def.Name)
	if before, known := l.calendars[name]; known {
		if def, err = calendar.Merge(before, def); err != nil {
			return change, fmt.Errorf("%w: %w", ErrContradiction, err)
		}
	}
	if l.calendars == nil {
		l.calendars = map[string]calendar.Definition{}
	}
	l.calendars[name] = def
	var earlier calendarRow
	// What stood before the load: an earlier file of it has taken that in already.
	if err := l.tx.Where("lower(name) = ?", name).Limit(1).Find(&earlier).Error; err != nil {
		return change, err
	}
	return l.Calendar(def.Over(earlier.Definition))
}

// ErrContradiction is wrapped by AddCalendar where two files of a load contradict each other.
var ErrContradiction = errors.New("files of one load contradict each other")

// Calendar brings in a calendar under its name, in the place of an earlier one of that name.
func (l *Load) Calendar(def calendar.Definition) (change RowCounts, err error) {
	var earlier calendarRow
	found := l.tx.Where("lower(name) = lower(?)", def.Name).Limit(1).Find(&earlier)
	if found.Error != nil {
		return change, found.Error
	}
	row := calendarRow{ID: earlier.ID, Name: def.Name, Definition: def, LoadID: l.record.ID}
	switch {
	case found.RowsAffected == 0:
		change.New = 1
	case calendar.Same(earlier.Definition, def):
		return RowCounts{Same: 1}, nil
	default:
		change.Changed = 1
		if earlier.LoadID == l.record.ID {
			break // another file of the load has brought it: what stood before is kept already
		}
		before := fmt.Sprintf("INSERT INTO changes (load_id, kind, record_key, before) SELECT %d, 'calendars', lower(name), to_jsonb(c) FROM calendars c WHERE id = %d", l.record.ID, earlier.ID)
		if err := l.tx.Exec(before).Error; err != nil {
			return change, err
		}
	}
	return change, l.tx.Save(&row).Error
}

// Loads lists the loads with their files, the last first.
func (s *Store) Loads(ctx context.Context) (loads []LoadRecord, err error) {
	tx := s.records.WithContext(ctx)
	again, err := redoable(tx)
	if err != nil {
		return nil, err
	}
	err = tx.Preload("Files", func(tx *gorm.DB) *gorm.DB {
		return tx.Select("load_files.*, (SELECT count(*) FROM set_aside_rows r WHERE r.file_id = load_files.id AND r.cleared_by IS NULL) AS waiting").Order("id")
	}).Order("id DESC").Find(&loads).Error
	for i := range loads {
		loads[i].Redoable = again != 0 && loads[i].ID == again
	}
	return loads, err
}

// A SetAsideFilter picks rows that were set aside; empty words pick all.
type SetAsideFilter struct {
	File, Column string
	Waiting      bool // not yet cleared
}

// SetAsideRows lists the set-aside rows of a load by file and row: at most limit of them from offset on, and
// how many there are in all.
func (s *Store) SetAsideRows(ctx context.Context, load int64, f SetAsideFilter, offset, limit int) (rows []SetAsideRow, all int64,
	err error) {
	of := func() *gorm.DB {
		tx := s.records.WithContext(ctx).Model(&SetAsideRow{}).Where("file_id IN (SELECT id FROM load_files WHERE load_id = ? AND (name = ? OR ? = ''))", load, f.File, f.File)
		if f.Column != "" {
			tx = tx.Where("column_name = ?", f.Column)
		}
		if f.Waiting {
			tx = tx.Where("cleared_by IS NULL")
		}
		return tx
	}
	if err := of().Count(&all).Error; err != nil {
		return nil, 0, err
	}
	err = of().Select("set_aside_rows.*, (SELECT name FROM load_files WHERE id = file_id) AS file").
		Order("file_id, row_number, id").Offset(offset).Limit(limit).Find(&rows).Error
	return rows, all, err
}

// A FileChoiceError says that a load has rows that wait in other files than the one that was named.
type FileChoiceError struct {
	Load  int64
	Files []string
}

func (e *FileChoiceError) Error() string {
	if len(e.Files) == 0 {
		return fmt.Sprintf("no row of load %d waits to be fixed", e.Load)
	}
	return fmt.Sprintf("say of which file: %s", strings.Join(e.Files, ", "))
}

// ReasonColumn is the header of the column that Waiting adds. A file that has it may be loaded as it is.
const ReasonColumn = "set aside because"

// WaitingFile is the file of a load whose rows wait to be fixed. An empty name is that of the only one; the error is a
// *FileChoiceError where that is none or not the only one.
func (s *Store) WaitingFile(ctx context.Context, load int64, name string) (LoadFile, error) {
	var files []LoadFile
	err := s.records.WithContext(ctx).Where("load_id = ? AND id IN (SELECT file_id FROM set_aside_rows WHERE cleared_by IS NULL)",
		load).Order("id").Find(&files).Error
	if err != nil {
		return LoadFile{}, err
	}
	which := &FileChoiceError{Load: load}
	var chosen []LoadFile
	for _, f := range files {
		which.Files = append(which.Files, f.Name)
		if name == "" || f.Name == name {
			chosen = append(chosen, f)
		}
	}
	if len(chosen) != 1 {
		return LoadFile{}, which
	}
	return chosen[0], nil
}

// WriteWaiting writes the rows of a file that were set aside and not yet cleared, as they stood, under the file's header and with
// the reason in a last column.
func (s *Store) WriteWaiting(ctx context.Context, file LoadFile, w io.Writer) error {
	out := csv.NewWriter(w)
	if err := out.Write(append(file.Header, ReasonColumn)); err != nil {
		return err
	}
	if out.Flush(); out.Error() != nil {
		return out.Error()
	}
	rows, err := s.records.WithContext(ctx).Model(&SetAsideRow{}).Select("raw", "reason").Where("file_id = ? AND cleared_by IS NULL",
		file.ID).Order("row_number, id").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var raw, reason string
		if err := rows.Scan(&raw, &reason); err != nil {
			return err
		}
		if cells, err := csv.NewReader(strings.NewReader(raw)).Read(); err == nil && len(cells) < len(file.Header) {
			raw += strings.Repeat(",", len(file.Header)-len(cells)) // the reason has a column of its own
		}
		if _, err := io.WriteString(w, raw+`,"`+strings.ReplaceAll(reason, `"`, `""`)+"\"\n"); err != nil {
			return err
		}
	}
	return rows.Err()
}

// Whereabouts are the names by which calendars find orders, as far as the load has them: the sites, regions and countries of orders, of
// sites and of places, and the calendars.
func (l *Load) Whereabouts(ctx context.Context) (names []string, err error) {
	return names, l.tx.WithContext(ctx).Raw(`SELECT DISTINCT name FROM (
		SELECT site FROM orders UNION SELECT country FROM orders UNION SELECT region FROM orders
		UNION SELECT site FROM sites UNION SELECT region FROM sites UNION SELECT country FROM sites
		UNION SELECT region FROM places UNION SELECT country FROM places UNION SELECT name FROM calendars) AS all_names(name)
		WHERE name <> '' ORDER BY name LIMIT 10000`).Scan(&names).Error
}
