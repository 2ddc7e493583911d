package cli

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"
	"golang.org/x/term"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/escape"
)

func newLoad(e *environment) *cobra.Command {
	var checkOnly, whole bool
	var reading client.Reading
	cmd := &cobra.Command{
		Use:   "load FILE…",
		Short: "Bring files in: orders and all that belongs to them, working calendars",
		Long: `Bring files in, all of them or none. What a file is, its content tells: CSV with commas, semicolons,
tabs or vertical bars in the usual encodings, XLSX (every sheet that can be seen), JSON, NDJSON, Parquet or
iCalendar; plain, in gzip, zstd or bzip2, or in a ZIP of several. A folder stands for its files, - for standard
input. The columns of a table tell what its rows are:
  order                   orders, with their milestones, fields and columns of your own
  order and line          order lines; with columns of the order beside them, both
  order and shipment      shipments, of a line or of the whole order
  order and receipt       payments
  order, status and at    status records
  customer, product, site or place first, and no order: a list of those
Working calendars come as iCalendar files; one counts the orders of the site of its name.

Dates and numbers come in any usual form, each column in the one that fits all its cells. Where two do,
as for 04/07/2026 or 1.234, and where a heading can mean two things, as "Delivery Date" can, you are asked.
Without a terminal nothing is loaded then, the exit status is 2, and the options that answer are named.

A row that cannot be used is set aside with the reason; the exit status is then 3. Where that would be more than
2 in 100 rows of a file, or every cell of a column, you are asked, and --accept-set-aside is the yes.
The same file again changes nothing.`,
		Example: `  prairie-dusk load orders.csv
  prairie-dusk load orders.csv saskatoon.ics galway.ics hamilton.ics muscat.ics
  prairie-dusk load export.xlsx exports/ lines.csv.gz
  prairie-dusk load export.csv --map "Delivery Date=promised" --map Notiz=left-out
  curl -s http://127.0.0.1:8000/orders.json | prairie-dusk load -`,
		Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			c.Input = cmd.InOrStdin()
			large := c.Large(args)
			sampling := len(large) > 0 && !whole // what large files leave open is asked before all of them is sent
			for {
				take := c.LoadAs
				if checkOnly || sampling {
					take = c.Check
				}
				c.Sample = sampling
				done := watch(cmd, c, args)
				load, err := take(cmd.Context(), args, reading)
				done()
				switch {
				case err == nil && (checkOnly || !sampling):
					if sampling {
						fmt.Fprintf(cmd.ErrOrStderr(), "Of %s a sample of the rows was looked at; --whole checks all of them.\n",
							escape.Shown(strings.Join(large, ", ")))
					}
					return e.printLoad(cmd, load)
				case sampling && (err == nil || len(questionsOf(err)) == 0):
					sampling = false // the whole says what is wrong
					continue
				}
				questions := questionsOf(err)
				if len(questions) == 0 {
					return err
				}
				if slices.Contains(args, client.StandardInput) || !atTerminal(cmd) {
					return usageError{fmt.Errorf("%w; say %s", err, answering(questions))}
				}
				if q := sharedByFiles(questions, severalFiles(args)); q != nil {
					return usageError{fmt.Errorf("nothing was loaded: an answer for %s would hold for the other files as well (%s); load it by itself", q.File, q.Asks)}
				}
				if !askAll(cmd, questions, &reading) {
					return usageError{fmt.Errorf("nothing was loaded; say %s", answering(questions))}
				}
			}
		},
	}
	cmd.Flags().StringVar(&reading.Dates, "dates", "",
		"how dates such as 04/07/2026 are read in columns that do not `tell`: day-first,\nmonth-first or year-first")
	cmd.Flags().StringVar(&reading.Decimals, "decimals", "",
		"which `mark` stands before decimals in columns that do not tell, such as one of\n1.234: point or comma")
	cmd.Flags().StringArrayVar(&reading.Meanings, "map", nil,
		"what a column means, as `HEADING=MEANING`: a name of ours (order, customer, ordered,\nshipped, …), one of your own, or left-out; can be given several times")
	cmd.Flags().StringArrayVar(&reading.Plans, "plan", nil, "`heading` of a column whose days are plans; can be given several times")
	cmd.Flags().StringArrayVar(&reading.Facts, "fact", nil,
		"`heading` of a column whose days are facts, though some are still to come; can be given\nseveral times")
	cmd.Flags().StringVar(&reading.Rows, "rows", "",
		"what a `row` is where order numbers are repeated and nothing numbers the lines: orders or\nlines; or where it has the keys of several kinds: shipments, payments, …")
	cmd.Flags().StringVar(&reading.Currency, "currency", "",
		"`currency` of amounts with a sign that several have, such as $, or with none: a code such as\nUSD, or none")
	cmd.Flags().StringArrayVar(&reading.CalendarOf, "calendar-of", nil,
		"whose published holidays are: `NAME` of a site, a region or a country, or default; where a\nfile has several, NAME IN THE FILE=NAME")
	cmd.Flags().StringVar(&reading.Observances, "observances", "",
		"what `days` are that a file of holidays calls observances: left-out or days-off")
	cmd.Flags().StringSliceVar(&reading.NotKnown, "not-known", nil,
		"`cells` that say that nothing is known, such as NULL,- ; with none among them, all others\nare meant as they stand")
	cmd.Flags().BoolVar(&reading.AcceptSetAside, "accept-set-aside", false,
		"load although more than 2 in 100 rows of a file, or those of a whole column, are set aside")
	cmd.Flags().StringVar(&reading.Layout, "layout", "",
		"read by the layout of this `name`, and not by that of the headings; none reads by none")
	cmd.Flags().StringArrayVar(&reading.Sheets, "sheet", nil, "`name` of a sheet to read of workbooks; all that can be seen unless given")
	cmd.Flags().BoolVar(&whole, "whole", false, "with --check-only, look at all rows of a large file and not at a sample")
	cmd.Flags().BoolVar(&checkOnly, "check-only", false, "say what would become of the files, and change nothing")
	addFormat(cmd)
	return cmd
}

