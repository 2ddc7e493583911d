package leg

import (
	"testing"
	"time"

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
	plan := Leg{named("ordered"), named("promised")}
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
		{"end before start, one-way", oneWay, Dates{Start: 10, RawStart: 10, End: 8}, EndBeforeStart, "ship date before order date"},
		{"no end", oneWay, Dates{Start: 10, RawStart: 10}, Running, "still running"},
		{"cancelled on the start", oneWay, Dates{Start: 10, RawStart: 10, Cancelled: 10}, Cancelled, "cancelled"},
		{"cancelled before the start", oneWay, Dates{Start: 10, RawStart: 10, Cancelled: 9}, CancelledBeforeStart,
			"cancelled before the order date"},
		{"no start", oneWay, Dates{End: 12}, NoStart, "without order date"},
		{"start after the data date", oneWay, Dates{RawStart: 99}, NotYetBegun, "not yet begun"},
		{"a plan that is missing is waited for by nobody", plan, Dates{Start: 10, RawStart: 10}, NoEnd, "without promised date"},
		{"nor of a cancelled order", plan, Dates{Start: 10, RawStart: 10, Cancelled: 12}, NoEnd, "without promised date"},
		{"a plan for the data date", twoWay, Dates{Start: 20, RawStart: 20}, Running, "still running"},
		{"a plan for the day after it", twoWay, Dates{Start: 21, RawStart: 21}, NotYetBegun, "not yet begun"},
		{"that was cancelled", twoWay, Dates{Start: 21, RawStart: 21, Cancelled: 12}, CancelledBeforeStart, "cancelled before the promised date"},
		{"a plan that was kept ahead of time", twoWay, Dates{Start: 21, RawStart: 21, End: 19}, Negative, "counted"},
	} {
		got := tt.leg.Decider(20).State(tt.days)
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
		HalfDays: []calendar.HalfDay{{NamedDay: calendar.NamedDay{Day: parse(t, "2026-12-24")},
			Hours: calendar.Hours{{From: 8 * 3600, To: 12 * 3600}}}},
	})
	require.NoError(t, err)
	for _, tt := range []struct {
		measure    Measure
		start, end string
		line       string
	}{
		{Measure{Unit: WorkingDays, Rule: Elapsed}, "2026-06-29", "2026-07-10",
			"06-29 to 07-10: 12 days = 1 start + 8 counted + 1 holiday + 2 weekend"},
		{Measure{Unit: WorkingDays, Rule: BothEnds}, "2026-06-29", "2026-07-10",
			"06-29 to 07-10: 12 days = 9 counted + 1 holiday + 2 weekend"},
		{Measure{Unit: WorkingDays, Rule: Elapsed}, "2026-07-10", "2026-07-11", "07-10 to 07-11: 2 days = 1 start + 1 extra working day"},
		{Measure{Unit: WorkingDays, Rule: Elapsed}, "2026-12-23", "2026-12-24", "12-23 to 12-24: 2 days = 1 start + 1 half day"},
		{Measure{Unit: Days, Rule: Elapsed}, "2025-12-31", "2026-01-01", "2025-12-31 to 2026-01-01: 2 days = 1 start + 1 counted"},
		{Measure{Unit: Days, Rule: BothEnds}, "2026-07-02", "2026-07-02", "07-02 to 07-02: 1 day = 1 counted"},
		{Measure{Unit: WorkingDays, Rule: Elapsed}, "2026-07-03", "2026-07-02",
			"07-02 to 07-03: 2 days = 1 start + 1 counted, counted backwards"},
		{Measure{Unit: Weeks, Rule: Elapsed}, "2026-06-29", "2026-07-10",
			"06-29 to 07-10: 12 days = 1 start + 11 counted; 11 / 7 = 1.57 weeks"},
		{Measure{Unit: Months, Rule: Elapsed}, "2026-01-31", "2026-02-27",
			"01-31 to 02-27: 28 days = 1 start + 27 counted; 0 months to 2026-01-31, and the next is complete on 2026-02-28"},
		{Measure{Unit: MonthsFraction, Rule: Elapsed}, "2026-01-31", "2026-02-27",
			"01-31 to 02-27: 28 days = 1 start + 27 counted; 0 months to 2026-01-31, then 27 of 28 days"},
		{Measure{Unit: MonthsCrossed, Rule: Elapsed}, "2026-01-31", "2026-02-27",
			"01-31 to 02-27: 28 days = 1 start + 27 counted; 1 end of a month in between"},
	} {
		s := tt.measure.Strip(calendar.Local{Calendar: c}, Stretch{Start: parse(t, tt.start), End: parse(t, tt.end)})
		assert.Equal(t, tt.line, s.String())
	}
	holiday := Measure{Unit: WorkingDays, Rule: Elapsed}.Strip(calendar.Local{Calendar: c},
		Stretch{Start: parse(t, "2026-06-29"), End: parse(t, "2026-07-10")}).Cells[2]
	assert.Equal(t, Cell{parse(t, "2026-07-01"), Holiday, "Canada Day", 0}, holiday)
}

