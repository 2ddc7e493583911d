package test

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/parquet-go/parquet-go"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/demo"
)

// demoFiles are the files that the demo of demoService is loaded from.
func demoFiles(t *testing.T) map[string][]map[string]string {
	folder := t.TempDir()
	m, err := demo.Write(folder, demo.Options{Orders: 3000, Seed: 1})
	require.NoError(t, err)
	files := map[string][]map[string]string{}
	for _, name := range m.Files {
		if strings.HasSuffix(name, ".csv") {
			text, err := os.ReadFile(filepath.Join(folder, name))
			require.NoError(t, err)
			reader := csv.NewReader(bytes.NewReader(text))
			reader.FieldsPerRecord = -1
			records, err := reader.ReadAll()
			require.NoError(t, err)
			for _, record := range records[1:] {
				row := map[string]string{}
				for i, cell := range record[:min(len(record), len(records[0]))] {
					row[records[0][i]] = cell
				}
				files[name] = append(files[name], row)
			}
		}
	}
	return files
}

// Rows and orders are both in view; nothing is lost for want of a part, and no order counts twice for having several.
func TestListsLoseAndMultiplyNothing(t *testing.T) {
	s, m := demoService(t)
	lines := map[string][]map[string]string{}
	for _, row := range demoFiles(t)["lines.csv"] {
		lines[row["order"]] = append(lines[row["order"]], row)
	}
	all, err := s.list(t, question{}, selection{Columns: "number, lines, lines.product, value, length", Limit: 10000})
	require.NoError(t, err)
	require.Equal(t, []int{m.Orders, m.Orders}, []int{all.Orders, all.All})
	expected, without := 0, 0
	for _, row := range all.Rows {
		r := cellTexts(row)
		own := lines[r[0]]
		expected += max(1, len(own))
		require.Equal(t, fmt.Sprint(len(own)), r[1], r[0])
		if len(own) == 0 {
			without++
			require.Empty(t, r[2])
			continue
		}
		var products []string
		for _, l := range own {
			products = append(products, l["product"])
		}
		require.Equal(t, fmt.Sprintf("%d: %s", len(own), strings.Join(products, ", ")), r[2])
	}
	require.Positive(t, without, "the demo has orders without lines")

	each, err := s.list(t, question{}, selection{Rows: "lines",
		Columns: "number, value, length, lines.units, lines.product, payments.receipt", Sort: "lines.product,-lines.units", Limit: 10000})
	require.NoError(t, err)
	assert.Equal(t, []int{m.Orders, expected}, []int{each.Orders, each.All})
	feet := func(a *listing) map[string]string {
		by := map[string]string{}
		for i, c := range a.Totals[0].Cells {
			by[a.Columns[i].Code] = c.Basis + " " + c.Text
		}
		return by
	}
	assert.Equal(t, feet(all)["value"], feet(each)["value"], "the value of an order counts once, however many lines it has")
	assert.Equal(t, feet(all)["length"], feet(each)["length"], "means of lengths are per order")
	units := 0.0
	for _, own := range lines {
		for _, l := range own {
			n, _ := strconv.ParseFloat(l["units"], 64)
			units += n
		}
	}
	assert.Equal(t, "sum "+numfmt.Decimal(int64(units*1000), 3, 0), feet(each)["lines.units"])
	// Sorted by product, then by units descending; rows without a line come last.
	for i, r := range each.Rows[1:] {
		before := each.Rows[i]
		switch {
		case r.Cells[4].Text == before.Cells[4].Text && r.Cells[4].Text != "" && r.Cells[3].Number != nil:
			require.GreaterOrEqual(t, *before.Cells[3].Number, *r.Cells[3].Number, r.Order)
		case before.Cells[4].Text == "":
			require.Empty(t, r.Cells[4].Text, "what is lacked comes last")
		}
	}

	// A condition on lines, checked by hand.
	wanted := []string{}
	for number, own := range lines {
		if slices.ContainsFunc(own, func(l map[string]string) bool {
			n, _ := strconv.ParseFloat(l["units"], 64)
			return l["product"] == "SMOKER" && n > 5
		}) {
			wanted = append(wanted, number)
		}
	}
	smokers, err := s.list(t, question{Where: `lines.exists(l, l.product == "SMOKER" && l.units > 5)`}, selection{Limit: 10000})
	require.NoError(t, err)
	var got []string
	for _, r := range smokers.Rows {
		got = append(got, r.Order)
	}
	assert.ElementsMatch(t, wanted, got)
	values, err := s.Values(t.Context(), "lines.product", "smok")
	require.NoError(t, err)
	assert.Equal(t, []string{"SMOKER"}, values.Values)
}

