// Package status answers questions about where orders stand and how they got there, from their status periods.
package status

import (
	"fmt"
	"strconv"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/statuses"
)

// A Request is a question about statuses in words. Empty words take their defaults.
type Request struct {
	In       string // unit of lengths; default working-days
	Calendar string // whose, site or destination; default site
	By       string // one grouping of orders; default none
	At       string // a day; default the data date
	Period   string // in which status periods begin; default all
	Each     string // a cut of time: status periods by the step in which they begin; default none
	Source   string // of the records; default either
	MaxGap   string // days; default none
}

// A Question is a Request that has been understood against a book. Its measure is always elapsed.
type Question struct {
	query.Question
	At     day.Day
	Each   query.TimeBucket
	Source statuses.Source
	MaxGap int
	// Picks is a condition on status periods, against WithPeriods of the book: only those that meet it are counted.
	Picks query.Where
}

// Parse understands a request. The error is a *request.Error.
func Parse(b *book.Book, r Request) (q Question, err error) {
	words := query.Request{In: r.In, Calendar: r.Calendar, Period: r.Period}
	if r.By != "" {
		words.By = []string{r.By}
	}
	if q.Question, err = query.Parse(b, words); err != nil {
		return q, err
	}
	if len(q.Periods) > 1 {
		return q, request.Invalid("period", r.Period, "want one period")
	}
	if q.At = b.Bounds().DataDate; r.At != "" {
		if q.At, err = day.Parse(r.At); err != nil {
			return q, request.Invalid("at", r.At, err.Error())
		}
		if q.At > b.Bounds().DataDate {
			return q, request.Invalid("at", r.At, fmt.Sprintf("the records end on %v; there is no data for this day", b.Bounds().DataDate))
		}
	}
	if r.Each != "" {
		if q.Each, err = query.ParseCut(r.Each); err != nil {
			return q, err
		}
		if r.By != "" {
			return q, request.Invalid("each", r.Each, "status periods are grouped by time or by a group of their orders, not by both")
		}
	}
	if q.Source, err = statuses.ParseSource(r.Source); err != nil {
		return q, err
	}
	if r.MaxGap != "" {
		if q.MaxGap, err = strconv.Atoi(r.MaxGap); err != nil || q.MaxGap < 1 || q.MaxGap > 1000 {
			return q, request.Invalid("max_gap", r.MaxGap,
				"want a whole number of days from 1 to 1000: how long a daily list may be silent about an order before its status period ends")
		}
	}
	return q, nil
}

// History is that of the book under the conventions of the question.
func (q Question) History(b *book.Book) *statuses.History {
	if q.Source == statuses.Either && q.MaxGap == 0 {
		return statuses.Of(b)
	}
	return statuses.NewHistory(b, q.Source, q.MaxGap)
}

// What a sentence asks.
type Asked uint8

// The four questions.
const (
	AskLatest Asked = iota
	AskPeriods
	AskTimes
	AskTransitions
)

// Sentence says exactly what is computed.
func (q Question) Sentence(asked Asked) query.Sentence {
	part := query.Part
	measure := []query.SentencePart{part("", ", in "), part("in", q.UnitWords())}
	var s query.Sentence
	switch asked {
	case AskLatest:
		s = append(query.Sentence{part("", "Where did orders stand at the end of "), part("at", q.At.String()),
			part("", ", and for how long")}, measure...)
	case AskPeriods:
		s = append(query.Sentence{part("", "In which status was each order, from when to when")}, measure...)
	case AskTimes:
		s = append(query.Sentence{part("", "How long were orders in each status")}, measure...)
	case AskTransitions:
		s = append(query.Sentence{part("", "From which status to which did orders go, and after how long")}, measure...)
	}
	if asked != AskLatest {
		period := q.Periods[0]
		words := period.Text
		if period.Unbounded() {
			words = period.Days()
		}
		s = append(s, part("", ", for status periods begun in "), part("period", words))
	}
	if q.Picks.Condition != nil {
		s = append(s, part("", ", with "), part("status_periods", q.Picks.Text))
	}
	if q.Each != query.NoCut {
		s = append(s, part("", ", for each "), part("each", q.Each.String()))
	}
	for _, g := range q.By {
		s = append(s, part("", ", by "), part("by", g.Words(milestone.Milestone{Name: milestone.Ordered})))
	}
	s = append(append(s, q.Where.Words()...), part("", ", from "), part("source", sourceWords(q.Source)))
	if q.MaxGap > 0 {
		s = append(s, part("", ", silent for at most "), part("max_gap", strconv.Itoa(q.MaxGap)+" "+strings.TrimSuffix("days",
			numfmt.Agreeing(q.MaxGap, "s", ""))))
	}
	return append(s, part("", "?"))
}

func sourceWords(s statuses.Source) string {
	return [...]string{"events, else the daily list", "events alone", "the daily list alone"}[s]
}
