package intake

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/book"
)

// readAll gives the orders, the set-aside rows and what ended the file.
func readAll(text string) (orders []book.Order, aside []SetAside, o *OrderReader, err error) {
	o, err = NewOrderReader("orders.csv", strings.NewReader(text))
	if err != nil {
		return nil, nil, nil, err
	}
	for {
		order, err := o.Next()
		var row SetAside
		switch {
		case errors.As(err, &row):
			aside = append(aside, row)
		case errors.Is(err, io.EOF):
			return orders, aside, o, nil
		case err != nil:
			return orders, aside, o, err
		default:
			orders = append(orders, order)
		}
	}
}

func TestOrdersAreReadCellByCell(t *testing.T) {
	orders, aside, o, err := readAll("\uFEFFNumber,Ordered, shipped ,Customer,Value,Currency,Colour\r\n" +
		"A-1, 2026-07-06 ,2026-07-08,\"Clover, Ltd\",1234.5,OMR,red\r\n" +
		"\r\n" +
		"A-2,2026-07-07,,\"two\nlines\",-3,,\r\n" +
		"A-1, 2026-07-06 ,2026-07-08,\"Clover, Ltd\",1234.5,OMR,red\r\n")
	require.NoError(t, err)
	assert.Empty(t, aside)
	assert.Equal(t, 1, o.Repeated(), "the same row again is no second order")
	require.Len(t, orders, 2)
	assert.Equal(t, "A-1", orders[0].Number)
	assert.Equal(t, "2026-07-06", orders[0].Days[0].String())
	assert.Equal(t, "2026-07-08", orders[0].Days[3].String())
	assert.Equal(t, "Clover, Ltd", orders[0].Fields[book.Customer])
	assert.Equal(t, int64(1234500), orders[0].Value, "the rial has three decimals")
	assert.Equal(t, int64(-300), orders[1].Value)
	assert.Zero(t, orders[1].Days[3])
	columns := o.Columns()
	assert.Equal(t, []string{"Colour"}, o.Unused())
	assert.True(t, columns.Value && columns.Milestones[3] && !columns.Milestones[5] && columns.Fields[book.Customer] && !columns.Fields[book.Site])
}

// Every bad row is kept whole, with its row, column, value and what was expected.
func TestRowsThatAreSetAside(t *testing.T) {
	const header = "number,ordered,customer,value,currency\n"
	for _, tt := range []struct{ name, row, column, value, want string }{
		{"no number", ",2026-07-06,C,1,EUR", "number", "", "has no number"},
		{"no such day", "N,2026-02-30,C,1,EUR", "ordered", "2026-02-30", "has no day 30"},
		{"another order of the day's parts", "N,06/07/2026,C,1,EUR", "ordered", "06/07/2026", "want YYYY-MM-DD"},
		{"a time of day", "N,2026-07-06T10:00:00Z,C,1,EUR", "ordered", "2026-07-06T10:00:00Z", "want YYYY-MM-DD"},
		{"outside the days", "N,2260-01-01,C,1,EUR", "ordered", "2260-01-01", "from 1900-01-01 to 2199-12-31"},
		{"no value", "N,2026-07-06,C,n/a,EUR", "value", "n/a", "want a decimal number"},
		{"a comma for the point", "N,2026-07-06,C,\"1,50\",EUR", "value", "1,50", "at most one point"},
		{"too many decimals", "N,2026-07-06,C,1.505,EUR", "value", "1.505", "more than the 2 decimals"},
		{"no decimals in yen", "N,2026-07-06,C,1.5,JPY", "value", "1.5", "more than the 0 decimals"},
		{"too large", "N,2026-07-06,C,99999999999999999999,EUR", "value", "99999999999999999999", "too large"},
		{"no currency", "N,2026-07-06,C,1,Euros", "currency", "Euros", "ISO 4217"},
		{"too few cells", "N,2026-07-06", "", "", "has 2 cells; want 5"},
		{"too long a cell", "N,2026-07-06," + strings.Repeat("x", 501) + ",1,EUR", "customer", strings.Repeat("x", 501), "at most 500"},
		{"a quote inside a cell", `N,2026-07-06,12" frame,1,EUR`, "", "", `bare "`},
		{"not UTF-8", "N,2026-07-06,Caf\xe9,1,EUR", "", "", "UTF-8"},
		{"the number again", "FIRST,2026-07-06,C,2,EUR", "number", "FIRST", "already stands in row 2"},
	} {
		orders, aside, _, err := readAll(header + "FIRST,2026-07-06,C,1,EUR\n" + tt.row + "\nLAST,2026-07-06,C,1,EUR\n")
		require.NoError(t, err, tt.name)
		require.Len(t, orders, 2, "%s: the other rows come in", tt.name)
		require.Len(t, aside, 1, tt.name)
		assert.Equal(t, 3, aside[0].Row, tt.name)
		assert.Equal(t, tt.column, aside[0].Column, tt.name)
		assert.Equal(t, tt.value, aside[0].Value, tt.name)
		assert.Contains(t, aside[0].Reason, tt.want, tt.name)
		assert.Equal(t, strings.ToValidUTF8(tt.row, "\uFFFD"), aside[0].Raw, tt.name)
	}
}

