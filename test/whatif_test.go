package test

import (
	"net/url"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
)

// What would be stands beside what is, labels are told by it too, and nothing of it stays.
func TestWhatIf(t *testing.T) {
	s, _ := demoService(t)
	_, err := s.SaveLabel(t.Context(), "speed", api.LabelDefinition{Rules: []api.LabelRule{{Where: "working_days(ordered, shipped) > 3", Text: "slow"}}}, false)
	require.NoError(t, err)
	ask := func(path string, words url.Values) *answer.Document {
		d, err := s.Answer(t.Context(), path, words)
		require.NoError(t, err, words)
		d.Version = 0
		return d
	}
	plain := ask("/took", url.Values{"by": {"speed"}})
	supposed := ask("/took", url.Values{"by": {"speed"}, "what_if": {"week Galway=Mon", "week Hamilton=Mon"}})
	slow := func(d *answer.Document) float64 {
		table := d.Parts[0].Table("groups")
		for _, r := range table.Rows {
			if r.Cells[0].Text == "slow" {
				return *r.Cells[table.At("n")].Number
			}
		}
		return 0
	}
	assert.Less(t, slow(supposed), slow(plain), "a label is told by what is supposed")
	assert.Equal(t, "Supposing: week Galway=Mon; week Hamilton=Mon. Nothing of it is saved.", supposed.Parts[0].Notes[0].Text)
	assert.Equal(t, plain, ask("/took", url.Values{"by": {"speed"}}), "nothing of it stays")

	d := ask("/two-ways", url.Values{"first": {"took?by=site"}, "second": {"took?by=site&what_if=cut-off+Galway%3D16:00"}})
	assert.Contains(t, d.Sentence[0].Text, "by what is or what would be with cut-off Galway=16:00")
	differ := d.Parts[0].Table("orders")
	require.Positive(t, differ.All)
	for _, r := range differ.Rows {
		assert.Contains(t, r.Cells[1].Text, "Galway: ")
	}
	d = ask("/two-ways", url.Values{"first": {"places?to=delivered"}, "second": {"places?to=delivered&what_if=site+Cork%3DMuscat"}})
	assert.Positive(t, d.Parts[0].Table("orders").All)
	_, err = s.Answer(t.Context(), "/took", url.Values{"what_if": {"week Galway=Mon"}, "as_of_load": {"1"}})
	assert.ErrorContains(t, err, "not as they were")
	_, err = s.Answer(t.Context(), "/second-opinion", url.Values{"question": {"took?"}, "what_if": {"week Galway=Mon"}})
	assert.ErrorContains(t, err, "a statement reads the records as they are")

	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/check?kind=whatif&question="+url.QueryEscape("took?by=site&period=2026-Q3")+"&what_if="+url.QueryEscape("cut-off Galway=16:00")))
	b.text(test("result"), "cut-off Galway=16:00")
	b.text(test("supposed"), "cut-off Galway=16:00")
	assert.Empty(t, b.wentWrong())
}
