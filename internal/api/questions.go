package api

import "github.com/danielgtaylor/huma/v2"

// The parameters of each question stand here once: the service reads them of an address, the command line makes its options of
// them, and the OpenAPI document lists them. See package params.

// Measured are the words that say what is measured, and how.
type Measured struct {
	From string `query:"from" default:"ordered" arg:"date" complete:"dates" doc:"date at which the leg starts"`
	To   string `query:"to" default:"shipped" arg:"date" complete:"dates" doc:"date at which it ends"`
	Lengths
}

// Lengths are the words that say how lengths are counted.
type Lengths struct {
	In       string `query:"in" default:"working-days" arg:"unit" complete:"units" doc:"unit: days, working-days, weeks, months, years (completed), months-crossed, years-crossed, months-fraction, hours or working-hours"`
	Count    string `query:"count" default:"elapsed" arg:"rule" complete:"rules" doc:"count rule: elapsed (start day not counted) or both-ends"`
	Calendar string `query:"calendar" default:"site" arg:"whose" complete:"site,destination" doc:"whose calendar counts: that of the site or of the destination"`
}

// Leg are the words that say which lengths are measured.
type Leg struct {
	Measured
	CutOffs
}

// CutOffs are the words that say whether the cut-offs of sites count.
type CutOffs struct {
	CutOff string `query:"cut_off" default:"on" arg:"on" complete:"on,off" doc:"on or off: whether an order after the site's cut-off counts, in working days and due days, as ordered on the next working day"`
}

// Where is the condition on orders.
type Where struct {
	Where string `query:"where" maxLength:"10000" arg:"condition" doc:"only orders that meet this condition, in CEL: site == \"Galway\" && paid == null; docs/filters.md"`
}

// Form is the form of an answer.
type Form struct {
	Format string `query:"format" flag:"-" enum:"json,csv,xlsx,ndjson,parquet" default:"json" doc:"form of the answer: the document as JSON, or a file of its first table"`
}

// Wanted is the form that is wanted.
func (f Form) Wanted() string { return f.Format }

// Page is a page of a long list.
type Page struct {
	Offset int `query:"offset" minimum:"0" maximum:"1000000000" arg:"rows" doc:"how many rows to leave out before the first"`
	Limit  int `query:"limit" minimum:"1" maximum:"20000" default:"100" arg:"rows" doc:"at most so many rows"`
}

// ImmediateQuestion asks how much was immediate.
type ImmediateQuestion struct {
	Orders          string   `query:"orders" default:"all" arg:"which" complete:"all,first,first-within" doc:"which orders: all, first (customers' first orders in the whole book) or first-within (the first ones within the period and the condition)"`
	By              []string `query:"by" arg:"groupings" complete:"groupings" doc:"one or two groupings, with a comma between: a field, or day, week, month, quarter, year, month-of-year or weekday of the basis"`
	Basis           string   `query:"basis" default:"ordered" arg:"date" complete:"dates" doc:"date that places orders in the period"`
	Period          string   `query:"period" arg:"period" complete:"periods" doc:"period, such as 2026-Q3 or last-month; several with commas, each by itself; default all orders"`
	Achieved        string   `query:"achieved" default:"shipped" arg:"date" complete:"shipped,delivered" doc:"date that is to come on the day of the order: shipped or delivered"`
	NoRequestedDate string   `query:"no_requested_date" default:"out" arg:"out" complete:"out,in" doc:"out or in: whether orders without a requested date are in the denominator"`
	Cancelled       string   `query:"cancelled" default:"in" arg:"in" complete:"in,out" doc:"in or out: whether cancelled orders count; they are left out after the first ones are found"`
	Where
	Form
}

// ImmediateCustomersQuestion asks how customers asked, first and later.
type ImmediateCustomersQuestion struct {
	Basis     string `query:"basis" default:"ordered" arg:"date" complete:"dates" doc:"date that places first orders in the period"`
	Period    string `query:"period" arg:"period" complete:"periods" doc:"one period in which first orders lie; default all"`
	Cancelled string `query:"cancelled" default:"in" arg:"in" complete:"in,out" doc:"in or out: whether cancelled first orders count"`
	Change    string `query:"change" arg:"change" complete:"ahead-then-immediate,immediate-then-ahead,none" doc:"only customers who changed so: ahead-then-immediate, immediate-then-ahead or none"`
	Where
	Page
	Form
}

