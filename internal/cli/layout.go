package cli

import (
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
)

func newLayout(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "layout",
		Short: "What the columns of files mean, as remembered for the next file with the same headings",
		Long: `What the columns of files mean. A load that ends well remembers it, under the name of the file, and the next
file with the same headings, or with one more or one less, is read in the same way. prairie-dusk load says by
which layout it has read a file; --layout NAME chooses one, and --layout none reads by none.`,
		Example: `  prairie-dusk layout list
  prairie-dusk layout show warehouse
  prairie-dusk layout rename warehouse 'Galway warehouse'
  prairie-dusk layout export 'Galway warehouse' > galway.json
  prairie-dusk layout import galway.json --name Hamilton`,
	}
	change := func(use, short string, args int, change func(cmd *cobra.Command, c *client.Client, args []string) (*api.Layouts,
		error)) *cobra.Command {
		sub := &cobra.Command{Use: use, Short: short, Args: cobra.ExactArgs(args), RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			answer, err := change(cmd, c, args)
			if err != nil {
				return err
			}
			return e.print(cmd, layoutsSheet(answer))
		}, ValidArgsFunction: e.completeLayout}
		addFormat(sub)
		return sub
	}
	cmd.AddCommand(
		change("list", "The layouts", 0, func(cmd *cobra.Command, c *client.Client, _ []string) (*api.Layouts, error) {
			return c.Layouts(cmd.Context())
		}),
		newLayoutShow(e),
		change("rename NAME TO", "Give a layout another name", 2, func(cmd *cobra.Command, c *client.Client, args []string) (*api.Layouts,
			error) {
			return c.RenameLayout(cmd.Context(), args[0], args[1])
		}),
		change("delete NAME", "Forget a layout", 1, func(cmd *cobra.Command, c *client.Client, args []string) (*api.Layouts, error) {
			return c.DeleteLayout(cmd.Context(), args[0])
		}),
		newLayoutExport(e), newLayoutImport(e),
	)
	return cmd
}

func newLayoutShow(e *environment) *cobra.Command {
	cmd := &cobra.Command{Use: "show NAME", Short: "What each column means in a layout", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			layout, err := c.Layout(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			return e.print(cmd, layoutSheet(layout))
		}, ValidArgsFunction: e.completeLayout}
	addFormat(cmd)
	return cmd
}

func newLayoutExport(e *environment) *cobra.Command {
	return &cobra.Command{Use: "export NAME", Short: "A layout as JSON, for prairie-dusk layout import", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			layout, err := c.Layout(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			layout.SavedAt = "" // which is no matter of those who read it
			out := json.NewEncoder(dataOut(cmd))
			out.SetIndent("", "  ")
			out.SetEscapeHTML(false)
			return out.Encode(layout)
		}, ValidArgsFunction: e.completeLayout}
}

func newLayoutImport(e *environment) *cobra.Command {
	var name string
	var replace bool
	cmd := &cobra.Command{Use: "import FILE", Short: "Keep a layout that was exported; - is standard input", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			in := cmd.InOrStdin()
			if args[0] != client.StandardInput {
				file, err := os.Open(args[0])
				if err != nil {
					return err
				}
				defer file.Close()
				in = file
			}
			var layout api.Layout
			const most = 1 << 20
			decoder := json.NewDecoder(io.LimitReader(in, most))
			decoder.DisallowUnknownFields()
			if err := decoder.Decode(&layout); err != nil {
				return fmt.Errorf("%s is no layout as prairie-dusk layout export writes it: %w", args[0], err)
			}
			if layout.SavedAt = ""; name != "" {
				layout.Name = name
			}
			c, err := e.client()
			if err != nil {
				return err
			}
			var layouts *api.Layouts
			err = e.unlessTaken(cmd, replace, func(replace bool) (err error) {
				layouts, err = c.SaveLayout(cmd.Context(), layout, replace)
				return err
			})
			if err != nil {
				return err
			}
			return e.print(cmd, layoutsSheet(layouts))
		}}
	cmd.Flags().StringVar(&name, "name", "", "keep it under this `name`")
	cmd.Flags().BoolVar(&replace, "replace", false, "put it in the place of a layout of its name")
	addFormat(cmd)
	return cmd
}

func layoutsSheet(a *api.Layouts) sheet {
	s := sheet{title: "Layouts: what the columns of files mean", answer: a, columns: append(texts("name"), numbers("columns")...)}
	s.columns = append(s.columns, column{name: "such as", wraps: true}, column{name: "saved"})
	for _, l := range a.Layouts {
		var means []string
		for _, c := range l.Columns {
			if c.Means != "" && len(means) < 4 {
				means = append(means, c.Heading+" = "+c.Means)
			}
		}
		s.rows = append(s.rows, []string{l.Name, numfmt.Count(len(l.Columns)), strings.Join(means, ", "), l.SavedAt})
	}
	if len(a.Layouts) == 0 {
		s.below = append(s.below, "There are none. A load remembers what columns mean where their headings are not simply our names.")
	}
	return s
}

func layoutSheet(l *api.Layout) sheet {
	s := sheet{title: "The layout " + l.Name, answer: l, columns: texts("heading", "taken for", "plan", "dates", "decimals")}
	for _, c := range l.Columns {
		means, plan := c.Means, ""
		if means == "" || means == "left-out" {
			means = "not read"
		}
		if c.Plan {
			plan = "a plan"
		}
		s.rows = append(s.rows, []string{c.Heading, means, plan, c.Dates, c.Decimals})
	}
	return s
}

// completeLayout completes the first argument with the names of layouts.
func (e *environment) completeLayout(cmd *cobra.Command, args []string, _ string) (names []string, _ cobra.ShellCompDirective) {
	if len(args) == 0 && e.readSettings(cmd, nil) == nil {
		if c, err := e.client(); err == nil {
			if layouts, err := c.Layouts(cmd.Context()); err == nil {
				for _, l := range layouts.Layouts {
					names = append(names, l.Name)
				}
			}
		}
	}
	return names, cobra.ShellCompDirectiveNoFileComp
}
