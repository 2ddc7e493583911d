package server

import (
	"crypto/hmac"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/hex"
	"io/fs"
	"net/http"
	"net/url"
	"strings"

	"github.com/gin-gonic/gin"

	"prairiedusk/console"
	"prairiedusk/internal/api"
)

// cookieName is the cookie by which a browser shows that it was let in.
const cookieName = "prairie-dusk"

// entryPath is the address that lets a browser in.
const entryPath = "/enter"

// pagePolicy lets a page run our script files and no other, and talk to us and nobody else. Styles may stand
// in the page, since components write them there; script may not.
const pagePolicy = "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; " +
	"font-src 'self'; connect-src 'self' data:; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

// derived is a secret for one purpose that tells nothing about the token or the other purposes.
func derived(token, purpose string) string {
	mac := hmac.New(sha256.New, []byte(token))
	mac.Write([]byte(purpose))
	return hex.EncodeToString(mac.Sum(nil))
}

// Entry is the address that a person opens: it lets the browser in and goes on to the console.
func Entry(address, token string) string {
	return address + entryPath + "?" + url.Values{"key": {derived(token, "entry")}}.Encode()
}

// enter gives the browser its cookie. The cookie is not the token: a browser shows it to every port of the
// machine.
func (s *server) enter(c *gin.Context) {
	if subtle.ConstantTimeCompare([]byte(c.Query("key")), []byte(derived(s.Token, "entry"))) != 1 {
		refuse(c, http.StatusUnauthorized, "this address is not of this service; open the one that `prairie-dusk up` printed")
		return
	}
	http.SetCookie(c.Writer, &http.Cookie{Name: cookieName, Value: derived(s.Token, "console"), Path: "/",
		MaxAge: 90 * 24 * 3600, HttpOnly: true, SameSite: http.SameSiteStrictMode})
	c.Header("Referrer-Policy", "no-referrer")
	c.Redirect(http.StatusSeeOther, "/")
}

// cookieShown says whether a browser has been let in.
func (s *server) cookieShown(r *http.Request) bool {
	cookie, err := r.Cookie(cookieName)
	return err == nil && subtle.ConstantTimeCompare([]byte(cookie.Value), []byte(derived(s.Token, "console"))) == 1
}

// page serves the console: files whose names change with their content for ever, the page itself never from a
// cache. Every address that is no file is the page's own; it finds its way from there.
func (s *server) page(c *gin.Context) {
	path := strings.TrimPrefix(c.Request.URL.Path, "/")
	if c.Request.Method != http.MethodGet || strings.HasPrefix(c.Request.URL.Path, api.BasePath+"/") {
		refuse(c, http.StatusNotFound, "there is nothing at this address")
		return
	}
	site := console.Site()
	if info, err := fs.Stat(site, path); err != nil || info.IsDir() {
		if strings.HasPrefix(path, "assets/") {
			refuse(c, http.StatusNotFound, "there is nothing at this address")
			return
		}
		path = "index.html"
	}
	if strings.HasPrefix(path, "assets/") {
		c.Header("Cache-Control", "public, max-age=31536000, immutable")
	}
	c.Header("Content-Security-Policy", pagePolicy)
	c.Header("Referrer-Policy", "no-referrer")
	text, err := fs.ReadFile(site, path)
	if err != nil {
		refuse(c, http.StatusNotFound, "this program was built without its console; build it with `make build`")
		return
	}
	c.Data(http.StatusOK, contentType(path), text)
}

// contentType is by the file's ending; the machine's own table of types is not asked.
func contentType(path string) string {
	for ending, kind := range map[string]string{".html": "text/html; charset=utf-8", ".js": "text/javascript; charset=utf-8",
		".css": "text/css; charset=utf-8", ".svg": "image/svg+xml", ".woff2": "font/woff2"} {
		if strings.HasSuffix(path, ending) {
			return kind
		}
	}
	return "application/octet-stream"
}
