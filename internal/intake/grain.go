package intake

import (
	"errors"
	"fmt"
	"hash/maphash"
	"io"
	"slices"
	"strconv"
	"strings"

	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/record"
	"prairiedusk/internal/source"
)

// What a row of a table with order numbers is, where nothing numbers the lines.
const (
	RowsAreOrders = "orders"
	RowsAreLines  = "lines"
)

// numbering is how lines that have no number of their own are told apart within their order.
type numbering uint8

const (
	numbered     numbering = iota // by a column of the file
	byProduct                     // each stands once in its order
	byAppearance                  // 1, 2, … as they come
)

// A grain is what the rows of a table of orders are, as far as that has been seen.
type grain struct {
	contents map[digest]uint32 // what a row of an order holds, by the order's number
	rows     int64
	repeats  int64 // rows of an order that another row has, with other cells
	twins    int64 // with the same cells
}

// mostRepeats is the share of rows, one in so many, from which repeated order numbers are no slips.
const mostRepeats = 10

// look takes in a row of a table whose rows seem to be orders.
func (g *grain) look(t *TableReader, cells []string) {
	if t.keyAt >= len(cells) {
		return
	}
	number := strings.TrimSpace(cells[t.keyAt])
	if number == "" {
		return
	}
	t.scratch = t.scratch[:0]
	for i, cell := range cells[:min(len(cells), len(t.use))] {
		if t.use[i].kind != unused {
			t.scratch = append(append(t.scratch, strings.TrimSpace(cell)...), 0)
		}
	}
	g.rows++
	key, content := digestOf(number), uint32(maphash.Bytes(seeds[0], inSmallLetters(t.scratch)))
	switch earlier, seen := g.contents[key]; {
	case !seen:
		g.contents[key] = content
	case earlier == content:
		g.twins++
	default:
		g.repeats++
	}
}

// decideGrain tells whether the rows of a table that has order numbers alone are orders or their lines, and asks where it cannot.
func (t *TableReader) decideGrain(g *grain, table source.Table, known func(*record.Kind) []record.Extra, reading Reading) error {
	said := reading.Rows
	if said == "" && t.layout != nil {
		said = t.layout.Rows
	}
	sure := slices.ContainsFunc(t.meant, func(name string) bool { return record.Lines.Column(name) > 0 && record.Orders.Column(name) < 0 })
	if g.repeats > 0 {
		t.rowsSaid = said
	}
	switch {
	case said == RowsAreOrders, said == "" && g.repeats == 0 && (g.twins == 0 || !sure):
		return nil
	case said == "" && !sure && g.repeats*mostRepeats < g.rows:
		return nil // the rows that say something else than an earlier one are set aside
	case said == "" && !sure:
		t.open = append(t.open, &Question{Word: "rows", Asks: fmt.Sprintf("%s have %s; is a row an order, or a line of one?",
			numfmt.Counted(int(g.rows), "row"), numfmt.Counted(len(g.contents), "order number")),
			Answers: []string{RowsAreLines, RowsAreOrders}})
		return nil
	}
	g.contents = nil
	differs, once, err := t.whatDiffers(table)
	if err != nil {
		return err
	}
	t.numbering = byAppearance
	if once {
		t.numbering = byProduct
	}
	if t.layout != nil && t.layout.Lines != "" && reading.Rows == "" {
		t.numbering = parseNumbering(t.layout.Lines)
	}
	names := slices.Clone(t.meant)
	for i, name := range names {
		if t.said[i].Means != "" && t.said[i].why != saidSo || name == "" || i == t.keyAt {
			continue // a layout has it as it was before
		}
		if names[i] = lineName(name, differs[i]); !ofAnyKind(names[i]) {
			t.own[i] = names[i]
		}
	}
	return t.assign(record.Lines, names, known)
}

// lineName is what a column of orders means in a table of lines: some columns that differ between the rows of an order are of its lines.
func lineName(name string, differs bool) string {
	switch c := record.Orders.Column(name); {
	case record.Lines.Column(name) >= 0:
		return name
	case c < 0 && !differs:
		return "order-" + name // of the user's own, which belongs to the order
	case c < 0 || !differs:
		return name
	}
	switch name {
	case "value", milestone.Shipped, milestone.Delivered, milestone.Cancelled:
		return "line-" + name
	}
	if record.Orders.Columns[record.Orders.Column(name)].Type == record.Day && name != milestone.Ordered {
		return "line-" + name // of the user's own: lines of ours have no such day
	}
	return name // the rows that say something else than the first are set aside
}

func (n numbering) String() string { return [...]string{"", "by product", "by appearance"}[n] }

func parseNumbering(text string) numbering {
	return numbering(max(0, slices.Index([]string{"", byProduct.String(), byAppearance.String()}, text)))
}

