package datecalc

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/request"
)

// julyFirst is the calendar of the worked examples, kept in Saskatoon.
func julyFirst(t *testing.T) calendar.Local {
	hours, err := calendar.ParseHours("08:00-16:00")
	require.NoError(t, err)
	c, err := calendar.New(calendar.Definition{Name: "Saskatoon",
		Holidays: []calendar.NamedDay{{Day: day.Of(2026, 7, 1), Name: "Canada Day"}},
		Hours:    []calendar.DailyHours{{From: 1, Hours: hours}}})
	require.NoError(t, err)
	zone, err := time.LoadLocation("America/Regina")
	require.NoError(t, err)
	return calendar.Local{Calendar: c, Zone: zone}
}

// The examples of semantics §3, as they are asked on the telephone.
func TestReckoning(t *testing.T) {
	on := julyFirst(t)
	for _, tt := range []struct {
		request               Request
		sentence, words, line string
	}{
		{Request{From: "2026-06-29", To: "2026-07-10"},
			"How long from Mon 2026-06-29 to Fri 2026-07-10, in working days, start day not counted, by the calendar Saskatoon?",
			"8 working days", "06-29 to 07-10: 12 days = 1 start + 8 counted + 1 holiday + 2 weekend"},
		{Request{From: "2026-06-26", To: "2026-06-27", Count: "both-ends"},
			"How long from Fri 2026-06-26 to Sat 2026-06-27, in working days, both ends counted, by the calendar Saskatoon?",
			"1 working day", "06-26 to 06-27: 2 days = 1 counted + 1 weekend"},
		{Request{From: "2026-07-03T15:30", To: "2026-07-06T09:00", In: "working-hours"},
			"How long from Fri 2026-07-03 (2026-07-03T15:30) to Mon 2026-07-06 (2026-07-06T09:00), in working hours, between the instants, by the calendar Saskatoon, times in America/Regina?",
			"1.50 working hours", "07-03 to 07-06: 4 days = 2 worked + 2 weekend; 1.50 working hours = 0.50 + 1"},
		{Request{From: "2026-01-31", To: "2026-02-28", In: "months"},
			"How long from Sat 2026-01-31 to Sat 2026-02-28, in months completed, start day not counted, by the calendar Saskatoon?",
			"1 month completed", "01-31 to 02-28: 29 days = 1 start + 28 counted; 1 month to 2026-02-28, and the next is complete on 2026-03-31"},
		{Request{From: "2026-06-30", N: "1"}, "Which day is 1 working day after Tue 2026-06-30, by the calendar Saskatoon?",
			"Thu 2026-07-02", "06-30 to 07-02: 3 days = 1 start + 1 counted + 1 holiday"},
		{Request{From: "2026-07-05", N: "-3"}, "Which day is 3 working days before Sun 2026-07-05, by the calendar Saskatoon?",
			"Tue 2026-06-30", "06-30 to 07-05: 6 days = 1 start + 3 counted + 1 holiday + 1 weekend"},
		{Request{From: "2026-07-02", N: "2", In: "days", Roll: "next"},
			"Which day is 2 days after Thu 2026-07-02, moved to the next working day, by the calendar Saskatoon?", "Mon 2026-07-06",
			"07-02 to 07-06: 5 days = 1 start + 4 counted"},
		{Request{From: "2026-07-02", N: "2", In: "days"}, "Which day is 2 days after Thu 2026-07-02, by the calendar Saskatoon?",
			"Sat 2026-07-04", "07-02 to 07-04: 3 days = 1 start + 2 counted"},
		{Request{From: "2026-07-05", N: "0", Roll: "previous"},
			"Which day is 0 working days after Sun 2026-07-05, moved to the working day before, by the calendar Saskatoon?",
			"Fri 2026-07-03", "07-03 to 07-05: 3 days = 1 start + 1 counted + 1 weekend"},
		{Request{Wanted: "2026-07-05", N: "3"}, "When must it begin at the latest, to take 3 working days and be done by Sun 2026-07-05, by the calendar Saskatoon?",
			"Mon 2026-06-29", "06-29 to 07-05: 7 days = 1 start + 3 counted + 1 holiday + 2 weekend"},
		{Request{Wanted: "2026-06-30", N: "2"}, "When must it begin at the latest, to take 2 working days and be done by Tue 2026-06-30, by the calendar Saskatoon?",
			"Sun 2026-06-28, not a working day; the latest that is: Fri 2026-06-26", "06-28 to 06-30: 3 days = 1 start + 2 counted"},
		{Request{Wanted: "2026-07-06", N: "2", In: "days"},
			"When must it begin at the latest, to take 2 days and be done by Mon 2026-07-06, by the calendar Saskatoon?",
			"Sat 2026-07-04, not a working day; the latest that is: Fri 2026-07-03", "07-04 to 07-06: 3 days = 1 start + 2 counted"},
	} {
		a, err := Do(on, tt.request)
		require.NoError(t, err, "%+v", tt.request)
		assert.Equal(t, tt.sentence, a.Sentence)
		assert.Equal(t, tt.words, a.Words)
		assert.Equal(t, tt.line, a.Strip.String())
		assert.False(t, a.HolidaysUnknown, "the calendar knows 2026")
	}
	for _, r := range []Request{{From: "2026-12-30", To: "2027-01-04"}, {From: "2027-01-01", N: "2", In: "days", Roll: "next"},
		{Wanted: "2027-01-10", N: "3", In: "days"}} {
		a, err := Do(on, r)
		require.NoError(t, err)
		assert.True(t, a.HolidaysUnknown, "%+v", r)
	}
	a, err := Do(on, Request{From: "2027-01-01", N: "2", In: "days"})
	require.NoError(t, err)
	assert.False(t, a.HolidaysUnknown, "days alone ask no calendar")
}

