package intake

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/record"
)

// A Column is what a column of a file was taken for.
type Column struct {
	Heading       string
	Kind          string // of the records that it belongs to; empty where it is not read
	Means         string // name of the column; empty where it is not read
	Form          string // of its dates or numbers; empty where they are as programs write them, and of texts
	Why           string
	Samples       []string // the first cells that differ, as they stand in the file
	Rows, Filled  int64
	NotUnderstood int64 // cells for which a row was set aside, so far
}

// Samples are shown so many, and not longer.
const (
	maxSamples = 3
	maxSample  = 60
)

// A glance is what is seen of a column before its rows are read.
type glance struct {
	samples []string
	filled  int64
}

func (g *glance) look(cell string) {
	if g.filled++; len(g.samples) < maxSamples {
		cell = numfmt.Clipped(cell, maxSample)
		if !slices.Contains(g.samples, cell) {
			g.samples = append(g.samples, strings.Clone(cell))
		}
	}
}

// Columns says what the columns of the file were taken for, and why.
func (t *TableReader) Columns() []Column {
	all := make([]Column, len(t.header))
	for i, heading := range t.header {
		c := &all[i]
		*c = Column{Heading: heading, Why: t.why[i], Samples: t.glances[i].samples, Rows: t.rowsSeen, Filled: t.glances[i].filled,
			NotUnderstood: t.faults[i]}
		u, form := t.use[i], t.forms[i]
		if u.kind == unused {
			continue
		}
		part := t.parts[u.part]
		if c.Kind = part.Kind.Name; u.kind == asColumn {
			c.Means = part.Kind.Columns[u.column].Name
		} else {
			extra := part.Extras[u.column]
			c.Means = extra.Name
			switch {
			case !extra.Known:
				c.Form = "nothing yet"
			case extra.Plan && extra.Milestone:
				c.Form = "dates, a plan"
			case extra.Milestone:
				c.Form = "dates"
			default:
				c.Form = "text"
			}
		}
		if form.told != "" {
			c.Form = strings.TrimPrefix(c.Form+", "+form.told, ", ")
		}
	}
	return all
}

// TooMany says that so many rows were set aside that the file may be read in the wrong way, when all of it has been read: more than 2
// in 100, or every cell of a column. It is empty where they are few.
func (t *TableReader) TooMany(setAside int) string {
	for i, faults := range t.faults {
		if faults > 0 && faults == t.glances[i].filled {
			return fmt.Sprintf("every cell of column %q, and with them %s of %s,", t.header[i], numfmt.Count(setAside),
				numfmt.Counted(int(t.rowsSeen), "row"))
		}
	}
	const oneInSo = 50
	if int64(setAside)*oneInSo > t.rowsSeen {
		return fmt.Sprintf("%s of %s", numfmt.Count(setAside), numfmt.Counted(int(t.rowsSeen), "row"))
	}
	return ""
}

// Meanings are the names that a column of a file can be given.
func Meanings() (names []string) {
	for _, kind := range record.Kinds() {
		for _, c := range kind.Columns {
			if !slices.Contains(names, c.Name) {
				names = append(names, c.Name)
			}
		}
	}
	return names
}
