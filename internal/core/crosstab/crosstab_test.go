package crosstab

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/query/querytest"
	"prairiedusk/internal/core/request"
)

const from, to = 46000, 46060 // 2025-12-10 to 2026-02-08

func index(name string) int { return milestone.Index(milestone.BuiltIn(), name) }

// drawn is a random book beside the plain orders that it was made from.
type drawn struct {
	book     *book.Book
	orders   []book.Order
	dataDate day.Day
}

// drawDay draws days on both sides of the data date more often than by chance.
func drawDay(t *rapid.T, name string, likely float64, dataDate day.Day) day.Day {
	if rapid.Float64Range(0, 1).Draw(t, name+" given") > likely {
		return 0
	}
	return day.Day(rapid.OneOf(rapid.Int32Range(from, to), rapid.SampledFrom([]int32{int32(dataDate), int32(dataDate) + 1})).Draw(t, name))
}

func likely(t *rapid.T, name string) bool {
	return rapid.SampledFrom([]bool{true, true, true, false}).Draw(t, name)
}

// drawBook draws orders whose shipments without a line either take all or are of an order with one line, so that a walk over
// single units can tell where each went.
func drawBook(t *rapid.T) (d drawn) {
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	d.dataDate = day.Day(rapid.Int32Range(from+20, to).Draw(t, "data date"))
	builder := book.NewBuilder(book.BuiltIn())
	quantity := func(n int) parts.Quantity { return parts.Quantity{Thousandths: int64(n) * 1000, Known: true} }
	for id := range rapid.IntRange(1, 16).Draw(t, "orders") {
		o := book.Order{ID: int64(id), Number: fmt.Sprint("N", id), Days: make([]day.Day, len(milestone.BuiltIn()))}
		for i, name := range []string{"ordered", "requested", "shipped", "delivered", "invoiced", "paid", "cancelled"} {
			o.Days[index(name)] = drawDay(t, name, []float64{0.9, 0.7, 0.6, 0.5, 0.5, 0.5, 0.2}[i], d.dataDate)
		}
		o.Fields[book.Site] = rapid.SampledFrom([]string{"Galway", "Muscat", ""}).Draw(t, "site")
		o.Fields[book.Currency] = rapid.SampledFrom([]string{"EUR", "OMR", ""}).Draw(t, "currency")
		o.Value, o.Valued = int64(rapid.IntRange(0, 5000).Draw(t, "value")), likely(t, "valued")
		lines := rapid.SampledFrom([]int{1, 2, 3, 0}).Draw(t, "lines")
		for l := range lines {
			line := parts.Line{Number: fmt.Sprint(l + 1), Product: rapid.SampledFrom([]string{"Hive", "Suit", "Veil", ""}).Draw(t,
				"product"), Units: quantity(rapid.SampledFrom([]int{1, 2, 3, 4, 0}).Draw(t, "units"))}
			line.Units.Known = likely(t, "units known")
			line.Cancelled = quantity(rapid.SampledFrom([]int{0, 0, 0, 1, 9}).Draw(t, "cancelled units"))
			line.Value, line.Valued = int64(rapid.IntRange(0, 900).Draw(t, "line value"))*100, likely(t, "line valued")
			line.Shipped, line.Delivered = parts.Day{Day: drawDay(t, "line shipped", 0.1, d.dataDate)},
				parts.Day{Day: drawDay(t, "line delivered", 0.1, d.dataDate)}
			o.Lines = append(o.Lines, line)
		}
		for s := range rapid.SampledFrom([]int{1, 0, 2, 3}).Draw(t, "shipments") {
			shipment := parts.Shipment{Number: fmt.Sprint(s), Line: rapid.SampledFrom([]string{"", "1", "2", "9"}).Draw(t, "line"),
				Units:     quantity(rapid.IntRange(1, 5).Draw(t, "sent")),
				Shipped:   parts.Day{Day: drawDay(t, "left", 0.9, d.dataDate)},
				Delivered: parts.Day{Day: drawDay(t, "arrived", 0.7, d.dataDate)}}
			if lines > 1 && (shipment.Line == "" || shipment.Line == "9" || shipment.Line == "2" && lines < 2) {
				shipment.Units = quantity(99)
			}
			shipment.Units.Known = likely(t, "sent known")
			if s == 0 && rapid.IntRange(0, 3).Draw(t, "all in one") == 0 {
				shipment.Line, shipment.Units = "", quantity(0)
				for _, l := range o.Lines {
					shipment.Units.Thousandths += l.Units.Thousandths
				}
			}
			shipment.Carrier = rapid.SampledFrom([]string{"Road", "Sea", ""}).Draw(t, "carrier")
			o.Shipments = append(o.Shipments, shipment)
		}
		for p := range rapid.SampledFrom([]int{1, 0, 2}).Draw(t, "payments") {
			o.Payments = append(o.Payments, parts.Payment{Receipt: fmt.Sprint(p), Paid: parts.Day{Day: drawDay(t, "paid", 0.7, d.dataDate)},
				Currency: rapid.SampledFrom([]string{"EUR", ""}).Draw(t, "paid in")})
		}
		d.orders = append(d.orders, o)
		builder.Put(o)
	}
	d.book = builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: from, DataDate: d.dataDate}})
	return d
}

// A thing is what is counted once: an order, a line, one unit, a shipment, or a payment.
type thing struct {
	order, line int // the line, shipment or payment; −1 is none
	amount      int64
	days        []day.Day
	why         []string
}

// orderDay is an order's day of a milestone, or why it has none, by the words of the rules.
func (d drawn) orderDay(o book.Order, name string) (day.Day, string) {
	known := func(name string) day.Day {
		at := o.Days[index(name)]
		if at > d.dataDate && name != "requested" {
			return 0
		}
		return at
	}
	switch at := known(name); {
	case at != 0:
		return at, ""
	case known("cancelled") != 0 && name != "requested" && name != "ordered":
		return 0, "cancelled"
	case o.Days[index(name)] != 0:
		return 0, "after-data-date"
	case name == "requested", name == "ordered":
		return 0, "no-day"
	}
	return 0, "not-yet"
}

// parts walks over the shipments or payments of an order, each with days of its own where those are known.
func (d drawn) parts(i int, kind Kind) (all []thing) {
	o := d.orders[i]
	put := func(part int, own []day.Day) {
		it := thing{order: i, line: part, amount: 1}
		for k, at := range own {
			day, why := d.orderDay(o, ownDays[kind][k])
			switch {
			case at != 0 && at <= d.dataDate:
				day, why = at, ""
			case at != 0 && day == 0 && why != "cancelled":
				why = "after-data-date"
			}
			it.days, it.why = append(it.days, day), append(it.why, why)
		}
		all = append(all, it)
	}
	if kind == Payments {
		for part, p := range o.Payments {
			put(part, []day.Day{p.Paid.Day})
		}
		return all
	}
	for part, s := range o.Shipments {
		put(part, []day.Day{s.Shipped.Day, s.Delivered.Day})
	}
	return all
}

