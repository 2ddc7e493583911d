package across

import (
	"math/bits"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
)

// The milestones for which goods have days of their own.
const (
	byShipment = iota
	byDelivery
	owned // how many there are
)

// A place is where a day lies to the days asked about, or why there is none.
type place uint8

// The places. Those from noDay on have no day that is known.
const (
	inside place = iota
	before
	after
	noDay     // none was recorded
	notYet    // a fact that has not come about
	cancelled // and will not
	later     // recorded for a day after the data date
	beyond    // more was shipped than was ordered: taken off again, so that all adds up
	places    // how many there are
)

// label says where something lies by a milestone.
func (at place) label(m milestone.Milestone, of period.Period) string {
	words, days := m.Words(), of.Text
	if of.Unbounded() {
		days = of.Days()
	}
	switch at {
	case inside:
		return words + " in " + days
	case before:
		return words + " before it"
	case after:
		return words + " after it"
	case noDay:
		return "no `" + m.Name + "` day known"
	case notYet:
		return "not yet " + words
	case cancelled:
		return "cancelled and not " + words
	case later:
		return "`" + m.Name + "` after the data date"
	}
	return words + " beyond what was ordered"
}

// placeNames are the names of places in the API and on the command line.
var placeNames = [places]string{"inside", "before", "after", "no-day", "not-yet", "cancelled", "after-data-date", "beyond-ordered"}

// A piece is some of a line's units, or all of an order without lines, that were shipped and delivered on the same days. The
// pieces of an order sum to its units and its value.
type piece struct {
	line         int // place of the line in its block; −1 of an order without lines
	units, value int64
	days         [owned]day.Day
	why          [owned]place // of days that are not known
}

// goods reads the pieces of orders.
type goods struct {
	milestones [owned]int
	cancelled  int
	dataDate   day.Day
	lineOf     []uint32
}

func newGoods(b *book.Book) *goods {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	return &goods{[owned]int{index(milestone.Shipped), index(milestone.Delivered)}, index(milestone.Cancelled), b.Bounds().DataDate, b.LinesOfShipments()}
}

// why says for what reason an order has no known day of a milestone.
func (g *goods) why(block *book.Block, row, m int, of milestone.Milestone) place {
	switch {
	case block.Columns[m].Raw[row] != 0:
		return later
	case of.Plan || of.Name == milestone.Ordered || of.Name == milestone.Cancelled:
		return noDay
	case block.Columns[g.cancelled].Known[row] != 0:
		return cancelled
	}
	return notYet
}

// known is a day of a part as a milestone: those after the data date are not known.
func (g *goods) known(raw int64) day.Day {
	if raw == book.None || day.Day(raw) > g.dataDate {
		return 0
	}
	return day.Day(raw)
}

// alike says whether all units of an order were shipped and delivered on the same days, as most are: none of its lines has days
// of its own or cancelled units, and there is no shipment, or one of just these units. It gives the days that are asked for.
func (g *goods) alike(block *book.Block, row int, units int64, asked *[owned]bool, all *piece) bool {
	lines, shipments := &block.Parts[book.Lines], &block.Parts[book.Shipments]
	from, to := lines.Of(row)
	for _, column := range [...]int{book.LineShipped, book.LineDelivered, book.LineCancelled} {
		if c := &lines.Columns[column]; c.Given {
			for _, n := range c.Numbers[from:to] {
				if n > 0 {
					return false
				}
			}
		}
	}
	first, last := shipments.Of(row)
	sent := int64(book.None)
	if last-first == 1 {
		sent = shipments.Columns[book.ShipmentUnits].Numbers[first]
	}
	if last-first > 1 || last-first == 1 && shipments.Columns[book.ShipmentLine].Codes[first] != 0 || sent != book.None && sent != units {
		return false
	}
	for i, is := range asked {
		if !is {
			continue
		}
		if sent != book.None {
			raw := shipments.Columns[shipmentDays[i]].Numbers[first]
			if all.days[i] = g.known(raw); all.days[i] != 0 {
				continue
			}
			if raw != book.None && raw != 0 {
				all.why[i] = later
				continue
			}
		}
		if all.days[i] = block.Columns[g.milestones[i]].Known[row]; all.days[i] == 0 {
			all.why[i] = g.why(block, row, g.milestones[i], milestone.Milestone{})
		}
	}
	return true
}

// shipmentDays are the columns of shipments with the goods' own days.
var shipmentDays = [owned]int{book.ShipmentShipped, book.ShipmentDelivered}

// whole is all of an order, placed by its own days.
func (g *goods) whole(block *book.Block, row int) piece {
	whole := piece{line: -1, value: block.Values[row]}
	for i, m := range g.milestones {
		if whole.days[i] = block.Columns[m].Known[row]; whole.days[i] == 0 {
			whole.why[i] = g.why(block, row, m, milestone.Milestone{})
		}
	}
	return whole
}

