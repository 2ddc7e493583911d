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

	"prairiedusk/internal/core/list"
	"prairiedusk/internal/escape"
)

func writeCSV(w io.Writer, head Head, rows iter.Seq[list.Row]) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	headings := head.headings()
	cells := make([]string, len(headings))
	cells[0] = strings.Join(append([]string{head.Sentence}, head.Lines...), " ")
	if err := out.Write(cells); err != nil {
		return err
	}
	for i, heading := range headings {
		cells[i] = escape.Out(heading)
	}
	if err := out.Write(cells); err != nil {
		return err
	}
	for r := range rows {
		for i, c := range head.Columns {
			cells[i] = r.Cells[i].Text
			if c.Kind == list.Text || c.Kind == list.Joined {
				cells[i] = escape.Out(cells[i])
			} else if moment := r.Cells[i].Moment; moment.Timed {
				cells[i] = moment.String() // so that it comes back as the same instant
			}
		}
		for i, besides := range head.besides(r) {
			cells[len(head.Columns)+i] = escape.Out(besides)
		}
		if err := out.Write(cells); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// opening is the first line of NDJSON, and the first members of JSON.
type opening struct {
	Sentence string   `json:"sentence"`
	Lines    []string `json:"lines"`
	Columns  []string `json:"columns"`
}

func writeNDJSON(w io.Writer, head Head, rows iter.Seq[list.Row]) error {
	out := bufio.NewWriter(w)
	first := marshalled(opening{head.Sentence, head.Lines, head.headings()})
	_, _ = out.Write(append(first, '\n'))
	names := head.names()
	for r := range rows {
		head.writeObject(out, names, r)
		if err := out.WriteByte('\n'); err != nil {
			return err
		}
	}
	return out.Flush()
}

func writeJSON(w io.Writer, head Head, rows iter.Seq[list.Row]) error {
	out := bufio.NewWriter(w)
	first := marshalled(opening{head.Sentence, head.Lines, head.headings()})
	_, _ = out.Write(first[:len(first)-1])
	_, _ = out.WriteString(`,"rows":[`)
	names, before := head.names(), "\n"
	for r := range rows {
		_, _ = out.WriteString(before)
		before = ",\n"
		head.writeObject(out, names, r)
	}
	if _, err := out.WriteString("\n]}\n"); err != nil {
		return err
	}
	return out.Flush()
}

// names are the headings as members of an object, each with its colon.
func (h Head) names() []string {
	var names []string
	for _, heading := range h.headings() {
		names = append(names, quoted(heading)+":")
	}
	return names
}

func quoted(text string) string { return string(marshalled(text)) }

// marshalled is a value as JSON, without the escapes that only HTML needs; texts always can be.
func marshalled(value any) []byte {
	var out bytes.Buffer
	encoder := json.NewEncoder(&out)
	encoder.SetEscapeHTML(false)
	_ = encoder.Encode(value)
	return bytes.TrimSuffix(out.Bytes(), []byte("\n"))
}

// writeObject writes a row: numbers as numbers, conditions as true, false or null, what is missing as null. An error
// stays with the writer until it is flushed.
func (h Head) writeObject(out *bufio.Writer, names []string, r list.Row) {
	begin := byte('{')
	member := func(name, value string) {
		_ = out.WriteByte(begin)
		begin = ','
		_, _ = out.WriteString(name)
		_, _ = out.WriteString(value)
	}
	for i, c := range h.Columns {
		cell := r.Cells[i]
		value := "null"
		switch {
		case c.Kind == list.YesNo && cell.Text != list.Undecided:
			value = map[string]string{list.Yes: "true", list.No: "false"}[cell.Text]
		case cell.Text == "" || c.Kind == list.YesNo:
		case c.Kind == list.Number:
			value = strconv.FormatFloat(cell.Number, 'f', -1, 64)
		case c.Kind == list.OnDay && cell.Moment.Timed:
			value = quoted(cell.Moment.String())
		case c.Kind == list.OnDay:
			value = quoted(strings.Replace(cell.Text, " ", "T", 1))
		default:
			value = quoted(cell.Text)
		}
		member(names[i], value)
	}
	for i, besides := range h.besides(r) {
		member(names[len(h.Columns)+i], quoted(besides))
	}
	_ = out.WriteByte('}')
}
