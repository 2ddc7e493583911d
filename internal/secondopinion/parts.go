package secondopinion

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/query"
)

// partTables are the tables of the parts that can be put into groups or picked, with what tells one of an order from the others.
var partTables = map[book.Part]struct{ table, key string }{
	book.Lines:     {"order_lines", "p.line"},
	book.Shipments: {"shipments", "p.shipment || chr(31) || p.line"},
	book.Payments:  {"payments", "p.receipt"},
}

// toldDays are the days on which all of a line left and arrived: with its last piece, but for what was cancelled, or else with its order.
func toldDays(from string) string {
	return fmt.Sprintf(`-- The days on which all of a line left, and arrived.
line_day AS (
  SELECT "order", line, %s AS shipped, %s AS delivered FROM (
    SELECT p."order", p.line, k.cancelled, %s AS shipped, %s AS delivered
    FROM %s k JOIN (%s) p USING ("order") WHERE p.part <> 'cancelled') p GROUP BY "order", line, cancelled)`,
		lastOf("shipped"), lastOf("delivered"), onOrOrders("shipped"), onOrOrders("delivered"), from, linePieces)
}

// lastOf is the day of a line of which all pieces have one; of an order that is cancelled nothing is waited for any more.
func lastOf(goal string) string {
	return fmt.Sprintf("CASE WHEN cancelled IS NOT NULL OR count(*) FILTER (WHERE %[1]s IS NULL) = 0 THEN max(%[1]s) END", goal)
}

// onOrOrders is the day of a piece, as far as it is known, or that of its order.
func onOrOrders(goal string) string {
	return fmt.Sprintf("coalesce(CASE WHEN p.%[1]s <= k.data_date THEN p.%[1]s END, k.%[1]s)", goal)
}

// toldParts is the step with what is told of each part of a kind, and its columns for conditions and groups, each under a name that
// no column of an order has.
func (c *counting) toldParts(of book.Part) (step string, columns map[string]partColumn) {
	columns = map[string]partColumn{}
	from, exprs, more := partTables[of], []string{}, ""
	for _, column := range c.book.PartColumns(of) {
		is := partColumn{name("part " + column.Name), column.Holds == book.OnDay}
		exprs = append(exprs, c.partColumn(of, column)+" AS "+is.sql)
		if column.Holds == book.Coded || column.Holds == book.Plain {
			is.sql += ` COLLATE "C"`
		}
		columns[column.Name] = is
	}
	if of == book.Lines {
		more = `
  LEFT JOIN products r ON r.product = p.product LEFT JOIN line_day d ON d."order" = p."order" AND d.line = p.line`
	}
	return fmt.Sprintf(`-- What is told of each of the %s.
told_part%s AS (
  SELECT p."order", %s AS part_key,
    %s
  FROM %s p JOIN recorded o USING ("order") CROSS JOIN ends e%s)`,
		strings.ReplaceAll(from.table, "_", " "), c.ending, from.key, strings.Join(exprs, ",\n    "), from.table, more), columns
}

// partColumn is a column of a part from its table p, the list of products r and the days of lines d. A day after the data date is
// not known.
func (c *counting) partColumn(of book.Part, column book.PartColumn) string {
	records, stored := c.book.Layout(), strings.ReplaceAll(column.Name, "-", "_")
	known := func(on string) string { return fmt.Sprintf("CASE WHEN %[1]s <= e.data_date THEN %[1]s END", on) }
	switch {
	case column.Holds == book.OnDay && !slices.Contains(records.PartColumns(of), column):
		return known("d." + name(stored))
	case column.Holds == book.OnDay:
		return known(onDay("p", stored, stored, "o.zone"))
	case column.Holds == book.Quantity:
		return "p." + name(stored) + " / 1000.0"
	case column.Holds == book.Money, column.Holds == book.ValueUnit:
		return "p." + name(stored) + " / 10000.0"
	case of == book.Lines && slices.Contains(records.LineExtra, column.Name):
		return fmt.Sprintf("nullif(p.extra ->> %s, '')", text(column.Name))
	case !slices.Contains(records.PartColumns(of), column):
		return fmt.Sprintf("nullif(r.%s, '')", name(stored))
	}
	return fmt.Sprintf("nullif(p.%s, '')", name(stored))
}

// readParts understands the groups and the condition on parts of a count.
func (c *counting) readParts() error {
	c.part = c.question.Show.Kind.Part()
	byPart := false
	for _, g := range []*query.Grouping{c.question.Rows, c.question.Columns} {
		if g != nil && g.Column > 0 {
			byPart, c.part = true, g.Part
		}
	}
	picked := c.question.Parts.Condition
	if !byPart && picked == nil {
		return nil
	}
	c.byPart, c.allLines = true, c.allLines || c.part == book.Lines
	var step string
	step, c.parts = c.toldParts(c.part)
	met := "true"
	if picked != nil {
		var err error
		if met, err = c.condition(picked); err != nil {
			return err
		}
	}
	c.step = fmt.Sprintf(`%[1]s,

-- Those that meet the condition on them.
chosen%[2]s AS (SELECT t.*, (%[3]s) AS met FROM told_part%[2]s t JOIN known USING ("order"))`, step, c.ending, met)
	return nil
}
