// Package pgcluster runs a private PostgreSQL server: its own data folder, its own port on loopback, its own
// password, no sockets, and no trace outside the folder. It uses the server binaries that Debian installs.
package pgcluster

import (
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/url"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// ErrNotInstalled is returned, wrapped, where the server's binaries are missing.
var ErrNotInstalled = errors.New("PostgreSQL's server is not installed; install Debian's package with `apt-get install postgresql-15`, or name a running server with --database-url")

// installed is where Debian keeps the binaries of each major version.
const installed = "/usr/lib/postgresql"

const (
	keeper       = "prairie_dusk"         // made the cluster, and may do anything in it
	servant      = "prairie_dusk_service" // owns the records, and nothing else
	reader       = "prairie_dusk_reader"  // may read them; there on demand
	database     = "postgres"
	startTimeout = 60 * time.Second
	fastTimeout  = 60 * time.Second
	// helpersTimeout is how long helpers of a killed server may take to notice.
	helpersTimeout = 20 * time.Second
	serverAccount  = "postgres" // runs the server where we are root, which the server refuses to be
)

// A Cluster is a running server.
type Cluster struct {
	folder   string
	bin      string
	owner    *owner // nil: ourselves
	port     int
	password string // of the keeper
	serving  string // the servant's password, anew at every start and in memory alone
	process  *exec.Cmd
	log      *slog.Logger
	exited   chan struct{} // closed once the server is gone
}

// An owner is the account that the server runs as.
type owner struct {
	uid, gid uint32
	name     string
}

// Start makes the cluster on first use and starts its server. The folder must exist; it holds the cluster in
// "cluster", the password in "password" and the server's messages in "server.log". Where we are root it is
// given to the user postgres.
func Start(ctx context.Context, folder string, log *slog.Logger) (*Cluster, error) {
	c := &Cluster{folder: folder, log: log, exited: make(chan struct{})}
	var err error
	if c.bin, err = c.binaries(); err != nil {
		return nil, err
	}
	if c.owner, err = serverOwner(); err != nil {
		return nil, err
	}
	if err := c.handOver(); err != nil {
		return nil, err
	}
	if err := c.create(ctx, log); err != nil {
		return nil, err
	}
	if err := c.stopOrphan(ctx); err != nil {
		return nil, err
	}
	if err := c.start(ctx); err != nil {
		return nil, err
	}
	if err := c.appoint(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("PostgreSQL: %w", err), c.Stop())
	}
	log.Info("PostgreSQL is up", "port", c.port, "version", filepath.Base(filepath.Dir(c.bin)))
	return c, nil
}

// URL is the address of the server's database, with the password, for a role that may use and change it, and is no superuser.
func (c *Cluster) URL() string { return c.url(servant, c.serving) }

// KeeperURL is the same for the superuser.
func (c *Cluster) KeeperURL() string { return c.url(keeper, c.password) }

func (c *Cluster) url(role, password string) string {
	u := url.URL{Scheme: "postgres", User: url.UserPassword(role, password),
		Host: net.JoinHostPort("127.0.0.1", strconv.Itoa(c.port)), Path: database, RawQuery: "sslmode=disable"}
	return u.String()
}

// appoint gives the database to the role that uses it, with what an earlier version has made there as the keeper.
func (c *Cluster) appoint(ctx context.Context) error {
	connection, err := pgx.Connect(ctx, c.KeeperURL())
	if err != nil {
		return err
	}
	defer connection.Close(context.WithoutCancel(ctx))
	c.serving = rand.Text() // letters and digits alone
	_, err = connection.Exec(ctx, fmt.Sprintf(`
		DO $$ BEGIN
			IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = '%[1]s') THEN CREATE ROLE %[1]s; END IF;
		END $$;
		ALTER ROLE %[1]s LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE PASSWORD '%[2]s';
		GRANT CREATE, CONNECT, TEMPORARY ON DATABASE %[3]s TO %[1]s;
		ALTER SCHEMA public OWNER TO %[1]s;
		DO $$ DECLARE made regclass; BEGIN
			FOR made IN SELECT oid FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind IN ('r', 'v') AND relowner <> '%[1]s'::regrole LOOP
				EXECUTE format('ALTER TABLE %%s OWNER TO %[1]s', made);
			END LOOP;
		END $$`, servant, c.serving, database))
	return err
}

