package server

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/estimate"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/filter"
	"prairiedusk/internal/present"
)

// LegInput is the leg and how it is counted. It is exported, as is QuestionInput, for huma, which looks for
// parameters in embedded structs only where they are.
type LegInput struct {
	From  string `query:"from" doc:"Milestone at which the leg starts; default ordered."`
	To    string `query:"to" doc:"Milestone at which it ends; default shipped."`
	In    string `query:"in" doc:"Unit: days, working-days, weeks, months, years, months-crossed, years-crossed, months-fraction, hours or working-hours; default working-days."`
	Count string `query:"count" doc:"Count rule: elapsed or both-ends; default elapsed."`
	// Calendar is read where the unit asks which days are worked.
	Calendar string `query:"calendar" doc:"Whose calendar counts: site or destination; default site."`
	CutOff   string `query:"cut_off" doc:"on (default) or off: whether an order that came after the cut-off of its site counts, in working days and due days, as ordered on the next working day."`
}

func (in LegInput) request() query.Request {
	return query.Request{From: in.From, To: in.To, In: in.In, Count: in.Count, Calendar: in.Calendar, CutOff: in.CutOff}
}

// QuestionInput is a question in full.
type QuestionInput struct {
	LegInput
	Basis   string         `query:"basis" doc:"Milestone that places orders in the period; default the leg's start."`
	Period  string         `query:"period" doc:"2026, 2026-Q3, 2026-07, 2026-W31, 2026-07-20, 2026-07-06/2026-08-02, last-month, last-90-days, …; several with commas. Default all orders."`
	By      []string       `query:"by" doc:"At most two groupings, with a comma between them."`
	Through []string       `query:"through" doc:"Milestones between from and to, with commas, that make a chain of legs."`
	Promise string         `query:"promise" doc:"Also whether the leg's end came by a plan such as promised, or within a number of working days after its start."`
	Over    optionalNumber `query:"over" doc:"Also how many took over this length, in the unit: more than it."`
	AtLeast optionalNumber `query:"at_least" doc:"Also how many took at least this length, in the unit."`
	Where   string         `query:"where" maxLength:"10000" doc:"A condition on orders in CEL (Common Expression Language): fields and milestones by name, underscores for hyphens; a missing one is null; days as text; days, working_days, weeks, hours, working_hours of two milestones, days_so_far and working_days_so_far up to the data date. site == \"Galway\" && working_days_so_far(ordered, shipped) > 30"`
}

// question understands the words, the condition among them, against a book, which it gives with the stand-ins that they name.
func (in QuestionInput) question(b *book.Book) (duration.Question, *book.Book, error) {
	b, err := in.withStandIns(b)
	if err != nil {
		return duration.Question{}, b, err
	}
	q, err := duration.Parse(b, in.request())
	if err != nil {
		return q, b, err
	}
	if q.Limit, err = in.limit(q.Measure.Unit); err != nil {
		return q, b, err
	}
	q.Where, err = present.Condition(b, "where", in.Where)
	return q, b, err
}

func sentenceBody(s query.Sentence) []api.SentencePart {
	parts := make([]api.SentencePart, len(s))
	for i, p := range s {
		parts[i] = api.SentencePart{Text: p.Text, Slot: p.Slot}
	}
	return parts
}

// withStandIns is the book with the milestones that the words name, such as invoiced-or-shipped.
func (in QuestionInput) withStandIns(b *book.Book) (*book.Book, error) {
	for word, name := range map[string]string{"from": in.From, "to": in.To, "basis": in.Basis, "promise": in.Promise} {
		next, err := b.WithStandIns(name)
		if err != nil {
			return b, request.Invalid(word, name, err.Error())
		}
		b = next
	}
	next, err := b.WithStandIns(in.Through...)
	if err != nil {
		return b, request.Invalid("through", strings.Join(in.Through, ","), err.Error())
	}
	return next, nil
}

