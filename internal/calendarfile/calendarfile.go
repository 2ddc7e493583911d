// Package calendarfile reads working calendars from files and writes them: as iCalendar (RFC 5545) and as CSV
// (RFC 4180). What is written is read as the same calendar.
package calendarfile

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"
	"unicode"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/escape"
)

// A Form is a form of files.
type Form string

const (
	ICalendar Form = "ics"
	CSV       Form = "csv"
)

// Write writes a calendar in a form.
func Write(w io.Writer, form Form, c *calendar.Calendar, stamp time.Time) error {
	if form == CSV {
		return WriteCSV(w, c)
	}
	return WriteICalendar(w, c, stamp)
}

// The columns of a CSV file, in any order: a row says of a day what it is for a calendar.
const (
	columnCalendar = "calendar"
	columnKind     = "kind"
	columnDay      = "day"
	columnUntil    = "until"
	columnName     = "name"
	columnWeekdays = "weekdays"
	columnHours    = "hours"
)

var columns = []string{columnCalendar, columnKind, columnDay, columnUntil, columnName, columnWeekdays, columnHours}

// What a row of a CSV file says.
const (
	kindWeek     = "week"            // the weekdays that are worked from the day on, or from the beginning
	kindHours    = "hours"           // the daily hours from the day on, or from the beginning
	kindHoliday  = "holiday"         // from the day up to and with until
	kindByRule   = "holiday by rule" // one of a rule without an end, which extends no coverage
	kindHalf     = "half day"        // worked in hours of its own
	kindWorking  = "working day"     // worked, whatever else holds
	kindCoverage = "coverage"        // the days for which holidays are known
)

var kinds = []string{kindWeek, kindHours, kindHoliday, kindByRule, kindHalf, kindWorking, kindCoverage}

// A RowError says what is wrong with a cell of a CSV file.
type RowError struct {
	Row    int // the line of the file on which the row begins; the header is line 1
	Column string
	Value  string
	Reason string
}

func (e *RowError) Error() string {
	return fmt.Sprintf("row %d, column %q, %q: %s", e.Row, e.Column, e.Value, e.Reason)
}

// IsCSV says whether the first bytes of a file are the header of a calendar as CSV: it has the columns kind and day.
func IsCSV(head []byte) bool {
	header, err := csv.NewReader(bytes.NewReader(head)).Read()
	if err != nil {
		return false
	}
	names := named(header)
	return slices.Contains(names, columnKind) && slices.Contains(names, columnDay)
}

// named turns headers into the names of columns.
func named(header []string) []string {
	names := make([]string, len(header))
	for i, title := range header {
		names[i] = strings.ToLower(strings.TrimSpace(strings.TrimPrefix(title, "\uFEFF")))
	}
	return names
}

// ReadCSV reads the calendars of a CSV file, in the order in which they come. A row without a calendar is of the one
// that bears the given name. A row that cannot be used refuses the file, since a calendar that lacks a day counts
// wrong; the error is then a *RowError.
func ReadCSV(ctx context.Context, name string, r io.Reader) ([]calendar.Definition, error) {
	text, err := readText(r)
	if err != nil {
		return nil, err
	}
	reader := csv.NewReader(bytes.NewReader(text))
	header, err := reader.Read()
	if err != nil {
		return nil, fmt.Errorf("the header cannot be read: %w", err)
	}
	names := named(header)
	for i, column := range names {
		if !slices.Contains(columns, column) {
			return nil, &RowError{1, header[i], header[i], "not a column of a calendar; want some of " + strings.Join(columns, ", ")}
		}
		if slices.Contains(names[:i], column) {
			return nil, &RowError{1, header[i], header[i], "the column stands twice; want it once"}
		}
	}
	var defs []*calendar.Definition
	by := map[string]*calendar.Definition{}
	var bounds bounds
	for {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		cells, err := reader.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, err
		}
		row := row{cells: map[string]string{}}
		row.number, _ = reader.FieldPos(0)
		for i, column := range names {
			row.cells[column] = oneLine(escape.Back(strings.TrimSpace(cells[i])))
		}
		of := row.cells[columnCalendar]
		if of == "" {
			of = name
		}
		def := by[strings.ToLower(of)]
		if def == nil {
			def = &calendar.Definition{Name: of}
			by[strings.ToLower(of)] = def
			defs = append(defs, def)
		}
		if err := row.add(def, &bounds); err != nil {
			return nil, err
		}
	}
	if len(defs) == 0 {
		return nil, errors.New("it has no row; want at least one day of a calendar")
	}
	var all []calendar.Definition
	for _, def := range defs {
		if _, err := calendar.New(*def); err != nil {
			return nil, err
		}
		all = append(all, *def)
	}
	return all, nil
}