// DueQuestion asks which orders are due.
type DueQuestion struct {
	To       string   `query:"to" default:"shipped" arg:"date" complete:"dates" doc:"date that is due"`
	Plan     string   `query:"plan" arg:"date" complete:"plans" doc:"plan date that says when; default promised, and for delivered expected"`
	After    string   `query:"after" arg:"days" doc:"due so many working days after the order date, instead of by a plan"`
	CutOff   string   `query:"cut_off" default:"on" arg:"on" complete:"on,off" doc:"on or off, with after: whether an order after the site's cut-off counts as one of the next working day"`
	Within   string   `query:"within" default:"5" arg:"days" doc:"at risk when due within so many working days"`
	Period   string   `query:"period" arg:"period" complete:"periods" doc:"period of due days, such as 2026-11 or 2026-W47; default all orders"`
	Standing []string `query:"standing" default:"overdue,at-risk" arg:"standings" complete:"overdue,at-risk,due-later,on-the-day,early,reached-late,cancelled,no-promise,not-begun,late,not-due,all" doc:"standings to list, with commas: overdue, at-risk, due-later, on-the-day, early, reached-late, cancelled, no-promise, not-begun; late for overdue and reached-late, not-due for at-risk and due-later, all"`
	Where
	Page
	Form
}

// QualityQuestion asks what looks wrong in the records.
type QualityQuestion struct{ Form }

// Placing says which orders a question is about, and how they are grouped.
type Placing struct {
	Basis  string   `query:"basis" arg:"date" complete:"dates" doc:"date that places orders in the period; default the leg's start"`
	Period string   `query:"period" arg:"period" complete:"periods" doc:"period: 2026, 2026-Q3, 2026-07, 2026-W31, 2026-07-20, 2026-07-06/2026-08-02, last-month, last-90-days, …; several with commas; default all orders"`
	By     []string `query:"by" arg:"groupings" complete:"groupings" doc:"one or two groupings: a field; day, week, month, quarter, year, month-of-year or weekday of the basis; or such steps of another date, as month(shipped)"`
	Where
}

// TookQuestion asks how long a leg took.
type TookQuestion struct {
	Leg
	Placing
	Through     []string `query:"through" arg:"dates" complete:"dates" doc:"dates between the two ends, with commas: each leg of the chain, and the whole"`
	Promise     string   `query:"promise" arg:"plan" complete:"plans" doc:"also how many came early, on the day or late: by a plan such as promised, or within a number of working days after the start"`
	Over        Number   `query:"over" arg:"length" doc:"also how many took over this length, finished or still waiting"`
	AtLeast     Number   `query:"at_least" arg:"length" doc:"also how many took at least this length"`
	Show        []string `query:"show" arg:"statistics" complete:"mean,median,min,max,standard-deviation,p75,p90,p95" doc:"statistics, with commas: mean, median, min, max, standard-deviation, or percentiles such as p75; default mean,median,p90,min,max; one alone lays two groupings out as rows and columns"`
	Keep        []string `query:"keep" arg:"shares" complete:"80,90,95" doc:"also the shortest promise, in the unit, that these shares of orders keep, in percent with commas: 80,90,95; by the estimate with the orders that still run"`
	WithRunning bool     `query:"with_running" doc:"also an estimate with the orders that still run"`
	Form
}

// PlacesQuestion asks how long orders take by where they go.
type PlacesQuestion struct {
	Leg
	By      string `query:"by" default:"place" enum:"place,region,country,site-place" arg:"what" doc:"place, region, country, or site-place: the routes from each site to each place"`
	Basis   string `query:"basis" arg:"date" complete:"dates" doc:"date that places orders in the period; default the leg's start"`
	Period  string `query:"period" arg:"period" complete:"periods" doc:"one period, such as 2026-Q3 or last-month; default all orders"`
	Show    string `query:"show" default:"median" arg:"figure" complete:"median,mean,p75,p90,p95,over,late" doc:"what is compared: median, mean, a percentile such as p90, min, max, over (the share over a limit, with those that still wait) or late (the share that broke the promise)"`
	Over    Number `query:"over" arg:"length" doc:"the limit, with show over"`
	Promise string `query:"promise" default:"promised" arg:"plan" complete:"plans" doc:"with show late, the plan date that says when, or a number of working days after the start"`
	Target  Number `query:"target" arg:"number" doc:"also how far each place is from this"`
	Few     int    `query:"few" default:"10" minimum:"1" maximum:"1000000" arg:"orders" doc:"places with fewer lengths than this are listed last and have no rank"`
	Rank    string `query:"rank" default:"figure" enum:"figure,lower-end" arg:"rule" doc:"figure, or lower-end: by the lower end of the 95% interval, so that few orders cannot come first by chance"`
	Where
	Form
}

