// Package secondopinion writes a question as one statement of SQL over the record tables, so that PostgreSQL answers it by rules that
// share no code with the core: only the question itself, as it was understood, comes from there. What a statement does not follow, it
// refuses.
package secondopinion

import (
	"cmp"
	"fmt"
	"net/url"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/params"
	"prairiedusk/internal/present"
)

// A Statement is a question as SQL.
type Statement struct {
	Text  string   // what to run
	Check string   // gives the number of an order whose parts the statement does not follow, or no row
	Table string   // code of the table of the answer that it gives
	Keys  int      // how many columns name a row; those of the total are null
	Codes []string // of the columns of the table, in the order of the statement's further columns
	Long  bool     // its rows have the title of a part, the key of a row, the code of a column, and the figure
	// Parts says that its rows begin with the title of a part of the answer, as those of a long one do.
	Parts bool
	// AllTotals says that it gives each row of totals of the answer, with null for the keys that are summed; else only the last.
	AllTotals bool
}

// refused says that no statement is written for a question.
func refused(word, value, why string) error {
	return request.Invalid(word, value, "there is no SQL for this yet: "+why)
}

// Of writes the statement of a question. The error is a *request.Error.
func Of(b *book.Book, question answer.Address) (*Statement, error) {
	analysis, words, err := present.Words(question)
	if err != nil {
		return nil, err
	}
	switch analysis {
	case "took":
		return took(b, words)
	case "open":
		return open(b, words)
	case "immediate":
		return immediate(b, words)
	case "crosstab":
		return countCrosstab(b, words)
	case "compare":
		return countCompare(b, words)
	case "due":
		return dueOrders(b, words)
	case "status-latest":
		return statusLatest(b, words)
	case "status-times":
		return statusTimes(b, words)
	case "status-transitions":
		return statusTransitions(b, words)
	}
	return nil, refused("question", analysis, "took --by place, or by country or region, has the same figures, and is written as SQL")
}

// read understands the words of a question.
func read(in any, words url.Values) error {
	if _, err := params.Parse(in, words); err != nil {
		return request.Invalid("question", words.Encode(), err.Error())
	}
	return nil
}

// A writer writes the parts that statements have in common.
type writer struct {
	book  *book.Book
	keys  []string // expressions of the groups
	where string   // of the condition; true without one
	// parts are the columns of what a condition on parts is decided about; nil for one on orders.
	parts map[string]partColumn
}

// A partColumn is a column of a part as SQL.
type partColumn struct {
	sql   string
	isDay bool
}

// writer understands the groups and the condition of a question.
func newWriter(b *book.Book, q query.Question) (*writer, error) {
	w := &writer{book: b, where: "true"}
	for _, g := range q.By {
		key, err := w.key(q, g)
		if err != nil {
			return nil, err
		}
		w.keys = append(w.keys, key)
	}
	if q.Where.Condition != nil {
		var err error
		if w.where, err = w.condition(q.Where.Condition); err != nil {
			return nil, err
		}
	}
	return w, nil
}

// key is the group of an order.
func (w *writer) key(q query.Question, g query.Grouping) (string, error) {
	return w.keyOn(w.known(q.Stepped().Name), g, "by")
}

// keyOn is the group of an order, whose steps of time are those of a column of days unless the grouping names a date; word is the
// parameter.
func (w *writer) keyOn(day string, g query.Grouping, word string) (string, error) {
	if g.Cut != query.NoCut {
		if g.Of != "" {
			day = w.known(g.Of)
		}
		format, known := stepFormat(g.Cut)
		if !known {
			return "", refused(word, g.String(), "steps that come round are not cut")
		}
		return fmt.Sprintf("coalesce(to_char(%s, '%s'), '')", day, format), nil
	}
	field := w.book.FieldName(g.Field)
	if g.Column > 0 || !slices.Contains(fields(w.book), field) || field == book.FieldNames()[book.Place] {
		return "", refused(word, g.String(), "want a field of the orders themselves, or a step of time")
	}
	return fmt.Sprintf("coalesce(%s, '')", name("field "+field)), nil
}

