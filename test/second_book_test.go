package test

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/numfmt"
)

// known is an order of the second book as known at the data date.
func (o chandlerOrder) known() chandlerOrder {
	for _, day := range []*string{&o.ordered, &o.shipped, &o.cancelled} {
		if *day > chandlerDate {
			*day = ""
		}
	}
	return o
}

// open are the days from and to which an order was open; false where it cannot be placed.
func (o chandlerOrder) open() (start, close string, placed bool) {
	k := o.known()
	close = k.shipped
	if k.cancelled != "" && (close == "" || k.cancelled < close) {
		close = k.cancelled
	}
	return k.ordered, close, k.ordered != "" && (k.shipped == "" || k.shipped >= k.ordered) && (close == "" || close >= k.ordered)
}

// moved is a day so many days later.
func moved(day string, n int) string {
	at, _ := time.Parse(time.DateOnly, day)
	return at.AddDate(0, 0, n).Format(time.DateOnly)
}

// What was open on each day of the second book, and how old it was, counted order by order.
func TestTheSecondBookOpenDayByDay(t *testing.T) {
	s, rows := loadChandler(t)
	for _, closing := range []string{"in", "out"} {
		open := gridOf(t, s.ask(t, "/open", "period", "2031-05", "by", "site", "closing_day", closing, "each", "day").Parts[0], "rows")
		require.Len(t, open.Totals, 24, "every day up to the data date")
		for i := range open.Totals {
			day := moved("2031-05-01", i)
			for at := i; at < 3*24; at += 24 { // of the two sites, and of all
				row := open.rows()[at]
				site := row.Cells[0].Text
				var want [5]int
				for _, o := range rows {
					start, close, placed := o.open()
					if !placed || site != "all" && o.depot != site {
						continue
					}
					for k, counts := range []bool{
						start < day && (close == "" || close >= day),
						start == day,
						close == day,
						start <= day && (close == "" || close > day),
						start <= day && (close == "" || close > day || close == day && closing == "in"),
					} {
						if counts {
							want[k]++
						}
					}
				}
				require.Equal(t, day, row.From)
				require.Equal(t, want, [5]int{open.count(row, "at_start"), open.count(row, "opened"), open.count(row, "closed"),
					open.count(row, "at_end"), open.count(row, "some_time")}, "%s %s %s", day, site, closing)
			}
		}
	}

	for _, in := range []string{"days", "working-days"} {
		for _, day := range []string{"2031-04-30", "2031-05-11", chandlerDate} {
			ages := gridOf(t, s.ask(t, "/open", "in", in, "by", "site", "at", day, "buckets", "0,3,9").Parts[0], "ages")
			for _, g := range ages.rows() {
				site := ages.names(g)
				var buckets [4]int
				oldest := 0.0
				for _, o := range rows {
					start, close, placed := o.open()
					if !placed || site != "all" && o.depot != site || start > day || close != "" && close <= day {
						continue
					}
					age := walk(depotNamed(o.depot), start, day, in, "elapsed")
					buckets[sort.SearchFloat64s([]float64{0, 3, 9}, age)]++
					oldest = max(oldest, age)
				}
				for i, n := range buckets {
					require.Equal(t, n, ages.count(g, fmt.Sprintf("bucket_%d", i)), "%s %s %s", in, day, site)
				}
				require.Equal(t, oldest, ages.number(g, "oldest"))
			}
		}
	}
	never := map[string]int{}
	for _, o := range rows {
		k := o.known()
		switch _, _, placed := o.open(); {
		case placed:
		case k.ordered == "" && o.ordered != "":
			never["not-yet-begun"]++
		case k.ordered == "":
			never["no-start"]++
		case k.shipped != "" && k.shipped < k.ordered:
			never["end-before-start"]++
		default:
			never["cancelled-before-start"]++
		}
	}
	require.NotEmpty(t, never)
	whole := s.ask(t, "/open").Parts[0]
	for state, n := range never {
		assert.Equal(t, n, listed(whole, state), state)
	}
}

