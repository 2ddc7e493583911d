package check

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/whatif"
	"prairiedusk/internal/params"
	"prairiedusk/internal/present"
)

// asOfLoad is the word of an address that asks of the book as it was after a load.
const asOfLoad = "as_of_load"

// A way is one of two ways to ask a question.
type way struct {
	book    *book.Book
	past    bool // it is not the book that stands
	address answer.Address
	answer  *answer.Document
	number  number
	filed   *filing
	facts   *facts
}

// TwoWays asks one question under two conventions: both results with their difference, and the orders that differ, each with its two
// values. The error is a *request.Error.
func (a Asker) TwoWays(in *api.TwoWays) (*answer.Document, error) {
	one, err := a.way(in.First, in)
	if err != nil {
		return nil, err
	}
	other, err := a.way(in.Second, in)
	if err != nil {
		return nil, err
	}
	if one.answer.Analysis != other.answer.Analysis {
		return nil, request.Invalid("second", in.Second, "two ways are of one analysis; the first is of "+one.answer.Analysis)
	}
	parts, err := parting(in)
	if err != nil {
		return nil, err
	}
	d := &answer.Document{Analysis: "two-ways", Version: one.answer.Version, FirstDay: one.answer.FirstDay,
		DataDate: one.answer.DataDate, Sentence: append([]answer.Word{{Text: "Two ways, by " + parts + ": "}}, one.answer.Sentence...)}
	list := one.answer.Analysis == "orders" // whose rows are no numbers
	rows, orders := answer.Table{}, answer.Table{}
	if !list {
		rows = besideRows(one, other, a.Size)
	}
	told := one.filed != nil && other.filed != nil
	if told {
		orders = a.ordersThatDiffer(one, other)
	}
	if differs := differing(one, other); told && in.Number == "" && orders.All == 0 && differs != "" {
		next := *in
		next.Number = differs
		return a.TwoWays(&next)
	}
	part := answer.Part{Tables: []answer.Table{besideLines(one, other)}, Lines: []answer.Line{},
		Notes: []answer.Note{{Code: "second", Text: "The second way: " + other.answer.Asked()}}}
	if strings.Contains(in.First+in.Second, whatif.Word+"=") {
		part.Notes = append(part.Notes, answer.Note{Code: "what-if", Text: "Nothing of what is supposed is saved."})
	}
	if !list {
		part.Tables = slices.Insert(part.Tables, 0, rows)
	}
	if told {
		part.Tables = append(part.Tables, orders)
	}
	switch {
	case !told:
		part.Notes = append(part.Notes, answer.Note{Code: "orders-untold", Text: "In " + one.number.name +
			" no orders are told apart: they can count several times, or it counts something else. Some rows may tell theirs."})
	case orders.All > 0:
		part.Notes = append(part.Notes, answer.Note{Code: "differ", Text: fmt.Sprintf("%s between the two ways in %s, by %s.",
			numfmt.Counted(orders.All, "order")+numfmt.Agreeing(orders.All, " differs", " differ"), one.number.name, parts),
			Orders: orders.All})
	case slices.ContainsFunc(slices.Concat(rows.Rows, rows.Totals), differs):
		part.Notes = append(part.Notes, answer.Note{Code: "none-differ", Text: "The same orders are counted in " + one.number.name +
			" both ways; other numbers differ."})
	default:
		part.Notes = append(part.Notes, answer.Note{Code: "none-differ", Text: "Nothing differs. " + untested(in)})
	}
	d.Parts = append(d.Parts, part)
	return d, nil
}

// differs says that some difference of a row is not zero.
func differs(r answer.Row) bool {
	return slices.ContainsFunc(r.Cells, func(c answer.Cell) bool { return strings.HasPrefix(c.Text, "+") || strings.HasPrefix(c.Text, "−") })
}

// differing is the first number besides the usual one that counts orders and differs between two answers; empty where none does.
func differing(one, other way) string {
	x, y := one.number.table, other.number.table
	rows := func(t *answer.Table) []answer.Row { return slices.Concat(t.Totals, t.Rows) }
	for i, c := range x.Columns {
		at := y.At(c.Code)
		if c.Kind != answer.Count || at < 0 {
			continue
		}
		same := slices.EqualFunc(rows(x), rows(y), func(a, b answer.Row) bool { return a.Cells[i].Text == b.Cells[at].Text })
		opens := slices.ContainsFunc(rows(x), func(r answer.Row) bool { return r.Cells[i].Behind != "" })
		if !same && opens && i != one.number.column {
			return c.Heading
		}
	}
	return ""
}

