// Package cli is the command line: a client of the service's API, and the command that runs the service.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"runtime/debug"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"github.com/spf13/viper"

	"prairiedusk/internal/app"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/spelling"
	"prairiedusk/internal/escape"
)

// The exit statuses, which scripts rely on.
const (
	exitAnswered = 0
	exitFailed   = 1
	exitMisused  = 2
	exitSetAside = 3 // a load went well, but for some rows
)

// errSetAside says that a load went well, but for some rows.
var errSetAside = errors.New("some rows were set aside")

// usageError wraps an error that better words on the command line would have avoided.
type usageError struct{ error }

func (m usageError) Unwrap() error { return m.error }

// Run runs the command line and gives its exit status. Data go to out, everything else to err.
func Run(ctx context.Context, args []string, in io.Reader, out, err io.Writer) int {
	root := newRoot()
	root.SetArgs(args)
	root.SetIn(in)
	root.SetOut(out)
	root.SetErr(err)
	failure := root.ExecuteContext(ctx)
	var wrong usageError
	var problem *client.Problem
	switch {
	case failure == nil:
		return exitAnswered
	case errors.Is(failure, errSetAside):
		return exitSetAside
	case errors.Is(failure, errNotAsExpected):
		return exitFailed // what differs has been said
	case errors.Is(failure, context.Canceled):
		fmt.Fprintln(err, "prairie-dusk: interrupted")
		return exitFailed
	case errors.As(failure, &wrong), errors.As(failure, &problem) && problem.Status == 422 && len(problem.Errors) > 0:
		fmt.Fprintln(err, "prairie-dusk:", escape.ShownLines(failure.Error()))
		return exitMisused
	}
	fmt.Fprintln(err, "prairie-dusk:", escape.ShownLines(failure.Error()))
	return exitFailed
}

// Version is the program's, from the build.
func Version() string {
	info, ok := debug.ReadBuildInfo()
	if !ok || info.Main.Version == "" || info.Main.Version == "(devel)" {
		return "development"
	}
	return info.Main.Version
}

// environment holds what all commands share.
type environment struct {
	settings *viper.Viper
	messages io.Writer // standard error
}

func newRoot() *cobra.Command {
	e := &environment{settings: viper.New()}
	root := &cobra.Command{
		Use:   "prairie-dusk",
		Short: "Working-day fulfilment times, from the dates of orders",
		Long: `Prairie Dusk holds the order book and answers, from the dates alone, how long it took.

Every answer opens with the sentence that says exactly what was computed, and
closes with the line that reconciles the orders that were selected.

Settings come from flags, from the environment (PRAIRIE_DUSK_DATA for --data and
so on), and from a file, in that order of strength.`,
		Example: `  prairie-dusk up --demo                                 # start, with the demo book
  prairie-dusk load orders.csv hamilton.ics              # bring files in
  prairie-dusk took --period 2026-Q3 --by site           # how long from ordered to shipped
  prairie-dusk orders --state running --sort ordered     # the orders behind a number
  prairie-dusk order SD-102345                           # one order, day by day
  prairie-dusk due                                       # which orders are late and at risk
  prairie-dusk days 2026-06-29 10                        # the day calculator`,
		Version:           Version(),
		SilenceUsage:      true,
		SilenceErrors:     true,
		PersistentPreRunE: e.readSettings,
	}
	flags := root.PersistentFlags()
	flags.String("data", app.DefaultFolder(), "data `folder` of the service")
	flags.String("service", "", "`address` of the service; default the one that runs on the data folder")
	flags.String("settings", "", "settings `file` (YAML, TOML or JSON); default prairie-dusk.yaml in the user's configuration folder")
	root.SetFlagErrorFunc(misusedFlag)
	root.AddCommand(newUp(e), newAccess(e), newLoad(e), newLoads(e), newLayout(e), newQuality(e), newBook(e), newOverview(e),
		newOrders(e), newOrder(e), newTook(e), newPlaces(e), newForecast(e), newOpen(e), newStatus(e), newImmediate(e), newCompare(e),
		newCrosstab(e), newDue(e),
		newDays(e), newCalendar(e), newLabel(e), newView(e), newCheck(e), newTwoWays(e), newAudit(e), newChanges(e), newSQLReader(e),
		newDemoData(), newOpenAPI())
	reportMisuse(root)
	return root
}

// misusedFlag says what is wrong with an option, and which one may have been meant.
func misusedFlag(cmd *cobra.Command, err error) error {
	var unknown *pflag.NotExistError
	if errors.As(err, &unknown) {
		var known []string
		cmd.Flags().VisitAll(func(f *pflag.Flag) { known = append(known, f.Name) })
		hint := fmt.Sprintf("; see %s --help", cmd.CommandPath())
		if near := spelling.Nearest(unknown.GetSpecifiedName(), known); near != "" {
			hint = "; did you mean --" + near + "?"
		}
		return usageError{fmt.Errorf("there is no option --%s%s", unknown.GetSpecifiedName(), hint)}
	}
	var value *pflag.InvalidValueError
	if errors.As(err, &value) {
		return usageError{fmt.Errorf("--%s %s: %w", value.GetFlag().Name, value.GetValue(), errors.Unwrap(value))}
	}
	return usageError{err}
}

