package calendarfile

import (
	"bytes"
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
)

// calendarFile writes events, each a list of lines, as an iCalendar file.
func calendarFile(head string, events ...string) string {
	lines := []string{"BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//test//EN"}
	if head != "" {
		lines = append(lines, head)
	}
	for _, e := range events {
		lines = append(lines, "BEGIN:VEVENT", "UID:1", "DTSTAMP:20260101T000000Z")
		lines = append(lines, strings.Split(e, "\n")...)
		lines = append(lines, "END:VEVENT")
	}
	return strings.Join(append(lines, "END:VCALENDAR", ""), "\r\n")
}

func readCalendar(t *testing.T, text string) *calendar.Calendar {
	def, err := ReadICalendar(t.Context(), "lisbon", strings.NewReader(text), false)
	require.NoError(t, err)
	c, err := calendar.New(def.Definition)
	require.NoError(t, err)
	return c
}

// works lists the worked days of a week from a day on, as "x" and ".".
func works(t *testing.T, c *calendar.Calendar, from string, days int) string {
	first, err := day.Parse(from)
	require.NoError(t, err)
	var marks strings.Builder
	for d := first; d < first+day.Day(days); d++ {
		marks.WriteString(map[bool]string{true: "x", false: "."}[c.Works(d)])
	}
	return marks.String()
}

func TestCalendarFromEvents(t *testing.T) {
	// 2026-07-06 is a Monday.
	for _, tt := range []struct {
		name   string
		events []string
		from   string
		want   string
	}{
		{"nothing but the default week", nil, "2026-07-06", "xxxxx.."},
		{"a holiday without a category", []string{"DTSTART;VALUE=DATE:20260708\nSUMMARY:Day off"}, "2026-07-06", "xx.xx.."},
		{"several days, the end not counted", []string{"DTSTART;VALUE=DATE:20260707\nDTEND;VALUE=DATE:20260710\nSUMMARY:Works outing"},
			"2026-07-06", "x...x.."},
		{"an extra working day", []string{"DTSTART;VALUE=DATE:20260711\nSUMMARY:Rush\nCATEGORIES:working day"}, "2026-07-06", "xxxxxx."},
		{"another weekend", []string{"DTSTART;VALUE=DATE:20200103\nRRULE:FREQ=WEEKLY;BYDAY=FR,SA\nCATEGORIES:WEEKEND"}, "2026-07-06",
			"xxxx..x"},
		{"a week that changes", []string{
			"DTSTART;VALUE=DATE:20200103\nRRULE:FREQ=WEEKLY;BYDAY=FR,SA;UNTIL=20260709\nCATEGORIES:WEEKEND",
			"DTSTART;VALUE=DATE:20260710\nRRULE:FREQ=WEEKLY;BYDAY=SA,SU\nCATEGORIES:WEEKEND"}, "2026-07-02", "x..xxxxxx..xxxxx.."},
		{"a rule, without one day and with another",
			[]string{"DTSTART;VALUE=DATE:20260706\nRRULE:FREQ=DAILY;COUNT=4\nEXDATE;VALUE=DATE:20260707,20260708\nRDATE;VALUE=DATE:20260713\nSUMMARY:Moving"}, "2026-07-06", ".xx.x...xxxx"},
		{"dates without a rule", []string{"DTSTART;VALUE=DATE:20260706\nRDATE;VALUE=DATE:20260708,20260709\nSUMMARY:Inventory"},
			"2026-07-06", ".x..x.."},
	} {
		assert.Equal(t, tt.want, works(t, readCalendar(t, calendarFile("", tt.events...)), tt.from, len(tt.want)), tt.name)
	}
}

