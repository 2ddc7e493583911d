// Package duration says how long legs took: measures by groups, over a period, placed by a basis. A question goes in, and an
// answer that adds up comes out.
package duration

import (
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// A Request is a question in the words in which people ask it. Empty words take their defaults.
type Request struct {
	query.Request
	Through []string // milestones between From and To that make a chain of legs; default none
	Promise string   // a plan, or a number of working days after From; default none
	Show    []string // statistics; default those of Figures
}

// A Question is a Request that has been understood against a book.
type Question struct {
	query.Question
	// Limit asks which lengths go beyond it; nil asks none.
	Limit *Limit
	// Waiting asks how long legs without an end have run, as limits and estimates need it.
	Waiting bool
	// Through are the milestones between the leg's ends that make a chain of it.
	Through []milestone.Milestone
	// Promise asks whether the leg's end came by a day; nil asks nothing.
	Promise *Promise
	Show    []distribution.Statistic
}

// Parse understands a request against a book. The error is a *request.Error.
func Parse(b *book.Book, r Request) (q Question, err error) {
	if q.Question, err = query.Parse(b, r.Request); err != nil {
		return q, err
	}
	if q.Through, err = parseThrough(b, q.Leg, r.Through); err != nil {
		return q, err
	}
	if q.Promise, err = parsePromise(b, q.Leg, r.Promise); err != nil {
		return q, err
	}
	q.Show, err = distribution.ParseStatistics(r.Show)
	return q, err
}

func parseThrough(b *book.Book, whole leg.Leg, names []string) (through []milestone.Milestone, err error) {
	for _, name := range names {
		m, err := query.FindMilestone(b, "through", name)
		if err != nil {
			return nil, err
		}
		if m == whole.From || m == whole.To || slices.Contains(through, m) {
			return nil, request.Invalid("through", name, "a chain passes each milestone once, its two ends too")
		}
		through = append(through, m)
	}
	return through, nil
}

// Chain are the legs that make up the whole; nil where it is one leg.
func (q Question) Chain() (legs []leg.Leg) {
	if len(q.Through) == 0 {
		return nil
	}
	from := q.Leg.From
	for _, to := range append(slices.Clone(q.Through), q.Leg.To) {
		legs = append(legs, leg.Leg{From: from, To: to})
		from = to
	}
	return legs
}

// A Limit is a length that is gone beyond by more than it or, with Least, by at least as much: two words for two things.
type Limit struct {
	Ticks int
	Least bool
}

// Words name the limit with its unit: "over 30 working days", "at least 30 working days".
func (l Limit) Words(u leg.Unit) string {
	if l.Least {
		return "at least " + u.Length(l.Ticks)
	}
	return "over " + u.Length(l.Ticks)
}

// CutOffWords say whether starts are moved by cut-offs, where the book has any that do; empty where they play no part.
func (q Question) CutOffWords() string {
	return q.Question.CutOffWords(q.Promise != nil && q.Promise.Plan.Name == "")
}

// Sentence says exactly what is computed; whatever can be changed has a slot.
func (q Question) Sentence() query.Sentence {
	s := query.Sentence{query.Part("", "How long from "), query.Part("from", q.Leg.From.Date())}
	for i, m := range q.Through {
		before := ", "
		switch i {
		case 0:
			before = " through "
		case len(q.Through) - 1:
			before = " and "
		}
		s = append(s, query.Part("", before), query.Part("through", m.Date()))
	}
	s = append(s,
		query.Part("", " to "), query.Part("to", q.Leg.To.Date()),
		query.Part("", ", in "), query.Part("in", q.UnitWords()),
		query.Part("", ", "), query.Part("count", q.Measure.RuleWords()))
	if words := q.CutOffWords(); words != "" {
		s = append(s, query.Part("", ", "), query.Part("cut_off", words))
	}
	if q.Periods[0].Unbounded() {
		s = append(s, query.Part("", ", for all orders, by "), query.Part("basis", q.Basis.Date()),
			query.Part("", ", "), query.Part("period", q.Periods[0].Days()))
	} else {
		s = append(s, query.Part("", ", for orders "), query.Part("basis", q.Basis.Words()),
			query.Part("", " in "), query.Part("period", q.PeriodWords()))
	}
	s = append(append(s, q.GroupWords()...), q.Where.Words()...)
	if q.Limit != nil {
		s = append(s, query.Part("", ", and how many took "), query.Part("limit", q.Limit.Words(q.Measure.Unit)))
	}
	if q.Promise != nil {
		s = append(s, query.Part("", ", and how many were "+q.Leg.To.Words()+" "), query.Part("promise", q.Promise.words(q.Leg.From)))
	}
	return append(s, query.Part("", "?"))
}

// Heading names the leg, the unit and the rule, for whatever shows a length away from its sentence.
func (q Question) Heading() string { return q.Question.Heading(q.CutOffWords()) }
