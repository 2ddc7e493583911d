package book

import (
	"math"
	"slices"
	"strings"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/parts"
)

// A Part is a kind of thing of which an order can have several.
type Part uint8

// The parts of an order.
const (
	Lines Part = iota
	Shipments
	Payments
	Statuses
	Parts // how many there are
)

var partNames = [Parts]string{"lines", "shipments", "payments", "statuses"}

// String is the part's name, in the plural.
func (p Part) String() string { return partNames[p] }

// Noun is the name of one of them.
func (p Part) Noun() string { return strings.TrimSuffix(partNames[p], "s") }

// PartNames lists the parts, in the order of their values.
func PartNames() []string { return partNames[:] }

// A Holding is what a column of a part holds.
type Holding uint8

const (
	Coded     Holding = iota // texts that repeat
	Plain                    // texts that hardly do
	OnDay                    // days, as their numbers
	Quantity                 // thousandths
	Money                    // ten-thousandths of a unit of a currency
	ValueUnit                // Money of the order's own currency
)

// A PartColumn is one column of a part.
type PartColumn struct {
	Name  string
	Holds Holding
}

// Columns of parts that are looked for by place.
const (
	LineNumber = iota
	LineProduct
	LineUnits
	LineCancelled
	LineValue
	LineShipped
	LineDelivered
	LineCancelledOn
)

// Columns of shipments that are looked for by place.
const (
	ShipmentLine = iota + 2
	ShipmentUnits
	ShipmentShipped
	ShipmentDelivered
)

// PaymentPaid is a column of payments.
const PaymentPaid = 1

// Columns of status records.
const (
	StatusName = iota
	StatusAt
	StatusSequence
	StatusSource
)

var partColumns = [Parts][]PartColumn{
	Lines: {
		{"line", Coded}, {"product", Coded}, {"units", Quantity}, {"cancelled-units", Quantity},
		{"line-value", ValueUnit}, {"line-shipped", OnDay}, {"line-delivered", OnDay}, {"line-cancelled", OnDay},
	},
	Shipments: {{"shipment", Plain}, {"carrier", Coded}, {"line", Coded}, {"units", Quantity}, {"shipped", OnDay}, {"delivered", OnDay}},
	Payments:  {{"receipt", Plain}, {"paid", OnDay}, {"amount", Money}, {"currency", Coded}},
	Statuses:  {{"status", Coded}, {"at", OnDay}, {"sequence", Quantity}, {"source", Coded}},
}

// PartColumns lists the columns of a part that records bring.
func (l Layout) PartColumns(p Part) []PartColumn {
	columns := partColumns[p]
	if p == Lines {
		columns = slices.Clip(columns)
		for _, name := range l.LineExtra {
			columns = append(columns, PartColumn{name, Coded})
		}
	}
	return columns
}

// None stands for a day or a quantity that is not there.
const None = math.MinInt64

// A ChildRows holds one part of a block's orders: those of the order in row i are Starts[i] to Starts[i+1]−1.
type ChildRows struct {
	Starts  []uint32
	Columns []Cells // by column of the part
	// Instants are those of status records that came with a time of day, zero for others; nil where none did.
	Instants []day.Instant
	// Clocks are those of status records with a time of day in an unknown zone, as parts.StatusRecord has them.
	Clocks []int32
	// Sequenced says that some status record may have a sequence: most books have none, and need not look.
	Sequenced bool
}

// Cells are one column of a part; one of the slices is in use.
type Cells struct {
	Codes   []uint32 // Coded; code 0 is none
	Texts   []string // Plain
	Numbers []int64  // all others; None where there is none
	// Given says that some number may be there: many columns have none in a whole block, and need not be looked at.
	Given bool
}

// Of are the places of an order's parts: from the first up to before the last.
func (r *ChildRows) Of(row int) (from, to int) { return int(r.Starts[row]), int(r.Starts[row+1]) }

// PartFactsAfter are the identities of the orders of which some part has a fact after a day, in their order.
func (b *Book) PartFactsAfter(d day.Day) (orders []int64) {
	for _, block := range b.blocks {
		for row, id := range block.IDs {
			if slices.ContainsFunc(factColumns[:], func(f partFact) bool {
				part := &block.Parts[f.part]
				if !part.Columns[f.column].Given {
					return false
				}
				from, to := part.Of(row)
				return slices.ContainsFunc(part.Columns[f.column].Numbers[from:to], func(n int64) bool { return n > int64(d) })
			}) {
				orders = append(orders, id)
			}
		}
	}
	return orders
}

