package immediate

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
)

// Beginning is how many days from the first day on a first order may have had earlier ones, before the book.
const Beginning = 90

// Firsts are the first orders of customers: the earliest by day; then those with an instant, by it, before those without;
// then by number in natural order.
type Firsts struct {
	// Rows are those of the book in which the customers' first orders stand, by the customer's code; −1 where there is none.
	Rows []int
	// Tied says of each customer that another order came on the same day.
	Tied []bool
}

// Is says whether the order in a row of the book is its customer's first.
func (f *Firsts) Is(customer uint32, row int) bool { return customer != 0 && f.Rows[customer] == row }

type firstsKey struct{}

// FirstsOf are the first orders of the whole book; they are found once for it.
func FirstsOf(b *book.Book) *Firsts {
	return b.Memoize(firstsKey{}, func(b *book.Book) any { return find(b, func(int) bool { return true }) }).(*Firsts)
}

// find gives the first orders among those that are taken. Orders without a customer or a day that is known are no one's first.
func find(b *book.Book, taken func(row int) bool) *Firsts {
	customers := len(b.Values(book.Customer))
	f := &Firsts{Rows: make([]int, customers), Tied: make([]bool, customers)}
	for i := range f.Rows {
		f.Rows[i] = -1
	}
	ordered := milestone.Index(b.Milestones(), milestone.Ordered)
	for first, block := range b.Scan() {
		days, codes := block.Columns[ordered].Known, block.Codes[book.Customer]
		for row, d := range days {
			customer := codes[row]
			if customer == 0 || d == 0 || !taken(first+row) {
				continue
			}
			best := f.Rows[customer]
			if best < 0 {
				f.Rows[customer] = first + row
				continue
			}
			other, at := b.Locate(best)
			before := other.Columns[ordered].Known[at]
			switch {
			case d < before:
				f.Rows[customer], f.Tied[customer] = first+row, false
			case d == before:
				f.Tied[customer] = true
				if earlier(block.Columns[ordered].InstantAt(row), other.Columns[ordered].InstantAt(at), block.Numbers[row],
					other.Numbers[at]) {
					f.Rows[customer] = first + row
				}
			}
		}
	}
	return f
}

// earlier says whether the first of two orders of a day comes before the other.
func earlier(at, other day.Instant, number, otherNumber string) bool {
	switch {
	case at != 0 && other != 0 && at != other:
		return at < other
	case at != 0 && other == 0:
		return true
	case at == 0 && other != 0:
		return false
	}
	return book.CompareNumbers(number, otherNumber) < 0
}
