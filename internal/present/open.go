package present

import (
	"cmp"
	"fmt"
	"math"
	"net/url"
	"slices"
	"strings"
	"sync"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/backlog"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/money"
	"prairiedusk/internal/params"
)

// Backlog says what was open. It remembers what is costly of the book as it stands: the daily indexes of legs, and the last
// timeline, for whoever scrolls. The zero value is ready.
type Backlog struct {
	// Quality is what looks wrong in the records themselves besides the book; nil leaves those out.
	Quality  func(*book.Book) (*answer.Document, error)
	mutex    sync.Mutex
	version  int64
	daily    map[string]*backlog.CumulativeFlow // by leg
	asked    string
	timeline []backlog.TimelineRow
}

// mostDaily bounds the daily indexes that are remembered.
const mostDaily = 30

// OpenQuestion understands a question about what was open against a book, which it gives with the dates that the question names. The
// error is a *request.Error.
func OpenQuestion(b *book.Book, in *api.OpenQuestion) (backlog.Question, *book.Book, error) {
	b, err := standIns(b, map[string]string{"from": in.From, "to": in.To})
	if err != nil {
		return backlog.Question{}, b, err
	}
	r := legRequest(api.Leg{Measured: in.Measured})
	r.Period, r.By = in.Period, in.By
	q, err := backlog.Parse(b, r, in.ClosingDay)
	if err != nil {
		return q, b, err
	}
	q.Where, err = Condition(b, "where", in.Where.Where)
	return q, b, err
}

// Open says what was open in periods or their steps, how old it was, or which orders it was.
func (m *Backlog) Open(b *book.Book, in *api.OpenQuestion, size Size) (*answer.Document, error) {
	q, b, err := OpenQuestion(b, in)
	if err != nil {
		return nil, err
	}
	d := newDocument(b, "open", nil)
	d.Heading = q.Heading(q.CutOffWords(false))
	switch ages := in.Ages || in.At != ""; {
	case ages && in.Timeline:
		return nil, request.Invalid("timeline", "true", "ages and a timeline are two answers; want one of them")
	case in.Timeline:
		return d, m.timelineOf(d, b, q, in, size)
	case ages:
		return d, agesOf(d, b, q, in, size)
	}
	return d, m.flows(d, b, q, in, size)
}

// numbersOfARow is how many numbers people read of a row: at the start, opened, closed, at the end, at some time.
const numbersOfARow = 5

// flows says what was open in each period, as one or in steps.
func (m *Backlog) flows(d *answer.Document, b *book.Book, q backlog.Question, in *api.OpenQuestion, size Size) error {
	each := query.NoCut
	if in.Each != "" {
		var err error
		if each, err = query.ParseCut(in.Each); err != nil {
			return err
		}
	}
	say(d, q.Sentence(each))
	numbers, sum := 0, 0
	for _, of := range q.Periods {
		a, err := m.during(b, q, of, each, in.Holdings || each == query.NoCut)
		if err != nil {
			return err
		}
		numbers += (1 + min(len(a.Groups), size.Rows)) * len(a.Total.Rows) * numbersOfARow
		if err := size.fits(numbers, "by", q.ByNames()); err != nil {
			return err
		}
		one := *in
		one.Each, one.Holdings = "", false
		if len(q.Periods) > 1 {
			one.Period = of.Text
		}
		made := flowPresenter{Answer: a, book: b, of: of, to: size.behindOf("open", &one), each: each,
			out: in.ClosingDay == backlog.ClosingDayOut, size: size}
		part := made.present()
		if len(q.Periods) > 1 {
			part.Title = of.Text
			sum += a.Total.Rows[0].SomeTime.Orders
		}
		d.Parts = append(d.Parts, part)
	}
	if len(q.Periods) > 1 && each == query.NoCut {
		orders, names := backlog.Together(b, q), make([]string, len(q.Periods))
		for i, p := range q.Periods {
			names[i] = p.Text
		}
		line := fmt.Sprintf("open at some time in %s: %s, each counted once", strings.Join(names, " or "), numfmt.Counted(orders, "order"))
		if sum > orders {
			line += fmt.Sprintf("; the periods' own numbers add up to %s, since some were open in more than one", numfmt.Count(sum))
		}
		last := &d.Parts[len(d.Parts)-1]
		last.Notes = append(last.Notes, answer.Note{Code: "together", Text: line, Orders: orders,
			Behind: size.behindOf("open", in).of("list", backlog.SomeTime)})
	}
	return nil
}

