package duration

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sort"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/promise"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/query/querytest"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/work"
)

// drawn is a random book beside the plain orders and calendars that it was made from.
type drawn struct {
	book   *book.Book
	orders []book.Order
	ends   book.Settings
	rested map[string]map[day.Day]bool // by site, and the country Oman: the days of holidays
	// What the condition made of the orders of the last slow answer.
	unmet, undecided int
}

// drawWhere draws a condition, or none.
func drawWhere(t *rapid.T, depth int) predicate.Condition {
	operator := predicate.Operator(rapid.IntRange(0, 5).Draw(t, "operator"))
	switch rapid.IntRange(0, 3+min(depth, 1)*3).Draw(t, "condition") {
	case 0:
		return predicate.Compare{Operator: operator, X: predicate.Field("channel"), Y: predicate.Literal{Kind: predicate.OfText,
			Text: "web"}}
	case 1:
		return predicate.Compare{Operator: operator, X: predicate.Day("promised"), Y: predicate.Literal{Kind: predicate.OfText,
			Text: day.Day(46000 + rapid.Int32Range(0, 60).Draw(t, "literal")).String()}}
	case 2:
		return predicate.Compare{Operator: operator, X: predicate.Day("shipped"), Y: predicate.Day("promised")}
	case 3:
		return predicate.Compare{Operator: operator, X: predicate.Day("paid"), Y: predicate.Literal{}}
	case 4:
		return predicate.Not{X: drawWhere(t, depth-1)}
	case 5:
		return predicate.And{X: drawWhere(t, depth-1), Y: drawWhere(t, depth-1)}
	}
	return predicate.Or{X: drawWhere(t, depth-1), Y: drawWhere(t, depth-1)}
}

// meets decides a drawn condition of one order by its texts: true, false, or undecided as nil.
func (d drawn) meets(c predicate.Condition, o book.Order) *bool {
	is := func(b bool) *bool { return &b }
	text := func(operand predicate.Operand) string {
		switch operand := operand.(type) {
		case predicate.Field:
			return o.Fields[book.Channel]
		case predicate.Literal:
			return operand.Text
		case predicate.Day:
			m := milestone.Index(milestone.BuiltIn(), string(operand))
			if at := o.Days[m]; at <= d.book.Bounds().DataDate || milestone.BuiltIn()[m].Plan {
				return at.String()
			}
		}
		return ""
	}
	switch c := c.(type) {
	case predicate.Compare:
		x, y := text(c.X), text(c.Y)
		if c.Y == predicate.Operand(predicate.Literal{}) { // null asks whether it is missing
			switch c.Operator {
			case predicate.Equal, predicate.Unequal:
				return is((x == "") == (c.Operator == predicate.Equal))
			}
			return nil
		}
		switch {
		case c.Operator == predicate.Equal:
			return is(x == y && x != "" && y != "")
		case c.Operator == predicate.Unequal:
			return is(x != y || x == "" || y == "")
		case x == "" || y == "":
			return nil
		}
		return is(map[predicate.Operator]bool{predicate.Less: x < y, predicate.LessOrEqual: x <= y, predicate.Greater: x > y,
			predicate.GreaterOrEqual: x >= y}[c.Operator])
	case predicate.Not:
		if x := d.meets(c.X, o); x != nil {
			return is(!*x)
		}
		return nil
	case predicate.And, predicate.Or:
		deciding := false
		sides := [2]*bool{}
		if and, isAnd := c.(predicate.And); isAnd {
			sides = [2]*bool{d.meets(and.X, o), d.meets(and.Y, o)}
		} else {
			deciding = true
			sides = [2]*bool{d.meets(c.(predicate.Or).X, o), d.meets(c.(predicate.Or).Y, o)}
		}
		for _, side := range sides {
			if side != nil && *side == deciding {
				return is(deciding)
			}
		}
		if sides[0] == nil || sides[1] == nil {
			return nil
		}
		return is(!deciding)
	}
	return nil
}

// The sites of drawn books: Galway has a cut-off and daily hours, Muscat neither. Nothing is known of others.
var (
	zones   = map[string]*time.Location{"Galway": load("Europe/Dublin"), "Muscat": load("Asia/Muscat")}
	records = []book.SiteRecord{{Name: "Galway", Zone: zones["Galway"], CutOff: 14 * 3600},
		{Name: "Muscat", Zone: zones["Muscat"], CutOff: -1}}
)

func load(zone string) *time.Location {
	location, err := time.LoadLocation(zone)
	if err != nil {
		panic(err)
	}
	return location
}

// drawBook covers every state of a leg: days are dense, some missing, some after the data date.
func drawBook(t *rapid.T) drawn {
	const from, to = 46000, 46060
	var d drawn
	d.rested = map[string]map[day.Day]bool{}
	var loaded []*calendar.Calendar
	for _, site := range []string{"Galway", "Muscat", "Oman"} {
		def := calendar.Definition{Name: site, Coverage: day.Through(from+5, from+50)}
		if site == "Galway" {
			def.Hours = []calendar.DailyHours{{From: from, Hours: calendar.Hours{{From: 9 * 3600, To: 17 * 3600}}}}
		}
		d.rested[site] = map[day.Day]bool{}
		for range rapid.IntRange(0, 6).Draw(t, "holidays") {
			at := day.Day(rapid.Int32Range(from, to).Draw(t, "holiday"))
			def.Holidays = append(def.Holidays, calendar.NamedDay{Day: at})
			d.rested[site][at] = true
		}
		c, err := calendar.New(def)
		require.NoError(t, err)
		loaded = append(loaded, c)
	}
	calendars, err := book.NewCalendars(loaded)
	require.NoError(t, err)
	// Days lie on the edges of the coverage, of the periods that are asked about and of the book more often than by chance.
	dataDate := day.Day(rapid.Int32Range(from+20, to).Draw(t, "data date"))
	days := rapid.OneOf(rapid.Int32Range(from, to), rapid.SampledFrom([]int32{from, from + 4, from + 5, from + 9, from + 10, from + 30,
		from + 31, from + 50, from + 51, int32(dataDate), int32(dataDate) + 1}))
	builder := book.NewBuilder(book.BuiltIn())
	rare := rapid.Float64Range(0, 1)
	for id := range rapid.IntRange(0, 60).Draw(t, "orders") {
		o := book.Order{ID: int64(id), Number: fmt.Sprint("N", id), Days: make([]day.Day, len(milestone.BuiltIn()))}
		for m := range o.Days {
			if rare.Draw(t, "given") < 0.7 {
				o.Days[m] = day.Day(days.Draw(t, "day"))
			}
		}
		if rare.Draw(t, "far") < 0.05 { // beyond the dense table of lengths
			o.Days[milestone.Index(milestone.BuiltIn(), milestone.Promised)] = from + 3*denseWidth
		}
		o.Fields[book.Site] = rapid.SampledFrom([]string{"Galway", "Muscat", "Elsewhere", ""}).Draw(t, "site")
		o.Fields[book.Country] = rapid.SampledFrom([]string{"Oman", "Ireland", ""}).Draw(t, "country")
		o.Fields[book.Place] = rapid.SampledFrom([]string{"Sur", ""}).Draw(t, "place")
		o.Instants = make([]day.Instant, len(o.Days))
		for m, at := range o.Days {
			if zone := zones[o.Fields[book.Site]]; at != 0 && zone != nil && rare.Draw(t, "timed") < 0.6 {
				o.Instants[m] = at.At(rapid.IntRange(8*3600, 20*3600).Draw(t, "clock"), zone)
			}
		}
		o.Fields[book.Channel] = rapid.SampledFrom([]string{"web", "phone", ""}).Draw(t, "channel")
		d.orders = append(d.orders, o)
		builder.Put(o)
	}
	d.ends = book.Settings{
		Bounds:    period.Bounds{FirstDay: from, DataDate: dataDate},
		Calendars: calendars, Sites: records,
	}
	d.book = builder.Finish(d.ends)
	return d
}

