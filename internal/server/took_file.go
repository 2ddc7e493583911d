package server

import (
	"fmt"
	"slices"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/core/list"
	"prairiedusk/internal/render"
)

// A table is an answer laid out as rows for a file. Every row has a cell for each column.
type table struct {
	render.Head
	rows []list.Row
}

// column adds a column of numbers, or else of texts.
func (t *table) column(numeric bool, heading string) {
	kind := list.Text
	if numeric {
		kind = list.Number
	}
	t.Columns = append(t.Columns, render.Column{Heading: heading, Kind: kind})
}

// row adds a row of texts, each read as its column has it.
func (t *table) row(cells ...string) {
	row := list.Row{Highlight: -1}
	for i, text := range cells {
		row.Highlights = append(row.Highlights, -1)
		cell := list.Cell{Text: text}
		if t.Columns[i].Kind == list.Number {
			cell.Number, _ = strconv.ParseFloat(text, 64)
		}
		row.Cells = append(row.Cells, cell)
	}
	t.rows = append(t.rows, row)
}

// file is a table as a file to take away.
func (t *table) file(name string, format render.Format) *huma.StreamResponse {
	return &huma.StreamResponse{Body: func(to huma.Context) {
		to.SetHeader("Content-Type", format.MediaType())
		to.SetHeader("Content-Disposition", fmt.Sprintf(`attachment; filename="%s.%s"`, name, format))
		_ = render.Write(to.BodyWriter(), format, t.Head, slices.Values(t.rows)) // it fails only with the connection
	}}
}

func (t *table) texts(names ...string) {
	for _, name := range names {
		t.column(false, name)
	}
}

func (t *table) numbers(names ...string) {
	for _, name := range names {
		t.column(true, name)
	}
}
