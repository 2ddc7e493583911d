package cli

import (
	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

func newForecast(e *environment) *cobra.Command {
	return e.asks(&cobra.Command{
		Use:   "forecast",
		Short: "How well forecasts of the ship date would have held, month by month",
		Long: `When open orders may ship is a column of the list: the median of what remains, given
how long an order has waited, by the estimate that counts running orders too, of the
orders of its site and place, else of its site, else of all. It is no promise, and not
the date that is expected. This says how well such forecasts would have held, told at the
end of each month from what was known by then.`,
		Example: `  prairie-dusk orders --where 'forecast != null' --columns number,site,ordered,promised,forecast,forecast-by --sort forecast
  prairie-dusk orders --where 'forecast > promised' --columns number,promised,forecast
  prairie-dusk forecast --period 2026
  prairie-dusk forecast --where 'site == "Galway"'`,
	}, asking{path: "/forecast", in: &api.ForecastQuestion{}})
}
