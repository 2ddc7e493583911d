package present

import (
	"cmp"
	"fmt"
	"net/url"
	"slices"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/quality"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
)

// A RecordIssue is something that looks wrong with other records than orders, by its code.
type RecordIssue struct {
	Code     string
	Records  int64
	Examples []string // a few
}

// recordWords are the titles and advice of issues with other records than orders, by code.
var recordWords = map[string]struct{ title, advice string }{
	"customer-without-orders": {"customers without orders", "Listed, and in no order. Nothing is wrong where they are new."},
	"customer-not-listed": {"customers of orders that are not in the list of customers",
		"Contact and telephone are missing. Load the newer list, or correct the spelling."},
	"product-not-listed":     {"products of lines that are not in the list of products", "Load the newer list, or correct the spelling."},
	"line-without-order":     {"lines of orders that are not in the book", "They are kept, and count once their order is imported."},
	"shipment-without-order": {"shipments of orders that are not in the book", "They are kept, and count once their order is imported."},
	"payment-without-order":  {"payments for orders that are not in the book", "They are kept, and count once their order is imported."},
	"status-without-order":   {"orders with status records that are not in the book", "The records are kept, and count once the order is imported."},
	"receipt-twice": {"receipts with several orders",
		"One payment for several orders, or one typed twice? Each counts for its order."},
	"site-without-zone": {"sites with times of day and without a zone",
		"A local time has no instant there: no hours, no cut-off. Load the zones of sites."},
	"place-without-coordinates": {"places without co-ordinates", "They cannot be drawn on a map."},
	"status-new": {"status names that came with the last load for the first time",
		"Nothing is wrong where the way of working has changed; otherwise correct the spelling."},
	"status-not-listed": {"statuses that are not in the list of statuses",
		"They have no place, no colour and are not final. Give them a place, or say of which status they are a spelling."},
	"status-without-time": {"status records without a time of day, where others of their source have one",
		"On their day they count after those with a time."},
	"status-alike": {"status names that are nearly equal", "Two spellings of one status are two statuses. Correct one."},
}

// What is to be done about an issue.
const (
	doCorrect = "correct the records"
	doImport  = "import what is missing"
	doSettle  = "find out which source is right"
	doPlace   = "settle it in the list of statuses"
	doNothing = "nothing, if it is so"
)

// ofOrders begins the title of an issue with orders.
const ofOrders = "orders: "

// toDo is what is to be done about issues, by code; the others are records to be corrected.
var toDo = map[string]string{
	"no-ordered-day": doImport, "ordered-without-time": doImport, "delivered-without-shipped": doImport, "no-site": doImport,
	"no-customer": doImport, "no-currency": doImport, "no-lines": doImport, "cancelled-units-undated": doImport,
	"completeness-unknown": doImport, "payment-unclear": doImport, "customer-not-listed": doImport, "product-not-listed": doImport,
	"line-without-order": doImport, "shipment-without-order": doImport, "payment-without-order": doImport,
	"status-without-order": doImport, "site-without-zone": doImport, "place-without-coordinates": doImport,
	"status-without-time": doImport, "calendar-ends": doImport, "site-without-calendar": doImport,

	"shipped-differs": doSettle, "delivered-differs": doSettle, "paid-differs": doSettle, "status-ambiguous": doSettle,
	"status-sources-differ": doSettle, "status-latest-differs": doSettle, "status-milestone-differs": doSettle,
	"cancelled-after-shipped": doSettle, "shipped-after-cancelled": doSettle,

	"status-new": doPlace, "status-not-listed": doPlace, "status-alike": doPlace,

	"customer-without-orders": doNothing,
}

// Quality says what looks wrong in the records, and how far each date is recorded.
func Quality(b *book.Book, records []RecordIssue) *answer.Document {
	d, part := newDocument(b, "quality", query.Sentence{query.Part("",
		fmt.Sprintf("What looks wrong in the records of %s, from %v to %v?", numfmt.Counted(b.Orders(), "order"), b.Bounds().FirstDay,
			b.Bounds().DataDate))}), newPart("")
	issues := answer.Table{Code: "issues", Rows: []answer.Row{}, Totals: []answer.Row{}, Columns: []answer.Column{
		{Code: "do", Heading: "what to do", Kind: answer.Text}, {Code: "count", Heading: "count", Kind: answer.Count},
		{Code: "what", Heading: "what", Kind: answer.Text},
		{Code: "code", Heading: "code", Kind: answer.Text, Folded: true},
		{Code: "advice", Heading: "what follows, and how", Kind: answer.Text},
		{Code: "examples", Heading: "examples", Kind: answer.Text}}}
	add := func(count answer.Cell, code, title, advice string, examples []string, all int) {
		words := strings.Join(examples, "; ")
		if all > len(examples) && len(examples) > 0 {
			words += "; …"
		}
		issues.Rows = append(issues.Rows, answer.Row{Cells: []answer.Cell{answer.Words(cmp.Or(toDo[code], doCorrect)), count,
			answer.Words(title), answer.Words(code), answer.Words(advice), answer.Words(words)}})
	}
	to := ToRead.behindOf("quality", &struct{}{})
	for i, orders := range quality.Count(b) {
		if q := quality.All()[i]; orders > 0 {
			add(answer.Orders(orders, to.of("code", q.Code)), q.Code, ofOrders+q.Title, q.Advice, nil, 0)
		}
	}
	for _, r := range append(calendarIssues(b), records...) {
		words, known := recordWords[r.Code]
		if !known {
			words = calendarWords[r.Code]
		}
		add(answer.Whole(int(r.Records)), r.Code, words.title, words.advice, r.Examples, int(r.Records))
	}
	// What is to be done first touches the figures of the most orders; of it, what touches the most comes first.
	touches := func(r answer.Row) float64 {
		if strings.HasPrefix(r.Cells[2].Text, ofOrders) {
			return *r.Cells[1].Number
		}
		return 0
	}
	most := map[string]float64{}
	for _, r := range issues.Rows {
		most[r.Cells[0].Text] = max(most[r.Cells[0].Text], touches(r))
	}
	slices.SortStableFunc(issues.Rows, func(x, y answer.Row) int {
		return cmp.Or(cmp.Compare(most[y.Cells[0].Text], most[x.Cells[0].Text]), cmp.Compare(x.Cells[0].Text, y.Cells[0].Text),
			cmp.Compare(touches(y), touches(x)), cmp.Compare(*y.Cells[1].Number, *x.Cells[1].Number))
	})
	issues.All = len(issues.Rows)
	if len(issues.Rows) == 0 {
		part.Notes = append(part.Notes, answer.Note{Code: "nothing", Text: "nothing looks wrong"})
	}
	part.Tables = append(part.Tables, issues, datesTable(b))
	d.Parts = append(d.Parts, part)
	return d
}