// during asks the daily index where neither groups nor conditions divide the orders.
func (m *Backlog) during(b *book.Book, q backlog.Question, of period.Period, each query.TimeBucket, holdings bool) (backlog.Answer, error) {
	if len(q.By) > 0 || q.Where.Condition != nil {
		return backlog.During(b, q, of, each, holdings)
	}
	leg := q.Leg.From.Name + " " + q.Leg.To.Name
	m.mutex.Lock()
	defer m.mutex.Unlock() // the second to ask waits for the first, and has it then
	m.turn(b)
	if len(m.daily) > mostDaily {
		clear(m.daily)
	}
	daily, found := m.daily[leg]
	if !found {
		var err error
		if daily, err = backlog.NewDaily(b.Unbound(), q); err != nil { // it outlives this request
			return backlog.Answer{}, err
		}
		m.daily[leg] = daily
	}
	return daily.Answer(q, of, each, holdings), nil
}

// A flowPresenter lays what was open in one period out.
type flowPresenter struct {
	backlog.Answer
	book *book.Book
	of   period.Period
	to   behind
	each query.TimeBucket
	out  bool
	size Size
}

func (p *flowPresenter) present() answer.Part {
	part := newPart("")
	part.Tables = append(part.Tables, p.rowsTable())
	if p.each != query.NoCut && len(p.Question.By) > 0 {
		part.Tables[0].Folded = true
		part.Tables = append(part.Tables, p.stepsTable())
	}
	held := p.Total.Rows[0].AtEnd.Values != nil
	if held {
		part.Tables = append(part.Tables, p.holdingsTable())
	}
	part.Lines = append(part.Lines, p.line())
	part.Notes = p.notes(held)
	part.Untested = p.untested()
	return part
}

// untested are kinds of orders that could change the answer and do not occur: on the edges of the period, and those that cannot be
// placed.
func (p *flowPresenter) untested() (kinds []string) {
	onFirst, sameDay := 0, 0
	for _, r := range p.Total.Rows {
		onFirst, sameDay = onFirst+r.OnFirst, sameDay+r.SameDay
	}
	if onFirst == 0 {
		kinds = append(kinds, numfmt.Either(p.each == query.NoCut, "closed on the first day of the period", "closed on the first day of a step"))
	}
	if sameDay == 0 {
		kinds = append(kinds, "closed on the day of its start")
	}
	for _, state := range []backlog.PeriodState{backlog.EndBeforeStart, backlog.CancelledBeforeStart} {
		if p.Unplaced[state] == 0 {
			kinds = append(kinds, state.Label(p.Question.Leg))
		}
	}
	return kinds
}

// stepColumns name the rows: by group and by step.
func (p *flowPresenter) stepColumns() []answer.Column {
	columns := []answer.Column{}
	if len(p.Question.By) > 0 {
		columns = keyColumns(p.Question.By, "")
	}
	return append(columns, answer.Column{Code: "step", Heading: numfmt.Either(p.each == query.NoCut, "period", p.each.String()),
		Kind: answer.Text})
}

// step is the name of a row's days.
func (p *flowPresenter) step(i int) string {
	days := p.Spans[i]
	return cmp.Or(p.Names[i], days.From.String()+" to "+days.LastDay().String())
}

// within is the address of the days of a row.
func (p *flowPresenter) within(r backlog.Row) behind {
	if p.each == query.NoCut {
		return p.to
	}
	return p.to.within(r.Days.From.String() + "/" + r.Days.LastDay().String())
}

