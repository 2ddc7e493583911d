package cli

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
)

// An answer that is given at a terminal never holds for a file that it is not about.
func TestAnswersHoldForTheirFile(t *testing.T) {
	ask := func(word, file, column string) client.FileQuestion {
		return client.FileQuestion{Word: word, ColumnQuestion: api.ColumnQuestion{File: file, Column: column}}
	}
	for _, tt := range []struct {
		name      string
		questions []client.FileQuestion
		several   bool
		shared    bool
	}{
		{"dates of one file", []client.FileQuestion{ask("dates", "a.csv", "Day"), ask("dates", "a.csv", "Due")}, true, false},
		{"dates of two files", []client.FileQuestion{ask("dates", "a.csv", "Day"), ask("dates", "b.csv", "Day")}, true, true},
		{"one heading of two files", []client.FileQuestion{ask("map", "a.csv", "Date"), ask("map", "b.csv", "Date")}, true, true},
		{"two headings of two files", []client.FileQuestion{ask("map", "a.csv", "Date"), ask("map", "b.csv", "Day")}, true, false},
		{"what the rows of a file are, beside others", []client.FileQuestion{ask("rows", "a.csv", "")}, true, true},
		{"and alone", []client.FileQuestion{ask("rows", "a.csv", "")}, false, false},
		{"the currency of a sign, beside others", []client.FileQuestion{ask("currency", "a.csv", "")}, true, true},
		{"marks of two files", []client.FileQuestion{ask("not_known", "a.csv", ""), ask("not_known", "b.csv", "")}, true, true},
	} {
		assert.Equal(t, tt.shared, sharedByFiles(tt.questions, tt.several) != nil, tt.name)
	}
}
