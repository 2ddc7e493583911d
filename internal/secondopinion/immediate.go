package secondopinion

import (
	"fmt"
	"net/url"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	immediacy "prairiedusk/internal/core/immediate"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/present"
)

// immediate writes a question about what was asked for at once.
func immediate(b *book.Book, of *told, words url.Values) (*Statement, error) {
	in := &api.ImmediateQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	q, err := present.ImmediateQuestion(b, in)
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

// firstOf says which orders are the first of their customers, among those that are alike in some columns.
func (w *writer) firstOf(among string) string {
	return fmt.Sprintf(`("field customer" IS NOT NULL AND row_number() OVER (PARTITION BY %s"field customer" ORDER BY %s NULLS LAST, ordered_at NULLS LAST, length("order"), "order" COLLATE "C") = 1)`,
		among, w.known(milestone.Ordered))
}
