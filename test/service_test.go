package test

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
	"prairiedusk/internal/app"
	"prairiedusk/internal/client"
	"prairiedusk/internal/demo"
	"prairiedusk/internal/pgcluster/clustertest"
)

const fewOrders = "number,site,place,country,ordered,promised,shipped,value,currency\n" +
	"A/1,Lisbon,Porto,Portugal,2026-06-29,2026-07-03,2026-07-10,12.50,EUR\n" +
	"A/2,Lisbon,\"Vila, Nova\",Portugal,2026-07-02,,,,\n" +
	"A/10,,,,2026-07-03,2026-07-06,2026-07-06,1.500,OMR\n"

func TestLoadingAgainChangesOnlyWhatDiffers(t *testing.T) {
	s := startService(t)
	counts := func(text string) api.LoadFile {
		load, err := s.LoadAs(t.Context(), []string{write(t, "orders.csv", text)}, client.Reading{AcceptSetAside: true})
		require.NoError(t, err)
		return load.Files[0]
	}
	first := counts(fewOrders)
	assert.Equal(t, []int64{3, 0, 0, 0}, []int64{first.New, first.Changed, first.Same, first.SetAside})
	before, err := s.Book(t.Context())
	require.NoError(t, err)
	again := counts(fewOrders)
	assert.Equal(t, []int64{0, 0, 3, 0}, []int64{again.New, again.Changed, again.Same, again.SetAside})
	assert.Equal(t, first.SHA256, again.SHA256)

	running := func() int {
		groups := gridOf(t, s.took(t, question{}).Parts[0], "groups")
		return groups.count(groups.total(), "asked") - groups.count(groups.total(), "n")
	}
	assert.Equal(t, 1, running())
	third := counts("number,shipped\nA/2,2026-07-07\nA/11,\nA/12,2026-13-01\n")
	assert.Equal(t, []int64{1, 1, 0, 1}, []int64{third.New, third.Changed, third.Same, third.SetAside})
	assert.Equal(t, 1, running(), "A/2 has shipped, A/11 has no ordered day")
	after, err := s.Book(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 4, after.Orders)
	assert.Greater(t, after.Version, before.Version)

	loads, err := s.Loads(t.Context())
	require.NoError(t, err)
	require.Len(t, loads.Loads, 3)
	rows, err := s.SetAsideRows(t.Context(), loads.Loads[0].Number, client.SetAside{}, 0, 10)
	require.NoError(t, err)
	require.Len(t, rows.Rows, 1)
	assert.Equal(t, api.SetAsideRow{File: "orders.csv", Kind: "orders", Row: 4, Column: "shipped", Value: "2026-13-01",
		Raw:    "A/12,2026-13-01",
		Reason: "not a day: there is no month 13; want YYYY-MM-DD from 1900-01-01 to 2199-12-31"}, rows.Rows[0])
}

