package server

import (
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"net/http"
	"path"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/danielgtaylor/huma/v2/sse"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/statuses"
	"prairiedusk/internal/ingest"
	"prairiedusk/internal/intake"
	"prairiedusk/internal/recognise"
	"prairiedusk/internal/record"
	"prairiedusk/internal/store"
)

// uploadIdleTimeout is how long a load waits for the next bytes of its files.
const uploadIdleTimeout = time.Minute

// registerLoad adds the operation and, only then, its body to the document: an operation that has one when it
// is added gets it read into memory.
func (s *server) registerLoad(to huma.API) {
	huma.Register(to, huma.Operation{
		OperationID: "load", Method: http.MethodPost, Path: loadsPath,
		Summary:     "Bring files in: all of them, or nothing",
		Description: "Tables as CSV, XLSX, JSON, NDJSON or Parquet, working calendars as iCalendar (RFC 5545), packed or not, one part a file, in the order in which they are to be taken. Rows that cannot be used are set aside.",
	}, s.load)
	to.OpenAPI().Paths[loadsPath].Post.RequestBody = &huma.RequestBody{Required: true,
		Content: map[string]*huma.MediaType{"multipart/form-data": {
			Schema: &huma.Schema{Type: huma.TypeObject, Required: []string{"file"}, Properties: map[string]*huma.Schema{
				"file": {Type: huma.TypeArray, Items: &huma.Schema{Type: huma.TypeString, Format: "binary"}}}}}}}
}

const loadsPath = api.BasePath + "/loads"

// loadInput holds the body as a stream: a file can be larger than memory.
type loadInput struct {
	CheckOnly      bool     `query:"check_only" doc:"Do all of it, say what would become of it, and take it back."`
	Dates          string   `query:"dates" enum:"day-first,month-first,year-first" doc:"How dates such as 04/07/2026 are read in columns that do not tell."`
	Decimals       string   `query:"decimals" enum:"point,comma" doc:"Which mark stands before decimals in columns that do not tell, such as one of 1.234."`
	Map            []string `query:"map,explode" doc:"What a column means, by its heading: Auftrag=order. A name of your own keeps it as a column of your own; left-out does not read it."`
	Plans          []string `query:"plan,explode" doc:"Headings of columns whose days are plans."`
	Facts          []string `query:"fact,explode" doc:"Headings of columns whose days are facts, though some are still to come."`
	CalendarOf     []string `query:"calendar_of,explode" doc:"Whose published holidays are: name of a site, a region or a country, or default; NAME IN THE FILE=NAME where a file has several."`
	Observances    string   `query:"observances" enum:"left-out,days-off" doc:"What days are that a file of holidays calls observances."`
	Currency       string   `query:"currency" maxLength:"10" doc:"Currency of amounts with a sign that several have, such as $, or with none: a code of ISO 4217; none where it is not to be told."`
	Rows           string   `query:"rows" enum:"orders,lines,shipments,payments,status-records,order-lines" doc:"What the rows of a table are: orders or lines, where it has order numbers alone and some of them several times; another kind, where it has the keys of several."`
	NotKnown       []string `query:"not_known" doc:"Cells that say that nothing is known, such as NULL; with none among them, all others are meant as they stand."`
	AcceptSetAside bool     `query:"accept_set_aside" doc:"Load although more than 2 in 100 rows of a file, or those of a whole column, are set aside."`
	Layout         string   `query:"layout" maxLength:"100" doc:"Name of the layout by which the files are read; left out, it is found by the headings of each. None reads by no layout."`
	Sheets         []string `query:"sheet,explode" doc:"Names of the sheets that are read of workbooks; left out, all that can be seen."`

	body     io.Reader
	boundary string
}

