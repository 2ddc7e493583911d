package query

import (
	"fmt"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/spelling"
	"slices"
	"strings"
	"time"
)

// A TimeBucket divides time into steps. The zero TimeBucket is none.
type TimeBucket uint8

// Weeks are those of ISO 8601. The steps from Day to Year follow each other; MonthOfYear and Weekday come round again.
const (
	NoCut TimeBucket = iota
	Day
	Week
	Month
	Quarter
	Year
	MonthOfYear
	Weekday
	cuts
)

var cutNames = [cuts]string{Day: "day", Week: "week", Month: "month", Quarter: "quarter", Year: "year", MonthOfYear: "month-of-year",
	Weekday: "weekday"}

// ParseCut reads the name of a cut whose steps follow each other: day, week, month, quarter or year. The error is a
// *request.Error.
func ParseCut(name string) (TimeBucket, error) {
	if i := slices.Index(cutNames[:MonthOfYear], name); i > 0 {
		return TimeBucket(i), nil
	}
	return NoCut, request.Invalid("each", name, spelling.Want(name, cutNames[1:MonthOfYear]))
}

// String is the cut's name.
func (c TimeBucket) String() string { return cutNames[c] }

// Cycles says whether the steps come round again, as Januaries and Mondays do.
func (c TimeBucket) Cycles() bool { return c == MonthOfYear || c == Weekday }

// A Grouping puts orders into groups: by a field, or by the step of time in which a milestone falls; or their lines, shipments or
// payments, by a column of these.
type Grouping struct {
	Field book.Field
	Cut   TimeBucket // NoCut: by Field
	Of    string     // the milestone that is cut; empty is the basis
	// Column is the column, plus one, by which parts are put into groups; 0 is none.
	Column int
	Part   book.Part
	name   string
	of     *milestone.Milestone // of Of
}

// String is the grouping's name in the API and on the command line.
func (g Grouping) String() string { return g.name }

// Words are the grouping's name in a sentence; a step of time names its milestone.
func (g Grouping) Words(basis milestone.Milestone) string {
	if g.Cut == NoCut {
		return g.Heading()
	}
	if g.Of == "" {
		return g.Heading() + " of " + basis.Date()
	}
	return g.Heading()
}

// Heading is the grouping's name for people; a step of time names its milestone where it is not that of the question.
func (g Grouping) Heading() string {
	if g.Cut == NoCut {
		if g.Column > 0 {
			part, column, named := strings.Cut(g.name, ".")
			if named {
				return strings.TrimSuffix(part, "s") + " " + strings.ReplaceAll(column, "-", " ")
			}
		}
		return strings.ReplaceAll(g.name, "-", " ")
	}
	step := g.Cut.String()
	if g.Cut == MonthOfYear {
		step = "month of the year"
	}
	if g.Of == "" {
		return step
	}
	if column, ofLines := strings.CutPrefix(g.Of, lineDay); ofLines {
		return step + " of line " + milestone.DateName(column)
	}
	return step + " of " + milestone.DateName(g.Of)
}

// Named is a grouping under a name of its own.
func (g Grouping) Named(name string) Grouping {
	g.name = name
	return g
}

// GroupingNames lists what the orders of a book can be grouped by.
func GroupingNames(b *book.Book) []string {
	names := append(b.FieldNames(), cutNames[1:]...)
	for _, m := range b.Milestones() {
		names = append(names, "month("+m.Name+")", "weekday("+m.Name+")")
	}
	return names
}

// PartGroupingNames lists what lines, shipments and payments can be grouped by besides.
func PartGroupingNames(b *book.Book) (names []string) {
	for _, part := range groupedParts {
		for _, c := range b.PartColumns(part) {
			if c.Holds != book.Coded || c.Name == "line" {
				continue
			}
			if _, taken := b.ParseField(c.Name); taken || part != book.Lines {
				names = append(names, part.String()+"."+c.Name)
			} else {
				names = append(names, c.Name)
			}
		}
	}
	return append(names, "month("+lineDay+book.AllShipped+")", "month("+lineDay+book.AllDelivered+")")
}

// groupedParts are those that can be put into groups.
var groupedParts = []book.Part{book.Lines, book.Shipments, book.Payments}

// ParseGrouping understands the name of a grouping: a field, a step of time of the basis, one of a milestone such as
// month(shipped), or a column of parts, as product, lines.product or shipments.carrier. The error is a *request.Error.
func ParseGrouping(b *book.Book, word, name string) (Grouping, error) {
	g := Grouping{name: name}
	if field, ok := b.ParseField(name); ok {
		g.Field = field
		return g, nil
	}
	cut, of, named := strings.Cut(strings.TrimSuffix(name, ")"), "(")
	if i := slices.Index(cutNames[:], cut); i > 0 && (!named || strings.HasSuffix(name, ")")) {
		if g.Cut = TimeBucket(i); named {
			if column, ofLine := strings.CutPrefix(of, lineDay); ofLine {
				return g.ofLines(b, word, column)
			}
			i := milestone.Index(b.Milestones(), of)
			if i >= 0 {
				g.Of, g.of = of, &b.Milestones()[i]
				return g, nil
			}
			_, err := FindMilestone(b, word, of)
			return g, err
		}
		return g, nil
	}
	for _, part := range groupedParts {
		column, named := strings.CutPrefix(name, part.String()+".")
		for i, c := range b.PartColumns(part) {
			if c.Name == column && c.Holds == book.Coded && (named || part == book.Lines) {
				g.Column, g.Part = i+1, part
				return g, nil
			}
		}
	}
	return g, request.Invalid(word, name, "not a grouping; "+spelling.Want(name, append(GroupingNames(b), PartGroupingNames(b)...)))
}

