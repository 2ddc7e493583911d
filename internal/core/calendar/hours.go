package calendar

import (
	"fmt"
	"slices"
	"sort"
	"strings"
	"sync"
	"time"

	"prairiedusk/internal/core/day"
)

// A Shift is a stretch of a day that is worked, in seconds since midnight as a clock shows them: from From up to,
// and without, To.
type Shift struct{ From, To int }

// Hours are the shifts of a day, the earliest first, without overlap.
type Hours []Shift

// ParseHours reads "08:00-12:00 13:00-16:30"; the last shift may end at 24:00. Empty text is no hours.
func ParseHours(text string) (Hours, error) {
	var h Hours
	for _, part := range strings.Fields(text) {
		from, to, found := strings.Cut(part, "-")
		if !found {
			return nil, fmt.Errorf("%q is no stretch of a day; want HH:MM-HH:MM such as 08:00-16:30", part)
		}
		var s Shift
		var err error
		if s.From, err = day.ClockSeconds(from); err != nil {
			return nil, err
		}
		if s.To, err = day.ClockSeconds(to); err != nil {
			return nil, err
		}
		h = append(h, s)
	}
	return h, h.check()
}

func (h Hours) check() error {
	for i, s := range h {
		switch {
		case s.From < 0 || s.To > 24*3600 || s.From >= s.To:
			return fmt.Errorf("the hours %v do not run from an earlier to a later time of one day; hours across midnight are two stretches", h)
		case i > 0 && s.From < h[i-1].To:
			return fmt.Errorf("the hours %v overlap, or are not in order", h)
		}
	}
	return nil
}

// String is the form that ParseHours reads.
func (h Hours) String() string {
	parts := make([]string, len(h))
	for i, s := range h {
		parts[i] = clock(s.From) + "-" + clock(s.To)
	}
	return strings.Join(parts, " ")
}

func clock(seconds int) string {
	if seconds%60 != 0 {
		return fmt.Sprintf("%02d:%02d:%02d", seconds/3600, seconds/60%60, seconds%60)
	}
	return fmt.Sprintf("%02d:%02d", seconds/3600, seconds/60%60)
}

// DailyHours hold on the working days from a day on, until the next DailyHours.
type DailyHours struct {
	From  day.Day
	Hours Hours
}

// A HalfDay is worked, whatever the pattern and the holidays say, in hours of its own.
type HalfDay struct {
	NamedDay
	Hours Hours
}

// Hours are those of a day: its own on a half day, none on a day that is not worked or for which none are given.
func (c *Calendar) Hours(d day.Day) Hours {
	if half, isHalf := c.halves[d]; isHalf {
		return half.Hours
	}
	daily := c.definition.Hours
	if !c.Works(d) || len(daily) == 0 {
		return nil
	}
	after := sort.Search(len(daily), func(i int) bool { return daily[i].From > d })
	return daily[max(0, after-1)].Hours
}

// HasHours says whether the calendar gives daily hours at all.
func (c *Calendar) HasHours() bool { return len(c.definition.Hours) > 0 }

// Local is a calendar where it is kept. A nil Zone is not known.
type Local struct {
	*Calendar
	Zone *time.Location
}

// Timed says whether working hours can be counted: the calendar has daily hours and the zone is known.
func (l Local) Timed() bool { return l.Zone != nil && l.HasHours() }

// WorkedSeconds is the part of [start, end) that lies inside the daily hours, in seconds as they pass, also where
// the clocks change; for an end before the start it is the negative of the part from end to start. Whatever the
// span, it is two look-ups in a running total. The calendar must be Timed.
func (l Local) WorkedSeconds(start, end day.Instant) int {
	totals := l.worktime()
	return int(l.workedBefore(totals, end) - l.workedBefore(totals, start))
}

// workedBefore is what is worked before an instant, since the first supported day.
func (l Local) workedBefore(totals []int64, at day.Instant) int64 {
	d := day.FromTime(at.In(l.Zone))
	if d == 0 { // beyond either end nothing is worked
		if at <= 0 {
			return 0
		}
		return totals[len(totals)-1]
	}
	sum := totals[d]
	for _, s := range l.Hours(d) {
		from, to := l.reached(d, s.From), l.reached(d, s.To)
		sum += int64(max(0, min(at, to)-from))
	}
	return sum
}

