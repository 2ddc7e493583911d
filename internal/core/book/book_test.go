package book

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/work"
)

var milestones = []milestone.Milestone{{Name: milestone.Ordered}, {Name: milestone.Promised, Plan: true}, {Name: milestone.Shipped}}

func drawOrder(t *rapid.T, id int64) Order {
	anyDay := rapid.OneOf(rapid.Just(day.Day(0)), rapid.Custom(func(t *rapid.T) day.Day {
		return day.Day(rapid.Int32Range(46000, 46100).Draw(t, "day"))
	}))
	o := Order{ID: id, Number: fmt.Sprintf("N-%d", id), Days: []day.Day{anyDay.Draw(t, "ordered"), anyDay.Draw(t, "promised"),
		anyDay.Draw(t, "shipped")}}
	if rapid.Bool().Draw(t, "timed") {
		o.Instants = []day.Instant{day.Instant(rapid.Int64Range(1, 9).Draw(t, "at")), 0, 0}
	}
	o.Valued = rapid.Bool().Draw(t, "valued")
	if o.Valued {
		o.Value = rapid.Int64Range(-5, 1e6).Draw(t, "value")
	}
	o.Findings = parts.Finding(rapid.Uint16().Draw(t, "findings"))
	text := rapid.SampledFrom([]string{"", "A", "B", "C"})
	for f := range Fields {
		o.Fields[f] = text.Draw(t, fieldNames[f])
	}
	o.Extra = []string{text.Draw(t, "hive-colour")}
	quantity := func() parts.Quantity {
		q := parts.Quantity{Known: rapid.Bool().Draw(t, "known")}
		if q.Known {
			q.Thousandths = rapid.Int64Range(-1, 9).Draw(t, "thousandths")
		}
		return q
	}
	on := func() parts.Day { return parts.Day{Day: anyDay.Draw(t, "part day")} }
	for range rapid.IntRange(0, 2).Draw(t, "lines") {
		value := quantity()
		o.Lines = append(o.Lines, parts.Line{Number: text.Draw(t, "line"), Product: text.Draw(t, "product"), Units: quantity(),
			Cancelled: quantity(),
			Value:     value.Thousandths, Valued: value.Known, Shipped: on(), Delivered: on(), CancelledOn: on(),
			Extra: []string{text.Draw(t, "engraving")}})
	}
	for range rapid.IntRange(0, 2).Draw(t, "shipments") {
		o.Shipments = append(o.Shipments, parts.Shipment{Number: text.Draw(t, "shipment"), Carrier: text.Draw(t, "carrier"),
			Line: text.Draw(t, "of line"), Units: quantity(), Shipped: on(), Delivered: on()})
	}
	for range rapid.IntRange(0, 2).Draw(t, "payments") {
		amount := quantity()
		o.Payments = append(o.Payments, parts.Payment{Receipt: text.Draw(t, "receipt"), Paid: on(), Amount: amount.Thousandths,
			Known: amount.Known, Currency: text.Draw(t, "currency")})
	}
	for range rapid.IntRange(0, 3).Draw(t, "statuses") {
		s := parts.StatusRecord{Status: text.Draw(t, "status"), At: on(), Sequence: quantity(), Source: text.Draw(t, "source")}
		switch rapid.IntRange(0, 2).Draw(t, "time") {
		case 1:
			s.At.At = day.Instant(rapid.Int64Range(1, 3).Draw(t, "instant"))
		case 2:
			s.Clock = rapid.Int32Range(1, 3).Draw(t, "clock")
		}
		o.Statuses = append(o.Statuses, s)
	}
	return o
}

// What the lists of customers and products say: nothing of C, and no contact of B.
var (
	contacts   = map[string][]string{"A": {"Ana", "+1"}, "B": {"", "+2"}}
	categories = map[string][]string{"A": {"hives"}, "B": {"feed"}}
	relations  = []Relation{
		{Of: Customer, Columns: []string{"customer-contact", "customer-telephone"}, Rows: contacts},
		{OfLines: true, Columns: []string{"category"}, Rows: categories},
	}
)

// requireTold looks at what relations tell of an order.
func requireTold(t *rapid.T, b *Book, row int, o Order) {
	for i, name := range relations[0].Columns {
		f, known := b.ParseField(name)
		of := contacts[o.Fields[Customer]]
		if !known {
			require.True(t, of == nil || of[i] == "")
		} else if of == nil {
			require.Empty(t, b.Text(f, row))
		} else {
			require.Equal(t, of[i], b.Text(f, row))
		}
	}
	columns, block := b.PartColumns(Lines), b.Blocks()[row/blockSize]
	if columns[len(columns)-1].Name != "category" {
		return
	}
	from, to := block.Parts[Lines].Of(row % blockSize)
	for i := range to - from {
		want := ""
		if told := categories[o.Lines[i].Product]; told != nil {
			want = told[0]
		}
		require.Equal(t, want, b.PartValues(Lines, len(columns)-1)[block.Parts[Lines].Columns[len(columns)-1].Codes[from+i]])
	}
}

