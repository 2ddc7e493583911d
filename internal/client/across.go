package client

import (
	"context"
	"io"
	"maps"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"prairiedusk/internal/api"
)

// AcrossQuestion counts by rows and columns, or in each step of time by several dates; empty words take their defaults.
type AcrossQuestion struct {
	Show     []string // orders, lines, units, value, a statistic, share or immediate
	From, To string   // of a statistic: its leg, unit and rule
	In       string
	Count    string
	Basis    []string // milestones
	Period   string
	Rows     string
	Columns  string
	Each     string
	Top      int
	Sort     string
	Empty    string // shown, hidden or alone
	Meets    string // of a share
	Where    string
}

// Words are the words of an address of the console that asks it.
func (q AcrossQuestion) Words() url.Values {
	v := url.Values{}
	top := ""
	if q.Top > 0 {
		top = strconv.Itoa(q.Top)
	}
	for name, value := range map[string]string{"show": strings.Join(q.Show, ","), "from": q.From, "to": q.To, "in": q.In, "count": q.Count, "basis": strings.Join(q.Basis, ","),
		"period": q.Period, "rows": q.Rows, "columns": q.Columns, "each": q.Each, "top": top, "sort": q.Sort, "empty": q.Empty, "meets": q.Meets, "where": q.Where} {
		if value != "" {
			v.Set(name, value)
		}
	}
	return v
}

// AcrossAt asks it by the words of an address.
func (c *Client) AcrossAt(ctx context.Context, words url.Values) (*api.Across, error) {
	return call[api.Across](ctx, c, http.MethodGet, "/across", drawn(words), nil)
}

// AcrossFile writes it as a file: csv, xlsx, ndjson, json or parquet.
func (c *Client) AcrossFile(ctx context.Context, words url.Values, format string, to io.Writer) error {
	words = drawn(words)
	words.Set("format", format)
	return c.file(ctx, "/across-file", words, to)
}

// drawn leaves out the words of an address that say how the console draws the answer.
func drawn(words url.Values) url.Values {
	words = maps.Clone(words)
	for _, name := range []string{"picture", "shade", "blank", "currency"} {
		words.Del(name)
	}
	return words
}

// Overview sets the last full month beside the one before.
func (c *Client) Overview(ctx context.Context) (*api.Overview, error) {
	return call[api.Overview](ctx, c, http.MethodGet, "/overview", nil, nil)
}

// Behind are the words that ask for the orders behind a number of one of the question's figures; pick has words such as row,
// column, by_date and place, as the API has them.
func (q AcrossQuestion) Behind(figure string, pick map[string]string) url.Values {
	v := q.Words()
	for _, name := range []string{"show", "rows", "columns", "sort", "empty"} {
		v.Del(name)
	}
	for name, value := range map[string]string{"figure": figure, "across_rows": q.Rows, "across_columns": q.Columns} {
		if value != "" {
			v.Set(name, value)
		}
	}
	for name, value := range pick {
		v.Set(name, value)
	}
	return v
}
