package intake

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/recognise"
	"prairiedusk/internal/record"
	"prairiedusk/internal/source"
)

// A read row is the cells of one record, by column; days are written as such.
type read map[string]string

func nothingKnown(*record.Kind) []record.Extra { return nil }

// tableOf is the first table of a file of some text.
func tableOf(text string) (source.Table, error) {
	file, err := source.Keep(strings.NewReader(text))
	if err != nil {
		return source.Table{}, err
	}
	opened, err := source.Open(file)
	if err != nil {
		return source.Table{}, err
	}
	return opened.Tables[0], nil
}

// readAll gives the fresh records by part, the set-aside rows and what ended the file.
func readAll(text string) (rows [][]read, aside []SetAside, t *TableReader, err error) {
	return readAs(text, Reading{})
}

// readAs is readAll with what the file does not tell.
func readAs(text string, reading Reading) (rows [][]read, aside []SetAside, t *TableReader, err error) {
	table, err := tableOf(text)
	if err != nil {
		return nil, nil, nil, &FileError{File: "file.csv", Err: err}
	}
	t, err = NewTableReader("file.csv", table, nothingKnown, reading)
	if err != nil {
		return nil, nil, nil, err
	}
	rows = make([][]read, len(t.Parts()))
	for {
		next, err := t.Next()
		var row SetAside
		switch {
		case errors.As(err, &row):
			aside = append(aside, row)
		case errors.Is(err, io.EOF):
			return rows, aside, t, nil
		case err != nil:
			return rows, aside, t, err
		}
		for p, r := range next {
			if r.Fresh {
				rows[p] = append(rows[p], cells(t.Parts()[p], r))
			}
		}
	}
}

func cells(part record.Part, r record.Row) read {
	all := read{}
	for c, column := range part.Kind.Columns {
		switch v := r.Values[c]; {
		case !v.Known:
		case column.Type == record.Day:
			all[column.Name] = day.Day(v.Number).String()
			if v.Text != "" {
				all[column.Name] += " from " + v.Text
			}
		case column.Type.InText():
			all[column.Name] = v.Text
		default:
			all[column.Name] = fmt.Sprint(v.Number)
		}
	}
	for i, extra := range part.Extras {
		if r.Extra[i] != "" {
			all[extra.Name] = r.Extra[i]
		}
	}
	return all
}

func TestRowsAreReadCellByCell(t *testing.T) {
	rows, aside, table, err := readAll("\uFEFFNumber,Ordered, shipped ,Customer,Value,Currency,Week\r\n" +
		"A-1, 2026-07-06 ,2026-07-08,\"Clover, Ltd\",1234.5,omr,red\r\n" +
		"\r\n" +
		"A-2,2026-07-07,,\"two\nlines\",-3,,\r\n" +
		"A-1, 2026-07-06 ,2026-07-08,\"Clover, Ltd\",1234.5,OMR,red\r\n")
	require.NoError(t, err)
	assert.Empty(t, aside)
	assert.Equal(t, 1, table.Repeated(), "the same record again is no second order")
	assert.Equal(t, [][]read{{
		{"order": "A-1", "ordered": "2026-07-06", "shipped": "2026-07-08", "customer": "Clover, Ltd", "value": "1234500",
			"currency": "OMR"},
		{"order": "A-2", "ordered": "2026-07-07", "customer": "two\nlines", "value": "-300"},
	}}, rows, "the rial has three decimals")
	assert.Equal(t, []string{"Week"}, table.Unused(), "a reserved word names no column")
	assert.Equal(t, []int{0, 1, 6, 8, 11, 17}, table.Parts()[0].Given)
}

// Any day may come with a time of day; it keeps its text, since only the zone of the site makes a day of it.
func TestDaysWithATimeOfDay(t *testing.T) {
	rows, aside, table, err := readAll("number,ordered,shipped,picked,slot\n" +
		"A,2026-07-06T23:30:00Z,2026-07-08 09:15,2026-07-07T08:00,2026-07-07\n" +
		"B,2026-07-06,2026-07-08T24:15,,\n" +
		"C,2026-07-06T10:00:00.250+02:00,,2026-07-07,late\n")
	require.NoError(t, err)
	assert.Equal(t, [][]read{{
		{"order": "A", "ordered": "2026-07-06 from 2026-07-06T23:30:00Z", "shipped": "2026-07-08 from 2026-07-08 09:15",
			"picked": "2026-07-07T08:00", "slot": "2026-07-07"},
		{"order": "C", "ordered": "2026-07-06 from 2026-07-06T10:00:00.250+02:00", "picked": "2026-07-07", "slot": "late"},
	}}, rows)
	require.Len(t, aside, 1)
	assert.Equal(t, []string{"shipped", "2026-07-08T24:15"}, []string{aside[0].Column, aside[0].Value})
	extras := table.Parts()[0].Extras
	assert.Equal(t, []bool{true, false}, []bool{extras[0].Milestone, extras[1].Milestone},
		"times of day make a milestone, other text does not")
}

// The columns tell what the rows are.
func TestEveryKindIsRead(t *testing.T) {
	for _, tt := range []struct {
		text string
		kind *record.Kind
		want read
	}{
		{"Order,Line,Product,Units,Cancelled Units,Line value\nA,1,frames,2.5,1,10.25", record.Lines,
			read{"order": "A", "line": "1", "product": "frames", "units": "2500", "cancelled-units": "1000", "line-value": "102500"}},
		{"shipment,order,line,shipped,carrier\nS,A,,2026-07-06,Lark", record.Shipments,
			read{"order": "A", "shipment": "S", "shipped": "2026-07-06", "carrier": "Lark"}},
		{"receipt,order,paid,amount,currency\nR,A,2026-07-06,-1.5,eur", record.Payments,
			read{"order": "A", "receipt": "R", "paid": "2026-07-06", "amount": "-15000", "currency": "EUR"}},
		{"order,status,at,sequence,source\nA,packed,2026-07-06T10:00:00+02:00,007,Daily", record.Statuses,
			read{"order": "A", "status": "packed", "at": "2026-07-06T10:00:00+02:00", "sequence": "7", "source": "daily"}},
		{"contact,customer,telephone\nAna,Clover,+351 21 000", record.Customers, read{"customer": "Clover", "contact": "Ana",
			"telephone": "+351 21 000"}},
		{"product,product name,category\nF1,Frame,wood", record.Products, read{"product": "F1", "product-name": "Frame",
			"category": "wood"}},
		{"site,zone,cut-off,calendar\nGalway,Europe/Dublin,14:30,Galway", record.Sites,
			read{"site": "Galway", "zone": "Europe/Dublin", "cut-off": "14:30", "calendar": "Galway"}},
		{"place,country,latitude,longitude\nMuscat,Oman,23.6,58.4", record.Places, read{"place": "Muscat", "country": "Oman",
			"latitude": "23600000", "longitude": "58400000"}},
	} {
		rows, aside, table, err := readAll(tt.text)
		require.NoError(t, err)
		require.Empty(t, aside, tt.text)
		require.Len(t, table.Parts(), 1)
		assert.Same(t, tt.kind, table.Parts()[0].Kind)
		assert.Equal(t, [][]read{{tt.want}}, rows)
	}
}

// An order export with a row for each line brings both, each order once.
func TestOneFileOfTwoKinds(t *testing.T) {
	rows, aside, table, err := readAll("order,ordered,customer,line,units,order rep,batch\nA,2026-07-01,Clover,1,2,Rui,x\nA,2026-07-01,Clover,2,5,Rui,y\nB,2026-07-02,,1,1,,\nA,2026-07-01,Heather,3,1,Rui,\n")
	require.NoError(t, err)
	assert.Same(t, record.Lines, table.Parts()[0].Kind)
	assert.Same(t, record.Orders, table.Parts()[1].Kind)
	assert.Equal(t, []read{{"order": "A", "line": "1", "units": "2000", "batch": "x"},
		{"order": "A", "line": "2", "units": "5000", "batch": "y"}, {"order": "B", "line": "1", "units": "1000"}}, rows[0])
	assert.Equal(t, []read{{"order": "A", "ordered": "2026-07-01", "customer": "Clover", "rep": "Rui"},
		{"order": "B", "ordered": "2026-07-02"}}, rows[1])
	require.Len(t, aside, 1, "an order that says two things")
	assert.Equal(t, []any{5, "order", "A"}, []any{aside[0].Row, aside[0].Column, aside[0].Value})
	assert.Contains(t, aside[0].Reason, "already stands in row 2")
	assert.Equal(t, []string{"A\x1f3", "A"}, aside[0].Keys)
}

