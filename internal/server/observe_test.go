package server

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/work"
	"prairiedusk/internal/demo/demobook"
)

const testToken = "a token of 26 letters long"

// newTestServer is the service over a snapshot, with its log.
func newTestServer(snapshot func() *book.Book, changed ...func(*Config)) (http.Handler, *bytes.Buffer) {
	var log bytes.Buffer
	config := Config{Token: testToken, Snapshot: snapshot, Notice: func() string { return "" },
		Log: slog.New(slog.NewJSONHandler(&log, nil))}
	for _, change := range changed {
		change(&config)
	}
	return New(config), &log
}

func ask(ctx context.Context, handler http.Handler, method, path string) *httptest.ResponseRecorder {
	request := httptest.NewRequestWithContext(ctx, method, "http://127.0.0.1"+path, nil)
	request.Header.Set("Authorization", "Bearer "+testToken)
	answer := httptest.NewRecorder()
	handler.ServeHTTP(answer, request)
	return answer
}

func TestAFaultOfAWorkerFailsItsRequestAlone(t *testing.T) {
	handler, log := newTestServer(func() *book.Book {
		work.Each(2, func(part int) {
			if part == 0 {
				panic("index out of range")
			}
		})
		return nil
	})
	answer := ask(t.Context(), handler, http.MethodGet, "/api/v1/book")
	require.Equal(t, http.StatusInternalServerError, answer.Code)
	require.Equal(t, "application/problem+json", answer.Header().Get("Content-Type"))
	id := answer.Header().Get("X-Request-Id")
	require.Contains(t, answer.Body.String(), "under request "+id)
	require.NotContains(t, answer.Body.String(), "index out of range")
	var logged struct {
		Stack     string
		RequestID string `json:"request_id"`
	}
	require.NoError(t, json.NewDecoder(log).Decode(&logged))
	require.Equal(t, id, logged.RequestID)
	require.Contains(t, logged.Stack, "TestAFaultOfAWorkerFailsItsRequestAlone", "the stack of the worker")
}

func TestAQuestionEndsWithItsClient(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	handler, _ := newTestServer(func() *book.Book {
		cancel()
		work.Check(ctx)
		return nil
	})
	require.Equal(t, statusGone, ask(ctx, handler, http.MethodGet, "/api/v1/book").Code)
}

func TestMadeUpMethodsMakeNoSeries(t *testing.T) {
	handler, _ := newTestServer(func() *book.Book { return demobook.New(10) })
	series := func() int {
		return strings.Count(ask(t.Context(), handler, http.MethodGet, "/metrics").Body.String(), "\n")
	}
	ask(t.Context(), handler, "MADE-UP", "/api/v1/nothing")
	series()
	before := series()
	for i := range 100 {
		ask(t.Context(), handler, fmt.Sprintf("MADE-UP-%d", i), fmt.Sprintf("/api/v1/nothing-%d", i))
	}
	require.Equal(t, before, series())
}
