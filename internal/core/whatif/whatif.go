// Package whatif tells what a book would be with other working days, cut-offs and sites: the same orders, with their dates as they are.
package whatif

import (
	"fmt"
	"hash/fnv"
	"maps"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/spelling"
)

// Word is the parameter that holds a change.
const Word = "what_if"

// Examples are changes of each kind.
var Examples = []string{"holiday Galway=2026-10-30", "working-day Galway=2026-10-26", "week Galway=Mon Tue Wed Thu", "cut-off Galway=16:00",
	"calendar Galway=Hamilton", "site Cork=Hamilton"}

// mostChanges and longestChange bound what is supposed at once: each change makes a calendar or a list of sites anew.
const mostChanges, longestChange = 50, 200

// kinds of changes, each of which reads what comes after it.
var kinds = map[string]func(s *supposing, name, value string) error{
	"holiday":     (*supposing).holiday,
	"working-day": (*supposing).workingDay,
	"week":        (*supposing).week,
	"cut-off":     (*supposing).cutOff,
	"calendar":    (*supposing).calendar,
	"site":        (*supposing).site,
}

// supposing gathers changes of a book.
type supposing struct {
	book *book.Book
	book.Supposition
	text string // the change that is read
}

// Suppose is the book with changes, each as "KIND NAME=VALUE": see Examples. Its labels and what is told of customers and statuses are
// to be told anew. The error is a *request.Error.
func Suppose(b *book.Book, changes []string) (*book.Book, error) {
	s := &supposing{book: b, Supposition: book.Supposition{Calendars: b.Calendars(), Sites: b.Sites(), Served: map[uint32]uint32{}}}
	if len(changes) > mostChanges {
		return nil, request.Invalid(Word, changes[mostChanges], fmt.Sprintf("want at most %d changes, not %d", mostChanges, len(changes)))
	}
	hash := fnv.New64a()
	fmt.Fprint(hash, b.Version())
	for _, s.text = range changes {
		if len(s.text) > longestChange {
			return nil, s.refuse(fmt.Sprintf("want at most %d bytes, not %d", longestChange, len(s.text)))
		}
		fmt.Fprintf(hash, "\n%s", s.text)
		kind, rest, _ := strings.Cut(strings.TrimSpace(s.text), " ")
		name, value, given := strings.Cut(rest, "=")
		name, value = strings.TrimSpace(name), strings.TrimSpace(value)
		read, known := kinds[kind]
		switch {
		case !known:
			return nil, s.refuse(spelling.Want(kind, slices.Sorted(maps.Keys(kinds))) + " (as in " + Examples[3] + ")")
		case name == "" || !given || value == "":
			return nil, s.refuse("want " + kind + " NAME=VALUE, as in " + Examples[slices.IndexFunc(Examples, func(e string) bool { return strings.HasPrefix(e, kind+" ") })])
		}
		if err := read(s, name, value); err != nil {
			return nil, err
		}
	}
	s.Version = -1 - int64(hash.Sum64()>>2) // of a book that is not kept
	return b.Supposing(s.Supposition), nil
}

func (s *supposing) refuse(why string) error { return request.Invalid(Word, s.text, why) }

// named is the definition of a calendar, which a change is made to. A site without a calendar of its own has none to be changed.
func (s *supposing) named(name string) (calendar.Definition, error) {
	c, known := s.Calendars.Named(name)
	if !known {
		var names []string
		for _, one := range s.Calendars.All() {
			names = append(names, one.Name())
		}
		return calendar.Definition{}, s.refuse("there is no calendar " + name + "; " + spelling.Want(name, names))
	}
	return c.Definition(), nil
}

// change puts a changed calendar in the place of the one of its name.
func (s *supposing) change(d calendar.Definition) error {
	c, err := calendar.New(d)
	if err != nil {
		return s.refuse(err.Error())
	}
	s.Calendars = s.Calendars.With(c)
	return nil
}

