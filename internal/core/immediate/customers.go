package immediate

import (
	"cmp"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
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

// chosenCustomers marks the customers whose first order counts.
type chosenCustomers struct {
	*plan
	marks
}

// Visit marks the customers of a stretch.
func (c *chosenCustomers) Visit(s *query.Stretch) {
	for _, i := range s.Chosen() {
		if row := s.From + int(i); c.outcome(s.Block, row, s.Row+int(i)) == counted {
			c.marks[s.Block.Codes[book.Customer][row]] = true
		}
	}
}

// Merge adds the marks of another worker.
func (c *chosenCustomers) Merge(other *chosenCustomers) { c.marks.Merge(other.marks) }

// Customers says of each customer whose first order the question's period, condition and cancelled choice leave how it asked then,
// and in all later orders of the book. The first come first.
func Customers(b *book.Book, q Question, p period.Period) []Customer {
	q.Which, q.By = FirstOrders, nil
	plan := newPlan(b, q, p)
	counted, _ := query.Run(plan.scope, func() *chosenCustomers {
		return &chosenCustomers{plan,
			make(marks, len(b.Values(book.Customer)))}
	})
	chosen := counted.marks
	ordered, requested := milestone.Index(b.Milestones(), milestone.Ordered), milestone.Index(b.Milestones(), milestone.Requested)
	later := make([][AskedKinds]int, len(chosen))
	for first, block := range b.Scan() {
		for row, d := range block.Columns[ordered].Known {
			if customer := block.Codes[book.Customer][row]; d != 0 && chosen[customer] && !plan.firsts.Is(customer, first+row) {
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
		block, i := b.Locate(row)
		c := Customer{Name: b.Values(book.Customer)[customer], Row: row, First: block.Columns[ordered].Known[i],
			Tied: plan.firsts.Tied[customer]}
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
