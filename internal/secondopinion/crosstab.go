package secondopinion

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/crosstab"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/present"
)

// countCrosstab writes counts by rows and columns.
func countCrosstab(b *book.Book, of *told, words url.Values) (*Statement, error) {
	in := &api.CrosstabQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	questions, b, err := present.CrosstabQuestions(b, in)
	if err != nil {
		return nil, err
	}
	return tabulated(b, of, questions)
}

// countCompare writes counts by several dates in each step of time.
func countCompare(b *book.Book, of *told, words url.Values) (*Statement, error) {
	in := &api.CompareQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	questions, b, err := present.CompareQuestions(b, in)
	if err != nil {
		return nil, err
	}
	alone := in.Empty == "alone"
	if alone && slices.ContainsFunc(questions, func(q crosstab.Question) bool { return q.Show.Kind == crosstab.Value }) {
		return nil, refused("empty", in.Empty, "a step is empty of values by currency")
	}
	s, err := tabulated(b, of, questions)
	if err == nil && alone {
		s.Empty = true
		s.Text += emptySteps(questions)
	}
	return s, err
}

// emptyStep is the column in which a statement says that nothing lies in a step.
const emptyStep = "empty"

// emptySteps are rows for the steps in which nothing lies by any date.
func emptySteps(questions []crosstab.Question) string {
	names, _ := questions[0].Each.Steps(questions[0].Period.Span)
	for i := range names {
		names[i] = "(" + text(names[i]) + ")"
	}
	var placed, parts []string
	for i, q := range questions {
		from, title := "placed", ""
		if len(questions) > 1 {
			from, title = fmt.Sprintf("placed_%d", i+1), q.Words(q.Bases[0])
		}
		where := ""
		if q.Show.Kind == crosstab.Units { // goods without units are none
			where = " WHERE amount <> 0"
		}
		placed = append(placed, "SELECT row_key FROM "+from+where)
		parts = append(parts, fmt.Sprintf("SELECT part FROM %[1]s UNION SELECT %[2]s WHERE NOT EXISTS (SELECT FROM %[1]s)", from, text(title)))
	}
	return fmt.Sprintf(`

-- And the steps in which nothing lies.
UNION ALL
SELECT part, 'dates', step, '%s', 1 FROM (%s) p CROSS JOIN (VALUES %s) AS s (step)
WHERE step NOT IN (%s)`, emptyStep, strings.Join(parts, " UNION "), strings.Join(names, ", "), strings.Join(placed, " UNION "))
}

// tabulated writes one or more figures by rows and columns.
func tabulated(b *book.Book, of *told, questions []crosstab.Question) (*Statement, error) {
	var steps, asked, figures []string
	allLines := false
	for i, q := range questions {
		c, err := newCounting(b, of, q)
		if err != nil {
			return nil, err
		}
		if len(questions) > 1 {
			c.ending, c.title = fmt.Sprintf("_%d", i+1), q.Words(q.Bases[0])
		}
		own, err := c.steps()
		if err != nil {
			return nil, err
		}
		for _, step := range own {
			if !slices.Contains(steps, step) {
				steps = append(steps, step)
			}
		}
		allLines = allLines || c.allLines
		asked, figures = append(asked, q.Sentence().String()), append(figures, c.gathered())
	}
	w, tables := &writer{book: b, told: of, days: "known", allLines: allLines}, []string{"dates"}
	if q := questions[0]; !byDates(q) {
		tables[0] = "cells"
		for _, basis := range q.Bases[1:] {
			tables = append(tables, "cells-"+basis.Name)
		}
	}
	return &Statement{Tables: tables, Keys: 1, Long: true, Text: w.statement(strings.Join(asked, " "), steps...) +
		"\n\n-- Each cell, and the totals of rows, of columns, and of all.\n" + strings.Join(figures, "\nUNION ALL\n")}, nil
}

// byDates says that the answer has dates for its columns.
func byDates(q crosstab.Question) bool {
	return q.Columns == nil && (q.Each != query.NoCut || len(q.Bases) > 1)
}

// newCounting understands the condition of a count.
func newCounting(b *book.Book, of *told, q crosstab.Question) (*counting, error) {
	w, err := newWriter(b, of, q.Question)
	return &counting{writer: w, question: q}, err
}