// namedAndDay are the definition of a calendar and a day of it that a change is of.
func (s *supposing) namedAndDay(name, value string) (calendar.Definition, day.Day, error) {
	c, err := s.named(name)
	if err != nil {
		return calendar.Definition{}, 0, err
	}
	d, err := day.Parse(value)
	if err != nil {
		return calendar.Definition{}, 0, s.refuse(err.Error())
	}
	return c, d, nil
}

// without are days but for one.
func without(days []calendar.NamedDay, d day.Day) []calendar.NamedDay {
	return slices.DeleteFunc(slices.Clone(days), func(other calendar.NamedDay) bool { return other.Day == d })
}

func (s *supposing) holiday(name, value string) error {
	c, d, err := s.namedAndDay(name, value)
	if err != nil {
		return err
	}
	// Where holidays are known follows the calendar as it is: one more holiday says nothing of the other days of its year.
	now, _ := s.Calendars.Named(name)
	switch {
	case len(now.Coverage()) == 1:
		c.Coverage = now.Coverage()[0]
	case !now.Covers(d, d):
		return s.refuse("the calendar " + name + " does not know the other holidays of that year; want a day of a year that it covers")
	}
	c.Holidays = append(without(c.Holidays, d), calendar.NamedDay{Day: d, Name: "supposed"})
	c.Extra = without(c.Extra, d)
	c.HalfDays = slices.DeleteFunc(slices.Clone(c.HalfDays), func(h calendar.HalfDay) bool { return h.Day == d })
	return s.change(c)
}

func (s *supposing) workingDay(name, value string) error {
	c, d, err := s.namedAndDay(name, value)
	if err != nil {
		return err
	}
	c.Extra = append(without(c.Extra, d), calendar.NamedDay{Day: d, Name: "supposed"})
	return s.change(c)
}

func (s *supposing) week(name, value string) error {
	c, err := s.named(name)
	if err != nil {
		return err
	}
	w, err := calendar.ParseWeek(value)
	if err != nil {
		return s.refuse(err.Error())
	}
	c.Patterns = []calendar.Pattern{{From: day.First, Week: w}}
	return s.change(c)
}

// record is the place of a site in the list of sites, into which one that is not in it is put.
func (s *supposing) record(name string) (int, error) {
	names := s.book.Values(book.Site)[1:]
	at := slices.IndexFunc(names, func(one string) bool { return strings.EqualFold(one, name) })
	if at < 0 {
		return 0, s.refuse("there is no site " + name + "; " + spelling.Want(name, names))
	}
	s.Sites = slices.Clone(s.Sites)
	for i, r := range s.Sites {
		if strings.EqualFold(r.Name, name) {
			return i, nil
		}
	}
	s.Sites = append(s.Sites, book.SiteRecord{Name: names[at], CutOff: -1})
	return len(s.Sites) - 1, nil
}

func (s *supposing) cutOff(name, value string) error {
	at, err := s.record(name)
	if err != nil {
		return err
	}
	seconds := -1
	if value != "none" {
		if seconds, err = day.ClockSeconds(value); err != nil {
			return s.refuse("want a time of day such as 16:00, or none")
		}
		if s.Sites[at].Zone == nil {
			return s.refuse("the zone of the site " + name + " is not known, so that no time of day can be held against a cut-off")
		}
	}
	s.Sites[at].CutOff = seconds
	return nil
}

func (s *supposing) calendar(name, value string) error {
	at, err := s.record(name)
	if err != nil {
		return err
	}
	if _, err := s.named(value); err != nil {
		return err
	}
	s.Sites[at].Calendar = value
	return nil
}

// site has the orders to a place served by another site.
func (s *supposing) site(name, value string) error {
	places, sites := s.book.Values(book.Place), s.book.Values(book.Site)
	place := slices.IndexFunc(places, func(one string) bool { return strings.EqualFold(one, name) })
	if place < 1 {
		return s.refuse("there is no place " + name + "; " + spelling.Want(name, places[1:]))
	}
	site := slices.IndexFunc(sites, func(one string) bool { return strings.EqualFold(one, value) })
	if site < 1 {
		return s.refuse("there is no site " + value + "; " + spelling.Want(value, sites[1:]))
	}
	s.Served[uint32(place)] = uint32(site)
	return nil
}
