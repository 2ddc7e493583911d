package present

import (
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
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
	if before != nil && after != nil {
		return did, strings.Join(differences("", before, after), "; ")
	}
	whole := before
	if whole == nil {
		whole = after
	}
	var said []string
	for _, key := range slices.Sorted(maps.Keys(whole)) {
		if text := shownValue(whole[key]); text != "" && key != "name" && key != "status" {
			said = append(said, auditKey("", key)+text)
		}
	}
	return did, strings.Join(said, "; ")
}

// differences are what two values under a key differ in: of objects key by key, of lists what is new and what is gone.
func differences(key string, before, after any) (said []string) {
	switch from := before.(type) {
	case map[string]any:
		to, _ := after.(map[string]any)
		keys := map[string]bool{}
		for _, of := range []map[string]any{from, to} {
			for one := range of {
				keys[one] = true
			}
		}
		for _, one := range slices.Sorted(maps.Keys(keys)) {
			said = append(said, differences(auditKey(key, one), from[one], to[one])...)
		}
		return said
	case []any:
		to, _ := after.([]any)
		was, is := shownItems(from), shownItems(to)
		for _, item := range is {
			if !slices.Contains(was, item) {
				said = append(said, key+"+ "+item)
			}
		}
		for _, item := range was {
			if !slices.Contains(is, item) {
				said = append(said, key+"− "+item)
			}
		}
		return said
	}
	if from, to := shownValue(before), shownValue(after); from != to {
		said = append(said, fmt.Sprintf("%s%s → %s", key, orNone(from), orNone(to)))
	}
	return said
}

func shownItems(of []any) (items []string) {
	for _, item := range of {
		items = append(items, shownValue(item))
	}
	return items
}

// auditKey names a value within another, where it is not all that there is.
func auditKey(within, key string) string {
	if key == "definition" {
		return within
	}
	return strings.TrimSuffix(within, ": ") + strings.Repeat(" ", min(1, len(within))) + strings.ToLower(strings.Join(
		strings.FieldsFunc(capitals.ReplaceAllString(key, " $0"), func(r rune) bool { return r == ' ' || r == '_' }), " ")) + ": "
}

// capitals begin the words of a name such as HalfDays.
var capitals = regexp.MustCompile("[A-Z]")

func orNone(text string) string {
	if text == "" {
		return "none"
	}
	return text
}

// longestValue is how many characters of a value stand in the list.
const longestValue = 300

// shownValue is a value of a JSON object in words; empty where it says nothing.
func shownValue(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return numfmt.Clipped(v, longestValue)
	case bool:
		return numfmt.Either(v, "yes", "")
	case []any:
		return numfmt.Clipped(strings.Join(shownItems(v), ", "), longestValue)
	case map[string]any:
		var names, words []string
		for _, key := range slices.Sorted(maps.Keys(v)) {
			text := shownValue(v[key])
			if number, is := v[key].(float64); is && (key == "From" || key == "To") {
				text = time.Unix(int64(number), 0).UTC().Format("15:04")
			} else if is && key == "Week" {
				text = shownWeek(int(number))
			}
			switch {
			case text == "":
			case key == "Day", key == "Name":
				names = append(names, text)
			default:
				words = append(words, auditKey("", key)+text)
			}
		}
		if names != nil {
			words = append([]string{strings.Join(names, " ")}, words...)
		}
		return numfmt.Clipped(strings.Join(words, ", "), longestValue)
	}
	text, _ := json.Marshal(v)
	return numfmt.Clipped(string(text), longestValue)
}

// shownWeek names the working days of a week, a bit for each from Sunday on.
func shownWeek(days int) string {
	var names []string
	for d := range 7 {
		if days>>d&1 == 1 {
			names = append(names, time.Weekday(d).String()[:3])
		}
	}
	return strings.Join(names, " ")
}
