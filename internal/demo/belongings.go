package demo

import (
	"encoding/csv"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/money"
)

// The oddities that are planted in what belongs to orders.
const (
	ShippedInParts   = "shipped in parts"
	PartShipped      = "part of it shipped"
	ShippedDiffers   = "the order says another shipped day than its shipments"
	WithoutLines     = "no lines"
	NotPaid          = "delivered and not paid"
	NotInvoiced      = "delivered and not invoiced"
	PaidInParts      = "paid in parts"
	PaidElsewhere    = "paid in another currency"
	ReceiptTwice     = "a receipt that stands with another order as well"
	StatusCameBack   = "a status that came back"
	StatusTie        = "two statuses at one moment"
	StatusSpelled    = "a status in another spelling"
	StatusSilence    = "a daily list that was silent for a week"
	StatusEarly      = "a daily list that was a day ahead of the events"
	Returned         = "returned"
	CustomerWithout  = "a customer without orders" // by customer
	FirstBookedAhead = "a customer's first order, booked ahead"
	TwoOnOneDay      = "the second order of a customer on one day"
	PlaceWithout     = "a place without co-ordinates"
	PlaceFew         = "a place of few orders"
	RouteSlow        = "a slow route"
	dailyFrom        = 60 // days before the data date from which one site keeps a daily list
	dailySite        = "Galway"
	spellingSite     = "Hamilton"
)

// A belongings writes the files of what belongs to orders.
type belongings struct {
	folder    string
	seed      uint64
	files     map[string]*table
	manifest  *Manifest
	made      int
	receipt   string             // of the last payment
	customers map[string]day.Day // the day of the last order of each
}

// A table is one CSV file that is being written.
type table struct {
	file *os.File
	out  *csv.Writer
	rows int
}

// The names of the files, and their headers.
var headers = []struct {
	name    string
	columns []string
}{
	{"sites.csv", []string{"site", "zone", "cut-off", "calendar", "region", "country"}},
	{"places.csv", []string{"place", "country", "region", "latitude", "longitude"}},
	{"products.csv", []string{"product", "product name", "category"}},
	{"customers.csv", []string{"customer", "contact", "telephone", "country", "place"}},
	{"lines.csv", []string{"order", "line", "product", "units", "cancelled units", "line value"}},
	{"shipments.csv", []string{"shipment", "order", "line", "carrier", "units", "shipped", "delivered"}},
	{"payments.csv", []string{"receipt", "order", "paid", "amount", "currency"}},
	{"status-events.csv", []string{"order", "status", "at", "source"}},
	{"status-daily.csv", []string{"order", "status", "at", "source"}},
	{"statuses.csv", []string{"status", "step", "final", "colour", "spelling of"}},
	{"returns.csv", []string{"number", "returned"}},
}

func newBelongings(folder string, seed uint64, m *Manifest) (*belongings, error) {
	b := &belongings{folder: folder, seed: seed, manifest: m, files: map[string]*table{}, customers: map[string]day.Day{}}
	for _, h := range headers {
		file, err := os.Create(filepath.Join(folder, h.name))
		if err != nil {
			return nil, errors.Join(err, b.close())
		}
		b.files[h.name] = &table{file: file, out: csv.NewWriter(file)}
		if err := b.files[h.name].out.Write(h.columns); err != nil {
			return nil, errors.Join(err, b.close())
		}
		m.Files = append(m.Files, h.name)
	}
	return b, b.lists()
}

func (b *belongings) close() error {
	var errs []error
	for name, t := range b.files {
		t.out.Flush()
		errs = append(errs, t.out.Error(), t.file.Close())
		b.manifest.Rows[name] = t.rows
	}
	return errors.Join(errs...)
}

func (b *belongings) row(file string, cells ...string) error {
	b.files[file].rows++
	return b.files[file].out.Write(cells)
}

func (b *belongings) plant(kind, what string) {
	b.manifest.Planted[kind] = append(b.manifest.Planted[kind], what)
}

