// Package answer is the one document that every analysis gives: the service sends it, the console draws it, and every format is
// written from it.
package answer

import (
	"cmp"
	"math"
	"strconv"
	"strings"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/numfmt"
)

// A Document is an answer.
type Document struct {
	Analysis string `json:"analysis" doc:"What was asked: took, open, immediate, …"`
	Sentence []Word `json:"sentence" nullable:"false" doc:"Exactly what was computed."`
	Heading  string `json:"heading,omitempty" doc:"What lengths are of: leg, unit and rule, for whatever shows one away from the sentence."`
	Version  int64  `json:"version" doc:"The version of the book that was asked."`
	FirstDay string `json:"first_day" format:"date" doc:"The day from which the records are complete."`
	DataDate string `json:"data_date" format:"date" doc:"The day up to which the records are complete."`
	Parts    []Part `json:"parts" nullable:"false" doc:"One for each period, figure or currency, each by itself."`
}

// Records says from when to when the records are complete, for whoever reads the answer without the program.
func (d *Document) Records() string {
	if d.FirstDay == day.First.String() && d.DataDate == d.FirstDay {
		return "There are no records yet."
	}
	return "Records from " + d.FirstDay + " to " + d.DataDate + "."
}

// A Word is a stretch of the sentence.
type Word struct {
	Text string `json:"text"`
	Slot string `json:"slot,omitempty" doc:"The parameter whose value this is; left out for the words between."`
}

// Asked is the sentence as one text.
func (d *Document) Asked() string {
	var text strings.Builder
	for _, w := range d.Sentence {
		text.WriteString(w.Text)
	}
	return text.String()
}

// A Part is the answer about one period, or one currency, by itself.
type Part struct {
	Title  string  `json:"title,omitempty" doc:"What parts it from the others; left out where there is one part."`
	Tables []Table `json:"tables" nullable:"false"`
	Lines  []Line  `json:"lines" nullable:"false" doc:"What the answer is of, and what is left out: each adds up."`
	Notes  []Note  `json:"notes" nullable:"false"`
	// Untested are kinds of orders that could change the answer and do not occur among its orders, beside those that its tables count.
	Untested []string `json:"-"`
}

// Table is a table by its code; nil where there is none.
func (p *Part) Table(code string) *Table {
	for i := range p.Tables {
		if p.Tables[i].Code == code {
			return &p.Tables[i]
		}
	}
	return nil
}

// An Address names the orders behind a number: what the list of orders takes as behind. It reads as an analysis, its question
// and what of it is named: immediate?period=2026-Q3&asked=booked-ahead.
type Address string

// A Line is numbers that add up: the first is the sum of the others.
type Line struct {
	Text  string `json:"text" doc:"In words."`
	Terms []Term `json:"terms" nullable:"false" doc:"The sum, and what it is made of."`
}

// A Term is one number of a line.
type Term struct {
	Label  string  `json:"label"`
	Orders int     `json:"orders"`
	Amount string  `json:"amount,omitempty" doc:"What adds up, where that is not orders: units or a value, as people read it. Then orders are those that have some."`
	Behind Address `json:"behind,omitempty" doc:"The orders behind the number."`
}

// NewLine makes a line; its sum has words of its own, such as "1,204 orders selected".
func NewLine(words string, sum Term, terms ...Term) Line {
	texts := make([]string, len(terms))
	for i, t := range terms {
		texts[i] = cmp.Or(t.Amount, numfmt.Count(t.Orders)) + " " + t.Label
	}
	return Line{words + " = " + strings.ReplaceAll(strings.Join(texts, " + "), " + -", " − "), append([]Term{sum}, terms...)}
}

// A Note is something that a reader of the answer has to know.
type Note struct {
	Code   string  `json:"code"`
	Text   string  `json:"text"`
	Orders int     `json:"orders" doc:"How many orders it concerns; 0 for the answer as a whole."`
	Behind Address `json:"behind,omitempty"`
}

// A Kind says what the cells of a column hold; every format decides by it, and never by a cell's text.
type Kind string

// The kinds.
const (
	Text    Kind = "text"
	Count   Kind = "count"   // of orders or other things: a whole number
	Number  Kind = "number"  // in the unit of the column
	Percent Kind = "percent" // of 100
	Day     Kind = "day"     // YYYY-MM-DD
	Order   Kind = "order"   // the number of an order
	YesNo   Kind = "yes-no"  // whether a condition holds: the number is 1 or 0, or left out where that cannot be decided
)

// Numeric says whether cells of the kind are numbers.
func (k Kind) Numeric() bool { return k == Count || k == Number || k == Percent }

// A Column is typed once, for all formats.
type Column struct {
	Code    string `json:"code"`
	Heading string `json:"heading"`
	Shared  string `json:"shared,omitempty" doc:"Stands above neighbours that share it."`
	Kind    Kind   `json:"kind" enum:"text,count,number,percent,day,order,yes-no"`
	Unit    string `json:"unit,omitempty"`
	Own     bool   `json:"own,omitempty" doc:"Of a list: the heading was given, and does not follow from what the column shows."`
	Width   int    `json:"width,omitempty" doc:"Of a list: in pixels, where it was given."`
	Timed   bool   `json:"timed,omitempty" doc:"Its days can have a time of day."`
	// Folded columns hold what other columns, or other tables, say as well.
	Folded bool `json:"folded,omitempty" doc:"For files and pictures; a table that people read leaves it out."`
}

// Title is the heading with what it shares, for formats with one line of headings.
func (c Column) Title() string {
	if c.Shared == "" {
		return c.Heading
	}
	return c.Heading + ", " + c.Shared
}

