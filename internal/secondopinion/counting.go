package secondopinion

import (
	"fmt"
	"net/url"
	"strings"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/crosstab"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/present"
)

// counted is the one question about orders among those of the figures that are shown. The error is a *request.Error.
func counted(questions []crosstab.Question, show []string) (q crosstab.Question, err error) {
	if len(questions) != 1 || strings.Join(show, ",") != "orders" && len(show) > 0 {
		return q, refused("show", strings.Join(show, ","), "only orders are counted")
	}
	return questions[0], nil
}

// countCrosstab writes a count of orders by rows and columns.
func countCrosstab(b *book.Book, words url.Values) (*Statement, error) {
	in := &api.CrosstabQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	questions, b, err := present.CrosstabQuestions(b, in)
	if err != nil {
		return nil, err
	}
	q, err := counted(questions, in.Show)
	switch {
	case err != nil:
		return nil, err
	case len(q.Bases) != 1:
		return nil, refused("basis", strings.Join(in.Basis, ","), "want one date")
	case in.Top > 0:
		return nil, refused("top", fmt.Sprint(in.Top), "want all rows")
	}
	w, err := newWriter(b, q.Question)
	if err != nil {
		return nil, err
	}
	key := func(of *query.Grouping, column string) (string, error) {
		if of == nil {
			return "''", nil
		}
		return w.keyBy(q.Bases[0].Name, *of, column)
	}
	row, err := key(q.Rows, "rows")
	if err != nil {
		return nil, err
	}
	column, err := key(q.Columns, "columns")
	if err != nil {
		return nil, err
	}
	s := &Statement{Check: w.uncovered(), Table: "cells", Keys: 1, Long: true}
	if q.Rows == nil {
		return nil, refused("rows", "", "want rows")
	}
	sets := "(row_key, column_key), (row_key), (column_key), ()"
	if q.Columns == nil {
		sets = "(row_key), ()"
	}
	s.Text = w.statement("How many orders, by rows and columns, by "+q.Bases[0].Date(), fmt.Sprintf(`-- The orders whose date lies in the period, with their row and column.
placed AS (
  SELECT %s AS row_key, %s AS column_key FROM known WHERE %s AND (%s))

-- Each cell, and the totals of rows, of columns, and of all.
SELECT row_key, %s AS "column", count(*) AS orders
FROM placed GROUP BY GROUPING SETS (%s)`, row, column, w.inside(q, q.Bases[0].Name), w.where, columnCode(q.Columns != nil), sets))
	return s, nil
}

// columnCode is the code of the answer's column.
func columnCode(columns bool) string {
	if !columns {
		return "'total'"
	}
	return "CASE WHEN grouping(column_key) = 1 THEN 'total' ELSE 'key:' || column_key END"
}

// inside says that a date lies in the period of a count, which without one is between the ends of the book.
func (w *writer) inside(q crosstab.Question, of string) string { return w.between(of, q.Period.Span) }

// countCompare writes a count of orders by several dates in each step of time.
func countCompare(b *book.Book, words url.Values) (*Statement, error) {
	in := &api.CompareQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	questions, b, err := present.CompareQuestions(b, in)
	if err != nil {
		return nil, err
	}
	q, err := counted(questions, in.Show)
	if err != nil {
		return nil, err
	}
	if in.Empty == "alone" || in.Empty == "hidden" {
		return nil, refused("empty", in.Empty, "want all steps")
	}
	w, err := newWriter(b, q.Question)
	if err != nil {
		return nil, err
	}
	var counts []string
	for _, basis := range q.Bases {
		format, _ := stepFormat(q.Each)
		counts = append(counts, fmt.Sprintf(`  SELECT %s AS "column", to_char(%s, '%s') AS row_key FROM known WHERE %s AND (%s)`, text(basis.Name), w.known(basis.Name), format,
			w.inside(q, basis.Name), w.where))
	}
	s := &Statement{Check: w.uncovered(), Table: "dates", Keys: 1, Long: true}
	s.Text = w.statement("How many orders in each "+q.Each.String()+", by several dates", fmt.Sprintf(`-- An order stands once for each of the dates that lies in the period.
placed AS (
%s)

-- Each step by each date, and the totals.
SELECT row_key, "column", count(*) AS orders
FROM placed GROUP BY GROUPING SETS (("column", row_key), ("column"))`, strings.Join(counts, "\n  UNION ALL\n")))
	return s, nil
}
