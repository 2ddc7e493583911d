package cli

import (
	"fmt"

	"github.com/spf13/cobra"

	"prairiedusk/internal/server"
)

func newAccess(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "access",
		Short: "An address that lets one browser in",
		Long: `An address that lets one browser in: it works once, and within 10 minutes. The browser is let
in for 30 days, or until somebody logs out there.`,
		Example: `  prairie-dusk access
  prairie-dusk access new-key`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			key, err := c.NewKey(cmd.Context())
			if err != nil {
				return err
			}
			fmt.Fprintln(cmd.OutOrStdout(), server.Entry(c.Address(), key))
			return nil
		},
	}
	cmd.AddCommand(newAccessKey(e))
	return cmd
}

func newAccessKey(e *environment) *cobra.Command {
	return &cobra.Command{
		Use:   "new-key",
		Short: "Another token in the data folder; all browsers and clients have to be let in anew",
		Long: `Make another token, which is in the data folder then, and end all sessions of browsers. Commands
on the data folder find the new token by themselves.`,
		Example: `  prairie-dusk access new-key && prairie-dusk access`,
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			if err := c.NewToken(cmd.Context()); err != nil {
				return err
			}
			fmt.Fprintln(cmd.ErrOrStderr(), "There is another token, and all browsers are logged out; prairie-dusk access lets one in.")
			return nil
		},
	}
}