// Who still waits stands in a slow list, apart from those that are finished, whatever the sort.
func TestSlowListsKeepTheWaiting(t *testing.T) {
	s, _ := demoService(t)
	slow, err := s.list(t, question{Where: "working_days_so_far(ordered, shipped) > 20"}, selection{
		Columns: `number, working_days_so_far(ordered, shipped) as "Days so far", state, shipped`, Sort: "-Days so far", Limit: 10000,
		Highlights: []string{"amber: shipped == null", "teal on Days so far: working_days_so_far(ordered, shipped) > 40"}})
	require.NoError(t, err)
	require.Len(t, slow.Sections, 2)
	finished := slow.Sections[0].Rows
	require.Equal(t, []int{slow.All, slow.Orders}, []int{finished + slow.Sections[1].Rows, slow.Sections[0].Orders + slow.Sections[1].Orders})
	assert.Equal(t, "Days so far", slow.Columns[1].Heading)
	last := 0
	for i, r := range slow.Rows {
		days, err := strconv.Atoi(r.Cells[1].Text)
		require.NoError(t, err)
		require.Greater(t, days, 20)
		waits := i >= finished
		require.Equal(t, waits, r.Cells[2].Text == "still running", "row %d", i)
		if i != 0 && i != finished {
			require.LessOrEqual(t, days, last, "each group is sorted by itself")
		}
		last = days
		require.Equal(t, map[bool]int{true: 1, false: 0}[waits], r.Highlight, r.Order)
		require.Equal(t, days > 40, r.Cells[1].Highlight == 2, r.Order)
	}
	// A condition on another leg lists that leg.
	delivered, err := s.list(t, question{Where: "days_so_far(shipped, delivered) > 20"}, selection{})
	require.NoError(t, err)
	assert.Equal(t, "ship date → delivery date, working days, start day not counted", delivered.document.Heading)
	assert.NotEmpty(t, delivered.Sections)
	assert.Contains(t, delivered.document.Parts[0].Lines[0].Text, "cannot be decided yet (", "what cannot be told is counted")
}

// Whatever pages are asked for, in whatever order, they are stretches of one list; a load makes it another.
func TestPagesAreStretchesOfOneList(t *testing.T) {
	s, _ := demoService(t)
	for _, sorted := range []selection{{Sort: "-value,site"}, {Sort: "customer", Rows: "lines", Columns: "number, lines.line"},
		{Sort: "-length", State: "counted"}} {
		whole := sorted
		whole.Limit = 10000
		all, err := s.list(t, question{}, whole)
		require.NoError(t, err)
		for _, page := range [][2]int{{0, 7}, {100, 100}, {50, 3}, {2500, 400}, {all.All - 3, 10}, {all.All + 5, 10}, {0, 1}} {
			part := sorted
			part.Offset, part.Limit = page[0], page[1]
			got, err := s.list(t, question{}, part)
			require.NoError(t, err)
			from := min(page[0], all.All)
			require.Equal(t, all.Rows[from:min(from+page[1], all.All)], got.Rows, "%+v", part)
			require.Equal(t, []int{all.Orders, all.All}, []int{got.Orders, got.All})
			require.Equal(t, all.Totals, got.Totals, "feet are over all pages")
		}
	}
	// Lists that differ in a word only are not taken for each other: the group of what has no site is not all groups.
	bySite := question{By: []string{"site"}}
	sites := gridOf(t, s.took(t, bySite).Parts[0], "groups")
	for _, g := range sites.rows() {
		cell := sites.cell(g, "asked")
		got, err := s.list(t, question{}, selection{Behind: string(cell.Behind)})
		require.NoError(t, err)
		require.EqualValues(t, *cell.Number, got.Orders, "%v", g)
	}
	for _, highlights := range [][]string{{"amber: true", "teal: true"}, {"teal: true", "amber: true"}, nil} {
		got, err := s.list(t, question{}, selection{Highlights: highlights, Limit: 1})
		require.NoError(t, err)
		require.Len(t, got.Highlights, len(highlights))
		require.Equal(t, len(highlights) > 0, got.Rows[0].Highlight == 1)
	}
	first, err := s.list(t, question{}, selection{Sort: "-value", Limit: 5})
	require.NoError(t, err)
	_, err = s.Load(t.Context(), []string{write(t, "more.csv", "number,site,ordered,value,currency\nZ-1,Galway,2026-10-01,99999999,EUR\n")})
	require.NoError(t, err)
	next, err := s.list(t, question{}, selection{Sort: "-value", Limit: 5})
	require.NoError(t, err)
	assert.Equal(t, "Z-1", next.Rows[0].Order)
	assert.Equal(t, first.Rows[:4], next.Rows[1:])
	assert.Equal(t, first.All+1, next.All)
}

