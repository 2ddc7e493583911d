// Package allocation decides which units and which value of an order left, were delivered or were cancelled on which day, from
// its lines, its shipments and the units that were cancelled. There is one rule; whoever asks, asks here.
package allocation

import (
	"cmp"
	"math"
	"math/bits"
	"slices"

	"prairiedusk/internal/core/day"
)

// None stands for units and values that are not known.
const None = math.MinInt64

// What comes to goods on days of their own.
const (
	Shipped = iota
	Delivered
	Goals // how many there are
)

// A Line is one line of an order, as it was recorded.
type Line struct {
	Units, Cancelled int64          // thousandths, or None
	Value            int64          // ten-thousandths of the unit of the order's currency, or None
	Days             [Goals]day.Day // its own; zero where only shipments say
	CancelledOn      day.Day        // of its cancelled units; zero where that is not known
}

// Whole is the line of a shipment that names none of the order's lines.
const Whole = -1

// A Shipment is what left together.
type Shipment struct {
	Line  int   // the place of the line that it names, or Whole
	Units int64 // thousandths, or None
	Days  [Goals]day.Day
}

// An Order is what is allocated. Its shipments lie in the order of their keys.
type Order struct {
	Lines     []Line
	Shipments []Shipment
	// Value counts the minor units of a currency that has so many Decimals, or is None.
	Value    int64
	Decimals int
	// DataDate is the day up to which anything is known: units that are cancelled on a later day are not cancelled yet.
	DataDate day.Day
}

// A Kind says what became of a piece.
type Kind uint8

const (
	Gone       Kind = iota // in a shipment, or on its line's own day
	Left                   // in no shipment: it goes with the order as a whole
	Cancelled              // of the line
	Beyond                 // shipped, and never ordered
	Difference             // between the order's value and the sum of its lines: no goods, and of no line
)

// A Piece is some of a line's units with all that is told of them. But for those Beyond, the pieces of an order sum to its
// units, and to its value.
type Piece struct {
	Line         int // its place; Whole for a Difference, and for all of an order without lines
	Kind         Kind
	Shipment     int // its place; −1 where there is none
	Units, Value int64
	Days         [Goals]day.Day // as recorded; zero where nothing says
	CancelledOn  day.Day        // of Cancelled; zero where that is not known
}

// A Space is where the pieces of one order after another are made.
type Space struct {
	pieces []Piece
	order  []int
	lines  []open
	shares []int64
	dues   []due
	runs   []run
}

// A due is what is taken of a line, and what that lacks of its exact share: whole thousandths, and the remainder of one.
type due struct {
	line         int
	taken, lacks int64
	remainder    uint64
}

// A run is how far the pieces of a line have come.
type run struct {
	units, value int64
	last         int // the latest of them; −1 before the first
}

// open is what is left of a line.
type open struct {
	units    int64
	reserved int64 // of them, for shipments still to come that name the line
	rest     int   // the last shipment that names it without telling units: it takes what the others leave; −1 where none does
	settled  bool  // by its own day, or by a rest
}

// free is what is left of a line for shipments that name none.
func (l open) free() int64 {
	if l.rest >= 0 {
		return 0
	}
	return max(0, l.units-l.reserved)
}

// Allocate splits an order into pieces: cancelled units first; then the lines with days of their own; then shipments in the
// order of their days and keys. A shipment that names a line takes of it; one that names none takes of all lines in proportion
// to what is left of them, and of what later shipments name only where nothing else is left. Of a line whose shipments do not
// all tell their units the last takes the rest. The pieces are good until the space is used again.
func Allocate(o *Order, s *Space) []Piece {
	s.pieces = s.pieces[:0]
	if len(o.Lines) == 0 {
		whole := Piece{Line: Whole, Kind: Left, Shipment: -1}
		if o.Value != None {
			whole.Value = o.Value
		}
		s.pieces = append(s.pieces, whole)
		return s.pieces
	}
	s.sort(o.Shipments)
	s.lines = append(s.lines[:0], make([]open, len(o.Lines))...)
	for i := range o.Lines {
		s.begin(o, i)
	}
	s.reserve(o)
	for _, at := range s.order {
		sent, line := o.Shipments[at].Units, o.Shipments[at].Line
		switch {
		case sent == None || sent <= 0:
		case line == Whole:
			s.takeWhole(o, at, sent)
		case o.Lines[line].Units != None && (!s.lines[line].settled || s.lines[line].rest >= 0):
			s.lines[line].reserved -= sent
			s.take(o, line, at, sent)
		}
	}
	s.takeRest(o)
	for i, l := range s.lines {
		if units := o.Lines[i].Units; l.units > 0 || !l.settled && (units == None || units == 0) {
			s.pieces = append(s.pieces, Piece{Line: i, Kind: Left, Shipment: -1, Units: l.units})
		}
	}
	if o.Value != None {
		s.value(o)
	}
	return s.pieces
}