// ownDays are the milestones of which what is counted has days of its own.
var ownDays = map[Kind][]string{Units: {"shipped", "delivered"}, Shipments: {"shipped", "delivered"}, Payments: {"paid"}}

// units walks over the units of an order one by one: line, day of shipment and of delivery, or why there is none.
func (d drawn) units(i int) (all []thing) {
	o := d.orders[i]
	var whole thing
	for _, name := range []string{"shipped", "delivered"} {
		at, why := d.orderDay(o, name)
		whole.days, whole.why = append(whole.days, at), append(whole.why, why)
	}
	put := func(line int, amount int64, days []day.Day, why []string) {
		all = append(all, thing{i, line, amount, slices.Clone(days), slices.Clone(why)})
	}
	sent := func(s parts.Shipment) (days []day.Day, why []string) {
		days, why = slices.Clone(whole.days), slices.Clone(whole.why)
		for k, at := range []day.Day{s.Shipped.Day, s.Delivered.Day} {
			switch {
			case at > d.dataDate && days[k] == 0 && why[k] != "cancelled":
				why[k] = "after-data-date"
			case at > d.dataDate: // the order's own day stands, or its cancellation
			case at != 0:
				days[k], why[k] = at, ""
			}
		}
		return days, why
	}
	open := make([]int, len(o.Lines))
	named, takes, rests := make([]bool, len(o.Shipments)), make([]bool, len(o.Lines)), make([][]int, len(o.Lines))
	for l, line := range o.Lines {
		for j, s := range o.Shipments {
			named[j] = named[j] || s.Line == line.Number
		}
		if !line.Units.Known {
			continue
		}
		for range line.Units.Thousandths / 1000 {
			open[l]++
		}
		for range line.Cancelled.Thousandths / 1000 {
			if open[l] > 0 {
				open[l]--
				put(l, 1000, []day.Day{0, 0}, []string{"cancelled", "cancelled"})
			}
		}
		if own := (parts.Shipment{Shipped: line.Shipped, Delivered: line.Delivered}); own.Shipped.Day != 0 || own.Delivered.Day != 0 {
			days, why := sent(own)
			for ; open[l] > 0; open[l]-- {
				put(l, 1000, days, why)
			}
			continue
		}
		for j, s := range o.Shipments {
			if s.Line == line.Number && !s.Units.Known {
				rests[l] = append(rests[l], j)
			}
		}
		takes[l] = true
	}
	// A line whose units are not known may be in shipments that name none.
	unknown := slices.ContainsFunc(o.Lines, func(l parts.Line) bool {
		own := l.Shipped.Day != 0 || l.Delivered.Day != 0 || slices.ContainsFunc(o.Shipments,
			func(s parts.Shipment) bool { return s.Line == l.Number })
		return !l.Units.Known && !own
	})
	// Unit by unit, in the order of days; what shipments hold beyond is put twice.
	ships := byDays(o.Shipments)
	for at, j := range ships {
		s := o.Shipments[j]
		if !s.Units.Known || len(o.Lines) == 0 {
			continue
		}
		days, why := sent(s)
		l := slices.IndexFunc(o.Lines, func(l parts.Line) bool { return l.Number == s.Line })
		if l >= 0 && !takes[l] {
			continue
		}
		for range s.Units.Thousandths / 1000 {
			line := l
			if !named[j] {
				// Of what later shipments name it takes only where nothing else is left.
				line = slices.IndexFunc(open, func(int) bool { return false })
				for k, left := range open {
					for _, later := range ships[at+1:] {
						if o.Shipments[later].Line == o.Lines[k].Number {
							left -= int(o.Shipments[later].Units.Thousandths / 1000)
						}
					}
					if line < 0 && left > 0 && rests[k] == nil {
						line = k
					}
				}
				if line < 0 {
					line = slices.IndexFunc(open, func(left int) bool { return left > 0 })
				}
				if line < 0 && unknown {
					break
				}
			}
			if line >= 0 && open[line] > 0 {
				open[line]--
				put(line, 1000, days, why)
				continue
			}
			put(max(0, line), 1000, days, why)
			off, offWhy := slices.Clone(days), slices.Clone(why)
			for k, at := range []day.Day{s.Shipped.Day, s.Delivered.Day} {
				if at != 0 && at <= d.dataDate { // nothing is beyond before it has come
					off[k], offWhy[k] = 0, "beyond-ordered"
				}
			}
			put(max(0, line), -1000, off, offWhy)
		}
	}
	for l, rest := range rests {
		for _, j := range ships {
			if slices.Contains(rest, j) {
				rests[l] = []int{j}
			}
		}
		if rest != nil {
			days, why := sent(o.Shipments[rests[l][0]])
			for ; open[l] > 0; open[l]-- {
				put(l, 1000, days, why)
			}
		}
	}
	for l, left := range open {
		for range left {
			put(l, 1000, whole.days, whole.why)
		}
	}
	return all
}

// byDays are the places of shipments in the order of their days, those without one last.
func byDays(shipments []parts.Shipment) []int {
	places := make([]int, len(shipments))
	for i := range places {
		places[i] = i
	}
	late := func(d day.Day) day.Day {
		if d == 0 {
			return to + 1000
		}
		return d
	}
	slices.SortStableFunc(places, func(a, b int) int {
		x, y := shipments[a], shipments[b]
		return cmp.Or(cmp.Compare(late(x.Shipped.Day), late(y.Shipped.Day)), cmp.Compare(late(x.Delivered.Day), late(y.Delivered.Day)))
	})
	return places
}

// things are what a question counts, with the day of each basis.
func (d drawn) things(q Question) (all []thing) {
	for i, o := range d.orders {
		if q.Where.Condition != nil && o.Fields[book.Site] != "Galway" {
			continue
		}
		one := thing{order: i, line: -1, amount: 1}
		list := []thing{one}
		switch q.Show.Kind {
		case Units:
			list = d.units(i)
		case Shipments, Payments:
			list = d.parts(i, q.Show.Kind)
		}
		for _, it := range list {
			if q.Parts.Condition != nil && o.Shipments[it.line].Carrier != "Sea" {
				continue
			}
			own := it
			it.days, it.why = nil, nil
			for _, m := range q.Bases {
				at, why := d.orderDay(o, m.Name)
				if k := slices.Index(ownDays[q.Show.Kind], m.Name); k >= 0 {
					at, why = own.days[k], own.why[k]
				}
				it.days, it.why = append(it.days, at), append(it.why, why)
			}
			all = append(all, it)
		}
	}
	return all
}

// place names where a thing lies by a basis.
func (it thing) place(a Answer, k int) string {
	switch at := it.days[k]; {
	case at == 0:
		return it.why[k]
	case at < a.Days.From:
		return "before"
	case at > a.Days.LastDay():
		return "after"
	}
	return "inside"
}

