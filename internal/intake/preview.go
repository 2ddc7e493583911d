package intake

import (
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/money"
	"prairiedusk/internal/record"
)

// A Preview is the first records of a table as they are kept, in words that people read.
type Preview struct {
	Columns []string
	Rows    [][]string
}

// maxPreview is how many rows are shown.
const maxPreview = 5

// Preview is the first of the rows so far.
func (t *TableReader) Preview() Preview { return t.preview }

// show adds the row to the preview.
func (t *TableReader) show() {
	if len(t.preview.Rows) == maxPreview {
		return
	}
	first, columns := len(t.preview.Rows) == 0, t.preview.Columns
	var row []string
	for p, part := range t.parts {
		for _, c := range part.Given {
			if p > 0 && c == 0 {
				continue // the order's number stands with the first part
			}
			if first {
				columns = append(columns, part.Kind.Columns[c].Name)
			}
			row = append(row, t.shown(p, c))
		}
		for i, extra := range part.Extras {
			if first {
				columns = append(columns, extra.Name)
			}
			row = append(row, t.rows[p].Extra[i])
		}
	}
	t.preview.Columns, t.preview.Rows = columns, append(t.preview.Rows, row)
}

// shown is a value of the row as people read it.
func (t *TableReader) shown(p, c int) string {
	kind, v := t.parts[p].Kind, t.rows[p].Values[c]
	switch typ := kind.Columns[c].Type; {
	case !v.Known:
		return ""
	case typ == record.Day && v.Text == "":
		return day.Day(v.Number).String()
	case typ == record.Money:
		return money.Format(v.Number, t.rows[p].Values[kind.Column(currencyColumn)].Text)
	case typ == record.Amount:
		return numfmt.Decimal(v.Number, amountDecimals, 2)
	case typ == record.Units:
		return numfmt.Decimal(v.Number, unitsDecimals, 0)
	case typ == record.Degrees:
		return numfmt.Decimal(v.Number, degreesDecimals, 0)
	}
	return v.Text
}
