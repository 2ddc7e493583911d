// Package clustertest gives tests databases on a PostgreSQL server of their own.
package clustertest

import (
	"context"
	"fmt"
	"log/slog"
	"net/url"
	"os"
	"strings"
	"sync"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/pgcluster"
)

var cluster *pgcluster.Cluster

// Tests that run beside each other make their databases one after the other: the server copies a template, which only one can
// use at a time.
var (
	making sync.Mutex
	made   int
)

// Main runs a package's tests beside a server; call it from TestMain.
func Main(m *testing.M) {
	os.Exit(run(m))
}

func run(m *testing.M) int {
	folder, err := os.MkdirTemp("", "prairie-dusk-test")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(folder)
	cluster, err = pgcluster.Start(context.Background(), folder, slog.New(slog.DiscardHandler))
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer cluster.Stop()
	return m.Run()
}

// Database makes an empty database and gives its address.
func Database(t testing.TB) string {
	t.Helper()
	return create(t, "")
}

// CopyOf makes a copy of a database that nobody uses any longer, and gives its address.
func CopyOf(t testing.TB, of string) string {
	t.Helper()
	address, err := url.Parse(of)
	require.NoError(t, err)
	return create(t, " TEMPLATE "+strings.TrimPrefix(address.Path, "/"))
}

func create(t testing.TB, from string) string {
	t.Helper()
	conn, err := pgx.Connect(t.Context(), cluster.KeeperURL())
	require.NoError(t, err)
	defer conn.Close(context.Background())
	making.Lock()
	defer making.Unlock()
	made++
	name := fmt.Sprintf("test_%d", made)
	address, err := url.Parse(cluster.URL())
	require.NoError(t, err)
	_, err = conn.Exec(t.Context(), "CREATE DATABASE "+name+" OWNER "+address.User.Username()+from)
	require.NoError(t, err)
	address.Path = name
	return address.String()
}
