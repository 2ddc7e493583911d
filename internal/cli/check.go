package cli

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/params"
	"prairiedusk/internal/present"
)

// errNotAsExpected says that a check did not hold.
var errNotAsExpected = errors.New("not as expected")

func newCheck(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "check",
		Short: "Hold an answer against a figure, a list of orders or a table that is expected",
		Long: `Hold an answer against what is expected of it: a figure, a list of order numbers, or
a table by group, in any form of file that load reads. Each order that differs
stands with its reason; where a usual other reading of the question explains the
whole difference, that is said. The exit status is 1 where something differs.`,
		Example: `  prairie-dusk check took --period 2026-Q3 --figure 769
  prairie-dusk check took --period 2026-Q3 --by site --number mean --row Galway --figure 2.2
  prairie-dusk check open --period 2026-10 --order-list open.txt
  prairie-dusk check crosstab --rows site --columns month --table expected.csv
  prairie-dusk check took --period 2026-Q3 --figure 769 --save 'Third quarter'
  prairie-dusk check run --all`,
	}
	for _, analysis := range present.Checked() {
		cmd.AddCommand(e.newCheckOf(analysis))
	}
	cmd.AddCommand(e.newCheckRun(), e.checkList("list", "The saved checks", cobra.NoArgs), e.checkList("delete NAME", "Delete a saved check",
		cobra.ExactArgs(1)))
	return cmd
}

// expectedFlags are the options that say what is expected.
type expectedFlags struct {
	api.Check
	orders, table, save string
}

// questionFlags are the options that name a number of an answer.
func questionFlags(flags *pflag.FlagSet, number, part *string, row *[]string) {
	flags.StringVar(number, "number", "", "which number, by its `heading`; default the orders that the answer counts")
	flags.StringArrayVar(row, "row", nil, "of which row, by its `name`; twice where rows have two; default the total")
	flags.StringVar(part, "part", "", "which part of the answer, by its `title`, where it has several")
}

// newCheckOf checks answers of one analysis.
func (e *environment) newCheckOf(analysis string) *cobra.Command {
	in := present.NewQuestion(analysis)
	var x expectedFlags
	cmd := &cobra.Command{Use: analysis, Short: "Check an answer of " + strings.ReplaceAll(analysis, "-", " "), Args: cobra.NoArgs}
	flags := cmd.Flags()
	params.Flags(flags, in)
	params.Completions(cmd, in, e.wordsOf)
	questionFlags(flags, &x.Number, &x.Part, &x.Row)
	flags.StringVar(&x.Figure, "figure", "", "the `number` that is expected")
	flags.StringVar(&x.orders, "order-list", "", "a `file` of the order numbers that are expected; - for standard input")
	flags.StringVar(&x.table, "table", "", "a `file` of a table of numbers by group; - for standard input")
	flags.StringVar(&x.Column, "column", "", "the `heading` of the column of order numbers, where several hold them")
	flags.StringVar(&x.Decimals, "decimals", "", "which `mark` stands before decimals, point or comma, where the numbers do not tell")
	addAsOf(cmd)
	flags.StringVar(&x.save, "save", "", "save the check under this `name`, for check run")
	addOutput(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) (err error) {
		x.Question = address(analysis, in)
		for _, f := range []struct {
			path string
			to   **api.ExpectedFile
		}{{x.orders, &x.Orders}, {x.table, &x.Table}} {
			if f.path != "" {
				if *f.to, err = expectedFile(cmd.InOrStdin(), f.path); err != nil {
					return err
				}
			}
		}
		return e.check(cmd, x)
	}
	return cmd
}

// address is a question as an address.
func address(analysis string, in any) string {
	words := params.Values(in)
	words.Del("format")
	return analysis + "?" + words.Encode()
}

// expectedFile reads what is expected.
func expectedFile(in io.Reader, path string) (*api.ExpectedFile, error) {
	if path == "-" {
		content, err := io.ReadAll(in)
		return &api.ExpectedFile{Name: "standard input", Content: content}, err
	}
	content, err := os.ReadFile(path)
	return &api.ExpectedFile{Name: filepath.Base(path), Content: content}, err
}

