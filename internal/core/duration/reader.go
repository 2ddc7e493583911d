package duration

import (
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/query"
)

// A Reader reads how long the leg of an order took, in the measure and by the calendars of a question.
type Reader struct {
	book                  *book.Book
	question              query.Question
	start, end, cancelled int // milestones' indexes
	decider               leg.Decider
	calendars             []book.SiteCalendar // by code
	moves                 bool                // starts count as cut-offs move them
	cutOffs               []bool              // by site: it has one that can move a start; nil where none can
	standIns              [][2]int            // the milestones for which others stand in, each with that
}

// NewReader resolves the leg of a question; milestones passed on the way can have stand-ins, too.
func NewReader(b *book.Book, q query.Question, through ...milestone.Milestone) *Reader {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	r := &Reader{
		book: b, question: q,
		start: index(q.Leg.From.Name), end: index(q.Leg.To.Name), cancelled: index(milestone.Cancelled),
		decider:   q.Leg.Decider(b.Bounds().DataDate),
		calendars: b.Locals(q.Calendar),
		moves:     q.Measure.CutOffMoves(q.Leg),
	}
	if sites := b.Locals(book.AtSite); r.moves && slices.ContainsFunc(sites, func(s book.SiteCalendar) bool { return s.CutOff >= 0 }) {
		for _, s := range sites {
			r.cutOffs = append(r.cutOffs, s.CutOff >= 0)
		}
	}
	for _, m := range append([]milestone.Milestone{q.Leg.From, q.Leg.To}, through...) {
		if m.Of != "" {
			r.standIns = append(r.standIns, [2]int{index(m.Of), index(m.Name)})
		}
	}
	return r
}

// A Listed is an order of a list, with the state and length of the question's leg.
type Listed struct {
	Row             int // in the book
	State           leg.State
	Length          int // in ticks of the unit, where the state is counted
	HolidaysUnknown bool
}

// At looks at the order in a row of the book.
func (r *Reader) At(row int) Listed {
	block, at := r.book.Locate(row)
	return r.read(block, at, row)
}

// StretchAt is what the length of the order in a row of the book is counted from.
func (r *Reader) StretchAt(row int) leg.Stretch {
	block, at := r.book.Locate(row)
	return r.stretch(block, at, r.dates(block, at))
}

// read looks at the order in row at of a block, which is some row of the book.
func (r *Reader) read(block *book.Block, at, row int) Listed {
	d := r.dates(block, at)
	l := Listed{Row: row, State: r.decider.State(d)}
	if !l.State.Counted() {
		return l
	}
	own, stretch := &r.calendars[r.calendar(block, at)], r.stretch(block, at, d)
	length, lacking := r.question.Measure.Length(own.Local, stretch)
	if lacking != leg.Complete {
		l.State = lacking
		return l
	}
	l.Length = length
	l.HolidaysUnknown = r.question.Measure.HolidaysUnknown(own.Calendar, stretch)
	return l
}

// Length is the length of an order's leg in ticks; false where it has none that counts.
func (r *Reader) Length(block *book.Block, row int) (ticks int, counted bool) {
	l := r.read(block, row, 0)
	return l.Length, l.State.Counted()
}

// Until is how long an order's leg has run up to a day, in ticks; false where the unit asks for an instant.
func (r *Reader) Until(block *book.Block, row int, end day.Day) (ticks int, told bool) {
	return r.lengthUntil(block, row, r.dates(block, row), end, 0)
}

// calendar is the code of the calendar by which an order is counted.
func (r *Reader) calendar(block *book.Block, row int) uint32 {
	var scratch [1]uint32
	return r.book.LocalCodes(r.question.Calendar, block, row, row+1, scratch[:])[0]
}

// starts are the days from which a block's lengths are counted, where that is a difference of totals.
func (r *Reader) starts(block *book.Block) []day.Day {
	if r.moves && block.EffectiveStarts != nil {
		return block.EffectiveStarts
	}
	return block.Columns[r.start].Known
}

// stretch is what a leg of these dates is counted from.
func (r *Reader) stretch(block *book.Block, row int, d leg.Dates) leg.Stretch {
	s := leg.Stretch{
		Start: d.Start, End: d.End,
		StartAt: block.Columns[r.start].InstantAt(row), EndAt: block.Columns[r.end].InstantAt(row),
	}
	if r.moves && block.EffectiveStarts != nil && block.EffectiveStarts[row] != d.Start {
		s.Moved = block.EffectiveStarts[row]
	}
	return s
}

// dates are the days of one order that decide the state of its leg.
func (r *Reader) dates(block *book.Block, row int) leg.Dates {
	d := leg.Dates{Start: block.Columns[r.start].Known[row], End: block.Columns[r.end].Known[row]}
	if d.Start == 0 {
		d.RawStart = block.Columns[r.start].Raw[row]
	}
	if d.End == 0 {
		d.Cancelled = block.Columns[r.cancelled].Known[row]
	}
	return d
}

// waited is how long a leg without an end has run: up to the data date, or until it was cancelled.
func (r *Reader) waited(block *book.Block, row int, d leg.Dates, state leg.State) (length int, told bool) {
	if state == leg.Cancelled {
		return r.lengthUntil(block, row, d, d.Cancelled, block.Columns[r.cancelled].InstantAt(row))
	}
	return r.lengthUntil(block, row, d, r.book.Bounds().DataDate, 0)
}

// lengthUntil is the length of an order's leg as if it ended on a day, or at an instant of it. In hours a day without an
// instant is its start in the zone of the site: so long it has run for certain. False where the unit wants an instant that
// is not known.
func (r *Reader) lengthUntil(block *book.Block, row int, d leg.Dates, end day.Day, at day.Instant) (length int, told bool) {
	d.End = end
	stretch := r.stretch(block, row, d)
	if stretch.EndAt = at; at == 0 && r.question.Measure.Unit.Timed() {
		if zone := r.book.Locals(book.AtSite)[block.Codes[book.Site][row]].Zone; zone != nil {
			stretch.EndAt = end.At(0, zone)
		}
	}
	if stretch.EndAt != 0 {
		stretch.EndAt = max(stretch.EndAt, stretch.StartAt)
	}
	length, lacking := r.question.Measure.Length(r.calendars[r.calendar(block, row)].Local, stretch)
	return length, lacking == leg.Complete
}

// cutOff is the code of the note on cut-offs that concerns an order; empty where none does.
func (r *Reader) cutOff(block *book.Block, row int) string {
	site := block.Codes[book.Site][row]
	switch {
	case r.cutOffs == nil || !r.cutOffs[site]:
		return ""
	case block.EffectiveStarts[row] != block.Columns[r.start].Known[row]:
		return NoteCutOff
	case !r.book.Locals(book.AtSite)[site].Reads(block.Columns[r.start].InstantAt(row)):
		return NoteCutOffUntimed
	}
	return ""
}

// takesStandIn says whether the start or the end of an order's leg, or of a leg of the chain, is a day that stands in for another.
func (r *Reader) takesStandIn(block *book.Block, row int) bool {
	for _, pair := range r.standIns {
		if block.Columns[pair[0]].Known[row] == 0 && block.Columns[pair[1]].Known[row] != 0 {
			return true
		}
	}
	return false
}
