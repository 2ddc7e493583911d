// Package calendar says which days are worked. A Calendar keeps a running total of its working days, so
// that the working days between any two days are two look-ups whatever lies between them.
package calendar

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"sort"
	"strings"
	"time"
	"unicode"

	"prairiedusk/internal/core/day"
)

// A Week holds the weekdays that are worked: bit i stands for time.Weekday(i). The zero Week works never
// and is refused by New.
type Week uint8

// MondayToFriday is the week of a calendar that nothing else is known about.
const MondayToFriday Week = 1<<time.Monday | 1<<time.Tuesday | 1<<time.Wednesday | 1<<time.Thursday | 1<<time.Friday

// Works says whether the weekday is worked.
func (w Week) Works(d time.Weekday) bool { return w>>d&1 == 1 }

// String lists the worked weekdays, Monday first: "Mon Tue Wed Thu Fri".
func (w Week) String() string {
	var names []string
	for i := range 7 {
		if d := time.Weekday((i + 1) % 7); w.Works(d) {
			names = append(names, d.String()[:3])
		}
	}
	return strings.Join(names, " ")
}

// ParseWeek reads the names of weekdays, in full or their first three letters, in any order: "Sun Mon Tue Wed Thu".
func ParseWeek(text string) (Week, error) {
	var w Week
	for _, name := range strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == ',' }) {
		i := slices.IndexFunc(weekdays[:], func(full string) bool {
			return strings.EqualFold(name, full) || strings.EqualFold(name, full[:3])
		})
		if i < 0 {
			return 0, fmt.Errorf("%q is not a weekday; want such as Mon Tue Wed Thu Fri", name)
		}
		w |= 1 << i
	}
	if w == 0 {
		return 0, errors.New("no weekday is worked; want at least one such as Mon")
	}
	return w, nil
}

var weekdays = [...]string{"Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"}

// A Pattern is the week that holds from a day on, until the next Pattern.
type Pattern struct {
	From day.Day
	Week Week
}

// A NamedDay is a holiday, a half day or an extra working day.
type NamedDay struct {
	Day  day.Day
	Name string
	// Unbounded marks a day that comes from a rule without an end. Such a rule says nothing about which
	// years somebody has looked up, so it does not extend the coverage.
	Unbounded bool
}

// A Definition is what people write down about a calendar.
type Definition struct {
	Name string
	// Patterns may come in any order; the earliest also holds for the days before it. Empty means Monday
	// to Friday.
	Patterns []Pattern
	// Holidays are not worked. A day given twice is one, under the name given first.
	Holidays []NamedDay
	// Extra days are worked whatever the pattern and the holidays say.
	Extra []NamedDay
	// Hours are the daily hours, in any order; the earliest also hold before their day. Empty means that they
	// are not known, and nothing is counted in working hours.
	Hours []DailyHours
	// HalfDays are worked whatever the pattern and the holidays say, in hours of their own.
	HalfDays []HalfDay
	// Coverage are the days for which holidays are known, where that is stated. The zero Span derives them: the whole years,
	// each by itself, that have a holiday, but for those with under half of the usual number of the others.
	Coverage day.Span
}

// A Kind says what a calendar makes of a day.
type Kind uint8

// A weekend is any rest day of the weekly pattern, also when a holiday falls on it.
const (
	Working Kind = iota
	Weekend
	Holiday
	ExtraWorking
	HalfWorking
)

var kindNames = [...]string{Working: "working", Weekend: "weekend", Holiday: "holiday", ExtraWorking: "extra working day",
	HalfWorking: "half day"}

func (k Kind) String() string {
	if int(k) < len(kindNames) {
		return kindNames[k]
	}
	return fmt.Sprintf("Kind(%d)", k)
}

// ErrOutsideDays is returned, wrapped, where a reckoning leaves the supported days.
var ErrOutsideDays = fmt.Errorf("calendar: outside the supported days, %v to %v", day.First, day.Last)

// A Calendar is immutable and may be shared.
type Calendar struct {
	definition Definition
	holidays   map[day.Day]string
	extra      map[day.Day]string
	halves     map[day.Day]HalfDay
	// totals[d+1] is the number of working days on or before d, so that totals[d] is the number before d.
	totals []int32
	times  *worktimes
	// coverage are the days for which holidays are known, in order; no two adjoin.
	coverage []day.Span
	// stated says that the coverage was not derived.
	stated bool
}

