package status

import (
	"cmp"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/statuses"
)

// A Place is one status period in a list of them.
type Place struct {
	statuses.Period
	Row      int // of the order in the book
	Sequence int // among the order's status periods, from 1
	Ticks    int
	Told     bool // it has a length
	Flags    statuses.Flag
}

// The orders of a list of status periods: by the number of the order, the longest first, or the latest first.
var sorts = []string{"order", "length", "from"}

// A found is what one worker has listed.
type found struct {
	*run
	wanted  func(statuses.Period) bool
	places  []Place
	records RecordCounts
	decided query.PartCounts
}

// Visit lists the status periods of a stretch.
func (f *found) Visit(s *query.Stretch) {
	f.each(s, func(o asked) {
		f.records.count(f.history, o)
		f.places = listed(f.history, f.places, f.question, o, func(i int) bool { return f.wanted(o.own[i]) && counts(&f.decided, o.met, i) })
	})
}

// Merge takes in what another worker has listed.
func (f *found) Merge(other *found) {
	f.places = append(f.places, other.places...)
	f.records.add(other.records)
	f.decided.Add(other.decided)
}

// List gives the status periods that began in the question's period, of one status or, with an empty name, of all, sorted by order,
// length (the longest first) or from (the latest first). The answer has no cells. The error is a *request.Error.
func List(h *statuses.History, q Question, status, sort string) ([]Place, Answer, error) {
	if sort == "" {
		sort = sorts[0]
	}
	if !slices.Contains(sorts, sort) {
		return nil, Answer{}, request.Invalid("sort", sort, "want one of "+strings.Join(sorts, ", "))
	}
	only, err := named(h, status)
	if err != nil {
		return nil, Answer{}, err
	}
	r := newRun(h, q)
	all, population := query.Run(r.scope, func() *found {
		return &found{run: r, wanted: func(s statuses.Period) bool { return (status == "" || s.Status == only) && q.begun(s) }}
	})
	places, numbers := all.places, h.Book().NumberRanks()
	slices.SortFunc(places, func(a, b Place) int {
		own := 0
		switch {
		case sort == "length" && a.Told != b.Told:
			if own = 1; a.Told {
				own = -1
			}
		case sort == "length":
			own = cmp.Compare(b.Ticks, a.Ticks)
		case sort == "from":
			own = cmp.Compare(b.From, a.From)
		}
		return cmp.Or(own, cmp.Compare(numbers[a.Row], numbers[b.Row]), cmp.Compare(a.Sequence, b.Sequence))
	})
	return places, Answer{Population: population, RecordCounts: all.records, Decided: all.decided}, nil
}

// OfOrder lists the status periods of the order in a row of the book.
func OfOrder(h *statuses.History, q Question, row int) []Place {
	block, i := h.Book().Locate(row)
	o := asked{Offset: book.Offset{Block: block, At: i, Row: row}, calendar: h.Book().SiteCalendarAt(q.Calendar, row),
		own: h.Periods(block, i), flags: h.Flags(block, i)}
	return listed(h, nil, q, o, func(int) bool { return true })
}

// listed adds the status periods of an order that are wanted, by their places, to a list.
func listed(h *statuses.History, places []Place, q Question, o asked, wanted func(place int) bool) []Place {
	for i, s := range o.own {
		if wanted(i) {
			ticks, told := q.length(h, o, i)
			places = append(places, Place{s, o.Row, i + 1, ticks, told, o.flags})
		}
	}
	return places
}

// named is a status by its name; "not seen" is the silence. The error is a *request.Error.
func named(h *statuses.History, name string) (uint32, error) {
	if name == "" || name == h.Statuses[statuses.NotSeen].Name {
		return statuses.NotSeen, nil
	}
	code, known := h.Code(name)
	if !known {
		return 0, request.Invalid("status", name, "the records have no such status; want one of "+strings.Join(h.Names(), ", "))
	}
	return code, nil
}

// What a Pick can name, and what stands with it.
const (
	PickAll         = "all"         // all that are asked about
	PickLatest      = "latest"      // stood in a status at the end of the question's day
	PickNone        = "none"        // had no record by then
	PickRecorded    = "recorded"    // has a record
	PickUnrecorded  = "unrecorded"  // has none
	PickVisited     = "visited"     // a stood in a status that began in the period
	PickRunning     = "running"     // such a stood that has not ended
	PickWent        = "went"        // from a status to another
	PickReturned    = "returned"    // to a status
	PickPath        = "path"        // the way the order took
	PickAmbiguous   = "ambiguous"   // clashing records
	PickDisagreeing = "disagreeing" // sources that differ
	PickDaily       = "daily"       // only a daily list
)

