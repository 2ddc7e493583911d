package server

import (
	"cmp"
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/status"
	"prairiedusk/internal/core/stays"
	"prairiedusk/internal/present"
	"prairiedusk/internal/record"
)

// HistoryInput says by which conventions records fold into stays, and how these are counted; exported for huma.
type HistoryInput struct {
	In       string `query:"in" doc:"Unit of lengths, which are elapsed: working-days, days, weeks, hours or working-hours; default working-days."`
	Calendar string `query:"calendar" doc:"Whose calendar counts: site or destination; default site."`
	Source   string `query:"source" doc:"Which records count: event, daily, or either (default): events where an order has any, else its daily list."`
	MaxGap   string `query:"max_gap" doc:"How many days a daily list may be silent about an order before its stay ends; default any."`
}

// StatusInput asks about the statuses of orders; exported for huma.
type StatusInput struct {
	HistoryInput
	Where string `query:"where" maxLength:"10000" doc:"A condition on orders in CEL."`
}

func (in StatusInput) question(b *book.Book, r status.Request) (status.Question, error) {
	r.In, r.Calendar, r.Source, r.MaxGap = in.In, in.Calendar, in.Source, in.MaxGap
	q, err := status.Parse(b, r)
	if err != nil {
		return q, err
	}
	q.Where, err = present.Condition(b, "where", in.Where)
	return q, err
}

func (s *server) registerStatuses(to huma.API) {
	huma.Register(to, get("status-latest", "/status/latest", "Where orders stand, or stood at the end of a day"), s.statusLatest)
	huma.Register(to, get("status-times", "/status/times", "How long orders were in each status"), s.statusTimes)
	huma.Register(to, get("status-moves", "/status/moves", "From which status to which orders went, returns and paths"), s.statusMoves)
	huma.Register(to, get("status-stays", "/status/stays", "In which status orders were, from when to when"), s.statusStays)
	huma.Register(to, get("statuses", "/statuses", "The list of statuses"), s.statuses)
	huma.Register(to, huma.Operation{OperationID: "save-statuses", Method: http.MethodPut, Path: api.BasePath + "/statuses", Summary: "Say of statuses what they are, as a load that can be undone"}, s.saveStatuses)
}

// historyOf gives the history that a question asks about when its turn comes, and what ends the turn.
func (s *server) historyOf(ctx context.Context, b *book.Book, q status.Question) (*stays.History, func(), error) {
	end, err := s.acquireSlot(ctx)
	if err != nil {
		return nil, nil, err
	}
	return q.History(b), end, nil
}

func (s *server) statusLatest(ctx context.Context, in *struct {
	StatusInput
	By string `query:"by" doc:"One grouping of orders."`
	At string `query:"at" doc:"The day at whose end; default the data date."`
}) (*answered[api.StatusAnswer], error) {
	b := s.snapshot(ctx)
	q, err := in.question(b, status.Request{By: in.By, At: in.At})
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	h, end, err := s.historyOf(ctx, b, q)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	defer end()
	a := status.Latest(h, q)
	if err := statusFits(q, a); err != nil {
		return nil, s.failed(ctx, err)
	}
	body := statusBody(h, q, a, status.AskLatest, b.Version())
	terms := []string{}
	for code, c := range a.Total.Cells {
		if c.Count > 0 {
			terms = append(terms, numfmt.Count(c.Count)+" "+h.Statuses[code].Name)
		}
	}
	if a.Total.NoStatus > 0 || len(terms) == 0 {
		terms = append(terms, numfmt.Count(a.Total.NoStatus)+" without a status record by then")
	}
	body.ReconciliationLine = numfmt.Counted(a.Population.Asked, "order") + " asked about = " + strings.Join(terms, " + ")
	return &answered[api.StatusAnswer]{body}, nil
}

func (s *server) statusTimes(ctx context.Context, in *struct {
	StatusInput
	By     string `query:"by" doc:"One grouping of orders."`
	Period string `query:"period" doc:"In which stays begin; default all."`
	Each   string `query:"each" doc:"day, week, month, quarter or year in which stays began, instead of a grouping."`
}) (*answered[api.StatusAnswer], error) {
	b := s.snapshot(ctx)
	q, err := in.question(b, status.Request{By: in.By, Period: in.Period, Each: in.Each})
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	h, end, err := s.historyOf(ctx, b, q)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	defer end()
	a := status.Times(h, q)
	if err := statusFits(q, a); err != nil {
		return nil, s.failed(ctx, err)
	}
	body := statusBody(h, q, a, status.AskTimes, b.Version())
	all, running, unmeasured := 0, 0, 0
	for _, c := range a.Total.Cells {
		all, running, unmeasured = all+c.Count, running+c.Running, unmeasured+c.Unmeasured
	}
	body.ReconciliationLine = fmt.Sprintf("%s = %s with a length", numfmt.Counted(all, "stay"), numfmt.Count(all-unmeasured))
	if running > 0 {
		body.ReconciliationLine += fmt.Sprintf(" (of them %s still running, counted up to the data date)", numfmt.Count(running))
	}
	if unmeasured > 0 {
		body.ReconciliationLine += fmt.Sprintf(" + %s without one (at the order's end, or without a time of day)", numfmt.Count(unmeasured))
	}
	return &answered[api.StatusAnswer]{body}, nil
}

