package duration

import (
	"strconv"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// A Promise is the day by which the end of a leg is to come: a plan, or so many working days after the start.
type Promise struct {
	Plan  milestone.Milestone
	After int // where Plan has no name
}

// mostAfter bounds a promise in working days.
const mostAfter = 10_000

func parsePromise(b *book.Book, l leg.Leg, text string) (*Promise, error) {
	if text == "" {
		return nil, nil
	}
	if n, err := strconv.Atoi(text); err == nil {
		if n < 0 || n > mostAfter {
			return nil, request.Invalid("promise", text, "want a number of working days from 0 to "+numfmt.Count(mostAfter))
		}
		return &Promise{After: n}, nil
	}
	plan, err := query.FindMilestone(b, "promise", text)
	switch {
	case err != nil || !plan.Plan:
		return nil, request.Invalid("promise", text,
			"want a plan such as promised, requested or expected, or a number of working days after the "+l.From.Date())
	case l.To.Plan:
		return nil, request.Invalid("promise", text, "the "+l.To.Date()+" is a plan itself; a promise is about a fact, such as shipped")
	}
	return &Promise{Plan: plan}, nil
}

// words say by when: "by promised", "within 5 working days after ordered".
func (p Promise) words(from milestone.Milestone) string {
	if p.Plan.Name != "" {
		return "by the " + p.Plan.Date()
	}
	return "within " + numfmt.Counted(p.After, "working day") + " after the " + from.Date()
}

// Kept says how a group's orders stand towards their promise.
type Kept struct {
	Orders [promise.Outcomes]int // adds up to the orders of the group
	// Sizes are how far from the promise the end came, in working days, or the data date for what is overdue: negative
	// before it, and 0 where no working day lies between. The start day is never counted, whatever the count rule. Only
	// outcomes that are Sized have one.
	Sizes [promise.Outcomes]distribution.Distribution
	// HolidaysUnknown is how many due days or sizes leave the days for which their calendar knows holidays.
	HolidaysUnknown int
}

// LateShare is how many are late, open or not, of those that can be told: reached, or due before the data date.
func (k Kept) LateShare() (late, told int) {
	late = k.Orders[promise.ReachedLate] + k.Orders[promise.Overdue]
	return late, late + k.Orders[promise.Early] + k.Orders[promise.OnTheDay]
}

// A promisePlan is a promise resolved against a book.
type promisePlan struct {
	dues     *promise.Dues
	totals   [][]int32 // by local code; see calendar.Totals
	coverage []*calendar.Calendar
	covered  []day.Span // of each of those, the first stretch of days that it covers
	dataDate day.Day
}

// promise resolves the question's promise; nil where it asks none.
func (p *plan) newPromise() *promisePlan {
	asked := p.question.Promise
	if asked == nil {
		return nil
	}
	when := promise.When{Plan: asked.Plan, After: asked.After, From: p.question.Leg.From, NoCutOff: p.question.Measure.NoCutOff}
	made := &promisePlan{dues: promise.NewDues(p.book, when, p.question.Calendar), dataDate: p.book.Bounds().DataDate}
	for _, own := range p.calendars {
		made.totals = append(made.totals, own.Totals())
		made.coverage, made.covered = append(made.coverage, own.Calendar), append(made.covered, day.Span{})
		if spans := own.Coverage(); len(spans) > 0 {
			made.covered[len(made.covered)-1] = spans[0]
		}
	}
	return made
}

// outcome says how an order of a block stands, and how far from its promise it was reached, or the data date is. Unknown says
// that the due day, or that distance, leaves the days for which the calendar knows holidays.
func (pp *promisePlan) outcome(p *plan, block *book.Block, row int, local uint32) (o promise.Outcome, size int, unknown bool) {
	due, far := pp.dues.Of(block, row, local)
	start := block.Columns[p.start]
	d := promise.Days{Due: due, Reached: block.Columns[p.end].Known[row], Cancelled: block.Columns[p.cancelled].Known[row],
		NotBegun: start.Known[row] == 0 && start.Raw[row] != 0}
	o = promise.Of(d, pp.dataDate)
	switch {
	case o >= promise.Cancelled:
		return o, 0, false
	case !o.Sized():
		return o, 0, far
	}
	end := d.Reached
	if o == promise.Overdue {
		end = pp.dataDate
	}
	totals := pp.totals[local]
	return o, int(totals[end+1] - totals[due+1]), far || !pp.coverage[local].Covers(min(due, end), max(due, end))
}

// reached is outcome of an order that was reached on a day, and due on another.
func (pp *promisePlan) reached(on, due day.Day, local uint32) (o promise.Outcome, size int, unknown bool) {
	if on == due {
		return promise.OnTheDay, 0, false
	}
	o, first, last := promise.ReachedLate, due, on
	if on < due {
		o, first, last = promise.Early, on, due
	}
	totals, covered := pp.totals[local], pp.covered[local]
	return o, int(totals[on+1] - totals[due+1]), !(covered.From <= first && last < covered.To) && !pp.coverage[local].Covers(first, last)
}

// kept is what a worker has counted of promises.
type kept struct {
	orders  []uint32          // groups × promise.Outcomes
	unknown []uint32          // by group
	sizes   distribution.List // the outcome stands as the plane
	// cells count the sizes that lie near the promise: group × promise.Outcomes × keptWidth, where there are not too many groups.
	cells []uint32
}

const (
	keptWidth = 128
	keptLow   = -keptWidth / 2
)

func (p *plan) newKept() *kept {
	if p.promise == nil {
		return nil
	}
	k := &kept{orders: make([]uint32, p.scope.Groups*int(promise.Outcomes)), unknown: make([]uint32, p.scope.Groups)}
	if n := p.scope.Groups * int(promise.Outcomes) * keptWidth; n <= denseCells {
		k.cells = make([]uint32, n)
	}
	return k
}

// countPromises counts how the orders of a stretch stand towards their promise.
func (t *tally) countPromises(s *query.Stretch) {
	p, k := t.plan, t.kept
	planned, reached, begun := p.promise.dues.Planned(s.Block), s.Block.Columns[p.end].Known[s.From:], s.Block.Columns[p.start].Known[s.From:]
	if planned != nil {
		planned = planned[s.From:]
	}
	for _, i := range s.Chosen() {
		group := s.Groups[i]
		var o promise.Outcome
		var size int
		var unknown bool
		// Most orders have begun and reached a day that was planned; the others are decided one by one.
		if planned != nil && planned[i] != 0 && reached[i] != 0 && begun[i] != 0 {
			o, size, unknown = p.promise.reached(reached[i], planned[i], s.Calendars[i])
		} else {
			o, size, unknown = p.promise.outcome(p, s.Block, s.From+int(i), s.Calendars[i])
		}
		at := int(group)*int(promise.Outcomes) + int(o)
		k.orders[at]++
		if unknown {
			k.unknown[group]++
		}
		if !o.Sized() {
			continue
		}
		if cell := uint(size - keptLow); cell < keptWidth && k.cells != nil {
			k.cells[uint(at)*keptWidth+cell]++
		} else {
			k.sizes.Add(distribution.NewItem(group, size, uint32(o)))
		}
	}
}

func (k *kept) add(other *kept) {
	if k == nil {
		return
	}
	for i, n := range other.orders {
		k.orders[i] += n
	}
	for i, n := range other.unknown {
		k.unknown[i] += n
	}
	for i, n := range other.cells {
		k.cells[i] += n
	}
	k.sizes.Join(other.sizes)
}

// gatherKept turns the counts into one Kept for each group.
func (p *plan) gatherKept(k *kept) []Kept {
	all := make([]Kept, p.scope.Groups)
	by := k.sizes.ByGroup(p.scope.Groups)
	for g := range all {
		all[g].HolidaysUnknown = int(k.unknown[g])
		for s := range int(promise.Outcomes) {
			at := g*int(promise.Outcomes) + s
			all[g].Orders[s] = int(k.orders[at])
			var near, far distribution.Distribution
			if k.cells != nil {
				near = distribution.Counted(k.cells[at*keptWidth:][:keptWidth], keptLow)
			}
			for _, l := range by.Of(g) {
				if l.Plane() == uint32(s) {
					far = far.With(l.Length(), 1)
				}
			}
			all[g].Sizes[s] = distribution.Merged(near, far)
		}
	}
	return all
}