// eachRow visits the rows of each group, with the keys that name it, and then those of all.
func (p *flowPresenter) eachRow(visit func(keys []answer.Cell, to behind, i int, r backlog.Row, all bool)) {
	for _, g := range first(p.Groups, p.size) {
		for i, r := range g.Rows {
			visit(named(g.Keys), p.within(r).group(g.Keys), i, r, false)
		}
	}
	for i, r := range p.Total.Rows {
		visit(named(slices.Repeat([]string{"all"}, len(p.Question.By))), p.within(r), i, r, true)
	}
}

func (p *flowPresenter) rowsTable() answer.Table {
	t := answer.Table{Code: "rows", Rows: []answer.Row{}, Totals: []answer.Row{}, All: len(p.Groups) * len(p.Spans),
		Columns: append(p.stepColumns(),
			answer.Column{Code: "at_start", Heading: "open at start", Kind: answer.Count},
			answer.Column{Code: "opened", Heading: "+ opened", Kind: answer.Count}, answer.Column{Code: "closed", Heading: "− closed",
				Kind: answer.Count},
			answer.Column{Code: "at_end", Heading: "= open at end", Kind: answer.Count}, answer.Column{Code: "some_time",
				Heading: "open at some time", Kind: answer.Count}, answer.Column{Code: "not_open", Heading: "not open on closing day",
				Kind: answer.Count, Folded: !p.out})}
	steps := p.each != query.NoCut && len(p.Question.By) == 0
	p.eachRow(func(keys []answer.Cell, to behind, i int, r backlog.Row, all bool) {
		row := answer.Row{Cells: append(slices.Clone(keys), answer.Words(p.step(i))), From: r.Days.From.String(),
			To: r.Days.LastDay().String()}
		for _, c := range []struct {
			of   backlog.Amount
			list string
		}{{r.AtStart, backlog.AtStart}, {r.Opened, backlog.OpenedIn}, {r.Closed, backlog.ClosedIn}, {r.AtEnd, backlog.AtEnd},
			{r.SomeTime, backlog.SomeTime}, {r.NotOpen, backlog.NotOpen}} {
			row.Cells = append(row.Cells, answer.Orders(c.of.Orders, to.of("list", c.list)))
		}
		if all && !steps {
			t.Totals = append(t.Totals, row)
		} else {
			t.Rows = append(t.Rows, row)
		}
	})
	if steps {
		t.All = len(t.Rows)
	}
	return t
}

// stepsTable has a row for each step and a column for each group.
func (p *flowPresenter) stepsTable() answer.Table {
	t := answer.Table{Code: "steps", Rows: []answer.Row{}, Totals: []answer.Row{}, All: len(p.Spans),
		Columns: p.stepColumns()[len(p.Question.By):]}
	const shared = "open at the end"
	groups := first(p.Groups, p.size)
	for _, g := range groups {
		t.Columns = append(t.Columns, answer.Column{Code: strings.Join(g.Keys, "|"), Heading: textsOf(named(g.Keys)), Shared: shared,
			Kind: answer.Count})
	}
	t.Columns = append(t.Columns, answer.Column{Code: "all", Heading: "all", Shared: shared, Kind: answer.Count},
		answer.Column{Code: "opened", Heading: "opened", Kind: answer.Count}, answer.Column{Code: "closed", Heading: "closed",
			Kind: answer.Count})
	for i, r := range p.Total.Rows {
		to := p.within(r)
		row := answer.Row{Cells: []answer.Cell{answer.Words(p.step(i))}, From: r.Days.From.String(), To: r.Days.LastDay().String()}
		for _, g := range groups {
			row.Cells = append(row.Cells, answer.Orders(g.Rows[i].AtEnd.Orders, to.group(g.Keys).of("list", backlog.AtEnd)))
		}
		row.Cells = append(row.Cells, answer.Orders(r.AtEnd.Orders, to.of("list", backlog.AtEnd)),
			answer.Orders(r.Opened.Orders, to.of("list", backlog.OpenedIn)), answer.Orders(r.Closed.Orders,
				to.of("list", backlog.ClosedIn)))
		t.Rows = append(t.Rows, row)
	}
	return t
}

