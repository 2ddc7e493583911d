package intake

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
	def, err := ReadCalendar("folder/lisbon.ics", strings.NewReader(text))
	require.NoError(t, err)
	c, err := calendar.New(def)
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
		{"several days, the end not counted", []string{"DTSTART;VALUE=DATE:20260707\nDTEND;VALUE=DATE:20260710\nSUMMARY:Works outing"}, "2026-07-06", "x...x.."},
		{"an extra working day", []string{"DTSTART;VALUE=DATE:20260711\nSUMMARY:Rush\nCATEGORIES:working day"}, "2026-07-06", "xxxxxx."},
		{"another weekend", []string{"DTSTART;VALUE=DATE:20200103\nRRULE:FREQ=WEEKLY;BYDAY=FR,SA\nCATEGORIES:WEEKEND"}, "2026-07-06", "xxxx..x"},
		{"a week that changes", []string{
			"DTSTART;VALUE=DATE:20200103\nRRULE:FREQ=WEEKLY;BYDAY=FR,SA;UNTIL=20260709\nCATEGORIES:WEEKEND",
			"DTSTART;VALUE=DATE:20260710\nRRULE:FREQ=WEEKLY;BYDAY=SA,SU\nCATEGORIES:WEEKEND"}, "2026-07-02", "x..xxxxxx..xxxxx.."},
		{"a rule, without one day and with another", []string{"DTSTART;VALUE=DATE:20260706\nRRULE:FREQ=DAILY;COUNT=4\nEXDATE;VALUE=DATE:20260707,20260708\nRDATE;VALUE=DATE:20260713\nSUMMARY:Moving"}, "2026-07-06", ".xx.x...xxxx"},
		{"dates without a rule", []string{"DTSTART;VALUE=DATE:20260706\nRDATE;VALUE=DATE:20260708,20260709\nSUMMARY:Inventory"}, "2026-07-06", ".x..x.."},
	} {
		assert.Equal(t, tt.want, works(t, readCalendar(t, calendarFile("", tt.events...)), tt.from, len(tt.want)), tt.name)
	}
}

func TestCalendarNameAndCoverage(t *testing.T) {
	c := readCalendar(t, calendarFile("NAME:Porto", "DTSTART;VALUE=DATE:20250101\nRRULE:FREQ=YEARLY\nSUMMARY:New Year's Day", "DTSTART;VALUE=DATE:20260403\nSUMMARY:Good Friday"))
	assert.Equal(t, "Porto", c.Name())
	assert.Equal(t, "2026-01-01", c.Coverage().From.String(), "a rule without an end extends no coverage")
	kind, name := c.Kind(day.Of(2031, 1, 1))
	assert.Equal(t, calendar.Holiday, kind)
	assert.Equal(t, "New Year's Day", name)
	assert.Equal(t, "lisbon", readCalendar(t, calendarFile("")).Name())
}

func TestCalendarsThatAreRefused(t *testing.T) {
	for _, tt := range []struct{ name, text, want string }{
		{"no calendar", "BEGIN:VCARD\r\nEND:VCARD\r\n", "no iCalendar file"},
		{"cut short", "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n", "lisbon.ics"},
		{"a time of day", calendarFile("", "DTSTART:20260706T090000Z\nSUMMARY:Meeting"), `event 1, "Meeting": DTSTART "20260706T090000Z" is not a whole day`},
		{"no start", calendarFile("", "SUMMARY:Never"), "no DTSTART"},
		{"an unknown category", calendarFile("", "DTSTART;VALUE=DATE:20260706\nCATEGORIES:PARTY"), "want HOLIDAY, WORKING DAY or WEEKEND"},
		{"a weekend without days", calendarFile("", "DTSTART;VALUE=DATE:20260706\nCATEGORIES:WEEKEND"), "FREQ=WEEKLY;BYDAY"},
		{"a week without work", calendarFile("", "DTSTART;VALUE=DATE:20260706\nRRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR,SA,SU\nCATEGORIES:WEEKEND"), "no worked weekday"},
		{"a rule within the day", calendarFile("", "DTSTART;VALUE=DATE:20260706\nRRULE:FREQ=HOURLY"), "repeats within a day"},
		{"a broken rule", calendarFile("", "DTSTART;VALUE=DATE:20260706\nRRULE:FREQ=SOMETIMES"), "RRULE"},
		{"a broken exception", calendarFile("", "DTSTART;VALUE=DATE:20260706\nEXDATE:soon"), `EXDATE "soon"`},
		{"beyond the days", calendarFile("", "DTSTART;VALUE=DATE:21991231\nDTEND;VALUE=DATE:22000103\nSUMMARY:Late"), "outside the supported days"},
	} {
		_, err := ReadCalendar("folder/lisbon.ics", strings.NewReader(tt.text))
		var refused *FileError
		require.ErrorAs(t, err, &refused, tt.name)
		assert.ErrorContains(t, err, tt.want, tt.name)
	}
}

// Whatever comes in: a calendar or a *FileError, and never a panic.
func FuzzCalendar(f *testing.F) {
	f.Add("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTAMP:20250101T000000Z\r\nDTSTART;VALUE=DATE:20250101\r\nSUMMARY:New Year\r\nRRULE:FREQ=YEARLY;COUNT=3\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")
	f.Add("BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:x\nBEGIN:VEVENT\nUID:1\nDTSTAMP:20250101T000000Z\nDTSTART;VALUE=DATE:20250103\nCATEGORIES:WEEKEND\nRRULE:FREQ=WEEKLY;BYDAY=FR,SA\nEND:VEVENT\nEND:VCALENDAR\n")
	f.Add("BEGIN:VCALENDAR\n\x00")
	f.Fuzz(func(t *testing.T, text string) {
		def, err := ReadCalendar("file.ics", strings.NewReader(text))
		if err != nil {
			var refused *FileError
			require.ErrorAs(t, err, &refused)
			return
		}
		require.NotEmpty(t, def.Name)
	})
}
