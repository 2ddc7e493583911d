package server

import (
	"context"
	"crypto/rand"
	"net/http"
	"runtime/debug"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/work"
)

// metrics are what the service tells about itself; never a value of anybody's orders.
type metrics struct {
	registry *prometheus.Registry
	requests *prometheus.HistogramVec
}

func newMetrics(snapshot func() *book.Book) *metrics {
	m := &metrics{
		registry: prometheus.NewRegistry(),
		requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name:    "prairie_dusk_request_seconds",
			Help:    "Time to answer requests, by route, method and status.",
			Buckets: prometheus.ExponentialBuckets(0.0005, 4, 10),
		}, []string{"route", "method", "status"}),
	}
	m.registry.MustRegister(m.requests, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}),
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "prairie_dusk_orders", Help: "Orders in the book."},
			func() float64 { return float64(snapshot().Orders()) }),
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "prairie_dusk_book_version", Help: "Version of the book."},
			func() float64 { return float64(snapshot().Version()) }))
	return m
}

func (m *metrics) handler() http.Handler {
	return promhttp.HandlerFor(m.registry, promhttp.HandlerOpts{})
}

type requestIDKey struct{}

// requestID is the identity under which a request stands in the log.
func requestID(ctx context.Context) string {
	id, _ := ctx.Value(requestIDKey{}).(string)
	return id
}

// observe gives every request an identity, times and logs it, and turns a panic into a failure of that
// request alone. The log has the path without its query, which can hold names.
func (s *server) observe(c *gin.Context) {
	id, begin := rand.Text(), time.Now()
	c.Request = c.Request.WithContext(context.WithValue(context.WithValue(c.Request.Context(), requestIDKey{}, id), requestKey{},
		c.Request))
	c.Header("X-Request-Id", id)
	c.Header("X-Content-Type-Options", "nosniff")
	c.Header("Content-Security-Policy", answerPolicy)
	c.Header("Referrer-Policy", "no-referrer")
	c.Header("Cache-Control", "no-store")
	if notice := s.Notice(); notice != "" && secret(c.Request.URL.Path) {
		c.Header(api.NoticeHeader, notice)
	}
	defer func() {
		fault := recover()
		if fault != nil && fault != http.ErrAbortHandler {
			failure := s.failed(c.Request.Context(), panicked(fault))
			if c.Writer.Written() {
				fault = http.ErrAbortHandler // an answer that has begun must not look whole
			} else {
				answerProblem(c, failure)
			}
		}
		route, took := c.FullPath(), time.Since(begin)
		s.metrics.requests.WithLabelValues(route, methodOf(c.Request), strconv.Itoa(c.Writer.Status())).Observe(took.Seconds())
		s.Log.Info("request", "request_id", id, "method", methodOf(c.Request), "route", route, "status", c.Writer.Status(),
			"milliseconds", float64(took.Microseconds())/1000, "bytes", c.Writer.Size())
		if fault == http.ErrAbortHandler {
			panic(fault) // an answer that is cut short on purpose ends with its connection
		}
	}()
	c.Next()
}

// methodOf is a request's method, if it is one of HTTP's own: a stranger could make up any number of others.
func methodOf(r *http.Request) string {
	switch r.Method {
	case http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete, http.MethodOptions:
		return r.Method
	}
	return "other"
}

// panicked is the error that a request panicked with: that of one of its workers, or of its own.
func panicked(fault any) error {
	switch fault := fault.(type) {
	case *work.Fault:
		return fault
	case *work.Stop:
		return fault
	}
	return &work.Fault{Value: fault, Stack: debug.Stack()}
}

// healthy says that the process serves.
func (s *server) healthy(c *gin.Context) { c.JSON(http.StatusOK, gin.H{"status": "ok"}) }

// ready says that answers show the records as they are, and that files can be loaded.
func (s *server) ready(c *gin.Context) {
	if notice := s.Notice(); notice != "" {
		refuse(c, http.StatusServiceUnavailable, notice)
		return
	}
	c.JSON(http.StatusOK, gin.H{"status": "ready"})
}
