// Package api is the wire: what the service answers and its clients read. Days are YYYY-MM-DD; a day that is
// not known is left out. The tags document the fields in the OpenAPI document.
package api

// BasePath is where the resources lie.
const BasePath = "/api/v1"

// Book describes the order book as a whole.
type Book struct {
	Version    int64       `json:"version" doc:"Grows with every load and every setting."`
	Orders     int         `json:"orders"`
	FirstDay   string      `json:"first_day" format:"date" doc:"The day from which the records are complete."`
	DataDate   string      `json:"data_date" format:"date" doc:"The day up to which the records are complete."`
	Ends       Ends        `json:"ends" doc:"What people have set; whatever is left out follows from the records."`
	Milestones []Milestone `json:"milestones" nullable:"false"`
	Fields     []Field     `json:"fields" nullable:"false"`
	Groupings  []string    `json:"groupings" nullable:"false" doc:"What orders can be grouped by."`
	Units      []string    `json:"units" nullable:"false"`
	CountRules []string    `json:"count_rules" nullable:"false"`
	Periods    []string    `json:"periods" nullable:"false" doc:"Periods to pick from; others can be asked for."`
	SortKeys   []string    `json:"sort_keys" nullable:"false"`
	States     []string    `json:"states" nullable:"false" doc:"The states of a leg, and 'counted' for those that are counted."`
}

// Ends are the two ends of the book as people have set them.
type Ends struct {
	FirstDay string `json:"first_day,omitempty" format:"date" doc:"Left out: the earliest 'ordered'."`
	DataDate string `json:"data_date,omitempty" format:"date" doc:"Left out: the latest day of any fact that is not after the day of the load that brought it."`
}

// Milestone is a named day in an order's life.
type Milestone struct {
	Name  string `json:"name"`
	Plan  bool   `json:"plan" doc:"A plan is known whatever its day; a fact after the data date is not known yet."`
	First string `json:"first,omitempty" format:"date" doc:"The earliest known day."`
	Last  string `json:"last,omitempty" format:"date" doc:"The latest known day."`
}

// Field is a field of an order.
type Field struct {
	Name   string `json:"name"`
	Values int    `json:"values" doc:"How many values occur, not counting 'none'."`
}

// SentencePart is a stretch of the question sentence.
type SentencePart struct {
	Text string `json:"text"`
	Slot string `json:"slot,omitempty" doc:"The parameter whose word this is; left out for the words between."`
}

// Took answers how long a leg took.
type Took struct {
	Sentence      string         `json:"sentence" doc:"Exactly what was computed."`
	SentenceParts []SentencePart `json:"sentence_parts" nullable:"false"`
	From          string         `json:"from"`
	To            string         `json:"to"`
	Unit          string         `json:"unit"`
	CountRule     string         `json:"count_rule"`
	Basis         string         `json:"basis"`
	By            []string       `json:"by" nullable:"false"`
	FirstDay      string         `json:"first_day" format:"date"`
	DataDate      string         `json:"data_date" format:"date"`
	Version       int64          `json:"version" doc:"The version of the book that was asked."`
	Parts         []TookPart     `json:"parts" nullable:"false" doc:"One for each period, each by itself."`
}

// TookPart is the answer for one period.
type TookPart struct {
	Period         Period           `json:"period"`
	Placement      Placement        `json:"placement"`
	PlacementParts []Reconciliation `json:"placement_parts" nullable:"false" doc:"What the period makes of the orders in the book; 'state' is the word for 'placed'. Empty for all orders."`
	PlacementLine  string           `json:"placement_line,omitempty"`
	Groups         []Group          `json:"groups" nullable:"false" doc:"In time order, or the longest mean first. Empty without a grouping."`
	Total          Group            `json:"total" doc:"Computed from the orders, each counted once."`
	Distribution   []Bar            `json:"distribution" nullable:"false" doc:"The lengths that occur, shortest first."`
	Notes          []Note           `json:"notes" nullable:"false"`
}