// The first rows tell what a column of the user's own holds; where they are empty, its first filled cell does.
func TestColumnsOfTheUsersOwn(t *testing.T) {
	rows, aside, table, err := readAll("order,Hive Colour,picked,due (plan),late\nA,white,2026-07-01,,\nB,2026-07-01,,2026-08-01,\n" +
		strings.Repeat("X,,,,\n", lookAhead) + "C,,soon,,2026-09-01\nD,,,,later\n")
	require.NoError(t, err)
	extras := table.Parts()[0].Extras
	require.Len(t, extras, 4)
	assert.Equal(t, []record.Extra{{Name: "hive-colour", Known: true}, {Name: "picked", Known: true, Milestone: true},
		{Name: "due", Known: true, Milestone: true, Plan: true}, {Name: "late", Known: true, Milestone: true}},
		[]record.Extra{*extras[0], *extras[1], *extras[2], *extras[3]})
	assert.Equal(t, []read{{"order": "A", "hive-colour": "white", "picked": "2026-07-01"},
		{"order": "B", "hive-colour": "2026-07-01", "due": "2026-08-01"}, {"order": "X"}}, rows[0])
	require.Len(t, aside, 2)
	for i, value := range []string{"soon", "later"} {
		assert.Equal(t, value, aside[i].Value)
		assert.Contains(t, aside[i].Reason, "the column holds days")
	}
}

// A header alone brings nothing, and line ends may be mixed.
func TestOddFilesThatCanBeUsed(t *testing.T) {
	rows, aside, _, err := readAll("number,customer\r\n")
	require.NoError(t, err)
	assert.Empty(t, rows[0])
	assert.Empty(t, aside)
	rows, aside, _, err = readAll("number,customer\r\nA,Clover\nB,Heather\r\nC,\"two\r\nlines\"\n")
	require.NoError(t, err)
	assert.Empty(t, aside)
	assert.Equal(t, []read{{"order": "A", "customer": "Clover"}, {"order": "B", "customer": "Heather"},
		{"order": "C", "customer": "two\nlines"}}, rows[0])
}

// A title may stand before the header. In a file that has one, texts that were made harmless are as they were; rows are
// still told by their lines.
func TestTitlesBeforeTheHeader(t *testing.T) {
	rows, aside, _, err := readAs("\"What was asked, and how many?\",,\r\nnumber,customer,'=note\r\n007,'=cmd(),''-x\r\nB,'tis,+1\r\nC,Clover,\r\nC,Heather,\r\n", Reading{Rows: RowsAreOrders})
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "007", "customer": "=cmd()", "=note": "'-x"}, {"order": "B", "customer": "'tis", "=note": "+1"},
		{"order": "C", "customer": "Clover"}}, rows[0])
	require.Len(t, aside, 1)
	assert.Equal(t, 6, aside[0].Row)
	rows, _, _, err = readAll("number,customer\n'-1,'=x\n")
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "'-1", "customer": "'=x"}}, rows[0], "without a title nothing is taken off")
	_, _, _, err = readAll("A title alone,,\n")
	assert.ErrorContains(t, err, "after its title the file has no header")
	_, _, _, err = readAll("A title,,\ncolour,size,weight\n")
	assert.ErrorContains(t, err, "file.csv, row 2: cannot tell what the rows are")
	rows, _, _, err = readAll("customer\nClover\n")
	require.NoError(t, err)
	assert.Len(t, rows[0], 1, "a header of one column is no title")
}

// Every bad row is kept whole, with its row, column, value and what was expected.
func TestRowsThatAreSetAside(t *testing.T) {
	const header = "number,ordered,customer,value,currency\n"
	for _, tt := range []struct{ name, row, column, value, want string }{
		{"no number", ",2026-07-06,C,1,EUR", "number", "", "has no order"},
		{"no such day", "N,2026-02-30,C,1,EUR", "ordered", "2026-02-30", "has no day 30"},
		{"no time of day", "N,2026-07-06T25:00,C,1,EUR", "ordered", "2026-07-06T25:00", "no time of day such as T14:30"},
		{"outside the days", "N,2260-01-01,C,1,EUR", "ordered", "2260-01-01", "from 1900-01-01 to 2199-12-31"},
		{"no value", "N,2026-07-06,C,n/a,EUR", "value", "n/a", "want a decimal number"},
		{"too many decimals", "N,2026-07-06,C,1.5055,EUR", "value", "1.5055", "more than the 2 decimals"},
		{"no decimals in yen", "N,2026-07-06,C,1.5,JPY", "value", "1.5", "more than the 0 decimals"},
		{"too large", "N,2026-07-06,C,99999999999999999999,EUR", "value", "99999999999999999999", "too large"},
		{"no currency", "N,2026-07-06,C,1,Euros", "currency", "Euros", "ISO 4217"},
		{"one cell alone", "N", "", "", "has 1 cell; want 5"},
		{"too many cells", "N,2026-07-06,C,1,EUR,x", "", "", "has 6 cells; want 5"},
		{"too long a cell", "N,2026-07-06," + strings.Repeat("x", 501) + ",1,EUR", "customer", strings.Repeat("x", 501), "at most 500"},
		{"a quote inside a cell", `N,2026-07-06,12" frame,1,EUR`, "", "", `bare "`},
		{"a NUL byte", "N,2026-07-06,Clo\x00ver,1,EUR", "", "", "the character NUL"},
		{"the number again", "FIRST,2026-07-06,C,2,EUR", "number", "FIRST", "already stands in row 2"},
		{"the number again, with a value that is 256 cents more", "FIRST,2026-07-06,C,3.56,EUR", "number", "FIRST",
			"already stands in row 2"},
		{"the number again, a day later", "FIRST,2026-07-07,C,1,EUR", "number", "FIRST", "already stands in row 2"},
		{"the number again, without its value", "FIRST,2026-07-06,C,,EUR", "number", "FIRST", "already stands in row 2"},
	} {
		rows, aside, _, err := readAs(header+"FIRST,2026-07-06,C,1,EUR\n"+tt.row+"\nLAST,2026-07-06,C,1,EUR\n",
			Reading{NotKnown: []string{NoMark}, Rows: RowsAreOrders})
		require.NoError(t, err, tt.name)
		require.Len(t, rows[0], 2, "%s: the other rows come in", tt.name)
		require.Len(t, aside, 1, tt.name)
		assert.Equal(t, 3, aside[0].Row, tt.name)
		assert.Equal(t, tt.column, aside[0].Column, tt.name)
		assert.Equal(t, tt.value, aside[0].Value, tt.name)
		assert.Contains(t, aside[0].Reason, tt.want, tt.name)
		assert.Equal(t, strings.ReplaceAll(strings.ToValidUTF8(tt.row, "\uFFFD"), "\x00", "\uFFFD"), aside[0].Raw, tt.name)
	}
}

// What is just within a limit is taken, whole.
func TestLimitsAreReached(t *testing.T) {
	text, name := strings.Repeat("x", maxText), strings.Repeat("n", maxExtraName)
	rows, aside, table, err := readAll("order,customer,note," + name + "," + name + "n\nA," + text + "," + text + ",1,2\nB,,x" + text +
		",,\n")
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A", "customer": text, "note": text, name: "1"}, {"order": "B", "note": text[:maxText-3] + "…"}},
		rows[0])
	assert.Equal(t, []string{name + "n"}, table.Unused())
	assert.Equal(t, []string{`1 cell of column "note" is longer than 500 bytes, and ends there`}, table.Notes(),
		"a long note never costs an order")
	assert.Empty(t, aside)
	rows, aside, _, err = readAll("Order Number,note\nA,2026-07-01\n" + strings.Repeat("X,\n", lookAhead-2) + "B,soon\n")
	require.NoError(t, err)
	assert.Empty(t, aside, "the last row that is looked at tells that the column holds texts")
	assert.Equal(t, read{"order": "B", "note": "soon"}, rows[0][2])
	rows, _, _, err = readAll("order,customer" + strings.Repeat(",", maxColumns-2) + "\nA" + strings.Repeat(",", maxColumns-1) + "\n")
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A"}}, rows[0])
	rows, aside, _, err = readAll("place,latitude,longitude\nQuay,-180,180\nMole,-180.000001,0\nPier,0,180.000001\n")
	require.NoError(t, err)
	assert.Len(t, rows[0], 1)
	assert.Len(t, aside, 2)
}

