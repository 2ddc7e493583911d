package distribution

import (
	"math"
	"prairiedusk/internal/core/request"
	"slices"
	"strconv"
	"strings"
)

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

// Quantile is which one the statistic is, from 0 to 1; false where it is none.
func (s Statistic) Quantile() (p float64, is bool) {
	if s.name == "median" {
		return 0.5, true
	}
	percent, is := strings.CutPrefix(s.name, "p")
	p, err := strconv.ParseFloat(percent, 64)
	return p / 100, is && err == nil
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

// First is the statistic that comes first.
var First = statistics[0]

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
			return nil, request.Invalid("show", name,
				"not a statistic; want mean, median, min, max, standard-deviation, or a percentile from p0 to p100 such as p90")
		}
		if slices.ContainsFunc(shown, func(other Statistic) bool { return other.name == name }) {
			return nil, request.Invalid("show", name, "named twice")
		}
		shown = append(shown, s)
	}
	return shown, nil
}