// questionsOf are what files leave open, where that is why they were refused.
func questionsOf(err error) []client.FileQuestion {
	var problem *client.Problem
	if !errors.As(err, &problem) {
		return nil
	}
	return problem.Questions()
}

// sharedByFiles is a question whose answer would hold for files that it is not about; nil where there is none. Dates and decimals of
// columns that tell are read as they tell, whatever the answer.
func sharedByFiles(questions []client.FileQuestion, several bool) *client.FileQuestion {
	asked := map[string]string{}
	for i, q := range questions {
		word := q.Word
		if word == "map" || word == "plan" {
			word += " " + q.Column
		}
		alone := word == "rows" || word == "currency"
		if file, is := asked[word]; is && file != q.File && word != "accept_set_aside" && word != "calendar_of" || alone && several {
			return &questions[i]
		}
		asked[word] = q.File
	}
	return nil
}

// severalFiles says whether paths may stand for more than one file: a folder stands for its files.
func severalFiles(paths []string) bool {
	info, err := os.Stat(paths[0])
	return len(paths) > 1 || err == nil && info.IsDir()
}

// answering are the options that answer questions about files.
func answering(questions []client.FileQuestion) string {
	texts := make([]string, len(questions))
	for i, q := range questions {
		options := make([]string, len(q.Answers))
		for j, answer := range q.Answers {
			switch options[j] = "--" + strings.ReplaceAll(q.Word, "_", "-"); q.Word {
			case "map":
				options[j] = fmt.Sprintf("--map %q", meaning(q, answer))
			case "plan":
				options[j] = fmt.Sprintf("--%s %q", answer, q.Column)
			case "not_known":
				options[j] += fmt.Sprintf(" %q", answer)
			case "calendar_of":
				options[j] += fmt.Sprintf(" %q", q.Column+"="+answer)
			case "accept_set_aside": // a yes
			default:
				options[j] += " " + answer
			}
		}
		texts[i] = strings.Join(options, " or ")
		const few = 4
		if q.Word == "calendar_of" && len(q.Answers) > few {
			texts[i] = fmt.Sprintf("--calendar-of %q, with NAME one of %s", q.Column+"=NAME", strings.Join(q.Answers, ", "))
		}
	}
	slices.Sort(texts)
	return strings.Join(slices.Compact(texts), ", and ")
}

// meaning is an answer to what a column means, or to which column means something.
func meaning(q client.FileQuestion, answer string) string {
	if q.Column == "" {
		return answer
	}
	return q.Column + "=" + answer
}

