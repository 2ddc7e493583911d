package cli

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"os"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"prairiedusk/internal/escape"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"
	"github.com/spf13/cobra"
	"golang.org/x/term"
)

// The forms in which commands print what they have.
const (
	asTable = "table"
	asCSV   = "csv"
	asJSON  = "json"
)

var formats = []string{asTable, asCSV, asJSON}

func addFormat(cmd *cobra.Command, more ...string) {
	all := append(slices.Clone(formats), more...)
	cmd.Flags().String("format", asTable, "`form` of the output: "+strings.Join(all[:len(all)-1], ", ")+" or "+all[len(all)-1])
	_ = cmd.RegisterFlagCompletionFunc("format", cobra.FixedCompletions(all, cobra.ShellCompDirectiveNoFileComp))
}

// A sheet is what a command prints: a title that says what it is, columns, rows, and what has to be said below.
type sheet struct {
	title   string
	columns []column
	rows    [][]string
	total   []string   // printed below the rows; empty for none
	under   [][]string // printed below the total
	drawn   string     // printed in the place of the columns and rows, but in a file
	below   []string   // paragraphs; one with line breaks is printed as it is
	// answer is what the service said, for JSON.
	answer any
}

// A column is numeric where its cells are numbers, which stand right. Cells of one that wraps go on in the
// next line where others are cut.
type column struct {
	name    string
	numeric bool
	wraps   bool
	over    string // stands above the names of neighbours that share it, and in a file after each name
}

// headingWidth is where the name of a column of numbers is broken: the numbers need less.
const headingWidth = 11

// heading is the column's name as it stands in a table.
func (c column) heading() string {
	if !c.numeric {
		return c.name
	}
	lines := strings.Split(text.WrapSoft(c.name, headingWidth), "\n")
	for i := range lines {
		lines[i] = strings.TrimSpace(lines[i])
	}
	return strings.Join(lines, "\n")
}

func texts(names ...string) []column {
	columns := make([]column, len(names))
	for i, n := range names {
		columns[i] = column{name: n}
	}
	return columns
}

func numbers(names ...string) []column {
	columns := make([]column, len(names))
	for i, n := range names {
		columns[i] = column{name: n, numeric: true}
	}
	return columns
}

// print prints sheets in the form that was asked for. As JSON the answer is printed once, from the first.
func (e *environment) print(cmd *cobra.Command, sheets ...sheet) error {
	out := dataOut(cmd)
	switch format := e.settings.GetString("format"); format {
	case asJSON:
		encoder := json.NewEncoder(out)
		encoder.SetIndent("", "  ")
		encoder.SetEscapeHTML(false)
		return encoder.Encode(sheets[0].answer)
	case asCSV:
		for _, s := range sheets {
			if err := s.writeCSV(out); err != nil {
				return err
			}
		}
	case asTable:
		out := cmd.OutOrStdout()
		for i, s := range sheets {
			if i > 0 {
				fmt.Fprintln(out)
			}
			s.writeTable(out, width(out))
		}
	default:
		return usageError{fmt.Errorf("%q is not a form of output; want one of %s", format, strings.Join(formats, ", "))}
	}
	return nil
}

// dataOut is where a command writes data for other programs; where that is a terminal, it obeys nothing of them.
func dataOut(cmd *cobra.Command) io.Writer {
	if out := cmd.OutOrStdout(); width(out) > 0 {
		return escape.Terminal(out)
	}
	return cmd.OutOrStdout()
}

// writeCSV writes RFC 4180: the title in the first cell of a first row that is as long as the others, then
// the header and the rows. A spreadsheet runs none of their texts.
func (s sheet) writeCSV(out io.Writer) error {
	writer := csv.NewWriter(out)
	writer.UseCRLF = true
	title := make([]string, len(s.columns))
	title[0] = escape.Out(s.title)
	header := make([]string, len(s.columns))
	for i, c := range s.columns {
		header[i] = c.name
		if c.over != "" {
			header[i] += ", " + c.over
		}
		header[i] = escape.Out(header[i])
	}
	rows := append([][]string{title, header}, s.rows...)
	if len(s.total) > 0 {
		rows = append(append(slices.Clone(rows), s.total), s.under...)
	}
	for at, row := range rows[2:] {
		rows[2+at] = slices.Clone(row)
		for i, cell := range row {
			if !s.columns[i].numeric {
				rows[2+at][i] = escape.Out(cell)
			}
		}
	}
	return writer.WriteAll(rows)
}