// Period is a stretch of whole days, both ends in.
type Period struct {
	Text string `json:"text" doc:"As it was asked for; empty for all orders."`
	From string `json:"from" format:"date"`
	To   string `json:"to" format:"date"`
}

// Placement says how the period divides the book; in_book = asked + outside + undated.
type Placement struct {
	InBook  int `json:"in_book"`
	Asked   int `json:"asked"`
	Outside int `json:"outside"`
	Undated int `json:"undated"`
}

// Group is a set of orders and the statistics of the lengths that count.
type Group struct {
	Keys               []string         `json:"keys" nullable:"false" doc:"One for each grouping; empty text is 'none'."`
	Asked              int              `json:"asked" doc:"Orders asked about."`
	N                  int              `json:"n" doc:"Orders counted."`
	Mean               *float64         `json:"mean" nullable:"true"`
	Median             *float64         `json:"median" nullable:"true"`
	P90                *float64         `json:"p90" nullable:"true"`
	Min                *int             `json:"min" nullable:"true"`
	Max                *int             `json:"max" nullable:"true"`
	StandardDeviation  *float64         `json:"standard_deviation" nullable:"true"`
	HolidaysUnknown    int              `json:"holidays_unknown" doc:"Lengths with a day for which their calendar knows no holidays."`
	Reconciliation     []Reconciliation `json:"reconciliation" nullable:"false" doc:"Adds up to the orders asked about."`
	ReconciliationLine string           `json:"reconciliation_line"`
}

// Reconciliation is one number of the line that adds up.
type Reconciliation struct {
	State  string `json:"state"`
	Label  string `json:"label"`
	Orders int    `json:"orders"`
}

// Bar is the number of orders of one length.
type Bar struct {
	Length int `json:"length"`
	Orders int `json:"orders"`
}

// Note is something that a reader of the answer has to know.
type Note struct {
	Code   string `json:"code"`
	Orders int    `json:"orders" doc:"How many orders it concerns; 0 for the answer as a whole."`
	Text   string `json:"text"`
}

// Orders is a page of orders with the length of a leg.
type Orders struct {
	Sentence string       `json:"sentence"`
	Selected string       `json:"selected" doc:"Which of the orders asked about are listed."`
	All      int          `json:"all" doc:"How many there are on all pages."`
	Offset   int          `json:"offset"`
	Sort     string       `json:"sort"`
	Version  int64        `json:"version"`
	Orders   []OrderEntry `json:"orders" nullable:"false"`
}

// OrderEntry is one order of a list.
type OrderEntry struct {
	Number          string            `json:"number"`
	Fields          map[string]string `json:"fields" doc:"By name; a field that is not known is left out."`
	Milestones      map[string]string `json:"milestones" doc:"Days by name; a day that is not known is left out."`
	Value           string            `json:"value,omitempty" doc:"A decimal, in the order's currency."`
	State           string            `json:"state" doc:"The state of the leg."`
	StateLabel      string            `json:"state_label"`
	Length          *int              `json:"length" nullable:"true" doc:"In the unit and rule of the sentence; null where the leg is not counted."`
	HolidaysUnknown bool              `json:"holidays_unknown"`
}

// Order is one order with the length of a leg, shown day by day.
type Order struct {
	Order    OrderEntry    `json:"order"`
	Days     []MilestoneOn `json:"days" nullable:"false" doc:"The order's milestones in the order of their days."`
	Leg      string        `json:"leg" doc:"The leg, unit and rule in words."`
	Unit     string        `json:"unit"`
	Calendar string        `json:"calendar" doc:"The calendar by which the order is counted."`
	Strip    []StripDay    `json:"strip" nullable:"false" doc:"Empty where the leg is not counted."`
	SumLine  string        `json:"sum_line,omitempty"`
	Findings []string      `json:"findings" nullable:"false" doc:"What its parts show beside its milestones, in words: part shipped, …"`
	Parts    []PartTable   `json:"parts" nullable:"false" doc:"What belongs to it, kind by kind, and its customer as listed."`
	Changes  []Change      `json:"changes" nullable:"false" doc:"What loads have changed of it, the latest first."`
	Legs     []LegState    `json:"legs" nullable:"false" doc:"Every leg between milestones that follow each other, and the whole."`
}