// textsOf are the texts of cells, with commas.
func textsOf(cells []answer.Cell) string {
	texts := make([]string, len(cells))
	for i, c := range cells {
		texts[i] = c.Text
	}
	return strings.Join(texts, ", ")
}

// holdingsTable says what the orders hold, in units and in each currency by itself.
func (p *flowPresenter) holdingsTable() answer.Table {
	t := answer.Table{Code: "holdings", Title: "Open units and value", Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: append(p.stepColumns(), answer.Column{Code: "in", Heading: "in", Kind: answer.Text},
			answer.Column{Code: "at_start", Heading: "at start", Kind: answer.Number}, answer.Column{Code: "opened", Heading: "opened",
				Kind: answer.Number}, answer.Column{Code: "closed", Heading: "closed", Kind: answer.Number},
			answer.Column{Code: "at_end", Heading: "open at end", Kind: answer.Number})}
	currencies := p.book.Values(book.Currency)
	p.eachRow(func(keys []answer.Cell, _ behind, i int, r backlog.Row, all bool) {
		amounts := []backlog.Amount{r.AtStart, r.Opened, r.Closed, r.AtEnd}
		add := func(in string, cell func(backlog.Amount) answer.Cell) {
			row := answer.Row{Cells: append(slices.Clone(keys), answer.Words(p.step(i)), answer.Words(in))}
			for _, a := range amounts {
				row.Cells = append(row.Cells, cell(a))
			}
			if all {
				t.Totals = append(t.Totals, row)
			} else {
				t.Rows = append(t.Rows, row)
			}
		}
		add("units", func(a backlog.Amount) answer.Cell {
			if a.Told == 0 && a.Orders > 0 {
				return answer.Words("not known")
			}
			return answer.Written(numfmt.Decimal(a.Units, 3, 0), float64(a.Units)/1000)
		})
		held := map[string]int{} // currencies, by their codes
		for _, a := range amounts {
			for code, value := range a.Values {
				if value != 0 {
					held[currencies[code]] = code
				}
			}
		}
		for _, currency := range slices.Sorted(func(yield func(string) bool) {
			for c := range held {
				if !yield(c) {
					return
				}
			}
		}) {
			code := held[currency]
			add(cmp.Or(currency, "(none)"), func(a backlog.Amount) answer.Cell {
				return answer.Written(numfmt.Grouped(money.Format(a.Values[code], currency)),
					float64(a.Values[code])/math.Pow10(Decimals(currency)))
			})
		}
	})
	t.All = len(t.Rows)
	return t
}

func (p *flowPresenter) line() answer.Line {
	terms := []answer.Term{{Label: "with a start date", Orders: p.Placed(), Behind: p.to.of("list", backlog.EverOpen)}}
	for f, n := range p.Unplaced {
		if n > 0 {
			state := backlog.PeriodState(f)
			terms = append(terms, answer.Term{Label: state.Label(p.Question.Leg), Orders: n, Behind: p.to.of("list", state.String())})
		}
	}
	terms = append(terms, leftOut(p.Population, p.Question.Question, p.to)...)
	return answer.NewLine(numfmt.Counted(p.Population.InBook, "order")+" in the book",
		answer.Term{Label: "in the book", Orders: p.Population.InBook}, terms...)
}

