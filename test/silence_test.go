package test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
)

// No two days are missing alike: G/1 has both and they are the same, G/2 has one, G/3 none, G/4 two that differ.
const gaps = "number,site,ordered,requested,shipped,delivered,cancelled\n" +
	"G/1,Galway,2026-07-01,2026-07-01,2026-07-08,2026-07-08,\n" +
	"G/2,Galway,2026-07-02,,2026-07-09,,\n" +
	"G/3,Muscat,2026-07-03,,,,\n" +
	"G/4,Muscat,2026-07-06,2026-07-07,2026-07-13,2026-07-14,\n"

// What is missing equals nothing and differs from all else, wherever a condition stands; where that selects orders, the answer
// says how many.
func TestWhatIsMissingEqualsNothing(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv", gaps)})
	require.NoError(t, err)
	for where, want := range map[string]struct {
		orders  []string
		lacking int
	}{
		"shipped == delivered":                         {[]string{"G/1"}, 0},
		"shipped != delivered":                         {[]string{"G/2", "G/3", "G/4"}, 2},
		"!(shipped == delivered)":                      {[]string{"G/2", "G/3", "G/4"}, 0},
		`shipped in ["2026-07-08", "2026-07-09"]`:      {[]string{"G/1", "G/2"}, 0},
		"delivered != null":                            {[]string{"G/1", "G/4"}, 0},
		`ordered == requested || shipped != requested`: {[]string{"G/1", "G/2", "G/3", "G/4"}, 2},
	} {
		highlighted := selection{Columns: "number, " + where + ` as "Is"`, Highlights: []string{"plum: " + where}}
		all, err := s.list(t, question{}, highlighted)
		require.NoError(t, err, where)
		var shown, coloured []string
		for _, row := range all.Rows {
			if row.Cells[1].Text == "yes" {
				shown = append(shown, row.Order)
			}
			if row.Highlight > 0 {
				coloured = append(coloured, row.Order)
			}
		}
		assert.Equal(t, want.orders, shown, "the column %s", where)
		assert.Equal(t, want.orders, coloured, "the highlight %s", where)

		list, err := s.list(t, question{Where: where}, selection{})
		require.NoError(t, err)
		var picked []string
		for _, row := range list.Rows {
			picked = append(picked, row.Order)
		}
		assert.Equal(t, want.orders, picked, "where %s", where)
		assert.Equal(t, want.lacking, note(s.took(t, question{Where: where}).Parts[0], "unequal-missing"), "the note on %s", where)

		share := s.cells(t, "show", "share", "meets", where)
		assert.Equal(t, []int{len(want.orders), 4}, []int{share.count(share.total(), "total some"),
			share.count(share.total(), "total n")}, "the share %s", where)

		label, err := s.TryLabel(t.Context(), "same", api.LabelDefinition{Rules: []api.LabelRule{{Where: where, Text: "is"}},
			Rest: "is not"})
		require.NoError(t, err)
		assert.Contains(t, label.Counts, api.LabelCount{Text: "is", Orders: len(want.orders)}, "the label %s", where)
	}
}

// A row whose orders have no length yet stays, and says how many there are.
func TestRowsWithoutALengthStay(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv",
		"number,site,ordered,shipped\nN/1,Galway,2026-07-01,2026-07-03\nN/2,Muscat,2026-07-02,\nN/3,Muscat,2026-07-03,\n")})
	require.NoError(t, err)
	sites := s.cells(t, "show", "mean", "rows", "site")
	require.Len(t, sites.Rows, 2)
	none := sites.cell(sites.Rows[1], "total")
	assert.Equal(t, []any{"Muscat", "none of 2", 2}, []any{sites.Rows[1].Cells[0].Text, none.Text, s.behind(t, none)})
	assert.Nil(t, none.Number)
}

// Ages stand at the last day of the period asked about; an order that was cancelled before it was ordered was never open, even
// where it shipped.
func TestAgesOfAPeriodAndOddOrders(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv", "number,site,ordered,shipped,cancelled\n"+
		"O/1,Galway,2026-07-01,,\nO/2,Galway,2026-07-30,2026-08-05,\nO/3,Galway,2026-07-31,,\nO/4,Galway,2026-08-01,2026-08-06,\nO/5,Galway,2026-07-20,2026-07-22,2026-07-10\n")})
	require.NoError(t, err)
	d := s.ask(t, "/open", "ages", "true", "period", "2026-07", "in", "days")
	assert.Contains(t, d.Asked(), "at the end of 2026-07-31")
	ages := gridOf(t, d.Parts[0], "ages")
	assert.Equal(t, []any{3, 1.0}, []any{ages.count(ages.total(), "open"), ages.number(ages.total(), "median")}, "30 days, 1 and 0")
	assert.Contains(t, s.refuses(t, "/open", "ages", "true", "period", "2026-07,2026-08"), "period")
	open := s.ask(t, "/open", "period", "2026-07").Parts[0]
	assert.Equal(t, 1, listed(open, "cancelled-before-start"))
	assert.Contains(t, open.Lines[0].Text, "cancelled before the order date")
}

// Files of one load say together what a calendar is, in whatever order they come; where they contradict, nothing of them is kept.
func TestTwoFilesOfOneCalendar(t *testing.T) {
	week := write(t, "week.csv", "calendar,kind,day,name,weekdays\nGalway,week,,,Mon Tue Wed Thu\n")
	fair := write(t, "fair.csv", "calendar,kind,day,name,weekdays\nGalway,holiday,2026-07-01,Fair day,\n")
	orders := write(t, "orders.csv", "number,site,ordered,shipped\nC/1,Galway,2026-06-29,2026-07-06\n")
	for _, files := range [][]string{{week, fair, orders}, {orders, fair, week}} {
		s := startService(t)
		_, err := s.Load(t.Context(), files)
		require.NoError(t, err)
		assert.Equal(t, map[string]any{"C/1": 3.0}, lengths(t, s, question{}), "Tuesday, Thursday and Monday")
		other := write(t, "other.csv", "calendar,kind,day,name,weekdays\nGalway,week,,,Sun Mon\n")
		_, err = s.Load(t.Context(), []string{week, other})
		assert.ErrorContains(t, err, "two files of one load say different things about its week")
		assert.Equal(t, map[string]any{"C/1": 3.0}, lengths(t, s, question{}))
		_, err = s.Load(t.Context(), []string{other})
		require.NoError(t, err)
		assert.NotEqual(t, map[string]any{"C/1": 3.0}, lengths(t, s, question{}), "a load by itself replaces it")
	}
}
