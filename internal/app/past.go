package app

import (
	"context"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/whatif"
	"prairiedusk/internal/store"
)

// pastBooks are the books as they were after earlier loads, of which the last few that were asked for are held.
type pastBooks struct {
	turn chan struct{} // holds one: one book, of an earlier load or a supposed one, is made at a time
	held []pastBook    // the latest asked for last
}

type pastBook struct {
	load, version int64 // version is that of the book as it stands: an undone load changes what earlier ones are
	book          *book.Book
}

// mostPast bounds how many earlier books are held: each is as large as the one that stands.
const mostPast = 2

// takeTurn waits until no other book is being made, and gives what ends the turn.
func (a *App) takeTurn(ctx context.Context) (end func(), err error) {
	select {
	case a.past.turn <- struct{}{}:
		return func() { <-a.past.turn }, nil
	case <-ctx.Done():
		return nil, context.Cause(ctx)
	}
}

// BookAsOf is the book as it was while a load was the last one. The error wraps store.ErrNoLoad where there is no such load.
func (a *App) BookAsOf(ctx context.Context, load int64) (*book.Book, error) {
	end, err := a.takeTurn(ctx)
	if err != nil {
		return nil, err
	}
	defer end()
	version := a.snapshot.Load().Version()
	for i, p := range a.past.held {
		if p.load == load && p.version == version {
			a.past.held = append(append(a.past.held[:i:i], a.past.held[i+1:]...), p)
			return p.book, nil
		}
	}
	past, err := a.store.AsOf(ctx, load)
	if err != nil {
		return nil, err
	}
	defer past.Close()
	b, err := a.bookOf(ctx, past, -(load<<32 | version))
	if err != nil {
		return nil, err
	}
	a.past.held = append(a.past.held, pastBook{load, version, b})
	a.past.held = a.past.held[max(0, len(a.past.held)-mostPast):]
	return b, nil
}

// BookSupposing is the book as it would be with changes; see package whatif. The error is a *request.Error.
func (a *App) BookSupposing(ctx context.Context, changes []string) (*book.Book, error) {
	end, err := a.takeTurn(ctx)
	if err != nil {
		return nil, err
	}
	defer end()
	b := a.snapshot.Load().Within(ctx)
	if held := a.supposed.Load(); held != nil && held.version == b.Version() && slices.Equal(held.changes, changes) {
		return held.book, nil
	}
	supposed, err := whatif.Suppose(b, changes)
	if err != nil {
		return nil, err
	}
	kept, err := a.store.Labels(ctx)
	if err != nil {
		return nil, err
	}
	if supposed, err = a.derived(supposed, kept); err != nil {
		return nil, err
	}
	supposed = supposed.Unbound()
	a.supposed.Store(&supposedBook{b.Version(), changes, supposed})
	return supposed, nil
}

// A supposedBook is the last one that was supposed.
type supposedBook struct {
	version int64 // of the book that it was supposed of
	changes []string
	book    *book.Book
}

// OrderAsOf are the parts of an order, and what was changed in it by then, as they were while a load was the last one. The error wraps
// store.ErrNoLoad where there is no such load.
func (a *App) OrderAsOf(ctx context.Context, load int64, number string) (tables []store.PartTable, changes []store.Change, err error) {
	past, err := a.store.AsOf(ctx, load)
	if err != nil {
		return nil, nil, err
	}
	defer past.Close()
	if tables, err = past.Parts(ctx, number); err != nil {
		return nil, nil, err
	}
	changes, err = past.History(ctx, number)
	return tables, changes, err
}

// bookOf makes a book of all that a store has, under a version of its own.
func (a *App) bookOf(ctx context.Context, of *store.Store, version int64) (*book.Book, error) {
	state, err := of.State(ctx)
	if err != nil {
		return nil, err
	}
	settings, err := ends(state)
	if err != nil {
		return nil, err
	}
	settings.Version = version
	if settings.Relations, err = of.Relations(ctx); err != nil {
		return nil, err
	}
	builder, tell := book.NewBuilder(state.Layout), newDeriver(state.Layout, settings.Bounds.DataDate)
	put := func(o book.Order) { builder.Put(tell.order(o)) }
	if err := of.Orders(ctx, state.Layout, store.Since{}, zoneFinder(zonesOf(state.Sites)), put); err != nil {
		return nil, err
	}
	return a.derived(builder.Finish(settings), state.Labels)
}