// limit is the one that is asked for; nil for none.
func (in QuestionInput) limit(u leg.Unit) (*duration.Limit, error) {
	switch {
	case in.Over.given && in.AtLeast.given:
		return nil, request.Invalid("at_least", fmt.Sprint(in.AtLeast.Number), "over and at least are two limits; want one")
	case in.Over.given:
		return &duration.Limit{Ticks: *in.Over.in(u.TicksAtMost)}, nil
	case in.AtLeast.given:
		return &duration.Limit{Ticks: *in.AtLeast.in(u.TicksAtLeast), Least: true}, nil
	}
	return nil, nil
}

// unequalNotes say how many orders are selected although they lack one of two values that the condition compares with !=.
func unequalNotes(n int) []api.Note {
	if n == 0 {
		return []api.Note{}
	}
	return []api.Note{{Code: duration.NoteUnequalMissing, Orders: n, Text: fmt.Sprintf(query.MetByMissingText, numfmt.Counted(n, "selected order"))}}
}

// condition says how a condition is understood, and what of it can be picked.
func (s *server) condition(ctx context.Context, in *struct {
	Text string `query:"text" required:"true" maxLength:"10000" doc:"In CEL."`
}) (*answered[api.Condition], error) {
	picks, joined, err := filter.Picks(s.snapshot(ctx), in.Text)
	if err != nil {
		return nil, s.failed(ctx, request.Invalid("text", in.Text, err.Error()))
	}
	body := api.Condition{Text: in.Text, Picks: []api.Pick{}, Joined: joined}
	for _, p := range picks {
		body.Picks = append(body.Picks, api.Pick(p))
	}
	return &answered[api.Condition]{body}, nil
}

func (in QuestionInput) request() duration.Request {
	r := duration.Request{Request: in.LegInput.request(), Through: in.Through, Promise: in.Promise}
	r.Basis, r.Period, r.By = in.Basis, in.Period, in.By
	return r
}

// TookInput asks how long a leg took; exported for huma, as QuestionInput is.
type TookInput struct {
	QuestionInput
	Show        []string `query:"show" doc:"Statistics, with commas: mean, median, min, max, standard-deviation, or percentiles such as p90; groups stand with the longest first by the first. Default mean,median,p90,min,max."`
	WithRunning bool     `query:"with_running" doc:"Also an estimate with the orders that still run."`
}

func (s *server) took(ctx context.Context, in *TookInput) (*answered[api.Took], error) {
	body, err := s.tookAnswer(ctx, in, mostGroups)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return &answered[api.Took]{*body}, nil
}

func (s *server) tookAnswer(ctx context.Context, in *TookInput, most int) (*api.Took, error) {
	q, b, err := in.question(s.snapshot(ctx))
	if err != nil {
		return nil, err
	}
	if q.Show, err = distribution.ParseStatistics(in.Show); err != nil {
		return nil, err
	}
	q.Waiting = in.WithRunning || q.Limit != nil
	end, err := s.acquireSlot(ctx)
	if err != nil {
		return nil, err
	}
	defer end()
	a := duration.Ask(b, q)
	if err := tookFits(a, most); err != nil {
		return nil, err
	}
	body := tookBody(a, in.WithRunning && q.NoCurve() == "", most)
	if in.WithRunning {
		body.NoCurve = q.NoCurve()
	}
	return &body, nil
}

// tookFits refuses an answer that is too long, with at most so many groups for each period and leg.
func tookFits(a duration.Answer, most int) error {
	rows := 0
	for _, p := range a.Parts {
		rows += (1 + len(p.Legs)) * (min(most, len(p.Groups)) + min(most, len(p.Rows)) + min(most, len(p.Columns)) + 1)
	}
	cells, word, value := rows*(len(a.Question.Show)+1), "by", a.Question.ByNames()
	if len(a.Parts) > 1 {
		word, value = "period", fmt.Sprintf("%d periods", len(a.Parts))
	}
	if most > mostGroups {
		return fits(cells, mostFileCells, word, value)
	}
	return fits(cells, mostCells, word, value)
}