// The second book against a promise of so many working days, order by order.
func TestTheSecondBookAgainstThePromise(t *testing.T) {
	s, rows := loadChandler(t)
	for _, after := range []int{0, 4} {
		kept := gridOf(t, s.took(t, question{Promise: fmt.Sprint(after), By: []string{"site"}}).Parts[0], "promise")
		require.Len(t, kept.rows(), 3)
		for _, g := range kept.rows() {
			name := kept.names(g)
			orders, late := map[string]int{}, []float64(nil)
			for _, o := range rows {
				if name != "all" && o.depot != name {
					continue
				}
				k, d := o.known(), depotNamed(o.depot)
				if k.shipped == "" && k.cancelled != "" {
					orders["cancelled"]++
					continue
				}
				if k.ordered == "" && o.ordered != "" {
					orders["not-begun"]++
					continue
				}
				if k.ordered == "" {
					orders["no-promise"]++
					continue
				}
				due, worked := k.ordered, 0
				works := func() bool { at, _ := time.Parse(time.DateOnly, due); return d.works(at) }
				for worked < after || !works() {
					if due = moved(due, 1); works() {
						worked++
					}
					if worked == after && works() {
						break
					}
				}
				switch {
				case k.shipped != "" && k.shipped < due:
					orders["early"]++
				case k.shipped == due:
					orders["on-the-day"]++
				case k.shipped != "":
					orders["reached-late"]++
					late = append(late, walk(d, due, k.shipped, "working-days", "elapsed"))
				case due < chandlerDate:
					orders["overdue"]++
				default:
					orders["not-due"]++
				}
			}
			sort.Float64s(late)
			for code, n := range orders {
				require.Equal(t, n, kept.count(g, code), "%d %s %s", after, name, code)
			}
			require.Equal(t, late[len(late)-1], kept.number(g, "late_max"))
			require.InDelta(t, (late[(len(late)-1)/2]+late[len(late)/2])/2, kept.number(g, "late_median"), 1e-6)
			told := orders["early"] + orders["on-the-day"] + orders["reached-late"] + orders["overdue"]
			require.Equal(t, numfmt.Percent(orders["reached-late"]+orders["overdue"], told), kept.cell(g, "late_share").Text)
		}
	}
}

