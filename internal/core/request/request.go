// Package request holds the error that says which word of a request was not understood.
package request

import "fmt"

// An Error says which word of a request was not understood, and what was expected.
type Error struct {
	Word   string // as the request names it: "from"
	Value  string
	Reason string
}

func (e *Error) Error() string { return fmt.Sprintf("%s %q: %s", e.Word, e.Value, e.Reason) }

// Refuse is an Error.
func Refuse(word, value, reason string) *Error { return &Error{word, value, reason} }
