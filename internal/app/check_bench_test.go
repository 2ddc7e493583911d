package app

import (
	"bytes"
	"fmt"
	"io"
	"log/slog"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/demo"
	"prairiedusk/internal/ingest"
	"prairiedusk/internal/pgcluster/clustertest"
)

// checkRows is how many orders are checked.
func checkRows() int {
	if testing.Short() {
		return 3_000
	}
	return 1_500_000
}

// tookWords are the two times that a second opinion names.
var tookWords = regexp.MustCompile(`The answer took ([\d,.]+) ms, the statement ([\d,.]+) ms`)

// BenchmarkCheck tells, in milliseconds: how long questions take and how long PostgreSQL takes for the same; a check of 100,000 expected
// orders; and how long the book of an earlier load takes to build.
func BenchmarkCheck(b *testing.B) {
	folder := b.TempDir()
	if _, err := demo.Write(folder, demo.Options{Orders: checkRows(), Seed: 1, Bare: true}); err != nil {
		b.Fatal(err)
	}
	data := b.TempDir()
	running, err := Start(b.Context(), Settings{Folder: data, Listen: "127.0.0.1:0", DatabaseURL: clustertest.Database(b), UploadLimit: 4 << 30,
		Log: slog.New(slog.DiscardHandler)})
	if err != nil {
		b.Fatal(err)
	}
	defer running.Stop()
	load := func(name string) {
		sent := false
		if _, err := running.Load(b.Context(), func() (string, io.Reader, error) {
			if sent {
				return "", nil, io.EOF
			}
			sent = true
			file, err := os.Open(filepath.Join(folder, name))
			return name, file, err
		}, ingest.How{}); err != nil {
			b.Fatal(err)
		}
	}
	load(demo.OrdersFile)
	token, err := Token(data)
	if err != nil {
		b.Fatal(err)
	}
	c := client.New(running.Address(), token)
	for b.Loop() {
		for _, question := range []string{"took?by=site", "open?period=2026-07&by=site", "immediate?by=site", "crosstab?rows=site&columns=month"} {
			d, err := c.Answer(b.Context(), "/second-opinion", url.Values{"question": {question}})
			if err != nil {
				b.Fatal(err)
			}
			for _, r := range d.Parts[0].Tables[0].Rows {
				if *r.Cells[4].Number == 0 {
					b.Fatalf("%s: %s differs", question, r.Cells[0].Text)
				}
			}
			name, _, _ := strings.Cut(question, "?")
			for _, note := range d.Parts[0].Notes {
				if found := tookWords.FindStringSubmatch(note.Text); found != nil {
					b.ReportMetric(milliseconds(found[1]), name+"-ms")
					b.ReportMetric(milliseconds(found[2]), name+"-SQL-ms")
				}
			}
		}
		var list strings.Builder
		for n := range min(100_000, checkRows()) {
			fmt.Fprintf(&list, "SD-%d\n", 100001+n)
		}
		expected := api.Check{Question: "took?", Expected: api.Expected{Orders: &api.ExpectedFile{Content: []byte(list.String())}}}
		b.ReportMetric(1000*seconds(func() error {
			_, err := c.AnswerAbout(b.Context(), "/check", &expected)
			return err
		}, b), "check-differs-ms")
		// A list that is the answer's, of some 100,000 orders where there are as many.
		asked := url.Values{"period": {"2025-01-01/2025-02-28"}, "columns": {"number"}}
		var same bytes.Buffer
		if err := c.TakeAway(b.Context(), asked, "csv", false, &same); err != nil {
			b.Fatal(err)
		}
		expected.Question, expected.Number, expected.Orders.Content = "took?period=2025-01-01/2025-02-28", "selected", same.Bytes()
		b.ReportMetric(1000*seconds(func() error {
			_, err := c.AnswerAbout(b.Context(), "/check", &expected)
			return err
		}, b), "check-same-ms")
		b.ReportMetric(1000*seconds(func() error {
			_, err := running.BookAsOf(b.Context(), 1)
			return err
		}, b), "as-of-ms")
		b.ReportMetric(0, "ns/op")
	}
}

func milliseconds(text string) float64 {
	n, _ := strconv.ParseFloat(strings.ReplaceAll(text, ",", ""), 64)
	return n
}
