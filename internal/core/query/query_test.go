package query

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/period"
)

// Each day of a stretch lies in one step, and the name of a step asks for the same days as a period.
func TestStepsCoverEveryDay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		first := day.Day(rapid.Int32Range(30000, 60000).Draw(t, "first"))
		days := day.Through(first, first+day.Day(rapid.Int32Range(0, 900).Draw(t, "days")))
		cut := TimeBucket(rapid.IntRange(int(Day), int(Year)).Draw(t, "cut"))
		names, spans := cut.Steps(days)
		require.Len(t, names, len(spans))
		require.LessOrEqual(t, spans[0].From, days.From)
		require.GreaterOrEqual(t, spans[len(spans)-1].To, days.To)
		for i, s := range spans {
			if i > 0 {
				require.Equal(t, spans[i-1].To, s.From, "no day between two steps")
			}
			periods, err := period.Parse(names[i], period.Bounds{FirstDay: days.From, DataDate: days.LastDay()})
			require.NoError(t, err)
			require.Equal(t, s, periods[0].Span, names[i])
		}
		again, err := ParseCut(cut.String())
		require.NoError(t, err)
		require.Equal(t, cut, again)
	})
	_, err := ParseCut("fortnight")
	assert.ErrorContains(t, err, "want one of day, week, month, quarter, year")
}

// However many stretches there are, each is visited once.
func TestEveryStretchIsVisitedOnce(t *testing.T) {
	for stretches := 1; stretches < 700; stretches++ {
		seen := make([]bool, stretches)
		for nth := range stretches {
			at := scattered(nth, stretches)
			require.False(t, seen[at], "%d of %d", nth, stretches)
			seen[at] = true
		}
	}
}
