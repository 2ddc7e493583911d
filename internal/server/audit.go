package server

import (
	"context"
	"net/http"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/present"
	"prairiedusk/internal/store"
)

// audit lists who changed what; a file has all of it.
func (s *server) audit(ctx context.Context, b *book.Book, in *api.AuditQuestion, size present.Size) (*answer.Document, error) {
	offset, limit := in.Offset, in.Limit
	if size == present.ToKeep {
		offset, limit = 0, mostAudited
	}
	found, all, err := s.Records.Audit(ctx, offset, limit)
	if err != nil {
		return nil, err
	}
	entries := make([]present.AuditEntry, len(found))
	for i, e := range found {
		entries[i] = present.AuditEntry{At: e.At, Who: e.Who, Of: e.Of, Name: e.Name, Before: e.Before, After: e.After}
	}
	return present.Audit(b, entries, offset, int(all)), nil
}

// mostAudited bounds a file of the audit list.
const mostAudited = 1_000_000

// by is a request whose changes are noted as those of the account that runs the service, and of the way by which they came.
func (s *server) by(r *http.Request) *http.Request {
	if r.Method == http.MethodGet || r.Method == http.MethodHead {
		return r
	}
	way := "in the console"
	if s.access.byToken(r) {
		way = "with the token"
	}
	return r.WithContext(store.By(r.Context(), s.Account+", "+way))
}
