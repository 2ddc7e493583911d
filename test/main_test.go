// Package test holds the tests from end to end: the service through its client and over plain HTTP, and the
// program as a process.
package test

import (
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"prairiedusk/internal/app"
	"prairiedusk/internal/client"
	"prairiedusk/internal/pgcluster/clustertest"
	"prairiedusk/internal/server"
)

func TestMain(m *testing.M) { clustertest.Main(m) }

// service is a service of a test's own, on an empty book.
type service struct {
	*client.Client
	address, token, folder string
}

// beside are the tests that run beside each other already: they have two services.
var beside sync.Map

// runBeside lets a test run beside others.
func runBeside(t testing.TB) {
	if test, is := t.(*testing.T); is {
		if _, already := beside.LoadOrStore(test, true); !already {
			test.Parallel()
		}
	}
}

// startService starts a service of the test's own, with a database of its own: tests that have one run beside each other.
func startService(t testing.TB, change ...func(*app.Settings)) service {
	runBeside(t)
	return startOn(t, clustertest.Database(t), change...)
}

// startOn starts a service on a database.
func startOn(t testing.TB, database string, change ...func(*app.Settings)) service {
	settings := app.Settings{Folder: t.TempDir(), Listen: "127.0.0.1:0", DatabaseURL: database, UploadLimit: 1 << 30,
		Log: slog.New(slog.DiscardHandler)}
	for _, c := range change {
		c(&settings)
	}
	running, err := app.Start(t.Context(), settings)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, running.Stop()) })
	token, err := app.Token(settings.Folder)
	require.NoError(t, err)
	return service{client.New(running.Address(), token), running.Address(), token, settings.Folder}
}

// entry is an address that lets a browser in, once.
func (s service) entry(t testing.TB) string {
	key, err := s.NewKey(t.Context())
	require.NoError(t, err)
	return server.Entry(s.address, key)
}

// write puts a file into a folder of the test's.
func write(t testing.TB, name, text string) string {
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	return path
}

// get asks over plain HTTP, as a client that shares no code with ours, and gives the status and the body.
func (s service) get(t testing.TB, path string, change ...func(*http.Request)) (int, map[string]any) {
	request, err := http.NewRequestWithContext(t.Context(), http.MethodGet, s.address+path, nil)
	require.NoError(t, err)
	request.Header.Set("Authorization", "Bearer "+s.token)
	for _, c := range change {
		c(request)
	}
	response, err := http.DefaultClient.Do(request)
	require.NoError(t, err)
	defer response.Body.Close()
	text, err := io.ReadAll(response.Body)
	require.NoError(t, err)
	var body map[string]any
	if strings.Contains(response.Header.Get("Content-Type"), "json") {
		require.NoErrorf(t, json.Unmarshal(text, &body), "%s", text)
	}
	return response.StatusCode, body
}
