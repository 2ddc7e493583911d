package intake

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"prairiedusk/internal/money"
	"prairiedusk/internal/recognise"
	"prairiedusk/internal/record"
)

// A Layout is what the columns of a kind of file mean and how they are written, remembered for the next file with these headings.
type Layout struct {
	Name    string         `json:"name,omitempty"`
	Columns []LayoutColumn `json:"columns"`
	// NotKnown are cells that say that nothing is known, AsTheyStand others that could and do not, in small letters.
	NotKnown    []string `json:"not_known,omitempty"`
	AsTheyStand []string `json:"as_they_stand,omitempty"`
	Currency    string   `json:"currency,omitempty"` // as in Reading, in capitals
	Rows        string   `json:"rows,omitempty"`     // what they are, as in Reading, where a table has order numbers alone and repeats them
	Lines       string   `json:"lines,omitempty"`    // how they are told apart, where they have no numbers
}

// A LayoutColumn is one of them.
type LayoutColumn struct {
	Heading  string `json:"heading"`
	Means    string `json:"means,omitempty"` // as in Reading.Meanings; empty of a column that means nothing here
	Plan     bool   `json:"plan,omitempty"`
	Fact     bool   `json:"fact,omitempty"`     // some of its days were after their load, and it is no plan all the same
	Dates    string `json:"dates,omitempty"`    // name of a recognise.DateForm, for columns that do not tell
	Decimals string `json:"decimals,omitempty"` // of a recognise.NumberForm, likewise
}

// Headings stands for the headings of a layout, by which layouts are told apart: neither their places nor how they are written counts.
func (l Layout) Headings() string {
	hash := sha256.Sum256([]byte(strings.Join(l.plain(), "\n")))
	return hex.EncodeToString(hash[:])
}

func (l Layout) plain() []string {
	all := make([]string, len(l.Columns))
	for i, c := range l.Columns {
		all[i] = plainHeading(c.Heading)
	}
	slices.Sort(all)
	return all
}

// Check says what is wrong with a layout that comes from outside.
func (l Layout) Check() error {
	if len(l.Columns) == 0 || len(l.Columns) > maxColumns {
		return fmt.Errorf("the layout has %d columns; want 1 to %d", len(l.Columns), maxColumns)
	}
	if len(l.NotKnown)+len(l.AsTheyStand) > maxMarks {
		return fmt.Errorf("the layout has more than %d texts that say, or do not say, that nothing is known", maxMarks)
	}
	ofKind := slices.ContainsFunc(record.Kinds(), func(k *record.Kind) bool { return k.Name == l.Rows })
	if l.Rows != "" && !ofKind && l.Rows != RowsAreLines || l.Lines != parseNumbering(l.Lines).String() {
		return errors.New("the layout's rows are of no known kind of record, or it distinguishes lines in no known way")
	}
	if _, err := money.Decimals(l.Currency); err != nil && l.Currency != strings.ToUpper(NoCurrency) {
		return fmt.Errorf("the currency of the layout, %q, is %w", l.Currency, err)
	}
	means := map[string]string{}
	for _, c := range l.Columns {
		name, _ := nameOf(c.Means)
		if earlier, taken := means[name]; taken && name != "" && name != LeftOut {
			return fmt.Errorf("%q and %q both mean %s; want each meaning once", earlier, c.Heading, name)
		}
		means[name] = c.Heading
		if _, known := recognise.ParseDateForm(c.Dates); c.Dates != "" && !known {
			return fmt.Errorf("the dates of %q are %q; want day-first, month-first or year-first", c.Heading, c.Dates)
		}
		if _, known := recognise.ParseNumberForm(c.Decimals); c.Decimals != "" && !known {
			return fmt.Errorf("the decimals of %q are %q; want point or comma", c.Heading, c.Decimals)
		}
	}
	return nil
}

// leastAlike is how many headings a file has to share with a layout that has one more or one less.
const leastAlike = 4

// find is the layout for a header: the one that was named, or that has its headings, or all but one of them, or one more.
func (r Reading) find(header []string) (*Layout, error) {
	if r.Layout == NoLayout {
		return nil, nil
	}
	if r.Layout != "" {
		i := slices.IndexFunc(r.Saved, func(l Layout) bool { return strings.EqualFold(l.Name, r.Layout) })
		if i < 0 {
			return nil, fmt.Errorf("there is no layout %q; see prairie-dusk layout list", r.Layout)
		}
		return &r.Saved[i], nil
	}
	here := Layout{}
	for _, title := range header {
		here.Columns = append(here.Columns, LayoutColumn{Heading: title})
	}
	headings := here.plain()
	var near *Layout
	for i, l := range r.Saved {
		theirs := l.plain()
		if slices.Equal(theirs, headings) {
			return &r.Saved[i], nil
		}
		if common := shared(theirs, headings); common >= leastAlike && len(theirs) <= common+1 && len(headings) <= common+1 && near == nil {
			near = &r.Saved[i]
		}
	}
	return near, nil
}

// NoLayout is the name by which no layout is asked for.
const NoLayout = "none"

// shared is how many texts two sorted lists have in common.
func shared(a, b []string) (n int) {
	for i, j := 0, 0; i < len(a) && j < len(b); {
		switch strings.Compare(a[i], b[j]) {
		case -1:
			i++
		case 1:
			j++
		default:
			n, i, j = n+1, i+1, j+1
		}
	}
	return n
}