// way asks one way.
func (a Asker) way(address string, in *api.TwoWays) (w way, err error) {
	if w.book, w.address, err = a.bookOf(answer.Address(address)); err != nil {
		return w, err
	}
	if w.answer, err = a.Backlog.Ask(w.book, w.address, present.ToCompare); err != nil {
		return w, err
	}
	w.past = w.book != a.Book
	if w.number, err = asked(w.answer, &api.Check{Part: in.Part, Number: in.Number, Row: in.Row}); err != nil {
		return w, err
	}
	if w.number.counts == "" && !w.number.none {
		return w, nil // which orders it counts is told of its rows alone
	}
	counts, err := w.number.rows(w.book)
	if err != nil {
		return w, err
	}
	if w.filed, err = file(w.book, w.answer, w.number, counts, nil); err != nil {
		return w, err
	}
	w.facts, err = factsFor(w.book, w.address, w.number.some())
	return w, err
}

// bookOf is the book that the question of an address is asked of, and the question without that.
func (a Asker) bookOf(address answer.Address) (*book.Book, answer.Address, error) {
	analysis, words, err := present.Words(address)
	if err != nil || !words.Has(asOfLoad) && !words.Has(whatif.Word) {
		return a.Book, address, err
	}
	var b *book.Book
	switch {
	case words.Has(asOfLoad) && words.Has(whatif.Word):
		return nil, address, request.Invalid(whatif.Word, words.Get(whatif.Word), "what would be is asked of the records as they are now, not as they were")
	case words.Has(asOfLoad):
		b, err = a.Past(words.Get(asOfLoad))
	default:
		b, err = a.Supposing(words[whatif.Word])
	}
	words.Del(asOfLoad)
	words.Del(whatif.Word)
	return b, answer.Address(analysis + "?" + words.Encode()), err
}

// parting are the words in which two ways differ: "count elapsed or both-ends".
func parting(in *api.TwoWays) (string, error) {
	analysis, one, err := present.Words(answer.Address(in.First))
	if err != nil {
		return "", err
	}
	_, other, err := present.Words(answer.Address(in.Second))
	if err != nil {
		return "", err
	}
	var differ []string
	takes := present.Takes(analysis)
	takes[asOfLoad], takes[whatif.Word] = params.Field{Default: "now"}, params.Field{Default: "nothing else"}
	for name, f := range takes {
		x, y := cmp.Or(strings.Join(one[name], ","), f.Default), cmp.Or(strings.Join(other[name], ","), f.Default)
		if x != y {
			if name == whatif.Word {
				differ = append(differ, "what is or what would be with "+cmp.Or(strings.Join(other[name], " and "), "no change"))
				continue
			}
			word := strings.TrimPrefix(strings.ReplaceAll(name, "_", " "), "as of ")
			differ = append(differ, fmt.Sprintf("%s %s or %s", word, cmp.Or(x, "none"), cmp.Or(y, "none")))
		}
	}
	slices.Sort(differ)
	if differ == nil {
		return "", request.Invalid("second", in.Second, "the two ways are one; want another value of some word")
	}
	return strings.Join(differ, ", "), nil
}

// nameOf is the names of a row as one text.
func nameOf(t *answer.Table, r answer.Row) string { return strings.Join(names(t, r), "\x00") }

