package book

import (
	"prairiedusk/internal/core/allocation"
	"prairiedusk/internal/core/day"
)

// Goods reads what became of the units and the value of a book's orders, by the one rule of allocation.
type Goods struct {
	lineOf   []uint32 // by the code of a shipment's line: that of the order line
	decimals []int    // of the currencies, by code
	dataDate day.Day
}

// A GoodsSpace is where the pieces of one order after another are made.
type GoodsSpace struct {
	order allocation.Order
	space allocation.Space
}

// Goods prepares for reading.
func (b *Book) Goods() *Goods {
	g := &Goods{lineOf: b.LinesOfShipments(), dataDate: b.Bounds().DataDate}
	for _, currency := range b.Values(Currency) {
		g.decimals = append(g.decimals, b.Decimals(currency))
	}
	return g
}

// Decimals is how many minor units the unit of a currency has, as a power of ten.
func (b *Book) Decimals(currency string) int {
	if b.ends.Decimals == nil {
		return 2
	}
	return b.ends.Decimals(currency)
}

// Pieces are those of the order in a row of a block; they are good until the space is used again.
func (g *Goods) Pieces(block *Block, row int, s *GoodsSpace) []allocation.Piece {
	g.read(block, row, s)
	return allocation.Allocate(&s.order, &s.space)
}

// Worths are what the lines of an order are worth, in minor units, and by how much its value differs from their sum.
func (g *Goods) Worths(block *Block, row int, s *GoodsSpace) (worths []int64, difference int64) {
	g.read(block, row, s)
	return allocation.Worths(&s.order, &s.space)
}

func (g *Goods) read(block *Block, row int, s *GoodsSpace) {
	o := &s.order
	o.Lines, o.Shipments, o.DataDate = o.Lines[:0], o.Shipments[:0], g.dataDate
	if o.Value = allocation.None; block.Valued[row] {
		o.Value, o.Decimals = block.Values[row], g.decimals[block.Codes[Currency][row]]
	}
	lines, shipments := &block.Parts[Lines], &block.Parts[Shipments]
	from, to := lines.Of(row)
	for l := from; l < to; l++ {
		o.Lines = append(o.Lines, allocation.Line{Units: lines.Columns[LineUnits].Numbers[l],
			Cancelled: lines.Columns[LineCancelled].Numbers[l], Value: lines.Columns[LineValue].Numbers[l],
			Days: [allocation.Goals]day.Day{rawDay(lines.Columns[LineShipped].Numbers[l]),
				rawDay(lines.Columns[LineDelivered].Numbers[l])}, CancelledOn: rawDay(lines.Columns[LineCancelledOn].Numbers[l])})
	}
	first, last := shipments.Of(row)
	for sh := first; sh < last; sh++ {
		made := allocation.Shipment{Line: allocation.Whole, Units: shipments.Columns[ShipmentUnits].Numbers[sh],
			Days: [allocation.Goals]day.Day{rawDay(shipments.Columns[ShipmentShipped].Numbers[sh]),
				rawDay(shipments.Columns[ShipmentDelivered].Numbers[sh])}}
		if code := shipments.Columns[ShipmentLine].Codes[sh]; code != 0 {
			for l := from; l < to; l++ {
				if g.lineOf[code] == lines.Columns[LineNumber].Codes[l] {
					made.Line = l - from
					break
				}
			}
		}
		o.Shipments = append(o.Shipments, made)
	}
}

// rawDay is the day in a cell of numbers; zero where there is none.
func rawDay(cell int64) day.Day {
	if cell == None {
		return 0
	}
	return day.Day(cell)
}

// Differs says whether the value of an order, which has one, is another than the sum of its lines, all of which have one.
func (g *Goods) Differs(block *Block, row int) bool {
	from, to := block.Parts[Lines].Of(row)
	sum := int64(0)
	for _, n := range block.Parts[Lines].Columns[LineValue].Numbers[from:to] {
		if n == None {
			return false
		}
		sum += n
	}
	return from < to && allocation.Minor(sum, g.decimals[block.Codes[Currency][row]]) != block.Values[row]
}

// Together says that nothing tells parts of an order's goods apart: it has at most one shipment, which names no line, and none
// of its lines has a day of its own or cancelled units. All goods are in that shipment, whose place it gives, or, with −1, in
// none that tells what it holds: they go with the order.
func (g *Goods) Together(block *Block, row int) (shipment int, together bool) {
	lines, shipments := &block.Parts[Lines], &block.Parts[Shipments]
	from, to := lines.Of(row)
	for _, column := range [...]int{LineShipped, LineDelivered, LineCancelled} {
		if c := &lines.Columns[column]; c.Given {
			for _, n := range c.Numbers[from:to] {
				if n > 0 {
					return -1, false
				}
			}
		}
	}
	first, last := shipments.Of(row)
	if last == first {
		return -1, true
	}
	if last-first > 1 || shipments.Columns[ShipmentLine].Codes[first] != 0 {
		return -1, false
	}
	sent, all := shipments.Columns[ShipmentUnits].Numbers[first], int64(0)
	if sent == None {
		return -1, true
	}
	for _, n := range lines.Columns[LineUnits].Numbers[from:to] {
		if n == None || n < 0 {
			return -1, false
		}
		all += n
	}
	if from == to {
		return -1, true
	}
	return first, sent == all
}
