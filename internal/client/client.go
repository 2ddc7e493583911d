// Package client calls the service: typed requests and answers, for the command line and for tests.
package client

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/api"
)

// A Client talks to one service. It is safe for concurrent use.
type Client struct {
	address string
	token   string
	http    *http.Client
	// Notice is told what the service says that whoever reads its answer has to know: that it answers from memory alone, say. Nil
	// tells nobody.
	Notice func(text string)
	// Input is what a load reads under the path StandardInput.
	Input io.Reader
	// AsOf are the words that ask for the book as it was: as_of_load, or as_known_on. Empty asks of it as it stands.
	AsOf url.Values
	// Sample says that of large files of lines only the first rows are sent.
	Sample bool
}

// New makes a client for the service at an address such as http://127.0.0.1:8765, which knows it by a token.
func New(address, token string) *Client {
	return &Client{address: strings.TrimSuffix(address, "/"), token: token, http: &http.Client{}, Input: os.Stdin}
}

// Address is that of the service.
func (c *Client) Address() string { return c.address }

// ErrNoService is returned, wrapped, where nothing answers at the address.
var ErrNoService = errors.New("no service answers")

// A Problem is what the service says when it refuses a request or fails (RFC 9457).
type Problem struct {
	Status int    `json:"status"`
	Title  string `json:"title"`
	Detail string `json:"detail"`
	Errors []struct {
		Location string          `json:"location"`
		Message  string          `json:"message"`
		Value    json.RawMessage `json:"value"`
	} `json:"errors"`
}

// A FileQuestion is what a file leaves open: Word is the word of the answer.
type FileQuestion struct {
	Word string
	api.ColumnQuestion
}

// Questions are what the files of a load leave open.
func (p *Problem) Questions() (questions []FileQuestion) {
	for _, e := range p.Errors {
		q := FileQuestion{Word: strings.TrimPrefix(e.Location, "query.")}
		if json.Unmarshal(e.Value, &q.ColumnQuestion) == nil && len(q.Answers) > 0 {
			questions = append(questions, q)
		}
	}
	return questions
}

func (p *Problem) Error() string {
	text := p.Detail
	if text == "" {
		text = p.Title
	}
	for _, e := range p.Errors {
		// Whatever the detail has said already is not said again.
		if !strings.Contains(text, e.Message) {
			text += fmt.Sprintf("; %s: %s", strings.TrimPrefix(e.Location, "query."), e.Message)
		}
	}
	return text
}

// values leaves out empty words.
func values(words map[string]string) url.Values {
	v := url.Values{}
	for name, value := range words {
		if value != "" {
			v.Set(name, value)
		}
	}
	return v
}

// Book describes the order book.
func (c *Client) Book(ctx context.Context) (*api.Book, error) {
	return call[api.Book](ctx, c, on(http.MethodGet, "/book"))
}

// NewKey makes a key that lets one browser in, once and within minutes.
func (c *Client) NewKey(ctx context.Context) (string, error) {
	key, err := call[api.EntryKey](ctx, c, on(http.MethodPost, "/access/keys"))
	if err != nil {
		return "", err
	}
	return key.Key, nil
}

// NewToken makes another token, which is in the data folder then, and ends all sessions of browsers.
func (c *Client) NewToken(ctx context.Context) error {
	response, err := send(ctx, c, on(http.MethodPost, "/access/new-key"))
	if err != nil {
		return err
	}
	return response.Body.Close()
}

// SaveSettings sets the two ends of the book; an empty one follows from the records.
func (c *Client) SaveSettings(ctx context.Context, ends api.Settings) (*api.Book, error) {
	return sendJSON[api.Book](ctx, c, on(http.MethodPut, "/book/settings"), ends)
}

// Values lists values of a field that hold a text, in capitals or not.
func (c *Client) Values(ctx context.Context, field, like string) (*api.Values, error) {
	return call[api.Values](ctx, c, on(http.MethodGet, "/fields/"+url.PathEscape(field)+"/values").with(values(map[string]string{"like": like})))
}