// keys are those of a grouping under which a thing lies: several for an order with lines.
func (d drawn) keys(g *query.Grouping, it thing, on day.Day) []string {
	if g == nil {
		return []string{""}
	}
	o := d.orders[it.order]
	week := func(at day.Day) string {
		if at == 0 {
			return ""
		}
		year, week := at.Time().ISOWeek()
		return fmt.Sprintf("%d-W%02d", year, week)
	}
	switch g.String() {
	case "site":
		return []string{o.Fields[book.Site]}
	case "week":
		return []string{week(on)}
	case "weekday":
		return []string{on.Weekday().String()}
	case "month-of-year":
		_, month, _ := on.Date()
		return []string{month.String()}
	case "week(invoiced)":
		at, _ := d.orderDay(o, "invoiced")
		return []string{week(at)}
	}
	var names []string
	switch g.String() {
	case "shipments.carrier":
		for _, s := range o.Shipments {
			names = append(names, s.Carrier)
		}
	case "payments.currency":
		for _, p := range o.Payments {
			names = append(names, p.Currency)
		}
	default:
		for _, l := range o.Lines {
			names = append(names, l.Product)
		}
	}
	switch {
	case it.line >= 0:
		return []string{names[it.line]}
	case names == nil:
		return []string{""}
	}
	slices.Sort(names)
	return slices.Compact(names)
}

// A slow cell knows its orders, so that each is counted once.
type slowCell struct {
	amount int64
	orders map[int]bool
}

func (c *slowCell) put(it thing, goods bool) {
	if c.orders == nil {
		c.orders = map[int]bool{}
	}
	if goods || !c.orders[it.order] {
		c.amount += it.amount
	}
	c.orders[it.order] = true
}

func drawQuestion(t *rapid.T, d drawn) Question {
	show := rapid.SampledFrom([]string{"units", "orders", "shipments", "payments"}).Draw(t, "show")
	ofParts := rapid.SampledFrom(map[string][]string{"units": {"product"}, "orders": {"product", "shipments.carrier"},
		"shipments": {"shipments.carrier"}, "payments": {"payments.currency"}}[show]).Draw(t, "of parts")
	groupings := []string{"week", ofParts, ofParts, "site", "weekday", "", "month-of-year", "week(invoiced)"}
	r := Request{Show: show, Rows: rapid.SampledFrom(groupings).Draw(t, "rows"),
		Columns: rapid.SampledFrom(groupings).Draw(t, "columns"),
		Bases: rapid.SampledFrom([][]string{{"shipped"}, nil, {"requested", "delivered"}, {"ordered", "shipped", "delivered"},
			{"shipped", "invoiced"}, {"paid", "shipped"}}).Draw(t, "bases"),
		Top: rapid.SampledFrom([]int{0, 0, 1, 2}).Draw(t, "top"), Sort: rapid.SampledFrom([]string{"", "total", "name"}).Draw(t, "sort")}
	if r.Rows == r.Columns {
		r.Columns = ""
	}
	if rapid.Bool().Draw(t, "bounded") {
		a := day.Day(rapid.Int32Range(from-3, to).Draw(t, "first"))
		r.Period = a.String() + "/" + day.Day(rapid.Int32Range(int32(a), to+3).Draw(t, "last")).String()
	}
	q, err := Parse(d.book, r)
	require.NoError(t, err)
	if rapid.Bool().Draw(t, "where") {
		q.Where = query.Where{Text: "Galway", Condition: predicate.Compare{Operator: predicate.Equal, X: predicate.Field("site"),
			Y: predicate.Literal{Kind: predicate.OfText, Text: "Galway"}}}
	}
	if q.Show.Kind == Shipments && rapid.Bool().Draw(t, "by sea") {
		q.Parts = query.Where{Text: "by sea", Condition: predicate.Compare{Operator: predicate.Equal,
			X: predicate.PartColumn{Of: book.Shipments, Name: "carrier"}, Y: predicate.Literal{Kind: predicate.OfText, Text: "Sea"}}}
	}
	return q
}

// requireRowsInOrder wants rows that are named by fields by their names, or the greatest first and then by their names.
func requireRowsInOrder(t *rapid.T, q Question, rows []Row) {
	if q.Rows == nil || q.Rows.Cut != query.NoCut {
		return
	}
	for i := 1; i < len(rows) && rows[i].Others == 0; i++ {
		x, y := rows[i-1], rows[i]
		switch {
		case q.Sort != "name":
			require.LessOrEqual(t, -x.Total.Amount, -y.Total.Amount)
			require.True(t, x.Total.Amount > y.Total.Amount || book.CompareNumbers(x.Key, y.Key) < 0, "%q, %q", x.Key, y.Key)
		default:
			require.True(t, x.Key != "" && (y.Key == "" || book.CompareNumbers(x.Key, y.Key) < 0), "%q, %q", x.Key, y.Key)
		}
	}
}

