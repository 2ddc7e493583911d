package client

import (
	"context"
	"net/http"
	"net/url"
	"strconv"

	"prairiedusk/internal/api"
)

// OpenQuestion asks what was open; empty words take their defaults. The question's basis plays no part.
type OpenQuestion struct {
	Question
	ClosingDay string // in or out
	Each       string // a step of time
	Holdings   bool   // units and values in each step
	At         string // a day, for ages
	Buckets    string // of ages
	Sort       string // of lanes: start or age
	Offset     int    // of lanes
	Limit      int    // of lanes; 0 is the service's default
}

func (q OpenQuestion) words(own map[string]string) url.Values {
	v := q.Question.Words()
	v.Del("basis")
	own["closing_day"] = q.ClosingDay
	for name, value := range own {
		if value != "" {
			v.Set(name, value)
		}
	}
	return v
}

// OpenWords are the words of an address that asks what was open.
func (q OpenQuestion) OpenWords() url.Values {
	own := map[string]string{"each": q.Each}
	if q.Holdings {
		own["holdings"] = "true"
	}
	return q.words(own)
}

// Open asks what was open in a period, or in each of its steps.
func (c *Client) Open(ctx context.Context, q OpenQuestion) (*api.Open, error) {
	return call[api.Open](ctx, c, http.MethodGet, "/open", q.OpenWords(), nil)
}

// Ages asks how old what was open at the end of a day was.
func (c *Client) Ages(ctx context.Context, q OpenQuestion) (*api.Ages, error) {
	return call[api.Ages](ctx, c, http.MethodGet, "/open/ages", q.words(map[string]string{"at": q.At, "buckets": q.Buckets, "each": q.Each}), nil)
}

// Lanes lists the orders that were open, over their days.
func (c *Client) Lanes(ctx context.Context, q OpenQuestion) (*api.Lanes, error) {
	own := map[string]string{"sort": q.Sort}
	if q.Offset > 0 {
		own["offset"] = strconv.Itoa(q.Offset)
	}
	if q.Limit > 0 {
		own["limit"] = strconv.Itoa(q.Limit)
	}
	return call[api.Lanes](ctx, c, http.MethodGet, "/open/lanes", q.words(own), nil)
}
