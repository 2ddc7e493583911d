// Package parts tells an order's milestones from its parts: the lines it was placed with, the shipments in
// which it left and the payments that came for it. Parts beat what the order itself says.
package parts

import (
	"cmp"
	"slices"

	"prairiedusk/internal/core/allocation"
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
	// Clock is the time of day as written, where the zone of the site is not known: seconds since midnight, and one; zero
	// where there is none.
	Clock int32
}

// A Line is one line of an order. Its own days are zero where only shipments tell.
type Line struct {
	Number, Product    string
	Units, Cancelled   Quantity
	Value              int64 // in ten-thousandths of the unit of the order's currency
	Valued             bool
	Shipped, Delivered Day
	CancelledOn        Day      // of its cancelled units
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

// An Order is what Derive looks at. Value is in minor units, of which the currency has Decimals.
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
	ShippedBeyond // more units were shipped than ordered
	PaidBeyond    // a payment came after the value was reached
	AllCancelled  // the units of every line were cancelled
	// CancelledUnitsUndated: units were cancelled on no day that is known; they count as cancelled from the order's start on.
	CancelledUnitsUndated
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
		{ShippedDiffers, "its own ship date differs from its shipments'"},
		{DeliveredDiffers, "its own delivery date differs from its shipments'"},
		{PaidDiffers, "its own payment date differs from its payments'"},
		{ShippedBeyond, "more units were shipped than ordered"},
		{PaidBeyond, "a payment came after its value was reached"},
		{AllCancelled, "all its units were cancelled"},
		{CancelledUnitsUndated, "units were cancelled on a day that is not known, and count as cancelled from the start"},
	} {
		if f&w.finding != 0 {
			words = append(words, w.words)
		}
	}
	return words
}

// Derived is a milestone as its parts tell it: the day on which it became complete, and the first. Says is false where no part
// says anything.
type Derived struct {
	Day, First Day
	Says       bool
}

// Milestones are what the parts of an order tell.
type Milestones struct {
	Shipped, Delivered, Paid Derived
	// Cancelled is the day of the last line of an order all of whose units were cancelled; zero where that is not known.
	Cancelled Day
	Findings  Finding
}

// Derive gives the milestones as known at the data date: a part's day after it is not known.
func Derive(o Order, dataDate day.Day) (m Milestones) {
	pieces := o.allocated(dataDate)
	var complete completeness
	m.Shipped, complete = o.reach(dataDate, allocation.Shipped, pieces)
	m.Findings |= found(m.Shipped, complete, PartShipped)
	m.Delivered, complete = o.reach(dataDate, allocation.Delivered, pieces)
	m.Findings |= found(m.Delivered, complete, PartDelivered)
	if m.Paid, complete = o.pay(dataDate, &m.Findings); complete == cannotTell {
		m.Findings |= PaidUnknown
	} else {
		m.Findings |= found(m.Paid, complete, PartPaid)
	}
	if len(o.Lines) > 0 {
		m.Findings |= WithLines
	}
	all := len(o.Lines) > 0
	var gone span
	for _, p := range pieces {
		switch p.Kind {
		case allocation.Beyond:
			if d := p.Days[allocation.Shipped]; d != 0 && d <= dataDate {
				m.Findings |= ShippedBeyond
			}
			continue
		case allocation.Cancelled:
			d := o.Lines[p.Line].CancelledOn
			if d.Day == 0 {
				m.Findings |= CancelledUnitsUndated
			} else {
				gone.add(d)
			}
			continue
		}
		all = false
	}
	if all {
		_, m.Cancelled = gone.ends()
		m.Findings |= AllCancelled
	}
	return m
}

// allocated are the pieces of the order's goods, as known at the data date.
func (o *Order) allocated(dataDate day.Day) []allocation.Piece {
	if len(o.Lines) == 0 {
		return nil
	}
	made := allocation.Order{Lines: make([]allocation.Line, len(o.Lines)), Shipments: make([]allocation.Shipment, len(o.Shipments)),
		Value: allocation.None, DataDate: dataDate}
	place := map[string]int{}
	quantity := func(q Quantity) int64 {
		if !q.Known {
			return allocation.None
		}
		return q.Thousandths
	}
	for i, l := range o.Lines {
		made.Lines[i] = allocation.Line{Units: quantity(l.Units), Cancelled: quantity(l.Cancelled),
			Days: [allocation.Goals]day.Day{l.Shipped.Day, l.Delivered.Day}, CancelledOn: l.CancelledOn.Day}
		if _, taken := place[l.Number]; !taken {
			place[l.Number] = i
		}
	}
	for i, s := range o.Shipments {
		made.Shipments[i] = allocation.Shipment{Line: allocation.Whole, Units: quantity(s.Units),
			Days: [allocation.Goals]day.Day{s.Shipped.Day, s.Delivered.Day}}
		if line, names := place[s.Line]; names && s.Line != "" {
			made.Shipments[i].Line = line
		}
	}
	return allocation.Allocate(&made, &allocation.Space{})
}

// completeness says whether all of an order has reached a milestone.
type completeness uint8

const (
	incomplete completeness = iota
	whole
	cannotTell
)

func found(t Derived, c completeness, part Finding) Finding {
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

// span gathers days. Of a day on which some part has no time of day, or only some have one whose zone is known, the first and last
// instant are not known.
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
	untimed := d.At == 0 && d.Clock == 0
	if d.Day == s.first.Day {
		s.firstUntimed = s.firstUntimed || untimed || (d.At == 0) != (s.first.At == 0)
		if d.At < s.first.At || d.At == s.first.At && d.Clock < s.first.Clock {
			s.first = d
		}
	}
	if d.Day == s.last.Day {
		s.lastUntimed = s.lastUntimed || untimed || (d.At == 0) != (s.last.At == 0)
		if d.At > s.last.At || d.At == s.last.At && d.Clock > s.last.Clock {
			s.last = d
		}
	}
}