func TestCountsAgreeWithAWalkOverTheUnits(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		q := drawQuestion(t, d)
		p := newPlan(d.book, q)
		querytest.Check(t, p.scope, p.newTally, func(counted *tally) any {
			c := p.counted(counted, 0)
			return []any{counted.cells, counted.rows, counted.columns, counted.all, counted.off, counted.orders, counted.bridge,
				counted.withDay, counted.missing, counted.uncounted, counted.several,
				counted.calendars, counted.withoutUnits, counted.withoutValue, counted.withoutParts, counted.differing,
				counted.inCurrency, counted.metByMissing, c.lengths}
		})
		a, err := Ask(d.book, q)
		require.NoError(t, err)
		require.Len(t, a.Parts, 1)
		part, goods := a.Parts[0], q.Show.Kind.OfParts()
		things := d.things(q)
		whole := int64(0)
		for _, it := range things {
			whole += it.amount
		}
		bridges := map[[3]any]int64{}
		requireRowsInOrder(t, q, part.Tables[0].Rows)
		for k, table := range part.Tables {
			cells, rows, columns, all := map[[2]string]*slowCell{}, map[string]*slowCell{}, map[string]*slowCell{}, &slowCell{}
			places := map[string]int64{}
			for _, it := range things {
				where := it.place(a, k)
				places[where] += it.amount
				name := func(place string) string {
					if place == "before" || place == "inside" || place == "after" {
						return place
					}
					return "none"
				}
				bridges[[3]any{k, name(it.place(a, 0)), name(where)}] += it.amount
				if where != "inside" {
					continue
				}
				all.put(it, goods)
				for _, row := range d.keys(q.Rows, it, it.days[k]) {
					for _, column := range d.keys(q.Columns, it, it.days[k]) {
						for _, c := range []*slowCell{at(cells, [2]string{row, column}), at(rows, row), at(columns, column)} {
							c.put(it, goods)
						}
					}
				}
			}
			sum := int64(0)
			for _, p := range table.Places {
				require.Equal(t, places[p.Name], p.Amount, p.Name)
				sum += p.Amount
			}
			require.Equal(t, whole, sum, "every date reconciles to the same whole")
			require.Equal(t, all.amount, table.Total.Total.Amount, "the total counts an order once")
			shown := map[string]bool{}
			for _, row := range table.Rows {
				if row.Others > 0 {
					continue
				}
				shown[row.Key] = true
				require.Equal(t, at(rows, row.Key).amount, row.Total.Amount, row.Key)
				for j, column := range part.Columns {
					require.Equal(t, at(cells, [2]string{row.Key, column.Key}).amount, row.Cells[j].Amount, "%s × %s", row.Key, column.Key)
				}
			}
			for j, column := range part.Columns {
				require.Equal(t, at(columns, column.Key).amount, table.Total.Cells[j].Amount, column.Key)
			}
			// What is not shown by itself lies in the others, each order once.
			others := &slowCell{}
			for _, it := range things {
				if it.place(a, k) == "inside" && slices.ContainsFunc(d.keys(q.Rows, it, it.days[k]),
					func(key string) bool { return !shown[key] }) {
					others.put(it, goods)
				}
			}
			if last := len(table.Rows) - 1; last >= 0 && table.Rows[last].Others > 0 {
				require.Equal(t, others.amount, table.Rows[last].Total.Amount, "all others")
				require.Equal(t, nonZero(d, q, a, k, things, func(keys []string) bool {
					return slices.ContainsFunc(keys, func(key string) bool { return !shown[key] })
				}, nil), picked(t, d, q, Pick{Basis: table.Basis.Name, Others: true}), "the orders of all others")
			} else {
				require.Zero(t, others.amount, "every row is shown")
			}
			// A cell, and a place, open their orders.
			for _, row := range table.Rows {
				for _, column := range part.Columns {
					if row.Others > 0 || rapid.IntRange(0, 3).Draw(t, "open") > 0 {
						continue
					}
					want := nonZero(d, q, a, k, things, func(keys []string) bool { return slices.Contains(keys, row.Key) }, &column.Key)
					require.Equal(t, want, picked(t, d, q, Pick{Basis: table.Basis.Name, Row: &row.Key, Column: &column.Key}))
				}
			}
			for _, p := range table.Places[1:] {
				require.Equal(t, p.Orders, picked(t, d, q, Pick{Basis: table.Basis.Name, Place: p.Name}), p.Name)
			}
		}
		for k, bridge := range part.Bridges {
			first, second := int64(0), int64(0)
			for _, step := range bridge.Steps {
				require.Equal(t, bridges[[3]any{k + 1, step.From, step.To}], step.Amount, "%v → %v: %s, %s", bridge.From, bridge.To,
					step.From, step.To)
				if step.From == "inside" {
					first += step.Amount
				}
				if step.To == "inside" {
					second += step.Amount
				}
			}
			require.Equal(t, []int64{part.Tables[0].Total.Total.Amount, part.Tables[k+1].Total.Total.Amount}, []int64{first, second},
				"a bridge sums to both ends")
		}
	})
}

func at[K comparable](cells map[K]*slowCell, key K) *slowCell {
	if cells[key] == nil {
		cells[key] = &slowCell{}
	}
	return cells[key]
}

// nonZero are how many orders have something of a row and a column; nil is any column.
func nonZero(d drawn, q Question, a Answer, k int, things []thing, row func(keys []string) bool, column *string) (n int) {
	sums := map[int]int64{}
	for _, it := range things {
		if it.place(a, k) != "inside" || !row(d.keys(q.Rows, it, it.days[k])) {
			continue
		}
		if column == nil || slices.Contains(d.keys(q.Columns, it, it.days[k]), *column) {
			sums[it.order] += it.amount
		}
	}
	for _, sum := range sums {
		if sum != 0 {
			n++
		}
	}
	return n
}

// picked counts the orders that a pick names; the list decides the condition.
func picked(t require.TestingT, d drawn, q Question, pick Pick) (n int) {
	test, err := Test(d.book, q, pick)
	require.NoError(t, err)
	for _, block := range d.book.Blocks() {
		for row := range block.IDs {
			if (q.Where.Condition == nil || d.orders[row].Fields[book.Site] == "Galway") &&
				test(book.Offset{Block: block, At: row, Row: row}) {
				n++
			}
		}
	}
	return n
}

// figures of orders by groups of lines: each order once in each, whatever the figure; value never multiplies by lines, and
// currencies never add.
func TestFiguresCountAnOrderOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		shipped := query.Where{Text: "shipped", Condition: predicate.Compare{Operator: predicate.Unequal, X: predicate.Day("shipped"),
			Y: predicate.Literal{}}}
		for _, show := range []string{"mean", "share", "immediate", "one-shipment"} {
			q, err := Parse(d.book, Request{Show: show, In: "days", Rows: "product", Columns: "site", Meets: shipped,
				Top: rapid.IntRange(0, 2).Draw(t, "top")})
			require.NoError(t, err)
			a, err := Ask(d.book, q)
			require.NoError(t, err)
			figure := func(o book.Order) (some float64, counted bool) {
				ordered, _ := d.orderDay(o, "ordered")
				end, _ := d.orderDay(o, "shipped")
				requested := o.Days[index("requested")]
				switch show {
				case "mean":
					return float64(end - ordered), end >= ordered && end != 0
				case "share":
					return map[bool]float64{true: 1}[end != 0], true
				case "one-shipment":
					left := slices.DeleteFunc(slices.Clone(o.Shipments), func(s parts.Shipment) bool {
						return s.Shipped.Day == 0 ||
							s.Shipped.Day > d.dataDate
					})
					return map[bool]float64{true: 1}[len(left) == 1], end != 0 && len(left) > 0
				}
				return map[bool]float64{true: 1}[requested == ordered], requested >= ordered
			}
			mean := func(in func(i int, o book.Order) bool) (float64, int) {
				sum, n := 0.0, 0
				for i, o := range d.orders {
					if at, _ := d.orderDay(o, "ordered"); at == 0 || !in(i, o) {
						continue
					}
					if some, counted := figure(o); counted {
						sum, n = sum+some, n+1
					}
				}
				return sum / float64(max(1, n)), n
			}
			check := func(c Cell, in func(i int, o book.Order) bool, what ...any) {
				want, n := mean(in)
				if show == "mean" {
					require.Equal(t, n, c.Lengths.Orders(), what...)
					if n > 0 {
						require.InDelta(t, want, c.Lengths.Mean(), 1e-9, what...)
					}
					return
				}
				require.Equal(t, int64(n), c.Of, what...)
				require.InDelta(t, want*float64(n), float64(c.Amount), 1e-6, what...)
			}
			table := a.Parts[0].Tables[0]
			shown := map[string]bool{}
			for _, row := range table.Rows {
				shown[row.Key] = row.Others == 0 || shown[row.Key]
			}
			for _, row := range table.Rows {
				in := func(i int, _ book.Order) bool {
					return slices.ContainsFunc(d.keys(q.Rows, thing{order: i, line: -1}, 0), func(key string) bool {
						return row.Others == 0 && key == row.Key || row.Others > 0 && !shown[key]
					})
				}
				check(row.Total, in, show, row.Key)
				for j, column := range a.Parts[0].Columns {
					check(row.Cells[j], func(i int, o book.Order) bool { return in(i, o) && o.Fields[book.Site] == column.Key }, show,
						row.Key, column.Key)
				}
			}
			check(table.Total.Total, func(int, book.Order) bool { return true }, show, "all")
		}

		q, err := Parse(d.book, Request{Show: "value", Rows: "product", Columns: "week", Bases: []string{"shipped", "ordered"}})
		require.NoError(t, err)
		a, err := Ask(d.book, q)
		require.NoError(t, err)
		for _, part := range a.Parts {
			want := int64(0)
			for _, o := range d.orders {
				if o.Valued && o.Fields[book.Currency] == part.Currency {
					want += o.Value
				}
			}
			for _, table := range part.Tables {
				got, cells := int64(0), int64(0)
				for _, p := range table.Places {
					got += p.Amount
				}
				for _, row := range table.Rows {
					for _, c := range row.Cells {
						cells += c.Amount
					}
				}
				require.Equal(t, want, got, part.Currency)
				require.Equal(t, table.Total.Total.Amount, cells)
			}
		}
	})
}

