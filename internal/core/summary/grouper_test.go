package summary

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
)

// Each day of a stretch lies in one step, and the name of a step asks for the same days as a period.
func TestStepsCoverEveryDay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		first := day.Day(rapid.Int32Range(30000, 60000).Draw(t, "first"))
		days := day.Through(first, first+day.Day(rapid.Int32Range(0, 900).Draw(t, "days")))
		cut := TimeBucket(rapid.IntRange(int(Day), int(Year)).Draw(t, "cut"))
		names, spans := cut.Steps(days)
		require.Len(t, names, len(spans))
		require.LessOrEqual(t, spans[0].From, days.From)
		require.GreaterOrEqual(t, spans[len(spans)-1].To, days.To)
		for i, s := range spans {
			if i > 0 {
				require.Equal(t, spans[i-1].To, s.From, "no day between two steps")
			}
			periods, err := period.Parse(names[i], period.Bounds{FirstDay: days.From, DataDate: days.LastDay()})
			require.NoError(t, err)
			require.Equal(t, s, periods[0].Span, names[i])
		}
		again, err := ParseCut(cut.String())
		require.NoError(t, err)
		require.Equal(t, cut, again)
	})
	_, err := ParseCut("fortnight")
	assert.ErrorContains(t, err, "want one of day, week, month, quarter, year")
}

// A grouper puts each order into the group of its keys, whatever the analysis.
func TestAGrouperPutsEachOrderIntoItsGroup(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		r := drawRequest(t, d.book)
		r.Basis = ""
		q, err := Parse(d.book, r)
		require.NoError(t, err)
		if rapid.Bool().Draw(t, "where") {
			q.Where = Where{Text: "drawn", Condition: drawWhere(t, 2)}
		}
		g := NewGrouper(d.book, q)
		orders := make([]int, g.Groups())
		asked := 0
		for _, counted := range Walk(g, func() []int { return make([]int, g.Groups()) }, func(counted []int, c Chunk) {
			for i, group := range c.Groups {
				met := d.meets(q.Where.Condition, d.orders[c.From+i])
				if q.Where.Condition == nil {
					yes := true
					met = &yes
				}
				want := predicate.Undecided
				if met != nil {
					want = map[bool]predicate.Truth{true: predicate.True, false: predicate.False}[*met]
				}
				require.Equal(t, want, c.Truths[i])
				if want == predicate.Undecided {
					require.NotEmpty(t, g.Lacks(c.Block, c.From+i))
				}
				counted[group]++
				keys, step := g.Keys(int(group))
				number, err := g.NumberOf(keys)
				require.NoError(t, err)
				require.Equal(t, group, number, "its keys name it")
				for k, by := range q.By {
					if by.Cut == NoCut {
						require.Equal(t, d.book.Text(by.Field, c.From+i), keys[k])
					} else if by.Cut.Cycles() || by.Of != "" {
						continue // its keys are those of the slow version
					} else if start := c.Block.Columns[g.p.start].Known[c.From+i]; start != 0 {
						require.True(t, step.Holds(start), "%v in %v", start, step)
					} else {
						require.Zero(t, step)
					}
				}
			}
		}) {
			for group, n := range counted {
				orders[group] += n
				asked += n
			}
		}
		require.Equal(t, d.book.Orders(), asked, "every order once")
		all := make([]int, g.Groups())
		for i := range all {
			all[i] = i
		}
		arranged := g.Arrange(all, func(group int) int { return orders[group] })
		require.Equal(t, all, slices.Sorted(slices.Values(arranged)), "arranging loses no group")
		for i := 1; i < len(arranged); i++ {
			if x, _ := g.p.orderOf(arranged[i-1]); slices.ContainsFunc(q.By, func(by Grouping) bool { return by.Cut.Cycles() }) {
				y, _ := g.p.orderOf(arranged[i])
				require.True(t, y == 0 || x != 0 && x <= y, "what comes round stands in its order")
				continue
			}
			_, before := g.Keys(arranged[i-1])
			_, after := g.Keys(arranged[i])
			require.True(t, before.From == after.From || after.From == 0 || before.From != 0 && before.From < after.From, "time goes forward")
			if before.From == after.From {
				require.GreaterOrEqual(t, orders[arranged[i-1]], orders[arranged[i]], "the largest first")
			}
		}
	})
}

