package summary

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/figure"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
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
			return nil, request.Refuse("promise", text, "want a number of working days from 0 to "+figure.Count(mostAfter))
		}
		return &Promise{After: n}, nil
	}
	plan, err := findMilestone(b, "promise", text)
	switch {
	case err != nil || !plan.Plan:
		return nil, request.Refuse("promise", text, "want a plan such as promised, wanted or expected, or a number of working days after `"+l.From.Name+"`")
	case l.To.Plan:
		return nil, request.Refuse("promise", text, "`"+l.To.Name+"` is a plan itself; a promise is about a fact, such as shipped")
	}
	return &Promise{Plan: plan}, nil
}

// words say by when: "by promised", "within 5 working days after ordered".
func (p Promise) words(from milestone.Milestone) string {
	if p.Plan.Name != "" {
		return "by " + p.Plan.Words()
	}
	return "within " + figure.Counted(p.After, "working day") + " after " + from.Words()
}

// A Standing is where an order stands towards its promise, by the days themselves: promised on a Friday and shipped on the
// Saturday is late, though no working day lies between.
type Standing uint8

// The standings; every order has one.
const (
	Early Standing = iota
	OnTheDay
	Late
	NotDue   // open, and due on the data date or later
	OpenLate // open, and due before the data date
	CancelledOpen
	NoPromise
	Standings // how many there are
)

var standingNames = [Standings]string{"early", "on-the-day", "late", "not-due", "open-late", "cancelled", "no-promise"}

// String is the standing's name in the API and on the command line.
func (s Standing) String() string { return standingNames[s] }

// ParseStanding reads what String writes. The error is a *request.Error.
func ParseStanding(text string) (Standing, error) {
	i := slices.Index(standingNames[:], text)
	if i < 0 {
		return 0, request.Refuse("standing", text, "want one of "+strings.Join(standingNames[:], ", "))
	}
	return Standing(i), nil
}

var standingLabels = [Standings]string{"early", "on the day", "late", "open, not due", "open and late", "cancelled", "no promise"}

// Label is the standing in words.
func (s Standing) Label() string { return standingLabels[s] }

// Kept says how a group's orders stand towards their promise.
type Kept struct {
	Orders [Standings]int // adds up to the orders of the group
	// Sizes are how far from the promise the end came, in working days, or the data date for what is open and late:
	// negative before it, and 0 where no working day lies between. Only Early, Late and OpenLate have one.
	Sizes [Standings]Distribution
	// HolidaysUnknown is how many sizes leave the days for which their calendar knows holidays.
	HolidaysUnknown int
}

// LateShare is how many are late, open or not, of those that can be told: reached, or due before the data date.
func (k Kept) LateShare() (late, told int) {
	late = k.Orders[Late] + k.Orders[OpenLate]
	return late, late + k.Orders[Early] + k.Orders[OnTheDay]
}

// A promisePlan is a promise resolved against a book.
type promisePlan struct {
	column   int // of the plan; −1 where dues say when
	moved    bool
	dues     [][]day.Day // by local code: the day that is due, by start day from first on
	first    day.Day
	totals   [][]int32 // by local code; see calendar.Totals
	coverage []day.Span
	dataDate day.Day
}

// promise resolves the question's promise; nil where it asks none.
func (p *plan) newPromise() *promisePlan {
	asked := p.question.Promise
	if asked == nil {
		return nil
	}
	made := &promisePlan{column: milestone.Index(p.book.Milestones(), asked.Plan.Name), dataDate: p.book.Bounds().DataDate}
	made.moved = leg.Measure{Unit: leg.WorkingDays}.CutOffMoves(p.question.Leg)
	first, last := p.book.Range(p.start)
	made.first = first
	by := map[*calendar.Calendar][]day.Day{}
	for _, own := range p.book.Locals(p.question.Side) {
		made.totals = append(made.totals, own.Totals())
		made.coverage = append(made.coverage, own.Coverage())
		if asked.Plan.Name != "" {
			continue
		}
		dues, done := by[own.Calendar]
		if !done {
			// A cut-off moves a start by no more than the days to the next one that is worked.
			for start := first; start != 0 && start <= last+farthestMove && start <= day.Last; start++ {
				// On a day that is not worked nothing is due: no days after it is the next working day.
				due, _ := own.Add(start, asked.After, calendar.Next)
				dues = append(dues, due)
			}
			by[own.Calendar] = dues
		}
		made.dues = append(made.dues, dues)
	}
	return made
}