// A row is one row of a CSV file, by column.
type row struct {
	number int
	cells  map[string]string
}

func (r row) wrong(column, reason string) error {
	return &RowError{r.number, column, r.cells[column], reason}
}

// add takes what the row says into a definition.
func (r row) add(def *calendar.Definition, bounds *bounds) error {
	kind := strings.ToLower(r.cells[columnKind])
	if !slices.Contains(kinds, kind) {
		return r.wrong(columnKind, "not a kind of row; want one of "+strings.Join(kinds, ", "))
	}
	from, err := day.Parse(r.cells[columnDay])
	if r.cells[columnDay] == "" && (kind == kindWeek || kind == kindHours) {
		from, err = day.First, nil
	}
	if err != nil {
		return r.wrong(columnDay, err.Error())
	}
	last := from
	if r.cells[columnUntil] != "" {
		if last, err = day.Parse(r.cells[columnUntil]); err != nil {
			return r.wrong(columnUntil, err.Error())
		}
		if last < from {
			return r.wrong(columnUntil, "it lies before the day; want the last day")
		}
		if kind == kindWeek || kind == kindHours {
			return r.wrong(columnUntil, "a week and daily hours hold until the next ones; want it empty")
		}
	}
	hours, err := calendar.ParseHours(r.cells[columnHours])
	if err != nil {
		return r.wrong(columnHours, err.Error())
	}
	if needs := kind == kindHours || kind == kindHalf; needs != (len(hours) > 0) {
		return r.wrong(columnHours, "daily hours and half days have hours such as 08:00-12:00 13:00-16:30, and nothing else has")
	}
	switch kind {
	case kindWeek:
		week, err := calendar.ParseWeek(r.cells[columnWeekdays])
		if err != nil {
			return r.wrong(columnWeekdays, err.Error())
		}
		def.Patterns = append(def.Patterns, calendar.Pattern{From: from, Week: week})
		return nil
	case kindHours:
		def.Hours = append(def.Hours, calendar.DailyHours{From: from, Hours: hours})
		return nil
	case kindCoverage:
		def.Coverage = day.Through(from, last)
		return nil
	}
	if err := bounds.name(int(last - from + 1)); err != nil {
		return r.wrong(columnDay, err.Error())
	}
	for d := from; d <= last; d++ {
		named := calendar.NamedDay{Day: d, Name: r.cells[columnName], Unbounded: kind == kindByRule}
		switch kind {
		case kindHalf:
			def.HalfDays = append(def.HalfDays, calendar.HalfDay{NamedDay: named, Hours: hours})
		case kindWorking:
			def.Extra = append(def.Extra, named)
		default:
			def.Holidays = append(def.Holidays, named)
		}
	}
	return nil
}

// WriteCSV writes a calendar so that ReadCSV reads the same one.
func WriteCSV(w io.Writer, c *calendar.Calendar) error {
	out, def := csv.NewWriter(w), c.Definition()
	var failed error
	write := func(kind string, from, until day.Day, name, weekdays, hours string) {
		failed = errors.Join(failed, out.Write([]string{escape.Out(def.Name), kind, from.String(), until.String(), escape.Out(name),
			weekdays, hours}))
	}
	failed = out.Write(columns)
	for _, p := range def.Patterns {
		write(kindWeek, p.From, 0, "", p.Week.String(), "")
	}
	for _, h := range def.Hours {
		write(kindHours, h.From, 0, "", "", h.Hours.String())
	}
	if c.CoverageStated() {
		write(kindCoverage, def.Coverage.From, def.Coverage.LastDay(), "", "", "")
	}
	for _, h := range def.Holidays {
		kind := kindHoliday
		if h.Unbounded {
			kind = kindByRule
		}
		write(kind, h.Day, 0, h.Name, "", "")
	}
	for _, h := range def.HalfDays {
		write(kindHalf, h.Day, 0, h.Name, "", h.Hours.String())
	}
	for _, e := range def.Extra {
		write(kindWorking, e.Day, 0, e.Name, "", "")
	}
	out.Flush()
	return errors.Join(failed, out.Error())
}

// oneLine is a text without control characters.
func oneLine(text string) string {
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, text))
}