// Each column is read in the form that fits all its cells; what could be read in two ways is asked, never decided.
func TestColumnsAreReadInTheFormThatFitsThem(t *testing.T) {
	day, comma := recognise.DayFirst, recognise.Comma
	rows, aside, _, err := readAs("order;ordered;shipped;value;currency;units of it;picked up;Req. Delivery\nA;13.07.2026;4-Jul-26;1.234,50;EUR;1.234;31/12/2026;31.08.2026\nB;01.02.2026;July 4, 2026 2:30 PM;12,00;EUR;;01/02/2026;\n", Reading{})
	require.NoError(t, err)
	require.Empty(t, aside)
	require.Equal(t, []read{
		{"order": "A", "ordered": "2026-07-13", "shipped": "2026-07-04", "value": "123450", "currency": "EUR", "units-of-it": "1.234",
			"picked-up": "2026-12-31", "requested": "2026-08-31"},
		{"order": "B", "ordered": "2026-02-01", "shipped": "2026-07-04 from 2026-07-04T14:30:00", "value": "1200", "currency": "EUR",
			"picked-up": "2026-02-01"},
	}, rows[0])
	for text, says := range map[string]string{
		"order,ordered,shipped\nA,04/07/2026,13/07/2026\n": `column "ordered": 04/07/2026 is 4 July 2026 or 7 April 2026, and no cell of the column tells which`,
		"order,ordered\nA,13/07/2026\nB,07/13/2026\n":      `column "ordered": "07/13/2026" in row 3 can only be month-first, "13/07/2026" in row 2 can only be day-first; no form fits all, and rows that do not fit yours are set aside`,
		"order,line,units\nA,1,1.234\n":                    `column "units": 1.234 is 1.234 or 1234, and no cell of the column tells which`,
		"order,picked\nA,04/07/2026\n":                     `column "picked": 04/07/2026 is 4 July 2026`,
	} {
		_, _, _, err := readAs(text, Reading{})
		var questions Questions
		require.ErrorAs(t, err, &questions, text)
		require.ErrorContains(t, err, says)
		_, _, _, err = readAs(text, Reading{Dates: &day, Decimals: &comma})
		require.NoError(t, err, text)
	}
	rows, aside, _, err = readAs("order,ordered\nA,13/07/2026\nB,07/13/2026\n", Reading{Dates: &day})
	require.NoError(t, err)
	require.Equal(t, []read{{"order": "A", "ordered": "2026-07-13"}}, rows[0])
	require.Len(t, aside, 1)
	rows, _, _, err = readAs("order,line,units\nA,1,1.234\n", Reading{Decimals: &comma})
	require.NoError(t, err)
	require.Equal(t, "1234000", rows[0][0]["units"])
	rows, _, _, err = readAs(`[{"order":"A","line":"1","units":1.234}]`, Reading{})
	require.NoError(t, err)
	require.Equal(t, "1234", rows[0][0]["units"], "JSON tells numbers from texts")
	rows, _, _, err = readAs("order,ordered\nA,2026-07-04T00:00:00Z\nB,2026-07-05T00:00:00Z\n", Reading{})
	require.NoError(t, err)
	require.Equal(t, []read{{"order": "A", "ordered": "2026-07-04"}, {"order": "B", "ordered": "2026-07-05"}}, rows[0],
		"midnights in UTC are days")

	table, err := tableOf("order,Req. Pickup,requested collection,picked\nA,2026-08-01,2026-08-01,2026-08-01\n")
	require.NoError(t, err)
	reader, err := NewTableReader("file.csv", table, nothingKnown, Reading{})
	require.NoError(t, err)
	var plans []bool
	for _, extra := range reader.Parts()[0].Extras {
		require.True(t, extra.Milestone)
		plans = append(plans, extra.Plan)
	}
	require.Equal(t, []bool{true, true, false}, plans, "a date that was asked for is a plan")
}

// Headings of the trade are known in eight languages, however they are written; the product's own words come first.
func TestHeadingsOfTheTrade(t *testing.T) {
	for _, header := range []string{
		"Order No.,Customer Name,Order Date,Ship Date,Qty", "orderNumber,client,orderDate,dispatched_at,QTY",
		"ORDER #,Buyer,Date Placed,Goods Issue,quantity",
		"Auftragsnr.,Kunde,Bestelldatum,Versanddatum,Menge", "Numéro de commande,Nom du client,Date de commande,Date d'expédition,Qté",
		"Nº pedido,Cliente,Fecha del pedido,Fecha envío,Cantidad",
		"Numero ordine,Ragione sociale,Data ordine,Data spedizione,Quantità",
		"Encomenda,Nome do cliente,Data da encomenda,Data de envio,Quantidade", "Ordernummer,Klant,Besteldatum,Verzonden op,Aantal",
		"Nr zamówienia,Klient,Data zamówienia,Data wysyłki,Ilość",
	} {
		rows, aside, table, err := readAll(header + "\n00017,Hive,2026-07-04,2026-07-06,3\n")
		require.NoError(t, err, header)
		require.Empty(t, aside, header)
		want := read{"order": "00017", "customer": "Hive", "ordered": "2026-07-04", "shipped": "2026-07-06"}
		got := rows[0][0]
		for name := range want {
			require.Equal(t, want[name], got[name], header)
		}
		require.Len(t, table.Parts()[0].Extras, 1, "units are of lines, and these are orders: %s", header)
		require.NotEqual(t, "units", table.Parts()[0].Extras[0].Name)
	}
	rows, _, _, err := readAll("Order ID,Pos,SKU,Qty,Order Date\nA,1,F1,2.5,2026-07-04\n")
	require.NoError(t, err)
	require.Equal(t, read{"order": "A", "line": "1", "product": "F1", "units": "2500"}, rows[0][0])
	require.Equal(t, read{"order": "A", "ordered": "2026-07-04"}, rows[1][0])
	// Of two headings that mean the same, the very word counts, or else the first; the other is a column of the user's own.
	rows, _, table, err := readAll("Order Date,order,ordered,Date Placed\n2026-07-01,A,2026-07-02,2026-07-03\n")
	require.NoError(t, err)
	require.Equal(t, "2026-07-02", rows[0][0]["ordered"])
	require.Equal(t, []string{"order-date", "date-placed"}, []string{table.Parts()[0].Extras[0].Name, table.Parts()[0].Extras[1].Name})
	for heading, meanings := range headings {
		require.Equal(t, heading, plainHeading(heading), "written as it is looked up")
		for _, meaning := range meanings {
			require.True(t, ofAnyKind(meaning), meaning)
		}
	}
}

