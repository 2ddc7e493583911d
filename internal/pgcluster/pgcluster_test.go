package pgcluster

import (
	"context"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func start(t *testing.T, folder string) *Cluster {
	c, err := Start(t.Context(), folder, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	return c
}

func query(t *testing.T, address, sql string) (value string) {
	connection, err := pgx.Connect(t.Context(), address)
	require.NoError(t, err)
	defer connection.Close(context.Background())
	require.NoError(t, connection.QueryRow(t.Context(), sql).Scan(&value))
	return value
}

func TestClusterLifetime(t *testing.T) {
	folder, err := os.MkdirTemp("", "pgcluster") // the user postgres must be able to reach it
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(folder) })
	require.NoError(t, os.Chmod(folder, 0o700))

	c := start(t, folder)
	assert.Equal(t, "scram-sha-256", query(t, c.KeeperURL(), "SHOW password_encryption"))
	assert.Equal(t, "127.0.0.1", query(t, c.KeeperURL(), "SHOW listen_addresses"))
	assert.Empty(t, query(t, c.KeeperURL(), "SHOW unix_socket_directories"))
	connection, err := pgx.Connect(t.Context(), c.URL())
	require.NoError(t, err)
	_, err = connection.Exec(t.Context(), "CREATE TABLE kept AS SELECT 'here' AS word; CREATE SCHEMA aside")
	require.NoError(t, err)
	for _, forbidden := range []string{"CREATE ROLE other", "CREATE DATABASE other", "COPY kept TO PROGRAM 'true'",
		"SELECT pg_read_file('postgresql.conf')", "ALTER ROLE prairie_dusk_service SUPERUSER"} {
		_, err = connection.Exec(t.Context(), forbidden)
		require.ErrorContains(t, err, "SQLSTATE 42501", forbidden)
	}
	// What an earlier version has made as the superuser is handed over at the next start.
	earlier, err := pgx.Connect(t.Context(), c.KeeperURL())
	require.NoError(t, err)
	_, err = earlier.Exec(t.Context(), "CREATE TABLE earlier (id bigint GENERATED ALWAYS AS IDENTITY); INSERT INTO earlier DEFAULT VALUES")
	require.NoError(t, err)
	require.NoError(t, earlier.Close(t.Context()))
	// A role that may only read.
	first, err := c.MakeReader(t.Context())
	require.NoError(t, err)
	address, err := c.MakeReader(t.Context())
	require.NoError(t, err)
	_, err = pgx.Connect(t.Context(), first)
	require.ErrorContains(t, err, "password authentication failed", "it has another password since")
	_, err = connection.Exec(t.Context(), "CREATE TABLE later AS SELECT 'later' AS word")
	require.NoError(t, err)
	assert.Equal(t, "here", query(t, address, "SELECT word FROM kept"))
	assert.Equal(t, "later", query(t, address, "SELECT word FROM later"))
	reader, err := pgx.Connect(t.Context(), address)
	require.NoError(t, err)
	_, err = reader.Exec(t.Context(), "DELETE FROM kept")
	require.ErrorContains(t, err, "read-only")
	_, err = reader.Exec(t.Context(), "SET default_transaction_read_only = off")
	require.NoError(t, err)
	_, err = reader.Exec(t.Context(), "DELETE FROM kept")
	require.ErrorContains(t, err, "permission denied")
	require.NoError(t, reader.Close(t.Context()))
	require.NoError(t, connection.Close(t.Context()))
	wrong := *c
	wrong.serving = "wrong"
	_, err = pgx.Connect(t.Context(), wrong.URL())
	assert.ErrorContains(t, err, "password authentication failed")
	for _, file := range []string{"password", "server.log"} {
		info, err := os.Stat(filepath.Join(folder, file))
		require.NoError(t, err)
		assert.Equalf(t, os.FileMode(0o600), info.Mode().Perm(), "mode of %s", file)
	}
	require.NoError(t, c.Stop())

	// A server that was killed, and one that outlived its starter, do not stop the next start.
	c = start(t, folder)
	require.NoError(t, syscall.Kill(c.Pid(), syscall.SIGKILL))
	<-c.exited
	orphan := start(t, folder)
	c = start(t, folder)
	select {
	case <-orphan.exited:
	case <-time.After(10 * time.Second):
		t.Fatal("the orphan still runs")
	}
	assert.Equal(t, "here", query(t, c.URL(), "SELECT word FROM kept"))
	assert.Equal(t, "2", query(t, c.URL(), "INSERT INTO earlier DEFAULT VALUES RETURNING id::text"))
	require.NoError(t, c.Stop())

	// The number in an old note can be that of another program by now, or no number at all.
	stranger := exec.Command("sleep", "60")
	require.NoError(t, stranger.Start())
	note := filepath.Join(folder, "cluster", "postmaster.pid")
	for _, text := range []string{strconv.Itoa(stranger.Process.Pid) + "\n" + filepath.Join(folder, "cluster") + "\n", "1\n", "none\n",
		""} {
		require.NoError(t, os.WriteFile(note, []byte(text), 0o600))
		c = start(t, folder)
		require.NoError(t, c.Stop())
	}
	require.NoError(t, stranger.Process.Signal(syscall.Signal(0)), "nobody has signalled it")
	require.NoError(t, stranger.Process.Kill())
	require.ErrorContains(t, stranger.Wait(), "killed")

	// A server that ends by itself is started again, on the port that clients know.
	again := make(heard, 1)
	c, err = Start(t.Context(), folder, slog.New(again))
	require.NoError(t, err)
	ctx, cancel := context.WithCancel(t.Context())
	kept := make(chan struct{})
	go func() { c.Keep(ctx); close(kept) }()
	address, victim := c.URL(), c.Pid()
	require.NoError(t, syscall.Kill(victim, syscall.SIGKILL))
	<-again
	cancel()
	<-kept
	assert.Equal(t, address, c.URL())
	assert.NotEqual(t, victim, c.Pid())
	assert.Equal(t, "here", query(t, c.URL(), "SELECT word FROM kept"))
	require.NoError(t, c.Stop())

	password, err := os.ReadFile(filepath.Join(folder, "password"))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "password"), password[:5], 0o600))
	_, err = Start(t.Context(), folder, slog.New(slog.DiscardHandler))
	assert.ErrorContains(t, err, "restore the file, or move the folder away")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "password"), password, 0o600))

	require.NoError(t, os.WriteFile(filepath.Join(folder, "cluster", "PG_VERSION"), []byte("99\n"), 0o600))
	_, err = Start(t.Context(), folder, slog.New(slog.DiscardHandler))
	assert.ErrorContains(t, err, "made by PostgreSQL 99, which is not installed")
}

// heard is a log that hears that a server is up again.
type heard chan struct{}

func (h heard) Enabled(context.Context, slog.Level) bool { return true }
func (h heard) WithAttrs([]slog.Attr) slog.Handler       { return h }
func (h heard) WithGroup(string) slog.Handler            { return h }
func (h heard) Handle(_ context.Context, r slog.Record) error {
	if r.Message == "PostgreSQL is up again" {
		h <- struct{}{}
	}
	return nil
}
