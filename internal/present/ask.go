package present

import (
	"maps"
	"net/url"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/spelling"
	"prairiedusk/internal/params"
)

// A presenter answers the questions of one analysis by the words of their addresses.
type presenter struct {
	in  func() any // a struct of package api with the defaults
	ask func(m *Backlog, b *book.Book, in any, size Size) (*answer.Document, error)
}

// asksBook answers a question that needs the book alone.
type asksBook[Q any] func(*book.Book, *Q, Size) (*answer.Document, error)

// presents is the presenter of a question that needs the book alone.
func presents[Q any](ask asksBook[Q]) presenter {
	return presenter{func() any { return new(Q) }, func(_ *Backlog, b *book.Book, in any, size Size) (*answer.Document, error) {
		return ask(b, in.(*Q), size)
	}}
}

// withLength adds to a list how many there are on all its pages, which can be checked.
func withLength[Q any](ask asksBook[Q], what string) asksBook[Q] {
	return func(b *book.Book, in *Q, size Size) (*answer.Document, error) {
		d, err := ask(b, in, size)
		if err != nil {
			return nil, err
		}
		part := &d.Parts[0]
		all, shown := part.Tables[0].All, len(part.Tables[0].Rows)
		part.Lines = append([]answer.Line{answer.NewLine(numfmt.Counted(all, what)+" listed", answer.Term{Label: "listed", Orders: all},
			answer.Term{Label: "on this page", Orders: shown}, answer.Term{Label: "on others", Orders: all - shown})}, part.Lines...)
		return d, nil
	}
}

// quality is what looks wrong, with how many kinds of it there are.
func (m *Backlog) quality(b *book.Book, _ any, _ Size) (*answer.Document, error) {
	ask := func(b *book.Book) (*answer.Document, error) { return Quality(b, nil), nil }
	if m.Quality != nil {
		ask = m.Quality
	}
	found, err := ask(b)
	if err != nil {
		return nil, err
	}
	d, part := *found, found.Parts[0] // which others ask for as well
	ofThem := 0
	for _, r := range part.Tables[0].Rows {
		if strings.HasPrefix(r.Cells[2].Text, ofOrders) {
			ofThem++
		}
	}
	all := len(part.Tables[0].Rows)
	part.Lines = append([]answer.Line{answer.NewLine(numfmt.Counted(all, "kind")+" of what looks wrong", answer.Term{Label: "kinds", Orders: all},
		answer.Term{Label: "with orders", Orders: ofThem}, answer.Term{Label: "with other records", Orders: all - ofThem})}, part.Lines...)
	d.Parts = []answer.Part{part}
	return &d, nil
}

// presenters are those of the analyses whose numbers can be checked, by name.
var presenters = map[string]presenter{
	"compare":             presents(Compare),
	"crosstab":            presents(Crosstab),
	"due":                 presents(Due),
	"forecast":            presents(Forecast),
	"immediate":           presents(Immediate),
	"immediate-customers": presents(withLength(ImmediateCustomers, "customer")),
	"orders":              presents(ListedOrders),
	"open": {func() any { return new(api.OpenQuestion) }, func(m *Backlog, b *book.Book, in any, size Size) (*answer.Document, error) {
		return m.Open(b, in.(*api.OpenQuestion), size)
	}},
	"places":          presents(Places),
	"quality":         {func() any { return new(api.QualityQuestion) }, (*Backlog).quality},
	statusLatest:      presents(StatusLatest),
	statusPeriods:     presents(withLength(StatusPeriods, "status period")),
	statusTimes:       presents(StatusTimes),
	statusTransitions: presents(StatusTransitions),
	"took":            presents(Took),
}

// Checked are the names of the analyses that Ask knows, in order.
func Checked() []string { return slices.Sorted(maps.Keys(presenters)) }

// Words are an address's analysis and its words. The error is a *request.Error.
func Words(address answer.Address) (analysis string, words url.Values, err error) {
	analysis, text, _ := strings.Cut(string(address), "?")
	if _, known := presenters[analysis]; !known {
		return "", nil, request.Invalid("question", string(address), spelling.Want(analysis, Checked())+", with its words as in the address of a page")
	}
	if words, err = url.ParseQuery(text); err != nil {
		return "", nil, request.Invalid("question", string(address), "not the words of a question, such as took?by=site")
	}
	return analysis, words, nil
}

// NewQuestion is a question of an analysis with the defaults: a pointer to a struct of package api.
func NewQuestion(analysis string) any { return presenters[analysis].in() }

// Takes are the parameters that questions of an analysis have, by name.
func Takes(analysis string) map[string]params.Field {
	takes := map[string]params.Field{}
	for f := range params.Fields(NewQuestion(analysis)) {
		takes[f.Name] = f
	}
	return takes
}

// Ask answers the question of an address. The error is a *request.Error.
func (m *Backlog) Ask(b *book.Book, address answer.Address, size Size) (*answer.Document, error) {
	analysis, words, err := Words(address)
	if err != nil {
		return nil, err
	}
	of := presenters[analysis]
	in := of.in()
	rest, err := params.Parse(in, words)
	if err != nil {
		return nil, request.Invalid("question", string(address), err.Error())
	}
	for word := range rest {
		return nil, request.Invalid("question", string(address), spelling.Want(word, slices.Sorted(maps.Keys(Takes(analysis))))+
			" in a question of "+analysis)
	}
	d, err := of.ask(m, b, in, size)
	if err == nil {
		d.TellApart()
	}
	return d, err
}