// What a heading alone does not tell is asked, all of it at once, and never decided; what somebody says of a column counts.
func TestMeaningsOfColumnsAreSaidOrAsked(t *testing.T) {
	const text = "Auftrag,Lieferdatum,Datum,Req. Delivery,Menge,Gate Slot\nA,2026-07-09,04/05/2026,2026-07-08,3,2026-07-06\n"
	_, _, _, err := readAs(text, Reading{})
	var questions Questions
	require.ErrorAs(t, err, &questions)
	require.Len(t, questions, 2)
	require.Equal(t, Question{Word: "map", Column: "Lieferdatum",
		Asks:    "it can be delivered or promised, and its heading does not tell which",
		Answers: []string{"delivered", "promised", LeftOut}}, *questions[0], "requested is there already")
	require.Equal(t, []string{"ordered", "shipped", "delivered", "paid", LeftOut}, questions[1].Answers)
	said := Reading{Meanings: map[string]string{"lieferdatum": "delivered", "DATUM": "left-out", "Menge": "Hive Count",
		"AUFTRAG": "number"}, Plans: []string{"req delivery", "Gate Slot"}}
	rows, _, table, err := readAs(text, said)
	require.NoError(t, err)
	require.Equal(t, []read{{"order": "A", "delivered": "2026-07-09", "requested": "2026-07-08", "hive-count": "3",
		"gate-slot": "2026-07-06"}}, rows[0])
	require.Empty(t, table.Unused(), "left out, and not unknown")
	columns := table.Columns()
	require.Equal(t, Column{Heading: "Auftrag", Kind: "orders", Means: "order", Why: "as said", Samples: []string{"A"}, Rows: 1,
		Filled: 1}, columns[0])
	require.Equal(t, Column{Heading: "Datum", Why: "as said", Samples: []string{"04/05/2026"}, Rows: 1, Filled: 1}, columns[2])
	require.Equal(t, Column{Heading: "Gate Slot", Kind: "orders", Means: "gate-slot", Form: "dates, a plan", Why: "a column of your own",
		Samples: []string{"2026-07-06"}, Rows: 1, Filled: 1}, columns[5])
	require.True(t, table.Parts()[0].Extras[1].Plan)
	// Where the others leave but one meaning, it is that.
	rows, _, _, err = readAs("order,promised,requested date,delivery date\nA,2026-07-01,2026-07-02,2026-07-03\n", Reading{})
	require.NoError(t, err)
	require.Equal(t, "2026-07-03", rows[0][0]["delivered"])
	// What was said goes before what a heading means, and two columns never mean the same.
	rows, _, table, err = readAs("order,Ship Date,Left Dock\nA,2026-07-01,2026-07-02\n",
		Reading{Meanings: map[string]string{"Left Dock": "shipped"}})
	require.NoError(t, err)
	require.Equal(t, "2026-07-02", rows[0][0]["shipped"])
	require.Equal(t, "ship-date", table.Parts()[0].Extras[0].Name)
	_, _, _, err = readAs("order,A,B\n", Reading{Meanings: map[string]string{"A": "shipped", "B": "shipped"}})
	require.ErrorContains(t, err, `"A" and "B" both mean shipped`)
	_, _, _, err = readAs("order,Ship Date\n", Reading{Plans: []string{"Ship Date"}, Meanings: map[string]string{"Ship Date": "shipped"}})
	require.ErrorContains(t, err, `"Ship Date" is said to hold plans, and shipped holds none`)
	unmet := said.Headings()
	unmet.Meet([]string{"Auftrag", "Lieferdatum", "Datum", "Req. Delivery", "Gate Slot"})
	require.EqualError(t, unmet.Fault(), `no file has the column "Menge", of which something was said`)
}

func TestFilesThatAreRefused(t *testing.T) {
	for _, tt := range []struct{ name, text, want string }{
		{"empty", "", "an empty file; want one with a header"},
		{"a header alone, of nothing", "\n,\n", "cannot tell what the rows are"},
		{"no column that tells what it is", "name,colour\n1,red\n", `cannot tell what the rows are`},
		{"orders without their numbers", "customer,ordered,shipped\nClover,2026-07-06,\n",
			"these look like orders, by their column \"ordered\", and no column has their numbers"},
		{"the two words for an order's number", "number,order\n", `"number" and "order" both mean order`},
		{"very many columns", strings.Repeat("c,", 10000) + "order\n", "10001 columns; want at most 500"},
		{"a column twice", "number,ordered,Ordered\n",
			`column "Ordered 2": the heading "ordered" stands twice, and the first of them is taken for ordered`},
		{"a cell of 50 MB", "number,customer\n1," + strings.Repeat("x", 50<<20) + "\n", "longer than 1048576 bytes"},
		{"a NUL byte in the header", "number,colour of the hive,\x00\n", "not UTF-8"},
		{"a quote that never ends", "number,customer\n1,\"" + strings.Repeat("x", 2<<20), "missing its end"},
	} {
		_, _, _, err := readAll(tt.text)
		var refused *FileError
		require.ErrorAs(t, err, &refused, tt.name)
		assert.ErrorContains(t, err, tt.want, tt.name)
		assert.ErrorContains(t, err, "file.csv", tt.name)
	}
}

// What other systems write where nothing is known is asked about once for a kind of file; nothing else counts as it.
func TestCellsThatSayThatNothingIsKnown(t *testing.T) {
	const header = "order,customer,ordered,shipped,value,currency,note\n"
	const text = header + "A,NULL,2026-07-01,9999-12-31 00:00:00,-,EUR,n/a\nB,null,2026-07-02,0,na,EUR,0\nC,Clover,2026-07-03,2026-07-04,5,EUR,na\n"
	var questions Questions
	_, _, _, err := readAs(text, Reading{})
	require.ErrorAs(t, err, &questions)
	require.Len(t, questions, 1)
	assert.Equal(t, "not_known", questions[0].Word)
	assert.Equal(t, `does "NULL" (2 cells, first in column "customer") or "9999-12-31 00:00:00" (1 cell, first in column "shipped") or "-" (1 cell, first in column "value") or `+
		`"n/a" (1 cell, first in column "note") or "0" (1 cell, first in column "shipped") or "na" (1 cell, first in column "value") say that nothing is known?`, questions[0].Asks)
	require.Equal(t, []string{"NULL,9999-12-31 00:00:00,-,n/a,0,na", "none"}, questions[0].Answers)
	agreed := Reading{NotKnown: strings.Split("NULL,9999-12-31 00:00:00,-,n/a,na,none", ",")}
	rows, aside, table, err := readAs(text, agreed)
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A", "ordered": "2026-07-01", "currency": "EUR"},
		{"order": "C", "customer": "Clover", "ordered": "2026-07-03", "shipped": "2026-07-04", "value": "500", "currency": "EUR"}}, rows[0],
		"what was agreed holds in every column")
	require.Len(t, aside, 1, "a zero was not agreed on")
	assert.Equal(t, []any{"shipped", "0"}, []any{aside[0].Column, aside[0].Value})
	layout, ordinary := table.Layout()
	require.False(t, ordinary)
	require.NoError(t, layout.Check())
	again, _, _, err := readAs(text, Reading{Saved: []Layout{layout}})
	require.NoError(t, err, "a layout keeps what was agreed, and what was not")
	assert.Equal(t, rows, again)
	_, _, _, err = readAs(header+"A,NULL,2026-07-01,?,,,(null)\n", Reading{Saved: []Layout{layout}})
	require.ErrorAs(t, err, &questions)
	assert.Equal(t, []string{"-,9999-12-31 00:00:00,n/a,na,null,?,(null)", "none"}, questions[0].Answers, "only what is new is asked about")
	rows, _, _, err = readAs("customer,contact\nNULL,0\n", Reading{NotKnown: []string{NoMark}})
	require.NoError(t, err)
	assert.Equal(t, []read{{"customer": "NULL", "contact": "0"}}, rows[0])
	for _, cell := range []string{"0000-00-00", "01.01.1900", "1/1/1900", "1900-01-01T00:00:00Z", "1899-12-30", "31.12.9999",
		"12/31/9999", "1970-01-01", "00.00.0000", "0001-01-01 00:00:00.0000000", "#N/A", "—"} {
		_, _, _, err := readAs("order,ordered\nA,2026-07-01\nB,"+cell+"\n", Reading{})
		require.ErrorAs(t, err, &questions, cell)
		assert.Equal(t, []string{cell, "none"}, questions[0].Answers)
	}
	_, _, _, err = readAs("order,ordered\nA,1900-01-02\nB,1970-01-02\nC,1899-12-29\n", Reading{})
	require.NoError(t, err, "any other day is one")
}

// What other columns of the file tell is shown where one does not tell, and decides nothing.
func TestOtherColumnsAreEvidence(t *testing.T) {
	var questions Questions
	_, _, _, err := readAll("order,ordered,shipped,promised\nA,07/01/2026,07/14/2026,2026-07-20\n")
	require.ErrorAs(t, err, &questions)
	require.Len(t, questions, 1)
	assert.Equal(t, `07/01/2026 is 7 January 2026 or 1 July 2026, and no cell of the column tells which; of this file, column "shipped" is month-first`, questions[0].Asks)
}

