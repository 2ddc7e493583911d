package cli

import (
	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

func newAudit(e *environment) *cobra.Command {
	return e.asks(&cobra.Command{
		Use:   "audit",
		Short: "Who changed what, and when: loads, calendars, labels, layouts, statuses, settings, views, checks",
		Long: `Who changed what, the latest first: loads and what became of them, calendars,
labels, layouts, statuses, the two ends of the book, views and checks, each with
what was there before. The list is kept in PostgreSQL and only ever added to.`,
		Example: `  prairie-dusk audit
  prairie-dusk audit --limit 500
  prairie-dusk audit --output audit.csv`,
	}, asking{path: "/audit", in: &api.AuditQuestion{}})
}
