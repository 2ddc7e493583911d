package cli

import (
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

func newOverview(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "overview",
		Short: "The last full month beside the one before",
		Long: `The last month that the records cover whole, beside the one before: orders, what was open at the
end, how long orders took, how many were late, how much was requested at once, and what looks wrong
in the records. Below the table, the question of each number and how to ask it again.`,
		Example: `  prairie-dusk overview`,
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			a, err := c.Overview(cmd.Context())
			if err != nil {
				return err
			}
			return e.print(cmd, overviewSheet(a))
		},
	}
	addFormat(cmd)
	return cmd
}

// overviewLine is a list of the overview in one line.
func overviewLine(l api.OverviewList) string {
	var rows []string
	for _, r := range l.Rows {
		text := strings.TrimSpace(r.Order + " " + r.Text)
		rows = append(rows, text+": "+r.Number)
	}
	if rows == nil {
		return l.Title + ": " + l.None
	}
	return l.Title + ": " + strings.Join(rows, "; ")
}

func overviewSheet(a *api.Overview) sheet {
	s := sheet{title: a.Sentence, answer: a, columns: append(texts(""), numbers(a.Month, a.Before, "change")...)}
	s.columns = append(s.columns, texts("of")...)
	for _, f := range a.Figures {
		s.rows = append(s.rows, []string{f.Label, f.Text, f.Before, f.Change, f.Behind})
		line := f.Label + ": " + f.Sentence
		if f.Remark != "" {
			line += " " + f.Remark
		}
		s.below = append(s.below, strings.TrimSpace(line))
	}
	for _, l := range a.Lists {
		s.below = append(s.below, overviewLine(l))
	}
	return s
}
