package allocation

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/day"
)

func left(line int, units int64, on day.Day) Shipment {
	return Shipment{Line: line, Units: units, Days: [Goals]day.Day{on}}
}

func ordered(units int64) Line { return Line{Units: units, Cancelled: None, Value: None} }

// piece is what a test says of one.
type piece struct {
	line  int
	kind  Kind
	units int64
	on    day.Day // shipped
}

// The rules of semantics §9, case by case; shipments are written in the order of their keys.
func TestWhichUnitsLeaveOnWhichDay(t *testing.T) {
	cancelled := Line{Units: 10_000, Cancelled: 5_000, Value: None, CancelledOn: 95}
	own := Line{Units: 4_000, Cancelled: None, Value: None, Days: [Goals]day.Day{101}}
	for _, tt := range []struct {
		name      string
		lines     []Line
		shipments []Shipment
		want      []piece
	}{
		{"the worked example", []Line{cancelled}, []Shipment{left(0, 2_000, 100)}, []piece{{0, Cancelled, 5_000, 0},
			{0, Gone, 2_000, 100}, {0, Left, 3_000, 0}}},
		{"by days, and not by keys", []Line{ordered(3_000)}, []Shipment{left(0, 2_000, 109), left(0, 2_000, 100)},
			[]piece{{0, Gone, 2_000, 100}, {0, Gone, 1_000, 109}, {0, Beyond, 1_000, 109}}},
		{"what has not left comes last", []Line{ordered(3_000)}, []Shipment{left(0, 2_000, 0), left(0, 2_000, 100)},
			[]piece{{0, Gone, 2_000, 100}, {0, Gone, 1_000, 0}, {0, Beyond, 1_000, 0}}},
		{"a line's own day settles it", []Line{own, ordered(1_000)}, []Shipment{left(0, 9_000, 90)},
			[]piece{{0, Gone, 4_000, 101}, {1, Left, 1_000, 0}}},
		{"no line: in proportion to what is left", []Line{ordered(6_000), ordered(3_000)},
			[]Shipment{left(0, 3_000, 100), left(Whole, 2_000, 101)}, []piece{{0, Gone, 3_000, 100}, {0, Gone, 1_000, 101},
				{1, Gone, 1_000, 101}, {0, Left, 2_000, 0}, {1, Left, 2_000, 0}}},
		{"whole units by largest remainder", []Line{ordered(1_000), ordered(3_000), ordered(3_000)}, []Shipment{left(Whole, 4_000, 100)},
			[]piece{{1, Gone, 2_000, 100}, {2, Gone, 2_000, 100}, {0, Left, 1_000, 0}, {1, Left, 1_000, 0}, {2, Left, 1_000, 0}}},
		{"ties to the first line", []Line{ordered(1_000), ordered(1_000)}, []Shipment{left(Whole, 1_000, 100)},
			[]piece{{0, Gone, 1_000, 100}, {1, Left, 1_000, 0}}},
		{"parts of units where goods come in parts", []Line{ordered(500), ordered(1_000)}, []Shipment{left(Whole, 1_000, 100)},
			[]piece{{0, Gone, 333, 100}, {1, Gone, 667, 100}, {0, Left, 167, 0}, {1, Left, 333, 0}}},
		{"what a later one names is kept for it", []Line{ordered(5_000), ordered(5_000)},
			[]Shipment{left(Whole, 5_000, 100), left(0, 5_000, 101)}, []piece{{1, Gone, 5_000, 100}, {0, Gone, 5_000, 101}}},
		{"unless nothing else is left", []Line{ordered(10_000)}, []Shipment{left(Whole, 10_000, 100), left(0, 2_000, 105)},
			[]piece{{0, Gone, 10_000, 100}, {0, Beyond, 2_000, 105}}},
		{"and then all of it", []Line{ordered(10_000)}, []Shipment{left(Whole, 10_000, 100), left(0, 9_000, 105)},
			[]piece{{0, Gone, 10_000, 100}, {0, Beyond, 9_000, 105}}},
		{"the rest is a thousandth", []Line{ordered(1_001)}, []Shipment{left(0, 1_000, 100), left(0, None, 104)},
			[]piece{{0, Gone, 1_000, 100}, {0, Gone, 1, 104}}},
		{"beyond all", []Line{ordered(1_000)}, []Shipment{left(Whole, 3_000, 100)}, []piece{{0, Gone, 1_000, 100},
			{0, Beyond, 2_000, 100}}},
		{"a line without units may hold what is beyond", []Line{ordered(1_000), ordered(None)}, []Shipment{left(Whole, 3_000, 100)},
			[]piece{{0, Gone, 1_000, 100}, {1, Left, 0, 0}}},
		{"the last shipment that does not tell takes the rest", []Line{ordered(5_000)},
			[]Shipment{left(0, None, 104), left(0, None, 102), left(0, 1_000, 109)}, []piece{{0, Gone, 1_000, 109}, {0, Gone, 4_000, 104}}},
		{"of a line without units nothing is beyond", []Line{ordered(None)}, []Shipment{left(0, 3_000, 100), left(0, 1_000, 102)},
			[]piece{{0, Gone, 0, 102}}},
		{"no line and no units: it goes with the order", []Line{ordered(5_000)}, []Shipment{left(Whole, None, 104)},
			[]piece{{0, Left, 5_000, 0}}},
		{"cancelled after the data date", []Line{{Units: 2_000, Cancelled: 2_000, Value: None, CancelledOn: 201}}, nil,
			[]piece{{0, Left, 2_000, 0}}},
		{"all cancelled, and yet shipped", []Line{{Units: 2_000, Cancelled: 9_000, Value: None}}, []Shipment{left(0, 1_000, 100)},
			[]piece{{0, Cancelled, 2_000, 0}, {0, Beyond, 1_000, 100}}},
		{"no goods", []Line{ordered(0)}, nil, []piece{{0, Left, 0, 0}}},
		{"taken back", []Line{ordered(-2_000)}, nil, []piece{{0, Left, -2_000, 0}}},
	} {
		var got []piece
		for _, p := range Allocate(&Order{DataDate: 200, Lines: tt.lines, Shipments: tt.shipments, Value: None}, &Space{}) {
			got = append(got, piece{p.Line, p.Kind, p.Units, p.Days[Shipped]})
		}
		assert.Equal(t, tt.want, got, tt.name)
	}
	assert.Equal(t, day.Day(95), Allocate(&Order{DataDate: 200, Lines: []Line{cancelled}, Value: None}, &Space{})[0].CancelledOn)
}

