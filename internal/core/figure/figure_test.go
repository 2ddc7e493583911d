package figure_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"prairiedusk/internal/core/figure"
)

func TestCount(t *testing.T) {
	for n, want := range map[int]string{0: "0", 999: "999", 1000: "1,000", 1234567: "1,234,567", -100: "-100", -12345: "-12,345"} {
		assert.Equal(t, want, figure.Count(n))
	}
	assert.Equal(t, "1 order", figure.Counted(1, "order"))
	assert.Equal(t, "1,204 orders", figure.Counted(1204, "order"))
}
