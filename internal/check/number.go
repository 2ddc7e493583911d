package check

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/spelling"
)

// A number is one of an answer that can be expected to be something.
type number struct {
	part   *answer.Part
	table  *answer.Table
	column int      // of the table; −1 of a number of a line
	row    []string // names of the row; nil of a total, or where there is one row
	name   string   // "mean, Galway"
	cell   answer.Cell
	// counts is the address of the orders that it counts, or over which it is computed; empty where there is none.
	counts answer.Address
	none   bool // it counts orders, and there are none
}

// counting says that the number is a count of orders.
func (n number) counting() bool {
	return n.cell.Number != nil && (n.column < 0 || n.table.Columns[n.column].Kind == answer.Count)
}

// rows are the orders that a number counts. The error is a *request.Error where it counts none because it counts no orders.
func (n number) rows(b *book.Book) ([]uint32, error) {
	switch {
	case n.none:
		return nil, nil
	case n.counts == "":
		return nil, request.Invalid("number", n.name, "it counts no orders; want another number of the answer")
	}
	return rowsBehind(b, n.counts, nil)
}

// some is the address of some orders of the answer, which says which dates it is about.
func (n number) some() answer.Address {
	if n.counts != "" {
		return n.counts
	}
	for _, l := range n.part.Lines {
		for _, t := range l.Terms {
			if t.Behind != "" {
				return t.Behind
			}
		}
	}
	return ""
}

// usual are the numbers that a check is about where it names none, by analysis: those that count the orders of an answer.
var usual = map[string]string{"took": "n", "places": "n", "open": "at_end", "immediate": "immediate", "crosstab": "total", "due": "orders",
	"forecast": "kept", "orders": "listed",
	"immediate-customers": "listed", "status-periods": "listed", "quality": "count"}

// asked finds the number that a check names. The error is a *request.Error.
func asked(d *answer.Document, c *api.Check) (number, error) {
	part, err := partOf(d, c.Part)
	if err != nil {
		return number{}, err
	}
	t := tableOf(d, part)
	if term := termOf(part, usual[d.Analysis]); term != nil && c.Number == "" {
		return number{part: part, table: t, column: -1, name: term.Label, cell: answer.Orders(term.Orders, term.Behind), counts: term.Behind,
			none: term.Orders == 0}, nil
	}
	column, err := columnOf(d, t, c.Number)
	if err != nil {
		if term := termOf(part, c.Number); term != nil {
			return number{part: part, table: t, column: -1, name: term.Label, cell: answer.Orders(term.Orders, term.Behind),
				counts: term.Behind, none: term.Orders == 0}, nil
		}
		return number{}, err
	}
	row, names, err := rowOf(d, t, c.Row)
	if err != nil {
		return number{}, err
	}
	n := number{part: part, table: t, column: column, row: names, name: t.Columns[column].Heading, cell: row.Cells[column]}
	if names != nil {
		n.name += ", " + strings.Join(names, ", ")
	}
	n.counts = behind(d, t, row, column)
	n.none = n.counts == "" && t.Columns[column].Kind == answer.Count && n.cell.Number != nil && *n.cell.Number == 0
	return n, nil
}

// behind is the address of the orders that a cell counts, or over which it is computed.
func behind(d *answer.Document, t *answer.Table, row answer.Row, column int) answer.Address {
	if t.Columns[column].Kind != answer.Count || row.Cells[column].Behind != "" {
		if at, err := columnOf(d, t, ""); err == nil && row.Cells[column].Behind == "" {
			return row.Cells[at].Behind
		}
	}
	return row.Cells[column].Behind
}

// partOf is a part by its title; the only one where there is one.
func partOf(d *answer.Document, title string) (*answer.Part, error) {
	titles := make([]string, len(d.Parts))
	for i := range d.Parts {
		if titles[i] = d.Parts[i].Title; titles[i] == title || title == "" && len(d.Parts) == 1 {
			return &d.Parts[i], nil
		}
	}
	return nil, request.Invalid("part", title, "the answer has several parts; "+spelling.Want(title, titles))
}

// tableOf is the table of a part whose numbers are checked; one without columns where the part has none.
func tableOf(d *answer.Document, p *answer.Part) *answer.Table {
	t := p.Table("standings")
	if d.Analysis != "due" && len(p.Tables) > 0 {
		t = &p.Tables[0]
	}
	if t == nil {
		t = &answer.Table{}
	}
	return t
}

// columnOf is the place of a number among the columns, by its code or heading.
func columnOf(d *answer.Document, t *answer.Table, name string) (int, error) {
	if name == "" {
		name = usual[d.Analysis]
	}
	var known []string
	first := -1
	for i, c := range t.Columns {
		if !c.Kind.Numeric() {
			continue
		}
		if strings.EqualFold(c.Code, name) || strings.EqualFold(c.Heading, name) || strings.EqualFold(c.Title(), name) {
			return i, nil
		}
		known = append(known, c.Heading)
		if first < 0 {
			first = i
		}
	}
	if first >= 0 && (name == "" || name == usual[d.Analysis]) {
		return first, nil
	}
	return -1, request.Invalid("number", name, "no number of this answer; "+spelling.Want(name, known))
}

// termOf is a number of the lines below, by its label; nil where there is none.
func termOf(p *answer.Part, label string) *answer.Term {
	for _, l := range p.Lines {
		for i := range l.Terms {
			if l.Terms[i].Amount == "" && strings.EqualFold(l.Terms[i].Label, label) {
				return &l.Terms[i]
			}
		}
	}
	return nil
}

// names are the cells of a row that name it: those before its first number.
func names(t *answer.Table, r answer.Row) (names []string) {
	switch t.Code {
	case "issues": // each is named by what looks wrong
		return []string{r.Cells[t.At("what")].Text}
	case "periods": // an order has several
		return []string{r.Cells[t.At("number")].Text, r.Cells[t.At("sequence")].Text}
	}
	for i, c := range t.Columns {
		if c.Kind.Numeric() {
			break
		}
		names = append(names, r.Cells[i].Text)
	}
	return names
}

// rowOf finds a row by its names; without any the total, or the only row.
func rowOf(d *answer.Document, t *answer.Table, named []string) (answer.Row, []string, error) {
	if named == nil && d.Analysis == "due" && len(t.Rows) > 0 {
		named = []string{t.Rows[0].Cells[0].Text}
	}
	switch {
	case named == nil && len(t.Totals) > 0:
		return t.Totals[len(t.Totals)-1], nil, nil
	case named == nil && len(t.Rows) == 1:
		return t.Rows[0], nil, nil
	}
	var known []string
	for _, r := range t.Rows {
		own := names(t, r)
		if len(named) > 0 && len(named) <= len(own) && slices.EqualFunc(own[:len(named)], named, strings.EqualFold) {
			return r, own, nil
		}
		known = append(known, strings.Join(own, ", "))
	}
	if len(known) > mostNamed {
		known = append(known[:mostNamed], fmt.Sprintf("… (%d rows)", len(t.Rows)))
	}
	return answer.Row{}, nil, request.Invalid("row", strings.Join(named, ", "), "which row is meant? "+
		spelling.Want(strings.Join(named, ", "), known))
}

// mostNamed is how many rows a message names.
const mostNamed = 12
