package secondopinion

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/forecast"
	immediacy "prairiedusk/internal/core/immediate"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/statuses"
	"prairiedusk/internal/filter"
	"prairiedusk/internal/labels"
)

// told is what other records tell of orders, as far as a statement asks for it: columns that the relation known has besides those of the
// orders themselves.
type told struct {
	labels  []labels.Definition
	written []string // what is told already
	before  []string // steps
	columns []string
	joins   []string
}

// days is the relation with the orders' own columns.
func (t *told) days() string {
	if len(t.columns) > 0 {
		return "known_days"
	}
	return "known"
}

// steps end with the relation known, where it is another one than days.
func (t *told) steps() string {
	if len(t.columns) == 0 {
		return ""
	}
	return ",\n\n" + strings.Join(append(slices.Clone(t.before), fmt.Sprintf(`-- Orders, with what other records tell of them.
known AS (
  SELECT k.*,
    %s
  FROM known_days k%s)`, strings.Join(t.columns, ",\n    "), strings.Join(t.joins, ""))), ",\n\n")
}

// add writes something that is told once: a step where it needs one, its columns, and the join to the orders k.
func (t *told) add(what, step, join string, columns ...string) {
	if slices.Contains(t.written, what) {
		return
	}
	t.written, t.columns = append(t.written, what), append(t.columns, columns...)
	if step != "" {
		t.before = append(t.before, step)
	}
	if join != "" {
		t.joins = append(t.joins, "\n  LEFT JOIN "+join)
	}
}

// inner is a writer for a step on which the relation known builds: it has the orders' own columns alone.
func (w *writer) inner() *writer {
	return &writer{book: w.book, told: &told{}, days: "known_days", where: "true"}
}

// list adds the columns of a list, where files have not brought fields of the same names with the orders.
func (w *writer) list(what, join string, columns ...[2]string) {
	var own []string
	for _, c := range columns {
		if !slices.Contains(fields(w.book), c[0]) {
			own = append(own, fmt.Sprintf("nullif(%s, '') AS %s", c[1], name("field "+c[0])))
		}
	}
	w.told.add(what, "", join, own...)
}

// field is a field of orders as SQL, null where it is missing.
func (w *writer) field(of string) (sql string, err error) {
	column := name("field " + of)
	switch {
	case of == book.FieldNames()[book.Place]:
		return w.place(), nil
	case slices.Contains(fields(w.book), of):
		return column, nil
	case w.days == "known_days":
		return "", refused("where", of, "a condition on parts takes fields of the orders themselves")
	}
	if at := slices.IndexFunc(w.told.labels, func(d labels.Definition) bool { return d.Name == of }); at >= 0 {
		return w.label(w.told.labels[at])
	}
	switch of {
	case "customer-contact", "customer-telephone", "customer-country", "customer-region", "customer-place":
		w.list("customers", `customers c ON c.customer = k."field customer"`, [2]string{"customer-contact", "c.contact"},
			[2]string{"customer-telephone", "c.telephone"}, [2]string{"customer-country", "c.country"}, [2]string{"customer-region", "c.region"},
			[2]string{"customer-place", "c.place"})
	case "site-region", "site-country":
		w.list("sites", `sites s ON s.site = k."field site"`, [2]string{"site-region", "s.region"}, [2]string{"site-country", "s.country"})
	case "place-region":
		w.told.add("places", placeRegions, `place_region r ON r.place = k."field place" AND r.country = coalesce(k."field country", '')
    AND r.named = coalesce(k."field region", '')`, `nullif(r.region, '') AS "field place-region"`)
	case immediacy.FieldAsked:
		w.told.add(of, "", "", `CASE
      WHEN k.ordered IS NULL THEN NULL
      WHEN k.requested IS NULL THEN 'no requested date'
      WHEN k.requested = k.ordered THEN 'immediate'
      WHEN k.requested > k.ordered THEN 'booked ahead'
      ELSE 'requested before ordered' END AS `+column)
	case immediacy.FieldFirst:
		w.told.add(of, "", "", fmt.Sprintf(`CASE WHEN k.ordered IS NOT NULL AND "field customer" IS NOT NULL
      THEN CASE WHEN %s THEN 'yes' ELSE 'no' END END AS %s`, strings.ReplaceAll(w.firstOf(""), `"order"`, `k."order"`), column))
	case statuses.FieldStatus, statuses.FieldSince:
		w.status()
	case forecast.FieldForecast, forecast.FieldBy:
		w.told.add("forecasts", fmt.Sprintf(`-- When each open order may ship, as told at the end of the data date.
forecast AS (
WITH
%s
SELECT "order", forecast, level FROM told_then)`, strings.Join(forecastSteps(w.inner(), "('', "+date(w.book.Bounds().DataDate)+")"), ",\n\n")),
			`forecast f ON f."order" = k."order"`, `to_char(f.forecast, 'YYYY-MM-DD') AS `+name("field "+forecast.FieldForecast),
			`CASE WHEN f.forecast IS NOT NULL THEN f.level END AS `+name("field "+forecast.FieldBy))
	default:
		return "", refused("field", of, "this field is not written as SQL")
	}
	return column, nil
}