// Where the units of an order of two lines, 4 and 6 units ordered on day 0, lie by the day on which they were shipped.
func TestUnitsLeaveOnTheirOwnDays(t *testing.T) {
	sent := func(line string, units int64, on day.Day) parts.Shipment {
		return parts.Shipment{Number: fmt.Sprint(line, on), Line: line, Units: parts.Quantity{Thousandths: units * 1000,
			Known: units > 0}, Shipped: parts.Day{Day: from + on}}
	}
	for name, tt := range map[string]struct {
		give func(o *book.Order)
		want map[string]int64 // by day after the order's, or place
	}{
		"a line goes on after it is whole": {func(o *book.Order) { o.Shipments = []parts.Shipment{sent("1", 4, 3), sent("1", 2, 9)} },
			map[string]int64{"3": 4, "9": 2, "beyond-ordered": -2, "not-yet": 6}},
		"nothing known":       {func(o *book.Order) {}, map[string]int64{"not-yet": 10}},
		"the order's own day": {func(o *book.Order) { o.Days[index("shipped")] = from + 5 }, map[string]int64{"5": 10}},
		"cancelled":           {func(o *book.Order) { o.Days[index("cancelled")] = from + 5 }, map[string]int64{"cancelled": 10}},
		"one shipment of all": {func(o *book.Order) { o.Shipments = []parts.Shipment{sent("", 10, 3)} }, map[string]int64{"3": 10}},
		"in two": {func(o *book.Order) { o.Shipments = []parts.Shipment{sent("", 5, 3), sent("", 3, 4)} },
			map[string]int64{"3": 5, "4": 3, "not-yet": 2}},
		"a line alone": {func(o *book.Order) { o.Shipments = []parts.Shipment{sent("2", 6, 3)} },
			map[string]int64{"3": 6, "not-yet": 4}},
		"a line, units not known": {func(o *book.Order) { o.Shipments = []parts.Shipment{sent("1", 0, 3)} },
			map[string]int64{"3": 4, "not-yet": 6}},
		"a shipment, units not known": {func(o *book.Order) { o.Shipments = []parts.Shipment{sent("", 0, 3)} },
			map[string]int64{"not-yet": 10}},
		"more than was ordered": {func(o *book.Order) { o.Shipments = []parts.Shipment{sent("1", 5, 3), sent("", 9, 4)} },
			map[string]int64{"3": 5, "4": 9, "beyond-ordered": -4}},
		"a line with its own day": {func(o *book.Order) {
			o.Lines[0].Shipped.Day = from +
				2
			o.Shipments = []parts.Shipment{sent("", 6, 7)}
		}, map[string]int64{"2": 4, "7": 6}},
		"cancelled units": {func(o *book.Order) {
			o.Lines[1].Cancelled = parts.Quantity{Thousandths: 2000, Known: true}
			o.Shipments = []parts.Shipment{sent("", 8, 7)}
		}, map[string]int64{"7": 8, "cancelled": 2}},
		"after the data date": {func(o *book.Order) { o.Shipments = []parts.Shipment{sent("", 10, 99)} },
			map[string]int64{"after-data-date": 10}},
		"a line that the order lacks": {func(o *book.Order) { o.Shipments = []parts.Shipment{sent("9", 10, 3)} },
			map[string]int64{"3": 10}},
		"units of a line not known": {func(o *book.Order) {
			o.Lines[0].Units = parts.Quantity{}
			o.Shipments = []parts.Shipment{sent("2", 6, 3)}
		}, map[string]int64{"3": 6}},
		"the order beside a shipment": {func(o *book.Order) {
			o.Days[index("shipped")] = from + 5
			o.Shipments = []parts.Shipment{sent("1", 4, 3)}
		}, map[string]int64{"3": 4, "5": 6}},
		"one shipment of more": {func(o *book.Order) { o.Shipments = []parts.Shipment{sent("", 12, 3)} },
			map[string]int64{"3": 12, "beyond-ordered": -2}},
		"the example of the rules": {func(o *book.Order) {
			o.Lines[1].Cancelled = parts.Quantity{Thousandths: 2000, Known: true}
			o.Shipments = []parts.Shipment{sent("", 4, 3), sent("", 3, 34)}
		}, map[string]int64{"3": 4, "34": 3, "cancelled": 2, "not-yet": 1}},
		"all of a line, the rest goes": {func(o *book.Order) { o.Shipments = []parts.Shipment{sent("1", 4, 3), sent("", 6, 4)} },
			map[string]int64{"3": 4, "4": 6}},
	} {
		o := book.Order{ID: 1, Number: "N1", Days: make([]day.Day, len(milestone.BuiltIn()))}
		o.Days[index("ordered")] = from
		for l, units := range []int64{4000, 6000} {
			o.Lines = append(o.Lines, parts.Line{Number: fmt.Sprint(l + 1), Product: "Hive",
				Units: parts.Quantity{Thousandths: units, Known: true}})
		}
		tt.give(&o)
		builder := book.NewBuilder(book.BuiltIn())
		builder.Put(o)
		calendars, err := book.NewCalendars(nil)
		require.NoError(t, err)
		b := builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: from, DataDate: to}})
		placed := func(show string, unit int64) map[string]int64 {
			q, err := Parse(b, Request{Show: show, Bases: []string{"shipped", "ordered"}, Each: "day"})
			require.NoError(t, err)
			a, err := Ask(b, q)
			require.NoError(t, err)
			got := map[string]int64{}
			table := a.Parts[0].Tables[0]
			for _, row := range table.Rows {
				if row.Total.Amount != 0 {
					got[fmt.Sprint(int(row.Step.From)-from)] = row.Total.Amount / unit
				}
			}
			for _, p := range table.Places {
				if p.Name != "inside" && p.Amount != 0 {
					got[p.Name] = p.Amount / unit
				}
			}
			return got
		}
		if name == "a line goes on after it is whole" {
			require.Equal(t, map[string]int64{"3": 1, "not-yet": 1}, placed("lines", 1))
		}
		require.Equal(t, tt.want, placed("units", 1000), name)
	}
}

