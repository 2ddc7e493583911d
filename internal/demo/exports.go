package demo

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
)

// The systems of Sundrift that hold its orders, by site: each exports them in its own way.
const (
	warehouseSite = "Galway"
	salesSite     = "Saskatoon"
	reportSite    = "Muscat"
)

// plainFiles are those that stand beside the exports as they are.
var plainFiles = []string{"sites.csv", "places.csv", "products.csv", "customers.csv", "shipments.csv", "statuses.csv", "returns.csv",
	"saskatoon.ics", "hamilton.ics", "muscat.ics"}

// WriteExports makes the records of the demo book in a folder as eight other systems export them: a German warehouse's CSV, a workbook of
// the sales office, a web shop's NDJSON, a report with a row for each line, a carrier's event log, a list of all orders for every day, a
// list of payments and a published calendar of holidays. What those do not hold stands beside them in files of ours. Rows that cannot be
// used are not among them.
func WriteExports(folder string, o Options) (m Manifest, err error) {
	plain, err := os.MkdirTemp("", "sundrift")
	if err != nil {
		return m, err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(plain)) }()
	o.Bare = false
	if m, err = Write(plain, o); err != nil {
		return m, err
	}
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return m, err
	}
	x := &exports{from: plain, to: folder}
	x.readAll(&m)
	m.Files = nil
	for _, write := range []func() (string, []byte){x.warehouse, x.sales, x.shop, x.report, x.events, x.daily, x.payments, x.holidays,
		x.week, x.lines} {
		if x.failed != nil {
			break
		}
		name, text := write()
		m.Files = append(m.Files, name)
		x.failed = errors.Join(x.failed, os.WriteFile(filepath.Join(folder, name), text, 0o644))
	}
	for _, name := range plainFiles {
		text, err := os.ReadFile(filepath.Join(plain, name))
		x.failed = errors.Join(x.failed, err, os.WriteFile(filepath.Join(folder, name), text, 0o644))
		m.Files = append(m.Files, name)
	}
	return m, x.failed
}

// An exports turns the plain files of the demo into those of other systems.
type exports struct {
	from, to string
	orders   []map[string]string
	lineRows map[string][]map[string]string // by order
	failed   error
}

func (x *exports) readAll(m *Manifest) {
	bad := map[int]bool{}
	for _, row := range m.SetAside {
		bad[row.Row] = true
	}
	for i, order := range x.read(OrdersFile) {
		if !bad[i+2] {
			x.orders = append(x.orders, order)
		}
	}
	x.lineRows = map[string][]map[string]string{}
	for _, line := range x.read("lines.csv") {
		x.lineRows[line["order"]] = append(x.lineRows[line["order"]], line)
	}
}

// read gives the rows of a plain file by column.
func (x *exports) read(name string) (rows []map[string]string) {
	text, err := os.ReadFile(filepath.Join(x.from, name))
	if err != nil {
		x.failed = errors.Join(x.failed, err)
		return nil
	}
	reader := csv.NewReader(bytes.NewReader(text))
	reader.FieldsPerRecord = -1
	records, err := reader.ReadAll()
	x.failed = errors.Join(x.failed, err)
	for _, record := range records[min(1, len(records)):] {
		row := map[string]string{}
		for i, cell := range record[:min(len(record), len(records[0]))] {
			row[records[0][i]] = cell
		}
		rows = append(rows, row)
	}
	return rows
}

// inReport says whether an order stands in the report: it has lines, and the report is that of its site.
func (x *exports) inReport(order map[string]string) bool {
	return order["site"] == reportSite && len(x.lineRows[order["number"]]) > 0
}

// dated is a day as a file of ours has it, with its time of day if there is one, in another form.
func dated(text, date, clock string) string {
	for layout, form := range map[string]string{"2006-01-02": date, "2006-01-02T15:04": date + " " + clock} {
		if at, err := time.Parse(layout, text); err == nil {
			return at.Format(form)
		}
	}
	return text
}

// table writes rows with a separator.
func (x *exports) table(separator rune, rows [][]string) []byte {
	var text bytes.Buffer
	out := csv.NewWriter(&text)
	out.Comma, out.UseCRLF = separator, true
	x.failed = errors.Join(x.failed, out.WriteAll(rows))
	return text.Bytes()
}

// german is a text as old German programs write it.
func (x *exports) german(text []byte) []byte {
	encoded, err := charmap.Windows1252.NewEncoder().Bytes(text)
	x.failed = errors.Join(x.failed, err)
	return encoded
}

// decimalComma is a number with a decimal comma, and points between its thousands.
func decimalComma(number string) string {
	sign, digits := "", number
	if strings.HasPrefix(number, "-") {
		sign, digits = "-", number[1:]
	}
	whole, fraction, has := strings.Cut(digits, ".")
	for at := len(whole) - 3; at > 0; at -= 3 {
		whole = whole[:at] + "." + whole[at:]
	}
	if has {
		whole += "," + fraction
	}
	return sign + whole
}

