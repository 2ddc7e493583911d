package label

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/predicate"
)

// The first condition that holds gives the text; one that is undecided before it leaves the text for what is missing,
// which is not the rest. Over several chunks, whatever the texts.
func TestLabelsAgreeWithDecidingOrderByOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		builder, seed := book.NewBuilder(book.BuiltIn()), rapid.Uint32().Draw(t, "seed")
		orders := rapid.SampledFrom([]int{0, 1, 7, predicate.Chunk, predicate.Chunk + 3}).Draw(t, "orders")
		values := make([]int64, orders) // negative: no value is known
		for id := range orders {
			seed = seed*1664525 + 1013904223
			values[id] = int64(seed>>24)%6 - 1
			builder.Put(book.Order{ID: int64(id), Number: fmt.Sprint(id), Days: make([]day.Day, len(milestone.BuiltIn())),
				Value: values[id], Valued: values[id] >= 0})
		}
		calendars, err := book.NewCalendars(nil)
		require.NoError(t, err)
		b := builder.Finish(book.Settings{Calendars: calendars})

		text := rapid.SampledFrom([]string{"", "low", "high", "none"})
		l := Label{Name: "price", Rest: text.Draw(t, "rest"), Missing: text.Draw(t, "missing")}
		var bounds []int64
		var known []bool
		for range rapid.IntRange(0, 3).Draw(t, "rules") {
			bound := rapid.Int64Range(0, 5).Draw(t, "bound")
			when := predicate.Condition(predicate.Compare{Operator: predicate.Less, X: predicate.Value{},
				Y: predicate.Literal{Kind: predicate.OfNumber, Number: float64(bound)}})
			if isNull := rapid.Bool().Draw(t, "is missing"); isNull {
				when, known = predicate.Compare{Operator: predicate.Equal, X: predicate.Value{}, Y: predicate.Literal{}},
					append(known, true)
			} else {
				known = append(known, false)
			}
			bounds = append(bounds, bound)
			l.Rules = append(l.Rules, Rule{when, text.Draw(t, "text")})
		}
		labelled := Apply(b, l, func(string) int { return 0 })
		field, found := labelled.ParseField("price")
		require.True(t, found)
		counts := map[string]int{}
		for row, value := range values {
			want := l.Rest
		rules:
			for r := range l.Rules {
				switch {
				case known[r] && value < 0, !known[r] && value >= 0 && value < bounds[r]:
					want = l.Rules[r].Text
					break rules
				case !known[r] && value < 0:
					want = l.Missing
					break rules
				}
			}
			require.Equal(t, want, labelled.Text(field, row), "value %d of row %d", value, row)
			counts[want]++
		}
		listed := 0
		for _, c := range Counts(labelled, l) {
			require.Equal(t, counts[c.Text], c.Orders, c.Text)
			listed += c.Orders
		}
		require.Equal(t, orders, listed)
		_, leaked := b.ParseField("price")
		require.False(t, leaked, "the book itself stays as it is")
	})
}