// New checks the definition and adds up its days, with each list sorted and every day once: a walk over all supported
// days, about half a megabyte.
func New(def Definition) (*Calendar, error) {
	if len(def.Patterns) == 0 {
		def.Patterns = []Pattern{{day.First, MondayToFriday}}
	}
	def.Patterns = slices.Clone(def.Patterns)
	slices.SortStableFunc(def.Patterns, func(a, b Pattern) int { return cmp.Compare(a.From, b.From) })
	for i, p := range def.Patterns {
		if p.Week&0x7f == 0 {
			return nil, fmt.Errorf("calendar %q: the week from %v on has no worked weekday; it needs at least one", def.Name, p.From)
		}
		if i > 0 && p.From == def.Patterns[i-1].From {
			return nil, fmt.Errorf("calendar %q: two weeks begin on %v; want one", def.Name, p.From)
		}
	}
	c := &Calendar{definition: def, times: &worktimes{}}
	var err error
	if c.holidays, c.definition.Holidays, err = index(def.Name, "holiday", def.Holidays); err != nil {
		return nil, err
	}
	if c.extra, c.definition.Extra, err = index(def.Name, "extra working day", def.Extra); err != nil {
		return nil, err
	}
	if c.halves, c.definition.HalfDays, err = indexHalves(def.Name, def.HalfDays); err != nil {
		return nil, err
	}
	if c.definition.Hours, err = checkHours(def.Name, def.Hours); err != nil {
		return nil, err
	}
	if c.stated = def.Coverage != (day.Span{}); c.stated {
		c.coverage = []day.Span{def.Coverage}
	} else {
		c.coverage = covered(c.definition.Holidays)
	}
	// The earliest week and hours hold before their days, too.
	c.definition.Patterns[0].From = day.First
	if len(c.definition.Hours) > 0 {
		c.definition.Hours[0].From = day.First
	}
	c.total()
	return c, nil
}

// Same says whether two definitions make the same calendar, however they are written down. Definitions that make none
// are not the same.
func Same(a, b Definition) bool {
	x, errA := New(a)
	y, errB := New(b)
	return errA == nil && errB == nil && x.stated == y.stated && reflect.DeepEqual(x.definition, y.definition)
}

// index sorts the days, folds those given twice and maps them to their names.
func index(calendar, kind string, days []NamedDay) (map[day.Day]string, []NamedDay, error) {
	names, places := make(map[day.Day]string, len(days)), map[day.Day]int{}
	once := make([]NamedDay, 0, len(days))
	for _, n := range days {
		if !n.Day.Known() {
			return nil, nil, fmt.Errorf("calendar %q: the %s %q: %w", calendar, kind, n.Name, ErrOutsideDays)
		}
		if strings.ContainsFunc(n.Name, unicode.IsControl) {
			return nil, nil, fmt.Errorf("calendar %q: the %s %q has a name that is not one line of text", calendar, kind, n.Name)
		}
		if at, twice := places[n.Day]; twice {
			// Whoever looked the day up knows it, whatever a rule says too.
			once[at].Unbounded = once[at].Unbounded && n.Unbounded
			continue
		}
		places[n.Day] = len(once)
		names[n.Day] = n.Name
		once = append(once, n)
	}
	slices.SortFunc(once, func(a, b NamedDay) int { return cmp.Compare(a.Day, b.Day) })
	return names, once, nil
}

// covered is the derived coverage of Definition. The usual number of holidays is the median of the other years that have any: one
// stray New Year's Day does not make a year known.
func covered(holidays []NamedDay) (spans []day.Span) {
	counts := map[int]int{}
	for _, h := range holidays {
		if year, _, _ := h.Day.Date(); !h.Unbounded {
			counts[year]++
		}
	}
	years := slices.Sorted(maps.Keys(counts))
	for _, year := range years {
		var others []int
		for _, other := range years {
			if other != year {
				others = append(others, counts[other])
			}
		}
		slices.Sort(others)
		if n := len(others); n > 0 && 4*counts[year] < others[(n-1)/2]+others[n/2] {
			continue
		}
		whole := day.Through(day.Of(year, 1, 1), day.Of(year, 12, 31))
		if last := len(spans) - 1; last >= 0 && spans[last].To == whole.From {
			spans[last].To = whole.To
			continue
		}
		spans = append(spans, whole)
	}
	return spans
}

