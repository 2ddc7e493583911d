package test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
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
		q := client.ImmediateQuestion{Orders: which, By: []string{"site"}, Period: "2025"}
		answer, err := s.ImmediateAt(t.Context(), q.Words())
		require.NoError(t, err)
		want := map[string][4]int{} // by site: immediate, booked ahead, no requested date, requested before
		for number, o := range orders {
			earliest := first[o["customer"]]
			if !set[number] || !strings.HasPrefix(o["ordered"], "2025") || which == "first" && (earliest == nil || earliest["ordered"] != o["ordered"]) {
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
		part := answer.Parts[0]
		for _, g := range part.Groups {
			n := want[g.Keys[0]]
			got := [4]int{g.Kinds[0].Orders, g.Kinds[1].Orders, g.Kinds[2].Orders, g.Kinds[3].Orders}
			if which == "first" {
				// Several orders of a customer on the first day make one first order.
				for i := range got {
					assert.LessOrEqual(t, got[i], n[i])
				}
				assert.LessOrEqual(t, n[0]+n[1]+n[2]+n[3]-got[0]-got[1]-got[2]-got[3], part.Notes[0].Orders)
			} else {
				assert.Equal(t, n, got, g.Keys[0])
			}
			assert.Equal(t, numfmt.Percent(g.Asked.Some, g.Asked.All), g.Asked.Percent)
			list := client.Question{Period: "2025", By: []string{"site"}}
			for _, kind := range g.Kinds {
				assert.Equal(t, kind.Orders, s.opens(t, list, client.Selection{Immediate: kind.Name, Which: which, Group: g.Keys}), "%s of %v", kind.Name, g.Keys)
			}
			assert.Equal(t, g.Got.Some, s.opens(t, list, client.Selection{Immediate: "any:on-the-day", Which: which, Group: g.Keys}))
		}
		all := 0
		for _, k := range part.LeftOut {
			all += k.Orders
			if slices.Contains([]string{"no-ordered-day", "no-customer", "not-first"}, k.Name) {
				assert.Equal(t, k.Orders, s.opens(t, client.Question{Period: "2025"}, client.Selection{Immediate: "left:" + k.Name, Which: which}), k.Name)
			}
		}
		assert.Equal(t, len(set), all+part.Total.Orders, part.PlacementLine)
	}

	// Who booked the first order ahead is planted; the fields and the list of customers agree with it.
	ahead := s.numbersOf(t, client.Question{Where: `asked == "booked ahead" && first_order == "yes"`}, client.Selection{})
	assert.Equal(t, ahead, s.numbersOf(t, client.Question{}, client.Selection{Immediate: "booked-ahead", Which: "first"}))
	customers, err := s.ImmediateCustomersAt(t.Context(), client.ImmediateQuestion{}.Words(), 0, 20_000)
	require.NoError(t, err)
	assert.Equal(t, len(first), customers.All)
	var early, alone, planted []string
	tied := map[string]bool{} // the maker knows no times of day
	changed := map[string]int{}
	for _, c := range customers.Customers {
		changed[c.Change]++
		assert.Equal(t, first[c.Customer]["ordered"], c.First)
		if c.Asked == "booked ahead" {
			early = append(early, c.Number)
			if !c.Tied {
				alone = append(alone, c.Number)
			}
		}
		tied[c.Customer] = c.Tied
	}
	for _, number := range m.Planted[demo.FirstBookedAhead] {
		if !tied[orders[number]["customer"]] {
			planted = append(planted, number)
		}
	}
	assert.ElementsMatch(t, planted, alone)
	assert.ElementsMatch(t, ahead, early)
	for _, k := range customers.Changes {
		assert.Equal(t, changed[k.Name], k.Orders)
	}

	// First within the selection is another thing, and says where it differs; nothing to count says so.
	within, err := s.ImmediateAt(t.Context(), client.ImmediateQuestion{Orders: "first-within", Period: "2026-09"}.Words())
	require.NoError(t, err)
	ever, err := s.ImmediateAt(t.Context(), client.ImmediateQuestion{Orders: "first", Period: "2026-09"}.Words())
	require.NoError(t, err)
	elsewhere := within.Parts[0].Notes[slices.IndexFunc(within.Parts[0].Notes, func(n api.Note) bool { return n.Code == "elsewhere" })]
	assert.Equal(t, within.Parts[0].Total.Orders-ever.Parts[0].Total.Orders, elsewhere.Orders)
	nothing, err := s.ImmediateAt(t.Context(), client.ImmediateQuestion{Where: `site == "Nowhere"`}.Words())
	require.NoError(t, err)
	assert.Equal(t, "no orders", nothing.Parts[0].Total.Asked.Percent)
	for want, q := range map[string]client.ImmediateQuestion{"want shipped or delivered": {Got: "paid"}, "want in or out": {Cancelled: "perhaps"}, "want one of all, first, first-within": {Orders: "second"}} {
		_, err := s.ImmediateAt(t.Context(), q.Words())
		assert.ErrorContains(t, err, want)
	}
}

// everyNumber lists the numbers of all orders of the book.
func (s service) everyNumber(t *testing.T) (numbers []string) {
	for offset := 0; ; offset += 1000 {
		list, err := s.Orders(t.Context(), client.Question{}, client.Selection{Offset: offset, Limit: 1000})
		require.NoError(t, err)
		if len(list.List) == 0 {
			return numbers
		}
		for _, o := range list.List {
			numbers = append(numbers, o.Number)
		}
	}
}

