package api

// Overview sets the last full month beside the one before.
type Overview struct {
	Sentence string           `json:"sentence"`
	Month    string           `json:"month" doc:"The last month that the records cover whole."`
	Before   string           `json:"before" doc:"The month before it."`
	DataDate string           `json:"data_date" format:"date"`
	Version  int64            `json:"version"`
	Figures  []OverviewFigure `json:"figures" nullable:"false"`
}

// OverviewFigure is one number of both months.
type OverviewFigure struct {
	Code     string   `json:"code"`
	Label    string   `json:"label"`
	Sentence string   `json:"sentence" doc:"Exactly what was computed, of the month."`
	Address  string   `json:"address" doc:"The page of the console that asks it."`
	Text     string   `json:"text" doc:"Of the month; empty where there is nothing to tell."`
	Value    *float64 `json:"value" nullable:"true"`
	Behind   string   `json:"behind" doc:"What it is of: both whole numbers, or how many are counted."`
	// Before is left out of what is not of a month.
	Before       string   `json:"before,omitempty"`
	BeforeValue  *float64 `json:"before_value,omitempty"`
	BeforeBehind string   `json:"before_behind,omitempty"`
	Change       string   `json:"change,omitempty" doc:"From the month before to the month, with its sign and unit."`
	Remark       string   `json:"remark,omitempty" doc:"What has to be known to read it."`
}