// The cut-off of semantics §1: an order of Friday evening counts as one of Monday.
func TestAStartAfterTheCutOffCountsAsTheNextWorkingDay(t *testing.T) {
	c, err := calendar.New(calendar.Definition{Name: "plain"})
	require.NoError(t, err)
	friday, monday := parse(t, "2026-07-03"), parse(t, "2026-07-06")
	for _, tt := range []struct {
		measure Measure
		end     day.Day
		want    int
		line    string
	}{
		{Measure{Unit: WorkingDays, Rule: Elapsed}, monday + 2, 2, "07-03 to 07-08: 6 days = 3 after cut-off + 1 start + 2 counted"},
		{Measure{Unit: WorkingDays, Rule: BothEnds}, monday + 2, 3, "07-03 to 07-08: 6 days = 3 after cut-off + 3 counted"},
		{Measure{Unit: Days, Rule: Elapsed}, monday + 2, 5, "07-03 to 07-08: 6 days = 1 start + 5 counted"},
		{Measure{Unit: WorkingDays, Rule: BothEnds}, friday + 1, 0, "07-03 to 07-04: 2 days = 2 after cut-off"},
		{Measure{Unit: WorkingDays, Rule: BothEnds}, monday, 1, "07-03 to 07-06: 4 days = 3 after cut-off + 1 counted"},
		{Measure{Unit: WorkingDays, Rule: BothEnds}, friday, 0, "07-03 to 07-03: 1 day = 1 after cut-off"},
		{Measure{Unit: Weeks, Rule: Elapsed}, monday + 4, 7, "07-03 to 07-10: 8 days = 1 start + 7 counted; 7 / 7 = 1 weeks"},
	} {
		s := tt.measure.Strip(calendar.Local{Calendar: c}, Stretch{Start: friday, Moved: monday, End: tt.end})
		assert.Equal(t, tt.want, s.Length, tt.line)
		assert.Equal(t, tt.line, s.String())
	}
}

// Only the days that are counted ask for holidays: from the start as the cut-off has it, or the end alone.
func TestHolidaysAreAskedForWhereDaysAreCounted(t *testing.T) {
	first := parse(t, "2027-01-01") // a Friday
	c, err := calendar.New(calendar.Definition{Name: "next year's", Coverage: day.Through(first, first+364)})
	require.NoError(t, err)
	for _, tt := range []struct {
		start, moved, end day.Day
		unit              Unit
		unknown           bool
	}{
		{first, 0, first + 364, WorkingDays, false},
		{first, 0, first + 365, WorkingDays, true},
		{first - 1, 0, first, WorkingDays, true},
		{first - 1, 0, first, Days, false},
		{first - 1, first, first + 1, WorkingDays, false},
		{first - 1, first + 3, first, WorkingDays, false}, // only the moved start is after the end: nothing is counted
		{first - 2, first - 1, first, WorkingDays, true},
	} {
		assert.Equal(t, tt.unknown, Measure{Unit: tt.unit}.HolidaysUnknown(c, Stretch{Start: tt.start, Moved: tt.moved, End: tt.end}),
			"%+v", tt)
	}
}

func TestBothEndsAreRefusedWithAReason(t *testing.T) {
	for u := range units {
		err := Measure{Unit: u, Rule: BothEnds}.Check()
		assert.NoError(t, Measure{Unit: u, Rule: Elapsed}.Check())
		if u == Days || u == WorkingDays || u == Weeks {
			assert.NoError(t, err)
			continue
		}
		var refused *RefusedError
		require.ErrorAs(t, err, &refused)
		assert.Contains(t, err.Error(), refused.Reason)
		assert.NotEmpty(t, refused.Reason)
	}
}