func drawRequest(t *rapid.T, b *book.Book) Request {
	names := make([]string, len(b.Milestones()))
	for i, m := range b.Milestones() {
		names[i] = m.Name
	}
	r := Request{Request: query.Request{From: rapid.SampledFrom(names).Draw(t, "from"),
		In:    rapid.SampledFrom(leg.UnitNames()).Draw(t, "in"),
		Count: rapid.SampledFrom(leg.RuleNames()).Draw(t, "count"),
		Basis: rapid.SampledFrom(names).Draw(t, "basis"),
		Period: rapid.SampledFrom([]string{"", day.Day(46010).String() + "/" + day.Day(46030).String(),
			day.Day(46010).String()[:7] + "," + day.Day(46040).String()[:7]}).Draw(t, "period"),
		By: rapid.SampledFrom([][]string{nil, {"site"}, {"channel", "site"}, {"month"}, {"week", "site"}, {"site", "month"}, {"weekday"},
			{"month-of-year", "site"}, {"site", "month(shipped)"}, {"week(promised)", "weekday"}}).Draw(t, "by"),
	},
	}
	unit, _ := leg.ParseUnit(r.In)
	if (leg.Measure{Unit: unit, Rule: leg.BothEnds}).Check() != nil {
		r.Count = ""
	}
	if unit != leg.WorkingHours {
		r.Calendar = rapid.SampledFrom(book.CalendarSourceNames()).Draw(t, "calendar")
	}
	r.To = rapid.SampledFrom(slices.DeleteFunc(names, func(n string) bool { return n == r.From })).Draw(t, "to")
	return r
}

// plainGroup is a group as the slow version finds it.
type plainGroup struct {
	states  StateCounts
	lengths []int
	unknown int
	notes   map[string]int
}

// counts is the length of one order by walks alone, but for the working hours, which the calendar's own tests
// prove; lacking is set where the unit asks for what is not known.
func (d drawn) counts(q Question, o book.Order, start, end day.Day) (length int, lacking leg.State, from day.Day, note string) {
	rested, rests := d.rested[o.Fields[book.Site]], true
	if q.Calendar == book.AtDestination {
		rested = d.rested[o.Fields[book.Country]]
	}
	works := func(at day.Day, rested map[day.Day]bool) bool {
		return !rests || at.Weekday() != 0 && at.Weekday() != 6 && !rested[at]
	}
	startAt, endAt := o.Instants[milestone.Index(milestone.BuiltIn(), q.Leg.From.Name)],
		o.Instants[milestone.Index(milestone.BuiltIn(), q.Leg.To.Name)]
	switch q.Measure.Unit {
	case leg.Hours, leg.WorkingHours:
		if startAt == 0 || endAt == 0 {
			return 0, leg.NoTime, 0, ""
		}
		if q.Measure.Unit == leg.Hours {
			return int(endAt - startAt), leg.Complete, min(start, end), ""
		}
		if o.Fields[book.Site] != "Galway" {
			return 0, leg.NoHours, 0, ""
		}
		c, _ := d.book.Calendars().Named("Galway")
		return calendar.Local{Calendar: c, Zone: zones["Galway"]}.WorkedSeconds(startAt, endAt), leg.Complete, min(start, end), ""
	}
	first, last := min(start, end), max(start, end)
	sign := 1
	if end < start {
		sign = -1
	}
	switch q.Measure.Unit {
	case leg.Months, leg.Years, leg.MonthsFraction:
		n := 0
		for next := first.AddMonths(1); next <= last; next = first.AddMonths(n + 1) {
			n++
		}
		if q.Measure.Unit == leg.Years {
			return sign * (n / 12), leg.Complete, min(start, end), ""
		} else if q.Measure.Unit == leg.Months {
			return sign * n, leg.Complete, min(start, end), ""
		}
		from, to := first.AddMonths(n), first.AddMonths(n+1)
		return sign * int(math.Round((float64(n)+float64(last-from)/float64(to-from))*float64(leg.MonthsFraction.Ticks()))), leg.Complete,
			min(start, end), ""
	case leg.MonthsCrossed, leg.YearsCrossed:
		n := 0
		for at := first; at < last; at++ {
			if next := (at + 1).String(); next[8:] == "01" && (q.Measure.Unit == leg.MonthsCrossed || next[5:] == "01-01") {
				n++
			}
		}
		return sign * n, leg.Complete, min(start, end), ""
	}
	if q.Leg.From.Name == milestone.Ordered && q.Measure.Unit == leg.WorkingDays && o.Fields[book.Site] == "Galway" {
		own := d.rested["Galway"]
		switch {
		case startAt == 0 && works(start, own):
			note = NoteCutOffUntimed
		case !works(start, own) || startAt.In(zones["Galway"]).Hour() >= 14:
			note = NoteCutOff
			for first++; !works(first, own); first++ {
			}
			if first > last {
				return 0, leg.Complete, last, note
			}
		}
	}
	rests = q.Measure.Unit == leg.WorkingDays
	for at := first; at <= last; at++ {
		if works(at, rested) && (at > first || q.Measure.Rule == leg.BothEnds) {
			length++
		}
	}
	return sign * length, leg.Complete, first, note
}

