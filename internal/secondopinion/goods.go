package secondopinion

import (
	"fmt"
	"strings"
)

// goods are the steps that tell shipped, delivered, paid and cancelled of parts. What shipments take of lines is followed for the days of
// all lines, or else only where nothing simpler tells the days of an order.
func goods(allLines bool) string {
	return strings.Join([]string{ofLines, ofShipments, taken(allLines), pieces, payments, dated}, ",\n\n")
}

// ofLines are the steps with lines and what each order has of them.
var ofLines = `-- Lines, with the units of them that were cancelled by then; whether they have days of their own, or are settled without one because
-- they were taken back; and whether nothing of them is to go.
line AS (
  SELECT l."order", l.line, l.units, l.line_value, l.shipped, l.delivered, l.cancelled_on, l.extra, l.zone, g.gone,
    l.shipped IS NOT NULL OR l.delivered IS NOT NULL AS own,
    (l.shipped IS NOT NULL OR l.delivered IS NOT NULL OR l.units < 0) IS TRUE AS settled,
    (l.units > 0 AND g.gone = l.units) IS TRUE AS all_gone
  FROM (SELECT l.*, o.zone, ` + onDay("l", "line_shipped", "line_shipped", "o.zone") + ` AS shipped,
      ` + onDay("l", "line_delivered", "line_delivered", "o.zone") + ` AS delivered,
      ` + onDay("l", "line_cancelled", "line_cancelled", "o.zone") + ` AS cancelled_on
    FROM order_lines l JOIN recorded o USING ("order")) l CROSS JOIN ends e
  CROSS JOIN LATERAL (SELECT CASE WHEN l.units > 0 AND l.cancelled_units > 0 AND (l.cancelled_on IS NULL OR l.cancelled_on <= e.data_date)
    THEN least(l.units, l.cancelled_units) ELSE 0 END AS gone) g),

-- What each order has of lines: the units that are to go, and whether all of it was cancelled.
lines AS (
  SELECT "order", count(*) AS lines, bool_and(units IS NOT NULL) AS known, bool_or(settled) AS settled, sum(units - gone) AS need,
    bool_and(all_gone) AS all_cancelled, max(cancelled_on) FILTER (WHERE gone > 0) AS last_cancelled,
    CASE WHEN bool_and(line_value IS NOT NULL) THEN sum(line_value) END AS worth,
    min(shipped) FILTER (WHERE shipped <= e.data_date) AS first_shipped,
    min(delivered) FILTER (WHERE delivered <= e.data_date) AS first_delivered
  FROM line CROSS JOIN ends e GROUP BY "order")`

// ofShipments are the steps with shipments, what each order has of them, and how its goods are told.
var ofShipments = `-- Shipments, in the order in which they left; what each takes of what is left, of its line or of the whole order; and whether it may hold
-- goods that nothing else tells: it names no line, and it or a line does not tell its units.
shipment AS (
  SELECT s.*, n.line IS NOT NULL AS named, coalesce(n.units - n.gone, l.need) AS need,
    n.line IS NULL AND (s.units IS NULL OR l.known IS NOT TRUE) AS holds,
    sum(greatest(s.units, 0)) OVER (PARTITION BY s."order", n.line ORDER BY s.shipped NULLS LAST, s.delivered NULLS LAST, s.shipment, length(s.line), s.line)
      - greatest(s.units, 0) AS before,
    row_number() OVER (PARTITION BY s."order" ORDER BY s.shipped NULLS LAST, s.delivered NULLS LAST, s.shipment, length(s.line), s.line) AS place
  FROM (SELECT s.shipment, s."order", s.line, s.units, s.extra, o.zone, ` + onDay("s", "shipped", "shipped", "o.zone") + ` AS shipped,
      ` + onDay("s", "delivered", "delivered", "o.zone") + ` AS delivered
    FROM shipments s JOIN recorded o USING ("order")) s
  LEFT JOIN line n ON n."order" = s."order" AND n.line = s.line AND s.line <> ''
  LEFT JOIN lines l ON l."order" = s."order"),

-- What each order has of shipments, which of them took something, and what those tell that may hold goods.
shipped AS (
  SELECT "order", bool_or(named) AS some_named, bool_and(named) AS all_named, bool_and((units > 0) IS TRUE) AS known, sum(units) AS units,
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

-- How the goods of an order with lines or shipments are told: by units of whole shipments, by units of lines, or in any other way.
form AS (
  SELECT "order", CASE
      WHEN l.settled OR NOT l.known OR NOT s.known OR l.lines IS NULL OR s.known IS NULL THEN 'other'
      WHEN NOT s.some_named THEN 'units'
      WHEN s.all_named THEN 'units of lines'
      ELSE 'other' END AS form
  FROM lines l FULL JOIN shipped s USING ("order"))`

