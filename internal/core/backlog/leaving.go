package backlog

import (
	"math/bits"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
)

// A holding is what an order holds as a whole.
type holding struct {
	units   int64 // thousandths
	value   int64 // minor units
	counted bool  // the units of all its lines are known
}

// A leave is a part of an order that leaves before the order closes.
type leave struct {
	day          day.Day
	units, value int64
}

// parted reads what orders hold and when parts of it leave: line by line, where the leg ends with shipping.
type parted struct {
	inParts  bool
	dataDate day.Day
	lineOf   []uint32 // by the code of a shipment's line: that of the order line
}

func newParted(p *plan) *parted {
	return &parted{inParts: p.question.Leg.To.Base() == milestone.Shipped, dataDate: p.book.Bounds().DataDate, lineOf: p.book.LinesOfShipments()}
}

// line are the units of a line that are to leave; false where they are not known.
func line(lines *book.Ragged, at int) (units int64, known bool) {
	if units = lines.Columns[book.LineUnits].Numbers[at]; units == book.None {
		return 0, false
	}
	if gone := lines.Columns[book.LineCancelled].Numbers[at]; gone != book.None {
		units -= gone
	}
	return max(0, units), true
}

// whole is what an order holds before anything leaves.
func (*parted) whole(block *book.Block, row int) holding {
	h := holding{value: block.Values[row]}
	lines := &block.Parts[book.Lines]
	from, to := lines.Of(row)
	for at := from; at < to; at++ {
		units, known := line(lines, at)
		if !known {
			return holding{value: h.value}
		}
		h.units += units
	}
	h.counted = to > from
	return h
}

// leaves lists what leaves an order before it closes, by day, in the place of what list holds. Units leave as shipments and
// lines say; the value leaves with them, shared by the values of the lines where all are known, and else by the units. What
// is not known to leave earlier leaves when the order closes.
func (p *parted) leaves(block *book.Block, row int, life Life, whole holding, list []leave) []leave {
	list = list[:0]
	if !p.inParts || !whole.counted || whole.units == 0 {
		return list
	}
	lines, shipments := &block.Parts[book.Lines], &block.Parts[book.Shipments]
	from, to := lines.Of(row)
	first, beyond := shipments.Of(row)
	worth := p.worths(lines, from, to)
	// leaves notes what a record says has left. A day before the start is the start; from the closing day on nothing leaves
	// by itself.
	leaves := func(raw, units, weight, of int64) {
		d := max(day.Day(raw), life.Start)
		if raw == book.None || raw == 0 || d > p.dataDate || life.Close != 0 && d >= life.Close {
			return
		}
		list = append(list, leave{d, units, share(whole.value, weight, of)})
	}
	for l := from; l < to; l++ {
		units, _ := line(lines, l)
		weight, all := units, whole.units
		if worth > 0 {
			weight, all = lines.Columns[book.LineValue].Numbers[l], worth
		}
		if shipped := lines.Columns[book.LineShipped].Numbers[l]; shipped != book.None && shipped != 0 {
			leaves(shipped, units, weight, all)
			continue
		}
		of := len(list)
		for s := first; s < beyond && units > 0; s++ {
			code := shipments.Columns[book.ShipmentLine].Codes[s]
			if code == 0 || p.lineOf[code] != lines.Columns[book.LineNumber].Codes[l] {
				continue
			}
			sent := shipments.Columns[book.ShipmentUnits].Numbers[s]
			if sent == book.None || sent > units {
				sent = units
			}
			leaves(shipments.Columns[book.ShipmentShipped].Numbers[s], sent, share(weight, sent, units), all)
		}
		list = list[:of+capped(list[of:], units, share(whole.value, weight, all))]
	}
	for s := first; s < beyond; s++ {
		if shipments.Columns[book.ShipmentLine].Codes[s] != 0 {
			continue
		}
		if sent := shipments.Columns[book.ShipmentUnits].Numbers[s]; sent != book.None {
			leaves(shipments.Columns[book.ShipmentShipped].Numbers[s], sent, sent, whole.units)
		}
	}
	return list[:capped(list, whole.units, whole.value)]
}

// capped sorts what leaves by day and cuts it to what there is; it gives how many parts are left.
func capped(list []leave, units, value int64) int {
	slices.SortFunc(list, func(a, b leave) int { return int(a.day - b.day) })
	for i := range list {
		l := &list[i]
		if units == 0 {
			return i
		}
		l.units, l.value = min(l.units, units), min(l.value, value)
		units, value = units-l.units, value-l.value
	}
	return len(list)
}

// worths is the value of all lines, where each has one; 0 where some have none.
func (*parted) worths(lines *book.Ragged, from, to int) (all int64) {
	for l := from; l < to; l++ {
		value := lines.Columns[book.LineValue].Numbers[l]
		if value == book.None || value < 0 {
			return 0
		}
		all += value
	}
	return all
}

// share is value × part ÷ of, rounded down; all of it from of on.
func share(value, part, of int64) int64 {
	if value <= 0 || part <= 0 || of <= 0 {
		return 0
	}
	if part >= of {
		return value
	}
	high, low := bits.Mul64(uint64(value), uint64(part))
	quotient, _ := bits.Div64(high, low, uint64(of))
	return int64(quotient)
}
