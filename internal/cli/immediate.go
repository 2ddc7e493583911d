package cli

import (
	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

func newImmediate(e *environment) *cobra.Command {
	cmd := e.asks(&cobra.Command{
		Use:   "immediate",
		Short: "How much was requested for the day of the order, and how much was achieved on it",
		Long: `How much was requested for the day of the order (immediate), of all that was requested then or later
(booked ahead); and beside it what was shipped, or delivered, on that day. What was asked for
and what was achieved are two rates.`,
		Example: `  prairie-dusk immediate
  prairie-dusk immediate --orders first --by month
  prairie-dusk immediate --period 2026-Q3 --by site --achieved delivered
  prairie-dusk immediate customers --change ahead-then-immediate`,
	}, asking{path: "/immediate", page: immediatePage, in: &api.ImmediateQuestion{}})
	cmd.AddCommand(e.asks(&cobra.Command{
		Use:     "customers",
		Short:   "How customers asked in their first order, and in all later ones",
		Example: `  prairie-dusk immediate customers --period 2026 --change ahead-then-immediate`,
	}, asking{path: "/immediate/customers", in: &api.ImmediateCustomersQuestion{}}))
	return cmd
}