type partFact struct {
	part   Part
	column int
}

// factColumns are the days of parts that tell when something was.
var factColumns = [...]partFact{
	{Lines, LineShipped}, {Lines, LineDelivered}, {Lines, LineCancelledOn},
	{Shipments, ShipmentShipped}, {Shipments, ShipmentDelivered}, {Payments, PaymentPaid},
}

// noParts is what a block without orders has.
func (l Layout) noParts() (none [Parts]ChildRows) {
	for p := range Parts {
		none[p] = ChildRows{Starts: []uint32{0}, Columns: make([]Cells, len(l.PartColumns(p)))}
	}
	return none
}

// clone copies what records brought; what is told from it follows anew.
func (r *ChildRows) clone(columns int) ChildRows {
	next := ChildRows{Starts: slices.Clone(r.Starts), Instants: slices.Clone(r.Instants), Clocks: slices.Clone(r.Clocks),
		Sequenced: r.Sequenced}
	for _, c := range r.Columns[:columns] {
		next.Columns = append(next.Columns, Cells{slices.Clone(c.Codes), slices.Clone(c.Texts), slices.Clone(c.Numbers), c.Given})
	}
	return next
}

// appendParts takes in the parts of the order that the block ends with.
func (b *Builder) appendParts(block *Block, o Order) {
	lines := &block.Parts[Lines]
	for _, l := range o.Lines {
		code := func(column int, text string) {
			lines.Columns[column].Codes = append(lines.Columns[column].Codes, b.codeOf(&b.parts[Lines][column], []byte(text)))
		}
		code(LineNumber, l.Number)
		code(LineProduct, l.Product)
		lines.numbers(LineUnits, quantityCell(l.Units), quantityCell(l.Cancelled), known(l.Value, l.Valued), dayCell(l.Shipped),
			dayCell(l.Delivered), dayCell(l.CancelledOn))
		for i := range b.layout.LineExtra {
			text := ""
			if l.Extra != nil {
				text = l.Extra[i]
			}
			code(len(partColumns[Lines])+i, text)
		}
	}
	shipments := &block.Parts[Shipments]
	for _, s := range o.Shipments {
		shipments.Columns[0].Texts = append(shipments.Columns[0].Texts, s.Number)
		for i, text := range []string{s.Carrier, s.Line} {
			shipments.Columns[1+i].Codes = append(shipments.Columns[1+i].Codes, b.codeOf(&b.parts[Shipments][1+i], []byte(text)))
		}
		shipments.numbers(3, quantityCell(s.Units), dayCell(s.Shipped), dayCell(s.Delivered))
	}
	payments := &block.Parts[Payments]
	for _, p := range o.Payments {
		payments.Columns[0].Texts = append(payments.Columns[0].Texts, p.Receipt)
		payments.numbers(1, dayCell(p.Paid), known(p.Amount, p.Known))
		payments.Columns[3].Codes = append(payments.Columns[3].Codes, b.codeOf(&b.parts[Payments][3], []byte(p.Currency)))
	}
	statuses := &block.Parts[Statuses]
	for _, s := range parts.InOrder(o.Statuses) {
		statuses.Columns[StatusName].Codes = append(statuses.Columns[StatusName].Codes,
			b.codeOf(&b.parts[Statuses][StatusName], []byte(s.Status)))
		statuses.numbers(StatusAt, int64(s.At.Day), quantityCell(s.Sequence))
		statuses.Columns[StatusSource].Codes = append(statuses.Columns[StatusSource].Codes,
			b.codeOf(&b.parts[Statuses][StatusSource], []byte(s.Source)))
		before := len(statuses.Columns[StatusName].Codes) - 1
		statuses.Instants = appendSparse(statuses.Instants, before, s.At.At)
		statuses.Clocks = appendSparse(statuses.Clocks, before, s.Clock)
		statuses.Sequenced = statuses.Sequenced || s.Sequence.Known
	}
	for p, n := range [Parts]int{len(o.Lines), len(o.Shipments), len(o.Payments), len(o.Statuses)} {
		starts := &block.Parts[p].Starts
		*starts = append(*starts, (*starts)[len(*starts)-1]+uint32(n))
	}
}

