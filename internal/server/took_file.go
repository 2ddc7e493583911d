package server

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/list"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/promise"
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
	row := list.Row{Mark: -1}
	for i, text := range cells {
		row.Marks = append(row.Marks, -1)
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

type tookFileInput struct {
	TookInput
	Format string `query:"format" enum:"csv,xlsx,ndjson,json,parquet" default:"csv"`
}

// tookFile gives the answer as a table: a row for each group, and of a chain for each of its legs.
func (s *server) tookFile(ctx context.Context, in *tookFileInput) (*huma.StreamResponse, error) {
	answer, err := s.tookAnswer(ctx, &in.TookInput, math.MaxInt)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return tookTable(answer).file("took", render.Format(in.Format)), nil
}

func tookTable(a *api.Took) *table {
	t := &table{Head: render.Head{Sheet: "How long", Sentence: a.Sentence}}
	t.texts(slices.Concat([]string{"period"}, tookLegColumn(a), a.By, []string{"marks"})...)
	t.numbers("asked", "n")
	heading := a.Heading
	if len(a.Through) > 0 { // each leg has its own name
		heading = strings.TrimPrefix(heading, a.From+" → "+a.To+", ")
	}
	of := func(names ...string) {
		for _, name := range names {
			t.column(true, name+", "+heading)
		}
	}
	of(a.Show...)
	total := a.Parts[0].Total
	for _, r := range total.Reconciliation[1:] {
		t.column(true, cmp.Or(numfmt.Either(len(a.Through) > 0, r.State, ""), r.Label))
	}
	t.numbers("still running %", "holidays unknown")
	if len(a.Through) > 0 {
		t.numbers("n, every leg complete")
		of("mean, every leg complete")
	}
	if total.Over != nil {
		for _, name := range []string{"finished", "still waiting"} {
			t.numbers(name + ", " + a.Limit)
		}
		t.numbers("finished within", "undecided", "share %", "at least %", "at most %", "cancelled over it")
	}
	if total.Kept != nil {
		for _, standing := range total.Kept.Standings {
			t.numbers("promise: " + standing.Label)
		}
		t.numbers("late %", "median working days late", "p90 working days late")
	}
	if total.Estimate != nil {
		of("median with running")
	}
	for _, part := range a.Parts {
		t.Lines = append(t.Lines, strings.TrimSpace(part.Period.Text+" "+part.Total.ReconciliationLine)+".")
		for _, line := range []string{part.PlacementLine, part.ChainLine} {
			if line != "" {
				t.Lines = append(t.Lines, line+".")
			}
		}
		for _, note := range part.Notes {
			t.Lines = append(t.Lines, note.Text+".")
		}
		t.part(a, part)
	}
	t.Lines = append(t.Lines, fmt.Sprintf("Records from %s to %s.", a.FirstDay, a.DataDate))
	return t
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

// tookLegColumn is there where each leg of a chain has rows.
func tookLegColumn(a *api.Took) []string {
	if len(a.Through) == 0 {
		return nil
	}
	return []string{"leg"}
}

// part adds the rows of one period: each group, of each leg of a chain and of the whole, and all together.
func (t *table) part(a *api.Took, part api.TookPart) {
	add := func(of []string, g, whole api.Group) {
		keys := slices.Clone(whole.Keys)
		for i, key := range keys {
			keys[i] = cmp.Or(key, "(none)")
		}
		if len(keys) == 0 {
			keys = slices.Repeat([]string{"all"}, len(a.By))
		}
		t.row(slices.Concat([]string{part.Period.Text}, of, keys, []string{marksOf(g, whole)}, groupCells(a, part, g))...)
	}
	for i := range len(part.Groups) + 1 {
		whole := part.Total
		if i < len(part.Groups) {
			whole = part.Groups[i]
		}
		for _, l := range part.Legs {
			g := l.Total
			if i < len(part.Groups) {
				g = l.Groups[i]
			}
			add([]string{l.From + " → " + l.To}, g, whole)
		}
		if len(part.Legs) > 0 {
			add([]string{a.From + " → " + a.To}, whole, whole)
		} else {
			add(nil, whole, whole)
		}
	}
}

// marksOf say what a reader has to know of a group.
func marksOf(g, whole api.Group) string {
	var marks []string
	if g.Small {
		marks = append(marks, "few")
	}
	if whole.Step != nil && whole.Step.Cut {
		marks = append(marks, "part")
	}
	if whole.Step != nil && whole.Step.Begins {
		marks = append(marks, "book begins")
	}
	return strings.Join(marks, ", ")
}

// decimal is a number for a file: to a millionth, which is more than anybody reads and less than the noise of fractions.
func decimal(x float64) string {
	return strconv.FormatFloat(math.Round(x*1e6)/1e6, 'f', -1, 64)
}

func groupCells(a *api.Took, part api.TookPart, g api.Group) []string {
	whole := strconv.Itoa
	length := func(x *float64) string {
		if x == nil {
			return ""
		}
		return decimal(*x)
	}
	percent := func(some, all int) string {
		if all == 0 {
			return ""
		}
		return decimal(100 * float64(some) / float64(all))
	}
	cells := []string{whole(g.Asked), whole(g.N)}
	for _, figure := range g.Figures {
		cells = append(cells, length(figure))
	}
	running := 0
	for _, r := range g.Reconciliation[1:] {
		cells = append(cells, whole(r.Orders))
		if r.State == leg.Running.String() {
			running = r.Orders
		}
	}
	cells = append(cells, percent(running, g.Asked), whole(g.HolidaysUnknown))
	if g.EveryLeg != nil {
		cells = append(cells, whole(g.EveryLeg.N), length(g.EveryLeg.Mean))
	}
	if o := g.Over; o != nil {
		over := o.Finished + o.Waiting
		all := over + o.Within + o.Undecided
		cells = append(cells, whole(o.Finished), whole(o.Waiting), whole(o.Within), whole(o.Undecided), percent(over, over+o.Within), percent(over, all), percent(over+o.Undecided, all), whole(o.Cancelled))
	} else if part.Total.Over != nil {
		cells = append(cells, slices.Repeat([]string{""}, 8)...)
	}
	if k := g.Kept; k != nil {
		var late api.Standing
		for _, s := range k.Standings {
			cells = append(cells, whole(s.Orders))
			if s.Code == promise.ReachedLate.String() {
				late = s
			}
		}
		cells = append(cells, percent(k.Late, k.Told), length(late.Median), length(late.P90))
	} else if part.Total.Kept != nil {
		cells = append(cells, slices.Repeat([]string{""}, len(part.Total.Kept.Standings)+3)...)
	}
	switch {
	case g.Estimate != nil && g.Estimate.Median == nil && g.Asked > 0:
		cells = append(cells, "") // more than half still run
	case g.Estimate != nil:
		cells = append(cells, length(g.Estimate.Median))
	case part.Total.Estimate != nil:
		cells = append(cells, "")
	}
	return cells
}
