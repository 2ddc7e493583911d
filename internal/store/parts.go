package store

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/record"
)

// A PartTable is what an order has of one kind, as text: a row for each record, without the order's number.
type PartTable struct {
	Kind    string
	Columns []string
	Rows    [][]string
}

// Parts lists what belongs to an order, kind by kind, and what the list of customers says of its customer. A
// column that is empty throughout is left out.
func (s *Store) Parts(ctx context.Context, order string) (tables []PartTable, err error) {
	for _, k := range record.Kinds() {
		where := `t."order" = ?`
		switch {
		case k == record.Customers:
			where = `t.customer = (SELECT customer FROM orders WHERE "order" = ?)`
		case k == record.Orders || !k.OfOrder():
			continue
		}
		var rows []string
		keys := make([]string, k.Keys)
		for i := range keys {
			keys[i] = column(k.Columns[i].Name)
		}
		if k == record.Statuses {
			keys = []string{`"at"`, `"sequence"`, `"status"`}
		}
		sql := fmt.Sprintf("SELECT to_jsonb(t)::text FROM %s t WHERE %s ORDER BY %s", tableOf(k), where, strings.Join(keys, ", "))
		if err := s.records.WithContext(ctx).Raw(sql, order).Scan(&rows).Error; err != nil {
			return nil, err
		}
		if len(rows) == 0 {
			continue
		}
		table, err := partTable(k, rows)
		if err != nil {
			return nil, err
		}
		tables = append(tables, table)
	}
	return tables, nil
}

func partTable(k *record.Kind, rows []string) (PartTable, error) {
	table := PartTable{Kind: k.Name}
	all := make([]map[string]any, len(rows))
	for i, row := range rows {
		var err error
		if all[i], err = cellsOf(row); err != nil {
			return table, err
		}
	}
	// Columns of the user's own follow, by name.
	columns, own := slices.Clone(k.Columns), map[string]bool{}
	for _, cells := range all {
		for name := range cells {
			own[name] = name != "load_id"
		}
	}
	for _, c := range k.Columns {
		delete(own, strings.ReplaceAll(c.Name, "-", "_"))
	}
	for _, name := range slices.Sorted(maps.Keys(own)) {
		if own[name] {
			columns = append(columns, record.Column{Name: name})
		}
	}
	cell := func(cells map[string]any, c record.Column) string {
		if value, own := cells[c.Name]; own {
			return cellText(value)
		}
		return cellText(cells[strings.ReplaceAll(c.Name, "-", "_")])
	}
	var shown []record.Column
	for _, c := range columns {
		for _, cells := range all {
			if c.Name != record.OrderColumn && cell(cells, c) != "" {
				shown = append(shown, c)
				table.Columns = append(table.Columns, c.Name)
				break
			}
		}
	}
	for _, cells := range all {
		row := make([]string, len(shown))
		for i, c := range shown {
			row[i] = written(c.Type, cell(cells, c))
		}
		table.Rows = append(table.Rows, row)
	}
	return table, nil
}

// written turns a kept number back into the decimal that it came as; no more digits than it needs, but two for
// an amount.
func written(t record.Type, kept string) string {
	decimals, least := 0, 0
	switch t {
	case record.Units:
		decimals = 3
	case record.Amount:
		decimals, least = 4, 2
	}
	n, err := strconv.ParseInt(kept, 10, 64)
	if decimals == 0 || err != nil {
		return kept
	}
	sign := ""
	if n < 0 {
		sign, n = "-", -n
	}
	digits := fmt.Sprintf("%0*d", decimals+1, n)
	whole, fraction := digits[:len(digits)-decimals], digits[len(digits)-decimals:]
	for len(fraction) > least && strings.HasSuffix(fraction, "0") {
		fraction = fraction[:len(fraction)-1]
	}
	if fraction == "" {
		return sign + whole
	}
	return sign + whole + "." + fraction
}