// pieces are the steps with what tells the days of orders of other forms.
var pieces = `-- What tells when goods of other orders left and arrived: the shipments that took some, and the days of lines; or that nothing does.
piece AS (
  SELECT t."order", t.shipped, t.delivered, t.extra ->> 'shipped' AS shipped_cell, t.extra ->> 'delivered' AS delivered_cell, true AS told
  FROM taken t JOIN form f USING ("order") WHERE f.form = 'other'
  UNION ALL
  SELECT n."order", n.shipped, n.delivered, n.extra ->> 'line_shipped', n.extra ->> 'line_delivered', n.own
  FROM line n JOIN form f USING ("order") LEFT JOIN taken_of t USING ("order", line)
  WHERE f.form = 'other' AND CASE WHEN n.own THEN NOT n.all_gone
    WHEN n.units IS NULL THEN t.line IS NULL ELSE n.units - n.gone > coalesce(t.took, 0) END),
told AS (
  SELECT "order", bool_or(NOT told) AS unsaid,
` + toldOf("shipped") + `,
` + toldOf("delivered") + `
  FROM piece CROSS JOIN ends e GROUP BY 1)`

// payments are the steps with payments and what each order has of them.
var payments = `-- Payments by then in the order's currency, in the order in which they came, with the sum so far; and what each order has of them.
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
    min(paid) FILTER (WHERE own AND amount IS NOT NULL AND reached AND place > last_short) AS reached,
    min(place) FILTER (WHERE own AND amount IS NOT NULL AND reached AND place > last_short AND worth <> 0) AS reached_place
  FROM (SELECT p.*, max(place) FILTER (WHERE own AND amount IS NOT NULL AND NOT reached) OVER (PARTITION BY "order") IS NULL AS never_short,
      coalesce(max(place) FILTER (WHERE own AND amount IS NOT NULL AND NOT reached) OVER (PARTITION BY "order"), 0) AS last_short
    FROM (SELECT p.*, w.worth, CASE WHEN w.worth > 0 THEN so_far >= w.worth ELSE so_far <= w.worth END AS reached
      FROM payment p JOIN worth w USING ("order")) p) p
  GROUP BY "order")`

// dated is the step with orders and the days that their parts tell.
var dated = `-- Orders with the days that their parts tell; where no part says anything, with their own.
dated AS (
  SELECT o.*, f.form, w.worth, l.lines IS NULL OR t.unsaid AS unsaid,
    f.form = 'other' AND (l.lines IS NULL OR t.unsaid) AND (` + endless("shipped") + ` OR ` + endless("delivered") + `) AS open_ended,
    (coalesce(p.worth, 0) <> 0 AND p.reached IS NULL AND NOT p.unclear) IS TRUE AS part_paid,
` + reachedOn("shipped") + `,
` + reachedOn("delivered") + `,
    least(s.first_shipped, l.first_shipped) AS "told first-shipped", least(s.first_delivered, l.first_delivered) AS "told first-delivered",
    p.first AS "told first-paid",
    CASE WHEN p."order" IS NULL OR coalesce(p.worth, 0) = 0 AND p.last IS NULL THEN o.paid
      WHEN coalesce(p.worth, 0) = 0 THEN p.last
      WHEN p.reached IS NOT NULL THEN p.reached
      WHEN p.unclear THEN o.paid END AS "told paid",
    CASE WHEN l.all_cancelled AND o.cancelled IS NULL THEN coalesce(l.last_cancelled, o.ordered) ELSE o.cancelled END AS "told cancelled"
  FROM recorded o LEFT JOIN form f USING ("order") JOIN worth w USING ("order") LEFT JOIN lines l USING ("order")
  LEFT JOIN shipped s USING ("order") LEFT JOIN waiting n USING ("order") LEFT JOIN told t USING ("order")
  LEFT JOIN paid p USING ("order"))`