// Who stops listening ends the file; a text that a worksheet cannot hold is refused before anything is sent.
func TestFilesThatDoNotEndWell(t *testing.T) {
	s := startService(t)
	lines := "order,line,product\n"
	for i := range 3000 {
		lines += fmt.Sprintf("A/1,%d,product number %d\n", i+1, i)
	}
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv", fewOrders), write(t, "lines.csv", lines)})
	require.NoError(t, err)
	words := selection{Columns: "number, lines.product"}.Words(question{})
	var out bytes.Buffer
	err = s.TakeAway(t.Context(), words, "xlsx", false, &out)
	assert.ErrorContains(t, err, `order A/1, column "line product": a text of`)
	assert.Zero(t, out.Len())
	require.NoError(t, s.TakeAway(t.Context(), words, "ndjson", false, &out), "every other form takes it")
	assert.Contains(t, out.String(), "product number 2999")
	words.Set("rows", "lines")
	require.NoError(t, s.TakeAway(t.Context(), words, "xlsx", false, &out))
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	assert.ErrorIs(t, s.TakeAway(ctx, words, "csv", false, &out), context.Canceled)
}

func TestListsThatAreRefused(t *testing.T) {
	s := startService(t)
	for query, want := range map[string]string{
		"columns=colour":            "is no column: line 1, column 1: there is no field, date or number \"colour\"",
		"columns=site,site":         "two columns are headed \"site\"",
		"sort=-colour":              "is not a key to sort by",
		"highlight=red%3A%20true":   "want one of amber, teal, plum, faint",
		"rows=boxes":                "validation failed",
		"where=lines.exists(l%2C1)": "line 1",
	} {
		status, body := s.get(t, "/api/v1/orders?"+query)
		assert.Equal(t, http.StatusUnprocessableEntity, status, query)
		assert.Contains(t, fmt.Sprint(body["detail"], body["errors"]), want, query)
	}
	status, body := s.get(t, "/api/v1/condition?text="+url.QueryEscape(`site == "Galway" && paid == null`))
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, []any{map[string]any{"subject": "site", "kind": "text", "comparison": "==", "value": "Galway"},
		map[string]any{"subject": "paid", "kind": "day", "comparison": "missing", "value": ""}}, body["picks"])
	assert.Equal(t, "&&", body["joined"])
}

