package intake

import (
	"fmt"
	"maps"
	"runtime/debug"
	"slices"
	"strings"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
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
	Facts    []string              // headings of columns whose days are facts, though some are still to come
	NotKnown []string              // cells that say that nothing is known, and NoMark where no other does
	Ended    func() error          // says why nobody waits for the file any longer; nil where somebody always does
	Today    day.Day               // facts do not lie after it; zero where nobody knows
	Rows     string                // RowsAreOrders or RowsAreLines, where a table has order numbers alone; empty where nobody has said
	// Currency is that of numbers with a sign that several currencies have, or with none; NoCurrency, or empty where nobody has said.
	Currency string
	Saved    []Layout // of earlier files
	Layout   string   // name of the one to read by; empty for that of the headings, if any, and NoLayout for none
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
	for _, heading := range slices.Concat(r.Plans, r.Facts) {
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
	Word    string // of the answer: "dates", "decimals", "map", "plan", "not_known", "rows", "currency", "calendar_of", "observances" or "accept_set_aside"
	File    string // that it is about, where others stand beside it
	Column  string // its heading, or the name of a calendar; empty where the whole file is asked about
	Asks    string
	Answers []string
}

func (q *Question) Error() string {
	text := q.Asks
	switch {
	case q.Word == "calendar_of":
		text = fmt.Sprintf("calendar %q: %s", q.Column, q.Asks)
	case q.Column != "":
		text = fmt.Sprintf("column %q: %s", q.Column, q.Asks)
	}
	if q.File != "" {
		text = q.File + ": " + text
	}
	return text
}

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
func (t *TableReader) recognise(table source.Table, known func(*record.Kind) []record.Extra, reading Reading) error {
	t.forms, t.glances, t.faults = make([]columnForm, len(t.use)), make([]glance, len(t.use)), make([]int64, len(t.use))
	dates, numbers := make([]*recognise.Dates, len(t.use)), make([]*recognise.Numbers, len(t.use))
	for i, u := range t.use {
		kind, ours := t.typeOf(i)
		switch {
		case u.kind == unused:
		case ours && (kind == record.Day || kind == record.Moment):
			dates[i] = recognise.NewDates()
		case ours && (kind == record.Money || kind == record.Amount || kind == record.Units):
			if !table.Plain {
				numbers[i] = recognise.NewNumbers()
			}
		case !ours:
			if extra := t.parts[u.part].Extras[u.column]; !extra.Known || extra.Milestone {
				dates[i] = recognise.NewDates()
			}
		}
	}
	var rows *grain
	if t.parts[0].Kind == record.Orders {
		rows = &grain{contents: map[digest]uint32{}}
	}
	if err := t.look(table, dates, numbers, rows); err != nil {
		return err
	}
	if rows != nil {
		many := len(rows.contents) > 1<<20
		if err := t.decideGrain(rows, table, known, reading); err != nil {
			return err
		}
		if rows = nil; many {
			debug.FreeOSMemory() // what the first look has held goes before the second begins
		}
	}
	if q := t.marks.question(); q != nil {
		t.open = append(t.open, q)
	}
	for i := range t.use {
		if dates[i] != nil {
			v := dates[i].Verdict()
			t.decideDates(i, v, reading)
			t.askPlan(i, v, reading)
		}
		if numbers[i] != nil && t.use[i].kind == asColumn {
			t.decideNumbers(i, numbers[i].Verdict(), reading)
		}
	}
	if err := t.decideCurrencies(known, reading); err != nil {
		return err
	}
	t.addEvidence()
	if t.daily && len(t.parts) > 1 {
		return t.findLatest(table)
	}
	return nil
}

// typeOf is what the cells of a column hold, if it is one of ours: in a table of orders, whose rows may turn out to be lines, those of
// lines as well.
func (t *TableReader) typeOf(i int) (kind record.Type, ours bool) {
	u := t.use[i]
	if u.kind == asColumn {
		return t.parts[u.part].Kind.Columns[u.column].Type, true
	}
	if c := record.Lines.Column(t.meant[i]); c >= 0 && t.parts[0].Kind == record.Orders {
		return record.Lines.Columns[c].Type, true
	}
	return 0, false
}

// look shows all cells to those who look at their columns.
func (t *TableReader) look(table source.Table, dates []*recognise.Dates, numbers []*recognise.Numbers, g *grain) error {
	var short []piece // the rows without all cells that stand together
	return t.each(table, func(row []string, number int) {
		t.rowsSeen++
		if len(row) < len(t.use) {
			short = append(short, piece{number, len(row)})
			t.findSplit(short)
		} else {
			short = short[:0]
		}
		if t.lone(row) {
			return
		}
		if g != nil {
			g.look(t, row)
		}
		for i, cell := range row[:min(len(row), len(t.use))] {
			if cell = t.back(strings.TrimSpace(cell)); cell == "" {
				continue
			}
			t.glances[i].look(cell)
			if t.use[i].kind != unused && t.marks.look(cell, t.header[i], t.markKind(i, dates[i] != nil, numbers[i] != nil)) {
				continue
			}
			if dates[i] != nil {
				dates[i].Look(number, cell)
			} else if numbers[i] != nil {
				numbers[i].Look(number, cell)
				if code := recognise.Currency(cell); code != "" {
					t.currencies.cells[code]++
				}
			}
		}
	})
}

// A piece is a row that lacks cells.
type piece struct{ row, cells int }

// findSplit marks the last of rows that stand together and lack cells, where they make a whole one: a line end in a cell without
// quotes has cut it.
func (t *TableReader) findSplit(short []piece) {
	const most = 50
	whole := 1
	for first := len(short) - 1; first >= max(0, len(short)-most) && whole <= len(t.use); first-- {
		if whole += short[first].cells - 1; whole == len(t.use) && first < len(short)-1 {
			for _, p := range short[first:] {
				t.split[p.row] = true
			}
		}
	}
}

// markKind is what a cell of a column can be to say that nothing is known.
func (t *TableReader) markKind(i int, dates, numbers bool) markKind {
	switch {
	case numbers:
		return inNumbers
	case dates && t.use[i].kind == asExtra && !t.parts[t.use[i].part].Extras[t.use[i].column].Known:
		return inSomeDates
	case dates:
		return inDates
	}
	return inTexts
}

// askPlan asks of a column that is taken for facts whether they are plans, since some of its days are still to come.
func (t *TableReader) askPlan(i int, v recognise.DateVerdict, reading Reading) {
	form, said := t.forms[i], t.said[i]
	if form.dates == nil || reading.Today == 0 || v.Latest[*form.dates] <= reading.Today || said.Plan || said.Fact {
		return
	}
	asks := fmt.Sprintf("its last day, %v, is still to come, and facts are of the past", v.Latest[*form.dates])
	switch u := t.use[i]; u.kind {
	case asExtra:
		if extra := t.parts[u.part].Extras[u.column]; !extra.Known && !extra.Plan {
			t.open = append(t.open, &Question{Word: "plan", Column: t.header[i], Asks: asks, Answers: []string{"plan", "fact"}})
		}
	case asColumn:
		name := t.parts[u.part].Kind.Columns[u.column].Name
		if said.Means == "" && t.why[i] == usualHeading && isFact(name) {
			t.open = append(t.open, &Question{Word: "map", Column: t.header[i], Asks: asks,
				Answers: []string{name, milestone.Promised, milestone.Expected, LeftOut}})
		}
	}
}

// isFact says whether a milestone of ours is a fact.
func isFact(name string) bool {
	return slices.ContainsFunc(milestone.BuiltIn(), func(m milestone.Milestone) bool { return m.Name == name && !m.Plan })
}

func (t *TableReader) decideDates(i int, v recognise.DateVerdict, reading Reading) {
	if v.Seen == v.Strange {
		return // each cell says that it is no day, or they are texts
	}
	if t.use[i].kind == asExtra && !t.parts[t.use[i].part].Extras[t.use[i].column].Known &&
		(v.Strange > 0 || len(v.Forms) > 0 && v.Forms[0] >= recognise.DayNumbers) {
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

// addEvidence says in questions about dates in which form other columns of the file are, if their cells tell.
func (t *TableReader) addEvidence() {
	var told []string
	for i, form := range t.forms {
		if form.dates != nil && form.told == form.dates.String() {
			told = append(told, fmt.Sprintf("column %q is %s", t.header[i], form.told))
		}
	}
	for _, q := range t.open {
		if q.Word == "dates" && len(told) > 0 {
			q.Asks += "; of this file, " + strings.Join(told[:min(len(told), mostEvidence)], " and ")
		}
	}
}

// mostEvidence is how many other columns are named in a question.
const mostEvidence = 3

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
		if form.numbers = &v.Form; v.Form == recognise.Comma {
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
