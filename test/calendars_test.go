package test

import (
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
)

// Galway works 08:00 to 16:00 and takes orders until 14:00; 2026-07-01 is a holiday there, 2026-07-02 one in Oman.
const (
	galwayCalendar = "calendar,kind,day,name,hours,weekdays\nGalway,week,,,,Mon Tue Wed Thu Fri\nGalway,hours,,,08:00-16:00,\n" +
		"Galway,holiday,2026-07-01,Fair day,,\nGalway,half day,2026-07-03,Regatta,08:00-12:00,\nOman,holiday,2026-07-02,Feast,,\nOman,week,,,,Sun Mon Tue Wed Thu\n"
	galwaySites = "site,zone,cut-off,country\nGalway,Europe/Dublin,14:00,Ireland\nSohar,,,Oman\n"
	timedOrders = "number,site,country,ordered,promised,shipped\n" +
		"T/1,Galway,Ireland,2026-06-30T13:00,2026-07-03,2026-07-03T10:00\n" + // before the cut-off
		"T/2,Galway,Oman,2026-06-30T14:00,2026-07-03,2026-07-02T23:30:00Z\n" + // at it; shipped on the 3rd by the clocks of Galway
		"T/3,Galway,Ireland,2026-06-30,2026-07-02,2026-07-03\n" + // no time of day
		"T/4,Sohar,Oman,2026-06-30,2026-07-08,\n" // by the calendar of its country
)

// loadTimed brings the files in, the sites last, so that the days of times are read anew.
func loadTimed(t *testing.T) service {
	s := startService(t)
	for name, text := range map[string]string{"galway.csv": galwayCalendar, "orders.csv": timedOrders} {
		_, err := s.Load(t.Context(), []string{write(t, name, text)})
		require.NoError(t, err)
	}
	_, err := s.Load(t.Context(), []string{write(t, "sites.csv", galwaySites)})
	require.NoError(t, err)
	_, err = s.SaveSettings(t.Context(), api.Settings{DataDate: "2026-07-06"})
	require.NoError(t, err)
	return s
}

// lengths are the lengths of orders by number, as the list has them; the state where there is none.
func lengths(t *testing.T, s service, q question) map[string]any {
	list, err := s.list(t, q, selection{Columns: "length"})
	require.NoError(t, err)
	all := map[string]any{}
	for _, o := range list.Rows {
		if length, err := strconv.ParseFloat(o.Cells[0].Text, 64); err == nil && !slices.Contains(o.Cells[0].Marks, 0) { // still running
			all[o.Order] = length
			continue
		}
		order, err := s.Order(t.Context(), o.Order, q.Words())
		require.NoError(t, err)
		all[o.Order] = order.Order.State
	}
	return all
}