// file writes what the service sends.
func (c *Client) file(ctx context.Context, path string, words url.Values, to io.Writer) error {
	return c.fileOf(ctx, on(http.MethodGet, path).with(words), to)
}

func (c *Client) fileOf(ctx context.Context, r request, to io.Writer) error {
	response, err := send(ctx, c, r)
	if err != nil {
		return err
	}
	defer response.Body.Close()
	_, err = io.Copy(to, response.Body)
	return err
}

// TakeAway writes a whole list as a file: csv, xlsx, ndjson, json or parquet. Columns of people's contacts can be left
// out.
func (c *Client) TakeAway(ctx context.Context, words url.Values, format string, withoutContacts bool, to io.Writer) error {
	words = maps.Clone(words)
	words.Del("offset")
	words.Del("limit")
	words.Set("format", format)
	if withoutContacts {
		words.Set("without_contacts", "true")
	}
	return c.file(ctx, "/orders-file", words, to)
}

// Order is one order with the length of a leg, day by day.
func (c *Client) Order(ctx context.Context, number string, leg url.Values) (*api.Order, error) {
	return call[api.Order](ctx, c, on(http.MethodGet, "/orders/"+url.PathEscape(number)).with(leg))
}

// Calendars lists the working calendars.
func (c *Client) Calendars(ctx context.Context) (*api.Calendars, error) {
	return call[api.Calendars](ctx, c, on(http.MethodGet, "/calendars"))
}

// Calendar is a working calendar over a year; 0 is the year of the data date.
func (c *Client) Calendar(ctx context.Context, name string, year int) (*api.Calendar, error) {
	v := url.Values{}
	if year != 0 {
		v.Set("year", strconv.Itoa(year))
	}
	return call[api.Calendar](ctx, c, on(http.MethodGet, "/calendars/"+url.PathEscape(name)).with(v))
}

// CalendarFile is a calendar as a file, in the form ics or csv.
func (c *Client) CalendarFile(ctx context.Context, name, form string) ([]byte, error) {
	return download(ctx, c, "/calendars/"+url.PathEscape(name)+"/file", url.Values{"form": {form}})
}

// CompareCalendars lists the days of a year on which two calendars differ.
func (c *Client) CompareCalendars(ctx context.Context, one, other string, year int) (*api.CalendarComparison, error) {
	v := url.Values{"with": {other}}
	if year != 0 {
		v.Set("year", strconv.Itoa(year))
	}
	return call[api.CalendarComparison](ctx, c, on(http.MethodGet, "/calendars/"+url.PathEscape(one)+"/differences").with(v))
}

// CalendarEffect says what a calendar would do to the lengths of a leg, before it is saved.
func (c *Client) CalendarEffect(ctx context.Context, name string, def api.CalendarDefinition, leg url.Values) (*api.CalendarEffect, error) {
	return sendJSON[api.CalendarEffect](ctx, c, on(http.MethodPost, "/calendars/"+url.PathEscape(name)+"/effect").with(leg), def)
}

// SaveCalendar brings in a calendar, in the place of the one of its name.
func (c *Client) SaveCalendar(ctx context.Context, name string, def api.CalendarDefinition) (*api.Calendar, error) {
	return sendJSON[api.Calendar](ctx, c, on(http.MethodPut, "/calendars/"+url.PathEscape(name)), def)
}

// A DaysQuestion asks about days alone: From and To, From and N, or Wanted and N; empty words take their defaults.
type DaysQuestion struct {
	Calendar, From, To, Wanted, N, In, Count, Roll, Zone string
}

// Days answers about days alone.
func (c *Client) Days(ctx context.Context, r DaysQuestion) (*api.DaysAnswer, error) {
	words := values(map[string]string{"calendar": r.Calendar, "from": r.From, "to": r.To,
		"wanted": r.Wanted, "n": r.N, "in": r.In, "count": r.Count, "roll": r.Roll, "zone": r.Zone})
	return call[api.DaysAnswer](ctx, c, on(http.MethodGet, "/days").with(words))
}

