// Package work splits a computation over the processors. A fault in one of its parts is the fault of whoever asked for the
// computation, in their own goroutine, where it can be recovered; and a computation ends when its context does.
package work

import (
	"context"
	"fmt"
	"runtime"
	"runtime/debug"
	"slices"
	"sync"
)

// A Fault is a panic in some part of a computation. It is what the whole computation panics with.
type Fault struct {
	Value any
	Stack []byte // of the part
}

func (f *Fault) Error() string { return fmt.Sprint(f.Value) }

// A Stop is what a computation panics with whose context has ended.
type Stop struct{ Cause error }

func (s *Stop) Error() string { return "stopped: " + s.Cause.Error() }

func (s *Stop) Unwrap() error { return s.Cause }

// Check panics with a Stop once a context has ended.
func Check(ctx context.Context) {
	if ctx.Err() != nil {
		panic(&Stop{context.Cause(ctx)})
	}
}

// Do runs a computation. The error is a *Fault or a *Stop.
func Do(compute func()) (err error) {
	defer func() {
		if value := recover(); value != nil {
			err = recovered(value)
		}
	}()
	compute()
	return nil
}

// recovered is the error of a panic, in the goroutine that panicked.
func recovered(value any) error {
	switch value := value.(type) {
	case *Fault:
		return value
	case *Stop:
		return value
	}
	return &Fault{value, debug.Stack()}
}

// Each runs some parts, all at the same time.
func Each(parts int, run func(part int)) {
	errs := make([]error, parts)
	var done sync.WaitGroup
	for part := range parts - 1 {
		done.Go(func() { errs[part] = Do(func() { run(part) }) })
	}
	if parts > 0 {
		errs[parts-1] = Do(func() { run(parts - 1) })
	}
	done.Wait()
	for _, err := range errs {
		if err != nil {
			panic(err)
		}
	}
}

// Fewest is how many items are worth a processor of their own.
const Fewest = 1000

// Split splits n items over the processors: each runs some of them, from one to before another.
func Split(n int, run func(from, to int)) {
	parts := min(runtime.GOMAXPROCS(0), 1+n/Fewest)
	Each(parts, func(part int) { run(part*n/parts, (part+1)*n/parts) })
}

// Sort sorts on all processors: halves that are sorted by themselves are merged.
func Sort[T any](items []T, compare func(a, b T) int) {
	sortHalves(items, compare, runtime.GOMAXPROCS(0))
}

func sortHalves[T any](items []T, compare func(a, b T) int, processors int) {
	if processors < 2 || len(items) < 2*Fewest {
		slices.SortFunc(items, compare)
		return
	}
	a, b := slices.Clone(items[:len(items)/2]), items[len(items)/2:]
	Each(2, func(half int) {
		if half == 0 {
			sortHalves(a, compare, processors/2)
		} else {
			sortHalves(b, compare, processors-processors/2)
		}
	})
	// The merge never overtakes what it still reads of b: as many places lie before b as a has left.
	for i := 0; len(a) > 0; i++ {
		if len(b) > 0 && compare(b[0], a[0]) < 0 {
			items[i], b = b[0], b[1:]
		} else {
			items[i], a = a[0], a[1:]
		}
	}
}