// width is that of the terminal; 0 where there is none.
func width(out io.Writer) int {
	file, ok := out.(*os.File)
	if !ok || !term.IsTerminal(int(file.Fd())) {
		return 0
	}
	columns, _, err := term.GetSize(int(file.Fd()))
	if err != nil {
		return 0
	}
	return columns
}

// shown is the sheet as a terminal can show it, whatever stands in its texts.
func (s sheet) shown() sheet {
	all := func(cells []string) []string {
		next := make([]string, len(cells))
		for i, cell := range cells {
			next[i] = escape.Shown(cell)
		}
		return next
	}
	rows := func(rows [][]string) [][]string {
		next := make([][]string, len(rows))
		for i, row := range rows {
			next[i] = all(row)
		}
		return next
	}
	s.title, s.drawn, s.total, s.rows, s.under = escape.ShownLines(s.title), escape.ShownLines(s.drawn), all(s.total), rows(s.rows),
		rows(s.under)
	s.columns, s.below = slices.Clone(s.columns), slices.Clone(s.below)
	for i := range s.columns {
		s.columns[i].name, s.columns[i].over = escape.Shown(s.columns[i].name), escape.Shown(s.columns[i].over)
	}
	for i, paragraph := range s.below {
		s.below[i] = escape.ShownLines(paragraph)
	}
	return s
}

func (s sheet) writeTable(out io.Writer, width int) {
	s = s.shown()
	paint := painter(width)
	if s.title != "" {
		fmt.Fprintln(out, paint(wrap(s.title, width), text.Bold))
		fmt.Fprintln(out)
	}
	switch {
	case s.drawn != "":
		fmt.Fprintln(out, s.drawn)
	case len(s.columns) > 0:
		fmt.Fprintln(out, s.render(width))
	}
	for _, paragraph := range s.below {
		fmt.Fprintln(out)
		if strings.HasPrefix(paragraph, notePrefix) {
			paragraph = paint(wrap(paragraph, width), text.FgYellow)
		} else {
			paragraph = wrap(paragraph, width)
		}
		fmt.Fprintln(out, paragraph)
	}
}

// notePrefix begins a paragraph that the eye should find.
const notePrefix = "Note: "

// painter colours for a terminal, unless the user wants none (no-color.org).
func painter(width int) func(string, text.Color) string {
	if width == 0 || os.Getenv("NO_COLOR") != "" {
		return func(plain string, _ text.Color) string { return plain }
	}
	return func(plain string, color text.Color) string {
		lines := strings.Split(plain, "\n")
		for i, line := range lines {
			lines[i] = color.EscapeSeq() + line + text.EscapeReset
		}
		return strings.Join(lines, "\n")
	}
}

// wrap breaks a paragraph at the width; one that has lines already is drawn, and stays as it is.
func wrap(paragraph string, width int) string {
	if width == 0 || strings.Contains(paragraph, "\n") {
		return paragraph
	}
	lines := strings.Split(text.WrapSoft(paragraph, width), "\n")
	for i := range lines {
		lines[i] = strings.TrimRight(lines[i], " ") // it pads them
	}
	return strings.Join(lines, "\n")
}

