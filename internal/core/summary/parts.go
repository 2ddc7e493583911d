package summary

import (
	"runtime"
	"slices"
	"sync"
)

// fewest is how many items are worth a processor of their own.
const fewest = 1000

// inParts splits n items over the processors: each visits some of them, from one to before another.
func inParts(n int, visit func(from, to int)) {
	parts := min(runtime.GOMAXPROCS(0), 1+n/fewest)
	each(parts, func(part int) { visit(part*n/parts, (part+1)*n/parts) })
}

// each visits some parts, all at the same time.
func each(parts int, visit func(part int)) {
	var done sync.WaitGroup
	for part := range parts - 1 {
		done.Go(func() { visit(part) })
	}
	visit(parts - 1)
	done.Wait()
}

// sortInParts sorts on all processors: halves that are sorted by themselves are merged.
func sortInParts[T any](items []T, compare func(a, b T) int) {
	sortHalves(items, compare, runtime.GOMAXPROCS(0))
}

func sortHalves[T any](items []T, compare func(a, b T) int, processors int) {
	if processors < 2 || len(items) < 2*fewest {
		slices.SortFunc(items, compare)
		return
	}
	a, b := slices.Clone(items[:len(items)/2]), items[len(items)/2:]
	var done sync.WaitGroup
	done.Go(func() { sortHalves(a, compare, processors/2) })
	sortHalves(b, compare, processors-processors/2)
	done.Wait()
	// The merge never overtakes what it still reads of b: as many places lie before b as a has left.
	for i := 0; len(a) > 0; i++ {
		if len(b) > 0 && compare(b[0], a[0]) < 0 {
			items[i], b = b[0], b[1:]
		} else {
			items[i], a = a[0], a[1:]
		}
	}
}