// placeRegions is the step with the regions of places: of those that an order names itself, and else of the only place of a name.
const placeRegions = `-- The regions of places; an order that names none means the only place of the name.
place_region AS (
  SELECT place, country, region AS named, region FROM places WHERE region <> ''
  UNION ALL
  SELECT place, country, '', CASE WHEN count(*) = 1 THEN min(region) END FROM places GROUP BY 1, 2)`

// label is the text of a label: of the first condition that holds, unless one before it cannot be decided.
func (w *writer) label(d labels.Definition) (string, error) {
	var cases strings.Builder
	for _, r := range d.Rules {
		parsed, err := filter.Parse(w.book, r.Where)
		if err != nil {
			return "", refused("label", d.Name, err.Error())
		}
		when, err := w.condition(parsed.Predicate)
		if err != nil {
			return "", err
		}
		fmt.Fprintf(&cases, " WHEN (%[1]s) IS TRUE THEN %[2]s WHEN (%[1]s) IS NULL THEN %[3]s", when, text(r.Text), text(d.Missing))
	}
	return fmt.Sprintf("nullif(CASE%s ELSE %s END, '')", cases.String(), text(d.Rest)), nil
}

// status adds what the status records of orders tell at the data date.
func (w *writer) status() {
	h := statuses.Of(w.book)
	if slices.Contains(w.told.written, "statuses") {
		return
	}
	columns := []string{`l.age AS "number status-age"`, `l.returns AS "number returns"`}
	for field, sql := range map[string]string{statuses.FieldStatus: "l.status", statuses.FieldSince: "to_char(l.from_on, 'YYYY-MM-DD')"} {
		if !slices.Contains(fields(w.book), field) {
			columns = append(columns, sql+" AS "+name("field "+field))
		}
	}
	slices.Sort(columns)
	w.told.add("statuses", fmt.Sprintf(`-- The latest status of each order, since when, for how many working days, and how often it went back to a status.
latest AS (
WITH
%s
SELECT r."order", status, from_on, CASE WHEN NOT coalesce(n.final, false) THEN t.worked - s.worked END AS age, returns
FROM (SELECT DISTINCT ON ("order") * FROM run_days ORDER BY "order", run DESC) r
JOIN (SELECT "order", count(*) - count(DISTINCT status) AS returns FROM run_days GROUP BY 1) x USING ("order")
JOIN known_days k USING ("order") LEFT JOIN status_name n USING (status)
LEFT JOIN calendar_days s ON s.calendar = k.calendar AND s.day = from_on LEFT JOIN calendar_days t ON t.calendar = k.calendar AND t.day = k.data_date)`,
		strings.Join([]string{statusNames(h), statusRuns(newRun, statusCounts[statuses.Either])}, ",\n")),
		`latest l ON l."order" = k."order"`, columns...)
}

// number is a whole number that is told of an order.
func (w *writer) number(of predicate.Told) (string, error) {
	if w.days == "known_days" || of != statuses.NumberAge && of != statuses.NumberReturns {
		return "", refused("where", string(of), "this number is not written as SQL here")
	}
	w.status()
	return name("number " + string(of)), nil
}

