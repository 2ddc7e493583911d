// Package book holds the order book in memory: one column per milestone and per field, in blocks. A Book
// is one immutable snapshot; a load makes the next one with a Builder, which copies only the blocks that
// it touches.
package book

import (
	"context"
	"iter"
	"slices"
	"sort"
	"strings"
	"sync"
	"time"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/spelling"
	"prairiedusk/internal/core/work"
)

// blockSize is the number of orders in every block but the last.
const blockSize = 1 << 16

// A Field is a coded column of an order: one of those that every book has, or from Fields on one that the
// files have brought.
type Field int

// The fields that every book has.
const (
	Customer Field = iota
	Site
	Country
	Place
	Channel
	Currency
	Region // of the country to which it goes
	Fields // how many there are
)

var fieldNames = [Fields]string{"customer", "site", "country", "place", "channel", "currency", "region"}

// FieldNames lists the fields that every book has, in the order of their values.
func FieldNames() []string { return fieldNames[:] }

// A Layout names the columns of a book.
type Layout struct {
	Milestones []milestone.Milestone // the built-in ones first
	Extra      []string              // fields from Fields on
	LineExtra  []string              // columns of lines after those that every book has
}

// BuiltIn is the layout of a book whose files bring nothing of their own.
func BuiltIn() Layout { return Layout{Milestones: milestone.BuiltIn()} }

// Equal says whether two layouts name the same columns.
func (l Layout) Equal(other Layout) bool {
	return slices.Equal(l.Milestones, other.Milestones) && slices.Equal(l.Extra, other.Extra) && slices.Equal(l.LineExtra, other.LineExtra)
}

// An Order is one order as a record, for putting it into a Builder and for taking it out of a Book.
type Order struct {
	ID     int64 // given by the store, ascending
	Number string
	Days   []day.Day // one per milestone of the book; zero where there is none
	// Instants are those of the days that came with a time of day, by milestone; nil where none did.
	Instants []day.Instant
	// Clocks are the times of day as written, by milestone, of days at a site whose zone is not known, as parts.Day has them;
	// nil where there are none.
	Clocks []int32
	Fields [Fields]string // empty where there is none
	Extra  []string       // by extra field of the layout; nil where there are none
	// Value counts the minor units of the order's currency.
	Value    int64
	Valued   bool // false: no value is known
	Findings parts.Finding
	// What belongs to the order, in the order of its keys.
	Lines     []parts.Line
	Shipments []parts.Shipment
	Payments  []parts.Payment
	Statuses  []parts.StatusRecord // in any order
}

// Set gives an order a milestone: its day, and its time of day as far as that is known.
func (o *Order) Set(m int, d parts.Day) {
	o.Days[m] = d.Day
	if d.At != 0 && o.Instants == nil {
		o.Instants = make([]day.Instant, len(o.Days))
	}
	if o.Instants != nil {
		o.Instants[m] = d.At
	}
	if d.Clock != 0 && o.Clocks == nil {
		o.Clocks = make([]int32, len(o.Days))
	}
	if o.Clocks != nil {
		o.Clocks[m] = d.Clock
	}
}

// A Book is a snapshot of all orders. It is safe for concurrent use.
type Book struct {
	layout       Layout
	dictionaries []dictionary        // by field
	parts        [Parts][]dictionary // by column of the part
	partColumns  [Parts][]PartColumn // of parts that are not those of the records; see WithColumnsOf
	told         []string            // the names of the fields after the layout's
	related      int                 // how many of told relations tell; the others are labels
	toldOfLines  []PartColumn        // the columns of lines after the layout's
	numbers      []string            // the names of whole numbers that are told of orders
	blocks       []*Block
	ends         Settings              // what it was finished with
	locals       [sides][]SiteCalendar // by local code; see LocalCodes
	bounds       period.Bounds
	movesAny     bool
	numberRanks  func() []uint32
	cache        *sync.Map       // see Memoize
	asked        context.Context // see Within; nil where nothing ends a computation
}

// A Block is a stretch of orders by column. Its slices are equally long and must not be changed.
type Block struct {
	IDs     []int64
	Numbers []string
	Columns []Column   // by milestone
	Codes   [][]uint32 // by field; code 0 is "none"
	Values  []int64    // minor units
	Valued  []bool     // false: no value is known
	// Findings are what the orders' parts show beside their milestones.
	Findings []parts.Finding
	// Told are whole numbers told of the orders, by WithNumber; NoNumber where there is none.
	Told [][]int32
	// Parts are what belongs to the orders.
	Parts [Parts]ChildRows
	// EffectiveStarts are the days as which the known `ordered` days count after the cut-offs of their sites; nil where no site has
	// one.
	EffectiveStarts []day.Day
}

