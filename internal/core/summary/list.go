package summary

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/doubt"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/request"
)

// A Selection names orders behind a number of an answer. The zero Selection names all that were asked about.
type Selection struct {
	// Placed is Outside, Undated, Unmet or Undecided for the orders that the period or the condition leaves out; empty
	// for those asked about.
	Placed string
	State  string // a state of the leg, or Counted; empty for all
	// Keys picks a group: one key for each grouping of the question. Nil for all groups.
	Keys []string
	// Note is the code of a note that concerns some of the orders; empty for all.
	Note string
	// Doubt is the code of a doubt that holds of the orders; empty for all.
	Doubt string
	// Shortest and Longest bound the length, in ticks of its unit; with either, only counted orders are left.
	Shortest, Longest *int
}

// How an order is left out; see Placement.
const (
	Outside = "outside"
	Undated = "undated"
	// Unmet orders lie in the period and are not as the condition asks; Undecided ones lack what it asks about.
	Unmet     = "unmet"
	Undecided = "undecided"
)

// A Sort orders a list by one key after the other; orders that are alike in all of them go by number. Whatever the
// direction, orders that lack a key come last.
type Sort []SortKey

// A SortKey is "number", "length", "value", a milestone or a field.
type SortKey struct {
	Key        string
	Descending bool
}

// ParseSort reads keys with commas between them, each with a leading minus for descending. Empty text is by number.
func ParseSort(b *book.Book, text string) (Sort, error) {
	var by Sort
	for one := range strings.SplitSeq(or(text, "number"), ",") {
		key, descending := strings.CutPrefix(strings.TrimSpace(one), "-")
		if !slices.Contains(SortKeys(b), key) {
			return nil, request.Refuse("sort", text, fmt.Sprintf("%q is not a key to sort by; want one of %s, with a leading minus for descending", key, strings.Join(SortKeys(b), ", ")))
		}
		if slices.ContainsFunc(by, func(s SortKey) bool { return s.Key == key }) {
			return nil, request.Refuse("sort", text, fmt.Sprintf("%q stands twice", key))
		}
		by = append(by, SortKey{key, descending})
	}
	return by, nil
}

// SortKeys lists what orders can be sorted by.
func SortKeys(b *book.Book) []string {
	keys := []string{"number", "length", "value"}
	for _, m := range b.Milestones() {
		keys = append(keys, m.Name)
	}
	return append(keys, b.FieldNames()...)
}

// A Listed is an order of a list, with the state and length of the question's leg.
type Listed struct {
	Row             int // in the book
	State           leg.State
	Length          int // in ticks of the unit, where the state is counted
	HolidaysUnknown bool
}

// List gives the orders that the question's first period asks about and the selection names, sorted: at
// most limit of them from offset on, and how many there are in all. The error is a *request.Error.
func List(b *book.Book, q Question, s Selection, by Sort, offset, limit int) (listed []Listed, all int, err error) {
	p := newPlan(b, q, q.Periods[0])
	keep, err := p.selects(s)
	if err != nil {
		return nil, 0, err
	}
	page := page{most: offset + limit, before: comparison(b, by)}
	var space scratch
	for n, block := range b.Blocks() {
		for from := 0; from < len(block.IDs); from += chunkRows {
			to := min(from+chunkRows, len(block.IDs))
			basis := block.Columns[p.basisRow].Known
			p.decide(block, from, space.truths[:to-from])
			for i, group := range p.groupCodes(block, from, to, &space) {
				row := from + i
				if p.placed(basis[row], space.truths[i]) != s.Placed {
					continue
				}
				if !keep.group(group) || !keep.doubt(block, row) {
					continue
				}
				if l := p.entry(n*book.BlockSize + row); keep.state(l.State) && keep.listed(l) {
					all++
					page.add(l)
				}
			}
		}
	}
	listed = page.sorted()
	return listed[min(offset, len(listed)):], all, nil
}

// A page keeps the first so many orders of a list, whatever the order in which they come: it sorts when it
// holds twice as many, and forgets the rest.
type page struct {
	most   int
	before func(x, y Listed) int
	kept   []Listed
	full   bool // kept[most-1] is the last that can still be of use
}

func (p *page) add(l Listed) {
	if p.full && p.before(l, p.kept[p.most-1]) > 0 {
		return
	}
	p.kept = append(p.kept, l)
	if len(p.kept) >= 2*p.most {
		p.sorted()
	}
}

