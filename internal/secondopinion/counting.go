package secondopinion

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/crosstab"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/present"
)

// counted is the one figure that is shown. The error is a *request.Error.
func counted(questions []crosstab.Question, show []string) (q crosstab.Question, err error) {
	if len(questions) != 1 {
		return q, refused("show", strings.Join(show, ","), "want one figure")
	}
	return questions[0], nil
}

// A counting writes a count by rows and columns.
type counting struct {
	*writer
	question crosstab.Question
	// Of a count by what is told of parts, or of parts that a condition picks: which parts, and the step that tells of them.
	byPart bool
	part   book.Part
	step   string
	before []string // steps that others build on
	some   string   // of a share: what is true of an order that is counted in it, false of one that it is a share of, and else null
}

// own says whether what is counted has days of its own by a date, and not those of its order.
func (c *counting) own(basis milestone.Milestone) bool {
	switch kind := c.question.Show.Kind; {
	case kind == crosstab.Payments:
		return basis.Name == milestone.Paid
	case kind.OfParts():
		return basis.Name == milestone.Shipped || basis.Name == milestone.Delivered
	}
	return false
}

// counted is the relation with all that is counted by a date: the order with the day on which the date places it, the amount and, where
// that is asked for, the part of which it is.
func (c *counting) counted(basis milestone.Milestone) string {
	orders := fmt.Sprintf("(SELECT *, %s AS order_day FROM known) k", c.known(basis.Name))
	own := c.own(basis)
	part := func(table, key, amount string) string {
		placed := "k.order_day"
		if own {
			placed = fmt.Sprintf("coalesce(CASE WHEN p.%[1]s <= k.data_date THEN p.%[1]s END, k.order_day)", name(basis.Name))
		}
		return fmt.Sprintf(`SELECT k.*, %s AS placed_on, %s AS amount, %s AS part_key FROM %s JOIN %s p USING ("order")`, placed, amount, key, orders, table)
	}
	switch kind := c.question.Show.Kind; {
	case kind == crosstab.Shipments:
		return part("shipment", partTables[book.Shipments].key, "1")
	case kind == crosstab.Payments:
		return part(fmt.Sprintf(`(SELECT p."order", p.receipt, %s AS paid FROM payments p JOIN recorded o USING ("order"))`, onDay("p", "paid", "paid", "o.zone")),
			partTables[book.Payments].key, "1")
	case kind == crosstab.Lines && !own:
		return part("line", "p.line", "1")
	case kind == crosstab.Units && !own:
		return part("line", "p.line", "coalesce(p.units, 0) / 1000.0")
	case kind == crosstab.Value && !own && !c.byPart:
		return fmt.Sprintf("SELECT k.*, order_day AS placed_on, worth / 10000 AS amount FROM %s WHERE worth IS NOT NULL", orders)
	case kind == crosstab.Value && !own:
		return fmt.Sprintf(`SELECT k.*, order_day AS placed_on, w.worth / 10.0 ^ d.decimals AS amount, w.line AS part_key
  FROM %s JOIN line_worth w USING ("order") JOIN currency_decimals d ON d.currency = coalesce("field currency", '')
  WHERE k.worth IS NOT NULL
%s`, orders, besideLines(orders))
	case kind.OfGoods():
		return c.goods(name(basis.Name), orders)
	case kind == crosstab.Length:
		return fmt.Sprintf(`SELECT k.*, order_day AS placed_on, l.length AS amount FROM %s JOIN length l USING ("order")`, orders)
	case kind.Share():
		counted := fmt.Sprintf("SELECT k.*, order_day AS placed_on, (%s)::int AS amount", c.some)
		if c.byPart {
			return counted + fmt.Sprintf(`, p.part_key FROM %s LEFT JOIN told_part p USING ("order")`, orders)
		}
		return counted + " FROM " + orders
	case c.byPart:
		return fmt.Sprintf(`SELECT k.*, order_day AS placed_on, 1 AS amount, p.part_key FROM %s LEFT JOIN told_part p USING ("order")`, orders)
	}
	return fmt.Sprintf("SELECT k.*, order_day AS placed_on, 1 AS amount FROM %s", orders)
}

// besideLines is what orders are worth beside their lines, which goes with them.
func besideLines(orders string) string {
	return fmt.Sprintf(`  -- What the order is worth beside its lines goes with it.
  UNION ALL
  SELECT k.*, k.order_day, k.worth / 10000 - coalesce(w.worth, 0) / 10.0 ^ d.decimals, NULL
  FROM %s LEFT JOIN lines_worth w USING ("order")
  JOIN currency_decimals d ON d.currency = coalesce("field currency", '') WHERE k.worth IS NOT NULL`, orders)
}