// A part lies in the step of its own day, also where the step names the date, and what another date places can have any day of it.
func TestStepsOfADateByName(t *testing.T) {
	o := book.Order{ID: 1, Number: "N1", Days: make([]day.Day, len(milestone.BuiltIn()))}
	o.Days[index("ordered")], o.Days[index("delivered")], o.Days[index("shipped")] = from, from+45, from+10
	o.Shipments = []parts.Shipment{{Number: "S1", Shipped: parts.Day{Day: from + 1}}, {Number: "S2", Shipped: parts.Day{Day: from + 40}}}
	builder := book.NewBuilder(book.BuiltIn())
	builder.Put(o)
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	b := builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: from, DataDate: to}})
	names := func(r Request) (names []string) {
		q, err := Parse(b, r)
		require.NoError(t, err)
		a, err := Ask(b, q)
		require.NoError(t, err)
		for _, table := range a.Parts[0].Tables {
			for _, row := range table.Rows {
				if row.Total.Amount > 0 {
					names = append(names, row.Key)
				}
			}
		}
		return names
	}
	require.Equal(t, []string{"2025-12", "2026-01"}, names(Request{Show: "shipments", Bases: []string{"shipped"}, Rows: "month(shipped)"}))
	late := Request{Bases: []string{"shipped", "delivered"}, Rows: "month(shipped)", Period: "2026-01"}
	require.Equal(t, []string{"2025-12"}, names(late), "delivered in January, shipped before")
	late = Request{Bases: []string{"delivered"}, Rows: "month(shipped)", Period: "2026-01"}
	require.Equal(t, []string{"2025-12"}, names(late))
}

// An empty day says why: over several calendars it rests only where all do. Months of the year stand on the years behind them.
func TestEmptyDaysAndSeasons(t *testing.T) {
	d := func(text string) day.Day {
		at, err := day.Parse(text)
		require.NoError(t, err)
		return at
	}
	week, err := calendar.ParseWeek("Sun Mon Tue Wed Thu")
	require.NoError(t, err)
	var loaded []*calendar.Calendar
	for _, def := range []calendar.Definition{
		{Name: "Galway", Holidays: []calendar.NamedDay{{Day: d("2025-03-17"), Name: "Saint Patrick's Day"},
			{Day: d("2025-03-20"), Name: "Spring Day"}}},
		{Name: "Muscat", Patterns: []calendar.Pattern{{Week: week}}, Holidays: []calendar.NamedDay{{Day: d("2025-03-20"), Name: "Eid"}}},
	} {
		c, err := calendar.New(def)
		require.NoError(t, err)
		loaded = append(loaded, c)
	}
	calendars, err := book.NewCalendars(loaded)
	require.NoError(t, err)
	builder := book.NewBuilder(book.BuiltIn())
	for i, ordered := range []string{"2025-01-10", "2025-03-18", "2025-03-18", "2026-01-05", "2026-01-06", "2026-02-03"} {
		o := book.Order{ID: int64(i), Number: fmt.Sprint("N", i), Days: make([]day.Day, len(milestone.BuiltIn()))}
		o.Days[index("ordered")] = d(ordered)
		o.Fields[book.Site] = []string{"Galway", "Muscat"}[i%2]
		builder.Put(o)
	}
	b := builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: d("2025-01-01"), DataDate: d("2026-02-10")}})
	ask := func(r Request, where predicate.Condition) Answer {
		q, err := Parse(b, r)
		require.NoError(t, err)
		q.Where = query.Where{Condition: where}
		a, err := Ask(b, q)
		require.NoError(t, err)
		return a
	}
	reasons := func(a Answer) (why []string) {
		for _, row := range a.Parts[0].Tables[0].Rows {
			why = append(why, row.Why)
		}
		return why
	}
	days := Request{Each: "day", Period: "2025-03-14/2025-03-22"}
	assert.Equal(t, []string{"worked at Galway only", "weekend", "worked at Muscat only", "worked at Muscat only", "",
		"a working day with nothing", "holiday (Spring Day, Eid)", "worked at Galway only", "weekend"}, reasons(ask(days, nil)))
	galway := predicate.Compare{Operator: predicate.Equal, X: predicate.Field("site"),
		Y: predicate.Literal{Kind: predicate.OfText, Text: "Galway"}}
	one := ask(days, galway)
	assert.Equal(t, []string{"a working day with nothing", "weekend", "weekend", "holiday (Saint Patrick's Day)", "",
		"a working day with nothing", "holiday (Spring Day)", "a working day with nothing", "weekend"}, reasons(one))
	assert.Equal(t, []int{9, 4, 1}, []int{one.Parts[0].Tables[0].CalendarDays, one.Parts[0].Tables[0].WorkingDays,
		one.Parts[0].Tables[0].With}, "three means have three denominators")
	assert.Equal(t, "not in the book", reasons(ask(Request{Each: "day", Period: "2026-02-11"}, nil))[0])
	both := ask(Request{Each: "day", Bases: []string{"ordered", "promised"}, Period: "2026-02-10/2026-02-12"}, nil)
	const working = "a working day with nothing"
	assert.Equal(t, []string{working, "not in the book by order date; " + working, "not in the book by order date; " + working}, reasons(both),
		"a plan is known whatever its day")
	outside := func(of Table) (marks []bool) {
		for _, row := range of.Rows {
			marks = append(marks, row.Total.Outside)
		}
		return marks
	}
	assert.Equal(t, []bool{false, true, true}, outside(both.Parts[0].Tables[0]), "after the data date nobody knows, and it is not nought")
	assert.Equal(t, []bool{false, false, false}, outside(both.Parts[0].Tables[1]))
	for i, days := range []int{1, 3} {
		assert.Equal(t, []int{days, days}, []int{both.Parts[0].Tables[i].CalendarDays, both.Parts[0].Tables[i].WorkingDays},
			"each date has its own denominators")
	}
	assert.Equal(t, []string{"6 working days with nothing"}, reasons(ask(Request{Each: "month", Period: "2026-02-04/2026-02-14"}, nil)),
		"what is asked about and known of the month")

	assert.Equal(t, reasons(ask(days, nil)), reasons(ask(Request{Each: "day", Period: days.Period, Show: "median"}, nil)),
		"a day with orders that have no length yet is not empty")

	seasons := ask(Request{Columns: "month-of-year"}, nil)
	january, february := seasons.Parts[0].Columns[0], seasons.Parts[0].Columns[1]
	assert.Equal(t, []any{"January", []int{2025, 2026}, []int(nil)}, []any{january.Key, january.Whole, january.InPart})
	assert.Equal(t, []any{"February", []int{2025}, []int{2026}}, []any{february.Key, february.Whole, february.InPart})
	table := seasons.Parts[0].Tables[0]
	assert.Equal(t, []int64{3, 1}, []int64{table.Total.Cells[0].Amount, table.Total.Cells[1].Amount})
	assert.Equal(t, []float64{1.5, 0}, table.PerWhole[:2], "an order of a month that is known in part is in no mean of whole ones")
	weekdays := ask(Request{Rows: "weekday", Period: "2025-03-10/2025-03-23"}, nil)
	assert.Equal(t, []any{"Tuesday", 2, 1.0}, []any{weekdays.Parts[0].Tables[0].Rows[1].Key, weekdays.Parts[0].Tables[0].Rows[1].Days,
		weekdays.Parts[0].Tables[0].PerWhole[1]})
}

