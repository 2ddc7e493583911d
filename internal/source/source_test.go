package source

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/klauspost/compress/gzip"
	"github.com/klauspost/compress/zstd"
	"github.com/parquet-go/parquet-go"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"pgregory.net/rapid"
)

type failer interface {
	require.TestingT
	Helper()
}

// opened opens a file of some bytes.
func opened(t failer, content []byte) (*Opened, error) {
	t.Helper()
	spool, err := Keep(bytes.NewReader(content))
	require.NoError(t, err)
	require.EqualValues(t, len(content), spool.Size())
	return Open(spool)
}

// read gives all rows of the first table, faults in the place of rows that cannot be read.
func read(t failer, content []byte) (form string, rows [][]string) {
	t.Helper()
	o, err := opened(t, content)
	require.NoError(t, err)
	require.NotEmpty(t, o.Tables)
	return o.Tables[0].Form, all(t, o.Tables[0])
}

func all(t failer, table Table) (rows [][]string) {
	t.Helper()
	reader, err := table.Rows()
	require.NoError(t, err)
	var row Row
	for {
		err := reader.Next(&row)
		var fault *RowError
		switch {
		case errors.Is(err, io.EOF):
			require.NoError(t, reader.Close())
			return rows
		case errors.As(err, &fault):
			rows = append(rows, []string{"fault", fault.Error(), fault.Raw})
			continue
		}
		require.NoError(t, err)
		rows = append(rows, slices.Clone(row.Cells))
	}
}

// A dress is a way in which systems write text tables.
type dress struct {
	separator rune
	line      string
	encoding  encoding.Encoding
	form      string
}

func (d dress) write(rows [][]string) []byte {
	var text strings.Builder
	out := csv.NewWriter(&text)
	out.Comma = d.separator
	_ = out.WriteAll(rows)
	written := strings.ReplaceAll(text.String(), "\n", d.line)
	if d.encoding != nil {
		written, _ = d.encoding.NewEncoder().String(written)
	}
	return []byte(written)
}

// Whatever a table holds, and in whatever dress of CSV it comes, it comes as it is.
func TestATableComesEqualInEveryDress(t *testing.T) {
	utf16 := func(order unicode.Endianness) encoding.Encoding { return unicode.UTF16(order, unicode.UseBOM) }
	rapid.Check(t, func(t *rapid.T) {
		d := dress{
			separator: rapid.SampledFrom([]rune{',', ';', '\t', '|'}).Draw(t, "separator"),
			line:      rapid.SampledFrom([]string{"\n", "\r\n", "\r"}).Draw(t, "line"),
			encoding: rapid.SampledFrom([]encoding.Encoding{nil, unicode.UTF8BOM, charmap.Windows1252, utf16(unicode.LittleEndian),
				utf16(unicode.BigEndian)}).Draw(t, "encoding"),
		}
		letters := "abcÄöß€é,;|\"' 1234567890./-"
		if d.line != "\r" {
			letters += "\n"
		}
		cell := rapid.StringOfN(rapid.SampledFrom([]rune(letters)), 1, 12, -1)
		columns := rapid.IntRange(2, 6).Draw(t, "columns")
		rows := [][]string{}
		for i := range columns {
			if i == 0 {
				rows = append(rows, nil)
			}
			rows[0] = append(rows[0], fmt.Sprintf("Spalte %d ä", i))
		}
		for range rapid.IntRange(3, 30).Draw(t, "rows") {
			rows = append(rows, rapid.SliceOfN(cell, columns, columns).Draw(t, "row"))
		}
		form, got := read(t, d.write(rows))
		require.Equal(t, rows, got, form)
	})
}

