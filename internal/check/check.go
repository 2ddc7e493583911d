// Package check compares an answer with what somebody expects of it, and two answers with each other. Of each order that differs it
// says why, in words; where a usual other reading of the question explains the whole difference, it says which. It asks as everyone
// else does, by the address of a question, and finds the orders behind numbers by theirs, so that it knows no analysis.
package check

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/spelling"
	"prairiedusk/internal/present"
)

// An Asker asks questions of a book by their addresses.
type Asker struct {
	Backlog *present.Backlog
	Book    *book.Book
	Size    present.Size
	// Past is the book as it was after a load. The error is a *request.Error where there is no such load.
	Past func(load string) (*book.Book, error)
	// Supposing is the book as it would be with changes. The error is a *request.Error.
	Supposing func(changes []string) (*book.Book, error)
}

// ask answers a question with the addresses of the orders behind its numbers.
func (a Asker) ask(to answer.Address) (*answer.Document, error) {
	return a.Backlog.Ask(a.Book, to, present.ToRead)
}

// Against holds an answer against what is expected of it. The error is a *request.Error.
func (a Asker) Against(c *api.Check) (*answer.Document, error) {
	found, err := a.ask(answer.Address(c.Question))
	if err != nil {
		return nil, err
	}
	n, err := asked(found, c)
	if err != nil {
		return nil, err
	}
	d := &answer.Document{Analysis: "check", Version: found.Version, FirstDay: found.FirstDay, DataDate: found.DataDate,
		Sentence: append([]answer.Word{{Text: isExpected}}, found.Sentence...)}
	r := &result{Asker: a, check: c, question: answer.Address(c.Question), found: found, number: n,
		part: answer.Part{Tables: []answer.Table{}, Lines: []answer.Line{}, Notes: []answer.Note{}}}
	given := 0
	for _, is := range []bool{c.Figure != "", c.Orders != nil, c.Table != nil} {
		if is {
			given++
		}
	}
	switch {
	case given != 1:
		return nil, request.Invalid("expected", "", "want one of a figure, a list of order numbers, and a table")
	case c.Figure != "":
		err = r.figure()
	case c.Orders != nil:
		err = r.orders()
	default:
		err = r.table()
	}
	if err != nil {
		return nil, err
	}
	d.Parts = append(d.Parts, r.part)
	return d, nil
}

// isExpected begins the sentence of a check.
const isExpected = "Is this as expected? "

// A result is what becomes of one check.
type result struct {
	Asker
	check    *api.Check
	question answer.Address
	found    *answer.Document
	number   number
	part     answer.Part
}

func (r *result) note(code, text string) {
	r.part.Notes = append(r.part.Notes, answer.Note{Code: code, Text: text})
}

// verdicts is the table that says of each number whether it is as expected.
func verdicts() answer.Table {
	return answer.Table{Code: "check", Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "number", Heading: "number", Kind: answer.Text}, {Code: "expected", Heading: "expected", Kind: answer.Number},
		{Code: "found", Heading: "found", Kind: answer.Number}, {Code: "difference", Heading: "difference", Kind: answer.Number},
		{Code: "verdict", Heading: "verdict", Kind: answer.Text}, {Code: "holds", Heading: "holds", Kind: answer.YesNo, Folded: true}}}
}

// verdict is a row of it.
func verdict(name string, expected, found answer.Cell, words string, holds bool) answer.Row {
	difference := answer.Cell{}
	if expected.Number != nil && found.Number != nil {
		difference = between(expected, found)
	}
	is := 0.0
	if holds {
		is = 1
	}
	return answer.Row{Cells: []answer.Cell{answer.Words(name), expected, found, difference, answer.Words(words),
		{Text: numfmt.Either(holds, "yes", "no"), Number: &is}}}
}

// between is the difference of two numbers, with its sign and as many decimals as they are written with.
func between(x, y answer.Cell) answer.Cell {
	decimals := func(c answer.Cell) int {
		_, fraction, _ := strings.Cut(c.Text, ".")
		return len(fraction)
	}
	difference := answer.Measured(*y.Number-*x.Number, max(decimals(x), decimals(y)))
	if text, negative := strings.CutPrefix(difference.Text, "-"); negative {
		difference.Text = "−" + text
	} else if strings.Trim(text, "0.") != "" {
		difference.Text = "+" + text
	}
	return difference
}

