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
		next = next.WithFields(FieldAsked, values, func(block *book.Block, told []uint32) {
			for row, d := range block.Columns[ordered].Known {
				if d != 0 {
					told[row] = uint32(AskedOf(d, block.Columns[requested].Known[row])) + 1
				}
			}
		})
	}
	if _, taken := b.ParseField(FieldFirst); !taken {
		next = next.WithFields(FieldFirst, []string{"", "yes", "no"}, func(block *book.Block, told []uint32) {
			at := 0
			for i, other := range b.Blocks() {
				if other.IDs[0] == block.IDs[0] {
					at = i * book.BlockSize
				}
			}
			for row, customer := range block.Codes[book.Customer] {
				switch {
				case customer == 0 || block.Columns[ordered].Known[row] == 0:
				case firsts.Is(customer, at+row):
					told[row] = 1
				default:
					told[row] = 2
				}
			}
		})
	}
	return next
}
