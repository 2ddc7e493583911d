package crosstab

import (
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/immediate"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
)

// A plan is a question resolved against a book: indexes and tables instead of names.
type plan struct {
	book               *book.Book
	question           Question
	scope              *query.Scope
	reader             *duration.Reader
	goods              *goods
	bases              []int // milestones' indexes
	owned              []int // by basis: which of the goods' own days it is; −1 the order's
	ordered, requested int
	meets              *predicate.Bound
	of                 book.Part        // what lies in rows and columns by itself
	picks              *predicate.Bound // the parts that are counted; nil where all are
	picksByMissing     *predicate.Bound // parts that lack one of two values which that compares with !=; nil
	byMissing          *predicate.Bound // of a share: picks orders that lack one of two values which a condition compares with !=; nil
	axes               [2]*query.Axis   // of rows and columns; nil where there is none
	coded              [2]coding
	rows, columns      int
	anyOwned           bool // some basis is a day of the goods' own
	asksOwned          [owned]bool
	byPart             bool // parts of an order can lie in several rows or columns
	lanes              int  // numbers in a cell: currencies, or some and all of a share
	first, last        day.Day
	days               int
	// rowOf gives each row the one that stands for it, where the first ones alone are shown; nil is itself.
	rowOf []uint32
}

func newPlan(b *book.Book, q Question) *plan {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	alone := q.Question
	alone.By, alone.Basis = nil, q.Bases[0]
	p := &plan{book: b, question: q, scope: query.WholeBook(b, alone), of: q.part(), reader: duration.NewReader(b, alone), goods: newGoods(b),
		ordered: index(milestone.Ordered), requested: index(milestone.Requested), lanes: 1,
		first: q.Period.Span.From, last: q.Period.Span.LastDay()}
	axisPeriod := q.Period
	if q.Period.Unbounded() {
		axisPeriod.Text, axisPeriod.Span = p.first.String()+"/"+p.last.String(), day.Through(p.first, p.last)
	}
	p.days = int(p.last-p.first) + 1
	for _, m := range q.Bases {
		p.bases = append(p.bases, index(m.Name))
		own := q.Show.Kind.ownDay(m)
		if own >= 0 {
			p.asksOwned[own], p.anyOwned = true, true
		}
		p.owned = append(p.owned, own)
	}
	if q.Parts.Condition != nil {
		p.picks = q.Parts.Bind(b, q.Parts.Condition)
		if lacking := predicate.UnequalToMissing(q.Parts.Condition); lacking != nil {
			p.picksByMissing = q.Parts.Bind(b, lacking)
		}
	}
	switch q.Show.Kind {
	case Value:
		p.lanes = len(b.Values(book.Currency))
	case Meeting:
		p.meets = q.Show.Meets.Bind(b, q.Show.Meets.Condition)
		both := q.Show.Meets.Condition
		if q.Where.Condition != nil {
			both = predicate.And{X: q.Where.Condition, Y: both}
		}
		if lacking := predicate.UnequalToMissing(both); lacking != nil {
			p.byMissing = q.Show.Meets.Bind(b, lacking)
		}
	}
	if q.Show.Kind.Share() {
		p.lanes = 2 // some, and all
	}
	counts := [2]*int{&p.rows, &p.columns}
	for i, g := range []*query.Grouping{q.Rows, q.Columns} {
		*counts[i] = 1
		if g == nil {
			continue
		}
		made := *g
		if made.Cut == query.MonthOfYear {
			made.Cut = query.Month // so that whole months and parts are told apart
		}
		basis := p.bases[0]
		switch {
		case made.Of == q.Bases[0].Name && len(q.Bases) == 1:
			made.Of = "" // parts lie in the step of their own day, not of their order's
		case made.Of != "":
			basis = -1 // what another date places in the period can have any day of this one
		}
		axis := query.NewAxis(b, made, basis, axisPeriod)
		p.axes[i], *counts[i], p.byPart = axis, len(axis.Labels), p.byPart || axis.OfParts()
		switch {
		case axis.OfParts():
			p.coded[i] = ofParts
		case axis.OfBasis():
			p.coded[i] = ofBasis
		default:
			p.coded[i] = ofOrders
		}
	}
	return p
}

