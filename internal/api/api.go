// Package api is the wire: what the service answers and its clients read. Days are YYYY-MM-DD; a day that is
// not known is left out. The tags document the fields in the OpenAPI document.
package api

// BasePath is where the resources lie.
const BasePath = "/api/v1"

// NoticeHeader is the header of an answer that says what its reader has to know of the service now: that it answers from memory
// alone, say.
const NoticeHeader = "Prairie-Dusk-Notice"

// EntryKey lets one browser in, once.
type EntryKey struct {
	Key string `json:"key" maxLength:"100"`
}

// Session is what a browser that was let in shows as its bearer token.
type Session struct {
	Session string `json:"session"`
}

// Book describes the order book as a whole.
type Book struct {
	Version    int64       `json:"version" doc:"Grows with every load and every setting."`
	Orders     int         `json:"orders"`
	FirstDay   string      `json:"first_day" format:"date" doc:"The day from which the records are complete."`
	DataDate   string      `json:"data_date" format:"date" doc:"The day up to which the records are complete."`
	Settings   Settings    `json:"settings" doc:"What people have set; whatever is left out follows from the records."`
	Milestones []Milestone `json:"milestones" nullable:"false"`
	Fields     []Field     `json:"fields" nullable:"false"`
	Groupings  []string    `json:"groupings" nullable:"false" doc:"What orders can be grouped by."`
	// PartGroupings are for /crosstab, which counts an order under each of its parts' groups.
	PartGroupings []string  `json:"part_groupings" nullable:"false" doc:"What lines, shipments and payments can be grouped by besides."`
	Units         []Unit    `json:"units" nullable:"false" doc:"What lengths can be counted in."`
	CountRules    []string  `json:"count_rules" nullable:"false"`
	Calendars     []string  `json:"calendars" nullable:"false" doc:"The names of the calendars, the default first."`
	Calendar      string    `json:"calendar" doc:"The calendar that counts the most orders."`
	Periods       []string  `json:"periods" nullable:"false" doc:"Periods to pick from; others can be asked for."`
	Columns       []Offered `json:"columns" nullable:"false" doc:"What a list of orders can show, besides anything that a condition can ask about."`
	States        []string  `json:"states" nullable:"false" doc:"The states of a leg, and 'counted' for those that are counted."`
}

// Offered is a column that a list can show.
type Offered struct {
	Text string `json:"text"`
	Of   string `json:"of" doc:"order, customer, site, place, milestones, lengths, lines, shipments or payments."`
}

// Unit is what a length can be counted in.
type Unit struct {
	Name    string   `json:"name"`
	Words   string   `json:"words"`
	Rules   []string `json:"rules" nullable:"false" doc:"The count rules that it takes."`
	Refused string   `json:"refused,omitempty" doc:"Why it does not take both-ends."`
}

// Values are values of a field.
type Values struct {
	Values []string `json:"values" nullable:"false"`
	All    int      `json:"all" doc:"How many there are."`
}

// Settings are the two ends of the book as people have set them.
type Settings struct {
	FirstDay string `json:"first_day,omitempty" format:"date" doc:"Left out: the earliest 'ordered'."`
	DataDate string `json:"data_date,omitempty" format:"date" doc:"Left out: the latest day of any fact that is not after the day of the load that brought it."`
}

// Milestone is a named day in an order's life.
type Milestone struct {
	Name  string `json:"name"`
	Date  string `json:"date" doc:"What people call its day."`
	Plan  bool   `json:"plan" doc:"A plan is known whatever its day; a fact after the data date is not known yet."`
	First string `json:"first,omitempty" format:"date" doc:"The earliest known day."`
	Last  string `json:"last,omitempty" format:"date" doc:"The latest known day."`
}

// Field is a field of an order.
type Field struct {
	Name   string `json:"name"`
	Values int    `json:"values" doc:"How many values occur, not counting 'none'."`
}

