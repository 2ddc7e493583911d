package secondopinion

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/present"
)

// dates are the first steps of every statement: the sites with their calendars, and the orders with the days on which they reached
// their milestones, as their lines, shipments and payments tell them. The last of them is the relation known, with a column for each
// milestone, as it is known at the data date, another for the day as recorded, and one for each field.
func dates(b *book.Book) string {
	return fmt.Sprintf(`-- The day up to which the records are complete.
ends AS (SELECT %s AS data_date),

-- Currencies, with how many decimals they have.
currency_decimals (currency, decimals) AS (VALUES %s),

-- Sites: the zone of their clocks, the time of day from which an order counts as one of the next working day, and the first calendar
-- that has the name of their own, of the site, of its region or of its country.
site AS (
  SELECT s.name, r.zone, nullif(r.cut_off, '')::time AS cut_off, (
    SELECT c.calendar FROM unnest(ARRAY[r.calendar, s.name, r.region, r.country]) WITH ORDINALITY AS n (name, place)
    JOIN (SELECT DISTINCT calendar FROM calendar_days) c ON lower(c.calendar) = lower(n.name)
    ORDER BY n.place LIMIT 1) AS calendar
  FROM (SELECT DISTINCT site AS name FROM orders WHERE site <> '') s
  LEFT JOIN sites r ON lower(r.site) = lower(s.name)),

-- Orders as recorded. A day that came with a time of day and its distance from UTC is that of the site's zone.
recorded AS (
  SELECT o.id, o."order", o.value, o.extra, s.zone, s.cut_off, coalesce(s.calendar, %s) AS calendar,
%s,
%s,
    %s AS ordered_time,
    %s AS ordered_at
  FROM orders o LEFT JOIN site s ON s.name = o.site),

%s,

-- What is known at the data date: a fact after it is not.
known AS (
  SELECT id, "order", calendar, cut_off, ordered_time, ordered_at, form, worth, data_date,
%s
  FROM dated CROSS JOIN ends)`, date(b.Bounds().DataDate), currencies(b), text(b.Calendars().All()[0].Name()), recordedDays(b), recordedFields(b),
		timeOf("o.extra ->> 'ordered'"), momentOf("(o.extra ->> 'ordered')", "s.zone"), goods(b), knownDays(b))
}

// knownDays are the columns of the relation known: each milestone as known and as recorded, and each field.
func knownDays(b *book.Book) string {
	var columns []string
	for _, m := range b.Milestones() {
		if m.Of != "" {
			continue
		}
		day := name(m.Name)
		if slices.Contains(told, m.Name) || slices.Contains(ofParts, m.Name) {
			day = name("told " + m.Name)
		}
		known := fmt.Sprintf("CASE WHEN %[1]s <= data_date THEN %[1]s END", day)
		if m.Plan {
			known = day
		}
		columns = append(columns, fmt.Sprintf("    %s AS %s, %s AS %s", known, name(m.Name), day, name("recorded "+m.Name)))
	}
	for _, f := range fields(b) {
		columns = append(columns, "    "+name("field "+f))
	}
	return strings.Join(columns, ",\n")
}

// date is a day as SQL has it.
func date(d day.Day) string { return "DATE '" + d.String() + "'" }

// text is a text as SQL has it.
func text(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }

// name is the name of a column as SQL has it.
func name(s string) string { return `"` + strings.ReplaceAll(s, `"`, `""`) + `"` }

// currencies lists those of the book with their decimals.
func currencies(b *book.Book) string {
	var rows []string
	for _, c := range b.Values(book.Currency) {
		rows = append(rows, fmt.Sprintf("(%s, %d)", text(c), present.Decimals(c)))
	}
	return strings.Join(rows, ", ")
}

// offset ends a time of day that says how far it is from UTC.
const offset = `'([Zz]|[+-]\d\d:\d\d)$'`

// dayOf is the day of a text that may have a time of day, where a site's clocks show it.
func dayOf(text, zone string) string {
	return fmt.Sprintf(`CASE WHEN %[1]s ~ %[3]s AND %[2]s <> '' THEN ((%[1]s)::timestamptz AT TIME ZONE %[2]s)::date ELSE left(%[1]s, 10)::date END`,
		text, zone, offset)
}

// timeOf is the time of day of a text, where the site's clocks are known; null where it has none.
func timeOf(text string) string {
	return fmt.Sprintf(`CASE WHEN s.zone <> '' AND %[1]s ~ %[2]s THEN ((%[1]s)::timestamptz AT TIME ZONE s.zone)::time
      WHEN s.zone <> '' AND length(%[1]s) > 10 THEN substr(%[1]s, 12)::time END`, text, offset)
}