// Resolve takes hold of the body before anything reads it.
func (in *loadInput) Resolve(ctx huma.Context) []error {
	c := humagin.Unwrap(ctx)
	kind, parameters, err := mime.ParseMediaType(c.GetHeader("Content-Type"))
	if err != nil || kind != "multipart/form-data" || parameters["boundary"] == "" {
		return []error{huma.Error415UnsupportedMediaType("want the files as multipart/form-data")}
	}
	control := http.NewResponseController(c.Writer)
	in.body, in.boundary = &patientReader{c.Request.Body, control}, parameters["boundary"]
	return nil
}

// A patientReader puts off the connection's deadlines as long as bytes keep coming.
type patientReader struct {
	body    io.Reader
	control *http.ResponseController
}

func (r *patientReader) Read(p []byte) (int, error) {
	until := time.Now().Add(uploadIdleTimeout)
	if err := errors.Join(r.control.SetReadDeadline(until), r.control.SetWriteDeadline(until.Add(writeTimeout))); err != nil {
		return 0, err
	}
	return r.body.Read(p)
}

// A limitedReader fails, rather than ending, at its limit: a file that is cut short must not look whole.
type limitedReader struct {
	body io.Reader
	left int64
}

var errTooLarge = errors.New("the files are larger than the service takes; raise --upload-limit")

func (r *limitedReader) Read(p []byte) (int, error) {
	if r.left <= 0 {
		return 0, errTooLarge
	}
	n, err := r.body.Read(p[:min(int64(len(p)), r.left)])
	r.left -= int64(n)
	return n, err
}

func (s *server) load(ctx context.Context, in *loadInput) (*answered[api.Load], error) {
	files, left := 0, &limitedReader{in.body, s.UploadLimit}
	parts := multipart.NewReader(left, in.boundary)
	how := ingest.How{CheckOnly: in.CheckOnly, Sheets: in.Sheets, AcceptSetAside: in.AcceptSetAside, CalendarOf: in.CalendarOf,
		Observances: in.Observances,
		Reading: intake.Reading{Meanings: map[string]string{}, Plans: in.Plans, Facts: in.Facts, NotKnown: in.NotKnown, Rows: in.Rows,
			Currency: in.Currency, Layout: in.Layout}}
	for _, text := range in.Map {
		at := strings.LastIndex(text, "=")
		if at <= 0 || at == len(text)-1 {
			return nil, s.failed(ctx, &request.Error{Param: "map", Value: text,
				Reason: "want HEADING=MEANING, such as Auftrag=order or \"Delivery Date=promised\""})
		}
		how.Reading.Meanings[text[:at]] = text[at+1:]
	}
	if form, given := recognise.ParseDateForm(in.Dates); given {
		how.Reading.Dates = &form
	}
	if form, given := recognise.ParseNumberForm(in.Decimals); given {
		how.Reading.Decimals = &form
	}
	loaded, err := s.Load(ctx, func() (string, io.Reader, error) {
		part, err := parts.NextPart()
		switch {
		case errors.Is(err, io.EOF):
			if files == 0 {
				return "", nil, fmt.Errorf("%w: no file was sent", ingest.ErrBadFile)
			}
			return "", nil, io.EOF
		case errors.Is(err, errTooLarge):
			return "", nil, fmt.Errorf("%w: %w", ingest.ErrBadFile, err)
		case err != nil:
			return "", nil, fmt.Errorf("%w: the files ended early: %v", ingest.ErrBadFile, err)
		}
		files++
		return fileName(part.FileName()), part, nil
	}, how)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	body := loadBody(loaded.Record)
	for _, r := range loaded.SetAside {
		body.Rows = append(body.Rows, setAsideBody(r))
	}
	for _, f := range loaded.Tables {
		body.SkippedRows += f.SkippedRows
		if f.Layout.Name != "" {
			body.Layouts = append(body.Layouts, api.UsedLayout{File: f.File, Layout: f.Layout.Name, New: f.Layout.New,
				Missing: f.Layout.Missing})
		}
		if in.CheckOnly && len(f.Preview.Rows) > 0 {
			body.FirstRows = append(body.FirstRows, api.FirstRows{File: f.File, Columns: f.Preview.Columns, Rows: f.Preview.Rows})
		}
		for _, text := range f.Notes {
			body.Notes = append(body.Notes, api.FileNote{File: f.File, Text: text})
		}
		for _, row := range f.Skipped {
			body.Skipped = append(body.Skipped, api.SkippedRow{File: f.File, Row: int64(row.Row), Why: row.Why, Text: row.Text})
		}
		for _, c := range f.Columns {
			body.Columns = append(body.Columns, api.FileColumn{File: f.File, Heading: c.Heading, Kind: c.Kind, Means: c.Means,
				Form: c.Form, Why: c.Why,
				Samples: append([]string{}, c.Samples...), Rows: c.Rows, Filled: c.Filled, NotUnderstood: c.NotUnderstood})
		}
	}
	body.MustAccept = loaded.MustAccept
	if in.CheckOnly {
		body.Bounds = s.boundsAfter(ctx, loaded.Record)
		body.Meanings = intake.Meanings()
	}
	if slices.ContainsFunc(body.Files, func(f api.LoadFile) bool { return strings.Contains(f.Kind, record.Statuses.Name) }) &&
		!in.CheckOnly {
		body.Statuses = statuses.Of(s.snapshot(ctx)).Unlisted()
	}
	return &answered[api.Load]{body}, nil
}

