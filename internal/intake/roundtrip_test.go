package intake

import (
	"encoding/csv"
	"errors"
	"io"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/record"
)

// drawCell draws a cell as a person might type it, and the value that is kept of it.
func drawCell(t *rapid.T, kind record.Type) (typed, kept string) {
	pick := func(choices ...[2]string) (string, string) {
		c := rapid.SampledFrom(choices).Draw(t, "cell")
		return c[0], c[1]
	}
	switch kind {
	case record.Day:
		d := day.Day(rapid.Int32Range(int32(day.First), int32(day.Last)).Draw(t, "day"))
		return d.String(), d.String()
	case record.Money:
		return pick([2]string{"12.50", "1250"}, [2]string{"-3", "-300"}, [2]string{"0.10", "10"})
	case record.Currency:
		return pick([2]string{"eur", "EUR"}, [2]string{"CAD", "CAD"})
	case record.Amount:
		return pick([2]string{"1.2345", "12345"}, [2]string{"-60", "-600000"})
	case record.Units:
		return pick([2]string{"2.5", "2500"}, [2]string{"0", "0"})
	case record.Whole:
		return pick([2]string{"007", "7"}, [2]string{"-1", "-1"})
	case record.Degrees:
		return pick([2]string{"-37.79", "-37790000"}, [2]string{"180", "180000000"})
	case record.Zone:
		return pick([2]string{"Pacific/Auckland", "Pacific/Auckland"}, [2]string{"UTC", "UTC"})
	case record.Clock:
		return pick([2]string{"14:30", "14:30"}, [2]string{"00:00", "00:00"})
	case record.Moment:
		return pick([2]string{"2026-07-06", "2026-07-06"}, [2]string{"2026-07-06T10:15:00+02:00", "2026-07-06T10:15:00+02:00"},
			[2]string{"2026-07-06 10:15", "2026-07-06 10:15"})
	case record.Source:
		return pick([2]string{"Event", "event"}, [2]string{"daily", "daily"})
	case record.YesNo:
		return pick([2]string{"Yes", "yes"}, [2]string{"no", "no"})
	case record.Colour:
		return pick([2]string{"Plum", "plum"}, [2]string{"teal", "teal"})
	}
	text := rapid.StringMatching(`[A-Za-z0-9,"' ☂\n-]{0,6}[A-Za-z0-9"☂]`).Draw(t, "text")
	return text, strings.TrimSpace(text)
}

// Whatever kind a file is of, whatever columns it has and in whatever order: every record comes back as it was
// written, once.
func TestEveryRecordComesBackAsItWasWritten(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		kind := rapid.SampledFrom(record.Kinds()).Draw(t, "kind")
		columns := slices.Clone(kind.Columns[:kind.Keys])
		for _, c := range kind.Columns[kind.Keys:] {
			if rapid.Bool().Draw(t, "has "+c.Name) {
				columns = append(columns, c)
			}
		}
		if kind.OfOrder() {
			columns = rapid.Permutation(columns).Draw(t, "columns")
		}
		var text strings.Builder
		out := csv.NewWriter(&text)
		out.UseCRLF = rapid.Bool().Draw(t, "CR LF")
		header := make([]string, len(columns))
		for i, c := range columns {
			header[i] = rapid.SampledFrom([]string{c.Name, strings.ToUpper(c.Name), " " + strings.ReplaceAll(c.Name, "-", " "),
				strings.ReplaceAll(c.Name, "-", "_")}).Draw(t, "title")
		}
		require.NoError(t, out.Write(header))
		var want []read
		seen := map[string]bool{}
		for range rapid.IntRange(0, 5).Draw(t, "rows") {
			row, kept := make([]string, len(columns)), read{}
			for i, c := range columns {
				if kind.Column(c.Name) < kind.Keys || rapid.IntRange(0, 3).Draw(t, "filled") > 0 {
					row[i], kept[c.Name] = drawCell(t, c.Type)
				}
			}
			key := ""
			for _, c := range kind.Columns[:kind.Keys] {
				key += "\x1f" + kept[c.Name]
			}
			if seen[key] {
				continue
			}
			seen[key] = true
			require.NoError(t, out.Write(row))
			want = append(want, kept)
		}
		out.Flush()

		opened, err := tableOf(text.String())
		require.NoError(t, err)
		table, err := NewTableReader("file.csv", opened, nothingKnown, Reading{NotKnown: []string{NoMark}})
		require.NoError(t, err, text.String())
		require.Len(t, table.Parts(), 1, text.String())
		require.Same(t, kind, table.Parts()[0].Kind, text.String())
		var got []read
		for {
			rows, err := table.Next()
			if errors.Is(err, io.EOF) {
				break
			}
			require.NoError(t, err, text.String())
			got = append(got, cells(table.Parts()[0], rows[0]))
		}
		for _, kept := range want {
			for name, value := range kept { // CSV has one line end inside cells
				kept[name] = strings.ReplaceAll(value, "\r\n", "\n")
			}
		}
		require.Equal(t, want, got, text.String())
		require.Zero(t, table.Repeated())
	})
}