// A list that was taken away and is loaded elsewhere gives the same totals, times of day and all.
func TestWhatIsTakenAwayLoadsAgain(t *testing.T) {
	s, m := demoService(t)
	book, err := s.Book(t.Context())
	require.NoError(t, err)
	columns := []string{"number", "customer", "site", "country", "place", "channel", "currency", "value"}
	for _, milestone := range book.Milestones {
		if milestone.First != "" && !strings.HasPrefix(milestone.Name, "first-") {
			columns = append(columns, milestone.Name)
		}
	}
	words := selection{Columns: strings.Join(columns, ", "), Sort: "-number"}.Words(question{})
	path := filepath.Join(t.TempDir(), "orders.csv")
	file, err := os.Create(path)
	require.NoError(t, err)
	require.NoError(t, s.TakeAway(t.Context(), words, "csv", false, file))
	require.NoError(t, file.Close())

	again := startService(t)
	folder := t.TempDir()
	_, err = demo.Write(folder, demo.Options{Orders: 10, Seed: 1})
	require.NoError(t, err)
	calendars, err := filepath.Glob(filepath.Join(folder, "*.ics"))
	require.NoError(t, err)
	_, err = again.Load(t.Context(), append(calendars, filepath.Join(folder, "sites.csv"), path))
	require.NoError(t, err)
	_, err = again.SaveSettings(t.Context(), api.Settings{FirstDay: m.FirstDay.String(), DataDate: m.DataDate.String()})
	require.NoError(t, err)
	for _, q := range []question{{In: "days", By: []string{"site", "month"}}, {From: "shipped", To: "delivered", In: "hours"},
		{From: "ordered", To: "paid", In: "days", By: []string{"place"}}, {In: "hours", By: []string{"channel"}}} {
		want, got := s.took(t, q).Parts[0], again.took(t, q).Parts[0]
		require.Equal(t, want.Tables[0], got.Tables[0], "%+v", q)
		require.Equal(t, want.Lines, got.Lines, "%+v", q)
	}
	feet := func(s service) string {
		list, err := s.list(t, question{}, selection{Columns: "value"})
		require.NoError(t, err)
		return list.Totals[0].Cells[0].Text
	}
	assert.Equal(t, feet(s), feet(again))
}

// Every form has all rows and what was asked; contacts can be left out, and no text is run.
func TestTakingListsAway(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{
		write(t, "orders.csv", "number,customer,ordered,shipped,value,currency,note\n007,=cmd(),2026-07-01,2026-07-03,12.50,EUR,-1\n008,Clover,2026-07-02,,3,EUR,plain\n"),
		write(t, "customers.csv", "customer,contact,telephone\nClover,Ana Example,+1 555 0100\n"),
	})
	require.NoError(t, err)
	q := question{Period: "2026-07"}
	words := selection{Columns: `number, customer, customer-contact, customer-telephone, customer_contact == "Ana Example" as "Ana", shipped, value, note, length`, Highlights: []string{"plum: shipped == null"}}.Words(q)
	take := func(format string, without bool) []byte {
		var out bytes.Buffer
		require.NoError(t, s.TakeAway(t.Context(), words, format, without, &out))
		return out.Bytes()
	}
	text := string(take("csv", false))
	assert.Contains(t, text, "How long from order date to ship date, in working days, start day not counted, for orders ordered in 2026-07? All selected orders: 2 orders in 2 rows")
	assert.Contains(t, text, "2 orders selected = 1 counted + 1 still running.")
	assert.Contains(t, text, "007,'=cmd(),,,no,2026-07-03,12.50,'-1,2,,\"order date → ship date, working days, start day not counted: holidays unknown on some day\"\r\n")
	assert.Contains(t, text, "008,Clover,Ana Example,'+1 555 0100,yes,,3.00,plain,1,plum,\"order date → ship date, working days, start day not counted: still running, so far, holidays unknown on some day\"\r\n")
	assert.Contains(t, string(take("csv", true)),
		"number,customer,ship date,value,note,\"order date → ship date, working days, start day not counted\",highlight,remarks\r\n",
		"a condition on a contact tells it too")

	var whole answer.Document
	require.NoError(t, json.Unmarshal(take("json", false), &whole))
	all := gridOf(t, whole.Parts[0], "orders")
	assert.Equal(t, 12.5, *all.cell(all.Rows[0], "value").Number)
	assert.Equal(t, "=cmd()", all.cell(all.Rows[0], "customer").Text)
	assert.Len(t, strings.Split(strings.TrimSpace(string(take("ndjson", false))), "\n"), 3)
	sheet, err := excelize.OpenReader(bytes.NewReader(take("xlsx", false)))
	require.NoError(t, err)
	number, err := sheet.GetCellValue("Orders", "A2")
	require.NoError(t, err)
	assert.Equal(t, "007", number)
	require.NoError(t, sheet.Close())
	packed := take("parquet", false)
	columns, err := parquet.OpenFile(bytes.NewReader(packed), int64(len(packed)))
	require.NoError(t, err)
	assert.EqualValues(t, 2, columns.NumRows())

	// What tells of a contact in any other way goes as well: its size, a highlight that asks about it, a highlight of a column that goes.
	words.Set("columns", "number, size(customer_contact), customer-contact")
	words["highlight"] = []string{`amber: customer_contact == "Ana Example"`, "teal on customer-contact: true",
		"faint on number: shipped == null"}
	text = string(take("csv", true))
	assert.Contains(t, text, "\r\nnumber,highlight\r\n007,\r\n008,faint number\r\n")
	assert.NotContains(t, text, "Ana")
	words.Set("columns", "customer-contact")
	words.Del("highlight")
	err = s.TakeAway(t.Context(), words, "csv", true, &bytes.Buffer{})
	assert.ErrorContains(t, err, "no column is left")
	err = s.TakeAway(t.Context(), words, "pdf", false, &bytes.Buffer{})
	assert.ErrorContains(t, err, "validation failed")
}