// figureCell is a figure as it was written.
func figureCell(f figure) answer.Cell { return answer.Written(numfmt.Grouped(f.text), f.value) }

// judged is the row of a number that a figure is expected to be, and whether it is.
func judged(name string, f figure, found answer.Cell) (answer.Row, bool) {
	if found.Number == nil {
		return verdict(name, figureCell(f), found, "there is no such number: nothing was counted", false), false
	}
	how := f.against(*found.Number)
	return verdict(name, figureCell(f), found, how.words(f.decimals), how != different), how != different
}

// figure checks one number.
func (r *result) figure() error {
	f, err := typedFigure(r.check.Expected)
	if err != nil {
		return err
	}
	row, holds := judged(r.number.name, f, r.number.cell)
	t := verdicts()
	t.Rows, t.All = append(t.Rows, row), 1
	r.part.Tables = append(r.part.Tables, t)
	if holds {
		r.note("figure-alone", "A figure can be right with the wrong orders; a list of order numbers shows that.")
		return nil
	}
	for _, cell := range r.others(f) {
		r.note("other-number", fmt.Sprintf("Your %s is another number of this answer: %s.", numfmt.Grouped(f.text), cell))
	}
	return r.readings(func(_ answer.Address, n number) (answer.Cell, bool) {
		return n.cell, n.cell.Number != nil && f.against(*n.cell.Number) != different
	}, figureCell(f), "Your "+numfmt.Grouped(f.text)+" is")
}

// others are the other numbers of the same row, and of the lines below, that a figure is.
func (r *result) others(f figure) (names []string) {
	is := func(x *float64) bool { return x != nil && f.against(*x) != different }
	row, _, err := rowOf(r.found, r.number.table, r.check.Row)
	if err == nil {
		for i, c := range r.number.table.Columns {
			if i != r.number.column && c.Kind.Numeric() && is(row.Cells[i].Number) {
				names = append(names, c.Title())
			}
		}
	}
	for _, l := range r.number.part.Lines {
		for _, t := range l.Terms {
			n := float64(t.Orders)
			if t.Amount == "" && is(&n) && !slices.Contains(names, t.Label) {
				names = append(names, t.Label)
			}
		}
	}
	return names
}

// readings tries the usual other readings of the question. Same says what a reading comes to, and whether that is what is expected.
func (r *result) readings(same func(answer.Address, number) (answer.Cell, bool), expected answer.Cell, yours string) error {
	all, err := readings(r.Book, r.question)
	if err != nil {
		return err
	}
	t := answer.Table{Code: "readings", Title: "Other readings of the question", Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: []answer.Column{{Code: "reading", Heading: "reading", Kind: answer.Text},
			{Code: "found", Heading: "found", Kind: answer.Number}, {Code: "difference", Heading: "difference", Kind: answer.Number},
			{Code: "verdict", Heading: "verdict", Kind: answer.Text}}}
	size := present.ToKeep // without addresses, which few readings need, and without the rows of a list
	if r.check.Table != nil {
		size = present.ToRead
	}
	var explaining []string
	tried := 0
	for _, reading := range all {
		r.Book.Pause()
		d, err := r.Backlog.Ask(r.Book, reading.address, size)
		if err != nil {
			continue // the question cannot be asked so
		}
		n, err := asked(d, r.check)
		if err != nil {
			continue // or has no such number
		}
		cell, is := same(reading.address, n)
		tried++
		row := answer.Row{Cells: []answer.Cell{answer.Words(reading.words), cell, {}, {}}}
		switch {
		case is:
			row.Cells[3] = answer.Words("explains the whole difference")
			t.Rows = slices.Insert(t.Rows, len(explaining), row)
			explaining = append(explaining, reading.words)
		case cell.Number == nil || expected.Number == nil || cell.Text == r.number.cell.Text:
			continue // says nothing
		default:
			row.Cells[2] = between(expected, cell)
			t.Rows = append(t.Rows, row)
		}
	}
	slices.SortStableFunc(t.Rows[len(explaining):], func(x, y answer.Row) int {
		return cmp.Compare(math.Abs(*x.Cells[2].Number), math.Abs(*y.Cells[2].Number))
	})
	t.Rows = t.Rows[:min(len(t.Rows), max(len(explaining), mostReadings))]
	if t.All = len(t.Rows); t.All > 0 {
		r.part.Tables = append(r.part.Tables, t)
	}
	switch {
	case explaining != nil:
		text := fmt.Sprintf("%s what comes out %s.", yours, explaining[0])
		if len(explaining) > 1 {
			text = strings.TrimSuffix(text, ".") + "; also " + strings.Join(explaining[1:], ", ") + "."
		}
		r.note("reading", text)
		if rows := r.part.Tables[0].Rows; len(rows) == 1 {
			rows[0].Cells[4].Text += "; as expected " + explaining[0]
		}
	case tried > 0:
		r.note("no-reading", fmt.Sprintf("None of %d usual other readings of the question explains the whole difference.", tried))
	}
	return nil
}

