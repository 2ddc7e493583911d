// Package crosstab counts orders, lines, units, values, lengths and shares by rows and columns, placed in time by one date or by
// several beside each other. Goods are placed by their own day: units that were shipped count on the day of their shipment.
package crosstab

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/spelling"
)

// A Kind is what is counted.
type Kind uint8

// Those up to Payments add up; the others are figures of the orders of a cell.
const (
	Orders Kind = iota
	Lines
	Units
	Value
	Shipments
	Payments
	Length
	Meeting   // the share of orders that meet a condition
	Immediate // the share of orders that were requested for the day of the order
	OneShipment
)

// AddsUp says whether what is counted of two sets of goods or orders is the sum of both.
func (k Kind) AddsUp() bool { return k <= Payments }

// Share says whether what is counted is a share of orders: some of all.
func (k Kind) Share() bool { return k >= Meeting }

// OfGoods says whether what is counted are goods.
func (k Kind) OfGoods() bool { return k == Lines || k == Units || k == Value }

// OfParts says whether what is counted are goods or other parts of orders, which have days of their own, and not orders.
func (k Kind) OfParts() bool { return k.OfGoods() || k == Shipments || k == Payments }

// Part are the parts of orders that are counted; goods are of lines.
func (k Kind) Part() book.Part {
	switch k {
	case Shipments:
		return book.Shipments
	case Payments:
		return book.Payments
	}
	return book.Lines
}

// ownDay is which of the days of their own places what is counted by a milestone; −1 where the order's day does.
func (k Kind) ownDay(m milestone.Milestone) int {
	switch {
	case !k.OfParts():
	case k == Payments && m.Name == milestone.Paid:
		return byPayment
	case k != Payments && m.Name == milestone.Shipped:
		return byShipment
	case k != Payments && m.Name == milestone.Delivered:
		return byDelivery
	}
	return -1
}

var kindNames = []string{"orders", "lines", "units", "value", "shipments", "payments"}

// String is the name of a kind that adds up.
func (k Kind) String() string { return kindNames[k] }

// shares are those that are named alone: in the API, and in words.
var shares = map[Kind]struct{ name, words, asks, unit string }{
	Immediate: {"immediate", "share requested for the day of the order", " was immediate (requested for the day of the order)",
		"% immediate"},
	// Of orders that are shipped and have shipments which tell when.
	OneShipment: {"one-shipment", "share shipped complete in one shipment", " was shipped complete in one shipment", "% in one shipment"},
}

// A Figure is what is shown in the cells.
type Figure struct {
	Kind      Kind
	Statistic distribution.Statistic // of a Length
	Meets     query.Where            // of Meeting
	name      string
}

// String is the figure's name in the API and on the command line.
func (f Figure) String() string { return f.name }

// A Request is a question in words. Empty words take their defaults.
type Request struct {
	Show    string // a figure; default orders
	From    string // with a statistic: its leg, unit, rule and calendar, as in query.Request
	To      string
	In      string
	Count   string
	Side    string
	CutOff  string   // on or off, as query.Request has it
	Bases   []string // milestones; default ordered
	Period  string   // one; default all orders
	Rows    string   // a grouping; default none
	Columns string   // a grouping; default none
	Each    string   // a step of time for each basis, in the place of rows
	Top     int      // so many rows and "all others"; 0 is all
	Sort    string   // a column's name, total or name; default time, else total
	// Meets is the condition of a share.
	Meets query.Where
	// Parts are conditions on the parts that are counted; see WithLineDays for the days of lines that one can name.
	Parts map[book.Part]query.Where
}

// A Question is a Request that has been understood against a book.
type Question struct {
	query.Question // leg, unit, condition
	Show           Figure
	Bases          []milestone.Milestone
	Period         period.Period
	Rows, Columns  *query.Grouping // nil is none
	Each           query.TimeBucket
	Top            int
	Sort           string
	Parts          query.Where // picks parts; without one all goods are counted, also those of no line
}

// maxBases bounds how many dates stand side by side.
const maxBases = 6

