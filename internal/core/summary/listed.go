package summary

import (
	"runtime"
	"slices"
)

// A packedLength is a length above its plane, so that sorting sorts by length.
type packedLength int64

func packed(length int, plane uint32) packedLength {
	return packedLength(length)<<3 | packedLength(plane)
}

func (l packedLength) length() int   { return int(l >> 3) }
func (l packedLength) plane() uint32 { return uint32(l & (planes - 1)) }

// A listedLength is the length of one order of a group.
type listedLength struct {
	group  uint32
	length packedLength
}

// stretchLengths is how many lengths a list takes room for at a time, so that it grows without moving what it has.
const stretchLengths = 1 << 15

// A lengthList lists lengths one by one.
type lengthList struct{ stretches [][]listedLength }

func (l *lengthList) add(group uint32, length packedLength) {
	last := len(l.stretches) - 1
	if last < 0 || len(l.stretches[last]) == cap(l.stretches[last]) {
		l.grow()
		last = len(l.stretches) - 1
	}
	l.stretches[last] = append(l.stretches[last], listedLength{group, length})
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
	lengths []packedLength
	ends    []int32
}

// byGroup sorts listed lengths by group, by counting: each processor counts some of the stretches, and then places them where
// the groups' lengths of those before it end.
func byGroup(listed lengthList, groups int) groupedLengths {
	parts := max(1, min(runtime.GOMAXPROCS(0), len(listed.stretches)/4))
	stretches := func(part int) [][]listedLength {
		n := len(listed.stretches)
		return listed.stretches[part*n/parts : (part+1)*n/parts]
	}
	next := make([][]int32, parts)
	each(parts, func(part int) {
		counts := make([]int32, groups)
		for _, stretch := range stretches(part) {
			for _, l := range stretch {
				counts[l.group]++
			}
		}
		next[part] = counts
	})
	by := groupedLengths{ends: make([]int32, groups+1)}
	at := int32(0)
	for g := range groups {
		for _, counts := range next {
			counts[g], at = at, at+counts[g]
		}
		by.ends[g+1] = at
	}
	by.lengths = make([]packedLength, at)
	each(parts, func(part int) {
		places := next[part]
		for _, stretch := range stretches(part) {
			for _, l := range stretch {
				by.lengths[places[l.group]] = l.length
				places[l.group]++
			}
		}
	})
	return by
}

// of are the lengths of a group, the shortest first.
func (by groupedLengths) of(group int) []packedLength {
	own := by.lengths[by.ends[group]:by.ends[group+1]]
	slices.Sort(own)
	return own
}
