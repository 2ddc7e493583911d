package client

import (
	"context"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"prairiedusk/internal/api"
)

// ImmediateQuestion asks how much was immediate; empty words take their defaults.
type ImmediateQuestion struct {
	Orders          string // all, first or first-within
	By              []string
	Basis           string
	Period          string
	Got             string // shipped or delivered
	NoRequestedDate string // in or out
	Cancelled       string // in or out
	Where           string
	Change          string // of customers: only those who changed so
}

// Words are the words of an address of the console that asks it.
func (q ImmediateQuestion) Words() url.Values {
	v := url.Values{}
	for name, value := range map[string]string{"orders": q.Orders, "by": strings.Join(q.By, ","), "basis": q.Basis, "period": q.Period, "got": q.Got,
		"no_requested_date": q.NoRequestedDate, "cancelled": q.Cancelled, "where": q.Where, "change": q.Change} {
		if value != "" {
			v.Set(name, value)
		}
	}
	return v
}

// ImmediateAt asks it by the words of an address.
func (c *Client) ImmediateAt(ctx context.Context, words url.Values) (*api.Immediate, error) {
	return call[api.Immediate](ctx, c, http.MethodGet, "/immediate", asked(words, "change"), nil)
}

// ImmediateCustomersAt lists customers, so many from an offset on.
func (c *Client) ImmediateCustomersAt(ctx context.Context, words url.Values, offset, limit int) (*api.AskingCustomers, error) {
	words = asked(words, "orders", "by")
	words.Set("offset", strconv.Itoa(offset))
	words.Set("limit", strconv.Itoa(limit))
	return call[api.AskingCustomers](ctx, c, http.MethodGet, "/immediate/customers", words, nil)
}