// Limits and the estimate with running orders, from the lengths of single orders by the book definitions.
func TestTheSecondBookWithRunningOrders(t *testing.T) {
	s, rows := loadChandler(t)
	six := 6.0
	for _, in := range []string{"days", "working-days"} {
		part := s.took(t, question{In: in, Over: &six, WithRunning: true}).Parts[0]
		limit, estimate, curve := gridOf(t, part, "limit"), gridOf(t, part, "estimate"), gridOf(t, part, "curve")
		var ended, running, cancelled []float64
		for _, o := range rows {
			k := o.known()
			length := func(to string) float64 { return walk(depotNamed(o.depot), k.ordered, to, in, "elapsed") }
			switch {
			case k.ordered == "" || k.shipped != "" && k.shipped < k.ordered:
			case k.shipped != "":
				ended = append(ended, length(k.shipped))
			case k.cancelled == "":
				running = append(running, length(chandlerDate))
			case k.cancelled >= k.ordered:
				cancelled = append(cancelled, length(k.cancelled))
			}
		}
		over := func(lengths []float64) (n int) {
			for _, l := range lengths {
				if l > six {
					n++
				}
			}
			return n
		}
		for code, want := range map[string]int{"finished": over(ended), "waiting": over(running), "within": len(ended) - over(ended),
			"undecided": len(running) - over(running), "cancelled": over(cancelled)} {
			require.Equal(t, want, limit.count(limit.total(), code), code)
		}
		atLeast := func(lengths []float64, than float64) (n float64) {
			for _, l := range lengths {
				if l >= than {
					n++
				}
			}
			return n
		}
		exactly := func(lengths []float64, than float64) float64 {
			return atLeast(lengths, than) - atLeast(lengths, than+1)
		}
		beyond, alive, done, gone := 1.0, 1.0, 0.0, 0.0
		points := map[float64]answer.Row{}
		for _, p := range curve.Rows {
			points[curve.number(p, "length")] = p
		}
		median := math.NaN()
		for length := 0.0; length <= 60; length++ {
			// A cancelled order is known to have taken longer than it had run.
			if at := atLeast(ended, length) + atLeast(running, length) + atLeast(cancelled, length); at > 0 {
				beyond *= 1 - exactly(ended, length)/at
			}
			if at := atLeast(ended, length) + atLeast(running, length) + atLeast(cancelled, length); at > 0 {
				done += alive * exactly(ended, length) / at
				gone += alive * exactly(cancelled, length) / at
				alive *= 1 - (exactly(ended, length)+exactly(cancelled, length))/at
			}
			if beyond <= 0.5 && math.IsNaN(median) {
				median = length
			}
			if p, there := points[length]; there {
				require.InDelta(t, 100*beyond, curve.number(p, "beyond"), 1e-5, "%s %v", in, length)
				require.InDelta(t, 100*done, curve.number(p, "done"), 1e-5)
				require.InDelta(t, 100*gone, curve.number(p, "cancelled"), 1e-5)
			}
		}
		require.NotEmpty(t, points)
		require.InDelta(t, median, estimate.number(estimate.total(), "with_running"), 1e-6)
		require.Equal(t, len(running), estimate.count(estimate.total(), "running"))
	}
}

// Any statistic, by weeks and by a condition, from the lengths of single orders.
func TestTheSecondBookByWeeks(t *testing.T) {
	s, rows := loadChandler(t)
	q := question{By: []string{"week"}, Where: `berth == "B3" || berth == "B5"`, Show: []string{"p95", "standard-deviation", "p12.5"}}
	d := s.took(t, q)
	groups := gridOf(t, d.Parts[0], "groups")
	require.NotEmpty(t, groups.Rows)
	lengths := map[string][]float64{}
	for i, o := range rows {
		k := o.known()
		if i%7 != 3 && i%7 != 5 || k.ordered == "" || k.shipped < k.ordered {
			continue
		}
		at, _ := time.Parse(time.DateOnly, k.ordered)
		year, week := at.ISOWeek()
		name := fmt.Sprintf("%d-W%02d", year, week)
		length := walk(depotNamed(o.depot), k.ordered, k.shipped, "working-days", "elapsed")
		lengths[name], lengths["all"] = append(lengths[name], length), append(lengths["all"], length)
	}
	for _, g := range groups.rows() {
		name := groups.names(g)
		own := lengths[name]
		sort.Float64s(own)
		require.Equal(t, len(own), groups.count(g, "n"), name)
		require.Equal(t, len(own) > 0 && len(own) < 10, slices.Contains(g.Remarks, "few"))
		if len(own) < 2 {
			continue
		}
		quantile := func(p float64) float64 {
			at := p * float64(len(own)-1)
			return own[int(at)] + (at-math.Floor(at))*(own[int(math.Ceil(at))]-own[int(at)])
		}
		mean, squares := 0.0, 0.0
		for _, l := range own {
			mean += l / float64(len(own))
		}
		for _, l := range own {
			squares += (l - mean) * (l - mean)
		}
		for i, want := range []float64{quantile(0.95), math.Sqrt(squares / float64(len(own)-1)), quantile(0.125)} {
			require.InDelta(t, want, groups.number(g, q.Show[i]), 1e-6, "%s %s", name, q.Show[i])
		}
		if g.From != "" {
			require.Equal(t, g.From < d.FirstDay || g.To > chandlerDate, slices.Contains(g.Remarks, "part"), name)
		}
	}
}
