package cli

import (
	"errors"
	"fmt"
	"io"
	"net/url"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/whatif"
	"prairiedusk/internal/params"
	"prairiedusk/internal/present"
)

// An asking is a command that asks a question whose answer is a document.
type asking struct {
	path string // of the question in the API
	page string // of the console that asks it; empty where none does, and no view can be kept
	show string // of the page's answers this one; empty for its first
	in   any    // the question's parameters: a pointer to a struct of package api
	// draw draws an answer that is more than tables; it gives no sheets where there is nothing to draw.
	draw func(d *answer.Document, width int) []sheet
	// lists are what --list can name: the orders themselves behind a number of all orders.
	lists []string
}

// showing is what is shown besides the tables.
type showing struct {
	explain bool // the working
	behind  bool // the addresses of the orders behind the numbers
}

// tables are the codes of folded tables that are shown all the same.
func (s showing) tables() []string {
	if s.explain {
		return []string{"working"}
	}
	return nil
}

// asks makes a command ask: it takes the question's parameters as options, and prints the answer in any form.
func (e *environment) asks(cmd *cobra.Command, a asking) *cobra.Command {
	var k viewSaver
	var shown showing
	var listed string
	var supposed []string
	cmd.Args = cobra.NoArgs
	params.Flags(cmd.Flags(), a.in)
	params.Completions(cmd, a.in, e.wordsOf)
	second := secondFlags(cmd, a)
	if slices.Contains(present.Checked(), second.analysis) {
		cmd.Flags().StringArrayVar(&supposed, "what-if", nil, "the answer beside what it would be with this `change`, which is not saved; may be repeated: "+strings.Join(whatif.Examples, "; "))
		cmd.Flags().BoolVar(&shown.explain, "explain", false, "also the working: the rule, and what each step leaves of the orders in the book")
	}
	cmd.Flags().BoolVar(&shown.behind, "with-behind", false,
		"below the table, the addresses of the orders behind its numbers, for prairie-dusk orders --behind")
	if a.lists != nil {
		cmd.Flags().StringVar(&listed, "list", "", "the orders behind one `number`: "+strings.Join(a.lists, ", "))
		_ = cmd.RegisterFlagCompletionFunc("list", cobra.FixedCompletions(a.lists, cobra.ShellCompDirectiveNoFileComp))
	}
	addOutput(cmd)
	if a.path != "/audit" { // which is of no records
		addAsOf(cmd)
	}
	if a.page != "" {
		k.add(cmd)
	}
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		c, err := e.client()
		if err != nil {
			return err
		}
		words := params.Values(a.in)
		if second.asked() {
			return e.second(cmd, c, second, address(second.analysis, a.in))
		}
		if len(supposed) > 0 {
			return e.whatIf(cmd, c, address(second.analysis, a.in), supposed)
		}
		if listed != "" && k.name != "" {
			return usageError{errors.New("--list shows orders, and --save-view saves the question; save a list with prairie-dusk orders --behind ADDRESS --save-view NAME")}
		}
		if listed != "" {
			return e.list(cmd, c, behindOf(a.path, words, listed))
		}
		sentence, err := e.answer(cmd, c, a, words, shown)
		if err != nil || a.page == "" {
			return err
		}
		if a.show != "" {
			words.Set("show", a.show)
		}
		return k.keep(e, cmd, c, asked{a.page, words, sentence})
	}
	return cmd
}

// whatIf shows an answer beside what it would be with changes, and the orders that differ.
func (e *environment) whatIf(cmd *cobra.Command, c *client.Client, question string, changes []string) error {
	analysis, text, _ := strings.Cut(question, "?")
	words, err := url.ParseQuery(text)
	if err != nil {
		return err
	}
	words[whatif.Word] = changes
	ways := api.TwoWays{First: question, Second: analysis + "?" + words.Encode()}
	_, err = e.answer(cmd, c, asking{path: "/two-ways"}, params.Values(&ways), showing{})
	return err
}

// behindOf are the words of a list of the orders behind a number of an answer.
func behindOf(path string, words url.Values, listed string) url.Values {
	list := url.Values{}
	for _, own := range []string{"offset", "limit"} {
		if words.Has(own) {
			list.Set(own, words.Get(own))
			words.Del(own)
		}
	}
	words.Set("list", listed)
	list.Set("behind", strings.TrimPrefix(path, "/")+"?"+words.Encode())
	return list
}