// Rows that were set aside come out as they stood, and are cleared by the load that brings them mended.
func TestRowsAreMendedAndLoadsUndone(t *testing.T) {
	s := startService(t)
	yes := client.Reading{AcceptSetAside: true}
	first, err := s.LoadAs(t.Context(), []string{write(t, "orders.csv",
		"Number,Ordered,Customer\nA,2026-07-32,\"Clover, \"\"Ltd\"\"\"\nB,2026-07-02,Heather\nC,soon,\n,2026-07-03,\n")}, yes)
	require.NoError(t, err)
	var waiting bytes.Buffer
	err = s.Waiting(t.Context(), first.Number, "", &waiting)
	require.NoError(t, err)
	records, err := csv.NewReader(bytes.NewReader(waiting.Bytes())).ReadAll()
	require.NoError(t, err)
	require.Len(t, records, 4)
	assert.Equal(t, []string{"Number", "Ordered", "Customer", "set aside because"}, records[0])
	assert.Equal(t, []string{"A", "2026-07-32", `Clover, "Ltd"`}, records[1][:3])
	assert.Contains(t, records[1][3], "July 2026 has no day 32")

	mended := strings.Replace(waiting.String(), "2026-07-32", "2026-07-30", 1)
	check, err := s.Check(t.Context(), []string{write(t, "mended.csv", mended)}, client.Reading{})
	require.NoError(t, err)
	assert.Equal(t, []any{int64(0), int64(1), int64(2), 2}, []any{check.Number, check.Files[0].New, check.SetAside, len(check.Rows)})
	second, err := s.LoadAs(t.Context(), []string{write(t, "mended.csv", mended)}, yes)
	require.NoError(t, err)
	assert.Equal(t, []any{int64(1), int64(2), []string{"set aside because"}}, []any{second.Files[0].New, second.SetAside,
		second.Files[0].UnusedColumns})
	rows, err := s.SetAsideRows(t.Context(), first.Number, client.SetAside{}, 0, 10)
	require.NoError(t, err)
	assert.Equal(t, []int64{second.Number, 0, 0}, []int64{rows.Rows[0].ClearedBy, rows.Rows[1].ClearedBy, rows.Rows[2].ClearedBy})
	loads, err := s.Loads(t.Context())
	require.NoError(t, err)
	assert.Equal(t, []int64{3, 2}, []int64{loads.Loads[1].Files[0].SetAside, loads.Loads[1].Files[0].Waiting}, "one has come mended")
	rows, err = s.SetAsideRows(t.Context(), first.Number, client.SetAside{Waiting: true, Column: "Ordered", File: "orders.csv"}, 0, 10)
	require.NoError(t, err)
	require.Len(t, rows.Rows, 1)
	assert.Equal(t, "soon", rows.Rows[0].Value)
	err = s.Waiting(t.Context(), 99, "", io.Discard)
	assert.ErrorContains(t, err, "no row of load 99 waits")

	before := s.took(t, question{})
	_, err = s.Load(t.Context(), []string{write(t, "more.csv", "number,shipped,hive colour\nA,2026-08-03,white\nD,2026-08-04,\n")})
	require.NoError(t, err)
	order, err := s.Order(t.Context(), "A", question{}.Words())
	require.NoError(t, err)
	assert.Equal(t, []api.Change{{Load: 3, Kind: "orders", Key: []string{}, Column: "hive-colour", New: "white"},
		{Load: 3, Kind: "orders", Key: []string{}, Column: "shipped", New: "2026-08-03"}}, order.Changes)
	s.took(t, question{By: []string{"hive-colour"}})

	_, err = s.Undo(t.Context(), 2)
	assert.ErrorContains(t, err, "only the last load can be undone, and that is 3")
	loads, err = s.Undo(t.Context(), 3)
	require.NoError(t, err)
	assert.NotEmpty(t, loads.Loads[0].UndoneAt)
	after := s.took(t, question{})
	assert.Greater(t, after.Version, before.Version)
	after.Version = before.Version
	assert.Equal(t, before, after)
	assert.ErrorContains(t, s.tookNot(t, question{By: []string{"hive-colour"}}), "not a grouping")
}

// More than 2 in 100 rows, or every cell of a column, are set aside only with a yes; without it nothing is loaded.
func TestManyRowsAreSetAsideOnlyWithAYes(t *testing.T) {
	s := startService(t)
	file := func(good int, bad ...string) string {
		rows := "number,ordered,shipped\n"
		for i := range good {
			rows += fmt.Sprintf("G-%d,2026-07-01,\n", i)
		}
		return write(t, "orders.csv", rows+strings.Join(bad, ""))
	}
	for _, tt := range []struct {
		name, path, want string
	}{
		{"2 in 99", file(97, "A,soon,\n", "B,soon,\n"),
			"orders.csv: 2 of 99 rows would be set aside, the first of them row 99, soon: not a day"},
		{"every cell of a column", file(99, "A,2026-07-01,soon\n"),
			`every cell of column "shipped", and with them 1 of 100 rows, would be set aside`},
		{"a line end in a cell", file(3, "A,2026-07-01\n", "B,x\n"), "2 of 5 rows would be set aside"},
	} {
		check, err := s.Check(t.Context(), []string{tt.path}, client.Reading{})
		require.NoError(t, err, tt.name)
		require.Len(t, check.MustAccept, 1, tt.name)
		_, err = s.Load(t.Context(), []string{tt.path})
		require.ErrorContains(t, err, tt.want, tt.name)
		var problem *client.Problem
		require.ErrorAs(t, err, &problem)
		require.Equal(t, []client.FileQuestion{{Word: "accept_set_aside", ColumnQuestion: api.ColumnQuestion{File: "orders.csv",
			Asks: strings.TrimPrefix(check.MustAccept[0], "orders.csv: "), Answers: []string{"yes"}}}}, problem.Questions())
		book, err := s.Book(t.Context())
		require.NoError(t, err)
		require.Zero(t, book.Orders, "%s: nothing is loaded", tt.name)
	}
	load, err := s.Load(t.Context(), []string{file(98, "A,soon,\n", "B,soon,\n")})
	require.NoError(t, err, "2 in 100 are few")
	assert.EqualValues(t, 2, load.SetAside)
	load, err = s.LoadAs(t.Context(), []string{file(0, "A,soon,\n", "B,2026-07-02,\n")}, client.Reading{AcceptSetAside: true})
	require.NoError(t, err)
	assert.EqualValues(t, 1, load.SetAside)
}