// stepFormat is how the step of a day is named; false for steps that come round.
func stepFormat(c query.TimeBucket) (format string, known bool) {
	format, known = map[query.TimeBucket]string{query.Day: "YYYY-MM-DD", query.Week: `IYYY-"W"IW`, query.Month: "YYYY-MM",
		query.Quarter: `YYYY-"Q"Q`, query.Year: "YYYY"}[c]
	return format, known
}

// recorded is the day of a milestone as recorded.
func (w *writer) recorded(of string) string { return w.column(of, "recorded ") }

// known is the day of a milestone as known at the data date.
func (w *writer) known(of string) string { return w.column(of, "") }

// column is that of a milestone; of one with a stand-in, whichever of the two is there.
func (w *writer) column(of, prefix string) string {
	if m := w.book.Milestones()[milestone.Index(w.book.Milestones(), of)]; m.Of != "" {
		return fmt.Sprintf("coalesce(%s, %s)", w.column(m.Of, prefix), w.column(m.StandIn, prefix))
	}
	return name(prefix + of)
}

// within says that a day lies in a period.
func (w *writer) within(of string, p period.Period) string {
	if p.Unbounded() {
		return "true"
	}
	return w.between(of, p.Span)
}

// between says that a day lies in a span.
func (w *writer) between(of string, s day.Span) string {
	return fmt.Sprintf("(%s BETWEEN %s AND %s) IS TRUE", w.known(of), date(s.From), date(s.LastDay()))
}

// state is that of a leg: start and end are columns with what is known of its two days, begun is the start as recorded.
func state(l leg.Leg) string {
	way := "'" + leg.EndBeforeStart.String() + "'"
	if l.TwoWay() {
		way = "'" + leg.Negative.String() + "'"
	}
	missing := fmt.Sprintf(`WHEN cancelled_on IS NULL AND start_on > data_date THEN '%s'
      WHEN cancelled_on IS NULL THEN '%s'
      WHEN cancelled_on >= start_on THEN '%s'
      ELSE '%s'`, leg.NotYetBegun, leg.Running, leg.Cancelled, leg.CancelledBeforeStart)
	if l.To.Plan {
		missing = "ELSE '" + leg.NoEnd.String() + "'"
	}
	return fmt.Sprintf(`CASE
      WHEN start_on IS NULL AND begun IS NOT NULL THEN '%s'
      WHEN start_on IS NULL THEN '%s'
      WHEN end_on >= start_on THEN '%s'
      WHEN end_on IS NOT NULL THEN %s
      %s END`, leg.NotYetBegun, leg.NoStart, leg.Complete, way, missing)
}

// statement puts the steps together.
func (w *writer) statement(asked string, steps ...string) string {
	return "-- " + asked + "\nWITH RECURSIVE\n" + strings.Join(append([]string{dates(w.book)}, steps...), ",\n\n")
}

// uncovered gives an order whose parts no statement follows.
func (w *writer) uncovered() string {
	return "WITH\n" + dates(w.book) + "\nSELECT \"order\" FROM known WHERE form = 'other' ORDER BY id LIMIT 1"
}

// groupColumns are the keys as columns, and the sets of groups that are wanted: each, and all.
func (w *writer) groupColumns() (columns, sets string) {
	var named []string
	for i, key := range w.keys {
		columns += fmt.Sprintf("%s AS key%d, ", key, i+1)
		named = append(named, fmt.Sprintf("key%d", i+1))
	}
	if named == nil {
		return "", "()"
	}
	return columns, "(" + strings.Join(named, ", ") + "), ()"
}

// keyNames are the columns of the keys, for a last step.
func (w *writer) keyNames() string {
	words := ""
	for i := range w.keys {
		words += fmt.Sprintf("key%d, ", i+1)
	}
	return words
}