// slowly answers one period order by order, day by day, with maps. It shares with the engine only the
// names of states.
func (d *drawn) slowly(q Question, p period.Period) (groups map[string]*plainGroup, asked, outside, undated int) {
	groups = map[string]*plainGroup{}
	d.unmet, d.undecided = 0, 0
	dataDate := d.book.Bounds().DataDate
	index := func(m milestone.Milestone) int { return milestone.Index(milestone.BuiltIn(), m.Name) }
	known := func(o book.Order, m milestone.Milestone) day.Day {
		at := o.Days[index(m)]
		if !m.Plan && at > dataDate {
			return 0
		}
		return at
	}
	for _, o := range d.orders {
		basis := known(o, q.Basis)
		if !p.Unbounded() {
			if basis == 0 {
				undated++
				continue
			}
			if basis < p.Span.From || basis > p.Span.LastDay() {
				outside++
				continue
			}
		}
		if q.Where.Condition != nil {
			if met := d.meets(q.Where.Condition, o); met == nil {
				d.undecided++
				continue
			} else if !*met {
				d.unmet++
				continue
			}
		}
		asked++
		var keys []string
		for _, g := range q.By {
			on := basis
			if i := milestone.Index(milestone.BuiltIn(), g.Of); i >= 0 {
				on = known(o, milestone.BuiltIn()[i])
			}
			switch {
			case g.Cut == query.NoCut:
				keys = append(keys, o.Fields[g.Field])
			case on == 0:
				keys = append(keys, "")
			case g.Cut == query.Month:
				keys = append(keys, on.String()[:7])
			case g.Cut == query.MonthOfYear:
				keys = append(keys, on.Time().Month().String())
			case g.Cut == query.Weekday:
				keys = append(keys, on.Weekday().String())
			default:
				y, w := on.Time().ISOWeek()
				keys = append(keys, fmt.Sprintf("%d-W%02d", y, w))
			}
		}
		key := strings.Join(keys, "|")
		if groups[key] == nil {
			groups[key] = &plainGroup{notes: map[string]int{}}
		}
		g := groups[key]
		start, end, cancelled := known(o, q.Leg.From), known(o, q.Leg.To), o.Days[index(milestone.Milestone{Name: milestone.Cancelled})]
		if cancelled > dataDate {
			cancelled = 0
		}
		twoWay := q.Leg.From.Name != "ordered" && (q.Leg.From.Plan || q.Leg.To.Plan || q.Leg.To.Name == "paid" ||
			q.Leg.To.Name == "invoiced")
		state := leg.Complete
		switch {
		case start == 0 && o.Days[index(q.Leg.From)] > 0:
			state = leg.NotYetBegun
		case start == 0:
			state = leg.NoStart
		case end == 0 && q.Leg.To.Plan:
			state = leg.NoEnd
		case end == 0 && cancelled == 0 && start > dataDate:
			state = leg.NotYetBegun
		case end == 0 && cancelled == 0:
			state = leg.Running
		case end == 0 && cancelled >= start:
			state = leg.Cancelled
		case end == 0:
			state = leg.CancelledBeforeStart
		case end < start && twoWay:
			state = leg.Negative
		case end < start:
			state = leg.EndBeforeStart
		}
		if state != leg.Complete && state != leg.Negative {
			g.states[state]++
			continue
		}
		length, lacking, from, note := d.counts(q, o, start, end)
		if lacking != leg.Complete {
			g.states[lacking]++
			continue
		}
		g.states[state]++
		g.lengths = append(g.lengths, length)
		g.notes[note]++
		if q.Measure.Unit.Timed() && length < 0 || !q.Measure.Unit.Timed() && state == leg.Negative {
			g.notes[NoteNegative]++
		}
		where := d.rested[o.Fields[book.Site]]
		if q.Calendar == book.AtDestination {
			where = d.rested[o.Fields[book.Country]]
		}
		if q.Measure.Unit.ByCalendar() && (where == nil || from < 46005 || max(start, end) > 46050) {
			g.unknown++
		}
	}
	return groups, asked, outside, undated
}

func TestAnswersAgreeWithTheSlowVersionAndAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		q, err := Parse(d.book, drawRequest(t, d.book))
		require.NoError(t, err)
		if rapid.Bool().Draw(t, "where") {
			q.Where = query.Where{Text: "drawn", Condition: drawWhere(t, 2)}
		}
		for _, part := range Ask(d.book, q).Parts {
			p := newPlan(query.NewScope(d.book, q.Question, part.Period), q)
			querytest.Check(t, p.scope, p.newTally, func(counted *tally) any {
				return []any{p.groupsAt(p.arrange(p.gather(counted)), counted, p.gather(counted)), counted.moved, counted.untimed,
					counted.stoodIn}
			})
			want, asked, outside, undated := d.slowly(q, part.Period)
			lacking := 0
			for _, lack := range part.Population.Lacking {
				require.NotEmpty(t, lack.Name)
				lacking += lack.Orders
			}
			require.Equal(t, lacking, part.Population.Undecided)
			got := part.Population
			require.Equal(t, []int{len(d.orders), asked, outside, undated, d.unmet, d.undecided},
				[]int{got.InBook, got.Asked, got.Outside, got.Undated, got.Unmet, got.Undecided})
			groups := part.Groups
			if len(q.By) == 0 {
				groups = []Group{part.Total}
			}
			orders, seen := 0, 0
			for _, g := range groups {
				orders += g.Orders
				sum := 0
				for _, r := range g.Reconciliation(q.Leg) {
					sum += r.Orders
				}
				require.Equal(t, g.Orders, sum, "the reconciliation adds up")
				w := want[strings.Join(g.Keys, "|")]
				if w == nil {
					require.Zero(t, g.Orders)
					continue
				}
				seen++
				require.Equal(t, w.states, g.States, "%v", g.Keys)
				require.Equal(t, w.unknown, g.HolidaysUnknown, "%v", g.Keys)
				requireSameLengths(t, w.lengths, g.Lengths)
			}
			require.Equal(t, len(want), seen, "no group is missing")
			require.Equal(t, asked, orders)
			require.Equal(t, asked, part.Total.Orders)
			var all []int
			notes := map[string]int{}
			for _, w := range want {
				all = append(all, w.lengths...)
				for code, n := range w.notes {
					notes[code] += n
				}
			}
			requireSameLengths(t, all, part.Total.Lengths)
			for _, code := range []string{NoteCutOff, NoteCutOffUntimed, NoteNegative} {
				said := 0
				for _, n := range part.Notes {
					if n.Code == code {
						said = n.Orders
					}
				}
				require.Equal(t, notes[code], said, code)
				only := q
				only.Periods = []period.Period{part.Period}
				requireOrdersBehind(t, d.book, only, Selection{Note: code}, said)
			}
			requireListsBehindTheNumbers(t, d.book, q, part)
			requireTotalsAlong(t, part)
			steps := part.Steps(q)
			require.Equal(t, []int{len(d.orders), part.Total.Lengths.Orders()}, []int{steps[0].Orders, steps[len(steps)-1].Orders},
				"the working ends with what is counted")
			for i, step := range steps[1:] {
				left := 0
				for _, r := range step.Left {
					left += r.Orders
				}
				require.Equal(t, steps[i].Orders, step.Orders+left, step.Label)
			}
		}
	})
}

// The effect of another calendar is what two answers differ in, order by order.
func TestTheEffectOfACalendarIsTheDifferenceOfTwoAnswers(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		r := drawRequest(t, d.book)
		r.By, r.Period = nil, ""
		q, err := Parse(d.book, r)
		require.NoError(t, err)
		def := calendar.Definition{Name: rapid.SampledFrom([]string{"galway", "Oman", "Elsewhere", "default"}).Draw(t, "changed"),
			Coverage: day.Through(46000, 46060)}
		for range rapid.IntRange(0, 4).Draw(t, "holidays") {
			def.Holidays = append(def.Holidays, calendar.NamedDay{Day: day.Day(rapid.Int32Range(46000, 46060).Draw(t, "holiday"))})
		}
		if rapid.Bool().Draw(t, "timed") {
			def.Hours = []calendar.DailyHours{{From: 1, Hours: calendar.Hours{{From: 8 * 3600, To: 12 * 3600}}}}
		}
		changed, err := calendar.New(def)
		require.NoError(t, err)
		next := d.book.WithCalendars(d.book.Calendars().With(changed))
		effect := Compare(d.book, next, q)

		before, after := Ask(d.book, q).Parts[0].Total, Ask(next, q).Parts[0].Total
		require.Equal(t, before.Lengths, effect.Before)
		require.Equal(t, after.Lengths, effect.After)
		require.Equal(t, []int{before.HolidaysUnknown, after.HolidaysUnknown}, []int{effect.UnknownBefore, effect.UnknownAfter})
		listed := func(b *book.Book) map[int]Listed {
			by := map[int]Listed{}
			for _, l := range ordersBehind(t, b, q, Selection{State: Counted}) {
				by[l.Row] = l
			}
			return by
		}
		was, is := listed(d.book), listed(next)
		counted, moved, longer, shorter := 0, 0, 0, 0
		for row := range d.orders {
			x, had := was[row]
			y, has := is[row]
			if had || has {
				counted++
			}
			if had != has || x.Length != y.Length {
				moved++
			}
			if y.Length > x.Length {
				longer++
			} else if y.Length < x.Length {
				shorter++
			}
		}
		require.Equal(t, []int{counted, moved, longer, shorter}, []int{effect.Counted, effect.Moved, effect.Longer, effect.Shorter})
		require.Len(t, effect.Examples, min(moved, mostExamples))
		require.NotSame(t, d.book, next)
		require.Equal(t, was, listed(d.book), "the book itself stays")
	})
}

