package test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/demo"
)

// numbersOf are the orders that a selection lists.
func (s service) numbersOf(t *testing.T, q client.Question, behind client.Selection) (numbers []string) {
	t.Helper()
	behind.Limit = 1000
	list, err := s.Orders(t.Context(), q, behind)
	require.NoError(t, err)
	for _, o := range list.List {
		numbers = append(numbers, o.Number)
	}
	require.Len(t, numbers, list.All)
	return numbers
}

// Whatever is planted in the demo's statuses is found, and nothing else.
func TestPlantedStatusesAreFound(t *testing.T) {
	s, m := demoService(t)
	for pick, kind := range map[string]string{"ambiguous": demo.StatusTie, "disagreeing": demo.StatusEarly, "returned:picking": demo.StatusCameBack} {
		require.NotEmpty(t, m.Planted[kind])
		assert.ElementsMatch(t, m.Planted[kind], s.numbersOf(t, client.Question{}, client.Selection{Status: pick}), pick)
	}
	assert.ElementsMatch(t, m.Planted[demo.StatusCameBack], s.numbersOf(t, client.Question{Where: "returns > 0"}, client.Selection{}))
	// A silence of a week ends a stay where at most three days of it are let pass, and not where seven are.
	silent := s.numbersOf(t, client.Question{}, client.Selection{Status: "visited:not seen", Source: "daily", MaxGap: "7"})
	require.NotEmpty(t, silent)
	assert.ElementsMatch(t, m.Planted[demo.StatusSilence], silent)
	assert.Empty(t, s.numbersOf(t, client.Question{}, client.Selection{Status: "visited:not seen", Source: "daily", MaxGap: "8"}))
	assert.Empty(t, s.numbersOf(t, client.Question{}, client.Selection{Status: "visited:not seen", MaxGap: "1"}), "events have no silences")

	// Another spelling counts as the status, until the list says otherwise; a load takes that back.
	spelled := s.numbersOf(t, client.Question{}, client.Selection{Status: "visited:On-Hold"})
	assert.Subset(t, spelled, m.Planted[demo.StatusSpelled])
	assert.Equal(t, s.numbersOf(t, client.Question{}, client.Selection{Status: "visited:on hold"}), spelled)
	list, err := s.SaveStatuses(t.Context(), api.StatusSetting{Name: "On-Hold", Colour: "rose"})
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(list.Statuses, func(st api.Status) bool { return st.Name == "On-Hold" && st.Colour == "rose" }))
	assert.ElementsMatch(t, m.Planted[demo.StatusSpelled], s.numbersOf(t, client.Question{}, client.Selection{Status: "visited:On-Hold"}))
	loads, err := s.Loads(t.Context())
	require.NoError(t, err)
	_, err = s.Undo(t.Context(), loads.Loads[0].Number)
	require.NoError(t, err)
	assert.Equal(t, spelled, s.numbersOf(t, client.Question{}, client.Selection{Status: "visited:On-Hold"}))
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
		answer, err := s.StatusLatestAt(t.Context(), client.StatusQuestion{At: at, By: "site"}.Words(client.ShowLatest))
		require.NoError(t, err)
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
		stood := 0
		for _, g := range answer.Groups {
			for _, c := range g.Cells {
				require.Equal(t, want[g.Keys[0]+" "+c.Status], c.Count, "%s of %s on %s", c.Status, g.Keys[0], at)
				stood += c.Count
			}
		}
		require.Equal(t, answer.Total.Orders, stood+answer.Total.NoStatus)
		cell := answer.Groups[0].Cells[len(answer.Groups[0].Cells)-2]
		assert.Equal(t, cell.Count, s.opens(t, client.Question{By: []string{"site"}}, client.Selection{Status: "latest:" + cell.Status, At: at, Group: answer.Groups[0].Keys}))
		assert.Equal(t, answer.Total.NoStatus, s.opens(t, client.Question{}, client.Selection{Status: "none", At: at}))
	}
	moves, err := s.StatusMovesAt(t.Context(), client.StatusQuestion{}.Words(client.ShowMoves))
	require.NoError(t, err)
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
	for _, m := range moves.Moves {
		got[m.From+" → "+m.To] = m.Count
		assert.Equal(t, m.Orders, s.opens(t, client.Question{}, client.Selection{Status: "moved:" + m.From + " → " + m.To}))
	}
	for _, p := range moves.Paths {
		taken[p.Text] = p.Orders
	}
	assert.Equal(t, want, got)
	assert.Equal(t, paths, taken)
	assert.Equal(t, moves.Paths[1].Orders, s.opens(t, client.Question{}, client.Selection{Status: "path:" + moves.Paths[1].Text}))
}

