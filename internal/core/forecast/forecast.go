// Package forecast says when open orders may ship: for each the median of what remains, given how long it has waited, by the estimate
// that counts running orders too, of the orders of its route where there are enough, else of its site, else of all.
package forecast

import (
	"maps"
	"runtime"
	"slices"
	"sync/atomic"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/estimate"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/work"
)

// Enough is how many shipped orders a group has at least whose estimate tells a forecast.
const Enough = 30

// A Level says of which orders the estimate is that told a forecast.
type Level uint8

// The levels, from the nearest group to all orders.
const (
	None Level = iota // no forecast
	OfRoute
	OfSite
	OfAll
	Levels // how many there are
)

// LevelNames are those of the levels, by which orders can be picked.
var LevelNames = [Levels]string{"", "route", "site", "all"}

// dense is how many lengths, from 0 on, are counted in a table; longer ones are few.
const dense = 64

// lengths are how many orders have shipped after, and waited for, so many working days.
type lengths struct{ shipped, waited counts }

// counts are by length.
type counts struct {
	few  [dense]uint32
	many map[int]uint32
}

func (c *counts) add(length int, n uint32) {
	switch {
	case n == 0:
	case length < dense:
		c.few[length] += n
	default:
		if c.many == nil {
			c.many = map[int]uint32{}
		}
		c.many[length] += n
	}
}

// each shows every length with its number.
func (c *counts) each(show func(length int, n uint32)) {
	for length, n := range c.few {
		if n > 0 {
			show(length, n)
		}
	}
	for length, n := range c.many {
		show(length, n)
	}
}

func (l *lengths) add(other *lengths) {
	other.shipped.each(l.shipped.add)
	other.waited.each(l.waited.add)
}

// A route is a site and a place, by their codes.
type route struct{ site, place uint32 }

// A Model tells forecasts as they could be told at the end of a day: from what was known by then alone.
type Model struct {
	book                        *book.Book
	at                          day.Day
	ordered, shipped, cancelled int // milestones
	ofRoute                     map[route]estimate.Curve
	ofSite                      map[uint32]estimate.Curve
	ofAll                       estimate.Curve
}

// At makes the model of the end of a day: one pass over the orders. Whatever is recorded for a later day plays no part.
func At(b *book.Book, at day.Day) *Model {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	m := &Model{book: b, at: at, ordered: index(milestone.Ordered), shipped: index(milestone.Shipped), cancelled: index(milestone.Cancelled),
		ofRoute: map[route]estimate.Curve{}, ofSite: map[uint32]estimate.Curve{}}
	workers := min(runtime.GOMAXPROCS(0), len(b.Blocks()))
	counted := make([]map[route]*lengths, workers)
	var next atomic.Int64
	work.Each(workers, func(worker int) {
		counted[worker] = map[route]*lengths{}
		for i := int(next.Add(1)) - 1; i < len(b.Blocks()); i = int(next.Add(1)) - 1 {
			m.count(b.Blocks()[i], counted[worker])
		}
	})
	routes, sites, all := map[route]*lengths{}, map[uint32]*lengths{}, &lengths{}
	for _, of := range counted {
		for r, l := range of {
			if routes[r] == nil {
				routes[r] = l
				continue
			}
			routes[r].add(l)
		}
	}
	for r, l := range routes {
		if sites[r.site] == nil {
			sites[r.site] = &lengths{}
		}
		sites[r.site].add(l)
		all.add(l)
		if c := curveOf(l); c != nil && r.site != 0 && r.place != 0 {
			m.ofRoute[r] = c
		}
	}
	for site, l := range sites {
		if c := curveOf(l); c != nil && site != 0 {
			m.ofSite[site] = c
		}
	}
	m.ofAll = curveOf(all)
	return m
}

// curveOf is the estimate of a group; nil where too few have shipped.
func curveOf(l *lengths) estimate.Curve {
	shipped := 0
	list := func(of *counts) (list []estimate.Count) {
		of.each(func(length int, n uint32) { list = append(list, estimate.Count{Length: length, Orders: int(n)}) })
		return list
	}
	l.shipped.each(func(_ int, n uint32) { shipped += int(n) })
	if shipped < Enough {
		return nil
	}
	return estimate.ProductLimit(list(&l.shipped), list(&l.waited))
}

// An order as it was known at the end of the model's day.
type order struct {
	start, closed day.Day // closed is zero while it is open
	shipped       bool    // it closed by being shipped
	known         bool    // it had been ordered by then, and its days are in order
	unclear       bool    // it had been, and what was known of it then is not known now
}

// blurred says that what is known of an order's goods by now tells another story of an earlier day than was known then: units that were
// cancelled since, or shipments that came since to an order of which nobody knows whether it was complete.
func (m *Model) blurred(block *book.Block, row int) bool {
	if m.at >= m.book.Bounds().DataDate {
		return false
	}
	later := func(of book.Part, column int) bool {
		from, to := block.Parts[of].Of(row)
		for _, d := range block.Parts[of].Columns[column].Numbers[from:to] {
			if d != book.None && day.Day(d) > m.at {
				return true
			}
		}
		return false
	}
	return later(book.Lines, book.LineCancelledOn) || block.Findings != nil && block.Findings[row]&parts.CompletenessUnknown != 0 &&
		later(book.Shipments, book.ShipmentShipped)
}