func (p *flowPresenter) notes(held bool) (notes []answer.Note) {
	note := func(code string, orders int, format string, values ...any) {
		notes = append(notes, answer.Note{Code: code, Orders: orders, Text: fmt.Sprintf(format, values...)})
	}
	if r := p.Total.Rows[0]; p.each == query.NoCut {
		note("bridge", 0, "at its start %s + opened %s − closed %s = at its end %s", numfmt.Count(r.AtStart.Orders),
			numfmt.Count(r.Opened.Orders), numfmt.Count(r.Closed.Orders), numfmt.Count(r.AtEnd.Orders))
	} else {
		note("some-time", 0, "one order can be open in several steps, so open at some time is never added up")
	}
	if cut := p.of.Part(p.Bounds); cut != "" && !p.of.Unbounded() {
		note("part-period", 0, "%s is %s", p.of.Text, cut)
	}
	if firstDay := p.Bounds.FirstDay; p.Spans[0].From <= firstDay {
		note("book-begins", 0, "the book begins on %v: orders that were opened before it and still open then are not in it, so the first days show too few", firstDay)
	}
	if p.WithoutUnits > 0 {
		note("without-units", p.WithoutUnits, "%s with lines whose units are not known, or without lines: they are not in the units", numfmt.Counted(p.WithoutUnits, "order"))
	}
	if p.WithoutValue > 0 {
		note("without-value", p.WithoutValue, "the value of %s is not known: they are not in the values",
			numfmt.Counted(p.WithoutValue, "order"))
	}
	if held {
		note("holdings", 0, "units and values are those not shipped yet where lines and shipments are known, else those of whole orders; closed includes what was shipped before its order closed; currencies are never added up")
	}
	return append(notes, metByMissing(p.Population.MetByMissing, p.to)...)
}

