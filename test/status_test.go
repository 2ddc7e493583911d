package test

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/demo"
)

// numbersOf are the orders that a selection lists.
func (s service) numbersOf(t *testing.T, q question, behind selection) (numbers []string) {
	t.Helper()
	behind.Limit = 1000
	list, err := s.list(t, q, behind)
	require.NoError(t, err)
	for _, o := range list.Rows {
		numbers = append(numbers, o.Order)
	}
	require.Len(t, numbers, list.All)
	return numbers
}

// Whatever is planted in the demo's statuses is found, and nothing else.
func TestPlantedStatusesAreFound(t *testing.T) {
	s, m := demoService(t)
	for pick, kind := range map[string]string{"ambiguous": demo.StatusTie, "disagreeing": demo.StatusEarly,
		"returned:picking": demo.StatusCameBack} {
		require.NotEmpty(t, m.Planted[kind])
		assert.ElementsMatch(t, m.Planted[kind], s.numbersOf(t, question{}, behind("status-transitions", "list", pick)), pick)
	}
	visited := func(status string, words ...string) []string {
		return s.numbersOf(t, question{}, behind("status-times", append(words, "list", "visited:"+status)...))
	}
	assert.ElementsMatch(t, m.Planted[demo.StatusCameBack], s.numbersOf(t, question{Where: "returns > 0"}, selection{}))
	// A silence of a week ends a status period where at most three days of it are let pass, and not where seven are.
	silent := visited("not seen", "source", "daily", "max_gap", "7")
	require.NotEmpty(t, silent)
	assert.ElementsMatch(t, m.Planted[demo.StatusSilence], silent)
	assert.Empty(t, visited("not seen", "source", "daily", "max_gap", "8"))
	assert.Empty(t, visited("not seen", "max_gap", "1"), "events have no silences")

	// Another spelling counts as the status, until the list says otherwise; a load takes that back.
	spelled := visited("On-Hold")
	assert.Subset(t, spelled, m.Planted[demo.StatusSpelled])
	assert.Equal(t, visited("on hold"), spelled)
	list, err := s.SaveStatuses(t.Context(), api.StatusSetting{Name: "On-Hold", Colour: "rose"})
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(list.Statuses, func(st api.Status) bool { return st.Name == "On-Hold" && st.Colour == "rose" }))
	assert.ElementsMatch(t, m.Planted[demo.StatusSpelled], visited("On-Hold"))
	loads, err := s.Loads(t.Context())
	require.NoError(t, err)
	_, err = s.Undo(t.Context(), loads.Loads[0].Number)
	require.NoError(t, err)
	assert.Equal(t, spelled, visited("On-Hold"))
	_, err = s.SaveStatuses(t.Context(), api.StatusSetting{Name: "packed", SpellingOf: "packed"})
	assert.ErrorContains(t, err, "no other spelling of itself")
}

