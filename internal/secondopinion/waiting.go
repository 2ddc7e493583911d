package secondopinion

import (
	"fmt"
	"strconv"
	"strings"

	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/promise"
)

// A figure is a column of figures, with its code in the answer.
type figure struct{ code, sql string }

// countIf is how many orders meet a condition.
func countIf(condition string) string { return "count(*) FILTER (WHERE " + condition + ")" }

// percent is how many in 100 of the orders that meet one condition meet another.
func percent(some, all string) string {
	return "100.0 * " + countIf(some) + " / nullif(" + countIf(all) + ", 0)"
}

// over are the figures of a limit: which legs went over it, also of those that still run or were cancelled, and what the shares are
// whatever becomes of those that may still do so.
func (t *tookWriter) over() []figure {
	limit, unit := t.question.Limit, t.question.Measure.Unit
	if limit == nil || unit == leg.Hours { // an order runs up to the start of the data date in the zone of its site
		return nil
	}
	sign := ">"
	if limit.Least {
		sign = ">="
	}
	over := fmt.Sprintf("round(coalesce(length, waited) * %d) %s %d", unit.Ticks(), sign, limit.Ticks)
	beyond := fmt.Sprintf("state <> '%s' AND %s", leg.Cancelled, over)
	within := "length IS NOT NULL AND NOT " + over
	undecided := fmt.Sprintf("state = '%s' AND NOT %s", leg.Running, over)
	decided := fmt.Sprintf("(%s) OR (%s)", beyond, within)
	all := fmt.Sprintf("%s OR (%s)", decided, undecided)
	return []figure{
		{"limit_finished", countIf("length IS NOT NULL AND " + over)},
		{"limit_waiting", countIf(fmt.Sprintf("state = '%s' AND %s", leg.Running, over))},
		{"limit_within", countIf(within)}, {"limit_undecided", countIf(undecided)},
		{"limit_share", percent(beyond, decided)}, {"limit_low", percent(beyond, all)},
		{"limit_high", percent(fmt.Sprintf("(%s) OR (%s)", beyond, undecided), all)},
		{"limit_of", countIf(decided)}, {"limit_cancelled", countIf(fmt.Sprintf("state = '%s' AND %s", leg.Cancelled, over))},
	}
}

// promised are the steps to the relation standing, with how each leg stands towards its promise, and the figures of that.
func (t *tookWriter) promised() (steps []string, figures []figure) {
	asked := t.question.Promise
	if asked == nil || asked.Plan.Name == "" && asked.After > mostAfter {
		return nil, nil
	}
	due := dueDay{planned: asked.Plan.Name != "", after: asked.After, calendar: "counted_by",
		moved: t.question.Leg.From.Name == milestone.Ordered && !t.question.Measure.NoCutOff}
	dueOn, dueFrom := due.sql()
	steps = []string{fmt.Sprintf(`-- The day on which each is due, and where it stands: what was cancelled before it was reached is not due, and
-- what is due on the data date is not overdue.
due AS (
  SELECT l.*, %s AS due_on FROM length l%s),
standing AS (
  SELECT l.*, e.worked - s.worked AS late, CASE
%s
      WHEN due_on >= data_date THEN '%s'
      ELSE '%s' END AS standing
  FROM due l
  LEFT JOIN calendar_days s ON s.calendar = counted_by AND s.day = due_on
  LEFT JOIN calendar_days e ON e.calendar = counted_by AND e.day = reached_on)`, dueOn, dueFrom, decided(), promise.NotDue,
		promise.Overdue)}
	for o := range promise.Outcomes {
		figures = append(figures, figure{"promise_" + o.String(), countIf(fmt.Sprintf("standing = '%s'", o))})
	}
	late := fmt.Sprintf("standing IN ('%s', '%s')", promise.ReachedLate, promise.Overdue)
	of := fmt.Sprintf("standing IN ('%s', '%s', '%s', '%s')", promise.ReachedLate, promise.Overdue, promise.Early, promise.OnTheDay)
	reached := fmt.Sprintf(" FILTER (WHERE standing = '%s')", promise.ReachedLate)
	return steps, append(figures, figure{"promise_asked", "count(*)"}, figure{"promise_late", countIf(late)},
		figure{"promise_late_of", countIf(of)},
		figure{"promise_late_share", percent(late, of)},
		figure{"promise_late_median", "percentile_cont(0.5) WITHIN GROUP (ORDER BY late)" + reached},
		figure{"promise_late_p90", "percentile_cont(0.9) WITHIN GROUP (ORDER BY late)" + reached},
		figure{"promise_late_max", "max(late)" + reached})
}