// The third book has neither plan nor manifest: a log and a daily list that one can read off.
func TestStaysOfASmallBook(t *testing.T) {
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
	stays := func(q client.StatusQuestion) (all []string) {
		answer, err := s.StatusStaysAt(t.Context(), q.Words(client.ShowStays), 0, 100)
		require.NoError(t, err)
		for _, st := range answer.Stays {
			length := "none"
			if st.Length != nil {
				length = fmt.Sprint(*st.Length)
			}
			all = append(all, strings.TrimSpace(fmt.Sprintf("%s %s %s–%s %s %s", st.Number, st.Status, st.From[8:], strings.TrimPrefix(st.Until, "2025-03-"), length, map[bool]string{true: "back"}[st.Returned])))
		}
		return all
	}
	assert.Equal(t, []string{
		"L/1 taken 03–05 2", "L/1 cut 05–07 2", "L/1 taken 07–12 3 back", "L/1 gone 12– none",
		"L/2 taken 03–05 2", "L/2 cut 05–13 6", "L/2 gone 13– none",
		"L/3 taken 04–04 0", "L/3 cut 04– 7",
	}, stays(client.StatusQuestion{}))
	assert.Equal(t, []string{"L/2 taken 03–05 2", "L/2 cut 05–06 1", "L/2 not seen 06–12 6", "L/2 cut 12–13 1", "L/2 gone 13– none"}, stays(client.StatusQuestion{Source: "daily", MaxGap: "3", In: "days"}))
	assert.Equal(t, []string{"L/1 taken 07–12 120 back", "L/1 taken 03–05 49"}, stays(client.StatusQuestion{Status: "taken", In: "hours", Sort: "length", Where: `number == "L/1"`}))
	order, err := s.Order(t.Context(), "L/3", client.Question{})
	require.NoError(t, err)
	assert.Equal(t, "event", order.Statuses.Source)
	assert.False(t, order.Statuses.Ambiguous, "the sequence tells")
	assert.Equal(t, []string{"L/3"}, s.numbersOf(t, client.Question{Where: `status == "cut" && status_age > 5`}, client.Selection{}))
	assert.Equal(t, []string{"L/3"}, s.numbersOf(t, client.Question{Where: `statuses.exists(s, s.status == "cut" && s.at == "2025-03-04")`}, client.Selection{}))
	// What is told of statuses, and labels, group and pick orders in every answer on statuses.
	_, err = s.SaveLabel(t.Context(), "came-back", api.LabelDefinition{Rules: []api.LabelRule{{Where: "returns > 0", Text: "yes"}}, Rest: "no"}, false)
	require.NoError(t, err)
	for _, answer := range []string{"latest", "times", "moves", "stays"} {
		words := url.Values{"where": {"returns > 0"}}
		if answer == "latest" || answer == "times" {
			words.Set("by", "came-back")
		}
		code, body := s.get(t, "/api/v1/status/"+answer+"?"+words.Encode())
		require.Equal(t, http.StatusOK, code, "%s: %v", answer, body)
		if answer == "latest" {
			assert.Equal(t, `L/1`, s.numbersOf(t, client.Question{Where: words.Get("where")}, client.Selection{})[0])
			assert.Contains(t, fmt.Sprint(body["groups"]), "yes")
		}
	}
	for want, q := range map[string]client.StatusQuestion{"nothing is known of it": {At: "2025-04-01"}, "from 1 to 1000": {MaxGap: "many"}, "no such status": {Status: "lost"}} {
		show := map[bool]string{true: client.ShowLatest, false: client.ShowStays}[q.At != ""]
		if show == client.ShowLatest {
			_, err = s.StatusLatestAt(t.Context(), q.Words(show))
		} else {
			_, err = s.StatusStaysAt(t.Context(), q.Words(show), 0, 1)
		}
		assert.ErrorContains(t, err, want)
	}
}

