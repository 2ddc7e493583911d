package crosstab

import (
	"prairiedusk/internal/core/allocation"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
)

// The milestones for which goods, shipments and payments have days of their own.
const (
	byShipment = iota
	byDelivery
	byPayment
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
		return "without " + m.Date()
	case notYet:
		return "not yet " + words
	case cancelled:
		return "cancelled and not " + words
	case later:
		return m.Date() + " after the data date"
	}
	return words + " beyond what was ordered"
}

// placeNames are the names of places in the API and on the command line.
var placeNames = [places]string{"inside", "before", "after", "no-day", "not-yet", "cancelled", "after-data-date", "beyond-ordered"}

// A piece is some of a line's units, or all of an order without lines, that were shipped and delivered on the same days; or a
// shipment, or a payment. The pieces of an order sum to its units and its value.
type piece struct {
	part         int // place of the line, shipment or payment in its block; −1 of an order without lines
	units, value int64
	days         [owned]day.Day
	why          [owned]place // of days that are not known
	beyond       bool         // what was ordered: the same units are taken off again by another piece
}

// goods reads the pieces of orders, as allocation has them, with the reasons why they have no day.
type goods struct {
	*book.Goods
	milestones [owned]int
	cancelled  int
	dataDate   day.Day
}

func newGoods(b *book.Book) *goods {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	days := [owned]int{index(milestone.Shipped), index(milestone.Delivered), index(milestone.Paid)}
	return &goods{b.Goods(), days, index(milestone.Cancelled), b.Bounds().DataDate}
}

// why says for what reason an order has no known day of a milestone.
func (g *goods) why(block *book.Block, row, m int, of milestone.Milestone) place {
	switch {
	case block.Columns[g.cancelled].Known[row] != 0 && !of.Plan && of.Name != milestone.Ordered:
		return cancelled // what is recorded for a day after the data date is not known
	case block.Columns[m].Raw[row] != 0:
		return later
	case of.Plan || of.Name == milestone.Ordered || of.Name == milestone.Cancelled:
		return noDay
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

// alike says whether all units of an order were shipped and delivered on the same days, as most are. It gives the days that are
// asked for.
func (g *goods) alike(block *book.Block, row int, asked *[owned]bool, all *piece) bool {
	shipment, together := g.Together(block, row)
	if !together {
		return false
	}
	for i, is := range asked {
		if !is {
			continue
		}
		if shipment >= 0 {
			raw := block.Parts[book.Shipments].Columns[shipmentDays[i]].Numbers[shipment]
			if all.days[i] = g.known(raw); all.days[i] != 0 {
				continue
			}
			if raw != book.None && raw != 0 {
				all.why[i] = later
			}
		}
		if all.days[i] = block.Columns[g.milestones[i]].Known[row]; all.days[i] == 0 {
			if why := g.why(block, row, g.milestones[i], milestone.Milestone{}); why == cancelled || all.why[i] != later {
				all.why[i] = why
			}
		}
	}
	return true
}

// shipmentDays are the columns of shipments with the goods' own days.
var shipmentDays = [owned]int{book.ShipmentShipped, book.ShipmentDelivered}

// whole is all of an order, placed by its own days.
func (g *goods) whole(block *book.Block, row int) piece {
	whole := piece{part: -1, value: block.Values[row]}
	for i, m := range g.milestones {
		if whole.days[i] = block.Columns[m].Known[row]; whole.days[i] == 0 {
			whole.why[i] = g.why(block, row, m, milestone.Milestone{})
		}
	}
	return whole
}

// A spool is the space in which the pieces of one order are made.
type spool struct {
	space  book.GoodsSpace
	pieces []piece
	prefix []int64
}

// pieces are those of an order, by the days of their shipments or lines. What no part tells goes with the order as a whole; what
// was shipped beyond what was ordered is there twice, once to be taken off again.
func (g *goods) pieces(block *book.Block, row int, s *spool) []piece {
	s.pieces = s.pieces[:0]
	whole := g.whole(block, row)
	from, _ := block.Parts[book.Lines].Of(row)
	for _, part := range g.Pieces(block, row, &s.space) {
		own := whole
		if own.part, own.units, own.value = -1, part.Units, part.Value; part.Line >= 0 {
			own.part = from + part.Line
		}
		for i, raw := range part.Days {
			switch {
			case raw == 0:
			case raw <= g.dataDate:
				own.days[i], own.why[i] = raw, inside
			case whole.days[i] == 0 && whole.why[i] != cancelled: // a day after the data date is not known; where the order has one, that stands
				own.why[i] = later
			}
		}
		if part.Kind == allocation.Cancelled {
			own.days, own.why = [owned]day.Day{}, [owned]place{cancelled, cancelled, cancelled}
		}
		own.beyond = part.Kind == allocation.Beyond
		s.pieces = append(s.pieces, own)
		if own.beyond {
			off := own // nothing is beyond before it has come
			off.units = -part.Units
			for i, raw := range part.Days {
				if raw != 0 && raw <= g.dataDate {
					off.days[i], off.why[i] = 0, beyond
				}
			}
			s.pieces = append(s.pieces, off)
		}
	}
	return s.pieces
}

// parts are the shipments or payments of an order as pieces, each with its own days; where it has none, with those of the order.
func (g *goods) parts(of book.Part, block *book.Block, row int, s *spool) []piece {
	s.pieces = s.pieces[:0]
	whole, rows := g.whole(block, row), &block.Parts[of]
	from, to := rows.Of(row)
	for at := from; at < to; at++ {
		own := whole
		own.part = at
		for day, column := range partDays[of] {
			raw := rows.Columns[column].Numbers[at]
			switch d := g.known(raw); {
			case d != 0:
				own.days[day], own.why[day] = d, inside
			case raw != book.None && own.days[day] == 0 && own.why[day] != cancelled: // a day after the data date is not known
				own.why[day] = later
			}
		}
		s.pieces = append(s.pieces, own)
	}
	return s.pieces
}

// partDays are the columns of the days that parts have of their own.
var partDays = map[book.Part]map[int]int{
	book.Shipments: {byShipment: book.ShipmentShipped, byDelivery: book.ShipmentDelivered}, book.Payments: {byPayment: book.PaymentPaid}}

// knownUnits are the units of lines, none where they are not known.
func (s *spool) knownUnits(units []int64) []int64 {
	s.prefix = append(s.prefix[:0], units...)
	for i, n := range s.prefix {
		if n == book.None {
			s.prefix[i] = 0
		}
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
