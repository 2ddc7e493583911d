package demo

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
)

// The oddities that are planted among the orders, each on as many as stand beside it.
const (
	ShippedBeforeOrdered   = "shipped before ordered"
	NoOrderedDay           = "no ordered day"
	OrderedAfterDataDate   = "ordered after the data date"
	ShippedAfterDataDate   = "shipped after the data date"
	CancelledBeforeOrdered = "cancelled before ordered"
	CancelledBetween       = "cancelled between ordered and shipped"
	ShippedOnExtraDay      = "shipped on an extra working day"
	SameDay                = "shipped on the day it was ordered"
	NoSite                 = "no site"
	NoValue                = "no value"
	NoCurrency             = "no currency"
)

var planted = []struct {
	kind   string
	orders int
}{
	{ShippedBeforeOrdered, 4},
	{NoOrderedDay, 2},
	{OrderedAfterDataDate, 2},
	{ShippedAfterDataDate, 3},
	{CancelledBeforeOrdered, 2},
	{CancelledBetween, 2},
	{ShippedOnExtraDay, 2},
	{SameDay, 2},
	{NoSite, 2},
	{NoValue, 2},
	{NoCurrency, 1},
}

// plantedAt spreads the oddities over the orders, by place. A book too small to hide them has none.
func plantedAt(orders int) map[int]string {
	var kinds []string
	for _, p := range planted {
		for range p.orders {
			kinds = append(kinds, p.kind)
		}
	}
	at := map[int]string{}
	if orders < 4*len(kinds) {
		return at
	}
	for i, kind := range kinds {
		at[(i+1)*orders/(len(kinds)+1)] = kind
	}
	return at
}

// plant makes one order odd, and only in the way that its kind says.
func plant(kind string, o *book.Order, c *calendar.Calendar) {
	at := func(name string) *day.Day { return &o.Days[milestone.Index(milestone.BuiltIn(), name)] }
	ordered, shipped, delivered, cancelled := at(milestone.Ordered), at(milestone.Shipped), at(milestone.Delivered), at(milestone.Cancelled)
	plain := func(end day.Day) { *shipped, *delivered, *cancelled = end, 0, 0 }
	switch kind {
	case ShippedBeforeOrdered:
		plain(*ordered - 3)
	case NoOrderedDay:
		plain(*ordered + 4)
		*ordered = 0
	case OrderedAfterDataDate:
		*ordered = DataDate + 2
		*at(milestone.Requested), *at(milestone.Promised) = *ordered, 0
		plain(0)
	case ShippedAfterDataDate:
		plain(DataDate + 3)
	case CancelledBeforeOrdered:
		plain(0)
		*cancelled = *ordered - 1
	case CancelledBetween:
		plain(*ordered + 6)
		*cancelled = *ordered + 2
	case ShippedOnExtraDay:
		extra := c.Definition().Extra[0].Day
		*ordered = extra - 2
		*at(milestone.Requested), *at(milestone.Promised) = *ordered, 0
		plain(extra)
	case SameDay:
		plain(*ordered)
	case NoSite:
		o.Fields[book.Site] = ""
	case NoValue:
		o.Valued, o.Value = false, 0
	case NoCurrency:
		o.Fields[book.Currency] = ""
	}
}

// badRows are cells that make a row unusable. Each stands in a copy of an order's row under a number of its
// own; Column is empty where the row as a whole is at fault.
var badRows = []struct {
	column, cell string
}{
	{"ordered", "2026-02-30"},
	{"shipped", "31/09/2026"},
	{"ordered", "2206-05-04"},
	{"delivered", "2026-07-06T25:15"},
	{"value", "on request"},
	{"value", "1,250.00.00"},
	{"currency", "Euros"},
	{"number", ""},
	{"", ""},
}