// wordsOf are the words that complete a parameter: those of the service by the name of their kind, or a list with commas.
func (e *environment) wordsOf(cmd *cobra.Command, of string) []string {
	kinds := map[string]func(known) []string{"dates": known.milestones, "plans": known.plans, "units": known.units,
		"rules":  func(k known) []string { return k.CountRules },
		"states": func(k known) []string { return k.States }, "columns": known.columns,
		"periods": func(k known) []string { return k.Periods }, "groupings": func(k known) []string { return k.Groupings },
		"part groupings": func(k known) []string { return append(k.Groupings, k.PartGroupings...) }}
	if words, known := kinds[of]; known {
		return e.complete(cmd, words)
	}
	switch of {
	case "":
		return nil
	case "statuses":
		return e.statusNames(cmd)
	}
	return strings.Split(of, ",")
}

// answer asks a question by its words, prints the answer or writes it to a file, and gives its sentence.
func (e *environment) answer(cmd *cobra.Command, c *client.Client, a asking, words url.Values, shown showing) (sentence string, err error) {
	format, err := e.fileFormat(cmd)
	if err != nil {
		return "", err
	}
	if format != asTable && (format != asJSON || e.settings.GetString("output") != "") {
		return "", e.writeFile(cmd, format, func(to io.Writer) error { return c.AnswerFile(cmd.Context(), a.path, words, format, to) })
	}
	d, err := c.Answer(cmd.Context(), a.path, words)
	if err != nil {
		return "", err
	}
	sheets := documentSheets(d, shown.tables(), shown.behind)
	if a.draw != nil && !shown.behind {
		if drawn := a.draw(d, width(cmd.OutOrStdout())); drawn != nil {
			sheets = drawn
		}
	}
	return d.Asked(), e.print(cmd, sheets...)
}

// documentSheets are a document as the terminal shows it: each part's tables, folded ones too where they are named, and below the
// first what it is of.
func documentSheets(d *answer.Document, folded []string, withBehind bool) (sheets []sheet) {
	for _, p := range d.Parts {
		opening := len(sheets)
		for _, t := range p.Tables {
			if t.Picture || t.Folded && !slices.Contains(folded, t.Code) {
				continue
			}
			s := tableSheet(t)
			if s.title = t.Title; len(sheets) == opening {
				if s.title = d.Asked(); p.Title != "" {
					s.title += " (" + p.Title + ")"
				}
				s.below = append(listWords(t), lineTexts(p)...)
			}
			if t.Sort != "" {
				sheets = append(sheets, sectioned(s, t, d.Heading)...)
				continue
			}
			if shown := len(t.Rows); t.Offset+shown < t.All || t.Offset > 0 {
				s.below = append(s.below, fmt.Sprintf("%s to %s of %s rows; a file has all: --output FILE.",
					numfmt.Count(t.Offset+min(1, shown)), numfmt.Count(t.Offset+shown), numfmt.Count(t.All)))
			}
			if to := addresses(t); withBehind && to != "" {
				s.below = append(s.below, to)
			}
			sheets = append(sheets, s)
		}
	}
	if len(sheets) == 0 {
		sheets = []sheet{{title: d.Asked()}}
	}
	sheets[0].answer = d
	last := &sheets[len(sheets)-1]
	last.below = append(last.below, d.Records())
	return sheets
}

// lineTexts are what has to be said of a part.
func lineTexts(p answer.Part) (below []string) {
	for _, l := range p.Lines {
		below = append(below, l.Text)
	}
	for _, n := range p.Notes {
		below = append(below, notePrefix+n.Text)
	}
	return below
}

// tableSheet is a table with the columns that people read.
func tableSheet(t answer.Table) (s sheet) {
	var shown []int
	for i, c := range t.Columns {
		if !c.Folded {
			shown = append(shown, i)
			s.columns = append(s.columns, column{name: c.Heading, over: c.Shared, numeric: c.Kind.Numeric(),
				wraps: c.Kind == answer.Text && i == len(t.Columns)-1})
		}
	}
	row := func(r answer.Row) []string {
		cells := make([]string, len(shown))
		for i, at := range shown {
			cells[i] = cellText(t, r.Cells[at])
			if t.Columns[at].Kind == answer.Day && t.Sort == "" {
				cells[i] = withWeekday(cells[i])
			}
		}
		if len(r.Remarks) > 0 && len(cells) > 0 {
			cells[0] += " (" + strings.Join(r.Remarks, ", ") + ")"
		}
		return cells
	}
	for _, r := range t.Rows {
		s.rows = append(s.rows, row(r))
	}
	for i, r := range t.Totals {
		if t.Sort != "" {
			break // what there is of each column is said below
		}
		if i == 0 {
			s.total = row(r)
		} else {
			s.under = append(s.under, row(r))
		}
	}
	if len(s.rows) == 0 && s.total != nil && len(t.Totals) == 1 && t.All == 0 {
		s.rows, s.total = [][]string{s.total}, nil // there are no groups, only all
	}
	return s
}

