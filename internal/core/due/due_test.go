package due

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/query/querytest"
	"prairiedusk/internal/core/request"
)

// Days count from Friday 2026-07-03, the data date of made books.
var friday = day.Of(2026, 7, 3)

func put(b *book.Builder, id int, days map[string]day.Day, at day.Instant) book.Order {
	o := book.Order{ID: int64(id), Number: fmt.Sprint(id), Days: make([]day.Day, len(milestone.BuiltIn())),
		Instants: make([]day.Instant, len(milestone.BuiltIn()))}
	o.Fields[book.Site] = "Galway"
	o.Instants[0] = at
	for name, d := range days {
		o.Days[milestone.Index(milestone.BuiltIn(), name)] = d
	}
	b.Put(o)
	return o
}

func ends(t require.TestingT) book.Settings {
	galway, err := calendar.New(calendar.Definition{Name: "Galway", Holidays: []calendar.NamedDay{{Day: friday + 4, Name: "Tuesday off"}}})
	require.NoError(t, err)
	calendars, err := book.NewCalendars([]*calendar.Calendar{galway})
	require.NoError(t, err)
	return book.Settings{Bounds: period.Bounds{FirstDay: friday - 60, DataDate: friday}, Calendars: calendars,
		Sites: []book.SiteRecord{{Name: "Galway", Zone: time.UTC, CutOff: 14 * 3600}}}
}

func TestStandings(t *testing.T) {
	b := book.NewBuilder(book.BuiltIn())
	const ordered, promised, shipped, cancelled = milestone.Ordered, milestone.Promised, milestone.Shipped, milestone.Cancelled
	for i, tt := range []map[string]day.Day{
		{ordered: friday - 9, promised: friday - 1},                        // 0: late by a day
		{ordered: friday - 9, promised: friday},                            // 1: due today, not late
		{ordered: friday - 9, promised: friday + 5},                        // 2: due on the 2nd working day, since Tuesday is off
		{ordered: friday - 9, promised: friday + 6},                        // 3: the 3rd
		{ordered: friday - 9, promised: friday - 7, shipped: friday - 6},   // 4: promised Friday, shipped Saturday is late
		{ordered: friday - 9, promised: friday - 3, shipped: friday - 4},   // 5: early
		{ordered: friday - 9, promised: friday - 3, shipped: friday - 3},   // 6: on the day
		{ordered: friday - 9, promised: friday - 3, cancelled: friday - 5}, // 7: cancelled
		{ordered: friday - 9},                                              // 8: no promise
		{ordered: friday + 1, promised: friday + 2},                        // 9: ordered after the data date
		{ordered: friday - 9, promised: friday - 3, shipped: friday + 1},   // 10: shipped after the data date: overdue
		{ordered: friday - 9, cancelled: friday - 5},                       // 11: cancelled comes before no promise
	} {
		put(b, i, tt, 0)
	}
	finished := b.Finish(ends(t))
	q, err := Parse(finished, Request{Within: "2"})
	require.NoError(t, err)
	assert.Equal(t, "Which orders are due to be shipped at any time by the promised date, as of Fri 2026-07-03, at risk when due within 2 working days?", q.Sentence(finished).String())
	a := Ask(finished, q)
	got := map[int]string{}
	over := map[int]int{}
	for _, e := range a.Listed {
		got[e.Row], over[e.Row] = e.Standing.String(), e.Over
	}
	assert.Equal(t, map[int]string{0: "overdue", 1: "at-risk", 2: "at-risk", 3: "due-later", 4: "reached-late", 5: "early",
		6: "on-the-day", 7: "cancelled", 8: "no-promise", 9: "not-begun", 10: "overdue", 11: "cancelled"}, got)
	assert.Equal(t, []int{1, 0, -2, 0, -1, 3}, []int{over[0], over[1], over[2], over[4], over[5], over[10]})
	assert.Equal(t, [Standings]int{Standing(promise.Overdue): 2, AtRisk: 2, DueLater: 1, Standing(promise.OnTheDay): 1,
		Standing(promise.Early): 1, Standing(promise.ReachedLate): 1, Standing(promise.Cancelled): 2, Standing(promise.NoPromise): 1,
		Standing(promise.NotBegun): 1}, a.Counts)

	q, err = Parse(finished, Request{Period: "2026-06-30/2026-07-03"})
	require.NoError(t, err)
	a = Ask(finished, q, Standing(promise.Overdue), AtRisk)
	assert.Equal(t, [3]int{6, 4, 2}, [3]int{a.Asked, a.Outside, a.Undue})
	rows := []int{}
	for _, e := range a.Page(finished, 0, 10) {
		rows = append(rows, e.Row)
	}
	assert.Equal(t, []int{10, 0, 1}, rows, "by due day")
}