// farthestMove is how many days a start can be moved at most, in any calendar worth the name.
const farthestMove = 400

// due is the day by which an order of a block is promised; zero where nothing says.
func (pp *promisePlan) due(p *plan, block *book.Block, row int, local uint32) day.Day {
	if pp.column >= 0 {
		return block.Columns[pp.column].Known[row]
	}
	start := block.Columns[p.start].Known[row]
	if pp.moved && block.Moved != nil {
		start = block.Moved[row]
	}
	if at := int(start - pp.first); start != 0 && at < len(pp.dues[local]) {
		return pp.dues[local][at]
	}
	return 0
}

// standing says how an order of a block stands, and how far from its promise it was reached, or the data date is.
func (pp *promisePlan) standing(p *plan, block *book.Block, row int, local uint32) (s Standing, size int, unknown bool) {
	due, reached := pp.due(p, block, row, local), block.Columns[p.end].Known[row]
	switch {
	case due == 0:
		return NoPromise, 0, false
	case reached != 0:
		s = [...]Standing{Early, OnTheDay, Late}[cmp.Compare(reached, due)+1]
	case block.Columns[p.cancelled].Known[row] != 0:
		return CancelledOpen, 0, false
	case due >= pp.dataDate:
		return NotDue, 0, false
	default:
		s, reached = OpenLate, pp.dataDate
	}
	totals, coverage := pp.totals[local], pp.coverage[local]
	low, high := min(due, reached), max(due, reached)
	return s, int(totals[reached+1] - totals[due+1]), s != OnTheDay && (low < coverage.From || high >= coverage.To)
}

// kept is what a worker has counted of promises.
type kept struct {
	orders  []uint32   // groups × Standings
	unknown []uint32   // by group
	sizes   lengthList // the standing stands as the plane
	// cells count the sizes that lie near the promise: group × Standings × keptWidth, where there are not too many groups.
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
	k := &kept{orders: make([]uint32, p.groups*int(Standings)), unknown: make([]uint32, p.groups)}
	if n := p.groups * int(Standings) * keptWidth; n <= denseCells {
		k.cells = make([]uint32, n)
	}
	return k
}

// countPromises counts how the orders of a chunk that are asked about stand towards their promise.
func (p *plan) countPromises(block *book.Block, from, to int, codes, locals []uint32, space *scratch, k *kept) {
	basis, truths := block.Columns[p.basisRow].Known[from:to], space.truths[:to-from]
	for i, group := range codes {
		if uint32(basis[i]-p.basisFrom) >= p.basisWidth || truths[i] != predicate.True {
			continue
		}
		s, size, unknown := p.promise.standing(p, block, from+i, locals[i])
		at := int(group)*int(Standings) + int(s)
		k.orders[at]++
		if s != Early && s != Late && s != OpenLate {
			continue
		}
		if unknown {
			k.unknown[group]++
		}
		if cell := uint(size - keptLow); cell < keptWidth && k.cells != nil {
			k.cells[uint(at)*keptWidth+cell]++
		} else {
			k.sizes.add(listed(group, size, uint32(s)))
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
	k.sizes.join(other.sizes)
}

// gatherKept turns the counts into one Kept for each group.
func (p *plan) gatherKept(k *kept) []Kept {
	all := make([]Kept, p.groups)
	by := byGroup(k.sizes, p.groups)
	for g := range all {
		all[g].HolidaysUnknown = int(k.unknown[g])
		for s := range int(Standings) {
			at := g*int(Standings) + s
			all[g].Orders[s] = int(k.orders[at])
			var near, far Distribution
			if k.cells != nil {
				near = counts(k.cells[at*keptWidth:][:keptWidth], keptLow)
			}
			for _, l := range by.of(g) {
				if l.plane() == uint32(s) {
					far = far.with(l.length(), 1)
				}
			}
			all[g].Sizes[s] = merged(near, far)
		}
	}
	return all
}