func TestRequestsThatAreRefused(t *testing.T) {
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	b := book.NewBuilder(book.BuiltIn()).Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: from, DataDate: to}})
	for _, tt := range []struct {
		request    Request
		word, want string
	}{
		{Request{Show: "weight"}, "show", "want orders, lines, units, value"},
		{Request{Show: "share"}, "meets", "a share is of orders that meet a condition"},
		{Request{Bases: []string{"shiped"}}, "basis", "did you mean shipped?"},
		{Request{Bases: []string{"shipped", "shipped"}}, "basis", "named twice"},
		{Request{Rows: "colour"}, "rows", "want one of customer, site"},
		{Request{Rows: "month(shiped)"}, "rows", "did you mean shipped?"},
		{Request{Rows: "month(line.sent)"}, "rows", "want line.shipped or line.delivered"},
		{Request{Rows: "site", Columns: "site"}, "columns", "stands in the rows already"},
		{Request{Each: "fortnight"}, "each", "want one of day, week"},
		{Request{Each: "month", Rows: "site"}, "rows", "want one of the two"},
		{Request{Period: "2026-01,2026-02"}, "period", "want one period"},
		{Request{Top: -1}, "top", "want 1 or more"},
		{Request{Parts: map[book.Part]query.Where{book.Lines: {Text: "line.units > 1"}}}, "lines", "here orders are; orders are picked by where"},
		{Request{Show: "payments", Parts: map[book.Part]query.Where{book.Lines: {Text: "line.units > 1"}}}, "lines", "here payments are"},
		{Request{Show: "shipments", Rows: "product"}, "rows", "lines are grouped by it; here shipments are counted or grouped by"},
		{Request{Rows: "product", Columns: "shipments.carrier"}, "columns", "shipments are grouped by it"},
	} {
		_, err := Parse(b, tt.request)
		var refused *request.Error
		require.ErrorAsf(t, err, &refused, "Parse(%+v)", tt.request)
		assert.Equal(t, tt.word, refused.Param)
		assert.ErrorContains(t, err, tt.want)
	}
	q, err := Parse(b, Request{Rows: "site", Sort: "Cork"})
	require.NoError(t, err)
	_, err = Ask(b, q)
	assert.ErrorContains(t, err, "want total, name or a column")
	for _, pick := range []Pick{{Basis: "paid"}, {Place: "nowhere"}, {Row: new("Cork")}, {Others: true},
		{Place: "inside", Other: "beside"}} {
		_, err := Test(b, q, pick)
		var refused *request.Error
		assert.ErrorAsf(t, err, &refused, "Test %+v", pick)
	}
}

// A lineCondition picks lines: by the condition, and by what a plain walk sees of a line.
type lineCondition struct {
	condition predicate.Condition
	met       func(o book.Order, l int, delivered day.Day) predicate.Truth
}

var (
	ofHives = lineCondition{predicate.Compare{Operator: predicate.Equal, X: predicate.PartColumn{Of: book.Lines, Name: "product"},
		Y: predicate.Literal{Kind: predicate.OfText, Text: "Hive"}}, func(o book.Order, l int, _ day.Day) predicate.Truth {
		return map[bool]predicate.Truth{true: predicate.True}[o.Lines[l].Product == "Hive"]
	}}
	late = lineCondition{predicate.Compare{Operator: predicate.Greater, X: predicate.PartColumn{Of: book.Lines, Name: book.AllDelivered},
		Y: predicate.Day("requested")}, func(o book.Order, _ int, delivered day.Day) predicate.Truth {
		requested := o.Days[index("requested")]
		switch {
		case requested == 0 || delivered == 0:
			return predicate.Undecided
		case delivered > requested:
			return predicate.True
		}
		return predicate.False
	}}
	lineConditions = map[string]lineCondition{"": {}, "hives": ofHives, "late": late,
		"late hives of Galway": {predicate.And{X: predicate.And{X: late.condition, Y: ofHives.condition},
			Y: predicate.Not{X: predicate.Compare{Operator: predicate.Unequal, X: predicate.Field("site"),
				Y: predicate.Literal{Kind: predicate.OfText, Text: "Galway"}}}}, func(o book.Order, l int,
			delivered day.Day) predicate.Truth {
			if o.Lines[l].Product != "Hive" || o.Fields[book.Site] != "Galway" {
				return predicate.False
			}
			return late.met(o, l, delivered)
		}}}
)