func TestLengthsInWords(t *testing.T) {
	for _, tt := range []struct {
		unit  Unit
		ticks int
		words string
	}{
		{Days, 1, "1 day"}, {Days, -1, "-1 days"}, {WorkingDays, 8, "8 working days"}, {Weeks, 7, "1 week"}, {Weeks, 11, "1.57 weeks"},
		{Months, 1, "1 month completed"}, {MonthsCrossed, 0, "0 months crossed"}, {MonthsFraction, 27 * stepsOfMonth / 28,
			"0.96 months with fractions"},
		{Hours, 3600, "1 hour"}, {WorkingHours, 5400, "1.50 working hours"},
	} {
		assert.Equal(t, tt.words, tt.unit.Length(tt.ticks))
	}
	// A bound that was typed with few digits means the length beside it.
	for u := range units {
		for _, ticks := range []int{-8, 0, 1, 11, 40_000} {
			assert.Equal(t, ticks, u.TicksAtLeast(u.Number(ticks)), u)
			assert.Equal(t, ticks, u.TicksAtMost(u.Number(ticks)), u)
		}
		named, err := ParseUnit(u.String())
		require.NoError(t, err)
		assert.Equal(t, u, named)
	}
	assert.Equal(t, []int{18, 17}, []int{Weeks.TicksAtLeast(2.5), Weeks.TicksAtMost(2.5)})
}

// site is the calendar of the worked examples in hours, half past eight to half past four with a break, where a
// site keeps it.
func site(t *testing.T, zone string, week calendar.Week) calendar.Local {
	hours, err := calendar.ParseHours("08:30-12:00 12:30-16:30")
	require.NoError(t, err)
	c, err := calendar.New(calendar.Definition{Name: zone, Patterns: []calendar.Pattern{{From: 1, Week: week}},
		Hours: []calendar.DailyHours{{From: 1, Hours: hours}}})
	require.NoError(t, err)
	location, err := time.LoadLocation(zone)
	require.NoError(t, err)
	return calendar.Local{Calendar: c, Zone: location}
}

// Clocks go forward in Galway on 2026-03-29 and back on 2026-10-25, in Hamilton back on 2026-04-05 and forward on
// 2026-09-27, in Saskatoon never.
func TestHoursAcrossTheChangesOfTheClocks(t *testing.T) {
	const everyDay, mondayToFriday = 0x7f, calendar.MondayToFriday
	for _, tt := range []struct {
		zone           string
		week           calendar.Week
		start, end     string
		hours, working float64
	}{
		{"Europe/Dublin", mondayToFriday, "2026-03-27T15:30", "2026-03-30T09:00", 64.5, 1.5},
		{"Europe/Dublin", mondayToFriday, "2026-10-23T15:30", "2026-10-26T09:00", 66.5, 1.5},
		{"Pacific/Auckland", mondayToFriday, "2026-04-03T15:30", "2026-04-06T09:00", 66.5, 1.5},
		{"Pacific/Auckland", mondayToFriday, "2026-09-25T15:30", "2026-09-28T09:00", 64.5, 1.5},
		{"America/Regina", mondayToFriday, "2026-03-06T15:30", "2026-03-09T09:00", 65.5, 1.5},
		{"Europe/Dublin", everyDay, "2026-03-29T00:00", "2026-03-30T00:00", 23, 7.5},
		{"Europe/Dublin", everyDay, "2026-10-25T00:30", "2026-10-25T12:15", 12.75, 3.5},
		{"Europe/Dublin", everyDay, "2026-07-06T16:00", "2026-07-06T10:00", -6, -5.5},
	} {
		on := site(t, tt.zone, tt.week)
		at := func(text string) (day.Day, day.Instant) {
			m, err := day.ParseMoment(text)
			require.NoError(t, err)
			return m.In(on.Zone)
		}
		var s Stretch
		s.Start, s.StartAt = at(tt.start)
		s.End, s.EndAt = at(tt.end)
		for unit, want := range map[Unit]float64{Hours: tt.hours, WorkingHours: tt.working} {
			got, state := Measure{Unit: unit}.Length(on, s)
			assert.Equal(t, Complete, state)
			assert.Equalf(t, want, unit.Number(got), "%v from %s to %s in %s", unit, tt.start, tt.end, tt.zone)
		}
	}
	on := site(t, "Europe/Dublin", mondayToFriday)
	start := parse(t, "2026-07-03")
	s := Stretch{Start: start, End: start + 3, StartAt: start.At(15*3600+1800, on.Zone), EndAt: (start + 3).At(9*3600, on.Zone)}
	assert.Equal(t, "07-03 to 07-06: 4 days = 2 worked + 2 weekend; 1.50 working hours = 1 + 0.50",
		Measure{Unit: WorkingHours}.Strip(on, s).String())
	assert.Equal(t, "07-03 to 07-06: 4 days = 4 counted; 65.50 hours = 8.50 + 24 + 24 + 9", Measure{Unit: Hours}.Strip(on, s).String())
	for name, lacks := range map[State]Stretch{NoTime: {Start: start, End: start + 3, StartAt: s.StartAt}, NoHours: s} {
		where := on
		if name == NoHours {
			where.Zone = nil
		}
		_, state := Measure{Unit: WorkingHours}.Length(where, lacks)
		assert.Equal(t, name, state)
		assert.Empty(t, Measure{Unit: WorkingHours}.Strip(where, lacks).Cells)
	}
}

