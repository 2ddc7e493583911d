package cli

import (
	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

func newTook(e *environment) *cobra.Command {
	return e.asks(&cobra.Command{
		Use:   "took",
		Short: "How long a leg took",
		Long: `How long a leg took: mean, median, 90th percentile, shortest and longest, over the
orders whose leg is complete. All other orders stand in the line below, by kind.`,
		Example: `  prairie-dusk took --period 2026-Q3 --by site
  prairie-dusk took --from shipped --to delivered --in working-days --calendar destination
  prairie-dusk took --in working-hours --by site
  prairie-dusk took --over 10 --by site
  prairie-dusk took --promise promised --by site
  prairie-dusk took --promise 5 --by month
  prairie-dusk took --to paid --through shipped,delivered,invoiced-or-shipped
  prairie-dusk took --with-running --period 2026-10
  prairie-dusk took --show median --by month,site
  prairie-dusk took --period 2026-10 --explain
  prairie-dusk took --by month,site --output months.xlsx`,
	}, asking{path: "/took", page: howLongPage, in: &api.TookQuestion{}})
}
