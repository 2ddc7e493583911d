// Package list makes the list of orders that an analyst works in: any columns, sorted by any of them, one row for each
// order or for each of its lines, shipments or payments, and what of it may be summed. No order is lost for want of a
// part, and none counts twice for having several.
package list

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
)

// A Column shows an operand of orders, or whether a condition holds of them.
type Column struct {
	Text      string // as it is written
	Heading   string
	Own       bool                // the heading was given, and does not follow from what it shows
	Width     int                 // in pixels; 0 is as wide as needed
	Operand   predicate.Operand   // nil where it shows a condition
	Condition predicate.Condition // nil where it shows an operand
}

// A Kind is what the cells of a column hold.
type Kind uint8

// The kinds. A joined column holds the values of an order's parts in one cell, with their number.
const (
	Text Kind = iota
	OnDay
	Number
	YesNo
	Joined
)

// A Cell is what a column shows of an order.
type Cell struct {
	Text   string  // as people read it; empty where there is nothing
	Number float64 // where the kind is Number and Text is not empty
	Day    day.Day // where the kind is OnDay
	// Moment is the day with its time of day and distance from UTC, as far as they are known, of a milestone.
	Moment            day.Moment
	predicate.Remarks // of a length
	// Ahead is a fact after the data date, which is recorded and not known yet.
	Ahead bool
}

// The cells of a condition.
const (
	Yes       = "yes"
	No        = "no"
	Undecided = "undecided"
)

// A boundColumn is a column of one book.
type boundColumn struct {
	Column
	book      *book.Book
	kind      Kind
	reader    predicate.Reader
	condition predicate.Bound
	milestone int         // of a milestone, else −1
	part      *partColumn // of a column of parts
	decimals  []int       // of the currencies, by code
	ranks     []uint32    // of a field
	numbers   []uint32    // ranks of the numbers of orders, by row
	field     book.Field
	// asked: the column shows the length that the list is asked about, which its rows bring along. Of legs that still run it
	// shows how long they have, by soFar.
	asked bool
	soFar predicate.Reader
	// places: the column shows places; their country, or their region, may have a column of its own.
	places                  bool
	withCountry, withRegion bool
}

type partColumn struct {
	of     book.Part
	at     int
	holds  book.Holding
	single bool // rows are those of this part
}

// What tells places apart.
var (
	placeColumn   predicate.Operand = predicate.Field("place")
	countryColumn predicate.Operand = predicate.Field("country")
	regionColumn  predicate.Operand = predicate.Field("region")
)

// bind resolves a column. Of parts that the rows are not of, all values stand in one cell.
func bind(b *book.Book, c Column, r Request) boundColumn {
	decimals, q := r.Decimals, r.Question
	bound := boundColumn{Column: c, book: b, milestone: -1}
	for _, currency := range b.Values(book.Currency) {
		bound.decimals = append(bound.decimals, decimals(currency))
	}
	if c.Condition != nil {
		bound.kind, bound.condition = YesNo, predicate.Bind(b, c.Condition, decimals)
		return bound
	}
	bound.reader = predicate.Read(b, c.Operand, decimals)
	if field, is := bound.reader.Field(); is {
		bound.field, bound.ranks = field, b.Ranks(field)
	}
	shows := func(o predicate.Operand) bool {
		return slices.ContainsFunc(r.Columns, func(other Column) bool { return other.Operand == o })
	}
	bound.places, bound.withCountry, bound.withRegion = c.Operand == placeColumn, shows(countryColumn), shows(regionColumn)
	if asked := (predicate.Length{Leg: q.Leg, Measure: q.Measure, Side: q.Calendar}); c.Operand == predicate.Operand(asked) {
		asked.SoFar = true
		bound.asked, bound.soFar = true, predicate.Read(b, asked, decimals)
	}
	switch o := c.Operand.(type) {
	case predicate.Number:
		bound.numbers = b.NumberRanks()
	case predicate.Day:
		bound.kind, bound.milestone = OnDay, milestone.Index(b.Milestones(), string(o))
	case predicate.Value, predicate.Told, predicate.Length, predicate.Count, predicate.Size:
		bound.kind = Number
	case predicate.PartColumn:
		columns := b.PartColumns(o.Of)
		at := slices.IndexFunc(columns, func(column book.PartColumn) bool { return column.Name == o.Name })
		bound.part = &partColumn{o.Of, at, columns[at].Holds, r.Per != nil && *r.Per == o.Of}
		switch {
		case !bound.part.single:
			bound.kind = Joined
		case bound.part.holds == book.OnDay:
			bound.kind = OnDay
		case bound.part.holds > book.OnDay:
			bound.kind = Number
		}
	}
	return bound
}

