package server

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/label"
	"prairiedusk/internal/labels"
	"prairiedusk/internal/present"
)

const labelsPath = api.BasePath + "/labels"

func (s *server) registerLabels(to huma.API) {
	huma.Register(to, get("labels", "/labels", "Labels, with how many orders have each of their texts"), s.labels)
	huma.Register(to, huma.Operation{OperationID: "try-label", Method: http.MethodPost, Path: labelsPath + "/{name}/try",
		Summary: "Try a label on the orders, without keeping it"}, s.tryLabel)
	huma.Register(to, huma.Operation{OperationID: "save-label", Method: http.MethodPut, Path: labelsPath + "/{name}",
		Summary: "Keep a label; orders have it as a field from then on"}, s.saveLabel)
	huma.Register(to, huma.Operation{OperationID: "delete-label", Method: http.MethodDelete, Path: labelsPath + "/{name}",
		Summary: "Forget a label"}, s.deleteLabel)
}

func (s *server) labels(ctx context.Context, _ *struct{}) (*answered[api.Labels], error) {
	all, err := s.Labels(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	body := api.Labels{Labels: []api.Label{}}
	b, refused := labels.Apply(s.snapshot(ctx).Unlabelled(), all, present.Decimals)
	problems := map[string]string{}
	for _, err := range refused {
		var of *labels.Error
		if errors.As(err, &of) {
			problems[of.Label] = of.Err.Error()
		}
	}
	for _, d := range all {
		one := labelBody(b, d, all)
		if one.Problem = problems[d.Name]; one.Problem == "" {
			one.Counts = countsBody(b, d)
		}
		body.Labels = append(body.Labels, one)
	}
	return &answered[api.Labels]{body}, nil
}

func labelBody(b *book.Book, d labels.Definition, all []labels.Definition) api.Label {
	body := api.Label{Name: d.Name, Definition: api.LabelDefinition{Rules: []api.LabelRule{}, Rest: d.Rest, Missing: d.Missing},
		Counts: []api.LabelCount{}, Users: labels.Users(d.Name, all)}
	if body.Users == nil {
		body.Users = []string{}
	}
	for _, r := range d.Rules {
		body.Definition.Rules = append(body.Definition.Rules, api.LabelRule(r))
	}
	return body
}

// countsBody counts the texts of a label in a book that has it.
func countsBody(b *book.Book, d labels.Definition) []api.LabelCount {
	texts := label.Label{Name: d.Name, Rest: d.Rest, Missing: d.Missing}
	for _, r := range d.Rules {
		texts.Rules = append(texts.Rules, label.Rule{Text: r.Text})
	}
	counts := []api.LabelCount{}
	for _, c := range label.Counts(b, texts) {
		counts = append(counts, api.LabelCount(c))
	}
	return counts
}

// LabelInput is a label in a request; exported for huma, as NamedCalendarInput is.
type LabelInput struct {
	Name string `path:"name" maxLength:"100"`
	Body api.LabelDefinition
}

func (in LabelInput) definition() labels.Definition {
	d := labels.Definition{Name: labels.Name(in.Name), Rest: in.Body.Rest, Missing: in.Body.Missing}
	for _, r := range in.Body.Rules {
		d.Rules = append(d.Rules, labels.Rule(r))
	}
	return d
}

// tried is a label on the orders as they are, beside the others; whether one of its name is there already.
func (s *server) tried(ctx context.Context, d labels.Definition) (body api.Label, taken bool, err error) {
	all, err := s.Labels(ctx)
	if err != nil {
		return body, false, s.failed(ctx, err)
	}
	for _, other := range all {
		taken = taken || other.Name == d.Name
	}
	all = labels.With(all, d)
	b, refused := labels.Apply(s.snapshot(ctx).Unlabelled(), all, present.Decimals)
	for _, err := range refused {
		var of *labels.Error
		if errors.As(err, &of) && of.Label == d.Name {
			return body, taken, huma.Error422UnprocessableEntity(of.Error())
		}
	}
	body = labelBody(b, d, all)
	body.Counts = countsBody(b, d)
	return body, taken, nil
}

func (s *server) tryLabel(ctx context.Context, in *LabelInput) (*answered[api.Label], error) {
	body, _, err := s.tried(ctx, in.definition())
	return &answered[api.Label]{body}, err
}

func (s *server) saveLabel(ctx context.Context, in *struct {
	LabelInput
	Replace bool `query:"replace" doc:"Put it in the place of a label of its name."`
}) (*answered[api.Label], error) {
	d := in.definition()
	for _, text := range append(d.Texts(), d.Name) {
		if err := checkName("name", text); err != nil {
			return nil, s.failed(ctx, err)
		}
	}
	body, taken, err := s.tried(ctx, d)
	if err != nil {
		return nil, err
	}
	if taken && !in.Replace {
		return nil, huma.Error409Conflict(fmt.Sprintf("a label %q is there already", d.Name))
	}
	if err := s.SaveLabel(ctx, d); err != nil {
		return nil, s.failed(ctx, err)
	}
	return &answered[api.Label]{body}, nil
}

func (s *server) deleteLabel(ctx context.Context, in *struct {
	Name string `path:"name" maxLength:"100"`
}) (*answered[api.Labels], error) {
	all, err := s.Labels(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	if users := labels.Users(in.Name, all); len(users) > 0 {
		return nil, huma.Error409Conflict(fmt.Sprintf("the label %q is used by %s; change or delete that first", in.Name,
			strings.Join(users, ", ")))
	}
	if err := s.DeleteLabel(ctx, in.Name); err != nil {
		return nil, s.failed(ctx, err)
	}
	return s.labels(ctx, nil)
}