// whatDiffers tells, by all rows, which columns differ between the rows of an order, and whether each product stands once in its order.
func (t *TableReader) whatDiffers(table source.Table) (differs []bool, once bool, err error) {
	width, product := len(t.use), slices.Index(t.meant, "product")
	differs, once = make([]bool, width), product >= 0
	orders, firsts, products := map[digest]int{}, []uint32{}, map[digest]struct{}{}
	err = t.each(table, func(cells []string, _ int) {
		if t.keyAt >= len(cells) || t.lone(cells) {
			return
		}
		cell := func(i int) string {
			if i >= len(cells) {
				return ""
			}
			return strings.TrimSpace(cells[i])
		}
		order, seen := orders[digestOf(cell(t.keyAt))]
		if !seen {
			order = len(firsts)
			orders[digestOf(cell(t.keyAt))] = order
		}
		for i := range width {
			content := uint32(maphash.String(seeds[0], cell(i)))
			if !seen {
				firsts = append(firsts, content)
			} else if firsts[order+i] != content {
				differs[i] = true
			}
		}
		if once {
			key := digestOf(cell(t.keyAt) + record.KeySeparator + cell(product))
			_, again := products[key]
			if products[key] = struct{}{}; again || cell(product) == "" {
				once, products = false, nil
			}
		}
	})
	return differs, once, err
}

// each shows all rows that may be records, by their cells and numbers.
func (t *TableReader) each(table source.Table, see func(cells []string, row int)) error {
	rows, err := table.Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	var row source.Row
	for at := 0; ; at++ {
		err := rows.Next(&row)
		var fault *source.RowError
		switch {
		case errors.Is(err, io.EOF):
			return nil
		case errors.As(err, &fault):
			continue
		case err != nil:
			return err
		}
		const now = 1024 // and then it is asked whether somebody still waits
		if at%now == 0 && t.ended != nil {
			if err := t.ended(); err != nil {
				return err
			}
		}
		if at > t.before && t.noRecord(row.Cells) == "" {
			see(row.Cells, row.At.Number())
		}
	}
}

// numberLine gives the line of a row a number, where the file has none.
func (t *TableReader) numberLine() {
	values := t.rows[0].Values
	if t.line = ""; !values[0].Known {
		return
	}
	line := ""
	switch t.numbering {
	case byProduct:
		line = values[record.Lines.Column("product")].Text
	case byAppearance:
		key := digestOf(values[0].Text)
		t.lines[key]++
		line = strconv.Itoa(int(t.lines[key]))
	}
	t.line = line
	values[record.Lines.Column("line")] = record.Value{Text: line, Known: line != ""}
}

// ofSnapshots are headings of the day of a list that has all orders of each day, in their plain form.
var ofSnapshots = []string{"snapshot date", "snapshot day", "as of", "as of date", "report date", "stichtag"}

// findLatest finds the row of each order in the latest list of every day that has it: what the order was on earlier days is history.
func (t *TableReader) findLatest(table source.Table) error {
	at := slices.IndexFunc(t.use, func(u cellUse) bool { return u == cellUse{0, record.Statuses.Column("at"), asColumn} })
	days := map[digest]string{}
	t.latest = map[digest]uint32{}
	return t.each(table, func(cells []string, row int) {
		if len(cells) <= max(t.keyAt, at) {
			return
		}
		key, day := digestOf(withoutUnseen(t.cell(cells, t.keyAt), true)), t.forms[at].date(t.cell(cells, at))
		if earlier, seen := days[key]; !seen || day >= earlier {
			days[key], t.latest[key] = strings.Clone(day), uint32(row)
		}
	})
}

// Grain says in words what the rows of the table so far were, "120 rows = 60 orders with 120 lines"; it is empty where each row is
// a record.
func (t *TableReader) Grain() string {
	if len(t.parts) == 1 && t.repeated == 0 && t.numbering == numbered {
		return ""
	}
	words := make([]string, len(t.parts))
	for p, part := range t.parts {
		words[len(words)-1-p] = numfmt.Counted(t.fresh[p], part.Kind.Noun)
	}
	if t.parts[0].Kind == record.Lines && len(t.parts) > 1 {
		words[1] = numfmt.Counted(t.fresh[0], "line")
	}
	if t.latest != nil {
		words[0], words[1] = words[1], "what the latest of them says of "+words[0]
		words = []string{strings.Join(words, " and ")}
	}
	text := fmt.Sprintf("%s = %s", numfmt.Counted(t.used, "row"), strings.Join(words, " with "))
	switch t.numbering {
	case byProduct:
		text += ", which their products tell apart"
	case byAppearance:
		text += ", numbered as they come"
	}
	if t.repeated > 0 {
		text += fmt.Sprintf("; %s the same as an earlier one", numfmt.Count(t.repeated)+numfmt.Agreeing(t.repeated, " row says",
			" rows say"))
	}
	return text
}
