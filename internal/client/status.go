package client

import (
	"context"
	"net/http"

	"prairiedusk/internal/api"
)

// Statuses gives the list of statuses.
func (c *Client) Statuses(ctx context.Context) (*api.StatusList, error) {
	return call[api.StatusList](ctx, c, on(http.MethodGet, "/statuses"))
}

// SavePlaces says where places are; others stay as they are.
func (c *Client) SavePlaces(ctx context.Context, places ...api.PlaceAt) error {
	_, err := sendJSON[api.PlacesAt](ctx, c, on(http.MethodPut, "/places"), api.PlacesAt{Places: places})
	return err
}

// SaveStatuses says of statuses what they are; others stay as they are.
func (c *Client) SaveStatuses(ctx context.Context, settings ...api.StatusSetting) (*api.StatusList, error) {
	return sendJSON[api.StatusList](ctx, c, on(http.MethodPut, "/statuses"), api.StatusSettings{Statuses: settings})
}
