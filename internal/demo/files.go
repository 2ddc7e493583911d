package demo

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/money"
)

// A Manifest says what stands in the files, so that tests can assert it.
type Manifest struct {
	Orders   int     `json:"orders"` // rows that can be used
	Seed     uint64  `json:"seed"`
	FirstDay day.Day `json:"first_day"`
	DataDate day.Day `json:"data_date"`
	// Files lists the files to load.
	Files []string `json:"files"`
	// Planted lists order numbers by the kind of oddity.
	Planted map[string][]string `json:"planted"`
	// SetAside lists the rows that cannot be used.
	SetAside []BadRow `json:"set_aside"`
	// OrderedToShipped counts the orders by what became of them between the two.
	OrderedToShipped map[string]int `json:"ordered_to_shipped"`
	// Rows counts the rows of the files of what belongs to orders.
	Rows map[string]int `json:"rows"`
}

// A BadRow is a row that was made unusable.
type BadRow struct {
	Row    int    `json:"row"`
	Column string `json:"column"`
	Value  string `json:"value"`
}

// OrdersFile and ManifestFile are the names under which Write writes.
const (
	OrdersFile   = "orders.csv"
	ManifestFile = "manifest.json"
)

// columns are those of the order file: the number, then fields and milestones as people would export them.
var columns = []string{"number", "customer", "site", "country", "place", "channel",
	milestone.Ordered, milestone.Requested, milestone.Promised, milestone.Shipped, milestone.Delivered, milestone.Invoiced,
	milestone.Cancelled, "value", "currency"}

// Write makes the files of a demo book in a folder: the orders, the calendars and the manifest.
func Write(folder string, o Options) (m Manifest, err error) {
	if o.Orders < 0 {
		return m, fmt.Errorf("%d orders cannot be made; want 0 or more", o.Orders)
	}
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return m, err
	}
	m = Manifest{Orders: o.Orders, Seed: o.Seed, FirstDay: FirstDay, DataDate: DataDate, Files: []string{OrdersFile},
		Planted: map[string][]string{}, SetAside: []BadRow{}, OrderedToShipped: map[string]int{}, Rows: map[string]int{}}
	for name, text := range Calendars() {
		if err := os.WriteFile(filepath.Join(folder, name), text, 0o644); err != nil {
			return m, err
		}
		m.Files = append(m.Files, name)
	}
	slices.Sort(m.Files[1:])
	belong, end := func(book.Order) error { return nil }, func() error { return nil }
	if !o.Bare {
		b, err := newBelongings(folder, o.Seed, &m)
		if err != nil {
			return m, err
		}
		belong, end = b.add, b.close
	}
	if err := errors.Join(m.writeOrders(filepath.Join(folder, OrdersFile), o, belong), end()); err != nil {
		return m, err
	}
	text, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return m, err
	}
	return m, os.WriteFile(filepath.Join(folder, ManifestFile), append(text, '\n'), 0o644)
}

func (m *Manifest) writeOrders(path string, o Options, belong func(book.Order) error) (err error) {
	file, err := os.Create(path)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, file.Close()) }()
	out := csv.NewWriter(file)
	row := 1
	write := func(cells []string) error { row++; return out.Write(cells) }
	if err := out.Write(columns); err != nil {
		return err
	}
	every := o.Orders / (len(badRows) + 1)
	made, bad := 0, 0
	for order, kind := range Orders(o) {
		cells := cellsOf(order)
		if err := write(cells); err != nil {
			return err
		}
		if kind != "" {
			m.Planted[kind] = append(m.Planted[kind], order.Number)
		}
		if err := belong(order); err != nil {
			return err
		}
		m.OrderedToShipped[becameOf(order)]++
		made++
		if every > 0 && bad < len(badRows) && made%every == 0 {
			broken, column := brokenRow(cells, bad)
			if err := write(broken); err != nil {
				return err
			}
			m.SetAside = append(m.SetAside, BadRow{row, column, badRows[bad].cell})
			bad++
		}
	}
	out.Flush()
	return out.Error()
}

// brokenRow is a copy of a row with one cell that cannot be used, or with a cell too many.
func brokenRow(cells []string, n int) (broken []string, column string) {
	broken = slices.Clone(cells)
	broken[0] = fmt.Sprintf("SD-X%d", n+1)
	column = badRows[n].column
	if column == "" {
		return append(broken, "x"), column
	}
	broken[slices.Index(columns, column)] = badRows[n].cell
	return broken, column
}

func cellsOf(o book.Order) []string {
	cells := make([]string, len(columns))
	for i, name := range columns {
		if field := slices.Index(book.FieldNames(), name); field >= 0 {
			cells[i] = o.Fields[field]
		} else if m := milestone.Index(milestone.BuiltIn(), name); m >= 0 {
			cells[i] = o.Days[m].String()
			if cells[i] != "" {
				cells[i] += clockOf(o, name)
			}
		}
	}
	cells[0] = o.Number
	if o.Valued {
		cells[slices.Index(columns, "value")] = money.Format(o.Value, o.Fields[book.Currency])
	}
	return cells
}

// becameOf says what became of an order between its ordered and shipped days, by the days alone.
func becameOf(o book.Order) string {
	known := func(name string) day.Day {
		if d := o.Days[milestone.Index(milestone.BuiltIn(), name)]; d <= DataDate {
			return d
		}
		return 0
	}
	ordered, shipped, cancelled := known(milestone.Ordered), known(milestone.Shipped), known(milestone.Cancelled)
	switch {
	case ordered == 0 && o.Days[0] != 0:
		return "not yet begun"
	case ordered == 0:
		return "no ordered day"
	case shipped >= ordered:
		return "shipped"
	case shipped != 0:
		return "shipped before ordered"
	case cancelled == 0:
		return "still running"
	case cancelled < ordered:
		return "cancelled before ordered"
	}
	return "cancelled"
}
