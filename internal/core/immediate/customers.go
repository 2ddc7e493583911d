package immediate

import (
	"cmp"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/summary"
)

// A Customer is how one customer asked: in the first order of all, and in later ones.
type Customer struct {
	Name    string
	Row     int // of the first order in the book
	First   day.Day
	Asked   Asked
	Tied    bool
	Later   Share // immediate, of the later ones that are immediate or booked ahead
	Orders  int   // later ones, whatever was asked
	Changed Change
}

// A Change is how later orders were asked for beside the first.
type Change uint8

// The changes. Orders without a requested date, or requested before they were ordered, tell of none.
const (
	NoChange     Change = iota // the same, both ways, or nothing to tell by
	AheadThenNow               // the first was booked ahead, and all later ones were immediate
	NowThenAhead               // the first was immediate, and all later ones were booked ahead
	Changes                    // how many there are
)

var changeNames = [Changes]string{"none", "ahead-then-immediate", "immediate-then-ahead"}

// String is the name in the API and on the command line.
func (c Change) String() string { return changeNames[c] }

// Customers says of each customer whose first order the question's period, condition and cancelled choice leave how it asked then,
// and in all later orders of the book. The first come first.
func Customers(b *book.Book, q Question, p period.Period) []Customer {
	q.Which, q.By = FirstOrders, nil
	plan := newPlan(b, q, p)
	places, chosen := plan.places(), make([]bool, len(b.Values(book.Customer)))
	// A customer's first order lies in one place, so that no two workers write of one customer.
	summary.Walk(plan.grouper, func() *struct{} { return nil }, func(_ *struct{}, c summary.Chunk) {
		for i, truth := range c.Truths {
			if row := c.From + i; truth == predicate.True && plan.outcome(c.Block, row, places[c.Block.IDs[0]]+row, truth) == counted {
				chosen[c.Block.Codes[book.Customer][row]] = true
			}
		}
	})
	ordered, requested := milestone.Index(b.Milestones(), milestone.Ordered), milestone.Index(b.Milestones(), milestone.Requested)
	later := make([][AskedKinds]int, len(chosen))
	for at, block := range b.Scan() {
		for row, d := range block.Columns[ordered].Known {
			if customer := block.Codes[book.Customer][row]; d != 0 && chosen[customer] && !plan.firsts.Is(customer, at*book.BlockSize+row) {
				later[customer][AskedOf(d, block.Columns[requested].Known[row])]++
			}
		}
	}
	var all []Customer
	for customer, is := range chosen {
		if !is {
			continue
		}
		row := plan.firsts.Rows[customer]
		block, i := b.Blocks()[row/book.BlockSize], row%book.BlockSize
		c := Customer{Name: b.Values(book.Customer)[customer], Row: row, First: block.Columns[ordered].Known[i], Tied: plan.firsts.Tied[customer]}
		c.Asked = AskedOf(c.First, block.Columns[requested].Known[i])
		kinds := later[customer]
		c.Later = Share{kinds[Immediate], kinds[Immediate] + kinds[BookedAhead]}
		for _, n := range kinds {
			c.Orders += n
		}
		switch {
		case c.Later.All == 0:
		case c.Asked == BookedAhead && c.Later.Some == c.Later.All:
			c.Changed = AheadThenNow
		case c.Asked == Immediate && c.Later.Some == 0:
			c.Changed = NowThenAhead
		}
		all = append(all, c)
	}
	slices.SortFunc(all, func(x, y Customer) int {
		return cmp.Or(cmp.Compare(x.First, y.First), cmp.Compare(x.Name, y.Name))
	})
	return all
}
