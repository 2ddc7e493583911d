package immediate

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/query/querytest"
)

var (
	firstDay = day.Of(2026, 1, 1)
	dataDate = day.Of(2026, 6, 30)
)

// A plain order is what a book is made from, for walking over it slowly; zero days are missing.
type plain struct {
	number, customer, site                 string
	ordered, requested, shipped, cancelled day.Day
	at                                     day.Instant
}

func bookOf(orders []plain) *book.Book {
	b := book.NewBuilder(book.BuiltIn())
	for i, p := range orders {
		o := book.Order{ID: int64(i + 1), Number: p.number, Days: make([]day.Day, len(milestone.BuiltIn()))}
		for name, d := range map[string]day.Day{milestone.Ordered: p.ordered, milestone.Requested: p.requested,
			milestone.Shipped: p.shipped, milestone.Cancelled: p.cancelled} {
			o.Set(milestone.Index(milestone.BuiltIn(), name), parts.Day{Day: d})
		}
		if p.at != 0 {
			o.Set(milestone.Index(milestone.BuiltIn(), milestone.Ordered), parts.Day{Day: p.ordered, At: p.at})
		}
		o.Fields[book.Customer], o.Fields[book.Site] = p.customer, p.site
		b.Put(o)
	}
	calendars, _ := book.NewCalendars(nil)
	return b.Finish(book.Settings{Bounds: period.Bounds{FirstDay: firstDay, DataDate: dataDate}, Calendars: calendars})
}

func drawOrders(t *rapid.T) []plain {
	random := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 3))
	orders := make([]plain, rapid.IntRange(0, 40).Draw(t, "orders"))
	maybe := func(d day.Day) day.Day {
		if random.IntN(4) == 0 {
			return 0
		}
		return d
	}
	for i := range orders {
		ordered := firstDay + day.Day(random.IntN(190)) // some after the data date
		if random.IntN(2) == 0 {
			ordered = firstDay + day.Day(random.IntN(4)*60) // ties
		}
		o := plain{number: fmt.Sprint("N", random.IntN(12), "-", i), customer: []string{"", "Clover", "Linden", "Sage",
			"Thyme"}[random.IntN(5)], site: []string{"", "Galway", "Muscat"}[random.IntN(3)], ordered: maybe(ordered)}
		o.requested = maybe(ordered + day.Day(random.IntN(6)/3*random.IntN(5)-random.IntN(8)/7))
		o.shipped = maybe(ordered + day.Day(random.IntN(4)/2*random.IntN(6)-random.IntN(9)/8))
		if random.IntN(5) == 0 {
			o.cancelled = ordered + day.Day(random.IntN(4))
		}
		if o.ordered != 0 && random.IntN(2) == 0 {
			o.at = day.InstantOf(o.ordered.Time()) + day.Instant(random.IntN(3)*3600)
		}
		orders[i] = o
	}
	return orders
}

// known is an order as known at the data date.
func (o plain) known() plain {
	for _, d := range []*day.Day{&o.ordered, &o.shipped, &o.cancelled} {
		if *d > dataDate {
			*d = 0
		}
	}
	return o
}

// firstOf is the first of a customer's orders, by sorting them all as the rule says.
func firstOf(orders []plain, customer string) (first plain, tied bool) {
	var own []plain
	for _, o := range orders {
		if k := o.known(); k.customer == customer && k.ordered != 0 {
			own = append(own, k)
		}
	}
	slices.SortFunc(own, func(a, b plain) int {
		if a.ordered != b.ordered {
			return int(a.ordered - b.ordered)
		}
		if (a.at != 0) != (b.at != 0) {
			return map[bool]int{true: -1, false: 1}[a.at != 0]
		}
		if a.at != b.at {
			return int(a.at - b.at)
		}
		return book.CompareNumbers(a.number, b.number)
	})
	if len(own) == 0 {
		return first, false
	}
	return own[0], len(own) > 1 && own[1].ordered == own[0].ordered
}

