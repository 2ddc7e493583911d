package test

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/klauspost/compress/gzip"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/demo"
)

// One table of orders comes in equal from every form of file, and the same table in another form changes nothing.
func TestOrdersComeFromEveryFormOfFile(t *testing.T) {
	table := [][]string{
		{"number", "customer", "site", "ordered", "shipped", "value", "currency", "hive colour"},
		{"00017", "Müller & Söhne; Imker", "Galway", "2026-07-01", "2026-07-03", "1234.50", "EUR", "weiß"},
		{"A-2", "\"The\" Hive, Ltd", "Muscat", "2026-07-02", "", "96.250", "OMR", "sand"},
		{"A-3", "Abeja | Miel", "Galway", "2026-07-02", "2026-07-09", "10", "EUR", ""},
	}
	comma := func(rows [][]string, separator rune) string {
		var text strings.Builder
		out := csv.NewWriter(&text)
		out.Comma = separator
		require.NoError(t, out.WriteAll(rows))
		return text.String()
	}
	windows, err := charmap.Windows1252.NewEncoder().String(strings.ReplaceAll(comma(table, ';'), "\n", "\r\n"))
	require.NoError(t, err)
	wide, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().String(comma(table, '\t'))
	require.NoError(t, err)
	var lines, workbook, packed, archive bytes.Buffer
	var records []map[string]string
	for _, row := range table[1:] {
		record := map[string]string{}
		for i, cell := range row {
			record[table[0][i]] = cell
		}
		records = append(records, record)
		require.NoError(t, json.NewEncoder(&lines).Encode(record))
	}
	whole, err := json.Marshal(map[string]any{"page": 1, "orders": records})
	require.NoError(t, err)
	f := excelize.NewFile()
	for i, row := range table {
		cells := make([]any, len(row))
		for j, cell := range row {
			cells[j] = cell
			if day, err := time.Parse(time.DateOnly, cell); err == nil {
				cells[j] = day // a real date, in the form that the program gives it
			}
		}
		require.NoError(t, f.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &cells))
	}
	require.NoError(t, f.Write(&workbook))
	g := gzip.NewWriter(&packed)
	_, err = g.Write([]byte(comma(table, ',')))
	require.NoError(t, err)
	require.NoError(t, g.Close())
	z := zip.NewWriter(&archive)
	for _, name := range []string{"orders/a.csv", "orders/b.json"} {
		member, err := z.Create(name)
		require.NoError(t, err)
		_, err = member.Write([]byte(map[bool]string{true: windows, false: string(whole)}[strings.HasSuffix(name, ".csv")]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())

	forms := map[string]string{
		"plain.csv": comma(table, ','), "semicolons.csv": windows, "tabs.txt": wide, "bars.csv": "sep=|\r\n" + comma(table, '|'),
		"lines.ndjson": lines.String(),
		"orders.json":  string(whole), "orders.xlsx": workbook.String(), "orders.csv.gz": packed.String(), "export.zip": archive.String(),
		"misnamed.pdf": comma(table, ';'),
	}
	columns := "number, customer, site, ordered, shipped, value, currency, hive-colour"
	s := startService(t)
	for name, content := range forms {
		load, err := s.Load(t.Context(), []string{write(t, name, content)})
		require.NoError(t, err, name)
		require.Zero(t, load.SetAside, "%s: %v", name, load.Rows)
		list, err := s.list(t, question{}, selection{Columns: columns, Sort: "number"})
		require.NoError(t, err)
		require.Len(t, list.Rows, 3, name)
		for i, row := range list.Rows {
			want := table[1+i]
			got := cellTexts(row)
			assert.Equal(t, []string{want[0], want[1], want[2], want[7]}, []string{got[0], got[1], got[2], got[7]}, name)
		}
		again, err := s.Load(t.Context(), []string{write(t, "again.csv", comma(table, ','))})
		require.NoError(t, err)
		require.EqualValues(t, 3, again.Files[0].Same, name)
		for _, l := range []int64{again.Number, load.Number} {
			_, err = s.Undo(t.Context(), l)
			require.NoError(t, err)
		}
	}

	// Rows that cannot be used come back as CSV, whatever they stood in.
	bad := strings.Replace(windows, "2026-07-03", "2026-07-32", 1)
	load, err := s.LoadAs(t.Context(), []string{write(t, "bad.csv", bad)}, client.Reading{AcceptSetAside: true})
	require.NoError(t, err)
	require.EqualValues(t, 1, load.SetAside)
	var waiting bytes.Buffer
	require.NoError(t, s.Waiting(t.Context(), load.Number, "", &waiting))
	assert.Contains(t, waiting.String(), "00017,Müller & Söhne; Imker,Galway,2026-07-01,2026-07-32,1234.50,EUR,weiß,\"")
	mended, err := s.Load(t.Context(), []string{write(t, "mended.csv", strings.Replace(waiting.String(), "07-32", "07-03", 1))})
	require.NoError(t, err)
	assert.EqualValues(t, 1, mended.Files[0].New)

	// A folder stands for its files, and what is no file of records is called by its name.
	folder := t.TempDir()
	for name, content := range map[string]string{"1.csv": comma(table[:2], ','), "2.csv": comma([][]string{table[0], table[3]}, ';'),
		".hidden": "x"} {
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), []byte(content), 0o600))
	}
	several, err := s.Load(t.Context(), []string{folder})
	require.NoError(t, err)
	assert.Len(t, several.Files, 2)
	s.Input = strings.NewReader(lines.String())
	_, err = s.Load(t.Context(), []string{client.StandardInput})
	require.NoError(t, err)
	for content, says := range map[string]string{
		"%PDF-1.7": "a PDF document", "<html><table>": "a web page", "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1": "an old binary workbook",
		"PK\x03\x04": "cut short or broken", "": "an empty file",
	} {
		_, err := s.Load(t.Context(), []string{write(t, "orders.csv", content)})
		assert.ErrorContains(t, err, says)
		assert.ErrorContains(t, err, "nothing was loaded: orders.csv")
	}
}

