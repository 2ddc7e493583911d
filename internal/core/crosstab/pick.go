package crosstab

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// A Pick names the orders behind a number of an answer.
type Pick struct {
	Basis string // a milestone of the question; empty is the first
	// Place is where the basis lies, of all orders there; empty is inside, of the orders that have the figure.
	Place string
	// Other is where the basis lies for the other end of a bridge from the first basis, of which Place is the place then:
	// before, inside, after or none.
	Other       string
	Row, Column *string // keys; nil is any, empty is none
	Others      bool    // the rows that are gathered, in the place of Row
	Currency    *string // of a value; nil is any, empty is none
	Uncounted   bool    // the orders inside that have no such figure
}

// Test says which orders a pick names. The error is a *request.Error.
func Test(b *book.Book, q Question, pick Pick) (query.Test, error) {
	p := newPlan(b, q)
	k := 0
	if pick.Basis != "" {
		if k = slices.IndexFunc(p.basesAt(), func(k int) bool { return q.Bases[k].Name == pick.Basis }); k < 0 {
			return nil, request.Invalid("by_date", pick.Basis, "not a date of the question")
		}
		k = p.basesAt()[k]
	}
	keep, err := p.keeps(pick)
	if err != nil {
		return nil, err
	}
	rows, err := p.pickRows(pick)
	if err != nil {
		return nil, err
	}
	columns, err := p.pickCodes(1, pick.Column)
	if err != nil {
		return nil, err
	}
	return func(o book.Offset) bool {
		block, row := o.Block, o.At
		at := &cursor{block: block, row: row, codes: p.codesOf(block, row)}
		if q.Show.Kind == Value && pick.Currency != nil && b.Values(book.Currency)[block.Codes[book.Currency][row]] != *pick.Currency {
			return false
		}
		// By the order's own days what was shipped beyond what was ordered sums to nothing.
		sum := int64(0)
		p.each(at, pick, func(piece *piece, amount int64) {
			d, where := p.pieceDay(at, k, piece)
			_, first := p.pieceDay(at, 0, piece)
			if keep(first, where) && (where != inside || rows[p.code(0, at, piece.part, d)] && columns[p.code(1, at, piece.part, d)]) {
				sum += amount
			}
		})
		return sum != 0
	}, nil
}

// keeps says whether a pick is of a place, or of two ends of a bridge.
func (p *plan) keeps(pick Pick) (func(first, where place) bool, error) {
	if pick.Other != "" {
		from, to := slices.Index(bridgeNames[:], pick.Place), slices.Index(bridgeNames[:], pick.Other)
		if from < 0 || to < 0 {
			return nil, request.Invalid("other", pick.Other, "a bridge has two places, of "+strings.Join(bridgeNames[:], ", "))
		}
		return func(first, where place) bool { return bridgePlace(first) == from && bridgePlace(where) == to }, nil
	}
	at := 0
	if pick.Place != "" {
		if at = slices.Index(placeNames[:], pick.Place); at < 0 {
			return nil, request.Invalid("place", pick.Place, "want one of "+strings.Join(placeNames[:], ", "))
		}
	}
	return func(_, where place) bool { return where == place(at) }, nil
}

// codesOf are the codes of one order, or of the lines of its block.
func (p *plan) codesOf(block *book.Block, row int) (codes [2][]uint32) {
	for i, axis := range p.axes {
		switch p.coded[i] {
		case ofParts:
			codes[i] = axis.PartCodes(block)
		case ofOrders:
			codes[i] = axis.Codes(block, row, row+1, make([]uint32, 1))
		}
	}
	return codes
}

// each shows the pieces of an order with their amounts, or its lines as an order can lie in their cells.
func (p *plan) each(at *cursor, pick Pick, show func(of *piece, amount int64)) {
	kind := p.question.Show.Kind
	from, to := at.block.Parts[p.of].Of(at.row)
	switch {
	case !kind.OfParts() && (pick.Place == "" || pick.Uncounted) && p.counts(at) == pick.Uncounted, kind == Value &&
		!at.block.Valued[at.row]:
		return
	case !kind.OfParts() && (!p.byPart || from == to):
		show(&piece{part: -1}, 1)
		return
	case !kind.OfParts():
		for l := from; l < to; l++ {
			show(&piece{part: l}, 1)
		}
		return
	}
	var s spool
	pieces := p.pieces(at, &s)
	if p.picks != nil {
		var chosen chosenParts
		chosen.decide(p, at.block, at.row, at.row+1)
		chosen.order(from, to)
		pieces = chosen.pieces(pieces, from)
	}
	for i := range pieces {
		show(&pieces[i], pieces[i].amount(kind))
	}
}

// counts says whether an order has what the question shows of orders.
func (p *plan) counts(at *cursor) bool {
	return p.figure(at).counted
}

// pickCodes are the codes of a key; nil picks all.
func (p *plan) pickCodes(axis int, key *string) ([]bool, error) {
	codes := make([]bool, []int{p.rows, p.columns}[axis])
	if key == nil {
		for i := range codes {
			codes[i] = true
		}
		return codes, nil
	}
	none := func([]int) bool { return true }
	for _, h := range p.heads(axis, none, func([]int) Cell { return Cell{} }) {
		if h.Key == *key {
			for _, code := range h.codes {
				codes[code] = true
			}
			return codes, nil
		}
	}
	word := []string{"row", "column"}[axis]
	return nil, request.Invalid(word, *key, "no "+word+" of this answer")
}

func (p *plan) pickRows(pick Pick) ([]bool, error) {
	if !pick.Others {
		return p.pickCodes(0, pick.Row)
	}
	if p.question.Top == 0 {
		return nil, request.Invalid("others", "true", "all rows are shown; want a number of first ones")
	}
	lane := 0
	if p.question.Show.Kind == Value && pick.Currency != nil {
		lane = max(0, slices.Index(p.book.Values(book.Currency), *pick.Currency))
	}
	all := *p
	all.question.Top = 0
	t, _ := all.scan()
	part, err := all.part(t, lane)
	if err != nil {
		return nil, err
	}
	codes := make([]bool, p.rows)
	for _, row := range part.Tables[0].Rows[min(p.question.Top, len(part.Tables[0].Rows)):] {
		for _, code := range row.codes {
			codes[code] = true
		}
	}
	return codes, nil
}

// Words say which orders a pick names.
func (q Question) PickWords(pick Pick) string {
	basis := q.Bases[0]
	for _, m := range q.Bases {
		if m.Name == pick.Basis {
			basis = m
		}
	}
	var words string
	if pick.Other != "" {
		words = fmt.Sprintf("%s %s and %s %s of %s", q.Bases[0].Words(), pick.Place, basis.Words(), pick.Other, q.Period.Days())
	} else {
		at := max(0, slices.Index(placeNames[:], pick.Place))
		words = place(at).label(basis, q.Period)
	}
	if q.Show.Kind.OfParts() {
		words = "with " + q.Show.name + " " + words
	}
	named := func(what string, key *string) {
		switch {
		case key == nil:
		case *key == "":
			words += ", without " + what
		default:
			words += ", " + what + " " + *key
		}
	}
	if pick.Others {
		words += fmt.Sprintf(", in all but the first %d rows", q.Top)
	} else if q.Rows != nil {
		named(q.Rows.String(), pick.Row)
	}
	if q.Columns != nil {
		named(q.Columns.String(), pick.Column)
	}
	if pick.Currency != nil {
		words += ", " + numfmt.Either(*pick.Currency == "", "without a currency", "in "+*pick.Currency)
	}
	if pick.Uncounted {
		words += ", without the figure"
	}
	return words
}