// momentOf is the moment, in whole seconds, of a text with a time of day, where its distance from UTC or the zone is known.
func momentOf(text, zone string) string {
	return fmt.Sprintf("date_trunc('second', CASE WHEN %[1]s ~ %[3]s THEN (%[1]s)::timestamptz\n      WHEN length(%[1]s) > 10 AND %[2]s <> '' THEN (%[1]s)::timestamp AT TIME ZONE %[2]s END)",
		text, zone, offset)
}

// onDay is the day of a column of a record, which may have come with a time of day.
func onDay(table, column, key, zone string) string {
	cell := fmt.Sprintf("%s.extra ->> %s", table, text(key))
	own := "NULL::date"
	if column != "" {
		own = table + "." + name(column)
	}
	return fmt.Sprintf("CASE WHEN coalesce(%s, '') <> '' THEN %s ELSE %s END", cell, dayOf(cell, zone), own)
}

// told are the milestones of orders that parts can tell.
var told = []string{milestone.Shipped, milestone.Delivered, milestone.Paid, milestone.Cancelled}

// ofParts are the milestones that only lines, shipments and payments tell.
var ofParts = []string{"first-shipped", "first-delivered", "first-paid"}

func recordedDays(b *book.Book) string {
	var columns []string
	for i, m := range b.Milestones() {
		switch column := m.Name; {
		case m.Of != "" || slices.Contains(ofParts, m.Name):
		default:
			if i >= len(milestone.BuiltIn()) {
				column = "" // a column of the user's own
			}
			columns = append(columns, fmt.Sprintf("    %s AS %s", onDay("o", column, m.Name, "s.zone"), name(m.Name)))
		}
	}
	return strings.Join(columns, ",\n")
}

func recordedFields(b *book.Book) string {
	var columns []string
	for _, f := range fields(b) {
		from := fmt.Sprintf("o.extra ->> %s", text(f))
		if slices.Contains(book.FieldNames(), f) {
			from = "o." + name(f)
		}
		columns = append(columns, fmt.Sprintf("    nullif(%s, '') AS %s", from, name("field "+f)))
	}
	return strings.Join(columns, ",\n")
}

// fields are those of the orders themselves.
func fields(b *book.Book) []string { return append(book.FieldNames(), b.Layout().Extra...) }

