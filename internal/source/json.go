package source

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
)

// mostColumns bounds the columns of a table.
const mostColumns = 1000

// openJSON tells what a file of JSON holds: an object on each line, an array of objects, or an object that holds one such array.
func (o *Opened) openJSON(t text, table Table, array bool) error {
	j := jsonTable{text: t, array: array}
	switch {
	case array:
		table.Form = "JSON"
	default:
		lines, err := j.find()
		if err != nil {
			return err
		}
		table.Form = "JSON, the records of " + j.key
		if lines {
			table.Form = "NDJSON"
		}
	}
	if t.words != "UTF-8" {
		table.Form += ", " + t.words
	}
	if err := j.collect(); err != nil {
		return err
	}
	table.Plain = true
	table.rows = func() (Rows, error) { return j.rows() }
	o.Tables = append(o.Tables, table)
	return nil
}

// A jsonTable is where the records of a file of JSON are, and which values they have.
type jsonTable struct {
	text    text
	array   bool
	key     string // of the array in the object that the file is; empty where it is none
	columns []string
	// list is the name of the one list of objects that records have, such as the lines of an order, and inList are the names of its
	// values by column: each object is a row, with the values of its record beside it. Empty where there is none, or several.
	list   string
	inList map[string]string
}

func (j *jsonTable) wrong(err error) error {
	var refusal *Refusal
	var syntax *json.SyntaxError
	switch {
	case errors.As(err, &refusal):
		return err
	case errors.As(err, &syntax):
		return fmt.Errorf("the JSON is broken after %d bytes: %w; want it whole", syntax.Offset, err)
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		return errors.New("the JSON ends early; want it whole")
	}
	return fmt.Errorf("the JSON cannot be read: %w", err)
}

// find says whether the file is lines of objects, or else finds the array of objects in the one that it is.
func (j *jsonTable) find() (lines bool, err error) {
	r, _ := j.text.open()
	decoder := json.NewDecoder(r)
	var keys []string
	if _, err := decoder.Token(); err != nil { // {
		return false, j.wrong(err)
	}
	for decoder.More() {
		key, err := decoder.Token()
		if err != nil {
			return false, j.wrong(err)
		}
		token, err := decoder.Token()
		if err != nil {
			return false, j.wrong(err)
		}
		delimiter, opens := token.(json.Delim)
		if !opens {
			continue
		}
		if delimiter == '[' && decoder.More() {
			if first, err := decoder.Token(); err != nil {
				return false, j.wrong(err)
			} else if first == json.Delim('{') {
				keys = append(keys, fmt.Sprint(key))
				if err := leave(decoder); err != nil {
					return false, j.wrong(err)
				}
			} else if _, opens := first.(json.Delim); opens {
				if err := leave(decoder); err != nil {
					return false, j.wrong(err)
				}
			}
		}
		if err := leave(decoder); err != nil {
			return false, j.wrong(err)
		}
	}
	if _, err := decoder.Token(); err != nil { // }
		return false, j.wrong(err)
	}
	if _, err := decoder.Token(); !errors.Is(err, io.EOF) || len(keys) == 0 {
		return true, nil // another object follows, or this one is a record itself
	}
	if len(keys) > 1 {
		return false, &Refusal{"a JSON object with several lists: " + strings.Join(keys, ", "), "want a file for each"}
	}
	j.key = keys[0]
	return false, nil
}

// leave reads to the end of what has been opened last.
func leave(decoder *json.Decoder) error {
	for depth := 1; depth > 0; {
		token, err := decoder.Token()
		if err != nil {
			return err
		}
		if delimiter, is := token.(json.Delim); is && (delimiter == '{' || delimiter == '[') {
			depth++
		} else if is {
			depth--
		}
	}
	return nil
}

