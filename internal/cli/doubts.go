package cli

import (
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/numfmt"
)

func newDoubts(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "doubts",
		Short: "What looks wrong in the records",
		Example: `  prairie-dusk doubts
  prairie-dusk orders --doubt shipped-before-ordered`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			answer, err := c.Doubts(cmd.Context())
			if err != nil {
				return err
			}
			sheets := []sheet{doubtsSheet(answer)}
			if e.settings.GetString("format") == asTable {
				sheets = append(sheets, knownSheet(answer))
			}
			return e.print(cmd, sheets...)
		},
	}
	addFormat(cmd)
	return cmd
}

func doubtsSheet(a *api.Doubts) sheet {
	s := sheet{title: a.Sentence, answer: a, columns: append(numbers("count"), column{name: "what", wraps: true}, column{name: "doubt"}, column{name: "what to do", wraps: true})}
	for _, d := range a.Doubts {
		what, code := d.Title, d.Code
		if !d.OfOrders {
			what, code = what+": "+strings.Join(d.Examples, "; "), ""
			if int(d.Count) > len(d.Examples) {
				what += "; …"
			}
		} else {
			what = "orders: " + what
		}
		s.rows = append(s.rows, []string{numfmt.Count(int(d.Count)), what, code, d.Advice})
	}
	s.below = []string{"The orders of a doubt: prairie-dusk orders --doubt DOUBT"}
	if len(a.Doubts) == 0 {
		s.below = []string{"Nothing looks wrong."}
	}
	return s
}

func knownSheet(a *api.Doubts) sheet {
	s := sheet{title: "How far each milestone is recorded", answer: a.Milestones, columns: append(texts("milestone", ""), numbers("orders with it", "without", "after the data date")...)}
	s.columns = append(s.columns, texts("earliest", "latest")...)
	for _, m := range a.Milestones {
		kind := "fact"
		if m.Plan {
			kind = "plan"
		}
		s.rows = append(s.rows, []string{m.Name, kind, numfmt.Count(m.Present), numfmt.Count(m.Missing), numfmt.Count(m.Ahead), m.Earliest, m.Latest})
	}
	return s
}
