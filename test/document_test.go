package test

import (
	"bytes"
	"math"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
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

// took asks how long a leg took.
func (s service) took(t *testing.T, q question) *answer.Document {
	t.Helper()
	d, err := s.Answer(t.Context(), "/took", q.Words())
	require.NoError(t, err, "%+v", q)
	return d
}

// tookNot says why such a question is refused.
func (s service) tookNot(t *testing.T, q question) error {
	_, err := s.Answer(t.Context(), "/took", q.Words())
	return err
}

// opens asks for the orders behind a number.
func (s service) opens(t *testing.T, q question, behind selection) int {
	t.Helper()
	behind.Limit = 1
	list, err := s.list(t, q, behind)
	require.NoError(t, err)
	return list.All
}

// behind selects the orders behind a number: behind("status-latest", "list", "none").
func behind(analysis string, words ...string) selection {
	query := url.Values{}
	for i := 0; i < len(words); i += 2 {
		query.Add(words[i], words[i+1])
	}
	return selection{Behind: analysis + "?" + query.Encode()}
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

// number is the number in a cell.
func (g grid) number(r answer.Row, code string) float64 {
	n := g.cell(r, code).Number
	require.NotNil(g.t, n, code)
	return *n
}

// rows are all of them, the totals last.
func (g grid) rows() []answer.Row { return slices.Concat(g.Rows, g.Totals) }

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

// listed is the number of orders of a part's lines that an address lists.
func listed(p answer.Part, list string) int {
	for _, l := range p.Lines {
		for _, t := range l.Terms {
			if strings.Contains(string(t.Behind), "list="+list) {
				return t.Orders
			}
		}
	}
	return 0
}

// said is the text of a note; empty where it is not there.
func said(p answer.Part, code string) string {
	for _, n := range p.Notes {
		if n.Code == code {
			return n.Text
		}
	}
	return ""
}

// texts are those of a row, as a page shows them.
func texts(r answer.Row) string {
	var texts []string
	for _, c := range r.Cells {
		texts = append(texts, c.Text)
	}
	return strings.Join(strings.Fields(strings.Join(texts, " ")), " ")
}

// inBrackets is how many orders a cell of another number says that it is of.
var inBrackets = regexp.MustCompile(`(?:\(|of )([\d,]+)†?\)?$`)

// amountOf is what a term has of what adds up; 0 where that is orders.
func amountOf(t *testing.T, term answer.Term) float64 {
	if term.Amount == "" {
		return 0
	}
	x, err := strconv.ParseFloat(strings.ReplaceAll(term.Amount, ",", ""), 64)
	require.NoError(t, err)
	return x
}

// Every number of every answer that counts orders opens as many as it says, and every line adds up.
func TestEveryNumberOpensItsOrders(t *testing.T) {
	s, _ := demoService(t)
	for _, asked := range []string{
		"/took?by=site&period=2026-10&over=10&with_running=true&promise=promised",
		"/took?by=month,channel&show=median&period=2025-11-15/2026-02-14&where=value+%3E+100",
		"/took?by=place,asked&promise=5&basis=shipped&period=2026",
		"/took?from=ordered&to=paid&through=shipped,delivered,invoiced-or-delivered&by=quarter&period=2025,2026",
		"/took?by=site&keep=80,90,95&period=2026",
		"/took?in=working-hours&by=site&at_least=30", "/took?in=hours&from=shipped&to=delivered&calendar=site&period=2026-09,2026-10",
		"/took?by=weekday(delivered)&where=requested+!%3D+promised&basis=ordered",
		"/places?to=delivered&period=2026-Q3", "/places?show=over&over=10&by=site-place", "/places?show=late&by=country", "/places?by=region&show=mean",
		"/due", "/due?standing=all&period=2026-10&where=site+%3D%3D+%22Galway%22", "/due?to=delivered&after=5&within=2&standing=all",
		"/quality",
		"/open?period=2026-07&by=site&closing_day=out", "/open?each=month&by=channel&holdings=true&where=value+%3E+100",
		"/open?from=delivered&to=paid&period=2026-Q3,2026-08", "/open?each=quarter&to=delivered&where=requested+!%3D+promised",
		"/open?at=2026-03-16&by=site", "/open?ages=true&each=quarter&in=days&buckets=0,7&period=2026",
		"/open?timeline=true&period=2026-10&sort=age",
		"/status/latest?by=site&at=2026-03-16", "/status/latest?where=requested+!%3D+promised",
		"/status/times?each=quarter&period=2025-08-06/2026-05-19&where=value+%3E+100",
		"/status/times?by=month(shipped)&source=daily&max_gap=3", "/status/times",
		"/status/transitions", "/status/transitions?period=2026-Q3&source=daily&max_gap=3&where=site+%3D%3D+%22Galway%22",
		"/status/periods?period=2026-10&where=value+%3E+100",
		"/crosstab?rows=site&columns=quarter", "/crosstab?show=units,value&basis=shipped&rows=category&columns=year",
		"/crosstab?rows=product&top=4", "/crosstab?show=share,mean,immediate&meets=paid+!%3D+null&rows=site&period=2026-10&where=requested+!%3D+promised", "/crosstab?rows=lines.category&columns=weekday&basis=delivered&period=2026-09",
		"/crosstab?show=shipments&basis=shipped,delivered&rows=shipments.carrier&shipments=shipment.delivered+!%3D+promised&where=site+%3D%3D+%22Galway%22",
		"/crosstab?show=payments&basis=paid&rows=site&columns=quarter",
		"/crosstab?show=units,value,lines&rows=product&period=2026-Q2&basis=shipped&lines=line.delivered+>+requested+%26%26+line.product+!%3D+line.category&where=site+%3D%3D+%22Galway%22",
		"/compare?show=orders,lines&period=2026&each=quarter",
		"/compare?show=value&basis=ordered,paid,shipped&period=2026-10&where=value+%3E+100",
		"/compare?show=median,units&basis=promised&each=week&period=2026-10",
		"/forecast?period=2026-Q3", "/forecast?period=2026-08-01/2026-10-31&where=site+%3D%3D+%22Galway%22",
		"/immediate?by=site&period=2026-Q3", "/immediate?orders=first&by=month,channel&period=2025,2026-Q1",
		"/immediate?orders=first-within&period=2026-09&cancelled=out&achieved=delivered",
		"/immediate?where=requested+!%3D+promised&basis=shipped&by=month-of-year",
	} {
		path, text, _ := strings.Cut(asked, "?")
		words, err := url.ParseQuery(text)
		require.NoError(t, err)
		d, err := s.Answer(t.Context(), path, words)
		require.NoError(t, err, asked)
		opened, parts := 0, map[answer.Address]float64{}
		opens := func(to answer.Address, orders int, of string) {
			if to == "" {
				return
			}
			list, err := s.list(t, question{}, selection{Behind: string(to), Limit: 1})
			if assert.NoError(t, err, "%s: %s", of, to) {
				assert.Equal(t, orders, list.All, "%s: %s", of, to)
			}
			opened++
		}
		for _, p := range d.Parts {
			for _, table := range p.Tables {
				for _, r := range append(table.Rows, table.Totals...) {
					for i, c := range r.Cells {
						switch n := inBrackets.FindStringSubmatch(c.Text); {
						case c.Behind == "":
						case n != nil: // a length, or a share, of so many orders
							orders, err := strconv.Atoi(strings.ReplaceAll(n[1], ",", ""))
							require.NoError(t, err)
							opens(c.Behind, orders, asked+", "+table.Code+"."+table.Columns[i].Code)
						case table.Columns[i].Kind == answer.Count && table.Columns[i].Unit == "":
							opens(c.Behind, int(math.Abs(*c.Number)), asked+", "+table.Code+"."+table.Columns[i].Code)
						case table.Columns[i].Unit != "": // lines, units, status periods: an order can have several
							parts[c.Behind] = math.Inf(1)
							if table.Columns[i].Kind == answer.Count {
								parts[c.Behind] = math.Abs(*c.Number)
							}
						default:
							assert.Fail(t, "an address behind what counts no orders", table.Columns[i].Code)
						}
					}
				}
			}
			for _, l := range p.Lines {
				sum := 0
				amount := 0.0
				for _, term := range l.Terms[1:] {
					sum += term.Orders
					amount += amountOf(t, term)
					opens(term.Behind, term.Orders, asked+", "+term.Label)
				}
				if l.Terms[0].Amount == "" {
					assert.Equal(t, l.Terms[0].Orders, sum, "%s: %s", asked, l.Text)
				}
				assert.InDelta(t, amountOf(t, l.Terms[0]), amount, 1e-6, "%s: %s", asked, l.Text)
			}
			for _, n := range p.Notes {
				opens(n.Behind, n.Orders, asked+", "+n.Code)
			}
		}
		assert.NotZero(t, opened, asked)
		for to, n := range parts {
			orders := s.opens(t, question{}, selection{Behind: string(to)})
			assert.True(t, 0 < orders && float64(orders) <= n, "%s: %d orders with %v parts", to, orders, n)
		}
	}
}

// A book without orders answers every question, in every form.
func TestAnEmptyBookAnswers(t *testing.T) {
	s := startService(t)
	for _, path := range []string{"/took", "/took?by=site,channel&show=median&with_running=true&promise=promised&over=3",
		"/took?to=paid&through=shipped", "/open", "/open?each=month&by=site", "/open?ages=true", "/open?timeline=true",
		"/due?standing=all", "/quality", "/immediate?by=site", "/immediate/customers", "/status/latest?by=site",
		"/status/times?each=month", "/status/transitions", "/status/periods",
		"/compare?each=day", "/crosstab?rows=product&columns=month-of-year&show=value,median",
		"/crosstab?rows=weekday&show=units&basis=delivered", "/crosstab?columns=month"} {
		path, text, _ := strings.Cut(path, "?")
		words, err := url.ParseQuery(text)
		require.NoError(t, err)
		d, err := s.Answer(t.Context(), path, words)
		if assert.NoError(t, err, "%s?%s", path, text) {
			assert.NotEmpty(t, d.Asked())
		}
		for _, form := range []string{"csv", "xlsx", "ndjson", "parquet"} {
			var file bytes.Buffer
			assert.NoError(t, s.AnswerFile(t.Context(), path, words, form, &file), "%s?%s as %s", path, text, form)
			assert.NotZero(t, file.Len(), "%s?%s as %s", path, text, form)
		}
	}
}
