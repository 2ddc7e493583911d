package status

import (
	"cmp"
	"encoding/binary"
	"slices"

	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/statuses"
)

// A Path is the statuses that orders took one after another.
type Path struct {
	Statuses []uint32
	Orders   int
	Ended    int // whose last status is final
	// Lengths are from the first record up to where the order ended, or the data date.
	Cell
}

func (p *Path) add(other *Path) {
	p.Orders, p.Ended = p.Orders+other.Orders, p.Ended+other.Ended
	p.Cell.add(&other.Cell)
}

// Transitions say how orders went from status to status.
type Transitions struct {
	Answer
	// Matrix has the transitions by from and to, with the lengths of the status periods before them; a silence makes no transition.
	Matrix [][]Cell
	// First and Last are how many orders begin in each status, and stand in it last.
	First, Last []int
	// Returns are, by the status that is entered again, how often and by how many orders, and how long they were away.
	Returns []Cell
	// Paths are the ways that orders took, the most frequent first.
	Paths []Path
}

// pathOf is the way of an order: its statuses, without silences and what only they part.
func pathOf(own []statuses.Period, space []uint32) []uint32 {
	for _, s := range own {
		if s.Status != statuses.NotSeen && (len(space) == 0 || space[len(space)-1] != s.Status) {
			space = append(space, s.Status)
		}
	}
	return space
}

// transitionCells are where the cells of returns, of first and of last statuses begin, after those of transitions.
func transitionCells(statuses int) (returns, first, last int) {
	n := statuses
	return n * n, n*n + n, n*n + 2*n
}

// transitions counts the transitions, the returns and the path of an order.
func (r *run) transitions(t *tally, o asked) {
	n := len(r.history.Statuses)
	returns, first, last := transitionCells(n)
	var space [16]uint32
	var bytes [64]byte
	if len(o.own) == 0 {
		t.none[0]++
		return
	}
	var visitedSpace [16]int
	visited := visitedSpace[:0]
	count := func(at, ticks int, told bool) {
		c := t.cell(at)
		c.Count++
		if !slices.Contains(visited, at) {
			c.Orders++
			visited = append(visited, at)
		}
		c.measure(ticks, told)
	}
	for i, s := range o.own {
		if i > 0 && leads(r.history, o.own[i-1], s) && r.question.begun(o.own[i-1]) {
			ticks, told := r.question.length(r.history, o, i-1)
			count(int(o.own[i-1].Status)*n+int(s.Status), ticks, told)
		}
		if left := statuses.Returned(o.own, i); left >= 0 && s.Status != statuses.NotSeen && r.question.begun(s) {
			ticks, told := r.question.between(o, leg.Stretch{Start: o.own[left].Until, StartAt: statuses.BeginsAt(o.own, left+1),
				End: s.From, EndAt: s.FromAt})
			count(returns+int(s.Status), ticks, told)
		}
	}
	way := pathOf(o.own, space[:0])
	t.cell(first+int(way[0])).Count++
	t.cell(last+int(o.own[len(o.own)-1].Status)).Count++
	key := bytes[:0]
	for _, status := range way {
		key = binary.AppendUvarint(key, uint64(status))
	}
	p := t.paths[string(key)]
	if p == nil {
		p = t.path(string(key), way)
	}
	p.Orders++
	whole := leg.Stretch{Start: o.own[0].From, StartAt: o.own[0].FromAt, End: r.history.Rules.DataDate}
	if end := o.own[len(o.own)-1]; r.history.Rules.Ends(end) {
		p.Ended++
		whole.End, whole.EndAt = end.From, end.FromAt
	}
	p.measure(r.question.between(o, whole))
}

func (t *tally) path(key string, statuses []uint32) *Path {
	p := t.paths[key]
	if p == nil {
		p = &Path{Statuses: slices.Clone(statuses)}
		t.paths[key] = p
	}
	return p
}

// TransitionsOf counts the transitions whose status period before, and the returns whose status period, began in the question's
// period. First, Last and Paths are of whole orders. Nothing is grouped.
func TransitionsOf(h *statuses.History, q Question) Transitions {
	q.By, q.Each = nil, query.NoCut
	n := len(h.Statuses)
	r := newRun(h, q)
	t, population := r.count(r.transitions)
	returns, first, last := transitionCells(n)
	m := Transitions{Answer: Answer{Population: population, RecordCounts: t.records},
		Matrix: make([][]Cell, n), First: make([]int, n), Last: make([]int, n), Returns: make([]Cell, n)}
	m.Total = Group{Orders: population.Asked, NoStatus: t.none[0]}
	for i := range m.Matrix {
		m.Matrix[i] = make([]Cell, n)
	}
	for at, c := range t.cells {
		c.settle()
		switch {
		case at < returns:
			m.Matrix[at/n][at%n] = *c
		case at < first:
			m.Returns[at-returns] = *c
		case at < last:
			m.First[at-first] = c.Count
		default:
			m.Last[at-last] = c.Count
		}
	}
	for _, p := range t.paths {
		p.settle()
		m.Paths = append(m.Paths, *p)
	}
	slices.SortFunc(m.Paths, func(a, b Path) int {
		return cmp.Or(cmp.Compare(b.Orders, a.Orders), slices.Compare(a.Statuses, b.Statuses))
	})
	return m
}