// The statistics of the rules by hand, and what there is none of.
func TestStatisticsByName(t *testing.T) {
	shown, err := ParseStatistics([]string{"p0", "p100", "p62.5", "median", "mean", "standard-deviation", "min", "max"})
	require.NoError(t, err)
	d := DistributionOf(map[int]int{1: 2, 4: 1, 10: 1, 12: 1})
	var got []float64
	for _, s := range shown {
		got = append(got, math.Round(s.Of(d)*1e6)/1e6)
	}
	// 1 1 4 10 12: rank 2.5 lies between 4 and 10; the squares of the differences from 5.6 sum to 105.2.
	assert.Equal(t, []float64{1, 12, 7, 4, 5.6, 5.128353, 1, 12}, got)
	for _, s := range shown {
		assert.True(t, math.IsNaN(s.Of(nil)), "%v of nothing", s)
	}
	one := DistributionOf(map[int]int{7: 1})
	assert.True(t, math.IsNaN(shown[5].Of(one)), "one length has no deviation")
	standard, err := ParseStatistics(nil)
	require.NoError(t, err)
	assert.Len(t, standard, len(DefaultStatistics))
	for _, wrong := range [][]string{{"p-1"}, {"p"}, {"pNaN"}, {"p1e3"}, {"average"}, {"mean", "mean"}, {""}} {
		_, err := ParseStatistics(wrong)
		assert.Error(t, err, "%q", wrong)
	}
	assert.True(t, Group{Lengths: one}.Small())
	assert.False(t, Group{}.Small(), "nothing is not few")
	assert.False(t, Group{Lengths: DistributionOf(map[int]int{1: SmallGroup})}.Small())
}

// A lot of groups: those that tie on their statistic stand in the natural order of their names.
func TestTiesStandInNaturalOrder(t *testing.T) {
	b := smallBook(t)
	builder := b.Next()
	for i, site := range []string{"Pier 10", "Pier 9", "Pier 2"} {
		o := book.Order{ID: int64(100 + i), Number: site, Days: make([]day.Day, len(b.Milestones()))}
		o.Days[0], o.Days[3] = day.Of(2026, 7, 6), day.Of(2026, 7, 8)
		o.Fields[book.Site] = site
		builder.Put(o)
	}
	b = builder.Finish(book.Settings{Calendars: b.Calendars()})
	q, err := Parse(b, Request{In: "days", By: []string{"site"}})
	require.NoError(t, err)
	var names []string
	for _, g := range Ask(b, q).Parts[0].Groups {
		names = append(names, g.Keys[0])
	}
	assert.Equal(t, []string{"Galway", "Pier 2", "Pier 9", "Pier 10"}, names)
}

// Years without holidays lie between others: each length that leaves what is known is marked, few such years or many.
func TestLengthsOverYearsWithoutHolidays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		def := calendar.Definition{Name: "default"}
		for year := 2010; year < 2026; year++ {
			if rapid.SampledFrom([]bool{true, true, false}).Draw(t, "known") {
				def.Holidays = append(def.Holidays, calendar.NamedDay{Day: day.Of(year, 7, 1)})
			}
		}
		c, err := calendar.New(def)
		require.NoError(t, err)
		calendars, err := book.NewCalendars([]*calendar.Calendar{c})
		require.NoError(t, err)
		b := book.NewBuilder(book.BuiltIn())
		want := 0
		for id := range rapid.IntRange(1, 20).Draw(t, "orders") {
			edge := day.Of(rapid.IntRange(2010, 2025).Draw(t, "year"), 1, 1)
			start := edge + day.Day(rapid.SampledFrom([]int{-1, 0, 1, 180}).Draw(t, "start"))
			end := start + day.Day(rapid.SampledFrom([]int{0, 1, 2, 364, 365, 366, 1500, 4000}).Draw(t, "length"))
			o := book.Order{ID: int64(id), Number: fmt.Sprint(id), Days: make([]day.Day, len(milestone.BuiltIn()))}
			o.Days[0], o.Days[milestone.Index(milestone.BuiltIn(), milestone.Shipped)] = start, end
			b.Put(o)
			for d := start; d <= end; d++ {
				year, _, _ := d.Date()
				if !slices.ContainsFunc(def.Holidays, func(h calendar.NamedDay) bool { known, _, _ := h.Day.Date(); return known == year }) {
					want++
					break
				}
			}
		}
		bk := b.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: day.Of(2009, 1, 1), DataDate: day.Of(2040, 1, 1)}})
		for _, by := range [][]string{nil, {"year"}} {
			q, err := Parse(bk, Request{By: by})
			require.NoError(t, err)
			part := Ask(bk, q).Parts[0]
			require.Equal(t, want, part.Total.HolidaysUnknown)
			require.Equal(t, bk.Orders(), part.Total.Lengths.Orders())
			require.Equal(t, 0, part.Total.ByDefault-bk.Orders(), "the default stands in for all")
		}
	})
}
