package check

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/present"
)

// rowsBehind are the rows of the orders that an address names, in the book's order; of some rows alone, where it is asked of some.
func rowsBehind(b *book.Book, to answer.Address, some []uint32) ([]uint32, error) {
	of, err := present.Behind(b, to)
	if err != nil {
		return nil, err
	}
	if some != nil {
		return duration.Among(of.Book, of.Question, of.Selection, some)
	}
	return duration.Rows(of.Book, of.Question, of.Selection)
}

// A filing says for each order of a book where an answer puts it: under which row of a number, or why not.
type filing struct {
	some    []uint32 // the only rows that it is asked about; nil for all
	counted []uint32 // in the number, in order
	places  []place
	codes   []uint16 // by row of the book: the place, counted from 1; 0 where the answer does not say
}

// A place is one where orders are put.
type place struct {
	words   string
	counted bool // in the number
}

// counted is said of an order that is in a number of all orders.
const counted = "counted"

// mostPlaces bounds the rows of a table of which it is looked up who is in them.
const mostPlaces = 60

// file looks up where an answer puts the orders of a book, or some of them; counts are those that are in the number, in order.
func file(b *book.Book, d *answer.Document, n number, counts, some []uint32) (*filing, error) {
	f := &filing{some: some, counted: counts, codes: make([]uint16, b.Orders())}
	if n.column >= 0 && n.row == nil && len(n.table.Rows) <= mostPlaces {
		for _, r := range n.table.Rows {
			if err := f.put(b, behind(d, n.table, r, n.column), place{strings.Join(names(n.table, r), ", "), true}); err != nil {
				return nil, err
			}
		}
	}
	if err := f.put(b, n.counts, place{counted, true}); err != nil {
		return nil, err
	}
	if n.row != nil {
		for _, r := range n.table.Rows[:min(len(n.table.Rows), mostPlaces)] {
			words := "counted under " + strings.Join(names(n.table, r), ", ")
			if err := f.others(b, behind(d, n.table, r, n.column), words); err != nil {
				return nil, err
			}
		}
	}
	around := holding(n)
	for _, l := range n.part.Lines {
		for _, t := range l.Terms[min(1, len(l.Terms)):] {
			var err error
			switch {
			case around[t.Behind]:
			case slices.ContainsFunc(l.Terms, func(t answer.Term) bool { return around[t.Behind] }): // what adds up is apart
				err = f.put(b, t.Behind, place{t.Label, false})
			default:
				err = f.others(b, t.Behind, t.Label)
			}
			if err != nil {
				return nil, err
			}
		}
	}
	if n.row != nil { // under another number of the row
		of, _, err := rowOf(d, n.table, n.row)
		if err != nil {
			return nil, err
		}
		for i, c := range n.table.Columns[:min(len(n.table.Columns), mostPlaces)] {
			if c.Kind == answer.Count && i != n.column {
				if err := f.others(b, of.Cells[i].Behind, c.Title()); err != nil {
					return nil, err
				}
			}
		}
	}
	return f, nil
}

// holding are the addresses of all that holds what a number counts, as the lines of the answer add up: what else a line adds to one of
// them holds nothing of it.
func holding(n number) map[answer.Address]bool {
	around := map[answer.Address]bool{}
	if n.counts != "" {
		around[n.counts] = true
	}
	for range n.part.Lines { // each can hold what another adds up to
		for _, l := range n.part.Lines {
			if len(l.Terms) > 1 && l.Terms[0].Behind != "" && slices.ContainsFunc(l.Terms[1:], func(t answer.Term) bool { return around[t.Behind] }) {
				around[l.Terms[0].Behind] = true
			}
		}
	}
	return around
}

// put puts the orders of an address in a place, but for those that have one.
func (f *filing) put(b *book.Book, to answer.Address, at place) error {
	if to == "" {
		return nil
	}
	rows, err := rowsBehind(b, to, f.some)
	if err == nil {
		f.mark(rows, at)
	}
	return err
}

