// Package recognise tells in which form the cells of a column are written. It looks at all of them, eliminates the forms that some
// cell excludes, and never guesses: where one form is left it is sure, where several are it has to be asked, where none is it says
// which cells contradict each other.
package recognise

import "fmt"

// An Answer is how a recognition ends.
type Answer uint8

const (
	No   Answer = iota // nothing fits all
	Ask                // several fit
	Sure               // one fits, and something in the column excludes each other one
)

// A Reason is a row and what its cell says.
type Reason struct {
	Row  int
	Text string
	Says string // "can only be day-first"
}

func (r Reason) String() string { return fmt.Sprintf("%q in row %d %s", r.Text, r.Row, r.Says) }