// Merge is what two definitions of one calendar say together, where they speak of different things or say the same. The error
// says where they contradict.
func Merge(a, b Definition) (Definition, error) {
	contradict := func(what string) error {
		return fmt.Errorf("calendar %q: two files of one load say different things about %s; want one of them", a.Name, what)
	}
	if len(a.Patterns) > 0 && len(b.Patterns) > 0 && !slices.Equal(a.Patterns, b.Patterns) {
		return a, contradict("its week")
	}
	if len(a.Hours) > 0 && len(b.Hours) > 0 && !slices.EqualFunc(a.Hours, b.Hours, func(x, y DailyHours) bool {
		return x.From == y.From &&
			slices.Equal(x.Hours, y.Hours)
	}) {
		return a, contradict("its daily hours")
	}
	if a.Coverage != (day.Span{}) && b.Coverage != (day.Span{}) && a.Coverage != b.Coverage {
		return a, contradict("the days for which its holidays are known")
	}
	if len(a.Patterns) == 0 {
		a.Patterns = b.Patterns
	}
	if len(a.Hours) == 0 {
		a.Hours = b.Hours
	}
	if a.Coverage == (day.Span{}) {
		a.Coverage = b.Coverage
	}
	kinds := map[day.Day]string{}
	note := func(kind string, d day.Day) error {
		if other, known := kinds[d]; known && other != kind {
			return contradict(fmt.Sprintf("%v, which is a %s and a %s", d, other, kind))
		}
		kinds[d] = kind
		return nil
	}
	for _, def := range []Definition{a, b} {
		for _, h := range def.Holidays {
			if err := note("holiday", h.Day); err != nil {
				return a, err
			}
		}
		for _, e := range def.Extra {
			if err := note("working day", e.Day); err != nil {
				return a, err
			}
		}
	}
	a.Holidays, a.Extra, a.HalfDays = slices.Concat(a.Holidays, b.Holidays), slices.Concat(a.Extra, b.Extra),
		slices.Concat(a.HalfDays, b.HalfDays)
	_, err := New(a)
	return a, err
}

// Over is a definition that takes the place of an earlier one. One that states no week is a list of days alone: it leaves the
// week and the daily hours as they were, and half days and extra working days where it has none.
func (d Definition) Over(earlier Definition) Definition {
	if len(d.Patterns) > 0 {
		return d
	}
	d.Patterns = earlier.Patterns
	if len(d.Hours) == 0 {
		d.Hours = earlier.Hours
	}
	if len(d.Extra) == 0 {
		d.Extra = earlier.Extra
	}
	if len(d.HalfDays) == 0 {
		d.HalfDays = earlier.HalfDays
	}
	if len(d.Holidays) == 0 {
		d.Holidays, d.Coverage = earlier.Holidays, earlier.Coverage
	}
	return d
}

func (c *Calendar) total() {
	c.totals = make([]int32, day.Last+2)
	patterns := c.definition.Patterns
	week, next := patterns[0].Week, 1
	weekday := day.First.Weekday()
	for d := day.First; d <= day.Last; d++ {
		for next < len(patterns) && patterns[next].From <= d {
			week = patterns[next].Week
			next++
		}
		worked := week.Works(weekday)
		if worked {
			_, holiday := c.holidays[d]
			worked = !holiday
		}
		if !worked {
			_, worked = c.extra[d]
		}
		if !worked {
			_, worked = c.halves[d]
		}
		c.totals[d+1] = c.totals[d]
		if worked {
			c.totals[d+1]++
		}
		weekday = (weekday + 1) % 7
	}
}

// EveryDay counts each day: it turns the reckoning of working days into that of days.
func EveryDay() *Calendar {
	c, err := New(Definition{
		Name:     "every day",
		Patterns: []Pattern{{day.First, 0x7f}},
		Coverage: day.Through(day.First, day.Last),
	})
	if err != nil {
		panic(err) // the definition above is whole
	}
	return c
}

// Name is the name that the calendar was defined under.
func (c *Calendar) Name() string { return c.definition.Name }

// Definition is the calendar as New understood it: sorted and folded. It must not be changed.
func (c *Calendar) Definition() Definition { return c.definition }

// Coverage are the spans of days for which holidays are known, in order, with days between that are not; none where no holiday
// is known.
func (c *Calendar) Coverage() []day.Span { return c.coverage }

// Known says whether holidays are known for a day.
func (c *Calendar) Known(d day.Day) bool { return c.Covers(d, d) }

