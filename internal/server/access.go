package server

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/hex"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
)

// A browser gets in by a key that works once and for some minutes, which it exchanges for a session of its own. The console keeps
// that in the storage of its origin, which no other port of the machine can read, and shows it in a header: a cookie would be
// shown to every port.
const (
	keyLasts     = 10 * time.Minute
	sessionLasts = 30 * 24 * time.Hour
	// mostKeys and mostSessions bound what is kept; the oldest go first.
	mostKeys     = 100
	mostSessions = 100
)

// A Session is a browser that was let in, known by the hash of what it shows.
type Session struct {
	Hash  string    `json:"hash"`
	Until time.Time `json:"until"`
}

// access knows who is let in.
type access struct {
	now  func() time.Time
	keep func([]Session) error

	mutex    sync.Mutex
	token    string
	keys     []Session // that were not exchanged yet
	sessions []Session
}

func hashOf(secret string) string {
	sum := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(sum[:])
}

// bearer is what a request shows, after a word for its scheme in whatever capitals (RFC 9110).
func bearer(r *http.Request) string {
	scheme, shown, _ := strings.Cut(r.Header.Get("Authorization"), " ")
	if !strings.EqualFold(scheme, "Bearer") {
		return ""
	}
	return strings.TrimSpace(shown)
}

// ShortestToken is how long the token has to be. A shorter one, such as none, opens nothing.
const ShortestToken = 20

// byToken says whether a request shows the token of the data folder.
func (a *access) byToken(r *http.Request) bool {
	a.mutex.Lock()
	defer a.mutex.Unlock()
	return len(a.token) >= ShortestToken && subtle.ConstantTimeCompare([]byte(bearer(r)), []byte(a.token)) == 1
}

// bySession says whether a request shows a session that has not ended.
func (a *access) bySession(r *http.Request) bool {
	a.mutex.Lock()
	defer a.mutex.Unlock()
	return a.find(a.sessions, bearer(r)) >= 0
}

// find is the place of a secret that has not ended, −1 for none. What is looked for is a hash, so that how long it takes tells
// nothing.
func (a *access) find(all []Session, secret string) int {
	hash := hashOf(secret)
	return slices.IndexFunc(all, func(s Session) bool { return s.Hash == hash && a.now().Before(s.Until) })
}

// add keeps a new secret with the others that have not ended, but for the oldest of too many.
func (a *access) add(all []Session, lasts time.Duration, most int) ([]Session, string) {
	secret := rand.Text()
	all = slices.DeleteFunc(slices.Clone(all), func(s Session) bool { return !a.now().Before(s.Until) })
	all = append(all, Session{hashOf(secret), a.now().Add(lasts)})
	return all[max(0, len(all)-most):], secret
}

// newKey makes a key that lets one browser in.
func (a *access) newKey() (key string) {
	a.mutex.Lock()
	defer a.mutex.Unlock()
	a.keys, key = a.add(a.keys, keyLasts, mostKeys)
	return key
}

// exchange gives a session for a key, which is gone then. Empty where there is no such key.
func (a *access) exchange(key string) (secret string, err error) {
	a.mutex.Lock()
	defer a.mutex.Unlock()
	at := a.find(a.keys, key)
	if at < 0 {
		return "", nil
	}
	a.keys = slices.Delete(a.keys, at, at+1)
	a.sessions, secret = a.add(a.sessions, sessionLasts, mostSessions)
	return secret, a.keep(a.sessions)
}

// end ends the session that a request shows.
func (a *access) end(r *http.Request) error {
	a.mutex.Lock()
	defer a.mutex.Unlock()
	if at := a.find(a.sessions, bearer(r)); at >= 0 {
		a.sessions = slices.Delete(slices.Clone(a.sessions), at, at+1)
	}
	return a.keep(a.sessions)
}

// renew takes another token, and ends all sessions and keys.
func (a *access) renew(token string) error {
	a.mutex.Lock()
	defer a.mutex.Unlock()
	a.token, a.keys, a.sessions = token, nil, nil
	return a.keep(nil)
}

const sessionPath = api.BasePath + "/access/session"

func (s *server) registerAccess(to huma.API) {
	huma.Register(to, huma.Operation{OperationID: "enter", Method: http.MethodPost, Path: sessionPath,
		Summary: "Exchange a key that works once for a session", Security: []map[string][]string{{}}}, s.enter)
	huma.Register(to, huma.Operation{OperationID: "leave", Method: http.MethodDelete, Path: sessionPath,
		Summary: "End the session that is shown"}, s.leave)
	huma.Register(to, huma.Operation{OperationID: "entry", Method: http.MethodPost, Path: api.BasePath + "/access/keys",
		Summary: "Make a key that lets one browser in; only with the token"}, s.entry)
	huma.Register(to, huma.Operation{OperationID: "new-key", Method: http.MethodPost, Path: api.BasePath + "/access/new-key",
		Summary: "Make another token, which is in the data folder then, and end all sessions; only with the token"}, s.newToken)
}

func (s *server) enter(ctx context.Context, in *struct{ Body api.EntryKey }) (*answered[api.Session], error) {
	secret, err := s.access.exchange(in.Body.Key)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	if secret == "" {
		return nil, huma.Error401Unauthorized("this address was used already, or is too old: " + letIn)
	}
	return &answered[api.Session]{api.Session{Session: secret}}, nil
}

// letIn says how a browser gets in.
const letIn = "`prairie-dusk access` prints another, which lets one browser in within 10 minutes"

type requestKey struct{}

// requestOf is the request of a context, for what it shows.
func requestOf(ctx context.Context) *http.Request {
	r, _ := ctx.Value(requestKey{}).(*http.Request)
	return r
}

func (s *server) leave(ctx context.Context, _ *struct{}) (*struct{}, error) {
	if err := s.access.end(requestOf(ctx)); err != nil {
		return nil, s.failed(ctx, err)
	}
	return nil, nil
}

func (s *server) entry(ctx context.Context, _ *struct{}) (*answered[api.EntryKey], error) {
	if !s.access.byToken(requestOf(ctx)) {
		return nil, huma.Error403Forbidden("a browser lets no other in; use `prairie-dusk access`")
	}
	return &answered[api.EntryKey]{api.EntryKey{Key: s.access.newKey()}}, nil
}

func (s *server) newToken(ctx context.Context, _ *struct{}) (*struct{}, error) {
	if !s.access.byToken(requestOf(ctx)) {
		return nil, huma.Error403Forbidden("a browser makes no other token; use `prairie-dusk access new-key`")
	}
	token, err := s.NewToken()
	if err != nil {
		return nil, s.failed(ctx, fmt.Errorf("another token: %w", err))
	}
	if err := s.access.renew(token); err != nil {
		return nil, s.failed(ctx, err)
	}
	return nil, nil
}

// Entry is the address that a person opens with a key. The key follows a #, so that no server and no log ever sees it.
func Entry(address, key string) string { return address + "/enter#" + key }