// lists writes what does not depend on orders.
func (b *belongings) lists() error {
	for i, s := range []struct{ name, final, colour string }{
		{"received", "no", "sand"}, {"checked", "no", "amber"}, {"picking", "no", "teal"}, {"on hold", "no", "clay"},
		{"packed", "no", "slate"},
		{"shipped", "no", "plum"}, {"delivered", "yes", "sage"}, {"cancelled", "yes", "rose"},
	} {
		if err := b.row("statuses.csv", s.name, strconv.Itoa(i+1), s.final, s.colour, ""); err != nil {
			return err
		}
	}
	if err := b.row("statuses.csv", "On-Hold", "", "", "", "on hold"); err != nil {
		return err
	}
	var errs []error
	for _, s := range sites {
		errs = append(errs, b.row("sites.csv", s.name, s.zone, s.cutOff, s.name, s.region, s.country))
		for i, p := range s.places {
			latitude, longitude := "", ""
			if i == len(s.at) {
				b.plant(PlaceWithout, p)
			} else {
				latitude, longitude = strconv.FormatFloat(s.at[i][0], 'f', 2, 64), strconv.FormatFloat(s.at[i][1], 'f', 2, 64)
			}
			errs = append(errs, b.row("places.csv", p, s.country, "", latitude, longitude))
			switch p {
			case besideFew:
				errs = append(errs, b.row("places.csv", fewPlace, s.country, "", fewNorth, fewEast))
				b.plant(PlaceFew, fewPlace)
			case slowPlace:
				b.plant(RouteSlow, p)
			}
		}
	}
	for _, p := range products {
		errs = append(errs, b.row("products.csv", p.code, p.name, p.category))
	}
	for i, name := range []string{"Quiet Meadow Samples", "Larkspur Trial Yard"} {
		errs = append(errs, b.row("customers.csv", name, contactOf(i), telephoneOf(i), sites[i].country, sites[i].places[0]))
		b.plant(CustomerWithout, name)
	}
	return errors.Join(errs...)
}

func contactOf(n int) string {
	return givenNames[n%len(givenNames)] + " " + familyNames[n/len(givenNames)%len(familyNames)]
}

// telephoneOf is a number of the range that is kept for fiction.
func telephoneOf(n int) string { return fmt.Sprintf("+1 555 01%02d ext. %d", n%100, n/100) }

// add writes what belongs to an order, made from its number alone, so that the orders are as they are without.
func (b *belongings) add(o book.Order) error {
	r := rand.New(rand.NewPCG(b.seed^0xbee, uint64(b.made)))
	b.made++
	known := func(name string) day.Day {
		if d := o.Days[milestone.Index(milestone.BuiltIn(), name)]; d <= DataDate {
			return d
		}
		return 0
	}
	life := life{number: o.Number, clock: clockOf(o, milestone.Shipped), site: o.Fields[book.Site], ordered: known(milestone.Ordered),
		shipped: known(milestone.Shipped), delivered: known(milestone.Delivered), cancelled: known(milestone.Cancelled)}
	var errs []error
	name, requested := o.Fields[book.Customer], o.Days[milestone.Index(milestone.BuiltIn(), milestone.Requested)]
	last, seen := b.customers[name]
	b.customers[name] = max(last, life.ordered)
	switch {
	case seen && last == life.ordered && last != 0:
		b.plant(TwoOnOneDay, o.Number)
	case last == 0 && life.ordered != 0 && requested > life.ordered:
		b.plant(FirstBookedAhead, o.Number)
	}
	if life.delivered != 0 && known(milestone.Invoiced) == 0 {
		b.plant(NotInvoiced, o.Number)
	}
	if !seen {
		n := len(b.customers)
		errs = append(errs, b.row("customers.csv", name, contactOf(n), telephoneOf(n), o.Fields[book.Country], o.Fields[book.Place]))
	}
	units, err := b.lines(r, o)
	errs = append(errs, err, b.shipments(r, &life, units), b.payments(r, o, life), b.statuses(r, life))
	if life.delivered != 0 && r.IntN(80) == 0 {
		if back := life.delivered + 3 + day.Day(r.IntN(18)); back <= DataDate {
			b.plant(Returned, o.Number)
			errs = append(errs, b.row("returns.csv", o.Number, back.String()))
		}
	}
	return errors.Join(errs...)
}

