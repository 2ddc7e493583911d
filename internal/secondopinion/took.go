package secondopinion

import (
	"fmt"
	"maps"
	"net/url"
	"strings"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/present"
)

// took writes a question about lengths.
func took(b *book.Book, of *told, words url.Values) (*Statement, error) {
	in := &api.TookQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	q, b, err := present.TookQuestion(b, in)
	if err != nil {
		return nil, err
	}
	return lengths(b, of, q, in.WithRunning || in.Keep != nil, in.Keep)
}

// places writes a question about how long orders take by where they go.
func places(b *book.Book, of *told, words url.Values) (*Statement, error) {
	in := &api.PlacesQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	_, q, b, err := present.PlacesQuestion(b, in)
	if err != nil {
		return nil, err
	}
	s, err := lengths(b, of, q, false, nil)
	if err != nil {
		return nil, err
	}
	s.Tables = []string{"places"}
	renamed := map[string]string{"asked": "orders", in.Show: "figure"}
	switch in.Show {
	case "over":
		maps.Copy(renamed, map[string]string{"limit_share": "figure", "limit_of": "n", "n": ""})
	case "late":
		maps.Copy(renamed, map[string]string{"promise_late_share": "figure", "promise_late_of": "n", "n": ""})
	}
	for i, code := range s.Codes {
		if to, is := renamed[code]; is {
			s.Codes[i] = to
		}
	}
	return s, nil
}

// lengths writes the figures of lengths by group; also by the estimate with running orders, and the shortest promises that shares keep by
// it.
func lengths(b *book.Book, of *told, q duration.Question, estimate bool, keep []string) (*Statement, error) {
	chain := q.Chain()
	if err := refusedUnit(q.Measure); err != nil {
		return nil, err
	}
	w, err := newWriter(b, of, q.Question)
	if err != nil {
		return nil, err
	}
	s := &Statement{Tables: []string{"groups"}, Keys: len(w.keys), Parts: len(q.Periods) > 1}
	if q.Promise != nil {
		s.Beyond = beyond(q.Promise.After)
	}
	columns, sets := w.groupColumns()
	t := &tookWriter{writer: w, question: q, orders: "known", within: w.within(q.Basis.Name, q.Periods[0]), columns: columns}
	names := w.keyNames()
	if s.Parts {
		t.orders = fmt.Sprintf("known JOIN (VALUES %s) AS period (part, a, b) ON %s BETWEEN a AND b", periodRows(q.Periods), w.known(q.Basis.Name))
		t.within, t.columns, names, sets = "true", "part, "+columns, "part, "+names, withPart(sets)
	}
	estimate = estimate && q.NoCurve() == ""
	figures, err := t.figures(chain != nil, estimate)
	if err != nil {
		return nil, err
	}
	steps, estimates, from := []string(nil), []figure(nil), "length"
	if chain == nil {
		if steps, err = t.leg(q.Leg, ""); err != nil {
			return nil, err
		}
		more, kept := t.promised()
		if steps, figures = append(steps, more...), append(append(figures, t.over()...), kept...); kept != nil {
			from = "standing"
		}
		if estimate {
			more, estimates = t.estimated(names, sets, keep)
			steps = append(steps, more...)
		}
		s.Tables = append(s.Tables, "limit", "promise", "estimate", "keep")
	} else {
		if steps, err = t.chain(chain); err != nil {
			return nil, err
		}
		if len(w.keys) == 0 { // the answer has a column for all
			names, s.Keys = names+"NULL AS key1, ", 1
		}
		sets = alsoBy(sets, "leg")
		names, s.Keys, s.AllTotals = names+"leg, ", s.Keys+1, true
	}
	var gathered []string
	for _, f := range figures {
		s.Codes, gathered = append(s.Codes, f.code), append(gathered, "  "+f.sql+" AS "+name(f.code))
	}
	text := fmt.Sprintf("SELECT %s\n%s\nFROM %s GROUP BY GROUPING SETS (%s)", names, strings.Join(gathered, ",\n"), from, sets)
	if estimates != nil {
		same, groups := "true", text
		for _, key := range strings.Fields(strings.ReplaceAll(names, ",", " ")) {
			same += fmt.Sprintf(" AND e.%[1]s IS NOT DISTINCT FROM g.%[1]s", key)
		}
		text = "SELECT g.*"
		for _, f := range estimates {
			s.Codes, text = append(s.Codes, f.code), text+", e."+name(f.code)
		}
		text += fmt.Sprintf("\nFROM (%s) g\nLEFT JOIN estimate e ON %s", groups, same)
	}
	s.Text = w.statement(q.Sentence().String(), append(before(q.Measure), steps...)...) +
		"\n\n-- The figures of each group, and of all.\n" + text
	return s, nil
}

