package filter

import (
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/types"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/query"
)

const dataDate = day.Day(46030)

var layout = book.Layout{Milestones: append(milestone.BuiltIn(), milestone.Milestone{Name: "quality-check"}),
	Extra: []string{"hive-colour", "days"}, LineExtra: []string{"engraving"}}

func decimals(string) int { return 2 }

// drawBook has every want: fields, days, values; days after the data date; sites with and without a cut-off.
func drawBook(t *rapid.T) *book.Book {
	builder := book.NewBuilder(layout)
	maybe := func(label string) bool { return rapid.IntRange(0, 9).Draw(t, label) < 7 }
	for id := range rapid.IntRange(1, 8).Draw(t, "orders") {
		o := book.Order{ID: int64(id), Number: fmt.Sprint("N", id), Days: make([]day.Day, len(layout.Milestones)),
			Instants: make([]day.Instant, len(layout.Milestones)), Extra: make([]string, 2)}
		for m := range o.Days {
			if maybe("day") {
				o.Days[m] = day.Day(rapid.Int32Range(46000, 46040).Draw(t, "at"))
				if maybe("timed") {
					o.Instants[m] = o.Days[m].At(rapid.IntRange(0, 86399).Draw(t, "clock"), time.UTC)
				}
			}
		}
		text := rapid.SampledFrom([]string{"", "Galway", "Gal", "way"})
		for f := range o.Fields {
			o.Fields[f] = text.Draw(t, "field")
		}
		o.Fields[book.Country], o.Extra[0] = "", text.Draw(t, "colour")
		if o.Valued = maybe("valued"); o.Valued {
			o.Value = rapid.Int64Range(-300, 300).Draw(t, "value")
		}
		quantity := func() parts.Quantity {
			return parts.Quantity{Thousandths: 500 * rapid.Int64Range(0, 6).Draw(t, "thousandths"), Known: maybe("known")}
		}
		on := func() parts.Day { return parts.Day{Day: day.Day(rapid.Int32Range(46020, 46040).Draw(t, "part day"))} }
		for range rapid.IntRange(0, 3).Draw(t, "lines") {
			value := quantity()
			o.Lines = append(o.Lines, parts.Line{Number: text.Draw(t, "line"), Product: text.Draw(t, "product"), Units: quantity(),
				Value: 10 * value.Thousandths, Valued: value.Known, Shipped: on(), Extra: []string{text.Draw(t, "engraving")}})
		}
		for range rapid.IntRange(0, 2).Draw(t, "shipments") {
			o.Shipments = append(o.Shipments, parts.Shipment{Number: text.Draw(t, "shipment"), Line: text.Draw(t, "of line"),
				Carrier: text.Draw(t, "carrier"), Units: quantity(), Delivered: on()})
		}
		o.Findings = parts.Finding(rapid.Uint16().Draw(t, "findings"))
		builder.Put(o)
	}
	hours := []calendar.DailyHours{{From: 1, Hours: calendar.Hours{{From: 8 * 3600, To: 16 * 3600}}}}
	c, err := calendar.New(calendar.Definition{Name: "Galway", Hours: hours, Holidays: []calendar.NamedDay{{Day: 46005}}})
	require.NoError(t, err)
	calendars, err := book.NewCalendars([]*calendar.Calendar{c})
	require.NoError(t, err)
	return builder.Finish(book.Settings{Bounds: period.Bounds{FirstDay: 46000, DataDate: dataDate}, Calendars: calendars,
		Sites: []book.SiteRecord{{Name: "Galway", Zone: time.UTC, CutOff: 14 * 3600}}})
}

// A drawn condition is the same text for us and for the language's own evaluation, where a length is a variable that an
// order has or lacks.
type drawn struct{ ours, theirs string }

var drawnKinds = map[string]int{}

