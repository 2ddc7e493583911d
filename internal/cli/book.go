package cli

import (
	"fmt"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/numfmt"
)

// fromRecords is the word that takes a set end of the book back.
const fromRecords = "auto"

func newBook(e *environment) *cobra.Command {
	var firstDay, dataDate string
	cmd := &cobra.Command{
		Use:   "book",
		Short: "The order book as a whole; set the two ends of its records",
		Example: `  prairie-dusk book
  prairie-dusk book --data-date 2026-10-31
  prairie-dusk book --data-date auto`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			book, err := c.Book(cmd.Context())
			if err != nil {
				return err
			}
			first, data := cmd.Flags().Changed("first-day"), cmd.Flags().Changed("data-date")
			if first || data {
				ends := book.Settings
				if first {
					ends.FirstDay = setOrAuto(firstDay)
				}
				if data {
					ends.DataDate = setOrAuto(dataDate)
				}
				if book, err = c.SaveSettings(cmd.Context(), ends); err != nil {
					return err
				}
			}
			return e.print(cmd, bookSheet(book))
		},
	}
	cmd.Flags().StringVar(&firstDay, "first-day", "", "set the `day` from which the records are complete; auto follows the records")
	cmd.Flags().StringVar(&dataDate, "data-date", "", "set the `day` up to which the records are complete; auto follows the records")
	addFormat(cmd)
	return cmd
}

func setOrAuto(day string) string {
	if day == fromRecords {
		return ""
	}
	return day
}

func bookSheet(b *api.Book) sheet {
	how := func(set string) string {
		if set != "" {
			return "set"
		}
		return "from the records"
	}
	s := sheet{
		title: fmt.Sprintf("The order book: %s orders, complete from %s (%s) to %s (%s)", numfmt.Count(b.Orders),
			b.FirstDay, how(b.Settings.FirstDay), b.DataDate, how(b.Settings.DataDate)),
		answer: b, columns: texts("milestone", "", "known from", "to"),
	}
	for _, m := range b.Milestones {
		kind := "fact"
		if m.Plan {
			kind = "plan"
		}
		s.rows = append(s.rows, []string{m.Name, kind, m.First, m.Last})
	}
	fields := ""
	for i, f := range b.Fields {
		if i > 0 {
			fields += " · "
		}
		fields += fmt.Sprintf("%s %s", f.Name, numfmt.Count(f.Values))
	}
	s.below = []string{"Values of the fields: " + fields}
	return s
}