// took writes a question about lengths.
func took(b *book.Book, words url.Values) (*Statement, error) {
	in := &api.TookQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	q, b, err := present.TookQuestion(b, in)
	if err != nil {
		return nil, err
	}
	switch {
	case len(q.Through) > 0:
		return nil, refused("through", strings.Join(in.Through, ","), "want one leg")
	case q.Measure.Unit == leg.WorkingHours:
		return nil, refused("in", q.Measure.Unit.String(), "the clocks of calendars are not written as SQL")
	case q.Measure.Unit == leg.Hours && (q.Leg.From.Name == milestone.Cancelled || q.Leg.To.Name == milestone.Cancelled):
		return nil, refused("in", q.Measure.Unit.String(), "when an order was cancelled is not written as SQL")
	}
	w, err := newWriter(b, q.Question)
	if err != nil {
		return nil, err
	}
	length, err := lengthOf(q.Measure, q.Leg)
	if err != nil {
		return nil, err
	}
	s := &Statement{Check: w.uncovered(), Table: "groups", Keys: len(w.keys)}
	columns, sets := w.groupColumns()
	orders, within, names := "known", w.within(q.Basis.Name, q.Periods[0]), w.keyNames()
	if len(q.Periods) > 1 { // each is a part by itself
		rows := make([]string, len(q.Periods))
		for i, p := range q.Periods {
			rows[i] = fmt.Sprintf("(%s, %s, %s)", text(p.Text), date(p.Span.From), date(p.Span.LastDay()))
		}
		orders = fmt.Sprintf("known JOIN (VALUES %s) AS period (part, a, b) ON %s BETWEEN a AND b", strings.Join(rows, ", "), w.known(q.Basis.Name))
		within, columns, names, s.Parts = "true", "part, "+columns, "part, "+names, true
		sets = "(" + strings.TrimSuffix(names, ", ") + "), (part)"
		if len(w.keys) == 0 {
			sets = "(part)"
		}
	}
	state, moments, from := state(q.Leg), []string(nil), "asked"
	if q.Measure.Unit == leg.Hours {
		moments, from = []string{w.moments(q.Leg)}, `asked LEFT JOIN moment USING ("order")`
		state = fmt.Sprintf("CASE WHEN from_at IS NULL OR to_at IS NULL THEN replace(replace(%[1]s, '%[2]s', '%[4]s'), '%[3]s', '%[4]s') ELSE %[1]s END",
			state, leg.Complete, leg.Negative, leg.NoTime)
	}
	var figures []string
	add := func(code, sql string) {
		s.Codes, figures = append(s.Codes, code), append(figures, "  "+sql+" AS "+name(code))
	}
	add("asked", "count(*)")
	add("n", "count(length)")
	for _, statistic := range q.Show {
		sql, err := statisticOf(statistic)
		if err != nil {
			return nil, err
		}
		add(statistic.String(), sql)
	}
	for state := leg.Running; state <= leg.NoTime; state++ {
		if state == leg.NoTime && q.Measure.Unit != leg.Hours {
			continue
		}
		add(state.String(), fmt.Sprintf("count(*) FILTER (WHERE state = '%s')", state))
	}
	s.Text = w.statement(q.Sentence().String(), append(moments,
		fmt.Sprintf(`-- The orders that are asked about, with what is known of the leg's two days.
asked AS (
  SELECT %s"order", calendar, %s, cut_off, ordered_time, data_date, %s AS begun, %s AS start_on, %s AS end_on, %s AS cancelled_on
  FROM %s
  WHERE %s AND (%s)),

-- The state of the leg, by its days as they are.
leg AS (
  SELECT *, %s AS state FROM %s),

-- The day from which the length counts: an order that came at or after the cut-off of its site, or on a day off, counts as one of the next
-- working day.
moved AS (
  SELECT l.*, %s AS counts_from FROM leg l%s),

-- The length of each leg whose two days are known, in order.
length AS (
  SELECT m.*, CASE WHEN state IN ('%s', '%s') THEN %s END AS length
  FROM moved m%s)`, columns, w.destination(q.Calendar), w.recorded(q.Leg.From.Name), w.known(q.Leg.From.Name), w.known(q.Leg.To.Name),
			w.known(milestone.Cancelled), orders, within, w.where, state, from, moved(q.Measure, q.Leg),
			movedFrom(q.Measure, q.Leg), leg.Complete, leg.Negative, length, calendarDays(q.Measure)))...) +
		fmt.Sprintf("\n\n-- The figures of each group, and of all.\nSELECT %s\n%s\nFROM length GROUP BY GROUPING SETS (%s)",
			names, strings.Join(figures, ",\n"), sets)
	return s, nil
}