// CoverageWords name the days for which holidays are known: "2025-01-01 to 2026-12-31"; empty where none are.
func (c *Calendar) CoverageWords() string {
	words := make([]string, len(c.coverage))
	for i, s := range c.coverage {
		words[i] = fmt.Sprintf("%v to %v", s.From, s.LastDay())
	}
	return strings.Join(words, " and ")
}

// CoverageStated says whether the coverage was given, not derived from the holidays.
func (c *Calendar) CoverageStated() bool { return c.stated }

// Covers says whether holidays are known for every day from one to another, whichever comes first.
func (c *Calendar) Covers(start, end day.Day) bool {
	for _, s := range c.coverage {
		if s.Holds(start) {
			return s.Holds(end)
		}
	}
	return false
}

// Totals is the running total itself, for loops over columns of days: Totals()[d+1] is the number of
// working days on or before d. It must not be changed.
func (c *Calendar) Totals() []int32 { return c.totals }

// Works says whether d is a working day.
func (c *Calendar) Works(d day.Day) bool { return c.totals[d+1] != c.totals[d] }

// Week is the weekly pattern that holds on d.
func (c *Calendar) Week(d day.Day) Week {
	patterns := c.definition.Patterns
	after := sort.Search(len(patterns), func(i int) bool { return patterns[i].From > d })
	return patterns[max(0, after-1)].Week
}

// Kind says what d is, and the name of the holiday, half day or extra working day that falls on it.
func (c *Calendar) Kind(d day.Day) (Kind, string) {
	holiday, isHoliday := c.holidays[d]
	if half, isHalf := c.halves[d]; isHalf {
		return HalfWorking, half.Name
	}
	if name, isExtra := c.extra[d]; isExtra {
		return ExtraWorking, name
	}
	if !c.Week(d).Works(d.Weekday()) {
		return Weekend, holiday
	}
	if isHoliday {
		return Holiday, holiday
	}
	return Working, ""
}

// Elapsed is the number of working days after start up to and with end; for an end before the start it is
// the negative of the length from end to start.
func (c *Calendar) Elapsed(start, end day.Day) int {
	return int(c.totals[end+1] - c.totals[start+1])
}

// BothEnds is the number of working days from start to end, both counted; for an end before the start it
// is the negative of the length from end to start.
func (c *Calendar) BothEnds(start, end day.Day) int {
	if end < start {
		return -c.BothEnds(end, start)
	}
	return int(c.totals[end+1] - c.totals[start])
}

// A Roll says where a day that is not worked moves to.
type Roll uint8

// Keep leaves the day where it is.
const (
	Keep Roll = iota
	Next
	Previous
)

// Rolled is d, moved to the next or previous working day where it is none and the roll asks for it.
func (c *Calendar) Rolled(d day.Day, roll Roll) (day.Day, error) {
	if roll == Keep || c.Works(d) {
		return d, nil
	}
	if roll == Next {
		return c.nth(c.totals[d+1] + 1)
	}
	return c.nth(c.totals[d+1])
}

// Add is the n-th working day after start; a negative n mirrors it, and n = 0 is start itself, rolled.
func (c *Calendar) Add(start day.Day, n int, roll Roll) (day.Day, error) {
	switch {
	case n > 0:
		return c.nth(c.totals[start+1] + int32(n))
	case n < 0:
		return c.nth(c.totals[start] + int32(n) + 1)
	}
	return c.Rolled(start, roll)
}

// LatestStart is the latest day d with d + n working days on or before target, and the latest working day
// that is. It is not target − n: every day of a weekend before the latest working day is later than it.
func (c *Calendar) LatestStart(target day.Day, n int) (latest, latestWorking day.Day, err error) {
	if n < 0 {
		return 0, 0, errors.New("calendar: a latest start wants 0 or more working days")
	}
	latest = target
	if n > 0 {
		// The latest day whose total leaves n working days is the one before the next working day.
		after, err := c.nth(c.totals[target+1] - int32(n) + 1)
		if err != nil {
			return 0, 0, err
		}
		latest = after - 1
	}
	latestWorking, err = c.Rolled(latest, Previous)
	if err != nil || !latest.Known() {
		return 0, 0, ErrOutsideDays
	}
	return latest, latestWorking, nil
}

// nth is the n-th working day from day.First on: the first day with that total.
func (c *Calendar) nth(n int32) (day.Day, error) {
	if n < 1 || n > c.totals[day.Last+1] {
		return 0, ErrOutsideDays
	}
	return day.Day(sort.Search(len(c.totals), func(i int) bool { return c.totals[i] >= n }) - 1), nil
}
