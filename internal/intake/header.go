package intake

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/recognise"
	"prairiedusk/internal/record"
)

// maxParts is the most kinds that one file brings: rows of some kind, with their orders repeated beside them.
const maxParts = 2

// aliases are other words for columns, by kind where a word would mean something else elsewhere.
var aliases = map[string]string{"number": record.OrderColumn, "order-number": record.OrderColumn, "line-number": "line"}

// reserved words cannot name a column of the user's own: questions give them another meaning.
var reserved = []string{"week", "month", "quarter", "year", "number", "length", "state", "first-shipped", "first-delivered", "first-paid",
	"set-aside-because", "remarks", "highlight"}

// nameOf turns a header into a column's name: "Hive Colour" into hive-colour. One that ends in (plan) is a
// milestone that is a plan.
func nameOf(title string) (name string, plan bool) {
	name, plan = strings.CutSuffix(strings.ToLower(strings.TrimSpace(title)), "(plan)")
	words := strings.FieldsFunc(name, func(r rune) bool { return r == ' ' || r == '_' || r == '-' || r == '\t' })
	return strings.Join(words, "-"), plan
}

// mapHeader finds what kinds the file brings and what each column is for.
func (t *TableReader) mapHeader(known func(*record.Kind) []record.Extra, reading Reading) error {
	if len(t.header) > maxColumns {
		return fmt.Errorf("the header has %d columns; want at most %d", len(t.header), maxColumns)
	}
	names, plans, own := make([]string, len(t.header)), make([]bool, len(t.header)), make([]string, len(t.header))
	t.why = make([]string, len(t.header))
	var err error
	if t.layout, err = reading.find(t.header); err != nil {
		return err
	}
	t.said = reading.of(t.header, t.layout)
	for i, title := range t.header {
		t.header[i] = strings.TrimSpace(title)
		if !storable(title) {
			return fmt.Errorf("column %d of the header, %q, is not UTF-8 text; want the file saved as UTF-8", i+1, title)
		}
		if strings.Contains(title, "\r") {
			return fmt.Errorf("column %d of the header has a line end inside it, CR alone; want the file saved with lines that end in LF or CR LF", i+1)
		}
		names[i], plans[i] = nameOf(title)
		if alias, ok := aliases[names[i]]; ok {
			names[i] = alias
		}
		own[i] = names[i]
		plans[i] = plans[i] || t.said[i].Plan
		if said := t.said[i]; said.Means != "" {
			names[i], own[i], t.why[i] = said.Means, said.Means, said.why
		} else if meant := headings[plainHeading(title)]; len(meant) == 1 && (!plans[i] || isPlan(meant[0])) && !ofAnyKind(names[i]) &&
			!slices.Contains(names[:i], meant[0]) && !t.titledAs(meant[0]) {
			names[i], t.why[i] = meant[0], usualHeading
		}
		if t.said[i].Plan && ofAnyKind(names[i]) && !isPlan(names[i]) {
			return fmt.Errorf("column %q is said to hold plans, and %s holds none; say what else it means, such as promised", title,
				names[i])
		}
		if names[i] == LeftOut {
			names[i], own[i] = "", ""
		}
		if first := slices.Index(names[:i], names[i]); first >= 0 && names[i] != "" {
			return fmt.Errorf("%q and %q both mean %s; want one of them: say what the other means, or that it is left-out",
				t.header[first], t.header[i], names[i])
		}
	}
	t.keepToOrders(names, own)
	t.findNumbers(names)
	if q := t.askOfLog(names); q != nil {
		return Questions{q}
	}
	kind, err := kindOf(names)
	if q := t.askNumbers(names); err != nil && q != nil {
		return Questions{q}
	}
	if kinds := possibleKinds(names); len(kinds) > 1 {
		said := reading.Rows
		if said == "" && t.layout != nil {
			said = t.layout.Rows
		}
		i := slices.IndexFunc(kinds, func(k *record.Kind) bool { return k.Name == said })
		if i < 0 {
			return Questions{askKind(kinds)}
		}
		kind, t.rowsSaid = kinds[i], said
	}
	if err != nil {
		return fmt.Errorf("%w; the header has %s", err, quoteAll(t.header))
	}
	t.findParts(kind, names)
	t.takeAmounts(names, known)
	t.askCreated(names)
	t.askMeanings(names, own, plans)
	t.askTwice(names)
	t.meant, t.meantBy, t.own, t.plans = slices.Clone(names), slices.Clone(t.why), own, plans
	return t.assign(kind, names, known)
}