// datesTable says how far each date is recorded.
func datesTable(b *book.Book) answer.Table {
	t := answer.Table{Code: "dates", Title: "How far each date is recorded", Rows: []answer.Row{}, Totals: []answer.Row{},
		Columns: []answer.Column{
			{Code: "date", Heading: "date", Kind: answer.Text}, {Code: "kind", Heading: "is a", Kind: answer.Text},
			{Code: "present", Heading: "orders with it", Kind: answer.Count}, {Code: "missing", Heading: "without", Kind: answer.Count},
			{Code: "ahead", Heading: "after the data date", Kind: answer.Count},
			{Code: "earliest", Heading: "earliest", Kind: answer.Day}, {Code: "latest", Heading: "latest", Kind: answer.Day}}}
	for _, k := range quality.Milestones(b) {
		t.Rows = append(t.Rows, answer.Row{Cells: []answer.Cell{answer.Words(k.Milestone.Date()),
			answer.Words(numfmt.Either(k.Milestone.Plan, "plan", "fact")),
			answer.Whole(k.Present), answer.Whole(k.Missing), answer.Whole(k.Ahead), answer.Words(k.Earliest.String()),
			answer.Words(k.Latest.String())}})
	}
	t.All = len(t.Rows)
	return t
}

// shownExamples is how many examples an issue shows.
const shownExamples = 5

var calendarWords = map[string]struct{ title, advice string }{
	"calendar-ends": {"calendars whose holidays are not known up to the data date",
		"Lengths beyond follow the weekly pattern and say so. Load the newer calendar."},
	"site-without-calendar": {"sites without a calendar of their own",
		"Their orders are counted by the default calendar. Load a calendar of the name of the site, its region or its country."},
}

// calendarIssues are the calendars that end before the data, and the sites that have none.
func calendarIssues(b *book.Book) (issues []RecordIssue) {
	ending, without, orders := RecordIssue{Code: "calendar-ends"}, RecordIssue{Code: "site-without-calendar"}, b.CountedBy()
	for i, c := range b.Calendars().All() {
		if orders[c] > 0 && i > 0 && !c.Known(b.Bounds().DataDate) {
			ending.Records++
			words := "no holidays"
			if known := c.CoverageWords(); known != "" {
				words = known
			}
			ending.Examples = append(ending.Examples, c.Name()+": "+words)
		}
	}
	for code, site := range b.Values(book.Site) {
		if b.Locals(book.AtSite)[code].StandsIn && site != "" && !strings.EqualFold(site, book.DefaultCalendar) {
			without.Records++
			without.Examples = append(without.Examples, site)
		}
	}
	for _, i := range []RecordIssue{ending, without} {
		if i.Examples = i.Examples[:min(len(i.Examples), shownExamples)]; i.Records > 0 {
			issues = append(issues, i)
		}
	}
	return issues
}

// qualityOrders are those of one kind of issue.
func qualityOrders(b *book.Book, words url.Values) (*Orders, picks, error) {
	pick, err := read("quality", &struct{}{}, words)
	if err != nil {
		return nil, pick, err
	}
	code := pick.take("code")
	test, known := quality.Test(b, code)
	if !known {
		return nil, pick, request.Invalid("code", code, "nothing that can look wrong with orders; `prairie-dusk quality` lists it")
	}
	q, err := query.Parse(b, query.Request{})
	if err != nil {
		return nil, pick, err
	}
	q.Periods = []period.Period{period.All(b.Bounds())}
	o := &Orders{Book: b, Question: duration.Question{Question: q}}
	o.Selection.Only = append(o.Selection.Only, test)
	for _, issue := range quality.All() {
		if issue.Code == code {
			o.Words = issue.Title
		}
	}
	return o, pick, nil
}
