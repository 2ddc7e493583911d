package secondopinion

import (
	"fmt"
	"net/url"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/forecast"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/present"
)

// forecasts writes a question about what became of the forecasts of the ends of months.
func forecasts(b *book.Book, of *told, words url.Values) (*Statement, error) {
	in, q, err := asked(b, words, present.ForecastQuestion)
	if err != nil {
		return nil, err
	}
	if q.Ends == nil {
		return nil, refused("period", in.Period, "no month of it has ended within the records")
	}
	w, err := newWriter(b, of, query.Question{Where: q.Where})
	if err != nil {
		return nil, err
	}
	ends := make([]string, len(q.Ends))
	for i, end := range q.Ends {
		ends[i] = fmt.Sprintf("(%s, %s)", text(end.Month), date(end.Day))
	}
	s := &Statement{Tables: []string{"months"}, Keys: 1}
	outcome := func(of forecast.Outcome) string { return "outcome = '" + string(of) + "'" }
	decided := fmt.Sprintf("outcome IN ('%s', '%s')", forecast.Kept, forecast.Late)
	var figures []string
	for _, f := range []figure{{"open", countIf("outcome <> '" + string(forecast.Unclear) + "'")}, {"kept", countIf(outcome(forecast.Kept))}, {"late", countIf(outcome(forecast.Late))},
		{"share", percent(outcome(forecast.Kept), decided)},
		{"low", wilson(countIf(outcome(forecast.Kept)), countIf(decided), "-")}, {"high", wilson(countIf(outcome(forecast.Kept)), countIf(decided), "+")},
		{"off", "percentile_cont(0.5) WITHIN GROUP (ORDER BY off)"}, {"off_p90", "percentile_cont(0.9) WITHIN GROUP (ORDER BY off)"},
		{"cancelled", countIf(outcome(forecast.Cancelled))}, {"undecided", countIf(outcome(forecast.Undecided))},
		{"none", countIf(outcome(forecast.Untold))}, {"unclear", countIf(outcome(forecast.Unclear))}} {
		s.Codes, figures = append(s.Codes, f.code), append(figures, "  "+f.sql+" AS "+name(f.code))
	}
	s.Text = w.statement(strings.TrimSuffix(q.Sentence().String(), "?"), append(forecastSteps(w, strings.Join(ends, ", ")), outcomes)...) +
		"\n\n-- The figures of each month, and of all.\nSELECT month,\n" + strings.Join(figures, ",\n") +
		"\nFROM outcome GROUP BY GROUPING SETS ((month), ())"
	return s, nil
}

// wilson is an end of the 95% interval of a share, in percent.
func wilson(some, all, sign string) string {
	const z = "1.959963984540054"
	return fmt.Sprintf("100 * (%[1]s + %[3]s ^ 2 / 2 %[4]s %[3]s * sqrt(%[1]s::float8 * (%[2]s - %[1]s) / nullif(%[2]s, 0) + %[3]s ^ 2 / 4)) / (nullif(%[2]s, 0) + %[3]s ^ 2)",
		some, all, z, sign)
}

// forecastSteps are those to the relation told_then, with the forecasts of orders that were open at the ends of months.
func forecastSteps(w *writer, ends string) []string {
	cutOff := leg.Leg{From: milestone.Milestone{Name: milestone.Ordered}}
	return []string{knownThen(w, ends), waitedThen(moved(leg.Measure{Unit: leg.WorkingDays}, cutOff)), curves, remaining, toldThen}
}

// knownThen is the step with what was known of orders at the ends of months.
func knownThen(w *writer, ends string) string {
	return fmt.Sprintf(`-- The ends of months, and what was known then of each order: a day after it was not. Of some orders nobody knows now what was known then:
-- goods were cancelled since, or shipments came since to an order that does not say whether it is complete.
month (month, at) AS (VALUES %[1]s),
since AS (
  SELECT "order", l.on AS cancelled_on, s.on AS shipped_on
  FROM (SELECT "order", max(cancelled_on) AS on FROM line GROUP BY 1) l
  FULL JOIN (SELECT "order", max(shipped) AS on FROM shipment GROUP BY 1) s USING ("order")),
known_then AS (
  SELECT *, CASE WHEN shipped_then <= coalesce(cancelled_then, shipped_then) THEN shipped_then END AS left_on,
    coalesce(CASE WHEN shipped_then <= coalesce(cancelled_then, shipped_then) THEN shipped_then END, cancelled_then) AS closed_on
  FROM (SELECT month, at, "order", data_date, calendar, cut_off, ordered_time, coalesce("field site", '') AS site, coalesce(%[2]s, '') AS place, (%[3]s) IS TRUE AS asked,
      %[4]s AS start_on, %[5]s AS shipped, %[6]s AS cancelled,
      CASE WHEN %[5]s <= at THEN %[5]s END AS shipped_then, CASE WHEN %[6]s <= at THEN %[6]s END AS cancelled_then,
      (at < data_date AND (s.cancelled_on > at OR s.shipped_on > at AND open_ended)) IS TRUE AS unclear
    FROM %[7]s JOIN month ON %[4]s <= at LEFT JOIN since s USING ("order")) k
  WHERE unclear OR (shipped_then < start_on OR cancelled_then < start_on) IS NOT TRUE)`, ends, w.place(), w.where, w.known(milestone.Ordered),
		w.known(milestone.Shipped), w.known(milestone.Cancelled), w.days)
}