// The page: where orders stand, its groups, the matrix and the paths, an order's band, and the list that can be changed.
func TestConsoleStatuses(t *testing.T) {
	s, _ := demoService(t)
	b := newTab(t)
	latest, err := s.StatusLatestAt(t.Context(), client.StatusQuestion{}.Words(client.ShowLatest))
	require.NoError(t, err)
	packed := latest.Total.Cells[slices.IndexFunc(latest.Total.Cells, func(c api.StatusCell) bool { return c.Status == "packed" })]
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/statuses"))
	b.text(test("sentence"), "Where did orders stand at the end of 2026-10-31")
	b.text(test("chart"), "packed")
	b.text(test("point"), "Not drawn, since orders end there:")
	b.do(chromedp.Click(test("at-packed"), chromedp.NodeVisible))
	b.text(test("selected"), fmt.Sprintf("that stood in “packed” at the end of 2026-10-31: %s in", numfmt.Counted(packed.Count, "order")))
	b.text(test("orders"), "packed")

	b.do(chromedp.Navigate(s.address+"/statuses?show=moves"), chromedp.Click(test("move-picking-on hold"), chromedp.NodeVisible))
	b.text(test("selected"), "that moved picking → on hold")
	b.do(chromedp.Navigate(s.address + "/statuses?show=moves"))
	b.text(test("chart"), "received")
	returned := b.text(test("returned-picking"), "")
	b.do(chromedp.Click(test("returned-picking"), chromedp.NodeVisible))
	b.text(test("selected"), "that came back to “picking”: "+returned+" orders")

	b.do(chromedp.Navigate(s.address+"/statuses?show=times"), chromedp.Click(test("pick-source"), chromedp.NodeVisible), chromedp.Click(test("choice-daily"), chromedp.NodeVisible))
	b.text(test("sentence"), "from the daily list alone")
	b.do(run(`const s = document.querySelector('[data-test="max-gap"]'); s.value = '3'; s.dispatchEvent(new Event('change'))`))
	b.text(test("status-times"), "not seen")

	b.do(chromedp.Navigate(s.address+"/statuses?show=stays&sort=length"), chromedp.Click(test("stays")+" button", chromedp.NodeVisible))
	b.text(test("order-stays"), "still there")
	b.text(test("order-sheet"), "Statuses, from events")

	b.do(chromedp.Navigate(s.address+"/statuses?show=list"), chromedp.WaitVisible(test("final-packed")), chromedp.Click(test("final-packed")), chromedp.Click(test("save-statuses")))
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
		"latest --by site":                   {"6,000 orders asked about = ", "Saskatoon", "no status"},
		"latest --at 2026-03-16":             {"at the end of 2026-03-16", "has stood, working days, elapsed"},
		"times --each quarter --period 2026": {"2026-Q4 (part)", "of them", "order-days"},
		"moves":                              {"received → checked → picking → packed → shipped → delivered", "back to"},
		"stays --sort length --limit 3":      {"1 to 3 of ", "still there"},
		"stays --source daily --max-gap 3 --status not_seen": {"SD-1", "not seen"},
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
		status, asked, messages := p.run(append(append([]string{"status"}, words...), "--keep", args)...)
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
	assert.Contains(t, messages, "nothing is known of it")
}

// The second book, its statuses drawn and answered by walking days: where orders stood on each day, how long stays took on each
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
	_, err := s.Load(t.Context(), []string{write(t, "statuses.csv", "status,step,final\nstowed,1,no\nchecked,2,no\naboard,3,no\nsailed,4,yes\n"), write(t, "log.csv", file.String())})
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
		answer, err := s.StatusLatestAt(t.Context(), client.StatusQuestion{By: "site", At: day}.Words(client.ShowLatest))
		require.NoError(t, err)
		for _, g := range answer.Groups {
			for _, c := range g.Cells {
				require.Equal(t, want[g.Keys[0]+" "+c.Status], c.Count, "%s at %s on %s", c.Status, g.Keys[0], day)
			}
		}
	}

	// Stays by hand: runs of one status, ended by the next one or by a silence of more than four days in a list.
	for _, gap := range []int{0, 4} {
		type told struct {
			stays   int
			lengths float64
			running int
		}
		want := map[string]told{}
		for number, history := range histories {
			daily := gap > 0 && slices.ContainsFunc(rows, func(o chandlerOrder) bool { return o.number == number && slices.Index(rows, o)%3 == 0 })
			var known []entry
			for _, e := range history {
				if e.day <= chandlerDate {
					known = append(known, e)
				}
			}
			add := func(status, from, until string, running bool) {
				n := want[status]
				n.stays++
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
					n.stays++
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
		q := client.StatusQuestion{}
		if gap > 0 {
			q.MaxGap = fmt.Sprint(gap)
		}
		times, err := s.StatusTimesAt(t.Context(), q.Words(client.ShowTimes))
		require.NoError(t, err)
		for _, c := range times.Total.Cells {
			w := want[c.Status]
			assert.Equal(t, w, told{c.Count, c.OrderDays, c.Running}, "%s, silent for %d", c.Status, gap)
		}
		assert.Len(t, times.Total.Cells, len(want))
	}
}