// seen is the order as a book gives it back.
func seen(o Order) Order {
	o.Statuses = parts.InOrder(o.Statuses)
	return o
}

// Any run of changes leaves a book that equals one built at once from the last state, and every earlier
// snapshot as it was.
func TestSnapshotsStayAsTheyWere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		model := []Order{}
		builder := NewBuilder(Layout{Milestones: milestones, Extra: []string{"hive-colour"}, LineExtra: []string{"engraving"}})
		type snapshot struct {
			book  *Book
			model []Order
		}
		var snapshots []snapshot
		for range rapid.IntRange(1, 4).Draw(t, "loads") {
			for range rapid.IntRange(0, 8).Draw(t, "puts") {
				at := rapid.IntRange(0, len(model)).Draw(t, "row")
				o := drawOrder(t, int64(10*at+10))
				if at == len(model) {
					model = append(model, o)
				} else {
					model[at] = o
				}
				builder.Put(o)
			}
			dataDate := day.Day(rapid.Int32Range(46000, 46100).Draw(t, "data date"))
			calendars, err := NewCalendars(nil)
			require.NoError(t, err)
			b := builder.Finish(Settings{Bounds: period.Bounds{DataDate: dataDate}, Calendars: calendars, Relations: relations})
			snapshots = append(snapshots, snapshot{b, append([]Order(nil), model...)})
			// What is told of a snapshot is its own: the next one begins without it.
			told := b.WithFields("told", []string{"", "told"}, func(_ Stretch, codes []uint32) {
				for row := range codes {
					codes[row] = uint32(row % 2)
				}
			}).WithNumber("count", func(_ Stretch, counts []int32) {
				for row := range counts {
					if row%2 == 0 {
						counts[row] = int32(row)
					}
				}
			})
			requireToldOf(t, told)
			builder = told.Next()
		}
		for _, s := range snapshots {
			require.Equal(t, len(s.model), s.book.Orders())
			for row, want := range s.model {
				require.Equal(t, seen(want), s.book.At(row))
				requireTold(t, s.book, row, want)
				found, ok := s.book.Find(want.Number)
				require.True(t, ok)
				require.Equal(t, row, found)
				for m, raw := range want.Days {
					known := raw
					if !milestones[m].Plan && raw > s.book.Bounds().DataDate {
						known = 0
					}
					column := s.book.Blocks()[0].Columns[m]
					require.Equalf(t, known, column.Known[row], "known %s of row %d at %v", milestones[m].Name, row,
						s.book.Bounds().DataDate)
					if known != 0 {
						require.LessOrEqual(t, column.Low, known)
						require.GreaterOrEqual(t, column.High, known)
					}
				}
			}
		}
	})
}

// requireToldOf looks at the field and the number that are told of every second row.
func requireToldOf(t *rapid.T, b *Book) {
	field, known := b.ParseField("told")
	require.True(t, known)
	require.Equal(t, []string{"count"}, b.NumberNames())
	for row := range b.Orders() {
		want := int32(NoNumber)
		if row%2 == 0 {
			want = int32(row)
		}
		require.Equal(t, want, b.Blocks()[row/blockSize].Told[0][row%blockSize])
		require.Equal(t, []string{"", "told"}[row%2], b.Text(field, row))
	}
	_, labelled := b.Unlabelled().ParseField("told")
	require.True(t, labelled, "it is no label")
	_, kept := b.With("label", []string{"", "x"}, func(Stretch, []uint32) {}).Unlabelled().ParseField("label")
	require.False(t, kept)
}

// What is made once for a snapshot is made once, for its labelled copies too, and anew for the next one.
func TestSnapshotsRemember(t *testing.T) {
	type key struct{}
	made := 0
	calendars, err := NewCalendars(nil)
	require.NoError(t, err)
	b := NewBuilder(Layout{Milestones: milestones}).Finish(Settings{Calendars: calendars})
	for _, snapshot := range []*Book{b, b, b.With("label", []string{""}, func(Stretch, []uint32) {})} {
		require.Equal(t, 1, snapshot.Memoize(key{}, func(*Book) any { made++; return made }))
	}
	next := b.Next().Finish(Settings{Calendars: calendars})
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	type broken struct{}
	for range 2 { // a fault is not remembered
		require.ErrorContains(t, work.Do(func() { next.Memoize(broken{}, func(*Book) any { panic("broken") }) }), "broken")
	}
	require.Equal(t, 2, next.Within(ctx).Memoize(key{}, func(b *Book) any {
		b.Pause() // what all will have is made although who asked for it has gone
		made++
		return made
	}))
	require.ErrorIs(t, work.Do(next.Within(ctx).Pause), context.Canceled)
}

