package book

import (
	"encoding/binary"
	"fmt"
	"strings"
)

// A PlaceKey is a place: two of one name in two countries, or in two regions of one, are two.
type PlaceKey struct{ Name, Country, Region string }

// Text is the key as one text, for tables of places: it can be taken apart again whatever the names hold. That of no place, which
// has no name, is empty.
func (k PlaceKey) Text() string {
	if k.Name == "" {
		return ""
	}
	text := binary.AppendUvarint(nil, uint64(len(k.Name)))
	text = append(text, k.Name...)
	text = binary.AppendUvarint(text, uint64(len(k.Country)))
	return string(append(append(text, k.Country...), k.Region...))
}

// placeOf takes a text of a key apart.
func placeOf(text string) (k PlaceKey) {
	if text == "" {
		return k
	}
	for _, part := range []*string{&k.Name, &k.Country} {
		n, at := binary.Uvarint([]byte(text))
		*part, text = text[at:at+int(n)], text[at+int(n):]
	}
	k.Region = text
	return k
}

// Place is the place behind a code of the field Place.
func (b *Book) Place(code uint32) PlaceKey { return placeOf(b.dictionaries[Place].values[code]) }

// PlaceBeside is how a place is shown beside its country, or its region: by its name, with what else is needed to tell it from
// others.
func (b *Book) PlaceBeside(code uint32, country, region bool) string {
	told := b.dictionaries[Place].told[code]
	if told == byName || country && told == byCountry || country && region {
		return b.Place(code).Name
	}
	return b.Values(Place)[code]
}

// What tells a place from all others.
const (
	byName = iota
	byCountry
	byRegion
	byAll // its names could be taken for those of another
	tellings
)

// shown is a place with what tells it apart.
func (k PlaceKey) shown(by uint8) string {
	join := func(name, more string) string {
		if more == "" {
			return name
		}
		return name + ", " + more
	}
	switch by {
	case byName:
		return k.Name
	case byCountry:
		return join(k.Name, k.Country)
	case byRegion:
		return join(join(k.Name, k.Region), k.Country)
	}
	return fmt.Sprintf("%q in region %q of %q", k.Name, k.Region, k.Country)
}

// showPlaces gives the places of a dictionary the shortest texts that tell each from all others.
func (d *dictionary) showPlaces() {
	d.shown, d.told = make([]string, len(d.values)), make([]uint8, len(d.values))
	open := make([]int, 0, len(d.values))
	for code := range d.values {
		open = append(open, code)
	}
	for by := range uint8(tellings) {
		times := map[string]int{}
		for _, code := range open {
			d.told[code], d.shown[code] = by, placeOf(d.values[code]).shown(by)
		}
		for _, text := range d.shown {
			times[text]++
		}
		next := open[:0]
		for _, code := range open {
			if code != 0 && times[d.shown[code]] > 1 {
				next = append(next, code)
			}
		}
		open = next
	}
}

// SiteCountry is the country of a site, by the list of sites; empty where that does not say.
func (b *Book) SiteCountry(site string) string {
	for _, s := range b.ends.Sites {
		if strings.EqualFold(s.Name, site) {
			return s.Country
		}
	}
	return ""
}

// A Gazetteer knows where places are, by the list of places.
type Gazetteer struct {
	shown map[string]PlaceKey // the places of orders, by how they are shown
	exact map[PlaceKey]*Coordinates
	only  map[PlaceKey]*Coordinates // by name and country, and by name alone, of the only place of that name; nil where there are several
}

type gazetteerKey struct{}

// Gazetteer is that of the book's list of places. It is made once.
func (b *Book) Gazetteer() *Gazetteer {
	return b.Memoize(gazetteerKey{}, func(b *Book) any { return newGazetteer(b) }).(*Gazetteer)
}

func newGazetteer(b *Book) *Gazetteer {
	g := &Gazetteer{map[string]PlaceKey{}, map[PlaceKey]*Coordinates{}, map[PlaceKey]*Coordinates{}}
	for code, name := range b.Values(Place) {
		g.shown[name] = b.Place(uint32(code))
	}
	for _, p := range b.ends.Places {
		g.exact[PlaceKey{p.Place, p.Country, p.Region}] = p.At
		for _, less := range []PlaceKey{{Name: p.Place, Country: p.Country}, {Name: p.Place}} {
			at := p.At
			if _, twice := g.only[less]; twice {
				at = nil
			}
			g.only[less] = at
		}
	}
	return g
}

// At is where a place is; nil where nobody knows. An order that does not say the region, or the country either, means the only place of
// its name that the list has.
func (g *Gazetteer) At(k PlaceKey) *Coordinates {
	if at := g.exact[k]; at != nil || k.Region != "" {
		return at
	}
	return g.only[k]
}

// Place is the place of an order, by how it is shown; empty where there is none.
func (g *Gazetteer) Place(shown string) PlaceKey { return g.shown[shown] }
