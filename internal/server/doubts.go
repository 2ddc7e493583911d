package server

import (
	"context"
	"fmt"
	"strings"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/quality"
)

// recordWords are the titles and advice of doubts about other records than orders, by code.
var recordWords = map[string][2]string{
	"customer-without-orders":   {"customers without orders", "Listed, and in no order. Nothing is wrong where they are new."},
	"customer-not-listed":       {"customers of orders that are not in the list of customers", "Contact and telephone are missing. Load the newer list, or mend the spelling."},
	"product-not-listed":        {"products of lines that are not in the list of products", "Load the newer list, or mend the spelling."},
	"line-without-order":        {"lines of orders that have not come", "They wait, and count when their order comes."},
	"shipment-without-order":    {"shipments of orders that have not come", "They wait, and count when their order comes."},
	"payment-without-order":     {"payments for orders that have not come", "They wait, and count when their order comes."},
	"status-without-order":      {"orders with status records that have not come", "The records wait, and count when the order comes."},
	"receipt-twice":             {"receipts that stand with several orders", "One payment for several orders, or one typed twice? Each counts for its order."},
	"site-without-zone":         {"sites with times of day and without a zone", "A local time has no instant there: no hours, no cut-off. Load the zones of sites."},
	"place-without-coordinates": {"places without co-ordinates", "They cannot be drawn on a map."},
	"status-new":                {"status names that came with the last load for the first time", "Nothing is wrong where the way of working has changed; otherwise mend the spelling."},
	"status-not-listed":         {"statuses that are not in the list of statuses", "They have no place, no colour and are not final. Give them a place, or say of which status they are a spelling."},
	"status-without-time":       {"status records without a time of day, where others of their source have one", "On their day they count after those with a time."},
	"status-alike":              {"status names that are nearly equal", "Two spellings of one status are two statuses. Mend one."},
}

func (s *server) doubts(ctx context.Context, _ *struct{}) (*answered[api.Doubts], error) {
	b := s.snapshot(ctx)
	if last := s.doubted.Load(); last != nil && last.Version == b.Version() {
		return &answered[api.Doubts]{*last}, nil
	}
	body := api.Doubts{
		Sentence: fmt.Sprintf("What looks wrong in the records of %s, from %v to %v?", numfmt.Counted(b.Orders(), "order"), b.Bounds().FirstDay, b.Bounds().DataDate),
		Version:  b.Version(), Doubts: []api.Doubt{}, Milestones: []api.MilestoneKnown{},
	}
	for i, orders := range quality.Count(b) {
		if d := quality.All()[i]; orders > 0 {
			body.Doubts = append(body.Doubts, api.Doubt{Code: d.Code, Title: d.Title, Advice: d.Advice, Count: int64(orders), OfOrders: true, Examples: []string{}})
		}
	}
	body.Doubts = append(body.Doubts, calendarDoubts(b)...)
	records, err := s.Records.RecordDoubts(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	for _, d := range records {
		words := recordWords[d.Code]
		body.Doubts = append(body.Doubts, api.Doubt{Code: d.Code, Title: words[0], Advice: words[1], Count: d.Records, Examples: d.Examples})
	}
	for _, k := range quality.Milestones(b) {
		body.Milestones = append(body.Milestones, api.MilestoneKnown{Name: k.Milestone.Name, Plan: k.Milestone.Plan, Present: k.Present, Missing: k.Missing, Ahead: k.Ahead, Earliest: k.Earliest.String(), Latest: k.Latest.String()})
	}
	s.doubted.Store(&body)
	return &answered[api.Doubts]{body}, nil
}

// calendarDoubts are the calendars that end before the data, and the sites that have none.
func calendarDoubts(b *book.Book) (doubts []api.Doubt) {
	last := b.Bounds().DataDate
	ending := api.Doubt{Code: "calendar-ends", Title: "calendars whose holidays are not known up to the data date", Advice: "Lengths beyond follow the weekly pattern and say so. Load the newer calendar.", Examples: []string{}}
	orders := b.CountedBy()
	for i, c := range b.Calendars().All() {
		if orders[c] > 0 && i > 0 && !c.Known(last) {
			ending.Count++
			words := "no holidays"
			if known := c.CoverageWords(); known != "" {
				words = known
			}
			ending.Examples = append(ending.Examples, fmt.Sprintf("%s: %s", c.Name(), words))
		}
	}
	without := api.Doubt{Code: "site-without-calendar", Title: "sites without a calendar of their own", Advice: "Their orders are counted by the default calendar. Load a calendar of the name of the site, its region or its country.", Examples: []string{}}
	for code, site := range b.Values(book.Site) {
		if b.Locals(book.AtSite)[code].StandsIn && site != "" && !strings.EqualFold(site, book.DefaultCalendar) {
			without.Count++
			without.Examples = append(without.Examples, site)
		}
	}
	for _, d := range []api.Doubt{ending, without} {
		d.Examples = d.Examples[:min(len(d.Examples), shownExamples)]
		if d.Count > 0 {
			doubts = append(doubts, d)
		}
	}
	return doubts
}

// shownExamples is how many examples a doubt shows.
const shownExamples = 5
