package book

// A StatusSetting is what people say of a status: its place among the others, whether orders end in it, its colour, and
// which status it is another spelling of.
type StatusSetting struct {
	Name       string
	Step       int // the smaller comes first; zero has no place of its own
	Final      bool
	Colour     string // of the palette; empty is any
	SpellingOf string
}

// StatusSettings is what is known of statuses by their names.
func (b *Book) StatusSettings() []StatusSetting { return b.ends.Statuses }
