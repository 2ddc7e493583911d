package present

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/distribution"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/immediate"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// placeGroupings are the groupings of a question about places, by what it calls them. Regions are of countries, so that two of one name
// stay two.
var placeGroupings = map[string][]string{"place": {"place"}, "region": {"country", "region"}, "country": {"country"}, "site-place": {"place", "site"}}

// PlacesQuestion is the question about lengths behind one about places, which it gives with the book and the dates that the question names.
// The error is a *request.Error.
func PlacesQuestion(b *book.Book, in *api.PlacesQuestion) (*api.TookQuestion, duration.Question, *book.Book, error) {
	took := &api.TookQuestion{Leg: in.Leg, Placing: api.Placing{Basis: in.Basis, Period: in.Period, By: placeGroupings[in.By],
		Where: in.Where}}
	switch in.Show {
	case figureOver:
		if took.Over = in.Over; !in.Over.Given {
			return nil, duration.Question{}, b, request.Invalid("over", "", "a share over a limit needs one; want a length, such as 10")
		}
		took.Show = []string{"median"} // which nobody sees
	case figureLate:
		took.Promise, took.Show = in.Promise, []string{"median"}
	default:
		took.Show = []string{in.Show}
	}
	q, b, err := TookQuestion(b, took)
	switch {
	case err != nil:
	case len(q.Periods) > 1:
		err = request.Invalid("period", in.Period, "want one period")
	case q.Leg.To.Plan:
		err = request.Invalid("to", in.To, "want a date on which something came about: what is planned has not reached a place")
	}
	return took, q, b, err
}

// The figures of places that are shares; all others are statistics of lengths.
const (
	figureOver = "over"
	figureLate = "late"
)

// mostPlaces is how many places people read at least: a map that left some out would not show it.
const mostPlaces = 20_000

// byLowerEnd ranks places by the lower end of the 95% interval.
const byLowerEnd = "lower-end"

// Places says how long orders take by where they go, the longest first.
func Places(b *book.Book, in *api.PlacesQuestion, size Size) (*answer.Document, error) {
	took, q, b, err := PlacesQuestion(b, in)
	if err != nil {
		return nil, err
	}
	size.Rows = max(size.Rows, mostPlaces)
	a := duration.Ask(b, q)
	p := &placesPresenter{tookPresenter: tookPresenter{Answer: a, part: a.Parts[0], in: *took, to: size.behindOf("took", took), size: size},
		in: in, book: b, gazetteer: b.Gazetteer(), ranks: map[int]distribution.Ranks{}}
	if err := size.fits(min(size.Rows, len(p.part.Groups))*8, "by", in.By); err != nil {
		return nil, err
	}
	p.places = p.ranked()
	d := newDocument(b, "places", p.sentence())
	d.Heading = q.Heading()
	part := newPart("")
	part.Tables = append(part.Tables, p.table())
	if in.By == "site-place" {
		part.Tables = append(part.Tables, p.sitesTable())
		if !p.share() && p.crossed() {
			part.Tables = append(part.Tables, p.crossTable())
		}
	}
	notes := slices.DeleteFunc(p.notes(), func(n answer.Note) bool { return n.Code == "few" }) // the table has its own limit
	part.Lines, part.Notes = p.lines(), append(p.ownNotes(), notes...)
	if off := p.offMap(); len(off.Rows) > 0 {
		part.Tables = append(part.Tables, off)
		orders, named := 0, len(off.Rows)
		for _, r := range off.Rows {
			if orders += int(*r.Cells[1].Number); r.Cells[off.At("name")].Text == "" {
				named--
			}
		}
		part.Notes = append(part.Notes, answer.Note{Code: "off-map", Text: fmt.Sprintf("not on the map: %s, since nothing says where they lie (%s in all%s); they stand in the table, and in all totals",
			numfmt.Counted(named, "place"), numfmt.Counted(orders, "order"), numfmt.Either(named < len(off.Rows), ", with those without a place", ""))})
	}
	part.Untested = p.untested(b)
	d.Parts = append(d.Parts, part)
	return d, nil
}

// A placesPresenter lays out what a question about lengths by place comes to.
type placesPresenter struct {
	tookPresenter
	in        *api.PlacesQuestion
	book      *book.Book
	gazetteer *book.Gazetteer
	ranks     map[int]distribution.Ranks // of the quantile that is shown, by the number of lengths
	places    []*rankedPlace             // all, in the order of the table
}

