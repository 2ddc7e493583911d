package pgcluster

import (
	"context"
	"log/slog"
	"os"
	"path/filepath"
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

func query(t *testing.T, c *Cluster, sql string) (value string) {
	connection, err := pgx.Connect(t.Context(), c.URL())
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
	assert.Equal(t, "scram-sha-256", query(t, c, "SHOW password_encryption"))
	assert.Equal(t, "127.0.0.1", query(t, c, "SHOW listen_addresses"))
	assert.Empty(t, query(t, c, "SHOW unix_socket_directories"))
	connection, err := pgx.Connect(t.Context(), c.URL())
	require.NoError(t, err)
	_, err = connection.Exec(t.Context(), "CREATE TABLE kept AS SELECT 'here' AS word")
	require.NoError(t, err)
	require.NoError(t, connection.Close(t.Context()))
	wrong := *c
	wrong.password = "wrong"
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
	<-c.Exited()
	orphan := start(t, folder)
	c = start(t, folder)
	select {
	case <-orphan.Exited():
	case <-time.After(10 * time.Second):
		t.Fatal("the orphan still runs")
	}
	assert.Equal(t, "here", query(t, c, "SELECT word FROM kept"))
	require.NoError(t, c.Stop())

	require.NoError(t, os.WriteFile(filepath.Join(folder, "cluster", "PG_VERSION"), []byte("99\n"), 0o600))
	_, err = Start(t.Context(), folder, slog.New(slog.DiscardHandler))
	assert.ErrorContains(t, err, "made by PostgreSQL 99, which is not installed")
}
