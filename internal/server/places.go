package server

import (
	"context"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
)

func (s *server) savePlaces(ctx context.Context, in *struct{ Body api.PlacesAt }) (*answered[api.PlacesAt], error) {
	places := make([]book.PlaceRecord, len(in.Body.Places))
	for i, p := range in.Body.Places {
		places[i] = book.PlaceRecord{Place: p.Place, Country: p.Country, Region: p.Region,
			At: &book.Coordinates{Latitude: p.Latitude, Longitude: p.Longitude}}
	}
	if err := s.SavePlaces(ctx, places); err != nil {
		return nil, s.failed(ctx, err)
	}
	return &answered[api.PlacesAt]{in.Body}, nil
}
