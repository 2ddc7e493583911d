package server

import (
	"io/fs"
	"net/http"
	"regexp"
	"strings"

	"github.com/gin-gonic/gin"

	"prairiedusk/console"
	"prairiedusk/internal/api"
)

// answerPolicy lets an answer that is shown as a page do nothing.
const answerPolicy = "default-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

// pagePolicy lets a page run our script files and no other, and talk to us and nobody else. Styles may stand
// in the page, since components write them there; script may not.
const pagePolicy = "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; " +
	"font-src 'self'; connect-src 'self' data:; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

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
	file := path
	if _, err := fs.Stat(site, path+".br"); err == nil && accepts(c.GetHeader("Accept-Encoding"), "br") {
		c.Header("Content-Encoding", "br")
		c.Header("Vary", "Accept-Encoding")
		file += ".br"
	}
	text, err := fs.ReadFile(site, file)
	if err != nil {
		refuse(c, http.StatusNotFound, "this program was built without its console; build it with `make build`")
		return
	}
	c.Data(http.StatusOK, contentType(path), text)
}

var weightless = regexp.MustCompile(`^\s*q\s*=\s*0(\.0*)?\s*$`)

// accepts says whether a client takes an encoding, by its header: it is named, and not with a weight of nought.
func accepts(header, encoding string) bool {
	for named := range strings.SplitSeq(header, ",") {
		name, weight, _ := strings.Cut(named, ";")
		if strings.TrimSpace(name) == encoding {
			return !weightless.MatchString(weight)
		}
	}
	return false
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
