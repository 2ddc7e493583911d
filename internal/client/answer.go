package client

import (
	"context"
	"io"
	"net/http"
	"net/url"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
)

// Answer asks a question, by the path and the parameters that it has in the API.
func (c *Client) Answer(ctx context.Context, path string, words url.Values) (*answer.Document, error) {
	return call[answer.Document](ctx, c, on(http.MethodGet, path).with(words))
}

// AnswerFile writes an answer in a form: csv, xlsx, ndjson, json or parquet.
func (c *Client) AnswerFile(ctx context.Context, path string, words url.Values, format string, to io.Writer) error {
	words.Set("format", format)
	return c.file(ctx, path, words, to)
}

// Overview sets the last full month beside the one before.
func (c *Client) Overview(ctx context.Context) (*api.Overview, error) {
	return call[api.Overview](ctx, c, on(http.MethodGet, "/overview"))
}