// An order's parts, from three files in any order, tell when it was shipped and paid.
// The answer to a load lists the first rows that were set aside and counts them all; a check alone names no status as new, since
// it keeps none.
func TestWhatTheAnswerToALoadLists(t *testing.T) {
	s := startService(t)
	for _, bad := range []int{20, 21} {
		check, err := s.Check(t.Context(), []string{write(t, "orders.csv", "number,ordered\n"+strings.Repeat("A,soon\n", bad))},
			client.Reading{})
		require.NoError(t, err)
		assert.Equal(t, []any{int64(bad), 20}, []any{check.SetAside, len(check.Rows)})
	}
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv", "number,ordered\nA,2026-07-01\n"),
		write(t, "list.csv", "status,step\npacked,1\n"),
		write(t, "first.csv", "order,status,at\nA,queued,2026-07-01\n")})
	require.NoError(t, err)
	path := write(t, "statuses.csv", "order,status,at\nA,packed,2026-07-02\nA,lost,2026-07-03\n")
	check, err := s.Check(t.Context(), []string{path}, client.Reading{})
	require.NoError(t, err)
	assert.Empty(t, check.Statuses)
	load, err := s.Load(t.Context(), []string{path})
	require.NoError(t, err)
	assert.Equal(t, []string{"queued", "lost"}, load.Statuses)
}

func TestPartsTellMilestones(t *testing.T) {
	s := startService(t)
	load := func(name, text string) {
		_, err := s.Load(t.Context(), []string{write(t, name, text)})
		require.NoError(t, err)
	}
	shown := func(number string) map[string]string {
		order, err := s.Order(t.Context(), number, question{}.Words())
		require.NoError(t, err)
		return order.Order.Milestones
	}
	load("payments.csv", "receipt,order,paid,amount,currency\nR1,A,2026-07-20,60,EUR\nR2,A,2026-07-09,40,\n")
	load("shipments.csv", "shipment,order,line,units,shipped,delivered\nS1,A,1,2,2026-07-06,2026-07-08\nS2,A,2,1,2026-07-10,\n")
	load("export.csv", "order,ordered,shipped,value,currency,line,units,batch no\nA,2026-07-01,2026-07-02,100,EUR,1,2,x\nA,2026-07-01,2026-07-02,100,EUR,2,3,\nB,2026-07-01,2026-07-03,,,1,1,\n")
	assert.Equal(t, map[string]string{"ordered": "2026-07-01", "first-shipped": "2026-07-06", "first-delivered": "2026-07-08",
		"first-paid": "2026-07-09", "paid": "2026-07-20"}, shown("A"), "two units are missing; parts beat the order's own day")
	assert.Equal(t, map[string]string{"ordered": "2026-07-01", "shipped": "2026-07-03"}, shown("B"), "its parts say nothing")
	order, err := s.Order(t.Context(), "A", question{}.Words())
	require.NoError(t, err)
	assert.Equal(t, []string{"part shipped", "part delivered", "its own ship date differs from its shipments'"}, order.Findings)
	assert.Equal(t, []api.PartTable{
		{Kind: "order-lines", Columns: []string{"line", "units", "batch-no"}, Rows: [][]string{{"1", "2", "x"}, {"2", "3", ""}}},
		{Kind: "shipments", Columns: []string{"shipment", "line", "shipped", "delivered", "units"},
			Rows: [][]string{{"S1", "1", "2026-07-06", "2026-07-08", "2"}, {"S2", "2", "2026-07-10", "", "1"}}},
		{Kind: "payments", Columns: []string{"receipt", "paid", "amount", "currency"},
			Rows: [][]string{{"R1", "2026-07-20", "60.00", "EUR"}, {"R2", "2026-07-09", "40.00", ""}}},
	}, order.Parts)
	load("more.csv", "shipment,order,line,units,shipped,delivered\nS2,A,2,1,2026-07-10,2026-07-12\nS3,A,2,2,2026-07-13,2026-07-15\n")
	assert.Equal(t, []string{"2026-07-13", "2026-07-15"}, []string{shown("A")["shipped"], shown("A")["delivered"]})

	// What lies after the data date is not known; when that moves on, it is.
	_, err = s.SaveSettings(t.Context(), api.Settings{DataDate: "2026-07-12"})
	require.NoError(t, err)
	assert.Equal(t, []string{"", "2026-07-06"}, []string{shown("A")["shipped"], shown("A")["first-shipped"]})
	_, err = s.SaveSettings(t.Context(), api.Settings{})
	require.NoError(t, err)
	assert.Equal(t, "2026-07-13", shown("A")["shipped"])
}

