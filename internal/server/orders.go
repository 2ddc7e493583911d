package server

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/money"
	"prairiedusk/internal/present"
	"prairiedusk/internal/store"
)

// A listed request asks for a page of a list.
type listed struct {
	api.OrdersQuestion
	api.Page
}

// Resolve takes what repeats as it stands in the address.
func (in *listed) Resolve(ctx huma.Context) []error { return takeRepeated(ctx, &in.OrdersQuestion) }

// takeRepeated takes the groups, since huma leaves out empty ones, which are the key of "none", and the highlights, which can hold
// commas.
func takeRepeated(ctx huma.Context, in *api.OrdersQuestion) []error {
	address := ctx.URL()
	query := address.Query()
	in.Group, in.Highlight = query["group"], query["highlight"]
	return nil
}

func (s *server) orders(ctx context.Context, in *listed) (*answered[*answer.Document], error) {
	asked, err := present.ListOf(s.snapshot(ctx), &in.OrdersQuestion)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	found, err := s.lists.ask(ctx, asked, in, s.list)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	d, err := asked.Page(found, in.Page)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	dated(ctx, d)
	return &answered[*answer.Document]{d}, nil
}

// list makes a list when its turn comes.
func (s *server) list(ctx context.Context, asked present.List) (*list.Answer, error) {
	end, err := s.acquireSlot(ctx)
	if err != nil {
		return nil, err
	}
	defer end()
	// A file of the list may be sent for longer than a question is computed.
	ctx, cancel := context.WithTimeoutCause(ctx, questionTimeout, errTooLong)
	defer cancel()
	return list.Ask(asked.Book.Within(ctx), asked.Request)
}

// lists remembers the last lists, so that whoever scrolls does not wait for the same list to be made again and again.
type lists struct {
	mutex   sync.Mutex
	version int64        // of the book; lists of an earlier one would keep it in memory
	last    []remembered // the latest last
}

// A remembered list is as long as it was needed so far.
type remembered struct {
	asks   string
	answer *list.Answer
}

const (
	// mostLists and mostRemembered bound what is remembered, in lists and in rows of each.
	mostLists      = 8
	mostRemembered = 100_000
	// ahead is how many rows at least are made when somebody begins to scroll.
	ahead = 2000
)

// ask gives a list that is at least as long as the page asks for.
func (l *lists) ask(ctx context.Context, asked present.List, in *listed, compute func(context.Context, present.List) (*list.Answer,
	error)) (*list.Answer, error) {
	version, asks, needed := asked.Book.Version(), fmt.Sprintf("%#v", in.OrdersQuestion), in.Offset+in.Limit
	l.mutex.Lock()
	if l.version != version {
		l.version, l.last = version, nil
	}
	at := slices.IndexFunc(l.last, func(r remembered) bool { return r.asks == asks })
	if at >= 0 && l.last[at].answer.Len() >= min(needed, l.last[at].answer.Rows) {
		defer l.mutex.Unlock()
		return l.last[at].answer, nil
	}
	l.mutex.Unlock()
	asked.Most = needed
	if in.Offset > 0 {
		asked.Most = max(2*needed, ahead)
	}
	answer, err := compute(ctx, asked)
	if err != nil || asked.Most > mostRemembered {
		return answer, err
	}
	l.mutex.Lock()
	defer l.mutex.Unlock()
	if l.version != version {
		return answer, nil
	}
	l.last = slices.DeleteFunc(l.last, func(r remembered) bool { return r.asks == asks })
	l.last = append(l.last, remembered{asks, answer})
	l.last = l.last[max(0, len(l.last)-mostLists):]
	return answer, nil
}

func entryBody(b *book.Book, o book.Order, q duration.Question, listed duration.Listed) api.OrderEntry {
	entry := api.OrderEntry{
		Number: o.Number, Fields: fieldsBody(b, listed.Row), Milestones: milestonesBody(b, o), Times: map[string]string{},
		State: listed.State.String(), StateLabel: q.Leg.Label(listed.State), HolidaysUnknown: listed.HolidaysUnknown,
	}
	zone := b.SiteCalendarAt(book.AtSite, listed.Row).Zone
	block, row := b.Locate(listed.Row)
	for m, c := range block.Columns {
		if at := c.MomentAt(row, zone); at.Timed {
			entry.Times[b.Milestones()[m].Name] = at.Shown(zone)
		}
	}
	if o.Valued {
		entry.Value = money.Format(o.Value, o.Fields[book.Currency])
	}
	entry.Length = lengthBody(q, listed)
	return entry
}

// milestonesBody are the days of an order that are recorded, by name.
func milestonesBody(b *book.Book, o book.Order) map[string]string {
	days := map[string]string{}
	for m, d := range o.Days {
		if d != 0 && b.Milestones()[m].Of == "" {
			days[b.Milestones()[m].Name] = d.String()
		}
	}
	return days
}

// lengthBody is a length in units; nil where none is counted.
func lengthBody(q duration.Question, l duration.Listed) *float64 {
	if !l.State.Counted() {
		return nil
	}
	return number(q.Measure.Unit.Number(l.Length))
}

// lengthWords is a length with its unit, or the state of the leg.
func lengthWords(q duration.Question, l duration.Listed) string {
	if !l.State.Counted() {
		return q.Leg.Label(l.State)
	}
	return q.Measure.Unit.Length(l.Length)
}

type orderInput struct {
	Number string `path:"number" doc:"Order number."`
	api.Leg
}