// statusFits refuses an answer that is too long.
func statusFits(q status.Question, a status.Answer) error {
	word, value := "by", q.ByNames()
	if q.Each != query.NoCut {
		word, value = "each", q.Each.String()
	}
	return fits(min(len(a.Groups), mostGroups)*len(a.Total.Cells), mostCells, word, value)
}

func statusBody(h *stays.History, q status.Question, a status.Answer, asked status.Asked, version int64) api.StatusAnswer {
	body := api.StatusAnswer{Asked: statusAsked(q, asked, version), At: q.At.String(), Each: q.Each.String(), Source: q.Source.String(), MaxGap: q.MaxGap,
		Statuses: statusNames(h), Groups: []api.StatusGroup{}, AllGroups: len(a.Groups), PlacementLine: a.Population.Line(q.Basis), Notes: statusNotes(h, q, a)}
	first := stays.NotSeen + 1
	if a.Total.Cells[stays.NotSeen].Count > 0 {
		first = stays.NotSeen
	}
	group := func(g status.Group) api.StatusGroup {
		made := api.StatusGroup{Keys: append([]string{}, g.Keys...), Orders: g.Orders, NoStatus: g.NoStatus}
		if g.Step.From != 0 {
			made.From, made.To = g.Step.From.String(), g.Step.LastDay().String()
			made.Cut = cutStep(h.Book().Bounds(), q.Periods[0], g)
		}
		all := 0
		for _, c := range g.Cells[first:] {
			all += c.Ticks
		}
		for code, c := range g.Cells {
			if code >= int(first) {
				made.Cells = append(made.Cells, cellBody(h, q, c, code, all))
			}
		}
		return made
	}
	for _, g := range a.Groups[:min(len(a.Groups), mostGroups)] {
		body.Groups = append(body.Groups, group(g))
	}
	body.Total = group(a.Total)
	return body
}

// cutStep says that the records or the period do not cover a step whole.
func cutStep(bounds period.Bounds, p period.Period, g status.Group) bool {
	first, last := bounds.FirstDay, bounds.DataDate
	if !p.Unbounded() {
		first, last = max(first, p.Span.From), min(last, p.Span.LastDay())
	}
	return g.Step.From < first || g.Step.LastDay() > last
}

func cellBody(h *stays.History, q status.Question, c status.Cell, code, all int) api.StatusCell {
	unit, ticks := q.Measure.Unit, float64(q.Measure.Unit.Ticks())
	body := api.StatusCell{Status: h.Statuses[code].Name, Count: c.Count, Orders: c.Orders, Running: c.Running, Unmeasured: c.Unmeasured, OrderDays: unit.Number(c.Ticks),
		Mean: number(c.Lengths.Mean() / ticks), Median: number(c.Lengths.Quantile(0.5) / ticks), P90: number(c.Lengths.Quantile(0.9) / ticks)}
	if len(c.Lengths) > 0 {
		body.Longest = number(unit.Number(c.Lengths.Max()))
	}
	if all > 0 {
		body.Share = number(100 * float64(c.Ticks) / float64(all))
	}
	return body
}

func statusAsked(q status.Question, asked status.Asked, version int64) api.Asked {
	body := askedBody(q.Question, q.Sentence(asked), version)
	body.Heading = q.UnitWords() + ", elapsed"
	return body
}

func statusNames(h *stays.History) []api.Status {
	bodies := []api.Status{}
	for _, st := range h.Statuses[1:] {
		bodies = append(bodies, api.Status{Name: st.Name, Step: st.Step, Final: st.Final, Colour: st.Colour, Spellings: append([]string{}, st.Spellings...), Listed: st.Listed})
	}
	return bodies
}

// bookLine says how the condition divides the book, also where it picks all.
func bookLine(p query.Population, basis milestone.Milestone) string {
	return cmp.Or(p.Line(basis), numfmt.Counted(p.InBook, "order")+" in the book = "+numfmt.Count(p.Asked)+" asked about")
}