// Where the orders of the demo stood on some days, and how they moved, counted from its files line by line.
func TestStatusesAgreeWithTheFiles(t *testing.T) {
	s, _ := demoService(t)
	type record struct{ day, status string }
	histories := map[string][]record{}
	for _, row := range demoFiles(t)["status-events.csv"] {
		status := strings.ReplaceAll(strings.ToLower(row["status"]), "-", " ")
		histories[row["order"]] = append(histories[row["order"]], record{row["at"][:10], status})
	}
	site := map[string]string{}
	for _, row := range demoFiles(t)["orders.csv"] {
		site[row["number"]] = row["site"]
	}
	for _, at := range []string{"2025-03-02", "2026-03-16", "2026-10-31"} {
		groups := gridOf(t, s.ask(t, "/status/latest", "at", at, "by", "site").Parts[0], "groups")
		want := map[string]int{}
		for number, history := range histories {
			status := ""
			for _, r := range history {
				if r.day <= at {
					status = r.status
				}
			}
			if status != "" {
				want[site[number]+" "+status]++
			}
		}
		for _, g := range groups.Rows {
			for _, c := range groups.Columns[1 : len(groups.Columns)-2] {
				require.Equal(t, want[strings.Replace(g.Cells[0].Text, "(none)", "", 1)+" "+c.Code], groups.count(g, c.Code),
					"%s of %s on %s", c.Code, g.Cells[0].Text, at)
			}
		}
	}
	moves := s.ask(t, "/status/transitions").Parts[0]
	want, paths := map[string]int{}, map[string]int{}
	for _, history := range histories {
		path := []string{}
		for i, r := range history {
			if r.day > "2026-10-31" || i > 0 && history[i-1].status == r.status {
				continue
			}
			if len(path) > 0 {
				want[path[len(path)-1]+" → "+r.status]++
			}
			path = append(path, r.status)
		}
		paths[strings.Join(path, " → ")]++
	}
	got, taken := map[string]int{}, map[string]int{}
	made, ways := gridOf(t, moves, "transitions"), gridOf(t, moves, "paths")
	for _, r := range made.Rows {
		got[r.Cells[0].Text+" → "+r.Cells[1].Text] = made.count(r, "transitions")
	}
	for _, r := range ways.Rows {
		taken[ways.cell(r, "path").Text] = ways.count(r, "orders")
	}
	assert.Equal(t, want, got)
	assert.Equal(t, paths, taken)
}

// The third book has neither plan nor manifest: a log and a daily list that one can read off.
func TestStatusPeriodsOfASmallBook(t *testing.T) {
	s := startService(t)
	_, err := s.Load(t.Context(), []string{
		write(t, "orders.csv", "number,site,ordered\nL/1,Quay,2025-03-03\nL/2,Quay,2025-03-03\nL/3,Quay,2025-03-04\n"),
		write(t, "log.csv", "order,status,at,sequence\nL/1,taken,2025-03-03T09:00,\nL/1,cut,2025-03-05T10:00,\nL/1,taken,2025-03-07T08:00,\nL/1,gone,2025-03-12T08:00,\nL/3,taken,2025-03-04,1\nL/3,cut,2025-03-04,2\n"),
		write(t, "list.csv", "order,status,at,source\nL/2,taken,2025-03-03,daily\nL/2,taken,2025-03-04,daily\nL/2,cut,2025-03-05,daily\nL/2,cut,2025-03-12,daily\nL/2,gone,2025-03-13,daily\n"),
		write(t, "sites.csv", "site,zone\nQuay,Europe/Dublin\n"),
		write(t, "statuses.csv", "status,step,final\ntaken,1,no\ncut,2,no\ngone,3,yes\n"),
	})
	require.NoError(t, err)
	more, err := s.Load(t.Context(), []string{write(t, "more.csv", "order,status,at\nL/2,lost,2025-03-12T09:00\n")})
	require.NoError(t, err)
	assert.Equal(t, []string{"lost"}, more.Statuses, "a load names the statuses that the list does not have")
	_, err = s.Undo(t.Context(), more.Number)
	require.NoError(t, err)
	periods := func(words ...string) (all []string) {
		table := gridOf(t, s.ask(t, "/status/periods", words...).Parts[0], "periods")
		for _, r := range table.Rows {
			of := func(code string) string { return table.cell(r, code).Text }
			length := cmp.Or(of("length"), "none")
			back := map[bool]string{true: "back"}[strings.Contains(of("remarks"), "came back")]
			all = append(all, strings.TrimSpace(fmt.Sprintf("%s %s %s–%s %s %s", of("number"), of("status"), of("from")[8:],
				strings.TrimPrefix(of("until"), "2025-03-"), length, back)))
		}
		return all
	}
	assert.Equal(t, []string{
		"L/1 taken 03–05 2", "L/1 cut 05–07 2", "L/1 taken 07–12 3 back", "L/1 gone 12– none",
		"L/2 taken 03–05 2", "L/2 cut 05–13 6", "L/2 gone 13– none",
		"L/3 taken 04–04 0", "L/3 cut 04– 7",
	}, periods())
	assert.Equal(t, []string{"L/2 taken 03–05 2", "L/2 cut 05–06 1", "L/2 not seen 06–12 6", "L/2 cut 12–13 1", "L/2 gone 13– none"},
		periods("source", "daily", "max_gap", "3", "in", "days"))
	assert.Equal(t, []string{"L/1 taken 07–12 120 back", "L/1 taken 03–05 49"}, periods("status", "taken", "in", "hours", "sort",
		"length", "where", `number == "L/1"`))
	order, err := s.Order(t.Context(), "L/3", question{}.Words())
	require.NoError(t, err)
	assert.Equal(t, "event", order.Statuses.Source)
	assert.False(t, order.Statuses.Ambiguous, "the sequence tells")
	assert.Equal(t, []string{"L/3"}, s.numbersOf(t, question{Where: `status == "cut" && status_age > 5`}, selection{}))
	assert.Equal(t, []string{"L/3"}, s.numbersOf(t, question{Where: `statuses.exists(s, s.status == "cut" && s.at == "2025-03-04")`},
		selection{}))
	// What is told of statuses, and labels, group and pick orders in every answer on statuses.
	_, err = s.SaveLabel(t.Context(), "came-back", api.LabelDefinition{Rules: []api.LabelRule{{Where: "returns > 0", Text: "yes"}},
		Rest: "no"}, false)
	require.NoError(t, err)
	where := []string{"where", "returns > 0"}
	assert.Equal(t, []string{"L/1"}, s.numbersOf(t, question{}, behind("status-transitions", append(where, "list", "recorded")...)))
	assert.Equal(t, "yes", gridOf(t, s.ask(t, "/status/latest", append(where, "by", "came-back")...).Parts[0],
		"groups").Rows[0].Cells[0].Text)
	assert.Equal(t, "yes", gridOf(t, s.ask(t, "/status/times", append(where, "by", "came-back")...).Parts[0],
		"times").Rows[0].Cells[0].Text)
	assert.Len(t, gridOf(t, s.ask(t, "/status/transitions", where...).Parts[0], "paths").Rows, 1)
	assert.Len(t, periods(where...), 4)
	assert.Contains(t, s.refuses(t, "/status/latest", "at", "2025-04-01"), "there is no data for this day")
	assert.Contains(t, s.refuses(t, "/status/periods", "max_gap", "many"), "from 1 to 1000")
	assert.Contains(t, s.refuses(t, "/status/periods", "status", "lost"), "no such status")
	assert.Contains(t, s.refuses(t, "/status/times", "by", "site", "each", "month"), "not by both")
}

