package recognise

import (
	"math/bits"
	"strings"
)

// A NumberForm is which mark of a column of numbers stands before its decimals.
type NumberForm uint8

const (
	Point NumberForm = iota // 1,234.50
	Comma                   // 1.234,50
	numberForms
)

func (f NumberForm) String() string { return [...]string{"point", "comma"}[f] }

// ParseNumberForm reads the name of a form.
func ParseNumberForm(name string) (NumberForm, bool) {
	for f := range numberForms {
		if f.String() == name {
			return f, true
		}
	}
	return 0, false
}

// Numbers looks at the cells of a column of numbers.
type Numbers struct {
	left     uint8
	seen     int
	both     Reason // the first cell that can be read in both ways, and differs
	excluded [numberForms]Reason
}

// NewNumbers begins to look.
func NewNumbers() *Numbers { return &Numbers{left: 1<<numberForms - 1} }

// Look takes a filled cell in. One that is no number in any form says nothing of the others.
func (c *Numbers) Look(row int, text string) {
	point, comma := readNumber(text, Point), readNumber(text, Comma)
	if point == "" && comma == "" {
		return
	}
	c.seen++
	if point != "" && comma != "" && point != comma && c.both.Row == 0 {
		c.both = Reason{Row: row, Text: text}
	}
	if point == "" && c.excluded[Point].Row == 0 {
		c.left &^= 1 << Point
		c.excluded[Point] = Reason{row, text, "can only have a decimal comma"}
	}
	if comma == "" && c.excluded[Comma].Row == 0 {
		c.left &^= 1 << Comma
		c.excluded[Comma] = Reason{row, text, "can only have a decimal point"}
	}
}

// A NumberVerdict is what the cells of a column of numbers come to.
type NumberVerdict struct {
	Answer  Answer
	Form    NumberForm // of Sure
	Example string     // "1.234 is 1.234 or 1234"
	Because []Reason
}

// Verdict ends the looking.
func (c *Numbers) Verdict() (v NumberVerdict) {
	for f := range numberForms {
		if c.excluded[f].Row != 0 {
			v.Because = append(v.Because, c.excluded[f])
		}
	}
	switch {
	case c.left == 0:
	case bits.OnesCount8(c.left) == 1:
		v.Answer, v.Form = Sure, NumberForm(bits.TrailingZeros8(c.left))
	case c.both.Row != 0:
		v.Answer = Ask
		v.Example = c.both.Text + " is " + readNumber(c.both.Text, Point) + " or " + readNumber(c.both.Text, Comma)
	default:
		v.Answer = Sure // no number has either mark in a place that tells
	}
	return v
}

// Decimal is a number as a plain decimal, read in a form; empty for what is none.
func (f NumberForm) Decimal(text string) string { return readNumber(text, f) }

// readNumber reads a number with a sign before or after it, or in brackets, with signs or codes of a currency beside it and with
// marks between thousands.
func readNumber(text string, form NumberForm) string {
	if isPlain(text) && form == Point {
		return text // most are
	}
	text = strings.Trim(text, " \u00a0\u202f\t")
	negative := false
	if inner, is := strings.CutPrefix(text, "("); is {
		if inner, is = strings.CutSuffix(inner, ")"); !is {
			return ""
		}
		text, negative = inner, true
	}
	text = trimCurrency(text)
	switch {
	case strings.HasPrefix(text, "-"), strings.HasPrefix(text, "−"):
		text, negative = strings.TrimPrefix(strings.TrimPrefix(text, "-"), "−"), !negative
	case strings.HasPrefix(text, "+"):
		text = text[1:]
	case strings.HasSuffix(text, "-"):
		text, negative = strings.TrimSuffix(text, "-"), !negative
	}
	text = trimCurrency(text)
	mark, thousands := ".", ","
	if form == Comma {
		mark, thousands = ",", "."
	}
	whole, fraction, has := strings.Cut(text, mark)
	if strings.Contains(fraction, mark) || has && fraction == "" || !digits(fraction) {
		return ""
	}
	if whole == "" && has {
		whole = "0"
	}
	for _, separator := range []string{thousands, "'", "’", " ", "\u00a0", "\u202f"} {
		if !strings.Contains(whole, separator) {
			continue
		}
		groups := strings.Split(whole, separator)
		for i, group := range groups {
			if i == 0 && (len(group) == 0 || len(group) > 3 || group[0] == '0') || i > 0 && len(group) != 3 || !digits(group) {
				return ""
			}
		}
		whole = strings.Join(groups, "")
		break
	}
	if whole == "" || !digits(whole) {
		return ""
	}
	if has {
		whole += "." + fraction
	}
	if negative {
		whole = "-" + whole
	}
	return whole
}

// isPlain says whether a text is a decimal as programs write it, that no other form reads in another way or at all.
func isPlain(text string) bool {
	text = strings.TrimPrefix(text, "-")
	whole, fraction, has := strings.Cut(text, ".")
	return whole != "" && digits(whole) && digits(fraction) && (!has || fraction != "")
}

func digits(text string) bool {
	for i := range len(text) {
		if text[i] < '0' || text[i] > '9' {
			return false
		}
	}
	return true
}

// trimCurrency takes signs and codes of a currency off both ends.
func trimCurrency(text string) string {
	const signs = "€$£¥₹₽₩₺zł "
	text = strings.Trim(text, " \u00a0\u202f")
	for _, cut := range []func(string) string{
		func(s string) string { return strings.TrimLeft(s, signs+"\u00a0\u202f") },
		func(s string) string { return strings.TrimRight(s, signs+"\u00a0\u202f") },
		func(s string) string {
			if len(s) > 3 && capitals(s[:3]) && !capitals(s[3:4]) {
				return strings.TrimLeft(s[3:], " \u00a0\u202f")
			}
			return s
		},
		func(s string) string {
			if n := len(s); n > 3 && capitals(s[n-3:]) && !capitals(s[n-4:n-3]) {
				return strings.TrimRight(s[:n-3], " \u00a0\u202f")
			}
			return s
		},
	} {
		text = cut(text)
	}
	return text
}

// signs are those of currencies; a sign that several have stands for itself.
var signs = map[rune]string{'€': "EUR", '£': "GBP", '₹': "INR", '₽': "RUB", '₩': "KRW", '₺': "TRY", 'ł': "PLN", '$': "$", '¥': "¥"}

// Currency is the currency that stands in a cell beside its number: a code of three capitals, or a sign that several currencies
// have; empty where there is none.
func Currency(text string) string {
	if isPlain(text) {
		return ""
	}
	for i, r := range text {
		if code := signs[r]; code != "" {
			return code
		}
		if r >= 'A' && r <= 'Z' && len(text) >= i+3 && capitals(text[i:i+3]) {
			return text[i : i+3]
		}
	}
	return ""
}

// Having are the currencies that have a sign, the most usual first; nil where a sign has one alone.
func Having(sign string) []string {
	switch sign {
	case "$":
		return []string{"USD", "CAD", "AUD", "NZD", "SGD", "HKD", "MXN"}
	case "¥":
		return []string{"JPY", "CNY"}
	}
	return nil
}

func capitals(text string) bool {
	for i := range len(text) {
		if text[i] < 'A' || text[i] > 'Z' {
			return false
		}
	}
	return true
}
