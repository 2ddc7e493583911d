package server

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/datecalc"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/request"
)

type daysInput struct {
	Calendar string `query:"calendar" doc:"Default the calendar that counts the most orders."`
	From     string `query:"from" doc:"A day; for hours with a local time of day, 2026-07-06T14:30."`
	To       string `query:"to" doc:"A day: how long is it from one to the other?"`
	N        string `query:"n" doc:"A whole number: which day is so many days after from, or before it where negative?"`
	Wanted   string `query:"wanted" doc:"A day: when must what takes n days begin at the latest, to be done by then?"`
	In       string `query:"in" doc:"Unit; default working-days. Only days and working-days can be added."`
	Count    string `query:"count" doc:"Count rule of two days: elapsed or both-ends; default elapsed."`
	Zone     string `query:"zone" doc:"For hours: the IANA zone of the times of day; default that of the sites that the calendar counts, where they share one."`
	Roll     string `query:"roll" doc:"What becomes of a day that is not worked: keep, next or previous; default keep."`
}

// longestStrip is the number of days that an answer shows one by one.
const longestStrip = 800

func (s *server) days(ctx context.Context, in *daysInput) (*answered[api.DaysAnswer], error) {
	b := s.snapshot(ctx)
	c := usual(b)
	if in.Calendar != "" {
		var found bool
		if c, found = b.Calendars().Named(in.Calendar); !found {
			return nil, s.failed(ctx, request.Invalid("calendar", in.Calendar, "no calendar; want one of "+strings.Join(calendarNames(b),
				", ")))
		}
	}
	on, err := localOf(b, c, in)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	a, err := datecalc.Do(on, datecalc.Request{From: in.From, To: in.To, N: in.N, Wanted: in.Wanted, In: in.In, Count: in.Count,
		Roll: in.Roll})
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	body := api.DaysAnswer{
		Sentence: a.Sentence, Words: a.Words, Calendar: c.Name(), Unit: a.Measure.Unit.String(),
		Day: a.Day.String(), Working: a.Working.String(), SumLine: a.Strip.String(), Strip: []api.StripDay{}, Notes: []string{},
	}
	if a.Length != nil {
		body.Length = number(a.Measure.Unit.Number(*a.Length))
	}
	if len(a.Strip.Cells) <= longestStrip {
		body.Strip = stripBody(a.Strip)
	}
	if a.HolidaysUnknown {
		known := "none"
		if words := c.CoverageWords(); words != "" {
			known = "those of " + words
		}
		body.Notes = append(body.Notes, fmt.Sprintf("holidays unknown on some of these days, which then follow the weekly pattern; the calendar %s knows %s", c.Name(), known))
	}
	return &answered[api.DaysAnswer]{body}, nil
}

// localOf is a calendar where it is kept: in the zone that is asked for, or that of the sites that it counts. Where these lie in
// several, hours want one of them. The error is a *request.Error.
func localOf(b *book.Book, c *calendar.Calendar, in *daysInput) (calendar.Local, error) {
	on := calendar.Local{Calendar: c}
	if in.Zone != "" {
		zone, err := time.LoadLocation(in.Zone)
		if err != nil || in.Zone == "Local" {
			return on, request.Invalid("zone", in.Zone, "want an IANA time zone such as Europe/Dublin")
		}
		on.Zone = zone
		return on, nil
	}
	var zones []string
	for _, l := range b.Locals(book.AtSite) {
		if l.Calendar == c && l.Zone != nil && !slices.Contains(zones, l.Zone.String()) {
			zones, on.Zone = append(zones, l.Zone.String()), l.Zone
		}
	}
	if len(zones) < 2 {
		return on, nil
	}
	if unit, err := leg.ParseUnit(in.In); err == nil && unit.Timed() {
		return on, request.Invalid("zone", "", fmt.Sprintf("the calendar %s counts sites in several zones; say in which one the times are: %s", c.Name(), strings.Join(zones, ", ")))
	}
	on.Zone = nil
	return on, nil
}