// The page: where orders stand, its groups, the matrix and the paths, an order's band, and the list that can be changed.
func TestConsoleStatuses(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	packed := listed(s.ask(t, "/status/latest").Parts[0], url.QueryEscape("latest:packed"))
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/statuses"))
	b.text(test("sentence"), "Where did orders stand at the end of 2026-10-31")
	b.text(test("chart"), "packed")
	b.text(test("point"), "Not drawn, since orders end there:")
	b.do(chromedp.Click(test("statuses")+" tr:nth-child(5) a", chromedp.NodeVisible))
	b.text(test("selected"), fmt.Sprintf("that stood in “packed” at the end of 2026-10-31: %s in", numfmt.Counted(packed, "order")))
	b.text(test("orders"), "packed")

	b.do(chromedp.Navigate(s.address+"/statuses?show=transitions"), chromedp.Click(test("matrix")+" tr:nth-child(3) "+test("on hold"),
		chromedp.NodeVisible))
	b.text(test("selected"), "that went picking → on hold")
	b.do(chromedp.Navigate(s.address + "/statuses?show=transitions"))
	b.text(test("chart"), "received")
	returned := b.text(test("returns")+" "+test("orders"), "")
	b.do(chromedp.Click(test("returns")+" "+test("orders"), chromedp.NodeVisible))
	b.text(test("selected"), "that came back to “picking”: "+returned+" orders")

	b.do(chromedp.Navigate(s.address+"/statuses?show=times"), chromedp.Click(test("pick-source"), chromedp.NodeVisible),
		chromedp.Click(test("choice-daily"), chromedp.NodeVisible))
	b.text(test("sentence"), "from the daily list alone")
	b.do(choose("max-gap", "3 days"))
	b.text(test("times"), "not seen")

	b.do(chromedp.Navigate(s.address+"/statuses?show=periods&sort=length"), chromedp.Click(test("periods")+" button", chromedp.NodeVisible))
	b.text(test("order-periods"), "still in it")
	b.text(test("order-sheet"), "Statuses, from events")

	b.do(chromedp.Navigate(s.address+"/statuses?show=list"), chromedp.WaitVisible(test("final-packed")),
		press("final-packed"), chromedp.Click(test("save-statuses")))
	b.text(test("statuses-saved"), "can undo it")
	b.do(chromedp.Navigate(s.address + "/statuses"))
	b.text(test("point"), "packed and")
	assert.Empty(t, b.wentWrong())
}

