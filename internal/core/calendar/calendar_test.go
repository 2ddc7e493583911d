package calendar

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/day"
)

func d(t require.TestingT, text string) day.Day {
	v, err := day.Parse(text)
	require.NoError(t, err)
	return v
}

// julyFirst is the calendar of the worked examples: Monday to Friday, 2026-07-01 a holiday.
func julyFirst(t *testing.T) *Calendar {
	c, err := New(Definition{Name: "example", Holidays: []NamedDay{{Day: d(t, "2026-07-01"), Name: "Canada Day"}}})
	require.NoError(t, err)
	return c
}

// The table of semantics §3.
func TestLengthsOfTheWorkedTable(t *testing.T) {
	c := julyFirst(t)
	for _, tt := range []struct {
		start, end              string
		days, elapsed, bothEnds int
	}{
		{"2026-06-29", "2026-07-10", 11, 8, 9},
		{"2026-06-26", "2026-06-29", 3, 1, 2},
		{"2026-06-27", "2026-06-29", 2, 1, 1},
		{"2026-06-26", "2026-06-27", 1, 0, 1},
		{"2026-06-27", "2026-06-28", 1, 0, 0},
		{"2026-07-01", "2026-07-01", 0, 0, 0},
		{"2026-07-02", "2026-07-02", 0, 0, 1},
		{"2026-06-30", "2026-07-02", 2, 1, 2},
	} {
		start, end := d(t, tt.start), d(t, tt.end)
		name := tt.start + " to " + tt.end
		assert.Equal(t, tt.elapsed, c.Elapsed(start, end), name)
		assert.Equal(t, tt.bothEnds, c.BothEnds(start, end), name)
		assert.Equal(t, -tt.elapsed, c.Elapsed(end, start), name+", reversed")
		if start != end {
			assert.Equal(t, -tt.bothEnds, c.BothEnds(end, start), name+", reversed")
		}
		assert.Equal(t, tt.days, EveryDay().Elapsed(start, end), name)
		assert.Equal(t, tt.days+1, EveryDay().BothEnds(start, end), name)
	}
}

// The examples of semantics §3 about adding and latest start.
func TestAddingExamples(t *testing.T) {
	c := julyFirst(t)
	for _, tt := range []struct {
		start string
		n     int
		want  string
	}{
		{"2026-06-30", 1, "2026-07-02"},
		{"2026-06-27", 1, "2026-06-29"},
		{"2026-07-05", -3, "2026-06-30"},
		{"2026-07-05", 0, "2026-07-05"},
	} {
		got, err := c.Add(d(t, tt.start), tt.n, Keep)
		require.NoError(t, err)
		assert.Equalf(t, tt.want, got.String(), "Add(%s, %d)", tt.start, tt.n)
	}
	next, err := c.Add(d(t, "2026-07-05"), 0, Next)
	require.NoError(t, err)
	assert.Equal(t, "2026-07-06", next.String())
	previous, err := c.Add(d(t, "2026-07-01"), 0, Previous)
	require.NoError(t, err)
	assert.Equal(t, "2026-06-30", previous.String())

	latest, working, err := c.LatestStart(d(t, "2026-07-05"), 3)
	require.NoError(t, err)
	assert.Equal(t, "2026-06-29", latest.String())
	assert.Equal(t, "2026-06-29", working.String())
	latest, working, err = c.LatestStart(d(t, "2026-06-30"), 2)
	require.NoError(t, err)
	assert.Equal(t, "2026-06-28", latest.String(), "the Sunday still leaves Monday and Tuesday")
	assert.Equal(t, "2026-06-26", working.String())

	for _, n := range []int{100_000, -100_000} {
		_, err = c.Add(d(t, "2026-07-05"), n, Keep)
		assert.ErrorIs(t, err, ErrOutsideDays)
	}
}

