package store

import (
	"context"
	"fmt"
	"strings"

	"prairiedusk/internal/core/milestone"
)

// A ChangedDate says of how many orders that were there before a load changed one of their dates.
type ChangedDate struct {
	Name         string // of the milestone
	Added, Moved int    // which had none before, and which had another
}

// ChangedDates lists the dates of orders that the last load has changed, as far as files of orders tell them.
func (s *Store) ChangedDates(ctx context.Context, load int64) (dates []ChangedDate, err error) {
	all := milestone.BuiltIn()
	var columns []string
	for _, m := range all {
		columns = append(columns, fmt.Sprintf("count(*) FILTER (WHERE c.before->>'%[1]s' IS NULL AND t.%[1]s IS NOT NULL)", m.Name),
			fmt.Sprintf("count(*) FILTER (WHERE (c.before->>'%[1]s')::date <> t.%[1]s)", m.Name))
	}
	row := s.records.WithContext(ctx).Raw(`SELECT `+strings.Join(columns, ", ")+
		` FROM changes c JOIN orders t ON t."order" = c."order" WHERE c.kind = 'orders' AND c.load_id = ?`, load).Row()
	counts := make([]int, len(columns))
	into := make([]any, len(counts))
	for i := range counts {
		into[i] = &counts[i]
	}
	if err := row.Scan(into...); err != nil {
		return nil, fmt.Errorf("counting what load %d changed: %w", load, err)
	}
	for i, m := range all {
		if d := (ChangedDate{m.Name, counts[2*i], counts[2*i+1]}); d.Added+d.Moved > 0 {
			dates = append(dates, d)
		}
	}
	return dates, nil
}