// Parse understands a request against a book. The error is a *request.Error.
func Parse(b *book.Book, r Request) (q Question, err error) {
	if len(r.Bases) == 0 {
		r.Bases = []string{milestone.Ordered}
	}
	if q.Question, err = query.Parse(b, query.Request{From: r.From, To: r.To, In: r.In, Count: r.Count, Calendar: r.Side,
		CutOff: r.CutOff, Period: r.Period, Basis: r.Bases[0]}); err != nil {
		return q, err
	}
	if len(q.Periods) > 1 {
		return q, request.Invalid("period", r.Period, "want one period, in which all dates are placed")
	}
	q.Period = q.Periods[0]
	whole := q.Period.Unbounded()
	for i, name := range r.Bases {
		at := milestone.Index(b.Milestones(), name)
		switch {
		case at < 0:
			return q, request.Invalid("basis", name, "no date of this book; "+spelling.Want(name, milestone.Names(b.Milestones())))
		case slices.Contains(r.Bases[:i], name):
			return q, request.Invalid("basis", name, "named twice")
		}
		q.Bases = append(q.Bases, b.Milestones()[at])
	}
	if whole { // plans are known whatever their day: the axis runs to the last of them
		for _, m := range q.Bases {
			if _, last := b.Range(milestone.Index(b.Milestones(), m.Name)); m.Plan {
				q.Period.Span.To = max(q.Period.Span.To, last+1)
			}
		}
	}
	if len(q.Bases) > maxBases {
		return q, request.Invalid("basis", strings.Join(r.Bases, ","), fmt.Sprintf("at most %d dates side by side", maxBases))
	}
	if q.Show, err = parseFigure(r); err != nil {
		return q, err
	}
	if r.Each != "" {
		if q.Each, err = query.ParseCut(r.Each); err != nil {
			return q, err
		}
		if r.Rows != "" {
			return q, request.Invalid("rows", r.Rows, "each has the steps of time in rows already; want one of the two")
		}
		r.Rows = r.Each
	}
	if q.Rows, err = parseGrouping(b, "rows", r.Rows); err != nil {
		return q, err
	}
	if q.Columns, err = parseGrouping(b, "columns", r.Columns); err != nil {
		return q, err
	}
	if q.Rows != nil && q.Columns != nil && *q.Rows == q.Columns.Named(r.Rows) {
		return q, request.Invalid("columns", r.Columns, "stands in the rows already")
	}
	if r.Top < 0 {
		return q, request.Invalid("top", fmt.Sprint(r.Top), "want 1 or more, or 0 for all")
	}
	q.Top, q.Sort, q.Parts = r.Top, r.Sort, r.Parts[q.Show.Kind.Part()]
	for part, where := range r.Parts {
		if !q.Show.Kind.OfParts() || part != q.Show.Kind.Part() {
			return q, request.Invalid(part.String(), where.Text, fmt.Sprintf(
				"a condition on %v picks what is counted of them, and here %s are; orders are picked by where", part, q.Show.name))
		}
	}
	if err := q.checkParts(); err != nil {
		return q, err
	}
	return q, q.checkSize(b)
}

// part are the parts of orders that lie in rows and columns by themselves: those that are counted or, of orders, those that they are
// grouped by.
func (q Question) part() book.Part {
	if !q.Show.Kind.OfParts() {
		for _, g := range []*query.Grouping{q.Rows, q.Columns} {
			if g != nil && g.Column > 0 {
				return g.Part
			}
		}
	}
	return q.Show.Kind.Part()
}

// checkParts refuses groupings of other parts than those that are counted.
func (q Question) checkParts() error {
	for word, g := range map[string]*query.Grouping{"rows": q.Rows, "columns": q.Columns} {
		if part := q.part(); g != nil && g.Column > 0 && g.Part != part {
			return request.Invalid(word, g.String(), fmt.Sprintf("%v are grouped by it; here %v are counted or grouped by", g.Part, part))
		}
	}
	return nil
}

func parseFigure(r Request) (Figure, error) {
	f := Figure{name: r.Show}
	if f.name == "" {
		f.name = kindNames[Orders]
	}
	if i := slices.Index(kindNames, f.name); i >= 0 {
		f.Kind = Kind(i)
		return f, nil
	}
	for kind, share := range shares {
		if share.name == f.name {
			f.Kind = kind
			return f, nil
		}
	}
	if f.name == "share" {
		if r.Meets.Condition == nil {
			return f, request.Invalid("meets", "", "a share is of orders that meet a condition; want one, such as shipped == ordered")
		}
		f.Kind, f.Meets = Meeting, r.Meets
		return f, nil
	}
	statistics, err := distribution.ParseStatistics([]string{f.name})
	if err != nil {
		return f, request.Invalid("show", r.Show,
			"want orders, lines, units, value, shipments, payments, share, immediate, one-shipment, or a statistic of a leg such as mean, median or p90")
	}
	f.Kind, f.Statistic = Length, statistics[0]
	return f, nil
}

func parseGrouping(b *book.Book, word, name string) (*query.Grouping, error) {
	if name == "" {
		return nil, nil
	}
	g, err := query.ParseGrouping(b, word, name)
	return &g, err
}

// mostCells bounds what is counted at a time: a number for each date, row, column and currency.
const mostCells = 1 << 24

func (q Question) checkSize(b *book.Book) error {
	p := newPlan(b, q)
	if cells := len(q.Bases) * p.rows * p.columns * p.lanes; cells > mostCells {
		return request.Invalid("rows", fmt.Sprint(q.Rows),
			fmt.Sprintf("rows × columns make %s cells, and at most %s can be counted; want a coarser grouping, or a shorter period",
				numfmt.Count(cells), numfmt.Count(mostCells)))
	}
	return nil
}

