package test

import (
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/client"
)

// ask asks a question by its path and parameters: ask(t, "/immediate", "by", "site").
func (s service) ask(t *testing.T, path string, words ...string) *answer.Document {
	query := url.Values{}
	for i := 0; i < len(words); i += 2 {
		if words[i+1] != "" {
			query.Add(words[i], words[i+1])
		}
	}
	d, err := s.Answer(t.Context(), path, query)
	require.NoError(t, err, "%s?%s", path, query.Encode())
	return d
}

// refuses says why a question is refused.
func (s service) refuses(t *testing.T, path string, words ...string) string {
	query := url.Values{}
	for i := 0; i < len(words); i += 2 {
		query.Add(words[i], words[i+1])
	}
	_, err := s.Answer(t.Context(), path, query)
	require.Error(t, err, "%s?%s", path, query.Encode())
	return err.Error()
}

// A grid is a table whose rows are found by their names.
type grid struct {
	*answer.Table
	t require.TestingT
}

func gridOf(t require.TestingT, p answer.Part, code string) grid {
	table := p.Table(code)
	require.NotNil(t, table, code)
	return grid{table, t}
}

// names are the texts before the first number of a row, with commas.
func (g grid) names(r answer.Row) string {
	var names []string
	for i, c := range g.Columns {
		if c.Kind != answer.Text {
			break
		}
		names = append(names, r.Cells[i].Text)
	}
	return strings.Join(names, ", ")
}

// cell is that of a row and a column.
func (g grid) cell(r answer.Row, code string) answer.Cell {
	at := g.At(code)
	require.GreaterOrEqual(g.t, at, 0, code)
	return r.Cells[at]
}

// count is the whole number in a cell.
func (g grid) count(r answer.Row, code string) int {
	n := g.cell(r, code).Number
	require.NotNil(g.t, n, code)
	return int(*n)
}

// total is the row of all.
func (g grid) total() answer.Row { return g.Totals[0] }

// term is a number of a part's lines by its label; 0 where it is not there.
func term(p answer.Part, label string) (orders int) {
	for _, l := range p.Lines {
		for _, t := range l.Terms[1:] {
			if t.Label == label {
				orders = t.Orders
			}
		}
	}
	return orders
}

// note is how many orders a note concerns; 0 where it is not there.
func note(p answer.Part, code string) int {
	for _, n := range p.Notes {
		if n.Code == code {
			return n.Orders
		}
	}
	return 0
}

// Every number of every answer that counts orders opens as many as it says, and every line adds up.
func TestEveryNumberOpensItsOrders(t *testing.T) {
	s, _ := demoService(t)
	for _, asked := range []string{
		"/due", "/due?standing=all&period=2026-10&where=site+%3D%3D+%22Galway%22", "/due?to=delivered&after=5&within=2&standing=all", "/quality",
		"/immediate?by=site&period=2026-Q3", "/immediate?orders=first&by=month,channel&period=2025,2026-Q1", "/immediate?orders=first-within&period=2026-09&cancelled=out&achieved=delivered", "/immediate?where=requested+!%3D+promised&basis=shipped&by=month-of-year",
	} {
		path, text, _ := strings.Cut(asked, "?")
		words, err := url.ParseQuery(text)
		require.NoError(t, err)
		d, err := s.Answer(t.Context(), path, words)
		require.NoError(t, err, asked)
		opened := 0
		opens := func(to answer.Address, orders int, of string) {
			if to == "" {
				return
			}
			list, err := s.Orders(t.Context(), client.Question{}, client.Selection{Behind: string(to), Limit: 1})
			if assert.NoError(t, err, "%s: %s", of, to) {
				assert.Equal(t, orders, list.All, "%s: %s", of, to)
			}
			opened++
		}
		for _, p := range d.Parts {
			for _, table := range p.Tables {
				for _, r := range append(table.Rows, table.Totals...) {
					for i, c := range r.Cells {
						if c.Behind != "" && table.Columns[i].Kind == answer.Count {
							opens(c.Behind, int(*c.Number), asked+", "+table.Columns[i].Code)
						} else if c.Behind != "" {
							assert.Fail(t, "an address behind what counts no orders", table.Columns[i].Code)
						}
					}
				}
			}
			for _, l := range p.Lines {
				sum := 0
				for _, term := range l.Terms[1:] {
					sum += term.Orders
					opens(term.Behind, term.Orders, asked+", "+term.Label)
				}
				assert.Equal(t, l.Terms[0].Orders, sum, "%s: %s", asked, l.Text)
			}
			for _, n := range p.Notes {
				opens(n.Behind, n.Orders, asked+", "+n.Code)
			}
		}
		assert.NotZero(t, opened, asked)
	}
}
