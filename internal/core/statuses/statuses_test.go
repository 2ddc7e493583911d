package statuses

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
)

var (
	begin    = day.Of(2026, 6, 1)
	dataDate = begin + 40
	settings = []book.StatusSetting{{Name: "done", Step: 9, Final: true}, {Name: "new", Step: 1}, {Name: "New", SpellingOf: "new"},
		{Name: "NEW", SpellingOf: "New"}}
	names = []string{"new", "New", "NEW", "picking", "on hold", "done"}
)

// A plain order is what a book is made from, for walking over it slowly.
type plain struct {
	number, site string
	records      []parts.StatusRecord
}

func bookOf(orders []plain) *book.Book {
	b := book.NewBuilder(book.BuiltIn())
	for i, o := range orders {
		order := book.Order{ID: int64(i + 1), Number: o.number, Days: make([]day.Day, len(milestone.BuiltIn())), Statuses: o.records}
		order.Days[0] = begin
		order.Fields[book.Site] = o.site
		b.Put(order)
	}
	calendars, _ := book.NewCalendars(nil)
	return b.Finish(book.Settings{Bounds: period.Bounds{FirstDay: begin, DataDate: dataDate}, Calendars: calendars, Statuses: settings})
}

// drawOrders draws orders with records of both sources, spellings, clashes, silences and records after the data date.
func drawOrders(t *rapid.T) []plain {
	random := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 7))
	orders := make([]plain, rapid.IntRange(1, 30).Draw(t, "orders"))
	for i := range orders {
		orders[i] = plain{number: fmt.Sprint("R", i), site: []string{"", "Galway", "Muscat"}[random.IntN(3)]}
		for range random.IntN(9) {
			r := parts.StatusRecord{Status: names[random.IntN(len(names))], At: parts.Day{Day: begin + day.Day(random.IntN(46))},
				Source: []string{"", parts.Event, parts.Daily}[random.IntN(3)]}
			if random.IntN(2) == 0 {
				r.At.At = day.InstantOf(r.At.Day.Time()) + day.Instant(random.IntN(3)*3600)
			}
			if r.At.At == 0 && random.IntN(2) == 0 {
				r.Clock = int32(1 + random.IntN(3))
			}
			if random.IntN(2) == 0 {
				r.Sequence = parts.Quantity{Thousandths: int64(random.IntN(3)) * 1000, Known: true}
			}
			orders[i].records = append(orders[i].records, r)
		}
	}
	return orders
}

func canonical(name string) string {
	if strings.EqualFold(name, "new") {
		return "new"
	}
	return name
}

// ofSource gives the known records of an order that count, in their order, as one would sort them by hand.
func (o plain) ofSource(source Source) (own []parts.StatusRecord, daily bool) {
	isDaily := func(r parts.StatusRecord) bool { return r.Source == parts.Daily }
	daily = source == DailyList || source == Either && !slices.ContainsFunc(o.records,
		func(r parts.StatusRecord) bool { return !isDaily(r) })
	for _, r := range o.records {
		if isDaily(r) == daily && r.At.Day <= dataDate {
			own = append(own, r)
		}
	}
	slices.SortStableFunc(own, func(a, b parts.StatusRecord) int {
		key := func(r parts.StatusRecord) [4]int64 {
			k := [4]int64{int64(r.At.Day), int64(r.At.At), int64(r.Clock), r.Sequence.Thousandths}
			for i, known := range []bool{r.At.At != 0, r.Clock != 0, r.Sequence.Known} {
				if !known {
					k[i+1] = 1 << 60
				}
			}
			return k
		}
		x, y := key(a), key(b)
		return slices.Compare(x[:], y[:])
	})
	return own, daily
}

// statusAt is the status at the end of a day: of the last record by then, or "not seen" where the silence after it is too long.
func (o plain) statusAt(d day.Day, source Source, maxGap int) (status string, some bool) {
	own, daily := o.ofSource(source)
	next := dataDate
	for i, r := range own {
		if r.At.Day > d {
			next = r.At.Day
			break
		}
		status, some = canonical(r.Status), true
		if last := i == len(own)-1; last && status == "done" {
			return status, true
		}
	}
	if !some || !daily || maxGap == 0 {
		return status, some
	}
	last := day.Day(0)
	for _, r := range own {
		if r.At.Day <= d {
			last = r.At.Day
		}
	}
	if d > last && int(next-last) > maxGap {
		return "not seen", true
	}
	return status, true
}