// Loads lists what was brought in, the last first.
func (c *Client) Loads(ctx context.Context) (*api.Loads, error) {
	return call[api.Loads](ctx, c, on(http.MethodGet, "/loads"))
}

// SetAside picks rows that were set aside; empty words pick all.
type SetAside struct {
	File, Column string
	Waiting      bool // not brought by a later load
}

// SetAsideRows lists the rows of a load that could not be used.
func (c *Client) SetAsideRows(ctx context.Context, load int64, f SetAside, offset, limit int) (*api.SetAsideRows, error) {
	v := url.Values{"file": {f.File}, "column": {f.Column}, "waiting": {strconv.FormatBool(f.Waiting)}, "offset": {strconv.Itoa(offset)},
		"limit": {strconv.Itoa(limit)}}
	return call[api.SetAsideRows](ctx, c, on(http.MethodGet, fmt.Sprintf("/loads/%d/set-aside-rows", load)).with(v))
}

// Undo takes the last load back.
func (c *Client) Undo(ctx context.Context, load int64) (*api.Loads, error) {
	return call[api.Loads](ctx, c, on(http.MethodPost, fmt.Sprintf("/loads/%d/undo", load)))
}

// Redo brings the load that was undone last back.
func (c *Client) Redo(ctx context.Context, load int64) (*api.Loads, error) {
	return call[api.Loads](ctx, c, on(http.MethodPost, fmt.Sprintf("/loads/%d/redo", load)))
}

// Waiting writes the rows of a load that wait to be fixed as CSV, in the shape of their file.
func (c *Client) Waiting(ctx context.Context, load int64, file string, to io.Writer) error {
	v := url.Values{}
	if file != "" {
		v.Set("file", file)
	}
	return c.file(ctx, fmt.Sprintf("/loads/%d/waiting.csv", load), v, to)
}

// download gives a file as it comes.
func download(ctx context.Context, c *Client, path string, query url.Values) ([]byte, error) {
	response, err := send(ctx, c, on(http.MethodGet, path).with(query))
	if err != nil {
		return nil, err
	}
	defer response.Body.Close()
	return io.ReadAll(response.Body)
}

// Progress reports how far the running load has come until the context ends.
func (c *Client) Progress(ctx context.Context, report func(api.Progress)) error {
	response, err := send(ctx, c, on(http.MethodGet, "/loads/progress"))
	if err != nil {
		return err
	}
	defer response.Body.Close()
	lines := bufio.NewScanner(response.Body)
	for lines.Scan() {
		data, isData := strings.CutPrefix(lines.Text(), "data:")
		if !isData {
			continue
		}
		var p api.Progress
		if err := json.Unmarshal([]byte(data), &p); err != nil {
			return err
		}
		report(p)
	}
	return lines.Err()
}

// A Reading says what files do not tell; empty words say nothing.
type Reading struct {
	Dates, Decimals string   // how they are read in columns that do not tell
	Meanings        []string // of columns: HEADING=MEANING
	Plans, Facts    []string // headings of columns whose days are plans, or facts, though some are still to come
	NotKnown        []string // cells that say that nothing is known; none where all others are meant as they stand
	Rows            string   // what rows are where order numbers are repeated: orders or lines
	Currency        string   // of amounts with a sign that several have, or with none
	CalendarOf      []string // whose published holidays are: NAME, or NAME IN THE FILE=NAME
	Observances     string   // what days are that a file of holidays calls so: left-out or days-off
	AcceptSetAside  bool     // the yes to many rows that are set aside
	Layout          string   // name of the layout to read by; empty for that of the headings, none for none
	Sheets          []string // of workbooks; all where empty
}

