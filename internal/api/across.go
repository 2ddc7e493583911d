package api

// Across counts by rows and columns, or in each step of time by several dates.
type Across struct {
	Sentence           string          `json:"sentence" doc:"Exactly what was computed."`
	SentenceParts      []SentencePart  `json:"sentence_parts" nullable:"false"`
	Version            int64           `json:"version" doc:"The version of the book that was asked."`
	FirstDay           string          `json:"first_day" format:"date"`
	DataDate           string          `json:"data_date" format:"date"`
	Period             Period          `json:"period" doc:"The days in which the dates are placed."`
	Bases              []string        `json:"bases" nullable:"false" doc:"The milestones that place orders, or goods, in time."`
	Rows               string          `json:"rows,omitempty" doc:"The grouping of the rows."`
	Columns            string          `json:"columns,omitempty"`
	Each               string          `json:"each,omitempty" doc:"The steps of the rows, where several dates are compared."`
	Where              string          `json:"where,omitempty"`
	Figures            []AcrossFigure  `json:"figures" nullable:"false" doc:"One for each figure asked for, each by the same rows."`
	ReconciliationLine string          `json:"reconciliation_line" doc:"What the condition leaves of the orders in the book."`
	Empty              string          `json:"empty" doc:"shown, hidden or alone: steps of time in which nothing lies."`
	EmptySteps         []AcrossNothing `json:"empty_steps" nullable:"false" doc:"How many steps hold nothing, by the reason."`
}

// AcrossNothing is how many steps of time hold nothing for a reason.
type AcrossNothing struct {
	Why   string `json:"why"`
	Steps int    `json:"steps"`
}

// AcrossFigure is what is shown in the cells.
type AcrossFigure struct {
	Show     string       `json:"show"`
	Words    string       `json:"words" doc:"With its unit: units shipped."`
	AddsUp   bool         `json:"adds_up" doc:"Whether two cells together are their sum."`
	Sentence string       `json:"sentence"`
	Parts    []AcrossPart `json:"parts" nullable:"false" doc:"One, or one for each currency of a value: they are never added."`
	Notes    []Note       `json:"notes" nullable:"false"`
}

// AcrossPart is a table for each date, with the same rows and columns.
type AcrossPart struct {
	Currency string         `json:"currency,omitempty"`
	Columns  []AcrossHead   `json:"columns" nullable:"false"`
	Tables   []AcrossTable  `json:"tables" nullable:"false"`
	Bridges  []AcrossBridge `json:"bridges" nullable:"false"`
	// Rows and columns beyond a few thousand are not sent.
	AllRows    int `json:"all_rows" doc:"How many rows there are; a file has all."`
	AllColumns int `json:"all_columns" doc:"How many columns there are."`
}

// AcrossHead names a row or a column.
type AcrossHead struct {
	Key    string   `json:"key" doc:"Empty is none."`
	From   string   `json:"from,omitempty" doc:"The first day of a step of time."`
	To     string   `json:"to,omitempty"`
	Cut    bool     `json:"cut,omitempty" doc:"The records, or the period, do not cover the step whole."`
	Others int      `json:"others,omitempty" doc:"How many rows are gathered here."`
	Whole  []int    `json:"whole,omitempty" doc:"Of a month of the year: the years that cover it whole."`
	InPart []int    `json:"in_part,omitempty" doc:"And those that cover some of it."`
	Days   int      `json:"days,omitempty" doc:"Of a weekday: how many there are."`
	Why    string   `json:"why,omitempty" doc:"Why nothing lies in a step."`
	Per    *float64 `json:"per,omitempty" doc:"What a year behind the month, or a day behind the weekday, has in the mean by the first date."`
	PerAs  string   `json:"per_as,omitempty" doc:"The same as text."`
}

// AcrossCell is what was counted in a cell.
type AcrossCell struct {
	Value *float64 `json:"value" doc:"Null where nothing is counted that has a mean or a share."`
	Text  string   `json:"text" doc:"As people read it."`
	N     int      `json:"n,omitempty" doc:"How many orders a share or a length is of."`
	Of    string   `json:"of,omitempty" doc:"Of a share both whole numbers, of a length how many orders, in words."`
	// Orders is how many lie there at all.
	Orders int `json:"orders,omitempty" doc:"Of a share or a length: how many orders lie there, with those that have no such figure."`
}

// AcrossRow is a row of a table.
type AcrossRow struct {
	AcrossHead
	Cells []AcrossCell `json:"cells" nullable:"false"`
	Total AcrossCell   `json:"total"`
}

// AcrossTable is what one date makes of the question.
type AcrossTable struct {
	Basis     string        `json:"basis"`
	Words     string        `json:"words"`
	Rows      []AcrossRow   `json:"rows" nullable:"false"`
	Total     AcrossRow     `json:"total"`
	Places    []AcrossPlace `json:"places" nullable:"false" doc:"They sum to what is asked about, the same by every date."`
	Line      string        `json:"line" doc:"The places in words."`
	Uncounted int           `json:"uncounted" doc:"Orders inside the period that have no such figure."`
	Means     *AcrossMeans  `json:"means,omitempty"`
}

// AcrossPlace is what lies inside the period, before or after it, or has no day for some reason.
type AcrossPlace struct {
	Name   string     `json:"name"`
	Label  string     `json:"label"`
	Orders int        `json:"orders" doc:"With something there."`
	Amount AcrossCell `json:"amount"`
}

// AcrossMeans are three means that have three names.
type AcrossMeans struct {
	CalendarDays   int        `json:"calendar_days"`
	WorkingDays    int        `json:"working_days" doc:"Worked at some site whose orders are asked about."`
	DaysWith       int        `json:"days_with" doc:"With something."`
	PerCalendarDay AcrossCell `json:"per_calendar_day"`
	PerWorkingDay  AcrossCell `json:"per_working_day"`
	PerDayWith     AcrossCell `json:"per_day_with"`
}

// AcrossBridge leads from what one date places in the period to what another does.
type AcrossBridge struct {
	From  string       `json:"from"`
	To    string       `json:"to"`
	Steps []BridgeStep `json:"steps" nullable:"false"`
	Total AcrossCell   `json:"total" doc:"By the first date."`
	Other AcrossCell   `json:"other" doc:"By the second."`
}

// BridgeStep is what lies in one place by the first date, and in another by the second.
type BridgeStep struct {
	From   string     `json:"from" enum:"before,inside,after,none"`
	To     string     `json:"to" enum:"before,inside,after,none"`
	Label  string     `json:"label"`
	Sign   int        `json:"sign" doc:"0 where it is in both, −1 where it leaves on the way to the second date, +1 where it comes."`
	Amount AcrossCell `json:"amount"`
}
