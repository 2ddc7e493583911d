package client

import (
	"context"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"prairiedusk/internal/api"
)

// StatusQuestion asks about the statuses of orders; empty words take their defaults.
type StatusQuestion struct {
	In       string // unit
	Calendar string // site or destination
	Source   string // event, daily or either
	MaxGap   string // days
	Where    string
	By       string // one grouping
	At       string // a day: where orders stood at its end
	Period   string // in which stays begin
	Each     string // a step of time in which they do
	Status   string // of a list of stays: only this one
	Sort     string // of a list of stays: order, length or from
}

// What of statuses is shown.
const (
	ShowLatest = "latest"
	ShowStays  = "stays"
	ShowTimes  = "times"
	ShowMoves  = "moves"
)

// statusWords are what each question about statuses takes besides those that all take.
var statusWords = map[string][]string{
	ShowLatest: {"by", "at"},
	ShowTimes:  {"by", "period", "each"},
	ShowMoves:  {"period"},
	ShowStays:  {"period", "status", "sort"},
}

// Words are the words of an address of the console that asks it: show says what is shown.
func (q StatusQuestion) Words(show string) url.Values {
	v := url.Values{}
	for name, value := range map[string]string{"in": q.In, "calendar": q.Calendar, "source": q.Source, "max_gap": q.MaxGap, "where": q.Where,
		"by": q.By, "at": q.At, "period": q.Period, "each": q.Each, "status": q.Status, "sort": q.Sort} {
		if value != "" {
			v.Set(name, value)
		}
	}
	if show != ShowLatest {
		v.Set("show", show)
	}
	return onlyStatus(v, show)
}

// onlyStatus drops the words of an address that a question about statuses does not take.
func onlyStatus(words url.Values, show string) url.Values {
	words = maps.Clone(words)
	for other, own := range statusWords {
		for _, name := range own {
			if other != show && !slices.Contains(statusWords[show], name) {
				words.Del(name)
			}
		}
	}
	return words
}

func statusAt[T any](ctx context.Context, c *Client, show string, words url.Values) (*T, error) {
	words = onlyStatus(words, show)
	words.Del("show")
	return call[T](ctx, c, http.MethodGet, "/status/"+show, words, nil)
}

// StatusLatestAt asks where orders stand, by the words of an address.
func (c *Client) StatusLatestAt(ctx context.Context, words url.Values) (*api.StatusAnswer, error) {
	return statusAt[api.StatusAnswer](ctx, c, ShowLatest, words)
}

// StatusTimesAt asks how long orders were in each status.
func (c *Client) StatusTimesAt(ctx context.Context, words url.Values) (*api.StatusAnswer, error) {
	return statusAt[api.StatusAnswer](ctx, c, ShowTimes, words)
}

// StatusMovesAt asks from which status to which orders went.
func (c *Client) StatusMovesAt(ctx context.Context, words url.Values) (*api.StatusMoves, error) {
	return statusAt[api.StatusMoves](ctx, c, ShowMoves, words)
}

// StatusStaysAt lists stays, so many from an offset on.
func (c *Client) StatusStaysAt(ctx context.Context, words url.Values, offset, limit int) (*api.StatusStays, error) {
	words = onlyStatus(words, ShowStays)
	words.Set("offset", strconv.Itoa(offset))
	words.Set("limit", strconv.Itoa(limit))
	return statusAt[api.StatusStays](ctx, c, ShowStays, words)
}

// Statuses gives the list of statuses.
func (c *Client) Statuses(ctx context.Context) (*api.StatusList, error) {
	return call[api.StatusList](ctx, c, http.MethodGet, "/statuses", nil, nil)
}

// SaveStatuses says of statuses what they are; others stay as they are.
func (c *Client) SaveStatuses(ctx context.Context, settings ...api.StatusSetting) (*api.StatusList, error) {
	return sendJSON[api.StatusList](ctx, c, http.MethodPut, "/statuses", nil, api.StatusSettings{Statuses: settings})
}