func TestFilesThatAreRefused(t *testing.T) {
	for _, tt := range []struct{ name, text, want string }{
		{"empty", "", "the file is empty"},
		{"no number column", "order,ordered\n1,2026-07-06\n", `no column "number"; it has "order", "ordered"`},
		{"a header in another encoding", "number,caf\xe9\n", "not UTF-8"},
		{"a column twice", "number,ordered,Ordered\n", `"Ordered" stands twice`},
		{"a quote that never ends", "number,customer\n1,\"" + strings.Repeat("x", 2*maxRow), "missing its end"},
	} {
		_, _, _, err := readAll(tt.text)
		var refused *FileError
		require.ErrorAs(t, err, &refused, tt.name)
		assert.ErrorContains(t, err, tt.want, tt.name)
		assert.ErrorContains(t, err, "orders.csv", tt.name)
	}
}

func TestSniffTellsKindsApart(t *testing.T) {
	for _, tt := range []struct{ text, kind, err string }{
		{"number,ordered\n", "orders", ""},
		{"\uFEFFnumber\n", "orders", ""},
		{"\r\nbegin:vcalendar\r\n", "calendar", ""},
		{" \n", "", "empty"},
		{"PK\x03\x04\x00\x00", "", "no text file"},
	} {
		kind, whole, err := Sniff("file", strings.NewReader(tt.text))
		if tt.err != "" {
			assert.ErrorContains(t, err, tt.err)
			continue
		}
		require.NoError(t, err)
		assert.Equal(t, Kind(tt.kind), kind)
		text, err := io.ReadAll(whole)
		require.NoError(t, err)
		assert.Equal(t, tt.text, string(text), "nothing of the file is lost")
	}
}

// Whatever comes in: no panic, every row is an order, a set-aside row or a repeat, and a set-aside row is
// the text that stood in the file.
func FuzzOrders(f *testing.F) {
	f.Add("number,ordered\nA,2026-07-06\n")
	f.Add("number,value,currency\nA,1.5,EUR\nA,1.5,EUR\nB,\"1\"\"\n5\",EUR\n")
	f.Add("\uFEFFnumber\r\n\r\nA\r\n\"")
	f.Add("number,customer\n1,\"x\ny\"\n2,a\"b\n3,c\n")
	f.Fuzz(func(t *testing.T, text string) {
		orders, aside, o, err := readAll(text)
		if err != nil {
			var refused *FileError
			require.ErrorAs(t, err, &refused)
			return
		}
		seen := map[string]bool{}
		for _, order := range orders {
			require.NotEmpty(t, order.Number)
			require.False(t, seen[order.Number], "order %q came twice", order.Number)
			seen[order.Number] = true
		}
		clean := strings.ReplaceAll(strings.ToValidUTF8(text, "\uFFFD"), "\x00", "\uFFFD")
		for _, row := range aside {
			require.Contains(t, clean, row.Raw)
			require.NotEmpty(t, row.Reason)
			require.Greater(t, row.Row, 1)
		}
		lines := strings.Count(text, "\n") + strings.Count(text, "\r") + 1
		require.LessOrEqual(t, len(orders)+len(aside)+o.Repeated(), lines, fmt.Sprintf("%q", text))
	})
}
