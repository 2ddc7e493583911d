package test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/demo"
)

// The rates of all and of first orders, counted from the demo's files; each number opens its orders.
func TestImmediateAgreesWithTheFiles(t *testing.T) {
	s, m := demoService(t)
	files := demoFiles(t)
	orders := map[string]map[string]string{}
	for _, row := range files["orders.csv"] {
		row["ordered"] = row["ordered"][:min(len(row["ordered"]), len("2025-01-01"))] // some have a time of day
		orders[row["number"]] = row
	}
	set := map[string]bool{} // as the book has them: bad rows are set aside
	for _, number := range s.everyNumber(t) {
		set[number] = true
	}
	first := map[string]map[string]string{}
	for number, o := range orders {
		if !set[number] || o["ordered"] == "" || o["ordered"] > "2026-10-31" || o["customer"] == "" {
			continue
		}
		if f := first[o["customer"]]; f == nil || o["ordered"] < f["ordered"] {
			first[o["customer"]] = o
		}
	}
	for _, which := range []string{"", "first"} {
		part := s.ask(t, "/immediate", "orders", which, "by", "site", "period", "2025").Parts[0]
		groups := gridOf(t, part, "groups")
		want := map[string][4]int{} // by site: immediate, booked ahead, no requested date, requested before
		for number, o := range orders {
			earliest := first[o["customer"]]
			if !set[number] || !strings.HasPrefix(o["ordered"], "2025") || which == "first" &&
				(earliest == nil || earliest["ordered"] != o["ordered"]) {
				continue
			}
			n := want[o["site"]]
			switch {
			case o["requested"] == "":
				n[2]++
			case o["requested"] == o["ordered"]:
				n[0]++
			case o["requested"] > o["ordered"]:
				n[1]++
			default:
				n[3]++
			}
			want[o["site"]] = n
		}
		for _, r := range groups.Rows {
			n := want[strings.Replace(groups.names(r), "(none)", "", 1)]
			got := kindsOf(groups, r)
			if which == "first" {
				// Several orders of a customer on the first day make one first order.
				for i := range got {
					assert.LessOrEqual(t, got[i], n[i])
				}
				assert.LessOrEqual(t, n[0]+n[1]+n[2]+n[3]-got[0]-got[1]-got[2]-got[3], note(part, "tied"))
			} else {
				assert.Equal(t, n, got, groups.names(r))
			}
			assert.Equal(t, numfmt.Percent(got[0], groups.count(r, "asked_all")), groups.cell(r, "asked_rate").Text)
		}
		assert.Equal(t, len(set), part.Lines[1].Terms[0].Orders)
	}

	// Who booked the first order ahead is planted; the fields and the list of customers agree with it.
	ahead := s.numbersOf(t, question{Where: `asked == "booked ahead" && first_order == "yes"`}, selection{})
	assert.Equal(t, ahead, s.numbersOf(t, question{}, selection{Behind: "immediate?orders=first&asked=booked-ahead"}))
	customers := s.ask(t, "/immediate/customers", "limit", "20000").Parts[0]
	table := gridOf(t, customers, "customers")
	assert.Equal(t, len(first), table.All)
	var early, alone, planted []string
	tied := map[string]bool{} // the maker knows no times of day
	changed := map[string]int{}
	for _, c := range table.Rows {
		customer, number, remark := c.Cells[0].Text, table.cell(c, "first_order").Text, table.cell(c, "remark").Text
		tied[customer] = strings.Contains(remark, "another order that day")
		changed[strings.TrimPrefix(strings.TrimPrefix(remark, "another order that day"), "; ")]++
		assert.Equal(t, first[customer]["ordered"], table.cell(c, "on").Text)
		if table.cell(c, "asked").Text == "booked ahead" {
			early = append(early, number)
			if !tied[customer] {
				alone = append(alone, number)
			}
		}
	}
	for _, number := range m.Planted[demo.FirstBookedAhead] {
		if !tied[orders[number]["customer"]] {
			planted = append(planted, number)
		}
	}
	assert.ElementsMatch(t, planted, alone)
	assert.ElementsMatch(t, ahead, early)
	assert.Equal(t, [2]int{changed["ahead then immediate"], changed["immediate then ahead"]},
		[2]int{term(customers, "first booked ahead, all later immediate"), term(customers, "first immediate, all later booked ahead")})

	// First within the selection is another thing, and says where it differs; nothing to count says so.
	within, ever := s.ask(t, "/immediate", "orders", "first-within", "period", "2026-09").Parts[0],
		s.ask(t, "/immediate", "orders", "first", "period", "2026-09").Parts[0]
	assert.Equal(t, within.Lines[0].Terms[0].Orders-ever.Lines[0].Terms[0].Orders, note(within, "elsewhere"))
	nothing := gridOf(t, s.ask(t, "/immediate", "where", `site == "Nowhere"`).Parts[0], "groups")
	assert.Nil(t, nothing.cell(nothing.total(), "asked_rate").Number)
	for want, words := range map[string][]string{"want shipped or delivered": {"achieved", "paid"},
		"want in or out": {"cancelled", "perhaps"}, "want one of all, first, first-within": {"orders", "second"}} {
		assert.Contains(t, s.refuses(t, "/immediate", words...), want)
	}
}