// OrderEntry is one order with the length of a leg.
type OrderEntry struct {
	Number          string            `json:"number"`
	Fields          map[string]string `json:"fields" doc:"By name; a field that is not known is left out."`
	Milestones      map[string]string `json:"milestones" doc:"Days by name; a day that is not known is left out."`
	Times           map[string]string `json:"times" doc:"Times of day where they are known, as the clocks of the site show them."`
	Value           string            `json:"value,omitempty" doc:"A decimal, in the order's currency."`
	State           string            `json:"state" doc:"The state of the leg."`
	StateLabel      string            `json:"state_label"`
	Length          *float64          `json:"length" nullable:"true" doc:"In the unit and rule of the sentence; null where the leg is not counted."`
	HolidaysUnknown bool              `json:"holidays_unknown"`
}

// Order is one order with the length of a leg, shown day by day.
type Order struct {
	Order    OrderEntry    `json:"order"`
	Days     []MilestoneOn `json:"days" nullable:"false" doc:"The order's milestones in the order of their days."`
	InTime   []CalendarDay `json:"in_time" nullable:"false" doc:"Every day from the first milestone to the last, as the order's calendar has it; empty where they lie very far apart."`
	Leg      string        `json:"leg" doc:"The leg, unit and rule in words."`
	Heading  string        `json:"heading" doc:"Leg, unit and rule."`
	Words    string        `json:"words" doc:"The length with its unit, or the state of the leg."`
	Zone     string        `json:"zone,omitempty" doc:"IANA time zone of the site, where it is known."`
	Unit     string        `json:"unit"`
	Calendar string        `json:"calendar" doc:"The calendar by which the order is counted."`
	Strip    []StripDay    `json:"strip" nullable:"false" doc:"Empty where the leg is not counted."`
	SumLine  string        `json:"sum_line,omitempty"`
	Findings []string      `json:"findings" nullable:"false" doc:"What its parts show beside its milestones, in words: part shipped, …"`
	Parts    []PartTable   `json:"parts" nullable:"false" doc:"What belongs to it, kind by kind, and its customer as listed."`
	Changes  []Change      `json:"changes" nullable:"false" doc:"What loads have changed of it, the latest first."`
	Legs     []LegState    `json:"legs" nullable:"false" doc:"Every leg between milestones that follow each other, and the whole."`
	Statuses OrderStatuses `json:"statuses" doc:"What it went through, by its status records."`
}

// MilestoneOn is a milestone of an order on its day.
type MilestoneOn struct {
	Name  string `json:"name"`
	Day   string `json:"day" format:"date"`
	Plan  bool   `json:"plan"`
	Time  string `json:"time,omitempty" doc:"The time of day, as the clocks of the site show it."`
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
	From       string   `json:"from"`
	To         string   `json:"to"`
	State      string   `json:"state"`
	StateLabel string   `json:"state_label"`
	Length     *float64 `json:"length" nullable:"true"`
}

// StripDay is one day of a strip.
type StripDay struct {
	Day   string   `json:"day" format:"date"`
	Part  string   `json:"part" doc:"after cut-off or start (not counted); counted, half day or extra working day (counted); holiday or weekend."`
	Name  string   `json:"name,omitempty" doc:"The holiday, half day or extra working day."`
	Hours *float64 `json:"hours,omitempty" doc:"What the day adds to a length in hours."`
}

// Calendars lists the working calendars.
type Calendars struct {
	Calendars []Calendar `json:"calendars" nullable:"false" doc:"The default first."`
}