// What the demo's maker planted is found, order by order; and nothing is doubted of a book without faults.
func TestDoubtsFindWhatWasPlanted(t *testing.T) {
	s, m := demoService(t)
	issues := s.issues(t)
	for code, kind := range map[string]string{
		"shipped-before-ordered":   demo.ShippedBeforeOrdered,
		"no-ordered-day":           demo.NoOrderedDay,
		"cancelled-before-ordered": demo.CancelledBeforeOrdered,
		"shipped-after-cancelled":  demo.CancelledBetween,
		"no-site":                  demo.NoSite,
		"no-currency":              demo.NoCurrency,
		"no-lines":                 demo.WithoutLines,
		"shipped-differs":          demo.ShippedDiffers,
		"payment-unclear":          demo.PaidElsewhere,
		"status-ambiguous":         demo.StatusTie,
		"status-sources-differ":    demo.StatusEarly,
	} {
		numbers := s.numbersOf(t, question{}, selection{Behind: "quality?code=" + code})
		assert.ElementsMatch(t, m.Planted[kind], numbers, code)
		assert.Equal(t, issues[code].count, len(numbers), code)
	}
	for code, kind := range map[string]string{"customer-without-orders": demo.CustomerWithout, "receipt-twice": demo.ReceiptTwice,
		"place-without-coordinates": demo.PlaceWithout} {
		assert.Equal(t, len(m.Planted[kind]), issues[code].count, code)
	}
	dates := gridOf(t, s.ask(t, "/quality").Parts[0], "dates")
	for _, r := range dates.Rows {
		assert.Equal(t, m.Orders, dates.count(r, "present")+dates.count(r, "missing"), dates.names(r))
	}

	clean := startService(t)
	_, err := clean.Load(t.Context(), []string{write(t, "orders.csv", "number,customer,ordered,shipped\nA,C,2026-07-01,2026-07-02\n")})
	require.NoError(t, err)
	require.Len(t, clean.issues(t), 1)
	assert.Contains(t, clean.issues(t), "no-site")
	_, err = clean.Load(t.Context(), []string{write(t, "rest.csv", "order,line,product\nA,1,HIVE\nZ,1,HIVE\n"),
		write(t, "s.csv", "order,status,at\nA,On hold,2026-07-01T09:00\nA,on-hold,2026-07-02\nA,picked,2026-07-02\nA,packed,2026-07-02\nA,shipped,2026-07-02\n")})
	require.NoError(t, err)
	examples := map[string]string{}
	for code, issue := range clean.issues(t) {
		examples[code] = issue.examples
	}
	require.Len(t, strings.Split(examples["status-without-time"], "; "), 4)
	delete(examples, "status-without-time")
	assert.Equal(t, map[string]string{"no-site": "", "status-ambiguous": "", "line-without-order": "Z line 1",
		"status-alike": "On hold and on-hold"}, examples)
	_, err = clean.Load(t.Context(), []string{write(t, "t.csv", "order,status,at\nA,returned,2026-07-09T10:00\n")})
	require.NoError(t, err)
	assert.Equal(t, "returned", clean.issues(t)["status-new"].examples)
}

// An issue is what looks wrong with so many records.
type issue struct {
	count    int
	examples string
}

