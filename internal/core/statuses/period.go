// Package statuses folds the status records of orders, of changes or of every day, into status periods: unbroken runs of one status.
// Whatever is asked about statuses is told from them.
package statuses

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
)

// A Record is a status record of an order, its status by code; see Catalogue.
type Record struct {
	Status   uint32
	Day      day.Day
	At       day.Instant // zero where it is not known
	Clock    int32       // of an unknown zone, as parts.StatusRecord has it; zero where there is none
	Sequence int64       // book.None where there is none
}

// sameMoment says that nothing tells which of two records came first.
func (r *Record) sameMoment(other *Record) bool {
	return r.Day == other.Day && r.At == other.At && r.Clock == other.Clock && (r.Sequence == book.None || other.Sequence == book.None ||
		r.Sequence == other.Sequence)
}

// NotSeen is the status of a silence, and of an order without a record: none.
const NotSeen uint32 = 0

// A Period is an unbroken run of one status, or a silence.
type Period struct {
	Status uint32
	// From is the day of the first record and LastSeen that of the last; a silence has the days that it lasts.
	From, LastSeen day.Day
	// Until is the day on which the next status period begins; zero while it is the last one.
	Until  day.Day
	FromAt day.Instant // zero where only the day is known
}

// Rules say how records fold.
type Rules struct {
	// MaxGap is how many days may lie between two records of one status period; a longer silence ends it. Zero is no limit.
	MaxGap   int
	Final    []bool // by status: orders end in it
	DataDate day.Day
}

// Collapse folds the records of an order, all of one source and in their order, into status periods, which it appends. Ambiguous
// says that two records of one moment name different statuses. Records after the data date are not known.
func Collapse(records []Record, r *Rules, periods []Period) (_ []Period, ambiguous bool) {
	first := len(periods)
	for i := range records {
		record := &records[i]
		if record.Day > r.DataDate {
			break
		}
		ambiguous = ambiguous || i > 0 && record.Status != records[i-1].Status && record.sameMoment(&records[i-1])
		if len(periods) == first {
			periods = append(periods, begun(record))
			continue
		}
		last := &periods[len(periods)-1]
		silent := r.MaxGap > 0 && int(record.Day-last.LastSeen) > r.MaxGap
		if record.Status == last.Status && !silent {
			last.LastSeen = record.Day
			continue
		}
		if silent {
			last.Until = last.LastSeen + 1
			periods = append(periods, Period{Status: NotSeen, From: last.Until, LastSeen: record.Day - 1})
			last = &periods[len(periods)-1]
		}
		last.Until = record.Day
		periods = append(periods, begun(record))
	}
	if len(periods) > first && r.MaxGap > 0 {
		last := &periods[len(periods)-1]
		// Of what has come to its end, nothing more is to be seen.
		if silent := int(r.DataDate-last.LastSeen) > r.MaxGap; silent && !r.Final[last.Status] {
			last.Until = last.LastSeen + 1
			periods = append(periods, Period{Status: NotSeen, From: last.Until, LastSeen: r.DataDate})
		}
	}
	return periods, ambiguous
}

func begun(r *Record) Period {
	return Period{Status: r.Status, From: r.Day, LastSeen: r.Day, FromAt: r.At}
}

// Holding is the place of the status period that holds a day at its end; −1 where the order has none by then.
func Holding(periods []Period, d day.Day) int {
	at := -1
	for i, s := range periods {
		if s.From > d {
			break
		}
		at = i
	}
	return at
}

// Ends says that the order has come to its end with a status period: it is its last one, in a final status. It has no length.
func (r Rules) Ends(s Period) bool { return s.Until == 0 && r.Final[s.Status] }

// Stretch is what the length of an order's status period is counted from: up to where the next one begins or, of the last, a day.
func Stretch(periods []Period, at int, last day.Day) leg.Stretch {
	s := leg.Stretch{Start: periods[at].From, StartAt: periods[at].FromAt, End: last}
	if periods[at].Until != 0 {
		s.End, s.EndAt = periods[at].Until, BeginsAt(periods, at+1)
	}
	return s
}

// BeginsAt is the instant at which a status period begins; zero where there is none.
func BeginsAt(periods []Period, at int) day.Instant {
	if at == len(periods) {
		return 0
	}
	return periods[at].FromAt
}

// Returned is the place of the status period that the order left before it came back with the one at a place; −1 where it did not
// come back. A silence is no other status.
func Returned(periods []Period, at int) int {
	left := false
	for i := at - 1; i >= 0; i-- {
		switch periods[i].Status {
		case periods[at].Status:
			if left {
				return i
			}
			return -1
		case NotSeen:
		default:
			left = true
		}
	}
	return -1
}
