package backlog

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/query/querytest"
	"prairiedusk/internal/core/request"
)

func at(t require.TestingT, text string) (d day.Day) {
	require.NoError(t, d.UnmarshalText([]byte(text)))
	return d
}

func index(name string) int { return milestone.Index(milestone.BuiltIn(), name) }

// example is the book of the rules: the letters A to O.
func example(t require.TestingT) *book.Book {
	builder := book.NewBuilder(book.BuiltIn())
	for i, text := range strings.Fields("A:06-02,08-19 B:06-11,07-01 C:07-15, D:07-31,08-05 E:07-09,07-09 F:06-20,,07-14 G:06-04,06-30 H:08-03, I:07-20,07-31 J:07-10,,07-07 K:07-22,07-21 L:06-08, M:07-02,07-03 N:07-27, O:07-28,") {
		number, days, _ := strings.Cut(text, ":")
		o := book.Order{ID: int64(i), Number: number, Days: make([]day.Day, len(milestone.BuiltIn()))}
		for k, d := range strings.Split(days, ",") {
			if d != "" {
				o.Days[index([]string{"ordered", "shipped", "cancelled"}[k])] = at(t, "2026-"+d)
			}
		}
		builder.Put(o)
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	return builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{DataDate: at(t, "2026-08-31")}})
}

// named are the numbers of the orders that a test picks, as one text.
func named(t require.TestingT, b *book.Book, q Question, pick Pick) (numbers string) {
	test, err := Test(b, q, pick)
	require.NoError(t, err)
	for _, block := range b.Blocks() {
		for row, number := range block.Numbers {
			if test(book.Offset{Block: block, At: row, Row: row}) {
				numbers += number
			}
		}
	}
	return numbers
}

func TestTheExampleOfTheRulesLetterByLetter(t *testing.T) {
	b := example(t)
	q, err := Parse(b, query.Request{Period: "2026-07"}, "")
	require.NoError(t, err)
	a, err := During(b, q, q.Periods[0], query.NoCut, true)
	require.NoError(t, err)
	row := a.Total.Rows[0]
	assert.Equal(t, []int{4, 7, 5, 6, 11}, []int{row.AtStart.Orders, row.Opened.Orders, row.Closed.Orders, row.AtEnd.Orders,
		row.SomeTime.Orders})
	assert.Equal(t, []int{1, 1}, []int{a.Unplaced[EndBeforeStart], a.Unplaced[CancelledBeforeStart]}, "K and J")
	for what, want := range map[string]string{
		SomeTime: "ABCDEFILMNO", AtStart: "ABFL", OpenedIn: "CDEIMNO", ClosedIn: "BEFIM", AtEnd: "ACDLNO", "end-before-start": "K",
		"cancelled-before-start": "J",
		"carried-in":             "BF", "carried-through": "AL", "opened": "CDNO", "opened-and-closed": "EIM", "closed-before": "G",
		"opened-after": "H",
	} {
		assert.Equal(t, want, named(t, b, q, Pick{What: what}), what)
	}
	assert.Equal(t, "What was open in 2026-07, the closing day counted, ordered and not yet shipped?", q.Sentence(query.NoCut).String())

	q.Out = true
	a, err = During(b, q, q.Periods[0], query.NoCut, true)
	require.NoError(t, err)
	assert.Equal(t, 9, a.Total.Rows[0].SomeTime.Orders)
	assert.Equal(t, "ACDFILMNO", named(t, b, q, Pick{What: SomeTime}))
	assert.Equal(t, "BE", named(t, b, q, Pick{What: NotOpen}))

	days, _ := Cut(q.Periods[0], b.Bounds())
	var reasons []string
	for _, lane := range Lanes(b, Question{Question: q.Question}, ByStart) {
		assert.True(t, lane.Life.OpenIn(days, false))
		reasons = append(reasons, b.At(lane.Row).Number+" "+lane.Fate.Reason(q.Leg, lane.Life))
	}
	assert.Equal(t, []string{"A carried through", "L carried through, still open", "B carried in, closed inside",
		"F carried in, closed inside", "M opened and closed inside"}, reasons[:5])
}