func TestLengthsByZonesCutOffsHoursAndDestinations(t *testing.T) {
	s := loadTimed(t)
	for _, tt := range []struct {
		question question
		heading  string
		want     map[string]any
	}{
		{question{}, "order date → ship date, working days, start day not counted, after cut-offs", map[string]any{"T/1": 2.0, "T/2": 1.0, "T/3": 2.0,
			"T/4": "running"}},
		{question{Count: "both-ends"}, "order date → ship date, working days, both ends counted, after cut-offs",
			map[string]any{"T/1": 3.0, "T/2": 2.0, "T/3": 3.0, "T/4": "running"}},
		{question{Calendar: "destination"}, "order date → ship date, working days at the destination, start day not counted, after cut-offs",
			map[string]any{"T/1": 3.0, "T/2": 0.0, "T/3": 3.0, "T/4": "running"}},
		{question{In: "weeks"}, "order date → ship date, weeks, start day not counted", map[string]any{"T/1": 0.43, "T/2": 0.43, "T/3": 0.43,
			"T/4": "running"}},
		{question{In: "hours"}, "order date → ship date, hours, between the instants", map[string]any{"T/1": 69.0, "T/2": 58.5, "T/3": "no-time-of-day",
			"T/4": "running"}},
		{question{In: "working-hours"}, "order date → ship date, working hours, between the instants", map[string]any{"T/1": 13.0, "T/2": 10.0,
			"T/3": "no-time-of-day", "T/4": "running"}},
		{question{In: "months-crossed"}, "order date → ship date, months crossed, start day not counted",
			map[string]any{"T/1": 1.0, "T/2": 1.0, "T/3": 1.0, "T/4": "running"}},
	} {
		assert.Equal(t, tt.want, lengths(t, s, tt.question), "%+v", tt.question)
		assert.Equal(t, tt.heading, s.took(t, tt.question).Heading)
	}
	part := s.took(t, question{}).Parts[0]
	assert.Equal(t, []int{1, 1}, []int{note(part, "cut-off"), note(part, "cut-off-untimed")})
	assert.Empty(t, said(part, "default-calendar"), "Sohar is counted by the calendar of its country")

	order, err := s.Order(t.Context(), "T/2", question{In: "working-hours"}.Words())
	require.NoError(t, err)
	assert.Equal(t, []string{"10 working hours", "Europe/Dublin"}, []string{order.Words, order.Zone})
	assert.Equal(t, "06-30 to 07-03: 4 days = 2 worked + 1 half day + 1 holiday; 10 working hours = 2 + 8", order.SumLine)
	shipped := order.Days[len(order.Days)-1]
	assert.Equal(t, api.MilestoneOn{Name: "shipped", Day: "2026-07-03", Time: "00:30", Known: true}, shipped)
	order, err = s.Order(t.Context(), "T/2", question{}.Words())
	require.NoError(t, err)
	assert.Equal(t, "06-30 to 07-03: 4 days = 2 after cut-off + 1 start + 1 half day", order.SumLine)

	assert.ErrorContains(t, s.tookNot(t, question{In: "hours", Count: "both-ends"}), "an instant has no length to count")
	hours := gridOf(t, s.took(t, question{In: "working-hours"}).Parts[0], "groups")
	longest := hours.number(hours.total(), "max")
	behind, err := s.list(t, question{}, selection{Behind: fmt.Sprintf("took?in=working-hours&shortest=%g", longest)})
	require.NoError(t, err)
	assert.Equal(t, "T/1", behind.Rows[0].Order)
	assert.Equal(t, "All selected orders, at least 13 working hours", behind.Title)
}

