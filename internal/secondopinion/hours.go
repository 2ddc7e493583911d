package secondopinion

import (
	"fmt"
	"slices"

	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
)

// goodsAt tells when all goods of an order, and the first of them, reached a goal: of parts that did on one day the last, and the first,
// where the moment of each of them is known.
func goodsAt(goal string) string {
	return fmt.Sprintf(`
%[1]s_at AS (
  SELECT d."order", CASE WHEN bool_and(p.at IS NOT NULL) THEN max(p.at) END AS at
  FROM dated d JOIN (
    SELECT "order", s.%[1]s AS day, %[2]s AS at FROM shipment s JOIN dated USING ("order")
    WHERE CASE WHEN form = 'other' THEN s.holds AND unsaid ELSE s.units > 0 AND s.before < s.need END
    UNION ALL SELECT "order", g.%[1]s, %[3]s FROM piece g JOIN recorded o USING ("order")
      WHERE told) p ON p."order" = d."order" AND p.day = d."told %[1]s"
  GROUP BY 1),
first_%[1]s_at AS (
  SELECT d."order", CASE WHEN bool_and(p.at IS NOT NULL) THEN min(p.at) END AS at
  FROM dated d JOIN (
    SELECT "order", %[1]s AS day, %[4]s AS at FROM shipment
    UNION ALL SELECT "order", %[1]s, %[5]s FROM line) p ON p."order" = d."order" AND p.day = d."told first-%[1]s"
  GROUP BY 1)`, goal, momentOf("(s.extra ->> '"+goal+"')", "s.zone"), momentOf("g."+goal+"_cell", "o.zone"),
		momentOf("(extra ->> '"+goal+"')", "zone"), momentOf("(extra ->> 'line_"+goal+"')", "zone"))
}

// moments are the steps with the moments at which orders reached what their parts tell.
func moments() string {
	return "-- The moments at which goods left and arrived, and orders were paid and cancelled." + goodsAt("shipped") + "," + goodsAt("delivered") + `,
paid_at AS (
  SELECT d."order", CASE WHEN bool_and(p.at IS NOT NULL) THEN max(p.at) END AS at
  FROM dated d JOIN payment p ON p."order" = d."order" AND p.paid = d."told paid" AND p.own JOIN paid r ON r."order" = d."order"
  WHERE r.reached_place IS NULL OR p.place <= r.reached_place GROUP BY 1),
first_paid_at AS (
  SELECT d."order", CASE WHEN bool_and(p.at IS NOT NULL) THEN min(p.at) END AS at
  FROM dated d JOIN payment p ON p."order" = d."order" AND p.paid = d."told first-paid" AND p.own GROUP BY 1),
cancelled_at AS (
  SELECT "order", CASE WHEN bool_and(at IS NOT NULL) THEN max(at) END AS at
  FROM (SELECT n."order", ` + momentOf("(n.extra ->> 'line_cancelled')", "n.zone") + ` AS at FROM line n JOIN lines l USING ("order")
    WHERE n.gone > 0 AND n.cancelled_on = l.last_cancelled) n GROUP BY 1)`
}

// moment is the step with the moments of the two ends of a leg, as far as the times of day are known; its name ends as it is told.
func (w *writer) moment(l leg.Leg, ending string) string {
	return `-- The moments of both ends.
moment` + ending + ` AS (
  SELECT d."order", ` + w.momentOf(l.From.Name) + " AS from_at, " + w.momentOf(l.To.Name) + ` AS to_at
  FROM dated d LEFT JOIN shipped_at ON shipped_at."order" = d."order" LEFT JOIN first_shipped_at ON first_shipped_at."order" = d."order"
  LEFT JOIN delivered_at ON delivered_at."order" = d."order" LEFT JOIN first_delivered_at ON first_delivered_at."order" = d."order"
  LEFT JOIN paid_at ON paid_at."order" = d."order" LEFT JOIN first_paid_at ON first_paid_at."order" = d."order"
  LEFT JOIN cancelled_at ON cancelled_at."order" = d."order" LEFT JOIN paid ON paid."order" = d."order")`
}

// momentOf is the moment of a milestone; of one with a stand-in, of whichever of the two has a known day.
func (w *writer) momentOf(of string) string {
	if m := w.book.Milestones()[milestone.Index(w.book.Milestones(), of)]; m.Of != "" {
		return fmt.Sprintf(`CASE WHEN (SELECT %s FROM %s k WHERE k."order" = d."order") IS NOT NULL THEN %s ELSE %s END`, w.known(m.Of), w.days, w.momentOf(m.Of), w.momentOf(m.StandIn))
	}
	own := momentOf(fmt.Sprintf("(d.extra ->> %s)", text(of)), "d.zone")
	switch {
	case of == milestone.Shipped, of == milestone.Delivered:
		return fmt.Sprintf(`CASE WHEN d."told first-%[1]s" IS NULL THEN %[2]s ELSE %[1]s_at.at END`, of, own)
	case of == milestone.Paid:
		return fmt.Sprintf(`CASE WHEN paid."order" IS NULL OR paid.reached IS NULL AND (coalesce(paid.worth, 0) <> 0 OR paid.last IS NULL) THEN %s ELSE paid_at.at END`, own)
	case of == milestone.Cancelled:
		return fmt.Sprintf("CASE WHEN d.cancelled IS NULL THEN cancelled_at.at ELSE %s END", own)
	case slices.Contains(ofParts, of):
		return map[string]string{"first-shipped": "first_shipped_at.at", "first-delivered": "first_delivered_at.at", "first-paid": "first_paid_at.at"}[of]
	}
	return own
}
