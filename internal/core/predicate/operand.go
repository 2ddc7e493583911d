package predicate

import (
	"fmt"
	"math"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
)

// A value is what an operand is of one order.
type value struct {
	kind   Kind
	text   string
	number float64
}

// An operand gives values, and the name of what an order lacks that has none.
type operand struct {
	at    func(*Place) value
	lacks func(*Place) string
	// field is the coded column behind it, and day the milestone; both are -1 for other operands.
	field, day int
	// on gives the same as a day, zero where it is missing; nil where it is no day. Days are compared as such, never as text.
	on func(*Place) day.Day
	// values are those of a field or of a column of a part, by code; code gives those of a column of a part.
	values []string
	code   func(*Place) uint32
	// cells is the column of parts behind it; nil for all else.
	cells func(*book.Block) *book.Cells
	// remarks say of a length what a reader has to know; nil for all else.
	remarks func(*Place) Remarks
}

// A Reader gives what an operand is of the orders of one book.
type Reader struct{ operand operand }

// Read resolves the names of an operand, as Bind does those of a condition.
func Read(b *book.Book, o Operand, decimals func(currency string) int) Reader {
	return Reader{o.bindOperand(&binder{b, decimals})}
}

// At is the value: as text or as a number, by its kind. A day is the text of one; a value that is missing, or a length
// that is not counted, is neither.
func (r Reader) At(p *Place) (kind Kind, text string, number float64) {
	v := r.operand.at(p)
	return v.kind, v.text, v.number
}

// Remarks are what a reader of a length has to know.
type Remarks struct {
	HolidaysUnknown bool // it leaves the days for which holidays are known
	Moved           bool // it is counted from a later day, as the cut-off of the site has it
	SoFar           bool // the leg still runs
}

// Remarks about a length that is counted.
func (r Reader) Remarks(p *Place) (none Remarks) {
	if r.operand.remarks == nil {
		return none
	}
	return r.operand.remarks(p)
}

// Field is the coded column of orders behind the operand; false where there is none.
func (r Reader) Field() (book.Field, bool) { return book.Field(r.operand.field), r.operand.field >= 0 }

func plain(name string, at func(*Place) value) operand {
	return operand{at: at, lacks: func(*Place) string { return name }, field: -1, day: -1}
}

func (Number) bindOperand(*binder) operand {
	return plain("number", func(p *Place) value { return value{OfText, p.Block.Numbers[p.Row], 0} })
}

func (f Field) bindOperand(b *binder) operand {
	field, known := b.book.ParseField(string(f))
	if !known {
		panic(fmt.Sprintf("predicate: the book has no field %q", f))
	}
	values := b.book.Values(field)
	o := plain(string(f), func(p *Place) value {
		if code := p.Block.Codes[field][p.Row]; code != 0 {
			return value{OfText, values[code], 0}
		}
		return value{}
	})
	o.field, o.values = int(field), values
	return o
}

func (d Day) bindOperand(b *binder) operand {
	m := b.milestone(string(d))
	o := plain(string(d), func(p *Place) value {
		if at := p.Block.Columns[m].Known[p.Row]; at != 0 {
			return value{OfText, at.String(), 0}
		}
		return value{}
	})
	o.day, o.on = m, func(p *Place) day.Day { return p.Block.Columns[m].Known[p.Row] }
	return o
}

func (Value) bindOperand(b *binder) operand {
	currencies := b.book.Values(book.Currency)
	units := make([]float64, len(currencies))
	for code, currency := range currencies {
		units[code] = math.Pow10(b.decimals(currency))
	}
	return plain("value", func(p *Place) value {
		if !p.Block.Valued[p.Row] {
			return value{}
		}
		return value{OfNumber, "", float64(p.Block.Values[p.Row]) / units[p.Block.Codes[book.Currency][p.Row]]}
	})
}

func (n Told) bindOperand(b *binder) operand {
	at := slices.Index(b.book.NumberNames(), string(n))
	return plain(string(n), func(p *Place) value {
		if told := p.Block.Told[at][p.Row]; told != book.NoNumber {
			return value{OfNumber, "", float64(told)}
		}
		return value{}
	})
}

func (l Literal) bindOperand(*binder) operand {
	o := plain("something to compare with", func(*Place) value { return value{l.Kind, l.Text, l.Number} })
	if d, err := day.Parse(l.Text); l.Kind == OfText && err == nil && d.String() == l.Text {
		o.on = func(*Place) day.Day { return d }
	}
	return o
}

// A legReader gives the state of a leg of orders, and its length.
type legReader struct {
	length                Length
	start, end, cancelled int
	decider               leg.Decider
	moves                 bool
	dataDate              day.Day
	local                 func(*Place) *book.SiteCalendar
}

func (b *binder) legReader(l Length) *legReader {
	return &legReader{
		length: l,
		start:  b.milestone(l.Leg.From.Name), end: b.milestone(l.Leg.To.Name), cancelled: b.milestone(milestone.Cancelled),
		decider: l.Leg.Decider(b.book.Bounds().DataDate), moves: l.Measure.CutOffMoves(l.Leg), dataDate: b.book.Bounds().DataDate,
		local: b.local(l.Side),
	}
}

// local finds the calendar by which an order is counted. It gives no copies: millions are asked.
func (b *binder) local(side book.CalendarSource) func(*Place) *book.SiteCalendar {
	locals := b.book.Locals(side)
	if side == book.AtSite {
		return func(p *Place) *book.SiteCalendar { return &locals[p.Block.Codes[book.Site][p.Row]] }
	}
	return func(p *Place) *book.SiteCalendar {
		var scratch [1]uint32
		return &locals[b.book.LocalCodes(side, p.Block, p.Row, p.Row+1, scratch[:])[0]]
	}
}

