package server

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/render"
)

type acrossFileInput struct {
	AcrossInput
	Format string `query:"format" enum:"csv,xlsx,ndjson,json,parquet" default:"csv"`
}

// acrossFile gives the answer as a table: without a grouping of the columns a column for each date, else a row for each.
func (s *server) acrossFile(ctx context.Context, in *acrossFileInput) (*huma.StreamResponse, error) {
	answer, err := s.acrossAnswer(ctx, &in.AcrossInput, math.MaxInt)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return acrossTable(answer).file("across", render.Format(in.Format)), nil
}

func acrossTable(a *api.Across) *table {
	t := &table{Head: render.Head{Sheet: "Across", Sentence: a.Sentence}}
	several := len(a.Figures) > 1
	currencies := slices.ContainsFunc(a.Figures, func(f api.AcrossFigure) bool { return f.Parts[0].Currency != "" })
	if several {
		t.texts("figure")
	}
	if currencies {
		t.texts("currency")
	}
	steps := a.Columns == ""
	if !steps {
		t.texts("date")
	}
	t.texts(cmp.Or(a.Each, a.Rows, "orders"))
	keys := columnKeys(a)
	// Beside a share or a length stands what it is of.
	of := slices.ContainsFunc(a.Figures, func(f api.AcrossFigure) bool { return !f.AddsUp })
	numbers := func(heading string) {
		if t.numbers(heading); of {
			t.texts(heading + ", of")
		}
	}
	if steps {
		for _, table := range a.Figures[0].Parts[0].Tables {
			numbers(numfmt.Either(several, table.Basis, table.Words))
		}
		t.texts("nothing, because")
	} else {
		for _, key := range keys {
			numbers(cmp.Or(key, "(none)"))
		}
		numbers("all")
	}
	for _, f := range a.Figures {
		for _, part := range f.Parts {
			var lead []string
			if several {
				lead = append(lead, f.Show)
			}
			if currencies {
				lead = append(lead, part.Currency)
			}
			if steps {
				t.dates(lead, part, of)
			} else {
				t.columnsOf(lead, part, keys, of)
			}
			for _, table := range part.Tables {
				t.Lines = append(t.Lines, table.Line+".")
			}
		}
		for _, note := range f.Notes {
			t.Lines = append(t.Lines, note.Text+".")
		}
	}
	t.Lines = append(t.Lines, a.ReconciliationLine+".")
	return t
}

// columnKeys are those of all parts: each sorts its own.
func columnKeys(a *api.Across) (keys []string) {
	for _, f := range a.Figures {
		for _, part := range f.Parts {
			for _, c := range part.Columns {
				if !slices.Contains(keys, c.Key) {
					keys = append(keys, c.Key)
				}
			}
		}
	}
	return keys
}

// plainCell is a cell as a number, and what it is of.
func plainCell(c api.AcrossCell, of bool) []string {
	number := ""
	if c.Value != nil {
		number = strconv.FormatFloat(*c.Value, 'f', -1, 64)
	}
	if of {
		return []string{number, c.Of}
	}
	return []string{number}
}

func rowName(h api.AcrossHead) string {
	if h.Others > 0 {
		return "all others (" + strconv.Itoa(h.Others) + ")"
	}
	return cmp.Or(h.Key, "(none)") + numfmt.Either(h.Cut, " (part)", "")
}

// dates have a column for each date.
func (t *table) dates(lead []string, part api.AcrossPart, of bool) {
	for i, row := range part.Tables[0].Rows {
		cells := append(slices.Clone(lead), rowName(row.AcrossHead))
		for _, table := range part.Tables {
			cells = append(cells, plainCell(table.Rows[i].Total, of)...)
		}
		t.row(append(cells, row.Why)...)
	}
	cells := append(slices.Clone(lead), "all")
	for _, table := range part.Tables {
		cells = append(cells, plainCell(table.Total.Total, of)...)
	}
	t.row(append(cells, "")...)
}

// columnsOf has a row for each date and row.
func (t *table) columnsOf(lead []string, part api.AcrossPart, keys []string, of bool) {
	for _, table := range part.Tables {
		for _, row := range append(slices.Clone(table.Rows), table.Total) {
			name := rowName(row.AcrossHead)
			if len(row.Cells) > 0 && row.Key == "" && &row.Cells[0] == &table.Total.Cells[0] {
				name = "all"
			}
			cells := append(slices.Clone(lead), table.Basis, name)
			for _, key := range keys {
				var cell api.AcrossCell
				if at := slices.IndexFunc(part.Columns, func(h api.AcrossHead) bool { return h.Key == key }); at >= 0 {
					cell = row.Cells[at]
				}
				cells = append(cells, plainCell(cell, of)...)
			}
			t.row(append(cells, plainCell(row.Total, of)...)...)
		}
	}
}
