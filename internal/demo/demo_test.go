package demo

import (
	"encoding/csv"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheSameSeedWritesTheSameFiles(t *testing.T) {
	a, b, other := t.TempDir(), t.TempDir(), t.TempDir()
	for folder, seed := range map[string]uint64{a: 7, b: 7, other: 8} {
		_, err := Write(folder, Options{Orders: 500, Seed: seed})
		require.NoError(t, err)
	}
	read := func(folder string) string {
		text, err := os.ReadFile(filepath.Join(folder, OrdersFile))
		require.NoError(t, err)
		return string(text)
	}
	assert.Equal(t, read(a), read(b))
	assert.NotEqual(t, read(a), read(other))
}

// The manifest is checked against the file by a plain reader that knows nothing of the maker.
func TestTheManifestSaysWhatStandsInTheFile(t *testing.T) {
	folder := t.TempDir()
	_, err := Write(folder, Options{Orders: 3000, Seed: 1})
	require.NoError(t, err)
	text, err := os.ReadFile(filepath.Join(folder, ManifestFile))
	require.NoError(t, err)
	var m Manifest
	require.NoError(t, json.Unmarshal(text, &m))
	file, err := os.Open(filepath.Join(folder, OrdersFile))
	require.NoError(t, err)
	defer file.Close()
	reader := csv.NewReader(file)
	reader.FieldsPerRecord = -1
	rows, err := reader.ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 1+m.Orders+len(m.SetAside))

	column := map[string]int{}
	for i, name := range rows[0] {
		column[name] = i
	}
	for _, bad := range m.SetAside {
		if bad.Column == "" {
			assert.Less(t, len(rows[bad.Row-1]), len(rows[0]))
			continue
		}
		assert.Equal(t, bad.Value, rows[bad.Row-1][column[bad.Column]])
	}
	byNumber := map[string][]string{}
	for _, row := range rows[1:] {
		byNumber[row[0]] = row
	}
	cell := func(number, name string) string { return byNumber[number][column[name]] }
	for _, tt := range []struct {
		kind  string
		holds func(number string) bool
	}{
		{ShippedBeforeOrdered, func(n string) bool { s := cell(n, "shipped"); return s != "" && s < cell(n, "ordered") }},
		{NoOrderedDay, func(n string) bool { return cell(n, "ordered") == "" }},
		{OrderedAfterDataDate, func(n string) bool { return cell(n, "ordered") > m.DataDate.String() }},
		{ShippedAfterDataDate, func(n string) bool { return cell(n, "shipped") > m.DataDate.String() }},
		{CancelledBeforeOrdered, func(n string) bool { c := cell(n, "cancelled"); return c != "" && c < cell(n, "ordered") }},
		{CancelledBetween, func(n string) bool {
			c := cell(n, "cancelled")
			return cell(n, "ordered") < c && c < cell(n, "shipped")
		}},
		{SameDay, func(n string) bool { return cell(n, "shipped") == cell(n, "ordered") }},
		{NoSite, func(n string) bool { return cell(n, "site") == "" }},
		{NoValue, func(n string) bool { return cell(n, "value") == "" }},
		{NoCurrency, func(n string) bool { return cell(n, "currency") == "" && cell(n, "value") != "" }},
	} {
		require.NotEmpty(t, m.Planted[tt.kind], tt.kind)
		for _, number := range m.Planted[tt.kind] {
			assert.Truef(t, tt.holds(number), "%s: %s", tt.kind, number)
		}
	}
	sum := 0
	for _, n := range m.OrderedToShipped {
		sum += n
	}
	assert.Equal(t, m.Orders, sum)
}