// numbers appends to columns that follow each other.
func (r *ChildRows) numbers(column int, cells ...int64) {
	for i, n := range cells {
		c := &r.Columns[column+i]
		c.Numbers, c.Given = append(c.Numbers, n), c.Given || n != None && n != 0
	}
}

// appendSparse adds cells to a column that is nil while it has none but zeros; so many cells lie before them.
func appendSparse[T comparable](column []T, before int, cells ...T) []T {
	var zero T
	if column == nil {
		if !slices.ContainsFunc(cells, func(c T) bool { return c != zero }) {
			return nil
		}
		column = make([]T, before, before+len(cells))
	}
	return append(column, cells...)
}

// sparse is a stretch of such a column.
func sparse[T any](column []T, from, to int) []T {
	if column == nil {
		return make([]T, to-from)
	}
	return column[from:to]
}

// InstantAt is the instant of a status record; zero where it has none.
func (r *ChildRows) InstantAt(record int) day.Instant {
	if r.Instants == nil {
		return 0
	}
	return r.Instants[record]
}

// ClockAt is the time of day of a status record in an unknown zone; zero where it has none.
func (r *ChildRows) ClockAt(record int) int32 {
	if r.Clocks == nil {
		return 0
	}
	return r.Clocks[record]
}

func known(n int64, is bool) int64 {
	if !is {
		return None
	}
	return n
}

func quantityCell(q parts.Quantity) int64 { return known(q.Thousandths, q.Known) }

func dayCell(d parts.Day) int64 { return known(int64(d.Day), d.Day != 0) }

// replaceParts packs a block anew where orders in it have other parts than before.
func (b *Builder) replaceParts(block *Block, replaced map[int]*Order) {
	if len(replaced) == 0 {
		return
	}
	old := block.Parts
	block.Parts = b.layout.noParts()
	for row := range block.IDs {
		if o, other := replaced[row]; other {
			b.appendParts(block, *o)
			continue
		}
		for p := range block.Parts {
			from, to := old[p].Of(row)
			for c := range block.Parts[p].Columns {
				cells, was := &block.Parts[p].Columns[c], old[p].Columns[c]
				switch {
				case was.Codes != nil:
					cells.Codes = append(cells.Codes, was.Codes[from:to]...)
				case was.Texts != nil:
					cells.Texts = append(cells.Texts, was.Texts[from:to]...)
				default:
					cells.Numbers, cells.Given = append(cells.Numbers, was.Numbers[from:to]...), cells.Given || was.Given
				}
			}
			starts := &block.Parts[p].Starts
			*starts = append(*starts, (*starts)[len(*starts)-1]+uint32(to-from))
		}
		next, was := &block.Parts[Statuses], &old[Statuses]
		from, to := was.Of(row)
		before := len(next.Columns[StatusName].Codes) - (to - from)
		next.Instants = appendSparse(next.Instants, before, sparse(was.Instants, from, to)...)
		next.Clocks = appendSparse(next.Clocks, before, sparse(was.Clocks, from, to)...)
		next.Sequenced = next.Sequenced || was.Sequenced
	}
}

// PartColumns lists the columns of a part: those that records bring, then those that are told from them.
func (b *Book) PartColumns(p Part) []PartColumn {
	if b.partColumns[p] != nil {
		return b.partColumns[p]
	}
	columns := slices.Clip(b.layout.PartColumns(p))
	if p == Lines {
		columns = append(columns, b.toldOfLines...)
	}
	return columns
}

// The days on which all of a line was shipped and delivered, as conditions on lines and groupings name them; WithLineDays adds
// them.
const (
	AllShipped   = "shipped"
	AllDelivered = "delivered"
)

// WithLineDays is the book with one more column of its lines: a day for each, None where there is none, by block. The book
// itself stays as it is.
func (b *Book) WithLineDays(name string, days [][]int64) *Book {
	next, at := *b, len(b.PartColumns(Lines))
	next.toldOfLines = append(slices.Clip(b.toldOfLines), PartColumn{name, OnDay})
	next.parts[Lines] = append(slices.Clip(b.parts[Lines]), dictionary{})
	next.blocks = slices.Clone(b.blocks)
	for i, block := range next.blocks {
		wider := *block
		wider.Parts[Lines].Columns = append(slices.Clip(block.Parts[Lines].Columns[:at]), Cells{Numbers: days[i], Given: true})
		next.blocks[i] = &wider
	}
	return &next
}

