package server

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/whatif"
	"prairiedusk/internal/present"
	"prairiedusk/internal/store"
)

type pastKey struct{}

// A past is the book as it was after an earlier load, or as it would be with changes.
type past struct {
	book     *book.Book
	load     store.LoadRecord
	supposed []string // the changes; nil of an earlier book
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
	if !asks(r) || !words.Has(asOfLoad) && !words.Has(asKnownOn) && !words.Has(whatif.Word) {
		return r, nil
	}
	if words.Has(whatif.Word) {
		if words.Has(asOfLoad) || words.Has(asKnownOn) {
			return r, request.Invalid(whatif.Word, words.Get(whatif.Word), "what would be is asked of the records as they are now, not as they were")
		}
		then, err := s.supposing(r.Context(), words[whatif.Word])
		words.Del(whatif.Word)
		return instead(r, then, words), err
	}
	if words.Has(asOfLoad) && words.Has(asKnownOn) {
		return r, request.Invalid(asKnownOn, words.Get(asKnownOn), "want a load or a day, not both")
	}
	word := asOfLoad
	if words.Has(asKnownOn) {
		word = asKnownOn
	}
	then, err := s.past(r.Context(), word, words.Get(word))
	if err != nil {
		return r, err
	}
	words.Del(asOfLoad)
	words.Del(asKnownOn)
	return instead(r, then, words), nil
}

// instead is a request that is asked of another book, with the words that are left.
func instead(r *http.Request, of past, words url.Values) *http.Request {
	next := r.WithContext(context.WithValue(r.Context(), pastKey{}, of))
	address := *r.URL
	address.RawQuery = words.Encode()
	next.URL = &address
	return next
}

// supposing is the book as it would be with changes. The error is a *request.Error.
func (s *server) supposing(ctx context.Context, changes []string) (past, error) {
	b, err := s.BookSupposing(ctx, changes)
	return past{book: b, supposed: changes}, err
}

// past is the book as it was after a load, or as it was known at the end of a day; word is the parameter. The error is a *request.Error
// where there is no such load.
func (s *server) past(ctx context.Context, word, text string) (p past, err error) {
	loads, err := s.Records.Loads(ctx)
	if err != nil {
		return p, err
	}
	at, wants := -1, "no load that stands has this number; " // the latest comes first
	if word == asOfLoad {
		number, wrong := strconv.ParseInt(text, 10, 64)
		at = slices.IndexFunc(loads, func(l store.LoadRecord) bool { return l.ID == number && l.UndoneAt == nil && wrong == nil })
	} else {
		on, wrong := day.Parse(text)
		if wrong != nil {
			return p, request.Invalid(word, text, "want a day such as 2026-09-30")
		}
		at, wants = slices.IndexFunc(loads, func(l store.LoadRecord) bool { return l.UndoneAt == nil && day.FromTime(l.LoadedAt) <= on }),
			"no load had come by then; "
	}
	if at < 0 {
		return p, request.Invalid(word, text, wants+asOfExample)
	}
	p.load = loads[at]
	p.book, err = s.BookAsOf(ctx, p.load.ID)
	if errors.Is(err, store.ErrNoLoad) { // it was undone in between
		return p, request.Invalid(word, text, wants+asOfExample)
	}
	return p, err
}

// changes says what became of orders since an earlier load: that before the last, where none is named.
func (s *server) changes(ctx context.Context, b *book.Book, in *api.ChangesQuestion, size present.Size) (*answer.Document, error) {
	word, text := asOfLoad, in.Since
	if strings.Contains(text, "-") {
		word = asKnownOn
	}
	if text == "" {
		loads, err := s.Records.Loads(ctx)
		if err != nil {
			return nil, err
		}
		standing := slices.DeleteFunc(loads, func(l store.LoadRecord) bool { return l.UndoneAt != nil })
		if len(standing) < 2 {
			return nil, request.Invalid("since", "", "there is no load before the last; "+asOfExample)
		}
		text = strconv.FormatInt(standing[1].ID, 10)
	}
	then, err := s.past(ctx, word, text)
	if err != nil {
		return nil, err
	}
	return s.asker(ctx, b, size).Changes(then.book, fmt.Sprintf("since load %d of %s", then.load.ID, then.load.LoadedAt.Format("2006-01-02 15:04"))), nil
}

// dated says in an answer that it is of the book as it was.
func dated(ctx context.Context, d *answer.Document) {
	of, is := ctx.Value(pastKey{}).(past)
	if !is || d.Analysis == "audit" { // which is of no records
		return
	}
	if of.supposed != nil {
		for i := range d.Parts {
			d.Parts[i].Notes = slices.Insert(d.Parts[i].Notes, 0, answer.Note{Code: "what-if", Text: "Supposing: " + strings.Join(of.supposed, "; ") + ". Nothing of it is saved."})
		}
		return
	}
	note := answer.Note{Code: "as-of", Text: fmt.Sprintf("As the records were after load %d of %s, until the next one came.", of.load.ID,
		of.load.LoadedAt.Format("2006-01-02 15:04"))}
	for i := range d.Parts {
		d.Parts[i].Notes = slices.Insert(d.Parts[i].Notes, 0, note)
	}
}