func TestDialectsAreNamed(t *testing.T) {
	rows := [][]string{{"Auftrag", "Straße"}, {"1", "Münchner"}, {"2", "Ost"}}
	for form, d := range map[string]dress{
		"CSV":                               {',', "\n", nil, ""},
		"CSV with semicolons, Windows-1252": {';', "\r\n", charmap.Windows1252, ""},
		"CSV with tabs, UTF-16":             {'\t', "\r\n", unicode.UTF16(unicode.LittleEndian, unicode.UseBOM), ""},
		"CSV with vertical bars":            {'|', "\n", unicode.UTF8BOM, ""},
		"CSV, lines that end in CR":         {',', "\r", nil, ""},
		"CSV with semicolons, UTF-16":       {';', "\n", unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM), ""},
	} {
		got, read := read(t, d.write(rows))
		require.Equal(t, form, got)
		require.Equal(t, rows, read, form)
	}
	for text, want := range map[string][][]string{
		"sep=;\na;b\n1,5;2\n":                     {{"a", "b"}, {"1,5", "2"}},
		"a;b\n1,5;2,5\n3,5;4,5\n":                 {{"a", "b"}, {"1,5", "2,5"}, {"3,5", "4,5"}},
		"Orders of July\n\na,b,c\n1,2,3\n4,5,6\n": {{"Orders of July"}, {"a", "b", "c"}, {"1", "2", "3"}, {"4", "5", "6"}},
		"order\nA\nB\n":                           {{"order"}, {"A"}, {"B"}},
		"a,b\n\"x\n": {{"a", "b"}, {"fault",
			"line 2: extraneous or missing \" in quoted-field; want cells with a separator between them, and quotes doubled inside quotes", "\"x"}},
		"a,b\n\"x,1\ny,2\nz,3\n": {{"a", "b"}, {"fault",
			"line 2: a quote is missing its end: it opens on line 2, and would swallow 2 of the lines after it; want quotes doubled inside quotes", "\"x,1"}, {"y", "2"}, {"z", "3"}},
		"a,b\n1,x\"y\n2,z\n": {{"a", "b"}, {"fault",
			"line 2: bare \" in non-quoted-field; want cells with a separator between them, and quotes doubled inside quotes", "1,x\"y"},
			{"2", "z"}},
		"a,b\nä,1\n\xff,2\n": {{"a", "b"}, {"ä", "1"}, {"fault",
			"line 3: the row is not UTF-8 text, as the rest of the file is; want the file saved as UTF-8", "\uFFFD,2"}},
	} {
		_, rows := read(t, []byte(text))
		require.Equal(t, want, rows, text)
	}
	// A quote that opens far up and never closes costs its own row alone.
	text := "a,b\n\"open,1\n" + strings.Repeat("x,2\n", 400_000)
	_, long := read(t, []byte(text))
	require.Len(t, long, 400_002)
	require.Contains(t, long[1][1], "it opens on line 2")
	require.Equal(t, []string{"x", "2"}, long[2])
}

func TestJSONInEveryForm(t *testing.T) {
	want := [][]string{{"order", "customer.name", "customer.zip", "paid", "value", "tags"},
		{"A1", "Hive", "007", "true", "12.50", "a, b"}, {"A2", "Bee", "", "false", "1200", ""}}
	one := `{"order":"A1","customer":{"name":"Hive","zip":"007"},"paid":true,"value":12.50,"tags":["a","b"]}`
	two := `{"order":"A2","paid":false,"customer":{"name":"Bee"},"value":1.2e3,"tags":null}`
	for form, text := range map[string]string{
		"NDJSON": one + "\n" + two + "\n", "JSON": "[" + one + ",\n" + two + "]",
		"JSON, the records of orders": `{"count":2,"meta":{"list":[1,[2]]},"orders":[` + one + "," + two + `],"next":null}`,
	} {
		got, rows := read(t, []byte(text))
		require.Equal(t, form, got)
		require.Equal(t, want, rows, form)
	}
	_, rows := read(t, []byte(`{"order":"A1","value":3}`))
	require.Equal(t, [][]string{{"order", "value"}, {"A1", "3"}}, rows)
	// The objects of the one list that records have are rows, with the values of their record beside them.
	lists := `{"order":"A1","items":[{"sku":"HIVE","qty":2,"price":{"net":1.5}},{"sku":"VEIL","order":"x","qty":null}],"tags":["a"]}` +
		"\n" + `{"order":"A2","items":[]}` + "\n" + `{"order":"A3","tags":[],"items":[{"sku":"HIVE"}]}`
	_, rows = read(t, []byte(lists))
	require.Equal(t, [][]string{{"order", "tags", "price.net", "qty", "sku", "items.order"}, {"A1", "a", "1.5", "2", "HIVE", ""},
		{"A1", "a", "", "", "VEIL", "x"}, {"A2", "", "", "", "", ""}, {"A3", "", "", "", "HIVE", ""}}, rows)
	_, rows = read(t, []byte(`[{"order":"A1","items":[{"sku":"HIVE"}],"parcels":[{"no":1}]}]`))
	require.Equal(t, [][]string{{"order", "items", "parcels"}, {"A1", `{"sku":"HIVE"}`, `{"no":1}`}}, rows,
		"of two lists nobody can tell which the rows are")
	for text, says := range map[string]string{
		`[{"a":1},`:                     "ends early",
		`[{"a":1},{"a":]`:               "broken",
		`[1,2]`:                         "record 1 is no object",
		`{"a":[{"x":1}],"b":[{"y":2}]}`: "several lists: a, b",
		`[]`:                            "without records",
		`{"a":` + strings.Repeat(`{"a":`, 40) + "1" + strings.Repeat("}", 41): "without end",
	} {
		_, err := opened(t, []byte(text))
		require.ErrorContains(t, err, says, text)
	}
}