// waitedThen is the step with how long orders had taken, or had waited.
func waitedThen(from string) string {
	return fmt.Sprintf(`-- How long each had taken by then, or had waited: in working days, after the cut-off of its site.
counted_from AS MATERIALIZED (
  SELECT l.*, %s AS counts_from FROM known_then l LEFT JOIN calendar_days d ON d.calendar = l.calendar AND d.day = l.start_on
  WHERE NOT unclear),
waited AS (
  SELECT l.*, CASE WHEN coalesce(closed_on, at) <= counts_from THEN 0 ELSE t.worked - s.worked END AS days, s.worked AS worked
  FROM counted_from l LEFT JOIN calendar_days s ON s.calendar = l.calendar AND s.day = counts_from
  LEFT JOIN calendar_days t ON t.calendar = l.calendar AND t.day = coalesce(closed_on, at))`, from)
}

// curves are the steps with the shares of orders that take longer than each length.
var curves = fmt.Sprintf(`-- How many orders of a route, a site and all had shipped at a length by then, and how many others had waited for it.
ended AS (
  SELECT *, sum(orders) OVER (PARTITION BY at, level, site, place ORDER BY days DESC) AS at_risk,
    sum(ended) OVER (PARTITION BY at, level, site, place) AS shipped
  FROM (SELECT at, CASE grouping(site, place) WHEN 0 THEN '%[1]s' WHEN 1 THEN '%[2]s' ELSE '%[3]s' END AS level,
      coalesce(site, '') AS site, coalesce(place, '') AS place, days, count(left_on) AS ended, count(*) AS orders
    FROM waited GROUP BY GROUPING SETS ((at, site, place, days), (at, site, days), (at, days))) l),

-- The share of each that takes longer, where enough have shipped.
curve AS (
  SELECT at, level, site, place, days, CASE WHEN at_risk > ended
    THEN exp(sum(CASE WHEN at_risk > ended THEN ln((at_risk - ended)::float8 / at_risk) END)
      OVER (PARTITION BY at, level, site, place ORDER BY days)) ELSE 0 END AS beyond
  FROM ended WHERE ended > 0 AND shipped >= %[4]d AND (site <> '' OR level = '%[3]s') AND (place <> '' OR level <> '%[1]s'))`,
	forecast.LevelNames[forecast.OfRoute], forecast.LevelNames[forecast.OfSite], forecast.LevelNames[forecast.OfAll], forecast.Enough)

// remaining are the steps with the length by which half of those ship that had waited as long.
var remaining = fmt.Sprintf(`-- The shortest length by which half of those have shipped that had waited as long.
wanted AS (
  SELECT DISTINCT at, level, CASE WHEN level <> '%[3]s' THEN site ELSE '' END AS site, CASE WHEN level = '%[1]s' THEN place ELSE '' END AS place,
    days AS so_far
  FROM waited CROSS JOIN (VALUES ('%[1]s'), ('%[2]s'), ('%[3]s')) AS l (level) WHERE closed_on IS NULL),
left_then AS (
  SELECT at, level, site, place, so_far, coalesce(min(beyond) FILTER (WHERE days <= so_far), 1) AS still
  FROM wanted JOIN curve USING (at, level, site, place) GROUP BY at, level, site, place, so_far),
median AS (
  SELECT at, level, site, place, so_far, min(days) FILTER (WHERE days > so_far AND beyond <= still / 2 + 1e-9) AS length
  FROM left_then JOIN curve USING (at, level, site, place) GROUP BY at, level, site, place, so_far)`,
	forecast.LevelNames[forecast.OfRoute], forecast.LevelNames[forecast.OfSite], forecast.LevelNames[forecast.OfAll])

// toldThen is the step with the forecast of each open order.
var toldThen = fmt.Sprintf(`-- The forecast of each order that was open then: of its route, else of its site, else of all.
told_then AS (
  SELECT w.*, n.day AS forecast, n.worked AS forecast_worked,
    CASE WHEN r.length IS NOT NULL THEN '%[1]s' WHEN s.length IS NOT NULL THEN '%[2]s' ELSE '%[3]s' END AS level
  FROM waited w
  LEFT JOIN median r ON r.at = w.at AND r.level = '%[1]s' AND r.site = w.site AND r.place = w.place AND r.so_far = w.days
  LEFT JOIN median s ON s.at = w.at AND s.level = '%[2]s' AND s.site = w.site AND s.so_far = w.days
  LEFT JOIN median a ON a.at = w.at AND a.level = '%[3]s' AND a.so_far = w.days
  LEFT JOIN calendar_days n ON n.calendar = w.calendar AND n.works AND n.worked = w.worked + coalesce(r.length, s.length, a.length)
  WHERE closed_on IS NULL AND asked)`, forecast.LevelNames[forecast.OfRoute], forecast.LevelNames[forecast.OfSite], forecast.LevelNames[forecast.OfAll])

// outcomes is the step with what became of forecasts.
var outcomes = fmt.Sprintf(`-- What became of each since, and by how many working days an order shipped after its forecast.
outcome AS (
  SELECT month, outcome, CASE WHEN outcome IN ('%[2]s', '%[3]s') THEN h.worked - forecast_worked END AS off
  FROM (SELECT *, CASE
        WHEN forecast IS NULL THEN '%[1]s'
        WHEN shipped <= coalesce(cancelled, shipped) THEN CASE WHEN shipped <= forecast THEN '%[2]s' ELSE '%[3]s' END
        WHEN cancelled IS NOT NULL THEN '%[4]s'
        WHEN forecast < data_date THEN '%[3]s'
        ELSE '%[5]s' END AS outcome
    FROM told_then) f
  LEFT JOIN calendar_days h ON h.calendar = f.calendar AND h.day = f.shipped
  UNION ALL
  SELECT month, '%[6]s', NULL FROM known_then WHERE unclear AND asked)`, forecast.Untold, forecast.Kept, forecast.Late, forecast.Cancelled,
	forecast.Undecided, forecast.Unclear)