// How long legs without an end have run is told group by group, from the orders that the answer counts as running and
// cancelled; limits divide finished and running alike.
func TestWaitingLegsOfGroups(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		q, err := Parse(d.book, drawRequest(t, d.book))
		require.NoError(t, err)
		q.Waiting = true
		limit, least := rapid.IntRange(-2, 15).Draw(t, "limit")*q.Measure.Unit.Ticks(), rapid.Bool().Draw(t, "least")
		for _, part := range Ask(d.book, q).Parts {
			one := q
			one.Periods = []period.Period{part.Period}
			for _, g := range append(slices.Clone(part.Groups), part.Total) {
				lengths := func(state leg.State, until func(book.Order) day.Day) (all []int, untold int) {
					for _, l := range ordersBehind(t, d.book, one, Selection{State: state.String(), Keys: g.Keys}) {
						o := d.orders[l.Row]
						from := milestone.Index(milestone.BuiltIn(), q.Leg.From.Name)
						if q.Measure.Unit.Timed() {
							if length, told := d.hoursUntil(q, o, o.Instants[from], until(o), state); told {
								all = append(all, length)
							} else {
								untold++
							}
							continue
						}
						length, _, _, _ := d.counts(q, o, o.Days[from], until(o))
						all = append(all, length)
					}
					slices.Sort(all)
					return all, untold
				}
				expand := func(bars distribution.Distribution) (all []int) {
					for _, bar := range bars {
						for range bar.Orders {
							all = append(all, bar.Length)
						}
					}
					return all
				}
				running, untold := lengths(leg.Running, func(book.Order) day.Day { return d.book.Bounds().DataDate })
				require.Equal(t, running, expand(g.Waiting.Running), "%v", g.Keys)
				require.Equal(t, untold, g.Waiting.Untold)
				cancelled, _ := lengths(leg.Cancelled, func(o book.Order) day.Day {
					return o.Days[milestone.Index(milestone.BuiltIn(),
						milestone.Cancelled)]
				})
				require.Equal(t, cancelled, expand(g.Waiting.Cancelled), "%v", g.Keys)

				var want Over
				want.Undecided = untold
				is := func(length int) bool { return length > limit || least && length == limit }
				for _, length := range expand(g.Lengths) {
					if is(length) {
						want.Finished++
					} else {
						want.Within++
					}
				}
				for _, length := range running {
					if is(length) {
						want.Waiting++
					} else {
						want.Undecided++
					}
				}
				for _, length := range cancelled {
					if is(length) {
						want.Cancelled++
					}
				}
				got := g.Over(Limit{limit, least})
				require.Equal(t, want, got)
				limited := one
				limited.Limit = &Limit{limit, least}
				for beyond, orders := range map[string]int{Finished: got.Finished, StillWaiting: got.Waiting, Within: got.Within,
					NotOver: got.Undecided, CancelledOver: got.Cancelled} {
					requireOrdersBehind(t, d.book, limited, Selection{LimitOutcome: beyond, Keys: g.Keys}, orders)
				}
				require.Equal(t, g.Orders-int(g.States[leg.Cancelled]), got.Finished+got.Waiting+got.Within+got.Undecided+othersOf(g),
					"every order is somewhere")
			}
		}
	})
	// The example of the rules: 100 finished with 10 over, 20 running with 15 over.
	o := Over{Finished: 10, Waiting: 15, Within: 90, Undecided: 5}
	share, low, high := o.Share()
	assert.Equal(t, [][2]int{{25, 115}, {25, 120}, {30, 120}}, [][2]int{share, low, high})
}

// hoursUntil are the seconds that a leg without an end has run for certain: up to the start of a day in the zone of the site, or
// to the instant at which it was cancelled.
func (d drawn) hoursUntil(q Question, o book.Order, start day.Instant, until day.Day, state leg.State) (seconds int, told bool) {
	zone, at := zones[o.Fields[book.Site]], day.Instant(0)
	if zone != nil {
		at = until.At(0, zone)
	}
	if cancelled := o.Instants[milestone.Index(milestone.BuiltIn(), milestone.Cancelled)]; state == leg.Cancelled && cancelled != 0 {
		at = cancelled
	}
	if at = max(at, start); start == 0 || zone == nil || q.Measure.Unit == leg.WorkingHours && o.Fields[book.Site] != "Galway" {
		return 0, false
	}
	if q.Measure.Unit == leg.Hours {
		return int(at - start), true
	}
	c, _ := d.book.Calendars().Named("Galway")
	return calendar.Local{Calendar: c, Zone: zone}.WorkedSeconds(start, at), true
}

