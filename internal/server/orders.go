package server

import (
	"cmp"
	"context"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/doubt"
	"prairiedusk/internal/core/figure"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/summary"
	"prairiedusk/internal/money"
)

type ordersInput struct {
	QuestionInput
	Placed   string      `query:"placed" doc:"The orders that the period leaves out: outside or undated. Default those asked about."`
	State    string      `query:"state" doc:"Only orders whose leg is in this state, or 'counted'."`
	Group    []string    `query:"group,explode" doc:"Only orders of this group: one key for each grouping, repeated; an empty key is 'none'."`
	Note     string      `query:"note" doc:"Only counted orders that this note of the answer concerns: negative, holidays-unknown or default-calendar."`
	Doubt    string      `query:"doubt" doc:"Only orders of which this doubt holds; its code."`
	Shortest optionalInt `query:"shortest" doc:"Only counted orders of at least this length."`
	Longest  optionalInt `query:"longest" doc:"Only counted orders of at most this length."`
	Sort     string      `query:"sort" doc:"number, length, value or a milestone; with a leading minus descending. Default number."`
	Offset   int         `query:"offset" minimum:"0"`
	Limit    int         `query:"limit" minimum:"1" maximum:"10000" default:"100"`
}

func (in *ordersInput) selection() summary.Selection {
	return summary.Selection{Placed: in.Placed, State: in.State, Keys: in.Group, Note: in.Note, Doubt: in.Doubt, Shortest: in.Shortest.value(), Longest: in.Longest.value()}
}

// An optionalInt tells a parameter of 0 from one that is not there.
type optionalInt struct {
	Number int
	given  bool
}

func (o optionalInt) value() *int {
	if !o.given {
		return nil
	}
	return &o.Number
}

// Schema, Receiver and OnParamSet let huma document and read it as an integer.
func (o optionalInt) Schema(r huma.Registry) *huma.Schema {
	return huma.SchemaFromType(r, reflect.TypeOf(0))
}

func (o *optionalInt) Receiver() reflect.Value { return reflect.ValueOf(o).Elem().Field(0) }

func (o *optionalInt) OnParamSet(isSet bool, _ any) { o.given = isSet }

// Resolve takes the groups as they stand in the address: huma leaves out empty ones, which are the key of
// "none".
func (in *ordersInput) Resolve(ctx huma.Context) []error {
	address := ctx.URL()
	in.Group = address.Query()["group"]
	return nil
}

func (s *server) orders(ctx context.Context, in *ordersInput) (*answered[api.Orders], error) {
	b := s.Snapshot()
	q, err := summary.Parse(b, in.request())
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	if len(q.Periods) > 1 {
		return nil, s.failed(ctx, &summary.RequestError{Word: "period", Value: in.Period, Reason: "a list of orders takes one period"})
	}
	sort, err := summary.ParseSort(b, in.Sort)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	listed, all, err := summary.List(b, q, in.selection(), sort, in.Offset, in.Limit)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	body := api.Orders{
		Sentence: q.Sentence().String(), Selected: selectedWords(q, in.selection()),
		All: all, Offset: in.Offset, Sort: in.Sort, Version: b.Version(), Orders: []api.OrderEntry{},
	}
	for _, l := range listed {
		body.Orders = append(body.Orders, entryBody(b, b.At(l.Row), q.Leg, l))
	}
	return &answered[api.Orders]{body}, nil
}

// selectedWords says which of the orders asked about are listed.
func selectedWords(q summary.Question, s summary.Selection) string {
	words := "all orders asked about"
	switch s.Placed {
	case summary.Outside:
		words = fmt.Sprintf("orders with `%s` outside %s", q.Basis.Name, q.Periods[0].Text)
	case summary.Undated:
		words = fmt.Sprintf("undated orders (no `%s` day known)", q.Basis.Name)
	}
	if parsed, err := leg.ParseState(s.State); err == nil {
		words = q.Leg.Label(parsed)
	} else if s.State != "" {
		words = s.State
	}
	for i, key := range s.Keys {
		words += fmt.Sprintf(", %v %s", q.By[i], cmp.Or(key, "(none)"))
	}
	for _, d := range doubt.All() {
		if d.Code == s.Doubt {
			words += ", " + d.Title
		}
	}
	if s.Note != "" {
		words += ", " + noteWords[s.Note]
	}
	switch shortest, longest := s.Shortest, s.Longest; {
	case shortest != nil && longest != nil && *shortest == *longest:
		words += ", " + figure.Counted(*shortest, unitNoun(q))
	case shortest != nil && longest != nil:
		words += fmt.Sprintf(", %d to %s", *shortest, figure.Counted(*longest, unitNoun(q)))
	case shortest != nil:
		words += fmt.Sprintf(", at least %s", figure.Counted(*shortest, unitNoun(q)))
	case longest != nil:
		words += fmt.Sprintf(", at most %s", figure.Counted(*longest, unitNoun(q)))
	}
	return words
}

