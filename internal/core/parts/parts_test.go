package parts

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/day"
)

const today = day.Day(46000)

func on(d day.Day) Day { return Day{Day: d} }

func units(n int64) Quantity { return Quantity{1000 * n, true} }

func TestWhenAnOrderIsShipped(t *testing.T) {
	one, two := Line{Number: "1", Units: units(5)}, Line{Number: "2", Units: units(3)}
	bare := []Line{{Number: "1"}, {Number: "2"}}
	left := func(line string, n int64, d day.Day) Shipment {
		return Shipment{Line: line, Units: units(n), Shipped: on(d)}
	}
	unsaid := func(line string, d day.Day) Shipment { return Shipment{Line: line, Shipped: on(d)} }
	for _, tt := range []struct {
		name        string
		lines       []Line
		shipments   []Shipment
		day, first  day.Day
		findings    Finding
		saysNothing bool
	}{
		{name: "no shipment", lines: []Line{one, two}, saysNothing: true},
		{name: "all units, in three", lines: []Line{one, two}, shipments: []Shipment{left("1", 2, 100), left("1", 3, 104),
			left("2", 3, 102)}, day: 104, first: 100},
		{name: "a unit is missing", lines: []Line{one, two}, shipments: []Shipment{left("1", 4, 100), left("2", 3, 102)}, first: 100,
			findings: PartShipped},
		{name: "a unit too many of one line is none of another", lines: []Line{one, two},
			shipments: []Shipment{left("1", 6, 100), left("2", 2, 102)}, first: 100, findings: PartShipped | ShippedBeyond},
		{name: "the missing unit is cancelled", lines: []Line{{Number: "1", Units: units(5), Cancelled: units(1)}, two},
			shipments: []Shipment{left("1", 4, 100), left("2", 3, 102)}, day: 102, first: 100},
		{name: "a unit too many moves no day", lines: []Line{one}, shipments: []Shipment{left("1", 5, 100), left("1", 1, 109)}, day: 100,
			first: 100, findings: ShippedBeyond},
		{name: "nor does one that came before, by its key alone", lines: []Line{one},
			shipments: []Shipment{left("1", 3, 109), left("1", 5, 100)}, day: 100, first: 100, findings: ShippedBeyond},
		{name: "of a line whose shipments do not all tell, the last completes it", lines: []Line{one},
			shipments: []Shipment{left("1", 1, 100), unsaid("1", 104), unsaid("1", 102)}, day: 104, first: 100},
		{name: "and not while one of them waits", lines: []Line{one}, shipments: []Shipment{left("1", 1, 100), unsaid("1", 0)},
			first: 100, findings: PartShipped},
		{name: "all units are cancelled", lines: []Line{{Number: "1", Units: units(5), Cancelled: units(5), CancelledOn: on(90)}},
			saysNothing: true, findings: AllCancelled},
		{name: "a line is cancelled", lines: []Line{one, {Number: "2", Units: units(3), Cancelled: units(3)}},
			shipments: []Shipment{left("1", 5, 100)}, day: 100, first: 100},
		{name: "of the whole order, by units", lines: []Line{one, two}, shipments: []Shipment{left("", 6, 100), left("", 2, 101)},
			day: 101, first: 100},
		{name: "of the whole order, short", lines: []Line{one, two}, shipments: []Shipment{left("", 7, 100)}, first: 100,
			findings: PartShipped},
		{name: "one line named, the rest not", lines: []Line{one, two}, shipments: []Shipment{left("2", 3, 100), left("", 5, 101)},
			day: 101, first: 100},
		{name: "by lines, units unknown", lines: bare, shipments: []Shipment{unsaid("1", 100), unsaid("2", 103)}, day: 103, first: 100},
		{name: "by lines, one to come", lines: bare, shipments: []Shipment{unsaid("1", 100)}, first: 100, findings: PartShipped},
		{name: "the lines' own days", lines: []Line{{Number: "1", Shipped: on(100)}, {Number: "2", Shipped: on(105)}}, day: 105,
			first: 100},
		{name: "one line by its own day, one by shipment", lines: []Line{{Number: "1", Shipped: on(100)}, two},
			shipments: []Shipment{left("2", 3, 99)}, day: 100, first: 99},
		{name: "the whole order without units", lines: bare, shipments: []Shipment{unsaid("", 100), unsaid("", 101)}, day: 101,
			first: 100, findings: CompletenessUnknown},
		{name: "no lines", shipments: []Shipment{unsaid("", 100), unsaid("", 101)}, day: 101, first: 100, findings: CompletenessUnknown},
		{name: "no lines, one not yet gone", shipments: []Shipment{unsaid("", 100), {}}, first: 100, findings: PartShipped},
		{name: "one goes after the data date", lines: []Line{one, two}, shipments: []Shipment{left("1", 5, 100), left("2", 3, today+1)},
			first: 100, findings: PartShipped},
	} {
		told := Derive(Order{Lines: tt.lines, Shipments: tt.shipments}, today)
		shipped, findings := told.Shipped, told.Findings
		assert.Equal(t, Derived{on(tt.day), on(tt.first), !tt.saysNothing}, shipped, tt.name)
		assert.Equal(t, tt.findings, findings&^(WithLines|CancelledUnitsUndated), tt.name)
	}
}

