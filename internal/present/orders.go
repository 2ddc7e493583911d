package present

import (
	"cmp"
	"fmt"
	"iter"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/filter"
)

// The marks of cells: their places in listMarks are bits of what a cell has.
var listMarks = []answer.Mark{
	{Sign: "+", Name: "still running, so far",
		Text: "still running: the length so far, up to the data date; in the mean of a column of lengths so far alone"},
	{Sign: "^", Name: "counted after the cut-off", Text: "counted from the next working day, after the cut-off of the site"},
	{Sign: "?", Name: "holidays unknown on some day",
		Text: "holidays are not known for all days of this length, which follows the weekly pattern there"},
	{Sign: "*", Name: "after the data date, not known yet", Text: "lies after the data date: recorded, and not known yet"},
}

// marksOf are the marks of a cell.
func marksOf(c list.Cell) (marks []int) {
	for at, has := range []bool{c.SoFar, c.Moved, c.HolidaysUnknown, c.Ahead} {
		if has {
			marks = append(marks, at)
		}
	}
	return marks
}

// Page is a page of a list as a document; the list was made up to the end of the page. The error is a *request.Error.
func (a List) Page(found *list.Answer, p api.Page) (*answer.Document, error) {
	if p.Limit*len(a.Columns) > ToRead.Cells {
		return nil, request.Invalid("limit", strconv.Itoa(p.Limit),
			fmt.Sprintf("%s rows of %d columns are more than the %s cells of an answer; want fewer of either, or a file",
				numfmt.Count(p.Limit), len(a.Columns), numfmt.Count(ToRead.Cells)))
	}
	d := a.document(found, ToRead)
	t := &d.Parts[0].Tables[0]
	t.Offset = p.Offset
	if total, any := a.total(found); any && found.Rows > 0 {
		t.Totals = append(t.Totals, total)
	}
	for i := p.Offset; i < min(p.Offset+p.Limit, found.Len()); i++ {
		t.Rows = append(t.Rows, a.row(found.Row(i), found.Kinds))
	}
	return d, nil
}

// File is the document of a list of which a file is made, and its rows, which are made as they are written.
func (a List) File(found *list.Answer) (*answer.Document, iter.Seq[answer.Row]) {
	d := a.document(found, ToKeep)
	whole := a.Question
	whole.By = nil
	d.Parts[0].Lines = append(d.Parts[0].Lines, reconciled(duration.Ask(a.Book, whole).Parts[0].Total, whole.Leg, ""))
	return d, func(yield func(answer.Row) bool) {
		for row := range found.All() {
			if !yield(a.row(row, found.Kinds)) {
				return
			}
		}
	}
}

// document is a list without its rows.
func (a List) document(found *list.Answer, size Size) *answer.Document {
	q := a.Question
	d := newDocument(a.Book, "orders", q.Sentence())
	d.Heading = q.Heading()
	t := answer.Table{Code: "orders", Title: a.Selected(), Columns: []answer.Column{}, Rows: []answer.Row{}, Totals: []answer.Row{},
		All: found.Rows, Orders: found.Orders, Sort: cmp.Or(a.in.Sort, filter.Number)}
	for i, c := range a.Columns {
		t.Columns = append(t.Columns, answer.Column{Code: c.Text, Heading: c.Heading, Own: c.Own, Width: c.Width, Kind: kindOf(c, found.Kinds[i]),
			Timed: timed(a.Book, c)})
		if canBeMarked(c) {
			t.Marks = listMarks
		}
	}
	for i, m := range a.marks {
		t.Highlights = append(t.Highlights, answer.Highlight{Text: a.in.Highlight[i], Style: m.Style, Column: m.Column, Where: m.Where})
	}
	part := newPart("")
	if a.Apart {
		t.Sections = sections(found)
		part.Notes = append(part.Notes, answer.Note{Code: "apart", Text: fmt.Sprintf(
			"%s finished, %s still waiting: the condition asks how long they have taken so far", numfmt.Counted(found.Finished, "order"),
			numfmt.Count(found.Waiting))})
	}
	var to, whole behind
	if a.selected == "" {
		to, whole = a.addresses(size)
	}
	part.Lines = append(part.Lines, inBook(found.Population, q.Question, to, whole)...)
	part.Notes = append(part.Notes, metByMissing(found.Population.MetByMissing, to)...)
	part.Tables = append(part.Tables, t)
	d.Parts = append(d.Parts, part)
	return d
}

