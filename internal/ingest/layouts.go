package ingest

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"prairiedusk/internal/intake"
	"prairiedusk/internal/source"
	"prairiedusk/internal/store"
)

// layouts are those that are kept, with those that this load has brought.
func (in *intaking) layouts(ctx context.Context) ([]intake.Layout, error) {
	kept, err := in.load.Layouts(ctx)
	if err != nil {
		return nil, err
	}
	layouts := make([]intake.Layout, len(kept))
	for i, k := range kept {
		if err := json.Unmarshal(k.Definition, &layouts[i]); err != nil {
			return nil, fmt.Errorf("the layout %q cannot be read: %w", k.Name, err)
		}
		layouts[i].Name = k.Name
	}
	return layouts, nil
}

// keepLayout remembers what the columns of a table meant, if there is anything to remember.
func (in *intaking) keepLayout(ctx context.Context, reader *intake.TableReader) error {
	layout, ordinary := reader.Layout()
	if ordinary {
		return nil
	}
	name := layout.Name
	layout.Name = "" // it has a column of its own
	definition, err := json.Marshal(layout)
	if err != nil {
		return err
	}
	return in.load.KeepLayout(ctx, store.KeptLayout{Name: name, Headings: layout.Headings(), Definition: definition, SavedAt: time.Now()})
}

// wants says whether a table is to be read.
func (in *intaking) wants(table source.Table) bool {
	if len(in.sheets) == 0 || table.Sheet == "" {
		return true
	}
	for _, name := range in.sheets {
		if strings.EqualFold(name, table.Sheet) {
			in.met = append(in.met, name)
			return true
		}
	}
	return false
}

// unmetSheets says that no workbook had some sheet.
func (in *intaking) unmetSheets() error {
	for _, name := range in.sheets {
		if !slices.Contains(in.met, name) {
			return fmt.Errorf("no workbook has a sheet %q", name)
		}
	}
	return nil
}
