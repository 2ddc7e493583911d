package intake

import (
	"errors"
	"fmt"
	"io"
	"strings"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/recognise"
	"prairiedusk/internal/record"
	"prairiedusk/internal/source"
)

// A Reading says how dates and numbers are to be read where a file does not tell.
type Reading struct {
	Dates    *recognise.DateForm   // nil where nobody has said
	Decimals *recognise.NumberForm // likewise
}

// A Question is what a file leaves open and only people can tell.
type Question struct {
	Word    string // of the answer: "dates" or "decimals"
	Column  string
	Example string
	Answers []string
	Because []recognise.Reason
}

func (q *Question) Error() string {
	text := fmt.Sprintf("column %q: %s, and no cell of the column tells which", q.Column, q.Example)
	if q.Example == "" {
		because := make([]string, len(q.Because))
		for i, r := range q.Because {
			because[i] = r.String()
		}
		text = fmt.Sprintf("column %q: %s; no form fits all, and rows that do not fit yours are set aside", q.Column, strings.Join(because, ", "))
	}
	options := make([]string, len(q.Answers))
	for i, answer := range q.Answers {
		options[i] = "--" + q.Word + " " + answer
	}
	return text + "; say " + strings.Join(options, " or ")
}

// A columnForm is how the cells of a column are written; nil pointers where they are as programs write them.
type columnForm struct {
	dates     *recognise.DateForm
	daysAlone bool // all are midnights in UTC, and so days
	numbers   *recognise.NumberForm
}

// date is a cell as ISO 8601 has it; itself where it is no date in the form of its column.
func (f columnForm) date(cell string) string {
	if f.dates == nil {
		return cell
	}
	if !f.daysAlone {
		if _, err := day.ParseMoment(cell); err == nil {
			return cell
		}
	}
	if iso, is := f.dates.ISO(cell, f.daysAlone); is {
		return iso
	}
	return cell
}

// number is a cell as a plain decimal; itself where it is no number in the form of its column.
func (f columnForm) number(cell string) string {
	if f.numbers == nil {
		return cell
	}
	if plain := f.numbers.Decimal(cell); plain != "" {
		return plain
	}
	return cell
}

// recognise tells by all rows in which form the dates and numbers of each column are written. The error is a *Question where that
// cannot be told.
func (t *TableReader) recognise(table source.Table, reading Reading) error {
	t.forms = make([]columnForm, len(t.use))
	dates, numbers := make([]*recognise.Dates, len(t.use)), make([]*recognise.Numbers, len(t.use))
	some := false
	for i, u := range t.use {
		switch {
		case u.kind == asExtra:
			if extra := t.parts[u.part].Extras[u.column]; !extra.Known || extra.Milestone {
				dates[i] = recognise.NewDates()
			}
		case u.kind == asColumn:
			switch t.parts[u.part].Kind.Columns[u.column].Type {
			case record.Day, record.Moment:
				dates[i] = recognise.NewDates()
			case record.Money, record.Amount, record.Units:
				if !table.Plain {
					numbers[i] = recognise.NewNumbers()
				}
			}
		}
		some = some || dates[i] != nil || numbers[i] != nil
	}
	if !some {
		return nil
	}
	if err := t.look(table, dates, numbers); err != nil {
		return err
	}
	for i := range t.use {
		if dates[i] != nil {
			if err := t.decideDates(i, dates[i].Verdict(), reading); err != nil {
				return err
			}
		}
		if numbers[i] != nil {
			if err := t.decideNumbers(i, numbers[i].Verdict(), reading); err != nil {
				return err
			}
		}
	}
	return nil
}

// look shows all cells to those who look at their columns.
func (t *TableReader) look(table source.Table, dates []*recognise.Dates, numbers []*recognise.Numbers) error {
	rows, err := table.Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	var row source.Row
	for at := 0; ; at++ {
		err := rows.Next(&row)
		var fault *source.RowError
		switch {
		case errors.Is(err, io.EOF):
			return nil
		case errors.As(err, &fault):
			continue
		case err != nil:
			return err
		}
		if at == 0 || at == 1 && t.titled || len(row.Cells) != len(t.use) && !t.padded {
			continue
		}
		for i, cell := range row.Cells[:min(len(row.Cells), len(t.use))] {
			if dates[i] == nil && numbers[i] == nil {
				continue
			}
			if cell = t.back(strings.TrimSpace(cell)); cell == "" {
				continue
			}
			if dates[i] != nil {
				dates[i].Look(row.At.Number(), cell)
			} else {
				numbers[i].Look(row.At.Number(), cell)
			}
		}
	}
}

func (t *TableReader) decideDates(i int, v recognise.DateVerdict, reading Reading) error {
	if v.Seen == v.Strange {
		return nil // each cell says that it is no day, or they are texts
	}
	if t.use[i].kind == asExtra && !t.parts[t.use[i].part].Extras[t.use[i].column].Known && (v.Strange > 0 || len(v.Forms) > 0 && v.Forms[0] >= recognise.DayNumbers) {
		return nil // a column of the user's own that holds texts, or numbers
	}
	form := &t.forms[i]
	form.daysAlone = v.Days
	if v.Answer == recognise.Sure {
		form.dates = &v.Forms[0]
		return nil
	}
	if form.dates = reading.Dates; form.dates != nil {
		return nil
	}
	q := &Question{Word: "dates", Column: t.header[i], Example: v.Example, Because: v.Because}
	for f := recognise.DayFirst; f <= recognise.YearFirst; f++ {
		if v.Answer != recognise.Ask || has(v.Forms, f) {
			q.Answers = append(q.Answers, f.String())
		}
	}
	return q
}

func has(forms []recognise.DateForm, form recognise.DateForm) bool {
	for _, f := range forms {
		if f == form {
			return true
		}
	}
	return false
}

func (t *TableReader) decideNumbers(i int, v recognise.NumberVerdict, reading Reading) error {
	form := &t.forms[i]
	if v.Answer == recognise.Sure {
		form.numbers = &v.Form
		return nil
	}
	if form.numbers = reading.Decimals; form.numbers != nil {
		return nil
	}
	return &Question{Word: "decimals", Column: t.header[i], Example: v.Example, Because: v.Because, Answers: []string{recognise.Point.String(), recognise.Comma.String()}}
}