// Payments of one day come by their times of day; where one has none, nobody knows when the value was reached.
func TestAtWhatTimeAnOrderIsPaid(t *testing.T) {
	at := func(clock day.Instant, amount int64) Payment {
		return Payment{Paid: Day{Day: 100, At: clock}, Amount: amount, Known: true}
	}
	for _, tt := range []struct {
		name     string
		payments []Payment
		want     day.Instant
	}{
		{"by the clock, and not by the key", []Payment{at(1400, 600000), at(900, 400000)}, 1400},
		{"what comes after moves nothing", []Payment{at(1800, 100), at(1400, 600000), at(900, 400000)}, 1400},
		{"one without a time", []Payment{at(900, 400000), at(0, 600000)}, 0},
	} {
		told := Derive(Order{Payments: tt.payments, Value: 10000, Valued: true, Decimals: 2}, today)
		assert.Equal(t, Day{Day: 100, At: tt.want}, told.Paid.Day, tt.name)
	}
}

// An order is cancelled on the day of its last line, once all its units are, and not before the data date has come.
func TestWhenAnOrderIsCancelled(t *testing.T) {
	line := func(number string, cancelled int64, d day.Day) Line {
		return Line{Number: number, Units: units(3), Cancelled: units(cancelled), CancelledOn: on(d)}
	}
	for _, tt := range []struct {
		name     string
		lines    []Line
		day      day.Day
		findings Finding
	}{
		{"the last line comes last", []Line{line("1", 3, 90), line("2", 3, 95)}, 95, AllCancelled},
		{"the last line comes first", []Line{line("1", 3, 95), line("2", 3, 90)}, 95, AllCancelled},
		{"a unit is left", []Line{line("1", 3, 95), line("2", 2, 90)}, 0, 0},
		{"on the data date", []Line{line("1", 3, today)}, today, AllCancelled},
		{"after the data date", []Line{line("1", 3, today+1)}, 0, 0},
		{"on no known day", []Line{line("1", 3, 0)}, 0, AllCancelled | CancelledUnitsUndated},
		{"one of them on no known day", []Line{line("1", 3, 90), line("2", 3, 0)}, 90, AllCancelled | CancelledUnitsUndated},
	} {
		told := Derive(Order{Lines: tt.lines}, today)
		assert.Equal(t, []any{tt.day, tt.findings}, []any{told.Cancelled.Day, told.Findings &^ WithLines}, tt.name)
	}
	for want, moments := range map[day.Instant][2]day.Instant{70: {70, 50}, 80: {50, 80}, 0: {50, 0}} {
		lines := []Line{line("1", 3, 90), line("2", 3, 90)}
		lines[0].CancelledOn.At, lines[1].CancelledOn.At = moments[0], moments[1]
		assert.Equal(t, want, Derive(Order{Lines: lines}, today).Cancelled.At, "at the last moment of that day, where each is known: %v", moments)
	}
}

func TestDeliveredNeedsEveryShipment(t *testing.T) {
	order := Order{Shipments: []Shipment{{Shipped: on(100), Delivered: on(103)}, {Shipped: on(101)}}}
	told := Derive(order, today)
	shipped, delivered, findings := told.Shipped, told.Delivered, told.Findings
	assert.Equal(t, []day.Day{101, 0, 103}, []day.Day{shipped.Day.Day, delivered.Day.Day, delivered.First.Day})
	assert.Equal(t, CompletenessUnknown|PartDelivered, findings)
	order.Shipments[1].Delivered = on(110)
	delivered = Derive(order, today).Delivered
	assert.Equal(t, on(110), delivered.Day)
}