// An order around a period from the 10th to the 20th, with its start and its end on each side of each of its days.
func TestLivesOnBothSidesOfEachDay(t *testing.T) {
	days := day.Through(10, 20)
	for _, tt := range []struct {
		start, end, cancelled day.Day
		fate                  PeriodState
		in, out               bool // open at some time, with the closing day and without
		atStart, atEnd        bool // open at the end of the 9th, and of the 20th
	}{
		{5, 9, 0, ClosedBefore, false, false, false, false},
		{5, 10, 0, CarriedIn, true, false, true, false},
		{5, 11, 0, CarriedIn, true, true, true, false},
		{9, 20, 0, CarriedIn, true, true, true, false},
		{9, 21, 0, CarriedThrough, true, true, true, true},
		{9, 0, 0, CarriedThrough, true, true, true, true},
		{10, 10, 0, OpenedAndClosed, true, false, false, false},
		{10, 20, 0, OpenedAndClosed, true, true, false, false},
		{10, 21, 0, Opened, true, true, false, true},
		{20, 20, 0, OpenedAndClosed, true, false, false, false},
		{20, 0, 0, Opened, true, true, false, true},
		{21, 0, 0, OpenedAfter, false, false, false, false},
		{21, 21, 0, OpenedAfter, false, false, false, false},
		{12, 15, 14, OpenedAndClosed, true, true, false, false},
		{12, 0, 20, OpenedAndClosed, true, true, false, false},
		{12, 0, 12, OpenedAndClosed, true, false, false, false},
		{12, 0, 11, CancelledBeforeStart, false, false, false, false},
		{12, 13, 11, CancelledBeforeStart, false, false, false, false},
		{12, 11, 0, EndBeforeStart, false, false, false, false},
		{0, 15, 0, NoStart, false, false, false, false},
	} {
		life := LifeOf(leg.Dates{Start: tt.start, End: tt.end}, tt.cancelled)
		assert.Equal(t, tt.fate, life.State(days), "%+v", tt)
		assert.Equal(t, []bool{tt.in, tt.out, tt.atStart, tt.atEnd}, []bool{life.OpenIn(days, false), life.OpenIn(days, true),
			life.OpenAt(9), life.OpenAt(20)}, "%+v", tt)
	}
	assert.False(t, LifeOf(leg.Dates{Start: 12, End: 15}, 15).Cancelled, "it got there on the day of its cancelling")
	assert.True(t, LifeOf(leg.Dates{Start: 12, End: 15}, 14).Cancelled)
	assert.Equal(t, NotYetBegun, LifeOf(leg.Dates{RawStart: 30}, 0).State(days))
}

func TestQuestionsThatAreRefused(t *testing.T) {
	b := example(t)
	for _, tt := range []struct {
		request query.Request
		closing string
		want    string
	}{
		{query.Request{Period: "2026-09"}, "", "the records end on 2026-08-31"},
		{query.Request{Period: "2026-13"}, "", "a period looks like 2026, 2026-Q3"},
		{query.Request{To: "promised"}, "", "a plan is no fact"},
		{query.Request{}, "both", "want in or out"},
	} {
		_, err := Parse(b, tt.request, tt.closing)
		var refused *request.Error
		require.ErrorAs(t, err, &refused)
		assert.ErrorContains(t, err, tt.want)
	}
	q, err := Parse(b, query.Request{}, "out")
	require.NoError(t, err)
	_, err = Test(b, q, Pick{What: "ajar"})
	assert.ErrorContains(t, err, "want one of at-start")
	for _, text := range []string{"5,2", "x", "-1", "1,1"} {
		_, err := ParseBuckets(text, leg.Days)
		assert.ErrorContains(t, err, "ascending", text)
	}
	limits, err := ParseBuckets("", leg.Weeks)
	require.NoError(t, err)
	assert.Equal(t, []string{"at most 2", "over 2 to 5", "over 5 to 10", "over 10 to 20", "over 20"}, BucketLabels(limits, leg.Weeks))
}

// drawn is a random book beside the plain orders that it was made from.
type drawn struct {
	book   *book.Book
	orders []book.Order
	works  func(o book.Order, d day.Day) bool
}

const from, to = 46000, 46050