// What a file does not tell is asked, with the options that answer it; nothing is loaded until then.
func TestWhatAFileLeavesOpenIsAsked(t *testing.T) {
	s := startService(t)
	path := write(t, "export.csv", "Order Number;Customer;Ordered;Shipped;Value;Currency;Delivery Date\r\n00017;Hive;04/07/2026;05/08/2026;1.234;EUR;2026-09-30\r\n")
	_, err := s.Load(t.Context(), []string{path})
	var problem *client.Problem
	require.ErrorAs(t, err, &problem)
	require.ErrorContains(t, err, `column "Ordered": 04/07/2026 is 4 July 2026 or 7 April 2026, and no cell of the column tells which`)
	asked := problem.Questions()
	require.Len(t, asked, 4, "all that is open is asked at once")
	assert.Equal(t, client.FileQuestion{Word: "map", ColumnQuestion: api.ColumnQuestion{File: "export.csv", Column: "Delivery Date",
		Asks:    "it can be delivered, promised or requested, and its heading does not tell which",
		Answers: []string{"delivered", "promised", "requested", "left-out"}}}, asked[0])
	assert.Equal(t, []string{"dates", "dates", "decimals"}, []string{asked[1].Word, asked[2].Word, asked[3].Word})
	assert.Equal(t, []string{"point", "comma"}, asked[3].Answers)
	book, err := s.Book(t.Context())
	require.NoError(t, err)
	require.Zero(t, book.Orders)
	_, err = s.LoadAs(t.Context(), []string{path}, client.Reading{Dates: "month-first", Decimals: "comma",
		Meanings: []string{"Delivery Date=promised"}})
	require.NoError(t, err)
	list, err := s.list(t, question{}, selection{Columns: "number, customer, ordered, shipped, value, promised"})
	require.NoError(t, err)
	assert.Equal(t, []string{"00017", "Hive", "2026-04-07", "2026-05-08", "1,234.00", "2026-09-30"}, cellTexts(list.Rows[0]))

	checked, err := s.Check(t.Context(), []string{path}, client.Reading{Dates: "month-first", Decimals: "comma",
		Meanings: []string{"Delivery Date=requested"}, Layout: "none"})
	require.NoError(t, err)
	assert.Contains(t, checked.Columns, api.FileColumn{File: "export.csv", Heading: "Value", Kind: "orders", Means: "value",
		Form: "comma before decimals, as said", Why: "its heading is its name",
		Samples: []string{"1.234"}, Rows: 1, Filled: 1})
	for option, says := range map[string]string{"Delivry=promised": `no file has the column "Delivry"`,
		"promised": "want HEADING=MEANING"} {
		_, err = s.LoadAs(t.Context(), []string{path}, client.Reading{Dates: "month-first", Decimals: "comma",
			Meanings: []string{"Delivery Date=left-out", option}})
		require.ErrorContains(t, err, says)
	}

	// Titles, sums and notes are no orders, and are said.
	framed, err := s.Load(t.Context(), []string{write(t, "report.csv",
		"Orders of July\n\nOrder No.,Customer,Order Date\nR-1,Hive,2026-07-01\nTotal,,\n1 row,,\n")})
	require.NoError(t, err)
	assert.EqualValues(t, 1, framed.Files[0].New)
	assert.EqualValues(t, 3, framed.SkippedRows)
	assert.Equal(t, api.SkippedRow{File: "report.csv", Row: 5, Why: "a row of totals", Text: "Total,,"}, framed.Skipped[1])

	// A list of customers with dates of orders is none.
	_, err = s.Load(t.Context(), []string{write(t, "orders.csv", "Customer,Ordered,Shipped\nHive,2026-07-04,\n")})
	assert.ErrorContains(t, err, "these look like orders")
}

