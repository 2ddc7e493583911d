package filter

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/predicate"
	"prairiedusk/internal/core/request"
)

func emptyBook(t *testing.T) (*book.Book, duration.Question) {
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	b := book.NewBuilder(layout).Finish(book.Settings{Calendars: calendars})
	q, err := duration.Parse(b, duration.Request{})
	require.NoError(t, err)
	return b, q
}

func TestColumnsOfAList(t *testing.T) {
	b, q := emptyBook(t)
	columns, err := ParseColumns(b, q, `number, hive-colour as "Colour, \"of\" hive" wide 120, working_days_so_far(ordered, shipped, "both-ends") as "Days, so far", lines.line-value, lines, shipped == null, length, lines.exists(l, l.units > 1) wide 60`)
	require.NoError(t, err)
	number, colour := list.Column{Text: "number", Heading: "number", Operand: predicate.Number{}},
		list.Column{Text: "hive-colour", Heading: `Colour, "of" hive`, Own: true, Width: 120, Operand: predicate.Field("hive-colour")}
	assert.Equal(t, []list.Column{number, colour}, columns[:2])
	assert.Equal(t, "Days, so far", columns[2].Heading)
	assert.Equal(t, predicate.Length{Leg: q.Leg, Measure: leg.Measure{Unit: leg.WorkingDays, Rule: leg.BothEnds}, SoFar: true},
		columns[2].Operand)
	assert.Equal(t, predicate.PartColumn{Of: book.Lines, Name: "line-value"}, columns[3].Operand)
	assert.Equal(t, predicate.Count{Of: book.Lines}, columns[4].Operand)
	assert.NotNil(t, columns[5].Condition)
	assert.Equal(t, "order date → ship date, working days, start day not counted", columns[6].Heading)
	assert.Equal(t, []any{60, "lines.exists(l, l.units > 1)"}, []any{columns[7].Width, columns[7].Text})

	keys, err := ParseSort(b, q, columns, `-Days, so far,number`)
	assert.ErrorContains(t, err, `"Days" is not a key to sort by`, "a heading with a comma sorts by its text")
	assert.Empty(t, keys)
	keys, err = ParseSort(b, q, columns, `-working_days_so_far(ordered, shipped, "both-ends"),value,-lines`)
	require.NoError(t, err)
	assert.Equal(t, []bool{true, false, true}, []bool{keys[0].Descending, keys[1].Descending, keys[2].Descending})
	assert.Equal(t, columns[2], keys[0].Column)

	highlights, err := ParseHighlights(b, columns, []string{`amber: promised < data_date && shipped == null`,
		`teal on Colour, "of" hive: site == "a: b"`, `faint on length: cancelled != null`})
	require.NoError(t, err)
	assert.Equal(t, []int{-1, 1, 6}, []int{highlights[0].Column, highlights[1].Column, highlights[2].Column})
	assert.Equal(t, `site == "a: b"`, highlights[1].Where)
}

func TestColumnsThatAreRefused(t *testing.T) {
	b, q := emptyBook(t)
	for text, want := range map[string]string{
		`colour`:                     `"colour" is no column: line 1, column 1: there is no field, date or number "colour"`,
		`number,,site`:               "a column is empty",
		`site, site`:                 `two columns are headed "site"`,
		`site as "x", number as "x"`: `two columns are headed "x"`,
		`site as ""`:                 "is no heading",
		`lines.colour`:               `lines have no "colour"; want one of line, product`,
		`"fixed"`:                    "the same for every order",
		`site ==`:                    "the condition stops too early",
	} {
		_, err := ParseColumns(b, q, text)
		var refused *request.Error
		require.ErrorAs(t, err, &refused, text)
		assert.ErrorContains(t, err, want)
	}
	_, err := ParseSort(b, q, nil, "site,-site")
	assert.ErrorContains(t, err, `"site" stands twice`)
	for text, want := range map[string]string{
		"red: shipped == null":             "want one of amber, teal, plum, faint",
		"amber on promised: true":          `the list has no column "promised"`,
		"amber: shiped == null":            "did you mean shipped?",
		"amber shipped == null or so":      "then a colon and a condition",
		"amber: working_days(ordered) > 1": "working_days takes two dates",
	} {
		_, err := ParseHighlights(b, nil, []string{text})
		assert.ErrorContains(t, err, want, text)
	}
}

// Columns that are written out as they were understood, headings and widths and all, are understood as the same again.
func TestColumnsComeBackAsTheyWereWritten(t *testing.T) {
	b, q := emptyBook(t)
	texts := []string{"number", "site", "hive-colour", "length", "state", "lines", "lines.units", "shipments.carrier", `site == "a, b"`,
		`lines.exists(l, l.product in ["x", "y"])`,
		`working_days_so_far(ordered, shipped, "both-ends")`, `field("days")`, `customer.matches("[)(,]")`, "paid == null", "value",
		"quality-check"}
	rapid.Check(t, func(t *rapid.T) {
		var pieces []string
		for _, text := range rapid.SliceOfNDistinct(rapid.SampledFrom(texts), 1, 6, rapid.ID).Draw(t, "columns") {
			if rapid.Bool().Draw(t, "headed") {
				text += fmt.Sprintf(" as %q", fmt.Sprint(rapid.StringMatching(`[A-Za-z ,"\\()]{1,8}`).Draw(t, "heading"), len(pieces)))
			}
			if rapid.Bool().Draw(t, "wide") {
				text += fmt.Sprintf("  wide %d", rapid.IntRange(50, 900).Draw(t, "width"))
			}
			pieces = append(pieces, rapid.SampledFrom([]string{"", " ", "  "}).Draw(t, "space")+text)
		}
		columns, err := ParseColumns(b, q, strings.Join(pieces, ","))
		require.NoError(t, err, pieces)
		require.Len(t, columns, len(pieces))
		written := make([]string, len(columns))
		for i, c := range columns {
			written[i] = c.Text
			if c.Own {
				written[i] += fmt.Sprintf(" as %q", c.Heading)
			}
			if c.Width > 0 {
				written[i] += fmt.Sprintf(" wide %d", c.Width)
			}
		}
		again, err := ParseColumns(b, q, strings.Join(written, ", "))
		require.NoError(t, err, written)
		for i, c := range columns {
			require.Equal(t, []any{c.Text, c.Heading, c.Own, c.Width, c.Condition == nil},
				[]any{again[i].Text, again[i].Heading, again[i].Own, again[i].Width, again[i].Condition == nil})
			// A column is found by its heading or its text, to sort by and to highlight.
			keys, err := ParseSort(b, q, columns, "-"+c.Text)
			require.NoError(t, err)
			require.True(t, keys[0].Descending)
			require.Equal(t, c.Heading, keys[0].Column.Heading)
			highlights, err := ParseHighlights(b, columns, []string{fmt.Sprintf("teal on %s: site == null", c.Text)})
			require.NoError(t, err)
			require.Equal(t, i, highlights[0].Column)
		}
	})
}
