package secondopinion

import (
	"fmt"
	"net/url"
	"strings"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/due"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/present"
)

// dueOrders writes a question about which orders are due.
func dueOrders(b *book.Book, of *told, words url.Values) (*Statement, error) {
	in := &api.DueQuestion{}
	if err := read(in, words); err != nil {
		return nil, err
	}
	q, _, err := present.DueQuestion(b, in)
	if err != nil {
		return nil, err
	}
	w, err := newWriter(b, of, query.Question{Where: q.Where})
	if err != nil {
		return nil, err
	}
	if q.After > mostAfter {
		return nil, refused("after", in.After, fmt.Sprintf("want at most %d working days", mostAfter))
	}
	by := dueDay{planned: q.By.Name != "", after: q.After, moved: !q.NoCutOff, calendar: "calendar"}
	dueOn, dueFrom := by.sql()
	plan := "NULL::date" // it is due so many working days after the order
	if q.By.Name != "" {
		plan = w.known(q.By.Name)
	}
	placed := "true"
	if !q.Period.Unbounded() {
		placed = fmt.Sprintf("(due_on BETWEEN %s AND %s) IS TRUE", date(q.Period.Span.From), date(q.Period.Span.LastDay()))
	}
	s := &Statement{Tables: []string{"standings"}, Keys: 1, Codes: []string{"orders"}, Beyond: beyond(q.After)}
	s.Text = w.statement(strings.TrimSuffix(q.Sentence(b).String(), "?"), fmt.Sprintf(`-- The orders that meet the condition, with what is known of their days.
asked AS MATERIALIZED (
  SELECT calendar, data_date, cut_off, ordered_time, %s AS start_on, %s AS begun, %s AS reached_on, %s AS cancelled_on, %s AS plan_on
  FROM known WHERE (%s)),

-- The day on which each is due.
due AS (
  SELECT l.*, %s AS due_on FROM asked l%s),

-- Where each order stands: what was cancelled before it was reached is not due, and what is due on the data date is not overdue.
standing AS (
  SELECT CASE
%s
      WHEN due_on < data_date THEN '%s'
      WHEN t.worked - n.worked <= %d THEN '%s'
      ELSE '%s' END AS standing
  FROM due d
  LEFT JOIN calendar_days n ON n.calendar = d.calendar AND n.day = data_date
  LEFT JOIN calendar_days t ON t.calendar = d.calendar AND t.day = due_on
  WHERE %s)

SELECT standing, count(*) AS orders FROM standing GROUP BY standing`, w.known(milestone.Ordered), w.recorded(milestone.Ordered),
		w.known(q.To.Name), w.known(milestone.Cancelled), plan, w.where, dueOn, dueFrom, decided(), promise.Overdue, q.Within,
		due.AtRisk, due.DueLater, placed))
	return s, nil
}

// decided are the cases in which the days of an order alone say where it stands.
func decided() string {
	return fmt.Sprintf(`      WHEN reached_on IS NULL AND cancelled_on IS NOT NULL THEN '%s'
      WHEN start_on IS NULL AND begun IS NOT NULL THEN '%s'
      WHEN due_on IS NULL THEN '%s'
      WHEN reached_on < due_on THEN '%s'
      WHEN reached_on = due_on THEN '%s'
      WHEN reached_on > due_on THEN '%s'`, promise.Cancelled, promise.NotBegun, promise.NoPromise, promise.Early, promise.OnTheDay,
		promise.ReachedLate)
}

// mostAfter is how many working days after an order the days of calendars can be made to reach.
const mostAfter = 2000

// beyond is how many days so many working days after an order can be, where one in a week is worked, but for a few.
func beyond(after int) int { return 7*after + 60 }

// A dueDay says by which day an order is due: the planned one, or so many working days after the start of the relation l.
type dueDay struct {
	planned  bool
	after    int
	moved    bool   // by the cut-off of the site
	calendar string // the column of l with the name of the one that counts
}

// sql is the due day, and from the joins that it needs: the day of the start in the calendar of the site, the day from which it counts, and
// the one that lies so many working days after that.
func (d dueDay) sql() (day, from string) {
	if d.planned {
		return "plan_on", ""
	}
	start := "start_on"
	if d.moved {
		start = "(" + moved(leg.Measure{Unit: leg.WorkingDays}, leg.Leg{From: milestone.Milestone{Name: milestone.Ordered}}) + ")"
	}
	worked := fmt.Sprintf("s.worked + %d", d.after)
	if d.after == 0 { // on the day itself, or the next working day
		worked = "s.worked + (NOT s.works)::int"
	}
	return "n.day", fmt.Sprintf(`
  LEFT JOIN calendar_days d ON d.calendar = l.calendar AND d.day = l.start_on
  LEFT JOIN calendar_days s ON s.calendar = l.%[1]s AND s.day = %[2]s
  LEFT JOIN calendar_days n ON n.calendar = s.calendar AND n.works AND n.worked = %[3]s`, d.calendar, start, worked)
}
