package demo

import (
	"encoding/csv"
	"encoding/json"
	"math/big"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/core/day"
)

func TestTheSameSeedWritesTheSameFiles(t *testing.T) {
	a, b, other := t.TempDir(), t.TempDir(), t.TempDir()
	for folder, seed := range map[string]uint64{a: 7, b: 7, other: 8} {
		_, err := Write(folder, Options{Orders: 500, Seed: seed})
		require.NoError(t, err)
	}
	read := func(folder string) string {
		text, err := os.ReadFile(filepath.Join(folder, OrdersFile))
		require.NoError(t, err)
		return string(text)
	}
	assert.Equal(t, read(a), read(b))
	assert.NotEqual(t, read(a), read(other))
}

// dayOf leaves out the time of day.
func dayOf(cell string) string {
	day, clock, timed := strings.Cut(cell, "T")
	if timed && len(day) == len("2026-07-06") && len(clock) == len("14:30") {
		return day
	}
	return cell
}

// The manifest is checked against the file by a plain reader that knows nothing of the maker.
func TestTheManifestSaysWhatStandsInTheFile(t *testing.T) {
	folder := t.TempDir()
	_, err := Write(folder, Options{Orders: 3000, Seed: 1})
	require.NoError(t, err)
	text, err := os.ReadFile(filepath.Join(folder, ManifestFile))
	require.NoError(t, err)
	var m Manifest
	require.NoError(t, json.Unmarshal(text, &m))
	file, err := os.Open(filepath.Join(folder, OrdersFile))
	require.NoError(t, err)
	defer file.Close()
	reader := csv.NewReader(file)
	reader.FieldsPerRecord = -1
	rows, err := reader.ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 1+m.Orders+len(m.SetAside))

	column := map[string]int{}
	for i, name := range rows[0] {
		column[name] = i
	}
	for _, bad := range m.SetAside {
		if bad.Column == "" {
			assert.Greater(t, len(rows[bad.Row-1]), len(rows[0]))
			continue
		}
		assert.Equal(t, bad.Value, rows[bad.Row-1][column[bad.Column]])
	}
	byNumber := map[string][]string{}
	for _, row := range rows[1:] {
		byNumber[row[0]] = row
	}
	cell := func(number, name string) string { return dayOf(byNumber[number][column[name]]) }
	for _, tt := range []struct {
		kind  string
		holds func(number string) bool
	}{
		{ShippedBeforeOrdered, func(n string) bool { s := cell(n, "shipped"); return s != "" && s < cell(n, "ordered") }},
		{NoOrderedDay, func(n string) bool { return cell(n, "ordered") == "" }},
		{OrderedAfterDataDate, func(n string) bool { return cell(n, "ordered") > m.DataDate.String() }},
		{ShippedAfterDataDate, func(n string) bool { return cell(n, "shipped") > m.DataDate.String() }},
		{CancelledBeforeOrdered, func(n string) bool { c := cell(n, "cancelled"); return c != "" && c < cell(n, "ordered") }},
		{CancelledBetween, func(n string) bool {
			c := cell(n, "cancelled")
			return cell(n, "ordered") < c && c < cell(n, "shipped")
		}},
		{SameDay, func(n string) bool { return cell(n, "shipped") == cell(n, "ordered") }},
		{NoSite, func(n string) bool { return cell(n, "site") == "" }},
		{NoValue, func(n string) bool { return cell(n, "value") == "" }},
		{NoCurrency, func(n string) bool { return cell(n, "currency") == "" && cell(n, "value") != "" }},
	} {
		require.NotEmpty(t, m.Planted[tt.kind], tt.kind)
		for _, number := range m.Planted[tt.kind] {
			assert.Truef(t, tt.holds(number), "%s: %s", tt.kind, number)
		}
	}
	sum := 0
	for _, n := range m.OrderedToShipped {
		sum += n
	}
	assert.Equal(t, m.Orders, sum)
}

