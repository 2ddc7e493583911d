package predicate

import (
	"cmp"
	"fmt"
	"sync"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
)

// Chunk is the most orders that are decided at a time.
const Chunk = 1 << 11

// A Bound condition decides the orders of one book.
type Bound struct{ root bound }

// Bind resolves the names of a condition. The decimals of a currency say how many minor units its unit has; a name that
// the book does not have panics, since whoever made the condition has looked it up.
func Bind(b *book.Book, c Condition, decimals func(currency string) int) Bound {
	return Bound{c.bind(&binder{b, decimals})}
}

// Decide decides a stretch of at most Chunk orders of a block, from one on: out[i] is the order from+i.
func (b Bound) Decide(block *book.Block, from int, out []Truth) { b.root.decide(block, from, out) }

// One decides a single order.
func (b Bound) One(block *book.Block, row int) Truth {
	return b.OneAt(&Place{Block: block, Row: row})
}

// OneAt is One for whoever looks at many orders.
func (b Bound) OneAt(p *Place) Truth { return b.root.one(p) }

// Lacks names what an undecided order lacks, as far as the condition asks for it.
func (b Bound) Lacks(block *book.Block, row int) string {
	return b.LacksAt(&Place{Block: block, Row: row})
}

// LacksAt is Lacks for whoever looks at many orders.
func (b Bound) LacksAt(p *Place) string { return b.root.lacks(p) }

// Parts decides for each part of a kind of a stretch of orders, from one row up to before another.
func (b Bound) Parts(of book.Part, block *book.Block, from, to int, out []Truth) {
	b.root.parts(&stretch{of, block, from, to}, out)
}

// A stretch is the parts of a kind of some orders, from one row up to before another.
type stretch struct {
	of       book.Part
	block    *book.Block
	from, to int
}

// starts are where the parts of each order begin, and where those of the last one end.
func (s *stretch) starts() []uint32 { return s.block.Parts[s.of].Starts[s.from : s.to+1] }

// A Place is an order of a block, and the line, shipment and payment that is looked at, as their places in the block.
type Place struct {
	Block *book.Block
	Row   int
	Part  [book.Parts]int
}

type bound interface {
	decide(block *book.Block, from int, out []Truth)
	one(*Place) Truth // decide for a single order
	// parts decides for the parts of a stretch.
	parts(s *stretch, out []Truth)
	lacks(*Place) string // empty where the order is decided
}

type binder struct {
	book     *book.Book
	decimals func(string) int
}

func (b *binder) milestone(name string) int {
	i := milestone.Index(b.book.Milestones(), name)
	if i < 0 {
		panic(fmt.Sprintf("predicate: the book has no milestone %q", name))
	}
	return i
}

// both are two conditions and what their truths come to.
type both struct {
	x, y  bound
	truth truthTable
}

// A truthTable has a row of four for each truth of the first side, so that a place in it is made of bits.
type truthTable [16]Truth

func (t *truthTable) of(x, y Truth) Truth { return t[(x<<2|y)&15] }

var (
	andTruth = truthTable{False, False, False, 0, False, True, Undecided, 0, False, Undecided, Undecided, 0}
	orTruth  = truthTable{False, True, Undecided, 0, True, True, True, 0, Undecided, True, Undecided, 0}
)

func (c And) bind(b *binder) bound { return both{c.X.bind(b), c.Y.bind(b), andTruth} }
func (c Or) bind(b *binder) bound  { return both{c.X.bind(b), c.Y.bind(b), orTruth} }

// spaces hold what second sides come to.
var spaces = sync.Pool{New: func() any { return new([Chunk]Truth) }}

func (c both) decide(block *book.Block, from int, out []Truth) {
	space := spaces.Get().(*[Chunk]Truth)
	defer spaces.Put(space)
	y := space[:len(out)]
	c.x.decide(block, from, out)
	c.y.decide(block, from, y)
	for i, x := range out {
		out[i] = c.truth.of(x, y[i])
	}
}

func (c both) one(p *Place) Truth {
	return c.truth.of(c.x.one(p), c.y.one(p))
}

func (c both) parts(s *stretch, out []Truth) {
	c.x.parts(s, out)
	other := make([]Truth, len(out))
	c.y.parts(s, other)
	for i, y := range other {
		out[i] = c.truth.of(out[i], y)
	}
}

func (c both) lacks(p *Place) string {
	if c.one(p) != Undecided {
		return ""
	}
	return cmp.Or(c.x.lacks(p), c.y.lacks(p))
}

type not struct{ x bound }

func (c Not) bind(b *binder) bound { return not{c.X.bind(b)} }

