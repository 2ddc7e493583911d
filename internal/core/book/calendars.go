package book

import (
	"slices"
	"strings"
	"time"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
)

// Calendars is the set of calendars of a book: the default first, then those that were loaded.
type Calendars struct {
	all []*calendar.Calendar
}

// DefaultCalendar is the name under which a loaded calendar becomes the book's default.
const DefaultCalendar = "default"

// NewCalendars takes the loaded calendars. One that is named DefaultCalendar is the default; otherwise it is
// Monday to Friday, without holidays.
func NewCalendars(loaded []*calendar.Calendar) (Calendars, error) {
	i := slices.IndexFunc(loaded, func(c *calendar.Calendar) bool { return strings.EqualFold(c.Name(), DefaultCalendar) })
	if i >= 0 {
		all := append([]*calendar.Calendar{loaded[i]}, loaded[:i]...)
		return Calendars{append(all, loaded[i+1:]...)}, nil
	}
	standard, err := calendar.New(calendar.Definition{Name: DefaultCalendar})
	if err != nil {
		return Calendars{}, err
	}
	return Calendars{append([]*calendar.Calendar{standard}, loaded...)}, nil
}

// With is the set with one more calendar, or with another in the place of the one of its name.
func (c Calendars) With(added *calendar.Calendar) Calendars {
	all := slices.Clone(c.all)
	if i := c.index(added.Name()); i >= 0 {
		all[i] = added
		return Calendars{all}
	}
	return Calendars{append(all, added)}
}

// All lists the calendars, the default first.
func (c Calendars) All() []*calendar.Calendar { return c.all }

// Named is the calendar of this name, whatever its capitals.
func (c Calendars) Named(name string) (*calendar.Calendar, bool) {
	if i := c.index(name); i >= 0 {
		return c.all[i], true
	}
	return nil, false
}

func (c Calendars) index(name string) int {
	return slices.IndexFunc(c.all, func(c *calendar.Calendar) bool { return strings.EqualFold(c.Name(), name) })
}

// finder gives the first calendar that bears one of some names; the default stands in where none does. There may be
// very many places to find one for.
func (c Calendars) finder() func(names ...string) (_ *calendar.Calendar, standsIn bool) {
	by := map[string]*calendar.Calendar{}
	for _, one := range c.all {
		by[strings.ToLower(one.Name())] = one
	}
	return func(names ...string) (*calendar.Calendar, bool) {
		for _, name := range names {
			if named, found := by[strings.ToLower(name)]; found && name != "" {
				return named, false
			}
		}
		return c.all[0], true
	}
}

// A SiteRecord is what is known of a site besides its name.
type SiteRecord struct {
	Name string
	Zone *time.Location // nil: not known
	// CutOff is the time of day, in seconds since midnight, from which on an order counts as one of the next
	// working day; negative where there is none.
	CutOff                    int
	Calendar, Region, Country string // Calendar is the name of the site's own, where that is not the site's
}

// A PlaceRecord says in which region a place lies, and where on the map.
type PlaceRecord struct {
	Place, Country, Region string
	At                     *Coordinates // nil where that is not known
}

// Coordinates are degrees north and east.
type Coordinates struct{ Latitude, Longitude float64 }

// A CalendarSource says where the calendar is kept by which an order is counted: where it ships from, or where it goes to.
type CalendarSource uint8

const (
	AtSite CalendarSource = iota
	AtDestination
	sides
)

// CalendarSourceNames lists whose calendars orders can be counted by, in the order of their values.
func CalendarSourceNames() []string { return []string{"site", "destination"} }

// A SiteCalendar is a calendar where it is kept, for the orders of one site or destination.
type SiteCalendar struct {
	calendar.Local
	StandsIn bool // the book's default, since no calendar has the name of the site, its region or its country
	CutOff   int  // of the site; negative where there is none
}

// Locals are the calendars by which orders are counted, by local code.
func (b *Book) Locals(side CalendarSource) []SiteCalendar { return b.locals[side] }

// LocalCodes gives the local codes of a stretch of orders; scratch is used where they are not a column of the block.
func (b *Book) LocalCodes(side CalendarSource, block *Block, from, to int, scratch []uint32) []uint32 {
	if side == AtSite {
		return block.Codes[Site][from:to]
	}
	// An order without a place goes to its country, whose codes follow those of places.
	places, countries := block.Codes[Place][from:to], block.Codes[Country][from:to]
	beyond := uint32(len(b.Values(Place)))
	scratch = scratch[:len(places)]
	for i, place := range places {
		if place == 0 {
			place = beyond + countries[i]
		}
		scratch[i] = place
	}
	return scratch
}

