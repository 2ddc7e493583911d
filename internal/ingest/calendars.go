package ingest

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"prairiedusk/internal/calendarfile"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/intake"
	"prairiedusk/internal/source"
	"prairiedusk/internal/store"
)

// What days that a file calls observances are.
const (
	leftOut = "left-out"
	daysOff = "days-off"
)

// calendars brings the calendars of a table in: a calendar in a form of its own, or a table of holidays. It is false for any other table.
func (in *intaking) calendars(ctx context.Context, name, stem string, table source.Table) (counts store.RowCounts, are bool, err error) {
	var found []published
	switch form := calendarForm(table); form {
	case calendarfile.ICalendar:
		found, err = in.iCalendar(ctx, stem, table.File().Open())
	case calendarfile.CSV:
		var defs []calendar.Definition
		defs, err = calendarfile.ReadCSV(ctx, stem, table.File().Open())
		for _, def := range defs {
			found = append(found, published{Definition: def, named: true})
		}
	default:
		holidays, is, err := intake.ReadHolidays(ctx, name, table, in.reading)
		if err != nil || !is {
			return counts, is, err
		}
		found, err = in.holidays(stem, holidays)
		if err != nil {
			return counts, true, &intake.FileError{File: name, Err: err}
		}
	}
	if err != nil {
		return counts, true, &intake.FileError{File: name, Err: err}
	}
	var open intake.Questions
	for i := range found {
		of, q, err := in.whose(ctx, found[i], len(found) == 1)
		if err != nil {
			return counts, true, err
		}
		if q != nil {
			open = append(open, q)
		}
		found[i].Name = of
	}
	if len(open) > 0 {
		return counts, true, &intake.FileError{File: name, Err: open}
	}
	report := TableReport{File: name}
	for _, p := range found {
		change, err := in.load.AddCalendar(p.Definition)
		if errors.Is(err, store.ErrContradiction) {
			err = &intake.FileError{File: name, Err: err}
		}
		if err != nil {
			return counts, true, err
		}
		counts.New, counts.Changed, counts.Same = counts.New+change.New, counts.Changed+change.Changed, counts.Same+change.Same
		report.Notes = append(report.Notes, p.words()...)
	}
	in.tables = append(in.tables, report)
	return counts, true, nil
}

// A published calendar is one as its file has it.
type published struct {
	calendar.Definition
	named      bool     // its name is meant as that of a calendar
	told       bool     // the file says whose it is
	left       []string // observances
	categories []string
}

// words say what a calendar holds and whose it is.
func (p published) words() []string {
	text := fmt.Sprintf("%s: %s", p.Name, numfmt.Counted(len(p.Holidays), "holiday"))
	if n := len(p.Holidays); n > 0 {
		first, last := p.Holidays[0].Day, p.Holidays[0].Day
		for _, h := range p.Holidays {
			first, last = min(first, h.Day), max(last, h.Day)
		}
		text += fmt.Sprintf(" from %v to %v", first, last)
	}
	notes := []string{text}
	if len(p.categories) > 0 {
		notes = append(notes, fmt.Sprintf("%s: its days of the categories %s count as days off", p.Name, strings.Join(p.categories, ", ")))
	}
	if len(p.left) > 0 {
		notes = append(notes, fmt.Sprintf("%s: left out as observances: %s", p.Name, strings.Join(p.left, ", ")))
	}
	return notes
}

func (in *intaking) iCalendar(ctx context.Context, stem string, content io.Reader) ([]published, error) {
	read, err := calendarfile.ReadICalendar(ctx, stem, content, in.how.Observances == daysOff)
	if err != nil {
		return nil, err
	}
	if err := in.askObservances(read.Observances); err != nil {
		return nil, err
	}
	p := published{Definition: read.Definition, named: read.Named != calendarfile.ByTitle, categories: read.Categories}
	if in.how.Observances == leftOut {
		p.left = read.Observances
	}
	return []published{p}, nil
}

// askObservances asks whether days are off that a file calls observances.
func (in *intaking) askObservances(names []string) error {
	if len(names) == 0 || in.how.Observances != "" {
		return nil
	}
	const most = 10
	names = slices.Compact(slices.Sorted(slices.Values(names)))
	listed := strings.Join(names[:min(most, len(names))], ", ")
	if len(names) > most {
		listed += fmt.Sprintf(" and %d more", len(names)-most)
	}
	return intake.Questions{{Word: "observances", Asks: fmt.Sprintf("are these days off, which the file calls observances: %s?", listed),
		Answers: []string{leftOut, daysOff}}}
}

// holidays are the calendars of a table of holidays, by whose they are.
func (in *intaking) holidays(stem string, rows []intake.Holiday) (found []published, err error) {
	var observances []string
	by := map[string]int{}
	for _, row := range rows {
		key := strings.ToLower(row.Of)
		i, known := by[key]
		if !known {
			i = len(found)
			by[key] = i
			found = append(found, published{Definition: calendar.Definition{Name: cmp.Or(row.Of, stem)}, told: row.Of != ""})
		}
		p := &found[i]
		if calendarfile.IsObservance(row.IsCalled) || calendarfile.IsObservance(row.Name) {
			observances = append(observances, row.Name)
			if in.how.Observances != daysOff {
				p.left = append(p.left, row.Name)
				continue
			}
		}
		if !slices.ContainsFunc(p.Holidays, func(h calendar.NamedDay) bool { return h.Day == row.Day }) {
			p.Holidays = append(p.Holidays, calendar.NamedDay{Day: row.Day, Name: row.Name})
		}
	}
	return found, in.askObservances(observances)
}

// whose is the name of a calendar, which says whose orders it counts: as it was said, or the name of a site, a region or a country of
// the book. Where that cannot be told it is asked.
func (in *intaking) whose(ctx context.Context, p published, alone bool) (name string, q *intake.Question, err error) {
	for _, said := range in.how.CalendarOf {
		if from, to, has := strings.Cut(said, "="); has && strings.EqualFold(from, p.Name) {
			return to, nil, nil
		} else if !has && alone && !p.named {
			return said, nil, nil
		}
	}
	if p.named {
		return p.Name, nil, nil
	}
	names, err := in.load.Whereabouts(ctx)
	if err != nil {
		return "", nil, err
	}
	same := func(text string) int {
		return slices.IndexFunc(names, func(name string) bool { return strings.EqualFold(name, text) })
	}
	if p.told && len(names) == 0 {
		return p.Name, nil, nil // there are no orders yet
	}
	if i := same(p.Name); i >= 0 {
		return names[i], nil, nil
	}
	if region, err := language.ParseRegion(p.Name); err == nil && region.IsCountry() {
		if i := same(display.English.Regions().Name(region)); i >= 0 {
			return names[i], nil, nil
		}
	}
	// Those of which the name speaks come first: "Holidays in Ireland".
	speaks := func(name string) bool { return strings.Contains(strings.ToLower(p.Name), strings.ToLower(name)) }
	slices.SortStableFunc(names, func(a, b string) int { return cmp.Compare(rank(speaks(a)), rank(speaks(b))) })
	const most = 20
	answers := append(names[:min(most, len(names)):min(most, len(names))], calendarDefault)
	return p.Name, &intake.Question{Word: "calendar_of", Column: p.Name,
		Asks: "whose holidays are these: those of a site, a region or a country of the book, or the default of all?", Answers: answers}, nil
}

// calendarDefault is the calendar of orders that no other counts.
const calendarDefault = "default"

func rank(first bool) int {
	if first {
		return 0
	}
	return 1
}