// length adds the state of a leg and its length; it gives their columns.
func (w *writer) length(l predicate.Length) (state, length string, err error) {
	if w.days == "known_days" {
		return "", "", refused("where", l.Leg.From.Name, "a condition on parts takes no lengths")
	}
	if err := refusedUnit(l.Measure); err != nil {
		return "", "", err
	}
	what := fmt.Sprintf("%v %v %+v %v", l.Leg.From.Name, l.Leg.To.Name, l.Measure, l.Side)
	at := slices.Index(w.told.written, what)
	if at < 0 {
		at = len(w.told.written)
	}
	step := fmt.Sprintf("leg_told_%d", at+1)
	state, length = name(step+" state"), name(step+" length")
	if l.SoFar {
		length = name(step + " so far")
	}
	t := &tookWriter{writer: w.inner(), orders: "known_days", within: "true"}
	t.question.Measure, t.question.Calendar, t.question.Leg = l.Measure, l.Side, l.Leg
	own, err := t.leg(l.Leg, "")
	if err != nil {
		return "", "", err
	}
	w.told.add(what, fmt.Sprintf(`-- How long it was from %s to %s.
%s AS (
WITH
%s
SELECT "order", state, length, CASE WHEN state = '%s' THEN waited ELSE length END AS so_far FROM length)`, oneLine.Replace(l.Leg.From.Date()), oneLine.Replace(l.Leg.To.Date()), step,
		strings.Join(append(before(l.Measure), own...), ",\n\n"), leg.Running), fmt.Sprintf(`%[1]s ON %[1]s."order" = k."order"`, step),
		step+".state AS "+name(step+" state"), step+".length AS "+name(step+" length"), step+".so_far AS "+name(step+" so far"))
	return state, length, nil
}

// some adds whether a condition holds of some of the parts of an order, or of each; it gives the column.
func (w *writer) some(of book.Part, condition predicate.Condition, every bool) (string, error) {
	if w.days == "known_days" || partTables[of].table == "" {
		return "", refused("where", of.String(), "this condition on parts is not written as SQL")
	}
	c := &counting{writer: w.inner()}
	var step string
	step, c.parts = c.toldParts(of)
	met, err := c.condition(condition)
	if err != nil {
		return "", err
	}
	if of == book.Lines {
		w.allLines, step = true, toldDays("known_days")+",\n\n"+step
	}
	// One that settles it makes those that cannot be decided not matter.
	settled := "CASE WHEN bool_or(met) THEN true WHEN bool_or(met IS NULL) THEN NULL ELSE false END"
	if every {
		settled = "CASE WHEN NOT bool_and(met) THEN false WHEN bool_or(met IS NULL) THEN NULL ELSE true END"
	}
	what := fmt.Sprintf("%v %v %s", of, every, met)
	at := slices.Index(w.told.written, what)
	if at < 0 {
		at = len(w.told.written)
	}
	relation := fmt.Sprintf("parts_told_%d", at+1)
	w.told.add(what, fmt.Sprintf(`-- Of which orders %s meet a condition.
%s AS (
WITH
%s
SELECT "order", %s AS holds FROM (SELECT "order", %s AS met FROM told_part JOIN known_days USING ("order")) t GROUP BY 1)`, of, relation, step, settled, met),
		fmt.Sprintf(`%[1]s ON %[1]s."order" = k."order"`, relation),
		fmt.Sprintf("CASE WHEN %[1]s.\"order\" IS NULL THEN %[2]t ELSE %[1]s.holds END AS %[1]s", relation, every))
	return relation, nil
}

// count adds how many parts an order has; it gives the column.
func (w *writer) count(of book.Part) (string, error) {
	from := partTables[of]
	if from.table == "" || w.days == "known_days" {
		return "", refused("where", of.String(), "the count of these is not written as SQL")
	}
	relation := "count_of_" + from.table
	w.told.add(relation, fmt.Sprintf(`-- How many %s orders have.
%s AS (SELECT "order", count(*) AS parts FROM %s GROUP BY 1)`, of, relation, from.table), fmt.Sprintf(`%[1]s ON %[1]s."order" = k."order"`, relation),
		fmt.Sprintf("coalesce(%[1]s.parts, 0) AS %[1]s", relation))
	return relation, nil
}

// shows is whether the parts of an order show something.
func (w *writer) shows(of predicate.Has) (string, error) {
	for goal, finding := range map[string]parts.Finding{milestone.Shipped: parts.PartShipped, milestone.Delivered: parts.PartDelivered} {
		if of == predicate.Has(finding) {
			return fmt.Sprintf(`(%s IS NOT NULL AND %s IS NULL)`, name("first-"+goal), name("recorded "+goal)), nil
		}
	}
	if of == predicate.Has(parts.PartPaid) {
		return "part_paid", nil
	}
	return "", refused("where", fmt.Sprint(of), "what parts show is not written as SQL")
}