func TestCalendarNameAndCoverage(t *testing.T) {
	c := readCalendar(t, calendarFile("NAME:Porto", "DTSTART;VALUE=DATE:20250101\nRRULE:FREQ=YEARLY\nSUMMARY:New Year's Day",
		"DTSTART;VALUE=DATE:20260403\nSUMMARY:Good Friday"))
	assert.Equal(t, "Porto", c.Name())
	assert.False(t, c.CoverageStated())
	assert.Equal(t, "2026-01-01", c.Coverage()[0].From.String(), "a rule without an end extends no coverage")
	kind, name := c.Kind(day.Of(2031, 1, 1))
	assert.Equal(t, calendar.Holiday, kind)
	assert.Equal(t, "New Year's Day", name)
	assert.Equal(t, "lisbon", readCalendar(t, calendarFile("")).Name())
}

// Calendars as they are published: a title for a name, midnights for days, categories and observances of their own.
func TestCalendarsAsTheyArePublished(t *testing.T) {
	const title = "X-WR-CALNAME:Holidays in Portugal"
	text := calendarFile(title,
		"DTSTART;TZID=Europe/Lisbon:20260425T000000\nDTEND;TZID=Europe/Lisbon:20260426T000000\nRRULE:FREQ=YEARLY;COUNT=2\nEXDATE;TZID=Europe/Lisbon:20270425T000000\nSUMMARY:Freedom Day\nCATEGORIES:Public holiday",
		"DTSTART:20260610T000000Z\nDTEND:20260611T235900Z\nSUMMARY:Two days\nCATEGORIES:Public holiday,National",
		"DTSTART;VALUE=DATE:20260503\nSUMMARY:Mother's Day\nDESCRIPTION:Observance\\nTo hide observances\\, change your settings",
		"DTSTART;VALUE=DATE:20261225\nSUMMARY:Christmas Day\nDESCRIPTION:Public holiday")
	for wanted, want := range map[bool][]string{false: {"2026-04-25", "2026-06-10", "2026-06-11", "2026-12-25"},
		true: {"2026-04-25", "2026-06-10", "2026-06-11", "2026-05-03", "2026-12-25"}} {
		read, err := ReadICalendar(t.Context(), "lisbon", strings.NewReader(text), wanted)
		require.NoError(t, err)
		var days []string
		for _, h := range read.Holidays {
			days = append(days, h.Day.String())
		}
		assert.Equal(t, want, days)
		assert.Equal(t, []any{"Holidays in Portugal", ByTitle, []string{"Mother's Day"}, []string{"Public holiday", "National"}},
			[]any{read.Name, read.Named, read.Observances, read.Categories})
	}
	read, err := ReadICalendar(t.Context(), "lisbon", strings.NewReader(calendarFile(title+"\r\nNAME:Porto")), false)
	require.NoError(t, err)
	assert.Equal(t, []any{"Porto", ByFile}, []any{read.Name, read.Named}, "its name goes before its title")
}