// kindsOf are the orders of a row that are immediate, booked ahead, without a requested date, and requested before.
func kindsOf(g grid, r answer.Row) [4]int {
	return [4]int{g.count(r, "immediate"), g.count(r, "booked_ahead"), g.count(r, "no_requested_date"), g.count(r, "requested_before")}
}

// everyNumber lists the numbers of all orders of the book.
func (s service) everyNumber(t *testing.T) (numbers []string) {
	for offset := 0; ; offset += 1000 {
		list, err := s.list(t, question{}, selection{Offset: offset, Limit: 1000})
		require.NoError(t, err)
		if len(list.Rows) == 0 {
			return numbers
		}
		for _, o := range list.Rows {
			numbers = append(numbers, o.Order)
		}
	}
}

// The page: two rates that never share a name, the table of both, customers, and the orders behind each number.
func TestConsoleImmediate(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	groups := gridOf(t, s.ask(t, "/immediate").Parts[0], "groups")
	total := func(code string) string { return groups.cell(groups.total(), code).Text }
	cross := gridOf(t, s.ask(t, "/immediate").Parts[0], "cross")
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/immediate"))
	b.text(test("sentence"), "What share of all orders ordered in")
	b.text(test("groups"), fmt.Sprintf("%s %s %s", total("immediate"), total("asked_all"), total("asked_rate")))
	b.text(test("chart"), "asked for: requested for the day of the order")
	b.do(chromedp.Focus(test("walk")), chromedp.KeyEvent(kb.ArrowRight))
	b.text(test("point"), "requested for the day of the order, "+total("asked_rate")+"%")
	b.do(chromedp.Click(test("cross")+" tr:nth-child(2) "+test("on-the-day"), chromedp.NodeVisible))
	b.text(test("selected"), fmt.Sprintf("booked ahead, shipped on the day: %s in",
		numfmt.Counted(cross.count(cross.Rows[1], "on-the-day"), "order")))
	b.text(test("orders"), "booked ahead")

	b.do(chromedp.Navigate(s.address+"/immediate"), chromedp.Click(test("pick-orders"), chromedp.NodeVisible),
		chromedp.Click(test("choice-first"), chromedp.NodeVisible))
	b.text(test("sentence"), "customers' first orders")
	b.do(chromedp.Click(test("pick-no_requested_date"), chromedp.NodeVisible), chromedp.Click(test("choice-in"), chromedp.NodeVisible))
	b.text(test("sentence"), "orders without a requested date counted as a no")
	b.do(choose("by", "site"))
	b.text(test("groups"), "Galway")
	b.do(chromedp.Click(test("placement")+" a:last-of-type", chromedp.NodeVisible))
	b.text(test("selected"), "left out: not first")

	b.do(chromedp.Navigate(s.address+"/immediate"), chromedp.Click(test("tab-customers"), chromedp.NodeVisible))
	b.text(test("reconciliation"), "first booked ahead, all later immediate")
	b.do(chromedp.Click(test("customers")+" button", chromedp.NodeVisible))
	b.text(test("order-sheet"), "first order")
	assert.Empty(t, b.wentWrong())
}

