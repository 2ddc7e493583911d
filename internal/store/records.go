package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/record"
)

// tableOf is the table of a kind.
func tableOf(k *record.Kind) string { return strings.ReplaceAll(k.Name, "-", "_") }

// column is a column's name for SQL. Names are those of kinds, never a file's.
func column(name string) string { return `"` + strings.ReplaceAll(name, "-", "_") + `"` }

// sqlType is what a table keeps values of a type as.
func sqlType(t record.Type) string {
	switch {
	case t == record.Day:
		return "date"
	case t.InText():
		return "text"
	}
	return "bigint"
}

// RowCounts says what became of records that could be used.
type RowCounts struct {
	New, Changed, Same int64
}

// Records brings in the rows of a file until next returns io.EOF; any other error of next ends the load. A
// record with known keys changes the columns that its part gives and no others. It returns the counts by part.
func (l *Load) Records(parts []record.Part, next func() ([]record.Row, error)) ([]RowCounts, error) {
	if len(parts) == 1 {
		var known bool
		if err := l.tx.Raw("SELECT EXISTS (SELECT FROM " + tableOf(parts[0].Kind) + ")").Scan(&known).Error; err != nil {
			return nil, err
		}
		if !known {
			s := newStaging(parts, l.record.ID)
			rows, err := l.copyRows(tableOf(parts[0].Kind), s, next)
			if err != nil {
				return nil, err
			}
			if err := l.touch(parts[0].Kind, rows, `SELECT DISTINCT "order" FROM `+tableOf(parts[0].Kind)); err != nil {
				return nil, err
			}
			return []RowCounts{{New: rows}}, l.ended(parts[0], "SELECT "+keyText(parts[0].Kind, "t")+" FROM "+tableOf(parts[0].Kind)+" t")
		}
	}
	return l.merge(parts, next)
}

// merge copies the rows beside the tables, then changes what differs and adds what is new.
func (l *Load) merge(parts []record.Part, next func() ([]record.Row, error)) ([]RowCounts, error) {
	s := newStaging(parts, l.record.ID)
	s.staged = true
	for _, sql := range []string{"SET LOCAL work_mem = '256MB'", "DROP TABLE IF EXISTS incoming",
		"CREATE TEMPORARY TABLE incoming (" + strings.Join(s.definitions(), ", ") + ") ON COMMIT DROP"} {
		if err := l.tx.Exec(sql).Error; err != nil {
			return nil, err
		}
	}
	if _, err := l.copyRows("incoming", s, next); err != nil {
		return nil, err
	}
	if err := l.tx.Exec("ANALYZE incoming").Error; err != nil {
		return nil, err
	}
	counts := make([]RowCounts, len(parts))
	for p := range parts {
		var err error
		if counts[p], err = l.mergePart(s, p); err != nil {
			return nil, err
		}
		if err := l.ended(parts[p], fmt.Sprintf("SELECT %s FROM incoming i", s.incomingKey(p))); err != nil {
			return nil, err
		}
	}
	return counts, nil
}