func TestWorkbooks(t *testing.T) {
	day := func(f *excelize.File, form string) int {
		style, err := f.NewStyle(&excelize.Style{CustomNumFmt: &form})
		require.NoError(t, err)
		return style
	}
	for _, dated1904 := range []bool{false, true} {
		f := excelize.NewFile()
		require.NoError(t, f.SetWorkbookProps(&excelize.WorkbookPropsOptions{Date1904: &dated1904}))
		require.NoError(t, f.SetSheetRow("Sheet1", "A1", &[]any{"order", "ordered", "at", "value", "share", "note", "hours"}))
		require.NoError(t, f.SetSheetRow("Sheet1", "A2", &[]any{"00017", nil, nil, 1234567.891, 0.256, "04.07.2026", 0.5}))
		require.NoError(t, f.SetCellValue("Sheet1", "B2", time.Date(2026, 7, 4, 0, 0, 0, 0, time.UTC)))
		require.NoError(t, f.SetCellValue("Sheet1", "C2", time.Date(2026, 7, 4, 14, 30, 0, 0, time.UTC)))
		require.NoError(t, f.SetCellStyle("Sheet1", "B2", "B2", day(f, "dd.mm.yyyy")))
		require.NoError(t, f.SetCellStyle("Sheet1", "C2", "C2", day(f, `d\-mmm\-yy h:mm`)))
		require.NoError(t, f.SetCellStyle("Sheet1", "D2", "D2", day(f, `#,##0.00 "days"`)))
		require.NoError(t, f.SetCellStyle("Sheet1", "G2", "G2", day(f, `[h]:mm`)))
		require.NoError(t, f.SetRowVisible("Sheet1", 2, false))
		require.NoError(t, f.SetColVisible("Sheet1", "C:D", false))
		for _, name := range []string{"Notes", "Empty"} {
			_, err := f.NewSheet(name)
			require.NoError(t, err)
		}
		require.NoError(t, f.SetCellValue("Notes", "B7", "only for us"))
		require.NoError(t, f.SetSheetVisible("Notes", false))
		var content bytes.Buffer
		require.NoError(t, f.Write(&content))

		o, err := opened(t, content.Bytes())
		require.NoError(t, err)
		require.Len(t, o.Tables, 2)
		require.Equal(t, []any{"XLSX", "sheet Sheet1", false, "sheet Notes", true}, []any{o.Tables[0].Form, o.Tables[0].Name(),
			o.Tables[0].Hidden, o.Tables[1].Name(), o.Tables[1].Hidden})
		require.Equal(t, [][]int{{2, 3}, nil}, [][]int{o.Tables[0].HiddenColumns, o.Tables[1].HiddenColumns})
		require.Equal(t, [][]string{
			{"order", "ordered", "at", "value", "share", "note", "hours"},
			{"00017", "2026-07-04", "2026-07-04T14:30:00", "1234567.891", "0.256", "04.07.2026", "0.5"},
		}, all(t, o.Tables[0]), "1904: %v", dated1904)
		rows, err := o.Tables[0].Rows()
		require.NoError(t, err)
		var row Row
		require.NoError(t, rows.Next(&row))
		require.False(t, row.Hidden)
		require.NoError(t, rows.Next(&row))
		require.True(t, row.Hidden)
		require.Equal(t, `sheet "Sheet1", cell C2`, row.Place(2).String())
		require.Equal(t, "00017,2026-07-04,2026-07-04T14:30:00,1234567.891,0.256,04.07.2026,0.5", row.Raw())
		require.NoError(t, rows.Close())
	}
	_, err := opened(t, []byte("PK\x03\x04 and no archive at all"))
	require.ErrorContains(t, err, "cut short or broken")
}

