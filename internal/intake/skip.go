package intake

import (
	"regexp"
	"slices"
	"strings"

	"prairiedusk/internal/recognise"
	"prairiedusk/internal/record"
	"prairiedusk/internal/source"
)

// A Skipped is a row that is no record: a title, the header once more, a sum, a note.
type Skipped struct {
	Row  int
	Why  string
	Text string // as it stands in the file
}

// Why rows are skipped.
const (
	whyTitle  = "a title before the header"
	whyAgain  = "the header once more"
	whyTotals = "a row of totals"
	whyNote   = "a note"
	whyBlank  = "a blank row"
)

// maxSkipped is how many skipped rows are listed; the rest are counted.
const maxSkipped = 20

func (t *TableReader) skip(why string) {
	if t.skippedRows++; len(t.skipped) < maxSkipped {
		text := storableText(t.row.Raw())
		t.skipped = append(t.skipped, Skipped{t.row.At.Number(), why, text[:min(len(text), maxText)]})
	}
}

// Skipped are the rows so far that are no records, the first of them with their reasons, and how many they are.
func (t *TableReader) Skipped() (first []Skipped, all int64) { return t.skipped, t.skippedRows }

// mostTitles is how many rows may stand before a header.
const mostTitles = 20

// rowsBeforeHeader is how many rows stand before the header. A header is the first row whose headings tell what the rows are, if those
// before it are titles: they have no more than half as many cells.
func rowsBeforeHeader(table source.Table, reading Reading) (int, error) {
	rows, err := table.Rows()
	if err != nil {
		return 0, err
	}
	defer rows.Close()
	var row source.Row
	titled, widest := false, 0
	for at := 0; at <= mostTitles; at++ {
		if rows.Next(&row) != nil {
			break // whoever reads the header says why
		}
		cells := filled(row.Cells)
		if cells >= 2*widest && reading.tells(row.Cells) {
			return at, nil
		}
		titled, widest = titled || at == 0 && isTitle(row.Cells), max(widest, cells)
	}
	if titled {
		return 1, nil
	}
	return 0, nil
}

// tells says whether headings tell what the rows below them are.
func (r Reading) tells(titles []string) bool {
	names := make([]string, len(titles))
	for i, title := range titles {
		name, _ := nameOf(title)
		if alias, is := aliases[name]; is {
			name = alias
		}
		if meant := headings[plainHeading(title)]; len(meant) == 1 && !ofAnyKind(name) {
			name = meant[0]
		}
		names[i] = name
	}
	layout, err := r.find(titles)
	if err != nil {
		return false // whoever reads the header says it
	}
	for i, said := range r.of(titles, layout) {
		if said.Means != "" {
			names[i] = said.Means
		}
	}
	_, err = kindOf(names)
	return err == nil
}

func filled(cells []string) (n int) {
	for _, cell := range cells {
		if strings.TrimSpace(cell) != "" {
			n++
		}
	}
	return n
}

// note is what stands alone in a row that was printed below or between records, and is no number of an order: a line, a comment, a
// count of rows, when and by whom it was made.
var note = regexp.MustCompile(`(?i)^(-{3,}|={3,}|_{3,}|\*{3,}|#\s.*|//\s.*|[\d.,'’ ]+ (rows?|records?|orders?|lines?|items?|entries|zeilen|datensätze|lignes|filas|righe|linhas|regels|wierszy)|` +
	`(printed|created|exported|generated|report|run|as of|page|end of|gedruckt|erstellt|exportiert|stand|seite|imprimé|page|impreso|página|stampato|pagina|strona)\b.*\s.*)\.?$`)

// noRecord says why a row below the header is no record; empty of one that is to be one.
func (t *TableReader) noRecord(cells []string) string {
	first := slices.IndexFunc(cells, func(cell string) bool { return strings.TrimSpace(cell) != "" })
	if first < 0 {
		return whyBlank
	}
	text := strings.TrimSpace(cells[first])
	alone := !slices.ContainsFunc(cells[first+1:], func(cell string) bool { return strings.TrimSpace(cell) != "" })
	switch {
	case text == t.titles[min(first, len(t.titles)-1)] && len(cells) == len(t.titles) && t.isHeader(cells):
		return whyAgain
	case !t.parts[0].Kind.OfOrder():
		return "" // a customer can be called Total, and a status anything
	case first <= t.keyAt && IsTotal(text), t.sums(cells):
		return whyTotals
	case alone && len(t.header) >= 3 && note.MatchString(text):
		return whyNote
	}
	return ""
}

// sums says whether a row has no number of an order and nothing else than numbers: it sums those above it.
func (t *TableReader) sums(cells []string) bool {
	if t.keyAt >= len(cells) || strings.TrimSpace(cells[t.keyAt]) != "" {
		return false
	}
	for i, cell := range cells[:min(len(cells), len(t.use))] {
		if strings.TrimSpace(cell) == "" || IsTotal(strings.TrimSpace(cell)) {
			continue
		}
		if kind, ours := t.typeOf(i); !ours || kind != record.Money && kind != record.Amount && kind != record.Units {
			return false
		}
	}
	return true
}

func (t *TableReader) isHeader(cells []string) bool {
	for i, cell := range cells {
		if t.back(strings.TrimSpace(cell)) != t.titles[i] {
			return false
		}
	}
	return true
}

// totals begin rows that sum a table, in small letters without accents.
var totals = []string{"total", "totals", "grand total", "subtotal", "sub total", "sum", "summe", "gesamt", "gesamtsumme", "zwischensumme",
	"total general", "totale", "totale generale", "suma", "razem", "totaal", "somme"}

// IsTotal says whether a row that begins with a text sums the table.
func IsTotal(text string) bool {
	return len(text) <= 20 && !strings.ContainsAny(text, "0123456789") && slices.Contains(totals,
		strings.TrimRight(recognise.Plain(text), " :"))
}

// keyColumn is where the first key of the records stands in a row.
func (t *TableReader) keyColumn() int {
	return slices.IndexFunc(t.use, func(u cellUse) bool { return u == cellUse{0, 0, asColumn} })
}