func statusNotes(h *stays.History, q status.Question, a status.Answer) []api.Note {
	notes := []api.Note{}
	note := func(code string, orders int, format string, values ...any) {
		notes = append(notes, api.Note{Code: code, Orders: orders, Text: fmt.Sprintf(format, values...)})
	}
	notes = append(notes, unequalNotes(a.Population.MetByMissing)...)
	if cut := q.Periods[0].Part(h.Book().Bounds()); cut != "" && !q.Periods[0].Unbounded() {
		note("part-period", 0, "%s is %s", q.Periods[0].Text, cut)
	}
	if a.Ambiguous > 0 {
		note(status.PickAmbiguous, a.Ambiguous, "%s two records of one moment that name different statuses, and nothing tells which came first: the later row counts", numfmt.Has(a.Ambiguous, "order"))
	}
	if a.Disagreeing > 0 {
		note(status.PickDisagreeing, a.Disagreeing, "of %s the daily list names on some day another status than the events do; one source counts for an order, and they are never mixed", numfmt.Counted(a.Disagreeing, "order"))
	}
	if a.ByDaily > 0 {
		note("by-daily", a.ByDaily, "%s a daily list alone: a status that came and went between two days is not in it", numfmt.Has(a.ByDaily, "order"))
	}
	if !slices.Contains(h.Rules.Final, true) {
		note("no-final", 0, "no status is said to be final, so that each order's last stay runs on; say in the list of statuses which of them end an order")
	}
	if names := unlisted(h.Catalogue); len(names) > 0 {
		note("unlisted", 0, "not in the list of statuses: %s", strings.Join(names, ", "))
	}
	for _, st := range h.Statuses[1:] {
		if len(st.Spellings) > 0 {
			note("spellings", 0, "%s counts as %s", strings.Join(st.Spellings, ", "), st.Name)
		}
	}
	return notes
}

// mostPaths bounds what is sent of paths.
const mostPaths = 100

func (s *server) statusMoves(ctx context.Context, in *struct {
	StatusInput
	Period string `query:"period" doc:"In which the stay before a move begins, and that of a return; paths are of whole orders. Default all."`
}) (*answered[api.StatusMoves], error) {
	b := s.snapshot(ctx)
	q, err := in.question(b, status.Request{Period: in.Period})
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	h, end, err := s.historyOf(ctx, b, q)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	defer end()
	m := status.MovesOf(h, q)
	unit, ticks := q.Measure.Unit, float64(q.Measure.Unit.Ticks())
	body := api.StatusMoves{Asked: statusAsked(q, status.AskMoves, b.Version()), Source: q.Source.String(), MaxGap: q.MaxGap, Statuses: statusNames(h),
		Moves: []api.StatusMove{}, Returns: []api.StatusMove{}, Ends: []api.StatusEnd{}, Paths: []api.StatusPath{}, AllPaths: len(m.Paths), PlacementLine: m.Population.Line(q.Basis), Notes: statusNotes(h, q, m.Answer)}
	move := func(from, to string, c status.Cell) api.StatusMove {
		return api.StatusMove{From: from, To: to, Count: c.Count, Orders: c.Orders, Mean: number(c.Lengths.Mean() / ticks), Median: number(c.Lengths.Quantile(0.5) / ticks), P90: number(c.Lengths.Quantile(0.9) / ticks), All: unit.Number(c.Ticks)}
	}
	moved := 0
	for from, row := range m.Matrix {
		for to, c := range row {
			if c.Count > 0 {
				body.Moves = append(body.Moves, move(h.Statuses[from].Name, h.Statuses[to].Name, c))
				moved += c.Count
			}
		}
	}
	for code, c := range m.Returns {
		if c.Count > 0 {
			body.Returns = append(body.Returns, move("", h.Statuses[code].Name, c))
		}
		if m.First[code]+m.Last[code] > 0 {
			body.Ends = append(body.Ends, api.StatusEnd{Status: h.Statuses[code].Name, First: m.First[code], Last: m.Last[code]})
		}
	}
	recorded := m.Population.Asked - m.Total.NoStatus
	for i, p := range m.Paths {
		if i >= mostPaths {
			body.OtherOrders += p.Orders
			continue
		}
		path := api.StatusPath{Text: status.PathText(h, p.Statuses), Orders: p.Orders, Ended: p.Ended, Percent: 100 * float64(p.Orders) / float64(recorded), Median: number(p.Lengths.Quantile(0.5) / ticks)}
		for _, code := range p.Statuses {
			path.Statuses = append(path.Statuses, h.Statuses[code].Name)
		}
		body.Paths = append(body.Paths, path)
	}
	body.ReconciliationLine = fmt.Sprintf("%s asked about = %s on %s + %s without a status record; %s", numfmt.Counted(m.Population.Asked, "order"), numfmt.Count(recorded), numfmt.Counted(len(m.Paths), "path"), numfmt.Count(m.Total.NoStatus), numfmt.Counted(moved, "move"))
	return &answered[api.StatusMoves]{body}, nil
}