// mostReadings is how many readings are listed, but for those that explain the difference: the nearest.
const mostReadings = 8

// orders checks which orders a number counts.
func (r *result) orders() error {
	n := r.number
	expected, err := readOrders(r.Book, r.check.Expected)
	if err != nil {
		return err
	}
	answered, err := n.rows(r.Book)
	if err != nil {
		return err
	}
	both, missing, extra := divide(expected.rows, answered)
	wanted := len(expected.rows) + len(expected.unknown)
	words, holds := "the same orders", missing == nil && extra == nil && expected.unknown == nil
	switch {
	case !holds && wanted == len(answered):
		words = "the same count, other orders"
	case !holds:
		words = "differs"
	}
	t := verdicts()
	t.Rows, t.All = append(t.Rows, verdict("orders: "+n.name, answer.Whole(wanted), answer.Orders(len(answered), n.counts), words, holds)), 1
	r.part.Tables = append(r.part.Tables, t)
	r.part.Lines = append(r.part.Lines,
		answer.NewLine(numfmt.Counted(wanted, "order")+" expected", answer.Term{Label: "expected", Orders: wanted},
			terms(answer.Term{Label: "found", Orders: both}, answer.Term{Label: "missing from the answer", Orders: len(missing)},
				answer.Term{Label: "not in the book", Orders: len(expected.unknown)})...),
		answer.NewLine(numfmt.Counted(len(answered), "order")+" in the answer", answer.Term{Label: "in the answer", Orders: len(answered),
			Behind: n.counts}, terms(answer.Term{Label: "expected", Orders: both},
			answer.Term{Label: "not expected", Orders: len(extra)})...))
	for _, text := range expected.notes {
		r.note("list", text)
	}
	if expected.repeated > 0 {
		r.note("repeated", fmt.Sprintf("%s of the list stand in it twice; each order counts once.",
			numfmt.Counted(expected.repeated, "number")))
	}
	if holds {
		return nil
	}
	if err := r.listDiffering(answered, missing, extra, expected.unknown); err != nil {
		return err
	}
	return r.readings(func(address answer.Address, n number) (answer.Cell, bool) {
		if n.counting() && *n.cell.Number != float64(wanted) {
			return n.cell, false
		}
		d, err := r.ask(address)
		if err != nil {
			return answer.Cell{}, false
		}
		if n, err = asked(d, r.check); err != nil {
			return answer.Cell{}, false
		}
		rows, err := n.rows(r.Book)
		if err != nil {
			return answer.Cell{}, false // it counts no orders
		}
		return answer.Orders(len(rows), n.counts), expected.unknown == nil && slices.Equal(rows, expected.rows)
	}, answer.Whole(wanted), "Your list is")
}

// terms are those that are not zero; the first is always there.
func terms(all ...answer.Term) []answer.Term {
	return append(all[:1], slices.DeleteFunc(all[1:], func(t answer.Term) bool { return t.Orders == 0 })...)
}

// divide tells apart what two sorted lists share and what only one of them has.
func divide(expected, counted []uint32) (both int, missing, extra []uint32) {
	for len(expected) > 0 || len(counted) > 0 {
		switch {
		case len(counted) == 0 || len(expected) > 0 && expected[0] < counted[0]:
			missing, expected = append(missing, expected[0]), expected[1:]
		case len(expected) == 0 || counted[0] < expected[0]:
			extra, counted = append(extra, counted[0]), counted[1:]
		default:
			both, expected, counted = both+1, expected[1:], counted[1:]
		}
	}
	return both, missing, extra
}