// A placeFigure is the figure of one group.
type placeFigure struct {
	n         int // lengths, or orders whose outcome is known
	value     float64
	low, high float64 // the 95% interval; NaN where it is not known
}

// figure is that of a group.
func (p *placesPresenter) figure(g duration.Group) placeFigure {
	share := func(some, all int) placeFigure {
		s := immediate.Share{Some: some, All: all}
		low, high := s.Interval()
		return placeFigure{all, 100 * float64(some) / float64(all), low, high}
	}
	switch p.in.Show {
	case figureOver:
		over := g.Over(*p.Question.Limit)
		return share(over.Finished+over.Waiting, over.Finished+over.Waiting+over.Within)
	case figureLate:
		return share(g.Kept.LateShare())
	}
	statistic, ticks := p.Question.Show[0], float64(p.Question.Measure.Unit.Ticks())
	f := placeFigure{n: g.Lengths.Orders(), value: math.NaN(), low: math.NaN(), high: math.NaN()}
	if f.n == 0 {
		return f
	}
	f.value = statistic.Of(g.Lengths) / ticks
	if quantile, is := statistic.Quantile(); is {
		ranks, known := p.ranks[f.n] // many places have as many lengths
		if !known {
			ranks = distribution.QuantileRanks(f.n, quantile)
			p.ranks[f.n] = ranks
		}
		if ranks.Low > 0 {
			low, high := g.Lengths.Between(ranks)
			f.low, f.high = float64(low)/ticks, float64(high)/ticks
		}
	} else if low, high, known := g.Lengths.MeanInterval(); known && statistic.String() == "mean" {
		f.low, f.high = low/ticks, high/ticks
	}
	return f
}

// share says whether the figure is a share in percent.
func (p *placesPresenter) share() bool { return p.in.Show == figureOver || p.in.Show == figureLate }

// cell is a number of the figure.
func (p *placesPresenter) cell(x float64) answer.Cell {
	switch {
	case p.share():
		return answer.Measured(x, 2)
	case p.in.Show == "mean":
		return answer.Measured(x, 2)
	}
	return answer.Measured(x, 1)
}

// figureHeading names the figure.
func (p *placesPresenter) figureHeading() string {
	switch p.in.Show {
	case figureOver:
		return "% " + p.Question.Limit.Words(p.Question.Measure.Unit)
	case figureLate:
		return "% late"
	}
	return p.in.Show
}

// ranked are the groups: those with enough lengths by the figure, the longest first, then the small ones, which have no rank, and those
// without a figure.
func (p *placesPresenter) ranked() []*rankedPlace {
	groups := make([]*rankedPlace, 0, len(p.part.Groups))
	for _, g := range p.part.Groups {
		f := p.figure(g)
		r := &rankedPlace{Group: g, placeFigure: f, small: f.n < p.in.Few}
		if r.by = f.value; p.in.Rank == byLowerEnd {
			r.by = f.low
		}
		groups = append(groups, r)
	}
	class := func(r *rankedPlace) int {
		switch {
		case r.n == 0:
			return 2
		case r.small || math.IsNaN(r.by):
			return 1
		}
		return 0
	}
	slices.SortFunc(groups, func(x, y *rankedPlace) int {
		return cmp.Or(cmp.Compare(class(x), class(y)), cmp.Compare(y.by, x.by), cmp.Compare(y.value, x.value), cmp.Compare(y.n, x.n),
			slices.Compare(x.Keys, y.Keys))
	})
	for i := range groups {
		switch {
		case class(groups[i]) > 0:
		case i > 0 && groups[i-1].by == groups[i].by:
			groups[i].rank = groups[i-1].rank
		default:
			groups[i].rank = i + 1
		}
	}
	return groups
}

// A rankedPlace is a group with its rank; 0 where it has none.
type rankedPlace struct {
	duration.Group
	placeFigure
	by    float64
	small bool
	rank  int
}

