package secondopinion

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/numfmt"
)

// noise is by how much two ways to compute a mean may differ, of the number itself; numbers of answers are given to a millionth.
const noise = 2e-6

// A comparison holds the figures of an answer against those of its statement.
type comparison struct {
	statement *Statement
	table     answer.Table // of the figures
	differ    int
	beside    []string // columns of numbers, and tables, that the statement does not give
}

// Compare holds an answer against the rows of its statement, figure by figure.
func Compare(d *answer.Document, s *Statement, rows [][]*string, ours, theirs time.Duration) *answer.Document {
	c := &comparison{statement: s, table: answer.Table{Code: "figures", Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "number", Heading: "number", Kind: answer.Text}, {Code: "answer", Heading: "the answer", Kind: answer.Number},
		{Code: "sql", Heading: "by SQL", Kind: answer.Number}, {Code: "verdict", Heading: "verdict", Kind: answer.Text},
		{Code: "holds", Heading: "holds", Kind: answer.YesNo, Folded: true}}}}
	byTitle := s.byTitle(rows)
	for _, part := range d.Parts {
		title := titled(slices.Collect(maps.Keys(byTitle)), part.Title)
		c.part(part, byTitle[title])
		delete(byTitle, title)
	}
	for _, title := range slices.Sorted(maps.Keys(byTitle)) {
		for _, rows := range byTitle[title] {
			c.only(title + ": " + numfmt.Counted(len(rows), "row"))
		}
	}
	t, differ := c.table, c.differ
	slices.SortStableFunc(t.Rows, func(x, y answer.Row) int { return int(*x.Cells[4].Number - *y.Cells[4].Number) })
	t.All = len(t.Rows)
	verdict := fmt.Sprintf("PostgreSQL finds the same %s.", numfmt.Counted(t.All, "figure"))
	if differ > 0 {
		verdict = fmt.Sprintf("%s of %s differ.", numfmt.Count(differ), numfmt.Counted(t.All, "figure"))
	}
	notes := []answer.Note{{Code: "times",
		Text: fmt.Sprintf("The answer took %s, the statement %s.", milliseconds(ours), milliseconds(theirs))}}
	if len(c.beside) > 0 {
		notes = append(notes, answer.Note{Code: "not-compared",
			Text: "Not compared, since the statement does not give them: " + strings.Join(c.beside, ", ") + "."})
	}
	return &answer.Document{Analysis: "second-opinion", Version: d.Version, FirstDay: d.FirstDay, DataDate: d.DataDate,
		Sentence: append([]answer.Word{{Text: "Does PostgreSQL find the same? "}}, d.Sentence...),
		Parts: []answer.Part{{Tables: []answer.Table{t}, Lines: []answer.Line{{Text: verdict, Terms: []answer.Term{}}},
			Notes: notes}}}
}

// titled is the title by which a statement knows a part: of a value that has one currency only the answer does not say which.
func titled(titles []string, title string) string {
	longer := slices.DeleteFunc(titles, func(s string) bool { return s != title && title != "" && !strings.HasPrefix(s, title+", ") })
	if slices.Contains(longer, title) || len(longer) != 1 {
		return title
	}
	return longer[0]
}

// part compares the figures of one part of an answer, table by table.
func (c *comparison) part(part answer.Part, tables map[string][][]*string) {
	s, read := c.statement, []string{}
	for i := range part.Tables {
		of := &part.Tables[i]
		if !slices.Contains(s.Tables, of.Code) {
			if !slices.ContainsFunc(of.Columns, isNumber) {
				continue // what a picture is drawn on
			}
			c.note("the table “" + cmp.Or(of.Title, part.Title, strings.ReplaceAll(of.Code, "-", " ")) + "”")
			continue
		}
		from := of.Code
		if !s.Long {
			from = s.Tables[0]
		}
		c.leftOut(of, c.compared(part, of, tables[from]))
		read = append(read, from)
	}
	for _, code := range slices.Sorted(maps.Keys(tables)) {
		if !slices.Contains(read, code) {
			c.only(cmp.Or(part.Title, code) + ": " + numfmt.Counted(len(tables[code]), "row"))
		}
	}
}