func drawBook(t *rapid.T) (d drawn) {
	holidays := map[string]map[day.Day]bool{}
	var loaded []*calendar.Calendar
	for _, site := range []string{"Galway", "Muscat"} {
		def := calendar.Definition{Name: site, Coverage: day.Through(from, to)}
		holidays[site] = map[day.Day]bool{}
		for range rapid.IntRange(0, 4).Draw(t, "holidays") {
			h := day.Day(rapid.Int32Range(from, to).Draw(t, "holiday"))
			def.Holidays, holidays[site][h] = append(def.Holidays, calendar.NamedDay{Day: h}), true
		}
		c, err := calendar.New(def)
		require.NoError(t, err)
		loaded = append(loaded, c)
	}
	calendars, err := book.NewCalendars(loaded)
	require.NoError(t, err)
	d.works = func(o book.Order, at day.Day) bool {
		return at.Weekday() != 0 && at.Weekday() != 6 && !holidays[o.Fields[book.Site]][at]
	}
	dataDate := day.Day(rapid.Int32Range(from+10, to).Draw(t, "data date"))
	edges := rapid.OneOf(rapid.Int32Range(from, to), rapid.SampledFrom([]int32{from, from + 1, from + 5, from + 6, from + 7,
		int32(dataDate) - 1, int32(dataDate), int32(dataDate) + 1}))
	builder := book.NewBuilder(book.BuiltIn())
	a := rapid.Float64Range(0, 1)
	for id := range rapid.IntRange(0, 20).Draw(t, "orders") {
		o := book.Order{ID: int64(id), Number: fmt.Sprint("N", id), Days: make([]day.Day, len(milestone.BuiltIn()))}
		for _, name := range []string{"ordered", "shipped", "delivered", "paid", "cancelled"} {
			if a.Draw(t, "given") < map[string]float64{"ordered": 0.9, "cancelled": 0.2}[name]+0.4 {
				o.Days[index(name)] = day.Day(edges.Draw(t, name))
			}
		}
		o.Fields[book.Site] = rapid.SampledFrom([]string{"Galway", "Muscat", ""}).Draw(t, "site")
		o.Fields[book.Channel] = rapid.SampledFrom([]string{"web", "phone"}).Draw(t, "channel")
		o.Fields[book.Currency] = rapid.SampledFrom([]string{"EUR", "OMR", ""}).Draw(t, "currency")
		o.Value, o.Valued = int64(rapid.IntRange(0, 5000).Draw(t, "value")), true
		for l := range rapid.IntRange(0, 3).Draw(t, "lines") {
			line := parts.Line{Number: fmt.Sprint(l + 1), Product: "Hive",
				Units: parts.Quantity{Thousandths: int64(rapid.IntRange(1, 9).Draw(t, "units")) * 1000, Known: true}}
			if a.Draw(t, "own day") < 0.2 {
				line.Shipped = parts.Day{Day: day.Day(edges.Draw(t, "line shipped"))}
			}
			o.Lines = append(o.Lines, line)
		}
		names := rapid.SampledFrom([][]string{{"1", "2", "3"}, {"", "9"}}).Draw(t, "names")
		for s := range rapid.IntRange(0, 3).Draw(t, "shipments") {
			shipment := parts.Shipment{Number: fmt.Sprint(s),
				Line:    rapid.SampledFrom(names[:min(len(names), max(1, len(o.Lines)))]).Draw(t, "line"),
				Shipped: parts.Day{Day: day.Day(edges.Draw(t, "left"))}}
			shipment.Units = parts.Quantity{Thousandths: int64(rapid.IntRange(1, 12).Draw(t, "sent")) * 1000, Known: true}
			o.Shipments = append(o.Shipments, shipment)
		}
		d.orders = append(d.orders, o)
		builder.Put(o)
	}
	d.book = builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: from, DataDate: dataDate}})
	return d
}

// stay is a plain order's start and close, by the words of the rules; false where it cannot be placed.
func (d drawn) stay(q Question, o book.Order) (start, close day.Day, placed bool) {
	known := func(name string) day.Day {
		if at := o.Days[index(name)]; at <= d.book.Bounds().DataDate {
			return at
		}
		return 0
	}
	start, end, gone := known(q.Leg.From.Name), known(q.Leg.To.Name), known(milestone.Cancelled)
	close = end
	if gone != 0 && (end == 0 || gone < end) {
		close = gone
	}
	return start, close, start != 0 && (end == 0 || end >= start) && (close == 0 || close >= start)
}