// SiteCalendarAt is the calendar by which an order is counted.
func (b *Book) SiteCalendarAt(side CalendarSource, row int) SiteCalendar {
	block, i := b.blocks[row/blockSize], row%blockSize
	var scratch [1]uint32
	return b.locals[side][b.LocalCodes(side, block, i, i+1, scratch[:])[0]]
}

// CountedBy is the number of orders that each calendar counts, by their sites; one pass.
func (b *Book) CountedBy() map[*calendar.Calendar]int {
	sites := make([]int, len(b.locals[AtSite]))
	for _, block := range b.blocks {
		for _, site := range block.Codes[Site] {
			sites[site]++
		}
	}
	orders := map[*calendar.Calendar]int{}
	for site, n := range sites {
		orders[b.locals[AtSite][site].Calendar] += n
	}
	return orders
}

// WithCalendars is the same book with other calendars.
func (b *Book) WithCalendars(c Calendars) *Book {
	next := *b
	next.blocks, next.ends.Calendars = slices.Clone(b.blocks), c
	next.resolve()
	next.findEffectiveStarts()
	return &next
}

// resolve finds the calendar of every site and destination: the first that has the name of the site (or the name that
// is written down for it), its region or its country, or of the place, its region or its country.
func (b *Book) resolve() {
	ends := b.ends
	first, records := ends.Calendars.finder(), map[string]SiteRecord{}
	for _, s := range ends.Sites {
		records[strings.ToLower(s.Name)] = s
	}
	b.locals = [sides][]SiteCalendar{}
	for _, name := range b.Values(Site) {
		s, known := records[strings.ToLower(name)]
		if !known {
			s.CutOff = -1
		}
		c, standsIn := first(s.Calendar, name, s.Region, s.Country)
		b.locals[AtSite] = append(b.locals[AtSite], SiteCalendar{calendar.Local{Calendar: c, Zone: s.Zone}, standsIn, s.CutOff})
	}
	// Of an order that says no region it is that of the only place of its name in its country.
	regions := map[PlaceKey]string{}
	for _, p := range ends.Places {
		if p.Region == "" {
			continue
		}
		key := PlaceKey{Name: p.Place, Country: p.Country}
		if earlier, known := regions[key]; known && earlier != p.Region {
			regions[key] = ""
			continue
		}
		regions[key] = p.Region
	}
	add := func(names ...string) {
		c, standsIn := first(names...)
		b.locals[AtDestination] = append(b.locals[AtDestination], SiteCalendar{calendar.Local{Calendar: c}, standsIn, -1})
	}
	for code := range b.Values(Place) {
		key := b.Place(uint32(code))
		if key.Region == "" {
			key.Region = regions[key]
		}
		add(key.Name, key.Region, key.Country)
	}
	for _, country := range b.Values(Country) {
		add(country)
	}
}

// findEffectiveStarts finds the days as which orders count after the cut-offs of their sites: one that came at or after it, or
// on a day that is not worked, counts as one of the next working day.
func (b *Book) findEffectiveStarts() {
	cut := slices.ContainsFunc(b.locals[AtSite], func(l SiteCalendar) bool { return l.CutOff >= 0 })
	ordered := milestone.Index(b.layout.Milestones, milestone.Ordered)
	b.movesAny = false
	for n, block := range b.blocks {
		if block.EffectiveStarts == nil && !cut {
			continue
		}
		column, next := block.Columns[ordered], *block
		b.blocks[n] = &next
		if next.EffectiveStarts = nil; !cut {
			continue
		}
		next.EffectiveStarts = slices.Clone(column.Known)
		for i, known := range column.Known {
			local := &b.locals[AtSite][block.Codes[Site][i]]
			if known == 0 || local.CutOff < 0 {
				continue
			}
			next.EffectiveStarts[i] = local.moved(known, column.InstantAt(i))
			b.movesAny = b.movesAny || next.EffectiveStarts[i] != known
		}
	}
}

// Reads says whether the cut-off of the site can be told of an instant: its clocks are known.
func (l SiteCalendar) Reads(at day.Instant) bool { return l.Zone != nil && at != 0 }

// moved is the day as which an order counts. On a day off it needs no time of day for that; on a working day one without a
// time that is known stays.
func (l *SiteCalendar) moved(ordered day.Day, at day.Instant) day.Day {
	if l.Works(ordered) {
		if !l.Reads(at) {
			return ordered
		}
		if hour, minute, second := at.In(l.Zone).Clock(); hour*3600+minute*60+second < l.CutOff {
			return ordered
		}
	}
	next, err := l.Add(ordered, 1, calendar.Keep)
	if err != nil {
		return ordered // the last of all days
	}
	return next
}