// reportMisuse marks what cobra itself refuses: wrong arguments and unknown commands.
func reportMisuse(cmd *cobra.Command) {
	if cmd.RunE == nil && cmd.HasSubCommands() {
		cmd.Args = cobra.ArbitraryArgs
		cmd.RunE = func(cmd *cobra.Command, args []string) error {
			if len(args) == 0 {
				return cmd.Help()
			}
			hint := ""
			cmd.SuggestionsMinimumDistance = 2
			if near := cmd.SuggestionsFor(args[0]); len(near) > 0 {
				hint = "; did you mean " + strings.Join(near, " or ") + "?"
			}
			return usageError{fmt.Errorf("%q is no command of %s%s", args[0], cmd.CommandPath(), hint)}
		}
	} else if check := cmd.Args; check != nil {
		cmd.Args = func(cmd *cobra.Command, args []string) error {
			if err := check(cmd, args); err != nil {
				return usageError{fmt.Errorf("%w; see %s --help", err, cmd.CommandPath())}
			}
			return nil
		}
	}
	for _, sub := range cmd.Commands() {
		reportMisuse(sub)
	}
}

// readSettings gathers the settings of a command, the strongest first: flags, environment, file.
func (e *environment) readSettings(cmd *cobra.Command, _ []string) error {
	e.messages = cmd.ErrOrStderr()
	v := e.settings
	v.SetEnvPrefix("prairie_dusk")
	v.SetEnvKeyReplacer(strings.NewReplacer("-", "_"))
	v.AutomaticEnv()
	if err := v.BindPFlags(cmd.Flags()); err != nil {
		return err
	}
	if limit := cmd.Flags().Lookup("limit"); limit != nil && limit.Changed && v.GetInt("limit") < 1 {
		return usageError{fmt.Errorf("--limit %s: want 1 or more", limit.Value)}
	}
	path := v.GetString("settings")
	if path == "" {
		base, err := os.UserConfigDir()
		if err != nil {
			return nil // no home, no settings file
		}
		path = filepath.Join(base, "prairie-dusk", "prairie-dusk.yaml")
		if _, err := os.Stat(path); errors.Is(err, fs.ErrNotExist) {
			return nil
		}
	}
	v.SetConfigFile(path)
	if err := v.ReadInConfig(); err != nil {
		return usageError{fmt.Errorf("the settings file %s: %w", path, err)}
	}
	for _, key := range v.AllKeys() {
		if v.InConfig(key) && !knownSetting(cmd.Root(), key) {
			return usageError{fmt.Errorf("the settings file %s: there is no setting %q", path, key)}
		}
	}
	return nil
}

// knownSetting says whether any command has a flag of this name.
func knownSetting(cmd *cobra.Command, name string) bool {
	found := cmd.PersistentFlags().Lookup(name) != nil || cmd.Flags().Lookup(name) != nil
	for _, sub := range cmd.Commands() {
		found = found || knownSetting(sub, name)
	}
	return found
}

// addAsOf lets a command ask of the book as it was.
func addAsOf(cmd *cobra.Command) {
	cmd.Flags().String("as-of-load", "", "ask of the records as they were after the load of this `number`, until the next one came")
	cmd.Flags().String("as-known-on", "", "ask of the records as they were known at the end of this `day`")
}

// asOf are the words that ask of the book as it was.
func (e *environment) asOf() url.Values {
	words := url.Values{}
	for _, word := range []string{"as-of-load", "as-known-on"} {
		if text := e.settings.GetString(word); text != "" {
			words.Set(strings.ReplaceAll(word, "-", "_"), text)
		}
	}
	return words
}

// client finds the service and the token that it wants to see.
func (e *environment) client() (*client.Client, error) {
	folder := e.settings.GetString("data")
	address := e.settings.GetString("service")
	if address == "" {
		var err error
		address, err = app.Address(folder)
		if errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("no service runs on the data folder %s; start one with `prairie-dusk up`, or name another folder with --data", folder)
		}
		if errors.Is(err, app.ErrStale) {
			return nil, fmt.Errorf("the service of the data folder %s has ended without saying so, and what listens at its address now may be another program: nothing was sent there. Start the service again with `prairie-dusk up`", folder)
		}
		if err != nil {
			return nil, err
		}
	}
	token, err := app.Token(folder)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("there is no token in the data folder %s; name the folder of the service with --data", folder)
	}
	if err != nil {
		return nil, err
	}
	c := client.New(address, token)
	c.AsOf = e.asOf()
	said := "" // once a command
	c.Notice = func(text string) {
		if text != said {
			said = text
			fmt.Fprintln(e.messages, escape.Shown(text))
		}
	}
	return c, nil
}

const unitUsage = "`unit`: days, working-days, weeks, months, years (completed), months-crossed,\nyears-crossed, months-fraction, hours or working-hours"
