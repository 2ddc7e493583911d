package cli

import (
	"errors"
	"fmt"
	"io"
	"net/url"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/client"
	"prairiedusk/internal/present"
)

// A secondAsking says what PostgreSQL is to do with a question.
type secondAsking struct {
	analysis    string
	sql, answer bool
}

// asked says that something is wanted of PostgreSQL.
func (s *secondAsking) asked() bool { return s.sql || s.answer }

// secondFlags adds the options that show a question as SQL, and that ask PostgreSQL.
func secondFlags(cmd *cobra.Command, a asking) *secondAsking {
	s := &secondAsking{analysis: strings.ReplaceAll(strings.TrimPrefix(a.path, "/"), "/", "-")}
	if slices.Contains(present.Checked(), s.analysis) {
		cmd.Flags().BoolVar(&s.sql, "sql", false, "the question as one statement of SQL over the record tables, instead of the answer")
		cmd.Flags().BoolVar(&s.answer, "second-opinion", false,
			"what PostgreSQL makes of that statement, figure by figure; the exit status is 1 where a figure differs")
	}
	return s
}

// second shows a question as SQL, or what PostgreSQL makes of it.
func (e *environment) second(cmd *cobra.Command, c *client.Client, s *secondAsking, question string) error {
	if s.sql && s.answer {
		return usageError{errors.New("--sql and --second-opinion are two answers; want one of them")}
	}
	if s.sql {
		text, err := c.SQL(cmd.Context(), question)
		if err == nil {
			fmt.Fprint(cmd.OutOrStdout(), text)
		}
		return err
	}
	words := url.Values{"question": {question}}
	d, err := c.Answer(cmd.Context(), "/second-opinion", words)
	if err != nil {
		return err
	}
	return e.judged(cmd, d, func(format string, to io.Writer) error {
		return c.AnswerFile(cmd.Context(), "/second-opinion", words, format, to)
	})
}

func newSQLReader(e *environment) *cobra.Command {
	return &cobra.Command{
		Use:   "sql-reader",
		Short: "Make a role of PostgreSQL that may read the records, and print the address for psql",
		Long: `Makes a role that may read the record tables and change nothing, or gives it
another password, and prints the address of the database for it. Statements
that --sql shows run there as they stand.`,
		Example: `  prairie-dusk took --by site --sql | psql "$(prairie-dusk sql-reader)"`,
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			address, err := c.MakeReader(cmd.Context())
			if err == nil {
				fmt.Fprintln(cmd.OutOrStdout(), address)
			}
			return err
		},
	}
}
