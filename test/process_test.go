package test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/demo"
)

// binary builds the program once.
var binary = sync.OnceValues(func() (string, error) {
	folder, err := os.MkdirTemp("", "prairie-dusk-binary")
	if err != nil {
		return "", err
	}
	path := filepath.Join(folder, "prairie-dusk")
	out, err := exec.Command("go", "build", "-o", path, "../cmd/prairie-dusk").CombinedOutput()
	if err != nil {
		os.Stderr.Write(out)
	}
	return path, err
})

// A program is the binary on a data folder of a test's own.
type program struct {
	t      *testing.T
	folder string
}

func newProgram(t *testing.T) program {
	folder, err := os.MkdirTemp("", "prairie-dusk-data")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(folder, 0o755)) // the user postgres must be able to pass
	t.Cleanup(func() { os.RemoveAll(folder) })
	return program{t, filepath.Join(folder, "data")}
}

func (p program) command(args ...string) *exec.Cmd {
	path, err := binary()
	require.NoError(p.t, err)
	cmd := exec.Command(path, args...)
	cmd.Env = append(os.Environ(), "PRAIRIE_DUSK_DATA="+p.folder, "XDG_CONFIG_HOME="+p.t.TempDir())
	return cmd
}

// run runs a command to its end.
func (p program) run(args ...string) (status int, out, messages string) {
	cmd := p.command(args...)
	var stdout, stderr bytes.Buffer
	cmd.Stdout, cmd.Stderr = &stdout, &stderr
	err := cmd.Run()
	if _, exited := err.(*exec.ExitError); !exited {
		require.NoError(p.t, err)
	}
	return cmd.ProcessState.ExitCode(), stdout.String(), stderr.String()
}

// up starts the service and waits for the address that it prints.
func (p program) up(args ...string) (cmd *exec.Cmd, address string) {
	cmd = p.command(append([]string{"up", "--listen", "127.0.0.1:0"}, args...)...)
	var messages bytes.Buffer
	cmd.Stderr = &messages
	out, err := cmd.StdoutPipe()
	require.NoError(p.t, err)
	require.NoError(p.t, cmd.Start())
	p.t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })
	address, err = bufio.NewReader(out).ReadString('\n')
	require.NoErrorf(p.t, err, "up said: %s", &messages)
	address, _, _ = strings.Cut(address, "/enter#")
	return cmd, address
}

// down stops the service as Ctrl-C does.
func (p program) down(cmd *exec.Cmd) {
	require.NoError(p.t, cmd.Process.Signal(syscall.SIGINT))
	require.NoError(p.t, cmd.Wait())
	assert.False(p.t, p.postgresRuns(), "PostgreSQL has stopped as well")
	assert.NoFileExists(p.t, filepath.Join(p.folder, "service.json"))
}

func (p program) postgresRuns() bool {
	_, err := os.Stat(filepath.Join(p.folder, "postgres", "cluster", "postmaster.pid"))
	return err == nil
}

// took is the table of groups, and the data date.
func took(t *testing.T, p program, args ...string) (groups grid, dataDate string) {
	status, out, messages := p.run(append([]string{"took", "--format", "json"}, args...)...)
	require.Zerof(t, status, "%s", messages)
	var d answer.Document
	require.NoError(t, json.Unmarshal([]byte(out), &d))
	return gridOf(t, d.Parts[0], "groups"), d.DataDate
}

// asked is how many orders all questions are about.
func (p program) asked() int {
	groups, _ := took(p.t, p)
	return groups.count(groups.total(), "asked")
}

