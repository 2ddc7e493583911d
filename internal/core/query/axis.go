package query

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
)

// An Axis is a grouping resolved against a book: every order, or every part of a kind, has one of its codes. Code 0 is "none".
type Axis struct {
	Grouping Grouping
	Labels   []string // by code; that of "none" is empty
	ranks    []uint32 // by code, of names
	column   int      // of parts; −1 where orders have the codes
	// For a cut, steps gives the code for each day from low on.
	basis int
	low   day.Day
	steps []uint32
	spans []day.Span // the days of each step, by code; nil where steps come round again
	// ofParts are the codes of parts where a day of theirs is cut.
	ofParts map[*book.Block][]uint32
}

// NewAxis resolves a grouping, whose basis is a milestone by its index. A cut of the basis has every step of the period, also
// those without an order; without a period it runs over the days on which the basis is known.
func NewAxis(b *book.Book, g Grouping, basis int, p period.Period) *Axis {
	a := &Axis{Grouping: g, basis: basis, column: g.Column - 1}
	switch {
	case g.Column > 0 && g.Cut == NoCut:
		a.Labels, a.ranks = b.PartValues(g.Part, a.column), b.PartRanks(g.Part, a.column)
		return a
	case g.Cut == NoCut:
		a.Labels, a.ranks = b.Values(g.Field), b.Ranks(g.Field)
		return a
	}
	if g.Column > 0 {
		a.cut(a.partRange(b))
		a.codeParts(b)
		return a
	}
	if g.Of != "" {
		a.basis = milestone.Index(b.Milestones(), g.Of)
	}
	low, high := b.Range(a.basis)
	if !p.Unbounded() && a.basis == basis {
		low, high = p.Span.From, p.Span.LastDay()
	}
	return a.cut(low, high)
}

// partRange bounds the days of parts that are known; both are zero where there is none.
func (a *Axis) partRange(b *book.Book) (low, high day.Day) {
	last := b.Bounds().DataDate
	for _, block := range b.Blocks() {
		b.Pause()
		for _, n := range block.Parts[a.Grouping.Part].Columns[a.column].Numbers {
			if d := day.Day(n); n > 0 && d <= last {
				if high = max(high, d); low == 0 || d < low {
					low = d
				}
			}
		}
	}
	return low, high
}

// codeParts gives each part the code of its step.
func (a *Axis) codeParts(b *book.Book) {
	a.ofParts = map[*book.Block][]uint32{}
	for _, block := range b.Blocks() {
		b.Pause()
		days := block.Parts[a.Grouping.Part].Columns[a.column].Numbers
		codes := make([]uint32, len(days))
		for i, n := range days {
			if n > 0 {
				codes[i] = a.On(day.Day(n))
			}
		}
		a.ofParts[block] = codes
	}
}

// cut makes the steps of a stretch of days.
func (a *Axis) cut(low, high day.Day) *Axis {
	g := a.Grouping
	a.Labels, a.spans = []string{""}, []day.Span{{}}
	if low == 0 {
		return a
	}
	a.low = low
	if g.Cut.Cycles() {
		a.spans = nil
		for place := range g.Cut.Round() {
			a.Labels = append(a.Labels, g.Cut.Name(place))
		}
		for d := low; d <= high; d++ {
			a.steps = append(a.steps, uint32(g.Cut.Place(d)+1))
		}
		return a
	}
	for d := low; d <= high; d++ {
		if label := g.Cut.label(d); label != a.Labels[len(a.Labels)-1] {
			a.Labels, a.spans = append(a.Labels, label), append(a.spans, g.Cut.span(d))
		}
		a.steps = append(a.steps, uint32(len(a.Labels)-1))
	}
	return a
}

// OfParts says that parts have codes, and not orders.
func (a *Axis) OfParts() bool { return a.column >= 0 }

// OfBasis says that the codes are steps of time of the basis.
func (a *Axis) OfBasis() bool { return a.Grouping.Cut != NoCut && a.Grouping.Of == "" }

// PartCodes are the codes of a block's parts.
func (a *Axis) PartCodes(block *book.Block) []uint32 {
	if a.ofParts != nil {
		return a.ofParts[block]
	}
	return block.Parts[a.Grouping.Part].Columns[a.column].Codes
}

// Codes gives the codes of a stretch of orders; scratch, of at least their number, holds them where they are no column.
func (a *Axis) Codes(block *book.Block, from, to int, scratch []uint32) []uint32 {
	if a.Grouping.Cut == NoCut {
		return block.Codes[a.Grouping.Field][from:to]
	}
	days, low, steps := block.Columns[a.basis].Known[from:to], a.low, a.steps
	scratch = scratch[:len(days)]
	for i, d := range days {
		// An undated order, or one outside the period, has a step number that lies outside as well.
		code := uint32(0)
		if step := uint32(d - low); step < uint32(len(steps)) {
			code = steps[step]
		}
		scratch[i] = code
	}
	return scratch
}

// On is the code of a day of the milestone that is cut; 0 outside the steps.
func (a *Axis) On(d day.Day) uint32 {
	if step := uint32(d - a.low); step < uint32(len(a.steps)) {
		return a.steps[step]
	}
	return 0
}

// Span are the days of the step with a code; zero where the grouping cuts no time, or the steps come round again.
func (a *Axis) Span(code int) day.Span {
	if a.spans == nil {
		return day.Span{}
	}
	return a.spans[code]
}

// Rank is the place of a code among the names in their natural order.
func (a *Axis) Rank(code int) int64 {
	if a.ranks == nil {
		return int64(code)
	}
	return int64(a.ranks[code])
}

// Time is the place of a code in time, for steps that follow each other or come round; zero where the grouping cuts no time,
// or for the code of none.
func (a *Axis) Time(code int) day.Day {
	if a.Grouping.Cut.Cycles() {
		return day.Day(code)
	}
	return a.Span(code).From
}

// code is the code of a label.
func (a *Axis) code(label string) (uint32, bool) {
	for code, l := range a.Labels {
		if l == label {
			return uint32(code), true
		}
	}
	return 0, false
}