func (s *server) statusStays(ctx context.Context, in *struct {
	StatusInput
	Period string `query:"period" doc:"In which stays begin; default all."`
	Status string `query:"status" doc:"Only stays of this status; not seen for silences. Default all."`
	Sort   string `query:"sort" enum:"order,length,from" default:"order" doc:"By the order's number, the longest first, or the latest first."`
	Offset int    `query:"offset" minimum:"0" maximum:"1000000000"`
	Limit  int    `query:"limit" minimum:"1" maximum:"20000" default:"100"`
}) (*answered[api.StatusStays], error) {
	b := s.snapshot(ctx)
	q, err := in.question(b, status.Request{Period: in.Period})
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	h, end, err := s.historyOf(ctx, b, q)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	defer end()
	places, placement, err := status.List(h, q, in.Status, in.Sort)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	body := api.StatusStays{Asked: statusAsked(q, status.AskStays, b.Version()), Sort: in.Sort, Status: in.Status, All: len(places), Offset: in.Offset, Stays: []api.StatusStay{}, PlacementLine: placement.Line(q.Basis), Notes: statusNotes(h, q, status.Answer{})}
	for _, p := range places[min(in.Offset, len(places)):min(in.Offset+in.Limit, len(places))] {
		body.Stays = append(body.Stays, stayBody(h, q, p))
	}
	return &answered[api.StatusStays]{body}, nil
}

func stayBody(h *stays.History, q status.Question, p status.Place) api.StatusStay {
	block, row := h.Book().Locate(p.Row)
	st := h.Statuses[p.Status]
	body := api.StatusStay{Number: block.Numbers[row], Sequence: p.Sequence, Status: st.Name, Colour: st.Colour, From: p.From.String(), LastSeen: p.LastSeen.String(),
		Running: p.Until == 0 && !h.Rules.Ends(p.Stay), Returned: p.Status != stays.NotSeen && stays.Returned(h.Stays(block, row), p.Sequence-1) >= 0, Ambiguous: p.Flags&stays.Ambiguous != 0}
	if p.Until != 0 {
		body.Until = p.Until.String()
	}
	if p.Told {
		body.Length = number(q.Measure.Unit.Number(p.Ticks))
	}
	return body
}

// orderStatuses is what an order went through, in the unit and by the calendar of its question.
func orderStatuses(b *book.Book, row int, asked duration.Question) api.OrderStatuses {
	body := api.OrderStatuses{Stays: []api.StatusStay{}, Disagreements: []api.StatusDiffers{}}
	q, err := status.Parse(b, status.Request{In: asked.Measure.Unit.String(), Calendar: book.CalendarSourceNames()[asked.Calendar]})
	if err != nil {
		return body
	}
	h := stays.Of(b)
	block, i := b.Locate(row)
	for _, p := range status.OfOrder(h, q, row) {
		body.Stays = append(body.Stays, stayBody(h, q, p))
		body.Source = "event"
	}
	if flags := h.Flags(block, i); flags&stays.FromDaily != 0 {
		body.Source = "daily"
	}
	body.Ambiguous = h.Flags(block, i)&stays.Ambiguous != 0
	for _, d := range h.Disagreements(block, i) {
		body.Disagreements = append(body.Disagreements, api.StatusDiffers{Day: d.Day.String(), Events: cmp.Or(numfmt.Either(d.Events == stays.NotSeen, "none yet", ""), h.Statuses[d.Events].Name), Daily: h.Statuses[d.Daily].Name})
	}
	return body
}

func (s *server) statuses(ctx context.Context, _ *struct{}) (*answered[api.StatusList], error) {
	b := s.snapshot(ctx)
	return &answered[api.StatusList]{api.StatusList{Statuses: statusNames(stays.Of(b)), Colours: record.Colours(), Version: b.Version()}}, nil
}

func (s *server) saveStatuses(ctx context.Context, in *struct{ Body api.StatusSettings }) (*answered[api.StatusList], error) {
	settings := make([]book.StatusSetting, len(in.Body.Statuses))
	for i, row := range in.Body.Statuses {
		settings[i] = book.StatusSetting(row)
		if row.SpellingOf == row.Name {
			return nil, s.failed(ctx, request.Invalid("spelling_of", row.SpellingOf, "a status is no other spelling of itself; leave it empty"))
		}
	}
	if err := s.SaveStatuses(ctx, settings); err != nil {
		return nil, s.failed(ctx, err)
	}
	return s.statuses(ctx, nil)
}