func TestCoverageIsTheYearsThatSomebodyLookedUp(t *testing.T) {
	holiday := func(text string) NamedDay { return NamedDay{Day: d(t, text), Name: "holiday"} }
	yearly := NamedDay{Day: d(t, "2030-12-25"), Name: "Christmas Day", Unbounded: true}
	for _, tt := range []struct {
		name     string
		holidays []NamedDay
		want     string
	}{
		{"none", nil, ""},
		{"only a rule without an end", []NamedDay{yearly}, ""},
		{"one year", []NamedDay{holiday("2025-05-05"), yearly}, "2025-01-01 to 2025-12-31"},
		{"a day that was looked up, and that a rule has too", []NamedDay{holiday("2030-12-25"), yearly}, "2030-01-01 to 2030-12-31"},
		{"the other way round", []NamedDay{yearly, holiday("2030-12-25")}, "2030-01-01 to 2030-12-31"},
		{"years in a row", []NamedDay{holiday("2026-05-05"), holiday("2025-12-25")}, "2025-01-01 to 2026-12-31"},
		{"a year missing", []NamedDay{holiday("2020-01-01"), holiday("2025-01-01"), holiday("2026-01-01")},
			"2020-01-01 to 2020-12-31 and 2025-01-01 to 2026-12-31"},
		{"one stray New Year's Day", []NamedDay{holiday("2025-01-01"), holiday("2025-05-01"), holiday("2025-12-25"),
			holiday("2026-01-01")}, "2025-01-01 to 2025-12-31"},
		{"half of the usual number is enough", []NamedDay{holiday("2025-01-01"), holiday("2025-05-01"), holiday("2026-01-01")},
			"2025-01-01 to 2026-12-31"},
		{"the usual number is the median", []NamedDay{holiday("2024-01-01"), holiday("2025-01-01"), holiday("2025-05-01"),
			holiday("2026-01-01"), holiday("2026-05-01"), holiday("2026-05-02"), holiday("2026-05-03"), holiday("2026-05-04"),
			holiday("2026-05-05")}, "2025-01-01 to 2026-12-31"},
	} {
		c, err := New(Definition{Name: tt.name, Holidays: tt.holidays})
		require.NoError(t, err)
		assert.Equal(t, tt.want, c.CoverageWords(), tt.name)
	}
	derived := Definition{Name: "derived", Holidays: []NamedDay{holiday("2025-05-05")}}
	same := derived
	same.Coverage = day.Through(d(t, "2025-01-01"), d(t, "2025-12-31"))
	assert.False(t, Same(derived, same), "the next holiday makes its year known in one of them alone")
	assert.True(t, Same(same, same))
	stated, err := New(Definition{Name: "stated", Coverage: day.Through(d(t, "2026-03-01"), d(t, "2026-05-31"))})
	require.NoError(t, err)
	assert.Equal(t, "2026-03-01 to 2026-05-31", stated.CoverageWords())
	for text, known := range map[string]bool{"2026-02-28": false, "2026-03-01": true, "2026-05-31": true, "2026-06-01": false} {
		assert.Equal(t, known, stated.Known(d(t, text)), text)
	}
	c, err := New(Definition{Name: "gaps", Holidays: []NamedDay{holiday("2020-05-01"), holiday("2025-05-01")}})
	require.NoError(t, err)
	for days, covers := range map[[2]string]bool{{"2020-01-01", "2020-12-31"}: true, {"2020-12-31", "2021-01-01"}: false,
		{"2019-12-31", "2020-01-01"}: false, {"2020-05-01", "2025-05-01"}: false, {"2025-12-31", "2025-01-01"}: true} {
		assert.Equal(t, covers, c.Covers(d(t, days[0]), d(t, days[1])), days)
	}
}

func TestKindsOfDays(t *testing.T) {
	c, err := New(Definition{
		Name: "Hamilton",
		Holidays: []NamedDay{{Day: d(t, "2026-04-25"), Name: "ANZAC Day"}, {Day: d(t, "2026-04-27"), Name: "ANZAC Day (in lieu)"},
			{Day: d(t, "2026-04-27"), Name: "again"}},
		Extra: []NamedDay{{Day: d(t, "2026-05-02"), Name: "Stocktake"}},
	})
	require.NoError(t, err)
	for _, tt := range []struct {
		day  string
		kind Kind
		name string
	}{
		{"2026-04-24", Working, ""},
		{"2026-04-25", Weekend, "ANZAC Day"},
		{"2026-04-27", Holiday, "ANZAC Day (in lieu)"},
		{"2026-05-02", ExtraWorking, "Stocktake"},
	} {
		kind, name := c.Kind(d(t, tt.day))
		assert.Equalf(t, tt.kind, kind, "Kind(%s)", tt.day)
		assert.Equalf(t, tt.name, name, "Kind(%s)", tt.day)
		assert.Equal(t, kind == Working || kind == ExtraWorking, c.Works(d(t, tt.day)))
	}
}

