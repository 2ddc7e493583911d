package server

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/book"
)

func TestABodyIsText(t *testing.T) {
	handler, _ := newTestServer(func() *book.Book { return nil })
	for body, want := range map[string]int{
		`{"name":"a\u0000b"}`:             http.StatusBadRequest,
		`{"name":"\ud83d"}`:               http.StatusBadRequest,
		`{"name":"\ud83dx\ude00"}`:        http.StatusBadRequest,
		`{"name":"\ude00"}`:               http.StatusBadRequest,
		"{\"name\":\"\xff\"}":             http.StatusBadRequest,
		strings.Repeat("x", bodyLimit+1):  http.StatusRequestEntityTooLarge,
		`{"name":"\ud83d\ude00 \\u0000"}`: http.StatusUnprocessableEntity, // text, though nothing that is wanted
		`{"name":"\`:                      http.StatusBadRequest,
		`{"name":"\u00`:                   http.StatusBadRequest,
	} {
		request := httptest.NewRequestWithContext(t.Context(), http.MethodPut, "http://127.0.0.1/api/v1/book/settings", strings.NewReader(body))
		request.Header.Set("Authorization", "bearer "+testToken)
		request.Header.Set("Content-Type", "application/json; charset=utf-8")
		answer := httptest.NewRecorder()
		handler.ServeHTTP(answer, request)
		require.Equalf(t, want, answer.Code, "%.40s: %s", body, answer.Body)
		require.Equal(t, "application/problem+json", answer.Header().Get("Content-Type"))
	}
}