// A life is what is known of an order at the data date.
type life struct {
	number, site                           string
	clock                                  string // at which it left, on the last day
	ordered, shipped, delivered, cancelled day.Day
}

// lines gives an order up to six lines whose values add up to its own, and returns their units.
func (b *belongings) lines(r *rand.Rand, o book.Order) (units []int, err error) {
	if b.made%600 == 300 {
		b.plant(WithoutLines, o.Number)
		return nil, nil
	}
	n := 1 + r.IntN(3) + r.IntN(3)
	left := o.Value
	for i := range n {
		units = append(units, 1+int(r.ExpFloat64()*6))
		value := ""
		if o.Valued {
			own := left
			if i < n-1 {
				own = left / int64(2+r.IntN(3))
			}
			left -= own
			value = money.Format(own, o.Fields[book.Currency])
		}
		err = errors.Join(err, b.row("lines.csv", o.Number, strconv.Itoa(i+1), products[r.IntN(len(products))].code,
			strconv.Itoa(units[i]), "", value))
	}
	return units, err
}

// shipments sends an order off: mostly at once, sometimes line by line, or in parts on several days.
func (b *belongings) shipments(r *rand.Rand, l *life, units []int) (err error) {
	carrier := carriers[r.IntN(len(carriers))]
	sent := 0
	send := func(line string, units int, shipped, delivered day.Day) {
		sent++
		count := ""
		if units > 0 {
			count = strconv.Itoa(units)
		}
		left := shipped.String()
		if shipped == l.shipped {
			left += l.clock
		}
		err = errors.Join(err, b.row("shipments.csv", fmt.Sprintf("%s/%d", l.number, sent), l.number, line, carrier, count, left,
			delivered.String()))
	}
	all := 0
	for _, n := range units {
		all += n
	}
	if l.shipped == 0 {
		if l.ordered != 0 && l.cancelled == 0 && len(units) > 1 && l.ordered+3 <= DataDate && r.IntN(4) == 0 {
			b.plant(PartShipped, l.number)
			send("1", units[0], l.ordered+1+day.Day(r.IntN(2)), 0)
		}
		return err
	}
	switch way := r.IntN(10); {
	case b.made%700 == 350 && l.shipped < DataDate:
		b.plant(ShippedDiffers, l.number)
		l.shipped++
		send("", all, l.shipped, 0)
		l.delivered = 0
	case way < 2 && len(units) > 1 && l.shipped > l.ordered+1 && l.ordered != 0:
		b.plant(ShippedInParts, l.number)
		for i, n := range units {
			shipped := l.shipped
			if i == 0 {
				shipped = l.ordered + 1 + day.Day(r.IntN(int(l.shipped-l.ordered-1)))
			}
			delivered := day.Day(0)
			if l.delivered != 0 {
				delivered = shipped + l.delivered - l.shipped
			}
			send(strconv.Itoa(i+1), n, shipped, delivered)
		}
	case way < 4 && len(units) > 0:
		for i, n := range units {
			send(strconv.Itoa(i+1), n, l.shipped, l.delivered)
		}
	default:
		send("", all, l.shipped, l.delivered)
	}
	return err
}

