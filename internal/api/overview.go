package api

// Overview sets the last full month beside the one before, and says what is late and what the last load changed.
type Overview struct {
	Sentence string           `json:"sentence"`
	Month    string           `json:"month" doc:"The last month that the records cover whole."`
	Before   string           `json:"before" doc:"The month before it."`
	DataDate string           `json:"data_date" format:"date"`
	Version  int64            `json:"version"`
	Figures  []OverviewFigure `json:"figures" nullable:"false"`
	Lists    []OverviewList   `json:"lists" nullable:"false" doc:"What is late today, what the last load changed, what is open longest, and what wants attention."`
}

// OverviewFigure is one number of both months.
type OverviewFigure struct {
	Code     string   `json:"code"`
	Label    string   `json:"label"`
	Sentence string   `json:"sentence" doc:"Exactly what was computed, of the month."`
	Address  string   `json:"address" doc:"The page of the console that asks it."`
	Text     string   `json:"text" doc:"Of the month; empty where the figure is not known."`
	Value    *float64 `json:"value" nullable:"true"`
	Behind   string   `json:"behind" doc:"What it is of: both whole numbers, or how many are counted."`
	// Before is left out of what is not of a month.
	Before       string          `json:"before,omitempty"`
	BeforeValue  *float64        `json:"before_value,omitempty"`
	BeforeBehind string          `json:"before_behind,omitempty"`
	Change       string          `json:"change,omitempty" doc:"From the month before to the month, in words."`
	Remark       string          `json:"remark,omitempty" doc:"What has to be known to read it."`
	Trend        []OverviewMonth `json:"trend,omitempty" doc:"The last 13 months, as far as the records go, up to the month."`
}

// OverviewMonth is a figure in one month.
type OverviewMonth struct {
	Month string   `json:"month"`
	Text  string   `json:"text" doc:"Empty where the figure is not known."`
	Value *float64 `json:"value" nullable:"true"`
}

// OverviewList is a few rows that lead on.
type OverviewList struct {
	Code  string        `json:"code"`
	Title string        `json:"title"`
	Rows  []OverviewRow `json:"rows" nullable:"false"`
	None  string        `json:"none,omitempty" doc:"What to say where there is no row."`
}

// OverviewRow is one of them.
type OverviewRow struct {
	Text    string `json:"text"`
	Number  string `json:"number,omitempty"`
	Order   string `json:"order,omitempty" doc:"Its number, where the row is one order."`
	Address string `json:"address,omitempty" doc:"The page of the console that shows more."`
}