// What the first file had to be told, the next one with its headings need not.
func TestALayoutIsRemembered(t *testing.T) {
	s := startService(t)
	const text = "Auftrag;Bestelldatum;Lieferdatum\n%s;04/07/2026;05/07/2026\n"
	july, august := write(t, "lager-2026-07.csv", fmt.Sprintf(text, "A")), write(t, "lager-2026-08.csv", fmt.Sprintf(text, "B"))
	told := client.Reading{Dates: "day-first", Meanings: []string{"Lieferdatum=promised"}}
	_, err := s.Check(t.Context(), []string{july}, told)
	require.NoError(t, err)
	layouts, err := s.Layouts(t.Context())
	require.NoError(t, err)
	require.Empty(t, layouts.Layouts, "a check remembers nothing")
	_, err = s.LoadAs(t.Context(), []string{july}, told)
	require.NoError(t, err)
	load, err := s.Load(t.Context(), []string{august})
	require.NoError(t, err)
	assert.Equal(t, []api.UsedLayout{{File: "lager-2026-08.csv", Layout: "lager"}}, load.Layouts)
	list, err := s.list(t, question{}, selection{Columns: "number, ordered, promised", Sort: "number"})
	require.NoError(t, err)
	assert.Equal(t, []string{"B", "2026-07-04", "2026-07-05"}, cellTexts(list.Rows[1]))
	_, err = s.LoadAs(t.Context(), []string{august}, client.Reading{Layout: "none"})
	assert.ErrorContains(t, err, "it can be delivered, promised or requested")
	_, err = s.LoadAs(t.Context(), []string{august}, client.Reading{Layout: "nobody"})
	assert.ErrorContains(t, err, `there is no layout "nobody"`)

	// It goes with the load that brought it, and comes back with it: an answer that was wrong is asked again.
	for _, undo := range []int64{load.Number, load.Number - 1} {
		_, err = s.Undo(t.Context(), undo)
		require.NoError(t, err)
	}
	_, err = s.Load(t.Context(), []string{august})
	require.ErrorContains(t, err, "it can be delivered, promised or requested")
	_, err = s.Redo(t.Context(), load.Number-1)
	require.NoError(t, err)
	load, err = s.Load(t.Context(), []string{august})
	require.NoError(t, err)
	require.Len(t, load.Layouts, 1)
	_, err = s.Undo(t.Context(), load.Number)
	require.NoError(t, err)
	again, err := s.Check(t.Context(), []string{august}, client.Reading{})
	require.NoError(t, err)
	require.Len(t, again.Layouts, 1, "the load before brought it")

	// Another kind of file of the same name gets another layout; a name stands once, and so do headings.
	_, err = s.LoadAs(t.Context(), []string{write(t, "lager.csv", "Auftrag,Versanddatum\nA,2026-07-05\n")}, client.Reading{})
	require.NoError(t, err)
	layouts, err = s.Layouts(t.Context())
	require.NoError(t, err)
	require.Len(t, layouts.Layouts, 2)
	assert.Equal(t, "lager 2", layouts.Layouts[1].Name)
	assert.Equal(t, []api.LayoutColumn{{Heading: "Auftrag", Means: "order"}, {Heading: "Bestelldatum", Means: "ordered",
		Dates: "day-first"}, {Heading: "Lieferdatum", Means: "promised", Dates: "day-first"}}, layouts.Layouts[0].Columns)
	_, err = s.RenameLayout(t.Context(), "lager", "LAGER 2")
	assert.ErrorContains(t, err, "a layout of this name is there already")
	_, err = s.RenameLayout(t.Context(), "lager", "none")
	assert.ErrorContains(t, err, "cannot be called so")
	copied := layouts.Layouts[0]
	copied.Name = "again"
	_, err = s.SaveLayout(t.Context(), copied, false)
	assert.ErrorContains(t, err, `the layout "lager" has the same headings`)
	_, err = s.SaveLayout(t.Context(), copied, true)
	require.NoError(t, err)
	_, err = s.SaveLayout(t.Context(), api.Layout{Name: "bad", Columns: []api.LayoutColumn{{Heading: "x", Dates: "no"}}}, false)
	assert.ErrorContains(t, err, "want day-first")
	layouts, err = s.DeleteLayout(t.Context(), "lager 2")
	require.NoError(t, err)
	require.Len(t, layouts.Layouts, 1)
	assert.Equal(t, "again", layouts.Layouts[0].Name)

	// A very wide file is remembered too.
	wide := make([]string, 400)
	for i := range wide {
		wide[i] = fmt.Sprintf("A long heading of the column numbered %d", i)
	}
	_, err = s.Load(t.Context(), []string{write(t, "wide.csv", "Auftrag,"+strings.Join(wide, ",")+"\nW"+strings.Repeat(",x",
		len(wide))+"\n")})
	require.NoError(t, err)

	// Of a workbook, the sheets that are wanted.
	f := excelize.NewFile()
	require.NoError(t, f.SetSheetRow("Sheet1", "A1", &[]string{"order", "ordered"}))
	require.NoError(t, f.SetSheetRow("Sheet1", "A2", &[]string{"S-1", "2026-07-01"}))
	_, err = f.NewSheet("Notes")
	require.NoError(t, err)
	require.NoError(t, f.SetSheetRow("Notes", "A1", &[]string{"whatever", "stands here"}))
	var workbook bytes.Buffer
	require.NoError(t, f.Write(&workbook))
	path := write(t, "book.xlsx", workbook.String())
	_, err = s.Load(t.Context(), []string{path})
	require.ErrorContains(t, err, "cannot tell what the rows are")
	sheet, err := s.LoadAs(t.Context(), []string{path}, client.Reading{Sheets: []string{"sheet1"}})
	require.NoError(t, err)
	require.Len(t, sheet.Files, 1)
	_, err = s.LoadAs(t.Context(), []string{path}, client.Reading{Sheets: []string{"Sheet1", "Orders"}})
	require.ErrorContains(t, err, `no workbook has a sheet "Orders"`)
}

