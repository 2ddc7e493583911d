package present

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
)

// An AuditEntry says who changed what, from what to what: JSON objects, empty where there was or is nothing.
type AuditEntry struct {
	At            time.Time
	Who, Of, Name string
	Before, After json.RawMessage
}

// auditNouns are what the tables of the audit list hold.
var auditNouns = map[string]string{"loads": "load", "calendars": "calendar", "labels": "label", "layouts": "layout", "statuses": "status",
	"book_settings": "ends of the book", "views": "view", "checks": "check"}

// Audit lists who changed what, the latest first: a stretch of all entries.
func Audit(b *book.Book, entries []AuditEntry, offset, all int) *answer.Document {
	d := newDocument(b, "audit", query.Sentence{query.Part("", "Who changed what?")})
	t := answer.Table{Code: "audit", Rows: []answer.Row{}, Totals: []answer.Row{}, All: all, Offset: offset, Columns: []answer.Column{
		{Code: "at", Heading: "when, UTC", Kind: answer.Text}, {Code: "who", Heading: "who", Kind: answer.Text},
		{Code: "what", Heading: "what", Kind: answer.Text}, {Code: "did", Heading: "was", Kind: answer.Text},
		{Code: "change", Heading: "from what to what", Kind: answer.Text}}}
	for _, e := range entries {
		did, change := e.words()
		what := auditNouns[e.Of]
		if e.Name != "" {
			what += " " + e.Name
		}
		t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{answer.Words(e.At.UTC().Format("2006-01-02 15:04:05")), answer.Words(e.Who),
			answer.Words(what), answer.Words(did), answer.Words(change)}})
	}
	part := newPart("")
	part.Tables = append(part.Tables, t)
	if all == 0 {
		part.Notes = append(part.Notes, answer.Note{Code: "nothing", Text: "nothing was changed yet"})
	}
	d.Parts = append(d.Parts, part)
	return d
}

// words say what was done, and what that changed.
func (e AuditEntry) words() (did, change string) {
	var before, after map[string]any
	_ = json.Unmarshal(e.Before, &before) // PostgreSQL has made it
	_ = json.Unmarshal(e.After, &after)
	undone := func(of map[string]any) bool { return of["undone_at"] != nil }
	switch {
	case e.Of == "loads" && before != nil && undone(before) != undone(after):
		return numfmt.Either(undone(after), "undone", "brought back"), ""
	case before == nil:
		did = "made"
	case after == nil:
		did = "deleted"
	default:
		did = "changed"
	}
	keys := map[string]bool{}
	for _, of := range []map[string]any{before, after} {
		for key := range of {
			keys[key] = true
		}
	}
	var changes []string
	for _, key := range slices.Sorted(maps.Keys(keys)) {
		from, to := shownValue(before[key]), shownValue(after[key])
		switch {
		case from == to, (before == nil || after == nil) && (key == "name" || key == "status"):
		case before == nil:
			changes = append(changes, auditKey(key)+to)
		case after == nil:
			changes = append(changes, auditKey(key)+from)
		default:
			changes = append(changes, fmt.Sprintf("%s%s → %s", auditKey(key), orNone(from), orNone(to)))
		}
	}
	return did, strings.Join(changes, "; ")
}

// auditKey names a value, where it is not all that there is.
func auditKey(key string) string {
	if key == "definition" {
		return ""
	}
	return strings.ReplaceAll(key, "_", " ") + ": "
}

func orNone(text string) string {
	if text == "" {
		return "none"
	}
	return text
}

// longestValue is how many characters of a value stand in the list.
const longestValue = 300

// shownValue is a value of a JSON object in one line.
func shownValue(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return numfmt.Clipped(v, longestValue)
	}
	text, _ := json.Marshal(v)
	return numfmt.Clipped(string(text), longestValue)
}