// lineDay begins the name of a day of lines that is cut, as in month(line.delivered).
const lineDay = "line."

// ofLines is a cut of a day of lines. The error is a *request.Error.
func (g Grouping) ofLines(b *book.Book, word, column string) (Grouping, error) {
	for i, c := range b.PartColumns(book.Lines) {
		if c.Name == column && c.Holds == book.OnDay {
			g.Column, g.Of = i+1, lineDay+column
			return g, nil
		}
	}
	return g, request.Invalid(word, g.name, "lines have no such day; want line."+book.AllShipped+" or line."+book.AllDelivered)
}

// CutsLines says whether a name is that of a step of a day of lines, which want book.WithLineDays.
func CutsLines(name string) bool { return strings.Contains(name, "("+lineDay) }

// Round is how many steps come round: 12 months, 7 weekdays.
func (c TimeBucket) Round() int {
	if c == Weekday {
		return 7
	}
	return 12
}

// Place is which of the steps that come round a day lies in, from 0: January, or Monday.
func (c TimeBucket) Place(d day.Day) int {
	if c == Weekday {
		return (int(d.Weekday()) + 6) % 7
	}
	_, month, _ := d.Date()
	return int(month) - 1
}

// Name is that of a step that comes round, by its place.
func (c TimeBucket) Name(place int) string {
	if c == Weekday {
		return time.Weekday((place + 1) % 7).String()
	}
	return time.Month(place + 1).String()
}

// label names the step of a day in the form in which it can be asked for as a period.
func (c TimeBucket) label(d day.Day) string {
	year, month, _ := d.Date()
	switch c {
	case Day:
		return d.String()
	case Week:
		isoYear, week := d.Time().ISOWeek()
		return fmt.Sprintf("%d-W%02d", isoYear, week)
	case Month:
		return fmt.Sprintf("%d-%02d", year, month)
	case Quarter:
		return fmt.Sprintf("%d-Q%d", year, (month+2)/3)
	}
	return fmt.Sprint(year)
}

// span are the days of the step of a day.
func (c TimeBucket) span(d day.Day) day.Span {
	year, month, _ := d.Date()
	switch c {
	case Day:
		return day.Through(d, d)
	case Week:
		monday := d - day.Day((int(d.Weekday())+6)%7)
		return day.Through(monday, monday+6)
	case Month:
		return day.Through(day.Of(year, month, 1), day.Of(year, month+1, 0))
	case Quarter:
		first := (month-1)/3*3 + 1
		return day.Through(day.Of(year, first, 1), day.Of(year, first+3, 0))
	}
	return day.Through(day.Of(year, 1, 1), day.Of(year, 12, 31))
}

// Steps are those of a stretch of days: every one, each with its name, as wide as the calendar has it.
func (c TimeBucket) Steps(s day.Span) (names []string, spans []day.Span) {
	for d := s.From; d <= s.LastDay(); {
		span := c.span(d)
		names, spans = append(names, c.label(d)), append(spans, span)
		d = span.LastDay() + 1
	}
	return names, spans
}

// MostGroupings are rows and columns.
const MostGroupings = 2

func parseGroupings(b *book.Book, names []string) ([]Grouping, error) {
	var by []Grouping
	for _, name := range names {
		g, err := ParseGrouping(b, "by", name)
		switch {
		case err != nil:
			return nil, err
		case g.Column > 0:
			return nil, request.Invalid("by", name, g.Part.String()+
				" are grouped by it, and an order has several: ask crosstab, which counts an order under each")
		case slices.Contains(by, g):
			return nil, request.Invalid("by", name, "named twice")
		}
		by = append(by, g)
	}
	if len(by) > MostGroupings {
		return nil, request.Invalid("by", strings.Join(names, ","), "at most two groupings")
	}
	return by, nil
}

// mostGroups bounds the groups of a question, since what is counted has a place for each.
const mostGroups = 1 << 22

// checkGroups refuses groupings whose groups, those without an order too, are too many. The error is a *request.Error.
func (q Question) checkGroups(b *book.Book, names []string) error {
	basis, all := milestone.Index(b.Milestones(), q.Basis.Name), 0
	for _, p := range q.Periods {
		groups := 1
		for _, g := range q.By {
			groups *= len(NewAxis(b, g, basis, p).Labels)
		}
		all += groups
		if all > mostGroups {
			return request.Invalid("by", strings.Join(names, ","),
				fmt.Sprintf("these make %s groups in %s, and at most %s can be counted; want a coarser grouping, a shorter period, or fewer periods",
					numfmt.Count(max(all, groups*len(q.Periods))), numfmt.Counted(len(q.Periods), "period"), numfmt.Count(mostGroups)))
		}
	}
	return nil
}