// MakeReader makes the role that may read the tables of the database and change nothing, or gives it another password, and gives its
// address.
func (c *Cluster) MakeReader(ctx context.Context) (string, error) {
	connection, err := pgx.Connect(ctx, c.KeeperURL())
	if err != nil {
		return "", fmt.Errorf("PostgreSQL: %w", err)
	}
	defer connection.Close(context.WithoutCancel(ctx))
	password := rand.Text()
	if _, err = connection.Exec(ctx, fmt.Sprintf(`
		DO $$ BEGIN
			IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = '%[1]s') THEN CREATE ROLE %[1]s; END IF;
		END $$;
		ALTER ROLE %[1]s LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE CONNECTION LIMIT 10 PASSWORD '%[2]s';
		ALTER ROLE %[1]s SET default_transaction_read_only = on;
		ALTER ROLE %[1]s SET jit = off;
		ALTER ROLE %[1]s SET enable_nestloop = off;
		ALTER ROLE %[1]s SET work_mem = '256MB';
		GRANT SELECT ON ALL TABLES IN SCHEMA public TO %[1]s;
		ALTER DEFAULT PRIVILEGES FOR ROLE %[3]s IN SCHEMA public GRANT SELECT ON TABLES TO %[1]s`, reader, password, servant)); err != nil {
		return "", fmt.Errorf("PostgreSQL: %w", err)
	}
	return c.url(reader, password), nil
}

// Keep starts the server again whenever it ends by itself, on the port that it had, until the context ends. Only then may Stop
// be called.
func (c *Cluster) Keep(ctx context.Context) {
	for wait := restartSoonest; ; {
		select {
		case <-ctx.Done():
			return
		case <-c.exited:
		}
		c.log.Error("PostgreSQL has ended; starting it again", "last_words", c.lastWords())
		begin := time.Now()
		err := c.stopOrphan(ctx)
		if err == nil {
			err = c.startOnPort(ctx)
		}
		if err == nil {
			c.log.Info("PostgreSQL is up again", "port", c.port, "milliseconds", time.Since(begin).Milliseconds())
			wait = restartSoonest
			continue
		}
		c.log.Error("PostgreSQL could not be started again", "error", err)
		select {
		case <-ctx.Done():
			return
		case <-time.After(wait):
		}
		wait = min(2*wait, restartLatest)
	}
}

// A server that does not start is started again after a while, which doubles.
const (
	restartSoonest = 500 * time.Millisecond
	restartLatest  = 15 * time.Second
)

// Pid is the server's process.
func (c *Cluster) Pid() int { return c.process.Process.Pid }

func (c *Cluster) data() string { return filepath.Join(c.folder, "cluster") }

// binaries finds the folder of the server's binaries: of the version that made the cluster, or the newest.
func (c *Cluster) binaries() (string, error) {
	if version, err := os.ReadFile(filepath.Join(c.data(), "PG_VERSION")); err == nil {
		bin := filepath.Join(installed, strings.TrimSpace(string(version)), "bin")
		if _, err := os.Stat(filepath.Join(bin, "postgres")); err != nil {
			return "", fmt.Errorf("the data in %s were made by PostgreSQL %s, which is not installed here; install Debian's package postgresql-%[2]s, or choose another folder with --data",
				c.folder, strings.TrimSpace(string(version)))
		}
		return bin, nil
	}
	versions, err := filepath.Glob(filepath.Join(installed, "*", "bin", "postgres"))
	if err != nil || len(versions) == 0 {
		return "", ErrNotInstalled
	}
	newest := slices.MaxFunc(versions, func(a, b string) int { return major(a) - major(b) })
	return filepath.Dir(newest), nil
}

// major is the version number in the path of a server's binary.
func major(path string) int {
	n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(path))))
	return n
}

func serverOwner() (*owner, error) {
	if os.Geteuid() != 0 {
		return nil, nil
	}
	account, err := user.Lookup(serverAccount)
	if err != nil {
		return nil, fmt.Errorf("PostgreSQL refuses to run as root, and there is no user %s to run it as; install Debian's package postgresql-15, or run as another user", serverAccount)
	}
	uid, err := strconv.ParseUint(account.Uid, 10, 32)
	if err != nil {
		return nil, err
	}
	gid, err := strconv.ParseUint(account.Gid, 10, 32)
	if err != nil {
		return nil, err
	}
	return &owner{uint32(uid), uint32(gid), account.Username}, nil
}

// handOver gives the folder to the server's account and checks that the account can get there.
func (c *Cluster) handOver() error {
	if c.owner == nil {
		return nil
	}
	if err := os.Lchown(c.folder, int(c.owner.uid), int(c.owner.gid)); err != nil {
		return err
	}
	test := exec.Command("/usr/bin/test", "-w", c.folder)
	c.runAsOwner(test)
	if test.Run() != nil {
		return fmt.Errorf("the user %s, who runs PostgreSQL for root, cannot get to %s; choose a folder that others can reach with --data, such as /var/lib/prairie-dusk", c.owner.name, c.folder)
	}
	return nil
}

