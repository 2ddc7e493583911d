package money

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestDecimalsFollowTheCurrency(t *testing.T) {
	for code, want := range map[string]int{"EUR": 2, "OMR": 3, "JPY": 0, "": 2} {
		got, err := Decimals(code)
		require.NoError(t, err)
		assert.Equal(t, want, got, code)
	}
	_, err := Decimals("Euros")
	assert.ErrorContains(t, err, "ISO 4217")
}

func TestWhatIsWrittenIsRead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		code := rapid.SampledFrom([]string{"EUR", "OMR", "JPY", ""}).Draw(t, "currency")
		decimals, err := Decimals(code)
		require.NoError(t, err)
		most := int64(math.Pow10(mostDigits+decimals)) - 1
		units := rapid.Int64Range(-most, most).Draw(t, "units")
		got, err := Parse(Format(units, code), decimals)
		require.NoError(t, err)
		require.Equal(t, units, got)
	})
	got, err := Parse("000999999999999.99", 2)
	require.NoError(t, err)
	assert.EqualValues(t, 99_999_999_999_999, got)
	_, err = Parse("-1000000000000", 0)
	assert.ErrorContains(t, err, "it is too large: at most 12 digits")
	assert.Equal(t, "-0.05", Format(-5, "EUR"))
	assert.Equal(t, "0.005", Format(5, "OMR"))
}
