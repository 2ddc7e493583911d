package cli

import (
	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

func newPlaces(e *environment) *cobra.Command {
	return e.asks(&cobra.Command{
		Use:   "places",
		Short: "How long orders take by where they go, the longest first",
		Long: `How long orders take by where they go: a figure for each place, region, country
or route, with its 95% interval, beside all orders and beside a target. Places
with few orders are listed last and have no rank, and two places of one name
stay two. The page Places draws it on a map.`,
		Example: `  prairie-dusk places --to delivered --period 2026-Q3
  prairie-dusk places --to delivered --by site-place --show p90
  prairie-dusk places --to delivered --show over --over 10
  prairie-dusk places --show late --rank lower-end
  prairie-dusk places --by country --show mean --target 5`,
	}, asking{path: "/places", page: placesPage, in: &api.PlacesQuestion{}})
}
