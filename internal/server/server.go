// Package server answers over HTTP: it turns requests into questions for the core and the core's answers
// into the wire's form, and computes nothing itself.
package server

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"reflect"
	"runtime"
	"strings"
	"sync/atomic"
	"time"

	"github.com/klauspost/compress/gzip"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/danielgtaylor/huma/v2/sse"
	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"
	"github.com/klauspost/compress/zstd"
	"github.com/prometheus/client_golang/prometheus"
	"golang.org/x/sync/semaphore"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/work"
	"prairiedusk/internal/ingest"
	"prairiedusk/internal/intake"
	"prairiedusk/internal/labels"
	"prairiedusk/internal/present"
	"prairiedusk/internal/store"
)

// Limits of a request. Loads have none on time as long as bytes keep coming.
const (
	headerTimeout = 10 * time.Second
	readTimeout   = 30 * time.Second
	writeTimeout  = 2 * time.Minute
	idleTimeout   = 2 * time.Minute
	bodyLimit     = 1 << 20
	// questionTimeout is how long a question may be computed; its answer then has the rest of writeTimeout.
	questionTimeout = 90 * time.Second
)

// errTooLong says that a question took longer than questionTimeout.
var errTooLong = fmt.Errorf("this took longer than %.0f seconds and was ended; ask about a shorter period, fewer periods or fewer groups",
	questionTimeout.Seconds())

// Config is what a server is made with; every field is needed.
type Config struct {
	// Token is what every client has to show. NewToken makes another, which clients find from then on.
	Token    string
	NewToken func() (string, error)
	// Sessions are the browsers that were let in; KeepSessions keeps them for the next start.
	Sessions     []Session
	KeepSessions func([]Session) error
	// Account is the name of the account that runs the service.
	Account string
	// Snapshot is the order book as it stands.
	Snapshot func() *book.Book
	Records  Records
	// BookAsOf is the order book as it was while a load was the last one; the error wraps store.ErrNoLoad.
	BookAsOf func(ctx context.Context, load int64) (*book.Book, error)
	// BookSupposing is the book as it would be with changes; the error is a *request.Error.
	BookSupposing func(ctx context.Context, changes []string) (*book.Book, error)
	// OrderAsOf are the parts of an order, and what was changed in it by then, as they were while a load was the last one.
	OrderAsOf func(ctx context.Context, load int64, number string) ([]store.PartTable, []store.Change, error)
	// MakeReader makes the role of PostgreSQL that may read the records and change nothing, and gives its address.
	MakeReader func(ctx context.Context) (string, error)
	// Load brings files in. It gives ingest.ErrBadFile, wrapped, where a file is at fault, and an *ingest.StaleError where
	// the load stands without being shown. One that only checks changes nothing.
	Load func(ctx context.Context, files ingest.Files, how ingest.How) (ingest.Loaded, error)
	// Progress is how far the running load has come; nil where none runs.
	Progress func() *ingest.Progress
	// Undo takes the last load back; the error wraps store.ErrNotLast for any other.
	Undo func(ctx context.Context, load int64) error
	// Redo brings the load that was undone last back; the error wraps store.ErrNotUndone for any other.
	Redo func(ctx context.Context, load int64) error
	// SaveCalendar brings in a calendar, as a load of its own.
	SaveCalendar func(context.Context, calendar.Definition) error
	// SaveStatuses says of statuses what they are, as a load of its own.
	SaveStatuses func(context.Context, []book.StatusSetting) error
	// SavePlaces says where places are, as a load of its own.
	SavePlaces func(context.Context, []book.PlaceRecord) error
	// Labels lists the labels; SaveLabel keeps one that was tried, and DeleteLabel forgets one.
	Labels      func(context.Context) ([]labels.Definition, error)
	SaveLabel   func(context.Context, labels.Definition) error
	DeleteLabel func(ctx context.Context, name string) error
	// SaveSettings changes the ends of the book.
	SaveSettings func(context.Context, store.Settings) error
	// Settings are what the snapshot was made with.
	Settings func() *store.Settings
	// Notice says what everybody has to know who reads an answer now; empty where there is nothing. Shown is the last load that
	// the answers show.
	Notice func() string
	Shown  func() int64
	// UploadLimit bounds the body of a load, in bytes.
	UploadLimit int64
	Log         *slog.Logger
}

