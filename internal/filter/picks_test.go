package filter

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestConditionsComeBackAsPicks(t *testing.T) {
	b, _ := emptyBook(t)
	for _, tt := range []struct {
		text   string
		picks  []Pick
		joined string
	}{
		{`site == "Galway"`, []Pick{{"site", "text", "==", "Galway"}}, ""},
		{`site != "a" && paid == null && ordered >= "2026-07-01" && value > -12.5`, []Pick{{"site", "text", "!=", "a"},
			{"paid", "day", "missing", ""}, {"ordered", "day", ">=", "2026-07-01"}, {"value", "number", ">", "-12.5"}}, "&&"},
		{"hive_colour.startsWith(\"é\") ||\n 30 < working_days_so_far(ordered, shipped) || number != null",
			[]Pick{{"hive-colour", "text", "startsWith", "é"}, {"working_days_so_far(ordered, shipped)", "number", ">", "30"},
				{"number", "text", "not missing", ""}}, "||"},
		{`field("days") == "x"`, []Pick{{"days", "text", "==", "x"}}, ""},
		// What cannot be picked stays text.
		{`site == "a" && (paid == null || value > 1)`, nil, ""},
		{`!(site == "a")`, nil, ""},
		{`site in ["a", "b"]`, nil, ""},
		{`shipped > promised`, nil, ""},
		{`promised < data_date`, nil, ""},
		{`lines.exists(l, l.units > 1)`, nil, ""},
		{`working_days(ordered, shipped, "both-ends") > 1`, nil, ""},
		{`part_paid`, nil, ""},
	} {
		picks, joined, err := Picks(b, tt.text)
		require.NoError(t, err, tt.text)
		assert.Equal(t, tt.picks, picks, tt.text)
		assert.Equal(t, tt.joined, joined, tt.text)
	}
	_, _, err := Picks(b, "shiped == null")
	assert.ErrorContains(t, err, "did you mean shipped?")
}