// A spool is the space in which the pieces of one order are made.
type spool struct {
	pieces []piece
	open   []int64 // by line: the units that no shipment has taken
	prefix []int64
}

// pieces splits an order into what was shipped and delivered on the same days: by the lines' own days, then by the shipments
// that name a line; a shipment that names none takes of all lines alike, in proportion to what is left of them. What is
// left goes with the order as a whole. The value is shared by the lines' values where all are known, else by the units.
func (g *goods) pieces(block *book.Block, row int, s *spool) []piece {
	s.pieces = s.pieces[:0]
	whole := g.whole(block, row)
	lines, shipments := &block.Parts[book.Lines], &block.Parts[book.Shipments]
	from, to := lines.Of(row)
	if from == to {
		return append(s.pieces, whole)
	}
	first, last := shipments.Of(row)
	s.open = append(s.open[:0], make([]int64, to-from)...)
	unnamed := g.takeNamed(block, row, whole, first, last, s)
	if unnamed {
		g.takeUnnamed(block, row, whole, first, last, s)
	}
	for i, left := range s.open {
		units := lines.Columns[book.LineUnits].Numbers[from+i]
		if left > 0 || units == book.None || units == 0 {
			rest := whole
			rest.line, rest.units = from+i, left
			s.pieces = append(s.pieces, rest)
		}
	}
	s.share(lines, from, to, whole.value)
	return s.pieces
}

// takeNamed makes the pieces of lines with days of their own, of cancelled units and of shipments that name a line; what they
// leave is open. It says whether a shipment names no line of the order.
func (g *goods) takeNamed(block *book.Block, row int, whole piece, first, last int, s *spool) (unnamed bool) {
	lines, shipments := &block.Parts[book.Lines], &block.Parts[book.Shipments]
	from, to := lines.Of(row)
	named := 0
	for l := from; l < to; l++ {
		units := max(0, lines.Columns[book.LineUnits].Numbers[l]) // not known counts as none
		if gone := min(units, lines.Columns[book.LineCancelled].Numbers[l]); gone > 0 {
			s.pieces = append(s.pieces, piece{line: l, units: gone, why: [owned]place{cancelled, cancelled}})
			units -= gone
		}
		own := whole
		own.line, own.units = l, units
		shipped, delivered := g.known(lines.Columns[book.LineShipped].Numbers[l]), g.known(lines.Columns[book.LineDelivered].Numbers[l])
		if shipped != 0 || delivered != 0 {
			for i, d := range [owned]day.Day{shipped, delivered} {
				if d != 0 {
					own.days[i] = d
				}
			}
			s.pieces = append(s.pieces, own)
			for sh := first; sh < last; sh++ {
				if g.names(shipments, sh, lines, l) {
					named++
				}
			}
			continue
		}
		for sh := first; sh < last; sh++ {
			if !g.names(shipments, sh, lines, l) {
				continue
			}
			named++
			if lines.Columns[book.LineUnits].Numbers[l] == book.None {
				continue // it goes with the order as a whole, without units
			}
			sent := shipments.Columns[book.ShipmentUnits].Numbers[sh]
			if sent == book.None {
				sent = units
			}
			units -= g.take(shipments, sh, l, sent, units, whole, s)
		}
		s.open[l-from] = units
	}
	return named < last-first
}

func (g *goods) names(shipments *book.Ragged, sh int, lines *book.Ragged, l int) bool {
	code := shipments.Columns[book.ShipmentLine].Codes[sh]
	return code != 0 && g.lineOf[code] == lines.Columns[book.LineNumber].Codes[l]
}

// take makes the piece of a line that a shipment holds, and two that cancel each other of what it holds beyond what is open.
// It gives what it took.
func (g *goods) take(shipments *book.Ragged, sh, line int, sent, open int64, whole piece, s *spool) int64 {
	own := g.sent(shipments, sh, whole)
	own.line, own.value = line, 0
	taken := min(sent, open)
	if own.units = taken; taken > 0 {
		s.pieces = append(s.pieces, own)
	}
	if sent > taken {
		own.units = sent - taken
		s.pieces = append(s.pieces, own, piece{line: line, units: taken - sent, why: [owned]place{beyond, beyond}})
	}
	return taken
}

// sent has the days of a shipment; a delivery that it does not tell is the order's.
func (g *goods) sent(shipments *book.Ragged, sh int, whole piece) piece {
	own := whole
	for i, column := range shipmentDays {
		raw := shipments.Columns[column].Numbers[sh]
		if d := g.known(raw); d != 0 {
			own.days[i], own.why[i] = d, inside
		} else if raw != book.None && raw != 0 {
			own.days[i], own.why[i] = 0, later
		}
	}
	return own
}