func (r *legReader) state(p *Place) (leg.State, day.Day, day.Day) {
	columns := p.Block.Columns
	d := leg.Dates{Start: columns[r.start].Known[p.Row], End: columns[r.end].Known[p.Row], Cancelled: columns[r.cancelled].Known[p.Row],
		RawStart: columns[r.start].Raw[p.Row]}
	return r.decider.State(d), d.Start, d.End
}

// stretch is what the length is counted over; false where there is none.
func (r *legReader) stretch(p *Place) (leg.Stretch, bool) {
	s, from, to := r.state(p)
	running := s == leg.Running && r.length.SoFar
	if running {
		to = r.dataDate
	}
	if !s.Counted() && !running {
		return leg.Stretch{}, false
	}
	stretch := leg.Stretch{Start: from, End: to, StartAt: p.Block.Columns[r.start].InstantAt(p.Row),
		EndAt: p.Block.Columns[r.end].InstantAt(p.Row)}
	if r.moves && p.Block.EffectiveStarts != nil && p.Block.EffectiveStarts[p.Row] != from {
		stretch.Moved = p.Block.EffectiveStarts[p.Row]
	}
	return stretch, true
}

func (l Length) bindOperand(b *binder) operand {
	r := b.legReader(l)
	return operand{
		at: func(p *Place) value {
			stretch, counted := r.stretch(p)
			if !counted {
				return value{kind: unknown}
			}
			ticks, lacking := l.Measure.Length(r.local(p).Local, stretch)
			if lacking != leg.Complete {
				return value{kind: unknown}
			}
			return value{OfNumber, "", l.Measure.Unit.Number(ticks)}
		},
		lacks: func(p *Place) string {
			switch s, from, to := r.state(p); {
			case from == 0:
				return l.Leg.From.Name
			case to == 0:
				return l.Leg.To.Name
			case s == leg.EndBeforeStart:
				return l.Leg.To.Date() + " on or after " + l.Leg.From.Date()
			}
			return "a time of day, or daily hours"
		},
		remarks: func(p *Place) (of Remarks) {
			if stretch, counted := r.stretch(p); counted {
				state, _, _ := r.state(p)
				of = Remarks{l.Measure.HolidaysUnknown(r.local(p).Calendar, stretch), stretch.Moved != 0 && stretch.End >= stretch.Start,
					state == leg.Running}
			}
			return of
		},
		field: -1, day: -1,
	}
}

func (s State) bindOperand(b *binder) operand {
	r := b.legReader(Length{Leg: s.Leg})
	return plain("state", func(p *Place) value {
		state, _, _ := r.state(p)
		return value{OfText, state.String(), 0}
	})
}

// units are how many of a holding's numbers make one.
var units = map[book.Holding]float64{book.Quantity: 1e3, book.Money: 1e4, book.ValueUnit: 1e4}

func (c PartColumn) bindOperand(b *binder) operand {
	columns := b.book.PartColumns(c.Of)
	at := slices.IndexFunc(columns, func(column book.PartColumn) bool { return column.Name == c.Name })
	if at < 0 {
		panic(fmt.Sprintf("predicate: %v have no %q", c.Of, c.Name))
	}
	name, holds := fmt.Sprintf("%v.%s", c.Of, c.Name), columns[at].Holds
	cells := func(block *book.Block) *book.Cells { return &block.Parts[c.Of].Columns[at] }
	switch holds {
	case book.Coded:
		values := b.book.PartValues(c.Of, at)
		code := func(p *Place) uint32 { return p.Block.Parts[c.Of].Columns[at].Codes[p.Part[c.Of]] }
		o := plain(name, func(p *Place) value {
			if found := code(p); found != 0 {
				return value{OfText, values[found], 0}
			}
			return value{}
		})
		o.values, o.code, o.cells = values, code, cells
		return o
	case book.Plain:
		return plain(name, func(p *Place) value { return value{OfText, p.Block.Parts[c.Of].Columns[at].Texts[p.Part[c.Of]], 0} })
	}
	if holds == book.OnDay {
		dataDate := b.book.Bounds().DataDate
		on := func(p *Place) day.Day {
			n := p.Block.Parts[c.Of].Columns[at].Numbers[p.Part[c.Of]]
			if n == book.None || day.Day(n) > dataDate { // a fact after the data date is not known
				return 0
			}
			return day.Day(n)
		}
		o := plain(name, func(p *Place) value {
			if d := on(p); d != 0 {
				return value{OfText, d.String(), 0}
			}
			return value{}
		})
		o.on, o.cells = on, cells
		return o
	}
	return plain(name, func(p *Place) value {
		n := p.Block.Parts[c.Of].Columns[at].Numbers[p.Part[c.Of]]
		if n == book.None {
			return value{}
		}
		return value{OfNumber, "", float64(n) / units[holds]}
	})
}

func (c Count) bindOperand(*binder) operand {
	return plain(c.Of.String(), func(p *Place) value {
		from, to := p.Block.Parts[c.Of].Of(p.Row)
		return value{OfNumber, "", float64(to - from)}
	})
}

func (s Size) bindOperand(b *binder) operand {
	x := s.X.bindOperand(b)
	o := plain("", func(p *Place) value {
		v := x.at(p)
		if v.kind != OfText {
			return value{kind: unknown}
		}
		return value{OfNumber, "", float64(s.Measure(v.text))}
	})
	o.lacks = x.lacks
	return o
}
