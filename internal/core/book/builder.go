package book

import (
	"fmt"
	"maps"
	"slices"
	"sync"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
)

// A dictionary codes the values of a field. It is immutable once its book stands; code 0 is "".
type dictionary struct {
	values []string
	codes  map[string]uint32
	ranks  func() []uint32 // of the values in natural order, by code; made when first asked for
	// Of places, whose values are the texts of their keys: how they are shown, and what of each is shown to tell it apart.
	shown []string
	told  []uint8
}

// texts are the values as people read them, by code.
func (d *dictionary) texts() []string {
	if d.shown != nil {
		return d.shown
	}
	return d.values
}

// finish lets the dictionary rank its values.
func (d *dictionary) finish() {
	values := d.texts()
	d.ranks = sync.OnceValue(func() []uint32 { return ranked(values) })
}

// A Builder makes the next snapshot from an earlier one. It is for one goroutine; the earlier book stays
// whole and in use meanwhile.
type Builder struct {
	layout       Layout
	dictionaries []dictionary // by field
	parts        [Parts][]dictionary
	ownCodes     map[*dictionary]bool // the map of codes is this builder's own
	blocks       []*Block
	own          []bool           // the block is this builder's own
	replaced     []map[int]*Order // by block and row: orders whose parts take the place of others
	scratch      []byte
}

// NewBuilder begins an empty book of this layout.
func NewBuilder(layout Layout) *Builder {
	b := &Builder{layout: layout, ownCodes: map[*dictionary]bool{}}
	b.dictionaries = newDictionaries(int(Fields) + len(layout.Extra))
	for p := range Parts {
		b.parts[p] = newDictionaries(len(layout.PartColumns(p)))
	}
	b.ownAll()
	return b
}

func newDictionaries(n int) []dictionary {
	all := make([]dictionary, n)
	for i := range all {
		all[i] = dictionary{values: []string{""}, codes: map[string]uint32{"": 0}}
	}
	return all
}

// ownAll says that all dictionaries are the builder's own.
func (b *Builder) ownAll() {
	for _, all := range append(b.parts[:], b.dictionaries) {
		for i := range all {
			b.ownCodes[&all[i]] = true
		}
	}
}

// Next begins the snapshot that follows this one.
func (b *Book) Next() *Builder {
	next := &Builder{
		layout:       b.layout,
		dictionaries: slices.Clone(b.dictionaries[:int(Fields)+len(b.layout.Extra)]),
		ownCodes:     map[*dictionary]bool{},
		blocks:       slices.Clone(b.blocks),
		own:          make([]bool, len(b.blocks)),
		replaced:     make([]map[int]*Order, len(b.blocks)),
	}
	for p := range Parts {
		next.parts[p] = slices.Clone(b.parts[p][:len(b.layout.PartColumns(p))])
	}
	return next
}

// Put takes in an order: in the place of the one with its identity, or as the last. A new identity must be
// greater than all before it, the days as many as the milestones, and the extra fields as many as the layout's or
// none; Put panics otherwise.
func (b *Builder) Put(o Order) {
	if len(o.Days) != len(b.layout.Milestones) {
		panic(fmt.Sprintf("book: an order with %d days in a book of %d milestones", len(o.Days), len(b.layout.Milestones)))
	}
	if o.Extra == nil {
		o.Extra = make([]string, len(b.layout.Extra))
	}
	if len(o.Extra) != len(b.layout.Extra) {
		panic(fmt.Sprintf("book: an order with %d extra fields in a book of %d", len(o.Extra), len(b.layout.Extra)))
	}
	at, row, found := find(b.blocks, o.ID)
	if !found {
		at, row = b.appendRow(o.ID)
	}
	block := b.owned(at)
	block.Numbers[row] = o.Number
	block.Values[row], block.Valued[row], block.Findings[row] = o.Value, o.Valued, o.Findings
	for m, d := range o.Days {
		block.Columns[m].Raw[row] = d
		at := day.Instant(0)
		if o.Instants != nil {
			at = o.Instants[m]
		}
		clock := int32(0)
		if o.Clocks != nil {
			clock = o.Clocks[m]
		}
		block.Columns[m].setTime(row, at, clock)
	}
	for f := range Fields {
		block.Codes[f][row] = b.code(f, o)
	}
	for f, value := range o.Extra {
		block.Codes[int(Fields)+f][row] = b.codeOf(&b.dictionaries[int(Fields)+f], []byte(value))
	}
	if found {
		b.replaced[at][row] = &o
	} else {
		b.appendParts(block, o)
	}
}