// A Table has a cell in every row for every column.
type Table struct {
	Code    string   `json:"code"`
	Title   string   `json:"title,omitempty"`
	Columns []Column `json:"columns" nullable:"false"`
	Rows    []Row    `json:"rows" nullable:"false"`
	Totals  []Row    `json:"totals" nullable:"false" doc:"Stand below the rows; empty where nothing adds up."`
	All     int      `json:"all" doc:"How many rows there are, where only some are sent."`
	Offset  int      `json:"offset,omitempty" doc:"How many rows come before those that are sent."`
	Orders  int      `json:"orders,omitempty" doc:"Of a list: how many distinct orders all rows are of."`
	Sort    string   `json:"sort,omitempty" doc:"Of a list: what its rows are sorted by, as it is written."`
	// Sections divide a list, highlights and marks make cells of it stand out.
	Sections   []Section   `json:"sections,omitempty" doc:"What divides all rows, one after the other; left out where they stand together."`
	Highlights []Highlight `json:"highlights,omitempty"`
	Marks      []Mark      `json:"marks,omitempty" doc:"What can have to be known to read a cell."`
	// Folded tables say what others say as well, or more than most readers want.
	Folded bool `json:"folded,omitempty" doc:"For files, and for those who ask."`
	// Picture tables hold what a picture is drawn from.
	Picture bool `json:"picture,omitempty" doc:"For pictures and JSON; people read the others."`
}

// At is the place of a column by its code; −1 where there is none.
func (t *Table) At(code string) int {
	for i, c := range t.Columns {
		if c.Code == code {
			return i
		}
	}
	return -1
}

// TellApart gives each column of every table a code of its own. A field or a status can be called as a number is, and stands before it
// then: it gives way.
func (d *Document) TellApart() {
	for p := range d.Parts {
		for t := range d.Parts[p].Tables {
			columns := d.Parts[p].Tables[t].Columns
			taken := map[string]bool{}
			for i := len(columns) - 1; i >= 0; i-- {
				for taken[columns[i].Code] {
					columns[i].Code += "-of-order"
				}
				taken[columns[i].Code] = true
			}
		}
	}
}

// A Section is a stretch of the rows of a list, under a title.
type Section struct {
	Title  string `json:"title"`
	Rows   int    `json:"rows"`
	Orders int    `json:"orders"`
}

// A Highlight makes rows, or cells of a column, stand out where a condition holds.
type Highlight struct {
	Text   string `json:"text" doc:"As it was written."`
	Style  string `json:"style" doc:"amber, teal, plum or faint."`
	Column int    `json:"column" doc:"The column whose cells it highlights; -1 for rows."`
	Where  string `json:"where" doc:"The condition."`
}

// A Mark is a sign after a cell, with what it means.
type Mark struct {
	Sign string `json:"sign"`
	Name string `json:"name" doc:"In few words, for files."`
	Text string `json:"text" doc:"In words."`
}

// A Row is a row of a table.
type Row struct {
	Cells     []Cell   `json:"cells" nullable:"false" doc:"By column."`
	Order     string   `json:"order,omitempty" doc:"Of a list: the number of the order that it is of."`
	Highlight int      `json:"highlight,omitempty" doc:"The highlight of the row, counted from 1; left out for none."`
	From      string   `json:"from,omitempty" format:"date" doc:"The first day of a row that is a step of time."`
	To        string   `json:"to,omitempty" format:"date"`
	Remarks   []string `json:"remarks,omitempty" doc:"What has to be known to read the row: few, part, …"`
}

// A Cell is a value of its column's kind.
type Cell struct {
	Text   string   `json:"text" doc:"As people read it; empty where there is no value."`
	Number *float64 `json:"number,omitempty" doc:"Of a numeric column; left out where there is no value, which is not 0."`
	Behind Address  `json:"behind,omitempty" doc:"The orders behind the number."`
	Exact  string   `json:"exact,omitempty" doc:"As files have it, where that is not the text or the number: a decimal with all its digits, a day with its time and distance from UTC."`
	Basis  string   `json:"basis,omitempty" doc:"Of a total: sum, mean per order, or orders."`
	// Marks and Highlight are those of a list.
	Marks     []int `json:"marks,omitempty" doc:"Of the table's marks, counted from 0."`
	Highlight int   `json:"highlight,omitempty" doc:"The highlight of the cell, counted from 1; left out for none."`
}

// Words is a cell of text.
func Words(text string) Cell { return Cell{Text: text} }

// Orders is a cell that counts orders; those of an address stand behind it.
func Orders(n int, behind Address) Cell {
	if n == 0 {
		behind = ""
	}
	return Cell{Text: numfmt.Count(n), Number: exactly(float64(n)), Behind: behind}
}

// Whole is a cell that counts something.
func Whole(n int) Cell { return Orders(n, "") }

// Measured is a cell of a number with some decimals; NaN is no value.
func Measured(x float64, decimals int) Cell {
	if math.IsNaN(x) || math.IsInf(x, 0) {
		return Cell{}
	}
	return Cell{Text: numfmt.Grouped(strconv.FormatFloat(x, 'f', decimals, 64)), Number: exactly(x)}
}

// Written is a cell of a number whose text is made elsewhere; an empty text is no value.
func Written(text string, x float64) Cell {
	if text == "" || math.IsNaN(x) || math.IsInf(x, 0) {
		return Cell{Text: text}
	}
	return Cell{Text: text, Number: exactly(x)}
}

// exactly is a number to a millionth, which is more than anybody reads and less than the noise of fractions.
func exactly(x float64) *float64 {
	x = math.Round(x*1e6) / 1e6
	return &x
}