// boundsAfter says where the book would begin and end after a load that was only checked.
func (s *server) boundsAfter(ctx context.Context, r store.LoadRecord) *api.LoadBounds {
	b, settings := s.snapshot(ctx), s.Settings()
	now := b.Bounds()
	if b.Orders() == 0 {
		now = period.Bounds{}
	}
	then := now
	if r.Earliest != 0 && settings.FirstDay == 0 && (now.FirstDay == 0 || r.Earliest < now.FirstDay) {
		then.FirstDay = r.Earliest
	}
	if settings.DataDate == 0 {
		then.DataDate = max(now.DataDate, r.DataDay())
	}
	return &api.LoadBounds{FirstDay: then.FirstDay.String(), DataDate: then.DataDate.String(), FirstDayNow: now.FirstDay.String(),
		DataDateNow: now.DataDate.String()}
}

// fileName is the last part of a name that a client gives a file, as text that a record can hold.
func fileName(given string) string {
	return path.Base(strings.ReplaceAll(strings.ToValidUTF8(given, "\uFFFD"), "\x00", "\uFFFD"))
}

// How often a listener hears of a load: at least every beat, and sooner where there is news.
const (
	newsEvery = 200 * time.Millisecond
	beats     = 5 // of newsEvery
)

func (s *server) progress(ctx context.Context, _ *struct{}, send sse.Sender) {
	tick := time.NewTicker(newsEvery)
	defer tick.Stop()
	last := api.Progress{Phase: "?"}
	for beat := 0; ; beat++ {
		now := api.Progress{}
		if p := s.Progress(); p != nil {
			now = api.Progress{Running: true, File: p.File, Phase: string(p.Phase), Rows: p.Rows, SetAside: p.SetAside, Bytes: p.Bytes}
		}
		if now != last || beat%beats == 0 {
			if send.Data(now) != nil {
				return
			}
			last = now
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

func (s *server) loads(ctx context.Context, _ *struct{}) (*answered[api.Loads], error) {
	records, err := s.Records.Loads(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	body := api.Loads{Loads: []api.Load{}, Shown: s.Shown()}
	for _, r := range records {
		body.Loads = append(body.Loads, loadBody(r))
	}
	return &answered[api.Loads]{body}, nil
}

func loadBody(r store.LoadRecord) api.Load {
	body := api.Load{Number: r.ID, LoadedAt: r.LoadedAt.Format(time.RFC3339), LoadedBy: r.LoadedBy, DataDate: r.DataDay().String(),
		Redoable: r.Redoable, Files: []api.LoadFile{}, Rows: []api.SetAsideRow{}}
	if r.UndoneAt != nil {
		body.UndoneAt = r.UndoneAt.Format(time.RFC3339)
	}
	for _, f := range r.Files {
		body.SetAside += f.RowsSetAside
		body.Files = append(body.Files, api.LoadFile{Name: f.Name, Kind: f.Kind, SHA256: f.SHA256,
			New: f.RowsNew, Changed: f.RowsChanged, Same: f.RowsSame, SetAside: f.RowsSetAside, Waiting: f.Waiting,
			UnusedColumns: f.UnusedColumns})
	}
	return body
}

type setAsideInput struct {
	Number  int64  `path:"number" doc:"Of the load."`
	File    string `query:"file" doc:"Only rows of this file."`
	Column  string `query:"column" doc:"Only rows with a fault in this column."`
	Waiting bool   `query:"waiting" doc:"Only rows that no later load has brought."`
	Offset  int    `query:"offset" minimum:"0" maximum:"1000000000"`
	Limit   int    `query:"limit" minimum:"1" maximum:"2000" default:"100"`
}

func (s *server) setAsideRows(ctx context.Context, in *setAsideInput) (*answered[api.SetAsideRows], error) {
	rows, all, err := s.Records.SetAsideRows(ctx, in.Number, store.SetAsideFilter{File: in.File, Column: in.Column, Waiting: in.Waiting},
		in.Offset, in.Limit)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	if all == 0 {
		loads, err := s.Records.Loads(ctx)
		if err != nil {
			return nil, s.failed(ctx, err)
		}
		if !slices.ContainsFunc(loads, func(l store.LoadRecord) bool { return l.ID == in.Number }) {
			return nil, huma.Error404NotFound(fmt.Sprintf("there is no load %d", in.Number))
		}
	}
	body := api.SetAsideRows{All: all, Offset: in.Offset, Rows: []api.SetAsideRow{}}
	for _, r := range rows {
		body.Rows = append(body.Rows, setAsideBody(r))
	}
	return &answered[api.SetAsideRows]{body}, nil
}

func setAsideBody(r store.SetAsideRow) api.SetAsideRow {
	row := api.SetAsideRow{File: r.File, Kind: r.Kind, Row: r.RowNumber, Column: r.ColumnName, Value: r.Value, Reason: r.Reason, Raw: r.Raw}
	if r.ClearedBy != nil {
		row.ClearedBy = *r.ClearedBy
	}
	return row
}

type mendInput struct {
	Number int64  `path:"number" doc:"Of the load."`
	File   string `query:"file" doc:"Name of the file; may be left out where one file alone has rows that wait."`
}

// mend gives the rows that wait to be fixed in the shape of their file.
func (s *server) mend(ctx context.Context, in *mendInput) (*huma.StreamResponse, error) {
	file, err := s.Records.WaitingFile(ctx, in.Number, in.File)
	var which *store.FileChoiceError
	if errors.As(err, &which) {
		return nil, huma.Error422UnprocessableEntity(which.Error())
	}
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return &huma.StreamResponse{Body: func(to huma.Context) {
		to.SetHeader("Content-Type", "text/csv; charset=utf-8")
		s.send(ctx, to, func(out io.Writer) error { return s.Records.WriteWaiting(ctx, file, out) })
	}}, nil
}

type undoInput struct {
	Number int64 `path:"number" doc:"Of the last load that stands."`
}

func (s *server) undo(ctx context.Context, in *undoInput) (*answered[api.Loads], error) {
	return s.afterwards(ctx, s.Undo(ctx, in.Number))
}

type redoInput struct {
	Number int64 `path:"number" doc:"Of the load that was undone last."`
}

func (s *server) redo(ctx context.Context, in *redoInput) (*answered[api.Loads], error) {
	return s.afterwards(ctx, s.Redo(ctx, in.Number))
}

// afterwards lists the loads after an undoing or redoing that ended in some way.
func (s *server) afterwards(ctx context.Context, err error) (*answered[api.Loads], error) {
	if errors.Is(err, store.ErrNotLast) || errors.Is(err, store.ErrNotUndone) {
		return nil, huma.Error409Conflict(err.Error())
	}
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return s.loads(ctx, nil)
}
