package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/jackc/pgx/v5"
)

// An AuditEntry says who changed what. Before is null where it was new, After where it is gone.
type AuditEntry struct {
	ID            int64
	At            time.Time
	Who           string
	Of            string // the table: labels, views, loads, …
	Name          string
	Before, After json.RawMessage `gorm:"serializer:json"`
}

func (AuditEntry) TableName() string { return "audit" }

// Audit gives stretches of the audit list, the latest first, and how many entries there are.
func (s *Store) Audit(ctx context.Context, offset, limit int) (entries []AuditEntry, all int64, err error) {
	of := s.records.WithContext(ctx)
	if err := of.Model(&AuditEntry{}).Count(&all).Error; err != nil {
		return nil, 0, err
	}
	return entries, all, of.Order("id DESC").Offset(offset).Limit(limit).Find(&entries).Error
}

type actorKey struct{}

// By is a context in which changes are noted as somebody's.
func By(ctx context.Context, actor string) context.Context {
	return context.WithValue(ctx, actorKey{}, actor)
}

// tellActor tells a connection who changes something with it, where that is known.
func tellActor(ctx context.Context, conn *pgx.Conn) (usable bool, err error) {
	actor, known := ctx.Value(actorKey{}).(string)
	if !known {
		return true, nil
	}
	_, err = conn.Exec(ctx, "SELECT set_config('prairie_dusk.actor', $1, false)", actor)
	return err == nil, nil // another connection may do
}
