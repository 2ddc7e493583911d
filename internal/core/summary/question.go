// Package summary answers questions about lengths: measures by groups, over a period, placed by a basis.
// It is the one engine for grouping; a question goes in, an answer that adds up comes out.
package summary

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/request"
)

// A Request is a question in the words in which people ask it. Empty words take their defaults.
type Request struct {
	From  string // milestone; default ordered
	To    string // milestone; default shipped
	In    string // unit; default working-days
	Count string // count rule; default elapsed
	// Calendar says whose calendar counts, site or destination; default site.
	Calendar string
	Basis    string   // milestone; default the leg's start
	Period   string   // default all orders
	By       []string // at most two groupings; default none
	Through  []string // milestones between From and To that make a chain of legs; default none
	Promise  string   // a plan, or a number of working days after From; default none
	CutOff   string   // on or off: whether the cut-offs of sites move starts; default on
	Show     []string // statistics; default those of Figures
}

// A Question is a Request that has been understood against a book.
type Question struct {
	Leg     leg.Leg
	Measure leg.Measure
	Side    book.CalendarSource // whose calendar counts
	Basis   milestone.Milestone
	Periods []period.Period // at least one; each is answered by itself
	By      []Grouping
	Where   Where
	// Limit asks which lengths go beyond it; nil asks none.
	Limit *Limit
	// Waiting asks how long legs without an end have run, as limits and estimates need it.
	Waiting bool
	// Through are the milestones between the leg's ends that make a chain of it.
	Through []milestone.Milestone
	// Promise asks whether the leg's end came by a day; nil asks nothing.
	Promise *Promise
	Show    []Statistic
	bounds  period.Bounds
	cutOffs bool // of the book move some order
}

// CutOffWords say whether starts are moved by cut-offs, where the book has any that do; empty where they play no part.
func (q Question) CutOffWords() string {
	dues := q.Promise != nil && q.Promise.Plan.Name == ""
	counts := leg.Measure{Unit: leg.WorkingDays}.CutOffMoves(q.Leg) && (q.Measure.Unit == leg.WorkingDays || dues)
	switch {
	case !q.cutOffs || !counts:
		return ""
	case q.Measure.NoCutOff:
		return "without cut-offs"
	}
	return "after cut-offs"
}

// ParseCutOff reads whether cut-offs count: on, which is the default, or off. The error is a *request.Error.
func ParseCutOff(text string) (off bool, err error) {
	switch text {
	case "", "on":
		return false, nil
	case "off":
		return true, nil
	}
	return false, request.Invalid("cut_off", text, "want on or off: whether an order that came after the cut-off of its site counts as ordered on the next working day")
}

// A Limit is a length that is gone beyond by more than it or, with Least, by at least as much: two words for two things.
type Limit struct {
	Ticks int
	Least bool
}

// Words name the limit with its unit: "over 30 working days", "at least 30 working days".
func (l Limit) Words(u leg.Unit) string {
	if l.Least {
		return "at least " + u.Length(l.Ticks)
	}
	return "over " + u.Length(l.Ticks)
}

// Where picks the orders that are asked about by a condition; the zero Where asks about all.
type Where struct {
	Text      string // as it was written
	Condition predicate.Condition
	// Decimals says how many minor units the unit of a currency has.
	Decimals func(currency string) int
}

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

var cutNames = [cuts]string{Day: "day", Week: "week", Month: "month", Quarter: "quarter", Year: "year", MonthOfYear: "month-of-year", Weekday: "weekday"}

// ParseCut reads the name of a cut whose steps follow each other: day, week, month, quarter or year. The error is a
// *request.Error.
func ParseCut(name string) (TimeBucket, error) {
	if i := slices.Index(cutNames[:MonthOfYear], name); i > 0 {
		return TimeBucket(i), nil
	}
	return NoCut, request.Invalid("each", name, "want one of "+strings.Join(cutNames[1:MonthOfYear], ", "))
}