func leaf(t *rapid.T) drawn {
	field := rapid.SampledFrom([]string{"site", "customer", "hive_colour", "number"})
	aDay := rapid.SampledFrom([]string{"ordered", "shipped", "promised", "quality_check", "cancelled"})
	text := rapid.SampledFrom([]string{`"Galway"`, `"Gal"`, `"N1"`, `""`})
	dayText := rapid.Custom(func(t *rapid.T) string {
		return fmt.Sprintf("%q", day.Day(rapid.Int32Range(45998, 46042).Draw(t, "literal")))
	})
	number := rapid.SampledFrom([]string{"0", "1.5", "-2", "3", "5"})
	operator := rapid.SampledFrom([]string{"==", "!=", "<", "<=", ">", ">="})
	same := func(format string, values ...any) drawn {
		text := fmt.Sprintf(format, values...)
		return drawn{text, text}
	}
	turned := func(x, op, y string) drawn {
		if rapid.Bool().Draw(t, "turned") && op != "==" && op != "!=" {
			return same("%s %s %s", y, op, x)
		}
		return same("%s %s %s", x, op, y)
	}
	// To the language two nulls are equal; to us nothing equals what is missing, unless it is asked for null itself.
	between := func(x, op, y string) drawn {
		d := same("%s %s %s", x, op, y)
		switch op {
		case "==":
			d.theirs = fmt.Sprintf("(%s != null && %s)", x, d.ours)
		case "!=":
			d.theirs = fmt.Sprintf("(%s == null || %s)", x, d.ours)
		}
		return d
	}
	// ofLine looks at a line; within another condition at most once.
	ofLine := func() drawn {
		switch rapid.IntRange(0, 5).Draw(t, "of line") {
		case 0:
			return same("l.%s %s %s", rapid.SampledFrom([]string{"product", "engraving", "line"}).Draw(t, "column"),
				operator.Draw(t, "operator"), text.Draw(t, "text"))
		case 1:
			return same("l.%s %s %s", rapid.SampledFrom([]string{"units", "line_value"}).Draw(t, "column"), operator.Draw(t, "operator"),
				number.Draw(t, "number"))
		case 2:
			return same("l.line_shipped %s %s", operator.Draw(t, "operator"), dayText.Draw(t, "day"))
		case 3:
			return same("l.%s %s null", rapid.SampledFrom([]string{"product", "units", "line_shipped", "cancelled_units"}).Draw(t,
				"column"), rapid.SampledFrom([]string{"==", "!="}).Draw(t, "operator"))
		case 4:
			return between("l.product", operator.Draw(t, "operator"), "site")
		}
		drawnKinds["nested"]++
		line, units := between("s.line", "==", "l.line"), between("s.units", operator.Draw(t, "operator"), "l.units")
		return drawn{fmt.Sprintf("shipments.exists(s, %s && %s)", line.ours, units.ours),
			fmt.Sprintf("shipments.exists(s, %s && %s)", line.theirs, units.theirs)}
	}
	switch rapid.IntRange(0, 12).Draw(t, "leaf") {
	case 8, 9:
		drawnKinds["lines"]++
		some, andOr, x, y := rapid.SampledFrom([]string{"exists", "all"}).Draw(t, "some or all"),
			rapid.SampledFrom([]string{"&&", "||"}).Draw(t, "and or"), ofLine(), ofLine()
		return drawn{fmt.Sprintf("lines.%s(l, %s %s %s)", some, x.ours, andOr, y.ours),
			fmt.Sprintf("lines.%s(l, %s %s %s)", some, x.theirs, andOr, y.theirs)}
	case 10:
		return same("size(%s) %s %s", rapid.SampledFrom([]string{"lines", "shipments", "site"}).Draw(t, "sized"),
			rapid.SampledFrom([]string{"==", "!=", "<", ">="}).Draw(t, "operator"), rapid.SampledFrom([]string{"0", "1", "3"}).Draw(t,
				"number"))
	case 11:
		return same("%s%s", rapid.SampledFrom([]string{"", "!"}).Draw(t, "not"),
			rapid.SampledFrom([]string{"part_paid", "part_shipped"}).Draw(t, "flag"))
	case 12:
		return same("%s %s data_date", aDay.Draw(t, "day"), operator.Draw(t, "operator"))
	case 0:
		return turned(field.Draw(t, "field"), operator.Draw(t, "operator"), text.Draw(t, "text"))
	case 1:
		return turned(aDay.Draw(t, "day"), operator.Draw(t, "operator"), dayText.Draw(t, "literal day"))
	case 2:
		return between(aDay.Draw(t, "day"), operator.Draw(t, "operator"), aDay.Draw(t, "other day"))
	case 3:
		return turned("value", operator.Draw(t, "operator"), number.Draw(t, "number"))
	case 4:
		drawnKinds["missing"]++
		return same("%s %s null", rapid.OneOf(field, aDay, rapid.Just("value")).Draw(t, "maybe"),
			rapid.SampledFrom([]string{"==", "!="}).Draw(t, "operator"))
	case 5:
		list := strings.Join(rapid.SliceOfN(text, 0, 3).Draw(t, "list"), ", ")
		return same("%s in [%s]", field.Draw(t, "field"), list)
	case 6:
		return same("%s.%s(%s)", field.Draw(t, "field"), rapid.SampledFrom([]string{"startsWith", "endsWith", "contains",
			"matches"}).Draw(t, "function"), text.Draw(t, "text"))
	}
	function := rapid.SampledFrom(Functions()).Draw(t, "function")
	from := aDay.Draw(t, "from")
	to := rapid.SampledFrom([]string{"delivered", "paid", "invoiced"}).Draw(t, "to")
	op, n := operator.Draw(t, "operator"), number.Draw(t, "number")
	return drawn{fmt.Sprintf("%s(%s, %s) %s %s", function, from, to, op, n), fmt.Sprintf("L_%s_%s_%s %s %s", function, from, to, op, n)}
}