// A Column holds one milestone's days of a block.
type Column struct {
	// Raw are the days as recorded; zero is none.
	Raw []day.Day
	// Known are the days as known at the data date: a fact after it is zero. It is Raw itself where they agree.
	Known []day.Day
	// Instants are those of days that came with a time of day, zero for others; nil where none did.
	Instants []day.Instant
	// Clocks are the times of day as written of days at sites whose zone is not known, as parts.Day has them; nil where there
	// are none.
	Clocks []int32
	// Low and High bound the known days; both are zero where there is none.
	Low, High day.Day
	// RawHigh is the latest recorded day.
	RawHigh day.Day
}

// InstantAt is the instant of a row's day; zero where it has none.
func (c Column) InstantAt(row int) day.Instant {
	if c.Instants == nil {
		return 0
	}
	return c.Instants[row]
}

// ClockAt is the time of day of a row's day as written, at a site whose zone is not known; zero where there is none.
func (c Column) ClockAt(row int) int32 {
	if c.Clocks == nil {
		return 0
	}
	return c.Clocks[row]
}

// MomentAt is the day of a row with its time of day: as the clocks of its zone show it or, where that is not known, as it was
// written.
func (c Column) MomentAt(row int, zone *time.Location) day.Moment {
	m, at, clock := day.Moment{Day: c.Raw[row]}, c.InstantAt(row), c.ClockAt(row)
	switch {
	case at != 0 && zone != nil:
		return day.MomentOf(at, zone)
	case clock != 0:
		m.Timed, m.Seconds = true, int(clock)-1
		if at != 0 {
			offset := m.OffsetTo(at)
			m.Offset = &offset
		}
	}
	return m
}

// Milestones lists the book's milestones; columns and days go by the same index.
func (b *Book) Milestones() []milestone.Milestone { return b.layout.Milestones }

// Layout names the book's columns.
func (b *Book) Layout() Layout { return b.layout }

// FieldName is the name of a field.
func (b *Book) FieldName(f Field) string {
	if f < Fields {
		return fieldNames[f]
	}
	return b.FieldNames()[f]
}

// FieldNames lists the names of all fields in the order of their values.
func (b *Book) FieldNames() []string { return slices.Concat(fieldNames[:], b.layout.Extra, b.told) }

// ParseField finds a field by its name.
func (b *Book) ParseField(name string) (Field, bool) {
	i := slices.Index(b.FieldNames(), name)
	return Field(i), i >= 0
}

// MovesAny says whether the cut-off of some site moves some order.
func (b *Book) MovesAny() bool { return b.movesAny }

// Bounds are the first day and the data date.
func (b *Book) Bounds() period.Bounds { return b.bounds }

// Version tells snapshots apart: the number of the load that made it.
func (b *Book) Version() int64 { return b.ends.Version }

// Blocks are the columns, in the order of the orders' identities.
func (b *Book) Blocks() []*Block { return b.blocks }

// Timed says whether some order reached a milestone at a known time of day.
func (b *Book) Timed(m int) bool {
	return slices.ContainsFunc(b.blocks, func(block *Block) bool {
		return slices.ContainsFunc(block.Columns[m].Instants, func(at day.Instant) bool { return at != 0 }) // a load may have taken all away
	})
}

// HasParts says whether some order has parts of a kind.
func (b *Book) HasParts(p Part) bool {
	return slices.ContainsFunc(b.blocks, func(block *Block) bool {
		return len(block.Parts[p].Columns[0].Codes)+len(block.Parts[p].Columns[0].Texts) > 0
	})
}

// Within is the book as one request sees it: what is computed over it ends with a *work.Stop when the context does.
func (b *Book) Within(ctx context.Context) *Book {
	within := *b
	within.asked = ctx
	return &within
}

// Unbound is the book for what outlives a request: nothing ends what is computed over it.
func (b *Book) Unbound() *Book {
	unbound := *b
	unbound.asked = nil
	return &unbound
}

// Pause ends the computation at hand if its request has ended. Whoever looks at many orders calls it now and then.
func (b *Book) Pause() {
	if b.asked != nil {
		work.Check(b.asked)
	}
}

// Scan shows the blocks one after the other, each with the row of the book of its first order, and pauses before each.
func (b *Book) Scan() iter.Seq2[int, *Block] {
	return func(yield func(int, *Block) bool) {
		for i, block := range b.blocks {
			b.Pause()
			if !yield(i*blockSize, block) {
				return
			}
		}
	}
}

// Orders is the number of orders.
func (b *Book) Orders() int {
	if len(b.blocks) == 0 {
		return 0
	}
	return (len(b.blocks)-1)*blockSize + len(b.blocks[len(b.blocks)-1].IDs)
}

// Values lists the values of a field by code; code 0 is the empty text, "none".
func (b *Book) Values(f Field) []string { return b.dictionaries[f].texts() }

// Ranks are the places of a field's values in natural order, by code.
func (b *Book) Ranks(f Field) []uint32 { return b.dictionaries[f].ranks() }