// held are the units of an order that are open at the end of a day, found by walking its lines and shipments; the shipments of
// an order all name lines, or none does.
func held(o book.Order, start, at day.Day) (units int64) {
	by := func(d day.Day) bool { return d != 0 && max(d, start) <= at }
	open := int64(0) // of lines without a day of their own
	for _, l := range o.Lines {
		if l.Shipped.Day != 0 {
			if !by(l.Shipped.Day) {
				units += l.Units.Thousandths
			}
			continue
		}
		left := l.Units.Thousandths
		for _, s := range o.Shipments {
			if s.Line == l.Number && by(s.Shipped.Day) {
				left -= s.Units.Thousandths
			}
		}
		open += max(0, left)
	}
	for _, s := range o.Shipments {
		if (s.Line == "" || s.Line == "9") && by(s.Shipped.Day) { // of no line, or of one that the order does not have
			open -= s.Units.Thousandths
		}
	}
	return units + max(0, open)
}

func drawQuestion(t *rapid.T, d drawn) Question {
	r := query.Request{
		From: rapid.SampledFrom([]string{"ordered", "delivered"}).Draw(t, "from"),
		To:   rapid.SampledFrom([]string{"shipped", "paid"}).Draw(t, "to"),
		In:   rapid.SampledFrom([]string{"days", "working-days", "weeks", "months"}).Draw(t, "in"),
		By:   rapid.SampledFrom([][]string{nil, {"site"}, {"channel", "site"}, {"week"}}).Draw(t, "by"),
	}
	if r.In != "months" && rapid.Bool().Draw(t, "both ends") {
		r.Count = "both-ends"
	}
	last := d.book.Bounds().DataDate
	a := day.Day(rapid.OneOf(rapid.Int32Range(from-3, int32(last)),
		rapid.SampledFrom([]int32{from, from + 1, from + 6, int32(last)})).Draw(t, "first"))
	r.Period = a.String() + "/" + day.Day(rapid.OneOf(rapid.Int32Range(int32(a), to+5),
		rapid.SampledFrom([]int32{int32(a), max(int32(a), int32(last)), int32(last) + 1})).Draw(t, "last")).String()
	q, err := Parse(d.book, r, rapid.SampledFrom([]string{"in", "out"}).Draw(t, "closing day"))
	require.NoError(t, err)
	if rapid.Bool().Draw(t, "where") {
		q.Where = query.Where{Text: "web", Condition: predicate.Compare{Operator: predicate.Equal, X: predicate.Field("channel"),
			Y: predicate.Literal{Kind: predicate.OfText, Text: "web"}}}
	}
	return q
}

// asks says whether an order is asked about.
func asks(q Question, o book.Order) bool {
	return q.Where.Condition == nil || o.Fields[book.Channel] == "web"
}

