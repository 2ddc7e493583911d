package check

import (
	"net/url"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/present"
)

// A reading is another way to read a question, which people take as often as not: it differs in one word.
type reading struct {
	words   string // "by ship date"
	address answer.Address
}

// Readings are the usual other readings of a question. The error is a *request.Error.
func Readings(b *book.Book, question string) (*api.Readings, error) {
	all, err := readings(b, answer.Address(question))
	of := api.Readings{Readings: make([]api.Reading, len(all))}
	for i, r := range all {
		of.Readings[i] = api.Reading{Words: r.words, Question: string(r.address)}
	}
	return &of, err
}

// ofLength are the words about lengths, which say nothing about which orders a list has, unless it is of those in a state of the leg.
var ofLength = map[string]bool{"from": true, "to": true, "in": true, "count": true, "calendar": true, "cut_off": true}

// A change is what a reading makes of one word.
type change struct{ word, value, words string }

// readings are the usual other readings of a question.
func readings(b *book.Book, question answer.Address) ([]reading, error) {
	analysis, words, err := present.Words(question)
	if err != nil {
		return nil, err
	}
	takes := present.Takes(analysis)
	said := func(word string) string {
		if words.Has(word) {
			return words.Get(word)
		}
		return takes[word].Default
	}
	var all []reading
	for _, c := range slices.Concat(datesOf(b, said), conventions, selections(b, said)) {
		if _, has := takes[c.word]; !has || said(c.word) == c.value || analysis == "orders" && said("state") == "" && ofLength[c.word] {
			continue
		}
		next := url.Values{}
		for word, values := range words {
			next[word] = values
		}
		if next.Del(c.word); c.value != "" {
			next.Set(c.word, c.value)
		}
		if c.word == "over" {
			next.Del("at_least")
		} else if c.word == "at_least" {
			next.Del("over")
		}
		all = append(all, reading{c.words, answer.Address(analysis + "?" + next.Encode())})
	}
	return all, nil
}

// datesOf are the readings by another date that the book has: the one that places orders, and the ends of the leg.
func datesOf(b *book.Book, said func(string) string) (all []change) {
	for i, m := range b.Milestones() {
		if first, _ := b.Range(i); first != 0 && m.Of == "" {
			all = append(all, change{"basis", m.Name, "placed by " + m.Date()}, change{"to", m.Name, "to " + m.Date()},
				change{"from", m.Name, "from " + m.Date()})
		}
	}
	slices.SortStableFunc(all, func(x, y change) int { return strings.Compare(x.word, y.word) })
	return all
}

// conventions are the readings by another convention.
var conventions = []change{
	{"count", leg.BothEnds.String(), "with both ends counted"}, {"count", leg.Elapsed.String(), "with the start day not counted"},
	{"in", leg.Days.String(), "in calendar days"}, {"in", leg.WorkingDays.String(), "in working days"},
	{"calendar", "destination", "by the calendars of destinations"}, {"calendar", "site", "by the calendars of sites"},
	{"cut_off", "off", "without cut-offs"}, {"cut_off", "on", "after cut-offs"},
	{"closing_day", "out", "with the closing day not counted"}, {"closing_day", "in", "with the closing day counted"},
	{"cancelled", "out", "without cancelled orders"}, {"cancelled", "in", "with cancelled orders"},
	{"no_requested_date", "in", "with orders that have no requested date in the denominator"},
	{"no_requested_date", "out", "without orders that have no requested date"},
	{"orders", "all", "of all orders"}, {"orders", "first", "of customers' first orders in the whole book"},
	{"orders", "first-within", "of customers' first orders within the selection"},
	{"achieved", milestone.Delivered, "delivered on the day"}, {"achieved", milestone.Shipped, "shipped on the day"},
	{"show", "orders", "counting orders"}, {"show", "lines", "counting lines"}, {"show", "units", "counting units"},
	{"source", "event", "from events alone"}, {"source", "daily", "from the daily list alone"},
}

// selections are the readings about other orders: without cancelled ones, without the condition, or with other ends of the period.
func selections(b *book.Book, said func(string) string) []change {
	const open = "cancelled == null"
	var all []change
	if where := said("where"); where == "" {
		all = append(all, change{"where", open, "without cancelled orders"})
	} else {
		all = append(all, change{"where", "(" + where + ") && " + open, "without cancelled orders"},
			change{"where", "", "without the condition"})
	}
	if limit := said("over"); limit != "" {
		all = append(all, change{"at_least", limit, "at the limit, too"})
	}
	if limit := said("at_least"); limit != "" {
		all = append(all, change{"over", limit, "over the limit alone"})
	}
	if text := said("period"); text != "" {
		all = append(all, change{"period", "", "for all orders, whatever the period"})
		if asked, err := period.Parse(text, b.Bounds()); err == nil && len(asked) == 1 && asked[0].Span.Days() > 1 {
			first, last := asked[0].Span.From, asked[0].Span.LastDay()
			all = append(all, change{"period", first.String() + "/" + (last - 1).String(), "without the last day of the period"},
				change{"period", (first + 1).String() + "/" + last.String(), "without the first day of the period"},
				change{"period", first.String() + "/" + (last + 1).String(), "with the day after the period"})
		}
	}
	return all
}
