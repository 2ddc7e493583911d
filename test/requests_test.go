package test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
	"prairiedusk/internal/app"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/demo"
)

// A parameter and an operation are what the OpenAPI document says of them.
type parameter struct {
	Name, In string
	Required bool
	Schema   struct {
		Type  any
		Enum  []any
		Items *struct{ Type any }
	}
}

type operation struct {
	method, path string
	Parameters   []parameter
	RequestBody  *struct{ Content map[string]any }
}

func operations(t *testing.T) (all []operation) {
	text, err := app.DescribeAPI()
	require.NoError(t, err)
	var document struct {
		Paths map[string]map[string]operation
	}
	require.NoError(t, json.Unmarshal(text, &document))
	for path, methods := range document.Paths {
		for method, o := range methods {
			o.method, o.path = strings.ToUpper(method), path
			all = append(all, o)
		}
	}
	slices.SortFunc(all, func(a, b operation) int { return strings.Compare(a.path+a.method, b.path+b.method) })
	return all
}

// odd are texts that no parameter wants, or that lie at an edge of what it takes.
var odd = []string{"", " ", "0", "-1", "1", "9223372036854775807", "-9223372036854775808", "99999999999999999999", "1e308", "NaN", "-0",
	"\x00", "a\x00b", "\xff\xfe", "\xed\xa0\x80", "\x1b[2J", "\u202e", "🐝", "'; DROP TABLE orders; --", "%", "../../etc/passwd",
	"null", "true", "{}", "[", ",", ",,,", "a,b,c", strings.Repeat("x", 9000), strings.Repeat("(", 500), "2026-02-30", "1900-01-01",
	"2199-12-31", "2200-01-01", "0000-00-00", "2026-13", "2026-W54"}

// apt are words that some parameters take.
var apt = []string{"ordered", "shipped", "delivered", "promised", "paid", "invoiced-or-shipped", "first-shipped", "site", "customer",
	"place", "region", "month", "week(shipped)", "weekday", "month-of-year", "product", "working-days", "days", "hours", "working-hours",
	"months", "both-ends", "elapsed",
	"2026-07", "2026-Q3", "2026-07,2026-08", "2026-07-06/2026-08-02", "last-month", "this-year", "2027", "1900-01-01/2199-12-31",
	"site == \"Galway\"", "shipped != promised", "working_days_so_far(ordered, shipped) > 5", "lines.exists(l, l.units > 1)",
	"returns > 0",
	"mean", "median", "p90", "value", "units", "lines", "share", "immediate", "first", "first-within", "on", "off", "in", "out",
	"running", "counted", "negative", "cut-off", "latest:packed", "at-end", "some-time", "overdue", "late", "finished", "csv", "xlsx",
	"parquet", "json", "ndjson", "-length", "number, length", "amber: paid == null",
	"SD-102886", "Galway", "Muscat", "Slow", "2026-03-16", "5", "10", "2,5,10", "day", "year"}

// drawn is a value for a parameter: most often one that it may take.
func drawn(random *rand.Rand, p parameter) string {
	pick := func(from []string) string { return from[random.IntN(len(from))] }
	switch n := random.IntN(10); {
	case n < 3:
		return pick(odd)
	case len(p.Schema.Enum) > 0 && n < 9:
		return fmt.Sprint(p.Schema.Enum[random.IntN(len(p.Schema.Enum))])
	case p.Schema.Type == "integer" && n < 9:
		return pick([]string{"0", "1", "2", "5", "100", "10000"})
	case p.Schema.Type == "boolean":
		return pick([]string{"true", "false"})
	}
	return pick(apt)
}

// body is a body of JSON, more or less like what an operation takes.
func body(random *rand.Rand, depth int) any {
	switch n := random.IntN(8); {
	case n == 0 || depth == 0:
		return odd[random.IntN(len(odd))]
	case n == 1:
		return apt[random.IntN(len(apt))]
	case n == 2:
		return random.Int64() - random.Int64()
	case n == 3:
		return []any{body(random, depth-1), body(random, depth-1)}
	case n == 4:
		return nil
	}
	made := map[string]any{}
	for _, name := range []string{"name", "first_day", "data_date", "rules", "otherwise", "text", "where", "weeks", "from", "days",
		"holidays", "day", "hours", "half_days", "extra_days", "coverage_from", "coverage_to", "statuses", "final", "step", "page",
		"address", "words", "to"} {
		if random.IntN(3) == 0 {
			made[name] = body(random, depth-1)
		}
	}
	return made
}

