package status

import (
	"cmp"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/summary"
)

// A Place is one stay in a list of them.
type Place struct {
	Stay
	Row      int // of the order in the book
	Sequence int // among the order's stays, from 1
	Ticks    int
	Told     bool // it has a length
	Flags    Flag
}

// The orders of a list of stays: by the number of the order, the longest first, or the latest first.
var sorts = []string{"order", "length", "from"}

// A found is what one worker has listed.
type found struct {
	Placement
	places []Place
}

func (f *found) placement() *Placement { return &f.Placement }

// List gives the stays that began in the question's period, of one status or, with an empty name, of all, sorted by order,
// length (the longest first) or from (the latest first). The error is a *request.Error.
func (h *History) List(q Question, status, sort string) ([]Place, Placement, error) {
	if sort == "" {
		sort = sorts[0]
	}
	if !slices.Contains(sorts, sort) {
		return nil, Placement{}, request.Refuse("sort", sort, "want one of "+strings.Join(sorts, ", "))
	}
	only, err := h.named(status)
	if err != nil {
		return nil, Placement{}, err
	}
	all := walk(h, summary.NewGrouper(h.book, q.Question), q, func() *found { return &found{} }, func(f *found, o asked) {
		f.places = h.listed(f.places, q, o, func(s Stay) bool { return (status == "" || s.Status == only) && q.begun(s) })
	})
	for _, f := range all[1:] {
		all[0].places = append(all[0].places, f.places...)
		all[0].add(f.Placement)
	}
	places, numbers := all[0].places, h.book.NumberRanks()
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
	return places, all[0].settled(), nil
}

// OfOrder lists the stays of the order in a row of the book.
func (h *History) OfOrder(q Question, row int) []Place {
	block, i := h.book.Blocks()[row/book.BlockSize], row%book.BlockSize
	o := asked{block: block, row: i, local: h.book.LocalAt(q.Side, row), stays: h.Stays(block, i), flags: h.Flags(block, i)}
	return h.listed(nil, q, o, func(Stay) bool { return true })
}

// listed adds the stays of an order that are wanted to a list.
func (h *History) listed(places []Place, q Question, o asked, wanted func(Stay) bool) []Place {
	row := h.places[o.block.IDs[0]]*book.BlockSize + o.row
	for i, s := range o.stays {
		if wanted(s) {
			ticks, told := q.length(h, o, i)
			places = append(places, Place{s, row, i + 1, ticks, told, o.flags})
		}
	}
	return places
}

// named is a status by its name; "not seen" is the silence. The error is a *request.Error.
func (h *History) named(name string) (uint32, error) {
	if name == "" || name == h.Statuses[NotSeen].Name {
		return NotSeen, nil
	}
	code, known := h.Code(name)
	if !known {
		return 0, request.Refuse("status", name, "the records have no such status; want one of "+strings.Join(h.Names(), ", "))
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
func (h *History) Test(q Question, pick string) (func(block *book.Block, row int) bool, error) {
	what, of, _ := strings.Cut(pick, ":")
	if !slices.Contains(picks, what) {
		return nil, request.Refuse("status", pick, "want one of "+strings.Join(picks, ", ")+", with the statuses after a colon where it needs some, as in latest:packed or moved:picking → packed")
	}
	var code uint32
	if what == PickLatest || what == PickVisited || what == PickReturned {
		var err error
		if code, err = h.named(of); err != nil {
			return nil, err
		}
	}
	anyStay := func(holds func(stays []Stay, i int) bool) func(block *book.Block, row int) bool {
		return func(block *book.Block, row int) bool {
			stays := h.Stays(block, row)
			for i := range stays {
				if holds(stays, i) {
					return true
				}
			}
			return false
		}
	}
	switch what {
	case PickLatest, PickNone:
		return func(block *book.Block, row int) bool {
			stays := h.Stays(block, row)
			at := Holding(stays, q.At)
			return what == PickNone && at < 0 || what == PickLatest && at >= 0 && stays[at].Status == code
		}, nil
	case PickVisited:
		return anyStay(func(stays []Stay, i int) bool { return stays[i].Status == code && q.begun(stays[i]) }), nil
	case PickReturned:
		return anyStay(func(stays []Stay, i int) bool {
			return stays[i].Status == code && Returned(stays, i) >= 0 && q.begun(stays[i])
		}), nil
	case PickMoved:
		return anyStay(func(stays []Stay, i int) bool {
			return i > 0 && h.moves(stays[i-1], stays[i]) && q.begun(stays[i-1]) && h.Statuses[stays[i-1].Status].Name+Arrow+h.Statuses[stays[i].Status].Name == of
		}), nil
	case PickPath:
		return func(block *book.Block, row int) bool { return h.PathText(pathOf(h.Stays(block, row), nil)) == of }, nil
	case PickAmbiguous:
		return func(block *book.Block, row int) bool { return h.Flags(block, row)&Ambiguous != 0 }, nil
	}
	return func(block *book.Block, row int) bool { return len(h.Disagreements(block, row)) > 0 }, nil
}

// moves says whether one stay leads to the next; a silence makes no move.
func (h *History) moves(before, after Stay) bool {
	return before.Status != NotSeen && after.Status != NotSeen
}

// PathText names the statuses of a way, one after another.
func (h *History) PathText(way []uint32) string {
	names := make([]string, len(way))
	for i, status := range way {
		names[i] = h.Statuses[status].Name
	}
	return strings.Join(names, Arrow)
}
