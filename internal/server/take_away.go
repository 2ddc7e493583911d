package server

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/predicate"
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

// contacts are the fields that name people or reach them.
var contacts = []predicate.Operand{predicate.Field("customer-contact"), predicate.Field("customer-telephone")}

// grounds are the colours of highlights in files, light enough for black text.
var grounds = map[string]string{"amber": "F6D9A0", "teal": "BFE3DE", "plum": "E3CBE0", "faint": "E8E4DE"}

// takeAway streams a whole list as a file.
func (s *server) takeAway(ctx context.Context, in *takeAwayInput) (*huma.StreamResponse, error) {
	asked, err := present.ListOf(s.snapshot(ctx), &in.OrdersQuestion)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	if in.WithoutContacts {
		if err := leaveOutContacts(&asked, in.Highlight); err != nil {
			return nil, s.failed(ctx, err)
		}
		if len(asked.Columns) == 0 {
			return nil, s.failed(ctx, request.Invalid("columns", in.Columns, "without contacts no column is left"))
		}
	}
	answer, err := s.list(ctx, asked)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	format := render.Format(in.Format)
	if err := format.Check(answer.Rows); err != nil {
		return nil, s.failed(ctx, request.Invalid("format", in.Format, err.Error()))
	}
	head := s.headOf(asked, answer)
	return &huma.StreamResponse{Body: func(to huma.Context) {
		to.SetHeader("Content-Type", format.MediaType())
		to.SetHeader("Content-Disposition", fmt.Sprintf(`attachment; filename="orders.%s"`, format))
		s.send(ctx, to, func(out io.Writer) error {
			return render.Write(out, format, head, func(yield func(list.Row) bool) {
				for row := range answer.All() {
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

// leaveOutContacts takes away the columns and highlights that tell of a contact: a condition on one tells it as well. Highlights of
// columns that are gone go with them.
func leaveOutContacts(a *present.List, highlights []string) error {
	var left []string
	for i, m := range a.Marks {
		if !tellsContact(m.Condition) && (m.Column < 0 || !columnTellsContact(a.Columns[m.Column])) {
			left = append(left, highlights[i])
		}
	}
	a.Columns = slices.DeleteFunc(a.Columns, columnTellsContact)
	return a.Mark(left)
}

func columnTellsContact(c list.Column) bool {
	if c.Operand != nil {
		return tellsContact(predicate.In{X: c.Operand})
	}
	return tellsContact(c.Condition)
}

func tellsContact(c predicate.Condition) (tells bool) {
	predicate.Walk(c, func(o predicate.Operand) { tells = tells || slices.Contains(contacts, o) })
	return tells
}

// headOf is what stands in a file besides its rows.
func (s *server) headOf(asked present.List, answer *list.Answer) render.Head {
	q, b := asked.Question, asked.Book
	head := render.Head{Sheet: "Orders", Sentence: q.Sentence().String()}
	rows := numfmt.Counted(answer.Rows, "row")
	head.Lines = append(head.Lines, fmt.Sprintf("%s: %s in %s; records from %v to %v.", numfmt.Sentence(asked.Selected()),
		numfmt.Counted(answer.Orders, "order"), rows, b.Bounds().FirstDay, b.Bounds().DataDate))
	if line := answer.Population.Line(q.Basis); line != "" {
		head.Lines = append(head.Lines, line+".")
	}
	whole := q
	whole.By = nil
	head.Lines = append(head.Lines, duration.Ask(b, whole).Parts[0].Total.ReconciliationLine(q.Leg)+".")
	for i, c := range asked.Columns {
		head.Columns = append(head.Columns, render.Column{Heading: c.Heading, Kind: answer.Kinds[i], Timed: timed(b, c),
			Remarked: remarked(c)})
	}
	for _, m := range asked.Marks {
		words := m.Where
		if m.Column >= 0 {
			words += ", on " + asked.Columns[m.Column].Heading
		}
		head.Highlights = append(head.Highlights, render.Highlight{Style: m.Style, Words: words, Colour: grounds[m.Style]})
	}
	return head
}

// remarked says whether the cells of a column can have remarks.
func remarked(c list.Column) bool {
	switch c.Operand.(type) {
	case predicate.Day, predicate.Length:
		return true
	}
	return false
}

// timed says whether a column shows a milestone that some order reached at a known time of day.
func timed(b *book.Book, c list.Column) bool {
	d, is := c.Operand.(predicate.Day)
	if !is {
		return false
	}
	for i, m := range b.Milestones() {
		if m.Name == string(d) {
			return slices.ContainsFunc(b.Blocks(), func(block *book.Block) bool { return block.Columns[i].Instants != nil })
		}
	}
	return false
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
