// Package request holds the error that says which word of a request was not understood.
package request

import "fmt"

// An Error says which word of a request was not understood, and what was expected.
type Error struct {
	Param  string // as the request names it: "from"
	Value  string
	Reason string
}

// shownValue is how many characters of a value stand in the message: one can be as long as an address.
const shownValue = 120

func (e *Error) Error() string {
	value := []rune(e.Value)
	if len(value) > shownValue {
		value = append(value[:shownValue:shownValue], '…')
	}
	return fmt.Sprintf("%s %q: %s", e.Param, string(value), e.Reason)
}

// Invalid is an Error.
func Invalid(word, value, reason string) *Error { return &Error{word, value, reason} }