// agesOf says how old what was open at the end of a day was.
func agesOf(d *answer.Document, b *book.Book, q backlog.Question, in *api.OpenQuestion, size Size) error {
	unit := q.Measure.Unit
	if unit.Timed() {
		return request.Invalid("in", in.In, "an age ends with a day, not with an instant; want days, working-days, weeks, months or years")
	}
	limits, err := backlog.ParseBuckets(in.Buckets, unit)
	if err != nil {
		return err
	}
	if len(q.Periods) > 1 && in.At == "" {
		return request.Invalid("period", in.Period,
			"ages are those at the end of one day; want one period, whose last day counts, or the day itself with at")
	}
	days, _ := backlog.Cut(q.Periods[0], b.Bounds()) // Parse has refused what cannot be cut
	at := days.LastDay()
	if in.At != "" {
		if at, err = day.Parse(in.At); err != nil || at > b.Bounds().DataDate {
			return request.Invalid("at", in.At, fmt.Sprintf("want a day up to %v, such as 2026-03-16", b.Bounds().DataDate))
		}
	}
	say(d, q.AgeSentence(at))
	one := *in
	one.Ages, one.At, one.Each, one.Buckets, one.Period = false, "", "", agesByDefault, ""
	to, part := size.behindOf("open", &one), newPart("")
	labels := backlog.BucketLabels(limits, unit)
	buckets := make([]answer.Column, len(labels))
	for i, label := range labels {
		buckets[i] = answer.Column{Code: fmt.Sprintf("bucket_%d", i), Heading: label, Kind: answer.Count}
	}
	// aged are the cells of all that was open at the end of a day, and of each bucket.
	aged := func(orders int, counts []int, to behind, at day.Day) []answer.Cell {
		to = to.within(at.String() + "/" + at.String())
		cells := []answer.Cell{answer.Orders(orders, to.of("list", backlog.AtEnd))}
		for i, n := range counts {
			words := []string{"list", backlog.AtEnd}
			if i > 0 {
				words = append(words, "youngest", fmt.Sprint(unit.Number(limits[i-1]+1)))
			}
			if i < len(limits) {
				words = append(words, "oldest", fmt.Sprint(unit.Number(limits[i])))
			}
			cells = append(cells, answer.Orders(n, to.of(words...)))
		}
		return cells
	}
	groups, total := backlog.At(b, q, at)
	t := answer.Table{Code: "ages", Rows: []answer.Row{}, Totals: []answer.Row{}, All: len(groups),
		Columns: append(append(keyColumns(q.By, "orders"), answer.Column{Code: "open", Heading: "open", Kind: answer.Count}), buckets...)}
	for _, code := range []string{"median", "p90", "oldest"} {
		t.Columns = append(t.Columns, answer.Column{Code: code, Heading: code, Kind: answer.Number, Unit: q.UnitWords()})
	}
	row := func(keys []answer.Cell, g backlog.Ages, to behind) answer.Row {
		ticks := float64(unit.Ticks())
		oldest := answer.Cell{}
		if len(g.Ages) > 0 {
			oldest = lengthCell(float64(g.Ages.Max()), unit)
		}
		return answer.Row{Cells: append(append(keys, aged(g.Ages.Orders(), g.Buckets(limits), to, at)...),
			answer.Measured(g.Ages.Quantile(0.5)/ticks, 1), answer.Measured(g.Ages.Quantile(0.9)/ticks, 1), oldest)}
	}
	for _, g := range first(groups, size) {
		t.Rows = append(t.Rows, row(named(g.Keys), g, to.group(g.Keys)))
	}
	t.Totals = append(t.Totals, row(named(slices.Repeat([]string{"all"}, max(1, len(q.By)))), total, to))
	part.Tables = append(part.Tables, t)
	if in.Each != "" {
		each, err := query.ParseCut(in.Each)
		if err != nil {
			return err
		}
		mix := answer.Table{Code: "mix", Title: "Ages over time: open at the end of each step", Rows: []answer.Row{},
			Totals: []answer.Row{},
			Columns: append([]answer.Column{{Code: "from", Heading: "from", Kind: answer.Day},
				{Code: "to", Heading: "to", Kind: answer.Day}, {Code: "open", Heading: "open", Kind: answer.Count}}, buckets...)}
		for _, step := range backlog.AgesOverTime(b, q, q.Periods[0], each, limits) {
			open := 0
			for _, n := range step.Buckets {
				open += n
			}
			from, last := step.Days.From.String(), step.Days.LastDay().String()
			mix.Rows = append(mix.Rows, answer.Row{From: from, To: last,
				Cells: append([]answer.Cell{answer.Words(from), answer.Words(last)}, aged(open, step.Buckets, to, step.Days.LastDay())...)})
		}
		mix.All = len(mix.Rows)
		part.Tables = append(part.Tables, mix)
	}
	part.Notes = append(part.Notes, answer.Note{Code: "age", Text: "an age runs from the start to the day in question: " + d.Heading},
		answer.Note{Code: "percentile", Text: "p90 is the 90th percentile"})
	d.Parts = append(d.Parts, part)
	return nil
}

// agesByDefault are the buckets of a question that names none.
const agesByDefault = "2,5,10,20"

// lengthCell is a cell of a length in ticks, with as many decimals as it needs, at most two.
func lengthCell(ticks float64, unit leg.Unit) answer.Cell {
	x, decimals := ticks/float64(unit.Ticks()), 2
	if x == math.Trunc(x) {
		decimals = 0
	}
	return answer.Measured(x, decimals)
}