// By ordered + n working days, beside a walk; an order after the cut-off counts from the next working day.
func TestDueSoManyWorkingDaysAfterOrdered(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := book.NewBuilder(book.BuiltIn())
		ordered := friday - day.Day(rapid.IntRange(0, 12).Draw(t, "ordered"))
		hour := rapid.IntRange(0, 23).Draw(t, "hour")
		timed := rapid.Bool().Draw(t, "timed")
		at := day.Instant(0)
		if timed {
			at = ordered.At(hour*3600, time.UTC)
		}
		put(b, 0, map[string]day.Day{milestone.Ordered: ordered}, at)
		finished := b.Finish(ends(t))
		n := rapid.IntRange(0, 9).Draw(t, "n")
		q, err := Parse(finished, Request{After: fmt.Sprint(n)})
		require.NoError(t, err)
		works := func(d day.Day) bool { return d.Weekday() != 0 && d.Weekday() != 6 && d != friday+4 }
		want := ordered
		if timed && hour >= 14 || !works(want) {
			for want++; !works(want); want++ {
			}
		}
		for left := n; left > 0; {
			if want++; works(want) {
				left--
			}
		}
		for !works(want) {
			want++
		}
		require.Equal(t, want, Ask(finished, q).Listed[0].Due)
	})
}