// A coding says what has the codes of an axis.
type coding uint8

const (
	ofNothing coding = iota
	ofParts
	ofBasis // by the day on which a basis places something
	ofOrders
)

// placed is where a day lies to the days asked about; why is the reason where it is not known.
func (p *plan) placed(d day.Day, why place) place {
	switch {
	case d == 0:
		return why
	case d < p.first:
		return before
	case d > p.last:
		return after
	}
	return inside
}

// A tally is what one worker has counted.
type tally struct {
	plan *plan
	// cells are by basis, row, column and lane; margins of rows, of columns and of all count an order once, where an order
	// can lie in several cells.
	cells, rows, columns []int64
	all                  []int64 // by basis and lane
	off                  []int64 // by basis, place and lane: what lies in each place, inside too
	orders               []int   // by basis, place and lane: orders with something there
	bridge               []int64 // by basis, place of the first, place of it, and lane; of four places
	withDay              []bool  // by basis, lane and day: something lies there, orders without the figure too
	lengths              [4]distribution.List
	missing              [4][]int64 // orders inside without the figure, as cells, rows, columns and all are
	uncounted            []int      // by basis: orders inside without what is counted: no length, or undecided
	several              int        // orders that lie in more than one row or column
	metByMissing         int        // of a share; see Answer
	calendars            []bool
	withoutUnits         int   // lines whose units are not known
	withoutValue         int   // orders whose value is not known
	withoutParts         int   // orders without a part of those that are counted
	differing            int   // orders whose value differs from the sum of their lines, where that is placed by goods
	inCurrency           []int // orders with a value, by currency
	decided              PartCounts
	chosen               chosenParts
	outside              []int64 // takes what is in no cell, where looking costs more than adding
	kept                 []int64 // amounts of parts that are picked
	spool                spool
	codes                [2][query.StretchRows]uint32
	seen                 []uint32 // cells of one order
}

// The bridge knows four places: before, inside, after and none.
const bridgePlaces = 4

func bridgePlace(at place) int {
	switch at {
	case before:
		return 0
	case inside:
		return 1
	case after:
		return 2
	}
	return 3
}

func (p *plan) newTally() *tally {
	bases, cells := len(p.bases), p.rows*p.columns*p.lanes
	t := &tally{plan: p, all: make([]int64, bases*p.lanes), off: make([]int64, bases*int(places)*p.lanes),
		orders: make([]int, bases*int(places)*p.lanes),
		bridge: make([]int64, bases*bridgePlaces*bridgePlaces*p.lanes), withDay: make([]bool, bases*p.lanes*p.days),
		uncounted: make([]int, bases), calendars: make([]bool, len(p.book.Locals(book.AtSite))),
		inCurrency: make([]int, len(p.book.Values(book.Currency)))}
	if p.question.Show.Kind != Length {
		t.cells, t.rows, t.columns = make([]int64, bases*cells), make([]int64, bases*p.rows*p.lanes), make([]int64, bases*p.columns*p.lanes)
	}
	if p.question.Show.Kind == Units {
		t.outside = make([]int64, cells)
	}
	if !p.question.Show.Kind.AddsUp() {
		t.missing = [4][]int64{make([]int64, bases*p.rows*p.columns), make([]int64, bases*p.rows), make([]int64, bases*p.columns),
			make([]int64, bases)}
	}
	return t
}

// Merge adds what another worker has counted.
func (t *tally) Merge(o *tally) {
	sum := func(into, from []int64) {
		for i, n := range from {
			into[i] += n
		}
	}
	sum(t.cells, o.cells)
	sum(t.rows, o.rows)
	sum(t.columns, o.columns)
	sum(t.all, o.all)
	sum(t.off, o.off)
	sum(t.bridge, o.bridge)
	for i, n := range o.orders {
		t.orders[i] += n
	}
	for i, n := range o.uncounted {
		t.uncounted[i] += n
	}
	for i, is := range o.withDay {
		t.withDay[i] = t.withDay[i] || is
	}
	for i, is := range o.calendars {
		t.calendars[i] = t.calendars[i] || is
	}
	for i := range t.lengths {
		t.lengths[i].Join(o.lengths[i])
		sum(t.missing[i], o.missing[i])
	}
	t.several, t.metByMissing = t.several+o.several, t.metByMissing+o.metByMissing
	t.differing += o.differing
	t.decided.add(o.decided)
	t.withoutUnits, t.withoutValue, t.withoutParts = t.withoutUnits+o.withoutUnits, t.withoutValue+o.withoutValue,
		t.withoutParts+o.withoutParts
	for i, n := range o.inCurrency {
		t.inCurrency[i] += n
	}
}

