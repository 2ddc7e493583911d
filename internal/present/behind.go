package present

import (
	"net/url"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/params"
)

// Orders are those behind a number: a list asks about them, and can narrow them further.
type Orders struct {
	Book      *book.Book // with the dates that the question names
	Question  duration.Question
	Selection duration.Selection
	Words     string // which they are: "booked ahead, ordered in 2026-Q3"
}

// picks are the words of an address besides those of its question.
type picks struct {
	url.Values
	analysis string
	used     map[string]bool
}

// take is one word; empty where it is not there.
func (p picks) take(word string) string {
	p.used[word] = true
	return p.Get(word)
}

// number is a number that a pick names; none where it names none. The error is a *request.Error.
func (p picks) number(word string) (n api.Number, err error) {
	if text := p.take(word); text != "" {
		if err := n.UnmarshalText([]byte(text)); err != nil {
			return n, request.Invalid(word, text, err.Error())
		}
	}
	return n, nil
}

// keys are the keys of a group; nil for all groups.
func (p picks) keys() []string {
	p.used["group"] = true
	return p.Values["group"]
}

// analyses says for each analysis which orders an address of it names.
var analyses = map[string]func(b *book.Book, words url.Values) (*Orders, picks, error){
	"compare":   countedOrders("compare", CompareQuestions),
	"crosstab":  countedOrders("crosstab", CrosstabQuestions),
	"due":       dueOrders,
	"forecast":  forecastOrders,
	"immediate": immediateOrders,
	"open":      openOrders,
	"quality":   qualityOrders,

	statusLatest:      statusOrders(statusLatest, LatestQuestion),
	statusPeriods:     statusOrders(statusPeriods, PeriodsQuestion),
	statusTimes:       statusOrders(statusTimes, TimesQuestion),
	statusTransitions: statusOrders(statusTransitions, TransitionsQuestion),

	"took": tookOrders,
}

// A list can be of the orders behind a number, so that it cannot stand in what it reads.
func init() { analyses["orders"] = listedOrders }

// Behind are the orders that an address names. The error is a *request.Error.
func Behind(b *book.Book, address answer.Address) (*Orders, error) {
	analysis, text, _ := strings.Cut(string(address), "?")
	of, known := analyses[analysis]
	words, err := url.ParseQuery(text)
	if !known || err != nil {
		return nil, request.Invalid("behind", string(address), "no address of orders behind a number, as answers show them")
	}
	orders, rest, err := of(b, words)
	if err != nil {
		return nil, err
	}
	for word := range rest.Values {
		if !rest.used[word] {
			return nil, request.Invalid("behind", string(address), "nothing of "+analysis+" is picked by "+word)
		}
	}
	return orders, nil
}

// read puts the words of an address into a question, and gives those that are left as picks.
func read(analysis string, in any, words url.Values) (picks, error) {
	rest, err := params.Parse(in, words)
	if err != nil {
		return picks{}, request.Invalid("behind", analysis, err.Error())
	}
	return picks{rest, analysis, map[string]bool{}}, nil
}

// placement is that which a pick names; that of the selected orders where it names none. The error is a *request.Error.
func (p picks) placement() (query.Placement, error) {
	placed := query.Placement(p.take("placed"))
	if !slices.Contains([]query.Placement{query.Asked, query.Outside, query.Undated, query.Unmet, query.Undecided}, placed) {
		return "", request.Invalid("placed", string(placed), "want outside, undated, unmet or undecided")
	}
	return placed, nil
}
