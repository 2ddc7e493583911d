package store

import (
	"context"
	"database/sql"
	"strings"
	"unicode"

	"gorm.io/gorm"
)

// A RecordDoubt is something that looks wrong with records other than orders.
type RecordDoubt struct {
	Code     string
	Records  int64
	Examples []string
}

// examples is how many a doubt shows.
const examples = 5

// mostStatuses is how many statuses are compared with each other.
const mostStatuses = 2000

// recordDoubts are queries for what is doubted, one text each. Parts that belong to no order wait for it.
var recordDoubts = []struct{ code, sql string }{
	{"customer-without-orders", `SELECT customer FROM customers c WHERE NOT EXISTS (SELECT FROM orders o WHERE o.customer = c.customer)`},
	{"customer-not-listed", `SELECT customer FROM (SELECT DISTINCT customer FROM orders) o WHERE customer IS NOT NULL AND EXISTS (SELECT FROM customers) AND NOT EXISTS (SELECT FROM customers c WHERE c.customer = o.customer)`},
	{"product-not-listed", `SELECT product FROM (SELECT DISTINCT product FROM order_lines) l WHERE product IS NOT NULL AND EXISTS (SELECT FROM products) AND NOT EXISTS (SELECT FROM products p WHERE p.product = l.product)`},
	{"line-without-order", `SELECT "order" || ' line ' || line FROM order_lines l WHERE NOT EXISTS (SELECT FROM orders o WHERE o."order" = l."order")`},
	{"shipment-without-order", `SELECT shipment || ' of ' || "order" FROM shipments s WHERE NOT EXISTS (SELECT FROM orders o WHERE o."order" = s."order")`},
	{"payment-without-order", `SELECT receipt || ' for ' || "order" FROM payments p WHERE NOT EXISTS (SELECT FROM orders o WHERE o."order" = p."order")`},
	{"status-without-order", `SELECT "order" FROM (SELECT DISTINCT "order" FROM status_records) s WHERE NOT EXISTS (SELECT FROM orders o WHERE o."order" = s."order")`},
	{"receipt-twice", `SELECT receipt || ' for ' || string_agg("order", ', ' ORDER BY "order") FROM payments
		WHERE receipt IN (SELECT receipt FROM payments GROUP BY receipt HAVING count(*) > 1) GROUP BY receipt`},
	{"status-new", `SELECT status FROM status_records GROUP BY status HAVING min(load_id) = (SELECT max(id) FROM loads WHERE undone_at IS NULL)
		AND EXISTS (SELECT FROM status_records WHERE load_id < (SELECT max(id) FROM loads WHERE undone_at IS NULL))`},
	{"status-not-listed", `SELECT status FROM (SELECT DISTINCT status FROM status_records) r WHERE EXISTS (SELECT FROM statuses) AND NOT EXISTS (SELECT FROM statuses s WHERE s.status = r.status)`},
	{"status-without-time", `SELECT status || ' of ' || "order" || ' on ' || at FROM status_records WHERE length(at) = 10 AND source <> 'daily'
		AND source IN (SELECT source FROM status_records WHERE length(at) > 10)`},
	{"site-without-zone", `SELECT DISTINCT site FROM orders o WHERE site IS NOT NULL AND NOT EXISTS (SELECT FROM sites s WHERE lower(s.site) = lower(o.site) AND s.zone IS NOT NULL)
		AND EXISTS (SELECT FROM jsonb_each_text(o.extra) e WHERE e.value ~ '^\d{4}-\d\d-\d\d[T ]\d\d:\d\d')`},
	{"place-without-coordinates", `SELECT place || coalesce(', ' || nullif(country, ''), '') FROM places WHERE latitude IS NULL OR longitude IS NULL`},
}

// RecordDoubts counts them; those without a record are left out. It reads whole tables.
func (s *Store) RecordDoubts(ctx context.Context) (doubts []RecordDoubt, err error) {
	err = s.records.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("SET LOCAL work_mem = '128MB'").Error; err != nil {
			return err
		}
		doubts, err = findDoubts(tx)
		return err
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	return doubts, err
}

func findDoubts(tx *gorm.DB) (doubts []RecordDoubt, err error) {
	for _, d := range recordDoubts {
		var rows []struct {
			Text string
			All  int64
		}
		if err := tx.Raw("SELECT text, count(*) OVER () AS all FROM ("+d.sql+") AS found(text) ORDER BY text LIMIT ?",
			examples).Scan(&rows).Error; err != nil {
			return nil, err
		}
		if len(rows) == 0 {
			continue
		}
		doubt := RecordDoubt{Code: d.code, Records: rows[0].All}
		for _, r := range rows {
			doubt.Examples = append(doubt.Examples, r.Text)
		}
		doubts = append(doubts, doubt)
	}
	var statuses []string
	// Spellings that the list of statuses knows are told apart, or made one, there.
	if err := tx.Raw("SELECT DISTINCT status FROM status_records WHERE status NOT IN (SELECT status FROM statuses) ORDER BY status").Scan(&statuses).Error; err != nil {
		return nil, err
	}
	// So many are no statuses, and each would be compared with all others.
	if alike := nearlyEqual(statuses[:min(len(statuses), mostStatuses)]); len(alike) > 0 {
		doubts = append(doubts, RecordDoubt{Code: "status-alike", Records: int64(len(alike)), Examples: alike[:min(len(alike), examples)]})
	}
	return doubts, nil
}

// nearlyEqual lists the pairs of names that differ only in capitals, spaces and punctuation, or in one letter.
func nearlyEqual(names []string) (pairs []string) {
	plain := make([][]rune, len(names))
	for i, name := range names {
		for _, r := range strings.ToLower(name) {
			if unicode.IsLetter(r) || unicode.IsNumber(r) {
				plain[i] = append(plain[i], r)
			}
		}
	}
	for i := range names {
		for j := range i {
			if oneApart(plain[i], plain[j]) {
				pairs = append(pairs, names[j]+" and "+names[i])
			}
		}
	}
	return pairs
}

// oneApart says whether two names are equal, or one letter was put in or taken out of one of four letters or more,
// or changed in one of eight or more: shorter words such as packed and picked are often one letter apart.
func oneApart(a, b []rune) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	same := 0
	for same < len(a) && a[same] == b[same] {
		same++
	}
	if same == len(b) {
		return true
	}
	if len(a) < 4 || len(b)-len(a) > 1 || len(a) == len(b) && len(a) < 8 {
		return false
	}
	rest := a[same:]
	if len(a) == len(b) {
		rest = rest[1:]
	}
	return string(rest) == string(b[same+1:])
}