type server struct {
	calendarDays calendarDays
	Config
	access  *access
	metrics *metrics
	lists   lists
	quality atomic.Pointer[answer.Document] // of the last version that was asked; it reads whole tables
	turns   *semaphore.Weighted
	backlog present.Backlog
}

// acquireSlot waits until it is this question's acquireSlot to be computed, first come, first served, and gives what ends it. A question
// takes all processors and tables of its own, so that a few at once are as fast as many, and take less memory.
func (s *server) acquireSlot(ctx context.Context) (end func(), err error) {
	if err := s.turns.Acquire(ctx, 1); err != nil {
		return nil, err
	}
	return func() { s.turns.Release(1) }, nil
}

// snapshot is the order book as it stands, or as it was where the request asks so, for one request: what is computed over it ends when
// the request does.
func (s *server) snapshot(ctx context.Context) *book.Book {
	if past, is := ctx.Value(pastKey{}).(past); is {
		return past.book.Within(ctx)
	}
	return s.Snapshot().Within(ctx)
}

// New makes the handler of all routes.
func New(config Config) http.Handler {
	s := &server{Config: config, access: &access{now: time.Now, keep: config.KeepSessions, token: config.Token,
		sessions: config.Sessions}, metrics: newMetrics(config.Snapshot),
		turns: semaphore.NewWeighted(int64(max(2, runtime.GOMAXPROCS(0))))}
	s.backlog.Quality = func(b *book.Book) (*answer.Document, error) {
		if b.Version() != s.Snapshot().Version() { // what is listed beside orders is known as it is now alone
			return present.Quality(b, nil), nil
		}
		ctx, cancel := context.WithTimeoutCause(context.Background(), questionTimeout, errTooLong)
		defer cancel()
		return s.askQuality(ctx, b, nil, present.ToRead)
	}
	router := newRouter()
	router.UseRawPath = true // an order number can hold a slash
	router.HandleMethodNotAllowed = true
	router.Use(s.observe, s.guard)
	router.NoRoute(s.page)
	router.NoMethod(func(c *gin.Context) { refuse(c, http.StatusMethodNotAllowed, "this address does not take that method") })
	router.GET("/healthz", s.healthy)
	router.GET("/readyz", s.ready)
	router.GET("/metrics", gin.WrapH(s.metrics.handler()))
	api := humagin.New(router, apiConfig())
	api.UseMiddleware(limitTime, unhurry)
	s.register(api)
	return compressed(headAsGet(router))
}

// compressed are pages, scripts and answers. Files are whole or break off, and progress is read as it comes: neither is touched.
func compressed(next http.Handler) http.Handler {
	at := func(level int, speed zstd.EncoderLevel) http.Handler {
		wrap, err := gzhttp.NewWrapper(gzhttp.CompressionLevel(level), gzhttp.ZstdCompressionLevel(int(speed)),
			gzhttp.ContentTypes([]string{"text/html", "text/css", "text/javascript", "application/json", "application/problem+json",
				"image/svg+xml"}))
		if err != nil {
			panic(err) // the settings are well formed
		}
		return wrap(next)
	}
	// What is the same for every browser is made small; answers, which can be large, are made small fast.
	pages, answers := at(gzip.BestCompression, zstd.SpeedBestCompression), at(gzip.BestSpeed, zstd.SpeedFastest)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if strings.HasPrefix(r.URL.Path, "/api/") {
			answers.ServeHTTP(w, r)
			return
		}
		pages.ServeHTTP(w, r)
	})
}

// headAsGet answers HEAD as GET, of which the connection sends the head alone. What never ends has no such answer.
func headAsGet(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodHead && r.URL.Path != loadsPath+"/progress" {
			r = r.Clone(r.Context())
			r.Method = http.MethodGet
		}
		next.ServeHTTP(w, r)
	})
}