// check runs a check, and saves it where that is asked for.
func (e *environment) check(cmd *cobra.Command, x expectedFlags) error {
	if x.save != "" && len(e.asOf()) > 0 {
		return usageError{errors.New("a saved check is of the records as they stand; want --save without --as-of-load and --as-known-on")}
	}
	c, err := e.client()
	if err != nil {
		return err
	}
	d, err := c.AnswerAbout(cmd.Context(), "/check", &x.Check)
	if err != nil {
		return err
	}
	judged := e.judged(cmd, d, func(format string, to io.Writer) error {
		return c.FileAbout(cmd.Context(), "/check", &x.Check, format, to)
	})
	if judged != nil && !errors.Is(judged, errNotAsExpected) {
		return judged
	}
	if x.save != "" {
		if _, err := c.SaveCheck(cmd.Context(), x.save, x.Check); err != nil {
			return err
		}
		fmt.Fprintf(e.messages, "Saved as %q; prairie-dusk check run %[1]q runs it again.\n", x.save)
	}
	return judged
}

// allHold is errNotAsExpected where something differs.
func allHold(d *answer.Document) error {
	t := d.Parts[0].Tables[0]
	for _, r := range t.Rows {
		if holds := r.Cells[t.At("holds")].Number; holds == nil || *holds == 0 {
			return errNotAsExpected
		}
	}
	return nil
}

// judged prints a document that judges numbers, or writes the file of it; the error is errNotAsExpected where one does not hold.
func (e *environment) judged(cmd *cobra.Command, d *answer.Document, file func(format string, to io.Writer) error) error {
	format, err := e.fileFormat(cmd)
	if err != nil {
		return err
	}
	if format != asTable && (format != asJSON || e.settings.GetString("output") != "") {
		err = e.writeFile(cmd, format, func(to io.Writer) error { return file(format, to) })
	} else {
		err = e.print(cmd, documentSheets(d, nil, false)...)
	}
	if err != nil {
		return err
	}
	return allHold(d)
}

func (e *environment) newCheckRun() *cobra.Command {
	var all bool
	cmd := &cobra.Command{
		Use:   "run NAME|FILE|--all",
		Short: "Run saved checks, or those of a file; the exit status is 1 where something differs",
		Long: `Run a saved check by its name, all of them, or those of a JSON file as check list
--format json writes it, so that the figures of a report are tested whenever the
records change.`,
		Example: `  prairie-dusk check run --all
  prairie-dusk check run 'Third quarter'
  prairie-dusk check list --format json > checks.json
  prairie-dusk check run checks.json`,
		Args: cobra.MaximumNArgs(1),
	}
	cmd.Flags().BoolVar(&all, "all", false, "all saved checks")
	addAsOf(cmd)
	addOutput(cmd)
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if all == (len(args) == 1) {
			return usageError{errors.New("want the name of a saved check, a file of checks, or --all")}
		}
		c, err := e.client()
		if err != nil {
			return err
		}
		saved, err := c.Checks(cmd.Context())
		if err != nil {
			return err
		}
		if !all {
			if saved, err = named(saved, args[0]); err != nil {
				return err
			}
		}
		d, err := c.AnswerAbout(cmd.Context(), "/checks/run", saved)
		if err != nil {
			return err
		}
		return e.judged(cmd, d, func(format string, to io.Writer) error {
			return c.FileAbout(cmd.Context(), "/checks/run", saved, format, to)
		})
	}
	return cmd
}

// named are the saved check of a name, or the checks of a file.
func named(saved *api.Checks, name string) (*api.Checks, error) {
	var names []string
	for _, c := range saved.Checks {
		if strings.EqualFold(c.Name, name) {
			return &api.Checks{Checks: []api.NamedCheck{c}}, nil
		}
		names = append(names, c.Name)
	}
	text, err := os.ReadFile(name)
	if errors.Is(err, os.ErrNotExist) {
		return nil, fmt.Errorf("there is neither a saved check nor a file %q; the checks are %s", name, strings.Join(names, ", "))
	} else if err != nil {
		return nil, err
	}
	checks := &api.Checks{}
	if err := json.Unmarshal(text, checks); err != nil {
		return nil, fmt.Errorf("%s is no file of checks, as check list --format json writes it: %w", name, err)
	}
	return checks, nil
}