// askAll asks at a terminal what files leave open, and notes the answers; false where somebody gives none.
func askAll(cmd *cobra.Command, questions []client.FileQuestion, reading *client.Reading) bool {
	in := bufio.NewScanner(cmd.InOrStdin())
	said := map[string]bool{}
	for _, q := range questions {
		if q.Word != "map" && q.Word != "plan" && q.Word != "calendar_of" && said[q.Word] {
			continue // one answer holds for all that do not tell
		}
		said[q.Word] = true
		fmt.Fprintf(cmd.ErrOrStderr(), "%s: ", escape.Shown(q.File))
		switch {
		case q.Word == "calendar_of":
			fmt.Fprintf(cmd.ErrOrStderr(), "calendar %q: ", escape.Shown(q.Column))
		case q.Column != "":
			fmt.Fprintf(cmd.ErrOrStderr(), "column %q: ", escape.Shown(q.Column))
		}
		asks := q.Asks
		if !strings.HasSuffix(asks, "?") {
			asks += "."
		}
		fmt.Fprintln(cmd.ErrOrStderr(), escape.Shown(asks))
		for i, answer := range q.Answers {
			fmt.Fprintf(cmd.ErrOrStderr(), "  %d  %s\n", i+1, answer)
		}
		fmt.Fprintf(cmd.ErrOrStderr(), "Which? [1-%d, Enter for none] ", len(q.Answers))
		if !in.Scan() {
			return false
		}
		chosen, err := strconv.Atoi(strings.TrimSpace(in.Text()))
		if err != nil || chosen < 1 || chosen > len(q.Answers) {
			return false
		}
		switch answer := q.Answers[chosen-1]; q.Word {
		case "dates":
			reading.Dates = answer
		case "decimals":
			reading.Decimals = answer
		case "plan":
			if answer == "plan" {
				reading.Plans = append(reading.Plans, q.Column)
			} else {
				reading.Facts = append(reading.Facts, q.Column)
			}
		case "rows":
			reading.Rows = answer
		case "calendar_of":
			reading.CalendarOf = append(reading.CalendarOf, q.Column+"="+answer)
		case "observances":
			reading.Observances = answer
		case "currency":
			reading.Currency = answer
		case "not_known":
			reading.NotKnown = strings.Split(answer, ",")
		case "accept_set_aside":
			reading.AcceptSetAside = true
		default:
			reading.Meanings = append(reading.Meanings, meaning(q, answer))
		}
	}
	return true
}

// watch draws a bar on a terminal while a load runs, by the bytes that the service has read.
func watch(cmd *cobra.Command, c *client.Client, paths []string) (done func()) {
	screen, ok := cmd.ErrOrStderr().(*os.File)
	if !ok || !term.IsTerminal(int(screen.Fd())) {
		return func() {}
	}
	total := int64(0)
	for _, path := range paths {
		if info, err := os.Stat(path); err == nil {
			total += info.Size()
		}
	}
	bar := progressbar.NewOptions64(total, progressbar.OptionSetWriter(screen), progressbar.OptionShowBytes(true),
		progressbar.OptionSetWidth(24),
		progressbar.OptionThrottle(100*time.Millisecond), progressbar.OptionClearOnFinish(), progressbar.OptionSetPredictTime(true))
	ctx, cancel := context.WithCancel(cmd.Context())
	var listening sync.WaitGroup
	listening.Go(func() {
		// A bar that hears nothing, or cannot be drawn, stands still; the load goes on.
		_ = c.Progress(ctx, func(p api.Progress) {
			if p.Running {
				bar.Describe(fmt.Sprintf("%s: %s, %s", escape.Shown(p.File), p.Phase, numfmt.Counted(int(p.Rows), "row")))
				_ = bar.Set64(min(p.Bytes, total-1))
			}
		})
	})
	return func() {
		cancel()
		listening.Wait()
		_ = bar.Finish()
	}
}

// printLoad says what became of a load. Rows that were set aside follow, and set the exit status.
func (e *environment) printLoad(cmd *cobra.Command, load *api.Load) error {
	sheets := []sheet{loadSheet(load)}
	if load.Number == 0 && len(load.Columns) > 0 && e.settings.GetString("format") == asTable {
		before := []sheet{columnsSheet(load.Columns)}
		for _, first := range load.FirstRows {
			before = append(before, sheet{title: "First records of " + first.File + ", as they would be saved",
				columns: texts(first.Columns...), rows: first.Rows})
		}
		sheets = append(before, sheets...)
	}
	if load.SetAside > 0 && e.settings.GetString("format") == asTable {
		sheets = append(sheets, setAsideSheet(load.Number, &api.SetAsideRows{All: load.SetAside, Rows: load.Rows}))
	}
	if err := e.print(cmd, sheets...); err != nil {
		return err
	}
	if load.SetAside > 0 {
		return errSetAside
	}
	return nil
}