// A calendar goes out and comes in as both kinds of file, says what a change would do, and is saved and undone.
func TestCalendarsAreTakenOutComparedChangedAndUndone(t *testing.T) {
	s := loadTimed(t)
	for _, form := range []string{"ics", "csv"} {
		text, err := s.CalendarFile(t.Context(), "galway", form)
		require.NoError(t, err)
		check, err := s.Check(t.Context(), []string{write(t, "again."+form, string(text))}, client.Reading{})
		require.NoError(t, err)
		assert.Equal(t, "calendar", check.Files[0].Kind)
		other := startService(t)
		_, err = other.Load(t.Context(), []string{write(t, "again."+form, string(text))})
		require.NoError(t, err)
		want, err := s.Calendar(t.Context(), "Galway", 2026)
		require.NoError(t, err)
		got, err := other.Calendar(t.Context(), "Galway", 2026)
		require.NoError(t, err)
		assert.Equal(t, want.Definition, got.Definition, form)
		assert.Equal(t, want.Year, got.Year, form)
	}
	differences, err := s.CompareCalendars(t.Context(), "Galway", "Oman", 2026)
	require.NoError(t, err)
	found := map[string]string{}
	for _, d := range differences.Days {
		found[d.One.Day] = d.One.Kind + " / " + d.Other.Kind
	}
	assert.Equal(t, []string{"holiday / working", "working / holiday", "half day / weekend", "weekend / working"},
		[]string{found["2026-07-01"], found["2026-07-02"], found["2026-07-03"], found["2026-07-05"]})

	before, err := s.Calendar(t.Context(), "Galway", 2026)
	require.NoError(t, err)
	def := *before.Definition
	def.Holidays = append(def.Holidays, api.DatedName{Day: "2026-07-02", Name: "Storm"})
	effect, err := s.CalendarEffect(t.Context(), "Galway", def, question{}.Words())
	require.NoError(t, err)
	assert.Equal(t, "3 of 3 lengths change: 0 longer, 3 shorter", effect.Words)
	assert.Equal(t, api.CalendarChange{Number: "T/1", Site: "Galway", Before: "2 working days", After: "1 working day"}, effect.Examples[0])
	assert.Equal(t, before.Year.WorkingDays-1, effect.Year.WorkingDays)
	assert.Equal(t, map[string]any{"T/1": 2.0, "T/2": 1.0, "T/3": 2.0, "T/4": "running"}, lengths(t, s, question{}), "nothing is saved yet")

	saved, err := s.SaveCalendar(t.Context(), "Galway", def)
	require.NoError(t, err)
	assert.Equal(t, 2, saved.Holidays)
	assert.Equal(t, map[string]any{"T/1": 1.0, "T/2": 0.0, "T/3": 1.0, "T/4": "running"}, lengths(t, s, question{}), "as the effect said")
	loads, err := s.Loads(t.Context())
	require.NoError(t, err)
	assert.Equal(t, []any{"Galway (edited)", int64(1)}, []any{loads.Loads[0].Files[0].Name, loads.Loads[0].Files[0].Changed})
	_, err = s.Undo(t.Context(), loads.Loads[0].Number)
	require.NoError(t, err)
	assert.Equal(t, 2.0, lengths(t, s, question{})["T/1"])

	for _, tt := range []struct {
		change func(*api.CalendarDefinition)
		want   string
	}{
		{func(d *api.CalendarDefinition) { d.Weeks = []api.Week{{From: "1900-01-01", Days: ""}} }, "no weekday is worked"},
		{func(d *api.CalendarDefinition) { d.HalfDays = []api.DatedName{{Day: "2026-07-03"}} }, "wants hours of its own"},
		{func(d *api.CalendarDefinition) { d.Hours = []api.DailyHours{{From: "1900-01-01", Hours: "8 to 4"}} }, "no stretch of a day"},
		{func(d *api.CalendarDefinition) { d.Holidays = []api.DatedName{{Day: "2026-13-01"}} }, "RFC 3339 date"},
		{func(d *api.CalendarDefinition) { d.CoverageFrom, d.CoverageTo = "2026-07-03", "2026-07-01" }, "before the first day"},
	} {
		bad := *before.Definition
		tt.change(&bad)
		_, err := s.SaveCalendar(t.Context(), "Galway", bad)
		assert.ErrorContains(t, err, tt.want)
	}
	_, err = s.CalendarFile(t.Context(), "Atlantis", "ics")
	assert.ErrorContains(t, err, `there is no calendar "Atlantis"; want one of default, Galway, Oman`)
	_, err = s.Load(t.Context(), []string{write(t, "bad.csv", "kind,day\nholiday,2026-07-01\nfeast,2026-07-02\n")})
	assert.ErrorContains(t, err, `bad.csv: row 3, column "kind", "feast": not a kind of row`)
}

func TestDaysAndDueOrders(t *testing.T) {
	s := loadTimed(t)
	answer, err := s.Days(t.Context(), client.DaysQuestion{From: "2026-06-29", To: "2026-07-10"})
	require.NoError(t, err)
	assert.Equal(t, []any{"Galway", "8 working days",
		"06-29 to 07-10: 12 days = 1 start + 7 counted + 1 half day + 1 holiday + 2 weekend"},
		[]any{answer.Calendar, answer.Words, answer.SumLine})
	answer, err = s.Days(t.Context(), client.DaysQuestion{From: "2026-12-31", N: "3", Calendar: "oman"})
	require.NoError(t, err)
	assert.Equal(t, "2027-01-05", answer.Day)
	assert.Contains(t, answer.Notes[0], "the calendar Oman knows those of 2026-01-01 to 2026-12-31")
	status, body := s.get(t, "/api/v1/days?from=2026-07-01&n=1&calendar=Nowhere")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, body["detail"], "want one of default, Galway, Oman")

	assert.Equal(t, "4 orders selected = 1 open and at risk + 2 shipped on the day + 1 shipped late",
		s.ask(t, "/due").Parts[0].Lines[0].Text)
	due := gridOf(t, s.ask(t, "/due", "after", "3", "within", "0", "standing", "overdue,early").Parts[0], "due")
	numbers := map[string]string{}
	for _, r := range due.Rows {
		numbers[r.Cells[0].Text] = due.cell(r, "due").Text
	}
	assert.Equal(t, map[string]string{"T/1": "2026-07-06", "T/3": "2026-07-06", "T/2": "2026-07-07"}, numbers,
		"the holidays and the cut-off count")
	assert.Contains(t, s.refuses(t, "/due", "plan", "shipped"), "want a plan")
}