// The instant of a milestone is that of the last part of its day, where all parts of that day have one.
func TestMilestonesKeepTheTimeOfDayOfTheirParts(t *testing.T) {
	left := func(d day.Day, at day.Instant) Shipment { return Shipment{Shipped: Day{Day: d, At: at}} }
	for _, tt := range []struct {
		shipments  []Shipment
		day, first Day
	}{
		{[]Shipment{left(100, 7), left(101, 20), left(101, 19)}, Day{Day: 101, At: 20}, Day{Day: 100, At: 7}},
		{[]Shipment{left(101, 20), left(101, 0), left(100, 8), left(100, 7)}, Day{Day: 101, At: 0}, Day{Day: 100, At: 7}},
		{[]Shipment{left(101, 0), left(102, 30)}, Day{Day: 102, At: 30}, Day{Day: 101, At: 0}},
		// A time of day in a zone that is not known may be before or after another.
		{[]Shipment{left(101, 20), {Shipped: Day{Day: 101, Clock: 9}}, left(100, 8)}, Day{Day: 101}, Day{Day: 100, At: 8}},
		{[]Shipment{{Shipped: Day{Day: 101, Clock: 9}}, left(101, 20), left(102, 5)}, Day{Day: 102, At: 5}, Day{Day: 101}},
	} {
		shipped := Derive(Order{Shipments: tt.shipments}, today).Shipped
		assert.Equal(t, Derived{tt.day, tt.first, true}, shipped)
	}
}

func TestWhenAnOrderIsPaid(t *testing.T) {
	pay := func(d day.Day, amount int64, currency string) Payment {
		return Payment{Paid: on(d), Amount: amount, Known: true, Currency: currency}
	}
	const none = -1 << 40
	for _, tt := range []struct {
		name       string
		value      int64 // in cents, or none
		payments   []Payment
		day, first day.Day
		findings   Finding
	}{
		{"in full", 10000, []Payment{pay(100, 1000000, "")}, 100, 100, 0},
		{"in two", 10000, []Payment{pay(104, 400000, "EUR"), pay(100, 600000, "")}, 104, 100, 0},
		{"a cent short", 10000, []Payment{pay(100, 999900, "")}, 0, 100, PartPaid},
		{"given back", 10000, []Payment{pay(100, 1000000, ""), pay(105, -1000000, "")}, 0, 100, PartPaid},
		{"in another currency", 10000, []Payment{pay(100, 1000000, "USD")}, 0, 0, PaidUnknown},
		{"in full, then in another currency", 10000, []Payment{pay(100, 1000000, ""), pay(102, 5, "USD")}, 100, 100, 0},
		{"the rest in another currency", 10000, []Payment{pay(100, 900000, ""), pay(102, 5, "USD")}, 0, 100, PaidUnknown},
		{"the first in another currency moves no day", 10000, []Payment{pay(98, 5, "USD"), pay(100, 1000000, "")}, 100, 100, 0},
		{"twice", 10000, []Payment{pay(104, 1000000, ""), pay(100, 1000000, "")}, 100, 100, PaidBeyond},
		{"given back, and paid again", 10000, []Payment{pay(100, 1000000, ""), pay(105, -1000000, ""), pay(109, 1000000, "")}, 109, 100, 0},
		{"more than due, and the rest given back", 10000, []Payment{pay(100, 1500000, ""), pay(105, -500000, "")}, 100, 100, 0},
		{"a credit note, by a small payment", -10000, []Payment{pay(100, 100, "")}, 0, 100, PartPaid},
		{"a credit note, downwards", -10000, []Payment{pay(100, -400000, ""), pay(103, -600000, "")}, 103, 100, 0},
		{"a credit note, a cent short", -10000, []Payment{pay(100, -999900, "")}, 0, 100, PartPaid},
		{"twice, and all of it given back", 10000, []Payment{pay(100, 1000000, ""), pay(101, 1000000, ""), pay(102, -2000000, "")}, 0,
			100, PartPaid},
		{"without an amount", 10000, []Payment{{Paid: on(100)}}, 0, 100, PaidUnknown},
		{"no value", none, []Payment{pay(100, 1, ""), pay(103, 1, "")}, 103, 100, 0},
		{"no value, the last in another currency", none, []Payment{pay(100, 1, ""), pay(103, 1, "USD")}, 100, 100, 0},
		{"no value, without an amount", none, []Payment{{Paid: on(101)}}, 101, 101, 0},
		{"worth nothing", 0, []Payment{pay(100, 1, "")}, 100, 100, 0},
		{"the rest after the data date", 10000, []Payment{pay(100, 500000, ""), pay(today+1, 500000, "")}, 0, 100, PartPaid},
	} {
		told := Derive(Order{Payments: tt.payments, Value: tt.value, Valued: tt.value != none, Currency: "EUR", Decimals: 2}, today)
		paid, findings := told.Paid, told.Findings
		assert.Equal(t, []day.Day{tt.day, tt.first}, []day.Day{paid.Day.Day, paid.First.Day}, tt.name)
		assert.Equal(t, tt.findings, findings, tt.name)
		assert.Equal(t, tt.findings != PaidUnknown, paid.Says, "what parts cannot tell, they do not say: %s", tt.name)
	}
}