func (c *Cluster) runAsOwner(command *exec.Cmd) {
	command.Dir = "/"
	command.SysProcAttr = &syscall.SysProcAttr{}
	if c.owner != nil {
		command.SysProcAttr.Credential = &syscall.Credential{Uid: c.owner.uid, Gid: c.owner.gid}
	}
}

// create makes the cluster where there is none. It is made beside its place and moved there whole, so that
// one that was cut short is never taken for a cluster.
func (c *Cluster) create(ctx context.Context, log *slog.Logger) error {
	passwordFile := filepath.Join(c.folder, "password")
	if _, err := os.Stat(c.data()); err == nil {
		password, err := os.ReadFile(passwordFile)
		if err == nil && len(password) != len(rand.Text()) {
			err = errors.New("it is cut short")
		}
		if err != nil {
			return fmt.Errorf("the password of the records, %s, cannot be used: %w; restore the file, or move the folder away and load the files again", passwordFile, err)
		}
		c.password = string(password)
		return nil
	}
	log.Info("making a PostgreSQL cluster", "folder", c.folder)
	c.password = rand.Text()
	if err := os.Remove(passwordFile); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if err := writeNew(passwordFile, c.password); err != nil {
		return err
	}
	if c.owner != nil {
		if err := os.Lchown(passwordFile, int(c.owner.uid), int(c.owner.gid)); err != nil {
			return err
		}
	}
	unfinished := c.data() + ".unfinished"
	if err := os.RemoveAll(unfinished); err != nil {
		return err
	}
	initdb := exec.CommandContext(ctx, filepath.Join(c.bin, "initdb"), "-D", unfinished, "-U", keeper, "--pwfile", passwordFile,
		"--auth", "scram-sha-256", "--encoding", "UTF8", "--locale", "C.UTF-8", "--data-checksums", "--no-instructions")
	c.runAsOwner(initdb)
	if out, err := initdb.CombinedOutput(); ctx.Err() != nil {
		return ctx.Err()
	} else if err != nil {
		return fmt.Errorf("PostgreSQL could not make a cluster in %s: %w\n%s", c.folder, err, out)
	}
	return os.Rename(unfinished, c.data())
}

// writeNew writes a file that is not there yet, for its owner alone, and makes sure that it is on the disk.
func writeNew(path, text string) error {
	file, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	_, err = file.WriteString(text)
	return errors.Join(err, file.Sync(), file.Close())
}

// stopOrphan stops a server that an earlier, killed process has left running on this cluster. Its note of its process may be of
// long ago: another program can have the number by now, which must neither be signalled nor keep the server from starting.
func (c *Cluster) stopOrphan(ctx context.Context) error {
	note := filepath.Join(c.data(), "postmaster.pid")
	text, err := os.ReadFile(note)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	first, _, _ := strings.Cut(string(text), "\n")
	pid, err := strconv.Atoi(strings.TrimSpace(first))
	if err != nil || pid <= 1 || c.process != nil && pid == c.process.Process.Pid {
		return c.forget(note)
	}
	// The handle stays that of this process, whoever has its number later.
	process, err := os.FindProcess(pid)
	if err != nil {
		return err
	}
	defer process.Release()
	if !c.ours(pid) {
		return c.forget(note)
	}
	c.log.Warn("stopping a PostgreSQL server that an earlier run left behind", "folder", c.folder)
	for _, signal := range []syscall.Signal{syscall.SIGINT, syscall.SIGQUIT} {
		if err := process.Signal(signal); err != nil && !errors.Is(err, os.ErrProcessDone) {
			return fmt.Errorf("a PostgreSQL server of an earlier run, process %d, could not be stopped: %w", pid, err)
		}
		for until := time.Now().Add(fastTimeout); time.Now().Before(until); time.Sleep(20 * time.Millisecond) {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			if !c.ours(pid) {
				return nil
			}
		}
	}
	return fmt.Errorf("a PostgreSQL server of an earlier run, process %d, does not stop", pid)
}

// ours says whether a process is a PostgreSQL server that works in the cluster's folder.
func (c *Cluster) ours(pid int) bool {
	of := func(link string) string {
		target, _ := os.Readlink(filepath.Join("/proc", strconv.Itoa(pid), link)) // none of a process that has ended
		return strings.TrimSuffix(target, " (deleted)")
	}
	folder, err := filepath.EvalSymlinks(c.data())
	return err == nil && filepath.Base(of("exe")) == "postgres" && of("cwd") == folder
}

