package status

import (
	"cmp"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/stays"
)

// A Place is one stay in a list of them.
type Place struct {
	stays.Stay
	Row      int // of the order in the book
	Sequence int // among the order's stays, from 1
	Ticks    int
	Told     bool // it has a length
	Flags    stays.Flag
}

// The orders of a list of stays: by the number of the order, the longest first, or the latest first.
var sorts = []string{"order", "length", "from"}

// A found is what one worker has listed.
type found struct {
	*run
	wanted func(stays.Stay) bool
	places []Place
}

// Visit lists the stays of a stretch.
func (f *found) Visit(s *query.Stretch) {
	f.each(s, func(o asked) { f.places = listed(f.history, f.places, f.question, o, f.wanted) })
}

// Merge takes in what another worker has listed.
func (f *found) Merge(other *found) { f.places = append(f.places, other.places...) }

// List gives the stays that began in the question's period, of one status or, with an empty name, of all, sorted by order,
// length (the longest first) or from (the latest first). The error is a *request.Error.
func List(h *stays.History, q Question, status, sort string) ([]Place, query.Population, error) {
	if sort == "" {
		sort = sorts[0]
	}
	if !slices.Contains(sorts, sort) {
		return nil, query.Population{}, request.Invalid("sort", sort, "want one of "+strings.Join(sorts, ", "))
	}
	only, err := named(h, status)
	if err != nil {
		return nil, query.Population{}, err
	}
	r := newRun(h, q)
	all, population := query.Run(r.scope, func() *found {
		return &found{run: r, wanted: func(s stays.Stay) bool { return (status == "" || s.Status == only) && q.begun(s) }}
	})
	places, numbers := all.places, h.Book().NumberRanks()
	slices.SortFunc(places, func(a, b Place) int {
		own := 0
		switch {
		case sort == "length" && a.Told != b.Told:
			own = map[bool]int{true: -1, false: 1}[a.Told]
		case sort == "length":
			own = cmp.Compare(b.Ticks, a.Ticks)
		case sort == "from":
			own = cmp.Compare(b.From, a.From)
		}
		return cmp.Or(own, cmp.Compare(numbers[a.Row], numbers[b.Row]), cmp.Compare(a.Sequence, b.Sequence))
	})
	return places, population, nil
}

// OfOrder lists the stays of the order in a row of the book.
func OfOrder(h *stays.History, q Question, row int) []Place {
	block, i := h.Book().Locate(row)
	o := asked{Offset: book.Offset{Block: block, At: i, Row: row}, calendar: h.Book().SiteCalendarAt(q.Calendar, row), own: h.Stays(block, i), flags: h.Flags(block, i)}
	return listed(h, nil, q, o, func(stays.Stay) bool { return true })
}

// listed adds the stays of an order that are wanted to a list.
func listed(h *stays.History, places []Place, q Question, o asked, wanted func(stays.Stay) bool) []Place {
	for i, s := range o.own {
		if wanted(s) {
			ticks, told := q.length(h, o, i)
			places = append(places, Place{s, o.Row, i + 1, ticks, told, o.flags})
		}
	}
	return places
}

// named is a status by its name; "not seen" is the silence. The error is a *request.Error.
func named(h *stays.History, name string) (uint32, error) {
	if name == "" || name == h.Statuses[stays.NotSeen].Name {
		return stays.NotSeen, nil
	}
	code, known := h.Code(name)
	if !known {
		return 0, request.Invalid("status", name, "the records have no such status; want one of "+strings.Join(h.Names(), ", "))
	}
	return code, nil
}

// What a Pick can name, and what stands with it.
const (
	PickLatest      = "latest"      // stood in a status at the end of the question's day
	PickNone        = "none"        // had no record by then
	PickVisited     = "visited"     // a stay in a status that began in the period
	PickMoved       = "moved"       // from a status to another
	PickReturned    = "returned"    // to a status
	PickPath        = "path"        // the way the order took
	PickAmbiguous   = "ambiguous"   // clashing records
	PickDisagreeing = "disagreeing" // sources that differ
)

var picks = []string{PickLatest, PickNone, PickVisited, PickMoved, PickReturned, PickPath, PickAmbiguous, PickDisagreeing}

// Arrow stands between the statuses of a path or a move.
const Arrow = " → "

// Test says which orders a pick names: one of the constants, with the statuses that it needs after a colon, as in
// "moved:picking → packed". The error is a *request.Error.
func Test(h *stays.History, q Question, pick string) (query.Test, error) {
	what, of, _ := strings.Cut(pick, ":")
	if !slices.Contains(picks, what) {
		return nil, request.Invalid("status", pick, "want one of "+strings.Join(picks, ", ")+", with the statuses after a colon where it needs some, as in latest:packed or moved:picking → packed")
	}
	var code uint32
	if what == PickLatest || what == PickVisited || what == PickReturned {
		var err error
		if code, err = named(h, of); err != nil {
			return nil, err
		}
	}
	anyStay := func(holds func(own []stays.Stay, i int) bool) query.Test {
		return func(o book.Offset) bool {
			own := h.Stays(o.Block, o.At)
			for i := range own {
				if holds(own, i) {
					return true
				}
			}
			return false
		}
	}
	switch what {
	case PickLatest, PickNone:
		return func(o book.Offset) bool {
			own := h.Stays(o.Block, o.At)
			at := stays.Holding(own, q.At)
			return what == PickNone && at < 0 || what == PickLatest && at >= 0 && own[at].Status == code
		}, nil
	case PickVisited:
		return anyStay(func(own []stays.Stay, i int) bool { return own[i].Status == code && q.begun(own[i]) }), nil
	case PickReturned:
		return anyStay(func(own []stays.Stay, i int) bool {
			return own[i].Status == code && stays.Returned(own, i) >= 0 && q.begun(own[i])
		}), nil
	case PickMoved:
		return anyStay(func(own []stays.Stay, i int) bool {
			return i > 0 && moves(h, own[i-1], own[i]) && q.begun(own[i-1]) && h.Statuses[own[i-1].Status].Name+Arrow+h.Statuses[own[i].Status].Name == of
		}), nil
	case PickPath:
		return func(o book.Offset) bool { return PathText(h, pathOf(h.Stays(o.Block, o.At), nil)) == of }, nil
	case PickAmbiguous:
		return func(o book.Offset) bool { return h.Flags(o.Block, o.At)&stays.Ambiguous != 0 }, nil
	}
	return func(o book.Offset) bool { return len(h.Disagreements(o.Block, o.At)) > 0 }, nil
}

// moves says whether one stay leads to the next; a silence makes no move.
func moves(h *stays.History, before, after stays.Stay) bool {
	return before.Status != stays.NotSeen && after.Status != stays.NotSeen
}

// PathText names the statuses of a way, one after another.
func PathText(h *stays.History, way []uint32) string {
	names := make([]string, len(way))
	for i, status := range way {
		names[i] = h.Statuses[status].Name
	}
	return strings.Join(names, Arrow)
}
