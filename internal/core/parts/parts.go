// Package parts tells an order's milestones from its parts: the lines it was placed with, the shipments in
// which it left and the payments that came for it. Parts beat what the order itself says.
package parts

import (
	"math"

	"prairiedusk/internal/core/day"
)

// A Quantity counts thousandths of a unit; it may not be known.
type Quantity struct {
	Thousandths int64
	Known       bool
}

// A Day is the day on which a part reached a milestone, and the instant where it is known; zero where it has not.
type Day struct {
	Day day.Day
	At  day.Instant
}

// A Line is one line of an order. Its own days are zero where only shipments tell.
type Line struct {
	Number, Product    string
	Units, Cancelled   Quantity
	Value              int64 // in ten-thousandths of the unit of the order's currency
	Valued             bool
	Shipped, Delivered Day
	Extra              []string // columns of the user's own; nil where there are none
}

// A Shipment is what left together, of one line or, with Line empty, of the order as a whole.
type Shipment struct {
	Number, Carrier    string
	Line               string
	Units              Quantity
	Shipped, Delivered Day
}

// A Payment is money that came for an order. Amount is in ten-thousandths of the currency's unit; an empty
// Currency is the order's.
type Payment struct {
	Receipt  string
	Paid     Day
	Amount   int64
	Known    bool
	Currency string
}

// An Order is what Tell looks at. Value is in minor units, of which the currency has Decimals.
type Order struct {
	Lines     []Line
	Shipments []Shipment
	Payments  []Payment
	Value     int64
	Valued    bool
	Currency  string
	Decimals  int
}

// A Finding is what an order's parts show beside its milestones. Findings are added up.
type Finding uint16

const (
	PartShipped         Finding = 1 << iota // something left, not all
	PartDelivered                           // something arrived, not all
	PartPaid                                // something was paid, not all
	CompletenessUnknown                     // shipments of the whole order do not say whether more follow
	PaidUnknown                             // payments in other currencies or without an amount
	WithLines                               // the order has lines
	ShippedDiffers                          // the order's own day is another than that of its parts
	DeliveredDiffers
	PaidDiffers
)

// Words says what a finding means for people; those that only count elsewhere say nothing.
func (f Finding) Words() (words []string) {
	for _, w := range []struct {
		finding Finding
		words   string
	}{
		{PartShipped, "part shipped"}, {PartDelivered, "part delivered"}, {PartPaid, "part paid"},
		{CompletenessUnknown, "shipments do not say whether more follow"},
		{PaidUnknown, "payments do not tell whether it is paid"},
		{ShippedDiffers, "its own `shipped` day is another than its shipments'"},
		{DeliveredDiffers, "its own `delivered` day is another than its shipments'"},
		{PaidDiffers, "its own `paid` day is another than its payments'"},
	} {
		if f&w.finding != 0 {
			words = append(words, w.words)
		}
	}
	return words
}

// Told is a milestone as its parts tell it: the last day once complete, and the first. Says is false where no
// part says anything.
type Told struct {
	Day, First Day
	Says       bool
}

// Tell gives the milestones as known at the data date: a part's day after it is not known.
func Tell(o Order, dataDate day.Day) (shipped, delivered, paid Told, findings Finding) {
	shipped, complete := o.reach(dataDate, func(l Line) Day { return l.Shipped }, func(s Shipment) Day { return s.Shipped })
	findings |= found(shipped, complete, PartShipped)
	delivered, complete = o.reach(dataDate, func(l Line) Day { return l.Delivered }, func(s Shipment) Day { return s.Delivered })
	findings |= found(delivered, complete, PartDelivered)
	paid, complete = o.pay(dataDate)
	if complete == cannotTell {
		findings |= PaidUnknown
	} else {
		findings |= found(paid, complete, PartPaid)
	}
	if len(o.Lines) > 0 {
		findings |= WithLines
	}
	return shipped, delivered, paid, findings
}

// completeness says whether all of an order has reached a milestone.
type completeness uint8

const (
	incomplete completeness = iota
	whole
	cannotTell
)

func found(t Told, c completeness, part Finding) Finding {
	switch {
	case !t.Says:
		return 0
	case c == incomplete:
		return part
	case c == cannotTell:
		return CompletenessUnknown
	}
	return 0
}

// span gathers days. Of a day on which some part has no time of day, the first and last instant are not known.
type span struct {
	first, last               Day
	firstUntimed, lastUntimed bool
}

