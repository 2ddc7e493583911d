package parts

import (
	"cmp"
	"slices"
)

// A StatusRecord says which status an order had at a moment.
type StatusRecord struct {
	Status   string
	At       Day
	Clock    int32    // of a time of day in a zone that is not known: seconds since midnight, and one; zero where there is none
	Sequence Quantity // whole; tells records of one moment apart
	Source   string   // Event or Daily; empty is Event
}

// The sources of status records: one record when the status changes, or one for each day whatever happens.
const (
	Event = "event"
	Daily = "daily"
)

// InOrder gives status records by their day, within it instants by time, then times of an unknown zone, then records without a
// time; then by sequence.
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
		compareLast(a.Clock, b.Clock, a.Clock != 0, b.Clock != 0),
		compareLast(a.Sequence.Thousandths, b.Sequence.Thousandths, a.Sequence.Known, b.Sequence.Known))
}

// compareLast compares what may not be known; what is not comes last.
func compareLast[T cmp.Ordered](a, b T, knownA, knownB bool) int {
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