// Whoever asks with stand-ins changes neither the book nor what others see of it.
func TestStandInsLeaveTheBookAsItIs(t *testing.T) {
	calendars, err := NewCalendars(nil)
	require.NoError(t, err)
	builder := NewBuilder(BuiltIn())
	builder.Put(Order{ID: 1, Number: "A", Days: make([]day.Day, len(BuiltIn().Milestones))})
	b := builder.Finish(Settings{Calendars: calendars})
	for _, view := range []*Book{b, b.Within(t.Context()), b.Unbound()} {
		asked, err := view.WithStandIns("invoiced-or-shipped", "shipped-or-delivered")
		require.NoError(t, err)
		require.Len(t, asked.At(0).Days, len(BuiltIn().Milestones)+2)
		for _, other := range []*Book{b, view} {
			require.Len(t, other.At(0).Days, len(other.Milestones()))
		}
	}
}

func TestBlocksFillAndASmallLoadCopiesOnlyWhatItTouches(t *testing.T) {
	b := NewBuilder(Layout{Milestones: milestones, Extra: []string{"hive-colour"}})
	for id := range int64(2*blockSize + 3) {
		b.Put(Order{ID: id, Number: fmt.Sprint(id), Days: []day.Day{46000, 0, 46005}})
	}
	calendars, err := NewCalendars(nil)
	require.NoError(t, err)
	first := b.Finish(Settings{Calendars: calendars})
	require.Len(t, first.Blocks(), 3)
	assert.Equal(t, 2*blockSize+3, first.Orders())
	assert.Equal(t, period.Bounds{FirstDay: 46000, DataDate: 46005}, first.Bounds())

	next := first.Next()
	next.Put(Order{ID: blockSize + 7, Number: "changed", Days: []day.Day{46000, 0, 0}})
	second := next.Finish(Settings{Bounds: first.Bounds(), Calendars: calendars})
	assert.Same(t, first.Blocks()[0], second.Blocks()[0])
	assert.NotSame(t, first.Blocks()[1], second.Blocks()[1])
	assert.Same(t, first.Blocks()[2], second.Blocks()[2])
	row, found := second.Find("changed")
	assert.True(t, found)
	assert.Equal(t, blockSize+7, row)
	assert.Panics(t, func() { second.Next().Put(Order{ID: -1, Days: make([]day.Day, 3)}) }, "identities only grow")
}

func TestOrdersFindTheirCalendars(t *testing.T) {
	named := func(names ...string) (all []*calendar.Calendar) {
		for _, name := range names {
			c, err := calendar.New(calendar.Definition{Name: name})
			require.NoError(t, err)
			all = append(all, c)
		}
		return all
	}
	sites := []SiteRecord{{Name: "Galway", Region: "Connacht", Country: "Ireland", CutOff: -1},
		{Name: "Cork", Region: "Munster", Country: "Ireland", CutOff: -1},
		{Name: "Annex", Calendar: "GALWAY", Country: "Oman", CutOff: -1}}
	places := []PlaceRecord{{"Ennis", "Ireland", "Munster", nil}, {"Newport", "Ireland", "Mayo", nil}, {"Newport", "Ireland", "Tipperary", nil}}
	for _, tt := range []struct {
		loaded, site, place, country string
		atSite, atDestination        string // the calendar; a stand-in in brackets
	}{
		{"Galway Munster Ireland", "galway", "Ennis", "Ireland", "Galway", "Munster"},
		{"Galway Munster Ireland", "Cork", "Newport", "Ireland", "Munster", "Ireland"},
		{"Galway Munster Mayo Ireland", "Annex", "Newport", "Ireland", "Galway", "Ireland"},
		{"Ireland", "Galway", "Ennis", "", "Ireland", "(default)"},
		{"Ireland", "Nowhere", "", "Ireland", "(default)", "Ireland"},
		{"Default Ennis", "Galway", "Ennis", "Oman", "(Default)", "Ennis"},
		{"", "", "", "", "(default)", "(default)"},
	} {
		calendars, err := NewCalendars(named(strings.Fields(tt.loaded)...))
		require.NoError(t, err)
		b := NewBuilder(Layout{Milestones: milestones})
		o := Order{Number: "1", Days: make([]day.Day, 3)}
		o.Fields[Site], o.Fields[Place], o.Fields[Country] = tt.site, tt.place, tt.country
		b.Put(o)
		finished := b.Finish(Settings{Calendars: calendars, Sites: sites, Places: places})
		for side, want := range []string{tt.atSite, tt.atDestination} {
			l := finished.SiteCalendarAt(CalendarSource(side), 0)
			got := l.Name()
			if l.StandsIn {
				got = "(" + got + ")"
			}
			assert.Equalf(t, want, got, "%+v, side %d", tt, side)
		}
		other := finished.WithCalendars(calendars.With(named("Ireland")[0]))
		if tt.country == "Ireland" {
			assert.False(t, other.SiteCalendarAt(AtDestination, 0).StandsIn)
		}
	}
}