// reached are what shipments tell of a goal: whether all that took something have reached it by then, and all that may hold something; and
// the last of each.
func reached(goal string) string {
	return fmt.Sprintf(`    count(*) FILTER (WHERE units > 0 AND before < need AND (%[1]s IS NULL OR %[1]s > e.data_date)) = 0 AS takers_%[1]s,
    max(%[1]s) FILTER (WHERE units > 0 AND before < need) AS taken_%[1]s,
    bool_and((%[1]s <= e.data_date) IS TRUE) FILTER (WHERE holds) AS held_%[1]s, max(%[1]s) FILTER (WHERE holds) AS last_held_%[1]s`, goal)
}

// toldOf are what pieces tell of a goal: whether all have reached it by then, and the last.
func toldOf(goal string) string {
	return fmt.Sprintf(`    bool_and((%[1]s <= e.data_date) IS TRUE) FILTER (WHERE told) AS all_%[1]s, max(%[1]s) FILTER (WHERE told) AS last_%[1]s`, goal)
}

// reachedOn is the day on which all goods of an order reached a goal.
func reachedOn(goal string) string {
	return fmt.Sprintf(`    CASE WHEN s.first_%[1]s IS NULL AND l.first_%[1]s IS NULL THEN o.%[1]s
      WHEN f.form = 'units' THEN CASE WHEN s.takers_%[1]s AND s.units >= l.need THEN s.taken_%[1]s END
      WHEN f.form = 'units of lines' THEN CASE WHEN s.takers_%[1]s AND n.lines = 0 THEN s.taken_%[1]s END
      WHEN t.all_%[1]s IS FALSE THEN NULL
      WHEN l.lines IS NULL OR t.unsaid THEN CASE WHEN s.held_%[1]s THEN greatest(t.last_%[1]s, s.last_held_%[1]s) END
      ELSE t.last_%[1]s
    END AS "told %[1]s"`, goal)
}

// endless says of an order of other forms that shipments reached a goal, and nobody knows whether more follow.
func endless(goal string) string {
	return fmt.Sprintf("(coalesce(s.first_%[1]s, l.first_%[1]s) IS NOT NULL AND t.all_%[1]s IS NOT FALSE AND s.held_%[1]s) IS TRUE", goal)
}