// Where every unit is known and every shipment names its line, an order is complete when a count, unit by unit,
// leaves none; the order of parts does not matter, and neither do parts after the data date.
func TestUnitsAreCountedOneByOne(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var o Order
		missing := map[string]int64{}
		for i := range rapid.IntRange(1, 4).Draw(t, "lines") {
			l := Line{Number: fmt.Sprint(i), Units: units(rapid.Int64Range(0, 4).Draw(t, "units")),
				Cancelled: units(rapid.Int64Range(0, 2).Draw(t, "cancelled"))}
			missing[l.Number] = max(0, l.Units.Thousandths-l.Cancelled.Thousandths) / 1000
			o.Lines = append(o.Lines, l)
		}
		first, last := day.Day(0), day.Day(0)
		for range rapid.IntRange(0, 8).Draw(t, "shipments") {
			s := Shipment{Line: fmt.Sprint(rapid.IntRange(0, len(o.Lines)-1).Draw(t, "line")),
				Units:   units(rapid.Int64Range(0, 4).Draw(t, "shipped units")),
				Shipped: on(today - 3 + day.Day(rapid.IntRange(0, 5).Draw(t, "day")))}
			o.Shipments = append(o.Shipments, s)
			if s.Shipped.Day > today {
				continue
			}
			if first == 0 || s.Shipped.Day < first {
				first = s.Shipped.Day
			}
		}
		// Unit by unit, in the order of days: the day of the last that was missing completes the order.
		left := int64(0)
		for _, n := range missing {
			left += n
		}
		inOrder := slices.Clone(o.Shipments)
		slices.SortFunc(inOrder, func(a, b Shipment) int { return int(a.Shipped.Day - b.Shipped.Day) })
		for _, s := range inOrder {
			for range s.Units.Thousandths / 1000 {
				if s.Shipped.Day <= today && missing[s.Line] > 0 {
					missing[s.Line]--
					left--
					last = s.Shipped.Day
				}
			}
		}
		if len(o.Shipments) > 0 {
			o.Shipments = rapid.Permutation(o.Shipments).Draw(t, "order of shipments")
		}
		shipped := Derive(o, today).Shipped
		require.Equal(t, on(first), shipped.First)
		if left > 0 {
			last = 0
		}
		require.Equal(t, on(last), shipped.Day)
		known := o
		known.Shipments = slices.DeleteFunc(slices.Clone(o.Shipments), func(s Shipment) bool { return s.Shipped.Day > today })
		again := Derive(known, today+100).Shipped
		require.Equal(t, shipped, again)
	})
}

// Records count by day; within it instants by time, then times of an unknown zone, then records without a time; then by
// sequence; and else as they came. A list that is in order stays the same list.
func TestStatusRecordsInOrder(t *testing.T) {
	record := func(name string, on day.Day, at day.Instant, clock int32, sequence int64) StatusRecord {
		r := StatusRecord{Status: name, At: Day{Day: on, At: at}, Clock: clock}
		if sequence >= 0 {
			r.Sequence = Quantity{Thousandths: sequence * 1000, Known: true}
		}
		return r
	}
	want := []StatusRecord{
		record("first day", 46100, 0, 0, -1),
		record("early", 46101, 100, 0, -1),
		record("late, 1", 46101, 200, 0, 1),
		record("late, 2", 46101, 200, 0, 2),
		record("late, none", 46101, 200, 0, -1),
		record("clock", 46101, 0, 3600, -1),
		record("later clock", 46101, 0, 7200, 9),
		record("day, 1", 46101, 0, 0, 1),
		record("day, as it came", 46101, 0, 0, -1),
		record("day, after it", 46101, 0, 0, -1),
		record("last day", 46102, 1, 0, -1),
	}
	random := rand.New(rand.NewPCG(1, 9))
	for range 200 {
		shuffled := slices.Clone(want)
		random.Shuffle(len(shuffled), func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
		came, after := 0, 0
		for i, r := range shuffled {
			switch r.Status {
			case "day, as it came":
				came = i
			case "day, after it":
				after = i
			}
		}
		if came > after {
			shuffled[came], shuffled[after] = shuffled[after], shuffled[came]
		}
		before := slices.Clone(shuffled)
		require.Equal(t, want, InOrder(shuffled))
		require.Equal(t, before, shuffled, "what came in stays as it was")
	}
	require.Same(t, &want[0], &InOrder(want)[0])
}
