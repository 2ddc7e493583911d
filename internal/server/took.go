package server

import (
	"context"
	"math"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/filter"
)

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
