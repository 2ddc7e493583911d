package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// A KeptLayout is what the columns of a kind of file mean, as it is kept; its definition is JSON that only others read.
type KeptLayout struct {
	Name       string
	Headings   string          // a digest of them, by which layouts are told apart
	Definition json.RawMessage `gorm:"serializer:json"`
	SavedAt    time.Time
	LoadID     *int64 // the load that brought it: when that is undone, it is gone; nil where a person has
}

func (KeptLayout) TableName() string { return "layouts" }

// ofUndone is the condition on layouts that went with their load.
const ofUndone = "load_id IN (SELECT id FROM loads WHERE undone_at IS NOT NULL)"

// Layouts lists the layouts, by name.
func (s *Store) Layouts(ctx context.Context) ([]KeptLayout, error) {
	return layouts(s.records.WithContext(ctx))
}

func layouts(tx *gorm.DB) (kept []KeptLayout, err error) {
	return kept, tx.Where("NOT coalesce(" + ofUndone + ", false)").Order("lower(name)").Find(&kept).Error
}

// changeLayouts changes layouts in a transaction of its own, once those that went with their loads are out of the way.
func (s *Store) changeLayouts(ctx context.Context, change func(tx *gorm.DB) error) error {
	return s.records.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Delete(&KeptLayout{}, ofUndone).Error; err != nil {
			return err
		}
		return change(tx)
	})
}

// SaveLayout keeps a layout. Where one of its name, or of its headings, is there, replace puts it in that one's place; else the error
// wraps ErrTaken.
func (s *Store) SaveLayout(ctx context.Context, l KeptLayout, replace bool) error {
	return s.changeLayouts(ctx, func(tx *gorm.DB) error {
		if replace {
			if err := tx.Delete(&KeptLayout{}, "lower(name) = lower(?) OR headings = ?", l.Name, l.Headings).Error; err != nil {
				return err
			}
		}
		same, err := layoutOf(tx, l.Headings)
		switch {
		case err != nil:
			return err
		case same != nil:
			return fmt.Errorf("%w: the layout %q has the same headings", ErrTaken, same.Name)
		}
		return taken(tx.Create(&l).Error, "layout", l.Name)
	})
}

// layoutOf is the layout of some headings; nil where there is none.
func layoutOf(tx *gorm.DB, headings string) (*KeptLayout, error) {
	var same KeptLayout
	err := tx.Where("headings = ?", headings).Take(&same).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, nil
	}
	return &same, err
}

// RenameLayout gives a layout another name. The error wraps ErrTaken or ErrNotKept.
func (s *Store) RenameLayout(ctx context.Context, name, to string) error {
	return s.changeLayouts(ctx, func(tx *gorm.DB) error {
		result := tx.Model(&KeptLayout{}).Where("lower(name) = lower(?)", name).Update("name", to)
		if err := taken(result.Error, "layout", to); err != nil {
			return err
		}
		return found(result, name)
	})
}

// DeleteLayout forgets a layout. The error wraps ErrNotKept.
func (s *Store) DeleteLayout(ctx context.Context, name string) error {
	return s.changeLayouts(ctx, func(tx *gorm.DB) error {
		return found(tx.Delete(&KeptLayout{}, "lower(name) = lower(?)", name), name)
	})
}

// Layouts lists the layouts as the load finds them.
func (l *Load) Layouts(ctx context.Context) ([]KeptLayout, error) {
	return layouts(l.tx.WithContext(ctx))
}

// KeepLayout remembers what the columns of a file meant, in the place and under the name of the layout that has its headings; one that
// says the same stays as it is. A new one whose name is taken gets a number.
func (l *Load) KeepLayout(ctx context.Context, kept KeptLayout) error {
	tx := l.tx.WithContext(ctx)
	if err := tx.Delete(&KeptLayout{}, ofUndone).Error; err != nil {
		return err
	}
	kept.LoadID = &l.record.ID
	same, err := layoutOf(tx, kept.Headings)
	if err != nil {
		return err
	}
	if same != nil {
		return tx.Model(&KeptLayout{}).Where("headings = ? AND definition <> ?::jsonb", kept.Headings, string(kept.Definition)).
			Select("Definition", "SavedAt", "LoadID").Updates(&kept).Error
	}
	for name, n := kept.Name, 2; ; n++ {
		var there int64
		if err := tx.Model(&KeptLayout{}).Where("lower(name) = lower(?)", kept.Name).Count(&there).Error; err != nil {
			return err
		}
		if there == 0 {
			return tx.Create(&kept).Error
		}
		kept.Name = fmt.Sprintf("%s %d", name, n)
	}
}