// requireLists asks for lists, labels and views by command.
func (p program) requireLists(folder string) {
	t := p.t
	for _, tt := range []struct {
		args []string
		want []string
	}{
		{[]string{"label", "list"}, []string{"There are none yet."}},
		{[]string{"label", "try", "Worry", "--when", "large: value > 500 && paid == null", "--rest", "none"},
			[]string{"nothing is saved", "large", "else"}},
		{[]string{"label", "save", "Worry", "--when", "large: value > 500 && paid == null", "--rest", "none", "--missing", "cannot tell"},
			[]string{"The label worry is saved", "cannot tell"}},
		{[]string{"took", "--by", "worry"}, []string{"by worry?", "large", "cannot tell"}},
		{[]string{"orders", "--where", "working_days_so_far(ordered, shipped) > 25", "--columns",
			`number, worry, working_days_so_far(ordered, shipped) as "Days so far", state`, "--sort", "-Days so far", "--limit", "500",
			"--highlight", "plum: shipped == null", "--save-view", "Slow ones"},
			[]string{"where working_days_so_far(ordered, shipped) > 25?\nFinished or cancelled:", "Still waiting: 7 orders", "▲ ",
				"Days so far (mean per order)", "▲ plum: shipped == null", "cannot be decided yet ("}},
		{[]string{"orders", "--rows", "lines", "--columns", "number, lines.product, lines.units", "--where",
			`lines.exists(l, l.product == "SMOKER")`, "--limit", "3"}, []string{"SMOKER", "line units (sum)"}},
		{[]string{"took", "--over", "10", "--by", "site", "--with-running", "--period", "2026-10"},
			[]string{"How many took over 10 working days, finished or still running?", "9.66 7.69 28.08",
				"67 still running and 9 cancelled; if no order were cancelled, half would be shipped within 4 working days, not 3;"}},
		{[]string{"took", "--at-least", "10", "--format", "csv"},
			[]string{`"finished, at least 10 working days","still waiting, at least 10 working days","finished within, at least`}},
		{[]string{"took", "--with-running", "--basis", "shipped"},
			[]string{"there is no estimate with running orders: orders are placed by ship date"}},
		{[]string{"view", "list"}, []string{"Slow ones  orders"}},
		{[]string{"view", "run", "slow ONES"}, []string{"Still waiting: 7 orders"}},
		{[]string{"took", "--by", "site", "--save-view", "By site"}, []string{"Galway"}},
		{[]string{"view", "run", "By site"}, []string{"by site?", "Galway"}},
		{[]string{"view", "copy", "By site", "Another"}, []string{"Another  how-long"}},
		{[]string{"view", "rename", "Another", "Other"}, []string{"Other  "}},
		{[]string{"view", "delete", "Other"}, []string{"By site"}},
		{[]string{"due", "--save-view", "Due now"}, []string{"open and overdue"}},
		{[]string{"view", "run", "Due now", "--format", "csv"}, []string{"number,customer,site,ordered,due,shipped"}},
	} {
		status, out, messages := p.run(tt.args...)
		require.Zerof(t, status, "%v: %s", tt.args, messages)
		for _, want := range tt.want {
			assert.Contains(t, strings.Join(strings.Fields(out), " "), strings.Join(strings.Fields(want), " "), tt.args)
		}
	}
	status, _, messages := p.run("took", "--save-view", "by SITE")
	assert.Equal(t, 1, status)
	assert.Contains(t, messages, "add --replace to overwrite it", "nobody sits at a terminal who could be asked")
	for _, name := range []string{"by SITE"} {
		status, _, messages = p.run("took", "--by", "channel", "--save-view", name, "--replace")
		assert.Zero(t, status, messages)
	}
	for _, form := range []string{"csv", "xlsx", "ndjson", "json", "parquet"} {
		path := filepath.Join(folder, "slow."+form)
		status, out, messages := p.run("view", "run", "Slow ones", "--output", path)
		require.Zerof(t, status, "%s", messages)
		assert.Empty(t, out)
		info, err := os.Stat(path)
		require.NoError(t, err)
		assert.Positive(t, info.Size(), form)
	}
	_, out, _ := p.run("orders", "--where", "value > 500", "--columns", "number, customer-contact", "--format", "ndjson",
		"--without-contacts")
	assert.NotContains(t, out, "customer-contact\"")
}

