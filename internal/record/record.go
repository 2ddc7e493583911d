// Package record names what files bring and tables keep: the kinds of records, their columns and keys. intake
// reads records by it and store keeps them; neither knows the other.
package record

import (
	"slices"

	"prairiedusk/internal/core/milestone"
)

// A Type is what the cells of a column hold.
type Type uint8

const (
	Text      Type = iota
	Day            // a day.Day as written in Value.Number; with its time of day, if it has one, in Value.Text
	Money          // minor units of the currency in the same record
	Currency       // ISO 4217, in capitals
	Amount         // ten-thousandths of a unit of a currency that may stand elsewhere
	Units          // thousandths
	Whole          // a whole number, as text
	Degrees        // millionths of a degree
	Zone           // IANA time zone
	Clock          // time of day, HH:MM
	Telephone      // text, kept as written
	Moment         // a day or an instant as ISO 8601 text, which sorts by its day
	Source         // of status records: event or daily
	YesNo          // yes or no, as text
	Colour         // of the palette
)

// Colours are those of the palette that a status can have.
func Colours() []string {
	return []string{"teal", "plum", "amber", "clay", "sage", "slate", "rose", "sand"}
}

// A Column is one column of a kind.
type Column struct {
	Name string // in headers; with underscores for hyphens in tables
	Type Type
}

// A Kind is a kind of record. The first Keys columns tell records apart; the first Required of them no record can
// do without: a shipment of the whole order has no line, a status record may have no sequence, a place no region.
type Kind struct {
	Name     string // "orders"
	Noun     string // of one: "order"
	Columns  []Column
	Keys     int
	Required int
	Extras   bool // files may bring columns of their own
}

// OrderColumn is the column by which records refer to their order.
const OrderColumn = "order"

// KeySeparator joins the keys of a record to one text.
const KeySeparator = "\x1f"

// The kinds. Those that refer to an order may come before it.
var (
	Orders = &Kind{Name: "orders", Noun: "order", Keys: 1, Required: 1, Extras: true, Columns: orderColumns()}
	Lines  = &Kind{Name: "order-lines", Noun: "order line", Keys: 2, Required: 2, Extras: true, Columns: []Column{
		{OrderColumn, Text}, {"line", Text}, {"product", Text}, {"units", Units}, {"cancelled-units", Units},
		{"line-value", Amount}, {"line-shipped", Day}, {"line-delivered", Day}, {"line-cancelled", Day},
	}}
	Shipments = &Kind{Name: "shipments", Noun: "shipment", Keys: 3, Required: 2, Columns: []Column{
		{OrderColumn, Text}, {"shipment", Text}, {"line", Text}, {"shipped", Day}, {"delivered", Day}, {"carrier", Text}, {"units", Units},
	}}
	Payments = &Kind{Name: "payments", Noun: "payment", Keys: 2, Required: 2, Columns: []Column{
		{OrderColumn, Text}, {"receipt", Text}, {"paid", Day}, {"amount", Amount}, {"currency", Currency},
	}}
	Statuses = &Kind{Name: "status-records", Noun: "status record", Keys: 5, Required: 3, Columns: []Column{
		{OrderColumn, Text}, {"status", Text}, {"at", Moment}, {"sequence", Whole}, {"source", Source},
	}}
	StatusList = &Kind{Name: "statuses", Noun: "status", Keys: 1, Required: 1, Columns: []Column{
		{"status", Text}, {"step", Whole}, {"final", YesNo}, {"colour", Colour}, {"spelling-of", Text},
	}}
	Customers = &Kind{Name: "customers", Noun: "customer", Keys: 1, Required: 1, Columns: []Column{
		{"customer", Text}, {"contact", Text}, {"telephone", Telephone}, {"country", Text}, {"region", Text}, {"place", Text},
	}}
	Products = &Kind{Name: "products", Noun: "product", Keys: 1, Required: 1, Columns: []Column{
		{"product", Text}, {"product-name", Text}, {"category", Text},
	}}
	Sites = &Kind{Name: "sites", Noun: "site", Keys: 1, Required: 1, Columns: []Column{
		{"site", Text}, {"zone", Zone}, {"cut-off", Clock}, {"calendar", Text}, {"region", Text}, {"country", Text},
	}}
	Places = &Kind{Name: "places", Noun: "place", Keys: 3, Required: 1, Columns: []Column{
		{"place", Text}, {"country", Text}, {"region", Text}, {"latitude", Degrees}, {"longitude", Degrees},
	}}
)

// Kinds lists all kinds.
func Kinds() []*Kind {
	return []*Kind{Orders, Lines, Shipments, Payments, Statuses, StatusList, Customers, Products, Sites, Places}
}

func orderColumns() []Column {
	columns := []Column{{OrderColumn, Text}, {"customer", Text}, {"site", Text}, {"country", Text}, {"place", Text}, {"channel", Text},
		{"currency", Currency}, {"region", Text}}
	for _, m := range milestone.BuiltIn() {
		columns = append(columns, Column{m.Name, Day})
	}
	return append(columns, Column{"value", Money})
}

// Column is the index of a column by its name, or -1.
func (k *Kind) Column(name string) int {
	for i, c := range k.Columns {
		if c.Name == name {
			return i
		}
	}
	return -1
}

// HasDays says whether the kind has columns of days, which may come with a time of day.
func (k *Kind) HasDays() bool {
	return slices.ContainsFunc(k.Columns, func(c Column) bool { return c.Type == Day })
}

// OfOrder says whether the kind's records refer to an order, or are orders.
func (k *Kind) OfOrder() bool { return k.Columns[0].Name == OrderColumn }

// A Value is a cell. Texts lie in Text, everything else in Number, and a day with a time of day in both; a cell
// without a value is not Known.
type Value struct {
	Text   string
	Number int64
	Known  bool
}

// InText says whether values of a type lie in Text.
func (t Type) InText() bool {
	switch t {
	case Text, Currency, Zone, Clock, Telephone, Moment, Source, Whole, YesNo, Colour:
		return true
	}
	return false
}

// An Extra is a column of the user's own: a field, or a milestone.
type Extra struct {
	Name      string
	Known     bool // what it holds is known: it was filled somewhere
	Milestone bool
	Plan      bool // of a milestone
}

// A Part is what a file brings of one kind. What it does not bring, its load leaves as it is.
type Part struct {
	Kind   *Kind
	Given  []int    // the columns, the keys first
	Extras []*Extra // what they are is known when all rows are read
}

// A Row is one record of a part.
type Row struct {
	Values []Value  // by column of the kind
	Extra  []string // by extra column; empty is none
	Fresh  bool     // false: the same record stood in the file before
}