// render lays the table out; columns of text give way where the terminal is too narrow.
func (s sheet) render(width int) string {
	t := table.NewWriter()
	style := table.StyleLight
	style.Options = table.Options{SeparateHeader: true, SeparateFooter: true}
	style.Format = table.FormatOptions{}
	style.Box.MiddleHorizontal, style.Box.PaddingLeft, style.Box.PaddingRight = "─", "", "  "
	t.SetStyle(style)
	header := make(table.Row, len(s.columns))
	configs, widths := make([]table.ColumnConfig, len(s.columns)), s.columnWidths(width)
	for i, c := range s.columns {
		header[i] = c.heading()
		configs[i] = table.ColumnConfig{Number: i + 1, WidthMax: widths[i], WidthMaxEnforcer: shorten, VAlignHeader: text.VAlignBottom}
		if c.wraps {
			configs[i].WidthMaxEnforcer = text.WrapSoft
		}
		align := text.AlignLeft
		if c.numeric {
			align = text.AlignRight
		}
		configs[i].Align, configs[i].AlignHeader, configs[i].AlignFooter = align, align, align
	}
	t.SetColumnConfigs(configs)
	t.AppendHeader(header)
	for _, row := range s.rows {
		t.AppendRow(tableRow(row))
	}
	if len(s.total) > 0 {
		t.AppendFooter(tableRow(s.total))
		for _, row := range s.under {
			t.AppendFooter(tableRow(row))
		}
	}
	if width > 0 {
		t.Style().Size.WidthMax = width
	}
	lines := strings.Split(t.Render(), "\n")
	for i, line := range lines {
		lines[i] = strings.TrimRight(line, " ")
	}
	if over := s.over(lines); over != "" {
		lines = append([]string{over}, lines...)
	}
	return strings.Join(lines, "\n")
}

// over is the line above the names, which says what columns that stand together share; each text ends with the last of its columns.
// Empty where nothing is shared, or the terminal is too narrow.
func (s sheet) over(lines []string) string {
	rule := slices.IndexFunc(lines, func(line string) bool { return strings.HasPrefix(line, "─") })
	names, at := lines[rule-1], 0
	var line []rune
	for i, c := range s.columns {
		heading := strings.Split(c.heading(), "\n")
		own := heading[len(heading)-1]
		found := strings.Index(names[at:], own)
		if found < 0 {
			return "" // the terminal is too narrow for the names themselves
		}
		at += found + len(own)
		if c.over == "" || i+1 < len(s.columns) && s.columns[i+1].over == c.over {
			continue
		}
		end, text := utf8.RuneCountInString(names[:at]), []rune(c.over)
		if gap := end - len(line) - len(text); gap >= 0 {
			line = append(append(line, []rune(strings.Repeat(" ", gap))...), text...)
		}
	}
	return string(line)
}

func tableRow(cells []string) table.Row {
	row := make(table.Row, len(cells))
	for i, c := range cells {
		row[i] = c
	}
	return row
}

// shorten cuts a line of a cell that is too wide, and shows that it did.
func shorten(cell string, width int) string {
	lines := strings.Split(cell, "\n")
	for i := range lines {
		lines[i] = text.Snip(lines[i], width, "…")
	}
	return strings.Join(lines, "\n")
}

// columnWidths gives each column what its cells need; the widest columns of text give way, down to
// narrowest, until the table fits.
func (s sheet) columnWidths(width int) []int {
	const gap, narrowest = 2, 8
	need := make([]int, len(s.columns))
	sum := 0
	for i, c := range s.columns {
		need[i] = text.LongestLineLen(c.heading())
		for _, row := range s.rows {
			need[i] = max(need[i], text.StringWidth(row[i]))
		}
		for _, row := range append(slices.Clone(s.under), s.total) {
			if len(row) > 0 {
				need[i] = max(need[i], text.StringWidth(row[i]))
			}
		}
		sum += need[i] + gap
	}
	for width > 0 && sum > width {
		widest := -1
		for i, c := range s.columns {
			if !c.numeric && need[i] > narrowest && (widest < 0 || need[i] > need[widest]) {
				widest = i
			}
		}
		if widest < 0 {
			break
		}
		need[widest]--
		sum--
	}
	return need
}

func decimal(x *float64, places int) string {
	if x == nil {
		return ""
	}
	return strconv.FormatFloat(*x, 'f', places, 64)
}

// length is whole where it is, else with two decimals.
func length(x *float64) string {
	if x != nil && *x == math.Trunc(*x) {
		return decimal(x, 0)
	}
	return decimal(x, 2)
}
