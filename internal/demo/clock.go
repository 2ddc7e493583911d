package demo

import (
	"fmt"
	"hash/fnv"
	"math/rand/v2"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/milestone"
)

// The sites whose scanners note when a parcel leaves.
var withScanners = []string{"Galway", "Hamilton"}

// clockOf is the local time of day that a file gives with a day of an order, "T14:35", or nothing: the web shop notes
// when an order came, scanners when it left. It is made from the number alone, so that the days are as they are
// without.
func clockOf(o book.Order, name string) string {
	site := o.Fields[book.Site]
	timed := name == milestone.Ordered && o.Fields[book.Channel] == channels[0] || name == milestone.Shipped &&
		slices.Contains(withScanners, site)
	if site == "" || !timed {
		return ""
	}
	seed := fnv.New64a()
	_, _ = seed.Write([]byte(o.Number + name)) // it never fails
	r := rand.New(rand.NewPCG(seed.Sum64(), 0xc10c))
	day := func(name string) any { return o.Days[milestone.Index(milestone.BuiltIn(), name)] }
	from, to := 6*60, 22*60 // people order when they have time
	switch sameDay := day(milestone.Ordered) == day(milestone.Shipped); {
	case name == milestone.Shipped && sameDay:
		from, to = 13*60, 16*60
	case name == milestone.Shipped:
		from, to = 9*60, 16*60
	case sameDay:
		from, to = 7*60, 12*60
	}
	minute := from + r.IntN(to-from)
	return fmt.Sprintf("T%02d:%02d", minute/60, minute%60)
}
