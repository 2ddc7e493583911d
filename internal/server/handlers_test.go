package server

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/demo/demobook"
	"prairiedusk/internal/ingest"
	"prairiedusk/internal/intake"
	"prairiedusk/internal/store"
)

// fakeRecords keeps views in memory, and fails as it is told; what no test asks of it panics.
type fakeRecords struct {
	Records
	views []store.View
	fault error
}

func (f *fakeRecords) Views(context.Context) ([]store.View, error) { return f.views, f.fault }

func (f *fakeRecords) SaveView(_ context.Context, v store.View, replace bool) error {
	for i, kept := range f.views {
		switch {
		case !strings.EqualFold(kept.Name, v.Name):
		case !replace:
			return fmt.Errorf("the view %q: %w", v.Name, store.ErrTaken)
		default:
			f.views[i] = v
			return f.fault
		}
	}
	f.views = append(f.views, v)
	return f.fault
}

func (f *fakeRecords) DeleteView(_ context.Context, name string) error {
	for i, v := range f.views {
		if v.Name == name {
			f.views = append(f.views[:i], f.views[i+1:]...)
			return f.fault
		}
	}
	return store.ErrNotKept
}

func emptyBook() *book.Book { return demobook.New(0, nil) }

// send sends a body to a path.
func send(t *testing.T, handler http.Handler, method, path string, body io.Reader) *httptest.ResponseRecorder {
	request := httptest.NewRequestWithContext(t.Context(), method, "http://127.0.0.1/api/v1"+path, body)
	request.Header.Set("Authorization", "Bearer "+testToken)
	request.Header.Set("Content-Type", "application/json")
	answer := httptest.NewRecorder()
	handler.ServeHTTP(answer, request)
	return answer
}

// A hurried answer counts the deadlines that are set for what its client still sends.
type hurried struct {
	*httptest.ResponseRecorder
	deadlines int
}

func (h *hurried) SetReadDeadline(time.Time) error {
	h.deadlines++
	return nil
}

// Whoever has sent all, or has nothing to send, can wait for an answer as long as it takes: a deadline for reading would end the request.
func TestNoDeadlineForWhatHasBeenRead(t *testing.T) {
	handler, _ := newTestServer(emptyBook, func(c *Config) { c.Records = &fakeRecords{} })
	for path, body := range map[string]string{"/views/Unpaid": `{"address":"/orders","sentence":"Unpaid?"}`, "/checks/Unpaid": `{}`, "/checks/run": ""} {
		method := http.MethodPut
		if body == "" {
			method = http.MethodPost
		}
		request := httptest.NewRequestWithContext(t.Context(), method, "http://127.0.0.1/api/v1"+path, strings.NewReader(body))
		request.Header.Set("Authorization", "Bearer "+testToken)
		request.Header.Set("Content-Type", "application/json")
		answer := &hurried{httptest.NewRecorder(), 0}
		handler.ServeHTTP(answer, request)
		assert.Zero(t, answer.deadlines, path)
	}
}

// A view is kept, is not overwritten unless that is said, and is forgotten.
func TestViewsAreKept(t *testing.T) {
	records := &fakeRecords{}
	handler, _ := newTestServer(emptyBook, func(c *Config) { c.Records = records })
	const view = `{"address":"/orders?where=paid","sentence":"Unpaid?"}`
	for _, step := range []struct {
		method, path, body string
		status             int
		says               string
	}{
		{http.MethodPut, "/views/Unpaid", view, 200, `"name":"Unpaid"`},
		{http.MethodPut, "/views/unpaid", view, 409, "this name is taken"},
		{http.MethodPut, "/views/unpaid?replace=true", view, 200, `"name":"unpaid"`},
		{http.MethodPut, "/views/Elsewhere", `{"address":"https://elsewhere/","sentence":"?"}`, 422, "pattern"},
		{http.MethodGet, "/views/unpaid", "", 200, "/orders?where=paid"},
		{http.MethodGet, "/views/Paid", "", 404, `there is no view \"Paid\"; `},
		{http.MethodDelete, "/views/unpaid", "", 200, `"views":[]`},
		{http.MethodDelete, "/views/unpaid", "", 404, "nothing is kept under this name"},
	} {
		answer := send(t, handler, step.method, step.path, strings.NewReader(step.body))
		require.Equal(t, step.status, answer.Code, "%s %s: %s", step.method, step.path, answer.Body)
		assert.Contains(t, answer.Body.String(), step.says, "%s %s", step.method, step.path)
	}
}

