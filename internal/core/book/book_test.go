package book

import (
	"cmp"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
)

var milestones = []milestone.Milestone{{Name: milestone.Ordered}, {Name: milestone.Promised, Plan: true}, {Name: milestone.Shipped}}

func drawOrder(t *rapid.T, id int64) Order {
	anyDay := rapid.OneOf(rapid.Just(day.Day(0)), rapid.Custom(func(t *rapid.T) day.Day {
		return day.Day(rapid.Int32Range(46000, 46100).Draw(t, "day"))
	}))
	o := Order{ID: id, Number: fmt.Sprintf("N-%d", id), Days: []day.Day{anyDay.Draw(t, "ordered"), anyDay.Draw(t, "promised"), anyDay.Draw(t, "shipped")}}
	o.Valued = rapid.Bool().Draw(t, "valued")
	if o.Valued {
		o.Value = rapid.Int64Range(-5, 1e6).Draw(t, "value")
	}
	o.Findings = parts.Finding(rapid.Uint16().Draw(t, "findings"))
	text := rapid.SampledFrom([]string{"", "A", "B", "C"})
	for f := range Fields {
		o.Fields[f] = text.Draw(t, fieldNames[f])
	}
	o.Extra = []string{text.Draw(t, "hive-colour")}
	return o
}

// seen is the order as a book gives it back.
func seen(o Order) Order {
	if o.Fields[Place] != "" && o.Fields[Country] != "" {
		o.Fields[Place] += ", " + o.Fields[Country]
	}
	return o
}

// Any run of changes leaves a book that equals one built at once from the last state, and every earlier
// snapshot as it was.
func TestSnapshotsStayAsTheyWere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		model := []Order{}
		builder := NewBuilder(Layout{Milestones: milestones, Extra: []string{"hive-colour"}})
		type snapshot struct {
			book  *Book
			model []Order
		}
		var snapshots []snapshot
		for range rapid.IntRange(1, 4).Draw(t, "loads") {
			for range rapid.IntRange(0, 8).Draw(t, "puts") {
				at := rapid.IntRange(0, len(model)).Draw(t, "row")
				o := drawOrder(t, int64(10*at+10))
				if at == len(model) {
					model = append(model, o)
				} else {
					model[at] = o
				}
				builder.Put(o)
			}
			dataDate := day.Day(rapid.Int32Range(46000, 46100).Draw(t, "data date"))
			calendars, err := NewCalendars(nil)
			require.NoError(t, err)
			b := builder.Finish(Ends{Bounds: period.Bounds{DataDate: dataDate}, Calendars: calendars})
			snapshots = append(snapshots, snapshot{b, append([]Order(nil), model...)})
			builder = b.Next()
		}
		for _, s := range snapshots {
			require.Equal(t, len(s.model), s.book.Orders())
			for row, want := range s.model {
				require.Equal(t, seen(want), s.book.At(row))
				found, ok := s.book.Find(want.Number)
				require.True(t, ok)
				require.Equal(t, row, found)
				for m, raw := range want.Days {
					known := raw
					if !milestones[m].Plan && raw > s.book.Bounds().DataDate {
						known = 0
					}
					column := s.book.Blocks()[0].Columns[m]
					require.Equalf(t, known, column.Known[row], "known %s of row %d at %v", milestones[m].Name, row, s.book.Bounds().DataDate)
					if known != 0 {
						require.LessOrEqual(t, column.Low, known)
						require.GreaterOrEqual(t, column.High, known)
					}
				}
			}
		}
	})
}

func TestBlocksFillAndASmallLoadCopiesOnlyWhatItTouches(t *testing.T) {
	b := NewBuilder(Layout{Milestones: milestones, Extra: []string{"hive-colour"}})
	for id := range int64(2*BlockSize + 3) {
		b.Put(Order{ID: id, Number: fmt.Sprint(id), Days: []day.Day{46000, 0, 46005}})
	}
	calendars, err := NewCalendars(nil)
	require.NoError(t, err)
	first := b.Finish(Ends{Calendars: calendars})
	require.Len(t, first.Blocks(), 3)
	assert.Equal(t, 2*BlockSize+3, first.Orders())
	assert.Equal(t, period.Bounds{FirstDay: 46000, DataDate: 46005}, first.Bounds())

	next := first.Next()
	next.Put(Order{ID: BlockSize + 7, Number: "changed", Days: []day.Day{46000, 0, 0}})
	second := next.Finish(Ends{Bounds: first.Bounds(), Calendars: calendars})
	assert.Same(t, first.Blocks()[0], second.Blocks()[0])
	assert.NotSame(t, first.Blocks()[1], second.Blocks()[1])
	assert.Same(t, first.Blocks()[2], second.Blocks()[2])
	row, found := second.Find("changed")
	assert.True(t, found)
	assert.Equal(t, BlockSize+7, row)
	assert.Panics(t, func() { second.Next().Put(Order{ID: -1, Days: make([]day.Day, 3)}) }, "identities only grow")
}

func TestSitesFindTheirCalendars(t *testing.T) {
	galway, err := calendar.New(calendar.Definition{Name: "Galway"})
	require.NoError(t, err)
	fallback, err := calendar.New(calendar.Definition{Name: "Default", Patterns: []calendar.Pattern{{From: 1, Week: 1}}})
	require.NoError(t, err)
	for _, tt := range []struct {
		name   string
		loaded []*calendar.Calendar
		week   calendar.Week
	}{
		{"no default loaded", []*calendar.Calendar{galway}, calendar.MondayToFriday},
		{"a default loaded", []*calendar.Calendar{galway, fallback}, 1},
	} {
		calendars, err := NewCalendars(tt.loaded)
		require.NoError(t, err)
		b := NewBuilder(Layout{Milestones: milestones, Extra: []string{"hive-colour"}})
		for i, site := range []string{"GALWAY", "Nowhere", ""} {
			o := Order{ID: int64(i), Number: site, Days: make([]day.Day, 3)}
			o.Fields[Site] = site
			b.Put(o)
		}
		finished := b.Finish(Ends{Calendars: calendars})
		for row, want := range []bool{true, false, false} {
			c, named := finished.SiteCalendar(finished.Blocks()[0].Codes[Site][row])
			assert.Equalf(t, want, named, "%s: row %d", tt.name, row)
			if !named {
				assert.Equalf(t, tt.week, c.Week(46000), "%s: row %d", tt.name, row)
			}
		}
	}
}

func TestNumbersSortNaturally(t *testing.T) {
	sorted := []string{"", "7", "9", "10", "10-2", "10-10", "SD-2", "SD-02", "SD-10", "SD-A"}
	for i, a := range sorted {
		for j, b := range sorted {
			assert.Equalf(t, cmp.Compare(i, j), CompareNumbers(a, b), "CompareNumbers(%q, %q)", a, b)
		}
	}
}