// takeUnnamed shares what shipments without a line hold over all that is open, by cumulated shares, so that nothing is lost to
// rounding. Shipments whose units are not known take nothing: what they hold goes with the order as a whole.
func (g *goods) takeUnnamed(block *book.Block, row int, whole piece, first, last int, s *spool) {
	lines, shipments := &block.Parts[book.Lines], &block.Parts[book.Shipments]
	from, to := lines.Of(row)
	s.prefix = append(s.prefix[:0], 0)
	for _, open := range s.open {
		s.prefix = append(s.prefix, s.prefix[len(s.prefix)-1]+open)
	}
	all, taken := s.prefix[len(s.open)], int64(0)
	for sh := first; sh < last; sh++ {
		sent := shipments.Columns[book.ShipmentUnits].Numbers[sh]
		if sent == book.None || sent <= 0 || g.namesOne(shipments, sh, lines, from, to) {
			continue
		}
		take := min(sent, all-taken)
		own := g.sent(shipments, sh, whole)
		own.value = 0
		for i := range s.open {
			upTo := func(n int64) int64 { return share(s.prefix[i+1], n, all) - share(s.prefix[i], n, all) }
			if own.units = upTo(taken+take) - upTo(taken); own.units != 0 {
				own.line = from + i
				s.pieces = append(s.pieces, own)
				s.open[i] -= own.units
			}
		}
		if taken += take; sent > take {
			own.line, own.units = from, sent-take
			s.pieces = append(s.pieces, own, piece{line: from, units: take - sent, why: [owned]place{beyond, beyond}})
		}
	}
}

func (g *goods) namesOne(shipments *book.Ragged, sh int, lines *book.Ragged, from, to int) bool {
	for l := from; l < to; l++ {
		if g.names(shipments, sh, lines, l) {
			return true
		}
	}
	return false
}

// share gives the pieces, which lie in any order, what they are worth: the value of a line is shared by cumulated units.
func (s *spool) share(lines *book.Ragged, from, to int, value int64) {
	for i, worth := range s.worths(lines, from, to, value) {
		all := max(0, lines.Columns[book.LineUnits].Numbers[from+i])
		given, lastPiece := int64(0), -1
		for j := range s.pieces {
			p := &s.pieces[j]
			if p.line != from+i || p.why[byShipment] == beyond {
				continue
			}
			p.value = 0
			if lastPiece = j; all > 0 && given+p.units <= all {
				p.value = share(worth, given+p.units, all) - share(worth, given, all)
				given += p.units
			}
		}
		if all == 0 && lastPiece >= 0 {
			s.pieces[lastPiece].value = worth
		}
	}
}

// knownUnits are the units of lines, none where they are not known.
func (s *spool) knownUnits(units []int64) []int64 {
	s.prefix = append(s.prefix[:0], units...)
	for i := range s.prefix {
		s.prefix[i] = max(0, s.prefix[i])
	}
	return s.prefix
}

// ones counts each of some lines.
func (s *spool) ones(lines int) []int64 {
	s.prefix = s.prefix[:0]
	for range lines {
		s.prefix = append(s.prefix, 1)
	}
	return s.prefix
}

// worths are what the lines of an order are worth of its value, shared by their cumulated weights.
func (s *spool) worths(lines *book.Ragged, from, to int, value int64) []int64 {
	weights, sum := s.weights(lines, from, to), int64(0)
	for _, w := range weights {
		sum += w
	}
	passed, before := int64(0), int64(0)
	for i, w := range weights {
		passed += w
		upTo := share(value, passed, sum)
		weights[i], before = upTo-before, upTo
	}
	return weights
}

// weights are the lines' values where all are known, else their units, else alike. They lie in the space of prefix.
func (s *spool) weights(lines *book.Ragged, from, to int) []int64 {
	for _, column := range []int{book.LineValue, book.LineUnits} {
		s.prefix = append(s.prefix[:0], lines.Columns[column].Numbers[from:to]...)
		sum := int64(0)
		for _, w := range s.prefix {
			if w < 0 { // book.None too
				sum = 0
				break
			}
			sum += w
		}
		if sum > 0 {
			return s.prefix
		}
	}
	for i := range s.prefix {
		s.prefix[i] = 1
	}
	return s.prefix
}

// share is value × part ÷ of, rounded towards 0; all of it from of on.
func share(value, part, of int64) int64 {
	switch {
	case part <= 0 || of <= 0 || value == 0:
		return 0
	case part >= of:
		return value
	case value < 0:
		return -share(-value, part, of)
	}
	high, low := bits.Mul64(uint64(value), uint64(part))
	quotient, _ := bits.Div64(high, low, uint64(of))
	return int64(quotient)
}