// table has a row for each place.
func (p *placesPresenter) table() answer.Table {
	q, kind, unit := p.Question, answer.Number, p.Question.UnitWords()
	if p.share() {
		kind, unit = answer.Percent, ""
	}
	shared := q.Heading()
	t := answer.Table{Code: "places", Columns: append(keyColumns(q.By, ""), answer.Column{Code: "rank", Heading: "rank", Kind: answer.Number}),
		Rows: []answer.Row{}, Totals: []answer.Row{}, All: len(p.part.Groups)}
	t.Columns = append(t.Columns, answer.Column{Code: "orders", Heading: "selected", Kind: answer.Count}, answer.Column{Code: "n", Heading: "n", Kind: answer.Count},
		answer.Column{Code: "figure", Heading: p.figureHeading(), Shared: shared, Kind: kind, Unit: unit},
		answer.Column{Code: "low", Heading: "95% from", Shared: shared, Kind: kind, Unit: unit},
		answer.Column{Code: "high", Heading: "to", Shared: shared, Kind: kind, Unit: unit},
		answer.Column{Code: "beside_all", Heading: "beside all", Shared: shared, Kind: answer.Number, Unit: cmp.Or(unit, "points")})
	if p.in.Target.Given {
		t.Columns = append(t.Columns, answer.Column{Code: "beside_target", Heading: "beside target", Shared: shared, Kind: answer.Number, Unit: cmp.Or(unit, "points")})
	}
	t.Columns = append(t.Columns, answer.Column{Code: "running", Heading: "still running", Kind: answer.Count},
		answer.Column{Code: "latitude", Heading: "latitude", Kind: answer.Number, Unit: "degrees", Folded: true},
		answer.Column{Code: "longitude", Heading: "longitude", Kind: answer.Number, Unit: "degrees", Folded: true})
	whole := p.figure(p.part.Total)
	row := func(keys []answer.Cell, g *rankedPlace, to behind, all bool) answer.Row {
		counted := to.of("state", duration.Counted)
		switch p.in.Show {
		case figureOver:
			counted = to.of("beyond", duration.Decided)
		case figureLate:
			counted = to.of("standing", duration.KnownOutcomes)
		}
		rank, beside := answer.Cell{}, answer.Cell{}
		if g.rank > 0 {
			rank = answer.Measured(float64(g.rank), 0)
		}
		if !all {
			beside = p.difference(g.value, whole.value)
		}
		cells := append(slices.Grow(keys, len(t.Columns)-len(keys)), rank, answer.Orders(g.Orders, to.of()),
			answer.Orders(g.n, counted), p.cell(g.value), p.cell(g.low), p.cell(g.high), beside)
		if p.in.Target.Given {
			cells = append(cells, p.difference(g.value, p.in.Target.Value))
		}
		latitude, longitude := answer.Cell{}, answer.Cell{}
		if at := p.at(g.Keys); at != nil {
			latitude, longitude = answer.Measured(at.Latitude, 4), answer.Measured(at.Longitude, 4)
		}
		r := answer.Row{Cells: append(cells, p.state(int(g.States[leg.Running]), to, leg.Running.String()), latitude, longitude)}
		if g.small && g.n > 0 && !all {
			r.Remarks = []string{"few"}
		}
		return r
	}
	shown := first(p.places, p.size)
	t.Rows = make([]answer.Row, 0, len(shown))
	for _, g := range shown {
		t.Rows = append(t.Rows, row(named(g.Keys), g, p.to.group(g.Keys), false))
	}
	t.Totals = append(t.Totals, row(named(slices.Repeat([]string{"all"}, len(q.By))), &rankedPlace{Group: p.part.Total, placeFigure: whole}, p.to, true))
	return t
}

// difference is how far a figure lies from another, with its sign.
func (p *placesPresenter) difference(x, from float64) answer.Cell {
	c := p.cell(x - from)
	if c.Number != nil && *c.Number > 0 {
		c.Text = "+" + c.Text
	}
	return c
}

// at is where the place of a group is; nil where it is none, or nobody knows.
func (p *placesPresenter) at(keys []string) *book.Coordinates {
	if len(keys) == 0 || p.Question.By[0].Field != book.Place {
		return nil
	}
	place := p.gazetteer.Place(keys[0])
	if place == (book.PlaceKey{}) {
		return nil
	}
	return p.gazetteer.At(place)
}