// MilestoneOn is a milestone of an order on its day.
type MilestoneOn struct {
	Name  string `json:"name"`
	Day   string `json:"day" format:"date"`
	Plan  bool   `json:"plan"`
	Known bool   `json:"known" doc:"False for a fact after the data date."`
}

// PartTable is what an order has of one kind: a row of texts for each record.
type PartTable struct {
	Kind    string     `json:"kind"`
	Columns []string   `json:"columns" nullable:"false"`
	Rows    [][]string `json:"rows" nullable:"false"`
}

// Change is one cell of an order or of its parts as a load found and left it.
type Change struct {
	Load   int64    `json:"load"`
	Kind   string   `json:"kind"`
	Key    []string `json:"key" nullable:"false" doc:"Which line, shipment or payment; empty for the order itself."`
	Column string   `json:"column"`
	Old    string   `json:"old"`
	New    string   `json:"new"`
}

// LegState is one leg of an order.
type LegState struct {
	From       string `json:"from"`
	To         string `json:"to"`
	State      string `json:"state"`
	StateLabel string `json:"state_label"`
	Length     *int   `json:"length" nullable:"true"`
}

// StripDay is one day of a strip.
type StripDay struct {
	Day  string `json:"day" format:"date"`
	Part string `json:"part" doc:"start (not counted), counted, extra working day (counted), holiday or weekend."`
	Name string `json:"name,omitempty" doc:"The holiday or extra working day."`
}

// Calendars lists the working calendars.
type Calendars struct {
	Calendars []Calendar `json:"calendars" nullable:"false" doc:"The default first."`
}

// Calendar is a working calendar.
type Calendar struct {
	Name         string        `json:"name"`
	Default      bool          `json:"default" doc:"It counts orders whose site has no calendar of its own."`
	Weeks        []Week        `json:"weeks" nullable:"false" doc:"The weekly patterns, each from a day on; the first also before it."`
	CoverageFrom string        `json:"coverage_from,omitempty" format:"date" doc:"The first day for which holidays are known; left out where none are."`
	CoverageTo   string        `json:"coverage_to,omitempty" format:"date"`
	Holidays     int           `json:"holidays" doc:"How many are given, over all years."`
	ExtraDays    int           `json:"extra_days"`
	Orders       int           `json:"orders" doc:"Orders that are counted by it."`
	Year         *CalendarYear `json:"year,omitempty" doc:"One year, where one was asked for."`
}

// CalendarYear is one year of a calendar.
type CalendarYear struct {
	Year        int        `json:"year"`
	WorkingDays int        `json:"working_days"`
	Months      []int      `json:"months" nullable:"false" doc:"Working days of each month."`
	NamedDays   []NamedDay `json:"named_days" nullable:"false" doc:"Holidays and extra working days."`
	Known       bool       `json:"known" doc:"False where holidays of this year are not known."`
}

// Week is a weekly pattern.
type Week struct {
	From string `json:"from" format:"date"`
	Days string `json:"days" doc:"The worked weekdays, Monday first."`
}

// NamedDay is a day with its kind.
type NamedDay struct {
	Day     string `json:"day" format:"date"`
	Weekday string `json:"weekday"`
	Kind    string `json:"kind" doc:"holiday, weekend (a holiday on a rest day) or extra working day."`
	Name    string `json:"name"`
}

// Loads lists what was brought in, the last first.
type Loads struct {
	Loads []Load `json:"loads" nullable:"false"`
}

