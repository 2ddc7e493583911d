package server

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/intake"
	"prairiedusk/internal/store"
)

const layoutsPath = api.BasePath + "/layouts"

func (s *server) registerLayouts(to huma.API) {
	huma.Register(to, get("layouts", "/layouts", "What the columns of files mean, as remembered"), s.layouts)
	huma.Register(to, get("layout", "/layouts/{name}", "One layout"), s.layout)
	huma.Register(to, huma.Operation{OperationID: "save-layout", Method: http.MethodPut, Path: layoutsPath + "/{name}",
		Summary: "Keep a layout under a name"}, s.saveLayout)
	huma.Register(to, huma.Operation{OperationID: "rename-layout", Method: http.MethodPost, Path: layoutsPath + "/{name}/rename",
		Summary: "Give a layout another name"}, s.renameLayout)
	huma.Register(to, huma.Operation{OperationID: "delete-layout", Method: http.MethodDelete, Path: layoutsPath + "/{name}",
		Summary: "Forget a layout"}, s.deleteLayout)
}

func (s *server) layouts(ctx context.Context, _ *struct{}) (*answered[api.Layouts], error) {
	kept, err := s.Records.Layouts(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	body := api.Layouts{Layouts: []api.Layout{}}
	for _, k := range kept {
		var layout api.Layout
		if err := json.Unmarshal(k.Definition, &layout); err != nil {
			return nil, s.failed(ctx, err)
		}
		layout.Name, layout.SavedAt = k.Name, k.SavedAt.UTC().Format(time.RFC3339)
		body.Layouts = append(body.Layouts, layout)
	}
	return &answered[api.Layouts]{body}, nil
}

func (s *server) layout(ctx context.Context, in *ViewName) (*answered[api.Layout], error) {
	all, err := s.layouts(ctx, nil)
	if err != nil {
		return nil, err
	}
	var names []string
	for _, l := range all.Body.Layouts {
		if strings.EqualFold(l.Name, in.Name) {
			return &answered[api.Layout]{l}, nil
		}
		names = append(names, l.Name)
	}
	return nil, huma.Error404NotFound(fmt.Sprintf("there is no layout %q; %s", in.Name, known(names)))
}

// known lists the names of what is kept.
func known(names []string) string {
	if len(names) == 0 {
		return "none is kept yet"
	}
	return "there are " + strings.Join(names, ", ")
}

func (s *server) saveLayout(ctx context.Context, in *struct {
	ViewName
	Replace bool `query:"replace" doc:"Put it in the place of a layout of its name."`
	Body    api.Layout
}) (*answered[api.Layouts], error) {
	name, err := layoutName(in.Name)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	layout := intake.Layout{NotKnown: in.Body.NotKnown, AsTheyStand: in.Body.AsTheyStand, Currency: in.Body.Currency, Rows: in.Body.Rows,
		Lines: in.Body.Lines}
	for _, c := range in.Body.Columns {
		layout.Columns = append(layout.Columns, intake.LayoutColumn(c))
	}
	if err := layout.Check(); err != nil {
		return nil, huma.Error422UnprocessableEntity(err.Error())
	}
	definition, err := json.Marshal(layout)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	kept := store.KeptLayout{Name: name, Headings: layout.Headings(), Definition: definition, SavedAt: time.Now()}
	return s.layoutsAfter(ctx, s.Records.SaveLayout(ctx, kept, in.Replace))
}

// layoutName is a name that a layout can have.
func layoutName(name string) (string, error) {
	name = strings.TrimSpace(name)
	if strings.EqualFold(name, intake.NoLayout) || name == "" {
		return "", &request.Error{Param: "name", Value: name, Reason: "a layout cannot be called so; want another name"}
	}
	return name, checkName("name", name)
}

// layoutsAfter lists the layouts after a change.
func (s *server) layoutsAfter(ctx context.Context, err error) (*answered[api.Layouts], error) {
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return s.layouts(ctx, nil)
}

func (s *server) renameLayout(ctx context.Context, in *viewRename) (*answered[api.Layouts], error) {
	name, err := layoutName(in.Body.Name)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return s.layoutsAfter(ctx, s.Records.RenameLayout(ctx, in.Name, name))
}

func (s *server) deleteLayout(ctx context.Context, in *ViewName) (*answered[api.Layouts], error) {
	return s.layoutsAfter(ctx, s.Records.DeleteLayout(ctx, in.Name))
}