// Calendar is a working calendar.
type Calendar struct {
	Name         string              `json:"name"`
	Default      bool                `json:"default" doc:"It counts orders whose site has no calendar of its own."`
	Weeks        []Week              `json:"weeks" nullable:"false" doc:"The weekly patterns, each from a day on; the first also before it."`
	CoverageFrom string              `json:"coverage_from,omitempty" format:"date" doc:"The first day for which holidays are known; left out where none are."`
	CoverageTo   string              `json:"coverage_to,omitempty" format:"date"`
	Coverage     string              `json:"coverage,omitempty" doc:"The days for which holidays are known, in words; years between them may be missing."`
	Holidays     int                 `json:"holidays" doc:"How many are given, over all years."`
	HalfDays     int                 `json:"half_days"`
	ExtraDays    int                 `json:"extra_days"`
	Sites        []string            `json:"sites" nullable:"false" doc:"The sites whose orders are counted by it."`
	Definition   *CalendarDefinition `json:"definition,omitempty" doc:"All that was written down about it, where one calendar was asked for."`
	Orders       int                 `json:"orders" doc:"Orders that are counted by it."`
	Year         *CalendarYear       `json:"year,omitempty" doc:"One year, where one was asked for."`
}

// CalendarYear is one year of a calendar.
type CalendarYear struct {
	Year        int           `json:"year"`
	WorkingDays int           `json:"working_days"`
	Months      []int         `json:"months" nullable:"false" doc:"Working days of each month."`
	NamedDays   []NamedDay    `json:"named_days" nullable:"false" doc:"Holidays and extra working days."`
	Known       bool          `json:"known" doc:"False where holidays of this year are not known."`
	Days        []CalendarDay `json:"days" nullable:"false" doc:"Every day of the year."`
}

// CalendarDay is one day of a calendar.
type CalendarDay struct {
	Day   string `json:"day" format:"date"`
	Kind  string `json:"kind" doc:"working, weekend, holiday, half day or extra working day."`
	Name  string `json:"name,omitempty"`
	Hours string `json:"hours,omitempty" doc:"The hours in which it is worked, where they are known."`
	Known bool   `json:"known" doc:"Whether it lies in the coverage."`
}

// CalendarDefinition is all that is written down about a calendar.
type CalendarDefinition struct {
	Weeks        []Week       `json:"weeks" nullable:"false" doc:"The worked weekdays, each from a day on; the first also before it. None: Monday to Friday."`
	Hours        []DailyHours `json:"hours" nullable:"false" doc:"The daily hours, each from a day on; the first also before it."`
	Holidays     []DatedName  `json:"holidays" nullable:"false"`
	HalfDays     []DatedName  `json:"half_days" nullable:"false" doc:"Worked, whatever else holds, in hours of their own."`
	ExtraDays    []DatedName  `json:"extra_days" nullable:"false" doc:"Worked, whatever else holds."`
	CoverageFrom string       `json:"coverage_from,omitempty" format:"date" doc:"The first day for which holidays are known, where that is stated; else it follows from them."`
	CoverageTo   string       `json:"coverage_to,omitempty" format:"date"`
}

// DailyHours hold on working days.
type DailyHours struct {
	From  string `json:"from" format:"date"`
	Hours string `json:"hours" doc:"08:00-12:00 13:00-16:30"`
}

// DatedName is a holiday, a half day or an extra working day.
type DatedName struct {
	Day    string `json:"day" format:"date"`
	Name   string `json:"name" maxLength:"500"`
	Hours  string `json:"hours,omitempty" doc:"Of a half day."`
	ByRule bool   `json:"by_rule,omitempty" doc:"A holiday of a rule without an end, which extends no coverage."`
}

// CalendarEffect is what a change of a calendar does to lengths, before it is saved.
type CalendarEffect struct {
	Sentence      string           `json:"sentence"`
	Counted       int              `json:"counted" doc:"Lengths, over all orders."`
	Moved         int              `json:"moved" doc:"Of which so many change."`
	Longer        int              `json:"longer"`
	Shorter       int              `json:"shorter"`
	UnknownBefore int              `json:"unknown_before" doc:"Lengths with a day for which holidays are not known."`
	UnknownAfter  int              `json:"unknown_after"`
	MeanBefore    *float64         `json:"mean_before" nullable:"true"`
	MeanAfter     *float64         `json:"mean_after" nullable:"true"`
	Words         string           `json:"words"`
	Examples      []CalendarChange `json:"examples" nullable:"false" doc:"The first orders that move."`
	Year          CalendarYear     `json:"year" doc:"A year of the calendar as it would be."`
}

