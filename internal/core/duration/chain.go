package duration

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
)

// A LegPart is what one leg of a chain comes to: its own orders, groups and statistics.
type LegPart struct {
	Leg    leg.Leg
	Groups []Group // as the whole's, in its order
	Total  Group
}

// CompletedChain are the orders of a group that have completed every leg of a chain, and what their lengths of one leg, or of the
// whole, sum to.
type CompletedChain struct {
	Orders int
	Ticks  int
}

// Mean is the mean length over the orders that have completed every leg, in ticks.
func (e CompletedChain) Mean() float64 { return float64(e.Ticks) / float64(e.Orders) }

// ChainLine says whether the legs add up to the whole over the orders that have completed all of them, and why not where
// they do not. It is empty without a chain.
func (p Part) ChainLine(q Question) string {
	if len(p.Legs) == 0 {
		return ""
	}
	whole, sum := p.Total.Every, 0
	for _, l := range p.Legs {
		sum += l.Total.Every.Ticks
	}
	orders := numfmt.Counted(whole.Orders, "order")
	switch {
	case whole.Orders == 0:
		return "no order has completed every leg, so that there is nothing to add up"
	case sum == whole.Ticks:
		return "over the " + orders + " with every leg complete the means of the legs add up to that of the whole; the other columns have each leg's own orders, and do not"
	}
	return "over the " + orders + " with every leg complete the means of the legs do not add up to that of the whole: " + q.whyNot()
}

// whyNot says why the lengths of legs that follow each other differ from that of the whole.
func (q Question) whyNot() string {
	switch {
	case q.Measure.Rule == leg.BothEnds:
		return "both ends of each leg count, so that a day on which one ends and the next begins counts twice"
	case q.Measure.Unit == leg.Months || q.Measure.Unit == leg.Years || q.Measure.Unit == leg.MonthsFraction:
		return "what one leg begins of a month or a year the next one can complete"
	}
	return "where the cut-off of a site has an order count as one of a later working day, the leg from the order date begins on that day, and is 0 where it had ended before"
}

// everyPlan reckons the legs of a chain beside each other.
type everyPlan struct {
	legs []*plan // the chain's, then the whole
}

// newEvery resolves the question's chain; nil where it has none.
func (p *plan) newEvery() *everyPlan {
	chain := p.question.Chain()
	if chain == nil {
		return nil
	}
	e := &everyPlan{}
	for _, l := range append(chain, p.question.Leg) {
		e.legs = append(e.legs, newPlan(p.scope, p.question.alone(l)))
	}
	return e
}

// alone is the question about the lengths of one leg only.
func (q Question) alone(l leg.Leg) Question {
	q.Leg, q.Through, q.Promise, q.Limit, q.Waiting = l, nil, nil, nil, false
	return q
}

// every is what a worker has counted of orders with every leg complete: by group, and by leg within it.
type every struct {
	orders   []int
	ticks    []int
	reckoned [][query.StretchRows]uint32 // by leg
	lengths  []int                       // of one order, by leg
}

func (p *plan) newEveryCount() *every {
	if p.every == nil {
		return nil
	}
	n := len(p.every.legs)
	return &every{make([]int, p.scope.Groups), make([]int, p.scope.Groups*n), make([][query.StretchRows]uint32, n), make([]int, n)}
}

// countEvery counts the orders of a stretch that have completed every leg.
func (t *tally) countEvery(s *query.Stretch) {
	legs, e := t.plan.every.legs, t.every
	for j, l := range legs {
		reckoned := e.reckoned[j][:s.To-s.From]
		if !l.tabulated {
			for i := range reckoned {
				reckoned[i] = notReckoned
			}
			continue
		}
		l.table.reckon(reckoned, l.starts(s.Block)[s.From:s.To], s.Block.Columns[l.end].Known[s.From:s.To], s.Calendars)
	}
orders:
	for _, i := range s.Chosen() {
		for j, l := range legs {
			var complete bool
			if e.lengths[j], complete = l.complete(s.Block, s.From+int(i), s.Calendars[i], e.reckoned[j][i]); !complete {
				continue orders
			}
		}
		group := s.Groups[i]
		e.orders[group]++
		for j := range legs {
			e.ticks[int(group)*len(legs)+j] += e.lengths[j]
		}
	}
}

// complete is the length of an order's leg, by what was reckoned of it if that is its length; false where it has none.
func (p *plan) complete(block *book.Block, row int, calendar, reckoned uint32) (length int, complete bool) {
	if reckoned != notReckoned {
		return int(reckoned&(1<<p.table.shift-1)) + p.low, true
	}
	d := leg.Dates{Start: block.Columns[p.start].Known[row], End: block.Columns[p.end].Known[row]}
	if d.Start == 0 || d.End == 0 || !p.decider.State(d).Counted() {
		return 0, false
	}
	length, state := p.question.Measure.Length(p.calendars[calendar].Local, p.stretch(block, row, d))
	return length, state == leg.Complete
}

func (e *every) add(other *every) {
	if e == nil {
		return
	}
	for i, n := range other.orders {
		e.orders[i] += n
	}
	for i, n := range other.ticks {
		e.ticks[i] += n
	}
}

// of is what one leg comes to for one group.
func (e *every) of(group, leg int) CompletedChain {
	return CompletedChain{e.orders[group], e.ticks[group*len(e.ticks)/len(e.orders)+leg]}
}
