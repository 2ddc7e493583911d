package intake

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/recognise"
	"prairiedusk/internal/record"
)

const currencyColumn = "currency"

// NoCurrency is said where a sign is to give no currency.
const NoCurrency = "none"

// currencies are those that stand in cells beside their numbers.
type currencies struct {
	cells map[string]int // by code or sign
	part  int            // that they are of, if a file has no column for them; negative where they are of none
	said  string         // of signs that several have, and of numbers without one
	mixed bool           // some cells name another currency, so that a number alone may be of any
}

// decide tells whose currencies stand beside numbers, and asks about signs that several have.
func (t *TableReader) decideCurrencies(known func(*record.Kind) []record.Extra, reading Reading) error {
	c := &t.currencies
	if c.said = strings.ToUpper(reading.Currency); c.said == "" && t.layout != nil {
		c.said = t.layout.Currency
	}
	if len(c.cells) == 0 && (c.said == "" || c.said == strings.ToUpper(NoCurrency)) {
		return nil
	}
	if c.said != "" && c.said != strings.ToUpper(NoCurrency) {
		if err := t.learn(c.said); err != nil {
			return fmt.Errorf("the currency %s is %w", c.said, err)
		}
	}
	at := slices.IndexFunc(t.use, func(u cellUse) bool {
		return u.kind == asColumn && t.parts[u.part].Kind.Columns[u.column].Name == currencyColumn
	})
	if at >= 0 {
		return nil // the column tells, and what stands beside a number has to agree
	}
	if t.parts[0].Kind == record.Lines && len(t.parts) == 1 {
		t.valued = true
		if err := t.assign(record.Lines, t.names, known); err != nil {
			return err
		}
	}
	c.part = slices.IndexFunc(t.parts, func(part record.Part) bool { return part.Kind.Column(currencyColumn) >= 0 })
	if c.part < 0 {
		return nil
	}
	part := &t.parts[c.part]
	part.Given = append(part.Given, part.Kind.Column(currencyColumn))
	var signs []string
	for _, code := range slices.Sorted(maps.Keys(c.cells)) {
		if recognise.Having(code) != nil {
			signs = append(signs, code)
		} else if code != c.said {
			c.mixed = true
		}
	}
	if len(signs) > 1 && c.said != strings.ToUpper(NoCurrency) {
		t.open = append(t.open, &Question{Word: "currency",
			Asks: fmt.Sprintf("its amounts have the signs %s, which no one currency has; leave their currency open?",
				strings.Join(signs, " and ")), Answers: []string{NoCurrency}})
		return nil
	}
	for _, sign := range signs {
		if can := recognise.Having(sign); can != nil && c.said == "" {
			t.open = append(t.open, &Question{Word: "currency", Asks: fmt.Sprintf("which currency is %q, which stands in %s?", sign,
				numfmt.Counted(c.cells[sign], "cell")), Answers: append(can, NoCurrency)})
		}
	}
	return nil
}

// of is the currency of a cell: what stands beside its number, or what was said.
func (c *currencies) of(cell string) string {
	code := recognise.Currency(cell)
	if code == "" || recognise.Having(code) != nil {
		if c.said == strings.ToUpper(NoCurrency) || code == "" && c.mixed {
			return ""
		}
		return c.said
	}
	return code
}

// setCurrencies gives the records of a row the currencies that stand beside their numbers, and says which cell contradicts another
// or the row's own currency.
func (t *TableReader) setCurrencies(cells []string) (at int, reason string) {
	for i, u := range t.use {
		if u.kind != asColumn {
			continue
		}
		kind := t.parts[u.part].Kind
		if typ := kind.Columns[u.column].Type; typ != record.Money && typ != record.Amount {
			continue
		}
		cell := t.cell(cells, i)
		if cell == "" {
			continue
		}
		p := u.part
		if kind.Column(currencyColumn) < 0 {
			p = 1 // lines are in the currency of their order
		}
		if p >= len(t.parts) {
			continue
		}
		beside := recognise.Currency(cell)
		value := &t.rows[p].Values[t.parts[p].Kind.Column(currencyColumn)]
		if !value.Known && p == t.currencies.part {
			if code := t.currencies.of(cell); code != "" {
				if err := t.learn(code); err != nil {
					return i, fmt.Sprintf("%s is %v", code, err)
				}
				*value = record.Value{Text: code, Known: true}
			}
			continue
		}
		if can := recognise.Having(beside); beside != "" && value.Known && beside != value.Text && !slices.Contains(can, value.Text) {
			return i, fmt.Sprintf("its currency is %s, and that of the %s is %s", beside, t.parts[p].Kind.Noun, value.Text)
		}
	}
	return -1, ""
}