// forget removes the note of a server that runs no more. A helper of it that still lives keeps the next one out: the two would
// write the same files.
func (c *Cluster) forget(note string) error {
	for until := time.Now().Add(helpersTimeout); c.helpersLive(); time.Sleep(50 * time.Millisecond) {
		if time.Now().After(until) {
			return fmt.Errorf("processes of a PostgreSQL server that was killed still work in %s; end them, or restart the machine",
				c.data())
		}
	}
	if err := os.Remove(note); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// helpersLive says whether any PostgreSQL process works in the cluster's folder.
func (c *Cluster) helpersLive() bool {
	processes, _ := filepath.Glob("/proc/[0-9]*")
	return slices.ContainsFunc(processes, func(path string) bool {
		pid, err := strconv.Atoi(filepath.Base(path))
		return err == nil && c.ours(pid)
	})
}

// start runs the server on a free port and waits until it answers. It tries again where another process took
// the port in between, and where helpers of a killed server have not yet noticed that it is gone.
func (c *Cluster) start(ctx context.Context) error {
	for until := time.Now().Add(helpersTimeout); ; {
		var err error
		if c.port, err = freePort(); err != nil {
			return err
		}
		err = c.startOnPort(ctx)
		words := c.lastWords()
		passing := strings.Contains(words, "Address already in use") || strings.Contains(words, "is still in use")
		if err == nil || ctx.Err() != nil || !passing || time.Now().After(until) {
			return err
		}
		time.Sleep(200 * time.Millisecond)
	}
}

func freePort() (int, error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer listener.Close()
	return listener.Addr().(*net.TCPAddr).Port, nil
}

func (c *Cluster) startOnPort(ctx context.Context) error {
	messages, err := os.OpenFile(filepath.Join(c.folder, "server.log"), os.O_CREATE|os.O_TRUNC|os.O_WRONLY|syscall.O_NOFOLLOW, 0o600)
	if err != nil {
		return err
	}
	defer messages.Close()
	c.exited = make(chan struct{})
	c.process = exec.Command(filepath.Join(c.bin, "postgres"), "-D", c.data())
	for setting, value := range map[string]string{
		"listen_addresses":        "127.0.0.1",
		"port":                    strconv.Itoa(c.port),
		"unix_socket_directories": "",
		"shared_buffers":          "256MB",
		"maintenance_work_mem":    "256MB",
		"max_wal_size":            "4GB",
		"log_min_messages":        "warning",
	} {
		c.process.Args = append(c.process.Args, "-c", setting+"="+value)
	}
	c.process.Stdout, c.process.Stderr = messages, messages
	c.runAsOwner(c.process)
	// Ctrl-C in a terminal reaches a whole process group; the server is to stop after the service, not with
	// it. Should we be killed, it shuts down by itself.
	c.process.SysProcAttr.Setpgid = true
	c.process.SysProcAttr.Pdeathsig = syscall.SIGINT
	started := make(chan error)
	go func() {
		// The signal of a parent's death is bound to the thread that started the child.
		runtime.LockOSThread()
		defer runtime.UnlockOSThread()
		err := c.process.Start()
		started <- err
		if err == nil {
			_ = c.process.Wait() // how it ended stands in its log
			close(c.exited)
		}
	}()
	if err := <-started; err != nil {
		return fmt.Errorf("PostgreSQL could not be started: %w", err)
	}
	if err := c.waitUntilReady(ctx); err != nil {
		return errors.Join(err, c.Stop())
	}
	return nil
}

func (c *Cluster) waitUntilReady(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, startTimeout)
	defer cancel()
	for {
		if connection, err := pgx.Connect(ctx, c.KeeperURL()); err == nil {
			return connection.Close(ctx)
		}
		select {
		case <-c.exited:
			return fmt.Errorf("PostgreSQL ended while starting; its last words in %s:\n%s", filepath.Join(c.folder, "server.log"),
				c.lastWords())
		case <-ctx.Done():
			return fmt.Errorf("PostgreSQL did not answer: %w; its last words in %s:\n%s", ctx.Err(),
				filepath.Join(c.folder, "server.log"), c.lastWords())
		case <-time.After(50 * time.Millisecond):
		}
	}
}

// lastWords is the end of the server's log.
func (c *Cluster) lastWords() string {
	text, err := os.ReadFile(filepath.Join(c.folder, "server.log"))
	if err != nil {
		return err.Error()
	}
	lines := bytes.Split(bytes.TrimSpace(text), []byte("\n"))
	return string(bytes.Join(lines[max(0, len(lines)-5):], []byte("\n")))
}

// Stop shuts the server down: it ends open transactions by rolling them back, writes what it has, and exits.
func (c *Cluster) Stop() error {
	for _, signal := range []syscall.Signal{syscall.SIGINT, syscall.SIGQUIT} {
		// The server may be gone already; then there is nobody to signal, and exited is closed.
		_ = c.process.Process.Signal(signal)
		select {
		case <-c.exited:
			return nil
		case <-time.After(fastTimeout):
		}
	}
	return fmt.Errorf("PostgreSQL, process %d, does not stop", c.Pid())
}
