package server

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/immediate"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// ImmediateInput asks how much was immediate; exported for huma.
type ImmediateInput struct {
	Orders          string   `query:"orders" doc:"all (default), first: customers' first orders in the whole book, or first-within: the first ones within the period and the condition."`
	By              []string `query:"by" doc:"At most two groupings, with a comma between them."`
	Basis           string   `query:"basis" doc:"Milestone that places orders in the period; default ordered."`
	Period          string   `query:"period" doc:"Several with commas, each by itself; default all."`
	Got             string   `query:"got" doc:"shipped (default) or delivered: which of them on the day of the order."`
	NoRequestedDate string   `query:"no_requested_date" doc:"out (default) or in: whether orders without a requested date are in the denominator."`
	Cancelled       string   `query:"cancelled" doc:"in (default) or out: whether cancelled orders count; they are left out after the first ones are found."`
	Where           string   `query:"where" maxLength:"10000" doc:"A condition on orders in CEL."`
}

func (in ImmediateInput) question(b *book.Book) (immediate.Question, error) {
	q, err := immediate.Parse(b, immediate.Request{Which: in.Orders, By: in.By, Basis: in.Basis, Period: in.Period, Got: in.Got, NoRequestedDate: in.NoRequestedDate, Cancelled: in.Cancelled})
	if err != nil {
		return q, err
	}
	q.Where, err = conditionOf(b, "where", in.Where)
	return q, err
}

func (s *server) registerImmediate(to huma.API) {
	huma.Register(to, get("immediate", "/immediate", "How much was requested for the day of the order, and how much was got on it"), s.immediate)
	huma.Register(to, get("immediate-customers", "/immediate/customers", "How customers asked, first and later"), s.immediateCustomers)
}