// skippedNote says which rows of files were no records; the first of them with their texts.
func skippedNote(load *api.Load) string {
	const most, longest = 3, 60
	texts := make([]string, 0, most)
	for _, row := range load.Skipped[:min(most, len(load.Skipped))] {
		texts = append(texts, fmt.Sprintf("row %d of %s, %s: %q", row.Row, row.File, row.Why, numfmt.Clipped(row.Text, longest)))
	}
	return fmt.Sprintf(notePrefix+"%s left out, such as %s", numfmt.Counted(int(load.SkippedRows),
		"row")+numfmt.Agreeing(load.SkippedRows, " is no record and", " are no records and"), strings.Join(texts, "; "))
}

// columnsSheet says what the columns of files were taken for.
func columnsSheet(columns []api.FileColumn) sheet {
	s := sheet{title: "What the columns were taken for"}
	alone := !slices.ContainsFunc(columns, func(c api.FileColumn) bool { return c.File != columns[0].File })
	s.columns = append(texts("file", "heading", "taken for", "of", "form"), numbers("filled", "not understood")...)
	s.columns = append(s.columns, texts("such as", "why")...)
	for _, c := range columns {
		means := c.Means
		if c.Kind == "" {
			means = "not read"
		}
		s.rows = append(s.rows, []string{c.File, c.Heading, means, c.Kind, c.Form, fmt.Sprintf("%s of %s", numfmt.Count(int(c.Filled)),
			numfmt.Count(int(c.Rows))),
			numfmt.Count(int(c.NotUnderstood)), strings.Join(c.Samples, " · "), c.Why})
	}
	if alone {
		s.title = "What the columns of " + columns[0].File + " were taken for"
		s.columns = s.columns[1:]
		for i := range s.rows {
			s.rows[i] = s.rows[i][1:]
		}
	}
	return s
}

func loadSheet(load *api.Load) sheet {
	s := sheet{
		title:  loadTitle(load),
		answer: load, columns: append(texts("file", "kind"), numbers("new", "changed", "same", "set aside")...),
	}
	if e := load.Bounds; e != nil {
		s.below = append(s.below, endsWords(e))
	}
	for _, why := range load.MustAccept {
		s.below = append(s.below, notePrefix+why+"; to load the rest, say --accept-set-aside")
	}
	if load.SkippedRows > 0 {
		s.below = append(s.below, skippedNote(load))
	}
	for _, n := range load.Notes {
		s.below = append(s.below, fmt.Sprintf(notePrefix+"%s: %s", n.File, n.Text))
	}
	for _, used := range load.Layouts {
		note := fmt.Sprintf(notePrefix+"%s was read by the layout %q", used.File, used.Layout)
		if len(used.New) > 0 {
			note += "; new are " + strings.Join(used.New, ", ")
		}
		if len(used.Missing) > 0 {
			note += "; it lacks " + strings.Join(used.Missing, ", ")
		}
		s.below = append(s.below, note)
	}
	for _, f := range load.Files {
		s.rows = append(s.rows, []string{f.Name, f.Kind, numfmt.Count(int(f.New)), numfmt.Count(int(f.Changed)),
			numfmt.Count(int(f.Same)), numfmt.Count(int(f.SetAside))})
		if len(f.UnusedColumns) > 0 {
			s.below = append(s.below, fmt.Sprintf(notePrefix+"columns of %s that mean nothing here were not used: %s", f.Name,
				strings.Join(f.UnusedColumns, ", ")))
		}
	}
	if len(load.Statuses) > 0 {
		s.below = append(s.below, notePrefix+"not in the list of statuses: "+strings.Join(load.Statuses,
			", ")+"; prairie-dusk status set says what they are")
	}
	return s
}