// before are the steps on which those of legs build: lengths between moments need the moments.
func before(m leg.Measure) []string {
	if m.Unit == leg.Hours {
		return []string{moments()}
	}
	return nil
}

// refusedUnit says why lengths in a unit are not written as SQL; nil where they are.
func refusedUnit(m leg.Measure) error {
	if m.Unit == leg.WorkingHours {
		return refused("in", m.Unit.String(), "the clocks of calendars are not written as SQL")
	}
	return nil
}

// A tookWriter writes the steps from orders to lengths.
type tookWriter struct {
	*writer
	question                duration.Question
	orders, within, columns string // the relation that is asked, which of its rows, and their groups
}

// figures are those of the lengths of each group.
func (t *tookWriter) figures(chain, estimate bool) (figures []figure, err error) {
	add := func(code, sql string) { figures = append(figures, figure{code, sql}) }
	add("asked", "count(*)")
	add("n", "count(length)")
	for _, statistic := range t.question.Show {
		sql, err := statisticOf(statistic, "length")
		if err != nil {
			return nil, err
		}
		add(statistic.String(), sql)
	}
	for state := leg.Running; state <= leg.NoTime; state++ {
		if state == leg.NoTime && t.question.Measure.Unit != leg.Hours {
			continue
		}
		add(state.String(), countIf(fmt.Sprintf("state = '%s'", state)))
	}
	if chain {
		add("every_leg", countIf("every"))
		add("every_leg_mean", "avg(length) FILTER (WHERE every)")
		return figures, nil
	}
	if estimate {
		running := countIf(fmt.Sprintf("state = '%s'", leg.Running))
		add("keep_n", "count(length)")
		add("keep_running", running)
		add("estimate_median", "percentile_cont(0.5) WITHIN GROUP (ORDER BY length)")
		add("estimate_running", running)
		add("estimate_cancelled", countIf(fmt.Sprintf("state = '%s'", leg.Cancelled)))
	}
	return figures, nil
}

// leg are the steps to the relation length, with the lengths of one leg; all names end as they are told.
func (t *tookWriter) leg(l leg.Leg, ending string) ([]string, error) {
	q := t.question
	length, err := lengthOf(q.Measure, l)
	if err != nil {
		return nil, err
	}
	state, steps, from, plan := strings.ReplaceAll(state(l), "end_on", "reached_on"), []string(nil), "asked"+ending, ""
	if q.Promise != nil && q.Promise.Plan.Name != "" {
		plan = ", " + t.known(q.Promise.Plan.Name) + " AS plan_on"
	}
	if q.Measure.Unit == leg.Hours {
		steps, from = []string{t.moment(l, ending)}, fmt.Sprintf(`asked%[1]s LEFT JOIN moment%[1]s USING ("order")`, ending)
		state = fmt.Sprintf("CASE WHEN from_at IS NULL OR to_at IS NULL THEN replace(replace(%[1]s, '%[2]s', '%[4]s'), '%[3]s', '%[4]s') ELSE %[1]s END",
			state, leg.Complete, leg.Negative, leg.NoTime)
	}
	return append(steps, fmt.Sprintf(`-- The orders that are asked about, with what is known of the leg's two days.
asked%[1]s AS MATERIALIZED (
  SELECT %[2]s"order", calendar, %[3]s, cut_off, ordered_time, data_date, %[4]s AS begun,
    %[5]s AS start_on, %[6]s AS reached_on, %[7]s AS cancelled_on%[19]s
  FROM %[8]s
  WHERE %[9]s AND (%[10]s)),

-- The state of the leg, by its days as they are.
leg%[1]s AS (
  SELECT *, %[11]s AS state FROM %[12]s),

-- The day from which the length counts: an order that came at or after the cut-off of its site, or on a day off, counts as one of the next
-- working day. And the day up to which it counts: a leg that has no end has run up to the data date, or until it was cancelled.
moved%[1]s AS MATERIALIZED (
  SELECT l.*, %[13]s AS counts_from,
    CASE state WHEN '%[20]s' THEN data_date WHEN '%[21]s' THEN cancelled_on ELSE reached_on END AS end_on FROM leg%[1]s l%[14]s),

-- The length of each leg whose two days are known, in order; and for how long those without an end have run.
length%[1]s AS (
  SELECT *, CASE WHEN state IN ('%[15]s', '%[16]s') THEN days END AS length, CASE WHEN state IN ('%[20]s', '%[21]s') THEN days END AS waited
  FROM (SELECT m.*, %[17]s AS days FROM moved%[1]s m%[18]s) m)`, ending, t.columns, t.destination(q.Calendar), t.recorded(l.From.Name), t.known(l.From.Name),
		t.known(l.To.Name),
		t.known(milestone.Cancelled), t.orders, t.within, t.where, state, from, moved(q.Measure, l), movedFrom(q.Measure, l), leg.Complete,
		leg.Negative, length, calendarDays(q.Measure), plan, leg.Running, leg.Cancelled)), nil
}

