package render

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"io"
	"iter"
	"strconv"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/escape"
)

func writeCSV(w io.Writer, s sheet) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	headings := s.headings()
	cells := make([]string, len(headings))
	cells[0] = strings.Join(append([]string{s.sentence}, s.lines...), " ")
	if err := out.Write(cells); err != nil {
		return err
	}
	for i, heading := range headings {
		cells[i] = escape.Out(heading)
	}
	if err := out.Write(cells); err != nil {
		return err
	}
	for r := range s.rows {
		for i, c := range s.columns {
			cells[i] = text(c, r.Cells[i])
			if !c.Kind.Numeric() && c.Kind != answer.Day {
				cells[i] = escape.Out(cells[i])
			}
		}
		for i, besides := range s.besides(r) {
			cells[len(s.columns)+i] = escape.Out(besides)
		}
		if err := out.Write(cells); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// opening is the first line of NDJSON.
type opening struct {
	Sentence string   `json:"sentence"`
	Lines    []string `json:"lines"`
	Columns  []string `json:"columns"`
}

func writeNDJSON(w io.Writer, s sheet) error {
	out := bufio.NewWriter(w)
	_, _ = out.Write(append(marshalled(opening{s.sentence, s.lines, s.headings()}), '\n'))
	names := s.names()
	for r := range s.rows {
		s.writeObject(out, names, r)
		if err := out.WriteByte('\n'); err != nil {
			return err
		}
	}
	return out.Flush()
}

// noRows is where the rows of a document stand in its JSON: no text holds it, since quotes in texts are escaped.
const noRows = `"rows":[]`

// writeJSON writes a document of one table, whose rows come one by one.
func writeJSON(w io.Writer, d *answer.Document, rows iter.Seq[answer.Row]) error {
	before, after, _ := bytes.Cut(marshalled(d), []byte(noRows))
	out := bufio.NewWriter(w)
	_, _ = out.Write(before)
	_, _ = out.WriteString(noRows[:len(noRows)-1])
	between := "\n"
	for r := range rows {
		_, _ = out.WriteString(between)
		between = ",\n"
		if _, err := out.Write(marshalled(r)); err != nil {
			return err
		}
	}
	_, _ = out.WriteString(noRows[len(noRows)-1:])
	_, _ = out.Write(append(after, '\n'))
	return out.Flush()
}

// names are the headings as members of an object, each with its colon.
func (s sheet) names() []string {
	var names []string
	for _, heading := range s.headings() {
		names = append(names, quoted(heading)+":")
	}
	return names
}

func quoted(text string) string { return string(marshalled(text)) }

// marshalled is a value as JSON, without the escapes that only HTML needs; what is written here always can be.
func marshalled(value any) []byte {
	var out bytes.Buffer
	encoder := json.NewEncoder(&out)
	encoder.SetEscapeHTML(false)
	_ = encoder.Encode(value)
	return bytes.TrimSuffix(out.Bytes(), []byte("\n"))
}

// writeObject writes a row: numbers as numbers, conditions as true, false or null, what is missing as null. An error
// stays with the writer until it is flushed.
func (s sheet) writeObject(out *bufio.Writer, names []string, r answer.Row) {
	begin := byte('{')
	member := func(name, value string) {
		_ = out.WriteByte(begin)
		begin = ','
		_, _ = out.WriteString(name)
		_, _ = out.WriteString(value)
	}
	for i, c := range s.columns {
		cell, value := r.Cells[i], "null"
		switch {
		case c.Kind == answer.YesNo && cell.Number != nil:
			value = strconv.FormatBool(*cell.Number != 0)
		case c.Kind.Numeric() && cell.Number != nil:
			value = strconv.FormatFloat(*cell.Number, 'f', -1, 64)
		case cell.Text != "" && c.Kind != answer.YesNo && !c.Kind.Numeric():
			value = quoted(text(c, cell))
		}
		member(names[i], value)
	}
	for i, besides := range s.besides(r) {
		member(names[len(s.columns)+i], quoted(besides))
	}
	_ = out.WriteByte('}')
}
