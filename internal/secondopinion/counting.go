package secondopinion

import (
	"fmt"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/crosstab"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/milestone"
)

// A counting writes what one figure counts. The names of its own steps end as they are told, since an answer can have several.
type counting struct {
	*writer
	question crosstab.Question
	ending   string
	title    string // of the figure, where there are several
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

// amounts is the relation with all that is counted by a date: the order with the day on which the date places it, the amount and, where
// that is asked for, the part of which it is.
func (c *counting) amounts(basis milestone.Milestone) string {
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
		counted := "SELECT k.*, order_day AS placed_on, l.length AS amount"
		from := fmt.Sprintf(` FROM %s JOIN length%s l USING ("order")`, orders, c.ending)
		if c.byPart {
			return counted + ", p.part_key" + from + fmt.Sprintf(` LEFT JOIN told_part%s p USING ("order")`, c.ending)
		}
		return counted + from
	case kind.Share():
		either := fmt.Sprintf("SELECT k.*, order_day AS placed_on, (%s)::int AS amount", c.some)
		if c.byPart {
			return either + fmt.Sprintf(`, p.part_key FROM %s LEFT JOIN told_part%s p USING ("order")`, orders, c.ending)
		}
		return either + " FROM " + orders
	case c.byPart:
		return fmt.Sprintf(`SELECT k.*, order_day AS placed_on, 1 AS amount, p.part_key FROM %s LEFT JOIN told_part%s p USING ("order")`, orders, c.ending)
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
	if c.question.Show.Kind != crosstab.Value {
		return text(c.title)
	}
	currency := `coalesce("field currency", 'no currency')`
	if c.title != "" {
		return text(c.title+", ") + " || " + currency
	}
	return currency
}

// readFigure understands a share or a length.
func (c *counting) readFigure() (err error) {
	switch q := c.question; q.Show.Kind {
	case crosstab.Length:
		if _, err := statisticOf(q.Show.Statistic, "amount"); err != nil {
			return err
		}
		if err := refusedUnit(q.Measure); err != nil {
			return err
		}
		t := &tookWriter{writer: c.writer, question: duration.Question{Question: q.Question}, orders: "known", within: "true"}
		own, err := t.leg(q.Leg, c.ending)
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