// One order has waited since January; the days of the other two end within, and after, its limit.
func TestAnOrderThatHasWaitedForWeeksIsOverALimitInHours(t *testing.T) {
	ordered, dataDate := day.Of(2026, 1, 5), day.Of(2026, 7, 3)
	b := book.NewBuilder(book.BuiltIn())
	for i, at := range []day.Instant{ordered.At(9*3600, zones["Galway"]), dataDate.At(0, zones["Galway"]) - 25*3600,
		dataDate.At(0, zones["Galway"]) - 24*3600, dataDate.At(9*3600, zones["Galway"])} {
		o := book.Order{ID: int64(i), Number: fmt.Sprint(i), Days: make([]day.Day, len(milestone.BuiltIn()))}
		o.Fields[book.Site] = "Galway"
		o.Set(0, parts.Day{Day: day.FromTime(at.In(zones["Galway"])), At: at})
		b.Put(o)
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	bk := b.Finish(book.Settings{Bounds: period.Bounds{FirstDay: ordered, DataDate: dataDate}, Calendars: calendars, Sites: records})
	q, err := Parse(bk, Request{Request: query.Request{In: "hours"}})
	require.NoError(t, err)
	q.Waiting, q.Limit = true, &Limit{Ticks: 24 * 3600}
	assert.Equal(t, Over{Waiting: 2, Undecided: 2}, Ask(bk, q).Parts[0].Total.Over(*q.Limit))
}

// works says by the rules alone whether a day is worked for an order.
func (d drawn) works(o book.Order, side book.CalendarSource, at day.Day) bool {
	rested := d.rested[o.Fields[book.Site]]
	if side == book.AtDestination {
		rested = d.rested[o.Fields[book.Country]]
	}
	return at.Weekday() != 0 && at.Weekday() != 6 && !rested[at]
}

// promised is the day by which an order is promised, found by walking.
func (d drawn) promised(q Question, o book.Order) day.Day {
	index := func(name string) int { return milestone.Index(milestone.BuiltIn(), name) }
	if q.Promise.Plan.Name != "" {
		return o.Days[index(q.Promise.Plan.Name)]
	}
	start, at := o.Days[index(q.Leg.From.Name)], o.Instants[index(q.Leg.From.Name)]
	if start == 0 || !q.Leg.From.Plan && start > d.book.Bounds().DataDate {
		return 0
	}
	if q.Leg.From.Name == milestone.Ordered && o.Fields[book.Site] == "Galway" &&
		(!d.works(o, book.AtSite, start) || at != 0 && at.In(zones["Galway"]).Hour() >= 14) {
		for start++; !d.works(o, book.AtSite, start); start++ {
		}
	}
	due := start
	for n := 0; n < q.Promise.After; {
		if due++; d.works(o, q.Calendar, due) {
			n++
		}
	}
	for !d.works(o, q.Calendar, due) {
		due++
	}
	return due
}

func TestPromisesAgreeWithTheSlowVersion(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		r := drawRequest(t, d.book)
		if r.Promise = rapid.SampledFrom([]string{"promised", "requested", "0", "3", "11"}).Draw(t, "promise"); r.To == "promised" ||
			r.To == "requested" || r.To == "expected" {
			r.Promise = "4"
		}
		q, err := Parse(d.book, r)
		require.NoError(t, err)
		if rapid.Bool().Draw(t, "where") {
			q.Where = query.Where{Text: "drawn", Condition: drawWhere(t, 1)}
		}
		dataDate, to, cancelled := d.book.Bounds().DataDate, milestone.Index(milestone.BuiltIn(), q.Leg.To.Name),
			milestone.Index(milestone.BuiltIn(), milestone.Cancelled)
		for _, part := range Ask(d.book, q).Parts {
			one := q
			one.Periods = []period.Period{part.Period}
			for _, g := range append(slices.Clone(part.Groups), part.Total) {
				var want [promise.Outcomes]int
				var sizes [promise.Outcomes][]int
				for _, l := range ordersBehind(t, d.book, one, Selection{Keys: g.Keys}) {
					o := d.orders[l.Row]
					due, reached := d.promised(q, o), o.Days[to]
					if reached > dataDate && !q.Leg.To.Plan {
						reached = 0
					}
					s := promise.NoPromise
					switch {
					case reached == 0 && o.Days[cancelled] != 0 && o.Days[cancelled] <= dataDate:
						s = promise.Cancelled
					case !q.Leg.From.Plan && o.Days[milestone.Index(milestone.BuiltIn(), q.Leg.From.Name)] > dataDate:
						s = promise.NotBegun
					case due == 0:
					case reached != 0 && reached < due:
						s = promise.Early
					case reached != 0 && reached == due:
						s = promise.OnTheDay
					case reached != 0:
						s = promise.ReachedLate
					case due < dataDate:
						s, reached = promise.Overdue, dataDate
					default:
						s = promise.NotDue
					}
					want[s]++
					if s == promise.Early || s == promise.ReachedLate || s == promise.Overdue {
						size := 0
						for at := min(due, reached) + 1; at <= max(due, reached); at++ {
							if d.works(o, q.Calendar, at) {
								size++
							}
						}
						if reached < due {
							size = -size
						}
						sizes[s] = append(sizes[s], size)
					}
				}
				require.Equal(t, want, g.Kept.Orders, "%v", g.Keys)
				sum := 0
				for s, n := range want {
					sum += n
					requireSameLengths(t, sizes[s], g.Kept.Sizes[s])
					requireOrdersBehind(t, d.book, one, Selection{Standing: promise.Outcome(s).String(), Keys: g.Keys}, n)
				}
				require.Equal(t, g.Orders, sum, "the standings sum to all")
			}
		}
	})
}

// The legs of a chain are the answers to each leg by itself, and over the orders that have completed all of them they add
// up wherever the line below them says so.
func TestChainsAreTheirLegs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		r := drawRequest(t, d.book)
		names := milestone.Names(milestone.BuiltIn())
		r.Through = rapid.SliceOfNDistinct(rapid.SampledFrom(slices.DeleteFunc(names,
			func(n string) bool { return n == r.From || n == r.To })), 1, 3, rapid.ID).Draw(t, "through")
		q, err := Parse(d.book, r)
		require.NoError(t, err)
		if rapid.Bool().Draw(t, "where") {
			q.Where = query.Where{Text: "drawn", Condition: drawWhere(t, 1)}
		}
		for _, part := range Ask(d.book, q).Parts {
			one := q
			one.Periods = []period.Period{part.Period}
			require.Len(t, part.Legs, len(r.Through)+1)
			for i, l := range part.Legs {
				alone := one
				alone.Leg, alone.Through = q.Chain()[i], nil
				by := Ask(d.book, alone).Parts[0]
				require.Equal(t, by.Total.Lengths, l.Total.Lengths)
				require.Equal(t, by.Total.States, l.Total.States)
				for g, group := range l.Groups {
					require.Equal(t, part.Groups[g].Keys, group.Keys)
					at := slices.IndexFunc(by.Groups, func(other Group) bool { return slices.Equal(other.Keys, group.Keys) })
					require.Equal(t, by.Groups[at].Lengths, group.Lengths)
				}
			}
			for g, group := range append(slices.Clone(part.Groups), part.Total) {
				all := ordersBehind(t, d.book, one, Selection{Keys: group.Keys})
				ticks, orders := make([]int, len(part.Legs)+1), 0
				for _, o := range all {
					var lengths []int
					for _, l := range append(q.Chain(), q.Leg) {
						alone := one
						alone.Leg = l
						if listed := NewReader(d.book, alone.Question).At(o.Row); listed.State.Counted() {
							lengths = append(lengths, listed.Length)
						}
					}
					if len(lengths) == len(ticks) {
						orders++
						for i, length := range lengths {
							ticks[i] += length
						}
					}
				}
				require.Equal(t, CompletedChain{orders, ticks[len(part.Legs)]}, group.Every)
				for i, l := range part.Legs {
					of := l.Total
					if g < len(part.Groups) {
						of = l.Groups[g]
					}
					require.Equal(t, CompletedChain{orders, ticks[i]}, of.Every)
				}
				requireOrdersBehind(t, d.book, one, Selection{State: EveryLeg, Keys: group.Keys}, orders)
			}
			sum := 0
			for _, l := range part.Legs {
				sum += l.Total.Every.Ticks
			}
			line := part.ChainLine(q)
			if whole := part.Total.Every; whole.Orders > 0 {
				require.Equal(t, sum == whole.Ticks, !strings.Contains(line, "do not add up"), line)
				moves := slices.ContainsFunc(append(q.Chain(), q.Leg), q.Measure.CutOffMoves)
				if q.Measure.Rule == leg.Elapsed && !moves && (q.Measure.Unit <= leg.Weeks || q.Measure.Unit.Timed()) {
					require.Equal(t, whole.Ticks, sum, "nothing keeps these from adding up")
				}
			}
		}
	})
}

