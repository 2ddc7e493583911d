// Package quality looks for what is likely wrong in the records of orders. Nothing is left out or mended for it:
// a doubt is counted, its orders are listed, and people decide.
package quality

import (
	"fmt"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/statuses"
)

// FarAhead is how many days after the data date a plan may lie before it is doubted.
const FarAhead = 366

// A Doubt is one kind of thing that looks wrong with orders.
type Doubt struct {
	Code   string // "shipped-before-ordered"
	Title  string
	Advice string // what to do about it
	test   func(order) bool
}

// An order is the row that a test looks at.
type order struct {
	block *book.Block
	row   int
	rules *rules
}

// rules are what tests need to know of the book.
type rules struct {
	book     *book.Book
	index    map[string]int
	facts    []int // milestones' indexes
	plans    []int
	lines    bool            // some order has lines
	timed    map[uint32]bool // by code of site: some order came with a time of day
	statuses *statuses.History
	goods    *book.Goods
	named    []namedStatus // that have the name of a milestone
}

// A namedStatus has the name of a milestone that is a fact.
type namedStatus struct {
	status    uint32
	milestone int
}

// statusAgainstMilestone says that an order with status records first came to a status on another day than to the milestone of
// its name.
func (r *rules) statusAgainstMilestone(o order) bool {
	own := r.statuses.Periods(o.block, o.row)
	if len(own) == 0 {
		return false
	}
	for _, n := range r.named {
		first := day.Day(0)
		for _, s := range own {
			if s.Status == n.status {
				first = s.From
				break
			}
		}
		if first != o.block.Columns[n.milestone].Known[o.row] {
			return true
		}
	}
	return false
}

func (o order) raw(name string) day.Day {
	return o.block.Columns[o.rules.index[name]].Raw[o.row]
}

func (o order) instant(name string) day.Instant {
	return o.block.Columns[o.rules.index[name]].InstantAt(o.row)
}

func (o order) has(f parts.Finding) bool { return o.block.Findings[o.row]&f != 0 }

func (o order) empty(f book.Field) bool { return o.block.Codes[f][o.row] == 0 }

func (o order) anyAfter(milestones []int, last day.Day) bool {
	for _, m := range milestones {
		if o.block.Columns[m].Raw[o.row] > last {
			return true
		}
	}
	return false
}

// before says that both days are recorded and in the wrong order.
func before(end, start string) func(order) bool {
	return func(o order) bool { e := o.raw(end); return e != 0 && e < o.raw(start) }
}

func found(f parts.Finding) func(order) bool { return func(o order) bool { return o.has(f) } }

var all = []Doubt{
	{"no-ordered-day", "no order date", "They are in no answer that begins with ordered. Load the day, or ask by another milestone.",
		func(o order) bool { return o.raw(milestone.Ordered) == 0 }},
	{"shipped-before-ordered", "ship date before order date",
		"One of the two days is likely mistyped. They are left out of lengths until it is corrected.",
		before(milestone.Shipped, milestone.Ordered)},
	{"shipped-before-ordered-by-clock", "ship date earlier on the day than order date",
		"By the days it took none, in hours it is negative. One of the two times is likely mistyped.",
		func(o order) bool {
			ordered, shipped := o.instant(milestone.Ordered), o.instant(milestone.Shipped)
			return ordered != 0 && shipped != 0 && shipped < ordered && o.raw(milestone.Shipped) >= o.raw(milestone.Ordered)
		}},
	{"ordered-without-time", "order date without a time of day, where other orders of the site have one",
		"The cut-off of the site does not move them, and they have no length in hours. Load the times.",
		func(o order) bool {
			return o.raw(milestone.Ordered) != 0 && o.instant(milestone.Ordered) == 0 && o.rules.timed[o.block.Codes[book.Site][o.row]]
		}},
	{"delivered-before-shipped", "delivery date before ship date", "One of the two days is likely mistyped.",
		before(milestone.Delivered, milestone.Shipped)},
	{"delivered-without-shipped", "a delivery date, but no ship date", "The shipment is missing, or not all of it has gone.",
		func(o order) bool { return o.raw(milestone.Delivered) != 0 && o.raw(milestone.Shipped) == 0 }},
	{"cancelled-before-ordered", "cancellation date before order date", "One of the two days is likely mistyped.",
		before(milestone.Cancelled, milestone.Ordered)},
	{"cancelled-after-shipped", "cancellation date after ship date",
		"Was it sent back? A cancellation does not undo a shipment; name the day returned.",
		func(o order) bool {
			shipped := o.raw(milestone.Shipped)
			return shipped != 0 && o.raw(milestone.Cancelled) > shipped
		}},
	{"shipped-after-cancelled", "ship date after cancellation date",
		"Lengths count it as shipped, open orders as closed on the cancelled day. One of the two is likely wrong.",
		func(o order) bool {
			cancelled := o.raw(milestone.Cancelled)
			return cancelled != 0 && o.raw(milestone.Shipped) > cancelled
		}},
	{"requested-before-ordered", "requested date before order date",
		"Nobody can want goods before ordering them. It is no requested date for immediate delivery.",
		before(milestone.Requested, milestone.Ordered)},
	{"fact-ahead", "a fact after the data date", "It is not known yet, and counts from its day on. Is the day, or the data date, right?",
		func(o order) bool { return o.anyAfter(o.rules.facts, o.rules.book.Bounds().DataDate) }},
	{"plan-far-ahead", fmt.Sprintf("a plan more than %d days after the data date", FarAhead), "The year is likely mistyped.",
		func(o order) bool { return o.anyAfter(o.rules.plans, o.rules.book.Bounds().DataDate+FarAhead) }},
	{"no-site", "no site", "They are counted by the default calendar. Load the site.", func(o order) bool { return o.empty(book.Site) }},
	{"no-customer", "no customer", "They are no customer's first order. Load the customer.",
		func(o order) bool { return o.empty(book.Customer) }},
	{"no-currency", "a value without a currency", "Values without a currency are a group of their own.",
		func(o order) bool { return o.block.Valued[o.row] && o.empty(book.Currency) }},
	{"no-lines", "no lines, where other orders have them", "They count as orders and are missing from units. Load their lines.",
		func(o order) bool { return o.rules.lines && !o.has(parts.WithLines) }},
	{"shipped-differs", "the order's own ship date differs from its shipments'",
		"The shipments' day counts. Check the order's own.", found(parts.ShippedDiffers)},
	{"delivered-differs", "the order's own delivery date differs from its shipments'", "The shipments' day counts.",
		found(parts.DeliveredDiffers)},
	{"paid-differs", "the order's own payment date differs from its payments'", "The payments' day counts.", found(parts.PaidDiffers)},
	{"shipped-beyond", "more units shipped than ordered",
		"They are counted apart from what was ordered, and change no date. Was a shipment recorded twice, or a line left out?",
		found(parts.ShippedBeyond)},
	{"paid-beyond", "a payment after the value was reached", "It changes no date. Was a payment recorded twice, or is the value too low?",
		found(parts.PaidBeyond)},
	{"cancelled-units-undated", "units cancelled without a date",
		"They count as cancelled from the order's start on. Load the column line-cancelled.", found(parts.CancelledUnitsUndated)},
	{"value-differs", "a value that differs from the sum of its lines",
		"The difference counts with the order, and under no line or product. One of the two is likely wrong.",
		func(o order) bool { return o.block.Valued[o.row] && o.rules.goods.Differs(o.block, o.row) }},
	{"completeness-unknown", "shipments that do not say whether more follow",
		"They count as complete with the last shipment. Load lines, or units of shipments.", found(parts.CompletenessUnknown)},
	{"status-ambiguous", "two statuses at one moment",
		"Which came first is not known; the later row counts. Load times of day, or a sequence.",
		func(o order) bool { return o.rules.statuses.Flags(o.block, o.row)&statuses.Ambiguous != 0 }},
	{"status-sources-differ", "the daily list names another status than the events do",
		"The events count. The order's sheet lists the days; one of the two systems is behind.",
		func(o order) bool { return len(o.rules.statuses.Disagreements(o.block, o.row)) > 0 }},
	{"status-latest-differs", "the latest record names another status than the last status period",
		"It comes from the source that does not count. Ask for that source where it knows better.",
		func(o order) bool { return o.rules.statuses.LatestDiffers(o.block, o.row) }},
	{"status-milestone-differs", "a status and the milestone of its name fall on different days, or only one of them is there",
		"One of the two systems was updated late, or not at all.",
		func(o order) bool { return o.rules.statusAgainstMilestone(o) }},
	{"payment-unclear", "payments in another currency or without an amount",
		"Whether they are paid is not known; the order's own date counts.", found(parts.PaidUnknown)},
}

