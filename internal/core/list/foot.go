package list

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/predicate"
)

// A Foot is what stands below a column: the sum of what may be summed, the mean of lengths, each order counted once, or
// how often a condition holds. Means and sums are over all pages.
type Foot struct {
	Words string // empty where nothing can be said
	// Basis says what the words are: "sum", "mean per order" or "orders".
	Basis string
}

// sums collect what feet say. Every number is whole: minor units, thousandths, ticks.
type sums struct {
	columns []*boundColumn     // those that have a foot, else nil
	money   [][]int64          // by the code of the order's currency
	foreign []map[string]int64 // by other currencies, which parts can have
	totals  []int64            // of all else
	counts  []int
	seen    []key // of lengths: what the order at hand has, for whoever sorts by it as well
}

func newSums(columns []boundColumn) *sums {
	s := &sums{money: make([][]int64, len(columns)), foreign: make([]map[string]int64, len(columns)), totals: make([]int64, len(columns)),
		counts: make([]int, len(columns)), seen: make([]key, len(columns))}
	for i := range columns {
		c := &columns[i]
		switch c.Operand.(type) {
		case nil, predicate.Value, predicate.Length, predicate.Count:
		case predicate.PartColumn:
			if c.part.holds <= book.OnDay {
				c = nil
			}
		default:
			c = nil
		}
		s.columns = append(s.columns, c)
		s.money[i], s.foreign[i] = make([]int64, len(columns[i].decimals)), map[string]int64{}
	}
	return s
}

// take adds one order, with all its parts.
func (s *sums) take(p *predicate.Place, l duration.Listed) {
	for i, c := range s.columns {
		if c == nil {
			continue
		}
		if c.asked {
			if l.State.Counted() {
				s.totals[i] += int64(l.Length)
				s.counts[i]++
			}
			continue
		}
		switch o := c.Operand.(type) {
		case nil:
			if c.condition.OneAt(p) == predicate.True {
				s.counts[i]++
			}
		case predicate.Value:
			if p.Block.Valued[p.Row] {
				s.money[i][p.Block.Codes[book.Currency][p.Row]] += p.Block.Values[p.Row]
				s.counts[i]++
			}
		case predicate.Length:
			kind, _, number := c.reader.At(p)
			if s.seen[i] = keyOf(kind == predicate.OfNumber, number); kind == predicate.OfNumber {
				s.totals[i] += int64(math.Round(number * float64(o.Measure.Unit.Ticks())))
				s.counts[i]++
			}
		case predicate.Count:
			from, to := p.Block.Parts[o.Of].Of(p.Row)
			s.totals[i] += int64(to - from)
			s.counts[i]++
		case predicate.PartColumn:
			s.parts(i, c, p)
		}
	}
}

// parts adds a column of all of an order's parts. Money is of the part's own currency, or of the order's.
func (s *sums) parts(i int, c *boundColumn, p *predicate.Place) {
	ragged := &p.Block.Parts[c.part.of]
	from, to := ragged.Of(p.Row)
	for at := from; at < to; at++ {
		n := ragged.Columns[c.part.at].Numbers[at]
		if n == book.None {
			continue
		}
		s.counts[i]++
		switch c.part.holds {
		case book.ValueUnit:
			s.money[i][p.Block.Codes[book.Currency][p.Row]] += n
		case book.Money:
			if own := c.ownCurrency(ragged, at); own != "" {
				s.foreign[i][own] += n
			} else {
				s.money[i][p.Block.Codes[book.Currency][p.Row]] += n
			}
		default:
			s.totals[i] += n
		}
	}
}

// ownCurrency is the currency that stands beside an amount.
func (c *boundColumn) ownCurrency(ragged *book.ChildRows, at int) string {
	column := slices.IndexFunc(c.book.PartColumns(c.part.of), func(known book.PartColumn) bool { return known.Name == "currency" })
	return c.book.PartValues(c.part.of, column)[ragged.Columns[column].Codes[at]]
}

func (s *sums) add(other *sums) {
	for i := range s.columns {
		for code, total := range other.money[i] {
			s.money[i][code] += total
		}
		for currency, total := range other.foreign[i] {
			s.foreign[i][currency] += total
		}
		s.totals[i] += other.totals[i]
		s.counts[i] += other.counts[i]
	}
}

// feet put the sums into words.
func (s *sums) feet(decimals func(currency string) int) []Foot {
	feet := make([]Foot, len(s.columns))
	for i, c := range s.columns {
		if c == nil || s.counts[i] == 0 {
			continue
		}
		switch o := c.Operand.(type) {
		case nil:
			feet[i] = Foot{numfmt.Count(s.counts[i]), "orders"}
		case predicate.Value:
			feet[i] = Foot{s.words(i, decimals, decimals), "sum"}
		case predicate.Length:
			mean := float64(s.totals[i]) / float64(o.Measure.Unit.Ticks()) / float64(s.counts[i])
			feet[i] = Foot{fmt.Sprintf("%.2f of %s", mean, numfmt.Count(s.counts[i])), "mean per order"}
		case predicate.Count:
			feet[i] = Foot{numfmt.Count(int(s.totals[i])), "sum"}
		case predicate.PartColumn:
			if c.part.holds == book.Quantity {
				feet[i] = Foot{numfmt.Decimal(s.totals[i], 3, 0), "sum"}
			} else {
				feet[i] = Foot{s.words(i, func(string) int { return 4 }, func(string) int { return 2 }), "sum"}
			}
		}
	}
	return feet
}

// words are the sums by currency, which are never added up.
func (s *sums) words(i int, decimals, least func(currency string) int) string {
	totals := maps.Clone(s.foreign[i])
	for code, total := range s.money[i] {
		if total != 0 {
			totals[s.columns[i].book.Values(book.Currency)[code]] += total
		}
	}
	var words []string
	for _, currency := range slices.Sorted(maps.Keys(totals)) {
		words = append(words, numfmt.Decimal(totals[currency], decimals(currency), least(currency))+" "+cmp.Or(currency,
			"without a currency"))
	}
	if len(words) == 0 {
		return "0"
	}
	return strings.Join(words, " + ")
}
