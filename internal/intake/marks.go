package intake

import (
	"fmt"
	"maps"
	"prairiedusk/internal/core/numfmt"
	"regexp"
	"slices"
	"strings"
)

// Other systems write that nothing is known in their own ways: NULL, a dash, a day that no order has. Nobody can tell them from what
// is meant as it stands, so that each is asked about once for its kind of file.
var (
	// anywhereMarks can stand in any column, in small letters.
	anywhereMarks = set("null", "(null)", "n/a", "#n/a", "#nv", "(blank)", "-", "--", "–", "—")
	// typedMarks can only mean it where a date or a number stands.
	typedMarks = set("na", "n.a.", "none", "nil", "nan", "?", "unknown", "tbd", "tba", "k.a.", "n.v.", "unbekannt", "inconnu",
		"desconocido", "sconosciuto", "desconhecido", "onbekend", "nieznany")
	// noYears are those of days that stand for none.
	noYears = set("0000", "0001", "1753", "1899", "1900", "1970", "9999")
	// noDay is a day that stands for none, in any form.
	noDay = regexp.MustCompile(`^(0000[-/.]00[-/.]00|00[-/.]00[-/.]0000|(0001|1753|1900|1970)[-/.]0?1[-/.]0?1|0?1[-/.]0?1[-/.](0001|1753|1900|1970)|1899[-/.]12[-/.]3[01]|9999[-/.]12[-/.]31|31[-/.]12[-/.]9999|12[-/.]31[-/.]9999|00010101|19000101|99991231|00000000)([ T]0?0:00(:00(\.0+)?)?( ?Z|\+00:?00)?)?$`)
)

// markKind is in which columns a cell can say that nothing is known.
type markKind uint8

const (
	inTexts markKind = iota
	inNumbers
	inDates
	inSomeDates // of a column of the user's own, which may hold dates
)

// isMark says whether a cell can say that nothing is known.
func isMark(cell string, kind markKind) bool {
	const longestWord, longestDay = len("desconhecido"), len("9999-12-31T00:00:00.000000+00:00")
	if len(cell) > longestDay {
		return false
	}
	if cell[0] >= '0' && cell[0] <= '9' { // most are, or the words are longer
		return (kind == inDates || kind == inSomeDates) && hasNoYear(cell) && noDay.MatchString(cell) || kind == inDates && cell == "0"
	}
	if len(cell) > longestWord {
		return false
	}
	plain := strings.ToLower(cell)
	return anywhereMarks[plain] || (kind == inNumbers || kind == inDates) && typedMarks[plain]
}

// hasNoYear says whether a date may be one of a year that stands for none: it begins or ends with it.
func hasNoYear(cell string) bool {
	date, _, _ := strings.Cut(cell, " ")
	date, _, _ = strings.Cut(date, "T")
	return len(date) >= len("1/1/1900") && (noYears[date[:4]] || noYears[date[len(date)-4:]])
}

func set(texts ...string) map[string]bool {
	all := map[string]bool{}
	for _, text := range texts {
		all[text] = true
	}
	return all
}

// marks are the cells of a file that can say that nothing is known.
type marks struct {
	agreed map[string]bool // by their text in small letters: what has been said of them
	kept   map[string]bool // those of a layout
	whole  bool            // all has been said: no other cell is one
	seen   []seenMark
}

type seenMark struct {
	text, column string
	cells        int
}

// learn takes in what has been said, now or in a layout.
func (m *marks) learn(reading Reading, layout *Layout) {
	m.agreed, m.kept = map[string]bool{}, map[string]bool{}
	if layout != nil {
		for _, mark := range layout.AsTheyStand {
			m.agreed[strings.ToLower(mark)] = false
		}
		for _, mark := range layout.NotKnown {
			m.agreed[strings.ToLower(mark)] = true
		}
		for mark := range m.agreed {
			m.kept[mark] = true
		}
	}
	if m.whole = slices.Contains(reading.NotKnown, NoMark); m.whole {
		clear(m.agreed)
	}
	for _, mark := range reading.NotKnown {
		if mark != NoMark {
			m.agreed[strings.ToLower(mark)] = true
		}
	}
}

// NoMark is said where all other cells that could say that nothing is known are meant as they stand.
const NoMark = "none"

// is says whether a cell says, as was agreed, that nothing is known.
func (m *marks) is(cell string) bool {
	return len(m.agreed) > 0 && m.agreed[strings.ToLower(cell)]
}

// look takes in a cell that can be a mark, and says whether it is one or may be.
func (m *marks) look(cell, column string, kind markKind) bool {
	agreed := len(m.agreed) > 0 && m.agreed[strings.ToLower(cell)]
	if !agreed && !isMark(cell, kind) {
		return false
	}
	i := slices.IndexFunc(m.seen, func(s seenMark) bool { return strings.EqualFold(s.text, cell) })
	if i < 0 {
		i = len(m.seen)
		m.seen = append(m.seen, seenMark{text: strings.Clone(cell), column: column})
	}
	m.seen[i].cells++
	return true
}

// open are the marks of which nothing has been said.
func (m *marks) open() (open []seenMark) {
	for _, s := range m.seen {
		if _, said := m.agreed[strings.ToLower(s.text)]; !said && !m.whole {
			open = append(open, s)
		}
	}
	return open
}

// question asks about the marks of which nothing has been said; nil where there is none.
func (m *marks) question() *Question {
	open := m.open()
	if len(open) == 0 {
		return nil
	}
	texts, all := make([]string, len(open)), make([]string, 0, len(open)+1)
	for i, s := range open {
		texts[i] = fmt.Sprintf("%q (%s, first in column %q)", s.text, numfmt.Counted(s.cells, "cell"), s.column)
	}
	for mark, agreed := range m.agreed {
		if agreed {
			all = append(all, mark)
		}
	}
	slices.Sort(all)
	for _, s := range open {
		all = append(all, s.text)
	}
	return &Question{Word: "not_known", Asks: "does " + strings.Join(texts, " or ") + " say that nothing is known?",
		Answers: []string{strings.Join(all, ","), NoMark}}
}

// remember gives what a layout is to hold: of the marks that the file has, or that its layout holds already.
func (m *marks) remember() (notKnown, asTheyStand []string) {
	all := maps.Clone(m.kept)
	for _, s := range m.seen {
		all[strings.ToLower(s.text)] = true
	}
	for mark := range all {
		if m.agreed[mark] {
			notKnown = append(notKnown, mark)
		} else {
			asTheyStand = append(asTheyStand, mark)
		}
	}
	slices.Sort(notKnown)
	slices.Sort(asTheyStand)
	return notKnown, asTheyStand
}
