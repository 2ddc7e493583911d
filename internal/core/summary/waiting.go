package summary

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/estimate"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
)

// Waiting are the legs of a group that have no end.
type Waiting struct {
	// Running is how long those that still run have run up to the data date, and Cancelled how long the others had run when
	// they were cancelled.
	Running, Cancelled Distribution
	// Untold is how many still run for a length that is not known: lengths between instants need an instant to end with.
	Untold int
}

// What a leg without an end waits as, in the place of the plane of a listed length.
const (
	asRunning = iota
	asCancelled
	asUntold
)

// countWaiting counts how long a leg without an end has run.
func (p *plan) countWaiting(block *book.Block, row int, group, local uint32, d leg.Dates, state leg.State, t *tally) {
	as := uint32(asRunning)
	if state == leg.Cancelled {
		as = asCancelled
	}
	length, told := p.waited(block, row, local, d, state)
	if !told && as == asRunning {
		as = asUntold
	}
	switch {
	case told && uint(length) < denseWidth && t.waitingCells != nil:
		t.waitingCells[(group*asUntold+as)*denseWidth+uint32(length)]++
	case told || as == asUntold:
		t.waiting.add(listed(group, length, as))
	}
}

// gatherWaiting turns what was counted into one Waiting for each group.
func (p *plan) gatherWaiting(t *tally) []Waiting {
	all := make([]Waiting, p.groups)
	by := byGroup(t.waiting, p.groups)
	for g := range all {
		w := &all[g]
		var listed [asUntold]Distribution
		for _, l := range by.of(g) {
			if as := l.plane(); as < asUntold {
				listed[as] = listed[as].with(l.length(), 1)
			} else {
				w.Untold++
			}
		}
		for as, lengths := range []*Distribution{asRunning: &w.Running, asCancelled: &w.Cancelled} {
			if *lengths = listed[as]; t.waitingCells != nil {
				*lengths = merged(listed[as], counts(t.waitingCells[(g*asUntold+as)*denseWidth:][:denseWidth], 0))
			}
		}
	}
	return all
}

// waited is how long a leg without an end has run: up to the data date, or until it was cancelled.
func (p *plan) waited(block *book.Block, row int, local uint32, d leg.Dates, state leg.State) (length int, told bool) {
	if state == leg.Cancelled {
		return p.lengthUntil(block, row, local, d, d.Cancelled, block.Columns[p.cancelled].InstantAt(row))
	}
	return p.lengthUntil(block, row, local, d, p.book.Bounds().DataDate, 0)
}

// lengthUntil is the length of an order's leg as if it ended on a day, or at an instant of it. In hours a day without an
// instant is its start in the zone of the site: so long it has run for certain. False where the unit wants an instant that
// is not known.
func (p *plan) lengthUntil(block *book.Block, row int, local uint32, d leg.Dates, end day.Day, at day.Instant) (length int, told bool) {
	d.End = end
	stretch := p.stretch(block, row, d)
	if stretch.EndAt = at; at == 0 && p.question.Measure.Unit.Timed() {
		if zone := p.book.Locals(book.AtSite)[block.Codes[book.Site][row]].Zone; zone != nil {
			stretch.EndAt = end.At(0, zone)
		}
	}
	if stretch.EndAt != 0 {
		stretch.EndAt = max(stretch.EndAt, stretch.StartAt)
	}
	length, lacking := p.question.Measure.Length(p.book.Locals(p.question.Side)[local].Local, stretch)
	return length, lacking == leg.Complete
}

// Over divides a group by a limit: over is finished over and still waiting and already over; a running leg that is not over
// yet is undecided.
type Over struct {
	Finished, Waiting int
	Within            int // finished, at or under
	Undecided         int
	// Cancelled are those that were over already when they were cancelled: they stand beside the share, and outside it.
	Cancelled int
}

// exceeds says whether a length is beyond the limit.
func (l Limit) exceeds(length int) bool { return length > l.Ticks || l.Least && length == l.Ticks }

// Over counts lengths beyond a limit.
func (g Group) Over(l Limit) (o Over) {
	for _, bar := range g.Lengths {
		if l.exceeds(bar.Length) {
			o.Finished += bar.Orders
		} else {
			o.Within += bar.Orders
		}
	}
	for _, bar := range g.Waiting.Running {
		if l.exceeds(bar.Length) {
			o.Waiting += bar.Orders
		} else {
			o.Undecided += bar.Orders
		}
	}
	for _, bar := range g.Waiting.Cancelled {
		if l.exceeds(bar.Length) {
			o.Cancelled += bar.Orders
		}
	}
	o.Undecided += g.Waiting.Untold
	return o
}

// Share is over ÷ (over + within), and what it is at the least and at the most, whatever becomes of the undecided: each as
// two whole numbers.
func (o Over) Share() (share, least, most [2]int) {
	over := o.Finished + o.Waiting
	decided := over + o.Within
	all := decided + o.Undecided
	return [2]int{over, decided}, [2]int{over, all}, [2]int{over + o.Undecided, all}
}

// Curve is the product-limit estimate of a group, if no order were cancelled: legs that still run are censored at the data
// date, cancelled ones when they were cancelled. Leaving those out would condition on what came later.
func (g Group) Curve() estimate.Curve {
	return estimate.ProductLimit(g.Lengths.counts(), merged(g.Waiting.Running, g.Waiting.Cancelled).counts())
}

// Shares are those of the group that ended and that were cancelled, by length.
func (g Group) Shares() []estimate.Share {
	return estimate.Shares(g.Lengths.counts(), g.Waiting.Cancelled.counts(), g.Waiting.Running.counts())
}

func (d Distribution) counts() []estimate.Count {
	counts := make([]estimate.Count, len(d))
	for i, bar := range d {
		counts[i] = estimate.Count(bar)
	}
	return counts
}

// NoCurve says why there is no estimate with running legs; empty where there is one. Orders that are placed by something
// that comes later are there because they have come so far: those that still run would be missing.
func (q Question) NoCurve() string {
	switch {
	case q.Measure.Unit.Timed():
		return "how long a leg has run so far is not known to the hour"
	case q.Basis == q.Leg.From || q.Basis.Plan || q.Basis.Name == milestone.Ordered:
		return ""
	}
	return "orders are placed by `" + q.Basis.Name + "`, which comes after `" + q.Leg.From.Name + "`: those that still run are not among them"
}