// ForecastQuestion asks how well forecasts of the ship date would have held.
type ForecastQuestion struct {
	Period string `query:"period" arg:"period" complete:"periods" doc:"one period, at the ends of whose months forecasts are made; default from the first day to the data date"`
	Where
	Form
}

// OpenQuestion asks what was open: as one, over time, by age, or order by order.
type OpenQuestion struct {
	Measured
	Period     string   `query:"period" arg:"period" complete:"periods" doc:"period in which something was open, never a filter on when it started; several with commas, each by itself; default from the first day to the data date"`
	ClosingDay string   `query:"closing_day" default:"in" arg:"in" complete:"in,out" doc:"in or out: whether an order counts as open on the day on which it closes"`
	By         []string `query:"by" arg:"groupings" complete:"groupings" doc:"one or two groupings, with a comma between; a step of time is that of the start"`
	Each       string   `query:"each" arg:"step" complete:"day,week,month,quarter,year" doc:"each step of the period: day, week, month, quarter or year; with ages, also how their mix developed over it"`
	Holdings   bool     `query:"holdings" doc:"with each, units and values too; a period as one has them always"`
	Ages       bool     `query:"ages" doc:"how old what was open is, at the end of a day"`
	At         string   `query:"at" arg:"day" doc:"ages at the end of this day; default the last day of the period, or the data date"`
	Buckets    string   `query:"buckets" default:"2,5,10,20" arg:"ages" doc:"the greatest ages of all buckets but the last, in the unit"`
	Timeline   bool     `query:"timeline" doc:"the orders themselves, each over its days, with the reason why it counts"`
	Sort       string   `query:"sort" default:"start" arg:"order" complete:"start,age,length" doc:"with timeline, the order of its rows: start, age (what is open at the end first, the oldest before all) or length (the longest first)"`
	Where
	Page
	Form
}

// History are the words that say by which conventions status records fold into status periods, and how these are counted.
type History struct {
	In       string `query:"in" default:"working-days" arg:"unit" complete:"working-days,days,weeks,hours,working-hours" doc:"unit of lengths, which are elapsed: working-days, days, weeks, hours or working-hours"`
	Calendar string `query:"calendar" default:"site" arg:"whose" complete:"site,destination" doc:"whose calendar counts: that of the site or of the destination"`
	Source   string `query:"source" default:"either" arg:"records" complete:"either,event,daily" doc:"which records count: event, daily, or either: events where an order has any, else its daily list"`
	MaxGap   string `query:"max_gap" arg:"days" doc:"how many days a daily list may be silent about an order before its status period ends; default any"`
}

// Picked are the words that pick what a question about status periods counts.
type Picked struct {
	StatusPeriods string `query:"status_periods" maxLength:"10000" arg:"condition" doc:"only status periods that meet this condition, in CEL: period.status == \"picking\" && period.length > 3; the length in the unit of the answer"`
}

// StatusLatestQuestion asks where orders stand, or stood.
type StatusLatestQuestion struct {
	History
	By string `query:"by" arg:"grouping" complete:"groupings" doc:"one grouping of orders"`
	At string `query:"at" arg:"day" doc:"the day at whose end; default the data date"`
	Where
	Form
}

// StatusTimesQuestion asks how long orders were in each status.
type StatusTimesQuestion struct {
	History
	Picked
	By     string `query:"by" arg:"grouping" complete:"groupings" doc:"one grouping of orders"`
	Period string `query:"period" arg:"period" complete:"periods" doc:"only status periods that began in this period; default all"`
	Each   string `query:"each" arg:"step" complete:"day,week,month,quarter,year" doc:"each step of time in which status periods began, instead of a grouping: day, week, month, quarter or year"`
	Where
	Form
}

// StatusTransitionsQuestion asks from which status to which orders went.
type StatusTransitionsQuestion struct {
	History
	Period string `query:"period" arg:"period" complete:"periods" doc:"period in which the status period before a transition began, and that of a return; paths are of whole orders; default all"`
	Where
	Form
}

// StatusPeriodsQuestion asks in which status orders were, from when to when.
type StatusPeriodsQuestion struct {
	History
	Picked
	Period string `query:"period" arg:"period" complete:"periods" doc:"only status periods that began in this period; default all"`
	Status string `query:"status" arg:"status" complete:"statuses" doc:"only status periods of this status; \"not seen\" for silences; default all"`
	Sort   string `query:"sort" default:"order" arg:"order" complete:"order,length,from" doc:"by order, length (the longest first) or from (the latest first)"`
	Where
	Page
	Form
}