// All lists the kinds of doubt about orders.
func All() []Doubt { return all }

func rulesOf(b *book.Book) *rules {
	r := &rules{book: b, index: map[string]int{}, timed: map[uint32]bool{}, statuses: statuses.Of(b), goods: b.Goods()}
	for i, m := range b.Milestones() {
		r.index[m.Name] = i
		if m.Plan {
			r.plans = append(r.plans, i)
		} else {
			r.facts = append(r.facts, i)
			if code, is := r.statuses.Code(m.Name); is {
				r.named = append(r.named, namedStatus{code, i})
			}
		}
	}
	for _, block := range b.Scan() {
		r.lines = r.lines || slices.ContainsFunc(block.Findings, func(f parts.Finding) bool { return f&parts.WithLines != 0 })
		for row, at := range block.Columns[r.index[milestone.Ordered]].Instants {
			if at != 0 {
				r.timed[block.Codes[book.Site][row]] = true
			}
		}
	}
	return r
}

// Test is the test of one kind of doubt over a book; false where there is no such kind.
func Test(b *book.Book, code string) (func(book.Offset) bool, bool) {
	for _, d := range all {
		if d.Code == code {
			r := rulesOf(b)
			return func(o book.Offset) bool { return d.test(order{o.Block, o.At, r}) }, true
		}
	}
	return nil, false
}

// Count counts the orders of every kind of doubt, by the order of All, in one pass.
func Count(b *book.Book) []int {
	r := rulesOf(b)
	counts := make([]int, len(all))
	for _, block := range b.Scan() {
		for row := range block.IDs {
			o := order{block, row, r}
			for i := range all {
				if all[i].test(o) {
					counts[i]++
				}
			}
		}
	}
	return counts
}

// A Known says how far a milestone is recorded.
type Known struct {
	Milestone        milestone.Milestone
	Present, Missing int // orders with and without a day, whenever it lies
	Ahead            int // of those present, facts after the data date
	Earliest, Latest day.Day
}

// Milestones says it of every milestone of the book.
func Milestones(b *book.Book) []Known {
	known := make([]Known, len(b.Milestones()))
	for m, at := range b.Milestones() {
		k := &known[m]
		k.Milestone = at
		for _, block := range b.Scan() {
			for _, d := range block.Columns[m].Raw {
				if d == 0 {
					k.Missing++
					continue
				}
				k.Present++
				if !at.Plan && d > b.Bounds().DataDate {
					k.Ahead++
				}
				if k.Earliest == 0 || d < k.Earliest {
					k.Earliest = d
				}
				k.Latest = max(k.Latest, d)
			}
		}
	}
	return known
}
