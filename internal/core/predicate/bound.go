package predicate

import (
	"cmp"
	"fmt"
	"math"
	"sync"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
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
func (b Bound) One(block *book.Block, row int) Truth { return b.root.one(block, row) }

// Lacks names what an undecided order lacks, as far as the condition asks for it.
func (b Bound) Lacks(block *book.Block, row int) string { return b.root.lacks(block, row) }

type bound interface {
	decide(block *book.Block, from int, out []Truth)
	one(block *book.Block, row int) Truth    // decide for a single order
	lacks(block *book.Block, row int) string // empty where the order is decided
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
	truth [3][3]Truth
}

var (
	andTruth = [3][3]Truth{{False, False, False}, {False, True, Undecided}, {False, Undecided, Undecided}}
	orTruth  = [3][3]Truth{{False, True, Undecided}, {True, True, True}, {Undecided, True, Undecided}}
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
		out[i] = c.truth[x][y[i]]
	}
}

func (c both) one(block *book.Block, row int) Truth {
	return c.truth[c.x.one(block, row)][c.y.one(block, row)]
}

func (c both) lacks(block *book.Block, row int) string {
	if c.one(block, row) != Undecided {
		return ""
	}
	return cmp.Or(c.x.lacks(block, row), c.y.lacks(block, row))
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

func (c not) one(block *book.Block, row int) Truth { return turned[c.x.one(block, row)] }

func (c not) lacks(block *book.Block, row int) string { return c.x.lacks(block, row) }

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

func (c always) one(*book.Block, int) Truth { return Truth(c) }

func (c always) lacks(*book.Block, int) string { return "" }

// A value is what an operand is of one order.
type value struct {
	kind   Kind
	text   string
	number float64
}

// An operand gives values, and the name of what an order lacks that has none.
type operand struct {
	at    func(block *book.Block, row int) value
	lacks func(block *book.Block, row int) string
	// field is the coded column behind it, and day the milestone; both are -1 for other operands.
	field, day int
}

func plain(name string, at func(block *book.Block, row int) value) operand {
	return operand{at, func(*book.Block, int) string { return name }, -1, -1}
}

func (Number) bindOperand(*binder) operand {
	return plain("number", func(block *book.Block, row int) value { return value{OfText, block.Numbers[row], 0} })
}

func (f Field) bindOperand(b *binder) operand {
	field, known := b.book.ParseField(string(f))
	if !known {
		panic(fmt.Sprintf("predicate: the book has no field %q", f))
	}
	values := b.book.Values(field)
	o := plain(string(f), func(block *book.Block, row int) value {
		if code := block.Codes[field][row]; code != 0 {
			return value{OfText, values[code], 0}
		}
		return value{}
	})
	o.field = int(field)
	return o
}

func (d Day) bindOperand(b *binder) operand {
	m := b.milestone(string(d))
	o := plain(string(d), func(block *book.Block, row int) value {
		if at := block.Columns[m].Known[row]; at != 0 {
			return value{OfText, at.String(), 0}
		}
		return value{}
	})
	o.day = m
	return o
}

func (Value) bindOperand(b *binder) operand {
	currencies := b.book.Values(book.Currency)
	units := make([]float64, len(currencies))
	for code, currency := range currencies {
		units[code] = math.Pow10(b.decimals(currency))
	}
	return plain("value", func(block *book.Block, row int) value {
		if !block.Valued[row] {
			return value{}
		}
		return value{OfNumber, "", float64(block.Values[row]) / units[block.Codes[book.Currency][row]]}
	})
}

func (l Literal) bindOperand(*binder) operand {
	return plain("something to compare with", func(*book.Block, int) value { return value{l.Kind, l.Text, l.Number} })
}

func (l Length) bindOperand(b *binder) operand {
	start, end, cancelled := b.milestone(l.Leg.From.Name), b.milestone(l.Leg.To.Name), b.milestone(milestone.Cancelled)
	twoWay, dataDate := l.Leg.TwoWay(), b.book.Bounds().DataDate
	moves := l.Measure.CutOffMoves(l.Leg)
	state := func(block *book.Block, row int) (leg.State, day.Day, day.Day) {
		d := leg.Dates{Start: block.Columns[start].Known[row], End: block.Columns[end].Known[row], Cancelled: block.Columns[cancelled].Known[row], RawStart: block.Columns[start].Raw[row]}
		return leg.StateOf(twoWay, d), d.Start, d.End
	}
	locals := b.book.Locals(book.AtSite)
	return operand{
		at: func(block *book.Block, row int) value {
			s, from, to := state(block, row)
			running := s == leg.Running && l.SoFar
			if running {
				to = dataDate
			}
			if !s.Counted() && !running {
				return value{kind: unknown}
			}
			stretch := leg.Stretch{Start: from, End: to, StartAt: block.Columns[start].InstantAt(row), EndAt: block.Columns[end].InstantAt(row)}
			if moves && block.Moved != nil && block.Moved[row] != from {
				stretch.Moved = block.Moved[row]
			}
			ticks, lacking := l.Measure.Length(locals[block.Codes[book.Site][row]].Local, stretch)
			if lacking != leg.Complete {
				return value{kind: unknown}
			}
			return value{OfNumber, "", l.Measure.Unit.Number(ticks)}
		},
		lacks: func(block *book.Block, row int) string {
			switch s, from, to := state(block, row); {
			case from == 0:
				return l.Leg.From.Name
			case to == 0:
				return l.Leg.To.Name
			case s == leg.EndBeforeStart:
				return l.Leg.To.Name + " on or after " + l.Leg.From.Name
			}
			return "a time of day, or daily hours"
		},
		field: -1, day: -1,
	}
}

// leaf is a condition that a function decides for each order by itself.
type leaf struct {
	decides func(block *book.Block, row int) Truth
	// wants are the operands whose want leaves an order undecided.
	wants []operand
}

func (l leaf) decide(block *book.Block, from int, out []Truth) {
	for i := range out {
		out[i] = l.decides(block, from+i)
	}
}

func (l leaf) one(block *book.Block, row int) Truth { return l.decides(block, row) }

func (l leaf) lacks(block *book.Block, row int) string {
	if l.decides(block, row) != Undecided {
		return ""
	}
	for _, o := range l.wants {
		if kind := o.at(block, row).kind; kind == Missing || kind == unknown {
			return o.lacks(block, row)
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

func (c coded) one(block *book.Block, row int) Truth { return c.truths[block.Codes[c.field][row]] }

func (c coded) lacks(block *book.Block, row int) string {
	if c.one(block, row) != Undecided {
		return ""
	}
	return c.wants[0].lacks(block, row)
}

// ranged is a comparison of a milestone with a day.
type ranged struct {
	leaf
	day          int
	from, width  uint32 // known days d with d − from < width are inside
	inside, none Truth
}

func (c ranged) decide(block *book.Block, from int, out []Truth) {
	for i, d := range block.Columns[c.day].Known[from : from+len(out)] {
		out[i] = c.of(d)
	}
}

func (c ranged) one(block *book.Block, row int) Truth { return c.of(block.Columns[c.day].Known[row]) }

func (c ranged) lacks(block *book.Block, row int) string {
	if c.one(block, row) != Undecided {
		return ""
	}
	return c.wants[0].lacks(block, row)
}

func (c ranged) of(d day.Day) Truth {
	switch {
	case d == 0:
		return c.none
	case uint32(d)-c.from < c.width:
		return c.inside
	}
	return True - c.inside
}

// perField turns a leaf on one field into a table by its values.
func perField(b *binder, l leaf, o operand, decide func(value) Truth) bound {
	if o.field < 0 {
		return l
	}
	c := coded{leaf: l, field: o.field}
	for code, text := range b.book.Values(book.Field(o.field)) {
		v := value{OfText, text, 0}
		if code == 0 {
			v = value{}
		}
		c.truths = append(c.truths, decide(v))
	}
	return c
}

func (c Compare) bind(b *binder) bound {
	x, y := c.X.bindOperand(b), c.Y.bindOperand(b)
	l := leaf{func(block *book.Block, row int) Truth { return c.Operator.compare(x.at(block, row), y.at(block, row)) }, []operand{x, y}}
	if literal, ok := c.Y.(Literal); ok {
		against := value{literal.Kind, literal.Text, literal.Number}
		if d, err := day.Parse(literal.Text); x.day >= 0 && err == nil {
			return rangeOf(l, x.day, c.Operator, d)
		}
		return perField(b, l, x, func(v value) Truth { return c.Operator.compare(v, against) })
	}
	return l
}

// rangeOf is a comparison of a milestone with a day as a range of days.
func rangeOf(l leaf, m int, o Operator, d day.Day) bound {
	r := ranged{leaf: l, day: m, inside: True, none: Undecided}
	at := uint32(d)
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

func (o Operator) compare(x, y value) Truth {
	truth := func(holds bool) Truth {
		if holds {
			return True
		}
		return False
	}
	switch {
	case x.kind == unknown || y.kind == unknown:
		return Undecided
	case o == Equal:
		return truth(x == y)
	case o == Unequal:
		return truth(x != y)
	case x.kind == Missing || y.kind == Missing:
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
	return perField(b, leaf{func(block *book.Block, row int) Truth { return decide(x.at(block, row)) }, []operand{x}}, x, decide)
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
	return perField(b, leaf{func(block *book.Block, row int) Truth { return decide(x.at(block, row)) }, []operand{x}}, x, decide)
}