func (x *exports) warehouse() (string, []byte) {
	rows := [][]string{{"Auftragsnr.", "Kunde", "Lager", "Land", "Lieferort", "Kanal", "Bestelldatum", "Wunschtermin", "Zusagetermin",
		"Versanddatum", "Zugestellt am", "Rechnungsdatum", "Storniert am", "Auftragswert", "Währung"}}
	for _, o := range x.orders {
		if o["site"] != warehouseSite {
			continue
		}
		row := []string{o["number"], o["customer"], o["site"], o["country"], o["place"], o["channel"]}
		for _, name := range []string{"ordered", "requested", "promised", "shipped", "delivered", "invoiced", "cancelled"} {
			cell := dated(o[name], "02.01.2006", "15:04")
			if cell == "" {
				cell = "-"
			}
			row = append(row, cell)
		}
		rows = append(rows, append(row, decimalComma(o["value"]), o["currency"]))
	}
	return "galway-lager.csv", x.german(x.table(';', rows))
}

func (x *exports) sales() (string, []byte) {
	book := excelize.NewFile()
	const sheet = "Orders"
	set := func(column, row int, value any) {
		cell, err := excelize.CoordinatesToCellName(column, row)
		x.failed = errors.Join(x.failed, err, book.SetCellValue(sheet, cell, value))
	}
	x.failed = errors.Join(x.failed, book.SetSheetName("Sheet1", sheet))
	date, err := book.NewStyle(&excelize.Style{NumFmt: 14})
	x.failed = errors.Join(x.failed, err)
	moment, err := book.NewStyle(&excelize.Style{NumFmt: 22})
	x.failed = errors.Join(x.failed, err)
	set(1, 1, "Sales office "+salesSite+": all orders")
	set(1, 2, "Printed on "+DataDate.String())
	header := []string{"Order #", "Sold To", "Warehouse", "Ship To Country", "Ship To City", "Sales Channel", "Order Date",
		"Requested Delivery Date", "Promised Date", "Ship Date", "Delivery Date", "Invoice Date", "Cancel Date", "Order Total", "Currency"}
	const first = 4
	for i, heading := range header {
		set(i+1, first, heading)
	}
	at, total := first, 0.0
	for _, o := range x.orders {
		if o["site"] != salesSite {
			continue
		}
		at++
		for i, name := range columns {
			text := o[name]
			column := i + 1
			day, errDay := time.Parse("2006-01-02", text)
			instant, errMoment := time.Parse("2006-01-02T15:04", text)
			cell, err := excelize.CoordinatesToCellName(column, at)
			switch {
			case text == "":
			case errDay == nil:
				set(column, at, day)
				err = errors.Join(err, book.SetCellStyle(sheet, cell, cell, date))
			case errMoment == nil:
				set(column, at, instant)
				err = errors.Join(err, book.SetCellStyle(sheet, cell, cell, moment))
			case name == "value":
				value, parsed := strconv.ParseFloat(text, 64)
				total += value
				set(column, at, value)
				err = errors.Join(err, parsed)
			default:
				set(column, at, text)
			}
			x.failed = errors.Join(x.failed, err)
		}
	}
	set(1, at+1, "Total")
	set(slices.Index(columns, "value")+1, at+1, total)
	var text bytes.Buffer
	x.failed = errors.Join(x.failed, book.Write(&text), book.Close())
	return "saskatoon-sales.xlsx", text.Bytes()
}

func (x *exports) shop() (string, []byte) {
	var text bytes.Buffer
	out := json.NewEncoder(&text)
	for _, o := range x.orders {
		if o["site"] == warehouseSite || o["site"] == salesSite || x.inReport(o) {
			continue
		}
		record := map[string]any{"orderNumber": o["number"], "customer": map[string]any{"name": o["customer"]}, "shipFrom": o["site"],
			"shipTo":  map[string]any{"country": o["country"], "city": o["place"]},
			"channel": o["channel"], "total": map[string]any{"amount": o["value"]}, "currencyCode": o["currency"]}
		for key, name := range map[string]string{"placedAt": "ordered", "requestedDelivery": "requested", "promisedDate": "promised",
			"shippedAt": "shipped", "deliveredAt": "delivered", "invoicedOn": "invoiced", "cancelledAt": "cancelled"} {
			record[key] = nil
			if o[name] != "" {
				record[key] = o[name]
			}
		}
		x.failed = errors.Join(x.failed, out.Encode(record))
	}
	return "webshop.ndjson", text.Bytes()
}

