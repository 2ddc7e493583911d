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
	"prairiedusk/internal/core/parts"
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
		o := book.Order{ID: int64(i), Number: string(rune('A' + i)), Days: make([]day.Day, len(milestone.BuiltIn())), Value: m.value,
			Valued: m.currency != ""}
		for name, d := range m.days {
			o.Days[milestone.Index(milestone.BuiltIn(), name)] = friday + day.Day(d)
		}
		o.Fields[book.Site], o.Fields[book.Currency] = m.site, m.currency
		b.Put(o)
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	return b.Finish(book.Settings{Bounds: period.Bounds{FirstDay: friday - 60, DataDate: friday}, Calendars: calendars})
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
		{"two days that are the same, not two that are missing", Compare{Equal, Day(shipped), Day(promised)}, "FFFFF", ""},
		{"two days that are not the same, as those of which one is missing", Compare{Unequal, Day(shipped), Day(promised)}, "TTTTT", ""},
		{"a day beside itself", Compare{Equal, Day(shipped), Day(shipped)}, "TFFFT", ""},
		{"two fields, of which one or both are missing", Compare{Equal, Field("site"), Field("channel")}, "FFFFF", ""},
		{"which of them != holds of for want of a day", UnequalToMissing(Not{Compare{Unequal, Day(shipped), Day(promised)}}), "FTTTT", ""},
		{"a value in its currency", Compare{Less, Value{}, number(13)}, "TFUUU", "value"},
		{"a length", Compare{Greater, length(t, ordered, shipped, false), number(5)}, "TUUUU", "shipped"},
		{"a length so far", Compare{Greater, length(t, ordered, shipped, true), number(6)}, "FTUTU", "shipped"},
		{"one of", In{Field("site"), []Literal{text("Muscat"), {}}}, "FTTFT", ""},
		{"one of, by length", In{length(t, ordered, shipped, false), []Literal{number(6)}}, "TUUUU", "shipped"},
		{"a text", Matches(Field("site"), regexp.MustCompile("^M")), "FTUFU", "site"},
		{"the number", Compare{Less, Number{}, text("C")}, "TTFFF", ""},
		{"not", Not{Compare{Greater, Day(shipped), Day(promised)}}, "FUUUU", "shipped"},
		{"false decides", And{Compare{Equal, Field("site"), text("Galway")}, Compare{Greater, Day(shipped), Day(promised)}}, "TFFUF",
			"shipped"},
		{"true decides", Or{Compare{Equal, Field("site"), text("Galway")}, Compare{Greater, Day(shipped), Day(promised)}}, "TUUTU",
			"shipped"},
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