// String is the cut's name.
func (c TimeBucket) String() string { return cutNames[c] }

// Cycles says whether the steps come round again, as Januaries and Mondays do.
func (c TimeBucket) Cycles() bool { return c == MonthOfYear || c == Weekday }

// A Grouping puts orders into groups: by a field, or by the step of time in which a milestone falls; or lines, by one of their
// columns.
type Grouping struct {
	Field book.Field
	Cut   TimeBucket // NoCut: by Field
	Of    string     // the milestone that is cut; empty is the basis
	// Line is the column of lines, plus one, by which lines are put into groups; 0 is none.
	Line int
	name string
	of   *milestone.Milestone // of Of
}

// String is the grouping's name in the API and on the command line.
func (g Grouping) String() string { return g.name }

// Words are the grouping's name in a sentence; a step of time names its milestone.
func (g Grouping) Words(basis milestone.Milestone) string {
	of := g.Of
	if of == "" {
		of = basis.Name
	}
	switch g.Cut {
	case NoCut:
		return g.name
	case MonthOfYear:
		return "month of the year of " + of
	}
	return g.Cut.String() + " of " + of
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
		names = append(names, "month("+m.Name+")")
	}
	return names
}

// LineGroupingNames lists what lines can be grouped by besides.
func LineGroupingNames(b *book.Book) (names []string) {
	for _, c := range b.PartColumns(book.Lines) {
		if c.Holds != book.Coded || c.Name == "line" {
			continue
		}
		if _, taken := b.ParseField(c.Name); taken {
			names = append(names, "lines."+c.Name)
		} else {
			names = append(names, c.Name)
		}
	}
	return names
}

// ParseGrouping understands the name of a grouping: a field, a step of time of the basis, one of a milestone such as
// month(shipped), or a column of lines, as product or lines.product. The error is a *request.Error.
func ParseGrouping(b *book.Book, word, name string) (Grouping, error) {
	g := Grouping{name: name}
	if field, ok := b.ParseField(name); ok {
		g.Field = field
		return g, nil
	}
	cut, of, named := strings.Cut(strings.TrimSuffix(name, ")"), "(")
	if i := slices.Index(cutNames[:], cut); i > 0 && (!named || strings.HasSuffix(name, ")")) {
		if g.Cut = TimeBucket(i); named {
			i := milestone.Index(b.Milestones(), of)
			if i >= 0 {
				g.Of, g.of = of, &b.Milestones()[i]
				return g, nil
			}
			_, err := findMilestone(b, word, of)
			return g, err
		}
		return g, nil
	}
	column := strings.TrimPrefix(name, "lines.")
	for i, c := range b.PartColumns(book.Lines) {
		if c.Name == column && c.Holds == book.Coded {
			g.Line = i + 1
			return g, nil
		}
	}
	return g, request.Invalid(word, name, "not a grouping; want one of "+strings.Join(append(GroupingNames(b), LineGroupingNames(b)...), ", "))
}

// maxGroupings are rows and columns.
const maxGroupings = 2

