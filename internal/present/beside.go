package present

import (
	"math"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/numfmt"
)

// besideCode is the code of the table in which periods stand side by side.
const besideCode = "periods"

// periodsBeside are the periods of an answer side by side, each as a whole; of two, with the change from the earlier to the later,
// in whatever order they were named.
func periodsBeside(a duration.Answer, parts []answer.Part) answer.Part {
	q, asked := a.Question, a.Parts
	made := newPart("Side by side")
	t := answer.Table{Code: besideCode, Rows: []answer.Row{}, Totals: []answer.Row{}, All: len(parts),
		Columns: []answer.Column{{Code: "period", Heading: "period", Kind: answer.Text}}}
	codes := []string{"asked", "n"}
	for _, s := range q.Show {
		codes = append(codes, s.String())
	}
	for _, code := range codes {
		groups := parts[0].Table("groups")
		t.Columns = append(t.Columns, groups.Columns[groups.At(code)])
	}
	for i, p := range parts {
		groups := p.Table("groups")
		row := answer.Row{Cells: []answer.Cell{answer.Words(p.Title)}}
		if asked[i].Period.Part(a.Bounds.By(q.Basis)) != "" {
			row.Remarks = append(row.Remarks, "part") // what it lacks is said with the period
		}
		for _, code := range codes {
			row.Cells = append(row.Cells, groups.Totals[0].Cells[groups.At(code)])
		}
		t.Rows = append(t.Rows, row)
	}
	if len(parts) == 2 {
		earlier, later := 0, 1
		if asked[1].Period.Span.From < asked[0].Period.Span.From {
			earlier, later = 1, 0
		}
		row := answer.Row{Cells: []answer.Cell{answer.Words("change from " + parts[earlier].Title + " to " + parts[later].Title)}}
		for i := range codes {
			row.Cells = append(row.Cells, changed(t.Rows[earlier].Cells[1+i], t.Rows[later].Cells[1+i]))
		}
		t.Totals = append(t.Totals, row)
	}
	made.Tables = append(made.Tables, t)
	return made
}

// changed is the change from one number to another, as exact as they are shown; nothing where one is lacking.
func changed(from, to answer.Cell) answer.Cell {
	if from.Number == nil || to.Number == nil {
		return answer.Cell{}
	}
	_, fraction, _ := strings.Cut(to.Text, ".")
	n := int64(math.Round((*to.Number - *from.Number) * math.Pow10(len(fraction))))
	value := float64(n) / math.Pow10(len(fraction))
	text := numfmt.Decimal(n, len(fraction), len(fraction))
	if n > 0 {
		text = "+" + text
	}
	return answer.Cell{Text: text, Number: &value}
}
