package server

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/present"
	"prairiedusk/internal/render"
)

type takeAwayInput struct {
	api.OrdersQuestion
	Format          string `query:"format" enum:"csv,xlsx,ndjson,json,parquet" default:"csv"`
	WithoutContacts bool   `query:"without_contacts" doc:"Leave out columns of people: the contact and telephone of customers."`
}

// Resolve takes what repeats as it stands in the address.
func (in *takeAwayInput) Resolve(ctx huma.Context) []error {
	return takeRepeated(ctx, &in.OrdersQuestion)
}

// takeAway streams a whole list as a file.
func (s *server) takeAway(ctx context.Context, in *takeAwayInput) (*huma.StreamResponse, error) {
	asked, err := present.ListOf(s.snapshot(ctx), &in.OrdersQuestion)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	if in.WithoutContacts {
		if asked, err = asked.WithoutContacts(); err != nil {
			return nil, s.failed(ctx, err)
		}
	}
	found, err := s.list(ctx, asked)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	format := render.Format(in.Format)
	if err := format.Check(found.Rows); err != nil {
		return nil, s.failed(ctx, request.Invalid("format", in.Format, err.Error()))
	}
	d, rows := asked.File(found)
	dated(ctx, d)
	return &huma.StreamResponse{Body: func(to huma.Context) {
		to.SetHeader("Content-Type", format.MediaType())
		to.SetHeader("Content-Disposition", fmt.Sprintf(`attachment; filename="orders.%s"`, format))
		s.send(ctx, to, func(out io.Writer) error {
			return render.List(out, format, d, func(yield func(answer.Row) bool) {
				for row := range rows {
					if ctx.Err() != nil || !yield(row) {
						return
					}
				}
			})
		})
	}}, nil
}

// send sends what is written, for as long as the other side takes it. What cannot be written whole does not look whole.
func (s *server) send(ctx context.Context, to huma.Context, write func(io.Writer) error) {
	out := &patientWriter{body: to.BodyWriter(), control: http.NewResponseController(humagin.Unwrap(to).Writer)}
	err := errors.Join(write(out), ctx.Err())
	var long *render.LongCellError
	switch {
	case err == nil:
	case errors.As(err, &long) && !out.begun:
		refuse(humagin.Unwrap(to), http.StatusUnprocessableEntity, long.Error())
	default:
		s.Log.WarnContext(ctx, "a file was not finished", "request_id", requestID(ctx), "error", err)
		panic(http.ErrAbortHandler)
	}
}

// A patientWriter puts off the connection's deadline as long as bytes go.
type patientWriter struct {
	body    io.Writer
	control *http.ResponseController
	begun   bool
}

func (w *patientWriter) Write(p []byte) (int, error) {
	w.begun = true
	if err := w.control.SetWriteDeadline(time.Now().Add(uploadIdleTimeout)); err != nil {
		return 0, err
	}
	return w.body.Write(p)
}