// Zones that come late, or change, read every time of day anew; a fact is known by the day of its site.
func TestTimesAreReadAnewWhenZonesChange(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv",
		"number,site,ordered,shipped\nZ/1,Hamilton,2026-07-06T23:30:00Z,2026-07-09T22:00:00Z\nZ/2,Hamilton,2026-07-06T08:00,2026-07-08\n")})
	require.NoError(t, err)
	milestones := func(number string) map[string]string {
		order, err := s.Order(t.Context(), number, question{}.Words())
		require.NoError(t, err)
		return order.Order.Milestones
	}
	assert.Equal(t, map[string]string{"ordered": "2026-07-06", "shipped": "2026-07-09"}, milestones("Z/1"), "as written, without a zone")
	assert.Equal(t, 1, s.issues(t)["site-without-zone"].count)
	assert.Equal(t, map[string]any{"Z/1": 70.5, "Z/2": "no-time-of-day"}, lengths(t, s, question{In: "hours"}), "an instant needs no zone")

	_, err = s.SaveSettings(t.Context(), api.Settings{DataDate: "2026-07-09"})
	require.NoError(t, err)
	assert.Equal(t, 3.0, lengths(t, s, question{In: "days"})["Z/1"])
	_, err = s.Load(t.Context(), []string{write(t, "sites.csv", "site,zone\nhamilton,Pacific/Auckland\n")})
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"ordered": "2026-07-07", "shipped": "2026-07-10"}, milestones("Z/1"))
	assert.Equal(t, "running", lengths(t, s, question{In: "days"})["Z/1"], "by the clocks of Hamilton it ships after the data date")
	_, err = s.Load(t.Context(), []string{write(t, "sites.csv", "site,zone\nhamilton,America/Regina\n")})
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"ordered": "2026-07-06", "shipped": "2026-07-09"}, milestones("Z/1"))
	assert.Equal(t, 3.0, lengths(t, s, question{In: "days"})["Z/1"])
	loads, err := s.Loads(t.Context())
	require.NoError(t, err)
	_, err = s.Undo(t.Context(), loads.Loads[0].Number)
	require.NoError(t, err)
	assert.Equal(t, "running", lengths(t, s, question{In: "days"})["Z/1"])
}