func TestParquet(t *testing.T) {
	type record struct {
		Order   string    `parquet:"order"`
		Ordered int32     `parquet:"ordered,date"`
		At      time.Time `parquet:"at,timestamp(microsecond)"`
		Value   int64     `parquet:"value,decimal(2:10)"`
		Units   float64   `parquet:"units"`
		Note    *string   `parquet:"note,optional"`
		Paid    bool      `parquet:"paid"`
	}
	note := "late, again"
	var content bytes.Buffer
	require.NoError(t, parquet.Write(&content, []record{
		{"A1", 20638, time.Date(2026, 7, 4, 14, 30, 0, 0, time.UTC), -12345, 1e6, &note, true},
		{"A2", 0, time.Date(2026, 7, 5, 0, 0, 0, 0, time.UTC), 5, 0.25, nil, false},
	}))
	form, rows := read(t, content.Bytes())
	require.Equal(t, "Parquet", form)
	require.Equal(t, [][]string{
		{"order", "ordered", "at", "value", "units", "note", "paid"},
		{"A1", "2026-07-04", "2026-07-04T14:30:00Z", "-123.45", "1000000", "late, again", "true"},
		{"A2", "1970-01-01", "2026-07-05T00:00:00Z", "0.05", "0.25", "", "false"},
	}, rows)
	_, err := opened(t, content.Bytes()[:content.Len()-20])
	require.ErrorContains(t, err, "cut short or broken")
}

func packed(t failer, pack func(io.Writer) io.WriteCloser, content []byte) []byte {
	var out bytes.Buffer
	w := pack(&out)
	_, err := w.Write(content)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return out.Bytes()
}

func gzipped(t failer, content []byte) []byte {
	return packed(t, func(w io.Writer) io.WriteCloser { return gzip.NewWriter(w) }, content)
}