// goods are the steps that tell shipped, delivered, paid and cancelled of parts.
func goods(b *book.Book) string {
	derived := `-- Lines, with the units of them that were cancelled by then.
line AS (
  SELECT l."order", l.line, l.units, l.line_value, l.shipped, l.delivered, l.cancelled_on, l.extra, l.zone,
    CASE WHEN l.units > 0 AND l.cancelled_units > 0 AND (l.cancelled_on IS NULL OR l.cancelled_on <= e.data_date)
      THEN least(l.units, l.cancelled_units) ELSE 0 END AS gone
  FROM (SELECT l.*, o.zone, ` + onDay("l", "line_shipped", "line_shipped", "o.zone") + ` AS shipped,
      ` + onDay("l", "line_delivered", "line_delivered", "o.zone") + ` AS delivered,
      ` + onDay("l", "line_cancelled", "line_cancelled", "o.zone") + ` AS cancelled_on
    FROM order_lines l JOIN recorded o USING ("order")) l CROSS JOIN ends e),

-- What each order has of lines: the units that are to go, and whether all of it was cancelled. Goods are lines of which some is to go.
lines AS (
  SELECT "order", count(*) AS lines, bool_and(units IS NOT NULL) AS known, bool_and(units IS NULL) AS unknown,
    bool_or(units < 0) AS back, bool_or(shipped IS NOT NULL OR delivered IS NOT NULL) AS own, sum(units - gone) AS need,
    count(*) FILTER (WHERE units IS NULL OR units - gone > 0) AS goods, bool_and((units > 0 AND gone = units) IS TRUE) AS all_cancelled,
    max(cancelled_on) FILTER (WHERE gone > 0) AS last_cancelled,
    CASE WHEN bool_and(line_value IS NOT NULL) THEN sum(line_value) END AS worth,
    min(shipped) FILTER (WHERE shipped <= e.data_date) AS first_shipped,
    min(delivered) FILTER (WHERE delivered <= e.data_date) AS first_delivered,
` + ownDays("shipped") + `,
` + ownDays("delivered") + `
  FROM line CROSS JOIN ends e GROUP BY "order"),

-- Shipments, in the order in which they left; what each takes of what is left, of its line or of the whole order.
shipment AS (
  SELECT s.*, n.line IS NOT NULL AS named, coalesce(n.units - n.gone, l.need) AS need,
    sum(greatest(s.units, 0)) OVER (PARTITION BY s."order", n.line ORDER BY s.shipped NULLS LAST, s.delivered NULLS LAST, s.shipment, length(s.line), s.line)
      - greatest(s.units, 0) AS before
  FROM (SELECT s.shipment, s."order", s.line, s.units, s.extra, o.zone, ` + onDay("s", "shipped", "shipped", "o.zone") + ` AS shipped,
      ` + onDay("s", "delivered", "delivered", "o.zone") + ` AS delivered
    FROM shipments s JOIN recorded o USING ("order")) s
  LEFT JOIN line n ON n."order" = s."order" AND n.line = s.line AND s.line <> ''
  LEFT JOIN lines l ON l."order" = s."order"),

-- What each order has of shipments, and which of them took something.
shipped AS (
  SELECT "order", count(*) AS shipments, bool_or(named) AS some_named, bool_and(named) AS all_named, bool_and(units > 0) AS known,
    bool_and(units IS NULL) AS unknown, sum(units) AS units,
    min(shipped) FILTER (WHERE shipped <= e.data_date) AS first_shipped,
    min(delivered) FILTER (WHERE delivered <= e.data_date) AS first_delivered,
` + reached("shipped") + `,
` + reached("delivered") + `
  FROM shipment CROSS JOIN ends e GROUP BY "order"),

-- Where shipments name lines: how many lines have not gone whole.
waiting AS (
  SELECT l."order", count(*) FILTER (WHERE l.units - l.gone > coalesce(s.units, 0)) AS lines
  FROM line l LEFT JOIN (SELECT "order", line, sum(units) AS units FROM shipment WHERE named GROUP BY 1, 2) s USING ("order", line)
  GROUP BY 1),

-- How the goods of an order are told: by its own days alone, by whole shipments, by units of whole shipments, by units of lines, by the
-- lines' own days, or in another way, which this statement does not follow.
form AS (
  SELECT o."order", CASE
      WHEN l.lines IS NULL AND s.shipments IS NULL THEN 'none'
      WHEN l.lines IS NULL THEN 'whole'
      WHEN l.back THEN 'other'
      WHEN s.shipments IS NULL THEN 'own days'
      WHEN l.own THEN 'other'
      WHEN NOT s.some_named AND l.known AND s.known THEN 'units'
      WHEN NOT s.some_named AND (s.unknown OR l.unknown) THEN 'untold'
      WHEN s.all_named AND l.known AND s.known THEN 'units of lines'
      ELSE 'other' END AS form
  FROM recorded o LEFT JOIN lines l USING ("order") LEFT JOIN shipped s USING ("order")),

-- Payments by then in the order's currency, in the order in which they came, with the sum so far; and what each order has of them.
payment AS (
  SELECT p.*, row_number() OVER arrived AS place, sum(p.amount) FILTER (WHERE p.own) OVER arrived AS so_far
  FROM (SELECT p."order", p.receipt, p.amount, p.paid, p.cell, ` + momentOf("p.cell", "p.zone") + ` AS at,
      coalesce(p.currency, '') IN ('', coalesce(o."field currency", '')) AS own
    FROM (SELECT p."order", p.receipt, p.amount, p.currency, o.zone, ` + onDay("p", "paid", "paid", "o.zone") + ` AS paid, p.extra ->> 'paid' AS cell
      FROM payments p JOIN recorded o USING ("order")) p
    JOIN recorded o USING ("order") CROSS JOIN ends e WHERE p.paid <= e.data_date) p
  WINDOW arrived AS (PARTITION BY p."order" ORDER BY p.paid, p.at NULLS FIRST, coalesce(substr(p.cell, 12), ''), p.receipt ROWS UNBOUNDED PRECEDING)),
-- The value in ten-thousandths: the order's own, or that of all its lines.
worth AS (
  SELECT o."order", coalesce(o.value, round(l.worth / 10.0 ^ (4 - d.decimals))) * 10.0 ^ (4 - d.decimals) AS worth
  FROM recorded o LEFT JOIN lines l USING ("order") JOIN currency_decimals d ON d.currency = coalesce(o."field currency", '')),
paid AS (
  SELECT "order", min(paid) FILTER (WHERE own) AS first, max(paid) FILTER (WHERE own) AS last,
    bool_or(NOT own OR amount IS NULL AND worth <> 0) AS unclear, max(worth) AS worth,
    min(paid) FILTER (WHERE own AND amount IS NOT NULL AND reached AND place > last_short) AS reached
  FROM (SELECT p.*, max(place) FILTER (WHERE own AND amount IS NOT NULL AND NOT reached) OVER (PARTITION BY "order") IS NULL AS never_short,
      coalesce(max(place) FILTER (WHERE own AND amount IS NOT NULL AND NOT reached) OVER (PARTITION BY "order"), 0) AS last_short
    FROM (SELECT p.*, w.worth, CASE WHEN w.worth > 0 THEN so_far >= w.worth ELSE so_far <= w.worth END AS reached
      FROM payment p JOIN worth w USING ("order")) p) p
  GROUP BY "order"),

-- Orders with the days that their parts tell; where no part says anything, with their own.
dated AS (
  SELECT o.*, f.form, w.worth,
` + reachedOn("shipped") + `,
` + reachedOn("delivered") + `,
    least(s.first_shipped, l.first_shipped) AS "told first-shipped", least(s.first_delivered, l.first_delivered) AS "told first-delivered",
    p.first AS "told first-paid",
    CASE WHEN p."order" IS NULL OR coalesce(p.worth, 0) = 0 AND p.last IS NULL THEN o.paid
      WHEN coalesce(p.worth, 0) = 0 THEN p.last
      WHEN p.reached IS NOT NULL THEN p.reached
      WHEN p.unclear THEN o.paid END AS "told paid",
    CASE WHEN l.all_cancelled AND o.cancelled IS NULL THEN coalesce(l.last_cancelled, o.ordered) ELSE o.cancelled END AS "told cancelled"
  FROM recorded o JOIN form f USING ("order") JOIN worth w USING ("order") LEFT JOIN lines l USING ("order")
  LEFT JOIN shipped s USING ("order") LEFT JOIN waiting n USING ("order") LEFT JOIN paid p USING ("order"))`
	return derived
}