func TestWhatWasOpenAgreesWithAWalkOverTheDays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		q := drawQuestion(t, d)
		each := rapid.SampledFrom([]query.TimeBucket{query.Day, query.Week, query.Month}).Draw(t, "each")
		whole, err := During(d.book, q, q.Periods[0], query.NoCut, true)
		require.NoError(t, err)
		p := newPlan(d.book, q)
		low, high := p.bounds(whole.Spans[0])
		querytest.Check(t, p.scope, p.newTally(newTimeAxis(low, high, whole.Spans), true), func(counted *tally) any {
			return []any{counted.cells, counted.lost, counted.withoutUnits, counted.withoutValue}
		})
		steps, err := During(d.book, q, q.Periods[0], each, true)
		require.NoError(t, err)
		require.Equal(t, whole.Spans[0], day.Span{From: steps.Spans[0].From, To: steps.Spans[len(steps.Spans)-1].To}, "every step is there")
		require.Equal(t, d.book.Orders(), whole.Placed()+whole.Population.Unmet+sum(whole.Unplaced[:]))

		for _, a := range []Answer{whole, steps} {
			for i, days := range a.Spans {
				first, last := days.From, days.LastDay()
				var want Row
				want.Days = days
				units, values := [2]int64{}, map[string]int64{}
				for _, o := range d.orders {
					start, close, placed := d.stay(q, o)
					if !placed || !asks(q, o) {
						continue
					}
					openAt := func(at day.Day) bool { return start <= at && (close == 0 || close > at) }
					count := func(n *int, is bool) {
						if is {
							*n++
						}
					}
					count(&want.AtStart.Orders, openAt(first-1))
					count(&want.AtEnd.Orders, openAt(last))
					count(&want.Opened.Orders, first <= start && start <= last)
					count(&want.Closed.Orders, close != 0 && first <= close && close <= last)
					in := start <= last && (close == 0 || close >= first)
					out := start <= last && (close == 0 || close > first && close != start)
					count(&want.SomeTime.Orders, in && !q.Out || out && q.Out)
					count(&want.NotOpen.Orders, q.Out && in && !out)
					for k, at := range []day.Day{first - 1, last} {
						if openAt(at) && q.Leg.To.Name == "shipped" {
							units[k] += held(o, start, at)
						} else if openAt(at) {
							units[k] += held(o, start, 0) // nothing leaves before it is paid
						}
					}
					if openAt(last) && (len(o.Shipments) == 0 || q.Leg.To.Name != "shipped") &&
						!slices.ContainsFunc(o.Lines, func(l parts.Line) bool { return l.Shipped.Day != 0 }) {
						values[o.Fields[book.Currency]] += o.Value
					}
				}
				got := a.Total.Rows[i]
				require.Equal(t, []int{want.AtStart.Orders, want.Opened.Orders, want.Closed.Orders, want.AtEnd.Orders,
					want.SomeTime.Orders, want.NotOpen.Orders},
					[]int{got.AtStart.Orders, got.Opened.Orders, got.Closed.Orders, got.AtEnd.Orders, got.SomeTime.Orders,
						got.NotOpen.Orders})
				require.Equal(t, units, [2]int64{got.AtStart.Units, got.AtEnd.Units})
				for c, currency := range d.book.Values(book.Currency) {
					require.GreaterOrEqual(t, got.AtEnd.Values[c], values[currency], "what has not left at all is there as a whole")
				}
				// The identities hold in orders, units and every currency, and in each group.
				var groups Row
				for _, g := range append(slices.Clone(a.Groups), a.Total) {
					r := g.Rows[i]
					left := r.AtStart
					left.Values = slices.Clone(left.Values)
					left.add(r.Opened, 1)
					some := left
					some.Values = slices.Clone(left.Values)
					some.add(r.NotOpen, -1)
					left.add(r.Closed, -1)
					require.Equal(t, left, r.AtEnd)
					require.Equal(t, some, r.SomeTime)
					if g.Keys != nil {
						groups.add(r)
					}
				}
				if len(q.By) > 0 && len(a.Groups) > 0 {
					require.Equal(t, []int{got.AtStart.Orders, got.SomeTime.Orders, got.AtEnd.Orders},
						[]int{groups.AtStart.Orders, groups.SomeTime.Orders, groups.AtEnd.Orders})
				}
			}
		}

		// Each number has its orders, and the daily index the same row.
		row := whole.Total.Rows[0]
		for what, n := range map[string]int{AtStart: row.AtStart.Orders, OpenedIn: row.Opened.Orders, ClosedIn: row.Closed.Orders,
			AtEnd: row.AtEnd.Orders, SomeTime: row.SomeTime.Orders, NotOpen: row.NotOpen.Orders} {
			if what == NotOpen && !q.Out || q.Where.Condition != nil {
				continue
			}
			require.Equal(t, n, strings.Count(named(t, d.book, q, Pick{What: what}), "N"), what)
		}
		if q.Where.Condition == nil {
			daily, err := NewDaily(d.book, q)
			require.NoError(t, err)
			fast := daily.Answer(q, q.Periods[0], each, true)
			require.Equal(t, steps.Total.Rows, fast.Total.Rows, "any steps from the daily index")
			require.Equal(t, []any{steps.Unplaced, steps.WithoutUnits}, []any{fast.Unplaced, fast.WithoutUnits})
		}
		require.Len(t, Lanes(d.book, q, ByAge), row.SomeTime.Orders, "orders in the lanes = list = count")
		require.True(t, slices.IsSortedFunc(Lanes(d.book, q, ByLength), func(x, y TimelineRow) int { return y.Age - x.Age }))
		closed := slices.IndexFunc(Lanes(d.book, q, ByAge), func(l TimelineRow) bool { return !l.Life.OpenAt(whole.Spans[0].LastDay()) })
		require.Contains(t, []int{row.AtEnd.Orders, -1}, closed, "what is open at the end stands before all")

		// Two periods together count an order once.
		two, days := q, whole.Spans[0]
		two.Periods = []period.Period{{Span: day.Through(days.From, days.From)}, {Span: day.Through(days.LastDay(), days.LastDay())}}
		together := map[string]bool{}
		for _, one := range two.Periods {
			alone := q
			alone.Periods = []period.Period{one}
			for _, number := range strings.Split(named(t, d.book, alone, Pick{What: SomeTime}), "N")[1:] {
				together[number] = true
			}
		}
		if q.Where.Condition == nil {
			require.Equal(t, len(together), Together(d.book, two))
			require.Equal(t, len(together), strings.Count(named(t, d.book, two, Pick{What: SomeTime}), "N"))
		}
	})
}