func TestWhatCannotBeReckoned(t *testing.T) {
	on, unplaced := julyFirst(t), julyFirst(t)
	unplaced.Zone = nil
	for _, tt := range []struct {
		on         calendar.Local
		request    Request
		word, want string
	}{
		{on, Request{}, "from", "two days"},
		{on, Request{From: "2026-07-01", To: "2026-07-02", N: "3"}, "from", "two days"},
		{on, Request{From: "2026-07-01", To: "July"}, "to", "year-month-day"},
		{on, Request{From: "2026-07-01", N: "some"}, "n", "whole number"},
		{on, Request{From: "2199-12-31", N: "1"}, "n", "outside the supported days"},
		{on, Request{From: "2199-12-31", N: "1", In: "days"}, "n", "outside the supported days"},
		{on, Request{Wanted: "1900-01-02", N: "9"}, "n", "outside the supported days"},
		{on, Request{Wanted: "2026-07-01", N: "-1"}, "n", "0 or more"},
		{on, Request{From: "2026-07-01", N: "1", Roll: "up"}, "roll", "keep, next or previous"},
		{on, Request{From: "2026-07-01", N: "1", In: "months"}, "in", "only days and working-days"},
		{on, Request{From: "2026-07-01", To: "2026-07-02", In: "fortnights"}, "in", "not a unit"},
		{on, Request{From: "2026-07-01", To: "2026-07-02", In: "hours", Count: "both-ends"}, "count", "instant"},
		{on, Request{From: "2026-07-01", To: "2026-07-02T10:00", In: "hours"}, "in", "time of day on both days"},
		{unplaced, Request{From: "2026-07-01T09:00", To: "2026-07-02T10:00", In: "hours"}, "in", "zone of a site"},
		{unplaced, Request{From: "2026-07-01T09:00Z", To: "2026-07-02T10:00Z", In: "working-hours"}, "in", "its site no zone"},
	} {
		_, err := Do(tt.on, tt.request)
		var refused *request.Error
		require.ErrorAs(t, err, &refused, "%+v", tt.request)
		assert.Equal(t, tt.word, refused.Param, "%+v", tt.request)
		assert.ErrorContains(t, err, tt.want)
	}
}
