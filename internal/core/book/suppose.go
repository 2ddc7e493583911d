package book

import (
	"slices"
	"sync"
)

// A Supposition is what a book would be finished with.
type Supposition struct {
	Calendars Calendars
	Sites     []SiteRecord
	// Served are the sites, by code, that the orders of places are supposed to ship from, by the code of the place.
	Served  map[uint32]uint32
	Version int64 // of the book that is made
}

// Sites are the records of sites.
func (b *Book) Sites() []SiteRecord { return b.ends.Sites }

// Supposing is the book as it would be. Labels and what else is told of its orders are left out, but for what the lists of customers,
// sites, places and products say: they are to be told anew.
func (b *Book) Supposing(s Supposition) *Book {
	next := *b
	next.ends.Calendars, next.ends.Sites, next.ends.Version = s.Calendars, s.Sites, s.Version
	next.cache = &sync.Map{}
	own := int(Fields) + len(b.layout.Extra)
	next.told, next.related, next.numbers, next.dictionaries = nil, 0, nil, slices.Clip(b.dictionaries[:own])
	next.blocks = make([]*Block, len(b.blocks))
	for i, block := range b.blocks {
		b.Pause()
		made := *block
		made.Codes, made.Told = slices.Clone(block.Codes[:own]), nil
		if len(s.Served) > 0 {
			sites := slices.Clone(block.Codes[Site])
			for row, place := range block.Codes[Place] {
				if to, served := s.Served[place]; served {
					sites[row] = to
				}
			}
			made.Codes[Site] = sites
		}
		next.blocks[i] = &made
	}
	next.relate()
	next.resolve()
	next.findEffectiveStarts()
	return &next
}
