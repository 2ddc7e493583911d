package summary

import (
	"math"
	"runtime"
	"slices"

	"prairiedusk/internal/core/work"
)

// A listedLength is the length of one order of a group, with the plane that remarks about it put it in. Its number grows by
// group, then by length, then by plane, so that sorting sorts by all of them.
type listedLength uint64

const (
	planeBits  = 3
	lengthBits = 37 // of either sign: the seconds of the supported days take 35
	groupShift = planeBits + lengthBits
	midLength  = 1 << (lengthBits - 1)
)

func listed(group uint32, length int, plane uint32) listedLength {
	return listedLength(group)<<groupShift | listedLength(length+midLength)<<planeBits | listedLength(plane)
}

func (l listedLength) remark() uint64 { return uint64(l) & (1<<groupShift - 1) } // the length with its plane
func (l listedLength) length() int    { return int(l>>planeBits&(1<<lengthBits-1)) - midLength }
func (l listedLength) plane() uint32  { return uint32(l & (planes - 1)) }

// stretchLengths is how many lengths a list takes room for at a time, so that it grows without moving what it has.
const stretchLengths = 1 << 15

// A lengthList lists lengths one by one.
type lengthList struct{ stretches [][]listedLength }

func (l *lengthList) add(length listedLength) {
	last := len(l.stretches) - 1
	if last < 0 || len(l.stretches[last]) == cap(l.stretches[last]) {
		l.grow()
		last = len(l.stretches) - 1
	}
	l.stretches[last] = append(l.stretches[last], length)
}

// grow makes the first stretch a short one: most questions list few lengths.
func (l *lengthList) grow() {
	room := stretchLengths
	if len(l.stretches) == 0 {
		room = 1 << 8
	}
	l.stretches = append(l.stretches, make([]listedLength, 0, room))
}

func (l *lengthList) join(other lengthList) { l.stretches = append(l.stretches, other.stretches...) }

// groupedLengths are listed lengths by group; those of group g lie from ends[g] to before ends[g+1].
type groupedLengths struct {
	lengths []listedLength
	ends    []int32
	sorted  bool // within each group
}

// widestCount is how far apart lengths may lie, with their planes, to be sorted by counting.
const widestCount = 1 << 14

// byGroup sorts listed lengths by group, and by length before where they lie close enough together for that.
func byGroup(list lengthList, groups int) groupedLengths {
	if len(list.stretches) == 0 {
		return groupedLengths{ends: make([]int32, groups+1), sorted: true}
	}
	least, most := list.remarks()
	sorted := most-least < widestCount
	if sorted {
		byLength, _ := sortByCounting(list.stretches, int(most-least)+1, digit{mask: 1<<groupShift - 1, low: least})
		list.stretches = slices.Collect(slices.Chunk(byLength, stretchLengths))
	}
	lengths, ends := sortByCounting(list.stretches, groups, digit{mask: math.MaxUint64, shift: groupShift})
	return groupedLengths{lengths, ends, sorted}
}

// remarks are the least and the greatest of those listed.
func (l lengthList) remarks() (least, most uint64) {
	parts := len(l.stretches)
	lows, highs := make([]uint64, parts), make([]uint64, parts)
	work.Split(parts*work.Fewest, func(from, to int) {
		for i := from / work.Fewest; i < to/work.Fewest; i++ {
			low, high := uint64(math.MaxUint64), uint64(0)
			for _, length := range l.stretches[i] {
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

func (d digit) of(l listedLength) uint64 { return (uint64(l)&d.mask - d.low) >> (d.shift & 63) }

// sortByCounting sorts lengths by a digit below some number, and keeps the order of those that are the same in it: each
// processor counts some of the stretches, and then places them where those of the processors before it end. Those with digit
// k lie from ends[k] to before ends[k+1].
func sortByCounting(stretches [][]listedLength, keys int, by digit) (sorted []listedLength, ends []int32) {
	parts := max(1, min(runtime.GOMAXPROCS(0), len(stretches)/4))
	of := func(part int) [][]listedLength {
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
	sorted = make([]listedLength, at)
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

// at are the lengths of a group.
func (by groupedLengths) at(group int) []listedLength {
	return by.lengths[by.ends[group]:by.ends[group+1]]
}

// of are the lengths of a group, the shortest first.
func (by groupedLengths) of(group int) []listedLength {
	own := by.at(group)
	if !by.sorted {
		slices.Sort(own)
	}
	return own
}

// bars is how many different lengths there are among some of one group, the shortest first.
func bars(own []listedLength) (n int) {
	for i, l := range own {
		if i == 0 || l.length() != own[i-1].length() {
			n++
		}
	}
	return n
}