// issues are those that the service finds, by their codes.
func (s service) issues(t *testing.T) map[string]issue {
	found, table := map[string]issue{}, gridOf(t, s.ask(t, "/quality").Parts[0], "issues")
	for _, r := range table.Rows {
		assert.NotEmpty(t, table.cell(r, "what").Text)
		assert.NotEmpty(t, table.cell(r, "advice").Text)
		found[table.cell(r, "code").Text] = issue{table.count(r, "count"), table.cell(r, "examples").Text}
	}
	return found
}

func TestABadFileStopsTheWholeLoad(t *testing.T) {
	s := startService(t, func(settings *app.Settings) { settings.UploadLimit = 10_000 })
	good := write(t, "good.csv", fewOrders)
	for name, bad := range map[string]string{
		"cannot tell what the rows are": write(t, "bad.csv", "colour;note\n1;2026-07-01\n"),
		"an empty file":                 write(t, "empty.csv", ""),
		"no iCalendar file":             write(t, "cut.ics", "BEGIN:VCALENDAR\r\nVERSION:2.0\r\n"),
		"larger than the service":       write(t, "large.csv", "number\n"+strings.Repeat("12345678\n", 2000)),
		"no such file":                  "nowhere.csv",
		"is a folder without files":     t.TempDir(),
	} {
		_, err := s.Load(t.Context(), []string{good, bad})
		assert.ErrorContains(t, err, name)
	}
	book, err := s.Book(t.Context())
	require.NoError(t, err)
	assert.Zero(t, book.Orders, "the good file beside a bad one did not come in either")
	loads, err := s.Loads(t.Context())
	require.NoError(t, err)
	assert.Empty(t, loads.Loads)
}

// A client that goes away in the middle of a load leaves nothing behind, and the next load gets through.
func TestALoadThatBreaksOffLeavesNoTrace(t *testing.T) {
	s := startService(t)
	ctx, cancel := context.WithCancel(t.Context())
	body, end := io.Pipe()
	form := multipart.NewWriter(end)
	heard := make(chan api.Progress, 1)
	go func() {
		part, _ := form.CreateFormFile("file", "orders.csv")
		_, _ = io.WriteString(part, fewOrders)
		for i := range 5000 { // past all buffers
			_, _ = fmt.Fprintf(part, "N-%d,,,,,,,,\n", i)
		}
		listening, stop := context.WithTimeout(t.Context(), 20*time.Second)
		_ = s.Progress(listening, func(p api.Progress) {
			if p.Bytes > 10_000 {
				heard <- p
				stop()
			}
		})
		cancel()
		end.CloseWithError(context.Canceled)
	}()
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, s.address+"/api/v1/loads", body)
	require.NoError(t, err)
	request.Header.Set("Authorization", "Bearer "+s.token)
	request.Header.Set("Content-Type", form.FormDataContentType())
	_, err = http.DefaultClient.Do(request)
	require.Error(t, err)
	progress := <-heard
	assert.Equal(t, []any{true, "orders.csv", "receiving"}, []any{progress.Running, progress.File, progress.Phase})
	assert.Greater(t, progress.Bytes, int64(10_000))

	require.Eventually(t, func() bool {
		load, err := s.Load(t.Context(), []string{write(t, "orders.csv", fewOrders)})
		if err != nil {
			assert.ErrorContains(t, err, "another load is running")
			return false
		}
		assert.EqualValues(t, 3, load.Files[0].New, "nothing had come in before")
		return true
	}, 20*time.Second, 50*time.Millisecond)
}

func TestOrdersBehindANumber(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv", fewOrders)})
	require.NoError(t, err)
	q := question{By: []string{"place"}, In: "days"}
	places := gridOf(t, s.took(t, q).Parts[0], "groups")
	behind := map[string]string{}
	for _, g := range places.Rows {
		behind[places.names(g)] = string(places.cell(g, "asked").Behind)
	}
	comma, err := s.list(t, question{}, selection{Behind: behind["Vila, Nova"]})
	require.NoError(t, err)
	require.Equal(t, 1, comma.Orders)
	assert.Equal(t, "A/2", comma.Rows[0].Order)
	none, err := s.list(t, question{}, selection{Behind: behind["(none)"], Columns: "value"})
	require.NoError(t, err)
	require.Equal(t, 1, none.Orders)
	assert.Equal(t, "1.500", none.Rows[0].Cells[0].Text, "three decimals, by the currency")

	order, err := s.Order(t.Context(), "A/1", question{}.Words())
	require.NoError(t, err)
	assert.Equal(t, "06-29 to 07-10: 12 days = 1 start + 9 counted + 2 weekend", order.SumLine)
	_, err = s.Order(t.Context(), "A/99", question{}.Words())
	assert.ErrorContains(t, err, `no order "A/99"`)
}

