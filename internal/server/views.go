package server

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/store"
)

const viewsPath = api.BasePath + "/views"

func (s *server) registerViews(to huma.API) {
	huma.Register(to, get("views", "/views", "Saved views: questions under a name"), s.views)
	huma.Register(to, get("view", "/views/{name}", "One view"), s.view)
	huma.Register(to, huma.Operation{OperationID: "save-view", Method: http.MethodPut, Path: viewsPath + "/{name}",
		Summary: "Keep a question under a name"}, s.saveView)
	huma.Register(to, huma.Operation{OperationID: "rename-view", Method: http.MethodPost, Path: viewsPath + "/{name}/rename",
		Summary: "Give a view another name"}, s.renameView)
	huma.Register(to, huma.Operation{OperationID: "copy-view", Method: http.MethodPost, Path: viewsPath + "/{name}/copy",
		Summary: "Keep a view under one more name"}, s.copyView)
	huma.Register(to, huma.Operation{OperationID: "delete-view", Method: http.MethodDelete, Path: viewsPath + "/{name}",
		Summary: "Forget a view"}, s.deleteView)
}

// ViewName is the name of a view in an address; exported for huma, as NamedCalendarInput is.
type ViewName struct {
	Name string `path:"name" minLength:"1" maxLength:"100"`
}

func (s *server) views(ctx context.Context, _ *struct{}) (*answered[api.Views], error) {
	views, err := s.Records.Views(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	body := api.Views{Views: []api.View{}}
	for _, v := range views {
		body.Views = append(body.Views, viewBody(v))
	}
	return &answered[api.Views]{body}, nil
}

func viewBody(v store.View) api.View {
	return api.View{Name: v.Name, Address: v.Address, Sentence: v.Sentence, SavedAt: v.SavedAt.UTC().Format(time.RFC3339)}
}

func (s *server) view(ctx context.Context, in *ViewName) (*answered[api.View], error) {
	views, err := s.Records.Views(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	var names []string
	for _, v := range views {
		if strings.EqualFold(v.Name, in.Name) {
			return &answered[api.View]{viewBody(v)}, nil
		}
		names = append(names, v.Name)
	}
	return nil, huma.Error404NotFound(fmt.Sprintf("there is no view %q; %s", in.Name, known(names)))
}

func (s *server) saveView(ctx context.Context, in *struct {
	ViewName
	Replace bool `query:"replace" doc:"Put it in the place of a view of its name."`
	Body    api.ViewContent
}) (*answered[api.Views], error) {
	if err := checkName("name", in.Name); err != nil {
		return nil, s.failed(ctx, err)
	}
	v := store.View{Name: strings.TrimSpace(in.Name), Address: in.Body.Address, Sentence: in.Body.Sentence, SavedAt: time.Now()}
	return s.viewsAfter(ctx, s.Records.SaveView(ctx, v, in.Replace))
}

// viewsAfter lists the views after a change.
func (s *server) viewsAfter(ctx context.Context, err error) (*answered[api.Views], error) {
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return s.views(ctx, nil)
}

type viewRename struct {
	ViewName
	Body api.NewName
}

func (s *server) renameView(ctx context.Context, in *viewRename) (*answered[api.Views], error) {
	if err := checkName("name", in.Body.Name); err != nil {
		return nil, s.failed(ctx, err)
	}
	return s.viewsAfter(ctx, s.Records.RenameView(ctx, in.Name, strings.TrimSpace(in.Body.Name)))
}

func (s *server) copyView(ctx context.Context, in *viewRename) (*answered[api.Views], error) {
	if err := checkName("name", in.Body.Name); err != nil {
		return nil, s.failed(ctx, err)
	}
	found, err := s.view(ctx, &in.ViewName)
	if err != nil {
		return nil, err
	}
	v := store.View{Name: strings.TrimSpace(in.Body.Name), Address: found.Body.Address, Sentence: found.Body.Sentence, SavedAt: time.Now()}
	return s.viewsAfter(ctx, s.Records.SaveView(ctx, v, false))
}

func (s *server) deleteView(ctx context.Context, in *ViewName) (*answered[api.Views], error) {
	return s.viewsAfter(ctx, s.Records.DeleteView(ctx, in.Name))
}
