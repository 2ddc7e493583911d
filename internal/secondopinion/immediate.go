package secondopinion

import (
	"fmt"
	"net/url"
	"strings"

	"prairiedusk/internal/core/book"
	immediacy "prairiedusk/internal/core/immediate"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/present"
)

// immediate writes a question about what was asked for at once.
func immediate(b *book.Book, of *told, words url.Values) (*Statement, error) {
	_, q, err := asked(b, words, present.ImmediateQuestion)
	if err != nil {
		return nil, err
	}
	w, err := newWriter(b, of, q.Question)
	if err != nil {
		return nil, err
	}
	which := "true"
	if q.Which != immediacy.AllOrders {
		which = "first"
	}
	if q.LeaveCancelled {
		which += " AND cancelled_on IS NULL"
	}
	columns, sets := w.groupColumns()
	names, orders, within, part := w.keyNames(), "known", w.within(q.Basis.Name, q.Periods[0]), ""
	if len(q.Periods) > 1 { // each is a part by itself
		columns, names, sets, part = "part, "+columns, "part, "+names, withPart(sets), "part, "
		orders = fmt.Sprintf("known CROSS JOIN (VALUES %s) AS period (part, a, b)", periodRows(q.Periods))
		within = fmt.Sprintf("(%s BETWEEN a AND b) IS TRUE", w.known(q.Basis.Name))
	}
	selected := fmt.Sprintf("(%s AND (%s)) IS TRUE", within, w.where)
	if q.Which == immediacy.FirstWithin {
		part += selected + ", "
	}
	s := &Statement{Tables: []string{"groups"}, Keys: len(w.keys), Parts: len(q.Periods) > 1,
		Codes: []string{"orders", "immediate", "asked_all", "booked_ahead", "no_requested_date", "achieved"}}
	all := "count(*) FILTER (WHERE requested_on >= ordered_on)"
	if q.WithoutDay {
		all = "count(*) FILTER (WHERE requested_on >= ordered_on IS NOT FALSE)"
	}
	s.Text = w.statement(q.Sentence().String(), fmt.Sprintf(`-- All orders with an order date that is known, and which of them is the first of its customer in the whole book.
asked AS (
  SELECT %s "order", %s AS ordered_on, %s AS requested_on, %s AS achieved_on, %s AS cancelled_on, %s AS selected, %s AS first
  FROM %s WHERE %s IS NOT NULL)

-- Requested for the day of the order, later, or nobody knows when; and whether it was achieved on that day.
SELECT %s
  count(*) AS orders,
  count(*) FILTER (WHERE requested_on = ordered_on) AS immediate,
  %s AS asked_all,
  count(*) FILTER (WHERE requested_on > ordered_on) AS booked_ahead,
  count(*) FILTER (WHERE requested_on IS NULL) AS no_requested_date,
  count(*) FILTER (WHERE achieved_on = ordered_on) AS achieved
FROM asked WHERE selected AND %s GROUP BY GROUPING SETS (%s)`, columns, w.known(milestone.Ordered), w.known(milestone.Requested), w.known(q.Leg.To.Name),
		w.known(milestone.Cancelled), selected, w.firstOf(part), orders, w.known(milestone.Ordered), names, all, which, sets))
	return s, nil
}

// customers writes how customers asked in their first order, and in all later ones.
func customers(b *book.Book, of *told, words url.Values) (*Statement, error) {
	in, q, err := asked(b, words, present.CustomersQuestion)
	if err != nil {
		return nil, err
	}
	w, err := newWriter(b, of, q.Question)
	if err != nil {
		return nil, err
	}
	selected, changed := fmt.Sprintf("(%s AND (%s)) IS TRUE", w.within(q.Basis.Name, q.Periods[0]), w.where), "true"
	if q.LeaveCancelled {
		selected += " AND " + w.known(milestone.Cancelled) + " IS NULL"
	}
	ahead, immediately := "asked = 'booked ahead' AND later_all > 0 AND later_immediate = later_all", "asked = 'immediate' AND later_all > 0 AND later_immediate = 0"
	switch in.Change {
	case immediacy.AheadThenNow.String():
		changed = ahead
	case immediacy.NowThenAhead.String():
		changed = immediately
	case immediacy.NoChange.String():
		changed = fmt.Sprintf("((%s) OR (%s)) IS NOT TRUE", ahead, immediately)
	}
	s := &Statement{Tables: []string{"customers"}, Keys: 1, Codes: []string{"first_order", "on", "asked", "later", "later_immediate", "later_all", "later_rate"}}
	s.Text = w.statement(strings.TrimSuffix(q.Sentence().String(), "?"), fmt.Sprintf(`-- The orders of customers with an order date that is known, how each was asked for, and which is the customer's first.
asked AS (
  SELECT "field customer" AS customer, "order", %[1]s AS ordered_on, %[2]s AS selected, %[3]s AS first, CASE
      WHEN %[4]s IS NULL THEN '%[6]s'
      WHEN %[4]s = %[1]s THEN '%[7]s'
      WHEN %[4]s > %[1]s THEN '%[8]s'
      ELSE '%[9]s' END AS asked
  FROM known WHERE %[1]s IS NOT NULL AND "field customer" IS NOT NULL),

-- All later orders of each customer, whenever they came.
later AS (
  SELECT customer, count(*) AS later, count(*) FILTER (WHERE asked = 'immediate') AS later_immediate,
    count(*) FILTER (WHERE asked IN ('immediate', 'booked ahead')) AS later_all
  FROM asked WHERE NOT first GROUP BY 1),

-- Customers whose first order is selected.
customer AS (
  SELECT f.customer, f."order" AS first_order, f.ordered_on, f.asked, coalesce(l.later, 0) AS later, coalesce(l.later_immediate, 0) AS later_immediate,
    coalesce(l.later_all, 0) AS later_all
  FROM asked f LEFT JOIN later l USING (customer) WHERE f.first AND f.selected)

SELECT customer, first_order, ordered_on AS "on", asked, later, later_immediate, later_all, 100.0 * later_immediate / nullif(later_all, 0) AS later_rate
FROM customer WHERE %[5]s ORDER BY ordered_on, customer COLLATE "C"`, w.known(milestone.Ordered), selected, w.firstOf(""), w.known(milestone.Requested), changed,
		immediacy.NoRequestedDate.Label(), immediacy.Immediate.Label(), immediacy.BookedAhead.Label(), immediacy.RequestedBefore.Label()))
	return s, nil
}

// firstOf says which orders are the first of their customers, among those that are alike in some columns.
func (w *writer) firstOf(among string) string {
	return fmt.Sprintf(`("field customer" IS NOT NULL AND row_number() OVER (PARTITION BY %s"field customer" ORDER BY %s NULLS LAST, ordered_at NULLS LAST, length("order"), "order" COLLATE "C") = 1)`,
		among, w.known(milestone.Ordered))
}
