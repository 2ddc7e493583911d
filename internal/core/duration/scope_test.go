package duration

import (
	"fmt"
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/query/querytest"
)

// seen is what a worker has been shown: the group of each order, by its row.
type seen map[int]uint32

func (s seen) Visit(st *query.Stretch) {
	for _, i := range st.Chosen() {
		s[st.Row+int(i)] = st.Groups[i]
	}
}

func (s seen) Merge(other seen) { maps.Copy(s, other) }

// Accumulators are shown the orders that a question is about, in the group of their keys, and Run counts all others.
func TestAScopePutsEachOrderIntoItsGroup(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		q, err := Parse(d.book, drawRequest(t, d.book))
		require.NoError(t, err)
		if rapid.Bool().Draw(t, "where") {
			q.Where = query.Where{Text: "drawn", Condition: drawWhere(t, 2)}
		}
		asked, basis := q.Periods[0], milestone.Index(d.book.Milestones(), q.Basis.Name)
		scope := query.NewScope(d.book, q.Question, asked)
		want, rows := query.Population{Period: asked, InBook: d.book.Orders()}, map[query.Placement][]int{}
		for row, o := range d.orders {
			placed, known := query.Asked, d.book.KnownAt(row)[basis]
			met := d.meets(q.Where.Condition, o)
			switch {
			case !asked.Unbounded() && known == 0:
				placed = query.Undated
				want.Undated++
			case !asked.Unbounded() && !asked.Span.Holds(known):
				placed = query.Outside
				want.Outside++
			case q.Where.Condition != nil && met == nil:
				placed = query.Undecided
				want.Undecided++
			case q.Where.Condition != nil && !*met:
				placed = query.Unmet
				want.Unmet++
			default:
				want.Asked++
			}
			rows[placed] = append(rows[placed], row)
		}
		fresh := func() seen { return seen{} }
		for _, placed := range []query.Placement{query.Asked, query.Outside, query.Undated, query.Unmet, query.Undecided} {
			got, population := query.Run(scope.Of(placed), fresh)
			require.ElementsMatch(t, rows[placed], slices.Collect(maps.Keys(got)), "%q", placed)
			lacking := 0
			for _, l := range population.Lacking {
				require.NotEmpty(t, l.Name)
				lacking += l.Orders
			}
			require.Equal(t, want.Undecided, lacking)
			population.Lacking, population.MetByMissing = nil, 0
			require.Equal(t, want, population)
			for row, group := range got {
				keys, step := scope.Keys(int(group))
				number, err := scope.GroupOf(keys)
				require.NoError(t, err)
				require.Equal(t, group, number, "its keys name it")
				for k, by := range q.By {
					if by.Cut == query.NoCut {
						require.Equal(t, d.book.Text(by.Field, row), keys[k])
					} else if by.Cut.Cycles() || by.Of != "" || placed == query.Outside {
						continue // its keys are those of the slow version
					} else if at := d.book.KnownAt(row)[basis]; at != 0 {
						require.True(t, step.Holds(at), "%v in %v", at, step)
					} else {
						require.Zero(t, step)
					}
				}
			}
		}
		querytest.Check(t, scope, fresh, func(s seen) any { return s })
		all, sizes := make([]int, scope.Groups), make([]int, scope.Groups)
		got, _ := query.Run(scope, fresh)
		for _, group := range got {
			sizes[group]++
		}
		for i := range all {
			all[i] = i
		}
		arranged := scope.Arrange(all, func(group int) int { return sizes[group] })
		require.Equal(t, all, slices.Sorted(slices.Values(arranged)), "arranging loses no group")
		for i := 1; i < len(arranged); i++ {
			x, _ := scope.Order(arranged[i-1])
			y, _ := scope.Order(arranged[i])
			require.True(t, y == 0 || x != 0 && x <= y, "time goes forward")
			if x == y {
				require.GreaterOrEqual(t, sizes[arranged[i-1]], sizes[arranged[i]], "the largest first")
			}
		}
	})
}

// Few lengths are marked; none are not few.
func TestSmallGroups(t *testing.T) {
	assert.True(t, Group{Lengths: distribution.Of(map[int]int{7: 1})}.Small())
	assert.False(t, Group{}.Small(), "nothing is not few")
	assert.False(t, Group{Lengths: distribution.Of(map[int]int{1: SmallGroup})}.Small())
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
	q, err := Parse(b, Request{Request: query.Request{In: "days", By: []string{"site"}}})
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
				if !slices.ContainsFunc(def.Holidays, func(h calendar.NamedDay) bool {
					known, _,
						_ := h.Day.Date()
					return known == year
				}) {
					want++
					break
				}
			}
		}
		bk := b.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: day.Of(2009, 1, 1),
			DataDate: day.Of(2040, 1, 1)}})
		for _, by := range [][]string{nil, {"year"}} {
			q, err := Parse(bk, Request{Request: query.Request{By: by}})
			require.NoError(t, err)
			part := Ask(bk, q).Parts[0]
			require.Equal(t, want, part.Total.HolidaysUnknown)
			require.Equal(t, bk.Orders(), part.Total.Lengths.Orders())
			require.Equal(t, 0, part.Total.ByDefault-bk.Orders(), "the default stands in for all")
		}
	})
}