// Whoever closes the terminal stops the service in order; one that was killed leaves a note, and a client that finds it sends
// nothing to who listens there.
func TestTheNoteOfTheService(t *testing.T) {
	p := newProgram(t)
	cmd, address := p.up()
	note := filepath.Join(p.folder, "service.json")
	require.NoError(t, cmd.Process.Signal(syscall.SIGHUP))
	require.NoError(t, cmd.Wait())
	assert.NoFileExists(t, note)
	assert.False(t, p.postgresRuns())

	cmd, address = p.up("--listen", strings.TrimPrefix(address, "http://"))
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	require.FileExists(t, note)
	var asked atomic.Int32
	thief := &http.Server{Handler: http.HandlerFunc(func(http.ResponseWriter, *http.Request) { asked.Add(1) })}
	listener, err := net.Listen("tcp", strings.TrimPrefix(address, "http://"))
	require.NoError(t, err)
	go func() { _ = thief.Serve(listener) }()
	defer thief.Close()
	status, _, messages := p.run("took")
	assert.Equal(t, 1, status)
	assert.Contains(t, messages, "has ended without saying so")
	assert.Contains(t, messages, "nothing was sent there")
	assert.Zero(t, asked.Load())
	_, _, messages = p.run("up", "--listen", strings.TrimPrefix(address, "http://"))
	assert.Contains(t, messages, "choose another port")
	assert.Zero(t, asked.Load())
	cmd, _ = p.up()
	p.down(cmd)
}