// destination is the calendar that counts, as a column: that of the site, or of where the order goes.
func (w *writer) destination(of book.CalendarSource) string {
	if of == book.AtSite {
		return "calendar AS counted_by"
	}
	return fmt.Sprintf(`coalesce((
      SELECT c.calendar FROM unnest(ARRAY["field place", coalesce(CASE WHEN "field place" IS NOT NULL THEN "field region" END, (SELECT CASE WHEN count(DISTINCT p.region) = 1 THEN min(p.region) END FROM places p
          WHERE p.place = "field place" AND p.country = coalesce("field country", ''))), "field country"]) WITH ORDINALITY AS n (name, place)
      JOIN (SELECT DISTINCT calendar FROM calendar_days) c ON lower(c.calendar) = lower(n.name)
      ORDER BY n.place LIMIT 1), %s) AS counted_by`, text(w.book.Calendars().All()[0].Name()))
}

// moves says that the measure counts starts as cut-offs move them.
func moves(m leg.Measure, l leg.Leg) bool {
	return m.Unit == leg.WorkingDays && !m.NoCutOff && l.From.Base() == milestone.Ordered && l.From.Of == ""
}

func moved(m leg.Measure, l leg.Leg) string {
	if !moves(m, l) {
		return "start_on"
	}
	return `CASE WHEN cut_off IS NOT NULL AND (NOT d.works OR ordered_time >= cut_off)
      THEN (SELECT n.day FROM calendar_days n WHERE n.calendar = l.calendar AND n.day > start_on AND n.works ORDER BY n.day LIMIT 1) ELSE start_on END`
}

func movedFrom(m leg.Measure, l leg.Leg) string {
	if !moves(m, l) {
		return ""
	}
	return "\n  LEFT JOIN calendar_days d ON d.calendar = l.calendar AND d.day = l.start_on"
}

// calendarDays are the running counts of working days at both ends of a leg.
func calendarDays(m leg.Measure) string {
	if m.Unit != leg.WorkingDays {
		return ""
	}
	return "\n  LEFT JOIN calendar_days s ON s.calendar = counted_by AND s.day = counts_from\n  LEFT JOIN calendar_days t ON t.calendar = counted_by AND t.day = end_on"
}