func (r Reading) values(words map[string]string) url.Values {
	query := values(map[string]string{"dates": r.Dates, "decimals": r.Decimals, "rows": r.Rows, "currency": r.Currency,
		"observances": r.Observances, "layout": r.Layout})
	for word, value := range words {
		query.Set(word, value)
	}
	query["map"], query["plan"], query["fact"], query["sheet"], query["calendar_of"] = r.Meanings, r.Plans, r.Facts, r.Sheets, r.CalendarOf
	if len(r.NotKnown) > 0 {
		query.Set("not_known", strings.Join(r.NotKnown, ","))
	}
	if r.AcceptSetAside {
		query.Set("accept_set_aside", "true")
	}
	return query
}

// Load sends files, read from their paths as they are sent: all are taken, or none.
func (c *Client) Load(ctx context.Context, paths []string) (*api.Load, error) {
	return c.LoadAs(ctx, paths, Reading{})
}

// LoadAs is Load with what the files do not tell.
func (c *Client) LoadAs(ctx context.Context, paths []string, reading Reading) (*api.Load, error) {
	return c.load(ctx, paths, reading.values(nil))
}

// Check does what LoadAs does, says what would become of the files, and changes nothing.
func (c *Client) Check(ctx context.Context, paths []string, reading Reading) (*api.Load, error) {
	return c.load(ctx, paths, reading.values(map[string]string{"check_only": "true"}))
}

func (c *Client) load(ctx context.Context, paths []string, query url.Values) (*api.Load, error) {
	paths, err := expand(paths) // before anything is sent
	if err != nil {
		return nil, err
	}
	read, write := io.Pipe()
	form := multipart.NewWriter(write)
	go func() { write.CloseWithError(c.writeFiles(form, paths)) }()
	defer read.Close()
	load := on(http.MethodPost, "/loads").with(query)
	load.content, load.kind = read, form.FormDataContentType()
	return call[api.Load](ctx, c, load)
}

// StandardInput is the path of what comes on standard input.
const StandardInput = "-"

// expand gives the files of folders in their place, by name; those that begin with a dot are not taken.
func expand(paths []string) (files []string, err error) {
	for _, path := range paths {
		if path == StandardInput {
			files = append(files, path)
			continue
		}
		before := len(files)
		err := filepath.WalkDir(path, func(file string, entry fs.DirEntry, err error) error {
			switch {
			case err != nil:
				return err
			case file != path && strings.HasPrefix(entry.Name(), ".") && entry.IsDir():
				return filepath.SkipDir
			case !entry.IsDir() && (file == path || !strings.HasPrefix(entry.Name(), ".")):
				files = append(files, file)
			}
			return nil
		})
		if err != nil {
			return nil, err
		}
		if len(files) == before {
			return nil, fmt.Errorf("%s is a folder without files", path)
		}
	}
	return files, nil
}

func (c *Client) writeFiles(form *multipart.Writer, paths []string) error {
	for _, path := range paths {
		if err := c.writeFile(form, path); err != nil {
			return err
		}
	}
	return form.Close()
}

func (c *Client) writeFile(form *multipart.Writer, path string) error {
	if path == StandardInput {
		part, err := form.CreateFormFile("file", "standard input")
		if err == nil {
			_, err = io.Copy(part, c.Input)
		}
		return err
	}
	file, err := os.Open(path)
	if err != nil {
		return err
	}
	defer file.Close()
	part, err := form.CreateFormFile("file", filepath.Base(path))
	if err != nil {
		return err
	}
	if c.Sample && isLarge(path) {
		return writeSample(part, file)
	}
	_, err = io.Copy(part, file)
	return err
}

// Of a file of lines that is large, its beginning is a sample, with some slices of the rest: what is sorted by date tells its days of
// the month only further on.
const (
	largeBytes = 64 << 20
	startBytes = 512 << 10
	sliceCount = 8
	sliceBytes = 64 << 10
)