// compared compares the figures of one table, and says which columns they fill.
func (c *comparison) compared(part answer.Part, of *answer.Table, rows [][]*string) []string {
	s := c.statement
	codes, found := s.figures(of, rows)
	compare := func(r answer.Row, key, named string) {
		theirs, known := found[key]
		delete(found, key)
		if _, empty := found[key+emptyStep]; s.Empty && !empty && named != "all" {
			c.only(named + ": not empty")
		}
		delete(found, key+emptyStep)
		if part.Title != "" {
			named += ", " + part.Title
		}
		for i, code := range codes {
			column := of.At(s.inTable(of, code))
			if column < 0 {
				continue
			}
			named := of.Columns[column].Heading + ", " + named
			var other *string
			if known {
				other = theirs[i]
			}
			if !isNumber(of.Columns[column]) {
				cell := r.Cells[column]
				if of.Columns[column].Kind == answer.Day { // without its time
					cell.Text = cell.Text[:min(len(cell.Text), len("2026-01-02"))]
				}
				c.words(named, cell, *cmp.Or(other, new("")))
				continue
			}
			if other == nil && (s.Long || !known && of.Columns[column].Kind == answer.Count) && r.Cells[column].Number != nil {
				other = new("0") // a group in which nothing lies
			}
			c.figure(named, r.Cells[column], other)
		}
	}
	if s.Orders {
		c.listed(of, rows)
	}
	for _, r := range of.Rows {
		keys := make([]*string, s.Keys)
		for i := range keys {
			keys[i] = new(strings.TrimPrefix(r.Cells[i].Text, "(none)"))
		}
		if s.Orders {
			keys[0] = &r.Order
			compare(r, keyOf(keys), r.Order)
			continue
		}
		compare(r, keyOf(keys), strings.Join(texts(r, s.Keys), ", "))
	}
	for i, r := range of.Totals {
		keys := make([]*string, s.Keys)
		switch {
		case s.Orders:
			continue
		case s.AllTotals:
			for k := 1; k < s.Keys; k++ {
				if r.Cells[k].Text != "all" || k == s.Keys-1 { // of two groupings both are summed
					keys[k] = &r.Cells[k].Text
				}
			}
		case i < len(of.Totals)-1:
			continue
		}
		compare(r, keyOf(keys), "all"+strings.TrimPrefix(strings.Join(texts(r, s.Keys), ", "), texts(r, 1)[0]))
	}
	for _, key := range slices.Sorted(maps.Keys(found)) {
		if s.Empty && !strings.HasSuffix(key, "|"+emptyStep) || !slices.ContainsFunc(found[key], counts) {
			continue // nothing is counted there, and the answer leaves it out; or it is the other way about
		}
		c.only(key)
	}
	for i := range codes {
		codes[i] = s.inTable(of, codes[i])
	}
	return codes
}

// listed compares how many orders a list has in all, and in which order it shows them.
func (c *comparison) listed(of *answer.Table, rows [][]*string) {
	all := new("0")
	for i, row := range rows {
		all = row[c.statement.Keys]
		if i < len(of.Rows) && of.Rows[i].Order != *row[0] {
			c.words("row "+numfmt.Count(i+1), answer.Words(of.Rows[i].Order), *row[0])
			break
		}
	}
	c.figure(listedOrders, answer.Whole(of.Orders), all)
}

// inTable is the code that a figure has in a table; empty where it has no place there. Of several tables the first has all figures but
// those that are named after another.
func (s *Statement) inTable(of *answer.Table, code string) string {
	if s.Long {
		return code
	}
	for _, table := range s.Tables[1:] {
		if own, is := strings.CutPrefix(code, table+"_"); is {
			return numfmt.Either(of.Code == table, own, "")
		}
	}
	return numfmt.Either(of.Code == s.Tables[0], code, "")
}

// only says that something is found by the statement alone.
func (c *comparison) only(named string) {
	c.differ++
	c.table.Rows = append(c.table.Rows, answer.Row{Cells: []answer.Cell{answer.Words(named), {}, {}, answer.Words("only by SQL"), {Text: "no", Number: new(0.0)}}})
}

// byTitle are the rows of a statement by the parts of the answer to which they belong, and by their tables, without the names of both.
// Tables in which nothing is counted are left out, as in the answer.
func (s *Statement) byTitle(rows [][]*string) map[string]map[string][][]*string {
	if !s.Long && !s.Parts {
		return map[string]map[string][][]*string{"": {s.Tables[0]: rows}}
	}
	parts := map[string]map[string][][]*string{}
	for _, row := range rows {
		title, table, rest := *row[0], s.Tables[0], row[1:]
		if s.Long {
			table, rest = *row[1], row[2:]
		}
		if parts[title] == nil {
			parts[title] = map[string][][]*string{}
		}
		parts[title][table] = append(parts[title][table], rest)
	}
	maps.DeleteFunc(parts, func(_ string, tables map[string][][]*string) bool {
		maps.DeleteFunc(tables, func(_ string, of [][]*string) bool {
			return s.Long && !slices.ContainsFunc(of, func(row []*string) bool { return counts(row[len(row)-1]) })
		})
		return len(tables) == 0
	})
	return parts
}