// mergePart takes the records of one part from the staged rows into their table. One join tells what is new and
// what differs; the rest is left alone.
func (l *Load) mergePart(s *staging, p int) (counts RowCounts, err error) {
	part := s.parts[p]
	table, keys := tableOf(part.Kind), make([]string, part.Kind.Keys)
	for k := range keys {
		keys[k] = fmt.Sprintf("t.%s = i.%s", column(part.Kind.Columns[k].Name), s.column(p, k))
	}
	var columns, incoming, mine []string
	for _, c := range part.Given {
		columns, incoming = append(columns, column(part.Kind.Columns[c].Name)), append(incoming, "i."+s.column(p, c))
	}
	changing, incomingChanging := slices.Clone(columns[part.Kind.Keys:]), slices.Clone(incoming[part.Kind.Keys:])
	for _, c := range changing {
		mine = append(mine, "t."+c)
	}
	differs := "false"
	if len(changing) > 0 {
		differs = fmt.Sprintf("(%s) IS DISTINCT FROM (%s)", strings.Join(mine, ", "), strings.Join(incomingChanging, ", "))
	}
	if s.hasExtra(p) {
		// A day that is given without a time of day takes an earlier time away.
		var days []string
		for _, c := range part.Given {
			if given := part.Kind.Columns[c]; given.Type == record.Day {
				days = append(days, "'"+strings.Trim(column(given.Name), `"`)+"'")
			}
		}
		merged := fmt.Sprintf("jsonb_strip_nulls((coalesce(t.extra, '{}') - ARRAY[%s]::text[]) || coalesce(i.%s, '{}'))", strings.Join(days, ", "), s.extra(p))
		columns, incoming = append(columns, "extra"), append(incoming, fmt.Sprintf("jsonb_strip_nulls(i.%s)", s.extra(p)))
		changing, incomingChanging = append(changing, "extra"), append(incomingChanging, "nullif("+merged+", '{}')")
		differs += fmt.Sprintf(" OR (t.extra IS NOT NULL OR i.%s IS NOT NULL) AND coalesce(t.extra, '{}') <> %s", s.extra(p), merged)
	}
	order := "NULL"
	if part.Kind.OfOrder() {
		order = `t."order"`
	}
	statements := []string{
		"DROP TABLE IF EXISTS moved",
		fmt.Sprintf("CREATE TEMPORARY TABLE moved ON COMMIT DROP AS SELECT t.ctid AS known, i.ctid AS came FROM incoming i LEFT JOIN %s t ON %s WHERE %s AND (t.load_id IS NULL OR %s)",
			table, strings.Join(keys, " AND "), s.fresh(p), differs),
		"ANALYZE moved",
		fmt.Sprintf(`INSERT INTO changes (load_id, kind, record_key, "order", before) SELECT %d, '%s', %s, %s, to_jsonb(t) FROM moved m JOIN %s t ON t.ctid = m.known`,
			l.record.ID, part.Kind.Name, keyText(part.Kind, "t"), order, table),
	}
	for _, sql := range statements {
		if err := l.tx.Exec(sql).Error; err != nil {
			return counts, err
		}
	}
	if len(changing) > 0 {
		update := l.tx.Exec(fmt.Sprintf("UPDATE %s t SET (%s, load_id) = ROW(%s, %d) FROM moved m JOIN incoming i ON i.ctid = m.came WHERE t.ctid = m.known",
			table, strings.Join(changing, ", "), strings.Join(incomingChanging, ", "), l.record.ID))
		if update.Error != nil {
			return counts, update.Error
		}
		counts.Changed = update.RowsAffected
	}
	insert := l.tx.Exec(fmt.Sprintf("INSERT INTO %s (%s, load_id) SELECT %s, %d FROM moved m JOIN incoming i ON i.ctid = m.came WHERE m.known IS NULL ORDER BY m.came",
		table, strings.Join(columns, ", "), strings.Join(incoming, ", "), l.record.ID))
	counts.New = insert.RowsAffected
	if insert.Error != nil {
		return counts, insert.Error
	}
	counts.Same = s.freshRows[p] - counts.New - counts.Changed
	return counts, l.touch(part.Kind, counts.New+counts.Changed, fmt.Sprintf("SELECT DISTINCT i.%s FROM moved m JOIN incoming i ON i.ctid = m.came", s.column(p, 0)))
}

// ended keeps what the rows of a part have shown, and clears the set-aside rows that they mend.
func (l *Load) ended(part record.Part, keys string) error {
	for _, extra := range part.Extras {
		if !extra.Known {
			continue
		}
		err := l.tx.Exec("INSERT INTO extra_columns (kind, name, is_milestone, is_plan, load_id) VALUES (?, ?, ?, ?, ?) ON CONFLICT (kind, name) DO NOTHING",
			part.Kind.Name, extra.Name, extra.Milestone, extra.Plan, l.record.ID).Error
		if err != nil {
			return err
		}
	}
	var waiting bool
	if err := l.tx.Raw("SELECT EXISTS (SELECT FROM set_aside_rows WHERE cleared_by IS NULL AND kind = ? AND record_key <> '')", part.Kind.Name).Scan(&waiting).Error; err != nil || !waiting {
		return err
	}
	return l.tx.Exec("UPDATE set_aside_rows SET cleared_by = ? WHERE cleared_by IS NULL AND kind = ? AND record_key <> '' AND record_key IN ("+keys+")", l.record.ID, part.Kind.Name).Error
}

// keyText joins the keys of a table's row as intake does.
func keyText(k *record.Kind, row string) string {
	keys := make([]string, k.Keys)
	for i := range keys {
		keys[i] = row + "." + column(k.Columns[i].Name)
	}
	return strings.Join(keys, " || E'\\x1f' || ")
}