// checkList lists the saved checks, after one was deleted if one is named.
func (e *environment) checkList(use, short string, args cobra.PositionalArgs) *cobra.Command {
	cmd := &cobra.Command{Use: use, Short: short, Args: args, RunE: func(cmd *cobra.Command, args []string) error {
		c, err := e.client()
		if err != nil {
			return err
		}
		ask := func() (*api.Checks, error) { return c.Checks(cmd.Context()) }
		if len(args) == 1 {
			ask = func() (*api.Checks, error) { return c.DeleteCheck(cmd.Context(), args[0]) }
		}
		saved, err := ask()
		if err != nil {
			return err
		}
		s := sheet{title: "Saved checks", answer: saved, columns: []column{{name: "name"}, {name: "question"}, {name: "expected", wraps: true}}}
		for _, k := range saved.Checks {
			s.rows = append(s.rows, []string{k.Name, k.Question, expectedWords(k.Check)})
		}
		if len(saved.Checks) == 0 {
			s.below = append(s.below, "There are none. check … --save NAME saves one.")
		}
		return e.print(cmd, s)
	}}
	addFormat(cmd)
	return cmd
}

// expectedWords say what a check expects.
func expectedWords(c api.Check) string {
	switch {
	case c.Orders != nil:
		return "the orders of " + c.Orders.Name
	case c.Table != nil:
		return "the table of " + c.Table.Name
	}
	words := c.Number
	for _, row := range c.Row {
		words += " " + row
	}
	return strings.TrimSpace(words + " " + c.Figure)
}

func newTwoWays(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "two-ways",
		Short: "One question under two conventions, and the orders that differ",
		Example: `  prairie-dusk two-ways took --period 2026-Q3 --by site --but count=both-ends
  prairie-dusk two-ways open --period 2026-10 --but closing-day=out
  prairie-dusk two-ways crosstab --rows site --columns month --but basis=shipped
  prairie-dusk two-ways immediate --by site --but cancelled=out`,
	}
	for _, analysis := range present.Checked() {
		cmd.AddCommand(e.newTwoWaysOf(analysis))
	}
	return cmd
}

// newTwoWaysOf asks questions of one analysis two ways.
func (e *environment) newTwoWaysOf(analysis string) *cobra.Command {
	in := present.NewQuestion(analysis)
	var changes []string
	var ways api.TwoWays
	cmd := &cobra.Command{Use: analysis, Short: "Ask two ways about " + strings.ReplaceAll(analysis, "-", " "), Args: cobra.NoArgs}
	params.Flags(cmd.Flags(), in)
	params.Completions(cmd, in, e.wordsOf)
	questionFlags(cmd.Flags(), &ways.Number, &ways.Part, &ways.Row)
	addAsOf(cmd)
	cmd.Flags().StringArrayVar(&changes, "but", nil, "what the second way has else, as `OPTION=VALUE`; may be repeated")
	addOutput(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		if len(changes) == 0 {
			return usageError{errors.New("want --but OPTION=VALUE, which says what the second way has else")}
		}
		ways.First = address(analysis, in)
		_, text, _ := strings.Cut(ways.First, "?")
		words, err := url.ParseQuery(text)
		if err != nil {
			return err
		}
		for _, change := range changes {
			option, value, _ := strings.Cut(strings.TrimPrefix(change, "--"), "=")
			word := strings.ReplaceAll(option, "-", "_")
			if cmd.Flags().Lookup(option) == nil {
				return usageError{fmt.Errorf("--but %s: there is no option --%s", change, option)}
			}
			if words.Del(word); value != "" {
				words.Set(word, value)
			}
		}
		ways.Second = analysis + "?" + words.Encode()
		c, err := e.client()
		if err != nil {
			return err
		}
		_, err = e.answer(cmd, c, asking{path: "/two-ways"}, params.Values(&ways), showing{})
		return err
	}
	return cmd
}