// ownDays are what lines with days of their own tell of a goal: how many have one, how many by then, and the last.
func ownDays(goal string) string {
	return fmt.Sprintf(`    count(*) FILTER (WHERE (shipped IS NOT NULL OR delivered IS NOT NULL) AND (units > 0 AND gone = units) IS NOT TRUE) AS %[1]s_pieces,
    count(*) FILTER (WHERE %[1]s <= e.data_date AND (units > 0 AND gone = units) IS NOT TRUE) AS %[1]s_known,
    count(*) FILTER (WHERE shipped IS NULL AND delivered IS NULL AND (units IS NULL OR units - gone > 0)) AS %[1]s_left,
    max(%[1]s) FILTER (WHERE (units > 0 AND gone = units) IS NOT TRUE) AS %[1]s_last`, goal)
}

// reached are what shipments tell of a goal: whether all have reached it by then, and all that took something; and the last.
func reached(goal string) string {
	return fmt.Sprintf(`    bool_and(%[1]s <= e.data_date) IS TRUE AND count(*) = count(%[1]s) AS all_%[1]s, max(%[1]s) AS last_%[1]s,
    count(*) FILTER (WHERE units > 0 AND before < need AND (%[1]s IS NULL OR %[1]s > e.data_date)) = 0 AS takers_%[1]s,
    max(%[1]s) FILTER (WHERE units > 0 AND before < need) AS taken_%[1]s`, goal)
}

// reachedOn is the day on which all goods of an order reached a goal.
func reachedOn(goal string) string {
	return fmt.Sprintf(`    CASE WHEN s.first_%[1]s IS NULL AND l.first_%[1]s IS NULL THEN o.%[1]s
      WHEN f.form = 'whole' OR f.form = 'untold' AND l.goods > 0 THEN CASE WHEN s.all_%[1]s THEN s.last_%[1]s END
      WHEN f.form = 'units' THEN CASE WHEN s.takers_%[1]s AND s.units >= l.need THEN s.taken_%[1]s END
      WHEN f.form = 'units of lines' THEN CASE WHEN s.takers_%[1]s AND n.lines = 0 THEN s.taken_%[1]s END
      WHEN f.form = 'own days' THEN CASE WHEN l.%[1]s_known = l.%[1]s_pieces AND l.%[1]s_left = 0 THEN l.%[1]s_last END
    END AS "told %[1]s"`, goal)
}