func sum(all []int) (n int) {
	for _, one := range all {
		n += one
	}
	return n
}

func TestAgesAgreeWithAWalkOverTheDays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		q := drawQuestion(t, d)
		limits, err := ParseBuckets(rapid.SampledFrom([]string{"0,3", "2,5,10,20", "1"}).Draw(t, "buckets"), q.Measure.Unit)
		require.NoError(t, err)
		// aged counts by hand, in the units that need no table of months.
		aged := func(at day.Day) map[int]int {
			ages := map[int]int{}
			for _, o := range d.orders {
				start, close, placed := d.stay(q, o)
				if !placed || !asks(q, o) || start > at || close != 0 && close <= at {
					continue
				}
				age := 0
				for day := start; day <= at; day++ {
					counts := day > start || q.Measure.Rule == leg.BothEnds
					if counts && (q.Measure.Unit != leg.WorkingDays || d.works(o, day)) {
						age++
					}
				}
				ages[age]++
			}
			return ages
		}
		each := rapid.SampledFrom([]query.TimeBucket{query.Day, query.Week}).Draw(t, "each")
		for _, mix := range AgesOverTime(d.book, q, q.Periods[0], each, limits) {
			groups, total := At(d.book, q, mix.Days.LastDay())
			require.Equal(t, total.Buckets(limits), mix.Buckets, "%v", mix.Days)
			if q.Measure.Unit != leg.Months {
				require.Equal(t, distribution.Of(aged(mix.Days.LastDay())), total.Ages)
			}
			orders := 0
			for _, g := range groups {
				orders += g.Ages.Orders()
			}
			if len(q.By) > 0 {
				require.Equal(t, total.Ages.Orders(), orders)
			}
			if q.Where.Condition == nil {
				only := q
				only.Periods = []period.Period{{Text: "day", Span: day.Through(mix.Days.LastDay(), mix.Days.LastDay())}}
				oldest := limits[0]
				require.Equal(t, total.Buckets(limits)[0], strings.Count(named(t, d.book, only, Pick{What: AtEnd, Oldest: &oldest}), "N"))
			}
		}
	})
}

// What has left is not open any more: units as they were sent, the value with them.
func TestPartsThatHaveLeftAreNotOpen(t *testing.T) {
	builder := book.NewBuilder(book.BuiltIn())
	known := func(n int64) parts.Quantity { return parts.Quantity{Thousandths: n * 1000, Known: true} }
	o := book.Order{Number: "A", Days: make([]day.Day, len(milestone.BuiltIn())), Value: 1000, Valued: true}
	o.Fields[book.Currency] = "EUR"
	o.Days[index("ordered")], o.Days[index("shipped")] = 46000, 46020
	o.Lines = []parts.Line{{Number: "1", Units: known(4), Value: 6_0000, Valued: true},
		{Number: "2", Units: known(6), Value: 4_0000, Valued: true}}
	o.Shipments = []parts.Shipment{
		{Number: "a", Line: "1", Units: known(1), Shipped: parts.Day{Day: 46005}},
		{Number: "b", Line: "1", Units: known(3), Shipped: parts.Day{Day: 46010}},
		{Number: "c", Line: "2", Units: known(6), Shipped: parts.Day{Day: 46020}},
	}
	builder.Put(o)
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	b := builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{DataDate: 46030}})
	q, err := Parse(b, query.Request{Period: day.Day(46004).String() + "/" + day.Day(46025).String()}, "")
	require.NoError(t, err)
	a, err := During(b, q, q.Periods[0], query.Day, true)
	require.NoError(t, err)
	holds := func(at day.Day) []int64 {
		row := a.Total.Rows[at-46004]
		return []int64{int64(row.AtEnd.Orders), row.AtEnd.Units / 1000, row.AtEnd.Values[1]}
	}
	assert.Equal(t, [][]int64{{1, 10, 1000}, {1, 9, 850}, {1, 6, 400}, {0, 0, 0}}, [][]int64{holds(46004), holds(46005), holds(46010),
		holds(46020)})
	assert.Zero(t, a.WithoutUnits)
}