// reached is the instant at which the clocks of the zone have come to so many seconds since midnight on a day: where they are
// put forward over that time, the instant of the change.
func (l Local) reached(d day.Day, seconds int) day.Instant {
	at := d.At(seconds, l.Zone)
	shown := at.In(l.Zone)
	if hour, minute, second := shown.Clock(); hour*3600+minute*60+second != seconds%(24*3600) {
		if change, _ := shown.ZoneBounds(); !change.IsZero() {
			return day.InstantOf(change)
		}
	}
	return at
}

// worktimes keeps the running totals of a calendar by zone: they are made on first use.
type worktimes struct {
	lock   sync.Mutex
	totals map[string][]int64
}

// worktime is the running total of worked seconds: worktime()[d] is what is worked before day d.
func (l Local) worktime() []int64 {
	l.times.lock.Lock()
	defer l.times.lock.Unlock()
	if totals, made := l.times.totals[l.Zone.String()]; made {
		return totals
	}
	totals := make([]int64, day.Last+2)
	// Between two changes of the clocks a second of the clock is a second that passes.
	var steadyUntil day.Day
	for d := day.First; d <= day.Last; d++ {
		sum := int64(0)
		for _, s := range l.Hours(d) {
			if d < steadyUntil {
				sum += int64(s.To - s.From)
			} else {
				sum += int64(l.reached(d, s.To) - l.reached(d, s.From))
			}
		}
		totals[d+1] = totals[d] + sum
		if d >= steadyUntil {
			_, change := d.At(24*3600, l.Zone).In(l.Zone).ZoneBounds()
			if steadyUntil = day.Last + 1; !change.IsZero() {
				// The days around a change are reckoned one by one.
				steadyUntil = max(d+1, min(day.Last+1, day.FromTime(change.UTC())-1))
			}
		}
	}
	if l.times.totals == nil {
		l.times.totals = map[string][]int64{}
	}
	l.times.totals[l.Zone.String()] = totals
	return totals
}

// indexHalves sorts the half days, folds those given twice and maps them.
func indexHalves(calendar string, halves []HalfDay) (map[day.Day]HalfDay, []HalfDay, error) {
	by := make(map[day.Day]HalfDay, len(halves))
	var once []HalfDay
	for _, h := range halves {
		if !h.Day.Known() {
			return nil, nil, fmt.Errorf("calendar %q: the half day %q: %w", calendar, h.Name, ErrOutsideDays)
		}
		if err := h.Hours.check(); err != nil || len(h.Hours) == 0 {
			return nil, nil, fmt.Errorf("calendar %q: the half day %v wants hours of its own such as 08:00-12:00 (has %q)", calendar,
				h.Day, h.Hours)
		}
		earlier, twice := by[h.Day]
		switch {
		case !twice:
			by[h.Day] = h
			once = append(once, h)
		case !slices.Equal(earlier.Hours, h.Hours):
			return nil, nil, fmt.Errorf("calendar %q: the half day %v has two kinds of hours, %v and %v; want one", calendar, h.Day,
				earlier.Hours, h.Hours)
		}
	}
	slices.SortFunc(once, func(a, b HalfDay) int { return int(a.Day - b.Day) })
	return by, once, nil
}

// checkHours sorts the daily hours by their days.
func checkHours(calendar string, daily []DailyHours) ([]DailyHours, error) {
	daily = slices.Clone(daily)
	slices.SortStableFunc(daily, func(a, b DailyHours) int { return int(a.From - b.From) })
	for i, h := range daily {
		if err := h.Hours.check(); err != nil {
			return nil, fmt.Errorf("calendar %q: %w", calendar, err)
		}
		if len(h.Hours) == 0 {
			return nil, fmt.Errorf("calendar %q: the daily hours from %v on are none; want such as 08:00-16:30", calendar, h.From)
		}
		if i > 0 && h.From == daily[i-1].From {
			return nil, fmt.Errorf("calendar %q: two daily hours begin on %v; want one", calendar, h.From)
		}
	}
	return daily, nil
}