// counts says that a figure is known, and not nought.
func counts(cell *string) bool { return cell != nil && strings.Trim(*cell, "0.") != "" }

// leftOut notes which columns of a table the statement does not give: of one of numbers, those of numbers.
func (c *comparison) leftOut(of *answer.Table, codes []string) {
	words := slices.ContainsFunc(of.Columns, func(column answer.Column) bool {
		return !isNumber(column) && slices.Contains(codes, column.Code)
	})
	for i, column := range of.Columns {
		key := !c.statement.Orders && i < c.statement.Keys
		if !key && (isNumber(column) || words) && !column.Folded && !slices.Contains(codes, column.Code) {
			c.note(column.Heading)
		}
	}
}

// note notes something that is not compared, once.
func (c *comparison) note(words string) {
	if !slices.Contains(c.beside, words) {
		c.beside = append(c.beside, words)
	}
}

// isNumber says that a column has numbers.
func isNumber(c answer.Column) bool {
	return c.Kind == answer.Count || c.Kind == answer.Number || c.Kind == answer.Percent
}

// figure compares one figure with what SQL makes of it.
func (c *comparison) figure(named string, ours answer.Cell, theirs *string) {
	cell := answer.Cell{}
	if theirs != nil {
		if x, err := strconv.ParseFloat(*theirs, 64); err == nil {
			cell = answer.Written(numfmt.Grouped(strconv.FormatFloat(math.Round(x*1e6)/1e6, 'f', -1, 64)), x)
		}
	}
	c.row(named, ours, cell, alike(ours.Number, cell.Number))
}

// words compares a day or a word with what SQL makes of it.
func (c *comparison) words(named string, ours answer.Cell, theirs string) {
	c.row(named, ours, answer.Words(theirs), ours.Text == theirs)
}

// row says whether two of a kind are the same.
func (c *comparison) row(named string, ours, theirs answer.Cell, same bool) {
	ours.Marks, ours.Highlight = nil, 0 // which are of its own table
	holds := 1.0
	if !same {
		holds = 0
		c.differ++
	}
	c.table.Rows = append(c.table.Rows, answer.Row{Cells: []answer.Cell{answer.Words(named), ours, theirs,
		answer.Words(numfmt.Either(holds == 1, "the same", "differs")), {Text: numfmt.Either(holds == 1, "yes", "no"), Number: &holds}}})
}

// figures are the rows of a statement by their keys, and the codes of the columns that they fill.
func (s *Statement) figures(of *answer.Table, rows [][]*string) (codes []string, found map[string][]*string) {
	found, codes = map[string][]*string{}, slices.Clone(s.Codes)
	if !s.Long {
		for _, row := range rows {
			found[keyOf(row[:s.Keys])] = row[s.Keys:]
		}
		return codes, found
	}
	for _, c := range of.Columns {
		if isNumber(c) && !strings.HasPrefix(c.Code, "less ") && c.Code != "per" {
			codes = append(codes, c.Code)
		}
	}
	for _, row := range rows {
		key, at := keyOf(row[:1]), slices.Index(codes, *row[1])
		if found[key] == nil {
			found[key] = make([]*string, len(codes))
		}
		if at < 0 {
			found[key+*row[1]] = []*string{row[2]} // a column that the answer has not
			continue
		}
		found[key][at] = row[2]
	}
	return codes, found
}

func milliseconds(d time.Duration) string {
	return numfmt.Grouped(strconv.FormatFloat(float64(d.Microseconds())/1000, 'f', 1, 64)) + " ms"
}

// texts are the first cells of a row.
func texts(r answer.Row, n int) (texts []string) {
	for _, c := range r.Cells[:n] {
		texts = append(texts, c.Text)
	}
	return texts
}

// keyOf is one text for the keys of a row; those of the total are null.
func keyOf(keys []*string) string {
	var text strings.Builder
	for _, k := range keys {
		if k == nil {
			text.WriteString("\x01|")
		} else {
			text.WriteString(*k + "|")
		}
	}
	return text.String()
}

// alike says that two numbers are the same, or both are none.
func alike(x, y *float64) bool {
	if x == nil || y == nil {
		return x == nil && y == nil
	}
	return math.Abs(*x-*y) <= noise*max(1, math.Abs(*x))
}