// In the terminal the four questions are tables; a view asks one again.
func TestTheStatusCommand(t *testing.T) {
	p := newProgram(t)
	cmd, _ := p.up("--demo")
	defer p.down(cmd)
	for args, want := range map[string][]string{
		"latest --by site":                                     {"6,000 orders selected = ", "Saskatoon", "no status"},
		"latest --at 2026-03-16":                               {"at the end of 2026-03-16", "time in status, working days, start day not counted"},
		"times --each quarter --period 2026":                   {"2026-Q4 (part)", "ongoing ones", "order-days"},
		"transitions":                                          {"received → checked → picking → packed → shipped → delivered", "back to"},
		"periods --sort length --limit 3":                      {"1 to 3 of ", "still in it"},
		"periods --source daily --max-gap 3 --status not_seen": {"SD-1", "not seen"},
		"list": {"On-Hold", "final"},
	} {
		words := strings.Fields(args)
		for i := range words {
			words[i] = strings.ReplaceAll(words[i], "_", " ")
		}
		status, out, messages := p.run(append([]string{"status"}, words...)...)
		require.Zero(t, status, messages)
		for _, text := range want {
			assert.Contains(t, out, text, args)
		}
		if words[0] == "list" {
			continue
		}
		status, asked, messages := p.run(append(append([]string{"status"}, words...), "--save-view", args)...)
		require.Zero(t, status, messages)
		if !strings.Contains(args, "limit") {
			_, again, _ := p.run("view", "run", args)
			assert.Equal(t, asked, again, "a view asks the same again")
		}
	}
	status, out, messages := p.run("status", "set", "checked", "--step", "9", "--format", "json")
	require.Zero(t, status, messages)
	var list api.StatusList
	require.NoError(t, json.Unmarshal([]byte(out), &list))
	assert.Equal(t, "checked", list.Statuses[len(list.Statuses)-1].Name)
	status, out, _ = p.run("order", "SD-100001")
	require.Zero(t, status)
	assert.Contains(t, out, "Its statuses, from events")
	status, _, messages = p.run("status", "latest", "--at", "2030-01-01")
	assert.Equal(t, 2, status)
	assert.Contains(t, messages, "there is no data for this day")
}

