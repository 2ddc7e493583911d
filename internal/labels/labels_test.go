package labels

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/label"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/parts"
)

func decimals(string) int { return 2 }

// someBook has an order that is paid, one that is paid in part, one that is not, and descriptions of 59 to 61 characters.
func someBook(t *testing.T) *book.Book {
	builder := book.NewBuilder(book.Layout{Milestones: milestone.BuiltIn(), Extra: []string{"description"}})
	for id := range 3 {
		o := book.Order{ID: int64(id), Number: fmt.Sprint("N", id), Days: make([]day.Day, len(milestone.BuiltIn()))}
		if id == 0 {
			o.Days[milestone.Index(milestone.BuiltIn(), milestone.Paid)] = 46000
		}
		if id == 1 {
			o.Findings = parts.PartPaid
		}
		o.Extra = []string{fmt.Sprintf("%057d", 0) + []string{"é1", "e\u0301" + "12",
			"e\u0301" + "123"}[id]} // é as one code point, or as two that are one
		builder.Put(o)
	}
	calendars, err := book.NewCalendars(nil)
	require.NoError(t, err)
	return builder.Finish(book.Settings{Calendars: calendars})
}

func rule(where, text string) Rule { return Rule{where, text} }

var (
	payment = Definition{Name: "payment", Rules: []Rule{rule("paid != null", "paid"), rule("part_paid", "part paid")}, Rest: "not paid"}
	owing   = Definition{Name: "owing", Rules: []Rule{rule(`payment == "paid"`, "nothing"),
		rule(`payment in ["part paid", "not paid"]`, "something")}, Rest: "cannot be"}
)

func TestLabelsBuildOnEachOtherInAnyOrder(t *testing.T) {
	b := someBook(t)
	second := Definition{Name: "second-line", Rules: []Rule{rule("size(description) > 60", "second label line")}}
	labelled, refused := Apply(b, []Definition{owing, second, payment}, decimals)
	require.Empty(t, refused)
	texts := func(name string) (all []string) {
		field, known := labelled.ParseField(name)
		require.True(t, known, name)
		for row := range b.Orders() {
			all = append(all, labelled.Text(field, row))
		}
		return all
	}
	assert.Equal(t, []string{"paid", "part paid", "not paid"}, texts("payment"))
	assert.Equal(t, []string{"nothing", "something", "something"}, texts("owing"))
	assert.Equal(t, []string{"", "", "second label line"}, texts("second-line"),
		"characters are code points after NFC, and 60 are not over 60")
	l, err := Parse(labelled, Definition{Name: "again", Rules: owing.Rules, Rest: owing.Rest})
	require.NoError(t, err)
	assert.Equal(t, []label.Count{{Text: "nothing", Orders: 1}, {Text: "something", Orders: 2}, {Text: "cannot be", Orders: 0},
		{Text: "", Orders: 0}}, label.Counts(label.Apply(labelled, l, decimals), l))
	assert.Equal(t, []string{"owing"}, Users("payment", []Definition{payment, owing, second}))
}

func TestLabelsThatCannotBe(t *testing.T) {
	b := someBook(t)
	one := func(name, where string) Definition { return Definition{Name: name, Rules: []Rule{rule(where, "yes")}} }
	for _, tt := range []struct {
		labels []Definition
		want   []string
	}{
		{[]Definition{one("overdue", `overdue == "yes"`)}, []string{`label "overdue": it refers to itself`}},
		{[]Definition{one("overdue", `field("overdue") == "yes"`)}, []string{`label "overdue": it refers to itself`}},
		{[]Definition{one("a", `b == "yes"`), one("b", `a == "yes"`)}, []string{`label "a": it refers to the label "b"`,
			`label "b": it refers to the label "a"`}},
		{[]Definition{one("pale", `hive_colour == "white"`), one("on-it", `pale == "yes"`)},
			[]string{`label "pale": condition 1, line 1, column 1: there is no field, date or number "hive_colour"`,
				`label "on-it": condition 1, line 1, column 1: there is no "pale" here`}},
		{[]Definition{one("site", "paid == null")}, []string{"have a field or milestone of this name already"}},
		{[]Definition{one("length", "paid == null")}, []string{"this word means something else"}},
		{[]Definition{one("Überfällig", "paid == null")}, []string{"want a name of small letters"}},
		{[]Definition{{Name: "empty"}}, []string{"it has no condition"}},
		{[]Definition{{Name: "empty", Rules: []Rule{rule("true", " ")}}}, []string{"condition 1 has no text"}},
	} {
		_, refused := Apply(b, tt.labels, decimals)
		require.Len(t, refused, len(tt.want), "%v", refused)
		for i, want := range tt.want {
			assert.ErrorContains(t, refused[i], want)
		}
	}
	assert.Equal(t, "payment-state", Name(" Payment  STATE"))
}
