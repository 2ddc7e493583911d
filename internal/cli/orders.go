package cli

import (
	"errors"
	"fmt"
	"io"
	"maps"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/params"
)

func newOrders(e *environment) *cobra.Command {
	var in api.OrdersQuestion
	var quality string
	var offset, limit int
	var k viewSaver
	var second *secondAsking
	cmd := &cobra.Command{
		Use:   "orders",
		Short: "The list of orders, with the columns that you choose, or those behind a number of an answer",
		Example: `  prairie-dusk orders --period 2026-10 --state running --sort ordered
  prairie-dusk orders --where 'working_days_so_far(ordered, shipped) > 30' --sort -length
  prairie-dusk orders --columns 'number, customer, value as "Worth", days(ordered, delivered), paid == null'
  prairie-dusk orders --rows lines --columns 'number, lines.product, lines.units' --sort lines.product
  prairie-dusk orders --highlight 'amber: promised < data_date && shipped == null' --sort promised
  prairie-dusk orders --where 'paid == null' --output unpaid.xlsx
  prairie-dusk orders --where 'paid == null' --save-view Unpaid`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			if quality != "" {
				in.Behind = "quality?code=" + url.QueryEscape(quality)
			}
			if second.asked() {
				return e.second(cmd, c, second, address(second.analysis, &in))
			}
			words := params.Values(&in)
			page := maps.Clone(words)
			page.Set("limit", strconv.Itoa(limit))
			page.Set("offset", strconv.Itoa(offset))
			if err := e.list(cmd, c, page); err != nil || k.name == "" {
				return err
			}
			page.Set("limit", "1")
			d, err := c.Answer(cmd.Context(), "/orders", page)
			if err != nil {
				return err
			}
			return k.keep(e, cmd, c, asked{ordersPage, words, d.Asked()})
		},
	}
	second = secondFlags(cmd, asking{path: ordersPage})
	flags := cmd.Flags()
	params.Flags(flags, &in)
	params.Completions(cmd, &in, e.wordsOf)
	flags.StringVar(&quality, "quality", "", "the orders with which something looks wrong, by its `code`; see prairie-dusk quality")
	flags.IntVar(&limit, "limit", 50, "at most so many `rows` of a table")
	flags.IntVar(&offset, "offset", 0, "leave out the first so many `rows` of a table")
	k.add(cmd)
	addListOutput(cmd)
	addAsOf(cmd)
	return cmd
}

// The forms in which lists can be had besides those of every command.
const (
	asNDJSON  = "ndjson"
	asXLSX    = "xlsx"
	asParquet = "parquet"
)

func addListOutput(cmd *cobra.Command) {
	addOutput(cmd)
	cmd.Flags().Bool("without-contacts", false, "leave out contacts and telephones of customers, in a file")
}

// addOutput lets a command write files.
func addOutput(cmd *cobra.Command) {
	addFormat(cmd, asNDJSON, asXLSX, asParquet)
	cmd.Flags().String("output", "", "write the whole of it to this `file`; its ending says the form, unless --format does")
}

// list prints a page of a list as a table, or takes the whole of it away as a file.
func (e *environment) list(cmd *cobra.Command, c *client.Client, words url.Values) error {
	format, err := e.fileFormat(cmd)
	if err != nil {
		return err
	}
	if format == asTable {
		d, err := c.Answer(cmd.Context(), "/orders", words)
		if err != nil {
			return err
		}
		return e.print(cmd, documentSheets(d, nil, false)...)
	}
	if cmd.Flags().Changed("limit") || cmd.Flags().Changed("offset") {
		return usageError{errors.New("--limit and --offset are for tables; a file has the whole list")}
	}
	return e.writeFile(cmd, format, func(to io.Writer) error {
		return c.TakeAway(cmd.Context(), words, format, e.settings.GetBool("without-contacts"), to)
	})
}

// fileFormat is the form that --format asks for, or the ending of --output.
func (e *environment) fileFormat(cmd *cobra.Command) (string, error) {
	format, output := e.settings.GetString("format"), e.settings.GetString("output")
	files := []string{asCSV, asJSON, asNDJSON, asXLSX, asParquet}
	if output != "" && !cmd.Flags().Changed("format") {
		format = strings.TrimPrefix(filepath.Ext(output), ".")
		if !slices.Contains(files, format) {
			return "", usageError{fmt.Errorf("the ending of %q says no form; want csv, json, ndjson, xlsx or parquet, or --format", output)}
		}
	}
	if format != asTable && !slices.Contains(files, format) {
		return "", usageError{fmt.Errorf("%q is not a form of output; want one of %s, %s", format, asTable, strings.Join(files, ", "))}
	}
	if format == asTable && output != "" {
		return "", usageError{errors.New("a table is for reading; want another --format for a file")}
	}
	return format, nil
}

// writeFile writes to the file that --output names, or else to standard output.
func (e *environment) writeFile(cmd *cobra.Command, format string, write func(io.Writer) error) error {
	out, output := dataOut(cmd), e.settings.GetString("output")
	if output != "" {
		return writeWhole(output, write)
	}
	if (format == asXLSX || format == asParquet) && width(cmd.OutOrStdout()) > 0 {
		return usageError{fmt.Errorf("%s is not for a terminal; want --output FILE", format)}
	}
	return write(out)
}

