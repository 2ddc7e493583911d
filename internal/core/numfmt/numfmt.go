// Package numfmt writes numbers as people read them, the same in every sentence, table and note.
package numfmt

import (
	"fmt"
	"strconv"
	"strings"
)

// Count writes a whole number with commas between thousands: "1,204".
func Count(n int) string { return Grouped(strconv.Itoa(n)) }

// Grouped puts commas between the thousands of a decimal number: "1,204.50".
func Grouped(decimal string) string {
	digits, negative := strings.CutPrefix(decimal, "-")
	whole, fraction, pointed := strings.Cut(digits, ".")
	for at := len(whole) - 3; at > 0; at -= 3 {
		whole = whole[:at] + "," + whole[at:]
	}
	return Either(negative, "-", "") + whole + Either(pointed, ".", "") + fraction
}

// Has is a number of things with its verb: "1 order has", "2 orders have".
func Has(n int, noun string) string {
	if n == 1 {
		return Counted(n, noun) + " has"
	}
	return Counted(n, noun) + " have"
}

// Counted writes a count with its noun, which takes an s for any number but one: "1 order", "1,204 orders".
func Counted(n int, noun string) string {
	if n != 1 {
		noun += "s"
	}
	return Count(n) + " " + noun
}

// Sentence begins words as a sentence begins.
func Sentence(words string) string {
	if words == "" {
		return ""
	}
	return strings.ToUpper(words[:1]) + words[1:]
}

// Decimal writes n of the given decimals, with commas between thousands; zeros at its end are left out down to the least
// number of decimals: Decimal(1234500, 4, 2) is "123.45".
func Decimal(n int64, decimals, least int) string {
	sign := ""
	if n < 0 {
		sign, n = "-", -n
	}
	digits := fmt.Sprintf("%0*d", decimals+1, n)
	whole, fraction := digits[:len(digits)-decimals], digits[len(digits)-decimals:]
	for len(fraction) > least && strings.HasSuffix(fraction, "0") {
		fraction = fraction[:len(fraction)-1]
	}
	count, _ := strconv.Atoi(whole)
	if fraction != "" {
		fraction = "." + fraction
	}
	return sign + Count(count) + fraction
}

// Percent is how much some are of all, with two decimals, half away from zero. 100.00 and 0.00 stand only for all and
// none: else "> 99.99" and "< 0.01". Of nothing it is "no orders".
func Percent(some, all int) string {
	switch {
	case all == 0:
		return "no orders"
	case some == 0:
		return "0.00"
	case some == all:
		return "100.00"
	}
	hundredths := (some*20000 + all) / (2 * all)
	switch {
	case hundredths == 0:
		return "< 0.01"
	case hundredths >= 10000:
		return "> 99.99"
	}
	return fmt.Sprintf("%d.%02d", hundredths/100, hundredths%100)
}

// Clipped is the beginning of a text that is longer than so many bytes.
func Clipped(text string, longest int) string {
	if len(text) <= longest {
		return text
	}
	return strings.ToValidUTF8(text[:longest], "") + "…"
}

// Either is one of two texts, by a condition.
func Either(condition bool, yes, no string) string {
	if condition {
		return yes
	}
	return no
}

// Agreeing is the form of a verb, or whatever words go with a number: "is" of 1, "are" of all others.
func Agreeing[N ~int | ~int64](n N, one, others string) string {
	return Either(n == 1, one, others)
}