// NumberRanks are the places of all orders by their numbers in natural order, by row. They are made when first asked
// for, which takes a second or so for millions.
func (b *Book) NumberRanks() []uint32 { return b.numberRanks() }

// Range bounds the known days of a milestone over the whole book; both are zero where there is none.
func (b *Book) Range(m int) (low, high day.Day) {
	for _, block := range b.blocks {
		c := block.Columns[m]
		if c.High != 0 && (low == 0 || c.Low < low) {
			low = c.Low
		}
		high = max(high, c.High)
	}
	return low, high
}

// Calendars are the calendars by which the orders are counted.
func (b *Book) Calendars() Calendars { return b.ends.Calendars }

// At is the order in a row, counted from 0 over all blocks.
func (b *Book) At(row int) Order {
	block, i := b.blocks[row/blockSize], row%blockSize
	o := Order{ID: block.IDs[i], Number: block.Numbers[i], Value: block.Values[i], Valued: block.Valued[i], Findings: block.Findings[i]}
	o.Days = make([]day.Day, len(block.Columns))
	for m, c := range block.Columns {
		o.Days[m] = c.Raw[i]
		if at := c.InstantAt(i); at != 0 {
			if o.Instants == nil {
				o.Instants = make([]day.Instant, len(block.Columns))
			}
			o.Instants[m] = at
		}
		if clock := c.ClockAt(i); clock != 0 {
			if o.Clocks == nil {
				o.Clocks = make([]int32, len(block.Columns))
			}
			o.Clocks[m] = clock
		}
	}
	for f := range Fields {
		o.Fields[f] = b.dictionaries[f].values[block.Codes[f][i]]
	}
	o.Fields[Place] = b.Place(block.Codes[Place][i]).Name
	for f := range b.layout.Extra {
		o.Extra = append(o.Extra, b.Text(Fields+Field(f), row))
	}
	b.partsAt(&o, block, i)
	return o
}

// Text is the value of a field of the order in a row; empty where it has none.
func (b *Book) Text(f Field, row int) string {
	return b.Values(f)[b.blocks[row/blockSize].Codes[f][row%blockSize]]
}

// KnownAt are the days of an order as known at the data date, by milestone.
func (b *Book) KnownAt(row int) []day.Day {
	block := b.blocks[row/blockSize]
	known := make([]day.Day, len(block.Columns))
	for m, c := range block.Columns {
		known[m] = c.Known[row%blockSize]
	}
	return known
}

// Find is the row of an order number. It reads all numbers.
func (b *Book) Find(number string) (row int, found bool) {
	for i, block := range b.blocks {
		if at := slices.Index(block.Numbers, number); at >= 0 {
			return i*blockSize + at, true
		}
	}
	return 0, false
}

// FindAll are the rows of orders by their numbers, of which those that are wanted; it reads all numbers once.
func (b *Book) FindAll(wanted map[string]bool) map[string]int {
	found := make([][]int, len(b.blocks)) // by block: offsets
	work.Each(len(b.blocks), func(i int) {
		b.Pause()
		for at, number := range b.blocks[i].Numbers {
			if wanted[number] {
				found[i] = append(found[i], at)
			}
		}
	})
	rows := make(map[string]int, len(wanted))
	for i, offsets := range found {
		for _, at := range offsets {
			rows[b.blocks[i].Numbers[at]] = i*blockSize + at
		}
	}
	return rows
}

// RowOf is the row of an order by its identity, which it has in every book of its store.
func (b *Book) RowOf(id int64) (row int, found bool) {
	block, at, found := find(b.blocks, id)
	return block*blockSize + at, found
}

// lookedThrough is how many orders are looked through for a number that is nearly the one that was typed.
const lookedThrough = 1_000_000

// leastTyped is how much of a number has to be typed for the order to be found by its end.
const leastTyped = 3

// NearestNumber is the number of an order that somebody is likely to have meant: one that ends as it was typed, else one that is
// at most two letters away; empty where there is none. Of large books only the first orders are looked through.
func (b *Book) NearestNumber(typed string) string {
	near, least := "", 3
	for i, block := range b.blocks {
		if i*blockSize > lookedThrough {
			break
		}
		for _, number := range block.Numbers {
			if len(typed) >= leastTyped && strings.HasSuffix(number, typed) {
				return number
			}
			if len(number)-len(typed) >= least || len(typed)-len(number) >= least {
				continue
			}
			if d := spelling.Distance(strings.ToLower(typed), strings.ToLower(number)); d < least {
				near, least = number, d
			}
		}
	}
	return near
}

// find is the block and row of an identity.
func find(blocks []*Block, id int64) (block, row int, found bool) {
	block = sort.Search(len(blocks), func(i int) bool { return blocks[i].IDs[0] > id }) - 1
	if block < 0 {
		return 0, 0, false
	}
	row, found = slices.BinarySearch(blocks[block].IDs, id)
	return block, row, found
}