// What is what worth: by the lines' values, by units, or alike; by running total, so that cents are neither lost nor made.
func TestWhatPiecesAreWorth(t *testing.T) {
	worth := func(value, units int64) Line { return Line{Units: units, Cancelled: None, Value: value} }
	for _, tt := range []struct {
		name      string
		value     int64
		decimals  int
		lines     []Line
		shipments []Shipment
		want      []int64
	}{
		{"the worked example", 10_000, 2, []Line{{Units: 10_000, Cancelled: 5_000, Value: None}}, []Shipment{left(0, 2_000, 100)},
			[]int64{5_000, 2_000, 3_000}},
		{"a cent is not lost over three shipments", 100, 2, []Line{ordered(3_000)}, []Shipment{left(0, 1_000, 100), left(0, 1_000, 101),
			left(0, 1_000, 102)}, []int64{33, 34, 33}},
		{"halves away from zero", -5, 2, []Line{ordered(2_000)}, []Shipment{left(0, 1_000, 100)}, []int64{-3, -2}},
		{"the lines' values, and the difference by itself", 1_200, 2, []Line{worth(50_000, 1_000), worth(60_000, 3_000)},
			[]Shipment{left(1, 1_000, 100)}, []int64{200, 500, 400, 100}},
		{"a discount is a line of negative value", 700, 2, []Line{worth(100_000, 1_000), worth(-30_000, 0)}, nil, []int64{1_000, -300}},
		{"a discount that comes first", 700, 2, []Line{worth(-30_000, 0), worth(100_000, 1_000)}, nil, []int64{1_000, -300}},
		{"what is given back", -701, 2, []Line{worth(-30_050, 1_000), worth(-40_000, 1_000)}, nil, []int64{-301, -400}},
		{"three decimals", 1_500, 3, []Line{worth(15_000, 1_000)}, nil, []int64{1_500}},
		{"fractions of a cent are rounded in sum", 1, 2, []Line{worth(40, 1_000), worth(40, 1_000)}, nil, []int64{0, 1}},
		{"a line without a value: by units", 900, 2, []Line{worth(50_000, 1_000), ordered(2_000)}, nil, []int64{300, 600}},
		{"without units: alike", 900, 2, []Line{ordered(None), ordered(2_000)}, nil, []int64{450, 450}},
		{"beyond is worth nothing", 900, 2, []Line{ordered(1_000)}, []Shipment{left(0, 3_000, 100)}, []int64{900, 0}},
		{"no lines", 900, 2, nil, nil, []int64{900}},
	} {
		var got []int64
		for _, p := range Allocate(&Order{DataDate: 200, Lines: tt.lines, Shipments: tt.shipments, Value: tt.value,
			Decimals: tt.decimals}, &Space{}) {
			got = append(got, p.Value)
		}
		slices.Sort(got)
		slices.Sort(tt.want)
		assert.Equal(t, tt.want, got, tt.name)
	}
}