// limitTime ends questions that take too long, also those that checks ask. What comes as a stream takes as long as somebody reads.
func limitTime(c huma.Context, next func(huma.Context)) {
	o := c.Operation()
	asks := o.Method == http.MethodGet || strings.HasPrefix(o.Path, checkPath)
	if !asks || o.OperationID == takeAwayOperation || o.OperationID == waitingOperation || o.OperationID == progressOperation {
		next(c)
		return
	}
	ctx, cancel := context.WithTimeoutCause(c.Context(), questionTimeout, errTooLong)
	defer cancel()
	next(huma.WithContext(c, ctx))
}

// The operations that stream.
const (
	takeAwayOperation = "take-away"
	progressOperation = "progress"
	waitingOperation  = "waiting-rows"
)

// newRouter is a router that prints nothing of its own.
func newRouter() *gin.Engine {
	gin.SetMode(gin.ReleaseMode)
	return gin.New()
}

// HTTP is the server with its limits around the handler.
func HTTP(handler http.Handler, log *slog.Logger) *http.Server {
	return &http.Server{
		Handler:           handler,
		ReadHeaderTimeout: headerTimeout,
		ReadTimeout:       readTimeout,
		WriteTimeout:      writeTimeout,
		IdleTimeout:       idleTimeout,
		MaxHeaderBytes:    1 << 16,
		ErrorLog:          slog.NewLogLogger(log.Handler(), slog.LevelWarn),
	}
}

// apiVersion is that of the wire, not of the program: it changes when clients have to.
const apiVersion = "1"

func apiConfig() huma.Config {
	config := huma.DefaultConfig("Prairie Dusk", apiVersion)
	config.Info.Description = "Working-day fulfilment times from the dates of orders. Every answer opens with the sentence that says what was computed, and reconciles the selected orders. " +
		"With every question, as_of_load=NUMBER asks of the records as they were after a load, until the next one came, and as_known_on=DAY as they " +
		"were known at the end of a day; what_if=CHANGE, which may be repeated, asks as if something were otherwise, such as cut-off Galway=16:00, and saves nothing."
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath, config.SchemasPath = "", "" // the documentation page would come from another host
	config.CreateHooks = nil
	config.RejectUnknownQueryParameters = true
	config.Components.SecuritySchemes = map[string]*huma.SecurityScheme{"token": {Type: "http", Scheme: "bearer",
		Description: "The content of the file `token` in the data folder, or the session of a browser that was let in."}}
	config.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	config.Security = []map[string][]string{{"token": {}}}
	return config
}

// schemaName names a schema after its type; those of the document say so.
func schemaName(t reflect.Type, hint string) string {
	name := huma.DefaultSchemaNamer(t, hint)
	if t.PkgPath() == reflect.TypeFor[answer.Document]().PkgPath() {
		return "Answer" + name
	}
	return name
}

// register adds every operation.
func (s *server) register(to huma.API) {
	huma.Register(to, get("book", "/book", "The order book as a whole"), s.book)
	huma.Register(to, huma.Operation{OperationID: "save-settings", Method: http.MethodPut, Path: api.BasePath + "/book/settings",
		Summary: "Set the two ends of the book"}, s.saveSettings)
	huma.Register(to, get("values", "/fields/{name}/values", "Values of a field, for picking one"), s.values)
	huma.Register(to, get("condition", "/condition", "How a condition is understood, and what of it can be picked"), s.condition)
	huma.Register(to, get("orders", "/orders", "Orders behind an answer, with the length of a leg"), s.orders)
	huma.Register(to, get(takeAwayOperation, "/orders-file", "A whole list of orders as a file"), s.takeAway)
	huma.Register(to, get("order", "/orders/{number}", "One order, its length shown day by day"), s.order)
	huma.Register(to, get("days", "/days", "The day calculator: lengths and days of days alone"), s.days)
	s.registerAccess(to)
	s.registerStatuses(to)
	s.registerAnswers(to)
	s.registerCalendars(to)
	s.registerLabels(to)
	s.registerViews(to)
	s.registerLayouts(to)
	huma.Register(to, get("loads", "/loads", "What was loaded, the latest first"), s.loads)
	s.registerLoad(to)
	huma.Register(to, get("set-aside-rows", "/loads/{number}/set-aside-rows", "Rows of a load that could not be used"), s.setAsideRows)
	huma.Register(to, get(waitingOperation, "/loads/{number}/waiting.csv",
		"Rows that wait to be fixed, as CSV in the shape of their file"), s.mend)
	sse.Register(to, get(progressOperation, "/loads/progress", "How far the running load has come, as server-sent events"),
		map[string]any{"message": api.Progress{}}, s.progress)
	huma.Register(to, huma.Operation{OperationID: "undo", Method: http.MethodPost, Path: loadsPath + "/{number}/undo",
		Summary: "Undo the last load"}, s.undo)
	huma.Register(to, huma.Operation{OperationID: "redo", Method: http.MethodPost, Path: loadsPath + "/{number}/redo",
		Summary: "Bring the load that was undone last back, as long as nothing was loaded since"}, s.redo)
}