// addresses are those of the list's question as one about lengths: with its condition and period, and of the whole book.
func (a List) addresses(size Size) (to, whole behind) {
	in := api.TookQuestion{Leg: api.Leg{Measured: api.Measured{From: a.Question.Leg.From.Name, To: a.Question.Leg.To.Name,
		Lengths: a.in.Lengths}, CutOffs: a.in.CutOffs}, Placing: a.in.Placing}
	in.By, in.Basis = nil, a.Question.Basis.Name
	to = size.behindOf("took", &in)
	in.Where.Where, in.Period = "", ""
	return to, size.behindOf("took", &in)
}

// sections divide a list into what is finished, or never to be, and what still waits.
func sections(found *list.Answer) (s []answer.Section) {
	add := func(title string, orders, rows int) {
		if orders > 0 {
			s = append(s, answer.Section{Title: title + ": " + numfmt.Counted(orders, "order"), Rows: rows, Orders: orders})
		}
	}
	add("Finished or cancelled", found.Orders-found.Waiting, found.Rows-found.WaitingRows)
	add("Still waiting", found.Waiting, found.WaitingRows)
	return s
}

// kindOf is what the cells of a column hold.
func kindOf(c list.Column, k list.Kind) answer.Kind {
	if _, is := c.Operand.(predicate.Number); is {
		return answer.Order
	}
	return map[list.Kind]answer.Kind{list.Text: answer.Text, list.Joined: answer.Text, list.OnDay: answer.Day, list.Number: answer.Number,
		list.YesNo: answer.YesNo}[k]
}

// total is what stands below the rows, over all pages; any is false where nothing may be summed.
func (a List) total(found *list.Answer) (total answer.Row, any bool) {
	for _, f := range found.Foot {
		total.Cells = append(total.Cells, answer.Cell{Text: f.Words, Basis: f.Basis})
		any = any || f.Words != ""
	}
	return total, any
}

// row is a row of a list.
func (a List) row(r list.Row, kinds []list.Kind) answer.Row {
	row := answer.Row{Order: r.Number, Highlight: r.Highlight + 1, Cells: make([]answer.Cell, len(r.Cells))}
	for i, c := range r.Cells {
		cell := answer.Cell{Text: c.Text, Marks: marksOf(c), Highlight: r.Highlights[i] + 1}
		switch {
		case c.Text == "":
		case kinds[i] == list.Number:
			n := c.Number
			cell.Number = &n
			if strconv.FormatFloat(n, 'f', -1, 64) != c.Text {
				cell.Exact = c.Text
			}
			cell.Text = numfmt.Grouped(c.Text)
		case kinds[i] == list.OnDay && c.Moment.Timed:
			cell.Exact = c.Moment.String()
		case kinds[i] == list.OnDay && strings.Contains(c.Text, " "): // of a part, whose records have texts
			cell.Exact = strings.Replace(c.Text, " ", "T", 1)
		case kinds[i] == list.YesNo:
			cell.Number = truth(c.Text)
		}
		row.Cells[i] = cell
	}
	return row
}

// truth is the number of a condition that holds or not; none where that cannot be decided.
func truth(text string) *float64 {
	switch text {
	case list.Yes:
		return new(1.0)
	case list.No:
		return new(0.0)
	}
	return nil
}

// canBeMarked says whether the cells of a column can have marks.
func canBeMarked(c list.Column) bool {
	switch c.Operand.(type) {
	case predicate.Day, predicate.Length:
		return true
	}
	return false
}

// timed says whether a column shows a milestone that some order reached at a known time of day.
func timed(b *book.Book, c list.Column) bool {
	d, is := c.Operand.(predicate.Day)
	if !is {
		return false
	}
	at := milestone.Index(b.Milestones(), string(d))
	return at >= 0 && b.Timed(at)
}

// contacts are the fields that name people or reach them.
var contacts = []predicate.Operand{predicate.Field("customer-contact"), predicate.Field("customer-telephone")}

// WithoutContacts is the list without the columns and highlights that tell of a contact: a condition on one tells it as well.
// Highlights of columns that are gone go with them. The error is a *request.Error.
func (a List) WithoutContacts() (List, error) {
	var left []string
	for i, m := range a.marks {
		if !tellsContact(m.Condition) && (m.Column < 0 || !columnTellsContact(a.Columns[m.Column])) {
			left = append(left, a.in.Highlight[i])
		}
	}
	a.Columns = slices.DeleteFunc(a.Columns, columnTellsContact)
	if len(a.Columns) == 0 {
		return a, request.Invalid("columns", a.in.Columns, "without contacts no column is left")
	}
	return a, a.highlight(left)
}

func columnTellsContact(c list.Column) bool {
	if c.Operand != nil {
		return tellsContact(predicate.In{X: c.Operand})
	}
	return tellsContact(c.Condition)
}

func tellsContact(c predicate.Condition) (tells bool) {
	predicate.Walk(c, func(o predicate.Operand) { tells = tells || slices.Contains(contacts, o) })
	return tells
}