// ends are the first and last day.
func (s *span) ends() (first, last Day) {
	first, last = s.first, s.last
	if s.firstUntimed {
		first.At, first.Clock = 0, 0
	}
	if s.lastUntimed {
		last.At, last.Clock = 0, 0
	}
	return first, last
}

// upTo is a day of the latest addition, without a time of day where others of that day have none.
func (s *span) upTo(d Day) Day {
	if s.lastUntimed {
		d.At, d.Clock = 0, 0
	}
	return d
}

// at is the day on which a line, or a shipment, came to its goal.
func (l *Line) at(goal int) Day     { return [...]Day{l.Shipped, l.Delivered}[goal] }
func (s *Shipment) at(goal int) Day { return [...]Day{s.Shipped, s.Delivered}[goal] }

// reach tells a milestone that goods reach: when the last piece of what was ordered, and not cancelled, has. With shipments of
// the whole order alone, or with some that do not tell what they hold, it is the last of them, and whether more follow is not
// known. What goes beyond the order moves no day.
func (o *Order) reach(dataDate day.Day, goal int, pieces []allocation.Piece) (Derived, completeness) {
	known := func(d Day) bool { return d.Day != 0 && d.Day <= dataDate }
	var all, counted span // of everything, and of what makes it complete
	for i := range o.Shipments {
		if d := o.Shipments[i].at(goal); known(d) {
			all.add(d)
		}
	}
	for i := range o.Lines {
		if d := o.Lines[i].at(goal); known(d) {
			all.add(d)
		}
	}
	first, _ := all.ends()
	if first.Day == 0 {
		return Derived{}, incomplete
	}
	told := Derived{First: first, Says: true}
	unsaid := len(o.Lines) == 0 // some goods are in shipments that do not tell
	for _, p := range pieces {
		at := Day{}
		switch {
		case p.Kind == allocation.Cancelled, p.Kind == allocation.Beyond:
			continue
		case p.Kind == allocation.Left:
			if l := o.Lines[p.Line]; l.Units.Known && l.Units.Thousandths <= 0 && l.at(goal) == (Day{}) {
				continue // no goods
			}
			unsaid = true
			continue
		case p.Shipment >= 0:
			at = o.Shipments[p.Shipment].at(goal)
		default:
			at = o.Lines[p.Line].at(goal)
		}
		if !known(at) {
			return told, incomplete
		}
		counted.add(at)
	}
	complete := whole
	if unsaid {
		// What is left may have gone in shipments that name no line, and that tell no units where lines do.
		some := false
		for i := range o.Shipments {
			if !o.mayHold(&o.Shipments[i]) {
				continue
			}
			if d := o.Shipments[i].at(goal); known(d) {
				some = true
				counted.add(d)
			} else {
				return told, incomplete
			}
		}
		if !some {
			return told, incomplete
		}
		complete = cannotTell
	}
	_, told.Day = counted.ends()
	if told.Day.Day == 0 {
		return told, incomplete // all of it was cancelled
	}
	return told, complete
}

// mayHold says whether a shipment can hold goods that no other part accounts for: it names no line, and either does not tell
// its units, or lines do not tell theirs.
func (o *Order) mayHold(s *Shipment) bool {
	named := func(l Line) bool { return l.Number == s.Line && s.Line != "" }
	return !slices.ContainsFunc(o.Lines, named) && (!s.Units.Known || len(o.Lines) == 0 ||
		slices.ContainsFunc(o.Lines, func(l Line) bool { return !l.Units.Known }))
}

// pay tells when an order was paid: when its payments, in the order of their days, reach its value in its currency; where it
// has no value, or one of 0, with the last payment. A refund that takes the sum below the value undoes it, and what comes
// after moves no day. Payments in other currencies, or without an amount, leave open whether it is paid.
func (o *Order) pay(dataDate day.Day, findings *Finding) (Derived, completeness) {
	payments := slices.Clone(o.Payments)
	slices.SortStableFunc(payments, func(a, b Payment) int {
		return cmp.Or(cmp.Compare(a.Paid.Day, b.Paid.Day), cmp.Compare(a.Paid.At, b.Paid.At), cmp.Compare(a.Paid.Clock, b.Paid.Clock))
	})
	value := o.Value
	for range 4 - o.Decimals {
		value *= 10
	}
	valued := o.Valued && o.Value != 0
	var days span
	sum, unclear, reached, came := int64(0), false, Day{}, false
	for _, p := range payments {
		if p.Paid.Day == 0 || p.Paid.Day > dataDate {
			continue
		}
		came = true
		if p.Currency != "" && p.Currency != o.Currency {
			unclear = true
			continue
		}
		days.add(p.Paid)
		if !valued {
			continue
		}
		if !p.Known {
			unclear = true
			continue
		}
		if reached.Day != 0 && p.Amount != 0 && (p.Amount > 0) == (value > 0) {
			*findings |= PaidBeyond
		}
		if sum += p.Amount; (sum >= value) == (value > 0) || sum == value {
			if reached.Day == 0 {
				reached = days.upTo(p.Paid)
			}
		} else {
			reached = Day{}
			*findings &^= PaidBeyond
		}
	}
	first, last := days.ends()
	told := Derived{First: first, Says: came}
	switch {
	case !came:
		return Derived{}, incomplete
	case !valued && last.Day != 0:
		told.Day = last
		return told, whole
	case reached.Day != 0:
		told.Day = reached
		return told, whole
	case unclear:
		told.Says = false // the order's own day stands
		return told, cannotTell
	}
	return told, incomplete
}