// Whatever is asked of the service, it answers: with what was asked, or with a problem document that says whose fault it is;
// never by failing, and no GET changes anything.
func TestNoRequestMakesTheServiceFail(t *testing.T) {
	folder := t.TempDir()
	_, err := demo.Write(folder, demo.Options{Orders: 300, Seed: 1})
	require.NoError(t, err)
	s := startService(t, func(settings *app.Settings) {
		settings.Log = slog.New(slog.NewTextHandler(t.Output(), &slog.HandlerOptions{Level: slog.LevelError}))
	})
	files, err := filepath.Glob(filepath.Join(folder, "*.*"))
	require.NoError(t, err)
	_, err = s.LoadAs(t.Context(), slices.DeleteFunc(files, func(f string) bool {
		return strings.HasSuffix(f, ".json") ||
			strings.HasSuffix(f, ".md")
	}), client.Reading{AcceptSetAside: true})
	require.NoError(t, err)
	const each = 110
	seed := uint64(time.Now().UnixNano())
	if given, err := strconv.ParseUint(os.Getenv("PRAIRIE_DUSK_TEST_SEED"), 10, 64); err == nil {
		seed = given
	}
	t.Logf("seed %d", seed)
	random := rand.New(rand.NewPCG(seed, 1))
	patient := http.Client{Timeout: 20 * time.Second}
	state := func() string {
		var all []string
		for _, path := range []string{"/book", "/loads", "/labels", "/views", "/statuses", "/calendars", "/quality"} {
			status, answer := s.get(t, "/api/v1"+path)
			require.Equal(t, 200, status, path)
			text, err := json.Marshal(answer)
			require.NoError(t, err)
			all = append(all, string(text))
		}
		return strings.Join(all, "\n")
	}
	asked, refused := 0, 0
	send := func(o operation) {
		path, query := o.path, url.Values{}
		for _, p := range o.Parameters {
			switch {
			case p.In == "path":
				path = strings.ReplaceAll(path, "{"+p.Name+"}", url.PathEscape(drawn(random, p)))
			case p.Required || random.IntN(1+len(o.Parameters)) < 3:
				query.Add(p.Name, drawn(random, p))
			}
		}
		var content io.Reader
		kind := ""
		if o.RequestBody != nil {
			text, err := json.Marshal(body(random, 3))
			require.NoError(t, err)
			content, kind = bytes.NewReader(text), "application/json"
			if _, form := o.RequestBody.Content["multipart/form-data"]; form {
				var parts bytes.Buffer
				w := multipart.NewWriter(&parts)
				part, err := w.CreateFormFile("files", odd[random.IntN(len(odd))])
				require.NoError(t, err)
				_, _ = io.WriteString(part, strings.Join([]string{apt[random.IntN(len(apt))], odd[random.IntN(len(odd))],
					apt[random.IntN(len(apt))]}, []string{",", ";", "\n"}[random.IntN(3)]))
				require.NoError(t, w.Close())
				content, kind = &parts, w.FormDataContentType()
			}
		}
		address := s.address + path + "?" + query.Encode()
		request, err := http.NewRequestWithContext(t.Context(), o.method, address, content)
		require.NoError(t, err)
		request.Header.Set("Authorization", "Bearer "+s.token)
		if kind != "" {
			request.Header.Set("Content-Type", kind)
		}
		response, err := patient.Do(request)
		require.NoErrorf(t, err, "%s %s", o.method, address)
		defer response.Body.Close()
		text, err := io.ReadAll(response.Body)
		require.NoErrorf(t, err, "%s %s", o.method, address)
		asked++
		if response.StatusCode < 400 {
			return
		}
		refused++
		var problem struct {
			Status int
			Title  string
			Detail string
		}
		says := response.Header.Get("Content-Type")
		if !assert.Lessf(t, response.StatusCode, 500, "%s %s: %s", o.method, address, text) ||
			!assert.Contains(t, says, "application/problem+json", "%s %s: %s", o.method, address, text) {
			return
		}
		require.NoErrorf(t, json.Unmarshal(text, &problem), "%s %s: %s", o.method, address, text)
		assert.Equalf(t, response.StatusCode, problem.Status, "%s %s: %s", o.method, address, text)
		assert.NotEmptyf(t, problem.Title, "%s %s", o.method, address)
	}
	before := state()
	for _, o := range operations(t) {
		if o.method == http.MethodGet && !strings.HasSuffix(o.path, "/progress") { // which goes on for as long as somebody listens
			for range each {
				send(o)
			}
		}
	}
	assert.Equal(t, before, state(), "no GET changes anything")
	for _, o := range operations(t) {
		if o.method != http.MethodGet && !t.Failed() {
			for range each / 2 {
				send(o)
				s.token, err = app.Token(s.folder) // one of them makes another
				require.NoError(t, err)
			}
		}
	}
	state()
	assert.Greater(t, asked, 2500)
	assert.Greater(t, asked-refused, asked/5, "a good part is answered")
	t.Log(asked, "requests, of which", refused, "were refused")
}

