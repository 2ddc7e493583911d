package secondopinion

import (
	"fmt"
	"net/url"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/status"
	"prairiedusk/internal/core/statuses"
	"prairiedusk/internal/present"
)

// A statusWriter writes what questions about statuses have in common.
type statusWriter struct {
	*writer
	question status.Question
}

// newStatusWriter understands a question about statuses: its words, groups, condition and unit.
func newStatusWriter[In any](b *book.Book, of *told, words url.Values,
	question func(*book.Book, *In) (status.Question, error)) (*statusWriter, error) {
	_, q, err := asked(b, words, question)
	if err != nil {
		return nil, err
	}
	if err := refusedUnit(q.Measure); err != nil {
		return nil, err
	}
	w, err := newWriter(b, of, q.Question)
	return &statusWriter{w, q}, err
}

// statusNames lists the statuses by name, with whether orders end in them, and their spellings.
func statusNames(h *statuses.History) string {
	names, spellings := []string{}, []string{"(NULL::text, NULL::text)"}
	for _, s := range h.Statuses[1:] {
		names = append(names, fmt.Sprintf("(%s, %t)", text(s.Name), s.Final))
		for _, spelling := range s.Spellings {
			spellings = append(spellings, fmt.Sprintf("(%s, %s)", text(spelling), text(s.Name)))
		}
	}
	if len(names) == 0 {
		names = []string{"('', false)"}
	}
	return fmt.Sprintf(`-- The statuses, whether orders end in them, and how else they are spelled.
status_name (status, final) AS (VALUES %s),
spelling (spelling, status) AS (VALUES %s)`, strings.Join(names, ", "), strings.Join(spellings, ", "))
}

// statusCounts say which records of an order count.
var statusCounts = map[statuses.Source]string{statuses.Either: "daily <> has_events", statuses.Events: "NOT daily", statuses.DailyList: "daily"}

// newRun says that a record names another status than the one before.
const newRun = "status IS DISTINCT FROM lag(status) OVER told"

// statusRuns are the steps from status records to unbroken runs of one status.
func statusRuns(breaks, counts string) string {
	return fmt.Sprintf(`-- Status records by then, with the day on the clocks of the site and the moment, as far as they are known.
status_record AS (
  SELECT r."order", coalesce(n.status, r.status) AS status, %s AS day,
    %s AS moment,
    CASE WHEN length(r.at) > 10 AND coalesce(o.zone, '') = '' AND r.at !~ %s THEN substr(r.at, 12)::time END AS clock,
    nullif(r.sequence, '')::bigint AS sequence, r.source = 'daily' AS daily, bool_or(r.source <> 'daily') OVER (PARTITION BY r."order") AS has_events,
    r.load_id, r.place
  FROM status_records r JOIN recorded o USING ("order") LEFT JOIN spelling n ON n.spelling = r.status),

-- Those that count, in their order; one that names another status than the one before begins a status period.
told_records AS (
  SELECT *, row_number() OVER told AS at, (%s)::int AS begins
  FROM status_record CROSS JOIN ends WHERE day <= data_date AND %s
  WINDOW told AS (PARTITION BY "order" ORDER BY day, moment NULLS LAST, clock NULLS LAST, sequence NULLS LAST, load_id, place)),
run AS (SELECT *, sum(begins) OVER (PARTITION BY "order" ORDER BY at) AS run FROM told_records),
run_days AS (
  SELECT "order", run, min(status) AS status, min(day) AS from_on, max(day) AS last_seen, bool_or(daily) AS daily,
    (array_agg(moment ORDER BY at))[1] AS from_at
  FROM run GROUP BY 1, 2)`,
		dayOf("r.at", "o.zone"), momentOf("r.at", "o.zone"), offset, breaks, counts)
}

// periods are the steps from status records to status periods, with the orders that are asked about.
func (w *statusWriter) periods(columns string) []string {
	breaks := newRun
	periods := `-- Status periods.
status_period AS (SELECT "order", status, from_on, last_seen, next_from AS until, from_at, next_at AS until_at, final, run AS place FROM next_run)`
	if gap := w.question.MaxGap; gap > 0 {
		breaks += fmt.Sprintf(" OR daily AND day - lag(day) OVER told > %d", gap)
		periods = fmt.Sprintf(`-- A silence of more days ends a status period of the daily list; at its tail only where the order has not come to its end.
silent_run AS (
  SELECT *, daily AND CASE WHEN next_from IS NULL THEN data_date - last_seen > %[1]d AND NOT final
    ELSE next_from - last_seen > %[1]d END AS silent
  FROM next_run),

-- Status periods, and between them the silences.
status_period AS (
  SELECT "order", status, from_on, last_seen, CASE WHEN silent THEN last_seen + 1 ELSE next_from END AS until,
    from_at, CASE WHEN NOT silent THEN next_at END AS until_at, final, 2 * run AS place FROM silent_run
  UNION ALL SELECT "order", 'not seen', last_seen + 1, coalesce(next_from, data_date + 1) - 1, next_from, NULL, next_at, false, 2 * run + 1 FROM silent_run WHERE silent)`, gap)
	}
	return []string{fmt.Sprintf(`-- The orders that meet the condition.
asked AS MATERIALIZED (
  SELECT %s"order", calendar, %s FROM known WHERE %s)`, columns, w.destination(w.question.Calendar), w.where), statusNames(w.question.History(w.book)), statusRuns(breaks, statusCounts[w.question.Source]), `-- Each with the next.
next_run AS (
  SELECT r.*, lead(from_on) OVER own AS next_from, lead(from_at) OVER own AS next_at,
    coalesce(n.final, false) AS final, data_date
  FROM run_days r CROSS JOIN ends LEFT JOIN status_name n USING (status) WINDOW own AS (PARTITION BY "order" ORDER BY run))`, periods}
}