// Lines and values, which are counted in short loops where all of an order leaves alike, lie where their pieces do; of lines that a
// condition picks only those are counted, and the orders behind each place are as many as it says.
func TestLinesAndValuesLieWhereTheirPiecesDo(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		d.book = WithLineDays(d.book)
		only := lineConditions[rapid.SampledFrom(slices.Sorted(maps.Keys(lineConditions))).Draw(t, "condition")]
		q, err := Parse(d.book, Request{Show: rapid.SampledFrom([]string{"lines", "value", "units"}).Draw(t, "show"),
			Parts: map[book.Part]query.Where{book.Lines: {Text: "it", Condition: only.condition}},
			Rows:  rapid.SampledFrom([]string{"product", "product", "site", "week"}).Draw(t, "rows"), Columns: "weekday",
			Bases: rapid.SampledFrom([][]string{{"ordered"}, {"shipped"}, {"delivered", "ordered"}, {"ordered"}}).Draw(t, "bases")})
		require.NoError(t, err)
		a, err := Ask(d.book, q)
		require.NoError(t, err)
		p, block := newPlan(d.book, q), d.book.Blocks()[0]
		var s spool
		for k := range q.Bases {
			cells, places, with := map[[3]string]int64{}, map[[2]string]int64{}, map[string]map[day.Day]bool{}
			orders, decided, withoutUnits := map[[2]string]int{}, PartCounts{}, 0
			for i, o := range d.orders {
				pieces := slices.Clone(p.goods.pieces(block, i, &s))
				first, beyond := block.Parts[book.Lines].Of(i)
				whole := linesOf(pieces, first, beyond)
				if only.condition != nil {
					met := make([]predicate.Truth, len(whole))
					for l := range whole {
						met[l] = only.met(o, l, whole[l].days[byDelivery])
						*map[predicate.Truth]*int{predicate.True: &decided.Met, predicate.False: &decided.Unmet,
							predicate.Undecided: &decided.Undecided}[met[l]]++
					}
					other := func(of piece) bool { return of.part < 0 || met[of.part-first] != predicate.True }
					pieces, whole = slices.DeleteFunc(pieces, other), slices.DeleteFunc(whole, other)
				}
				for _, line := range whole {
					if q.Show.Kind == Units && !o.Lines[line.part-first].Units.Known {
						withoutUnits++
					}
				}
				if q.Show.Kind == Value && !o.Valued {
					continue
				}
				if q.Show.Kind == Lines {
					pieces = whole
				}
				own := map[string]int64{}
				currency := ""
				if q.Show.Kind == Value {
					currency = o.Fields[book.Currency]
				}
				for _, of := range pieces {
					on, where := p.pieceDay(&cursor{block: block, row: i}, k, &of)
					places[[2]string{currency, placeNames[where]}] += of.amount(q.Show.Kind)
					own[placeNames[where]] += of.amount(q.Show.Kind)
					if where != inside {
						continue
					}
					if of.amount(q.Show.Kind) != 0 {
						if with[currency] == nil {
							with[currency] = map[day.Day]bool{}
						}
						with[currency][on] = true
					}
					line := of.part
					if line >= 0 {
						line -= first
					}
					keys := d.keys(q.Rows, thing{order: i, line: line}, on)
					if line < 0 && q.Rows.String() == "product" && (q.Show.Kind != Units || o.Lines != nil) {
						keys = []string{""} // the difference to the sum of the lines is of none of them
					}
					for _, row := range keys {
						cells[[3]string{currency, row, on.Weekday().String()}] += of.amount(q.Show.Kind)
					}
				}
				for name, amount := range own {
					if amount != 0 {
						orders[[2]string{currency, name}]++
					}
				}
			}
			require.Equal(t, decided, a.Decided)
			require.Equal(t, withoutUnits, a.WithoutUnits)
			for _, part := range a.Parts {
				if q.Show.Kind != Units { // what is beyond what was ordered is taken off again, perhaps on its day
					require.Len(t, with[part.Currency], part.Tables[k].With, "days with any, in %q", part.Currency)
				}
				for _, at := range part.Tables[k].Places {
					require.Equal(t, places[[2]string{part.Currency, at.Name}], at.Amount, at.Name)
					require.Equal(t, orders[[2]string{part.Currency, at.Name}], at.Orders, at.Name)
					pick := Pick{Basis: q.Bases[k].Name, Place: at.Name}
					if q.Show.Kind == Value {
						pick.Currency = &part.Currency
					}
					holds, err := Test(d.book, q, pick)
					require.NoError(t, err)
					opened := 0
					for i := range d.orders {
						if holds(book.Offset{Block: block, At: i, Row: i}) {
							opened++
						}
					}
					require.Equal(t, at.Orders, opened, at.Name)
				}
				for _, row := range part.Tables[k].Rows {
					for j, column := range part.Columns {
						require.Equal(t, cells[[3]string{part.Currency, row.Key, column.Key}], row.Cells[j].Amount, "%s × %s", row.Key,
							column.Key)
					}
				}
			}
		}
	})
}

// A line lies under the step of its own day in which its date places it, and under no other.
func TestStepsOfTheDaysOfLines(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		step := rapid.SampledFrom([]string{"day", "week", "month", "weekday", "month-of-year"}).Draw(t, "step")
		q, err := Parse(WithLineDays(d.book), Request{Show: "lines", Rows: step + "(line.delivered)", Columns: step,
			Bases: []string{"delivered"}})
		require.NoError(t, err)
		a, err := Ask(WithLineDays(d.book), q)
		require.NoError(t, err)
		counted := int64(0)
		for _, row := range a.Parts[0].Tables[0].Rows {
			for j, column := range a.Parts[0].Columns {
				if n := row.Cells[j].Amount; n != 0 {
					require.Equal(t, column.Key, row.Key)
					counted += n
				}
			}
		}
		require.Equal(t, a.Parts[0].Tables[0].Total.Total.Amount, counted)
	})
}

// Every sentence says what is counted, by which dates, in which days and by what.
func TestSentences(t *testing.T) {
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	b := book.NewBuilder(book.BuiltIn()).Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: from, DataDate: to}})
	same := query.Where{Text: "shipped == ordered", Condition: predicate.Always(true)}
	for _, tt := range []struct {
		request Request
		want    string
	}{
		{Request{}, "How many orders were ordered in 2025-12-10 to 2026-02-08?"},
		{Request{Show: "value", Bases: []string{"ordered", "shipped", "invoiced"}, Each: "month", Period: "2026-01"},
			"What value was ordered, shipped, and invoiced (by the order's day), in each month of 2026-01?"},
		{Request{Show: "lines", Rows: "product", Columns: "weekday", Bases: []string{"delivered"}, Top: 5},
			"How many lines were delivered in 2025-12-10 to 2026-02-08, by product and weekday of delivery date, the first 5?"},
		{Request{Show: "p90", Columns: "month(shipped)", To: "delivered", In: "days", Count: "both-ends"},
			"What was the p90 of days from order date to delivery date, both ends counted, of orders ordered in 2025-12-10 to 2026-02-08, by month of ship date?"},
		{Request{Show: "share", Meets: same, Rows: "site", Period: "last-month"},
			"What share met shipped == ordered, of orders ordered in last-month (2026-01-01 to 2026-01-31), by site?"},
		{Request{Show: "units", Parts: map[book.Part]query.Where{book.Lines: {Text: "line.delivered > requested",
			Condition: predicate.Always(true)}}},
			"How many units were ordered in 2025-12-10 to 2026-02-08, of lines with line.delivered > requested?"},
		{Request{Show: "shipments", Bases: []string{"shipped", "paid"}, Parts: map[book.Part]query.Where{book.Shipments: {Text: "shipment.units > 1",
			Condition: predicate.Always(true)}}},
			"How many shipments were shipped, and paid (by the order's day), in 2025-12-10 to 2026-02-08, of shipments with shipment.units > 1?"},
		{Request{Show: "immediate", Columns: "month-of-year"},
			"What share was immediate (requested for the day of the order), of orders ordered in 2025-12-10 to 2026-02-08, by month of the year of order date?"},
	} {
		q, err := Parse(b, tt.request)
		require.NoError(t, err)
		assert.Equal(t, tt.want, q.Sentence().String())
	}
}
