package crosstab_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/backlog"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/crosstab"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
)

const begin = day.Day(46000)

func index(name string) int { return milestone.Index(milestone.BuiltIn(), name) }

// told gives an order the milestones that its parts tell, as the service does.
func told(o book.Order, dataDate day.Day) book.Order {
	of := parts.Derive(parts.Order{Lines: o.Lines, Shipments: o.Shipments, Value: o.Value, Valued: o.Valued, Decimals: 2}, dataDate)
	for name, m := range map[string]parts.Derived{milestone.Shipped: of.Shipped, milestone.Delivered: of.Delivered} {
		if m.Says {
			o.Set(index(name), m.Day)
		}
	}
	if of.Findings&parts.AllCancelled != 0 && o.Days[index(milestone.Cancelled)] == 0 {
		if o.Set(index(milestone.Cancelled), of.Cancelled); of.Cancelled.Day == 0 {
			o.Set(index(milestone.Cancelled), parts.Day{Day: o.Days[0]})
		}
	}
	o.Findings = of.Findings
	return o
}

func bookOf(t require.TestingT, dataDate day.Day, orders ...book.Order) *book.Book {
	b := book.NewBuilder(book.BuiltIn())
	for i, o := range orders {
		o.ID, o.Number = int64(i), fmt.Sprint("N", i)
		b.Put(told(o, dataDate))
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	return b.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: begin, DataDate: dataDate}})
}

// open is what is open at the data date, by `open`: units in thousandths and value in minor units.
func open(t require.TestingT, b *book.Book, to string) (units, value int64) {
	q, err := backlog.Parse(b, query.Request{To: to}, "")
	require.NoError(t, err)
	a, err := backlog.During(b, q, q.Periods[0], query.NoCut, true)
	require.NoError(t, err)
	end := a.Total.Rows[0].AtEnd
	require.Equal(t, end.Units, a.Total.Rows[0].AtStart.Units+a.Total.Rows[0].Opened.Units-a.Total.Rows[0].Closed.Units)
	for _, v := range end.Values {
		value += v
	}
	return end.Units, value
}

// places is where goods lie by a date, by `compare`.
func places(t require.TestingT, b *book.Book, show, basis string) map[string]int64 {
	q, err := crosstab.Parse(b, crosstab.Request{Show: show, Bases: []string{basis}})
	require.NoError(t, err)
	a, err := crosstab.Ask(b, q)
	require.NoError(t, err)
	at := map[string]int64{}
	for _, part := range a.Parts {
		for _, p := range part.Tables[0].Places {
			at[p.Name] += p.Amount
		}
	}
	return at
}

func quantity(n int64) parts.Quantity { return parts.Quantity{Thousandths: n * 1000, Known: true} }

// The worked example of semantics §9: one line of 10 units and 100.00, 5 cancelled, one shipment of 2 of them.
func TestOpenAndCompareAgreeOnTheWorkedExample(t *testing.T) {
	for cancelled, left := range map[day.Day]int64{0: 3, begin + 3: 3, begin + 9: 3, begin +
		10: 8} { // after the data date nothing is cancelled yet
		o := book.Order{Days: make([]day.Day, len(milestone.BuiltIn())), Value: 10000, Valued: true,
			Lines:     []parts.Line{{Number: "1", Units: quantity(10), Cancelled: quantity(5), CancelledOn: parts.Day{Day: cancelled}}},
			Shipments: []parts.Shipment{{Number: "S", Line: "1", Units: quantity(2), Shipped: parts.Day{Day: begin + 5}}}}
		o.Days[0] = begin
		b := bookOf(t, begin+9, o)
		units, value := open(t, b, milestone.Shipped)
		assert.Equal(t, []int64{left * 1000, left * 1000}, []int64{units, value}, "open")
		at := places(t, b, "value", milestone.Shipped)
		assert.Equal(t, []int64{2000, left * 1000, 8000 - left*1000}, []int64{at["inside"], at["not-yet"], at["cancelled"]})
	}
}

// Whatever orders, lines, shipments and cancellations: what `open` says is open is what `compare` says has not come, and what
// it says has closed is what has come or was cancelled.
func TestOpenAndCompareAgree(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		dataDate := begin + day.Day(rapid.IntRange(0, 12).Draw(t, "data date"))
		after := func(name string) parts.Day {
			return parts.Day{Day: rapid.SampledFrom([]day.Day{0, dataDate, dataDate + 1, begin, begin + 1, begin + 2, begin + 5,
				begin + 9, begin + 14}).Draw(t, name)}
		}
		sent := func(name string) parts.Quantity {
			q := quantity(rapid.Int64Range(0, 6).Draw(t, name))
			q.Known = rapid.IntRange(0, 4).Draw(t, name+" known") > 0
			return q
		}
		var orders []book.Order
		for range rapid.IntRange(1, 6).Draw(t, "orders") {
			o := book.Order{Days: make([]day.Day, len(milestone.BuiltIn())), Value: rapid.Int64Range(-50, 9999).Draw(t, "value"),
				Valued: true}
			o.Days[0] = begin
			o.Days[index(milestone.Shipped)], o.Days[index(milestone.Delivered)] = after("shipped").Day, after("delivered").Day
			if rapid.IntRange(0, 3).Draw(t, "is cancelled") == 0 {
				o.Days[index(milestone.Cancelled)] = after("cancelled").Day
			}
			for l := range rapid.IntRange(0, 3).Draw(t, "lines") {
				line := parts.Line{Number: fmt.Sprint(l + 1), Units: sent("units"),
					Cancelled:   quantity(rapid.SampledFrom([]int64{0, 0, 1, 6}).Draw(t, "cancelled units")),
					CancelledOn: after("cancelled on")}
				if line.Value, line.Valued = rapid.Int64Range(-100, 900).Draw(t, "line value")*100,
					rapid.IntRange(0, 3).Draw(t, "line valued") > 0; rapid.IntRange(0, 4).Draw(t, "own day") == 0 {
					line.Shipped, line.Delivered = after("line shipped"), after("line delivered")
				}
				o.Lines = append(o.Lines, line)
			}
			for s := range rapid.IntRange(0, 3).Draw(t, "shipments") {
				o.Shipments = append(o.Shipments, parts.Shipment{Number: fmt.Sprint(s),
					Line: rapid.SampledFrom([]string{"", "1", "2", "9"}).Draw(t, "line"), Units: sent("sent"), Shipped: after("left"),
					Delivered: after("arrived")})
			}
			orders = append(orders, o)
		}
		b := bookOf(t, dataDate, orders...)
		for _, basis := range []string{milestone.Shipped, milestone.Delivered} {
			units, value := open(t, b, basis)
			for show, is := range map[string]int64{"units": units, "value": value} {
				at := places(t, b, show, basis)
				require.Equal(t, at["not-yet"]+at["after-data-date"], is, "%s not %s", show, basis)
			}
		}
	})
}