// CalendarChange is one length before and after a change of a calendar.
type CalendarChange struct {
	Number string `json:"number"`
	Site   string `json:"site"`
	Before string `json:"before" doc:"The length with its unit, or the state of the leg."`
	After  string `json:"after"`
}

// CalendarComparison lists the days of a year on which two calendars differ: one works and the other does not, or not
// the whole day.
type CalendarComparison struct {
	Sentence   string         `json:"sentence"`
	Year       int            `json:"year"`
	Working    [2]int         `json:"working" nullable:"false" doc:"Working days of the year, of the one and the other."`
	OtherHours int            `json:"other_hours" doc:"Further days on which both work, in other hours."`
	Days       []DifferentDay `json:"days" nullable:"false"`
}

// DifferentDay is a day of which two calendars make something else.
type DifferentDay struct {
	One   CalendarDay `json:"one"`
	Other CalendarDay `json:"other"`
}

// DaysAnswer answers about days alone.
type DaysAnswer struct {
	Sentence string     `json:"sentence"`
	Words    string     `json:"words" doc:"The answer."`
	Calendar string     `json:"calendar"`
	Unit     string     `json:"unit"`
	Length   *float64   `json:"length" nullable:"true" doc:"Of two days."`
	Day      string     `json:"day,omitempty" format:"date" doc:"The day so many days away, or the latest start."`
	Working  string     `json:"working,omitempty" format:"date" doc:"The latest working day on which to start."`
	Strip    []StripDay `json:"strip" nullable:"false" doc:"Empty where it is very long."`
	SumLine  string     `json:"sum_line"`
	Notes    []string   `json:"notes" nullable:"false"`
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
	Shown int64  `json:"shown" doc:"The last load that the answers show; 0 for none."`
}

// Load is one bringing-in of files.
type Load struct {
	Number      int64         `json:"number" doc:"0 where it was only checked."`
	LoadedAt    string        `json:"loaded_at" format:"date-time"`
	LoadedBy    string        `json:"loaded_by" doc:"Operating-system user of the service."`
	DataDate    string        `json:"data_date,omitempty" format:"date" doc:"The latest day of any fact that it brought, not after its own day."`
	UndoneAt    string        `json:"undone_at,omitempty" format:"date-time" doc:"Left out while the load stands."`
	Redoable    bool          `json:"redoable,omitempty" doc:"It was undone and can be brought back."`
	Files       []LoadFile    `json:"files" nullable:"false"`
	SetAside    int64         `json:"set_aside" doc:"Rows that could not be used, over all files."`
	Rows        []SetAsideRow `json:"rows" nullable:"false" doc:"The first of them, in the answer to a load."`
	SkippedRows int64         `json:"skipped_rows,omitempty" doc:"In the answer to a load: rows that are no records, such as titles, totals and notes."`
	Skipped     []SkippedRow  `json:"skipped,omitempty" doc:"The first of them in each table."`
	Layouts     []UsedLayout  `json:"layouts,omitempty" doc:"In the answer to a load: the layouts by which tables were read."`
	Notes       []FileNote    `json:"notes,omitempty" doc:"In the answer to a load: what is to be known of how its files were read."`
	Columns     []FileColumn  `json:"columns,omitempty" doc:"In the answer to a load: what the columns of its tables were taken for."`
	FirstRows   []FirstRows   `json:"first_rows,omitempty" doc:"Where files were only checked: the first records of each table as they would be kept."`
	Bounds      *LoadBounds   `json:"bounds,omitempty" doc:"Where files were only checked: where the book would begin and end."`
	MustAccept  []string      `json:"must_accept,omitempty" doc:"Where files were only checked: why so many rows would be set aside that a load wants a yes to it."`
	Meanings    []string      `json:"meanings,omitempty" doc:"Where files were only checked: names that a column can be given."`
	Statuses    []string      `json:"statuses,omitempty" doc:"In the answer to a load that brought status records: statuses that are not in the list of statuses, where there is one."`
}

