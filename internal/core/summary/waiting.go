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

// gatherWaiting looks at the legs without an end, group by group.
func (p *plan) gatherWaiting() []Waiting {
	running, cancelled := make([]map[int]int, p.groups), make([]map[int]int, p.groups)
	waiting := make([]Waiting, p.groups)
	for g := range waiting {
		running[g], cancelled[g] = map[int]int{}, map[int]int{}
	}
	var space scratch
	dataDate := p.book.Bounds().DataDate
	for _, block := range p.book.Blocks() {
		for from := 0; from < len(block.IDs); from += chunkRows {
			to := min(from+chunkRows, len(block.IDs))
			p.decide(block, from, space.truths[:to-from])
			for i, group := range p.groupCodes(block, from, to, &space) {
				row := from + i
				if p.placed(block.Columns[p.basisRow].Known[row], space.truths[i]) != "" {
					continue
				}
				d := p.dates(block, row)
				switch leg.StateOf(p.twoWay, d) {
				case leg.Running:
					if length, told := p.lengthUntil(block, row, d, dataDate); told {
						running[group][length]++
					} else {
						waiting[group].Untold++
					}
				case leg.Cancelled:
					if length, told := p.lengthUntil(block, row, d, d.Cancelled); told {
						cancelled[group][length]++
					}
				}
			}
		}
	}
	for g := range waiting {
		waiting[g].Running, waiting[g].Cancelled = distributionOf(running[g]), distributionOf(cancelled[g])
	}
	return waiting
}

// lengthUntil is the length of an order's leg as if it ended on a day; false where the unit wants an instant.
func (p *plan) lengthUntil(block *book.Block, row int, d leg.Dates, end day.Day) (length int, told bool) {
	d.End = end
	stretch := p.stretch(block, row, d)
	stretch.EndAt = 0
	var scratch [1]uint32
	own := p.book.Locals(p.question.Side)[p.book.LocalCodes(p.question.Side, block, row, row+1, scratch[:])[0]]
	length, lacking := p.question.Measure.Length(own.Local, stretch)
	return length, lacking == leg.Complete
}

// totalWaiting adds the waiting of groups up.
func totalWaiting(groups []Group) (sum Waiting) {
	running, cancelled := map[int]int{}, map[int]int{}
	for _, g := range groups {
		sum.Untold += g.Waiting.Untold
		for _, bar := range g.Waiting.Running {
			running[bar.Length] += bar.Orders
		}
		for _, bar := range g.Waiting.Cancelled {
			cancelled[bar.Length] += bar.Orders
		}
	}
	sum.Running, sum.Cancelled = distributionOf(running), distributionOf(cancelled)
	return sum
}

// Over divides a group by a limit: over is finished over and still waiting and already over; a running leg that is not over
// yet is undecided.
type Over struct {
	Finished, Waiting int
	Within            int // finished, at or under
	Undecided         int
}

// Over counts lengths beyond a limit.
func (g Group) Over(l Limit) (o Over) {
	limit := l.Ticks
	if l.Least {
		limit--
	}
	for _, bar := range g.Lengths {
		if bar.Length > limit {
			o.Finished += bar.Orders
		} else {
			o.Within += bar.Orders
		}
	}
	for _, bar := range g.Waiting.Running {
		if bar.Length > limit {
			o.Waiting += bar.Orders
		} else {
			o.Undecided += bar.Orders
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

// Curve is the product-limit estimate of a group, with the legs that still run.
func (g Group) Curve() estimate.Curve {
	return estimate.ProductLimit(g.Lengths.counts(), g.Waiting.Running.counts())
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