// besideRows has the numbers of the rows of both ways, side by side: that which was asked for, and each that differs.
func besideRows(one, other way, size present.Size) answer.Table {
	x, y := one.number.table, other.number.table
	t := answer.Table{Code: "numbers", Rows: []answer.Row{}, Totals: []answer.Row{}}
	named := 0
	for named < len(x.Columns) && !x.Columns[named].Kind.Numeric() {
		t.Columns = append(t.Columns, x.Columns[named])
		named++
	}
	type pair struct{ x, y *answer.Row }
	var pairs []pair
	byName := func(t *answer.Table) map[string]*answer.Row { // the first of each
		rows := make(map[string]*answer.Row, len(t.Rows))
		for i := range t.Rows {
			if key := nameOf(t, t.Rows[i]); rows[key] == nil {
				rows[key] = &t.Rows[i]
			}
		}
		return rows
	}
	ofX, ofY := byName(x), byName(y)
	for i := range x.Rows {
		pairs = append(pairs, pair{&x.Rows[i], ofY[nameOf(x, x.Rows[i])]})
	}
	for i := range y.Rows {
		if ofX[nameOf(y, y.Rows[i])] == nil {
			pairs = append(pairs, pair{nil, &y.Rows[i]})
		}
	}
	rows := len(pairs)
	if len(x.Totals) > 0 && len(y.Totals) > 0 {
		pairs = append(pairs, pair{&x.Totals[len(x.Totals)-1], &y.Totals[len(y.Totals)-1]})
	}
	cell := func(r *answer.Row, at int) answer.Cell {
		if r == nil || at < 0 || at >= len(r.Cells) {
			return answer.Cell{}
		}
		return r.Cells[at]
	}
	columns := [][2]int{}
	for i, c := range x.Columns[named:] {
		at := [2]int{named + i, y.At(c.Code)}
		differs := slices.ContainsFunc(pairs, func(p pair) bool { return cell(p.x, at[0]).Text != cell(p.y, at[1]).Text })
		if i+named == one.number.column || c.Kind.Numeric() && !c.Folded && differs {
			columns = append(columns, at)
			for _, side := range []string{"first way", "second way", "difference"} {
				t.Columns = append(t.Columns, answer.Column{Code: c.Code + " " + side, Heading: side, Shared: c.Heading, Kind: answer.Number,
					Unit: c.Unit})
			}
		}
	}
	for i, p := range pairs {
		row := answer.Row{}
		named := p.x
		if named == nil {
			named = p.y
		}
		row.Cells = append(row.Cells, named.Cells[:len(t.Columns)-3*len(columns)]...)
		for _, at := range columns {
			a, b := cell(p.x, at[0]), cell(p.y, at[1])
			difference := answer.Cell{}
			if a.Number != nil && b.Number != nil {
				difference = between(a, b)
			}
			row.Cells = append(row.Cells, one.shown(a), other.shown(b), difference)
		}
		if i < rows {
			t.Rows = append(t.Rows, row)
		} else {
			t.Totals = append(t.Totals, row)
		}
	}
	t.All = len(t.Rows)
	t.Rows = t.Rows[:min(len(t.Rows), size.Rows)]
	return t
}

// besideLines has what either way counts and leaves out, side by side.
func besideLines(one, other way) answer.Table {
	t := answer.Table{Code: "lines", Title: "What is counted, and what is left out", Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: []answer.Column{{Code: "label", Heading: "orders", Kind: answer.Text},
			{Code: "first", Heading: "first way", Kind: answer.Count}, {Code: "second", Heading: "second way", Kind: answer.Count},
			{Code: "difference", Heading: "difference", Kind: answer.Number}}}
	seen := map[string]bool{}
	add := func(label string) {
		if seen[label] {
			return
		}
		seen[label] = true
		row := answer.Row{Cells: []answer.Cell{answer.Words(label), answer.Whole(0), answer.Whole(0), {}}}
		if x := termOf(one.number.part, label); x != nil {
			row.Cells[1] = one.shown(answer.Orders(x.Orders, x.Behind))
		}
		if y := termOf(other.number.part, label); y != nil {
			row.Cells[2] = other.shown(answer.Orders(y.Orders, y.Behind))
		}
		row.Cells[3] = between(row.Cells[1], row.Cells[2])
		t.Rows = append(t.Rows, row)
	}
	for _, w := range []way{one, other} {
		for _, l := range w.number.part.Lines {
			for _, term := range l.Terms {
				if term.Amount == "" {
					add(term.Label)
				}
			}
		}
	}
	t.All = len(t.Rows)
	t.Folded = !slices.ContainsFunc(t.Rows, differs)
	return t
}

