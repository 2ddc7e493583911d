package summary

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/core/request"
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

// ranked is the length at a rank, counted from 0 in ascending order.
func (d Distribution) ranked(rank int) int {
	for _, b := range d {
		if rank < b.Orders {
			return b.Length
		}
		rank -= b.Orders
	}
	panic("summary: rank beyond the orders")
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
		gathered = gathered.with(floor(b.Length, width), b.Orders)
	}
	return gathered, width
}

// counts is the distribution of lengths that were counted from the lowest one on.
func counts(orders []uint32, lowest int) (d Distribution) {
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

// A Statistic is one number that says what the lengths of a group come to.
type Statistic struct {
	name  string
	value func(d Distribution) float64 // of a distribution with at least one order
	// Whole says that it is one of the lengths themselves.
	Whole bool
}

// String is the statistic's name in the API, on the command line and in headings.
func (s Statistic) String() string { return s.name }

// Of is the statistic of a distribution, in ticks; NaN where there are too few orders for it.
func (s Statistic) Of(d Distribution) float64 {
	if len(d) == 0 {
		return math.NaN()
	}
	return s.value(d)
}

// DefaultStatistics are shown where none is asked for.
var DefaultStatistics = []string{"mean", "median", "p90", "min", "max"}

// statistics are those with a name of their own; percentiles are p and a number.
var statistics = []Statistic{
	{"mean", Distribution.Mean, false},
	{"median", func(d Distribution) float64 { return d.Quantile(0.5) }, false},
	{"min", func(d Distribution) float64 { return float64(d.Min()) }, true},
	{"max", func(d Distribution) float64 { return float64(d.Max()) }, true},
	{"standard-deviation", Distribution.StandardDeviation, false},
}

// ParseStatistics reads names of statistics: mean, median, min, max, standard-deviation, or a percentile such as p90 or
// p97.5; none is DefaultStatistics. The error is a *request.Error.
func ParseStatistics(names []string) (shown []Statistic, err error) {
	if len(names) == 0 {
		names = DefaultStatistics
	}
	for _, name := range names {
		i := slices.IndexFunc(statistics, func(s Statistic) bool { return s.name == name })
		s := Statistic{name: name}
		percent, isPercentile := strings.CutPrefix(name, "p")
		p, err := strconv.ParseFloat(percent, 64)
		switch {
		case i >= 0:
			s = statistics[i]
		case isPercentile && err == nil && p >= 0 && p <= 100:
			s.value = func(d Distribution) float64 { return d.Quantile(p / 100) }
		default:
			return nil, request.Invalid("show", name, "not a statistic; want mean, median, min, max, standard-deviation, or a percentile from p0 to p100 such as p90")
		}
		if slices.ContainsFunc(shown, func(other Statistic) bool { return other.name == name }) {
			return nil, request.Invalid("show", name, "named twice")
		}
		shown = append(shown, s)
	}
	return shown, nil
}

// SmallGroup is the number of lengths below which a group is marked: its 90th percentile is little more than its longest.
const SmallGroup = 10

// Small says that a group has so few lengths that its statistics say little.
func (g Group) Small() bool { return len(g.Lengths) > 0 && g.Lengths.Orders() < SmallGroup }