// lengthOf is the length of a leg in a unit, by a count rule.
func lengthOf(m leg.Measure, l leg.Leg) (string, error) {
	both := m.Rule == leg.BothEnds
	// An end before the start is the length back, as a negative number.
	either := func(length func(from, to string) string) string {
		if !l.TwoWay() {
			return length("counts_from", "end_on")
		}
		return fmt.Sprintf("CASE WHEN end_on >= counts_from THEN %s ELSE -(%s) END", length("counts_from", "end_on"), length("end_on", "counts_from"))
	}
	switch m.Unit {
	case leg.Days, leg.Weeks:
		days := either(func(from, to string) string {
			if both {
				return fmt.Sprintf("%s - %s + 1", to, from)
			}
			return fmt.Sprintf("%s - %s", to, from)
		})
		if m.Unit == leg.Weeks {
			return fmt.Sprintf("(%s) / 7.0", days), nil
		}
		return days, nil
	case leg.WorkingDays:
		if both {
			return "CASE WHEN counts_from > end_on AND state = 'complete' THEN 0 WHEN end_on >= counts_from THEN t.worked - s.worked + s.works::int " +
				"ELSE -(s.worked - t.worked + t.works::int) END", nil
		}
		return "CASE WHEN counts_from > end_on AND state = 'complete' THEN 0 ELSE t.worked - s.worked END", nil
	case leg.Months, leg.Years:
		return either(func(from, to string) string {
			crossed := fmt.Sprintf("((extract(year FROM %[2]s) - extract(year FROM %[1]s)) * 12 + extract(month FROM %[2]s) - extract(month FROM %[1]s))::int", from, to)
			whole := fmt.Sprintf("(%[3]s - (%[1]s + make_interval(months => %[3]s) > %[2]s)::int)", from, to, crossed)
			if m.Unit == leg.Years {
				return "div(" + whole + ", 12)"
			}
			return whole
		}), nil
	case leg.MonthsFraction:
		return either(func(from, to string) string {
			crossed := fmt.Sprintf("((extract(year FROM %[2]s) - extract(year FROM %[1]s)) * 12 + extract(month FROM %[2]s) - extract(month FROM %[1]s))::int", from, to)
			whole := fmt.Sprintf("(%[3]s - (%[1]s + make_interval(months => %[3]s) > %[2]s)::int)", from, to, crossed)
			at := fmt.Sprintf("(%s + make_interval(months => %s))::date", from, whole)
			next := fmt.Sprintf("(%s + make_interval(months => %s + 1))::date", from, whole)
			return fmt.Sprintf("%s + (%s - %s)::numeric / (%s - %s)", whole, to, at, next, at)
		}), nil
	case leg.Hours:
		return "extract(epoch FROM to_at - from_at) / 3600", nil
	case leg.MonthsCrossed:
		return "(extract(year FROM end_on) - extract(year FROM counts_from)) * 12 + extract(month FROM end_on) - extract(month FROM counts_from)", nil
	case leg.YearsCrossed:
		return "extract(year FROM end_on) - extract(year FROM counts_from)", nil
	}
	return "", refused("in", m.Unit.String(), "this unit is not written as SQL")
}

// statisticOf is a statistic of lengths.
func statisticOf(s distribution.Statistic) (string, error) {
	switch text := s.String(); text {
	case "mean":
		return "avg(length)", nil
	case "median":
		return "percentile_cont(0.5) WITHIN GROUP (ORDER BY length)", nil
	case "min", "max":
		return text + "(length)", nil
	case "standard-deviation":
		return "stddev_samp(length)", nil
	default:
		var percent float64
		if _, err := fmt.Sscanf(text, "p%g", &percent); err == nil {
			return fmt.Sprintf("percentile_cont(%g) WITHIN GROUP (ORDER BY length)", percent/100), nil
		}
		return "", refused("show", text, "this statistic is not written as SQL")
	}
}

