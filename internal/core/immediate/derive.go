package immediate

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/milestone"
)

// The fields that Derive adds.
const (
	FieldAsked = "asked"
	FieldFirst = "first-order"
)

// Derive is a book that says of each order for when it was requested, and whether it is its customer's first. A field of the same
// name that files have brought is not overwritten.
func Derive(b *book.Book) *book.Book {
	ordered, requested := milestone.Index(b.Milestones(), milestone.Ordered), milestone.Index(b.Milestones(), milestone.Requested)
	next, firsts := b, FirstsOf(b)
	if _, taken := b.ParseField(FieldAsked); !taken {
		values := []string{"", "immediate", "booked ahead", "no requested date", "requested before ordered"}
		next = next.WithFields(FieldAsked, values, func(of book.Stretch, told []uint32) {
			for row, d := range of.Block.Columns[ordered].Known {
				if d != 0 {
					told[row] = uint32(AskedOf(d, of.Block.Columns[requested].Known[row])) + 1
				}
			}
		})
	}
	if _, taken := b.ParseField(FieldFirst); !taken {
		next = next.WithFields(FieldFirst, []string{"", "yes", "no"}, func(of book.Stretch, told []uint32) {
			for row, customer := range of.Block.Codes[book.Customer] {
				switch {
				case customer == 0 || of.Block.Columns[ordered].Known[row] == 0:
				case firsts.Is(customer, of.Row+row):
					told[row] = 1
				default:
					told[row] = 2
				}
			}
		})
	}
	return next
}