// Unit is that of the numbers, in words; empty of a value, which has its currency.
func (q Question) Unit() string {
	switch q.Show.Kind {
	case Value:
		return ""
	case Length:
		return fmt.Sprintf("%v, %s", q.Show.Statistic, q.UnitWords())
	case Meeting:
		return "% with " + q.Show.Meets.Text
	}
	if share, named := shares[q.Show.Kind]; named {
		return share.unit
	}
	return q.Show.name
}

// Words are what is counted by a date: "units shipped", "value of orders invoiced", "median working days from ordered to shipped".
func (q Question) Words(basis milestone.Milestone) string {
	switch q.Show.Kind {
	case Orders:
		return "orders " + basis.Words()
	case Length:
		return fmt.Sprintf("%v %s from %s to %s, %s, of orders %s", q.Show.Statistic, q.UnitWords(), q.Leg.From.Date(), q.Leg.To.Date(),
			q.counting(), basis.Words())
	case Meeting:
		return "share with " + q.Show.Meets.Text + " of orders " + basis.Words()
	}
	if share, named := shares[q.Show.Kind]; named {
		return share.words + " of orders " + basis.Words()
	}
	if q.Show.Kind.ownDay(basis) >= 0 || basis.Name == milestone.Ordered {
		return q.Show.name + " " + basis.Words()
	}
	return q.Show.name + " of orders " + basis.Words()
}

// counting are the count rule, and what cut-offs do.
func (q Question) counting() string {
	if words := q.CutOffWords(false); words != "" {
		return q.Measure.RuleWords() + ", " + words
	}
	return q.Measure.RuleWords()
}

// Sentence says exactly what is computed; whatever can be changed has a slot.
func (q Question) Sentence() query.Sentence {
	s := query.Sentence{}
	add := func(slot, text string) { s = append(s, query.SentencePart{Slot: slot, Text: text}) }
	switch kind := q.Show.Kind; {
	case kind == Length:
		add("", "What was the ")
	case kind.AddsUp() && kind != Value:
		add("", "How many ")
	default:
		add("", "What ")
	}
	switch q.Show.Kind {
	case Length:
		add("show", q.Show.Statistic.String())
		add("", " of ")
		add("in", q.UnitWords())
		add("", " from ")
		add("from", q.Leg.From.Date())
		add("", " to ")
		add("to", q.Leg.To.Date())
		add("", ", ")
		add("count", q.counting())
		add("", ", of orders")
	case Meeting:
		add("show", "share")
		add("", " met ")
		add("meets", q.Show.Meets.Text)
		add("", ", of orders")
	case Orders, Lines, Units, Value, Shipments, Payments:
		add("show", q.Show.name)
		add("", numfmt.Either(q.Show.Kind != Value, " were", " was"))
	default:
		add("show", "share")
		add("", shares[q.Show.Kind].asks+", of orders")
	}
	for i, m := range q.Bases {
		switch {
		case i == 0:
			add("", " ")
		case i == len(q.Bases)-1:
			add("", ", and ")
		default:
			add("", ", ")
		}
		words := m.Words()
		if q.Show.Kind.OfParts() && q.Show.Kind.ownDay(m) < 0 && m.Name != milestone.Ordered {
			words += " (by the order's day)"
		}
		add("basis", words)
	}
	if q.Each != query.NoCut {
		add("", ", in each ")
		add("each", q.Each.String())
		add("", " of ")
	} else {
		add("", numfmt.Either(len(q.Bases) > 1, ", in ", " in "))
	}
	words := q.Period.Text
	if q.Period.Unbounded() || strings.HasPrefix(words, "this-") || strings.HasPrefix(words, "last-") {
		words = strings.TrimSpace(words + " (" + q.Period.Days() + ")")
		if q.Period.Unbounded() {
			words = q.Period.Days()
		}
	}
	add("period", words)
	if q.Rows != nil && q.Each == query.NoCut {
		add("", ", by ")
		add("rows", q.Rows.Words(q.Bases[0]))
	}
	if q.Columns != nil {
		add("", numfmt.Either(q.Rows == nil || q.Each != query.NoCut, ", by ", " and "))
		add("columns", q.Columns.Words(q.Bases[0]))
	}
	if q.Top > 0 {
		add("", ", the first ")
		add("top", numfmt.Count(q.Top))
	}
	if q.Parts.Condition != nil {
		parts := q.Show.Kind.Part().String()
		add("", ", of "+parts+" with ")
		add(parts, q.Parts.Text)
	}
	if q.Where.Condition != nil {
		add("", ", where ")
		add("where", q.Where.Text)
	}
	add("", "?")
	return s
}