// Counting are the words of questions that count orders or goods placed in time by their dates.
type Counting struct {
	Leg
	Show      []string `query:"show" default:"orders" arg:"figures" complete:"orders,lines,units,value,shipments,payments,mean,median,p90,immediate,one-shipment,share" doc:"figures, with commas: orders, lines, units, value, shipments, payments; a statistic of the leg such as mean, median or p90; immediate; one-shipment, the share of orders shipped complete in one shipment; or share, with meets"`
	Period    string   `query:"period" arg:"period" complete:"periods" doc:"one period, in which all dates are placed; default from the first day to the data date"`
	Lines     string   `query:"lines" maxLength:"10000" arg:"condition" doc:"with lines, units or value, only what is of lines that meet this condition, in CEL: line.delivered > requested && line.product == \"VEIL\"; docs/filters.md"`
	Shipments string   `query:"shipments" maxLength:"10000" arg:"condition" doc:"with shipments, only those that meet this condition, in CEL: shipment.carrier == \"Northern\" && shipment.delivered > promised"`
	Payments  string   `query:"payments" maxLength:"10000" arg:"condition" doc:"with payments, only those that meet this condition, in CEL: payment.paid > invoiced"`
	Meets     string   `query:"meets" maxLength:"10000" arg:"condition" doc:"of a share, the condition that orders meet, in CEL: shipped == ordered"`
	Where
	Form
}

// CrosstabQuestion counts by rows and columns.
type CrosstabQuestion struct {
	Counting
	Basis   []string `query:"basis" default:"ordered" arg:"dates" complete:"dates" doc:"dates that place orders and goods in time, with commas; what was shipped or delivered is placed by its own day"`
	Rows    string   `query:"rows" arg:"grouping" complete:"part groupings" doc:"grouping of the rows: a field, a column of lines, shipments or payments such as product or shipments.carrier, day to year, month-of-year or weekday of the date, or month(shipped); default site where there are no columns"`
	Columns string   `query:"columns" arg:"grouping" complete:"part groupings" doc:"another grouping, of the columns"`
	Top     int      `query:"top" minimum:"0" maximum:"100000" arg:"rows" doc:"only so many rows, and all others as one"`
	Sort    string   `query:"sort" arg:"column" complete:"total,name" doc:"rows by total, by name, or by the column of this name; default by time, else by total"`
	Blank   bool     `query:"blank" doc:"zeros are left blank"`
}

// CompareQuestion counts by several dates beside each other, in each step of time.
type CompareQuestion struct {
	Counting
	Basis []string `query:"basis" default:"ordered,shipped" arg:"dates" complete:"dates" doc:"dates that place orders and goods in time, with commas; what was shipped or delivered is placed by its own day"`
	Each  string   `query:"each" default:"month" arg:"step" complete:"day,week,month,quarter,year" doc:"each step of the period: day, week, month, quarter or year"`
	Empty string   `query:"empty" enum:"shown,hidden,alone" default:"shown" arg:"which" complete:"shown,hidden,alone" doc:"steps in which nothing lies: shown with the reason, hidden, or alone"`
}

// OrdersQuestion asks for a list of orders.
type OrdersQuestion struct {
	Behind string `query:"behind" maxLength:"20000" arg:"address" doc:"the orders behind a number of an answer, by its address, which --with-behind and JSON show; it says all about the question, and where narrows the list further"`
	From   string `query:"from" arg:"date" complete:"dates" doc:"date at which the leg starts whose length is listed; default ordered, or that of the leg of which the condition asks how long it has taken so far"`
	To     string `query:"to" arg:"date" complete:"dates" doc:"date at which it ends; default shipped, or as the condition asks"`
	Lengths
	CutOffs
	Placing
	State     string   `query:"state" arg:"state" complete:"states" doc:"only orders whose leg is in this state: counted, running, cancelled, end-before-start, cancelled-before-start, no-start, not-yet-begun, …; ended for both days known, in order"`
	Group     []string `query:"group,explode" arg:"group" doc:"only orders of this group; once for each grouping of by, empty for none"`
	Placed    string   `query:"placed" arg:"outside" complete:"outside,undated,unmet,undecided" doc:"the orders that are left out: by the period outside or undated, by the condition unmet or undecided"`
	Columns   string   `query:"columns" maxLength:"10000" arg:"columns" complete:"columns" doc:"columns, with commas: fields, dates, number, value, length, state, lines.product and other columns of lines, shipments and payments, or what a condition can ask about, conditions too; each perhaps with a heading and a width: value as \"Worth\" wide 120; docs/lists.md"`
	Rows      string   `query:"rows" enum:"orders,lines,shipments,payments" default:"orders" arg:"orders" doc:"what has a row: orders, lines, shipments or payments; an order without a line still has one"`
	Highlight []string `query:"highlight,explode" arg:"amber: CONDITION" doc:"make rows or cells stand out: 'amber: CONDITION', 'teal on COLUMN: CONDITION'; amber, teal, plum or faint; the first that holds counts"`
	Sort      string   `query:"sort" maxLength:"10000" default:"number" arg:"columns" complete:"columns" doc:"columns by heading or text, or whatever could be one, with commas; with a leading minus descending"`
}