// appendRow makes room for one more order and says where.
func (b *Builder) appendRow(id int64) (at, row int) {
	at = len(b.blocks) - 1
	if at >= 0 && b.blocks[at].IDs[len(b.blocks[at].IDs)-1] >= id {
		panic(fmt.Sprintf("book: order identity %d comes after a greater one", id))
	}
	if at < 0 || len(b.blocks[at].IDs) == blockSize {
		b.blocks = append(b.blocks, &Block{Columns: make([]Column, len(b.layout.Milestones)),
			Codes: make([][]uint32, len(b.dictionaries)), Parts: b.layout.noParts()})
		b.own = append(b.own, true)
		b.replaced = append(b.replaced, map[int]*Order{})
		at++
	}
	block := b.owned(at)
	block.IDs = append(block.IDs, id)
	block.Numbers = append(block.Numbers, "")
	block.Values = append(block.Values, 0)
	block.Valued = append(block.Valued, false)
	block.Findings = append(block.Findings, 0)
	for m := range block.Columns {
		block.Columns[m].Raw = append(block.Columns[m].Raw, 0)
		if block.Columns[m].Instants != nil {
			block.Columns[m].Instants = append(block.Columns[m].Instants, 0)
		}
		if block.Columns[m].Clocks != nil {
			block.Columns[m].Clocks = append(block.Columns[m].Clocks, 0)
		}
	}
	for f := range block.Codes {
		block.Codes[f] = append(block.Codes[f], 0)
	}
	return at, len(block.IDs) - 1
}

// setTime makes the columns of instants, and of times as written, with the first one that comes.
func (c *Column) setTime(row int, at day.Instant, clock int32) {
	if c.Clocks == nil && clock != 0 {
		c.Clocks = make([]int32, len(c.Raw))
	}
	if c.Clocks != nil {
		c.Clocks[row] = clock
	}
	if c.Instants == nil && at != 0 {
		c.Instants = make([]day.Instant, len(c.Raw))
	}
	if c.Instants != nil {
		c.Instants[row] = at
	}
}

// owned is the block at a place, copied first where it belongs to an earlier snapshot.
func (b *Builder) owned(at int) *Block {
	if !b.own[at] {
		old := b.blocks[at]
		block := &Block{
			IDs:      slices.Clone(old.IDs),
			Numbers:  slices.Clone(old.Numbers),
			Values:   slices.Clone(old.Values),
			Valued:   slices.Clone(old.Valued),
			Findings: slices.Clone(old.Findings),
			Columns:  make([]Column, len(old.Columns)),
			Codes:    make([][]uint32, len(b.dictionaries)),
		}
		for m := range old.Columns {
			block.Columns[m].Raw = slices.Clone(old.Columns[m].Raw)
			block.Columns[m].Instants = slices.Clone(old.Columns[m].Instants)
			block.Columns[m].Clocks = slices.Clone(old.Columns[m].Clocks)
		}
		for f := range block.Codes {
			block.Codes[f] = slices.Clone(old.Codes[f])
		}
		for p := range old.Parts {
			block.Parts[p] = old.Parts[p].clone(len(b.layout.PartColumns(Part(p))))
		}
		b.blocks[at], b.own[at], b.replaced[at] = block, true, map[int]*Order{}
	}
	return b.blocks[at]
}

// code is the code of the order's value of a field.
func (b *Builder) code(f Field, o Order) uint32 {
	text := o.Fields[f]
	if f == Place {
		text = PlaceKey{text, o.Fields[Country], o.Fields[Region]}.Text()
	}
	b.scratch = append(b.scratch[:0], text...)
	return b.codeOf(&b.dictionaries[f], b.scratch)
}

// codeOf is the code of a value in one of the builder's dictionaries.
func (b *Builder) codeOf(dict *dictionary, text []byte) uint32 {
	code, known := dict.codes[string(text)]
	if !known {
		if !b.ownCodes[dict] {
			dict.codes, b.ownCodes[dict] = maps.Clone(dict.codes), true
			dict.values = slices.Clip(dict.values)
		}
		dict.ranks = nil
		code = uint32(len(dict.values))
		value := string(text)
		dict.values = append(dict.values, value)
		dict.codes[value] = code
	}
	return code
}

