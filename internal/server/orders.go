package server

import (
	"cmp"
	"context"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/doubt"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/summary"
	"prairiedusk/internal/money"
)

type ordersInput struct {
	QuestionInput
	Placed   string         `query:"placed" doc:"The orders that are left out: by the period, outside or undated; by the condition, unmet or undecided. Default those asked about."`
	State    string         `query:"state" doc:"Only orders whose leg is in this state, or 'counted'."`
	Group    []string       `query:"group,explode" doc:"Only orders of this group: one key for each grouping, repeated; an empty key is 'none'."`
	Note     string         `query:"note" doc:"Only counted orders that this note of the answer concerns: negative, holidays-unknown, default-calendar, cut-off or cut-off-untimed."`
	Doubt    string         `query:"doubt" doc:"Only orders of which this doubt holds; its code."`
	Shortest optionalNumber `query:"shortest" doc:"Only counted orders of at least this length, in the unit."`
	Longest  optionalNumber `query:"longest" doc:"Only counted orders of at most this length, in the unit."`
	Sort     string         `query:"sort" doc:"number, length, value, a milestone or a field, each with a leading minus for descending; several with commas. Default number."`
	Offset   int            `query:"offset" minimum:"0"`
	Limit    int            `query:"limit" minimum:"1" maximum:"10000" default:"100"`
}

func (in *ordersInput) selection(u leg.Unit) summary.Selection {
	return summary.Selection{Placed: in.Placed, State: in.State, Keys: in.Group, Note: in.Note, Doubt: in.Doubt,
		Shortest: in.Shortest.in(u.TicksAtLeast), Longest: in.Longest.in(u.TicksAtMost)}
}

// An optionalNumber tells a parameter of 0 from one that is not there.
type optionalNumber struct {
	Number float64
	given  bool
}

// in is the number in ticks; nil where it is not given.
func (o optionalNumber) in(ticks func(float64) int) *int {
	if !o.given {
		return nil
	}
	n := ticks(o.Number)
	return &n
}

// Schema, Receiver and OnParamSet let huma document and read it as a number.
func (o optionalNumber) Schema(r huma.Registry) *huma.Schema {
	return huma.SchemaFromType(r, reflect.TypeOf(0.0))
}

func (o *optionalNumber) Receiver() reflect.Value { return reflect.ValueOf(o).Elem().Field(0) }

func (o *optionalNumber) OnParamSet(isSet bool, _ any) { o.given = isSet }

// Resolve takes the groups as they stand in the address: huma leaves out empty ones, which are the key of
// "none".
func (in *ordersInput) Resolve(ctx huma.Context) []error {
	address := ctx.URL()
	in.Group = address.Query()["group"]
	return nil
}