// order reads a row.
func (m *Model) order(block *book.Block, row int) (o order) {
	known := func(milestone int) day.Day {
		if d := block.Columns[milestone].Known[row]; d <= m.at {
			return d
		}
		return 0
	}
	ordered, shipped, cancelled := known(m.ordered), known(m.shipped), known(m.cancelled)
	if ordered != 0 && m.blurred(block, row) {
		o.unclear = true
		return o
	}
	switch {
	case ordered == 0, shipped != 0 && shipped < ordered, cancelled != 0 && cancelled < ordered:
		return o
	case shipped != 0 && (cancelled == 0 || shipped <= cancelled):
		o.closed, o.shipped = shipped, true
	default:
		o.closed = cancelled
	}
	o.start, o.known = m.startOf(block, row, ordered), true
	return o
}

// startOf is the day as which an order counts, after the cut-off of its site.
func (m *Model) startOf(block *book.Block, row int, ordered day.Day) day.Day {
	if block.EffectiveStarts != nil && block.EffectiveStarts[row] != 0 {
		return block.EffectiveStarts[row]
	}
	return ordered
}

// between is how many working days lie between two days, by the calendar of an order's site.
func (m *Model) between(block *book.Block, row int, from, to day.Day) int {
	if to <= from {
		return 0 // ordered after the cut-off, and shipped on the day all the same
	}
	return m.book.Locals(book.AtSite)[block.Codes[book.Site][row]].Elapsed(from, to)
}

// count counts the orders of a block by their routes.
func (m *Model) count(block *book.Block, of map[route]*lengths) {
	m.book.Pause()
	for row := range block.IDs {
		o := m.order(block, row)
		if !o.known {
			continue
		}
		r := route{block.Codes[book.Site][row], block.Codes[book.Place][row]}
		l := of[r]
		if l == nil {
			l = &lengths{}
			of[r] = l
		}
		switch {
		case o.shipped:
			l.shipped.add(m.between(block, row, o.start, o.closed), 1)
		case o.closed != 0:
			l.waited.add(m.between(block, row, o.start, o.closed), 1)
		default:
			l.waited.add(m.between(block, row, o.start, m.at), 1)
		}
	}
}

// Of forecasts when an order ships that was open at the end of the model's day: the first working day by which half of those that had
// waited as long have shipped. None of an order that was not open, or where the records do not show half of them shipped.
func (m *Model) Of(block *book.Block, row int) (on day.Day, by Level) {
	o := m.order(block, row)
	if !o.known || o.closed != 0 {
		return 0, None
	}
	waited := m.between(block, row, o.start, m.at)
	site, place := block.Codes[book.Site][row], block.Codes[book.Place][row]
	for _, of := range []struct {
		level Level
		curve estimate.Curve
	}{{OfRoute, m.ofRoute[route{site, place}]}, {OfSite, m.ofSite[site]}, {OfAll, m.ofAll}} {
		if of.curve == nil {
			continue
		}
		length, reached := of.curve.MedianAfter(waited)
		if !reached {
			continue // of those that wait as long a larger group may show more
		}
		on, err := m.book.Locals(book.AtSite)[site].Add(o.start, length, calendar.Keep)
		if err != nil {
			continue
		}
		return on, of.level
	}
	return 0, None
}

// The fields that Derive adds.
const (
	FieldForecast = "forecast"
	FieldBy       = "forecast-by"
)

// Derive is a book that says of each open order when it may ship, as told at the end of the data date, and by which orders. A field of
// the same name that files have brought is not overwritten.
func Derive(b *book.Book) *book.Book {
	for _, name := range []string{FieldForecast, FieldBy} {
		if _, taken := b.ParseField(name); taken {
			return b
		}
	}
	m := At(b, b.Bounds().DataDate)
	if m.ofAll == nil {
		return b
	}
	// The open orders of each block, by the place of its first order.
	type told struct {
		row int
		on  day.Day
		by  Level
	}
	of, starts := make([][]told, len(b.Blocks())), make([]int, len(b.Blocks()))
	for i, block := range b.Blocks()[:max(0, len(b.Blocks())-1)] {
		starts[i+1] = starts[i] + len(block.IDs)
	}
	work.Each(len(of), func(i int) {
		b.Pause()
		block := b.Blocks()[i]
		for row := range block.IDs {
			if block.Columns[m.shipped].Known[row] != 0 {
				continue
			}
			if on, by := m.Of(block, row); by != None {
				of[i] = append(of[i], told{row, on, by})
			}
		}
	})
	codes := map[day.Day]uint32{}
	for _, block := range of {
		for _, t := range block {
			codes[t.on] = 0
		}
	}
	values := []string{""}
	for i, d := range slices.Sorted(maps.Keys(codes)) {
		codes[d], values = uint32(i+1), append(values, d.String())
	}
	field := func(b *book.Book, name string, values []string, code func(t told) uint32) *book.Book {
		return b.WithFields(name, values, func(stretch book.Stretch, told []uint32) {
			at, _ := slices.BinarySearch(starts, stretch.Row)
			for _, t := range of[at] {
				told[t.row] = code(t)
			}
		})
	}
	return field(field(b, FieldForecast, values, func(t told) uint32 { return codes[t.on] }), FieldBy, LevelNames[:],
		func(t told) uint32 { return uint32(t.by) })
}