// offMap lists the places that no list gives co-ordinates, and the orders without a place, with their share of all.
func (p *placesPresenter) offMap() answer.Table {
	t := answer.Table{Code: "off-map", Title: "Not on the map", Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "place", Heading: "place", Kind: answer.Text}, {Code: "orders", Heading: "selected", Kind: answer.Count},
		{Code: "share", Heading: "% of all", Kind: answer.Percent}, {Code: "why", Heading: "why", Kind: answer.Text},
		{Code: "name", Heading: "name", Kind: answer.Text, Folded: true}, {Code: "country", Heading: "country", Kind: answer.Text, Folded: true},
		{Code: "region", Heading: "region", Kind: answer.Text, Folded: true}}}
	if p.Question.By[0].Field != book.Place {
		return t
	}
	orders := map[string]int{}
	var names []string
	for _, g := range p.part.Groups {
		key := g.Keys[0]
		if p.at(g.Keys) == nil {
			if orders[key] == 0 {
				names = append(names, key)
			}
			orders[key] += g.Orders
		}
	}
	slices.SortStableFunc(names, func(x, y string) int { return cmp.Or(cmp.Compare(orders[y], orders[x]), cmp.Compare(x, y)) })
	for _, name := range names {
		why, to, key := "no co-ordinates in the list of places", answer.Address(""), p.gazetteer.Place(name)
		if name == "" {
			why = "orders without a place"
		}
		if p.in.By == "place" {
			to = p.to.group([]string{name}).of()
		}
		t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{named([]string{name})[0], answer.Orders(orders[name], to),
			percent(orders[name], p.part.Total.Orders), answer.Words(why), answer.Words(key.Name),
			answer.Words(key.Country), answer.Words(key.Region)}})
	}
	t.All = len(t.Rows)
	return t
}

// sitesTable says where the sites are from which routes go: where the list of places has a place of the site's name.
func (p *placesPresenter) sitesTable() answer.Table {
	t := answer.Table{Code: "sites", Picture: true, Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "site", Heading: "site", Kind: answer.Text}, {Code: "latitude", Heading: "latitude", Kind: answer.Number, Unit: "degrees"},
		{Code: "longitude", Heading: "longitude", Kind: answer.Number, Unit: "degrees"}}}
	for _, name := range p.book.Values(book.Site)[1:] {
		at := p.gazetteer.At(book.PlaceKey{Name: name, Country: p.book.SiteCountry(name)})
		if at != nil {
			t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{answer.Words(name), answer.Measured(at.Latitude, 4),
				answer.Measured(at.Longitude, 4)}})
		}
	}
	t.All = len(t.Rows)
	return t
}

// sentence says what is computed.
func (p *placesPresenter) sentence() query.Sentence {
	s := p.Question.Sentence()
	last := len(s) - 1
	text := "the highest share first"
	if !p.share() {
		text = "the " + p.in.Show + ", the longest first"
	}
	if p.in.Rank == byLowerEnd {
		text += " by the lower end of the 95% interval"
	}
	return append(append(slices.Clone(s[:last]), query.Part("", ", "), query.Part("rank", text)), s[last])
}

// ownNotes say how to read the table.
func (p *placesPresenter) ownNotes() (notes []answer.Note) {
	add := func(code, format string, values ...any) {
		notes = append(notes, answer.Note{Code: code, Text: fmt.Sprintf(format, values...)})
	}
	small := 0
	for _, g := range p.places {
		if g.small && g.n > 0 {
			small++
		}
	}
	if small > 0 {
		noun := strings.ReplaceAll(p.in.By, "site-place", "route")
		add("few-orders", "%s: fewer than %d, too few to be ranked; listed last", numfmt.Counted(small, noun), p.in.Few)
	}
	switch {
	case p.share():
		add("interval", "from and to are the 95%% interval of the share, by Wilson: what is the share of so many orders that one may take for a sample")
	case p.in.Show == "mean":
		add("interval", "from and to are the 95%% interval of the mean, by Student's t; a few very long orders make it wide")
	default:
		if _, is := p.Question.Show[0].Quantile(); is {
			add("interval", "from and to are the 95%% interval: between two of the lengths themselves, whatever their distribution; empty where there are too few")
		}
	}
	if p.in.Rank == byLowerEnd {
		add("rank", "ranked by the lower end of the interval: how long it takes at least, however few the orders")
	}
	if p.in.Target.Given {
		add("target", "the target is %s", p.cell(p.in.Target.Value).Text)
	}
	return notes
}