// findParts tells what a file brings by its kind and its columns.
func (t *TableReader) findParts(kind *record.Kind, names []string) {
	t.parts = []record.Part{{Kind: kind}}
	ofOrder := func(name string) bool {
		own, prefixed := strings.CutPrefix(name, record.OrderColumn+"-")
		return kind.Column(name) < 0 && record.Orders.Column(name) >= 0 || prefixed && t.numbering != numbered && own != ""
	}
	if kind.OfOrder() && kind != record.Orders && (t.valued || slices.ContainsFunc(names, ofOrder)) {
		t.parts = append(t.parts, record.Part{Kind: record.Orders})
	}
}

// assign says what each column is for, by what it means in a file of a kind.
func (t *TableReader) assign(kind *record.Kind, names []string, known func(*record.Kind) []record.Extra) error {
	t.findParts(kind, names)
	own, plans := t.own, t.plans
	t.names, t.unused, t.why = names, nil, slices.Clone(t.meantBy)
	t.use = make([]cellUse, len(t.header))
	for i, name := range names {
		if name != own[i] && !t.has(name) {
			name, names[i], t.why[i] = own[i], own[i], "" // what it means elsewhere it does not mean here
		}
		t.use[i] = t.useOf(name, plans[i], t.said[i].Fact, known)
		if t.why[i] == "" {
			t.why[i] = map[use]string{unused: "its heading means nothing here", asColumn: "its heading is its name",
				asExtra: "a column of your own"}[t.use[i].kind]
		}
		if t.use[i].kind == unused && t.said[i].Means != LeftOut {
			t.unused = append(t.unused, t.header[i])
		}
	}
	t.keyAt, t.daily = t.keyColumn(), false
	if kind == record.Statuses && !slices.Contains(names, "source") {
		i := slices.Index(names, "at")
		t.daily = slices.Contains(ofSnapshots, plainHeading(t.titles[i]))
	}
	for p := range t.parts {
		part := &t.parts[p]
		for c, column := range part.Kind.Columns {
			if c < part.Kind.Keys || slices.Contains(names, column.Name) && !(p > 0 && kind.Column(column.Name) >= 0) {
				part.Given = append(part.Given, c)
			}
		}
	}
	return nil
}

// usualHeading is why a column means what such columns do elsewhere.
const usualHeading = "its heading is usual for it"

// saidSo is why a column means what somebody has said.
const saidSo = "as said"

// askMeanings settles what columns mean whose heading can mean several things, where the others leave but one of them, and asks
// about the rest.
func (t *TableReader) askMeanings(names, own []string, plans []bool) {
	for i, title := range t.header {
		if plans[i] || t.said[i].Means != "" || ofAnyKind(own[i]) {
			continue
		}
		var left []string
		meant := headings[plainHeading(title)]
		for _, name := range meant {
			if !slices.Contains(names, name) && t.has(name) {
				left = append(left, name)
			}
		}
		switch {
		case len(meant) < 2 || len(left) == 0:
		case len(left) == 1:
			names[i], own[i], t.why[i] = left[0], left[0], "the other columns leave no other meaning"
		default:
			names[i], own[i] = "", ""
			t.open = append(t.open, &Question{Word: "map", Column: title, Asks: "it can be " + strings.Join(left[:len(left)-1], ", ") +
				" or " + left[len(left)-1] + ", and its heading does not tell which", Answers: append(left, LeftOut)})
		}
	}
}

// nameTwice gives headings that stand several times a name each: "Qty" and "Qty 2".
func (t *TableReader) nameTwice() {
	t.titles, t.twice = make([]string, len(t.header)), make([]int, len(t.header))
	firsts, times := map[string]int{}, map[string]int{}
	for i, title := range t.header {
		t.titles[i] = strings.TrimSpace(t.back(title))
		if plain := strings.ToLower(t.titles[i]); plain == "" || times[plain] == 0 {
			firsts[plain], times[plain] = i, 1
		}
	}
	for i, title := range t.titles {
		plain := strings.ToLower(title)
		t.twice[i], t.header[i] = i, title
		if title == "" || firsts[plain] == i {
			continue
		}
		t.twice[i] = firsts[plain]
		for taken := true; taken; {
			times[plain]++
			t.header[i] = fmt.Sprintf("%s %d", title, times[plain])
			_, taken = firsts[strings.ToLower(t.header[i])]
		}
	}
}