// endsWords say where the book would begin and end.
func endsWords(e *api.LoadBounds) string {
	end := func(name, then, now string) string {
		switch {
		case then == "":
			return name + " would stay unknown"
		case now == "":
			return fmt.Sprintf("%s would be %s", name, then)
		case then == now:
			return fmt.Sprintf("%s would stay %s", name, now)
		}
		return fmt.Sprintf("%s would be %s, and is %s now", name, then, now)
	}
	return numfmt.Sentence(end("the first day of the book", e.FirstDay, e.FirstDayNow) + "; " +
		end("its data date", e.DataDate, e.DataDateNow) + ".")
}

func loadTitle(load *api.Load) string {
	if load.Number == 0 {
		return "What would become of these files; nothing was changed"
	}
	return fmt.Sprintf("Load %d, by %s at %s", load.Number, load.LoadedBy, load.LoadedAt)
}

func setAsideSheet(load int64, rows *api.SetAsideRows) sheet {
	s := sheet{title: fmt.Sprintf("%s of load %d set aside", numfmt.Counted(int(rows.All), "row"), load), answer: rows}
	if load == 0 {
		s.title = numfmt.Counted(int(rows.All), "row") + " would be set aside"
	}
	s.columns = append(texts("file"), numbers("row")...)
	s.columns = append(append(s.columns, texts("column", "value")...), column{name: "reason", wraps: true})
	for _, r := range rows.Rows {
		reason := r.Reason
		if r.ClearedBy != 0 {
			reason = fmt.Sprintf("fixed by load %d; was: %s", r.ClearedBy, reason)
		}
		s.rows = append(s.rows, []string{r.File, strconv.FormatInt(r.Row, 10), r.Column, r.Value, reason})
	}
	if shown := rows.Offset + len(rows.Rows); load != 0 && int64(shown) < rows.All {
		s.below = []string{fmt.Sprintf("The rest: prairie-dusk loads %d --offset %d", load, shown)}
	}
	return s
}

func newLoads(e *environment) *cobra.Command {
	var offset, limit int
	var filter client.SetAside
	cmd := &cobra.Command{
		Use:   "loads [NUMBER]",
		Short: "What was loaded and when; the rows of one load that were set aside",
		Example: `  prairie-dusk loads
  prairie-dusk loads 3 --waiting --column ordered`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			if len(args) == 1 {
				number, err := loadNumber(args[0])
				if err != nil {
					return err
				}
				rows, err := c.SetAsideRows(cmd.Context(), number, filter, offset, limit)
				if err != nil {
					return err
				}
				return e.print(cmd, setAsideSheet(number, rows))
			}
			loads, err := c.Loads(cmd.Context())
			if err != nil {
				return err
			}
			return e.print(cmd, loadsSheet(loads))
		},
	}
	cmd.Flags().IntVar(&limit, "limit", 100, "at most so many set-aside `rows`")
	cmd.Flags().StringVar(&filter.File, "file", "", "only rows of this `file`")
	cmd.Flags().StringVar(&filter.Column, "column", "", "only rows with a fault in this `column`")
	cmd.Flags().BoolVar(&filter.Waiting, "waiting", false, "only rows that no later load has brought")
	cmd.Flags().IntVar(&offset, "offset", 0, "leave out the first so many `rows`")
	addFormat(cmd)
	cmd.AddCommand(newUndo(e), newRedo(e), newMend(e))
	return cmd
}

func newUndo(e *environment) *cobra.Command {
	var yes bool
	cmd := &cobra.Command{
		Use:   "undo NUMBER",
		Short: "Undo the last load: what it brought goes, what it changed is as before",
		Long: `Undo the last load: what it brought goes, and what it changed is as before. The command says
what that is and asks. Until something else is loaded, prairie-dusk loads redo brings it back.`,
		Example: `  prairie-dusk loads undo 3
  prairie-dusk loads undo 3 --yes`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return e.changeLoads(cmd, args[0], func(c *client.Client, load int64) (*api.Loads, error) {
				loads, err := c.Loads(cmd.Context())
				if err != nil {
					return nil, err
				}
				last := slices.IndexFunc(loads.Loads, func(l api.Load) bool { return l.UndoneAt == "" })
				if !yes && last >= 0 && loads.Loads[last].Number == load { // any other is refused
					for _, line := range undoWords(loads.Loads[last]) {
						fmt.Fprintln(cmd.ErrOrStderr(), escape.Shown(line))
					}
					if !atTerminal(cmd) {
						return nil, usageError{fmt.Errorf("nothing was undone: without a terminal, say --yes to undo load %d", load)}
					}
					if !asksAtTerminal(cmd, fmt.Sprintf("Undo load %d?", load)) {
						return nil, errors.New("nothing was undone")
					}
				}
				return c.Undo(cmd.Context(), load)
			})
		},
	}
	cmd.Flags().BoolVar(&yes, "yes", false, "do not ask")
	addFormat(cmd)
	return cmd
}