// Parse understands a request against a book. The error is a *request.Error.
func Parse(b *book.Book, r Request) (Question, error) {
	q := Question{bounds: b.Bounds(), cutOffs: b.MovesAny()}
	var err error
	if q.Measure.NoCutOff, err = ParseCutOff(r.CutOff); err != nil {
		return q, err
	}
	if q.Leg.From, err = findMilestone(b, "from", or(r.From, milestone.Ordered)); err != nil {
		return q, err
	}
	if q.Leg.To, err = findMilestone(b, "to", or(r.To, milestone.Shipped)); err != nil {
		return q, err
	}
	if q.Leg.From == q.Leg.To {
		return q, request.Invalid("to", r.To, "a leg goes from one milestone to another; these are the same")
	}
	if q.Basis, err = findMilestone(b, "basis", or(r.Basis, q.Leg.From.Name)); err != nil {
		return q, err
	}
	if q.Measure.Unit, err = leg.ParseUnit(or(r.In, leg.WorkingDays.String())); err != nil {
		return q, request.Invalid("in", r.In, err.Error())
	}
	if q.Measure.Rule, err = leg.ParseRule(or(r.Count, leg.Elapsed.String())); err != nil {
		return q, request.Invalid("count", r.Count, err.Error())
	}
	if err := q.Measure.Check(); err != nil {
		return q, request.Invalid("count", r.Count, err.Error())
	}
	if q.Side, err = parseSide(r.Calendar, q.Measure.Unit); err != nil {
		return q, err
	}
	if q.Periods, err = period.Parse(r.Period, b.Bounds()); err != nil {
		return q, request.Invalid("period", r.Period, err.Error())
	}
	if q.By, err = parseGroupings(b, r.By); err != nil {
		return q, err
	}
	if err := q.checkGroups(b, r.By); err != nil {
		return q, err
	}
	if q.Through, err = parseThrough(b, q.Leg, r.Through); err != nil {
		return q, err
	}
	if q.Promise, err = parsePromise(b, q.Leg, r.Promise); err != nil {
		return q, err
	}
	q.Show, err = ParseStatistics(r.Show)
	return q, err
}

func parseThrough(b *book.Book, whole leg.Leg, names []string) (through []milestone.Milestone, err error) {
	for _, name := range names {
		m, err := findMilestone(b, "through", name)
		if err != nil {
			return nil, err
		}
		if m == whole.From || m == whole.To || slices.Contains(through, m) {
			return nil, request.Invalid("through", name, "a chain passes each milestone once, its two ends too")
		}
		through = append(through, m)
	}
	return through, nil
}

// Chain are the legs that make up the whole; nil where it is one leg.
func (q Question) Chain() (legs []leg.Leg) {
	if len(q.Through) == 0 {
		return nil
	}
	from := q.Leg.From
	for _, to := range append(slices.Clone(q.Through), q.Leg.To) {
		legs = append(legs, leg.Leg{From: from, To: to})
		from = to
	}
	return legs
}

func parseSide(text string, unit leg.Unit) (book.CalendarSource, error) {
	side := slices.Index(book.CalendarSourceNames(), or(text, "site"))
	switch {
	case side < 0:
		return 0, request.Invalid("calendar", text, "want the calendar of the site or of the destination")
	case book.CalendarSource(side) == book.AtDestination && unit == leg.WorkingHours:
		return 0, request.Invalid("calendar", text, "working hours are read from clocks, and no zone is known for destinations; want site")
	}
	return book.CalendarSource(side), nil
}

func or(word, standard string) string {
	if word == "" {
		return standard
	}
	return word
}

func findMilestone(b *book.Book, word, name string) (milestone.Milestone, error) {
	i := milestone.Index(b.Milestones(), name)
	if i < 0 {
		return milestone.Milestone{}, request.Invalid(word, name, "not a milestone of this book; want one of "+milestone.Names(b.Milestones()))
	}
	return b.Milestones()[i], nil
}

func parseGroupings(b *book.Book, names []string) ([]Grouping, error) {
	var by []Grouping
	for _, name := range names {
		g, err := ParseGrouping(b, "by", name)
		switch {
		case err != nil:
			return nil, err
		case g.Line > 0:
			return nil, request.Invalid("by", name, "lines are grouped by it, and an order has several: ask across, which counts an order under each")
		case slices.Contains(by, g):
			return nil, request.Invalid("by", name, "named twice")
		}
		by = append(by, g)
	}
	if len(by) > maxGroupings {
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
			groups *= len(newAxis(b, g, basis, p).labels)
		}
		all += groups
		if all > mostGroups {
			return request.Invalid("by", strings.Join(names, ","), fmt.Sprintf("these make %s groups in %s, and at most %s can be counted; want a coarser grouping, a shorter period, or fewer periods",
				numfmt.Count(max(all, groups*len(q.Periods))), numfmt.Counted(len(q.Periods), "period"), numfmt.Count(mostGroups)))
		}
	}
	return nil
}

