package forecast

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
	"prairiedusk/internal/core/period"
)

const first, last = day.Day(46000), day.Day(46203) // a Wednesday on

func index(name string) int { return milestone.Index(milestone.BuiltIn(), name) }

// made is a book of orders, whose identities are set here.
func made(t testing.TB, orders []book.Order) *book.Book {
	builder := book.NewBuilder(book.BuiltIn())
	for i, o := range orders {
		o.ID, o.Number = int64(i+1), fmt.Sprintf("N%d", i+1)
		builder.Put(o)
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	return builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: first, DataDate: last}})
}

func placed(site, place string, ordered, shipped, cancelled day.Day) book.Order {
	o := book.Order{Days: make([]day.Day, len(milestone.BuiltIn()))}
	o.Fields[book.Site], o.Fields[book.Place] = site, place
	o.Days[index("ordered")], o.Days[index("shipped")], o.Days[index("cancelled")] = ordered, shipped, cancelled
	return o
}

// Forecasts of an earlier day use nothing that was recorded for a later one: with any other future they are the same.
func TestForecastsUseNothingOfTheFuture(t *testing.T) {
	for seed := range uint64(20) {
		random := rand.New(rand.NewPCG(seed, 25))
		at := first + day.Day(60+random.IntN(100))
		var orders, others []book.Order
		for range 600 {
			ordered := first + day.Day(random.IntN(180))
			o := placed([]string{"Galway", "Muscat", ""}[random.IntN(3)], []string{"Cork", "Sohar"}[random.IntN(2)], ordered,
				ordered+day.Day(random.IntN(30)), 0)
			switch random.IntN(8) {
			case 0:
				o.Days[index("shipped")] = 0
			case 1:
				o.Days[index("cancelled")] = ordered + day.Day(random.IntN(20))
			}
			other := o
			other.Days = append([]day.Day(nil), o.Days...)
			for _, m := range []int{index("shipped"), index("cancelled")} {
				if other.Days[m] > at || other.Days[m] == 0 {
					other.Days[m] = []day.Day{0, at + 1, at + 1 + day.Day(random.IntN(90))}[random.IntN(3)]
				}
			}
			if other.Days[index("ordered")] > at {
				other.Days[index("ordered")] = at + 1
			}
			orders, others = append(orders, o), append(others, other)
		}
		x, y := made(t, orders), made(t, others)
		one, two := At(x, at), At(y, at)
		told := 0
		for row := range orders {
			on, by := one.Of(x.Blocks()[0], row)
			on2, by2 := two.Of(y.Blocks()[0], row)
			require.Equal(t, []any{on, by}, []any{on2, by2}, "seed %d, row %d", seed, row)
			if by != None {
				require.Greater(t, on, at)
				told++
			}
		}
		assert.Positive(t, told)
	}
}

// What is known of goods by now can tell another story of an earlier day than was known then: such orders have no part in it.
func TestBlurredOrdersHaveNoPart(t *testing.T) {
	o := placed("Galway", "Cork", first, first+5, 0)
	o.Lines = []parts.Line{{Number: "1", Units: parts.Quantity{Thousandths: 9000, Known: true}, CancelledOn: parts.Day{Day: first + 50}}}
	b := made(t, []book.Order{o, placed("Galway", "Cork", first, first+5, 0)})
	counted, shipped := map[route]*lengths{}, 0
	At(b, first+20).count(b.Blocks()[0], counted)
	for _, l := range counted {
		l.shipped.each(func(_ int, n uint32) { shipped += int(n) })
	}
	assert.Equal(t, 1, shipped)
	assert.False(t, At(b, last).blurred(b.Blocks()[0], 0), "of the data date all is known as it is")
}

// The nearest group with enough orders tells; of those that waited as long, half have shipped by the forecast.
func TestForecasts(t *testing.T) {
	var orders []book.Order
	add := func(n int, site, place string, days int) {
		for range n {
			orders = append(orders, placed(site, place, first, first+day.Day(days), 0)) // 7 days are 5 working days
		}
	}
	add(20, "Galway", "Cork", 7)
	add(20, "Galway", "Cork", 14)
	add(29, "Galway", "Ennis", 21)
	add(40, "Muscat", "Sohar", 28)
	ordered := last - 7
	for _, place := range [][2]string{{"Galway", "Cork"}, {"Galway", "Ennis"}, {"Muscat", "Nizwa"}, {"Nowhere", ""}} {
		orders = append(orders, placed(place[0], place[1], ordered, 0, 0))
	}
	orders = append(orders, placed("Galway", "Cork", last, 0, 0), placed("Galway", "Cork", first, 0, 0))
	b := Derive(made(t, orders))
	told := func(row int) string {
		text := ""
		for _, name := range []string{FieldForecast, FieldBy} {
			f, known := b.ParseField(name)
			require.True(t, known)
			text += b.Values(f)[b.Blocks()[0].Codes[f][row]] + " "
		}
		return text
	}
	at := len(orders) - 6
	for i, want := range []string{
		(ordered + 14).String() + " route ", // of 20 that had waited 5 days, all ship on the tenth
		(ordered + 21).String() + " site ",  // 29 are too few: of the site's 49 that wait longer, 29 take 15
		(ordered + 28).String() + " site ",
		(ordered + 21).String() + " all ", // of 89 that wait longer 49 have shipped by the fifteenth
		(last + 14).String() + " route ",  // with those that still wait, fewer than half ship on the fifth
		"  ",                              // nobody has waited so long
	} {
		assert.Equal(t, want, told(at+i), i)
	}
	assert.Equal(t, "  ", told(0), "it has shipped")
}
