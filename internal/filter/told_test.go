package filter

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/statuses"
)

// toldBook is a book whose statuses are told: one order came back, one is at its end, one has stood for long, one has no record.
func toldBook(t *testing.T) *book.Book {
	builder := book.NewBuilder(book.BuiltIn())
	for id, records := range [][]string{{"new", "held", "new", "held"}, {"new", "done"}, {"new"}, {}} {
		o := book.Order{ID: int64(id + 1), Number: fmt.Sprint("N", id+1), Days: make([]day.Day, len(milestone.BuiltIn()))}
		for i, name := range records {
			o.Statuses = append(o.Statuses, parts.StatusRecord{Status: name, At: parts.Day{Day: day.Of(2026, 6, 1) + day.Day(i)}})
		}
		builder.Put(o)
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	return statuses.Derive(builder.Finish(book.Settings{Bounds: period.Bounds{FirstDay: day.Of(2026, 6, 1),
		DataDate: day.Of(2026, 6, 12)}, Calendars: calendars,
		Statuses: []book.StatusSetting{{Name: "done", Final: true}}}))
}

// Statuses, their age and returns are fields and numbers like others: compared, missing where they are, and named as what an
// order lacks.
func TestToldFieldsAndNumbers(t *testing.T) {
	b := toldBook(t)
	const f, y, u = predicate.False, predicate.True, predicate.Undecided
	for text, want := range map[string][4]predicate.Truth{
		`status == "held"`:                   {y, f, f, f},
		`status == null`:                     {f, f, f, y},
		`status_since >= "2026-06-02"`:       {y, y, f, u},
		`returns > 0`:                        {y, f, f, u},
		`returns == 2`:                       {y, f, f, f},
		`status_age >= 9`:                    {f, u, y, u},
		`status_age == null`:                 {f, y, f, y},
		`status_age == 6 || number == "N4"`:  {y, f, f, y},
		`!(returns == 0) && status != "new"`: {y, f, f, y},
		`statuses.exists(s, s.status == "new" && s.at > "2026-06-01")`: {y, f, f, f},
		`size(statuses) > 1`: {y, y, f, f},
	} {
		c, err := Parse(b, text)
		require.NoError(t, err, text)
		bound := predicate.Bind(b, c.Predicate, decimals)
		for row, truth := range want {
			assert.Equal(t, truth, bound.One(b.Blocks()[0], row), "%s of N%d", text, row+1)
			if truth == u {
				assert.Contains(t, []string{"status-since", "status-age", "returns"}, bound.Lacks(b.Blocks()[0], row), text)
			}
		}
	}
	picks, joined, err := Picks(b, `returns > 0 && status_age >= 9 && status == "held"`)
	require.NoError(t, err)
	assert.Equal(t, "&&", joined)
	require.Len(t, picks, 3)
	assert.Equal(t, "returns", picks[0].Subject)
	assert.Equal(t, "number", picks[1].Kind)
	_, err = Parse(b, `returns == "2"`)
	assert.ErrorContains(t, err, "a number cannot be compared with a text")

	q, err := duration.Parse(b, duration.Request{})
	require.NoError(t, err)
	columns, err := ParseColumns(b, q, `number, status, status-since, status-age, returns as "came back"`)
	require.NoError(t, err)
	sort, err := ParseSort(b, q, columns, "-status-age")
	require.NoError(t, err)
	answer, err := list.Ask(b, list.Request{Question: q, Columns: columns, Sort: sort, Decimals: decimals})
	require.NoError(t, err)
	var rows [][]string
	for i := range answer.Len() {
		var cells []string
		for _, c := range answer.Row(i).Cells {
			cells = append(cells, c.Text)
		}
		rows = append(rows, cells)
	}
	assert.Equal(t, [][]string{{"N3", "new", "2026-06-01", "9", "0"}, {"N1", "held", "2026-06-04", "6", "2"},
		{"N2", "done", "2026-06-02", "", "0"}, {"N4", "", "", "", ""}}, rows)
}
