package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// A KeptLabel is a label as it is kept; its definition is JSON that only others read.
type KeptLabel struct {
	Name       string          `gorm:"primaryKey"`
	Definition json.RawMessage `gorm:"serializer:json"`
	SavedAt    time.Time
}

func (KeptLabel) TableName() string { return "labels" }

// A KeptCheck is what somebody expects of an answer; its definition is JSON that only others read.
type KeptCheck struct {
	Name       string          `gorm:"primaryKey"`
	Definition json.RawMessage `gorm:"serializer:json"`
	SavedAt    time.Time
}

func (KeptCheck) TableName() string { return "checks" }

// A View is what was asked, kept under a name: a page and its question.
type View struct {
	ID       int64
	Name     string
	Address  string
	Sentence string
	SavedAt  time.Time
}

// ErrTaken is returned, wrapped, where a view or layout of the name is there already.
var ErrTaken = errors.New("this name is taken")

// ErrNoName is returned where a view is to have no name.
var ErrNoName = errors.New("a view needs a name")

// ErrNotKept is returned, wrapped, where nothing is kept under a name.
var ErrNotKept = errors.New("nothing is kept under this name")

// changed counts a change of what snapshots are made with.
func changed(tx *gorm.DB) error {
	return tx.Model(&settingsRow{}).Where("one").Update("changes", gorm.Expr("changes + 1")).Error
}

// Labels lists the labels, by name.
func (s *Store) Labels(ctx context.Context) (kept []KeptLabel, err error) {
	return kept, s.records.WithContext(ctx).Order("name").Find(&kept).Error
}

// SaveLabel keeps a label, in the place of one of its name.
func (s *Store) SaveLabel(ctx context.Context, l KeptLabel) error {
	return s.records.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		return errors.Join(tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&l).Error, changed(tx))
	})
}

// DeleteLabel forgets a label. The error wraps ErrNotKept where there is none.
func (s *Store) DeleteLabel(ctx context.Context, name string) error {
	return s.records.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := found(tx.Delete(&KeptLabel{}, "name = ?", name), name); err != nil {
			return err
		}
		return changed(tx)
	})
}

// Checks lists the checks, by name.
func (s *Store) Checks(ctx context.Context) (kept []KeptCheck, err error) {
	return kept, s.records.WithContext(ctx).Order("name").Find(&kept).Error
}

// SaveCheck keeps a check, in the place of one of its name.
func (s *Store) SaveCheck(ctx context.Context, c KeptCheck) error {
	return s.records.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&c).Error
}

// DeleteCheck forgets a check. The error wraps ErrNotKept where there is none.
func (s *Store) DeleteCheck(ctx context.Context, name string) error {
	return found(s.records.WithContext(ctx).Delete(&KeptCheck{}, "name = ?", name), name)
}

// found makes a change of nothing an error.
func found(result *gorm.DB, name string) error {
	if result.Error == nil && result.RowsAffected == 0 {
		return fmt.Errorf("%w: %q", ErrNotKept, name)
	}
	return result.Error
}

// Views lists the views, by name.
func (s *Store) Views(ctx context.Context) (views []View, err error) {
	return views, s.records.WithContext(ctx).Order("lower(name)").Find(&views).Error
}

// SaveView keeps a view. Where one of its name, whatever its capitals, is there, replace puts it in that one's place; else
// the error wraps ErrTaken.
func (s *Store) SaveView(ctx context.Context, v View, replace bool) error {
	if v.Name == "" {
		return ErrNoName
	}
	return s.records.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if replace {
			if err := tx.Delete(&View{}, "lower(name) = lower(?)", v.Name).Error; err != nil {
				return err
			}
		}
		return taken(tx.Create(&v).Error, "view", v.Name)
	})
}

// RenameView gives a view another name. The error wraps ErrTaken or ErrNotKept.
func (s *Store) RenameView(ctx context.Context, name, to string) error {
	if to == "" {
		return ErrNoName
	}
	result := s.records.WithContext(ctx).Model(&View{}).Where("lower(name) = lower(?)", name).Update("name", to)
	if err := taken(result.Error, "view", to); err != nil {
		return err
	}
	return found(result, name)
}

// DeleteView forgets a view. The error wraps ErrNotKept.
func (s *Store) DeleteView(ctx context.Context, name string) error {
	return found(s.records.WithContext(ctx).Delete(&View{}, "lower(name) = lower(?)", name), name)
}

func taken(err error, what, name string) error {
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return fmt.Errorf("%w: a %s of this name is there already: %q", ErrTaken, what, name)
	}
	return err
}