// Units beyond all measure are shared without an overflow; nobody orders so many, but a file can say so.
func TestUnitsBeyondAllMeasure(t *testing.T) {
	const huge = math.MaxInt64 / 1000 * 1000
	o := Order{Value: 900, Decimals: 2, Lines: []Line{ordered(huge), ordered(huge), ordered(huge)},
		Shipments: []Shipment{left(Whole, huge, 100), left(Whole, huge, 101), left(0, huge, 102), left(0, huge, 103)}}
	units := make([]int64, 3)
	for _, p := range Allocate(&o, &Space{}) {
		if p.Kind != Beyond && p.Kind != Difference {
			units[p.Line] += p.Units
		}
	}
	assert.Equal(t, []int64{huge, huge, huge}, units)
	assert.Equal(t, int64(-922337203685478), Minor(math.MinInt64, 0))
}

// However shipments share the lines of an order: not a unit and not a minor unit of its value is lost, none of a line leaves
// twice, each piece is worth its share, and shares differ from exact ones by less than a unit.
func TestNothingIsLostAndNothingTwice(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		o := Order{DataDate: 200, Value: rapid.Int64Range(-1000, 1_000_000_007).Draw(t, "value"),
			Decimals: rapid.IntRange(0, 3).Draw(t, "decimals")}
		whole := rapid.Bool().Draw(t, "whole units")
		quantity := func(name string) int64 {
			if whole {
				return 1000 * rapid.Int64Range(0, 9).Draw(t, name)
			}
			return rapid.Int64Range(0, 9999).Draw(t, name)
		}
		valued := rapid.Bool().Draw(t, "lines valued")
		for range rapid.IntRange(1, 5).Draw(t, "lines") {
			line := Line{Units: quantity("units"), Cancelled: rapid.SampledFrom([]int64{None, 0, 1000, 1e6}).Draw(t, "cancelled"),
				Value: None}
			if valued {
				line.Value = rapid.Int64Range(-1e6, 1e9).Draw(t, "line value")
			}
			o.Lines = append(o.Lines, line)
		}
		for s := range rapid.IntRange(0, 4).Draw(t, "shipments") {
			line := rapid.IntRange(Whole, len(o.Lines)-1).Draw(t, "of line")
			o.Shipments = append(o.Shipments, left(line, quantity("sent"), day.Day(100+s)))
		}
		units, sent, value := make([]int64, len(o.Lines)), make([]int64, len(o.Shipments)), int64(0)
		worths, difference := Worths(&o, &Space{})
		worths = slices.Clone(worths)
		for _, p := range Allocate(&o, &Space{}) {
			value += p.Value
			if p.Shipment >= 0 {
				sent[p.Shipment] += p.Units
			}
			switch p.Kind {
			case Beyond:
				require.Zero(t, p.Value)
				continue
			case Difference:
				require.Equal(t, difference, p.Value)
				continue
			}
			units[p.Line] += p.Units
			require.True(t, !whole || p.Units%1000 == 0, "whole units stay whole")
			if all := o.Lines[p.Line].Units; all > 0 {
				require.InDelta(t, float64(worths[p.Line])*float64(p.Units)/float64(all), float64(p.Value), 1, "a piece is worth its share")
			}
		}
		for i, l := range o.Lines {
			require.Equal(t, l.Units, units[i])
		}
		for i, s := range o.Shipments {
			require.Equal(t, s.Units, sent[i])
		}
		require.Equal(t, o.Value, value)
		sum := difference
		for _, w := range worths {
			sum += w
		}
		require.Equal(t, o.Value, sum)
	})
	assert.Equal(t, int64(math.MaxInt64/2), Share(math.MaxInt64, 1, 2)-1, "large values do not overflow")
}