// listDiffering lists the orders by which a list differs from what was found, each with its reason.
func (r *result) listDiffering(answered, missing, extra []uint32, unknown []string) error {
	all := len(missing) + len(extra) + len(unknown)
	missing, extra = missing[:min(len(missing), r.Size.Rows)], extra[:min(len(extra), r.Size.Rows)]
	filed, err := file(r.Book, r.found, r.number, answered, append(slices.Clone(missing), extra...))
	if err != nil {
		return err
	}
	told, err := factsFor(r.Book, r.question, r.number.some())
	if err != nil {
		return err
	}
	t := answer.Table{Code: "orders", Title: "Orders that differ", Rows: []answer.Row{}, Totals: []answer.Row{}, All: all, Columns: []answer.Column{{Code: "number", Heading: "order", Kind: answer.Order},
		{Code: "is", Heading: "is", Kind: answer.Text}, {Code: "why", Heading: "why", Kind: answer.Text}}}
	add := func(number, is, why string) {
		t.Rows = append(t.Rows, answer.Row{Order: number, Cells: []answer.Cell{answer.Words(number), answer.Words(is), answer.Words(why)}})
	}
	for i, number := range unknown {
		if i >= r.Size.Rows {
			break
		}
		why := "no order has this number"
		if i < mostNearest {
			if near := r.Book.NearestNumber(number); near != "" {
				why += "; did you mean " + near + "?"
			}
		}
		add(number, "not in the book", why)
	}
	list := func(rows []uint32, is string) {
		for _, row := range rows {
			if len(t.Rows) >= r.Size.Rows {
				return
			}
			at := filed.of(int(row))
			why := at.words + ": " + told.of(int(row))
			if at.words == counted {
				why = told.of(int(row))
			}
			add(r.Book.At(int(row)).Number, is, why)
		}
	}
	list(missing, "missing")
	list(extra, "extra")
	r.part.Tables = append(r.part.Tables, t)
	return nil
}

// mostNearest bounds for how many unknown numbers the nearest order is looked for.
const mostNearest = 20

// table checks numbers by group.
func (r *result) table() error {
	expected, err := r.number.readTable(r.found, r.check.Expected)
	if err != nil {
		return err
	}
	t, notFound := r.compare(expected, r.number.table)
	differing := 0
	for _, row := range t.Rows {
		if *row.Cells[5].Number == 0 {
			differing++
		}
	}
	t.All = len(t.Rows)
	t.Rows = t.Rows[:min(len(t.Rows), r.Size.Rows)]
	r.part.Tables = append(r.part.Tables, t)
	r.part.Lines = append(r.part.Lines, answer.Line{Text: fmt.Sprintf("%s compared: %s the same, %s differ",
		numfmt.Counted(t.All, "number"), numfmt.Count(t.All-differing), numfmt.Count(differing)), Terms: []answer.Term{}})
	for _, text := range append(expected.notes, notFound...) {
		r.note("table", text)
	}
	if differing == 0 {
		return nil
	}
	return r.readings(func(_ answer.Address, n number) (answer.Cell, bool) {
		compared, _ := r.compare(expected, n.table)
		return answer.Cell{}, !slices.ContainsFunc(compared.Rows, func(row answer.Row) bool { return *row.Cells[5].Number == 0 })
	}, answer.Cell{}, "Your table is")
}

// compare holds a table that is expected against the table of an answer. The notes name the rows of either that the other lacks.
func (r *result) compare(expected expectedTable, found *answer.Table) (t answer.Table, lacking []string) {
	t = verdicts()
	met := map[string]bool{}
	for _, row := range expected.rows {
		name := strings.Join(row.names, ", ")
		at := slices.IndexFunc(found.Rows, func(f answer.Row) bool { return slices.EqualFunc(names(found, f), row.names, strings.EqualFold) })
		var of *answer.Row
		switch {
		case at >= 0:
			of = &found.Rows[at]
			met[strings.Join(names(found, *of), ", ")] = true
		case row.total && len(found.Totals) > 0:
			of, name = &found.Totals[len(found.Totals)-1], "all"
		case row.total:
			lacking = append(lacking, name+" is a row of totals, which the answer has not.")
			continue
		}
		for i, code := range expected.columns {
			if !row.given[i] {
				continue
			}
			column := found.At(code)
			if of == nil || column < 0 {
				t.Rows = append(t.Rows, verdict(expected.headings[i]+", "+name, figureCell(row.figures[i]), answer.Cell{}, noRow(found, name), false))
				continue
			}
			one, _ := judged(found.Columns[column].Heading+", "+name, row.figures[i], of.Cells[column])
			t.Rows = append(t.Rows, one)
		}
	}
	for _, f := range found.Rows {
		if name := strings.Join(names(found, f), ", "); !met[name] {
			for _, code := range expected.columns {
				if column := found.At(code); column >= 0 {
					t.Rows = append(t.Rows, verdict(found.Columns[column].Heading+", "+name, answer.Cell{}, f.Cells[column],
						"not in the table that is expected", false))
				}
			}
		}
	}
	slices.SortStableFunc(t.Rows, func(x, y answer.Row) int { return cmp.Compare(*x.Cells[5].Number, *y.Cells[5].Number) })
	return t, lacking
}