// Load is one bringing-in of files.
type Load struct {
	Number   int64         `json:"number" doc:"0 where it was only checked."`
	LoadedAt string        `json:"loaded_at" format:"date-time"`
	LoadedBy string        `json:"loaded_by" doc:"Operating-system user of the service."`
	DataDate string        `json:"data_date,omitempty" format:"date" doc:"The latest day of any fact that it brought, not after its own day."`
	UndoneAt string        `json:"undone_at,omitempty" format:"date-time" doc:"Left out while the load stands."`
	Files    []LoadFile    `json:"files" nullable:"false"`
	SetAside int64         `json:"set_aside" doc:"Rows that could not be used, over all files."`
	Rows     []SetAsideRow `json:"rows" nullable:"false" doc:"The first of them, in the answer to a load."`
}

// Progress says how far the running load has come.
type Progress struct {
	Running  bool   `json:"running"`
	File     string `json:"file"`
	Phase    string `json:"phase" doc:"reading, merging or reading the book."`
	Rows     int64  `json:"rows" doc:"Of all files so far."`
	SetAside int    `json:"set_aside" doc:"Of this file."`
	Bytes    int64  `json:"bytes" doc:"Of all files so far."`
}

// LoadFile is one file of a load.
type LoadFile struct {
	Name          string   `json:"name"`
	Kind          string   `json:"kind"`
	SHA256        string   `json:"sha256"`
	New           int64    `json:"new"`
	Changed       int64    `json:"changed"`
	Same          int64    `json:"same"`
	SetAside      int64    `json:"set_aside"`
	UnusedColumns []string `json:"unused_columns" nullable:"false" doc:"Columns that mean nothing here."`
}

// SetAsideRows is a page of the rows of a load that could not be used.
type SetAsideRows struct {
	All    int64         `json:"all"`
	Offset int           `json:"offset"`
	Rows   []SetAsideRow `json:"rows" nullable:"false"`
}

// SetAsideRow is a row that could not be used.
type SetAsideRow struct {
	File      string `json:"file"`
	Kind      string `json:"kind" doc:"Of the record that it would have been."`
	ClearedBy int64  `json:"cleared_by,omitempty" doc:"The load that brought the mended row."`
	Row       int64  `json:"row" doc:"The line of the file on which the row begins; the header is line 1."`
	Column    string `json:"column" doc:"Empty where the row as a whole is at fault."`
	Value     string `json:"value"`
	Reason    string `json:"reason"`
	Raw       string `json:"raw" doc:"The row as it stands in the file."`
}

// Doubts says what looks wrong in the records, and how far each milestone is recorded.
type Doubts struct {
	Sentence   string           `json:"sentence"`
	Version    int64            `json:"version"`
	Doubts     []Doubt          `json:"doubts" nullable:"false" doc:"Those that hold of something; of orders first."`
	Milestones []MilestoneKnown `json:"milestones" nullable:"false"`
}

// Doubt is one kind of thing that looks wrong.
type Doubt struct {
	Code     string   `json:"code"`
	Title    string   `json:"title"`
	Advice   string   `json:"advice" doc:"What follows from it, and what to do."`
	Count    int64    `json:"count"`
	OfOrders bool     `json:"of_orders" doc:"It is counted in orders, which /orders lists by its code."`
	Examples []string `json:"examples" nullable:"false" doc:"A few, where it is not of orders."`
}

// MilestoneKnown says how far a milestone is recorded: present + missing are all orders.
type MilestoneKnown struct {
	Name     string `json:"name"`
	Plan     bool   `json:"plan"`
	Present  int    `json:"present"`
	Missing  int    `json:"missing"`
	Ahead    int    `json:"ahead" doc:"Of those present, facts after the data date."`
	Earliest string `json:"earliest,omitempty" format:"date"`
	Latest   string `json:"latest,omitempty" format:"date"`
}