func TestCalendarsThatAreRefused(t *testing.T) {
	for _, tt := range []struct{ name, text, want string }{
		{"no calendar", "BEGIN:VCARD\r\nEND:VCARD\r\n", "no iCalendar file"},
		{"cut short", "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n", "ends before END:VCALENDAR"},
		{"a time of day", calendarFile("", "DTSTART:20260706T090000Z\nSUMMARY:Meeting"),
			`event 1, "Meeting": DTSTART "20260706T090000Z" is not a whole day`},
		{"no start", calendarFile("", "SUMMARY:Never"), "no DTSTART"},
		{"a weekend without days", calendarFile("", "DTSTART;VALUE=DATE:20260706\nCATEGORIES:WEEKEND"), "FREQ=WEEKLY;BYDAY"},
		{"a week without work", calendarFile("", "DTSTART;VALUE=DATE:20260706\nRRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR,SA,SU\nCATEGORIES:WEEKEND"), "no worked weekday"},
		{"a rule within the day", calendarFile("", "DTSTART;VALUE=DATE:20260706\nRRULE:FREQ=HOURLY"), "repeats within a day"},
		{"a broken rule", calendarFile("", "DTSTART;VALUE=DATE:20260706\nRRULE:FREQ=SOMETIMES"), "RRULE"},
		{"a broken exception", calendarFile("", "DTSTART;VALUE=DATE:20260706\nEXDATE:soon"), `EXDATE "soon" is not written as DTSTART is`},
		{"hours that end", calendarFile("", "DTSTART:20260706T080000\nDTEND:20260706T160000\nRRULE:FREQ=DAILY;UNTIL=20261231\nCATEGORIES:WORKING HOURS"), "end on 2026-12-31, and no others follow"},
		{"hours across midnight", calendarFile("",
			"DTSTART:20260706T200000\nDTEND:20260707T040000\nRRULE:FREQ=DAILY\nCATEGORIES:WORKING HOURS"), "across midnight"},
		{"hours in a zone", calendarFile("", "DTSTART;TZID=Europe/Lisbon:20260706T200000\nCATEGORIES:HALF DAY"), "not a local time"},
		{"two sorts of weeks", calendarFile("", "DTSTART;VALUE=DATE:20260706\nRRULE:FREQ=WEEKLY;BYDAY=SA\nCATEGORIES:WEEKEND",
			"DTSTART;VALUE=DATE:20260706\nRRULE:FREQ=WEEKLY;BYDAY=MO\nCATEGORIES:WORKING WEEK"), "both WEEKEND and WORKING WEEK"},
		{"NUL", calendarFile("NAME:a\x00b"), "the character NUL"},
		{"every day of three centuries, twice", calendarFile("", "DTSTART;VALUE=DATE:19000101\nRRULE:FREQ=DAILY",
			"DTSTART;VALUE=DATE:19000101\nRRULE:FREQ=DAILY"), "event 2, \"\": up to here the file names more than 200,000 days"},
		{"long events that come again", calendarFile("",
			"DTSTART;VALUE=DATE:20000101\nDTEND;VALUE=DATE:20990101\nRRULE:FREQ=YEARLY;COUNT=20"), "names more than 200,000 days"},
		{"rules that never apply", calendarFile("",
			slices.Repeat([]string{"DTSTART;VALUE=DATE:19000101\nRRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30"}, 1000)...),
			"go on for too long; want fewer rules"},
		{"rules with a count that never apply", calendarFile("",
			slices.Repeat([]string{"DTSTART;VALUE=DATE:00010101\nRRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30;COUNT=5"}, 1000)...),
			"go on for too long"},
		{"beyond the days", calendarFile("", "DTSTART;VALUE=DATE:21991231\nDTEND;VALUE=DATE:22000103\nSUMMARY:Late"),
			"outside the supported days"},
	} {
		_, err := ReadICalendar(t.Context(), "lisbon", strings.NewReader(tt.text), false)
		assert.ErrorContains(t, err, tt.want, tt.name)
	}
}

func TestHoursAndHalfDaysFromEvents(t *testing.T) {
	c := readCalendar(t, calendarFile("",
		"DTSTART:20200101T130000\nDTEND:20200101T163000\nRRULE:FREQ=DAILY\nCATEGORIES:WORKING HOURS",
		"DTSTART:20200101T083000\nDTEND:20200101T120000\nRRULE:FREQ=DAILY\nCATEGORIES:WORKING HOURS",
		"DTSTART:20251224T083000\nDTEND:20251224T120000\nRRULE:FREQ=YEARLY;COUNT=3\nEXDATE:20261224T083000\nSUMMARY:Christmas Eve\nCATEGORIES:HALF DAY",
		"DTSTART;VALUE=DATE:20250101\nDTEND;VALUE=DATE:20280101\nCATEGORIES:COVERAGE"))
	for on, hours := range map[string]string{"2025-12-23": "08:30-12:00 13:00-16:30", "2025-12-24": "08:30-12:00",
		"2026-12-24": "08:30-12:00 13:00-16:30", "2027-12-25": ""} {
		d, err := day.Parse(on)
		require.NoError(t, err)
		assert.Equal(t, hours, c.Hours(d).String(), on)
	}
	assert.True(t, c.CoverageStated())
	assert.Equal(t, "2027-12-31", c.Coverage()[0].LastDay().String())
}

