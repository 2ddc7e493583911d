package recognise

import (
	"fmt"
	"math/big"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func datesOf(cells ...string) DateVerdict {
	c := NewDates()
	for i, cell := range cells {
		c.Look(i+2, cell)
	}
	return c.Verdict()
}

func TestEveryFormOfDate(t *testing.T) {
	for text, want := range map[string]string{
		"2026-07-04": "2026-07-04", "2026/7/4": "2026-07-04", "2026.07.04": "2026-07-04", "20260704": "2026-07-04",
		"2026-07-04T14:30:00+02:00": "2026-07-04T14:30:00+02:00",
		"2026-07-04 14:30:05.123":   "2026-07-04T14:30:05", "2026-07-04 14:30 UTC": "2026-07-04T14:30:00Z",
		"2026-07-04T14:30:00+0200": "2026-07-04T14:30:00+02:00", "2026-07-04 2:30 PM": "2026-07-04T14:30:00",
		"4-Jul-2026": "2026-07-04", "4 July 2026": "2026-07-04", "July 4, 2026": "2026-07-04",
		"Sat, Jul 4th 2026, 12:05 am": "2026-07-04T00:05:00", "4. Juli 2026": "2026-07-04", "04-JUL-26": "2026-07-04",
		"1er août 2026": "2026-08-01", "4 de marzo de 2026": "2026-03-04", "4 ottobre 2026": "2026-10-04", "04/set/2026": "2026-09-04",
		"4 mrt 2026": "2026-03-04", "4 października 2026 r.": "2026-10-04",
		"Dienstag, 4. März 2025 14:30 Uhr": "2025-03-04T14:30:00", "2026 Jul 4": "2026-07-04",
	} {
		v := datesOf(text)
		require.Equal(t, []any{Sure, true}, []any{v.Answer, v.Plain}, text)
		got, ok := v.Forms[0].ISO(text, false)
		require.True(t, ok, text)
		require.Equal(t, want, got, text)
	}
	for text, want := range map[string]string{"46207": "2026-07-04", "46207.604166666664": "2026-07-04T14:30:00",
		"1783175400": "2026-07-04T14:30:00Z", "1783175400000": "2026-07-04T14:30:00Z"} {
		v := datesOf(text)
		require.Equal(t, []any{Sure, false}, []any{v.Answer, v.Plain}, text)
		got, _ := v.Forms[0].ISO(text, false)
		require.Equal(t, want, got, text)
	}
	for _, text := range []string{"2026-02-30", "31/04/2026", "2026-07-04 25:00", "soon", "12", "7/2026", "July 2026", "4 Foo 2026",
		"2026-07-04T", "1899-12-31", "2200-01-01", "4/7/123", "4 July 2026 x", "", "12:30", "2026-07-04 14:30 XYZ", "26 4 July", "1.234",
		"99999"} {
		v := datesOf(text)
		require.Equal(t, []any{No, 1}, []any{v.Answer, v.Strange}, text)
	}
}

func TestOneOrderOfDayAndMonthFitsTheColumn(t *testing.T) {
	for _, tt := range []struct {
		name    string
		cells   []string
		answer  Answer
		forms   string
		example string
		because string
	}{
		{"one excludes", []string{"03/04/2026", "13/04/2026"}, Sure, "[day-first]", "",
			`["03/04/2026" in row 2 can only be day-first or month-first "13/04/2026" in row 3 can only be day-first]`},
		{"nothing excludes", []string{"04/07/2026", "07/08/2026"}, Ask, "[day-first month-first]",
			"04/07/2026 is 4 July 2026 or 7 April 2026", ""},
		{"both ways are the same day", []string{"05/05/2026", "2026-07-04", "11/11/2026"}, Sure, "[day-first]", "", ""},
		{"three ways, of which none is plain", []string{"01-02-03"}, Ask, "[day-first month-first year-first]",
			"01-02-03 is 1 February 2003 or 2 January 2003 or 3 February 2001", ""},
		{"two orders in one column", []string{"13/04/2026", "04/13/2026"}, No, "[]", "",
			`["04/13/2026" in row 3 can only be month-first "13/04/2026" in row 2 can only be day-first]`},
		{"years of two digits", []string{"04.07.26"}, Ask, "[day-first month-first]", "04.07.26 is 4 July 2026 or 7 April 2026",
			`["04.07.26" in row 2 can only be day-first or month-first]`},
		{"years of two digits, and a day", []string{"04.07.26", "31.07.26"}, Sure, "[day-first]", "", ""},
		{"years of two digits without points, and a day", []string{"04/07/26", "31/07/26"}, Ask, "[day-first year-first]",
			"04/07/26 is 4 July 2026 or 26 July 2004", `["31/07/26" in row 3 can only be day-first or year-first]`},
		{"years of two digits, and a year that is none", []string{"04/07/26", "31/07/26", "31/08/30", "30/06/31"}, Sure, "[day-first]",
			"", ""},
		{"what tells them apart fits all", []string{"4-Jul-2026", "2026-07-05", "13/07/2026"}, Sure, "[day-first]", "",
			`["13/07/2026" in row 4 can only be day-first]`},
		{"day numbers", []string{"46207", "46208"}, Sure, "[day numbers]", "", ""},
		{"day numbers among dates", []string{"46207", "04/07/2026"}, No, "[]", "", ""},
		{"empty", nil, No, "[]", "", "[]"},
	} {
		v := datesOf(tt.cells...)
		require.Equal(t, []any{tt.answer, tt.forms, tt.example}, []any{v.Answer, fmt.Sprint(v.Forms), v.Example}, tt.name)
		if tt.because != "" {
			slices.SortFunc(v.Because, func(a, b Reason) int { return strings.Compare(a.Text, b.Text) })
			require.Equal(t, tt.because, fmt.Sprint(v.Because), tt.name)
		}
	}
	v := datesOf("2026-07-04T00:00:00Z", "2026-07-05 00:00:00+00:00")
	require.True(t, v.Days, "midnights in UTC are days")
	require.False(t, datesOf("2026-07-04T00:00:00Z", "2026-07-05").Days)
	require.False(t, datesOf("2026-07-04T00:00:00+02:00").Days)
	got, _ := DayFirst.ISO("2026-07-04T00:00:00Z", true)
	require.Equal(t, "2026-07-04", got)
}

// Whatever days a column holds, in whatever form: it comes as it is, or is asked; it never comes as something else.
func TestAColumnOfDatesIsRightOrAsked(t *testing.T) {
	layouts := map[DateForm][]string{
		DayFirst:   {"02/01/2006", "2.1.2006", "2-1-06", "02/01/2006 15:04", "2/1/2006 3:04:05 PM"},
		MonthFirst: {"01/02/2006", "1/2/06", "1-2-2006 15:04:05"}, YearFirst: {"06-01-02", "06/01/02 15:04"},
	}
	rapid.Check(t, func(t *rapid.T) {
		form := rapid.SampledFrom([]DateForm{DayFirst, MonthFirst, YearFirst}).Draw(t, "form")
		layout := rapid.SampledFrom(layouts[form]).Draw(t, "layout")
		var cells, want []string
		for range rapid.IntRange(1, 12).Draw(t, "cells") {
			at := time.Date(rapid.IntRange(1990, 2050).Draw(t, "year"), time.Month(rapid.IntRange(1, 12).Draw(t, "month")),
				rapid.IntRange(1, 28).Draw(t, "day"), rapid.IntRange(0, 23).Draw(t, "hour"), 30, 0, 0, time.UTC)
			cells, want = append(cells, at.Format(layout)), append(want, at.Format(time.DateOnly))
		}
		v := datesOf(cells...)
		require.NotEqual(t, No, v.Answer, "%q: %v", cells, v.Because)
		if v.Answer == Ask {
			require.Contains(t, v.Forms, form, "%q", cells)
		}
		for i, cell := range cells {
			got, ok := form.ISO(cell, true)
			require.True(t, ok, cell)
			require.Equal(t, want[i], got, cell)
		}
		if v.Answer == Sure {
			for i, cell := range cells {
				got, ok := v.Forms[0].ISO(cell, true)
				require.True(t, ok, cell)
				require.Equal(t, want[i], got, "%q", cells)
			}
		}
	})
}

func numbersOf(cells ...string) NumberVerdict {
	c := NewNumbers()
	for i, cell := range cells {
		c.Look(i+2, cell)
	}
	return c.Verdict()
}

func TestEveryFormOfNumber(t *testing.T) {
	for text, want := range map[string][2]string{ // with a decimal point, and with a comma
		"12": {"12", "12"}, "12.5": {"12.5", ""}, "12,5": {"", "12.5"}, "1.234": {"1.234", "1234"}, "1,234": {"1234", "1.234"},
		"1.234,50": {"", "1234.50"}, "1,234.50": {"1234.50", ""},
		"1.234.567": {"", "1234567"}, "1234.567": {"1234.567", ""}, "0.250": {"0.250", ""}, "0,250": {"", "0.250"},
		"1 234,5": {"", "1234.5"}, "1'234.50": {"1234.50", ""}, "1\u00a0234": {"1234", "1234"},
		"(9.00)": {"-9.00", ""}, "9.00-": {"-9.00", ""}, "+9": {"9", "9"}, "-9,5": {"", "-9.5"}, "€ 9,50": {"", "9.50"},
		"9.50 EUR": {"9.50", ""}, "USD-9": {"-9", "-9"}, "$(9.00)": {"", ""}, "12 34": {"", ""},
		".5": {"0.5", ""}, "5.": {"", ""}, "1,23,456": {"", ""}, "x": {"", ""}, "": {"", ""}, "1e5": {"", ""}, "-(5)": {"", ""},
		"12.345.67": {"", ""}, "007": {"007", "007"},
	} {
		require.Equal(t, want, [2]string{Point.Decimal(text), Comma.Decimal(text)}, text)
	}
	for _, tt := range []struct {
		cells   []string
		answer  Answer
		form    NumberForm
		example string
	}{
		{[]string{"1.234", "5"}, Ask, 0, "1.234 is 1.234 or 1234"}, {[]string{"1.234", "0.5"}, Sure, Point, ""},
		{[]string{"1.234", "1,5"}, Sure, Comma, ""}, {[]string{"1.5", "1,5"}, No, 0, ""},
		{[]string{"1", "2"}, Sure, Point, ""}, {nil, Sure, Point, ""}, {[]string{"n/a", "1,5"}, Sure, Comma, ""},
	} {
		v := numbersOf(tt.cells...)
		require.Equal(t, []any{tt.answer, tt.form, tt.example}, []any{v.Answer, v.Form, v.Example}, "%q", tt.cells)
	}
}

// Whatever numbers a column holds, in whatever form: they come as they are, or are asked.
func TestAColumnOfNumbersIsRightOrAsked(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		form := rapid.SampledFrom([]NumberForm{Point, Comma}).Draw(t, "form")
		grouped := rapid.Bool().Draw(t, "grouped")
		decimals := rapid.IntRange(0, 3).Draw(t, "decimals")
		mark, thousands := ".", ","
		if form == Comma {
			mark, thousands = thousands, mark
		}
		var cells, want []string
		for range rapid.IntRange(1, 10).Draw(t, "cells") {
			n := rapid.Int64Range(-10_000_000, 10_000_000).Draw(t, "number")
			plain := big.NewRat(n, []int64{1, 10, 100, 1000}[decimals]).FloatString(decimals)
			whole, fraction, _ := strings.Cut(strings.TrimPrefix(plain, "-"), ".")
			if grouped {
				for i := len(whole) - 3; i > 0; i -= 3 {
					whole = whole[:i] + thousands + whole[i:]
				}
			}
			text := whole
			if decimals > 0 {
				text += mark + fraction
			}
			if n < 0 {
				text = rapid.SampledFrom([]string{"-" + text, text + "-", "(" + text + ")"}).Draw(t, "negative")
			}
			cells, want = append(cells, text), append(want, plain)
		}
		v := numbersOf(cells...)
		require.NotEqual(t, No, v.Answer, "%q", cells)
		if v.Answer == Sure {
			for i, cell := range cells {
				got, _ := new(big.Rat).SetString(v.Form.Decimal(cell))
				expected, _ := new(big.Rat).SetString(want[i])
				require.Zero(t, got.Cmp(expected), "%q: %v", cells, v)
			}
		}
	})
}

func FuzzRecognise(f *testing.F) {
	for _, seed := range []string{"4. Juli 2026", "04/07/26 2:30 pm", "1783175400000", "(1.234,50)-", "EUR 5", "T:", ":30",
		"2026-07-04T14:30+0200"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, form := range datesOf(text).Forms {
			if iso, ok := form.ISO(text, false); ok {
				again := datesOf(iso)
				require.Equal(t, []any{Sure, true}, []any{again.Answer, again.Plain}, "%q is %q", text, iso)
			}
		}
		for form := range numberForms {
			if plain := form.Decimal(text); plain != "" {
				require.Equal(t, plain, Point.Decimal(plain), text)
			}
		}
	})
}
