package test

import (
	"bytes"
	"net"
	"net/http"
	"net/url"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
	"prairiedusk/internal/app"
	"prairiedusk/internal/client"
)

// A wire lies between a service and its database. It can be cut, and stop carrying anything.
type wire struct {
	t        testing.TB
	database string // host and port
	listener net.Listener

	mutex  sync.Mutex
	moved  *sync.Cond
	ends   map[net.Conn]bool
	cut    bool
	frozen bool
	// cutAt cuts the wire once the database has answered something that the service says: before the answer comes, or after.
	cutAt       string
	afterAnswer bool
}

// startWired is startService with a wire to its database.
func startWired(t *testing.T) (service, *wire) {
	w := &wire{t: t, ends: map[net.Conn]bool{}}
	w.moved = sync.NewCond(&w.mutex)
	var err error
	w.listener, err = net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	s := startService(t, func(settings *app.Settings) {
		address, err := url.Parse(settings.DatabaseURL)
		require.NoError(t, err)
		w.database, address.Host = address.Host, w.listener.Addr().String()
		settings.DatabaseURL = address.String()
		go w.serve()
	})
	t.Cleanup(func() { // before the service stops
		w.set(true, false)
		w.listener.Close()
	})
	return s, w
}

func (w *wire) serve() {
	for {
		near, err := w.listener.Accept()
		if err != nil {
			return
		}
		far, err := net.Dial("tcp", w.database)
		w.mutex.Lock()
		if err != nil || w.cut {
			near.Close()
			if err == nil {
				far.Close()
			}
			w.mutex.Unlock()
			continue
		}
		w.ends[near], w.ends[far] = true, true
		w.mutex.Unlock()
		last := &atomic.Bool{}
		go w.carry(far, near, true, last)
		go w.carry(near, far, false, last)
	}
}

// carry carries what one end says to the other; asks says that it is the service that says it.
func (w *wire) carry(to, from net.Conn, asks bool, last *atomic.Bool) {
	defer func() {
		w.mutex.Lock()
		defer w.mutex.Unlock()
		delete(w.ends, from)
		from.Close()
		to.Close()
	}()
	said := make([]byte, 1<<16)
	for {
		n, err := from.Read(said)
		w.mutex.Lock()
		for w.frozen && !w.cut {
			w.moved.Wait()
		}
		cut := w.cut
		if asks && w.cutAt != "" && bytes.Contains(said[:n], []byte(w.cutAt)) {
			w.cutAt = ""
			last.Store(true) // the answer to this is the last that comes, or none does
		}
		answered := !asks && last.Load()
		afterAnswer := w.afterAnswer
		w.mutex.Unlock()
		if answered && !afterAnswer {
			w.set(true, false)
			return
		}
		if err != nil || cut {
			return
		}
		_, err = to.Write(said[:n])
		if answered {
			w.set(true, false)
		}
		if err != nil || answered {
			return
		}
	}
}

// set cuts the wire or mends it, and lets it carry something or not.
func (w *wire) set(cut, frozen bool) {
	w.mutex.Lock()
	defer w.mutex.Unlock()
	w.cut, w.frozen = cut, frozen
	if cut {
		for end := range w.ends {
			end.Close()
		}
	}
	w.moved.Broadcast()
}

// ready waits until the service says that all is well.
func (s service) ready(t testing.TB) {
	require.Eventually(t, func() bool { code, _ := s.get(t, "/readyz"); return code == http.StatusOK }, 30*time.Second, 50*time.Millisecond)
}

// within fails where something takes longer than a person waits.
func within(t testing.TB, ask func()) {
	begin := time.Now()
	ask()
	require.Less(t, time.Since(begin), 15*time.Second)
}

// An answer follows the tables by itself, whatever becomes of the connections at the worst moment.
func TestAnswersFollowTheTables(t *testing.T) {
	for name, afterAnswer := range map[string]bool{"the commit was answered": true, "nobody knows whether it was done": false} {
		t.Run(name, func(t *testing.T) {
			s, w := startWired(t)
			w.mutex.Lock()
			w.cutAt, w.afterAnswer = "commit", afterAnswer
			w.mutex.Unlock()
			_, err := s.Load(t.Context(), []string{write(t, "orders.csv", "number,ordered\nW/1,2026-03-02\n")})
			var problem *client.Problem
			require.ErrorAs(t, err, &problem)
			if afterAnswer {
				assert.Contains(t, problem.Detail, "the files are in, as load 1, but answers do not show them yet")
			} else {
				assert.Equal(t, http.StatusServiceUnavailable, problem.Status)
			}
			code, body := s.get(t, "/readyz")
			assert.Equal(t, http.StatusServiceUnavailable, code, body)
			w.set(false, false)
			s.ready(t)
			loads, err := s.Loads(t.Context())
			require.NoError(t, err)
			standing := len(loads.Loads)
			assert.EqualValues(t, standing, loads.Shown)
			book, err := s.Book(t.Context())
			require.NoError(t, err)
			assert.Equal(t, standing, book.Orders, "the answers show what is in the tables")
			if afterAnswer {
				assert.Equal(t, 1, standing)
			}
		})
	}
}

// A database that goes away, or answers no more, is said within seconds; questions go on, and all is well by itself afterwards.
func TestADatabaseThatDoesNotAnswer(t *testing.T) {
	for name, frozen := range map[string]bool{"gone": false, "frozen": true} {
		t.Run(name, func(t *testing.T) {
			s, w := startWired(t)
			_, err := s.Load(t.Context(), []string{write(t, "orders.csv", "number,ordered,shipped\nW/1,2026-03-02,2026-03-05\n")})
			require.NoError(t, err)
			w.set(!frozen, frozen)
			within(t, func() { // one that waits for it is told too
				_, err = s.Loads(t.Context())
				require.Error(t, err)
			})
			within(t, func() {
				require.Eventually(t, func() bool { code, _ := s.get(t, "/readyz"); return code == http.StatusServiceUnavailable },
					12*time.Second, 50*time.Millisecond)
			})
			var notice string
			s.Notice = func(text string) { notice = text }
			groups := gridOf(t, s.took(t, question{}).Parts[0], "groups")
			assert.Equal(t, 1, groups.count(groups.total(), "n"))
			assert.Contains(t, notice, "PostgreSQL has not answered since")
			assert.Contains(t, notice, "as of load 1")
			within(t, func() {
				for _, path := range []string{"/api/v1/loads", "/api/v1/views", "/api/v1/quality", "/api/v1/loads/1/set-aside-rows"} {
					code, body := s.get(t, path)
					assert.Equal(t, http.StatusServiceUnavailable, code, path)
					assert.Contains(t, body["detail"], "PostgreSQL does not answer", path)
				}
				_, err = s.Load(t.Context(), []string{write(t, "more.csv", "number,ordered\nW/2,2026-03-02\n")})
				assert.ErrorContains(t, err, "PostgreSQL does not answer")
			})
			_, err = s.Book(t.Context())
			require.NoError(t, err)
			w.set(false, false)
			s.ready(t)
			_, err = s.Load(t.Context(), []string{write(t, "more.csv", "number,ordered\nW/2,2026-03-02\n")})
			require.NoError(t, err)
			book, err := s.Book(t.Context())
			require.NoError(t, err)
			assert.Equal(t, 2, book.Orders)
			notice = ""
			_, err = s.SaveSettings(t.Context(), api.Settings{})
			require.NoError(t, err)
			assert.Empty(t, notice)
		})
	}
}