var turned = [3]Truth{False: True, True: False, Undecided: Undecided}

func (c not) decide(block *book.Block, from int, out []Truth) {
	c.x.decide(block, from, out)
	for i, x := range out {
		out[i] = turned[x]
	}
}

func (c not) one(p *Place) Truth { return turned[c.x.one(p)] }

func (c not) parts(s *stretch, out []Truth) {
	c.x.parts(s, out)
	for i, x := range out {
		out[i] = turned[x]
	}
}

func (c not) lacks(p *Place) string { return c.x.lacks(p) }

type always Truth

func (c Always) bind(*binder) bound {
	if c {
		return always(True)
	}
	return always(False)
}

func (c always) decide(_ *book.Block, _ int, out []Truth) {
	for i := range out {
		out[i] = Truth(c)
	}
}

func (c always) one(*Place) Truth { return Truth(c) }

func (c always) parts(_ *stretch, out []Truth) {
	for i := range out {
		out[i] = Truth(c)
	}
}

func (c always) lacks(*Place) string { return "" }

// leaf is a condition that a function decides for each order by itself.
type leaf struct {
	decides func(*Place) Truth
	// wants are the operands whose want leaves an order undecided.
	wants []operand
	// column decides for parts by their column; nil where each is looked at by itself.
	column func(s *stretch, out []Truth)
}

func (l leaf) decide(block *book.Block, from int, out []Truth) {
	p := Place{Block: block}
	for i := range out {
		p.Row = from + i
		out[i] = l.decides(&p)
	}
}

func (l leaf) one(p *Place) Truth { return l.decides(p) }

func (l leaf) parts(s *stretch, out []Truth) {
	if l.column != nil {
		l.column(s, out)
		return
	}
	s.each(out, l.decides)
}

// each decides about one part after another.
func (s *stretch) each(out []Truth, decides func(*Place) Truth) {
	p, starts := Place{Block: s.block}, s.starts()
	for i := range s.to - s.from {
		p.Row = s.from + i
		for at := starts[i]; at < starts[i+1]; at++ {
			p.Part[s.of] = int(at)
			out[at-starts[0]] = decides(&p)
		}
	}
}

// eachOrder decides about all parts of an order alike.
func (s *stretch) eachOrder(out []Truth, decides func(*Place) Truth) {
	p, starts := Place{Block: s.block}, s.starts()
	for i := range s.to - s.from {
		if starts[i] == starts[i+1] {
			continue
		}
		p.Row = s.from + i
		truth := decides(&p)
		for at := starts[i]; at < starts[i+1]; at++ {
			out[at-starts[0]] = truth
		}
	}
}

func (l leaf) lacks(p *Place) string {
	if l.decides(p) != Undecided {
		return ""
	}
	for _, o := range l.wants {
		if kind := o.at(p).kind; kind == Missing || kind == unknown {
			return o.lacks(p)
		}
	}
	return ""
}

// coded is a condition on one field, decided once for each of its values.
type coded struct {
	leaf
	field  int
	truths []Truth // by code
}

func (c coded) decide(block *book.Block, from int, out []Truth) {
	codes := block.Codes[c.field][from : from+len(out)]
	for i, code := range codes {
		out[i] = c.truths[code]
	}
}

func (c coded) one(p *Place) Truth { return c.truths[p.Block.Codes[c.field][p.Row]] }

func (c coded) parts(s *stretch, out []Truth) { s.eachOrder(out, c.one) }

func (c coded) lacks(p *Place) string {
	if c.one(p) != Undecided {
		return ""
	}
	return c.wants[0].lacks(p)
}

// ranged is a comparison of a milestone with a day.
type ranged struct {
	leaf
	day int
	daysRange
}

func (c ranged) decide(block *book.Block, from int, out []Truth) {
	low, width, inside, outside, none := c.from, c.width, int(c.inside), int(True-c.inside), int(c.none) // as in each
	for i, d := range block.Columns[c.day].Known[from:][:len(out)] {
		truth := outside
		if uint32(d)-low < width {
			truth = inside
		}
		if d == 0 {
			truth = none
		}
		out[i] = Truth(truth)
	}
}

func (c ranged) parts(s *stretch, out []Truth) { s.eachOrder(out, c.one) }

func (c ranged) one(p *Place) Truth {
	switch d := p.Block.Columns[c.day].Known[p.Row]; {
	case d == 0:
		return c.none
	case uint32(d)-c.from < c.width:
		return c.inside
	}
	return True - c.inside
}

func (c ranged) lacks(p *Place) string {
	if c.one(p) != Undecided {
		return ""
	}
	return c.wants[0].lacks(p)
}

