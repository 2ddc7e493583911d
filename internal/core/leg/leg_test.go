package leg

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
)

func named(name string) milestone.Milestone {
	all := milestone.BuiltIn()
	if i := milestone.Index(all, name); i >= 0 {
		return all[i]
	}
	return milestone.Milestone{Name: name}
}

func TestWhichLegsMayRunBackwards(t *testing.T) {
	for _, tt := range []struct {
		from, to string
		twoWay   bool
	}{
		{"ordered", "shipped", false},
		{"ordered", "promised", false},
		{"ordered", "paid", false},
		{"shipped", "delivered", false},
		{"shipped", "returned", false},
		{"promised", "shipped", true},
		{"shipped", "expected", true},
		{"shipped", "paid", true},
		{"delivered", "invoiced", true},
		{"paid", "shipped", false},
	} {
		assert.Equalf(t, tt.twoWay, Leg{named(tt.from), named(tt.to)}.TwoWay(), "%s → %s", tt.from, tt.to)
	}
}

// The table of semantics §2, state by state.
func TestStates(t *testing.T) {
	oneWay := Leg{named("ordered"), named("shipped")}
	twoWay := Leg{named("promised"), named("shipped")}
	for _, tt := range []struct {
		name  string
		leg   Leg
		days  Dates
		want  State
		label string
	}{
		{"end after start", oneWay, Dates{Start: 10, RawStart: 10, End: 12}, Complete, "counted"},
		{"end on start", oneWay, Dates{Start: 10, RawStart: 10, End: 10}, Complete, "counted"},
		{"complete though cancelled between", oneWay, Dates{Start: 10, RawStart: 10, End: 12, Cancelled: 11}, Complete, "counted"},
		{"end before start, two-way", twoWay, Dates{Start: 10, RawStart: 10, End: 8}, Negative, "counted"},
		{"end before start, one-way", oneWay, Dates{Start: 10, RawStart: 10, End: 8}, EndBeforeStart, "`shipped` before `ordered`"},
		{"no end", oneWay, Dates{Start: 10, RawStart: 10}, Running, "still running"},
		{"cancelled on the start", oneWay, Dates{Start: 10, RawStart: 10, Cancelled: 10}, Cancelled, "cancelled"},
		{"cancelled before the start", oneWay, Dates{Start: 10, RawStart: 10, Cancelled: 9}, CancelledBeforeStart, "cancelled before `ordered`"},
		{"no start", oneWay, Dates{End: 12}, NoStart, "no `ordered` day"},
		{"start after the data date", oneWay, Dates{RawStart: 99}, NotYetBegun, "not yet begun"},
	} {
		got := tt.leg.State(tt.days)
		assert.Equal(t, tt.want, got, tt.name)
		assert.Equal(t, tt.label, tt.leg.Label(got), tt.name)
		parsed, err := ParseState(got.String())
		require.NoError(t, err)
		assert.Equal(t, got, parsed)
	}
}

func parse(t *testing.T, text string) day.Day {
	d, err := day.Parse(text)
	require.NoError(t, err)
	return d
}

func TestStripOfTheWorkedExample(t *testing.T) {
	c, err := calendar.New(calendar.Definition{
		Name:     "example",
		Holidays: []calendar.NamedDay{{Day: parse(t, "2026-07-01"), Name: "Canada Day"}},
		Extra:    []calendar.NamedDay{{Day: parse(t, "2026-07-11"), Name: "Stocktake"}},
	})
	require.NoError(t, err)
	for _, tt := range []struct {
		measure    Measure
		start, end string
		line       string
	}{
		{Measure{WorkingDays, Elapsed}, "2026-06-29", "2026-07-10", "06-29 to 07-10: 12 days = 1 start + 8 counted + 1 holiday + 2 weekend"},
		{Measure{WorkingDays, BothEnds}, "2026-06-29", "2026-07-10", "06-29 to 07-10: 12 days = 9 counted + 1 holiday + 2 weekend"},
		{Measure{WorkingDays, Elapsed}, "2026-07-10", "2026-07-11", "07-10 to 07-11: 2 days = 1 start + 1 extra working day"},
		{Measure{Days, Elapsed}, "2025-12-31", "2026-01-01", "2025-12-31 to 2026-01-01: 2 days = 1 start + 1 counted"},
		{Measure{Days, BothEnds}, "2026-07-02", "2026-07-02", "07-02 to 07-02: 1 day = 1 counted"},
		{Measure{WorkingDays, Elapsed}, "2026-07-03", "2026-07-02", "07-02 to 07-03: 2 days = 1 start + 1 counted, counted backwards"},
	} {
		s := tt.measure.Strip(c, parse(t, tt.start), parse(t, tt.end))
		assert.Equal(t, tt.line, s.String())
	}
	holiday := Measure{WorkingDays, Elapsed}.Strip(c, parse(t, "2026-06-29"), parse(t, "2026-07-10")).Cells[2]
	assert.Equal(t, Cell{parse(t, "2026-07-01"), Holiday, "Canada Day"}, holiday)
}

func TestStripAddsUpToTheLength(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		anyDay := rapid.Custom(func(t *rapid.T) day.Day { return day.Day(rapid.Int32Range(46000, 46100).Draw(t, "day")) })
		def := calendar.Definition{Name: "drawn", Patterns: []calendar.Pattern{{From: 1, Week: calendar.Week(rapid.IntRange(1, 127).Draw(t, "week"))}}}
		for range rapid.IntRange(0, 10).Draw(t, "named days") {
			def.Holidays = append(def.Holidays, calendar.NamedDay{Day: anyDay.Draw(t, "holiday")})
			def.Extra = append(def.Extra, calendar.NamedDay{Day: anyDay.Draw(t, "extra")})
		}
		c, err := calendar.New(def)
		require.NoError(t, err)
		m := Measure{Unit(rapid.IntRange(0, 1).Draw(t, "unit")), Rule(rapid.IntRange(0, 1).Draw(t, "rule"))}
		start, end := anyDay.Draw(t, "start"), anyDay.Draw(t, "end")
		s := m.Strip(c, start, end)
		if got, want := s.Length(), m.Length(c, start, end); got != want {
			t.Fatalf("%v %v from %v to %v: the strip adds up to %d, the length is %d", m.Unit, m.Rule, start, end, got, want)
		}
		if len(s.Cells) != max(int(end-start), int(start-end))+1 {
			t.Fatalf("%d cells from %v to %v", len(s.Cells), start, end)
		}
	})
}