// A place is country, region and name, never a text taken apart: each is shown by its name, and with what else is needed.
func TestPlacesAreToldApart(t *testing.T) {
	calendars, err := NewCalendars(nil)
	require.NoError(t, err)
	place := func(name, country, region string) PlaceKey { return PlaceKey{name, country, region} }
	b := NewBuilder(Layout{Milestones: milestones})
	put := func(keys ...PlaceKey) *Book {
		for _, k := range keys {
			id := int64(1)
			if n := len(b.blocks); n > 0 {
				id = b.blocks[n-1].IDs[len(b.blocks[n-1].IDs)-1] + 1
			}
			o := Order{ID: id, Number: fmt.Sprint(id), Days: make([]day.Day, 3)}
			o.Fields[Place], o.Fields[Country], o.Fields[Region] = k.Name, k.Country, k.Region
			b.Put(o)
		}
		return b.Finish(Settings{Calendars: calendars})
	}
	texts := func(b *Book) (all []string) {
		for row := range b.Orders() {
			all = append(all, b.Text(Place, row))
		}
		return all
	}
	first := put(place("Perth", "Scotland", ""), place("Cork", "Ireland", "Munster"), place("", "Ireland", ""),
		place("Cork", "Ireland", "Munster"))
	assert.Equal(t, []string{"Perth", "Cork", "", "Cork"}, texts(first))
	b = first.Next()
	second := put(place("Perth", "Australia", ""), place("Newport", "Ireland", "Mayo"), place("Newport", "Ireland", "Tipperary"),
		place("Split, CA", "US", ""), place("Split", "CA", ""), place("Split", "HR", ""), place("Split, CA", "CA", ""))
	assert.Equal(t, []string{"Perth, Scotland", "Cork", "", "Cork", "Perth, Australia", "Newport, Mayo, Ireland",
		"Newport, Tipperary, Ireland", "Split, CA, US", "Split, CA", "Split, HR", "Split, CA, CA"}, texts(second))
	assert.Equal(t, []string{"Perth", "Cork", "", "Cork"}, texts(first), "an earlier snapshot stays as it was")
	assert.Equal(t, place("Split, CA", "US", ""), second.Place(second.Blocks()[0].Codes[Place][7]))
	assert.Equal(t, "Split, CA", second.At(7).Fields[Place])
	for _, tt := range []struct {
		row             int
		country, region bool
		want            string
	}{{4, true, false, "Perth"}, {4, false, true, "Perth, Australia"}, {5, true, false, "Newport, Mayo, Ireland"},
		{5, true, true, "Newport"}, {1, false, false, "Cork"}} {
		assert.Equal(t, tt.want, second.PlaceBeside(second.Blocks()[0].Codes[Place][tt.row], tt.country, tt.region), "%+v", tt)
	}
	b = second.Next()
	odd := put(place("a, b", "c", ""), place("a", "c", "b"), place("a", "c", ""))
	shown := texts(odd)[11:]
	assert.Len(t, shown, 3)
	assert.NotEqual(t, shown[0], shown[1], "names that could be taken for each other are told apart all the same")
	for code := range odd.Values(Place) {
		assert.Equal(t, 1, len(slices.DeleteFunc(slices.Clone(odd.Values(Place)),
			func(v string) bool { return v != odd.Values(Place)[code] })), odd.Values(Place)[code])
	}
}

