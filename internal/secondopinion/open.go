package secondopinion

import (
	"cmp"
	"fmt"
	"net/url"
	"strings"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/backlog"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/present"
)

// open writes a question about what was open in a period.
func open(b *book.Book, of *told, words url.Values) (*Statement, error) {
	in := &api.OpenQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	q, b, err := present.OpenQuestion(b, in)
	if err != nil {
		return nil, err
	}
	w, err := newWriter(b, of, q.Question)
	switch {
	case err != nil:
		return nil, err
	case in.Ages || in.At != "":
		return ages(w, q, in)
	case in.Timeline:
		return timeline(w, q)
	}
	columns, sets := w.groupColumns()
	s := &Statement{Tables: []string{"rows"}, Keys: len(w.keys), Parts: len(q.Periods) > 1,
		Codes: []string{"at_start", "opened", "closed", "at_end", "some_time"}}
	names := w.keyNames()
	each := query.NoCut
	if in.Each != "" {
		if each, err = query.ParseCut(in.Each); err != nil {
			return nil, err
		}
		names, sets = names+"step, ", alsoBy(sets, "step")
		s.Keys, s.AllTotals = s.Keys+1, true
	}
	if s.Parts {
		names, sets = "part, "+names, withPart(sets)
	}
	var steps []string
	for _, p := range q.Periods {
		days := day.Through(p.Span.From, min(p.Span.LastDay(), b.Bounds().DataDate))
		if each == query.NoCut {
			steps = append(steps, fmt.Sprintf("(%s, '', %s, %s)", text(p.Text), date(days.From), date(days.LastDay())))
			continue
		}
		steps = append(steps, stepsOf(p.Text, each, days)...)
	}
	s.Text = w.statement(openWords(q.Question), fmt.Sprintf(`-- The orders that meet the condition, with what is known of the leg's two days.
asked AS MATERIALIZED (
  SELECT %s data_date, %s AS begun, %s AS start_on, %s AS end_on, %s AS cancelled_on
  FROM known WHERE (%s)),

-- The days that are asked about, each stretch from the first to the last.
step (part, step, a, b) AS (VALUES %s),

-- Those that have begun, and whose days are in order, with the day on which they closed: at the leg's end, or cancelled before that.
placed AS (
  SELECT *, least(end_on, cancelled_on) AS closed_on FROM asked CROSS JOIN step
  WHERE start_on IS NOT NULL AND end_on >= start_on IS NOT FALSE AND cancelled_on >= start_on IS NOT FALSE)

-- At the start is at the end of the day before.
SELECT %s
  count(*) FILTER (WHERE start_on < a AND (closed_on IS NULL OR closed_on >= a)) AS at_start,
  count(*) FILTER (WHERE start_on BETWEEN a AND b) AS opened,
  count(*) FILTER (WHERE closed_on BETWEEN a AND b) AS closed,
  count(*) FILTER (WHERE start_on <= b AND (closed_on IS NULL OR closed_on > b)) AS at_end,
  count(*) FILTER (WHERE %s) AS some_time
FROM placed GROUP BY GROUPING SETS (%s)`, columns, w.recorded(q.Leg.From.Name), w.known(q.Leg.From.Name), w.known(q.Leg.To.Name),
		w.known(milestone.Cancelled), w.where, strings.Join(steps, ", "), names, sometime(q, "a", "b"), sets))
	return s, nil
}

// sometime says that an order was open on some day from a to b.
func sometime(q backlog.Question, a, b string) string {
	if q.Out {
		return fmt.Sprintf("start_on <= %[2]s AND (closed_on IS NULL OR closed_on > %[1]s AND closed_on > start_on)", a, b)
	}
	return fmt.Sprintf("start_on <= %[2]s AND (closed_on IS NULL OR closed_on >= %[1]s)", a, b)
}

// stepsOf are the steps of some days as rows, each with its part and name, and its first and last day.
func stepsOf(part string, each query.TimeBucket, days day.Span) (rows []string) {
	names, spans := each.Steps(days)
	for i, span := range spans {
		first, last := max(span.From, days.From), min(span.LastDay(), days.LastDay())
		rows = append(rows, fmt.Sprintf("(%s, %s, %s, %s)", text(part), text(cmp.Or(names[i], first.String()+" to "+last.String())), date(first), date(last)))
	}
	return rows
}

// openWords say what was open.
func openWords(q query.Question) string {
	var periods []string
	for _, p := range q.Periods {
		periods = append(periods, p.Text)
	}
	return "What was open, from " + q.Leg.From.Date() + " to " + q.Leg.To.Date() + ", in " + strings.Join(periods, " and ")
}