// collect finds the names of all values that records have, in the order in which they come.
func (j *jsonTable) collect() error {
	s, err := j.rows()
	if err != nil {
		return err
	}
	known, ofLists := map[string]bool{}, map[string][]string{}
	for {
		if err := s.record(); err != nil {
			if errors.Is(err, io.EOF) {
				break
			}
			return err
		}
		for _, name := range s.names {
			if !known[name] {
				known[name] = true
				j.columns = append(j.columns, name)
			}
		}
		for name, objects := range s.lists {
			for _, object := range objects {
				for _, key := range slices.Sorted(maps.Keys(object)) {
					if !slices.Contains(ofLists[name], key) && len(ofLists[name]) <= mostColumns {
						ofLists[name] = append(ofLists[name], key)
					}
				}
			}
		}
		if len(j.columns) > mostColumns {
			return &Refusal{fmt.Sprintf("JSON whose records have more than %d values of different names", mostColumns),
				"want records of one kind"}
		}
	}
	if len(ofLists) == 1 {
		for name, keys := range ofLists {
			j.unfold(name, keys)
		}
	}
	if len(j.columns) == 0 {
		return &Refusal{"JSON without records", "want an array of objects, or an object on each line"}
	}
	return nil
}

// unfold makes the objects of a list rows. Their values have their own names, with that of the list before it where the record has such
// a value as well.
func (j *jsonTable) unfold(list string, keys []string) {
	j.columns = slices.DeleteFunc(j.columns, func(name string) bool { return name == list })
	j.list, j.inList = list, map[string]string{}
	for _, key := range keys {
		name := key
		if slices.Contains(j.columns, key) {
			name = list + "." + key
		}
		j.columns, j.inList[name] = append(j.columns, name), key
	}
}

func (j *jsonTable) rows() (*jsonRows, error) {
	r, count := j.text.open()
	s := &jsonRows{table: j, decoder: json.NewDecoder(r), count: count, values: map[string]string{},
		lists: map[string][]map[string]string{}}
	s.decoder.UseNumber()
	if j.array {
		_, err := s.decoder.Token() // [
		return s, err
	}
	if j.key == "" {
		return s, nil
	}
	if _, err := s.decoder.Token(); err != nil { // {
		return nil, j.wrong(err)
	}
	for s.decoder.More() {
		key, err := s.decoder.Token()
		if err != nil {
			return nil, j.wrong(err)
		}
		token, err := s.decoder.Token()
		if err != nil {
			return nil, j.wrong(err)
		}
		if key == j.key && token == json.Delim('[') {
			return s, nil
		}
		if _, opens := token.(json.Delim); opens {
			if err := leave(s.decoder); err != nil {
				return nil, j.wrong(err)
			}
		}
	}
	return s, nil
}

// jsonRows reads records.
type jsonRows struct {
	table   *jsonTable
	decoder *json.Decoder
	count   *counter
	at      int
	names   []string // of the values of the record at hand, in their order
	values  map[string]string
	lists   map[string][]map[string]string // of objects, by name
	left    []map[string]string            // of the list that is unfolded
	cells   []string
}

// record reads the next record; io.EOF ends them.
func (s *jsonRows) record() error {
	if (s.table.array || s.table.key != "") && !s.decoder.More() {
		return io.EOF
	}
	s.names = s.names[:0]
	clear(s.values)
	clear(s.lists)
	token, err := s.decoder.Token()
	if errors.Is(err, io.EOF) && !s.table.array && s.table.key == "" {
		return io.EOF
	}
	if err != nil {
		return s.table.wrong(err)
	}
	s.at++
	if token != json.Delim('{') {
		return &Refusal{fmt.Sprintf("JSON whose record %d is no object", s.at), "want an array of objects, or an object on each line"}
	}
	if err := s.object("", 0); err != nil {
		return s.table.wrong(err)
	}
	return nil
}

const (
	deepestObject = 20
	mostInList    = 100_000
)