// length is that from one day to another, both columns.
func (w *statusWriter) length(from, to string) (length, calendarDays string) {
	switch w.question.Measure.Unit {
	case leg.WorkingDays:
		return "t.worked - s.worked", fmt.Sprintf("\n  LEFT JOIN calendar_days s ON s.calendar = counted_by AND s.day = %s\n  LEFT JOIN calendar_days t ON t.calendar = counted_by AND t.day = %s", from, to)
	case leg.Weeks:
		return fmt.Sprintf("(%s - %s) / 7.0", to, from), ""
	case leg.Hours:
		if to == "day_at" {
			return "NULL::numeric", "" // the end of a day is no moment
		}
		return "extract(epoch FROM until_at - from_at) / 3600", ""
	}
	return fmt.Sprintf("%s - %s", to, from), ""
}

// lengthFigures are the figures of lengths.
const lengthFigures = `avg(length) AS mean, percentile_cont(0.5) WITHIN GROUP (ORDER BY length) AS median,
  percentile_cont(0.9) WITHIN GROUP (ORDER BY length) AS p90, max(length) AS longest`

// lengthCodes are the columns of the answer that they fill.
var lengthCodes = []string{"mean", "median", "p90", "longest"}

// statusLatest writes where orders stand at the end of a day.
func statusLatest(b *book.Book, of *told, words url.Values) (*Statement, error) {
	w, err := newStatusWriter(b, of, words, present.LatestQuestion)
	if err != nil {
		return nil, err
	}
	q := w.question
	columns, _ := w.groupColumns()
	length, days := w.length("from_on", "day_at")
	steps := append(w.periods(columns), fmt.Sprintf(`-- Where each order stood at the end of the day, and for how long by then; one that is at its end has no length.
held AS (
  SELECT DISTINCT ON ("order") * FROM status_period WHERE from_on <= %[1]s ORDER BY "order", place DESC),
stood AS (
  SELECT a.*, h.status, CASE WHEN NOT h.final THEN %[2]s END AS length, h.final
  FROM asked a CROSS JOIN (SELECT %[1]s AS day_at) d LEFT JOIN held h USING ("order")%[3]s)`, date(q.At), length, days))
	if len(w.keys) > 0 {
		s := &Statement{Tables: []string{"groups"}, Keys: 1, Long: true}
		s.Text = w.statement(q.Sentence(status.AskLatest).String(), append(steps, `-- Each group and status, and the totals.
cells AS (SELECT key1, CASE WHEN grouping(status) = 1 THEN 'all' ELSE coalesce(status, 'none') END AS "column", count(*) AS orders
  FROM stood GROUP BY GROUPING SETS ((key1, status), (key1), (status), ()))`)...) + "\n\nSELECT '', 'groups', key1, \"column\", orders FROM cells"
		return s, nil
	}
	s := &Statement{Tables: []string{"statuses"}, Keys: 1, Codes: append([]string{"orders", "running"}, lengthCodes...)}
	s.Text = w.statement(q.Sentence(status.AskLatest).String(), steps...) + fmt.Sprintf(`

-- Each status, those without one, and all.
SELECT coalesce(status, 'no status') AS status, count(*) AS orders, CASE WHEN status IS NOT NULL THEN count(*) FILTER (WHERE NOT final) END AS running,
  %s
FROM stood GROUP BY status
UNION ALL SELECT NULL, count(*), NULL, NULL, NULL, NULL, NULL FROM stood`, lengthFigures)
	return s, nil
}

// began says that a status period begins in the period of the question.
func (w *statusWriter) began() string {
	if p := w.question.Periods[0]; !p.Unbounded() {
		return fmt.Sprintf("from_on BETWEEN %s AND %s", date(p.Span.From), date(p.Span.LastDay()))
	}
	return "true"
}