// steps are those of a figure, down to what is placed in rows and columns.
func (c *counting) steps() (steps []string, err error) {
	if err := c.readParts(); err != nil {
		return nil, err
	}
	if err := c.readFigure(); err != nil {
		return nil, err
	}
	q, steps := c.question, c.before
	kind, own := q.Show.Kind, slices.ContainsFunc(q.Bases, c.own)
	c.allLines = c.allLines || own && (kind == crosstab.Lines || kind == crosstab.Value)
	if kind == crosstab.Value && (own || c.byPart) {
		steps = append(steps, lineWorths)
	}
	if c.byPart && c.part == book.Lines || own && kind == crosstab.Lines {
		steps = append(steps, toldDays("known"))
	}
	if c.byPart {
		steps = append(steps, c.step)
	}
	row, err := c.head(q.Rows, "rows")
	if err != nil {
		return nil, err
	}
	column, err := c.head(q.Columns, "columns")
	if err != nil {
		return nil, err
	}
	var placed []string
	for _, basis := range q.Bases {
		placed = append(placed, c.placed(basis, row, column))
	}
	steps = append(steps, fmt.Sprintf(`-- What is counted, with the row and column of its order, for each date that lies in the period.
placed%s AS (
%s)`, c.ending, strings.Join(placed, "\n  UNION ALL\n")))
	if q.Top > 0 && q.Rows != nil {
		steps = append(steps, c.firstRows())
	}
	return steps, nil
}

// head is the row or the column in which something stands.
func (c *counting) head(of *query.Grouping, word string) (string, error) {
	if of == nil {
		return "''", nil
	}
	by, on := *of, "placed_on"
	if by.Column > 0 {
		on = name("part " + c.book.PartColumns(by.Part)[by.Column-1].Name)
		if by.Cut == query.NoCut {
			return fmt.Sprintf("coalesce(%s, '')", on), nil
		}
		by.Of = ""
	}
	if len(c.question.Bases) == 1 && by.Of == c.question.Bases[0].Name {
		by.Of = "" // parts lie in the step of their own day
	}
	return c.keyOn(on, by, word)
}

// placed is all that is counted by a date in the period. The offset keeps the planner from filtering earlier: it takes the orders of a
// period for one, and looks for their goods again and again.
func (c *counting) placed(basis milestone.Milestone, row, column string) string {
	span, chosen := c.question.Period.Span, ""
	if c.byPart {
		chosen = fmt.Sprintf(` LEFT JOIN chosen%s c USING ("order", part_key)`, c.ending)
	}
	picked := ""
	if c.question.Parts.Condition != nil {
		picked = " AND c.met"
	}
	return fmt.Sprintf(`  SELECT id, %s AS part, %s AS basis, %s AS row_key, %s AS column_key, amount FROM (
  %s OFFSET 0) k%s
  WHERE placed_on BETWEEN %s AND %s AND (%s)%s`, c.currency(), text(basis.Name), row, column, c.amounts(basis), chosen, date(span.From),
		date(span.LastDay()), c.where, picked)
}

// figures are those of what is placed, for each set of groups: of a share and of a length also what they are of, with the ending that the
// code of its column has. An order counts once, whatever it has in a cell.
func (c *counting) figures() (figures, rows string) {
	switch kind := c.question.Show.Kind; {
	case kind == crosstab.Length && c.byPart:
		return "jsonb_object_agg(id, amount) FILTER (WHERE amount IS NOT NULL) AS lengths",
			"('', " + c.ofOrders("lengths") + "), (' n', (SELECT count(*) FROM jsonb_object_keys(lengths)))"
	case kind == crosstab.Length:
		statistic, _ := statisticOf(c.question.Show.Statistic, "amount") // known from before
		return statistic + " AS figure, count(amount) AS n", "('', figure::numeric), (' n', n)"
	case kind.Share():
		return "count(DISTINCT id) FILTER (WHERE amount = 1) AS meeting, count(DISTINCT id) FILTER (WHERE amount IS NOT NULL) AS n",
			"('', 100.0 * meeting / nullif(n, 0)), (' some', meeting), (' n', n)"
	case c.byPart && !kind.OfParts():
		return "count(DISTINCT id) AS figure", "('', figure)"
	}
	return "sum(amount) AS figure", "('', figure)"
}

// ofOrders is the statistic of the lengths of orders, by their ids.
func (c *counting) ofOrders(lengths string) string {
	statistic, _ := statisticOf(c.question.Show.Statistic, "value::numeric") // known from before
	return "(SELECT (" + statistic + ")::numeric FROM jsonb_each_text(" + lengths + "))"
}

// gathered are the figures of each set of groups, a row for each, in the tables and under the codes that the answer gives them.
func (c *counting) gathered() string {
	q, from := c.question, "placed"+c.ending
	table := fmt.Sprintf("CASE WHEN basis = %s THEN 'cells' ELSE 'cells-' || basis END", text(q.Bases[0].Name))
	column, sets := "'total'", "(part, basis, row_key), (part, basis)"
	switch {
	case q.Columns != nil:
		column, sets = "CASE WHEN grouping(column_key) = 1 THEN 'total' ELSE 'key:' || column_key END",
			sets+", (part, basis, row_key, column_key), (part, basis, column_key)"
	case byDates(q):
		table, column = "'dates'", "basis"
	}
	if q.Top > 0 && q.Rows != nil {
		from = fmt.Sprintf(`(SELECT id, part, basis, coalesce(r.shown, row_key) AS row_key, column_key, amount
    FROM placed%[1]s LEFT JOIN row_name%[1]s r USING (part, row_key)) p`, c.ending)
	}
	row := "row_key"
	if q.Rows == nil { // the only row is the total
		row, sets = "NULL", "(part, basis), (part, basis, column_key)"
	}
	figures, rows := c.figures()
	return fmt.Sprintf(`SELECT part, "table", row_key, "column" || ending AS "column", amount
FROM (SELECT part, %s AS "table", %s AS row_key, %s AS "column", %s
  FROM %s GROUP BY GROUPING SETS (%s)) g CROSS JOIN LATERAL (VALUES %s) AS f (ending, amount)`,
		table, row, column, figures, from, sets, rows)
}

