package store

import (
	"context"
	"fmt"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/record"
)

// related are the lists that say more of what orders name, and which of their columns become fields.
var related = []struct {
	kind    *record.Kind
	of      book.Field
	ofLines bool
	key     string // SQL: what orders have of it
	columns []string
	names   []string // the columns as fields
}{
	{record.Customers, book.Customer, false, "customer", []string{"contact", "telephone", "country", "region", "place"},
		[]string{"customer-contact", "customer-telephone", "customer-country", "customer-region", "customer-place"}},
	{record.Sites, book.Site, false, "site", []string{"region", "country"}, []string{"site-region", "site-country"}},
	{record.Places, book.Place, false, "place", []string{"region", "country"}, []string{"place-region"}},
	{record.Products, 0, true, "product", []string{"product-name", "category"}, []string{"product-name", "category"}},
}

func relatedKinds() (names []string) {
	for _, r := range related {
		names = append(names, r.kind.Name)
	}
	return names
}

// Relations reads what lists say of customers, sites, places and products. Of places that share name and country
// nothing is told.
func (s *Store) Relations(ctx context.Context) ([]book.Relation, error) {
	var all []book.Relation
	for _, r := range related {
		relation := book.Relation{Of: r.of, OfLines: r.ofLines, Columns: r.names, Rows: map[string][]string{}}
		columns := make([]string, len(r.columns))
		for i, name := range r.columns {
			columns[i] = fmt.Sprintf("coalesce(%s, '')", column(name))
		}
		rows, err := s.pool.Query(ctx, fmt.Sprintf("SELECT %s, ARRAY[%s] FROM %s", r.key, strings.Join(columns, ", "), tableOf(r.kind)))
		if err != nil {
			return nil, err
		}
		for rows.Next() {
			var key string
			var cells []string
			if err := rows.Scan(&key, &cells); err != nil {
				return nil, err
			}
			if r.kind == record.Places {
				// An order may say the region itself; of one that does not, the only place of its name tells it.
				region, country := cells[0], cells[1]
				relation.Rows[book.PlaceKey{Name: key, Country: country, Region: region}.Text()] = []string{region}
				if region == "" {
					continue
				}
				key, cells = book.PlaceKey{Name: key, Country: country}.Text(), []string{region}
			}
			if _, twice := relation.Rows[key]; twice {
				cells = make([]string, len(cells))
			}
			relation.Rows[key] = cells
		}
		if err := rows.Err(); err != nil {
			return nil, err
		}
		all = append(all, relation)
	}
	return all, nil
}