// From an empty folder to an answer, and back after a restart.
func TestFromAnEmptyFolderToAnAnswer(t *testing.T) {
	p := newProgram(t)
	status, _, messages := p.run("took")
	assert.Equal(t, 1, status)
	assert.Contains(t, messages, "start one with `prairie-dusk up`")

	cmd, address := p.up("--demo")
	assert.True(t, p.postgresRuns())
	files := t.TempDir()
	status, _, messages = p.run("demo-data", "--out", files)
	require.Zerof(t, status, "%s", messages)
	text, err := os.ReadFile(filepath.Join(files, demo.ManifestFile))
	require.NoError(t, err)
	var manifest demo.Manifest
	require.NoError(t, json.Unmarshal(text, &manifest))

	before, dataDate := took(t, p, "--by", "site")
	asked := before.count(before.total(), "asked")
	words := map[string]string{"n": "shipped", "running": "still running", "cancelled": "cancelled",
		"end-before-start":       "shipped before ordered",
		"cancelled-before-start": "cancelled before ordered", "no-start": "no ordered day", "not-yet-begun": "not yet begun"}
	for code, word := range words {
		if manifest.OrderedToShipped[word] > 0 {
			assert.Equal(t, manifest.OrderedToShipped[word], before.count(before.total(), code), code)
		}
	}
	assert.Equal(t, manifest.DataDate.String(), dataDate)
	require.Len(t, before.Rows, 5, "four sites, and the orders without one")

	// The same files again change nothing; their bad rows are set aside again, and say so in the exit status.
	status, out, _ := p.run("load", "--format", "json", filepath.Join(files, demo.OrdersFile))
	assert.Equal(t, 3, status)
	var load api.Load
	require.NoError(t, json.Unmarshal([]byte(out), &load))
	assert.EqualValues(t, manifest.Orders, load.Files[0].Same)
	assert.EqualValues(t, len(manifest.SetAside), load.SetAside)

	// What was set aside comes out to be fixed; trying a file changes nothing; the last load can be undone.
	status, mend, _ := p.run("loads", "fix", fmt.Sprint(load.Number))
	assert.Zero(t, status)
	assert.Len(t, strings.Split(strings.TrimSpace(mend), "\n"), 1+len(manifest.SetAside))
	mended := write(t, "mend.csv", strings.Replace(mend, "2026-02-30", "2026-02-28", 1))
	status, out, _ = p.run("load", "--check-only", "--format", "json", mended)
	assert.Equal(t, 3, status)
	var check api.Load
	require.NoError(t, json.Unmarshal([]byte(out), &check))
	assert.Equal(t, []int64{0, 1, load.SetAside - 1}, []int64{check.Number, check.Files[0].New, check.SetAside})
	status, _, messages = p.run("load", mended)
	assert.Equal(t, 2, status)
	assert.Contains(t, messages, fmt.Sprintf("mend.csv: %d of %d rows would be set aside", load.SetAside-1, load.SetAside))
	assert.Contains(t, messages, "say --accept-set-aside")
	status, _, _ = p.run("load", mended, "--accept-set-aside")
	assert.Equal(t, 3, status)
	assert.Equal(t, asked+1, p.asked())
	second := fmt.Sprint(load.Number + 1)
	status, _, messages = p.run("loads", "undo", second)
	assert.Equal(t, 2, status, "nobody was there to be asked")
	assert.Contains(t, messages, "changed ones are as before")
	assert.Contains(t, messages, "nothing was undone: without a terminal, say --yes")
	for _, step := range [][]string{{"undo", second, "--yes"}, {"redo", second}} {
		status, _, messages = p.run(append([]string{"loads"}, step...)...)
		require.Zerof(t, status, "%v: %s", step, messages)
	}
	status, _, messages = p.run("loads", "redo", second)
	assert.Equal(t, 1, status)
	assert.Contains(t, messages, "only the load that was undone last comes back")
	status, out, _ = p.run("loads", "undo", second, "--yes")
	assert.Zero(t, status)
	assert.Contains(t, out, fmt.Sprintf("load %d was undone", load.Number+1))
	assert.Equal(t, asked, p.asked())
	status, out, _ = p.run("quality", "--format", "csv")
	assert.Zero(t, status)
	assert.Contains(t, out, fmt.Sprintf("%d,orders: no site,no-site,", len(manifest.Planted[demo.NoSite])))

	// Days are calculated, due orders listed, and a calendar goes out as a file that changes nothing when it comes back.
	for _, tt := range []struct {
		args []string
		want []string
	}{
		{[]string{"days", "2026-06-29", "2026-07-10"}, []string{"8 working days", "by the calendar Saskatoon?", "Wed 07-01 Canada Day",
			"12 days = 1 start + 8 counted + 1 holiday + 2 weekend"}},
		{[]string{"days", "2026-03-27T16:30", "2026-03-30T09:00", "--in", "working-hours", "--on", "galway"},
			[]string{"1 working hour\n", "= 0.50 + 0.50"}},
		{[]string{"days", "2026-07-05", "3", "--before"}, []string{"Tue 2026-06-30", "3 working days before Sun 2026-07-05"}},
		{[]string{"days", "2026-07-05", "-3"}, []string{"Tue 2026-06-30"}},
		{[]string{"days", "2026-07-02", "2", "--in", "days", "--roll", "next"}, []string{"Mon 2026-07-06"}},
		{[]string{"days", "--wanted", "2026-12-28", "3", "--on", "Galway"}, []string{"Tue 2026-12-22", "Thu 12-24 Christmas Eve", "~2",
			"1 half day"}},
		{[]string{"due", "--after", "10", "--within", "0", "--standing", "overdue", "--limit", "2"},
			[]string{"due to be shipped at any time by 10 working days after the order date", "open and overdue", "listed: open and overdue"}},
		{[]string{"due", "--to", "delivered", "--plan", "requested", "--period", "2026-10", "--format", "csv"},
			[]string{"ordered,due,delivered,working days over,standing"}},
		{[]string{"calendar", "compare", "Galway", "Muscat", "--year", "2025"},
			[]string{"On which days of 2025 do the calendars Galway and Muscat differ?", "National Day"}},
		{[]string{"calendar", "show", "Hamilton", "--year", "2025"}, []string{"hours 08:00-16:30", "half day", "New Year's Eve"}},
		{[]string{"order", "SD-103663", "--in", "working-hours"}, []string{"Mon 2026-03-16 20:40", "working hours",
			"times in Europe/Dublin", "the numbers are hours"}},
		{[]string{"order", "SD-103663", "--in", "hours", "--format", "csv"}, []string{"day,part,name,hours",
			"2026-03-29,counted,,23.0000"}},
	} {
		status, out, messages := p.run(tt.args...)
		require.Zerof(t, status, "%v: %s", tt.args, messages)
		for _, want := range tt.want {
			assert.Contains(t, out, want, tt.args)
		}
	}
	p.requireLists(files)
	for _, form := range []string{"ics", "csv"} {
		_, text, _ := p.run("calendar", "show", "Galway", "--format", form)
		again := write(t, "galway."+form, text)
		status, out, _ = p.run("load", "--check-only", "--format", "json", again)
		require.Zero(t, status)
		require.NoError(t, json.Unmarshal([]byte(out), &check))
		assert.Equal(t, []int64{0, 1}, []int64{check.Files[0].New, check.Files[0].Same}, form)
	}

	for _, tt := range []struct {
		args   []string
		status int
		want   string
	}{
		{[]string{"days", "2026-07-05"}, 2, "want two days, a day and a number"},
		{[]string{"days", "2026-07-05", "2026-07-09", "--before"}, 2, "--before goes with a day and a number"},
		{[]string{"days", "2026-07-05", "2026-07-32"}, 2, "July 2026 has no day 32"},
		{[]string{"days", "2026-07-05", "3", "--on", "Atlantis"}, 2, "want one of default, Galway"},
		{[]string{"due", "--plan", "shipped"}, 2, "want a plan"},
		{[]string{"took", "--in", "months", "--count", "both-ends"}, 2, "no first day is left to count"},
		{[]string{"took", "--in", "working-hours", "--calendar", "destination"}, 2, "no zone is known for destinations"},
		{[]string{"calendar", "show", "Atlantis"}, 1, `no calendar "Atlantis"`},
		{[]string{"loads", "undo", "1"}, 1, "only the last load can be undone"},
		{[]string{"loads", "undo", "last"}, 2, "no number of a load"},
		{[]string{"loads", "fix", "99"}, 1, "no row of load 99 waits"},
		{[]string{"orders", "--quality", "bad-luck"}, 2, "nothing that can look wrong with orders"},
		{[]string{"orders", "--columns", "colour"}, 2, "is no column"},
		{[]string{"orders", "--format", "csv", "--limit", "3"}, 2, "a file has the whole list"},
		{[]string{"orders", "--output", "orders.pdf"}, 2, "says no form; want csv, json, ndjson, xlsx or parquet"},
		{[]string{"orders", "--format", "table", "--output", "orders.csv"}, 2, "a table is for reading"},
		{[]string{"orders", "--highlight", "red: true"}, 2, "want one of amber, teal, plum, faint"},
		{[]string{"label", "save", "x", "--when", "paid != null"}, 2, "want a text, a colon and a condition"},
		{[]string{"label", "delete", "nothing"}, 1, "nothing is kept under this name"},
		{[]string{"view", "run", "nothing"}, 1, "there is no view \"nothing\"; there are by SITE, Due now, Slow ones"},
		{[]string{"up", "--listen", "127.0.0.1:0"}, 1, "already runs on the data folder " + p.folder + " at " + address},
		{[]string{"took", "--period", "July"}, 2, "does not say of which year"},
		{[]string{"took", "--perod", "2026"}, 2, "there is no option --perod; did you mean --period?"},
		{[]string{"tuck"}, 2, "did you mean took"},
		{[]string{"took", "--format", "pdf"}, 2, "want one of table, csv, json"},
		{[]string{"order"}, 2, "accepts 1 arg"},
		{[]string{"order", "SD-0"}, 1, `no order "SD-0"`},
		{[]string{"load", "nowhere.csv"}, 1, "no such file"},
	} {
		status, out, messages := p.run(tt.args...)
		assert.Equal(t, tt.status, status, tt.args)
		assert.Empty(t, out, "nothing but data on standard output")
		assert.Contains(t, messages, tt.want, tt.args)
	}
	_, out, _ = p.run("__complete", "took", "--from", "")
	assert.Contains(t, out, "promised")
	_, out, _ = p.run("__complete", "orders", "--columns", "")
	assert.Contains(t, out, "lines.product")
	_, out, _ = p.run("__complete", "view", "run", "")
	assert.Contains(t, out, "Slow ones")
	_, out, _ = p.run("__complete", "calendar", "show", "")
	assert.Contains(t, out, "Hamilton")
	p.down(cmd)

	cmd, _ = p.up()
	_, out, _ = p.run("view", "run", "Slow ones", "--format", "csv")
	assert.Contains(t, out, "worry", "labels and views outlast a restart")
	after, _ := took(t, p, "--by", "site")
	assert.Equal(t, before.Table, after.Table)
	p.down(cmd)
}

