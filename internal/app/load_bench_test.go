package app

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/demo"
	"prairiedusk/internal/ingest"
	"prairiedusk/internal/pgcluster/clustertest"
)

func TestMain(m *testing.M) { clustertest.Main(m) }

// benchRows is the size of the file; short tests run the benchmark once, on a smaller one.
func benchRows() int {
	if testing.Short() {
		return 5_000
	}
	return 500_000
}

// BenchmarkLoad tells the rate of a load, from the bytes of a file to the next snapshot, as a part of the rate
// of a bare COPY of the same rows into a table without a key: of a first load, of the same file again, and of
// a file in which every tenth order differs.
func BenchmarkLoad(b *testing.B) {
	folder := b.TempDir()
	if _, err := demo.Write(folder, demo.Options{Orders: benchRows(), Seed: 1, Bare: true}); err != nil {
		b.Fatal(err)
	}
	text, err := os.ReadFile(filepath.Join(folder, demo.OrdersFile))
	if err != nil {
		b.Fatal(err)
	}
	header, bare, changed := strings.TrimSpace(string(text[:bytes.IndexByte(text, '\n')])), bareRows(b, text), changedRows(b, text)
	for b.Loop() {
		address := clustertest.Database(b)
		running, err := Start(b.Context(), Settings{Folder: b.TempDir(), Listen: "127.0.0.1:0", DatabaseURL: address,
			Log: slog.New(slog.DiscardHandler)})
		if err != nil {
			b.Fatal(err)
		}
		copied := seconds(func() error { return bareCopy(b.Context(), address, header, bare) }, b)
		for _, step := range []struct {
			name string
			file []byte
		}{{"first", text}, {"same", text}, {"tenth-changed", changed}} {
			took := seconds(func() error {
				sent := false
				_, err := running.Load(b.Context(), func() (string, io.Reader, error) {
					if sent {
						return "", nil, io.EOF
					}
					sent = true
					return demo.OrdersFile, bytes.NewReader(step.file), nil
				}, ingest.How{})
				return err
			}, b)
			b.ReportMetric(copied/took, step.name+"-of-COPY")
		}
		b.ReportMetric(float64(benchRows())/copied, "COPY-rows/s")
		b.ReportMetric(0, "ns/op")
		if err := running.Stop(); err != nil {
			b.Fatal(err)
		}
	}
}

func seconds(f func() error, b *testing.B) float64 {
	begin := time.Now()
	if err := f(); err != nil {
		b.Fatal(err)
	}
	return time.Since(begin).Seconds()
}

// bareRows are the good rows alone, for COPY.
func bareRows(b *testing.B, text []byte) []byte {
	lines := bytes.SplitAfter(text, []byte("\n"))[1:]
	lines = slices.DeleteFunc(lines, func(l []byte) bool { return bytes.HasPrefix(l, []byte("SD-X")) || bytes.HasPrefix(l, []byte(",")) })
	return bytes.Join(lines, nil)
}

// changedRows is the file with another channel in every tenth row.
func changedRows(b *testing.B, text []byte) []byte {
	reader := csv.NewReader(bytes.NewReader(text))
	reader.FieldsPerRecord = -1
	var out bytes.Buffer
	writer := csv.NewWriter(&out)
	for row := 0; ; row++ {
		record, err := reader.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			b.Fatal(err)
		}
		if row%10 == 1 && len(record) > 5 {
			record[5] = "kiosk"
		}
		if err := writer.Write(record); err != nil {
			b.Fatal(err)
		}
	}
	writer.Flush()
	return out.Bytes()
}

// bareCopy copies rows into a table with the columns of their header.
func bareCopy(ctx context.Context, address, header string, rows []byte) error {
	conn, err := pgx.Connect(ctx, address)
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	var columns []string
	for _, name := range strings.Split(header, ",") {
		of := "text"
		if name == "value" {
			of = "numeric"
		} else if milestone.Index(milestone.BuiltIn(), name) >= 0 {
			of = "date"
		}
		columns = append(columns, fmt.Sprintf("%q %s", name, of))
	}
	if _, err := conn.Exec(ctx, "CREATE TABLE bare ("+strings.Join(columns, ", ")+")"); err != nil {
		return err
	}
	_, err = conn.PgConn().CopyFrom(ctx, bytes.NewReader(rows), "COPY bare FROM STDIN (FORMAT csv)")
	return err
}