// UsedLayout is the layout by which a table was read.
type UsedLayout struct {
	File    string   `json:"file"`
	Layout  string   `json:"layout"`
	New     []string `json:"new,omitempty" doc:"Columns that it does not know."`
	Missing []string `json:"missing,omitempty" doc:"Its columns that the table does not have."`
}

// Layout is what the columns of a kind of file mean, remembered for the next file with these headings.
type Layout struct {
	Name        string         `json:"name"`
	SavedAt     string         `json:"saved_at,omitempty" format:"date-time"`
	Columns     []LayoutColumn `json:"columns" nullable:"false" minItems:"1" maxItems:"500"`
	NotKnown    []string       `json:"not_known,omitempty" doc:"Cells that say that nothing is known."`
	AsTheyStand []string       `json:"as_they_stand,omitempty" doc:"Cells that could say so, and do not."`
	Currency    string         `json:"currency,omitempty" doc:"Of amounts with a sign that several currencies have, or with none."`
	Rows        string         `json:"rows,omitempty" doc:"What rows are where order numbers are repeated: orders or lines."`
	Lines       string         `json:"lines,omitempty" doc:"What tells lines without numbers apart: by product or by appearance."`
}

// LayoutColumn is a column of a layout.
type LayoutColumn struct {
	Heading  string `json:"heading"`
	Means    string `json:"means,omitempty" doc:"Name of a column, one of the user's own, or left-out; empty where it means nothing here."`
	Plan     bool   `json:"plan,omitempty" doc:"Its days are plans."`
	Fact     bool   `json:"fact,omitempty" doc:"Its days are facts, though some were to come when they were loaded."`
	Dates    string `json:"dates,omitempty" doc:"How its dates are read where it does not tell: day-first, month-first or year-first."`
	Decimals string `json:"decimals,omitempty" doc:"Which mark stands before decimals where it does not tell: point or comma."`
}

// Layouts are all that are kept.
type Layouts struct {
	Layouts []Layout `json:"layouts" nullable:"false"`
}

// FirstRows are the first records of a table as they would be kept.
type FirstRows struct {
	File    string     `json:"file"`
	Columns []string   `json:"columns" nullable:"false"`
	Rows    [][]string `json:"rows" nullable:"false"`
}

// LoadBounds are where the book would begin and end after a load, and where it does now; empty where it has no orders.
type LoadBounds struct {
	FirstDay    string `json:"first_day"`
	DataDate    string `json:"data_date"`
	FirstDayNow string `json:"first_day_now"`
	DataDateNow string `json:"data_date_now"`
}

// FileNote is what is to be known of how a file was read.
type FileNote struct {
	File string `json:"file"`
	Text string `json:"text"`
}

// SkippedRow is a row of a file that is no record.
type SkippedRow struct {
	File string `json:"file"`
	Row  int64  `json:"row"`
	Why  string `json:"why"`
	Text string `json:"text"`
}

// FileColumn says what a column of a file was taken for.
type FileColumn struct {
	File          string   `json:"file"`
	Heading       string   `json:"heading"`
	Kind          string   `json:"kind" doc:"Of the records that it belongs to; empty where it is not read."`
	Means         string   `json:"means" doc:"Name of the column; empty where it is not read."`
	Form          string   `json:"form" doc:"Of its dates or numbers, or what a column of your own holds."`
	Why           string   `json:"why"`
	Samples       []string `json:"samples" nullable:"false"`
	Rows          int64    `json:"rows"`
	Filled        int64    `json:"filled"`
	NotUnderstood int64    `json:"not_understood" doc:"Rows that were set aside for a cell of it."`
}