// Twenty times, the service or PostgreSQL is killed at a random moment of a load; mostly rows of the load lie in
// PostgreSQL by then. The next service finds the load whole or not at all.
func TestKilledInTheMiddleOfALoad(t *testing.T) {
	const kills, orders, proofs = 20, 30_000, 12
	p := newProgram(t)
	files := t.TempDir()
	_, err := demo.Write(files, demo.Options{Orders: orders, Seed: 3, Bare: true})
	require.NoError(t, err)
	rows, err := os.ReadFile(filepath.Join(files, demo.OrdersFile))
	require.NoError(t, err)
	random := rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 0))

	before, proven := 0, 0
	cmd, _ := p.up()
	for kill := range kills {
		fresh := write(t, "orders.csv", strings.ReplaceAll(string(rows), "SD-", fmt.Sprintf("K%d-", kill)))
		load := p.command("load", fresh)
		require.NoError(t, load.Start())
		moment := random.IntN(orders)
		seen := p.waitForRows(moment)
		if seen > 0 {
			proven++
		}
		victim := cmd.Process.Pid
		if kill%2 == 1 {
			victim, _ = p.postmaster()
		}
		cmd = p.kill(cmd, victim, load)
		after := p.ordersInBook()
		assert.Containsf(t, []int{before, before + orders}, after, "kill %d, of process %d, after %d rows", kill, victim, seen)
		if load.ProcessState.ExitCode() == 0 || load.ProcessState.ExitCode() == 3 {
			assert.Equal(t, before+orders, after, "a load that said it went well is there")
		}
		before = after
	}
	// And a few times while all kinds of records load: all of them are there, or none, and the answers follow the tables.
	files = t.TempDir()
	_, err = demo.Write(files, demo.Options{Orders: 2_000, Seed: 3})
	require.NoError(t, err)
	tables := p.tables()
	for kill := range 4 {
		load := p.command(append([]string{"load"}, prefixed(t, files, fmt.Sprintf("M%d-", kill))...)...)
		require.NoError(t, load.Start())
		time.Sleep(time.Duration(random.IntN(900)) * time.Millisecond)
		victim := cmd.Process.Pid
		if kill%2 == 1 {
			victim, _ = p.postmaster()
		}
		cmd = p.kill(cmd, victim, load)
		after := p.tables()
		for table, n := range after {
			more := n > tables[table]
			assert.Equalf(t, after["orders"] > tables["orders"], more, "kill %d: %s went from %d to %d rows, while %v became %v", kill,
				table, tables[table], n, tables, after)
		}
		assert.Equal(t, after["orders"], p.ordersInBook(), "the book has what the tables have")
		tables = after
	}
	p.down(cmd)
	assert.GreaterOrEqualf(t, proven, proofs, "rows of the load lay in PostgreSQL at %d of %d kills", proven, kills)
}