// taken are the steps from shipments to what each takes of each line.
func taken(allLines bool) string {
	forms, named := "'other'", ""
	if allLines {
		forms, named = "'other', 'units'", `
  UNION ALL
  SELECT s."order", n.line, n.gone, s.place, least(s.before + s.units, s.need) - least(s.before, s.need), s.shipped, s.delivered, s.extra, false
  FROM shipment s JOIN form f USING ("order") JOIN line n ON n."order" = s."order" AND n.line = s.line
  WHERE f.form = 'units of lines' AND s.before < s.need`
	}
	free := shared("CASE WHEN s.at IS NULL THEN greatest(0, remaining - kept) WHEN at = s.at THEN remaining ELSE 0 END", `
      SELECT at, remaining, kept, 0::numeric AS took, s.units::numeric AS units
      FROM unnest(p.remaining, p.kept) WITH ORDINALITY AS r (remaining, kept, at)`)
	all := shared("CASE WHEN s.at IS NULL THEN remaining - took ELSE 0 END", free)
	return `-- Lines with what of them is to go, and what of that is kept for shipments that name them: all of it where one of these tells no units; the
-- last such one then takes what the others leave.
line_place AS (
  SELECT n."order", n.line, n.units, n.gone, n.settled, CASE WHEN n.settled THEN 0 ELSE coalesce(n.units - n.gone, 0) END AS remaining,
    row_number() OVER (PARTITION BY n."order" ORDER BY length(n.line), n.line COLLATE "C") AS at,
    CASE WHEN bool_or(s.units IS NULL OR n.units IS NULL) FILTER (WHERE s.line IS NOT NULL) THEN 'Infinity' ELSE coalesce(sum(greatest(s.units, 0)), 0) END AS kept,
    max(s.place) FILTER (WHERE s.units IS NULL OR n.units IS NULL) AS rest,
    bool_or(n.units IS NULL AND NOT n.settled AND count(s.line) = 0) OVER (PARTITION BY n."order") AS some_untold
  FROM line n JOIN form f USING ("order") LEFT JOIN shipment s ON s."order" = n."order" AND s.line = n.line AND NOT n.settled
  WHERE f.form IN (` + forms + `) GROUP BY n."order", n.line, n.units, n.gone, n.settled),

-- Shipments that tell their units, in the order in which they left.
sent AS (
  SELECT s."order", s.shipment, s.units, s.shipped, s.delivered, s.extra, s.place, n.at, row_number() OVER (PARTITION BY s."order" ORDER BY s.place) AS step
  FROM shipment s JOIN form f USING ("order") LEFT JOIN line_place n ON n."order" = s."order" AND n.line = s.line
  WHERE f.form IN (` + forms + `) AND s.units > 0 AND NOT (n.line IS NOT NULL AND (n.settled OR n.units IS NULL))
    AND EXISTS (SELECT FROM line_place l WHERE l."order" = s."order")),

-- Each takes of the line that it names. One that names none takes of all lines in proportion to what is left of them and kept for none;
-- then of all that is left.
share ("order", step, remaining, kept, took) AS (
  SELECT "order", 0::bigint, array_agg(remaining::numeric ORDER BY at), array_agg(kept ORDER BY at), NULL::numeric[]
  FROM line_place WHERE "order" IN (SELECT "order" FROM sent) GROUP BY 1
  UNION ALL
  SELECT p."order", s.step, t.remaining, t.kept, t.took
  FROM share p JOIN sent s ON s."order" = p."order" AND s.step = p.step + 1 CROSS JOIN LATERAL (
    SELECT array_agg(remaining - took ORDER BY at) AS remaining, array_agg(took ORDER BY at) AS took,
      array_agg(kept - CASE WHEN at = s.at THEN s.units ELSE 0 END ORDER BY at) AS kept
    FROM (` + all + `) r) t),

-- What each shipment takes of each line; and what it holds beyond that, unless a line that tells no units may have it. Where it names no
-- line, that is of the first.
told_taken AS (
  SELECT n."order", n.line, n.gone, s.place, x.took, s.shipped, s.delivered, s.extra, x.beyond
  FROM share p JOIN sent s USING ("order", step) CROSS JOIN LATERAL (
    SELECT took, at, false AS beyond FROM unnest(p.took) WITH ORDINALITY AS x (took, at)
    UNION ALL SELECT s.units - (SELECT sum(took) FROM unnest(p.took) AS x (took)), coalesce(s.at, 1), true) x
  JOIN line_place n ON n."order" = s."order" AND n.at = x.at
  WHERE x.took > 0 AND NOT (x.beyond AND s.at IS NULL AND n.some_untold)` + named + `),
-- With the sum so far, and the rests.
taken AS (
  SELECT t.*, sum(took) OVER (PARTITION BY "order", line ORDER BY last, place) AS upto FROM (
    SELECT "order", line, gone, place, took, shipped, delivered, extra, false AS last FROM told_taken WHERE NOT beyond
    UNION ALL
    SELECT n."order", n.line, n.gone, n.rest, n.remaining - coalesce(t.took, 0), s.shipped, s.delivered, s.extra, true
    FROM line_place n JOIN shipment s ON s."order" = n."order" AND s.place = n.rest
    LEFT JOIN (SELECT "order", line, sum(took) AS took FROM told_taken
    WHERE NOT beyond GROUP BY 1, 2) t ON t."order" = n."order" AND t.line = n.line
    WHERE n.remaining > coalesce(t.took, 0) OR n.units IS NULL OR n.units = 0) t),
taken_of AS (SELECT "order", line, sum(took) AS took, bool_or(last) AS rest FROM taken GROUP BY 1, 2)`
}

// shared is one round of sharing: units over lines in proportion to a weight of each, whole ones where all of the weights are
// whole. What is over goes by one unit each to those that lack most of their share, of equals to the first.
func shared(weight, lines string) string {
	return fmt.Sprintf(`
      SELECT at, remaining, kept, took + share AS took, units - sum(share) OVER () AS units FROM (
        SELECT *, whole + CASE
            WHEN row_number() OVER (ORDER BY lacks DESC, at) * unit <= given - sum(whole) OVER () THEN unit ELSE 0 END AS share FROM (
          SELECT *, div(given * weight, "all" * unit) * unit AS whole, mod(given * weight, "all" * unit) AS lacks FROM (
            SELECT *, CASE WHEN bool_and(weight %% 1000 = 0) OVER () AND given %% 1000 = 0 THEN 1000 ELSE 1 END AS unit FROM (
              SELECT *, greatest(sum(weight) OVER (), 1) AS "all", least(units, sum(weight) OVER ()) AS given FROM (
                SELECT *, %s AS weight FROM (%s) r) r) r) r) r) r`, weight, lines)
}