// scan counts all orders that the question is about.
func (p *plan) scan() (*tally, query.Population) { return query.Run(p.scope, p.newTally) }

// Visit counts a stretch of orders.
func (t *tally) Visit(s *query.Stretch) {
	var codes [2][]uint32
	p := t.plan
	for i, axis := range p.axes {
		switch p.coded[i] {
		case ofParts:
			codes[i] = axis.PartCodes(s.Block)
		case ofOrders:
			codes[i] = axis.Codes(s.Block, s.From, s.To, t.codes[i][:])
		}
	}
	if p.picks != nil {
		t.chosen.decide(p, s.Block, s.From, s.To)
	}
	unitsInRows := p.question.Show.Kind == Units && len(p.bases) == 1 && p.coded[0] == ofParts && p.coded[1] != ofParts && p.rowOf == nil
	goods, eachPart := p.question.Show.Kind.OfGoods(), p.question.Show.Kind.OfParts()
	at, sites := &cursor{block: s.Block, codes: codes}, s.Block.Codes[book.Site]
	few := uint64(0) // of the first sites, those that are met: most books have no more
	for _, i := range s.Chosen() {
		at.row, at.in = s.From+int(i), int(i)
		if site := sites[at.row]; site < 64 {
			few |= 1 << site
		} else {
			t.calendars[site] = true
		}
		if p.picks != nil && p.choose(t, at) {
			continue
		}
		switch {
		case unitsInRows && p.countUnits(t, at):
		case goods && !unitsInRows && p.countAlike(t, at):
		case eachPart:
			p.countParts(t, at)
		default:
			p.countOrder(t, at)
		}
		if p.byMissing != nil && p.meets.One(s.Block, at.row) == predicate.True && p.byMissing.One(s.Block, at.row) == predicate.True {
			t.metByMissing++
		}
	}
	for site := range t.calendars[:min(64, len(t.calendars))] {
		t.calendars[site] = t.calendars[site] || few>>site&1 == 1
	}
}

// A cursor is an order that is looked at.
type cursor struct {
	block   *book.Block
	row, in int // row of the block, and place in the chunk
	codes   [2][]uint32
}

// code is that of one axis for an order, or one of its parts, that a basis places on a day.
func (p *plan) code(axis int, at *cursor, part int, d day.Day) (code uint32) {
	switch p.coded[axis] {
	case ofBasis:
		code = p.axes[axis].On(d)
	case ofOrders:
		code = at.codes[axis][at.in]
	case ofParts:
		if part >= 0 {
			code = at.codes[axis][part]
		}
	}
	if axis == 0 && p.rowOf != nil {
		return p.rowOf[code]
	}
	return code
}

// orderDay is the day of an order by a basis, and its place.
func (p *plan) orderDay(at *cursor, k int) (day.Day, place) {
	m := p.bases[k]
	d := at.block.Columns[m].Known[at.row]
	if d != 0 {
		return d, p.placed(d, noDay)
	}
	return 0, p.goods.why(at.block, at.row, m, p.question.Bases[k])
}

// placeAt is where the numbers of a place of a basis lie.
func (p *plan) placeAt(k int, at place, lane int) int {
	return (k*int(places)+int(at))*p.lanes + lane
}

// dayAt is where it is noted that something lies in a day asked about.
func (p *plan) dayAt(k, lane int, d day.Day) int {
	return (k*p.lanes+lane)*p.days + int(d-p.first)
}

// A spot is where goods lie by a date: their day and its place, and inside the days asked about their row and column.
type spot struct {
	place       place
	day         day.Day
	row, column uint32
}

