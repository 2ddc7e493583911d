package parts

import (
	"cmp"
	"slices"

	"prairiedusk/internal/core/day"
)

// A StatusRecord says which status an order had at a moment.
type StatusRecord struct {
	Status   string
	At       Day
	Sequence Quantity // whole; tells records of one moment apart
	Source   string   // Event or Daily; empty is Event
}

// The sources of status records: one record when the status changes, or one for each day whatever happens.
const (
	Event = "event"
	Daily = "daily"
)

// InOrder gives status records by their day, within it instants by time and then records without one, then by sequence.
// Records of one moment without a sequence stay as they came, by load and row.
func InOrder(records []StatusRecord) []StatusRecord {
	if slices.IsSortedFunc(records, compareRecords) {
		return records
	}
	records = slices.Clone(records)
	slices.SortStableFunc(records, compareRecords)
	return records
}

func compareRecords(a, b StatusRecord) int {
	return cmp.Or(cmp.Compare(a.At.Day, b.At.Day), compareLast(a.At.At, b.At.At, a.At.At != 0, b.At.At != 0),
		compareLast(day.Instant(a.Sequence.Thousandths), day.Instant(b.Sequence.Thousandths), a.Sequence.Known, b.Sequence.Known))
}

// compareLast compares what may not be known; what is not comes last.
func compareLast(a, b day.Instant, knownA, knownB bool) int {
	switch {
	case knownA && knownB:
		return cmp.Compare(a, b)
	case knownA:
		return -1
	case knownB:
		return 1
	}
	return 0
}
