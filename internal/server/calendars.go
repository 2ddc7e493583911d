package server

import (
	"context"
	"fmt"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
)

func (s *server) calendars(_ context.Context, _ *struct{}) (*answered[api.Calendars], error) {
	b := s.Snapshot()
	var body api.Calendars
	for i, c := range b.Calendars().All() {
		body.Calendars = append(body.Calendars, calendarBody(b, c, i == 0))
	}
	return &answered[api.Calendars]{body}, nil
}

type calendarInput struct {
	Name string `path:"name"`
	Year int    `query:"year" minimum:"1900" maximum:"2199" doc:"Default the year of the data date."`
}

func (s *server) calendar(_ context.Context, in *calendarInput) (*answered[api.Calendar], error) {
	b := s.Snapshot()
	c, found := b.Calendars().Named(in.Name)
	if !found {
		return nil, huma.Error404NotFound(fmt.Sprintf("there is no calendar %q; load one from an iCalendar file", in.Name))
	}
	year := in.Year
	if year == 0 {
		year, _, _ = b.Bounds().DataDate.Date()
	}
	body := calendarBody(b, c, c == b.Calendars().All()[0])
	body.Year = yearBody(c, year)
	return &answered[api.Calendar]{body}, nil
}

func calendarBody(b *book.Book, c *calendar.Calendar, isDefault bool) api.Calendar {
	def := c.Definition()
	body := api.Calendar{Name: c.Name(), Default: isDefault, Holidays: len(def.Holidays), ExtraDays: len(def.Extra), Orders: b.CountedBy(c)}
	for _, p := range def.Patterns {
		body.Weeks = append(body.Weeks, api.Week{From: p.From.String(), Days: p.Week.String()})
	}
	if c.Coverage().Days() > 0 {
		body.CoverageFrom, body.CoverageTo = c.Coverage().From.String(), c.Coverage().LastDay().String()
	}
	return body
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
		if kind, name := c.Kind(d); name != "" {
			body.NamedDays = append(body.NamedDays, api.NamedDay{Day: d.String(), Weekday: d.Weekday().String()[:3], Kind: kind.String(), Name: name})
		}
	}
	return body
}