// writeSample writes whole lines of a large file.
func writeSample(to io.Writer, file *os.File) error {
	info, err := file.Stat()
	if err != nil {
		return err
	}
	for i := range int64(sliceCount) + 1 {
		buffer, at := make([]byte, sliceBytes), startBytes+(info.Size()-startBytes)*i/(sliceCount+1)
		if i == 0 {
			buffer, at = make([]byte, startBytes), 0
		}
		n, err := file.ReadAt(buffer, at)
		if err != nil && !errors.Is(err, io.EOF) {
			return err
		}
		first, last := 0, bytes.LastIndexByte(buffer[:n], '\n')+1
		if i > 0 {
			first = bytes.IndexByte(buffer[:n], '\n') + 1
		}
		if _, err := to.Write(buffer[first:max(first, last)]); err != nil {
			return err
		}
	}
	return nil
}

// Large are those of the files, and of the files of folders, that are so large that a sample says sooner what they are.
func (c *Client) Large(paths []string) (large []string) {
	paths, err := expand(paths)
	if err != nil {
		return nil // whoever sends them says why
	}
	for _, path := range paths {
		if isLarge(path) {
			large = append(large, path)
		}
	}
	return large
}

func isLarge(path string) bool {
	info, err := os.Stat(path)
	ofLines := slices.Contains([]string{".csv", ".tsv", ".txt", ".ndjson", ".jsonl"}, strings.ToLower(filepath.Ext(path)))
	return err == nil && ofLines && info.Size() > largeBytes
}

// A request is what is sent.
type request struct {
	method, path string
	query        url.Values
	content      io.Reader
	kind         string // of the content
}

// on is a request without words or content.
func on(method, path string) request { return request{method: method, path: path} }

// with is the request with the words of an address.
func (r request) with(query url.Values) request {
	r.query = query
	return r
}

// call sends a request and reads the answer, or the problem.
func call[T any](ctx context.Context, c *Client, r request) (*T, error) {
	response, err := send(ctx, c, r)
	if err != nil {
		return nil, err
	}
	defer response.Body.Close()
	answer := new(T)
	if err := json.NewDecoder(response.Body).Decode(answer); err != nil {
		return nil, fmt.Errorf("%s: the answer cannot be read: %w", c.address, err)
	}
	return answer, nil
}

// sendJSON sends a value as JSON.
func sendJSON[T any](ctx context.Context, c *Client, r request, value any) (*T, error) {
	r, err := r.withJSON(value)
	if err != nil {
		return nil, err
	}
	return call[T](ctx, c, r)
}

// withJSON is the request with a value as its content.
func (r request) withJSON(value any) (request, error) {
	text, err := json.Marshal(value)
	r.content, r.kind = bytes.NewReader(text), "application/json"
	return r, err
}

// send sends a request and gives the response, whose body the caller closes, or the problem.
func send(ctx context.Context, c *Client, r request) (*http.Response, error) {
	address := c.address + api.BasePath + r.path
	query := maps.Clone(r.query)
	if r.method == http.MethodGet || r.path == "/check" || r.path == "/checks/run" {
		for word, values := range c.AsOf {
			if query == nil {
				query = url.Values{}
			}
			query[word] = values
		}
	}
	if len(query) > 0 {
		address += "?" + query.Encode()
	}
	request, err := http.NewRequestWithContext(ctx, r.method, address, r.content)
	if err != nil {
		return nil, err
	}
	request.Header.Set("Authorization", "Bearer "+c.token)
	if r.kind != "" {
		request.Header.Set("Content-Type", r.kind)
	}
	response, err := c.http.Do(request)
	if err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, fmt.Errorf("%w at %s: %w", ErrNoService, c.address, err)
	}
	if notice := response.Header.Get(api.NoticeHeader); notice != "" && c.Notice != nil {
		c.Notice(notice)
	}
	if response.StatusCode >= 400 {
		defer response.Body.Close()
		problem := &Problem{Status: response.StatusCode, Title: response.Status}
		if err := json.NewDecoder(response.Body).Decode(problem); err != nil {
			return nil, fmt.Errorf("%s answered %s, and not in the form of this service", c.address, response.Status)
		}
		return nil, problem
	}
	return response, nil
}