// A calendar counts the orders of a region where none has the name of the site; a new one takes them at once.
func TestCalendarsOfRegionsAndNewOnes(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{
		write(t, "orders.csv", "number,site,place,country,ordered,shipped\nR/1,Athlone,Ennis,Ireland,2026-07-03,2026-07-06\nR/2,Elsewhere,,,2026-07-03,2026-07-06\n"),
		write(t, "sites.csv", "site,region,country,calendar\nAthlone,Connacht,Ireland,\n"),
		write(t, "places.csv", "place,country,region\nEnnis,Ireland,Munster\n"),
		write(t, "calendars.csv", "calendar,kind,day,weekdays\nConnacht,week,,Mon Tue Wed Thu Fri Sat\nMunster,week,,Mon Tue Wed Thu Fri Sat Sun\n"),
	})
	require.NoError(t, err)
	assert.Equal(t, map[string]any{"R/1": 2.0, "R/2": 1.0}, lengths(t, s, question{}))
	assert.Equal(t, map[string]any{"R/1": 3.0, "R/2": 1.0}, lengths(t, s, question{Calendar: "destination"}))
	order, err := s.Order(t.Context(), "R/1", question{Calendar: "destination"}.Words())
	require.NoError(t, err)
	assert.Equal(t, []string{"Munster", "3 working days"}, []string{order.Calendar, order.Words})

	sundays := api.CalendarDefinition{Weeks: []api.Week{{From: "1900-01-01", Days: "Sun"}, {From: "2027-01-01", Days: "Mon"}},
		Hours:    []api.DailyHours{},
		Holidays: []api.DatedName{}, HalfDays: []api.DatedName{}, ExtraDays: []api.DatedName{{Day: "2026-07-06", Name: "Rush"}},
		CoverageFrom: "2026-01-01", CoverageTo: "2026-06-30"}
	effect, err := s.CalendarEffect(t.Context(), "Athlone", sundays, question{Count: "both-ends"}.Words())
	require.NoError(t, err)
	assert.Equal(t, []any{"1 of 2 lengths change: 0 longer, 1 shorter", 2, 2}, []any{effect.Words, effect.UnknownBefore,
		effect.UnknownAfter})
	saved, err := s.SaveCalendar(t.Context(), "Athlone", sundays)
	require.NoError(t, err)
	assert.Equal(t, []any{1, []string{"Athlone"}, &sundays}, []any{saved.Orders, saved.Sites, saved.Definition})
	assert.Equal(t, map[string]any{"R/1": 2.0, "R/2": 1.0}, lengths(t, s, question{}), "the Sunday and the extra day")
	calendars, err := s.Calendars(t.Context())
	require.NoError(t, err)
	orders := map[string]int{}
	for _, c := range calendars.Calendars {
		orders[c.Name] = c.Orders
	}
	assert.Equal(t, map[string]int{"default": 1, "Athlone": 1, "Connacht": 0, "Munster": 0}, orders)
}