// A said is what was said of a column, now or in a layout.
type said struct {
	LayoutColumn
	why string
}

// of is what was said of each column of a header, by place: for this file, or else by the layout.
func (r Reading) of(header []string, layout *Layout) []said {
	all := make([]said, len(header))
	now, plans, facts, meant := map[string]string{}, map[string]bool{}, map[string]bool{}, map[string]bool{}
	for heading, meaning := range r.Meanings {
		name, _ := nameOf(meaning)
		if alias, is := aliases[name]; is {
			name = alias
		}
		now[plainHeading(heading)] = name
		meant[name] = name != LeftOut
	}
	for _, heading := range r.Plans {
		plans[plainHeading(heading)] = true
	}
	for _, heading := range r.Facts {
		facts[plainHeading(heading)] = true
	}
	remembered := map[string]LayoutColumn{}
	if layout != nil {
		for _, c := range layout.Columns {
			remembered[plainHeading(c.Heading)] = c
		}
	}
	for i, title := range header {
		plain := plainHeading(title)
		c, known := remembered[plain]
		if c.Heading = title; known {
			all[i] = said{c, fmt.Sprintf("as the layout %s has it", layout.Name)}
			if meant[c.Means] {
				all[i].Means = ""
			}
		}
		if name, is := now[plain]; is {
			all[i].Means, all[i].why = name, saidSo
		}
		all[i].Plan = (all[i].Plan || plans[plain]) && !facts[plain]
		all[i].Fact = (all[i].Fact || facts[plain]) && !plans[plain]
	}
	return all
}

// Layout is what is to be remembered of the file; ordinary where that is nothing: all its headings are names of ours or of the user's
// own, and its dates and numbers are as programs write them.
func (t *TableReader) Layout() (l Layout, ordinary bool) {
	ordinary = true
	for i, c := range t.Columns() {
		form, own := t.forms[i], ""
		if own, _ = nameOf(c.Heading); aliases[own] != "" {
			own = aliases[own]
		}
		column := LayoutColumn{Heading: c.Heading, Means: c.Means, Plan: t.isPlanColumn(i), Fact: t.said[i].Fact, Dates: t.said[i].Dates,
			Decimals: t.said[i].Decimals}
		if u := t.use[i]; u.kind == asExtra && u.part > 0 && t.numbering != numbered {
			column.Means = record.OrderColumn + "-" + c.Means
		}
		if c.Means == "" && t.said[i].Means == LeftOut {
			column.Means = LeftOut
		}
		if form.told != "" && form.dates != nil && *form.dates <= recognise.YearFirst {
			column.Dates = form.dates.String()
		}
		if form.told != "" && form.numbers != nil {
			column.Decimals = form.numbers.String()
		}
		if c.Heading != "" || c.Means != "" {
			l.Columns = append(l.Columns, column)
		}
		ordinary = ordinary && form.told == "" && t.said[i].Means == "" && (c.Means == own || c.Means == "") && !t.said[i].Plan &&
			!t.said[i].Fact
	}
	l.Name = layoutName(t.file)
	l.NotKnown, l.AsTheyStand = t.marks.remember()
	if l.Lines = t.numbering.String(); t.numbering != numbered {
		l.Rows = RowsAreLines
	} else if t.rowsSaid != "" {
		l.Rows = t.rowsSaid
	}
	if c := t.currencies; c.part >= 0 || len(c.cells) > 0 {
		l.Currency = c.said
	}
	return l, ordinary && l.Rows == "" && l.Currency == "" && t.layout == nil && len(l.NotKnown)+len(l.AsTheyStand) == 0
}

// A Remembered says by which layout a file is read, and in which headings they differ.
type Remembered struct {
	Name         string // empty where there is none
	New, Missing []string
}

// Remembered says by which layout the file is read.
func (t *TableReader) Remembered() (r Remembered) {
	if t.layout == nil {
		return r
	}
	r.Name = t.layout.Name
	known, here := map[string]bool{}, map[string]bool{}
	for _, c := range t.layout.Columns {
		known[plainHeading(c.Heading)] = true
	}
	for _, heading := range t.header {
		plain := plainHeading(heading)
		if here[plain] = true; !known[plain] && plain != "" {
			r.New = append(r.New, heading)
		}
	}
	for _, c := range t.layout.Columns {
		if !here[plainHeading(c.Heading)] {
			r.Missing = append(r.Missing, c.Heading)
		}
	}
	return r
}

func (t *TableReader) isPlanColumn(i int) bool {
	u := t.use[i]
	return u.kind == asExtra && t.parts[u.part].Extras[u.column].Milestone && t.parts[u.part].Extras[u.column].Plan
}

var ofOneFile = regexp.MustCompile(`[\s_.-]*\d[\d\s_.-]*`)

// layoutName is a name for the layout of a file: its own without dates and numbers.
func layoutName(file string) string {
	name := strings.Trim(ofOneFile.ReplaceAllString(Stem(file), " "), " _-.,")
	if name == "" || strings.EqualFold(name, NoLayout) {
		return "file"
	}
	if len(name) > maxLayoutName {
		name = strings.ToValidUTF8(name[:maxLayoutName], "")
	}
	return name
}

const (
	maxLayoutName = 60
	maxMarks      = 100
)
