package predicate

import (
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
)

// friday is 2026-07-03, the data date of made books.
var friday = day.Of(2026, 7, 3)

// An order of a made book: its days from friday on, its site, and its value in minor units.
type made struct {
	days     map[string]int
	site     string
	value    int64
	currency string
}

func bookOf(t require.TestingT, orders ...made) *book.Book {
	b := book.NewBuilder(book.BuiltIn())
	for i, m := range orders {
		o := book.Order{ID: int64(i), Number: string(rune('A' + i)), Days: make([]day.Day, len(milestone.BuiltIn())), Value: m.value, Valued: m.currency != ""}
		for name, d := range m.days {
			o.Days[milestone.Index(milestone.BuiltIn(), name)] = friday + day.Day(d)
		}
		o.Fields[book.Site], o.Fields[book.Currency] = m.site, m.currency
		b.Put(o)
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	return b.Finish(book.Ends{Bounds: period.Bounds{FirstDay: friday - 60, DataDate: friday}, Calendars: calendars})
}

func decimals(currency string) int { return map[string]int{"OMR": 3}[currency] }

func length(t *testing.T, from, to string, soFar bool) Length {
	l, isLeg := LegOf(milestone.BuiltIn(), from, to)
	require.True(t, isLeg)
	return Length{Leg: l, Measure: leg.Measure{Unit: leg.WorkingDays}, SoFar: soFar}
}

func TestConditionsOnOrders(t *testing.T) {
	const ordered, promised, shipped, cancelled = milestone.Ordered, milestone.Promised, milestone.Shipped, milestone.Cancelled
	b := bookOf(t,
		made{days: map[string]int{ordered: -10, promised: -3, shipped: -2}, site: "Galway", value: 12500, currency: "OMR"}, // A: 6 working days
		made{days: map[string]int{ordered: -10, promised: 5}, site: "Muscat", value: 40, currency: "JPY"},                  // B: waits, 8 so far
		made{days: map[string]int{ordered: -10, cancelled: -9}},                                                            // C: cancelled
		made{days: map[string]int{ordered: -10, shipped: 1}, site: "Galway"},                                               // D: ships after the data date
		made{days: map[string]int{shipped: -2}},                                                                            // E: never ordered
	)
	text := func(s string) Literal { return Literal{Kind: OfText, Text: s} }
	number := func(x float64) Literal { return Literal{Kind: OfNumber, Number: x} }
	for _, tt := range []struct {
		name      string
		condition Condition
		truths    string // of A to E
		lacks     string // of the first undecided order
	}{
		{"a field", Compare{Equal, Field("site"), text("Galway")}, "TFFTF", ""},
		{"a field that is missing", Compare{Equal, Field("site"), Literal{}}, "FFTFT", ""},
		{"another field", Compare{Unequal, Field("site"), text("Galway")}, "FTTFT", ""},
		{"order of fields", Compare{Greater, Field("site"), text("Galway")}, "FTUFU", "site"},
		{"a day", Compare{LessOrEqual, Day(shipped), text("2026-07-01")}, "TUUUT", "shipped"},
		{"a day that is missing or not known yet", Compare{Equal, Day(shipped), Literal{}}, "FTTTF", ""},
		{"two days", Compare{Greater, Day(shipped), Day(promised)}, "TUUUU", "shipped"},
		{"a value in its currency", Compare{Less, Value{}, number(13)}, "TFUUU", "value"},
		{"a length", Compare{Greater, length(t, ordered, shipped, false), number(5)}, "TUUUU", "shipped"},
		{"a length so far", Compare{Greater, length(t, ordered, shipped, true), number(6)}, "FTUTU", "shipped"},
		{"one of", In{Field("site"), []Literal{text("Muscat"), {}}}, "FTTFT", ""},
		{"one of, by length", In{length(t, ordered, shipped, false), []Literal{number(6)}}, "TUUUU", "shipped"},
		{"a text", Matches(Field("site"), regexp.MustCompile("^M")), "FTUFU", "site"},
		{"the number", Compare{Less, Number{}, text("C")}, "TTFFF", ""},
		{"not", Not{Compare{Greater, Day(shipped), Day(promised)}}, "FUUUU", "shipped"},
		{"false decides", And{Compare{Equal, Field("site"), text("Galway")}, Compare{Greater, Day(shipped), Day(promised)}}, "TFFUF", "shipped"},
		{"true decides", Or{Compare{Equal, Field("site"), text("Galway")}, Compare{Greater, Day(shipped), Day(promised)}}, "TUUTU", "shipped"},
		{"always", Or{Always(true), Compare{Greater, Day(shipped), Day(promised)}}, "TTTTT", ""},
	} {
		bound := Bind(b, tt.condition, decimals)
		out := make([]Truth, 5)
		bound.Decide(b.Blocks()[0], 0, out)
		got, lacks := "", ""
		for row, truth := range out {
			got += string("FTU"[truth])
			if assert.Equal(t, truth, bound.One(b.Blocks()[0], row)); truth == Undecided && lacks == "" {
				lacks = bound.Lacks(b.Blocks()[0], row)
			}
		}
		assert.Equal(t, tt.truths, got, tt.name)
		assert.Equal(t, tt.lacks, lacks, tt.name)
	}
	assert.Panics(t, func() { Bind(b, Compare{Equal, Field("colour"), Literal{}}, decimals) })
	assert.Panics(t, func() { Bind(b, Compare{Equal, Day("picked"), Literal{}}, decimals) })
}

// A milestone beside a day is a range of days; it decides as the comparison of their texts does.
func TestRangesOfDaysAgreeWithTheirTexts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var orders []made
		for range rapid.IntRange(1, 20).Draw(t, "orders") {
			m := made{days: map[string]int{}}
			if rapid.Bool().Draw(t, "promised") {
				m.days[milestone.Promised] = rapid.IntRange(-4, 4).Draw(t, "day")
			}
			orders = append(orders, m)
		}
		b := bookOf(t, orders...)
		operator := Operator(rapid.IntRange(0, 5).Draw(t, "operator"))
		literal := rapid.SampledFrom([]day.Day{day.First, friday - 4, friday, friday + 4, friday + 9, day.Last}).Draw(t, "literal")
		bound := Bind(b, Compare{operator, Day(milestone.Promised), Literal{Kind: OfText, Text: literal.String()}}, decimals)
		_, isRange := bound.root.(ranged)
		require.True(t, isRange)
		for row, m := range orders {
			x := value{}
			if d, promised := m.days[milestone.Promised]; promised {
				x = value{OfText, (friday + day.Day(d)).String(), 0}
			}
			require.Equal(t, operator.compare(x, value{OfText, literal.String(), 0}), bound.One(b.Blocks()[0], row))
		}
	})
}
