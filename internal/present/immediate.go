package present

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/immediate"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// ImmediateQuestion understands a question about what was asked for at once. The error is a *request.Error.
func ImmediateQuestion(b *book.Book, in *api.ImmediateQuestion) (immediate.Question, error) {
	q, err := immediate.Parse(b, immediate.Request{Which: in.Orders, By: in.By, Basis: in.Basis, Period: in.Period, Achieved: in.Achieved,
		NoRequestedDate: in.NoRequestedDate, Cancelled: in.Cancelled})
	if err != nil {
		return q, err
	}
	q.Where, err = Condition(b, "where", in.Where.Where)
	return q, err
}

// Immediate says how much was requested for the day of the order, and how much was achieved on it.
func Immediate(b *book.Book, in *api.ImmediateQuestion, size Size) (*answer.Document, error) {
	q, err := ImmediateQuestion(b, in)
	if err != nil {
		return nil, err
	}
	d, parts := newDocument(b, "immediate", q.Sentence()), immediate.Ask(b, q)
	to, cells := size.behindOf("immediate", in), 0
	for _, part := range parts {
		title, own := "", to
		if len(parts) > 1 {
			title, own = part.Population.Period.Text, to.within(part.Population.Period.Text)
		}
		made := immediatePart(q, part, size, own)
		made.Title = title
		made.Untested = untestedEdges(b, q.Question, part.Population.Period)
		if q.Which == immediate.FirstOrders && part.Tied == 0 {
			made.Untested = append(made.Untested, "two orders of a customer on the day of the first")
		}
		for _, t := range made.Tables {
			cells += len(t.Rows) * len(t.Columns)
		}
		d.Parts = append(d.Parts, made)
	}
	return d, size.fits(cells, "by", q.ByNames())
}

// askedColumns are those of the kinds that were asked for.
const (
	askedShared    = "asked for"
	achievedShared = "achieved: "
	aheadShared    = "booked ahead by"
)