// Calendars are edited with their effect in view, days are answer as one types, and what is due opens its orders.
func TestConsoleCalendarsDaysAndDue(t *testing.T) {
	s := loadTimed(t)
	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/how-long"))
	b.text(test("sentence"), "in working days, start day not counted, after cut-offs, for all orders")
	b.do(chromedp.Click(test("pick-cut_off")), chromedp.Click(test("choice-off"), chromedp.NodeVisible))
	b.text(test("sentence"), "in working days, start day not counted, without cut-offs, for all orders")
	assert.Equal(t, "?cut_off=off", evaluate[string](b, "location.search"))
	b.do(chromedp.Navigate(s.address + "/calendars?beside=Oman"))
	b.text(test("sentence"), "Which days are worked by the calendar Galway in 2026, beside Oman?")
	b.text(test("facts"), "260 working days in 2026 · counts 3 orders of Galway")
	assert.Equal(t, "holiday", evaluate[string](b, `document.querySelector('[data-day="2026-07-01"]').dataset.kind`))
	b.text(test("comparison"), "Thu 2026-07-02")

	b.do(chromedp.Click(`[data-day="2026-07-02"]`, chromedp.NodeVisible), press("kind-holiday"),
		enter("day-name", "Storm"))
	b.text(test("effect"), "3 of 3 lengths change: 0 longer, 3 shorter; the mean goes from 1.67 to 0.67.")
	b.text(test("facts"), "259 working days")
	b.do(chromedp.Click(test("week-0-Sat")))
	b.text(test("facts"), "311 working days")
	b.do(chromedp.Click(test("week-0-Sat")))
	b.text(test("facts"), "259 working days")
	b.do(chromedp.Click(test("save")))
	require.Eventually(t, func() bool {
		c, err := s.Calendar(t.Context(), "Galway", 2026)
		return err == nil && len(c.Definition.Holidays) == 2 && c.Definition.Holidays[1] == api.DatedName{Day: "2026-07-02", Name: "Storm"}
	}, 10*time.Second, 50*time.Millisecond)
	b.do(chromedp.Navigate(s.address + "/calendars?name=Ireland"))
	b.text(test("new"), "A new calendar")
	b.text(test("effect"), "0 of 3 lengths change")

	// Its rules: a week and hours from a day on, what is known; what cannot be is said before it is saved.
	b.do(chromedp.Click(test("add-week")), chromedp.Click(test("week-1-Mon")), chromedp.Click(test("add-hours")))
	hours := func(text string) {
		b.do(enter("hours-0", text))
	}
	hours("16:00-08:00")
	b.text(test("effect"), "do not run from an earlier to a later time of one day")
	assert.True(t, evaluate[bool](b, `document.querySelector('[data-test="save"]').disabled`))
	hours("09:00-17:00")
	b.text(test("effect"), "0 of 3 lengths change")
	// The arrow keys walk through the year; Enter chooses a day.
	b.do(chromedp.Focus(`[data-day="2026-08-31"]`), chromedp.KeyEvent(kb.ArrowRight), chromedp.KeyEvent(kb.ArrowDown),
		chromedp.KeyEvent(kb.Enter))
	b.text(test("day-editor"), "Tue 2026-09-08")
	b.do(press("kind-half day"))
	assert.Equal(t, "09:00-13:00", evaluate[string](b, `document.querySelector('[data-test="day-hours"] input').value`))
	b.text(test("effect"), "Before you save")
	b.do(chromedp.Click(test("save")))
	require.Eventually(t, func() bool {
		c, err := s.Calendar(t.Context(), "Ireland", 2027)
		return err == nil && assert.ObjectsAreEqual([]api.Week{{From: "1900-01-01", Days: "Mon Tue Wed Thu Fri"},
			{From: "2027-01-01", Days: "Tue Wed Thu Fri"}}, c.Definition.Weeks) &&
			assert.ObjectsAreEqual([]api.DatedName{{Day: "2026-09-08", Hours: "09:00-13:00"}}, c.Definition.HalfDays)
	}, 10*time.Second, 50*time.Millisecond)
	b.do(chromedp.WaitVisible(test("pick-name")), press("pick-name"), chromedp.WaitVisible(test("choice-Ireland")),
		chromedp.KeyEvent(kb.Escape))

	folder := t.TempDir()
	b.do(downloadsTo(folder), chromedp.Navigate(s.address+"/calendars?name=Galway"))
	b.text(test("facts"), "259 working days")
	b.do(chromedp.Click(test("file-ics"), chromedp.NodeVisible))
	require.Eventually(t, func() bool {
		files, _ := filepath.Glob(filepath.Join(folder, "*.ics"))
		if len(files) == 0 {
			return false
		}
		text, err := os.ReadFile(files[0])
		return err == nil && strings.Contains(string(text), "SUMMARY:Storm")
	}, 10*time.Second, 50*time.Millisecond)

	b.do(chromedp.Click(test("calculator"), chromedp.NodeVisible), enter("calculator-to", "2026-07-10"))
	b.text(test("calculator-words"), "4 working days")
	b.text(test("calculator-sum"), "07-06 to 07-10: 5 days = 1 start + 4 counted")
	b.do(press("tab-latest"), enter("calculator-wanted", "2026-07-05"))
	b.text(test("calculator-words"), "Wed 2026-06-24")
	b.do(chromedp.KeyEvent(kb.Escape))

	b.do(chromedp.Navigate(s.address + "/due"))
	b.text(test("reconciliation"), "4 orders selected = 1 open and at risk + 2 shipped on the day + 1 shipped late")
	b.text(test("due"), "T/4")
	b.do(chromedp.Click(test("standing-reached-late")))
	b.text(test("due"), "T/3 Galway Tue 2026-06-30 Thu 2026-07-02 Fri 2026-07-03 1 shipped late")
	b.do(chromedp.Click(test("due") + " tbody button"))
	b.text(".sheet", "Order T/3")

	// A unit takes only the rules that it has, and its words stand over every length.
	pick := func(slot, choice string) {
		b.do(chromedp.Click(test("pick-"+slot), chromedp.NodeVisible), chromedp.WaitVisible(test("choice-"+choice)),
			chromedp.Click(test("choice-"+choice)))
	}
	b.do(chromedp.Navigate(s.address + "/how-long?count=both-ends"))
	b.text(test("heading"), "order date → ship date, working days, both ends counted, after cut-offs")
	pick("in", "working-days@destination")
	b.text(test("heading"), "order date → ship date, working days at the destination, both ends counted")
	pick("in", "working-hours")
	b.text(test("sentence"), "in working hours, between the instants, for all orders")
	b.text(test("heading"), "order date → ship date, working hours, between the instants")
	b.text(test("reconciliation"), "4 orders selected = 2 counted + 1 still running + 1 no time of day")
	b.do(chromedp.Click(test("pick-count"), chromedp.NodeVisible), chromedp.WaitVisible(test("choice-elapsed")))
	assert.Zero(t, evaluate[int](b, `document.querySelectorAll('[data-test="choice-both-ends"]').length`))
	b.do(chromedp.KeyEvent(kb.Escape), chromedp.Navigate(s.address+"/how-long"))
	b.do(chromedp.Click(test("note-cut-off"), chromedp.NodeVisible))
	b.text(test("selected"), "ordered after the cut-off: 1 order in 1 row")
	b.do(chromedp.Click(test("orders") + " tbody a"))
	b.text(test("order-sheet"), "Tue 2026-06-30 14:00 order date")
	b.text(test("length"), "0 working days")
	assert.Equal(t, 3, evaluate[int](b, `document.querySelectorAll('[data-part="after cut-off"]').length`),
		"the fair, the storm, and the day itself")
	b.do(chromedp.Click(test("leg-ordered-shipped")))

	// A condition is picked part by part, becomes text, and is asked; one that cannot be is mended where it is refused.
	b.do(chromedp.Navigate(s.address+"/how-long"), chromedp.Click(test("pick-where"), chromedp.NodeVisible),
		chromedp.WaitVisible(test("subject")))
	b.do(choose("subject", "country"), enter("condition-value", "Oman"), press("add-and"),
		choose("subject", "ship date"), choose("comparison-word", "is missing"), press("add-and"))
	assert.Equal(t, `country == "Oman" && shipped == null`, evaluate[string](b,
		`document.querySelector('[data-test="condition-text"] textarea').value`))
	b.do(chromedp.Click(test("ask-where")))
	b.text(test("sentence"), `where country == "Oman" && shipped == null`)
	b.text(test("reconciliation"), "1 order selected = 0 counted + 1 still running")
	b.text(test("placement"), "4 orders in the book = 1 selected + 3 do not meet the condition")
	b.do(chromedp.Click(test("placement") + " a:nth-of-type(2)"))
	b.text(test("selected"), "rders that do not meet the condition: 3 orders")
	b.do(chromedp.Navigate(s.address + "/orders?where=contry%20%3D%3D%20null"))
	b.text("[role=alert]", "did you mean country?")
	b.do(chromedp.Click(test("pick-where"), chromedp.NodeVisible), chromedp.WaitVisible(test("clear-where")),
		chromedp.Click(test("clear-where")))
	b.text(test("selected"), "ll selected orders: 4 orders")
	for _, fault := range b.wentWrong() {
		assert.Contains(t, fault, "422", "only the hours that cannot be are refused")
	}
}