// The page: two rates that never share a name, the table of both, customers, and the orders behind each number.
func TestConsoleImmediate(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	answer, err := s.ImmediateAt(t.Context(), client.ImmediateQuestion{}.Words())
	require.NoError(t, err)
	total := answer.Parts[0].Total
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/immediate"))
	b.text(test("sentence"), "How much of all orders ordered in")
	b.text(test("rates"), fmt.Sprintf("%s of %s %s", numfmt.Count(total.Asked.Some), numfmt.Count(total.Asked.All), total.Asked.Percent))
	b.text(test("chart"), "asked: requested for the day of the order")
	b.do(chromedp.Focus(test("walk")), chromedp.KeyEvent(kb.ArrowRight))
	b.text(test("point"), "requested for the day of the order, "+total.Asked.Percent+"%")
	b.do(chromedp.Click(test("cross-1-0"), chromedp.NodeVisible))
	b.text(test("selected"), fmt.Sprintf("booked ahead, shipped on the day: %s in", numfmt.Counted(total.Cross[1][0], "order")))
	b.text(test("orders"), "booked ahead")

	b.do(chromedp.Navigate(s.address+"/immediate"), chromedp.Click(test("pick-orders"), chromedp.NodeVisible), chromedp.Click(test("choice-first"), chromedp.NodeVisible))
	b.text(test("sentence"), "customers' first orders")
	b.do(chromedp.Click(test("pick-no_requested_date"), chromedp.NodeVisible), chromedp.Click(test("choice-in"), chromedp.NodeVisible))
	b.text(test("sentence"), "those without a requested date counted as a no")
	b.do(run(`const s = document.querySelector('[data-test="by"]'); s.value = 'site'; s.dispatchEvent(new Event('change'))`))
	b.text(test("rates"), "Galway")
	b.do(chromedp.Click(test("left-not-first"), chromedp.NodeVisible))
	b.text(test("selected"), "left out: not first")

	b.do(chromedp.Navigate(s.address+"/immediate"), chromedp.Click(test("tab-customers"), chromedp.NodeVisible))
	b.text(test("changes"), "first booked ahead, all later immediate")
	b.do(chromedp.Click(test("customers")+" button", chromedp.NodeVisible))
	b.text(test("order-sheet"), "first-order")
	assert.Empty(t, b.wentWrong())
}

func TestTheImmediateCommand(t *testing.T) {
	p := newProgram(t)
	cmd, _ := p.up("--demo")
	defer p.down(cmd)
	for args, want := range map[string][]string{
		"--first-orders --by month --period 2025":                 {"customers' first orders", "2025-12", "Asked, and got"},
		"--period 2026-Q3 --got delivered --no-requested-date in": {"what was delivered on that day", "counted as a no", "with `ordered` outside 2026-Q3"},
		"--first-within --period 2026-09 --cancelled out":         {"first only within the selection", "cancelled ones left out"},
		"--customers --change ahead-then-immediate --limit 3":     {"1 to 3 of", "ahead then immediate"},
		"--where site==\"Nowhere\"":                               {"no orders"},
	} {
		words := strings.Fields(args)
		name := "Asked " + strings.Trim(args[:20], "- ")
		status, asked, messages := p.run(append(append([]string{"immediate"}, words...), "--keep", name)...)
		require.Zero(t, status, messages)
		for _, text := range want {
			assert.Contains(t, asked, text, args)
		}
		if !strings.Contains(args, "limit") {
			_, again, _ := p.run("view", "run", name)
			assert.Equal(t, asked, again, "a view asks the same again")
		}
	}
	status, _, messages := p.run("immediate", "--first-orders", "--first-within")
	assert.Equal(t, 2, status)
	assert.Contains(t, messages, "want one")
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
			case a.shipped != "" && a.shipped < a.ordered, a.shipped == "" && a.cancelled != "", a.shipped == "" && a.ordered == chandlerDate:
			default:
				n.told++
			}
			want[a.depot] = n
		}
		q := client.ImmediateQuestion{Orders: tt.which, Period: tt.period, By: []string{"site"}}
		if !tt.cancelled {
			q.Cancelled = "out"
		}
		answer, err := s.ImmediateAt(t.Context(), q.Words())
		require.NoError(t, err)
		part := answer.Parts[0]
		require.Len(t, part.Groups, len(want))
		for _, g := range part.Groups {
			w := want[g.Keys[0]]
			require.Equal(t, [6]int{w.immediate, w.ahead, w.none, w.before, w.got, w.told},
				[6]int{g.Kinds[0].Orders, g.Kinds[1].Orders, g.Kinds[2].Orders, g.Kinds[3].Orders, g.Got.Some, g.Got.All}, "%v of %v", g.Keys, tt)
			require.Equal(t, []int{w.immediate, w.immediate + w.ahead}, []int{g.Asked.Some, g.Asked.All})
		}
		notes := map[string]int{}
		for _, n := range part.Notes {
			notes[n.Code] = n.Orders
		}
		for _, k := range part.LeftOut {
			notes[k.Name] = k.Orders
		}
		require.Equal(t, [3]int{tied, lost, elsewhere}, [3]int{notes["tied"], notes["cancelled"], notes["elsewhere"]}, "%v", tt)
	}
}
