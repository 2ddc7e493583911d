package server

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/calendarfile"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/present"
)

func (s *server) registerCalendars(to huma.API) {
	huma.Register(to, get("calendars", "/calendars", "The working calendars"), s.calendars)
	huma.Register(to, get("calendar", "/calendars/{name}", "A working calendar over a year"), s.calendar)
	huma.Register(to, get("calendar-file", "/calendars/{name}/file", "A working calendar as a file that can be loaded again"),
		s.calendarFile)
	huma.Register(to, get("calendar-differences", "/calendars/{name}/differences", "The days of a year on which two calendars differ"),
		s.calendarDifferences)
	huma.Register(to, huma.Operation{OperationID: "calendar-effect", Method: http.MethodPost,
		Path: api.BasePath + "/calendars/{name}/effect", Summary: "What a calendar would do to lengths, before it is saved"},
		s.calendarEffect)
	huma.Register(to, huma.Operation{OperationID: "save-calendar", Method: http.MethodPut, Path: api.BasePath + "/calendars/{name}",
		Summary: "Save a calendar, replacing the one of its name"}, s.saveCalendar)
}

func (s *server) calendars(ctx context.Context, _ *struct{}) (*answered[api.Calendars], error) {
	b := s.snapshot(ctx)
	var body api.Calendars
	orders := b.CountedBy()
	for _, c := range b.Calendars().All() {
		body.Calendars = append(body.Calendars, calendarBody(b, c, orders[c]))
	}
	return &answered[api.Calendars]{body}, nil
}

// calendarNames lists the calendars, the default first.
func calendarNames(b *book.Book) (names []string) {
	for _, c := range b.Calendars().All() {
		names = append(names, c.Name())
	}
	return names
}

// usual is the calendar that counts the most orders; of equal ones the first.
func usual(b *book.Book) *calendar.Calendar {
	orders, best := b.CountedBy(), b.Calendars().All()[0]
	for _, c := range b.Calendars().All() {
		if orders[c] > orders[best] {
			best = c
		}
	}
	return best
}

// NamedCalendarInput and YearInput are exported for huma, which looks for parameters in embedded structs only where they are.
type NamedCalendarInput struct {
	Name string `path:"name"`
}

// YearInput is a year of a calendar.
type YearInput struct {
	Year int `query:"year" minimum:"1900" maximum:"2199" doc:"Default the year of the data date."`
}

func (in YearInput) year(b *book.Book) int {
	year, _, _ := b.Bounds().DataDate.Date()
	return cmp.Or(in.Year, year)
}

func findCalendar(b *book.Book, name string) (*calendar.Calendar, error) {
	c, found := b.Calendars().Named(name)
	if !found {
		return nil, huma.Error404NotFound(fmt.Sprintf("there is no calendar %q; want one of %s, or load one from an iCalendar or CSV file", name, strings.Join(calendarNames(b), ", ")))
	}
	return c, nil
}

func (s *server) calendar(ctx context.Context, in *struct {
	NamedCalendarInput
	YearInput
}) (*answered[api.Calendar], error) {
	b := s.snapshot(ctx)
	c, err := findCalendar(b, in.Name)
	if err != nil {
		return nil, err
	}
	return &answered[api.Calendar]{wholeCalendar(b, c, in.year(b))}, nil
}

// wholeCalendar is a calendar with its definition and one year.
func wholeCalendar(b *book.Book, c *calendar.Calendar, year int) api.Calendar {
	body := calendarBody(b, c, b.CountedBy()[c])
	body.Year, body.Definition = yearBody(c, year), definitionBody(c)
	return body
}

func calendarBody(b *book.Book, c *calendar.Calendar, orders int) api.Calendar {
	def := c.Definition()
	body := api.Calendar{Name: c.Name(), Default: c == b.Calendars().All()[0], Holidays: len(def.Holidays), HalfDays: len(def.HalfDays),
		ExtraDays: len(def.Extra), Orders: orders, Sites: []string{}}
	body.Weeks = definitionBody(c).Weeks
	if known := c.Coverage(); len(known) > 0 {
		body.CoverageFrom, body.CoverageTo, body.Coverage = known[0].From.String(), known[len(known)-1].LastDay().String(),
			c.CoverageWords()
	}
	for code, site := range b.Values(book.Site) {
		if b.Locals(book.AtSite)[code].Calendar == c && site != "" {
			body.Sites = append(body.Sites, site)
		}
	}
	return body
}