// What fails below has the status of its kind, and its text stays in the log where it is nobody's fault but ours.
func TestFaultsHaveTheStatusOfTheirKind(t *testing.T) {
	for _, tt := range []struct {
		name   string
		fault  error
		status int
		says   string
	}{
		{"PostgreSQL is away", fmt.Errorf("views: %w", store.ErrUnavailable), 503, "PostgreSQL does not answer"},
		{"the client has gone", context.Canceled, statusGone, "cancelled"},
		{"a text of the database", errors.New("password of secret-host"), 500, "the service failed; its log says why, under request "},
	} {
		handler, log := newTestServer(emptyBook, func(c *Config) { c.Records = &fakeRecords{fault: tt.fault} })
		answer := ask(t.Context(), handler, http.MethodGet, "/api/v1/views")
		assert.Equal(t, tt.status, answer.Code, tt.name)
		assert.Contains(t, answer.Body.String(), tt.says, tt.name)
		assert.NotContains(t, answer.Body.String(), "secret-host", tt.name)
		if tt.status == 500 {
			assert.Contains(t, log.String(), "secret-host", tt.name)
		}
	}
}

// A load tells apart what is wrong with its files, what they leave open, what runs already, and what stands without being shown.
func TestLoadsThatEndInSomeWay(t *testing.T) {
	var ends error
	received := ""
	handler, _ := newTestServer(emptyBook, func(c *Config) {
		c.UploadLimit = 1 << 20
		c.Load = func(_ context.Context, files ingest.Files, _ ingest.How) (ingest.Loaded, error) {
			for {
				name, content, err := files()
				if errors.Is(err, io.EOF) {
					return ingest.Loaded{}, ends
				}
				if err != nil {
					return ingest.Loaded{}, err
				}
				text, err := io.ReadAll(content)
				if err != nil {
					return ingest.Loaded{}, err
				}
				received += name + "=" + string(text) + ";"
			}
		}
	})
	running := httptest.NewServer(handler) // a load reads with deadlines, which only a connection has
	t.Cleanup(running.Close)
	load := func() (status int, answer string) {
		var body bytes.Buffer
		form := multipart.NewWriter(&body)
		for name, text := range map[string]string{"orders.csv": "number\nA\n"} {
			file, err := form.CreateFormFile("file", name)
			require.NoError(t, err)
			_, err = io.WriteString(file, text)
			require.NoError(t, err)
		}
		require.NoError(t, form.Close())
		request, err := http.NewRequestWithContext(t.Context(), http.MethodPost, running.URL+"/api/v1/loads", &body)
		require.NoError(t, err)
		request.Header.Set("Authorization", "Bearer "+testToken)
		request.Header.Set("Content-Type", form.FormDataContentType())
		response, err := http.DefaultClient.Do(request)
		require.NoError(t, err)
		defer response.Body.Close()
		text, err := io.ReadAll(response.Body)
		require.NoError(t, err)
		return response.StatusCode, string(text)
	}
	for _, tt := range []struct {
		ends   error
		status int
		says   string
	}{
		{fmt.Errorf("%w: orders.csv, row 2: not a day", ingest.ErrBadFile), 422, "row 2: not a day"},
		{fmt.Errorf("%w: %w", ingest.ErrBadFile, intake.Questions{{Word: "dates", File: "orders.csv", Column: "shipped",
			Asks: "which comes first?", Answers: []string{"day-first"}}}), 422, `"asks":"which comes first?"`},
		{store.ErrLoadRunning, 409, "another load is running"},
		{&ingest.StaleError{Load: 7, Err: errors.New("the disk is full")}, 500, "the files are in, as load 7"},
	} {
		ends = tt.ends
		status, answer := load()
		assert.Equal(t, tt.status, status, "%v: %s", tt.ends, answer)
		assert.Contains(t, answer, tt.says)
	}
	assert.Equal(t, strings.Repeat("orders.csv=number\nA\n;", 4), received)
}