// object reads the values of an object that has begun; those of objects within it are named by their path.
func (s *jsonRows) object(path string, depth int) error {
	if depth > deepestObject {
		return &Refusal{"JSON with objects in objects without end", "want plain records"}
	}
	for s.decoder.More() {
		key, err := s.decoder.Token()
		if err != nil {
			return err
		}
		name := path + fmt.Sprint(key)
		var value string
		// What follows decides whether it is read as a whole.
		token, err := s.decoder.Token()
		if err != nil {
			return err
		}
		switch token := token.(type) {
		case json.Delim:
			if token == '{' {
				if err := s.object(name+".", depth+1); err != nil {
					return err
				}
				continue
			}
			var objects []map[string]string
			if value, objects, err = s.listed(); err != nil {
				return err
			}
			if len(objects) > 0 {
				s.lists[name] = objects
			}
		case string:
			value = token
		case json.Number:
			value = plain(token.String())
		case bool:
			value = fmt.Sprint(token)
		}
		if _, twice := s.values[name]; !twice {
			s.names = append(s.names, name)
		}
		s.values[name] = value
	}
	_, err := s.decoder.Token() // }
	return err
}

// listed reads an array that has begun: as the text of its values with commas between them and, where all are objects, as those.
func (s *jsonRows) listed() (text string, objects []map[string]string, err error) {
	var all []string
	for s.decoder.More() {
		var value any
		if err := s.decoder.Decode(&value); err != nil {
			return "", nil, err
		}
		if object, is := value.(map[string]any); is && len(objects) == len(all) {
			flat := map[string]string{}
			if err := flatten(flat, "", object, 0); err != nil {
				return "", nil, err
			}
			if objects = append(objects, flat); len(objects) > mostInList {
				return "", nil, &Refusal{fmt.Sprintf("JSON with more than %d objects in a list of one record", mostInList),
					"want an array of records, or a record on each line"}
			}
		}
		text, err := asText(value)
		if err != nil {
			return "", nil, err
		}
		all = append(all, text)
	}
	if len(objects) < len(all) {
		objects = nil
	}
	_, err = s.decoder.Token() // ]
	return strings.Join(all, ", "), objects, err
}

// asText is a value as text, and what is none as JSON.
func asText(value any) (string, error) {
	switch value := value.(type) {
	case nil:
		return "", nil
	case string:
		return value, nil
	case json.Number:
		return plain(value.String()), nil
	}
	written, err := json.Marshal(value)
	return string(written), err
}

// flatten gives the values of an object by their paths.
func flatten(into map[string]string, path string, object map[string]any, depth int) error {
	if depth > deepestObject {
		return &Refusal{"JSON with objects in objects without end", "want plain records"}
	}
	for key, value := range object {
		if inner, is := value.(map[string]any); is {
			if err := flatten(into, path+key+".", inner, depth+1); err != nil {
				return err
			}
			continue
		}
		text, err := asText(value)
		if err != nil {
			return err
		}
		into[path+key] = text
	}
	return nil
}

func (s *jsonRows) Next(row *Row) error {
	row.place = func(column int) Place { return Place{Record: s.at, Key: s.table.columns[column]} }
	row.raw = func() string { return Line(row.Cells) }
	if s.cells == nil {
		s.cells = make([]string, len(s.table.columns))
		row.At, row.Cells = Place{}, append(s.cells[:0], s.table.columns...)
		return nil
	}
	if len(s.left) > 1 {
		s.left = s.left[1:]
	} else {
		if err := s.record(); err != nil {
			return err
		}
		s.left = s.lists[s.table.list]
	}
	for i, name := range s.table.columns {
		key, inList := s.table.inList[name]
		switch {
		case !inList:
			s.cells[i] = s.values[name]
		case len(s.left) > 0:
			s.cells[i] = s.left[0][key]
		default:
			s.cells[i] = ""
		}
	}
	row.At, row.Cells = Place{Record: s.at}, s.cells
	return nil
}

func (s *jsonRows) Offset() int64 { return s.count.read }

func (s *jsonRows) Close() error { return nil }
