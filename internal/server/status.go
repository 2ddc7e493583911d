package server

import (
	"cmp"
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/status"
	"prairiedusk/internal/core/statuses"
	"prairiedusk/internal/record"
)

func (s *server) registerStatuses(to huma.API) {
	huma.Register(to, get("statuses", "/statuses", "The list of statuses"), s.statuses)
	huma.Register(to, huma.Operation{OperationID: "save-statuses", Method: http.MethodPut, Path: api.BasePath + "/statuses",
		Summary: "Say of statuses what they are, as a load that can be undone"}, s.saveStatuses)
	huma.Register(to, huma.Operation{OperationID: "save-places", Method: http.MethodPut, Path: api.BasePath + "/places",
		Summary: "Say where places are, as a load that can be undone"}, s.savePlaces)
}

func statusNames(h *statuses.History) []api.Status {
	bodies := []api.Status{}
	for _, st := range h.Statuses[1:] {
		bodies = append(bodies, api.Status{Name: st.Name, Step: st.Step, Final: st.Final, Colour: st.Colour,
			Spellings: append([]string{}, st.Spellings...), Listed: st.Listed})
	}
	return bodies
}

func periodBody(h *statuses.History, q status.Question, p status.Place) api.StatusPeriod {
	block, row := h.Book().Locate(p.Row)
	st := h.Statuses[p.Status]
	body := api.StatusPeriod{Number: block.Numbers[row], Sequence: p.Sequence, Status: st.Name, Colour: st.Colour, From: p.From.String(),
		LastSeen: p.LastSeen.String(),
		Running:  p.Until == 0 && !h.Rules.Ends(p.Period), Returned: p.Status != statuses.NotSeen &&
			statuses.Returned(h.Periods(block, row), p.Sequence-1) >= 0, Ambiguous: p.Flags&statuses.Ambiguous != 0}
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
	body := api.OrderStatuses{Periods: []api.StatusPeriod{}, Disagreements: []api.StatusDiffers{}}
	q, err := status.Parse(b, status.Request{In: asked.Measure.Unit.String(), Calendar: book.CalendarSourceNames()[asked.Calendar]})
	if err != nil {
		return body
	}
	h := statuses.Of(b)
	block, i := b.Locate(row)
	for _, p := range status.OfOrder(h, q, row) {
		body.Periods = append(body.Periods, periodBody(h, q, p))
		body.Source = "event"
	}
	if flags := h.Flags(block, i); flags&statuses.FromDaily != 0 {
		body.Source = "daily"
	}
	body.Ambiguous = h.Flags(block, i)&statuses.Ambiguous != 0
	for _, d := range h.Disagreements(block, i) {
		body.Disagreements = append(body.Disagreements, api.StatusDiffers{Day: d.Day.String(),
			Events: cmp.Or(numfmt.Either(d.Events == statuses.NotSeen, "none yet", ""), h.Statuses[d.Events].Name),
			Daily:  h.Statuses[d.Daily].Name})
	}
	return body
}

func (s *server) statuses(ctx context.Context, _ *struct{}) (*answered[api.StatusList], error) {
	b := s.snapshot(ctx)
	return &answered[api.StatusList]{api.StatusList{Statuses: statusNames(statuses.Of(b)), Colours: record.Colours(),
		Version: b.Version()}}, nil
}

func (s *server) saveStatuses(ctx context.Context, in *struct{ Body api.StatusSettings }) (*answered[api.StatusList], error) {
	settings := make([]book.StatusSetting, len(in.Body.Statuses))
	for i, row := range in.Body.Statuses {
		settings[i] = book.StatusSetting(row)
		if row.SpellingOf == row.Name {
			return nil, s.failed(ctx, request.Invalid("spelling_of", row.SpellingOf,
				"a status is no other spelling of itself; leave it empty"))
		}
	}
	if err := s.SaveStatuses(ctx, settings); err != nil {
		return nil, s.failed(ctx, err)
	}
	return s.statuses(ctx, nil)
}