// sort gives the order of shipments: by days, those without one last; then by keys.
func (s *Space) sort(shipments []Shipment) {
	s.order = s.order[:0]
	for i := range shipments {
		s.order = append(s.order, i)
	}
	if len(shipments) < 2 {
		return
	}
	later := func(d day.Day) uint32 { return uint32(d) - 1 }
	slices.SortStableFunc(s.order, func(a, b int) int {
		x, y := &shipments[a].Days, &shipments[b].Days
		return cmp.Or(cmp.Compare(later(x[Shipped]), later(y[Shipped])), cmp.Compare(later(x[Delivered]), later(y[Delivered])))
	})
}

// begin takes the cancelled units off a line, and settles it where it has a day of its own.
func (s *Space) begin(o *Order, i int) {
	line, units := &o.Lines[i], max(0, o.Lines[i].Units)
	own := line.Days != [Goals]day.Day{}
	if gone := min(units, line.Cancelled); gone > 0 && line.CancelledOn <= o.DataDate {
		s.pieces = append(s.pieces, Piece{Line: i, Kind: Cancelled, Shipment: -1, Units: gone, CancelledOn: line.CancelledOn})
		if units -= gone; units == 0 {
			s.lines[i].settled = own // what else is shipped of it is beyond
			return
		}
	}
	if line.Units != None && line.Units < 0 { // what was taken back goes with the order
		units = line.Units
		own = own || units != 0
	}
	if !own {
		s.lines[i].units = units
		return
	}
	s.lines[i].settled = true
	kind := Gone
	if line.Days == [Goals]day.Day{} {
		kind = Left
	}
	s.pieces = append(s.pieces, Piece{Line: i, Kind: kind, Shipment: -1, Units: units, Days: line.Days})
}

// reserve keeps units of lines for the shipments that name them.
func (s *Space) reserve(o *Order) {
	for i := range s.lines {
		s.lines[i].rest = -1
	}
	for _, at := range s.order {
		sent, line := o.Shipments[at].Units, o.Shipments[at].Line
		switch {
		case line == Whole || s.lines[line].settled && s.lines[line].rest < 0:
		case sent == None || o.Lines[line].Units == None:
			s.lines[line].rest, s.lines[line].settled = at, true
		default:
			s.lines[line].reserved = sum(s.lines[line].reserved, max(0, sent))
		}
	}
}

// takeRest gives what is left of lines to shipments that name them without telling units.
func (s *Space) takeRest(o *Order) {
	for i, l := range s.lines {
		if l.rest >= 0 && (l.units > 0 || o.Lines[i].Units == None || o.Lines[i].Units == 0) {
			s.pieces = append(s.pieces, Piece{Line: i, Kind: Gone, Shipment: l.rest, Units: l.units, Days: o.Shipments[l.rest].Days})
			s.lines[i].units = 0
		}
	}
}

// take gives units of a line to a shipment; what goes beyond has its own name.
func (s *Space) take(o *Order, line, shipment int, sent int64) {
	taken := min(max(0, sent), s.lines[line].units)
	piece := Piece{Line: line, Kind: Gone, Shipment: shipment, Units: taken, Days: o.Shipments[shipment].Days}
	if taken > 0 {
		s.pieces = append(s.pieces, piece)
		s.lines[line].units -= taken
	}
	if piece.Units = sent - taken; piece.Units > 0 {
		piece.Kind = Beyond
		s.pieces = append(s.pieces, piece)
	}
}

// whole is a unit, of which parts are shared only where some goods do not come in whole ones.
const whole = 1000

// takeWhole shares what a shipment without a line holds over what is left of the lines, by largest remainder; ties go to the
// first line. Shipments that do not tell their units take none: what they hold goes with the order as a whole.
func (s *Space) takeWhole(o *Order, at int, sent int64) {
	s.shares = append(s.shares[:0], make([]int64, len(s.lines))...)
	taken := s.share(sent, open.free)
	taken += s.share(sent-taken, func(l open) int64 { return l.units })
	unknown := false
	for i := range s.lines {
		unknown = unknown || !s.lines[i].settled && o.Lines[i].Units == None
		if s.shares[i] > 0 {
			s.take(o, i, at, s.shares[i])
		}
	}
	// Beyond what is left it may hold a line whose units are not known.
	if beyond := sent - taken; beyond > 0 && !unknown {
		s.pieces = append(s.pieces, Piece{Line: 0, Kind: Beyond, Shipment: at, Units: beyond, Days: o.Shipments[at].Days})
	}
}