// timelineOf lists the orders that were open, each over its days.
func (m *Backlog) timelineOf(d *answer.Document, b *book.Book, q backlog.Question, in *api.OpenQuestion, size Size) error {
	if len(q.Periods) > 1 {
		return request.Invalid("period", in.Period, "a timeline takes one period")
	}
	if !slices.Contains([]string{backlog.ByStart, backlog.ByAge, backlog.ByLength}, in.Sort) {
		return request.Invalid("sort", in.Sort, "want start, age or length")
	}
	say(d, q.Sentence(query.NoCut))
	rows := m.rowsOf(b, q, in)
	days, _ := backlog.Cut(q.Periods[0], b.Bounds())
	t := answer.Table{Code: "timeline", Rows: []answer.Row{}, Totals: []answer.Row{}, All: len(rows), Columns: []answer.Column{
		{Code: "number", Heading: "number", Kind: answer.Order}, {Code: "start", Heading: q.Leg.From.Name, Kind: answer.Day},
		{Code: "close", Heading: "closed", Kind: answer.Day},
		{Code: "age", Heading: "open for", Shared: d.Heading, Kind: answer.Number, Unit: q.UnitWords()},
		{Code: "reason", Heading: "why it counts", Kind: answer.Text},
		{Code: "cancelled", Heading: "closed by being cancelled", Kind: answer.Text, Folded: true},
		{Code: "state", Heading: "state in the period", Kind: answer.Text, Folded: true},
		{Code: "calendar", Heading: "calendar", Kind: answer.Text, Folded: true}}}
	shown, offset, err := page(rows, in.Page, len(t.Columns), size, cause{"period", in.Period})
	if err != nil {
		return err
	}
	t.Offset = offset
	from, to := shownDays(rows, days, b.Bounds().DataDate)
	off := answer.Table{Code: "off", Picture: true, Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: []answer.Column{{Code: "calendar", Heading: "calendar", Kind: answer.Text},
			{Code: "day", Heading: "not worked on", Kind: answer.Day}}}
	known := map[*calendar.Calendar]bool{}
	for _, r := range shown {
		own := b.SiteCalendarAt(q.Calendar, r.Row).Calendar
		if !known[own] && !size.keeps() {
			known[own] = true
			for at := from; at <= to; at++ {
				if !own.Works(at) {
					off.Rows = append(off.Rows, answer.Row{Cells: []answer.Cell{answer.Words(own.Name()), answer.Words(at.String())}})
				}
			}
		}
		block, i := b.Locate(r.Row)
		age, closed := answer.Cell{}, ""
		if r.Told {
			age = lengthCell(float64(r.Age), q.Measure.Unit)
		}
		if r.Life.Close != 0 {
			closed = r.Life.Close.String()
		}
		t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{answer.Words(block.Numbers[i]), answer.Words(r.Life.Start.String()),
			answer.Words(closed), age, answer.Words(r.Fate.Reason(q.Leg, r.Life)),
			answer.Words(numfmt.Either(r.Life.Cancelled, "yes", "no")), answer.Words(r.Fate.String()), answer.Words(own.Name())}})
	}
	off.All = len(off.Rows)
	stretch := func(what string, from, to day.Day) answer.Row {
		return answer.Row{Cells: []answer.Cell{answer.Words(what), answer.Words(from.String()), answer.Words(to.String())}}
	}
	drawn := answer.Table{Code: "days", Picture: true, All: 2, Totals: []answer.Row{},
		Columns: []answer.Column{{Code: "what", Heading: "what", Kind: answer.Text}, {Code: "from", Heading: "from", Kind: answer.Day},
			{Code: "to", Heading: "to", Kind: answer.Day}},
		Rows: []answer.Row{stretch("period", days.From, days.LastDay()), stretch("shown", from, to)}}
	part := newPart("")
	part.Tables = append(part.Tables, t, off, drawn)
	one := *in
	one.Timeline, one.Sort, one.Page = false, backlog.ByStart, api.Page{}
	part.Notes = append(part.Notes, answer.Note{Code: "some-time", Text: numfmt.Counted(len(rows), "order") + " open at some time",
		Orders: len(rows), Behind: size.behindOf("open", &one).of("list", backlog.SomeTime)})
	d.Parts = append(d.Parts, part)
	return nil
}

// shownDays are the days that all bars need: from the period, or the earliest start not more than a quarter before it, to its
// end or the data date.
func shownDays(rows []backlog.TimelineRow, days day.Span, dataDate day.Day) (first, last day.Day) {
	first, last = days.From, days.LastDay()
	reach := max(14, day.Day(days.Days()))
	for _, r := range rows {
		first = min(first, max(r.Life.Start, days.From-reach))
		last = max(last, min(cmp.Or(r.Life.Close, dataDate), days.LastDay()+reach))
	}
	return first, last
}

