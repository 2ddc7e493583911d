package query

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/request"
)

// A Scope is who a question is about in one period, and in which groups, resolved against a book: indexes and tables instead of
// names. Run counts over it.
type Scope struct {
	Book   *book.Book
	Axes   []*Axis // of the groupings, at most two
	Groups int     // how many there can be: one without groupings

	period   period.Period
	calendar book.CalendarSource
	// An order lies in the period where uint32(basis − from) < width. Without a period that holds for every order, undated
	// ones too.
	basis int
	from  day.Day
	width uint32
	where *predicate.Bound // nil where no condition picks the orders
	// byMissing picks orders that lack one of two values which the condition compares with !=; nil where it compares none.
	byMissing *predicate.Bound
	shown     Placement // what accumulators are shown; see Of
}

// NewScope resolves who a question is about in a period, which need not be one of its own.
func NewScope(b *book.Book, q Question, p period.Period) *Scope {
	s := &Scope{Book: b, Groups: 1, period: p, calendar: q.Calendar, basis: max(0, milestone.Index(b.Milestones(), q.Basis.Name)),
		width: math.MaxUint32}
	if !p.Unbounded() {
		s.from, s.width = p.Span.From, uint32(p.Span.Days())
	}
	if q.Where.Condition != nil {
		s.where = q.Where.Bind(b, q.Where.Condition)
		if lacking := predicate.UnequalToMissing(q.Where.Condition); lacking != nil {
			s.byMissing = q.Where.Bind(b, lacking)
		}
	}
	for _, g := range q.By {
		axis := NewAxis(b, g, s.basis, p)
		s.Axes = append(s.Axes, axis)
		s.Groups *= len(axis.Labels)
	}
	return s
}

// WholeBook is the scope of a question in no period: what it asks about days is not what places its orders.
func WholeBook(b *book.Book, q Question) *Scope { return NewScope(b, q, period.All(b.Bounds())) }

// All says that the scope is about all orders.
func (s *Scope) All() bool { return s.width == math.MaxUint32 && s.where == nil && s.shown == Asked }

// Of is the scope of the orders of a placement: those that a question leaves out can be listed, too.
func (s *Scope) Of(placed Placement) *Scope {
	of := *s
	of.shown = placed
	return &of
}

// place says how an order of this basis day and truth is placed.
func (s *Scope) place(basis day.Day, truth predicate.Truth) Placement {
	switch {
	case uint32(basis-s.from) >= s.width && basis == 0:
		return Undated
	case uint32(basis-s.from) >= s.width:
		return Outside
	}
	return [...]Placement{predicate.True: Asked, predicate.False: Unmet, predicate.Undecided: Undecided}[truth]
}

// Holds says whether an order lies in the period, whatever the condition says of it.
func (s *Scope) Holds(o book.Offset) bool {
	return uint32(o.Block.Columns[s.basis].Known[o.At]-s.from) < s.width
}

// Compares says that the condition compares two values with !=, so that a missing one can make it hold.
func (s *Scope) Compares() bool { return s.byMissing != nil }

// ByMissing says whether an order lacks one of two values that the condition compares with !=.
func (s *Scope) ByMissing(o book.Offset) bool {
	return s.byMissing != nil && s.byMissing.One(o.Block, o.At) == predicate.True
}

// Codes are those of the groupings of a group.
func (s *Scope) Codes(group int) (codes [MostGroupings]int) {
	for i := len(s.Axes) - 1; i >= 0; i-- {
		codes[i] = group % len(s.Axes[i].Labels)
		group /= len(s.Axes[i].Labels)
	}
	return codes
}

// Keys are those of a group, and the step of time that it is; zero where it is none.
func (s *Scope) Keys(group int) (keys []string, step day.Span) {
	codes := s.Codes(group)
	keys = make([]string, len(s.Axes))
	for i, axis := range s.Axes {
		keys[i] = axis.Labels[codes[i]]
	}
	return keys, s.Step(group)
}

// Step are the days of the step of time that a group is; zero where no grouping cuts time.
func (s *Scope) Step(group int) (step day.Span) {
	codes := s.Codes(group)
	for i, axis := range s.Axes {
		if axis.spans != nil {
			step = axis.Span(codes[i])
		}
	}
	return step
}

// Order is the place of a group in time, zero for none, and that of its keys in their natural order.
func (s *Scope) Order(group int) (time day.Day, rank int64) {
	codes := s.Codes(group)
	for i, axis := range s.Axes {
		time, rank = max(time, axis.Time(codes[i])), rank<<31|axis.Rank(codes[i])
	}
	return time, rank
}

// Arrange gives groups by time, then with the greatest first, then by their names.
func (s *Scope) Arrange(groups []int, size func(group int) int) []int {
	groups = slices.Clone(groups)
	slices.SortStableFunc(groups, func(a, b int) int {
		x, rankX := s.Order(a)
		y, rankY := s.Order(b)
		return cmp.Or(cmp.Compare(uint32(x-1), uint32(y-1)), cmp.Compare(size(b), size(a)), cmp.Compare(rankX, rankY))
	})
	return groups
}

// GroupOf is the group with these keys. The error is a *request.Error.
func (s *Scope) GroupOf(keys []string) (uint32, error) {
	if len(keys) != len(s.Axes) {
		return 0, request.Invalid("group", strings.Join(keys, ","), fmt.Sprintf("want one key for each grouping, %d", len(s.Axes)))
	}
	group := uint32(0)
	for i, key := range keys {
		code, known := s.Axes[i].code(key)
		if !known {
			return 0, request.Invalid("group", key, "no group of this answer by "+s.Axes[i].Grouping.String())
		}
		group = group*uint32(len(s.Axes[i].Labels)) + code
	}
	return group, nil
}
