package cli

import (
	"bytes"
	"encoding/json"
	"fmt"
	"path/filepath"

	"github.com/spf13/cobra"

	"prairiedusk/internal/app"
	"prairiedusk/internal/demo"
)

// The demo book, unless somebody says otherwise.
const (
	demoOrders = 6000
	demoSeed   = 1
)

func newDemoData() *cobra.Command {
	var o demo.Options
	var folder string
	var exports bool
	cmd := &cobra.Command{
		Use:   "demo-data",
		Short: "Write the made-up files of Sundrift Apiary Supply",
		Long: `Write the files of Sundrift Apiary Supply, a made-up seller of beekeeping goods: orders
and all that belongs to them, lists and working calendars, and a manifest of what was
planted in them; with --exports, the same records as eight other systems export them. The same
seed writes the same files.`,
		Example: `  prairie-dusk demo-data --out sundrift
  prairie-dusk demo-data --exports --out exports
  prairie-dusk demo-data --orders 1500000 --seed 7 --bare --out large`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if o.Orders < 0 {
				return usageError{fmt.Errorf("--orders %d: want 0 or more", o.Orders)}
			}
			write := demo.Write
			if exports {
				write = demo.WriteExports
			}
			m, err := write(folder, o)
			if err != nil {
				return err
			}
			if !exports {
				m.Files = append(m.Files, demo.ManifestFile)
			}
			for _, name := range m.Files {
				fmt.Fprintln(cmd.OutOrStdout(), filepath.Join(folder, name))
			}
			return nil
		},
	}
	cmd.Flags().IntVar(&o.Orders, "orders", demoOrders, "how many `orders`")
	cmd.Flags().Uint64Var(&o.Seed, "seed", demoSeed, "`seed` of the maker")
	cmd.Flags().BoolVar(&o.Bare, "bare", false, "only the orders and the calendars")
	cmd.Flags().BoolVar(&exports, "exports", false, "as other systems export them, with headings, dates and numbers of their own")
	cmd.MarkFlagsMutuallyExclusive("bare", "exports")
	cmd.Flags().StringVar(&folder, "out", "sundrift", "`folder` to write to")
	return cmd
}

func newOpenAPI() *cobra.Command {
	return &cobra.Command{
		Use:    "openapi",
		Short:  "Print the OpenAPI document of the service",
		Hidden: true, // for building clients; a running service has it at /api/openapi.json
		Args:   cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			text, err := app.DescribeAPI()
			if err != nil {
				return err
			}
			var indented bytes.Buffer
			if err := json.Indent(&indented, text, "", "  "); err != nil {
				return err
			}
			_, err = fmt.Fprintln(cmd.OutOrStdout(), indented.String())
			return err
		},
	}
}