// A column of facts some of whose days are still to come is asked about; what is said is remembered.
func TestFactsThatAreStillToCome(t *testing.T) {
	today, err := day.Parse("2026-07-10")
	require.NoError(t, err)
	const header = "Order No,Gate,Ship Date,Left\n"
	text := header + "A,11.07.2026,11.07.2026,10.07.2026\nB,13.07.2026,13.07.2026,30.06.2026\n"
	var questions Questions
	_, _, _, err = readAs(text, Reading{Today: today})
	require.ErrorAs(t, err, &questions)
	require.Len(t, questions, 2, "the last day of Left is today")
	assert.Equal(t, Question{"plan", "", "Gate", "its last day, 2026-07-13, is still to come, and facts are of the past",
		[]string{"plan", "fact"}}, *questions[0])
	assert.Equal(t, []any{"map", "Ship Date", []string{"shipped", "promised", "expected", "left-out"}},
		[]any{questions[1].Word, questions[1].Column, questions[1].Answers})
	for _, said := range []Reading{{Plans: []string{"gate"}}, {Facts: []string{"GATE"}}} {
		said.Today, said.Meanings = today, map[string]string{"Ship Date": "promised"}
		rows, _, table, err := readAs(text, said)
		require.NoError(t, err)
		assert.Equal(t, len(said.Plans) == 1, table.Parts()[0].Extras[0].Plan)
		assert.Equal(t, "2026-07-13", rows[0][1]["promised"])
		layout, _ := table.Layout()
		_, _, again, err := readAs(text, Reading{Today: today, Saved: []Layout{layout}})
		require.NoError(t, err, "it is asked once")
		assert.Equal(t, len(said.Plans) == 1, again.Parts()[0].Extras[0].Plan)
	}
	_, _, _, err = readAs("order,Req. Gate,promised,shipped\nA,2026-07-11,2026-07-11,2026-07-11\n", Reading{Today: today})
	require.NoError(t, err, "plans may be still to come, and a column of our own name is what it says")
}

// One row for each line, with or without numbers of the lines, or for each order: said in words, and asked where nothing tells.
func TestWhatARowIs(t *testing.T) {
	const header = "Order No,Customer,SKU,Qty,Amount,Ship Date,Slot,Colour\n"
	text := header + "A,Clover,HIVE,2,20.00,2026-07-05,1,red\nA,Clover,VEIL,1,7.50,2026-07-09,2,red\nB,Sage,HIVE,1,10.00,2026-07-06,1,blue\nA,Clover,SMOKER,1,30.00,,2,red\n"
	rows, aside, table, err := readAll(text)
	require.NoError(t, err)
	assert.Empty(t, aside)
	assert.Equal(t, "4 rows = 2 orders with 4 lines, which their products tell apart", table.Grain())
	assert.Equal(t, []*record.Kind{record.Lines, record.Orders}, []*record.Kind{table.Parts()[0].Kind, table.Parts()[1].Kind})
	assert.Equal(t, read{"order": "A", "line": "VEIL", "product": "VEIL", "units": "1000", "line-value": "75000",
		"line-shipped": "2026-07-09", "slot": "2"}, rows[0][1])
	assert.Equal(t, []read{{"order": "A", "customer": "Clover", "colour": "red"}, {"order": "B", "customer": "Sage", "colour": "blue"}},
		rows[1])
	layout, ordinary := table.Layout()
	require.False(t, ordinary)
	require.NoError(t, layout.Check())
	// Next month's file has one line to each order, and is read in the same way.
	rows, _, table, err = readAs(header+"C,Sage,HIVE,1,10.00,2026-08-06,1,blue\n", Reading{Saved: []Layout{layout}})
	require.NoError(t, err)
	assert.Equal(t, "1 row = 1 order with 1 line, which their products tell apart", table.Grain())
	assert.Equal(t, read{"order": "C", "line": "HIVE", "product": "HIVE", "units": "1000", "line-value": "100000",
		"line-shipped": "2026-08-06", "slot": "1"}, rows[0][0])
	assert.Equal(t, []read{{"order": "C", "customer": "Sage", "colour": "blue"}}, rows[1])

	// A product twice in an order: the lines are numbered as they come, and what is set aside keeps its number.
	rows, aside, table, err = readAll(text + "A,Clover,HIVE,2,20.00,2026-07-05,1,red\nB,Sage,HIVE,x,1.00,,,\nB,Moor,HIVE,1,1.00,,,\n")
	require.NoError(t, err)
	assert.Equal(t, "5 rows = 2 orders with 5 lines, numbered as they come", table.Grain())
	assert.Equal(t, []string{"1", "2", "1", "3", "4"}, []string{rows[0][0]["line"], rows[0][1]["line"], rows[0][2]["line"],
		rows[0][3]["line"], rows[0][4]["line"]})
	require.Len(t, aside, 2, "a line of another customer is none of the order's")
	assert.Equal(t, "B,Sage,HIVE,x,1.00,,,,2", aside[0].Raw)
	assert.Equal(t, "line", table.Header()[len(table.Header())-1])

	// An amount that is the same in all rows of an order is that of the order; plans that differ are the lines' own.
	rows, _, _, err = readAll("order,value,currency,product,promised\nA,30.00,EUR,HIVE,2026-07-01\nA,30.00,EUR,VEIL,2026-07-02\n")
	require.NoError(t, err)
	assert.Equal(t, [][]read{{{"order": "A", "line": "HIVE", "product": "HIVE", "line-promised": "2026-07-01"},
		{"order": "A", "line": "VEIL", "product": "VEIL", "line-promised": "2026-07-02"}},
		{{"order": "A", "value": "3000", "currency": "EUR"}}}, rows)

	rows, _, _, err = readAs("order,Delivery Date,product,Menge\nA,2026-07-01,HIVE,1\nA,2026-07-02,VEIL,1\n",
		Reading{Meanings: map[string]string{"Delivery Date": "promised", "Menge": "parcels"}})
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A", "line": "HIVE", "product": "HIVE", "line-promised": "2026-07-01"},
		{"order": "A", "line": "VEIL", "product": "VEIL", "line-promised": "2026-07-02"}}, rows[0],
		"what was said holds on the lines as well")
	assert.Equal(t, []read{{"order": "A", "parcels": "1"}}, rows[1])

	// Where no column is of lines alone, it is asked, if repeated numbers are no slips.
	const bare = "order,customer,slot\nA,Clover,1\nA,Clover,2\nB,Sage,1\n"
	var questions Questions
	_, _, _, err = readAll(bare)
	require.ErrorAs(t, err, &questions)
	assert.Equal(t, Question{"rows", "", "", "3 rows have 2 order numbers; is a row an order, or a line of one?",
		[]string{"lines", "orders"}}, *questions[0])
	rows, _, _, err = readAs(bare, Reading{Rows: RowsAreLines})
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A", "line": "1", "slot": "1"}, {"order": "A", "line": "2", "slot": "2"},
		{"order": "B", "line": "1", "slot": "1"}}, rows[0])
	_, aside, table, err = readAs(bare, Reading{Rows: RowsAreOrders})
	require.NoError(t, err)
	assert.Len(t, aside, 1)
	layout, _ = table.Layout()
	_, _, _, err = readAs(bare, Reading{Saved: []Layout{layout}})
	require.NoError(t, err, "it is asked once")
	few := "order,slot\n"
	for i := range 9 {
		few += fmt.Sprintf("%d,1\n", i)
	}
	_, aside, _, err = readAll(few + "9,2\n8,2\n")
	require.NoError(t, err, "1 in 11 is a slip")
	assert.Len(t, aside, 1)
	_, _, _, err = readAll(few + "8,2\n")
	require.ErrorAs(t, err, &questions, "1 in 10 is asked about")
	rows, _, table, err = readAll("order,product\nA,HIVE\nB,VEIL\n")
	require.NoError(t, err)
	assert.Equal(t, []any{record.Orders, ""}, []any{table.Parts()[0].Kind, table.Grain()},
		"one product to an order is a field of the order")
	assert.Equal(t, read{"order": "A", "product": "HIVE"}, rows[0][0])
}

func kindsOf(t *TableReader) (kinds []*record.Kind) {
	for _, part := range t.Parts() {
		kinds = append(kinds, part.Kind)
	}
	return kinds
}

