package present

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/query"
)

// A file has a whole list, up to its bound; a page has what was asked for.
func TestListsHaveBounds(t *testing.T) {
	all := make([]int, 11)
	file := Size{Rows: ToKeep.Rows, Cells: ToKeep.Cells}
	rows, offset, err := page(all, api.Page{Offset: 9, Limit: 5}, 3, ToRead, cause{"period", "2026"})
	require.NoError(t, err)
	assert.Equal(t, []int{2, 9}, []int{len(rows), offset})
	rows, offset, err = page(all, api.Page{Offset: 9, Limit: 5}, 3, file, cause{"period", "2026"})
	require.NoError(t, err)
	assert.Equal(t, []int{11, 0}, []int{len(rows), offset})
	_, _, err = page(all, api.Page{}, ToKeep.Cells/11, file, cause{"period", "2026"})
	require.NoError(t, err)
	_, _, err = page(all, api.Page{}, ToKeep.Cells/11+1, file, cause{"period", "2026"})
	assert.ErrorContains(t, err, "one holds at most 4,000,000")
	assert.Empty(t, file.behindOf("took", &api.TookQuestion{}).within("2026").group([]string{"x"}).of("state", "running"),
		"a file has no addresses")
	assert.Equal(t, answer.Address("took?group=x&state=running"), ToRead.behindOf("took",
		&api.TookQuestion{}).group([]string{"x"}).of("state", "running"))
}

// Two groupings of very many keys are a list of the pairs that occur, and no table of mostly nothing.
func TestRowsByColumnsHaveBounds(t *testing.T) {
	p := tookPresenter{Answer: duration.Answer{Question: duration.Question{Question: query.Question{By: make([]query.Grouping, 2)}}}}
	for _, tt := range []struct {
		rows, columns int
		crossed       bool
	}{{10, 10, true}, {198, mostCrossColumns, true}, {199, mostCrossColumns, false}, {1, mostCrossColumns + 1, false}} {
		p.part.Rows, p.part.Columns = make([]duration.Group, tt.rows), make([]duration.Group, tt.columns)
		assert.Equal(t, tt.crossed, p.crossed(), fmt.Sprint(tt))
	}
}
