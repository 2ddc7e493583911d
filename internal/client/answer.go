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

// AnswerAbout asks a question that has a body, such as a check.
func (c *Client) AnswerAbout(ctx context.Context, path string, body any) (*answer.Document, error) {
	return sendJSON[answer.Document](ctx, c, on(http.MethodPost, path), body)
}

// FileAbout writes an answer to a question that has a body.
func (c *Client) FileAbout(ctx context.Context, path string, body any, format string, to io.Writer) error {
	r, err := on(http.MethodPost, path).with(url.Values{"format": {format}}).withJSON(body)
	if err != nil {
		return err
	}
	return c.fileOf(ctx, r, to)
}

// SQL is a question, by its address, as one statement.
func (c *Client) SQL(ctx context.Context, question string) (string, error) {
	statement, err := call[api.Statement](ctx, c, on(http.MethodGet, "/sql").with(url.Values{"question": {question}}))
	if err != nil {
		return "", err
	}
	return statement.SQL, nil
}

// MakeReader makes the role of PostgreSQL that may read the records and change nothing, and gives the address of the database for it.
func (c *Client) MakeReader(ctx context.Context) (string, error) {
	reader, err := call[api.Reader](ctx, c, on(http.MethodPost, "/sql/reader"))
	if err != nil {
		return "", err
	}
	return reader.Address, nil
}

// Checks lists the saved checks.
func (c *Client) Checks(ctx context.Context) (*api.Checks, error) {
	return call[api.Checks](ctx, c, on(http.MethodGet, "/checks"))
}

// SaveCheck saves a check, in the place of the one of its name.
func (c *Client) SaveCheck(ctx context.Context, name string, check api.Check) (*api.Checks, error) {
	return sendJSON[api.Checks](ctx, c, on(http.MethodPut, "/checks/"+url.PathEscape(name)), check)
}

// DeleteCheck deletes a saved check.
func (c *Client) DeleteCheck(ctx context.Context, name string) (*api.Checks, error) {
	return call[api.Checks](ctx, c, on(http.MethodDelete, "/checks/"+url.PathEscape(name)))
}

// Overview sets the last full month beside the one before.
func (c *Client) Overview(ctx context.Context) (*api.Overview, error) {
	return call[api.Overview](ctx, c, on(http.MethodGet, "/overview"))
}