// open writes a question about what was open in a period.
func open(b *book.Book, words url.Values) (*Statement, error) {
	in := &api.OpenQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	q, b, err := present.OpenQuestion(b, in)
	if err != nil {
		return nil, err
	}
	if in.Ages || in.At != "" || in.Timeline || len(q.Periods) != 1 || in.Each != "" && len(q.By) > 1 {
		return nil, refused("period", in.Period, "want one period, as a whole or by at most one grouping in each of its steps")
	}
	w, err := newWriter(b, q.Question)
	if err != nil {
		return nil, err
	}
	p := q.Periods[0]
	days := day.Through(p.Span.From, min(p.Span.LastDay(), b.Bounds().DataDate))
	sometime := "start_on <= b AND (closed_on IS NULL OR closed_on >= a)"
	if q.Out {
		sometime = "start_on <= b AND (closed_on IS NULL OR closed_on > a AND closed_on > start_on)"
	}
	columns, sets := w.groupColumns()
	s := &Statement{Check: w.uncovered(), Table: "rows", Keys: len(w.keys), Codes: []string{"at_start", "opened", "closed", "at_end", "some_time"}}
	names := w.keyNames()
	steps := fmt.Sprintf("('', %s, %s)", date(days.From), date(days.LastDay()))
	if in.Each != "" {
		each, err := query.ParseCut(in.Each)
		if err != nil {
			return nil, err
		}
		steps, names, sets = stepsOf(each, days), names+"step, ", "("+names+"step)"
		if len(w.keys) > 0 {
			sets += ", (step)"
		}
		s.Keys, s.AllTotals = s.Keys+1, true
	}
	s.Text = w.statement(openWords(q.Question), fmt.Sprintf(`-- The orders that meet the condition, with what is known of the leg's two days.
asked AS (
  SELECT %s data_date, %s AS begun, %s AS start_on, %s AS end_on, %s AS cancelled_on
  FROM known WHERE (%s)),

-- The days that are asked about, each stretch from the first to the last.
step (step, a, b) AS (VALUES %s),

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
		w.known(milestone.Cancelled), w.where, steps, names, sometime, sets))
	return s, nil
}

// stepsOf are the steps of some days as rows, each with its name and its first and last day.
func stepsOf(each query.TimeBucket, days day.Span) string {
	names, spans := each.Steps(days)
	rows := make([]string, len(spans))
	for i, span := range spans {
		first, last := max(span.From, days.From), min(span.LastDay(), days.LastDay())
		rows[i] = fmt.Sprintf("(%s, %s, %s)", text(cmp.Or(names[i], first.String()+" to "+last.String())), date(first), date(last))
	}
	return strings.Join(rows, ", ")
}

// openWords say what was open.
func openWords(q query.Question) string {
	return "What was open, from " + q.Leg.From.Date() + " to " + q.Leg.To.Date() + ", in " + q.Periods[0].Text
}

// immediate writes a question about what was asked for at once.
func immediate(b *book.Book, words url.Values) (*Statement, error) {
	in := &api.ImmediateQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	q, err := present.ImmediateQuestion(b, in)
	if err != nil {
		return nil, err
	}
	if len(q.Periods) > 1 || in.Orders == "first-within" {
		return nil, refused("question", words.Encode(), "want one period, and all orders or the first ones")
	}
	w, err := newWriter(b, q.Question)
	if err != nil {
		return nil, err
	}
	which := "true"
	if in.Orders == "first" {
		which = "first"
	}
	if q.LeaveCancelled {
		which += " AND cancelled_on IS NULL"
	}
	columns, sets := w.groupColumns()
	s := &Statement{Check: w.uncovered(), Table: "groups", Keys: len(w.keys),
		Codes: []string{"orders", "immediate", "asked_all", "booked_ahead", "no_requested_date", "achieved"}}
	all := "count(*) FILTER (WHERE requested_on >= ordered_on)"
	if q.WithoutDay {
		all = "count(*) FILTER (WHERE requested_on >= ordered_on IS NOT FALSE)"
	}
	s.Text = w.statement(q.Sentence().String(), fmt.Sprintf(`-- All orders with an order date that is known, and which of them is the first of its customer in the whole book.
asked AS (
  SELECT %s "order", %s AS ordered_on, %s AS requested_on, %s AS achieved_on, %s AS cancelled_on, (%s) AND (%s) AS selected, %s AS first
  FROM known WHERE %s IS NOT NULL)

-- Requested for the day of the order, later, or nobody knows when; and whether it was achieved on that day.
SELECT %s
  count(*) AS orders,
  count(*) FILTER (WHERE requested_on = ordered_on) AS immediate,
  %s AS asked_all,
  count(*) FILTER (WHERE requested_on > ordered_on) AS booked_ahead,
  count(*) FILTER (WHERE requested_on IS NULL) AS no_requested_date,
  count(*) FILTER (WHERE achieved_on = ordered_on) AS achieved
FROM asked WHERE selected AND %s GROUP BY GROUPING SETS (%s)`, columns, w.known(milestone.Ordered), w.known(milestone.Requested), w.known(q.Leg.To.Name),
		w.known(milestone.Cancelled), w.within(q.Basis.Name, q.Periods[0]), w.where, firstOf(w, in.Orders),
		w.known(milestone.Ordered), w.keyNames(), all, which, sets))
	return s, nil
}

// firstOf says which orders are the first of their customers.
func firstOf(w *writer, which string) string {
	if which != "first" {
		return "NULL::boolean"
	}
	return fmt.Sprintf(`("field customer" IS NOT NULL AND row_number() OVER (PARTITION BY "field customer" ORDER BY %s NULLS LAST, ordered_time NULLS LAST, length("order"), "order" COLLATE "C") = 1)`,
		w.known(milestone.Ordered))
}