// Rows with the keys of several kinds of records are asked about, and what was said is remembered.
func TestRowsThatCanBeOfSeveralKinds(t *testing.T) {
	const text = "Order No,Pos,Status,Changed At\nA,1,packed,2026-07-01\nA,2,packed,2026-07-02\n"
	var questions Questions
	_, _, _, err := readAll(text)
	require.ErrorAs(t, err, &questions)
	assert.Equal(t, Question{Word: "rows", Asks: "the rows have the keys of several kinds of records; is a row a status record or an order line?", Answers: []string{"status-records", "order-lines"}}, *questions[0])
	for _, kind := range []*record.Kind{record.Statuses, record.Lines} {
		_, _, table, err := readAs(text, Reading{Rows: kind.Name})
		require.NoError(t, err)
		assert.Equal(t, kind, table.Parts()[0].Kind)
		layout, _ := table.Layout()
		require.NoError(t, layout.Check())
		_, _, table, err = readAs(text, Reading{Saved: []Layout{layout}})
		require.NoError(t, err)
		assert.Equal(t, kind, table.Parts()[0].Kind)
	}
	_, _, table, err := readAll("order,shipment,line,shipped\nA,1,1,2026-07-01\n")
	require.NoError(t, err)
	assert.Equal(t, []*record.Kind{record.Shipments}, kindsOf(table), "a shipment of a line has the keys of both")
}

func FuzzHolidays(f *testing.F) {
	f.Add("date;name\n04.05.2026;May Day\n")
	f.Add("country,date,name,type\nIE,2026-05-04,May Day,Observance\n")
	f.Fuzz(func(t *testing.T, text string) {
		table, err := tableOf(text)
		if err != nil {
			return
		}
		days, _, err := ReadHolidays(t.Context(), "file.csv", table, Reading{})
		for _, d := range days {
			if err == nil {
				require.True(t, d.Day.Known())
			}
		}
	})
}

// A list of all orders of every day brings a status record for each row, and of each order what its latest row says.
func TestAListOfEveryDay(t *testing.T) {
	const text = "Snapshot Date;Order #;Status;Customer;Shipped On\n01/07/2026;A;picking;Clover;\n14/07/2026;A;shipped;Clover;13/07/2026\n02/07/2026;A;packed;Clover;\n01/07/2026;B;picking;Sage;\n"
	rows, aside, table, err := readAll(text)
	require.NoError(t, err)
	assert.Empty(t, aside)
	assert.Equal(t, "4 rows = 4 status records and what the latest of them says of 2 orders", table.Grain())
	assert.Equal(t, read{"order": "A", "status": "shipped", "at": "2026-07-14", "source": "daily"}, rows[0][1])
	assert.Equal(t, []read{{"order": "A", "customer": "Clover", "shipped": "2026-07-13"}, {"order": "B", "customer": "Sage"}}, rows[1])
	rows, _, table, err = readAll("Order #,Event,Event Time,Tracking Number\nA,packed,2026-07-01T10:00:00Z,T1\nA,sent,2026-07-02T10:00:00Z,T1\n")
	require.NoError(t, err)
	assert.Equal(t, []any{record.Statuses, read{"order": "A", "status": "packed", "at": "2026-07-01T10:00:00Z"}},
		[]any{table.Parts()[0].Kind, rows[0][0]}, "a log of events is none")
	_, _, table, err = readAll("Order #,Order Date,Ship Date,Tracking Number\nA,2026-07-01,2026-07-02,T1\nB,2026-07-01,,\n")
	require.NoError(t, err)
	assert.Equal(t, []*record.Kind{record.Orders}, kindsOf(table), "orders have a tracking number each, or none as yet")
	_, _, table, err = readAll("Order #,Dispatched,Tracking Number\nA,2026-07-01,T1\nA,2026-07-02,T2\n")
	require.NoError(t, err)
	assert.Equal(t, []*record.Kind{record.Shipments}, kindsOf(table))
}

// The day on which a row was made is the order date of an order alone; of anything else it is asked.
func TestTheDayOnWhichARowWasMade(t *testing.T) {
	for _, tt := range []struct {
		header  string
		answers []string
	}{
		{"Order ID,Created At,Status,Total", nil},
		{"Order ID,SKU,Qty,created_at", nil},
		{"Order ID,Created At,Status", []string{"at", "ordered", "left-out"}},
		{"Order ID,Payment ID,Created,Amount", []string{"paid", "ordered", "left-out"}},
		{"Order ID,Payment ID,Created,Payment Date", []string{"ordered", "left-out"}},
		{"Order ID,Parcel No,Created On,Carrier", []string{"shipped", "ordered", "left-out"}},
		{"Order ID,Status,Changed At,Created At", []string{"ordered", "left-out"}},
		{"Order ID,Payment ID,Date,Amount", nil},
		{"Order ID,Created At,Customer,Tracking Number", nil},
	} {
		_, _, table, err := readAll(tt.header + "\nA,1,2,3\n")
		var questions Questions
		if tt.answers == nil {
			require.NoError(t, err, tt.header)
			means := ""
			for _, c := range table.Columns() {
				means += " " + c.Means
			}
			assert.Contains(t, []string{" order ordered status value", " order sku qty ordered", " order receipt paid amount",
				" order ordered customer tracking-number"}, means, tt.header)
			continue
		}
		require.ErrorAs(t, err, &questions, tt.header)
		require.Len(t, questions, 1, tt.header)
		assert.Equal(t, tt.answers, questions[0].Answers, tt.header)
	}
	rows, _, _, err := readAs("Order ID,Payment ID,Created,Amount\nA,1,2026-07-01,3\n",
		Reading{Meanings: map[string]string{"Created": "paid"}})
	require.NoError(t, err)
	assert.Equal(t, read{"order": "A", "receipt": "1", "paid": "2026-07-01", "amount": "30000"}, rows[0][0])
}

// Where the rows look like orders and no heading says which column numbers them, the one that can is taken, and else it is asked.
func TestTheColumnOfOrderNumbersIsFoundOrAsked(t *testing.T) {
	rows, _, table, err := readAll("id,created_at,shippedAt\n7,2026-07-01,2026-07-02\n")
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "7", "ordered": "2026-07-01", "shipped": "2026-07-02"}}, rows[0])
	assert.Equal(t, "the rows look like orders, and nothing else numbers them", table.Columns()[0].Why)
	var questions Questions
	_, _, _, err = readAll("id,ref,ship date,customer,note\n7,8,2026-07-02,Clover,red\n")
	require.ErrorAs(t, err, &questions)
	assert.Equal(t, Question{Word: "map", Asks: "the rows look like orders; which column has their numbers?",
		Answers: []string{"id=order", "ref=order", "note=order"}}, *questions[0])
	_, _, table, err = readAll("id,customer\n7,Clover\n")
	require.NoError(t, err)
	assert.Equal(t, []*record.Kind{record.Customers}, kindsOf(table), "a list of customers has numbers too")
	_, _, _, err = readAll("customer,ordered\nClover,2026-07-02\n")
	require.ErrorContains(t, err, "no column has their numbers", "no column is left")
}