// ordersThatDiffer lists the orders that the two ways put in different places, or whose lengths differ.
func (a Asker) ordersThatDiffer(one, other way) answer.Table {
	t := answer.Table{Code: "orders", Title: "Orders that differ in " + one.number.name, Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: []answer.Column{{Code: "number", Heading: "order", Kind: answer.Order},
			{Code: "first", Heading: "first way", Kind: answer.Text}, {Code: "second", Heading: "second way", Kind: answer.Text},
			{Code: "dates", Heading: "dates, and what changed", Kind: answer.Text}}}
	add := func(number, first, second, dates string) {
		if t.All++; t.All <= a.Size.Rows {
			t.Rows = append(t.Rows, answer.Row{Order: number, Cells: []answer.Cell{answer.Words(number), answer.Words(first),
				answer.Words(second), answer.Words(dates)}})
		}
	}
	lengths := one.facts.lengths && other.facts.lengths
	var between *comparer
	if one.book != other.book {
		between = newComparer(one.book, other.book)
	}
	for row := range other.book.Orders() {
		if row%pauseRows == 0 {
			a.Book.Pause()
		}
		was, both := row, true
		if between != nil {
			was, both = one.book.RowOf(other.book.At(row).ID)
		}
		x, y := place{words: notInBook}, other.filed.of(row)
		if both {
			x = one.filed.of(was)
		}
		if !x.counted && !y.counted {
			continue // left out both ways
		}
		own, others := x.words, y.words
		if lengths && x.counted {
			own = one.facts.length(was, own)
		}
		if lengths && y.counted {
			others = other.facts.length(row, others)
		}
		if own == others && x.counted == y.counted {
			continue
		}
		dates := other.facts.dates(row)
		switch {
		case between != nil && both:
			if changes := between.of(was, row); len(changes) > 0 {
				words := make([]string, len(changes))
				for i, c := range changes {
					words[i] = c.words
				}
				dates = strings.Join(words, "; ")
			}
		case between == nil && len(one.facts.milestones) >= len(other.facts.milestones):
			dates = one.facts.dates(row)
		}
		add(other.book.At(row).Number, own, others, dates)
	}
	if between != nil {
		for was := range one.book.Orders() {
			x := one.filed.of(was)
			if order := one.book.At(was); x.counted {
				if _, stands := other.book.RowOf(order.ID); !stands {
					add(order.Number, x.words, notInBook, one.facts.dates(was))
				}
			}
		}
	}
	return t
}

// notInBook is said of an order that one of two books has not.
const notInBook = "not in the records"

// shown is a number of one way. The orders behind one of an earlier book are not those that its address finds today.
func (w way) shown(c answer.Cell) answer.Cell {
	if w.past {
		c.Behind = ""
	}
	return c
}

// pauseRows is after how many orders a walk over all of them asks whether anybody still waits.
const pauseRows = 1 << 14

// length is where an order is put, with its length.
func (f *facts) length(row int, words string) string {
	listed := f.reader.At(row)
	if !listed.State.Counted() {
		return words
	}
	length := f.question.Measure.Unit.Length(listed.Length)
	if words == counted {
		return length
	}
	return words + ": " + length
}

// untested says which cases would have made two ways differ.
func untested(in *api.TwoWays) string {
	analysis, one, _ := present.Words(answer.Address(in.First)) // asked before
	_, other, _ := present.Words(answer.Address(in.Second))
	var cases []string
	takes := present.Takes(analysis)
	takes[asOfLoad], takes[whatif.Word] = params.Field{}, params.Field{}
	for name := range takes {
		if words, known := wouldDiffer[name]; known && strings.Join(one[name], ",") != strings.Join(other[name], ",") {
			cases = append(cases, words)
		}
	}
	slices.Sort(cases)
	if cases == nil {
		return "This data does not tell the two ways apart."
	}
	return "What would tell the two ways apart, and is not among these orders: " + strings.Join(cases, "; ") + "."
}

// wouldDiffer are the cases in which two values of a word differ.
var wouldDiffer = map[string]string{
	"basis":             "an order whose two dates lie in different periods or groups",
	"calendar":          "an order whose destination rests on another day of its time than its site",
	"cancelled":         "a cancelled order",
	"closing_day":       "an order that closed on the first day of a period",
	"count":             "an order with both days of the leg",
	"cut_off":           "an order that came after the cut-off of its site",
	"in":                "an order with a day off within its time",
	"no_requested_date": "an order without a requested date",
	"orders":            "a customer with several orders",
	"period":            "an order with a date within one of the periods alone",
	"source":            "an order whose events and daily list disagree",
	asOfLoad:            "an order that a load between the two changed",
	whatif.Word:         "an order that the change touches",
	"where":             "an order that meets one of the conditions alone",
}