// cell is what the column shows of an order, and of its part where rows are of parts; part is negative where the order
// has none.
func (c *boundColumn) cell(p *predicate.Place, part int) Cell {
	switch {
	case c.kind == YesNo:
		return Cell{Text: [...]string{predicate.True: Yes, predicate.False: No, predicate.Undecided: Undecided}[c.condition.OneAt(p)]}
	case c.milestone >= 0:
		return c.dayCell(p)
	case c.part == nil:
		return c.content(p)
	case c.part.single:
		if part < 0 {
			return Cell{}
		}
		p.Part[c.part.of] = part
		return c.content(p)
	}
	from, to := p.Block.Parts[c.part.of].Of(p.Row)
	if from == to {
		return Cell{}
	}
	texts := make([]string, to-from)
	for i := range texts {
		p.Part[c.part.of] = from + i
		texts[i] = c.content(p).Text
	}
	return Cell{Text: fmt.Sprintf("%d: %s", to-from, strings.Join(texts, ", "))}
}

// dayCell is a milestone as it is recorded, with the time of day where that is known.
func (c *boundColumn) dayCell(p *predicate.Place) Cell {
	column := p.Block.Columns[c.milestone]
	d := column.Raw[p.Row]
	if d == 0 {
		return Cell{}
	}
	cell := Cell{Text: d.String(), Day: d, Ahead: column.Known[p.Row] == 0}
	zone := c.book.Locals(book.AtSite)[p.Block.Codes[book.Site][p.Row]].Zone
	if cell.Moment = column.MomentAt(p.Row, zone); cell.Moment.Timed {
		cell.Text += " " + cell.Moment.Shown(zone)
	}
	return cell
}

// content is the reader's value in words.
func (c *boundColumn) content(p *predicate.Place) Cell {
	reader := c.reader
	if c.asked {
		reader = c.soFar
	}
	kind, text, number := reader.At(p)
	switch {
	case kind == predicate.OfText:
		cell := Cell{Text: text}
		if c.places {
			cell.Text = c.book.PlaceBeside(p.Block.Codes[book.Place][p.Row], c.withCountry, c.withRegion)
		}
		if c.part != nil && c.part.holds == book.OnDay {
			cell.Day, _ = day.Parse(text)
		}
		if state, is := c.Operand.(predicate.State); is {
			parsed, _ := leg.ParseState(text)
			cell.Text = state.Leg.Label(parsed)
		}
		return cell
	case kind != predicate.OfNumber:
		return Cell{}
	}
	cell := Cell{Number: number}
	least := 0 // decimals
	switch o := c.Operand.(type) {
	case predicate.Length:
		cell.Text = o.Measure.Unit.Text(int(math.Round(number * float64(o.Measure.Unit.Ticks()))))
		cell.Remarks = reader.Remarks(p)
		return cell
	case predicate.Value:
		least = c.decimals[p.Block.Codes[book.Currency][p.Row]]
	case predicate.PartColumn:
		if c.part.holds == book.Money || c.part.holds == book.ValueUnit {
			least = 2
		}
	}
	cell.Text = strconv.FormatFloat(number, 'f', -1, 64)
	whole, fraction, _ := strings.Cut(cell.Text, ".")
	if len(fraction) < least {
		cell.Text = whole + "." + fraction + strings.Repeat("0", least-len(fraction))
	}
	return cell
}

// A key is what rows are sorted by: the number decides, then the text. What is lacked, a number that is none, comes
// last.
type key struct {
	number float64
	text   string
}

func keyOf(has bool, number float64) key {
	if !has {
		return key{number: math.NaN()}
	}
	return key{number: number}
}

func (c *boundColumn) key(p *predicate.Place, l duration.Listed, part int) key {
	switch {
	case c.asked && l.State.Counted():
		return keyOf(true, float64(l.Length))
	case c.asked:
		kind, _, number := c.soFar.At(p)
		return keyOf(kind == predicate.OfNumber, number*float64(c.Operand.(predicate.Length).Measure.Unit.Ticks()))
	case c.numbers != nil:
		return key{number: float64(c.numbers[l.Row])}
	case c.ranks != nil:
		code := p.Block.Codes[c.field][p.Row]
		return keyOf(code != 0, float64(c.ranks[code]))
	case c.milestone >= 0:
		d := p.Block.Columns[c.milestone].Raw[p.Row]
		return keyOf(d != 0, float64(d))
	case c.kind == YesNo:
		truth := c.condition.OneAt(p)
		return keyOf(truth != predicate.Undecided, float64(truth))
	case c.part != nil && !c.part.single:
		text := c.cell(p, part).Text
		return key{keyOf(text != "", 0).number, text}
	case c.part != nil && part < 0:
		return keyOf(false, 0)
	case c.part != nil:
		p.Part[c.part.of] = part
	}
	kind, text, number := c.reader.At(p)
	return key{keyOf(kind == predicate.OfText || kind == predicate.OfNumber, number).number, text}
}
