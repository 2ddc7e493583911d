package cli

import (
	"fmt"
	"time"

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

func (k known) milestones() []string {
	var names []string
	for _, m := range k.Milestones {
		names = append(names, m.Name)
	}
	return names
}

// periods are the years, quarters and months of the book, and the relative ones.
func (k known) periods() []string {
	words := []string{"this-week", "last-week", "this-month", "last-month", "this-quarter", "last-quarter", "this-year", "last-year", "last-30-days", "last-90-days"}
	first, err := time.Parse(time.DateOnly, k.FirstDay)
	if err != nil {
		return words
	}
	last, err := time.Parse(time.DateOnly, k.DataDate)
	if err != nil {
		return words
	}
	year, quarter := "", ""
	for at := first.AddDate(0, 0, 1-first.Day()); !at.After(last); at = at.AddDate(0, 1, 0) {
		if y := at.Format("2006"); y != year {
			year = y
			words = append(words, year)
		}
		if q := fmt.Sprintf("%s-Q%d", year, (at.Month()+2)/3); q != quarter {
			quarter = q
			words = append(words, quarter)
		}
		words = append(words, at.Format("2006-01"))
	}
	return words
}
