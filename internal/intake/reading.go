package intake

import (
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/recognise"
	"prairiedusk/internal/record"
	"prairiedusk/internal/source"
)

// A Reading says what a file does not tell: what its columns mean, and how its dates and numbers are to be read.
type Reading struct {
	Dates    *recognise.DateForm   // nil where nobody has said
	Decimals *recognise.NumberForm // likewise
	Meanings map[string]string     // of columns by their heading: the name of a column, or LeftOut
	Plans    []string              // headings of columns whose days are plans
	Saved    []Layout              // of earlier files
	Layout   string                // name of the one to read by; empty for that of the headings, if any, and NoLayout for none
}

// LeftOut is the meaning of a column that is not to be read.
const LeftOut = "left-out"

// Headings are what has been said of columns that no file has had so far, in the plain form of their headings.
type Headings map[string]string

// Headings are those of which something has been said.
func (r Reading) Headings() Headings {
	all := Headings{}
	for heading := range r.Meanings {
		all[plainHeading(heading)] = heading
	}
	for _, heading := range r.Plans {
		all[plainHeading(heading)] = heading
	}
	return all
}

// Meet forgets the headings that a file has.
func (h Headings) Meet(header []string) {
	for _, title := range header {
		delete(h, plainHeading(title))
	}
}

// Fault says that no file had some heading; nil where none is left.
func (h Headings) Fault() error {
	if len(h) == 0 {
		return nil
	}
	return fmt.Errorf("no file has the column %s, of which something was said", quoteAll(slices.Sorted(maps.Values(h))))
}

// A Question is what a file leaves open and only people can tell.
type Question struct {
	Word    string // of the answer: "dates", "decimals" or "map"
	Column  string // its heading
	Asks    string
	Answers []string
}

func (q *Question) Error() string { return fmt.Sprintf("column %q: %s", q.Column, q.Asks) }

// Questions are all that a file leaves open.
type Questions []*Question

func (all Questions) Error() string {
	texts := make([]string, len(all))
	for i, q := range all {
		texts[i] = q.Error()
	}
	return strings.Join(texts, "; ")
}

// A columnForm is how the cells of a column are written; nil pointers where they are as programs write them.
type columnForm struct {
	dates     *recognise.DateForm
	daysAlone bool // all are midnights in UTC, and so days
	numbers   *recognise.NumberForm
	told      string // in words, where they are not as programs write them
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

// recognise tells by all rows in which form the dates and numbers of each column are written, and asks where that cannot be told.
func (t *TableReader) recognise(table source.Table, reading Reading) error {
	t.forms, t.glances, t.faults = make([]columnForm, len(t.use)), make([]glance, len(t.use)), make([]int64, len(t.use))
	dates, numbers := make([]*recognise.Dates, len(t.use)), make([]*recognise.Numbers, len(t.use))
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
	}
	if err := t.look(table, dates, numbers); err != nil {
		return err
	}
	for i := range t.use {
		if dates[i] != nil {
			t.decideDates(i, dates[i].Verdict(), reading)
		}
		if numbers[i] != nil {
			t.decideNumbers(i, numbers[i].Verdict(), reading)
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
		if at <= t.before || t.noRecord(row.Cells) != "" {
			continue
		}
		t.rowsSeen++
		if len(row.Cells) != len(t.use) && !t.padded {
			continue
		}
		for i, cell := range row.Cells[:min(len(row.Cells), len(t.use))] {
			if cell = t.back(strings.TrimSpace(cell)); cell == "" {
				continue
			}
			t.glances[i].look(cell)
			if dates[i] != nil {
				dates[i].Look(row.At.Number(), cell)
			} else if numbers[i] != nil {
				numbers[i].Look(row.At.Number(), cell)
			}
		}
	}
}

func (t *TableReader) decideDates(i int, v recognise.DateVerdict, reading Reading) {
	if v.Seen == v.Strange {
		return // each cell says that it is no day, or they are texts
	}
	if t.use[i].kind == asExtra && !t.parts[t.use[i].part].Extras[t.use[i].column].Known && (v.Strange > 0 || len(v.Forms) > 0 && v.Forms[0] >= recognise.DayNumbers) {
		return // a column of the user's own that holds texts, or numbers
	}
	form := &t.forms[i]
	if form.daysAlone = v.Days; v.Days {
		form.told = "days, written as midnights in UTC"
	}
	if v.Answer == recognise.Sure {
		if !v.Plain {
			form.told = v.Forms[0].String()
		}
		form.dates = &v.Forms[0]
		return
	}
	if form.dates = reading.Dates; form.dates != nil {
		form.told = form.dates.String() + ", as said"
		return
	}
	if remembered, is := recognise.ParseDateForm(t.said[i].Dates); is {
		form.dates, form.told = &remembered, remembered.String()+", "+t.said[i].why
		return
	}
	q := t.asks("dates", i, v.Example, v.Because)
	for f := recognise.DayFirst; f <= recognise.YearFirst; f++ {
		if v.Answer != recognise.Ask || has(v.Forms, f) {
			q.Answers = append(q.Answers, f.String())
		}
	}
}

// asks adds a question about the form of a column, with the example that fits two forms or the reasons why none fits all cells.
func (t *TableReader) asks(word string, i int, example string, because []recognise.Reason) *Question {
	asks := example + ", and no cell of the column tells which"
	if example == "" {
		reasons := make([]string, len(because))
		for i, r := range because {
			reasons[i] = r.String()
		}
		asks = strings.Join(reasons, ", ") + "; no form fits all, and rows that do not fit yours are set aside"
	}
	q := &Question{Word: word, Column: t.header[i], Asks: asks}
	t.open = append(t.open, q)
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

func (t *TableReader) decideNumbers(i int, v recognise.NumberVerdict, reading Reading) {
	form := &t.forms[i]
	if v.Answer == recognise.Sure {
		if form.numbers = &v.Form; len(v.Because) > 0 {
			form.told = v.Form.String() + " before decimals"
		}
		return
	}
	if form.numbers = reading.Decimals; form.numbers != nil {
		form.told = form.numbers.String() + " before decimals, as said"
		return
	}
	if remembered, is := recognise.ParseNumberForm(t.said[i].Decimals); is {
		form.numbers, form.told = &remembered, remembered.String()+" before decimals, "+t.said[i].why
		return
	}
	t.asks("decimals", i, v.Example, v.Because).Answers = []string{recognise.Point.String(), recognise.Comma.String()}
}
