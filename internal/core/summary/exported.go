package summary

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/period"
)

// An Axis is a grouping resolved against a book, for analyses that put into groups what is not an order as a whole: lines,
// or units that leave on days of their own. Code 0 is "none".
type Axis struct {
	axis
	lines int // the column of lines; −1 where orders have the codes
}

// NewAxis resolves a grouping, whose basis is a milestone by its index. A cut of the basis has every step of the period;
// without one, of the days on which the basis is known.
func NewAxis(b *book.Book, g Grouping, basis int, p period.Period) *Axis {
	if g.Line > 0 {
		values := b.PartValues(book.Lines, g.Line-1)
		return &Axis{axis{grouping: g, labels: values}, g.Line - 1}
	}
	return &Axis{newAxis(b, g, basis, p), -1}
}

// Labels are the names of the codes; that of "none" is empty.
func (a *Axis) Labels() []string { return a.labels }

// OfLines says that lines have codes, and not orders.
func (a *Axis) OfLines() bool { return a.lines >= 0 }

// OfBasis says that the codes are steps of time of the basis.
func (a *Axis) OfBasis() bool { return a.grouping.Cut != NoCut && a.grouping.Of == "" }

// LineCodes are the codes of a block's lines.
func (a *Axis) LineCodes(block *book.Block) []uint32 {
	return block.Parts[book.Lines].Columns[a.lines].Codes
}

// Codes are those of a stretch of orders; scratch, of at least their number, holds them where they are no column.
func (a *Axis) Codes(block *book.Block, from, to int, scratch []uint32) []uint32 {
	return a.codes(block, from, to, scratch)
}

// On is the code of a day of the milestone that is cut; 0 outside the steps.
func (a *Axis) On(d day.Day) uint32 {
	if step := uint32(d - a.low); step < uint32(len(a.steps)) {
		return a.steps[step]
	}
	return 0
}

// Span are the days of a step; zero where the steps do not follow each other.
func (a *Axis) Span(code int) day.Span { return a.span(code) }

// Time is the place of a code in time; zero where the grouping cuts none.
func (a *Axis) Time(code int) day.Day { return a.order(code) }

// Rank is the place of a code among the names in their natural order.
func (a *Axis) Rank(code int) int64 { return a.rank(code) }

// Length is the length of an order's leg in ticks; false where it has none that counts.
func (g *Grouper) Length(block *book.Block, row int) (ticks int, counted bool) {
	l := g.p.entry(block, row, 0)
	return l.Length, l.State.Counted()
}

// A LengthList gathers lengths of many groups, to make a Distribution of each.
type LengthList struct{ list lengthList }

// Add takes a length in.
func (l *LengthList) Add(group uint32, ticks int) { l.list.add(listed(group, ticks, 0)) }

// Join takes in what another has gathered.
func (l *LengthList) Join(other LengthList) { l.list.join(other.list) }

// Distributions are those of groups up to some number.
func (l *LengthList) Distributions(groups int) []Distribution {
	by, all := byGroup(l.list, groups), make([]Distribution, groups)
	for g := range all {
		for _, length := range by.of(g) {
			all[g] = all[g].with(length.length(), 1)
		}
	}
	return all
}

// Merged adds distributions up.
func Merged(each ...Distribution) Distribution { return merged(each...) }