// Answers are what one counts order by order: for all orders, first ones and first ones within, for groups, periods, conditions
// and choices; each number opens its orders, and nothing is left out unnamed.
func TestAnswersAreWhatOneCounts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		orders := drawOrders(t)
		b := bookOf(orders)
		r := Request{Which: rapid.SampledFrom(whichNames).Draw(t, "which"),
			Period:          rapid.SampledFrom([]string{"", "2026-03", "2026-Q2"}).Draw(t, "period"),
			NoRequestedDate: rapid.SampledFrom([]string{"", "in"}).Draw(t, "no requested"),
			Cancelled:       rapid.SampledFrom([]string{"", "out"}).Draw(t, "cancelled")}
		if rapid.Bool().Draw(t, "grouped") {
			r.By = []string{"site"}
		}
		q, err := Parse(b, r)
		require.NoError(t, err)
		picked := func(plain) bool { return true }
		if rapid.Bool().Draw(t, "where") {
			q.Where = query.Where{Text: "no Muscat", Condition: predicate.Compare{Operator: predicate.Unequal, X: predicate.Field("site"),
				Y: predicate.Literal{Kind: predicate.OfText, Text: "Muscat"}}}
			picked = func(o plain) bool { return o.site != "Muscat" }
		}
		p := q.Periods[0]
		resolved := newPlan(b, q, p)
		querytest.Check(t, resolved.scope, resolved.newTally, func(counted *tally) any {
			return []any{counted.outcomes, counted.groups, counted.tied, counted.nearBeginning, counted.elsewhere}
		})
		inPeriod := func(k plain) bool { return p.Unbounded() || p.Span.Holds(k.ordered) }
		var within []plain
		for _, o := range orders {
			if k := o.known(); inPeriod(k) && picked(o) {
				within = append(within, o)
			}
		}
		groups, left, behind := map[string]*Group{}, map[string]int{}, map[string][]string{}
		tied, near, elsewhere, days := 0, 0, 0, 0
		opens := func(pick, number string) { behind[pick] = append(behind[pick], number) }
		for _, o := range orders {
			k := o.known()
			first, tie := firstOf(orders, k.customer)
			if r.Which == "first-within" {
				first, tie = firstOf(within, k.customer)
			}
			reason := ""
			switch {
			case !p.Unbounded() && k.ordered == 0:
				left["undated"]++
			case !inPeriod(k):
				left["outside"]++
			case !picked(o):
				left["unmet"]++
			case k.ordered == 0:
				reason = "no-ordered-day"
			case r.Which != "all" && k.customer == "":
				reason = "no-customer"
			case r.Which != "all" && first.number != k.number:
				reason = "not-first"
			case r.Cancelled == "out" && k.cancelled != 0:
				reason = "cancelled"
			default:
				key := ""
				if r.By != nil {
					key = k.site
				}
				if groups[key] == nil {
					groups[key] = &Group{}
				}
				asked, got := NoRequestedDate, NotOnTheDay
				if k.requested != 0 {
					asked = map[bool]Asked{true: Immediate, false: BookedAhead}[k.requested == k.ordered]
					if k.requested < k.ordered {
						asked = RequestedBefore
					}
				}
				switch {
				case k.shipped != 0 && k.shipped < k.ordered:
					got = GotBefore
				case k.shipped == k.ordered:
					got = OnTheDay
				case k.shipped == 0 && k.cancelled != 0:
					got = CancelledGot
				case k.shipped == 0 && k.ordered == dataDate:
					got = UndecidedGot
				}
				groups[key].Cross[asked][got]++
				opens(asked.String()+" "+got.String(), k.number)
				if asked == BookedAhead {
					days += int(k.requested - k.ordered)
				}
				if r.Which != "all" {
					whole, _ := firstOf(orders, k.customer)
					if tie {
						tied++
					}
					if k.ordered < firstDay+90 {
						near++
					}
					if whole.number != k.number {
						elsewhere++
					}
				}
			}
			if reason != "" {
				left[reason]++
				opens("left "+reason, k.number)
			}
		}
		part := Ask(b, q)[0]
		require.Equal(t, map[string]int{"outside": left["outside"], "undated": left["undated"], "unmet": left["unmet"],
			"no-ordered-day": left["no-ordered-day"], "no-customer": left["no-customer"], "not-first": left["not-first"],
			"cancelled": left["cancelled"]},
			map[string]int{"outside": part.Population.Outside, "undated": part.Population.Undated,
				"unmet": part.Population.Unmet + part.Population.Undecided, "no-ordered-day": part.NoOrdered,
				"no-customer": part.NoCustomer, "not-first": part.NotFirst, "cancelled": part.CancelledLeft})
		require.Equal(t, len(orders), part.Total.Orders()+part.Population.Outside+part.Population.Undated+part.Population.Unmet+
			part.Population.Undecided+part.NoOrdered+part.NoCustomer+part.NotFirst+part.CancelledLeft)
		got := part.Groups
		if r.By == nil {
			got = []Group{part.Total}
			got[0].Keys = []string{""}
		}
		sum := Group{}
		for _, g := range got {
			want := groups[g.Keys[0]]
			if want == nil {
				want = &Group{}
			}
			require.Equal(t, want.Cross, g.Cross, "%v", g.Keys)
			sum.add(want)
			all := want.Asked(Immediate) + want.Asked(BookedAhead)
			if r.NoRequestedDate == "in" {
				all += want.Asked(NoRequestedDate)
			}
			require.Equal(t, Share{want.Asked(Immediate), all}, g.AskedShare(q))
		}
		require.Equal(t, sum.Cross, part.Total.Cross)
		total := 0
		for _, bar := range part.Total.Days {
			total += bar.Length * bar.Orders
		}
		require.Equal(t, days, total, "how far ahead, in days")
		require.Equal(t, part.Total.Asked(BookedAhead), part.Total.WorkingDays.Orders())
		require.Equal(t, [3]int{tied, near, elsewhere}, [3]int{part.Tied, part.NearBeginning, part.Elsewhere})
		for _, a := range askedNames {
			for _, g := range gotNames {
				require.Equal(t, behind[a+" "+g], opened(t, b, q, picked, orders, Pick{Asked: a, Got: g}), "%s %s", a, g)
			}
		}
		for reason := range leftNames {
			require.Equal(t, behind["left "+reason], opened(t, b, q, picked, orders, Pick{Left: reason}), reason)
		}
	})
}

