package app

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/forecast"
	"prairiedusk/internal/core/immediate"
	"prairiedusk/internal/core/statuses"
	"prairiedusk/internal/labels"
	"prairiedusk/internal/money"
	"prairiedusk/internal/store"
)

// derived is a finished book with what is told of all its orders together, and its labels.
func (a *App) derived(b *book.Book, kept []store.KeptLabel) (*book.Book, error) {
	return a.labelled(forecast.Derive(immediate.Derive(statuses.Derive(b))), kept)
}

// labelled is a book with all labels that can be. One that cannot, since a field is gone, is left out and logged; the list
// of labels says why.
func (a *App) labelled(b *book.Book, kept []store.KeptLabel) (*book.Book, error) {
	definitions, err := definitionsOf(kept)
	if err != nil {
		return nil, err
	}
	b, refused := labels.Apply(b, definitions, func(currency string) int {
		decimals, _ := money.Decimals(currency) // intake has checked it
		return decimals
	})
	for _, err := range refused {
		a.settings.Log.Warn("a label cannot be decided", "error", err)
	}
	return b, nil
}

func definitionsOf(kept []store.KeptLabel) ([]labels.Definition, error) {
	definitions := make([]labels.Definition, len(kept))
	for i, k := range kept {
		if err := json.Unmarshal(k.Definition, &definitions[i]); err != nil {
			return nil, fmt.Errorf("the label %q cannot be read: %w", k.Name, err)
		}
	}
	return definitions, nil
}

// Labels lists the labels as they are kept.
func (a *App) Labels(ctx context.Context) ([]labels.Definition, error) {
	kept, err := a.store.Labels(ctx)
	if err != nil {
		return nil, err
	}
	return definitionsOf(kept)
}

// SaveLabel keeps a label, which the caller has tried, and makes the next snapshot with it.
func (a *App) SaveLabel(ctx context.Context, d labels.Definition) error {
	text, err := json.Marshal(d)
	if err != nil {
		return err
	}
	return a.changed(ctx, a.store.SaveLabel(ctx, store.KeptLabel{Name: d.Name, Definition: text, SavedAt: time.Now()}))
}

// DeleteLabel forgets a label and makes the next snapshot without it.
func (a *App) DeleteLabel(ctx context.Context, name string) error {
	return a.changed(ctx, a.store.DeleteLabel(ctx, name))
}
