// Package query has the parts that questions are made of (leg, measure, calendar, period, basis, groupings, condition) and runs
// them: one scan over the book, in which each analysis counts with an accumulator of its own, and which counts by itself what
// becomes of the orders that the question is not about.
package query

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/spelling"
)

// A Request is what questions have in common, in the words in which people ask it. Empty words take their defaults.
type Request struct {
	From  string // milestone; default ordered
	To    string // milestone; default shipped
	In    string // unit; default working-days
	Count string // count rule; default elapsed
	// Calendar says whose calendar counts, site or destination; default site.
	Calendar string
	CutOff   string   // on or off: whether the cut-offs of sites move starts; default on
	Basis    string   // milestone; default the leg's start
	Period   string   // default all orders
	By       []string // at most two groupings; default none
}

// A Question is a Request that has been understood against a book.
type Question struct {
	Leg      leg.Leg
	Measure  leg.Measure
	Calendar book.CalendarSource // whose calendar counts
	Basis    milestone.Milestone
	Periods  []period.Period // at least one; each is answered by itself
	By       []Grouping
	Where    Where
	cutOffs  bool // of the book move some order
}

// Parse understands a request against a book. The error is a *request.Error.
func Parse(b *book.Book, r Request) (Question, error) {
	q := Question{cutOffs: b.MovesAny()}
	var err error
	if q.Measure.NoCutOff, err = ParseCutOff(r.CutOff); err != nil {
		return q, err
	}
	if q.Leg.From, err = FindMilestone(b, "from", or(r.From, milestone.Ordered)); err != nil {
		return q, err
	}
	if q.Leg.To, err = FindMilestone(b, "to", or(r.To, milestone.Shipped)); err != nil {
		return q, err
	}
	if q.Leg.From == q.Leg.To {
		return q, request.Invalid("to", r.To, "a leg goes from one milestone to another; these are the same")
	}
	if q.Basis, err = FindMilestone(b, "basis", or(r.Basis, q.Leg.From.Name)); err != nil {
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
	if q.Calendar, err = parseCalendar(r.Calendar, q.Measure.Unit); err != nil {
		return q, err
	}
	if q.Periods, err = period.Parse(r.Period, b.Bounds()); err != nil {
		return q, request.Invalid("period", r.Period, err.Error())
	}
	if q.By, err = parseGroupings(b, r.By); err != nil {
		return q, err
	}
	return q, q.checkGroups(b, r.By)
}

func or(word, standard string) string {
	if word == "" {
		return standard
	}
	return word
}

// FindMilestone is a milestone by its name; word names the word of the request that holds it. The error is a *request.Error.
func FindMilestone(b *book.Book, word, name string) (milestone.Milestone, error) {
	i := milestone.Index(b.Milestones(), name)
	if i < 0 {
		return milestone.Milestone{}, request.Invalid(word, name,
			"no date of this book; "+spelling.Want(name, milestone.Names(b.Milestones())))
	}
	return b.Milestones()[i], nil
}

func parseCalendar(text string, unit leg.Unit) (book.CalendarSource, error) {
	source := slices.Index(book.CalendarSourceNames(), or(text, "site"))
	switch {
	case source < 0:
		return 0, request.Invalid("calendar", text, "want the calendar of the site or of the destination")
	case book.CalendarSource(source) == book.AtDestination && unit == leg.WorkingHours:
		return 0, request.Invalid("calendar", text, "working hours are read from clocks, and no zone is known for destinations; want site")
	}
	return book.CalendarSource(source), nil
}

// CutOffWords say whether starts are moved by cut-offs, where the book has any that do; moved says that they move something
// else of the question than its lengths. Empty where they play no part.
func (q Question) CutOffWords(moved bool) string {
	counts := leg.Measure{Unit: leg.WorkingDays}.CutOffMoves(q.Leg) && (q.Measure.Unit == leg.WorkingDays || moved)
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
	return false, request.Invalid("cut_off", text,
		"want on or off: whether an order that came after the cut-off of its site counts as ordered on the next working day")
}

// Where picks the orders that are asked about by a condition; the zero Where asks about all.
type Where struct {
	Text      string // as it was written
	Condition predicate.Condition
	// Decimals says how many minor units the unit of a currency has.
	Decimals func(currency string) int
}

// And is the condition that asks for both.
func (w Where) And(other Where) Where {
	switch {
	case other.Condition == nil:
		return w
	case w.Condition == nil:
		return other
	}
	return Where{"(" + w.Text + ") && (" + other.Text + ")", predicate.And{X: w.Condition, Y: other.Condition}, w.Decimals}
}

// Bind resolves the condition, or another that is made of it.
func (w Where) Bind(b *book.Book, c predicate.Condition) *predicate.Bound {
	bound := predicate.Bind(b, c, w.Decimals)
	return &bound
}

// UnitWords name the unit, and the calendar where it is not that of the site.
func (q Question) UnitWords() string {
	if q.Calendar == book.AtDestination && q.Measure.Unit.ByCalendar() {
		return q.Measure.Unit.Words() + " at the destination"
	}
	return q.Measure.Unit.Words()
}

// Heading names the leg, the unit and the rule, for whatever shows a length away from its sentence.
func (q Question) Heading(cutOffs string) string {
	heading := fmt.Sprintf("%s → %s, %s, %s", q.Leg.From.Date(), q.Leg.To.Date(), q.UnitWords(), q.Measure.RuleWords())
	if cutOffs != "" {
		heading += ", " + cutOffs
	}
	return heading
}

// ByNames are the names of the groupings, with commas.
func (q Question) ByNames() string {
	names := make([]string, len(q.By))
	for i, g := range q.By {
		names[i] = g.String()
	}
	return strings.Join(names, ",")
}

// PeriodWords name the periods, with their days where the text alone does not fix them.
func (q Question) PeriodWords() string {
	words := make([]string, len(q.Periods))
	for i, p := range q.Periods {
		words[i] = p.Text
		if strings.HasPrefix(p.Text, "this-") || strings.HasPrefix(p.Text, "last-") {
			words[i] += " (" + p.Days() + ")"
		}
	}
	text := strings.Join(words, " and ")
	if len(words) > 1 {
		text += ", each by itself"
	}
	return text
}

// Stepped is the milestone whose days a group's step of time is of: that which a grouping cuts, or else the basis.
func (q Question) Stepped() milestone.Milestone {
	m := q.Basis
	for _, g := range q.By {
		if g.Cut != NoCut && g.of != nil {
			m = *g.of
		}
	}
	return m
}