func condition(t *rapid.T, depth int) drawn {
	if depth == 0 {
		return leaf(t)
	}
	switch rapid.IntRange(0, 4).Draw(t, "shape") {
	case 0:
		return leaf(t)
	case 1:
		drawnKinds["not"]++
		x := condition(t, depth-1)
		return drawn{"!(" + x.ours + ")", "!(" + x.theirs + ")"}
	}
	drawnKinds["nested"]++
	x, y := condition(t, depth-1), condition(t, depth-1)
	op := rapid.SampledFrom([]string{"&&", "||"}).Draw(t, "and or")
	return drawn{"(" + x.ours + ") " + op + " (" + y.ours + ")", "(" + x.theirs + ") " + op + " (" + y.theirs + ")"}
}

// The whole-column predicates agree with the language's own evaluation, order by order, undecided ones too.
func TestPredicatesAgreeWithTheLanguage(t *testing.T) {
	clear(drawnKinds)
	rapid.Check(t, func(t *rapid.T) {
		b := drawBook(t)
		for range 10 {
			requireAgreement(t, b, condition(t, rapid.IntRange(0, 4).Draw(t, "depth")))
		}
	})
	for _, kind := range []string{"missing", "not", "nested", "lines"} {
		assert.GreaterOrEqual(t, drawnKinds[kind], 50, kind)
	}
}

func requireAgreement(t *rapid.T, b *book.Book, drawn drawn) {
	parsed, err := Parse(b, drawn.ours)
	require.NoError(t, err, drawn.ours)
	bound := predicate.Bind(b, parsed.Predicate, decimals)
	out := make([]predicate.Truth, b.Orders())
	bound.Decide(b.Blocks()[0], 0, out)

	var variables []cel.EnvOption
	for _, name := range regexp.MustCompile(`L_\w+`).FindAllString(drawn.theirs, -1) {
		variables = append(variables, cel.Variable(name, cel.DynType))
	}
	variables = append(variables, cel.Variable("unused", cel.DynType)) // without any, functions would be declared
	env, err := environment(namesOf(b), nil, variables...)
	require.NoError(t, err)
	checked, issues := env.Compile(drawn.theirs)
	require.NoError(t, issues.Err(), drawn.theirs)
	program, err := env.Program(checked)
	require.NoError(t, err)
	for row := range b.Orders() {
		want := predicate.Undecided
		value, _, err := program.Eval(theirs(b, row, drawn.theirs))
		if err == nil {
			want = map[bool]predicate.Truth{true: predicate.True, false: predicate.False}[value == types.True]
		}
		if out[row] != want || bound.One(b.Blocks()[0], row) != want {
			t.Fatalf("%s is %v of order %d, want %v (%v)", drawn.ours, out[row], row, want, err)
		}
		if lacks := bound.Lacks(b.Blocks()[0], row); (lacks != "") != (want == predicate.Undecided) {
			t.Fatalf("%s of order %d lacks %q", drawn.ours, row, lacks)
		}
	}
}