// sorted sorts what is kept and cuts it to the size of the page.
func (p *page) sorted() []Listed {
	slices.SortFunc(p.kept, p.before)
	p.kept = p.kept[:min(len(p.kept), p.most)]
	p.full = len(p.kept) == p.most
	return p.kept
}

// One is a single order of a list by the question's leg, measure and calendars, and what its length is counted from.
func One(b *book.Book, row int, q Question) (Listed, leg.Stretch) {
	index := func(name string) int { return milestone.Index(b.Milestones(), name) }
	p := plan{book: b, question: q, start: index(q.Leg.From.Name), end: index(q.Leg.To.Name), cancelled: index(milestone.Cancelled), moves: q.Measure.CutOffMoves(q.Leg)}
	block, i := b.Blocks()[row/book.BlockSize], row%book.BlockSize
	return p.entry(row), p.stretch(block, i, p.dates(block, i))
}

// entry looks at one order of the book.
func (p *plan) entry(row int) Listed {
	block, i := p.book.Blocks()[row/book.BlockSize], row%book.BlockSize
	d := p.dates(block, i)
	l := Listed{Row: row, State: p.question.Leg.State(d)}
	if !l.State.Counted() {
		return l
	}
	own := p.book.LocalAt(p.question.Side, row)
	stretch := p.stretch(block, i, d)
	length, lacking := p.question.Measure.Length(own.Local, stretch)
	if lacking != leg.Complete {
		l.State = lacking
		return l
	}
	l.Length = length
	l.HolidaysUnknown = p.question.Measure.HolidaysUnknown(own.Calendar, stretch)
	return l
}

// placed says how an order of this basis and truth is left out; empty where it is asked about.
func (p *plan) placed(basis day.Day, truth predicate.Truth) string {
	switch {
	case uint32(basis-p.basisFrom) >= p.basisWidth && basis == 0:
		return Undated
	case uint32(basis-p.basisFrom) >= p.basisWidth:
		return Outside
	}
	return [...]string{predicate.True: "", predicate.False: Unmet, predicate.Undecided: Undecided}[truth]
}

// decide says of a stretch of orders whether they meet the condition; all do where there is none.
func (p *plan) decide(block *book.Block, from int, truths []predicate.Truth) {
	if p.where != nil {
		p.where.Decide(block, from, truths)
		return
	}
	for i := range truths {
		truths[i] = predicate.True
	}
}

// truth is decide for one order.
func (p *plan) truth(block *book.Block, row int) predicate.Truth {
	if p.where == nil {
		return predicate.True
	}
	return p.where.One(block, row)
}

// tests are what an order has to pass to be listed.
type tests struct {
	state  func(leg.State) bool
	group  func(number uint32) bool
	doubt  func(block *book.Block, row int) bool
	listed func(Listed) bool
}

// selects turns a selection into tests.
func (p *plan) selects(s Selection) (tests, error) {
	t := tests{
		state:  func(leg.State) bool { return true },
		group:  func(uint32) bool { return true },
		doubt:  func(*book.Block, int) bool { return true },
		listed: func(Listed) bool { return true },
	}
	switch s.State {
	case "":
	case Counted:
		t.state = leg.State.Counted
	default:
		only, err := leg.ParseState(s.State)
		if err != nil {
			return t, request.Refuse("state", s.State, err.Error()+", or "+Counted)
		}
		t.state = func(state leg.State) bool { return state == only }
	}
	if s.Keys != nil {
		number, err := p.number(s.Keys)
		if err != nil {
			return t, err
		}
		t.group = func(group uint32) bool { return group == number }
	}
	if !slices.Contains([]string{"", Outside, Undated, Unmet, Undecided}, s.Placed) {
		return t, request.Refuse("placed", s.Placed, "want outside, undated, unmet or undecided, or nothing for the orders asked about")
	}
	if s.Doubt != "" {
		var known bool
		if t.doubt, known = doubt.Test(p.book, s.Doubt); !known {
			return t, request.Refuse("doubt", s.Doubt, "no doubt about orders; `prairie-dusk doubts` lists them")
		}
	}
	noted, err := p.noted(s.Note)
	if err != nil {
		return t, err
	}
	if s.Note != "" || s.Shortest != nil || s.Longest != nil {
		t.listed = func(l Listed) bool {
			return l.State.Counted() && (s.Shortest == nil || l.Length >= *s.Shortest) && (s.Longest == nil || l.Length <= *s.Longest) && noted(l)
		}
	}
	return t, nil
}