func (x *exports) report() (string, []byte) {
	header := []string{"Order No", "Pos", "Item", "Qty", "Cancelled Units", "Line Value", "Customer", "Warehouse", "Country", "City",
		"Channel", "Order Date", "Requested Date", "Promised Date", "Shipped On", "Delivered On", "Invoiced On", "Cancelled On",
		"Order Value", "Currency"}
	rows := [][]string{{"Order lines of " + reportSite}, header}
	printed := 0
	for _, o := range x.orders {
		if !x.inReport(o) {
			continue
		}
		for _, line := range x.lineRows[o["number"]] {
			const page = 60
			if printed++; printed%page == 0 {
				rows = append(rows, header)
			}
			row := []string{o["number"], line["line"], line["product"], line["units"], line["cancelled units"], line["line value"],
				o["customer"], o["site"], o["country"], o["place"], o["channel"]}
			for _, name := range []string{"ordered", "requested", "promised", "shipped", "delivered", "invoiced", "cancelled"} {
				row = append(row, dated(o[name], "2-Jan-2006", "3:04 PM"))
			}
			rows = append(rows, append(row, o["value"], o["currency"]))
		}
	}
	return "muscat-report.tsv", x.table('\t', append(rows, []string{fmt.Sprintf("%d rows", printed)}))
}

func (x *exports) events() (string, []byte) {
	rows := [][]string{{"Order Ref", "Event", "Event Time"}}
	for _, r := range x.read("status-events.csv") {
		rows = append(rows, []string{r["order"], r["status"], r["at"]})
	}
	return "carrier-events.csv", x.table('|', rows)
}

func (x *exports) daily() (string, []byte) {
	rows := [][]string{{"Snapshot Date", "Order #", "Order Status"}}
	for _, r := range x.read("status-daily.csv") {
		rows = append(rows, []string{r["at"], r["order"], r["status"]})
	}
	return "order-status.csv", x.table(',', rows)
}

func (x *exports) payments() (string, []byte) {
	rows := [][]string{{"Belegnr.", "Auftrag", "Bezahlt am", "Betrag", "Währung"}}
	for _, r := range x.read("payments.csv") {
		rows = append(rows, []string{r["receipt"], r["order"], dated(r["paid"], "02.01.2006", "15:04"), decimalComma(r["amount"]),
			r["currency"]})
	}
	return "zahlungen.csv", x.german(x.table(';', rows))
}

// events of the calendar of a site, with and without what only ours have.
func calendarParts(site string) (head string, holidays, others []string) {
	text := string(Calendars()[strings.ToLower(site)+".ics"])
	blocks := strings.Split(text, "BEGIN:VEVENT")
	for _, block := range blocks[1:] {
		event, _, _ := strings.Cut(block, "END:VEVENT")
		if event = "BEGIN:VEVENT" + event + "END:VEVENT\r\n"; strings.Contains(event, "CATEGORIES:HOLIDAY") {
			holidays = append(holidays, event)
		} else {
			others = append(others, event)
		}
	}
	return blocks[0], holidays, others
}

// holidays are those of the warehouse as they are published: from midnight to midnight, under a title.
func (x *exports) holidays() (string, []byte) {
	_, holidays, _ := calendarParts(warehouseSite)
	var text strings.Builder
	text.WriteString("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Public holidays//EN\r\nX-WR-CALNAME:Public holidays " + warehouseSite +
		"\r\n")
	published := strings.NewReplacer("CATEGORIES:HOLIDAY", "CATEGORIES:Public holiday", "DTSTART;VALUE=DATE:",
		"DTSTART;TZID=Europe/Dublin:", "DTEND;VALUE=DATE:", "DTEND;TZID=Europe/Dublin:")
	for _, event := range holidays {
		for line := range strings.SplitSeq(strings.TrimSpace(strings.ReplaceAll(published.Replace(event), "\r\n", "\n")), "\n") {
			if strings.Contains(line, "TZID") {
				line += "T000000"
			}
			_, _ = io.WriteString(&text, line+"\r\n")
		}
	}
	text.WriteString("END:VCALENDAR\r\n")
	return "public-holidays.ics", []byte(text.String())
}

// week is what the warehouse's calendar has besides holidays.
func (x *exports) week() (string, []byte) {
	head, _, others := calendarParts(warehouseSite)
	text := strings.ReplaceAll(head+strings.Join(others, "")+"END:VCALENDAR\n", "\r\n", "\n")
	return "galway-week.ics", []byte(strings.ReplaceAll(text, "\n", "\r\n"))
}

// lines are those of all orders that are not in the report.
func (x *exports) lines() (string, []byte) {
	header := []string{"order", "line", "product", "units", "cancelled units", "line value"}
	rows := [][]string{header}
	for _, o := range x.orders {
		if x.inReport(o) {
			continue
		}
		for _, line := range x.lineRows[o["number"]] {
			row := make([]string, len(header))
			for i, name := range header {
				row[i] = line[name]
			}
			rows = append(rows, row)
		}
	}
	return "lines.csv", x.table(',', rows)
}
