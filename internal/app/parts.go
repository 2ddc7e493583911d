package app

import (
	"prairiedusk/internal/core/allocation"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/money"
	"prairiedusk/internal/store"
)

// A deriver gives orders the milestones that their parts tell.
type deriver struct {
	dataDate                                day.Day
	ordered, shipped, delivered, paid       int // milestones' indexes
	cancelled                               int
	firstShipped, firstDelivered, firstPaid int // -1 where no order has parts
	decimals                                map[string]int
}

func newDeriver(l book.Layout, dataDate day.Day) *deriver {
	index := func(name string) int { return milestone.Index(l.Milestones, name) }
	return &deriver{
		dataDate: dataDate,
		ordered:  index(milestone.Ordered), cancelled: index(milestone.Cancelled),
		shipped: index(milestone.Shipped), delivered: index(milestone.Delivered), paid: index(milestone.Paid),
		firstShipped: index(store.FirstShipped), firstDelivered: index(store.FirstDelivered), firstPaid: index(store.FirstPaid),
		decimals: map[string]int{},
	}
}

// order is an order of the store as the book holds it.
func (t *deriver) order(o book.Order) book.Order {
	if t.firstShipped < 0 || len(o.Lines)+len(o.Shipments)+len(o.Payments) == 0 {
		return o
	}
	currency := o.Fields[book.Currency]
	decimals, known := t.decimals[currency]
	if !known {
		decimals, _ = money.Decimals(currency) // intake has checked it
		t.decimals[currency] = decimals
	}
	if worth, known := worth(o.Lines, decimals); known && !o.Valued {
		o.Value, o.Valued = worth, true
	}
	told := parts.Derive(parts.Order{
		Lines: o.Lines, Shipments: o.Shipments, Payments: o.Payments,
		Value: o.Value, Valued: o.Valued, Currency: currency, Decimals: decimals,
	}, t.dataDate)
	findings := told.Findings
	for _, m := range []struct {
		told        parts.Derived
		last, first int
		differs     parts.Finding
	}{
		{told.Shipped, t.shipped, t.firstShipped, parts.ShippedDiffers},
		{told.Delivered, t.delivered, t.firstDelivered, parts.DeliveredDiffers},
		{told.Paid, t.paid, t.firstPaid, parts.PaidDiffers},
	} {
		o.Set(m.first, m.told.First)
		if !m.told.Says {
			continue
		}
		// Of a day after the data date nothing is known that parts could contradict.
		if own := o.Days[m.last]; own != 0 && own <= t.dataDate && own != m.told.Day.Day {
			findings |= m.differs
		}
		o.Set(m.last, m.told.Day)
	}
	o.Findings = findings
	// An order all of whose units were cancelled is cancelled with its last line, or else from its start on.
	if findings&parts.AllCancelled != 0 && o.Days[t.cancelled] == 0 {
		if told.Cancelled.Day != 0 {
			o.Set(t.cancelled, told.Cancelled)
		} else {
			o.Set(t.cancelled, parts.Day{Day: o.Days[t.ordered]})
		}
	}
	return o
}

// worth is what lines are worth together, in minor units of a currency that has so many decimals; it is known where each has a value.
func worth(lines []parts.Line, decimals int) (minor int64, known bool) {
	sum := int64(0)
	for _, l := range lines {
		if !l.Valued {
			return 0, false
		}
		sum += l.Value
	}
	return allocation.Minor(sum, decimals), len(lines) > 0
}
