package cli

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

func newPlaces(e *environment) *cobra.Command {
	cmd := e.asks(&cobra.Command{
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
	cmd.AddCommand(newPlacesSet(e))
	return cmd
}

// newPlacesSet says where a place is.
func newPlacesSet(e *environment) *cobra.Command {
	var place api.PlaceAt
	var at string
	cmd := &cobra.Command{
		Use:   "set PLACE",
		Short: "Say where a place is, in degrees, as a load that can be undone",
		Example: `  prairie-dusk places set Roscrea --country Ireland --at 52.95,-7.80
  prairie-dusk places set Newport --country Ireland --region Mayo --at 53.88,-9.55`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			north, east, _ := strings.Cut(at, ",")
			latitude, faultNorth := strconv.ParseFloat(strings.TrimSpace(north), 64)
			longitude, faultEast := strconv.ParseFloat(strings.TrimSpace(east), 64)
			if faultNorth != nil || faultEast != nil || !(math.Abs(latitude) <= 90) || !(math.Abs(longitude) <= 180) {
				return usageError{fmt.Errorf("--at %q is nowhere; want degrees north and east, such as 52.95,-7.80: south and west are negative", at)}
			}
			c, err := e.client()
			if err != nil {
				return err
			}
			place.Place, place.Latitude, place.Longitude = args[0], latitude, longitude
			if err := c.SavePlaces(cmd.Context(), place); err != nil {
				return err
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "%s is at %g, %g; prairie-dusk loads undo takes it back.\n", place.Place, latitude, longitude)
			return nil
		},
	}
	flags := cmd.Flags()
	flags.StringVar(&place.Country, "country", "", "the `country` in which it lies, as the orders have it")
	flags.StringVar(&place.Region, "region", "", "the `region` in which it lies, where the orders say one")
	flags.StringVar(&at, "at", "", "where it is: degrees `north,east`")
	return cmd
}