// A milestone with a stand-in is what the milestone would be, had the orders that lack it the other's day.
func TestStandInsAreTheDaysTheyStandFor(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawBook(t)
		invoiced, shipped := milestone.Index(milestone.BuiltIn(), "invoiced"), milestone.Index(milestone.BuiltIn(), "shipped")
		filled := book.NewBuilder(book.BuiltIn())
		dataDate := d.book.Bounds().DataDate
		for _, o := range d.orders {
			o.Days, o.Instants = slices.Clone(o.Days), slices.Clone(o.Instants)
			missing := o.Days[invoiced] == 0 || o.Days[invoiced] > dataDate
			if missing && o.Days[shipped] != 0 && o.Days[shipped] <= dataDate || o.Days[invoiced] == 0 {
				o.Set(invoiced, parts.Day{Day: o.Days[shipped], At: o.Instants[shipped]})
			}
			filled.Put(o)
		}
		plain := filled.Finish(d.ends)
		r := drawRequest(t, d.book)
		if r.From == "invoiced" {
			r.From = "ordered"
		}
		r.To, r.Basis = "invoiced", rapid.SampledFrom([]string{"invoiced", "ordered"}).Draw(t, "basis")
		want, err := Parse(plain, r)
		require.NoError(t, err)
		r.To, r.Basis = "invoiced-or-shipped", strings.Replace(r.Basis, "invoiced", "invoiced-or-shipped", 1)
		b, err := d.book.WithStandIns(r.From, r.To, "shipped-or-nothing")
		require.NoError(t, err)
		q, err := Parse(b, r)
		require.NoError(t, err)
		require.Contains(t, q.Sentence().String(), "to invoice date (or ship date where that is missing)")
		got := Ask(b, q)
		for i, part := range Ask(plain, want).Parts {
			require.Equal(t, part.Total.Lengths, got.Parts[i].Total.Lengths)
			require.Equal(t, part.Total.States, got.Parts[i].Total.States)
			require.Len(t, got.Parts[i].Groups, len(part.Groups))
			stoodIn := 0
			one := q
			one.Periods = []period.Period{part.Period}
			for _, l := range ordersBehind(t, b, one, Selection{State: Counted}) {
				if known := d.book.KnownAt(l.Row); known[invoiced] == 0 {
					stoodIn++
				}
			}
			requireOrdersBehind(t, b, one, Selection{Note: NoteStandIn}, stoodIn)
			said := 0
			for _, n := range got.Parts[i].Notes {
				if n.Code == NoteStandIn {
					said = n.Orders
				}
			}
			require.Equal(t, stoodIn, said)
		}
		_, err = d.book.WithStandIns("invoiced-or-promised")
		require.ErrorContains(t, err, "one is a plan and the other a fact")
	})
}

// othersOf are the orders of a group that neither end nor run nor were cancelled.
func othersOf(g Group) (orders int) {
	for _, s := range []leg.State{leg.EndBeforeStart, leg.CancelledBeforeStart, leg.NoStart, leg.NoEnd, leg.NotYetBegun, leg.NoTime,
		leg.NoHours} {
		orders += int(g.States[s])
	}
	return orders
}

// requireSameLengths compares the statistics with those of a sorted slice.
func requireSameLengths(t require.TestingT, want []int, got distribution.Distribution) {
	sort.Ints(want)
	n := len(want)
	require.Equal(t, n, got.Orders())
	if n == 0 {
		require.True(t, math.IsNaN(got.Mean()) && math.IsNaN(got.Quantile(0.5)))
		return
	}
	sum := 0
	for _, l := range want {
		sum += l
	}
	mean := float64(sum) / float64(n)
	squares := 0.0
	for _, l := range want {
		squares += (float64(l) - mean) * (float64(l) - mean)
	}
	near := 1e-9 * math.Max(1, math.Abs(float64(want[n-1]))) // lengths in hours run to millions of ticks
	require.InDelta(t, mean, got.Mean(), near)
	require.Equal(t, []int{want[0], want[n-1]}, []int{got.Min(), got.Max()})
	for _, p := range []float64{0, 0.5, 0.9, 1} {
		rank := p * float64(n-1)
		below, above := want[int(math.Floor(rank))], want[int(math.Ceil(rank))]
		require.InDelta(t, float64(below)+(rank-math.Floor(rank))*float64(above-below), got.Quantile(p), near, "quantile %v of %v", p, want)
	}
	if n > 1 {
		require.InDelta(t, math.Sqrt(squares/float64(n-1)), got.StandardDeviation(), near)
	} else {
		require.True(t, math.IsNaN(got.StandardDeviation()))
	}
}

// requireTotalsAlong sums the groups of each key of two groupings.
func requireTotalsAlong(t require.TestingT, part Part) {
	for axis, sums := range [][]Group{part.Rows, part.Columns} {
		orders := 0
		for _, sum := range sums {
			orders += sum.Orders
			var of []distribution.Distribution
			for _, g := range part.Groups {
				if g.Keys[axis] == sum.Keys[0] {
					of = append(of, g.Lengths)
				}
			}
			require.Equal(t, distribution.Merged(of...), sum.Lengths)
		}
		if sums != nil {
			require.Equal(t, part.Total.Orders, orders)
		}
	}
}

// requireListsBehindTheNumbers opens every number of the answer and counts the orders behind it.
func requireListsBehindTheNumbers(t require.TestingT, b *book.Book, q Question, part Part) {
	q.Periods = []period.Period{part.Period}
	for _, g := range append(slices.Clone(part.Groups), part.Total) {
		for _, r := range g.Reconciliation(q.Leg) {
			listed := ordersBehind(t, b, q, Selection{State: r.Code, Keys: g.Keys})
			require.Len(t, listed, r.Orders, "%s of %v", r.Code, g.Keys)
			if r.Code == Counted {
				var lengths []int
				for _, l := range listed {
					lengths = append(lengths, l.Length)
				}
				requireSameLengths(t, lengths, g.Lengths)
			}
		}
		for _, bar := range g.Lengths {
			requireOrdersBehind(t, b, q, Selection{Keys: g.Keys, Shortest: &bar.Length, Longest: &bar.Length}, bar.Orders)
		}
		requireOrdersBehind(t, b, q, Selection{Keys: g.Keys, Note: NoteHolidaysUnknown}, g.HolidaysUnknown)
		requireOrdersBehind(t, b, q, Selection{Keys: g.Keys, Note: NoteDefaultCalendar}, g.ByDefault)
	}
	requireOrdersBehind(t, b, q, Selection{Placed: query.Outside}, part.Population.Outside)
	requireOrdersBehind(t, b, q, Selection{Placed: query.Undated}, part.Population.Undated)
	requireOrdersBehind(t, b, q, Selection{Placed: query.Unmet}, part.Population.Unmet)
	requireOrdersBehind(t, b, q, Selection{Placed: query.Undecided}, part.Population.Undecided)
}

func requireOrdersBehind(t require.TestingT, b *book.Book, q Question, s Selection, orders int) {
	require.Len(t, ordersBehind(t, b, q, s), orders, "%+v", s)
}

// A listing lists what is selected.
type listing struct {
	selected *Selected
	listed   []Listed
}

func (l *listing) Visit(s *query.Stretch) {
	l.selected.Visit(s, func(one Listed) { l.listed = append(l.listed, one) })
}

