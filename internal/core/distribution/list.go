package distribution

import (
	"math"
	"runtime"
	"slices"

	"prairiedusk/internal/core/work"
)

// An Item is the length of one order of a group, with a plane from 0 to 7 that says something about it. Its number grows by
// group, then by length, then by plane, so that sorting sorts by all of them.
type Item uint64

const (
	planeBits  = 3
	lengthBits = 37 // of either sign: the seconds of the supported days take 35
	groupShift = planeBits + lengthBits
	midLength  = 1 << (lengthBits - 1)
)

// NewItem is the length of an order of a group.
func NewItem(group uint32, length int, plane uint32) Item {
	return Item(group)<<groupShift | Item(length+midLength)<<planeBits | Item(plane)
}

func (l Item) remark() uint64 { return uint64(l) & (1<<groupShift - 1) } // the length with its plane

// Length is the length, in ticks.
func (l Item) Length() int { return int(l>>planeBits&(1<<lengthBits-1)) - midLength }

// Plane is what is said about the length.
func (l Item) Plane() uint32 { return uint32(l & (1<<planeBits - 1)) }

// stretchLengths is how many lengths a list takes room for at a time, so that it grows without moving what it has.
const stretchLengths = 1 << 15

// A List lists lengths of many groups one by one, where they are too many or too far apart for a table of counts.
type List struct {
	full [][]Item
	last []Item // has room for more
}

// Add takes a length in.
func (l *List) Add(item Item) {
	if len(l.last) == cap(l.last) {
		l.grow()
	}
	l.last = append(l.last, item)
}

// grow makes the first stretch a short one: most questions list few lengths.
//
//go:noinline
func (l *List) grow() {
	room := stretchLengths
	if l.last == nil {
		room = 1 << 8
	} else {
		l.full = append(l.full, l.last)
	}
	l.last = make([]Item, 0, room)
}

// stretches are all that is listed.
func (l *List) stretches() [][]Item {
	if len(l.last) == 0 {
		return l.full
	}
	return append(l.full, l.last)
}

// Join takes in what another has listed.
func (l *List) Join(other List) { l.full = append(l.full, other.stretches()...) }

// Grouped are listed lengths by group.
type Grouped struct {
	lengths []Item
	ends    []int32 // those of group g lie from ends[g] to before ends[g+1]
	sorted  bool    // within each group
}

// widestCount is how far apart lengths may lie, with their planes, to be sorted by counting.
const widestCount = 1 << 14

// ByGroup sorts the lengths by group, and by length before where they lie close enough together for that.
func (l List) ByGroup(groups int) Grouped {
	stretches := l.stretches()
	if len(stretches) == 0 {
		return Grouped{ends: make([]int32, groups+1), sorted: true}
	}
	least, most := remarks(stretches)
	sorted := most-least < widestCount
	if sorted {
		byLength, _ := sortByCounting(stretches, int(most-least)+1, digit{mask: 1<<groupShift - 1, low: least})
		stretches = slices.Collect(slices.Chunk(byLength, stretchLengths))
	}
	lengths, ends := sortByCounting(stretches, groups, digit{mask: math.MaxUint64, shift: groupShift})
	return Grouped{lengths, ends, sorted}
}

// remarks are the least and the greatest of some lengths with their planes.
func remarks(stretches [][]Item) (least, most uint64) {
	parts := len(stretches)
	lows, highs := make([]uint64, parts), make([]uint64, parts)
	work.Split(parts*work.Fewest, func(from, to int) {
		for i := from / work.Fewest; i < to/work.Fewest; i++ {
			low, high := uint64(math.MaxUint64), uint64(0)
			for _, length := range stretches[i] {
				low, high = min(low, length.remark()), max(high, length.remark())
			}
			lows[i], highs[i] = low, high
		}
	})
	return slices.Min(lows), slices.Max(highs)
}

// A digit is a part of a listed length's number that it is sorted by.
type digit struct {
	mask, low uint64
	shift     uint8
}

func (d digit) of(l Item) uint64 { return (uint64(l)&d.mask - d.low) >> (d.shift & 63) }

// sortByCounting sorts lengths by a digit below some number, and keeps the order of those that are the same in it: each
// processor counts some of the stretches, and then places them where those of the processors before it end. Those with digit
// k lie from ends[k] to before ends[k+1].
func sortByCounting(stretches [][]Item, keys int, by digit) (sorted []Item, ends []int32) {
	parts := max(1, min(runtime.GOMAXPROCS(0), len(stretches)/4))
	of := func(part int) [][]Item {
		return stretches[part*len(stretches)/parts : (part+1)*len(stretches)/parts]
	}
	next := make([][]int32, parts)
	work.Each(parts, func(part int) {
		counts := make([]int32, keys)
		for _, stretch := range of(part) {
			for _, l := range stretch {
				counts[by.of(l)]++
			}
		}
		next[part] = counts
	})
	ends = make([]int32, keys+1)
	at := int32(0)
	for k := range keys {
		for _, counts := range next {
			counts[k], at = at, at+counts[k]
		}
		ends[k+1] = at
	}
	sorted = make([]Item, at)
	work.Each(parts, func(part int) {
		places := next[part]
		for _, stretch := range of(part) {
			for _, l := range stretch {
				k := by.of(l)
				sorted[places[k]] = l
				places[k]++
			}
		}
	})
	return sorted, ends
}

// At are the lengths of a group, in no order.
func (by Grouped) At(group int) []Item {
	return by.lengths[by.ends[group]:by.ends[group+1]]
}

// Of are the lengths of a group, the shortest first.
func (by Grouped) Of(group int) []Item {
	own := by.At(group)
	if !by.sorted {
		slices.Sort(own)
	}
	return own
}

// Bars is how many different lengths there are among some of one group, the shortest first.
func Bars(own []Item) (n int) {
	for i, l := range own {
		if i == 0 || l.Length() != own[i-1].Length() {
			n++
		}
	}
	return n
}

// Distributions are those of groups up to some number.
func (l List) Distributions(groups int) []Distribution {
	by, all := l.ByGroup(groups), make([]Distribution, groups)
	for g := range all {
		for _, item := range by.Of(g) {
			all[g] = all[g].With(item.Length(), 1)
		}
	}
	return all
}
