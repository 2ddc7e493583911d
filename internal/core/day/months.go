package day

// Months, years and their fractions between two days, as people count them without a calendar of work.
// Each function takes an end on or after its start; for an end before the start, callers negate the
// length from end to start.

// MonthsCompleted is the greatest n with start + n months on or before end.
func MonthsCompleted(start, end Day) int {
	n := MonthsCrossed(start, end)
	if next := start.AddMonths(n); next == 0 || next > end {
		n--
	}
	return n
}

// MonthsCrossed is the number of month ends between the two days: 12 × Δyear + Δmonth.
func MonthsCrossed(start, end Day) int {
	y1, m1, _ := start.Date()
	y2, m2, _ := end.Date()
	return 12*(y2-y1) + int(m2) - int(m1)
}

// MonthsFraction is MonthsCompleted and the part of the month step that follows. The step may end after
// Last; its length is then that of the month in which it begins.
func MonthsFraction(start, end Day) float64 {
	n := MonthsCompleted(start, end)
	from, to := start.AddMonths(n), start.AddMonths(n+1)
	step := int(to - from)
	if to == 0 {
		y, m, _ := from.Date()
		step = DaysIn(y, m)
	}
	return float64(n) + float64(end-from)/float64(step)
}
