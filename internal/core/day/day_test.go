package day

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestEveryDayAgreesWithTheStandardLibrary(t *testing.T) {
	at := time.Date(1900, 1, 1, 0, 0, 0, 0, time.UTC)
	for d := First; d <= Last; d++ {
		text := at.Format(time.DateOnly)
		parsed, err := Parse(text)
		if err != nil || parsed != d || d.String() != text || d.Weekday() != at.Weekday() || FromTime(at) != d {
			t.Fatalf("day %d: String %q, Parse(%q) = %d, %v, weekday %v", d, d, text, parsed, err, d.Weekday())
		}
		at = at.AddDate(0, 0, 1)
	}
	assert.Equal(t, "2200-01-01", at.Format(time.DateOnly), "the range ends with 2199")
}

func TestParseRefusesWhatIsNoDay(t *testing.T) {
	for _, tt := range []struct{ text, reason string }{
		{"1899-12-31", "outside the days"},
		{"2200-01-01", "outside the days"},
		{"2026-02-29", "February 2026 has no day 29"},
		{"2026-13-01", "no month 13"},
		{"2026-00-10", "no month 0"},
		{"2026-7-6", "year-month-day"},
		{"06/07/2026", "year-month-day"},
		{"2026-07-06T10:00", "year-month-day"},
		{" 2026-07-0", "year-month-day"},
		{"2026-07-+1", "year-month-day"},
		{"", "year-month-day"},
	} {
		_, err := Parse(tt.text)
		var parse *ParseError
		require.ErrorAsf(t, err, &parse, "Parse(%q)", tt.text)
		assert.Equal(t, tt.text, parse.Value)
		assert.Containsf(t, err.Error(), tt.reason, "Parse(%q)", tt.text)
	}
}

func FuzzParse(f *testing.F) {
	f.Add("2026-07-06")
	f.Add("2026-02-30")
	f.Fuzz(func(t *testing.T, text string) {
		if d, err := Parse(text); err == nil && d.String() != text {
			t.Fatalf("Parse(%q) = %v", text, d)
		}
	})
}

// The worked examples of semantics §3 about months.
func TestMonthsExamples(t *testing.T) {
	d := func(s string) Day { v, err := Parse(s); require.NoError(t, err); return v }
	assert.Equal(t, 1, MonthsCompleted(d("2026-01-31"), d("2026-02-28")))
	assert.Equal(t, 0, MonthsCompleted(d("2026-01-31"), d("2026-02-27")))
	whole, part, of := MonthsFraction(d("2026-01-31"), d("2026-02-27"))
	assert.Equal(t, []int{0, 27, 28}, []int{whole, part, of})
	assert.Equal(t, 12, MonthsCompleted(d("2024-02-29"), d("2025-02-28")), "a leap day's year")
	assert.Equal(t, 3599, MonthsCompleted(First, Last))
	assert.Equal(t, 1, MonthsCrossed(d("2026-01-31"), d("2026-02-27")))
	assert.Equal(t, 1, MonthsCompleted(d("2026-01-15"), d("2026-03-14")))
	assert.Equal(t, 2, MonthsCrossed(d("2026-01-15"), d("2026-03-14")))
}

func TestMonthsCompletedIsTheGreatestStepThatFits(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		start := Day(rapid.Int32Range(int32(First), int32(Last)).Draw(t, "start"))
		end := Day(rapid.Int32Range(int32(start), min(int32(start)+5000, int32(Last))).Draw(t, "end"))
		want := 0
		for next := start.AddMonths(1); next != 0 && next <= end; next = start.AddMonths(want + 1) {
			want++
		}
		if got := MonthsCompleted(start, end); got != want {
			t.Fatalf("MonthsCompleted(%v, %v) = %d, want %d", start, end, got, want)
		}
		whole, part, of := MonthsFraction(start, end)
		if from := start.AddMonths(want); whole != want || part != int(end-from) || part >= of || of < 28 || of > 31 {
			t.Fatalf("MonthsFraction(%v, %v) = %d and %d of %d, want %d and %d", start, end, whole, part, of, want, end-from)
		}
	})
}