// kill kills a process of the service while a load runs, and waits until it serves again: where it was not its PostgreSQL alone,
// which it starts again by itself, the next start does.
func (p program) kill(service *exec.Cmd, victim int, load *exec.Cmd) *exec.Cmd {
	require.NoError(p.t, syscall.Kill(victim, syscall.SIGKILL))
	_ = load.Wait()
	if victim == service.Process.Pid {
		_ = service.Wait()
		service, _ = p.up()
		return service
	}
	require.Eventually(p.t, func() bool {
		text, err := os.ReadFile(p.postmasterFile())
		return err == nil && !strings.HasPrefix(string(text), fmt.Sprintf("%d\n", victim))
	}, 30*time.Second, 10*time.Millisecond)
	text, err := os.ReadFile(filepath.Join(p.folder, "service.json"))
	require.NoError(p.t, err)
	var note struct{ Address string }
	require.NoError(p.t, json.Unmarshal(text, &note))
	require.Eventually(p.t, func() bool {
		response, err := http.Get(note.Address + "/readyz")
		if err != nil {
			return false
		}
		defer response.Body.Close()
		conn, err := p.connect() // the note of its process is there before it answers
		if err != nil {
			return false
		}
		return conn.Close(context.Background()) == nil && response.StatusCode == http.StatusOK
	}, 30*time.Second, 20*time.Millisecond)
	return service
}

// prefixed are copies of the files of records in a folder, of orders with other numbers.
func prefixed(t *testing.T, folder, prefix string) (files []string) {
	for _, name := range []string{demo.OrdersFile, "lines.csv", "shipments.csv", "payments.csv", "status-events.csv", "status-daily.csv"} {
		text, err := os.ReadFile(filepath.Join(folder, name))
		require.NoError(t, err)
		files = append(files, write(t, name, strings.ReplaceAll(string(text), "SD-", prefix)))
	}
	return files
}

