// Package secondopinion writes a question as one statement of SQL over the record tables, so that PostgreSQL answers it by rules that
// share no code with the core: only the question itself, as it was understood, comes from there. What a statement does not follow, it
// refuses.
package secondopinion

import (
	"fmt"
	"net/url"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/labels"
	"prairiedusk/internal/params"
	"prairiedusk/internal/present"
)

// A Statement is a question as SQL.
type Statement struct {
	Text   string   // what to run
	Tables []string // codes of the tables of the answer that it gives
	Keys   int      // how many columns name a row; those of the total are null
	Codes  []string // of the columns of the table, in the order of the statement's further columns
	Long   bool     // its rows have the title of a part, the code of a table, the key of a row, the code of a column, and the figure
	// Parts says that its rows begin with the title of a part of the answer, as those of a long one do.
	Parts bool
	// Empty says that the answer has those of its rows alone in which nothing is counted.
	Empty bool
	// Beyond is how many days after the last of the records calendars have to reach for it.
	Beyond int
	// Orders says that its rows are orders, and not figures of orders.
	Orders bool
	// AllTotals says that it gives each row of totals of the answer, with null for the keys that are summed; else only the last.
	AllTotals bool
}

// refused says that no statement is written for a question.
func refused(word, value, why string) error {
	return request.Invalid(word, value, "there is no SQL for this yet: "+why)
}

// Of writes the statement of a question about a book with labels. The error is a *request.Error.
func Of(b *book.Book, all []labels.Definition, question answer.Address) (*Statement, error) {
	analysis, words, err := present.Words(question)
	if err != nil {
		return nil, err
	}
	of := &told{labels: all}
	switch analysis {
	case "took":
		return took(b, of, words)
	case "places":
		return places(b, of, words)
	case "open":
		return open(b, of, words)
	case "forecast":
		return forecasts(b, of, words)
	case "immediate":
		return immediate(b, of, words)
	case "immediate-customers":
		return customers(b, of, words)
	case "orders":
		return listed(b, of, words)
	case "crosstab":
		return countCrosstab(b, of, words)
	case "compare":
		return countCompare(b, of, words)
	case "due":
		return dueOrders(b, of, words)
	case "status-latest":
		return statusLatest(b, of, words)
	case "status-periods":
		return statusPeriods(b, of, words)
	case "status-times":
		return statusTimes(b, of, words)
	case "status-transitions":
		return statusTransitions(b, of, words)
	}
	return nil, refused("question", analysis, "its figures are not written as SQL")
}

// read understands the words of a question.
func read(in any, words url.Values) error {
	if _, err := params.Parse(in, words); err != nil {
		return request.Invalid("question", words.Encode(), err.Error())
	}
	return nil
}

// asked understands the words of a question about a book.
func asked[In, Q any](b *book.Book, words url.Values, question func(*book.Book, *In) (Q, error)) (in *In, q Q, err error) {
	in = new(In)
	if err = read(in, words); err == nil {
		q, err = question(b, in)
	}
	return in, q, err
}

// A writer writes the parts that statements have in common.
type writer struct {
	book  *book.Book
	told  *told
	keys  []string // expressions of the groups
	where string   // of the condition; true without one
	// allLines says that it is followed of each line what shipments take of it.
	allLines bool
	// days is the relation of orders, known, or that on which it builds.
	days string
	// parts are the columns of what a condition on parts is decided about; partsAlone says that it cannot speak of orders.
	parts      map[string]partColumn
	partsAlone bool
}

// A partColumn is a column of a part as SQL.
type partColumn struct {
	sql   string
	isDay bool
}

// writer understands the groups and the condition of a question.
func newWriter(b *book.Book, of *told, q query.Question) (*writer, error) {
	w := &writer{book: b, told: of, days: "known", where: "true"}
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
	if g.Column > 0 {
		return "", refused(word, g.String(), "want a field of orders, or a step of time")
	}
	field, err := w.field(w.book.FieldName(g.Field))
	return fmt.Sprintf("coalesce(%s, '')", field), err
}

// stepFormat is how the step of a day is named; false for steps that come round.
func stepFormat(c query.TimeBucket) (format string, known bool) {
	format, known = map[query.TimeBucket]string{query.Day: "YYYY-MM-DD", query.Week: `IYYY-"W"IW`, query.Month: "YYYY-MM",
		query.Quarter: `YYYY-"Q"Q`, query.Year: "YYYY",
		query.Weekday: "FMDay", query.MonthOfYear: "FMMonth"}[c]
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

// oneLine is a text that a comment holds whole: one with several lines would go on as SQL.
var oneLine = strings.NewReplacer("\n", " ", "\r", " ")

// statement puts the steps together.
func (w *writer) statement(asked string, steps ...string) string {
	return "-- " + oneLine.Replace(asked) + "\nWITH RECURSIVE\n" + strings.Join(append([]string{dates(w.book, w.allLines, w.told)}, steps...), ",\n\n")
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

// periodRows are periods as rows, each with its name and its first and last day.
func periodRows(periods []period.Period) string {
	rows := make([]string, len(periods))
	for i, p := range periods {
		rows[i] = fmt.Sprintf("(%s, %s, %s)", text(p.Text), date(p.Span.From), date(p.Span.LastDay()))
	}
	return strings.Join(rows, ", ")
}

// withPart are sets of groups of which each is of one part.
func withPart(sets string) string {
	return strings.ReplaceAll(strings.ReplaceAll(sets, "(", "(part, "), "(part, )", "(part)")
}

// alsoBy are sets of groups, and in each of them those of another column.
func alsoBy(sets, column string) string {
	return strings.ReplaceAll(strings.ReplaceAll(sets, ")", ", "+column+")"), "(, ", "(")
}