func (s *server) order(ctx context.Context, in *orderInput) (*answered[api.Order], error) {
	b := s.snapshot(ctx)
	q, b, err := present.TookQuestion(b, &api.TookQuestion{Leg: in.Leg})
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	row, found := b.Find(in.Number)
	if !found {
		hint := ""
		if near := b.NearestNumber(in.Number); near != "" {
			hint = "; did you mean " + near + "?"
		}
		return nil, huma.Error404NotFound(fmt.Sprintf("there is no order %q in the book%s", in.Number, hint))
	}
	body := orderBody(b, row, q)
	tables, changes, err := s.partsOf(ctx, in.Number)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	for _, c := range changes {
		body.Changes = append(body.Changes, api.Change(c))
	}
	for _, t := range tables {
		body.Parts = append(body.Parts, api.PartTable(t))
	}
	return &answered[api.Order]{body}, nil
}

// partsOf are the parts of an order, and what was changed in it, as they are, or as they were where the request asks so.
func (s *server) partsOf(ctx context.Context, number string) (tables []store.PartTable, changes []store.Change, err error) {
	if of, is := ctx.Value(pastKey{}).(past); is && of.supposed == nil {
		return s.OrderAsOf(ctx, of.load.ID, number)
	}
	if tables, err = s.Records.Parts(ctx, number); err != nil {
		return nil, nil, err
	}
	changes, err = s.Records.History(ctx, number)
	return tables, changes, err
}

func orderBody(b *book.Book, row int, q duration.Question) api.Order {
	o, known := b.At(row), b.KnownAt(row)
	own := b.SiteCalendarAt(q.Calendar, row)
	reader := duration.NewReader(b, q.Question)
	listed, stretch := reader.At(row), reader.StretchAt(row)
	body := api.Order{
		Order:    entryBody(b, o, q, listed),
		Leg:      fmt.Sprintf("from %s to %s, in %s, %s", q.Leg.From.Date(), q.Leg.To.Date(), q.Measure.Unit.Words(), q.Measure.RuleWords()),
		Heading:  q.Heading(),
		Words:    lengthWords(q, listed),
		Unit:     q.Measure.Unit.String(),
		Calendar: own.Name(),
		Zone:     zoneName(b.SiteCalendarAt(book.AtSite, row).Zone),
		Days:     []api.MilestoneOn{}, Strip: []api.StripDay{}, Legs: []api.LegState{}, Changes: []api.Change{}, Parts: []api.PartTable{},
		Findings: append([]string{}, o.Findings.Words()...),
	}
	for m, d := range o.Days {
		if at := b.Milestones()[m]; d != 0 && at.Of == "" {
			body.Days = append(body.Days, api.MilestoneOn{Name: at.Name, Day: d.String(), Time: body.Order.Times[at.Name], Plan: at.Plan,
				Known: known[m] != 0})
		}
	}
	slices.SortStableFunc(body.Days, func(x, y api.MilestoneOn) int {
		return cmp.Or(strings.Compare(x.Day, y.Day), strings.Compare(x.Time, y.Time))
	})
	body.Statuses = orderStatuses(b, row, q)
	body.InTime = inTime(own.Calendar, o.Days)
	if listed.State.Counted() {
		strip := q.Measure.Strip(own.Local, stretch)
		body.Strip, body.SumLine = stripBody(strip), strip.String()
	}
	for _, l := range chain(b) {
		one := q
		one.Leg = l
		listed := duration.NewReader(b, one.Question).At(row)
		body.Legs = append(body.Legs, api.LegState{From: l.From.Name, To: l.To.Name, State: listed.State.String(),
			StateLabel: l.Label(listed.State), Length: lengthBody(one, listed)})
	}
	return body
}

// mostInTime is how many days of an order's life are shown one by one.
const mostInTime = 400

// inTime are the days from the first milestone of an order to the last.
func inTime(c *calendar.Calendar, milestones []day.Day) []api.CalendarDay {
	days := []api.CalendarDay{}
	known := slices.DeleteFunc(slices.Clone(milestones), func(d day.Day) bool { return d == 0 })
	if len(known) == 0 {
		return days
	}
	first, last := slices.Min(known), slices.Max(known)
	if int(last-first) >= mostInTime {
		return days
	}
	for d := first; d <= last; d++ {
		days = append(days, dayBody(c, d))
	}
	return days
}

func zoneName(zone *time.Location) string {
	if zone == nil {
		return ""
	}
	return zone.String()
}

func stripBody(s leg.Strip) []api.StripDay {
	days := []api.StripDay{}
	for _, c := range s.Cells {
		d := api.StripDay{Day: c.Day.String(), Part: c.Part.String(), Name: c.Name}
		if s.Measure.Unit.Timed() {
			d.Hours = number(s.Measure.Unit.Number(c.Seconds))
		}
		days = append(days, d)
	}
	return days
}

// chain are the legs between facts that follow each other in an order's life, cancellation aside, and the
// whole way from ordered to delivered.
func chain(b *book.Book) []leg.Leg {
	var facts []milestone.Milestone
	for i, m := range milestone.BuiltIn() {
		if first, _ := b.Range(i); first != 0 && !m.Plan && m.Name != milestone.Cancelled {
			facts = append(facts, m)
		}
	}
	var legs []leg.Leg
	for i := 1; i < len(facts); i++ {
		legs = append(legs, leg.Leg{From: facts[i-1], To: facts[i]})
	}
	if len(facts) > 2 {
		legs = append(legs, leg.Leg{From: facts[0], To: facts[len(facts)-1]})
	}
	return legs
}