// estimated are the steps to the relation estimate, with what the product-limit estimate makes of each group: legs that still run, or were
// cancelled, are known to take longer than they have run. And its figures, besides those of the groups themselves.
func (t *tookWriter) estimated(names, sets string, keep []string) (steps []string, figures []figure) {
	by := strings.TrimSuffix(names, ", ")
	window, grouped := "", ""
	if by != "" {
		window, grouped = "PARTITION BY "+by+" ", "\n  GROUP BY "+by
	}
	ticks := t.question.Measure.Unit.Ticks()
	length := func(code, sql string) {
		figures = append(figures, figure{code, fmt.Sprintf("(%s) / %d.0", sql, ticks)})
	}
	length("estimate_with_running", `(array_agg(CASE WHEN beyond > 0.5 - 1e-9 AND next IS NOT NULL THEN (at + next) / 2.0 ELSE at END
      ORDER BY at)
      FILTER (WHERE beyond <= 0.5 + 1e-9))[1]`)
	for _, text := range keep {
		share, _ := strconv.ParseFloat(text, 64) // checked when the question was read
		for _, bound := range [][2]string{{"", "beyond"}, {"_low", "low"}, {"_high", "high"}} {
			length("keep_keep_"+text+bound[0], fmt.Sprintf("min(at) FILTER (WHERE %s <= %v + 1e-9)", bound[1], 1-share/100))
		}
	}
	var columns []string
	for _, f := range figures {
		columns = append(columns, f.sql+" AS "+name(f.code))
	}
	return []string{fmt.Sprintf(`-- How many legs of each group ended at a length, and how many others had run for it. At equal lengths ends come
-- first.
ended AS (
  SELECT %[1]sat, count(length) AS ended, sum(count(*)) OVER (%[2]sORDER BY at DESC) AS at_risk
  FROM (SELECT *, round(coalesce(length, waited) * %[3]d) AS at FROM length) l WHERE at IS NOT NULL
  GROUP BY GROUPING SETS (%[4]s)),

-- The share that takes longer than each length, with Greenwood's variance, and its 95%% bounds on the scale of log(-log).
survival AS (
  SELECT %[1]sat, at_risk > ended AS others, lead(at) OVER point AS next,
    CASE WHEN at_risk > ended
      THEN exp(sum(CASE WHEN at_risk > ended THEN ln((at_risk - ended)::float8 / at_risk) END) OVER point) ELSE 0 END AS beyond,
    sum(CASE WHEN at_risk > ended THEN ended::float8 / (at_risk * (at_risk - ended)) END) OVER point AS variance
  FROM ended WHERE ended > 0 WINDOW point AS (%[2]sORDER BY at)),
curve AS (
  SELECT *, CASE WHEN others THEN power(beyond, exp(1.959963984540054 * sqrt(variance) / abs(ln(beyond)))) END AS low,
    CASE WHEN others THEN power(beyond, exp(-1.959963984540054 * sqrt(variance) / abs(ln(beyond)))) END AS high
  FROM survival),
estimate AS (
  SELECT %[1]s%[5]s
  FROM curve%[6]s)`, names, window, ticks, alsoBy(sets, "at"), strings.Join(columns, ",\n    "), grouped)}, figures
}