// naturally sorts texts so that runs of digits compare by their value.
const naturally = `(SELECT coalesce(string_agg(CASE WHEN run[1] ~ '^\d' THEN lpad(run[1], 40, '0') ELSE run[1] END, '' ORDER BY at), '')
      FROM regexp_matches(row_key, '\d+|\D+', 'g') WITH ORDINALITY AS m (run, at)) COLLATE "C"`

// monthsOfYear are the months of the year that the days of rows reach over.
func (c *counting) monthsOfYear() (names []string) {
	days := c.question.Period.Span
	if of := c.question.Rows.Of; of != "" {
		first, last := c.book.Range(milestone.Index(c.book.Milestones(), of))
		days = day.Through(first, last)
	}
	_, months := query.Month.Steps(days)
	for _, m := range months {
		if named := text(query.MonthOfYear.Name(query.MonthOfYear.Place(m.From))); !slices.Contains(names, named) {
			names = append(names, named)
		}
	}
	return names
}

// firstRows is the step with how rows are named where only the first are shown, and the others together: the greatest by the first date,
// or in the order of time or names.
func (c *counting) firstRows() string {
	q := c.question
	figures, _ := c.figures()
	held, size := "sum(amount) <> 0", "coalesce(%s.figure, 0)"
	switch kind := q.Show.Kind; {
	case kind.Share():
		held, size = "true", "%[1]s.meeting / nullif(%[1]s.n, 0)::float8"
	case kind == crosstab.Length && c.byPart:
		held, size = "true", c.ofOrders("%s.lengths")
	case kind == crosstab.Length:
		held, size = "true", "%s.figure"
	}
	byName, steps := naturally, ""
	switch cut := q.Rows.Cut; {
	case cut.Cycles():
		var names []string
		for place := range cut.Round() {
			names = append(names, text(cut.Name(place)))
		}
		byName = fmt.Sprintf("array_position(ARRAY[%s], row_key) NULLS LAST", strings.Join(names, ", "))
		if cut == query.MonthOfYear && q.Rows.Column == 0 {
			names = c.monthsOfYear()
		}
		steps = strings.Join(names, "), (")
	case cut != query.NoCut:
		byName = `row_key = '', row_key COLLATE "C"`
		if q.Rows.Of == "" {
			names, _ := cut.Steps(q.Period.Span)
			for i := range names {
				names[i] = text(names[i])
			}
			steps = strings.Join(names, "), (")
		}
	}
	order := byName
	sized := func(of string) string { return fmt.Sprintf(size, of) + " DESC NULLS LAST, " }
	column := "NULL"
	switch {
	case q.Sort == "name":
		order = "row_key = '', " + byName
	case q.Sort != "" && q.Sort != "total":
		column, order = text(q.Sort), sized("own")+order
		if q.Rows.Cut == query.NoCut {
			order = sized("own") + sized("whole") + byName
		}
	case q.Rows.Cut == query.NoCut, q.Sort == "total":
		order = sized("whole") + order
	}
	every := ""
	if steps != "" {
		every = fmt.Sprintf("\n    UNION SELECT part, step FROM (SELECT DISTINCT part FROM placed%s) p CROSS JOIN (VALUES (%s)) AS s (step)",
			c.ending, steps)
	}
	return fmt.Sprintf(`-- The rows in their order: the first are shown, and the others together.
row_name%[1]s AS (
  SELECT part, row_key, CASE WHEN at <= %[2]d OR rows <= %[2]d THEN row_key
    ELSE 'all others (' || to_char(rows - %[2]d, 'FM999,999,999') || ')' END AS shown
  FROM (SELECT part, row_key, row_number() OVER (PARTITION BY part ORDER BY %[3]s) AS at, count(*) OVER (PARTITION BY part) AS rows
    FROM (SELECT DISTINCT part, row_key FROM placed%[1]s GROUP BY part, basis, row_key, column_key HAVING %[4]s%[5]s) r
    LEFT JOIN (SELECT part, row_key, %[6]s FROM placed%[1]s WHERE basis = %[7]s GROUP BY 1, 2) whole USING (part, row_key)
    LEFT JOIN (SELECT part, row_key, %[6]s FROM placed%[1]s WHERE basis = %[7]s AND column_key = %[8]s GROUP BY 1, 2) own
      USING (part, row_key)) r)`,
		c.ending, q.Top, order, held, every, figures, text(q.Bases[0].Name), column)
}
