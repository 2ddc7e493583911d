package intake

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"golang.org/x/text/currency"
)

// currencies remembers the ISO 4217 codes seen so far and how many decimals each has.
type currencies struct {
	decimals map[string]int
}

// unstatedDecimals is used for a value without a currency.
const unstatedDecimals = 2

// code checks a currency code and gives it in capitals.
func (c *currencies) code(text string) (string, error) {
	if _, known := c.decimals[text]; known {
		return text, nil
	}
	unit, err := currency.ParseISO(text)
	if err != nil {
		return "", fmt.Errorf("%q is no currency; want a code of ISO 4217 such as EUR", text)
	}
	if c.decimals == nil {
		c.decimals = map[string]int{}
	}
	code := unit.String()
	c.decimals[code], _ = currency.Standard.Rounding(unit)
	return code, nil
}

// minorUnits reads a plain decimal exactly.
func (c *currencies) minorUnits(text, code string) (int64, error) {
	decimals := unstatedDecimals
	if code != "" {
		decimals = c.decimals[code]
	}
	wrong := func(why string) error {
		return fmt.Errorf("%q is no value: %s; want a decimal number such as 1234.50", text, why)
	}
	digits, negative := strings.CutPrefix(text, "-")
	whole, fraction, _ := strings.Cut(digits, ".")
	if len(fraction) > decimals {
		if rest := strings.TrimRight(fraction[decimals:], "0"); rest != "" {
			return 0, wrong(fmt.Sprintf("it has more than the %d decimals of %s", decimals, orUnstated(code)))
		}
		fraction = fraction[:decimals]
	}
	units, err := strconv.ParseUint(whole+fraction+strings.Repeat("0", decimals-len(fraction)), 10, 64)
	switch {
	case whole == "" || err != nil && strings.Trim(whole+fraction, "0123456789") != "":
		return 0, wrong("it is not digits with at most one point")
	case err != nil || units > math.MaxInt64:
		return 0, wrong("it is too large")
	case negative:
		return -int64(units), nil
	}
	return int64(units), nil
}

func orUnstated(code string) string {
	if code == "" {
		return "a value without a currency"
	}
	return code
}