// number is that of the group with these keys.
func (p *plan) number(keys []string) (uint32, error) {
	if len(keys) != len(p.axes) {
		return 0, request.Refuse("group", strings.Join(keys, ","), fmt.Sprintf("want one key for each grouping, %d", len(p.axes)))
	}
	number := uint32(0)
	for i, key := range keys {
		code, known := p.axes[i].code(key)
		if !known {
			return 0, request.Refuse("group", key, "no group of this answer by "+p.axes[i].grouping.String())
		}
		number = number*uint32(len(p.axes[i].labels)) + code
	}
	return number, nil
}

// notesOfOrders are the notes that concern single orders.
var notesOfOrders = []string{NoteNegative, NoteHolidaysUnknown, NoteDefaultCalendar, NoteCutOff, NoteCutOffUntimed}

// noted says which counted orders a note concerns.
func (p *plan) noted(code string) (func(Listed) bool, error) {
	switch code {
	case "":
		return func(Listed) bool { return true }, nil
	case NoteNegative:
		if p.question.Measure.Unit.Timed() {
			return func(l Listed) bool { return l.Length < 0 }, nil
		}
		return func(l Listed) bool { return l.State == leg.Negative }, nil
	case NoteHolidaysUnknown:
		return func(l Listed) bool { return l.HolidaysUnknown }, nil
	case NoteDefaultCalendar:
		return func(l Listed) bool {
			return p.question.Measure.Unit.ByCalendar() && p.book.LocalAt(p.question.Side, l.Row).StandsIn
		}, nil
	case NoteCutOff, NoteCutOffUntimed:
		return func(l Listed) bool {
			return p.cutOff(p.book.Blocks()[l.Row/book.BlockSize], l.Row%book.BlockSize) == code
		}, nil
	}
	return nil, request.Refuse("note", code, "no note that concerns single orders; want one of "+strings.Join(notesOfOrders, ", "))
}

// comparison orders a list; orders that are alike in every key go by number.
func comparison(b *book.Book, by Sort) func(x, y Listed) int {
	at := func(l Listed) (*book.Block, int) { return b.Blocks()[l.Row/book.BlockSize], l.Row % book.BlockSize }
	number := func(x, y Listed) int {
		blockX, i := at(x)
		blockY, j := at(y)
		return book.CompareNumbers(blockX.Numbers[i], blockY.Numbers[j])
	}
	var keys []func(x, y Listed) int
	for _, key := range by {
		keys = append(keys, keyComparison(b, key, at, number))
	}
	return func(x, y Listed) int {
		for _, compare := range keys {
			if c := compare(x, y); c != 0 {
				return c
			}
		}
		return number(x, y)
	}
}

// keyComparison compares by one key.
func keyComparison(b *book.Book, by SortKey, at func(Listed) (*book.Block, int), number func(x, y Listed) int) func(x, y Listed) int {
	direction := 1
	if by.Descending {
		direction = -1
	}
	// key gives what to compare, and whether the order has it.
	var key func(Listed) (int64, bool)
	switch m := milestone.Index(b.Milestones(), by.Key); {
	case m >= 0:
		key = func(l Listed) (int64, bool) {
			block, i := at(l)
			d := block.Columns[m].Raw[i]
			return int64(d), d != day.Day(0)
		}
	case by.Key == "length":
		key = func(l Listed) (int64, bool) { return int64(l.Length), l.State.Counted() }
	case by.Key == "value":
		key = func(l Listed) (int64, bool) {
			block, i := at(l)
			return block.Values[i], block.Valued[i]
		}
	case by.Key == "number":
		return func(x, y Listed) int { return direction * number(x, y) }
	default:
		key = fieldRank(b, by.Key, at)
	}
	return func(x, y Listed) int {
		a, hasA := key(x)
		b, hasB := key(y)
		if hasA != hasB {
			if hasA {
				return -1
			}
			return 1
		}
		return direction * cmp.Compare(a, b)
	}
}

// fieldRank ranks the values of a field once, in natural order.
func fieldRank(b *book.Book, name string, at func(Listed) (*book.Block, int)) func(Listed) (int64, bool) {
	field, _ := b.ParseField(name) // ParseSort has checked it
	values := b.Values(field)
	order := make([]uint32, len(values))
	for code := range order {
		order[code] = uint32(code)
	}
	slices.SortFunc(order, func(x, y uint32) int { return book.CompareNumbers(values[x], values[y]) })
	ranks := make([]int64, len(values))
	for rank, code := range order {
		ranks[code] = int64(rank)
	}
	return func(l Listed) (int64, bool) {
		block, i := at(l)
		code := block.Codes[field][i]
		return ranks[code], code != 0
	}
}
