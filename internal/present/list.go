package present

import (
	"net/url"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/filter"
	"prairiedusk/internal/params"
)

// A List is a list of orders as it has been asked for.
type List struct {
	list.Request
	Book     *book.Book // with the dates that the question names
	in       api.OrdersQuestion
	marks    []filter.Highlight
	selected string // says which orders are listed, where that is not said by the selection alone
}

// mostListed is how many rows a list has as an answer that is checked, unless its columns are many.
const mostListed = 2000

// MostRows is how many rows the list has as an answer that is checked.
func (a List) MostRows() int { return min(mostListed, ToRead.Cells/max(1, len(a.Columns))) }

// ListedOrders is a list as an answer: its first rows, and how many orders it has.
func ListedOrders(b *book.Book, in *api.OrdersQuestion, size Size) (*answer.Document, error) {
	a, err := ListOf(b, in)
	if err != nil {
		return nil, err
	}
	a.Most = a.MostRows()
	if size.keeps() { // how many there are is all that is asked then
		a.Most = 1
	}
	found, err := list.Ask(a.Book, a.Request)
	if err != nil {
		return nil, err
	}
	d, err := a.Page(found, api.Page{Limit: a.Most})
	if err != nil {
		return nil, err
	}
	part := &d.Parts[0]
	part.Lines = append([]answer.Line{answer.NewLine(numfmt.Counted(b.Orders(), "order")+" in the book", answer.Term{Label: "in the book", Orders: b.Orders()},
		answer.Term{Label: "listed", Orders: found.Orders, Behind: size.behindOf("orders", in).of()},
		answer.Term{Label: "not listed", Orders: b.Orders() - found.Orders})}, part.Lines...)
	return d, nil
}

// listedOrders are those of a list.
func listedOrders(b *book.Book, words url.Values) (*Orders, picks, error) {
	in := &api.OrdersQuestion{}
	pick, err := read("orders", in, words)
	if err != nil {
		return nil, pick, err
	}
	a, err := ListOf(b, in)
	return &Orders{Book: a.Book, Question: a.Question, Selection: a.Selection, Words: "of the list: " + Selected(a.Question, a.Selection)}, pick, err
}

// Selected says which of the selected orders are listed.
func (a List) Selected() string {
	words := Selected(a.Question, a.Selection)
	if a.selected != "" {
		words = strings.Replace(words, "all selected orders", "orders", 1) + " " + a.selected
	}
	return numfmt.Sentence(words)
}

// ListOf understands what a list is asked for. The error is a *request.Error.
func ListOf(b *book.Book, in *api.OrdersQuestion) (a List, err error) {
	a.in = *in
	if in.Behind != "" {
		return behindList(b, in)
	}
	leg := api.Leg{Measured: api.Measured{From: in.From, To: in.To, Lengths: in.Lengths}, CutOffs: in.CutOffs}
	q, b, err := TookQuestion(b, &api.TookQuestion{Leg: leg, Placing: in.Placing})
	if err != nil {
		return a, err
	}
	a.Book = b
	if len(q.Periods) > 1 {
		return a, request.Invalid("period", in.Period, "a list of orders takes one period")
	}
	// How long they have taken so far: the list is of that leg, unless another was asked for.
	if running, asks := soFar(q.Where.Condition); asks {
		if in.From == "" && in.To == "" && running != q.Leg {
			q.Leg = running
			if in.Basis == "" {
				q.Basis = running.From
			}
		}
		a.Apart = running == q.Leg
	}
	a.Request = list.Request{Question: q, Selection: duration.Selection{Placed: query.Placement(in.Placed), State: in.State,
		Keys: in.Group}, Apart: a.Apart, Decimals: Decimals}
	return a, a.lay(in)
}

// lay understands how the list is laid out: its rows, columns, order and highlights.
func (a *List) lay(in *api.OrdersQuestion) (err error) {
	if part := slices.Index(book.PartNames(), in.Rows); part >= 0 {
		per := book.Part(part)
		a.Per = &per
	}
	if a.Columns, err = filter.ParseColumns(a.Book, a.Question, in.Columns); err != nil {
		return err
	}
	if a.Sort, err = filter.ParseSort(a.Book, a.Question, a.Columns, in.Sort); err != nil {
		return err
	}
	return a.highlight(in.Highlight)
}

// asksElse says that a request with an address says something of the question besides, but for a condition.
func asksElse(in *api.OrdersQuestion) bool {
	words := params.Values(in)
	for _, own := range []string{"behind", "where", "sort", "columns", "rows", "highlight"} {
		words.Del(own)
	}
	return len(words) > 0
}

// behindList is the list of the orders behind a number of an answer.
func behindList(b *book.Book, in *api.OrdersQuestion) (a List, err error) {
	if asksElse(in) {
		return a, request.Invalid("behind", in.Behind,
			"the address says what is asked; besides it a list takes a condition, columns, rows, an order and highlights")
	}
	of, err := Behind(b, answer.Address(in.Behind))
	if err != nil {
		return a, err
	}
	a.in = *in
	a.Book, a.selected = of.Book, of.Words
	a.Request = list.Request{Question: of.Question, Selection: of.Selection, Decimals: Decimals}
	narrower, err := Condition(a.Book, "where", in.Where.Where)
	if err != nil {
		return a, err
	}
	a.Question.Where = a.Question.Where.And(narrower)
	return a, a.lay(in)
}

// highlight understands the highlights of the list's columns.
func (a *List) highlight(texts []string) (err error) {
	a.in.Highlight, a.Highlights = texts, nil
	a.marks, err = filter.ParseHighlights(a.Book, a.Columns, texts)
	for _, m := range a.marks {
		a.Highlights = append(a.Highlights, m.Highlight)
	}
	return err
}

// soFar is the leg of which a condition asks how long it has taken so far.
func soFar(c predicate.Condition) (l leg.Leg, asks bool) {
	predicate.Walk(c, func(o predicate.Operand) {
		if length, is := o.(predicate.Length); is && length.SoFar && !asks {
			l, asks = length.Leg, true
		}
	})
	return l, asks
}