// The second book, its statuses drawn and answered by walking days: where orders stood on each day, how long status periods were on each
// depot's own working days, and what silence does.
func TestTheSecondBooksStatuses(t *testing.T) {
	s, rows := loadChandler(t)
	random := rand.New(rand.NewPCG(20310502, 4))
	type entry struct{ day, status string }
	histories, depotOf := map[string][]entry{}, map[string]depot{}
	var file strings.Builder
	file.WriteString("order,status,at,source\n")
	for i, o := range rows {
		depotOf[o.number] = depotNamed(o.depot)
		at := "2031-04-20"
		for range random.IntN(7) {
			at = moved(at, 1+random.IntN(8))
			e := entry{at, []string{"stowed", "checked", "aboard", "sailed"}[random.IntN(4)]}
			if i%3 == 0 { // a list that says the same for some days
				for range 1 + random.IntN(3) {
					histories[o.number] = append(histories[o.number], e)
					fmt.Fprintf(&file, "%s,%s,%s,daily\n", o.number, e.status, e.day)
					e.day = moved(e.day, 1)
				}
				at = moved(e.day, -1)
				continue
			}
			histories[o.number] = append(histories[o.number], e)
			fmt.Fprintf(&file, "%s,%s,%s,event\n", o.number, e.status, e.day)
		}
	}
	_, err := s.Load(t.Context(), []string{write(t, "statuses.csv",
		"status,step,final\nstowed,1,no\nchecked,2,no\naboard,3,no\nsailed,4,yes\n"), write(t, "log.csv", file.String())})
	require.NoError(t, err)
	again, err := s.Load(t.Context(), []string{write(t, "log.csv", file.String())})
	require.NoError(t, err)
	assert.Zero(t, again.Files[0].New+again.Files[0].Changed, "the same file again changes nothing")

	for day := "2031-04-20"; day <= chandlerDate; day = moved(day, 1) {
		want := map[string]int{}
		for number, history := range histories {
			status := ""
			for _, e := range history {
				if e.day <= day {
					status = e.status
				}
			}
			if status != "" {
				want[depotOf[number].name+" "+status]++
			}
		}
		groups := gridOf(t, s.ask(t, "/status/latest", "by", "site", "at", day).Parts[0], "groups")
		for _, g := range groups.Rows {
			for _, c := range groups.Columns[1 : len(groups.Columns)-2] {
				require.Equal(t, want[g.Cells[0].Text+" "+c.Code], groups.count(g, c.Code), "%s at %s on %s", c.Code, g.Cells[0].Text, day)
			}
		}
	}

	// Status periods by hand: runs of one status, ended by the next one or by a silence of more than four days in a list.
	for _, gap := range []int{0, 4} {
		type told struct {
			periods int
			lengths float64
			running int
		}
		want := map[string]told{}
		for number, history := range histories {
			daily := gap > 0 && slices.ContainsFunc(rows, func(o chandlerOrder) bool {
				return o.number == number &&
					slices.Index(rows, o)%3 == 0
			})
			var known []entry
			for _, e := range history {
				if e.day <= chandlerDate {
					known = append(known, e)
				}
			}
			add := func(status, from, until string, running bool) {
				n := want[status]
				n.periods++
				n.lengths += walk(depotOf[number], from, until, "working-days", "elapsed")
				if running {
					n.running++
				}
				want[status] = n
			}
			for i := 0; i < len(known); {
				j := i
				silent := func() bool { return daily && j+1 < len(known) && known[j+1].day > moved(known[j].day, gap) }
				for j+1 < len(known) && known[j+1].status == known[i].status && !silent() {
					j++
				}
				last := j == len(known)-1
				switch {
				case silent():
					add(known[i].status, known[i].day, moved(known[j].day, 1), false)
					add("not seen", moved(known[j].day, 1), known[j+1].day, false)
				case !last:
					add(known[i].status, known[i].day, known[j+1].day, false)
				case known[i].status == "sailed":
					n := want["sailed"]
					n.periods++
					want["sailed"] = n
				case daily && chandlerDate > moved(known[j].day, gap):
					add(known[i].status, known[i].day, moved(known[j].day, 1), false)
					add("not seen", moved(known[j].day, 1), chandlerDate, true)
				default:
					add(known[i].status, known[i].day, chandlerDate, true)
				}
				i = j + 1
			}
		}
		times := gridOf(t, s.ask(t, "/status/times", "max_gap", map[bool]string{true: fmt.Sprint(gap)}[gap > 0]).Parts[0], "times")
		for _, r := range times.Rows {
			name := r.Cells[0].Text
			assert.Equal(t, want[name], told{times.count(r, "periods"), times.number(r, "order_days"), times.count(r, "running")},
				"%s, silent for %d", name, gap)
		}
		assert.Len(t, times.Rows, len(want))
	}
}