// A condition picks orders wherever a question is asked; what it leaves out is counted and opens.
func TestConditionsPickOrders(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{write(t, "orders.csv", fewOrders)})
	require.NoError(t, err)
	_, err = s.SaveSettings(t.Context(), api.Settings{DataDate: "2026-07-31"})
	require.NoError(t, err)
	q := question{Where: `working_days_so_far(ordered, shipped) > 8 && site == "Lisbon"`}
	d := s.took(t, q)
	assert.Contains(t, d.Asked(), `, where working_days_so_far(ordered, shipped) > 8 && site == "Lisbon"?`)
	assert.Equal(t, "2 orders selected = 1 counted + 1 still running", d.Parts[0].Lines[0].Text, "who still waits is among the slow")
	assert.Equal(t, "3 orders in the book = 2 selected + 1 do not meet the condition", d.Parts[0].Lines[1].Text)

	q = question{Where: `shipped > "2026-07-01" && value < 10`, Period: "2026-07"}
	part := s.took(t, q).Parts[0]
	assert.Equal(t, "3 orders in the book = 1 selected + 1 with order date outside 2026-07 + 1 cannot be decided yet (1 without ship date)",
		part.Lines[1].Text)
	for i, want := range []string{"A/10", "A/1", "A/2"} {
		list, err := s.list(t, question{}, selection{Behind: string(part.Lines[1].Terms[1+i].Behind)})
		require.NoError(t, err)
		require.Equal(t, 1, list.Orders, want)
		assert.Equal(t, want, list.Rows[0].Order)
	}
	values, err := s.Values(t.Context(), "place", "VILA")
	require.NoError(t, err)
	assert.Equal(t, []string{"Vila, Nova"}, values.Values)
	_, err = s.Values(t.Context(), "colour", "")
	assert.ErrorContains(t, err, `there is no field "colour"`)
	status, body := s.get(t, "/api/v1/took?where=shiped%20%3D%3D%20null")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, fmt.Sprint(body["errors"]), `line 1, column 1: there is no "shiped" here; did you mean shipped?`)
	_, err = s.list(t, question{Where: strings.Repeat("x", 10_001)}, selection{})
	assert.Error(t, err)
}

func TestWrongQuestionsAreProblemDetails(t *testing.T) {
	s := startService(t)
	for _, tt := range []struct {
		path   string
		status int
		want   string
	}{
		{"/api/v1/took?from=orderd", 422, "did you mean ordered?"},
		{"/api/v1/took?period=July", 422, "does not say of which year"},
		{"/api/v1/took?form=ordered", 422, "validation failed"},
		{"/api/v1/orders?limit=0", 422, "validation failed"},
		{"/api/v1/orders?period=2026-01,2026-02", 422, "takes one period"},
		{"/api/v1/orders?sort=colour", 422, "is not a key to sort by"},
		{"/api/v1/calendars/Atlantis", 404, "no calendar"},
		{"/api/v1/nowhere", 404, "nothing at this address"},
	} {
		status, body := s.get(t, tt.path)
		assert.Equal(t, tt.status, status, tt.path)
		assert.EqualValues(t, tt.status, body["status"], tt.path)
		assert.Contains(t, body["detail"], tt.want, tt.path)
	}
	_, err := s.SaveSettings(t.Context(), api.Settings{FirstDay: "2026-05-01", DataDate: "2026-04-01"})
	assert.ErrorContains(t, err, "after the data date")
	status, body := s.get(t, "/api/openapi.json")
	assert.Equal(t, 200, status)
	assert.Equal(t, "3.1.0", body["openapi"])
}