// goods is what of orders left, or was delivered, on which day. Goods of which nothing tells when go with their order.
func (c *counting) goods(goal, orders string) string {
	on := fmt.Sprintf("coalesce(CASE WHEN p.%[1]s <= k.data_date THEN p.%[1]s END, k.order_day)", goal)
	switch c.question.Show.Kind {
	case crosstab.Units:
		return c.units(goal, on, orders)
	case crosstab.Lines:
		return fmt.Sprintf(`SELECT k.*, p.%s AS placed_on, 1 AS amount, p.line AS part_key FROM %s JOIN line_day p USING ("order")`, goal, orders)
	}
	return fmt.Sprintf(`-- What of each line left on which day is worth its share of the line, by running total.
  SELECT k.*, CASE WHEN p.part <> 'cancelled' THEN %[2]s END AS placed_on,
    (CASE WHEN n.units > 0 THEN round(w.worth * p.upto / n.units) - round(w.worth * p.past / n.units)
      WHEN p.last THEN w.worth ELSE 0 END) / 10.0 ^ d.decimals AS amount, p.line AS part_key
  FROM `+orders+` JOIN line n USING ("order") JOIN line_worth w USING ("order", line)
  JOIN (SELECT *, row_number() OVER (PARTITION BY "order", line ORDER BY upto DESC, past DESC) = 1 AS last
  FROM (%[1]s) p) p USING ("order", line)
  JOIN currency_decimals d ON d.currency = coalesce("field currency", '') WHERE k.worth IS NOT NULL
`, linePieces, on) + besideLines(orders)
}

// units are those that left, or were delivered, on which day. Where they need not be told by line, whole shipments tell them.
func (c *counting) units(goal, on, orders string) string {
	stepwise, whole := "true", fmt.Sprintf(`-- What shipments hold of their lines beyond what was ordered.
  SELECT k.*, s.%[1]s AS placed_on, least(s.units, s.before + s.units - s.need) / 1000.0 AS amount, s.line AS part_key
  FROM `+orders+` JOIN shipment s USING ("order") WHERE form = 'units of lines' AND s.%[1]s <= k.data_date AND s.before + s.units > s.need
  UNION ALL
  `, goal)
	if !c.byPart {
		stepwise, whole = "form NOT IN ('units', 'units of lines')", fmt.Sprintf(`-- What shipments hold, on their days, also beyond what was ordered.
  SELECT k.*, s.%[1]s AS placed_on, s.units / 1000.0 AS amount, NULL AS part_key FROM `+orders+` JOIN shipment s USING ("order")
  WHERE form IN ('units', 'units of lines') AND s.%[1]s <= k.data_date
  -- The rest goes with the order.
  UNION ALL
  SELECT k.*, k.order_day, (l.need - coalesce(t.taken, 0)) / 1000.0, NULL FROM `+orders+` JOIN lines l USING ("order")
  LEFT JOIN (SELECT "order", sum(least(greatest(need - before, 0), units)) AS taken FROM shipment CROSS JOIN ends
  WHERE %[1]s <= data_date GROUP BY 1) t USING ("order")
  WHERE form IN ('units', 'units of lines')
  UNION ALL
  `, goal)
	}
	return whole + fmt.Sprintf(`-- Goods by what became of each part of a line.
  SELECT k.*, %[2]s AS placed_on, coalesce(p.upto - p.past, 0) / 1000.0 AS amount, p.line AS part_key FROM `+orders+`
    JOIN (`+linePieces+`) p USING ("order")
  WHERE %[3]s AND p.part <> 'cancelled'
  -- And what shipments hold beyond what was ordered.
  UNION ALL
  SELECT k.*, s.%[1]s, s.took / 1000.0, s.line FROM `+orders+` JOIN told_taken s USING ("order")
  WHERE %[3]s AND s.beyond AND s.%[1]s <= k.data_date`,
		goal, on, stepwise)
}

// linePieces is the relation with the parts of lines by what became of them: from how many of the line's units to how many each reaches.
const linePieces = `
    SELECT "order", line, 'cancelled' AS part, 0 AS past, gone AS upto, NULL::date AS shipped, NULL::date AS delivered FROM line
      WHERE gone > 0
    UNION ALL
    SELECT "order", line, 'sent', gone + upto - took, gone + upto, shipped, delivered FROM taken
    UNION ALL
    SELECT n."order", n.line, 'left', n.gone + coalesce(t.took, 0), n.units, n.shipped, n.delivered
    FROM line n LEFT JOIN taken_of t USING ("order", line)
    WHERE t.rest IS NOT TRUE AND (n.units IS NULL OR n.units <= 0 OR n.gone + coalesce(t.took, 0) < n.units)`