// The demo's records as eight other systems export them, loaded as the README says, give the same answers as the demo.
func TestExportsOfOtherSystemsGiveTheSameAnswers(t *testing.T) {
	readme, err := os.ReadFile("../README.md")
	require.NoError(t, err)
	require.Contains(t, string(readme), `tour load /tmp/exports --not-known - --calendar-of "Public holidays Galway=Galway"`)
	told := client.Reading{NotKnown: []string{"-"}, CalendarOf: []string{"Public holidays Galway=Galway"}}

	want, m := demoService(t)
	s := startService(t)
	folder := t.TempDir()
	_, err = demo.WriteExports(folder, demo.Options{Orders: 3000, Seed: 1})
	require.NoError(t, err)
	_, err = s.Load(t.Context(), []string{folder})
	var problem *client.Problem
	require.ErrorAs(t, err, &problem)
	asked := problem.Questions()
	require.Len(t, asked, 2, "what several files leave open is asked at once")
	assert.Equal(t, []string{"galway-lager.csv", "not_known", "public-holidays.ics", "calendar_of"},
		[]string{asked[0].File, asked[0].Word, asked[1].File, asked[1].Word})
	load, err := s.LoadAs(t.Context(), []string{folder}, told)
	require.NoError(t, err)
	require.Zero(t, load.SetAside, "%v", load.Rows)
	_, err = s.SaveSettings(t.Context(), api.Settings{FirstDay: m.FirstDay.String(), DataDate: m.DataDate.String()})
	require.NoError(t, err)
	for _, path := range []string{"/took?by=site", "/took?by=site&in=working-hours", "/took?from=promised&to=shipped&by=customer",
		"/took?to=paid&by=channel", "/open?by=site", "/open?to=delivered",
		"/status/latest?by=site", "/status/times", "/immediate?by=channel", "/crosstab?rows=site&columns=month&show=value", "/compare",
		"/quality"} {
		status, theirs := want.get(t, "/api/v1"+path)
		require.Equal(t, http.StatusOK, status, "%s: %v", path, theirs)
		_, ours := s.get(t, "/api/v1"+path)
		delete(theirs, "version")
		delete(ours, "version")
		assert.Equal(t, theirs, ours, path)
	}
	// The next files of the systems need no answer but whose the holidays are.
	again, err := s.LoadAs(t.Context(), []string{folder}, client.Reading{CalendarOf: told.CalendarOf})
	require.NoError(t, err)
	for _, file := range again.Files {
		if file.Kind == "calendar" {
			continue // each of the two files of one calendar changes it, and together they change nothing
		}
		assert.Zero(t, file.New+file.Changed, "%s: %s", file.Name, file.Kind)
	}
}
