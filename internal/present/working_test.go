package present

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/demo/demobook"
)

// Every answer that can be checked shows its working, whose steps add up and open their orders.
func TestEveryAnswerShowsItsWorking(t *testing.T) {
	b := demobook.New(400)
	for _, analysis := range Checked() {
		d, err := new(Backlog).Ask(b, answer.Address(analysis+"?"), ToRead)
		require.NoError(t, err, analysis)
		Explain(d)
		if analysis == "took" {
			assert.NotContains(t, d.Parts[0].Table("working").Title, ":", "it has its own")
			continue
		}
		working := d.Parts[0].Table("working")
		if !assert.NotNil(t, working, analysis) {
			continue
		}
		assert.Greater(t, len(working.Title), 60, "%s has a rule", analysis)
		sum, steps := -1.0, 0
		for _, r := range working.Rows {
			if r.Cells[1].Number != nil {
				assert.LessOrEqual(t, sum, 0.0, "%s: what a step is made of adds up", analysis)
				sum, steps = *r.Cells[1].Number, steps+1
			} else {
				sum -= *r.Cells[3].Number
			}
		}
		assert.Zero(t, sum, analysis)
		assert.Positive(t, steps, analysis)
	}
}

// Of the kinds of orders that could change an answer those are named that do not occur, and no others.
func TestWhatOrdersDoNotTestIsSaid(t *testing.T) {
	b := demobook.New(400)
	for analysis := range cases {
		for _, period := range []string{"", "2026-07", "2026-10-31"} {
			d, err := new(Backlog).Ask(b, answer.Address(analysis+"?period="+period), ToRead)
			require.NoError(t, err, analysis)
			SayUntested(d)
			said := ""
			for _, n := range d.Parts[0].Notes {
				if n.Code == "untested" {
					said = n.Text + ";"
				}
			}
			for _, l := range d.Parts[0].Lines {
				for _, term := range l.Terms[1:] {
					if term.Orders > 0 {
						assert.NotContains(t, said, ": "+term.Label+";", "%s in %s", analysis, period)
						assert.NotContains(t, said, "; "+term.Label+";", "%s in %s", analysis, period)
					}
				}
			}
			if period == "2026-10-31" { // one day holds few kinds of orders
				assert.Greater(t, strings.Count(said, ";"), 1, analysis)
			}
		}
	}
}
