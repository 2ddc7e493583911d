package whatif

import (
	"slices"
	"strings"
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

func on(t *testing.T, text string) day.Day {
	d, err := day.Parse(text)
	require.NoError(t, err)
	return d
}

// tinyBook has one order from Galway to Cork, on Thursday 2026-10-29 at 15:00, an hour after the cut-off, and the calendar of Muscat,
// where Friday and Saturday are days off.
func tinyBook(t *testing.T) *book.Book {
	dublin, err := time.LoadLocation("Europe/Dublin")
	require.NoError(t, err)
	week, err := calendar.ParseWeek("Sun Mon Tue Wed Thu")
	require.NoError(t, err)
	var all []*calendar.Calendar
	for _, d := range []calendar.Definition{{Name: "Galway", Holidays: []calendar.NamedDay{{Day: on(t, "2026-10-26"), Name: "October holiday"}}},
		{Name: "Muscat", Patterns: []calendar.Pattern{{Week: week}}}} {
		c, err := calendar.New(d)
		require.NoError(t, err)
		all = append(all, c)
	}
	calendars, err := book.NewCalendars(all)
	require.NoError(t, err)
	builder := book.NewBuilder(book.BuiltIn())
	for i, site := range []string{"Galway", "Muscat"} {
		o := book.Order{ID: int64(i + 1), Number: site, Days: make([]day.Day, len(milestone.BuiltIn()))}
		o.Fields[book.Site], o.Fields[book.Place] = site, map[string]string{"Galway": "Cork", "Muscat": "Sohar"}[site]
		ordered := milestone.Index(milestone.BuiltIn(), milestone.Ordered)
		o.Days[ordered] = on(t, "2026-10-29")
		o.Instants = make([]day.Instant, len(o.Days))
		o.Instants[ordered] = o.Days[ordered].At(15*3600, dublin)
		builder.Put(o)
	}
	return builder.Finish(book.Settings{Calendars: calendars, Version: 7, Bounds: period.Bounds{FirstDay: on(t, "2026-10-01"), DataDate: on(t, "2026-11-30")},
		Sites:     []book.SiteRecord{{Name: "Galway", Zone: dublin, CutOff: 14 * 3600}, {Name: "Muscat", Zone: dublin, CutOff: -1}},
		Relations: []book.Relation{{Of: book.Site, Columns: []string{"site-country"}, Rows: map[string][]string{"Galway": {"Ireland"}, "Muscat": {"Oman"}}}}})
}

// Each change changes what it names, and nothing else; the book itself stays as it is.
func TestWhatWouldBe(t *testing.T) {
	b := tinyBook(t)
	for _, tt := range []struct {
		change  string
		counts  string // the day as which the order from Galway counts
		days    int    // working days from then to 2026-11-10, by its calendar
		country string // of its site
		muscat  int    // working days of the other order from its own day
	}{
		{"", "2026-10-30", 7, "Ireland", 8},
		{"holiday Galway=2026-10-30", "2026-11-02", 6, "Ireland", 8},
		{"holiday galway=2026-11-03", "2026-10-30", 6, "Ireland", 8},
		{"working-day Galway=2026-10-31", "2026-10-30", 8, "Ireland", 8},
		{"week Galway=Mon Tue Wed Thu", "2026-11-02", 5, "Ireland", 8},
		{"cut-off Galway=15:01", "2026-10-29", 8, "Ireland", 8},
		{"cut-off Galway=15:00", "2026-10-30", 7, "Ireland", 8},
		{"cut-off Galway=none", "2026-10-29", 8, "Ireland", 8},
		{"calendar Galway=Muscat", "2026-11-01", 7, "Ireland", 8},
		{"site Cork=Muscat", "2026-10-29", 8, "Oman", 8},
		{"site cork = muscat", "2026-10-29", 8, "Oman", 8},
		{"week Muscat=Mon", "2026-10-30", 7, "Ireland", 2},
	} {
		made := b
		if tt.change != "" {
			var err error
			made, err = Suppose(b, []string{tt.change})
			require.NoError(t, err, tt.change)
			assert.Negative(t, made.Version(), tt.change)
		}
		block := made.Blocks()[0]
		starts := block.EffectiveStarts
		if starts == nil {
			starts = block.Columns[milestone.Index(made.Milestones(), milestone.Ordered)].Known
		}
		assert.Equal(t, tt.counts, starts[0].String(), tt.change)
		own := made.SiteCalendarAt(book.AtSite, 0)
		assert.Equal(t, tt.days, own.Elapsed(starts[0], on(t, "2026-11-10")), tt.change)
		country, known := made.ParseField("site-country")
		require.True(t, known)
		assert.Equal(t, tt.country, made.Values(country)[block.Codes[country][0]], tt.change)
		other := made.SiteCalendarAt(book.AtSite, 1)
		assert.Equal(t, tt.muscat, other.Elapsed(on(t, "2026-10-29"), on(t, "2026-11-10")), tt.change)
	}
	again, err := Suppose(b, []string{"cut-off Galway=none", "week Galway=Mon"})
	require.NoError(t, err)
	one, err := Suppose(b, []string{"cut-off Galway=none"})
	require.NoError(t, err)
	assert.NotEqual(t, one.Version(), again.Version())
	assert.Equal(t, int64(7), b.Version())
}

func TestWhatCannotBe(t *testing.T) {
	for change, why := range map[string]string{
		"cutoff Galway=16:00":       "did you mean cut-off?",
		"cut-off Galway":            "want cut-off NAME=VALUE, as in cut-off Galway=16:00",
		"cut-off =16:00":            "want cut-off NAME=VALUE",
		"cut-off Galwey=16:00":      "did you mean Galway?",
		"cut-off Galway=4pm":        "want a time of day such as 16:00, or none",
		"holiday Galway=2026-02-30": "is not a day",
		"holiday Cork=2026-02-03":   "there is no calendar Cork",
		"holiday Muscat=2026-11-03": "does not know the other holidays of that year",
		"week Galway=Funday":        "not a weekday",
		"calendar Galway=Mars":      "there is no calendar Mars",
		"site Mars=Galway":          "there is no place Mars",
		"site Cork=Mars":            "there is no site Mars",
	} {
		_, err := Suppose(tinyBook(t), []string{change})
		assert.ErrorContains(t, err, why, change)
		assert.ErrorContains(t, err, change)
	}
	change, long := "week Galway=Mon", "week Galway="+strings.Repeat("Mon ", 47)
	_, err := Suppose(tinyBook(t), append(slices.Repeat([]string{change}, mostChanges-1), long))
	require.NoError(t, err)
	_, err = Suppose(tinyBook(t), slices.Repeat([]string{change}, mostChanges+1))
	assert.ErrorContains(t, err, "at most 50 changes, not 51")
	_, err = Suppose(tinyBook(t), []string{long + " "})
	assert.ErrorContains(t, err, "at most 200 bytes, not 201")
}