// Conditions on an order's lines, on what its parts show and on sizes, told from the orders as records.
func TestConditionsOnParts(t *testing.T) {
	line := func(product string, thousandths int64, shipped day.Day) parts.Line {
		return parts.Line{Number: "1", Product: product, Units: parts.Quantity{Thousandths: thousandths, Known: thousandths >= 0},
			Shipped: parts.Day{Day: shipped}}
	}
	b := book.NewBuilder(book.BuiltIn())
	for i, o := range []book.Order{
		{Lines: []parts.Line{line("VEIL", 2000, friday), line("HIVE", 500, 0)}, Findings: parts.PartShipped}, // A
		{Lines: []parts.Line{line("VEIL", -1, friday+1)}, Payments: []parts.Payment{{Receipt: "R1", Amount: 125000, Known: true},
			{Receipt: "R2"}}}, // B: ships after the data date
		{}, // C: nothing belongs to it
		{Lines: []parts.Line{line("", 7000, 0)}, Shipments: []parts.Shipment{{Number: "S1", Carrier: "Own van", Line: "1"}}}, // D
	} {
		o.ID, o.Number, o.Days = int64(i), string(rune('A'+i)), make([]day.Day, len(milestone.BuiltIn()))
		o.Days[0] = friday - 10
		b.Put(o)
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	bk := b.Finish(book.Settings{Bounds: period.Bounds{FirstDay: friday - 60, DataDate: friday}, Calendars: calendars})
	text := func(s string) Literal { return Literal{Kind: OfText, Text: s} }
	number := func(x float64) Literal { return Literal{Kind: OfNumber, Number: x} }
	product, units, shipped := PartColumn{book.Lines, "product"}, PartColumn{book.Lines, "units"}, PartColumn{book.Lines, "line-shipped"}
	veil := Compare{Equal, product, text("VEIL")}
	ordered := leg.Leg{From: milestone.BuiltIn()[0], To: milestone.BuiltIn()[3]}
	for _, tt := range []struct {
		name      string
		condition Condition
		truths    string // of A to D
		lacks     string // of the first undecided order
	}{
		{"some line", Some{book.Lines, veil}, "TTFF", ""},
		{"every line, of none as well", Every{book.Lines, veil}, "FTTF", ""},
		{"a line without units cannot tell", Some{book.Lines, Compare{Greater, units, number(1)}}, "TUFT", "lines.units"},
		{"one that settles makes the want not matter", Some{book.Lines, Or{veil, Compare{Greater, units, number(1)}}}, "TTFT", ""},
		{"not every line, for certain", Every{book.Lines, Compare{Less, units, number(1)}}, "FUTF", "lines.units"},
		{"a missing product", Some{book.Lines, Compare{Equal, product, Literal{}}}, "FFFT", ""},
		{"a product among several", Some{book.Lines, In{product, []Literal{text("HIVE"), {}}}}, "TFFT", ""},
		{"the start of a product, which one line lacks", Some{book.Lines, Text{X: product, Decides: func(s string) bool { return s[0] == 'H' }}},
			"TFFU", "lines.product"},
		{"a day after the data date is not known", Some{book.Lines, Compare{Equal, shipped, Literal{}}}, "TTFT", ""},
		{"a day of a line", Some{book.Lines, Compare{LessOrEqual, shipped, text(friday.String())}}, "TUFU", "lines.line-shipped"},
		{"an amount in units", Some{book.Payments, Compare{Equal, PartColumn{book.Payments, "amount"}, number(12.5)}}, "FTFF", ""},
		{"a text that hardly repeats", Some{book.Payments, Compare{Equal, PartColumn{book.Payments, "receipt"}, text("R2")}}, "FTFF", ""},
		{"a line and its shipment", Some{book.Lines, Some{book.Shipments, Compare{Equal, PartColumn{book.Shipments, "line"},
			PartColumn{book.Lines, "line"}}}}, "FFFT", ""},
		{"how many", Compare{Greater, Count{book.Lines}, number(1)}, "TFFF", ""},
		{"what parts show", Has(parts.PartShipped), "TFFF", ""},
		{"a size", Compare{Equal, Size{Number{}, func(s string) int { return len(s) }}, number(1)}, "TTTT", ""},
		{"the size of what is missing", Compare{Greater, Size{Field("site"), func(s string) int { return len(s) }}, number(1)}, "UUUU",
			"site"},
		{"the state of a leg", Compare{Equal, State{ordered}, text("running")}, "TTTT", ""},
	} {
		bound := Bind(bk, tt.condition, decimals)
		out := make([]Truth, 4)
		bound.Decide(bk.Blocks()[0], 0, out)
		got, lacks := "", ""
		for row, truth := range out {
			got += string("FTU"[truth])
			require.Equal(t, truth, bound.One(bk.Blocks()[0], row), tt.name)
			if truth == Undecided && lacks == "" {
				lacks = bound.Lacks(bk.Blocks()[0], row)
			} else if truth != Undecided {
				assert.Empty(t, bound.Lacks(bk.Blocks()[0], row), tt.name)
			}
		}
		assert.Equal(t, tt.truths, got, tt.name)
		assert.Equal(t, tt.lacks, lacks, tt.name)
	}
	assert.Panics(t, func() {
		Bind(bk, Some{book.Lines, Compare{Equal, PartColumn{book.Lines, "colour"}, Literal{}}}, decimals)
	})

	assert.Nil(t, UnequalToMissing(Compare{Unequal, Field("site"), text("Galway")}))
	assert.Equal(t, Some{book.Lines, Or{Compare{Equal, product, Literal{}}, Compare{Equal, Field("site"), Literal{}}}},
		UnequalToMissing(And{veil, Every{book.Lines, Compare{Unequal, product, Field("site")}}}))
	nested := And{Not{Some{book.Lines, veil}}, Compare{Equal, Size{Field("site"), nil}, number(1)}}
	assert.Equal(t, []string{"site"}, Uses(nested))
	shown := 0
	Walk(nested, func(Operand) { shown++ })
	assert.Equal(t, 5, shown, "the product and its text, the size with what it measures, and its number")
}