// Cut-off of Galway: 14:00. 2026-07-03 is a Friday.
func TestOrdersAfterTheCutOffCountAsOfTheNextWorkingDay(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Dublin")
	require.NoError(t, err)
	friday := day.Of(2026, 7, 3)
	calendars, err := NewCalendars(nil)
	require.NoError(t, err)
	at := func(d day.Day, clock string) day.Instant {
		seconds, err := day.ClockSeconds(clock)
		require.NoError(t, err)
		return d.At(seconds, zone)
	}
	b := NewBuilder(Layout{Milestones: milestones})
	ordered := []struct {
		site  string
		day   day.Day
		at    day.Instant
		moved day.Day
	}{
		{"Galway", friday, at(friday, "13:59"), friday},
		{"Galway", friday, at(friday, "14:00"), friday + 3},
		{"Galway", friday + 1, at(friday+1, "09:00"), friday + 3},
		{"Galway", friday, 0, friday},                      // no time of day
		{"Galway", friday + 1, 0, friday + 3},              // on a day off none is needed
		{"Unzoned", friday + 1, 0, friday + 3},             // nor a zone
		{"Unzoned", friday, at(friday, "23:00"), friday},   // which a time of day wants
		{"Muscat", friday, at(friday, "23:00"), friday},    // no cut-off
		{"Galway", friday + 30, at(friday+30, "23:00"), 0}, // after the data date
	}
	for i, o := range ordered {
		order := Order{ID: int64(i), Number: fmt.Sprint(i), Days: []day.Day{o.day, 0, 0}, Instants: []day.Instant{o.at, 0, 0}}
		order.Fields[Site] = o.site
		b.Put(order)
	}
	ends := Settings{Bounds: period.Bounds{DataDate: friday + 10}, Calendars: calendars,
		Sites: []SiteRecord{{Name: "Galway", Zone: zone, CutOff: 14 * 3600}, {Name: "Unzoned", CutOff: 14 * 3600}}}
	finished := b.Finish(ends)
	for i, o := range ordered {
		assert.Equalf(t, o.moved, finished.Blocks()[0].EffectiveStarts[i], "order %d", i)
	}
	ends.Sites = nil
	assert.Nil(t, finished.Next().Finish(ends).Blocks()[0].EffectiveStarts)
	assert.NotNil(t, finished.Blocks()[0].EffectiveStarts)
}

func TestNumbersSortNaturally(t *testing.T) {
	sorted := []string{"", "7", "9", "10", "10-2", "10-10", "SD-2", "SD-02", "SD-10", "SD-A"}
	for i, a := range sorted {
		for j, b := range sorted {
			assert.Equalf(t, cmp.Compare(i, j), CompareNumbers(a, b), "CompareNumbers(%q, %q)", a, b)
		}
	}
}

// Ranks put texts into natural order; a field that is added is one like any other, and leaves the book as it was.
func TestRanksAndAddedFields(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		builder := NewBuilder(Layout{Milestones: milestones, Extra: []string{"hive-colour"}})
		count := rapid.IntRange(0, 12).Draw(t, "orders")
		for id := range count {
			o := drawOrder(t, int64(id))
			o.Number = rapid.StringMatching(`[AB]?[0-9]{1,3}`).Draw(t, "number") + fmt.Sprint("-", id)
			builder.Put(o)
		}
		calendars, err := NewCalendars(nil)
		require.NoError(t, err)
		b := builder.Finish(Settings{Calendars: calendars, Relations: relations})
		ranks := b.NumberRanks()
		require.Len(t, ranks, count)
		sites := b.Ranks(Site)
		for x := range count {
			for y := range count {
				require.Equal(t, cmp.Compare(ranks[x], ranks[y]), CompareNumbers(b.At(x).Number, b.At(y).Number))
				a, c := b.Text(Site, x), b.Text(Site, y)
				codeX, codeY := b.Blocks()[0].Codes[Site][x], b.Blocks()[0].Codes[Site][y]
				require.Equal(t, cmp.Compare(sites[codeX], sites[codeY]), CompareNumbers(a, c))
			}
		}
		names := b.FieldNames()
		labelled := b.With("odd", []string{"", "odd"}, func(of Stretch, told []uint32) {
			for row, id := range of.Block.IDs {
				told[row] = uint32(id % 2)
			}
		})
		field, known := labelled.ParseField("odd")
		require.True(t, known)
		require.Equal(t, names, b.FieldNames())
		require.Equal(t, names, labelled.Unlabelled().FieldNames())
		for row := range count {
			require.Equal(t, []string{"", "odd"}[row%2], labelled.Text(field, row))
			require.Equal(t, b.At(row), labelled.At(row), "what records brought is the same")
		}
		again := labelled.Unlabelled().With("even", []string{"", "even"}, func(Stretch, []uint32) {})
		_, known = again.ParseField("odd")
		require.False(t, known)
	})
}
