package app

import (
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/money"
	"prairiedusk/internal/store"
)

// A teller gives orders the milestones that their parts tell.
type teller struct {
	dataDate                                day.Day
	shipped, delivered, paid                int // milestones' indexes
	firstShipped, firstDelivered, firstPaid int // -1 where no order has parts
	decimals                                map[string]int
}

func newTeller(l book.Layout, dataDate day.Day) *teller {
	index := func(name string) int { return milestone.Index(l.Milestones, name) }
	return &teller{
		dataDate: dataDate,
		shipped:  index(milestone.Shipped), delivered: index(milestone.Delivered), paid: index(milestone.Paid),
		firstShipped: index(store.FirstShipped), firstDelivered: index(store.FirstDelivered), firstPaid: index(store.FirstPaid),
		decimals: map[string]int{},
	}
}

// order is an order of the store as the book holds it.
func (t *teller) order(o book.Order) book.Order {
	if t.firstShipped < 0 || len(o.Lines)+len(o.Shipments)+len(o.Payments) == 0 {
		return o
	}
	currency := o.Fields[book.Currency]
	decimals, known := t.decimals[currency]
	if !known {
		decimals, _ = money.Decimals(currency) // intake has checked it
		t.decimals[currency] = decimals
	}
	shipped, delivered, paid, findings := parts.Tell(parts.Order{
		Lines: o.Lines, Shipments: o.Shipments, Payments: o.Payments,
		Value: o.Value, Valued: o.Valued, Currency: currency, Decimals: decimals,
	}, t.dataDate)
	for _, m := range []struct {
		told        parts.Told
		last, first int
		differs     parts.Finding
	}{
		{shipped, t.shipped, t.firstShipped, parts.ShippedDiffers},
		{delivered, t.delivered, t.firstDelivered, parts.DeliveredDiffers},
		{paid, t.paid, t.firstPaid, parts.PaidDiffers},
	} {
		o.Set(m.first, m.told.First.Day, m.told.First.At)
		if !m.told.Says {
			continue
		}
		// Of a day after the data date nothing is known that parts could contradict.
		if own := o.Days[m.last]; own != 0 && own <= t.dataDate && own != m.told.Day.Day {
			findings |= m.differs
		}
		o.Set(m.last, m.told.Day.Day, m.told.Day.At)
	}
	o.Findings = findings
	return o
}
