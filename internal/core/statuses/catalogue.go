package statuses

import (
	"cmp"
	"slices"

	"prairiedusk/internal/core/book"
)

// A Status is one that orders have, with all its spellings.
type Status struct {
	Name      string
	Step      int // of the list of statuses; zero where it gives none
	Final     bool
	Colour    string
	Spellings []string // that records use, other than the name
	Listed    bool     // in the list of statuses
}

// A Catalogue holds the statuses of a book by code, in their order: by step, then those without one by how early orders come
// to them. Code 0 is NotSeen.
type Catalogue struct {
	Statuses []Status
	codes    []uint32 // by the code that the records have
}

// CatalogueOf reads the statuses of a book's records and of its list.
func CatalogueOf(b *book.Book) Catalogue {
	settings := map[string]book.StatusSetting{}
	for _, s := range b.StatusSettings() {
		settings[s.Name] = s
	}
	// A spelling of a spelling is one of the status itself; of a circle, each stays as it is.
	name := func(spelling string) string {
		name := spelling
		for range len(settings) {
			if of := settings[name].SpellingOf; of != "" {
				name = of
				continue
			}
			return name
		}
		return spelling
	}
	spellings := b.PartValues(book.Statuses, book.StatusName)
	all := map[string]*Status{}
	add := func(spelling string) {
		of := name(spelling)
		s := all[of]
		if s == nil {
			setting, listed := settings[of]
			s = &Status{Name: of, Step: setting.Step, Final: setting.Final, Colour: setting.Colour, Listed: listed}
			all[of] = s
		}
		if spelling != of {
			s.Spellings = append(s.Spellings, spelling)
		}
	}
	for _, s := range b.StatusSettings() {
		add(s.Name)
	}
	for _, spelling := range spellings[1:] {
		if _, known := settings[spelling]; !known {
			add(spelling)
		}
	}
	c := Catalogue{Statuses: []Status{{Name: "not seen"}}, codes: make([]uint32, len(spellings))}
	for _, s := range all {
		slices.Sort(s.Spellings)
		c.Statuses = append(c.Statuses, *s)
	}
	early := earliness(b)
	earliest := func(s Status) float64 {
		least := 2.0
		for code, spelling := range spellings {
			if code > 0 && (spelling == s.Name || slices.Contains(s.Spellings, spelling)) {
				least = min(least, early[code])
			}
		}
		return least
	}
	unplaced := func(s Status) int { return min(1, max(0, 1-s.Step*s.Step)) }
	slices.SortFunc(c.Statuses[1:], func(x, y Status) int {
		return cmp.Or(unplaced(x)-unplaced(y), cmp.Compare(x.Step, y.Step), cmp.Compare(earliest(x), earliest(y)),
			cmp.Compare(x.Name, y.Name))
	})
	for code, spelling := range spellings {
		if code > 0 {
			c.codes[code] = uint32(slices.IndexFunc(c.Statuses, func(s Status) bool { return s.Name == name(spelling) }))
		}
	}
	return c
}

// sampledRecords is how many records of a block tell how early statuses come.
const sampledRecords = 1 << 16

// earliness is how far into the records of orders a status comes on average, from 0 to 1, by the code that records have.
func earliness(b *book.Book) []float64 {
	n := len(b.PartValues(book.Statuses, book.StatusName))
	sums, counts := make([]float64, n), make([]float64, n)
	for _, block := range b.Scan() {
		records := &block.Parts[book.Statuses]
		for row := range block.IDs {
			from, to := records.Of(row)
			if to > sampledRecords {
				break
			}
			for i := from; i < to; i++ {
				code := records.Columns[book.StatusName].Codes[i]
				sums[code] += float64(i-from) / float64(to-from)
				counts[code]++
			}
		}
	}
	for code := range sums {
		sums[code] /= max(1, counts[code])
	}
	return sums
}

// Final says of each status whether orders end in it.
func (c Catalogue) Final() []bool {
	final := make([]bool, len(c.Statuses))
	for i, s := range c.Statuses {
		final[i] = s.Final
	}
	return final
}

// Code is the code of a status by its name or by one of its spellings.
func (c Catalogue) Code(name string) (uint32, bool) {
	i := slices.IndexFunc(c.Statuses[1:], func(s Status) bool { return s.Name == name || slices.Contains(s.Spellings, name) })
	return uint32(i + 1), i >= 0
}

// Names lists the statuses, without NotSeen.
func (c Catalogue) Names() []string {
	names := make([]string, 0, len(c.Statuses))
	for _, s := range c.Statuses[1:] {
		names = append(names, s.Name)
	}
	return names
}

// Unlisted are the names of statuses that are not in the list, where there is a list.
func (c Catalogue) Unlisted() (names []string) {
	for _, st := range c.Statuses[1:] {
		if !st.Listed {
			names = append(names, st.Name)
		}
	}
	if len(names) == len(c.Statuses)-1 {
		return nil
	}
	return names
}