func TestTheImmediateCommand(t *testing.T) {
	p := newProgram(t)
	cmd, _ := p.up("--demo")
	defer p.down(cmd)
	for args, want := range map[string][]string{
		"--orders first --by month --period 2025": {"customers' first orders", "2025-12", "Asked for, and achieved"},
		"--period 2026-Q3 --achieved delivered --no-requested-date in": {"what share was delivered on that day", "counted as a no",
			"with order date outside 2026-Q3"},
		"--orders first-within --period 2026-09 --cancelled out": {"first only within the selection", "cancelled orders left out"},
		"--where site==\"Nowhere\"":                              {"0 immediate + 0 booked ahead"},
	} {
		words := strings.Fields(args)
		name := "Asked " + strings.Trim(args[:20], "- ")
		status, asked, messages := p.run(append(append([]string{"immediate"}, words...), "--save-view", name)...)
		require.Zero(t, status, messages)
		for _, text := range want {
			assert.Contains(t, asked, text, args)
		}
		_, again, _ := p.run("view", "run", name)
		assert.Equal(t, asked, again, "a view asks the same again")
	}
	_, asked, _ := p.run("immediate", "customers", "--change", "ahead-then-immediate", "--limit", "3")
	assert.Contains(t, asked, "1 to 3 of")
	assert.Contains(t, asked, "ahead then immediate")
	status, _, messages := p.run("immediate", "--orders", "second")
	assert.Equal(t, 2, status)
	assert.Contains(t, messages, "want one of all, first, first-within")
	// The orders behind a number, by the address that is shown below the table.
	_, asked, _ = p.run("immediate", "--period", "2026-Q3", "--by", "site", "--with-behind")
	address := regexp.MustCompile(`immediate\?\S+asked=immediate`).FindString(asked)
	status, listed, messages := p.run("orders", "--behind", address, "--limit", "2")
	require.Zero(t, status, messages)
	assert.Contains(t, listed, "immediate: ")
	for ending, starts := range map[string]string{"csv": "\"What share of all orders", "ndjson": "{", "json": "{\"analysis\":\"immediate\"",
		"xlsx": "PK", "parquet": "PAR1"} {
		file := filepath.Join(t.TempDir(), "rates."+ending)
		status, _, messages := p.run("immediate", "--by", "month", "--output", file)
		require.Zero(t, status, messages)
		content, err := os.ReadFile(file)
		require.NoError(t, err)
		assert.True(t, strings.HasPrefix(string(content), starts), "%s: %.60s", ending, content)
	}
}