// tables are how many rows each table of records has.
func (p program) tables() map[string]int {
	conn := p.database()
	defer conn.Close(context.Background())
	rows := map[string]int{}
	for _, table := range []string{"orders", "order_lines", "shipments", "payments", "status_records"} {
		var n int
		require.NoError(p.t, conn.QueryRow(p.t.Context(), "SELECT count(*) FROM "+table).Scan(&n))
		rows[table] = n
	}
	return rows
}

func (p program) database() *pgx.Conn {
	conn, err := p.connect()
	require.NoError(p.t, err)
	return conn
}

func (p program) connect() (*pgx.Conn, error) {
	text, err := os.ReadFile(p.postmasterFile())
	if err != nil {
		return nil, err // PostgreSQL is just starting again
	}
	lines := strings.Split(string(text), "\n")
	if len(lines) < 4 {
		return nil, fmt.Errorf("PostgreSQL has not written its port yet: %q", text)
	}
	password, err := os.ReadFile(filepath.Join(p.folder, "postgres", "password"))
	require.NoError(p.t, err)
	return pgx.Connect(p.t.Context(), fmt.Sprintf("postgres://prairie_dusk:%s@127.0.0.1:%s/postgres", password, lines[3]))
}

// postmasterFile is where PostgreSQL says what its process and its port are.
func (p program) postmasterFile() string {
	return filepath.Join(p.folder, "postgres", "cluster", "postmaster.pid")
}

func (p program) ordersInBook() int {
	status, out, messages := p.run("book", "--format", "json")
	require.Zerof(p.t, status, "%s", messages)
	var book api.Book
	require.NoError(p.t, json.Unmarshal([]byte(out), &book))
	return book.Orders
}

// postmaster is PostgreSQL's process and port, from its own file.
func (p program) postmaster() (pid int, port string) {
	text, err := os.ReadFile(p.postmasterFile())
	require.NoError(p.t, err)
	lines := strings.Split(string(text), "\n")
	pid, err = strconv.Atoi(lines[0])
	require.NoError(p.t, err)
	return pid, lines[3]
}

// waitForRows waits until PostgreSQL has copied so many rows of a load that runs, and gives how many it has; 0
// where none was seen before the load ended.
func (p program) waitForRows(rows int) (seen int) {
	conn := p.database()
	defer conn.Close(context.Background())
	for until := time.Now().Add(10 * time.Second); time.Now().Before(until); time.Sleep(time.Millisecond) {
		var now int
		require.NoError(p.t, conn.QueryRow(p.t.Context(),
			"SELECT coalesce(max(tuples_processed), 0) FROM pg_stat_progress_copy WHERE relid <> 'set_aside_rows'::regclass").Scan(&now))
		if now < seen { // that COPY has ended
			return seen
		}
		if seen = now; seen > rows {
			return seen
		}
	}
	return seen
}

// Flags are stronger than the environment, and that than the file; the address that is refused says which won.
func TestSettingsByStrength(t *testing.T) {
	p := newProgram(t)
	file := write(t, "settings.yaml", "listen: 10.0.0.1:1\n")
	env := func(cmd *exec.Cmd, more ...string) string {
		cmd.Env = append(cmd.Env, more...)
		out, err := cmd.CombinedOutput()
		require.Error(t, err)
		return string(out)
	}
	assert.Contains(t, env(p.command("up", "--settings", file)), "10.0.0.1")
	assert.Contains(t, env(p.command("up", "--settings", file), "PRAIRIE_DUSK_LISTEN=10.0.0.2:1"), "10.0.0.2")
	assert.Contains(t, env(p.command("up", "--settings", file, "--listen", "10.0.0.3:1"), "PRAIRIE_DUSK_LISTEN=10.0.0.2:1"), "10.0.0.3")
	wrong := write(t, "wrong.yaml", "lissen: 10.0.0.1:1\n")
	assert.Contains(t, env(p.command("up", "--settings", wrong)), `no setting "lissen"`)

	// A database that refuses us is told by name, without the password.
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	address := listener.Addr().String()
	require.NoError(t, listener.Close())
	said := env(p.command("up", "--listen", "127.0.0.1:0", "--log-level", "debug"),
		"PRAIRIE_DUSK_DATABASE_URL=postgres://ana:hush-hush@"+address+"/orders")
	assert.Contains(t, said, "connection refused")
	assert.NotContains(t, said, "hush-hush")
}