func immediatePart(q immediate.Question, part immediate.Part, size Size, to behind) answer.Part {
	made := newPart("")
	groups := answer.Table{Code: "groups", Columns: keyColumns(q.By, "group"), Rows: []answer.Row{}, Totals: []answer.Row{},
		All: len(part.Groups)}
	achieved := achievedShared + q.Leg.To.Words()
	groups.Columns = append(groups.Columns,
		answer.Column{Code: "orders", Heading: "orders", Kind: answer.Count},
		answer.Column{Code: "immediate", Heading: "immediate", Shared: askedShared, Kind: answer.Count},
		answer.Column{Code: "asked_all", Heading: "of", Shared: askedShared, Kind: answer.Count},
		answer.Column{Code: "asked_rate", Heading: "rate %", Shared: askedShared, Kind: answer.Percent},
		answer.Column{Code: "asked_low", Heading: "from %", Shared: askedShared, Kind: answer.Percent, Folded: true},
		answer.Column{Code: "asked_high", Heading: "to %", Shared: askedShared, Kind: answer.Percent, Folded: true},
		answer.Column{Code: "asked_interval", Heading: "95% interval", Shared: askedShared, Kind: answer.Text},
		answer.Column{Code: "booked_ahead", Heading: "booked ahead", Shared: askedShared, Kind: answer.Count, Folded: true},
		answer.Column{Code: "no_requested_date", Heading: "no requested date", Shared: askedShared, Kind: answer.Count},
		answer.Column{Code: "requested_before", Heading: "requested before ordered", Shared: askedShared, Kind: answer.Count,
			Folded: part.Total.Asked(immediate.RequestedBefore) == 0},
		answer.Column{Code: "achieved", Heading: "on the day", Shared: achieved, Kind: answer.Count},
		answer.Column{Code: "achieved_all", Heading: "of", Shared: achieved, Kind: answer.Count},
		answer.Column{Code: "achieved_rate", Heading: "rate %", Shared: achieved, Kind: answer.Percent},
		answer.Column{Code: "achieved_low", Heading: "from %", Shared: achieved, Kind: answer.Percent, Folded: true},
		answer.Column{Code: "achieved_high", Heading: "to %", Shared: achieved, Kind: answer.Percent, Folded: true},
		answer.Column{Code: "ahead_median_days", Heading: "median days", Shared: aheadShared, Kind: answer.Number, Unit: "days"},
		answer.Column{Code: "ahead_p90_days", Heading: "p90 days", Shared: aheadShared, Kind: answer.Number, Unit: "days", Folded: true},
		answer.Column{Code: "ahead_median_working_days", Heading: "median working days", Shared: aheadShared, Kind: answer.Number,
			Unit: "working days"},
		answer.Column{Code: "ahead_p90_working_days", Heading: "p90 working days", Shared: aheadShared, Kind: answer.Number,
			Unit: "working days", Folded: true},
	)
	row := func(keys []answer.Cell, g *immediate.Group, to behind) answer.Row {
		asked, got := g.AskedShare(q), g.GotShare()
		low, high := asked.Interval()
		gotLow, gotHigh := got.Interval()
		of := func(a immediate.Asked) answer.Cell { return answer.Orders(g.Asked(a), to.of("asked", a.String())) }
		return answer.Row{Cells: append(keys,
			answer.Orders(g.Orders(), to.of()),
			of(immediate.Immediate), answer.Whole(asked.All), rate(asked), answer.Measured(low, 2), answer.Measured(high, 2),
			interval(low, high), of(immediate.BookedAhead), of(immediate.NoRequestedDate), of(immediate.RequestedBefore),
			answer.Orders(got.Some, to.of("achieved_as", immediate.OnTheDay.String())), answer.Whole(got.All), rate(got),
			answer.Measured(gotLow, 2), answer.Measured(gotHigh, 2),
			answer.Measured(g.Days.Quantile(0.5), 1), answer.Measured(g.Days.Quantile(0.9), 1),
			answer.Measured(g.WorkingDays.Quantile(0.5), 1), answer.Measured(g.WorkingDays.Quantile(0.9), 1))}
	}
	for _, g := range first(part.Groups, size) {
		r := row(named(g.Keys), &g, to.group(g.Keys))
		if g.Step.From != 0 {
			r.From, r.To = g.Step.From.String(), g.Step.LastDay().String()
		}
		groups.Rows = append(groups.Rows, r)
	}
	groups.Totals = append(groups.Totals, row(named(slices.Repeat([]string{"all"}, max(1, len(q.By)))), &part.Total, to))
	made.Tables = append(made.Tables, groups, crossedTable(q, &part.Total, to))
	made.Lines = immediateLines(q, part, to)
	made.Notes = immediateNotes(part, to)
	return made
}

func rate(s immediate.Share) answer.Cell { return percent(s.Some, s.All) }

func interval(low, high float64) answer.Cell {
	from, to := answer.Measured(low, 2), answer.Measured(high, 2)
	if from.Text == "" {
		return answer.Cell{}
	}
	return answer.Words(from.Text + " to " + to.Text)
}

// crossedTable is what was asked beside what was achieved.
func crossedTable(q immediate.Question, g *immediate.Group, to behind) answer.Table {
	t := answer.Table{Code: "cross", Title: "Asked for, and achieved",
		Columns: []answer.Column{{Code: "asked", Heading: "asked for", Kind: answer.Text}}, Rows: []answer.Row{}, Totals: []answer.Row{},
		All: int(immediate.AskedKinds)}
	total := answer.Row{Cells: []answer.Cell{answer.Words("all")}}
	for got := range immediate.GotKinds {
		t.Columns = append(t.Columns, answer.Column{Code: got.String(), Heading: got.Label(q.Leg.To), Kind: answer.Count})
		total.Cells = append(total.Cells, answer.Orders(g.Got(got), to.of("achieved_as", got.String())))
	}
	t.Columns = append(t.Columns, answer.Column{Code: "all", Heading: "all", Kind: answer.Count})
	for asked := range immediate.AskedKinds {
		row := answer.Row{Cells: []answer.Cell{answer.Words(asked.Label())}}
		for got := range immediate.GotKinds {
			row.Cells = append(row.Cells, answer.Orders(g.Cross[asked][got], to.of("asked", asked.String(), "achieved_as", got.String())))
		}
		row.Cells = append(row.Cells, answer.Orders(g.Asked(asked), to.of("asked", asked.String())))
		t.Rows = append(t.Rows, row)
	}
	total.Cells = append(total.Cells, answer.Orders(g.Orders(), to.of()))
	t.Totals = append(t.Totals, total)
	return t
}