// durationAsked says what a question about lengths asks.
func durationAsked(q duration.Question, version int64) api.Asked {
	body := askedBody(q.Question, q.Sentence(), version)
	body.Heading = q.Heading()
	for _, m := range q.Through {
		body.Through = append(body.Through, m.Name)
	}
	if q.Promise != nil {
		if body.Promise = q.Promise.Plan.Name; body.Promise == "" {
			body.Promise = strconv.Itoa(q.Promise.After)
		}
	}
	return body
}

// askedBody says what any question asks.
func askedBody(q query.Question, sentence query.Sentence, version int64) api.Asked {
	body := api.Asked{
		Sentence: sentence.String(), SentenceParts: sentenceBody(sentence),
		From: q.Leg.From.Name, To: q.Leg.To.Name,
		Unit: q.Measure.Unit.String(), CountRule: q.Measure.Rule.String(),
		Calendar: book.CalendarSourceNames()[q.Calendar],
		Where:    q.Where.Text,
		Basis:    q.Basis.Name,
		By:       []string{},
		Through:  []string{},
		Version:  version,
	}
	for _, g := range q.By {
		body.By = append(body.By, g.String())
	}
	return body
}

func tookBody(a duration.Answer, estimates bool, most int) api.Took {
	q := a.Question
	body := api.Took{Asked: durationAsked(q, a.Version), FirstDay: a.Bounds.FirstDay.String(), DataDate: a.Bounds.DataDate.String(), Few: duration.SmallGroup}
	if q.Limit != nil {
		body.Limit = q.Limit.Words(q.Measure.Unit)
	}
	for _, shown := range q.Show {
		body.Show = append(body.Show, shown.String())
	}
	for _, p := range a.Parts {
		body.Parts = append(body.Parts, partBody(a, p, estimates, most))
	}
	return body
}

func partBody(a duration.Answer, p duration.Part, estimates bool, most int) api.TookPart {
	q := a.Question
	groups := func(all []duration.Group) []api.Group {
		bodies := []api.Group{}
		for _, g := range all[:min(most, len(all))] {
			body := groupBody(g, q, estimates)
			if g.Step.From != 0 {
				body.Step = &api.TimeStep{Key: max(0, len(g.Keys)-len(q.By)+slices.IndexFunc(q.By, func(by query.Grouping) bool { return by.Cut != query.NoCut })), From: g.Step.From.String(), To: g.Step.LastDay().String(), Cut: p.Known(g, q, a.Bounds) && p.Cut(g, q, a.Bounds), Outside: !p.Known(g, q, a.Bounds), Begins: p.Begins(g)}
			}
			bodies = append(bodies, body)
		}
		return bodies
	}
	part := api.TookPart{
		Period:         api.Period{Text: p.Period.Text, From: p.Period.Span.From.String(), To: p.Period.Span.LastDay().String()},
		Placement:      placementBody(p.Population),
		PlacementLine:  p.Population.Line(q.Basis),
		PlacementParts: reconciliationBody(p.Population.Terms(q.Basis)),
		Groups:         groups(p.Groups), AllGroups: len(p.Groups), Rows: groups(p.Rows), Columns: groups(p.Columns),
		Total:        groupBody(p.Total, q, estimates),
		Distribution: []api.Bar{},
		Legs:         []api.TookLeg{}, ChainLine: p.ChainLine(q),
		Notes: []api.Note{},
	}
	if p.BeginsUntil != 0 {
		part.BeginsUntil = p.BeginsUntil.String()
	}
	for _, s := range p.Steps(q) {
		part.Steps = append(part.Steps, api.Step{Code: s.Code, Label: s.Label, Orders: s.Orders, Left: reconciliationBody(s.Left)})
	}
	for _, l := range p.Legs {
		one := q
		one.Leg, one.Promise, one.Limit = l.Leg, nil, nil
		leg := api.TookLeg{From: l.Leg.From.Name, To: l.Leg.To.Name, Groups: []api.Group{}, Total: groupBody(l.Total, one, false)}
		for _, g := range l.Groups[:min(most, len(l.Groups))] {
			leg.Groups = append(leg.Groups, groupBody(g, one, false))
		}
		part.Legs = append(part.Legs, leg)
	}
	unit := q.Measure.Unit
	bars, width := p.Total.Lengths, 1
	if unit.Ticks() > 1 || len(bars) > mostBars {
		bars, width = bars.Gathered(unit.Stretch(), mostBars)
	}
	part.Stretch = unit.Number(width)
	for _, bar := range bars {
		part.Distribution = append(part.Distribution, api.Bar{Length: unit.Number(bar.Length), Longest: unit.Number(bar.Length + width - 1), Orders: bar.Orders})
	}
	for _, n := range p.Notes {
		part.Notes = append(part.Notes, api.Note(n))
	}
	if kept := p.Total.Kept; kept != nil && kept.Orders[promise.NotBegun] == 0 {
		for _, of := range slices.Concat(part.Groups, part.Rows, part.Columns, []api.Group{part.Total}) {
			of.Kept.Standings = of.Kept.Standings[:promise.NotBegun] // hardly any book has such orders
		}
	}
	return part
}