func get(id, path, summary string) huma.Operation {
	return huma.Operation{OperationID: id, Method: http.MethodGet, Path: api.BasePath + path, Summary: summary}
}

// Describe is the OpenAPI document, as JSON.
func Describe() ([]byte, error) {
	documented := humagin.New(newRouter(), apiConfig())
	(&server{metrics: &metrics{registry: prometheus.NewRegistry()}}).register(documented)
	return documented.OpenAPI().MarshalJSON()
}

// statusGone is the status in the log of a request whose client has gone.
const statusGone = 499

// answered wraps a body as a successful answer.
type answered[T any] struct{ Body T }

// failed turns an error into the answer that says so. What is nobody's fault but ours is logged, and its text
// stays here.
func (s *server) failed(ctx context.Context, err error) huma.StatusError {
	var request *request.Error
	var questions intake.Questions
	var stale *ingest.StaleError
	switch {
	case errors.As(err, &stale):
		s.Log.ErrorContext(ctx, "load not shown", "request_id", requestID(ctx), "load", stale.Load, "error", stale.Err)
		return huma.Error500InternalServerError(stale.Error())
	case errors.As(err, &questions):
		details := make([]error, len(questions))
		for i, q := range questions {
			about := api.ColumnQuestion{File: q.File, Column: q.Column, Asks: q.Asks, Answers: q.Answers}
			details[i] = &huma.ErrorDetail{Location: "query." + q.Word, Message: q.Error(), Value: about}
		}
		return huma.Error422UnprocessableEntity(err.Error(), details...)
	case errors.As(err, &request):
		return huma.Error422UnprocessableEntity(request.Error(), &huma.ErrorDetail{Location: "query." + request.Param,
			Value: request.Value, Message: request.Reason})
	case errors.Is(err, ingest.ErrBadFile), errors.Is(err, store.ErrNoName):
		return huma.Error422UnprocessableEntity(err.Error())
	case errors.Is(err, store.ErrNotKept):
		return huma.Error404NotFound(err.Error())
	case errors.Is(err, store.ErrLoadRunning), errors.Is(err, store.ErrTaken):
		return huma.Error409Conflict(err.Error())
	case store.Unavailable(err):
		s.Log.ErrorContext(ctx, "the database does not answer", "request_id", requestID(ctx), "error", err)
		return huma.Error503ServiceUnavailable("PostgreSQL does not answer: what needs the records themselves has to wait until it is back. Questions are answered from memory meanwhile")
	case store.TookTooLong(err):
		return huma.Error504GatewayTimeout(errTooLong.Error())
	case errors.Is(err, errTooLong):
		return huma.Error504GatewayTimeout(err.Error())
	case errors.Is(err, context.Canceled), errors.As(err, new(*work.Stop)):
		return huma.NewError(statusGone, "the request was cancelled")
	}
	fault := []any{"request_id", requestID(ctx), "error", err}
	var panicked *work.Fault
	if errors.As(err, &panicked) {
		fault = append(fault, "stack", string(panicked.Stack))
	}
	s.Log.ErrorContext(ctx, "request failed", fault...)
	return huma.Error500InternalServerError("the service failed; its log says why, under request " + requestID(ctx))
}