// Settings are what a book is finished with.
type Settings struct {
	// Bounds: a zero FirstDay is the earliest `ordered`, a zero DataDate the latest fact.
	Bounds    period.Bounds
	Calendars Calendars
	// Sites and Places say by which calendars and zones orders are counted.
	Sites  []SiteRecord
	Places []PlaceRecord
	// Relations say more of customers, sites, places and products.
	Relations []Relation
	// Statuses is what is known of statuses by their names.
	Statuses []StatusSetting
	// Decimals is how many minor units the unit of a currency has, as a power of ten; nil is 2 for all.
	Decimals func(currency string) int
	Version  int64
}

// Finish makes the snapshot. The Builder must not be used afterwards.
func (b *Builder) Finish(ends Settings) *Book {
	book := &Book{
		layout:       b.layout,
		dictionaries: b.dictionaries,
		parts:        b.parts,
		blocks:       b.blocks,
		ends:         ends,
		bounds:       ends.Bounds,
		cache:        &sync.Map{},
	}
	for i, block := range b.blocks {
		b.replaceParts(block, b.replaced[i])
	}
	if places := &b.dictionaries[Place]; places.ranks == nil {
		places.showPlaces()
	}
	for _, all := range append(b.parts[:], b.dictionaries) {
		for i := range all {
			if all[i].ranks == nil {
				all[i].finish()
			}
		}
	}
	if book.bounds.DataDate == 0 {
		book.bounds.DataDate = b.latestFact()
	}
	for i, block := range book.blocks {
		book.blocks[i] = block.knownAt(book.bounds.DataDate, b.layout.Milestones)
	}
	book.numberRanks = sync.OnceValue(func() []uint32 {
		numbers := make([]string, 0, book.Orders())
		for _, block := range book.blocks {
			numbers = append(numbers, block.Numbers...)
		}
		return ranked(numbers)
	})
	book.relate()
	book.resolve()
	book.findEffectiveStarts()
	if book.bounds.FirstDay == 0 {
		ordered := milestone.Index(b.layout.Milestones, milestone.Ordered)
		book.bounds.FirstDay, _ = book.Range(ordered)
	}
	// An empty book, or one whose orders all lie after the data date, is one day long.
	if book.bounds.DataDate == 0 {
		book.bounds.DataDate = day.First
	}
	if book.bounds.FirstDay == 0 || book.bounds.FirstDay > book.bounds.DataDate {
		book.bounds.FirstDay = book.bounds.DataDate
	}
	return book
}

func (b *Builder) latestFact() (latest day.Day) {
	for _, block := range b.blocks {
		for m, c := range block.Columns {
			if !b.layout.Milestones[m].Plan {
				latest = max(latest, slices.Max(c.Raw))
			}
		}
	}
	return latest
}

// knownAt is the block with its columns as known at the data date; itself where that changes nothing.
func (block *Block) knownAt(dataDate day.Day, milestones []milestone.Milestone) *Block {
	next := *block
	next.Columns = slices.Clone(block.Columns)
	changed := false
	for m := range next.Columns {
		c := &next.Columns[m]
		if c.Known == nil {
			c.RawHigh = slices.Max(c.Raw)
		} else if milestones[m].Plan || c.RawHigh <= dataDate && c.RawHigh == c.High {
			continue // known as recorded, then and now
		}
		c.know(dataDate, milestones[m].Plan)
		changed = true
	}
	if !changed {
		return block
	}
	return &next
}

func (c *Column) know(dataDate day.Day, plan bool) {
	c.Known = c.Raw
	if !plan && c.RawHigh > dataDate {
		c.Known = slices.Clone(c.Raw)
		for i, d := range c.Known {
			if d > dataDate {
				c.Known[i] = 0
			}
		}
	}
	c.bound()
}

// bound finds the ends of the column's days.
func (c *Column) bound() {
	c.Low, c.High = 0, 0
	for _, d := range c.Known {
		if d != 0 && (c.Low == 0 || d < c.Low) {
			c.Low = d
		}
		c.High = max(c.High, d)
	}
}