// A label is tried, kept and used as a field; it goes with the records that it asks about, and comes back with them.
func TestLabelsAreFields(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv", fewOrders)})
	require.NoError(t, err)
	_, err = s.SaveSettings(t.Context(), api.Settings{DataDate: "2026-07-31"})
	require.NoError(t, err)
	rule := func(where, text string) api.LabelRule { return api.LabelRule{Where: where, Text: text} }
	slow := api.LabelDefinition{Rules: []api.LabelRule{rule("working_days_so_far(ordered, shipped) > 8", "slow"),
		rule("shipped == null", "waiting"), rule("cancelled != null", "given up")}, Rest: "quick"}
	tried, err := s.TryLabel(t.Context(), "Pace", slow)
	require.NoError(t, err)
	list, err := s.Labels(t.Context())
	require.NoError(t, err)
	assert.Empty(t, list.Labels, "trying keeps nothing")
	kept, err := s.SaveLabel(t.Context(), "Pace", slow, false)
	require.NoError(t, err)
	assert.Equal(t, tried, kept)
	assert.Equal(t, "pace", kept.Name)
	total := 0
	for _, c := range kept.Counts {
		total += c.Orders
	}
	assert.Equal(t, 3, total)
	assert.Contains(t, kept.Counts, api.LabelCount{Text: "given up", Orders: 0}, "a text that no order has is listed")

	_, err = s.SaveLabel(t.Context(), "pace", slow, false)
	assert.ErrorContains(t, err, "there already")
	_, err = s.SaveLabel(t.Context(), "pace", slow, true)
	require.NoError(t, err)
	_, err = s.SaveLabel(t.Context(), "pace", api.LabelDefinition{Rules: []api.LabelRule{rule(`pace == "slow"`, "x")}}, true)
	assert.ErrorContains(t, err, `label "pace": it refers to itself`)
	_, err = s.SaveLabel(t.Context(), "worry", api.LabelDefinition{Rules: []api.LabelRule{rule(`pace == "slow" && hive_colour == "white"`,
		"yes")}, Rest: "no"}, false)
	assert.ErrorContains(t, err, `there is no field, date or number "hive_colour"`)

	byPace := gridOf(t, s.took(t, question{By: []string{"pace"}}).Parts[0], "groups")
	for _, g := range byPace.Rows {
		list, err := s.list(t, question{Where: fmt.Sprintf("pace == %q", byPace.names(g))}, selection{Columns: "pace", Sort: "-pace"})
		require.NoError(t, err)
		assert.Equal(t, byPace.count(g, "asked"), list.All)
		for _, r := range list.Rows {
			assert.Equal(t, []string{byPace.names(g)}, cellTexts(r))
		}
	}

	// A field that comes and goes with a load.
	_, err = s.Load(t.Context(), []string{write(t, "colours.csv", "number,hive colour\nA/1,white\n")})
	require.NoError(t, err)
	pale := api.LabelDefinition{Rules: []api.LabelRule{rule(`hive_colour == "white" && pace != "waiting"`, "pale")}, Rest: "not pale"}
	_, err = s.SaveLabel(t.Context(), "pale", pale, false)
	require.NoError(t, err)
	_, err = s.DeleteLabel(t.Context(), "pace")
	assert.ErrorContains(t, err, `the label "pace" is used by pale`)
	loads, err := s.Loads(t.Context())
	require.NoError(t, err)
	_, err = s.Undo(t.Context(), loads.Loads[0].Number)
	require.NoError(t, err)
	list, err = s.Labels(t.Context())
	require.NoError(t, err)
	require.Len(t, list.Labels, 2)
	assert.Contains(t, list.Labels[1].Problem, `there is no field, date or number "hive_colour"`)
	assert.Empty(t, list.Labels[0].Problem)
	assert.ErrorContains(t, s.tookNot(t, question{By: []string{"pale"}}), "not a grouping", "a label that cannot be told is no field")
	_, err = s.DeleteLabel(t.Context(), "pale")
	require.NoError(t, err)
	_, err = s.DeleteLabel(t.Context(), "pale")
	assert.ErrorContains(t, err, "nothing is kept under this name")
	left, err := s.DeleteLabel(t.Context(), "pace")
	require.NoError(t, err)
	assert.Empty(t, left.Labels)
}