// ColumnQuestion is what a file leaves open; it comes with the problem that refuses the file.
type ColumnQuestion struct {
	File    string   `json:"file"`
	Column  string   `json:"column" doc:"The heading of the column in question; empty where the file as a whole is."`
	Asks    string   `json:"asks"`
	Answers []string `json:"answers" doc:"Of which one is given in the word that the problem names."`
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
	Waiting       int64    `json:"waiting" doc:"Of those, rows that no later load has brought."`
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
	ClearedBy int64  `json:"cleared_by,omitempty" doc:"The load that brought the fixed row."`
	Row       int64  `json:"row" doc:"The line of the file on which the row begins; the header is line 1."`
	Column    string `json:"column" doc:"Empty where the row as a whole is at fault."`
	Value     string `json:"value"`
	Reason    string `json:"reason"`
	Raw       string `json:"raw" doc:"The row as it stands in the file."`
}

// LabelDefinition is a label as it is written: the first condition that holds gives its text.
type LabelDefinition struct {
	Rules   []LabelRule `json:"rules" nullable:"false" maxItems:"50"`
	Rest    string      `json:"rest" maxLength:"200" doc:"The text where no condition holds; empty leaves the field missing."`
	Missing string      `json:"missing" maxLength:"200" doc:"The text where it cannot be decided, since a condition is undecided before one holds; empty leaves the field missing."`
}

// LabelRule gives a text to orders that meet a condition.
type LabelRule struct {
	Where string `json:"where" maxLength:"10000" doc:"In CEL."`
	Text  string `json:"text" maxLength:"200"`
}

// Label is a decision written beside orders, by rule; orders have it as a field of its name.
type Label struct {
	Name       string          `json:"name"`
	Definition LabelDefinition `json:"definition"`
	Counts     []LabelCount    `json:"counts" nullable:"false" doc:"Orders by text, those that no order has with 0; last, with an empty text, the orders without one. Empty where the label cannot be decided."`
	Problem    string          `json:"problem,omitempty" doc:"Why the label cannot be decided."`
	Users      []string        `json:"users" nullable:"false" doc:"Labels that ask about this one."`
}

// LabelCount is how many orders have a text of a label.
type LabelCount struct {
	Text   string `json:"text"`
	Orders int    `json:"orders"`
}

// Labels lists the labels, by name.
type Labels struct {
	Labels []Label `json:"labels" nullable:"false"`
}

// NamedCheck is a check under a name.
type NamedCheck struct {
	Name string `json:"name" minLength:"1" maxLength:"100"`
	Check
}

// Checks are several, by name.
type Checks struct {
	Checks []NamedCheck `json:"checks" nullable:"false"`
}

// View is what was asked, kept under a name.
type View struct {
	Name     string `json:"name"`
	Address  string `json:"address" doc:"Page and question: /orders?where=…"`
	Sentence string `json:"sentence" doc:"The question as it read when it was kept."`
	SavedAt  string `json:"saved_at" format:"date-time"`
}

// ViewContent is what is kept of a view.
type ViewContent struct {
	Address  string `json:"address" maxLength:"30000" pattern:"^/(orders|how-long|places|open|statuses|immediate|compare|crosstab|due)(\\\\?|$)"`
	Sentence string `json:"sentence,omitempty" maxLength:"30000"`
}

// NewName is another name for what is kept.
type NewName struct {
	Name string `json:"name" minLength:"1" maxLength:"100"`
}

// Views lists the views, by name.
type Views struct {
	Views []View `json:"views" nullable:"false"`
}

// Condition is a condition as it was understood.
type Condition struct {
	Text   string `json:"text"`
	Picks  []Pick `json:"picks" nullable:"false" doc:"Its comparisons, where it is one level of && or || over them; else empty."`
	Joined string `json:"joined,omitempty" doc:"&& or ||, where there are several."`
}