// A Check says which number of an answer, or which of its table, is expected to be what.
type Check struct {
	Question string   `json:"question" minLength:"1" maxLength:"20000" doc:"The question as the address of a page has it: took?by=site&period=2026-Q3."`
	Part     string   `json:"part,omitempty" doc:"Which part of the answer, by its title, where it has several: a period, a currency."`
	Number   string   `json:"number,omitempty" doc:"Which number, by its heading or code, or by its label in the line below the table; left out for the orders that the answer counts."`
	Row      []string `json:"row,omitempty" doc:"Of which row, by its names; left out for the total."`
	Expected
}

// Expected is what somebody expects: a figure, orders, or a table.
type Expected struct {
	Figure   string        `json:"figure,omitempty" maxLength:"100" doc:"A number as people write it: 1,245 or 4.8."`
	Orders   *ExpectedFile `json:"orders,omitempty" doc:"A list of order numbers, alone or in a column of a table."`
	Table    *ExpectedFile `json:"table,omitempty" doc:"Numbers by group, under a header that names the columns."`
	Column   string        `json:"column,omitempty" doc:"The heading of the column with the order numbers, where several hold them."`
	Decimals string        `json:"decimals,omitempty" enum:"point,comma" doc:"Which mark stands before decimals, where the numbers do not tell."`
}

// An ExpectedFile is a file in any form that import reads, or a text that was pasted.
type ExpectedFile struct {
	Name    string  `json:"name,omitempty" doc:"As messages call it."`
	Content Content `json:"content" doc:"The file."`
}

// Content is that of a file, in base64. An empty one is read, so that the message about it is the one about any empty file.
type Content []byte

// Schema is how huma documents it.
func (Content) Schema(huma.Registry) *huma.Schema {
	return &huma.Schema{Type: huma.TypeString, Description: "The file.", Extensions: map[string]any{"contentEncoding": "base64"}}
}

// TwoWays asks one question under two conventions.
type TwoWays struct {
	First  string   `query:"first" required:"true" minLength:"1" maxLength:"20000" doc:"The question as the address of a page has it: took?by=site&period=2026-Q3."`
	Second string   `query:"second" required:"true" minLength:"1" maxLength:"20000" doc:"The same, with one or several words changed."`
	Part   string   `query:"part" doc:"Which part of the answers, by its title, where they have several."`
	Number string   `query:"number" doc:"Which number, by its heading or code; left out for the orders that the answer counts."`
	Row    []string `query:"row,explode" doc:"Of which row, by its names; left out for all."`
	Form
}

// Readings are the usual other readings of a question.
type Readings struct {
	Readings []Reading `json:"readings" nullable:"false"`
}

// A Reading is a question with one word changed.
type Reading struct {
	Words    string `json:"words" doc:"What is changed: with both ends counted."`
	Question string `json:"question" doc:"The question as an address."`
}

// ChangesQuestion asks what became of orders since an earlier load.
type ChangesQuestion struct {
	Since string `query:"since" arg:"load" doc:"the number of the load, or a day such as 2026-09-30, since which orders are compared; default the load before the last"`
	Form
}

// AuditQuestion asks who changed what.
type AuditQuestion struct {
	Page
	Form
}

// SecondQuestion asks for a question as SQL, or for what PostgreSQL makes of it.
type SecondQuestion struct {
	Question string `query:"question" required:"true" minLength:"1" maxLength:"20000" doc:"The question as the address of a page has it: took?by=site&period=2026-Q3."`
	Form
}

// Statement is a question as SQL.
type Statement struct {
	SQL string `json:"sql" doc:"One statement over the record tables, which runs as it stands."`
}

// Reader says how to read the record tables in PostgreSQL.
type Reader struct {
	Address string `json:"address" doc:"Of the database, with a role and its password: the role may read the tables and change nothing."`
}