// share divides at most so many units over the lines in proportion to some of what is left of them, in whole units where all of
// it is whole, and says how many they took.
func (s *Space) share(units int64, of func(open) int64) int64 {
	all, unit := int64(0), int64(whole)
	left := func(i int) int64 { return min(of(s.lines[i]), s.lines[i].units-s.shares[i]) }
	for i := range s.lines {
		n := left(i)
		if all = sum(all, n); n%whole != 0 {
			unit = 1
		}
	}
	if units = min(units, all); units <= 0 {
		return 0
	}
	if units%whole != 0 {
		unit = 1
	}
	s.dues = s.dues[:0]
	given := int64(0)
	for i := range s.lines {
		high, low := bits.Mul64(uint64(units), uint64(left(i)))
		exact, remainder := bits.Div64(high, low, uint64(all))
		taken := int64(exact) / unit * unit
		given += taken
		s.dues = append(s.dues, due{i, taken, int64(exact) - taken, remainder})
	}
	// Each lacks less than a unit, so that those that lack most get one each.
	slices.SortStableFunc(s.dues, func(a, b due) int {
		return cmp.Or(cmp.Compare(b.lacks, a.lacks), cmp.Compare(b.remainder, a.remainder))
	})
	for _, d := range s.dues {
		if given < units {
			d.taken, given = d.taken+unit, given+unit
		}
		s.shares[d.line] += d.taken
	}
	return given
}

// sum adds numbers that are not negative, up to the greatest there is.
func sum(a, b int64) int64 {
	if a > math.MaxInt64-b {
		return math.MaxInt64
	}
	return a + b
}

// Share is value × units ÷ of, rounded to the nearest, halves away from zero; all of the value from of on.
func Share(value, units, of int64) int64 {
	switch {
	case units <= 0 || of <= 0 || value == 0:
		return 0
	case units >= of:
		return value
	case value < 0:
		return -Share(-value, units, of)
	}
	high, low := bits.Mul64(uint64(value), uint64(units))
	low, carry := bits.Add64(low, uint64(of)/2, 0)
	quotient, _ := bits.Div64(high+carry, low, uint64(of))
	return int64(quotient)
}

// value gives the pieces what they are worth, by running total, so that they sum exactly: the value of a line is shared by
// its units so far. Where the order's value differs from the sum of its lines, the difference is a piece of its own.
func (s *Space) value(o *Order) {
	given := s.worths(o)
	s.runs = s.runs[:0]
	for range s.shares {
		s.runs = append(s.runs, run{last: -1})
	}
	for j := range s.pieces {
		p := &s.pieces[j]
		if p.Kind == Beyond {
			continue
		}
		r := &s.runs[p.Line]
		if r.last = j; o.Lines[p.Line].Units > 0 {
			r.units += p.Units
			upTo := Share(s.shares[p.Line], r.units, o.Lines[p.Line].Units)
			p.Value, r.value = upTo-r.value, upTo
		}
	}
	for i, r := range s.runs {
		if o.Lines[i].Units <= 0 && r.last >= 0 {
			s.pieces[r.last].Value = s.shares[i]
		}
	}
	if o.Value != given {
		s.pieces = append(s.pieces, Piece{Line: Whole, Kind: Difference, Shipment: -1, Value: o.Value - given})
	}
}

// Worths are what the lines of an order with a value are worth, in minor units, and by how much that value differs from their
// sum.
func Worths(o *Order, s *Space) (worths []int64, difference int64) {
	given := s.worths(o)
	return s.shares, o.Value - given
}

// worths leaves in shares what each line is worth, in minor units, and gives their sum: by the lines' values where all are
// known, else by their units, else alike.
func (s *Space) worths(o *Order) (given int64) {
	s.shares = s.shares[:0]
	worth := func(upTo int64) {
		s.shares = append(s.shares, upTo-given)
		given = upTo
	}
	known := func(of func(Line) int64) bool {
		return !slices.ContainsFunc(o.Lines, func(l Line) bool { return of(l) == None })
	}
	if known(func(l Line) int64 { return l.Value }) {
		passed := int64(0)
		for _, l := range o.Lines {
			passed += l.Value
			worth(Minor(passed, o.Decimals))
		}
		return given
	}
	weight := func(l Line) int64 { return max(0, l.Units) }
	all := int64(0)
	for _, l := range o.Lines {
		all = sum(all, weight(l))
	}
	if all == 0 || !known(func(l Line) int64 { return l.Units }) {
		weight, all = func(Line) int64 { return 1 }, int64(len(o.Lines))
	}
	passed := int64(0)
	for _, l := range o.Lines {
		passed = sum(passed, weight(l))
		worth(Share(o.Value, passed, all))
	}
	return given
}

// Minor is a value of lines, in ten-thousandths of the unit of a currency, in the minor units of which it has so many decimals: to
// the nearest, halves away from zero.
func Minor(value int64, decimals int) int64 {
	scale := int64(1)
	for range 4 - decimals {
		scale *= 10
	}
	minor, rest := value/scale, value%scale
	switch {
	case 2*rest >= scale:
		minor++
	case -2*rest >= scale:
		minor--
	}
	return minor
}