func TestViewsAreKeptUnderNames(t *testing.T) {
	s := startService(t)
	content := api.ViewContent{Address: "/orders?where=paid+%3D%3D+null", Sentence: "How long …?"}
	_, err := s.SaveView(t.Context(), "Unpaid", content, false)
	require.NoError(t, err)
	_, err = s.SaveView(t.Context(), "UNPAID", content, false)
	assert.ErrorContains(t, err, "a view of this name is there already")
	content.Address = "/how-long?by=site"
	views, err := s.SaveView(t.Context(), "unpaid", content, true)
	require.NoError(t, err)
	require.Len(t, views.Views, 1)
	assert.Equal(t, "/how-long?by=site", views.Views[0].Address)
	_, err = s.CopyView(t.Context(), "unpaid", "By site, and more / less")
	require.NoError(t, err)
	_, err = s.RenameView(t.Context(), "unpaid", "by SITE, and more / less")
	assert.ErrorContains(t, err, "there already")
	views, err = s.RenameView(t.Context(), "unpaid", "Unpaid ones")
	require.NoError(t, err)
	assert.Equal(t, []string{"By site, and more / less", "Unpaid ones"}, []string{views.Views[0].Name, views.Views[1].Name})
	_, err = s.View(t.Context(), "paid")
	assert.ErrorContains(t, err, `there is no view "paid"; there are By site, and more / less, Unpaid ones`)
	one, err := s.View(t.Context(), "by site, and more / less")
	require.NoError(t, err)
	assert.Equal(t, content.Address, one.Address)
	views, err = s.DeleteView(t.Context(), one.Name)
	require.NoError(t, err)
	assert.Len(t, views.Views, 1)
	_, err = s.DeleteView(t.Context(), one.Name)
	assert.ErrorContains(t, err, "nothing is kept under this name")
	_, err = s.SaveView(t.Context(), "elsewhere", api.ViewContent{Address: "https://example.org"}, false)
	assert.ErrorContains(t, err, "validation failed")
	_, err = s.RenameView(t.Context(), "Unpaid ones", " ")
	assert.ErrorContains(t, err, "a view needs a name")
}