// keepToOrders leaves columns that number shipments or payments to the user, where the rows look like orders, which have a tracking
// number each or none as yet, or like a log of events.
func (t *TableReader) keepToOrders(names, own []string) {
	logged := slices.Contains(names, "status") && slices.Contains(names, "at")
	if !t.lookLikeOrders(names) && !logged {
		return
	}
	for i, name := range names {
		if (name == "shipment" || name == "receipt") && t.why[i] == usualHeading {
			names[i], t.why[i] = own[i], ""
		}
	}
}

// numbering headings can number whatever the rows are.
var numberHeadings = []string{"id", "no", "nr", "num", "ref", "reference", "document", "document no", "document number", "doc no"}

// lookLikeOrders says whether rows have an order date; the day on which they were made is one where they have something else that only
// orders have.
func (t *TableReader) lookLikeOrders(names []string) bool {
	created := t.created(names)
	return slices.ContainsFunc(names, func(name string) bool {
		at := slices.Index(names, name)
		if name == milestone.Ordered {
			return at != created
		}
		return created >= 0 && name != record.OrderColumn && record.Orders.Column(name) >= 0 && record.Shipments.Column(name) < 0 &&
			record.Payments.Column(name) < 0
	})
}

// findNumbers takes the one column whose heading can number anything for the numbers of orders, where the rows look like orders and no
// other column has them.
func (t *TableReader) findNumbers(names []string) {
	if !withoutNumbers(names) {
		return
	}
	found := -1
	for i, title := range t.titles {
		if slices.Contains(numberHeadings, plainHeading(title)) && !ofAnyKind(names[i]) && names[i] != "" {
			if found >= 0 {
				return
			}
			found = i
		}
	}
	if found >= 0 {
		names[found], t.why[found] = record.OrderColumn, "the rows look like orders, and nothing else numbers them"
	}
}

// withoutNumbers says that rows look like orders and that no column has their numbers.
func withoutNumbers(names []string) bool {
	return slices.ContainsFunc(names, ofOrders) && !slices.Contains(names, record.OrderColumn)
}

// askNumbers asks which column has the numbers of orders, where none is known to; nil where no column is left.
func (t *TableReader) askNumbers(names []string) *Question {
	if !withoutNumbers(names) {
		return nil
	}
	q := &Question{Word: "map", Asks: "the rows look like orders; which column has their numbers?"}
	for i, title := range t.header {
		if title != "" && !ofAnyKind(names[i]) && len(q.Answers) < maxAnswers {
			q.Answers = append(q.Answers, title+"="+record.OrderColumn)
		}
	}
	if len(q.Answers) == 0 {
		return nil
	}
	return q
}

// maxAnswers bounds those of a question.
const maxAnswers = 20

// createdHeadings are those of the day on which whatever the rows are was made: of an order the order date, of anything else not.
var createdHeadings = []string{"created", "created at", "created on", "date created", "creation date", "booked", "booked on", "booked at",
	"booked date", "booking date", "placed"}

// created is the column of the day on which the rows were made, by its heading alone; -1 where there is none.
func (t *TableReader) created(names []string) int {
	return slices.IndexFunc(t.titles, func(title string) bool {
		i := slices.Index(t.titles, title)
		return slices.Contains(createdHeadings, plainHeading(title)) && names[i] == milestone.Ordered && t.why[i] == usualHeading
	})
}

// askOfLog asks what the day is on which rows were made that have an order and a status and nothing else of an order: it can be that of
// the status; nil where that is not open.
func (t *TableReader) askOfLog(names []string) *Question {
	i := t.created(names)
	if i < 0 || !slices.Contains(names, "status") || slices.Contains(names, "at") {
		return nil
	}
	for j, name := range names {
		if j != i && name != record.OrderColumn && record.Orders.Column(name) >= 0 {
			return nil // the rows are orders
		}
	}
	return &Question{Word: "map", Column: t.header[i], Asks: "is it the day of the status, or that of the order?",
		Answers: []string{"at", milestone.Ordered, LeftOut}}
}

