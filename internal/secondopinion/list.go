package secondopinion

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/present"
)

// listed writes a list of orders: which they are, in their order, and what stands in those of its columns that hold days, texts and numbers
// of the orders themselves.
func listed(b *book.Book, of *told, words url.Values) (*Statement, error) {
	in, a, err := asked(b, words, present.ListOf)
	if err != nil {
		return nil, err
	}
	b = a.Book
	switch {
	case in.Behind != "":
		return nil, refused("behind", in.Behind, "ask about the number itself")
	case a.Per != nil:
		return nil, refused("rows", in.Rows, "want a row for each order")
	case a.Selection.Placed == query.Undecided:
		return nil, refused("placed", in.Placed, "want outside, undated or unmet")
	}
	q := a.Question
	w, err := newWriter(b, of, q.Question)
	if err != nil {
		return nil, err
	}
	chosen, err := w.chosen(a)
	if err != nil {
		return nil, err
	}
	order, err := w.sorted(a)
	if err != nil {
		return nil, err
	}
	s := &Statement{Tables: []string{"orders"}, Keys: 1, Orders: true}
	var columns []string
	for _, c := range a.Columns {
		sql, is, err := w.cell(a, c)
		if err != nil {
			return nil, err
		}
		if is {
			s.Codes, columns = append(s.Codes, c.Text), append(columns, fmt.Sprintf(",\n  %s AS %s", sql, name(c.Heading)))
		}
	}
	s.Text = w.statement(strings.TrimSuffix(q.Sentence().String(), "?"), fmt.Sprintf(`-- The orders that are listed, in their order.
listed AS (
  SELECT *, row_number() OVER (ORDER BY %s) AS place, count(*) OVER () AS orders FROM known WHERE %s)`, order, chosen)) + fmt.Sprintf(`

SELECT "order", orders%s
FROM listed WHERE place <= %d ORDER BY place`, strings.Join(columns, ""), a.MostRows())
	s.Codes = append([]string{listedOrders}, s.Codes...)
	return s, nil
}

// listedOrders is the code of how many orders there are in all.
const listedOrders = "orders in the list"

// chosen says which orders are listed.
func (w *writer) chosen(a present.List) (string, error) {
	q, s := a.Question, a.Selection
	within := func(p period.Period) string { return w.within(q.Basis.Name, p) }
	where := within(q.Periods[0]) + " AND " + w.where
	basis := w.known(q.Basis.Name)
	switch s.Placed {
	case query.Outside:
		where = fmt.Sprintf("%s IS NOT NULL AND NOT %s", basis, within(q.Periods[0]))
	case query.Undated:
		where = basis + " IS NULL AND NOT " + within(q.Periods[0])
	case query.Unmet:
		where = within(q.Periods[0]) + " AND (" + w.where + ") IS FALSE"
	}
	if s.State != "" {
		state, length, err := w.length(predicate.Length{Leg: q.Leg, Measure: q.Measure, Side: q.Calendar})
		if err != nil {
			return "", err
		}
		switch s.State {
		case "counted":
			where += " AND " + length + " IS NOT NULL"
		case "ended", "every-leg":
			return "", refused("state", s.State, "want counted, or a state of the leg")
		default:
			where += " AND " + state + " = " + text(s.State)
		}
	}
	for i, key := range s.Keys {
		where += fmt.Sprintf(" AND %s = %s", w.keys[i], text(key))
	}
	return where, nil
}

// cell is what stands in a column; false where that is not written.
func (w *writer) cell(a present.List, c list.Column) (sql string, is bool, err error) {
	asked := predicate.Length{Leg: a.Question.Leg, Measure: a.Question.Measure, Side: a.Question.Calendar}
	switch o := c.Operand.(type) {
	case predicate.Day: // as recorded, also after the data date
		return w.recorded(string(o)), true, nil
	case predicate.Length:
		if o == asked {
			o.SoFar = true
		}
		if refusedUnit(o.Measure) != nil {
			return "", false, nil
		}
		_, length, err := w.length(o)
		return length, true, err
	case predicate.Field:
		if o == "place" && slices.ContainsFunc(a.Columns, func(c list.Column) bool {
			return c.Operand == predicate.Operand(predicate.Field("country")) || c.Operand == predicate.Operand(predicate.Field("region"))
		}) {
			return "", false, nil // it shows less then
		}
		sql, err := w.field(string(o))
		return sql, true, err
	case predicate.State:
		sql, _, err := w.operand(o)
		labels := ""
		for state := leg.Complete; state <= leg.NoHours; state++ {
			labels += fmt.Sprintf(" WHEN '%s' THEN %s", state, text(o.Leg.Label(state)))
		}
		return "CASE " + sql + labels + " END", true, err
	case predicate.Number, predicate.Value, predicate.Told, predicate.Count, predicate.Size:
		sql, _, err := w.operand(c.Operand)
		return sql, true, err
	}
	return "", false, nil
}

// sorted is the order of the rows: those alike go by number, and what is lacked comes last.
func (w *writer) sorted(a present.List) (string, error) {
	var by []string
	if a.Apart { // what has finished, what never will, what still waits
		q := a.Question
		state, _, err := w.length(predicate.Length{Leg: q.Leg, Measure: q.Measure, Side: q.Calendar})
		if err != nil {
			return "", err
		}
		by = append(by, fmt.Sprintf("CASE WHEN %[1]s IN ('%[2]s', '%[3]s') THEN 1 WHEN %[1]s = '%[4]s' THEN 3 ELSE 2 END", state, leg.Complete, leg.Negative,
			leg.Running))
	}
	for _, k := range a.Sort {
		sql, is, err := w.cell(a, k.Column)
		if err != nil {
			return "", err
		}
		if !is {
			return "", refused("sort", k.Column.Text, "want a column of days, texts or numbers of the orders themselves")
		}
		switch k.Column.Operand.(type) {
		case predicate.Number, predicate.Field:
			sql = strings.ReplaceAll(naturally, "row_key", sql)
			if _, field := k.Column.Operand.(predicate.Field); field {
				sql = "nullif(" + sql + `, '' COLLATE "C")`
			}
		}
		if k.Descending {
			sql += " DESC"
		}
		by = append(by, sql+" NULLS LAST")
	}
	return strings.Join(append(by, strings.ReplaceAll(naturally, "row_key", `"order"`)), ", "), nil
}