// A staging is the form in which the rows of a file are copied: for each part the columns given, the extra
// columns together and, where rows are staged, whether the record is fresh.
type staging struct {
	parts     []record.Part
	load      int64
	staged    bool
	freshRows []int64
	cells     []any
	fill      []func([]record.Row) error
}

func newStaging(parts []record.Part, load int64) *staging {
	s := &staging{parts: parts, load: load, freshRows: make([]int64, len(parts))}
	return s
}

func (s *staging) column(p, c int) string {
	if !s.staged {
		return column(s.parts[p].Kind.Columns[c].Name)
	}
	// The driver remembers what types a statement has by its text, so that the text has to tell them.
	return fmt.Sprintf("p%d_%d_%s", p, c, sqlType(s.parts[p].Kind.Columns[c].Type))
}

func (s *staging) extra(p int) string {
	if !s.staged {
		return "extra"
	}
	return fmt.Sprintf("p%d_extra", p)
}

// hasExtra says whether records of a part can have cells in the extra column: columns of the user's own, or days
// with a time of day.
func (s *staging) hasExtra(p int) bool {
	return len(s.parts[p].Extras) > 0 || s.parts[p].Kind.HasDays()
}

func (s *staging) fresh(p int) string { return fmt.Sprintf("i.p%d_fresh", p) }

func (s *staging) incomingKey(p int) string {
	keys := make([]string, s.parts[p].Kind.Keys)
	for k := range keys {
		keys[k] = "i." + s.column(p, k)
	}
	return strings.Join(keys, " || E'\\x1f' || ")
}

// names lists the columns of the copied table, unquoted.
func (s *staging) names() (names []string) {
	for p, part := range s.parts {
		for _, c := range part.Given {
			names = append(names, strings.Trim(s.column(p, c), `"`))
		}
		if s.hasExtra(p) {
			names = append(names, s.extra(p))
		}
		if s.staged {
			names = append(names, fmt.Sprintf("p%d_fresh", p))
		}
	}
	if !s.staged {
		names = append(names, "load_id")
	}
	return names
}

// definitions are those columns with their types.
func (s *staging) definitions() (columns []string) {
	for p, part := range s.parts {
		for _, c := range part.Given {
			columns = append(columns, s.column(p, c)+" "+sqlType(part.Kind.Columns[c].Type))
		}
		if s.hasExtra(p) {
			columns = append(columns, s.extra(p)+" jsonb")
		}
		columns = append(columns, fmt.Sprintf("p%d_fresh boolean", p))
	}
	return columns
}

// prepare makes the cells that COPY reads, used again for each row, and what fills them.
func (s *staging) prepare() {
	for p, part := range s.parts {
		for _, c := range part.Given {
			switch kind := part.Kind.Columns[c].Type; {
			case c < part.Kind.Keys:
				cell := &key{}
				s.cells = append(s.cells, cell)
				s.fill = append(s.fill, func(rows []record.Row) error { cell.value = rows[p].Values[c].Text; return nil })
			case kind == record.Day:
				cell := &date{}
				s.cells = append(s.cells, cell)
				s.fill = append(s.fill, func(rows []record.Row) error { cell.value = day.Day(rows[p].Values[c].Number); return nil })
			case kind.InText():
				cell := &text{}
				s.cells = append(s.cells, cell)
				s.fill = append(s.fill, func(rows []record.Row) error { cell.value = rows[p].Values[c].Text; return nil })
			default:
				cell := &number{}
				s.cells = append(s.cells, cell)
				s.fill = append(s.fill, func(rows []record.Row) error {
					cell.value, cell.known = rows[p].Values[c].Number, rows[p].Values[c].Known
					return nil
				})
			}
		}
		if s.hasExtra(p) {
			at := len(s.cells)
			s.cells = append(s.cells, nil)
			s.fill = append(s.fill, func(rows []record.Row) (err error) {
				s.cells[at], err = s.extraCell(part, rows[p])
				return err
			})
		}
		at := len(s.cells)
		if s.staged {
			s.cells = append(s.cells, nil)
		}
		s.fill = append(s.fill, func(rows []record.Row) error {
			if rows[p].Fresh {
				s.freshRows[p]++
			}
			if s.staged {
				s.cells[at] = rows[p].Fresh
			}
			return nil
		})
	}
	if !s.staged {
		s.cells = append(s.cells, s.load)
	}
}

