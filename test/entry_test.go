package test

import (
	"io"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/server"
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

// The printed address lets a browser in by a cookie that scripts cannot read and other sites cannot send, and
// that is not the token.
func TestTheEntryLetsABrowserIn(t *testing.T) {
	s := startService(t)
	for _, wrong := range []string{"/enter", "/enter?key=", "/enter?key=" + s.token} {
		response, _ := send(t, http.MethodGet, s.address+wrong)
		assert.Equal(t, http.StatusUnauthorized, response.StatusCode, wrong)
		assert.Empty(t, response.Cookies(), wrong)
	}
	response, _ := send(t, http.MethodGet, server.Entry(s.address, s.token))
	assert.Equal(t, http.StatusSeeOther, response.StatusCode)
	assert.Equal(t, "/", response.Header.Get("Location"), "the key does not stay in the address")
	require.Len(t, response.Cookies(), 1)
	cookie := response.Cookies()[0]
	assert.True(t, cookie.HttpOnly)
	assert.Equal(t, http.SameSiteStrictMode, cookie.SameSite)
	assert.NotContains(t, cookie.Value, s.token)

	with := func(value string) func(*http.Request) {
		return func(r *http.Request) { r.AddCookie(&http.Cookie{Name: cookie.Name, Value: value}) }
	}
	header := func(name, value string) func(*http.Request) {
		return func(r *http.Request) { r.Header.Set(name, value) }
	}
	for _, tt := range []struct {
		name   string
		method string
		change []func(*http.Request)
		status int
	}{
		{"with the cookie", "GET", []func(*http.Request){with(cookie.Value)}, 200},
		{"without", "GET", nil, 401},
		{"with another", "GET", []func(*http.Request){with(strings.Repeat("0", 64))}, 401},
		{"the cookie as the token", "GET", []func(*http.Request){header("Authorization", "Bearer "+cookie.Value)}, 401},
		{"from another page", "GET", []func(*http.Request){with(cookie.Value), header("Origin", "http://localhost:1")}, 403},
		{"a form of another page", "PUT", []func(*http.Request){with(cookie.Value), header("Origin", "null")}, 403},
		{"a name that points here", "GET", []func(*http.Request){with(cookie.Value), func(r *http.Request) { r.Host = "rebound.example" }}, 421},
	} {
		response, body := send(t, tt.method, s.address+"/api/v1/book", tt.change...)
		assert.Equal(t, tt.status, response.StatusCode, tt.name)
		assert.Equal(t, tt.status == 200, strings.Contains(body, "milestones"), tt.name)
	}
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
