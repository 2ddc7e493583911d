package forecast

import (
	"math/rand/v2"
	"testing"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
)

// BenchmarkDerive tells forecasts of a book of 1.5 million orders, beside one look at each order's days.
func BenchmarkDerive(b *testing.B) {
	orders := 1_500_000
	if testing.Short() {
		orders = 3_000
	}
	random := rand.New(rand.NewPCG(1, 1))
	all := make([]book.Order, orders)
	places := make([]string, 5000)
	for i := range places {
		places[i] = string(rune('A'+i%26)) + string(rune('a'+i/26%26)) + string(rune('a'+i/676))
	}
	for i := range all {
		ordered := first + day.Day(random.IntN(200))
		shipped := ordered + day.Day(random.IntN(20))
		if shipped > last {
			shipped = 0
		}
		all[i] = placed([]string{"Galway", "Muscat"}[i%2], places[random.IntN(len(places))], ordered, shipped, 0)
	}
	made := made(b, all)
	b.Run("forecasts", func(b *testing.B) {
		for b.Loop() {
			Derive(made)
		}
	})
	b.Run("bare loop", func(b *testing.B) {
		counts := make([]int, 64)
		for b.Loop() {
			for _, block := range made.Blocks() {
				ordered, shipped := block.Columns[index(milestone.Ordered)].Known, block.Columns[index(milestone.Shipped)].Known
				for row := range ordered {
					counts[(shipped[row]-ordered[row])&63]++
				}
			}
		}
	})
}