// lineWorths are the steps with what lines are worth, in minor units of the currency: by their own values where all are known, else
// by their units, else alike, each what the running total adds; and those of each order together.
const lineWorths = `-- What lines are worth, in minor units, by running total; and those of each order together.
line_worth AS (
    SELECT "order", line, upto - coalesce(lag(upto) OVER (PARTITION BY "order" ORDER BY at), 0) AS worth
    FROM (SELECT n."order", n.line, row_number() OVER own AS at, CASE
        WHEN l.worth IS NOT NULL THEN round(sum(n.line_value) OVER own / 10.0 ^ (4 - d.decimals))
        WHEN l.known AND sum(greatest(n.units, 0)) OVER whole > 0
          THEN round(w.worth / 10.0 ^ (4 - d.decimals) * sum(greatest(n.units, 0)) OVER own / sum(greatest(n.units, 0)) OVER whole)
        ELSE round(w.worth / 10.0 ^ (4 - d.decimals) * row_number() OVER own / l.lines) END AS upto
      FROM line n JOIN lines l USING ("order") JOIN worth w USING ("order") JOIN recorded o USING ("order")
      JOIN currency_decimals d ON d.currency = coalesce(o."field currency", '')
      WINDOW whole AS (PARTITION BY n."order"), own AS (PARTITION BY n."order" ORDER BY length(n.line), n.line COLLATE "C")) n),
lines_worth AS (SELECT "order", sum(worth) AS worth FROM line_worth GROUP BY 1)`

// currency names the part of the answer in which the number of an order stands: values of each currency are a part by themselves.
func (c *counting) currency() string {
	if c.question.Show.Kind == crosstab.Value {
		return `coalesce("field currency", 'no currency')`
	}
	return "''"
}

// placed is the step with all that is counted by a date in the period.
func (c *counting) placed(basis milestone.Milestone, row, column string) string {
	span, chosen := c.question.Period.Span, ""
	if c.byPart {
		chosen = ` LEFT JOIN chosen c USING ("order", part_key)`
	}
	picked := ""
	if c.question.Parts.Condition != nil {
		picked = " AND c.met"
	}
	return fmt.Sprintf(`  SELECT id, %s AS part, %s AS row_key, %s AS column_key, amount FROM (
  %s) k%s
  WHERE placed_on BETWEEN %s AND %s AND (%s)%s`, c.currency(), row, column, c.counted(basis), chosen, date(span.From), date(span.LastDay()), c.where, picked)
}