func definitionBody(c *calendar.Calendar) *api.CalendarDefinition {
	def := c.Definition()
	body := &api.CalendarDefinition{Weeks: []api.Week{}, Hours: []api.DailyHours{}, Holidays: []api.DatedName{},
		HalfDays: []api.DatedName{}, ExtraDays: []api.DatedName{}}
	for _, p := range def.Patterns {
		body.Weeks = append(body.Weeks, api.Week{From: p.From.String(), Days: p.Week.String()})
	}
	for _, h := range def.Hours {
		body.Hours = append(body.Hours, api.DailyHours{From: h.From.String(), Hours: h.Hours.String()})
	}
	for _, h := range def.Holidays {
		body.Holidays = append(body.Holidays, api.DatedName{Day: h.Day.String(), Name: h.Name, ByRule: h.Unbounded})
	}
	for _, h := range def.HalfDays {
		body.HalfDays = append(body.HalfDays, api.DatedName{Day: h.Day.String(), Name: h.Name, Hours: h.Hours.String()})
	}
	for _, e := range def.Extra {
		body.ExtraDays = append(body.ExtraDays, api.DatedName{Day: e.Day.String(), Name: e.Name})
	}
	if c.CoverageStated() {
		body.CoverageFrom, body.CoverageTo = def.Coverage.From.String(), def.Coverage.LastDay().String()
	}
	return body
}

// readDefinition is the other way round. The error is a *request.Error that names the field.
func readDefinition(name string, body api.CalendarDefinition) (*calendar.Calendar, error) {
	def := calendar.Definition{Name: strings.TrimSpace(name)}
	if def.Name == "" {
		return nil, request.Invalid("name", name, "want a name")
	}
	var refused error
	parse := func(field, text string) day.Day {
		d, err := day.Parse(text)
		if err != nil && refused == nil {
			refused = request.Invalid(field, text, err.Error())
		}
		return d
	}
	hours := func(field, text string) calendar.Hours {
		h, err := calendar.ParseHours(text)
		if err != nil && refused == nil {
			refused = request.Invalid(field, text, err.Error())
		}
		return h
	}
	for _, w := range body.Weeks {
		week, err := calendar.ParseWeek(w.Days)
		if err != nil && refused == nil {
			refused = request.Invalid("weeks", w.Days, err.Error())
		}
		def.Patterns = append(def.Patterns, calendar.Pattern{From: parse("weeks", w.From), Week: week})
	}
	for _, h := range body.Hours {
		def.Hours = append(def.Hours, calendar.DailyHours{From: parse("hours", h.From), Hours: hours("hours", h.Hours)})
	}
	for _, h := range body.Holidays {
		def.Holidays = append(def.Holidays, calendar.NamedDay{Day: parse("holidays", h.Day), Name: h.Name, Unbounded: h.ByRule})
	}
	for _, h := range body.HalfDays {
		def.HalfDays = append(def.HalfDays, calendar.HalfDay{NamedDay: calendar.NamedDay{Day: parse("half_days", h.Day), Name: h.Name},
			Hours: hours("half_days", h.Hours)})
	}
	for _, e := range body.ExtraDays {
		def.Extra = append(def.Extra, calendar.NamedDay{Day: parse("extra_days", e.Day), Name: e.Name})
	}
	if body.CoverageFrom != "" || body.CoverageTo != "" {
		def.Coverage = day.Through(parse("coverage_from", body.CoverageFrom), parse("coverage_to", body.CoverageTo))
		if refused == nil && def.Coverage.Days() == 0 {
			refused = request.Invalid("coverage_to", body.CoverageTo, "it lies before the first day")
		}
	}
	if refused != nil {
		return nil, refused
	}
	c, err := calendar.New(def)
	if err != nil {
		return nil, request.Invalid("calendar", name, err.Error())
	}
	return c, nil
}

func dayBody(c *calendar.Calendar, d day.Day) api.CalendarDay {
	kind, name := c.Kind(d)
	return api.CalendarDay{Day: d.String(), Kind: kind.String(), Name: name, Hours: c.Hours(d).String(), Known: c.Known(d)}
}

func yearBody(c *calendar.Calendar, year int) *api.CalendarYear {
	first, last := day.Of(year, 1, 1), day.Of(year, 12, 31)
	body := &api.CalendarYear{
		Year: year, WorkingDays: c.BothEnds(first, last), Months: make([]int, 12),
		NamedDays: []api.NamedDay{}, Known: c.Covers(first, last),
	}
	for d := first; d <= last; d++ {
		if c.Works(d) {
			_, month, _ := d.Date()
			body.Months[month-1]++
		}
		on := dayBody(c, d)
		body.Days = append(body.Days, on)
		if kind, name := c.Kind(d); name != "" || kind == calendar.Holiday || kind == calendar.HalfWorking ||
			kind == calendar.ExtraWorking {
			body.NamedDays = append(body.NamedDays, api.NamedDay{Day: d.String(), Weekday: d.Weekday().String()[:3], Kind: on.Kind,
				Name: name})
		}
	}
	return body
}