// Every order stands at the end of each day where its last record by then says; its status periods follow each other without a gap;
// their lengths add up; and folding them again changes nothing.
func TestPeriodsHoldWhatTheRecordsSay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		orders := drawOrders(t)
		b := bookOf(orders)
		source, maxGap := Source(rapid.IntRange(0, 2).Draw(t, "source")), rapid.IntRange(0, 6).Draw(t, "gap")
		h := NewHistory(b, source, maxGap)
		block := b.Blocks()[0]
		for row, o := range orders {
			periods := h.Periods(block, row)
			for d := begin - 1; d <= dataDate; d++ {
				want, some := o.statusAt(d, source, maxGap)
				at := Holding(periods, d)
				require.Equal(t, some, at >= 0, "%s on %v", o.number, d)
				if some {
					require.Equal(t, want, h.Statuses[periods[at].Status].Name, "%s on %v of %v", o.number, d, periods)
				}
			}
			own, _ := o.ofSource(source)
			if len(own) == 0 {
				require.Empty(t, periods)
				continue
			}
			require.Equal(t, own[0].At.Day, periods[0].From, "the first record is never lost")
			seen := periods[len(periods)-1]
			if seen.Status == NotSeen {
				require.Equal(t, dataDate, seen.LastSeen)
				seen = periods[len(periods)-2]
			}
			require.Equal(t, own[len(own)-1].At.Day, seen.LastSeen, "nor is the last")
			var again []Record
			days, working := 0, 0
			for i, s := range periods {
				if i > 0 {
					require.Equal(t, periods[i-1].Until, s.From)
					require.False(t, s.Status == periods[i-1].Status)
				}
				require.LessOrEqual(t, s.From, s.LastSeen)
				for _, d := range []day.Day{s.From, s.LastSeen} {
					if s.Status != NotSeen {
						again = append(again, Record{Status: s.Status, Day: d, At: s.FromAt, Sequence: book.None})
					}
				}
				if h.Rules.Ends(s) {
					continue
				}
				stretch := Stretch(periods, i, dataDate)
				days += int(stretch.End - stretch.Start)
				n, _ := leg.Measure{Unit: leg.WorkingDays}.Length(b.SiteCalendarAt(book.AtSite, row).Local, stretch)
				working += n
			}
			end := dataDate
			if last := periods[len(periods)-1]; h.Rules.Ends(last) {
				end = last.From
			}
			require.Equal(t, int(end-periods[0].From), days)
			whole, _ := leg.Measure{Unit: leg.WorkingDays}.Length(b.SiteCalendarAt(book.AtSite, row).Local,
				leg.Stretch{Start: periods[0].From, End: end})
			require.Equal(t, whole, working)
			if maxGap == 0 {
				twice, _ := Collapse(again, &h.Rules, nil)
				for i := range twice {
					require.Equal(t, [3]any{periods[i].Status, periods[i].From, periods[i].Until},
						[3]any{twice[i].Status, twice[i].From, twice[i].Until})
				}
				require.Len(t, twice, len(periods))
			}
		}
	})
}

// The order of rows does not matter for orders that are not ambiguous, and an ambiguous one has two records of one moment that
// nothing tells apart.
func TestTheOrderOfRowsDoesNotMatter(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		orders := drawOrders(t)
		shuffled := slices.Clone(orders)
		for i := range shuffled {
			shuffled[i].records = slices.Clone(orders[i].records)
			rand.New(rand.NewPCG(1, uint64(i))).Shuffle(len(shuffled[i].records), func(a, b int) {
				r := shuffled[i].records
				r[a], r[b] = r[b], r[a]
			})
		}
		a, b := bookOf(orders), bookOf(shuffled)
		x, y := Of(a), Of(b)
		for row, o := range orders {
			clash := false
			own, _ := o.ofSource(Either)
			for i, r := range own {
				for _, s := range own[:i] {
					clash = clash || r.At == s.At && r.Clock == s.Clock && canonical(r.Status) != canonical(s.Status) &&
						!(r.Sequence.Known && s.Sequence.Known && r.Sequence != s.Sequence)
				}
			}
			flags := x.Flags(a.Blocks()[0], row)
			if flags&Ambiguous != 0 {
				require.True(t, clash, "%s is ambiguous without reason: %v", o.number, own)
				continue
			}
			if !clash {
				named := func(h *History, periods []Period) (all []string) {
					for _, s := range periods {
						all = append(all, fmt.Sprint(h.Statuses[s.Status].Name, s.From, s.LastSeen, s.Until, s.FromAt))
					}
					return all
				}
				require.Equal(t, named(x, x.Periods(a.Blocks()[0], row)), named(y, y.Periods(b.Blocks()[0], row)))
			}
		}
	})
}

