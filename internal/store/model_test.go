package store

import (
	"context"
	"errors"
	"fmt"
	"iter"
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/pgcluster/clustertest"
	"prairiedusk/internal/record"
)

// A model keeps records in the plainest way: by kind and keys, cell by cell.
type model map[string]map[string]string

func (m model) clone() model {
	c := model{}
	for key, cells := range m {
		c[key] = maps.Clone(cells)
	}
	return c
}

// merge takes a record in and says what became of it.
func (m model) merge(p record.Part, row string, counts *RowCounts) {
	cells := strings.Fields(row)
	key := p.Kind.Name + ": " + strings.Join(cells[:p.Kind.Keys], " ")
	mine, known := m[key]
	if !known {
		mine = map[string]string{}
		m[key] = mine
	}
	changed := false
	for i, cell := range cells[p.Kind.Keys:] {
		name := ""
		if at := p.Kind.Keys + i; at < len(p.Given) {
			name = p.Kind.Columns[p.Given[at]].Name
		} else {
			name = p.Extras[at-len(p.Given)].Name
		}
		if cell == "-" {
			cell = ""
		}
		changed = changed || mine[name] != cell
		mine[name] = cell
	}
	switch {
	case !known:
		counts.New++
	case changed:
		counts.Changed++
	default:
		counts.Same++
	}
}

// kept reads all records of the kinds under test in the model's form.
func kept(t require.TestingT, s *Store, kinds []*record.Kind) model {
	all := model{}
	for _, k := range kinds {
		var rows []string
		require.NoError(t, s.records.Raw("SELECT to_jsonb(t)::text FROM "+tableOf(k)+" t").Scan(&rows).Error)
		for _, row := range rows {
			cells, err := cellsOf(row)
			require.NoError(t, err)
			keys, mine := []string{}, map[string]string{}
			for i, c := range k.Columns {
				value := cellText(cells[strings.ReplaceAll(c.Name, "-", "_")])
				delete(cells, strings.ReplaceAll(c.Name, "-", "_"))
				if i < k.Keys {
					keys = append(keys, value)
				} else if value != "" {
					mine[c.Name] = value
				}
			}
			for name, value := range cells { // what is left are columns of the user's own
				if name != "id" && name != "load_id" {
					mine[name] = cellText(value)
				}
			}
			all[k.Name+": "+strings.Join(keys, " ")] = mine
		}
	}
	return all
}

// filled is the model without empty cells, which tables do not tell from those that never came.
func (m model) filled() model {
	c := m.clone()
	for _, cells := range c {
		maps.DeleteFunc(cells, func(_, value string) bool { return value == "" })
	}
	return c
}

// Any run of loads and undoings leaves what a map of cells does, with the same counts.
func TestAnyRunOfLoadsAndUndoings(t *testing.T) {
	s := openStore(t, clustertest.Database(t))
	colour := func() *record.Extra { return &record.Extra{Name: "hive-colour", Known: true} }
	shapes := []func() record.Part{
		func() record.Part { return part(record.Orders, "order site shipped value") },
		func() record.Part { return part(record.Orders, "order shipped") },
		func() record.Part { return part(record.Orders, "order site", colour()) },
		func() record.Part { return part(record.Lines, "order line product units") },
		func() record.Part {
			return part(record.Lines, "order line units", &record.Extra{Name: "batch", Known: true})
		},
		func() record.Part { return part(record.Payments, "order receipt paid amount") },
		func() record.Part { return part(record.Customers, "customer contact") },
	}
	kinds := []*record.Kind{record.Orders, record.Lines, record.Payments, record.Customers}
	rapid.Check(t, func(t *rapid.T) {
		for _, k := range kinds {
			require.NoError(t, s.records.Exec("DELETE FROM "+tableOf(k)).Error)
		}
		for _, table := range []string{"changes", "extra_columns", "loads"} {
			require.NoError(t, s.records.Exec("DELETE FROM "+table).Error)
		}
		now := model{}
		var before []model // each load
		for range rapid.IntRange(1, 5).Draw(t, "steps") {
			if len(before) > 0 && rapid.IntRange(0, 3).Draw(t, "undo") == 0 {
				now, before = before[len(before)-1], before[:len(before)-1]
				var last int64
				require.NoError(t, s.records.Raw("SELECT max(id) FROM loads WHERE undone_at IS NULL").Scan(&last).Error)
				require.NoError(t, s.Undo(t.Context(), last, monday))
				require.Equal(t, now.filled(), kept(t, s, kinds))
				continue
			}
			before = append(before, now.clone())
			_, err := s.Load(t.Context(), "ana", monday, func(l *Load) error {
				for range rapid.IntRange(1, 3).Draw(t, "files") {
					p := rapid.SampledFrom(shapes).Draw(t, "shape")()
					rows := drawRows(t, p)
					var want RowCounts
					for _, row := range rows {
						now.merge(p, row, &want)
					}
					got, err := l.Records([]record.Part{p}, from(p, rows...))
					if err != nil {
						return err
					}
					if got[0] != want {
						return fmt.Errorf("%s: got %+v, want %+v for %q", p.Kind.Name, got[0], want, rows)
					}
				}
				return nil
			})
			require.NoError(t, err)
			require.Equal(t, now.filled(), kept(t, s, kinds))
		}
	})
}

