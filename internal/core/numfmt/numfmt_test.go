package numfmt_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"prairiedusk/internal/core/numfmt"
)

func TestCount(t *testing.T) {
	for n, want := range map[int]string{0: "0", 999: "999", 1000: "1,000", 1234567: "1,234,567", -100: "-100", -12345: "-12,345"} {
		assert.Equal(t, want, numfmt.Count(n))
	}
	assert.Equal(t, "1 order", numfmt.Counted(1, "order"))
	assert.Equal(t, "1,204 orders", numfmt.Counted(1204, "order"))
	assert.Equal(t, []string{"", "All orders", "67 still running", "`shipped` before"},
		[]string{numfmt.Sentence(""), numfmt.Sentence("all orders"), numfmt.Sentence("67 still running"),
			numfmt.Sentence("`shipped` before")})
}

func TestWordsThatGoWithNumbers(t *testing.T) {
	assert.Equal(t, []string{"are", "is", "are"}, []string{numfmt.Agreeing(0, "is", "are"), numfmt.Agreeing(1, "is", "are"),
		numfmt.Agreeing(int64(2), "is", "are")})
	assert.Equal(t, []string{"abc", "ab…", "ü…"}, []string{numfmt.Clipped("abc", 3), numfmt.Clipped("abc", 2), numfmt.Clipped("üü", 3)},
		"whole characters")
}

func TestDecimal(t *testing.T) {
	for _, tt := range []struct {
		n               int64
		decimals, least int
		want            string
	}{
		{0, 0, 0, "0"}, {0, 2, 2, "0.00"}, {5, 3, 0, "0.005"}, {1234500, 4, 2, "123.45"}, {1230000, 4, 2, "123.00"}, {1230000, 4, 0, "123"},
		{-123456789, 2, 2, "-1,234,567.89"}, {-5, 1, 1, "-0.5"}, {1500, 3, 3, "1.500"}, {12, 0, 2, "12"},
	} {
		assert.Equal(t, tt.want, numfmt.Decimal(tt.n, tt.decimals, tt.least), "%+v", tt)
	}
}

func TestPercent(t *testing.T) {
	for _, tt := range []struct {
		some, all int
		want      string
	}{{2, 7, "28.57"}, {1, 32, "3.13"}, {25, 115, "21.74"}, {25, 120, "20.83"}, {30, 120, "25.00"}, {0, 5, "0.00"}, {5, 5, "100.00"},
		{1, 100_000, "< 0.01"}, {99_999, 100_000, "> 99.99"}, {0, 0, "no orders"}, {1, 800, "0.13"}} {
		assert.Equal(t, tt.want, numfmt.Percent(tt.some, tt.all), "%d of %d", tt.some, tt.all)
	}
}
