// Package money reads and writes values as exact counts of a currency's minor units.
package money

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"golang.org/x/text/currency"
)

// unstatedDecimals is used for a value without a currency.
const unstatedDecimals = 2

// Decimals is how many decimals a currency of ISO 4217 has; an empty code stands for a currency that is not
// stated. Errors here say why and what was expected; the text itself stands beside them, with whoever asked.
func Decimals(code string) (int, error) {
	if code == "" {
		return unstatedDecimals, nil
	}
	unit, err := currency.ParseISO(code)
	if err != nil {
		return 0, errors.New("not a currency; want a code of ISO 4217 such as EUR")
	}
	decimals, _ := currency.Standard.Rounding(unit)
	return decimals, nil
}

// mostDigits is how many digits may stand before the point: sums of many such numbers, in the smallest unit of any currency, still
// fit into 64 bits.
const mostDigits = 12

// Parse reads a plain decimal exactly, as minor units of a currency with so many decimals.
func Parse(text string, decimals int) (int64, error) {
	wrong := func(why string) error {
		return fmt.Errorf("not a value: %s; want a decimal number such as 1234.50", why)
	}
	digits, negative := strings.CutPrefix(text, "-")
	whole, fraction, _ := strings.Cut(digits, ".")
	if len(fraction) > decimals {
		if strings.TrimRight(fraction[decimals:], "0") != "" {
			return 0, wrong(fmt.Sprintf("it has more than the %d decimals of its currency", decimals))
		}
		fraction = fraction[:decimals]
	}
	units, err := strconv.ParseUint(whole+fraction+strings.Repeat("0", decimals-len(fraction)), 10, 64)
	switch {
	case whole == "" || strings.Trim(whole+fraction, "0123456789") != "":
		return 0, wrong("it is not digits with at most one point")
	case err != nil || len(strings.TrimLeft(whole, "0")) > mostDigits:
		return 0, wrong("it is too large: at most 12 digits can stand before the point")
	case negative:
		return -int64(units), nil
	}
	return int64(units), nil
}

// Format writes minor units as a decimal: what Parse reads. A currency that is not known has as many
// decimals as one that is not stated.
func Format(units int64, code string) string {
	decimals, err := Decimals(code)
	if err != nil {
		decimals = unstatedDecimals
	}
	sign := ""
	if units < 0 {
		sign = "-"
	}
	digits := fmt.Sprintf("%0*s", decimals+1, strings.TrimPrefix(strconv.FormatInt(units, 10), "-"))
	if decimals == 0 {
		return sign + digits
	}
	point := len(digits) - decimals
	return sign + digits[:point] + "." + digits[point:]
}