// A file is an answer that is kept as one.
type file struct {
	Type        string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

func (s *server) calendarFile(ctx context.Context, in *struct {
	NamedCalendarInput
	Form string `query:"form" enum:"ics,csv" default:"ics" doc:"iCalendar (RFC 5545) or CSV."`
}) (*file, error) {
	c, err := findCalendar(s.snapshot(ctx), in.Name)
	if err != nil {
		return nil, err
	}
	var text bytes.Buffer
	if err := calendarfile.Write(&text, calendarfile.Form(in.Form), c, time.Now()); err != nil {
		return nil, s.failed(ctx, err)
	}
	kind := map[string]string{"ics": "text/calendar; charset=utf-8", "csv": "text/csv; charset=utf-8"}[in.Form]
	return &file{kind, `attachment; filename="calendar.` + in.Form + `"`, text.Bytes()}, nil
}

func (s *server) calendarDifferences(ctx context.Context, in *struct {
	NamedCalendarInput
	YearInput
	With string `query:"with" required:"true" doc:"The other calendar."`
}) (*answered[api.CalendarComparison], error) {
	b := s.snapshot(ctx)
	one, err := findCalendar(b, in.Name)
	if err != nil {
		return nil, err
	}
	other, err := findCalendar(b, in.With)
	if err != nil {
		return nil, err
	}
	year := in.year(b)
	first, last := day.Of(year, 1, 1), day.Of(year, 12, 31)
	body := api.CalendarComparison{
		Sentence: fmt.Sprintf("On which days of %d do the calendars %s and %s differ?", year, one.Name(), other.Name()),
		Year:     year, Working: [2]int{one.BothEnds(first, last), other.BothEnds(first, last)}, Days: []api.DifferentDay{},
	}
	for d := first; d <= last; d++ {
		x, y := dayBody(one, d), dayBody(other, d)
		half := func(day api.CalendarDay) bool { return day.Kind == calendar.HalfWorking.String() }
		switch {
		case one.Works(d) != other.Works(d), half(x) != half(y):
			body.Days = append(body.Days, api.DifferentDay{One: x, Other: y})
		case one.Works(d) && x.Hours != y.Hours:
			body.OtherHours++
		}
	}
	return &answered[api.CalendarComparison]{body}, nil
}

func (s *server) calendarEffect(ctx context.Context, in *struct {
	NamedCalendarInput
	YearInput
	api.Leg
	Body api.CalendarDefinition
}) (*answered[api.CalendarEffect], error) {
	b := s.snapshot(ctx)
	c, err := readDefinition(in.Name, in.Body)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	q, b, err := present.TookQuestion(b, &api.TookQuestion{Leg: in.Leg})
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	e := duration.Compare(b, b.WithCalendars(b.Calendars().With(c)), q)
	ticks := float64(q.Measure.Unit.Ticks())
	body := api.CalendarEffect{
		Sentence: fmt.Sprintf("What would this calendar %s do to the lengths from %s to %s, in %s, %s, over all orders?", c.Name(),
			q.Leg.From.Date(), q.Leg.To.Date(), q.Measure.Unit.Words(), q.Measure.RuleWords()),
		Counted: e.Counted, Moved: e.Moved, Longer: e.Longer, Shorter: e.Shorter, UnknownBefore: e.UnknownBefore,
		UnknownAfter: e.UnknownAfter,
		MeanBefore:   number(e.Before.Mean() / ticks), MeanAfter: number(e.After.Mean() / ticks), Examples: []api.CalendarChange{},
	}
	body.Words, body.Year = effectWords(e), *yearBody(c, in.year(b))
	for _, change := range e.Examples {
		o := b.At(change.Row)
		body.Examples = append(body.Examples, api.CalendarChange{Number: o.Number, Site: o.Fields[book.Site],
			Before: lengthWords(q, change.Before), After: lengthWords(q, change.After)})
	}
	return &answered[api.CalendarEffect]{body}, nil
}

func effectWords(e duration.Effect) string {
	words := fmt.Sprintf("%s of %s change", numfmt.Count(e.Moved), numfmt.Counted(e.Counted, "length"))
	if e.Moved > 0 {
		words += fmt.Sprintf(": %s longer, %s shorter", numfmt.Count(e.Longer), numfmt.Count(e.Shorter))
	}
	if e.UnknownBefore != e.UnknownAfter {
		words += fmt.Sprintf("; with holidays unknown %s, now %s", numfmt.Count(e.UnknownAfter), numfmt.Count(e.UnknownBefore))
	}
	return words
}

func (s *server) saveCalendar(ctx context.Context, in *struct {
	NamedCalendarInput
	Body api.CalendarDefinition
}) (*answered[api.Calendar], error) {
	if err := checkName("name", in.Name); err != nil {
		return nil, s.failed(ctx, err)
	}
	c, err := readDefinition(in.Name, in.Body)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	if err := s.SaveCalendar(ctx, c.Definition()); err != nil {
		return nil, s.failed(ctx, err)
	}
	b := s.snapshot(ctx)
	saved, err := findCalendar(b, in.Name)
	if err != nil {
		return nil, err
	}
	return &answered[api.Calendar]{wholeCalendar(b, saved, YearInput{}.year(b))}, nil
}