// WithColumnsOf is the book with other columns of a part, each with its values by code where it is coded: for whoever makes such
// parts of a block by himself and asks for a condition on them. It has no orders; the book itself stays as it is.
func (b *Book) WithColumnsOf(p Part, columns []PartColumn, values [][]string) *Book {
	next := *b
	next.blocks, next.partColumns[p], next.parts[p] = nil, columns, make([]dictionary, len(columns))
	for i := range columns {
		next.parts[p][i].values = values[i]
		next.parts[p][i].finish()
	}
	return &next
}

// PartValues lists the values of a coded column of a part, by code; code 0 is none.
func (b *Book) PartValues(p Part, column int) []string { return b.parts[p][column].values }

// PartRanks gives the places of those values in their natural order, by code.
func (b *Book) PartRanks(p Part, column int) []uint32 { return b.parts[p][column].ranks() }

// NoLine is the code of a line that no order has.
const NoLine = math.MaxUint32

// LinesOfShipments gives for each code of a shipment's line that of the order line with the same number; NoLine where no order
// has one.
func (b *Book) LinesOfShipments() (lineOf []uint32) {
	codes := map[string]uint32{}
	for code, text := range b.PartValues(Lines, LineNumber) {
		codes[text] = uint32(code)
	}
	for _, text := range b.PartValues(Shipments, ShipmentLine) {
		code, known := codes[text]
		if !known {
			code = NoLine
		}
		lineOf = append(lineOf, code)
	}
	return lineOf
}

// partsAt gives an order its parts.
func (b *Book) partsAt(o *Order, block *Block, row int) {
	text := func(p Part, column, at int) string {
		return b.parts[p][column].values[block.Parts[p].Columns[column].Codes[at]]
	}
	number := func(p Part, column, at int) (int64, bool) {
		n := block.Parts[p].Columns[column].Numbers[at]
		if n == None {
			return 0, false
		}
		return n, true
	}
	quantity := func(p Part, column, at int) parts.Quantity {
		n, known := number(p, column, at)
		return parts.Quantity{Thousandths: n, Known: known}
	}
	on := func(p Part, column, at int) parts.Day {
		n, _ := number(p, column, at)
		return parts.Day{Day: day.Day(n)}
	}
	from, to := block.Parts[Lines].Of(row)
	for i := from; i < to; i++ {
		l := parts.Line{Number: text(Lines, LineNumber, i), Product: text(Lines, LineProduct, i), Units: quantity(Lines, LineUnits, i),
			Cancelled: quantity(Lines, LineCancelled, i), Shipped: on(Lines, LineShipped, i), Delivered: on(Lines, LineDelivered, i),
			CancelledOn: on(Lines, LineCancelledOn, i)}
		l.Value, l.Valued = number(Lines, LineValue, i)
		for c := range b.layout.LineExtra {
			l.Extra = append(l.Extra, text(Lines, len(partColumns[Lines])+c, i))
		}
		o.Lines = append(o.Lines, l)
	}
	from, to = block.Parts[Shipments].Of(row)
	for i := from; i < to; i++ {
		o.Shipments = append(o.Shipments, parts.Shipment{Number: block.Parts[Shipments].Columns[0].Texts[i],
			Carrier: text(Shipments, 1, i), Line: text(Shipments, 2, i),
			Units: quantity(Shipments, 3, i), Shipped: on(Shipments, 4, i), Delivered: on(Shipments, 5, i)})
	}
	from, to = block.Parts[Payments].Of(row)
	for i := from; i < to; i++ {
		p := parts.Payment{Receipt: block.Parts[Payments].Columns[0].Texts[i], Paid: on(Payments, 1, i), Currency: text(Payments, 3, i)}
		p.Amount, p.Known = number(Payments, 2, i)
		o.Payments = append(o.Payments, p)
	}
	from, to = block.Parts[Statuses].Of(row)
	for i := from; i < to; i++ {
		at := on(Statuses, StatusAt, i)
		at.At = block.Parts[Statuses].InstantAt(i)
		o.Statuses = append(o.Statuses, parts.StatusRecord{Status: text(Statuses, StatusName, i), At: at,
			Clock: block.Parts[Statuses].ClockAt(i), Sequence: quantity(Statuses, StatusSequence, i),
			Source: text(Statuses, StatusSource, i)})
	}
}