func TestNewRefusesWhatCannotBeCounted(t *testing.T) {
	for _, tt := range []struct {
		def  Definition
		want string
	}{
		{Definition{Name: "idle", Patterns: []Pattern{{day.First, 0}}}, "at least one"},
		{Definition{Name: "torn", Patterns: []Pattern{{5, 1}, {5, 2}}}, "two weeks begin on 1900-01-05"},
		{Definition{Name: "half", HalfDays: []HalfDay{{NamedDay: NamedDay{Day: 5}}}}, "wants hours of its own"},
		{Definition{Name: "none", Hours: []DailyHours{{From: 5}}}, "are none"},
		{Definition{Name: "twice", Hours: []DailyHours{{5, Hours{{1, 2}}}, {5, Hours{{1, 3}}}}}, "two daily hours begin on 1900-01-05"},
		{Definition{Name: "far", Holidays: []NamedDay{{Day: day.Last + 1, Name: "later"}}}, "outside the supported days"},
	} {
		_, err := New(tt.def)
		assert.ErrorContains(t, err, tt.want)
	}
}

// drawCalendar draws any weekly pattern, patterns that change, holidays and extra days.
func drawCalendar(t *rapid.T) *Calendar {
	anyDay := func(label string) day.Day {
		return day.Day(rapid.Int32Range(45000, 45800).Draw(t, label))
	}
	named := func(label string) []NamedDay {
		return rapid.SliceOfN(rapid.Custom(func(t *rapid.T) NamedDay {
			return NamedDay{Day: day.Day(rapid.Int32Range(45000, 45800).Draw(t, label)), Name: label}
		}), 0, 60).Draw(t, label)
	}
	def := Definition{Name: "drawn", Holidays: named("holiday"), Extra: named("extra")}
	// Shifts begin and end where the clocks of no zone are put back, so that a walk by the clock means the same.
	shifts := []Hours{{{8 * 3600, 16*3600 + 1800}}, {{0, 4 * 3600}, {20 * 3600, 24 * 3600}}, {{0, 24 * 3600}},
		{{9 * 3600, 12 * 3600}, {13 * 3600, 17 * 3600}}}
	for range rapid.IntRange(0, 10).Draw(t, "halves") {
		half := HalfDay{NamedDay{Day: anyDay("half")}, rapid.SampledFrom(shifts).Draw(t, "hours")}
		if !slices.ContainsFunc(def.HalfDays, func(h HalfDay) bool { return h.Day == half.Day }) {
			def.HalfDays = append(def.HalfDays, half)
		}
	}
	for from := range map[day.Day]bool{anyDay("hours from"): true, anyDay("hours from"): true} {
		def.Hours = append(def.Hours, DailyHours{from, rapid.SampledFrom(shifts).Draw(t, "hours")})
	}
	used := map[day.Day]bool{}
	for range rapid.IntRange(1, 4).Draw(t, "patterns") {
		from := anyDay("pattern from")
		if !used[from] {
			def.Patterns = append(def.Patterns, Pattern{from, Week(rapid.IntRange(1, 127).Draw(t, "week"))})
		}
		used[from] = true
	}
	c, err := New(def)
	require.NoError(t, err)
	return c
}

// worksByHand decides one day from the definition alone.
func worksByHand(def Definition, at day.Day) bool {
	for _, e := range def.Extra {
		if e.Day == at {
			return true
		}
	}
	for _, h := range def.HalfDays {
		if h.Day == at {
			return true
		}
	}
	for _, h := range def.Holidays {
		if h.Day == at {
			return false
		}
	}
	week := def.Patterns[0].Week
	for _, p := range def.Patterns {
		if p.From <= at {
			week = p.Week
		}
	}
	return week>>(at.Time().Weekday())&1 == 1
}

func TestWorkingDaysAgreeWithAWalk(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := drawCalendar(t)
		start := day.Day(rapid.Int32Range(44900, 45900).Draw(t, "start"))
		end := start + day.Day(rapid.Int32Range(0, 400).Draw(t, "span"))
		elapsed, both := 0, 0
		for at := start; at <= end; at++ {
			if worksByHand(c.Definition(), at) {
				both++
				if at > start {
					elapsed++
				}
			}
		}
		if got := c.Elapsed(start, end); got != elapsed {
			t.Fatalf("Elapsed(%v, %v) = %d, want %d", start, end, got, elapsed)
		}
		if got := c.BothEnds(start, end); got != both {
			t.Fatalf("BothEnds(%v, %v) = %d, want %d", start, end, got, both)
		}
	})
}

