package calendarfile

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/teambition/rrule-go"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/numfmt"
)

// The bounds of a file: a few lines can name every day of three centuries a thousand times.
const (
	mostBytes = 32 << 20
	mostDays  = 200_000
	// mostSteps bounds how far rules are followed, whether or not they name a day: by the days from their start to their end, the
	// more the more often a rule looks whether it applies.
	mostSteps = 40_000_000
)

// A TooMuchError says that a file goes beyond what a calendar can need.
type TooMuchError struct{ What string }

func (e *TooMuchError) Error() string { return e.What }

// readText reads a file whole.
func readText(r io.Reader) ([]byte, error) {
	text, err := io.ReadAll(io.LimitReader(r, mostBytes+1))
	switch {
	case err != nil:
		return nil, err
	case len(text) > mostBytes:
		return nil, &TooMuchError{fmt.Sprintf("it is larger than %d MiB; want the calendar alone", mostBytes>>20)}
	case bytes.IndexByte(text, 0) >= 0:
		return nil, errors.New("it holds the character NUL, which no text has")
	}
	return text, nil
}

// bounds count what a file has asked for so far.
type bounds struct{ days, steps int }

// name counts days that the file names.
func (b *bounds) name(days int) error {
	if b.days += days; b.days > mostDays {
		return &TooMuchError{fmt.Sprintf("up to here the file names more than %s days; want holidays alone, and rules that end",
			numfmt.Count(mostDays))}
	}
	return nil
}

// follow counts how far a rule is followed.
func (b *bounds) follow(rule rrule.ROption, start time.Time) error {
	last := rule.Until
	if last.IsZero() {
		last = day.Last.Time() // one with a COUNT may never reach it
	}
	weight := map[rrule.Frequency]int{rrule.DAILY: 10, rrule.WEEKLY: 4}[rule.Freq]
	if b.steps += max(1, weight) * max(0, int(last.Sub(start).Hours()/24)); b.steps > mostSteps {
		return &TooMuchError{"the rules of the file, up to this event, go on for too long; want fewer rules, or rules that end"}
	}
	return nil
}
