package duration

import (
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/estimate"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/query"
)

// Waiting are the legs of a group that have no end.
type Waiting struct {
	// Running is how long those that still run have run up to the data date, and Cancelled how long the others had run when
	// they were cancelled.
	Running, Cancelled distribution.Distribution
	// Untold is how many still run for a length that is not known: lengths between instants need an instant to end with.
	Untold int
}

// What a leg without an end waits as, in the place of the plane of a listed length.
const (
	asRunning = iota
	asCancelled
	asUntold
)

// countWaiting counts how long the leg of order i of a stretch, which has no end, has run.
func (t *tally) countWaiting(s *query.Stretch, i int, d leg.Dates, state leg.State) {
	as, group := uint32(asRunning), s.Groups[i]
	if state == leg.Cancelled {
		as = asCancelled
	}
	length, told := t.plan.waited(s.Block, s.From+i, d, state)
	if !told && as == asRunning {
		as = asUntold
	}
	switch {
	case told && t.waitingCells != nil && uint(length) < uint(t.plan.width):
		t.waitingCells[(int(group)*asUntold+int(as))*t.plan.width+length]++
	case told || as == asUntold:
		t.waiting.Add(distribution.NewItem(group, length, as))
	}
}

// gatherWaiting turns what was counted into one Waiting for each group.
func (p *plan) gatherWaiting(t *tally) []Waiting {
	all := make([]Waiting, p.scope.Groups)
	by := t.waiting.ByGroup(p.scope.Groups)
	for g := range all {
		w := &all[g]
		var listed [asUntold]distribution.Distribution
		for _, l := range by.Of(g) {
			if as := l.Plane(); as < asUntold {
				listed[as] = listed[as].With(l.Length(), 1)
			} else {
				w.Untold++
			}
		}
		for as, lengths := range []*distribution.Distribution{asRunning: &w.Running, asCancelled: &w.Cancelled} {
			if *lengths = listed[as]; t.waitingCells != nil {
				*lengths = distribution.Merged(listed[as], distribution.Counted(t.waitingCells[(g*asUntold+as)*p.width:][:p.width],
					0))
			}
		}
	}
	return all
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
	return estimate.ProductLimit(censored(g.Lengths), censored(distribution.Merged(g.Waiting.Running, g.Waiting.Cancelled)))
}

// Shares are those of the group that ended and that were cancelled, by length.
func (g Group) Shares() []estimate.Share {
	return estimate.Shares(censored(g.Lengths), censored(g.Waiting.Cancelled), censored(g.Waiting.Running))
}

func censored(d distribution.Distribution) []estimate.Count {
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
	return "orders are placed by " + q.Basis.Date() + ", which comes after " + q.Leg.From.Date() +
		": those that still run are not among them"
}
