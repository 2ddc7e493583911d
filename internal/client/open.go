package client

import (
	"context"
	"maps"
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

// Words are the words of an address of the console that asks it: show says what of it is shown, and empty is the period.
func (q OpenQuestion) Words(show string) url.Values {
	v := q.Question.Words()
	v.Del("basis")
	own := map[string]string{"closing_day": q.ClosingDay, "show": show}
	switch show {
	case ShowTime:
		own["each"] = q.Each
		if q.Holdings {
			own["holdings"] = "true"
		}
	case ShowAges:
		own["at"], own["buckets"], own["mix"] = q.At, q.Buckets, q.Each
	case ShowLanes:
		own["sort"] = q.Sort
	}
	for name, value := range own {
		if value != "" {
			v.Set(name, value)
		}
	}
	return v
}

// What of what was open is shown.
const (
	ShowTime  = "time"
	ShowLanes = "lanes"
	ShowAges  = "ages"
)

// asked are words of an address as the service takes them.
func asked(words url.Values, drop ...string) url.Values {
	words = maps.Clone(words)
	for _, name := range append(drop, "show") {
		words.Del(name)
	}
	return words
}

// Open asks what was open in a period, or in each of its steps.
func (c *Client) Open(ctx context.Context, q OpenQuestion) (*api.Open, error) {
	words := q.Words(ShowTime)
	if q.Each == "" {
		words = q.Words("")
	}
	return c.OpenAt(ctx, words)
}

// OpenAt asks it by the words of an address.
func (c *Client) OpenAt(ctx context.Context, words url.Values) (*api.Open, error) {
	return call[api.Open](ctx, c, http.MethodGet, "/open", asked(words, "at", "buckets", "mix", "sort"), nil)
}

// Ages asks how old what was open at the end of a day was.
func (c *Client) Ages(ctx context.Context, q OpenQuestion) (*api.Ages, error) {
	return c.AgesAt(ctx, q.Words(ShowAges))
}

// AgesAt asks it by the words of an address.
func (c *Client) AgesAt(ctx context.Context, words url.Values) (*api.Ages, error) {
	ages := asked(words, "mix", "each", "sort", "holdings")
	if mix := words.Get("mix"); mix != "" {
		ages.Set("each", mix)
	}
	return call[api.Ages](ctx, c, http.MethodGet, "/open/ages", ages, nil)
}

// Lanes lists the orders that were open, over their days.
func (c *Client) Lanes(ctx context.Context, q OpenQuestion) (*api.Lanes, error) {
	return c.LanesAt(ctx, q.Words(ShowLanes), q.Offset, q.Limit)
}

// LanesAt lists them by the words of an address, so many from an offset on; a limit of 0 is the service's default.
func (c *Client) LanesAt(ctx context.Context, words url.Values, offset, limit int) (*api.Lanes, error) {
	words = asked(words, "at", "buckets", "mix", "each", "holdings")
	if offset > 0 {
		words.Set("offset", strconv.Itoa(offset))
	}
	if limit > 0 {
		words.Set("limit", strconv.Itoa(limit))
	}
	return call[api.Lanes](ctx, c, http.MethodGet, "/open/lanes", words, nil)
}