func newRedo(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:     "redo NUMBER",
		Short:   "Bring the load that was undone last back, as long as nothing was loaded since",
		Example: `  prairie-dusk loads redo 3`,
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return e.changeLoads(cmd, args[0], func(c *client.Client, load int64) (*api.Loads,
				error) {
				return c.Redo(cmd.Context(), load)
			})
		},
	}
	addFormat(cmd)
	return cmd
}

// changeLoads changes the list of loads by the number of one, and shows it.
func (e *environment) changeLoads(cmd *cobra.Command, number string, change func(c *client.Client, load int64) (*api.Loads, error)) error {
	load, err := loadNumber(number)
	if err != nil {
		return err
	}
	c, err := e.client()
	if err != nil {
		return err
	}
	loads, err := change(c, load)
	if err != nil {
		return err
	}
	return e.print(cmd, loadsSheet(loads))
}

// undoWords say what goes when a load is undone.
func undoWords(l api.Load) []string {
	lines := []string{fmt.Sprintf("Load %d of %s, by %s:", l.Number, l.LoadedAt, l.LoadedBy)}
	for _, f := range l.Files {
		line := fmt.Sprintf("  %s (%s): %s", f.Name, f.Kind, numfmt.Counted(int(f.New), "new record")+numfmt.Agreeing(f.New, " goes",
			" go"))
		line += ", " + numfmt.Counted(int(f.Changed), "changed one") + numfmt.Agreeing(f.Changed, " is", " are") + " as before"
		if f.SetAside > 0 {
			line += ", " + numfmt.Counted(int(f.SetAside), "row") + " set aside " + numfmt.Agreeing(f.SetAside, "goes", "go")
		}
		lines = append(lines, line)
	}
	return lines
}

func newMend(e *environment) *cobra.Command {
	var file string
	cmd := &cobra.Command{
		Use:   "fix NUMBER",
		Short: "The rows of a load that were set aside, to be fixed, as CSV in the shape of their file",
		Long: `The rows of a load that were set aside and have not come since, as they stood in their
file, with the reason in a last column. Fix them and load the file: the reason is not read.`,
		Example: `  prairie-dusk loads fix 3 > fix.csv
  prairie-dusk load fix.csv`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			number, err := loadNumber(args[0])
			if err != nil {
				return err
			}
			c, err := e.client()
			if err != nil {
				return err
			}
			return c.Waiting(cmd.Context(), number, file, dataOut(cmd))
		},
	}
	cmd.Flags().StringVar(&file, "file", "", "`name` of the file, where the load has several with such rows")
	return cmd
}

func loadNumber(text string) (int64, error) {
	number, err := strconv.ParseInt(text, 10, 64)
	if err != nil {
		return 0, usageError{fmt.Errorf("%q is no number of a load; see `prairie-dusk loads`", text)}
	}
	return number, nil
}

func loadsSheet(loads *api.Loads) sheet {
	s := sheet{title: "Loads, the last first", answer: loads}
	if loads.Shown > 0 {
		s.below = []string{fmt.Sprintf("Answers show the records as of load %d.", loads.Shown)}
	}
	s.columns = append(numbers("load"), texts("at", "by", "data date", "file", "kind")...)
	s.columns = append(s.columns, numbers("new", "changed", "same", "set aside")...)
	for _, l := range loads.Loads {
		if l.UndoneAt != "" {
			below := fmt.Sprintf(notePrefix+"load %d was undone at %s", l.Number, l.UndoneAt)
			if l.Redoable {
				below += fmt.Sprintf("; prairie-dusk loads redo %d brings it back", l.Number)
			}
			s.below = append(s.below, below)
		}
		for _, f := range l.Files {
			s.rows = append(s.rows, []string{strconv.FormatInt(l.Number, 10), l.LoadedAt, l.LoadedBy, l.DataDate, f.Name, f.Kind,
				numfmt.Count(int(f.New)), numfmt.Count(int(f.Changed)), numfmt.Count(int(f.Same)), numfmt.Count(int(f.SetAside))})
		}
	}
	return s
}
