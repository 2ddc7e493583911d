package server

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/store"
)

type pastKey struct{}

// A past is the book as it was after an earlier load.
type past struct {
	book *book.Book
	load store.LoadRecord
}

// The parameters that ask for the book as it was.
const (
	asOfLoad    = "as_of_load"
	asKnownOn   = "as_known_on"
	asOfExample = "loads, and the days on which they came, are listed by prairie-dusk loads"
)

// asks says whether a request asks something of the book, and so can ask it of an earlier one.
func asks(r *http.Request) bool {
	return strings.HasPrefix(r.URL.Path, api.BasePath) && (r.Method == http.MethodGet || r.URL.Path == checkPath || r.URL.Path == checksPath+"/run")
}

// asOf takes the words of a request that ask for the book as it was, and gives the request that book. The error says which load there
// is not.
func (s *server) asOf(r *http.Request) (*http.Request, error) {
	words := r.URL.Query()
	if !asks(r) || !words.Has(asOfLoad) && !words.Has(asKnownOn) {
		return r, nil
	}
	loads, err := s.Records.Loads(r.Context())
	if err != nil {
		return r, err
	}
	at := -1 // of the load, the latest first
	switch text := words.Get(asOfLoad); {
	case words.Has(asOfLoad) && words.Has(asKnownOn):
		return r, request.Invalid(asKnownOn, words.Get(asKnownOn), "want a load or a day, not both")
	case words.Has(asOfLoad):
		number, err := strconv.ParseInt(text, 10, 64)
		if at = slices.IndexFunc(loads, func(l store.LoadRecord) bool { return l.ID == number && l.UndoneAt == nil }); err != nil || at < 0 {
			return r, request.Invalid(asOfLoad, text, "no load that stands has this number; "+asOfExample)
		}
	default:
		text := words.Get(asKnownOn)
		on, err := day.Parse(text)
		if err != nil {
			return r, request.Invalid(asKnownOn, text, "want a day such as 2026-09-30")
		}
		at = slices.IndexFunc(loads, func(l store.LoadRecord) bool { return l.UndoneAt == nil && day.FromTime(l.LoadedAt) <= on })
		if at < 0 {
			return r, request.Invalid(asKnownOn, text, "no load had come by then; "+asOfExample)
		}
	}
	b, err := s.BookAsOf(r.Context(), loads[at].ID)
	if errors.Is(err, store.ErrNoLoad) {
		return r, request.Invalid(asOfLoad, strconv.FormatInt(loads[at].ID, 10), "no load that stands has this number; "+asOfExample)
	} else if err != nil {
		return r, err
	}
	words.Del(asOfLoad)
	words.Del(asKnownOn)
	next := r.WithContext(context.WithValue(r.Context(), pastKey{}, past{b, loads[at]}))
	address := *r.URL
	address.RawQuery = words.Encode()
	next.URL = &address
	return next, nil
}

// dated says in an answer that it is of the book as it was.
func dated(ctx context.Context, d *answer.Document) {
	of, is := ctx.Value(pastKey{}).(past)
	if !is || len(d.Parts) == 0 {
		return
	}
	note := answer.Note{Code: "as-of", Text: fmt.Sprintf("As the records were after load %d of %s, until the next one came.", of.load.ID,
		of.load.LoadedAt.Format("2006-01-02 15:04"))}
	for i := range d.Parts {
		d.Parts[i].Notes = slices.Insert(d.Parts[i].Notes, 0, note)
	}
}
