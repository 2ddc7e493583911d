package statuses

import (
	"runtime"
	"sync/atomic"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/work"
)

// A Source says which records make an order's status periods.
type Source uint8

// Status periods come from one source: from events where the order has any and else from the daily list, unless it is said.
const (
	Either Source = iota
	Events
	DailyList
)

var sourceNames = []string{"either", parts.Event, parts.Daily}

// ParseSource reads either (or nothing), event or daily. The error is a *request.Error.
func ParseSource(text string) (Source, error) {
	for i, name := range sourceNames {
		if text == name || text == "" {
			return Source(i), nil
		}
	}
	return 0, request.Invalid("source", text, "want event, daily, or either: events where an order has any, else its daily list")
}

// String is the source's name in the API and on the command line.
func (s Source) String() string { return sourceNames[s] }

// A Flag is something to know of an order's records. Flags are added up.
type Flag uint8

// The flags.
const (
	Ambiguous   Flag = 1 << iota // two records of one moment name different statuses
	FromDaily                    // the status periods come from a daily list
	BothSources                  // the order has events and a daily list
)

// A History holds the status periods of all orders of a book.
type History struct {
	Catalogue
	Rules  Rules
	Source Source
	book   *book.Book
	blocks []blockPeriods
	places map[int64]int // of blocks, by the identity of their first order
}

type blockPeriods struct {
	starts  []uint32
	periods []Period
	flags   []Flag
}

type historyKey struct{}

// Of gives the history of a book from either source without a limit of silence. It is made once for a snapshot, and bound to
// the book that asks: one with all fields that were told of it since.
func Of(b *book.Book) *History {
	h := *b.Memoize(historyKey{}, func(b *book.Book) any { return NewHistory(b, Either, 0) }).(*History)
	h.book = b
	return &h
}

// NewHistory folds the records of a book, split over the processors.
func NewHistory(b *book.Book, source Source, maxGap int) *History {
	h := &History{Catalogue: CatalogueOf(b), Source: source, book: b, blocks: make([]blockPeriods, len(b.Blocks())),
		places: map[int64]int{}}
	h.Rules = Rules{MaxGap: maxGap, Final: h.Final(), DataDate: b.Bounds().DataDate}
	for i, block := range b.Blocks() {
		h.places[block.IDs[0]] = i
	}
	var next atomic.Int64
	work.Each(min(runtime.GOMAXPROCS(0), len(h.blocks)), func(int) {
		for i := int(next.Add(1)) - 1; i < len(h.blocks); i = int(next.Add(1)) - 1 {
			b.Pause()
			h.blocks[i] = h.fold(b.Blocks()[i])
		}
	})
	return h
}

func (h *History) fold(block *book.Block) blockPeriods {
	records := h.recordsOf(block)
	s := blockPeriods{starts: make([]uint32, 1, len(block.IDs)+1), flags: make([]Flag, len(block.IDs))}
	s.periods = make([]Period, 0, changes(block))
	events := h.Rules
	events.MaxGap = 0 // an event tells of a change, and says nothing until the next
	for row := range block.IDs {
		if from, to := records.of.Of(row); from < to {
			own, flags := h.counting(records.read(from, to))
			rules := &events
			if flags&FromDaily != 0 {
				rules = &h.Rules
			}
			var ambiguous bool
			if s.periods, ambiguous = Collapse(own, rules, s.periods); ambiguous {
				flags |= Ambiguous
			}
			s.flags[row] = flags
		}
		s.starts = append(s.starts, uint32(len(s.periods)))
	}
	return s
}

// changes is at least how many status periods a block has: an order's first record, and each that names another status than the one
// before, begins one.
func changes(block *book.Block) int {
	records := &block.Parts[book.Statuses]
	names, n := records.Columns[book.StatusName].Codes, len(block.IDs)
	for i := 1; i < len(names); i++ {
		if names[i] != names[i-1] {
			n++
		}
	}
	return min(n, len(names))
}

// blockRecords reads the status records of a block's orders.
type blockRecords struct {
	of              *book.ChildRows
	codes           []uint32 // statuses, by the code that records have
	names, sources  []uint32
	days, sequences []int64
	daily           uint32 // the code of the daily source
	anyDaily        bool   // there is one
	events, list    []Record
}

func (h *History) recordsOf(block *book.Block) *blockRecords {
	of := &block.Parts[book.Statuses]
	r := &blockRecords{of: of, codes: h.codes, names: of.Columns[book.StatusName].Codes, sources: of.Columns[book.StatusSource].Codes,
		days: of.Columns[book.StatusAt].Numbers, sequences: of.Columns[book.StatusSequence].Numbers}
	for code, name := range h.book.PartValues(book.Statuses, book.StatusSource) {
		if name == parts.Daily {
			r.daily, r.anyDaily = uint32(code), true
		}
	}
	return r
}

