// Package demo makes up the order book of Sundrift Apiary Supply, a seller of hives, frames, extractors,
// suits, feed and queen-rearing kits that does not exist. The same seed gives the same orders. On purpose
// it holds what real files hold, wrong rows too, and it says what it planted.
package demo

import (
	"bytes"
	"context"
	"embed"
	"fmt"
	"iter"
	"math"
	"math/rand/v2"
	"path"
	"strings"

	"prairiedusk/internal/calendarfile"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
)

// FirstDay and DataDate are the two ends of the demo book.
var (
	FirstDay = day.Of(2025, 1, 1)
	DataDate = day.Of(2026, 10, 31)
)

// Options say how much to make up. The zero Seed is a seed like any other.
type Options struct {
	Orders int
	Seed   uint64
	Bare   bool // the orders and calendars alone
}

//go:embed calendars/*.ics
var calendarFiles embed.FS

// Calendars gives the four working calendars as iCalendar files, by file name. Muscat's knows the holidays
// of 2025 only.
func Calendars() map[string][]byte {
	files := map[string][]byte{}
	for _, s := range sites {
		name := strings.ToLower(s.name) + ".ics"
		text, err := calendarFiles.ReadFile(path.Join("calendars", name))
		if err != nil {
			panic(err) // embedded above
		}
		files[name] = text
	}
	return files
}

// maker makes orders one after the other, in the order of their days.
type maker struct {
	options   Options
	random    *rand.Rand
	calendars []*calendar.Calendar // by site
	customers int                  // of each site
	made      int
}

func newMaker(o Options) *maker {
	m := &maker{options: o, random: rand.New(rand.NewPCG(o.Seed, 0x5d)), customers: max(10, o.Orders/50)}
	files := Calendars()
	for _, s := range sites {
		name := strings.ToLower(s.name) + ".ics"
		def, err := calendarfile.ReadICalendar(context.Background(), s.name, bytes.NewReader(files[name]), false)
		if err != nil {
			panic(err) // embedded above
		}
		c, err := calendar.New(def.Definition)
		if err != nil {
			panic(err)
		}
		m.calendars = append(m.calendars, c)
	}
	return m
}

// Orders makes the orders, each with the kind of oddity that was planted in it, which is mostly none.
func Orders(o Options) iter.Seq2[book.Order, string] {
	return func(yield func(book.Order, string) bool) {
		m := newMaker(o)
		kinds := plantedAt(o.Orders)
		whole := 0.0
		for d := FirstDay; d <= DataDate; d++ {
			whole += m.weight(d)
		}
		sum := 0.0
		for d := FirstDay; d <= DataDate; d++ {
			sum += m.weight(d)
			for float64(m.made) < math.Round(sum/whole*float64(o.Orders)) {
				order, s := m.order(d)
				kind := kinds[m.made]
				if kind != "" {
					plant(kind, &order, m.calendars[s])
				}
				m.invoice(&order)
				m.made++
				if !yield(order, kind) {
					return
				}
			}
		}
	}
}

// weight is how many orders a day brings, relative to others.
func (m *maker) weight(d day.Day) float64 {
	sum := 0.0
	for s := range sites {
		sum += m.siteWeight(s, d)
	}
	return sum
}

func (m *maker) siteWeight(s int, d day.Day) float64 {
	_, month, _ := d.Date()
	w := sites[s].share * sites[s].rush[month-1] * (1 + 0.25*float64(d-FirstDay)/float64(DataDate-FirstDay))
	if !m.calendars[s].Works(d) {
		w *= 0.3 // the web shop never rests
	}
	return w
}

// order makes an order that was placed on a day, with nothing odd about it.
func (m *maker) order(ordered day.Day) (book.Order, int) {
	r := m.random
	s := m.pickSite(ordered)
	at, c := sites[s], m.calendars[s]
	o := book.Order{Number: fmt.Sprintf("SD-%d", 100001+m.made), Days: make([]day.Day, len(milestone.BuiltIn()))}

	// A few customers order much, most order little.
	customer := int(float64(m.customers) * math.Pow(r.Float64(), 2))
	home := rand.New(rand.NewPCG(uint64(customer), uint64(s)))
	o.Fields[book.Customer] = customerName(s, customer)
	o.Fields[book.Site] = at.name
	o.Fields[book.Country] = at.country
	if o.Fields[book.Place] = at.places[home.IntN(len(at.places))]; o.Fields[book.Place] == besideFew && m.made%oneInFew == 0 {
		o.Fields[book.Place] = fewPlace
	}
	o.Fields[book.Channel] = channels[int(float64(len(channels))*math.Pow(r.Float64(), 1.7))]
	o.Fields[book.Currency] = at.currency
	o.Valued = true
	o.Value = int64(math.Exp(4.6+1.1*r.NormFloat64())*100) * int64(math.Pow10(at.decimals-2))

	set := func(name string, d day.Day) { o.Days[milestone.Index(milestone.BuiltIn(), name)] = d }
	set(milestone.Ordered, ordered)
	ahead := 0
	switch x := r.Float64(); {
	case x < 0.55:
		set(milestone.Requested, ordered)
	case x < 0.85:
		ahead = 1 + int(r.ExpFloat64()*12)
		set(milestone.Requested, ordered+day.Day(ahead))
	}
	if r.Float64() < 0.95 {
		set(milestone.Promised, m.after(c, ordered, at.promise))
	}
	_, month, _ := ordered.Date()
	lead := int(at.lead * math.Exp(0.55*r.NormFloat64()) * (0.7 + 0.3*at.rush[month-1]))
	switch x := r.Float64(); {
	case x < 0.06 && c.Works(ordered):
		lead = 0
	case x < 0.07:
		lead *= 8 // waited for goods
	}
	shipped := m.after(c, ordered, lead)
	if early := ordered + day.Day(ahead) - 5; early > shipped {
		shipped = m.after(c, early, 1)
	}
	if r.Float64() < 0.03 {
		cancelled := ordered + day.Day(r.IntN(int(shipped-ordered)+1))
		if cancelled <= DataDate {
			set(milestone.Cancelled, cancelled)
			return o, s
		}
	}
	if shipped > DataDate {
		return o, s
	}
	set(milestone.Shipped, shipped)
	if delivered := shipped + 1 + day.Day(r.ExpFloat64()*2.5); delivered <= DataDate && r.Float64() < 0.985 {
		if o.Fields[book.Place] == slowPlace {
			delivered += slowDays
		}
		if delivered <= DataDate {
			set(milestone.Delivered, delivered)
		}
	}
	return o, s
}

// invoice bills what was delivered some days later, and forgets it now and then.
func (m *maker) invoice(o *book.Order) {
	r := rand.New(rand.NewPCG(m.options.Seed, uint64(m.made)))
	delivered := o.Days[milestone.Index(milestone.BuiltIn(), milestone.Delivered)]
	invoiced := delivered + day.Day(r.ExpFloat64()*2)
	if delivered == 0 || invoiced > DataDate || r.Float64() < 0.06 {
		return
	}
	o.Days[milestone.Index(milestone.BuiltIn(), milestone.Invoiced)] = invoiced
}

func (m *maker) pickSite(d day.Day) int {
	x := m.random.Float64() * m.weight(d)
	for s := range sites {
		if x -= m.siteWeight(s, d); x < 0 {
			return s
		}
	}
	return len(sites) - 1
}

// after is n working days after a day; the demo stays far from the ends of the supported days.
func (m *maker) after(c *calendar.Calendar, d day.Day, n int) day.Day {
	end, err := c.Add(d, n, calendar.Keep)
	if err != nil {
		panic(err)
	}
	return end
}