// timesCell writes the days that came with a time of day as JSON: the same as extraCell without extra columns, for the
// millions of rows that have none. Neither names of columns nor such days hold what JSON would write in another way.
func timesCell(part record.Part, row record.Row) any {
	var text []byte
	for _, c := range part.Given {
		if part.Kind.Columns[c].Type != record.Day || row.Values[c].Text == "" {
			continue
		}
		if text == nil {
			text = append(text, '{')
		} else {
			text = append(text, ',')
		}
		text = append(text, column(part.Kind.Columns[c].Name)...)
		text = append(text, `:"`...)
		text = append(text, row.Values[c].Text...)
		text = append(text, '"')
	}
	if text == nil {
		return nil
	}
	return string(append(text, '}'))
}

// extraCell writes the extra columns as JSON, and the days that came with a time of day as they were written. A
// staged row says of an empty extra cell that it is, so that a merge takes the earlier one away.
func (s *staging) extraCell(part record.Part, row record.Row) (any, error) {
	if len(part.Extras) == 0 {
		return timesCell(part, row), nil
	}
	var cells map[string]*string
	put := func(name string, cell *string) {
		if cells == nil {
			cells = map[string]*string{}
		}
		cells[name] = cell
	}
	for _, c := range part.Given {
		if part.Kind.Columns[c].Type == record.Day && row.Values[c].Text != "" {
			put(strings.Trim(column(part.Kind.Columns[c].Name), `"`), &row.Values[c].Text)
		}
	}
	for i, extra := range part.Extras {
		switch {
		case row.Extra[i] != "":
			put(extra.Name, &row.Extra[i])
		case s.staged:
			put(extra.Name, nil)
		}
	}
	if len(cells) == 0 {
		return nil, nil
	}
	text, err := json.Marshal(cells)
	return string(text), err
}

// copyRows streams rows into a table.
func (l *Load) copyRows(table string, s *staging, next func() ([]record.Row, error)) (rows int64, err error) {
	s.prepare()
	facts := factsOf(s.parts)
	// The database repeats what next says in words of its own; callers want the error itself.
	var failed error
	err = onConnection(l.tx, func(conn *pgx.Conn) error {
		rows, err = conn.CopyFrom(l.tx.Statement.Context, pgx.Identifier{table}, s.names(), pgx.CopyFromFunc(func() ([]any, error) {
			row, err := next()
			if errors.Is(err, io.EOF) {
				return nil, nil
			}
			if err != nil {
				failed = err
				return nil, err
			}
			for _, f := range facts {
				l.fact(f.of(row))
			}
			for p, part := range s.parts {
				if part.Kind == record.Orders {
					l.ordered(row[p].Values[orderedColumn])
				}
				for i, cell := range row[p].Extra {
					if extra := part.Extras[i]; extra.Milestone && !extra.Plan && cell != "" {
						m, _ := day.ParseMoment(cell) // intake has checked it
						l.fact(m.Day)
					}
				}
			}
			for _, fill := range s.fill {
				if err := fill(row); err != nil {
					return nil, err
				}
			}
			return s.cells, nil
		}))
		return err
	})
	if failed != nil {
		err = failed
	}
	return rows, err
}

// fact remembers the latest day of a fact that is not after the load's own.
func (l *Load) fact(d day.Day) {
	if d > l.latest && d <= l.record.LoadedOn.value {
		l.latest = d
	}
}

var orderedColumn = record.Orders.Column(milestone.Ordered)

// ordered remembers the earliest order date.
func (l *Load) ordered(v record.Value) {
	if d := day.Day(v.Number); v.Known && (l.record.Earliest == 0 || d < l.record.Earliest) {
		l.record.Earliest = d
	}
}

// A fact is a column of days that are no plans, or of moments.
type fact struct {
	part, column int
	moment       bool
}

func (f fact) of(row []record.Row) day.Day {
	value := row[f.part].Values[f.column]
	if !f.moment {
		return day.Day(value.Number)
	}
	// The day of an instant in whatever zone it is written is near enough for telling how far records go.
	d, _ := day.Parse(value.Text[:min(len(value.Text), len("2006-01-02"))])
	return d
}

func factsOf(parts []record.Part) (facts []fact) {
	for p, part := range parts {
		for _, c := range part.Given {
			switch column := part.Kind.Columns[c]; {
			case column.Type == record.Day && !isPlan(column.Name):
				facts = append(facts, fact{p, c, false})
			case column.Type == record.Moment:
				facts = append(facts, fact{p, c, true})
			}
		}
	}
	return facts
}
