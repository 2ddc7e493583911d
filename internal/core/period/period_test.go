package period

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/day"
)

func bounds(t *testing.T) Bounds {
	first, err := day.Parse("2025-01-01")
	require.NoError(t, err)
	data, err := day.Parse("2026-10-31")
	require.NoError(t, err)
	return Bounds{first, data}
}

func TestParseReadsEveryForm(t *testing.T) {
	for _, tt := range []struct{ text, days string }{
		{"2026", "2026-01-01 to 2026-12-31"},
		{"2026-Q3", "2026-07-01 to 2026-09-30"},
		{"2026-07", "2026-07-01 to 2026-07-31"},
		{"2024-02", "2024-02-01 to 2024-02-29"},
		{"2026-W31", "2026-07-27 to 2026-08-02"},
		{"2026-W53", "2026-12-28 to 2027-01-03"},
		{"2025-W01", "2024-12-30 to 2025-01-05"},
		{"2026-07-20", "2026-07-20 to 2026-07-20"},
		{"2026-07-06/2026-08-02", "2026-07-06 to 2026-08-02"},
		{"this-week", "2026-10-26 to 2026-11-01"},
		{"last-week", "2026-10-19 to 2026-10-25"},
		{"this-month", "2026-10-01 to 2026-10-31"},
		{"last-month", "2026-09-01 to 2026-09-30"},
		{"this-quarter", "2026-10-01 to 2026-12-31"},
		{"last-quarter", "2026-07-01 to 2026-09-30"},
		{"last-year", "2025-01-01 to 2025-12-31"},
		{"last-90-days", "2026-08-03 to 2026-10-31"},
		{"last-1-days", "2026-10-31 to 2026-10-31"},
		{"last-46325-days", "1900-01-01 to 2026-10-31"},
		{"", "2025-01-01 to 2026-10-31"},
	} {
		got, err := Parse(tt.text, bounds(t))
		if assert.NoErrorf(t, err, "Parse(%q)", tt.text) {
			assert.Equalf(t, tt.days, got[0].Days(), "Parse(%q)", tt.text)
			assert.Equal(t, tt.text == "", got[0].Unbounded())
		}
	}
}

func TestSeveralPeriodsStaySeveral(t *testing.T) {
	got, err := Parse("2026-02, 2026-04", bounds(t))
	require.NoError(t, err)
	require.Len(t, got, 2)
	assert.Equal(t, "2026-02-01 to 2026-02-28", got[0].Days())
	assert.Equal(t, "2026-04-01 to 2026-04-30", got[1].Days())
}

func TestParseRefusesWithAReason(t *testing.T) {
	for _, tt := range []struct{ text, reason string }{
		{"07", "does not say of which year"},
		{"July", "does not say of which year"},
		{"Q3", "does not say of which year"},
		{"2026-08-02/2026-07-06", "before it starts"},
		{"2026-13", "no month 13"},
		{"2026-Q5", "Q1 to Q4"},
		{"2025-W53", "2025 has no week 53"},
		{"2026-02-30/2026-03-01", "no day 30"},
		{"2026-02,", "nothing between"},
		{"2250", "leaves the supported days"},
		{"1899-W52", "leaves the supported days"},
		{"last-0-days", "at least 1"},
		{"last-99999-days", "within the supported"},
		{"soon", "none of the known forms"},
	} {
		_, err := Parse(tt.text, bounds(t))
		var refused *Error
		require.ErrorAsf(t, err, &refused, "Parse(%q)", tt.text)
		assert.Containsf(t, err.Error(), tt.reason, "Parse(%q)", tt.text)
		assert.Contains(t, err.Error(), "2026-Q3", "an example helps")
	}
}

func TestPartSaysHowTheBookCutsAPeriod(t *testing.T) {
	for _, tt := range []struct{ text, part string }{
		{"2026-07", ""},
		{"2026-10", ""},
		{"2026", "the records end on 2026-10-31"},
		{"2024-12-01/2025-01-31", "the records begin on 2025-01-01"},
		{"2024-12-01/2026-11-01", "from 2025-01-01 to 2026-10-31"},
		{"2027", "not in the book"},
		{"2024", "not in the book"},
		{"2024-12-31", "not in the book"},
		{"2025-01-01", ""},
		{"2024-12-31/2025-01-01", "the records begin on 2025-01-01"},
		{"2026-10-31", ""},
		{"2026-10-31/2026-11-01", "the records end on 2026-10-31"},
		{"2026-11-01", "not in the book"},
	} {
		got, err := Parse(tt.text, bounds(t))
		require.NoError(t, err)
		if tt.part == "" {
			assert.Emptyf(t, got[0].Part(bounds(t)), "Part of %q", tt.text)
			continue
		}
		assert.Containsf(t, got[0].Part(bounds(t)), tt.part, "Part of %q", tt.text)
	}
}

func TestOfferedPeriodsCoverTheBook(t *testing.T) {
	b := Bounds{FirstDay: day.Of(2025, 11, 20), DataDate: day.Of(2026, 4, 2)}
	offered := Offered(b)
	assert.Equal(t, []string{"2026", "2025", "2026-Q2", "2026-Q1", "2025-Q4", "2026-04", "2026-03", "2026-02", "2026-01", "2025-12",
		"2025-11"}, offered[10:])
	for _, text := range offered {
		_, err := Parse(text, b)
		assert.NoError(t, err)
	}
	assert.Len(t, Offered(Bounds{}), 10, "an empty book offers no year")
}
