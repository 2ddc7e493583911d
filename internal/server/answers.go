package server

import (
	"context"
	"fmt"
	"io"
	"reflect"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/present"
	"prairiedusk/internal/render"
	"prairiedusk/internal/store"
)

// A question has the form in which its answer is wanted among its parameters: api.Form.
type question interface{ Wanted() string }

// An asker answers a question about the book as one request sees it.
type asker[Q question] func(ctx context.Context, b *book.Book, in *Q, size present.Size) (*answer.Document, error)

// ofBook is an asker that needs the book alone.
func ofBook[Q question](ask func(*book.Book, *Q, present.Size) (*answer.Document, error)) asker[Q] {
	return func(_ context.Context, b *book.Book, in *Q, size present.Size) (*answer.Document, error) {
		return ask(b, in, size)
	}
}

// answers registers a question whose answer is a document, which can be had in every form.
func answers[Q question](s *server, to huma.API, operation huma.Operation, ask asker[Q]) {
	operation.Responses = documentResponses(to)
	huma.Register(to, operation, func(ctx context.Context, in *Q) (*huma.StreamResponse, error) {
		return s.document(ctx, (*in).Wanted(), func(ctx context.Context, b *book.Book, size present.Size) (*answer.Document, error) {
			return ask(ctx, b, in, size)
		})
	})
}

// documentResponses are those of an operation that gives a document.
func documentResponses(to huma.API) map[string]*huma.Response {
	schema := to.OpenAPI().Components.Schemas.Schema(reflect.TypeFor[answer.Document](), true, "")
	content := map[string]*huma.MediaType{"application/json": {Schema: schema}}
	for _, name := range render.Formats() {
		if format := render.Format(name); format != render.JSON {
			content[format.MediaType()] = &huma.MediaType{Schema: &huma.Schema{Type: huma.TypeString, Format: "binary"}}
		}
	}
	return map[string]*huma.Response{"200": {Description: "The answer", Content: content}}
}

// document answers with a document in the form that is wanted, when its turn comes.
func (s *server) document(ctx context.Context, wanted string, ask func(context.Context, *book.Book, present.Size) (*answer.Document,
	error)) (*huma.StreamResponse, error) {
	format, size := render.Format(wanted), present.ToRead
	if format != render.JSON {
		size = present.ToKeep
	}
	end, err := s.acquireSlot(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	defer end()
	d, err := ask(ctx, s.snapshot(ctx), size)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	dated(ctx, d)
	d.TellApart()
	present.Explain(d)
	present.SayUntested(d)
	present.WeighNotes(d)
	if err := format.CheckDocument(d); err != nil {
		return nil, s.failed(ctx, request.Invalid("format", string(format), err.Error()))
	}
	return &huma.StreamResponse{Body: func(to huma.Context) {
		to.SetHeader("Content-Type", format.MediaType())
		if format != render.JSON {
			to.SetHeader("Content-Disposition", fmt.Sprintf(`attachment; filename="%s.%s"`, d.Analysis, format))
		}
		s.send(ctx, to, func(out io.Writer) error { return render.Document(out, format, d) })
	}}, nil
}

// registerAnswers adds the questions, each with its presenter.
func (s *server) registerAnswers(to huma.API) {
	huma.Register(to, get("overview", "/overview", "The last full month beside the one before"), s.overview)
	answers(s, to, get("took", "/took", "How long a leg took"), ofBook(present.Took))
	answers(s, to, get("places", "/places", "How long orders take by where they go"), ofBook(present.Places))
	answers(s, to, get("forecast", "/forecast", "How well forecasts of the ship date would have held"), ofBook(present.Forecast))
	answers(s, to, get("open", "/open", "What was open in a period or over time, how old it was, or which orders it was"),
		ofBook(s.backlog.Open))
	answers(s, to, get("due", "/due", "Which orders are due, late and at risk"), ofBook(present.Due))
	answers(s, to, get("status-latest", "/status/latest", "Where orders stand, or stood at the end of a day"), ofBook(present.StatusLatest))
	answers(s, to, get("status-times", "/status/times", "How long orders were in each status"), ofBook(present.StatusTimes))
	answers(s, to, get("status-transitions", "/status/transitions", "From which status to which orders went, returns and paths"),
		ofBook(present.StatusTransitions))
	answers(s, to, get("status-periods", "/status/periods", "In which status orders were, from when to when"),
		ofBook(present.StatusPeriods))
	answers(s, to, get("crosstab", "/crosstab", "Counts by rows and columns"), ofBook(present.Crosstab))
	answers(s, to, get("compare", "/compare", "Counts by several dates beside each other, in each step of time"), ofBook(present.Compare))
	answers(s, to, get("quality", "/quality", "What looks wrong in the records"), s.askQuality)
	answers(s, to, get("immediate", "/immediate", "How much was requested for the day of the order, and how much was achieved on it"),
		ofBook(present.Immediate))
	answers(s, to, get("immediate-customers", "/immediate/customers", "How customers asked, first and later"),
		ofBook(present.ImmediateCustomers))
	s.registerChecks(to)
}

// askQuality looks at the records themselves besides the book.
func (s *server) askQuality(ctx context.Context, b *book.Book, _ *api.QualityQuestion, _ present.Size) (*answer.Document, error) {
	if last := s.quality.Load(); last != nil && last.Version == b.Version() {
		return last, nil
	}
	if _, earlier := ctx.Value(pastKey{}).(past); earlier { // what is listed beside orders is known as it is now alone
		return present.Quality(b, nil), nil
	}
	found, err := s.Records.RecordDoubts(ctx)
	if err != nil {
		return nil, err
	}
	records := make([]present.RecordIssue, len(found))
	for i, r := range found {
		records[i] = present.RecordIssue(r)
	}
	d := present.Quality(b, records)
	s.quality.Store(d)
	return d, nil
}

// lastLoad is the last load that was not undone, and what it changed.
func (s *server) lastLoad(ctx context.Context) (last present.LastLoad, err error) {
	loads, err := s.Records.Loads(ctx)
	if err != nil {
		return last, err
	}
	at := slices.IndexFunc(loads, func(l store.LoadRecord) bool { return l.UndoneAt == nil })
	if at < 0 {
		return last, nil
	}
	last.Number, last.New = loads[at].ID, map[string]int{}
	for _, f := range loads[at].Files {
		last.New[f.Kind] += int(f.RowsNew)
	}
	dates, err := s.Records.ChangedDates(ctx, last.Number)
	for _, d := range dates {
		last.Dates = append(last.Dates, present.ChangedDate(d))
	}
	return last, err
}

// overview sets the last full month beside the one before.
func (s *server) overview(ctx context.Context, _ *struct{}) (*answered[api.Overview], error) {
	end, err := s.acquireSlot(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	defer end()
	b := s.snapshot(ctx)
	quality, err := s.askQuality(ctx, b, nil, present.ToRead)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	last, err := s.lastLoad(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	body, err := present.Overview(b, &s.backlog, quality, last)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return &answered[api.Overview]{*body}, nil
}