// turn forgets what is of another version of the book. The mutex is held.
func (m *Backlog) turn(b *book.Book) {
	if m.daily == nil || m.version != b.Version() {
		m.version, m.daily, m.asked, m.timeline = b.Version(), map[string]*backlog.CumulativeFlow{}, "", nil
	}
}

// rowsOf are the rows of a timeline; those that were asked for last are remembered.
func (m *Backlog) rowsOf(b *book.Book, q backlog.Question, in *api.OpenQuestion) []backlog.TimelineRow {
	one := *in
	one.Page = api.Page{}
	asked := params.Values(&one).Encode()
	m.mutex.Lock()
	if m.version == b.Version() && m.asked == asked {
		defer m.mutex.Unlock()
		return m.timeline
	}
	m.mutex.Unlock()
	rows := backlog.Lanes(b, q, in.Sort)
	m.mutex.Lock()
	defer m.mutex.Unlock()
	m.turn(b)
	m.asked, m.timeline = asked, rows
	return rows
}

// openOrders are those behind a number of what was open.
func openOrders(b *book.Book, words url.Values) (*Orders, picks, error) {
	in := &api.OpenQuestion{}
	pick, err := read("open", in, words)
	if err != nil {
		return nil, pick, err
	}
	q, b, err := OpenQuestion(b, in)
	if err != nil {
		return nil, pick, err
	}
	unit, of := q.Measure.Unit, backlog.Pick{What: pick.take("list")}
	if len(q.Periods) > 1 && of.What != backlog.SomeTime {
		return nil, pick, request.Invalid("period", in.Period, "a list of orders takes one period, but for those open at some time")
	}
	asked := q.Question
	asked.Periods = []period.Period{period.All(b.Bounds())} // the period places nothing
	o := &Orders{Book: b, Question: duration.Question{Question: asked}}
	o.Selection.Keys, o.Selection.Note = pick.keys(), pick.take("note")
	if o.Selection.Placed, err = pick.placement(); err != nil {
		return nil, pick, err
	}
	var youngest, oldest api.Number
	if youngest, err = pick.number("youngest"); err != nil {
		return nil, pick, err
	}
	if oldest, err = pick.number("oldest"); err != nil {
		return nil, pick, err
	}
	of.Youngest, of.Oldest = youngest.In(unit.TicksAtLeast), oldest.In(unit.TicksAtMost)
	if o.Selection.Placed == query.Asked && o.Selection.Note == "" {
		test, err := backlog.Test(b, q, of)
		if err != nil {
			return nil, pick, err
		}
		o.Selection.Only = append(o.Selection.Only, test)
		o.Words = openWords(b.Bounds(), q, in.Period, of)
	}
	return o, pick, nil
}

// openWords say which of what was open is listed.
func openWords(bounds period.Bounds, q backlog.Question, asked string, of backlog.Pick) string {
	days, _ := backlog.Cut(q.Periods[0], bounds)
	stretch := cmp.Or(asked, q.Periods[0].Days())
	words := map[string]string{
		backlog.AtStart: "open at the start of " + stretch, backlog.OpenedIn: "opened in " + stretch,
		backlog.ClosedIn: "closed in " + stretch,
		backlog.AtEnd:    "open at the end of " + days.LastDay().String(), backlog.SomeTime: "open at some time in " + stretch,
		backlog.NotOpen:  "closed on the first day of " + stretch + ", or on the day on which they started",
		backlog.EverOpen: "with a start date",
	}[of.What]
	for f := range backlog.PeriodStates {
		if f.String() == of.What {
			words = f.Label(q.Leg) + ", in " + stretch
		}
	}
	unit := q.Measure.Unit
	if of.Youngest != nil {
		words += ", at least " + unit.Length(*of.Youngest) + " old"
	}
	if of.Oldest != nil {
		words += ", at most " + unit.Length(*of.Oldest) + " old"
	}
	return words
}