func immediateLines(q immediate.Question, part immediate.Part, to behind) []answer.Line {
	noun := [...]string{immediate.AllOrders: "order", immediate.FirstOrders: "first order", immediate.FirstWithin: "first order"}[q.Which]
	counted := numfmt.Counted(part.Total.Orders(), noun)
	if q.Which == immediate.FirstWithin {
		counted += " within the selection"
	}
	sum := answer.Term{Label: "selected", Orders: part.Total.Orders(), Behind: to.of()}
	var terms []answer.Term
	for asked := range immediate.AskedKinds {
		if n := part.Total.Asked(asked); n > 0 || asked <= immediate.BookedAhead {
			terms = append(terms, answer.Term{Label: asked.Label(), Orders: n, Behind: to.of("asked", asked.String())})
		}
	}
	lines := []answer.Line{answer.NewLine(counted+" selected", sum, terms...)}
	placed := append([]answer.Term{sum}, leftOut(part.Population, q.Question, to)...)
	for _, left := range []struct {
		code, label string
		orders      int
	}{
		{"no-ordered-day", "without " + milestone.DateName(milestone.Ordered), part.NoOrdered},
		{"no-customer", "without a customer", part.NoCustomer},
		{"not-first", "later than the customer's first", part.NotFirst},
		{"cancelled", numfmt.Either(q.Which == immediate.AllOrders, "cancelled", "cancelled first orders, whose customers are lost so"),
			part.CancelledLeft},
	} {
		if left.orders > 0 {
			placed = append(placed, answer.Term{Label: left.label, Orders: left.orders, Behind: to.of("left", left.code)})
		}
	}
	return append(lines, answer.NewLine(numfmt.Counted(part.Population.InBook, "order")+" in the book",
		answer.Term{Label: "in the book", Orders: part.Population.InBook}, placed...))
}

func immediateNotes(part immediate.Part, to behind) (notes []answer.Note) {
	notes = []answer.Note{}
	note := func(code string, orders int, format string, values ...any) {
		if orders > 0 {
			notes = append(notes, answer.Note{Code: code, Orders: orders, Text: fmt.Sprintf(format, values...)})
		}
	}
	note("tied", part.Tied, "%s came on the same day as another order of the customer; the time of day decides, else the order number",
		numfmt.Counted(part.Tied, "first order"))
	note("near-beginning", part.NearBeginning, "%s lie within %d days of the book's first day: the customer may have had earlier ones",
		numfmt.Counted(part.NearBeginning, "first order"), immediate.Beginning)
	note("elsewhere", part.Elsewhere, "%s within the selection: the customer ordered before, outside the period or the condition",
		strings.Replace(numfmt.Counted(part.Elsewhere, "order"), " order", " first order", 1)+" are first only")
	return append(notes, metByMissing(part.Population.MetByMissing, to)...)
}

// immediateOrders are those behind a number of the answer.
func immediateOrders(b *book.Book, words url.Values) (*Orders, picks, error) {
	in := &api.ImmediateQuestion{}
	pick, err := read("immediate", in, words)
	if err != nil {
		return nil, pick, err
	}
	q, err := ImmediateQuestion(b, in)
	switch {
	case err != nil:
		return nil, pick, err
	case len(q.Periods) > 1:
		return nil, pick, request.Invalid("period", in.Period, "a list of orders takes one period")
	}
	o := &Orders{Book: b, Question: duration.Question{Question: q.Question}}
	o.Selection.Keys, o.Selection.Note = pick.keys(), pick.take("note")
	if o.Selection.Placed, err = pick.placement(); err != nil {
		return nil, pick, err
	}
	of := immediate.Pick{Asked: pick.take("asked"), Got: pick.take("achieved_as"), Left: pick.take("left")}
	if o.Selection.Placed == query.Asked && o.Selection.Note == "" {
		test, err := immediate.Test(b, q, of)
		if err != nil {
			return nil, pick, err
		}
		o.Selection.Only = append(o.Selection.Only, test)
	}
	o.Words = immediateWords(q, of)
	return o, pick, nil
}