// chain are the steps to the relation length, with the lengths of each leg of a chain, and of the whole.
func (t *tookWriter) chain(legs []leg.Leg) (steps []string, err error) {
	var all []string
	for i, l := range append(legs, t.question.Leg) {
		ending := fmt.Sprintf("_%d", i+1)
		own, err := t.leg(l, ending)
		if err != nil {
			return nil, err
		}
		steps = append(steps, own...)
		all = append(all, fmt.Sprintf(`  SELECT *, %s AS leg FROM length%s`, text(l.From.Date()+" → "+l.To.Date()), ending))
	}
	part := ""
	if len(t.question.Periods) > 1 {
		part = "part, "
	}
	return append(steps, fmt.Sprintf(`-- All legs, with whether every one of its order is complete.
length AS (
  SELECT *, bool_and(length IS NOT NULL) OVER (PARTITION BY %s"order") AS every FROM (
%s) l)`, part, strings.Join(all, "\n  UNION ALL\n"))), nil
}

// destination is the calendar that counts, as a column: that of the site, or of where the order goes.
func (w *writer) destination(of book.CalendarSource) string {
	if of == book.AtSite {
		return "calendar AS counted_by"
	}
	return fmt.Sprintf(`coalesce((
      SELECT c.calendar FROM unnest(ARRAY["field place", %s, "field country"]) WITH ORDINALITY AS n (name, place)
      JOIN (SELECT DISTINCT calendar FROM calendar_days) c ON lower(c.calendar) = lower(n.name)
      ORDER BY n.place LIMIT 1), %s) AS counted_by`, regionOfPlace, text(w.book.Calendars().All()[0].Name()))
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
			return "CASE WHEN counts_from > end_on AND state <> 'negative' THEN 0 WHEN end_on >= counts_from THEN t.worked - s.worked + s.works::int " +
				"ELSE -(s.worked - t.worked + t.works::int) END", nil
		}
		return "CASE WHEN counts_from > end_on AND state <> 'negative' THEN 0 ELSE t.worked - s.worked END", nil
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

// statisticOf is a statistic of the lengths of a column.
func statisticOf(s distribution.Statistic, of string) (string, error) {
	switch text := s.String(); text {
	case "mean":
		return "avg(" + of + ")", nil
	case "median":
		return "percentile_cont(0.5) WITHIN GROUP (ORDER BY " + of + ")", nil
	case "min", "max":
		return text + "(" + of + ")", nil
	case "standard-deviation":
		return "stddev_samp(" + of + ")", nil
	default:
		var percent float64
		if _, err := fmt.Sscanf(text, "p%g", &percent); err == nil {
			return fmt.Sprintf("percentile_cont(%g) WITHIN GROUP (ORDER BY %s)", percent/100, of), nil
		}
		return "", refused("show", text, "this statistic is not written as SQL")
	}
}