func TestAddingAndLatestStartAgreeWithAWalk(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := drawCalendar(t)
		start := day.Day(rapid.Int32Range(45000, 45800).Draw(t, "start"))
		n := rapid.IntRange(1, 40).Draw(t, "n")
		step := func(from day.Day, by day.Day) day.Day {
			for left := n; left > 0; {
				from += by
				if worksByHand(c.Definition(), from) {
					left--
				}
			}
			return from
		}
		for sign, by := range map[int]day.Day{1: 1, -1: -1} {
			want := step(start, by)
			if got, err := c.Add(start, sign*n, Keep); err != nil || got != want {
				t.Fatalf("Add(%v, %d) = %v, %v, want %v", start, sign*n, got, err, want)
			}
		}
		latest := start
		for step(latest, 1) > start {
			latest--
		}
		working := latest
		for !worksByHand(c.Definition(), working) {
			working--
		}
		got, gotWorking, err := c.LatestStart(start, n)
		if err != nil || got != latest || gotWorking != working {
			t.Fatalf("LatestStart(%v, %d) = %v, %v, %v, want %v, %v", start, n, got, gotWorking, err, latest, working)
		}
	})
}

// hoursByHand are the hours of a day from the definition alone.
func hoursByHand(def Definition, at day.Day) Hours {
	for _, h := range def.HalfDays {
		if h.Day == at {
			return h.Hours
		}
	}
	hours := def.Hours[0].Hours
	for _, h := range def.Hours {
		if h.From <= at {
			hours = h.Hours
		}
	}
	return hours
}

func TestWorkingHoursAgreeWithAWalkMinuteByMinute(t *testing.T) {
	changes := []day.Day{d(t, "2026-03-29"), d(t, "2026-04-05"), d(t, "2026-09-27"), d(t, "2026-10-25")}
	rapid.Check(t, func(t *rapid.T) {
		c := drawCalendar(t)
		zone, err := time.LoadLocation(rapid.SampledFrom([]string{"Europe/Dublin", "Pacific/Auckland", "America/Regina",
			"Asia/Muscat"}).Draw(t, "zone"))
		require.NoError(t, err)
		first := rapid.OneOf(rapid.SampledFrom(changes), rapid.Custom(func(t *rapid.T) day.Day {
			return day.Day(rapid.Int32Range(45000,
				45800).Draw(t, "day"))
		})).Draw(t, "start") - 1
		start := first.At(60*rapid.IntRange(0, 1439).Draw(t, "minute"), zone)
		end := start + day.Instant(60*rapid.IntRange(0, 4*1440).Draw(t, "minutes"))
		walked := 0
		for at := start; at < end; at += 60 {
			local := at.In(zone)
			clock := local.Hour()*3600 + local.Minute()*60
			on := day.FromTime(local)
			if !worksByHand(c.Definition(), on) {
				continue
			}
			for _, s := range hoursByHand(c.Definition(), on) {
				if s.From <= clock && clock < s.To {
					walked += 60
				}
			}
		}
		local := Local{c, zone}
		if got := local.WorkedSeconds(start, end); got != walked || local.WorkedSeconds(end, start) != -walked {
			t.Fatalf("from %v to %v in %v: %d s worked, a walk counts %d", start, end, zone, got, walked)
		}
	})
}

// Where the clocks are put forward over the beginning or the end of daily hours, they begin or end with the change.
func TestHoursThatAClockChangeSkips(t *testing.T) {
	zone, err := time.LoadLocation("Pacific/Auckland") // 02:00 becomes 03:00 on 2026-09-27, a Sunday
	require.NoError(t, err)
	sunday := d(t, "2026-09-27")
	for hours, minutes := range map[string]int{"02:30-03:10": 10, "02:15-02:45": 0, "01:00-02:30": 60, "02:00-03:00": 0,
		"01:30-03:30": 60, "02:30-04:00 05:00-06:00": 120} {
		shifts, err := ParseHours(hours)
		require.NoError(t, err)
		c, err := New(Definition{Name: "skipped", Patterns: []Pattern{{day.First, 0x7f}}, Hours: []DailyHours{{day.First, shifts}}})
		require.NoError(t, err)
		local := Local{c, zone}
		from, to := sunday.At(0, zone), sunday.At(24*3600, zone)
		assert.Equal(t, 60*minutes, local.WorkedSeconds(from, to), hours)
		totals := local.worktime()
		assert.Equal(t, int64(60*minutes), totals[sunday+1]-totals[sunday], hours)
	}
}