// put counts an amount of goods.
func (p *plan) put(t *tally, k, lane int, at spot, amount int64) {
	t.off[p.placeAt(k, at.place, lane)] += amount
	if at.place != inside {
		return
	}
	t.cells[((k*p.rows+int(at.row))*p.columns+int(at.column))*p.lanes+lane] += amount
	if amount != 0 {
		t.withDay[p.dayAt(k, lane, at.day)] = true
	}
}

// crossAt is where an amount lies in the bridge of the first basis and another.
func (p *plan) crossAt(k, lane int, first, other place) int {
	return ((k*bridgePlaces+bridgePlace(first))*bridgePlaces+bridgePlace(other))*p.lanes + lane
}

// countAlike counts the goods of an order all of which have the same days, in a short loop over its lines; false for any other
// order.
func (p *plan) countAlike(t *tally, at *cursor) bool {
	kind, lane := p.question.Show.Kind, 0
	lines := &at.block.Parts[book.Lines]
	from, to := lines.Of(at.row)
	units := lines.Columns[book.LineUnits].Numbers[from:to]
	amounts, all, unknown := units, int64(0), 0 // by line, and their sum
	if kind == Units && p.picks != nil {
		t.kept, all, unknown = t.chosen.unitsOf(units, t.kept)
		amounts = t.kept
	} else {
		for _, n := range units {
			if n == book.None {
				unknown++
				continue
			}
			all += n
		}
	}
	// Lines without units go with the order as a whole, and not with its shipment: their lines and values may lie elsewhere.
	var whole piece
	if p.anyOwned && (kind != Units && (unknown > 0 || slices.Contains(units, 0)) || kind == Value && p.goods.Differs(at.block, at.row) ||
		!p.goods.alike(at.block, at.row, &p.asksOwned, &whole)) {
		return false
	}
	switch kind {
	case Units:
		if t.withoutUnits += unknown; unknown > 0 && p.picks == nil {
			amounts = t.spool.knownUnits(units)
		}
	case Lines:
		all, amounts = int64(to-from), t.spool.ones(to-from)
	case Value:
		if !at.block.Valued[at.row] {
			t.withoutValue++
			return true
		}
		if all, lane = at.block.Values[at.row], int(at.block.Codes[book.Currency][at.row]); all == 0 && p.goods.Differs(at.block, at.row) {
			return false // its lines are worth something
		}
		t.inCurrency[lane]++
		if (p.byPart || p.picks != nil) && from < to {
			var difference int64
			if amounts, difference = p.goods.Worths(at.block, at.row, &t.spool.space); difference != 0 {
				t.inCurrency[lane]--
				return false // the difference lies under no line
			}
		}
	}
	if from == to {
		t.withoutParts++
	}
	if p.picks != nil && kind != Units && (!t.chosen.all || from == to) {
		t.kept, all = t.chosen.only(amounts, t.kept)
		amounts = t.kept
	}
	var first place
	for k := range p.bases {
		d, where := p.pieceDay(at, k, &whole)
		if k == 0 {
			first = where
		}
		t.bridge[p.crossAt(k, lane, first, where)] += all
		if all == 0 {
			continue
		}
		t.orders[p.placeAt(k, where, lane)]++
		if where != inside || !p.byPart || from == to {
			p.put(t, k, lane, spot{where, d, p.code(0, at, -1, d), p.code(1, at, -1, d)}, all)
			continue
		}
		t.off[p.placeAt(k, where, lane)] += all
		t.withDay[p.dayAt(k, lane, d)] = true
		rows, columns := p.lineCodes(0, at, from, to), p.lineCodes(1, at, from, to)
		row, column := p.code(0, at, -1, d), p.code(1, at, -1, d)
		stride := p.columns * p.lanes
		cells := t.cells[k*p.rows*stride:][:p.rows*stride]
		if columns == nil && p.rowOf == nil { // the rows are of lines
			own := cells[int(column)*p.lanes+lane:]
			for i, amount := range amounts {
				own[int(rows[i])*stride] += amount
			}
			continue
		}
		for i, amount := range amounts {
			if rows != nil {
				if row = rows[i]; p.rowOf != nil {
					row = p.rowOf[row]
				}
			}
			if columns != nil {
				column = columns[i]
			}
			cells[int(row)*stride+int(column)*p.lanes+lane] += amount
		}
	}
	return true
}