// askCreated asks what the day is on which the rows of a file of shipments, payments or status records were made: hardly that of the
// order.
func (t *TableReader) askCreated(names []string) {
	own := map[*record.Kind]string{record.Payments: milestone.Paid, record.Shipments: milestone.Shipped,
		record.Statuses: "at"}[t.parts[0].Kind]
	i := t.created(names)
	if own == "" || i < 0 {
		return
	}
	answers := []string{milestone.Ordered, LeftOut}
	if !slices.Contains(names, own) {
		answers = append([]string{own}, answers...)
	}
	names[i] = ""
	t.open = append(t.open, &Question{Word: "map", Column: t.header[i],
		Asks: "it is the day on which something was made; which one is it here?", Answers: answers})
}

// takeAmounts takes a column amount for the value of orders or lines, where the file has no other; it is ours in payments alone. There
// a heading that is usual for values is that of the amounts.
func (t *TableReader) takeAmounts(names []string, known func(*record.Kind) []record.Extra) {
	const amount, value = "amount", "value"
	if at := slices.Index(names, value); t.parts[0].Kind == record.Payments && at >= 0 && t.why[at] == usualHeading &&
		!slices.Contains(names, amount) {
		names[at] = amount
		return
	}
	i := slices.Index(names, amount)
	kind := t.parts[0].Kind
	if i < 0 || kind != record.Orders && kind != record.Lines || t.said[i].Means != "" || slices.Contains(names, value) ||
		slices.Contains(names, "line-value") ||
		slices.ContainsFunc(known(kind), func(e record.Extra) bool { return e.Name == amount }) {
		return
	}
	if t.why[i] = usualHeading; kind == record.Lines {
		names[i] = "line-value"
	} else {
		names[i] = value
	}
}

// has says whether the file brings a kind with such a column of ours.
func (t *TableReader) has(name string) bool {
	return slices.ContainsFunc(t.parts, func(part record.Part) bool { return part.Kind.Column(name) >= 0 })
}

// askTwice asks what a column means whose heading another has that means something here.
func (t *TableReader) askTwice(names []string) {
	for i, first := range t.twice {
		if first != i && t.said[i].Means == "" && t.has(names[first]) {
			own := names[i]
			names[i] = ""
			t.open = append(t.open, &Question{Word: "map", Column: t.header[i],
				Asks:    fmt.Sprintf("the heading %q stands twice, and the first of them is taken for %s", t.titles[first], names[first]),
				Answers: []string{LeftOut, own}})
		}
	}
}

// isPlan says whether a milestone of ours is a plan.
func isPlan(name string) bool {
	return slices.ContainsFunc(milestone.BuiltIn(), func(m milestone.Milestone) bool { return m.Name == name && m.Plan })
}

// titledAs says whether some column is the very one of a name: by its heading, or since somebody has said so.
func (t *TableReader) titledAs(name string) bool {
	for i, title := range t.header {
		if own, _ := nameOf(title); own == name || aliases[own] == name || t.said[i].Means == name {
			return true
		}
	}
	return false
}

// ofAnyKind says whether a name is that of a column of some kind.
func ofAnyKind(name string) bool {
	return slices.ContainsFunc(record.Kinds(), func(kind *record.Kind) bool { return kind.Column(name) >= 0 })
}

// useOf says what a column is for, and gives its part an extra column where it is one of the user's own.
func (t *TableReader) useOf(name string, plan, fact bool, known func(*record.Kind) []record.Extra) cellUse {
	for p, part := range t.parts {
		if c := part.Kind.Column(name); c >= 0 {
			return cellUse{p, c, asColumn}
		}
	}
	// In a file of several kinds, order- and line- say whose a column is.
	p := 0
	for i, part := range t.parts {
		if own, ok := strings.CutPrefix(name, part.Kind.Columns[part.Kind.Keys-1].Name+"-"); ok && len(t.parts) > 1 && part.Kind.Extras &&
			!t.has(own) {
			p, name = i, own
		}
	}
	part := &t.parts[p]
	if name == "" || !part.Kind.Extras || slices.Contains(reserved, name) || part.Kind.Column(name) >= 0 || len(name) > maxExtraName {
		return cellUse{}
	}
	extra := &record.Extra{Name: name, Known: plan, Milestone: plan, Plan: plan || !fact && isPlanned(name)}
	for _, earlier := range known(part.Kind) {
		if earlier.Name == name {
			*extra = earlier // what a column holds stays so
		}
	}
	part.Extras = append(part.Extras, extra)
	return cellUse{p, len(part.Extras) - 1, asExtra}
}

