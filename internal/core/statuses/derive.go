package statuses

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
)

// The fields and numbers that Derive adds.
const (
	FieldStatus   = "status"
	FieldSince    = "status-since"
	NumberAge     = "status-age" // working days up to the data date
	NumberReturns = "returns"
)

// Derive is a book with the status of its orders as fields: the latest one, the day since when, how many working days it has
// stood, and how often the order went back to a status. A book without status records stays as it is. A field of the same name
// that files have brought is not overwritten.
func Derive(b *book.Book) *book.Book {
	if len(b.PartValues(book.Statuses, book.StatusName)) < 2 {
		return b
	}
	h := Of(b)
	last := func(block *book.Block, row int) (Period, bool) {
		periods := h.Periods(block, row)
		if len(periods) == 0 {
			return Period{}, false
		}
		return periods[len(periods)-1], true
	}
	values := []string{""}
	values = append(values, h.Names()...)
	next := b
	field := func(name string, values []string, code func(Period) uint32) {
		if _, taken := b.ParseField(name); taken {
			return
		}
		next = next.WithFields(name, values, func(of book.Stretch, told []uint32) {
			for row := range told {
				if s, some := last(of.Block, row); some {
					told[row] = code(s)
				}
			}
		})
	}
	field(FieldStatus, values, func(s Period) uint32 { return s.Status })
	low, high := h.Range()
	days := []string{""}
	for d := low; d <= high; d++ {
		days = append(days, d.String())
	}
	field(FieldSince, days, func(s Period) uint32 { return uint32(s.From-low) + 1 })
	var scratch []uint32
	next = next.WithNumber(NumberAge, func(of book.Stretch, told []int32) {
		scratch = append(scratch[:0], make([]uint32, len(told))...)
		locals := b.LocalCodes(book.AtSite, of.Block, 0, len(told), scratch)
		measure := leg.Measure{Unit: leg.WorkingDays}
		for row := range told {
			if s, some := last(of.Block, row); some && !h.Rules.Ends(s) {
				age, _ := measure.Length(b.Locals(book.AtSite)[locals[row]].Local, leg.Stretch{Start: s.From, End: h.Rules.DataDate})
				told[row] = int32(age)
			}
		}
	})
	return next.WithNumber(NumberReturns, func(of book.Stretch, told []int32) {
		for row := range told {
			periods := h.Periods(of.Block, row)
			if len(periods) == 0 {
				continue
			}
			told[row] = 0
			for i, s := range periods {
				if s.Status != NotSeen && Returned(periods, i) >= 0 {
					told[row]++
				}
			}
		}
	})
}