func reconciliationBody(parts []query.Term) []api.Reconciliation {
	body := []api.Reconciliation{}
	for _, r := range parts {
		body = append(body, api.Reconciliation{State: r.Code, Label: r.Label, Orders: r.Orders})
	}
	return body
}

func placementBody(p query.Population) api.Placement {
	return api.Placement{InBook: p.InBook, Asked: p.Asked, Outside: p.Outside, Undated: p.Undated, Unmet: p.Unmet, Undecided: p.Undecided}
}

// mostBars bounds the bars of a distribution; lengths in days stay below it but for wild data.
const mostBars = 400

func groupBody(g duration.Group, q duration.Question, estimates bool) api.Group {
	ticks := float64(q.Measure.Unit.Ticks())
	length := func(x float64) *float64 { return number(x / ticks) }
	body := api.Group{
		Keys: g.Keys, Asked: g.Orders, N: g.Lengths.Orders(), Small: g.Small(),
		Running: numfmt.Percent(int(g.States[leg.Running]), g.Orders),
		Mean:    length(g.Lengths.Mean()), Median: length(g.Lengths.Quantile(0.5)),
		P10: length(g.Lengths.Quantile(0.1)), P25: length(g.Lengths.Quantile(0.25)), P75: length(g.Lengths.Quantile(0.75)), P90: length(g.Lengths.Quantile(0.9)),
		StandardDeviation: length(g.Lengths.StandardDeviation()),
		HolidaysUnknown:   g.HolidaysUnknown, ReconciliationLine: g.ReconciliationLine(q.Leg),
		Reconciliation: reconciliationBody(g.Reconciliation(q.Leg)),
		Figures:        []*float64{},
	}
	if body.Keys == nil {
		body.Keys = []string{}
	}
	for _, shown := range q.Show {
		body.Figures = append(body.Figures, length(shown.Of(g.Lengths)))
	}
	if len(g.Lengths) > 0 {
		body.Min, body.Max = length(float64(g.Lengths.Min())), length(float64(g.Lengths.Max()))
	}
	if q.Limit != nil {
		o := g.Over(*q.Limit)
		share, low, high := o.Share()
		body.Over = &api.Over{Finished: o.Finished, Waiting: o.Waiting, Within: o.Within, Undecided: o.Undecided, Cancelled: o.Cancelled,
			Share: numfmt.Percent(share[0], share[1]), Low: numfmt.Percent(low[0], low[1]), High: numfmt.Percent(high[0], high[1])}
	}
	if g.Kept != nil {
		body.Kept = keptBody(*g.Kept, q)
	}
	if len(q.Through) > 0 {
		body.EveryLeg = &api.EveryLeg{N: g.Every.Orders, Mean: length(g.Every.Mean())}
	}
	if estimates {
		body.Estimate = estimateBody(g, q)
	}
	return body
}

