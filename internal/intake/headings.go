package intake

import (
	_ "embed"
	"encoding/csv"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"prairiedusk/internal/recognise"
)

// The trade's headings in English, German, French, Spanish, Italian, Portuguese, Dutch and Polish, with what they mean. A heading
// that can mean several things, such as "delivery date" of a plan or a fact, has them all, and is asked about. To know another, add it
// to the file.
//
//go:embed headings.csv
var headingsFile string

// headings are what headings can mean, by their plain form.
var headings = readHeadings(headingsFile)

func readHeadings(text string) map[string][]string {
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if err != nil {
		panic(err) // the file is part of the program
	}
	all := map[string][]string{}
	for _, row := range rows[1:] {
		for heading := range strings.SplitSeq(row[2], "|") {
			if earlier, known := all[heading]; known && !slices.Equal(earlier, strings.Split(row[0], "|")) {
				panic(fmt.Sprintf("intake: the heading %q means %s and %s", heading, earlier, row[0]))
			}
			all[heading] = strings.Split(row[0], "|")
		}
	}
	return all
}

// plainHeading is a heading in small letters, without accents and punctuation, its words apart: "OrderDate" and "ORDER-DATE:" are
// "order date", "Order #" is "order no".
func plainHeading(title string) string {
	var words strings.Builder
	before := ' '
	for _, r := range strings.ReplaceAll(title, "#", " no ") {
		if unicode.IsUpper(r) && unicode.IsLower(before) {
			words.WriteByte(' ')
		}
		before = r
		if !unicode.IsLetter(r) && !unicode.IsNumber(r) {
			r = ' '
		}
		words.WriteRune(r)
	}
	return strings.Join(strings.Fields(recognise.Plain(words.String())), " ")
}