func TestCalendarsFromCSV(t *testing.T) {
	defs, err := ReadCSV(t.Context(), "sites", strings.NewReader("\uFEFFCalendar,kind,day,until,name,hours,weekdays\n"+
		"Muscat,week,,,,,\"Sun, Mon,Tue,Wed,thursday\"\nMuscat,Holiday,2026-07-06,2026-07-07,Feast,,\n,half day,2026-12-24,,Eve,08:00-12:00,\nMUSCAT,working day,2026-07-10,,,,\n"))
	require.NoError(t, err)
	require.Len(t, defs, 2)
	assert.Equal(t, []string{"Muscat", "sites"}, []string{defs[0].Name, defs[1].Name})
	c, err := calendar.New(defs[0])
	require.NoError(t, err)
	assert.Equal(t, "x..xxx.x", works(t, c, "2026-07-05", 8), "2026-07-05 is a Sunday")
	for _, tt := range []struct{ text, want string }{
		{"kind,day,colour\n", `row 1, column "colour"`},
		{"kind,day,day\n", "stands twice"},
		{"kind,day\n", "no row"},
		{"kind,day\nfeast,2026-07-06\n", `row 2, column "kind", "feast": not a kind of row; want one of week, hours, holiday`},
		{"kind,day\nholiday,06/07/2026\n", `row 2, column "day", "06/07/2026"`},
		{"kind,day,until\nholiday,2026-07-06,2026-07-05\n", "before the day"},
		{"kind,day,hours\n\nhalf day,2026-07-06,\n", `row 3, column "hours", ""`},
		{"kind,day,hours\nhours,2026-07-06,16:00-08:00\n", "from an earlier to a later time"},
		{"kind,day,weekdays\nweek,2026-07-06,Funday\n", `"Funday" is not a weekday`},
		{"kind,day,weekdays\nweek,,Mon\nweek,,Tue\n", "two weeks begin on 1900-01-01"},
	} {
		_, err := ReadCSV(t.Context(), "sites", strings.NewReader(tt.text))
		assert.ErrorContains(t, err, tt.want)
	}
	assert.True(t, IsCSV([]byte("Kind, Day\nholiday,2026-07-06\n")))
	assert.False(t, IsCSV([]byte("order,day\n")))
}

