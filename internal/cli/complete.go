package cli

import (
	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
)

// known is what the service knows, for completing words.
type known struct{ *api.Book }

// complete asks the service; one that does not run completes nothing.
func (e *environment) complete(cmd *cobra.Command, words func(known) []string) []string {
	if e.readSettings(cmd, nil) != nil {
		return nil
	}
	c, err := e.client()
	if err != nil {
		return nil
	}
	book, err := c.Book(cmd.Context())
	if err != nil {
		return nil
	}
	return words(known{book})
}

func (k known) units() (names []string) {
	for _, u := range k.Units {
		names = append(names, u.Name)
	}
	return names
}

func (k known) plans() (names []string) {
	for _, m := range k.Milestones {
		if m.Plan {
			names = append(names, m.Name)
		}
	}
	return names
}

func (k known) milestones() []string {
	var names []string
	for _, m := range k.Milestones {
		names = append(names, m.Name)
	}
	return names
}

func (k known) columns() (texts []string) {
	for _, c := range k.Columns {
		texts = append(texts, c.Text)
	}
	return texts
}
