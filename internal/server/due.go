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
	"prairiedusk/internal/core/due"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/request"
)

type reckonInput struct {
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

// longestStrip is the number of days that a reckoning shows one by one.
const longestStrip = 800

func (s *server) reckon(ctx context.Context, in *reckonInput) (*answered[api.Reckoning], error) {
	b := s.snapshot(ctx)
	c := usual(b)
	if in.Calendar != "" {
		var found bool
		if c, found = b.Calendars().Named(in.Calendar); !found {
			return nil, s.failed(ctx, request.Invalid("calendar", in.Calendar, "no calendar; want one of "+strings.Join(calendarNames(b), ", ")))
		}
	}
	on, err := localOf(b, c, in)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	a, err := datecalc.Do(on, datecalc.Request{From: in.From, To: in.To, N: in.N, Wanted: in.Wanted, In: in.In, Count: in.Count, Roll: in.Roll})
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	body := api.Reckoning{
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
	return &answered[api.Reckoning]{body}, nil
}

// localOf is a calendar where it is kept: in the zone that is asked for, or that of the sites that it counts. Where these lie in
// several, hours want one of them. The error is a *request.Error.
func localOf(b *book.Book, c *calendar.Calendar, in *reckonInput) (calendar.Local, error) {
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

type dueInput struct {
	To       string   `query:"to" doc:"The milestone that is due; default shipped."`
	Plan     string   `query:"plan" doc:"The plan that says when; default promised, and for delivered expected."`
	After    string   `query:"after" doc:"Instead of a plan: so many working days after ordered."`
	CutOff   string   `query:"cut_off" doc:"With after: on (default) or off, whether an order after the cut-off of its site counts as one of the next working day."`
	Within   string   `query:"within" doc:"An open order is at risk when it is due within so many working days; default 5."`
	Period   string   `query:"period" doc:"Of due days; default all orders."`
	Standing []string `query:"standing" doc:"Only orders of these standings, with commas: overdue, at-risk, due-later, on-the-day, early, reached-late, cancelled, no-promise, not-begun; late is overdue and reached-late together, not-due at-risk and due-later."`
	Offset   int      `query:"offset" minimum:"0" maximum:"1000000000"`
	Limit    int      `query:"limit" minimum:"1" maximum:"10000" default:"100"`
}

func (s *server) due(ctx context.Context, in *dueInput) (*answered[api.Due], error) {
	b := s.snapshot(ctx)
	q, err := due.Parse(b, due.Request{To: in.To, By: in.Plan, After: in.After, CutOff: in.CutOff, Within: in.Within, Period: in.Period})
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	var standings []due.Standing
	for _, name := range in.Standing {
		named, err := due.ParseStandings(name)
		if err != nil {
			return nil, s.failed(ctx, err)
		}
		standings = append(standings, named...)
	}
	a := due.Ask(b, q, standings...)
	body := api.Due{
		Sentence: q.Sentence(b), To: q.To.Name, DataDate: b.Bounds().DataDate.String(), Version: b.Version(),
		Standings: []api.Reconciliation{}, Asked: a.Asked, Line: q.Line(a), PlacementLine: q.PlacementLine(a),
		Selected: "all orders asked about", Notes: []string{}, All: len(a.Listed), Offset: in.Offset, Orders: []api.DueOrder{},
	}
	for _, of := range due.InOrder() {
		body.Standings = append(body.Standings, api.Reconciliation{State: of.String(), Label: q.Label(of), Orders: a.Counts[of]})
	}
	if len(standings) > 0 {
		var labels []string
		for _, standing := range standings {
			labels = append(labels, q.Label(standing))
		}
		body.Selected = strings.Join(labels, ", ")
	}
	if cut := q.Period.Part(b.Bounds()); cut != "" && q.Period.Span.From < b.Bounds().FirstDay {
		body.Notes = append(body.Notes, q.Period.Text+" is "+cut)
	}
	if a.HolidaysUnknown > 0 {
		body.Notes = append(body.Notes, fmt.Sprintf("holidays unknown on some day up to the due day, or between it and the end, which then follows the weekly pattern: %s", numfmt.Counted(a.HolidaysUnknown, "order")))
	}
	if a.ByDefault > 0 {
		body.Notes = append(body.Notes, fmt.Sprintf("due days reckoned by the default calendar, since no calendar has the name of the site, its region or its country: %s", numfmt.Counted(a.ByDefault, "order")))
	}
	for _, e := range a.Page(b, in.Offset, in.Limit) {
		body.Orders = append(body.Orders, dueBody(b, q, e))
	}
	return &answered[api.Due]{body}, nil
}

func dueBody(b *book.Book, q due.Question, e due.Entry) api.DueOrder {
	o := b.At(e.Row)
	known := o
	known.Days = b.KnownAt(e.Row) // an order that ships after the data date is open
	entry := api.DueOrder{
		Number: o.Number, Fields: fieldsBody(b, e.Row), Milestones: milestonesBody(b, known),
		Due: e.Due.String(), Standing: e.Standing.String(), Label: q.Label(e.Standing), HolidaysUnknown: e.HolidaysUnknown,
	}
	if e.Standing >= due.AtRisk || promise.Outcome(e.Standing) < promise.Cancelled {
		entry.Over = &e.Over
	}
	return entry
}
