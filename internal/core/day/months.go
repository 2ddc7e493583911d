package day

import "time"

// Months and years between two days, as people count them without a calendar of work. Each function takes an end
// on or after its start; for an end before the start, callers negate the length from end to start.

// MonthsCompleted is the greatest n with start + n months on or before end.
func MonthsCompleted(start, end Day) int {
	y1, m1, d1 := start.Date()
	y2, m2, d2 := end.Date()
	n := crossed(y1, m1, y2, m2)
	// The n-th month is complete on the day of the month on which it began, or on the month's last.
	if d2 < d1 && d2 < DaysIn(y2, m2) {
		n--
	}
	return n
}

// MonthsCrossed is the number of month ends between the two days: 12 × Δyear + Δmonth.
func MonthsCrossed(start, end Day) int {
	y1, m1, _ := start.Date()
	y2, m2, _ := end.Date()
	return crossed(y1, m1, y2, m2)
}

func crossed(y1 int, m1 time.Month, y2 int, m2 time.Month) int { return 12*(y2-y1) + int(m2-m1) }

// YearsCrossed is the number of year ends between the two days.
func YearsCrossed(start, end Day) int {
	y1, _, _ := start.Date()
	y2, _, _ := end.Date()
	return y2 - y1
}

// MonthsFraction is MonthsCompleted, and how many days of the month step that follows have passed, of how many. The
// step may end after Last; its length is then that of the month in which it begins.
func MonthsFraction(start, end Day) (whole, part, of int) {
	whole = MonthsCompleted(start, end)
	from, to := start.AddMonths(whole), start.AddMonths(whole+1)
	of = int(to - from)
	if to == 0 {
		y, m, _ := from.Date()
		of = DaysIn(y, m)
	}
	return whole, int(end - from), of
}
