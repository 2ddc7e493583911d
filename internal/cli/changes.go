package cli

import (
	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

func newChanges(e *environment) *cobra.Command {
	return e.asks(&cobra.Command{
		Use:   "changes",
		Short: "What became of orders since an earlier load: new ones, dates that are new or have moved, newly late ones",
		Long: `What became of orders between an earlier load and now: how many are new or gone, got
a date or had one moved, earlier or later, are newly late, or had a field
corrected; and each such order with what changed. What that does to an answer is
said by two-ways … --but as-of-load=NUMBER.`,
		Example: `  prairie-dusk changes
  prairie-dusk changes --since 1
  prairie-dusk changes --since 2026-09-30
  prairie-dusk two-ways took --period 2026-Q3 --but as-of-load=1`,
	}, asking{path: "/changes", in: &api.ChangesQuestion{}})
}