// signs stand before highlighted rows and cells, so that nobody needs to see a colour.
var signs = map[string]string{"amber": "◆", "teal": "●", "plum": "▲", "faint": "·"}

// cellText is a cell with the sign of its highlight before it, and its marks behind.
func cellText(t answer.Table, c answer.Cell) string {
	text := c.Text
	if c.Highlight > 0 {
		text = signs[t.Highlights[c.Highlight-1].Style] + " " + text
	}
	for _, m := range c.Marks {
		text += t.Marks[m].Sign
	}
	return text
}

// sectioned are the sheets of a list: one for each of its sections, with the signs of highlighted rows in a column of their own. The
// length that the list is of stands under its heading.
func sectioned(s sheet, t answer.Table, heading string) []sheet {
	for i := range s.columns {
		if heading != "" && s.columns[i].name == heading {
			s.columns[i].name, s.columns[i].over = "length", heading
		}
	}
	if slices.ContainsFunc(t.Highlights, func(m answer.Highlight) bool { return m.Column < 0 }) {
		s.columns = append(texts(""), s.columns...)
		for i, r := range t.Rows {
			sign := ""
			if r.Highlight > 0 {
				sign = signs[t.Highlights[r.Highlight-1].Style]
			}
			s.rows[i] = append([]string{sign}, s.rows[i]...)
		}
	}
	if t.Sections == nil {
		return []sheet{s}
	}
	var sheets []sheet
	before := 0 // rows of earlier sections
	for i, section := range t.Sections {
		one := s
		from, to := min(max(before-t.Offset, 0), len(s.rows)), min(max(before+section.Rows-t.Offset, 0), len(s.rows))
		if one.title = section.Title; i == 0 {
			one.title = s.title + "\n" + section.Title
		}
		if one.rows = s.rows[from:to]; from == to {
			one.columns = nil
			if before >= t.Offset+len(s.rows) {
				one.title += fmt.Sprintf("; they follow, from --offset %d on", before)
			}
		}
		if one.below = nil; i == len(t.Sections)-1 {
			one.below = s.below
		}
		sheets = append(sheets, one)
		before += section.Rows
	}
	return sheets
}

// listWords say of a list how much there is, what may be summed, and what signs mean.
func listWords(t answer.Table) (below []string) {
	if t.Sort == "" {
		return nil
	}
	shown := "none"
	if len(t.Rows) > 0 {
		shown = fmt.Sprintf("%s to %s", numfmt.Count(t.Offset+1), numfmt.Count(t.Offset+len(t.Rows)))
	}
	below = append(below, fmt.Sprintf("%s: %s in %s; shown: %s, by %s.", t.Title, numfmt.Counted(t.Orders, "order"),
		numfmt.Counted(t.All, "row"), shown, t.Sort))
	var feet []string
	for _, r := range t.Totals {
		for i, c := range r.Cells {
			if c.Text != "" {
				feet = append(feet, fmt.Sprintf("%s (%s) %s", t.Columns[i].Heading, c.Basis, c.Text))
			}
		}
	}
	if feet != nil {
		below = append(below, "Over all pages: "+strings.Join(feet, "; ")+".")
	}
	for _, m := range t.Highlights {
		on := ""
		if m.Column >= 0 {
			on = " on " + t.Columns[m.Column].Heading
		}
		below = append(below, fmt.Sprintf("%s %s%s: %s", signs[m.Style], m.Style, on, m.Where))
	}
	for at, m := range t.Marks {
		if slices.ContainsFunc(t.Rows, func(r answer.Row) bool {
			return slices.ContainsFunc(r.Cells, func(c answer.Cell) bool { return slices.Contains(c.Marks, at) })
		}) {
			below = append(below, m.Sign+" "+m.Text)
		}
	}
	return below
}

// addresses lists the addresses of the orders behind a table's numbers.
func addresses(t answer.Table) string {
	var lines strings.Builder
	for _, r := range slices.Concat(t.Rows, t.Totals) {
		for i, c := range r.Cells {
			if c.Behind != "" {
				fmt.Fprintf(&lines, "%s, %s: %s orders behind\n    %s\n", r.Cells[0].Text, t.Columns[i].Title(), c.Text, c.Behind)
			}
		}
	}
	return strings.TrimSuffix(lines.String(), "\n")
}
