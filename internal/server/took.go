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
)

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
	return []api.Note{{Code: duration.NoteUnequalMissing, Orders: n, Text: fmt.Sprintf(query.MetByMissingText,
		numfmt.Counted(n, "selected order"))}}
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
