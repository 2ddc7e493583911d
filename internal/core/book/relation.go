package book

import (
	"math"
	"slices"
)

// A Relation says more of the values of a field, or of the products of lines: what is known of customers, say. Its
// columns become fields of orders, or columns of lines.
type Relation struct {
	Of      Field
	OfLines bool     // of products, which lines have, instead
	Columns []string // the names of the fields that it adds
	Rows    map[string][]string
}

// relate adds the fields and columns that relations tell. One that says nothing, or that files have brought under the
// same name, is left out.
func (b *Book) relate() {
	b.dictionaries = slices.Clip(b.dictionaries)
	for _, r := range b.ends.Relations {
		for column, name := range r.Columns {
			if r.OfLines {
				b.relateLines(r, column, name)
				continue
			}
			values, codes := r.translate(b.dictionaries[r.Of].values, column)
			if len(values) > 1 && !slices.Contains(b.FieldNames(), name) {
				b.tell(name, values, func(of Stretch, told []uint32) {
					for row, code := range of.Block.Codes[r.Of] {
						told[row] = codes[code]
					}
				})
			}
		}
	}
	b.related = len(b.told)
}

// translate gives the values of a column of the relation, and their codes by the codes of what it is a relation of.
func (r Relation) translate(of []string, column int) (values []string, codes []uint32) {
	dict := map[string]uint32{"": 0}
	values, codes = []string{""}, make([]uint32, len(of))
	for code, key := range of {
		row, found := r.Rows[key]
		if !found {
			continue
		}
		told, known := dict[row[column]]
		if !known {
			told = uint32(len(values))
			dict[row[column]] = told
			values = append(values, row[column])
		}
		codes[code] = told
	}
	return values, codes
}

// tell adds a field; fill gives the codes of each block.
func (b *Book) tell(name string, values []string, fill func(of Stretch, told []uint32)) {
	b.told = append(slices.Clip(b.told), name)
	dict := dictionary{values: values}
	dict.finish()
	b.dictionaries = append(slices.Clip(b.dictionaries), dict)
	b.blocks = slices.Clone(b.blocks)
	for i, block := range b.blocks {
		b.Pause()
		next := *block
		told := make([]uint32, len(block.IDs))
		fill(Stretch{block, 0, len(told), i * blockSize}, told)
		next.Codes = append(slices.Clip(block.Codes[:len(b.dictionaries)-1]), told)
		b.blocks[i] = &next
	}
}

func (b *Book) relateLines(r Relation, column int, name string) {
	values, codes := r.translate(b.parts[Lines][LineProduct].values, column)
	if len(values) == 1 || slices.ContainsFunc(b.PartColumns(Lines), func(c PartColumn) bool { return c.Name == name }) {
		return
	}
	at := len(b.PartColumns(Lines))
	b.toldOfLines = append(b.toldOfLines, PartColumn{name, Coded})
	dict := dictionary{values: values}
	dict.finish()
	b.parts[Lines] = append(slices.Clip(b.parts[Lines]), dict)
	b.blocks = slices.Clone(b.blocks)
	for i, block := range b.blocks {
		next := *block
		products := block.Parts[Lines].Columns[LineProduct].Codes
		told := make([]uint32, len(products))
		for line, code := range products {
			told[line] = codes[code]
		}
		next.Parts[Lines].Columns = append(slices.Clip(block.Parts[Lines].Columns[:at]), Cells{Codes: told})
		b.blocks[i] = &next
	}
}

// Unlabelled is the book without the fields that With has added.
func (b *Book) Unlabelled() *Book {
	next := *b
	next.told = b.told[:b.related]
	next.dictionaries = b.dictionaries[:int(Fields)+len(b.layout.Extra)+b.related]
	return &next
}

// With is the book with one more field, such as a label: its values, code 0 being none, and the codes that fill gives
// each block. The book itself stays as it is.
func (b *Book) With(name string, values []string, fill func(of Stretch, told []uint32)) *Book {
	next := *b
	next.tell(name, values, fill)
	return &next
}

// NoNumber stands for a told number that is not there.
const NoNumber = math.MinInt32

// WithNumber is the book with a whole number told of each order that has one; fill gives those of each block, which come as
// NoNumber.
func (b *Book) WithNumber(name string, fill func(of Stretch, told []int32)) *Book {
	next := *b
	next.numbers, next.blocks = append(slices.Clip(b.numbers), name), slices.Clone(b.blocks)
	for i, block := range next.blocks {
		wider := *block
		told := make([]int32, len(block.IDs))
		for row := range told {
			told[row] = NoNumber
		}
		fill(Stretch{block, 0, len(told), i * blockSize}, told)
		wider.Told = append(slices.Clip(block.Told[:len(b.numbers)]), told)
		next.blocks[i] = &wider
	}
	return &next
}

// NumberNames lists the numbers that are told of orders.
func (b *Book) NumberNames() []string { return b.numbers }

// WithFields is With for fields that are told of the records as relations are: labels come after them.
func (b *Book) WithFields(name string, values []string, fill func(of Stretch, told []uint32)) *Book {
	next := b.With(name, values, fill)
	next.related = len(next.told)
	return next
}
