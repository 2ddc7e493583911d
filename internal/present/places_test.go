package present

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/period"
)

// placesBook has orders to places, of lengths in days, in any order: Newport is in two regions, one of which the list of places knows.
func placesBook(t *testing.T, random *rand.Rand) *book.Book {
	var orders []book.Order
	put := func(place, country, region string, lengths ...int) {
		for i, length := range lengths {
			o := book.Order{Number: fmt.Sprint(place, region, i), Days: make([]day.Day, len(milestone.BuiltIn()))}
			o.Fields[book.Place], o.Fields[book.Country], o.Fields[book.Region], o.Fields[book.Site] = place, country, region, "Galway"
			o.Days[milestone.Index(milestone.BuiltIn(), milestone.Ordered)] = 46000
			if length >= 0 {
				o.Days[milestone.Index(milestone.BuiltIn(), milestone.Shipped)] = 46000 + day.Day(length)
			}
			orders = append(orders, o)
		}
	}
	repeated := func(length, n int) (lengths []int) {
		for range n {
			lengths = append(lengths, length)
		}
		return lengths
	}
	put("Newport", "Ireland", "Mayo", repeated(4, 12)...)
	put("Newport", "Ireland", "Tipperary", append(repeated(9, 11), -1, -1)...)
	put("Ennis", "Ireland", "", repeated(6, 10)...)
	put("Cork", "Ireland", "", repeated(19, 9)...) // too few to be the worst
	put("", "Ireland", "", repeated(2, 3)...)
	put("Sligo", "Ireland", "", -1)
	random.Shuffle(len(orders), func(i, j int) { orders[i], orders[j] = orders[j], orders[i] })
	builder := book.NewBuilder(book.BuiltIn())
	for i, o := range orders {
		o.ID = int64(i + 1)
		builder.Put(o)
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	return builder.Finish(book.Settings{Calendars: calendars, Bounds: period.Bounds{FirstDay: 46000, DataDate: 46020},
		Places: []book.PlaceRecord{
			{Place: "Newport", Country: "Ireland", Region: "Mayo", At: &book.Coordinates{Latitude: 53.88, Longitude: -9.55}},
			{Place: "Newport", Country: "Ireland", Region: "Tipperary"},
			{Place: "Ennis", Country: "Ireland", Region: "Clare", At: &book.Coordinates{Latitude: 52.84, Longitude: -8.98}}}})
}

// Two places of one name stay two, few orders are never the worst, places that nobody can find stand beside the map, all is as took has
// it, and nothing depends on the order of the records.
func TestPlaces(t *testing.T) {
	var first *answer.Document
	for seed := range uint64(5) {
		b := placesBook(t, rand.New(rand.NewPCG(seed, 1)))
		ask := func(question answer.Address) *answer.Document {
			d, err := new(Backlog).Ask(b, question, ToRead)
			require.NoError(t, err)
			return d
		}
		d := ask("places?in=days")
		if first == nil {
			first = d
		}
		require.Equal(t, first, d, "whatever the order of the records")
		var rows []string
		table := d.Parts[0].Table("places")
		for _, r := range append(table.Rows, table.Totals...) {
			text := ""
			for _, c := range []string{"rank", "place", "orders", "n", "figure", "low", "high", "beside_all", "running", "latitude"} {
				text += r.Cells[table.At(c)].Text + "|"
			}
			rows = append(rows, text+fmt.Sprint(r.Remarks))
		}
		assert.Equal(t, []string{"1|Newport, Tipperary, Ireland|13|11|9.0|9.0|9.0|+3.0|2||[]", "2|Ennis|10|10|6.0|6.0|6.0|0.0|0|52.8400|[]",
			"3|Newport, Mayo, Ireland|12|12|4.0|4.0|4.0|-2.0|0|53.8800|[]", "|Cork|9|9|19.0|19.0|19.0|+13.0|0||[few]",
			"|(none)|3|3|2.0|||-4.0|0||[few]", "|Sligo|1|0|||||1||[]"}, rows[:6])
		assert.Equal(t, "|all|48|45|6.0|6.0|9.0||3||[]", rows[len(rows)-1])
		off := ""
		for _, r := range d.Parts[0].Table("off-map").Rows {
			off += r.Cells[0].Text + " " + r.Cells[1].Text + "; "
		}
		assert.Equal(t, "Newport, Tipperary, Ireland 13; Cork 9; (none) 3; Sligo 1; ", off)

		took := ask("took?in=days&by=place&show=median").Parts[0].Table("groups")
		assert.Equal(t, took.Totals[0].Cells[took.At("n")].Number, table.Totals[0].Cells[table.At("n")].Number)
		medians := map[string]string{}
		for _, r := range took.Rows {
			medians[r.Cells[0].Text] = r.Cells[took.At("median")].Text
		}
		for _, r := range table.Rows {
			assert.Equal(t, medians[r.Cells[table.At("place")].Text], r.Cells[table.At("figure")].Text)
		}
	}
}
