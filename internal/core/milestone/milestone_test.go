package milestone_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
)

// A milestone with a stand-in is told by its name alone, also where a milestone of the user's own has one like it.
func TestStandInsByName(t *testing.T) {
	all := append(milestone.BuiltIn(), milestone.Milestone{Name: "packed-or-picked"}, milestone.Milestone{Name: "packed"})
	for _, tt := range []struct {
		name        string
		of, standIn string
		is          bool
	}{
		{"invoiced-or-shipped", "invoiced", "shipped", true},
		{"packed-or-picked-or-shipped", "packed-or-picked", "shipped", true},
		{"promised-or-requested", "promised", "requested", true},
		{"packed-or-picked", "", "", false}, // it is a milestone itself, and nothing is called picked
		{"invoiced-or-invoiced", "", "", false},
		{"invoiced-or-", "", "", false},
		{"-or-shipped", "", "", false},
		{"invoiced", "", "", false},
	} {
		of, standIn, is := milestone.Pair(all, tt.name)
		assert.Equal(t, tt.is, is, tt.name)
		if is {
			assert.Equal(t, []string{tt.of, tt.standIn}, []string{all[of].Name, all[standIn].Name}, tt.name)
			made := milestone.WithStandIn(all[of], all[standIn])
			assert.Equal(t, tt.name, made.Name)
			assert.Equal(t, tt.of, made.Base())
			assert.Equal(t, tt.of+" (or "+tt.standIn+" where that is missing)", made.Words())
			assert.Equal(t, all[of].Plan, made.Plan)
		}
	}
	shipped := all[milestone.Index(all, milestone.Shipped)]
	assert.Equal(t, []string{"shipped", "shipped"}, []string{shipped.Base(), shipped.Words()})

	// What a stand-in completes keeps its rules: an invoice can come before what it is for.
	invoiced := milestone.WithStandIn(all[milestone.Index(all, milestone.Invoiced)], shipped)
	delivered := all[milestone.Index(all, milestone.Delivered)]
	assert.True(t, leg.Leg{From: delivered, To: invoiced}.TwoWay())
	assert.False(t, leg.Leg{From: all[0], To: invoiced}.TwoWay(), "nothing comes before it was ordered")
	assert.False(t, leg.Leg{From: shipped, To: milestone.WithStandIn(delivered, shipped)}.TwoWay())
}