// lineCodes are the codes of an order's lines; nil where orders have the codes of an axis.
func (p *plan) lineCodes(axis int, at *cursor, from, to int) []uint32 {
	if p.coded[axis] != ofParts {
		return nil
	}
	return at.codes[axis][from:to]
}

// countParts counts the goods of an order, or its other parts, by their pieces.
func (p *plan) countParts(t *tally, at *cursor) {
	kind, lane := p.question.Show.Kind, 0
	parts := &at.block.Parts[p.of]
	from, to := parts.Of(at.row)
	if from == to {
		t.withoutParts++
	}
	for l := from; l < to; l++ {
		if kind == Units && parts.Columns[book.LineUnits].Numbers[l] == book.None && (p.picks == nil ||
			t.chosen.met[l-from] == predicate.True) {
			t.withoutUnits++
		}
	}
	if kind == Value {
		if !at.block.Valued[at.row] {
			t.withoutValue++
			return
		}
		lane = int(at.block.Codes[book.Currency][at.row])
		t.inCurrency[lane]++
	}
	pieces := p.pieces(at, &t.spool)
	if kind == Value && p.goods.Differs(at.block, at.row) {
		t.differing++
	}
	if p.picks != nil {
		pieces = t.chosen.pieces(pieces, from)
	}
	for k := range p.bases {
		var sums [places]int64
		for i := range pieces {
			piece := &pieces[i]
			amount := piece.amount(kind)
			d, where := p.pieceDay(at, k, piece)
			_, first := p.pieceDay(at, 0, piece)
			t.bridge[p.crossAt(k, lane, first, where)] += amount
			sums[where] += amount
			p.put(t, k, lane, spot{where, d, p.code(0, at, piece.part, d), p.code(1, at, piece.part, d)}, amount)
		}
		for where, amount := range sums {
			if amount != 0 {
				t.orders[p.placeAt(k, place(where), lane)]++
			}
		}
	}
}

// pieces are those of an order that are counted, but for a condition on them.
func (p *plan) pieces(at *cursor, s *spool) []piece {
	kind := p.question.Show.Kind
	if !kind.OfGoods() {
		return p.goods.parts(p.of, at.block, at.row, s)
	}
	pieces := p.goods.pieces(at.block, at.row, s)
	if kind == Lines {
		from, to := at.block.Parts[book.Lines].Of(at.row)
		return linesOf(pieces, from, to)
	}
	return pieces
}

// amount is what a piece adds to a figure of goods.
func (of *piece) amount(kind Kind) int64 {
	switch kind {
	case Units:
		return of.units
	case Value:
		return of.value
	}
	return 1
}

// pieceDay is the day on which a basis places a piece of an order. By the order's own days what was shipped beyond what was
// ordered is not there.
func (p *plan) pieceDay(at *cursor, k int, of *piece) (day.Day, place) {
	own := p.owned[k]
	if own < 0 {
		return p.orderDay(at, k)
	}
	if d := of.days[own]; d != 0 {
		return d, p.placed(d, noDay)
	}
	return 0, of.why[own]
}

// linesOf turns the pieces of an order into its lines: a line has come when the last of its pieces has; what was cancelled of
// it is waited for no more, unless all of it was.
func linesOf(pieces []piece, from, to int) []piece {
	whole := make([]piece, 0, to-from)
	for l := from; l < to; l++ {
		line, found := piece{part: l}, false
		for _, p := range pieces {
			switch {
			case p.part != l, p.beyond: // what was never ordered does not move the day of what was
				continue
			case !found:
				line.days, line.why, found = p.days, p.why, true
				continue
			}
			for i := range owned {
				goneBefore, gone := line.days[i] == 0 && line.why[i] == cancelled, p.days[i] == 0 && p.why[i] == cancelled
				switch {
				case gone:
				case goneBefore:
					line.days[i], line.why[i] = p.days[i], p.why[i]
				case p.days[i] == 0 || line.days[i] == 0:
					if line.days[i] != 0 {
						line.why[i] = p.why[i]
					}
					line.days[i] = 0
				default:
					line.days[i] = max(line.days[i], p.days[i])
				}
			}
		}
		whole = append(whole, line)
	}
	return whole
}