var picks = []string{PickAll, PickLatest, PickNone, PickRecorded, PickUnrecorded, PickVisited, PickRunning, PickWent, PickReturned,
	PickPath, PickAmbiguous, PickDisagreeing, PickDaily}

// Arrow stands between the statuses of a path or a transition.
const Arrow = " → "

// Test says which orders a pick names: one of the constants, with the statuses that it needs after a colon, as in
// "went:picking → packed". The error is a *request.Error.
func Test(h *statuses.History, q Question, pick string) (query.Test, error) {
	what, of, _ := strings.Cut(pick, ":")
	if !slices.Contains(picks, what) {
		return nil, request.Invalid("list", pick, "want one of "+strings.Join(picks,
			", ")+", with the statuses after a colon where it needs some, as in latest:packed or went:picking → packed")
	}
	var code uint32
	if slices.Contains([]string{PickLatest, PickVisited, PickRunning, PickReturned}, what) {
		var err error
		if code, err = named(h, of); err != nil {
			return nil, err
		}
	}
	picked := q.picked(h)
	anyPeriod := func(holds func(own []statuses.Period, i int) bool) query.Test {
		return func(o book.Offset) bool {
			own, met := h.Periods(o.Block, o.At), picked.of(h, o.Block, o.At)
			for i := range own {
				if (met == nil || met[i] == predicate.True) && holds(own, i) {
					return true
				}
			}
			return false
		}
	}
	switch what {
	case PickAll:
		return func(book.Offset) bool { return true }, nil
	case PickRecorded, PickUnrecorded:
		return func(o book.Offset) bool { return (len(h.Periods(o.Block, o.At)) > 0) == (what == PickRecorded) }, nil
	case PickRunning:
		return anyPeriod(func(own []statuses.Period, i int) bool {
			return own[i].Status == code && own[i].Until == 0 && !h.Rules.Ends(own[i]) && q.begun(own[i])
		}), nil
	case PickDaily:
		return func(o book.Offset) bool { return h.Flags(o.Block, o.At)&statuses.FromDaily != 0 }, nil
	case PickLatest, PickNone:
		return func(o book.Offset) bool {
			own := h.Periods(o.Block, o.At)
			at := statuses.Holding(own, q.At)
			return what == PickNone && at < 0 || what == PickLatest && at >= 0 && own[at].Status == code
		}, nil
	case PickVisited:
		return anyPeriod(func(own []statuses.Period, i int) bool { return own[i].Status == code && q.begun(own[i]) }), nil
	case PickReturned:
		return anyPeriod(func(own []statuses.Period, i int) bool {
			return own[i].Status == code && statuses.Returned(own, i) >= 0 && q.begun(own[i])
		}), nil
	case PickWent:
		return anyPeriod(func(own []statuses.Period, i int) bool {
			return i > 0 && leads(h, own[i-1], own[i]) && q.begun(own[i-1]) &&
				h.Statuses[own[i-1].Status].Name+Arrow+h.Statuses[own[i].Status].Name == of
		}), nil
	case PickPath:
		return func(o book.Offset) bool { return PathText(h, pathOf(h.Periods(o.Block, o.At), nil)) == of }, nil
	case PickAmbiguous:
		return func(o book.Offset) bool { return h.Flags(o.Block, o.At)&statuses.Ambiguous != 0 }, nil
	}
	return func(o book.Offset) bool { return len(h.Disagreements(o.Block, o.At)) > 0 }, nil
}

// leads says whether one status period leads to the next; a silence makes no transition.
func leads(h *statuses.History, before, after statuses.Period) bool {
	return before.Status != statuses.NotSeen && after.Status != statuses.NotSeen
}

// PathText names the statuses of a way, one after another.
func PathText(h *statuses.History, way []uint32) string {
	names := make([]string, len(way))
	for i, status := range way {
		names[i] = h.Statuses[status].Name
	}
	return strings.Join(names, Arrow)
}
