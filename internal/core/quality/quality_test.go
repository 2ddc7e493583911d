package quality_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/quality"
)

const dataDate = day.Day(46200)

// sound is an order of which nothing is doubted.
func sound() book.Order {
	o := book.Order{Days: make([]day.Day, len(milestone.BuiltIn())), Value: 100, Valued: true, Findings: parts.WithLines}
	for name, d := range map[string]day.Day{
		milestone.Ordered: 46100, milestone.Requested: 46100, milestone.Promised: dataDate + quality.FarAhead,
		milestone.Shipped: 46100, milestone.Delivered: 46100, milestone.Paid: dataDate,
	} {
		set(&o, name, d)
	}
	o.Instants = make([]day.Instant, len(o.Days))
	o.Instants[milestone.Index(milestone.BuiltIn(), milestone.Ordered)] = 100
	o.Fields[book.Customer], o.Fields[book.Site], o.Fields[book.Currency] = "Clover", "Galway", "EUR"
	return o
}

func set(o *book.Order, name string, d day.Day) {
	o.Days[milestone.Index(milestone.BuiltIn(), name)] = d
}

func bookOf(t *testing.T, orders ...book.Order) *book.Book {
	builder := book.NewBuilder(book.BuiltIn())
	for i, o := range orders {
		o.ID, o.Number = int64(i+1), string(rune('A'+i))
		builder.Put(o)
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	return builder.Finish(book.Settings{Bounds: period.Bounds{DataDate: dataDate}, Calendars: calendars})
}

// Each kind of doubt is raised by one change to a sound order, and by no smaller one.
func TestEachDoubtIsRaisedByOneFault(t *testing.T) {
	on := func(name string, d day.Day) func(*book.Order) { return func(o *book.Order) { set(o, name, d) } }
	finds := func(f parts.Finding) func(*book.Order) { return func(o *book.Order) { o.Findings |= f } }
	tests := map[string]struct {
		fault  func(*book.Order)
		others []string // doubts that the same fault cannot help raising
	}{
		"no-ordered-day":            {on(milestone.Ordered, 0), nil},
		"shipped-before-ordered":    {on(milestone.Shipped, 46099), nil},
		"delivered-before-shipped":  {on(milestone.Delivered, 46099), nil},
		"delivered-without-shipped": {on(milestone.Shipped, 0), nil},
		"cancelled-before-ordered":  {on(milestone.Cancelled, 46099), []string{"shipped-after-cancelled"}},
		"shipped-before-ordered-by-clock": {func(o *book.Order) {
			set(o, milestone.Shipped, o.Days[0])
			set(o, milestone.Delivered, o.Days[0])
			o.Instants[milestone.Index(milestone.BuiltIn(), milestone.Shipped)] = 50
		}, nil},
		"ordered-without-time":    {func(o *book.Order) { o.Instants = nil }, nil},
		"cancelled-after-shipped": {on(milestone.Cancelled, 46101), nil},
		"shipped-after-cancelled": {func(o *book.Order) {
			set(o, milestone.Ordered, 46090)
			set(o, milestone.Cancelled, 46099)
		}, nil},
		"requested-before-ordered": {on(milestone.Requested, 46099), nil},
		"fact-ahead":               {on(milestone.Paid, dataDate+1), nil},
		"plan-far-ahead":           {on(milestone.Promised, dataDate+quality.FarAhead+1), nil},
		"no-site":                  {func(o *book.Order) { o.Fields[book.Site] = "" }, nil},
		"no-customer":              {func(o *book.Order) { o.Fields[book.Customer] = "" }, nil},
		"no-currency":              {func(o *book.Order) { o.Fields[book.Currency] = "" }, nil},
		"no-lines":                 {func(o *book.Order) { o.Findings = 0 }, nil},
		"shipped-differs":          {finds(parts.ShippedDiffers), nil},
		"delivered-differs":        {finds(parts.DeliveredDiffers), nil},
		"paid-differs":             {finds(parts.PaidDiffers), nil},
		"shipped-beyond":           {finds(parts.ShippedBeyond), nil},
		"paid-beyond":              {finds(parts.PaidBeyond), nil},
		"cancelled-units-undated":  {finds(parts.CancelledUnitsUndated), nil},
		"value-differs":            {func(o *book.Order) { o.Lines = []parts.Line{{Number: "1", Value: 9_949, Valued: true}} }, nil},
		"completeness-unknown":     {finds(parts.CompletenessUnknown), nil},
		"payment-unclear":          {finds(parts.PaidUnknown), nil},
	}
	says := func(records ...parts.StatusRecord) func(*book.Order) {
		return func(o *book.Order) { o.Statuses = records }
	}
	status := func(name string, d day.Day, source string) parts.StatusRecord {
		return parts.StatusRecord{Status: name, At: parts.Day{Day: d}, Source: source}
	}
	for code, test := range map[string]struct {
		fault  func(*book.Order)
		others []string
	}{
		"status-ambiguous":      {says(status("packed", 46100, parts.Event), status("on hold", 46100, parts.Event)), nil},
		"status-sources-differ": {says(status("packed", 46100, parts.Event), status("on hold", 46099, parts.Daily)), nil},
		"status-latest-differs": {says(status("packed", 46100, parts.Event), status("on hold", 46101, parts.Daily)),
			[]string{"status-sources-differ"}},
		"status-milestone-differs": {says(status("shipped", 46101, parts.Event)), nil},
	} {
		tests[code] = test
	}
	require.Len(t, quality.All(), len(tests), "every kind is tested")
	for code, tt := range tests {
		faulty := sound()
		tt.fault(&faulty)
		b := bookOf(t, sound(), faulty, sound())
		raised := []string{}
		for i, orders := range quality.Count(b) {
			if orders > 0 {
				assert.Equal(t, 1, orders, code)
				raised = append(raised, quality.All()[i].Code)
			}
		}
		assert.ElementsMatch(t, append(tt.others, code), raised)
		test, known := quality.Test(b, code)
		require.True(t, known)
		for row := range 3 {
			assert.Equal(t, row == 1, test(book.Offset{Block: b.Blocks()[0], At: row, Row: row}), "%s, row %d", code, row)
		}
	}
	_, known := quality.Test(bookOf(t), "too-good-to-be-true")
	assert.False(t, known)
}

func TestWhatIsNoFault(t *testing.T) {
	withoutValue := sound()
	withoutValue.Valued, withoutValue.Fields[book.Currency] = false, ""
	withoutValue.Lines = []parts.Line{{Number: "1", Value: 9_949, Valued: true}}
	fractions := sound()
	fractions.Lines = []parts.Line{{Number: "1", Value: 4_975, Valued: true}, {Number: "2", Value: 4_975,
		Valued: true}} // 0.995, which is 1.00
	withoutLineValue := sound()
	withoutLineValue.Lines = []parts.Line{{Number: "1", Value: 1, Valued: true}, {Number: "2"}}
	running := sound()
	set(&running, milestone.Shipped, 0)
	set(&running, milestone.Delivered, 0)
	cancelledSameDay := running
	cancelledSameDay.Days = append([]day.Day(nil), running.Days...)
	set(&cancelledSameDay, milestone.Cancelled, 46100)
	assert.Zero(t, sum(quality.Count(bookOf(t, withoutValue, running, cancelledSameDay, fractions, withoutLineValue))))
	bare := sound()
	bare.Findings = 0
	assert.Zero(t, sum(quality.Count(bookOf(t, bare))), "lines are missed only where some order has them")
}

func sum(counts []int) (all int) {
	for _, n := range counts {
		all += n
	}
	return all
}

func TestHowFarMilestonesAreRecorded(t *testing.T) {
	ahead, none := sound(), sound()
	set(&ahead, milestone.Shipped, dataDate+3)
	set(&none, milestone.Shipped, 0)
	known := quality.Milestones(bookOf(t, sound(), ahead, none))
	assert.Len(t, known, len(milestone.BuiltIn()))
	assert.Equal(t, quality.Known{Milestone: milestone.Milestone{Name: milestone.Shipped}, Present: 2, Missing: 1, Ahead: 1,
		Earliest: 46100, Latest: dataDate + 3}, known[3])
	assert.Equal(t, quality.Known{Milestone: milestone.Milestone{Name: milestone.Promised, Plan: true}, Present: 3,
		Earliest: dataDate + quality.FarAhead, Latest: dataDate + quality.FarAhead}, known[2], "a plan is never ahead")
	assert.Equal(t, 3, known[4].Missing)
}