// No question asks for more than anybody reads, whatever it asks; the refusal says what to change.
func TestAnswersHaveBounds(t *testing.T) {
	s := startService(t)
	orders, statuses := "number,customer,ordered,requested,shipped\n", "order,status,at\n"
	for i := range 2500 {
		at := day.Of(2025, 1, 1) + day.Day(i%300)
		orders += fmt.Sprintf("N%d,C%d,%v,%v,%v\n", i, i, at, at+3, at+2)
		statuses += fmt.Sprintf("N%d,S%d,%v\n", i, i%120, at)
	}
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv", orders), write(t, "statuses.csv", statuses)})
	require.NoError(t, err)
	days := func(n int) string {
		var all []string
		for i := range n {
			all = append(all, (day.Of(2025, 1, 1) + day.Day(i)).String())
		}
		return strings.Join(all, ",")
	}
	many := ""
	for i := range 20 {
		many += url.QueryEscape(fmt.Sprintf(`,site as "%d"`, i))
	}
	for path, want := range map[string]string{
		"took?by=customer":                         "",
		"took?by=customer&format=csv":              "",
		"took?period=" + days(120):                 "",
		"took?period=" + days(121):                 "these are 121 periods, and at most 120",
		"took?by=customer&by=day&period=2025":      "",
		"took?by=customer&period=2025," + days(20): "",
		"took?by=customer&period=2025,2025,2025,2025,2025,2025,2025,2025,2025,2025,2025,2025,2025,2025,2025,2025,2025,2025": "period \"18 periods\": the answer would hold 216,",
		"took?by=customer,customer":              "named twice",
		"open?by=customer":                       "",
		"open?by=customer&each=week&period=2025": "the answer would hold ",
		"status/latest?by=customer":              "by \"customer\": the answer would hold 242,000 numbers, and one holds at most 200,000",
		"status/times?by=customer":               "one holds at most 200,000",
		"immediate?by=customer":                  "",
		"immediate?by=customer&period=2025,2025,2025,2025,2025,2025,2025,2025,2025,2025": "one holds at most 200,000",
		"crosstab?rows=customer&columns=day":                                             "one holds at most 200,000",
		"orders?limit=10000":                                                             "",
		"orders?limit=10000&columns=number" + many:                                       "10,000 rows of 21 columns",
		"orders?offset=9223372036854775807":                                              "expected number <= 1e+09",
		"status/periods?offset=9223372036854775807":                                      "expected number <= 1e+09",
		"open?timeline=true&offset=9223372036854775807":                                  "expected number <= 1e+09",
		"immediate/customers?offset=9223372036854775807":                                 "expected number <= 1e+09",
		"took?over=NaN":   "want a number such as",
		"took?over=1e300": "expected number <= 1",
		"orders?behind=" + url.QueryEscape("open?list=at-end&youngest=-Inf"): "youngest",
	} {
		code, body := s.get(t, "/api/v1/"+path)
		if want == "" {
			assert.Equal(t, http.StatusOK, code, "%.60s: %.300s", path, fmt.Sprint(body))
			continue
		}
		assert.Equal(t, http.StatusUnprocessableEntity, code, "%.60s", path)
		assert.Contains(t, fmt.Sprintf("%.600s", fmt.Sprint(body)), want, "%.60s", path)
	}
	// Names that people give hold nothing that nobody sees.
	for _, name := range []string{"a\x1b[2J", "a\u202eb", "a\u009bb"} {
		_, err = s.SaveView(t.Context(), name, api.ViewContent{Address: "/open"}, false)
		assert.ErrorContains(t, err, "a name has no control characters")
		_, err = s.SaveLabel(t.Context(), "pace", api.LabelDefinition{Rules: []api.LabelRule{{Where: "shipped == null", Text: name}}},
			false)
		assert.ErrorContains(t, err, "a name has no control characters")
	}
	code, body := s.get(t, "/api/v1/open?by=customer")
	assert.Equal(t, http.StatusOK, code)
	part := body["parts"].([]any)[0].(map[string]any)
	table := part["tables"].([]any)[0].(map[string]any)
	assert.Len(t, table["rows"], 2000)
	assert.EqualValues(t, 2500, table["all"])
}