// ages writes a question about how old what was open at the end of a day was, or at the end of each step of a period.
func ages(w *writer, q backlog.Question, in *api.OpenQuestion) (*Statement, error) {
	limits, err := backlog.ParseBuckets(in.Buckets, q.Measure.Unit)
	if err != nil {
		return nil, err
	}
	days, _ := backlog.Cut(q.Periods[0], w.book.Bounds())
	last := days.LastDay()
	if in.At != "" {
		if last, err = day.Parse(in.At); err != nil {
			return nil, err
		}
	}
	s := &Statement{Tables: []string{"ages"}, Keys: len(w.keys), Codes: []string{"open"}}
	columns, sets := w.groupColumns()
	names, rows := w.keyNames(), []string{fmt.Sprintf("(NULL, NULL, %s)", date(last))}
	figures := []string{"count(length) AS open"}
	for i := range len(limits) + 1 {
		var bounds []string
		if i > 0 {
			bounds = append(bounds, fmt.Sprintf("length > %v", q.Measure.Unit.Number(limits[i-1])))
		}
		if i < len(limits) {
			bounds = append(bounds, fmt.Sprintf("length <= %v", q.Measure.Unit.Number(limits[i])))
		}
		code := fmt.Sprintf("bucket_%d", i)
		s.Codes, figures = append(s.Codes, code), append(figures, fmt.Sprintf("count(*) FILTER (WHERE %s) AS %s", strings.Join(bounds, " AND "), code))
	}
	if in.Each == "" {
		s.Codes = append(s.Codes, "median", "p90", "oldest")
		figures = append(figures, "percentile_cont(0.5) WITHIN GROUP (ORDER BY length) AS median",
			"percentile_cont(0.9) WITHIN GROUP (ORDER BY length) AS p90", "max(length) AS oldest")
	} else {
		each, err := query.ParseCut(in.Each)
		if err != nil {
			return nil, err
		}
		s.Tables, s.Keys, names, sets, rows = []string{"mix"}, 2, "step_from, step_to, ", "(step_from, step_to)", nil
		_, spans := each.Steps(days)
		for _, span := range spans {
			first, last := max(span.From, days.From), min(span.LastDay(), days.LastDay())
			rows = append(rows, fmt.Sprintf("('%v', '%v', %s)", first, last, date(last)))
		}
	}
	aged, err := w.aged(q, columns, `-- Those that had begun by a day, and had not closed: at the leg's end, or cancelled before that.
standing AS (
  SELECT *, day AS end_on, 'complete' AS state FROM asked CROSS JOIN at
  WHERE start_on <= day AND known_end >= start_on IS NOT FALSE AND cancelled_on >= start_on IS NOT FALSE
    AND (least(known_end, cancelled_on) > day) IS NOT FALSE)`)
	if err != nil {
		return nil, err
	}
	s.Text = w.statement(q.AgeSentence(last).String(), fmt.Sprintf(`-- The days at whose end it is asked.
at (step_from, step_to, day) AS (VALUES %s),

%s

-- All of them, by age.
SELECT %s
  %s
FROM aged GROUP BY GROUPING SETS (%s)`, strings.Join(rows, ", "), aged, names, strings.Join(figures, ",\n  "), sets))
	return s, nil
}

// aged are the steps to the relation aged, with how long orders had been open by a day; one of them, between the first and the others,
// makes the relation standing.
func (w *writer) aged(q backlog.Question, columns, standing string) (string, error) {
	length, err := lengthOf(q.Measure, q.Leg)
	return fmt.Sprintf(`-- The orders that meet the condition, with what is known of the leg's two days.
asked AS MATERIALIZED (
  SELECT %s"order", calendar, %s, cut_off, ordered_time, data_date, %s AS start_on, %s AS known_end, %s AS cancelled_on
  FROM known WHERE (%s)),

%s,

-- The day from which the age counts: an order that came at or after the cut-off of its site, or on a day off, counts as one of the next
-- working day.
moved AS (
  SELECT l.*, %s AS counts_from FROM standing l%s),
aged AS (
  SELECT m.*, %s AS length FROM moved m%s)`, columns, w.destination(q.Calendar), w.known(q.Leg.From.Name), w.known(q.Leg.To.Name),
		w.known(milestone.Cancelled), w.where, standing, moved(q.Measure, q.Leg), movedFrom(q.Measure, q.Leg), length,
		calendarDays(q.Measure)), err
}

// timeline writes a question about which orders were open in a period: a row for each.
func timeline(w *writer, q backlog.Question) (*Statement, error) {
	if q.Measure.Unit.Timed() {
		return nil, refused("in", q.Measure.Unit.String(), "the age of an order ends with a day")
	}
	days, _ := backlog.Cut(q.Periods[0], w.book.Bounds())
	first, last := date(days.From), date(days.LastDay())
	aged, err := w.aged(q, "", `-- Those that have begun, and whose days are in order, with the day on which they closed: at the leg's end, or cancelled
-- before that.
standing AS (
  SELECT *, coalesce(closed_on, data_date) AS end_on, 'complete' AS state
  FROM (SELECT *, least(known_end, cancelled_on) AS closed_on FROM asked) a
  WHERE known_end >= start_on IS NOT FALSE AND cancelled_on >= start_on IS NOT FALSE AND `+sometime(q, first, last)+")")
	if err != nil {
		return nil, err
	}
	s := &Statement{Tables: []string{"timeline"}, Keys: 1, Codes: []string{"start", "close", "age", "cancelled", "state"}}
	s.Text = w.statement(openWords(q.Question), aged+fmt.Sprintf(`

-- Each order, with where it stood at both ends of the period.
SELECT "order", start_on, closed_on, length,
  CASE WHEN closed_on = cancelled_on AND (known_end > cancelled_on) IS NOT FALSE THEN 'yes' ELSE 'no' END, CASE
    WHEN start_on < %[1]s AND closed_on <= %[2]s THEN '%[3]s'
    WHEN start_on < %[1]s THEN '%[4]s'
    WHEN closed_on <= %[2]s THEN '%[5]s'
    ELSE '%[6]s' END
FROM aged`, first, last, backlog.CarriedIn, backlog.CarriedThrough, backlog.OpenedAndClosed, backlog.Opened))
	return s, nil
}