// Random books beside a plain version: every order stands in one group, by its days alone, and the period divides the
// rest.
func TestStandingsAgreeWithAPlainVersion(t *testing.T) {
	plain := func(o book.Order, q Question) (due day.Day, standing string) {
		at := func(name string) day.Day { return o.Days[milestone.Index(milestone.BuiltIn(), name)] }
		known := func(name string) day.Day {
			if d := at(name); d <= friday {
				return d
			}
			return 0
		}
		works := func(d day.Day) bool { return d.Weekday() != 0 && d.Weekday() != 6 && d != friday+4 }
		due = at(milestone.Promised)
		if q.By.Name == "" {
			if due = known(milestone.Ordered); due != 0 {
				if !works(due) { // ordered on a day off, at a site with a cut-off
					for due++; !works(due); due++ {
					}
				}
				for left := q.After; left > 0; {
					if due++; works(due) {
						left--
					}
				}
				for !works(due) {
					due++
				}
			}
		}
		left := 0
		for d := friday + 1; d <= due; d++ {
			if works(d) {
				left++
			}
		}
		shipped := known(milestone.Shipped)
		switch {
		case shipped == 0 && known(milestone.Cancelled) != 0:
			return due, "cancelled"
		case known(milestone.Ordered) == 0 && at(milestone.Ordered) != 0:
			return due, "not-begun"
		case due == 0:
			return due, "no-promise"
		case shipped != 0 && shipped < due:
			return due, "early"
		case shipped == due:
			return due, "on-the-day"
		case shipped != 0:
			return due, "reached-late"
		case due < friday:
			return due, "overdue"
		case left <= q.Within:
			return due, "at-risk"
		}
		return due, "due-later"
	}
	rapid.Check(t, func(t *rapid.T) {
		b := book.NewBuilder(book.BuiltIn())
		var orders []book.Order
		for i := range rapid.IntRange(0, 30).Draw(t, "orders") {
			days := map[string]day.Day{}
			for _, name := range []string{milestone.Ordered, milestone.Promised, milestone.Shipped, milestone.Cancelled} {
				if rapid.IntRange(0, 3).Draw(t, name) > 0 {
					days[name] = friday + day.Day(rapid.IntRange(-12, 12).Draw(t, "day"))
				}
			}
			orders = append(orders, put(b, i, days, 0))
		}
		finished := b.Finish(ends(t))
		r := Request{Within: fmt.Sprint(rapid.IntRange(0, 6).Draw(t, "within"))}
		if rapid.Bool().Draw(t, "by days") {
			r.After = fmt.Sprint(rapid.IntRange(0, 6).Draw(t, "after"))
		}
		if rapid.Bool().Draw(t, "in a period") {
			r.Period = "2026-06-29/2026-07-05"
		}
		q, err := Parse(finished, r)
		require.NoError(t, err)
		p := newPlan(finished, q)
		querytest.Check(t, p.scope, func() *tally { return &tally{plan: p} }, func(counted *tally) any { return counted.answer() })
		counts, asked, outside, undue := [Standings]int{}, 0, 0, 0
		want := map[int]string{}
		for row, o := range orders {
			due, standing := plain(o, q)
			switch {
			case r.Period != "" && due == 0:
				undue++
			case r.Period != "" && (due < friday-4 || due > friday+2):
				outside++
			default:
				asked++
				s, err := ParseStandings(standing)
				require.NoError(t, err)
				counts[s[0]]++
				want[row] = standing
			}
		}
		a := Ask(finished, q)
		require.Equal(t, []int{asked, outside, undue}, []int{a.Asked, a.Outside, a.Undue})
		require.Equal(t, counts, a.Counts)
		got := map[int]string{}
		whole := a.Page(finished, 0, 1000)
		for i, e := range whole {
			got[e.Row] = e.Standing.String()
			if i > 0 {
				before := whole[i-1]
				require.True(t, before.Due == e.Due && before.Row < e.Row || before.Due != 0 && (e.Due == 0 || e.Due > before.Due),
					"by due day, those without one last, then number")
			}
		}
		require.Equal(t, want, got)
		offset, limit := rapid.IntRange(0, 30).Draw(t, "offset"), rapid.IntRange(1, 10).Draw(t, "limit")
		require.ElementsMatch(t, whole[min(offset, len(whole)):min(offset+limit, len(whole))], a.Page(finished, offset, limit),
			"any page is that stretch of the whole")
		late := Ask(finished, q, Standing(promise.Overdue))
		require.Len(t, late.Listed, counts[promise.Overdue])
		require.Equal(t, a.Counts, late.Counts, "what is listed changes no count")
	})
}

func TestWhatIsRefused(t *testing.T) {
	b := book.NewBuilder(book.BuiltIn()).Finish(ends(t))
	for _, tt := range []struct {
		request    Request
		word, want string
	}{
		{Request{To: "promised"}, "to", "that an order reaches"},
		{Request{To: "sent"}, "to", "no date of this book"},
		{Request{By: "shipped"}, "plan", "want a plan"},
		{Request{By: "promised", After: "3"}, "after", "not both"},
		{Request{After: "-1"}, "after", "from 0 to 10000"},
		{Request{Within: "soon"}, "within", "from 0 to 10000"},
		{Request{Period: "July"}, "period", "of which year"},
		{Request{Period: "2026-06,2026-07"}, "period", "one period"},
	} {
		_, err := Parse(b, tt.request)
		var refused *request.Error
		require.ErrorAs(t, err, &refused, "%+v", tt.request)
		assert.Equal(t, tt.word, refused.Param)
		assert.ErrorContains(t, err, tt.want)
	}
	_, err := ParseStandings("tardy")
	assert.ErrorContains(t, err, "want one of overdue, at-risk")
	late, err := ParseStandings("late")
	require.NoError(t, err)
	assert.Equal(t, []Standing{Standing(promise.Overdue), Standing(promise.ReachedLate)}, late, "late, open or not")
	q, err := Parse(b, Request{To: "delivered"})
	require.NoError(t, err)
	assert.Equal(t, "expected", q.By.Name)
}