// perValue turns a leaf on one field, or on one column of a part, into a table by its values.
func perValue(l leaf, o operand, decide func(value) Truth) bound {
	var truths []Truth
	for code, text := range o.values {
		v := value{OfText, text, 0}
		if code == 0 {
			v = value{}
		}
		truths = append(truths, decide(v))
	}
	switch {
	case o.field >= 0:
		return coded{l, o.field, truths}
	case o.code != nil:
		l.decides = func(p *Place) Truth { return truths[o.code(p)] }
		l.column = func(s *stretch, out []Truth) {
			for i, code := range o.cells(s.block).Codes[s.starts()[0]:][:len(out)] {
				out[i] = truths[code]
			}
		}
	}
	return l
}

func (c Compare) bind(b *binder) bound {
	x, y := c.X.bindOperand(b), c.Y.bindOperand(b)
	l := leaf{decides: func(p *Place) Truth { return c.Operator.compare(x.at(p), y.at(p)) }, wants: []operand{x, y}}
	if x.on != nil && y.on != nil {
		l.decides = func(p *Place) Truth { return c.Operator.compareDays(x.on(p), y.on(p)) }
		if x.cells != nil && y.cells == nil {
			last := uint32(b.book.Bounds().DataDate)
			l.column = func(s *stretch, out []Truth) { c.Operator.byOrder(s, x, y, last, out) }
		}
	}
	if literal, ok := c.Y.(Literal); ok {
		if literal.Kind == Missing {
			decide := func(v value) Truth { return c.Operator.againstNull(v) }
			l.decides = func(p *Place) Truth { return decide(x.at(p)) }
			return perValue(l, x, decide)
		}
		against := value{literal.Kind, literal.Text, literal.Number}
		if d, err := day.Parse(literal.Text); x.day >= 0 && err == nil {
			return rangeOf(l, x.day, c.Operator, d)
		}
		if x.on != nil && y.on != nil {
			return l
		}
		return perValue(l, x, func(v value) Truth { return c.Operator.compare(v, against) })
	}
	return l
}

// rangeOf is a comparison of a milestone with a day as a range of days.
func rangeOf(l leaf, m int, o Operator, d day.Day) bound { return ranged{l, m, dayRange(o, d)} }

// A daysRange is the days that a comparison with one picks.
type daysRange struct {
	from, width  uint32 // known days d with d − from < width are inside
	inside, none Truth
}

// daysOf are the days of an operand on orders, by order of the stretch.
func (s *stretch) daysOf(o operand) []day.Day {
	if o.day >= 0 {
		return s.block.Columns[o.day].Known[s.from:s.to]
	}
	p, days := Place{Block: s.block}, make([]day.Day, s.to-s.from)
	for i := range days {
		p.Row = s.from + i
		days[i] = o.on(&p)
	}
	return days
}

// byOrder compares the days of parts, of which none after the last is known, with one day of each order.
func (o Operator) byOrder(s *stretch, x, y operand, last uint32, out []Truth) {
	numbers, starts := x.cells(s.block).Numbers, s.starts()
	first, second := dayRange(o, 1), dayRange(o, 2) // from day to day a range moves and grows evenly
	move, grow := second.from-first.from, second.width-first.width
	for row, against := range s.daysOf(y) {
		known, beyond := last, starts[row+1]
		if against == 0 {
			known = 0 // as if none of the parts had a day
		}
		days := uint32(against - 1)
		r := daysRange{first.from + move*days, first.width + grow*days, first.inside, first.none}
		r.each(numbers[starts[row]:beyond], known, out[starts[row]-starts[0]:])
	}
}

// each decides about the days of parts, of which none after the last is known. Inlined, it would lack registers.
//
//go:noinline
func (r daysRange) each(days []int64, last uint32, out []Truth) {
	inside, outside, none := int(r.inside), int(True-r.inside), int(r.none) // ints: of bytes the compiler makes branches
	out = out[:len(days)]
	for i, n := range days {
		truth := outside
		if uint32(n)-r.from < r.width {
			truth = inside
		}
		if uint32(n)-1 >= last {
			truth = none
		}
		out[i] = Truth(truth)
	}
}