func immediateWords(q immediate.Question, pick immediate.Pick) string {
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
		words = append(words, [...]string{immediate.FirstOrders: "customers' first ones",
			immediate.FirstWithin: "the first ones within the selection"}[q.Which])
	}
	return strings.Join(words, ", ")
}

// CustomersQuestion understands a question about customers. The error is a *request.Error.
func CustomersQuestion(b *book.Book, in *api.ImmediateCustomersQuestion) (immediate.Question, error) {
	q, err := ImmediateQuestion(b, &api.ImmediateQuestion{Orders: immediate.FirstOrders.String(), Basis: in.Basis, Period: in.Period,
		Cancelled: in.Cancelled, Where: in.Where})
	if err == nil && len(q.Periods) > 1 {
		err = request.Invalid("period", in.Period, "want one period, in which first orders lie")
	}
	return q, err
}

// ImmediateCustomers says how customers asked in their first order, and in all later ones.
func ImmediateCustomers(b *book.Book, in *api.ImmediateCustomersQuestion, size Size) (*answer.Document, error) {
	q, err := CustomersQuestion(b, in)
	if err != nil {
		return nil, err
	}
	all := immediate.Customers(b, q, q.Periods[0])
	d, part := newDocument(b, "immediate-customers", q.Sentence()), newPart("")
	labels := [...]string{immediate.NoChange: "without a change, or with too few orders to say",
		immediate.AheadThenNow: "first booked ahead, all later immediate",
		immediate.NowThenAhead: "first immediate, all later booked ahead"}
	terms := make([]answer.Term, len(labels))
	for i, label := range labels {
		terms[i].Label = label
	}
	for _, c := range all {
		terms[c.Changed].Orders++
	}
	part.Lines = append(part.Lines, answer.NewLine(numfmt.Counted(len(all), "customer"),
		answer.Term{Label: "customers", Orders: len(all)}, terms...))
	if in.Change != "" {
		names := make([]string, immediate.Changes)
		for c := range immediate.Changes {
			names[c] = c.String()
		}
		if !slices.Contains(names, in.Change) {
			return nil, request.Invalid("change", in.Change, "want one of "+strings.Join(names, ", "))
		}
		all = slices.DeleteFunc(all, func(c immediate.Customer) bool { return c.Changed.String() != in.Change })
		d.Sentence[len(d.Sentence)-1].Text = ", of customers " + labels[slices.Index(names, in.Change)] + d.Sentence[len(d.Sentence)-1].Text
	}
	t := answer.Table{Code: "customers", All: len(all), Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "customer", Heading: "customer", Kind: answer.Text},
		{Code: "first_order", Heading: "first order", Kind: answer.Order},
		{Code: "on", Heading: "on", Kind: answer.Day},
		{Code: "asked", Heading: "asked for then", Kind: answer.Text},
		{Code: "later", Heading: "later orders", Kind: answer.Count},
		{Code: "later_immediate", Heading: "immediate", Shared: "later orders", Kind: answer.Count},
		{Code: "later_all", Heading: "of", Shared: "later orders", Kind: answer.Count},
		{Code: "later_rate", Heading: "rate %", Shared: "later orders", Kind: answer.Percent},
		{Code: "remark", Heading: "remark", Kind: answer.Text},
	}}
	shown, offset, err := page(all, in.Page, len(t.Columns), size, cause{"period", in.Period})
	if err != nil {
		return nil, err
	}
	t.Offset = offset
	for _, c := range shown {
		block, at := b.Locate(c.Row)
		var remarks []string
		if c.Tied {
			remarks = append(remarks, "another order that day")
		}
		if c.Changed != immediate.NoChange {
			remarks = append(remarks, strings.ReplaceAll(c.Changed.String(), "-", " "))
		}
		t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{answer.Words(c.Name), answer.Words(block.Numbers[at]),
			answer.Words(c.First.String()), answer.Words(c.Asked.Label()),
			answer.Whole(c.Orders), answer.Whole(c.Later.Some), answer.Whole(c.Later.All), rate(c.Later),
			answer.Words(strings.Join(remarks, "; "))}})
	}
	part.Tables = append(part.Tables, t)
	d.Parts = append(d.Parts, part)
	return d, nil
}