func (s *server) orders(ctx context.Context, in *ordersInput) (*answered[api.Orders], error) {
	b := s.Snapshot()
	q, err := in.question(b)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	if len(q.Periods) > 1 {
		return nil, s.failed(ctx, request.Refuse("period", in.Period, "a list of orders takes one period"))
	}
	sort, err := summary.ParseSort(b, in.Sort)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	selection := in.selection(q.Measure.Unit)
	listed, all, err := summary.List(b, q, selection, sort, in.Offset, in.Limit)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	body := api.Orders{
		Sentence: q.Sentence().String(), Heading: q.Heading(), Selected: selectedWords(q, selection),
		All: all, Offset: in.Offset, Sort: in.Sort, Version: b.Version(), Orders: []api.OrderEntry{},
	}
	for _, l := range listed {
		body.Orders = append(body.Orders, entryBody(b, b.At(l.Row), q, l))
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
	case summary.Unmet:
		words = "orders that are not as the condition asks"
	case summary.Undecided:
		words = "orders that lack what the condition asks about"
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
	unit := q.Measure.Unit
	switch shortest, longest := s.Shortest, s.Longest; {
	case shortest != nil && longest != nil && *shortest == *longest:
		words += ", " + unit.Length(*shortest)
	case shortest != nil && longest != nil:
		words += fmt.Sprintf(", %s to %s", unit.Text(*shortest), unit.Length(*longest))
	case shortest != nil:
		words += ", at least " + unit.Length(*shortest)
	case longest != nil:
		words += ", at most " + unit.Length(*longest)
	}
	return words
}

var noteWords = map[string]string{
	summary.NoteNegative:        "negative lengths",
	summary.NoteHolidaysUnknown: "holidays unknown on some day",
	summary.NoteDefaultCalendar: "counted by the default calendar",
	summary.NoteCutOff:          "ordered after the cut-off",
	summary.NoteCutOffUntimed:   "without a time of day, at a site with a cut-off",
}

func entryBody(b *book.Book, o book.Order, q summary.Question, listed summary.Listed) api.OrderEntry {
	entry := api.OrderEntry{
		Number: o.Number, Fields: fieldsBody(b, o), Milestones: milestonesBody(b, o), Times: map[string]string{},
		State: listed.State.String(), StateLabel: q.Leg.Label(listed.State), HolidaysUnknown: listed.HolidaysUnknown,
	}
	for m, at := range o.Instants {
		if at != 0 {
			entry.Times[b.Milestones()[m].Name] = at.Clock(b.LocalAt(book.AtSite, listed.Row).Zone)
		}
	}
	if o.Valued {
		entry.Value = money.Format(o.Value, o.Fields[book.Currency])
	}
	entry.Length = lengthBody(q, listed)
	return entry
}

// milestonesBody are the days of an order that are recorded, by name.
func milestonesBody(b *book.Book, o book.Order) map[string]string {
	days := map[string]string{}
	for m, d := range o.Days {
		if d != 0 {
			days[b.Milestones()[m].Name] = d.String()
		}
	}
	return days
}

// lengthBody is a length in units; nil where none is counted.
func lengthBody(q summary.Question, l summary.Listed) *float64 {
	if !l.State.Counted() {
		return nil
	}
	return number(q.Measure.Unit.Number(l.Length))
}

// lengthWords is a length with its unit, or the state of the leg.
func lengthWords(q summary.Question, l summary.Listed) string {
	if !l.State.Counted() {
		return q.Leg.Label(l.State)
	}
	return q.Measure.Unit.Length(l.Length)
}

type orderInput struct {
	Number string `path:"number" doc:"Order number."`
	LegInput
}

func (s *server) order(ctx context.Context, in *orderInput) (*answered[api.Order], error) {
	b := s.Snapshot()
	q, err := summary.Parse(b, in.LegInput.request())
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
	own := b.LocalAt(q.Side, row)
	listed, stretch := summary.One(b, row, q)
	body := api.Order{
		Order:    entryBody(b, o, q, listed),
		Leg:      fmt.Sprintf("from %s to %s, in %s, %s", q.Leg.From.Name, q.Leg.To.Name, q.Measure.Unit.Words(), q.Measure.RuleWords()),
		Heading:  q.Heading(),
		Words:    lengthWords(q, listed),
		Unit:     q.Measure.Unit.String(),
		Calendar: own.Name(),
		Zone:     zoneName(b.LocalAt(book.AtSite, row).Zone),
		Days:     []api.MilestoneOn{}, Strip: []api.StripDay{}, Legs: []api.LegState{}, Changes: []api.Change{}, Parts: []api.PartTable{}, Findings: append([]string{}, o.Findings.Words()...),
	}
	for m, d := range o.Days {
		if d != 0 {
			at := b.Milestones()[m]
			body.Days = append(body.Days, api.MilestoneOn{Name: at.Name, Day: d.String(), Time: body.Order.Times[at.Name], Plan: at.Plan, Known: known[m] != 0})
		}
	}
	slices.SortStableFunc(body.Days, func(x, y api.MilestoneOn) int {
		return cmp.Or(strings.Compare(x.Day, y.Day), strings.Compare(x.Time, y.Time))
	})
	if listed.State.Counted() {
		strip := q.Measure.Strip(own.Local, stretch)
		body.Strip, body.SumLine = stripBody(strip), strip.String()
	}
	for _, l := range chain(b) {
		one := q
		one.Leg = l
		listed, _ := summary.One(b, row, one)
		body.Legs = append(body.Legs, api.LegState{From: l.From.Name, To: l.To.Name, State: listed.State.String(), StateLabel: l.Label(listed.State), Length: lengthBody(one, listed)})
	}
	return body
}

func zoneName(zone *time.Location) string {
	if zone == nil {
		return ""
	}
	return zone.String()
}

func stripBody(s leg.Strip) []api.StripDay {
	days := []api.StripDay{}
	for _, c := range s.Cells {
		d := api.StripDay{Day: c.Day.String(), Part: c.Part.String(), Name: c.Name}
		if s.Measure.Unit.Timed() {
			d.Hours = number(s.Measure.Unit.Number(c.Seconds))
		}
		days = append(days, d)
	}
	return days
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