// writeWhole writes a file that appears only once it is whole.
func writeWhole(path string, write func(io.Writer) error) (err error) {
	file, err := os.CreateTemp(filepath.Dir(path), ".prairie-dusk-*")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(file.Name())) }()
	if err := errors.Join(write(file), file.Chmod(0o644), file.Close()); err != nil {
		return err
	}
	return os.Rename(file.Name(), path)
}

func newOrder(e *environment) *cobra.Command {
	var in api.Leg
	cmd := &cobra.Command{
		Use:   "order NUMBER",
		Short: "One order: its milestones, and a length day by day",
		Example: `  prairie-dusk order SD-102345
  prairie-dusk order SD-102345 --from shipped --to delivered --in days
  prairie-dusk order SD-102345 --in working-hours`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			answer, err := c.Order(cmd.Context(), args[0], params.Values(&in))
			if err != nil {
				return err
			}
			return e.print(cmd, orderSheets(answer, e.settings.GetString("format"))...)
		},
	}
	params.Flags(cmd.Flags(), &in)
	params.Completions(cmd, &in, e.wordsOf)
	addAsOf(cmd)
	addFormat(cmd)
	return cmd
}

// orderSheets are the milestones and the strip for reading; a CSV file has the strip, a row for each day.
func orderSheets(a *api.Order, format string) []sheet {
	title := "Order " + a.Order.Number + ", " + a.Leg + ": " + a.Words
	if format == asCSV {
		s := sheet{title: title, columns: texts("day", "part", "name")}
		timed := len(a.Strip) > 0 && a.Strip[0].Hours != nil
		if timed {
			s.columns = append(s.columns, column{name: strings.ReplaceAll(a.Unit, "-", " "), numeric: true})
		}
		for _, d := range a.Strip {
			cells := []string{d.Day, d.Part, d.Name}
			if timed {
				cells = append(cells, decimal(d.Hours, 4))
			}
			s.rows = append(s.rows, cells)
		}
		return []sheet{s}
	}
	days := sheet{title: title, answer: a, columns: append(numbers(""), texts("milestone", "day", "")...)}
	for i, d := range a.Days {
		remark := ""
		switch {
		case d.Plan:
			remark = "plan"
		case !d.Known:
			remark = "after the data date: not known yet"
		}
		days.rows = append(days.rows, []string{fmt.Sprint(i + 1), d.Name, strings.TrimSpace(withWeekday(d.Day) + " " + d.Time), remark})
	}
	var fields []string
	// The currency stands with the value, the country with the place, what is known of the customer in its table; columns
	// of the user's own come last.
	first := []string{"customer", "site", "place", "channel"}
	names := slices.DeleteFunc(slices.Sorted(maps.Keys(a.Order.Fields)), func(name string) bool {
		return slices.Contains(first, name) || name == "currency" || name == "country" || strings.HasPrefix(name, "customer-")
	})
	for _, name := range append(first, names...) {
		if value := a.Order.Fields[name]; value != "" {
			fields = append(fields, name+" "+value)
		}
	}
	if a.Order.Value != "" {
		fields = append(fields, "value "+strings.TrimSpace(a.Order.Value+" "+a.Order.Fields["currency"]))
	}
	if len(a.InTime) > 1 {
		days.below = append(days.below, life(a.InTime, a.Days))
	}
	days.below = append(days.below, strings.Join(fields, " · "))
	if len(a.Strip) > 0 {
		days.below = append(days.below, strip(a.Strip), a.SumLine, "Counted by the calendar "+a.Calendar+zoneWords(a.Zone)+".")
	}
	if a.Order.HolidaysUnknown {
		days.below = append(days.below, notePrefix+"holidays are not known for all of these days; the length follows the weekly pattern there.")
	}
	if len(a.Findings) > 0 {
		days.below = append(days.below, notePrefix+strings.Join(a.Findings, "; "))
	}
	sheets := []sheet{days}
	if len(a.Statuses.Periods) > 0 && format == asTable {
		sheets = append(sheets, orderPeriodsSheet(a))
	}
	for _, t := range a.Parts {
		if format != asTable {
			break
		}
		s := sheet{title: strings.ToUpper(t.Kind[:1]) + strings.ReplaceAll(t.Kind[1:], "-", " "), answer: t, columns: texts(t.Columns...),
			rows: t.Rows}
		for i, name := range t.Columns {
			s.columns[i].numeric = slices.Contains([]string{"units", "cancelled-units", "amount", "line-value"}, name)
		}
		sheets = append(sheets, s)
	}
	if len(a.Changes) > 0 && format == asTable {
		changes := sheet{title: "What loads have changed of it, the latest first", answer: a.Changes,
			columns: append(numbers("load"), texts("of", "column", "was", "became")...)}
		for _, c := range a.Changes {
			of := strings.TrimSuffix(c.Kind, "s")
			if len(c.Key) > 0 {
				of += " " + strings.TrimSpace(strings.Join(c.Key, " "))
			}
			changes.rows = append(changes.rows, []string{fmt.Sprint(c.Load), of, c.Column, c.Old, c.New})
		}
		sheets = append(sheets, changes)
	}
	return sheets
}

// zoneWords say by which clocks times are told; nothing where none is known.
func zoneWords(zone string) string {
	if zone == "" {
		return ""
	}
	return ", times in " + zone
}
