package cli

import (
	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

func newQuality(e *environment) *cobra.Command {
	return e.asks(&cobra.Command{
		Use:   "quality",
		Short: "What looks wrong in the records",
		Example: `  prairie-dusk quality
  prairie-dusk orders --quality shipped-before-ordered`,
	}, asking{path: "/quality", in: &api.QualityQuestion{}})
}