// drawRows draws the rows of a file: no two of one record.
func drawRows(t *rapid.T, p record.Part) []string {
	rows := map[string]string{}
	for range rapid.IntRange(1, 4).Draw(t, "rows") {
		var cells []string
		for at := range len(p.Given) + len(p.Extras) {
			choices := []string{"-", "a", "b"}
			if at < len(p.Given) {
				switch c := p.Kind.Columns[p.Given[at]]; {
				case at < p.Kind.Keys:
					choices = []string{"A", "B", "C"}
				case c.Type == record.Day:
					choices = []string{"-", "2026-07-01", "2026-07-01T09:30", "2026-07-02"}
				case !c.Type.InText():
					choices = []string{"-", "0", "1500"}
				}
			}
			cells = append(cells, rapid.SampledFrom(choices).Draw(t, "cell"))
		}
		rows[strings.Join(cells[:p.Kind.Keys], " ")] = strings.Join(cells, " ")
	}
	return slices.Sorted(maps.Values(rows))
}

// Numbers are written as they came.
func TestKeptNumbersAreWrittenAsDecimals(t *testing.T) {
	for _, tt := range []struct {
		kind       record.Type
		kept, want string
	}{
		{record.Units, "2500", "2.5"}, {record.Units, "-1", "-0.001"}, {record.Units, "0", "0"}, {record.Units, "12000", "12"},
		{record.Amount, "600000", "60.00"}, {record.Amount, "12345", "1.2345"}, {record.Amount, "-500", "-0.05"}, {record.Amount, "", ""},
		{record.Text, "0012", "0012"}, {record.Day, "2026-07-01", "2026-07-01"},
	} {
		require.Equal(t, tt.want, written(tt.kind, tt.kept))
	}
}

func TestChangedNumbersAreWrittenAsFilesWriteThem(t *testing.T) {
	row := map[string]any{"value": "96250", "currency": "OMR", "paid": "2026-07-01", "units": "2500"}
	require.Equal(t, "96.250", writtenCell("orders", "value", row))
	require.Equal(t, "2026-07-01", writtenCell("orders", "paid", row))
	require.Equal(t, "2.5", writtenCell("order-lines", "units", row))
	require.Equal(t, "2500", writtenCell("orders", "units", row), "a column of the user's own is text")
	require.Empty(t, writtenCell("orders", "value", nil))
}

func TestNamesThatAreNearlyEqual(t *testing.T) {
	require.Equal(t, []string{"On hold and on-hold", "deliverd and delivered", "Checked out and checked  out!"},
		nearlyEqual([]string{"packed", "picked", "On hold", "on-hold", "deliverd", "delivered", "new", "now", "Checked out",
			"checked  out!"}))
	require.Empty(t, nearlyEqual([]string{"a", "ab", "returned", "refunded", "shipped", "checked"}))
	for names, alike := range map[[2]string]bool{
		{"hol", "hold"}: false, {"hold", "holds"}: true, {"hold", "holdss"}: false, // four letters or more
		{"backing", "packing"}: false, {"stacking", "stocking"}: true, // eight or more
	} {
		require.Equal(t, alike, len(nearlyEqual(names[:])) == 1, names)
	}
}

// Whoever asks for the rows of a file that has none, or of one among several, is told which there are.
func TestWaitingRowsOfSeveralFiles(t *testing.T) {
	s := openStore(t, clustertest.Database(t))
	rows := func(raw string) []SetAsideRow {
		return []SetAsideRow{{RowNumber: 9, Reason: "later", Raw: raw + "9"}, {RowNumber: 2, Reason: `no "day"`, Raw: raw}}
	}
	loaded, err := s.Load(t.Context(), "ana", monday, func(l *Load) error {
		return errors.Join(
			l.AddFile(LoadFile{Name: "a.csv", Header: []string{"order", "a,b"}}, aside(rows("A,soon")...)),
			l.AddFile(LoadFile{Name: "b.csv", Header: []string{"order"}}, aside(rows("B")...)),
			l.AddFile(LoadFile{Name: "c.csv"}, nil))
	})
	require.NoError(t, err)
	for _, name := range []string{"", "c.csv"} {
		_, err = s.WaitingFile(t.Context(), loaded.ID, name)
		require.EqualError(t, err, "say of which file: a.csv, b.csv")
	}
	require.NoError(t, s.records.Exec("UPDATE set_aside_rows SET kind = 'orders', record_key = raw WHERE raw = 'B'").Error)
	require.NoError(t, s.records.Exec("INSERT INTO set_aside_rows (file_id, row_number, column_name, value, reason, raw, kind, record_key) SELECT file_id, 3, '', '', 'short', 'C', kind, record_key || '2' FROM set_aside_rows WHERE raw = 'B'").Error)
	load(t, s, part(record.Customers, "customer"), "B") // a customer is no order
	for i, left := range []string{"C,\"short\"\nB9,\"later\"\n", "B9,\"later\"\n"} {
		load(t, s, part(record.Orders, "order"), []string{"B", "B2"}[i])
		text, err := waiting(t.Context(), s, loaded.ID, "b.csv")
		require.NoError(t, err)
		require.Equal(t, "order,set aside because\n"+left, text, "what a later load has brought waits no more")
	}
	text, err := waiting(t.Context(), s, loaded.ID, "a.csv")
	require.NoError(t, err)
	require.Equal(t, "order,\"a,b\",set aside because\nA,soon,\"no \"\"day\"\"\"\nA,soon9,\"later\"\n", text, "by the lines of the file")
}

// aside are rows that were set aside.
func aside(rows ...SetAsideRow) iter.Seq2[SetAsideRow, error] {
	return func(yield func(SetAsideRow, error) bool) {
		for _, row := range rows {
			if !yield(row, nil) {
				return
			}
		}
	}
}

// waiting is the text of the rows that wait to be fixed.
func waiting(ctx context.Context, s *Store, load int64, name string) (string, error) {
	file, err := s.WaitingFile(ctx, load, name)
	if err != nil {
		return "", err
	}
	var text strings.Builder
	err = s.WriteWaiting(ctx, file, &text)
	return text.String(), err
}