// Whoever is not a client of this service on this machine is refused, on every address.
func TestStrangersAreRefused(t *testing.T) {
	s := startService(t)
	header := func(name, value string) func(*http.Request) {
		return func(r *http.Request) { r.Header.Set(name, value) }
	}
	host := func(name string) func(*http.Request) { return func(r *http.Request) { r.Host = name } }
	for _, tt := range []struct {
		name   string
		change func(*http.Request)
		status int
	}{
		{"ours", func(*http.Request) {}, 200},
		{"by the name localhost", host("localhost:8765"), 200},
		{"no token", header("Authorization", ""), 401},
		{"another token", header("Authorization", "Bearer x"), 401},
		{"the token in another scheme", header("Authorization", s.token), 401},
		{"a name that points here", host("rebound.example:8765"), 421},
		{"a name that looks like loopback", host("127.0.0.1.rebound.example"), 421},
		{"another page", header("Origin", "http://evil.example"), 403},
		{"a page of another port", header("Origin", "http://127.0.0.1:1"), 403},
		{"a page without an origin", header("Origin", "null"), 403},
		{"an image of another page", header("Sec-Fetch-Site", "cross-site"), 403},
		{"a page of another port, without an origin", header("Sec-Fetch-Site", "same-site"), 403},
		{"the same name by TLS", header("Origin", strings.Replace(s.address, "http:", "https:", 1)), 403},
	} {
		for _, path := range []string{"/api/v1/book", "/api/v1/took", "/metrics", "/api/openapi.json"} {
			status, body := s.get(t, path, tt.change)
			assert.Equalf(t, tt.status, status, "%s: %s", tt.name, path)
			if tt.status == 200 {
				break // one address shows that the others get through
			}
			assert.NotContains(t, body, "orders", tt.name)
		}
	}
	response, err := http.Get(s.address + "/healthz")
	require.NoError(t, err)
	response.Body.Close()
	assert.Equal(t, 200, response.StatusCode, "health says nothing about orders")
	assert.Empty(t, response.Header.Get("Access-Control-Allow-Origin"))
}

func TestTheFolderIsOursAlone(t *testing.T) {
	s := startService(t)
	for name, mode := range map[string]os.FileMode{".": 0o700, "token": 0o600, "service.json": 0o600} {
		info, err := os.Stat(s.folder + "/" + name)
		require.NoError(t, err)
		assert.Equalf(t, mode, info.Mode().Perm(), "mode of %s", name)
	}
	_, err := app.Start(t.Context(), app.Settings{Folder: s.folder, Listen: "127.0.0.1:0", Log: slog.New(slog.DiscardHandler)})
	assert.ErrorContains(t, err, "already runs on the data folder")
	assert.ErrorContains(t, err, s.address)

	// A folder with other things in it is not taken, and nothing in it is touched; nor is a link followed.
	start := func(folder string) error {
		running, err := app.Start(t.Context(), app.Settings{Folder: folder, Listen: "127.0.0.1:0", DatabaseURL: clustertest.Database(t),
			Log: slog.New(slog.DiscardHandler)})
		if err == nil {
			require.NoError(t, running.Stop())
		}
		return err
	}
	for name, spoil := range map[string]func(folder string) error{
		"holds other things, letters": func(folder string) error { return os.Mkdir(folder+"/letters", 0o755) },
		"a link":                      func(folder string) error { return os.Symlink("/etc/hostname", folder+"/lock") },
		"or no postgres":              func(folder string) error { return os.Symlink(t.TempDir(), folder+"/postgres") },
	} {
		folder := t.TempDir()
		require.NoError(t, os.Chmod(folder, 0o755))
		require.NoError(t, spoil(folder))
		assert.ErrorContains(t, start(folder), name)
		info, err := os.Stat(folder)
		require.NoError(t, err)
		assert.Equal(t, os.FileMode(0o755), info.Mode().Perm())
		entries, err := os.ReadDir(folder)
		require.NoError(t, err)
		assert.Len(t, entries, 1)
	}
	link := t.TempDir() + "/link"
	require.NoError(t, os.Symlink(t.TempDir(), link))
	assert.ErrorContains(t, start(link), "symbolic link")

	// Of a first start that was cut short something may be left; a token that is none lets nobody in.
	short := t.TempDir()
	for _, name := range []string{"lock", "format.unfinished", "token.unfinished"} {
		require.NoError(t, os.WriteFile(short+"/"+name, nil, 0o600))
	}
	require.NoError(t, start(short))
	token, err := app.Token(short)
	require.NoError(t, err)
	for _, bad := range []string{"", "\n", token[:19]} {
		require.NoError(t, os.WriteFile(short+"/token", []byte(bad), 0o600))
		assert.ErrorContains(t, start(short), "Remove it and start the service again")
		assert.NoFileExists(t, short+"/service.json")
	}
	require.NoError(t, os.Remove(short+"/token"))
	require.NoError(t, start(short))

	newer := t.TempDir()
	require.NoError(t, os.WriteFile(newer+"/format", []byte("99\n"), 0o600))
	_, err = app.Start(t.Context(), app.Settings{Folder: newer, Listen: "127.0.0.1:0", Log: slog.New(slog.DiscardHandler)})
	assert.ErrorContains(t, err, "newer version")
	for _, beyond := range []string{"0.0.0.0:0", "192.168.1.4:80", "example.org:80", "[::]:80", "nonsense"} {
		_, err = app.Start(t.Context(), app.Settings{Folder: t.TempDir(), Listen: beyond, Log: slog.New(slog.DiscardHandler)})
		assert.ErrorContains(t, err, "want", beyond)
	}
	taken := strings.TrimPrefix(s.address, "http://")
	_, err = app.Start(t.Context(), app.Settings{Folder: t.TempDir(), Listen: taken, Log: slog.New(slog.DiscardHandler)})
	assert.ErrorContains(t, err, "choose another port with --listen")
}