// countOrder counts an order as a whole, once in each cell in which it has a line, and once in the sums.
func (p *plan) countOrder(t *tally, at *cursor) {
	f := p.figure(at)
	var first place
	for k := range p.bases {
		d, where := p.orderDay(at, k)
		if k == 0 {
			first = where
		}
		t.orders[p.placeAt(k, where, 0)]++
		if where == inside {
			t.withDay[p.dayAt(k, 0, d)] = true
			if !f.counted {
				t.uncounted[k]++
			}
		}
		if f.counted {
			for lane := range p.lanes {
				t.off[p.placeAt(k, where, lane)] += f.values[lane]
				t.bridge[p.crossAt(k, lane, first, where)] += f.values[lane]
			}
		}
		if where == inside {
			p.countCells(t, at, k, d, f)
		}
	}
}

// A figured order is what it adds to its cells, or its length.
type figured struct {
	values  [2]int64 // some, and all, of a share
	ticks   int
	counted bool // it has the figure
}

// someOf is a share of one order.
func someOf(some, counted bool) figured {
	f := figured{values: [2]int64{0, 1}, counted: counted}
	if some {
		f.values[0] = 1
	}
	return f
}

// figure is what an order as a whole adds to its cells.
func (p *plan) figure(at *cursor) figured {
	switch p.question.Show.Kind {
	case Length:
		ticks, counted := p.reader.Length(at.block, at.row)
		return figured{ticks: ticks, counted: counted}
	case Meeting:
		truth := p.meets.One(at.block, at.row)
		return someOf(truth == predicate.True, truth != predicate.Undecided)
	case OneShipment:
		left := p.shipmentsOf(at)
		return someOf(left == 1, left > 0 && at.block.Columns[p.goods.milestones[byShipment]].Known[at.row] != 0)
	case Immediate:
		ordered := at.block.Columns[p.ordered].Known[at.row]
		asked := immediate.AskedOf(ordered, at.block.Columns[p.requested].Known[at.row])
		now := asked == immediate.Immediate
		return someOf(now, ordered != 0 && (now || asked == immediate.BookedAhead))
	}
	return figured{values: [2]int64{1}, counted: true}
}

// shipmentsOf is how many shipments of an order have left.
func (p *plan) shipmentsOf(at *cursor) (left int) {
	shipments := &at.block.Parts[book.Shipments]
	from, to := shipments.Of(at.row)
	for _, raw := range shipments.Columns[book.ShipmentShipped].Numbers[from:to] {
		if p.goods.known(raw) != 0 {
			left++
		}
	}
	return left
}

// countCells counts an order once in each cell, row and column in which it lies.
func (p *plan) countCells(t *tally, at *cursor, k int, d day.Day, f figured) {
	from, to := at.block.Parts[p.of].Of(at.row)
	if !p.byPart || from == to {
		from, to = -1, 0
	}
	const ofCells, ofRows, ofColumns, ofAll = 0, 1, 2, 3
	count := func(list int, cells []int64, group int) {
		if !f.counted {
			t.missing[list][group]++
			return
		}
		if p.question.Show.Kind == Length {
			t.lengths[list].Add(distribution.NewItem(uint32(group), f.ticks, 0))
			return
		}
		for lane := range p.lanes {
			cells[group*p.lanes+lane] += f.values[lane]
		}
	}
	t.seen = t.seen[:0]
	for l := from; l < to; l++ {
		row, column := p.code(0, at, l, d), p.code(1, at, l, d)
		newCell, newRow, newColumn := true, true, true
		for i := 0; i < len(t.seen); i += 2 {
			newRow, newColumn = newRow && t.seen[i] != row, newColumn && t.seen[i+1] != column
			newCell = newCell && (t.seen[i] != row || t.seen[i+1] != column)
		}
		if !newCell {
			continue
		}
		t.seen = append(t.seen, row, column)
		count(ofCells, t.cells, (k*p.rows+int(row))*p.columns+int(column))
		if newRow {
			count(ofRows, t.rows, k*p.rows+int(row))
		}
		if newColumn {
			count(ofColumns, t.columns, k*p.columns+int(column))
		}
	}
	count(ofAll, t.all, k)
	if len(t.seen) > 2 && k == 0 {
		t.several++
	}
}
