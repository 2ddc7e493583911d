package intake

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/recognise"
	"prairiedusk/internal/source"
)

// A Holiday is a row of a table of holidays.
type Holiday struct {
	Row      int
	Of       string // country, region or site; empty where the table does not say
	Day      day.Day
	Name     string
	IsCalled string // what the table says that it is: "Public holiday", "Observance"
}

// The headings of tables of holidays, in their plain form and the order in which they are looked for. No other columns than these make
// a table of holidays one.
var (
	holidayDates = []string{"date", "holiday date", "datum", "fecha", "data", "day", "tag", "dia", "giorno", "dag", "dzien"}
	holidayNames = []string{"holiday", "holiday name", "name", "feiertag", "bezeichnung", "nombre", "nome", "nom", "naam", "nazwa",
		"title", "description", "event", "local name"}
	holidayPlaces = []string{"calendar", "site", "region", "state", "country", "country name", "country code", "land", "pays", "pais",
		"paese", "kraj", "location"}
	holidaySorts = []string{"type", "kind", "category", "art", "tipo"}
	besideThem   = []string{"weekday", "day of week", "wochentag", "year", "jahr", "note", "notes", "comment", "fixed", "global",
		"counties", "observed"}
)

// mostHolidays bounds the rows of a table of holidays.
const mostHolidays = 100_000

// ReadHolidays reads a table of holidays: a date and a name, and perhaps whose they are. It is false for any other table. A row that
// cannot be used refuses the file, since a calendar that lacks a day counts wrong.
func ReadHolidays(ctx context.Context, file string, table source.Table, reading Reading) (holidays []Holiday, is bool, err error) {
	rows, err := table.Rows()
	if err != nil {
		return nil, false, nil // whoever reads it as another table says why
	}
	defer rows.Close()
	var row source.Row
	if err := rows.Next(&row); err != nil {
		return nil, false, nil // likewise
	}
	at := func(headings []string) int {
		for _, heading := range headings {
			if i := slices.IndexFunc(row.Cells, func(title string) bool { return plainHeading(title) == heading }); i >= 0 {
				return i
			}
		}
		return -1
	}
	date, name, place, sort := at(holidayDates), at(holidayNames), at(holidayPlaces), at(holidaySorts)
	known := slices.Concat(holidayDates, holidayNames, holidayPlaces, holidaySorts, besideThem)
	foreign := slices.ContainsFunc(row.Cells, func(title string) bool {
		plain := plainHeading(title)
		return plain != "" && !slices.Contains(known, plain)
	})
	ofOurs := at([]string{"kind"}) >= 0 && at([]string{"day"}) >= 0 // a calendar, whose rows are not all holidays
	if date < 0 || name < 0 || foreign || ofOurs {
		return nil, false, nil
	}
	heading := row.Cells[date]
	dates := recognise.NewDates()
	var written []string
	for {
		if ctx.Err() != nil {
			return nil, true, ctx.Err()
		}
		err := rows.Next(&row)
		var fault *source.RowError
		switch {
		case errors.Is(err, io.EOF):
			err = tellDays(file, holidays, datesOf{heading, written, dates.Verdict()}, reading)
			return holidays, true, err
		case errors.As(err, &fault):
			return nil, true, &FileError{file, fault.At.Number(), fault.Err}
		case err != nil:
			return nil, true, &FileError{File: file, Err: err}
		}
		cell := func(i int) string {
			if i < 0 || i >= len(row.Cells) {
				return ""
			}
			return withoutUnseen(strings.TrimSpace(row.Cells[i]), false)
		}
		if filled(row.Cells) == 0 {
			continue
		}
		if len(holidays) == mostHolidays {
			return nil, true, &FileError{file, row.At.Number(), fmt.Errorf("more than %d holidays; is this the right file?", mostHolidays)}
		}
		number := row.At.Number()
		dates.Look(number, strings.Clone(cell(date)))
		written = append(written, strings.Clone(cell(date)))
		holidays = append(holidays, Holiday{Row: number, Of: strings.Clone(cell(place)), Name: strings.Clone(cell(name)),
			IsCalled: strings.Clone(cell(sort))})
	}
}

// datesOf are the cells of a column of dates, and what they look like.
type datesOf struct {
	heading string
	written []string
	verdict recognise.DateVerdict
}

// tellDays reads the dates of holidays in the form that fits all of them, or asks.
func tellDays(file string, holidays []Holiday, dates datesOf, reading Reading) error {
	v := dates.verdict
	if len(holidays) == 0 {
		return &FileError{File: file, Err: errors.New("the table of holidays has no row; want at least one day")}
	}
	form := reading.Dates
	if v.Answer == recognise.Sure {
		form = &v.Forms[0]
	}
	if form == nil && v.Answer == recognise.Ask {
		q := &Question{Word: "dates", Column: dates.heading, Asks: v.Example + ", and no cell of the column tells which"}
		for _, f := range v.Forms {
			q.Answers = append(q.Answers, f.String())
		}
		return &FileError{File: file, Err: Questions{q}}
	}
	for i := range holidays {
		text := dates.written[i]
		if form != nil {
			if iso, is := form.ISO(text, true); is {
				text = iso
			}
		}
		d, err := day.Parse(text[:min(len(text), len("2026-01-01"))])
		if err != nil {
			return &FileError{file, holidays[i].Row, fmt.Errorf("%q in column %q: %w", dates.written[i], dates.heading, err)}
		}
		holidays[i].Day = d
	}
	return nil
}