// unitNoun is the unit of one.
func unitNoun(q summary.Question) string { return strings.TrimSuffix(q.Measure.Unit.Words(), "s") }

var noteWords = map[string]string{
	summary.NoteNegative:        "negative lengths",
	summary.NoteHolidaysUnknown: "holidays unknown on some day",
	summary.NoteDefaultCalendar: "counted by the default calendar",
}

func entryBody(b *book.Book, o book.Order, l leg.Leg, listed summary.Listed) api.OrderEntry {
	entry := api.OrderEntry{
		Number: o.Number, Fields: fieldsBody(b, o), Milestones: map[string]string{},
		State: listed.State.String(), StateLabel: l.Label(listed.State), HolidaysUnknown: listed.HolidaysUnknown,
	}
	for m, d := range o.Days {
		if d != 0 {
			entry.Milestones[b.Milestones()[m].Name] = d.String()
		}
	}
	if o.Valued {
		entry.Value = money.Format(o.Value, o.Fields[book.Currency])
	}
	if listed.State.Counted() {
		entry.Length = &listed.Length
	}
	return entry
}

type orderInput struct {
	Number string `path:"number" doc:"Order number."`
	LegInput
}

func (s *server) order(ctx context.Context, in *orderInput) (*answered[api.Order], error) {
	b := s.Snapshot()
	q, err := summary.Parse(b, summary.Request{From: in.From, To: in.To, In: in.In, Count: in.Count})
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	row, found := b.Find(in.Number)
	if !found {
		return nil, huma.Error404NotFound(fmt.Sprintf("there is no order %q in the book", in.Number))
	}
	body := orderBody(b, row, q)
	changes, err := s.Records.History(ctx, in.Number)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	for _, c := range changes {
		body.Changes = append(body.Changes, api.Change(c))
	}
	tables, err := s.Records.Parts(ctx, in.Number)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	for _, t := range tables {
		body.Parts = append(body.Parts, api.PartTable(t))
	}
	return &answered[api.Order]{body}, nil
}

func orderBody(b *book.Book, row int, q summary.Question) api.Order {
	o, known := b.At(row), b.KnownAt(row)
	own := b.CalendarAt(row)
	length := func(l leg.Leg) (leg.State, summary.Listed) {
		listed := summary.One(b, row, l, q.Measure)
		return listed.State, listed
	}
	state, listed := length(q.Leg)
	body := api.Order{
		Order:    entryBody(b, o, q.Leg, listed),
		Leg:      fmt.Sprintf("from %s to %s, in %s, %s", q.Leg.From.Name, q.Leg.To.Name, q.Measure.Unit.Words(), q.Measure.Rule.Words()),
		Unit:     q.Measure.Unit.String(),
		Calendar: own.Name(),
		Days:     []api.MilestoneOn{}, Strip: []api.StripDay{}, Legs: []api.LegState{}, Changes: []api.Change{}, Parts: []api.PartTable{}, Findings: append([]string{}, o.Findings.Words()...),
	}
	for m, d := range o.Days {
		if d != 0 {
			at := b.Milestones()[m]
			body.Days = append(body.Days, api.MilestoneOn{Name: at.Name, Day: d.String(), Plan: at.Plan, Known: known[m] != 0})
		}
	}
	slices.SortStableFunc(body.Days, func(x, y api.MilestoneOn) int { return strings.Compare(x.Day, y.Day) })
	if state.Counted() {
		at := func(m milestone.Milestone) day.Day { return known[milestone.Index(b.Milestones(), m.Name)] }
		strip := q.Measure.Strip(own, at(q.Leg.From), at(q.Leg.To))
		for _, c := range strip.Cells {
			body.Strip = append(body.Strip, api.StripDay{Day: c.Day.String(), Part: c.Part.String(), Name: c.Name})
		}
		body.SumLine = strip.String()
	}
	for _, l := range chain(b) {
		state, listed := length(l)
		entry := api.LegState{From: l.From.Name, To: l.To.Name, State: state.String(), StateLabel: l.Label(state)}
		if state.Counted() {
			entry.Length = &listed.Length
		}
		body.Legs = append(body.Legs, entry)
	}
	return body
}

// chain are the legs between facts that follow each other in an order's life, cancellation aside, and the
// whole way from ordered to delivered.
func chain(b *book.Book) []leg.Leg {
	var facts []milestone.Milestone
	for i, m := range milestone.BuiltIn() {
		if first, _ := b.Range(i); first != 0 && !m.Plan && m.Name != milestone.Cancelled {
			facts = append(facts, m)
		}
	}
	var legs []leg.Leg
	for i := 1; i < len(facts); i++ {
		legs = append(legs, leg.Leg{From: facts[i-1], To: facts[i]})
	}
	if len(facts) > 2 {
		legs = append(legs, leg.Leg{From: facts[0], To: facts[len(facts)-1]})
	}
	return legs
}