// payments pays for what was shipped, some weeks later, mostly in full.
func (b *belongings) payments(r *rand.Rand, o book.Order, l life) (err error) {
	currency := o.Fields[book.Currency]
	paid := l.shipped + 10 + day.Day(r.ExpFloat64()*14)
	if l.shipped == 0 || !o.Valued || paid > DataDate {
		return nil
	}
	pay := func(receipt string, d day.Day, amount int64, currency string) {
		err = errors.Join(err, b.row("payments.csv", receipt, o.Number, d.String(), money.Format(amount, o.Fields[book.Currency]),
			currency))
		b.receipt = receipt
	}
	receipt := fmt.Sprintf("R-%07d", b.made)
	switch way := r.IntN(100); {
	case b.made%900 == 450 && b.receipt != "":
		b.plant(ReceiptTwice, o.Number)
		pay(b.receipt, paid, o.Value, currency)
	case b.made%800 == 400:
		b.plant(PaidElsewhere, o.Number)
		pay(receipt, paid, o.Value, "USD")
	case way < 4 && l.delivered != 0:
		b.plant(NotPaid, o.Number)
	case way < 14:
		b.plant(PaidInParts, o.Number)
		pay(receipt+"a", paid, o.Value/3, currency)
		if later := paid + 7 + day.Day(r.IntN(20)); later <= DataDate {
			pay(receipt+"b", later, o.Value-o.Value/3, currency)
		}
	default:
		pay(receipt, paid, o.Value, currency)
	}
	return err
}

// statuses tells an order's way as events, and for one site of the last weeks as a daily list too.
func (b *belongings) statuses(r *rand.Rand, l life) (err error) {
	if l.ordered == 0 {
		return nil
	}
	last := DataDate
	for _, end := range []day.Day{l.shipped, l.cancelled} {
		if end != 0 {
			last = min(last, end)
		}
	}
	if last < l.ordered {
		return nil
	}
	type event struct {
		status string
		day    day.Day
	}
	way := []event{{"received", l.ordered}}
	step := func(status string, d day.Day) {
		if d <= last {
			way = append(way, event{status, d})
		}
	}
	checked := l.ordered + day.Day(r.IntN(2))
	picking := checked + day.Day(r.IntN(2))
	step("checked", checked)
	step("picking", picking)
	if r.IntN(25) == 0 && picking+4 <= last {
		b.plant(StatusCameBack, l.number)
		step("on hold", picking+1)
		step("picking", picking+3)
		picking += 3
	}
	step("packed", picking+day.Day(r.IntN(3)))
	if l.shipped != 0 && l.shipped >= l.ordered {
		way = append(way, event{"shipped", l.shipped})
	}
	if l.delivered >= l.ordered && l.delivered != 0 && l.shipped != 0 {
		way = append(way, event{"delivered", l.delivered})
	}
	if l.cancelled != 0 && l.shipped == 0 {
		way = append(way, event{"cancelled", l.cancelled})
	}
	slices.SortStableFunc(way, func(x, y event) int { return int(x.day - y.day) })
	tie := b.made%500 == 250 && len(way) > 2
	for i, e := range way {
		at := fmt.Sprintf("%vT%02d:%02d", e.day, 8+i, r.IntN(60))
		if tie && i == 1 {
			b.plant(StatusTie, l.number)
			err = errors.Join(err, b.row("status-events.csv", l.number, "on hold", at, "event"))
		}
		spelled := e.status
		if spelled == "on hold" && l.site == spellingSite {
			b.plant(StatusSpelled, l.number)
			spelled = "On-Hold"
		}
		err = errors.Join(err, b.row("status-events.csv", l.number, spelled, at, "event"))
	}
	if l.site != dailySite {
		return err
	}
	end := DataDate
	if final := way[len(way)-1]; final.status == "delivered" || final.status == "cancelled" {
		end = final.day
	}
	first := max(l.ordered, DataDate-dailyFrom)
	// Seldom the list knows of a change the day before it happens, or says nothing for a week.
	ahead, silent := day.Day(0), day.Day(0)
	if b.made%11 == 3 && way[len(way)-1].day > first && end > first {
		ahead = 1
		b.plant(StatusEarly, l.number)
	} else if b.made%3 == 1 && end-first >= 12 {
		silent = first + 3
		b.plant(StatusSilence, l.number)
	}
	for d := first; d <= end; d++ {
		if silent != 0 && d > silent && d <= silent+7 {
			continue
		}
		now := ""
		for _, e := range way {
			if e.day <= d+ahead {
				now = e.status
			}
		}
		err = errors.Join(err, b.row("status-daily.csv", l.number, now, d.String(), "daily"))
	}
	return err
}
