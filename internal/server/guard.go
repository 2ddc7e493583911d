package server

import (
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

// entering says whether a request exchanges a key, which is all that it can show.
func entering(r *http.Request) bool { return r.Method == http.MethodPost && r.URL.Path == sessionPath }

// opened says whether a person follows a link of another page to the console: that tells nothing and changes nothing.
func opened(r *http.Request) bool {
	return r.Method == http.MethodGet && !secret(r.URL.Path) && r.Header.Get("Origin") == "" &&
		r.Header.Get("Sec-Fetch-Mode") == "navigate" && r.Header.Get("Sec-Fetch-Dest") == "document"
}

// guard refuses whoever is not a client of this service on this machine. Loopback alone is no wall: any web
// page in the analyst's browser can send requests to it, under a name that it points at 127.0.0.1, and so can
// every other user of the machine.
func (s *server) guard(c *gin.Context) {
	r := c.Request
	switch {
	case !loopbackHost(r.Host):
		refuse(c, http.StatusMisdirectedRequest, "this service answers to 127.0.0.1, [::1] and localhost only")
	case !sameOrigin(r) && !opened(r):
		refuse(c, http.StatusForbidden, "requests from other web pages are refused")
	case secret(r.URL.Path) && !entering(r) && !s.access.byToken(r) && !s.access.bySession(r):
		c.Header("WWW-Authenticate", "Bearer")
		refuse(c, http.StatusUnauthorized, "you have not been let in: open the address that `prairie-dusk access` prints, or show the token, which lies in the file `token` of the data folder")
	case !isText(r.URL):
		refuse(c, http.StatusBadRequest, "the address holds characters that are no text: NUL, or others than UTF-8 has")
	default:
		if word, value, found := notFinite(r.URL); found {
			refuse(c, http.StatusUnprocessableEntity, fmt.Sprintf("%s %q: want a number such as 2.5", word, value))
			return
		}
		var large *http.MaxBytesError
		err := checkBody(c)
		if errors.As(err, &large) {
			refuse(c, http.StatusRequestEntityTooLarge, fmt.Sprintf("the body is too large: at most %d MiB", bodyLimitOf(r)>>20))
			return
		} else if err != nil {
			refuse(c, http.StatusBadRequest, err.Error())
			return
		}
		if c.Request, err = s.asOf(s.by(c.Request)); err != nil {
			answerProblem(c, s.failed(r.Context(), err))
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

// refuse ends a request with problem details.
func refuse(c *gin.Context, status int, detail string) {
	answerProblem(c, &huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail})
}

// answerProblem ends a request with an error that s.failed has made.
func answerProblem(c *gin.Context, problem huma.StatusError) {
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(problem.GetStatus(), problem)
}
