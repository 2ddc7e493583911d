package test

import (
	"bufio"
	"bytes"
	"encoding/json"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
	address, _, _ = strings.Cut(address, "/enter?key=")
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

func took(t *testing.T, p program, args ...string) api.Took {
	status, out, messages := p.run(append([]string{"took", "--format", "json"}, args...)...)
	require.Zerof(t, status, "%s", messages)
	var answer api.Took
	require.NoError(t, json.Unmarshal([]byte(out), &answer))
	return answer
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

	before := took(t, p, "--by", "site")
	words := map[string]string{"counted": "shipped", "running": "still running", "cancelled": "cancelled", "end-before-start": "shipped before ordered",
		"cancelled-before-start": "cancelled before ordered", "no-start": "no ordered day", "not-yet-begun": "not yet begun"}
	for _, r := range before.Parts[0].Total.Reconciliation {
		assert.Equal(t, manifest.OrderedToShipped[words[r.State]], r.Orders, r.State)
	}
	assert.Equal(t, manifest.DataDate.String(), before.DataDate)
	require.Len(t, before.Parts[0].Groups, 5, "four sites, and the orders without one")

	// The same files again change nothing; their bad rows are set aside again, and say so in the exit status.
	status, out, _ := p.run("load", "--format", "json", filepath.Join(files, demo.OrdersFile))
	assert.Equal(t, 3, status)
	var load api.Load
	require.NoError(t, json.Unmarshal([]byte(out), &load))
	assert.EqualValues(t, manifest.Orders, load.Files[0].Same)
	assert.EqualValues(t, len(manifest.SetAside), load.SetAside)

	for _, tt := range []struct {
		args   []string
		status int
		want   string
	}{
		{[]string{"up", "--listen", "127.0.0.1:0"}, 1, "already runs on the data folder " + p.folder + " at " + address},
		{[]string{"took", "--period", "July"}, 2, "does not say of which year"},
		{[]string{"took", "--perod", "2026"}, 2, "unknown flag: --perod"},
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
	_, out, _ = p.run("__complete", "calendar", "show", "")
	assert.Contains(t, out, "Hamilton")
	p.down(cmd)

	cmd, _ = p.up()
	after := took(t, p, "--by", "site")
	before.Version, after.Version = 0, 0
	assert.Equal(t, before, after)
	p.down(cmd)
}

// A service that is killed takes PostgreSQL with it, and the next one finds the load whole or not at all.
func TestKilledInTheMiddleOfALoad(t *testing.T) {
	p := newProgram(t)
	files := t.TempDir()
	_, err := demo.Write(files, demo.Options{Orders: 200_000, Seed: 3})
	require.NoError(t, err)
	cmd, _ := p.up()
	load := p.command("load", filepath.Join(files, demo.OrdersFile))
	require.NoError(t, load.Start())
	time.Sleep(300 * time.Millisecond)
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	_ = load.Wait()
	assert.Equal(t, 1, load.ProcessState.ExitCode(), "the client says that the load failed")

	cmd, _ = p.up()
	status, out, messages := p.run("book", "--format", "json")
	require.Zerof(t, status, "%s", messages)
	var book api.Book
	require.NoError(t, json.Unmarshal([]byte(out), &book))
	assert.Contains(t, []int{0, 200_000}, book.Orders)
	p.down(cmd)
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
	said := env(p.command("up", "--listen", "127.0.0.1:0", "--log-level", "debug"), "PRAIRIE_DUSK_DATABASE_URL=postgres://ana:hush-hush@"+address+"/orders")
	assert.Contains(t, said, "connection refused")
	assert.NotContains(t, said, "hush-hush")
}
