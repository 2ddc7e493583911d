package server

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/backlog"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/money"
	"prairiedusk/internal/present"
)

// OpenInput asks what was open; exported for huma, as QuestionInput is.
type OpenInput struct {
	LegInput
	Period     string   `query:"period" doc:"In which something was open: never a filter on when it started. Several with commas, each by itself. Default from the first day to the data date."`
	ClosingDay string   `query:"closing_day" doc:"in or out: whether an order counts as open on the day on which it closes; default in."`
	By         []string `query:"by" doc:"At most two groupings, with a comma between them; a step of time is that of the start."`
	Where      string   `query:"where" maxLength:"10000" doc:"A condition on orders in CEL."`
}

// question understands the words against a book, which it gives with the stand-ins that they name.
func (in OpenInput) question(b *book.Book) (backlog.Question, *book.Book, error) {
	words := QuestionInput{LegInput: in.LegInput, Period: in.Period, By: in.By, Where: in.Where}
	b, err := words.withStandIns(b)
	if err != nil {
		return backlog.Question{}, b, err
	}
	q, err := backlog.Parse(b, words.request().Request, in.ClosingDay)
	if err != nil {
		return q, b, err
	}
	q.Where, err = present.Condition(b, "where", in.Where)
	return q, b, err
}

type openInput struct {
	OpenInput
	Each     string `query:"each" doc:"day, week, month, quarter or year: each step of the period, every one there. Default the period as one."`
	Holdings bool   `query:"holdings" doc:"Units and values beside orders in each step; a period as one has them always."`
}