// noRow says that a table has no row of a name, and which may have been meant.
func noRow(t *answer.Table, name string) string {
	var known []string
	for _, r := range t.Rows {
		known = append(known, strings.Join(names(t, r), ", "))
	}
	words := "the answer has no such row"
	if near := spelling.Nearest(name, known); near != "" {
		words += "; did you mean " + near + "?"
	}
	return words
}

// Run runs checks one after the other and says of each whether it holds. One that cannot be asked does not hold.
func (a Asker) Run(checks []api.NamedCheck) *answer.Document {
	bounds := a.Book.Bounds()
	d := &answer.Document{Analysis: "checks", Version: a.Book.Version(), FirstDay: bounds.FirstDay.String(),
		DataDate: bounds.DataDate.String()}
	t := answer.Table{Code: "checks", Rows: []answer.Row{}, Totals: []answer.Row{}, All: len(checks), Columns: []answer.Column{
		{Code: "name", Heading: "check", Kind: answer.Text}, {Code: "verdict", Heading: "verdict", Kind: answer.Text},
		{Code: "expected", Heading: "expected", Kind: answer.Number}, {Code: "found", Heading: "found", Kind: answer.Number},
		{Code: "question", Heading: "question", Kind: answer.Text}, {Code: "holds", Heading: "holds", Kind: answer.YesNo, Folded: true}}}
	failed := 0
	for _, c := range checks {
		a.Book.Pause()
		row := answer.Row{Cells: make([]answer.Cell, len(t.Columns))}
		row.Cells[0], row.Cells[4] = answer.Words(c.Name), answer.Words(c.Question)
		holds := 0.0
		if one, err := a.Against(&c.Check); err != nil {
			row.Cells[1] = answer.Words("cannot be checked: " + err.Error())
		} else {
			holds = summed(one, &row)
			row.Cells[4] = answer.Words(strings.TrimPrefix(one.Asked(), isExpected))
		}
		if holds == 0 {
			failed++
		}
		row.Cells[5] = answer.Cell{Text: numfmt.Either(holds == 1, "yes", "no"), Number: &holds}
		t.Rows = append(t.Rows, row)
	}
	d.Sentence = []answer.Word{{Text: fmt.Sprintf("Is all as expected? %s: %s as expected, %s not.", numfmt.Counted(len(checks), "check"),
		numfmt.Count(len(checks)-failed), numfmt.Count(failed))}}
	d.Parts = []answer.Part{{Tables: []answer.Table{t}, Lines: []answer.Line{}, Notes: []answer.Note{}}}
	return d
}

// summed puts what a check came to into one row of several, and gives 1 where it holds.
func summed(d *answer.Document, row *answer.Row) float64 {
	t := &d.Parts[0].Tables[0]
	differ, first := 0, -1
	for i, r := range t.Rows {
		if *r.Cells[5].Number == 0 {
			if differ++; first < 0 {
				first = i
			}
		}
	}
	if first < 0 {
		first = 0
	}
	if len(t.Rows) > 0 {
		row.Cells[2], row.Cells[3] = t.Rows[first].Cells[1], t.Rows[first].Cells[2]
		row.Cells[1] = answer.Words(t.Rows[first].Cells[4].Text)
	}
	if len(t.Rows) > 1 {
		row.Cells[1] = answer.Words(fmt.Sprintf("%s of %s differ", numfmt.Count(differ), numfmt.Counted(len(t.Rows), "number")))
	}
	if differ > 0 {
		return 0
	}
	return 1
}
