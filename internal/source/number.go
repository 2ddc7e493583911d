package source

import (
	"math/big"
	"strings"
)

// plain writes a number of a program without an exponent, where it has one that people would have written out.
func plain(number string) string {
	if !strings.ContainsAny(number, "eE") {
		return number
	}
	value, exact := new(big.Rat).SetString(number)
	if !exact {
		return number
	}
	const most = 30 // decimals; a number of more says what it is better as it stands
	text := value.FloatString(most)
	if back, _ := new(big.Rat).SetString(text); back.Cmp(value) != 0 || len(text) > 2*most+20 {
		return number
	}
	return strings.TrimRight(strings.TrimRight(text, "0"), ".")
}