func (s *server) open(ctx context.Context, in *openInput) (*answered[api.Open], error) {
	q, b, err := in.question(s.snapshot(ctx))
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	each := query.NoCut
	if in.Each != "" {
		if each, err = query.ParseCut(in.Each); err != nil {
			return nil, s.failed(ctx, err)
		}
	}
	end, err := s.acquireSlot(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	defer end()
	body := api.Open{Asked: openAsked(q, q.Sentence(each), b.Version()), ClosingDay: cmp.Or(in.ClosingDay, backlog.ClosingDayIn), Each: in.Each,
		FirstDay: b.Bounds().FirstDay.String(), DataDate: b.Bounds().DataDate.String()}
	numbers := 0
	for _, p := range q.Periods {
		a, err := s.openAnswer(b, q, p, each, in.Holdings || each == query.NoCut)
		if err != nil {
			return nil, s.failed(ctx, err)
		}
		numbers += (1 + min(len(a.Groups), mostGroups)) * len(a.Total.Rows) * openNumbers
		if err := fits(numbers, mostCells, "by", q.ByNames()); err != nil {
			return nil, s.failed(ctx, err)
		}
		body.Parts = append(body.Parts, openBody(b, a, p))
	}
	if len(q.Periods) > 1 && each == query.NoCut {
		body.Together = togetherBody(backlog.Together(b, q), body.Parts)
	}
	return &answered[api.Open]{body}, nil
}

// openNumbers is how many numbers people read of a row: at the start, opened, closed, at the end, at some time.
const openNumbers = 5

// togetherBody sets the orders of several periods, each counted once, beside what the periods add up to.
func togetherBody(orders int, parts []api.OpenPart) *api.OpenTogether {
	sum, names := 0, make([]string, len(parts))
	for i, part := range parts {
		sum, names[i] = sum+part.Rows[0].SomeTime.Orders, part.Period.Text
	}
	line := fmt.Sprintf("Open at some time in %s: %s, each counted once.", strings.Join(names, " or "), numfmt.Counted(orders, "order"))
	if sum > orders {
		line += fmt.Sprintf(" The periods' own numbers add up to %s, since some were open in more than one.", numfmt.Count(sum))
	}
	return &api.OpenTogether{Orders: orders, Line: line}
}

// openAnswer asks the daily index where neither groups nor conditions divide the orders.
func (s *server) openAnswer(b *book.Book, q backlog.Question, p period.Period, each query.TimeBucket, holdings bool) (backlog.Answer, error) {
	if len(q.By) > 0 || q.Where.Condition != nil {
		return backlog.During(b, q, p, each, holdings)
	}
	daily, err := s.dailies.of(b, q)
	if err != nil {
		return backlog.Answer{}, err
	}
	return daily.Answer(q, p, each, holdings), nil
}

// dailies remembers the daily indexes of the legs of the book as it stands that were asked for.
type dailies struct {
	mutex   sync.Mutex
	version int64
	by      map[string]*backlog.CumulativeFlow // by leg
}

// mostDailies bounds what is remembered.
const mostDailies = 30

func (d *dailies) of(b *book.Book, q backlog.Question) (*backlog.CumulativeFlow, error) {
	leg := q.Leg.From.Name + " " + q.Leg.To.Name
	d.mutex.Lock()
	defer d.mutex.Unlock() // the second to ask waits for the first, and has it then
	if d.version != b.Version() || len(d.by) > mostDailies {
		d.version, d.by = b.Version(), map[string]*backlog.CumulativeFlow{}
	}
	if known, found := d.by[leg]; found {
		return known, nil
	}
	made, err := backlog.NewDaily(b.Unbound(), q) // it outlives this request
	if err != nil {
		return nil, err
	}
	d.by[leg] = made
	return made, nil
}

func openAsked(q backlog.Question, sentence query.Sentence, version int64) api.Asked {
	asked := askedBody(q.Question, sentence, version)
	asked.Heading = q.Heading(q.CutOffWords(false))
	return asked
}

func openBody(b *book.Book, a backlog.Answer, p period.Period) api.OpenPart {
	part := api.OpenPart{Period: api.Period{Text: p.Text, From: a.Spans[0].From.String(), To: a.Spans[len(a.Spans)-1].LastDay().String()},
		Rows: rowsBody(b, a, a.Total.Rows), Groups: []api.OpenGroup{}, AllGroups: len(a.Groups), Notes: []api.Note{}, Unplaced: []api.Reconciliation{}}
	for _, g := range a.Groups[:min(len(a.Groups), mostGroups)] {
		part.Groups = append(part.Groups, api.OpenGroup{Keys: g.Keys, Rows: rowsBody(b, a, g.Rows)})
	}
	terms := []string{numfmt.Count(a.Placed()) + " with a day on which they were opened"}
	for f, n := range a.Unplaced {
		if n > 0 {
			label := backlog.PeriodState(f).Label(a.Question.Leg)
			part.Unplaced = append(part.Unplaced, api.Reconciliation{State: backlog.PeriodState(f).String(), Label: label, Orders: n})
			terms = append(terms, numfmt.Count(n)+" "+label)
		}
	}
	for _, t := range a.Population.Terms(a.Question.Basis) {
		if t.Code != string(query.Asked) {
			terms = append(terms, numfmt.Count(t.Orders)+" "+t.Label)
		}
	}
	part.ReconciliationLine = numfmt.Counted(a.Population.InBook, "order") + " in the book = " + strings.Join(terms, " + ")
	part.Notes = append(openNotes(a, p), unequalNotes(a.Population.MetByMissing)...)
	return part
}

func openNotes(a backlog.Answer, p period.Period) []api.Note {
	notes := []api.Note{}
	note := func(code string, orders int, format string, values ...any) {
		notes = append(notes, api.Note{Code: code, Orders: orders, Text: fmt.Sprintf(format, values...)})
	}
	if cut := p.Part(a.Bounds); cut != "" && !p.Unbounded() {
		note("part-period", 0, "%s is %s", p.Text, cut)
	}
	first := a.Bounds.FirstDay
	if a.Spans[0].From <= first {
		note("book-begins", 0, "the book begins on %v: orders that were opened before it and were still open then are not in it, so that the first days show too few", first)
	}
	if a.WithoutUnits > 0 {
		note("without-units", a.WithoutUnits, "%s with lines whose units are not known, or without lines: these count in no number of units", numfmt.Counted(a.WithoutUnits, "order"))
	}
	if a.WithoutValue > 0 {
		note("without-value", a.WithoutValue, "the value of %s is not known: they count in no value", numfmt.Counted(a.WithoutValue, "order"))
	}
	return notes
}

func rowsBody(b *book.Book, a backlog.Answer, rows []backlog.Row) []api.OpenRow {
	bodies := []api.OpenRow{}
	for i, r := range rows {
		bodies = append(bodies, api.OpenRow{Name: a.Names[i], From: r.Days.From.String(), To: r.Days.LastDay().String(),
			AtStart: amountBody(b, r.AtStart), Opened: amountBody(b, r.Opened), Closed: amountBody(b, r.Closed), AtEnd: amountBody(b, r.AtEnd),
			SomeTime: amountBody(b, r.SomeTime), NotOpen: amountBody(b, r.NotOpen)})
	}
	return bodies
}

func amountBody(b *book.Book, a backlog.Amount) api.Amount {
	body := api.Amount{Orders: a.Orders, Values: []api.Value{}}
	if a.Values != nil {
		units := "" // where no order tells them
		if a.Told > 0 || a.Orders == 0 {
			units = numfmt.Decimal(a.Units, 3, 0)
		}
		body.Units = &units
	}
	for code, value := range a.Values {
		if currency := b.Values(book.Currency)[code]; value != 0 {
			body.Values = append(body.Values, api.Value{Currency: currency, Value: money.Format(value, currency)})
		}
	}
	slices.SortFunc(body.Values, func(x, y api.Value) int { return strings.Compare(x.Currency, y.Currency) })
	return body
}

type agesInput struct {
	OpenInput
	At      string `query:"at" doc:"The day at whose end; default the last day of the period, or the data date."`
	Buckets string `query:"buckets" doc:"The greatest age of each bucket but the last, in the unit; default 2,5,10,20."`
	Each    string `query:"each" doc:"day, week, month, quarter or year: also how the mix of ages developed over the period."`
}

func (s *server) ages(ctx context.Context, in *agesInput) (*answered[api.Ages], error) {
	body, err := s.agesAnswer(ctx, in)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return &answered[api.Ages]{*body}, nil
}

func (s *server) agesAnswer(ctx context.Context, in *agesInput) (*api.Ages, error) {
	q, b, err := in.question(s.snapshot(ctx))
	if err != nil {
		return nil, err
	}
	unit := q.Measure.Unit
	if unit.Timed() {
		return nil, request.Invalid("in", in.In, "an age ends with a day, not with an instant; want days, working-days, weeks, months or years")
	}
	limits, err := backlog.ParseBuckets(in.Buckets, unit)
	if err != nil {
		return nil, err
	}
	if len(q.Periods) > 1 && in.At == "" {
		return nil, request.Invalid("period", in.Period, "ages are those at the end of one day; want one period, whose last day counts, or the day itself with at")
	}
	days, _ := backlog.Cut(q.Periods[0], b.Bounds()) // Parse has refused what cannot be cut
	at := days.LastDay()
	if in.At != "" {
		if at, err = day.Parse(in.At); err != nil || at > b.Bounds().DataDate {
			return nil, request.Invalid("at", in.At, fmt.Sprintf("want a day up to %v, such as 2026-03-16", b.Bounds().DataDate))
		}
	}
	end, err := s.acquireSlot(ctx)
	if err != nil {
		return nil, err
	}
	defer end()
	groups, total := backlog.At(b, q, at)
	body := &api.Ages{Asked: openAsked(q, q.AgeSentence(at), b.Version()), At: at.String(), Buckets: []api.Bucket{}, Groups: []api.AgeGroup{}, Mix: []api.AgeMix{}}
	for i, label := range backlog.BucketLabels(limits, unit) {
		bucket := api.Bucket{Label: label}
		if i > 0 {
			bucket.Youngest = number(unit.Number(limits[i-1] + 1))
		}
		if i < len(limits) {
			bucket.Oldest = number(unit.Number(limits[i]))
		}
		body.Buckets = append(body.Buckets, bucket)
	}
	group := func(g backlog.Ages) api.AgeGroup {
		ticks := float64(unit.Ticks())
		made := api.AgeGroup{Keys: append([]string{}, g.Keys...), Orders: g.Ages.Orders(), Buckets: g.Buckets(limits), Median: number(g.Ages.Quantile(0.5) / ticks), P90: number(g.Ages.Quantile(0.9) / ticks)}
		if len(g.Ages) > 0 {
			made.Oldest = number(unit.Number(g.Ages.Max()))
		}
		return made
	}
	for _, g := range groups {
		body.Groups = append(body.Groups, group(g))
	}
	body.Total = group(total)
	if in.Each == "" {
		return body, nil
	}
	each, err := query.ParseCut(in.Each)
	if err != nil {
		return nil, err
	}
	for _, mix := range backlog.AgesOverTime(b, q, q.Periods[0], each, limits) {
		body.Mix = append(body.Mix, api.AgeMix{From: mix.Days.From.String(), To: mix.Days.LastDay().String(), Buckets: mix.Buckets})
	}
	return body, nil
}

type lanesInput struct {
	OpenInput
	Sort   string `query:"sort" enum:"start,age,length" default:"start" doc:"By start; what is open at the end first, the oldest before all; or the longest first."`
	Offset int    `query:"offset" minimum:"0" maximum:"1000000000"`
	Limit  int    `query:"limit" minimum:"1" maximum:"2000" default:"100"`
}

func (s *server) laneList(ctx context.Context, in *lanesInput) (*answered[api.Lanes], error) {
	q, b, err := in.question(s.snapshot(ctx))
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	if len(q.Periods) > 1 {
		return nil, s.failed(ctx, request.Invalid("period", in.Period, "lanes take one period"))
	}
	lanes, err := s.lanes.of(ctx, s, b, q, in)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	days, _ := backlog.Cut(q.Periods[0], b.Bounds())
	body := api.Lanes{Asked: openAsked(q, q.Sentence(query.NoCut), b.Version()), From: days.From.String(), To: days.LastDay().String(), DataDate: b.Bounds().DataDate.String(), All: len(lanes), Offset: in.Offset, Lanes: []api.Lane{}, Calendars: []api.LaneCalendar{}}
	page := lanes[min(in.Offset, len(lanes)):min(in.Offset+in.Limit, len(lanes))]
	body.Shown.From, body.Shown.To = shown(lanes, days, b.Bounds().DataDate)
	calendars := map[*calendar.Calendar]int{}
	for _, l := range page {
		own := b.LocalAt(q.Calendar, l.Row)
		at, known := calendars[own.Calendar]
		if !known {
			at = len(calendars)
			calendars[own.Calendar] = at
			body.Calendars = append(body.Calendars, laneCalendar(own.Calendar, body.Shown))
		}
		body.Lanes = append(body.Lanes, laneBody(b, q, l, at))
	}
	return &answered[api.Lanes]{body}, nil
}

// shown are the days that all lanes need: from the period, or the earliest start not more than a quarter before it, to its
// end or the data date.
func shown(lanes []backlog.TimelineRow, days day.Span, dataDate day.Day) (from, to string) {
	first, last := days.From, days.LastDay()
	reach := max(14, day.Day(days.Days()))
	for _, l := range lanes {
		first = min(first, max(l.Life.Start, days.From-reach))
		last = max(last, min(cmp.Or(l.Life.Close, dataDate), days.LastDay()+reach))
	}
	return first.String(), last.String()
}

// laneCalendar says which of the days are not worked.
func laneCalendar(c *calendar.Calendar, days api.DaysShown) api.LaneCalendar {
	from, _ := day.Parse(days.From)
	to, _ := day.Parse(days.To)
	body := api.LaneCalendar{Name: c.Name(), Off: []int{}}
	for d := from; d <= to; d++ {
		if !c.Works(d) {
			body.Off = append(body.Off, int(d-from))
		}
	}
	return body
}

func laneBody(b *book.Book, q backlog.Question, l backlog.TimelineRow, calendar int) api.Lane {
	block, i := b.Locate(l.Row)
	body := api.Lane{Number: block.Numbers[i], Start: l.Life.Start.String(), Cancelled: l.Life.Cancelled, Reason: l.Fate.Reason(q.Leg, l.Life), Fate: l.Fate.String(), Calendar: calendar}
	if l.Life.Close != 0 {
		body.Close = l.Life.Close.String()
	}
	if l.Told {
		body.Age = number(q.Measure.Unit.Number(l.Age))
	}
	return body
}

// lanesMade remembers the last lanes, for whoever scrolls.
type lanesMade struct {
	mutex   sync.Mutex
	version int64
	asks    string
	lanes   []backlog.TimelineRow
}

func (m *lanesMade) of(ctx context.Context, s *server, b *book.Book, q backlog.Question, in *lanesInput) ([]backlog.TimelineRow, error) {
	asks := fmt.Sprintf("%#v %s", in.OpenInput, in.Sort)
	m.mutex.Lock()
	if m.version == b.Version() && m.asks == asks {
		defer m.mutex.Unlock()
		return m.lanes, nil
	}
	m.mutex.Unlock()
	end, err := s.acquireSlot(ctx)
	if err != nil {
		return nil, err
	}
	defer end()
	lanes := backlog.Lanes(b, q, in.Sort)
	m.mutex.Lock()
	defer m.mutex.Unlock()
	m.version, m.asks, m.lanes = b.Version(), asks, lanes
	return lanes, nil
}