// The log and the metrics name routes and times; never a password, a token, or what stands in a query.
func TestLogsAndMetricsKeepSecrets(t *testing.T) {
	var log bytes.Buffer
	var address string
	s := startService(t, func(settings *app.Settings) {
		settings.Log = slog.New(slog.NewJSONHandler(&log, &slog.HandlerOptions{Level: slog.LevelDebug}))
		address = settings.DatabaseURL
	})
	password := strings.Split(strings.Split(address, ":")[2], "@")[0]
	s.get(t, "/api/v1/orders?by=customer&group=Clover+Secret")
	response, err := http.DefaultClient.Do(func() *http.Request {
		r, err := http.NewRequest(http.MethodGet, s.address+"/metrics", nil)
		require.NoError(t, err)
		r.Header.Set("Authorization", "Bearer "+s.token)
		return r
	}())
	require.NoError(t, err)
	metrics, err := io.ReadAll(response.Body)
	require.NoError(t, errors.Join(err, response.Body.Close()))
	assert.Contains(t, string(metrics), `prairie_dusk_request_seconds_count{method="GET",route="/api/v1/orders",status="422"} 1`)
	assert.Contains(t, log.String(), `"route":"/api/v1/orders"`)
	for _, secret := range []string{password, s.token, "Secret"} {
		assert.NotContains(t, log.String(), secret)
		assert.NotContains(t, string(metrics), secret)
	}
}

// A book without an order has no data date; what is loaded and set changes the answers all the same.
func TestABookWithoutADataDate(t *testing.T) {
	s := startService(t)
	holidays := func(name, uid string) string {
		return write(t, name, "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//made up//EN\r\nBEGIN:VEVENT\r\nUID:"+uid+"\r\nDTSTART;VALUE=DATE:20260101\r\nSUMMARY:New Year\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")
	}
	pin := func(day string) {
		book, err := s.SaveSettings(t.Context(), api.Settings{DataDate: day})
		require.NoError(t, err)
		require.Equal(t, day, book.Settings.DataDate)
	}
	for i, file := range []string{
		write(t, "sites.csv", "site,zone\nQuay,Europe/Dublin\n"), write(t, "customers.csv", "customer,contact\nHive,Ann\n"),
		holidays("Quay.ics", "1"), holidays("Mill.ics", "2"),
	} {
		_, err := s.Load(t.Context(), []string{file})
		require.NoError(t, err)
		if i%2 == 1 {
			pin("2026-06-30")
			pin("")
		}
	}
	pin("2026-06-30")
	loaded, err := s.Load(t.Context(), []string{write(t, "orders.csv", "number,site,ordered,shipped\nQ/1,Quay,2026-07-01T23:30,\n")})
	require.NoError(t, err)
	pin("")
	require.Equal(t, []string{"Q/1"}, s.numbersOf(t, question{}, selection{State: "running"}))
	_, err = s.Undo(t.Context(), loaded.Number)
	require.NoError(t, err)
	book, err := s.Book(t.Context())
	require.NoError(t, err)
	require.Zero(t, book.Orders)
}
