package status

import (
	"cmp"
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
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/query/querytest"
	"prairiedusk/internal/core/statuses"
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
			if random.IntN(2) == 0 {
				r.Sequence = parts.Quantity{Thousandths: int64(random.IntN(3)) * 1000, Known: true}
			}
			orders[i].records = append(orders[i].records, r)
		}
	}
	return orders
}

func questionOf(t require.TestingT, b *book.Book, r Request) Question {
	q, err := Parse(b, r)
	require.NoError(t, err)
	return q
}

// Answers count what a plain walk over the status periods of each order counts, for groups, periods, conditions and days, and every
// number opens its orders.
func TestAnswersAreWhatAWalkCounts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		orders := drawOrders(t)
		b := bookOf(orders)
		at := begin + day.Day(rapid.IntRange(0, 40).Draw(t, "at"))
		request := Request{In: rapid.SampledFrom([]string{"days", "working-days", "hours"}).Draw(t, "unit"),
			By: rapid.SampledFrom([]string{"", "site", "month"}).Draw(t, "by"), At: at.String(),
			Period: rapid.SampledFrom([]string{"", "2026-06", "2026-06-08/2026-06-21"}).Draw(t, "period"),
			MaxGap: rapid.SampledFrom([]string{"", "2"}).Draw(t, "gap")}
		q := questionOf(t, b, request)
		picked := func(plain) bool { return true }
		if rapid.Bool().Draw(t, "where") {
			q.Where = query.Where{Text: "site", Condition: predicate.Compare{Operator: predicate.Less, X: predicate.Field("site"),
				Y: predicate.Literal{Kind: predicate.OfText, Text: "H"}}}
			picked = func(o plain) bool { return o.site == "Galway" }
		}
		h := q.History(b)
		// Of the times and the list, a condition can pick the status periods: undecided where one has no length.
		picking, decided := q, query.PartCounts{}
		if rapid.Bool().Draw(t, "long ones") {
			picking.Picks = query.Where{Text: "long", Condition: predicate.And{X: predicate.Compare{Operator: predicate.Greater,
				X: predicate.PartColumn{Of: book.Statuses, Name: "length"}, Y: predicate.Literal{Kind: predicate.OfNumber, Number: 2}},
				Y: predicate.Compare{Operator: predicate.Unequal, X: predicate.PartColumn{Of: book.Statuses, Name: "status"},
					Y: predicate.Literal{Kind: predicate.OfText, Text: "new"}}}}
		}
		long := func(status string, ticks int, told bool) bool {
			truth := predicate.False
			switch {
			case picking.Picks.Condition == nil, status != "new" && told && ticks > 2*q.Measure.Unit.Ticks():
				truth = predicate.True
			case status != "new" && !told:
				truth = predicate.Undecided
			}
			decided.Count(truth)
			return truth == predicate.True
		}
		r := newRun(h, q)
		for _, visit := range []func(*tally, asked){r.latest, r.times, r.transitions} {
			querytest.Check(t, r.scope, func() *tally { return r.newTally(visit) }, func(counted *tally) any {
				return []any{counted.cells, counted.orders, counted.none, counted.records,
					counted.paths}
			})
		}
		block := b.Blocks()[0]
		key := func(o plain) string {
			return map[string]string{"": "", "site": o.site, "month": "2026-06"}[request.By]
		}
		length := func(row int, own []statuses.Period, i int, last day.Day) (int, bool) {
			s := own[i]
			stretch := leg.Stretch{Start: s.From, StartAt: s.FromAt, End: last}
			if s.Until == 0 && h.Statuses[s.Status].Name == "done" {
				return 0, false
			}
			if s.Until != 0 {
				stretch.End, stretch.EndAt = own[i+1].From, own[i+1].FromAt
			}
			ticks, state := q.Measure.Length(b.SiteCalendarAt(book.AtSite, row).Local, stretch)
			return ticks, state == leg.Complete
		}
		type cell struct{ count, orders, running, ticks, measured int }
		latest, times, moves, returns := map[[2]string]cell{}, map[[2]string]cell{}, map[[2]string]cell{}, map[string]int{}
		behind := map[string][]string{}
		open := func(pick, number string) {
			if !slices.Contains(behind[pick], number) {
				behind[pick] = append(behind[pick], number)
			}
		}
		none, asked, paths := 0, 0, map[string]int{}
		for row, o := range orders {
			if !picked(o) {
				continue
			}
			asked++
			own, before := h.Periods(block, row), map[[2]string]bool{}
			name := func(i int) string { return h.Statuses[own[i].Status].Name }
			if held := statuses.Holding(own, at); held >= 0 {
				status := name(held)
				c := latest[[2]string{key(o), status}]
				s := own[held]
				s.Until = 0
				c.count++
				if ticks, told := length(row, []statuses.Period{s}, 0, at); told {
					c.ticks, c.measured = c.ticks+ticks, c.measured+1
				}
				latest[[2]string{key(o), status}] = c
				open("latest:"+status, o.number)
			} else {
				none++
				open("none", o.number)
			}
			var way []string
			for i, s := range own {
				if s.Status != statuses.NotSeen && (len(way) == 0 || way[len(way)-1] != name(i)) {
					way = append(way, name(i))
				}
				inPeriod := func(s statuses.Period) bool { return q.Periods[0].Unbounded() || q.Periods[0].Span.Holds(s.From) }
				came := ""
				for j := range i {
					if name(j) == name(i) {
						came = "stayed"
					} else if came != "" && s.Status != statuses.NotSeen && own[j].Status != statuses.NotSeen {
						came = "came back"
					}
				}
				if came == "came back" && inPeriod(s) {
					returns[name(i)]++
					open("returned:"+name(i), o.number)
				}
				if i > 0 && s.Status != statuses.NotSeen && own[i-1].Status != statuses.NotSeen && inPeriod(own[i-1]) {
					c := moves[[2]string{name(i - 1), name(i)}]
					c.count++
					if ticks, told := length(row, own, i-1, dataDate); told {
						c.ticks, c.measured = c.ticks+ticks, c.measured+1
					}
					moves[[2]string{name(i - 1), name(i)}] = c
					open("went:"+name(i-1)+Arrow+name(i), o.number)
				}
				if !inPeriod(s) {
					continue
				}
				ticks, told := length(row, own, i, dataDate)
				if !long(name(i), ticks, told) {
					continue
				}
				open("visited:"+name(i), o.number)
				k := [2]string{key(o), name(i)}
				c := times[k]
				c.count++
				if !before[k] {
					c.orders++
				}
				before[k] = true
				if s.Until == 0 && name(i) != "done" {
					c.running++
				}
				if told {
					c.ticks, c.measured = c.ticks+ticks, c.measured+1
				}
				times[k] = c
			}
			if len(way) > 0 {
				paths[strings.Join(way, Arrow)]++
				open("path:"+strings.Join(way, Arrow), o.number)
			}
		}
		same := func(want map[[2]string]cell, a Answer, withOrders bool) {
			require.Equal(t, asked, a.Population.Asked)
			require.Equal(t, len(orders), a.Population.InBook)
			groups := a.Groups
			if request.By == "" {
				groups = []Group{a.Total}
				groups[0].Keys = []string{""}
			}
			cells, sum := 0, make([]Cell, len(h.Statuses))
			for _, g := range groups {
				for status, c := range g.Cells {
					sum[status].add(&c)
					if c.Count == 0 {
						continue
					}
					cells++
					w := want[[2]string{g.Keys[0], h.Statuses[status].Name}]
					require.Equal(t, [3]int{w.count, w.ticks, w.measured}, [3]int{c.Count, c.Ticks, c.Lengths.Orders()}, "%v %s", g.Keys,
						h.Statuses[status].Name)
					require.Equal(t, c.Count, c.Unmeasured+c.Lengths.Orders())
					if withOrders {
						require.Equal(t, [2]int{w.orders, w.running}, [2]int{c.Orders, c.Running})
					}
				}
			}
			require.Equal(t, len(want), cells)
			for status := range sum {
				require.Equal(t, a.Total.Cells[status].Count, sum[status].Count)
			}
		}
		answer := Latest(h, q)
		require.Equal(t, none, answer.Total.NoStatus)
		stood := none
		for _, c := range answer.Total.Cells {
			stood += c.Count
		}
		require.Equal(t, asked, stood, "asked about = each status + none")
		same(latest, answer, false)
		counted := Times(h, picking)
		same(times, counted, true)
		require.Equal(t, decided, counted.Decided)
		m := TransitionsOf(h, q)
		got, back, ways := map[[2]string]cell{}, map[string]int{}, map[string]int{}
		for from, row := range m.Matrix {
			for to, c := range row {
				if c.Count > 0 {
					got[[2]string{h.Statuses[from].Name, h.Statuses[to].Name}] = cell{count: c.Count, ticks: c.Ticks,
						measured: c.Lengths.Orders()}
				}
			}
		}
		for status, c := range m.Returns {
			if c.Count > 0 {
				back[h.Statuses[status].Name] = c.Count
			}
		}
		last := 1 << 30
		for _, p := range m.Paths {
			require.LessOrEqual(t, p.Orders, last)
			last = p.Orders
			ways[PathText(h, p.Statuses)] = p.Orders
		}
		require.Equal(t, [3]any{moves, returns, paths}, [3]any{got, back, ways})
		for pick, numbers := range behind {
			asked := q
			if strings.HasPrefix(pick, PickVisited) {
				asked = picking
			}
			holds, err := Test(h, asked, pick)
			require.NoError(t, err)
			var opened []string
			for row, o := range orders {
				if picked(o) && holds(book.Offset{Block: block, At: row, Row: row}) {
					opened = append(opened, o.number)
				}
			}
			require.Equal(t, numbers, opened, pick)
		}
		// The list has the status periods that the times count, in each of its orders.
		for _, sort := range sorts {
			places, a, err := List(h, picking, "", sort)
			require.NoError(t, err)
			require.Equal(t, []any{asked, decided, answer.RecordCounts}, []any{a.Population.Asked, a.Decided, a.RecordCounts})
			require.Len(t, places, decided.Met)
			require.True(t, slices.IsSortedFunc(places, func(a, b Place) int {
				switch sort {
				case "length":
					return cmp.Compare(b.Ticks, a.Ticks) * map[bool]int{true: 1}[a.Told && b.Told]
				case "from":
					return cmp.Compare(b.From, a.From)
				}
				return cmp.Compare(a.Row, b.Row)
			}))
		}
		q.By, q.Each = nil, query.Week
		each := Times(h, q)
		sum := 0
		for _, g := range each.Groups {
			for _, c := range g.Cells {
				sum += c.Count
			}
		}
		require.Equal(t, sum, func() (n int) {
			for _, c := range each.Total.Cells {
				n += c.Count
			}
			return n
		}(), "every step is there, and each stood in one")
	})
}

// Words that cannot be understood are refused by name.
func TestBadWordsAreRefused(t *testing.T) {
	b := bookOf([]plain{{number: "A"}})
	for word, r := range map[string]Request{
		"at": {At: (dataDate + 1).String()}, "max_gap": {MaxGap: "0"}, "source": {Source: "guess"}, "each": {Each: "fortnight"},
		"period": {Period: "2026-06,2026-07"}, "by": {By: "mood"},
	} {
		_, err := Parse(b, r)
		require.ErrorContains(t, err, word)
	}
}