// Holidays as they are published, in a calendar or a table: whose they are is asked unless the book knows the name.
func TestCalendarsAsTheyArePublished(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv",
		"number,site,country,ordered,shipped\nA,Galway,Ireland,2026-05-01,2026-05-05\nB,Lisbon,Portugal,2026-05-01,2026-05-05\n")})
	require.NoError(t, err)
	const event = "BEGIN:VEVENT\r\nUID:1\r\nDTSTAMP:20260101T000000Z\r\n"
	ics := write(t, "basic.ics", "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//test//EN\r\nX-WR-CALNAME:Holidays in Ireland\r\n"+
		event+"DTSTART;VALUE=DATE:20260504\r\nSUMMARY:May Day\r\nCATEGORIES:Public holiday\r\nEND:VEVENT\r\n"+
		event+"DTSTART;VALUE=DATE:20260505\r\nSUMMARY:Garden Day\r\nDESCRIPTION:Observance\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")
	ask := func(file string, reading client.Reading) []client.FileQuestion {
		t.Helper()
		_, err := s.LoadAs(t.Context(), []string{file}, reading)
		var problem *client.Problem
		require.ErrorAs(t, err, &problem)
		return problem.Questions()
	}
	questions := ask(ics, client.Reading{})
	require.Len(t, questions, 1)
	assert.Equal(t, []any{"observances", "are these days off, which the file calls observances: Garden Day?"},
		[]any{questions[0].Word, questions[0].Asks})
	questions = ask(ics, client.Reading{Observances: "left-out"})
	require.Len(t, questions, 1)
	assert.Equal(t, []any{"calendar_of", "Holidays in Ireland", []string{"Ireland", "Galway", "Lisbon", "Portugal", "default"}},
		[]any{questions[0].Word, questions[0].Column, questions[0].Answers})
	load, err := s.LoadAs(t.Context(), []string{ics}, client.Reading{Observances: "left-out",
		CalendarOf: []string{"Holidays in Ireland=Ireland"}})
	require.NoError(t, err)
	notes := ""
	for _, n := range load.Notes {
		notes += n.Text + "\n"
	}
	assert.Equal(t, "Ireland: 1 holiday from 2026-05-04 to 2026-05-04\nIreland: its days of the categories Public holiday count as days off\nIreland: left out as observances: Garden Day\n", notes)

	// A table of holidays, by country or its code, in any form; the same file means the same calendars.
	for name, text := range map[string]string{
		"codes.csv":  "country,date,name,type\nPT,2026-05-04,Mar,Public\nIE,2026-05-04,May Day,Public\nIE,2026-05-05,Garden Day,Observance\n",
		"names.csv":  "Land;Datum;Feiertag\nPortugal;04.05.26;Mar\nireland;04.05.26;May Day\nIreland;30.12.26;Late Day\n",
		"table.json": `[{"country": "Portugal", "date": "2026-05-04", "holiday": "Mar"}]`,
	} {
		_, err := s.LoadAs(t.Context(), []string{write(t, name, text)}, client.Reading{Observances: "left-out"})
		require.NoError(t, err, name)
		days := map[string]any{"A": 1.0, "B": 1.0}
		q := question{Calendar: "destination"}
		assert.Equal(t, days, lengths(t, s, q), "%s: Friday, a holiday on Monday, Tuesday", name)
	}
	one := write(t, "feiertage.csv", "date;name\n2026-05-04;May Day\n")
	questions = ask(one, client.Reading{})
	assert.Equal(t, []any{"calendar_of", "feiertage"}, []any{questions[0].Word, questions[0].Column})
	_, err = s.LoadAs(t.Context(), []string{one}, client.Reading{CalendarOf: []string{"default"}})
	require.NoError(t, err)
	assert.Equal(t, map[string]any{"A": 1.0, "B": 1.0}, lengths(t, s, question{}), "by the default of all")
	assert.Equal(t, "dates", ask(write(t, "dates.csv", "date,name\n04/05/2026,May Day\n"),
		client.Reading{CalendarOf: []string{"default"}})[0].Word)
	for text, want := range map[string]string{"date,name\nsoon,May Day\n": `row 2: "soon" in column "date"`, "date,name\n": "has no row",
		"date,name\n2026-05-04,\"May": "missing \" in quoted-field"} {
		_, err = s.LoadAs(t.Context(), []string{write(t, "bad.csv", text)}, client.Reading{CalendarOf: []string{"default"}})
		assert.ErrorContains(t, err, want, text)
	}
	// In an empty book a table says whose its holidays are.
	empty := startService(t)
	_, err = empty.Load(t.Context(), []string{write(t, "codes.csv", "country,date,name\nPortugal,2026-05-04,Mar\n")})
	require.NoError(t, err)
}