// read gives the events and the daily list among the records from one place to before another; they hold until the next are
// read.
func (r *blockRecords) read(from, to int) (events, list []Record) {
	n := to - from
	if cap(r.events) < n {
		r.events, r.list = make([]Record, 2*n), make([]Record, 2*n)
	}
	events, list = r.events[:n], r.list[:n]
	names, days := r.names[from:to], r.days[from:to]
	if !r.anyDaily {
		for i, name := range names {
			events[i] = Record{Status: r.codes[name], Day: day.Day(days[i]), Sequence: book.None}
		}
		r.time(events, from)
		return events, nil
	}
	e, l := 0, 0
	for i, name := range names {
		record := Record{Status: r.codes[name], Day: day.Day(days[i]), At: r.of.InstantAt(from + i), Clock: r.of.ClockAt(from + i),
			Sequence: r.sequences[from+i]}
		if r.sources[from+i] == r.daily {
			list[l] = record
			l++
		} else {
			events[e] = record
			e++
		}
	}
	return events[:e], list[:l]
}

// time gives records, from a place on, what is known of their times; most blocks know nothing.
func (r *blockRecords) time(records []Record, from int) {
	if r.of.Instants != nil {
		for i, at := range r.of.Instants[from : from+len(records)] {
			records[i].At = at
		}
	}
	if r.of.Clocks != nil {
		for i, clock := range r.of.Clocks[from : from+len(records)] {
			records[i].Clock = clock
		}
	}
	if r.of.Sequenced {
		for i, sequence := range r.sequences[from : from+len(records)] {
			records[i].Sequence = sequence
		}
	}
}

// counting are the records of the source that counts.
func (h *History) counting(events, list []Record) ([]Record, Flag) {
	flags := Flag(0)
	if len(events) > 0 && len(list) > 0 {
		flags = BothSources
	}
	if h.Source == DailyList || h.Source == Either && len(events) == 0 {
		return list, flags | FromDaily
	}
	return events, flags
}

// Periods are those of the order in a row of a block of the book, or of the book with labels and the like.
func (h *History) Periods(block *book.Block, row int) []Period {
	s := &h.blocks[h.places[block.IDs[0]]]
	return s.periods[s.starts[row]:s.starts[row+1]]
}

// Places are those of the status periods of an order among all of its block: from the first up to before the last.
func (h *History) Places(block *book.Block, row int) (from, to int) {
	s := &h.blocks[h.places[block.IDs[0]]]
	return int(s.starts[row]), int(s.starts[row+1])
}

// Flags say what is to be known of an order's records.
func (h *History) Flags(block *book.Block, row int) Flag {
	return h.blocks[h.places[block.IDs[0]]].flags[row]
}

// A Disagreement is a day at whose end the daily list names another status than the events do.
type Disagreement struct {
	Day           day.Day
	Events, Daily uint32
}

// Disagreements are those of an order that has both sources.
func (h *History) Disagreements(block *book.Block, row int) (all []Disagreement) {
	if h.Flags(block, row)&BothSources == 0 {
		return nil
	}
	records := h.recordsOf(block)
	from, to := records.of.Of(row)
	events, list := records.read(from, to)
	rules := h.Rules
	rules.MaxGap = 0
	periods, _ := Collapse(events, &rules, nil)
	for i, r := range list {
		if r.Day > h.Rules.DataDate || i+1 < len(list) && list[i+1].Day == r.Day {
			continue // the last of a day is that of its end
		}
		said := NotSeen
		if at := Holding(periods, r.Day); at >= 0 {
			said = periods[at].Status
		}
		if said != r.Status {
			all = append(all, Disagreement{r.Day, said, r.Status})
		}
	}
	return all
}

// LatestDiffers says that the last record of an order, whatever its source, names another status than its last status period.
func (h *History) LatestDiffers(block *book.Block, row int) bool {
	records, periods := &block.Parts[book.Statuses], h.Periods(block, row)
	from, to := records.Of(row)
	for i := to - 1; i >= from; i-- {
		if day.Day(records.Columns[book.StatusAt].Numbers[i]) <= h.Rules.DataDate {
			return len(periods) == 0 || periods[len(periods)-1].Status != h.codes[records.Columns[book.StatusName].Codes[i]]
		}
	}
	return false
}

// Book is the one whose history it is.
func (h *History) Book() *book.Book { return h.book }

// Range bounds the days on which status periods begin; both are zero where there is none.
func (h *History) Range() (low, high day.Day) {
	for _, b := range h.blocks {
		for _, s := range b.periods {
			if low == 0 || s.From < low {
				low = s.From
			}
			high = max(high, s.From)
		}
	}
	return low, high
}