// The list in the console: columns chosen, named, moved and widened; highlights; what is taken away; a view and a label kept.
func TestConsoleLists(t *testing.T) {
	s, m := demoService(t)
	b := newTab(t)
	folder := t.TempDir()
	b.do(letIn(s.entry(t)), downloadsTo(folder), chromedp.Navigate(s.address+"/orders?sort=-number"))
	b.text(test("selected"), fmt.Sprintf("%s orders in %s rows", numfmt.Count(m.Orders), numfmt.Count(m.Orders)))
	heads := func() []string {
		return evaluate[[]string](b, `[...document.querySelectorAll('[data-test="orders"] thead .head > button:first-child')].map(h => h.innerText.trim())`)
	}

	// Only what is looked at is in the page, and the end of the list can be reached.
	assert.Less(t, evaluate[int](b, `document.querySelectorAll('[data-test="orders"] tbody tr').length`), 100)
	b.do(run(`document.querySelector('.frame').scrollTop = 1e9`))
	last, err := s.list(t, question{}, selection{Limit: 1})
	require.NoError(t, err)
	b.text(test("orders")+" tbody tr:last-child", last.Rows[0].Order)
	b.do(run(`document.querySelector('.frame').scrollTop = 0`))

	// A column more, by its name and as it is written; the others keep their places.
	b.do(chromedp.Click(test("columns"), chromedp.NodeVisible), press("show-value"))
	b.text(test("foot-value"), "below")
	b.do(chromedp.Focus(field("type-column")), chromedp.KeyEvent(`paid == null as "Unpaid"`+kb.Enter))
	b.text(test("orders")+" thead", "Unpaid")
	before := heads()
	assert.Equal(t, []string{"value", "Unpaid"}, before[len(before)-2:])
	unpaid, err := s.list(t, question{Where: "paid == null"}, selection{Limit: 1})
	require.NoError(t, err)
	b.text(test("foot-paid == null"), "orders "+numfmt.Count(unpaid.All))

	// A heading of one's own, another place, another width: all in the address.
	b.do(chromedp.Click(test("column-customer"), chromedp.NodeVisible), chromedp.WaitVisible(test("heading")),
		chromedp.Focus(field("heading")), chromedp.KeyEvent("Client"+kb.Enter))
	b.text(test("orders")+" thead", "Client")
	b.do(chromedp.Click(test("column-customer"), chromedp.NodeVisible), chromedp.Click(test("to-left"), chromedp.NodeVisible))
	b.comes("the customer first", func() bool { return heads()[0] == "Client" })
	width := func() int {
		return evaluate[int](b, `document.querySelector('[data-test="orders"] th').offsetWidth`)
	}
	wide := width()
	b.do(chromedp.Focus(test("width-customer")), chromedp.KeyEvent(kb.ArrowRight))
	b.comes("a wider column", func() bool { return width() == wide+20 })
	columns := evaluate[string](b, `new URLSearchParams(location.search).get('columns')`)
	assert.Contains(t, columns, fmt.Sprintf(`customer as "Client" wide %d, number, site`, wide+20))
	b.do(run(`document.querySelector('.frame').scrollLeft = 400`))
	assert.Equal(t, 1, evaluate[int](b, `Math.round(document.querySelector('[data-test="orders"] tbody td').getBoundingClientRect().left - document.querySelector('.frame').getBoundingClientRect().left)`), "the first column stays in view")

	// A highlight by a picked condition, and undone.
	b.do(chromedp.Click(test("highlights"), chromedp.NodeVisible), choose("highlight-style", "▲ plum"))
	b.do(chromedp.Click(".add "+test("pick-where"), chromedp.NodeVisible), chromedp.WaitVisible(test("condition-text")),
		chromedp.Focus(field("condition-text")), chromedp.KeyEvent("shipped == null"))
	b.text(test("picks"), "ship date")
	b.do(chromedp.Click(test("ask-where")))
	b.text(test("legend"), "1. ▲ shipped == null")
	assert.Contains(t, evaluate[string](b, `location.search`), "highlight=plum")
	b.do(chromedp.Click(test("undo-highlights"), chromedp.NodeVisible), chromedp.WaitNotPresent(test("legend")),
		chromedp.KeyEvent(kb.Escape))

	// A condition comes apart into picks; one of them is changed.
	b.do(chromedp.Navigate(s.address + "/orders?where=" + url.QueryEscape(`site == "Galway" && value > 500`)))
	b.do(chromedp.Click(test("sentence")+" "+test("pick-where"), chromedp.NodeVisible))
	b.text(test("picks"), "and value")
	b.do(enter("pick-value-1", "900"))
	b.comes("the condition's text", func() bool {
		return evaluate[string](b, `document.querySelector('[data-test="condition-text"] textarea').value`) == `site == "Galway" && value > 900`
	})
	b.do(chromedp.Focus(field("condition-text")), chromedp.KeyEvent(" && shiped == null"))
	b.text(test("condition-text"), "did you mean shipped?")
	b.do(enter("condition-text", `site == "Galway" && value > 900`), chromedp.Click(test("ask-where")))
	want, err := s.list(t, question{Where: `site == "Galway" && value > 900`}, selection{})
	require.NoError(t, err)
	b.text(test("selected"), fmt.Sprintf("%s orders", numfmt.Count(want.All)))

	// Taken away, and kept.
	b.do(chromedp.Click(test("export"), chromedp.NodeVisible), chromedp.Click(test("export-csv"), chromedp.NodeVisible))
	require.Eventually(t, func() bool {
		text, _ := os.ReadFile(filepath.Join(folder, "orders.csv"))
		return strings.Count(string(text), "\r\n") == want.All+2
	}, 20*time.Second, 50*time.Millisecond)
	b.do(chromedp.Click(test("save-view"), chromedp.NodeVisible), chromedp.WaitVisible(test("view-name")), chromedp.Focus(field("view-name")),
		chromedp.KeyEvent("Galway, large"+kb.Enter))
	b.text(test("view-saved"), "Saved as Galway, large")
	b.do(chromedp.Navigate(s.address+"/views"), chromedp.Click(test("views")+" tbody a", chromedp.NodeVisible))
	b.text(test("selected"), fmt.Sprintf("%s orders", numfmt.Count(want.All)))
	b.do(chromedp.Click(test("save-view"), chromedp.NodeVisible), chromedp.WaitVisible(test("view-name")), chromedp.Focus(field("view-name")),
		chromedp.KeyEvent("galway, LARGE"+kb.Enter), chromedp.Click(test("replace-view"), chromedp.NodeVisible))
	b.text(test("view-saved"), "galway, LARGE")
	b.do(chromedp.Navigate(s.address+"/views"), chromedp.Click(test("rename-galway, LARGE"), chromedp.NodeVisible),
		chromedp.WaitVisible(test("new-name")), enter("new-name", "Large ones"), chromedp.Focus(field("new-name")),
		chromedp.KeyEvent(kb.Enter))
	b.text(test("views"), "Large ones")
	b.do(chromedp.Navigate(s.address + "/views/nothing"))
	b.text("[role=alert]", "There is no view “nothing”")

	// A label is tried while it is written, kept, and opens its orders.
	b.do(chromedp.Navigate(s.address+"/labels"), chromedp.WaitVisible(test("label-name")), chromedp.Focus(field("label-name")),
		chromedp.KeyEvent("payment"),
		chromedp.Focus(field("rule-text-0")), chromedp.KeyEvent("paid"), chromedp.Focus(field("rule-where-0")),
		chromedp.KeyEvent("paaid != null"))
	b.text(test("label-refused"), "did you mean paid?")
	b.do(enter("rule-where-0", "paid != null"), chromedp.Focus(field("rule-rest")), chromedp.KeyEvent("not paid"))
	b.text(test("tried"), numfmt.Count(unpaid.All)+" not paid")
	b.do(chromedp.Click(test("save-label"), chromedp.NodeVisible))
	b.text(test("label-payment"), "paid != null")
	b.do(chromedp.Click(test("label-payment") + " tr:nth-child(2) a"))
	b.text(test("selected"), numfmt.Count(unpaid.All)+" orders")
	b.text(test("orders"), "not paid")
	b.do(chromedp.Navigate(s.address+"/labels"), chromedp.Click(test("delete-payment"), chromedp.NodeVisible),
		chromedp.WaitNotPresent(test("label-payment")))
	for _, fault := range b.wentWrong() {
		assert.Contains(t, fault, "responded with a status of 4", "nothing but what was refused on purpose")
	}
}