func (s *span) add(d Day) {
	if s.first.Day == 0 || d.Day < s.first.Day {
		s.first, s.firstUntimed = d, false
	}
	if d.Day > s.last.Day {
		s.last, s.lastUntimed = d, false
	}
	if d.Day == s.first.Day {
		s.firstUntimed = s.firstUntimed || d.At == 0
		s.first.At = min(s.first.At, d.At)
	}
	if d.Day == s.last.Day {
		s.lastUntimed = s.lastUntimed || d.At == 0
		s.last.At = max(s.last.At, d.At)
	}
}

// ends are the first and last day.
func (s *span) ends() (first, last Day) {
	first, last = s.first, s.last
	if s.firstUntimed {
		first.At = 0
	}
	if s.lastUntimed {
		last.At = 0
	}
	return first, last
}

// reach tells a milestone that goods reach: by units where they are known, by lines otherwise, and with
// shipments of the whole order alone by the last of them.
func (o Order) reach(dataDate day.Day, ofLine func(Line) Day, ofShipment func(Shipment) Day) (Told, completeness) {
	known := func(d Day) bool { return d.Day != 0 && d.Day <= dataDate }
	var days span
	waiting := false // some shipment has not reached it
	for _, s := range o.Shipments {
		if d := ofShipment(s); known(d) {
			days.add(d)
		} else {
			waiting = true
		}
	}
	for _, l := range o.Lines {
		if d := ofLine(l); known(d) {
			days.add(d)
		}
	}
	first, last := days.ends()
	if first.Day == 0 {
		return Told{}, incomplete
	}
	told := Told{First: first, Says: true}
	c := o.complete(func(l Line) bool { return known(ofLine(l)) }, func(s Shipment) bool { return known(ofShipment(s)) }, waiting)
	if c != incomplete {
		told.Day = last
	}
	return told, c
}

// complete compares what has reached a milestone with what was ordered, less what was cancelled.
func (o Order) complete(lineReached func(Line) bool, reached func(Shipment) bool, waiting bool) completeness {
	if len(o.Lines) == 0 {
		if waiting {
			return incomplete
		}
		return cannotTell
	}
	number := map[string]bool{}
	for _, l := range o.Lines {
		number[l.Number] = true
	}
	var came, due int64             // thousandths, of the lines that are not complete by themselves
	unitsKnown, some := true, false // their units are known; there is such a line
	for _, l := range o.Lines {
		left := l.Units.Thousandths - l.Cancelled.Thousandths
		if l.Units.Known && left <= 0 || lineReached(l) {
			continue
		}
		own, ownKnown, any := int64(0), l.Units.Known, false
		for _, s := range o.Shipments {
			if s.Line == l.Number && reached(s) {
				own, ownKnown, any = own+s.Units.Thousandths, ownKnown && s.Units.Known, true
			}
		}
		if any && (!ownKnown || own >= left) {
			continue
		}
		some, unitsKnown = true, unitsKnown && l.Units.Known
		came, due = came+own, due+left
	}
	if !some {
		return whole
	}
	// What is missing may have gone in shipments that name no line, or none that is known.
	unnamed := false
	for _, s := range o.Shipments {
		if !number[s.Line] && reached(s) {
			unnamed, unitsKnown = true, unitsKnown && s.Units.Known
			came += s.Units.Thousandths
		}
	}
	switch {
	case !unnamed:
		return incomplete
	case unitsKnown:
		if came >= due {
			return whole
		}
		return incomplete
	case waiting:
		return incomplete
	}
	return cannotTell
}

// pay tells when an order was paid: when its payments reach its value, in its currency; where it has no value,
// with the last payment.
func (o Order) pay(dataDate day.Day) (Told, completeness) {
	var days span
	sum, foreign := int64(0), false
	for _, p := range o.Payments {
		if p.Paid.Day == 0 || p.Paid.Day > dataDate {
			continue
		}
		days.add(p.Paid)
		if !p.Known || p.Currency != "" && p.Currency != o.Currency {
			foreign = true
			continue
		}
		sum += p.Amount
	}
	first, last := days.ends()
	if first.Day == 0 {
		return Told{}, incomplete
	}
	told := Told{First: first, Says: true}
	switch {
	case !o.Valued || o.Value <= 0 || sum/int64(math.Pow10(4-o.Decimals)) >= o.Value:
		told.Day = last
		return told, whole
	case foreign:
		told.Says = false // the order's own day stands
		return told, cannotTell
	}
	return told, incomplete
}