// theirs are the variables of one order that a condition can ask for; a length that is not counted is not there.
func theirs(b *book.Book, row int, condition string) map[string]any {
	o, known := b.At(row), b.KnownAt(row)
	vars := map[string]any{"number": o.Number, "value": nil}
	if o.Valued {
		vars["value"] = float64(o.Value) / 100
	}
	values := append(o.Fields[:], o.Extra...)
	for f, name := range b.FieldNames() {
		vars[underscored(name)] = nil
		if values[f] != "" {
			vars[underscored(name)] = values[f]
		}
	}
	for m, at := range b.Milestones() {
		vars[underscored(at.Name)] = nil
		if known[m] != 0 {
			vars[underscored(at.Name)] = known[m].String()
		}
	}
	for word, has := range found {
		vars[word] = o.Findings&parts.Finding(has) != 0
	}
	vars["data_date"] = dataDate.String()
	vars["lines"], vars["shipments"] = partsOf(b, row, book.Lines), partsOf(b, row, book.Shipments)
	for name, how := range lengths {
		for _, from := range b.Milestones() {
			for _, to := range b.Milestones() {
				variable := fmt.Sprintf("L_%s_%s_%s", name, underscored(from.Name), to.Name)
				if !strings.Contains(condition, variable+" ") {
					continue
				}
				q := query.Question{Leg: leg.Leg{From: from, To: to}, Measure: leg.Measure{Unit: how.unit}}
				listed := duration.NewReader(b, q).At(row)
				switch {
				case listed.State.Counted():
					vars[variable] = how.unit.Number(listed.Length)
				case listed.State == leg.Running && how.soFar:
					ended := b.Next()
					o.Days[milestone.Index(b.Milestones(), to.Name)] = dataDate
					ended.Put(o)
					until := duration.NewReader(ended.Finish(book.Settings{Bounds: b.Bounds(), Calendars: b.Calendars(),
						Sites: []book.SiteRecord{{Name: "Galway", Zone: time.UTC, CutOff: 14 * 3600}}}), q).At(row)
					vars[variable] = how.unit.Number(until.Length)
					o = b.At(row)
				}
			}
		}
	}
	return vars
}

// partsOf are the lines or shipments of an order; what they lack is null.
func partsOf(b *book.Book, row int, of book.Part) []map[string]any {
	all, block := []map[string]any{}, b.Blocks()[0]
	for i, to := block.Parts[of].Of(row); i < to; i++ {
		cells := map[string]any{}
		for c, column := range b.PartColumns(of) {
			var cell any
			switch all := block.Parts[of].Columns[c]; column.Holds {
			case book.Coded:
				if code := all.Codes[i]; code != 0 {
					cell = b.PartValues(of, c)[code]
				}
			case book.Plain:
				cell = all.Texts[i]
			case book.OnDay:
				if n := all.Numbers[i]; n != book.None && n <= int64(dataDate) {
					cell = day.Day(n).String()
				}
			default:
				if n := all.Numbers[i]; n != book.None {
					cell = float64(n) / map[book.Holding]float64{book.Quantity: 1e3, book.ValueUnit: 1e4}[column.Holds]
				}
			}
			cells[underscored(column.Name)] = cell
		}
		all = append(all, cells)
	}
	return all
}

