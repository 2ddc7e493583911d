package backlog

import (
	"prairiedusk/internal/core/allocation"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
)

// A holding is what an order holds as a whole.
type holding struct {
	units   int64 // thousandths, of the lines whose units are known
	value   int64 // minor units
	counted bool  // the units of all its lines are known
	told    int64 // 1 where those of some are
}

// A leave is a part of an order that leaves before the order closes.
type leave struct {
	day          day.Day
	units, value int64
}

// parted reads what orders hold and when parts of it leave, where the leg ends with what goods do on days of their own.
type parted struct {
	goal     int // of allocation; −1 where the order leaves as a whole
	dataDate day.Day
	goods    *book.Goods
}

func newParted(p *plan) *parted {
	made := &parted{goal: -1, dataDate: p.book.Bounds().DataDate, goods: p.book.Goods()}
	switch p.question.Leg.To.Base() {
	case milestone.Shipped:
		made.goal = allocation.Shipped
	case milestone.Delivered:
		made.goal = allocation.Delivered
	}
	return made
}

// whole is what an order holds before anything leaves.
func (*parted) whole(block *book.Block, row int) holding {
	h := holding{value: block.Values[row]}
	lines := &block.Parts[book.Lines]
	from, to := lines.Of(row)
	h.counted = to > from
	for _, units := range lines.Columns[book.LineUnits].Numbers[from:to] {
		if units == book.None {
			h.counted = false
			continue
		}
		h.units, h.told = h.units+units, 1
	}
	return h
}

// leaves lists what leaves an order before it closes, in the place of what list holds: goods as they leave or arrive, and
// cancelled units on the day on which they were cancelled, or with the start where that is not known. What is not known to
// leave earlier leaves when the order closes.
func (p *parted) leaves(block *book.Block, row int, life OpenInterval, list []leave, space *book.GoodsSpace) []leave {
	list = list[:0]
	if p.goal < 0 {
		return list
	}
	// A day before the start is the start; from the closing day on nothing leaves by itself.
	leaves := func(at day.Day) (on day.Day, before bool) {
		on = max(at, life.Start)
		return on, at != 0 && on <= p.dataDate && (life.Close == 0 || on < life.Close)
	}
	if shipment, together := p.goods.Together(block, row); together {
		if shipment < 0 {
			return list
		}
		column := [...]int{allocation.Shipped: book.ShipmentShipped, allocation.Delivered: book.ShipmentDelivered}[p.goal]
		raw := block.Parts[book.Shipments].Columns[column].Numbers[shipment]
		if _, before := leaves(max(0, day.Day(raw))); raw == book.None || !before {
			return list // as most do
		}
	}
	for _, piece := range p.goods.Pieces(block, row, space) {
		var at day.Day
		switch piece.Kind {
		case allocation.Gone:
			at = piece.Days[p.goal]
		case allocation.Cancelled:
			if at = piece.CancelledOn; at == 0 {
				at = life.Start
			}
		}
		if on, before := leaves(at); before {
			list = append(list, leave{on, piece.Units, piece.Value})
		}
	}
	return list
}
