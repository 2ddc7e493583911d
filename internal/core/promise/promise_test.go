package promise

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
)

// The due day, the day reached and the data date on each side of each other, and on the same day.
func TestOutcomesOnBothSidesOfEachDay(t *testing.T) {
	const today = day.Day(100)
	for _, tt := range []struct {
		name string
		days Days
		want Outcome
	}{
		{"the day before", Days{Due: 90, Reached: 89}, Early},
		{"on the day", Days{Due: 90, Reached: 90}, OnTheDay},
		{"the day after", Days{Due: 90, Reached: 91}, ReachedLate},
		{"due yesterday", Days{Due: today - 1}, Overdue},
		{"due on the data date", Days{Due: today}, NotDue},
		{"due tomorrow", Days{Due: today + 1}, NotDue},
		{"reached before it is due, after the data date", Days{Due: today + 1, Reached: today}, Early},
		{"cancelled and open", Days{Due: 90, Cancelled: 95}, Cancelled},
		{"cancelled without a promise", Days{Cancelled: 95}, Cancelled},
		{"cancelled before it began", Days{Due: 90, Cancelled: 95, NotBegun: true}, Cancelled},
		{"cancelled, and reached all the same", Days{Due: 90, Reached: 91, Cancelled: 95}, ReachedLate},
		{"without a promise", Days{Reached: 91}, NoPromise},
		{"not begun", Days{Due: 90, NotBegun: true}, NotBegun},
		{"not begun, and without a promise", Days{NotBegun: true}, NotBegun},
	} {
		assert.Equal(t, tt.want, Of(tt.days, today), tt.name)
	}
	for o := range Outcomes {
		assert.Equal(t, o == ReachedLate || o == Overdue, o.Late(), o)
		assert.Equal(t, o == Early || o.Late(), o.Sized(), o)
	}
}

// Due days count from the day as the cut-off has it, up to the latest order, which it moves beyond all others; those that run
// over days without known holidays say so.
func TestDueDaysOfTheLatestOrderAndOverTheEndOfTheCalendar(t *testing.T) {
	quay, err := calendar.New(calendar.Definition{Name: "Quay", Coverage: day.Through(day.Of(2026, 1, 1), day.Of(2026, 12, 31))})
	require.NoError(t, err)
	calendars, err := book.NewCalendars([]*calendar.Calendar{quay})
	require.NoError(t, err)
	builder, ordered := book.NewBuilder(book.BuiltIn()), milestone.Index(milestone.BuiltIn(), milestone.Ordered)
	for i, text := range []string{"2025-12-31T09:00", "2026-12-24T18:00", "2026-12-31T09:00", "2026-12-31T18:00", ""} {
		o := book.Order{ID: int64(i), Number: text, Days: make([]day.Day, len(milestone.BuiltIn())),
			Instants: make([]day.Instant, len(milestone.BuiltIn()))}
		if text != "" {
			m, err := day.ParseMoment(text)
			require.NoError(t, err)
			o.Days[ordered], o.Instants[ordered] = m.In(time.UTC)
		}
		o.Fields[book.Site] = "Quay"
		builder.Put(o)
	}
	b := builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: day.Of(2025, 12, 1),
		DataDate: day.Of(2026, 12, 31)},
		Sites: []book.SiteRecord{{Name: "Quay", Zone: time.UTC, CutOff: 14 * 3600}}})
	when := When{From: milestone.Milestone{Name: milestone.Ordered}}
	for _, tt := range []struct {
		after    int
		noCutOff bool
		want     []string
	}{
		{1, false, []string{"2026-01-01 true", "2026-12-28 false", "2027-01-01 true", "2027-01-04 true", " false"}},
		{0, false, []string{"2025-12-31 true", "2026-12-25 false", "2026-12-31 false", "2027-01-01 true", " false"}},
		{0, true, []string{"2025-12-31 true", "2026-12-24 false", "2026-12-31 false", "2026-12-31 false", " false"}},
		{1, true, []string{"2026-01-01 true", "2026-12-25 false", "2027-01-01 true", "2027-01-01 true", " false"}},
	} {
		when.After, when.NoCutOff = tt.after, tt.noCutOff
		dues := NewDues(b, when, book.AtSite)
		var got []string
		for row := range b.Orders() {
			at, far := dues.Of(b.Blocks()[0], row, b.Blocks()[0].Codes[book.Site][row])
			text := ""
			if at != 0 {
				text = at.String()
			}
			got = append(got, fmt.Sprint(text, " ", far))
		}
		assert.Equal(t, tt.want, got, "%d working days, without cut-offs: %v", tt.after, tt.noCutOff)
	}
}