const maxExtraName = 60

// planned are words of columns whose days are plans, in English, German, French, Spanish, Italian, Portuguese, Dutch and Polish, in
// small letters without accents.
var planned = strings.Fields(`requested request required req wanted wish promised promise due expected planned plan target scheduled estimated est eta etd rdd deadline
	soll geplant gewunscht wunsch wunschtermin zugesagt erwartet voraussichtlich
	prevu prevue souhaite souhaitee promis promise estime estimee
	previsto prevista solicitado solicitada prometido prometida estimado estimada
	richiesto richiesta promesso promessa stimato
	pedido desejado desejada prometida
	gewenst gepland verwacht beloofd
	planowana planowany oczekiwana zadana obiecana`)

// isPlanned says whether the name of a column says that its days are plans.
func isPlanned(name string) bool {
	return slices.ContainsFunc(strings.FieldsFunc(name, func(r rune) bool { return r == '-' || r == '.' || r == '_' }),
		func(word string) bool { return slices.Contains(planned, recognise.Plain(word)) })
}

// kindOf tells what the rows of a file are by its columns.
func kindOf(names []string) (*record.Kind, error) {
	has := func(name string) bool { return slices.Contains(names, name) }
	if has(record.OrderColumn) {
		switch {
		case has("status") && has("at"):
			return record.Statuses, nil
		case has("shipment"):
			return record.Shipments, nil
		case has("receipt"):
			return record.Payments, nil
		case has("line"):
			return record.Lines, nil
		}
		return record.Orders, nil
	}
	if i := slices.IndexFunc(names, ofOrders); i >= 0 {
		return nil, fmt.Errorf("these look like orders, by their column %q, and no column has their numbers: want a column order (or number)", names[i])
	}
	for _, name := range names {
		for _, kind := range []*record.Kind{record.Customers, record.Products, record.Sites, record.Places, record.StatusList} {
			if kind.Columns[0].Name == name {
				return kind, nil
			}
		}
	}
	return nil, errors.New("cannot tell what the rows are: want a column order (or number) for orders and what belongs to them, or customer, product, site, place or status for a list of those")
}

// possibleKinds are what the rows of a file with order numbers can be by the other keys that it has, where those are of several kinds. A
// shipment of a line has the keys of both.
func possibleKinds(names []string) (kinds []*record.Kind) {
	has := func(name string) bool { return slices.Contains(names, name) }
	if !has(record.OrderColumn) {
		return nil
	}
	if has("status") && has("at") {
		kinds = append(kinds, record.Statuses)
	}
	if has("shipment") {
		kinds = append(kinds, record.Shipments)
	}
	if has("receipt") {
		kinds = append(kinds, record.Payments)
	}
	if has("line") && !has("shipment") {
		kinds = append(kinds, record.Lines)
	}
	return kinds
}

// askKind asks what the rows of a file are.
func askKind(kinds []*record.Kind) *Question {
	q := &Question{Word: "rows"}
	nouns := make([]string, len(kinds))
	for i, k := range kinds {
		q.Answers, nouns[i] = append(q.Answers, k.Name), "a "+k.Noun
		if strings.HasPrefix(k.Noun, "o") {
			nouns[i] = "an " + k.Noun
		}
	}
	q.Asks = "the rows have the keys of several kinds of records; is a row " + strings.Join(nouns[:len(nouns)-1], ", ") + " or " +
		nouns[len(nouns)-1] + "?"
	return q
}

// ofOrders says whether a column is one that orders have and no list of anything.
func ofOrders(name string) bool {
	c := record.Orders.Column(name)
	return c >= 0 && (record.Orders.Columns[c].Type == record.Day || record.Orders.Columns[c].Type == record.Money)
}

func quoteAll(texts []string) string {
	const most = 20
	quoted := make([]string, 0, most+1)
	for i, text := range texts {
		if i == most {
			quoted = append(quoted, fmt.Sprintf("and %d more", len(texts)-most))
			break
		}
		quoted = append(quoted, fmt.Sprintf("%q", text))
	}
	return strings.Join(quoted, ", ")
}