// What stands beside a number gives its currency; a sign that several have is asked about, and one that contradicts the row is a fault.
func TestCurrenciesBesideNumbers(t *testing.T) {
	rows, _, _, err := readAll("order,value\nA,€ 1.50\nB,£2\nC,3 CHF\nD,4\nE,JPY 500\n")
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A", "value": "150", "currency": "EUR"}, {"order": "B", "value": "200", "currency": "GBP"},
		{"order": "C", "value": "300", "currency": "CHF"},
		{"order": "D", "value": "400"}, {"order": "E", "value": "500", "currency": "JPY"}}, rows[0])
	rows, aside, _, err := readAll("order,value,currency\nA,€1,GBP\nB,$2,CAD\nC,$3,\nD,€4,\n")
	require.NoError(t, err, "a column of currencies tells")
	assert.Equal(t, []read{{"order": "B", "value": "200", "currency": "CAD"}, {"order": "C", "value": "300"},
		{"order": "D", "value": "400"}}, rows[0])
	require.Len(t, aside, 1)
	assert.Equal(t, []any{"value", "€1", "its currency is EUR, and that of the order is GBP"},
		[]any{aside[0].Column, aside[0].Value, aside[0].Reason})
	const dollars = "Order,Item,Amount\nA,HIVE,$5\nA,VEIL,$6\n"
	var questions Questions
	_, _, _, err = readAll(dollars)
	require.ErrorAs(t, err, &questions)
	assert.Equal(t, []any{"currency", `which currency is "$", which stands in 2 cells?`}, []any{questions[0].Word, questions[0].Asks})
	rows, _, table, err := readAs(dollars, Reading{Currency: "cad"})
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A", "currency": "CAD"}}, rows[1], "lines are in the currency of their order")
	layout, _ := table.Layout()
	require.NoError(t, layout.Check())
	rows, _, _, err = readAs(dollars, Reading{Saved: []Layout{layout}})
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A", "currency": "CAD"}}, rows[1])
	rows, _, _, err = readAs("order,receipt,amount\nA,1,$5\n", Reading{Currency: NoCurrency})
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A", "receipt": "1", "amount": "50000"}}, rows[0])
	_, _, _, err = readAs(dollars, Reading{Currency: "dollars"})
	require.ErrorContains(t, err, "the currency DOLLARS is not a currency")
	_, _, _, err = readAs("order,value\nA,$5\nB,¥6\n", Reading{Currency: "USD"})
	require.ErrorAs(t, err, &questions, "one answer cannot hold for two signs")
	rows, _, _, err = readAs("order,value\nA,$5\nB,€6\nC,7\n", Reading{Currency: "USD"})
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A", "value": "500", "currency": "USD"}, {"order": "B", "value": "600", "currency": "EUR"},
		{"order": "C", "value": "700"}}, rows[0], "among several currencies a number alone is of none")
	_, aside, _, err = readAs("order,line,line-value,value\nA,1,€5,£5\n", Reading{})
	require.NoError(t, err)
	assert.Len(t, aside, 1, "a row in two currencies")
}

// Keys are texts: what makes two of them look equal or lose their digits is mended, refused or named, never joined in silence.
func TestKeysAreTexts(t *testing.T) {
	rows, aside, table, err := readAs("order,customer,colour\n007,Clo\u200bver,\u00a0red\u00a0bee\n\ufeff7\u00ad,Clover,\n1.02E+05,C,\n1E5,C,\nSo-1,C,\nsO-1,D,\nSO-1,C,\nSO-1,E,\nSo-1,F,\n", Reading{Rows: RowsAreOrders})
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "007", "customer": "Clover", "colour": "red bee"}, {"order": "7", "customer": "Clover"},
		{"order": "1E5", "customer": "C"},
		{"order": "So-1", "customer": "C"}, {"order": "sO-1", "customer": "D"}, {"order": "SO-1", "customer": "C"}}, rows[0])
	require.Len(t, aside, 3)
	assert.Equal(t, []any{4, "order", "1.02E+05", "a number of which a spreadsheet has lost digits; want it as text, with all of them"},
		[]any{aside[0].Row, aside[0].Column, aside[0].Value, aside[0].Reason})
	assert.Contains(t, aside[1].Reason, "already stands in row 8")
	assert.Contains(t, aside[2].Reason, "already stands in row 6")
	assert.Equal(t, []string{`characters that nobody sees were left out of 3 cells, the first "Clover"`,
		`3 orders differ from another by the case of letters alone, such as "sO-1" of row 7 from that of row 6; they are kept apart`},
		table.Notes())
}

// A row that lacks cells at its end has empty ones there; pieces of a row that a line end cut are none.
func TestRowsThatLackCells(t *testing.T) {
	rows, aside, _, err := readAll("order,customer,ordered,note,site\nA,Clover\nF,Hive,2026-07-02,,\nB,Sage,2026-07-01,a note\nwith a line end,Galway\nC,Hive,2026-07-02\nG,Hive,2026-07-02,,\nH,Hive\nI,Sage,2026-07-01,a note\nwith a line end,Galway\nD,Hive,2026-07-03,x,Galway,,\nfoot\nE,Hive,2026-07-04,,\n")
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A", "customer": "Clover"}, {"order": "F", "customer": "Hive", "ordered": "2026-07-02"},
		{"order": "C", "customer": "Hive", "ordered": "2026-07-02"},
		{"order": "G", "customer": "Hive", "ordered": "2026-07-02"}, {"order": "D", "customer": "Hive", "ordered": "2026-07-03",
			"note": "x", "site": "Galway"}, {"order": "E", "customer": "Hive", "ordered": "2026-07-04"}}, rows[0])
	require.Len(t, aside, 6, "of short rows that stand together nobody can tell which make one")
	for i, want := range []string{"has 4 cells, and is a whole one of 5 with the short one beside it",
		"has 2 cells, and is a whole one of 5", "has 2 cells, and is a whole one", "has 4 cells", "has 2 cells", "has 1 cell; want 5"} {
		assert.Contains(t, aside[i].Reason, want)
	}
}

// What a file was found to be is said where that had to be told, and so is what nobody sees of a workbook.
func TestWhatIsSaidOfAFile(t *testing.T) {
	_, _, table, err := readAll("order;ordered\nA;2026-07-01\n")
	require.NoError(t, err)
	assert.Equal(t, []string{"read as CSV with semicolons"}, table.Notes())
	book := excelize.NewFile()
	for i, row := range [][]any{{"order", "ordered", "note"}, {"A", "2026-07-01", "x"}, {"B", "2026-07-02", "y"}} {
		require.NoError(t, book.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &row))
	}
	require.NoError(t, book.SetRowVisible("Sheet1", 3, false))
	require.NoError(t, book.SetColVisible("Sheet1", "B:C", false))
	var content bytes.Buffer
	require.NoError(t, book.Write(&content))
	rows, _, table, err := readAll(content.String())
	require.NoError(t, err)
	assert.Len(t, rows[0], 2)
	assert.Equal(t, []string{"1 row is hidden in the workbook, and is read like all others",
		`hidden in the workbook, and read like all others: "ordered", "note"`}, table.Notes())
}

// Looking at a file ends when nobody waits for it any longer.
func TestLookingEndsWithItsRequest(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, _, _, err := readAs("order,ordered\nA,2026-07-01\n", Reading{Ended: ctx.Err})
	require.ErrorIs(t, err, context.Canceled)
}

// Two columns of one heading stay two.
func TestHeadingsThatStandTwice(t *testing.T) {
	rows, _, table, err := readAll("order,Qty,qty,Qty 2\nA,1,2,3\norder,Qty,qty,Qty 2\n")
	require.NoError(t, err)
	assert.Equal(t, []string{"order", "Qty", "qty 3", "Qty 2"}, table.Header())
	assert.Equal(t, []read{{"order": "A", "qty": "1", "qty-3": "2", "qty-2": "3"}}, rows[0])
	rows, _, _, err = readAs("order,Ship Date,Ship Date\nA,2026-07-01,2026-07-02\n",
		Reading{Meanings: map[string]string{"Ship Date": "left-out", "Ship Date 2": "shipped"}})
	require.NoError(t, err)
	assert.Equal(t, []read{{"order": "A", "shipped": "2026-07-02"}}, rows[0])
	var questions Questions
	_, _, _, err = readAll("order,Ship Date,Ship Date\nA,2026-07-01,2026-07-02\n")
	require.ErrorAs(t, err, &questions)
	assert.Equal(t, []any{"Ship Date 2", []string{"left-out", "ship-date-2"}}, []any{questions[0].Column, questions[0].Answers})
}

// Whatever comes in: no panic, every row brings a record, is set aside or repeats one, and a set-aside row is the
// text that stood in the file.
func FuzzTable(f *testing.F) {
	f.Add("number,ordered\nA,2026-07-06\n")
	f.Add("number,value,currency\nA,1.5,EUR\nA,1.5,EUR\nB,\"1\"\"\n5\",EUR\n")
	f.Add("\uFEFFnumber\r\n\r\nA\r\n\"")
	f.Add("number,customer\n1,\"x\ny\"\n2,a\"b\n3,c\n")
	f.Add("order,line,ordered,colour,picked\nA,1,2026-07-06,x,2026-07-06\nA,2,2026-07-06,,soon\n")
	f.Add("order,status,at,source\nA,packed,2026-07-06,daily\n")
	f.Fuzz(func(t *testing.T, text string) {
		rows, aside, table, err := readAll(text)
		if err != nil {
			var refused *FileError
			require.ErrorAs(t, err, &refused)
			return
		}
		seen, most := map[string]bool{}, 0
		for p, part := range rows {
			for _, row := range part {
				key := fmt.Sprint(p)
				for _, c := range table.Parts()[p].Kind.Columns[:table.Parts()[p].Kind.Keys] {
					key += "\x1f" + row[c.Name]
				}
				require.False(t, seen[key], "%q came twice", key)
				seen[key] = true
			}
			most = max(most, len(part))
		}
		clean := strings.ReplaceAll(strings.ToValidUTF8(text, "\uFFFD"), "\x00", "\uFFFD")
		if form, err := tableOf(text); err != nil || form.Form != "CSV" {
			return // others are written out as CSV, and their records need no lines
		}
		for _, row := range aside {
			require.Contains(t, clean, row.Raw)
			require.NotEmpty(t, row.Reason)
			require.Greater(t, row.Row, 1)
		}
		lines := strings.Count(text, "\n") + strings.Count(text, "\r") + 1
		require.LessOrEqual(t, most+len(aside)+table.Repeated(), lines, fmt.Sprintf("%q", text))
	})
}