// mark puts rows in a place.
func (f *filing) mark(rows []uint32, at place) {
	f.places = append(f.places, at)
	for _, row := range rows {
		if f.codes[row] == 0 {
			f.codes[row] = uint16(len(f.places))
		}
	}
}

// others puts the orders of an address in a place, unless some of them are counted: it is no reason then why others are not.
func (f *filing) others(b *book.Book, to answer.Address, words string) error {
	if to == "" {
		return nil
	}
	rows, err := rowsBehind(b, to, nil)
	if err != nil {
		return err
	}
	among := func(row uint32) bool { _, is := slices.BinarySearch(f.counted, row); return is }
	if !slices.ContainsFunc(rows, among) {
		f.mark(rows, place{words, false})
	}
	return nil
}

// of is where an order is; counted says that it is in the number.
func (f *filing) of(row int) place {
	if code := f.codes[row]; code != 0 {
		return f.places[code-1]
	}
	return place{words: "not counted"}
}

// facts tells of orders what a question asks about: their dates, and how they lie to its period.
type facts struct {
	book       *book.Book
	milestones []int
	span       day.Span // of the period; zero without one
	reader     *duration.Reader
	question   duration.Question
	lengths    bool // the question asks for lengths
}

// factsFor are those that the question of an address asks about.
func factsFor(b *book.Book, question, counted answer.Address) (*facts, error) {
	of, err := present.Behind(b, counted)
	if err != nil {
		return nil, err
	}
	analysis, words, err := present.Words(question)
	if err != nil {
		return nil, err
	}
	f := &facts{book: of.Book, question: of.Question, lengths: analysis == "took" || analysis == "places",
		reader: duration.NewReader(of.Book, of.Question.Question)}
	q := of.Question.Question
	for _, m := range []milestone.Milestone{q.Basis, q.Leg.From, q.Leg.To} {
		f.tell(m.Name)
	}
	for _, word := range []string{"basis", "achieved", "promise", "due"} { // dates that are not of the leg
		for _, name := range strings.Split(words.Get(word), ",") {
			f.tell(name)
		}
	}
	if q.Where.Condition != nil { // and those that the condition asks about
		for _, name := range predicate.Uses(q.Where.Condition) {
			f.tell(name)
		}
	}
	f.tell(milestone.Cancelled)
	if periods, err := period.Parse(words.Get("period"), b.Bounds()); err == nil && len(periods) == 1 && !periods[0].Unbounded() {
		f.span = periods[0].Span
	}
	return f, nil
}

// tell adds a date by its name, if it is one and is not told yet.
func (f *facts) tell(name string) {
	at := milestone.Index(f.book.Milestones(), name)
	for _, known := range f.milestones {
		if known == at {
			return
		}
	}
	if at >= 0 {
		f.milestones = append(f.milestones, at)
	}
}

// of tells of an order: "order date 2026-07-01, the first day of the period; ship date 2026-07-03; 2 working days".
func (f *facts) of(row int) string {
	words := f.dates(row)
	if listed := f.reader.At(row); f.lengths && listed.State.Counted() {
		words += "; " + f.question.Measure.Unit.Length(listed.Length)
	}
	return words
}

// dates tells the dates of an order.
func (f *facts) dates(row int) string {
	var words []string
	days := f.book.At(row).Days
	for _, at := range f.milestones {
		m := f.book.Milestones()[at]
		switch {
		case days[at] != 0:
			words = append(words, fmt.Sprintf("%s %v%s", m.Date(), days[at], f.edge(days[at])))
		case m.Name != milestone.Cancelled: // which few orders have
			words = append(words, "no "+m.Date())
		}
	}
	return strings.Join(words, "; ")
}

// edge says of a day that it lies on either side of an end of the period.
func (f *facts) edge(d day.Day) string {
	switch {
	case f.span.From == 0:
	case d == f.span.From:
		return ", the first day of the period"
	case d == f.span.LastDay():
		return ", the last day of the period"
	case d == f.span.From-1:
		return ", the day before the period"
	case d == f.span.LastDay()+1:
		return ", the day after the period"
	}
	return ""
}