// statusTimes writes how long orders were in each status.
func statusTimes(b *book.Book, of *told, words url.Values) (*Statement, error) {
	w, err := newStatusWriter(b, of, words, present.TimesQuestion)
	if err != nil {
		return nil, err
	}
	q := w.question
	columns, _ := w.groupColumns()
	length, days := w.length("from_on", "coalesce(until, data_date)")
	keys, sets, from := "", "(status)", "measured FULL JOIN status_name USING (status)"
	step := ""
	if q.Each != query.NoCut {
		format, _ := stepFormat(q.Each)
		step = fmt.Sprintf("to_char(from_on, '%s') AS key1, ", format)
	}
	named := 1
	if len(w.keys) > 0 || step != "" {
		named, keys, sets, from = 2, "key1, ", "(key1, status), (status)", "measured"
	}
	picked, relation, err := w.picked()
	if err != nil {
		return nil, err
	}
	from = strings.Replace(from, "measured", relation, 1)
	s := &Statement{Tables: []string{"times"}, Keys: named, AllTotals: true,
		Codes: append(append([]string{"periods", "orders", "running"}, lengthCodes...), "order_days", "share")}
	s.Text = w.statement(q.Sentence(status.AskTimes).String(), append(w.periods(columns), fmt.Sprintf(`-- The status periods that began in the period, with their lengths; one at which an order ended has none.
measured AS (
  SELECT %sa.*, p.status, from_on, until, until IS NULL AND NOT final AS running,
    CASE WHEN until IS NOT NULL OR NOT final THEN %s END AS length
  FROM asked a JOIN status_period p USING ("order") CROSS JOIN ends%s WHERE %s)%s`, step, length, days, w.began(), picked))...) + fmt.Sprintf(`

-- The figures of each status, and its share of all time.
SELECT %[1]sstatus, count("order") AS periods, count(DISTINCT "order") AS orders, count(*) FILTER (WHERE running) AS running,
  %[2]s,
  coalesce(sum(length), 0) AS order_days, 100.0 * coalesce(sum(length), 0) / nullif(sum(sum(length)) OVER (PARTITION BY %[3]s), 0) AS share
FROM %[5]s GROUP BY GROUPING SETS (%[4]s)`, keys, lengthFigures, strings.TrimSuffix(keys+"grouping(status), ", ", "), sets, from)
	return s, nil
}

// picked is the step with the status periods that meet the condition on them, and the relation with those that count; measured without one.
func (w *statusWriter) picked() (step, relation string, err error) {
	if w.question.Picks.Condition == nil {
		return "", "measured", nil
	}
	w.partsAlone, w.parts = true, map[string]partColumn{"status": {`status COLLATE "C"`, false}, "from": {"from_on", true}, "until": {"until", true},
		"length": {"length", false}}
	meets, err := w.condition(w.question.Picks.Condition)
	return fmt.Sprintf(",\n\n-- Those of them that meet the condition.\npicked AS (SELECT * FROM measured WHERE %s)", meets), "picked", err
}

// statusPeriods writes the status periods of orders, one by one.
func statusPeriods(b *book.Book, of *told, words url.Values) (*Statement, error) {
	w, err := newStatusWriter(b, of, words, present.PeriodsQuestion)
	if err != nil {
		return nil, err
	}
	q, which := w.question, "true"
	if only := words.Get("status"); only != "" {
		which = "status = " + text(only)
	}
	length, days := w.length("from_on", "coalesce(until, data_date)")
	picked, relation, err := w.picked()
	if err != nil {
		return nil, err
	}
	s := &Statement{Tables: []string{"periods"}, Keys: 2, Codes: []string{"status", "from", "last_seen", "until", "length"}}
	s.Text = w.statement(q.Sentence(status.AskPeriods).String(), append(w.periods(""), fmt.Sprintf(`-- The status periods that began in the period, with their lengths; one at which an order ended has none.
measured AS (
  SELECT p.*, CASE WHEN until IS NOT NULL OR NOT final THEN %s END AS length
  FROM asked JOIN (SELECT *, row_number() OVER (PARTITION BY "order" ORDER BY place) AS sequence FROM status_period) p USING ("order") CROSS JOIN ends%s
  WHERE %s AND %s)%s`, length, days, w.began(), which, picked))...) + fmt.Sprintf(`

-- Each of them.
SELECT "order", sequence, status, from_on AS "from", last_seen, until, length FROM %s ORDER BY "order", sequence`, relation)
	return s, nil
}

// statusTransitions writes from which status to which orders went.
func statusTransitions(b *book.Book, of *told, words url.Values) (*Statement, error) {
	w, err := newStatusWriter(b, of, words, present.TransitionsQuestion)
	if err != nil {
		return nil, err
	}
	q := w.question
	length, days := w.length("from_on", "until")
	s := &Statement{Tables: []string{"transitions"}, Keys: 2, Codes: append([]string{"transitions", "orders"}, lengthCodes...)}
	s.Text = w.statement(q.Sentence(status.AskTransitions).String(), append(w.periods(""), fmt.Sprintf(`-- Each status period with the one that follows it; a silence makes no transition.
followed AS (
  SELECT *, lead(status) OVER (PARTITION BY "order" ORDER BY place) AS next FROM status_period),
went AS (
  SELECT a."order", status, next, %s AS length
  FROM asked a JOIN followed USING ("order")%s WHERE next <> 'not seen' AND status <> 'not seen' AND %s)`, length, days, w.began()))...) + fmt.Sprintf(`

-- Each transition, and how long the status period before it was.
SELECT status AS "from", next AS "to", count(*) AS transitions, count(DISTINCT "order") AS orders,
  %s
FROM went GROUP BY status, next`, lengthFigures)
	return s, nil
}