func TestMomentsFallOnTheDayOfTheirSite(t *testing.T) {
	for _, tt := range []struct {
		text, zone, day, at string
	}{
		{"2026-07-06", "Europe/Dublin", "2026-07-06", ""},
		{"2026-07-06T23:30:00Z", "Pacific/Auckland", "2026-07-07", "2026-07-06T23:30:00Z"},
		{"2026-07-06T02:30:00+04:00", "America/Regina", "2026-07-05", "2026-07-05T22:30:00Z"},
		{"2026-07-06 23:30", "Pacific/Auckland", "2026-07-06", "2026-07-06T11:30:00Z"},
		{"2026-07-06T23:30:15.750", "Asia/Muscat", "2026-07-06", "2026-07-06T19:30:15Z"},
		{"2026-03-29T01:30", "Europe/Dublin", "2026-03-29", "2026-03-29T01:30:00Z"}, // never came: read by the offset before
		{"2026-10-25T01:30", "Europe/Dublin", "2026-10-25", "2026-10-25T00:30:00Z"}, // came twice: the first
		{"2026-10-25T02:00", "Europe/Dublin", "2026-10-25", "2026-10-25T02:00:00Z"},
		{"2026-04-05T02:30", "Pacific/Auckland", "2026-04-05", "2026-04-04T13:30:00Z"},
		{"2026-09-27T03:00", "Pacific/Auckland", "2026-09-27", "2026-09-26T14:00:00Z"},
		{"2026-07-06T14:30Z", "", "2026-07-06", "2026-07-06T14:30:00Z"},
		{"2026-07-06T14:30", "", "2026-07-06", ""}, // no zone, no instant
	} {
		var zone *time.Location
		if tt.zone != "" {
			var err error
			zone, err = time.LoadLocation(tt.zone)
			require.NoError(t, err)
		}
		m, err := ParseMoment(tt.text)
		require.NoError(t, err)
		d, at := m.In(zone)
		assert.Equalf(t, tt.day, d.String(), "%s in %s", tt.text, tt.zone)
		assert.Equalf(t, tt.at, at.String(), "%s in %s", tt.text, tt.zone)
		if tt.text == "2026-07-06 23:30" {
			assert.Equal(t, "23:30", at.Clock(zone))
		}
	}
	for _, text := range []string{"2026-07-06T", "2026-07-06T25:00", "2026-02-30T10:00", "2026-07-06x10:00", "2026-07-06T10:00+99",
		"2206-07-06T10:00", "12:00"} {
		_, err := ParseMoment(text)
		var parse *ParseError
		require.ErrorAsf(t, err, &parse, "ParseMoment(%q)", text)
		assert.Equal(t, text, parse.Value)
	}
}

// The instant of a local time beside a search, minute by minute, for the first one at which the clocks show it; where
// they never do, the one that they would have shown unchanged.
func TestLocalTimesAgreeWithASearch(t *testing.T) {
	zones := []string{"Europe/Dublin", "Pacific/Auckland", "America/Regina", "Asia/Muscat", "America/St_Johns", "Australia/Lord_Howe"}
	changes := []Day{Of(2026, 3, 8), Of(2026, 3, 29), Of(2026, 4, 5), Of(2026, 9, 27), Of(2026, 10, 4), Of(2026, 10, 25), Of(2026, 11, 1),
		Of(2026, 7, 6)}
	rapid.Check(t, func(t *rapid.T) {
		zone, err := time.LoadLocation(rapid.SampledFrom(zones).Draw(t, "zone"))
		require.NoError(t, err)
		d := rapid.SampledFrom(changes).Draw(t, "day")
		minute := rapid.IntRange(0, 5*60).Draw(t, "minute")
		shows := func(at Instant) bool {
			local := at.In(zone)
			return FromTime(local) == d && local.Hour()*60+local.Minute() == minute
		}
		midnight := InstantOf(d.Time()) // in UTC; no zone is farther from it than a day
		want, before := Instant(0), midnight-24*3600
		for at := before; at < midnight+24*3600 && want == 0; at += 60 {
			if shows(at) {
				want = at
			}
		}
		if want == 0 {
			_, offset := before.In(zone).Zone()
			want = midnight + Instant(60*minute-offset)
		}
		if got := d.At(60*minute, zone); got != want {
			t.Fatalf("%v %02d:%02d in %v is %v, want %v", d, minute/60, minute%60, zone, got, want)
		}
	})
}

// What is written in any of the known forms is read as the standard library reads it.
func FuzzMoment(f *testing.F) {
	for _, text := range []string{"2026-07-06", "2026-07-06T23:30:00Z", "2026-07-06 10:15", "2026-07-06T10:15:30.5+05:30",
		"2026-07-06T24:00", "2026-07-06T10:15-03:30"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		m, err := ParseMoment(text)
		if err != nil {
			return
		}
		if m.Day.String() != text[:10] || m.Timed != (len(text) > 10) {
			t.Fatalf("ParseMoment(%q) = %+v", text, m)
		}
		if at, err := time.Parse(time.RFC3339, text); err == nil {
			if _, instant := m.In(time.UTC); instant != InstantOf(at) {
				t.Fatalf("ParseMoment(%q) is %v, want %v", text, instant, at)
			}
		}
	})
}
