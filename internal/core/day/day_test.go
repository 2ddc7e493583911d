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
	assert.InDelta(t, 27.0/28, MonthsFraction(d("2026-01-31"), d("2026-02-27")), 1e-12)
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
		if f := MonthsFraction(start, end); f < float64(want) || f >= float64(want+1) {
			t.Fatalf("MonthsFraction(%v, %v) = %v, want in [%d, %d)", start, end, f, want, want+1)
		}
	})
}