// What belongs to the orders is checked against the manifest by the same kind of plain reader.
func TestTheManifestSaysWhatBelongsToOrders(t *testing.T) {
	folder := t.TempDir()
	m, err := Write(folder, Options{Orders: 6000, Seed: 1})
	require.NoError(t, err)
	table := func(name string) (rows []map[string]string) {
		file, err := os.Open(filepath.Join(folder, name))
		require.NoError(t, err)
		defer file.Close()
		reader := csv.NewReader(file)
		reader.FieldsPerRecord = -1
		records, err := reader.ReadAll()
		require.NoError(t, err)
		for _, record := range records[1:] {
			row := map[string]string{}
			for i, cell := range record[:min(len(record), len(records[0]))] {
				row[records[0][i]] = cell
				if column := records[0][i]; column == "ordered" || column == "shipped" {
					row[column] = dayOf(cell)
				}
			}
			rows = append(rows, row)
		}
		return rows
	}
	by := func(name, key string) map[string][]map[string]string {
		rows := table(name)
		require.Len(t, rows, m.Rows[name], name)
		all := map[string][]map[string]string{}
		for _, row := range rows {
			all[row[key]] = append(all[row[key]], row)
		}
		return all
	}
	orders, lines, shipments := map[string]map[string]string{}, by("lines.csv", "order"), by("shipments.csv", "order")
	for _, row := range table(OrdersFile) {
		orders[row["number"]] = row
	}
	payments, receipts, returns := by("payments.csv", "order"), by("payments.csv", "receipt"), by("returns.csv", "number")
	events, daily, customers, places := by("status-events.csv", "order"), by("status-daily.csv", "order"),
		by("customers.csv", "customer"), by("places.csv", "place")
	assert.Len(t, by("sites.csv", "site"), 4)
	products := by("products.csv", "product")

	latest := func(rows []map[string]string, column string) (last string) {
		for _, row := range rows {
			last = max(last, row[column])
		}
		return last
	}
	days := func(rows []map[string]string, column string) map[string]bool {
		all := map[string]bool{}
		for _, row := range rows {
			all[row[column]] = true
		}
		return all
	}
	// longTo counts the orders that were delivered to a place, and those of them that were on their way for more than a week.
	longTo := func(place string) (long, all int) {
		for _, o := range orders {
			shipped, err := day.Parse(o["shipped"])
			delivered, err2 := day.Parse(dayOf(o["delivered"]))
			if o["place"] != place || err != nil || err2 != nil {
				continue
			}
			if all++; delivered > shipped+7 {
				long++
			}
		}
		return long, all
	}
	twice := func(n string) bool { // a status that stands on two stretches
		last := map[string]int{}
		for i, e := range events[n] {
			if before, seen := last[e["status"]]; seen && before < i-1 {
				return true
			}
			last[e["status"]] = i
		}
		return false
	}
	now := func(events []map[string]string, at string) (status string) {
		for _, e := range events {
			if e["at"][:10] <= at {
				status = e["status"]
			}
		}
		return status
	}
	for _, tt := range []struct {
		kind  string
		holds func(n string) bool
	}{
		{ShippedInParts, func(n string) bool {
			return len(days(shipments[n], "shipped")) == 2 && latest(shipments[n], "shipped") == orders[n]["shipped"]
		}},
		{PartShipped, func(n string) bool {
			return orders[n]["shipped"] == "" && len(shipments[n]) == 1 || orders[n]["shipped"] > m.DataDate.String()
		}},
		{ShippedDiffers, func(n string) bool { return latest(shipments[n], "shipped") > orders[n]["shipped"] }},
		{WithoutLines, func(n string) bool { return len(lines[n]) == 0 }},
		{NotInvoiced, func(n string) bool { return orders[n]["delivered"] != "" && orders[n]["invoiced"] == "" }},
		{NotPaid, func(n string) bool { return orders[n]["delivered"] != "" && len(payments[n]) == 0 }},
		{PaidInParts, func(n string) bool { return len(payments[n]) > 0 && payments[n][0]["amount"] != orders[n]["value"] }},
		{PaidElsewhere, func(n string) bool { return payments[n][0]["currency"] == "USD" }},
		{ReceiptTwice, func(n string) bool { return len(receipts[payments[n][0]["receipt"]]) == 2 }},
		{Returned, func(n string) bool { return returns[n][0]["returned"] > orders[n]["delivered"] }},
		{StatusCameBack, twice},
		{StatusTie, func(n string) bool { return len(days(events[n], "at")) == len(events[n])-1 }},
		{StatusSpelled, func(n string) bool {
			return slices.ContainsFunc(events[n], func(e map[string]string) bool { return e["status"] == "On-Hold" })
		}},
		{StatusSilence, func(n string) bool {
			for i := range daily[n][1:] {
				before, _ := day.Parse(daily[n][i]["at"])
				if after, _ := day.Parse(daily[n][i+1]["at"]); after-before == 8 {
					return true
				}
			}
			return false
		}},
		{StatusEarly, func(n string) bool {
			return slices.ContainsFunc(daily[n], func(row map[string]string) bool { return row["status"] != now(events[n], row["at"]) })
		}},
		{CustomerWithout, func(name string) bool {
			for _, o := range orders {
				if o["customer"] == name {
					return false
				}
			}
			return len(customers[name]) == 1
		}},
		{FirstBookedAhead, func(n string) bool {
			for other, o := range orders {
				if o["customer"] == orders[n]["customer"] && o["ordered"] != "" && o["ordered"] < orders[n]["ordered"] && other != n {
					return false
				}
			}
			return orders[n]["requested"] > orders[n]["ordered"]
		}},
		{TwoOnOneDay, func(n string) bool {
			for other, o := range orders {
				if other != n && o["customer"] == orders[n]["customer"] && o["ordered"] == orders[n]["ordered"] {
					return true
				}
			}
			return false
		}},
		{PlaceWithout, func(p string) bool { return places[p][0]["latitude"] == "" }},
		{PlaceFew, func(p string) bool { _, all := longTo(p); return all > 0 && all < 10 }},
		{RouteSlow, func(p string) bool { long, all := longTo(p); return all > 0 && long == all }},
	} {
		require.NotEmpty(t, m.Planted[tt.kind], tt.kind)
		for _, what := range m.Planted[tt.kind] {
			assert.Truef(t, tt.holds(what), "%s: %s", tt.kind, what)
		}
	}
	assert.Len(t, receipts, m.Rows["payments.csv"]-len(m.Planted[ReceiptTwice]), "no other receipt stands twice")

	// Lines add up to their order's value, in its currency's decimals; what is sold is in the list.
	for n, rows := range lines {
		sum := new(big.Rat)
		for _, row := range rows {
			value, _ := new(big.Rat).SetString(row["line value"])
			if value != nil {
				sum.Add(sum, value)
			}
			require.Contains(t, products, row["product"])
		}
		if value, ok := new(big.Rat).SetString(orders[n]["value"]); ok {
			require.Zero(t, value.Cmp(sum), n)
		}
	}
	// Where both sources tell a day's end, they tell the same, but where they are planted to differ.
	for n, rows := range daily {
		if slices.Contains(m.Planted[StatusEarly], n) {
			continue
		}
		for _, row := range rows {
			require.Equal(t, now(events[n], row["at"]), row["status"], "%s on %s", n, row["at"])
		}
	}
}