func (l *listing) Merge(other *listing) { l.listed = append(l.listed, other.listed...) }

// ordersBehind are the orders of a selection, in the order of the book.
func ordersBehind(t require.TestingT, b *book.Book, q Question, s Selection) (listed []Listed) {
	selected, err := Select(b, q, s)
	require.NoError(t, err)
	got, _ := query.Run(selected.Scope(), func() *listing { return &listing{selected: selected} })
	slices.SortFunc(got.listed, func(x, y Listed) int { return x.Row - y.Row })
	return got.listed
}

// The more groups, the fewer lengths have a cell of their own in the table of counts, and then none: the answers are the same.
func TestManyGroupsAnswerAsFewDo(t *testing.T) {
	for width, many := range map[int]struct{ customers, channels int }{denseWidth: {300, 1}, 64: {20_000, 2}, 0: {20_000, 8}} {
		builder := book.NewBuilder(book.BuiltIn())
		lengths, running := map[string]map[int]int{}, map[string]int{}
		for id := range 24_000 {
			o := book.Order{ID: int64(id), Number: fmt.Sprint(id), Days: make([]day.Day, len(milestone.BuiltIn()))}
			o.Fields[book.Customer], o.Fields[book.Channel] = fmt.Sprint("customer ", id%many.customers), fmt.Sprint("channel ", id%many.channels)
			key := o.Fields[book.Customer] + o.Fields[book.Channel]
			o.Days[0] = 46000
			if length := []int{31, 32, 63, 64, 255, 256, id % 2000}[id%7]; id%11 == 0 {
				running[key]++
			} else {
				if o.Days[3] = day.Day(46000 + length); lengths[key] == nil {
					lengths[key] = map[int]int{}
				}
				lengths[key][length]++
			}
			builder.Put(o)
		}
		calendars, err := book.NewCalendars(nil)
		require.NoError(t, err)
		b := builder.Finish(book.Settings{Calendars: calendars})
		whole, err := Parse(b, Request{Request: query.Request{In: "days"}})
		require.NoError(t, err)
		by, err := Parse(b, Request{Request: query.Request{In: "days", By: []string{"customer", "channel"}}})
		require.NoError(t, err)
		require.Equal(t, width, newPlan(query.NewScope(b, by.Question, by.Periods[0]), by).width)
		require.Equal(t, wholeTurns, newPlan(query.NewScope(b, whole.Question, whole.Periods[0]), whole).turns, "one table of all lengths")
		want, got := Ask(b, whole).Parts[0], Ask(b, by).Parts[0]
		assert.Equal(t, want.Total.Lengths, got.Total.Lengths)
		require.Len(t, got.Groups, many.customers)
		for _, g := range got.Groups {
			key := strings.Join(g.Keys, "")
			require.Equal(t, distribution.Of(lengths[key]), g.Lengths, "width %d, %s", width, key)
			require.Equal(t, running[key], int(g.States[leg.Running]))
		}
		_, err = Parse(b, Request{Request: query.Request{By: []string{"customer", "day"}, Period: "2010-01-01/2027-12-31"}})
		if width < denseWidth {
			assert.ErrorContains(t, err, "at most 4,194,304 can be counted")
		}
	}
}

func smallBook(t *testing.T) *book.Book {
	builder := book.NewBuilder(book.BuiltIn())
	for i, days := range [][2]string{{"2026-06-29", "2026-07-10"}, {"2026-07-02", ""}, {"2026-07-06", "2026-07-03"},
		{"2026-07-31", "2026-08-03"}, {"", "2026-08-03"}} {
		o := book.Order{ID: int64(i), Number: fmt.Sprint("N", i), Days: make([]day.Day, len(milestone.BuiltIn()))}
		require.NoError(t, o.Days[0].UnmarshalText([]byte(days[0])))
		require.NoError(t, o.Days[3].UnmarshalText([]byte(days[1])))
		o.Fields[book.Site] = "Galway"
		builder.Put(o)
	}
	july := day.Of(2026, 7, 1)
	galway, err := calendar.New(calendar.Definition{Name: "Galway", Holidays: []calendar.NamedDay{{Day: july, Name: "holiday"}}})
	require.NoError(t, err)
	calendars, err := book.NewCalendars([]*calendar.Calendar{galway})
	require.NoError(t, err)
	return builder.Finish(book.Settings{Calendars: calendars})
}

// sum writes terms as a sum, but for those of no order.
func sum(terms []query.Term) string {
	var words []string
	for _, t := range terms {
		if t.Orders > 0 {
			words = append(words, fmt.Sprint(t.Orders, " ", t.Label))
		}
	}
	return strings.Join(words, " + ")
}

func TestTheAnswerInWords(t *testing.T) {
	b := smallBook(t)
	q, err := Parse(b, Request{Request: query.Request{Period: "2026-Q3", By: []string{"site"}}})
	require.NoError(t, err)
	assert.Equal(t, "How long from order date to ship date, in working days, start day not counted, for orders ordered in 2026-Q3, by site?",
		q.Sentence().String())
	part := Ask(b, q).Parts[0]
	assert.Equal(t, "1 counted + 1 still running + 1 ship date before order date", sum(part.Total.Reconciliation(q.Leg)))
	assert.Equal(t, "3 selected + 1 with order date outside 2026-Q3 + 1 undated (no order date)",
		sum(part.Population.Terms(q.Basis)))
	assert.Equal(t, []Note{{"part-period", 0, "2026-Q3 is part of a period: the records end on 2026-08-03"}}, part.Notes)

	q, err = Parse(b, Request{Request: query.Request{Count: "both-ends", In: "days"}})
	require.NoError(t, err)
	assert.Equal(t, "How long from order date to ship date, in days, both ends counted, for all orders, by order date, 2026-06-29 to 2026-08-03?", q.Sentence().String())
	part = Ask(b, q).Parts[0]
	assert.Equal(t, "2 counted + 1 still running + 1 ship date before order date + 1 without order date", sum(part.Total.Reconciliation(q.Leg)))
	assert.Equal(t, distribution.Distribution{{Length: 4, Orders: 1}, {Length: 12, Orders: 1}}, part.Total.Lengths)

	q, err = Parse(b, Request{Request: query.Request{Basis: "shipped", Period: "last-month,2026-07-31/2026-08-03", By: []string{"month"}}})
	require.NoError(t, err)
	assert.Equal(t, "How long from order date to ship date, in working days, start day not counted, for orders shipped in last-month (2026-07-01 to 2026-07-31) and 2026-07-31/2026-08-03, each by itself, by month of ship date?", q.Sentence().String())
	answer := Ask(b, q)
	assert.Equal(t, "book-begins", answer.Parts[0].Notes[0].Code, "a period by ship day at the book's beginning is marked")
	months := answer.Parts[1].Groups
	assert.Equal(t, []string{"2026-07"}, months[0].Keys, "a month without an order keeps its row")
	assert.Zero(t, months[0].Orders)
	assert.Equal(t, 2, months[1].Orders)
}

