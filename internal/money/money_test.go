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
		units := rapid.Int64Range(-math.MaxInt64, math.MaxInt64).Draw(t, "units")
		decimals, err := Decimals(code)
		require.NoError(t, err)
		got, err := Parse(Format(units, code), decimals)
		require.NoError(t, err)
		require.Equal(t, units, got)
	})
	assert.Equal(t, "-0.05", Format(-5, "EUR"))
	assert.Equal(t, "0.005", Format(5, "OMR"))
}