// dayRange is that of a comparison with a day, or with one that is missing.
func dayRange(o Operator, d day.Day) daysRange {
	r := daysRange{inside: True, none: Undecided}
	at := uint32(d)
	if d == 0 {
		r.width, r.inside, r.none = uint32(day.Last)+1, o.compareDays(0, 1), o.compareDays(0, 0)
		return r
	}
	switch o {
	case Equal:
		r.from, r.width, r.none = at, 1, False
	case Unequal:
		r.from, r.width, r.inside, r.none = at, 1, False, True
	case Less:
		r.from, r.width = 1, at-1
	case LessOrEqual:
		r.from, r.width = 1, at
	case Greater:
		r.from, r.width = at+1, uint32(day.Last)
	case GreaterOrEqual:
		r.from, r.width = at, uint32(day.Last)
	}
	return r
}

func truth(holds bool) Truth {
	if holds {
		return True
	}
	return False
}

// againstNull asks whether a value is missing, or whether it is not.
func (o Operator) againstNull(x value) Truth {
	switch {
	case x.kind == unknown:
		return Undecided
	case o == Equal:
		return truth(x.kind == Missing)
	case o == Unequal:
		return truth(x.kind != Missing)
	}
	return Undecided
}

// compareDays is compare of two days, of which one that is missing is zero.
func (o Operator) compareDays(x, y day.Day) Truth {
	switch lacking := x == 0 || y == 0; {
	case o == Equal:
		return truth(!lacking && x == y)
	case o == Unequal:
		return truth(lacking || x != y)
	case lacking:
		return Undecided
	}
	return truth([...]bool{Less: x < y, LessOrEqual: x <= y, Greater: x > y, GreaterOrEqual: x >= y}[o])
}

// compare compares two values of orders. One that is missing equals nothing, another missing one neither.
func (o Operator) compare(x, y value) Truth {
	switch lacking := x.kind == Missing || y.kind == Missing; {
	case x.kind == unknown || y.kind == unknown:
		return Undecided
	case o == Equal:
		return truth(!lacking && x == y)
	case o == Unequal:
		return truth(lacking || x != y)
	case lacking:
		return Undecided
	}
	order := cmp.Compare(x.text, y.text)
	if x.kind == OfNumber {
		order = cmp.Compare(x.number, y.number)
	}
	return truth([...]bool{Less: order < 0, LessOrEqual: order <= 0, Greater: order > 0, GreaterOrEqual: order >= 0}[o])
}

func (c In) bind(b *binder) bound {
	x := c.X.bindOperand(b)
	decide := func(v value) Truth {
		if v.kind == unknown {
			return Undecided
		}
		for _, l := range c.List {
			if v == (value{l.Kind, l.Text, l.Number}) {
				return True
			}
		}
		return False
	}
	return perValue(leaf{decides: func(p *Place) Truth { return decide(x.at(p)) }, wants: []operand{x}}, x, decide)
}

func (c Text) bind(b *binder) bound {
	x := c.X.bindOperand(b)
	decide := func(v value) Truth {
		switch {
		case v.kind != OfText:
			return Undecided
		case c.Decides(v.text):
			return True
		}
		return False
	}
	return perValue(leaf{decides: func(p *Place) Truth { return decide(x.at(p)) }, wants: []operand{x}}, x, decide)
}

// of decides by the lines, shipments or payments of an order.
type of struct {
	part      book.Part
	condition bound
	// empty is what it is of none, and settles what one of them can settle.
	empty, settles Truth
}

func (c Some) bind(b *binder) bound  { return of{c.Of, c.Condition.bind(b), False, True} }
func (c Every) bind(b *binder) bound { return of{c.Of, c.Condition.bind(b), True, False} }

func (c of) decide(block *book.Block, from int, out []Truth) {
	p := Place{Block: block}
	for i := range out {
		p.Row = from + i
		out[i] = c.one(&p)
	}
}

func (c of) one(p *Place) Truth {
	truth := c.empty
	from, to := p.Block.Parts[c.part].Of(p.Row)
	for p.Part[c.part] = from; p.Part[c.part] < to; p.Part[c.part]++ {
		switch c.condition.one(p) {
		case c.settles:
			return c.settles
		case Undecided:
			truth = Undecided
		}
	}
	return truth
}

func (c of) lacks(p *Place) string {
	if c.one(p) != Undecided {
		return ""
	}
	from, to := p.Block.Parts[c.part].Of(p.Row)
	for p.Part[c.part] = from; p.Part[c.part] < to; p.Part[c.part]++ {
		if lacking := c.condition.lacks(p); lacking != "" {
			return lacking
		}
	}
	return ""
}

// parts looks at each: what is asked of other parts can depend on it.
func (c of) parts(s *stretch, out []Truth) { s.each(out, c.one) }

func (h Has) bind(*binder) bound {
	return leaf{decides: func(p *Place) Truth {
		if p.Block.Findings[p.Row]&parts.Finding(h) != 0 {
			return True
		}
		return False
	}}
}