func TestConditionsThatAreRefused(t *testing.T) {
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	b := book.NewBuilder(layout).Finish(book.Settings{Calendars: calendars})
	for _, tt := range []struct{ text, want string }{
		{`shiped == null`, "line 1, column 1: there is no \"shiped\" here; did you mean shipped?"},
		{"site == \"Galway\" &&\n  custmer == null", "line 2, column 3: there is no \"custmer\" here; did you mean customer?"},
		{`site == 3`, "line 1, column 6: a text or a day cannot be compared with a number"},
		{`site ==`, "line 1, column 8: the condition stops too early; a condition looks like"},
		{`site = "Galway"`, `column 6: "=" is not a comparison; write ==`},
		{`site == Galway`, `column 9: text needs quotes: site == "Galway"`},
		{`site == "Galway`, `column 9: the text "Galway has no closing quote`},
		{`(site == "Galway"`, "column 18: a closing ) is missing"},
		{`site == "Galway" and paid == null`, `column 18: write && for "and"`},
		{`customer like "Ridge"`, `"like" is not a comparison; write customer.contains("Ridge")`},
		{`shipped > 2026-07-01`, `column 9: a day needs quotes: "2026-07-01"`},
		{`working_days(ordered) > 3`, "working_days takes two dates, such as working_days(ordered, shipped)"},
		{`site == "Galway" + `, "the condition stops too early"},
		{`site == "Galway" paid`, "paid does not belong here"},
		{`colour == null`, `there is no field, date or number "colour"; prairie-dusk book lists them`},
		{`ordered > "July"`, `column 11: ordered is a day: "July" is not a day`},
		{`"" == shipped`, "a missing day is shipped == null"},
		{`ordered in ["2026-07-01", "soon"]`, `column 27: ordered is a day`},
		{`value == "much"`, "column 7: a number cannot be compared with a text"},
		{`days(ordered, shipped) in ["3"]`, "a number cannot be compared with a text"},
		{`site`, "column 1: this is no condition"},
		{`site in [customer]`, "column 10: want a fixed value"},
		{`1 == 2`, "column 3: both sides are fixed"},
		{`working_days(ordered, ordered) > 1`, "these are the same"},
		{`working_days(site, shipped) > 1`, "column 14: working_days counts from one milestone to another"},
		{`hours(ordered, shipped, "both-ends") > 1`, "an instant has no length to count"},
		{`days(ordered, shipped, "inclusive") > 1`, `column 24: want a count rule, "elapsed" or "both-ends"`},
		{`field("colour") == null`, `column 7: there is no field and no milestone "colour"`},
		{`site.matches("(")`, "column 14: error parsing regexp"},
		{`size(value) > 2`, "size asks about a text of the order"},
		{`size(shipped == null) > 2`, "size does not take these values"},
		{`lines.exists(l, l.prodct == "Hive")`, "column 18: lines have no \"prodct\"; did you mean product?"},
		{`lines.exists(l, l.units == "many")`, "a number cannot be compared with a text"},
		{`lines.exists(l, l.line_shipped > "soon")`, "line-shipped is a day"},
		{`lines.exists(site, site.line == "a")`, "is something of the order; use another word"},
		{`lines.exists(l, lines.exists(m, m.units > l.units))`, "lines are being looked at already"},
		{`site.exists(l, true)`, "line 1"},
		{`lines == null`, "line 1"},
		{`lines.exists_one(l, true)`, "line 1"},
		{`working_days(ordered, shipped, "elapsed", "moon") > 1`, "want whose calendar counts"},
		{`working_hours(ordered, shipped, "elapsed", "destination") > 1`, "but for working hours"},
		{`data_date > first_day`, "both sides are fixed"},
		{`site == "a" ? true : false`, "write it with && and ||"},
		{strings.Repeat("(", 300) + "true" + strings.Repeat(")", 300), "line 1"},
		{`site == "` + strings.Repeat("x", Longest) + `"`, "want at most 10000"},
	} {
		_, err := Parse(b, tt.text)
		var refused *Error
		require.ErrorAs(t, err, &refused, tt.text)
		assert.ErrorContains(t, err, tt.want)
	}
	// A name that a function has is written as field("…").
	c, err := Parse(b, `field("days") == null && field("quality-check") == null && working_days_so_far(ordered, shipped, "both-ends") > 30`)
	require.NoError(t, err)
	assert.Equal(t, []string{"days", "quality-check", "ordered", "shipped"}, predicate.Uses(c.Predicate))
}

// Whatever is written is understood or refused where it is wrong; what is understood can be bound and comes apart.
func FuzzCondition(f *testing.F) {
	for _, text := range []string{`site == "Galway" && paid == null`,
		`lines.exists(l, l.units > 3 || !shipments.all(s, s.line == l.line))`, `size(site) >= 2`, `-3 < value`,
		`field("days") in ["a", null]`, `part_paid ? true : false`, "working_days(ordered,\nshipped, \"both-ends\") != 1.5",
		`lines.map(l, l.units)`, `"a".matches(site)`, `[1] == lines`, `site.contains("é")`, `l.units > 1`,
		`state(ordered, shipped) == "running"`, `timestamp(ordered) > null`} {
		f.Add(text)
	}
	calendars, err := book.NewCalendars(nil)
	if err != nil {
		f.Fatal(err)
	}
	b := book.NewBuilder(layout).Finish(book.Settings{Calendars: calendars})
	f.Fuzz(func(t *testing.T, text string) {
		c, err := Parse(b, text)
		var refused *Error
		if err != nil {
			require.ErrorAs(t, err, &refused)
			require.Positive(t, min(refused.Line, refused.Column), "%v", err)
			return
		}
		predicate.Bind(b, c.Predicate, decimals)
		_, _, err = Picks(b, text)
		require.NoError(t, err)
		Names(text)
	})
}
