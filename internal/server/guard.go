package server

import (
	"crypto/subtle"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
)

// secret says whether an address tells anything about anybody's orders, or about the service. The files of the
// console do not; nor does health.
func secret(path string) bool {
	return strings.HasPrefix(path, "/api/") || path == "/metrics"
}

// guard refuses whoever is not a client of this service on this machine. Loopback alone is no wall: any web
// page in the analyst's browser can send requests to it, under a name that it points at 127.0.0.1, and so can
// every other user of the machine.
func (s *server) guard(c *gin.Context) {
	r := c.Request
	switch {
	case !loopbackHost(r.Host):
		refuse(c, http.StatusMisdirectedRequest, "this service answers to 127.0.0.1, [::1] and localhost only")
	case !sameOrigin(r):
		refuse(c, http.StatusForbidden, "requests from other web pages are refused")
	case secret(r.URL.Path) && !s.tokenShown(r) && !s.cookieShown(r):
		c.Header("WWW-Authenticate", "Bearer")
		refuse(c, http.StatusUnauthorized, "a client has to show the token of this service; it lies in the file `token` of the data folder")
	case !isText(r.URL):
		refuse(c, http.StatusBadRequest, "the address holds characters that are no text: NUL, or others than UTF-8 has")
	default:
		if word, value, found := notFinite(r.URL); found {
			refuse(c, http.StatusUnprocessableEntity, fmt.Sprintf("%s %q: want a number such as 2.5", word, value))
			return
		}
		var large *http.MaxBytesError
		if err := checkBody(c); errors.As(err, &large) {
			refuse(c, http.StatusRequestEntityTooLarge, "the body is too large: at most 1 MiB")
		} else if err != nil {
			refuse(c, http.StatusBadRequest, err.Error())
		}
	}
}

func loopbackHost(host string) bool {
	name, _, err := net.SplitHostPort(host)
	if err != nil {
		name = strings.Trim(host, "[]")
	}
	return name == "127.0.0.1" || name == "::1" || strings.EqualFold(name, "localhost")
}

// sameOrigin says whether a request that a web page sent comes from our own pages.
func sameOrigin(r *http.Request) bool {
	origin := r.Header.Get("Origin")
	if origin == "" {
		site := r.Header.Get("Sec-Fetch-Site")
		return site == "" || site == "same-origin" || site == "none"
	}
	from, err := url.Parse(origin)
	return err == nil && from.Scheme == "http" && strings.EqualFold(from.Host, r.Host)
}

// ShortestToken is how long the token has to be. A shorter one, such as none, opens nothing.
const ShortestToken = 20

// tokenShown says whether a request shows the token, after a word for its scheme in whatever capitals (RFC 9110).
func (s *server) tokenShown(r *http.Request) bool {
	scheme, shown, _ := strings.Cut(r.Header.Get("Authorization"), " ")
	return strings.EqualFold(scheme, "Bearer") && len(s.Token) >= ShortestToken && subtle.ConstantTimeCompare([]byte(strings.TrimSpace(shown)), []byte(s.Token)) == 1
}

// refuse ends a request with problem details.
func refuse(c *gin.Context, status int, detail string) {
	answerProblem(c, &huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail})
}

// answerProblem ends a request with an error that s.failed has made.
func answerProblem(c *gin.Context, problem huma.StatusError) {
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(problem.GetStatus(), problem)
}