// Pick is a comparison that can be picked.
type Pick struct {
	Subject    string `json:"subject" doc:"A field or milestone by its name, number, value, or a length as it is written."`
	Kind       string `json:"kind" doc:"text, day or number."`
	Comparison string `json:"comparison" doc:"==, !=, <, <=, >, >=, startsWith, endsWith, contains, matches, missing or not missing."`
	Value      string `json:"value"`
}

// Status is one that orders have, with what is said of it.
type Status struct {
	Name      string   `json:"name"`
	Step      int      `json:"step,omitempty" doc:"Its place among the others; none where it has no place of its own."`
	Final     bool     `json:"final" doc:"Orders end in it: as the last one it has no length."`
	Colour    string   `json:"colour,omitempty" doc:"Of the palette."`
	Spellings []string `json:"spellings" nullable:"false" doc:"Other spellings of it that the records use."`
	Listed    bool     `json:"listed" doc:"In the list of statuses."`
}

// StatusList is the list of statuses, with those of the records that it does not have.
type StatusList struct {
	Statuses []Status `json:"statuses" nullable:"false" doc:"In their order."`
	Colours  []string `json:"colours" nullable:"false" doc:"The palette."`
	Version  int64    `json:"version"`
}

// StatusSetting is a row of the list of statuses, as it is saved.
type StatusSetting struct {
	Name       string `json:"name" minLength:"1" maxLength:"200"`
	Step       int    `json:"step,omitempty" doc:"The smaller comes first; 0 is none."`
	Final      bool   `json:"final,omitempty"`
	Colour     string `json:"colour,omitempty" enum:",teal,plum,amber,clay,sage,slate,rose,sand"`
	SpellingOf string `json:"spelling_of,omitempty" doc:"The status of which this is another spelling."`
}

// StatusSettings are rows to save; others stay as they are.
type StatusSettings struct {
	Statuses []StatusSetting `json:"statuses" nullable:"false" minItems:"1" maxItems:"1000"`
}

// PlaceAt says where a place is.
type PlaceAt struct {
	Place     string  `json:"place" minLength:"1" maxLength:"200"`
	Country   string  `json:"country,omitempty" maxLength:"200"`
	Region    string  `json:"region,omitempty" maxLength:"200"`
	Latitude  float64 `json:"latitude" minimum:"-90" maximum:"90" doc:"Degrees north."`
	Longitude float64 `json:"longitude" minimum:"-180" maximum:"180" doc:"Degrees east."`
}

// PlacesAt are places to save; others stay as they are.
type PlacesAt struct {
	Places []PlaceAt `json:"places" nullable:"false" minItems:"1" maxItems:"10000"`
}

// StatusPeriod is one of an order.
type StatusPeriod struct {
	Number    string   `json:"number"`
	Sequence  int      `json:"sequence" doc:"Among those of the order, from 1."`
	Status    string   `json:"status" doc:"Or not seen, for a silence."`
	Colour    string   `json:"colour,omitempty"`
	From      string   `json:"from" format:"date"`
	LastSeen  string   `json:"last_seen" format:"date"`
	Until     string   `json:"until,omitempty" doc:"The day on which the next one begins; none while it is the last."`
	Length    *float64 `json:"length" doc:"In the unit, elapsed; none of the end."`
	Running   bool     `json:"running"`
	Returned  bool     `json:"returned" doc:"The order came back to this status."`
	Ambiguous bool     `json:"ambiguous" doc:"Two records of the order at one moment name different statuses."`
}

// OrderStatuses is what an order went through.
type OrderStatuses struct {
	Source        string          `json:"source,omitempty" doc:"The records that its status periods come from: event or daily; none without records."`
	Ambiguous     bool            `json:"ambiguous"`
	Periods       []StatusPeriod  `json:"periods" nullable:"false"`
	Disagreements []StatusDiffers `json:"disagreements" nullable:"false" doc:"Days at whose end the daily list names another status than the events."`
}

// StatusDiffers is a day on which the two sources differ.
type StatusDiffers struct {
	Day    string `json:"day" format:"date"`
	Events string `json:"events"`
	Daily  string `json:"daily"`
}