// The steps that the records, or the period, cut: from the first day to the last, one day more and one day less.
func TestStepsThatAreCut(t *testing.T) {
	ordered, promised := milestone.BuiltIn()[0], milestone.BuiltIn()[milestone.Index(milestone.BuiltIn(), milestone.Promised)]
	june, july := day.Of(2026, 6, 1), day.Of(2026, 7, 31)
	bounds := period.Bounds{FirstDay: june, DataDate: july}
	for _, tt := range []struct {
		name        string
		first, last day.Day
		period      string
		basis       milestone.Milestone
		inBook, cut bool
	}{
		{"the whole book", june, july, "", ordered, true, false},
		{"a day before it", june - 1, july, "", ordered, true, true},
		{"a day after it", june, july + 1, "", ordered, true, true},
		{"its first day alone", june, june, "", ordered, true, false},
		{"its last day alone", july, july, "", ordered, true, false},
		{"the day before it", june - 1, june - 1, "", ordered, false, true},
		{"the day after it", july + 1, july + 1, "", ordered, false, true},
		{"the day after it, by a plan", july + 1, july + 1, "", promised, true, false},
		{"the period", june + 9, june + 18, "2026-06-10/2026-06-19", ordered, true, false},
		{"a day before the period", june + 8, june + 18, "2026-06-10/2026-06-19", ordered, true, true},
		{"a day after the period", june + 9, june + 19, "2026-06-10/2026-06-19", ordered, true, true},
	} {
		periods, err := period.Parse(tt.period, bounds)
		require.NoError(t, err)
		part, g, q := Part{Period: periods[0]}, Group{Step: day.Through(tt.first, tt.last)},
			Question{Question: query.Question{Basis: tt.basis}}
		assert.Equal(t, []bool{tt.inBook, tt.cut}, []bool{part.Known(g, q, bounds), part.Cut(g, q, bounds)}, tt.name)
	}
	assert.True(t, Part{BeginsUntil: june + 1}.Begins(Group{Step: day.Through(june, july)}))
	assert.False(t, Part{BeginsUntil: june}.Begins(Group{Step: day.Through(june, july)}))
	assert.False(t, Part{BeginsUntil: june}.Begins(Group{}))
}

// Orders of the first days of the book that were placed by their end may have begun before it: up to the day that the 95th
// percentile of the leg comes to.
func TestUntilWhenOrdersBegunBeforeTheBookAreMissing(t *testing.T) {
	b := smallBook(t) // ordered from 2026-06-29 on; the legs take 11 and 3 days, and less than none
	for text, begins := range map[string]bool{"2026-06-28": false, "2026-06-29": true, "2026-07-09": true, "2026-07-10": false} {
		q, err := Parse(b, Request{Request: query.Request{Period: text, Basis: "shipped"}})
		require.NoError(t, err)
		part := Ask(b, q).Parts[0]
		assert.Equal(t, begins, part.BeginsUntil != 0, text)
		if begins {
			assert.Equal(t, "2026-07-10", part.BeginsUntil.String(), "10.6 days after the first")
		}
	}
}

func TestRequestsThatAreRefused(t *testing.T) {
	b := smallBook(t)
	for _, tt := range []struct {
		request Request
		word    string
		want    string
	}{
		{Request{Request: query.Request{From: "orderd"}}, "from", "did you mean ordered?"},
		{Request{Request: query.Request{To: "ordered"}}, "to", "these are the same"},
		{Request{Request: query.Request{Basis: "site"}}, "basis", "no date of this book"},
		{Request{Request: query.Request{In: "fortnights"}}, "in", "want one of days, working-days, weeks, months"},
		{Request{Request: query.Request{Count: "inclusive"}}, "count", "want one of [elapsed both-ends]"},
		{Request{Request: query.Request{Count: "both-ends", In: "months"}}, "count",
			"months cannot be counted both-ends: a month is completed on the day"},
		{Request{Request: query.Request{Calendar: "carrier"}}, "calendar", "want the calendar of the site or of the destination"},
		{Request{Request: query.Request{Calendar: "destination", In: "working-hours"}}, "calendar", "no zone is known for destinations"},
		{Request{Request: query.Request{Period: "July"}}, "period", "does not say of which year"},
		{Request{Request: query.Request{By: []string{"colour"}}}, "by", "want one of customer, site"},
		{Request{Request: query.Request{By: []string{"site", "site"}}}, "by", "named twice"},
		{Request{Request: query.Request{By: []string{"site", "month", "channel"}}}, "by", "at most two"},
		{Request{Through: []string{"promised", "promised"}}, "through", "passes each milestone once"},
		{Request{Promise: "paid"}, "promise", "want a plan such as promised"},
		{Request{Request: query.Request{To: "expected"}, Promise: "promised"}, "promise", "is a plan itself"},
		{Request{Promise: "-1"}, "promise", "want a number of working days from 0"},
		{Request{Show: []string{"p101"}}, "show", "a percentile from p0 to p100"},
	} {
		_, err := Parse(b, tt.request)
		var refused *request.Error
		require.ErrorAsf(t, err, &refused, "Parse(%+v)", tt.request)
		assert.Equal(t, tt.word, refused.Param)
		assert.ErrorContains(t, err, tt.want)
	}
	q, err := Parse(b, Request{Request: query.Request{By: []string{"site"}}})
	require.NoError(t, err)
	for _, s := range []Selection{{State: "lost"}, {Keys: []string{"Cork"}}, {Keys: []string{"Galway", "web"}}} {
		_, err := Select(b, q, s)
		var refused *request.Error
		assert.ErrorAsf(t, err, &refused, "Select %+v", s)
	}
}

// Many groups are sorted, gathered and added up on all processors; what comes out is what one would make.
func TestManyGroups(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		random := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 1))
		groups := rapid.IntRange(1, 9*work.Fewest).Draw(t, "groups")
		var list, more distribution.List
		slow := make([]distribution.Distribution, groups)
		for range rapid.IntRange(0, 100_000).Draw(t, "lengths") {
			group, length := random.IntN(groups), random.IntN(40)-5
			slow[group] = append(slow[group], distribution.Bar{Length: length, Orders: 1})
			[]*distribution.List{&list, &more}[random.IntN(2)].Add(distribution.NewItem(uint32(group), length, uint32(random.IntN(planes))))
		}
		list.Join(more)
		by := list.ByGroup(groups)
		sums := make([]Group, groups)
		for g, own := range slow {
			var lengths []int
			for _, l := range by.Of(g) {
				lengths = append(lengths, l.Length())
				sums[g].Lengths = sums[g].Lengths.With(l.Length(), 1)
			}
			slices.SortFunc(own, func(a, b distribution.Bar) int { return a.Length - b.Length })
			require.Len(t, lengths, len(own))
			for i, bar := range own {
				require.Equal(t, bar.Length, lengths[i])
			}
			sums[g].Orders = len(own)
		}
		whole := total(sums)
		require.Equal(t, distribution.Merged(slow...), whole.Lengths)
		require.Equal(t, whole.Lengths.Orders(), whole.Orders)

		places := random.Perm(groups)
		sortPlaces(places, distribution.First, func(place int) (day.Day, distribution.Distribution, int64) {
			return 0, sums[place].Lengths, int64(place)
		})
		require.True(t, slices.IsSortedFunc(places, func(a, b int) int {
			mean := func(g int) float64 {
				if sums[g].Orders == 0 {
					return math.Inf(-1)
				}
				return sums[g].Lengths.Mean()
			}
			return cmp.Or(cmp.Compare(mean(b), mean(a)), a-b)
		}))
	})
}