// A history with at most one change a day gives the same status periods from events and from a daily list, and the two never disagree;
// a day of the list that says otherwise is found.
func TestDailyAndEventSourcesAgree(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var events, daily []parts.StatusRecord
		now, from := "", begin+day.Day(rapid.IntRange(0, 20).Draw(t, "from"))
		for d := from; d <= dataDate; d++ {
			if next := rapid.SampledFrom([]string{now, now, now, "new", "picking", "on hold", "done"}).Draw(t, "next"); next != now &&
				next != "" {
				now = next
				events = append(events, parts.StatusRecord{Status: now, At: parts.Day{Day: d}})
			}
			if now != "" {
				daily = append(daily, parts.StatusRecord{Status: now, At: parts.Day{Day: d}, Source: parts.Daily})
			}
		}
		b := bookOf([]plain{{number: "both", records: append(slices.Clone(daily), events...)}})
		block := b.Blocks()[0]
		h, list := NewHistory(b, Events, 0), NewHistory(b, DailyList, 1)
		require.Empty(t, h.Disagreements(block, 0))
		require.Len(t, list.Periods(block, 0), len(h.Periods(block, 0)))
		for i, s := range h.Periods(block, 0) {
			other := list.Periods(block, 0)[i]
			require.Equal(t, [3]any{s.Status, s.From, s.Until}, [3]any{other.Status, other.From, other.Until})
		}
		if len(daily) == 0 {
			return
		}
		wrong := rapid.IntRange(0, len(daily)-1).Draw(t, "wrong")
		was := daily[wrong].Status
		daily[wrong].Status = "packed"
		b = bookOf([]plain{{number: "both", records: append(daily, events...)}})
		h = Of(b)
		packed, _ := h.Code("packed")
		event, _ := h.Code(was)
		require.Equal(t, []Disagreement{{daily[wrong].At.Day, event, packed}}, h.Disagreements(b.Blocks()[0], 0))
	})
}

// Two orders whose last records fall on different days each stand where their own last record says; statuses come in the order
// of their steps, the others by how early they come, and spellings are one status.
func TestLatestIsFoundPerOrder(t *testing.T) {
	on := func(status string, d day.Day) parts.StatusRecord {
		return parts.StatusRecord{Status: status, At: parts.Day{Day: d}}
	}
	b := bookOf([]plain{
		{number: "early", records: []parts.StatusRecord{on("NEW", begin), on("picking", begin+3)}},
		{number: "late", records: []parts.StatusRecord{on("New", begin+1), on("picking", begin+2), on("packed", begin+4),
			on("done", begin+30)}},
		{number: "none"},
	})
	h := Of(b)
	require.Equal(t, []string{"new", "done", "picking", "packed"}, h.Names())
	stands := func(at day.Day) (names [3]string) {
		for row := range names {
			if i := Holding(h.Periods(b.Blocks()[0], row), at); i >= 0 {
				names[row] = h.Statuses[h.Periods(b.Blocks()[0], row)[i].Status].Name
			}
		}
		return names
	}
	require.Equal(t, [3]string{"picking", "done", ""}, stands(dataDate))
	require.Equal(t, [3]string{"picking", "packed", ""}, stands(begin+4))
	require.Equal(t, [3]string{"new", "", ""}, stands(begin))
	require.Equal(t, []string{"NEW", "New"}, h.Statuses[1].Spellings)
	_, ambiguous := Collapse([]Record{{Status: 1, Day: begin, Sequence: book.None}, {Status: 2, Day: begin, Sequence: book.None}},
		&h.Rules, nil)
	require.True(t, ambiguous)
}