// Every unit and rule: the strip adds up to the length, and turning a stretch round turns its sign.
func TestStripAddsUpToTheLength(t *testing.T) {
	zone, err := time.LoadLocation("Pacific/Auckland")
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		anyDay := rapid.Custom(func(t *rapid.T) day.Day { return day.Day(rapid.Int32Range(46100, 46200).Draw(t, "day")) })
		hours := calendar.Hours{{From: 8 * 3600, To: 12 * 3600}, {From: 13 * 3600, To: 17 * 3600}}
		def := calendar.Definition{Name: "drawn", Patterns: []calendar.Pattern{{From: 1,
			Week: calendar.Week(rapid.IntRange(1, 127).Draw(t, "week"))}},
			Hours: []calendar.DailyHours{{From: 1, Hours: hours}}}
		for range rapid.IntRange(0, 10).Draw(t, "named days") {
			def.Holidays = append(def.Holidays, calendar.NamedDay{Day: anyDay.Draw(t, "holiday")})
			def.Extra = append(def.Extra, calendar.NamedDay{Day: anyDay.Draw(t, "extra")})
			def.HalfDays = append(def.HalfDays, calendar.HalfDay{NamedDay: calendar.NamedDay{Day: anyDay.Draw(t, "half")},
				Hours: hours[:1]})
		}
		c, err := calendar.New(def)
		require.NoError(t, err)
		on := calendar.Local{Calendar: c, Zone: zone}
		m := Measure{Unit: Unit(rapid.IntRange(0, int(units)-1).Draw(t, "unit")), Rule: Rule(rapid.IntRange(0, 1).Draw(t, "rule"))}
		if m.Check() != nil {
			m.Rule = Elapsed
		}
		stretch := Stretch{Start: anyDay.Draw(t, "start"), End: anyDay.Draw(t, "end")}
		stretch.StartAt = stretch.Start.At(60*rapid.IntRange(0, 1439).Draw(t, "minute"), zone)
		stretch.EndAt = stretch.End.At(60*rapid.IntRange(0, 1439).Draw(t, "minute"), zone)
		s := m.Strip(on, stretch)
		length, _ := m.Length(on, stretch)
		round, _ := m.Length(on, Stretch{Start: stretch.End, End: stretch.Start, StartAt: stretch.EndAt, EndAt: stretch.StartAt})
		if round != -length && !(m.Rule == BothEnds && stretch.Start == stretch.End) {
			t.Fatalf("%v from %v to %v is %d, and %d the other way", m, stretch.Start, stretch.End, length, round)
		}
		sum := 0
		for _, cell := range s.Cells {
			switch {
			case m.Unit.Timed():
				sum += cell.Seconds
			case cell.Part.Counts():
				sum++
			}
		}
		if s.Reversed {
			sum = -sum
		}
		if byDay := m.Unit == Days || m.Unit == WorkingDays || m.Unit == Weeks; (byDay || m.Unit.Timed()) && sum != length ||
			s.Length != length {
			t.Fatalf("%v from %v to %v: the strip adds up to %d, the length is %d", m, stretch.Start, stretch.End, sum, length)
		}
		if len(s.Cells) != max(int(stretch.End-stretch.Start), int(stretch.Start-stretch.End))+1 {
			t.Fatalf("%d cells from %v to %v", len(s.Cells), stretch.Start, stretch.End)
		}
	})
}
