package server

import (
	"context"
	"fmt"
	"math"
	"strconv"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/filter"
	"prairiedusk/internal/present"
)

// LegInput is the leg and how it is counted. It is exported, as is QuestionInput, for huma, which looks for
// parameters in embedded structs only where they are.
type LegInput struct {
	From  string `query:"from" doc:"Milestone at which the leg starts; default ordered."`
	To    string `query:"to" doc:"Milestone at which it ends; default shipped."`
	In    string `query:"in" doc:"Unit: days, working-days, weeks, months, years, months-crossed, years-crossed, months-fraction, hours or working-hours; default working-days."`
	Count string `query:"count" doc:"Count rule: elapsed or both-ends; default elapsed."`
	// Calendar is read where the unit asks which days are worked.
	Calendar string `query:"calendar" doc:"Whose calendar counts: site or destination; default site."`
	CutOff   string `query:"cut_off" doc:"on (default) or off: whether an order that came after the cut-off of its site counts, in working days and due days, as ordered on the next working day."`
}

func (in LegInput) request() query.Request {
	return query.Request{From: in.From, To: in.To, In: in.In, Count: in.Count, Calendar: in.Calendar, CutOff: in.CutOff}
}

// QuestionInput is a question in full.
type QuestionInput struct {
	LegInput
	Basis  string   `query:"basis" doc:"Milestone that places orders in the period; default the leg's start."`
	Period string   `query:"period" doc:"2026, 2026-Q3, 2026-07, 2026-W31, 2026-07-20, 2026-07-06/2026-08-02, last-month, last-90-days, …; several with commas. Default all orders."`
	By     []string `query:"by" doc:"At most two groupings, with a comma between them."`
	Where  string   `query:"where" maxLength:"10000" doc:"A condition on orders in CEL (Common Expression Language): fields and milestones by name, underscores for hyphens; a missing one is null; days as text; days, working_days, weeks, hours, working_hours of two milestones, days_so_far and working_days_so_far up to the data date. site == \"Galway\" && working_days_so_far(ordered, shipped) > 30"`
}

// question understands the words, the condition among them, against a book, which it gives with the stand-ins that they name.
func (in QuestionInput) question(b *book.Book) (duration.Question, *book.Book, error) {
	l := in.LegInput
	leg := api.Leg{Measured: api.Measured{From: l.From, To: l.To, In: l.In, Count: l.Count, Calendar: l.Calendar}, CutOff: l.CutOff}
	return present.TookQuestion(b, &api.TookQuestion{Leg: leg, Placing: api.Placing{Basis: in.Basis, Period: in.Period, By: in.By, Where: api.Where{Where: in.Where}}})
}

func sentenceBody(s query.Sentence) []api.SentencePart {
	parts := make([]api.SentencePart, len(s))
	for i, p := range s {
		parts[i] = api.SentencePart{Text: p.Text, Slot: p.Slot}
	}
	return parts
}

// unequalNotes say how many orders are selected although they lack one of two values that the condition compares with !=.
func unequalNotes(n int) []api.Note {
	if n == 0 {
		return []api.Note{}
	}
	return []api.Note{{Code: duration.NoteUnequalMissing, Orders: n, Text: fmt.Sprintf(query.MetByMissingText, numfmt.Counted(n, "selected order"))}}
}

// condition says how a condition is understood, and what of it can be picked.
func (s *server) condition(ctx context.Context, in *struct {
	Text string `query:"text" required:"true" maxLength:"10000" doc:"In CEL."`
}) (*answered[api.Condition], error) {
	picks, joined, err := filter.Picks(s.snapshot(ctx), in.Text)
	if err != nil {
		return nil, s.failed(ctx, request.Invalid("text", in.Text, err.Error()))
	}
	body := api.Condition{Text: in.Text, Picks: []api.Pick{}, Joined: joined}
	for _, p := range picks {
		body.Picks = append(body.Picks, api.Pick(p))
	}
	return &answered[api.Condition]{body}, nil
}

// durationAsked says what a question about lengths asks.
func durationAsked(q duration.Question, version int64) api.Asked {
	body := askedBody(q.Question, q.Sentence(), version)
	body.Heading = q.Heading()
	for _, m := range q.Through {
		body.Through = append(body.Through, m.Name)
	}
	if q.Promise != nil {
		if body.Promise = q.Promise.Plan.Name; body.Promise == "" {
			body.Promise = strconv.Itoa(q.Promise.After)
		}
	}
	return body
}

// askedBody says what any question asks.
func askedBody(q query.Question, sentence query.Sentence, version int64) api.Asked {
	body := api.Asked{
		Sentence: sentence.String(), SentenceParts: sentenceBody(sentence),
		From: q.Leg.From.Name, To: q.Leg.To.Name,
		Unit: q.Measure.Unit.String(), CountRule: q.Measure.Rule.String(),
		Calendar: book.CalendarSourceNames()[q.Calendar],
		Where:    q.Where.Text,
		Basis:    q.Basis.Name,
		By:       []string{},
		Through:  []string{},
		Version:  version,
	}
	for _, g := range q.By {
		body.By = append(body.By, g.String())
	}
	return body
}

func reconciliationBody(parts []query.Term) []api.Reconciliation {
	body := []api.Reconciliation{}
	for _, r := range parts {
		body = append(body, api.Reconciliation{State: r.Code, Label: r.Label, Orders: r.Orders})
	}
	return body
}

// number is nil for what is not a number.
func number(x float64) *float64 {
	if math.IsNaN(x) {
		return nil
	}
	return &x
}

// fieldsBody are the fields of an order that are known, by name.
func fieldsBody(b *book.Book, row int) map[string]string {
	fields := map[string]string{}
	for f, name := range b.FieldNames() {
		if value := b.Text(book.Field(f), row); value != "" {
			fields[name] = value
		}
	}
	return fields
}