func zipped(t failer, files ...string) []byte { // a name, then its content
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for i := 0; i < len(files); i += 2 {
		f, err := w.Create(files[i])
		require.NoError(t, err)
		_, err = f.Write([]byte(files[i+1]))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return out.Bytes()
}

func TestArchives(t *testing.T) {
	const text = "order,ordered\nA,2026-07-04\n"
	want := [][]string{{"order", "ordered"}, {"A", "2026-07-04"}}
	for name, content := range map[string][]byte{
		"gzip": gzipped(t, []byte(text)),
		"zstd": packed(t, func(w io.Writer) io.WriteCloser { e, _ := zstd.NewWriter(w); return e }, []byte(text)),
		"zip":  zipped(t, "orders.csv", text), "gzip in zip": zipped(t, "orders.csv.gz", string(gzipped(t, []byte(text)))),
	} {
		_, rows := read(t, content)
		require.Equal(t, want, rows, name)
	}
	o, err := opened(t, zipped(t, "export/", "", "export/orders.csv", text, "__MACOSX/export/._orders.csv", "x", "export/.DS_Store", "x",
		"export/holidays.ics", "BEGIN:VCALENDAR\r\n", "export/more.json.gz", string(gzipped(t, []byte(`[{"order":"B"}]`)))))
	require.NoError(t, err)
	var names []string
	for _, table := range o.Tables {
		names = append(names, fmt.Sprint(table.Name(), " ", table.Form, " ", table.Calendar))
	}
	require.Equal(t, []string{"export/orders.csv CSV false", "export/holidays.ics iCalendar true", "export/more.json JSON false"}, names)
	require.NoError(t, o.Close())

	bomb := gzipped(t, bytes.Repeat([]byte("order,ordered\n"), ratioFrom/10))
	require.Less(t, len(bomb), 1<<20)
	for says, content := range map[string][]byte{
		"unpacks to more than 64 MiB": bomb, "packed too often": gzipped(t, gzipped(t, gzipped(t, gzipped(t, []byte(text))))),
		"cut short or broken": gzipped(t, []byte(strings.Repeat(text, 100)))[:40], "archive without files": zipped(t),
	} {
		_, err := opened(t, content)
		require.ErrorContains(t, err, says)
	}
}

// What is not read is called by its name, with what to do instead.
func TestWhatIsNotRead(t *testing.T) {
	for content, says := range map[string]string{
		"":                                     "an empty file; want",
		" \r\n":                                "an empty file; want",
		"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1 xls": "an old binary workbook (XLS); open it and save it as XLSX or CSV",
		"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1 E\x00n\x00c\x00r\x00y\x00p\x00t\x00e\x00d\x00P\x00a\x00c\x00k\x00a\x00g\x00e\x00": "a workbook with a password; save it without one",
		"<html><body><table><tr><td>1":     "a web page, whatever it is called; open it in a spreadsheet program",
		"<?xml version=\"1.0\"?><orders/>": "an XML file; want CSV, XLSX or JSON",
		"%PDF-1.7":                         "a PDF document; want its data",
		"\x00\x01\x02\x00\x05order":        "no file of text; want CSV, XLSX, JSON, Parquet or iCalendar",
		"order      ordered      units\nA1         2026-07-04   3\nA2         2026-07-05   4\n": "a file whose columns have fixed widths; want a separator",
	} {
		_, err := opened(t, []byte(content))
		var refusal *Refusal
		require.ErrorAs(t, err, &refusal, "%.20q", content)
		require.ErrorContains(t, err, says)
	}
	for _, member := range []string{"xl/workbook.bin", "word/document.xml"} {
		_, err := opened(t, zipped(t, member, "x"))
		require.ErrorContains(t, err, "CSV or XLSX"[:3])
	}
}

// Whatever comes in: tables or an error, never a panic, and no more than was bounded.
func FuzzOpen(f *testing.F) {
	for _, seed := range []string{"a,b\n1,2\n", "a;b\n\"1;2\n", "[{\"a\":{\"b\":1}}]", "{\"a\":1}\n{\"a\":2}", "sep=|\na|b\n",
		"\xff\xfea\x00,\x00", "BEGIN:VCALENDAR", "PAR1", "\x1f\x8b\x08", "PK\x03\x04", "a\rb\r"} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, content []byte) {
		o, err := opened(t, content)
		if err != nil {
			return
		}
		for _, table := range o.Tables {
			if table.Calendar {
				continue
			}
			rows, err := table.Rows()
			if err != nil {
				continue
			}
			var row Row
			for {
				var fault *RowError
				if err := rows.Next(&row); err != nil && !errors.As(err, &fault) {
					break
				} else if err == nil {
					_, _ = row.Raw(), row.Place(0).String()
				}
			}
			require.NoError(t, rows.Close())
		}
		require.NoError(t, o.Close())
	})
}

func TestNumbersOfProgramsAreWrittenOut(t *testing.T) {
	for number, want := range map[string]string{"1.2e3": "1200", "1E-7": "0.0000001", "-2.5e0": "-2.5", "12": "12", "1e400": "1e400",
		"x": "x", "e": "e"} {
		require.Equal(t, want, plain(number))
	}
	var back any
	require.NoError(t, json.Unmarshal([]byte(plain("1.5e2")), &back))
}