// The second book with customers and requested days: rates of all orders, first ones and first ones within, counted order by order.
func TestTheSecondBookImmediate(t *testing.T) {
	s, rows := loadChandler(t)
	random := rand.New(rand.NewPCG(20310503, 2))
	type asked struct {
		chandlerOrder
		customer, requested string
	}
	var all []asked
	var file strings.Builder
	file.WriteString("number,customer,requested\n")
	for _, o := range rows {
		a := asked{chandlerOrder: o.known()}
		if random.IntN(12) > 0 {
			a.customer = fmt.Sprintf("Ketch %d", random.IntN(90))
		}
		switch {
		case o.ordered == "" || random.IntN(6) == 0:
		case random.IntN(2) == 0:
			a.requested = o.ordered
		default:
			a.requested = moved(o.ordered, random.IntN(9)-1)
		}
		all = append(all, a)
		fmt.Fprintf(&file, "%s,%s,%s\n", o.number, a.customer, a.requested)
	}
	_, err := s.Load(t.Context(), []string{write(t, "requested.csv", file.String())})
	require.NoError(t, err)
	natural := func(number string) (n int) { _, _ = fmt.Sscanf(number, "CH/%d", &n); return n }
	// first is the customer's first order of some: by day, then by number, 9 before 10.
	first := func(customer string, of func(asked) bool) (number string, tied bool) {
		day := ""
		for _, a := range all {
			if a.customer != customer || a.ordered == "" || !of(a) {
				continue
			}
			switch {
			case day == "" || a.ordered < day:
				number, day, tied = a.number, a.ordered, false
			case a.ordered == day:
				if tied = true; natural(a.number) < natural(number) {
					number = a.number
				}
			}
		}
		return number, tied
	}
	any := func(asked) bool { return true }
	for _, tt := range []struct {
		which, period string
		cancelled     bool
	}{{"all", "", true}, {"all", "2031-05", false}, {"first", "", true}, {"first", "2031-05", false}, {"first-within", "2031-05", true}} {
		within := func(a asked) bool { return tt.period == "" || strings.HasPrefix(a.ordered, tt.period) }
		among := any
		if tt.which == "first-within" {
			among = within
		}
		type counts struct{ immediate, ahead, none, before, got, told int }
		want, tied, lost, elsewhere := map[string]counts{}, 0, 0, 0
		for _, a := range all {
			if !within(a) || a.ordered == "" {
				continue
			}
			if tt.which != "all" {
				number, tie := first(a.customer, among)
				if a.customer == "" || number != a.number {
					continue
				}
				if !tt.cancelled && a.cancelled != "" {
					lost++
					continue
				}
				if tie {
					tied++
				}
				if ever, _ := first(a.customer, any); ever != a.number {
					elsewhere++
				}
			} else if !tt.cancelled && a.cancelled != "" {
				lost++
				continue
			}
			n := want[a.depot]
			switch {
			case a.requested == "":
				n.none++
			case a.requested == a.ordered:
				n.immediate++
			case a.requested > a.ordered:
				n.ahead++
			default:
				n.before++
			}
			switch {
			case a.shipped == a.ordered:
				n.got, n.told = n.got+1, n.told+1
			case a.shipped != "" && a.shipped < a.ordered, a.shipped == "" && a.cancelled != "", a.shipped == "" &&
				a.ordered == chandlerDate:
			default:
				n.told++
			}
			want[a.depot] = n
		}
		part := s.ask(t, "/immediate", "orders", tt.which, "period", tt.period, "by", "site", "cancelled",
			numfmt.Either(tt.cancelled, "in", "out")).Parts[0]
		groups := gridOf(t, part, "groups")
		require.Len(t, groups.Rows, len(want))
		for _, r := range groups.Rows {
			w := want[strings.Replace(groups.names(r), "(none)", "", 1)]
			kinds := kindsOf(groups, r)
			require.Equal(t, [6]int{w.immediate, w.ahead, w.none, w.before, w.got, w.told},
				[6]int{kinds[0], kinds[1], kinds[2], kinds[3], groups.count(r, "achieved"), groups.count(r, "achieved_all")}, "%v of %v",
				groups.names(r), tt)
			require.Equal(t, w.immediate+w.ahead, groups.count(r, "asked_all"))
		}
		gone := term(part, numfmt.Either(tt.which == "all", "cancelled", "cancelled first orders, whose customers are lost so"))
		require.Equal(t, [3]int{tied, lost, elsewhere}, [3]int{note(part, "tied"), gone, note(part, "elsewhere")}, "%v", tt)
	}
}