// opened are the orders that a pick names.
func opened(t require.TestingT, b *book.Book, q Question, picked func(plain) bool, orders []plain, pick Pick) (numbers []string) {
	holds, err := Test(b, q, pick)
	require.NoError(t, err)
	for row, o := range orders {
		if picked(o) && holds(book.Offset{Block: b.Blocks()[0], At: row, Row: row}) {
			numbers = append(numbers, o.number)
		}
	}
	return numbers
}

// What is told of orders and of customers is what one counts.
func TestCustomersAndFields(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		orders := drawOrders(t)
		b := bookOf(orders)
		q, err := Parse(b, Request{})
		require.NoError(t, err)
		told := Derive(b)
		asked, _ := told.ParseField(FieldAsked)
		first, _ := told.ParseField(FieldFirst)
		customers := map[string]Customer{}
		for _, c := range Customers(b, q, q.Periods[0]) {
			customers[c.Name] = c
		}
		for row, o := range orders {
			k := o.known()
			if k.ordered == 0 {
				require.Empty(t, told.Text(asked, row))
				require.Empty(t, told.Text(first, row))
				continue
			}
			one, _ := firstOf(orders, k.customer)
			require.Equal(t, map[Asked]string{Immediate: "immediate", BookedAhead: "booked ahead", NoRequestedDate: "no requested date",
				RequestedBefore: "requested before ordered"}[AskedOf(k.ordered, k.requested)], told.Text(asked, row))
			if k.customer == "" {
				require.Empty(t, told.Text(first, row))
				continue
			}
			require.Equal(t, map[bool]string{true: "yes", false: "no"}[one.number == k.number], told.Text(first, row))
			c := customers[k.customer]
			require.Equal(t, one.ordered, c.First)
			require.Equal(t, one.number, orders[c.Row].number)
			later := Share{}
			for _, other := range orders {
				if l := other.known(); l.customer == k.customer && l.number != one.number && l.ordered != 0 && l.requested >= l.ordered {
					later.All++
					if l.requested == l.ordered {
						later.Some++
					}
				}
			}
			require.Equal(t, later, c.Later)
			firstAhead, firstNow := one.requested > one.ordered, one.requested == one.ordered
			require.Equal(t, later.All > 0 && firstAhead && later.Some == later.All, c.Changed == AheadThenNow)
			require.Equal(t, later.All > 0 && firstNow && later.Some == 0, c.Changed == NowThenAhead)
		}
	})
}

// The rules' own examples. A customer's earliest day and earliest requested date can be those of two orders: comparing them says
// immediate where the first order was booked ahead.
func TestExamples(t *testing.T) {
	assert.Equal(t, "28.57", numfmt.Percent(2, 7))
	assert.Equal(t, "3.13", numfmt.Percent(1, 32))
	low, high := Share{2, 7}.Interval()
	assert.InDelta(t, 8.22, low, 0.005)
	assert.InDelta(t, 64.11, high, 0.005)
	low, high = Share{0, 5}.Interval()
	assert.Equal(t, 0.0, low)
	assert.InDelta(t, 43.45, high, 0.005)
	assert.Equal(t, "no orders", numfmt.Percent(0, 0))

	d := day.Of(2026, 3, 2)
	b := bookOf([]plain{
		{number: "T-10", customer: "Trap", ordered: d, requested: d + 5},
		{number: "T-9", customer: "Trap", ordered: d, requested: d},      // the same day; 9 comes before 10
		{number: "S-1", customer: "Split", ordered: d, requested: d + 9}, // first, booked ahead
		{number: "S-2", customer: "Split", ordered: d + 3, requested: d}, // requested before it was ordered
		{number: "B-1", customer: "Blank", ordered: d},
		{number: "B-2", customer: "Blank"}, // two missing days are not the same day
	})
	q, err := Parse(b, Request{Which: "first"})
	require.NoError(t, err)
	part := Ask(b, q)[0]
	assert.Equal(t, Share{1, 2}, part.Total.AskedShare(q), "T-9 is immediate; S-1 is not, though the earliest days agree")
	assert.Equal(t, 1, part.Tied)
	assert.Equal(t, 1, part.Total.Asked(NoRequestedDate))
	for word, r := range map[string]Request{"orders": {Which: "second"}, "achieved": {Achieved: "paid"},
		"no_requested_date": {NoRequestedDate: "maybe"}, "cancelled": {Cancelled: "perhaps"}} {
		_, err := Parse(b, r)
		assert.ErrorContains(t, err, word)
	}
}