func (s *server) immediate(ctx context.Context, in *ImmediateInput) (*answered[api.Immediate], error) {
	b := s.snapshot(ctx)
	q, err := in.question(b)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	end, err := s.acquireSlot(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	defer end()
	body := api.Immediate{Asked: immediateAsked(q, b.Version()), Orders: q.Which.String(), Got: q.Leg.To.Name, NoRequestedDate: numfmt.Either(q.WithoutDay, "in", "out"), Cancelled: numfmt.Either(q.LeaveCancelled, "out", "in"), Parts: []api.ImmediatePart{}}
	parts, groups := immediate.Ask(b, q), 0
	for _, part := range parts {
		groups += min(len(part.Groups), mostGroups)
	}
	if err := fits(groups*immediateNumbers, mostCells, "by", q.ByNames()); err != nil {
		return nil, s.failed(ctx, err)
	}
	for _, part := range parts {
		made := immediateBody(q, part)
		made.Notes = append(made.Notes, unequalNotes(part.Population.MetByMissing)...)
		body.Parts = append(body.Parts, made)
	}
	return &answered[api.Immediate]{body}, nil
}

// immediateNumbers is how many numbers people read of a group.
const immediateNumbers = int(immediate.AskedKinds) + int(immediate.GotKinds) + 6

func immediateAsked(q immediate.Question, version int64) api.Asked {
	return askedBody(q.Question, q.Sentence(), version)
}

func rateBody(s immediate.Share) api.Rate {
	low, high := s.Interval()
	return api.Rate{Some: s.Some, All: s.All, Percent: numfmt.Percent(s.Some, s.All), Low: number(low), High: number(high)}
}

func immediateGroup(q immediate.Question, g immediate.Group) api.ImmediateGroup {
	body := api.ImmediateGroup{Keys: append([]string{}, g.Keys...), Orders: g.Orders(), Asked: rateBody(g.AskedShare(q)), Got: rateBody(g.GotShare()), Kinds: []api.Kind{}, GotBy: []api.Kind{}, Cross: [][]int{},
		Ahead: api.FarAhead{MedianDays: number(g.Days.Quantile(0.5)), P90Days: number(g.Days.Quantile(0.9)), MedianWorkingDays: number(g.WorkingDays.Quantile(0.5)), P90WorkingDays: number(g.WorkingDays.Quantile(0.9))}}
	for a := range immediate.AskedKinds {
		body.Kinds = append(body.Kinds, api.Kind{Name: a.String(), Label: a.Label(), Orders: g.Asked(a)})
		body.Cross = append(body.Cross, slices.Clone(g.Cross[a][:]))
	}
	for got := range immediate.GotKinds {
		body.GotBy = append(body.GotBy, api.Kind{Name: got.String(), Label: got.Label(q.Leg.To), Orders: g.Got(got)})
	}
	return body
}

func immediateBody(q immediate.Question, part immediate.Part) api.ImmediatePart {
	body := api.ImmediatePart{Period: api.Period{Text: part.Population.Period.Text, From: part.Population.Period.Span.From.String(), To: part.Population.Period.Span.LastDay().String()},
		Groups: []api.ImmediateGroup{}, AllGroups: len(part.Groups), Total: immediateGroup(q, part.Total), LeftOut: []api.Kind{}, Notes: []api.Note{}}
	for _, g := range part.Groups[:min(len(part.Groups), mostGroups)] {
		body.Groups = append(body.Groups, immediateGroup(q, g))
	}
	words := map[immediate.Which]string{immediate.AllOrders: "order", immediate.FirstOrders: "first order", immediate.FirstWithin: "first order within the selection"}[q.Which]
	rate := part.Total.AskedShare(q)
	terms := []string{numfmt.Count(rate.Some) + " immediate", numfmt.Count(rate.All-rate.Some) + " " + numfmt.Either(q.WithoutDay, "booked ahead or without a requested date", "booked ahead")}
	for _, k := range body.Total.Kinds {
		if out := k.Name == immediate.RequestedBefore.String() || k.Name == immediate.NoRequestedDate.String() && !q.WithoutDay; out && k.Orders > 0 {
			terms = append(terms, numfmt.Count(k.Orders)+" "+k.Label)
		}
	}
	counted := numfmt.Counted(part.Total.Orders(), words)
	if q.Which == immediate.FirstWithin && part.Total.Orders() != 1 {
		counted = numfmt.Count(part.Total.Orders()) + " first orders within the selection"
	}
	body.ReconciliationLine = counted + " asked about = " + strings.Join(terms, " + ")
	placed := []string{numfmt.Count(part.Total.Orders()) + " asked about"}
	left := func(name string, orders int, format string, values ...any) {
		if orders > 0 {
			label := fmt.Sprintf(format, values...)
			body.LeftOut = append(body.LeftOut, api.Kind{Name: name, Label: label, Orders: orders})
			placed = append(placed, numfmt.Count(orders)+" "+label)
		}
	}
	for _, t := range part.Population.Terms(q.Basis) {
		if t.Code != string(query.Asked) {
			left(t.Code, t.Orders, "%s", t.Label)
		}
	}
	left("no-ordered-day", part.NoOrdered, "no `%s` day known", milestone.Ordered)
	left("no-customer", part.NoCustomer, "without a customer")
	left("not-first", part.NotFirst, "later than the customer's first")
	if q.Which == immediate.AllOrders {
		left("cancelled", part.CancelledLeft, "cancelled")
	} else {
		left("cancelled", part.CancelledLeft, "cancelled first orders, whose customers are lost so")
	}
	body.PlacementLine = numfmt.Counted(part.Population.InBook, "order") + " in the book = " + strings.Join(placed, " + ")
	note := func(code string, orders int, format string, values ...any) {
		if orders > 0 {
			body.Notes = append(body.Notes, api.Note{Code: code, Orders: orders, Text: fmt.Sprintf(format, values...)})
		}
	}
	note("tied", part.Tied, "%s came on a day with another order of the customer; the time of day told, else the number", numfmt.Counted(part.Tied, "first order"))
	note("near-beginning", part.NearBeginning, "%s lie within %d days of the book's first day: the customer may have had earlier ones", numfmt.Counted(part.NearBeginning, "first order"), immediate.Beginning)
	note("elsewhere", part.Elsewhere, "%s within the selection: the customer ordered before, outside the period or the condition", strings.Replace(numfmt.Counted(part.Elsewhere, "order"), " order", " first order", 1)+" are first only")
	return body
}

func (s *server) immediateCustomers(ctx context.Context, in *struct {
	ImmediateInput
	Change string `query:"change" enum:",ahead-then-immediate,immediate-then-ahead,none" doc:"Only customers who changed so."`
	Offset int    `query:"offset" minimum:"0" maximum:"1000000000"`
	Limit  int    `query:"limit" minimum:"1" maximum:"20000" default:"100"`
}) (*answered[api.AskingCustomers], error) {
	b := s.snapshot(ctx)
	in.Orders = immediate.FirstOrders.String()
	q, err := in.question(b)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	end, err := s.acquireSlot(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	defer end()
	all := immediate.Customers(b, q, q.Periods[0])
	body := api.AskingCustomers{Asked: immediateAsked(q, b.Version()), Offset: in.Offset, Changes: []api.Kind{}, Customers: []api.AskingCustomer{}}
	for change := range immediate.Changes {
		n := 0
		for _, c := range all {
			if c.Changed == change {
				n++
			}
		}
		label := [...]string{"no change both ways, or nothing to tell by", "first booked ahead, all later immediate", "first immediate, all later booked ahead"}[change]
		body.Changes = append(body.Changes, api.Kind{Name: change.String(), Label: label, Orders: n})
	}
	if in.Change != "" {
		all = slices.DeleteFunc(all, func(c immediate.Customer) bool { return c.Changed.String() != in.Change })
	}
	body.All = len(all)
	for _, c := range all[min(in.Offset, len(all)):min(in.Offset+in.Limit, len(all))] {
		block, at := b.Locate(c.Row)
		body.Customers = append(body.Customers, api.AskingCustomer{Customer: c.Name, Number: block.Numbers[at], First: c.First.String(), Asked: c.Asked.Label(), Tied: c.Tied, Orders: c.Orders, Later: rateBody(c.Later), Change: c.Changed.String()})
	}
	return &answered[api.AskingCustomers]{body}, nil
}

// onlyImmediate narrows the list to orders by what was asked and got, or by why they are left out.
func (a *askedList) onlyImmediate(in *OrdersInput) error {
	if in.Open != "" || in.Status != "" {
		return request.Invalid("immediate", in.Immediate, "a list is of what was open, of statuses or of what was immediate; want one")
	}
	asks := ImmediateInput{Orders: in.Which, Basis: in.Basis, Period: in.Period, Got: in.Got, Cancelled: in.Cancelled, Where: in.Where}
	q, err := asks.question(a.book)
	if err != nil {
		return err
	}
	if len(q.Periods) > 1 {
		return request.Invalid("period", in.Period, "a list of orders takes one period")
	}
	asked, got, _ := strings.Cut(in.Immediate, ":")
	pick := immediate.Pick{Asked: asked, Got: got}
	switch {
	case asked == "left":
		pick = immediate.Pick{Left: got}
	case asked == "any":
		pick.Asked = ""
	}
	test, err := immediate.Test(a.book, q, pick)
	if err != nil {
		return err
	}
	a.Selection.Only = append(a.Selection.Only, test)
	var words []string
	for kind := range immediate.AskedKinds {
		if pick.Asked == kind.String() {
			words = append(words, kind.Label())
		}
	}
	for kind := range immediate.GotKinds {
		if pick.Got == kind.String() {
			words = append(words, kind.Label(q.Leg.To))
		}
	}
	if pick.Left != "" {
		words = append(words, "left out: "+strings.ReplaceAll(pick.Left, "-", " "))
	}
	if q.Which != immediate.AllOrders {
		words = append(words, map[immediate.Which]string{immediate.FirstOrders: "customers' first ones", immediate.FirstWithin: "the first ones within the selection"}[q.Which])
	}
	if a.open = strings.Join(words, ", "); a.open == "" {
		a.open = "asked about"
	}
	if in.Period != "" {
		a.open += ", " + q.Basis.Words() + " in " + in.Period
	}
	return nil
}
