package server

import (
	"context"
	"encoding/json"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/check"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/present"
	"prairiedusk/internal/store"
)

const (
	checkPath  = api.BasePath + "/check"
	checksPath = api.BasePath + "/checks"
	// largestCheck bounds the body of a check: some hundred thousand order numbers.
	largestCheck = 32 << 20
)

func (s *server) registerChecks(to huma.API) {
	answers(s, to, get("changes", "/changes", "What became of orders since an earlier load"), s.changes)
	answers(s, to, get("audit", "/audit", "Who changed what, the latest first"), s.audit)
	answers(s, to, get("two-ways", "/two-ways", "One question under two conventions"), s.askTwoWays)
	answers(s, to, get("second-opinion", "/second-opinion", "What PostgreSQL makes of a question, figure by figure"), s.secondOpinion)
	huma.Register(to, get("sql", "/sql", "A question as one statement of SQL"), s.sql)
	huma.Register(to, huma.Operation{OperationID: "sql-reader", Method: http.MethodPost, Path: api.BasePath + "/sql/reader",
		Summary: "Make the role of PostgreSQL that may read the records, or give it another password"}, s.makeReader)
	huma.Register(to, get("readings", "/readings", "The usual other readings of a question"), s.readings)
	huma.Register(to, huma.Operation{OperationID: "check", Method: http.MethodPost, Path: checkPath,
		Summary: "Hold an answer against what is expected of it", MaxBodyBytes: largestCheck, Responses: documentResponses(to)}, s.check)
	huma.Register(to, get("checks", "/checks", "Saved checks, by name"), s.checks)
	huma.Register(to, huma.Operation{OperationID: "save-check", Method: http.MethodPut, Path: checksPath + "/{name}",
		Summary: "Save a check, in the place of the one of its name", MaxBodyBytes: largestCheck}, s.saveCheck)
	huma.Register(to, huma.Operation{OperationID: "delete-check", Method: http.MethodDelete, Path: checksPath + "/{name}",
		Summary: "Delete a check"}, s.deleteCheck)
	huma.Register(to, huma.Operation{OperationID: "run-checks", Method: http.MethodPost, Path: checksPath + "/run",
		Summary: "Run checks, one after the other: those of the request, or all saved ones", MaxBodyBytes: largestCheck,
		Responses: documentResponses(to)}, s.runChecks)
}

// asker asks the questions of checks.
func (s *server) asker(ctx context.Context, b *book.Book, size present.Size) check.Asker {
	return check.Asker{Backlog: &s.backlog, Book: b, Size: size, Past: func(load string) (*book.Book, error) {
		then, err := s.past(ctx, asOfLoad, load)
		if err != nil {
			return nil, err
		}
		return then.book.Within(ctx), nil
	}, Supposing: func(changes []string) (*book.Book, error) {
		then, err := s.BookSupposing(ctx, changes)
		if err != nil {
			return nil, err
		}
		return then.Within(ctx), nil
	}}
}

func (s *server) askTwoWays(ctx context.Context, b *book.Book, in *api.TwoWays, size present.Size) (*answer.Document, error) {
	return s.asker(ctx, b, size).TwoWays(in)
}

func (s *server) readings(ctx context.Context, in *struct {
	Question string `query:"question" required:"true" maxLength:"20000" doc:"The question as the address of a page has it: took?by=site."`
}) (*answered[*api.Readings], error) {
	of, err := check.Readings(s.snapshot(ctx), in.Question)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return &answered[*api.Readings]{of}, nil
}

func (s *server) check(ctx context.Context, in *struct {
	api.Form
	Body api.Check
}) (*huma.StreamResponse, error) {
	return s.document(ctx, in.Format, func(ctx context.Context, b *book.Book, size present.Size) (*answer.Document, error) {
		return s.asker(ctx, b, size).Against(&in.Body)
	})
}

func (s *server) checks(ctx context.Context, _ *struct{}) (*answered[api.Checks], error) {
	kept, err := s.savedChecks(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return &answered[api.Checks]{api.Checks{Checks: kept}}, nil
}

func (s *server) savedChecks(ctx context.Context) ([]api.NamedCheck, error) {
	kept, err := s.Records.Checks(ctx)
	checks := make([]api.NamedCheck, len(kept))
	for i, k := range kept {
		if err := json.Unmarshal(k.Definition, &checks[i].Check); err != nil {
			return nil, err
		}
		checks[i].Name = k.Name
	}
	return checks, err
}

func (s *server) saveCheck(ctx context.Context, in *struct {
	Name string `path:"name" minLength:"1" maxLength:"100"`
	Body api.Check
}) (*answered[api.Checks], error) {
	if err := checkName("name", in.Name); err != nil {
		return nil, s.failed(ctx, err)
	}
	// A check that cannot be asked is refused, whether it holds or not.
	if _, err := s.check(ctx, &struct {
		api.Form
		Body api.Check
	}{Body: in.Body, Form: api.Form{Format: "json"}}); err != nil {
		return nil, err
	}
	text, err := json.Marshal(in.Body)
	if err == nil {
		err = s.Records.SaveCheck(ctx, store.KeptCheck{Name: strings.TrimSpace(in.Name), Definition: text, SavedAt: time.Now()})
	}
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return s.checks(ctx, nil)
}

func (s *server) deleteCheck(ctx context.Context, in *ViewName) (*answered[api.Checks], error) {
	if err := s.Records.DeleteCheck(ctx, in.Name); err != nil {
		return nil, s.failed(ctx, err)
	}
	return s.checks(ctx, nil)
}

func (s *server) runChecks(ctx context.Context, in *struct {
	api.Form
	Body *api.Checks
}) (*huma.StreamResponse, error) {
	var checks []api.NamedCheck
	if in.Body != nil {
		checks = in.Body.Checks
	} else {
		saved, err := s.savedChecks(ctx)
		if err != nil {
			return nil, s.failed(ctx, err)
		}
		checks = saved
	}
	return s.document(ctx, in.Format, func(ctx context.Context, b *book.Book, size present.Size) (*answer.Document, error) {
		return s.asker(ctx, b, size).Run(checks), nil
	})
}