// ByNames are the names of the groupings, with commas.
func (q Question) ByNames() string {
	names := make([]string, len(q.By))
	for i, g := range q.By {
		names[i] = g.String()
	}
	return strings.Join(names, ",")
}

// A SentencePart is a stretch of the question sentence. Slot names the word of the request that it stands
// for; it is empty for the words between.
type SentencePart struct {
	Slot string
	Text string
}

// A Sentence is the question in words: the title of every answer.
type Sentence []SentencePart

func (s Sentence) String() string {
	var text strings.Builder
	for _, p := range s {
		text.WriteString(p.Text)
	}
	return text.String()
}

// Sentence says exactly what is computed; whatever can be changed has a slot.
func (q Question) Sentence() Sentence {
	s := Sentence{
		{"", "How long from "}, {"from", q.Leg.From.Words()},
	}
	for i, m := range q.Through {
		before := ", "
		switch i {
		case 0:
			before = " through "
		case len(q.Through) - 1:
			before = " and "
		}
		s = append(s, SentencePart{"", before}, SentencePart{"through", m.Words()})
	}
	s = append(s,
		SentencePart{"", " to "}, SentencePart{"to", q.Leg.To.Words()},
		SentencePart{"", ", in "}, SentencePart{"in", q.UnitWords()},
		SentencePart{"", ", "}, SentencePart{"count", q.Measure.RuleWords()})
	if words := q.CutOffWords(); words != "" {
		s = append(s, SentencePart{"", ", "}, SentencePart{"cut_off", words})
	}
	if q.Periods[0].Unbounded() {
		s = append(s, SentencePart{"", ", for all orders, basis "}, SentencePart{"basis", q.Basis.Words()},
			SentencePart{"", ", "}, SentencePart{"period", q.Periods[0].Days()})
	} else {
		s = append(s, SentencePart{"", ", for orders "}, SentencePart{"basis", q.Basis.Words()},
			SentencePart{"", " in "}, SentencePart{"period", periodWords(q.Periods)})
	}
	for i, g := range q.By {
		s = append(s, SentencePart{"", []string{", by ", " and "}[i]}, SentencePart{"by", g.Words(q.Basis)})
	}
	if q.Where.Condition != nil {
		s = append(s, SentencePart{"", ", where "}, SentencePart{"where", q.Where.Text})
	}
	if q.Limit != nil {
		s = append(s, SentencePart{"", ", and how many took "}, SentencePart{"limit", q.Limit.Words(q.Measure.Unit)})
	}
	if q.Promise != nil {
		s = append(s, SentencePart{"", ", and how many were " + q.Leg.To.Words() + " "}, SentencePart{"promise", q.Promise.words(q.Leg.From)})
	}
	return append(s, SentencePart{"", "?"})
}

// UnitWords name the unit, and the calendar where it is not that of the site.
func (q Question) UnitWords() string {
	if q.Side == book.AtDestination && q.Measure.Unit.ByCalendar() {
		return q.Measure.Unit.Words() + " at the destination"
	}
	return q.Measure.Unit.Words()
}

// Heading names the leg, the unit and the rule, for whatever shows a length away from its sentence.
func (q Question) Heading() string {
	heading := fmt.Sprintf("%s → %s, %s, %v", q.Leg.From.Name, q.Leg.To.Name, q.UnitWords(), q.Measure.Rule)
	if words := q.CutOffWords(); words != "" {
		heading += ", " + words
	}
	return heading
}

// periodWords names the periods, with their days where the text alone does not fix them.
func periodWords(periods []period.Period) string {
	words := make([]string, len(periods))
	for i, p := range periods {
		words[i] = p.Text
		if strings.HasPrefix(p.Text, "this-") || strings.HasPrefix(p.Text, "last-") {
			words[i] += " (" + p.Days() + ")"
		}
	}
	text := strings.Join(words, " and ")
	if len(periods) > 1 {
		text += ", each by itself"
	}
	return text
}