// Every calendar survives a round trip through both forms.
func TestRoundTrips(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		anyDay := func(label string) day.Day {
			return day.Day(rapid.OneOf(rapid.Int32Range(46000, 46060), rapid.Int32Range(int32(day.First), int32(day.Last))).Draw(t, label))
		}
		name := rapid.OneOf(rapid.Just(""), rapid.SampledFrom([]string{"Stocktake", "Feast, second day; \"late\"", "Fête \\ 祭", "=1+1"}))
		hours := rapid.SampledFrom([]calendar.Hours{{{From: 0, To: 24 * 3600}}, {{From: 8 * 3600, To: 12 * 3600},
			{From: 12 * 3600, To: 16*3600 + 1800}}})
		def := calendar.Definition{Name: rapid.SampledFrom([]string{"Galway", "Ōsaka, Kansai"}).Draw(t, "name")}
		used := map[day.Day]bool{}
		for range rapid.IntRange(0, 4).Draw(t, "patterns") {
			if from := anyDay("from"); !used[from] {
				def.Patterns = append(def.Patterns, calendar.Pattern{From: from,
					Week: calendar.Week(rapid.IntRange(1, 127).Draw(t, "week"))})
				used[from] = true
			}
		}
		clear(used)
		for range rapid.IntRange(0, 3).Draw(t, "hours") {
			if from := anyDay("from"); !used[from] {
				def.Hours = append(def.Hours, calendar.DailyHours{From: from, Hours: hours.Draw(t, "daily hours")})
				used[from] = true
			}
		}
		for range rapid.IntRange(0, 6).Draw(t, "named days") {
			def.Holidays = append(def.Holidays, calendar.NamedDay{Day: anyDay("holiday"), Name: name.Draw(t, "name"),
				Unbounded: rapid.Bool().Draw(t, "by rule")})
			def.Extra = append(def.Extra, calendar.NamedDay{Day: anyDay("extra"), Name: name.Draw(t, "name")})
			half := calendar.HalfDay{NamedDay: calendar.NamedDay{Day: anyDay("half"), Name: name.Draw(t, "name")},
				Hours: hours.Draw(t, "half")}
			if !slices.ContainsFunc(def.HalfDays, func(h calendar.HalfDay) bool { return h.Day == half.Day }) {
				def.HalfDays = append(def.HalfDays, half)
			}
		}
		if rapid.Bool().Draw(t, "stated") {
			from := anyDay("coverage")
			def.Coverage = day.Through(from, min(day.Last, from+day.Day(rapid.IntRange(0, 800).Draw(t, "covered"))))
		}
		c, err := calendar.New(def)
		require.NoError(t, err)
		for _, form := range []Form{ICalendar, CSV} {
			var text bytes.Buffer
			require.NoError(t, Write(&text, form, c, time.Unix(0, 0)))
			var again []calendar.Definition
			if form == CSV {
				require.True(t, IsCSV(text.Bytes()))
				again, err = ReadCSV(t.Context(), "other", &text)
			} else {
				var read Published
				read, err = ReadICalendar(t.Context(), "other", &text, false)
				again = []calendar.Definition{read.Definition}
			}
			require.NoError(t, err)
			require.Len(t, again, 1)
			same, err := calendar.New(again[0])
			require.NoError(t, err)
			require.Equal(t, c.Definition(), same.Definition(), "through %s", form)
			require.Equal(t, c.CoverageStated(), same.CoverageStated())
			require.True(t, calendar.Same(def, again[0]))
			again[0].Extra = append(again[0].Extra, calendar.NamedDay{Day: day.First + 3, Name: "another"})
			require.Equal(t, slices.ContainsFunc(def.Extra, func(e calendar.NamedDay) bool { return e.Day == day.First+3 }),
				calendar.Same(def, again[0]))
		}
	})
}

func TestReadingACalendarEndsWithItsRequest(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err := ReadICalendar(ctx, "lisbon", strings.NewReader(calendarFile("", "DTSTART;VALUE=DATE:20260706")), false)
	require.ErrorIs(t, err, context.Canceled)
	_, err = ReadCSV(ctx, "lisbon", strings.NewReader("kind,day\nholiday,2026-07-06\n"))
	require.ErrorIs(t, err, context.Canceled)
	_, err = ReadCSV(t.Context(), "lisbon", strings.NewReader("kind,day,until\nholiday,1900-01-01,2199-12-31\nworking day,1900-01-01,2199-12-31\n"))
	require.ErrorContains(t, err, "row 3, column \"day\", \"1900-01-01\": up to here the file names more than 200,000 days")
}

// Whatever comes in: a calendar or an error, and never a panic.
func FuzzCalendar(f *testing.F) {
	f.Add("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTAMP:20250101T000000Z\r\nDTSTART;VALUE=DATE:20250101\r\nSUMMARY:New Year\r\nRRULE:FREQ=YEARLY;COUNT=3\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")
	f.Add("BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:x\nBEGIN:VEVENT\nUID:1\nDTSTAMP:20250101T000000Z\nDTSTART;VALUE=DATE:20250103\nCATEGORIES:WEEKEND\nRRULE:FREQ=WEEKLY;BYDAY=FR,SA\nEND:VEVENT\nEND:VCALENDAR\n")
	f.Add("BEGIN:VCALENDAR\n\x00")
	f.Fuzz(func(t *testing.T, text string) {
		if def, err := ReadICalendar(t.Context(), "file", strings.NewReader(text), false); err == nil {
			require.NotEmpty(t, def.Name)
		}
		_, _ = ReadCSV(t.Context(), "file", strings.NewReader(text))
	})
}