// figures are those of what is placed, for each set of groups: of a share and of a length also what they are of, with the ending that the
// code of its column has. An order counts once, whatever it has in a cell.
func (c *counting) figures() (figures, rows string) {
	switch kind := c.question.Show.Kind; {
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

// gathered is the last step of a count: each set of groups, a row for each of its figures.
func (c *counting) gathered(column, sets string) string {
	figures, rows := c.figures()
	return fmt.Sprintf(`SELECT part, row_key, "column" || ending AS "column", amount
FROM (SELECT part, row_key, %s AS "column", %s
  FROM placed GROUP BY GROUPING SETS (%s)) g CROSS JOIN LATERAL (VALUES %s) AS f (ending, amount)`, column, figures, sets, rows)
}

// readFigure understands a share or a length.
func (c *counting) readFigure() (err error) {
	switch q := c.question; q.Show.Kind {
	case crosstab.Length:
		if c.byPart {
			return refused("rows", "", "want fields of orders, or steps of time, with a length")
		}
		if _, err := statisticOf(q.Show.Statistic, "amount"); err != nil {
			return err
		}
		if err := refusedUnit(q.Measure); err != nil {
			return err
		}
		t := &tookWriter{writer: c.writer, question: duration.Question{Question: q.Question}, orders: "known", within: "true"}
		own, err := t.leg(q.Leg, "")
		c.before = append(before(q.Measure), own...)
		return err
	case crosstab.Meeting:
		c.some, err = c.condition(q.Show.Meets.Condition)
	case crosstab.Immediate:
		c.some = fmt.Sprintf("CASE WHEN %[2]s >= %[1]s THEN %[2]s = %[1]s END", c.known(milestone.Ordered), c.known(milestone.Requested))
	case crosstab.OneShipment:
		c.some = fmt.Sprintf(`CASE WHEN %s IS NOT NULL THEN
    (SELECT nullif(count(*), 0) = 1 FROM shipment s
      WHERE s."order" = k."order" AND s.shipped <= k.data_date) END`, c.known(milestone.Shipped))
	}
	return err
}

// steps are those before what is counted.
func (c *counting) steps() (steps []string) {
	steps = c.before
	if c.byPart {
		steps = append(steps, c.step)
	}
	return steps
}

// newCounting understands the condition of a count.
func newCounting(b *book.Book, questions []crosstab.Question, show []string) (*counting, error) {
	q, err := counted(questions, show)
	if err != nil {
		return nil, err
	}
	w, err := newWriter(b, q.Question)
	if err != nil {
		return nil, err
	}
	c := &counting{writer: w, question: q}
	if err := c.readParts(); err != nil {
		return nil, err
	}
	if err := c.readFigure(); err != nil {
		return nil, err
	}
	kind, own := q.Show.Kind, slices.ContainsFunc(q.Bases, c.own)
	c.allLines = c.allLines || own && (kind == crosstab.Lines || kind == crosstab.Value)
	if kind == crosstab.Value && (own || c.byPart) {
		c.before = append(c.before, lineWorths)
	}
	if c.byPart && c.part == book.Lines || own && kind == crosstab.Lines {
		c.before = append(c.before, toldDays)
	}
	return c, nil
}

// countCrosstab writes a count by rows and columns.
func countCrosstab(b *book.Book, words url.Values) (*Statement, error) {
	in := &api.CrosstabQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	questions, b, err := present.CrosstabQuestions(b, in)
	if err != nil {
		return nil, err
	}
	w, err := newCounting(b, questions, in.Show)
	if err != nil {
		return nil, err
	}
	q := w.question
	switch {
	case len(q.Bases) != 1:
		return nil, refused("basis", strings.Join(in.Basis, ","), "want one date")
	case in.Top > 0:
		return nil, refused("top", fmt.Sprint(in.Top), "want all rows")
	case q.Rows == nil:
		return nil, refused("rows", "", "want rows")
	}
	key := func(of *query.Grouping, column string) (string, error) {
		if of == nil {
			return "''", nil
		}
		if of.Column > 0 {
			return fmt.Sprintf("coalesce(%s, '')", name("part "+b.PartColumns(of.Part)[of.Column-1].Name)), nil
		}
		by := *of
		if by.Of == q.Bases[0].Name {
			by.Of = "" // parts lie in the step of their own day
		}
		return w.keyOn("placed_on", by, column)
	}
	row, err := key(q.Rows, "rows")
	if err != nil {
		return nil, err
	}
	column, err := key(q.Columns, "columns")
	if err != nil {
		return nil, err
	}
	s := &Statement{Table: "cells", Keys: 1, Long: true}
	sets := "(part, row_key, column_key), (part, row_key), (part, column_key), (part)"
	if q.Columns == nil {
		sets = "(part, row_key), (part)"
	}
	s.Text = w.statement(q.Sentence().String(), append(w.steps(), fmt.Sprintf(`-- What is counted, with the row and column of its order, where the date lies in the period.
placed AS (
%s)

-- Each cell, and the totals of rows, of columns, and of all.
%s`, w.placed(q.Bases[0], row, column), w.gathered(columnCode(q.Columns != nil), sets)))...)
	return s, nil
}

// columnCode is the code of the answer's column.
func columnCode(columns bool) string {
	if !columns {
		return "'total'"
	}
	return "CASE WHEN grouping(column_key) = 1 THEN 'total' ELSE 'key:' || column_key END"
}

// countCompare writes a count by several dates in each step of time.
func countCompare(b *book.Book, words url.Values) (*Statement, error) {
	in := &api.CompareQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	questions, b, err := present.CompareQuestions(b, in)
	if err != nil {
		return nil, err
	}
	w, err := newCounting(b, questions, in.Show)
	if err != nil {
		return nil, err
	}
	if in.Empty == "alone" || in.Empty == "hidden" {
		return nil, refused("empty", in.Empty, "want all steps")
	}
	q := w.question
	var counts []string
	for _, basis := range q.Bases {
		format, _ := stepFormat(q.Each)
		counts = append(counts, w.placed(basis, fmt.Sprintf("to_char(placed_on, '%s')", format), text(basis.Name)))
	}
	s := &Statement{Table: "dates", Keys: 1, Long: true}
	s.Text = w.statement(q.Sentence().String(), append(w.steps(), fmt.Sprintf(`-- What is counted stands once for each of the dates that lies in the period.
placed AS (
%s)

-- Each step by each date, and the totals.
%s`, strings.Join(counts, "\n  UNION ALL\n"), w.gathered("column_key", "(part, column_key, row_key), (part, column_key)")))...)
	return s, nil
}
