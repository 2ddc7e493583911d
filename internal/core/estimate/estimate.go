// Package estimate says how long legs take when some of them still run: the product-limit estimate (Kaplan and Meier,
// 1958) with Greenwood's variance, and beside it the shares that have ended and that were given up by each length, where
// giving up is an end of another kind (Aalen and Johansen, 1978).
package estimate

import (
	"cmp"
	"math"
	"slices"
)

// A Count is how many legs have a length, or have run for it.
type Count struct{ Length, Orders int }

// A Point is the curve from one length on, up to the next point.
type Point struct {
	Length        int
	AtRisk, Ended int
	// Beyond is the share that takes longer than the length.
	Beyond        float64
	StandardError float64
	// Low and High are its 95% bounds, on the scale of log(−log); they are not known, NaN, at 1 and 0.
	Low, High float64
}

// A Curve has a point for every length at which a leg ended, the shortest first.
type Curve []Point

// z is the 97.5th percentile of the normal distribution.
const z = 1.959963984540054

// atEqual makes up for what sums of fractions lose.
const atEqual = 1e-9

// ProductLimit is the curve of legs that ended, with their lengths, and of others that are known to have run for a length and
// not ended by it: those that still run, and those that were cancelled. At equal lengths ends come first.
func ProductLimit(ended, censored []Count) Curve {
	atRisk := total(ended) + total(censored)
	ended, censored = sorted(ended), sorted(censored)
	var curve Curve
	beyond, sum, waited := 1.0, 0.0, 0 // sum is Greenwood's
	for _, e := range ended {
		for waited < len(censored) && censored[waited].Length < e.Length {
			atRisk -= censored[waited].Orders
			waited++
		}
		if e.Orders == 0 {
			continue
		}
		p := Point{Length: e.Length, AtRisk: atRisk, Ended: e.Orders, Low: math.NaN(), High: math.NaN()}
		beyond *= float64(atRisk-e.Orders) / float64(atRisk)
		sum += float64(e.Orders) / (float64(atRisk) * float64(atRisk-e.Orders))
		if p.Beyond = beyond; atRisk > e.Orders {
			p.StandardError = beyond * math.Sqrt(sum)
			spread := z * math.Sqrt(sum) / math.Abs(math.Log(beyond))
			p.Low, p.High = math.Pow(beyond, math.Exp(spread)), math.Pow(beyond, math.Exp(-spread))
		}
		curve = append(curve, p)
		atRisk -= e.Orders
	}
	return curve
}

// Median is the smallest length by which half have ended, or the middle of the stretch over which exactly half have, so
// that it is the plain median when nothing runs; false where more than half still run.
func (c Curve) Median() (length float64, reached bool) {
	for i, p := range c {
		switch {
		case p.Beyond > 0.5+atEqual:
		case p.Beyond > 0.5-atEqual && i+1 < len(c):
			return float64(p.Length+c[i+1].Length) / 2, true
		default:
			return float64(p.Length), true
		}
	}
	return math.NaN(), false
}

// A Share is how much has become of all legs by a length.
type Share struct {
	Length           int
	Ended, Cancelled float64 // with what still waits they make 1
}

// Shares are those that ended and that were cancelled by each length at which one did.
func Shares(ended, cancelled, running []Count) []Share {
	at := map[int]*struct{ ended, cancelled, running int }{}
	lengths := []int{}
	add := func(counts []Count, to func(length int) *int) {
		for _, c := range counts {
			if at[c.Length] == nil {
				at[c.Length] = &struct{ ended, cancelled, running int }{}
				lengths = append(lengths, c.Length)
			}
			*to(c.Length) += c.Orders
		}
	}
	add(ended, func(length int) *int { return &at[length].ended })
	add(cancelled, func(length int) *int { return &at[length].cancelled })
	add(running, func(length int) *int { return &at[length].running })
	slices.Sort(lengths)
	atRisk, waits := total(ended)+total(cancelled)+total(running), 1.0
	var shares []Share
	sum := Share{}
	for _, length := range lengths {
		n := at[length]
		if n.ended+n.cancelled > 0 {
			sum.Length = length
			sum.Ended += waits * float64(n.ended) / float64(atRisk)
			sum.Cancelled += waits * float64(n.cancelled) / float64(atRisk)
			waits *= float64(atRisk-n.ended-n.cancelled) / float64(atRisk)
			shares = append(shares, sum)
		}
		atRisk -= n.ended + n.cancelled + n.running
	}
	return shares
}

func total(counts []Count) (orders int) {
	for _, c := range counts {
		orders += c.Orders
	}
	return orders
}

func sorted(counts []Count) []Count {
	counts = slices.Clone(counts)
	slices.SortFunc(counts, func(a, b Count) int { return cmp.Compare(a.Length, b.Length) })
	return counts
}

// MedianAfter is the smallest length by which half of those that have not ended by another one have ended; false where more than half
// still run.
func (c Curve) MedianAfter(waited int) (length int, reached bool) {
	left := 1.0
	for _, p := range c {
		switch {
		case p.Length <= waited:
			left = p.Beyond
		case p.Beyond <= left/2+atEqual:
			return p.Length, true
		}
	}
	return 0, false
}

// Kept is the smallest length within which a share of legs end, and the 95% interval of it, by where the bounds of the curve pass:
// Brookmeyer and Crowley, "A Confidence Interval for the Median Survival Time", Biometrics 38(1), 1982. Each is Never where the records
// do not show it.
func (c Curve) Kept(share float64) (length, low, high int) {
	passed := func(of func(Point) float64) int {
		for _, p := range c {
			if x := of(p); x <= 1-share+atEqual { // NaN is never
				return p.Length
			}
		}
		return Never
	}
	return passed(func(p Point) float64 { return p.Beyond }), passed(func(p Point) float64 { return p.Low }),
		passed(func(p Point) float64 { return p.High })
}

// Never is the length of what the records do not show.
const Never = math.MinInt
