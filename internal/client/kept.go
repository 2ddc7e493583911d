package client

import (
	"context"
	"net/http"
	"net/url"

	"prairiedusk/internal/api"
)

func labelPath(name string) string { return "/labels/" + url.PathEscape(name) }

// replacing says whether what is there of a name may be put away.
func replacing(replace bool) url.Values {
	if !replace {
		return nil
	}
	return url.Values{"replace": {"true"}}
}

// Labels lists the labels.
func (c *Client) Labels(ctx context.Context) (*api.Labels, error) {
	return call[api.Labels](ctx, c, on(http.MethodGet, "/labels"))
}

// TryLabel says how many orders have each text of a label, without keeping it.
func (c *Client) TryLabel(ctx context.Context, name string, d api.LabelDefinition) (*api.Label, error) {
	return sendJSON[api.Label](ctx, c, on(http.MethodPost, labelPath(name)+"/try"), d)
}

// SaveLabel keeps a label; in the place of one of its name only with replace, else the problem is a conflict.
func (c *Client) SaveLabel(ctx context.Context, name string, d api.LabelDefinition, replace bool) (*api.Label, error) {
	return sendJSON[api.Label](ctx, c, on(http.MethodPut, labelPath(name)).with(replacing(replace)), d)
}

// DeleteLabel forgets a label.
func (c *Client) DeleteLabel(ctx context.Context, name string) (*api.Labels, error) {
	return call[api.Labels](ctx, c, on(http.MethodDelete, labelPath(name)))
}

func viewPath(name string) string { return "/views/" + url.PathEscape(name) }

// Views lists the views.
func (c *Client) Views(ctx context.Context) (*api.Views, error) {
	return call[api.Views](ctx, c, on(http.MethodGet, "/views"))
}

// View is the view of a name.
func (c *Client) View(ctx context.Context, name string) (*api.View, error) {
	return call[api.View](ctx, c, on(http.MethodGet, viewPath(name)))
}

// SaveView keeps a view; in the place of one of its name only with replace, else the problem is a conflict.
func (c *Client) SaveView(ctx context.Context, name string, v api.ViewContent, replace bool) (*api.Views, error) {
	return sendJSON[api.Views](ctx, c, on(http.MethodPut, viewPath(name)).with(replacing(replace)), v)
}

// RenameView gives a view another name; one that is taken is a conflict.
func (c *Client) RenameView(ctx context.Context, name, to string) (*api.Views, error) {
	return sendJSON[api.Views](ctx, c, on(http.MethodPost, viewPath(name)+"/rename"), api.NewName{Name: to})
}

// CopyView keeps a view under one more name; one that is taken is a conflict.
func (c *Client) CopyView(ctx context.Context, name, to string) (*api.Views, error) {
	return sendJSON[api.Views](ctx, c, on(http.MethodPost, viewPath(name)+"/copy"), api.NewName{Name: to})
}

// DeleteView forgets a view.
func (c *Client) DeleteView(ctx context.Context, name string) (*api.Views, error) {
	return call[api.Views](ctx, c, on(http.MethodDelete, viewPath(name)))
}

func layoutPath(name string) string { return "/layouts/" + url.PathEscape(name) }

// Layouts lists the layouts.
func (c *Client) Layouts(ctx context.Context) (*api.Layouts, error) {
	return call[api.Layouts](ctx, c, on(http.MethodGet, "/layouts"))
}

// Layout is the layout of a name.
func (c *Client) Layout(ctx context.Context, name string) (*api.Layout, error) {
	return call[api.Layout](ctx, c, on(http.MethodGet, layoutPath(name)))
}

// SaveLayout keeps a layout; in the place of one of its name only with replace, else the problem is a conflict.
func (c *Client) SaveLayout(ctx context.Context, l api.Layout, replace bool) (*api.Layouts, error) {
	return sendJSON[api.Layouts](ctx, c, on(http.MethodPut, layoutPath(l.Name)).with(replacing(replace)), l)
}

// RenameLayout gives a layout another name; one that is taken is a conflict.
func (c *Client) RenameLayout(ctx context.Context, name, to string) (*api.Layouts, error) {
	return sendJSON[api.Layouts](ctx, c, on(http.MethodPost, layoutPath(name)+"/rename"), api.NewName{Name: to})
}

// DeleteLayout forgets a layout.
func (c *Client) DeleteLayout(ctx context.Context, name string) (*api.Layouts, error) {
	return call[api.Layouts](ctx, c, on(http.MethodDelete, layoutPath(name)))
}
