// Package distribution says what lengths come to: how many there are of each, and the statistics of them.
package distribution

import (
	"cmp"
	"maps"
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/stat/distuv"
)

// A Bar is the number of orders of one length.
type Bar struct {
	Length int
	Orders int
}

// A Distribution lists the lengths that occur, shortest first, each with at least one order.
type Distribution []Bar

// Orders is the number of orders in the distribution.
func (d Distribution) Orders() int {
	n := 0
	for _, b := range d {
		n += b.Orders
	}
	return n
}

// Min is the shortest length of a distribution that is not empty.
func (d Distribution) Min() int { return d[0].Length }

// Max is the longest length of a distribution that is not empty.
func (d Distribution) Max() int { return d[len(d)-1].Length }

// Mean is the arithmetic mean; NaN where there is no order.
func (d Distribution) Mean() float64 {
	sum, n := 0, 0
	for _, b := range d {
		sum += b.Length * b.Orders
		n += b.Orders
	}
	return float64(sum) / float64(n)
}

// Quantile is linear between the closest ranks, with rank p·(n−1): type 7 of Hyndman and Fan, "Sample
// Quantiles in Statistical Packages", Am. Stat. 50(4), 1996. NaN where there is no order.
func (d Distribution) Quantile(p float64) float64 {
	n := d.Orders()
	if n == 0 {
		return math.NaN()
	}
	rank := p * float64(n-1)
	below := int(rank)
	low, high := d.ranked(below), d.ranked(min(below+1, n-1))
	return float64(low) + (rank-float64(below))*float64(high-low)
}

// tail is what each end of a 95% interval leaves out.
const tail = 0.025

// Ranks are between which of n lengths, from 1 on, a quantile lies with 95%; both are 0 where n is too few to say so. Whatever the
// distribution: David and Nagaraja, "Order Statistics", 3rd ed., 2003, section 7.1.
type Ranks struct{ Low, High int }

// QuantileRanks are those of a quantile of n lengths.
func QuantileRanks(n int, p float64) Ranks {
	below := distuv.Binomial{N: float64(n), P: p} // how many lengths lie at most at the quantile
	// The lower end is the greatest rank that at most 2.5% of samples have above the quantile, the upper end the least that as few have
	// below it.
	from := sort.Search(n, func(i int) bool { return below.CDF(float64(i)) > tail })
	to := sort.Search(n, func(i int) bool { return 1-below.CDF(float64(i)) <= tail })
	if from == 0 || to >= n {
		return Ranks{}
	}
	return Ranks{from, to + 1}
}

// Between are the lengths of two ranks.
func (d Distribution) Between(r Ranks) (low, high int) {
	return d.ranked(r.Low - 1), d.ranked(r.High - 1)
}

// MeanInterval is the 95% interval of the mean by Student's t; not known for fewer than two lengths.
func (d Distribution) MeanInterval() (low, high float64, known bool) {
	n := float64(d.Orders())
	if n < 2 {
		return 0, 0, false
	}
	half := distuv.StudentsT{Mu: 0, Sigma: 1, Nu: n - 1}.Quantile(1-tail) * d.StandardDeviation() / math.Sqrt(n)
	return d.Mean() - half, d.Mean() + half, true
}

// ranked is the length at a rank, counted from 0 in ascending order.
func (d Distribution) ranked(rank int) int {
	for _, b := range d {
		if rank < b.Orders {
			return b.Length
		}
		rank -= b.Orders
	}
	panic("distribution: rank beyond the orders")
}

// StandardDeviation is that of a sample (n − 1); NaN where there are fewer than two orders.
func (d Distribution) StandardDeviation() float64 {
	n := d.Orders()
	if n < 2 {
		return math.NaN()
	}
	mean, squares := d.Mean(), 0.0
	for _, b := range d {
		squares += float64(b.Orders) * (float64(b.Length) - mean) * (float64(b.Length) - mean)
	}
	return math.Sqrt(squares / float64(n-1))
}

// Gathered gives the distribution in stretches of one width, which is returned: the lengths of a stretch stand under
// the shortest that could be of it. The width is the first of 1, 2, 5, 10, … times the finest for which there are at
// most so many stretches.
func (d Distribution) Gathered(finest, most int) (Distribution, int) {
	width := finest
	for decade := finest; len(d) > 0 && d.span(width) > most; {
		switch width {
		case decade:
			width = 2 * decade
		case 2 * decade:
			width = 5 * decade
		default:
			decade *= 10
			width = decade
		}
	}
	var gathered Distribution
	for _, b := range d {
		gathered = gathered.With(floor(b.Length, width), b.Orders)
	}
	return gathered, width
}

// Counted is the distribution of lengths that were counted from the lowest one on.
func Counted(orders []uint32, lowest int) (d Distribution) {
	bars := 0
	for _, n := range orders {
		if n > 0 {
			bars++
		}
	}
	if bars == 0 {
		return nil
	}
	d = make(Distribution, 0, bars)
	for i, n := range orders {
		if n > 0 {
			d = append(d, Bar{lowest + i, int(n)})
		}
	}
	return d
}

// span is the number of stretches of a width from the shortest length to the longest.
func (d Distribution) span(width int) int {
	return (floor(d.Max(), width)-floor(d.Min(), width))/width + 1
}

// floor is the greatest multiple of a width that is not above n.
func floor(n, width int) int {
	f := n / width * width
	if f > n {
		f -= width
	}
	return f
}

// With adds orders of a length that is not shorter than any before.
func (d Distribution) With(length, orders int) Distribution {
	if n := len(d); n > 0 && d[n-1].Length == length {
		d[n-1].Orders += orders
		return d
	}
	return append(d, Bar{length, orders})
}

// widest is the range of lengths that are merged by counting; wider ones are sorted.
const widest = 1 << 20

// Merged adds distributions up.
func Merged(each ...Distribution) (all Distribution) {
	each = slices.DeleteFunc(each, func(d Distribution) bool { return len(d) == 0 })
	if len(each) == 0 {
		return nil
	}
	lowest, highest := math.MaxInt, math.MinInt
	for _, d := range each {
		lowest, highest = min(lowest, d.Min()), max(highest, d.Max())
	}
	if highest-lowest < widest {
		orders := make([]int, highest-lowest+1)
		for _, d := range each {
			for _, bar := range d {
				orders[bar.Length-lowest] += bar.Orders
			}
		}
		for i, n := range orders {
			if n > 0 {
				all = append(all, Bar{lowest + i, n})
			}
		}
		return all
	}
	bars := slices.Concat(each...)
	slices.SortFunc(bars, func(a, b Bar) int { return cmp.Compare(a.Length, b.Length) })
	for _, bar := range bars {
		all = all.With(bar.Length, bar.Orders)
	}
	return all
}

// Of sorts counts of lengths.
func Of(counts map[int]int) (d Distribution) {
	for _, length := range slices.Sorted(maps.Keys(counts)) {
		d = append(d, Bar{length, counts[length]})
	}
	return d
}