// Rows that are no records are left out, counted and listed, whatever stands before the header and below the rows.
func TestRowsThatAreNoRecordsAreSkipped(t *testing.T) {
	text := "Orders of July\n\n\"Printed, on 3 August\";by Oona\nOrder No.;Customer;Order Date;Value;Currency\nA1;Hive;2026-07-01;3;EUR\n;;;;\n" +
		"Order No.;Customer;Order Date;Value;Currency\nA2;Total;2026-07-02;4;EUR\nTotal:;;;7;\n;Grand total;;7;\n;;;7;\n;Hive;2026-07-03;1;EUR\n2 rows;;;;\n-----\n# made by hand\n"
	rows, aside, table, err := readAll(text)
	require.NoError(t, err)
	require.Equal(t, []string{"A1", "A2"}, []string{rows[0][0]["order"], rows[0][1]["order"]})
	skipped, all := table.Skipped()
	whys := map[string][]int{}
	for _, s := range skipped {
		whys[s.Why] = append(whys[s.Why], s.Row)
	}
	require.Equal(t, map[string][]int{whyTitle: {1, 3}, whyBlank: {6}, whyAgain: {7}, whyTotals: {9, 10, 11}, whyNote: {13, 14, 15}}, whys)
	require.EqualValues(t, 10, all)
	require.Len(t, aside, 1, "an order without its number is no sum")
	require.Equal(t, 12, aside[0].Row)
	require.EqualValues(t, 3, table.Columns()[0].Rows)
	// Keys alone are records where they look like keys, and a row as wide as the header is no title.
	rows, _, table, err = readAll("order,customer,site\nA1,,\nTotal-1,,\n")
	require.NoError(t, err)
	require.Len(t, rows[0], 2)
	_, all = table.Skipped()
	require.Zero(t, all)
	rows, _, table, err = readAll("order,customer,site\n#1001,,\nSO 17,,\nPage 7,,\n1001,,\n")
	require.NoError(t, err)
	require.Len(t, rows[0], 3)
	_, all = table.Skipped()
	require.EqualValues(t, 1, all)
	rows, _, _, err = readAll("status,step,final\nReady to ship,,\nTotal,,\n# 1,,\n")
	require.NoError(t, err)
	require.Len(t, rows[0], 3, "lists hold whatever texts")
	_, _, _, err = readAll("colour,hex\nstatus,order\n")
	require.ErrorContains(t, err, "cannot tell what the rows are")
	// Very many of them are counted, and only the first listed.
	_, _, table, err = readAll("order,customer\n" + strings.Repeat(",\n", 300000) + "A,x\n")
	require.NoError(t, err)
	skipped, all = table.Skipped()
	require.Len(t, skipped, maxSkipped)
	require.EqualValues(t, 300000, all)
}

// A layout says for the next file of its headings what the first one had to be told, and nothing against what a file says itself.
func TestALayoutIsFoundAgainByItsHeadings(t *testing.T) {
	const header, row = "Auftrag,Kunde,Bestelldatum,Lieferdatum,Betrag,Slot,Note\n", "A,Hive,04/07/2026,05/07/2026,\"1.234\",2026-07-06,x\n"
	day, comma := recognise.DayFirst, recognise.Comma
	first := Reading{Dates: &day, Decimals: &comma, Meanings: map[string]string{"Lieferdatum": "promised", "Note": "left-out"},
		Plans: []string{"Slot"}}
	want, _, table, err := readAs(header+row, first)
	require.NoError(t, err)
	layout, ordinary := table.Layout()
	require.False(t, ordinary)
	require.Equal(t, "file", layout.Name)
	require.NoError(t, layout.Check())
	saved := []Layout{{Name: "other", Columns: []LayoutColumn{{Heading: "Auftrag"}}}, layout}
	shuffled := "slot;note;AUFTRAG;Kunde;Bestelldatum;Liefer-Datum:;Betrag\n2026-07-06;x;A;Hive;04/07/2026;05/07/2026;1.234\n"
	for _, text := range []string{header + row, strings.Replace(shuffled, "Liefer-Datum:", "lieferdatum:", 1)} {
		rows, _, table, err := readAs(text, Reading{Saved: saved})
		require.NoError(t, err)
		require.Equal(t, want, rows)
		require.Equal(t, Remembered{Name: "file"}, table.Remembered())
		again, _ := table.Layout()
		require.Equal(t, layout.Headings(), again.Headings())
		require.True(t, table.Parts()[0].Extras[0].Plan)
	}
	_, _, table, err = readAs(header+"B,,,,,,\n", Reading{Saved: saved})
	require.NoError(t, err)
	again, _ := table.Layout()
	require.Equal(t, layout, again, "what a file does not show stays remembered")
	// What the file tells goes before what is remembered, and what is said now before both.
	rows, _, _, err := readAs(header+strings.Replace(row, "04/07", "07/13", 1), Reading{Saved: saved})
	require.NoError(t, err)
	require.Equal(t, "2026-07-13", rows[0][0]["ordered"])
	month := recognise.MonthFirst
	rows, _, _, err = readAs(header+row, Reading{Saved: saved, Meanings: map[string]string{"Slot": "promised", "kunde": "left-out",
		"Lieferdatum": "requested"}, Dates: &month})
	require.NoError(t, err)
	require.Equal(t, read{"order": "A", "ordered": "2026-04-07", "requested": "2026-05-07", "promised": "2026-07-06", "value": "123400"},
		rows[0][0])
	// One heading more or one less: only the new is asked about.
	_, _, _, err = readAs("Datum,"+header+"2026-07-01,"+row, Reading{Saved: saved})
	var questions Questions
	require.ErrorAs(t, err, &questions)
	require.Len(t, questions, 1)
	require.Equal(t, "Datum", questions[0].Column)
	_, _, table, err = readAs(strings.Replace(header, ",Note", "", 1)+strings.Replace(row, ",x", "", 1), Reading{Saved: saved})
	require.NoError(t, err)
	require.Equal(t, Remembered{Name: "file", Missing: []string{"Note"}}, table.Remembered())
	// Two more are another kind of file, and so is one that is asked to be read by no layout.
	for text, reading := range map[string]Reading{"X,Y," + header + "1,2," + row: {Saved: saved},
		header + row: {Saved: saved, Layout: NoLayout}} {
		_, _, _, err = readAs(text, reading)
		require.ErrorAs(t, err, &questions, text)
		require.Equal(t, "Lieferdatum", questions[0].Column)
	}
	_, _, _, err = readAs(header+row, Reading{Saved: saved, Layout: "nobody"})
	require.ErrorContains(t, err, `there is no layout "nobody"`)
	_, ordinary = func() (Layout, bool) {
		_, _, table, err := readAll("order,ordered,Hive Colour\nA,2026-07-01,red\n")
		require.NoError(t, err)
		return table.Layout()
	}()
	require.True(t, ordinary, "there is nothing to remember of a file of ours")
	for _, wrong := range []Layout{{}, {Columns: []LayoutColumn{{Heading: "a", Means: "shipped"}, {Heading: "b", Means: "Shipped"}}},
		{Columns: []LayoutColumn{{Heading: "a", Dates: "any"}}}, {Columns: []LayoutColumn{{Heading: "a", Decimals: "any"}}}} {
		require.Error(t, wrong.Check())
	}
}