func keptBody(k duration.Kept, q duration.Question) *api.Kept {
	late, told := k.LateShare()
	body := &api.Kept{Late: late, Told: told, LateShare: numfmt.Percent(late, told)}
	for s, orders := range k.Orders {
		of := promise.Outcome(s)
		standing := api.Standing{Code: of.String(), Label: of.Label(q.Leg.To), Orders: orders}
		if sizes := k.Sizes[s]; len(sizes) > 0 {
			standing.Median, standing.P90 = number(sizes.Quantile(0.5)), number(sizes.Quantile(0.9))
			standing.Min, standing.Max = number(float64(sizes.Min())), number(float64(sizes.Max()))
		}
		body.Standings = append(body.Standings, standing)
	}
	return body
}

func estimateBody(g duration.Group, q duration.Question) *api.Estimate {
	unit, curve := q.Measure.Unit, g.Curve()
	body := &api.Estimate{Running: g.Waiting.Running.Orders(), Cancelled: g.Waiting.Cancelled.Orders(), Points: []api.EstimatePoint{}}
	if median, reached := curve.Median(); reached {
		body.Median = number(median / float64(unit.Ticks()))
	}
	at := 0
	last := estimate.Point{Beyond: 1, Low: math.NaN(), High: math.NaN()}
	for _, share := range g.Shares() {
		point := api.EstimatePoint{Length: unit.Number(share.Length), Done: share.Ended, Cancelled: share.Cancelled}
		if at < len(curve) && curve[at].Length == share.Length {
			last = curve[at]
			point.AtRisk, point.Ended = last.AtRisk, last.Ended
			at++
		}
		point.Beyond, point.Low, point.High = last.Beyond, number(last.Low), number(last.High)
		body.Points = append(body.Points, point)
	}
	body.Words = estimateWords(g, q, body.Median)
	return body
}

// estimateWords say what running orders change, in words of the trade.
func estimateWords(g duration.Group, q duration.Question, median *float64) string {
	running, cancelled := g.Waiting.Running.Orders(), g.Waiting.Cancelled.Orders()
	left := numfmt.Count(running) + " still running"
	if cancelled > 0 {
		left += " and " + numfmt.Count(cancelled) + " cancelled"
	}
	switch plain := g.Lengths.Quantile(0.5) / float64(q.Measure.Unit.Ticks()); {
	case g.Lengths.Orders() == 0:
		return "no order has reached `" + q.Leg.To.Name + "` yet"
	case running+cancelled == 0:
		return "none is still running or was cancelled: the plain figures stand"
	case median == nil:
		return left + ": the records do not show half " + q.Leg.To.Name
	default:
		words := fmt.Sprintf("%s; if no order were cancelled, half would be %s within %s %s", left, q.Leg.To.Name, lengthText(*median), q.Measure.Unit.Words())
		if math.Abs(*median-plain) > 1e-9 {
			words += ", not " + lengthText(plain)
		}
		return words
	}
}

// lengthText is a length with as many decimals as it needs, at most two.
func lengthText(x float64) string {
	return strconv.FormatFloat(math.Round(x*100)/100, 'f', -1, 64)
}

// number is nil for what is not a number.
func number(x float64) *float64 {
	if math.IsNaN(x) {
		return nil
	}
	return &x
}

// fieldsBody are the fields of an order that are known, by name.
func fieldsBody(b *book.Book, row int) map[string]string {
	fields := map[string]string{}
	for f, name := range b.FieldNames() {
		if value := b.Text(book.Field(f), row); value != "" {
			fields[name] = value
		}
	}
	return fields
}