// What two files of one load say of one calendar, and what a file of holidays leaves as it was.
func TestDefinitionsTogether(t *testing.T) {
	on := func(text, name string) []NamedDay { return []NamedDay{{Day: d(t, text), Name: name}} }
	week := []Pattern{{day.First, 1}}
	eve := func(hours Hours) []HalfDay { return []HalfDay{{on("2026-12-24", "eve")[0], hours}} }
	morning, noon := Hours{{8 * 3600, 12 * 3600}}, Hours{{8 * 3600, 13 * 3600}}
	base := Definition{Name: "Galway", Patterns: week, Holidays: on("2026-05-01", "May Day"), HalfDays: eve(morning)}
	both, err := Merge(base, Definition{Name: "galway", Holidays: append(on("2026-12-25", "Christmas"), on("2026-05-01", "again")...),
		HalfDays: eve(morning)})
	require.NoError(t, err)
	c, err := New(both)
	require.NoError(t, err)
	assert.Equal(t, []int{2, 1}, []int{len(c.Definition().Holidays), len(c.Definition().HalfDays)}, "a day given twice is one")
	assert.Equal(t, week, both.Patterns)
	for what, other := range map[string]Definition{
		"its week":                           {Patterns: []Pattern{{day.First, 2}}},
		"2026-05-01, which is a holiday and": {Extra: on("2026-05-01", "worked")},
		"two kinds of hours":                 {HalfDays: eve(noon)},
	} {
		_, err := Merge(base, other)
		assert.ErrorContains(t, err, what)
	}
	_, err = New(Definition{Name: "twice", HalfDays: append(eve(morning), eve(noon)...)})
	assert.ErrorContains(t, err, "two kinds of hours, 08:00-12:00 and 08:00-13:00")

	later := Definition{Name: "Galway", Holidays: on("2027-05-01", "May Day")}.Over(base)
	assert.Equal(t, []any{week, on("2027-05-01", "May Day"), eve(morning)}, []any{later.Patterns, later.Holidays, later.HalfDays},
		"a file of holidays leaves the week")
	whole := Definition{Name: "Galway", Patterns: []Pattern{{day.First, 2}}}
	assert.Equal(t, whole, whole.Over(base), "a file with a week is the whole calendar")
}

func TestHoursAsText(t *testing.T) {
	h, err := ParseHours("08:00-12:00 13:00-24:00")
	require.NoError(t, err)
	assert.Equal(t, "08:00-12:00 13:00-24:00", h.String())
	for text, want := range map[string]string{"8-12": "no time of day", "12:00-08:00": "across midnight",
		"08:00-12:00 11:00-13:00": "overlap", "noon": "no stretch", "08:00-24:30": "no time of day"} {
		_, err := ParseHours(text)
		assert.ErrorContains(t, err, want, text)
	}
}

// The edges of what can be counted: the first and last days, a week of one day, holidays that overlap.
func TestEdges(t *testing.T) {
	sundays, err := New(Definition{Name: "Sundays", Patterns: []Pattern{{day.First, 1}},
		Holidays: []NamedDay{{Day: d(t, "2199-12-29"), Name: "a"}, {Day: d(t, "2199-12-29"), Name: "b"},
			{Day: d(t, "2199-12-30"), Name: "on a rest day"}}})
	require.NoError(t, err)
	assert.Equal(t, 52, sundays.BothEnds(d(t, "1900-01-01"), d(t, "1900-12-31")))
	assert.Equal(t, 51, sundays.BothEnds(d(t, "2199-01-01"), d(t, "2199-12-31")), "of 52 Sundays one is a holiday, given twice")
	next, err := sundays.Add(d(t, "2024-02-28"), 1, Keep)
	require.NoError(t, err)
	assert.Equal(t, "2024-03-03", next.String())
	_, err = sundays.Add(day.Last, 1, Keep)
	assert.ErrorIs(t, err, ErrOutsideDays)
	_, _, err = sundays.LatestStart(day.First, 1)
	assert.ErrorIs(t, err, ErrOutsideDays)
	leap := EveryDay()
	assert.Equal(t, 366, leap.Elapsed(d(t, "2023-12-31"), d(t, "2024-12-31")))
}

func TestWeekNamesItsDays(t *testing.T) {
	assert.Equal(t, "Mon Tue Wed Thu Fri", MondayToFriday.String())
	assert.Equal(t, "Thu Sun", (Week(1<<time.Sunday | 1<<time.Thursday)).String())
}
